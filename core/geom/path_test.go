package geom

import (
	"math"
	"math/rand/v2"
	"testing"
)

// area is the area that closed lines enclose, by the shoelace formula.
func area(c *Contours) float64 {
	sum := 0.0
	for i := range c.Ends {
		l := c.Line(i)
		for k := range l {
			p, q := l[k], l[(k+1)%len(l)]
			sum += p.X*q.Y - q.X*p.Y
		}
	}
	return sum / 2
}

func contours(f Form) *Contours {
	var c, spare Contours
	f.Contours(&c, &spare, 0.01)
	return &c
}

// Areas of elementary geometry.
func TestFormsHaveTheirAreas(t *testing.T) {
	size := Size{200, 100}
	star := 2 * 5 * 0.5 * (100 * 50 * 0.4 * math.Sin(math.Pi/5)) // ten triangles, stretched from a circle
	for _, c := range []struct {
		name string
		f    Form
		want float64
	}{
		{"rectangle", Form{Kind: Rectangle, Size: size}, 20000},
		{"rounded", Form{Kind: Rectangle, Size: size, Radii: [4]float64{20, 20, 20, 20}}, 20000 - (4-math.Pi)*400},
		{"rounded per corner", Form{Kind: Rectangle, Size: size, Radii: [4]float64{0, 30, 0, 10}}, 20000 - (1-math.Pi/4)*1000},
		{"radii that do not fit", Form{Kind: Rectangle, Size: Size{100, 100}, Radii: [4]float64{90, 90, 90, 90}}, math.Pi * 2500},
		{"ellipse", Form{Kind: Ellipse, Size: size}, math.Pi * 5000},
		{"hexagon", Form{Kind: Polygon, Sides: 6, Size: Size{100, 100}}, 3 * math.Sqrt(3) / 2 * 2500},
		{"star", Form{Kind: Star, Sides: 5, Inner: 0.4, Size: size}, star},
		{"arrow", Form{Kind: Arrow, Head: 0.25, Shaft: 0.5, Size: size}, 150*50 + 50*100/2},
		{"drawn circle", Form{Kind: Drawn, Size: size, Path: Path{Closed: true, Nodes: []Node{
			{0.5, 0, -0.27614, 0, 0.27614, 0}, {1, 0.5, 0, -0.27614, 0, 0.27614}, {0.5, 1, 0.27614, 0, -0.27614, 0}, {0, 0.5, 0, 0.27614, 0, -0.27614}}}}, math.Pi * 5000},
	} {
		if got := area(contours(c.f)); math.Abs(got-c.want) > c.want*5e-4 {
			t.Errorf("%s: area %.2f, want %.2f", c.name, got, c.want)
		}
	}
	// A square with corners rounded by r loses (4 − π)·r².
	d := contours(Form{Kind: Drawn, Size: Size{100, 100}, Round: 20, Path: Path{Closed: true, Nodes: []Node{{X: 0, Y: 0}, {X: 1, Y: 0}, {X: 1, Y: 1}, {X: 0, Y: 1}}}})
	if want := 10000 - (4-math.Pi)*400; math.Abs(area(d)-want) > 2 {
		t.Errorf("rounded square: %g, want %g", area(d), want)
	}
}

func line(closed bool, p ...Point) *Contours {
	var c Contours
	for _, q := range p {
		c.add(q)
	}
	c.end(closed)
	return &c
}

// Areas of elementary geometry, per SVG 2's caps and joins.
func TestStrokesHaveTheirAreas(t *testing.T) {
	elbow := line(false, Point{0, 0}, Point{100, 0}, Point{100, 100})
	straight := line(false, Point{0, 0}, Point{100, 0})
	square := line(true, Point{0, 0}, Point{100, 0}, Point{100, 100}, Point{0, 100})
	for _, c := range []struct {
		name string
		c    *Contours
		pen  Pen
		want float64
	}{
		{"butt", straight, Pen{Width: 10}, 1000},
		{"square caps", straight, Pen{Width: 10, Cap: SquareCap}, 1100},
		{"round caps", straight, Pen{Width: 10, Cap: RoundCap}, 1000 + math.Pi*25},
		{"closed, mitred", square, Pen{Width: 10}, 110*110 - 90*90},
		{"closed, bevelled", square, Pen{Width: 10, Join: Bevel}, 110*110 - 90*90 - 4*12.5},
		{"closed, round", square, Pen{Width: 10, Join: RoundJoin}, 110*110 - 90*90 - (4-math.Pi)*25},
	} {
		var out Contours
		c.c.Stroke(&out, c.pen, 0.01)
		if got := math.Abs(area(&out)); math.Abs(got-c.want) > 0.3 {
			t.Errorf("%s: area %.2f, want %.2f", c.name, got, c.want)
		}
	}
	for join, want := range map[Join]float64{Miter: 2000, Bevel: 2000 - 12.5, RoundJoin: 2000 - 25 + math.Pi*25/4} {
		var out Contours
		elbow.Stroke(&out, Pen{Width: 10, Join: join}, 0.01)
		if got := math.Abs(area(&out)); math.Abs(got-want) > 0.2 {
			t.Errorf("%s elbow: %.2f, want %.2f", join, got, want)
		}
	}
}

