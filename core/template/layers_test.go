package template

import (
	"encoding/json"
	"fmt"
	"math"
	"strings"
	"testing"

	"ivypocket/core/scheme"
)

// withLayers is a document of the given members and layers.
func withLayers(more, layers string) []byte {
	return fmt.Appendf(nil, `{"ivypocket": 3, "kind": "template", "id": "t", "name": "T", "category": "Tests", "rate": "25", "frames": 50, %s
		"formats": [{"id": "only", "name": "Only", "width": 640, "height": 360}], "layers": [%s]}`, more, layers)
}

func TestFaultsOfLayersSayWhereAndWhat(t *testing.T) {
	shape := func(more string) string {
		return `{"id": "y", "name": "Y", "kind": "shape", "fill": "#102030"` + more + `}`
	}
	for _, c := range []struct{ layers, path, what string }{
		{`{"id": "y", "name": "Y", "kind": "shape"}`, "layers[0].fill", "nothing would be seen"},
		{`{"id": "y", "name": "Y", "kind": "ground"}`, "layers[0]", "either a fill or a gradient"},
		{`{"id": "y", "name": "Y", "kind": "grade"}`, "layers[0].grade", "missing"},
		{`{"id": "y", "name": "Y", "kind": "picture", "media": "here"}`, "layers[0].media", "64 hex digits"},
		{`{"id": "y", "name": "Y", "kind": "cloud"}`, "layers[0].kind", "not a kind of layer"},
		{shape(`, "blend": "burn"`), "layers[0].blend", "color-burn"},
		{shape(`, "form": {"kind": "polygon", "sides": 2}`), "layers[0].form.sides", "3 to 100"},
		{shape(`, "form": {"kind": "path", "path": [[0, 0]]}`), "layers[0].form.path", "2 to"},
		{shape(`, "form": {"kind": "path", "path": [[0, 0], [1, "a"]]}`), "layers[0].form.path[1][1]", "not a number"},
		{shape(`, "in": 30, "out": 20`), "layers[0].out", "after"},
		{shape(`, "follow": "nobody"`), "layers[0].follow", "nobody"},
		{shape(`, "matte": {"layer": "nobody", "of": "alpha"}`), "layers[0].matte.layer", "nobody"},
		{shape(`, "matte": {"layer": "y", "of": "alpha"}`), "layers[0].matte.layer", "y needs y"},
		{shape(`, "masks": [{"id": "m"}, {"id": "m"}]`), "layers[0].masks[1].id", "its own"},
		{shape(`, "masks": [{"id": "m", "mode": "xor"}]`), "layers[0].masks[0].mode", "intersect"},
		{shape(`, "masks": [{"id": "m", "of": "outline"}]`), "layers[0].masks[0].pocket", "name the pocket"},
		{shape(`, "masks": [{"id": "m", "feather": -4}]`), "layers[0].masks[0].feather", "outside 0"},
		{shape(`, "treatments": [{"kind": "blur", "radius": 2, "masks": [{"id": "m", "of": "outline"}]}]`), "layers[0].treatments[0].masks[0].pocket", "name the pocket"},
		{shape(`, "motion": {"smell": {"keys": [{"at": 0, "value": 1}]}}`), "layers[0].motion.smell", "no property"},
		{shape(`, "motion": {"opacity": {"keys": [{"at": 0, "value": 2}]}}`), "layers[0].motion.opacity.keys[0].value", "outside"},
		{shape(`, "motion": {"anchor": {"keys": [{"at": 0, "value": "left"}]}}`), "layers[0].motion.anchor.keys", "does not move"},
		{shape(`, "motion": {"turn": {"even": true, "keys": [{"at": 0, "value": 1}]}}`), "layers[0].motion.turn.keys", "places"},
		{shape(`, "copies": {"count": 0, "seed": 1}`), "layers[0].copies.count", "outside"},
		{shape(`, "motionBlur": {"samples": 99, "shutter": 180}`), "layers[0].motionBlur.samples", "2 to 32"},
		{shape(`, "formulas": {"turn": "self.opacity +"}`), "layers[0].formulas.turn", ""},
		{shape(`, "formulas": {"turn": "canvas.w"}`), "layers[0].formulas.turn", "px"},
		{shape(`, "formulas": {"size": "canvas.w"}`), "layers[0].formulas.size", "size.x"},
		{shape(`, "formulas": {"turn": "layer('nobody').turn"}`), "layers[0].formulas.turn", "nobody"},
		{`{"id": "y", "name": "Y", "kind": "ground", "gradient": {"kind": "spiral", "from": [0, 0], "to": [1, 1], "stops": [{"at": 0, "colour": "#000000"}, {"at": 1, "colour": "#ffffff"}]}}`, "layers[0].gradient.kind", "conic"},
		{`{"id": "y", "name": "Y", "kind": "ground", "gradient": {"kind": "linear", "from": [0, 0], "to": [1, 1], "stops": [{"at": 1, "colour": "#000000"}, {"at": 0, "colour": "#ffffff"}]}}`, "layers[0].gradient.stops[1].at", "before"},
		{`{"id": "y", "name": "Y", "kind": "shape", "stroke": {"colour": "#000000", "width": 4, "cap": "pointed"}}`, "layers[0].stroke.cap", "square"},
	} {
		got := faults(t, withLayers("", c.layers))
		if !strings.Contains(got[c.path], c.what) || got[c.path] == "" {
			t.Errorf("%s: want a fault at %s about %q, got %v", c.layers, c.path, c.what, got)
		}
	}
}

