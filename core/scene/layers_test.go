package scene_test

import (
	"bytes"
	"context"
	"crypto/sha256"
	"errors"
	"fmt"
	"math"
	"math/rand/v2"
	"strings"
	"testing"

	"ivypocket/core/geom"
	"ivypocket/core/raster"
	"ivypocket/core/scene"
	"ivypocket/core/scheme"
	"ivypocket/core/sheet"
	"ivypocket/core/template"
	"ivypocket/core/timing"
)

// made compiles a document of a canvas, with members of its own before the layers.
func made(t testing.TB, w, h int, more, layers string, v sheet.Values) *scene.Scene {
	t.Helper()
	doc, err := template.Parse(fmt.Appendf(nil, `{"ivypocket": 3, "kind": "template", "id": "t", "name": "T", "category": "Tests", "rate": "25", "frames": 100,
		"formats": [{"id": "only", "name": "Only", "width": %d, "height": %d}], %s "layers": [%s]}`, w, h, more, layers))
	if err != nil {
		t.Fatalf("%v\n%s", err, layers)
	}
	r, err := sheet.Resolve(doc, v)
	if err != nil {
		t.Fatal(err)
	}
	s, err := scene.Compile(r, "only", source)
	if err != nil {
		t.Fatal(err)
	}
	return s
}

// painted is a frame as a new painter paints it.
func painted(t testing.TB, s *scene.Scene, frame int64, w, h int) *raster.Surface {
	t.Helper()
	p := scene.NewPainter(scene.NewPictures(source, 64<<20))
	defer p.Close()
	dst := &raster.Surface{}
	if err := p.Paint(context.Background(), at(s, frame, w, h), dst); err != nil {
		t.Fatal(err)
	}
	return dst
}

func pixel(t testing.TB, s *raster.Surface, x, y int, want [4]uint8, within int) {
	t.Helper()
	r, g, b, a := s.At(x, y)
	for i, d := range []int{int(r) - int(want[0]), int(g) - int(want[1]), int(b) - int(want[2]), int(a) - int(want[3])} {
		if max(d, -d) > within {
			t.Errorf("(%d, %d) is %v, want %v (channel %d)", x, y, [4]uint8{r, g, b, a}, want, i)
			return
		}
	}
}

// W3C Compositing and Blending Level 1, sections 3.3 and 10: what a group does to
// its backdrop. Half-clear red multiplies a yellow backdrop in a group: not
// isolated, it meets the yellow; isolated, it meets nothing and lies on it.
func TestIsolationIsOfTheStandard(t *testing.T) {
	for _, c := range []struct {
		group string
		want  [4]uint8 // on #80c040 by #ff000080 (α = 128/255), by hand
	}{
		// cb + α(cs·cb − cb): green 192·(1 − .502), blue 64·(1 − .502).
		{`"isolated": false`, [4]uint8{128, 96, 32, 255}},
		// α·cs + (1 − α)·cb.
		{`"isolated": true`, [4]uint8{192, 96, 32, 255}},
		// A group with an opacity of its own that is not isolated goes half the
		// way from its backdrop to what it made of it: (128 + 128)/2, (192 + 96)/2 …
		{`"isolated": false, "opacity": 0.5`, [4]uint8{128, 144, 48, 255}},
	} {
		s := made(t, 64, 64, "", fmt.Sprintf(`{"id": "back", "name": "B", "kind": "ground", "fill": "#80c040"},
			{"id": "g", "name": "G", "kind": "group", %s, "layers": [{"id": "m", "name": "M", "kind": "ground", "blend": "multiply", "fill": "#ff000080"}]}`, c.group), sheet.Values{})
		pixel(t, painted(t, s, 0, 64, 64), 30, 30, c.want, 1)
	}
}

const white = `{"id": "white", "name": "W", "kind": "ground", "fill": "#ffffff"}`

// Masks one after another: what is added, taken away and kept in common; the
// order is the layer's own.
func TestMasksJoin(t *testing.T) {
	box := func(id, mode, more string, x float64) string {
		return fmt.Sprintf(`{"id": %q, "mode": %q, "place": [%g, 0], "size": [60, 60] %s}`, id, mode, x, more)
	}
	for name, c := range map[string]struct {
		masks string
		want  [4]bool // at x = 10, 35, 65, 90 of 100
	}{
		"one":           {box("a", "add", "", -20), [4]bool{true, true, false, false}},
		"both":          {box("a", "add", "", -20) + "," + box("b", "add", "", 20), [4]bool{true, true, true, true}},
		"taken away":    {box("a", "add", "", -20) + "," + box("b", "subtract", "", 10), [4]bool{true, false, false, false}},
		"in common":     {box("a", "add", "", -20) + "," + box("b", "intersect", "", 0), [4]bool{false, true, false, false}},
		"inverted":      {box("a", "add", `, "invert": true`, -20), [4]bool{false, false, true, true}},
		"from all":      {box("a", "subtract", "", -20), [4]bool{false, false, true, true}},
		"off":           {box("a", "add", `, "off": true`, -20), [4]bool{true, true, true, true}},
		"one of two":    {box("a", "add", "", -20) + "," + box("b", "subtract", `, "off": true`, 10), [4]bool{true, true, false, false}},
		"grown":         {box("a", "add", `, "growth": 20`, -20), [4]bool{true, true, true, false}},
		"seen by half":  {box("a", "add", `, "opacity": 0`, -20), [4]bool{false, false, false, false}},
		"a drawn shape": {`{"id": "a", "form": {"kind": "path", "path": [[0, 0], [0.5, 0], [0.5, 1], [0, 1]]}}`, [4]bool{true, true, false, false}},
	} {
		s := made(t, 100, 64, "", fmt.Sprintf(`%s, {"id": "y", "name": "Y", "kind": "shape", "fill": "#000000", "masks": [%s]}`, white, c.masks), sheet.Values{})
		p := painted(t, s, 0, 100, 64)
		for i, x := range []int{10, 35, 65, 90} {
			if v, _, _, _ := p.At(x, 32); (v == 0) != c.want[i] {
				t.Errorf("%s: at %d it is %d", name, x, v)
			}
		}
	}
}

