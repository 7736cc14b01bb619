package recipe

import (
	"fmt"
	"math"
)

func init() {
	register(Recipe{Kind: "card", Label: "Card", About: "A portrait beside a panel with stripes and marks", build: card, Numbers: []Number{
		{Name: "portrait", Label: "Portrait’s side", Unit: "%", About: "How much of the canvas it takes", Least: 20, Most: 70, Default: 42},
		{Name: "side", Label: "Portrait is", Words: []string{"first", "last"}, About: "Left or right; above or below where the canvas is high"},
		{Name: "round", Label: "Portrait", Words: []string{"square", "round"}, Default: 1},
		{Name: "size", Label: "Its size", Unit: "%", About: "Of the room that it has", Least: 20, Most: 100, Default: 72},
		{Name: "ring", Label: "Ring", Unit: "%", About: "Of the shorter side; 0 is none", Most: 8, Default: 1},
		{Name: "stripes", Label: "Stripes", Most: 6, Default: 3},
		{Name: "marks", Label: "Marks", Most: 2, Default: 2},
	}})
}

// card is two cells, side by side or one above the other as the canvas has it.
func card(k *Kitchen) {
	lay := k.id("cells")
	weights := []float64{round(k.n("portrait")), round(100 - k.n("portrait"))}
	own, other := 0, 1 // the cells of portrait and panel
	if k.i("side") == 1 {
		weights[0], weights[1] = weights[1], weights[0]
		own, other = 1, 0
	}
	high := func(c Canvas) bool { return c.Size.H > c.Size.W }
	line := func(want bool) func(Canvas) any {
		return func(c Canvas) any {
			if high(c) == want {
				return weights
			}
			return []float64{1}
		}
	}
	k.Layouts = append(k.Layouts, Object{"id": lay, "kind": "split", "gutterBy": "shrink",
		"columns": k.each("layouts/"+lay+"/columns", line(false)), "rows": k.each("layouts/"+lay+"/rows", line(true))})
	cell := func(id string, at int) Object {
		axis := func(name string, want bool) any {
			return k.each("layers/"+id+"/cell."+name, func(c Canvas) any {
				if high(c) == want {
					return at
				}
				return 0
			})
		}
		return Object{"layout": lay, "row": axis("row", true), "column": axis("column", false)}
	}
	// The largest square that fits beside the panel, in shares of the shorter side.
	side := func(c Canvas) float64 {
		w, h := c.Size.W*k.n("portrait")/100, c.Size.H
		if high(c) {
			w, h = c.Size.W, c.Size.H*k.n("portrait")/100
		}
		return math.Min(w, h) / math.Min(c.Size.W, c.Size.H) * k.n("size")
	}
	k.add(Object{"id": k.id("ground"), "name": "Ground", "kind": "ground", "fill": light})

	place := k.id("portrait-side")
	portrait, ring := k.id("portrait"), k.id("ring")
	square := func(id string) any {
		return k.each("layers/"+id+"/size", func(c Canvas) any { return []string{share(side(c)), share(side(c))} })
	}
	view := Object{"id": portrait, "name": "Portrait", "kind": "view", "pocket": k.pocket("Portrait"), "size": square(portrait)}
	if k.i("round") == 1 {
		view["masks"] = []Object{{"id": "round", "form": Object{"kind": "ellipse"}}}
	}
	inside := []Object{view}
	if k.n("ring") > 0 {
		r := Object{"id": ring, "name": "Ring", "kind": "shape", "size": square(ring),
			"stroke": Object{"colour": accent, "width": share(k.n("ring")), "align": "outside"}}
		if k.i("round") == 1 {
			r["form"] = Object{"kind": "ellipse"}
		}
		inside = append(inside, r)
	}
	k.add(Object{"id": place, "name": "Portrait side", "kind": "group", "cell": cell(place, own), "layers": inside})

	panel := k.id("panel")
	within := []Object{{"id": k.id("cloth"), "name": "Panel", "kind": "shape", "fill": dark}}
	colours := []string{accent, cloth, light, accent, cloth, light}
	for i := range k.i("stripes") {
		within = append(within, Object{"id": k.id("stripe", i+1), "name": fmt.Sprintf("Stripe %d", i+1), "kind": "shape",
			"fill": colours[i], "radius": share(1.2), "anchor": "left", "size": []string{share(30 - 5*float64(i%3)), share(2.4)},
			"place": []string{share(6), share(float64(i)*7 - float64(k.i("stripes")-1)*3.5)}})
	}
	for i, anchor := range []string{"bottom right", "top right"}[:k.i("marks")] {
		y := "-5vmin"
		if i == 1 {
			y = "5vmin"
		}
		name := fmt.Sprintf("Mark %d", i+1)
		within = append(within, Object{"id": k.id("mark", i+1), "name": name, "kind": "view", "pocket": k.pocket(name, "logo"),
			"anchor": anchor, "place": []string{"-5vmin", y}, "size": []string{"14vmin", "14vmin"}})
	}
	k.add(Object{"id": panel, "name": "Panel side", "kind": "group", "cell": cell(panel, other), "layers": within})
}
