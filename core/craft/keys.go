package craft

import (
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"

	"ivypocket/core/scheme"
	"ivypocket/core/template"
	"ivypocket/core/timing"
)

// Keys, wherever they are: on layers, on masks and treatments of them, on stops of gradients.
func init() {
	register(
		row{"key", "`paths` of properties, or `path` (one's name) with `layers`; `way`: `off` takes it away",
			"puts a key at the frame that is looked at, by which nothing goes otherwise", keyHere},
		row{"unkey", "`keys`", "takes keys away", unkey},
		row{"retime", "`keys`; `frames` (later), or `from` and `to`: two instants each, of which the first two become the others",
			"moves keys in time, or scales the time between them; a key that comes to lie on another takes its place", retime},
		row{"reverse", "`keys`", "lets keys be passed the other way round, within the time they take", reverse},
		row{"ease", "`keys`; `way`: `curve` (`value`: the four numbers of CSS `cubic-bezier`), `linear`, `steps` (`steps`), `hold`",
			"says how the ways go that begin at keys", easeKeys},
		row{"keyed", "`keys`, `value` in the property's own measure, or `numbers` that are added to each: `0`, `1`, …", "gives keys a value as it is seen in the format that is looked at", keyed},
		row{"apart", "`paths` of properties; `way`: `apart`, `together`", "gives each number of a property keys of its own, or all of them the same", apartKeys},
		row{"paste-keys", "`clip` (as `GET …/keys` gives it), `layers`", "puts keys that were copied on layers, the first of them at the frame that is looked at", pasteKeys},
	)
}

// here is the instant that is looked at, in a motion's own time.
func (b *bench) here(s *strand) timing.Rat {
	return timing.Int(min(max(b.act.Frame, 0), b.doc.Frames-1)).Sub(s.late)
}

// along are the motions of a property as they are kept: as a whole, or of each of its numbers that has one of
// its own.
func (b *bench) along(path string) ([]*strand, error) {
	s, err := b.strand(path)
	if err != nil {
		return nil, err
	}
	if s.part < 0 {
		var parts []*strand
		for _, name := range names(s.prop) {
			if s.node.Motion[name] != nil || b.strands[strings.TrimSuffix(s.path, s.prop.Name)+name] != nil {
				p, err := b.strand(strings.TrimSuffix(path, s.prop.Name) + name)
				if err != nil {
					return nil, err
				}
				parts = append(parts, p)
			}
		}
		if len(parts) > 0 && len(s.move.Keys) == 0 {
			return parts, nil
		}
	}
	return []*strand{s}, nil
}

// mayKey says why a motion can't be worked on: a formula sets what is seen.
func (b *bench) mayKey(s *strand) error {
	for _, name := range append([]string{s.prop.Name}, names(s.prop)...) {
		if f := s.node.Formulas[name]; f != "" && (s.part < 0 || name == s.prop.Name || name == s.name()) {
			return fmt.Errorf("%s is set by the formula %s; keys would not be seen", b.doc.Called(s.path), f)
		}
	}
	return nil
}

// paths are the properties that an act names: by whole paths, or one of each layer.
func (b *bench) paths(a Act) ([]string, error) {
	if len(a.Paths) > 0 {
		return a.Paths, nil
	}
	if a.Path == "" {
		return nil, errors.New("paths: say which property")
	}
	list, err := b.chosen()
	if err != nil {
		return nil, err
	}
	var out []string
	for _, y := range list {
		if p, _, err := y.Target(a.Path); err != nil || p.Join == scheme.Fixed {
			continue // it has none, others do
		}
		out = append(out, "layers/"+y.ID+"/"+a.Path)
	}
	if len(out) == 0 {
		return nil, fmt.Errorf("path: %s has no %q that could have keys", list[0].Name, a.Path)
	}
	return out, nil
}

func keyHere(b *bench, a Act) error {
	paths, err := b.paths(a)
	if err != nil {
		return err
	}
	b.title = "Put a key on " + b.doc.Called(paths[0])
	if len(paths) > 1 {
		b.title = fmt.Sprintf("Put keys on %d properties", len(paths))
	}
	if a.Way == "off" {
		b.title = strings.Replace(strings.Replace(b.title, "Put a key on", "Take away a key of", 1), "Put keys on", "Take away keys of", 1)
	}
	for _, path := range paths {
		list, err := b.along(path)
		if err != nil {
			return err
		}
		for _, s := range list {
			at := b.here(s)
			if a.Way == "off" {
				i := slices.IndexFunc(s.move.Keys, func(k template.Key) bool { return k.At.Cmp(at) == 0 })
				if i < 0 {
					continue
				}
				s.on = append(s.on, s.move.Keys[i].ID)
				s.without()
			} else if err := b.mayKey(s); err != nil {
				return err
			} else if _, err := b.keyAt(s, at); err != nil {
				return err
			}
			if err := b.keep(s); err != nil {
				return err
			}
		}
	}
	return nil
}