// The points of a mask's path move to the points of the same number: from the
// left third of the layer to its right third, half-way in its middle.
func TestMaskPathsMovePointByPoint(t *testing.T) {
	third := func(x float64) string {
		return fmt.Sprintf("[[%g, 0], [%g, 0], [%g, 1], [%g, 1]]", x, x+1.0/3, x+1.0/3, x)
	}
	s := made(t, 90, 30, "", fmt.Sprintf(`{"id": "y", "name": "Y", "kind": "ground", "fill": "#000000", "masks": [{"id": "m", "form": {"kind": "path", "path": %s},
		"motion": {"form.path": {"keys": [{"at": 0, "value": %s}, {"at": 50, "value": %s}]}}}]}`, third(0), third(0), third(2.0/3)), sheet.Values{})
	for frame, from := range map[int64]int{0: 0, 25: 30, 50: 60} {
		p := painted(t, s, frame, 90, 30)
		for _, x := range []int{5, 15, 25, 35, 45, 55, 65, 75, 85} {
			want := uint8(0)
			if x >= from && x < from+30 {
				want = 255
			}
			if _, _, _, a := p.At(x, 15); a != want {
				t.Errorf("frame %d: alpha %d at %d, want %d", frame, a, x, want)
			}
		}
	}
}

// A feather of 20 px at an edge at x = 50: to which side, and by which way. A
// linear one is 255 · share of its width at a pixel's centre; one by a curve has
// that curve's value there (CSS Easing's cubic-bezier, held to Chromium
// elsewhere).
func TestFeathersFallOff(t *testing.T) {
	curve := timing.Easing{0.4, 0, 0.6, 1}
	curved := func(share float64) int { return int(255*curve.At(share) + 0.5) }
	for _, c := range []struct {
		more string
		want map[int]int
	}{
		{`"feather": 20`, map[int]int{38: 255, 45: 185, 49: 134, 55: 57, 62: 0}},
		{`"feather": 20, "soft": "inwards"`, map[int]int{28: 255, 40: 121, 47: 32, 51: 0}},
		{`"feather": 20, "soft": "outwards"`, map[int]int{48: 255, 52: 223, 60: 121, 71: 0}},
		{`"feather": 20, "falloff": [0.4, 0, 0.6, 1]`, map[int]int{38: 255, 43: curved(16.5 / 20), 55: curved(4.5 / 20), 62: 0}},
		{`"feather": 20, "growth": 5`, map[int]int{43: 255, 54: 134, 66: 0}},
	} {
		s := made(t, 100, 64, "", fmt.Sprintf(`{"id": "y", "name": "Y", "kind": "ground", "fill": "#000000", "masks": [{"id": "m", "place": [-50, 0], "size": [100, 4000], %s}]}`, c.more), sheet.Values{})
		p := painted(t, s, 0, 100, 64)
		last := uint8(255)
		for x := range 100 {
			_, _, _, a := p.At(x, 32)
			if a > last {
				t.Errorf("%s: rises again at %d", c.more, x)
			}
			last = a
		}
		for x, want := range c.want {
			if _, _, _, a := p.At(x, 32); math.Abs(float64(int(a)-want)) > 4 {
				t.Errorf("%s: %d at %d, want %d", c.more, a, x, want)
			}
		}
	}
}

// Mattes: by alpha and by luma, straight and inverted, wherever the other layer
// stands and whether it is drawn or not. Luma is of BT.709's weights on encoded
// values, as CSS Masking Level 1 has it.
func TestMattesCut(t *testing.T) {
	for _, c := range []struct {
		of     string
		invert bool
		want   int // black's alpha through #ff0000 at half alpha
	}{{"alpha", false, 128}, {"alpha", true, 127}, {"luma", false, 27}, {"luma", true, 228}} {
		for _, order := range []string{"below", "above", "in a group", "cutting a group"} {
			m := `{"id": "m", "name": "M", "kind": "shape", "hidden": true, "fill": "#ff000080"}`
			if order == "in a group" {
				m = `{"id": "g", "name": "G", "kind": "group", "hidden": true, "layers": [` + strings.Replace(m, `"hidden": true, `, "", 1) + `]}`
			}
			cut := fmt.Sprintf(`{"id": "y", "name": "Y", "kind": "ground", "fill": "#000000", "matte": {"layer": "m", "of": %q, "invert": %v}}`, c.of, c.invert)
			layers := m + "," + cut
			switch order {
			case "above":
				layers = cut + "," + m
			case "cutting a group":
				layers = m + "," + strings.Replace(cut, `"kind": "ground", "fill": "#000000"`, `"kind": "group", "layers": [{"id": "z", "name": "Z", "kind": "ground", "fill": "#000000"}]`, 1)
			}
			_, _, _, a := painted(t, made(t, 64, 64, "", layers, sheet.Values{}), 0, 64, 64).At(30, 30)
			if d := int(a) - c.want; max(d, -d) > 1 {
				t.Errorf("%s, inverted %v, %s: alpha %d, want %d", c.of, c.invert, order, a, c.want)
			}
		}
	}
}

