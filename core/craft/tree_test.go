package craft

import (
	"context"
	"math"
	"slices"
	"strings"
	"testing"

	"ivypocket/core/geom"
	"ivypocket/core/raster"
	"ivypocket/core/scene"
	"ivypocket/core/scheme"
	"ivypocket/core/sheet"
	"ivypocket/core/template"
	"ivypocket/core/timing"
)

// pixels paints a frame of a document.
func pixels(t testing.TB, d *template.Document, format string, frame int64) []byte {
	t.Helper()
	sc, err := scene.Compile(&sheet.Resolved{Doc: d, Values: sheet.Values{}}, format, shelf{})
	if err != nil {
		t.Fatal(err)
	}
	p := scene.NewPainter(nil)
	defer p.Close()
	var l scene.List
	var s raster.Surface
	sc.At(&l, sc.Time().At(timing.OutputFrame(frame)), scene.Size{W: 192, H: 108})
	if err := p.PaintReady(context.Background(), &l, &scene.Ready{}, &s); err != nil {
		t.Fatal(err)
	}
	return slices.Clone(s.Pix)
}

const moving = `{"id": "a", "name": "A", "kind": "shape", "fill": "#c01030", "place": [-300, 0], "size": [500, 400], "turn": 12, "motion": {"place": {"unit": "canvas", "keys": [{"at": 0, "value": [0, 0]}, {"at": 90, "value": [0.3, 0.1]}]}}},
	{"id": "b", "name": "B", "kind": "shape", "fill": "#1040c0", "place": [0, 100], "size": [500, 400], "opacity": 0.6, "blend": "multiply", "shift": 10, "in": 5},
	{"id": "c", "name": "C", "kind": "shape", "fill": "#30c010", "place": [300, 0], "size": [500, 400], "matte": {"layer": "a", "of": "alpha"}}`

// Grouping layers that lie on one another, and ungrouping them, leaves every pixel of
// every frame; undo gives the bytes back.
func TestGroupingLeavesThePicture(t *testing.T) {
	d := doc(t, moving, `"layers/b/place": [0, -200]`, "")
	grouped, p := do(t, d, Act{Kind: "group", Layers: []string{"a", "b"}, Name: "Band"})
	if len(p.Chosen) != 1 || grouped.Layer("band") == nil || !grouped.Layer("band").Holds("a") || grouped.Layers[0].ID != "band" {
		t.Fatalf("grouped as %v", p.Chosen)
	}
	apart, _ := do(t, grouped, Act{Kind: "ungroup", Layers: []string{"band"}})
	if text(t, apart) != text(t, d) {
		t.Errorf("ungrouped:\n%s\nnot\n%s", text(t, apart), text(t, d))
	}
	for _, f := range []string{"wide", "tall"} {
		for _, n := range []int64{0, 7, 40, 99} {
			if !slices.Equal(pixels(t, d, f, n), pixels(t, grouped, f, n)) {
				t.Errorf("frame %d of %s is another picture", n, f)
			}
		}
	}
	// A group that is turned and scaled goes, and its layers stay where they were.
	still := doc(t, `{"id": "g", "name": "G", "kind": "group", "place": [100, 50], "size": [600, 400], "turn": 30, "scale": 1.5, "layers": [
		{"id": "x", "name": "X", "kind": "shape", "fill": "#c01030", "place": [-100, 20], "size": [200, 100], "turn": 10},
		{"id": "y", "name": "Y", "kind": "shape", "fill": "#1040c0", "place": [60, 0], "size": [90, 90]}]}`, "", "")
	flat, p := do(t, still, Act{Kind: "ungroup", Layers: []string{"g"}})
	if !slices.Equal(p.Chosen, []string{"x", "y"}) {
		t.Errorf("selected %v", p.Chosen)
	}
	for _, f := range []string{"wide", "tall"} {
		was, is := stands(t, still, f, 0), stands(t, flat, f, 0)
		for _, id := range []string{"x", "y"} {
			if !nearQuad(quad(was[id]), quad(is[id]), 0.01) {
				t.Errorf("%s in %s went from %v to %v", id, f, quad(was[id]), quad(is[id]))
			}
		}
	}
}

