package scene_test

import (
	"fmt"
	"math"
	"strings"
	"testing"

	"ivypocket/core/geom"
	"ivypocket/core/internal/sample"
	"ivypocket/core/scene"
	"ivypocket/core/sheet"
	"ivypocket/core/template"
	"ivypocket/core/timing"
)

// worded is a scene of layers, and of moves that are saved.
func worded(t testing.TB, layers, moves string) *scene.Scene {
	t.Helper()
	d, err := template.Parse(fmt.Appendf(nil, `{"ivypocket": 3, "kind": "template", "id": "t", "name": "T", "category": "T", "rate": "25", "frames": 100,
		"formats": [{"id": "wide", "name": "Wide", "width": 1280, "height": 720}], "moves": [%s], "layers": [%s]}`, moves, layers))
	if err != nil {
		t.Fatal(err)
	}
	s, err := scene.Compile(&sheet.Resolved{Doc: d}, "wide", sample.Source{})
	if err != nil {
		t.Fatal(err)
	}
	return s
}

func addressOf(s *scene.Scene, frame int64) scene.Address {
	var l scene.List
	s.At(&l, s.Time().At(timing.OutputFrame(frame)), scene.Size{W: 640, H: 360})
	return l.Address()
}

func saidBy(t testing.TB, s *scene.Scene, frame int64, layer string) scene.Said {
	t.Helper()
	for _, v := range s.Said(s.Time().At(timing.OutputFrame(frame))) {
		if v.Layer == layer {
			return v
		}
	}
	t.Fatalf("%s says nothing", layer)
	return scene.Said{}
}

const (
	title   = `{"id": "title", "name": "Title", "kind": "words", "text": "Odalys Fenn ties kites", "type": {"size": 60}, "fill": "#f5f2ea", "size": [600, 200]%s}`
	riseUp  = `{"id": "rise", "name": "Rise", "length": 10, "motion": {"place": {"unit": "self", "keys": [{"id": "a", "at": 0, "value": [0, 1], "ease": [0.1, 0.9, 0.2, 1]}, {"id": "b", "at": 10, "value": [0, 0]}]}, "opacity": {"keys": [{"id": "a", "at": 0, "value": 0}, {"id": "b", "at": 5, "value": 1}]}}}`
	blurred = `{"id": "focus", "name": "Focus", "length": 10, "motion": {"scale": {"keys": [{"id": "a", "at": 0, "value": [2, 2]}, {"id": "b", "at": 10, "value": [1, 1]}]}}, "treatments": [{"id": "b", "kind": "blur", "radius": 8}], "masks": [{"id": "m", "form": {"kind": "rectangle"}, "size": [10, 10]}]}`
)

// A reveal at its end is the plain words, byte for byte, whoever performs it in whatever order;
// before it is something else, and its end comes when the last of them has come.
func TestARevealEndsAsThePlainWords(t *testing.T) {
	plain := addressOf(worded(t, fmt.Sprintf(title, ""), ""), 0)
	for _, by := range []string{"line", "word", "letter"} {
		for _, order := range []string{"as they are read", "backwards", "from the middle", "to the middle", "at random"} {
			for _, move := range []string{"rise", "focus"} {
				s := worded(t, fmt.Sprintf(title, fmt.Sprintf(`, "moves": [{"id": "m1", "kind": "saved", "move": %q, "at": 5, "length": 10, "by": %q, "order": %q, "each": 1.5, "cut": %t}]`, move, by, order, move == "rise")), riseUp+","+blurred)
				v := saidBy(t, s, 0, "title").Set
				n := map[string]int{"line": len(v.Lines), "word": v.Words, "letter": 19}[by]
				turns := float64(n - 1)
				if order == "from the middle" || order == "to the middle" {
					turns = math.Floor(turns / 2)
				}
				end := int64(math.Ceil(15 + 1.5*turns))
				if got := addressOf(s, end); got != plain {
					t.Errorf("%s by %s, %s: frame %d is not the plain words", move, by, order, end)
				}
				if got := addressOf(s, 14); got == plain {
					t.Errorf("%s by %s, %s: frame 14 is the plain words already", move, by, order)
				}
			}
		}
	}
	// What leaves begins as the plain words.
	s := worded(t, fmt.Sprintf(title, `, "moves": [{"id": "m1", "kind": "saved", "move": "focus", "at": 20, "length": 10, "by": "letter", "back": true}]`), blurred)
	if addressOf(s, 20) != plain || addressOf(s, 25) == plain {
		t.Error("what leaves does not begin at rest, or does not leave")
	}
}