// Rest is the format's, anchored to an edge, and motion is shared in units of
// the canvas; a follower takes another's departure from rest, not its place.
func TestAnchorsMotionAndFollowers(t *testing.T) {
	const layers = `{"id": "lead", "name": "L", "kind": "shape", "anchor": "bottom right", "place": [-10, -20], "size": [30, 40], "fill": "#000000",
			"motion": {"place": {"unit": "canvas", "keys": [{"at": 0, "value": [0, 0]}, {"at": 50, "value": [-0.5, -0.25]}]}}},
		{"id": "self", "name": "S", "kind": "shape", "anchor": "top left", "size": [30, 40], "fill": "#000000", "motion": {"place": {"unit": "self", "keys": [{"at": 0, "value": [0, 0]}, {"at": 50, "value": [1, 1]}]}}},
		{"id": "tail", "name": "T", "kind": "shape", "follow": "lead", "anchor": "top left", "place": [3, 4], "size": [10, 10], "fill": "#000000"}`
	for _, size := range [][2]int{{200, 100}, {100, 300}} {
		s := made(t, size[0], size[1], "", layers, sheet.Values{})
		w, h := float64(size[0]), float64(size[1])
		for frame, want := range map[int64]map[string]geom.Box{
			0:  {"lead": {X: w - 40, Y: h - 60, W: 30, H: 40}, "self": {W: 30, H: 40}, "tail": {X: 3, Y: 4, W: 10, H: 10}},
			50: {"lead": {X: w - 40 - w/2, Y: h - 60 - h/4, W: 30, H: 40}, "self": {X: 30, Y: 40, W: 30, H: 40}, "tail": {X: 3 - w/2, Y: 4 - h/4, W: 10, H: 10}},
		} {
			for _, o := range s.Outlines(nil, s.Time().At(timing.OutputFrame(frame))) {
				b := want[o.Layer]
				if math.Abs(o.Box.X-b.X)+math.Abs(o.Box.Y-b.Y)+math.Abs(o.Box.W-b.W)+math.Abs(o.Box.H-b.H) > 1e-9 {
					t.Errorf("%v, frame %d, %s: %v, want %v", size, frame, o.Layer, o.Box, b)
				}
			}
		}
	}
}

// Copies are scattered the same every time, within their spread, and another
// seed scatters them otherwise.
func TestCopiesComeFromTheirSeed(t *testing.T) {
	layers := func(seed int) string {
		return fmt.Sprintf(`{"id": "y", "name": "Y", "kind": "shape", "size": [10, 10], "fill": "#000000", "copies": {"count": 40, "seed": %d, "spread": [0.3, 0.1], "turn": 90, "scale": [0.5, 2], "delay": 5}}`, seed)
	}
	a := at(made(t, 1000, 500, "", layers(7), sheet.Values{}), 0, 1000, 500)
	b := at(made(t, 1000, 500, "", layers(7), sheet.Values{}), 0, 1000, 500)
	c := at(made(t, 1000, 500, "", layers(8), sheet.Values{}), 0, 1000, 500)
	if a.Address() != b.Address() || a.Address() == c.Address() || len(a.Items) != 40 {
		t.Errorf("addresses %s, %s, %s, %d items", a.Address(), b.Address(), c.Address(), len(a.Items))
	}
	for _, it := range a.Items {
		m := it.Box.Centre()
		if math.Abs(m.X-500) > 301 || math.Abs(m.Y-250) > 51 {
			t.Errorf("one stands at %v", m)
		}
	}
}

// A document that would take all memory says so instead.
func TestTooManyLargeOutlinesAreRefused(t *testing.T) {
	s := made(t, 4000, 2000, "", `{"id": "g", "name": "G", "kind": "group", "copies": {"count": 2, "seed": 1}, "layers": [
		{"id": "y", "name": "Y", "kind": "shape", "form": {"kind": "ellipse"}, "fill": "#000000", "copies": {"count": 150, "seed": 7, "spread": [0.01, 0.01]}}]}`, sheet.Values{})
	p := scene.NewPainter(scene.NewPictures(source, 1<<20))
	defer p.Close()
	var dst raster.Surface
	if err := p.Paint(context.Background(), at(s, 0, 4000, 2000), &dst); err == nil || !strings.Contains(err.Error(), "fewer copies") {
		t.Errorf("%v", err)
	}
	if err := p.Paint(context.Background(), at(s, 0, 400, 200), &dst); err != nil {
		t.Errorf("small: %v", err)
	}
}

// A camera moves all below it, and nothing above; a grade changes the colours
// of what is below.
func TestCamerasAndGradesReachWhatIsBelow(t *testing.T) {
	s := made(t, 100, 100, "", `{"id": "low", "name": "L", "kind": "shape", "place": [-20, 0], "size": [10, 10], "fill": "#ffffff"},
		{"id": "cam", "name": "C", "kind": "camera", "scale": [2, 2], "place": [10, 0]},
		{"id": "grade", "name": "G", "kind": "grade", "grade": {"slope": [0.5, 1, 1], "offset": [0, -0.5, 0], "power": [1, 1, 2], "saturation": 1}},
		{"id": "high", "name": "H", "kind": "shape", "place": [20, 20], "size": [10, 10], "fill": "#ffffff"}`, sheet.Values{})
	for _, o := range s.Outlines(nil, s.Time().At(0)) {
		// (−20, 0) from the middle, twice as far and 10 to the right; twice as large.
		if want := (geom.Box{X: 50 - 40 + 10 - 10, Y: 40, W: 20, H: 20}); o.Layer == "low" && o.Box != want {
			t.Errorf("below the camera it is at %v, want %v", o.Box, want)
		}
		if want := (geom.Box{X: 65, Y: 65, W: 10, H: 10}); o.Layer == "high" && o.Box != want {
			t.Errorf("above the camera it is at %v, want %v", o.Box, want)
		}
	}
	p := painted(t, s, 0, 100, 100)
	pixel(t, p, 20, 50, [4]uint8{128, 128, 255, 255}, 1)
	pixel(t, p, 70, 70, [4]uint8{255, 255, 255, 255}, 0)
}

// Motion blur is the mean of so many instants around the frame: an edge that
// moves by 8 px a frame, exposed for half of it (180°) in 8 instants, falls off
// over 4 px in eighths.
func TestMotionBlurIsTheMeanOfInstants(t *testing.T) {
	s := made(t, 200, 20, "", `{"id": "y", "name": "Y", "kind": "shape", "anchor": "top left", "place": [-200, 0], "size": [200, 20], "fill": "#000000",
		"motion": {"place": {"unit": "canvas", "keys": [{"at": 0, "value": [0, 0]}, {"at": 100, "value": [4, 0]}]}}, "motionBlur": {"samples": 8, "shutter": 180}}`, sheet.Values{})
	p := painted(t, s, 10, 200, 20) // its edge is at 80
	for x, want := range map[int]int{76: 255, 77: 255, 78: 223, 79: 159, 80: 96, 81: 32, 82: 0, 84: 0} {
		if _, _, _, a := p.At(x, 10); math.Abs(float64(int(a)-want)) > 2 {
			t.Errorf("alpha %d at %d, want %d", a, x, want)
		}
	}
}

