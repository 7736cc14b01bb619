package geom

import (
	"math"
	"slices"
)

// segments is how many curves a path has.
func (p Path) segments() int {
	if n := len(p.Nodes); p.Closed || n == 0 {
		return n
	}
	return len(p.Nodes) - 1
}

// curve is the four points of a segment: the way from one node to the next.
func (p Path) curve(i int) (c [4]Point) {
	a, b := p.Nodes[i], p.Nodes[(i+1)%len(p.Nodes)]
	return [4]Point{{a.X, a.Y}, {a.X + a.OutX, a.Y + a.OutY}, {b.X + b.InX, b.Y + b.InY}, {b.X, b.Y}}
}

func between(a, b Point, t float64) Point { return Point{a.X + (b.X-a.X)*t, a.Y + (b.Y-a.Y)*t} }

// straight reports whether a segment is one: neither end has a handle there.
func (p Path) straight(i int) bool {
	a, b := p.Nodes[i], p.Nodes[(i+1)%len(p.Nodes)]
	return a.OutX == 0 && a.OutY == 0 && b.InX == 0 && b.InY == 0
}

// At is the point of a segment at a parameter from 0 to 1.
func (p Path) At(segment int, t float64) Point {
	c := p.curve(segment)
	if p.straight(segment) {
		return between(c[0], c[3], t)
	}
	ab, bc, cd := between(c[0], c[1], t), between(c[1], c[2], t), between(c[2], c[3], t)
	return between(between(ab, bc, t), between(bc, cd, t), t)
}

// Nearest is the place on a path that lies nearest to a point: on which segment, at which
// parameter, and how far off. A path without segments has none, and is infinitely far.
func (p Path) Nearest(to Point) (segment int, t, far float64) {
	far = math.Inf(1)
	const steps = 32
	var d [steps + 1]float64
	for i := range p.segments() {
		for k := range d {
			d[k] = dist(p.At(i, float64(k)/steps), to)
		}
		for k := range d {
			if k > 0 && d[k-1] < d[k] || k < steps && d[k+1] < d[k] {
				continue
			}
			// Between the two places beside one that is nearer than they are lies one that is
			// nearest.
			lo, hi := math.Max(0, float64(k-1)/steps), math.Min(1, float64(k+1)/steps)
			for range 40 {
				a, b := lo+(hi-lo)/3, hi-(hi-lo)/3
				if dist(p.At(i, a), to) < dist(p.At(i, b), to) {
					hi = b
				} else {
					lo = a
				}
			}
			if u := (lo + hi) / 2; dist(p.At(i, u), to) < far {
				segment, t, far = i, u, dist(p.At(i, u), to)
			}
		}
	}
	return segment, t, far
}

// Split puts a node on a segment, which leaves the line as it is (de Casteljau). The new node
// comes after that in which the segment begins.
func (p Path) Split(segment int, t float64) Path {
	out := Path{slices.Clone(p.Nodes), p.Closed}
	c := p.curve(segment)
	m := p.At(segment, t)
	node := Node{X: m.X, Y: m.Y}
	if !p.straight(segment) { // such a one stays without handles
		ab, bc, cd := between(c[0], c[1], t), between(c[1], c[2], t), between(c[2], c[3], t)
		abc, bcd := between(ab, bc, t), between(bc, cd, t)
		a, b := &out.Nodes[segment], &out.Nodes[(segment+1)%len(p.Nodes)]
		node.InX, node.InY, node.OutX, node.OutY = abc.X-m.X, abc.Y-m.Y, bcd.X-m.X, bcd.Y-m.Y
		a.OutX, a.OutY = ab.X-c[0].X, ab.Y-c[0].Y
		b.InX, b.InY = cd.X-c[3].X, cd.Y-c[3].Y
	}
	out.Nodes = slices.Insert(out.Nodes, segment+1, node)
	return out
}

// Without takes nodes out; their neighbours are joined.
func (p Path) Without(picks []int) Path {
	out := Path{Closed: p.Closed}
	for i, n := range p.Nodes {
		if !slices.Contains(picks, i) {
			out.Nodes = append(out.Nodes, n)
		}
	}
	return out
}

// Cornered takes the handles of nodes away.
func (p Path) Cornered(picks []int) Path {
	out := Path{slices.Clone(p.Nodes), p.Closed}
	for _, i := range picks {
		n := &out.Nodes[i]
		n.InX, n.InY, n.OutX, n.OutY = 0, 0, 0, 0
	}
	return out
}

