package craft

import (
	"bytes"
	"slices"
	"strings"
	"testing"

	"ivypocket/core/edit"
	"ivypocket/core/geom"
	"ivypocket/core/scheme"
	"ivypocket/core/sheet"
	"ivypocket/core/template"
	"ivypocket/core/timing"
)

const gulls = `{"id": "gull", "name": "Gull", "kind": "group", "size": [600, 300], "place": [-300, 100], "turn": 15, "layers": [
		{"id": "body", "name": "Body", "kind": "shape", "form": {"kind": "ellipse"}, "fill": "#c01030", "size": [300, 120]},
		{"id": "wing", "name": "Wing", "kind": "shape", "fill": "#1040c0", "size": [200, 80], "place": [60, -40], "follow": "body",
			"motion": {"turn": {"keys": [{"at": 0, "value": 0}, {"at": 90, "value": 40}]}}},
		{"id": "eye", "name": "Eye", "kind": "shape", "fill": "#ffffff", "size": [40, 40], "matte": {"layer": "body", "of": "alpha"}}]},
	{"id": "sun", "name": "Sun", "kind": "shape", "fill": "#ffcc00", "size": [100, 100], "place": [500, -300]}`

func asBefore(t *testing.T, what string, a, b *template.Document) {
	t.Helper()
	for _, f := range []string{"wide", "tall"} {
		for _, n := range []int64{0, 45, 99} {
			if !bytes.Equal(pixels(t, a, f, n), pixels(t, b, f, n)) {
				t.Errorf("%s: frame %d of %s is another picture", what, n, f)
			}
		}
	}
}

