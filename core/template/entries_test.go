package template

import (
	"fmt"
	"math"
	"math/rand/v2"
	"strings"
	"testing"

	"ivypocket/core/scheme"
	"ivypocket/core/timing"
	"ivypocket/internal/judge"
)

// sheetOf is a document with two shapes and the entries that are written.
func sheetOf(entries string) []byte {
	return fmt.Appendf(nil, `{"ivypocket": 3, "kind": "template", "id": "t", "name": "T", "category": "T", "rate": "25", "frames": 100,
		"spans": [{"kind": "held", "from": 0, "to": 20}, {"kind": "elastic", "from": 20, "to": 80}, {"kind": "held", "from": 80, "to": 100}],
		"formats": [{"id": "wide", "name": "Wide", "width": 1920, "height": 1080}], "colours": [{"id": "sea", "name": "Sea", "value": "#1e7383"}],
		"gradients": [{"id": "dusk", "name": "Dusk", "stops": [{"at": 0, "colour": "#402030"}, {"at": 1, "colour": "colour:sea"}]}, {"id": "noon", "name": "Noon", "stops": [{"at": 0, "colour": "#ffffff"}, {"at": 1, "colour": "#80c0ff"}]}],
		"pockets": [{"id": "kite", "name": "Kite", "kinds": ["picture"]}], "cues": [{"id": "poster", "name": "Poster", "at": 40}],
		"layers": [{"id": "ring", "name": "Ring", "kind": "shape", "fill": "#c01030", "size": [400, 400]},
			{"id": "sky", "name": "Sky", "kind": "ground", "gradient": {"kind": "linear", "from": [0, 0], "to": [0, 1], "named": "noon"}},
			{"id": "line", "name": "Line", "kind": "words", "text": "Odalys", "type": {"size": 80}, "fill": "#ffffff", "size": [400, 100]},
			{"id": "v", "name": "V", "kind": "view", "pocket": "kite", "size": [400, 300]}],
		"sheet": {"groups": [{"id": "all", "label": "All", "entries": [%s]}]}}`, entries)
}

// Every kind of the table has its behaviour, and no other has one.
func TestEveryKindOfEntriesIsBehaved(t *testing.T) {
	if len(scheme.Entries.Kinds) != len(asks) {
		t.Errorf("%d kinds, %d behaviours", len(scheme.Entries.Kinds), len(asks))
	}
	for _, k := range scheme.Entries.Kinds {
		if a, ok := asks[EntryKind(k.Name)]; !ok || a.takes == nil || k.Thread == "" || k.Doc == "" {
			t.Errorf("%s is not told whole", k.Name)
		}
	}
}

