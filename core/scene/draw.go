package scene

import (
	"math"

	"ivypocket/core/geom"
	"ivypocket/core/raster"
	"ivypocket/core/scheme"
	"ivypocket/core/timing"
)

// Lining colours: the neutral card an empty pocket shows.
var (
	liningEdge = [4]uint8{0xb9, 0xb2, 0xa1, 255}
	liningCard = [4]uint8{0xdd, 0xd7, 0xc8, 255}
)

// film takes every layer's way on to the device, through the cameras above it.
func (s *Scene) film(st *state, device geom.Affine) {
	s.filmAmong(st, 0, len(s.layers), device.Flat())
}

// filmAmong does so for the layers from one index up to another that stand in
// one group, whose own way is up; each is then st.world.
func (s *Scene) filmAmong(st *state, from, to int, up geom.Projective) {
	last := from // behind the last camera
	for i := from; i < to; i += 1 + s.layers[i].span {
		if s.layers[i].Kind == scheme.Camera {
			last = i + 1
		}
	}
	for i := from; i < to; i += 1 + s.layers[i].span {
		l := &s.layers[i]
		if l.Kind == scheme.Camera {
			st.world[i] = s.camera(st, i).Flat().Then(up)
			continue
		}
		way := st.local[i]
		for k := i + 1 + l.span; k < last; k += 1 + s.layers[k].span {
			if c := &s.layers[k]; c.Kind == scheme.Camera && c.shown(st) {
				way = way.Then(s.camera(st, k).Flat())
			}
		}
		st.world[i] = way.Then(up)
		if l.span > 0 {
			s.filmAmong(st, i+1, i+1+l.span, st.world[i])
		}
	}
}

// camera moves all below it as if it were one sheet: about the middle, by
// scale, turn and place.
func (s *Scene) camera(st *state, i int) geom.Affine {
	l := &s.layers[i]
	n := st.slots[l.slot:]
	own := s.owner(l, st.slots)
	return geom.Translate(-own.W/2, -own.H/2).Then(geom.Scale(n[sScale], n[sScale+1])).Then(geom.Rotate(n[sTurn])).
		Then(geom.Translate(own.W/2+n[sPlace], own.H/2+n[sPlace+1]))
}

// At writes the draw list of an instant at a size in device pixels into dst,
// reusing its memory. Nothing that is clear or off the canvas is listed.
func (s *Scene) At(dst *List, now timing.Instant, size Size) {
	s.write(dst, now, size, geom.Scale(float64(size.W)/s.canvas.W, float64(size.H)/s.canvas.H), nil)
}

// write is At for a picture that device takes the canvas to; where keep is given, of
// those appearances alone that it names, and of their mattes.
func (s *Scene) write(dst *List, now timing.Instant, size Size, device geom.Affine, keep []bool) {
	st := s.states.Get().(*state)
	defer s.states.Put(st)
	s.stand(st, now, device)
	s.list(dst, st, size, device, keep)
}

// list is write for layers that stand already.
func (s *Scene) list(dst *List, st *state, size Size, device geom.Affine, keep []bool) {
	dst.Reset(size)
	w := &dst.writer
	*w = writer{s: s, l: dst, device: device, keep: keep, frame: geom.Box{W: float64(size.W), H: float64(size.H)}}
	w.among(st, 0, len(s.layers))
	dst.Main = len(dst.Items)
	// Mattes may need further mattes.
	w.keep = nil
	for k := 0; k < len(dst.mattes); k++ {
		at := len(dst.Items)
		w.wanted(st, k)
		if len(dst.Items) == at { // nothing to be seen of it: it cuts all
			dst.Items = append(dst.Items, Item{Kind: GroupItem, Opacity: 1, Isolated: true})
		}
		dst.mattes[k].item = at
	}
	for i := range dst.Items {
		if m := &dst.Items[i].Matte; *m > 0 {
			*m = dst.mattes[*m-1].item
		}
	}
}

