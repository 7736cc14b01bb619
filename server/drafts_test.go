package server

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"

	"ivypocket/media/mediatest"
)

// start begins a draft and returns its id.
func (h *house) start(body map[string]any) string {
	h.t.Helper()
	return h.post("/api/drafts", body, 200)["id"].(string)
}

// act carries an act out on a draft and returns what the bench is told.
func (h *house) act(draft, id string, base int, op map[string]any, status int) map[string]any {
	h.t.Helper()
	return h.post("/api/drafts/"+draft+"/operations", map[string]any{"id": id, "base": base, "op": op}, status)
}

func blank(name string) map[string]any {
	return map[string]any{"start": map[string]any{"name": name, "rate": "30000/1001", "frames": 60, "canvases": [][]int{{1280, 720}, {720, 1280}}}}
}

// A draft is begun, changed, undone, gone back in and looked at; every window hears of
// it, and sending an operation again does nothing.
func TestDraftsOverHTTP(t *testing.T) {
	h := filled(t)
	news := h.srv.hub.listen()
	defer h.srv.hub.leave(news)
	id := h.start(blank("Harbour"))
	v := h.json("GET", "/api/drafts/"+id, nil, 200)
	if v["rateN"] != 30000.0 || v["purpose"] != "stand-alone" || len(v["formats"].([]any)) != 2 || len(v["lacks"].([]any)) == 0 {
		t.Errorf("%v", v)
	}
	split := map[string]any{"kind": "split", "format": "landscape", "to": []int{2, 2}, "numbers": map[string]any{"gutter": 6}, "middle": true}
	done := h.act(id, "split-it-1", 0, split, 200)
	if done["title"] != "Split into 4" || len(done["chosen"].([]any)) != 4 {
		t.Errorf("%v, %v", done["title"], done["chosen"])
	}
	if again := h.act(id, "split-it-1", 0, split, 200); again["draft"].(map[string]any)["revision"] != 1.0 {
		t.Errorf("sent again, it is at revision %v", again["draft"].(map[string]any)["revision"])
	}
	// A stand-in must be in the store and of a kind that the pocket takes.
	pic := h.upload("c.jpg", mediatest.JPEG(t, mediatest.Quarters(320, 240), 0))
	h.act(id, "fill-it-01", 1, map[string]any{"kind": "fill", "pocket": "top-left-pocket", "media": "sha256:" + strings.Repeat("0", 64)}, 422)
	d := h.act(id, "fill-it-02", 1, map[string]any{"kind": "fill", "pocket": "top-left-pocket", "media": pic}, 200)["draft"].(map[string]any)
	if p := d["pockets"].([]any)[0].(map[string]any); p["media"] != pic || p["mediaName"] != "c.jpg" {
		t.Errorf("%v", p)
	}
	// What an act can't do is said with its reason, and nothing is kept.
	for op, want := range map[string]string{
		`{"kind": "place", "layers": ["top-left"], "to": [5, 5], "format": "landscape"}`: "the cell of the layout",
		`{"kind": "group", "layers": [], "format": "landscape"}`:                         "none is selected",
		`{"kind": "sing"}`: "is not one of",
		`{"kind": "insert", "way": "song", "format": "landscape"}`:                                     "is not a kind of layers",
		`{"kind": "set", "path": "layers/backing/fill", "value": "red"}`:                               "is not a colour",
		`{"kind": "insert", "way": "shape", "path": "star", "format": "round"}`:                        "no format named",
		`{"kind": "batch", "ops": [{"kind": "batch"}]}`:                                                "ops[0]",
		`{"kind": "format-add", "to": [15, 99], "format": "landscape"}`:                                "even sides",
		`{"kind": "describe", "path": "name", "name": "  "}`:                                           "is missing",
		`{"kind": "time", "name": "fast"}`:                                                             "name: ",
		`{"kind": "remove", "path": "pockets/top-left-pocket"}`:                                        "no pocket named",
		`{"kind": "insert", "way": "picture", "media": "` + h.clipHash() + `", "format": "landscape"}`: "is no picture",
	} {
		var body map[string]any
		if err := json.Unmarshal([]byte(op), &body); err != nil {
			t.Fatal(err)
		}
		if got := h.act(id, fmt.Sprintf("refused-%d", len(op)), 2, body, 422); !strings.Contains(fmt.Sprint(got), want) {
			t.Errorf("%s: %v, want %q", op, got["detail"], want)
		}
	}
	h.post("/api/drafts/"+id+"/undo", map[string]any{"id": "undo-it-01"}, 200)
	back := h.post("/api/drafts/"+id+"/back", map[string]any{"id": "back-to-01", "base": 3, "revision": 0}, 200)
	if d := back["draft"].(map[string]any); len(d["layers"].([]any)) != 0 || d["revision"] != 4.0 {
		t.Errorf("back at the beginning: %v", d["revision"])
	}
	h.json("PUT", "/api/author", map[string]any{"name": "  Ann\u202e  of the quay "}, 200)
	_, b := h.do("GET", "/api/drafts/"+id+"/history", nil)
	var past []PastView
	if err := json.Unmarshal(b, &past); err != nil || len(past) != 4 || past[0].Title != "Go back to the beginning" || past[0].Who != "Ann of the quay" || !past[0].Mine || past[3].Title != "Split into 4" {
		t.Errorf("%v: %s", err, b)
	}
	heard := 0
	for len(news) > 0 {
		if e := <-news; e.Type == "draft" && e.ID == id {
			heard++
		}
	}
	if heard != 4 {
		t.Errorf("%d of 4 changes were told", heard)
	}
	// An editor can't do any of it: a piece knows no acts, and no template's own values.
	h.op("not-an-act-1", 2, split, 422)
	h.op("not-an-act-2", 2, map[string]any{"kind": "set", "path": "layouts/tides/rows", "value": []int{1, 1}}, 422)
}

