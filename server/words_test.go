package server

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"image"
	"math"
	"net/http/httptest"
	"testing"

	"github.com/go-chi/chi/v5"

	"ivypocket/access"
	"ivypocket/core/words"
	"ivypocket/fonts"
	"ivypocket/media/mediatest"
)

// reads is what the layer w of a draft says on its first frame.
func (h *house) reads(draft string) WordsView {
	h.t.Helper()
	_, body := h.do("GET", "/api/drafts/"+draft+"/words?format=f&frame=0&layer=w", nil)
	var list []WordsView
	if err := json.Unmarshal(body, &list); err != nil || len(list) != 1 {
		h.t.Fatalf("%s: %v", body, err)
	}
	return list[0]
}

// Where letters stand is told in UTF-16 units and px of the layer's box: for letters of two units, from right to left, and
// before anything is kept.
func TestWhereLettersStandIsTold(t *testing.T) {
	h := build(t, t.TempDir())
	id := h.dropped(`{"ivypocket": 3, "kind": "template", "id": "t", "name": "T", "category": "T", "rate": "25", "frames": 50,
		"formats": [{"id": "f", "name": "F", "width": 1920, "height": 1080}],
		"layers": [{"id": "w", "name": "W", "kind": "words", "text": "Hi 🪁 של", "type": {"size": 100}, "fill": "#102030", "size": [1000, 400]}]}`)
	v := h.reads(id)
	if v.Path != "layers/w/text" || v.Missing != "" || v.Over || len(v.Rows) != 1 || len(v.Marks) != 7 {
		t.Fatalf("%+v", v)
	}
	if kite, alef := v.Marks[3], v.Marks[5]; kite[0] != 3 || kite[1] != 5 || alef[0] != 6 || alef[4] >= 0 || v.Marks[0][4] <= 0 {
		t.Errorf("its letters are %v", v.Marks)
	}
	if v.Map[4] != 460 || v.Map[5] != 340 { // the middle of the box is the middle of the canvas
		t.Errorf("the box is laid by %v", v.Map)
	}
	// One wording that is not there is nothing, and a format that is not there is told.
	if _, body := h.do("GET", "/api/drafts/"+id+"/words?format=f&frame=0&layer=none", nil); string(bytes.TrimSpace(body)) != "[]" {
		t.Errorf("%s", body)
	}
	h.json("GET", "/api/drafts/"+id+"/words?format=g&frame=0", nil, 422)

	for _, c := range []struct {
		text  string
		lines int
		want  string
	}{{"a\tb  c\r\nd ", 3, "a b c\nd"}, {"a\r\n\r\nb", 1, "a b"}, {"\ufeffab", 1, "ab"}} {
		if got := h.post("/api/words/tidy", map[string]any{"text": c.text, "lines": c.lines}, 200)["text"]; got != c.want {
			t.Errorf("%q comes in as %q", c.text, got)
		}
	}
}

// The page has the files that words are set in, and no other file.
func TestFacesAreServed(t *testing.T) {
	h := build(t, t.TempDir())
	_, body := h.do("GET", "/api/faces", nil)
	var faces []FaceView
	if err := json.Unmarshal(body, &faces); err != nil || len(faces) < 10 {
		t.Fatalf("%d faces: %v", len(faces), err)
	}
	for _, f := range faces {
		lo, hi := fonts.Family(f.ID).Weights()
		if f.Least != lo || f.Most != hi || math.IsNaN(lo) || len(f.Files) == 0 {
			t.Errorf("%+v", f)
		}
		res, file := h.do("GET", "/api/fonts/"+f.Files[0].Name+".woff", nil)
		if _, err := words.Parse(file); err != nil || res.StatusCode != 200 || res.Header.Get("Content-Type") != "font/woff" {
			t.Errorf("%s: %d, %v", f.Files[0].Name, res.StatusCode, err)
		}
	}
	for _, name := range []string{"none", "..%2Ffonts", "OFL.txt"} {
		if res, _ := h.do("GET", "/api/fonts/"+name, nil); res.StatusCode != 404 {
			t.Errorf("%s: %d", name, res.StatusCode)
		}
	}
}