// Smoothed gives nodes handles along the line between their neighbours, a third as long as
// the way to each, so that the line runs through them without a corner.
func (p Path) Smoothed(picks []int) Path {
	n := len(p.Nodes)
	out := Path{slices.Clone(p.Nodes), p.Closed}
	for _, i := range picks {
		before, after := i-1, i+1
		if p.Closed {
			before, after = (i+n-1)%n, (i+1)%n
		}
		at := Point{p.Nodes[i].X, p.Nodes[i].Y}
		a, b := at, at
		if before >= 0 {
			a = Point{p.Nodes[before].X, p.Nodes[before].Y}
		}
		if after < n {
			b = Point{p.Nodes[after].X, p.Nodes[after].Y}
		}
		long := dist(a, b)
		if long == 0 {
			continue
		}
		dx, dy := (b.X-a.X)/long, (b.Y-a.Y)/long
		to := &out.Nodes[i]
		in, on := dist(a, at)/3, dist(at, b)/3
		to.InX, to.InY, to.OutX, to.OutY = -dx*in, -dy*in, dx*on, dy*on
	}
	return out
}

// Opened opens a closed path at a node: both ends lie there.
func (p Path) Opened(at int) Path {
	out := Path{Nodes: append(slices.Clone(p.Nodes[at:]), p.Nodes[:at+1]...)}
	out.Nodes[0].InX, out.Nodes[0].InY = 0, 0
	last := &out.Nodes[len(out.Nodes)-1]
	last.OutX, last.OutY = 0, 0
	return out
}

// Before is an open path as far as a node, which ends it.
func (p Path) Before(at int) Path {
	out := Path{Nodes: slices.Clone(p.Nodes[:at+1])}
	out.Nodes[at].OutX, out.Nodes[at].OutY = 0, 0
	return out
}

// After is an open path from a node on, which begins it.
func (p Path) After(at int) Path {
	out := Path{Nodes: slices.Clone(p.Nodes[at:])}
	out.Nodes[0].InX, out.Nodes[0].InY = 0, 0
	return out
}

// Shut closes a path; ends that lie on one another become one node. Near is how far apart
// they may be for that.
func (p Path) Shut(near float64) Path {
	out := Path{slices.Clone(p.Nodes), true}
	last := len(out.Nodes) - 1
	a, b := &out.Nodes[0], out.Nodes[last]
	if last > 1 && math.Hypot(a.X-b.X, a.Y-b.Y) <= near {
		a.InX, a.InY = b.InX, b.InY
		out.Nodes = out.Nodes[:last]
	}
	return out
}

// Merged makes one node of several that follow one another, in their middle. First and last
// are places among the nodes; of a closed path the last may come before the first.
func (p Path) Merged(first, last int) Path {
	n := len(p.Nodes)
	count := last - first + 1
	if count <= 0 {
		count += n
	}
	var m Node
	drop := map[int]bool{}
	for k := range count {
		i := (first + k) % n
		m.X += p.Nodes[i].X / float64(count)
		m.Y += p.Nodes[i].Y / float64(count)
		drop[i] = k > 0
	}
	a, b := p.Nodes[first], p.Nodes[last]
	m.InX, m.InY, m.OutX, m.OutY = a.InX, a.InY, b.OutX, b.OutY
	out := Path{Closed: p.Closed}
	for i, node := range p.Nodes {
		switch {
		case i == first:
			out.Nodes = append(out.Nodes, m)
		case !drop[i]:
			out.Nodes = append(out.Nodes, node)
		}
	}
	return out
}

// Bounds is the smallest upright box around all of a path's line, exact for its curves.
func (p Path) Bounds() Box {
	if len(p.Nodes) == 0 {
		return Box{}
	}
	pts := []Point{{p.Nodes[0].X, p.Nodes[0].Y}}
	for i := range p.segments() {
		c := p.curve(i)
		pts = append(pts, c[3])
		for axis := range 2 {
			v := func(k int) float64 { return [2]float64{c[k].X, c[k].Y}[axis] }
			// Where the derivative is nothing: a·t² + b·t + d = 0.
			a, b, d := 3*(v(3)-3*v(2)+3*v(1)-v(0)), 6*(v(2)-2*v(1)+v(0)), 3*(v(1)-v(0))
			for _, t := range roots(a, b, d) {
				if t > 0 && t < 1 {
					pts = append(pts, p.At(i, t))
				}
			}
		}
	}
	return Bounds(pts...)
}

// roots are those of a·t² + b·t + c.
func roots(a, b, c float64) []float64 {
	if math.Abs(a) < 1e-12 {
		if b == 0 {
			return nil
		}
		return []float64{-c / b}
	}
	d := b*b - 4*a*c
	if d < 0 {
		return nil
	}
	r := math.Sqrt(d)
	return []float64{(-b + r) / (2 * a), (-b - r) / (2 * a)}
}

// Through takes a path through a map: nodes, and where their handles end.
func (p Path) Through(m Projective) Path {
	out := Path{make([]Node, len(p.Nodes)), p.Closed}
	for i, n := range p.Nodes {
		at := m.Apply(Point{n.X, n.Y})
		in, on := m.Apply(Point{n.X + n.InX, n.Y + n.InY}), m.Apply(Point{n.X + n.OutX, n.Y + n.OutY})
		out.Nodes[i] = Node{X: at.X, Y: at.Y, InX: in.X - at.X, InY: in.Y - at.Y, OutX: on.X - at.X, OutY: on.Y - at.Y}
	}
	return out
}
