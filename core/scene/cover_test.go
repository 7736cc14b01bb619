package scene_test

import (
	"context"
	"fmt"
	"math"
	"testing"

	"ivypocket/core/geom"
	"ivypocket/core/raster"
	"ivypocket/core/scene"
	"ivypocket/core/scheme"
	"ivypocket/core/sheet"
	"ivypocket/core/timing"
)

// bare is the first frame, or half of one, at which a pixel of the canvas is clear.
func bare(t *testing.T, s *scene.Scene, w, h int) float64 {
	t.Helper()
	p := scene.NewPainter(scene.NewPictures(source, 64<<20))
	defer p.Close()
	var l scene.List
	for n := range 2*s.Frames() - 1 {
		s.At(&l, s.Time().Moment(timing.NewRat(n, 2)), scene.Size{W: w, H: h})
		dst := paintedList(t, p, &l)
		for i := 3; i < len(dst.Pix); i += 4 {
			if dst.Pix[i] != 255 {
				return float64(n) / 2
			}
		}
	}
	return -1
}

// What covers its canvas does so at every instant, whatever moves it.
func TestCoversHoldsWhateverMovesIt(t *testing.T) {
	turn := `"turn": {"keys": [{"at": 0, "value": 0}, {"at": 99, "value": 40}]}`
	for what, more := range map[string]string{
		"turn and place":     `"motion": {` + turn + `, "place": {"unit": "canvas", "keys": [{"at": 0, "value": [-0.2, 0]}, {"at": 99, "value": [0.2, 0.1]}]}}`,
		"skew":               `"skew": [20, 5], "motion": {` + turn + `}`,
		"a moving skew":      `"motion": {"skew": {"keys": [{"at": 0, "value": [0, 0]}, {"at": 60, "value": [30, 10]}]}}`,
		"another origin":     `"origin": [0.2, 0.7], "motion": {` + turn + `}`,
		"corners":            `"corners": [[6, 2], [-4, 6], [-8, -6], [3, -5]], "motion": {` + turn + `}`,
		"a size that moves":  `"motion": {"size": {"keys": [{"at": 0, "value": [1, 1]}, {"at": 50, "value": [0.6, 0.8]}]}, ` + turn + `}`,
		"a size by formula":  `"formulas": {"size.x": "entry('wide') - time.frames / 4", "size.y": "entry('wide') / 2"}, "motion": {` + turn + `}`,
		"a place by formula": `"formulas": {"place.x": "sin(time.frames * 9) * 20"}, "motion": {` + turn + `}`,
		"following":          `"follow": "lead", "motion": {` + turn + `}`,
		"copies":             `"copies": {"count": 3, "seed": 4, "spread": [0.3, 0.2], "turn": 30, "scale": [0.5, 1]}`,
		"one number keyed":   `"motion": {"place.x": {"unit": "canvas", "keys": [{"at": 0, "value": -0.4}, {"at": 99, "value": 0.4}]}, "scale.y": {"keys": [{"at": 0, "value": 0.5}]}}`,
	} {
		s := made(t, 64, 36, fmt.Sprintf(sheetOf, amount("wide", 60)), `
			{"id": "lead", "name": "L", "kind": "shape", "fill": "#000000", "size": [2, 2], "hidden": true, "motion": {"place": {"unit": "canvas", "keys": [{"at": 0, "value": [0, 0]}, {"at": 99, "value": [0.3, -0.4]}]}}},
			{"id": "y", "name": "Y", "kind": "shape", "fill": "#102030", "size": [64, 36], "covers": true, `+more+`}`, sheet.Values{})
		if at := bare(t, s, 64, 36); at >= 0 {
			t.Errorf("%s: bare at %g", what, at)
		}
		quad := outlineOf(t, s, "y", 0)
		if area := quad.Box.W * quad.Box.H; area > 64*36*16 {
			t.Errorf("%s: enlarged to %g × %g", what, quad.Box.W, quad.Box.H)
		}
	}
}

func outlineOf(t *testing.T, s *scene.Scene, layer string, frame int64) scene.Outline {
	t.Helper()
	for _, o := range s.Outlines(nil, s.Time().At(timing.OutputFrame(frame))) {
		if o.Layer == layer {
			return o
		}
	}
	t.Fatalf("%s has no outline", layer)
	return scene.Outline{}
}