// What goes in a circle is told with every layer on the way.
func TestCirclesAreNamed(t *testing.T) {
	shape := func(id, more string) string {
		return fmt.Sprintf(`{"id": %q, "name": "Y", "kind": "shape", "fill": "#102030", %s}`, id, more)
	}
	for _, c := range []struct{ layers, path, what string }{
		{shape("a", `"follow": "b"`) + "," + shape("b", `"follow": "c"`) + "," + shape("c", `"follow": "a"`), "layers[0].follow", "a follows b follows c follows a"},
		{shape("a", `"matte": {"layer": "b", "of": "luma"}`) + "," + shape("b", `"matte": {"layer": "a", "of": "luma"}`), "layers[0].matte.layer", "a needs b needs a"},
		{`{"id": "g", "name": "G", "kind": "group", "layers": [` + shape("a", `"matte": {"layer": "g", "of": "alpha"}`) + `]}`, "layers[0].layers[0].matte.layer", "a needs g needs a"},
		{shape("a", `"formulas": {"turn": "layer('b').turn"}`) + "," + shape("b", `"formulas": {"turn": "layer('c').turn * 2"}`) + "," + shape("c", `"formulas": {"turn": "layer('a').turn"}`),
			"", "layers/a/turn reads layers/b/turn reads layers/c/turn reads layers/a/turn"},
		{shape("a", `"formulas": {"size.x": "layer('b').box.w"}`) + "," + shape("b", `"formulas": {"size.x": "layer('a').box.w"}`), "", "box('a').w"},
	} {
		got := faults(t, withLayers("", c.layers))
		found := false
		for path, what := range got {
			found = found || (c.path == "" || path == c.path) && strings.Contains(what, c.what)
		}
		if !found {
			t.Errorf("want %q at %q, got %v", c.what, c.path, got)
		}
	}
}

// Everything of the format that is drawn, in one document, comes through reading
// and writing without loss.
func TestEveryKindOfLayerIsReadAndWritten(t *testing.T) {
	doc := everything()
	d, err := Parse(doc)
	if err != nil {
		t.Fatal(err)
	}
	first, err := json.Marshal(d)
	if err != nil {
		t.Fatal(err)
	}
	again, err := Parse(first)
	if err != nil {
		t.Fatalf("what was written is not read: %v\n%s", err, first)
	}
	second, err := json.Marshal(again)
	if err != nil || string(first) != string(second) {
		t.Errorf("%v\n%s\n%s", err, first, second)
	}
	for _, lost := range []string{`"plain":true`, `"open":true`, `"hold":true`, `"even":true`, `"99/2"`, `"of":"hull"`, `"invert":true`, `"from":0.1`} {
		if !strings.Contains(string(first), lost) {
			t.Errorf("%s is lost", lost)
		}
	}
}

