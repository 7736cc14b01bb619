package server

import (
	"fmt"
	"testing"
)

// What a motion blur costs is measured with it and without; of a layer that has none both are alike but for noise, and of one
// that is not there nothing is told.
func TestWhatMotionBlurCosts(t *testing.T) {
	h := build(t, t.TempDir())
	draft := h.start(map[string]any{"template": "two-tides"})
	h.act(draft, "blur-it-so", 0, map[string]any{"kind": "batch", "format": "landscape", "ops": []map[string]any{
		{"kind": "keys", "path": "layers/mark/place", "move": map[string]any{"unit": "canvas", "keys": []map[string]any{{"id": "a", "at": 0, "value": []float64{0, 0}}, {"id": "b", "at": 20, "value": []float64{0.4, 0}}}}},
		{"kind": "rest", "format": "landscape", "path": "layers/mark/motionBlur.samples", "value": 12},
	}}, 200)
	at := "/api/drafts/" + draft + "/layers/%s/blur?format=landscape&frame=10"
	v := h.json("GET", fmt.Sprintf(at, "mark"), nil, 200)
	if v["with"].(float64) <= 0 || v["without"].(float64) <= 0 || v["width"] != 960.0 {
		t.Errorf("%v", v)
	}
	h.json("GET", fmt.Sprintf(at, "none"), nil, 404)
}
