package craft

import (
	"fmt"
	"math"
	"slices"
	"sort"
	"strconv"

	"ivypocket/core/geom"
)

// line is one that things may be drawn to: at a place across an axis, from and to
// along it.
type line struct {
	at, from, to float64
	what         string
}

// lines are those of one format, by axis: 0 for upright ones, 1 for level ones.
type lines [2][]line

// Lines gathers what the moved layers may be drawn to: the canvas' edges, middles and
// thirds, the cells of its layouts with their gutters and margins, and the edges and
// middles of the other layers that are seen.
func (b *bench) lines(without []moved) (out lines, boxes []named) {
	c := b.format.Canvas()
	add := func(axis int, at, from, to float64, what string) {
		out[axis] = append(out[axis], line{at, from, to, what})
	}
	for axis, side := range []float64{c.W, c.H} {
		across := []float64{c.H, c.W}[axis]
		add(axis, side/2, 0, across, "middle of the canvas")
		add(axis, 0, 0, across, []string{"left", "top"}[axis]+" edge of the canvas")
		add(axis, side, 0, across, []string{"right", "bottom"}[axis]+" edge of the canvas")
		add(axis, side/3, 0, across, "third of the canvas")
		add(axis, side*2/3, 0, across, "third of the canvas")
	}
	for _, l := range b.act.Lines[:min(len(b.act.Lines), MaxSnapLines)] {
		if axis := slices.Index(axes[:], l.Axis); axis >= 0 {
			add(axis, l.At, 0, []float64{c.H, c.W}[axis], l.What)
		}
	}
	box := func(what string, x geom.Box) {
		for axis := range 2 {
			at, side, from, long := x.X, x.W, x.Y, x.H
			if axis == 1 {
				at, side, from, long = x.Y, x.H, x.X, x.W
			}
			add(axis, at, from, from+long, []string{"left", "top"}[axis]+" edge of "+what)
			add(axis, at+side/2, from, from+long, "middle of "+what)
			add(axis, at+side, from, from+long, []string{"right", "bottom"}[axis]+" edge of "+what)
		}
	}
	if doc, err := b.doc.For(b.format); err == nil {
		for _, lay := range doc.Layouts {
			cells, err := lay.Split(c).Cells()
			if err != nil {
				continue
			}
			for _, cell := range cells {
				box("the cell "+cell.Name, cell.Box(c))
			}
		}
	}
	all, err := b.stand()
	if err != nil {
		return out, nil
	}
	skip := map[string]bool{}
	for _, m := range without {
		skip[m.ID] = true
		// What it is in grows and moves with it.
		for up := m.Parent; up != ""; {
			skip[up] = true
			next := ""
			for i := range all {
				if all[i].Layer == up {
					next = all[i].Parent
				}
			}
			up = next
		}
	}
	for i := range all {
		s := &all[i]
		if skip[s.Parent] && !skip[s.Layer] && slices.ContainsFunc(without, func(m moved) bool { return m.ID == s.Parent }) {
			skip[s.Layer] = true // it moves with its group
		}
		y := b.doc.Layer(s.Layer)
		if skip[s.Layer] || !s.Shown || y == nil || !isBox(y) {
			continue
		}
		x := s.Box()
		box(y.Name, x)
		boxes = append(boxes, named{x, y.Name})
	}
	return out, boxes
}

// named is a box with the name of whose it is.
type named struct {
	geom.Box
	name string
}

// nearest is the way by which one of the places comes upon a line, the shortest there
// is within a reach.
func nearest(list []line, places []float64, reach float64) (by float64, ok bool) {
	best := reach
	for _, l := range list {
		for _, p := range places {
			if d := math.Abs(l.at - p); d < best-1e-9 || d <= best && !ok {
				best, by, ok = d, l.at-p, true
			}
		}
	}
	return by, ok
}

// met are the guides along the lines that the places lie on now.
func met(axis int, list []line, places []float64, from, to float64) (out []Guide) {
	for _, l := range list {
		for _, p := range places {
			if math.Abs(l.at-p) > 1e-6 || slices.ContainsFunc(out, func(g Guide) bool { return math.Abs(g.At-l.at) < 1e-6 }) {
				continue
			}
			out = append(out, Guide{Axis: axes[axis], At: l.at, From: math.Min(l.from, from), To: math.Max(l.to, to), What: l.what})
		}
	}
	return out
}

var axes = [2]string{"x", "y"}

// snapMove draws layers that are moved together to lines and to equal gaps, or else to
// whole pixels.
func (b *bench) snapMove(list []moved, by geom.Point, reach float64, oneAxis bool) (geom.Point, []Guide) {
	lines, boxes := b.lines(list)
	box := around(list)
	way := [2]float64{by.X, by.Y}
	var gaps [2][]Guide
	for axis := range 2 {
		if oneAxis && way[axis] == 0 {
			continue
		}
		at, side := box.X, box.W
		if axis == 1 {
			at, side = box.Y, box.H
		}
		at += way[axis]
		to, ok := nearest(lines[axis], []float64{at, at + side/2, at + side}, reach)
		on := box
		on.X, on.Y = box.X+way[0], box.Y+way[1]
		if gap, shows, found := even(axis, on, boxes, reach); found && (!ok || math.Abs(gap) < math.Abs(to)-1e-9) {
			to, ok, gaps[axis] = gap, true, shows
		}
		switch {
		case ok:
			way[axis] += to
		case way[axis] != 0:
			way[axis] += math.Round(at) - at
		}
	}
	box.X, box.Y = box.X+way[0], box.Y+way[1]
	guides := met(0, lines[0], []float64{box.X, box.X + box.W/2, box.X + box.W}, box.Y, box.Y+box.H)
	guides = append(guides, met(1, lines[1], []float64{box.Y, box.Y + box.H/2, box.Y + box.H}, box.X, box.X+box.W)...)
	return geom.Point{X: way[0], Y: way[1]}, append(append(guides, gaps[0]...), gaps[1]...)
}