// Content that turns and pans inside its pocket is enlarged by so much that no
// edge shows at any instant, between keys too; a layer that covers hides the
// canvas all the time. Checked at 8 instants a frame.
func TestOversizeIsEnoughAtEveryInstant(t *testing.T) {
	s := made(t, 320, 180, `"pockets": [{"id": "p", "name": "P", "kinds": ["picture"], "standIn": {"media": "`+hash("a")+`"}}],`,
		`{"id": "v", "name": "V", "kind": "view", "pocket": "p", "size": [300, 160], "motion": {
			"content.turn": {"keys": [{"at": 0, "value": -8, "ease": [0.7, -0.6, 0.3, 1.6]}, {"at": 90, "value": 25}]},
			"content.pan": {"keys": [{"at": 0, "value": [0, 0]}, {"at": 40, "value": [0.1, -0.05], "ease": [0.2, 0, 0, 1]}, {"at": 90, "value": [-0.1, 0.1]}]},
			"content.zoom": {"keys": [{"at": 10, "value": 1.1}, {"at": 60, "value": 1}]}}},
		{"id": "c", "name": "C", "kind": "shape", "size": [320, 180], "fill": "#000000", "covers": true, "motion": {
			"turn": {"keys": [{"at": 0, "value": 0, "ease": [0.9, -0.4, 0.1, 1.4]}, {"at": 99, "value": 30}]},
			"place": {"unit": "canvas", "keys": [{"at": 0, "value": [0, 0]}, {"at": 99, "value": [0.08, 0.03]}]}}}`, sheet.Values{})
	least := math.Inf(1)
	for n := range int64(99 * 8) {
		var l scene.List
		s.At(&l, s.Time().Moment(timing.NewRat(n, 8)), scene.Size{W: 320, H: 180})
		for _, it := range l.Items {
			if it.Layer == "v" && it.Edges {
				t.Fatalf("at %g an edge of the picture shows", float64(n)/8)
			}
			if it.Layer == "c" {
				inv, ok := it.Map.Affine.Invert()
				if !ok {
					t.Fatal("flat")
				}
				for _, p := range (geom.Box{W: 320, H: 180}).Corners() {
					q := inv.Apply(p)
					room := math.Min(math.Min(q.X, it.Form.Size.W-q.X), math.Min(q.Y, it.Form.Size.H-q.Y))
					least = math.Min(least, room)
					if room < -1e-6 {
						t.Fatalf("at %g the corner %v is not covered", float64(n)/8, p)
					}
				}
			}
		}
	}
	if least > 2 { // in its own pixels: it is no larger than it must be
		t.Errorf("the layer that covers is larger by %.2f px than it must be", least)
	}
}

// Formulas: other layers' properties, boxes, the sheet, the canvas, the cell, the
// time and media.
func TestFormulasReadTheRest(t *testing.T) {
	more := `"layouts": [{"id": "half", "kind": "split", "rows": [1], "columns": [1, 1], "gutter": 0, "gutterBy": "shrink"}],
		"pockets": [{"id": "p", "name": "P", "kinds": ["picture"], "standIn": {"media": "` + hash("a") + `"}}],
		"colours": [{"id": "low", "name": "L", "value": "#000000"}, {"id": "high", "name": "H", "value": "#ffffff"}],
		"sheet": {"groups": [{"id": "g", "label": "G", "entries": [{"label": "Wide", "data": "wide", "kind": "amount", "default": 100, "min": 0, "max": 1000, "unit": "px"}]}]},`
	layers := `{"id": "bar", "name": "B", "kind": "shape", "size": [10, 10], "fill": "#000000", "formulas": {"size.x": "entry('wide') * 2", "place.x": "canvas.w / 10"}},
		{"id": "end", "name": "E", "kind": "shape", "size": [10, 10], "fill": "#000000", "formulas": {"place.x": "layer('bar').box.right", "turn": "remap(time.frames, 0, 10, 0, 45)", "fill": "mix(colour('low'), colour('high'), 0.5)"}},
		{"id": "view", "name": "V", "kind": "view", "pocket": "p", "cell": {"layout": "half", "row": 0, "column": 1}, "formulas": {"opacity": "cell.w / media('p').w"}}`
	v := sheet.Values{Entries: map[string]scheme.Value{"wide": scheme.One(60)}}
	s := made(t, 640, 360, more, layers, v)
	now := s.Time().At(20)
	for layer, want := range map[string]map[string][]float64{
		"bar":  {"size": {120, 10}, "place": {64, 0}},
		"end":  {"place": {64 + 60, 0}, "turn": {90}, "fill": {127.5, 127.5, 127.5, 255}},
		"view": {"opacity": {320.0 / 400}},
	} {
		for _, p := range s.Look(layer, now).Properties {
			for i, n := range want[p.Name] {
				if math.Abs(p.Now[i]-n) > 1e-9 {
					t.Errorf("%s %s is %v, want %v", layer, p.Name, p.Now, want[p.Name])
					break
				}
			}
		}
	}
}

