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
		row{"merge", "`layers` (in cells of one layout)", "makes one cell of several; the first takes it", merge},
		row{"divide", "`layers` (one, in a cell), `way`: `columns`, `rows`; `to` (how many)", "makes several cells of one, with a pocket in each", divide},
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

// merge makes one cell of those that layers stand in, the first of which takes it; the
// others go.
func merge(b *bench, a Act) error {
	list, err := b.chosen()
	if err != nil {
		return err
	}
	if len(list) < 2 {
		return errors.New("layers: two cells or more are merged")
	}
	doc, all, err := b.cellsOf(list[0].Text(scheme.CellLayout))
	if err != nil {
		return fmt.Errorf("%s is in no cell", list[0].Name)
	}
	top, left, bottom, right := geom.MaxCellsPerAxis, geom.MaxCellsPerAxis, 0, 0
	for _, y := range list {
		if y.Text(scheme.CellLayout) != list[0].Text(scheme.CellLayout) {
			return fmt.Errorf("%s is in no cell of that layout", y.Name)
		}
		row, column, down, across := doc.Layer(y.ID).Cell()
		top, left, bottom, right = min(top, row), min(left, column), max(bottom, row+down), max(right, column+across)
	}
	for _, y := range all {
		row, column, down, across := y.Cell()
		if slices.ContainsFunc(list, func(o *template.Layer) bool { return o.ID == y.ID }) {
			continue
		}
		if row < bottom && row+down > top && column < right && column+across > left {
			return fmt.Errorf("%s stands among them; take it along, or merge others", y.Name)
		}
	}
	b.title = fmt.Sprintf("Merge %d cells", len(list))
	b.place(list[0].ID, top, left, bottom-top, right-left)
	shown := map[string]int{}
	b.doc.VisitAll(func(_ string, y *template.Layer) { shown[y.Text(scheme.Pocket)]++ })
	for _, y := range list[1:] {
		if by := b.readers(y.ID); by != "" {
			return fmt.Errorf("%s is spoken of by %s; change that first", y.Name, by)
		}
		b.forget("layers/" + y.ID)
		b.add(edit.DraftOp{Kind: "remove", Path: "layers/" + y.ID})
		if pocket := y.Text(scheme.Pocket); pocket != "" {
			if shown[pocket]--; shown[pocket] == 0 {
				if err := b.dropPocket(pocket); err != nil {
					return err
				}
			}
		}
	}
	b.plan.Chosen = []string{list[0].ID}
	return nil
}

// landing is the cell that a new layer gets in a format.
type landing struct {
	format *template.Format
	at     [2]int // row, column
	name   string
	free   bool
}

// landings are the cells for a new layer that is put into one: that one in the format
// that is looked at, which comes first, and in others the same if it is free there, else
// the first that is: rows and columns may be others.
func (b *bench) landings(layout string, at [2]int) (out []landing, err error) {
	if b.format == nil || b.doc.Layout(layout) == nil {
		return nil, fmt.Errorf("path: there is no layout named %q", layout)
	}
	for i := range b.doc.Formats {
		f := &b.doc.Formats[i]
		d, err := b.doc.For(f)
		if err != nil {
			return nil, err
		}
		taken := map[[2]int]bool{}
		d.VisitAll(func(_ string, y *template.Layer) {
			if y.Text(scheme.CellLayout) != layout {
				return
			}
			row, column, down, across := y.Cell()
			for r := range down {
				for c := range across {
					taken[[2]int{row + r, column + c}] = true
				}
			}
		})
		cells, err := d.Layout(layout).Split(f.Canvas()).Cells()
		if err != nil {
			return nil, err
		}
		l := landing{format: f, at: at}
		for _, c := range cells {
			here, free := [2]int{c.Row, c.Column}, !taken[[2]int{c.Row, c.Column}]
			if here == at && (free || f == b.format) || free && !l.free {
				l.at, l.free, l.name = here, free, strings.ToUpper(c.Name[:1])+c.Name[1:]
			}
			if here == at && (free || f == b.format) {
				break
			}
		}
		if f == b.format {
			if l.at != at || l.name == "" {
				return nil, fmt.Errorf("numbers: the layout has no row %d with a column %d", at[0]+1, at[1]+1)
			}
			out = slices.Insert(out, 0, l)
			continue
		}
		out = append(out, l)
	}
	return out, nil
}

