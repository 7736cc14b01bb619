package geom

import (
	"math"
	"sync"
)

// Outlines are closed lines of curves, such as those of letters. They are not changed
// once Done has been called.
type Outlines struct {
	Paths []Path
	// Box holds all of them, their handles included.
	Box Box
	// Key tells them from others: whoever makes them says it.
	Key [16]byte

	edge func() *Outlines
}

// EdgeBy says how the edge of what the outlines enclose together is made.
func (o *Outlines) EdgeBy(edge func() *Outlines) { o.edge = sync.OnceValue(edge) }

// Edge is the edge of what they enclose together: outlines that cross nowhere. It is made
// once; outlines that nobody has said it of are their own edge.
func (o *Outlines) Edge() *Outlines {
	if o.edge == nil {
		return o
	}
	return o.edge()
}

// Add adds paths, taken through a map.
func (o *Outlines) Add(paths []Path, m Affine) {
	for _, p := range paths {
		q := Path{Closed: p.Closed, Nodes: make([]Node, len(p.Nodes))}
		for i, n := range p.Nodes {
			q.Nodes[i] = Node{X: m.A*n.X + m.C*n.Y + m.E, Y: m.B*n.X + m.D*n.Y + m.F,
				InX: m.A*n.InX + m.C*n.InY, InY: m.B*n.InX + m.D*n.InY, OutX: m.A*n.OutX + m.C*n.OutY, OutY: m.B*n.OutX + m.D*n.OutY}
		}
		o.Paths = append(o.Paths, q)
	}
}

// Done ends the adding. Outlines of one key are the same.
func (o *Outlines) Done(key [16]byte) {
	o.Key = key
	x0, y0, x1, y1 := math.Inf(1), math.Inf(1), math.Inf(-1), math.Inf(-1)
	reach := func(x, y float64) {
		x0, y0, x1, y1 = math.Min(x0, x), math.Min(y0, y), math.Max(x1, x), math.Max(y1, y)
	}
	n := 0
	for _, p := range o.Paths {
		n += len(p.Nodes)
	}
	for _, p := range o.Paths {
		for _, n := range p.Nodes {
			reach(n.X, n.Y)
			reach(n.X+n.InX, n.Y+n.InY)
			reach(n.X+n.OutX, n.Y+n.OutY)
		}
	}
	if n > 0 {
		o.Box = Box{X: x0, Y: y0, W: x1 - x0, H: y1 - y0}
	}
}
