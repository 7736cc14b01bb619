package scene

import (
	"context"
	"math"

	"ivypocket/core/geom"
	"ivypocket/core/look"
	"ivypocket/core/raster"
	"ivypocket/core/scheme"
)

// treating is a treatment of a layer at an instant, as the look room reads it.
type treating struct {
	thing *thing
	slots []float64
	way   geom.Affine // from the pixels of the canvas or group to the device's
}

// Numbers implements look.Values.
func (t *treating) Numbers(p *scheme.Property) []float64 {
	at, n := t.thing.at(p)
	return t.slots[at : at+n]
}

// Length implements look.Values.
func (t *treating) Length(v float64) float64 {
	return v * math.Sqrt(math.Abs(t.way.A*t.way.D-t.way.B*t.way.C))
}

// Way implements look.Values.
func (t *treating) Way(x, y float64) (dx, dy float64) {
	return t.way.A*x + t.way.C*y, t.way.B*x + t.way.D*y
}

// Done is what is done to a layer's picture at an instant: all over it, or where masks of the
// list leave it, from the first number up to the second.
type Done struct {
	look.Step
	Masks [2]int
}

// key appends all that its result depends on, besides the picture.
func (d *Done) key(b []byte, l *List) []byte {
	b = d.Key(b)
	for k := d.Masks[0]; k < d.Masks[1]; k++ {
		b = l.Masks[k].append(b)
	}
	return b
}

// steps are what is done to a layer's picture at an instant; own is the layer's box, on which
// masks lie.
func (w *writer) steps(st *state, i int, own geom.Size) []Done {
	l := &w.s.layers[i]
	if len(l.treats) == 0 {
		return nil
	}
	// The layer's own way is taken off the way to the device: what is done is
	// measured by what the layer stands in, with the cameras over it.
	alone, ok := st.local[i].Affine.Invert()
	if !ok {
		return nil
	}
	return w.stepsOn(st, l.treats, alone.Then(st.world[i].Affine), st.world[i], own)
}

// stepsOn are treatments of what is measured by one map to the device, and masked on a box that
// another takes there.
func (w *writer) stepsOn(st *state, treats []treat, way geom.Affine, up geom.Projective, own geom.Size) []Done {
	if len(treats) == 0 {
		return nil
	}
	from := len(w.l.steps)
	for k := range treats {
		t := &treating{&treats[k].thing, st.slots, way}
		if st.slots[t.thing.slot+scheme.Off.Slot()] != 0 {
			continue
		}
		if s := look.Make(t.thing.Kind, int(t.thing.Number(scheme.Behaviour)), t); s != nil {
			d := Done{Step: s}
			d.Masks[0] = len(w.l.Masks)
			w.masksOn(st, treats[k].masks, up, own)
			d.Masks[1] = len(w.l.Masks)
			w.l.steps = append(w.l.steps, d)
		}
	}
	return w.l.steps[from:len(w.l.steps):len(w.l.steps)]
}

// reachOf is how far steps one after another reach, in pixels.
func reachOf(steps []Done) (x, y float64) {
	for _, s := range steps {
		dx, dy := s.Reach()
		x, y = x+float64(dx), y+float64(dy)
	}
	return
}

func grown(b geom.Box, x, y float64) geom.Box {
	return geom.Box{X: b.X - x, Y: b.Y - y, W: b.W + 2*x, H: b.H + 2*y}
}

// treated lists a layer whose picture is treated: what draws it, within an item
// that is made by itself before it joins what is below.
func (w *writer) treated(it Item, steps []Done, draw func(it Item)) {
	rx, ry := reachOf(steps)
	at := w.open(Item{Layer: it.Layer, Pocket: it.Pocket, Kind: TreatItem, Opacity: it.Opacity, Blend: it.Blend, Isolated: true,
		Matte: it.Matte, Luma: it.Luma, InvertMatte: it.InvertMatte, Steps: steps})
	it.Opacity, it.Blend, it.Matte, it.Luma, it.InvertMatte = 1, raster.Normal, 0, false, false
	frame := w.frame
	w.frame = grown(frame, rx, ry) // what is near to it is seen through the treatment
	draw(it)
	w.frame = frame
	w.close(at)
	g := &w.l.Items[at]
	if g.Span > 0 {
		g.Box = grown(g.Box, rx, ry)
	}
	if g.Span == 0 || !w.seen(g.Box) {
		w.l.Items = w.l.Items[:at]
	}
}

// treater makes pictures of treated items. It keeps those that look as they did
// in the list before.
type treater struct {
	have   map[Address]*treatedPicture
	free   []*raster.Surface
	inner  []*Painter // of what is in treated items, one for each of the first few
	lists  []List
	ready  []Ready
	wide   [3]raster.Wide
	bench  look.Bench
	turn   int
	placed []raster.Placed // by item

	filler raster.Filler
	mask   raster.Coverage
	masks  []Mask
	where  []*raster.Coverage // of the steps of an item
	parts  []look.Part
}

type treatedPicture struct {
	s    *raster.Surface
	x, y int
	turn int
}

// maxInner is how many treated items have a painter of their own, which keeps
// coverage from list to list.
const maxInner = 4

// treat makes the pictures of a list's treated items ready, children first.
func (p *Painter) treat(ctx context.Context, l *List, r *Ready) error {
	t := &p.treats
	t.turn++
	if cap(t.placed) < len(l.Items) {
		t.placed = make([]raster.Placed, len(l.Items))
	}
	t.placed = t.placed[:len(l.Items)]
	clear(t.placed)
	nth := 0
	for i := 0; i < len(l.Items); i++ {
		it := &l.Items[i]
		switch {
		case it.Kind == TreatItem:
			if err := p.treatItem(ctx, l, r, i, min(nth, maxInner-1)); err != nil {
				return err
			}
			nth++
			i += it.Span
		case it.Span > 0 && !p.kept.samples[i] && p.kept.have(it.hash) != nil:
			i += it.Span
		}
	}
	for a, v := range t.have {
		if v.turn < t.turn {
			delete(t.have, a)
			if len(t.free) < maxFree {
				t.free = append(t.free, v.s)
			}
		}
	}
	return nil
}