// Entries of all kinds are read, and written as they were.
const allKinds = `{"id": "pic", "label": "Picture", "kind": "media", "pocket": "kite", "framing": ["zoom", "pan"], "cue": "poster"},
	{"id": "shape", "label": "Shape", "kind": "choice", "options": [{"id": "round", "label": "Round"}, {"id": "flat", "label": "Flat"}], "default": "round",
		"ties": [{"to": "layers/ring/size", "stops": [{"at": "round", "value": [400, 400]}, {"at": "flat", "value": [400, 40]}]}]},
	{"id": "on", "label": "Ring", "kind": "switch", "default": true, "ties": [{"to": "layers/ring/hidden", "stops": [{"at": true, "value": false}, {"at": false, "value": true}]}]},
	{"id": "length", "label": "Length", "kind": "duration", "unit": "s", "max": 500},
	{"id": "at", "label": "Where", "kind": "place", "default": [10, 20], "area": [-100, -50, 100, 50], "when": {"entry": "on", "is": [true]},
		"ties": [{"to": "layers/ring/place"}, {"to": "layers/v/place.x", "of": "x"}, {"to": "layers/v/turn", "of": "y", "from": [-50, 50], "into": [-9, 9]}]},
	{"id": "wide", "label": "Width", "kind": "amount", "default": 50, "min": 0, "max": 100, "notches": [0, 50, 100],
		"ties": [{"to": "layers/ring/opacity", "from": [0, 100], "into": [0, 1], "ease": [0.42, 0, 1, 1]},
			{"to": "layers/ring/fill", "stops": [{"at": 0, "value": "#000000"}, {"at": 50, "value": "#c01030", "ease": [0.25, 0.1, 0.25, 1]}, {"at": 100, "value": "#ffffff"}]}]},
	{"id": "lean", "label": "Lean", "kind": "angle", "default": 0, "min": -90, "max": 90, "ties": [{"to": "layers/ring/turn"}]},
	{"id": "tint", "label": "Tint", "kind": "colour", "default": "#1e7383", "fixed": true, "ties": [{"to": "colours/sea"}]},
	{"id": "light", "label": "Light", "kind": "gradient", "default": "noon", "options": [{"id": "noon", "label": "Noon"}, {"id": "dusk", "label": "Dusk"}],
		"ties": [{"to": "layers/sky/gradient.named"}, {"to": "layers/sky/opacity", "stops": [{"at": "noon", "value": 1}, {"at": "dusk", "value": 0.5}]}]},
	{"id": "name", "label": "Name", "kind": "words", "default": "Odalys Fenn", "letters": 40, "required": true, "ties": [{"to": "layers/line/text"}]},
	{"id": "more", "label": "More", "kind": "lines", "default": "One\nTwo", "lines": 3},
	{"id": "face", "label": "Face", "kind": "typeface", "default": "figtree", "options": [{"id": "figtree", "label": "Figtree"}, {"id": "bitter", "label": "Bitter"}], "ties": [{"to": "layers/line/face"}]}`

func TestEntriesOfAllKindsAreRead(t *testing.T) {
	d, err := Parse(sheetOf(allKinds))
	if err != nil {
		t.Fatal(err)
	}
	for _, k := range scheme.Entries.Kinds {
		found := false
		for _, e := range d.Sheet.Entries() {
			found = found || string(e.Kind) == k.Name
		}
		if !found {
			t.Errorf("%s is not tried", k.Name)
		}
	}
	if e := d.Sheet.Fills("kite"); e == nil || e.ID != "pic" {
		t.Error("the pocket is filled by no entry")
	}
	lo, hi := d.Sheet.Entry("length").Lengths(d)
	if least, _ := d.Lengths(); least != lo || lo < 40 || lo > 41 || hi != 500 { // two held spans of 20 frames
		t.Errorf("a piece has %d to %d frames", lo, hi)
	}
	schema := judge.NewSchema(t, JSONSchema())
	if err := schema.Fits(sheetOf(allKinds)); err != nil {
		t.Errorf("the schema refuses it: %v", err)
	}
}

