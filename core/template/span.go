package template

import (
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

// Moving is the motion of a property of a layer, or of something in it.
type Moving struct {
	Path string // of the property, or of its number
	Of   *Node
	Prop *scheme.Property
	Part int // that number, -1 all
	Move *Move
}

// Moving are the motions of a layer, of its masks, treatments and stops, in the order of the tables.
func (n *Node) Moving() (out []Moving) {
	var all func(n *Node, path string)
	all = func(n *Node, path string) {
		if len(n.Motion) > 0 {
			for _, p := range n.Properties() {
				if m := n.Motion[p.Name]; m != nil {
					out = append(out, Moving{path + "/" + p.Name, n, p, -1, m})
				}
				for part := range p.Parts {
					if m := n.Motion[p.Of(part)]; m != nil && p.Of(part) != p.Name {
						out = append(out, Moving{path + "/" + p.Of(part), n, p, part, m})
					}
				}
			}
		}
		for i, part := range n.sort.Parts {
			if part.Of != scheme.Layers {
				for _, in := range n.Part(i) {
					if in.along != "" {
						continue // it is of a move
					}
					all(in, path+"/"+part.Name+"/"+in.ID)
				}
			}
		}
	}
	all(n, "layers/"+n.ID)
	return out
}
