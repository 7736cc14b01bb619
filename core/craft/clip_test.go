package craft

import (
	"encoding/json"
	"slices"
	"strings"
	"testing"

	"ivypocket/core/scheme"
	"ivypocket/core/template"
)

// Layers are carried to another template with all that they speak of, and look there as
// they did; what is there already is not brought twice.
func TestLayersAreCarriedBetweenTemplates(t *testing.T) {
	from := doc(t, `{"id": "m", "name": "M", "kind": "shape", "fill": "#ffffff", "hidden": true, "size": [400, 300]},
		{"id": "g", "name": "G", "kind": "group", "layers": [{"id": "v", "name": "V", "kind": "view", "pocket": "bow", "size": [300, 200], "matte": {"layer": "m", "of": "alpha"},
			"masks": [{"id": "k", "feather": 3}], "motion": {"turn": {"keys": [{"at": 0, "value": 0}, {"at": 50, "value": 30}]}}},
		{"id": "s", "name": "S", "kind": "shape", "fill": "colour:sand", "size": [100, 100], "follow": "v", "stroke": {"colour": "colour:sand", "width": 4}}]}`, `"layers/s/place": [40, 0]`,
		`, "colours": [{"id": "sand", "name": "Sand", "value": "#e7d3a2"}], "pockets": [{"id": "bow", "name": "Bow", "kinds": ["picture"], "standIn": {"media": "`+pictureHash+`"}}]`)
	to := doc(t, `{"id": "g", "name": "G", "kind": "shape", "fill": "colour:sand", "size": [10, 10]}`, "", `, "colours": [{"id": "sand", "name": "Sand", "value": "#000000"}]`)
	clip := func(ids ...string) json.RawMessage {
		t.Helper()
		c, err := Copied(from, ids)
		if err != nil {
			t.Fatal(err)
		}
		raw, err := json.Marshal(c)
		if err != nil {
			t.Fatal(err)
		}
		return raw
	}
	next, p := do(t, to, Act{Kind: "paste", Clip: clip("m", "g")})
	if order(next) != "g m g-2" || len(next.Pockets) != 1 || len(next.Colours) != 2 || next.Format("tall").Rest["layers/s/place"].Numbers[0] != 40 {
		t.Fatalf("%s: %s", order(next), text(t, next))
	}
	if c, _ := next.Colour(next.Layer("s").Text(scheme.Fill)); c.R != 0xe7 {
		t.Errorf("the colour is %v", c)
	}
	alone := doc(t, "", "", "")
	there, _ := do(t, alone, Act{Kind: "paste", Clip: clip("m", "g")})
	for _, f := range []string{"wide", "tall"} {
		for id, s := range stands(t, from, f, 25) {
			if q := quad(stands(t, there, f, 25)[id]); !nearQuad(q, quad(s), 1e-6) {
				t.Errorf("%s in %s stands at %v, not %v", id, f, q, quad(s))
			}
		}
	}
	again, _ := do(t, next, Act{Kind: "paste", Clip: clip("m", "g")})
	if len(again.Pockets) != 1 || len(again.Colours) != 2 {
		t.Errorf("%d pockets and %d colours after pasting twice", len(again.Pockets), len(again.Colours))
	}
	// A pocket that the mask of a treatment follows comes along, under another id where one is taken.
	follows := doc(t, `{"id": "f", "name": "F", "kind": "shape", "fill": "#102030", "treatments": [{"id": "soft", "kind": "blur", "radius": 3, "masks": [{"id": "m", "of": "outline", "pocket": "bow"}]}]}, {"id": "v", "name": "V", "kind": "view", "pocket": "bow"}`,
		"", `, "pockets": [{"id": "bow", "name": "Bow", "kinds": ["picture"], "standIn": {"media": "`+pictureHash+`"}}]`)
	c, err := Copied(follows, []string{"f"})
	if err != nil || len(c.Pockets) != 1 {
		t.Fatalf("%v: %d pockets are known of", err, len(c.Pockets))
	}
	c, err = Copied(follows, []string{"f", "v"})
	if err != nil || len(c.Pockets) != 1 {
		t.Fatalf("%v: %d pockets come along", err, len(c.Pockets))
	}
	raw, _ := json.Marshal(c)
	other := doc(t, `{"id": "y", "name": "Y", "kind": "view", "pocket": "bow"}`, "", `, "pockets": [{"id": "bow", "name": "Another bow", "kinds": ["footage"]}]`)
	other, _ = do(t, other, Act{Kind: "paste", Clip: raw})
	if id := other.Layer("f").Treatments()[0].Masks()[0].Text(scheme.MaskPocket); id == "bow" || other.Pocket(id) == nil || other.Pocket(id).Name != "Bow" {
		t.Errorf("its mask follows %q", id)
	}
	// What it hung on and did not come along is let go.
	lone, p := do(t, to, Act{Kind: "paste", Clip: clip("v")})
	if y := lone.Layer(p.Chosen[0]); y.Given(scheme.MatteLayer) || len(y.Masks()) != 1 {
		t.Errorf("%s", text(t, lone))
	}
	// Only the look, the masks, the motion.
	worn, _ := do(t, next, Act{Kind: "dress", Clip: clip("s"), Layers: []string{"g"}, Way: "look"})
	if y := worn.Layer("g"); y.Number(scheme.StrokeWidth) != 4 || y.Get(scheme.Size).Numbers[0] != 10 {
		t.Errorf("the look came to %s", text(t, worn))
	}
	worn, _ = do(t, next, Act{Kind: "dress", Clip: clip("v"), Layers: []string{"g", "m"}, Way: "motion"})
	if worn.Layer("g").Motion["turn"] == nil || worn.Layer("m").Motion["turn"] == nil || worn.Layer("g").Masks() != nil {
		t.Error("the motion did not come")
	}
	worn, _ = do(t, worn, Act{Kind: "dress", Clip: clip("v"), Layers: []string{"g"}, Way: "masks"})
	if len(worn.Layer("g").Masks()) != 1 {
		t.Error("the masks did not come")
	}
	for _, bad := range []string{``, `{}`, `{"ivypocket": "layers", "layers": [3]}`, `{"ivypocket": "layers", "layers": []}`} {
		if _, err := Do(to, shelf{}, Act{Kind: "paste", Format: "wide", Clip: json.RawMessage(bad)}); err == nil || !strings.Contains(err.Error(), "clip: ") {
			t.Errorf("%s: %v", bad, err)
		}
	}
}

// Alone, a layer is drawn with what it is in and what is in it, and nothing else.
func TestLayersAreShownAlone(t *testing.T) {
	d := doc(t, three+`, {"id": "h", "name": "H", "kind": "group", "layers": [{"id": "x", "name": "X", "kind": "shape", "fill": "#ffffff"}, {"id": "y", "name": "Y", "kind": "shape", "fill": "#ffffff"}]}`, "", "")
	a := Alone(d, []string{"x", "b"})
	var hidden []string
	a.Visit(func(_ string, y *template.Layer) {
		if y.On(scheme.Hidden) {
			hidden = append(hidden, y.ID)
		}
	})
	if !slices.Equal(hidden, []string{"a", "c", "y"}) || d.Layer("a").On(scheme.Hidden) {
		t.Errorf("hidden are %v", hidden)
	}
}
