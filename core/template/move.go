package template

import (
	"fmt"
	"slices"

	"ivypocket/core/geom"
	"ivypocket/core/scheme"
	"ivypocket/core/timing"
)

// Move is the motion of one property, or of one of its numbers.
type Move struct {
	// Unit says what 1 is for a move that adds lengths: the width or height of
	// the canvas, or of the layer itself. A move that multiplies lengths may be
	// "own": its keys are then lengths, and take the place of rest.
	Unit string `json:"unit,omitempty" enum:"canvas,self,own"`
	// Even keeps the speed along the way even.
	Even bool  `json:"even,omitempty"`
	Keys []Key `json:"keys"`
}

// Units of moves.
const (
	CanvasUnit = "canvas"
	SelfUnit   = "self"
	OwnUnit    = "own"
)

// Key is a value at an instant, and how the way to the next is eased.
type Key struct {
	ID    string       `json:"id,omitempty" doc:"Absent: its place, such as k3"`
	At    timing.Rat   `json:"at,omitzero" doc:"Frames of the template's rate; inner keys of an even way may leave it out"`
	Value scheme.Value `json:"value"`
	// Ease leads to the next key; absent is linear.
	Ease *timing.Easing `json:"ease,omitempty"`
	// Steps lead there in its place.
	Steps *timing.Steps `json:"steps,omitempty"`
	// Named is the document's easing that those are of.
	Named string `json:"named,omitempty"`
	// Hold keeps the value until the next key.
	Hold bool `json:"hold,omitempty"`
	// Out and In bend the way of a place: handles as displacements from the key.
	Out *[2]float64 `json:"out,omitempty"`
	In  *[2]float64 `json:"in,omitempty"`
}

func (m *Move) clone() *Move {
	c := *m
	c.Keys = append([]Key(nil), m.Keys...)
	return &c
}

// key finds a key by id.
func (m *Move) key(id string) *Key {
	for i := range m.Keys {
		if m.Keys[i].ID == id {
			return &m.Keys[i]
		}
	}
	return nil
}

// Joins is how the move joins rest: as the property does, or in its place when
// its keys are in the property's own measure.
func (m *Move) Joins(p *scheme.Property) scheme.Join {
	if m.Unit == OwnUnit {
		return scheme.Instead
	}
	return p.Join
}

// width is how many numbers a key of a property, or of one of its numbers, has.
func (n *Node) width(p *scheme.Property, part int) int {
	switch {
	case part >= 0:
		return 1
	case p.Type == scheme.List || p.Type == scheme.Points:
		return len(n.Get(p).Numbers)
	}
	return p.Width()
}

