package craft

import (
	"encoding/json"
	"strings"
	"testing"

	"ivypocket/core/edit"
	"ivypocket/core/scene"
	"ivypocket/core/scheme"
	"ivypocket/core/sheet"
	"ivypocket/core/template"
)

const pockets = `, "pockets": [{"id": "p", "name": "P", "kinds": ["picture"], "standIn": {"media": "MEDIA"}}, {"id": "q", "name": "Q", "kinds": ["picture", "footage"]}]`

// Stand-ins are put away for delivery and come back; in between pockets show their
// linings, which are pictures of the store or neutral.
func TestPocketsAreEmptiedForDelivery(t *testing.T) {
	d := doc(t, `{"id": "v", "name": "V", "kind": "view", "pocket": "p"}`, "", strings.ReplaceAll(pockets, "MEDIA", pictureHash))
	media := func(d *template.Document) string {
		return (&sheet.Resolved{Doc: d, Values: sheet.Values{}}).Media("p")
	}
	gone, _ := do(t, d, Act{Kind: "empty"})
	if media(d) != pictureHash || media(gone) != "" || gone.Pocket("p").StandIn.Media != pictureHash {
		t.Errorf("it shows %q, with the stand-in %+v", media(gone), gone.Pocket("p").StandIn)
	}
	back, _ := do(t, gone, Act{Kind: "unempty"})
	if text(t, back) != text(t, d) {
		t.Errorf("put back:\n%s", text(t, back))
	}
	if again, p := do(t, back, Act{Kind: "unempty"}); p.Op.Kind != "" || again != back {
		t.Error("nothing was away, and something was done")
	}
	filled, _ := do(t, gone, Act{Kind: "fill", Pocket: "p", Media: pictureHash})
	if media(filled) != pictureHash {
		t.Error("a new stand-in is away at once")
	}
	lined, _ := do(t, gone, Act{Kind: "line-pocket", Pocket: "q", Media: pictureHash, Name: "Cloth"})
	if lined.Pocket("q").Lined() != pictureHash || len(lined.Media) != 1 {
		t.Errorf("lined with %q, media %v", lined.Pocket("q").Lined(), lined.Media)
	}
	for _, hash := range []string{clipHash, "sha256:" + strings.Repeat("0c", 32)} {
		if _, err := Do(gone, shelf{}, Act{Kind: "line-pocket", Format: "wide", Pocket: "q", Media: hash}); err == nil {
			t.Errorf("lined with %s", hash)
		}
	}
	if bare, _ := do(t, lined, Act{Kind: "line-pocket", Pocket: "q"}); bare.Pocket("q").Lining != nil {
		t.Error("its lining is still there")
	}
	// A lining that is missing is told, and the draft can be drawn.
	other := strings.Repeat("0d", 32)
	lost := doc(t, `{"id": "v", "name": "V", "kind": "view", "pocket": "p"}`, "", `, "pockets": [{"id": "p", "name": "P", "kinds": ["picture"], "lining": {"media": "sha256:`+other+`"}}]`)
	if m := Missing(lost, shelf{}); len(m) != 1 || Drawable(lost, shelf{}).Pocket("p").Lined() != "" {
		t.Errorf("missing are %v", m)
	}
}

// What a pocket is, it is told by values: limits, what it takes, whether it is needed.
func TestWhatAPocketAllows(t *testing.T) {
	d := doc(t, "", "", strings.ReplaceAll(pockets, "MEDIA", pictureHash))
	on := scheme.Is(true)
	d, _ = do(t, d, Act{Kind: "rest", Path: "pockets/p/required", Value: &on})
	d, _ = do(t, d, Act{Kind: "put", Path: "pockets/p/limits", Part: json.RawMessage(`{"zoom": [1, 2], "turn": 10}`)})
	d, _ = do(t, d, Act{Kind: "put", Path: "pockets/p/kinds", Part: json.RawMessage(`["logo"]`)})
	if p := d.Pocket("p"); !p.Required || p.Limits == nil || *p.Limits.Turn != 10 || !p.IsLogo() {
		t.Errorf("it is %+v", p)
	}
	for _, bad := range []string{`{"zoom": [2, 1]}`, `{"pan": [-1, 0]}`, `{"speed": 1}`} {
		if p, err := Do(d, shelf{}, Act{Kind: "put", Format: "wide", Path: "pockets/p/limits", Part: json.RawMessage(bad)}); err == nil {
			if _, _, err = edit.DraftFrom(d).Do(p.Op); err == nil {
				t.Errorf("limits %s were taken", bad)
			}
		}
	}
}

