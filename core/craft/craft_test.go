package craft

import (
	"encoding/json"
	"fmt"
	"math"
	"math/rand/v2"
	"strings"
	"testing"

	"ivypocket/core/edit"
	"ivypocket/core/geom"
	"ivypocket/core/raster"
	"ivypocket/core/scene"
	"ivypocket/core/scheme"
	"ivypocket/core/sheet"
	"ivypocket/core/template"
	"ivypocket/core/timing"
	"ivypocket/fonts"
)

// shelf is a library of one picture and one clip.
type shelf struct{ fonts.Shelf }

var (
	pictureHash = "sha256:" + strings.Repeat("0a", 32)
	clipHash    = "sha256:" + strings.Repeat("0b", 32)
)

func (shelf) Info(hash string) (scene.Info, bool) {
	switch hash {
	case pictureHash:
		return scene.Info{Size: geom.Size{W: 800, H: 600}}, true
	case clipHash:
		c := timing.Even(timing.Rate{Rat: timing.NewRat(30000, 1001)}, 300)
		return scene.Info{Size: geom.Size{W: 1280, H: 720}, Clip: &c}, true
	}
	return scene.Info{}, false
}

func (shelf) Trace(string) (*raster.Trace, error) { return nil, fmt.Errorf("nothing is traced here") }

const canvases = `{"id": "wide", "name": "Wide", "width": 1920, "height": 1080}, {"id": "tall", "name": "Tall", "width": 1080, "height": 1920, "rest": {%s}}`

// doc is a document of two formats with the layers that are written.
func doc(t testing.TB, layers, rest, more string) *template.Document {
	t.Helper()
	d, err := edit.NewDraft(fmt.Appendf(nil, `{"ivypocket": 3, "kind": "template", "id": "t", "name": "T", "category": "T", "rate": "25", "frames": 100,
		"formats": [`+canvases+`], "layers": [%s]%s}`, rest, layers, more))
	if err != nil {
		t.Fatal(err)
	}
	return d.Doc
}

// do carries an act out and returns what comes of it.
func do(t testing.TB, d *template.Document, a Act) (*template.Document, Plan) {
	t.Helper()
	if a.Format == "" {
		a.Format = d.Formats[0].ID
	}
	p, err := Do(d, shelf{}, a)
	if err != nil {
		t.Fatalf("%s: %v", a.Kind, err)
	}
	if p.Op.Kind == "" {
		return d, p
	}
	next, _, err := edit.DraftFrom(d).Do(p.Op)
	if err != nil {
		t.Fatalf("%s: %v\n%+v", a.Kind, err, p.Op)
	}
	return next.Doc, p
}

// stands tells how all layers stand in a format at a frame.
func stands(t testing.TB, d *template.Document, format string, frame int64) map[string]scene.Standing {
	t.Helper()
	sc, err := scene.Compile(&sheet.Resolved{Doc: d, Values: sheet.Values{}}, format, shelf{})
	if err != nil {
		t.Fatal(err)
	}
	out := map[string]scene.Standing{}
	for _, s := range sc.Standings(sc.Time().At(timing.OutputFrame(frame))) {
		out[s.Layer] = s
	}
	return out
}

func quad(s scene.Standing) [4]geom.Point {
	q, _ := s.World.Quad(geom.Box{W: s.Now.Size.W, H: s.Now.Size.H})
	return q
}

func near(a, b geom.Point, by float64) bool {
	return math.Abs(a.X-b.X) <= by && math.Abs(a.Y-b.Y) <= by
}

func nearQuad(a, b [4]geom.Point, by float64) bool {
	for i := range a {
		if !near(a[i], b[i], by) {
			return false
		}
	}
	return true
}

