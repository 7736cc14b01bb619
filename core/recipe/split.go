package recipe

import (
	"strings"

	"ivypocket/core/geom"
)

func init() {
	register(Recipe{Kind: "split", Label: "Split", build: split, Numbers: []Number{
		{Name: "columns", Label: "Columns", Least: 1, Most: 6, Default: 2},
		{Name: "rows", Label: "Rows", Least: 1, Most: 6, Default: 2},
		{Name: "first", Label: "1st column", Unit: "%", About: "How wide it is, of the width of another", Least: 20, Most: 500, Default: 100},
		{Name: "top", Label: "1st row", Unit: "%", About: "How high it is, of the height of another", Least: 20, Most: 500, Default: 100},
		{Name: "gutter", Label: "Gutter", Unit: "%", About: "Of the shorter side", Most: 20, Default: 1.5},
		{Name: "margin", Label: "Margin", Unit: "%", About: "Of the shorter side", Most: 30, Default: 1.5},
		{Name: "radius", Label: "Corner radius", Unit: "%", About: "Of the shorter side", Most: 50, Default: 0},
		{Name: "backing", Label: "Border", Words: []string{"clear", "coloured"}, About: "What is seen between the cells", Default: 1},
	}, About: "Rows and columns of pockets with a border between them, even or uneven"})
}

// split is a layout with a pocket in each cell. Where a canvas is higher than wide, rows
// and columns change places.
func split(k *Kitchen) {
	weights := func(n int, first float64) []float64 {
		out := make([]float64, n)
		for i := range out {
			out[i] = 100
		}
		if n > 1 {
			out[0] = round(first)
		}
		return out
	}
	lay := k.id("cells")
	wide := k.Formats[0].Size
	turned := func(c Canvas) bool { return (c.Size.H > c.Size.W) != (wide.H > wide.W) && c.Size.H != c.Size.W }
	columns, rows := k.i("columns"), k.i("rows")
	k.Layouts = append(k.Layouts, Object{"id": lay, "kind": "split", "gutterBy": string(geom.Shrink),
		"columns": k.each("layouts/"+lay+"/columns", func(c Canvas) any {
			if turned(c) {
				return weights(rows, k.n("top"))
			}
			return weights(columns, k.n("first"))
		}),
		"rows": k.each("layouts/"+lay+"/rows", func(c Canvas) any {
			if turned(c) {
				return weights(columns, k.n("first"))
			}
			return weights(rows, k.n("top"))
		}),
		"gutter": share(k.n("gutter")), "margin": share(k.n("margin")), "radius": share(k.n("radius"))})
	if k.i("backing") == 1 {
		k.add(Object{"id": k.id("backing"), "name": "Border", "kind": "shape", "fill": cloth})
	}
	s := geom.Split{Canvas: wide, Rows: weights(rows, 100), Columns: weights(columns, 100), By: geom.Shrink}
	cells, err := s.Cells()
	if err != nil { // no canvas is too small for cells without gutters
		return
	}
	for _, c := range cells {
		name := strings.ToUpper(c.Name[:1]) + c.Name[1:]
		pocket := k.id("pocket", c.Row+1, c.Column+1)
		id := k.id("cell", c.Row+1, c.Column+1)
		k.Pockets = append(k.Pockets, Object{"id": pocket, "name": name, "kinds": []string{"picture", "footage"}})
		at := func(axis string, own, other int) any {
			return k.each("layers/"+id+"/cell."+axis, func(c Canvas) any {
				if turned(c) {
					return other
				}
				return own
			})
		}
		k.add(Object{"id": id, "name": name, "kind": "view", "pocket": pocket,
			"cell": Object{"layout": lay, "row": at("row", c.Row, c.Column), "column": at("column", c.Column, c.Row)}})
	}
}