// writer writes a scene's draw list.
type writer struct {
	s      *Scene
	l      *List
	device geom.Affine
	frame  geom.Box
	keep   []bool // the appearances that alone are listed, nil is all
}

func (w *writer) instant(st *state, now timing.Instant) {
	w.s.stand(st, now, w.device)
}

// among lists the layers from one index up to another that stand in one group.
func (w *writer) among(st *state, from, to int) {
	for i := from; i < to; i += 1 + w.s.layers[i].span {
		l := &w.s.layers[i]
		if st.slots[l.slot+sHidden] != 0 || l.Kind.Can&scheme.Seen == 0 || w.keep != nil && !w.keep[i] {
			continue
		}
		if l.samples > 0 {
			w.blurred(st, i)
			continue
		}
		w.layer(st, i)
	}
}

// wanted lists a matte: the layer's own picture, drawn or not.
func (w *writer) wanted(st *state, k int) { w.layer(st, w.l.mattes[k].layer) }

// blurred lists a layer as the mean of several instants around this one.
func (w *writer) blurred(st *state, i int) {
	l := &w.s.layers[i]
	at := w.open(Item{Layer: l.ID, Kind: MeanItem, Opacity: 1})
	sub := w.s.states.Get().(*state)
	defer w.s.states.Put(sub)
	n := l.samples
	// In thousandths of a frame, so that the fractions stay small.
	shutter := int64(math.Round(l.shutter / 360 * 1000))
	for k := range n {
		shift := timing.NewRat((2*k+1-n)*shutter, 2*n*1000)
		w.instant(sub, w.s.time.Moment(st.now.Output.Add(shift)))
		g := w.open(Item{Layer: l.ID, Kind: GroupItem, Opacity: 1, Isolated: true})
		w.layer(sub, i)
		w.close(g)
	}
	w.close(at)
	mean := &w.l.Items[at]
	if mean.Box.Size().Empty() {
		w.l.Items = w.l.Items[:at]
		return
	}
	// How the layer joins what is below it is the mean's own; on the clear
	// ground of each group it blends with nothing.
	mean.Blend = blendOf(st.slots[l.slot:])
}

// open begins an item that holds others.
func (w *writer) open(it Item) int {
	w.l.Items = append(w.l.Items, it)
	return len(w.l.Items) - 1
}

// close ends it: its box is that of all inside, within the frame.
func (w *writer) close(at int) {
	it := &w.l.Items[at]
	it.Span = len(w.l.Items) - at - 1
	first := true
	for k := at + 1; k < len(w.l.Items); k += 1 + w.l.Items[k].Span {
		b := w.l.Items[k].Box
		if b.Size().Empty() {
			continue
		}
		if first {
			it.Box, first = b, false
			continue
		}
		x0, y0 := math.Min(it.Box.X, b.X), math.Min(it.Box.Y, b.Y)
		x1, y1 := math.Max(it.Box.X+it.Box.W, b.X+b.W), math.Max(it.Box.Y+it.Box.H, b.Y+b.H)
		it.Box = geom.Box{X: x0, Y: y0, W: x1 - x0, H: y1 - y0}
	}
}