// tangle is a document of turned, scaled, skewed and mirrored groups in one another,
// under a camera, with keys here and there.
func tangle(t testing.TB, rng *rand.Rand) *template.Document {
	n := 0
	f := func(lo, hi float64) string { return fmt.Sprintf("%.3f", lo+rng.Float64()*(hi-lo)) }
	anchors := []string{"centre", "top left", "bottom right", "left"}
	var layer func(depth int) string
	layer = func(depth int) string {
		n++
		id := fmt.Sprintf("y%d", n)
		common := fmt.Sprintf(`"id": "%s", "name": "Layer %d", "place": [%s, %s], "size": [%s, %s], "turn": %s, "anchor": "%s"`,
			id, n, f(-300, 300), f(-200, 200), f(50, 400), f(50, 400), f(-170, 170), anchors[rng.IntN(len(anchors))])
		if rng.IntN(2) == 0 {
			common += fmt.Sprintf(`, "scale": [%s, %s]`, f(0.5, 2), f(0.5, 2))
		}
		if rng.IntN(4) == 0 {
			common += fmt.Sprintf(`, "scale": [-1, %s]`, f(0.5, 2))
			common = strings.Replace(common, `, "scale": [-1`, `, "origin": [0.2, 0.9], "scale": [-1`, 1)
			if strings.Count(common, `"scale"`) > 1 {
				common = strings.Replace(common, `"scale"`, `"skew"`, 1)
			}
		}
		if rng.IntN(3) == 0 {
			common += fmt.Sprintf(`, "motion": {"place": {"unit": "canvas", "keys": [{"at": 0, "value": [0, 0]}, {"at": 80, "value": [%s, %s]}]}, "turn": {"keys": [{"at": 0, "value": 0}, {"at": 99, "value": %s}]}}`, f(-0.2, 0.2), f(-0.2, 0.2), f(-50, 50))
		}
		if depth > 0 {
			var in []string
			for range 1 + rng.IntN(3) {
				in = append(in, layer(depth-1-rng.IntN(2)))
			}
			return fmt.Sprintf(`{%s, "kind": "group", "layers": [%s]}`, common, strings.Join(in, ","))
		}
		return fmt.Sprintf(`{%s, "kind": "shape", "fill": "#102030"}`, common)
	}
	list := []string{layer(3), layer(2), layer(0)}
	list = append(list, fmt.Sprintf(`{"id": "eye", "name": "Eye", "kind": "camera", "place": [%s, %s], "scale": %s, "turn": %s}`, f(-50, 50), f(-50, 50), f(0.8, 1.3), f(-20, 20)))
	return doc(t, strings.Join(list, ","), "", "")
}

func leaves(d *template.Document, can scheme.Can) (out []*template.Layer) {
	d.Visit(func(_ string, y *template.Layer) {
		if y.Can(can) && y.Kind != scheme.Camera {
			out = append(out, y)
		}
	})
	return out
}

// However a layer's groups are turned, scaled and mirrored, and whatever camera looks at
// them, what is dragged goes where the pointer goes. The maps are those that Chromium's
// DOMMatrix confirms elsewhere (CSS Transforms Levels 1 and 2).
func TestDragsGoWhereThePointerGoes(t *testing.T) {
	rng := rand.New(rand.NewPCG(1, 2))
	for round := range 60 {
		d := tangle(t, rng)
		frame := int64(rng.IntN(100))
		all := leaves(d, scheme.Box)
		y := all[rng.IntN(len(all))]
		was := stands(t, d, "wide", frame)[y.ID]
		by := geom.Point{X: rng.Float64()*400 - 200, Y: rng.Float64()*400 - 200}
		a := Act{Layers: []string{y.ID}, Frame: frame, From: [2]float64{100, 100}, To: [2]float64{100 + by.X, 100 + by.Y}}
		at := func(d *template.Document) scene.Standing { return stands(t, d, "wide", frame)[y.ID] }
		moved := func(p geom.Point) geom.Point { return geom.Point{X: p.X + by.X, Y: p.Y + by.Y} }

		a.Kind = "place"
		next, _ := do(t, d, a)
		q := quad(was)
		for i := range q {
			q[i] = moved(q[i])
		}
		if got := quad(at(next)); !nearQuad(got, q, 0.02) {
			t.Fatalf("round %d: %s was placed at %v, want %v", round, y.ID, got, q)
		}

		// A corner that is dragged goes there, and the one across from it stays.
		a.Kind = "grow"
		a.Handle = [2]float64{1, 1}
		next, _ = do(t, d, a)
		before, got := quad(was), quad(at(next))
		if !near(got[0], before[0], 0.05) {
			t.Fatalf("round %d: growing moved the corner across from %v to %v", round, before[0], got[0])
		}
		if y.Can(scheme.Holds) || quadSide(was, moved(before[2])) {
			if !near(got[2], moved(before[2]), 0.3) {
				t.Fatalf("round %d: the corner went to %v, want %v", round, got[2], moved(before[2]))
			}
		}

		// Turning leaves the origin and goes by the pointer's angle.
		a.Kind = "turn"
		o := was.World.Apply(origin(was.Now))
		a.From, a.To = [2]float64{o.X + 100, o.Y}, [2]float64{o.X + 80, o.Y + 60}
		next, _ = do(t, d, a)
		after := at(next)
		if p := after.World.Apply(origin(after.Now)); !near(p, o, 0.02) {
			t.Fatalf("round %d: turning moved the origin from %v to %v", round, o, p)
		}

		// The origin goes to the pointer, and the picture stays.
		a.Kind = "pin"
		next, _ = do(t, d, a)
		if got := quad(at(next)); !nearQuad(got, quad(was), 0.1) {
			t.Fatalf("round %d: moving the origin moved the picture from %v to %v", round, quad(was), got)
		}

		// A pulled corner goes to the pointer, the others stay.
		a.Kind, a.Handle = "pull", [2]float64{0, 0}
		mid := was.World.Apply(geom.Point{X: was.Now.Size.W / 2, Y: was.Now.Size.H / 2})
		c := quad(was)[0]
		to := geom.Point{X: c.X + (mid.X-c.X)*0.3, Y: c.Y + (mid.Y-c.Y)*0.2}
		a.From, a.To = [2]float64{c.X, c.Y}, [2]float64{to.X, to.Y}
		next, _ = do(t, d, a)
		want := quad(was)
		want[0] = to
		if got := quad(at(next)); !nearQuad(got, want, 0.05) {
			t.Fatalf("round %d: pulling came to %v, want %v", round, got, want)
		}
	}
}

