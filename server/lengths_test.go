package server

import (
	"encoding/json"
	"fmt"
	"slices"
	"testing"
)

// A draft is tried at another length than its own: its frames are those that a piece of that
// length has, cues and parts of its time stand where they are then, and what is done is done at
// the instant that is seen.
func TestADraftIsTriedAtALength(t *testing.T) {
	h := build(t, t.TempDir())
	draft := h.start(map[string]any{"template": "two-tides"})
	at := "/api/drafts/" + draft
	own := int64(h.json("GET", at, nil, 200)["frames"].(float64))
	h.act(draft, "held-one", 0, map[string]any{"kind": "batch", "format": "landscape", "ops": []map[string]any{
		{"kind": "hold", "from": []int64{0, 10}}, {"kind": "keys", "path": "layers/mark/place", "move": map[string]any{"unit": "canvas", "keys": []map[string]any{
			{"id": "a", "at": 0, "value": []float64{0, 0}}, {"id": "b", "at": 20, "value": []float64{0.2, 0}}, {"id": "c", "at": 30, "value": []float64{0.2, 0}}}}},
		{"kind": "cue", "frame": 20, "name": "Seen"},
	}}, 200)
	long := own * 2
	get := func(path string, length int64, to any) {
		t.Helper()
		res, b := h.do("GET", path, nil, "Ivy-Length", fmt.Sprint(length))
		if err := json.Unmarshal(b, to); err != nil || res.StatusCode != 200 {
			t.Fatalf("%s: %d %s", path, res.StatusCode, b)
		}
	}
	var v, plain DraftView
	get(at, long, &v)
	get(at, 0, &plain)
	if v.Tried != long || v.Frames != own || plain.Tried != 0 || v.Shortest != 10 {
		t.Errorf("tried at %d, own %d, shortest %d; else at %d", v.Tried, v.Frames, v.Shortest, plain.Tried)
	}
	if p := v.Time; len(p) != 2 || p[0].ID != "held" || p[0].Until != 10 || p[1].At != 10 || p[1].Until != float64(long) || p[1].To != own {
		t.Errorf("parts %+v", p)
	}
	var parts []PartView
	get(at+"/time?frames="+fmt.Sprint(long), 0, &parts)
	if parts[1] != v.Time[1] {
		t.Errorf("parts at %d: %+v", long, parts)
	}
	// Frame 10 + (20 − 10)·(2n − 10)/(n − 10) is the first that shows the cue's instant or a later one.
	want := 10 + (10*(long-10)+own-11)/(own-10)
	cue := func(v DraftView) int64 {
		i := slices.IndexFunc(v.Cues, func(c CueView) bool { return c.Name == "Seen" })
		return v.Cues[i].Frame
	}
	if cue(v) != want || cue(plain) != 20 {
		t.Errorf("the cue stands at %d, want %d, and else at %d", cue(v), want, cue(plain))
	}
	// Only the way that goes on past the border crosses it.
	for _, y := range v.Layers {
		for _, track := range y.Tracks {
			if track.Path == "layers/mark/place" && (!track.Keys[0].Crosses || track.Keys[1].Crosses) {
				t.Errorf("keys %+v", track.Keys)
			}
		}
	}
	var long1, held, own1 FramesView
	window := "/frames?format=landscape&width=320&height=180&from=0&count=512"
	get(at+window, long, &long1)
	get(at+window, 0, &own1)
	get(at+window, 3, &held) // which is no length it may have
	if long1.Frames != long || own1.Frames != own || held.Frames != own {
		t.Errorf("%d, %d and %d frames", long1.Frames, own1.Frames, held.Frames)
	}
	first := func(v FramesView, n int) []string {
		var out []string
		for _, run := range v.Addresses {
			for range run.Frames {
				out = append(out, run.Address)
			}
		}
		return out[:n]
	}
	if !slices.Equal(first(long1, 10), first(own1, 10)) {
		t.Error("held frames are others in a longer piece")
	}
	// A key that is set at what is seen stands at its instant.
	body := map[string]any{"id": "set-a-key", "base": 1, "op": map[string]any{"kind": "key", "format": "landscape", "frame": want, "path": "place", "layers": []string{"mark"}}}
	if res, b := h.do("POST", at+"/operations", body, "Ivy-Length", fmt.Sprint(long)); res.StatusCode != 200 {
		t.Fatalf("%d %s", res.StatusCode, b)
	}
	get(at, 0, &v)
	for _, y := range v.Layers {
		for _, track := range y.Tracks {
			if track.Path == "layers/mark/place" && len(track.Keys) != 3 {
				t.Errorf("a key of its own was made beside frame 20: %+v", track.Keys)
			}
		}
	}

	var rows []LengthView
	get(at+"/lengths?format=landscape", 0, &rows)
	var all []int64
	for _, r := range rows {
		all = append(all, r.Frames)
		if c := r.Cells; len(c) == 0 || c[len(c)-1].Frame >= r.Frames || c[len(c)-1].Shows > float64(own) {
			t.Errorf("%d frames: %+v", r.Frames, c)
		}
	}
	if len(all) != 5 || all[0] != 10 || all[4] != long || !slices.Contains(all, own) || !slices.IsSorted(all) {
		t.Errorf("lengths %v of a template of %d", all, own)
	}
	if res, _ := h.do("GET", "/frames/"+rows[0].Cells[0].Address+".jpg", nil); res.StatusCode != 200 {
		t.Errorf("a picture: %d", res.StatusCode)
	}
	if res, b := h.do("GET", at+"/time?frames=9", nil); res.StatusCode != 422 && res.StatusCode != 400 {
		t.Errorf("9 frames: %d %s", res.StatusCode, b)
	}
}