// without takes the picked keys away.
func (s *strand) without() {
	s.move.Keys = slices.DeleteFunc(slices.Clone(s.move.Keys), func(k template.Key) bool { return s.picked(k.ID) })
	s.gone = append(s.gone, s.on...)
}

func unkey(b *bench, a Act) error {
	list, err := b.picks(a)
	if err != nil {
		return err
	}
	b.title = "Take away " + b.countKeys(list)
	for _, s := range list {
		s.without()
	}
	return b.keepAll(list)
}

func retime(b *bench, a Act) error {
	list, err := b.picks(a)
	if err != nil {
		return err
	}
	b.title = "Move " + b.countKeys(list)
	if a.From == a.To {
		if a.Frames == 0 {
			return nil
		}
		for _, s := range list {
			if err := s.retimed(func(at timing.Rat) timing.Rat { return at.Add(timing.Int(a.Frames)) }); err != nil {
				return err
			}
		}
		return b.keepAll(list)
	}
	b.title = "Scale " + b.countKeys(list)
	was, is := a.From[1]-a.From[0], a.To[1]-a.To[0]
	if was == 0 || is == 0 || (was < 0) != (is < 0) {
		return errors.New("from, to: the time between keys can't be nothing, nor be turned round; reverse them instead")
	}
	to := func(s *strand, grain float64) func(timing.Rat) timing.Rat {
		return func(at timing.Rat) timing.Rat {
			t := a.To[0] + (at.Add(s.late).Float()-a.From[0])*is/was
			return timing.NewRat(int64(math.Round(t*grain)), int64(grain)).Sub(s.late)
		}
	}
	// Whole frames, while all have room on them.
	grain := 1.0
	for _, s := range list {
		seen := map[timing.Rat]bool{}
		for _, k := range s.move.Keys {
			if s.picked(k.ID) {
				if at := to(s, 1)(k.At); seen[at] {
					grain = 1000
				} else {
					seen[at] = true
				}
			}
		}
	}
	for _, s := range list {
		if err := s.retimed(to(s, grain)); err != nil {
			return err
		}
	}
	return b.keepAll(list)
}

func reverse(b *bench, a Act) error {
	list, err := b.picks(a)
	if err != nil {
		return err
	}
	b.title = "Reverse " + b.countKeys(list)
	var first, last timing.Rat
	for _, s := range list {
		for _, k := range s.move.Keys {
			if at := k.At.Add(s.late); s.picked(k.ID) {
				if first.D == 0 || at.Cmp(first) < 0 {
					first = at
				}
				if last.D == 0 || at.Cmp(last) > 0 {
					last = at
				}
			}
		}
	}
	if first.Cmp(last) == 0 {
		return errors.New("keys: select two or more; it is the time between them that is turned round")
	}
	for _, s := range list {
		s.turned()
		sum := first.Add(last).Sub(s.late).Sub(s.late)
		if err := s.retimed(func(at timing.Rat) timing.Rat { return sum.Sub(at) }); err != nil {
			return err
		}
	}
	return b.keepAll(list)
}

// turned lets the ways between picked keys be gone backwards: each key has the way then that led to it, and the
// first the last one's. What it is done to twice is as it was.
func (s *strand) turned() {
	s.move.Keys = slices.Clone(s.move.Keys)
	var at []int
	for i, k := range s.move.Keys {
		if s.picked(k.ID) {
			at = append(at, i)
		}
	}
	was := slices.Clone(s.move.Keys)
	for n, i := range at {
		k := &s.move.Keys[i]
		k.In, k.Out = was[i].Out, was[i].In
		if n == 0 {
			from := was[at[len(at)-1]]
			k.Ease, k.Steps, k.Hold = from.Ease, from.Steps, from.Hold
			continue
		}
		from := was[at[n-1]]
		k.Ease, k.Steps, k.Hold = from.Ease.Back(), from.Steps.Back(), from.Hold
	}
}

