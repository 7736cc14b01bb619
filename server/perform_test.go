package server

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"
)

// performing is a template in which one layer performs a saved move, with a mask that comes along, and a plain one.
func performing(h *house, id, colour string) string {
	return h.dropped(`{"ivypocket": 3, "kind": "template", "id": "` + id + `", "name": "` + strings.ToUpper(id) + `", "category": "T", "rate": "30", "frames": 60, "colours": [{"id": "dye", "name": "Dye", "value": "` + colour + `"}],
		"formats": [{"id": "f", "name": "F", "width": 320, "height": 180}],
		"moves": [{"id": "open", "name": "Open", "length": 10, "motion": {"fill": {"keys": [{"id": "a", "at": 0, "value": "colour:dye"}, {"id": "b", "at": 10, "value": "#ffffff"}]}},
			"masks": [{"id": "wipe", "motion": {"place": {"unit": "self", "keys": [{"id": "a", "at": 0, "value": [-1, 0]}, {"id": "b", "at": 10, "value": [0, 0]}]}}}]}],
		"layers": [{"id": "p", "name": "P", "kind": "shape", "fill": "#102030", "size": [32, 18], "shift": 3, "motion": {"turn": {"keys": [{"id": "a", "at": 5, "value": 0}, {"id": "b", "at": 9, "value": 9}]}},
			"moves": [{"id": "m", "kind": "saved", "move": "open", "at": 4, "length": 20, "back": true}, {"id": "n", "kind": "plain", "at": 30, "length": 5, "scale": {"to": 2}}]}]}`)
}

// The strip is told what a layer performs and when, and the keys of saved moves as the layer has them; what comes along with
// one is none of the layer's own.
func TestWhatALayerPerformsIsTold(t *testing.T) {
	h := build(t, t.TempDir())
	id := performing(h, "one", "#336699")
	d := h.json("GET", "/api/drafts/"+id, nil, 200)
	y := d["layers"].([]any)[0].(map[string]any)
	var told []string
	for _, l := range y["tracks"].([]any) {
		l := l.(map[string]any)
		line := fmt.Sprintf("%s (%s)", l["path"], l["by"])
		for _, k := range l["keys"].([]any) {
			line += fmt.Sprintf(" %s %v", k.(map[string]any)["id"], k.(map[string]any)["at"])
		}
		told = append(told, line)
	}
	if got := strings.Join(told, "; "); got != "layers/p/turn () a 8 b 12; layers/p/moves/m/fill (m) b 7 a 27; layers/p/moves/m/masks/wipe/place (m) b 7 a 27" {
		t.Errorf("what moves is %s", got)
	}
	told = nil
	for _, p := range y["performs"].([]any) {
		p := p.(map[string]any)
		told = append(told, fmt.Sprintf("%s %s %s %v-%v %v", p["id"], p["kind"], p["label"], p["from"], p["until"], p["back"]))
	}
	if got := strings.Join(told, "; "); got != "m saved Open 7-27 true; n plain Plain move 33-38 false" {
		t.Errorf("it performs %s", got)
	}
	m := d["savedMoves"].([]any)[0].(map[string]any)
	if m["name"] != "Open" || m["uses"] != 1.0 || m["what"] != "Fill, Place, mask wipe" || d["moves"] != true {
		t.Errorf("the move is %v", m)
	}
	panel := h.json("GET", "/api/drafts/"+id+"/layers/p?format=f&frame=17", nil, 200)
	told = nil
	for _, p := range panel["properties"].([]any) {
		if path := p.(map[string]any)["path"].(string); strings.Contains(path, "/m/") || strings.Contains(path, "masks") {
			told = append(told, strings.TrimPrefix(path, "layers/p/moves/m/"))
		}
	}
	if got := strings.Join(told, " "); got != "move at length amount soft back off" {
		t.Errorf("its panel has %s", got)
	}
}

// Moves of other templates are told to be brought over, with their colours spelt out; those that are here alike are not.
func TestMovesOfTheShelf(t *testing.T) {
	h := build(t, t.TempDir())
	one := performing(h, "one", "#336699")
	performing(h, "two", "#336699")
	performing(h, "three", "#ff0000")
	_, b := h.do("GET", "/api/drafts/"+one+"/moves", nil)
	var list []SavedMoveView
	if err := json.Unmarshal(b, &list); err != nil || len(list) != 1 || list[0].Of != "THREE" || !strings.Contains(string(list[0].Clip), "#ff0000") {
		t.Fatalf("%s: %v", b, err)
	}
	blank := h.post("/api/drafts", map[string]any{"start": map[string]any{"name": "Blank", "category": "T", "rate": "25", "frames": 50, "purpose": "stand-alone", "canvases": [][2]int{{320, 180}}}}, 200)["id"].(string)
	if _, b = h.do("GET", "/api/drafts/"+blank+"/moves", nil); json.Unmarshal(b, &list) != nil || len(list) != 2 {
		t.Errorf("of two that are alike one is told: %s", b)
	}
}

// A draft's frames are told as it stood at a revision, too; another revision may be another length.
func TestFramesOfAnotherVersion(t *testing.T) {
	h := build(t, t.TempDir())
	id := performing(h, "one", "#336699")
	list := func(past string) (out FramesView) {
		t.Helper()
		res, b := h.do("GET", "/api/drafts/"+id+"/frames?format=f&width=320&height=180"+past, nil)
		if err := json.Unmarshal(b, &out); err != nil || res.StatusCode != 200 {
			t.Fatalf("%d %s", res.StatusCode, b)
		}
		return out
	}
	first := list("")
	rev := h.json("GET", "/api/drafts/"+id, nil, 200)["revision"].(float64)
	h.post("/api/drafts/"+id+"/operations", map[string]any{"id": "another-colour", "base": rev, "op": map[string]any{"kind": "rest", "path": "layers/p/fill", "value": "#ffff00", "format": "f"}}, 200)
	h.post("/api/drafts/"+id+"/operations", map[string]any{"id": "another-turn", "base": rev + 1, "op": map[string]any{"kind": "rest", "path": "layers/p/scale", "value": 3, "format": "f"}}, 200)
	now, then := list(""), list(fmt.Sprintf("&past=%d", int(rev)))
	if now.Addresses[0] == first.Addresses[0] || then.Addresses[0] != first.Addresses[0] || then.Revision != int64(rev) {
		t.Errorf("as it stood it is %v, was %v, is %v", then.Addresses[0], first.Addresses[0], now.Addresses[0])
	}
	if res, b := h.do("GET", "/api/drafts/"+id+"/frames?format=f&width=320&height=180&past=900", nil); res.StatusCode/100 != 4 {
		t.Errorf("a revision that never was: %d %s", res.StatusCode, b)
	}
}
