package craft

import (
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"

	"ivypocket/core/edit"
	"ivypocket/core/recipe"
	"ivypocket/core/scheme"
	"ivypocket/core/template"
	"ivypocket/core/timing"
)

// What layers perform besides their own keys: moves that are saved by name, of which a change is one for all who perform them,
// and plain ones. What a performance has — when, how long, how far, how softly — is a value like any, and may be offered.
func init() {
	register(
		row{"perform", "`layers`; `id` of a saved move, or `way` (a ready one that `GET /api/moves` tells, which is saved then) and `numbers`; or `clip`: a move of another template; `by`: `line`, `word` or `letter`, for words",
			"lets layers perform a move from the frame that is looked at", perform},
		row{"plain-move", "`layers`", "gives layers a move without keys, from the frame that is looked at", plainMove},
		row{"move-time", "`paths` of performances; `frames`; `way`: `length`, or none: when it begins", "slides performances in time, or lets them take longer", moveTime},
	)
}

// performed is a performance with the time that it takes, as it is seen.
type performed struct {
	layer    *template.Layer
	by       *template.Node
	seen     string
	at       timing.Rat // in the layer's own time
	from, to timing.Rat // in the template's
}

// performedBy are the performances of a layer, as it is seen through a use of a motif; "" is none.
func (b *bench) performedBy(y *template.Layer, use string) (out []performed) {
	late, seen := b.lateIn(use, y.ID), y.ID
	if use != "" {
		seen = use + inUse + y.ID
	}
	for _, u := range y.Performances() {
		at := template.Begins(u)
		from := at.Add(late)
		out = append(out, performed{y, u, seen, at, from, from.Add(timing.Int(int64(math.Round(u.Number(scheme.PerformedLong)))))})
	}
	return out
}

// playFrom lets a performance begin at an instant of its layer's own time.
func (b *bench) playFrom(p performed, at timing.Rat) error {
	if away := at.Sub(p.at).Add(p.from); away.Cmp(timing.Int(2*b.doc.Frames)) > 0 || away.Cmp(timing.Int(-b.doc.Frames)) < 0 {
		return fmt.Errorf("a move of %s would begin at frame %s, farther off the template's %d frames than they are long", p.layer.Name, away, b.doc.Frames)
	}
	return b.setPerformed(p, scheme.PerformedAt, scheme.One(at.Float()))
}

// setPerformed gives a performance another value, unless something else drives it.
func (b *bench) setPerformed(p performed, q *scheme.Property, v scheme.Value) error {
	path := "layers/" + p.layer.ID + "/moves/" + p.by.ID + "/" + q.Name
	if by := b.doc.Driver(path); by != "" {
		return fmt.Errorf("%s is set by %s", b.doc.Called(path), by)
	}
	if f := p.by.Formulas[q.Name]; f != "" {
		return fmt.Errorf("%s is set by the formula %s", b.doc.Called(path), f)
	}
	b.add(edit.DraftOp{Kind: "set", Path: path, Value: &v})
	return nil
}

// performances are those that an act names by their paths, layers/ID/moves/ID.
func (b *bench) performances(a Act) (out []performed, err error) {
	if len(a.Paths) == 0 {
		return nil, errors.New("paths: say which performances, such as layers/ring/moves/m1")
	}
	for _, path := range a.Paths {
		seg := strings.Split(path, "/")
		if len(seg) != 4 || seg[0] != "layers" || seg[2] != scheme.Performances.Plural {
			return nil, fmt.Errorf("paths: %q is not the path of a performance, such as layers/ring/moves/m1", path)
		}
		use, id := cutUse(seg[1])
		if use == "" {
			use = b.use
		}
		y := b.doc.Layer(id)
		if y == nil {
			return nil, fmt.Errorf("paths: there is no layer %q any more", id)
		}
		if by := b.lockedBy(id); by != "" {
			return nil, fmt.Errorf("%s is locked; unlock it first", by)
		}
		all := b.performedBy(y, use)
		i := slices.IndexFunc(all, func(p performed) bool { return p.by.ID == seg[3] })
		if i < 0 {
			return nil, fmt.Errorf("paths: %s performs no %q any more", y.Name, seg[3])
		}
		out = append(out, all[i])
	}
	return out, nil
}

// performs gives a layer a performance from an instant of its own time.
func (b *bench) performs(y *template.Layer, o object, at timing.Rat) error {
	if n := len(y.Performances()); n >= scheme.MaxPerformances {
		return fmt.Errorf("%s performs %d moves already", y.Name, n)
	}
	o["id"] = nextID("m", func(id string) bool {
		return slices.ContainsFunc(y.Performances(), func(u *template.Node) bool { return u.ID == id })
	})
	if at.N != 0 {
		o["at"] = at.Float()
	}
	raw, err := json.Marshal(o)
	if err != nil {
		return err
	}
	b.add(edit.DraftOp{Kind: "add", Into: "layers/" + y.ID + "/moves", At: -1, Part: raw})
	return nil
}

