package scene_test

import (
	"context"
	"fmt"
	"strings"
	"testing"
	"time"

	"ivypocket/core/geom"
	"ivypocket/core/raster"
	"ivypocket/core/scene"
	"ivypocket/core/sheet"
	"ivypocket/core/template"
	"ivypocket/core/timing"
)

// Making a document ready: 100 layers with 20 masks each beside 100 without, and
// 500 layers beside 100.
func BenchmarkCompile(b *testing.B) {
	document := func(layers, masks int) *sheet.Resolved {
		var out []string
		for i := range layers {
			var cut []string
			for k := range masks {
				cut = append(cut, fmt.Sprintf(`{"id": "m%d", "form": {"kind": "ellipse"}, "size": [%d, 40], "feather": 3, "mode": "intersect"}`, k, 40+k))
			}
			out = append(out, fmt.Sprintf(`{"id": "y%d", "name": "Y", "kind": "shape", "fill": "#1e7383", "place": [%d, 0], "size": [200, 120], "masks": [%s],
				"motion": {"turn": {"keys": [{"at": 0, "value": 0}, {"at": 50, "value": 90}]}}}`, i, i, strings.Join(cut, ", ")))
		}
		doc, err := template.Parse(fmt.Appendf(nil, `{"ivypocket": 3, "kind": "template", "id": "t", "name": "T", "category": "Tests", "rate": "25", "frames": 100,
			"formats": [{"id": "only", "name": "Only", "width": 1920, "height": 1080}], "layers": [%s]}`, strings.Join(out, ",\n")))
		if err != nil {
			b.Fatal(err)
		}
		r, err := sheet.Resolve(doc, sheet.Values{})
		if err != nil {
			b.Fatal(err)
		}
		return r
	}
	took := map[string]time.Duration{}
	kinds := map[string]*sheet.Resolved{"plain": document(100, 0), "masked": document(100, 20), "many": document(500, 0)}
	n := 0
	for b.Loop() {
		n++
		for name, r := range kinds {
			begun := time.Now()
			if _, err := scene.Compile(r, "only", source); err != nil {
				b.Fatal(err)
			}
			took[name] += time.Since(begun)
		}
	}
	b.ReportMetric(float64(took["plain"].Microseconds())/float64(n)/1000, "ms-plain")
	b.ReportMetric(float64(took["masked"])/float64(took["plain"]), "×masked")
	b.ReportMetric(float64(took["many"])/float64(took["plain"]), "×500-layers")
}

// A blurred layer as large as half the canvas, turning, so that it is made anew for
// every frame, beside the same layer without; at 1920 × 1080.
func BenchmarkTreat(b *testing.B) {
	scenes := map[string]*scene.Scene{}
	for name, treat := range map[string]string{"none": "", "4": `{"kind": "blur", "radius": 4}`, "64": `{"kind": "blur", "radius": 64}`, "shadow": `{"kind": "shadow", "radius": 40, "offset": [20, 40]}`} {
		scenes[name] = made(b, 1920, 1080, "", white+`, {"id": "y", "name": "Y", "kind": "shape", "form": {"kind": "star", "sides": 7}, "fill": "#c08020", "size": [1000, 1000], "treatments": [`+treat+`],
			"motion": {"turn": {"keys": [{"at": 0, "value": 0}, {"at": 99, "value": 300}]}}}`, sheet.Values{})
	}
	took, n := inTurn(b, scenes)
	ms := func(name string) float64 { return float64(took[name].Microseconds()) / 1000 / float64(n) }
	b.ReportMetric(ms("none"), "ms-none")
	b.ReportMetric(ms("4"), "ms-radius-4")
	b.ReportMetric(ms("64"), "ms-radius-64")
	b.ReportMetric(ms("shadow"), "ms-shadow-40")
	b.ReportMetric(ms("64")/ms("4"), "×64/4")
}

// A frame whose picture lies over another in a mode, as it moves, beside the same frame
// with it laid over normally, at 1920 × 1080.
func BenchmarkModes(b *testing.B) {
	modes := []string{"normal", "multiply", "overlay", "color-dodge", "soft-light", "hue", "luminosity"}
	scenes := map[string]*scene.Scene{}
	for _, mode := range modes {
		scenes[mode] = made(b, 1920, 1080, `"pockets": [{"id": "p", "name": "P", "kinds": ["picture"]}],`, `{"id": "under", "name": "U", "kind": "view", "pocket": "p", "size": [1920, 1080]},
			{"id": "over", "name": "O", "kind": "view", "pocket": "p", "size": [1920, 1080], "opacity": 0.8, "blend": "`+mode+`",
			"motion": {"place": {"unit": "canvas", "keys": [{"at": 0, "value": [0, 0]}, {"at": 99, "value": [0.1, 0.1]}]}}}`, fills("p", "c"))
	}
	took, n := inTurn(b, scenes)
	b.ReportMetric(float64(took["normal"].Microseconds())/1000/float64(n), "ms-normal")
	for _, mode := range modes[1:] {
		b.ReportMetric(took[mode].Seconds()/took["normal"].Seconds(), "×"+mode)
	}
}

// inTurn paints frames of scenes one after another at 1920 × 1080, and tells how long
// each took and how many of it there were.
func inTurn(b *testing.B, scenes map[string]*scene.Scene) (took map[string]time.Duration, n int) {
	p := scene.NewPainter(scene.NewPictures(source, 64<<20))
	defer p.Close()
	dst := &raster.Surface{}
	took = map[string]time.Duration{}
	for b.Loop() {
		n++
		for name, s := range scenes {
			l := at(s, int64(n%99), 1920, 1080)
			begun := time.Now()
			if err := p.Paint(b.Context(), l, dst); err != nil {
				b.Fatal(err)
			}
			took[name] += time.Since(begun)
		}
	}
	return
}

// What is seen at points of a canvas of 200 layers, with round corners, turns and masks.
func BenchmarkUnder(b *testing.B) {
	var list []string
	for i := range 200 {
		list = append(list, fmt.Sprintf(`{"id": "y%d", "name": "Y", "kind": "shape", "form": {"kind": "%s"}, "fill": "#1e738380", "place": [%d, %d], "size": [400, 300], "turn": %d, "masks": [{"id": "m", "form": {"kind": "ellipse"}, "feather": 12}]}`,
			i, []string{"rectangle", "ellipse"}[i%2], (i%20)*60-600, (i/20)*60-300, i*7%360))
	}
	s := made(b, 1920, 1080, "", strings.Join(list, ",\n"), sheet.Values{})
	p := scene.NewPainter(scene.NewPictures(source, 16<<20))
	defer p.Close()
	n := 0
	for b.Loop() {
		n++
		_, err := s.Under(s.Time().At(timing.OutputFrame(5)), geom.Point{X: float64(300 + n*37%1300), Y: float64(200 + n*53%700)}, 1, func(l *scene.List) (*raster.Surface, error) {
			dst := &raster.Surface{}
			return dst, p.Paint(context.Background(), l, dst)
		})
		if err != nil {
			b.Fatal(err)
		}
	}
	b.ReportMetric(float64(b.Elapsed().Microseconds())/float64(n)/1000, "ms-a-point")
}