// Track makes the keys of a property, or of one of its numbers, ready for a
// canvas, by which lengths in shares of it are measured. The error begins with
// the place of the key at fault.
func (d *Document) Track(n *Node, p *scheme.Property, part int, m *Move, canvas geom.Size) (*timing.Track, error) {
	if p.Join == scheme.Fixed || !p.Type.Live() {
		return nil, fmt.Errorf(": %s does not move; it is settled once for the whole time", p.Name)
	}
	width, held := n.width(p, part), p.Type == scheme.Choice || p.Type == scheme.Switch
	keys := make([]timing.Key, len(m.Keys))
	for i, k := range m.Keys {
		keys[i] = timing.Key{At: k.At, Ease: k.Ease, Steps: k.Steps, Hold: k.Hold || held}
		if held && k.Ease != nil {
			return nil, fmt.Errorf("[%d].ease: %s goes from one value to the next at once; leave it out", i, p.Name)
		}
		if held && k.Steps != nil {
			return nil, fmt.Errorf("[%d].steps: %s goes from one value to the next at once; leave them out", i, p.Name)
		}
		if k.Out != nil || k.In != nil {
			if !p.Way || part >= 0 {
				return nil, fmt.Errorf("[%d]: handles out and in bend the way of a place; %s has no way", i, p.Of(part))
			}
			if k.Out != nil {
				keys[i].Out = *k.Out
			}
			if k.In != nil {
				keys[i].In = *k.In
			}
			for _, v := range append(keys[i].Out[:], keys[i].In[:]...) {
				if v < -scheme.MaxShare || v > scheme.MaxShare {
					return nil, fmt.Errorf("[%d]: handle: %g is outside %d to %d", i, v, -scheme.MaxShare, scheme.MaxShare)
				}
			}
		}
		v, err := d.keyValue(p, part, width, k.Value, m.Unit == OwnUnit)
		if err != nil {
			return nil, fmt.Errorf("[%d].value: %w", i, err)
		}
		keys[i].Value = v
		if k.Value.Shorter != 0 {
			keys[i].Value = p.Full(k.Value.Resolved(canvas))
		}
	}
	blend := timing.Plain
	switch {
	case p.Type == scheme.Colour:
		blend = timing.Colours
	case m.Even && (!p.Way || part >= 0):
		return nil, fmt.Errorf(": even speed is for places; %s has none", p.Of(part))
	case m.Even:
		blend = timing.EvenPlaces
	case p.Way && part < 0:
		blend = timing.Places
	}
	if blend == timing.EvenPlaces || blend == timing.Places {
		by := canvas
		if m.Unit == SelfUnit {
			size := scheme.Size
			if n.sort == scheme.Masks {
				size = scheme.MaskSize
			}
			if v, given := n.Value(size); given {
				if v = v.Resolved(canvas); len(v.Numbers) == 2 && v.Numbers[0] > 0 && v.Numbers[1] > 0 {
					by = geom.Size{W: v.Numbers[0], H: v.Numbers[1]}
				}
			}
		}
		return timing.NewWay(keys, m.Even, [2]float64{by.W, by.H})
	}
	return timing.NewTrack(keys, width, blend)
}

// keyValue is a key's value as numbers.
func (d *Document) keyValue(p *scheme.Property, part, width int, v scheme.Value, own bool) ([]float64, error) {
	if part >= 0 {
		if len(v.Numbers) != 1 || v.Wide != 0 || v.Truth {
			return nil, fmt.Errorf("is not one number")
		}
		// Checked as if all of the property's numbers were this one.
		all := scheme.Value{}
		for range max(1, p.Width(), p.Least) {
			all.Numbers = append(all.Numbers, v.Numbers[0])
		}
		if v.Shorter != 0 {
			all.Shorter = 1<<len(all.Numbers) - 1
		}
		return v.Numbers, p.CheckKey(d, all, own)
	}
	if err := p.CheckKey(d, v, own); err != nil {
		return nil, err
	}
	switch p.Type {
	case scheme.Colour:
		c, err := d.Colour(v.Text)
		return []float64{float64(c.R), float64(c.G), float64(c.B), float64(c.A)}, err
	case scheme.Choice:
		return []float64{float64(p.Word(v.Text))}, nil
	case scheme.Points:
		if len(v.Numbers) != width {
			return nil, fmt.Errorf("needs %d points, so that each matches one of the path's", width/v.Wide)
		}
	case scheme.List:
		if len(v.Numbers) != width {
			return nil, fmt.Errorf("needs %d numbers, as many as there are at rest", width)
		}
	}
	return p.Full(v), nil
}

// Crosses are the keys from which something changes on its way to the next across one of some
// frames, such as the borders of held time; it plays so late.
func (m *Move) Crosses(late timing.Rat, borders []int64) (ids []string) {
	for i, k := range m.Keys {
		if k.Hold || k.At.D == 0 {
			continue
		}
		changes := false
		next := i + 1 // that has an instant: inner keys of an even way may leave it out
		for ; next < len(m.Keys); next++ {
			changes = changes || !k.Value.Equal(m.Keys[next].Value)
			if m.Keys[next].At.D != 0 {
				break
			}
		}
		if next == len(m.Keys) || !changes {
			continue
		}
		from, to := k.At.Add(late), m.Keys[next].At.Add(late)
		if slices.ContainsFunc(borders, func(b int64) bool { return from.Cmp(timing.Int(b)) < 0 && timing.Int(b).Cmp(to) < 0 }) {
			ids = append(ids, k.ID)
		}
	}
	return ids
}
