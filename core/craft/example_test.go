package craft

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"ivypocket/core/edit"
	"ivypocket/core/geom"
	"ivypocket/core/scheme"
	"ivypocket/core/sheet"
	"ivypocket/core/template"
)

const exampled = `, "sheet": {"groups": [{"id": "all", "label": "All", "entries": [
	{"id": "lay", "label": "Layout", "kind": "choice", "default": "calm", "options": [{"id": "calm", "label": "Calm"}, {"id": "wild", "label": "Wild"}, {"id": "odd", "label": "Odd"}]},
	{"id": "size", "label": "Size", "kind": "amount", "default": 50, "min": 0, "max": 100, "ties": [{"to": "layers/c/turn", "from": [0, 100], "into": [0, 90]}]},
	{"id": "on", "label": "Ring", "kind": "switch", "default": true},
	{"id": "tint", "label": "Tint", "kind": "colour", "default": "#c01030", "ties": [{"to": "layers/a/fill"}]}]}]}`

// valueAt is what a path is when an entry has a value.
func valueAt(t *testing.T, d *template.Document, entry string, at scheme.Value, path string) string {
	t.Helper()
	r, err := sheet.Resolve(d, sheet.Values{Entries: map[string]scheme.Value{entry: at}})
	if err != nil {
		t.Fatal(err)
	}
	v, _, err := r.Doc.Get(path)
	if err != nil {
		t.Fatal(err)
	}
	return v.String()
}

func says(words ...string) (out []scheme.Value) {
	for _, w := range words {
		out = append(out, scheme.Says(w))
	}
	return out
}