func TestPartsAndDashesHaveTheirLengths(t *testing.T) {
	square := line(true, Point{0, 0}, Point{100, 0}, Point{100, 100}, Point{0, 100})
	var out Contours
	for _, c := range [][2]float64{{0, 0.5}, {0.25, 0.75}, {0.9, 1}, {0, 1}, {0.3, 0.3}, {0.6, 0.2}} {
		square.Part(&out, c[0], c[1])
		if want := math.Max(0, c[1]-c[0]) * 400; math.Abs(out.Length()-want) > 1e-9 {
			t.Errorf("part %v: length %g, want %g", c, out.Length(), want)
		}
	}
	square.Part(&out, 0, 1)
	if !out.Closed[0] {
		t.Error("a whole outline was opened")
	}
	for _, c := range []struct {
		pattern []float64
		offset  float64
		n       int
		length  float64
	}{{[]float64{10, 10}, 0, 20, 200}, {[]float64{10, 10}, 5, 21, 200}, {[]float64{30}, 0, 7, 210}, {[]float64{0, 0}, 0, 1, 400}, {nil, 0, 1, 400}, {[]float64{10, 10}, -20, 20, 200}} {
		square.Dash(&out, c.pattern, c.offset)
		if out.Len() != c.n || math.Abs(out.Length()-c.length) > 1e-9 {
			t.Errorf("%v from %g: %d dashes of length %g, want %d of %g", c.pattern, c.offset, out.Len(), out.Length(), c.n, c.length)
		}
	}
}

func TestQuadsReachTheirCorners(t *testing.T) {
	rnd := rand.New(rand.NewPCG(1, 9))
	for range 2000 {
		b := Box{rnd.Float64() * 10, rnd.Float64() * 10, 10 + rnd.Float64()*500, 10 + rnd.Float64()*500}
		to := b.Corners()
		for i := range to {
			to[i].X += (rnd.Float64() - 0.5) * b.W / 2.2
			to[i].Y += (rnd.Float64() - 0.5) * b.H / 2.2
		}
		m, ok := Quad(b, to)
		if !ok {
			continue
		}
		inv, ok := m.Invert()
		if !ok {
			t.Fatal("can't be inverted")
		}
		for i, p := range b.Corners() {
			if d := dist(m.Apply(p), to[i]); d > 1e-6 {
				t.Fatalf("corner %d is %g off", i, d)
			}
			if d := dist(inv.Apply(to[i]), p); d > 1e-6 {
				t.Fatalf("corner %d comes back %g off", i, d)
			}
		}
		n := Rotate(20).Then(Translate(3, 4)).Flat()
		q := Point{b.X + b.W/3, b.Y + b.H/4}
		if d := dist(m.Then(n).Apply(q), n.Apply(m.Apply(q))); d > 1e-6 {
			t.Fatalf("maps one after the other are %g off", d)
		}
	}
	if _, ok := Quad(Box{0, 0, 1, 1}, [4]Point{{0, 0}, {1, 1}, {1, 0}, {0, 1}}); ok {
		t.Error("a quadrilateral that crosses itself was taken")
	}
}

// The zoom found covers at 100 000 instants, and a little less of it does not.
func TestSmallestZoomCoversAndIsSmallest(t *testing.T) {
	rnd := rand.New(rand.NewPCG(3, 5))
	for range 25 {
		media, frame := Size{100 + rnd.Float64()*900, 100 + rnd.Float64()*900}, Size{640, 360}
		amp, dx, dy, grow := rnd.Float64()*120, rnd.Float64()*80, rnd.Float64()*60, 1+rnd.Float64()
		during := func(a, b float64) Sway { // all of it rises with time
			return Sway{Turn: [2]float64{amp * a, amp * b}, X: [2]float64{dx * a, dx * b}, Y: [2]float64{-dy * b, -dy * a}, Zoom: 1 + (grow-1)*a}
		}
		z := SmallestZoom(media, frame, 0, 1, during)
		fit := math.Max(frame.W/media.W, frame.H/media.H)
		worst := math.Inf(1)
		for i := range 100001 {
			at := float64(i) / 100000
			k := fit * z * (1 + (grow-1)*at)
			m := Translate(-media.W/2, -media.H/2).Then(Scale(k, k)).Then(Rotate(amp * at)).Then(Translate(dx*at, -dy*at))
			inv, _ := m.Invert()
			for _, p := range Centred(Point{}, frame).Corners() {
				q := inv.Apply(p)
				worst = math.Min(worst, math.Min(math.Min(q.X, media.W-q.X)/media.W, math.Min(q.Y, media.H-q.Y)/media.H))
			}
		}
		if worst < 0 {
			t.Errorf("zoom %g leaves an edge in view by %g", z, worst)
		}
		if worst > 2e-6 {
			t.Errorf("zoom %g is larger than need be: %g to spare", z, worst)
		}
	}
}
