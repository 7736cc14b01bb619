package craft

import (
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"

	"ivypocket/core/edit"
	"ivypocket/core/geom"
	"ivypocket/core/scheme"
	"ivypocket/core/template"
)

// Single values, and what goes with them.
func init() {
	register(
		row{"rest", "`path`, `value`", "sets one value, with what goes with it; no value leaves it out. A length in px is written in the unit it has", rest},
		row{"unit", "`path` of a length, or `layers` (all of theirs); `way`: `px`, `share`",
			"writes lengths in px, or in shares of the canvas’ shorter side; where they are looked at they stay as they are", unit},
	)
}

// rest sets one value, in all formats or in this one alone. What goes with it comes
// along: a stroke has a width, a star its points; and what goes without it goes.
func rest(b *bench, a Act) error {
	format := ""
	if a.Apart {
		format = a.Format
	}
	if a.Value != nil && b.records(a.Path) {
		b.title = "Record " + b.doc.Called(a.Path)
		return b.recordAs(a.Path, *a.Value)
	}
	if err := b.throughPath(&a); err != nil {
		return err
	}
	b.title = "Set " + b.doc.Called(a.Path)
	if a.Value == nil {
		b.title = "Reset " + b.doc.Called(a.Path)
	}
	t, err := b.doc.Find(a.Path)
	if err != nil {
		return fmt.Errorf("path: %w", err)
	}
	if t.Property.Plain || t.Property.Shared {
		format = "" // it is the same in all
	}
	if t.Node != nil && a.Value != nil {
		if s, err := b.instead(a.Path, t.Node, t.Property); err != nil {
			return err
		} else if s != nil {
			b.title = "Shift " + b.doc.Called(a.Path)
			return b.shifted(s, *a.Value)
		}
	}
	a.Value = b.inItsUnit(a.Path, t, a.Value, format)
	b.add(edit.DraftOp{Kind: "set", Path: a.Path, Value: a.Value, Format: format})
	if n := t.Node; n != nil && format == "" && !strings.Contains(a.Path, inUse) && !strings.Contains(a.Path, "/motion/") && !t.Property.Free() {
		b.company(strings.TrimSuffix(a.Path, "/"+t.Property.Of(t.Part)), n, t.Property, a.Value)
	}
	return nil
}

// inItsUnit is a value in px as it is written: in shares of the canvas' shorter side where
// the property is written so now, or where it is new and the canvases differ in size.
func (b *bench) inItsUnit(path string, t template.Target, v *scheme.Value, format string) *scheme.Value {
	if v == nil || b.format == nil || !t.Property.InShares() || len(v.Numbers) == 0 || v.Shorter != 0 || t.Property.Type != scheme.Numbers {
		return v
	}
	old, given, err := b.doc.Get(path)
	if err != nil {
		return v
	}
	if own, ok := b.format.Rest[path]; ok && format != "" {
		old, given = own, true
	}
	out := b.written(t.Property, old, given, b.format, v.Numbers)
	out.Single = v.Single
	return &out
}

// unit writes lengths otherwise, in px or in shares of the canvas' shorter side; on the
// canvas that is looked at they stay as they are.
func unit(b *bench, a Act) error {
	if a.Way != "px" && a.Way != "share" {
		return errors.New("way: is neither px nor share")
	}
	if b.format == nil {
		return errors.New("format: say which format is looked at")
	}
	if err := b.throughPath(&a); err != nil {
		return err
	}
	paths := []string{a.Path}
	b.title = "Lengths in " + map[string]string{"px": "px", "share": "shares"}[a.Way] + " of " + b.called(a.Layers)
	if a.Path == "" {
		list, err := b.chosen()
		if err != nil {
			return err
		}
		in := map[string]bool{}
		for _, y := range list {
			within(y, func(y *template.Layer) { in[y.ID] = true })
		}
		paths = nil
		b.doc.VisitNodes(func(_, path string, n *template.Node) {
			if seg := strings.Split(path, "/"); seg[0] != "layers" || !in[seg[1]] {
				return
			}
			n.Values(func(p *scheme.Property, _ scheme.Value) {
				if p.InShares() && p.Type == scheme.Numbers {
					paths = append(paths, path+"/"+p.Name)
				}
			})
		})
	} else {
		t, err := b.doc.Find(a.Path)
		if err != nil {
			return fmt.Errorf("path: %w", err)
		}
		if !t.Property.InShares() || t.Property.Type != scheme.Numbers || t.Node == nil {
			return fmt.Errorf("path: %s is no length", b.doc.Called(a.Path))
		}
		b.title = "Write " + b.doc.Called(a.Path) + " in " + map[string]string{"px": "px", "share": "shares"}[a.Way]
	}
	for _, path := range paths {
		t, err := b.doc.Find(path)
		if err != nil {
			return err
		}
		for _, at := range sorted(b.format.Rest) {
			own := b.format.Rest[at]
			if at == path || strings.HasPrefix(at, path+".") {
				if v := otherwise(own, b.format.Canvas(), a.Way); !v.Equal(own) {
					b.add(edit.DraftOp{Kind: "set", Path: at, Value: &v, Format: b.format.ID})
				}
			}
		}
		old, given, err := b.doc.Get(path)
		if err != nil {
			return err
		}
		if v := otherwise(old, b.format.Canvas(), a.Way); given && !v.Equal(old) && t.Part < 0 {
			b.add(edit.DraftOp{Kind: "set", Path: path, Value: &v})
		}
	}
	return nil
}

