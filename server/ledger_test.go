package server

import (
	"encoding/json"
	"net/url"
	"strings"
	"testing"
)

// The ledger has every value of every layer, however deep, of masks, treatments and stops, of
// colours, gradients and pockets; it says what sets each, and each is asked for by its path.
func TestTheLedgerListsEverything(t *testing.T) {
	h := build(t, t.TempDir())
	id := h.start(map[string]any{"start": map[string]any{"name": "Ledger", "category": "Cards", "rate": "25", "frames": 100, "purpose": "frame", "canvases": [][2]int{{1920, 1080}, {1080, 1920}}}})
	part := func(v string) json.RawMessage { return json.RawMessage(v) }
	h.act(id, "ledger-one", 0, map[string]any{"kind": "batch", "ops": []any{
		map[string]any{"kind": "add", "into": "colours", "at": -1, "part": part(`{"id": "sea", "name": "Sea", "value": "#1e7383"}`)},
		map[string]any{"kind": "add", "into": "gradients", "at": -1, "part": part(`{"id": "dusk", "name": "Dusk", "stops": [{"id": "a", "at": 0, "colour": "#402030"}, {"id": "b", "at": 1, "colour": "colour:sea"}]}`)},
		map[string]any{"kind": "add", "into": "layers", "at": -1, "part": part(`{"id": "out", "name": "Outer", "kind": "group", "layers": [{"id": "in", "name": "Inner", "kind": "group", "layers": [
			{"id": "ring", "name": "Ring", "kind": "shape", "fill": "#c01030", "opacity": 0.5, "size": [400, 300], "formulas": {"turn": "time.seconds * 25"}, "motion": {"scale": {"keys": [{"at": 0, "value": [1, 1]}, {"at": 50, "value": [2, 2]}]}},
			 "masks": [{"id": "iris", "feather": 8}], "treatments": [{"id": "soft", "kind": "blur", "radius": 6}], "stroke": {"colour": "colour:sea", "width": 3}}]}]}`)}}}, 200)
	h.act(id, "ledger-two", 1, map[string]any{"kind": "offer", "paths": []string{"layers/ring/opacity"}}, 200)
	h.act(id, "ledger-three", 2, map[string]any{"kind": "rest", "path": "layers/ring/fill", "value": "#00ff00", "apart": true, "format": "vertical"}, 200)
	var rows []LedgerRow
	_, b := h.do("GET", "/api/drafts/"+id+"/ledger?format=landscape&frame=25", nil)
	if err := json.Unmarshal(b, &rows); err != nil {
		t.Fatalf("%s", b)
	}
	by := map[string]LedgerRow{}
	for _, r := range rows {
		if _, twice := by[r.Path]; twice {
			t.Errorf("%s is there twice", r.Path)
		}
		by[r.Path] = r
	}
	for path, want := range map[string]string{
		"layers/ring/opacity": "Opacity|Ring|Outer › Inner|50 %||Opacity of Ring|", "layers/ring/turn": "Turn|Ring|Outer › Inner|25 °|a formula||", "layers/ring/scale": "Scale|Ring|Outer › Inner|150 %|keys||",
		"layers/ring/fill": "Fill|Ring|Outer › Inner|#c01030|||Vertical", "layers/ring/masks/iris/feather": "Feather|Mask iris of Ring|Outer › Inner|8 px|||", "layers/ring/treatments/soft/radius": "Radius|Blur of Ring|Outer › Inner|6 px|||",
		"colours/sea/value": "Colour|Sea||#1e7383|||", "gradients/dusk/stops/b/colour": "Colour|Stop 2 of Dusk||colour:sea|||", "gradients/dusk/stops/b/at": "At|Stop 2 of Dusk||100 %|||",
	} {
		r := by[path]
		if got := strings.Join([]string{r.Label, r.Of, r.Where, r.Now, strings.Join(r.By, ", "), r.Sheet, strings.Join(r.Apart, ", ")}, "|"); got != want {
			t.Errorf("%s is %s\nnot %s", path, got, want)
		}
		if v := h.json("GET", "/api/drafts/"+id+"/value?format=landscape&frame=25&path="+url.QueryEscape(path), nil, 200); v["path"] != path || v["label"] != r.Label {
			t.Errorf("%s alone is %v", path, v)
		}
	}
	if r := by["layers/ring/stroke.colour"]; r.Named != "Sea" || r.Now != "#1e7383" {
		t.Errorf("the stroke is %+v", r)
	}
	for _, r := range rows {
		if strings.HasPrefix(r.Path, "pockets/") && r.Label == "Zoom" && r.Now != "100 %" {
			t.Errorf("%s is %s", r.Path, r.Now)
		}
	}
	// The layers themselves have no row that is not there.
	v := h.json("GET", "/api/drafts/"+id+"/layers/ring?format=landscape&frame=25", nil, 200)
	for _, p := range v["properties"].([]any) {
		if path := p.(map[string]any)["path"].(string); by[path].Path == "" {
			t.Errorf("%s is not in the ledger", path)
		}
	}
	for _, path := range []string{"layers/none/opacity", "layers/ring/smell", "colours/none", "x"} {
		h.json("GET", "/api/drafts/"+id+"/value?format=landscape&path="+url.QueryEscape(path), nil, 404)
	}
	h.json("GET", "/api/drafts/"+id+"/ledger?format=landscape&frame=999", nil, 422)
}
