package craft

import (
	"encoding/json"
	"errors"
	"fmt"
	"maps"
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
		row{"perform", "`layers`; `id` of a saved move, or `way` (a ready one that `GET /api/moves` tells, which is saved then) and `numbers`; or `clip`: a move of another template",
			"lets layers perform a move from the frame that is looked at", perform},
		row{"plain-move", "`layers`", "gives layers a move without keys, from the frame that is looked at", plainMove},
		row{"save-move", "`keys` of one layer; `name`, or `id` of a saved move that is to be those from now on", "saves what a layer does as a move, which it performs then", saveMove},
		row{"move-time", "`paths` of performances; `frames`; `way`: `length`, or none: when it begins", "slides performances in time, or lets them take longer", moveTime},
		row{"free-move", "`paths` of performances", "makes performances keys of their layers", freeMove},
		row{"move-name", "`id`, `name`", "renames a saved move", moveName},
		row{"drop-move", "`id`", "removes a saved move that no layer performs", dropMove},
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
		here := *u // as the format has it that is looked at
		for _, q := range []*scheme.Property{scheme.PerformedAt, scheme.PerformedLong} {
			if b.format != nil {
				if v, own := b.format.Rest["layers/"+y.ID+"/moves/"+u.ID+"/"+q.Name]; own {
					here = here.With(q, v)
				}
			}
		}
		at := template.Begins(&here)
		from := at.Add(late)
		out = append(out, performed{y, &here, seen, at, from, from.Add(timing.Int(int64(math.Round(here.Number(scheme.PerformedLong)))))})
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

// setPerformed gives a performance another value, unless something else drives it; where the format that is looked at has one
// of its own, that.
func (b *bench) setPerformed(p performed, q *scheme.Property, v scheme.Value) error {
	path := "layers/" + p.layer.ID + "/moves/" + p.by.ID + "/" + q.Name
	if by := b.doc.Driver(path); by != "" {
		return fmt.Errorf("%s is set by %s", b.doc.Called(path), by)
	}
	if f := p.by.Formulas[q.Name]; f != "" {
		return fmt.Errorf("%s is set by the formula %s", b.doc.Called(path), f)
	}
	op := edit.DraftOp{Kind: "set", Path: path, Value: &v}
	if b.format != nil {
		if _, own := b.format.Rest[path]; own {
			op.Format = b.format.ID
		}
	}
	b.add(op)
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
	fits := func(*template.Layer) bool { return true }
	var of string
	var long float64
	back := false
	switch {
	case a.Id != "":
		m := b.doc.Move(a.Id)
		if m == nil {
			return fmt.Errorf("id: there is no move %q any more", a.Id)
		}
		of, long, b.title = m.ID, m.Number(scheme.MoveLong), m.Name+" for "+b.called(a.Layers)
		fits = func(y *template.Layer) bool { return mayPerform(y, m) }
	case len(a.Clip) > 0:
		m, err := b.otherMove(a.Clip)
		if err != nil {
			return err
		}
		one, err := b.saved(m)
		if err != nil {
			return err
		}
		of, long, b.title = one.ID, one.Number(scheme.MoveLong), one.Name+" for "+b.called(a.Layers)
		fits = func(y *template.Layer) bool { return mayPerform(y, one) }
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
		fits, back, long = ready.fits, n["way"] == 1, n["length"]
		n["way"] = 0
		m := &mover{b: b, n: n, from: timing.Int(0), save: object{"name": ready.called(n), "length": n["length"]}}
		if err := ready.build(m); err != nil {
			return err
		}
		one, err := b.saved(m.save)
		if err != nil {
			return err
		}
		of, b.title = one.ID, ready.Label+" for "+b.called(a.Layers)
	}
	done := 0
	for _, y := range list {
		if !fits(y) {
			continue
		}
		o := object{"kind": scheme.Saved.Name, "move": of, "length": long}
		if back {
			o["back"] = true
		}
		if err := b.performs(y, o, b.from(y)); err != nil {
			return err
		}
		done++
	}
	if done == 0 {
		return fmt.Errorf("%s can't do that: nothing that the move moves is there", b.called(a.Layers))
	}
	return nil
}

// mayPerform reports whether a move does anything with a layer.
func mayPerform(y, m *template.Node) bool {
	for name := range m.Motion {
		if _, _, err := y.Target(name); err == nil {
			return true
		}
	}
	return len(m.Masks()) > 0 && y.Can(scheme.Seen) || len(m.Treatments()) > 0 && y.Can(scheme.Blends)
}

// called is what a ready move is saved as: with the side, where it has one.
func (m *Move) called(n map[string]float64) string {
	for _, asked := range m.Numbers {
		if asked.Name == "side" {
			return m.Label + " from " + []string{"the left", "the right", "above", "below"}[int(n["side"])]
		}
	}
	return m.Label
}

// saved finds a move that is saved alike, or saves it.
func (b *bench) saved(m object) (*template.Node, error) {
	raw, err := json.Marshal(m)
	if err != nil {
		return nil, err
	}
	one, err := template.ParseMove(raw)
	if err != nil {
		return nil, err
	}
	name := one.Name
	for _, have := range b.doc.Moves {
		if sameMove(have, one) && strings.TrimRight(have.Name, " 0123456789") == name {
			return have, nil
		}
	}
	if len(b.doc.Moves) >= scheme.MaxMoves {
		return nil, fmt.Errorf("there are %d saved moves; no more are kept", len(b.doc.Moves))
	}
	for n := 2; slices.ContainsFunc(b.doc.Moves, func(h *template.Node) bool { return h.Name == one.Name }); n++ {
		one.Name = fmt.Sprintf("%s %d", name, n)
	}
	one.ID = b.freeID(one.Name)
	part, err := json.Marshal(one)
	if err != nil {
		return nil, err
	}
	b.taken[one.ID] = true
	b.add(edit.DraftOp{Kind: "add", Into: "moves", At: -1, Part: part})
	return one, nil
}

// sameMove reports whether two saved moves are the same but for their names.
func sameMove(a, b *template.Node) bool {
	bare := func(n *template.Node) string {
		c := *n
		c.ID, c.Name = "", ""
		raw, _ := json.Marshal(&c)
		return string(raw)
	}
	return bare(a) == bare(b)
}

// otherMove is a move as another template has it, with colours of its own.
func (b *bench) otherMove(raw json.RawMessage) (object, error) {
	m, err := treeOf(raw)
	if err != nil {
		return nil, err
	}
	if m["ivypocket"] != "move" {
		return nil, errors.New("clip: is no saved move")
	}
	delete(m, "ivypocket")
	delete(m, "id")
	return m, nil
}

// MoveClip is a saved move on its way to another template: named colours and easings are spelt out.
func MoveClip(d *template.Document, m *template.Node) (json.RawMessage, error) {
	raw, err := json.Marshal(m)
	if err != nil {
		return nil, err
	}
	tree, err := treeOf(raw)
	if err != nil {
		return nil, err
	}
	var spell func(v any) any
	spell = func(v any) any {
		switch v := v.(type) {
		case object:
			delete(v, "named")
			for k, in := range v {
				v[k] = spell(in)
			}
		case []any:
			for i, in := range v {
				v[i] = spell(in)
			}
		case string:
			if id, named := scheme.ColourID(v); named && id != "" {
				if c, err := d.Colour(v); err == nil {
					return c.String()
				}
			}
		}
		return v
	}
	spell(tree)
	tree["ivypocket"] = "move"
	return json.Marshal(tree)
}

func plainMove(b *bench, a Act) error {
	list, err := b.chosen()
	if err != nil {
		return err
	}
	b.title = "A plain move for " + b.called(a.Layers)
	done := 0
	for _, y := range list {
		o := object{"kind": scheme.Plain.Name, "length": 20}
		switch {
		case y.Can(scheme.Moves):
			o["place"] = object{"from": []float64{0, 0}, "to": []float64{0, 0}}
			o["scale"] = object{"from": 1.2}
		case y.Can(scheme.Seen):
			o["opacity"] = object{"from": 0}
		default:
			continue
		}
		if err := b.performs(y, o, b.from(y)); err != nil {
			return err
		}
		done++
	}
	if done == 0 {
		return fmt.Errorf("%s can't do that: it has no place, no scale, no turn and no opacity", b.called(a.Layers))
	}
	return nil
}

// saveMove makes a saved move of keys. The layer performs it from then on in their place.
func saveMove(b *bench, a Act) error {
	list, err := b.picks(a)
	if err != nil {
		return err
	}
	y := list[0].layer
	var first, last timing.Rat
	for _, s := range list {
		if s.layer != y {
			return fmt.Errorf("keys: they are of %s and %s; save what one layer does, then let the others perform it", y.Name, s.layer.Name)
		}
		if s.by != nil {
			return fmt.Errorf("keys: %s is of a saved move already", b.doc.Called(s.path))
		}
		if s.prop.Type == scheme.Points || s.prop.Type == scheme.List {
			return fmt.Errorf("keys: %s has as many points as this layer's own; other layers can't perform it", b.doc.Called(s.path))
		}
		if s.node.Sort() == scheme.Stops {
			return fmt.Errorf("keys: %s is of this layer's own gradient; other layers can't perform it", b.doc.Called(s.path))
		}
		if len(s.on) < 2 {
			return fmt.Errorf("keys: of %s there is one key; a move needs two of each property, between which something happens", b.doc.Called(s.path))
		}
		for _, k := range s.move.Keys {
			if !s.picked(k.ID) {
				continue
			}
			if first.D == 0 || k.At.Cmp(first) < 0 {
				first = k.At
			}
			if last.D == 0 || k.At.Cmp(last) > 0 {
				last = k.At
			}
		}
	}
	long := math.Max(1, math.Ceil(last.Sub(first).Float()))
	m := object{"name": a.Name, "length": long}
	motion := object{}
	parts := map[string]bool{} // those of the layer that go along
	for _, s := range list {
		one := s.move
		one.Keys = nil
		for _, k := range s.move.Keys {
			if !s.picked(k.ID) {
				continue
			}
			if s.free[k.ID] {
				k.At = timing.Rat{}
			} else {
				k.At = k.At.Sub(first)
			}
			k.ID = fmt.Sprintf("k%d", len(one.Keys)+1)
			one.Keys = append(one.Keys, k)
		}
		seg := strings.Split(s.inner(), "/")
		if len(seg) == 1 {
			motion[s.name()] = one
			continue
		}
		if a.Id != "" {
			return fmt.Errorf("keys: %s is of a part of the layer, which comes along with a move; save them as a new one", b.doc.Called(s.path))
		}
		if err := b.comesAlong(m, y, seg, s.name(), one); err != nil {
			return err
		}
		parts["layers/"+y.ID+"/"+seg[0]+"/"+seg[1]] = true
	}
	if len(motion) > 0 {
		m["motion"] = motion
	}
	of := a.Id
	if a.Id != "" {
		if err := b.saveAgain(a.Id, motion, long); err != nil {
			return err
		}
	} else {
		name, err := Said(a.Name, true)
		if err != nil {
			return err
		}
		if m["name"] = name; name == "" {
			return errors.New("name: say what the move is called")
		}
		b.title = "Save the move " + name
		one, err := b.saved(m)
		if err != nil {
			return err
		}
		of = one.ID
	}
	for _, s := range list {
		at := s.inner()
		if seg := strings.Split(at, "/"); len(seg) > 1 && parts["layers/"+y.ID+"/"+seg[0]+"/"+seg[1]] {
			continue // it goes with its part
		}
		s.without()
		if err := b.keep(s); err != nil {
			return err
		}
	}
	for _, path := range slices.Sorted(maps.Keys(parts)) {
		b.forget(path)
		b.add(edit.DraftOp{Kind: "remove", Path: path})
	}
	return b.performs(y, object{"kind": scheme.Saved.Name, "move": of, "length": long}, first)
}

// comesAlong puts a part of a layer into a move, with what moves it.
func (b *bench) comesAlong(m object, y *template.Layer, seg []string, name string, one template.Move) error {
	way := []string{}
	into, n := m, y
	for i := 0; i+1 < len(seg); i += 2 {
		k, _ := n.Sort().Part(seg[i])
		at := slices.IndexFunc(n.Part(k), func(p *template.Node) bool { return p.ID == seg[i+1] })
		n = n.Part(k)[at]
		way = append(way, seg[i], seg[i+1])
		path := "layers/" + y.ID + "/" + strings.Join(way, "/")
		if len(n.Formulas) > 0 {
			return fmt.Errorf("keys: a formula drives %s, which could not come along with a move", b.doc.Called(path+"/"+name))
		}
		have, _ := into[seg[i]].([]object)
		j := slices.IndexFunc(have, func(o object) bool { return o["id"] == n.ID })
		if j < 0 {
			raw, err := json.Marshal(n)
			if err != nil {
				return err
			}
			o, err := treeOf(raw)
			if err != nil {
				return err
			}
			delete(o, "motion")
			delete(o, "masks")
			have = append(have, o)
			into[seg[i]], j = have, len(have)-1
		}
		into = have[j]
	}
	all, _ := into["motion"].(object)
	if all == nil {
		all = object{}
	}
	all[name] = one
	into["motion"] = all
	return nil
}

// saveAgain lets a saved move be other keys, for all who perform it.
func (b *bench) saveAgain(id string, motion object, long float64) error {
	m := b.doc.Move(id)
	if m == nil {
		return fmt.Errorf("id: there is no move %q any more", id)
	}
	b.title = "Save the move " + m.Name + " anew"
	for _, name := range slices.Sorted(maps.Keys(m.Motion)) {
		if motion[name] == nil {
			b.forget("moves/" + id + "/motion/" + name)
			b.add(edit.DraftOp{Kind: "keys", Path: "moves/" + id + "/" + name})
		}
	}
	for _, name := range slices.Sorted(maps.Keys(motion)) {
		one := motion[name].(template.Move)
		b.add(edit.DraftOp{Kind: "keys", Path: "moves/" + id + "/" + name, Move: &one})
	}
	return b.putPart("moves/"+id+"/length", long)
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

func freeMove(b *bench, a Act) error {
	list, err := b.performances(a)
	if err != nil {
		return err
	}
	b.title = "Make keys of " + performedBy(list)
	expanded, err := b.doc.Expanded()
	if err != nil {
		return err
	}
	whole := expanded.Performed(b.canvas())
	for _, p := range list {
		seen := whole.Layer(p.seen)
		if seen == nil {
			return fmt.Errorf("%s is not there any more", p.layer.Name)
		}
		head := "layers/" + p.layer.ID
		for _, m := range b.doc.PerformedAs(p.by, b.canvas()) {
			if _, _, err := p.layer.Target(m.Name); err != nil {
				continue
			}
			s, err := b.strand(head + "/" + m.Name)
			if err != nil {
				return err
			}
			if err := b.mayKey(s); err != nil {
				return err
			}
			if err := b.joined(s, m.Move); err != nil {
				return err
			}
			if err := b.keep(s); err != nil {
				return err
			}
		}
		for k, part := range p.layer.Sort().Parts {
			if part.Of == scheme.Layers {
				continue
			}
			for _, n := range seen.Part(k) {
				if n.Along() != p.by.ID {
					continue
				}
				raw, err := json.Marshal(n)
				if err != nil {
					return err
				}
				o, err := treeOf(raw)
				if err != nil {
					return err
				}
				_, base, _ := strings.Cut(n.ID, inUse)
				o["id"] = base
				for i := 2; slices.ContainsFunc(p.layer.Part(k), func(h *template.Node) bool { return h.ID == o["id"] }); i++ {
					o["id"] = fmt.Sprintf("%s-%d", base, i)
				}
				if raw, err = json.Marshal(o); err != nil {
					return err
				}
				b.add(edit.DraftOp{Kind: "add", Into: head + "/" + part.Name, At: -1, Part: raw})
			}
		}
		path := head + "/moves/" + p.by.ID
		b.forget(path)
		b.add(edit.DraftOp{Kind: "remove", Path: path})
	}
	return nil
}

// joined puts the keys of a move beside those that a property has, before them or after: in the time of either the other
// one stands still, and is departed from.
func (b *bench) joined(s *strand, m *template.Move) error {
	if len(m.Keys) == 0 {
		return nil
	}
	renamed := func(k template.Key) template.Key {
		k.ID = nextID("k", func(id string) bool { return s.find(id) >= 0 })
		return k
	}
	if len(s.move.Keys) == 0 {
		s.move.Unit, s.move.Even = m.Unit, m.Even
		for _, k := range m.Keys {
			s.move.Keys = append(s.move.Keys, renamed(k))
		}
		return nil
	}
	own := slices.Clone(s.move.Keys)
	before := own[len(own)-1].At.Cmp(m.Keys[0].At) < 0
	switch {
	case s.move.Unit != m.Unit || s.move.Even || m.Even:
		return fmt.Errorf("%s has keys that are measured otherwise", b.doc.Called(s.path))
	case !before && m.Keys[len(m.Keys)-1].At.Cmp(own[0].At) >= 0:
		return fmt.Errorf("%s moves by keys of its own in that time; move them apart first", b.doc.Called(s.path))
	}
	from, to := own, slices.Clone(m.Keys)
	if !before {
		from, to = to, from
	}
	end, begin := from[len(from)-1].Value, to[0].Value
	departs := func(list []template.Key, by scheme.Value) {
		for i := range list {
			v := slices.Clone(list[i].Value.Numbers)
			for len(v) < len(by.Numbers) {
				v = append(v, v[0])
			}
			for k := range v {
				n := by.Numbers[min(k, len(by.Numbers)-1)]
				if s.joins() == scheme.Plus {
					v[k] = short(v[k] + n)
				} else {
					v[k] = short(v[k] * n)
				}
			}
			list[i].Value.Numbers = v
		}
	}
	if s.joins() == scheme.Plus || s.joins() == scheme.Times {
		departs(from, begin)
		departs(to, end)
	} else if last := &from[len(from)-1]; !last.Hold {
		last.Hold, last.Ease, last.Steps = true, nil, nil
	}
	s.move.Keys = own
	if before {
		s.move.Keys = from
	} else {
		s.move.Keys = to
	}
	add := to
	if !before {
		add = from
	}
	for _, k := range add {
		s.move.Keys = append(s.move.Keys, renamed(k))
	}
	s.sorted()
	return nil
}

func moveName(b *bench, a Act) error {
	m := b.doc.Move(a.Id)
	if m == nil {
		return fmt.Errorf("id: there is no move %q any more", a.Id)
	}
	text, err := Said(a.Name, true)
	if err != nil {
		return err
	}
	if text == "" {
		return errors.New("name: say what the move is called")
	}
	b.title = "Rename the move " + m.Name
	return b.putText("moves/"+m.ID+"/name", text)
}

// performers are the layers that perform a move.
func performers(d *template.Document, id string) (out []*template.Layer) {
	d.VisitAll(func(_ string, y *template.Layer) {
		if slices.ContainsFunc(y.Performances(), func(u *template.Node) bool { return u.Text(scheme.PerformedMove) == id }) {
			out = append(out, y)
		}
	})
	return out
}

func dropMove(b *bench, a Act) error {
	m := b.doc.Move(a.Id)
	if m == nil {
		return fmt.Errorf("id: there is no move %q any more", a.Id)
	}
	if by := performers(b.doc, a.Id); len(by) > 0 {
		return fmt.Errorf("%s performs it, and %d layers in all; make keys of it there first", by[0].Name, len(by))
	}
	b.title = "Remove the move " + m.Name
	b.forget("moves/" + m.ID)
	b.add(edit.DraftOp{Kind: "remove", Path: "moves/" + m.ID})
	return nil
}