// Words take as much room in a flow as they fill, and none where there are none; a backing is as
// large as they are, within its limits; rules can be as long.
func TestWhatStandsByWords(t *testing.T) {
	const row = `{"id": "row", "name": "Row", "kind": "group", "size": [1200, 400], "flow": {"way": "stack", "gap": 10, "align": "start"}, "layers": [
		{"id": "below", "name": "Below", "kind": "shape", "fill": "#ffffff", "size": [100, 50]},
		{"id": "two", "name": "Two", "kind": "words", "text": %q, "type": {"size": 40}, "fill": "#ffffff", "size": [800, 300]},
		{"id": "one", "name": "One", "kind": "words", "text": "One", "type": {"size": 40}, "fill": "#ffffff", "size": [800, 300]}]},
		{"id": "rule", "name": "Rule", "kind": "shape", "fill": "#ffffff", "size": [10, 4], "formulas": {"size.x": "layer('title').words.w"}},
		{"id": "back", "name": "Back", "kind": "shape", "fill": "#000000", "size": [1, 1], "behind": {"of": "title", "padding": [1, 2, 3, 4], "least": [%d, 0], "most": [0, %d]}},` + title
	box := func(s *scene.Scene, id string) (x, y, w, h float64) {
		for _, o := range s.Outlines(nil, s.Time().At(0)) {
			if o.Layer == id {
				return o.Box.X, o.Box.Y, o.Box.W, o.Box.H
			}
		}
		t.Fatalf("%s stands nowhere", id)
		return
	}
	s := worded(t, fmt.Sprintf(row, "Two", 0, 0, ""), "")
	_, top, _, _ := box(s, "below")
	empty := worded(t, fmt.Sprintf(row, "", 0, 0, ""), "")
	_, up, _, _ := box(empty, "below")
	// Two lines of 40 px in Figtree are 48 px high each (hhea: 0.95 + 0.25 of an em), with a gap.
	if d := top - up; math.Abs(d-(48+10)/2) > 1e-6 { // a stack in the middle grows both ways
		t.Errorf("without words the rest closes up by %g px", d)
	}
	v := saidBy(t, s, 0, "title").Set
	if _, _, w, _ := box(s, "rule"); math.Abs(w-v.Box.W) > 1e-6 {
		t.Errorf("the rule is %g px long, the words %g", w, v.Box.W)
	}
	// One that stands in the same flow may be as long, too.
	const among = `{"id": "row", "name": "Row", "kind": "group", "size": [1200, 400], "flow": {"way": "stack"}, "layers": [
		{"id": "under", "name": "Under", "kind": "shape", "fill": "#ffffff", "size": [10, 4], "formulas": {"size.x": "layer('said').words.w"}},
		{"id": "said", "name": "Said", "kind": "words", "text": "Two", "type": {"size": 40}, "scale": [2, 2], "fill": "#ffffff", "size": [800, 300]}]}`
	in := worded(t, among, "")
	if _, _, w, _ := box(in, "under"); math.Abs(w-2*saidBy(t, in, 0, "said").Set.Box.W) > 1e-6 {
		t.Errorf("in a flow the rule is %g px long", w)
	}
	x, y, w, h := box(s, "back")
	if math.Abs(w-v.Box.W-6) > 1e-6 || math.Abs(h-v.Box.H-4) > 1e-6 || math.Abs(x-(340+v.Box.X-4)) > 1e-6 || math.Abs(y-(260+v.Box.Y-1)) > 1e-6 {
		t.Errorf("the backing lies at %g, %g and is %g × %g; the words %+v", x, y, w, h, v.Box)
	}
	if _, _, w, h := box(worded(t, fmt.Sprintf(row, "", 900, 60, ""), ""), "back"); w != 900 || h != 60 {
		t.Errorf("a limited backing is %g × %g", w, h)
	}
}

