package template

import (
	"bytes"
	"encoding/json"
	"fmt"
	"os"
	"strings"
	"testing"

	"ivypocket/core/scheme"
	"ivypocket/internal/judge"
)

// What is sound fits the JSON Schema, as it is written by hand and as the program
// writes it; what has a member, a kind or a number that it should not have does
// not (santhosh-tekuri/jsonschema, JSON Schema draft 2020-12).
func TestSoundDocumentsFitTheSchema(t *testing.T) {
	fits := judge.NewSchema(t, JSONSchema()).Fits
	sound := map[string][]byte{"the split": example(t, "split"), "every kind of layer": everything()}
	for _, name := range []string{"four-winds", "gust", "sail-window", "sky-and-sand", "telescope"} {
		b, err := os.ReadFile("../../demo/templates/" + name + ".json")
		if err != nil {
			t.Fatal(err)
		}
		n := 0
		for bytes.Contains(b, []byte(`"demo:`)) {
			i := bytes.Index(b, []byte(`"demo:`))
			j := i + 1 + bytes.IndexByte(b[i+1:], '"')
			b = bytes.Replace(b, b[i:j], fmt.Appendf(nil, `"sha256:%064x`, n), 1)
			n++
		}
		sound[name] = b
	}
	for name, b := range sound {
		d, err := Parse(b)
		if err != nil {
			t.Fatalf("%s: %v", name, err)
		}
		again, err := json.Marshal(d)
		if err != nil {
			t.Fatal(err)
		}
		for how, b := range map[string][]byte{"by hand": b, "by the program": again} {
			if err := fits(b); err != nil {
				t.Errorf("%s as written %s: %v", name, how, err)
			}
		}
	}
	for _, c := range [][2]string{
		{`"fill": "colour:sand"`, `"fil": "colour:sand"`}, {`"fill": "colour:sand"`, `"fill": "sand"`}, {`"kind": "shape"`, `"kind": "cloud"`},
		{`"size": [240, 240]`, `"size": [240]`}, {`"size": [240, 240]`, `"size": [240, 99999]`}, {`"size": [240, 240]`, `"size": [240, "9em"]`},
		{`"gutterBy": "shrink"`, `"gutterBy": "grow"`}, {`"width": 1920`, `"width": 12`}, {`"zoom": 1`, `"zoom": 0`}, {`"kinds": ["logo"]`, `"kinds": ["smell"]`},
		{`"category": "Split screens",`, ``}, {`"ivypocket": 3`, `"ivypocket": 2`},
	} {
		b := change(t, c[0], c[1])
		if err := fits(b); err == nil {
			t.Errorf("%s in place of %s fits the schema", c[1], c[0])
		}
	}
	if err := fits(change(t, `"size": [240, 240]`, `"size": ["25vmin", 240]`)); err != nil {
		t.Errorf("a length in shares: %v", err)
	}
}

// Every member of the documents' typed parts is a row, and every row a member.
func TestRowsAreTheMembersOfTypedThings(t *testing.T) {
	for s, thing := range map[*scheme.Sort]any{scheme.Formats: Format{}, scheme.Colours: Colour{}, scheme.Pockets: Pocket{}, scheme.Recipes: Recipe{}, scheme.Cues: Cue{}, scheme.Entries: Entry{}, scheme.Keys: Key{}} {
		has := map[string]bool{"id": true, "name": s.Named, "formulas": s.Formulas, "kind": s.Kinds != nil}
		for _, p := range s.Properties() {
			head, _, _ := strings.Cut(p.Name, ".")
			has[head] = true
		}
		for _, m := range membersOf(thing) {
			if !has[m] {
				t.Errorf("a %s has a member %s and no row for it", s.Name, m)
			}
			delete(has, m)
		}
		for m, is := range has {
			if is {
				t.Errorf("a %s has a row %s and no member for it", s.Name, m)
			}
		}
	}
}
