package geom

import (
	"encoding/json"
	"math"
	"math/rand/v2"
	"strings"
	"testing"
)

func near(a, b float64) bool { return math.Abs(a-b) < 1e-9 }

// Facts of the trade: common practice, no source; values marked * there are
// derived by arithmetic.
func TestSplitMakesTheBordersTheTradeKnows(t *testing.T) {
	canvas := Size{1280, 720}
	for _, c := range []struct {
		name          string
		gutter        float64
		by            GutterBy
		size          Size
		x, y          float64
		lostAtTheEdge float64
	}{
		{"no gutter: each cell at 50 %", 0, Shrink, Size{640, 360}, 320, 180, 0},
		{"moved outwards by 3 px: cells keep their size", 6, Outwards, Size{640, 360}, 323, 183, 3},
		{"shrunk: gutter 6, margin 0", 6, Shrink, Size{637, 357}, 321.5, 181.5, 0},
	} {
		t.Run(c.name, func(t *testing.T) {
			cells, err := Split{Canvas: canvas, Rows: []float64{1, 1}, Columns: []float64{1, 1}, Gutter: c.gutter, By: c.by}.Cells()
			if err != nil {
				t.Fatal(err)
			}
			for i, sign := range []Point{{-1, -1}, {1, -1}, {-1, 1}, {1, 1}} {
				got := cells[i]
				if got.Centre != (Point{sign.X * c.x, sign.Y * c.y}) || got.Size != c.size {
					t.Errorf("%s: %v %v, want centre %v, %v with signs %v", got.Name, got.Centre, got.Size, c.x, c.y, sign)
				}
			}
			gap := cells[1].Box(canvas).X - (cells[0].Box(canvas).X + cells[0].Size.W)
			if gap != c.gutter || -cells[0].Box(canvas).X != c.lostAtTheEdge {
				t.Errorf("gutter %g, lost at the left edge %g; want %g and %g", gap, -cells[0].Box(canvas).X, c.gutter, c.lostAtTheEdge)
			}
		})
	}
}

func TestSplitNamesCellsByWhereTheyStand(t *testing.T) {
	for _, c := range []struct {
		rows, columns int
		want          []string
	}{
		{1, 1, []string{"whole"}},
		{2, 1, []string{"top", "bottom"}},
		{1, 3, []string{"left", "centre", "right"}},
		{2, 2, []string{"top left", "top right", "bottom left", "bottom right"}},
		{3, 3, []string{"top left", "top centre", "top right", "middle left", "centre", "middle right", "bottom left", "bottom centre", "bottom right"}},
		{1, 4, []string{"row 1, column 1", "row 1, column 2", "row 1, column 3", "row 1, column 4"}},
	} {
		s := Split{Canvas: Size{100, 100}, Rows: make([]float64, c.rows), Columns: make([]float64, c.columns)}
		for i := range s.Rows {
			s.Rows[i] = 1
		}
		for i := range s.Columns {
			s.Columns[i] = 1
		}
		cells, err := s.Cells()
		if err != nil {
			t.Fatal(err)
		}
		for i := range cells {
			if cells[i].Name != c.want[i] {
				t.Errorf("%d × %d, cell %d: %q, want %q", c.rows, c.columns, i, cells[i].Name, c.want[i])
			}
		}
	}
}

func TestSplitDividesBySpansAndFillsTheCanvas(t *testing.T) {
	s := Split{Canvas: Size{1000, 500}, Rows: []float64{1}, Columns: []float64{2, 1, 1}, Gutter: 10, Margin: 40, By: Shrink, Radius: 900}
	cells, err := s.Cells()
	if err != nil {
		t.Fatal(err)
	}
	if cells[0].Size.W != 2*cells[1].Size.W || cells[1].Size != cells[2].Size {
		t.Errorf("widths %g, %g, %g are not 2 : 1 : 1", cells[0].Size.W, cells[1].Size.W, cells[2].Size.W)
	}
	last := cells[2].Box(s.Canvas)
	if !near(cells[0].Box(s.Canvas).X, 40) || !near(last.X+last.W, 960) {
		t.Errorf("the row reaches from %g to %g, want 40 to 960", cells[0].Box(s.Canvas).X, last.X+last.W)
	}
	if cells[1].Radius != math.Min(cells[1].Size.W, cells[1].Size.H)/2 {
		t.Errorf("radius %g is more than half the shorter side", cells[1].Radius)
	}
}