// A pocket is sewn into a cell that is free, and named by where it stands; one pocket is
// shown by several layers.
func TestAPocketIsSewnIntoACell(t *testing.T) {
	d := doc(t, "", "", "")
	d, p := do(t, d, Act{Kind: "split", To: [2]float64{2, 2}})
	d, _ = do(t, d, Act{Kind: "discard", Layers: []string{p.Chosen[3]}})
	d, p = do(t, d, Act{Kind: "sew", Path: "layouts/split", Numbers: map[string]float64{"row": 1, "column": 1}})
	y := d.Layer(p.Chosen[0])
	if y.Name != "Bottom right 2" && y.Name != "Bottom right" || y.Text(scheme.CellLayout) != "split" || y.Number(scheme.CellRow) != 1 || y.Number(scheme.CellColumn) != 1 {
		t.Errorf("sewn as %s in %s", y.Name, y.Text(scheme.CellLayout))
	}
	d, p = do(t, d, Act{Kind: "sew", Id: y.Text(scheme.Pocket)})
	if again := d.Layer(p.Chosen[0]); again.Text(scheme.Pocket) != y.Text(scheme.Pocket) || again.ID == y.ID {
		t.Errorf("shown again by %s", again.ID)
	}
	if _, err := Do(d, shelf{}, Act{Kind: "sew", Format: "wide", Path: "layouts/none"}); err == nil {
		t.Error("sewn into a layout that is not there")
	}
}

// A cell whose layer was deleted gets the pocket that lay there again, also in a format
// where rows and columns have changed places.
func TestAFreeCellGetsItsPocketBack(t *testing.T) {
	d := begun(t, "split", map[string]float64{"columns": 3, "rows": 1})
	was := map[string]scene.Standing{}
	for _, f := range d.Formats {
		was[f.ID] = stands(t, d, f.ID, 0)["split-cell-1-3"]
	}
	d, _ = do(t, d, Act{Kind: "discard", Layers: []string{"split-cell-1-3"}})
	for _, f := range []string{"landscape", "vertical"} {
		numbers := map[string]float64{"row": 0, "column": 2}
		if f == "vertical" {
			numbers = map[string]float64{"row": 2, "column": 0}
		}
		next, p := do(t, d, Act{Kind: "sew", Format: f, Path: "layouts/split-cells", Numbers: numbers})
		if len(next.Pockets) != 3 || len(p.Chosen) != 1 || next.Layer(p.Chosen[0]).Text(scheme.Pocket) != "split-pocket-1-3" {
			t.Fatalf("sewn in %s: %d pockets, %v", f, len(next.Pockets), p.Chosen)
		}
		for _, g := range d.Formats {
			if a, b := was[g.ID], stands(t, next, g.ID, 0)[p.Chosen[0]]; quad(a) != quad(b) {
				t.Errorf("sewn in %s it stands in %s at %v, before at %v", f, g.ID, b.Box(), a.Box())
			}
		}
	}
	for _, at := range []float64{-1, 3, 99} {
		if _, err := Do(d, shelf{}, Act{Kind: "sew", Format: "landscape", Path: "layouts/split-cells", Numbers: map[string]float64{"row": 0, "column": at}}); err == nil {
			t.Errorf("column %g takes a pocket", at)
		}
	}
}

// A pocket that is left when its layers are deleted is removed with its entries; one that is
// shown, or that a mask speaks of, is not.
func TestAPocketThatNothingShowsIsRemoved(t *testing.T) {
	d := doc(t, `{"id": "v", "name": "View", "kind": "view", "pocket": "p", "size": [400, 300]},
		{"id": "s", "name": "Shape", "kind": "shape", "fill": "#c01030", "size": [400, 300], "formulas": {"turn": "media('q').seconds * 0 + 5"}}`, "",
		`, "pockets": [{"id": "p", "name": "Kite", "kinds": ["picture"]}, {"id": "q", "name": "Mark", "kinds": ["logo"]}],
		"sheet": {"groups": [{"id": "media", "label": "Media", "entries": [{"id": "e", "label": "Kite", "kind": "media", "pocket": "p"}]}]}`)
	for id, why := range map[string]string{"p": "shown by the layer View", "q": "a mask or a formula", "none": "no pocket"} {
		if _, err := Do(d, shelf{}, Act{Kind: "pocket-remove", Pocket: id, Format: "wide"}); err == nil || !strings.Contains(err.Error(), why) {
			t.Errorf("%s: %v", id, err)
		}
	}
	d, _ = do(t, d, Act{Kind: "discard", Layers: []string{"v"}})
	if d.Pocket("p") == nil {
		t.Fatal("the pocket went with its layer")
	}
	next, _ := do(t, d, Act{Kind: "pocket-remove", Pocket: "p"})
	if next.Pocket("p") != nil || next.Sheet.Entry("e") != nil {
		t.Errorf("left is %s", text(t, next))
	}
}

// A layer that is left out without a pocket is there for good when the pocket goes, also where
// it showed that itself.
func TestWhatIsLeftOutWithoutAPocketStaysWhenThatGoes(t *testing.T) {
	d := doc(t, `{"id": "back", "name": "Back", "kind": "shape", "fill": "#ffffff", "size": [500, 400], "without": "kite"},
		{"id": "v", "name": "View", "kind": "view", "pocket": "kite", "size": [400, 300], "without": "kite"}`, "", `, "pockets": [{"id": "kite", "name": "Kite", "kinds": ["picture"]}]`)
	next, _ := do(t, d, Act{Kind: "unpick", Layers: []string{"v"}})
	if err := next.Validate(); err != nil || next.Layer("back").Given(scheme.Without) || next.Layer("v").Given(scheme.Without) || next.Pocket("kite") != nil {
		t.Errorf("%v: %s", err, text(t, next))
	}
}
