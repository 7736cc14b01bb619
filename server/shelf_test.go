package server

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"testing"
)

func (h *house) pieces(deleted bool) []PieceItem { return listed[PieceItem](h, "/api/pieces", deleted) }

// listed is a list of the server's, or what of it was deleted.
func listed[T any](h *house, path string, deleted bool) (out []T) {
	h.t.Helper()
	if deleted {
		path += "?deleted=true"
	}
	_, b := h.do("GET", path, nil)
	if err := json.Unmarshal(b, &out); err != nil {
		h.t.Fatalf("%s: %v", b, err)
	}
	return out
}

func namesOf(items []PieceItem) (out []string) {
	for _, p := range items {
		out = append(out, p.Name)
	}
	slices.Sort(out)
	return out
}

// Pieces are listed, duplicated under a name that is free, deleted and brought
// back; whoever has one open hears of it.
func TestPiecesAreListedDuplicatedDeletedAndBroughtBack(t *testing.T) {
	h := filled(t)
	news := h.srv.hub.listen()
	defer h.srv.hub.leave(news)
	h.op("other-name", 2, map[string]any{"kind": "name", "name": "Spring 2024"}, 200)
	var ids []string
	for range 3 {
		ids = append(ids, h.post("/api/pieces/"+h.piece+"/duplicate", nil, 200)["id"].(string))
	}
	// The last of a row is copied: the number goes on; a year is no such number.
	h.post("/api/pieces/"+ids[2]+"/duplicate", nil, 200)
	want := []string{"Spring 2024", "Spring 2024 2", "Spring 2024 3", "Spring 2024 4", "Spring 2024 5"}
	all := h.pieces(false)
	if got := namesOf(all); !slices.Equal(got, want) {
		t.Errorf("%q", got)
	}
	if p := all[0]; p.Of != "Two Tides" || p.Template != "two-tides" || p.Release != 1 || p.Rendered != "" || p.Since || p.Category == "" || p.Created == "" {
		t.Errorf("%+v", p)
	}
	if fills := h.json("GET", "/api/pieces/"+ids[0], nil, 200)["pockets"].([]any)[0].(map[string]any); fills["standIn"] == true {
		t.Errorf("what lay in the pockets was not copied: %v", fills)
	}

	got := h.post("/api/pieces/delete", map[string]any{"ids": []string{ids[0], ids[1], "nobody"}}, 200)
	if n := len(got["ids"].([]any)); n != 2 {
		t.Errorf("%v", got)
	}
	if a, b := namesOf(h.pieces(false)), namesOf(h.pieces(true)); len(a) != 3 || !slices.Equal(b, []string{"Spring 2024 2", "Spring 2024 3"}) {
		t.Errorf("there are %q, deleted %q", a, b)
	}
	res, b := h.do("GET", "/api/pieces/"+ids[0], nil)
	if res.StatusCode != 410 || res.Header.Get("Cache-Control") != "no-store" || !strings.Contains(string(b), "brought back") {
		t.Errorf("%d %s", res.StatusCode, b)
	}
	h.json("POST", "/api/pieces/"+ids[0]+"/operations", map[string]any{"id": "too-late-1", "base": 0, "op": map[string]any{"kind": "name", "name": "X"}}, 410)
	h.json("POST", "/api/renders", map[string]any{"piece": ids[0], "format": "landscape", "kind": "png"}, 410)
	var told []string
	for len(news) > 0 {
		if e := <-news; e.Type == "piece" && e.State != "" {
			told = append(told, e.State+" "+e.ID)
		}
	}
	if !slices.Equal(told, []string{"deleted " + ids[0], "deleted " + ids[1]}) {
		t.Errorf("told %v", told)
	}
	h.post("/api/pieces/delete", map[string]any{"ids": ids[:2], "back": true}, 200)
	if got := namesOf(h.pieces(false)); !slices.Equal(got, want) {
		t.Errorf("%q", got)
	}
	// A name that became free is given again.
	h.post("/api/pieces/delete", map[string]any{"ids": ids[:1]}, 200)
	if p := h.post("/api/pieces/"+h.piece+"/duplicate", nil, 200); p["name"] != "Spring 2024 2" {
		t.Errorf("%v", p["name"])
	}
}

// A single picture is made while a film is, and the list says when a piece was
// rendered and that it was changed since.
func TestAPictureDoesNotWaitBehindFilms(t *testing.T) {
	h := filled(t)
	ask := func(kind string, w, ht int) string {
		t.Helper()
		return h.post("/api/renders", map[string]any{"piece": h.piece, "format": "landscape", "kind": kind, "width": w, "height": ht}, 200)["id"].(string)
	}
	film, next := ask("mp4", 1920, 1080), ask("mp4", 1920, 1080)
	h.wait("the first frames", func() bool { return h.render(film).Done > 0 })
	picture := ask("png", 320, 180)
	h.wait("the picture", func() bool { return h.render(picture).State == "done" })
	if a, b := h.render(film).State, h.render(next).State; a != "running" || b != "queued" {
		t.Errorf("the films are %s and %s", a, b)
	}
	if p := h.pieces(false)[0]; p.Rendered == "" || p.Since {
		t.Errorf("%+v", p)
	}
	h.op("other-name", 2, map[string]any{"kind": "name", "name": "Ebb"}, 200)
	if p := h.pieces(false)[0]; p.Name != "Ebb" || p.Rendered == "" || !p.Since {
		t.Errorf("%+v", p)
	}
	// What waits or runs is not cleared.
	got := h.post("/api/renders/clear", map[string]any{"ids": []string{film, next, picture}}, 200)
	if ids := got["ids"].([]any); len(ids) != 1 || ids[0] != picture || got["bytes"].(float64) <= 0 {
		t.Errorf("%v", got)
	}
	h.post("/api/renders/"+next+"/cancel", nil, 204)
	h.post("/api/renders/"+film+"/cancel", nil, 204)
	h.wait("the end", func() bool { return h.render(film).State == "cancelled" })
	got = h.post("/api/renders/clear", map[string]any{"ids": []string{film, next, picture}}, 200)
	if ids := got["ids"].([]any); len(ids) != 2 {
		t.Errorf("%v", got)
	}
	if _, b := h.do("GET", "/api/renders", nil); string(b) != "[]\n" {
		t.Errorf("%s", b)
	}
	if p := h.pieces(false)[0]; p.Rendered == "" {
		t.Error("with its renders it is forgotten that the piece was rendered")
	}
}

// The next piece like one has its values, a name of its own, and nothing in its pockets.
func TestTheNextPieceOverHTTP(t *testing.T) {
	h := filled(t)
	h.op("border-one", 2, map[string]any{"kind": "entry", "entry": "border", "value": 33}, 200)
	next := h.post("/api/pieces/"+h.piece+"/duplicate?next=true", nil, 200)
	v := h.json("GET", "/api/pieces/"+next["id"].(string), nil, 200)
	for _, p := range v["pockets"].([]any) {
		if p.(map[string]any)["standIn"] != true {
			t.Errorf("the next one is filled: %v", p)
		}
	}
	if got := fmt.Sprint(v["sheet"]); next["name"] != "Two Tides 2" || !strings.Contains(got, "value:33") {
		t.Errorf("the next one is %v with %s", next["name"], got)
	}
}
