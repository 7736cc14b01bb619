package server

import (
	"encoding/json"
	"fmt"
	"net/url"
	"testing"
)

// What moves is told with every layer; as curves, of numbers as they are seen in a format, also after an act that is not
// carried out; keys and several layers are copied; a clip is told by the frames that are seen when.
func TestMotionOverHTTP(t *testing.T) {
	h := build(t, t.TempDir())
	draft := h.start(map[string]any{"template": "two-tides"})
	at := "/api/drafts/" + draft
	h.act(draft, "keys-one", 0, map[string]any{"kind": "batch", "format": "landscape", "ops": []map[string]any{
		{"kind": "keys", "path": "layers/mark/place", "move": map[string]any{"unit": "canvas", "keys": []map[string]any{{"id": "a", "at": 10, "value": []float64{0, 0}, "ease": []float64{0.5, 0, 0.5, 1}}, {"id": "b", "at": 30, "value": []float64{0.1, 0}, "hold": true}, {"id": "c", "at": 40, "value": []float64{0, 0.1}}}}},
		{"kind": "keys", "path": "layers/mark/size", "move": map[string]any{"keys": []map[string]any{{"id": "a", "at": 0, "value": []float64{1, 1}}, {"id": "b", "at": 20, "value": []float64{0.5, 1}}}}},
		{"kind": "keys", "path": "layers/ground/fill", "move": map[string]any{"keys": []map[string]any{{"id": "a", "at": 0, "value": "#102030", "steps": map[string]any{"count": 4}}, {"id": "b", "at": 20, "value": "#ffffff"}}}},
	}}, 200)
	lines := h.json("GET", at, nil, 200)["layers"].([]any)
	told, _ := json.Marshal(lines[3].(map[string]any)["tracks"])
	var tracks []TrackLine
	if err := json.Unmarshal(told, &tracks); err != nil {
		t.Fatal(err)
	}
	place := TrackLine{}
	for _, line := range tracks {
		if line.Path == "layers/mark/place" {
			place = line
		}
	}
	if place.Label != "Place" || len(place.Keys) != 3 || place.Keys[0].At != 10 || place.Keys[0].Ease == nil || !place.Keys[1].Hold {
		t.Errorf("tracks: %s", told)
	}
	curves := func(format string, op any, status int) (v []CurveView) {
		t.Helper()
		res, b := h.do("POST", at+"/curves", map[string]any{"format": format, "paths": []string{"layers/mark/place", "layers/ground/fill", "layers/none/turn", "x", "layers/mark/size"}, "op": op})
		if res.StatusCode != status {
			t.Fatalf("curves: %d %s", res.StatusCode, b)
		}
		if status == 200 {
			if err := json.Unmarshal(b, &v); err != nil {
				t.Fatal(err)
			}
		}
		return v
	}
	value := func(c CurveView, at float64) []float64 {
		for i := len(c.Points) - 1; i >= 0; i-- {
			if c.Points[i][0] <= at {
				return c.Points[i][1:]
			}
		}
		return nil
	}
	list := curves("landscape", nil, 200)
	if len(list) != 3 || !list[0].Counted || list[1].Counted || !list[0].Way {
		t.Fatalf("%d curves: %+v", len(list), list)
	}
	// It rests at 320, 0 there; half-way it is gone half of a tenth of the canvas, at one and a half times the mean speed of
	// an easing of [0.5, 0, 0.5, 1]: its slope at the middle is 1.5 (CSS Easing Functions Level 1, by hand: dy/dx = 1.5/0.75 = 2).
	w := h.json("GET", at, nil, 200)["formats"].([]any)[0].(map[string]any)["width"].(float64)
	rate := h.json("GET", at, nil, 200)["rateN"].(float64) / h.json("GET", at, nil, 200)["rateD"].(float64)
	if k := list[0].Keys; fmt.Sprint(k[0].Value, k[1].Value[0]-k[0].Value[0]) != fmt.Sprint([]float64{320, 0}, w/10) {
		t.Errorf("keys: %+v", k)
	}
	if v := value(list[0], 20); fmt.Sprintf("%.3f %.2f", v[0], v[2]) != fmt.Sprintf("%.3f %.2f", 320+w/20, 2*w/10/20*rate) {
		t.Errorf("half-way: %v", v)
	}
	if v := value(list[0], 39); v[0] != 320+w/10 || v[2] != 0 {
		t.Errorf("held: %v", v)
	}
	// Of 240 px half are gone in 20 frames.
	if v, k := value(list[2], 10), list[2].Keys; v[0] != 180 || fmt.Sprintf("%.2f", v[2]) != fmt.Sprintf("%.2f", -120.0/20*rate) || k[1].Value[0] != 120 || k[1].Speed[0][0] >= 0 || k[1].Speed[0][1] != 0 {
		t.Errorf("a size: %v, %+v", v, k)
	}
	if v := value(list[1], 12); v[0] != 0.5 || list[1].Keys[1].Text != "#ffffff" {
		t.Errorf("a colour in steps: %v, %+v", v, list[1].Keys)
	}
	moved := curves("landscape", map[string]any{"kind": "retime", "keys": []string{"layers/mark/motion/place/a"}, "frames": -5, "format": "landscape"}, 200)
	if moved[0].Keys[0].At != 5 || curves("landscape", nil, 200)[0].Keys[0].At != 10 {
		t.Errorf("after an act: %+v", moved[0].Keys)
	}
	curves("landscape", map[string]any{"kind": "retime", "keys": []string{"layers/mark/motion/place/z"}, "frames": -5, "format": "landscape"}, 422)
	curves("nowhere", nil, 422)

	q := url.Values{"keys": {"layers/mark/motion/place/a", "layers/mark/motion/place/c", "layers/ground/motion/fill/b"}}
	if got := h.json("GET", at+"/keys?"+q.Encode(), nil, 200); got["ivypocket"] != "keys" || len(got["tracks"].([]any)) != 2 {
		t.Errorf("copied: %v", got)
	}
	h.json("GET", at+"/keys?keys=layers/mark/motion/place/q", nil, 422)
	if got := h.json("GET", at+"/clip?layers=left&layers=right", nil, 200)["layers"].([]any); len(got) != 2 {
		t.Errorf("copied were %d layers of two", len(got))
	}
	if got := h.json("GET", at+"/clips?format=landscape&layer=ground&at=0&at=5", nil, 200); got["media"] != "" {
		t.Errorf("the ground shows %v", got)
	}
	if got := h.json("GET", at+"/layers/mark?format=landscape&frame=0", nil, 200)["properties"].([]any)[0].(map[string]any); got["keys"] == nil {
		t.Errorf("a property does not say whether it may have keys: %v", got)
	}
	var moves []struct{ Kind string }
	_, b := h.do("GET", "/api/moves", nil)
	if err := json.Unmarshal(b, &moves); err != nil || len(moves) != 11 {
		t.Errorf("%d ready moves, %v", len(moves), err)
	}
}
