package geom

import (
	"fmt"
	"math"
	"math/rand/v2"
	"testing"
)

// round is a circle of four curves; its greatest error is 2.7e-4 of the radius.
func round(x, y, r float64, back bool) Path {
	const k = 0.5522847498
	p := Path{Closed: true, Nodes: []Node{{x, y - r, -k * r, 0, k * r, 0}, {x + r, y, 0, -k * r, 0, k * r}, {x, y + r, k * r, 0, -k * r, 0}, {x - r, y, 0, k * r, 0, -k * r}}}
	if back {
		return p.reversed()
	}
	return p
}

func poly(p ...Point) Path {
	out := Path{Closed: true}
	for _, q := range p {
		out.Nodes = append(out.Nodes, Node{X: q.X, Y: q.Y})
	}
	return out
}

func square(x0, y0, x1, y1 float64) Path {
	return poly(Point{x0, y0}, Point{x1, y0}, Point{x1, y1}, Point{x0, y1})
}

func flattened(paths []Path) *Contours {
	var c Contours
	for _, p := range paths {
		c.AddPath(p, 0.01)
	}
	return &c
}

// windings is how often lines go round a point.
func windings(c *Contours, p Point) (n int) {
	for i := range c.Ends {
		l := c.Line(i)
		for k := range l {
			a, b := l[k], l[(k+1)%len(l)]
			if (a.Y <= p.Y) == (b.Y <= p.Y) || a.X+(b.X-a.X)*(p.Y-a.Y)/(b.Y-a.Y) <= p.X {
				continue
			}
			if b.Y > a.Y {
				n++
			} else {
				n--
			}
		}
	}
	return n
}

// beside is how far a point lies from lines.
func beside(c *Contours, p Point) float64 {
	far := math.Inf(1)
	for i := range c.Ends {
		l := c.Line(i)
		for k := range l {
			a, b := l[k], l[(k+1)%len(l)]
			dx, dy := b.X-a.X, b.Y-a.Y
			t := 0.0
			if n := dx*dx + dy*dy; n > 0 {
				t = clamp(((p.X-a.X)*dx+(p.Y-a.Y)*dy)/n, 0, 1)
			}
			far = math.Min(far, math.Hypot(a.X+t*dx-p.X, a.Y+t*dy-p.Y))
		}
	}
	return far
}