// layer lists one layer with what is in it.
func (w *writer) layer(st *state, i int) {
	l := &w.s.layers[i]
	if !l.shown(st) {
		return
	}
	n := st.slots[l.slot : l.slot+len(l.Sort().Defaults())]
	it := Item{Layer: l.ID, Pocket: l.pocket, Opacity: n[sOpacity], Blend: blendOf(n), Map: st.world[i]}
	it.Form.Size = geom.Size{W: n[sSize], H: n[sSize+1]}
	it.Form.Kind = geom.Rectangle
	box := geom.Box{W: n[sSize], H: n[sSize+1]}
	if l.Can(scheme.Box) {
		if box.Size().Empty() {
			return
		}
		quad, ok := it.Map.Quad(box)
		if !ok {
			return
		}
		it.Box = geom.Bounds(quad[:]...)
	} else {
		it.Box = w.frame
		own := w.s.owner(l, st.slots)
		it.Form.Size = own
		box = geom.Box{W: own.W, H: own.H}
	}
	steps := w.steps(st, i, box.Size())
	near := w.frame
	if len(steps) > 0 {
		rx, ry := reachOf(steps)
		near = grown(near, rx, ry)
	}
	if !l.Can(scheme.Holds|scheme.Lettered) && !l.Given(scheme.StrokeColour) && it.Box.Intersect(near).Size().Empty() {
		return
	}
	var shift geom.Point
	if l.touches != [4]bool{} && len(l.masks) == 0 {
		shift = w.join(&it, i)
	}
	it.Masks[0] = len(w.l.Masks)
	w.masks(st, l.masks, i, box.Size())
	if l.Can(scheme.Holds) && n[scheme.Clips.Slot()] != 0 {
		m := Mask{Form: it.Form, Map: it.Map, Opacity: 1}
		if len(w.l.Masks) > it.Masks[0] {
			m.Mode = raster.IntersectMask
		}
		w.l.Masks = append(w.l.Masks, m)
	}
	it.Masks[1] = len(w.l.Masks)
	if l.matte >= 0 {
		it.Matte = w.matte(l.matte)
		it.Luma, it.InvertMatte = n[scheme.MatteOf.Slot()] != 0, n[scheme.MatteInvert.Slot()] != 0
	}
	draw := func(it Item) {
		if f := drawers[l.Kind]; f != nil {
			d := w.l.drawing()
			*d = Drawing{Item: it, w: w, l: l, i: i, st: st, n: n, shift: shift}
			f(d)
			w.l.deep--
		}
	}
	if len(steps) > 0 {
		w.treated(it, steps, draw)
	} else {
		draw(it)
	}
}

// join lets a layer that rests in its cell end at whole pixels where the next cell
// begins, so that no seam shows between two that share a pixel. What it shows
// stays where it is: in the layer's own pixels it is shifted as far as this says.
func (w *writer) join(it *Item, i int) (shift geom.Point) {
	l := &w.s.layers[i]
	m := it.Map
	rest := l.rest.Then(w.device.Flat())
	if !m.IsFlat() || !m.Upright() || m.A <= 0 || m.D <= 0 || math.Abs(m.A-rest.A)+math.Abs(m.D-rest.D)+math.Abs(m.E-rest.E)+math.Abs(m.F-rest.F) > 1e-6 {
		return shift
	}
	b := deviceBox(it.Form.Size, m)
	edges := [4]float64{b.X, b.Y, b.X + b.W, b.Y + b.H}
	for k, touches := range l.touches {
		if touches {
			// Two neighbours find their edge by other ways, and must round it alike.
			edges[k] = math.Floor(edges[k] + 0.5 + 1e-7)
		}
	}
	shift = geom.Point{X: (b.X - edges[0]) / m.A, Y: (b.Y - edges[1]) / m.D}
	it.Map = geom.Affine{A: m.A, D: m.D, E: edges[0], F: edges[1]}.Flat()
	it.Form.Size = geom.Size{W: (edges[2] - edges[0]) / m.A, H: (edges[3] - edges[1]) / m.D}
	it.Box = geom.Box{X: edges[0], Y: edges[1], W: edges[2] - edges[0], H: edges[3] - edges[1]}
	return shift
}

func (w *writer) seen(b geom.Box) bool { return !b.Intersect(w.frame).Size().Empty() }

// matte says which of the list's mattes, counted from 1, a layer is.
func (w *writer) matte(layer int) int {
	for k, m := range w.l.mattes {
		if m.layer == layer {
			return k + 1
		}
	}
	w.l.mattes = append(w.l.mattes, matteAt{layer: layer})
	return len(w.l.mattes)
}