// Media in cover shows no edge when its box comes from a formula, moves, or fills
// a group that does.
func TestCoverFramingHeedsSizesThatChange(t *testing.T) {
	more := `"pockets": [{"id": "p", "name": "P", "kinds": ["picture"], "standIn": {"media": "` + hash("a") + `"}, "framing": {"fit": "cover", "focus": [0.9, 0.1], "turn": 12}}],` + fmt.Sprintf(sheetOf, amount("wide", 90))
	move := `"motion": {"content.turn": {"keys": [{"at": 0, "value": -30}, {"at": 99, "value": 30}]}, "content.pan": {"keys": [{"at": 0, "value": [0.2, 0]}, {"at": 99, "value": [-0.2, 0.3]}]}%s}`
	for what, layers := range map[string]string{
		"by a formula":        `{"id": "v", "name": "V", "kind": "view", "pocket": "p", "size": [10, 10], "formulas": {"size.x": "entry('wide')", "size.y": "20 + time.frames / 3"}, ` + fmt.Sprintf(move, "") + `}`,
		"by keys":             `{"id": "v", "name": "V", "kind": "view", "pocket": "p", "size": [80, 30], ` + fmt.Sprintf(move, `, "size": {"keys": [{"at": 0, "value": [1, 1]}, {"at": 70, "value": [0.3, 2]}]}`) + `}`,
		"by a group":          `{"id": "g", "name": "G", "kind": "group", "size": [50, 50], "formulas": {"size.x": "entry('wide') - time.frames / 2"}, "layers": [{"id": "v", "name": "V", "kind": "view", "pocket": "p", ` + fmt.Sprintf(move, "") + `}]}`,
		"content by formulas": `{"id": "v", "name": "V", "kind": "view", "pocket": "p", "size": [80, 30], "formulas": {"content.turn": "sin(time.frames * 7) * 50", "content.pan.x": "0.3 * cos(time.frames * 9)", "content.zoom": "0.7 + 0.3 * sin(time.frames * 20)"}}`,
	} {
		s := made(t, 100, 60, more, layers, sheet.Values{})
		for frame := range s.Frames() {
			for _, it := range at(s, frame, 100, 60).Items {
				if it.Kind == scene.PictureItem && it.Edges {
					t.Fatalf("%s: an edge shows at frame %d", what, frame)
				}
			}
		}
		if z := s.Stands()[0].Enlarged; z > 2 {
			t.Errorf("%s: a pixel of the media covers %g", what, z)
		}
	}
}

// What shrinks to nothing is not enlarged for that without end.
func TestShrinkingToNothingEnlargesNothing(t *testing.T) {
	more := `"pockets": [{"id": "p", "name": "P", "kinds": ["picture"], "standIn": {"media": "` + hash("a") + `"}}],`
	s := made(t, 100, 60, more, `{"id": "v", "name": "V", "kind": "view", "pocket": "p", "motion": {"content.zoom": {"keys": [{"at": 0, "value": 0}, {"at": 99, "value": 1}]}, "content.turn": {"keys": [{"at": 0, "value": 10}]}}},
		{"id": "w", "name": "W", "kind": "view", "pocket": "p", "formulas": {"content.zoom": "time.share"}},
		{"id": "c", "name": "C", "kind": "shape", "fill": "#000000", "covers": true, "size": [100, 60], "motion": {"scale": {"keys": [{"at": 0, "value": [0, -1]}, {"at": 99, "value": [1, 1]}]}}},
		{"id": "d", "name": "D", "kind": "shape", "fill": "#000000", "covers": true, "size": [100, 60], "skew": [1, 0], "formulas": {"scale": "time.share"}}`, sheet.Values{})
	for _, st := range s.Stands() {
		if st.Zoom > 1.5 {
			t.Errorf("%s is enlarged %g times", st.Layer, st.Zoom)
		}
	}
	for _, id := range []string{"c", "d"} {
		if o := outlineOf(t, s, id, 99); o.Box.W > 150 || o.Box.W < 100 {
			t.Errorf("%s is %g px wide", id, o.Box.W)
		}
	}
	at(s, 0, 100, 60) // is drawn, with nothing to be seen
}

