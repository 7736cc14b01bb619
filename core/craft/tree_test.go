package craft

import (
	"context"
	"encoding/json"
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"ivypocket/core/edit"
	"ivypocket/core/geom"
	"ivypocket/core/raster"
	"ivypocket/core/recipe"
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

// A new format keeps every pocket on its canvas, what filled a side fills it, and a twin
// in double size looks the same.
func TestNewFormatsKeepPocketsOnTheCanvas(t *testing.T) {
	rng := rand.New(rand.NewPCG(11, 12))
	canvases := [][2]float64{{1080, 1920}, {1080, 1080}, {3840, 2160}, {640, 360}, {1920, 800}, {600, 1600}}
	for round := range 40 {
		var list, pockets []string
		for i := range 6 {
			w, h := 60+rng.Float64()*1800, 60+rng.Float64()*1000
			x, y := (rng.Float64()-0.5)*(1920-w), (rng.Float64()-0.5)*(1080-h)
			list = append(list, fmt.Sprintf(`{"id": "v%d", "name": "V%d", "kind": "view", "pocket": "p%d", "place": [%.2f, %.2f], "size": [%.2f, %.2f], "radius": 12}`, i, i, i, x, y, w, h))
			pockets = append(pockets, fmt.Sprintf(`{"id": "p%d", "name": "P%d", "kinds": ["picture"]}`, i, i))
		}
		list = append(list, `{"id": "back", "name": "Back", "kind": "shape", "fill": "#ffffff", "size": [1920, 1080]}`,
			`{"id": "corner", "name": "Corner", "kind": "shape", "fill": "#ffffff", "anchor": "top left", "place": [40, 30], "size": [100, 50]}`)
		d := doc(t, strings.Join(list, ","), "", `, "pockets": [`+strings.Join(pockets, ",")+`]`)
		c := canvases[round%len(canvases)]
		next, _ := do(t, d, Act{Kind: "format-add", To: c, Name: "New"})
		all := stands(t, next, "new", 0)
		for id, s := range all {
			b := s.Box()
			if strings.HasPrefix(id, "v") && (b.X < -0.01 || b.Y < -0.01 || b.X+b.W > c[0]+0.01 || b.Y+b.H > c[1]+0.01 || b.W < 1 || b.H < 1) {
				t.Fatalf("round %d: %s stands at %v on %v", round, id, b, c)
			}
		}
		back, corner := all["back"], all["corner"]
		if b := back.Box(); math.Abs(b.W-c[0]) > 0.01 || math.Abs(b.H-c[1]) > 0.01 || math.Abs(b.X) > 0.01 {
			t.Errorf("what filled the canvas stands at %v on %v", b, c)
		}
		k := math.Min(c[0], c[1]) / 1080
		if b := corner.Box(); math.Abs(b.X-40*k) > 0.01 || math.Abs(b.Y-30*k) > 0.01 {
			t.Errorf("what counts from a corner stands at %v on %v", b, c)
		}
		if c[0]/c[1] == 1920.0/1080 { // a twin of another size
			for id, s := range stands(t, d, "wide", 0) {
				a, is := s.Box(), all[id]
				b := is.Box()
				if math.Abs(a.X*k-b.X) > 0.02 || math.Abs(a.W*k-b.W) > 0.02 || math.Abs(a.Y*k-b.Y) > 0.02 {
					t.Errorf("round %d: %s at %v became %v", round, id, a, b)
				}
			}
		}
	}
	// Cells in a row lie one under another on a tall canvas.
	d, _ := do(t, doc(t, "", "", ""), Act{Kind: "split", To: [2]float64{3, 1}, Numbers: map[string]float64{"gutter": 12}, Middle: true})
	next, _ := do(t, d, Act{Kind: "format-add", To: [2]float64{720, 1280}, Name: "Phone"})
	for id, s := range stands(t, next, "phone", 0) {
		if b := s.Box(); id != "backing" && (b.W != 720 || math.Abs(b.H-(1280-16)/3) > 0.5) {
			t.Errorf("the cell of %s is %v", id, b)
		}
	}
}

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

func TestBlankTemplates(t *testing.T) {
	d, err := Blank(shelf{}, Start{Name: "Gust, 2", Purpose: template.Transition, Rate: "29.97", Frames: 60, Canvases: [][2]int{{1920, 1080}, {1080, 1920}}})
	if err != nil {
		t.Fatal(err)
	}
	if d.ID != "gust-2" || d.Rate.N != 30000 || d.Rate.D != 1001 || len(d.Formats) != 2 || d.Formats[1].Name != "Vertical" || order(d) != "to-view from-view" {
		t.Errorf("%s", text(t, d))
	}
	// At rest each shows its clip's full picture.
	for id, s := range stands(t, d, "vertical", 0) {
		if b := s.Box(); b != (geom.Box{W: 1080, H: 1920}) {
			t.Errorf("%s stands at %v", id, b)
		}
	}
	// A frame takes its clip's canvas, rate and length.
	d, err = Blank(shelf{}, Start{Name: "Frame", Purpose: template.Frame, Rate: "25", Frames: 50, Canvases: [][2]int{{1920, 1080}}, Clip: clipHash, Take: true})
	if err != nil || d.Formats[0].Width != 1280 || d.Rate.N != 30000 || d.Frames != 300 || d.Pockets[0].StandIn.Media != clipHash || d.Pockets[0].Role != template.RoleClip {
		t.Errorf("%v: %+v", err, d)
	}
	for want, s := range map[string]Start{
		"name":      {Rate: "25", Frames: 1, Canvases: [][2]int{{16, 16}}},
		"rate":      {Name: "A", Rate: "fast", Frames: 1, Canvases: [][2]int{{16, 16}}},
		"canvases":  {Name: "A", Rate: "25", Frames: 1, Canvases: [][2]int{{15, 16}}},
		"frames: 0": {Name: "A", Rate: "25", Canvases: [][2]int{{16, 16}}},
		"clip":      {Name: "A", Rate: "25", Frames: 1, Canvases: [][2]int{{16, 16}}, Clip: "sha256:no"},
		"purpose":   {Name: "A", Rate: "25", Frames: 1, Canvases: [][2]int{{16, 16}}, Purpose: "fun"},
	} {
		if _, err := Blank(shelf{}, s); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%+v: %v, want %q", s, err, want)
		}
	}
}

