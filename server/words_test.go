package server

import (
	"bytes"
	"encoding/json"
	"math"
	"testing"

	"ivypocket/core/words"
	"ivypocket/fonts"
)

// Where letters stand is told in UTF-16 units and px of the layer's box: for letters of two units, from right to left, and
// before anything is kept.
func TestWhereLettersStandIsTold(t *testing.T) {
	h := build(t, t.TempDir())
	id := h.dropped(`{"ivypocket": 3, "kind": "template", "id": "t", "name": "T", "category": "T", "rate": "25", "frames": 50,
		"formats": [{"id": "f", "name": "F", "width": 1920, "height": 1080}],
		"layers": [{"id": "w", "name": "W", "kind": "words", "text": "Hi 🪁 של", "type": {"size": 100}, "fill": "#102030", "size": [1000, 400]}]}`)
	said := func() (v WordsView) {
		t.Helper()
		_, body := h.do("GET", "/api/drafts/"+id+"/words?format=f&frame=0&layer=w", nil)
		var list []WordsView
		if err := json.Unmarshal(body, &list); err != nil || len(list) != 1 {
			t.Fatalf("%s: %v", body, err)
		}
		return list[0]
	}
	v := said()
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
