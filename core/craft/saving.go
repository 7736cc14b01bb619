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
	"ivypocket/core/scheme"
	"ivypocket/core/template"
	"ivypocket/core/timing"
)

// Keys become moves, and moves become keys again; a move is brought from another template.
func init() {
	register(
		row{"save-move", "`keys` of one layer; `name`, or `id` of a saved move that is to be those from now on", "saves what a layer does as a move, which it performs then", saveMove},
		row{"free-move", "`paths` of performances", "makes performances keys of their layers", freeMove},
		row{"move-name", "`id`, `name`", "renames a saved move", moveName},
		row{"drop-move", "`id`", "removes a saved move that no layer performs", dropMove},
	)
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
		if i := slices.IndexFunc(s.move.Keys, func(k template.Key) bool { return s.picked(k.ID) }); !s.picked(s.move.Keys[min(i+len(s.on), len(s.move.Keys))-1].ID) {
			return fmt.Errorf("keys: of %s some between are not picked; pick keys that follow one another", b.doc.Called(s.path))
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
	m, motion := object{"length": long}, object{}
	var parts []*strand // what moves masks and treatments, which go along
	for _, s := range list {
		if strings.Contains(s.inner(), "/") {
			parts = append(parts, s)
		} else {
			motion[s.name()] = s.savedFrom(first)
		}
	}
	if len(parts) > 0 && a.Id != "" {
		return fmt.Errorf("keys: %s is of a part of the layer, which comes along with a move; save them as a new one", b.doc.Called(parts[0].path))
	}
	along, err := b.goAlong(m, y, parts, first)
	if err != nil {
		return err
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
		if slices.Contains(parts, s) {
			continue // it goes with its part
		}
		if err := b.parted(s); err != nil {
			return err
		}
		if err := b.keep(s); err != nil {
			return err
		}
	}
	for _, path := range along {
		b.add(edit.DraftOp{Kind: "remove", Path: path})
	}
	return b.performs(y, object{"kind": scheme.Saved.Name, "move": of, "length": long}, first)
}

// savedFrom is the motion of the picked keys as a move has it that begins at an instant.
func (s *strand) savedFrom(first timing.Rat) template.Move {
	one := s.move
	one.Keys = nil
	for _, k := range s.move.Keys {
		if !s.picked(k.ID) {
			continue
		}
		if k.At = k.At.Sub(first); s.free[k.ID] {
			k.At = timing.Rat{}
		}
		k.ID = fmt.Sprintf("k%d", len(one.Keys)+1)
		one.Keys = append(one.Keys, k)
	}
	return one
}

// goAlong puts the masks and treatments of a layer that motions are of into a move, as they are, and tells their paths. Nothing
// of them may be lost by it, nor come to lie elsewhere.
func (b *bench) goAlong(m object, y *template.Layer, moving []*strand, first timing.Rat) (paths []string, err error) {
	goes := map[string]bool{}
	for _, s := range moving {
		goes[strings.Join(strings.Split(s.inner(), "/")[:2], "/")] = true
	}
	whole := func(path string) bool { // all of its keys are picked
		return slices.ContainsFunc(moving, func(s *strand) bool { return s.path == path && len(s.on) == len(s.move.Keys) })
	}
	for k, part := range y.Sort().Parts {
		stays := ""
		for i := len(y.Part(k)) - 1; i >= 0; i-- {
			n := y.Part(k)[i]
			at := part.Name + "/" + n.ID
			path := "layers/" + y.ID + "/" + at
			if !goes[at] {
				stays = n.ID
				continue
			}
			if stays != "" {
				return nil, fmt.Errorf("keys: the %s %s comes before %s, and would come after it; move it to the end first", part.Of.Name, n.ID, stays)
			}
			for _, other := range y.Moving() {
				if strings.HasPrefix(other.Path, path+"/") && !whole(other.Path) {
					return nil, fmt.Errorf("keys: %s has others; pick all that moves the %s, which comes along as a whole", b.doc.Called(other.Path), part.Of.Name)
				}
			}
			if b.spokenOf(path) {
				return nil, fmt.Errorf("keys: an entry or a format sets something of the %s %s, which could not come along with a move", part.Of.Name, n.ID)
			}
			if hasFormulas(n) {
				return nil, fmt.Errorf("keys: a formula sets something of the %s %s, which could not come along with a move", part.Of.Name, n.ID)
			}
			o, err := writtenOut(n)
			if err != nil {
				return nil, err
			}
			for _, s := range moving {
				seg := strings.Split(s.inner(), "/")
				if len(seg) < 3 || seg[0] != part.Name || seg[1] != n.ID {
					continue
				}
				in := o
				if len(seg) > 4 { // a mask of a treatment
					in = thingIn(o[seg[2]], seg[3])
				}
				if motion, ok := in["motion"].(object); ok {
					motion[s.name()] = s.savedFrom(first)
				}
			}
			list, _ := m[part.Name].([]object)
			m[part.Name] = append([]object{o}, list...)
			paths = append(paths, path)
		}
	}
	return paths, nil
}

// thingIn is the thing of an id in a list.
func thingIn(list any, id string) object {
	all, _ := list.([]any)
	for _, v := range all {
		if o, ok := v.(object); ok && o["id"] == id {
			return o
		}
	}
	return nil
}

// hasFormulas reports whether a thing, or one in it, has formulas.
func hasFormulas(n *template.Node) (yes bool) {
	yes = len(n.Formulas) > 0
	for k := range n.Sort().Parts {
		for _, in := range n.Part(k) {
			yes = yes || hasFormulas(in)
		}
	}
	return yes
}

// spokenOf reports whether entries, formats or uses speak of a thing: what would have to be forgotten with it.
func (b *bench) spokenOf(path string) bool {
	try := newBench(b.doc, b.lib, b.act)
	try.forget(path)
	return len(try.ops) > 0
}

// parted takes the picked keys out of a motion that keeps others, so that both go together as it did: where the picked ones
// begin or end it stands still, and the others depart from there.
func (b *bench) parted(s *strand) error {
	keys := s.move.Keys
	first := slices.IndexFunc(keys, func(k template.Key) bool { return s.picked(k.ID) })
	last := first + len(s.on) - 1
	called := b.doc.Called(s.path)
	if s.on = nil; last+1-first == len(keys) {
		for _, k := range keys {
			s.gone = append(s.gone, k.ID)
		}
		s.move.Keys = nil
		return nil
	}
	before, picked, after := slices.Clone(keys[:first]), keys[first:last+1], slices.Clone(keys[last+1:])
	goesOn := func(a, z template.Key) error {
		if a.Value.Equal(z.Value) {
			return nil
		}
		return fmt.Errorf("keys: %s goes on from frame %s to %s, from a key that is picked to one that is not; pick both, or neither",
			called, a.At.Add(s.late), z.At.Add(s.late))
	}
	var err error
	if len(before) > 0 {
		err = goesOn(before[len(before)-1], picked[0])
	}
	if len(after) > 0 && err == nil {
		err = goesOn(picked[len(picked)-1], after[0])
	}
	switch {
	case err != nil:
		return err
	case s.move.Even:
		return fmt.Errorf("keys: %s goes its way at an even speed; pick all of its keys", called)
	case s.joins() == scheme.Plus || s.joins() == scheme.Times:
		err = errors.Join(s.depart(before, picked[0].Value, true), s.depart(after, picked[len(picked)-1].Value, true))
	case len(before) > 0 && len(after) > 0:
		err = fmt.Errorf("keys: %s has keys before those that are picked and after; pick those, too", called)
	}
	for _, k := range picked {
		s.gone = append(s.gone, k.ID)
	}
	s.move.Keys = append(before, after...)
	return err
}

// depart lets keys that add or multiply depart from another value, or back from there.
func (s *strand) depart(list []template.Key, from scheme.Value, back bool) error {
	for i := range list {
		v := slices.Clone(list[i].Value.Numbers)
		for len(v) < len(from.Numbers) {
			v = append(v, v[0])
		}
		for k := range v {
			switch n := from.Numbers[min(k, len(from.Numbers)-1)]; {
			case s.joins() == scheme.Plus && back:
				v[k] = short(v[k] - n)
			case s.joins() == scheme.Plus:
				v[k] = short(v[k] + n)
			case !back:
				v[k] = short(v[k] * n)
			case n != 0:
				v[k] = short(v[k] / n)
			case v[k] != 0:
				return fmt.Errorf("keys: %s is nothing at the picked key, of which others can't be shares; pick them, too", s.prop.Label)
			default: // it is nothing either way
				v[k] = 1
			}
		}
		list[i].Value.Numbers = v
	}
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
		if p.by.On(scheme.PerformedOff) {
			return fmt.Errorf("a move of %s is off; switch it on first, or take it away", p.layer.Name)
		}
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
				o, err := writtenOut(n)
				if err != nil {
					return err
				}
				_, base, _ := strings.Cut(n.ID, inUse)
				o["id"] = base
				for i := 2; slices.ContainsFunc(p.layer.Part(k), func(h *template.Node) bool { return h.ID == o["id"] }); i++ {
					o["id"] = fmt.Sprintf("%s-%d", base, i)
				}
				raw, err := json.Marshal(o)
				if err != nil {
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
	if s.joins() == scheme.Plus || s.joins() == scheme.Times {
		if err := errors.Join(s.depart(from, begin, false), s.depart(to, end, false)); err != nil {
			return err
		}
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

// brings saves a move of another template.
func (b *bench) brings(raw json.RawMessage) (*template.Node, error) {
	m, err := treeOf(raw)
	if err != nil {
		return nil, err
	}
	if m["ivypocket"] != "move" {
		return nil, errors.New("clip: is no saved move")
	}
	delete(m, "ivypocket")
	delete(m, "id")
	return b.saved(m)
}

// MoveClip is a saved move on its way to another template: named colours and easings are spelt out.
func MoveClip(d *template.Document, m *template.Node) (json.RawMessage, error) {
	tree, err := writtenOut(m)
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
