package scene

import (
	"crypto/sha256"
	"encoding/binary"
	"fmt"
	"math"
	"slices"

	"ivypocket/core/geom"
	"ivypocket/core/raster"
)

// cuts is what the items of a list are drawn within. Coverage that a list has
// in common with the one before is made once.
type cuts struct {
	items     []itemCut
	work      []*covering
	all       map[Address]*covering
	free      []*covering
	freeBytes int
	turn      int
	roots     []root
	buf       []byte
	bytes     int // of the coverage of the list at hand
}

// itemCut is one item's cut and paint.
type itemCut struct {
	cut    raster.Cut
	form   *covering
	edges  *covering
	masks  *covering
	flat   raster.Flat
	shade  raster.Shade
	shaded bool
}

// covering is coverage that has been made or is to be made.
type covering struct {
	plane raster.Coverage
	turn  int // of the last list that used it
	item  int
	what  uint8
}

// What a covering covers.
const (
	formCover uint8 = iota
	strokeCover
	edgeCover
	maskCover
)

// maxCoverage bounds the bytes of coverage that one list may need, so that a
// document with thousands of large copies can't take all memory.
const maxCoverage = 1 << 30

// plan finds the cut of every item and lists the coverage that is to be made.
func (c *cuts) plan(l *List) error {
	c.bytes = 0
	if c.all == nil {
		c.all = map[Address]*covering{}
	}
	c.turn++
	c.work = c.work[:0]
	if cap(c.items) < len(l.Items) {
		c.items = make([]itemCut, len(l.Items))
	}
	c.items = c.items[:len(l.Items)]
	inside := 0 // what is in a treated item is cut where that is made
	for i := range l.Items {
		it, k := &l.Items[i], &c.items[i]
		*k = itemCut{}
		if i < inside {
			continue
		}
		if it.Kind == TreatItem {
			inside = i + 1 + it.Span
		}
		boxes := 0
		box := func(b geom.Box, r float64) {
			k.cut.Box(b, r, l.Size.W, l.Size.H)
			boxes++
		}
		switch it.Kind {
		case FillItem, PictureItem:
			if r, ok := it.Form.IsBox(); ok && it.Map.IsFlat() && it.Map.Upright() {
				sx, sy := it.Map.Affine.Stretch()
				box(deviceBox(it.Form.Size, it.Map), r*math.Min(sx, sy))
			} else {
				k.form = c.cover(l, i, formCover)
			}
		case StrokeItem:
			k.form = c.cover(l, i, strokeCover)
		case GroupItem, MeanItem, TreatItem:
			x0, y0, x1, y1 := raster.Within(it.Box, l.Size.W, l.Size.H)
			box(geom.Box{X: float64(x0), Y: float64(y0), W: float64(x1 - x0), H: float64(y1 - y0)}, 0)
		}
		if it.Kind == PictureItem && it.Edges {
			if way := it.Content.Flat().Then(it.Map); way.IsFlat() && way.Upright() {
				box(deviceBox(it.MediaSize, way), 0)
			} else {
				k.edges = c.cover(l, i, edgeCover)
			}
		}
		if it.Masks[0] < it.Masks[1] {
			k.masks = c.cover(l, i, maskCover)
		}
		k.flat = raster.NewFlat(it.Colour)
		if it.Gradient != nil {
			k.shade, k.shaded = it.Gradient.Lay(it.From, it.To, it.Map)
		}
	}
	for key, v := range c.all {
		if v.turn < c.turn {
			delete(c.all, key)
			if n := v.plane.Bytes(); c.freeBytes+n <= min(c.bytes, maxFreeCover) {
				c.free = append(c.free, v)
				c.freeBytes += n
			}
		}
	}
	if c.bytes > maxCoverage {
		c.all = nil // what was listed will not be made
		return fmt.Errorf("the outlines and masks of %d × %d px take more than %d MB; use fewer copies, fewer masks or a smaller size", l.Size.W, l.Size.H, maxCoverage>>20)
	}
	return nil
}