// crowd is a document with groups, masks, mattes, blends, gradients and blur at
// random.
func crowd(rng *rand.Rand) string {
	var out []string
	one := func(id string, depth int) string {
		head := fmt.Sprintf(`"id": %q, "name": "N", "blend": %q`, id, scheme.BlendModes[rng.IntN(len(scheme.BlendModes))])
		place := fmt.Sprintf(`"place": [%d, %d], "size": [%d, %d], "turn": %d, "opacity": %g`, rng.IntN(200)-100, rng.IntN(120)-60, 30+rng.IntN(200), 20+rng.IntN(150), rng.IntN(4)*rng.IntN(90), float64(2+rng.IntN(9))/10)
		if rng.IntN(3) == 0 {
			head += fmt.Sprintf(`, "masks": [{"id": "m", "form": {"kind": "ellipse"}, "feather": %d, "invert": %v}, {"id": "n", "mode": "subtract", "size": [40, 40], "turn": 30}]`, rng.IntN(30), rng.IntN(2) == 0)
		}
		if rng.IntN(4) == 0 {
			head += `, "matte": {"layer": "matte", "of": "luma"}`
		}
		if rng.IntN(4) == 0 {
			head += `, "motionBlur": {"samples": 3, "shutter": 180}, "motion": {"place": {"unit": "canvas", "keys": [{"at": 0, "value": [0, 0]}, {"at": 20, "value": [0.3, 0.1]}]}}`
		}
		switch rng.IntN(3) {
		case 0:
			return fmt.Sprintf(`{%s, "kind": "shape", "form": {"kind": "star", "sides": 5}, %s, "gradient": {"kind": "radial", "from": [0.5, 0.5], "to": [1, 0.5], "stops": [{"at": 0, "colour": "#ffcc00"}, {"at": 1, "colour": "#1e738340"}]}, "stroke": {"colour": "#2e6b4e", "width": 5, "dash": [9, 5]}}`, head, place)
		case 1:
			return fmt.Sprintf(`{%s, "kind": "view", "pocket": "p", %s, "radius": 12}`, head, place)
		}
		return fmt.Sprintf(`{%s, "kind": "shape", %s, "fill": "#%06x"}`, head, place, rng.Uint32()&0xffffff)
	}
	for i := range 6 {
		if rng.IntN(3) == 0 {
			out = append(out, fmt.Sprintf(`{"id": "g%d", "name": "G", "kind": "group", "isolated": %v, "opacity": %g, "layers": [%s, %s]}`, i, rng.IntN(2) == 0, []float64{1, 0.6}[rng.IntN(2)], one(fmt.Sprintf("a%d", i), 1), one(fmt.Sprintf("b%d", i), 1)))
			continue
		}
		out = append(out, one(fmt.Sprintf("y%d", i), 0))
	}
	return `{"id": "matte", "name": "M", "kind": "ground", "hidden": true, "gradient": {"kind": "linear", "from": [0, 0], "to": [1, 1], "stops": [{"at": 0, "colour": "#000000"}, {"at": 1, "colour": "#ffffff"}]}},` + strings.Join(out, ",\n")
}

// Bands of any height, rows painted on their own, a painter that goes on from one frame to the next,
// and one that begins anew, make the same bits; no channel exceeds its alpha.
func TestAnyWayOfPaintingGivesTheSameBits(t *testing.T) {
	const more = `"pockets": [{"id": "p", "name": "P", "kinds": ["picture"]}],`
	for seed := range uint64(10) {
		s := made(t, 240, 150, more, crowd(rand.New(rand.NewPCG(seed, 5))), fills("p", "c"))
		going := scene.NewPainter(scene.NewPictures(source, 64<<20))
		re := scene.NewPainter(scene.NewPictures(source, 64<<20))
		split := scene.NewPainter(scene.NewPictures(source, 64<<20))
		split.SetBand([]int{1, 7, 13, 50, 1000}[seed%5])
		var b, c, d raster.Surface
		for _, frame := range []int64{0, 1, 2, 2, 2, 40, 41, 0} {
			l := at(s, frame, 240, 150)
			a := painted(t, s, frame, 240, 150)
			if err := going.Paint(context.Background(), l, &b); err != nil {
				t.Fatal(err)
			}
			if _, _, err := re.Repaint(context.Background(), l, &c); err != nil {
				t.Fatal(err)
			}
			if err := split.Paint(context.Background(), l, &d); err != nil {
				t.Fatal(err)
			}
			if !bytes.Equal(a.Pix, b.Pix) || !bytes.Equal(a.Pix, c.Pix) || !bytes.Equal(a.Pix, d.Pix) {
				t.Fatalf("seed %d, frame %d: the same list makes different pictures", seed, frame)
			}
			for i := 0; i < len(a.Pix); i += 4 {
				if m := a.Pix[i+3]; a.Pix[i] > m || a.Pix[i+1] > m || a.Pix[i+2] > m {
					t.Fatalf("seed %d, frame %d: %v at pixel %d", seed, frame, a.Pix[i:i+4], i/4)
				}
			}
		}
		going.Close()
		re.Close()
		split.Close()
	}
}

// Facts of the trade on wiping panels (common practice, no source): a panel as
// high as a canvas of 2160 travels 4320 from just below to just above it, 4400
// leaves 80 to spare; one with rounded corners never covers the canvas alone.
func TestAWipingPanelCoversOnItsWay(t *testing.T) {
	for _, c := range []struct {
		travel float64
		radius int
		clear  [2]bool // off the canvas at the first and at the last frame
		covers bool
	}{{4320, 0, [2]bool{true, true}, true}, {4400, 0, [2]bool{true, true}, true}, {4300, 0, [2]bool{false, false}, true}, {4320, 120, [2]bool{true, true}, false}} {
		s := made(t, 3840, 2160, "", fmt.Sprintf(`{"id": "panel", "name": "P", "kind": "shape", "size": [3840, 2160], "radius": %d, "fill": "#7b3f66",
			"motion": {"place": {"unit": "canvas", "keys": [{"at": 0, "value": [0, %g]}, {"at": 98, "value": [0, %g]}]}}}`, c.radius, c.travel/2/2160, -c.travel/2/2160), sheet.Values{})
		for i, frame := range []int64{0, 98} {
			if got := len(at(s, frame, 384, 216).Items) == 0; got != c.clear[i] {
				t.Errorf("travelling %g, frame %d: clear is %v", c.travel, frame, got)
			}
		}
		p := painted(t, s, 49, 384, 216)
		all := true
		for i := 3; i < len(p.Pix); i += 4 {
			all = all && p.Pix[i] == 255
		}
		if all != c.covers {
			t.Errorf("travelling %g with corners of %d px it covers: %v", c.travel, c.radius, all)
		}
	}
}