func easeKeys(b *bench, a Act) error {
	list, err := b.picks(a)
	if err != nil {
		return err
	}
	b.title = map[string]string{"curve": "Ease ", "linear": "Even out ", "steps": "Steps from ", "hold": "Hold "}[a.Way] + b.countKeys(list)
	var ease timing.Easing
	named := ""
	if a.Id != "" {
		e := b.doc.Easing(a.Id)
		if e == nil {
			return fmt.Errorf("id: there is no easing %q any more", a.Id)
		}
		named, b.title = e.ID, e.Name+" for "+b.countKeys(list)
		if a.Way, a.Steps = "steps", e.Steps; e.Ease != nil {
			a.Way = "curve"
			v := scheme.Many(e.Ease[:]...)
			a.Value = &v
		}
	}
	switch a.Way {
	case "curve":
		if a.Value == nil || len(a.Value.Numbers) != 4 {
			return errors.New("value: an easing has four numbers: x1, y1, x2, y2")
		}
		ease = timing.Easing(a.Value.Numbers)
		if err := ease.Validate(); err != nil {
			return fmt.Errorf("value%w", err)
		}
		for i := range ease {
			ease[i] = math.Round(ease[i]*1e4)/1e4 + 0
		}
	case "steps":
		if a.Steps == nil {
			return errors.New("steps: say how many")
		}
		if err := a.Steps.Validate(); err != nil {
			return fmt.Errorf("steps%w", err)
		}
	case "linear", "hold":
	default:
		return fmt.Errorf("way: %q is not one of curve, linear, steps, hold", a.Way)
	}
	steady := true
	for _, s := range list {
		if s.steady() {
			continue
		}
		steady = false
		s.move.Keys = slices.Clone(s.move.Keys)
		for i := range s.move.Keys {
			k := &s.move.Keys[i]
			if !s.picked(k.ID) {
				continue
			}
			k.Ease, k.Steps, k.Hold, k.Named = nil, nil, false, named
			switch a.Way {
			case "curve":
				if ease[0] != ease[1] || ease[2] != ease[3] { // a straight one is linear
					e := ease
					k.Ease = &e
				}
			case "steps":
				n := *a.Steps
				k.Steps = &n
			case "hold":
				k.Hold = true
			}
		}
		if err := b.keep(s); err != nil {
			return err
		}
	}
	if steady {
		return fmt.Errorf("%s goes from one value to the next at once; nothing is eased", b.doc.Called(list[0].path))
	}
	return nil
}

func keyed(b *bench, a Act) error {
	list, err := b.picks(a)
	if err != nil {
		return err
	}
	b.title = "Set " + b.countKeys(list)
	for _, s := range list {
		for _, id := range s.on {
			i := s.find(id)
			if s.prop.Type != scheme.Numbers {
				if a.Value == nil {
					return errors.New("value: say which")
				}
				if err := s.prop.CheckKey(b.doc, *a.Value, false); err != nil {
					return fmt.Errorf("value: %w", err)
				}
				s.move.Keys = slices.Clone(s.move.Keys)
				s.move.Keys[i].Value = *a.Value
				continue
			}
			to := func(k int, is float64) float64 { return is + a.Numbers[fmt.Sprint(k)] }
			if a.Value != nil {
				want := a.Value.Numbers
				if len(want) == 1 && b.width(s) > 1 && s.prop.Alike {
					want = slices.Repeat(want, b.width(s))
				}
				if len(want) != b.width(s) {
					return fmt.Errorf("value: %s has %d numbers", b.doc.Called(s.path), b.width(s))
				}
				to = func(k int, _ float64) float64 { return want[k] }
			}
			if err := b.sets(s, i, to); err != nil {
				return err
			}
		}
		if err := b.keep(s); err != nil {
			return err
		}
	}
	return nil
}

// apartKeys lets each number of a property be moved by keys of its own, or all of them by the same. Nothing
// goes otherwise by it; where that can't be, it is refused.
func apartKeys(b *bench, a Act) error {
	if a.Way != "apart" && a.Way != "together" {
		return fmt.Errorf("way: %q is neither apart nor together", a.Way)
	}
	paths, err := b.paths(a)
	if err != nil {
		return err
	}
	b.title = map[string]string{"apart": "Keys apart for ", "together": "Keys together for "}[a.Way] + b.doc.Called(paths[0])
	for _, path := range paths {
		whole, err := b.strand(path)
		if err != nil {
			return err
		}
		list := names(whole.prop)
		if whole.part >= 0 || len(list) == 0 {
			return fmt.Errorf("%s is one number", b.doc.Called(path))
		}
		var parts []*strand
		for _, name := range list {
			s, err := b.strand(strings.TrimSuffix(path, whole.prop.Name) + name)
			if err != nil {
				return err
			}
			parts = append(parts, s)
		}
		if a.Way == "apart" {
			err = b.takeApart(whole, parts)
		} else {
			err = b.putTogether(whole, parts)
		}
		if err != nil {
			return err
		}
	}
	return nil
}

