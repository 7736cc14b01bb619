package scene

import (
	"context"
	"fmt"
	"math"
	"runtime"
	"sync"

	"ivypocket/core/raster"
)

// Painter turns draw lists into pictures on all cores. It paints one list at a
// time and is safe for use by one goroutine; the pictures it draws may be
// shared with others.
//
// A list is painted in steps: first all coverage that needs it is made, a task
// for each; then what is drawn as one and looks as it did in the list before is
// painted for keeps; then bands of rows, each from the lowest item up. No step
// depends on how the work is shared out.
type Painter struct {
	pictures *Pictures
	tasks    chan task
	done     sync.WaitGroup // tasks of the step that is running
	ends     sync.WaitGroup // the workers

	list  *List
	draws []raster.Picture
	ready Ready           // of Paint and Repaint
	ended <-chan struct{} // closed when nobody wants the picture any more

	cuts   cuts
	kept   keeper
	treats treater
	band   int  // rows in a band
	all    bool // what is hidden is painted, too (for tests)
	// What Repaint has painted last, and where.
	last struct {
		roots []root
		size  Size
		dst   *raster.Surface
	}
}

// task is a piece of work for one worker: coverage to be made, or rows of an
// item, or of the whole list for item -1, to be painted.
type task struct {
	do     func(from, to int) // or lines of a treatment
	cover  int
	item   int
	dst    *raster.Surface
	y0, y1 int
}

// NewPainter returns a painter of the given pictures, which may be nil for one
// that is handed pictures made ready. Close ends its workers.
func NewPainter(pictures *Pictures) *Painter {
	p := &Painter{pictures: pictures, tasks: make(chan task), band: bandRows}
	for range runtime.GOMAXPROCS(0) {
		w := &worker{p: p}
		p.ends.Go(func() {
			for t := range p.tasks {
				w.do(t)
				p.done.Done()
			}
		})
	}
	return p
}

// Close ends the workers.
func (p *Painter) Close() {
	close(p.tasks)
	p.ends.Wait()
	for _, q := range p.treats.inner {
		q.Close()
	}
}

// bandRows is the height of a band: small enough to share the work evenly,
// large enough that handing it over costs nothing.
const bandRows = 32

// Paint draws a list on dst, which is resized to the list's size. In the
// steady state, when all pictures are in the cache, it allocates nothing.
func (p *Painter) Paint(ctx context.Context, l *List, dst *raster.Surface) error {
	if err := p.pictures.Ready(ctx, l, &p.ready); err != nil {
		return err
	}
	return p.PaintReady(ctx, l, &p.ready, dst)
}

// PaintReady draws a list whose pictures have been made ready.
func (p *Painter) PaintReady(ctx context.Context, l *List, r *Ready, dst *raster.Surface) error {
	l.sign()
	return p.draw(ctx, l, r, dst, 0, l.Size.H)
}

// Repaint draws a list on a surface that nobody but Repaint has changed since
// it last drew on it, and paints only the rows y0 to y1 in which something is
// not as it was. The picture is that of Paint.
func (p *Painter) Repaint(ctx context.Context, l *List, dst *raster.Surface) (y0, y1 int, err error) {
	if err = p.pictures.Ready(ctx, l, &p.ready); err != nil {
		p.last.dst = nil
		return
	}
	return p.RepaintReady(ctx, l, &p.ready, dst)
}

// RepaintReady is Repaint for a list whose pictures have been made ready.
func (p *Painter) RepaintReady(ctx context.Context, l *List, r *Ready, dst *raster.Surface) (y0, y1 int, err error) {
	l.sign()
	y0, y1 = 0, l.Size.H
	if p.last.dst == dst && p.last.size == l.Size {
		y0, y1 = p.changedRows(l)
	}
	p.last.dst = nil // until it is whole
	if err = p.draw(ctx, l, r, dst, y0, y1); err == nil {
		p.last.roots = appendRoots(p.last.roots[:0], l)
		p.last.size, p.last.dst = l.Size, dst
	}
	return
}

// root is an item that stands in no other, as Repaint remembers it.
type root struct {
	hash   Address
	y0, y1 int
}