// What is wrong with an entry is told at its place.
func TestFaultsOfEntries(t *testing.T) {
	for _, c := range [][3]string{ // in place of, what, the fault
		{`"framing": ["zoom", "pan"]`, `"framing": ["zoom", "zoom"]`, `entries[0].framing[1]: "zoom" is not one of`},
		{`"pocket": "kite", "framing"`, `"pocket": "gull", "framing"`, `entries[0].pocket: there is no pocket`},
		{`"cue": "poster"`, `"cue": "noon"`, `entries[0].cue: there is no cue`},
		{`, {"id": "flat", "label": "Flat"}`, ``, `entries[1].options: are 1`},
		{`"id": "flat", "label"`, `"id": "round", "label"`, `entries[1].options[1].id: "round" is not an id of its own`},
		{`"default": "round"`, `"default": "square"`, `entries[1].default: square is not one of its options: round, flat`},
		{`"at": "flat"`, `"at": "round"`, `entries[1].ties[0].stops[1].at: Round is there already`},
		{`"value": [400, 40]`, `"value": [400]`, `entries[1].ties[0].to: `},
		{`"default": true`, `"default": 1`, `entries[2].default: 1 is neither true nor false`},
		{`"unit": "s"`, `"unit": "h"`, `entries[3].unit: `},
		{`"max": 500`, `"max": 99`, `entries[3].max: the template's own 100 frames lie outside`},
		{`"max": 500`, `"max": 500, "min": 3`, `entries[3].min: `},
		{`"default": [10, 20]`, `"default": [10, 60]`, `entries[4].default: y: 60 is outside`},
		{`[-100, -50, 100, 50]`, `[100, -50, -100, 50]`, `entries[4].area: `},
		{`"of": "x"`, `"of": "z"`, `entries[4].ties[1].of: "z"`},
		{`"is": [true]`, `"is": ["yes"]`, `entries[4].when.is[0]: `},
		{`"entry": "on"`, `"entry": "lean"`, `entries[4].when.entry: Lean is neither`},
		{`"entry": "on"`, `"entry": "off"`, `entries[4].when.entry: there is no entry`},
		{`"notches": [0, 50, 100]`, `"notches": [0, 50, 50]`, `entries[5].notches[2]: does not come after`},
		{`"notches": [0, 50, 100]`, `"notches": [0, 101]`, `entries[5].notches[1]: 101 is outside`},
		{`"into": [0, 1], "ease": [0.42, 0, 1, 1]`, `"into": [0, 1], "ease": [0.42, 0, 1.5, 1]`, `entries[5].ties[0].ease`},
		{`"into": [0, 1], "ease": [0.42, 0, 1, 1]`, `"into": [0, 1], "ease": [0.4, 0, 0.5, 9]`, `entries[5].ties[0].to: `},
		{`"to": "layers/ring/opacity", "from"`, `"stops": [{"at": 1, "value": 1}], "to": "layers/ring/opacity", "from"`, `has both a range and stops`},
		{`{"at": 100, "value": "#ffffff"}`, `{"at": 40, "value": "#ffffff"}`, `entries[5].ties[1].stops[2].at: does not come after`},
		{`{"at": 100, "value": "#ffffff"}`, `{"at": 100, "value": "white"}`, `entries[5].ties[1].to: `},
		{`"default": 0, "min": -90`, `"default": 91, "min": -90`, `entries[6].default: 91 is outside`},
		{`"default": "#1e7383"`, `"default": "teal"`, `entries[7].default: `},
		{`"to": "colours/sea"`, `"to": "colours/sky"`, `entries[7].ties[0].to: `},
		{`"to": "colours/sea"`, `"to": "colours/sea", "from": [0, 1], "into": [0, 1]`, `entries[7].ties[0].from: only numbers`},
		{`{"id": "dusk", "label": "Dusk"}`, `{"id": "night", "label": "Night"}`, `entries[8].options[1].id: there is no gradient named "night"`},
		{`, {"id": "dusk", "label": "Dusk"}`, ``, `entries[8].options: are 1; a gradient is between 2`},
		{`"default": "noon"`, `"default": "dawn"`, `entries[8].default: dawn is not one of its options: noon, dusk`},
		{`{"to": "layers/sky/gradient.named"}`, `{"to": "layers/sky/gradient.kind"}`, `entries[8].ties[0].to: gradient.kind is the template's own`},
		{`{"to": "layers/sky/gradient.named"}`, `{"to": "layers/sky/fill"}`, `entries[8].ties[0].to: `},
		{`"named": "noon"`, `"named": "night"`, `gradient.named: there is no gradient named "night"`},
		{`, {"at": 1, "colour": "colour:sea"}`, ``, `gradients[0].stops: 1 of them is outside 2 to`},
		{`{"at": 0, "colour": "#402030"}`, `{"at": 0, "colour": "#402030", "formulas": {"at": "time.share"}}`, `gradients[0].stops[0]: moves, which`},
		{`"name": "Noon", "stops"`, `"name": " ", "stops"`, `gradients[1].name: is missing`},
		{`"id": "noon", "name"`, `"id": "sky", "name"`, `layers[1].id: "sky" is already the id of gradients[1]`},
		{`"fixed": true`, `"fixed": true, "options": []`, `entries[7].options: a colour entry has no options`},
		{`"id": "lean", "label": "Lean", "kind": "angle"`, `"id": "lean", "label": "Lean", "kind": "smell"`, `entries[6].kind: "smell" is not a kind of entry: media, words`},
		{`"default": "Odalys Fenn"`, `"default": "Odalys\nFenn"`, `entries[9].default: has several lines, and there is room for one`},
		{`"default": "Odalys Fenn"`, `"default": " "`, `entries[9].default: is empty, and it is needed`},
		{`"default": "Odalys Fenn", "letters": 40`, `"default": "Odalys Fenn", "letters": 4`, `entries[9].default: has 11 letters, and there is room for 4`},
		{`"letters": 40`, `"letters": 4000`, `entries[9].letters: 4000 is outside`},
		{`"default": "One\nTwo", "lines": 3`, `"default": "1\n2\n3\n4", "lines": 3`, `entries[10].default: has 4 lines`},
		{`"letters": 40, "required"`, `"lines": 1, "required"`, `entries[9].lines: a words entry has no lines`},
		{`"default": "figtree"`, `"default": "gull"`, `entries[11].default: gull is not one of its options`},
		{`"to": "layers/line/face"`, `"to": "layers/line/fill"`, `entries[11].ties[0].to`},
		{`"to": "layers/line/text"`, `"to": "layers/line/type.size"`, `entries[9].ties[0].to`},
	} {
		doc := strings.Replace(string(sheetOf(allKinds)), c[0], c[1], 1)
		if doc == string(sheetOf(allKinds)) {
			t.Errorf("%s is not in the document", c[0])
			continue
		}
		if _, err := Parse([]byte(doc)); err == nil || !strings.Contains(err.Error(), c[2]) {
			t.Errorf("%s in place of %s: %v\nnot %s", c[1], c[0], err, c[2])
		}
	}
	// Two lengths, and two that show one another.
	for what, add := range map[string]string{
		"is a second duration": `, {"id": "more", "label": "More", "kind": "duration"}`,
		"hangs on itself":      `, {"id": "a", "label": "A", "kind": "switch", "default": true, "when": {"entry": "b", "is": [true]}}, {"id": "b", "label": "B", "kind": "switch", "default": true, "when": {"entry": "a", "is": [true]}}`,
	} {
		if _, err := Parse(sheetOf(allKinds + add)); err == nil || !strings.Contains(err.Error(), what) {
			t.Errorf("%s: %v", what, err)
		}
	}
}