// formOf is an outline with the numbers of an instant: those of a thing's form
// and the radii of its corners.
func (w *writer) formOf(t *thing, rows *scheme.Form, f *geom.Form, to *geom.Form, slots []float64) {
	n := slots[t.slot:]
	to.Kind, to.Sides = f.Kind, int(math.Round(n[rows.Sides.Slot()]))
	to.Inner, to.Head, to.Shaft, to.Round = n[rows.Inner.Slot()], n[rows.Head.Slot()], n[rows.Shaft.Slot()], n[rows.Round.Slot()]
	copy(to.Radii[:], n[rows.Radius.Slot():rows.Radius.Slot()+4])
	v := t.numbers(rows.Path, slots)
	if v == nil {
		return
	}
	from := len(w.l.Nodes)
	for ; len(v) > 0; v = v[geom.NodeWidth:] {
		w.l.Nodes = append(w.l.Nodes, geom.Node{X: v[0], Y: v[1], InX: v[2], InY: v[3], OutX: v[4], OutY: v[5]})
	}
	to.Path = geom.Path{Nodes: w.l.Nodes[from:len(w.l.Nodes):len(w.l.Nodes)], Closed: n[rows.Open.Slot()] == 0}
}

// shape lists what fills a shape and what goes along it.
func (d *Drawing) shape() {
	w, l, it := d.w, d.l, d.Item
	w.formOf(&l.thing, &scheme.LayerForm, &l.form, &it.Form, d.st.slots)
	if l.form.Kind == geom.Drawn { // handles may reach beyond the box
		b := geom.Box{}
		for k, p := range it.Form.Path.Nodes {
			pts := []geom.Point{{X: p.X, Y: p.Y}, {X: p.X + p.InX, Y: p.Y + p.InY}, {X: p.X + p.OutX, Y: p.Y + p.OutY}}
			for j := range pts {
				pts[j].X *= it.Form.Size.W
				pts[j].Y *= it.Form.Size.H
			}
			c := geom.Bounds(pts...)
			if k > 0 {
				c = geom.Bounds(append(pts, geom.Point{X: b.X, Y: b.Y}, geom.Point{X: b.X + b.W, Y: b.Y + b.H})...)
			}
			b = c
		}
		quad, ok := it.Map.Quad(b)
		if !ok {
			return
		}
		it.Box = geom.Bounds(quad[:]...)
	}
	d.inked(it)
}

// inked lists a form's fill and its stroke, as one where they are not opaque.
func (d *Drawing) inked(it Item) {
	w, l := d.w, d.l
	filled := l.graded || l.Given(scheme.Fill) && d.Numbers(scheme.Fill)[3] > 0
	part := [2]float64{d.Number(scheme.StrokeFrom), d.Number(scheme.StrokeTo)}
	stroked := l.Given(scheme.StrokeColour) && d.Number(scheme.StrokeWidth) > 0 && d.Numbers(scheme.StrokeColour)[3] > 0 && part[1] > part[0]
	if !filled && !stroked {
		return
	}
	whole := it
	if filled && stroked && (it.Opacity < 1 || it.Blend != raster.Normal || it.Masks[0] < it.Masks[1] || it.Matte > 0) {
		at := w.open(Item{Layer: l.ID, Kind: GroupItem, Opacity: it.Opacity, Blend: it.Blend, Isolated: true, Masks: it.Masks, Matte: it.Matte, Luma: it.Luma, InvertMatte: it.InvertMatte})
		defer func() {
			w.close(at)
			if !w.seen(w.l.Items[at].Box) {
				w.l.Items = w.l.Items[:at]
			}
		}()
		it.Opacity, it.Blend, it.Masks, it.Matte = 1, raster.Normal, [2]int{}, 0
		whole = it
	}
	if filled && w.seen(it.Box) {
		it.Kind = FillItem
		d.paint(&it)
		d.Put(it)
	}
	if stroked {
		it = whole
		it.Kind = StrokeItem
		if it.Form.Kind == geom.Lettered {
			it.Form.Letters = it.Form.Letters.Edge()
		}
		it.Colour = d.Colour(scheme.StrokeColour)
		it.Pen = geom.Pen{Width: d.Number(scheme.StrokeWidth), Cap: geom.Cap(d.Word(scheme.StrokeCap)), Join: geom.Join(d.Word(scheme.StrokeJoin)), MiterLimit: d.Number(scheme.StrokeMiter)}
		switch d.Word(scheme.StrokeAlign) {
		case "inside":
			it.Align = -1
		case "outside":
			it.Align = 1
		}
		it.Dash, it.Shift, it.Part = w.l.keep(d.Numbers(scheme.StrokeDash)), d.Number(scheme.StrokeShift), part
		// A mitre reaches further out than half the width.
		reach := it.Pen.Width
		if it.Pen.Join == geom.Miter {
			reach *= math.Max(4, it.Pen.MiterLimit) / 2
		}
		sx, sy := it.Map.Stretch(geom.Box{W: it.Form.Size.W, H: it.Form.Size.H})
		reach *= math.Max(sx, sy)
		it.Box = geom.Box{X: it.Box.X - reach, Y: it.Box.Y - reach, W: it.Box.W + 2*reach, H: it.Box.H + 2*reach}
		if w.seen(it.Box) {
			w.l.Items = append(w.l.Items, it)
		}
	}
}