// A font that is brought in is a face like those that ship: it is listed, shown and set in,
// the document says what it is, and words that wait for it are set anew when it comes.
func TestAFontOfOnesOwnIsAFace(t *testing.T) {
	h := build(t, t.TempDir())
	woff, err := fonts.File("stardos-stencil-700")
	if err != nil {
		t.Fatal(err)
	}
	sum := sha256.Sum256(woff)
	hash := "sha256:" + hex.EncodeToString(sum[:])
	id := h.dropped(`{"ivypocket": 3, "kind": "template", "id": "t", "name": "T", "category": "T", "rate": "25", "frames": 50,
		"formats": [{"id": "f", "name": "F", "width": 1920, "height": 1080}], "media": [{"hash": "` + hash + `", "name": "Harbour stencil", "kind": "font"}],
		"layers": [{"id": "w", "name": "W", "kind": "words", "text": "Harbour", "face": "` + hash + `", "type": {"size": 100}, "fill": "#102030", "size": [1000, 400]},
			{"id": "v", "name": "V", "kind": "words", "text": "Harbour", "type": {"size": 100}, "fill": "#102030", "size": [1000, 400]}]}`)
	draft := func() (v DraftView) {
		t.Helper()
		_, body := h.do("GET", "/api/drafts/"+id, nil)
		if err := json.Unmarshal(body, &v); err != nil {
			t.Fatal(err)
		}
		return v
	}
	piece := func() (v PieceView) {
		t.Helper()
		_, body := h.do("POST", "/api/drafts/"+id+"/desk", nil)
		if err := json.Unmarshal(body, &v); err != nil {
			t.Fatal(err)
		}
		return v
	}
	if gone := piece().FacesGone; len(gone) != 1 || gone[0] != "Harbour stencil" {
		t.Errorf("an editor is told of %q", gone)
	}
	before := h.reads(id)
	if d := draft(); !before.FaceGone || len(d.Missing) != 1 || d.Missing[0].Name != "Harbour stencil" || d.Missing[0].Where[0] != "the face of W" {
		t.Errorf("without its font: %+v, missing %+v", before, d.Missing)
	}
	h.json("GET", "/api/fonts/"+hash+".woff", nil, 404)

	if got := h.upload("harbour.woff", woff); got != hash {
		t.Fatalf("came in as %s", got)
	}
	if gone := piece().FacesGone; len(gone) != 0 {
		t.Errorf("with its font an editor is told of %q", gone)
	}
	after := h.reads(id)
	if d := draft(); after.FaceGone || len(d.Missing) != 0 || math.Abs(after.Box[2]-before.Box[2]) < 1 {
		t.Errorf("with its font: %+v, missing %+v", after, d.Missing)
	}
	_, body := h.do("GET", "/api/faces", nil)
	var faces []FaceView
	if err := json.Unmarshal(body, &faces); err != nil || faces[0].ID != hash || faces[0].Name != "Stardos Stencil Bold" || len(faces[0].Files) != 1 {
		t.Fatalf("%+v: %v", faces[0], err)
	}
	if res, got := h.do("GET", "/api/fonts/"+faces[0].Files[0].Name+".woff", nil); !bytes.Equal(got, woff) || res.Header.Get("Content-Type") != "font/woff" {
		t.Errorf("its file is served as %d bytes of %s", len(got), res.Header.Get("Content-Type"))
	}
	_, got := h.do("GET", "/api/media/"+hash+"/thumb?side=160", nil)
	img, _, err := image.Decode(bytes.NewReader(got))
	if err != nil || img.Bounds().Dx() != 160 {
		t.Fatalf("%v", err)
	}
	inked := 0
	for i := range 160 * 100 {
		if r, _, _, _ := img.At(i%160, i/160).RGBA(); r < 0x8000 {
			inked++
		}
	}
	if inked < 300 || inked > 8000 {
		t.Errorf("%d px of it are dark", inked)
	}
	if m := h.json("GET", "/api/media/"+hash, nil, 200); m["kind"] != "font" || m["type"] != "WOFF font" || m["packs"] != true {
		t.Errorf("%v", m)
	}
	h.json("POST", "/api/drafts/"+id+"/operations", map[string]any{"id": "insert-font-1", "base": 0, "op": map[string]any{"kind": "insert", "way": "picture", "media": hash, "format": "f"}}, 422)

	// Set in it by the list, it is said in the document once.
	h.act(id, "settle-face-1", 0, map[string]any{"kind": "rest", "path": "layers/v/face", "value": hash}, 200)
	var doc struct {
		Media []struct{ Hash, Name, Kind string }
	}
	_, body = h.do("GET", "/api/drafts/"+id+"/document", nil)
	if err := json.Unmarshal(body, &doc); err != nil || len(doc.Media) != 1 {
		t.Errorf("%+v: %v", doc, err)
	}
	// Offered, it is a choice by its hash.
	h.act(id, "offer-face-1", 1, map[string]any{"kind": "offer", "paths": []string{"layers/v/face"}}, 200)
	e := draft().Sheet[0].Entries[0]
	if e.Kind != "typeface" || e.Value != hash || e.Sample != "Harbour" || len(e.Options) < 2 || e.Options[0].Name != "Stardos Stencil Bold" {
		t.Errorf("%+v", e)
	}
	// Where no layer has said it, the document comes to.
	other := h.dropped(`{"ivypocket": 3, "kind": "template", "id": "u", "name": "U", "category": "T", "rate": "25", "frames": 50, "formats": [{"id": "f", "name": "F", "width": 1920, "height": 1080}],
		"layers": [{"id": "w", "name": "W", "kind": "words", "text": "Harbour", "type": {"size": 100}, "fill": "#102030", "size": [1000, 400]}]}`)
	h.act(other, "settle-face-2", 0, map[string]any{"kind": "rest", "path": "layers/w/face", "value": hash}, 200)
	_, body = h.do("GET", "/api/drafts/"+other+"/document", nil)
	if err := json.Unmarshal(body, &doc); err != nil || len(doc.Media) != 1 || doc.Media[0].Kind != "font" || doc.Media[0].Name != "Stardos Stencil Bold" {
		t.Errorf("%+v: %v", doc, err)
	}
}

