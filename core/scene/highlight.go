package scene

import (
	"math"

	"ivypocket/core/geom"
	"ivypocket/core/scheme"
	"ivypocket/core/words"
)

// high is a highlighter of a layer's words, with how it differs from line to line.
type high struct {
	thing
	lines []thing
}

// stretch is what a highlighter marks of one line.
type stretch struct {
	line     int
	from, to float64 // from left to right
	rtl      bool
}

// marked are the stretches of the words that a highlighter is of, in the order in which they are
// read.
func (h *high) marked(text string, v *words.Setting) (out []stretch) {
	from, to, ok := words.Find(text, h.Text(scheme.HighPhrase), int(h.Number(scheme.HighWord)), int(h.Number(scheme.HighWords)))
	if !ok {
		return nil
	}
	for i := range v.Letters {
		m := &v.Letters[i]
		if m.From < from || m.From >= to || m.Blank && (m.From == from || m.To >= to) {
			continue
		}
		if n := len(out); n == 0 || out[n-1].line != m.Line {
			out = append(out, stretch{m.Line, m.X, m.X + m.Advance, m.RTL})
			continue
		}
		s := &out[len(out)-1]
		s.from, s.to = math.Min(s.from, m.X), math.Max(s.to, m.X+m.Advance)
	}
	return out
}

// highlights lists those that lie behind the words, or over them.
func (d *Drawing) highlights(v *words.Setting, above bool) {
	text := d.w.s.wordings[d.l.words].spec.Text
	for k := range d.l.highs {
		h := &d.l.highs[k]
		n := d.st.slots[h.slot:]
		if n[scheme.HighOff.Slot()] != 0 || (n[scheme.HighAbove.Slot()] != 0) != above {
			continue
		}
		list := h.marked(text, v)
		all := 0.0
		for i := range list {
			all += list[i].to - list[i].from
		}
		// What is left of the way, from word to word.
		left := all * math.Max(0, math.Min(1, n[scheme.HighSwept.Slot()]))
		for i, s := range list {
			long := math.Min(left, s.to-s.from)
			if left <= 0 {
				break
			}
			left -= long
			d.highlight(h, v, s, i, long/(s.to-s.from))
		}
	}
}

// highlight lists one line of a highlighter, as far as it has come there.
func (d *Drawing) highlight(h *high, v *words.Setting, s stretch, nth int, swept float64) {
	n := d.st.slots[h.slot:]
	colour, thick, over := colourOf(n[scheme.HighColour.Slot():]), n[scheme.HighThick.Slot()], n[scheme.HighOver.Slot()]
	if len(h.lines) > 0 {
		t := &h.lines[min(nth, len(h.lines)-1)]
		m := d.st.slots[t.slot:]
		if t.Given(scheme.LineColour) || t.Moves(scheme.LineColour) {
			colour = colourOf(m[scheme.LineColour.Slot():])
		}
		if m[scheme.LineThick.Slot()] > 0 {
			thick = m[scheme.LineThick.Slot()]
		}
		if t.Given(scheme.LineOver) || t.Moves(scheme.LineOver) {
			over = m[scheme.LineOver.Slot()]
		}
	}
	if thick <= 0 {
		thick = scheme.Suits[h.Kind]
	}
	line := v.Lines[s.line]
	size := v.Size
	rise := n[scheme.HighRise.Slot()] * size
	x0, x1 := s.from-over*size, s.to+over*size
	if s.rtl {
		x0 = x1 - (x1-x0)*swept
	} else {
		x1 = x0 + (x1-x0)*swept
	}
	box := geom.Box{X: x0, W: x1 - x0}
	pen := thick * size
	switch h.Kind {
	case scheme.Sweep:
		box.H = thick * (line.Bottom - line.Top)
		box.Y = (line.Top+line.Bottom)/2 - box.H/2 - rise
	case scheme.Underline:
		box.H = pen
		box.Y = line.Baseline + 0.1*size - rise
	case scheme.Strike:
		box.H = pen
		box.Y = line.Baseline - 0.28*size - pen/2 - rise
	case scheme.WordBox:
		box.Y, box.H = line.Top-over*size/2-rise, line.Bottom-line.Top+over*size
	}
	if !(box.W > 0 && box.H > 0) {
		return
	}
	it := d.Item
	it.Form = geom.Form{Kind: geom.Rectangle, Size: box.Size()}
	if round := n[scheme.HighRound.Slot()]; round > 0 {
		r := round * math.Min(box.W, box.H) / 2
		it.Form.Radii = [4]float64{r, r, r, r}
	}
	it.Map = geom.Translate(box.X, box.Y).Flat().Then(it.Map)
	quad, ok := it.Map.Quad(geom.Box{W: box.W, H: box.H})
	if !ok {
		return
	}
	it.Box = geom.Bounds(quad[:]...)
	it.Kind, it.Colour = FillItem, colour
	if h.Kind == scheme.WordBox {
		it.Kind, it.Pen, it.Part = StrokeItem, geom.Pen{Width: pen, Join: geom.Miter, MiterLimit: 4}, [2]float64{0, 1}
		sx, sy := it.Map.Stretch(geom.Box{W: box.W, H: box.H})
		it.Box = grown(it.Box, pen*sx, pen*sy)
	}
	if d.w.seen(it.Box) {
		d.Put(it)
	}
}
