package craft

import (
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"

	"ivypocket/core/edit"
	"ivypocket/core/geom"
	"ivypocket/core/scheme"
	"ivypocket/core/template"
)

// What is done with layouts.
func init() {
	register(
		row{"split", "`to` (columns, rows), `numbers` (`gutter`, `margin`, `radius`), `way` (`shrink` or `outwards`), `name`, `middle` (with a backing)", "makes a layout, and a pocket in each of its cells", split},
		row{"cell", "`layers`, `id` (a layout), `from` (column, row)", "puts layers into a cell", cell},
		row{"line", "`id` (a layout), `way`: `columns`, `rows`; `at` (which line, from 0), `from`, `to`, `snap`", "drags the line between two columns or rows", dragLine},
		row{"uncell", "`layers`", "takes layers out of their cells, where they stand", uncell},
	)
}

func split(b *bench, a Act) error {
	columns, rows := int(a.To[0]), int(a.To[1])
	if columns < 1 || rows < 1 || columns > geom.MaxCellsPerAxis || rows > geom.MaxCellsPerAxis || columns*rows < 2 {
		return fmt.Errorf("to: %d columns and %d rows; a split has 2 cells or more, and 16 each way at the most", columns, rows)
	}
	if b.format == nil {
		return errors.New("format: say which format is looked at")
	}
	by := geom.GutterBy(a.Way)
	if a.Way == "" {
		by = geom.Shrink
	}
	if by != geom.Shrink && by != geom.Outwards {
		return errors.New("way: is neither shrink nor outwards")
	}
	name := strings.TrimSpace(a.Name)
	if name == "" {
		name = "Split"
	}
	id := b.freeID(name)
	ones := func(n int) []float64 { return slices.Repeat([]float64{1}, n) }
	lay := object{"id": id, "kind": scheme.Split.Name, "rows": ones(rows), "columns": ones(columns), "gutterBy": by}
	for _, n := range []string{"gutter", "margin", "radius"} {
		lay[n] = b.lengths(a.Numbers[n])[0]
	}
	part, err := json.Marshal(lay)
	if err != nil {
		return err
	}
	b.add(edit.DraftOp{Kind: "add", Into: "layouts", At: -1, Part: part})
	cells, err := geom.Split{Canvas: b.format.Canvas(), Rows: ones(rows), Columns: ones(columns), By: by}.Cells()
	if err != nil {
		return err
	}
	if a.Middle {
		backing := b.freeName("Backing")
		if err := b.put(object{"id": b.freeID(backing), "name": backing, "kind": scheme.Shape.Name, "fill": newFill}, "layers", -1); err != nil {
			return err
		}
	}
	for _, c := range cells {
		name := b.freePocket(strings.ToUpper(c.Name[:1]) + c.Name[1:])
		pocket, part, err := b.pocketPart(name, a.Kinds)
		if err != nil {
			return err
		}
		b.add(edit.DraftOp{Kind: "add", Into: "pockets", At: -1, Part: part})
		y := object{"id": b.freeID(name), "name": name, "kind": scheme.View.Name, "pocket": pocket,
			"cell": object{"layout": id, "row": c.Row, "column": c.Column}}
		if err := b.put(y, "layers", -1); err != nil {
			return err
		}
		b.plan.Chosen = append(b.plan.Chosen, y["id"].(string))
	}
	b.title = fmt.Sprintf("Split into %d", len(cells))
	return nil
}

// cell puts layers into a cell: from then on it gives them their place and size.
func cell(b *bench, a Act) error {
	list, err := b.chosen()
	if err != nil {
		return err
	}
	lay := b.doc.Layout(a.Id)
	if lay == nil {
		return fmt.Errorf("id: there is no layout named %q", a.Id)
	}
	b.title = "Put " + b.called(a.Layers) + " in a cell"
	for _, y := range list {
		if !isBox(y) {
			return fmt.Errorf("%s has no edges to fill a cell with", y.Name)
		}
		if in, _ := b.parentOf(y.ID); in != "layers" {
			return fmt.Errorf("%s is in a group; cells are the canvas' own", y.Name)
		}
		for _, p := range []*scheme.Property{scheme.Place, scheme.Size, scheme.Anchor} {
			path := "layers/" + y.ID + "/" + p.Name
			b.forget(path)
			if y.Given(p) {
				b.add(edit.DraftOp{Kind: "put", Path: path})
			}
		}
		part, err := json.Marshal(object{"layout": lay.ID, "row": int(a.From[1]), "column": int(a.From[0])})
		if err != nil {
			return err
		}
		b.add(edit.DraftOp{Kind: "put", Path: "layers/" + y.ID + "/cell", Part: part})
	}
	return nil
}