// Whatever is done at the bench, a thousand times, the draft stays sound, can be drawn
// in every format, and is taken back to the byte.
func TestAThousandActsLeaveASoundDraft(t *testing.T) {
	rng := rand.New(rand.NewPCG(21, 22))
	d, err := Blank(shelf{}, Start{Name: "Long day", Rate: "25", Frames: 100, Canvases: [][2]int{{1280, 720}, {720, 1280}}})
	if err != nil {
		t.Fatal(err)
	}
	draft := edit.DraftFrom(d)
	first := text(t, draft.Doc)
	type step struct {
		before  string
		changes []edit.Change
	}
	var done []step
	refused, counts := map[string]int{}, map[string]int{}
	pick := func(list ...string) string { return list[rng.IntN(len(list))] }
	point := func() [2]float64 {
		return [2]float64{math.Round(rng.Float64() * 1280), math.Round(rng.Float64() * 720)}
	}
	for range 1200 {
		var ids []string
		draft.Doc.Visit(func(_ string, y *template.Layer) { ids = append(ids, y.ID) })
		if whole, err := draft.Doc.Expanded(); err == nil && rng.IntN(4) == 0 { // through uses of motifs
			ids = nil
			whole.Visit(func(_ string, y *template.Layer) { ids = append(ids, y.ID) })
		}
		a := Act{Kind: pick(append(Kinds(), "group", "motif", "motif", "unmotif")...), Format: draft.Doc.Formats[rng.IntN(len(draft.Doc.Formats))].ID, Frame: int64(rng.IntN(100)), Apart: rng.IntN(4) == 0, From: point(), To: point(),
			Handle: [2]float64{float64(rng.IntN(3)) / 2, float64(rng.IntN(3)) / 2}, Keep: rng.IntN(3) == 0, Middle: rng.IntN(4) == 0, Copy: rng.IntN(5) == 0, Snap: float64(rng.IntN(2) * 8),
			At: rng.IntN(5), Name: pick("", "*1.1", "+5", "Sun"), Own: rng.IntN(4) == 0}
		for range 1 + rng.IntN(3) {
			if len(ids) > 0 {
				if id := ids[rng.IntN(len(ids))]; !slices.Contains(a.Layers, id) {
					a.Layers = append(a.Layers, id)
				}
			}
		}
		switch a.Kind {
		case "insert":
			a.Way, a.Path, a.Media = pick("shape", "shape", "ground", "group", "grade", "camera", "picture", "use", "carrier"), pick(Forms()...), pictureHash
			if a.Way == "use" && len(draft.Doc.Motifs) > 0 {
				a.Id = draft.Doc.Motifs[rng.IntN(len(draft.Doc.Motifs))].ID
			}
			if len(ids) > 24 {
				continue
			}
		case "duplicate", "sew":
			if len(ids) > 24 {
				continue
			}
		case "split", "format-add":
			a.To = [2]float64{float64(1 + rng.IntN(2)), 2}
			if len(draft.Doc.Layouts) > 2 {
				continue
			}
			if a.Kind == "format-add" {
				a.To = [2]float64{float64(2 * (100 + rng.IntN(900))), float64(2 * (100 + rng.IntN(900)))}
				if len(draft.Doc.Formats) > 3 {
					continue
				}
			}
		case "motif-remove":
			if len(draft.Doc.Motifs) > 0 {
				a.Id = draft.Doc.Motifs[0].ID
			}
		case "unit":
			a.Way = pick("px", "share")
		case "recipe", "recipe-forget":
			kind := recipe.All()[rng.IntN(len(recipe.All()))]
			if n := len(draft.Doc.Recipes); n > 0 && (n > 2 || len(ids) > 20 || a.Kind == "recipe-forget" || rng.IntN(3) > 0) {
				a.Id = draft.Doc.Recipes[rng.IntN(n)].ID
				kind = recipe.Find(draft.Doc.Recipes[slices.IndexFunc(draft.Doc.Recipes, func(r template.Recipe) bool { return r.ID == a.Id })].Kind)
			} else if len(ids) > 20 {
				continue
			}
			a.Way, a.Numbers = kind.Kind, some(rng, kind, 2)
		case "motif", "group", "unmotif": // mostly of what it can be made of
			draft.Doc.Visit(func(_ string, y *template.Layer) {
				if rng.IntN(3) == 0 && (y.Kind == scheme.Group && a.Kind == "motif" || y.Kind == scheme.Use && a.Kind == "unmotif") {
					a.Layers = []string{y.ID}
				}
			})
			if a.Kind == "group" && len(draft.Doc.Layers) > 2 {
				at := rng.IntN(len(draft.Doc.Layers) - 1)
				a.Layers = []string{draft.Doc.Layers[at].ID, draft.Doc.Layers[at+1].ID}
			}
		case "format-size", "format-remove", "format-copy", "format-lay":
			a.Into = draft.Doc.Formats[0].ID
			if a.Kind == "format-copy" && len(draft.Doc.Formats) > 3 {
				continue
			}
			a.Id = draft.Doc.Formats[rng.IntN(len(draft.Doc.Formats))].ID
			a.To = [2]float64{float64(2 * (100 + rng.IntN(900))), float64(2 * (100 + rng.IntN(900)))}
		case "nest":
			if a.Into = "layers"; len(ids) > 0 && rng.IntN(2) == 0 {
				a.Into = "layers/" + ids[rng.IntN(len(ids))] + "/layers"
			}
		case "stack":
			a.Way = pick("up", "down", "top", "bottom")
		case "align":
			a.Way = pick("left", "centre", "right", "top", "middle", "bottom")
		case "spread":
			a.Way = pick("across", "down")
		case "adjust":
			a.Path = pick("opacity", "size", "place.x", "turn", "scale")
		case "mark":
			on := scheme.Is(rng.IntN(3) == 0)
			a.Path, a.Value = pick("hidden", "locked"), &on
		case "fill", "frame", "play":
			if len(draft.Doc.Pockets) == 0 {
				continue
			}
			a.Pocket, a.Media = draft.Doc.Pockets[rng.IntN(len(draft.Doc.Pockets))].ID, pick("", pictureHash, clipHash)
			f := geom.DefaultFraming(geom.Cover)
			f.Zoom = 1 + rng.Float64()
			a.Framing, a.Play = &f, &timing.Play{Speed: timing.Int(2)}
		case "divide", "line":
			if a.Way, a.To = pick("rows", "columns"), [2]float64{float64(rng.IntN(300)), float64(rng.IntN(300))}; a.Kind == "divide" {
				a.To[0] = 2
			}
			if a.At = 0; len(draft.Doc.Layouts) > 0 {
				a.Id = draft.Doc.Layouts[0].ID
			}
		case "cell":
			if len(draft.Doc.Layouts) == 0 {
				continue
			}
			a.Id, a.From = draft.Doc.Layouts[0].ID, [2]float64{0, 0}
		case "describe":
			a.Path, a.Name = pick("name", "family", "purpose"), pick("overlay", "transition", "frame")
		case "time":
			a.Name, a.At, a.Way = pick("", "30", "24"), rng.IntN(200), pick("keep", "stretch")
		case "cue-remove", "cue":
			if len(draft.Doc.Cues) > 0 && rng.IntN(2) == 0 {
				a.Id = draft.Doc.Cues[rng.IntN(len(draft.Doc.Cues))].ID
			}
		case "colour", "colour-remove":
			if a.Way = "#102030"; len(draft.Doc.Colours) > 0 && rng.IntN(2) == 0 {
				a.Id = draft.Doc.Colours[rng.IntN(len(draft.Doc.Colours))].ID
			}
		case "rest", "set", "keys", "put", "add", "remove", "move", "rename", "offer", "tie", "batch":
			continue // plain changes are tried elsewhere
		}
		p, err := Do(draft.Doc, shelf{}, a)
		if err != nil {
			refused[a.Kind]++
			continue
		}
		if p.Op.Kind == "" {
			continue
		}
		next, changes, err := draft.Do(p.Op)
		if err != nil {
			t.Fatalf("%d, %s: planned and refused: %v\n%+v", len(done), a.Kind, err, a)
		}
		if len(changes) == 0 {
			continue
		}
		if p.Op.Title == "" {
			t.Errorf("%s has no title", a.Kind)
		}
		if err := next.Doc.Sound(); err != nil {
			t.Fatalf("%d, %s: %v", len(done), a.Kind, err)
		}
		for _, f := range next.Doc.Formats {
			if _, err := scene.Compile(&sheet.Resolved{Doc: next.Doc, Values: sheet.Values{}}, f.ID, shelf{}); err != nil && !strings.Contains(err.Error(), "has no row") {
				t.Fatalf("%d, %s: can't be drawn in %s: %v", len(done), a.Kind, f.ID, err)
			}
		}
		done = append(done, step{text(t, draft.Doc), changes})
		counts[a.Kind]++
		draft = next
	}
	if len(done) < 250 || counts["motif"] == 0 || counts["recipe"] == 0 || counts["unmotif"] == 0 {
		t.Errorf("%d acts were carried out: %v; refused were %v", len(done), counts, refused)
	}
	for i := len(done) - 1; i >= 0; i-- {
		var err error
		if draft, err = draft.Replay(edit.Reverse(done[i].changes)); err != nil || text(t, draft.Doc) != done[i].before {
			t.Fatalf("taking back %d: %v\n%+v\ncame to\n%s\nnot\n%s", i, err, done[i].changes, text(t, draft.Doc), done[i].before)
		}
	}
	if text(t, draft.Doc) != first {
		t.Error("all of it taken back is another draft")
	}
}

