package scene

import (
	"math"

	"ivypocket/core/geom"
	"ivypocket/core/raster"
	"ivypocket/core/template"
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
	for i := from; i < to; i += 1 + s.layers[i].span {
		l := &s.layers[i]
		if l.Kind == template.Camera {
			continue
		}
		way := st.local[i]
		for k := i + 1 + l.span; k < to; k += 1 + s.layers[k].span {
			if c := &s.layers[k]; c.Kind == template.Camera && c.shown(st) {
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
	dst.Reset(size)
	st := s.states.Get().(*state)
	defer s.states.Put(st)
	w := writer{s: s, l: dst, device: geom.Scale(float64(size.W)/s.canvas.W, float64(size.H)/s.canvas.H),
		frame: geom.Box{W: float64(size.W), H: float64(size.H)}}
	w.instant(st, now)
	w.among(st, 0, len(s.layers))
	dst.Main = len(dst.Items)
	// Mattes may need further mattes.
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
}

func (w *writer) instant(st *state, now timing.Instant) {
	w.s.stand(st, now, w.device)
}

// among lists the layers from one index up to another that stand in one group.
func (w *writer) among(st *state, from, to int) {
	for i := from; i < to; i += 1 + w.s.layers[i].span {
		l := &w.s.layers[i]
		if l.Hidden || l.Kind == template.Camera {
			continue
		}
		if l.Blur != nil {
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
	n := int64(l.Blur.Samples)
	// In thousandths of a frame, so that the fractions stay small.
	shutter := int64(math.Round(l.Blur.Shutter / 360 * 1000))
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
	mean.Blend = l.blend
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
	n := st.slots[l.slot : l.slot+layerSlots]
	it := Item{Layer: l.ID, Pocket: l.Pocket, Opacity: n[sOpacity], Blend: l.blend, Map: st.world[i]}
	it.Form.Size = geom.Size{W: n[sSize], H: n[sSize+1]}
	box := geom.Box{W: n[sSize], H: n[sSize+1]}
	switch l.Kind {
	case template.Ground, template.Grade:
		it.Box = w.frame
		own := w.s.owner(l, st.slots)
		it.Form.Size = own
		box = geom.Box{W: own.W, H: own.H}
	default:
		if box.Size().Empty() {
			return
		}
		quad, ok := it.Map.Quad(box)
		if !ok {
			return
		}
		it.Box = geom.Bounds(quad[:]...)
	}
	if l.Kind != template.Grouped && l.Rest.Stroke == nil && !w.seen(it.Box) {
		return
	}
	it.Masks[0] = len(w.l.Masks)
	w.masks(st, l, i, box.Size())
	it.Masks[1] = len(w.l.Masks)
	if l.matte >= 0 {
		it.Matte = w.matte(l.matte)
		it.Luma, it.InvertMatte = l.Matte.Of == "luma", l.Matte.Invert
	}
	switch l.Kind {
	case template.Grouped:
		it.Kind, it.Isolated = GroupItem, l.Isolated
		at := w.open(it)
		w.among(st, i+1, i+1+l.span)
		w.close(at)
		g := &w.l.Items[at]
		if g.Span == 0 || !w.seen(g.Box) {
			w.l.Items = w.l.Items[:at]
		}
	case template.Ground:
		it.Kind = GroundItem
		w.paint(&it, l, n)
		w.l.Items = append(w.l.Items, it)
	case template.Grade:
		it.Kind = GradeItem
		copy(it.Grade.Slope[:], n[sGrade:])
		copy(it.Grade.Offset[:], n[sGrade+3:])
		copy(it.Grade.Power[:], n[sGrade+6:])
		it.Grade.Saturation = n[sGrade+9]
		w.l.Items = append(w.l.Items, it)
	case template.Shape:
		w.shape(it, l, st, n)
	default:
		w.picture(it, i, st, n)
	}
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

func colourOf(n []float64) [4]uint8 {
	return [4]uint8{uint8(n[0] + 0.5), uint8(n[1] + 0.5), uint8(n[2] + 0.5), uint8(n[3] + 0.5)}
}

// paint sets what an item is filled with.
func (w *writer) paint(it *Item, l *layer, n []float64) {
	if l.table != nil {
		it.Gradient = l.table
		s := it.Form.Size
		it.From = geom.Point{X: n[sGradient] * s.W, Y: n[sGradient+1] * s.H}
		it.To = geom.Point{X: n[sGradient+2] * s.W, Y: n[sGradient+3] * s.H}
		return
	}
	it.Colour = colourOf(n[sFill:])
}

// formOf is an outline with the numbers of an instant.
func (w *writer) formOf(f *geom.Form, to *geom.Form, path pathSlot, slots, n []float64, radius []float64) {
	to.Kind, to.Sides = f.Kind, f.Sides
	to.Inner, to.Head, to.Shaft, to.Round = n[0], n[1], n[2], n[3]
	copy(to.Radii[:], radius)
	if path.n == 0 {
		return
	}
	from := len(w.l.Nodes)
	for k := path.slot; k < path.slot+path.n; k += geom.NodeWidth {
		v := slots[k : k+geom.NodeWidth]
		w.l.Nodes = append(w.l.Nodes, geom.Node{X: v[0], Y: v[1], InX: v[2], InY: v[3], OutX: v[4], OutY: v[5]})
	}
	to.Path = geom.Path{Nodes: w.l.Nodes[from:len(w.l.Nodes):len(w.l.Nodes)], Closed: path.closed}
}

// shape lists a form's fill and its stroke, as one where they are not opaque.
func (w *writer) shape(it Item, l *layer, st *state, n []float64) {
	w.formOf(&l.form, &it.Form, l.path, st.slots, n[sForm:], n[sRadius:sRadius+4])
	filled := l.table != nil || l.Rest.Fill != "" && n[sFill+3] > 0
	stroke := l.Rest.Stroke
	stroked := stroke != nil && n[strokeWidth] > 0 && n[sStroke+3] > 0 && n[sStroke+7] > n[sStroke+6]
	if !filled && !stroked {
		return
	}
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
		w.paint(&it, l, n)
		w.l.Items = append(w.l.Items, it)
	}
	if stroked {
		it = whole
		it.Kind = StrokeItem
		it.Colour = colourOf(n[sStroke:])
		it.Pen = geom.Pen{Width: n[strokeWidth], Cap: stroke.Cap, Join: stroke.Join, MiterLimit: stroke.Miter}
		switch stroke.Align {
		case "inside":
			it.Align = -1
		case "outside":
			it.Align = 1
		}
		it.Dash, it.Shift, it.Part = stroke.Dash, n[sStroke+5], [2]float64{n[sStroke+6], n[sStroke+7]}
		// A mitre reaches further out than half the width.
		reach := it.Pen.Width
		if it.Pen.Join == "" || it.Pen.Join == geom.Miter {
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
func (w *writer) picture(it Item, i int, st *state, n []float64) {
	l := &w.s.layers[i]
	it.Form.Kind = geom.Rectangle
	copy(it.Form.Radii[:], n[sRadius:sRadius+4])
	if l.media == "" {
		it.Kind, it.Colour = FillItem, liningEdge
		at := w.open(Item{Layer: l.ID, Pocket: l.Pocket, Kind: GroupItem, Opacity: it.Opacity, Blend: it.Blend, Isolated: true, Masks: it.Masks, Matte: it.Matte, Luma: it.Luma, InvertMatte: it.InvertMatte})
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
	it.Media, it.MediaSize = l.media, l.info.Size
	if l.info.Clip != nil {
		it.Frame = int64(w.s.time.Source(st.now, timing.TemplateTime{Rat: l.in}, l.info.Clip, l.play))
	}
	it.Still = l.info.Clip == nil
	var covers bool
	it.Content, covers = l.content(st)
	it.Edges = !covers
	if l.rest.IsFlat() && l.rest.Upright() {
		rest := l.rest.Affine.Then(w.device)
		a, b := rest.Apply(geom.Point{}), rest.Apply(geom.Point{X: l.restSize.W, Y: l.restSize.H})
		if b.X > a.X && b.Y > a.Y {
			it.RestBox = geom.Box{X: a.X, Y: a.Y, W: b.X - a.X, H: b.Y - a.Y}
			at := l.place.Map
			if l.Kind == template.Still {
				at = geom.Scale(l.restSize.W/l.info.Size.W, l.restSize.H/l.info.Size.H)
			}
			it.Rest = at.Then(rest)
		}
	}
	w.l.Items = append(w.l.Items, it)
}

// masks lists a layer's masks.
func (w *writer) masks(st *state, l *layer, i int, own geom.Size) {
	if len(l.masks) == 0 {
		return
	}
	up := st.world[i]
	sx, sy := up.Stretch(geom.Box{W: own.W, H: own.H})
	k := math.Sqrt(sx * sy) // how much lengths grow, on the whole
	for j := range l.masks {
		m := &l.masks[j]
		n := st.slots[m.slot : m.slot+maskSlots]
		out := Mask{Mode: m.mode, Invert: m.Invert, Growth: n[mGrowth] * k, Opacity: n[mOpacity]}
		if m.Falloff != nil {
			out.Falloff = *m.Falloff
		}
		switch soft := math.Max(0, n[mFeather]) * k; m.Soft {
		case "inwards":
			out.In = soft
		case "outwards":
			out.Out = soft
		default:
			out.In, out.Out = soft/2, soft/2
		}
		switch {
		case m.Of != "":
			v := &w.s.layers[m.view]
			vn := st.slots[v.slot:]
			out.Form = geom.Form{Kind: geom.Rectangle, Size: geom.Size{W: vn[sSize], H: vn[sSize+1]}}
			out.Map = st.world[m.view]
			if m.lines != nil {
				c, _ := v.content(st)
				out.Form = geom.Form{Kind: geom.Traced, Size: v.info.Size, Lines: m.lines}
				out.Map = c.Flat().Then(out.Map)
			}
		default:
			if n[mSize] < 0 { // its layer's box, times what moves it
				n[mSize], n[mSize+1] = -n[mSize]*own.W, -n[mSize+1]*own.H
			}
			out.Form.Size = geom.Size{W: n[mSize], H: n[mSize+1]}
			w.formOf(&m.form, &out.Form, m.path, st.slots, n[mForm:], n[mRadius:mRadius+4])
			place := geom.Translate(-n[mSize]/2, -n[mSize+1]/2)
			if n[mTurn] != 0 {
				place = place.Then(geom.Rotate(n[mTurn]))
			}
			out.Map = place.Then(geom.Translate(own.W/2+n[mPlace], own.H/2+n[mPlace+1])).Flat().Then(up)
		}
		w.l.Masks = append(w.l.Masks, out)
	}
}
