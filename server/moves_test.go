package server

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"
)

// A template is released twice; the releases are compared, a piece of the first is shown as
// it would be in the second, moved, undone and moved along with others, and both are drawn.
func TestPiecesMoveBetweenReleases(t *testing.T) {
	h := build(t, t.TempDir())
	id := h.dropped(released)
	h.act(id, "offer-it-1", 0, map[string]any{"kind": "offer", "format": "l", "paths": []string{"layers/a/fill", "layers/a/opacity"}, "way": "each"}, 200)
	h.post("/api/drafts/"+id+"/release", map[string]any{"note": "The first."}, 200)
	open := func() string {
		return h.post("/api/templates/tide/open?new=true", nil, 200)["id"].(string)
	}
	h.piece = open()
	other, third := open(), open()
	h.op("value-it-1", 0, map[string]any{"kind": "batch", "ops": []map[string]any{{"kind": "entry", "entry": "fill-of-a", "value": "#123456"}, {"kind": "entry", "entry": "opacity-of-a", "value": 30}}}, 200)
	first := h.frames("l", 320, 180)[0]
	h.act(id, "offer-it-2", 1, map[string]any{"kind": "withdraw", "format": "l", "paths": []string{"layers/a/fill"}}, 200)
	h.act(id, "help-it-01", 2, map[string]any{"kind": "rename", "path": "entries/opacity-of-a", "name": "Thickness"}, 200)
	h.post("/api/drafts/"+id+"/release", map[string]any{"note": "Calmer."}, 200)

	c := h.json("GET", "/api/templates/tide/compare?from=1&to=2", nil, 200)
	if got := fmt.Sprint(c["sheet"], c["alike"]); !strings.Contains(got, "how:renamed") || !strings.Contains(got, "how:lost") || !strings.Contains(got, "Label: Thickness, was Opacity of A") || !strings.Contains(got, "false") {
		t.Errorf("compared: %s", got)
	}
	if c := h.json("GET", "/api/templates/tide/compare?from=2&to=2", nil, 200); c["alike"] != true {
		t.Errorf("with itself: %v", c)
	}
	h.json("GET", "/api/templates/tide/compare?from=1&to=7", nil, 404)

	if p := h.json("GET", "/api/pieces/"+h.piece, nil, 200); p["newest"] != 2.0 {
		t.Errorf("the newest release is %v", p["newest"])
	}
	m := h.json("GET", "/api/pieces/"+h.piece+"/move?to=2", nil, 200)
	if got := fmt.Sprint(m["kept"], m["lost"], m["note"]); !strings.Contains(got, "label:Thickness says:30 %, was called Opacity of A") || !strings.Contains(got, "Fill of A says:the sheet no longer asks for it") || !strings.Contains(got, "Calmer.") {
		t.Errorf("a move means %s", got)
	}
	picture := func(path string) string {
		t.Helper()
		res, b := h.do("GET", path, nil)
		if res.StatusCode != 200 || res.Header.Get("Content-Type") != "image/jpeg" {
			t.Fatalf("%s: %s", path, res.Status)
		}
		return string(b)
	}
	before, after := picture("/api/pieces/"+h.piece+"/look?release=1&format=l&side=120"), picture("/api/pieces/"+h.piece+"/look?release=2&format=l&side=120")
	if before == after || picture("/api/templates/tide/releases/1/look?format=l&side=120") == "" {
		t.Error("before and after are the same picture")
	}
	for _, path := range []string{"/api/pieces/" + h.piece + "/look?release=9&format=l", "/api/pieces/" + h.piece + "/look?release=2&format=x", "/api/templates/tide/releases/1/look?format=l&cue=none", "/api/templates/tide/releases/x/look?format=l"} {
		if res, _ := h.do("GET", path, nil); res.StatusCode != 404 {
			t.Errorf("%s: %s", path, res.Status)
		}
	}

	whole := func() string {
		p := h.json("GET", "/api/pieces/"+h.piece, nil, 200)
		delete(p, "revision")
		delete(p, "undo")
		delete(p, "redo")
		b, err := json.Marshal(p)
		if err != nil {
			t.Fatal(err)
		}
		return string(b)
	}
	was := whole()
	done := h.post("/api/pieces/"+h.piece+"/move", map[string]any{"id": "move-it-01", "base": 1, "to": 2}, 200)
	now := done["piece"].(map[string]any)
	if done["title"] != "Move to release 2" || now["template"].(map[string]any)["release"] != 2.0 || now["aside"] != 1.0 {
		t.Errorf("moved: %v, aside %v", done["title"], now["aside"])
	}
	if h.frames("l", 320, 180)[0] == first {
		t.Error("the picture of the first release is drawn")
	}
	h.op("value-it-3", 2, map[string]any{"kind": "entry", "entry": "fill-of-a", "value": "#ffffff"}, 422)
	// Somebody whose window stands at the release before is told, and nothing is changed.
	h.post("/api/pieces/"+h.piece+"/move", map[string]any{"id": "move-it-02", "base": 1, "to": 1}, 409)
	h.post("/api/pieces/"+h.piece+"/undo", map[string]any{"id": "undo-it-01"}, 200)
	if got := whole(); got != was {
		t.Errorf("undone it is\n%s, was\n%s", got, was)
	}
	if h.frames("l", 320, 180)[0] != first {
		t.Error("undone it is another picture")
	}
	h.post("/api/pieces/"+h.piece+"/redo", map[string]any{"id": "redo-it-01"}, 200)
	h.post("/api/pieces/"+h.piece+"/move", map[string]any{"id": "move-it-03", "base": 4, "to": 1}, 200)
	if got := whole(); got != was {
		t.Errorf("there and back it is\n%s, was\n%s", got, was)
	}
	h.post("/api/pieces/"+h.piece+"/move", map[string]any{"id": "move-it-04", "base": 5, "to": 9}, 404)

	// Many at once; what stands there already is left, and all are taken back as one.
	h.post("/api/pieces/"+third+"/move", map[string]any{"id": "move-it-05", "base": 0, "to": 2}, 200)
	stroke := h.post("/api/pieces/move", map[string]any{"ids": []string{h.piece, other, third, "00000000-0000-4000-8000-000000000000"}}, 200)
	if stroke["pieces"] != 2.0 || len(stroke["left"].([]any)) != 0 {
		t.Errorf("many: %v", stroke)
	}
	release := func(id string) any {
		return h.json("GET", "/api/pieces/"+id, nil, 200)["template"].(map[string]any)["release"]
	}
	if release(h.piece) != 2.0 || release(other) != 2.0 {
		t.Error("they were not moved")
	}
	h.post("/api/strokes/"+stroke["stroke"].(string)+"/undo", nil, 200)
	if release(h.piece) != 1.0 || release(other) != 1.0 || release(third) != 2.0 {
		t.Errorf("taken back they are of %v, %v, %v", release(h.piece), release(other), release(third))
	}
	if got := whole(); got != was {
		t.Errorf("taken back it is\n%s, was\n%s", got, was)
	}
}