// everything is a document with every kind of layer.
func everything() []byte {
	return withLayers(`"spans": [{"kind": "held", "from": 0, "to": 10}], "pockets": [{"id": "p", "name": "P", "kinds": ["picture"]}],`,
		`{"id": "g0", "name": "N", "kind": "ground", "gradient": {"kind": "conic", "from": [0.5, 0.5], "to": [1, 0.5], "stops": [{"at": 0, "colour": "#000000"}, {"at": 1, "colour": "#ffffff80"}], "plain": true}},
		{"id": "g1", "name": "N", "kind": "group", "isolated": true, "opacity": 0.5, "layers": [
			{"id": "s", "name": "N", "kind": "shape", "form": {"kind": "path", "path": [[0, 0], [1, 0, 0, 0.1, 0, -0.1], [1, 1]], "open": true}, "stroke": {"colour": "#010203", "width": 3, "dash": [4, 2], "from": 0.1, "to": 0.9, "cap": "round"},
				"motion": {"form.path": {"keys": [{"at": 0, "value": [[0, 0], [1, 0], [1, 1]]}, {"at": 20, "value": [[0, 0.5], [1, 0], [1, 1]], "hold": true}]}}}]},
		{"id": "v", "name": "N", "kind": "view", "pocket": "p", "radius": [1, 2, 3, 4], "corners": [[0, 0], [4, 5], [0, 0], [-3, 2]], "blend": "soft-light", "matte": {"layer": "s", "of": "luma", "invert": true},
			"masks": [{"id": "m", "of": "hull", "growth": 4}, {"id": "n", "form": {"kind": "star", "sides": 5, "inner": 0.3}, "mode": "subtract", "feather": 6, "soft": "inwards", "falloff": [0.4, 0, 0.6, 1]}],
			"motion": {"place": {"unit": "self", "even": true, "keys": [{"at": 0, "value": [0, 0], "out": [0.1, 0]}, {"value": [0.5, 0.2]}, {"at": 30, "value": [1, 0], "in": [0, 0.1]}]}}},
		{"id": "k", "name": "N", "kind": "camera", "scale": [1.1, 1.1]},
		{"id": "c", "name": "N", "kind": "grade", "grade": {"slope": [1, 1, 0.9], "saturation": 0.5}},
		{"id": "d", "name": "N", "kind": "shape", "form": {"kind": "arrow", "head": 0.3}, "fill": "#abcdef", "copies": {"count": 3, "seed": 9, "spread": [0.1, 0.2]}, "motionBlur": {"samples": 4, "shutter": 90}, "formulas": {"turn": "layer('v').turn + time.share * 90"}, "follow": "v", "in": 2, "out": "99/2"}`)
}

// What would take too long to draw is told at the layer that goes beyond the
// bound, and what lies just below it is not.
func TestDocumentsThatCostTooMuchAreTold(t *testing.T) {
	list := func(n int, f func(i int) string) string {
		var out []string
		for i := range n {
			out = append(out, f(i))
		}
		return strings.Join(out, ",")
	}
	grade := func(i int) string {
		return fmt.Sprintf(`{"id": "g%d", "name": "G", "kind": "grade", "grade": {"saturation": 0.5}}`, i)
	}
	// Each cut by the one before it.
	cut := func(i int) string {
		matte := ""
		if i > 0 {
			matte = fmt.Sprintf(`, "matte": {"layer": "y%d", "of": "alpha"}`, i-1)
		}
		return fmt.Sprintf(`{"id": "y%d", "name": "Y", "kind": "shape", "fill": "#102030"%s}`, i, matte)
	}
	blurred := func(depth int) string {
		y := `{"id": "y", "name": "Y", "kind": "shape", "fill": "#102030"}`
		for i := range depth {
			y = fmt.Sprintf(`{"id": "b%d", "name": "B", "kind": "group", "motionBlur": {"samples": 32, "shutter": 180}, "layers": [%s]}`, i, y)
		}
		return y
	}
	huge := func(layers string) []byte {
		return []byte(strings.Replace(string(withLayers("", layers)), `"width": 640, "height": 360`, `"width": 8192, "height": 8192`, 1))
	}
	for _, c := range []struct {
		what       string
		doc        []byte
		path, says string
	}{
		{"14 grades of 8192²", huge(list(14, grade)), "", ""},
		{"15 grades of 8192²", huge(list(15, grade)), "layers[14]", "there may be 14"},
		{"100 grades of 640 × 360", withLayers("", list(100, grade)), "", ""},
		{"a chain of 16 mattes", withLayers("", list(17, cut)), "", ""},
		{"a chain of 17 mattes", withLayers("", list(18, cut)), "layers[17].matte.layer", "17 mattes"},
		{"a chain of 400 mattes", withLayers("", list(400, cut)), "layers[399].matte.layer", "399 mattes"},
		{"blur in blur", withLayers("", blurred(2)), "", ""},
		{"blur in blur in blur", withLayers("", blurred(3)), "layers[0].layers[0].layers[0]", "Lower the copies"},
	} {
		got := faults(t, c.doc)
		if c.path == "" && len(got) > 0 || c.path != "" && !strings.Contains(got[c.path], c.says) {
			t.Errorf("%s: want %q at %q, got %d faults: %.300v", c.what, c.says, c.path, len(got), got)
		}
	}
}