// A motif is made of a group and taken apart again without a pixel changing, with what
// formats and the sheet say of its layers; a change of the motif is seen in all uses, one
// in a use alone in that one.
func TestAMotifIsBuiltOnceAndUsedOften(t *testing.T) {
	d := doc(t, gulls, `"layers/wing/fill": "#10c040", "layers/gull/turn": -20`, `, "sheet": {"groups": [{"id": "g", "label": "G", "entries": [
		{"id": "tint", "label": "Tint", "kind": "colour", "default": "#c01030", "ties": [{"to": "layers/body/fill"}]}]}]}`)
	made, p := do(t, d, Act{Kind: "motif", Layers: []string{"gull"}})
	asBefore(t, "a motif", d, made)
	if m := made.Motifs; len(m) != 1 || m[0].Name != "Gull" || len(m[0].Layers()) != 3 || len(p.Chosen) != 1 || p.Chosen[0] != "gull" {
		t.Fatalf("motifs %v, chosen %v", m, p.Chosen)
	}
	id := made.Motifs[0].ID
	two, p := do(t, made, Act{Kind: "insert", Way: "use", Id: id, Layers: []string{"gull"}})
	second := p.Chosen[0]
	two, _ = do(t, two, Act{Kind: "place", Layers: []string{second}, From: [2]float64{0, 0}, To: [2]float64{400, -200}})

	// Dragging the wing in the second use moves that of both, as far on the canvas of the
	// second, which is not turned.
	was := stands(t, two, "wide", 0)
	both, p := do(t, two, Act{Kind: "place", Layers: []string{second + ":wing"}, From: [2]float64{10, 10}, To: [2]float64{50, 30}})
	is := stands(t, both, "wide", 0)
	if p.Chosen != nil && p.Chosen[0] != second+":wing" {
		t.Errorf("chosen %v", p.Chosen)
	}
	far := func(a, b [4]geom.Point) geom.Point { return geom.Point{X: b[0].X - a[0].X, Y: b[0].Y - a[0].Y} }
	if by := far(quad(was[second+":wing"]), quad(is[second+":wing"])); !near(by, geom.Point{X: 40, Y: 20}, 0.01) {
		t.Errorf("moved by %v", by)
	}
	if by := far(quad(was["gull:wing"]), quad(is["gull:wing"])); near(by, geom.Point{}, 1) || near(by, geom.Point{X: 40, Y: 20}, 1) {
		t.Errorf("the turned use moved by %v", by)
	}
	// It is shown alone in this use, and copied from it as what it is.
	a := Alone(two, []string{second + ":wing"})
	var hidden []string
	whole, err := a.Expanded()
	if err != nil {
		t.Fatal(err)
	}
	whole.Visit(func(_ string, y *template.Layer) {
		if y.On(scheme.Hidden) {
			hidden = append(hidden, y.ID)
		}
	})
	if !slices.Equal(hidden, []string{"gull", second + ":body", second + ":eye", "sun"}) {
		t.Errorf("hidden are %v", hidden)
	}
	if c, err := Copied(two, []string{second + ":wing"}); err != nil || len(c.Layers) != 1 || !strings.Contains(string(c.Layers[0]), `"wing"`) {
		t.Errorf("copied %s: %v", c.Layers, err)
	}
	// In this use alone.
	one, _ := do(t, two, Act{Kind: "place", Layers: []string{second + ":wing"}, Own: true, From: [2]float64{10, 10}, To: [2]float64{50, 30}})
	is = stands(t, one, "wide", 0)
	if by := far(quad(was[second+":wing"]), quad(is[second+":wing"])); !near(by, geom.Point{X: 40, Y: 20}, 0.01) {
		t.Errorf("alone it moved by %v", by)
	}
	if by := far(quad(was["gull:wing"]), quad(is["gull:wing"])); !near(by, geom.Point{}, 1e-6) {
		t.Errorf("the other use moved by %v", by)
	}
	// What the use says itself is what is set from then on.
	again, _ := do(t, one, Act{Kind: "place", Layers: []string{second + ":wing"}, From: [2]float64{10, 10}, To: [2]float64{20, 10}})
	if by := far(quad(is["gull:wing"]), quad(stands(t, again, "wide", 0)["gull:wing"])); !near(by, geom.Point{}, 1e-6) {
		t.Errorf("the other use moved by %v", by)
	}
	for _, a := range []Act{{Kind: "discard", Layers: []string{second + ":wing"}, Own: true}, {Kind: "group", Layers: []string{second + ":wing", second + ":eye"}, Own: true}} {
		if _, err := Do(one, shelf{}, a); err == nil || !strings.Contains(err.Error(), "one use alone") {
			t.Errorf("%s in one use alone: %v", a.Kind, err)
		}
	}
	if _, err := Do(one, shelf{}, Act{Kind: "nudge", Format: "wide", Layers: []string{second + ":wing", "sun"}, To: [2]float64{1, 0}}); err == nil {
		t.Error("layers in a use and out of it were moved together")
	}
	// New layers in a use are in the motif, and where they were drawn.
	drawn, p := do(t, two, Act{Kind: "insert", Way: "shape", Path: "rectangle", Into: "layers/" + second + "/layers", At: -1, From: [2]float64{1000, 300}, To: [2]float64{1100, 360}})
	if in := drawn.Motifs[0].Layers(); len(in) != 4 || p.Chosen[0] != second+":"+in[3].ID {
		t.Errorf("%d in the motif, chosen %v", len(in), p.Chosen)
	}
	if q := quad(stands(t, drawn, "wide", 0)[p.Chosen[0]]); !near(q[0], geom.Point{X: 1000, Y: 300}, 0.01) || !near(q[2], geom.Point{X: 1100, Y: 360}, 0.01) {
		t.Errorf("it stands at %v", q)
	}

	// A use becomes a group, and looks as it did; the motif stays for the other.
	apart, _ := do(t, one, Act{Kind: "unmotif", Layers: []string{second}})
	asBefore(t, "a use taken apart", one, apart)
	if len(apart.Motifs) != 1 || len(apart.Layer(second).Layers()) != 3 {
		t.Errorf("%d motifs, %d layers", len(apart.Motifs), len(apart.Layer(second).Layers()))
	}
	if e := apart.Sheet.Entries()[0]; len(e.Ties) != 2 {
		t.Errorf("the entry drives %v", e.Ties)
	}
	gone, _ := do(t, apart, Act{Kind: "unmotif", Layers: []string{"gull"}})
	asBefore(t, "both taken apart", one, gone)
	if len(gone.Motifs) != 0 || len(gone.Sheet.Entries()[0].Ties) != 2 {
		t.Errorf("left: %d motifs, ties %v", len(gone.Motifs), gone.Sheet.Entries()[0].Ties)
	}
	// A layer goes from the motif with what its uses and formats say of it.
	less, _ := do(t, one, Act{Kind: "discard", Layers: []string{"gull:wing"}})
	if s := text(t, less); strings.Contains(s, "wing") {
		t.Errorf("left of the wing:\n%s", s)
	}
	if _, err := Do(less, shelf{}, Act{Kind: "motif-remove", Id: id}); err == nil {
		t.Error("a motif in use was removed")
	}
	bare, _ := do(t, less, Act{Kind: "discard", Layers: []string{"gull", second}})
	if bare, _ = do(t, bare, Act{Kind: "motif-remove", Id: id}); len(bare.Motifs) != 0 {
		t.Error("the motif is still there")
	}
}

