package scene_test

import (
	"bytes"
	"fmt"
	"math"
	"strings"
	"testing"

	"ivypocket/core/scene"
	"ivypocket/core/scheme"
	"ivypocket/core/sheet"
	"ivypocket/core/template"
	"ivypocket/core/timing"
)

// now is a value as it stands at a frame, by its path.
func now(t *testing.T, s *scene.Scene, path string, frame int64) []float64 {
	t.Helper()
	layer := strings.Split(path, "/")[1]
	for _, p := range s.Look(layer, s.Time().At(timing.OutputFrame(frame))).Properties {
		if p.Path == path {
			return p.Now
		}
	}
	t.Fatalf("there is no %s", path)
	return nil
}

func near(t *testing.T, what string, got []float64, want ...float64) {
	t.Helper()
	ok := len(got) == len(want)
	for i := range want {
		ok = ok && math.Abs(got[i]-want[i]) < 1e-9
	}
	if !ok {
		t.Errorf("%s is %v, want %v", what, got, want)
	}
}

const sheetOf = `"sheet": {"groups": [{"id": "g", "label": "G", "entries": [%s]}]},`

func amount(id string, def float64, ties ...string) string {
	for i := range ties {
		ties[i] = fmt.Sprintf(`{"to": %q}`, ties[i])
	}
	return fmt.Sprintf(`{"id": %q, "label": "%s", "kind": "amount", "unit": "px", "default": %g, "min": -99, "max": 400, "ties": [%s]}`, id, id, def, strings.Join(ties, ", "))
}

// Numbers of one property are tied, keyed, eased and yielded apart.
func TestNumbersOfAPropertyGoTheirOwnWays(t *testing.T) {
	s := made(t, 200, 100, fmt.Sprintf(sheetOf, amount("across", 30, "layers/y/place.x")+","+strings.Replace(amount("least", 7, "layers/y/motion/place.y/k1/value"), "400", "99", 1)), `
		{"id": "y", "name": "Y", "kind": "shape", "fill": "#000000", "size": [10, 10], "place": [0, 5], "radius": [1, 2, 3, 4],
		 "motion": {"place.y": {"unit": "canvas", "keys": [{"at": 0, "value": 0.5}, {"at": 50, "value": 1}]}, "size.x": {"keys": [{"at": 0, "value": 2}]}, "scale.y": {"keys": [{"at": 0, "value": 1, "ease": [1, 0, 1, 0]}, {"at": 100, "value": 3}]}},
		 "formulas": {"radius.topRight": "self.size.x", "scale.x": "layer('y').scale.y * 2"}}`, sheet.Values{})
	// The first key's value is the entry's: 7 canvas heights.
	near(t, "place at its first key", now(t, s, "layers/y/place", 0), 30, 5+7*100)
	near(t, "place at its last key", now(t, s, "layers/y/place", 50), 30, 5+100)
	near(t, "size", now(t, s, "layers/y/size", 0), 20, 10)
	near(t, "radius", now(t, s, "layers/y/radius", 0), 1, 20, 3, 4)
	if v := now(t, s, "layers/y/scale", 50); v[1] > 1.3 || v[0] != 2*v[1] {
		t.Errorf("scale is %v", v)
	}
}

// Switches and words have keys that hold, formulas and ties to keys; stops and
// lists move.
func TestEveryValueMoves(t *testing.T) {
	layers := `{"id": "ground", "name": "G", "kind": "ground", "gradient": {"kind": "linear", "from": [0, 0], "to": [1, 0], "stops": [
			{"id": "a", "at": 0, "colour": "#000000", "motion": {"colour": {"keys": [{"at": 0, "value": "#000000"}, {"at": 40, "value": "#ffffff"}]}}}, {"id": "b", "at": 1, "colour": "#ffffff", "formulas": {"at": "1 - time.share"}}]}},
		{"id": "y", "name": "Y", "kind": "shape", "fill": "#ff0000", "size": [100, 100],
		 "motion": {"hidden": {"keys": [{"at": 0, "value": false}, {"at": 10, "value": true}, {"at": 20, "value": false}]},
		            "blend": {"keys": [{"at": 0, "value": "normal"}, {"at": 30, "value": "multiply"}]}},
		 "masks": [{"id": "m", "formulas": {"invert": "time.frames >= 60", "mode": "time.frames < 70 ? 'add' : 'subtract'", "feather": "time.share * 10"}}],
		 "stroke": {"colour": "#00ff00", "width": 2, "dash": [4, 4]}}`
	s := made(t, 100, 100, "", layers, sheet.Values{})
	for frame, hidden := range map[int64]float64{0: 0, 9: 0, 10: 1, 19: 1, 20: 0} {
		near(t, fmt.Sprintf("hidden at %d", frame), now(t, s, "layers/y/hidden", frame), hidden)
		seen := false
		for _, it := range at(s, frame, 100, 100).Items {
			seen = seen || it.Layer == "y"
		}
		if seen != (hidden == 0) {
			t.Errorf("at frame %d it is drawn: %v", frame, seen)
		}
	}
	for frame, mode := range map[int64]string{29: "normal", 30: "multiply"} {
		for _, it := range at(s, frame, 100, 100).Items {
			if it.Layer == "y" && it.Kind == scene.GroupItem && it.Blend.String() != mode {
				t.Errorf("at frame %d it blends by %s", frame, it.Blend)
			}
		}
	}
	near(t, "invert", append(now(t, s, "layers/y/masks/m/invert", 59), now(t, s, "layers/y/masks/m/invert", 60)...), 0, 1)
	near(t, "mode", append(now(t, s, "layers/y/masks/m/mode", 69), now(t, s, "layers/y/masks/m/mode", 70)...), 0, 1)
	near(t, "a stop's colour half-way", now(t, s, "layers/ground/stops/a/colour", 20), 127.5, 127.5, 127.5, 255)
	near(t, "a stop's place", now(t, s, "layers/ground/stops/b/at", 99), 0)
	first, later := painted(t, s, 10, 100, 100), painted(t, s, 18, 100, 100)
	if first.Pix[0] >= later.Pix[0] {
		t.Errorf("the ground's first pixel is %d and later %d", first.Pix[0], later.Pix[0])
	}
}