// picture lists a view or a picture, or the lining of an empty pocket.
func (d *Drawing) picture() {
	w, l, it, st, n := d.w, d.l, d.Item, d.st, d.n
	copy(it.Form.Radii[:], n[sRadius:sRadius+4])
	if l.media == "" {
		it.Kind, it.Colour = FillItem, liningEdge
		at := w.open(Item{Layer: l.ID, Pocket: l.pocket, Kind: GroupItem, Opacity: it.Opacity, Blend: it.Blend, Isolated: true, Masks: it.Masks, Matte: it.Matte, Luma: it.Luma, InvertMatte: it.InvertMatte})
		it.Opacity, it.Blend, it.Masks, it.Matte = 1, raster.Normal, [2]int{}, 0
		w.l.Items = append(w.l.Items, it)
		s := it.Form.Size
		in := 0.03 * min(s.W, s.H)
		it.Map = geom.Translate(in, in).Flat().Then(it.Map)
		it.Form.Size = geom.Size{W: s.W - 2*in, H: s.H - 2*in}
		for k := range it.Form.Radii {
			it.Form.Radii[k] = math.Max(0, it.Form.Radii[k]-in)
		}
		if quad, ok := it.Map.Quad(geom.Box{W: it.Form.Size.W, H: it.Form.Size.H}); ok {
			it.Box = geom.Bounds(quad[:]...)
		}
		it.Colour = liningCard
		w.l.Items = append(w.l.Items, it)
		w.close(at)
		return
	}
	it.Kind = PictureItem
	it.Media, it.MediaSize, it.Reading = l.media, l.info.Size, l.info.Reading
	if l.info.Clip != nil {
		it.Frame = int64(w.s.time.Source(st.now, timing.TemplateTime{Rat: l.begins}, l.info.Clip, l.play))
	}
	it.Still = l.info.Clip == nil
	var covers bool
	it.Content, covers = l.content(st)
	if d.shift != (geom.Point{}) {
		it.Content = it.Content.Then(geom.Translate(d.shift.X, d.shift.Y))
	}
	it.Edges = !covers
	if l.rest.IsFlat() && l.rest.Upright() {
		rest := l.rest.Affine.Then(w.device)
		a, b := rest.Apply(geom.Point{}), rest.Apply(geom.Point{X: l.restSize.W, Y: l.restSize.H})
		if b.X > a.X && b.Y > a.Y {
			it.RestBox = geom.Box{X: a.X, Y: a.Y, W: b.X - a.X, H: b.Y - a.Y}
			at := l.place.Map
			if l.Kind == scheme.Picture {
				at = geom.Scale(l.restSize.W/l.info.Size.W, l.restSize.H/l.info.Size.H)
			}
			it.Rest = at.Then(rest)
		}
	}
	w.l.Items = append(w.l.Items, it)
}

