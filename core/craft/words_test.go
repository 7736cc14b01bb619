package craft

import (
	"slices"
	"strings"
	"testing"

	"ivypocket/core/edit"
	"ivypocket/core/scheme"
	"ivypocket/core/template"
	"ivypocket/core/words"
	"ivypocket/fonts"
)

const saying = `{"id": "w", "name": "W", "kind": "words", "text": "Kites  over the\tmarsh", "face": "fraunces", "type": {"size": 80}, "fill": "#f5f2ea", "size": [900, 300]},
	{"id": "s", "name": "S", "kind": "shape", "fill": "#1e7383", "size": [300, 300]}`

// library is one that has a font file, and a picture besides.
type library struct{ shelf }

var fontHash = "sha256:" + strings.Repeat("0c", 32)

func (l library) Face(id string) *words.Family {
	if id == fontHash {
		return &words.Family{ID: id, Name: "Harbour Stencil", Fonts: fonts.Family("stardos-stencil").Fonts[:1]}
	}
	return l.shelf.Face(id)
}

// What an act comes to speak of is said in the document, each once: a font that words are set
// in, also where other media comes along in the same act.
func TestTheDocumentSaysWhatItsFontsAre(t *testing.T) {
	d := doc(t, saying, "", "")
	v := scheme.Says(fontHash)
	for _, acts := range [][]Act{
		{{Kind: "rest", Path: "layers/w/face", Value: &v}},
		{{Kind: "rest", Path: "layers/w/face", Value: &v}, {Kind: "insert", Way: "picture", Media: pictureHash, Name: "Dunes", Format: "wide"}},
	} {
		a := acts[0]
		if len(acts) > 1 {
			a = Act{Kind: "batch", Ops: acts}
		}
		p, err := Do(d, library{}, a)
		if err != nil {
			t.Fatal(err)
		}
		was := text(t, d)
		next, _, err := edit.DraftFrom(d).Do(p.Op)
		if err != nil {
			t.Fatal(err)
		}
		var names []string
		for _, m := range next.Doc.Media {
			names = append(names, string(m.Kind)+" "+m.Name)
		}
		slices.Sort(names)
		want := []string{"font Harbour Stencil"}
		if len(acts) > 1 {
			want = append(want, "picture Dunes")
		}
		if !slices.Equal(names, want) {
			t.Errorf("%d acts: the document says %q", len(acts), names)
		}
		if text(t, d) != was {
			t.Error("planning changed the document")
		}
	}
	if p, err := Do(d, library{}, Act{Kind: "rest", Path: "layers/w/opacity", Value: &scheme.Value{Numbers: []float64{0.5}, Single: true}}); err != nil || strings.Contains(p.Op.Path, "media") {
		t.Errorf("%+v, %v", p.Op, err)
	}
}

// A face stands on an axis that it has, where it rests to begin with, once.
func TestFacesAreSetAlongTheirAxes(t *testing.T) {
	d := doc(t, saying, "", "")
	plain := drawnAt(t, d, "wide", 0)
	d, p := do(t, d, Act{Kind: "axis", Way: "SOFT", Layers: []string{"w"}})
	a := d.Layer("w").Axes()
	if len(a) != 1 || a[0].Text(scheme.AxisTag) != "SOFT" || a[0].Number(scheme.AxisValue) != 0 || p.Op.Title != "Softness of the face of W" {
		t.Fatalf("%q: %s", p.Op.Title, text(t, d))
	}
	if drawnAt(t, d, "wide", 0) != plain {
		t.Error("it does not begin where the face rests")
	}
	for _, c := range []struct {
		layer, way, want string
	}{{"w", "SOFT", "stands on"}, {"w", "wdth", "has no axis"}, {"s", "SOFT", "select words or counters"}} {
		if _, err := Do(d, shelf{}, Act{Kind: "axis", Way: c.way, Layers: []string{c.layer}}); err == nil || !strings.Contains(err.Error(), c.want) {
			t.Errorf("%s of %s: %v", c.way, c.layer, err)
		}
	}
}

// A ready move is a reveal in one step: done by letters of words, and by the whole of what
// has none.
func TestAReadyMoveIsDoneByLetters(t *testing.T) {
	d, _ := do(t, doc(t, saying, "", ""), Act{Kind: "perform", Way: "enter", By: "letter", Layers: []string{"w", "s"}, Frame: 10})
	if by := d.Layer("w").Performances()[0].Text(scheme.PerformedBy); by != "letter" {
		t.Errorf("words do it by %q", by)
	}
	if by := d.Layer("s").Performances()[0]; by.Given(scheme.PerformedBy) {
		t.Errorf("a shape does it by %q", by.Text(scheme.PerformedBy))
	}
	if drawnAt(t, d, "wide", 90) != drawnAt(t, doc(t, saying, "", ""), "wide", 90) {
		t.Error("at its end it is not the plain words")
	}
	if _, err := Do(d, shelf{}, Act{Kind: "perform", Way: "enter", By: "glyph", Layers: []string{"w"}}); err == nil {
		t.Error("it is done by what there is not")
	}
}

