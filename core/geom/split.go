package geom

import (
	"fmt"
	"math"
)

// GutterBy says how the gap between cells is made. The two are different
// things: one keeps the cells on the canvas, the other keeps their size.
type GutterBy string

const (
	// Shrink makes cells smaller; the outer edges stay where they are.
	Shrink GutterBy = "shrink"
	// Outwards keeps the cells' size and moves each away from the middle, so
	// the outer edges are lost beyond the canvas.
	Outwards GutterBy = "outwards"
)

// Split is a layout that is computed: rows and columns of given weights.
type Split struct {
	Canvas        Size
	Rows, Columns []float64 // weights; equal numbers make equal cells
	Gutter        float64   // px between neighbours
	By            GutterBy
	Margin        float64 // px between the outermost cells and the canvas edge
	Radius        float64 // px, corner radius of each cell
}

// Cell is one place of a split.
type Cell struct {
	Row, Column int
	// Name says where the cell stands, such as "top left".
	Name string
	// Centre counts from the canvas centre, x to the right and y down, so that
	// symmetrical cells differ only in sign.
	Centre Point
	Size   Size
	// Radius is the corner radius, never more than half the shorter side.
	Radius float64
}

// Box returns the cell on a canvas, from the canvas' top left corner.
func (c Cell) Box(canvas Size) Box {
	return Centred(Point{canvas.W/2 + c.Centre.X, canvas.H/2 + c.Centre.Y}, c.Size)
}

// Cells computes every cell, row by row. Cells that gutter and margin leave no
// room for have a size of zero; it is for the caller to say so.
func (s Split) Cells() ([]Cell, error) {
	if s.Canvas.Empty() {
		return nil, fmt.Errorf("canvas: %g × %g px encloses nothing", s.Canvas.W, s.Canvas.H)
	}
	xs, err := spans(s.Canvas.W, s.Columns, s.Gutter, s.Margin, s.By)
	if err != nil {
		return nil, fmt.Errorf("columns%w", err)
	}
	ys, err := spans(s.Canvas.H, s.Rows, s.Gutter, s.Margin, s.By)
	if err != nil {
		return nil, fmt.Errorf("rows%w", err)
	}
	cells := make([]Cell, 0, len(xs)*len(ys))
	for r, y := range ys {
		for c, x := range xs {
			cells = append(cells, Cell{
				Row: r, Column: c, Name: cellName(r, len(ys), c, len(xs)),
				Centre: Point{x.centre, y.centre}, Size: Size{x.length, y.length},
				Radius: math.Max(0, math.Min(s.Radius, math.Min(x.length, y.length)/2)),
			})
		}
	}
	return cells, nil
}

// Spanning is the cell that goes over so many rows and columns of those that Cells
// computed, from the first of them on, with the gutters between; ok is false where the
// split has not so many.
func (s Split) Spanning(cells []Cell, row, column, down, across int) (c Cell, ok bool) {
	rows, columns := len(s.Rows), len(s.Columns)
	if row < 0 || column < 0 || down < 1 || across < 1 || row+down > rows || column+across > columns || len(cells) != rows*columns {
		return Cell{}, false
	}
	first, last := cells[row*columns+column], cells[(row+down-1)*columns+column+across-1]
	if down == 1 && across == 1 {
		return first, true
	}
	left, top := first.Centre.X-first.Size.W/2, first.Centre.Y-first.Size.H/2
	right, bottom := last.Centre.X+last.Size.W/2, last.Centre.Y+last.Size.H/2
	c = Cell{Row: row, Column: column, Centre: Point{(left + right) / 2, (top + bottom) / 2}, Size: Size{right - left, bottom - top}}
	c.Radius = math.Max(0, math.Min(s.Radius, math.Min(c.Size.W, c.Size.H)/2))
	c.Name = spanName(row, down, rows, column, across, columns)
	return c, true
}

// spanName says where a cell of several rows or columns stands: by the edges of the
// canvas that it reaches.
func spanName(r, down, rows, c, across, columns int) string {
	part := func(i, n, of int, first, mid, last string) string {
		switch {
		case n == of:
			return ""
		case i == 0:
			return first
		case i+n == of:
			return last
		}
		return mid
	}
	v, h := part(r, down, rows, "top", "middle", "bottom"), part(c, across, columns, "left", "centre", "right")
	switch {
	case v == "" && h == "":
		return "whole"
	case v == "" || h == "":
		return v + h
	}
	return v + " " + h
}

type span struct{ centre, length float64 }

// MaxCellsPerAxis bounds a split; 16 × 16 cells are far more than a picture bears.
const MaxCellsPerAxis = 16

// spans divides one axis.
func spans(total float64, weights []float64, gutter, margin float64, by GutterBy) ([]span, error) {
	n := len(weights)
	if n < 1 || n > MaxCellsPerAxis {
		return nil, fmt.Errorf(": %d is outside 1 to %d", n, MaxCellsPerAxis)
	}
	sum := 0.0
	for i, w := range weights {
		if !(w > 0) || math.IsInf(w, 0) {
			return nil, fmt.Errorf("[%d]: weight %g is not above 0", i, w)
		}
		sum += w
	}
	room := total - 2*margin
	if by != Outwards {
		room -= gutter * float64(n-1)
	}
	out := make([]span, n)
	at := -total/2 + margin
	for i, w := range weights {
		length := math.Max(0, room*w/sum)
		out[i] = span{at + length/2, length}
		at += length
		if by == Outwards {
			out[i].centre += gutter * (float64(i) - float64(n-1)/2)
		} else {
			at += gutter
		}
	}
	return out, nil
}

func cellName(r, rows, c, columns int) string {
	v, vok := standing(r, rows, "top", "middle", "bottom")
	h, hok := standing(c, columns, "left", "centre", "right")
	switch {
	case rows > 3 || columns > 3 || !vok || !hok:
		return fmt.Sprintf("row %d, column %d", r+1, c+1)
	case v == "" && h == "":
		return "whole"
	case v == "":
		return h
	case h == "":
		return v
	case v == "middle" && h == "centre":
		return "centre"
	}
	return v + " " + h
}

func standing(i, n int, first, mid, last string) (string, bool) {
	switch {
	case n == 1:
		return "", true
	case i == 0:
		return first, true
	case i == n-1:
		return last, true
	case n == 3:
		return mid, true
	}
	return "", false
}
