package scene

import "ivypocket/core/raster"

// What an opaque item covers wholly is not painted below it: for each item, the
// pixels of each row that items above it in the same picture will draw over.

// hide is where in a worker's spans those of an item begin, and for which rows.
type hide struct {
	from, rows int
	y          int
}

// through reports whether a group's items join what is below it one by one.
func (it *Item) through() bool {
	return it.Kind == GroupItem && !it.Isolated && it.Blend == raster.Normal
}

// plain reports whether they do so as if there were no group.
func (it *Item) plain() bool {
	return it.through() && it.Opacity >= 1 && it.Masks[0] == it.Masks[1] && it.Matte == 0
}

// hiding reports whether an item leaves nothing of what is below where it is wholly
// covered.
func (p *Painter) hiding(i int) bool {
	it := &p.list.Items[i]
	if it.Opacity < 1 || it.Blend != raster.Normal || it.Matte > 0 {
		return false
	}
	c := &p.cuts.items[i]
	switch it.Kind {
	case FillItem, GroundItem:
		return c.shaded && c.shade.Solid() || it.Gradient == nil && it.Colour[3] == 255
	case PictureItem:
		return p.draws[i].Src != nil && p.draws[i].Solid()
	}
	return false
}

// openHides makes ready for rows of which nothing is known yet. Of mattes nothing ever
// is: they stand alone.
func (w *worker) openHides() {
	n := len(w.p.list.Items)
	if cap(w.hides) < n {
		w.hides = make([]hide, n)
	}
	w.hides = w.hides[:n]
	clear(w.hides)
	w.spans, w.order = w.spans[:0], w.order[:0]
}

// findHidden goes through items of one picture from the highest down.
func (w *worker) findHidden(from, to, y0, y1 int) {
	if w.p.all {
		return
	}
	at := len(w.spans)
	for range y1 - y0 {
		w.spans = append(w.spans, raster.Span{})
	}
	w.hideAmong(from, to, y0, y1, at)
}

// hideAmong does so for the items from one index up to another. What is hidden so far
// stands in spans from an index on; it returns where it stands then.
func (w *worker) hideAmong(from, to, y0, y1, now int) int {
	l := w.p.list
	first := len(w.order)
	for i := from; i < to; i += 1 + l.Items[i].Span {
		w.order = append(w.order, i)
	}
	rows := y1 - y0
	for k := len(w.order) - 1; k >= first; k-- {
		i := w.order[k]
		it := &l.Items[i]
		if it.plain() {
			now = w.hideAmong(i+1, i+1+it.Span, y0, y1, now)
			continue
		}
		w.hides[i] = hide{now, rows, y0}
		if !w.p.hiding(i) {
			continue
		}
		a, b := it.rows(l.Size.H)
		if a, b = max(a, y0), min(b, y1); a >= b {
			continue
		}
		// Those that were told of less keep what they were told.
		next := len(w.spans)
		w.spans = append(w.spans, w.spans[now:now+rows]...)
		cut := &w.p.cuts.items[i].cut
		for y := a; y < b; y++ {
			s := &w.spans[next+y-y0]
			*s = s.Join(cut.Whole(y, l.Size.W))
		}
		now = next
	}
	w.order = w.order[:first]
	return now
}

// hidden tells an item's cut what is hidden of it, and reports whether that is all.
func (w *worker) hidden(i, y0, y1 int, cut *raster.Cut) bool {
	h := w.hides[i]
	if h.rows == 0 {
		return false
	}
	spans := w.spans[h.from : h.from+h.rows]
	cut.Hide(h.y, spans)
	// What an item touches lies in its box, and in one pixel more.
	x0, _, x1, _ := raster.Within(w.p.list.Items[i].Box, w.p.list.Size.W, w.p.list.Size.H)
	x0, x1 = max(0, x0-1), min(w.p.list.Size.W, x1+1)
	for y := y0; y < y1; y++ {
		if k := y - h.y; k < 0 || k >= h.rows || int(spans[k].From) > x0 || int(spans[k].To) < x1 {
			return false
		}
	}
	return true
}
