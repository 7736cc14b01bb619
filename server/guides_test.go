package server

import (
	"fmt"
	"strings"
	"testing"

	"ivypocket/core/guides"
	"ivypocket/media/mediatest"
)

// Guides are laid on the canvas that is asked for; own sets are kept, changed by whoever saw
// them last, and removed; ready-made ones stay. What a set shows is not cleared away.
func TestGuidesAreKept(t *testing.T) {
	h := build(t, t.TempDir())
	at := func(w, hgt int) map[string]map[string]any {
		t.Helper()
		out := map[string]map[string]any{}
		for _, s := range h.json("GET", fmt.Sprintf("/api/guides?width=%d&height=%d", w, hgt), nil, 200)["sets"].([]any) {
			set := s.(map[string]any)
			out[set["id"].(string)] = set
		}
		return out
	}
	first := at(1920, 1080)
	if len(first) != len(guides.ReadyMade()) {
		t.Errorf("%d sets are there", len(first))
	}
	box := func(set map[string]any, i int) string {
		return fmt.Sprint(set["laid"].(map[string]any)["marks"].([]any)[i].(map[string]any)["box"])
	}
	if got := box(first["r95"], 0); got != "[67 38 1853 1042]" { // EBU R 95: 3.5 %
		t.Errorf("action-safe is %s", got)
	}
	tall := guides.Ready("feed-tall")
	mine := *tall
	mine.Of, mine.Name = tall.ID, "Our feed"
	mine.Marks = append([]guides.Mark{}, tall.Marks...)
	mine.Marks[0].Box[1] = 0.2
	hash := h.upload("Chalk.jpg", mediatest.JPEG(t, mediatest.Quarters(320, 240), 0))
	mine.Still = &guides.Still{Media: hash, Fade: 0.5}
	put := func(id string, revision int, set guides.Set, status int) map[string]any {
		t.Helper()
		return h.json("PUT", "/api/guides/"+id, map[string]any{"revision": revision, "set": set}, status)
	}
	if got := put("ours", 0, mine, 200)["revision"]; got != 1.0 {
		t.Errorf("it is at %v", got)
	}
	s := at(1080, 1920)["ours"]
	if s["name"] != "Our feed" || s["stillName"] != "Chalk.jpg" || fmt.Sprint(s["moved"]) != "[free]" || !strings.Contains(box(s, 0), " 384 ") {
		t.Errorf("%v", s)
	}
	if got := put("ours", 0, mine, 409)["detail"]; !strings.Contains(fmt.Sprint(got), "changed meanwhile") {
		t.Errorf("two at once: %v", got)
	}
	mine.Name = "Theirs"
	put("ours", 1, mine, 200)
	put("r95", 0, mine, 422)
	mine.Still = &guides.Still{Media: "sha256:" + strings.Repeat("0", 64), Fade: 1}
	put("more", 0, mine, 422)
	mine.Still, mine.Fade = nil, 7
	if got := put("more", 0, mine, 422)["detail"]; !strings.Contains(fmt.Sprint(got), "fade: 7 is outside") {
		t.Errorf("too strong: %v", got)
	}
	dropped := func(path string, status int) {
		t.Helper()
		if res, b := h.do("DELETE", path, nil); res.StatusCode != status {
			t.Errorf("%s: %d %s", path, res.StatusCode, b)
		}
	}
	used, err := h.store.Referred(t.Context(), false)
	if err != nil || !used[hash] {
		t.Errorf("its picture would be cleared away: %v", err)
	}
	dropped("/api/guides/ours?revision=1", 409)
	dropped("/api/guides/ours?revision=2", 204)
	dropped("/api/guides/ours?revision=2", 404)
	if _, ok := at(1080, 1920)["ours"]; ok {
		t.Error("it is there yet")
	}
}