// A tie maps by its range and its curve (CSS Easing Functions Level 1: ease-in is
// cubic-bezier(0.42, 0, 1, 1)), and stands at its stops.
func TestTiesMap(t *testing.T) {
	d, err := Parse(sheetOf(allKinds))
	if err != nil {
		t.Fatal(err)
	}
	num := func(v scheme.Value, ok bool) float64 {
		if !ok {
			return math.NaN()
		}
		return v.Number()
	}
	wide := d.Sheet.Entry("wide")
	easeIn := timing.Easing{0.42, 0, 1, 1}
	for _, at := range []float64{0, 12.5, 50, 99, 100} {
		if got, want := num(wide.Ties[0].Value(wide, scheme.One(at))), easeIn.At(at/100); math.Abs(got-want) > 1e-12 {
			t.Errorf("at %g the opacity is %g, not %g", at, got, want)
		}
	}
	fill := func(at float64) string {
		v, _ := wide.Ties[1].Value(wide, scheme.One(at))
		return v.Text
	}
	if fill(0) != "#000000" || fill(50) != "#c01030" || fill(100) != "#ffffff" || fill(25) != "#600818" {
		t.Errorf("fills are %s %s %s %s", fill(0), fill(25), fill(50), fill(100))
	}
	ease := timing.Easing{0.25, 0.1, 0.25, 1} // "ease" of CSS
	if got, want := fill(75), fmt.Sprintf("#%02x%02x%02x", int(192+63*ease.At(0.5)+0.5), int(16+239*ease.At(0.5)+0.5), int(48+207*ease.At(0.5)+0.5)); got != want {
		t.Errorf("between the last two stops the fill is %s, not %s", got, want)
	}
	at := d.Sheet.Entry("at")
	if x, y := num(at.Ties[1].Value(at, scheme.Many(30, 50))), num(at.Ties[2].Value(at, scheme.Many(30, 50))); x != 30 || y != 9 {
		t.Errorf("of a place came %g and %g", x, y)
	}
	shape := d.Sheet.Entry("shape")
	shape.Ties[0].Stops = shape.Ties[0].Stops[1:]
	if _, ok := shape.Ties[0].Value(shape, scheme.Says("round")); ok {
		t.Error("a choice without a stop sets something")
	}
	// CSS Color Level 4, 12.3: colours are mixed premultiplied, so a clear one brings no hue.
	if got := Mix(scheme.Says("#ff0000"), scheme.Says("#0000ff00"), 0.5).Text; got != "#ff000080" {
		t.Errorf("half of red and clear blue is %s", got)
	}
	if got := Mix(scheme.Says("multiply"), scheme.Says("screen"), 0.99).Text; got != "multiply" {
		t.Errorf("of two words comes %s", got)
	}
}

