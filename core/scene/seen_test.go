package scene_test

import (
	"context"
	"math"
	"testing"

	"ivypocket/core/geom"
	"ivypocket/core/raster"
	"ivypocket/core/scene"
	"ivypocket/core/sheet"
	"ivypocket/core/timing"
)

// Where a layer is seen is where the picture changes when it is taken away: by its own
// matte, by that of a group it is in, inverted or by luminance. A layer that only cuts
// is told while something that it cuts is shown.
func TestWhereLayersAreSeenThroughMattes(t *testing.T) {
	s := made(t, 160, 90, "", `
			{"id": "back", "name": "Back", "kind": "ground", "fill": "#000000"},
			{"id": "cutter", "name": "Cutter", "kind": "shape", "form": {"kind": "ellipse"}, "size": [60, 60], "place": [-30, 0], "fill": "#ffffff", "hidden": true},
			{"id": "plain", "name": "Plain", "kind": "shape", "form": {"kind": "rectangle"}, "size": [120, 80], "fill": "#ff0000", "matte": {"layer": "cutter", "of": "alpha"}, "out": 20},
			{"id": "group", "name": "Group", "kind": "group", "matte": {"layer": "cutter", "of": "luma", "invert": true}, "layers": [
				{"id": "inner", "name": "Inner", "kind": "shape", "form": {"kind": "rectangle"}, "size": [40, 90], "place": [60, 0], "fill": "#00ff00"}], "out": 30}`, sheet.Values{})
	painter := scene.NewPainter(scene.NewPictures(source, 1<<20))
	defer painter.Close()
	seen := func(frame int64) map[string][][]geom.Point {
		t.Helper()
		var pic raster.Surface
		list, err := s.Seen(s.Time().At(timing.OutputFrame(frame)), scene.Size{W: 160, H: 90}, func(l *scene.List) (*raster.Surface, error) {
			return &pic, painter.Paint(context.Background(), l, &pic)
		})
		if err != nil {
			t.Fatal(err)
		}
		out := map[string][][]geom.Point{}
		for _, x := range list {
			out[x.Layer] = x.Lines
		}
		return out
	}
	inside := func(lines [][]geom.Point, x, y float64) bool {
		in := false
		for _, l := range lines {
			for i, a := range l {
				b := l[(i+1)%len(l)]
				if (a.Y > y) != (b.Y > y) && x < a.X+(y-a.Y)/(b.Y-a.Y)*(b.X-a.X) {
					in = !in
				}
			}
		}
		return in
	}
	at := seen(5)
	for y := 2.0; y < 88; y += 5 {
		for x := 2.0; x < 158; x += 5 {
			d := math.Hypot(x-50, y-45)
			if math.Abs(d-30) < 2 {
				continue
			}
			if got := inside(at["plain"], x, y); got != (d < 30) {
				t.Errorf("at %g, %g the plain layer is seen: %v", x, y, got)
			}
			if got := inside(at["inner"], x, y); got != (d > 30) {
				t.Errorf("at %g, %g the group's layer is seen: %v", x, y, got)
			}
		}
	}
	if _, ok := at["back"]; ok {
		t.Error("a layer that nothing cuts is told")
	}
	outlines := func(frame int64) map[string]scene.Outline {
		out := map[string]scene.Outline{}
		for _, o := range s.Outlines(nil, s.Time().At(timing.OutputFrame(frame))) {
			out[o.Layer] = o
		}
		return out
	}
	o := outlines(5)
	if !o["cutter"].Cuts || !o["plain"].Cut || !o["inner"].Cut || o["plain"].Hides || o["cutter"].Hides {
		t.Errorf("%+v", o)
	}
	if _, there := outlines(25)["cutter"]; !there {
		t.Error("what cuts the group alone is not told")
	}
	if _, there := outlines(35)["cutter"]; there {
		t.Error("what cuts nothing that is shown is told")
	}
}
