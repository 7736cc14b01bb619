package server

import (
	"fmt"
	"net/http"
	"strings"
	"testing"
)

// Layers are listed and told with their properties, set, and taken back.
func TestLayersOverHTTP(t *testing.T) {
	h := build(t, t.TempDir())
	piece := h.json("GET", "/api/pieces/"+h.piece, nil, 200)
	lines := piece["layers"].([]any)
	if len(lines) != 4 {
		t.Fatalf("%d layers", len(lines))
	}
	for i, want := range []string{"ground shape true", "left view false", "right view false", "mark view true"} {
		y := lines[i].(map[string]any)
		if got := fmt.Sprint(y["id"], " ", y["kind"], " ", y["drags"]); got != want {
			t.Errorf("layer %d is %s, want %s", i, got, want)
		}
	}
	look := func(layer, format string, frame int) map[string]map[string]any {
		t.Helper()
		out := map[string]map[string]any{}
		for _, p := range h.json("GET", fmt.Sprintf("/api/pieces/%s/layers/%s?format=%s&frame=%d", h.piece, layer, format, frame), nil, 200)["properties"].([]any) {
			k := p.(map[string]any)
			out[k["name"].(string)] = k
		}
		return out
	}
	mark := look("mark", "landscape", 25)
	for name, want := range map[string]string{"place": "[320 0] [320 0]", "size": "[240 240] [240 240]"} {
		if got := fmt.Sprint(mark[name]["rest"], " ", mark[name]["now"]); got != want {
			t.Errorf("%s is %s, want %s", name, got, want)
		}
	}
	if o := mark["opacity"]; o["moves"] != true || o["driver"] != "the entry Border" {
		t.Errorf("opacity: %v", o)
	}
	if d := look("left", "landscape", 0)["place"]["driver"]; d != "the cell of the layout tides" {
		t.Errorf("a cell's place is set by %v", d)
	}

	done := h.op("rest-one", 0, map[string]any{"kind": "rest", "layer": "mark", "property": "place", "rest": []int{10, 20}, "format": "square"}, 200)
	if done["title"] != "Set place of Mark" {
		t.Errorf("title %v", done["title"])
	}
	if c := done["changed"].(map[string]any); fmt.Sprint(c["landscape"]) != "[]" || !strings.Contains(fmt.Sprint(c["square"]), "from:21") {
		t.Errorf("changed %v", c)
	}
	if p := look("mark", "square", 0)["place"]; p["here"] != true || fmt.Sprint(p["rest"]) != "[10 20]" {
		t.Errorf("in the square: %v", p)
	}
	if p := look("mark", "landscape", 0)["place"]; p["changed"] != false {
		t.Errorf("in landscape: %v", p)
	}
	for want, op := range map[string]map[string]any{
		"entry Border":   {"kind": "rest", "layer": "mark", "property": "opacity", "rest": 0.5},
		"cell of":        {"kind": "rest", "layer": "left", "property": "size", "rest": []int{5, 5}},
		"no property":    {"kind": "rest", "layer": "mark", "property": "smell", "rest": 1},
		"no layer":       {"kind": "rest", "layer": "attic", "property": "size", "rest": []int{5, 5}},
		"outside":        {"kind": "rest", "layer": "mark", "property": "size", "rest": []float64{-5, 5}},
		"not a number":   {"kind": "rest", "layer": "mark", "property": "size", "rest": "wide"},
		"neither a numb": {"kind": "rest", "layer": "mark", "property": "size", "rest": map[string]any{"w": 3}},
	} {
		if got := fmt.Sprint(h.op("rest-wrong", 1, op, http.StatusUnprocessableEntity)); !strings.Contains(got, want) {
			t.Errorf("%v: %s, want %q", op, got, want)
		}
	}
	if v := h.op("rest-long", 1, map[string]any{"kind": "frames", "frames": 400}, 200)["piece"].(map[string]any); v["frames"] != 400.0 || v["own"] != 150.0 || v["shortest"] == 0.0 {
		t.Errorf("%v frames of %v, at least %v", v["frames"], v["own"], v["shortest"])
	}
	if n := len(h.frames("landscape", 480, 270)); n != 400 {
		t.Errorf("%d addresses", n)
	}
	for _, path := range []string{"/layers/attic?format=square", "/layers/mark?format=square&frame=400", "/layers/mark?format=round"} {
		if resp, body := h.do("GET", "/api/pieces/"+h.piece+path, nil); resp.StatusCode < 400 || resp.StatusCode >= 500 {
			t.Errorf("%s: %d %s", path, resp.StatusCode, body)
		}
	}
}