// What goes with a value comes along with it, and goes with it.
func TestValuesComeInCompany(t *testing.T) {
	d := doc(t, `{"id": "s", "name": "S", "kind": "shape", "fill": "#102030", "size": [100, 100], "radius": 9, "motion": {"radius": {"keys": [{"at": 0, "value": 0}, {"at": 9, "value": 2}]}}},
		{"id": "m", "name": "M", "kind": "shape", "fill": "#ffffff", "size": [10, 10]}`, `"layers/s/radius": 3`, "")
	set := func(d *template.Document, name, value string) *template.Document {
		t.Helper()
		a := Act{Kind: "rest", Path: "layers/s/" + name}
		if value != "" {
			v := scheme.Says(value)
			a.Value = &v
		}
		next, _ := do(t, d, a)
		if _, err := scene.Compile(&sheet.Resolved{Doc: next, Values: sheet.Values{}}, "wide", shelf{}); err != nil {
			t.Fatal(err)
		}
		pixels(t, next, "wide", 5)
		return next
	}
	star := set(d, "form.kind", "star")
	if y := star.Layer("s"); y.Number(scheme.LayerForm.Sides) != 6 || y.Given(scheme.Radius) || len(y.Motion) > 0 || len(star.Format("tall").Rest) > 0 {
		t.Errorf("a star: %s", text(t, star))
	}
	if y := set(star, "form.kind", "rectangle").Layer("s"); y.Given(scheme.LayerForm.Sides) {
		t.Error("a rectangle with sides")
	}
	if y := set(d, "stroke.colour", "#ffffff").Layer("s"); y.Number(scheme.StrokeWidth) != 4 {
		t.Error("a stroke without a width")
	}
	graded := set(d, "gradient.kind", "radial")
	if y := graded.Layer("s"); len(y.Stops()) != 2 || y.Given(scheme.Fill) || !y.Given(scheme.GradientTo) {
		t.Errorf("a gradient: %s", text(t, graded))
	}
	if y := set(graded, "gradient.kind", "").Layer("s"); len(y.Stops()) != 0 || y.Given(scheme.GradientFrom) {
		t.Error("stops of no gradient")
	}
	if y := set(d, "matte.layer", "m").Layer("s"); y.Text(scheme.MatteOf) != "alpha" {
		t.Error("a matte of nothing")
	}
	set(d, "form.kind", "path")
	seven := scheme.One(7)
	many, _ := do(t, d, Act{Kind: "rest", Path: "layers/s/copies.count", Value: &seven})
	if y := many.Layer("s"); !y.Given(scheme.CopiesSpread) || y.Given(scheme.CopiesTurn) {
		t.Errorf("seven copies lie on one another: %s", text(t, many))
	}
	none := scheme.Many(0, 0)
	many, _ = do(t, many, Act{Kind: "rest", Path: "layers/s/copies.spread", Value: &none})
	many, _ = do(t, many, Act{Kind: "rest", Path: "layers/s/copies.count", Value: &seven})
	if v, _, _ := many.Get("layers/s/copies.spread"); !v.Equal(none) {
		t.Error("a spread that somebody set goes when the number of copies changes")
	}
	many, _ = do(t, many, Act{Kind: "rest", Path: "layers/s/copies.spread"})
	if many, _ = do(t, many, Act{Kind: "rest", Path: "layers/s/copies.count", Value: &seven}); many.Layer("s").Given(scheme.CopiesSpread) {
		t.Error("a spread that somebody left out comes back")
	}
}