// clipHash is the clip in the house's piece.
func (h *house) clipHash() string {
	for _, p := range h.json("GET", "/api/pieces/"+h.piece, nil, 200)["pockets"].([]any) {
		if p := p.(map[string]any); p["id"] == "ebb" {
			return p["media"].(string)
		}
	}
	return ""
}

// What a drag shows is what it comes to, and nothing is kept of it.
func TestWhatADragShowsIsWhatItComesTo(t *testing.T) {
	h := build(t, t.TempDir())
	id := h.start(blank("Drag"))
	h.act(id, "add-panel1", 0, map[string]any{"kind": "insert", "way": "shape", "path": "rectangle", "format": "landscape", "from": []int{100, 100}, "to": []int{300, 200}}, 200)
	drag := map[string]any{"kind": "place", "layers": []string{"panel"}, "from": []int{150, 150}, "to": []int{586, 357}, "snap": 8, "format": "landscape"}
	res, b := h.do("POST", "/api/drafts/"+id+"/preview", map[string]any{"op": drag, "format": "landscape", "frame": 0, "width": 640, "height": 360})
	facts := previewFacts{}
	if err := json.Unmarshal(parted(t, res, b)["facts"], &facts); err != nil {
		t.Fatal(err)
	}
	if x := facts.Outlines[0].Box; x.X != 540 || x.Y != 310 || len(facts.Guides) != 2 {
		t.Errorf("shown at %v, %v", x, facts.Guides)
	}
	if v := h.json("GET", "/api/drafts/"+id, nil, 200); v["revision"] != 1.0 {
		t.Error("what was shown was kept")
	}
	h.act(id, "drag-it-01", 1, drag, 200)
	place := func() string {
		for _, p := range h.json("GET", "/api/drafts/"+id+"/layers/panel?format=landscape&frame=0", nil, 200)["properties"].([]any) {
			if p := p.(map[string]any); p["name"] == "place" {
				return fmt.Sprint(p["rest"])
			}
		}
		return ""
	}
	if got := place(); got != "[0 0]" {
		t.Errorf("it came to %s", got)
	}
}

