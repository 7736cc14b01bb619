package template

import (
	"slices"

	"ivypocket/core/scheme"
	"ivypocket/core/timing"
)

// Trim is when a layer is there: from one instant up to another.
func (n *Node) Trim(d *Document) (in, out timing.Rat) {
	in, out = timing.Int(0), timing.Int(d.Frames)
	if t, err := n.Get(scheme.In).Time(); err == nil && n.Given(scheme.In) {
		in = t
	}
	if t, err := n.Get(scheme.Out).Time(); err == nil && n.Given(scheme.Out) {
		out = t
	}
	return in, out
}

// Shift is how much later a layer plays than it would by itself.
func (n *Node) Shift() timing.Rat {
	if t, err := n.Get(scheme.Shift).Time(); err == nil {
		return t
	}
	return timing.Int(0)
}

// Late is how much later a layer plays with the groups it is in.
func (d *Document) Late(id string) timing.Rat {
	_, way, list := d.place(id)
	sum := timing.Int(0)
	for i := range way {
		sum = sum.Add(follow(list, way[:i+1]).Shift())
	}
	return sum
}

// Span is when a layer that is so late is there in the template's time. What it does not say of
// itself is the template's, which nothing shifts.
func (n *Node) Span(d *Document, late timing.Rat) (in, out timing.Rat) {
	in, out = n.Trim(d)
	if n.Given(scheme.In) {
		in = in.Add(late)
	}
	if n.Given(scheme.Out) {
		out = out.Add(late)
	}
	return in, out
}

// KeyTimes are the instants of all keys of a layer that is so late, of its masks, treatments and
// stops, in the template's time, each once, in order.
func (n *Node) KeyTimes(late timing.Rat) []timing.Rat {
	var out []timing.Rat
	var all func(n *Node)
	all = func(n *Node) {
		for _, m := range n.Motion {
			for _, k := range m.Keys {
				if k.At.D != 0 { // those of an even way are passed on the way
					out = append(out, k.At.Add(late))
				}
			}
		}
		for i, part := range n.sort.Parts {
			if part.Of != scheme.Layers {
				for _, in := range n.Part(i) {
					all(in)
				}
			}
		}
	}
	all(n)
	slices.SortFunc(out, timing.Rat.Cmp)
	return slices.CompactFunc(out, func(a, b timing.Rat) bool { return a.Cmp(b) == 0 })
}