func appendRoots(to []root, l *List) []root {
	for i := 0; i < l.Main; i += 1 + l.Items[i].Span {
		it := &l.Items[i]
		y0, y1 := it.rows(l.Size.H)
		to = append(to, root{it.hash, y0, y1})
	}
	return to
}

// rows are the rows that an item may change.
func (it *Item) rows(h int) (y0, y1 int) {
	return max(0, int(math.Max(-1, math.Floor(it.Box.Y)))-1), min(h, int(math.Min(float64(h), math.Ceil(it.Box.Y+it.Box.H)))+1)
}

// changedRows are the rows reached by items of one list that are not the same
// in the other. The order of layers does not change between frames.
func (p *Painter) changedRows(l *List) (y0, y1 int) {
	y0, y1 = l.Size.H, 0
	old := p.last.roots
	p.cuts.roots = appendRoots(p.cuts.roots[:0], l)
	now := p.cuts.roots
	reach := func(a, b []root) {
	next:
		for i := range a {
			for k := range b {
				if a[i].hash == b[k].hash {
					continue next
				}
			}
			y0, y1 = min(y0, a[i].y0), max(y1, a[i].y1)
		}
	}
	reach(old, now)
	reach(now, old)
	return min(y0, y1), y1
}

// run gives tasks to the workers and waits for all of them.
func (p *Painter) run(n int, at func(int) task) {
	p.done.Add(n)
	for i := range n {
		p.tasks <- at(i)
	}
	p.done.Wait()
}

// bands paints rows of an item, or of the whole list, on a surface.
func (p *Painter) bands(item int, dst *raster.Surface, y0, y1 int) {
	n := (y1 - y0 + p.band - 1) / p.band
	p.run(n, func(i int) task {
		y := y0 + i*p.band
		return task{cover: -1, item: item, dst: dst, y0: y, y1: min(y+p.band, y1)}
	})
}

// draw paints rows of a list. When ctx ends on the way, what is being made is not
// made to its end and nothing of it is kept.
func (p *Painter) draw(ctx context.Context, l *List, r *Ready, dst *raster.Surface, y0, y1 int) error {
	if l.Size.W < 1 || l.Size.H < 1 {
		return fmt.Errorf("a picture of %d × %d px can't be drawn", l.Size.W, l.Size.H)
	}
	dst.Reset(l.Size.W, l.Size.H)
	p.list, p.draws, p.ended = l, r.draws, ctx.Done()
	if y0 < y1 {
		if err := p.cuts.plan(l); err != nil {
			return err
		}
		p.run(len(p.cuts.work), func(i int) task { return task{cover: i} })
		if err := ctx.Err(); err != nil {
			p.cuts.all = nil // some of it was not made
			return err
		}
		p.cuts.apply()
		p.kept.plan(l)
		if err := p.treat(ctx, l, r); err != nil {
			return err
		}
		for _, i := range p.kept.work {
			it := &l.Items[i]
			k := p.kept.take(l.Size)
			a, b := it.rows(l.Size.H)
			p.bands(i, k, a, b)
			if err := ctx.Err(); err != nil {
				return err
			}
			p.kept.put(it.hash, k)
		}
		p.bands(-1, dst, y0, y1)
		if err := ctx.Err(); err != nil {
			return err
		}
	}
	dst.Opaque = false
	for i := 0; i < l.Main; i += 1 + l.Items[i].Span {
		if p.covers(i, 0, l.Size.H) {
			dst.Opaque = true
		}
	}
	return nil
}

// covers reports whether an item alone hides everything below it in some rows.
func (p *Painter) covers(i, y0, y1 int) bool {
	it := &p.list.Items[i]
	if it.Opacity < 1 || it.Blend != raster.Normal || it.Masks[0] < it.Masks[1] || it.Matte > 0 {
		return false
	}
	switch it.Kind {
	case GroundItem:
		if it.Gradient != nil {
			return p.cuts.items[i].shaded && p.cuts.items[i].shade.Solid()
		}
		return it.Colour[3] == 255
	case FillItem:
		if it.Gradient != nil || it.Colour[3] != 255 {
			return false
		}
	case PictureItem:
		if it.Edges || p.draws[i].Src == nil || !p.draws[i].Solid() {
			return false
		}
	default:
		return false
	}
	if r, ok := it.Form.IsBox(); !ok || r != 0 || !it.Map.IsFlat() || !it.Map.Upright() {
		return false
	}
	w := float64(p.list.Size.W)
	return it.Box.X <= 0 && it.Box.X+it.Box.W >= w && it.Box.Y <= float64(y0) && it.Box.Y+it.Box.H >= float64(y1)
}

