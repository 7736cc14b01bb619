package scene_test

import (
	"bytes"
	"fmt"
	"math"
	"strings"
	"testing"

	"ivypocket/core/geom"
	"ivypocket/core/raster"
	"ivypocket/core/scene"
	"ivypocket/core/sheet"
)

const softTreats = `"treatments": [{"id": "soft", "kind": "blur", "radius": 4}, {"id": "cast", "kind": "shadow", "radius": [3, 5], "offset": [6, 4], "colour": "#201040a0"}]`

// Treated pictures are the same to the bit whether they are painted at once, in
// other bands, after another frame, or within a part of the picture.
func TestTreatedPicturesAreTheSameHoweverPainted(t *testing.T) {
	s := made(t, 160, 100, "", white+`, {"id": "g", "name": "G", "kind": "group", "opacity": 0.8, `+softTreats+`, "layers": [
		{"id": "a", "name": "A", "kind": "shape", "form": {"kind": "star", "sides": 5}, "fill": "#c08020", "size": [60, 60], "motion": {"turn": {"keys": [{"at": 0, "value": 0}, {"at": 99, "value": 300}]}}},
		{"id": "b", "name": "B", "kind": "shape", "fill": "#14603a", "size": [30, 30], "place": [70, 40], "treatments": [{"kind": "blur", "radius": 9}]}]},
		{"id": "m", "name": "M", "kind": "shape", "fill": "#a01030", "size": [40, 20], "place": [-50, 20], "matte": {"layer": "a", "of": "alpha"}, "treatments": [{"kind": "shadow", "radius": 2, "offset": [3, 3]}], "motionBlur": {"samples": 3, "shutter": 180}, "motion": {"place": {"unit": "canvas", "keys": [{"at": 0, "value": [0, 0]}, {"at": 99, "value": [0.5, 0]}]}}}`, sheet.Values{})
	p := scene.NewPainter(scene.NewPictures(source, 64<<20))
	defer p.Close()
	var again raster.Surface
	for _, frame := range []int64{0, 1, 1, 40, 3} {
		whole := painted(t, s, frame, 160, 100)
		if _, _, err := p.Repaint(t.Context(), at(s, frame, 160, 100), &again); err != nil {
			t.Fatal(err)
		}
		if !bytes.Equal(whole.Pix, again.Pix) {
			t.Errorf("frame %d differs when it is painted after another", frame)
		}
	}
}

// What is in a treated layer is painted by itself and needs its mattes; a matte may
// hold treated layers that have mattes in turn, and groups that stand still may hold
// both. None of it is painted before it is made, or for ever.
func TestMattesWithinTreatedLayersWithinMattes(t *testing.T) {
	const cast = `"treatments": [{"id": "cast", "kind": "shadow", "radius": 3, "offset": [4, 4]}]`
	inner := `{"id": "disc", "name": "D", "kind": "shape", "hidden": true, "form": {"kind": "ellipse"}, "size": [60, 60], "fill": "#000000"}`
	cut := `{"id": "%s", "name": "C", "kind": "group", ` + cast + `, "layers": [
		{"id": "%[1]s1", "name": "1", "kind": "shape", "size": [70, 30], "fill": "#c08020", "matte": {"layer": "disc", "of": "alpha"}, ` + cast + `},
		{"id": "%[1]s2", "name": "2", "kind": "group", "isolated": true, "layers": [
			{"id": "%[1]s3", "name": "3", "kind": "shape", "size": [10, 90], "fill": "#14603a", ` + cast + `},
			{"id": "%[1]s4", "name": "4", "kind": "shape", "size": [90, 10], "fill": "#a01030", ` + cast + `}]}]}`
	s := made(t, 160, 100, "", white+`, `+inner+`, {"id": "of", "name": "O", "kind": "group", "hidden": true, "layers": [`+fmt.Sprintf(cut, "x")+`]},
		{"id": "still", "name": "S", "kind": "group", "isolated": true, "layers": [`+fmt.Sprintf(cut, "y")+`,
			{"id": "last", "name": "L", "kind": "shape", "fill": "#3040ff", "opacity": 0.5, "matte": {"layer": "of", "of": "alpha"}, `+cast+`}]}`, sheet.Values{})
	p := scene.NewPainter(scene.NewPictures(source, 64<<20))
	defer p.Close()
	first := painted(t, s, 0, 160, 100)
	for n := range 5 {
		var again raster.Surface
		if err := p.Paint(t.Context(), at(s, 0, 160, 100), &again); err != nil {
			t.Fatal(err)
		}
		if !bytes.Equal(first.Pix, again.Pix) {
			t.Errorf("painted %d times, it differs", n+1)
		}
	}
	if px := first.Pix[4*(50*160+80):]; px[2] < 80 {
		t.Errorf("the middle is %v, and should be tinted blue", px[:4])
	}
}

