package geom

import "math"

// Node is a point of a drawn path with its two handles, which are displacements
// from the point; a node without handles is a corner.
type Node struct{ X, Y, InX, InY, OutX, OutY float64 }

// NodeWidth is how many numbers a node has.
const NodeWidth = 6

// Path is a line of cubic Bézier curves through nodes.
type Path struct {
	Nodes  []Node
	Closed bool
}

// Contours are lines of straight pieces, ready to be filled or stroked. Their
// memory is used again after Reset.
type Contours struct {
	Points []Point
	// Ends holds for each line the index after its last point; Closed whether
	// it goes back to its first.
	Ends   []int
	Closed []bool
}

// Reset takes all lines away.
func (c *Contours) Reset() { c.Points, c.Ends, c.Closed = c.Points[:0], c.Ends[:0], c.Closed[:0] }

// Len is the number of lines.
func (c *Contours) Len() int { return len(c.Ends) }

// Line returns the points of a line.
func (c *Contours) Line(i int) []Point {
	from := 0
	if i > 0 {
		from = c.Ends[i-1]
	}
	return c.Points[from:c.Ends[i]]
}

// add appends a point to the line that has not been ended yet, unless it is
// where the line already is.
func (c *Contours) add(p Point) {
	from := 0
	if n := len(c.Ends); n > 0 {
		from = c.Ends[n-1]
	}
	if n := len(c.Points); n > from && c.Points[n-1] == p {
		return
	}
	c.Points = append(c.Points, p)
}

// end ends the line; a closed one loses a last point that is its first again.
func (c *Contours) end(closed bool) {
	from := 0
	if n := len(c.Ends); n > 0 {
		from = c.Ends[n-1]
	}
	if closed && len(c.Points) > from+1 && c.Points[len(c.Points)-1] == c.Points[from] {
		c.Points = c.Points[:len(c.Points)-1]
	}
	if len(c.Points) == from {
		return
	}
	c.Ends = append(c.Ends, len(c.Points))
	c.Closed = append(c.Closed, closed)
}

// Map takes every point through a map.
func (c *Contours) Map(m Projective) {
	for i, p := range c.Points {
		c.Points[i] = m.Apply(p)
	}
}

// Bounds is the smallest box around all lines.
func (c *Contours) Bounds() Box { return Bounds(c.Points...) }

// curve appends a cubic Bézier curve, without its first point, in pieces that
// stay within a tolerance of it.
//
// The chord of a piece of length 1/n of the parameter departs from the curve by
// at most max|B″|/8n², and B″ lies between 6·(p0−2p1+p2) and 6·(p1−2p2+p3).
func (c *Contours) curve(p0, p1, p2, p3 Point, tolerance float64) {
	bend := math.Max(math.Hypot(p0.X-2*p1.X+p2.X, p0.Y-2*p1.Y+p2.Y), math.Hypot(p1.X-2*p2.X+p3.X, p1.Y-2*p2.Y+p3.Y))
	n := int(math.Min(maxPieces, math.Ceil(math.Sqrt(0.75*bend/tolerance))))
	for i := 1; i < n; i++ {
		u := float64(i) / float64(n)
		v := 1 - u
		a, b, d, e := v*v*v, 3*v*v*u, 3*v*u*u, u*u*u
		c.add(Point{a*p0.X + b*p1.X + d*p2.X + e*p3.X, a*p0.Y + b*p1.Y + d*p2.Y + e*p3.Y})
	}
	c.add(p3)
}

// maxPieces bounds the straight pieces of one curve.
const maxPieces = 500

// AddPath appends a path in straight pieces within a tolerance.
func (c *Contours) AddPath(p Path, tolerance float64) {
	for i, n := range p.Nodes {
		if i == 0 {
			c.add(Point{n.X, n.Y})
			continue
		}
		c.step(p.Nodes[i-1], n, tolerance)
	}
	if n := len(p.Nodes); p.Closed && n > 1 {
		c.step(p.Nodes[n-1], p.Nodes[0], tolerance)
	}
	c.end(p.Closed)
}

func (c *Contours) step(a, b Node, tolerance float64) {
	if a.OutX == 0 && a.OutY == 0 && b.InX == 0 && b.InY == 0 {
		c.add(Point{b.X, b.Y})
		return
	}
	c.curve(Point{a.X, a.Y}, Point{a.X + a.OutX, a.Y + a.OutY}, Point{b.X + b.InX, b.Y + b.InY}, Point{b.X, b.Y}, tolerance)
}

// arc appends an arc of an ellipse with upright axes, without its first
// point; angles are in radians from the x axis, growing clockwise.
func (c *Contours) arc(centre Point, rx, ry, from, to, tolerance float64) {
	r := math.Max(rx, ry)
	step := math.Pi / 2
	if r > tolerance {
		step = math.Min(step, 2*math.Acos(1-tolerance/r))
	}
	n := int(math.Min(maxPieces, math.Max(1, math.Ceil(math.Abs(to-from)/step))))
	for i := 1; i <= n; i++ {
		s, k := math.Sincos(from + (to-from)*float64(i)/float64(n))
		c.add(Point{centre.X + rx*k, centre.Y + ry*s})
	}
}