// Characters that can't be seen, or that turn the order of what follows, have no
// place in any text (Unicode UAX #9).
func TestTextsWithUnseenCharactersAreTold(t *testing.T) {
	for name, want := range map[string]string{`Sea`: "", `S\u00e9a\n`: "", `S\u0000a`: "U+0000", `S\u001ba`: "U+001B", `S\u202eaeS`: "U+202E", `S\u2066a`: "U+2066", `S\u0085a`: "U+0085"} {
		got := faults(t, withLayers("", `{"id": "y", "name": "`+name+`", "kind": "shape", "fill": "#102030"}`))
		if (want == "") != (len(got) == 0) || !strings.Contains(got["layers[0].name"], want) {
			t.Errorf("%s: %v", name, got)
		}
	}
}

// A copy shares nothing that setting changes.
func TestCopiesOfDocumentsShareNothing(t *testing.T) {
	d, err := Parse(withLayers(`"pockets": [{"id": "p", "name": "P", "kinds": ["picture"]}],`, `
		{"id": "v", "name": "V", "kind": "view", "pocket": "p", "size": [9, 9], "content": {"turn": 5, "pan": [0.1, 0], "zoom": 2}, "radius": 3, "masks": [{"id": "m", "feather": 4}]},
		{"id": "g", "name": "G", "kind": "grade", "grade": {"slope": [1, 1, 1], "saturation": 0.5}},
		{"id": "s", "name": "S", "kind": "shape", "form": {"kind": "path", "path": [[0, 0], [1, 1]]}, "stroke": {"colour": "#000000", "width": 4},
			"gradient": {"kind": "linear", "from": [0, 0], "to": [1, 1], "stops": [{"at": 0, "colour": "#000000"}, {"at": 1, "colour": "#ffffff"}]}}`))
	if err != nil {
		t.Fatal(err)
	}
	before, _ := json.Marshal(d)
	c := d.Clone()
	changed := 0
	d.VisitNodes(func(_, path string, n *Node) {
		for _, p := range n.Properties() {
			v := n.Get(p)
			switch p.Type {
			case scheme.Colour:
				v = scheme.Says("#123456")
			case scheme.Choice:
				v = scheme.Says(p.Words[1])
			case scheme.Switch:
				v = scheme.Is(!v.On())
			case scheme.Numbers, scheme.List, scheme.Points:
				if v.Numbers == nil {
					v.Numbers = make([]float64, max(p.Width(), p.Least, 1))
					v.Single = p.Width() == 1
				}
				v.Numbers = append([]float64(nil), v.Numbers...)
				for i := range v.Numbers {
					v.Numbers[i] = min(p.Hi, max(p.Lo, v.Numbers[i]+0.25))
					if p.Integer {
						v.Numbers[i] = math.Round(v.Numbers[i] + 1)
					}
				}
			default:
				continue
			}
			if p == scheme.LayerForm.Kind || p == scheme.MaskForm.Kind || p == scheme.GradientKind || p == scheme.MaskOf {
				continue // others hang on it
			}
			if err := c.Set(path+"/"+p.Name, v); err != nil {
				t.Errorf("%s/%s: %v", path, p.Name, err)
			}
			changed++
		}
	})
	if after, _ := json.Marshal(d); string(after) != string(before) || changed < 30 {
		t.Errorf("after %d changes of a copy the document is\n%s\nand was\n%s", changed, after, before)
	}
}