func (b *bench) takeApart(whole *strand, parts []*strand) error {
	called := b.doc.Called(whole.path)
	if len(whole.move.Keys) == 0 {
		return fmt.Errorf("%s has no keys of all its numbers", called)
	}
	if whole.move.Even {
		return fmt.Errorf("%s goes its way at an even speed, which none of its numbers has by itself", called)
	}
	for _, k := range whole.move.Keys {
		if k.In != nil || k.Out != nil {
			return fmt.Errorf("%s goes a bent way, which its numbers can't go each by itself; make its points corners first", called)
		}
	}
	for _, p := range parts {
		if len(p.move.Keys) > 0 {
			return fmt.Errorf("%s has keys of its own already", b.doc.Called(p.path))
		}
		p.move.Unit = whole.move.Unit
		for i, k := range whole.move.Keys {
			v, err := whole.numbers(b, i)
			if err != nil {
				return err
			}
			k.Value = scheme.One(v[p.part])
			p.move.Keys = append(p.move.Keys, k)
		}
	}
	whole.retie(b, parts)
	whole.move.Keys = nil
	return errors.Join(b.keep(whole), b.keepAll(parts))
}

// retie lets what speaks of numbers of keys speak of the keys of those numbers; ids are the same.
func (s *strand) retie(b *bench, parts []*strand) {
	head := strings.TrimSuffix(s.path, s.name()) + "motion/" + s.name() + "/"
	b.retie(func(t template.Tie) []template.Tie {
		rest, ok := strings.CutPrefix(t.To, head)
		if !ok {
			return []template.Tie{t}
		}
		id, member, _ := strings.Cut(rest, "/")
		if part, one := strings.CutPrefix(member, "value."); one {
			for _, p := range parts {
				if p.prop.PartName(p.part) == part {
					t.To = strings.TrimSuffix(p.path, p.name()) + "motion/" + p.name() + "/" + id + "/value"
				}
			}
			return []template.Tie{t}
		}
		if member == "value" {
			return nil
		}
		var out []template.Tie
		for _, p := range parts { // its instant and its ease are those of each then
			u := t
			u.To = strings.TrimSuffix(p.path, p.name()) + "motion/" + p.name() + "/" + rest
			out = append(out, u)
		}
		return out
	})
}

func (b *bench) putTogether(whole *strand, parts []*strand) error {
	called := b.doc.Called(whole.path)
	if len(whole.move.Keys) > 0 {
		return fmt.Errorf("%s has keys of all its numbers already", called)
	}
	// All of them need keys at the same instants.
	var at []timing.Rat
	for _, p := range parts {
		if p.move.Unit != parts[0].move.Unit && len(p.move.Keys) > 0 && len(parts[0].move.Keys) > 0 {
			return fmt.Errorf("keys of %s are measured otherwise than those of %s", b.doc.Called(p.path), b.doc.Called(parts[0].path))
		}
		for _, k := range p.move.Keys {
			at = append(at, k.At)
		}
	}
	if len(at) == 0 {
		return fmt.Errorf("none of the numbers of %s has keys", called)
	}
	slices.SortFunc(at, timing.Rat.Cmp)
	at = slices.CompactFunc(at, func(a, b timing.Rat) bool { return a.Cmp(b) == 0 })
	for i, t := range at {
		k := template.Key{ID: fmt.Sprintf("k%d", i+1), At: t}
		var v []float64
		led := false
		for _, p := range parts {
			if len(p.move.Keys) > 0 {
				whole.move.Unit = p.move.Unit
			}
			n, err := b.keyAt(p, t)
			if err != nil {
				return err
			}
			is, err := p.numbers(b, n)
			if err != nil {
				return err
			}
			v = append(v, is...)
			// Where one stays from here to the next instant, its easing does not matter.
			own := p.move.Keys[n]
			if i+1 < len(at) {
				m, err := b.keyAt(p, at[i+1])
				if err != nil {
					return err
				}
				if p.move.Keys[m].Value.Equal(own.Value) {
					continue
				}
			}
			if led && (!sameEase(k, own)) && i+1 < len(at) {
				return fmt.Errorf("the numbers of %s are eased each in its own way from frame %s on; give them the same easing first", called, t.Add(whole.late))
			}
			k.Ease, k.Steps, k.Hold, led = own.Ease, own.Steps, own.Hold, true
		}
		k.Value = whole.value(v)
		whole.move.Keys = append(whole.move.Keys, k)
	}
	for _, p := range parts {
		for _, k := range p.move.Keys {
			p.gone = append(p.gone, k.ID)
		}
		p.move.Keys = nil
	}
	return errors.Join(b.keepAll(parts), b.keep(whole))
}

func sameEase(a, b template.Key) bool {
	same := func(a, b any) bool {
		x, _ := json.Marshal(a)
		y, _ := json.Marshal(b)
		return string(x) == string(y)
	}
	return a.Hold == b.Hold && same(a.Ease, b.Ease) && same(a.Steps, b.Steps)
}