// A title that travels from the centre to a quarter of its panel's width (common
// practice, no source): 960 wide, 240, whatever the width; and a progress from
// full to a chosen amount is exact at both ends.
func TestTitlesTravelWithTheirPanel(t *testing.T) {
	more := `"sheet": {"groups": [{"id": "g", "label": "G", "entries": [
		{"label": "Width", "data": "width", "kind": "amount", "default": 960, "min": 10, "max": 4000, "unit": "px"},
		{"label": "Progress", "data": "progress", "kind": "amount", "default": 37, "min": 0, "max": 100, "unit": "%"}]}]},`
	layers := `{"id": "panel", "name": "P", "kind": "shape", "size": [10, 100], "fill": "#000000", "formulas": {"size.x": "entry('width')"}},
		{"id": "title", "name": "T", "kind": "shape", "size": [10, 10], "fill": "#000000", "formulas": {"place.x": "clamp(remap(time.frames, 10, 40, 0, 1), 0, 1) * layer('panel').size.x / 4"}},
		{"id": "bar", "name": "B", "kind": "shape", "anchor": "left", "size": [200, 10], "fill": "#000000", "formulas": {"size.x": "200 * remap(clamp(time.frames, 10, 40), 10, 40, 100, entry('progress')) / 100"}}`
	for _, width := range []float64{960, 500, 1777} {
		for _, progress := range []float64{0, 37, 100} {
			s := made(t, 1920, 1080, more, layers, sheet.Values{Entries: map[string]scheme.Value{"width": scheme.One(width), "progress": scheme.One(progress)}})
			for frame, want := range map[timing.OutputFrame][2]float64{0: {0, 200}, 10: {0, 200}, 40: {width / 4, 2 * progress}, 99: {width / 4, 2 * progress}} {
				now := s.Time().At(frame)
				if x := property(s.Look("title", now), "place")[0]; x != want[0] {
					t.Errorf("width %g, frame %d: the title is at %g, want %g", width, frame, x, want[0])
				}
				if w := property(s.Look("bar", now), "size")[0]; math.Abs(w-want[1]) > 1e-12 {
					t.Errorf("progress %g, frame %d: %g, want %g", progress, frame, w, want[1])
				}
			}
		}
	}
}

func property(l scene.Look, name string) []float64 {
	for _, p := range l.Properties {
		if p.Name == name {
			return p.Now
		}
	}
	return nil
}

// A longer piece: held spans keep their length, and what stands in them happens
// at the same distance from the ends.
func TestALongerPieceHoldsWhatIsHeld(t *testing.T) {
	const more = `"spans": [{"kind": "held", "from": 0, "to": 20}, {"kind": "elastic", "from": 20, "to": 80}, {"kind": "held", "from": 80, "to": 100}],`
	const layers = `{"id": "y", "name": "Y", "kind": "shape", "size": [10, 10], "fill": "#000000", "motion": {"opacity": {"keys": [{"at": 0, "value": 0}, {"at": 20, "value": 1}, {"at": 80, "value": 1}, {"at": 100, "value": 0}]}}}`
	for _, frames := range []int64{100, 260, 41} {
		s := made(t, 100, 100, more, layers, sheet.Values{Frames: frames})
		if s.Frames() != frames {
			t.Fatalf("%d frames", s.Frames())
		}
		for n := range int64(20) {
			a := property(s.Look("y", s.Time().At(timing.OutputFrame(n))), "opacity")[0]
			b := property(s.Look("y", s.Time().At(timing.OutputFrame(frames-20+n))), "opacity")[0]
			if math.Abs(a-float64(n)/20) > 1e-12 || math.Abs(b-(1-float64(n)/20)) > 1e-12 {
				t.Errorf("of %d frames, %d: %g and %g", frames, n, a, b)
			}
		}
	}
}

// A layer is there from its in-point on, and gone at its out-point.
func TestTrimmedLayersAreNotListed(t *testing.T) {
	s := made(t, 100, 100, "", `{"id": "y", "name": "Y", "kind": "shape", "fill": "#000000", "in": 10, "out": 12}`, sheet.Values{})
	for frame, want := range map[int64]int{9: 0, 10: 1, 11: 1, 12: 0} {
		if got := len(at(s, frame, 100, 100).Items); got != want {
			t.Errorf("frame %d: %d items", frame, got)
		}
	}
}

// A document that is found sound is drawn, whatever is in it.
func FuzzDrawing(f *testing.F) {
	for seed := range uint64(3) {
		f.Add(crowd(rand.New(rand.NewPCG(seed, 5))), int64(seed*13))
	}
	f.Add(`{"id": "a", "name": "A", "kind": "shape", "form": {"kind": "path", "path": [[0, 0], [1, 0, 0, 5, 0, -5], [1e2, 1]]}, "corners": [[0, 0], [9e4, 0], [-9e4, 0], [0, 0]], "skew": [89, -89], "stroke": {"colour": "#ffffff", "width": 30000, "dash": [0, 0]}, "fill": "#000000", "copies": {"count": 5, "seed": 1}}`, int64(3))
	f.Add(`{"id": "a", "name": "A", "kind": "group", "size": [0, 0], "scale": [0, 0], "layers": [{"id": "b", "name": "B", "kind": "view", "pocket": "p", "covers": true, "content": {"turn": 45, "pan": [4, 4]}, "masks": [{"id": "m", "of": "outline", "feather": 30000, "growth": -30000}]}]}`, int64(0))
	f.Fuzz(func(t *testing.T, layers string, frame int64) {
		doc, err := template.Parse([]byte(`{"ivypocket": 3, "kind": "template", "id": "t", "name": "T", "category": "Tests", "rate": "25", "frames": 50, "pockets": [{"id": "p", "name": "P", "kinds": ["picture"]}],
			"formats": [{"id": "only", "name": "Only", "width": 64, "height": 36}], "layers": [` + layers + `]}`))
		if err != nil {
			return
		}
		r, err := sheet.Resolve(doc, fills("p", "c"))
		if err != nil {
			t.Fatal(err)
		}
		s, err := scene.Compile(r, "only", source)
		if err != nil {
			return
		}
		p := scene.NewPainter(scene.NewPictures(source, 64<<20))
		defer p.Close()
		var dst raster.Surface
		for _, n := range []int64{0, max(0, frame%50), 49} {
			if err := p.Paint(context.Background(), at(s, n, 64, 36), &dst); err != nil && !strings.Contains(err.Error(), "no media") {
				t.Fatal(err)
			}
		}
	})
}