// A draft is tried out as an editor would fill it: with what its sheet asks for, as it
// stands. Nothing of that is in the draft or in a list.
func TestADraftIsTriedOut(t *testing.T) {
	h := build(t, t.TempDir())
	id := h.dropped(released)
	h.act(id, "offer-it-1", 0, map[string]any{"kind": "offer", "format": "l", "paths": []string{"layers/a/fill", "layers/a/opacity"}, "way": "each"}, 200)
	v := h.post("/api/drafts/"+id+"/desk", nil, 200)
	h.piece = v["id"].(string)
	if v["tryout"] != id || v["name"] != "Tide" || v["newest"] != 0.0 {
		t.Errorf("tried out: %v of %v", v["name"], v["tryout"])
	}
	if again := h.post("/api/drafts/"+id+"/desk", nil, 200); again["id"] != h.piece {
		t.Error("there are two")
	}
	plain := h.frames("l", 320, 180)[0]
	h.op("value-it-1", 0, map[string]any{"kind": "entry", "entry": "fill-of-a", "value": "#123456"}, 200)
	filled := h.frames("l", 320, 180)[0]
	if filled == plain {
		t.Error("a value changes nothing")
	}
	if d := h.json("GET", "/api/drafts/"+id, nil, 200); d["revision"] != 1.0 || strings.Contains(fmt.Sprint(d), "#123456") {
		t.Error("the draft was changed")
	}
	// The designer takes it off the sheet; the value waits until it is there again.
	h.act(id, "offer-it-2", 1, map[string]any{"kind": "withdraw", "format": "l", "paths": []string{"layers/a/fill"}}, 200)
	if v := h.json("GET", "/api/pieces/"+h.piece, nil, 200); v["aside"] != 1.0 || h.frames("l", 320, 180)[0] != plain {
		t.Errorf("without the entry aside are %v", v["aside"])
	}
	h.op("value-it-2", 1, map[string]any{"kind": "entry", "entry": "fill-of-a", "value": "#ffffff"}, 422)
	h.op("value-it-3", 1, map[string]any{"kind": "entry", "entry": "opacity-of-a", "value": 50}, 200)
	h.post("/api/drafts/"+id+"/undo", map[string]any{"id": "undo-it-01"}, 200)
	h.post("/api/pieces/"+h.piece+"/undo", map[string]any{"id": "undo-it-02"}, 200)
	if v := h.json("GET", "/api/pieces/"+h.piece, nil, 200); v["aside"] != 0.0 || h.frames("l", 320, 180)[0] != filled {
		t.Errorf("with it again aside are %v", v["aside"])
	}
	res, b := h.do("GET", "/api/pieces", nil)
	if res.StatusCode != 200 || strings.Contains(string(b), h.piece) {
		t.Errorf("it is listed: %s", b)
	}
	h.post("/api/renders", map[string]any{"piece": h.piece, "format": "l", "kind": "png"}, 422)
	h.post("/api/pieces/"+h.piece+"/duplicate", nil, 404)
	h.post("/api/pieces/"+h.piece+"/move", map[string]any{"id": "move-it-01", "base": 3, "to": 1}, 422)
	h.post("/api/drafts/nobody/desk", nil, 404)
	h.post("/api/drafts/delete", map[string]any{"ids": []string{id}}, 200)
	if res, _ := h.do("GET", "/api/pieces/"+h.piece, nil); res.StatusCode != 410 {
		t.Errorf("with its draft in the bin: %s", res.Status)
	}
}