// maxFreeCover bounds the bytes of coverage kept only for their memory, beside what a
// list needs; maxFree how many surfaces are.
const (
	maxFreeCover = 12 << 20
	maxFree      = 3
)

func deviceBox(s geom.Size, m geom.Projective) geom.Box {
	return geom.Bounds(m.Apply(geom.Point{}), m.Apply(geom.Point{X: s.W, Y: s.H}))
}

// apply joins made coverage to the cuts.
func (c *cuts) apply() {
	for i := range c.items {
		k := &c.items[i]
		for _, v := range [3]*covering{k.form, k.edges, k.masks} {
			if v != nil {
				k.cut.Cover(&v.plane)
			}
		}
	}
}

// cover finds coverage that is there already, or has it made.
func (c *cuts) cover(l *List, i int, what uint8) *covering {
	key := c.key(l, i, what)
	v := c.all[key]
	x0, y0, x1, y1 := raster.Within(l.Items[i].Box, l.Size.W, l.Size.H)
	if v == nil {
		v = c.spare(max(0, x1-x0) * max(0, y1-y0))
		v.item, v.what = i, what
		c.all[key] = v
		c.work = append(c.work, v)
	}
	if v.turn != c.turn {
		c.bytes += max(0, x1-x0) * max(0, y1-y0)
	}
	v.turn = c.turn
	return v
}

// spare returns coverage that nobody uses: the smallest whose memory suffices for some
// bytes, else the largest, else a new one.
func (c *cuts) spare(need int) *covering {
	best := -1
	for i, v := range c.free {
		n := v.plane.Bytes()
		if best < 0 {
			best = i
			continue
		}
		if b := c.free[best].plane.Bytes(); b < need && n > b || n >= need && n < b {
			best = i
		}
	}
	if best < 0 {
		return &covering{}
	}
	v := c.free[best]
	c.free = slices.Delete(c.free, best, best+1)
	c.freeBytes -= v.plane.Bytes()
	return v
}

// key tells coverage from other coverage.
func (c *cuts) key(l *List, i int, what uint8) Address {
	it := &l.Items[i]
	b := append(c.buf[:0], what)
	num := func(vs ...float64) {
		for _, v := range vs {
			b = binary.BigEndian.AppendUint64(b, math.Float64bits(v+0))
		}
	}
	num(float64(l.Size.W), float64(l.Size.H))
	switch what {
	case formCover, strokeCover:
		b = appendForm(b, &it.Form, it.Map)
		if what == strokeCover {
			b = it.appendPen(b)
		}
	case edgeCover:
		m := it.Content.Flat().Then(it.Map)
		num(it.MediaSize.W, it.MediaSize.H, m.A, m.B, m.C, m.D, m.E, m.F, m.G, m.H, m.I)
	case maskCover:
		num(it.Box.X, it.Box.Y, it.Box.W, it.Box.H)
		for k := it.Masks[0]; k < it.Masks[1]; k++ {
			b = l.Masks[k].append(b)
		}
	}
	c.buf = b
	sum := sha256.Sum256(b)
	return Address(sum[:16])
}

// make makes the coverage.
func (v *covering) make(w *worker, l *List) {
	it := &l.Items[v.item]
	switch v.what {
	case formCover:
		w.filler.Fill(&v.plane, &it.Form, it.Map, it.Box, l.Size.W, l.Size.H)
	case strokeCover:
		w.filler.Stroke(&v.plane, &it.Form, it.Map, raster.Line{Pen: it.Pen, Align: it.Align, Dash: it.Dash, Shift: it.Shift, Part: it.Part}, it.Box, l.Size.W, l.Size.H)
	case edgeCover:
		q, ok := it.Content.Flat().Then(it.Map).Quad(geom.Box{W: it.MediaSize.W, H: it.MediaSize.H})
		if !ok {
			v.plane.Reset(0, 0, 0, 0)
			return
		}
		w.filler.Quad(&v.plane, q, it.Box, l.Size.W, l.Size.H)
	case maskCover:
		join(&w.filler, &w.mask, &v.plane, l.Masks[it.Masks[0]:it.Masks[1]], it.Box, l.Size)
	}
}