// A motif holds all that it hangs on.
func TestAMotifThatHangsOnOthersIsRefused(t *testing.T) {
	for what, layers := range map[string]string{
		"is cut by Sun":                 strings.Replace(gulls, `"layer": "body"`, `"layer": "sun"`, 1),
		"follows Sun":                   strings.Replace(gulls, `"follow": "body"`, `"follow": "sun"`, 1),
		"Sun follows Body":              strings.Replace(gulls, `"fill": "#ffcc00"`, `"fill": "#ffcc00", "follow": "body"`, 1),
		"is read by the formula of Sun": strings.Replace(gulls, `"fill": "#ffcc00"`, `"fill": "#ffcc00", "formulas": {"turn": "layer('body').turn"}`, 1),
	} {
		if _, err := Do(doc(t, layers, "", ""), shelf{}, Act{Kind: "motif", Format: "wide", Layers: []string{"gull"}}); err == nil || !strings.Contains(err.Error(), what) {
			t.Errorf("%s: %v", what, err)
		}
	}
	if _, err := Do(doc(t, gulls, "", ""), shelf{}, Act{Kind: "motif", Format: "wide", Layers: []string{"sun"}}); err == nil {
		t.Error("a motif was made of a shape")
	}
}

// A carrier has no picture; what follows it goes as it goes, and stays where it is when it
// begins to follow.
func TestACarrierMovesOthersUnseen(t *testing.T) {
	d := doc(t, gulls, "", "")
	made, p := do(t, d, Act{Kind: "insert", Way: "carrier", From: [2]float64{400, 300}, To: [2]float64{500, 400}})
	id := p.Chosen[0]
	asBefore(t, "a carrier", d, made)
	mine := stands(t, made, "wide", 0)[id]
	if b := mine.Box(); b != (geom.Box{X: 400, Y: 300, W: 100, H: 100}) {
		t.Errorf("it stands at %v", b)
	}
	lead := scheme.Says(id)
	led, _ := do(t, made, Act{Kind: "rest", Path: "layers/gull/follow", Value: &lead})
	asBefore(t, "following it", d, led)
	was := stands(t, led, "wide", 50)["gull"]
	led, _ = do(t, led, Act{Kind: "keys", Path: "layers/" + id + "/place", Move: &template.Move{Unit: template.CanvasUnit, Keys: []template.Key{
		{At: timing.Int(0), Value: scheme.Many(0, 0)}, {At: timing.Int(50), Value: scheme.Many(0.0625, -0.0370370370370370)}}}})
	is := stands(t, led, "wide", 50)["gull"]
	if by := is.Box().Centre(); !near(by, geom.Point{X: was.Box().Centre().X + 120, Y: was.Box().Centre().Y - 40}, 0.01) {
		t.Errorf("it went from %v to %v", was.Box().Centre(), by)
	}
	for _, what := range []string{"opacity", "blend", "fill"} {
		v := scheme.One(0.5)
		if p, err := Do(made, shelf{}, Act{Kind: "rest", Format: "wide", Path: "layers/" + id + "/" + what, Value: &v}); err == nil {
			if _, _, err := edit.DraftFrom(made).Do(p.Op); err == nil {
				t.Errorf("a carrier has %s", what)
			}
		}
	}
}

// A length in a use is written otherwise in the motif, and in the use alone where that is
// meant.
func TestLengthsInUsesAreWrittenOtherwise(t *testing.T) {
	d, _ := do(t, doc(t, gulls, "", ""), Act{Kind: "motif", Layers: []string{"gull"}})
	all, _ := do(t, d, Act{Kind: "unit", Path: "layers/gull:wing/size", Way: "share"})
	if v, _, _ := all.Get("layers/wing/size"); v.Shorter == 0 || len(all.Layer("gull").Own) != 0 {
		t.Errorf("the motif has %v, the use %v", v, all.Layer("gull").Own)
	}
	own := scheme.Many(60, 60)
	one, _ := do(t, d, Act{Kind: "rest", Path: "layers/gull:wing/size", Value: &own, Own: true})
	one, _ = do(t, one, Act{Kind: "unit", Path: "layers/gull:wing/size", Way: "share"})
	if v, _, _ := one.Get("layers/wing/size"); v.Shorter != 0 || len(one.Layer("gull").Own) != 1 {
		t.Errorf("the motif has %v, the use %v", v, one.Layer("gull").Own)
	}
}

