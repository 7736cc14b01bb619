package template

import (
	"fmt"
	"strings"
	"testing"

	"ivypocket/core/scheme"
	"ivypocket/core/timing"
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

// What changes from one key to the next across a border crosses it; what is held, stays as it
// is, or ends at the border does not.
func TestKeysThatCrossABorder(t *testing.T) {
	key := func(id string, at int64, v float64, hold bool) Key {
		return Key{ID: id, At: timing.Int(at), Value: scheme.One(v), Hold: hold}
	}
	m := Move{Keys: []Key{key("a", 0, 0, false), key("b", 20, 1, false), key("c", 30, 1, false), key("d", 50, 2, true), key("e", 70, 3, false), key("f", 90, 4, false)}}
	for _, c := range []struct {
		late    int64
		borders []int64
		want    string
	}{{0, nil, "[]"}, {0, []int64{10}, "[a]"}, {0, []int64{20}, "[]"}, {0, []int64{25}, "[]"}, {0, []int64{40, 60, 80}, "[c e]"}, {5, []int64{20}, "[a]"}, {-10, []int64{0}, "[a]"}} {
		if got := fmt.Sprint(m.Crosses(timing.Int(c.late), c.borders)); got != c.want {
			t.Errorf("%d later, %v: %s, want %s", c.late, c.borders, got, c.want)
		}
	}
	// On an even way the inner keys have no instants of their own.
	even := Move{Keys: []Key{key("a", 0, 0, false), {ID: "b", Value: scheme.One(5)}, key("c", 20, 0, false)}}
	if got := fmt.Sprint(even.Crosses(timing.Int(0), []int64{15})); got != "[a]" {
		t.Errorf("an even way: %s", got)
	}
}