// A document is dropped and saved without loss; media that it lacks is named, and the
// stage shows the rest; hostile files are refused with their reason.
func TestDocumentsAreDroppedAndSaved(t *testing.T) {
	h := build(t, t.TempDir())
	lost := "sha256:" + strings.Repeat("ab", 32)
	doc := fmt.Sprintf(`{"ivypocket": 3, "kind": "template", "id": "t", "name": "Lost & found", "category": "", "rate": "25", "frames": 10,
		"formats": [{"id": "l", "name": "L", "width": 320, "height": 180}], "pockets": [{"id": "p", "name": "Bow", "kinds": ["picture"], "standIn": {"media": %q}}],
		"layers": [{"id": "v", "name": "V", "kind": "view", "pocket": "p"}, {"id": "s", "name": "S", "kind": "shape", "fill": "#ffffff", "size": [10, 10]}], "media": [{"hash": %q, "name": "bow.jpg", "kind": "picture"}]}`, lost, lost)
	res, b := h.do("POST", "/api/drafts/document", []byte(doc))
	if res.StatusCode != 201 {
		t.Fatalf("%d %s", res.StatusCode, b)
	}
	var v DraftView
	if err := json.Unmarshal(b, &v); err != nil || len(v.Missing) != 1 || v.Missing[0].Name != "bow.jpg" || v.Missing[0].Where[0] != "pocket Bow" || len(v.Faults) != 0 {
		t.Errorf("%v: missing %+v, faults %v", err, v.Missing, v.Faults)
	}
	res, saved := h.do("GET", "/api/drafts/"+v.ID+"/document", nil)
	if !strings.Contains(res.Header.Get("Content-Disposition"), "Lost") || !strings.Contains(string(saved), lost) {
		t.Errorf("%s: %s", res.Header.Get("Content-Disposition"), saved)
	}
	res, b = h.do("POST", "/api/drafts/document", saved)
	if err := json.Unmarshal(b, &v); err != nil || res.StatusCode != 201 {
		t.Fatalf("%d %s", res.StatusCode, b)
	}
	if _, again := h.do("GET", "/api/drafts/"+v.ID+"/document", nil); string(again) != string(saved) {
		t.Errorf("saved again, it is another:\n%s", again)
	}
	deep := strings.Repeat(`{"layers": [`, 5000) + strings.Repeat(`]}`, 5000)
	for want, body := range map[string]string{
		"is not JSON":            `{"ivypocket": 3,`,
		"deeper than":            deep,
		"more than once":         strings.Replace(doc, `"id": "t"`, `"id": "t", "id": "u"`, 1),
		"newer than":             strings.Replace(doc, `"ivypocket": 3`, `"ivypocket": 99`, 1),
		"layers[1].size":         strings.Replace(doc, `"size": [10, 10]`, `"size": [1e99, 10]`, 1),
		"no pocket named":        strings.Replace(doc, `"pocket": "p"`, `"pocket": "q"`, 1),
		"goes in a circle":       strings.Replace(doc, `"size": [10, 10]`, `"follow": "s"`, 1),
		"fewer":                  doc + strings.Repeat(" ", 9<<20),
		"is not a JSON object":   `[]`,
		"more after its closing": doc + doc,
		"can't be seen (U+202E)": strings.Replace(doc, `"name": "V"`, `"name": "V\u202e"`, 1),
		"frames: 0 is outside":   strings.Replace(doc, `"frames": 10`, `"frames": 0`, 1),
	} {
		if res, b := h.do("POST", "/api/drafts/document", []byte(body)); res.StatusCode != 422 || !strings.Contains(string(b), want) {
			t.Errorf("%s: %d %.200s", want, res.StatusCode, b)
		}
	}
	if _, b := h.do("GET", "/api/drafts", nil); strings.Count(string(b), `"id"`) < 2 {
		t.Errorf("%s", b)
	}
}

// Drafts are listed, copied, put in the bin and taken out; a template of the shelf is
// begun from, and stays as it is.
func TestDraftsAreListedCopiedAndBroughtBack(t *testing.T) {
	h := build(t, t.TempDir())
	id := h.start(map[string]any{"template": "two-tides"})
	list := func(deleted bool) (out []DraftItem) {
		t.Helper()
		_, b := h.do("GET", fmt.Sprintf("/api/drafts?deleted=%v", deleted), nil)
		if err := json.Unmarshal(b, &out); err != nil {
			t.Fatal(err)
		}
		return out
	}
	if all := list(false); len(all) != 1 || all[0].From != "two-tides" || all[0].Layers != 4 || all[0].Pockets != 3 || all[0].Category != "Split screens" {
		t.Errorf("%+v", all)
	}
	if c := h.post("/api/drafts", map[string]any{"draft": id}, 200); c["name"] != "Two Tides 2" {
		t.Errorf("copied as %v", c["name"])
	}
	h.act(id, "rename-it1", 0, map[string]any{"kind": "describe", "path": "name", "name": "Ebb"}, 200)
	if _, b := h.do("GET", "/api/shelf", nil); !strings.Contains(string(b), `"name":"Two Tides"`) {
		t.Error("the template on the shelf has another name")
	}
	h.post("/api/drafts/delete", map[string]any{"ids": []string{id}}, 200)
	if a, b := list(false), list(true); len(a) != 1 || len(b) != 1 || b[0].Name != "Ebb" {
		t.Errorf("%v, deleted %v", a, b)
	}
	h.json("GET", "/api/drafts/"+id, nil, 410)
	h.act(id, "too-late-1", 1, map[string]any{"kind": "describe", "path": "name", "name": "X"}, 410)
	h.post("/api/drafts/delete", map[string]any{"ids": []string{id}, "back": true}, 200)
	h.json("GET", "/api/drafts/"+id, nil, 200)
	// A piece is no draft: it is not deleted as one.
	if got := h.post("/api/drafts/delete", map[string]any{"ids": []string{h.piece}}, 200); len(got["ids"].([]any)) != 0 {
		t.Errorf("%v", got)
	}
	h.json("GET", "/api/drafts/nobody", nil, 404)
	h.json("GET", "/api/drafts/"+h.piece, nil, 404)
	h.post("/api/drafts", map[string]any{}, 422)
	h.post("/api/drafts", map[string]any{"template": "nobody"}, 404)
}

