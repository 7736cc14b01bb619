package server

import (
	"encoding/json"
	"net/url"
	"slices"
	"testing"
)

// While a formula is written it is told what it needs, reads and comes to, what may stand at the
// caret, what is wrong and how to mend it; what reads a value; and what a value may be taken from.
func TestFormulasOverHTTP(t *testing.T) {
	h := build(t, t.TempDir())
	draft := h.start(map[string]any{"template": "two-tides"})
	at := "/api/drafts/" + draft
	tell := func(path, text string, caret int) (v FormulaView) {
		t.Helper()
		res, b := h.do("POST", at+"/formula", map[string]any{"path": path, "text": text, "caret": caret, "format": "landscape", "frame": 10})
		if err := json.Unmarshal(b, &v); err != nil || res.StatusCode != 200 {
			t.Fatalf("%s: %d %s", text, res.StatusCode, b)
		}
		return v
	}
	v := tell("layers/mark/turn", "canvas.w / 64 * 1 + layer('ground').opacity * 2", -1)
	if v.Fault != "" || v.Needs != "degrees" || v.Yields != "32°" || len(v.Parts) != 2 || v.Parts[0].Value != "1920 px" || v.Parts[1].Called != "opacity of Backing" || v.Parts[1].Layer != "ground" || v.Parts[1].Value != "1" {
		t.Errorf("%+v", v)
	}
	if v = tell("layers/mark/turn", "canvas.w", -1); v.Fault == "" || v.Mend == nil || v.Mend.With != "(canvas.w) * 1" || v.To != 8 {
		t.Errorf("%+v", v)
	}
	if v = tell("layers/mark/turn", "layer('grou", 11); len(v.Names) == 0 || v.Names[0].Text != "layer('ground')." || v.Names[0].From != 0 || v.Names[0].To != 11 {
		t.Errorf("names %+v", v.Names)
	}
	if v = tell("layers/mark/turn", "", -1); len(v.Examples) == 0 || len(v.Takes) != 5 {
		t.Errorf("%+v", v)
	}
	h.act(draft, "take-one-1", 0, map[string]any{"kind": "take", "format": "landscape", "frame": 10, "path": "layers/mark/turn", "id": "layers/ground/opacity", "way": "along"}, 200)
	if v = tell("layers/ground/opacity", "", -1); len(v.ReadBy) != 1 || v.ReadBy[0].Path != "layers/mark/turn" {
		t.Errorf("read by %+v", v.ReadBy)
	}
	if v = tell("layers/ground/opacity", "layer('mark').turn * 1", -1); len(v.Ring) != 3 || v.Ring[0].Path != v.Ring[2].Path {
		t.Errorf("ring %+v", v.Ring)
	}
	sources := func(path, layer string) (out []string) {
		t.Helper()
		res, b := h.do("GET", at+"/sources?format=landscape&frame=10&path="+url.QueryEscape(path)+"&layer="+layer, nil)
		var list []SourceView
		if err := json.Unmarshal(b, &list); err != nil || res.StatusCode != 200 {
			t.Fatalf("%d %s", res.StatusCode, b)
		}
		for _, s := range list {
			out = append(out, s.Path)
		}
		return out
	}
	if s := sources("layers/mark/size.x", "mark"); !slices.Contains(s, "layers/mark/size.y") || slices.Contains(s, "layers/mark/size.x") || slices.Contains(s, "layers/mark/box.left") {
		t.Errorf("of the mark %v", s)
	}
	// What reads it already would read it in a circle.
	if s := sources("layers/ground/opacity", "mark"); slices.Contains(s, "layers/mark/turn") || !slices.Contains(s, "layers/mark/opacity") {
		t.Errorf("of the mark %v", s)
	}
	if s := sources("layers/ground/fill", ""); !slices.ContainsFunc(s, func(p string) bool { return len(p) > 8 && p[:8] == "colours/" }) {
		t.Errorf("for a colour %v", s)
	}
	if s := sources("layers/mark/turn", ""); !slices.Contains(s, "time.seconds") || !slices.Contains(s, "canvas.w") {
		t.Errorf("of nothing %v", s)
	}
	// Formulas don't read what stands inside uses of motifs: nothing there is offered, and nothing taken.
	h.act(draft, "group-left-1", 1, map[string]any{"kind": "group", "layers": []string{"left"}}, 200)
	h.act(draft, "motif-left-1", 2, map[string]any{"kind": "motif", "layers": []string{"group"}, "name": "Pad"}, 200)
	if s := sources("layers/mark/size.x", "group:left"); len(s) > 0 {
		t.Errorf("of a layer inside a use %v", s)
	}
	h.act(draft, "take-in-use1", 3, map[string]any{"kind": "take", "format": "landscape", "frame": 10, "path": "layers/mark/size.x", "id": "layers/group:left/opacity", "way": "along"}, 422)
	if res, _ := h.do("POST", at+"/formula", map[string]any{"path": "layers/none/turn", "text": "1", "caret": -1, "format": "landscape", "frame": 0}); res.StatusCode != 422 && res.StatusCode != 400 {
		t.Errorf("of a layer that is not there: %d", res.StatusCode)
	}
}
