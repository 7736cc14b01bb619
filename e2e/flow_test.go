package e2e

import (
	"fmt"
	"math"
	"math/rand/v2"
	"strings"
	"testing"

	"ivypocket/core/raster"
	"ivypocket/core/scene"
	"ivypocket/core/sheet"
	"ivypocket/core/template"
	"ivypocket/core/timing"
)

// Rows and stacks stand as Chromium lays out flex containers (CSS Flexible Box Layout
// Module Level 1): gaps, alignment along and across, wrapping, what is left out
// (display: none), and containers as large as what is in them. Seeded.
func TestFlowsStandAsFlexBoxes(t *testing.T) {
	t.Parallel()
	b := tab(t, 1280, 800)
	rng := rand.New(rand.NewPCG(31, 4))
	css := map[string]string{"start": "flex-start", "centre": "center", "end": "flex-end"}
	ends := []string{"start", "centre", "end"}
	for n := range 80 {
		row, hugs, wraps := rng.IntN(2) == 0, rng.IntN(2) == 0, rng.IntN(2) == 0
		align, from := ends[rng.IntN(3)], ends[rng.IntN(3)]
		gap, pad := rng.IntN(30), rng.IntN(20)
		w, h := 200+rng.IntN(400), 200+rng.IntN(300)
		way, direction, limit := "stack", "column", h
		if row {
			way, direction, limit = "row", "row", w
		}
		style := fmt.Sprintf("position:absolute;box-sizing:border-box;left:0;top:0;display:flex;flex-direction:%s;gap:%dpx;align-items:%s;align-content:%s;justify-content:%s;", direction, gap, css[align], css[align], css[from])
		flow := fmt.Sprintf(`"way": %q, "gap": %d, "align": %q, "from": %q`, way, gap, align, from)
		size := ""
		if hugs {
			flow += fmt.Sprintf(`, "hugs": true, "padding": %d`, pad)
			style += fmt.Sprintf("width:max-content;height:max-content;padding:%dpx", pad)
		} else {
			size = fmt.Sprintf(`"size": [%d, %d], `, w, h)
			style += fmt.Sprintf("width:%dpx;height:%dpx;", w, h)
			if wraps {
				flow += fmt.Sprintf(`, "wrap": %d`, limit)
				style += "flex-wrap:wrap"
			}
		}
		var layers, items []string
		for i := range 1 + rng.IntN(7) {
			iw, ih, gone := 10+rng.IntN(150), 10+rng.IntN(120), rng.IntN(4) == 0
			hidden, display := "", ""
			if gone {
				hidden, display = `, "hidden": true`, ";display:none"
			}
			layers = append([]string{fmt.Sprintf(`{"id": "y%d", "name": "Y", "kind": "shape", "fill": "#ffffff", "size": [%d, %d]%s}`, i, iw, ih, hidden)}, layers...)
			items = append(items, fmt.Sprintf(`<div class="item" style="flex:none;width:%dpx;height:%dpx%s"></div>`, iw, ih, display))
		}
		want := eval[[][]float64](t, b, fmt.Sprintf(`(() => { document.body.style.margin = 0; document.body.innerHTML = %q
			const of = e => { const r = e.getBoundingClientRect(); return [r.x, r.y, r.width, r.height] }
			return [...document.querySelectorAll('.flex, .item')].map(of) })()`, `<div class="flex" style="`+style+`">`+strings.Join(items, "")+`</div>`))
		d, err := template.Parse(fmt.Appendf(nil, `{"ivypocket": 3, "kind": "template", "id": "t", "name": "T", "category": "C", "rate": "25", "frames": 1, "formats": [{"id": "f", "name": "F", "width": 2000, "height": 1600}],
			"layers": [{"id": "card", "name": "Card", "kind": "group", "anchor": "top left", %s"flow": {%s}, "layers": [%s]}]}`, size, flow, strings.Join(layers, ", ")))
		if err != nil {
			t.Fatal(err)
		}
		r, err := sheet.Resolve(d, sheet.Values{})
		if err != nil {
			t.Fatal(err)
		}
		s, err := scene.Compile(r, "f", only{s: raster.NewSurface(1, 1)})
		if err != nil {
			t.Fatal(err)
		}
		got := map[string]scene.Standing{}
		shown := false
		for _, k := range s.Standings(s.Time().At(timing.OutputFrame(0))) {
			got[k.Layer] = k
			shown = shown || k.Layer != "card" && k.Shown
		}
		for i, box := range want {
			id := fmt.Sprintf("y%d", i-1)
			if i == 0 {
				id = "card"
				if hugs && !shown {
					continue // here it is gone, in CSS it has its padding
				}
			} else if !got[id].Shown {
				continue
			}
			k := got[id]
			at := k.Box()
			for c, v := range []float64{at.X, at.Y, at.W, at.H} {
				if math.Abs(v-box[c]) > 0.02 { // Chromium's units are 1/64 px
					t.Errorf("%d: %s of %s {%s} is at %v, in Chromium at %v", n, id, way, flow, at, box)
					break
				}
			}
		}
	}
}