func (p *Painter) treatItem(ctx context.Context, l *List, r *Ready, i, nth int) error {
	t, it := &p.treats, &l.Items[i]
	if v := t.have[it.hash]; v != nil {
		v.turn = t.turn
		t.placed[i] = raster.Placed{S: v.s, X: v.x, Y: v.y}
		return nil
	}
	rx, ry := reachOf(it.Steps)
	x0, y0, x1, y1 := raster.Within(it.Box, l.Size.W, l.Size.H)
	// Around what is seen, all that its treatment looks at; nothing is farther out
	// than what is in the item.
	x0, y0, x1, y1 = x0-int(rx), y0-int(ry), x1+int(rx), y1+int(ry)
	x0, y0 = max(x0, int(math.Max(math.Floor(it.Box.X), -1e9))), max(y0, int(math.Max(math.Floor(it.Box.Y), -1e9)))
	x1, y1 = min(x1, int(math.Min(math.Ceil(it.Box.X+it.Box.W), 1e9))), min(y1, int(math.Min(math.Ceil(it.Box.Y+it.Box.H), 1e9)))
	if x0 >= x1 || y0 >= y1 {
		t.placed[i] = raster.Placed{S: &raster.Surface{}}
		return nil
	}
	for len(t.inner) <= nth {
		t.inner = append(t.inner, NewPainter(nil))
		t.lists, t.ready = append(t.lists, List{}), append(t.ready, Ready{})
	}
	sub, ready := &t.lists[nth], &t.ready[nth]
	l.inside(sub, i, x0, y0, Size{x1 - x0, y1 - y0})
	r.inside(ready, sub, x0, y0)
	s := &raster.Surface{}
	if n := len(t.free); n > 0 {
		s, t.free = t.free[n-1], t.free[:n-1]
	}
	if err := t.inner[nth].PaintReady(ctx, sub, ready, s); err != nil {
		return err
	}
	b := &t.bench
	b.Picture, b.Wide, b.Spare, b.Run, b.X, b.Y = s, &t.wide[0], [2]*raster.Wide{&t.wide[1], &t.wide[2]}, p.share, x0, y0
	if err := b.Do(t.within(l, it, x0, y0, x1-x0, y1-y0), ctx.Err); err != nil {
		return err
	}
	if t.have == nil {
		t.have = map[Address]*treatedPicture{}
	}
	t.have[it.hash] = &treatedPicture{s, x0, y0, t.turn}
	t.placed[i] = raster.Placed{S: s, X: x0, Y: y0}
	return nil
}

// within are an item's steps with the coverage of their masks on a part of the device.
func (t *treater) within(l *List, it *Item, x0, y0, w, h int) []look.Part {
	t.parts = t.parts[:0]
	shift := geom.Translate(-float64(x0), -float64(y0)).Flat()
	all := geom.Box{W: float64(w), H: float64(h)}
	for k, s := range it.Steps {
		part := look.Part{Step: s.Step}
		if s.Masks[0] < s.Masks[1] {
			t.masks = append(t.masks[:0], l.Masks[s.Masks[0]:s.Masks[1]]...)
			for j := range t.masks {
				t.masks[j].Map = t.masks[j].Map.Then(shift)
			}
			for len(t.where) <= k {
				t.where = append(t.where, &raster.Coverage{})
			}
			part.Where = t.where[k]
			join(&t.filler, &t.mask, part.Where, t.masks, all, Size{w, h})
		}
		t.parts = append(t.parts, part)
	}
	return t.parts
}

// share does lines in parts on all workers.
func (p *Painter) share(lines int, f func(from, to int)) {
	n := (lines + bandRows - 1) / bandRows
	p.run(n, func(i int) task { return task{do: f, y0: i * bandRows, y1: min(lines, (i+1)*bandRows)} })
}

// inside makes a list of what is in an item, on a device of a size whose top left
// corner stands at a pixel of this one.
func (l *List) inside(to *List, i, x0, y0 int, size Size) {
	to.Size = size
	to.take(l, i+1, i+1+l.Items[i].Span)
	shift := geom.Translate(-float64(x0), -float64(y0)).Flat()
	to.Masks = append(to.Masks[:0], l.Masks...)
	for k := range to.Masks {
		to.Masks[k].Map = to.Masks[k].Map.Then(shift)
	}
	for k := range to.Items {
		it := &to.Items[k]
		it.Map = it.Map.Then(shift)
		it.Box.X, it.Box.Y = it.Box.X-float64(x0), it.Box.Y-float64(y0)
	}
}

// inside lays the pictures of what is in an item on that list's device.
func (r *Ready) inside(to *Ready, sub *List, x0, y0 int) {
	if cap(to.draws) < len(sub.Items) {
		to.draws, to.places = make([]raster.Picture, len(sub.Items)), make([]place, len(sub.Items))
	}
	to.draws, to.places = to.draws[:len(sub.Items)], to.places[:len(sub.Items)]
	shift := geom.Translate(-float64(x0), -float64(y0)).Flat()
	for k, from := range sub.origins {
		to.draws[k], to.places[k] = raster.Picture{}, r.places[from]
		if src := r.draws[from].Src; src != nil {
			to.places[k].toDevice = to.places[k].toDevice.Then(shift)
			to.places[k].lay(&to.draws[k], src, sub.Size)
		}
	}
}