// A ground in a group with a size ends at the group; so does a layer without a
// size, whose size follows the group's; a group that clips cuts off the rest.
func TestGroupsHoldWhatIsInThem(t *testing.T) {
	in := `"layers": [{"id": "ground", "name": "B", "kind": "ground", "fill": "#ff0000"}, {"id": "fill", "name": "F", "kind": "shape", "fill": "#00ff00", "scale": 0.5}, {"id": "out", "name": "O", "kind": "shape", "fill": "#0000ff", "size": [200, 4]}]`
	for what, c := range map[string]struct {
		group string
		clip  bool
		w, h  float64
	}{
		"by its size":     {`"size": [40, 20]`, false, 40, 20},
		"clipping":        {`"size": [40, 20], "clip": true`, true, 40, 20},
		"clipping masked": {`"size": [40, 20], "clip": true, "masks": [{"id": "m", "size": [400, 400]}]`, true, 40, 20},
		"by a formula":    {`"size": [1, 1], "formulas": {"size.x": "canvas.w * 0.4", "size.y": "20"}`, false, 40, 20},
		"by keys":         {`"size": [20, 20], "motion": {"size.x": {"keys": [{"at": 0, "value": 2}]}}`, false, 40, 20},
		"without a size":  {`"opacity": 1`, false, 100, 60},
	} {
		s := made(t, 100, 60, "", `{"id": "g", "name": "G", "kind": "group", `+c.group+`, `+in+`}`, sheet.Values{})
		p := painted(t, s, 10, 100, 60)
		colour := func(x, y int) [4]uint8 { return [4]uint8(p.Pix[4*(y*100+x):]) }
		inside := func(x, y int) bool {
			return math.Abs(float64(x)-49.5) < c.w/2 && math.Abs(float64(y)-29.5) < c.h/2
		}
		for _, at := range [][2]int{{50, 21}, {31, 25}, {68, 38}, {50, 15}, {20, 22}, {50, 50}, {28, 25}, {1, 1}} {
			want := [4]uint8{}
			if inside(at[0], at[1]) {
				want = [4]uint8{255, 0, 0, 255}
				if math.Abs(float64(at[0])-49.5) < c.w/4 && math.Abs(float64(at[1])-29.5) < c.h/4 {
					want = [4]uint8{0, 255, 0, 255}
				}
			}
			if got := colour(at[0], at[1]); got != want {
				t.Errorf("%s: pixel %v is %v, want %v", what, at, got, want)
			}
		}
		for _, x := range []int{2, 97} {
			if got := colour(x, 30)[2] == 255; got == c.clip {
				t.Errorf("%s: what sticks out is seen: %v", what, got)
			}
		}
		near(t, what, now(t, s, "layers/fill/size", 10), c.w, c.h)
	}
}

// Anchors and boxes heed the size of a group as it is, and so does what fills a
// group in a group.
func TestSizesByFormulaAreHeeded(t *testing.T) {
	s := made(t, 200, 100, "", `{"id": "g", "name": "G", "kind": "group", "size": [10, 10], "formulas": {"size.x": "time.frames * 1 + 20", "size.y": "self.size.x / 2"}, "layers": [
		{"id": "inner", "name": "I", "kind": "group", "motion": {"size": {"keys": [{"at": 0, "value": [0.5, 1]}]}}, "layers": [
			{"id": "deep", "name": "D", "kind": "shape", "fill": "#000000"}]},
		{"id": "corner", "name": "C", "kind": "shape", "fill": "#000000", "size": [4, 4], "anchor": "bottom right"},
		{"id": "reads", "name": "R", "kind": "shape", "fill": "#000000", "size": [4, 4], "formulas": {"place.x": "layer('deep').box.w", "opacity": "layer('corner').box.right / 100"}}]}`, sheet.Values{})
	near(t, "the group", now(t, s, "layers/g/size", 60), 80, 40)
	near(t, "what fills it, by half", now(t, s, "layers/inner/size", 60), 40, 40)
	near(t, "what fills that", now(t, s, "layers/deep/size", 60), 40, 40)
	near(t, "what reads it", now(t, s, "layers/reads/place", 60), 40, 0)
	near(t, "a box anchored in the corner", now(t, s, "layers/reads/opacity", 60), 0.4)
	if b := outlineOf(t, s, "corner", 60).Box; b != (geom.Box{X: 100 + 40 - 4, Y: 50 + 20 - 4, W: 4, H: 4}) {
		t.Errorf("it stands at %+v", b)
	}
}

// One clock for all views of a pocket: its in-point is the first frame that is
// seen, under trimmed groups too; what is shifted is as much later.
func TestViewsOfAPocketRunInStep(t *testing.T) {
	more := `"pockets": [{"id": "p", "name": "P", "kinds": ["footage"], "standIn": {"media": "` + hash("d") + `", "inPoint": 7}}],`
	frames := func(layers string, frame int64) map[string]int64 {
		out := map[string]int64{}
		for _, it := range at(made(t, 100, 60, more, layers, sheet.Values{}), frame, 100, 60).Items {
			if it.Kind == scene.PictureItem {
				out[it.Layer] = it.Frame
			}
		}
		return out
	}
	view := func(id, more string) string {
		return fmt.Sprintf(`{"id": %q, "name": "V", "kind": "view", "pocket": "p"%s}`, id, more)
	}
	group := func(more, in string) string {
		return `{"id": "g", "name": "G", "kind": "group"` + more + `, "layers": [` + in + `]}`
	}
	// The clip has 50 frames a second, the template 25.
	for what, c := range map[string]struct {
		layers string
		frame  int64
		want   map[string]int64
	}{
		"two trims":                {view("a", `, "in": 10`) + "," + view("b", `, "in": 15`), 20, map[string]int64{"a": 7 + 20, "b": 7 + 20}},
		"its first frame":          {view("a", `, "in": 10`), 10, map[string]int64{"a": 7}},
		"in a trimmed group":       {group(`, "in": 15`, view("a", "")), 15, map[string]int64{"a": 7}},
		"in and out of one":        {group(`, "in": 15`, view("a", "")) + "," + view("b", ""), 15, map[string]int64{"a": 7 + 30, "b": 7 + 30}},
		"one shifted":              {view("a", "") + "," + view("b", `, "shift": 5`), 12, map[string]int64{"a": 7 + 24, "b": 7 + 14}},
		"a shifted group":          {group(`, "shift": 5, "in": 10`, view("a", `, "shift": 2`)), 17, map[string]int64{"a": 7 + 4}},
		"not before it is shifted": {group(`, "shift": 5, "in": 10`, view("a", "")), 14, map[string]int64{}},
	} {
		got := frames(c.layers, c.frame)
		if fmt.Sprint(got) != fmt.Sprint(c.want) {
			t.Errorf("%s: %v, want %v", what, got, c.want)
		}
	}
}