// A layer with a named gradient is drawn as one that has the same stops of its own, which
// wait behind it; the colours that its stops name are the document's.
func TestNamedGradientsAreDrawnAsTheirStops(t *testing.T) {
	const more = `"colours": [{"id": "sea", "name": "Sea", "value": "#1e7383"}], "gradients": [{"id": "dusk", "name": "Dusk", "stops": [{"at": 0.1, "colour": "#402030"}, {"at": 0.9, "colour": "colour:sea"}]}],`
	layer := func(rest string) string {
		return `{"id": "g", "name": "G", "kind": "ground", "gradient": {"kind": "radial", "from": [0.5, 0.5], "to": [1, 0.5]` + rest + `}}`
	}
	const own = `, "stops": [{"at": 0.1, "colour": "#402030"}, {"at": 0.9, "colour": "#1e7383"}]`
	const moving = `, "stops": [{"id": "a", "at": 0, "colour": "#ffffff", "formulas": {"at": "time.share / 4"}}, {"id": "b", "at": 1, "colour": "#000000", "motion": {"at": {"keys": [{"at": 0, "value": 0.5}, {"at": 9, "value": 1}]}}}]`
	want := painted(t, made(t, 64, 48, more, layer(own), sheet.Values{}), 5, 64, 48)
	for what, l := range map[string]string{"alone": layer(`, "named": "dusk"`), "before stops that move": layer(`, "named": "dusk"` + moving)} {
		if got := painted(t, made(t, 64, 48, more, l, sheet.Values{}), 5, 64, 48); !bytes.Equal(got.Pix, want.Pix) {
			t.Errorf("%s it is drawn otherwise", what)
		}
	}
	if got := painted(t, made(t, 64, 48, more, layer(moving), sheet.Values{}), 5, 64, 48); bytes.Equal(got.Pix, want.Pix) {
		t.Error("the test sees no difference")
	}
}

// A layout that moves takes its layers along, whose own motion departs from where
// they are; formulas that read the cell see it as it is.
func TestLayoutsMove(t *testing.T) {
	more := `"layouts": [{"id": "grid", "kind": "split", "rows": [1], "columns": [1, 1], "gutter": 10, "gutterBy": "shrink", "radius": 4,
		"motion": {"columns": {"keys": [{"at": 0, "value": [1, 1]}, {"at": 40, "value": [3, 1]}]}, "gutter": {"unit": "own", "keys": [{"at": 0, "value": 10}, {"at": 40, "value": "20vmin"}]}},
		"formulas": {"margin": "layer('lead').turn / 9 * 1"}}],`
	layers := `{"id": "lead", "name": "L", "kind": "shape", "fill": "#000000", "size": [9, 9], "motion": {"turn": {"keys": [{"at": 0, "value": 0}, {"at": 40, "value": 90}]}}},
		{"id": "a", "name": "A", "kind": "shape", "fill": "#000000", "cell": {"layout": "grid", "row": 0, "column": 0}, "motion": {"size": {"keys": [{"at": 0, "value": [1, 0.5]}]}}},
		{"id": "b", "name": "B", "kind": "shape", "fill": "#000000", "cell": {"layout": "grid", "row": 0, "column": 1}, "formulas": {"opacity": "cell.w / canvas.w"}}`
	s := made(t, 210, 100, more, layers, sheet.Values{})
	near(t, "the first cell's size at first", now(t, s, "layers/a/size", 0), 100, 50)
	near(t, "the second's place at first", now(t, s, "layers/b/place", 0), 55, 0)
	// At frame 40: margin 10, gutter 20, so 190 - 20 = 170 px in 3 : 1.
	near(t, "the first cell's size", now(t, s, "layers/a/size", 40), 127.5, 40)
	near(t, "the second's size", now(t, s, "layers/b/size", 40), 42.5, 80)
	near(t, "the second's place", now(t, s, "layers/b/place", 40), 105-10-42.5/2, 0)
	near(t, "what reads the cell", now(t, s, "layers/b/opacity", 40), 42.5/210)
}

