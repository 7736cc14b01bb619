package craft

import (
	"math"
	"strings"
	"testing"

	"ivypocket/core/geom"
	"ivypocket/core/scheme"
	"ivypocket/core/template"
)

// A split of four as the trade knows it, from references: 2 × 2 on 1280 × 720 with a
// gutter of 6 by shrinking: cells 637 × 357, centres (±321.5, ±181.5) (common practice,
// no source; by arithmetic).
func TestASplitIsMadeWithItsPockets(t *testing.T) {
	d, err := Blank(shelf{}, Start{Name: "Four", Rate: "30", Frames: 300, Canvases: [][2]int{{1280, 720}}})
	if err != nil {
		t.Fatal(err)
	}
	next, p := do(t, d, Act{Kind: "split", Format: "landscape", To: [2]float64{2, 2}, Numbers: map[string]float64{"gutter": 6}, Middle: true})
	if len(next.Pockets) != 4 || len(p.Chosen) != 4 || next.Layers[0].ID != "backing" {
		t.Fatalf("%d pockets, %v, %s", len(next.Pockets), p.Chosen, order(next))
	}
	if got := next.Pockets[0].Name + ", " + next.Pockets[3].Name; got != "Top left, Bottom right" {
		t.Errorf("cells are called %s", got)
	}
	s := stands(t, next, "landscape", 0)[p.Chosen[0]]
	if b := s.Box(); b.W != 637 || b.H != 357 || b.Centre() != (geom.Point{X: 640 - 321.5, Y: 360 - 181.5}) {
		t.Errorf("the first cell is %v", b)
	}
	free, _ := do(t, next, Act{Kind: "uncell", Format: "landscape", Layers: p.Chosen[:1]})
	if a, b := quad(s), quad(stands(t, free, "landscape", 0)[p.Chosen[0]]); a != b {
		t.Errorf("out of its cell it went from %v to %v", a, b)
	}
	back, _ := do(t, free, Act{Kind: "cell", Format: "landscape", Layers: p.Chosen[:1], Id: "split", From: [2]float64{0, 0}})
	if a, b := quad(s), quad(stands(t, back, "landscape", 0)[p.Chosen[0]]); a != b {
		t.Errorf("back in its cell it went from %v to %v", a, b)
	}
}

// The lines of a split are dragged, cells are divided and merged: the others stay where
// they are, to a hundredth of a pixel.
func TestCellsAreDividedAndMerged(t *testing.T) {
	d, _ := do(t, doc(t, "", "", ""), Act{Kind: "split", To: [2]float64{2, 2}, Numbers: map[string]float64{"gutter": 12, "margin": 20, "radius": 8}})
	box := func(d *template.Document, id string) geom.Box { s := stands(t, d, "wide", 0)[id]; return s.Box() }
	same := func(what string, a, b geom.Box) {
		t.Helper()
		if math.Abs(a.X-b.X)+math.Abs(a.Y-b.Y)+math.Abs(a.W-b.W)+math.Abs(a.H-b.H) > 0.02 {
			t.Errorf("%s: %v, not %v", what, b, a)
		}
	}
	was := map[string]geom.Box{}
	for _, id := range []string{"top-left", "top-right", "bottom-left", "bottom-right"} {
		was[id] = box(d, id)
	}
	// A line goes by as much as the pointer, and what it does not touch stays.
	moved, _ := do(t, d, Act{Kind: "line", Id: "split", Way: "columns", To: [2]float64{-100, 7}})
	a, c := was["top-left"], was["top-right"]
	same("the left cell", geom.Box{X: a.X, Y: a.Y, W: a.W - 100, H: a.H}, box(moved, "top-left"))
	same("the right cell", geom.Box{X: c.X - 100, Y: c.Y, W: c.W + 100, H: c.H}, box(moved, "top-right"))
	back, p := do(t, moved, Act{Kind: "line", Id: "split", Way: "columns", To: [2]float64{97, 0}, Snap: 8})
	same("drawn to the middle", a, box(back, "top-left"))
	if len(p.Guides) != 1 || p.Guides[0].At != 960 {
		t.Errorf("it says %v", p.Guides)
	}
	// A cell becomes three.
	three, _ := do(t, d, Act{Kind: "divide", Layers: []string{"top-left"}, Way: "columns", To: [2]float64{3, 0}})
	if len(three.Pockets) != 6 || len(three.Layout("split").Get(scheme.Columns).Numbers) != 4 {
		t.Fatalf("%d pockets, %v", len(three.Pockets), three.Layout("split").Get(scheme.Columns))
	}
	w := (a.W - 24) / 3
	same("the first of three", geom.Box{X: a.X, Y: a.Y, W: w, H: a.H}, box(three, "top-left"))
	same("the third of three", geom.Box{X: a.X + a.W - w, Y: a.Y, W: w, H: a.H}, box(three, "top-left-3"))
	for _, id := range []string{"top-right", "bottom-left", "bottom-right"} {
		same(id, was[id], box(three, id))
	}
	if err := three.Validate(); err != nil {
		t.Error(err)
	}
	// And one again, which is where it was.
	one, _ := do(t, three, Act{Kind: "merge", Layers: []string{"top-left", "top-left-2", "top-left-3"}})
	same("merged", a, box(one, "top-left"))
	if len(one.Pockets) != 4 || one.Layer("top-left-2") != nil {
		t.Errorf("%d pockets are left", len(one.Pockets))
	}
	// The left column becomes one cell; what stands among them is not run over.
	left, _ := do(t, one, Act{Kind: "merge", Layers: []string{"top-left", "bottom-left"}})
	same("a whole column", geom.Box{X: a.X, Y: a.Y, W: a.W, H: 1040}, box(left, "top-left"))
	for want, act := range map[string]Act{
		"stands among them":    {Kind: "merge", Layers: []string{"top-left", "bottom-right"}},
		"goes over 3 columns":  {Kind: "divide", Layers: []string{"top-left"}, Way: "columns", To: [2]float64{2, 0}},
		"is not divided into":  {Kind: "divide", Layers: []string{"top-right"}, Way: "rows", To: [2]float64{99, 0}},
		"there is no line":     {Kind: "line", Id: "split", Way: "rows", At: 1},
		"no layout named":      {Kind: "line", Id: "grid", Way: "rows"},
		"two cells or more":    {Kind: "merge", Layers: []string{"top-left"}},
		"neither columns nor ": {Kind: "line", Id: "split", Way: "up"},
	} {
		act.Format = "wide"
		if _, err := Do(one, shelf{}, act); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%s %v: %v, want %q", act.Kind, act.Layers, err, want)
		}
	}
}