// Areas and lengths of what overlapping forms enclose together, by elementary geometry. Two
// circles of radius r at a distance d share 2r²·acos(d/2r) − d/2·√(4r²−d²), and each lies inside
// the other along an angle of 2·acos(d/2r).
func TestTheEdgeOfWhatOverlaps(t *testing.T) {
	half := math.Acos(60.0 / 100)
	golden := (1 + math.Sqrt(5)) / 2
	fields := poly(Point{50, 0}, Point{0, 0}, Point{0, 50}, Point{50, 50}, Point{50, 100}, Point{100, 100}, Point{100, 50}, Point{50, 50})
	lens := 2*2500*half - 30*math.Sqrt(10000-3600)
	for _, c := range []struct {
		name         string
		paths        []Path
		count        int
		area, length float64
	}{
		{"two circles", []Path{round(50, 50, 50, false), round(110, 50, 50, false)}, 1, 2*math.Pi*2500 - lens, 2 * (2*math.Pi - 2*half) * 50},
		{"two that go opposite ways", []Path{round(50, 50, 50, false), round(110, 50, 50, true)}, 2, 2*math.Pi*2500 - 2*lens, 4 * math.Pi * 50},
		{"a cross of bars", []Path{square(0, 40, 100, 60), square(40, 0, 60, 100)}, 1, 3600, 400},
		{"a bar on a stem, with edges in common", []Path{square(0, 0, 100, 20), square(40, 0, 60, 100)}, 1, 3600, 400},
		{"side by side", []Path{square(0, 0, 50, 100), square(50, 0, 100, 100)}, 1, 10000, 400},
		{"twice the same", []Path{round(50, 50, 50, false), round(50, 50, 50, false)}, 1, math.Pi * 2500, math.Pi * 100},
		{"there and back", []Path{round(50, 50, 50, false), round(50, 50, 50, true)}, 0, 0, 0},
		{"one inside another", []Path{round(50, 50, 50, false), round(50, 50, 20, false)}, 1, math.Pi * 2500, math.Pi * 100},
		{"one in a hole", []Path{round(50, 50, 50, true), round(50, 50, 40, false), round(50, 50, 20, true)}, 3, math.Pi * (2500 - 1600 + 400), math.Pi * 220},
		{"a hole that is covered", []Path{round(50, 50, 50, true), round(50, 50, 20, false), square(20, 20, 80, 80).reversed()}, 1, math.Pi * 2500, math.Pi * 100},
		{"a corner at a corner", []Path{square(0, 0, 50, 50), square(50, 50, 100, 100)}, 2, 5000, 400},
		{"a bow that crosses itself", []Path{poly(Point{0, 0}, Point{100, 100}, Point{100, 0}, Point{0, 100})}, 2, 5000, 4 * 100 * (1 + math.Sqrt2) / 2},
		{"a spike without width", []Path{poly(Point{0, 0}, Point{100, 0}, Point{150, 0}, Point{100, 0}, Point{100, 100}, Point{0, 100})}, 1, 10000, 400},
		{"a line there and back", []Path{poly(Point{0, 0}, Point{100, 50})}, 0, 0, 0},
		{"there and back, all but a hair", []Path{round(50, 50, 50, false), round(50.005, 50, 50, true)}, 0, 0, 0},
		{"crossing at corners", []Path{poly(Point{0, 0}, Point{100, 0}, Point{100, 50}, Point{100, 100}, Point{50, 100}, Point{0, 100}),
			poly(Point{50, 50}, Point{100, 50}, Point{150, 50}, Point{150, 150}, Point{50, 150}, Point{50, 100})}, 1, 17500, 600},
		{"two of a chessboard's fields in one line", []Path{fields}, 2, 5000, 400},
		{"the other way", []Path{fields.reversed()}, 2, 5000, 400},
		{"a hole in two that overlap", []Path{round(50, 50, 50, true), round(110, 50, 50, true), round(20, 50, 10, false)}, 2, 2*math.Pi*2500 - lens - math.Pi*100,
			2*(2*math.Pi-2*half)*50 + math.Pi*20},
		{"the same, all the other way", []Path{round(50, 50, 50, false), round(110, 50, 50, false), round(20, 50, 10, true)}, 2, 2*math.Pi*2500 - lens - math.Pi*100,
			2*(2*math.Pi-2*half)*50 + math.Pi*20},
		// The inner corners of a pentagram stand at r/φ² from the middle, and its 10 sides are φ times as
		// long as those of the pentagon between them.
		{"a star drawn in one line", []Path{pentagram(50)}, 1, 5 * 50 * 50 / golden / golden * math.Sin(math.Pi/5), 10 * 2 * 50 / golden / golden * math.Sin(math.Pi/5) * golden},
	} {
		got := Edge(c.paths, 100)
		if len(got) != c.count {
			t.Errorf("%s: %d paths, want %d", c.name, len(got), c.count)
		}
		for _, p := range got { // what it has of the nodes is where it was
			for _, n := range p.Nodes {
				if near, far := nearest(c.paths, n); far > 0 && far < 0.01 && c.name != "there and back, all but a hair" {
					t.Errorf("%s: a node at %v moved to %v", c.name, near, n)
				}
			}
		}
		f := flattened(got)
		if math.Abs(math.Abs(area(f))-c.area) > 0.002*10000 || math.Abs(f.Length()-c.length) > 0.002*(1+c.length) {
			t.Errorf("%s: area %.2f, length %.2f, want %.2f and %.2f", c.name, area(f), f.Length(), c.area, c.length)
		}
	}
}

// nearest is the node of paths that is nearest to another, and how far off it is.
func nearest(paths []Path, to Node) (at Node, far float64) {
	far = math.Inf(1)
	for _, p := range paths {
		for _, n := range p.Nodes {
			if d := math.Hypot(n.X-to.X, n.Y-to.Y); d < far {
				at, far = n, d
			}
		}
	}
	return at, far
}

// pentagram is a star of one line that crosses itself five times.
func pentagram(r float64) Path {
	var p []Point
	for i := range 5 {
		s, c := SinCos(float64(i)*144 - 90)
		p = append(p, Point{50 + r*c, 50 + r*s})
	}
	return poly(p...)
}