// Words of a name keep one size, the smallest that one of them needs.
func TestWordsKeepOneSize(t *testing.T) {
	const line = `{"id": %q, "name": "N", "kind": "words", "text": %q, "type": {"size": 80}, "fill": "#ffffff", "size": [400, 100], "fit": {"first": "size", "second": "nothing", "least": 10, "together": "names"}}`
	s := worded(t, fmt.Sprintf(line+","+line, "a", "Ruan", "b", "Sólveig Hrafn of the northern shore"), "")
	a, b := saidBy(t, s, 0, "a").Set, saidBy(t, s, 0, "b").Set
	if a.Size != b.Size || a.Size > 30 {
		t.Errorf("%g and %g px", a.Size, b.Size)
	}
	alone := saidBy(t, worded(t, fmt.Sprintf(line, "a", "Ruan"), ""), 0, "a").Set
	if alone.Size != 80 {
		t.Errorf("alone it has %g px", alone.Size)
	}
}

// Words cut others as a matte, and are the same picture at every scale, only finer: sharp.
func TestWordsAreMattes(t *testing.T) {
	s := worded(t, fmt.Sprintf(title, `, "hidden": true`)+`, {"id": "p", "name": "P", "kind": "shape", "fill": "#c01030", "matte": {"layer": "title", "of": "alpha"}}`, "")
	var l scene.List
	s.At(&l, s.Time().At(0), scene.Size{W: 640, H: 360})
	if len(l.Items) < 2 || l.Items[0].Matte == 0 {
		t.Errorf("%d items, the first cut by %d", len(l.Items), l.Items[0].Matte)
	}
}

// What words do changes in time: their size and tracking by keys.
func TestKeysOnWords(t *testing.T) {
	s := worded(t, fmt.Sprintf(title, `, "motion": {"type.tracking": {"keys": [{"id": "a", "at": 0, "value": 0}, {"id": "b", "at": 50, "value": 0.5}]}, "type.size": {"keys": [{"id": "a", "at": 0, "value": 1}, {"id": "b", "at": 50, "value": 0.5}]}}`), "")
	a, b := saidBy(t, s, 0, "title").Set, saidBy(t, s, 50, "title").Set
	if b.Size >= a.Size || a.Tracking != 0 || math.Abs(b.Tracking-0.5) > 1e-9 {
		t.Errorf("%g px and %g, then %g px and %g", a.Size, a.Tracking, b.Size, b.Tracking)
	}
}

// An axis of the face can be set and have keys, and changes the outlines at once; one that
// the face does not have changes nothing.
func TestWordsStandOnAxesOfTheirFace(t *testing.T) {
	soft := `, "face": "fraunces", "axes": [{"id": "a1", "tag": %q, "value": %s}]`
	plain := worded(t, fmt.Sprintf(title, `, "face": "fraunces"`), "")
	for _, c := range []struct {
		tag, value string
		same       bool
	}{{"SOFT", `100`, false}, {"opsz", `144`, false}, {"wdth", `50`, true}} {
		s := worded(t, fmt.Sprintf(title, fmt.Sprintf(soft, c.tag, c.value)), "")
		if got := addressOf(s, 0) == addressOf(plain, 0); got != c.same {
			t.Errorf("%s at %s: as without it is %t", c.tag, c.value, got)
		}
	}
	moving := worded(t, fmt.Sprintf(title, `, "face": "fraunces", "axes": [{"id": "a1", "tag": "SOFT", "value": 0, "motion": {"value": {"keys": [{"id": "a", "at": 0, "value": 0}, {"id": "b", "at": 20, "value": 100}]}}}]`), "")
	if moving.Said(moving.Time().At(10))[0].Set.Whole().Key == moving.Said(moving.Time().At(20))[0].Set.Whole().Key || addressOf(moving, 0) == addressOf(moving, 10) {
		t.Error("keys of an axis change nothing")
	}
	still := worded(t, fmt.Sprintf(title, fmt.Sprintf(soft, "SOFT", "100")), "")
	if addressOf(moving, 20) != addressOf(still, 0) {
		t.Error("at its last key an axis is not where that says")
	}
}

