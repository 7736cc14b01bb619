package raster

import (
	"math"
	"sort"

	"ivypocket/core/geom"
)

// Trace is what is visible of a picture: the box, the hull and the outline of
// the pixels that are at least half opaque, in shares of the picture's size.
type Trace struct {
	box     geom.Contours
	hull    geom.Contours
	outline geom.Contours
}

// Lines returns the lines of "box", "hull" or "outline" in pixels of a size.
func (t *Trace) Lines(of string, size geom.Size) *geom.Contours {
	from := &t.box
	switch of {
	case "hull":
		from = &t.hull
	case "outline":
		from = &t.outline
	}
	out := &geom.Contours{Points: append([]geom.Point(nil), from.Points...), Ends: from.Ends, Closed: from.Closed}
	out.Map(geom.Scale(size.W, size.H).Flat())
	return out
}

// NewTrace traces a surface. A picture of which nothing is visible has no lines.
func NewTrace(s *Surface) *Trace {
	t := &Trace{}
	if s.Opaque {
		whole := geom.Form{Kind: geom.Rectangle, Size: geom.Size{W: 1, H: 1}}
		var spare geom.Contours
		whole.Contours(&t.box, &spare, 1)
		t.hull, t.outline = t.box, t.box
		return t
	}
	level := func(x, y int) float64 {
		if x < 0 || y < 0 || x >= s.W || y >= s.H {
			return 0
		}
		return float64(s.Pix[(y*s.W+x)*4+3])
	}
	lines := march(s.W, s.H, level)
	var all []geom.Point
	for _, l := range lines {
		l = simplify(l, 0.35)
		if len(l) < 3 {
			continue
		}
		for i := range l {
			l[i] = geom.Point{X: math.Max(0, math.Min(1, l[i].X/float64(s.W))), Y: math.Max(0, math.Min(1, l[i].Y/float64(s.H)))}
		}
		all = append(all, l...)
		add(&t.outline, l)
	}
	if all == nil {
		return t
	}
	b := geom.Bounds(all...)
	c := b.Corners()
	add(&t.box, c[:])
	add(&t.hull, hull(all))
	return t
}

// Lines are the closed lines around what is at least half of 255 in a field of
// numbers, in its pixels; level is asked within the field alone.
func Lines(w, h int, level func(x, y int) float64) [][]geom.Point {
	out := [][]geom.Point{}
	for _, l := range march(w, h, func(x, y int) float64 {
		if x < 0 || y < 0 || x >= w || y >= h {
			return 0
		}
		return level(x, y)
	}) {
		if l = simplify(l, 0.35); len(l) >= 3 {
			out = append(out, l)
		}
	}
	return out
}

func add(c *geom.Contours, l []geom.Point) {
	c.Points = append(c.Points, l...)
	c.Ends = append(c.Ends, len(c.Points))
	c.Closed = append(c.Closed, true)
}

