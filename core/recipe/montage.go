package recipe

import (
	"fmt"
	"math"
)

func init() {
	register(Recipe{Kind: "montage", Label: "Montage", build: montage, Numbers: []Number{
		{Name: "pictures", Label: "Pictures", Least: 2, Most: 24, Default: 5},
		{Name: "fade", Label: "Fade", Unit: "frames", About: "How long one fades into the next; 0 cuts", Most: 250, Default: 12},
		{Name: "drift", Label: "Drift", Unit: "%", About: "By how much each grows while it is seen", Most: 100, Default: 8},
	}, About: "Pictures one after another over the whole length, each with a slow drift, one fading into the next"})
}

// montage shares the length out evenly; a fade lies half in each of two pictures. What
// comes lies over what goes, which is gone when the fade is over.
func montage(k *Kitchen) {
	n := k.i("pictures")
	each := float64(k.Frames) / float64(n)
	fade := math.Min(k.n("fade"), math.Floor(each))
	for i := range n {
		name := fmt.Sprintf("Picture %d", i+1)
		from, to := math.Round(float64(i)*each-fade/2), math.Round(float64(i+1)*each+fade/2)
		y := Object{"id": k.id("picture", i+1), "name": name, "kind": "view", "pocket": k.pocket(name)}
		if i > 0 {
			y["in"] = math.Max(0, from)
		}
		if i < n-1 {
			y["out"] = math.Min(float64(k.Frames), to)
		}
		from, to = math.Max(0, from), math.Min(float64(k.Frames), to)
		move := Object{}
		if d := k.n("drift"); d > 0 {
			a, b := 1.0, round(1+d/100)
			if i%2 == 1 { // every other one goes the other way
				a, b = b, a
			}
			move["content.zoom"] = keys(key(from, a), key(to, b))
		}
		if fade > 0 && i > 0 {
			move["opacity"] = keys(key(from, 0), key(from+fade, 1))
		}
		if len(move) > 0 {
			y["motion"] = move
		}
		k.add(y)
	}
}