// Length is the length of all lines together.
func (c *Contours) Length() float64 {
	sum := 0.0
	for i := range c.Ends {
		sum += lineLength(c.Line(i), c.Closed[i])
	}
	return sum
}

func lineLength(line []Point, closed bool) float64 {
	sum := 0.0
	for i := 1; i < len(line); i++ {
		sum += dist(line[i-1], line[i])
	}
	if n := len(line); closed && n > 1 {
		sum += dist(line[n-1], line[0])
	}
	return sum
}

func dist(a, b Point) float64 { return math.Hypot(b.X-a.X, b.Y-a.Y) }

// RoundCorners returns contours whose corners are replaced by arcs of a radius,
// smaller where a side is too short. Corners are where two straight pieces meet
// at more than a few degrees; what is curved already stays as it is.
func (c *Contours) RoundCorners(dst *Contours, radius, tolerance float64) {
	dst.Reset()
	for l := range c.Ends {
		line, closed := c.Line(l), c.Closed[l]
		n := len(line)
		for i, p := range line {
			if n < 3 || !closed && (i == 0 || i == n-1) {
				dst.add(p)
				continue
			}
			a, b := line[(i+n-1)%n], line[(i+1)%n]
			la, lb := dist(a, p), dist(p, b)
			ux, uy := (a.X-p.X)/la, (a.Y-p.Y)/la
			vx, vy := (b.X-p.X)/lb, (b.Y-p.Y)/lb
			cos := ux*vx + uy*vy // of the angle between the sides
			if cos < -0.985 {    // turns by less than 10°
				dst.add(p)
				continue
			}
			half := math.Acos(math.Max(-1, math.Min(1, cos))) / 2
			t := radius / math.Tan(half)
			t = math.Min(t, math.Min(la, lb)/2)
			r := t * math.Tan(half)
			bx, by := ux+vx, uy+vy
			k := r / math.Sin(half) / math.Hypot(bx, by)
			o := Point{p.X + bx*k, p.Y + by*k}
			s, e := Point{p.X + ux*t, p.Y + uy*t}, Point{p.X + vx*t, p.Y + vy*t}
			from := math.Atan2(s.Y-o.Y, s.X-o.X)
			to := math.Atan2(e.Y-o.Y, e.X-o.X)
			for to-from > math.Pi {
				to -= 2 * math.Pi
			}
			for from-to > math.Pi {
				to += 2 * math.Pi
			}
			dst.add(s)
			dst.arc(o, r, r, from, to, tolerance)
		}
		dst.end(closed)
	}
}

// Part returns the part of the lines from one share of their whole length to
// another, 0 to 1. Closed lines that are kept whole stay closed.
func (c *Contours) Part(dst *Contours, from, to float64) {
	dst.Reset()
	if !(to > from) {
		return
	}
	total := c.Length()
	a, b := from*total, to*total
	for i := range c.Ends {
		line, closed := c.Line(i), c.Closed[i]
		n := lineLength(line, closed)
		if a <= 0 && b >= n*(1-1e-12) {
			for _, p := range line {
				dst.add(p)
			}
			dst.end(closed)
		} else if a < n && b > 0 {
			dst.cut(line, closed, math.Max(0, a), math.Min(n, b))
		}
		a -= n
		b -= n
	}
}

// cut appends the part of a line between two lengths as an open line.
func (c *Contours) cut(line []Point, closed bool, a, b float64) {
	at := 0.0
	n := len(line)
	last := n - 1
	if closed {
		last = n
	}
	for i := 0; i < last; i++ {
		p, q := line[i], line[(i+1)%n]
		d := dist(p, q)
		if at+d >= a && at <= b && d > 0 {
			if s := math.Max(0, (a-at)/d); s <= 1 {
				c.add(Point{p.X + (q.X-p.X)*s, p.Y + (q.Y-p.Y)*s})
			}
			e := math.Min(1, (b-at)/d)
			c.add(Point{p.X + (q.X-p.X)*e, p.Y + (q.Y-p.Y)*e})
		}
		at += d
	}
	c.end(false)
}

// Dash returns the lines cut into dashes: lengths of line and gap in turn,
// beginning at an offset into the pattern, anew for every line, as SVG 2's
// stroke-dasharray and stroke-dashoffset say. A pattern that sums to nothing
// leaves the lines whole.
func (c *Contours) Dash(dst *Contours, pattern []float64, offset float64) {
	dst.Reset()
	sum := 0.0
	for _, d := range pattern {
		sum += math.Max(0, d)
	}
	if len(pattern)%2 == 1 {
		sum *= 2 // an odd pattern is taken twice
	}
	for i := range c.Ends {
		line, closed := c.Line(i), c.Closed[i]
		n := lineLength(line, closed)
		if !(sum > 0) || n/sum*float64(len(pattern)) > maxDashes {
			for _, p := range line {
				dst.add(p)
			}
			dst.end(closed)
			continue
		}
		at := -math.Mod(offset, sum)
		if at > 0 {
			at -= sum
		}
		for k := 0; at < n; k++ {
			d := math.Max(0, pattern[k%len(pattern)])
			if k%2 == 0 && at+d > 0 && (d > 0 || at >= 0) {
				dst.cut(line, closed, math.Max(0, at), math.Min(n, at+d))
			}
			at += d
		}
	}
}

// maxDashes bounds the dashes of one line.
const maxDashes = 20000