// march follows the line along which a field of pixels' middles is half of 255
// (marching squares, Lorensen and Cline 1987 in the plane): closed lines with
// the inside on their right, crossing between middles where a straight slope
// would.
func march(w, h int, level func(x, y int) float64) [][]geom.Point {
	const half = 127.5
	// An edge between two middles: of (x, y) to its right or below it.
	type edge struct {
		x, y int
		down bool
	}
	next := map[edge]edge{}
	at := func(e edge) geom.Point {
		a := level(e.x, e.y)
		p := geom.Point{X: float64(e.x) + 0.5, Y: float64(e.y) + 0.5}
		if e.down {
			p.Y += (half - a) / (level(e.x, e.y+1) - a)
		} else {
			p.X += (half - a) / (level(e.x+1, e.y) - a)
		}
		return p
	}
	var starts []edge
	for y := -1; y < h; y++ {
		for x := -1; x < w; x++ {
			in := [4]bool{level(x, y) > half, level(x+1, y) > half, level(x+1, y+1) > half, level(x, y+1) > half}
			sides := [4]edge{{x, y, false}, {x + 1, y, true}, {x, y + 1, false}, {x, y, true}} // top, right, bottom, left
			link := func(from, to int) {
				next[sides[from]] = sides[to]
				starts = append(starts, sides[from])
			}
			code := 0
			for k, v := range in {
				if v {
					code |= 1 << k
				}
			}
			// Going along with the inside on the right: corners are counted
			// clockwise from the top left, sides likewise from the top.
			switch code {
			case 1:
				link(3, 0)
			case 2:
				link(0, 1)
			case 3:
				link(3, 1)
			case 4:
				link(1, 2)
			case 5: // two corners that touch: kept apart
				link(3, 0)
				link(1, 2)
			case 6:
				link(0, 2)
			case 7:
				link(3, 2)
			case 8:
				link(2, 3)
			case 9:
				link(2, 0)
			case 10:
				link(0, 1)
				link(2, 3)
			case 11:
				link(2, 1)
			case 12:
				link(1, 3)
			case 13:
				link(1, 0)
			case 14:
				link(0, 3)
			}
		}
	}
	var out [][]geom.Point
	for _, s := range starts {
		var l []geom.Point
		for e := s; ; {
			to, ok := next[e]
			if !ok {
				break
			}
			delete(next, e)
			l = append(l, at(e))
			e = to
		}
		if len(l) > 2 {
			out = append(out, l)
		}
	}
	return out
}

// simplify leaves out points that depart from a straight line by less than a
// tolerance (Douglas and Peucker 1973), on a closed line.
func simplify(l []geom.Point, tolerance float64) []geom.Point {
	if len(l) < 4 {
		return l
	}
	// Begun at the two points furthest apart along one axis.
	a, b := 0, 0
	for i, p := range l {
		if p.X < l[a].X {
			a = i
		}
		if p.X > l[b].X {
			b = i
		}
	}
	if a > b {
		a, b = b, a
	}
	first := append([]geom.Point(nil), l[a:b+1]...)
	second := append(append([]geom.Point(nil), l[b:]...), l[:a+1]...)
	out := thin(first, tolerance)
	rest := thin(second, tolerance)
	return append(out[:len(out)-1], rest[:len(rest)-1]...)
}

func thin(l []geom.Point, tolerance float64) []geom.Point {
	if len(l) < 3 {
		return l
	}
	a, b := l[0], l[len(l)-1]
	n := math.Hypot(b.X-a.X, b.Y-a.Y)
	at, most := 0, 0.0
	for i := 1; i < len(l)-1; i++ {
		d := math.Hypot(l[i].X-a.X, l[i].Y-a.Y)
		if n > 0 {
			d = math.Abs((b.X-a.X)*(l[i].Y-a.Y)-(b.Y-a.Y)*(l[i].X-a.X)) / n
		}
		if d > most {
			at, most = i, d
		}
	}
	if most <= tolerance {
		return []geom.Point{a, b}
	}
	left := thin(l[:at+1], tolerance)
	return append(left[:len(left)-1:len(left)-1], thin(l[at:], tolerance)...)
}

// hull is the convex hull of points, clockwise (Andrew 1979).
func hull(pts []geom.Point) []geom.Point {
	pts = append([]geom.Point(nil), pts...)
	sort.Slice(pts, func(i, j int) bool {
		return pts[i].X < pts[j].X || pts[i].X == pts[j].X && pts[i].Y < pts[j].Y
	})
	cross := func(o, a, b geom.Point) float64 { return (a.X-o.X)*(b.Y-o.Y) - (a.Y-o.Y)*(b.X-o.X) }
	var h []geom.Point
	for pass := range 2 {
		base := len(h)
		for i := range pts {
			p := pts[i]
			if pass == 1 {
				p = pts[len(pts)-1-i]
			}
			for len(h) >= base+2 && cross(h[len(h)-2], h[len(h)-1], p) <= 0 {
				h = h[:len(h)-1]
			}
			h = append(h, p)
		}
		h = h[:len(h)-1]
	}
	return h
}