// A mask follows the letters of words, or what they fill, where these stand: also when they
// move, are typed anew or stand in a motif.
func TestMasksFollowWords(t *testing.T) {
	const panel = `{"id": "panel", "name": "Panel", "kind": "shape", "fill": "#1e7383", "size": [1000, 500], "masks": [{"id": "m", "of": %q, "words": "title", "feather": 3}]}, `
	mask := func(of, more string) (scene.Mask, scene.Said) {
		t.Helper()
		s := worded(t, fmt.Sprintf(panel, of)+fmt.Sprintf(title, more), "")
		var l scene.List
		now := s.Time().At(timing.OutputFrame(0))
		s.At(&l, now, scene.Size{W: 1280, H: 720})
		for i := range l.Items {
			if it := &l.Items[i]; it.Layer == "panel" && it.Masks[1] == it.Masks[0]+1 {
				return l.Masks[it.Masks[0]], saidBy(t, s, 0, "title")
			}
		}
		t.Fatalf("%s: the panel has no mask", of)
		return scene.Mask{}, scene.Said{}
	}
	m, said := mask("outline", `, "place": [100, 40], "turn": 10`)
	if m.Form.Letters == nil || m.Form.Letters != said.Set.Whole().Edge() || m.Map != said.Map || m.In+m.Out != 3 {
		t.Errorf("its letters: %+v", m)
	}
	m, said = mask("box", `, "place": [100, 40]`)
	at, box := m.Map.Apply(geom.Point{}), said.Set.Box
	if want := said.Map.Apply(geom.Point{X: box.X, Y: box.Y}); m.Form.Size != box.Size() || math.Hypot(at.X-want.X, at.Y-want.Y) > 1e-9 {
		t.Errorf("their box is %v at %v", m.Form.Size, at)
	}
	for what, layers := range map[string]string{
		"of":    `{"id": "title", "name": "T", "kind": "shape", "fill": "#ffffff"}, ` + strings.TrimSuffix(fmt.Sprintf(panel, "outline"), ", "),
		"hull":  strings.TrimSuffix(fmt.Sprintf(title, ""), ", ") + ", " + strings.TrimSuffix(fmt.Sprintf(panel, "hull"), ", "),
		"words": strings.TrimSuffix(fmt.Sprintf(panel, "outline"), ", "),
	} {
		if _, err := template.Parse(fmt.Appendf(nil, `{"ivypocket": 3, "kind": "template", "id": "t", "name": "T", "category": "T", "rate": "25", "frames": 100,
			"formats": [{"id": "wide", "name": "Wide", "width": 1280, "height": 720}], "layers": [%s]}`, layers)); err == nil {
			t.Errorf("%s: a mask that follows no letters is taken", what)
		}
	}
}

// A stroke goes along the edge of what letters enclose together, be they filled or not: strokes
// of variable faces overlap.
func TestAStrokeGoesAroundLetters(t *testing.T) {
	s := worded(t, fmt.Sprintf(title, `, "face": "bitter", "stroke": {"colour": "#000000", "width": 3, "align": "inside"}`), "")
	var l scene.List
	s.At(&l, s.Time().At(timing.OutputFrame(0)), scene.Size{W: 1280, H: 720})
	set := saidBy(t, s, 0, "title").Set
	for i := range l.Items {
		it := &l.Items[i]
		want := map[scene.ItemKind]*geom.Outlines{scene.FillItem: set.Whole(), scene.StrokeItem: set.Whole().Edge()}[it.Kind]
		if want == nil || it.Form.Letters != want {
			t.Errorf("item %d, of kind %v, has other outlines", i, it.Kind)
		}
	}
	// 19 letters, two dots, and the counters of O, d, a and three of e.
	if n := len(set.Whole().Edge().Paths); len(l.Items) != 2 || n != 19+2+6 {
		t.Errorf("%d items; the edge has %d contours", len(l.Items), n)
	}
}