// A window of very many outlines tells the first ones, and the others when they are asked
// for: nothing that is told grows with layers times frames.
func TestOutlinesOfManyLayersAreToldAsTheyAreAsked(t *testing.T) {
	h := build(t, t.TempDir())
	var layers []string
	for i := range 400 {
		layers = append(layers, fmt.Sprintf(`{"id": "y%d", "name": "Y", "kind": "shape", "fill": "#ffffff", "size": [10, 10], "motion": {"turn": {"keys": [{"at": 0, "value": 0}, {"at": 199, "value": 90}]}}}`, i))
	}
	res, b := h.do("POST", "/api/drafts/document", fmt.Appendf(nil, `{"ivypocket": 3, "kind": "template", "id": "t", "name": "T", "category": "", "rate": "25", "frames": 200,
		"formats": [{"id": "l", "name": "L", "width": 320, "height": 180}], "layers": [%s]}`, strings.Join(layers, ",")))
	var d DraftView
	if err := json.Unmarshal(b, &d); err != nil || res.StatusCode != 201 {
		t.Fatalf("%d %.300s", res.StatusCode, b)
	}
	window := func(from, count int) (frames, outlines int64) {
		t.Helper()
		_, b := h.do("GET", fmt.Sprintf("/api/drafts/%s/frames?format=l&width=320&height=180&from=%d&count=%d", d.ID, from, count), nil)
		var v FramesView
		if err := json.Unmarshal(b, &v); err != nil {
			t.Fatal(err)
		}
		for _, r := range v.Addresses {
			frames += r.Frames
		}
		for _, r := range v.Outlines {
			outlines += r.Frames
		}
		return frames, outlines
	}
	if frames, outlines := window(0, 256); frames != 200 || outlines < 20 || outlines > 60 {
		t.Errorf("%d frames and the outlines of %d", frames, outlines)
	}
	if frames, outlines := window(190, 1); frames != 1 || outlines != 1 {
		t.Errorf("one frame: %d, with the outlines of %d", frames, outlines)
	}
}

// A draft begins with a recipe of the list; its numbers are changed, and what is wrong
// with them is said.
func TestARecipeIsBegunWithAndChanged(t *testing.T) {
	h := filled(t)
	var asked []map[string]any
	_, body := h.do("GET", "/api/recipes", nil)
	if err := json.Unmarshal(body, &asked); err != nil || len(asked) != 5 || asked[1]["kind"] != "montage" {
		t.Fatalf("%v: %s", err, body)
	}
	start := blank("Slides")
	start["start"].(map[string]any)["recipe"] = "montage"
	start["start"].(map[string]any)["numbers"] = map[string]any{"pictures": 3}
	id := h.start(start)
	v := h.json("GET", "/api/drafts/"+id, nil, 200)
	if r := v["recipes"].([]any)[0].(map[string]any); len(v["layers"].([]any)) != 3 || r["kind"] != "montage" || r["frames"] != 60.0 || r["id"] != "montage" {
		t.Errorf("%v", v["recipes"])
	}
	done := h.act(id, "recipe-1", 0, map[string]any{"kind": "recipe", "id": "montage", "numbers": map[string]any{"pictures": 5}}, 200)
	if d := done["draft"].(map[string]any); len(d["layers"].([]any)) != 5 || done["title"] != "Change the numbers: Montage" {
		t.Errorf("%v with %d layers", done["title"], len(d["layers"].([]any)))
	}
	got := h.act(id, "recipe-2", 1, map[string]any{"kind": "recipe", "id": "montage", "numbers": map[string]any{"pictures": 99}}, 422)
	if !strings.Contains(fmt.Sprint(got["detail"]), "Pictures: 99 is outside 2 to 24") {
		t.Errorf("%v", got)
	}
	start["start"].(map[string]any)["recipe"] = "soup"
	h.post("/api/drafts", start, 422)
}
