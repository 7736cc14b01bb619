package scene_test

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"

	"ivypocket/core/scene"
	"ivypocket/core/sheet"
	"ivypocket/core/template"
)

const gull = `"motifs": [
	{"id": "gull", "name": "Gull", "kind": "group", "size": [40, 20], "clip": true, "layers": [
		{"id": "wing", "name": "Wing", "kind": "shape", "fill": "#ff0000", "size": [10, 10], "place": [-5, 0], "masks": [{"id": "m", "size": [4, 4]}],
			"motion": {"turn": {"keys": [{"at": 0, "value": 0}, {"at": 50, "value": 90}]}}},
		{"id": "tail", "name": "Tail", "kind": "shape", "fill": "#0000ff", "size": [6, 6], "follow": "wing", "formulas": {"turn": "layer('wing').turn * 2", "opacity": "value('layers/wing/masks/m/size.x') / 10"}},
		{"id": "face", "name": "Face", "kind": "view", "pocket": "north", "size": [8, 8], "matte": {"layer": "wing", "of": "alpha"}}]},
	{"id": "flock", "name": "Flock", "kind": "group", "layers": [
		{"id": "first", "name": "F", "kind": "use", "motif": "gull", "place": [-30, 0]},
		{"id": "second", "name": "S", "kind": "use", "motif": "gull", "place": [30, 0], "shift": 10, "values": {"layers/wing/fill": "#00ff00"}}]}],`

const pockets = `"pockets": [{"id": "north", "name": "N", "kinds": ["picture"], "standIn": {"media": "%s"}}, {"id": "south", "name": "S", "kinds": ["picture"], "standIn": {"media": "%s"}}],`

// A motif is built once; each use stands, plays and looks as it says, with values
// of its own, in motifs too; what follows, cuts and reads stays within its use.
func TestMotifsAreUsedManyTimes(t *testing.T) {
	more := gull + fmt.Sprintf(pockets, hash("a"), hash("b")) + fmt.Sprintf(sheetOf, strings.Replace(amount("open", 8, "layers/two:wing/masks/m/size.x")+","+amount("deep", 9, "layers/all:second:wing/masks/m/size.y"), "-99", "0", 2))
	layers := `{"id": "one", "name": "One", "kind": "use", "motif": "gull"},
		{"id": "two", "name": "Two", "kind": "use", "motif": "gull", "place": [0, 50], "size": [30, 30], "opacity": 0.5, "values": {"layers/face/pocket": "south", "layers/wing/place.x": 3}},
		{"id": "all", "name": "All", "kind": "use", "motif": "flock", "values": {}},
		{"id": "reads", "name": "R", "kind": "shape", "fill": "#000000", "size": [1, 1], "formulas": {"turn": "layer('all:second:wing').turn"}}`
	s := made(t, 200, 200, more, layers, sheet.Values{})
	near(t, "the motif's own size", now(t, s, "layers/one/size", 0), 40, 20)
	near(t, "a use's size", now(t, s, "layers/two/size", 0), 30, 30)
	near(t, "a number of its own", now(t, s, "layers/two:wing/place", 0), 3, 0)
	near(t, "where it has none", now(t, s, "layers/one:wing/place", 0), -5, 0)
	near(t, "a tied value of a use", append(now(t, s, "layers/two:wing/masks/m/size", 0), now(t, s, "layers/one:wing/masks/m/size", 0)...), 8, 4, 4, 4)
	near(t, "a tied value of a use in a use", now(t, s, "layers/all:second:wing/masks/m/size", 0), 4, 9)
	near(t, "a formula reads its own use", append(now(t, s, "layers/two:tail/opacity", 0), now(t, s, "layers/one:tail/opacity", 0)...), 0.8, 0.4)
	near(t, "a formula reads what moves", now(t, s, "layers/one:tail/turn", 25), 90)
	near(t, "a shifted use", append(now(t, s, "layers/all:first:wing/turn", 30), now(t, s, "layers/all:second:wing/turn", 30)...), 54, 36)
	near(t, "read from outside", now(t, s, "layers/reads/turn", 30), 36)
	near(t, "a use of a motif in a motif", append(now(t, s, "layers/all:second:wing/fill", 0), now(t, s, "layers/all:first:wing/fill", 0)...), 0, 255, 0, 255, 255, 0, 0, 255)
	shown := map[string]string{}
	for _, it := range at(s, 0, 200, 200).Items {
		if it.Kind == scene.PictureItem {
			shown[it.Layer] = it.Media
		}
	}
	if shown["one:face"] != hash("a") || shown["two:face"] != hash("b") || len(shown) != 4 {
		t.Errorf("the pockets show %v", shown)
	}
	// Changing the motif changes all uses: here by a tie.
	s = made(t, 200, 200, gull+fmt.Sprintf(pockets, hash("a"), hash("b"))+fmt.Sprintf(sheetOf, strings.Replace(amount("wide", 17, "layers/wing/size.y"), "-99", "0", 1)), layers, sheet.Values{})
	for _, id := range []string{"one", "two", "all:first"} {
		near(t, id, now(t, s, "layers/"+id+":wing/size", 0), 10, 17)
	}
}