// A shift takes keys, masks' keys, trims, formulas' time and what is in a group
// along; what is not trimmed lasts as long as the template.
func TestAShiftTakesAllAlong(t *testing.T) {
	y := `{"id": "y", "name": "Y", "kind": "shape", "fill": "#000000", "size": [10, 10]%s, "in": 10, "out": 40, "motion": {"turn": {"keys": [{"at": 10, "value": 0}, {"at": 40, "value": 30}]}}, "formulas": {"opacity": "time.frames / 100"},
		"masks": [{"id": "m", "motion": {"growth": {"unit": "canvas", "keys": [{"at": 10, "value": 0}, {"at": 20, "value": 1}]}}}]}`
	plain := made(t, 100, 100, "", fmt.Sprintf(y, ""), sheet.Values{})
	for what, s := range map[string]*scene.Scene{
		"a layer": made(t, 100, 100, "", fmt.Sprintf(y, `, "shift": 12`), sheet.Values{}),
		"a group": made(t, 100, 100, "", `{"id": "g", "name": "G", "kind": "group", "shift": 20, "layers": [`+fmt.Sprintf(y, `, "shift": -8`)+`]}`, sheet.Values{}),
	} {
		for _, frame := range []int64{5, 10, 17, 39, 40} {
			for _, p := range []*scheme.Property{scheme.Turn, scheme.Opacity} {
				near(t, fmt.Sprintf("%s: %s at %d", what, p.Name, frame), now(t, s, "layers/y/"+p.Name, frame+12), now(t, plain, "layers/y/"+p.Name, frame)...)
			}
			near(t, what+": a mask", now(t, s, "layers/y/masks/m/growth", frame+12), now(t, plain, "layers/y/masks/m/growth", frame)...)
			if a, b := len(at(s, frame+12, 100, 100).Items) > 0, len(at(plain, frame, 100, 100).Items) > 0; a != b {
				t.Errorf("%s: seen at %d: %v, want %v", what, frame+12, a, b)
			}
		}
	}
}

func paintedList(t *testing.T, p *scene.Painter, l *scene.List) *raster.Surface {
	t.Helper()
	dst := &raster.Surface{}
	if err := p.Paint(context.Background(), l, dst); err != nil {
		t.Fatal(err)
	}
	return dst
}

// Cells that touch leave no seam, wherever their edges fall between pixels, in
// pictures and shapes alike; what is in them is as large as it was.
func TestCellsThatTouchLeaveNoSeam(t *testing.T) {
	for _, c := range []struct{ columns, w, h int }{{7, 1920, 1080}, {7, 960, 540}, {3, 100, 60}, {11, 333, 188}, {16, 250, 140}} {
		layers, weights := "", ""
		for i := range c.columns {
			sep := map[bool]string{true: "", false: ", "}[i == 0]
			weights += sep + "1"
			layers += sep + fmt.Sprintf(`{"id": "v%d", "name": "V", "kind": "%s, "cell": {"layout": "l", "row": 0, "column": %d}}`, i, []string{`view", "pocket": "p"`, `shape", "fill": "#102030"`}[i%2], i)
		}
		s := made(t, 1920, 1080, fmt.Sprintf(`"layouts": [{"id": "l", "kind": "split", "rows": [1], "columns": [%s], "gutterBy": "shrink"}], "pockets": [{"id": "p", "name": "P", "kinds": ["picture"], "standIn": {"media": %q}}],`, weights, hash("a")), layers, sheet.Values{})
		p := painted(t, s, 0, c.w, c.h)
		for x := range c.w {
			if a := p.Pix[4*(c.h/2*c.w+x)+3]; a != 255 {
				t.Errorf("%d columns at %d px: pixel %d has alpha %d", c.columns, c.w, x, a)
			}
		}
	}
}