func TestSplitRefusesWhatItCannotDivide(t *testing.T) {
	ok := Split{Canvas: Size{100, 100}, Rows: []float64{1}, Columns: []float64{1}}
	for name, change := range map[string]func(*Split){
		"no rows":           func(s *Split) { s.Rows = nil },
		"too many":          func(s *Split) { s.Columns = make([]float64, 17) },
		"weight 0":          func(s *Split) { s.Rows = []float64{1, 0} },
		"weight NaN":        func(s *Split) { s.Columns = []float64{math.NaN()} },
		"canvas of no size": func(s *Split) { s.Canvas = Size{} },
	} {
		s := ok
		change(&s)
		if _, err := s.Cells(); err == nil {
			t.Errorf("%s: was taken", name)
		}
	}
	s := ok
	s.Columns, s.Gutter = []float64{1, 1}, 300
	cells, err := s.Cells()
	if err != nil || cells[0].Size.W != 0 {
		t.Errorf("a gutter wider than the canvas leaves %v, %v; want cells of width 0", cells, err)
	}
}

// CSS Images Level 3, sections 5.5 (object-fit) and 5.6 (object-position).
func TestFramingIsObjectFitAndObjectPosition(t *testing.T) {
	box := Size{400, 300}
	for _, c := range []struct {
		name  string
		fit   Fit
		focus [2]float64
		media Size
		want  Box
	}{
		{"cover, landscape", Cover, [2]float64{0.5, 0.5}, Size{800, 300}, Box{-200, 0, 800, 300}},
		{"cover, portrait, focus at the top", Cover, [2]float64{0.5, 0}, Size{200, 600}, Box{0, 0, 400, 1200}},
		{"cover, square, focus at the bottom", Cover, [2]float64{0.5, 1}, Size{100, 100}, Box{0, -100, 400, 400}},
		{"contain, landscape", Contain, [2]float64{0.5, 0.5}, Size{800, 300}, Box{0, 75, 400, 150}},
		{"contain, portrait, to the right", Contain, [2]float64{1, 0.5}, Size{200, 600}, Box{300, 0, 100, 300}},
		{"stretch is fill", Stretch, [2]float64{0.2, 0.9}, Size{123, 77}, Box{0, 0, 400, 300}},
		{"original is none, 25 % 75 %", Original, [2]float64{0.25, 0.75}, Size{200, 100}, Box{50, 150, 200, 100}},
	} {
		f := DefaultFraming(c.fit)
		f.Focus = c.focus
		p := f.Place(c.media, box)
		a, b := p.Map.Apply(Point{}), p.Map.Apply(Point{c.media.W, c.media.H})
		got := Box{a.X, a.Y, b.X - a.X, b.Y - a.Y}
		if !near(got.X, c.want.X) || !near(got.Y, c.want.Y) || !near(got.W, c.want.W) || !near(got.H, c.want.H) {
			t.Errorf("%s: %v, want %v", c.name, got, c.want)
		}
	}
}

func randomFraming(r *rand.Rand) Framing {
	return Framing{Fit: Cover, Focus: [2]float64{r.Float64(), r.Float64()}, Pan: [2]float64{r.Float64()*8 - 4, r.Float64()*8 - 4},
		Zoom: MinZoom + r.Float64()*5, Turn: r.Float64()*720 - 360, FlipX: r.IntN(2) == 0, FlipY: r.IntN(2) == 0}
}

func TestCoverNeverShowsAnEdge(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	for i := range 10_000 {
		f := randomFraming(r)
		media, box := Size{1 + r.Float64()*4000, 1 + r.Float64()*4000}, Size{1 + r.Float64()*2000, 1 + r.Float64()*2000}
		if p := f.Place(media, box); !p.Covers {
			t.Fatalf("framing %d: %+v of %v in %v shows an edge", i, f, media, box)
		}
	}
}

func TestCoverZoomsNoFurtherThanItMust(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 4))
	for range 2000 {
		f := randomFraming(r)
		f.Zoom, f.Pan, f.Focus = 1, [2]float64{}, [2]float64{0.5, 0.5}
		media, box := Size{10 + r.Float64()*4000, 10 + r.Float64()*4000}, Size{10 + r.Float64()*2000, 10 + r.Float64()*2000}
		m := f.Place(media, box).Map
		// The same picture, a thousandth smaller around the box's middle, must
		// leave a corner bare.
		c := Point{box.W / 2, box.H / 2}
		small := m.Then(Translate(-c.X, -c.Y)).Then(Scale(0.999, 0.999)).Then(Translate(c.X, c.Y))
		if QuadCovers(small, media, Box{0, 0, box.W, box.H}) {
			t.Fatalf("%+v of %v in %v could be smaller", f, media, box)
		}
	}
}