// A new length leaves what stands where it is, or brings it along; a new rate leaves it
// at its second. 20 frames of 300 at 30 frames a second are 0.667 s (from references).
func TestLengthAndRate(t *testing.T) {
	d := doc(t, `{"id": "s", "name": "S", "kind": "shape", "fill": "#102030", "in": 10, "out": 90, "motion": {"turn": {"keys": [{"at": 0, "value": 0}, {"at": 20, "value": 9}]}}}`, "",
		`, "cues": [{"id": "poster", "name": "Poster", "at": 50}], "spans": [{"kind": "held", "from": 0, "to": 20}, {"kind": "elastic", "from": 20, "to": 100}]`)
	for _, c := range []struct {
		a    Act
		want string
	}{
		{Act{Kind: "time", At: 200}, "200: 10 90 20 50 20 100"},
		{Act{Kind: "time", At: 200, Way: "stretch"}, "200: 20 180 40 100 40 200"},
		{Act{Kind: "time", At: 40}, "40: 10 40 20 39 20 40"},
		{Act{Kind: "time", Name: "50"}, "200: 20 180 40 100 40 200"},
		{Act{Kind: "time", Name: "50", At: 100}, "100: 20 100 40 99 40 100"},
	} {
		next, _ := do(t, d, c.a)
		y := next.Layer("s")
		in, out := y.Trim(next)
		got := fmt.Sprintf("%d: %s %s %s %s %d %d", next.Frames, in, out, y.Motion["turn"].Keys[1].At, next.Cues[0].At, next.Spans[0].To, next.Spans[1].To)
		if got != c.want {
			t.Errorf("%+v: %s, want %s", c.a, got, c.want)
		}
	}
}