// uncell takes layers out of their cells: they get places and sizes of their own, in
// every format where they are.
func uncell(b *bench, a Act) error {
	list, err := b.chosen()
	if err != nil {
		return err
	}
	b.title = "Take " + b.called(a.Layers) + " out of the cell"
	for _, y := range list {
		if !y.Given(scheme.CellLayout) {
			return fmt.Errorf("%s is in no cell", y.Name)
		}
		b.forget("layers/" + y.ID + "/cell.row")
		b.forget("layers/" + y.ID + "/cell.column")
		b.forget("layers/" + y.ID + "/cell.down")
		b.forget("layers/" + y.ID + "/cell.across")
		b.add(edit.DraftOp{Kind: "put", Path: "layers/" + y.ID + "/cell"})
		for i := range b.doc.Formats {
			f := &b.doc.Formats[i]
			in, err := b.doc.For(f)
			if err != nil {
				return err
			}
			lay := in.Layout(y.Text(scheme.CellLayout))
			if lay == nil {
				return fmt.Errorf("%s stands in a layout that is not there", y.Name)
			}
			cells, err := lay.Split(f.Canvas()).Cells()
			if err != nil {
				return err
			}
			n := in.Layer(y.ID)
			row, column, down, across := n.Cell()
			c, ok := lay.Split(f.Canvas()).Spanning(cells, row, column, down, across)
			if !ok {
				return fmt.Errorf("%s stands in a cell that the layout has not", y.Name)
			}
			for _, v := range []struct {
				p *scheme.Property
				n []float64
			}{{scheme.Place, []float64{c.Centre.X, c.Centre.Y}}, {scheme.Size, []float64{c.Size.W, c.Size.H}}, {scheme.Radius, []float64{c.Radius}}} {
				if v.p == scheme.Radius && (c.Radius == 0 || y.Given(v.p) || !v.p.For(y.Kind)) {
					continue
				}
				if err := b.write("layers/"+y.ID+"/"+v.p.Name, v.p, f, i == 0, v.n); err != nil {
					return err
				}
			}
		}
	}
	return nil
}

// cellsOf are the layers in a layout's cells, on the format that is looked at.
func (b *bench) cellsOf(id string) (doc *template.Document, out []*template.Layer, err error) {
	if b.format == nil {
		return nil, nil, errors.New("format: say which format is looked at")
	}
	if doc, err = b.doc.For(b.format); err != nil {
		return nil, nil, err
	}
	if doc.Layout(id) == nil {
		return nil, nil, fmt.Errorf("id: there is no layout named %q", id)
	}
	doc.VisitAll(func(_ string, y *template.Layer) {
		if y.Text(scheme.CellLayout) == id {
			out = append(out, y)
		}
	})
	return doc, out, nil
}

// weigh sets the weights of a layout's rows or columns.
func (b *bench) weigh(id string, p *scheme.Property, weights []float64) {
	for i := range weights {
		weights[i] = math.Round(weights[i]*1e4) / 1e4
	}
	path := "layouts/" + id + "/" + p.Name
	format := ""
	if _, own := b.format.Rest[path]; own || b.act.Apart {
		format = b.format.ID
	}
	for _, at := range b.partsOf(path) {
		b.add(edit.DraftOp{Kind: "put", Path: "formats/" + b.format.ID + "/rest/" + at})
	}
	v := scheme.Many(weights...)
	b.add(edit.DraftOp{Kind: "set", Path: path, Value: &v, Format: format})
}

// axis is one way of a layout: its weights and the px of each row or column.
func axis(split geom.Split, way string) (p *scheme.Property, px []float64, err error) {
	cells, err := split.Cells()
	if err != nil {
		return nil, nil, err
	}
	switch way {
	case "columns":
		for _, c := range cells[:len(split.Columns)] {
			px = append(px, c.Size.W)
		}
		return scheme.Columns, px, nil
	case "rows":
		for i := range split.Rows {
			px = append(px, cells[i*len(split.Columns)].Size.H)
		}
		return scheme.Rows, px, nil
	}
	return nil, nil, errors.New("way: is neither columns nor rows")
}

// line drags the line between two columns or rows: the one grows by what the other
// loses, and the others stay as they are.
func dragLine(b *bench, a Act) error {
	doc, _, err := b.cellsOf(a.Id)
	if err != nil {
		return err
	}
	split := doc.Layout(a.Id).Split(b.format.Canvas())
	p, px, err := axis(split, a.Way)
	if err != nil {
		return err
	}
	if a.At < 0 || a.At+1 >= len(px) {
		return fmt.Errorf("at: there is no line %d between %d %s", a.At, len(px), a.Way)
	}
	by, k := a.To[0]-a.From[0], 0
	if a.Way == "rows" {
		by, k = a.To[1]-a.From[1], 1
	}
	both := px[a.At] + px[a.At+1]
	first := px[a.At] + by
	if a.Snap > 0 {
		// The line is drawn to halves and thirds of the two, and of the canvas.
		side := []float64{b.format.Canvas().W, b.format.Canvas().H}[k]
		start := split.Margin
		for i := range a.At {
			start += px[i] + split.Gutter
		}
		at := start + first + split.Gutter/2
		for _, want := range []float64{start + both/2 + split.Gutter/2, side / 2, side / 3, side * 2 / 3} {
			if math.Abs(at-want) <= a.Snap {
				first += want - at
				what := "part of the canvas"
				if math.Abs(first*2-both) < 1e-6 {
					what = "both alike"
				}
				c := b.format.Canvas()
				b.plan.Guides = append(b.plan.Guides, Guide{Axis: axes[k], At: want, To: [2]float64{c.H, c.W}[k], What: what})
				break
			}
		}
	}
	least := math.Min(4, both/4)
	if least < 0.001 {
		return fmt.Errorf("%s %d and %d have no room between them; give them weights by numbers", a.Way, a.At+1, a.At+2)
	}
	px[a.At] = math.Max(least, math.Min(both-least, first))
	px[a.At+1] = both - px[a.At]
	b.title = "Move a line of the split"
	b.weigh(a.Id, p, px)
	return nil
}