func TestPanInUseGivesTheSamePlace(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 6))
	for range 2000 {
		f := randomFraming(r)
		media, box := Size{300, 200}, Size{160, 190}
		p := f.Place(media, box)
		f.Pan = p.Pan
		again := f.Place(media, box)
		a, b := p.Map.Apply(Point{}), again.Map.Apply(Point{})
		if math.Hypot(a.X-b.X, a.Y-b.Y) > 1e-6 {
			t.Fatalf("%+v: %v became %v", f, a, b)
		}
	}
}

func TestContainStaysInsideWhenTurned(t *testing.T) {
	f := DefaultFraming(Contain)
	box := Size{300, 200}
	for turn := 0.0; turn < 360; turn += 7 {
		f.Turn = turn
		m := f.Place(Size{500, 90}, box).Map
		for _, c := range (Box{0, 0, 500, 90}).Corners() {
			if p := m.Apply(c); p.X < -1e-9 || p.Y < -1e-9 || p.X > 300+1e-9 || p.Y > 200+1e-9 {
				t.Fatalf("turned by %g°, a corner lies at %v", turn, p)
			}
		}
	}
}

func TestFlipKeepsTheFocusInView(t *testing.T) {
	f := DefaultFraming(Cover)
	f.Focus = [2]float64{0.1, 0.5}
	media, box := Size{1000, 100}, Size{100, 100}
	plain := f.Place(media, box).Map.Apply(Point{100, 50})
	f.FlipX = true
	flipped := f.Place(media, box).Map.Apply(Point{100, 50})
	if plain.X < 0 || plain.X > 100 || flipped.X < 0 || flipped.X > 100 {
		t.Errorf("the focus lies at x %g, flipped at %g; both must be in the box of 100", plain.X, flipped.X)
	}
}

func TestFramingSaysWhichValueIsOutside(t *testing.T) {
	for want, change := range map[string]func(*Framing){
		"fit":     func(f *Framing) { f.Fit = "squeeze" },
		"focus x": func(f *Framing) { f.Focus[0] = -0.1 },
		"focus y": func(f *Framing) { f.Focus[1] = math.NaN() },
		"pan y":   func(f *Framing) { f.Pan[1] = 5 },
		"zoom":    func(f *Framing) { f.Zoom = 0 },
		"turn":    func(f *Framing) { f.Turn = math.Inf(1) },
	} {
		f := DefaultFraming(Cover)
		change(&f)
		if err := f.Validate(); err == nil || len(err.Error()) < len(want) || err.Error()[:len(want)] != want {
			t.Errorf("%s: %v", want, err)
		}
	}
}

// CSS Transforms Level 1: matrix(a, b, c, d, e, f); DOMMatrix multiplies so
// that the last named acts first. Worked by hand.
func TestAffineMapsComposeAndInvert(t *testing.T) {
	m := Scale(2, 3).Then(Rotate(90)).Then(Translate(10, 20))
	if p := m.Apply(Point{1, 1}); p != (Point{7, 22}) {
		t.Errorf("(1, 1) goes to %v, want (7, 22)", p)
	}
	inv, ok := m.Invert()
	if p := inv.Apply(Point{7, 22}); !ok || !near(p.X, 1) || !near(p.Y, 1) {
		t.Errorf("and back to %v", p)
	}
	if _, ok := Scale(0, 1).Invert(); ok {
		t.Error("a map that flattens the plane was inverted")
	}
}

// What a framing leaves out has its default; what is unknown is refused.
func TestFramingsMayLeaveMembersOut(t *testing.T) {
	for text, want := range map[string]Framing{
		`{}`:                            DefaultFraming(""),
		`{"fit": "contain"}`:            DefaultFraming(Contain),
		`{"fit": "cover", "zoom": 2}`:   {Fit: Cover, Focus: [2]float64{0.5, 0.5}, Zoom: 2},
		`{"focus": [0, 1], "turn": 90}`: {Focus: [2]float64{0, 1}, Zoom: 1, Turn: 90},
	} {
		var f Framing
		if err := json.Unmarshal([]byte(text), &f); err != nil || f != want {
			t.Errorf("%s: %+v, %v", text, f, err)
		}
	}
	var f Framing
	if err := json.Unmarshal([]byte(`{"fit": "cover", "zom": 2}`), &f); err == nil || !strings.Contains(err.Error(), "zom") {
		t.Errorf("a mistyped member: %v", err)
	}
	if got := (Framing{Zoom: 3}).Or(DefaultFraming(Contain)); got.Fit != Contain || got.Zoom != 3 {
		t.Errorf("%+v", got)
	}
}