// quadSide reports whether a point lies on the same side of a layer's corner across as
// the corner that is dragged: a size is never below nothing.
func quadSide(s scene.Standing, p geom.Point) bool {
	inv, ok := s.World.Invert()
	q := inv.Apply(p)
	return ok && q.X > 1 && q.Y > 1
}

// Layers that go into another group, or out of one, stay where they are on the canvas in
// every format; what can't is refused.
func TestNestingKeepsThePlaces(t *testing.T) {
	rng := rand.New(rand.NewPCG(7, 8))
	done := 0
	for round := range 80 {
		d := tangle(t, rng)
		all := leaves(d, scheme.Box)
		y, g := all[rng.IntN(len(all))], all[rng.IntN(len(all))]
		into := "layers"
		if g.Can(scheme.Holds) {
			into = "layers/" + g.ID + "/layers"
		}
		a := Act{Kind: "nest", Layers: []string{y.ID}, Into: into, Format: "wide"}
		p, err := Do(d, shelf{}, a)
		if err != nil {
			if !strings.Contains(err.Error(), "itself") {
				t.Fatalf("round %d: %v", round, err)
			}
			continue
		}
		if p.Op.Kind == "" {
			continue
		}
		next, changes, err := edit.DraftFrom(d).Do(p.Op)
		if err != nil {
			t.Fatalf("round %d: %v", round, err)
		}
		done++
		for _, f := range []string{"wide", "tall"} {
			was, is := stands(t, d, f, 0), stands(t, next.Doc, f, 0)
			if a, b := quad(was[y.ID]), quad(is[y.ID]); !nearQuad(a, b, 0.05) {
				t.Fatalf("round %d: %s in %s went from %v to %v", round, y.ID, f, a, b)
			}
		}
		if back, err := next.Replay(edit.Reverse(changes)); err != nil || text(t, back.Doc) != text(t, d) {
			t.Fatalf("round %d: was not taken back: %v", round, err)
		}
	}
	if done < 30 {
		t.Errorf("%d layers were nested", done)
	}
}

func text(t testing.TB, d *template.Document) string {
	t.Helper()
	b, err := json.Marshal(d)
	if err != nil {
		t.Fatal(err)
	}
	return string(b)
}

const three = `{"id": "a", "name": "A", "kind": "shape", "fill": "#102030", "place": [-600, 0], "size": [200, 100]},
	{"id": "b", "name": "B", "kind": "shape", "fill": "#405060", "place": [-250, 40], "size": [100, 100]},
	{"id": "c", "name": "C", "kind": "shape", "fill": "#708090", "place": [500, -20], "size": [300, 200]}`

