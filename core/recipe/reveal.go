package recipe

import (
	"fmt"
	"math"
)

func init() {
	register(Recipe{Kind: "reveal", Label: "Reveal of a mark", build: reveal, Numbers: []Number{
		{Name: "size", Label: "Mark", Unit: "%", About: "Of the shorter side", Least: 5, Most: 100, Default: 36},
		{Name: "rings", Label: "Rings", Most: 8, Default: 3},
		{Name: "begin", Label: "Begins", Unit: "frames", Most: 10000, Default: 8},
		{Name: "take", Label: "Takes", Unit: "frames", Least: 2, Most: 1000, Default: 24},
		{Name: "apart", Label: "Apart by", Unit: "frames", About: "Each ring follows the one before it by so many", Most: 100, Default: 4},
		{Name: "ground", Label: "Ground", Words: []string{"clear", "coloured"}, Default: 1, About: "Clear for what is laid over something else"},
		{Name: "rule", Label: "Rule below", Words: []string{"no", "yes"}, Default: 1},
	}, About: "Rings spread from the middle and a mark springs up in them"})
}

// reveal ends at rest: the last frame of its motion is how it stays.
func reveal(k *Kitchen) {
	last := float64(k.Frames - 1)
	begin := math.Min(k.n("begin"), math.Max(0, last-2))
	take := math.Max(2, math.Min(k.n("take"), last-begin))
	if k.i("ground") == 1 {
		k.add(Object{"id": k.id("ground"), "name": "Ground", "kind": "ground", "fill": dark})
	}
	colours := []string{accent, cloth, light}
	for i := range k.i("rings") {
		from := math.Min(begin+float64(i)*k.n("apart"), math.Max(0, last-2))
		to := math.Min(from+take, last)
		k.add(Object{"id": k.id("ring", i+1), "name": fmt.Sprintf("Ring %d", i+1), "kind": "shape", "form": Object{"kind": "ellipse"},
			"size": []string{share(k.n("size") * 2.2), share(k.n("size") * 2.2)}, "stroke": Object{"colour": colours[i%3], "width": "1.2vmin"},
			"motion": Object{"scale": keys(key(from, 0.2, settle...), key(to, round(1+0.12*float64(i)))),
				"opacity": keys(key(from, 0), key(from+1, 1, leave...), key(to, 0))}})
	}
	mid := begin + math.Round(take/4)
	k.add(Object{"id": k.id("mark"), "name": "Mark", "kind": "view", "pocket": k.pocket("Mark", "logo"),
		"size": []string{share(k.n("size")), share(k.n("size"))},
		"motion": Object{"scale": keys(key(mid, 0.4, beyond...), key(math.Min(last, mid+take), 1)),
			"opacity": keys(key(mid, 0), key(math.Min(last, mid+math.Ceil(take/4)), 1))}})
	if k.i("rule") == 1 {
		from := math.Min(mid+math.Round(take/2), math.Max(0, last-2))
		k.add(Object{"id": k.id("rule"), "name": "Rule", "kind": "shape", "fill": cloth,
			"place": []any{0, share(k.n("size")/2 + 6)}, "size": []string{share(k.n("size")), "0.8vmin"},
			"motion": Object{"scale": keys(key(from, []float64{0, 1}, settle...), key(math.Min(last, from+take), []float64{1, 1}))}})
	}
}