// from is the frame that is looked at in a layer's own time.
func (b *bench) from(y *template.Layer) timing.Rat {
	return timing.Int(min(max(b.act.Frame, 0), b.doc.Frames-1)).Sub(b.spanOf(y).late)
}

func perform(b *bench, a Act) error {
	list, err := b.chosen()
	if err != nil {
		return err
	}
	var one *template.Node
	fits := func(*template.Layer) bool { return true }
	back := false
	switch {
	case a.Id != "":
		if one = b.doc.Move(a.Id); one == nil {
			return fmt.Errorf("id: there is no move %q any more", a.Id)
		}
		b.title = one.Name
	case len(a.Clip) > 0:
		if one, err = b.brings(a.Clip); err != nil {
			return err
		}
		b.title = one.Name
	default:
		i := slices.IndexFunc(readyMoves, func(m *Move) bool { return m.Kind == a.Way })
		if i < 0 {
			return fmt.Errorf("way: %q is not one of %s", a.Way, strings.Join(readyKinds(), ", "))
		}
		ready := readyMoves[i]
		n, err := recipe.Whole(ready.Numbers, ready.Label, a.Numbers)
		if err != nil {
			return err
		}
		fits, back, b.title = ready.fits, n["way"] == 1, ready.Label
		n["way"] = 0
		m := &mover{b: b, n: n, from: timing.Int(0), save: object{"name": ready.called(n), "length": n["length"]}}
		if err := ready.build(m); err != nil {
			return err
		}
		if one, err = b.saved(m.save); err != nil {
			return err
		}
	}
	if a.By != "" && !slices.Contains(scheme.PerformedBy.Words, a.By) {
		return fmt.Errorf("by: %q is not one of %s", a.By, strings.Join(scheme.PerformedBy.Words, ", "))
	}
	b.title += " for " + b.called(a.Layers)
	return b.eachPerforms(list, "nothing that the move moves is there, or formulas set it", func(y *template.Layer) object {
		if !fits(y) || !mayPerform(y, one) {
			return nil
		}
		o := object{"kind": scheme.Saved.Name, "move": one.ID, "length": one.Number(scheme.MoveLong)}
		if back {
			o["back"] = true
		}
		if a.By != "" && y.Can(scheme.Worded) {
			o[scheme.PerformedBy.Name] = a.By
		}
		return o
	})
}

func plainMove(b *bench, a Act) error {
	list, err := b.chosen()
	if err != nil {
		return err
	}
	b.title = "A plain move for " + b.called(a.Layers)
	return b.eachPerforms(list, "it has no place, no scale, no turn and no opacity", func(y *template.Layer) object {
		switch {
		case y.Can(scheme.Moves):
			return object{"kind": scheme.Plain.Name, "length": 20, "place": object{"from": []float64{0, 0}, "to": []float64{0, 0}}, "scale": object{"from": 1.2}}
		case y.Can(scheme.Seen):
			return object{"kind": scheme.Plain.Name, "length": 20, "opacity": object{"from": 0}}
		}
		return nil
	})
}

// eachPerforms gives each layer what is made for it, from the frame that is looked at. Of one that can't do it nothing is made;
// where none can, that is told with the reason.
func (b *bench) eachPerforms(list []*template.Layer, why string, made func(y *template.Layer) object) error {
	done := 0
	for _, y := range list {
		o := made(y)
		if o == nil {
			continue
		}
		if err := b.performs(y, o, b.from(y)); err != nil {
			return err
		}
		done++
	}
	if done == 0 {
		return fmt.Errorf("%s can't do that: %s", b.called(b.act.Layers), why)
	}
	return nil
}

// mayPerform reports whether a move does anything with a layer.
func mayPerform(y, m *template.Node) bool {
	for name := range m.Motion {
		if p, _, err := y.Target(name); err == nil && y.Formulas[p.Name] == "" && y.Formulas[name] == "" {
			return true
		}
	}
	return len(m.Masks()) > 0 && y.Can(scheme.Seen) || len(m.Treatments()) > 0 && y.Can(scheme.Blends)
}

func moveTime(b *bench, a Act) error {
	list, err := b.performances(a)
	if err != nil {
		return err
	}
	b.title = "Slide " + performedBy(list)
	if a.Way == "length" {
		b.title = "Time " + performedBy(list)
	} else if a.Way != "" {
		return fmt.Errorf("way: %q is not length", a.Way)
	}
	if a.Frames == 0 {
		return nil
	}
	for _, p := range list {
		if a.Way == "" {
			if err := b.playFrom(p, p.at.Add(timing.Int(a.Frames))); err != nil {
				return err
			}
			continue
		}
		long := p.by.Number(scheme.PerformedLong) + float64(a.Frames)
		if long < 1 || long > scheme.MostPerformed {
			return fmt.Errorf("%s can't take %g frames; 1 is the least", performedBy(list), long)
		}
		if err := b.setPerformed(p, scheme.PerformedLong, scheme.One(long)); err != nil {
			return err
		}
	}
	return nil
}

// performedBy names performances for titles.
func performedBy(list []performed) string {
	if len(list) == 1 {
		return "a move of " + list[0].layer.Name
	}
	return fmt.Sprintf("%d moves", len(list))
}