// Within its masks a treatment does what it does without any, outside them the picture is as if it
// were not there, to the bit; and so it is where a treated group holds the layer, whose picture is
// then made by itself elsewhere. (That half a mask is half of both is held against Chromium.)
func TestTreatmentsAreDoneWithinTheirMasks(t *testing.T) {
	const mask = `"masks": [{"id": "m", "form": {"kind": "ellipse"}, "size": [60, 50], "place": [-20, 10], "feather": 8}]`
	layer := func(treat string) string {
		return `{"id": "y", "name": "Y", "kind": "shape", "form": {"kind": "star", "sides": 7}, "fill": "#c08020", "size": [90, 90], "place": [10, -5], "turn": 90, "scale": [1.2, 0.8], "treatments": [` + treat + `]}`
	}
	in := func(group, treat string) *raster.Surface {
		list := white + ", " + layer(treat)
		if group != "" {
			list = white + `, {"id": "g", "name": "G", "kind": "group", "treatments": [` + group + `], "layers": [` + layer(treat) + `]}`
		}
		return painted(t, made(t, 160, 120, "", list, sheet.Values{}), 0, 160, 120)
	}
	for name, kind := range map[string]string{"blur": `{"kind": "blur", "radius": 5%s}`, "shadow": `{"kind": "shadow", "radius": 3, "offset": [9, 7]%s}`} {
		without, with, masked := in("", ""), in("", fmt.Sprintf(kind, "")), in("", fmt.Sprintf(kind, ", "+mask))
		// Its middle and its axes on the canvas: the layer is turned by a quarter after it is scaled.
		cx, cy, rx, ry := 80+10-10*0.8, 60-5-20*1.2, 25*0.8, 30*1.2
		inside, outside := 0, 0
		for y := range 120 {
			for x := range 160 {
				dx, dy := (float64(x)+0.5-cx)/rx, (float64(y)+0.5-cy)/ry
				far := math.Hypot(dx, dy)
				got := masked.Pix[4*(y*160+x) : 4*(y*160+x)+4]
				if far < 0.7 {
					inside++
					if !bytes.Equal(got, with.Pix[4*(y*160+x):4*(y*160+x)+4]) {
						t.Fatalf("%s: at %d, %d inside it is %v", name, x, y, got)
					}
				}
				if far > 1.3 {
					outside++
					if !bytes.Equal(got, without.Pix[4*(y*160+x):4*(y*160+x)+4]) {
						t.Fatalf("%s: at %d, %d outside it is %v", name, x, y, got)
					}
				}
			}
		}
		if inside < 500 || outside < 5000 || bytes.Equal(with.Pix, masked.Pix) || bytes.Equal(without.Pix, masked.Pix) {
			t.Errorf("%s: %d inside, %d outside", name, inside, outside)
		}
		worst := 0
		for i, v := range in(`{"kind": "shadow", "radius": 0, "offset": [0, 0], "colour": "#00000001"}`, fmt.Sprintf(kind, ", "+mask)).Pix {
			worst = max(worst, int(math.Abs(float64(v)-float64(masked.Pix[i]))))
		}
		if worst > 2 {
			t.Errorf("%s: in a treated group it is off by %d", name, worst)
		}
	}
}