// What is settled once is settled by formulas and formats too: trims, cues, the
// framing of pockets, named colours.
func TestWhatIsSettledOnceIsReachedToo(t *testing.T) {
	more := `"pockets": [{"id": "p", "name": "P", "kinds": ["picture"], "standIn": {"media": "` + hash("a") + `"}, "formulas": {"framing.zoom": "entry('wide') / canvas.w * 4", "framing.flipX": "entry('wide') > 100"}}],
		"colours": [{"id": "ink", "name": "Ink", "value": "#102030"}, {"id": "pale", "name": "Pale", "value": "#000000", "formulas": {"value": "mix(colour('ink'), colour('white'), 0.5)"}}, {"id": "white", "name": "W", "value": "#ffffff"}],
		"cues": [{"id": "poster", "name": "Poster", "at": 5, "formulas": {"at": "value('layers/y/out') - 1"}}],` + fmt.Sprintf(sheetOf, amount("wide", 200))
	layers := `{"id": "y", "name": "Y", "kind": "shape", "fill": "colour:pale", "in": 3, "formulas": {"out": "value('layers/y/in') + entry('wide') / 20", "covers": "canvas.w > canvas.h"}},
		{"id": "v", "name": "V", "kind": "view", "pocket": "p", "size": [400, 300]}`
	s := made(t, 400, 300, more, layers, sheet.Values{})
	for frame, seen := range map[int64]bool{2: false, 3: true, 12: true, 13: false} {
		drawn := false
		for _, it := range at(s, frame, 400, 300).Items {
			drawn = drawn || it.Layer == "y"
		}
		if drawn != seen {
			t.Errorf("at frame %d it is drawn: %v", frame, drawn)
		}
	}
	if s.Poster() != 12 {
		t.Errorf("the poster is frame %d", s.Poster())
	}
	if c := at(s, 5, 400, 300).Items[0].Colour; c != [4]uint8{136, 144, 152, 255} {
		t.Errorf("the pale colour is %v", c)
	}
	if st := s.Stands()[0]; st.Zoom != 2 || !st.Framing.FlipX {
		t.Errorf("the pocket is framed by %+v", st.Framing)
	}
	for formula, want := range map[string]string{
		`"out": "time.frames"`:                   "time changes in time",
		`"out": "layer('v').size.x / 1"`:         "is not given in the document",
		`"in": "layer('y').turn * 1"`:            "moves, and what this formula yields is settled once",
		`"follow": "'v'"`:                        "formulas can't reach it",
		`"copies.count": "3"`:                    "is settled by the template's designer",
		`"place": "canvas.w"`:                    "place is several numbers; name one of them, such as place.x",
		`"radius": "3", "radius.topLeft": "4"`:   "yields what layers[0].formulas.radius yields too",
		`"blend": "'burn'"`:                      "is not one of normal",
		`"hidden": "3"`:                          "gives a number, where true or false is needed",
		`"turn": "value('layers/y/stroke.cap')"`: "goes with stroke.colour",
	} {
		_, err := template.Parse(fmt.Appendf(nil, `{"ivypocket": 3, "kind": "template", "id": "t", "name": "T", "category": "Tests", "rate": "25", "frames": 100,
			"formats": [{"id": "only", "name": "Only", "width": 400, "height": 300}], "layers": [
			{"id": "y", "name": "Y", "kind": "shape", "fill": "#000000", "motion": {"turn": {"keys": [{"at": 0, "value": 1}]}}, "formulas": {%s}}, {"id": "v", "name": "V", "kind": "shape", "fill": "#000000"}]}`, formula))
		if err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%s: %v, want %q", formula, err, want)
		}
	}
}