func placeOf(t testing.TB, d *template.Document, id string) [2]float64 {
	t.Helper()
	v, _, err := d.Get("layers/" + id + "/place")
	if err != nil {
		t.Fatal(err)
	}
	return [2]float64(v.Numbers)
}

// Snapping lands on exact numbers, and says on what.
func TestSnappingLandsOnExactNumbers(t *testing.T) {
	d := doc(t, three, "", "")
	for _, c := range []struct {
		what string
		by   [2]float64
		want [2]float64
		said string
	}{
		{"middle of the canvas", [2]float64{596, 3}, [2]float64{0, 0}, "x 960: middle of the canvas"},
		{"left edge of the canvas", [2]float64{-257, 0}, [2]float64{-860, 0}, "x 0: left edge of the canvas"},
		{"a third", [2]float64{183, 0}, [2]float64{-420, 0}, "x 640: third of the canvas"},
		{"another layer's top", [2]float64{0, -66}, [2]float64{-600, -70}, "y 420: top edge of C"},
		// B ends at -200 and C begins at 350: between them stands 200 in the middle of 550.
		{"equal gaps", [2]float64{673, 0}, [2]float64{75, 0}, "175 px"},
		{"nothing near", [2]float64{-100, 300}, [2]float64{-700, 300}, ""},
	} {
		next, p := do(t, d, Act{Kind: "place", Layers: []string{"a"}, To: c.by, Snap: 8})
		if got := placeOf(t, next, "a"); got != c.want {
			t.Errorf("%s: %v, want %v", c.what, got, c.want)
		}
		if s := fmt.Sprint(p.Guides); !strings.Contains(s, c.said) || c.said == "" && len(p.Guides) > 0 {
			t.Errorf("%s: it says %s, want %s", c.what, s, c.said)
		}
	}
	// Without, it goes where it is put.
	if next, _ := do(t, d, Act{Kind: "place", Layers: []string{"a"}, To: [2]float64{596, 3}}); placeOf(t, next, "a") != [2]float64{-4, 3} {
		t.Error("a drag that is not to snap did")
	}
	// An edge snaps too: C's left edge at 1310 comes upon B's right edge at 760.
	// Guides that lie on the picture are lines like others.
	box := func(d *template.Document) geom.Box { s := stands(t, d, "wide", 0)["a"]; return s.Box() }
	given := []SnapLine{{"x", 701, "left third of Thirds"}, {"y", 0, "nothing"}, {"z", 3, "no line"}}
	near, q := do(t, d, Act{Kind: "place", Layers: []string{"a"}, To: [2]float64{701 - box(d).X - 5, 100}, Snap: 8, Lines: given})
	if at := box(near).X; math.Abs(at-701) > 1e-9 || len(q.Guides) == 0 || q.Guides[0].What != "left third of Thirds" {
		t.Errorf("beside a guide it came to %g, along %v", at, q.Guides)
	}
	next, p := do(t, d, Act{Kind: "grow", Layers: []string{"c"}, Handle: [2]float64{0, 0.5}, To: [2]float64{-546, 0}, Snap: 8})
	v, _, _ := next.Get("layers/c/size")
	if v.Numbers[0] != 850 || placeOf(t, next, "c") != [2]float64{225, -20} || !strings.Contains(fmt.Sprint(p.Guides), "right edge of B") {
		t.Errorf("the edge came to %v at %v, %v", v.Numbers, placeOf(t, next, "c"), p.Guides)
	}
}