// masks lists masks that lie on a layer: its own, or those of a treatment.
func (w *writer) masks(st *state, masks []mask, i int, own geom.Size) {
	if len(masks) == 0 {
		return
	}
	w.masksOn(st, masks, st.world[i], own)
}

// masksOn lists masks on a box that a map takes to the device.
func (w *writer) masksOn(st *state, masks []mask, up geom.Projective, own geom.Size) {
	sx, sy := up.Stretch(geom.Box{W: own.W, H: own.H})
	k := math.Sqrt(sx * sy) // how much lengths grow, on the whole
	for j := range masks {
		m := &masks[j]
		n := st.slots[m.slot : m.slot+len(m.Sort().Defaults())]
		if n[scheme.MaskOff.Slot()] != 0 {
			continue
		}
		out := Mask{Mode: maskModes[int(n[scheme.MaskMode.Slot()])], Invert: n[scheme.MaskInvert.Slot()] != 0, Growth: n[scheme.Growth.Slot()] * k,
			Opacity: n[scheme.MaskAlpha.Slot()], Falloff: m.falloff}
		switch soft := math.Max(0, n[scheme.Feather.Slot()]) * k; scheme.Soft.Words[int(n[scheme.Soft.Slot()])] {
		case "inwards":
			out.In = soft
		case "outwards":
			out.Out = soft
		default:
			out.In, out.Out = soft/2, soft/2
		}
		switch {
		case m.of != "":
			v := &w.s.layers[m.view]
			vn := st.slots[v.slot:]
			out.Form = geom.Form{Kind: geom.Rectangle, Size: geom.Size{W: vn[sSize], H: vn[sSize+1]}}
			out.Map = st.world[m.view]
			if v.words >= 0 {
				set := st.set[v.words]
				if set == nil {
					continue
				}
				out.Form = geom.Form{Kind: geom.Rectangle, Size: set.Box.Size()}
				if m.of == "outline" {
					out.Form = geom.Form{Kind: geom.Lettered, Size: geom.Size{W: math.Max(1, vn[sSize]), H: math.Max(1, vn[sSize+1])}, Letters: set.Whole()}
				} else {
					out.Map = geom.Translate(set.Box.X, set.Box.Y).Flat().Then(out.Map)
				}
			}
			if m.lines != nil {
				c, _ := v.content(st)
				out.Form = geom.Form{Kind: geom.Traced, Size: v.info.Size, Lines: m.lines}
				out.Map = c.Flat().Then(out.Map)
			}
		default:
			var at geom.Affine
			out.Form.Size, at = m.lie(n, own)
			w.formOf(&m.thing, &scheme.MaskForm, &m.form, &out.Form, st.slots)
			out.Map = at.Flat().Then(up)
		}
		if !out.soft().Hard() && out.Form.Kind == geom.Lettered { // distances are from the edge of all
			out.Form.Letters = out.Form.Letters.Edge()
		}
		w.l.Masks = append(w.l.Masks, out)
	}
}

// lie is how large a drawn mask is, by its numbers, and where it lies on a layer's box.
func (m *mask) lie(n []float64, own geom.Size) (size geom.Size, at geom.Affine) {
	size = geom.Size{W: n[mSize], H: n[mSize+1]}
	if size.W < 0 { // its layer's box, times what moves it
		size = geom.Size{W: -size.W * own.W, H: -size.H * own.H}
	}
	at = geom.Translate(-size.W/2, -size.H/2)
	if n[mTurn] != 0 {
		at = at.Then(geom.Rotate(n[mTurn]))
	}
	return size, at.Then(geom.Translate(own.W/2+n[mPlace], own.H/2+n[mPlace+1]))
}

// maskModes are the ways in which masks join, by the numbers of their words.
var maskModes = func() (out []raster.MaskMode) {
	for _, w := range scheme.MaskMode.Words {
		out = append(out, raster.ParseMaskMode(w))
	}
	return
}()