// What can't be grouped or ungrouped without another picture is refused with its reason.
func TestGroupingThatChangesThePictureIsRefused(t *testing.T) {
	d := doc(t, moving+`, {"id": "sheet", "name": "Sheet", "kind": "camera", "turn": 10},
		{"id": "g", "name": "G", "kind": "group", "opacity": 0.5, "layers": [{"id": "x", "name": "X", "kind": "shape", "fill": "#ffffff"}]},
		{"id": "h", "name": "H", "kind": "group", "turn": 20, "layers": [{"id": "z", "name": "Z", "kind": "shape", "fill": "#ffffff", "size": [50, 90],
			"motion": {"place": {"unit": "canvas", "keys": [{"at": 0, "value": [0, 0]}, {"at": 90, "value": [0.3, 0]}]}}}]},
		{"id": "fast", "name": "Fast", "kind": "shape", "fill": "#ffffff", "locked": true}`, "", "")
	for want, a := range map[string]Act{
		"B lies between them":                {Kind: "group", Layers: []string{"a", "c"}},
		"Sheet acts on what is in the group": {Kind: "group", Layers: []string{"c", "sheet"}},
		"is in another group than":           {Kind: "group", Layers: []string{"a", "x"}},
		"G has an opacity":                   {Kind: "ungroup", Layers: []string{"g"}},
		"Z moves in H":                       {Kind: "ungroup", Layers: []string{"h"}},
		"A is no group":                      {Kind: "ungroup", Layers: []string{"a"}},
		"Fast is locked":                     {Kind: "place", Layers: []string{"fast"}, To: [2]float64{1, 1}},
		"H can't go into itself":             {Kind: "nest", Layers: []string{"h"}, Into: "layers/h/layers"},
		"there is no layer":                  {Kind: "discard", Layers: []string{"nobody"}},
		"none is selected":                   {Kind: "discard"},
	} {
		a.Format = "wide"
		if _, err := Do(d, shelf{}, a); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%s %v: %v, want %q", a.Kind, a.Layers, err, want)
		}
	}
}

func order(d *template.Document) string {
	var out []string
	for _, y := range d.Layers {
		out = append(out, y.ID)
	}
	return strings.Join(out, " ")
}

func TestStacking(t *testing.T) {
	d := doc(t, three+`, {"id": "e", "name": "E", "kind": "shape", "fill": "#ffffff"}`, "", "")
	for _, c := range []struct {
		way, want string
		layers    []string
	}{
		{"up", "b a c e", []string{"a"}}, {"up", "c a b e", []string{"a", "b"}}, {"up", "a b c e", []string{"e"}}, {"down", "a b e c", []string{"e"}},
		{"top", "b c e a", []string{"a"}}, {"top", "b e a c", []string{"c", "a"}}, {"bottom", "b e a c", []string{"e", "b"}},
	} {
		next, _ := do(t, d, Act{Kind: "stack", Layers: c.layers, Way: c.way})
		if got := order(next); got != c.want {
			t.Errorf("%s %v: %s, want %s", c.way, c.layers, got, c.want)
		}
	}
	next, _ := do(t, d, Act{Kind: "nest", Layers: []string{"e", "a"}, Into: "layers", At: 2})
	if got := order(next); got != "b a e c" {
		t.Errorf("dropped between b and c: %s", got)
	}
}

