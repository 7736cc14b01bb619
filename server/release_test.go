package server

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"
)

const released = `{"ivypocket": 3, "kind": "template", "id": "t", "name": "Tide", "category": "Cards", "rate": "25", "frames": 50,
	"formats": [{"id": "l", "name": "L", "width": 320, "height": 180}], "pockets": [{"id": "kite", "name": "Kite", "kinds": ["picture"]}],
	"layers": [{"id": "a", "name": "A", "kind": "shape", "fill": "#c01030", "size": [100, 80]}, {"id": "v", "name": "V", "kind": "view", "pocket": "kite", "size": [50, 50]}]}`

// dropped makes a draft of a document.
func (h *house) dropped(doc string) string {
	h.t.Helper()
	res, b := h.do("POST", "/api/drafts/document", []byte(doc))
	var d DraftView
	if err := json.Unmarshal(b, &d); err != nil || res.StatusCode != 201 {
		h.t.Fatalf("%d %.300s", res.StatusCode, b)
	}
	return d.ID
}

// Values are offered, released and filled; the next release has its own sheet, and the piece
// keeps the one it was made of.
func TestOfferReleaseFill(t *testing.T) {
	h := build(t, t.TempDir())
	id := h.dropped(released)
	v := h.act(id, "offer-it-1", 0, map[string]any{"kind": "offer", "format": "l", "paths": []string{"layers/a/fill", "layers/a/opacity", "pockets/kite"}}, 200)["draft"].(map[string]any)
	labels := func(v map[string]any) (out []string) {
		for _, g := range v["sheet"].([]any) {
			for _, e := range g.(map[string]any)["entries"].([]any) {
				out = append(out, e.(map[string]any)["label"].(string))
			}
		}
		return out
	}
	if got := strings.Join(labels(v), ", "); got != "Kite, Opacity of A, Fill of A" {
		t.Fatalf("the sheet has %s", got)
	}
	first := h.post("/api/drafts/"+id+"/release", map[string]any{"note": " The first. "}, 200)
	if first["id"] != "tide" || first["number"] != 1.0 {
		t.Errorf("released as %v", first)
	}
	if again := h.post("/api/drafts/"+id+"/release", map[string]any{}, 409); !strings.Contains(fmt.Sprint(again), "release 1 is the same") {
		t.Errorf("released again without a change: %v", again)
	}
	piece := h.post("/api/templates/tide/open", nil, 200)
	if got := strings.Join(labels(piece), ", "); got != "Kite, Opacity of A, Fill of A" || piece["template"].(map[string]any)["release"] != 1.0 {
		t.Errorf("a piece has %s of release %v", got, piece["template"])
	}
	if e := piece["sheet"].([]any)[1].(map[string]any)["entries"].([]any)[0].(map[string]any); e["bench"] != nil || e["value"] != 100.0 || e["max"] != 100.0 {
		t.Errorf("an editor is told %v", e)
	}
	path := "/api/pieces/" + piece["id"].(string)
	op := func(n int, value any, status int) map[string]any {
		return h.post(path+"/operations", map[string]any{"id": fmt.Sprintf("value-it-%d", n), "base": n - 1, "op": map[string]any{"kind": "entry", "entry": "opacity-of-a", "value": value}}, status)
	}
	op(1, 30, 200)
	for _, wrong := range []any{101, -1, "much", true, []int{1, 2}, nil} {
		if wrong != nil {
			op(2, wrong, 422)
		}
	}
	// The next release: one entry fewer, one fixed for good.
	h.act(id, "offer-it-2", 1, map[string]any{"kind": "withdraw", "format": "l", "paths": []string{"layers/a/fill"}}, 200)
	h.act(id, "offer-it-3", 2, map[string]any{"kind": "put", "path": "entries/opacity-of-a/fixed", "part": true}, 200)
	if second := h.post("/api/drafts/"+id+"/release", map[string]any{}, 200); second["id"] != "tide" || second["number"] != 2.0 {
		t.Errorf("released as %v", second)
	}
	if got := strings.Join(labels(h.json("GET", path, nil, 200)), ", "); got != "Kite, Opacity of A, Fill of A" {
		t.Errorf("the piece has %s now", got)
	}
	other := h.post("/api/templates/tide/open?new=true", nil, 200)
	if got := strings.Join(labels(other), ", "); got != "Kite" {
		t.Errorf("a piece of the second release has %s", got)
	}
	h.post("/api/pieces/"+other["id"].(string)+"/operations", map[string]any{"id": "value-it-9", "base": 0, "op": map[string]any{"kind": "entry", "entry": "opacity-of-a", "value": 10}}, 422)
	res, b := h.do("GET", "/api/templates/tide/releases", nil)
	var list []ReleaseView
	if err := json.Unmarshal(b, &list); err != nil || res.StatusCode != 200 || len(list) != 2 || list[0].Number != 2 || list[1].Note != "The first." || list[1].Pieces != 1 || len(list[0].Hash) != 64 || list[0].Hash == list[1].Hash {
		t.Errorf("releases are %s", b)
	}
	if own := h.post("/api/drafts/"+id+"/release", map[string]any{"new": true}, 200); own["id"] != "tide-2" || own["number"] != 1.0 {
		t.Errorf("as a template of its own it is %v", own)
	}
	// What is not sound is not released, with the place.
	half := h.dropped(strings.Replace(released, `"category": "Cards"`, `"category": ""`, 1))
	if no := h.post("/api/drafts/"+half+"/release", map[string]any{}, 422); !strings.Contains(fmt.Sprint(no), "category: is missing") {
		t.Errorf("released half-built: %v", no)
	}
}

