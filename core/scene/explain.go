package scene

import (
	"fmt"
	"io"
	"math"
	"strconv"
	"strings"

	"ivypocket/core/geom"
	"ivypocket/core/raster"
)

// Explain writes the list as text for people: what is drawn, the lowest first,
// what is inside what, and for each item the hash of all that it draws.
func (l *List) Explain(w io.Writer) error {
	l.sign()
	e := explainer{l: l, w: w}
	e.line(0, "%d × %d px, %s", l.Size.W, l.Size.H, l.Address())
	e.items(0, l.Main, 0)
	if l.Main < len(l.Items) {
		e.line(0, "mattes")
		e.items(l.Main, len(l.Items), 0)
	}
	return e.err
}

type explainer struct {
	l   *List
	w   io.Writer
	err error
}

func (e *explainer) line(depth int, format string, args ...any) {
	if e.err == nil {
		_, e.err = fmt.Fprintf(e.w, "%s%s\n", strings.Repeat("  ", depth), fmt.Sprintf(format, args...))
	}
}

func (e *explainer) items(from, to, depth int) {
	for i := from; i < to; i += 1 + e.l.Items[i].Span {
		e.item(i, depth)
		e.items(i+1, i+1+e.l.Items[i].Span, depth+1)
	}
}

// short is a number for people, to a thousandth.
func short(v float64) string {
	v = math.Round(v*1000) / 1000
	return strconv.FormatFloat(v+0, 'f', -1, 64)
}

func shorts(vs ...float64) string {
	s := make([]string, len(vs))
	for i, v := range vs {
		s[i] = short(v)
	}
	return strings.Join(s, " ")
}

func hexColour(c [4]uint8) string {
	if c[3] == 255 {
		return fmt.Sprintf("#%02x%02x%02x", c[0], c[1], c[2])
	}
	return fmt.Sprintf("#%02x%02x%02x%02x", c[0], c[1], c[2], c[3])
}

func formText(f *geom.Form, m geom.Projective) string {
	s := fmt.Sprintf("%s %s × %s", f.Kind, short(f.Size.W), short(f.Size.H))
	if r, ok := f.IsBox(); ok && r > 0 {
		s += " radius " + short(r)
	} else if f.Kind == geom.Rectangle && !ok {
		s += " radii " + shorts(f.Radii[:]...)
	}
	if m.IsFlat() {
		return s + " by matrix(" + shorts(m.A, m.B, m.C, m.D, m.E, m.F) + ")"
	}
	return s + " by matrix3d(" + shorts(m.A, m.B, 0, m.G, m.C, m.D, 0, m.H, 0, 0, 1, 0, m.E, m.F, 0, m.I) + ")"
}

func (it *Item) paintText() string {
	if it.Gradient == nil {
		return hexColour(it.Colour)
	}
	return fmt.Sprintf("%s from (%s) to (%s)", it.Gradient, shorts(it.From.X, it.From.Y), shorts(it.To.X, it.To.Y))
}

func (e *explainer) item(i, depth int) {
	it := &e.l.Items[i]
	s := fmt.Sprintf("%d %s", i, kindNames[it.Kind])
	if it.Layer != "" {
		s += " of layer " + it.Layer
	}
	if it.Pocket != "" {
		s += ", pocket " + it.Pocket
	}
	e.line(depth, "%s  [%s]", s, it.hash)
	depth++
	var parts []string
	if it.Opacity < 1 {
		parts = append(parts, "opacity "+short(it.Opacity))
	}
	if it.Blend != raster.Normal {
		parts = append(parts, "blend "+it.Blend.String())
	}
	if it.Kind == GroupItem {
		parts = append(parts, map[bool]string{true: "isolated", false: "on its backdrop"}[it.Isolated])
	}
	if it.Box.Size().Empty() {
		parts = append(parts, "nothing to be seen")
	} else {
		parts = append(parts, fmt.Sprintf("within %s, %s to %s, %s", short(it.Box.X), short(it.Box.Y), short(it.Box.X+it.Box.W), short(it.Box.Y+it.Box.H)))
	}
	e.line(depth, "%s", strings.Join(parts, "; "))
	switch it.Kind {
	case FillItem:
		e.line(depth, "%s, %s", it.paintText(), formText(&it.Form, it.Map))
	case GroundItem:
		e.line(depth, "%s", it.paintText())
	case StrokeItem:
		t := fmt.Sprintf("%s, %s px wide", hexColour(it.Colour), short(it.Pen.Width))
		t += map[int8]string{-1: ", inside", 1: ", outside"}[it.Align]
		if it.Part != [2]float64{0, 1} {
			t += fmt.Sprintf(", from %s to %s of its length", short(it.Part[0]), short(it.Part[1]))
		}
		if len(it.Dash) > 0 {
			t += ", dashes " + shorts(it.Dash...)
		}
		e.line(depth, "%s, along %s", t, formText(&it.Form, it.Map))
	case PictureItem:
		t := it.Media
		if len(t) > 19 {
			t = t[:19] + "…"
		}
		if !it.Still {
			t += fmt.Sprintf(" frame %d", it.Frame)
		}
		c := it.Content
		e.line(depth, "%s, %s × %s px by matrix(%s) into %s", t, short(it.MediaSize.W), short(it.MediaSize.H), shorts(c.A, c.B, c.C, c.D, c.E, c.F), formText(&it.Form, it.Map))
		if it.Edges {
			e.line(depth, "its edges may be seen")
		}
	case GradeItem:
		e.line(depth, "slope %s; offset %s; power %s; saturation %s", shorts(it.Grade.Slope[:]...), shorts(it.Grade.Offset[:]...), shorts(it.Grade.Power[:]...), short(it.Grade.Saturation))
	}
	for _, s := range it.Steps {
		if s.Masks[0] == s.Masks[1] {
			e.line(depth, "%s", s)
			continue
		}
		e.line(depth, "%s, where these leave it:", s)
		e.masks(depth+1, s.Masks)
	}
	e.masks(depth, it.Masks)
	if it.Matte > 0 {
		t := "alpha"
		if it.Luma {
			t = "luma"
		}
		if it.InvertMatte {
			t = "inverted " + t
		}
		e.line(depth, "cut by the %s of item %d", t, it.Matte)
	}
}

// masks writes masks of the list, from one number up to another.
func (e *explainer) masks(depth int, of [2]int) {
	for k := of[0]; k < of[1]; k++ {
		m := &e.l.Masks[k]
		t := "mask " + m.Mode.String()
		if m.Invert {
			t += " inverted"
		}
		if m.In > 0 || m.Out > 0 {
			t += fmt.Sprintf(", soft by %s inwards and %s outwards", short(m.In), short(m.Out))
		}
		if m.Growth != 0 {
			t += ", grown by " + short(m.Growth)
		}
		if m.Opacity < 1 {
			t += ", opacity " + short(m.Opacity)
		}
		e.line(depth, "%s, %s", t, formText(&m.Form, m.Map))
	}
}
