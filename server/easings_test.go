package server

import (
	"encoding/json"
	"strings"
	"testing"
)

// A draft tells its own easings with how many keys go by them, and those of its family that it has not; those of other
// families, and ones that it has alike, are left out.
func TestEasingsOfTheFamily(t *testing.T) {
	h := build(t, t.TempDir())
	doc := func(id, family, easings string) string {
		return h.dropped(`{"ivypocket": 3, "kind": "template", "id": "` + id + `", "name": "` + strings.ToUpper(id) + `", "category": "T", "family": "` + family + `", "rate": "30", "frames": 60, "easings": [` + easings + `],
			"formats": [{"id": "f", "name": "F", "width": 320, "height": 180}], "layers": [{"id": "p", "name": "P", "kind": "shape", "fill": "#102030", "size": [32, 18], "motion": {"turn": {"keys": [{"id": "a", "at": 0, "value": 0, "ease": [0.9, 0, 0.1, 1], "named": "snap"}, {"id": "b", "at": 9, "value": 9}]}}}]}`)
	}
	snap := `{"id": "snap", "name": "Snap", "ease": [0.9, 0, 0.1, 1]}`
	one := doc("one", "Kites", snap)
	doc("two", "Kites", `{"id": "other", "name": "Snap", "ease": [0.9, 0, 0.1, 1]}, {"id": "stairs", "name": "Stairs", "steps": {"count": 4}}`)
	doc("three", "Kites", `{"id": "snap", "name": "Snap", "ease": [0.5, 0, 0.1, 1]}, {"id": "stairs", "name": "Stairs", "steps": {"count": 4}}`)
	doc("four", "Boats", `{"id": "wave", "name": "Wave", "ease": [0.3, 0, 0.1, 1]}`)
	alone := doc("five", "", snap)
	list := func(id string) (out []string) {
		t.Helper()
		res, b := h.do("GET", "/api/drafts/"+id+"/easings", nil)
		var v []EasingView
		if err := json.Unmarshal(b, &v); err != nil || res.StatusCode != 200 {
			t.Fatalf("%d %s", res.StatusCode, b)
		}
		for _, e := range v {
			out = append(out, e.Name+" of "+e.From)
		}
		return out
	}
	if got := strings.Join(list(one), ", "); got != "Snap of THREE, Stairs of THREE" && got != "Stairs of TWO, Snap of THREE" && got != "Snap of THREE, Stairs of TWO" {
		t.Errorf("of the family: %s", got)
	}
	if got := list(alone); got != nil {
		t.Errorf("without a family: %v", got)
	}
	own := h.json("GET", "/api/drafts/"+one, nil, 200)["easings"].([]any)
	if len(own) != 1 || own[0].(map[string]any)["uses"] != 1.0 {
		t.Errorf("own %v", own)
	}
}
