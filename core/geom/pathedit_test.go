package geom

import (
	"math"
	"math/rand/v2"
	"testing"
)

func randomPath(rng *rand.Rand, closed bool) Path {
	p := Path{Closed: closed}
	v := func(k float64) float64 { return (rng.Float64() - 0.5) * k }
	for range 3 + rng.IntN(6) {
		n := Node{X: v(200), Y: v(200)}
		if rng.IntN(3) > 0 {
			n.InX, n.InY, n.OutX, n.OutY = v(90), v(90), v(90), v(90)
		}
		p.Nodes = append(p.Nodes, n)
	}
	return p
}

// far is how far the lines of two paths lie from one another at the most, both ways.
func far(a, b Path) float64 {
	worst := 0.0
	for _, pair := range [][2]Path{{a, b}, {b, a}} {
		for i := range pair[0].segments() {
			for k := range 9 {
				_, _, d := pair[1].Nearest(pair[0].At(i, float64(k)/8))
				worst = math.Max(worst, d)
			}
		}
	}
	return worst
}

// A node that is put on a line leaves the line as it is, wherever it is put; Farin, Curves
// and Surfaces for CAGD: subdivision by de Casteljau's algorithm is exact.
func TestANodeOnTheLineLeavesItAsItIs(t *testing.T) {
	rng := rand.New(rand.NewPCG(3, 9))
	for range 200 {
		p := randomPath(rng, rng.IntN(2) == 0)
		i, u := rng.IntN(p.segments()), rng.Float64()
		want := p.At(i, u)
		q := p.Split(i, u)
		if len(q.Nodes) != len(p.Nodes)+1 || math.Hypot(q.Nodes[i+1].X-want.X, q.Nodes[i+1].Y-want.Y) > 1e-9 {
			t.Fatalf("the new node lies at %v, not %v", q.Nodes[i+1], want)
		}
		for k := range 5 { // the two halves run as the whole did
			v := float64(k) / 4
			a, b := q.At(i, v), p.At(i, v*u)
			c, d := q.At(i+1, v), p.At(i, u+v*(1-u))
			if dist(a, b) > 1e-9 || dist(c, d) > 1e-9 {
				t.Fatalf("at %g it runs through %v and %v, not %v and %v", v, a, c, b, d)
			}
		}
	}
}

func TestTheNearestPlaceOfALine(t *testing.T) {
	line := Path{Nodes: []Node{{X: 0, Y: 0}, {X: 100, Y: 0}, {X: 100, Y: 50}}}
	for _, c := range []struct {
		at        Point
		segment   int
		t, far    float64
		closed    bool
		alsoFirst bool
	}{
		{Point{30, 7}, 0, 0.3, 7, false, false}, {Point{-5, 0}, 0, 0, 5, false, false}, {Point{104, 25}, 1, 0.5, 4, false, false}, {Point{50, 25}, 2, 0.5, 0, true, false},
	} {
		line.Closed = c.closed
		if s, u, d := line.Nearest(c.at); s != c.segment || math.Abs(u-c.t) > 1e-6 || math.Abs(d-c.far) > 1e-6 {
			t.Errorf("%v: segment %d at %g, %g off", c.at, s, u, d)
		}
	}
	// On a curve: what lies on it is found there.
	rng := rand.New(rand.NewPCG(1, 5))
	for range 200 {
		p := randomPath(rng, true)
		if _, _, d := p.Nearest(p.At(rng.IntN(p.segments()), rng.Float64())); d > 0.05 {
			t.Fatalf("a point of the line is told to be %g off", d)
		}
	}
	if _, _, d := (Path{}).Nearest(Point{}); !math.IsInf(d, 1) {
		t.Errorf("nothing is %g off", d)
	}
}

// What is opened and shut again, turned into corners and smoothed, merged, is what one expects.
func TestPathsAreChanged(t *testing.T) {
	rng := rand.New(rand.NewPCG(4, 4))
	for range 100 {
		p := randomPath(rng, true)
		at := rng.IntN(len(p.Nodes))
		open := p.Opened(at)
		if open.Closed || len(open.Nodes) != len(p.Nodes)+1 || far(p, open) > 0.2 {
			t.Fatalf("opened it is %v", open)
		}
		shut := open.Shut(1e-9)
		if len(shut.Nodes) != len(p.Nodes) || shut.Nodes[0] != p.Nodes[at] || far(p, shut) > 0.2 {
			t.Fatalf("shut again it is %v", shut)
		}
		if b := p.Bounds(); b.W > 0 {
			for i := range p.segments() {
				for k := range 17 {
					if q := p.At(i, float64(k)/16); q.X < b.X-1e-9 || q.X > b.X+b.W+1e-9 || q.Y < b.Y-1e-9 || q.Y > b.Y+b.H+1e-9 {
						t.Fatalf("%v lies outside of %v", q, b)
					}
				}
			}
		}
	}
	square := Path{[]Node{{X: 0, Y: 0}, {X: 90, Y: 0}, {X: 90, Y: 90}, {X: 0, Y: 90}}, true}
	s := square.Smoothed([]int{1})
	if n := s.Nodes[1]; math.Abs(n.OutX-30/math.Sqrt2) > 1e-9 || math.Abs(n.OutY-n.OutX) > 1e-9 || n.InX != -n.OutX {
		t.Errorf("smoothed, a corner is %v", n)
	}
	if c := s.Cornered([]int{1}); c.Nodes[1] != square.Nodes[1] {
		t.Errorf("a corner again, it is %v", c.Nodes[1])
	}
	if m := square.Merged(3, 0); len(m.Nodes) != 3 || m.Nodes[2] != (Node{X: 0, Y: 45}) || m.Nodes[0] != square.Nodes[1] {
		t.Errorf("the last and the first make %v", m.Nodes)
	}
	if m := square.Merged(0, 1); len(m.Nodes) != 3 || m.Nodes[0] != (Node{X: 45}) {
		t.Errorf("the first two make %v", m.Nodes)
	}
	if w := square.Without([]int{0, 2}); len(w.Nodes) != 2 || w.Nodes[0] != square.Nodes[1] {
		t.Errorf("without two it is %v", w.Nodes)
	}
	turn := Rotate(90).Flat()
	if r := s.Through(turn); math.Abs(r.Nodes[1].X) > 1e-9 || math.Abs(r.Nodes[1].OutX+s.Nodes[1].OutY) > 1e-9 {
		t.Errorf("turned it is %v", r.Nodes[1])
	}
	// The box of a curve is not that of its handles: a quarter of a circle by its usual cubic.
	const k = 0.5522847498
	arc := Path{Nodes: []Node{{X: 1, OutY: k}, {Y: 1, InX: k}}}
	if b := arc.Bounds(); math.Abs(b.W-1) > 1e-9 || math.Abs(b.H-1) > 1e-9 {
		t.Errorf("a quarter of a circle has the box %v", b)
	}
}
