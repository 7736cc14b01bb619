package scene_test

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"testing"

	"ivypocket/core/geom"
	"ivypocket/core/raster"
	"ivypocket/core/scene"
	"ivypocket/core/sheet"
	"ivypocket/core/timing"
)

// What is seen at a point is what leaves something there in a picture of that layer
// alone, through masks, mattes, turned groups, copies and opacities, the topmost first.
func TestWhatIsSeenAtAPoint(t *testing.T) {
	const all = `
		{"id": "back", "name": "Back", "kind": "ground", "fill": "#000000"},
		{"id": "cutter", "name": "Cutter", "kind": "shape", "form": {"kind": "star", "sides": 5}, "size": [70, 70], "place": [-30, 0], "fill": "#ffffff", "hidden": true},
		{"id": "wide", "name": "Wide", "kind": "shape", "size": [150, 60], "fill": "#335577" HIDE-wide},
		{"id": "cut", "name": "Cut", "kind": "shape", "size": [120, 80], "fill": "#ff0000", "matte": {"layer": "cutter", "of": "alpha"} HIDE-cut},
		{"id": "group", "name": "Group", "kind": "group", "turn": 30, "opacity": 0.5, "masks": [{"id": "m", "form": {"kind": "ellipse"}, "feather": 6}], "layers": [
			{"id": "inner", "name": "Inner", "kind": "shape", "size": [90, 30], "place": [30, 0], "fill": "#00ff00" HIDE-inner},
			{"id": "faint", "name": "Faint", "kind": "shape", "size": [90, 90], "fill": "#00ff00", "opacity": 0.01 HIDE-faint}]},
		{"id": "many", "name": "Many", "kind": "shape", "form": {"kind": "ellipse"}, "size": [14, 14], "fill": "#ffffff", "copies": {"count": 6, "seed": 4, "spread": [0.4, 0.4]} HIDE-many},
		{"id": "gone", "name": "Gone", "kind": "shape", "size": [150, 80], "fill": "#ffffff", "out": 2 HIDE-gone},
		{"id": "line", "name": "Line", "kind": "shape", "size": [150, 1], "place": [0, 20.5], "fill": "#ffffff" HIDE-line}`
	ids := []string{"line", "gone", "many", "faint", "inner", "cut", "wide"}
	make := func(alone string) *scene.Scene {
		layers := all
		for _, id := range ids {
			with := ""
			if alone != "" && alone != id {
				with = `, "hidden": true`
			}
			layers = strings.ReplaceAll(layers, " HIDE-"+id, with)
		}
		if alone != "" {
			layers = strings.Replace(layers, `{"id": "back", "name": "Back", "kind": "ground", "fill": "#000000"},`, "", 1)
		}
		return made(t, 160, 90, "", layers, sheet.Values{})
	}
	alone := map[string]*raster.Surface{}
	for _, id := range ids {
		alone[id] = painted(t, make(id), 5, 160, 90)
	}
	s := make("")
	painter := scene.NewPainter(scene.NewPictures(source, 1<<20))
	defer painter.Close()
	var pic raster.Surface
	under := func(x, y, zoom float64) []string {
		t.Helper()
		list, err := s.Under(s.Time().At(timing.OutputFrame(5)), geom.Point{X: x, Y: y}, zoom, func(l *scene.List) (*raster.Surface, error) {
			return &pic, painter.Paint(context.Background(), l, &pic)
		})
		if err != nil {
			t.Fatal(err)
		}
		return list
	}
	several, near := 0, 0
	for y := 1; y < 90; y += 4 {
		for x := 1; x < 160; x += 3 {
			var want, close []string
			for _, id := range ids {
				if _, _, _, a := alone[id].At(x, y); a >= 6 {
					want = append(want, id)
					continue
				}
				best := uint8(0)
				for dy := -3; dy <= 3; dy++ {
					for dx := -3; dx <= 3; dx++ {
						if x+dx >= 0 && y+dy >= 0 && x+dx < 160 && y+dy < 90 {
							_, _, _, a := alone[id].At(x+dx, y+dy)
							best = max(best, a)
						}
					}
				}
				if best >= 6 {
					close = append(close, id)
				}
			}
			got := under(float64(x)+0.5, float64(y)+0.5, 1)
			if x > 3 && x < 156 && y > 3 && y < 86 { // beyond the edges of a picture nothing is known of it
				want, near = append(want, close...), near+len(close)
			} else {
				got = got[:min(len(got), len(want))]
			}
			if !slices.Equal(got, want) {
				t.Fatalf("at %d, %d: %v, not %v", x, y, got, want)
			}
			if len(want) > 2 {
				several++
			}
		}
	}
	if several < 50 || near < 50 {
		t.Errorf("%d points with several, %d near ones: the test says little", several, near)
	}
	// On a small stage a thin line is still taken hold of, on a large one it must be met.
	if got := fmt.Sprint(under(-70+80, 60, 0.25)); !strings.Contains(got, "line") {
		t.Errorf("far away: %s", got)
	}
	if got := fmt.Sprint(under(10, 60, 4)); strings.Contains(got, "line") {
		t.Errorf("near by: %s", got)
	}
}
