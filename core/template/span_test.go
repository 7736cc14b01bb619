package template

import (
	"fmt"
	"strings"
	"testing"
)

// Layers are there, and what moves on them is told, in the template's time: shifted with the groups they are in.
func TestSpansAreInTheTemplatesTime(t *testing.T) {
	d, err := Parse(withLayers("", `{"id": "g", "name": "G", "kind": "group", "shift": 3, "layers": [{"id": "y", "name": "Y", "kind": "shape", "fill": "#102030", "size": [10, 10], "shift": 5, "in": 10, "out": "41/2",
		"motion": {"place": {"unit": "canvas", "even": true, "keys": [{"at": 0, "value": [0, 0]}, {"value": [0.1, 0]}, {"at": 30, "value": [0.2, 0]}]}, "opacity": {"keys": [{"at": 30, "value": 1}]}},
		"masks": [{"id": "m", "motion": {"turn": {"keys": [{"at": 7, "value": 0}]}}}], "treatments": [{"id": "soft", "kind": "blur", "radius": 2, "masks": [{"id": "m", "motion": {"turn": {"keys": [{"at": "15/2", "value": 0}]}}}]}]}]},
		{"id": "z", "name": "Z", "kind": "ground", "fill": "#102030", "shift": 5}`))
	if err != nil {
		t.Fatal(err)
	}
	y, z := d.Layer("y"), d.Layer("z")
	late := d.Late("y")
	in, out := y.Span(d, late)
	zin, zout := z.Span(d, d.Late("z"))
	if got := fmt.Sprint(in, out, zin, zout, late); got != "18 57/2 0 50 8" {
		t.Errorf("they are there %s", got)
	}
	var got []string
	for _, m := range append(y.Moving(), d.Layer("g").Moving()...) {
		got = append(got, fmt.Sprint(m.Path, " ", len(m.Move.Keys)))
	}
	if got := strings.Join(got, ", "); got != "layers/y/place 3, layers/y/opacity 1, layers/y/masks/m/turn 1, layers/y/treatments/soft/masks/m/turn 1" {
		t.Errorf("what moves is %s", got)
	}
}
