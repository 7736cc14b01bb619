package template

import (
	"fmt"
	"math"
	"strings"
	"testing"
)

// What is set and never seen is told with both places; the written example has
// nothing of the kind.
func TestFindingsNameBothPlaces(t *testing.T) {
	found := func(data []byte) (out []string) {
		t.Helper()
		d, err := Parse(data)
		if err != nil {
			t.Fatal(err)
		}
		for _, f := range d.Findings() {
			out = append(out, f.Error())
		}
		return out
	}
	if got := found(example(t, "split")); got != nil {
		t.Errorf("the example: %v", got)
	}
	const (
		border = `"ties": [{"to": "layouts/tides/gutter"}, {"to": "layers/mark/opacity", "from": [0, 60], "into": [1, 0.6]}]`
		mark   = `"place": [320, 0], "size": [240, 240],`
	)
	for what, c := range map[string]struct{ old, with, at, other string }{
		"a format's own value": {`tides/margin": 8`, `tides/gutter": 8`, "formats[1].rest.layouts/tides/gutter: ", "sheet.groups[1].entries[0].ties[0]"},
		"two on one property": {`"ties": [{"to": "colours/sand"}]`, `"ties": [{"to": "colours/sand"}, {"to": "colours/sand"}]`,
			"sheet.groups[2].entries[0].ties[1]: ", "sheet.groups[2].entries[0].ties[0]"},
		"an idle entry":           {`"ties": [{"to": "colours/sand"}]`, `"ties": []`, "sheet.groups[2].entries[0]: ", "Border colour"},
		"a tie under a formula":   {mark, mark + ` "formulas": {"opacity": "0.5"},`, "sheet.groups[1].entries[0].ties[1]: ", "formula opacity"},
		"a rest under a formula":  {mark, mark + ` "formulas": {"place.x": "canvas.w / 4", "place.y": "canvas.h / 4"},`, "layers[3].place: ", "layers[3].formulas.place"},
		"a default that is other": {mark, `"place": [320, 0], "size": [240, 240], "opacity": 0.3,`, "sheet.groups[1].entries[0].ties[1]: ", "0.3"},
	} {
		got := found(change(t, c.old, c.with))
		if len(got) != 1 || !strings.HasPrefix(got[0], c.at) || !strings.Contains(got[0], c.other) {
			t.Errorf("%s: want one finding at %q that names %q, got %q", what, c.at, c.other, got)
		}
	}
	// A formula for one component leaves the other to rest, an entry that a formula
	// reads is not idle, and the same value twice is no contradiction.
	for what, c := range map[string][2]string{
		"half a place":   {mark, mark + ` "formulas": {"place.x": "canvas.w / 4"},`},
		"a read entry":   {mark, mark + ` "formulas": {"scale.x": "entry('border') / canvas.w * 10"},`},
		"the same value": {mark, `"place": [320, 0], "size": [240, 240], "opacity": 0.92,`},
	} {
		data := change(t, c[0], c[1])
		if what == "a read entry" {
			data = []byte(strings.Replace(string(data), border, `"ties": []`, 1))
		}
		if got := found(data); got != nil {
			t.Errorf("%s: %q", what, got)
		}
	}
}

// Readers take one or the other of a member that is there twice (RFC 8259, 4).
func TestMembersThatAreThereTwiceAreRefused(t *testing.T) {
	got := faults(t, change(t, `"name": "Two Tides",`, `"name": "Two Tides", "name": "Three",`))
	if !strings.Contains(got["name"], "more than once") {
		t.Errorf("%v", got)
	}
	got = faults(t, change(t, `"fill": "colour:sand"`, `"fill": "colour:sand", "turn": 3, "fill": "#000000"`))
	if !strings.Contains(got["layers[0].fill"], "more than once") || len(got) != 1 {
		t.Errorf("%v", got)
	}
	got = faults(t, change(t, `"fill": "colour:sand"`, `"fil": "colour:sand"`))
	if !strings.Contains(got["layers[0].fil"], "a layer of the kind \"shape\" has id, name, kind, place, size") {
		t.Errorf("%v", got)
	}
}

// An amount without a step has a hundred positions or more, whatever its range.
func TestAmountsWithoutAStepHaveOne(t *testing.T) {
	for _, c := range []struct{ lo, hi, step, want float64 }{
		{0, 1, 0, 0.01}, {0, 60, 0, 0.1}, {-100, 100, 0, 1}, {0, 5000, 0, 1}, {0, 0.1, 0, 0.001}, {0, 1, 0.5, 0.5},
	} {
		e := Entry{Kind: AmountEntry, Min: &c.lo, Max: &c.hi, Step: c.step}
		if got := e.StepSize(); math.Abs(got-c.want) > 1e-12 {
			t.Errorf("%g to %g: %g, want %g", c.lo, c.hi, got, c.want)
		}
	}
}

// Soft edges that every copy and every instant of blur makes anew are told with
// what they cost; a few are not.
func TestSoftEdgesThatTakeLongAreTold(t *testing.T) {
	stars := func(n, samples int, in string) []string {
		var layers []string
		for i := range n {
			layers = append(layers, fmt.Sprintf(`{"id": "s%d", "name": "S", "kind": "shape", "fill": "#e0c080", "size": [%d, 300], "motionBlur": {"samples": %d, "shutter": 180}, `+in+`}`, i, 300+i, samples))
		}
		d, err := Parse(withLayers("", strings.Join(layers, ",")))
		if err != nil {
			t.Fatal(err)
		}
		var out []string
		for _, f := range d.Findings() {
			out = append(out, f.Error())
		}
		return out
	}
	const masks = `"masks": [{"id": "m", "form": {"kind": "star", "sides": 5}, "feather": 80}]`
	if got := stars(10, 4, masks); got != nil {
		t.Errorf("%q", got)
	}
	if got := stars(40, 16, masks); len(got) != 1 || !strings.HasPrefix(got[0], "layers[39].masks: some 61 million pixels") {
		t.Errorf("%q", got)
	}
	if got := stars(40, 16, `"treatments": [{"kind": "blur", "radius": 2, `+masks+`}]`); len(got) != 1 || !strings.HasPrefix(got[0], "layers[39].treatments: some 61 million pixels") {
		t.Errorf("%q", got)
	}
}