// A preview is the shrunk picture: radii are in the units of the canvas
// (PSNR of 38 dB or more, as all previews).
func TestTreatmentsScaleWithTheCanvas(t *testing.T) {
	s := made(t, 800, 400, "", white+`, {"id": "y", "name": "Y", "kind": "shape", "form": {"kind": "star", "sides": 5}, "fill": "#c08020", "size": [200, 200], "treatments": [{"kind": "blur", "radius": 12}, {"kind": "shadow", "radius": 20, "offset": [40, 30], "opacity": 0.7}]}`, sheet.Values{})
	large, small := painted(t, s, 0, 800, 400), painted(t, s, 0, 200, 100)
	sum := 0.0
	for y := range 100 {
		for x := range 200 {
			for c := range 3 {
				mean := 0.0
				for k := range 16 {
					mean += float64(large.Pix[4*((4*y+k/4)*800+4*x+k%4)+c]) / 16
				}
				d := mean - float64(small.Pix[4*(y*200+x)+c])
				sum += d * d
			}
		}
	}
	if psnr := 10 * math.Log10(255*255/(sum/(3*200*100))); psnr < 38 {
		t.Errorf("%.1f dB", psnr)
	}
}

// A shadow falls the same way however its layer turns and grows; with the group it
// turns along.
func TestShadowsFallTheSameWay(t *testing.T) {
	darkest := func(layers string) (x, y float64) {
		s := made(t, 200, 200, "", layers, sheet.Values{})
		p := painted(t, s, 0, 200, 200)
		n := 0.0
		for i := range 200 * 200 {
			if px := p.Pix[4*i : 4*i+4]; px[3] > 200 && px[2] > 100 { // the shadow is blue
				x, y, n = x+float64(i%200)-99.5, y+float64(i/200)-99.5, n+1
			}
		}
		return x / n, y / n
	}
	y := `{"id": "y", "name": "Y", "kind": "shape", "fill": "#ff0000", "size": [20, 20], %s"treatments": [{"kind": "shadow", "radius": 0, "offset": [60, 0], "colour": "#0000ff"}]}`
	for what, c := range map[string]struct {
		layers string
		x, y   float64
	}{
		"as it is":       {fmt.Sprintf(y, ""), 60, 0},
		"turned":         {fmt.Sprintf(y, `"turn": 90, `), 60, 0},
		"scaled":         {fmt.Sprintf(y, `"scale": 0.5, `), 60, 0},
		"a turned group": {`{"id": "g", "name": "G", "kind": "group", "turn": 90, "layers": [` + fmt.Sprintf(y, "") + `]}`, 0, 60},
		"a camera":       {fmt.Sprintf(y, "") + `, {"id": "c", "name": "C", "kind": "camera", "scale": 0.5, "turn": 90}`, 0, 30},
	} {
		if x, y := darkest(c.layers); math.Hypot(x-c.x, y-c.y) > 0.6 {
			t.Errorf("%s: it falls at %.1f, %.1f, want %g, %g", what, x, y, c.x, c.y)
		}
	}
}

