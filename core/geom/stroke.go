package geom

import "math"

// Cap is how the end of an open line looks; the words are SVG 2's
// stroke-linecap.
type Cap string

const (
	Butt      Cap = "butt"
	RoundCap  Cap = "round"
	SquareCap Cap = "square"
)

// Join is how a line's corners look; the words are SVG 2's stroke-linejoin.
type Join string

const (
	Miter     Join = "miter"
	RoundJoin Join = "round"
	Bevel     Join = "bevel"
)

// Pen says how a line is drawn.
type Pen struct {
	Width float64
	Cap   Cap
	Join  Join
	// MiterLimit is the longest a mitred corner may be, in widths; beyond it
	// the corner is bevelled. 0 is SVG's initial value, 4.
	MiterLimit float64
}

// Stroke appends the outline of lines drawn with a pen. It is to be filled by
// the non-zero rule.
//
// Each side of a line is followed at half the width; where it turns, the outer
// side gets the join, and the inner one the point where its two pieces meet.
// Where they are too short to meet it goes through the corner itself, so that
// what overlaps goes round the same way.
func (c *Contours) Stroke(dst *Contours, pen Pen, tolerance float64) {
	if !(pen.Width > 0) {
		return
	}
	if pen.MiterLimit <= 0 {
		pen.MiterLimit = 4
	}
	s := stroker{dst: dst, pen: pen, r: pen.Width / 2, tolerance: tolerance}
	for i := range c.Ends {
		line, closed := c.Line(i), c.Closed[i]
		switch n := len(line); {
		case n == 1:
			s.dot(line[0])
		case closed && n > 2:
			s.side(line, true, false)
			dst.end(true)
			s.side(line, true, true)
			dst.end(true)
		default:
			s.side(line, false, false)
			s.cap(line[n-2], line[n-1])
			s.side(line, false, true)
			s.cap(line[1], line[0])
			dst.end(true)
		}
	}
}

type stroker struct {
	dst       *Contours
	pen       Pen
	r         float64
	tolerance float64
}

// dot is what a line without length leaves: SVG 2 draws its caps.
func (s *stroker) dot(p Point) {
	switch s.pen.Cap {
	case RoundCap:
		s.dst.add(Point{p.X + s.r, p.Y})
		s.dst.arc(p, s.r, s.r, 0, 2*math.Pi, s.tolerance)
		s.dst.end(true)
	case SquareCap:
		for _, q := range (Box{p.X - s.r, p.Y - s.r, 2 * s.r, 2 * s.r}).Corners() {
			s.dst.add(q)
		}
		s.dst.end(true)
	}
}

// side follows one side of a line, forwards or back.
func (s *stroker) side(line []Point, closed, back bool) {
	n := len(line)
	at := func(i int) Point {
		i = ((i % n) + n) % n
		if back {
			return line[n-1-i]
		}
		return line[i]
	}
	steps := n - 1
	if closed {
		steps = n
	}
	for i := range steps {
		p, q := at(i), at(i+1)
		ox, oy := s.normal(p, q)
		from, to := Point{p.X + ox, p.Y + oy}, Point{q.X + ox, q.Y + oy}
		if i == 0 && closed {
			if m, ok := s.inner(at(-1), p, q); ok {
				from = m
			} else {
				s.join(at(-1), p, q)
			}
		}
		if i == 0 {
			s.dst.add(from)
		}
		if i+1 == steps {
			if closed {
				if m, ok := s.inner(p, q, at(i+2)); ok {
					to = m
				}
			}
			s.dst.add(to)
			return
		}
		if m, ok := s.inner(p, q, at(i+2)); ok {
			s.dst.add(m)
			continue
		}
		s.dst.add(to)
		s.join(p, q, at(i+2))
		ox, oy = s.normal(q, at(i+2))
		s.dst.add(Point{q.X + ox, q.Y + oy})
	}
}

// inner is where the left sides of two pieces meet, if they turn to the left and
// are long enough.
func (s *stroker) inner(a, p, b Point) (m Point, ok bool) {
	x1, y1 := s.normal(a, p)
	x2, y2 := s.normal(p, b)
	r2 := s.r * s.r
	dot := x1*x2 + y1*y2
	if x1*y2-y1*x2 >= 0 || 1+dot/r2 < 1e-6 {
		return m, false
	}
	k := 1 / (1 + dot/r2)
	// How far from the corner along either piece: r·tan of half the turn. Each end
	// of a piece may take half of it, or what is left would run backwards.
	if back := s.r * math.Sqrt(math.Max(0, (1-dot/r2)*k)); 2*back > math.Min(dist(a, p), dist(p, b)) {
		return m, false
	}
	return Point{p.X + (x1+x2)*k, p.Y + (y1+y2)*k}, true
}

// normal is the way from a line from p to q to its left side, half a width long.
func (s *stroker) normal(p, q Point) (x, y float64) {
	d := dist(p, q)
	return (q.Y - p.Y) / d * s.r, -(q.X - p.X) / d * s.r
}

// join goes round a corner on the left side of two pieces.
func (s *stroker) join(a, p, b Point) {
	x1, y1 := s.normal(a, p)
	x2, y2 := s.normal(p, b)
	cross := x1*y2 - y1*x2
	dot := x1*x2 + y1*y2
	if cross <= 0 && !(cross == 0 && dot < 0) { // the inner side, or straight on
		if cross < 0 {
			s.dst.add(p)
		}
		return
	}
	r2 := s.r * s.r
	// Pieces of a flattened curve turn by a few degrees; they are mitred, so
	// that a bevel does not flatten the curve.
	join := s.pen.Join
	if dot > 0.985*r2 {
		join = Miter
	}
	switch join {
	case RoundJoin:
		from := math.Atan2(y1, x1)
		s.dst.arc(p, s.r, s.r, from, from+math.Atan2(cross, dot), s.tolerance)
	case Bevel:
	default:
		// The miter's length over the width is 1/sin(θ/2), and cos of the
		// normals' angle is -cos θ (SVG 2, stroke-miterlimit).
		sin2 := (1 + dot/r2) / 2
		if sin2 > 1e-12 && 1/sin2 <= s.pen.MiterLimit*s.pen.MiterLimit {
			k := 1 / (1 + dot/r2)
			s.dst.add(Point{p.X + (x1+x2)*k, p.Y + (y1+y2)*k})
		}
	}
}

// cap goes round the end q of a piece from p, from its left side to its right.
func (s *stroker) cap(p, q Point) {
	x, y := s.normal(p, q)
	switch s.pen.Cap {
	case RoundCap:
		from := math.Atan2(y, x)
		s.dst.arc(q, s.r, s.r, from, from+math.Pi, s.tolerance)
	case SquareCap:
		// The normal turned forwards.
		s.dst.add(Point{q.X + x - y, q.Y + y + x})
		s.dst.add(Point{q.X - x - y, q.Y - y + x})
	}
}