// Whatever is sent as an act is carried out on a sound draft or refused; nothing falls.
func FuzzActs(f *testing.F) {
	for _, s := range []string{
		`{"kind": "place", "layers": ["a", "b"], "from": [1, 2], "to": [1e300, -5], "snap": 8}`, `{"kind": "grow", "layers": ["a"], "handle": [0.5, 2], "to": [9, 9]}`,
		`{"kind": "split", "to": [16, 16], "numbers": {"gutter": -1}}`, `{"kind": "insert", "way": "shape", "path": "star"}`, `{"kind": "batch", "ops": [{"kind": "discard", "layers": ["a"]}, {"kind": "group", "layers": ["b", "c"]}]}`,
		`{"kind": "add", "into": "layers", "part": {"id": "z", "name": "Z", "kind": "group", "layers": [{"id": "y"}]}}`, `{"kind": "format-size", "id": "wide", "to": [16, 8192]}`, `{"kind": "time", "name": "1/7", "at": 3, "way": "stretch"}`,
		`{"kind": "rest", "path": "layers/a/form.kind", "value": "star"}`, `{"kind": "turn", "layers": ["a"], "from": [0, 0], "to": [0, 0]}`, `{"kind": "nest", "layers": ["a"], "into": "layers/b/layers", "at": -9}`,
	} {
		f.Add(s)
	}
	d := doc(f, three, "", "")
	f.Fuzz(func(t *testing.T, s string) {
		var a Act
		if json.Unmarshal([]byte(s), &a) != nil {
			return
		}
		if a.Format == "" {
			a.Format = "wide"
		}
		p, err := Do(d, shelf{}, a)
		if err != nil || p.Op.Kind == "" {
			return
		}
		next, changes, err := edit.DraftFrom(d).Do(p.Op)
		if err != nil {
			return
		}
		if err := next.Doc.Sound(); err != nil {
			t.Fatalf("%s: %v", s, err)
		}
		if back, err := next.Replay(edit.Reverse(changes)); err != nil || text(t, back.Doc) != text(t, d) {
			t.Fatalf("%s: was not taken back: %v", s, err)
		}
	})
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

// Layers are carried to another template with all that they speak of, and look there as
// they did; what is there already is not brought twice.
func TestLayersAreCarriedBetweenTemplates(t *testing.T) {
	from := doc(t, `{"id": "m", "name": "M", "kind": "shape", "fill": "#ffffff", "hidden": true, "size": [400, 300]},
		{"id": "g", "name": "G", "kind": "group", "layers": [{"id": "v", "name": "V", "kind": "view", "pocket": "bow", "size": [300, 200], "matte": {"layer": "m", "of": "alpha"},
			"masks": [{"id": "k", "feather": 3}], "motion": {"turn": {"keys": [{"at": 0, "value": 0}, {"at": 50, "value": 30}]}}},
		{"id": "s", "name": "S", "kind": "shape", "fill": "colour:sand", "size": [100, 100], "follow": "v", "stroke": {"colour": "colour:sand", "width": 4}}]}`, `"layers/s/place": [40, 0]`,
		`, "colours": [{"id": "sand", "name": "Sand", "value": "#e7d3a2"}], "pockets": [{"id": "bow", "name": "Bow", "kinds": ["picture"], "standIn": {"media": "`+pictureHash+`"}}]`)
	to := doc(t, `{"id": "g", "name": "G", "kind": "shape", "fill": "colour:sand", "size": [10, 10]}`, "", `, "colours": [{"id": "sand", "name": "Sand", "value": "#000000"}]`)
	clip := func(ids ...string) json.RawMessage {
		t.Helper()
		c, err := Copied(from, ids)
		if err != nil {
			t.Fatal(err)
		}
		raw, err := json.Marshal(c)
		if err != nil {
			t.Fatal(err)
		}
		return raw
	}
	next, p := do(t, to, Act{Kind: "paste", Clip: clip("m", "g")})
	if order(next) != "g m g-2" || len(next.Pockets) != 1 || len(next.Colours) != 2 || next.Format("tall").Rest["layers/s/place"].Numbers[0] != 40 {
		t.Fatalf("%s: %s", order(next), text(t, next))
	}
	if c, _ := next.Colour(next.Layer("s").Text(scheme.Fill)); c.R != 0xe7 {
		t.Errorf("the colour is %v", c)
	}
	alone := doc(t, "", "", "")
	there, _ := do(t, alone, Act{Kind: "paste", Clip: clip("m", "g")})
	for _, f := range []string{"wide", "tall"} {
		for id, s := range stands(t, from, f, 25) {
			if q := quad(stands(t, there, f, 25)[id]); !nearQuad(q, quad(s), 1e-6) {
				t.Errorf("%s in %s stands at %v, not %v", id, f, q, quad(s))
			}
		}
	}
	again, _ := do(t, next, Act{Kind: "paste", Clip: clip("m", "g")})
	if len(again.Pockets) != 1 || len(again.Colours) != 2 {
		t.Errorf("%d pockets and %d colours after pasting twice", len(again.Pockets), len(again.Colours))
	}
	// What it hung on and did not come along is let go.
	lone, p := do(t, to, Act{Kind: "paste", Clip: clip("v")})
	if y := lone.Layer(p.Chosen[0]); y.Given(scheme.MatteLayer) || len(y.Masks()) != 1 {
		t.Errorf("%s", text(t, lone))
	}
	// Only the look, the masks, the motion.
	worn, _ := do(t, next, Act{Kind: "dress", Clip: clip("s"), Layers: []string{"g"}, Way: "look"})
	if y := worn.Layer("g"); y.Number(scheme.StrokeWidth) != 4 || y.Get(scheme.Size).Numbers[0] != 10 {
		t.Errorf("the look came to %s", text(t, worn))
	}
	worn, _ = do(t, next, Act{Kind: "dress", Clip: clip("v"), Layers: []string{"g", "m"}, Way: "motion"})
	if worn.Layer("g").Motion["turn"] == nil || worn.Layer("m").Motion["turn"] == nil || worn.Layer("g").Masks() != nil {
		t.Error("the motion did not come")
	}
	worn, _ = do(t, worn, Act{Kind: "dress", Clip: clip("v"), Layers: []string{"g"}, Way: "masks"})
	if len(worn.Layer("g").Masks()) != 1 {
		t.Error("the masks did not come")
	}
	for _, bad := range []string{``, `{}`, `{"ivypocket": "layers", "layers": [3]}`, `{"ivypocket": "layers", "layers": []}`} {
		if _, err := Do(to, shelf{}, Act{Kind: "paste", Format: "wide", Clip: json.RawMessage(bad)}); err == nil || !strings.Contains(err.Error(), "clip: ") {
			t.Errorf("%s: %v", bad, err)
		}
	}
}

// Alone, a layer is drawn with what it is in and what is in it, and nothing else.
func TestLayersAreShownAlone(t *testing.T) {
	d := doc(t, three+`, {"id": "h", "name": "H", "kind": "group", "layers": [{"id": "x", "name": "X", "kind": "shape", "fill": "#ffffff"}, {"id": "y", "name": "Y", "kind": "shape", "fill": "#ffffff"}]}`, "", "")
	a := Alone(d, []string{"x", "b"})
	var hidden []string
	a.Visit(func(_ string, y *template.Layer) {
		if y.On(scheme.Hidden) {
			hidden = append(hidden, y.ID)
		}
	})
	if !slices.Equal(hidden, []string{"a", "c", "y"}) || d.Layer("a").On(scheme.Hidden) {
		t.Errorf("hidden are %v", hidden)
	}
}

// A length that is written in shares of the shorter side stays so when a number of px is
// set, a new one is written so where canvases differ in size, and units change without
// the picture of the canvas that is looked at.
func TestLengthsKeepTheirUnits(t *testing.T) {
	d := doc(t, `{"id": "s", "name": "S", "kind": "shape", "fill": "#102030", "size": ["25vmin", 200], "place": [108, 54], "masks": [{"id": "m", "form": {"kind": "ellipse"}, "feather": 27}]}`, "",
		`, "layouts": [{"id": "l", "kind": "split", "rows": [1], "columns": [1, 1], "gutter": "2vmin", "gutterBy": "shrink"}]`)
	says := func(d *template.Document, path, want string) {
		t.Helper()
		if v, _, err := d.Get(path); err != nil || v.String() != want {
			t.Errorf("%s is %v, %v; want %s", path, v, err, want)
		}
	}
	two, one := scheme.Many(540, 300), scheme.One(21.6)
	d, _ = do(t, d, Act{Kind: "rest", Path: "layers/s/size", Value: &two})
	says(d, "layers/s/size", `50vmin, 300`)
	part := scheme.One(270)
	d, _ = do(t, d, Act{Kind: "rest", Path: "layers/s/size.x", Value: &part})
	says(d, "layers/s/size", `25vmin, 300`)
	d, _ = do(t, d, Act{Kind: "rest", Path: "layouts/l/gutter", Value: &one})
	says(d, "layouts/l/gutter", `2vmin`)
	d, _ = do(t, d, Act{Kind: "rest", Path: "layers/s/radius", Value: &one})
	says(d, "layers/s/radius", `21.6`) // both canvases have a shorter side of 1080

	before := stands(t, d, "wide", 0)["s"]
	d, p := do(t, d, Act{Kind: "unit", Layers: []string{"s"}, Way: "share"})
	says(d, "layers/s/size", `25vmin, 27.77778vmin`)
	says(d, "layers/s/place", `10vmin, 5vmin`)
	says(d, "layers/s/masks/m/feather", `2.5vmin`)
	if after := stands(t, d, "wide", 0)["s"]; math.Abs(after.Box().Y-before.Box().Y) > 1e-4 || math.Abs(after.Box().H-before.Box().H) > 1e-4 {
		t.Errorf("it stands at %v, before at %v", after.Box(), before.Box())
	}
	if p.Op.Title != "Lengths in shares of S" {
		t.Errorf("it is called %q", p.Op.Title)
	}
	d, _ = do(t, d, Act{Kind: "unit", Path: "layers/s/size", Way: "px"})
	says(d, "layers/s/size", `270, 300`)
	for _, a := range []Act{{Path: "layers/s/fill", Way: "px"}, {Path: "layers/s/opacity", Way: "px"}, {Path: "layers/s/size", Way: "em"}, {Way: "px"}, {Path: "layers/no/size", Way: "px"}} {
		a.Kind, a.Format = "unit", "wide"
		if _, err := Do(d, shelf{}, a); err == nil {
			t.Errorf("%+v is written otherwise", a)
		}
	}
	// What comes in shares is kept so, and what a format has of its own in its own unit.
	ten := scheme.Many(10, 10)
	ten.Shorter = 3
	d, _ = do(t, d, Act{Kind: "rest", Path: "layers/s/size", Value: &ten})
	says(d, "layers/s/size", "10vmin, 10vmin")
	apart := scheme.Many(50, 60)
	d, _ = do(t, d, Act{Kind: "unit", Path: "layers/s/place", Way: "px"})
	d, _ = do(t, d, Act{Kind: "rest", Path: "layers/s/place", Value: &apart, Format: "tall", Apart: true})
	d, _ = do(t, d, Act{Kind: "unit", Path: "layers/s/place", Way: "share", Format: "wide"})
	d, _ = do(t, d, Act{Kind: "rest", Path: "layers/s/place", Value: &apart, Format: "tall", Apart: true})
	if v := d.Format("tall").Rest["layers/s/place"]; v.String() != "50, 60" {
		t.Errorf("the tall format's own place is %v", v)
	}
	// A format that has its own value has that one written otherwise too.
	own := scheme.Many(108, 108)
	d, _ = do(t, d, Act{Kind: "rest", Path: "layers/s/size", Value: &own, Format: "tall", Apart: true})
	d, _ = do(t, d, Act{Kind: "unit", Path: "layers/s/size", Way: "share", Format: "tall"})
	if v := d.Format("tall").Rest["layers/s/size"]; v.String() != `10vmin, 10vmin` {
		t.Errorf("in the tall format it is %v", v)
	}
}

// A format that was there from the start is laid out like another at a wish, as a new one
// would be; what it had of its own goes.
func TestAFormatIsLaidOutLikeAnother(t *testing.T) {
	d := doc(t, `{"id": "s", "name": "S", "kind": "shape", "fill": "#102030", "size": [400, 200], "place": [-700, 0]},
		{"id": "back", "name": "Back", "kind": "shape", "fill": "#ffffff", "size": [1920, 1080]}`, `"layers/s/fill": "#ff0000"`, "")
	laid, p := do(t, d, Act{Kind: "format-lay", Id: "tall", Into: "wide"})
	fresh, _ := do(t, d, Act{Kind: "format-add", Id: "wide", To: [2]float64{1080, 1920}, Name: "New"})
	a, b := stands(t, laid, "tall", 0), stands(t, fresh, "new", 0)
	for id := range a {
		if quad(a[id]) != quad(b[id]) {
			t.Errorf("%s is %v, in a new format %v", id, quad(a[id]), quad(b[id]))
		}
	}
	if _, own := laid.Format("tall").Rest["layers/s/fill"]; own || p.Op.Title != "Lay Tall out like Wide" {
		t.Errorf("%v after %s", laid.Format("tall").Rest, p.Op.Title)
	}
	for _, a := range []Act{{Id: "tall", Into: "tall"}, {Id: "no", Into: "wide"}, {Id: "tall"}} {
		a.Kind, a.Format = "format-lay", "wide"
		if _, err := Do(d, shelf{}, a); err == nil {
			t.Errorf("%+v is laid out", a)
		}
	}
}

// A duplicate of a format is as that is, to the number, and stands beside it.
func TestADuplicateOfAFormatIsAsThatIs(t *testing.T) {
	d := doc(t, `{"id": "s", "name": "S", "kind": "shape", "fill": "#102030", "size": [100, 200]}`, `"layers/s/size": [300, 40]`, "")
	d, _ = do(t, d, Act{Kind: "format-copy", Id: "tall"})
	if len(d.Formats) != 3 || d.Formats[2].Name != "Tall 2" || d.Formats[2].ID != "tall-2" {
		t.Fatalf("%+v", d.Formats)
	}
	if a, b := stands(t, d, "tall", 0)["s"], stands(t, d, "tall-2", 0)["s"]; quad(a) != quad(b) {
		t.Errorf("%v is not %v", a.Box(), b.Box())
	}
	d, _ = do(t, d, Act{Kind: "format-copy", Id: "wide"})
	if d.Formats[1].Name != "Wide 2" {
		t.Errorf("%+v", d.Formats)
	}
	if _, err := Do(d, shelf{}, Act{Kind: "format-copy", Id: "none"}); err == nil {
		t.Error("a format that is not there is duplicated")
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
