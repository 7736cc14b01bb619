package server

import (
	"slices"
	"strings"
	"testing"
	"time"
)

func (h *house) shelf(deleted bool) []ShelfItem { return listed[ShelfItem](h, "/api/shelf", deleted) }

func called(items []ShelfItem) (out []string) {
	for _, t := range items {
		out = append(out, t.Name)
	}
	slices.Sort(out)
	return out
}

// A template on the shelf is called otherwise and filed elsewhere; its pieces and what
// is released again stay as they are, and a draft of it begins with its name.
func TestTemplatesAreRenamedAndFiled(t *testing.T) {
	h := filled(t)
	h.json("PUT", "/api/templates/two-tides", map[string]any{"name": " Ebb and flow ", "category": "Harbour"}, 204)
	it := h.shelf(false)[0]
	if it.Name != "Ebb and flow" || it.Category != "Harbour" || it.Family != "" || it.ID != "two-tides" || it.Release != 1 {
		t.Errorf("%+v", it)
	}
	if p := h.pieces(false)[0]; p.Of != "Ebb and flow" || p.Category != "Harbour" {
		t.Errorf("%+v", p)
	}
	// The same release once more, as when the demo is begun again, changes no name.
	d, err := h.store.Document(t.Context(), "two-tides", 1)
	if err != nil {
		t.Fatal(err)
	}
	if n, err := h.store.Release(t.Context(), d); err != nil || n != 1 || h.shelf(false)[0].Name != "Ebb and flow" {
		t.Errorf("release %d is called %q, %v", n, h.shelf(false)[0].Name, err)
	}
	v := h.post("/api/templates/two-tides/open?new=true", nil, 200)
	if v["name"] != "Ebb and flow" || v["template"].(map[string]any)["name"] != "Ebb and flow" {
		t.Errorf("a piece of it is called %v, of %v", v["name"], v["template"].(map[string]any)["name"])
	}
	id := h.start(map[string]any{"template": "two-tides"})
	if v := h.json("GET", "/api/drafts/"+id, nil, 200); v["name"] != "Ebb and flow" || v["category"] != "Harbour" {
		t.Errorf("the draft is %v in %v", v["name"], v["category"])
	}
	for _, bad := range []map[string]any{{"name": " "}, {"name": "a\nb"}, {"name": ""}, {"name": "A", "family": "b\u202e"}} {
		h.json("PUT", "/api/templates/two-tides", bad, 422)
	}
	h.json("PUT", "/api/templates/nobody", map[string]any{"name": "A"}, 404)
}

// Templates are copied beside themselves, put in the bin and taken out; pieces of one in
// the bin go on, and it is forgotten when nothing is made of it any more.
func TestTemplatesAreCopiedBinnedAndTakenOut(t *testing.T) {
	h := filled(t)
	made := h.post("/api/templates/two-tides/copy", nil, 200)
	again := h.post("/api/templates/two-tides/copy", nil, 200)
	if made["name"] != "Two Tides 2" || made["id"] != "two-tides-2" || again["id"] != "two-tides-3" {
		t.Errorf("%v, %v", made, again)
	}
	if got := called(h.shelf(false)); !slices.Equal(got, []string{"Two Tides", "Two Tides 2", "Two Tides 3"}) {
		t.Errorf("%q", got)
	}
	ids := map[string]any{"ids": []string{"two-tides", "two-tides-2", "nobody"}}
	if got := h.post("/api/templates/delete", ids, 200)["ids"].([]any); len(got) != 2 {
		t.Errorf("%v", got)
	}
	if a, b := called(h.shelf(false)), called(h.shelf(true)); len(a) != 1 || !slices.Equal(b, []string{"Two Tides", "Two Tides 2"}) {
		t.Errorf("on the shelf %q, in the bin %q", a, b)
	}
	h.post("/api/templates/two-tides/open", nil, 410)
	h.json("PUT", "/api/templates/two-tides", map[string]any{"name": "A"}, 404)
	h.post("/api/drafts", map[string]any{"template": "two-tides"}, 410)
	if p := h.pieces(false)[0]; p.Of != "Two Tides" {
		t.Errorf("its piece is of %q", p.Of)
	}
	h.json("GET", "/api/pieces/"+h.piece, nil, 200)
	// Nothing is made of the copy: it goes for good, the other stays in the bin.
	if _, err := h.store.Forget(t.Context(), time.Now().Add(-time.Hour)); err != nil || len(h.shelf(true)) != 2 {
		t.Errorf("within their time %q are in the bin, %v", called(h.shelf(true)), err)
	}
	if _, err := h.store.Forget(t.Context(), time.Now()); err != nil || !slices.Equal(called(h.shelf(true)), []string{"Two Tides"}) {
		t.Errorf("%q are in the bin, %v", called(h.shelf(true)), err)
	}
	h.json("GET", "/api/pieces/"+h.piece, nil, 200)
	h.post("/api/templates/delete", map[string]any{"ids": []string{"two-tides", "two-tides-2"}, "back": true}, 200)
	if got := strings.Join(called(h.shelf(false)), ", "); got != "Two Tides, Two Tides 3" {
		t.Errorf("%s", got)
	}
}