// worker is one goroutine's memory.
type worker struct {
	p      *Painter
	brush  raster.Brush
	filler raster.Filler
	tiles  []*raster.Surface
	sums   []*raster.Sum
	grader raster.Grader
	mask   raster.Coverage

	// What is drawn over later, by item of the list, and the rows of it.
	hides []hide
	spans []raster.Span
	order []int

	// Rows of the task at hand, and the mattes that were made for them: many items
	// may be cut by one, and it may itself be cut by others.
	y0, y1 int
	made   map[matteKey]*raster.Coverage
	spare  []*raster.Coverage
}

// matteKey tells mattes of one band apart.
type matteKey struct {
	item         int
	luma, invert bool
}

func (w *worker) do(t task) {
	select {
	case <-w.p.ended:
		return
	default:
	}
	if t.do != nil {
		t.do(t.y0, t.y1)
		return
	}
	if t.cover >= 0 {
		w.p.cuts.work[t.cover].make(w, w.p.list)
		return
	}
	w.y0, w.y1 = t.y0, t.y1
	w.openHides()
	for k, c := range w.made {
		w.spare = append(w.spare, c)
		delete(w.made, k)
	}
	if t.item >= 0 { // an item for keeps: what is in it, on clear ground
		w.inside(t.dst, t.item, t.y0, t.y1, 0)
		return
	}
	w.amongClear(t.dst, 0, w.p.list.Main, t.y0, t.y1, 0, 0, w.p.list.Size.W)
}

// amongClear paints items from one index up to another on rows whose pixels hold
// anything, and of which the columns x0 to x1 will be looked at.
func (w *worker) amongClear(dst *raster.Surface, from, to, y0, y1, depth, x0, x1 int) {
	l := w.p.list
	start := -1
	for i := from; i < to; i += 1 + l.Items[i].Span {
		if w.p.covers(i, y0, y1) {
			start = i
		}
	}
	if start < 0 {
		dst.ClearPart(x0, y0, x1, y1)
		start = from
	}
	w.among(dst, start, to, y0, y1, depth)
}

// among paints items on what is there.
func (w *worker) among(dst *raster.Surface, from, to, y0, y1, depth int) {
	w.findHidden(from, to, y0, y1)
	w.each(dst, from, to, y0, y1, depth)
}

// each paints items of which it is known what is hidden.
func (w *worker) each(dst *raster.Surface, from, to, y0, y1, depth int) {
	l := w.p.list
	for i := from; i < to; i += 1 + l.Items[i].Span {
		w.item(dst, i, y0, y1, depth)
	}
}

func (w *worker) tile(depth, y0, y1 int) *raster.Surface {
	for len(w.tiles) <= depth {
		w.tiles = append(w.tiles, &raster.Surface{})
		w.sums = append(w.sums, &raster.Sum{})
	}
	w.tiles[depth].Band(w.p.list.Size.W, y0, y1)
	return w.tiles[depth]
}

// inside paints what is in a group or a mean, as it is before it joins what is
// below it, on rows of dst that may hold anything.
func (w *worker) inside(dst *raster.Surface, i, y0, y1, depth int) {
	l := w.p.list
	it := &l.Items[i]
	// Nobody looks beyond its box, and a pixel more.
	x0, _, x1, _ := raster.Within(it.Box, l.Size.W, l.Size.H)
	x0, x1 = max(0, x0-1), min(l.Size.W, x1+1)
	if it.Kind != MeanItem {
		w.amongClear(dst, i+1, i+1+it.Span, y0, y1, depth, x0, max(x0, x1))
		return
	}
	tile, n := w.tile(depth, y0, y1), 0
	sum := w.sums[depth]
	sum.Reset(l.Size.W, y1-y0, x0, x1)
	for k := i + 1; k <= i+it.Span; k += 1 + l.Items[k].Span {
		// Each is cleared as far as the sum looks.
		w.amongClear(tile, k+1, k+1+l.Items[k].Span, y0, y1, depth+1, x0, x1)
		sum.Add(tile)
		n++
	}
	sum.Mean(tile, n)
	dst.CopyRows(tile, y0, y1)
}