// Lengths in hundredths of the shorter side stand as many pixels on every canvas;
// one template so serves a twin of double size.
func TestLengthsInSharesOfTheShorterSide(t *testing.T) {
	const layers = `{"id": "y", "name": "Y", "kind": "shape", "fill": "#000000", "place": ["10vmin", 3], "size": ["50vmin", "25vmin"], "radius": "5vmin", "stroke": {"colour": "#ffffff", "width": "1vmin"},
		"masks": [{"id": "m", "size": ["40vmin", 10], "feather": "2vmin"}],
		"motion": {"size": {"unit": "own", "keys": [{"at": 0, "value": ["50vmin", "25vmin"]}, {"at": 50, "value": [30, "50vmin"]}]}}}`
	for _, k := range []float64{1, 2} {
		s := made(t, int(400*k), int(200*k), "", layers, sheet.Values{})
		near(t, "place", now(t, s, "layers/y/place", 0), 20*k, 3)
		near(t, "size", now(t, s, "layers/y/size", 0), 100*k, 50*k)
		near(t, "size by its last key", now(t, s, "layers/y/size", 50), 30, 100*k)
		near(t, "radius", now(t, s, "layers/y/radius", 0), 10*k, 10*k, 10*k, 10*k)
		near(t, "stroke", now(t, s, "layers/y/stroke.width", 0), 2*k)
		near(t, "a mask's size", now(t, s, "layers/y/masks/m/size", 0), 80*k, 10)
		near(t, "feather", now(t, s, "layers/y/masks/m/feather", 0), 4*k)
	}
}

// Ties and a format's own values reach stops, framing and trims.
func TestTiesAndFormatsReachEveryValue(t *testing.T) {
	doc, err := template.Parse(fmt.Appendf(nil, `{"ivypocket": 3, "kind": "template", "id": "t", "name": "T", "category": "Tests", "rate": "25", "frames": 100,
		"formats": [{"id": "only", "name": "Only", "width": 400, "height": 300}, {"id": "other", "name": "Other", "width": 300, "height": 400,
			"rest": {"layers/y/hidden": true, "layers/y/in": "25/2", "pockets/p/framing.fit": "contain", "layers/g/stops/s2/colour": "#00ff00", "layers/y/motion/turn/k2/value": 90, "cues/poster/at": 20}}],
		"pockets": [{"id": "p", "name": "P", "kinds": ["picture"]}], "cues": [{"id": "poster", "name": "Poster", "at": 5}], %s
		"layers": [{"id": "g", "name": "G", "kind": "ground", "gradient": {"kind": "linear", "from": [0, 0], "to": [1, 1], "stops": [{"at": 0, "colour": "#000000"}, {"at": 1, "colour": "#ffffff"}]}},
			{"id": "y", "name": "Y", "kind": "shape", "fill": "#000000", "motion": {"turn": {"keys": [{"at": 0, "value": 0}, {"at": 50, "value": 45}]}}},
			{"id": "v", "name": "V", "kind": "view", "pocket": "p"}]}`,
		fmt.Sprintf(sheetOf, `{"id": "zoom", "label": "Zoom", "kind": "amount", "default": 2, "min": 1, "max": 3, "ties": [{"to": "pockets/p/framing.zoom"}, {"to": "layers/g/stops/s1/at", "from": [1, 3], "into": [0, 0.5]}, {"to": "layers/y/out", "from": [1, 3], "into": [50, 90]}]}`)))
	if err != nil {
		t.Fatal(err)
	}
	r, err := sheet.Resolve(doc, sheet.Values{})
	if err != nil {
		t.Fatal(err)
	}
	other, err := r.Doc.For(r.Doc.Format("other"))
	if err != nil {
		t.Fatal(err)
	}
	in, out := other.Layer("y").Trim(other)
	if in.String() != "25/2" || out.String() != "70" || other.Pocket("p").Framing.Zoom != 2 || other.Pocket("p").Framing.Fit != "contain" || doc.Pocket("p").Framing != nil {
		t.Errorf("trimmed from %s to %s, framed by %+v", in, out, other.Pocket("p").Framing)
	}
	if !other.Layer("y").On(scheme.Hidden) || r.Doc.Layer("y").On(scheme.Hidden) || other.Layer("y").Motion["turn"].Keys[1].Value.Number() != 90 || doc.Layer("y").Motion["turn"].Keys[1].Value.Number() != 45 {
		t.Error("what stands in one format alone")
	}
	stops := other.Layer("g").Stops()
	if stops[0].Number(scheme.StopAt) != 0.25 || stops[1].Text(scheme.StopColour) != "#00ff00" || doc.Layer("g").Stops()[1].Text(scheme.StopColour) != "#ffffff" {
		t.Errorf("stops at %g", stops[0].Number(scheme.StopAt))
	}
	if other.Poster().String() != "20" {
		t.Errorf("the poster is at %s", other.Poster())
	}
	if a, err := scene.Compile(r, "other", source); err != nil || a.Poster() != 20 {
		t.Errorf("%v", err)
	}
}
