package server

import (
	"bytes"
	"fmt"
	"net/http"
	"os"
	"slices"
	"strings"
	"testing"

	"ivypocket/core/template"
	"ivypocket/media/mediatest"
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

	before := map[string][]string{"landscape": h.frames("landscape", 480, 270), "square": h.frames("square", 270, 270)}
	done := h.op("rest-one", 0, map[string]any{"kind": "rest", "path": "layers/mark/place", "value": []int{10, 20}, "format": "square"}, 200)
	if done["title"] != "Place of Mark" {
		t.Errorf("title %v", done["title"])
	}
	// The mark is seen from frame 21 on, and was moved in the square alone.
	if !slices.Equal(h.frames("landscape", 480, 270), before["landscape"]) {
		t.Error("frames in landscape are others")
	}
	for n, a := range h.frames("square", 270, 270) {
		if (a == before["square"][n]) != (n < 21) {
			t.Errorf("frame %d in the square: the same %t", n, a == before["square"][n])
		}
	}
	if p := look("mark", "square", 0)["place"]; p["here"] != true || fmt.Sprint(p["rest"]) != "[10 20]" {
		t.Errorf("in the square: %v", p)
	}
	if p := look("mark", "landscape", 0)["place"]; p["changed"] != false {
		t.Errorf("in landscape: %v", p)
	}
	for want, op := range map[string]map[string]any{
		"entry Border":   {"kind": "rest", "path": "layers/mark/opacity", "value": 0.5},
		"cell of":        {"kind": "rest", "path": "layers/left/size", "value": []int{5, 5}},
		"no property":    {"kind": "rest", "path": "layers/mark/smell", "value": 1},
		"no layer":       {"kind": "rest", "path": "layers/attic/size", "value": []int{5, 5}},
		"outside":        {"kind": "rest", "path": "layers/mark/size", "value": []float64{-5, 5}},
		"not a pair":     {"kind": "rest", "path": "layers/mark/size", "value": "wide"},
		"neither a numb": {"kind": "rest", "path": "layers/mark/size", "value": map[string]any{"w": 3}},
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

// Media that a pocket does not take is refused inside a batch, too, and nothing of
// the batch is carried out.
func TestBatchesCheckTheirMedia(t *testing.T) {
	h := filled(t)
	film := h.upload("f.mp4", mediatest.Clip(t, 64, 48, "25", 3))
	batch := map[string]any{"kind": "batch", "ops": []map[string]any{{"kind": "name", "name": "Changed"}, {"kind": "fill", "pocket": "logo", "media": film}}}
	if got := fmt.Sprint(h.op("in-a-batch", 2, batch, http.StatusUnprocessableEntity)); !strings.Contains(got, "takes no clips") {
		t.Errorf("%s", got)
	}
	if name := h.json("GET", "/api/pieces/"+h.piece, nil, 200)["name"]; name != "Two Tides" {
		t.Errorf("the piece is called %v", name)
	}
}

// A layer whose place a formula yields, in part or whole, is not dragged.
func TestFormulaDrivenPlacesDoNotDrag(t *testing.T) {
	h := build(t, t.TempDir())
	b, err := os.ReadFile("../docs/examples/split.json")
	if err != nil {
		t.Fatal(err)
	}
	for i, c := range []struct {
		formulas string
		drags    bool
	}{{`{"opacity": "0.5"}`, true}, {`{"place.x": "canvas.w / 4"}`, false}, {`{"place.y": "canvas.h / 4"}`, false}} {
		const mark = `"place": [320, 0], "size": [240, 240],`
		d, err := template.Parse(bytes.Replace(b, []byte(mark), []byte(mark+` "formulas": `+c.formulas+`,`), 1))
		if err != nil {
			t.Fatal(err)
		}
		d.ID = fmt.Sprintf("drag-%d", i)
		if _, err := h.store.Release(t.Context(), d); err != nil {
			t.Fatal(err)
		}
		for _, y := range h.post("/api/templates/"+d.ID+"/open", nil, 200)["layers"].([]any) {
			if y := y.(map[string]any); y["id"] == "mark" && y["drags"] != c.drags {
				t.Errorf("%s: drags %v", c.formulas, y["drags"])
			}
		}
	}
}