// even finds where a box leaves equal gaps to those beside it: between two of them, or
// after two as far from the next as they are from one another.
func even(axis int, box geom.Box, others []named, reach float64) (by float64, shows []Guide, ok bool) {
	span := func(x geom.Box) (from, to float64) {
		if axis == 0 {
			return x.X, x.X + x.W
		}
		return x.Y, x.Y + x.H
	}
	beside := func(x geom.Box) bool {
		if axis == 0 {
			return x.Y < box.Y+box.H && box.Y < x.Y+x.H
		}
		return x.X < box.X+box.W && box.X < x.X+x.W
	}
	var row []named
	for _, o := range others {
		if beside(o.Box) {
			row = append(row, o)
		}
	}
	sort.SliceStable(row, func(i, j int) bool { a, _ := span(row[i].Box); b, _ := span(row[j].Box); return a < b })
	from, to := span(box)
	mid := box.Y + box.H/2
	if axis == 1 {
		mid = box.X + box.W/2
	}
	best := reach
	try := func(at float64, gaps ...[2]float64) {
		if d := math.Abs(at - from); d < best {
			best, by, ok = d, at-from, true
			shows = nil
			for _, g := range gaps {
				shows = append(shows, Guide{Axis: axes[1-axis], At: mid, From: g[0], To: g[1], Gap: true, What: plain(g[1]-g[0]) + " px"})
			}
		}
	}
	for i := range row {
		_, end := span(row[i].Box)
		for k := i + 1; k < len(row); k++ {
			begin, last := span(row[k].Box)
			gap := begin - end
			if gap <= 0 {
				continue
			}
			first, _ := span(row[i].Box)
			side := to - from
			try(last+gap, [2]float64{end, begin}, [2]float64{last, last + gap})
			try(first-gap-side, [2]float64{first - gap, first}, [2]float64{end, begin})
			if room := gap - side; room > 0 {
				try(end+room/2, [2]float64{end, end + room/2}, [2]float64{begin - room/2, begin})
			}
		}
	}
	return by, shows, ok
}

// plain is a number for people.
func plain(v float64) string { return strconv.FormatFloat(math.Round(v*100)/100, 'f', -1, 64) }

// landed is the way of one place along an axis, drawn to a line or else, if it moves at all,
// to a whole pixel.
func landed(list []line, from, way, reach float64) float64 {
	at := from + way
	if to, ok := nearest(list, []float64{at}, reach); ok {
		return way + to
	}
	if way == 0 {
		return 0
	}
	return way + math.Round(at) - at
}

// snapEdges draws the edges that a handle moves to lines or whole pixels.
func (b *bench) snapEdges(list []moved, grip, by geom.Point, a Act) (geom.Point, []Guide) {
	lines, _ := b.lines(list)
	box := around(list)
	way, at := [2]float64{by.X, by.Y}, [2]float64{grip.X, grip.Y}
	var guides []Guide
	// On a layer that lies on its side the handle of the one edge is on the other.
	free := [2]bool{math.Abs(grip.X-box.Centre().X) > 1e-6, math.Abs(grip.Y-box.Centre().Y) > 1e-6}
	for axis := range 2 {
		if !free[axis] {
			continue
		}
		way[axis] = landed(lines[axis], at[axis], way[axis], a.Snap)
		from, end := box.Y, box.Y+box.H
		if axis == 1 {
			from, end = box.X, box.X+box.W
		}
		guides = append(guides, met(axis, lines[axis], []float64{at[axis] + way[axis]}, from, end)...)
	}
	return geom.Point{X: way[0], Y: way[1]}, guides
}

// snapPoint draws one point to lines, or else to whole pixels the way it moved.
func (b *bench) snapPoint(list []moved, grip, by geom.Point, reach float64) (geom.Point, []Guide) {
	lines, _ := b.lines(list)
	way, at := [2]float64{by.X, by.Y}, [2]float64{grip.X, grip.Y}
	var guides []Guide
	for axis := range 2 {
		way[axis] = landed(lines[axis], at[axis], way[axis], reach)
		other := at[1-axis] + way[1-axis]
		guides = append(guides, met(axis, lines[axis], []float64{at[axis] + way[axis]}, other, other)...)
	}
	return geom.Point{X: way[0], Y: way[1]}, guides
}

// String is a guide for people who read what is printed.
func (g Guide) String() string { return fmt.Sprintf("%s %s: %s", g.Axis, plain(g.At), g.What) }