// Highlighters mark the words that are chosen, differ line by line, and wordings are tidied.
func TestWordsAreMarkedAndTidied(t *testing.T) {
	d, _ := do(t, doc(t, saying, "", ""), Act{Kind: "tidy", Layers: []string{"w"}})
	if got := d.Layer("w").Text(scheme.Wording.Text); got != "Kites over the marsh" {
		t.Errorf("tidied it is %q", got)
	}
	d, _ = do(t, d, Act{Kind: "highlight", Way: "sweep", Picks: []int{11, 14}, Layers: []string{"w"}})
	h := d.Layer("w").Highlights()[0]
	if h.Text(scheme.HighPhrase) != "the" || h.Number(scheme.HighWord) != 2 || h.Number(scheme.HighWords) != 1 {
		t.Errorf("marked is %q from word %g", h.Text(scheme.HighPhrase), h.Number(scheme.HighWord))
	}
	was := drawnAt(t, d, "wide", 0)
	d, _ = do(t, d, Act{Kind: "high-line", Path: "layers/w/highlights/" + h.ID})
	if lines := d.Layer("w").Highlights()[0].Part(0); len(lines) != 2 || drawnAt(t, d, "wide", 0) != was {
		t.Errorf("%d lines differ, or the first does", len(lines))
	}
	d, _ = do(t, d, Act{Kind: "back", Layers: []string{"w"}})
	if n := len(d.Layers); n != 3 || d.Layers[0].Text(scheme.BackOf) != "w" {
		t.Errorf("of %d layers the lowest is behind %q", n, d.Layers[0].Text(scheme.BackOf))
	}
	if _, err := Do(d, shelf{}, Act{Kind: "highlight", Way: "sweep", Layers: []string{"s"}}); err == nil || !strings.Contains(err.Error(), "select words") {
		t.Errorf("a shape: %v", err)
	}
}

// A mask that follows words goes where they go: copied in one group it follows the copy, alone the
// same words, and words that are deleted take it along.
func TestMasksOfWordsAreKeptInOrder(t *testing.T) {
	d, _ := do(t, doc(t, saying, "", ""), Act{Kind: "mask", Path: "layers/s", Way: "outline", Id: "w"})
	if m := d.Layer("s").Masks(); len(m) != 1 || m[0].Text(scheme.MaskWords) != "w" {
		t.Fatalf("%s", text(t, d))
	}
	both, p := do(t, d, Act{Kind: "group", Layers: []string{"s", "w"}})
	both, p = do(t, both, Act{Kind: "duplicate", Layers: p.Chosen})
	for _, y := range both.Layer(p.Chosen[0]).Layers() {
		if len(y.Masks()) > 0 {
			if of := y.Masks()[0].Text(scheme.MaskWords); of == "w" || both.Layer(of) == nil {
				t.Errorf("copied together it follows %q", of)
			}
		}
	}
	alone, p := do(t, d, Act{Kind: "duplicate", Layers: []string{"s"}})
	if of := alone.Layer(p.Chosen[0]).Masks()[0].Text(scheme.MaskWords); of != "w" {
		t.Errorf("copied alone it follows %q", of)
	}
	gone, _ := do(t, d, Act{Kind: "discard", Layers: []string{"w"}})
	if len(gone.Layer("s").Masks()) > 0 {
		t.Error("a mask of words that are no more stays")
	}
	for _, id := range []string{"none", "s"} {
		if _, err := Do(d, shelf{}, Act{Kind: "mask", Path: "layers/s", Way: "outline", Id: id, Format: "wide"}); err == nil {
			t.Errorf("it follows %s", id)
		}
	}
}

// What stands behind words goes along to where they go, and nowhere without them.
func TestABackingGoesWithItsWords(t *testing.T) {
	d := doc(t, saying+`, {"id": "band", "name": "Band", "kind": "group"}`, "", "")
	d, _ = do(t, d, Act{Kind: "back", Layers: []string{"w"}})
	id := d.Layers[0].ID
	if d.Layer(id).Text(scheme.BackOf) != "w" {
		t.Fatal(text(t, d))
	}
	within := func(d *template.Document, group string) (out []string) {
		for _, y := range d.Layer(group).Layers() {
			out = append(out, y.ID)
		}
		return out
	}
	for _, a := range []Act{{Kind: "group", Layers: []string{"w"}}, {Kind: "group", Layers: []string{id, "w"}}, {Kind: "nest", Layers: []string{"w"}, Into: "layers/band/layers"}} {
		next, p := do(t, d, a)
		group := "band"
		if a.Kind == "group" {
			group = p.Chosen[0]
		}
		if got := within(next, group); !slices.Equal(got, []string{id, "w"}) {
			t.Errorf("%s of %v: in the group are %v", a.Kind, a.Layers, got)
		}
	}
	for _, a := range []Act{{Kind: "group", Layers: []string{id}}, {Kind: "group", Layers: []string{id, "s"}}, {Kind: "nest", Layers: []string{id}, Into: "layers/band/layers"}} {
		if _, err := Do(d, library{}, a); err == nil || !strings.Contains(err.Error(), "take W along") {
			t.Errorf("%s of %v: %v", a.Kind, a.Layers, err)
		}
	}
	// To lie under another layer of the same list is no way from each other.
	next, _ := do(t, d, Act{Kind: "nest", Layers: []string{"w"}, Into: "layers", At: 4})
	if n := len(next.Layers); next.Layers[n-1].ID != "w" || next.Layers[0].ID != id {
		t.Errorf("restacked: %s", text(t, next))
	}
}
