package template

import (
	"encoding/json"
	"errors"
	"os"
	"reflect"
	"strings"
	"testing"

	"ivypocket/core/scheme"
)

func example(t testing.TB, name string) []byte {
	t.Helper()
	b, err := os.ReadFile("../../docs/examples/" + name + ".json")
	if err != nil {
		t.Fatal(err)
	}
	return b
}

func faults(t *testing.T, data []byte) map[string]string {
	t.Helper()
	_, err := Parse(data)
	out := map[string]string{}
	var fs Faults
	if errors.As(err, &fs) {
		for _, f := range fs {
			out[f.Path] = f.What
		}
	} else if err != nil {
		t.Fatalf("an error without a place: %v", err)
	}
	return out
}

func TestTheWrittenSplitIsSound(t *testing.T) {
	d, err := Parse(example(t, "split"))
	if err != nil {
		t.Fatal(err)
	}
	again, err := json.Marshal(d)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := Parse(again); err != nil {
		t.Errorf("written out and read again: %v", err)
	}
	square, err := d.For(d.Format("square"))
	if err != nil {
		t.Fatal(err)
	}
	columns, margin := square.Layout("tides").Get(scheme.Columns).Numbers, square.Layout("tides").Number(scheme.Margin)
	if columns[0] != 1 || margin != 8 || d.Layout("tides").Number(scheme.Margin) != 0 {
		t.Errorf("the square format stands with columns %v, margin %g", columns, margin)
	}
}

// What the format describes and this version does not draw is refused by its
// place, in words that say which of the two it is.
func TestWhatIsNotDrawnYetIsRefusedByPlace(t *testing.T) {
	for name, paths := range map[string][]string{
		"card":   {"guides", "faces", "formats[1].guides", "layers[1].look", "sheet.groups[1].entries[0].limits"},
		"reveal": {"layers[1].look", "layers[3].look", "layers[5].look", "pockets[0].limits.alpha"},
	} {
		got := faults(t, example(t, name))
		for _, p := range paths {
			if !strings.Contains(got[p], "does not draw it yet") {
				t.Errorf("%s: %s: %q", name, p, got[p])
			}
		}
		for p, what := range got {
			if !strings.Contains(what, "does not draw it yet") {
				t.Errorf("%s: %s: %s; the example must lie within the format", name, p, what)
			}
		}
	}
}

// change replaces one piece of the sound example's text.
func change(t *testing.T, old, with string) []byte {
	t.Helper()
	s := string(example(t, "split"))
	if !strings.Contains(s, old) {
		t.Fatalf("the example has no %s", old)
	}
	return []byte(strings.Replace(s, old, with, 1))
}

func TestFaultsSayWhereAndWhat(t *testing.T) {
	for _, c := range []struct{ old, with, path, what string }{
		{`"ivypocket": 3`, `"ivypocket": 4`, "ivypocket", "newer"},
		{`"ivypocket": 3,`, ``, "ivypocket", "missing"},
		{`"kind": "template"`, `"kind": "poem"`, "kind", "poem"},
		{`"name": "Two Tides"`, `"name": "  "`, "name", "missing"},
		{`"rate": "25"`, `"rate": "25/0"`, "rate", "fraction"},
		{`"frames": 150`, `"frames": 0`, "frames", "outside"},
		{`"frames": 150`, `"frames": "many"`, "frames", "not a number"},
		{`"frames": 150`, `"frames": 1.5`, "frames", "whole"},
		{`"width": 1920`, `"width": 1921`, "formats[0].width", "even"},
		{`"width": 1920`, `"width": 99999`, "formats[0].width", "8192"},
		{`tides/columns": [1, 1]`, `tides/columns": [1]`, "layers[2].cell", "square"},
		{`"layouts/tides/columns"`, `"layouts/waves/columns"`, "formats[1].rest.layouts/waves/columns", "waves"},
		{`tides/margin": 8`, `tides/margin": -8`, "formats[1].rest.layouts/tides/margin", "outside"},
		{`"#e7d3a2"}`, `"sandy"}`, "colours[0].value", "sandy"},
		{`"gutterBy": "shrink"`, `"gutterBy": "grow"`, "layouts[0].gutterBy", "outwards"},
		{`"columns": [2, 1]`, `"columns": [2, 0]`, "layouts[0].columns[1]", "outside"},
		{`"kinds": ["logo"]`, `"kinds": ["smell"]`, "pockets[2].kinds[0]", "smell"},
		{`"zoom": 1`, `"zoom": 0`, "pockets[1].framing", "zoom"},
		{`"pocket": "flood",`, `"pocket": "food",`, "layers[1].pocket", "food"},
		{`"id": "left"`, `"id": "ground"`, "layers[1].id", "already"},
		{`"id": "left"`, `"id": "The Left"`, "layers[1].id", "letters"},
		{`"at": 24`, `"at": 0`, "layers[1].motion.place.keys[1].at", "after"},
		{`[0.9, 0, 0.1, 1]`, `[0.9, 0, 1.1, 1]`, "layers[1].motion.place.keys[0].ease[2]", "handle"},
		{`"unit": "canvas"`, `"unit": "mile"`, "layers[1].motion.place.unit", "mile"},
		{`"size": [240, 240]`, `"size": [240]`, "layers[3].size", "pair of numbers"},
		{`"fill": "colour:sand"`, `"fill": "colour:mud"`, "layers[0].fill", "mud"},
		{`"kind": "shape"`, `"kind": "plate"`, "layers[0].kind", "yet"},
		{`"at": 75`, `"at": 150`, "cues[0].at", "150"},
		{`"default": 12`, `"default": 61`, "sheet.groups[1].entries[0].default", "outside"},
		{`"min": 0, "max": 60`, `"min": 60, "max": 0`, "sheet.groups[1].entries[0].max", "min"},
		{`"to": "layouts/tides/gutter"`, `"to": "layouts/tides/smell"`, "sheet.groups[1].entries[0].ties[0].to", "smell"},
		{`"from": [0, 60], "into": [1, 0.6]`, `"from": [0, 60], "into": [1, 6]`, "sheet.groups[1].entries[0].ties[1].to", "outside"},
		{`"data": "mark"`, `"data": "ebb-tide"`, "sheet.groups[0].entries[2].data", "already"},
		{`"family":`, `"familiar":`, "familiar", "not part of the format"},
	} {
		got := faults(t, change(t, c.old, c.with))
		if !strings.Contains(got[c.path], c.what) {
			t.Errorf("%s → %s: want a fault at %s about %q, got %v", c.old, c.with, c.path, c.what, got)
		}
	}
}