// A font that may not be embedded is given to no browser that shows words in it, and back to
// designers alone.
func TestAFontThatMayNotBeEmbeddedIsNotHandedOut(t *testing.T) {
	h := build(t, t.TempDir())
	woff, err := fonts.File("stardos-stencil-400")
	if err != nil {
		t.Fatal(err)
	}
	hash := h.upload("harbour.ttf", mediatest.Rights(mediatest.TrueType(t, woff), 2))
	_, body := h.do("GET", "/api/faces", nil)
	var faces []FaceView
	if err := json.Unmarshal(body, &faces); err != nil || faces[0].ID != hash || len(faces[0].Files) != 0 {
		t.Fatalf("%+v: %v", faces[0], err)
	}
	if m := h.json("GET", "/api/media/"+hash, nil, 200); m["packs"] != false {
		t.Errorf("%v", m)
	}
	h.json("GET", "/api/fonts/"+hash+".woff", nil, 404)
	if res, _ := h.do("GET", "/api/media/"+hash+"/thumb?side=160", nil); res.StatusCode != 200 {
		t.Errorf("a picture of it: %d", res.StatusCode)
	}
	get := func(who access.Person) int {
		r := httptest.NewRequest("GET", "/api/media/"+hash+"/file", nil)
		c := chi.NewRouteContext()
		c.URLParams.Add("hash", hash)
		w := httptest.NewRecorder()
		h.srv.mediaFile(w, r.WithContext(context.WithValue(context.WithValue(r.Context(), chi.RouteCtxKey, c), personKey{}, who)))
		return w.Code
	}
	if d, e := get(access.Person{Role: access.Designer}), get(access.Person{Role: access.Editor}); d != 200 || e != 403 {
		t.Errorf("its file is answered to a designer by %d, to an editor by %d", d, e)
	}
}
