package craft

import (
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"

	"ivypocket/core/edit"
	"ivypocket/core/geom"
	"ivypocket/core/scheme"
)

// What is done with layouts.
func init() {
	register(
		row{"split", "`to` (columns, rows), `numbers` (`gutter`, `margin`, `radius`), `way` (`shrink` or `outwards`), `name`, `middle` (with a backing)", "makes a layout, and a pocket in each of its cells", split},
		row{"cell", "`layers`, `id` (a layout), `from` (column, row)", "puts layers into a cell", cell},
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
		y := object{"id": b.freeID(name), "name": name, "kind": scheme.View.Name, "pocket": pocket, "cell": object{"layout": id, "row": c.Row, "column": c.Column}}
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
			row, column := int(n.Number(scheme.CellRow)), int(n.Number(scheme.CellColumn))
			at := slices.IndexFunc(cells, func(c geom.Cell) bool { return c.Row == row && c.Column == column })
			if at < 0 {
				return fmt.Errorf("%s stands in a cell that the layout has not", y.Name)
			}
			c := cells[at]
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
