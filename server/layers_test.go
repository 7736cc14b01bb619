package server

import (
	"fmt"
	"net/http"
	"os"
	"slices"
	"strings"
	"testing"

	"ivypocket/core/template"
	"ivypocket/media/mediatest"
)

// Layers are listed, told with their properties and set at the bench; at the desk
// nobody sets them, whatever they send.
func TestLayersOverHTTP(t *testing.T) {
	h := build(t, t.TempDir())
	draft := h.start(map[string]any{"template": "two-tides"})
	lines := h.json("GET", "/api/drafts/"+draft, nil, 200)["layers"].([]any)
	if len(lines) != 4 {
		t.Fatalf("%d layers", len(lines))
	}
	for i, want := range []string{"ground shape", "left view", "right view", "mark view"} {
		y := lines[i].(map[string]any)
		if got := fmt.Sprint(y["id"], " ", y["kind"]); got != want {
			t.Errorf("layer %d is %s, want %s", i, got, want)
		}
	}
	look := func(layer, format string, frame int) map[string]map[string]any {
		t.Helper()
		out := map[string]map[string]any{}
		for _, p := range h.json("GET", fmt.Sprintf("/api/drafts/%s/layers/%s?format=%s&frame=%d", draft, layer, format, frame), nil, 200)["properties"].([]any) {
			k := p.(map[string]any)
			out[k["name"].(string)] = k
		}
		return out
	}
	frames := func(format string, w, ht int) []string { return h.framesOf("drafts/"+draft, format, w, ht) }
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

	before := map[string][]string{"landscape": frames("landscape", 480, 270), "square": frames("square", 270, 270)}
	done := h.act(draft, "rest-one", 0, map[string]any{"kind": "rest", "path": "layers/mark/place", "value": []int{10, 20}, "format": "square", "apart": true}, 200)
	if done["title"] != "Set place of Mark" {
		t.Errorf("title %v", done["title"])
	}
	// The mark is seen from frame 21 on, and was moved in the square alone.
	if !slices.Equal(frames("landscape", 480, 270), before["landscape"]) {
		t.Error("frames in landscape are others")
	}
	for n, a := range frames("square", 270, 270) {
		if (a == before["square"][n]) != (n < 21) {
			t.Errorf("frame %d in the square: the same %t", n, a == before["square"][n])
		}
	}
	if p := look("mark", "square", 0)["place"]; p["own"] != true || fmt.Sprint(p["rest"]) != "[10 20]" {
		t.Errorf("in the square: %v", p)
	}
	if p := look("mark", "landscape", 0)["place"]; p["own"] != false {
		t.Errorf("in landscape: %v", p)
	}
	for want, op := range map[string]map[string]any{
		"no property":    {"kind": "rest", "path": "layers/mark/smell", "value": 1},
		"no layer":       {"kind": "rest", "path": "layers/attic/size", "value": []int{5, 5}},
		"outside":        {"kind": "rest", "path": "layers/mark/size", "value": []float64{-5, 5}},
		"neither a numb": {"kind": "rest", "path": "layers/mark/size", "value": map[string]any{"w": 3}},
	} {
		if got := fmt.Sprint(h.act(draft, "rest-wrong", 1, op, http.StatusUnprocessableEntity)); !strings.Contains(got, want) {
			t.Errorf("%v: %s, want %q", op, got, want)
		}
	}
	for _, path := range []string{"/layers/attic?format=square", "/layers/mark?format=square&frame=400", "/layers/mark?format=round"} {
		if resp, body := h.do("GET", "/api/drafts/"+draft+path, nil); resp.StatusCode < 400 || resp.StatusCode >= 500 {
			t.Errorf("%s: %d %s", path, resp.StatusCode, body)
		}
	}
	// What goes with a pocket that holds nothing is told as left out.
	left := h.act(draft, "without-1", 1, map[string]any{"kind": "rest", "path": "layers/mark/without", "value": "logo"}, 200)["draft"].(map[string]any)
	if y := left["layers"].([]any)[3].(map[string]any); y["without"] != "logo" || y["leftOut"] != true {
		t.Errorf("left out: %v, %v", y["without"], y["leftOut"])
	}
	h.op("rest-desk", 0, map[string]any{"kind": "rest", "path": "layers/mark/size", "value": []int{5, 5}}, http.StatusUnprocessableEntity)
	h.op("move-desk", 0, map[string]any{"kind": "rest"}, http.StatusUnprocessableEntity)
	if resp, _ := h.do("GET", "/api/pieces/"+h.piece+"/layers/mark?format=square", nil); resp.StatusCode != 404 {
		t.Errorf("a piece's layer is told: %s", resp.Status)
	}
}

// How long a piece is its sheet asks for; else it is as long as the template.
func TestALengthOverHTTP(t *testing.T) {
	h := build(t, t.TempDir())
	long := map[string]any{"kind": "frames", "frames": 400}
	if got := fmt.Sprint(h.op("too-long", 0, long, http.StatusUnprocessableEntity)); !strings.Contains(got, "does not ask for the duration") {
		t.Errorf("%s", got)
	}
	h.piece = h.lasting("lasting")
	if v := h.op("rest-long", 0, long, 200)["piece"].(map[string]any); v["frames"] != 400.0 || v["own"] != 150.0 || v["shortest"] == 0.0 {
		t.Errorf("%v frames of %v, at least %v", v["frames"], v["own"], v["shortest"])
	}
	if n := len(h.frames("landscape", 480, 270)); n != 400 {
		t.Errorf("%d addresses", n)
	}
}

// lasting is a piece of the written split whose sheet asks for its length.
func (h *house) lasting(id string, replace ...string) string {
	h.t.Helper()
	b, err := os.ReadFile("../docs/examples/split.json")
	if err != nil {
		h.t.Fatal(err)
	}
	const groups = `"sheet": {"groups": [`
	text := strings.NewReplacer(append(replace, groups, groups+`{"id": "time", "label": "Time", "entries": [{"id": "length", "label": "Length", "kind": "duration", "unit": "s"}]}, `)...).Replace(string(b))
	d, err := template.Parse([]byte(text))
	if err != nil {
		h.t.Fatal(err)
	}
	d.ID = id
	if _, err := h.store.Release(h.t.Context(), d); err != nil {
		h.t.Fatal(err)
	}
	return h.post("/api/templates/"+id+"/open", nil, 200)["id"].(string)
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
