package server

import (
	"bytes"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"testing"

	"ivypocket/core/template"
	"ivypocket/internal/judge"
)

const asking = `{"ivypocket": 3, "kind": "template", "id": "asks", "name": "Asks", "category": "Cards", "rate": "25", "frames": 50, "formats": [{"id": "l", "name": "L", "width": 320, "height": 180}],
	"pockets": [{"id": "kite", "name": "Kite", "kinds": ["picture"], "limits": {"zoom": [1, 2]}}, {"id": "own", "name": "Own", "kinds": ["picture"]}],
	"layers": [{"id": "a", "name": "A", "kind": "shape", "fill": "#c01030", "size": [100, 80]}, {"id": "v", "name": "V", "kind": "view", "pocket": "kite", "size": [50, 50]}],
	"sheet": {"groups": [{"id": "g", "label": "G", "entries": [
		{"id": "kite", "label": "Kite", "kind": "media", "pocket": "kite", "framing": ["zoom", "pan"]},
		{"id": "way", "label": "Way", "kind": "choice", "default": "one", "options": [{"id": "one", "label": "One"}, {"id": "two", "label": "Two"}], "ties": [{"to": "layers/a/opacity", "stops": [{"at": "one", "value": 1}, {"at": "two", "value": 0.5}]}]},
		{"id": "on", "label": "On", "kind": "switch", "default": true, "ties": [{"to": "layers/a/hidden", "stops": [{"at": true, "value": false}, {"at": false, "value": true}]}]},
		{"id": "long", "label": "Long", "kind": "duration", "min": 20, "max": 90},
		{"id": "spot", "label": "Spot", "kind": "place", "default": [0, 0], "area": [-100, -50, 100, 50], "ties": [{"to": "layers/a/place"}]},
		{"id": "wide", "label": "Wide", "kind": "amount", "default": 100, "min": 10, "max": 200, "ties": [{"to": "layers/a/size.x"}]},
		{"id": "lean", "label": "Lean", "kind": "angle", "default": 0, "min": -45, "max": 45, "ties": [{"to": "layers/a/turn"}]},
		{"id": "tint", "label": "Tint", "kind": "colour", "default": "#c01030", "ties": [{"to": "layers/a/fill"}]}]}]}}`

// Whatever an editor sends, of whatever kind, a piece holds what its release's schema
// allows, and what is held is within the limits; nothing falls. Seeded; the schema is judged
// by santhosh-tekuri/jsonschema.
func TestNoValuePassesItsLimits(t *testing.T) {
	h := build(t, t.TempDir())
	d, err := template.Parse([]byte(asking))
	if err != nil {
		t.Fatal(err)
	}
	if _, err := h.store.Release(t.Context(), d); err != nil {
		t.Fatal(err)
	}
	h.piece = h.post("/api/templates/asks/open", nil, 200)["id"].(string)
	res, b := h.do("GET", "/api/templates/asks/releases/1/schema", nil)
	if res.Header.Get("Content-Type") != "application/schema+json" {
		t.Fatalf("%s: %s", res.Status, b)
	}
	schema := judge.NewSchema(t, json.RawMessage(b))
	for _, path := range []string{"/api/templates/asks/releases/9/schema", "/api/templates/asks/releases/x/schema", "/api/templates/nobody/releases/1/schema"} {
		if res, _ := h.do("GET", path, nil); res.StatusCode != 404 {
			t.Errorf("%s: %s", path, res.Status)
		}
	}
	rng := rand.New(rand.NewPCG(9, 13))
	any1 := func(all ...any) any { return all[rng.IntN(len(all))] }
	value := func() any {
		return any1(nil, true, false, "one", "two", "three", "#102030", "#10203040", "#ggg", 0, -1, 9, 44.5, 46, 150, 201, 1e308, -1e308, []any{10, 10}, []any{99, -49}, []any{101, 0}, []any{1}, []any{"25vmin", 3}, []any{1, 2, 3}, map[string]any{"x": 1}, "", []any{})
	}
	took := map[string]int{}
	for n := range 1500 {
		op := map[string]any{"kind": any1("entry", "entry", "entry", "frames", "frame", "play", "keep", "fill", "batch", "rest")}
		kind := op["kind"].(string)
		entry := any1("kite", "way", "on", "long", "spot", "wide", "lean", "tint", "nobody")
		switch kind {
		case "entry":
			op["entry"], op["value"] = entry, value()
		case "frames":
			op["frames"] = any1(0, 19, 20, 50, 90, 91, -4, 864000)
		case "frame":
			op["pocket"], op["members"] = any1("kite", "own"), []any{any1("zoom", "pan", "turn", "fit", "focus", "flipX")}
			op["framing"] = map[string]any{"fit": "cover", "focus": []any{rng.Float64(), 0.5}, "pan": []any{rng.Float64()*12 - 6, 0}, "zoom": rng.Float64() * 25, "turn": rng.Float64() * 5000}
		case "play", "keep", "fill":
			op["pocket"], op["value"] = any1("kite", "own", "attic"), any1(true, false, 3)
		case "batch":
			op["ops"] = []any{map[string]any{"kind": "entry", "entry": entry, "value": value()}, map[string]any{"kind": "entry", "entry": "wide", "value": any1(20, 500)}}
		}
		if op["value"] == nil {
			delete(op, "value")
		}
		body, _ := json.Marshal(map[string]any{"id": fmt.Sprintf("random-%d", n), "base": 1 << 20, "op": op})
		body = bytes.Replace(body, []byte(fmt.Sprint(1<<20)), []byte(fmt.Sprint(h.json("GET", "/api/pieces/"+h.piece, nil, 200)["revision"])), 1)
		res, b := h.do("POST", "/api/pieces/"+h.piece+"/operations", body)
		if res.StatusCode >= 500 {
			t.Fatalf("%s: %s %s", body, res.Status, b)
		}
		if res.StatusCode != 200 {
			continue
		}
		took[kind]++
		row, err := h.store.Piece(t.Context(), h.piece)
		if err != nil {
			t.Fatal(err)
		}
		p, err := row.Parsed()
		if err != nil {
			t.Fatal(err)
		}
		held, err := json.Marshal(p.Values)
		if err != nil {
			t.Fatal(err)
		}
		if err := schema.Fits(held); err != nil {
			t.Fatalf("%s led to %s: %v", body, held, err)
		}
		if f := p.Values.Fills["kite"].Framing; f != nil && (f.Zoom < 1 || f.Zoom > 2 || f.Turn != 0) {
			t.Fatalf("%s led to a framing of %+v", body, f)
		}
		if _, own := p.Values.Fills["own"]; own {
			t.Fatalf("%s filled a pocket that nobody is asked for", body)
		}
	}
	for _, kind := range []string{"entry", "frames", "frame", "batch"} {
		if took[kind] < 10 {
			t.Errorf("%d of %s were taken", took[kind], kind)
		}
	}
}
