package craft

import (
	"fmt"
	"slices"
	"strings"

	"ivypocket/core/scheme"
	"ivypocket/core/template"
)

// Key recording: while it is on, what is set is what a key at the frame that is looked at makes of it. While it is
// off, what moves is shifted as a whole.

// records reports whether what is set of a property becomes a key.
func (b *bench) records(path string) bool {
	if !b.act.Record || len(b.as) > 0 {
		return false
	}
	t, err := b.doc.Find(path)
	return err == nil && strings.HasPrefix(path, "layers/") && !strings.Contains(path, "/motion/") && t.Property.Join != scheme.Fixed && t.Property.Type.Live() && t.Node != nil
}

// recordBy makes a key of numbers at rest that would have moved what is seen just so far.
func (b *bench) recordBy(path string, numbers []float64) error {
	return b.recorded(path, func(join scheme.Join, k int, is, rest, now float64) float64 {
		want := numbers[min(k, len(numbers)-1)]
		if join == scheme.Times && rest != 0 {
			return is * want / rest
		}
		return is + want - rest
	})
}

// recordAs makes a key by which a property is seen as a value says.
func (b *bench) recordAs(path string, v scheme.Value) error {
	t, err := b.doc.Find(path)
	if err != nil {
		return err
	}
	switch t.Property.Type {
	case scheme.Numbers:
		want := v.Resolved(b.canvas()).Numbers
		if len(want) == 0 {
			return fmt.Errorf("value: is no number")
		}
		if t.Part < 0 {
			want = t.Property.Full(v.Resolved(b.canvas()))
		}
		return b.recorded(path, func(join scheme.Join, k int, is, _, now float64) float64 {
			n := want[min(k, len(want)-1)]
			switch {
			case join == scheme.Times && now != 0:
				return is * n / now
			case join == scheme.Plus:
				return is + n - now
			}
			return n
		})
	}
	s, err := b.strand(path)
	if err != nil {
		return err
	}
	if err := b.mayKey(s); err != nil {
		return err
	}
	if err := s.prop.CheckKey(b.doc, v, false); err != nil {
		return fmt.Errorf("value: %w", err)
	}
	i, err := b.keyAt(s, b.here(s))
	if err != nil {
		return err
	}
	s.move.Keys = slices.Clone(s.move.Keys)
	s.move.Keys[i].Value = v
	return b.keep(s)
}

// recorded sets keys at the frame that is looked at, of the numbers that become others. to tells what a number is to
// be by how it joins rest, which of the property's numbers it is, what it is with its key, at rest, and at the instant.
func (b *bench) recorded(path string, to func(join scheme.Join, k int, is, rest, now float64) float64) error {
	list, err := b.along(path)
	if err != nil {
		return err
	}
	if len(list) > 0 && list[0].part >= 0 && len(list) < list[0].prop.Width() {
		// Some of its numbers have keys; the others get some, too.
		if t, err := b.doc.Find(path); err == nil && t.Part < 0 {
			list = nil
			for _, name := range names(t.Property) {
				s, err := b.strand(strings.TrimSuffix(path, t.Property.Name) + name)
				if err != nil {
					return err
				}
				list = append(list, s)
			}
		}
	}
	for _, s := range list {
		if err := b.mayKey(s); err != nil {
			return err
		}
		rest, now, err := b.standing(s)
		if err != nil {
			return err
		}
		at := func(k int) int { return max(0, s.part) + k }
		if s.part >= 0 { // one that is as it was needs no key
			if v := to(s.joins(), at(0), now[0], rest[0], now[0]); v == now[0] {
				continue
			}
		}
		i, err := b.keyAt(s, b.here(s))
		if err != nil {
			return err
		}
		if err := b.sets(s, i, func(k int, is float64) float64 { return to(s.joins(), at(k), is, rest[k], now[k]) }); err != nil {
			return err
		}
		if err := b.keep(s); err != nil {
			return err
		}
	}
	return nil
}

// setSeen sets a number so that it is seen as it says at the instant: by a key, or by where it rests.
func (b *bench) setSeen(path string, n float64) error {
	if b.records(path) {
		return b.recordAs(path, scheme.One(n))
	}
	return b.set(path, n)
}

// shifted moves all of a motion that takes the place of rest, so that it is seen as a value says now.
func (b *bench) shifted(s *strand, v scheme.Value) error {
	if s.prop.Type != scheme.Numbers {
		return fmt.Errorf("%s is what its keys say; record, or set its keys", b.doc.Called(s.path))
	}
	_, now, err := b.standing(s)
	if err != nil {
		return err
	}
	want := v.Resolved(b.canvas()).Numbers
	if s.part < 0 {
		want = s.prop.Full(v.Resolved(b.canvas()))
	}
	if len(want) != len(now) {
		return fmt.Errorf("value: %s has %d numbers", b.doc.Called(s.path), len(now))
	}
	for i := range s.move.Keys {
		if err := b.sets(s, i, func(k int, is float64) float64 { return is + want[k] - now[k] }); err != nil {
			return fmt.Errorf("shifted with all its keys %w", err)
		}
	}
	return b.keep(s)
}

// shiftedBy changes all of a motion that takes the place of rest by as much as rest would change to become numbers.
func (b *bench) shiftedBy(s *strand, numbers []float64) error {
	rest, _, err := b.standing(s)
	if err != nil {
		return err
	}
	for i := range s.move.Keys {
		err := b.sets(s, i, func(k int, is float64) float64 {
			want := numbers[min(k, len(numbers)-1)]
			if s.prop.Join == scheme.Times && rest[k] != 0 {
				return is * want / rest[k]
			}
			return is + want - rest[k]
		})
		if err != nil {
			return fmt.Errorf("changed with all its keys %w", err)
		}
	}
	return b.keep(s)
}

// instead is the motion that takes a value's place at rest, nil where none does.
func (b *bench) instead(path string, n *template.Node, p *scheme.Property) (*strand, error) {
	if m := n.Motion[p.Name]; m == nil || m.Joins(p) != scheme.Instead || !strings.HasPrefix(path, "layers/") {
		return nil, nil
	}
	return b.strand(path)
}