// Pictures of this behaviour as they were when it was new: what a release shows
// must not drift. Whoever means to change how something is drawn raises
// Behaviour and writes down the new hashes.
func TestWhatIsDrawnDoesNotDrift(t *testing.T) {
	if scene.Behaviour != 4 {
		t.Fatal("the hashes below are of behaviour 4")
	}
	for seed, want := range []string{"9be013872b66b493", "7e2222183301be3f", "53c62bc6fd314f9b", "6017a6b542f5ba12"} {
		s := made(t, 240, 150, `"pockets": [{"id": "p", "name": "P", "kinds": ["picture"]}],`, crowd(rand.New(rand.NewPCG(uint64(seed), 5))), fills("p", "c"))
		sum := sha256.New()
		for _, frame := range []int64{0, 7, 40} {
			sum.Write(painted(t, s, frame, 240, 150).Pix)
		}
		if got := fmt.Sprintf("%x", sum.Sum(nil)[:8]); got != want {
			t.Errorf("document %d makes %s, want %s", seed, got, want)
		}
	}
}

// A layer that many are cut by is drawn once for each band: of groups whose six
// parts are cut by the next group, and so on, drawing each anew would draw 6¹³.
func TestMattesAreDrawnOnce(t *testing.T) {
	const depth, wide = 13, 6
	var layers []string
	for d := range depth {
		var parts []string
		for i := range wide {
			matte := ""
			if d > 0 {
				matte = fmt.Sprintf(`, "matte": {"layer": "g%d", "of": "alpha"}`, d-1)
			}
			parts = append(parts, fmt.Sprintf(`{"id": "y%d-%d", "name": "Y", "kind": "shape", "size": [%d, 40], "fill": "#ff0000"%s}`, d, i, 10+10*d, matte))
		}
		layers = append(layers, fmt.Sprintf(`{"id": "g%d", "name": "G", "kind": "group", "hidden": %t, "layers": [%s]}`, d, d < depth-1, strings.Join(parts, ",")))
	}
	s := painted(t, made(t, 100, 40, "", strings.Join(layers, ","), sheet.Values{}), 0, 100, 40)
	// What is seen is what the innermost leaves: ten pixels about the middle.
	pixel(t, s, 50, 20, [4]uint8{255, 0, 0, 255}, 0)
	pixel(t, s, 40, 20, [4]uint8{}, 0)
	pixel(t, s, 58, 20, [4]uint8{}, 0)
}

// A painting that nobody wants any more ends, and nothing of it is kept: the next
// one is as that of a new painter.
func TestPaintingEndsWithItsContext(t *testing.T) {
	s := made(t, 200, 100, "", `{"id": "g", "name": "G", "kind": "group", "isolated": true, "layers": [
		{"id": "a", "name": "A", "kind": "shape", "form": {"kind": "ellipse"}, "size": [150, 80], "fill": "#2040ff"},
		{"id": "b", "name": "B", "kind": "shape", "form": {"kind": "star", "sides": 5}, "size": [60, 60], "fill": "#ffffff80", "masks": [{"id": "m", "feather": 9}]}]}`, sheet.Values{})
	p := scene.NewPainter(scene.NewPictures(source, 1<<20))
	defer p.Close()
	gone, cancel := context.WithCancel(context.Background())
	cancel()
	var ready scene.Ready
	var dst raster.Surface
	l := at(s, 0, 200, 100)
	for range 3 { // the third would be painted for keeps
		if err := p.PaintReady(gone, l, &ready, &dst); !errors.Is(err, context.Canceled) {
			t.Fatal(err)
		}
	}
	if _, _, err := p.Repaint(context.Background(), l, &dst); err != nil {
		t.Fatal(err)
	}
	if want := painted(t, s, 0, 200, 100); !bytes.Equal(dst.Pix, want.Pix) {
		t.Error("after one that ended, a painting is another")
	}
}

// A picture that motion or a formula makes flat is simply not seen for as long.
func TestFlatPicturesAreNotSeen(t *testing.T) {
	pockets := `"pockets": [{"id": "p", "name": "P", "kinds": ["picture"]}],`
	view := func(more string) string {
		return `{"id": "v", "name": "V", "kind": "view", "pocket": "p", "size": [60, 60]` + more + `}`
	}
	for what, layer := range map[string]string{
		"a scale through zero":   view(`, "motion": {"scale": {"keys": [{"at": 0, "value": [1, 1]}, {"at": 20, "value": [-1, 1]}]}}`),
		"a scale by formula":     view(`, "formulas": {"scale.x": "step(0.2, time.share)"}`),
		"content of no size":     view(`, "motion": {"content.zoom": {"keys": [{"at": 0, "value": 1}, {"at": 10, "value": 0, "hold": true}, {"at": 20, "value": 1}]}}`),
		"a size of zero at rest": `{"id": "v", "name": "V", "kind": "view", "pocket": "p", "size": [0, 0], "formulas": {"size.x": "canvas.w * step(0.2, time.share)", "size.y": "canvas.h"}}`,
	} {
		s := made(t, 100, 100, pockets, layer, fills("p", "a"))
		for _, frame := range []int64{0, 5, 10, 15, 20, 40} {
			p := scene.NewPainter(scene.NewPictures(source, 64<<20))
			var dst raster.Surface
			if err := p.Paint(context.Background(), at(s, frame, 100, 100), &dst); err != nil {
				t.Errorf("%s, frame %d: %v", what, frame, err)
			}
			if frame == 10 && bytes.Count(dst.Pix, []byte{0}) != len(dst.Pix) {
				t.Errorf("%s: something is seen of it in frame %d", what, frame)
			}
			if frame == 40 && bytes.Count(dst.Pix, []byte{0}) == len(dst.Pix) {
				t.Errorf("%s: nothing is seen of it in frame %d", what, frame)
			}
			p.Close()
		}
	}
}