// Treatments are keyed, switched off, tied and yielded like anything, and are part
// of a frame's address by all that they do.
func TestTreatmentsAreValuesLikeAny(t *testing.T) {
	layer := func(treat, more string) string {
		return `{"id": "y", "name": "Y", "kind": "shape", "fill": "#ff0000", "size": [40, 40]` + more + `, "treatments": [` + treat + `]}`
	}
	s := made(t, 100, 100, fmt.Sprintf(sheetOf, strings.Replace(amount("soft", 3, "layers/y/treatments/soft/radius.x"), "-99", "0", 1)), layer(`{"id": "soft", "kind": "blur", "radius": 1, "motion": {"radius.y": {"keys": [{"at": 0, "value": 1}, {"at": 50, "value": 3}]}}, "formulas": {"off": "time.frames > 60"}}`, ""), sheet.Values{})
	near(t, "the radius", now(t, s, "layers/y/treatments/soft/radius", 50), 3, 3)
	for frame, kind := range map[int64]scene.ItemKind{60: scene.TreatItem, 61: scene.FillItem} {
		if got := at(s, frame, 100, 100).Items[0].Kind; got != kind {
			t.Errorf("at frame %d the first item is of kind %d", frame, got)
		}
	}
	// So are those of a treatment's masks, also in a motif, whose own treatments its uses have.
	s = made(t, 100, 100, `"motifs": [{"id": "g", "name": "G", "kind": "group", "treatments": [{"kind": "shadow", "radius": 2}], "layers": [`+layer(`{"id": "soft", "kind": "blur", "radius": 2, "masks": [{"id": "m", "size": [20, 10],
		"motion": {"place": {"unit": "canvas", "keys": [{"at": 0, "value": [0, 0]}, {"at": 50, "value": [0.5, 0]}]}}, "formulas": {"feather": "time.seconds * 25", "growth": "self.feather / 2"}}]}`, "")+`]}],`,
		`{"id": "one", "name": "One", "kind": "use", "motif": "g", "values": {"layers/y/treatments/soft/masks/m/size.y": 30}}`, sheet.Values{})
	list := at(s, 10, 100, 100)
	if steps := list.Items[2].Steps; list.Items[0].Kind != scene.TreatItem || list.Items[2].Kind != scene.TreatItem || len(steps) != 1 || steps[0].Masks[1]-steps[0].Masks[0] != 1 {
		t.Fatalf("%+v", list.Items)
	}
	m := list.Masks[list.Items[2].Steps[0].Masks[0]]
	middle := m.Map.Apply(geom.Point{X: 10, Y: 15})
	near(t, "the mask of a treatment", []float64{m.Form.Size.W, m.Form.Size.H, m.In + m.Out, m.Growth, middle.X, middle.Y}, 20, 30, 10, 5, 60, 50)
	s = made(t, 100, 100, fmt.Sprintf(pockets, hash("a"), hash("b")), `{"id": "v", "name": "V", "kind": "view", "pocket": "north", "treatments": [{"kind": "blur", "radius": 2, "masks": [{"id": "m", "of": "outline"}]}]}`, sheet.Values{})
	if list := at(s, 0, 100, 100); list.Masks[0].Form.Kind != geom.Traced {
		t.Errorf("a treatment within an outline has %+v", list.Masks[0].Form)
	}
	address := func(treat string) string {
		return at(made(t, 100, 100, "", layer(treat, ""), sheet.Values{}), 0, 100, 100).Address().String()
	}
	seen := map[string]string{}
	for _, treat := range []string{`{"kind": "blur", "radius": 1}`, `{"kind": "blur", "radius": [1, 2]}`, `{"kind": "blur", "radius": [2, 1]}`, `{"kind": "shadow", "radius": 1}`, `{"kind": "shadow", "radius": 1, "offset": [1, 0]}`,
		`{"kind": "shadow", "radius": 1, "offset": [0, 1]}`, `{"kind": "shadow", "radius": 1, "colour": "#010000"}`, `{"kind": "shadow", "radius": 1, "opacity": 0.5}`, `{"kind": "blur", "radius": 1, "masks": [{"id": "m"}]}`, `{"kind": "blur", "radius": 1, "masks": [{"id": "m", "feather": 2}]}`, `{"kind": "blur", "radius": 1}, {"kind": "shadow", "radius": 1}`, `{"kind": "shadow", "radius": 1}, {"kind": "blur", "radius": 1}`} {
		a := address(treat)
		if other := seen[a]; other != "" {
			t.Errorf("%s and %s share an address", treat, other)
		}
		seen[a] = treat
	}
	if address(`{"kind": "blur", "radius": 1}`) != address(`{"kind": "blur", "radius": 1, "masks": [{"id": "m", "off": true}]}`) {
		t.Error("a mask that is off is seen")
	}
	if address(`{"kind": "blur", "radius": 1}`) != address(`{"id": "other", "kind": "blur", "radius": [1, 1], "behaviour": 1}`) {
		t.Error("the same treatment under another id is another picture")
	}
}