// What is deleted is spoken of no more; a layer that a formula reads stays.
func TestDeletingLeavesNothingBehind(t *testing.T) {
	d := doc(t, moving+`, {"id": "f", "name": "F", "kind": "shape", "fill": "#ffffff", "follow": "b"},
		{"id": "r", "name": "R", "kind": "shape", "fill": "#ffffff", "formulas": {"turn": "value('layers/f/turn')"}}`, `"layers/a/place": [5, 5]`,
		`, "sheet": {"groups": [{"id": "g", "label": "G", "entries": [{"id": "e", "label": "E", "kind": "amount", "default": 1, "min": 0, "max": 1, "ties": [{"to": "layers/a/opacity"}, {"to": "layers/c/opacity"}]}]}]}`)
	next, p := do(t, d, Act{Kind: "discard", Layers: []string{"a", "b"}})
	s := text(t, next)
	for _, gone := range []string{`"a"`, `"b"`, "layers/a/", `"follow"`, `"matte"`} {
		if strings.Contains(s, gone) {
			t.Errorf("%s is still spoken of: %s", gone, s)
		}
	}
	if !strings.Contains(s, "layers/c/opacity") || p.Chosen == nil {
		t.Error("the tie to what stays is gone")
	}
	if _, err := Do(d, shelf{}, Act{Kind: "discard", Format: "wide", Layers: []string{"f"}}); err == nil || !strings.Contains(err.Error(), "R") {
		t.Errorf("what a formula reads: %v", err)
	}
	both, _ := do(t, d, Act{Kind: "discard", Layers: []string{"f", "r"}})
	if both.Layer("f") != nil || both.Layer("r") != nil {
		t.Error("both should be gone")
	}
}

// A copy has ids of its own, speaks of what was copied with it, and looks the same in
// every format.
func TestCopiesStandOnTheirOwn(t *testing.T) {
	d := doc(t, `{"id": "g", "name": "G", "kind": "group", "layers": [{"id": "m", "name": "M", "kind": "shape", "fill": "#ffffff", "hidden": true},
		{"id": "x", "name": "X 2", "kind": "shape", "fill": "#102030", "size": [90, 90], "matte": {"layer": "m", "of": "alpha"}, "formulas": {"turn": "value('layers/m/turn') + 1"}}]}`,
		`"layers/x/place": [7, 8]`, "")
	next, p := do(t, d, Act{Kind: "duplicate", Layers: []string{"g"}})
	copied := next.Layer(p.Chosen[0])
	if copied == nil || copied.Name != "G 2" || len(copied.Layers()) != 2 || order(next) != "g g-2" {
		t.Fatalf("the copy is %v among %s", p.Chosen, order(next))
	}
	m, x := copied.Layers()[0], copied.Layers()[1]
	if x.Text(scheme.MatteLayer) != m.ID || x.Formulas["turn"] != "value('layers/"+m.ID+"/turn') + 1" {
		t.Errorf("the copy is cut by %s and turned by %s", x.Text(scheme.MatteLayer), x.Formulas["turn"])
	}
	if v := next.Format("tall").Rest["layers/"+x.ID+"/place"]; !slices.Equal(v.Numbers, []float64{7, 8}) {
		t.Errorf("in the other format it stands at %v", v)
	}
	// Alt and drag: the original stays, the copy goes.
	next, p = do(t, doc(t, three, "", ""), Act{Kind: "place", Layers: []string{"a"}, To: [2]float64{100, 0}, Copy: true})
	if placeOf(t, next, "a") != [2]float64{-600, 0} || placeOf(t, next, p.Chosen[0]) != [2]float64{-500, 0} {
		t.Errorf("%v and its copy at %v", placeOf(t, next, "a"), placeOf(t, next, p.Chosen[0]))
	}
}