// With a use goes what formats say of what is in it.
func TestAUseThatIsDeletedLeavesNothingBehind(t *testing.T) {
	d, _ := do(t, doc(t, gulls, "", ""), Act{Kind: "motif", Layers: []string{"gull"}})
	v := scheme.One(0.5)
	d, _ = do(t, d, Act{Kind: "rest", Path: "layers/gull:wing/opacity", Value: &v, Format: "tall", Apart: true, Own: true})
	if len(d.Format("tall").Rest) != 1 {
		t.Fatalf("%v", d.Format("tall").Rest)
	}
	if d, _ = do(t, d, Act{Kind: "discard", Layers: []string{"gull"}}); len(d.Format("tall").Rest) != 0 {
		t.Errorf("%v is left", d.Format("tall").Rest)
	}
}

// A layer of a motif can't be dragged out of it, nor another into it: what uses say of it
// would be said of nothing.
func TestLayersStayInTheirMotif(t *testing.T) {
	d := doc(t, `{"id": "u", "name": "Use", "kind": "use", "motif": "m", "values": {"layers/in/turn": 10}}, {"id": "out", "name": "Out", "kind": "shape", "fill": "#c01030", "size": [100, 100]}`, "",
		`, "motifs": [{"id": "m", "name": "Motif", "kind": "group", "layers": [{"id": "in", "name": "In", "kind": "shape", "fill": "#1040c0", "size": [100, 100]}]}]`)
	for layer, to := range map[string]string{"in": "layers", "out": "layers/m/layers"} {
		if _, err := Do(d, shelf{}, Act{Kind: "nest", Layers: []string{layer}, Into: to, At: 0, Format: "wide"}); err == nil || !strings.Contains(err.Error(), "the motif Motif") {
			t.Errorf("%s into %s: %v", layer, to, err)
		}
	}
}

// A value of one use is put on the sheet: the entry drives that use alone, whose own value it
// becomes, and the motif is as it was; taken off, it is gone without a trace.
func TestValuesOfUsesAreOffered(t *testing.T) {
	d, _ := do(t, doc(t, gulls, "", ""), Act{Kind: "motif", Layers: []string{"gull"}})
	d, p := do(t, d, Act{Kind: "insert", Way: "use", Id: d.Motifs[0].ID, Layers: []string{"gull"}})
	second := p.Chosen[0]
	path := "layers/" + second + ":wing/fill"
	next, _ := do(t, d, Act{Kind: "offer", Paths: []string{path, "layers/" + second + ":body/size.x"}})
	e := next.Sheet.Entries()
	if len(e) != 2 || e[1].Ties[0].To != path || e[1].Label != "Fill of Wing in Gull 2" || e[1].Default.Text != "#1040c0" {
		t.Fatalf("%s", sheetText(next))
	}
	if err := next.Validate(); err != nil {
		t.Fatal(err)
	}
	asBefore(t, "offered", d, next)
	r, err := sheet.Resolve(next, sheet.Values{Entries: map[string]scheme.Value{e[1].ID: scheme.Says("#00ff00"), e[0].ID: scheme.One(500)}})
	if err != nil {
		t.Fatal(err)
	}
	whole, err := r.Doc.Expanded()
	if err != nil {
		t.Fatal(err)
	}
	for id, want := range map[string]string{"gull:wing": "#1040c0", second + ":wing": "#00ff00"} {
		if got := whole.Layer(id).Text(scheme.Fill); got != want {
			t.Errorf("the fill of %s is %s", id, got)
		}
	}
	if n := whole.Layer(second + ":body").Get(scheme.Size).Numbers[0]; n != 500 {
		t.Errorf("the body is %g wide", n)
	}
	back, _ := do(t, next, Act{Kind: "withdraw", Paths: []string{path, "layers/" + second + ":body/size.x"}})
	if text(t, back) != text(t, d) {
		t.Errorf("taken off, it is\n%s\nnot\n%s", text(t, back), text(t, d))
	}
}
