package release

import (
	"fmt"
	"strings"
	"testing"

	"ivypocket/core/internal/sample"
	"ivypocket/core/template"
)

func told(all []Difference) string {
	var out []string
	for _, d := range all {
		out = append(out, fmt.Sprintf("%s %s (%s)", d.What, d.How, strings.Join(d.Says, "; ")))
	}
	return strings.Join(out, ", ")
}

// Entries that are new, gone, called otherwise and otherwise are told apart, with what they
// say now and said before; what is not on the sheet, too.
func TestReleasesAreCompared(t *testing.T) {
	const mark = `{"label": "Mark", "data": "mark", "kind": "media", "pocket": "logo"}`
	for name, c := range map[string]struct {
		replace         []string
		sheet, template string
	}{
		"limits":   {[]string{`"max": 60`, `"max": 80`, `"default": 12`, `"default": 14`}, "Border changed (Default: 14, was 12; Most: 80, was 60)", ""},
		"a label":  {[]string{`"label": "Border",`, `"label": "Seam",`}, "Seam renamed (Label: Seam, was Border)", ""},
		"help":     {[]string{`"unit": "px"`, `"unit": "px", "help": "The gap."`}, "Border changed (Help: The gap.)", ""},
		"no unit":  {[]string{`, "unit": "px"`, ``}, "Border changed (Unit: none, was px)", ""},
		"its ties": {[]string{`{"to": "layouts/tides/gutter"}, `, ``}, "Border changed (Ties: changed)", ""},
		"one less": {[]string{",\n      " + mark, ``}, "Mark lost (Media)", ""},
		"one more": {[]string{mark, mark + `, {"label": "Shown", "data": "shown", "kind": "switch", "default": true, "ties": [{"to": "layers/mark/hidden", "stops": [{"at": true, "value": false}]}]}`},
			"Shown added (Switch)", ""},
		"a kind": {[]string{`"kind": "amount", "default": 12`, `"kind": "angle", "default": 12`, `, "unit": "px"`, ``}, "Border changed (Is angle, was amount)", ""},
		"canvas": {[]string{`"width": 1920`, `"width": 3840`, `"frames": 150`, `"frames": 200`}, "", "Length changed (200 frames, was 150), Format Landscape changed (3840 × 1080, was 1920 × 1080)"},
		"layers": {[]string{`"id": "ground", "name": "Backing"`, `"id": "backing", "name": "Backing"`, `"fill": "colour:sand"`, `"fill": "#ffffff"`},
			"", "Layers changed (New: Backing; Gone: Backing)"},
		"colours":           {[]string{`"value": "#e7d3a2"`, `"value": "#ffffff"`, `"default": "#e7d3a2"`, `"default": "#ffffff"`}, "Border colour changed (Default: #ffffff, was #e7d3a2)", "Colour Sand changed (#ffffff, was #e7d3a2)"},
		"one colour more":   {[]string{`{"id": "sand",`, `{"id": "reed", "name": "Reed", "value": "#000000"}, {"id": "sand",`}, "", "Colour Reed added (#000000)"},
		"cells":             {[]string{`"columns": [2, 1]`, `"columns": [3, 1]`}, "", "Layouts changed ()"},
		"one gradient more": {[]string{`"layouts": [`, `"gradients": [{"id": "dusk", "name": "Dusk", "stops": [{"at": 0, "colour": "#000000"}, {"at": 1, "colour": "#ffffff"}]}], "layouts": [`}, "", "Gradient Dusk added ()"},
		"a layer":           {[]string{`"place": [320, 0]`, `"place": [321, 0]`}, "", "Layers changed (Changed: Mark)"},
	} {
		got := Compare(sample.Split(t), sample.Split(t, c.replace...))
		if told(got.Sheet) != c.sheet || told(got.Template) != c.template || got.Alike {
			t.Errorf("%s: %q and %q, want %q and %q", name, told(got.Sheet), told(got.Template), c.sheet, c.template)
		}
		// The other way round what was added is lost.
		back := Compare(sample.Split(t, c.replace...), sample.Split(t))
		if len(back.Sheet) != len(got.Sheet) || len(back.Template) != len(got.Template) {
			t.Errorf("%s: the other way round %q, %q", name, told(back.Sheet), told(back.Template))
		}
	}
	dusk := func(colour string) *template.Document {
		return sample.Split(t, `"layouts": [`, `"gradients": [{"id": "dusk", "name": "Dusk", "stops": [{"at": 0, "colour": "`+colour+`"}, {"at": 1, "colour": "#ffffff"}]}], "layouts": [`)
	}
	if got := told(Compare(dusk("#000000"), dusk("#102030")).Template); got != "Gradient Dusk changed ()" {
		t.Errorf("another stop: %s", got)
	}
	if got := Compare(sample.Split(t), sample.Split(t)); !got.Alike || got.Sheet != nil || got.Template != nil {
		t.Errorf("with itself: %+v", got)
	}
}

// What lies in a group is told for itself, and many names are cut short.
func TestManyLayersAreNamedInShort(t *testing.T) {
	var layers []string
	for i := range 12 {
		layers = append(layers, fmt.Sprintf(`{"id": "y%d", "name": "Y%d", "kind": "shape", "size": [10, 10], "fill": "#ffffff"}`, i, i))
	}
	doc := func(list string) *template.Document {
		d, err := template.Parse([]byte(`{"ivypocket": 3, "kind": "template", "id": "t", "name": "T", "category": "C", "rate": "25", "frames": 10,
			"formats": [{"id": "l", "name": "L", "width": 64, "height": 32}], "layers": [{"id": "g", "name": "G", "kind": "group", "layers": [` + list + `]}]}`))
		if err != nil {
			t.Fatal(err)
		}
		return d
	}
	got := Compare(doc(layers[0]), doc(strings.ReplaceAll(strings.Join(layers, ","), `"id": "y0", "name": "Y0"`, `"id": "y0", "name": "First"`)))
	if want := "Layers changed (New: Y1, Y2, Y3, Y4, Y5, Y6, Y7, Y8 and 3 more; Changed: First)"; told(got.Template) != want {
		t.Errorf("%q, want %q", told(got.Template), want)
	}
}