// Shapes become pockets that look as they did where the pocket is filled, and pictures
// keep their picture; back again each is what it was.
func TestSewingAndUnpicking(t *testing.T) {
	d := doc(t, `{"id": "s", "name": "S", "kind": "shape", "fill": "#102030", "form": {"kind": "star", "sides": 5}, "place": [10, 20], "size": [300, 200], "turn": 5, "opacity": 0.5,
		"motion": {"turn": {"keys": [{"at": 0, "value": 0}, {"at": 9, "value": 9}]}}},
		{"id": "p", "name": "P", "kind": "picture", "media": "`+pictureHash+`", "place": [5, 5]}`, `"layers/s/fill": "#ffffff", "layers/s/place": [1, 1]`, "")
	next, _ := do(t, d, Act{Kind: "sew", Layers: []string{"s", "p"}})
	s, p := next.Layer("s"), next.Layer("p")
	if s.Kind != scheme.View || len(s.Masks()) != 1 || s.Masks()[0].Geometry().Kind != geom.Star || s.Number(scheme.Turn) != 5 || s.Motion["turn"] == nil {
		t.Errorf("the shape became %s", text(t, next))
	}
	if _, own := next.Format("tall").Rest["layers/s/fill"]; own || len(next.Format("tall").Rest) != 1 {
		t.Errorf("the format says %v", next.Format("tall").Rest)
	}
	if k := next.Pocket(p.Text(scheme.Pocket)); k == nil || k.StandIn == nil || k.StandIn.Media != pictureHash {
		t.Errorf("the picture's pocket is %+v", k)
	}
	if a, b := quad(stands(t, d, "wide", 0)["p"]), quad(stands(t, next, "wide", 0)["p"]); a != b {
		t.Errorf("the picture went from %v to %v", a, b)
	}
	back, _ := do(t, next, Act{Kind: "unpick", Layers: []string{"s", "p"}})
	if y := back.Layer("s"); y.Kind != scheme.Shape || y.Geometry().Kind != geom.Star || len(y.Masks()) != 0 {
		t.Errorf("back again: %s", text(t, back))
	}
	if y := back.Layer("p"); y.Kind != scheme.Picture || y.Text(scheme.OwnMedia) != pictureHash || len(back.Pockets) != 0 {
		t.Errorf("back again: %s", text(t, back))
	}
	// A box that is drawn becomes a pocket there; another view shows the same one.
	next, plan := do(t, d, Act{Kind: "sew", From: [2]float64{100, 100}, To: [2]float64{500, 300}, Name: "Bow"})
	if q := quad(stands(t, next, "wide", 0)[plan.Chosen[0]]); q[0] != (geom.Point{X: 100, Y: 100}) || q[2] != (geom.Point{X: 500, Y: 300}) {
		t.Errorf("sewn at %v", q)
	}
	again, plan := do(t, next, Act{Kind: "sew", From: [2]float64{600, 100}, To: [2]float64{700, 200}, Id: next.Pockets[0].ID})
	if len(again.Pockets) != 1 || again.Layer(plan.Chosen[0]).Text(scheme.Pocket) != again.Pockets[0].ID {
		t.Error("the second view shows another pocket")
	}
	gone, _ := do(t, again, Act{Kind: "fill", Pocket: again.Pockets[0].ID, Media: pictureHash, Name: "Sky.png", Kinds: []string{"picture"}})
	if gone.Pockets[0].StandIn == nil || gone.Media[0].Name != "Sky.png" {
		t.Errorf("filled: %s", text(t, gone))
	}
	if gone, _ = do(t, gone, Act{Kind: "empty"}); gone.Pockets[0].Shown() != "" {
		t.Error("a pocket is not empty")
	}
}

// What is drawn has the box that was drawn: also a flat one beside a line that would
// draw its side to nothing. A rule is as long as it was drawn, and thin.
func TestWhatIsDrawnIsNeverDrawnToNothing(t *testing.T) {
	d := doc(t, "", "", "")
	for _, c := range []struct {
		form     string
		from, to [2]float64
		want     geom.Box
	}{
		{"rectangle", [2]float64{960, 540}, [2]float64{1300, 548}, geom.Box{X: 960, Y: 540, W: 340, H: 8}},
		{"rectangle", [2]float64{700, 300}, [2]float64{955, 536}, geom.Box{X: 700, Y: 300, W: 260, H: 240}}, // drawn to the middles
		{"rule", [2]float64{300, 700}, [2]float64{900, 704}, geom.Box{X: 300, Y: 699, W: 600, H: 6}},
		{"rule", [2]float64{300, 200}, [2]float64{296, 500}, geom.Box{X: 295, Y: 200, W: 6, H: 300}},
	} {
		next, p := do(t, d, Act{Kind: "insert", Way: "shape", Path: c.form, From: c.from, To: c.to, Snap: 12})
		s := stands(t, next, "wide", 0)[p.Chosen[0]]
		if got := s.Box(); math.Abs(got.X-c.want.X)+math.Abs(got.Y-c.want.Y)+math.Abs(got.W-c.want.W)+math.Abs(got.H-c.want.H) > 0.1 {
			t.Errorf("a %s from %v to %v is %v, not %v", c.form, c.from, c.to, got, c.want)
		}
	}
}