// What is set while the picture is held at a stop is so at that stop, and at the others as
// it was: by numbers, by dragging on the stage, whole and in part.
func TestTiesAreMadeByExample(t *testing.T) {
	d := doc(t, strings.Replace(shown, `"hidden": true`, `"turn": 45`, 1), "", shownMore+exampled)
	at := func(path string, stops []scheme.Value, entry string) (out string) {
		for _, s := range stops {
			out += " | " + valueAt(t, d, entry, s, path)
		}
		return out[3:]
	}
	pin := func(entry string, v scheme.Value) *Pin { return &Pin{entry, v} }
	lay := says("calm", "wild", "odd")
	one := func(v float64) *scheme.Value { x := scheme.One(v); return &x }

	d, p := do(t, d, Act{Kind: "rest", Path: "layers/b/opacity", Value: one(0.2), Pin: pin("lay", lay[1])})
	if got := at("layers/b/opacity", lay, "lay"); got != "0.6 | 0.2 | 0.6" || !strings.HasSuffix(p.Op.Title, ", at Layout Wild") {
		t.Errorf("opacities are %s by %q", got, p.Op.Title)
	}
	// Dragged where it stands at another stop already.
	d, _ = do(t, d, Act{Kind: "place", Layers: []string{"a"}, From: [2]float64{600, 500}, To: [2]float64{700, 550}, Pin: pin("lay", lay[1])})
	d, _ = do(t, d, Act{Kind: "place", Layers: []string{"a"}, From: [2]float64{600, 500}, To: [2]float64{610, 500}, Pin: pin("lay", lay[1])})
	if got := at("layers/a/place", lay, "lay"); got != "-300, 0 | -190, 50 | -300, 0" {
		t.Errorf("places are %s", got)
	}
	// One number of what is tied whole, and the whole of what is tied by one number.
	d, _ = do(t, d, Act{Kind: "rest", Path: "layers/a/place.y", Value: one(7), Pin: pin("lay", lay[2])})
	if got := at("layers/a/place", lay, "lay"); got != "-300, 0 | -190, 50 | -300, 7" {
		t.Errorf("places are %s", got)
	}
	d, _ = do(t, d, Act{Kind: "rest", Path: "layers/b/place.x", Value: one(33), Pin: pin("lay", lay[1])})
	both := scheme.Many(5, 6)
	d, _ = do(t, d, Act{Kind: "rest", Path: "layers/b/place", Value: &both, Pin: pin("lay", lay[2])})
	if got := at("layers/b/place", lay, "lay"); got != "0, 0 | 33, 0 | 5, 6" {
		t.Errorf("places are %s", got)
	}
	// At the default what rests goes along, so that what is drawn is what is written.
	d, _ = do(t, d, Act{Kind: "rest", Path: "layers/b/opacity", Value: one(0.5), Pin: pin("lay", lay[0])})
	if got := at("layers/b/opacity", lay, "lay"); got != "0.5 | 0.2 | 0.6" || d.Layer("b").Get(scheme.Opacity).Number() != 0.5 {
		t.Errorf("opacities are %s", got)
	}
	// A range becomes stops, with one more where it is pinned; between them it is mixed.
	numbers := []scheme.Value{scheme.One(0), scheme.One(25), scheme.One(50), scheme.One(75), scheme.One(100)}
	d, _ = do(t, d, Act{Kind: "rest", Path: "layers/c/turn", Value: one(80), Pin: pin("size", scheme.One(75))})
	if got := at("layers/c/turn", numbers, "size"); got != "0 | 22.5 | 45 | 80 | 90" || fmt.Sprint(d.Sheet.Entry("size").Notches) != "[0 50 75 100]" {
		t.Errorf("turns are %s, notches %v", got, d.Sheet.Entry("size").Notches)
	}
	// Several at once, too.
	d, _ = do(t, d, Act{Kind: "batch", Ops: []Act{{Kind: "rest", Path: "layers/c/turn", Value: one(81), Pin: pin("size", scheme.One(75))}, {Kind: "rest", Path: "layers/v/opacity", Value: one(0.3)}}, Pin: pin("size", scheme.One(75))})
	if got := at("layers/c/turn", numbers, "size") + "; " + at("layers/v/opacity", numbers, "size"); got != "0 | 22.5 | 45 | 81 | 90; 1 | 1 | 1 | 0.3 | 1" {
		t.Errorf("set together they are %s", got)
	}
	// A switch brings all that hangs on it; what is set back drives nothing.
	off := []scheme.Value{scheme.Is(false), scheme.Is(true)}
	hide, show := scheme.Is(true), scheme.Is(false)
	d, _ = do(t, d, Act{Kind: "mark", Path: "hidden", Value: &hide, Layers: []string{"b", "v"}, Pin: pin("on", off[0])})
	if got := at("layers/v/hidden", off, "on"); got != "true | false" || len(d.Sheet.Entry("on").Ties) != 2 {
		t.Errorf("hidden is %s: %s", got, sheetText(d))
	}
	d, _ = do(t, d, Act{Kind: "mark", Path: "hidden", Value: &show, Layers: []string{"b"}, Pin: pin("on", off[0])})
	if len(d.Sheet.Entry("on").Ties) != 1 {
		t.Errorf("set back it is still tied: %s", sheetText(d))
	}
	// How media lies in a pocket is set so, too.
	f := geom.DefaultFraming(geom.Cover)
	f.Zoom = 2
	d, _ = do(t, d, Act{Kind: "frame", Pocket: "kite", Framing: &f, Members: []string{"zoom"}, Pin: pin("lay", lay[2])})
	if got := at("pockets/kite/framing.zoom", lay, "lay"); got != "1 | 1 | 2" {
		t.Errorf("zooms are %s", got)
	}
	if f := d.Findings(); len(f) > 0 && !strings.Contains(f.Error(), "formula") {
		t.Error(f)
	}
}

