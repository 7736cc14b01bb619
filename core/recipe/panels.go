package recipe

import (
	"fmt"
	"math"
)

func init() {
	register(Recipe{Kind: "panels", Label: "Passing panels", build: panels, Numbers: []Number{
		{Name: "panels", Label: "Panels", Least: 1, Most: 12, Default: 5},
		{Name: "way", Label: "They go", Words: []string{"up", "down", "left", "right"}, Default: 0},
		{Name: "begin", Label: "Begin at", Unit: "frames", About: "The first strip sets out", Most: 10000, Default: 0},
		{Name: "take", Label: "In, out", Unit: "frames", About: "How long each takes to come, and to go", Least: 1, Most: 500, Default: 14},
		{Name: "apart", Label: "Apart by", Unit: "frames", About: "Each follows the one before it by so many", Most: 100, Default: 3},
		{Name: "stay", Label: "Covered", Unit: "frames", About: "How long all of them cover the canvas", Most: 5000, Default: 6},
	}, About: "Strips of colour come in one after another, cover the canvas and leave it again"})
}

// panels are cells of a layout that lies across the way in which they go.
func panels(k *Kitchen) {
	n := k.i("panels")
	lay := k.id("strips")
	ones := make([]float64, n)
	for i := range ones {
		ones[i] = 1
	}
	l := Object{"id": lay, "kind": "split", "gutterBy": "shrink", "columns": ones, "rows": []float64{1}}
	upright := k.i("way") < 2
	if !upright {
		l["columns"], l["rows"] = []float64{1}, ones
	}
	k.Layouts = append(k.Layouts, l)
	from := [][]float64{{0, 1}, {0, -1}, {1, 0}, {-1, 0}}[k.i("way")]
	to := []float64{-from[0], -from[1]}
	colours := []string{accent, dark, cloth}
	// In, and out again after all have covered for a while; squeezed where there is
	// less time than that takes.
	last := float64(k.Frames - 1)
	whole := k.n("begin") + 2*k.n("take") + 2*float64(n-1)*k.n("apart") + k.n("stay")
	f := 1.0
	if whole > last && whole > 0 {
		f = last / whole
	}
	for i := range n {
		in := f * (k.n("begin") + float64(i)*k.n("apart"))
		there := in + f*k.n("take")
		out := f * (k.n("begin") + k.n("take") + float64(n-1)*k.n("apart") + k.n("stay") + float64(i)*k.n("apart"))
		here := []float64{0, 0}
		move := keys(key(in, from, settle...), key(there, here), key(out, here, leave...), key(math.Min(last, out+f*k.n("take")), to))
		move["unit"] = "canvas"
		cell := Object{"layout": lay, "row": 0, "column": i}
		if !upright {
			cell = Object{"layout": lay, "row": i, "column": 0}
		}
		k.add(Object{"id": k.id("panel", i+1), "name": fmt.Sprintf("Passing %d", i+1), "kind": "shape",
			"fill": colours[i%3], "cell": cell, "motion": Object{"place": move}})
	}
}