// What is drawn or moved by hand lands on whole pixels where it meets no line, and where the
// hand says that nothing is to hold it, it stays between them.
func TestTheHandLandsOnWholePixels(t *testing.T) {
	d := doc(t, "", "", "")
	d, _ = do(t, d, Act{Kind: "insert", Way: "shape", Path: "rectangle", From: [2]float64{300.3, 200.4}, To: [2]float64{519.6, 310.7}, Snap: 4})
	id := d.Layers[0].ID
	if b := boxAt(t, d, id); b != (geom.Box{X: 300, Y: 200, W: 220, H: 111}) {
		t.Errorf("drawn at %v", b)
	}
	moved, _ := do(t, d, Act{Kind: "place", Layers: []string{id}, From: [2]float64{400, 250}, To: [2]float64{447.37, 250}, Snap: 4})
	if b := boxAt(t, moved, id); b.X != 347 || b.Y != 200 {
		t.Errorf("moved to %v", b)
	}
	free, _ := do(t, d, Act{Kind: "place", Layers: []string{id}, From: [2]float64{400, 250}, To: [2]float64{447.37, 250}})
	if b := boxAt(t, free, id); math.Abs(b.X-347.37) > 1e-6 {
		t.Errorf("unheld it moved to %v", b)
	}
	grown, _ := do(t, d, Act{Kind: "grow", Layers: []string{id}, Handle: [2]float64{1, 1}, From: [2]float64{520, 311}, To: [2]float64{560.8, 350.3}, Snap: 4})
	if b := boxAt(t, grown, id); b != (geom.Box{X: 300, Y: 200, W: 261, H: 150}) {
		t.Errorf("grown to %v", b)
	}
}

func boxAt(t testing.TB, d *template.Document, id string) geom.Box {
	t.Helper()
	s := stands(t, d, "wide", 0)[id]
	b := s.Box()
	for _, v := range []*float64{&b.X, &b.Y, &b.W, &b.H} {
		*v = math.Round(*v*1e6) / 1e6
	}
	return b
}

// New shapes are told apart before anybody gives them a colour, and a pennant fills the box
// that was drawn for it.
func TestNewShapesAreToldApart(t *testing.T) {
	d := doc(t, "", "", "")
	seen := map[string]bool{}
	for range cloths {
		d, _ = do(t, d, Act{Kind: "insert", Way: "shape", Path: "triangle"})
		seen[d.Layers[len(d.Layers)-1].Text(scheme.Fill)] = true
	}
	if len(seen) != len(cloths) {
		t.Errorf("the colours are %v", seen)
	}
	for range 3 {
		d, _ = do(t, d, Act{Kind: "insert", Way: "shape", Path: "triangle"})
		if n := len(d.Layers); d.Layers[n-1].Text(scheme.Fill) == d.Layers[n-2].Text(scheme.Fill) {
			t.Error("with all in use two neighbours are alike")
		}
	}
	if p := d.Layers[0].Get(scheme.LayerForm.Path); len(p.Numbers) == 0 || slices.Max(p.Numbers) != 1 {
		t.Errorf("the pennant's outline is %v", p)
	}
}

// A group turns about the middle of what is in it.
func TestAGroupTurnsAboutWhatIsInIt(t *testing.T) {
	d := doc(t, `{"id": "a", "name": "A", "kind": "shape", "fill": "#c01030", "place": [600, 300], "size": [100, 100]},
		{"id": "b", "name": "B", "kind": "shape", "fill": "#c01030", "place": [700, 300], "size": [100, 100]}`, "", "")
	grouped, _ := do(t, d, Act{Kind: "group", Layers: []string{"a", "b"}})
	half := scheme.One(180)
	turned, _ := do(t, grouped, Act{Kind: "rest", Path: "layers/group/turn", Value: &half})
	was, is := stands(t, d, "wide", 0), stands(t, turned, "wide", 0)
	a, b := is["a"], is["b"]
	wasA, wasB := was["a"], was["b"]
	if !near(a.Box().Centre(), wasB.Box().Centre(), 0.2) || !near(b.Box().Centre(), wasA.Box().Centre(), 0.2) {
		t.Errorf("turned half round they lie at %v and %v", a.Box(), b.Box())
	}
}