// Formats and pieces set values of a use; written out, all is as it was.
func TestUsesAreSetLikeAnything(t *testing.T) {
	doc, err := template.Parse([]byte(`{"ivypocket": 3, "kind": "template", "id": "t", "name": "T", "category": "Tests", "rate": "25", "frames": 100,
		"formats": [{"id": "only", "name": "Only", "width": 200, "height": 200}, {"id": "other", "name": "O", "width": 200, "height": 200, "rest": {"layers/one:wing/fill": "#ffffff", "layers/one:wing/place.y": 7}}],
		` + gull + fmt.Sprintf(pockets, hash("a"), hash("b")) + `"layers": [{"id": "one", "name": "One", "kind": "use", "motif": "gull", "values": {"layers/face/pocket": "south"}}]}`))
	if err != nil {
		t.Fatal(err)
	}
	first, err := json.Marshal(doc)
	if err != nil {
		t.Fatal(err)
	}
	again, err := template.Parse(first)
	if err != nil {
		t.Fatal(err)
	}
	if second, err := json.Marshal(again); err != nil || string(second) != string(first) || !strings.Contains(string(first), `"values":{"layers/face/pocket":"south"}`) {
		t.Errorf("written as %s: %v", first, err)
	}
	r, err := sheet.Resolve(doc, sheet.Values{})
	if err != nil {
		t.Fatal(err)
	}
	s, err := scene.Compile(r, "other", source)
	if err != nil {
		t.Fatal(err)
	}
	near(t, "by the format", now(t, s, "layers/one:wing/place", 0), -5, 7)
	if b, err := json.Marshal(doc); err != nil || string(b) != string(first) {
		t.Error("resolving changed the template")
	}
	for path, want := range map[string]string{"layers/one:wing/smell": "no property", "layers/one:attic/size": "no such value", "layers/one:wing": "there is no layer named", "layers/one:wing/place.z": "has no"} {
		if _, err := doc.Find(path); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%s: %v, want %q", path, err, want)
		}
	}
}

// What is wrong with motifs and uses is told where it stands.
func TestFaultsOfMotifsAreTold(t *testing.T) {
	for _, c := range []struct{ motifs, layers, want string }{
		{`{"id": "a", "name": "A", "kind": "shape", "fill": "#000000"}`, ``, `motifs[0].kind: a motif is of the kind "group"`},
		{``, `{"id": "y", "name": "Y", "kind": "use", "motif": "a"}`, `layers[0].motif: there is no motif named "a"`},
		{``, `{"id": "y", "name": "Y", "kind": "use"}`, "layers[0].motif: is missing"},
		{`{"id": "a", "name": "A", "kind": "group", "layers": [{"id": "b", "name": "B", "kind": "use", "motif": "a"}]}`, `{"id": "y", "name": "Y", "kind": "use", "motif": "a"}`, "motif: goes in a circle: a uses a"},
		{`{"id": "a", "name": "A", "kind": "group", "layers": [{"id": "b", "name": "B", "kind": "shape", "fill": "#000000", "size": [1, 1]}]}`, `{"id": "y", "name": "Y", "kind": "use", "motif": "a", "values": {"layers/c/size": 1}}`, "layers[0].values.layers/c/size: the motif a has no such value"},
		{`{"id": "a", "name": "A", "kind": "group", "layers": [{"id": "b", "name": "B", "kind": "shape", "fill": "#000000", "size": [1, 1]}]}`, `{"id": "y", "name": "Y", "kind": "use", "motif": "a", "values": {"layers/b/size": 1}}`, "layers[0].values.layers/b/size: is not a pair of numbers"},
		{`{"id": "a", "name": "A", "kind": "group", "layers": [{"id": "b", "name": "B", "kind": "shape", "fill": "#000000", "formulas": {"turn": "layer('c').turn"}}]}`, `{"id": "y", "name": "Y", "kind": "use", "motif": "a"}`, `motifs[0].layers[0].formulas.turn: character 1: there is no layer named "c"`},
		{`{"id": "a", "name": "A", "kind": "group", "layers": [{"id": "y", "name": "B", "kind": "shape", "fill": "#000000"}]}`, `{"id": "y", "name": "Y", "kind": "use", "motif": "a"}`, `"y" is already the id`},
		{`{"id": "a", "name": "A", "kind": "group", "layers": [{"id": "b", "name": "B", "kind": "use", "motif": "c"}, {"id": "b2", "name": "B", "kind": "use", "motif": "c"}]}, {"id": "c", "name": "C", "kind": "group", "layers": [` +
			strings.TrimSuffix(strings.Repeat(`{"id": "dN", "name": "D", "kind": "shape", "fill": "#000000"},`, 400), ",") + `]}`,
			strings.TrimSuffix(strings.Repeat(`{"id": "yN", "name": "Y", "kind": "use", "motif": "a"},`, 6), ","), "more than 4000 layers"},
	} {
		n := 0
		for strings.Contains(c.motifs+c.layers, "N") && strings.Contains(c.motifs, `"dN"`) {
			c.motifs = strings.Replace(c.motifs, `"dN"`, fmt.Sprintf(`"d%d"`, n), 1)
			n++
		}
		for strings.Contains(c.layers, `"yN"`) {
			c.layers = strings.Replace(c.layers, `"yN"`, fmt.Sprintf(`"y%d"`, n), 1)
			n++
		}
		_, err := template.Parse([]byte(`{"ivypocket": 3, "kind": "template", "id": "t", "name": "T", "category": "Tests", "rate": "25", "frames": 100,
			"formats": [{"id": "only", "name": "Only", "width": 200, "height": 200}], "motifs": [` + c.motifs + `], "layers": [` + c.layers + `]}`))
		if err == nil || !strings.Contains(err.Error(), c.want) {
			t.Errorf("%.300s, %.200s: %.300v, want %q", c.motifs, c.layers, err, c.want)
		}
	}
}
