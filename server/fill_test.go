package server

import (
	"bytes"
	"encoding/json"
	"fmt"
	"image"
	"os"
	"os/exec"
	"slices"
	"strings"
	"testing"
	"time"

	"ivypocket/media/mediatest"
	"ivypocket/store"
)

// shelved makes a template of a purpose with all its pockets on the sheet, and releases it.
func (h *house) shelved(name, purpose string) (id string) {
	h.t.Helper()
	d := h.post("/api/drafts", map[string]any{"start": map[string]any{"name": name, "category": "Frames", "rate": "25", "frames": 50, "purpose": purpose, "canvases": [][2]int{{1920, 1080}, {1080, 1920}}}}, 200)
	base := 0
	for _, k := range d["pockets"].([]any) {
		h.act(d["id"].(string), fmt.Sprintf("offer-%s-%d", name, base), base, map[string]any{"kind": "offer", "paths": []string{"pockets/" + k.(map[string]any)["id"].(string)}}, 200)
		base++
	}
	return h.post("/api/drafts/"+d["id"].(string)+"/release", map[string]any{}, 200)["id"].(string)
}

// A clip goes into the frame that is made for one and gives it canvas, rate and length; the
// render is the clip's size and speed, as ffprobe and the PNG's own header have it.
func TestAClipGivesItsMeasureToAFrame(t *testing.T) {
	h := build(t, t.TempDir())
	frame, gust := h.shelved("Hem", "frame"), h.shelved("Turn", "transition")
	clip := h.upload("Gulls.mp4", mediatest.Clip(t, 640, 480, "50", 75))
	still := h.upload("Dunes.jpg", mediatest.JPEG(t, mediatest.Quarters(320, 240), 0))
	fits := func(media ...string) (out []FitView) {
		t.Helper()
		_, b := h.do("GET", "/api/fits?media="+strings.Join(media, "&media="), nil)
		if err := json.Unmarshal(b, &out); err != nil {
			t.Fatalf("%s", b)
		}
		return out
	}
	one, two := fits(clip), fits(clip, still)
	if len(one) != 3 || one[0].ID != frame || one[0].Measure != "640 × 480 at 50, 75 frames" || one[0].Left != 0 {
		t.Errorf("%+v", one)
	}
	if len(two) != 2 || two[0].ID != gust || !slices.Equal(two[0].Pockets, []string{"Clip A", "Clip B"}) || two[1].Pockets[0] != "Flood" && two[1].Pockets[0] != "Flood tide" {
		t.Errorf("%+v", two)
	}
	done := func(path string, body any) PieceView {
		t.Helper()
		res, b := h.do("POST", path, body)
		var v DoneView
		if err := json.Unmarshal(b, &v); err != nil || res.StatusCode != 200 {
			t.Fatalf("%d %s", res.StatusCode, b)
		}
		return v.Piece
	}
	p := done("/api/templates/"+frame+"/fill", map[string]any{"media": []string{clip}})
	// 4:3 on a canvas of 16:9, which grows along one side: 1920 is kept, 1920 / 4 · 3 = 1440.
	if f := p.Template.Formats[0]; p.Measured != "clip" || p.Made != p.Template.Formats[0].ID || p.RateN != 50 || p.RateD != 1 || p.Frames != 75 || f.Width != 1920 || f.Height != 1440 || f.Px != [2]int{640, 480} || p.Undo != "Fill with Gulls.mp4" {
		t.Errorf("%+v, %d frames at %d/%d, undo %q", p.Template.Formats, p.Frames, p.RateN, p.RateD, p.Undo)
	}
	if len(p.Faults) > 0 || p.Pockets[0].Media != clip {
		t.Errorf("%+v", p)
	}
	// Every frame of the clip is seen once, so that all addresses differ.
	seen := map[string]bool{}
	for _, a := range h.framesOf("pieces/"+p.ID, p.Template.Formats[0].ID, 160, 120) {
		seen[a] = true
	}
	if len(seen) != 75 {
		t.Errorf("%d pictures of 75 frames", len(seen))
	}
	render := func(kind string) (file string) {
		t.Helper()
		r := h.post("/api/renders", map[string]any{"piece": p.ID, "format": p.Template.Formats[0].ID, "kind": kind}, 200)
		for end := time.Now().Add(60 * time.Second); ; time.Sleep(20 * time.Millisecond) {
			row, err := h.store.Render(t.Context(), r["id"].(string))
			if err != nil || row.State == store.Failed || time.Now().After(end) {
				t.Fatalf("%+v %v", row, err)
			}
			if row.State == store.Done {
				break
			}
		}
		return h.srv.renderPath(r["id"].(string), kind)
	}
	png, err := os.ReadFile(render("png"))
	if err != nil {
		t.Fatal(err)
	}
	if cfg, _, err := image.DecodeConfig(bytes.NewReader(png)); err != nil || cfg.Width != 640 || cfg.Height != 480 {
		t.Errorf("%+v %v", cfg, err)
	}
	out, err := exec.Command("ffprobe", "-v", "error", "-count_frames", "-show_entries", "stream=width,height,r_frame_rate,nb_read_frames", "-of", "csv=p=0", render("mp4")).Output()
	if got := strings.TrimSpace(string(out)); err != nil || got != "640,480,50/1,75" {
		t.Errorf("%q %v", got, err)
	}
	// As the template is, and to measure again; each is one change.
	back := done("/api/pieces/"+p.ID+"/measure", map[string]any{"id": "as-it-was", "base": p.Revision, "back": true})
	if back.Measured != "" || back.Made != "" || back.Frames != 50 || back.RateN != 25 || back.Template.Formats[0].Px != [2]int{1920, 1080} || back.Pockets[0].Media != clip {
		t.Errorf("%+v", back)
	}
	again := done("/api/pieces/"+p.ID+"/measure", map[string]any{"id": "as-the-clip", "base": back.Revision})
	if again.Measured != "clip" || again.Frames != 75 || again.Template.Formats[0].Px != [2]int{640, 480} {
		t.Errorf("%+v", again)
	}
	if undone := done("/api/pieces/"+p.ID+"/undo", map[string]any{"id": "undo-it-now"}); undone.Measured != "" || undone.Frames != 50 {
		t.Errorf("%+v", undone)
	}
	// A picture in it gives its canvas; what is no frame, or empty, is refused in words.
	if q := done("/api/templates/"+frame+"/fill", map[string]any{"media": []string{still}}); q.RateN != 25 || q.Frames != 50 || q.Template.Formats[0].Px != [2]int{320, 240} {
		t.Errorf("%+v", q)
	}
	for path, want := range map[string]string{"/api/pieces/" + h.piece + "/measure": "not put around a clip"} {
		if res, b := h.do("POST", path, map[string]any{"id": "measure-it", "base": 0}); res.StatusCode != 422 || !strings.Contains(string(b), want) {
			t.Errorf("%d %s", res.StatusCode, b)
		}
	}
	for _, media := range [][]string{{clip, clip, clip}, {"sha256:" + strings.Repeat("0", 64)}} {
		if res, b := h.do("POST", "/api/templates/"+frame+"/fill", map[string]any{"media": media}); res.StatusCode != 422 {
			t.Errorf("%d %s", res.StatusCode, b)
		}
	}
	// Two clips go to A and B.
	if q := done("/api/templates/"+gust+"/fill", map[string]any{"media": []string{clip, still}}); q.Measured != "" || q.Frames != 50 || q.Pockets[0].Media != clip || q.Pockets[1].Media != still {
		t.Errorf("%+v", q.Pockets)
	}
}