// What can't be set by example says why; what is done to the sheet and to names is done.
func TestWhatIsNotSetByExample(t *testing.T) {
	d := doc(t, shown, "", shownMore+exampled)
	pin := &Pin{"lay", scheme.Says("wild")}
	n := scheme.One(3)
	red := scheme.Says("#ff0000")
	for why, a := range map[string]Act{
		"only values are set then":           {Kind: "adjust", Path: "opacity", Name: "50", Layers: []string{"a"}, Ops: nil, Copy: false, Way: "", Pin: pin, Id: "x"},
		"one format alone":                   {Kind: "rest", Path: "layers/b/turn", Value: &n, Apart: true, Pin: pin},
		"is driven by Tint already":          {Kind: "rest", Path: "layers/a/fill", Value: &red, Pin: pin},
		"no entry named":                     {Kind: "rest", Path: "layers/b/turn", Value: &n, Pin: &Pin{"none", n}},
		"has no stops":                       {Kind: "rest", Path: "layers/b/turn", Value: &n, Pin: &Pin{"tint", red}},
		"is not one of its options":          {Kind: "rest", Path: "layers/b/turn", Value: &n, Pin: &Pin{"lay", scheme.Says("mad")}},
		"template's own: no entry can drive": {Kind: "rest", Path: "formats/wide/width", Value: func() *scheme.Value { v := scheme.One(1280); return &v }(), Pin: pin},
	} {
		if why == "only values are set then" {
			a = Act{Kind: "place", Layers: []string{"a"}, From: [2]float64{0, 0}, To: [2]float64{40, 0}, Copy: true, Pin: pin}
		}
		a.Format = "wide"
		if _, err := Do(d, shelf{}, a); err == nil || !strings.Contains(err.Error(), why) {
			t.Errorf("%s: %v", why, err)
		}
	}
	next, _ := do(t, d, Act{Kind: "name", Layers: []string{"a"}, Name: "Other", Pin: pin})
	next, _ = do(t, next, Act{Kind: "put", Path: "entries/lay/help", Part: []byte(`"How it lies."`), Pin: pin})
	if next.Layer("a").Name != "Other" || next.Sheet.Entry("lay").Help != "How it lies." || len(next.Sheet.Entry("lay").Ties) != 0 {
		t.Errorf("it is %s", text(t, next))
	}
}

// Whatever is set by example at random stops, each stop keeps what was set there last, the
// document stays sound, and taken back it is the same to the byte.
func TestExamplesAtRandom(t *testing.T) {
	rng := rand.New(rand.NewPCG(13, 3))
	first := doc(t, shown, "", shownMore+exampled)
	paths := []string{"layers/b/opacity", "layers/a/turn", "layers/b/turn", "layers/a/place", "layers/a/place.x", "layers/c/turn", "layers/b/size.y", "layers/a/radius"}
	draft := edit.DraftFrom(first)
	want := map[string]string{}
	var done [][]edit.Change
	for len(done) < 150 {
		e := []string{"lay", "size", "on"}[rng.IntN(3)]
		stops := draft.Doc.Sheet.Entry(e).Stops()
		at := stops[rng.IntN(len(stops))]
		if e == "size" && rng.IntN(4) == 0 {
			at = scheme.One(float64(rng.IntN(101)))
		}
		path := paths[rng.IntN(len(paths))]
		v := scheme.One(float64(rng.IntN(100)) / 100)
		if path == "layers/a/place" {
			v = scheme.Many(float64(rng.IntN(300)), float64(rng.IntN(300)))
		}
		p, err := Do(draft.Doc, shelf{}, Act{Kind: "set", Format: "wide", Path: path, Value: &v, Pin: &Pin{e, at}})
		if err != nil {
			if !strings.Contains(err.Error(), "is driven by") {
				t.Fatalf("%s at %s: %v", path, at, err)
			}
			continue
		}
		if p.Op.Kind == "" {
			continue
		}
		next, changes, err := draft.Do(p.Op)
		if err != nil {
			t.Fatalf("%s of %s at %s: planned and refused: %v", path, e, at, err)
		}
		draft, done = next, append(done, changes)
		want[e+" "+at.String()+" "+path] = v.String()
		if path == "layers/a/place" {
			want[e+" "+at.String()+" layers/a/place.x"] = scheme.One(v.Numbers[0]).String()
		}
		if path == "layers/a/place.x" {
			delete(want, e+" "+at.String()+" layers/a/place")
		}
		for key, v := range want {
			seg := strings.Split(key, " ")
			entry := draft.Doc.Sheet.Entry(seg[0])
			var stop scheme.Value
			for _, s := range entry.Stops() {
				if s.String() == seg[1] {
					stop = s
				}
			}
			if got := valueAt(t, draft.Doc, seg[0], stop, seg[2]); got != v && len(entry.Ties) > 0 {
				t.Fatalf("after %s of %s at %s: %s is %s, not %s", path, e, at, key, got, v)
			}
		}
	}
	for _, changes := range slices.Backward(done) {
		var err error
		if draft, err = draft.Replay(edit.Reverse(changes)); err != nil {
			t.Fatal(err)
		}
	}
	if text(t, draft.Doc) != text(t, first) {
		t.Error("taken back it is another document")
	}
}