// item paints one item on what is there.
func (w *worker) item(dst *raster.Surface, i, y0, y1, depth int) {
	l := w.p.list
	it := &l.Items[i]
	a, b := it.rows(l.Size.H)
	if y0, y1 = max(y0, a), min(y1, b); y0 >= y1 {
		return
	}
	c := &w.p.cuts.items[i]
	cut := c.cut
	if w.hidden(i, y0, y1, &cut) {
		return
	}
	if it.Matte > 0 {
		cut.Cover(w.matte(it, depth))
	}
	switch it.Kind {
	case FillItem, GroundItem, StrokeItem:
		if c.shaded {
			dst.Paint(y0, y1, &c.shade, &cut, it.Opacity, it.Blend, &w.brush)
		} else if it.Gradient == nil {
			dst.Paint(y0, y1, &c.flat, &cut, it.Opacity, it.Blend, &w.brush)
		}
	case PictureItem:
		if w.p.draws[i].Src != nil {
			dst.Paint(y0, y1, &w.p.draws[i], &cut, it.Opacity, it.Blend, &w.brush)
		}
	case GradeItem:
		w.grader.Set(&it.Grade)
		dst.Grade(y0, y1, &w.grader, &cut, it.Opacity, &w.brush)
	case TreatItem:
		dst.Paint(y0, y1, &w.p.treats.placed[i], &cut, it.Opacity, it.Blend, &w.brush)
	case GroupItem, MeanItem:
		w.group(dst, i, &cut, y0, y1, depth)
	}
}

func (w *worker) group(dst *raster.Surface, i int, cut *raster.Cut, y0, y1, depth int) {
	it := &w.p.list.Items[i]
	if k := w.p.kept.have(it.hash); k != nil {
		dst.Paint(y0, y1, &raster.Whole{S: k, Shared: true}, cut, it.Opacity, it.Blend, &w.brush)
		return
	}
	switch {
	case it.plain():
		w.each(dst, i+1, i+1+it.Span, y0, y1, depth)
	case it.through():
		// It begins with its backdrop, and goes from there to what it made of
		// it. Where it blends with what is below in a mode of its own, it can't
		// tell its backdrop apart and is isolated (as CSS has it).
		tile := w.tile(depth, y0, y1)
		tile.CopyRows(dst, y0, y1)
		w.among(tile, i+1, i+1+it.Span, y0, y1, depth+1)
		dst.Mix(y0, y1, &raster.Whole{S: tile}, cut, it.Opacity, &w.brush)
	default:
		tile := w.tile(depth, y0, y1)
		w.inside(tile, i, y0, y1, depth+1)
		dst.Paint(y0, y1, &raster.Whole{S: tile}, cut, it.Opacity, it.Blend, &w.brush)
	}
}

// matte makes coverage of the layer that cuts an item, for all rows of the task,
// or finds it made.
func (w *worker) matte(it *Item, depth int) *raster.Coverage {
	key := matteKey{it.Matte, it.Luma, it.InvertMatte}
	if c := w.made[key]; c != nil {
		return c
	}
	tile := w.tile(depth, w.y0, w.y1)
	tile.Clear(w.y0, w.y1)
	w.item(tile, it.Matte, w.y0, w.y1, depth+1)
	out := &raster.Coverage{}
	if n := len(w.spare); n > 0 {
		out, w.spare = w.spare[n-1], w.spare[:n-1]
	}
	tile.Matte(out, w.y0, w.y1, it.Luma, it.InvertMatte)
	if w.made == nil {
		w.made = map[matteKey]*raster.Coverage{}
	}
	w.made[key] = out
	return out
}