// Documents of every earlier schema say what they said.
func TestOlderSchemasAreUpgraded(t *testing.T) {
	read := func(s string) (*Document, string) {
		t.Helper()
		d, err := Parse([]byte(s))
		if err != nil {
			t.Fatal(err)
		}
		b, err := json.Marshal(d)
		if err != nil {
			t.Fatal(err)
		}
		return d, string(b)
	}
	file := func(name string) string {
		b, err := os.ReadFile("testdata/" + name)
		if err != nil {
			t.Fatal(err)
		}
		return string(b)
	}
	split2 := file("split2.json")
	_, now := read(string(example(t, "split")))
	if _, got := read(split2); got != now {
		t.Errorf("schema 2 became\n%s\nand not\n%s", got, now)
	}
	everything2, at2 := file("layers2.json"), `"ivypocket":3`
	_, now = read(string(everything()))
	if _, got := read(everything2); got != now || !strings.Contains(now, at2) {
		t.Errorf("schema 2 became\n%s\nand not\n%s", got, now)
	}
	s := strings.Replace(split2, `"ivypocket": 2`, `"ivypocket": 0`, 1)
	s = strings.Replace(s, `"rows": [1], "columns": [2, 1]`, `"rows": 1, "columns": 2`, 1)
	s = strings.Replace(s, `"value": 0}`, `"value": [0, 0]}`, 1)
	d, _ := read(s)
	if l := d.Layout("tides"); d.Schema != Schema || len(l.Get(scheme.Rows).Numbers) != 1 || len(l.Get(scheme.Columns).Numbers) != 2 {
		t.Errorf("schema %d, rows %v, columns %v", d.Schema, l.Get(scheme.Rows), l.Get(scheme.Columns))
	}
	if k := d.Layer("mark").Motion["opacity"].Keys[0].Value; !k.Single || k.Numbers[0] != 0 {
		t.Errorf("the first key of an opacity became %v", k)
	}
}

func TestHostileDocumentsEndWell(t *testing.T) {
	for name, data := range map[string]string{
		"empty": "", "not JSON": "{", "a list": "[]", "two": "{} {}", "null": "null",
		"deep":          strings.Repeat("[", 200000),
		"brace in text": `{"name": "` + strings.Repeat("[", 100) + `"}`,
		"huge number":   `{"ivypocket": 1e999}`,
	} {
		if got := faults(t, []byte(data)); len(got) == 0 {
			t.Errorf("%s was taken", name)
		}
	}
	if _, err := Parse(make([]byte, MaxBytes+1)); err == nil {
		t.Error("a document over the limit was taken")
	}
}

func FuzzParse(f *testing.F) {
	for _, name := range []string{"split", "card", "reveal", "transition"} {
		f.Add(example(f, name))
	}
	f.Add(everything())
	f.Add([]byte(`{"ivypocket":0,"layouts":[{"rows":3}]}`))
	f.Fuzz(func(t *testing.T, data []byte) {
		d, err := Parse(data)
		if err != nil {
			if !errors.As(err, new(Faults)) {
				t.Fatalf("an error without a place: %v", err)
			}
			return
		}
		again, err := json.Marshal(d)
		if err != nil {
			t.Fatal(err)
		}
		if _, err := Parse(again); err != nil {
			t.Fatalf("sound, but not when written out and read again: %v", err)
		}
	})
}

// membersOf lists the members of a struct as JSON has them.
func membersOf(thing any) (out []string) {
	t := reflect.TypeOf(thing)
	for i := range t.NumField() {
		if name, _, _ := strings.Cut(t.Field(i).Tag.Get("json"), ","); name != "" && name != "-" {
			out = append(out, name)
		}
	}
	return out
}