// Whatever changes the picture changes its address.
func TestAddressesTellPicturesApart(t *testing.T) {
	stroke := func(more string) string {
		return `{"id": "y", "name": "Y", "kind": "shape", "size": [50, 50], "stroke": {"colour": "#000000", "width": 4, "dash": [6, 4]` + more + `}}`
	}
	mask := func(more string) string {
		return `{"id": "y", "name": "Y", "kind": "shape", "size": [50, 50], "fill": "#000000", "masks": [{"id": "m", "feather": 3` + more + `}]}`
	}
	gradient := func(from string) string {
		return `{"id": "y", "name": "Y", "kind": "ground", "gradient": {"kind": "linear", "from": ` + from + `, "to": [1, 1], "stops": [{"at": 0, "colour": "#000000"}, {"at": 1, "colour": "#ffffff"}]}}`
	}
	for what, pair := range map[string][2]string{
		"dash shift":      {stroke(""), stroke(`, "shift": 3`)},
		"the part drawn":  {stroke(""), stroke(`, "to": 0.5`)},
		"mask growth":     {mask(""), mask(`, "growth": 2`)},
		"mask opacity":    {mask(""), mask(`, "opacity": 0.5`)},
		"mask turn":       {mask(""), mask(`, "turn": 20`)},
		"gradient points": {gradient("[0, 0]"), gradient("[0.5, 0]")},
	} {
		a, b := made(t, 100, 100, "", pair[0], sheet.Values{}), made(t, 100, 100, "", pair[1], sheet.Values{})
		if at(a, 0, 100, 100).Address() == at(b, 0, 100, 100).Address() {
			t.Errorf("%s does not change the address", what)
		}
		if bytes.Equal(painted(t, a, 0, 100, 100).Pix, painted(t, b, 0, 100, 100).Pix) {
			t.Errorf("%s does not change the picture", what)
		}
	}
}

// In copies of a group what follows a layer of the group follows that of its own
// copy.
func TestCopiesOfAGroupFollowTheirOwn(t *testing.T) {
	s := made(t, 1000, 1000, "", `{"id": "g", "name": "G", "kind": "group", "size": [10, 10], "copies": {"count": 5, "seed": 3, "spread": [0.4, 0.4], "delay": 20}, "layers": [
		{"id": "a", "name": "A", "kind": "shape", "size": [4, 4], "fill": "#ff0000", "motion": {"place": {"unit": "canvas", "keys": [{"at": 0, "value": [0, 0]}, {"at": 50, "value": [0.2, 0]}]}}},
		{"id": "b", "name": "B", "kind": "shape", "follow": "a", "place": [0, 50], "size": [4, 4], "fill": "#00ff00"}]}`, sheet.Values{})
	var a, b []geom.Point
	for _, it := range at(s, 30, 1000, 1000).Items {
		switch it.Layer {
		case "a":
			a = append(a, it.Box.Centre())
		case "b":
			b = append(b, it.Box.Centre())
		}
	}
	if len(a) != 5 || len(b) != 5 {
		t.Fatalf("%d and %d copies", len(a), len(b))
	}
	for i := range a {
		if math.Abs(a[i].X-b[i].X)+math.Abs(a[i].Y+50-b[i].Y) > 1e-9 {
			t.Errorf("copy %d: %v follows %v", i, b[i], a[i])
		}
		if i > 0 && a[i].X-a[0].X == b[0].X-a[0].X {
			t.Errorf("copy %d stands as the first does", i)
		}
	}
}

// Copies are turned and scaled at random, within what was asked for.
func TestCopiesTurnAndGrow(t *testing.T) {
	s := made(t, 1000, 1000, "", `{"id": "y", "name": "Y", "kind": "shape", "size": [10, 10], "fill": "#000000", "copies": {"count": 60, "seed": 7, "turn": 30, "scale": [0.5, 2]}}`, sheet.Values{})
	turns, scales := [2]float64{360, -360}, [2]float64{100, 0}
	for _, it := range at(s, 0, 1000, 1000).Items {
		m := it.Map.Affine
		turn, scale := math.Atan2(m.B, m.A)*180/math.Pi, math.Hypot(m.A, m.B)
		turns = [2]float64{math.Min(turns[0], turn), math.Max(turns[1], turn)}
		scales = [2]float64{math.Min(scales[0], scale), math.Max(scales[1], scale)}
	}
	if turns[0] < -30 || turns[1] > 30 || turns[0] > -20 || turns[1] < 20 {
		t.Errorf("turned by %v", turns)
	}
	if scales[0] < 0.5 || scales[1] > 2 || scales[0] > 0.7 || scales[1] < 1.7 {
		t.Errorf("scaled by %v", scales)
	}
}

// Nothing in a hidden group can be pointed at.
func TestHiddenGroupsHaveNoOutlines(t *testing.T) {
	for hidden, want := range map[bool]int{true: 0, false: 2} {
		s := made(t, 100, 100, "", fmt.Sprintf(`{"id": "g", "name": "G", "kind": "group", "hidden": %t, "layers": [{"id": "y", "name": "Y", "kind": "shape", "size": [10, 10], "fill": "#000000"}]}`, hidden), sheet.Values{})
		seen := 0
		for _, o := range s.Outlines(nil, s.Time().At(timing.OutputFrame(0))) {
			if o.Opacity > 0 {
				seen++
			}
		}
		if seen != want {
			t.Errorf("hidden %t: %d outlines", hidden, seen)
		}
	}
}