// join makes the coverage that masks leave together of what is in a box on a device of a size;
// one is memory for each of them.
func join(f *raster.Filler, one, plane *raster.Coverage, ms []Mask, box geom.Box, size Size) {
	make := func(m *Mask, to *raster.Coverage) {
		f.Mask(to, &m.Form, m.Map, m.soft(), box, size.W, size.H)
	}
	if m := &ms[0]; len(ms) == 1 && m.Mode != raster.SubtractMask && !m.Invert && m.Opacity >= 1 {
		make(m, plane)
		return
	}
	x0, y0, x1, y1 := raster.Within(box, size.W, size.H)
	plane.Reset(x0, y0, x1-x0, y1-y0)
	// The first mask adds to nothing, or takes from all.
	plane.Fill(255)
	if ms[0].Mode == raster.AddMask {
		plane.Fill(0)
	}
	for k := range ms {
		make(&ms[k], one)
		plane.Join(one, ms[k].Mode, ms[k].Invert, ms[k].Opacity)
	}
	plane.Done()
}

// keeper holds pictures of groups that look as they did in the list before, so
// that they are not painted again.
type keeper struct {
	kept map[Address]*kept
	seen map[Address]int
	work []int
	turn int
	free []*raster.Surface
	// samples are the groups that means are of: they are summed, not drawn.
	samples []bool
}

type kept struct {
	s    *raster.Surface
	turn int
}

// maxKept bounds the memory of kept pictures.
const maxKept = 96 << 20

func (k *keeper) have(a Address) *raster.Surface {
	if v := k.kept[a]; v != nil {
		return v.s
	}
	return nil
}

// plan finds the groups that are worth keeping now. What is inside one that is
// kept need not be looked at.
func (k *keeper) plan(l *List) {
	if k.kept == nil {
		k.kept, k.seen = map[Address]*kept{}, map[Address]int{}
	}
	k.turn++
	k.work = k.work[:0]
	k.samples = append(k.samples[:0], make([]bool, len(l.Items))...)
	held := 0
	for i := 0; i < len(l.Items); {
		it := &l.Items[i]
		next := i + 1
		if it.Kind == TreatItem { // what is in it is painted by a painter of its own
			next += it.Span
		}
		if it.Kind == MeanItem {
			for s := i + 1; s <= i+it.Span; s += 1 + l.Items[s].Span {
				k.samples[s] = true
			}
		}
		// A group that lets its backdrop through has no picture of its own.
		if it.Span > 1 && !k.samples[i] && (it.Kind == MeanItem || it.Kind == GroupItem && (it.Isolated || it.Blend != raster.Normal)) {
			if v := k.kept[it.hash]; v != nil {
				v.turn = k.turn
				held += v.s.Bytes()
				next = i + 1 + it.Span
			} else if k.seen[it.hash] == k.turn-1 && k.turn > 1 && held+4*l.Size.W*l.Size.H <= maxKept {
				held += 4 * l.Size.W * l.Size.H
				k.work = append(k.work, i)
				next = i + 1 + it.Span
			}
			k.seen[it.hash] = k.turn
		}
		i = next
	}
	for a, v := range k.kept {
		if v.turn < k.turn {
			delete(k.kept, a)
			if len(k.free) == 0 {
				k.free = append(k.free, v.s)
			}
		}
	}
	for a, t := range k.seen {
		if t < k.turn {
			delete(k.seen, a)
		}
	}
}

// take returns a surface to paint on, which may hold anything.
func (k *keeper) take(size Size) *raster.Surface {
	s := &raster.Surface{}
	if n := len(k.free); n > 0 {
		s, k.free = k.free[n-1], k.free[:n-1]
	}
	s.Reset(size.W, size.H)
	return s
}

func (k *keeper) put(a Address, s *raster.Surface) { k.kept[a] = &kept{s, k.turn} }
