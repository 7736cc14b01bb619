package server

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"
)

// What a draft covers is told for each format and length, with the best frame to cut at; over two
// scenes the picture changes at the cut where it is clear, and nowhere where it covers.
func TestWhatATransitionCoversOverHTTP(t *testing.T) {
	h := build(t, t.TempDir())
	const overlay = `{"ivypocket": 3, "kind": "template", "id": "wipe", "name": "Wipe", "category": "T", "purpose": "overlay", "rate": "30", "frames": 60, "cues": [{"id": "cut", "name": "Cut frame", "at": 25}],
		"spans": [{"kind": "held", "from": 0, "to": 25}, {"kind": "held", "from": 35, "to": 60}],
		"formats": [{"id": "f", "name": "F", "width": 320, "height": 180}, {"id": "g", "name": "G", "width": 180, "height": 320, "rest": {"layers/p/size": [150, 320]}}], "layers": [{"id": "p", "name": "P", "kind": "shape", "fill": "#102030", "size": [320, 180],
		"motion": {"place": {"unit": "canvas", "keys": [{"at": 5, "value": [-1, 0]}, {"at": 20, "value": [0, 0], "hold": true}, {"at": 40, "value": [0, 0]}, {"at": 55, "value": [1, 0]}]}}}]}`
	id := h.dropped(overlay)
	tell := func() (v CoverView) {
		t.Helper()
		res, b := h.do("GET", "/api/drafts/"+id+"/cover", nil)
		if err := json.Unmarshal(b, &v); err != nil || res.StatusCode != 200 {
			t.Fatalf("%d %s", res.StatusCode, b)
		}
		return v
	}
	v := tell()
	if len(v.Formats) != 2 || len(v.Formats[0].Runs) != 1 || v.Formats[0].Runs[0].From != 20 || v.Formats[0].Runs[0].To != 41 || len(v.Formats[1].Runs) != 0 || len(v.Runs) != 0 || v.Cut != nil || v.Cue == nil || v.Cue.Holds {
		t.Errorf("%+v", v)
	}
	if s := v.Formats[1]; s.Share < 0.8 || s.Share > 0.9 {
		t.Errorf("a narrow one hides %g", s.Share)
	}
	h.act(id, "make-it-wide", 0, map[string]any{"kind": "rest", "format": "g", "apart": true, "path": "layers/p/size", "value": []int{180, 320}}, 200)
	v = tell()
	if v.Cut == nil || v.Cut.Frame != 30 || v.Cut.Milliseconds != 1000 || !v.Cue.Holds || v.Cue.Timecode != "00:00:00:25" || len(v.Lengths) != 5 || v.Lengths[0].Frames != 50 || v.Lengths[4].Runs[0].To != 101 {
		t.Errorf("%+v", v)
	}
	for _, l := range v.Lengths {
		if !l.Holds {
			t.Errorf("at %d frames a cut is seen", l.Frames)
		}
	}
	// Under a frame that is clear lies A before the cut and B from there on; under one that covers neither is seen.
	a := h.framesOf("drafts/"+id, "f", 320, 180)
	look := func(frame int, ground string) string {
		t.Helper()
		res, b := h.do("GET", fmt.Sprintf("/frames/%s.png?at=%d&ground=%s", a[frame], frame, ground), nil)
		if res.StatusCode != 200 {
			t.Fatalf("%d %s", res.StatusCode, b)
		}
		return string(b)
	}
	if look(2, "scenes:25") == look(2, "scenes:2") || look(2, "scenes:25") == look(2, "") || look(30, "scenes:25") != look(30, "scenes:40") {
		t.Error("the scenes do not change at the cut")
	}
	if res, b := h.do("GET", "/frames/"+a[2]+".png?ground=scenes:x", nil); res.StatusCode != 422 && res.StatusCode != 400 || !strings.Contains(string(b), "scenes:x") {
		t.Errorf("%d %s", res.StatusCode, b)
	}
}