// otherwise is a value of lengths in px, or in shares of a canvas' shorter side.
func otherwise(v scheme.Value, canvas geom.Size, way string) scheme.Value {
	out := v.Resolved(canvas)
	out.Numbers = slices.Clone(out.Numbers)
	side := math.Min(canvas.W, canvas.H)
	for i, n := range out.Numbers {
		share := n / side * 100
		switch {
		case way == "share" && v.Shorter&(1<<i) != 0:
			out.Numbers[i] = v.Numbers[i]
			out.Shorter |= 1 << i
		case way == "share" && math.Abs(share) <= scheme.MaxShares:
			out.Numbers[i] = math.Round(share*1e5) / 1e5
			out.Shorter |= 1 << i
		case v.Shorter&(1<<i) != 0:
			out.Numbers[i] = math.Round(n*1e3) / 1e3
		}
	}
	return out
}

// throughPath lets an act on a value that is seen in one use of a motif be one on that
// of the motif itself, or of the use where it has a value of its own or is to have one.
func (b *bench) throughPath(a *Act) error {
	seg := strings.SplitN(a.Path, "/", 3)
	if len(seg) < 3 || seg[0] != "layers" || !strings.Contains(seg[1], inUse) {
		return nil
	}
	use, inner := cutUse(seg[1])
	if b.use = use; b.motifOf(use) == nil {
		return fmt.Errorf("path: there is no use %q any more", use)
	}
	a.Path = b.inThisUse("layers/" + inner + "/" + seg[2])
	return nil
}

// company gives a thing what goes with a value that it is to have, and takes away what
// goes without it.
func (b *bench) company(path string, n *template.Node, p *scheme.Property, v *scheme.Value) {
	next := *n
	if v != nil {
		next = next.With(p, *v)
	} else {
		next = next.Without(p)
	}
	for _, q := range n.Sort().Properties() {
		at := path + "/" + q.Name
		switch {
		case q == p:
		case next.Given(q) && !next.Has(q):
			b.forget(at)
			b.add(edit.DraftOp{Kind: "put", Path: at})
			for _, name := range append([]string{q.Name}, names(q)...) {
				if next.Motion[name] != nil {
					b.add(edit.DraftOp{Kind: "keys", Path: path + "/" + name})
				}
			}
		case (q.Needed || !n.Has(q)) && next.Has(q) && !next.Given(q) && !q.First.Equal(scheme.Value{}):
			first := q.First
			b.add(edit.DraftOp{Kind: "set", Path: at, Value: &first})
		}
	}
	for i, part := range n.Sort().Parts {
		list := n.Part(i)
		on := part.With != "" && next.Given(n.Sort().Property(part.With))
		switch {
		case part.With == "":
		case on && len(list) == 0 && part.Of == scheme.Stops && p == scheme.GradientNamed && v == nil:
			// Without the named one it has the same as its own.
			if g := b.doc.Gradient(n.Text(p)); g != nil {
				for _, s := range stopsOf(g) {
					if raw, err := json.Marshal(s); err == nil {
						b.add(edit.DraftOp{Kind: "add", Into: path + "/" + part.Name, At: -1, Part: raw})
					}
				}
				b.takeRest(g, n)
			}
		case on && len(list) == 0 && part.Of == scheme.Stops && !next.Given(scheme.GradientNamed):
			first := newFill
			if n.Given(scheme.Fill) { // it begins as it looked
				first = n.Text(scheme.Fill)
			}
			for k, c := range []string{first, "#00000000"} {
				stop, err := json.Marshal(object{"id": fmt.Sprintf("s%d", k+1), "at": k, "colour": c})
				if err == nil {
					b.add(edit.DraftOp{Kind: "add", Into: path + "/" + part.Name, At: k, Part: stop})
				}
			}
		case !on && len(list) > 0:
			for _, m := range list {
				b.forget(path + "/" + part.Name + "/" + m.ID)
			}
			// The list goes with the object it is in; the property is taken out first.
			for _, m := range list {
				b.ops = slices.Insert(b.ops, 0, edit.DraftOp{Kind: "remove", Path: path + "/" + part.Name + "/" + m.ID})
			}
		}
	}
}