// Aligned layers share an edge or a middle, and spread ones have equal gaps.
func TestAlignAndSpread(t *testing.T) {
	d := doc(t, three, "", "")
	all := []string{"a", "b", "c"}
	box := func(d *template.Document, id string) geom.Box { s := stands(t, d, "wide", 0)[id]; return s.Box() }
	for way, of := range map[string]func(geom.Box) float64{
		"left": func(b geom.Box) float64 { return b.X }, "centre": func(b geom.Box) float64 { return b.X + b.W/2 }, "right": func(b geom.Box) float64 { return b.X + b.W },
		"top": func(b geom.Box) float64 { return b.Y }, "middle": func(b geom.Box) float64 { return b.Y + b.H/2 }, "bottom": func(b geom.Box) float64 { return b.Y + b.H },
	} {
		next, _ := do(t, d, Act{Kind: "align", Layers: all, Way: way})
		a, b, c := of(box(next, "a")), of(box(next, "b")), of(box(next, "c"))
		if math.Abs(a-b) > 1e-6 || math.Abs(b-c) > 1e-6 {
			t.Errorf("%s: %v, %v, %v", way, a, b, c)
		}
	}
	next, _ := do(t, d, Act{Kind: "spread", Layers: []string{"c", "a", "b"}, Way: "across"})
	a, b, c := box(next, "a"), box(next, "b"), box(next, "c")
	if g, h := b.X-a.X-a.W, c.X-b.X-b.W; math.Abs(g-h) > 1e-6 || a.X != 260 || c.X+c.W != 1610 {
		t.Errorf("gaps of %v and %v from %v to %v", g, h, a.X, c.X+c.W)
	}
	if next, _ = do(t, d, Act{Kind: "align", Layers: []string{"b"}, Way: "right"}); box(next, "b").X != 1820 {
		t.Errorf("one alone is aligned to the canvas: %v", box(next, "b"))
	}
}

// Numbers of several are set to one value, or each by what is done to it.
func TestNumbersOfSeveral(t *testing.T) {
	d := doc(t, three, "", "")
	for name, want := range map[string][3]float64{"*1.5": {300, 150, 450}, "+40": {240, 140, 340}, "-=10": {190, 90, 290}, "/2": {100, 50, 150}, "120": {120, 120, 120}} {
		next, _ := do(t, d, Act{Kind: "adjust", Layers: []string{"a", "b", "c"}, Path: "size.x", Name: name})
		for i, id := range []string{"a", "b", "c"} {
			if v, _, _ := next.Get("layers/" + id + "/size.x"); v.Number() != want[i] {
				t.Errorf("%s: %s became %v, want %v", name, id, v.Number(), want[i])
			}
		}
	}
	next, _ := do(t, d, Act{Kind: "adjust", Layers: []string{"a", "b"}, Path: "opacity", Name: "50"})
	if v, _, _ := next.Get("layers/a/opacity"); v.Number() != 0.5 {
		t.Errorf("an opacity of 50 %% is %v", v.Number())
	}
	for _, bad := range []string{"", "*", "/0", "wide", "1e999"} {
		if _, err := Do(d, shelf{}, Act{Kind: "adjust", Format: "wide", Layers: []string{"a"}, Path: "opacity", Name: bad}); err == nil || !strings.HasPrefix(err.Error(), "name: ") {
			t.Errorf("%q: %v", bad, err)
		}
	}
}

// In a group that is mirrored a layer still turns the way the pointer goes; and one that
// has no size of its own, for it fills its group, keeps the size it had when it leaves.
func TestMirroredGroupsAndLayersThatFillThem(t *testing.T) {
	d := doc(t, `{"id": "g", "name": "G", "kind": "group", "place": [100, 0], "size": [400, 300], "scale": [-1, 1], "layers": [
		{"id": "y", "name": "Y", "kind": "shape", "fill": "#102030", "place": [20, 10], "size": [100, 50]},
		{"id": "fill", "name": "Fill", "kind": "shape", "fill": "#102030"}]}`, "", "")
	was := stands(t, d, "wide", 0)["y"]
	o := was.World.Apply(origin(was.Now))
	next, _ := do(t, d, Act{Kind: "turn", Layers: []string{"y"}, From: [2]float64{o.X + 100, o.Y}, To: [2]float64{o.X, o.Y + 100}})
	turned := geom.Translate(-o.X, -o.Y).Then(geom.Rotate(90)).Then(geom.Translate(o.X, o.Y))
	want := quad(was)
	for i := range want {
		want[i] = turned.Apply(want[i])
	}
	if got := quad(stands(t, next, "wide", 0)["y"]); !nearQuad(got, want, 0.01) {
		t.Errorf("turned to %v, want %v", got, want)
	}
	out, _ := do(t, d, Act{Kind: "nest", Layers: []string{"fill"}, Into: "layers"})
	a, b := stands(t, d, "wide", 0)["fill"], stands(t, out, "wide", 0)["fill"]
	if !nearQuad(quad(a), quad(b), 0.01) {
		t.Errorf("it went from %v to %v", quad(a), quad(b))
	}
}