// A draft that is held at a value of an entry is told and drawn as it is then; what is set
// then is so there alone.
func TestADraftIsHeldAtAStop(t *testing.T) {
	h := build(t, t.TempDir())
	id := h.dropped(released)
	h.act(id, "entry-it-1", 0, map[string]any{"kind": "entry", "format": "l", "way": "switch", "name": "Ring"}, 200)
	pin := map[string]any{"entry": "ring", "at": false}
	h.act(id, "entry-it-2", 1, map[string]any{"kind": "rest", "format": "l", "path": "layers/a/opacity", "value": 0.25, "pin": pin}, 200)
	held := func(pin string) (address string, opacity any) {
		t.Helper()
		get := func(path string) []byte {
			var header []string
			if pin != "" {
				header = []string{"Ivy-Pin", pin}
			}
			res, raw := h.do("GET", path, nil, header...)
			if res.StatusCode != 200 {
				t.Fatalf("%s: %d %s", path, res.StatusCode, raw)
			}
			return raw
		}
		var f FramesView
		if err := json.Unmarshal(get("/api/drafts/"+id+"/frames?format=l&width=320&height=180&from=0&count=1"), &f); err != nil {
			t.Fatal(err)
		}
		var y LayerView
		if err := json.Unmarshal(get("/api/drafts/"+id+"/layers/a?format=l&frame=0"), &y); err != nil {
			t.Fatal(err)
		}
		for _, p := range y.Properties {
			if p.Name == "opacity" {
				opacity = p.Rest[0]
			}
		}
		return f.Addresses[0].Address, opacity
	}
	plain, one := held("")
	off, quarter := held("ring=false")
	on, same := held("ring=true")
	if one != 1.0 || quarter != 0.25 || same != 1.0 || plain == off || plain != on {
		t.Errorf("opacities %v, held off %v, held on %v; pictures %s, %s, %s", one, quarter, same, plain, off, on)
	}
	// What holds nothing is as none.
	for _, odd := range []string{"ring=3", "none=true", "ring", "ring={", strings.Repeat("x", 400)} {
		if a, _ := held(odd); a != plain {
			t.Errorf("%.20s holds something", odd)
		}
	}
}