// toCell names the pocket that a cell is called after and that nothing shows, if there
// is one: it lay there once.
func (b *bench) toCell(a *Act, cells []landing) {
	if a.Id != "" || a.Name != "" {
		return
	}
	shown := map[string]bool{}
	b.doc.VisitAll(func(_ string, y *template.Layer) { shown[y.Text(scheme.Pocket)] = true })
	for _, l := range cells {
		for _, p := range b.doc.Pockets {
			if p.Name == l.name && !shown[p.ID] {
				a.Id = p.ID
				return
			}
		}
	}
}

// land gives a layer that was put into a cell its own in formats where it has another.
func (b *bench) land(id string, cells []landing) error {
	for _, l := range cells[1:] {
		for k, name := range []string{"row", "column"} {
			if l.at[k] == cells[0].at[k] {
				continue
			}
			if err := b.putPart("formats/"+l.format.ID+"/rest/layers/"+id+"/cell."+name, l.at[k]); err != nil {
				return err
			}
		}
	}
	return nil
}

// place puts a layer over so many rows and columns, where the format has its own or for
// all.
func (b *bench) place(id string, row, column, down, across int) {
	for _, v := range []struct {
		p *scheme.Property
		n int
	}{{scheme.CellRow, row}, {scheme.CellColumn, column}, {scheme.CellDown, down}, {scheme.CellAcross, across}} {
		path := "layers/" + id + "/" + v.p.Name
		format := ""
		if _, own := b.format.Rest[path]; own {
			format = b.format.ID
		}
		n := scheme.One(float64(v.n))
		if old, given := b.doc.Layer(id).Value(v.p); format == "" && given && old.Equal(n) || !given && n.Equal(v.p.Default) {
			continue
		}
		b.add(edit.DraftOp{Kind: "set", Path: path, Value: &n, Format: format})
	}
}

// divide makes several cells of one, with a pocket in each new one; all others stay as
// they are.
func divide(b *bench, a Act) error {
	list, err := b.chosen()
	if err != nil {
		return err
	}
	y := list[0]
	if len(list) > 1 {
		return errors.New("layers: one cell is divided at a time")
	}
	id := y.Text(scheme.CellLayout)
	doc, all, err := b.cellsOf(id)
	if err != nil {
		return fmt.Errorf("%s is in no cell", y.Name)
	}
	n := int(a.To[0])
	split := doc.Layout(id).Split(b.format.Canvas())
	p, px, err := axis(split, a.Way)
	if err != nil {
		return err
	}
	row, column, down, across := doc.Layer(y.ID).Cell()
	at, over := column, across
	if a.Way == "rows" {
		at, over = row, down
	}
	if over > 1 { // it goes over lines already: it is divided along them
		return fmt.Errorf("%s goes over %d %s; divide it by making it go over fewer", y.Name, over, a.Way)
	}
	each := (px[at] - split.Gutter*float64(n-1)) / float64(n)
	if n < 2 || len(px)+n-1 > geom.MaxCellsPerAxis || each < 1 {
		return fmt.Errorf("to: a cell of %s px is not divided into %d, with gutters of %s px", plain(px[at]), n, plain(split.Gutter))
	}
	for _, f := range b.doc.Formats {
		for path := range f.Rest {
			if strings.HasPrefix(path, "layouts/"+id+"/rows") || strings.HasPrefix(path, "layouts/"+id+"/columns") {
				return fmt.Errorf("the format %s has rows and columns of its own; join them first", f.Name)
			}
		}
	}
	b.title = fmt.Sprintf("Divide %s into %d", y.Name, n)
	next := slices.Concat(px[:at], slices.Repeat([]float64{each}, n), px[at+1:])
	b.weigh(id, p, next)
	for _, o := range all {
		r, c, d, ac := o.Cell()
		first, much := &c, &ac
		if a.Way == "rows" {
			first, much = &r, &d
		}
		switch {
		case o.ID == y.ID:
			continue
		case *first > at:
			*first += n - 1
		case *first+*much > at:
			*much += n - 1
		}
		b.place(o.ID, r, c, d, ac)
	}
	_, top := b.parentOf(y.ID)
	for i := 1; i < n; i++ {
		name := b.freePocket(y.Name)
		pocket, part, err := b.pocketPart(name, nil)
		if err != nil {
			return err
		}
		b.add(edit.DraftOp{Kind: "add", Into: "pockets", At: -1, Part: part})
		where := object{"layout": id, "row": row, "column": column + i, "down": down, "across": 1}
		if a.Way == "rows" {
			where = object{"layout": id, "row": row + i, "column": column, "down": 1, "across": across}
		}
		v := object{"id": b.freeID(name), "name": name, "kind": scheme.View.Name, "pocket": pocket, "cell": where}
		if err := b.put(v, "layers", top+i); err != nil {
			return err
		}
	}
	b.plan.Chosen = []string{y.ID}
	return nil
}