// What somebody did in one release and takes back in another is refused where the release
// does not take it, with the reason, and nothing is changed.
func TestTakingBackAcrossAMove(t *testing.T) {
	h := build(t, t.TempDir())
	id := h.dropped(released)
	h.act(id, "offer-it-1", 0, map[string]any{"kind": "offer", "format": "l", "paths": []string{"layers/a/opacity"}, "way": "each"}, 200)
	h.post("/api/drafts/"+id+"/release", map[string]any{}, 200)
	h.piece = h.post("/api/templates/tide/open?new=true", nil, 200)["id"].(string)
	by := func(who, path, op string, body map[string]any, status int) map[string]any {
		t.Helper()
		body["id"] = op
		b, err := json.Marshal(body)
		if err != nil {
			t.Fatal(err)
		}
		res, raw := h.do("POST", "/api/pieces/"+h.piece+path, b, "Ivy-Author", who, "Content-Type", "application/json")
		if res.StatusCode != status {
			t.Fatalf("%s %s: %d, want %d: %s", who, path, res.StatusCode, status, raw)
		}
		var v map[string]any
		_ = json.Unmarshal(raw, &v)
		return v
	}
	entry := func(v int) map[string]any {
		return map[string]any{"kind": "entry", "entry": "opacity-of-a", "value": v}
	}
	by("ann", "/operations", "anns-one--", map[string]any{"base": 0, "op": entry(90)}, 200)
	by("ann", "/operations", "anns-two--", map[string]any{"base": 1, "op": entry(20)}, 200)
	h.act(id, "most-it-01", 1, map[string]any{"kind": "batch", "ops": []map[string]any{{"kind": "default", "entry": "opacity-of-a", "value": 40}, {"kind": "put", "path": "entries/opacity-of-a/max", "part": 50}}}, 200)
	h.post("/api/drafts/"+id+"/release", map[string]any{}, 200)
	by("bob", "/move", "bobs-move-", map[string]any{"base": 2, "to": 2}, 200)
	said := by("ann", "/undo", "anns-undo-", map[string]any{}, 422)
	if got := fmt.Sprint(said["detail"]); !strings.Contains(got, "90 is outside 0 to 50") {
		t.Errorf("taken back: %s", got)
	}
	if v := h.json("GET", "/api/pieces/"+h.piece, nil, 200); v["revision"] != 3.0 {
		t.Error("something was changed")
	}
	by("bob", "/undo", "bobs-undo-", map[string]any{}, 200)
	by("ann", "/undo", "anns-undo2", map[string]any{}, 200)
}