// What overlaps nowhere is left as it is, to the byte; so is what can't be settled.
func TestWhatDoesNotOverlapIsLeftAsItIs(t *testing.T) {
	same := func(a, b []Path) bool { return len(a) == len(b) && (len(a) == 0 || &a[0] == &b[0]) }
	open := Path{Nodes: []Node{{X: 0}, {X: 10}, {X: 5, Y: 5}, {X: 5, Y: -5}}}
	for name, paths := range map[string][]Path{
		"a ring":          {round(50, 50, 50, false), round(50, 50, 20, true)},
		"side by side":    {round(50, 50, 40, false), round(150, 50, 40, false)},
		"nothing":         nil,
		"an open line":    {open},
		"without end":     {round(50, 50, math.Inf(1), false), round(50, 50, 5, false)},
		"not a number":    {round(math.NaN(), 50, 5, false), round(50, 50, 5, false)},
		"much too far":    {round(1e12, 50, 5, false), round(1e12, 50, 4, false)},
		"less than a dot": {poly(Point{1, 1}, Point{1, 1})},
	} {
		if got := Edge(paths, 100); !same(got, paths) {
			t.Errorf("%s: %v became %v", name, paths, got)
		}
	}
	for _, unit := range []float64{0, -1, math.NaN(), math.Inf(1)} {
		if p := []Path{round(50, 50, 50, false), round(60, 50, 50, false)}; !same(Edge(p, unit), p) {
			t.Errorf("a unit of %g", unit)
		}
	}
}

// Whatever lines are drawn, their edge encloses what they enclose by the non-zero rule, and goes
// round each point of it once, always the same way.
func TestTheEdgeOfAnything(t *testing.T) {
	rng := rand.New(rand.NewPCG(3, 4))
	check := func(what string, crosses bool, paths []Path) {
		t.Helper()
		got := Edge(paths, 100)
		was, is := flattened(paths), flattened(got)
		left := !crosses && len(got) == len(paths) && &got[0] == &paths[0]
		sign := 0
		for range 80 {
			p := Point{rng.Float64()*200 - 50, rng.Float64()*200 - 50}
			if beside(was, p) < 0.15 {
				continue
			}
			in, w := windings(was, p), windings(is, p)
			if (in != 0) != (w != 0) || !left && (w < -1 || w > 1 || w*sign < 0) {
				t.Fatalf("%s: %v: at %v lines wind %d times, and their edge %d", what, paths, p, in, w)
			}
			if w != 0 {
				sign = w
			}
		}
	}
	check("one curve with a loop", true, []Path{{Closed: true, Nodes: []Node{{X: 0, Y: 60, OutX: 180, OutY: -120}, {X: 100, Y: 60, InX: -180, InY: -120}, {X: 100, Y: 100}, {X: 0, Y: 100}}}})
	check("a curve that ends where it began", true, []Path{{Closed: true, Nodes: []Node{{60, 20, 20, 20, 40, -20}, {60, 20, -20, -40, -40, -20}, {40, 60, -20, -20, -20, 40}}}})
	check("a curve over the line before it", true, []Path{{Closed: true, Nodes: []Node{{X: 0, Y: 0}, {X: 100, Y: 0, OutY: -80}, {X: 20, Y: 50, InY: -130}, {X: 0, Y: 50}}}})
	for n := range 250 {
		var paths []Path
		for range 1 + rng.IntN(4) {
			p := Path{Closed: true}
			curved, coarse := rng.IntN(3) > 0, rng.IntN(3) == 0
			at := func(most float64) float64 {
				v := rng.Float64() * most
				if coarse { // points on points, lines on lines
					v = math.Round(v/20) * 20
				}
				return v
			}
			for range 2 + rng.IntN(6) {
				node := Node{X: at(100), Y: at(100)}
				if curved {
					node.InX, node.InY, node.OutX, node.OutY = at(80)-40, at(80)-40, at(80)-40, at(80)-40
				}
				p.Nodes = append(p.Nodes, node)
			}
			paths = append(paths, p)
		}
		check(fmt.Sprint(n), false, paths)
	}
}

// What would take too long to settle is left as it is, before long.
func TestEdgesGiveUp(t *testing.T) {
	rng := rand.New(rand.NewPCG(8, 9))
	tangle := Path{Closed: true}
	for range 9000 {
		tangle.Nodes = append(tangle.Nodes, Node{X: rng.Float64() * 100, Y: rng.Float64() * 100, OutX: rng.Float64() * 99, InY: rng.Float64() * 99})
	}
	combs := poly()
	for i := range 3000 {
		x := float64(i%2) * 100
		combs.Nodes = append(combs.Nodes, Node{X: x, Y: float64(i) / 30}, Node{X: 100 - x, Y: float64(i) / 30})
	}
	for name, paths := range map[string][]Path{"a tangle": {tangle}, "combs": {combs, combs.turned()}} {
		if got := Edge(paths, 100); len(got) != len(paths) || &got[0] != &paths[0] {
			t.Errorf("%s has an edge of %d paths", name, len(got))
		}
	}
}

// turned is a path on its side.
func (p Path) turned() Path {
	out := Path{Closed: p.Closed}
	for _, n := range p.Nodes {
		out.Nodes = append(out.Nodes, Node{X: n.Y, Y: n.X})
	}
	return out
}
