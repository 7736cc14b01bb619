package craft

import (
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

// The cells of a layout, in all formats at once: rows and columns may be others in some.
func init() {
	register(
		row{"merge", "`layers` (in cells of one layout)", "makes one cell of several; the first takes it", merge},
		row{"divide", "`layers` (one, in a cell), `way`: `columns`, `rows`; `to` (how many)", "makes several cells of one, with a pocket in each", divide},
	)
}

// cell is where a layer stands in a layout, and over how many rows and columns.
type cellAt struct{ row, column, down, across int }

func (c cellAt) meets(o cellAt) bool {
	return c.row < o.row+o.down && o.row < c.row+c.down && c.column < o.column+o.across && o.column < c.column+c.across
}

// around is the smallest that holds both.
func (c cellAt) around(o cellAt) cellAt {
	row, column := min(c.row, o.row), min(c.column, o.column)
	return cellAt{row, column, max(c.row+c.down, o.row+o.down) - row, max(c.column+c.across, o.column+o.across) - column}
}

// side is a layout as all formats have it, or as one does.
type side struct {
	format *template.Format // nil is as all have it
	canvas geom.Size
	split  geom.Split
	own    bool              // its rows and columns are its own
	cells  map[string]cellAt // by layers
}

// sides are the layout as all formats have it, and as each does.
func (b *bench) layoutSides(id string) (out []side, err error) {
	if b.format == nil {
		return nil, errors.New("format: say which format is looked at")
	}
	if b.doc.Layout(id) == nil {
		return nil, fmt.Errorf("id: there is no layout named %q", id)
	}
	view := func(d *template.Document, f *template.Format, canvas geom.Size) {
		s := side{format: f, canvas: canvas, split: d.Layout(id).Split(canvas), cells: map[string]cellAt{}}
		if f != nil {
			for path := range f.Rest {
				s.own = s.own || strings.HasPrefix(path, "layouts/"+id+"/rows") || strings.HasPrefix(path, "layouts/"+id+"/columns")
			}
		}
		d.VisitAll(func(_ string, y *template.Layer) {
			if y.Text(scheme.CellLayout) == id {
				row, column, down, across := y.Cell()
				s.cells[y.ID] = cellAt{row, column, down, across}
			}
		})
		out = append(out, s)
	}
	// As all have it, on the canvas of one that has it so.
	canvas := b.format.Canvas()
	for i := range b.doc.Formats {
		f := &b.doc.Formats[i]
		own := slices.ContainsFunc(sorted(f.Rest), func(path string) bool { return strings.HasPrefix(path, "layouts/"+id+"/") })
		if !own {
			canvas = f.Canvas()
			break
		}
	}
	view(b.doc, nil, canvas)
	for i := range b.doc.Formats {
		f := &b.doc.Formats[i]
		in, err := b.doc.For(f)
		if err != nil {
			return nil, err
		}
		view(in, f, f.Canvas())
	}
	return out, nil
}

// called is the format's name for people.
func (s side) called() string {
	if s.format == nil {
		return "the formats"
	}
	return s.format.Name
}

// looked is the side of the format that is looked at.
func (b *bench) looked(sides []side) side {
	for _, s := range sides {
		if s.format == b.format {
			return s
		}
	}
	return sides[0]
}

// stand puts a layer into a cell: base is as all formats have it, and where one has
// another it has its own. A new layer is there already with its base.
func (b *bench) standIn(id string, base cellAt, each map[*template.Format]cellAt, fresh bool) error {
	y := b.doc.Layer(id)
	for _, v := range []struct {
		p *scheme.Property
		n func(cellAt) int
	}{{scheme.CellRow, func(c cellAt) int { return c.row }}, {scheme.CellColumn, func(c cellAt) int { return c.column }},
		{scheme.CellDown, func(c cellAt) int { return c.down }}, {scheme.CellAcross, func(c cellAt) int { return c.across }}} {
		path := "layers/" + id + "/" + v.p.Name
		if !fresh {
			n := scheme.One(float64(v.n(base)))
			if old, given := y.Value(v.p); !(given && old.Equal(n) || !given && n.Equal(v.p.Default)) {
				b.add(edit.DraftOp{Kind: "set", Path: path, Value: &n})
			}
		}
		for i := range b.doc.Formats {
			f := &b.doc.Formats[i]
			c, ok := each[f]
			if !ok {
				continue
			}
			own, has := f.Rest[path]
			want := scheme.One(float64(v.n(c)))
			switch {
			case has && own.Equal(want), !has && v.n(c) == v.n(base):
			default:
				if err := b.putPart("formats/"+f.ID+"/rest/"+path, v.n(c)); err != nil {
					return err
				}
			}
		}
	}
	return nil
}

// merge makes one cell of those that layers stand in, the first of which takes it; the
// others go. Where others stand among them in some format it is refused.
func merge(b *bench, a Act) error {
	list, err := b.chosen()
	if err != nil {
		return err
	}
	if len(list) < 2 {
		return errors.New("layers: two cells or more are merged")
	}
	sides, err := b.layoutSides(list[0].Text(scheme.CellLayout))
	if err != nil {
		return fmt.Errorf("%s is in no cell", list[0].Name)
	}
	merged := map[string]bool{}
	for _, y := range list {
		if y.Text(scheme.CellLayout) != list[0].Text(scheme.CellLayout) {
			return fmt.Errorf("%s is in no cell of that layout", y.Name)
		}
		merged[y.ID] = true
	}
	var base cellAt
	each := map[*template.Format]cellAt{}
	for _, s := range sides {
		all := s.cells[list[0].ID]
		for _, y := range list {
			all = all.around(s.cells[y.ID])
		}
		for _, id := range sorted(s.cells) {
			if merged[id] || !s.cells[id].meets(all) {
				continue
			}
			in := ""
			if s.format != b.format {
				in = " in " + s.called()
			}
			return fmt.Errorf("%s stands among them%s; take it along, or merge others", b.doc.Layer(id).Name, in)
		}
		if s.format == nil {
			base = all
		} else {
			each[s.format] = all
		}
	}
	b.title = fmt.Sprintf("Merge %d cells", len(list))
	if err := b.standIn(list[0].ID, base, each, false); err != nil {
		return err
	}
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

// divided is a side in which a layer's cell becomes several: the weights of its rows or
// columns, where the layers stand then, and the new cells.
func (s side) divided(id, way string, n int) (p *scheme.Property, weights []float64, cells map[string]cellAt, fresh []cellAt, err error) {
	p, px, err := axis(s.split, way)
	if err != nil {
		return nil, nil, nil, nil, err
	}
	mine := s.cells[id]
	at, over := mine.column, mine.across
	if way == "rows" {
		at, over = mine.row, mine.down
	}
	if over > 1 || at >= len(px) { // it goes over lines already
		return nil, nil, nil, nil, fmt.Errorf("goes over %d %s; divide it by making it go over fewer", over, way)
	}
	each := (px[at] - s.split.Gutter*float64(n-1)) / float64(n)
	if n < 2 || len(px)+n-1 > geom.MaxCellsPerAxis || each < 1 {
		return nil, nil, nil, nil, fmt.Errorf("of %s px is not divided into %d, with gutters of %s px", plain(px[at]), n, plain(s.split.Gutter))
	}
	for _, w := range slices.Concat(px[:at], slices.Repeat([]float64{each}, n), px[at+1:]) {
		weights = append(weights, math.Round(w*1e4)/1e4)
	}
	cells = map[string]cellAt{}
	for other, c := range s.cells {
		first, much := &c.column, &c.across
		if way == "rows" {
			first, much = &c.row, &c.down
		}
		switch {
		case other == id:
		case *first > at:
			*first += n - 1
		case *first+*much > at:
			*much += n - 1
		}
		cells[other] = c
	}
	for i := 1; i < n; i++ {
		c := mine
		if way == "rows" {
			c.row += i
		} else {
			c.column += i
		}
		fresh = append(fresh, c)
	}
	return p, weights, cells, fresh, nil
}

// turned reports whether rows and columns have changed places between two sides.
func (s side) turned(o side) bool {
	return len(s.split.Rows) != len(s.split.Columns) && len(s.split.Rows) == len(o.split.Columns) && len(s.split.Columns) == len(o.split.Rows)
}

// divide makes several cells of one, with a pocket in each new one; all others stay as
// they are. Where rows and columns have changed places, so does the way.
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
	sides, err := b.layoutSides(id)
	if err != nil {
		return fmt.Errorf("%s is in no cell", y.Name)
	}
	if a.Way != "rows" && a.Way != "columns" {
		return errors.New("way: is neither columns nor rows")
	}
	n := int(a.To[0])
	here := b.looked(sides)
	var base map[string]cellAt
	var baseFresh []cellAt
	each, fresh := map[string]map[*template.Format]cellAt{}, make([]map[*template.Format]cellAt, max(0, n-1))
	for i := range fresh {
		fresh[i] = map[*template.Format]cellAt{}
	}
	for _, s := range sides {
		way := a.Way
		if s.turned(here) {
			way = map[string]string{"rows": "columns", "columns": "rows"}[way]
		}
		p, weights, cells, added, err := s.divided(y.ID, way, n)
		if err != nil {
			in := ""
			if s.format != b.format {
				in = " in " + s.called()
			}
			return fmt.Errorf("to: %s%s %w", y.Name, in, err)
		}
		path := "layouts/" + id + "/" + p.Name
		v := scheme.Many(weights...)
		if s.format == nil {
			base, baseFresh = cells, added
			b.add(edit.DraftOp{Kind: "set", Path: path, Value: &v})
			continue
		}
		if s.own {
			for _, at := range sorted(s.format.Rest) {
				if strings.HasPrefix(at, path+".") { // one weight alone
					b.add(edit.DraftOp{Kind: "put", Path: "formats/" + s.format.ID + "/rest/" + at})
				}
			}
			b.add(edit.DraftOp{Kind: "set", Path: path, Value: &v, Format: s.format.ID})
		}
		for other, c := range cells {
			if each[other] == nil {
				each[other] = map[*template.Format]cellAt{}
			}
			each[other][s.format] = c
		}
		for i, c := range added {
			fresh[i][s.format] = c
		}
	}
	b.title = fmt.Sprintf("Divide %s into %d", y.Name, n)
	for _, other := range sorted(base) {
		if err := b.standIn(other, base[other], each[other], false); err != nil {
			return err
		}
	}
	_, top := b.parentOf(y.ID)
	for i, c := range baseFresh {
		name := b.freePocket(y.Name)
		pocket, part, err := b.pocketPart(name, nil)
		if err != nil {
			return err
		}
		b.add(edit.DraftOp{Kind: "add", Into: "pockets", At: -1, Part: part})
		v := object{"id": b.freeID(name), "name": name, "kind": scheme.View.Name, "pocket": pocket,
			"cell": object{"layout": id, "row": c.row, "column": c.column, "down": c.down, "across": c.across}}
		if err := b.put(v, "layers", top+i+1); err != nil {
			return err
		}
		if err := b.standIn(v["id"].(string), c, fresh[i], true); err != nil {
			return err
		}
	}
	b.plan.Chosen = []string{y.ID}
	return nil
}