// Between its stops a tie never leaves what they span, and it is continuous.
func TestTiesStayBetweenTheirStops(t *testing.T) {
	rng := rand.New(rand.NewPCG(5, 13))
	for range 400 {
		lo, hi := 0.0, 100.0
		e := &Entry{Kind: AmountEntry, Min: &lo, Max: &hi}
		tie := Tie{}
		least, most := math.Inf(1), math.Inf(-1)
		for at := rng.Float64() * 20; at < 110; at += 1 + rng.Float64()*40 {
			v := rng.Float64()*10 - 5
			least, most = min(least, v), max(most, v)
			ease := timing.Easing{rng.Float64(), rng.Float64(), rng.Float64(), rng.Float64()}
			tie.Stops = append(tie.Stops, Stop{scheme.One(at), scheme.One(v), &ease})
		}
		was := math.NaN()
		for at := -10.0; at <= 120; at += 0.01 {
			v, ok := tie.Value(e, scheme.One(at))
			if n := v.Number(); !ok || n < least-1e-9 || n > most+1e-9 || math.Abs(n-was) > 5 {
				t.Fatalf("at %g it is %v after %g, outside %g to %g", at, v, was, least, most)
			}
			was = v.Number()
		}
		for _, s := range tie.Stops {
			if v, _ := tie.Value(e, s.At); v.Number() != s.Value.Number() {
				t.Fatalf("at the stop %v it is %v, not %v", s.At, v, s.Value)
			}
		}
	}
}

// Where an entry is set by example: its notches, or its ends and its default.
func TestStopsOfEntries(t *testing.T) {
	d, err := Parse(sheetOf(allKinds))
	if err != nil {
		t.Fatal(err)
	}
	for id, want := range map[string]string{"wide": "[0 50 100]", "lean": "[-90 0 90]", "shape": "[round flat]", "on": "[false true]", "tint": "[]", "at": "[]"} {
		if got := fmt.Sprint(d.Sheet.Entry(id).Stops()); got != want {
			t.Errorf("stops of %s are %s, not %s", id, got, want)
		}
	}
	holds := func(v scheme.Value) bool {
		return d.Sheet.Entry("at").When.Holds(func(string) (scheme.Value, bool) { return v, true })
	}
	if !holds(scheme.Is(true)) || holds(scheme.Is(false)) {
		t.Error("the place is shown at the wrong time")
	}
	for id, want := range map[string]string{"shape": "Round", "on": "on", "wide": "50", "lean": "0°"} {
		if e := d.Sheet.Entry(id); e.Says(*e.Default) != want {
			t.Errorf("%s says %s", id, e.Says(*e.Default))
		}
	}
}