// A vertical flip is to height what a horizontal one is to width: focus and pan
// too.
func TestFlipsTreatBothAxesAlike(t *testing.T) {
	turned := func(p Point) Point { return Point{p.Y, p.X} }
	for _, fit := range Fits {
		for _, focus := range [][2]float64{{0.5, 0.5}, {0, 0.2}, {0.9, 0.1}} {
			x, y := DefaultFraming(fit), DefaultFraming(fit)
			x.FlipX, x.Focus, x.Pan, x.Zoom = true, focus, [2]float64{0.1, -0.05}, 1.3
			y.FlipY, y.Focus, y.Pan, y.Zoom = true, [2]float64{focus[1], focus[0]}, [2]float64{-0.05, 0.1}, 1.3
			a, b := x.Place(Size{400, 100}, Size{90, 60}), y.Place(Size{100, 400}, Size{60, 90})
			for _, p := range []Point{{0, 0}, {400, 0}, {130, 70}} {
				u, v := a.Map.Apply(p), turned(b.Map.Apply(turned(p)))
				if !near(u.X, v.X) || !near(u.Y, v.Y) {
					t.Errorf("%s, focus %v: %v is taken to %v, and the other way to %v", fit, focus, p, u, v)
				}
			}
			plain := x
			plain.FlipX = false
			if fit != Stretch && a.Map == plain.Place(Size{400, 100}, Size{90, 60}).Map {
				t.Errorf("%s: a flip changes nothing", fit)
			}
		}
	}
}

// Whatever an editor sets, some of the media stays in its pocket: at least a
// sixtieth of what is seen of it in the middle, however thin both are. A
// pan within what is free is not touched.
func TestNoFramingLosesTheMedia(t *testing.T) {
	rng := rand.New(rand.NewPCG(7, 7))
	pick := func(lo, hi float64) float64 { return lo + (hi-lo)*rng.Float64() }
	for range 4000 {
		box, media := Size{pick(20, 900), pick(20, 900)}, Size{pick(5, 3000), pick(5, 3000)}
		f := Framing{Fit: Fits[rng.IntN(len(Fits))], Focus: [2]float64{rng.Float64(), rng.Float64()}, Zoom: math.Exp(pick(math.Log(MinZoom), math.Log(MaxZoom))),
			Pan: [2]float64{pick(-MaxPan, MaxPan), pick(-MaxPan, MaxPan)}, Turn: pick(-360, 360)}
		p := f.Place(media, box)
		inv, ok := p.Map.Invert()
		if !ok {
			t.Fatalf("%+v: flat", f)
		}
		const n = 64
		// How many points of the box are seen with the media where it is, and in the middle.
		seen := func(off Point) (count int) {
			for i := range n * n {
				at := Point{(float64(i%n)+0.5)/n*box.W - off.X, (float64(i/n)+0.5)/n*box.H - off.Y}
				if q := inv.Apply(at); q.X >= 0 && q.Y >= 0 && q.X <= media.W && q.Y <= media.H {
					count++
				}
			}
			return
		}
		here, middle := seen(Point{}), seen(Point{-p.Offset.X, -p.Offset.Y})
		if middle > 400 && here*60 < middle {
			t.Fatalf("%+v of %v in %v: %d points are seen, of %d in the middle", f, media, box, here, middle)
		}
		// What is in use is what is had by asking for it.
		if again := (Framing{Fit: f.Fit, Focus: f.Focus, Zoom: p.Zoom, Pan: p.Pan, Turn: f.Turn}).Place(media, box); math.Hypot(again.Offset.X-p.Offset.X, again.Offset.Y-p.Offset.Y) > 1e-6*(box.W+media.W) {
			t.Fatalf("%+v: %v, and by the pan in use %v", f, p.Offset, again.Offset)
		}
	}
	mark := Framing{Fit: Contain, Focus: [2]float64{0.5, 0.5}, Zoom: 0.5, Pan: [2]float64{0.4, -0.5}}
	if p := mark.Place(Size{100, 100}, Size{200, 200}); p.Pan != mark.Pan {
		t.Errorf("a mark at the edge is moved to %v", p.Pan)
	}
}
