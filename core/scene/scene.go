// Package scene is the room where a resolved document, a format and an instant
// become a draw list, and a draw list becomes a picture. It asks for media
// through a Source and touches neither files nor processes.
package scene

import (
	"fmt"
	"math"
	"slices"
	"sync"

	"ivypocket/core/geom"
	"ivypocket/core/raster"
	"ivypocket/core/scheme"
	"ivypocket/core/template"
	"ivypocket/core/timing"
	"ivypocket/core/words"
)

// Info is what a scene must know of media to lay it out.
type Info struct {
	// Size is the upright size in pixels; for vector drawings their own size.
	Size geom.Size
	// Clip is set for footage.
	Clip *timing.Clip
	// Reading is the version of how its pixels are read, where they were once
	// read otherwise; it is part of the address of what shows them.
	Reading int
}

// Library tells what media there is, by hash.
type Library interface {
	Info(media string) (Info, bool)
	// Trace tells what is visible of a picture, or of a clip's first frame.
	Trace(media string) (*raster.Trace, error)
	Faces
}

// MissingError says that a pocket's or a layer's media is not in the library.
type MissingError struct{ Pocket, Layer, Media string }

func (e *MissingError) Error() string {
	where := "pocket " + e.Pocket
	if e.Pocket == "" {
		where = "layer " + e.Layer
	}
	return fmt.Sprintf("%s: its media %s is not in the store; put it in again or choose other media", where, e.Media)
}

// Scene is a document made ready for one format. It is safe for use by many
// goroutines.
type Scene struct {
	doc    *template.Document
	canvas geom.Size
	time   timing.Map
	// rest holds every number at rest: a block for each layer and mask, drawn
	// outlines, and what formulas read.
	rest []float64
	// still are those when nothing moves and formulas are heeded.
	still   []float64
	layers  []layer // in the order of painting, groups before what is in them
	tracks  []driven
	steps   []step
	clocks  []clock
	layouts []layout // those that change
	// cellNames are where formulas read the size of a cell that changes.
	cellNames []cellName
	sequence  []int // the order in which layers are placed
	wordings  []*wording
	setter    *words.Setter
	states    sync.Pool
}

// step is one thing that formulas compute, for one appearance of a layer, or the
// cells of a layout.
type step struct {
	template.Step
	layer, slot int
	layout      *layout
	flow        *flow
	sets        []int // the appearances whose words are set
}

// cellName is where a formula reads the width or the height of a layer's cell.
type cellName struct {
	layer  int
	height bool
	slot   int
}

// clock is where a formula reads the time.
type clock struct {
	name string
	slot int
	late timing.Rat
}

// state is one instant of a scene.
type state struct {
	now   timing.Instant
	slots []float64
	// local takes a layer's pixels to its group's, world to the canvas'.
	local, world []geom.Projective
	flowed       flowed
	set          []*words.Setting // of the scene's wordings
}

// Canvas is the size of the format.
func (s *Scene) Canvas() geom.Size { return s.canvas }

// Frames is the number of output frames.
func (s *Scene) Frames() int64 { return s.time.Frames }

// Time is the way from output frames to the clocks of template and clips.
func (s *Scene) Time() timing.Map { return s.time }

// Poster is the frame that stands for the piece.
func (s *Scene) Poster() timing.OutputFrame { return s.time.Frame(s.doc.Poster()) }

// unit is how many pixels 1 is for a component of a track that adds lengths.
func (s *Scene) unit(t *driven, slots []float64, component int) float64 {
	w, h := s.canvas.W, s.canvas.H
	if t.unit == 2 {
		l := s.layers[t.layer].slot
		w, h = slots[l+sSize], slots[l+sSize+1]
	}
	switch {
	case t.axis < 0: // a length without a direction
		return math.Min(w, h)
	case (int(t.axis)+component)%2 == 0:
		return w
	}
	return h
}

// stand computes every number of an instant and where every layer stands on a device.
func (s *Scene) stand(st *state, now timing.Instant, device geom.Affine) {
	s.evaluate(st, now)
	s.locate(st, false)
	s.film(st, device)
}

// evaluate computes every number of an instant.
func (s *Scene) evaluate(st *state, now timing.Instant) {
	st.now = now
	copy(st.slots, s.rest)
	for i := range s.tracks {
		if !s.tracks[i].idle {
			s.move(st, &s.tracks[i])
		}
	}
	if len(s.steps) > 0 {
		s.compute(st)
	}
}

// compute computes what formulas yield, and what follows from it.
func (s *Scene) compute(st *state) {
	for _, c := range s.clocks {
		now := st.now.Template.Rat
		if c.late.N != 0 {
			now = now.Sub(c.late)
		}
		switch c.name {
		case "frames":
			st.slots[c.slot] = now.Float()
		case "seconds":
			st.slots[c.slot] = now.Float() / s.time.Base().Float()
		case "share":
			st.slots[c.slot] = now.Float() / float64(max(1, s.doc.Frames-1))
		}
	}
	for i := range s.steps {
		s.steps[i].run(s, st)
	}
}

// move lets a track's numbers depart from where they are.
func (s *Scene) move(st *state, t *driven) {
	at := st.now.Template
	if t.layer >= 0 {
		if late := s.layers[t.layer].delay; late.N != 0 {
			at = timing.TemplateTime{Rat: at.Sub(late)}
		}
	}
	n := t.track.Width()
	to := st.slots[t.slot : t.slot+n]
	if t.join == scheme.Instead {
		t.track.Value(at, to)
		return
	}
	var small [16]float64
	v := small[:n] // only lists and paths are wider, and they are Instead
	t.track.Value(at, v)
	for k := range v {
		switch {
		case t.join == scheme.Times:
			to[k] *= v[k]
		case t.unit > 0:
			to[k] += v[k] * s.unit(t, s.rest, k)
		default:
			to[k] += v[k]
		}
	}
}

// cells computes what a layout that changes says of an instant: where the layers
// in its cells stand, which their own motion departs from.
func (s *Scene) cells(st *state, l *layout) {
	split := geom.Split{Canvas: s.canvas, By: geom.GutterBy(l.Text(scheme.GutterBy))}
	split.Rows, split.Columns = l.numbers(scheme.Rows, st.slots), l.numbers(scheme.Columns, st.slots)
	split.Gutter, split.Margin, split.Radius = st.slots[l.slot+scheme.Gutter.Slot()], st.slots[l.slot+scheme.Margin.Slot()], st.slots[l.slot+scheme.CellRadius.Slot()]
	cells, err := split.Cells()
	if err != nil {
		return // no room for them: all stays as it was at rest
	}
	for k, i := range l.layers {
		y := &s.layers[i]
		row, column, down, across := y.Cell()
		cell, ok := split.Spanning(cells, row, column, down, across)
		if !ok {
			continue // all stays as it was at rest
		}
		n := st.slots[y.slot:]
		n[sPlace], n[sPlace+1], n[sSize], n[sSize+1] = cell.Centre.X, cell.Centre.Y, cell.Size.W, cell.Size.H
		if !y.Given(scheme.Radius) {
			for c := range 4 {
				n[sRadius+c] = cell.Radius
			}
		} else {
			copy(n[sRadius:sRadius+4], s.rest[y.slot+sRadius:])
		}
		for _, t := range l.tracks[k] {
			s.move(st, &s.tracks[t])
		}
		for _, c := range s.cellNames {
			if c.layer == i && c.height {
				st.slots[c.slot] = cell.Size.H
			} else if c.layer == i {
				st.slots[c.slot] = cell.Size.W
			}
		}
	}
}

// numbers are those of a list or a path at an instant.
func (t *thing) numbers(p *scheme.Property, slots []float64) []float64 {
	at, n := t.at(p)
	if at < 0 {
		return nil
	}
	return slots[at : at+n]
}

// run computes a step. What a formula can't say, such as a division by nothing,
// leaves what was there; what lies outside the property's limits stops at them.
func (x *step) run(s *Scene, st *state) {
	slots := st.slots
	switch {
	case x.layout != nil:
		s.cells(st, x.layout)
		return
	case x.flow != nil:
		s.flow(slots, x.flow, &st.flowed, st.set)
		return
	case x.sets != nil:
		s.setAll(slots, x.sets, st.set)
		return
	case x.Target.Head == "behind":
		s.behind(x.layer, st)
		return
	case x.Target.Head == "words":
		slots[x.slot] = s.worded(x.layer, st, x.Target.Property)
		return
	case x.Target.Head == "fills":
		l := &s.layers[x.layer]
		own := s.owner(l, slots)
		slots[l.slot+sSize], slots[l.slot+sSize+1] = own.W, own.H
		for _, t := range l.fills {
			s.move(st, &s.tracks[t])
		}
		return
	case x.Program == nil:
		slots[x.slot] = s.box(x.layer, slots, x.Target.Property)
		return
	case x.Property.Type == scheme.Colour:
		for k, v := range x.Program.Colour(slots) {
			if !math.IsNaN(v) {
				slots[x.slot+k] = math.Max(0, math.Min(255, v))
			}
		}
		return
	}
	v := x.Program.Number(slots)
	if math.IsNaN(v) {
		return
	}
	switch x.Property.Type {
	case scheme.Numbers, scheme.List:
		v = math.Max(x.Property.Lo, math.Min(x.Property.Hi, v))
	}
	slots[x.slot] = v
	if x.All {
		for k := 1; k < x.Property.Width(); k++ {
			slots[x.slot+k] = v
		}
	}
}

// owner is the size of the canvas or of the group a layer is in.
func (s *Scene) owner(l *layer, slots []float64) geom.Size {
	if l.parent < 0 {
		return s.canvas
	}
	p := s.layers[l.parent].slot
	return geom.Size{W: slots[p+sSize], H: slots[p+sSize+1]}
}

// box is a number of a layer's upright box as formulas read it: its size as
// scaled, and its sides from the middle of the canvas or group.
func (s *Scene) box(i int, slots []float64, what string) float64 {
	n := slots[s.layers[i].slot:]
	return side(s.upright(i, slots, geom.Box{W: n[sSize], H: n[sSize+1]}), what)
}

// locate finds where every layer stands: its pixels' way to the canvas, without
// cameras. At rest nobody follows.
func (s *Scene) locate(st *state, rest bool) {
	for _, i := range s.sequence {
		l := &s.layers[i]
		up := geom.Identity.Flat()
		if l.parent >= 0 {
			up = st.world[l.parent]
		}
		p := geom.Projective{}
		m, form := s.stance(st, i, rest)
		if p = m.Flat(); form != nil {
			n := st.slots[l.slot:]
			if q, ok := geom.Quad(geom.Box{W: n[sSize], H: n[sSize+1]}, [4]geom.Point(form)); ok {
				p = q.Then(p)
			} else {
				p = geom.Projective{} // seen by no eye; not drawn
			}
		}
		st.local[i] = p
		st.world[i] = p.Then(up)
	}
}

// stance is a layer's way from its pixels to those of its canvas or group, and its
// four corners before it, where they are moved.
func (s *Scene) stance(st *state, i int, rest bool) (m geom.Affine, form []geom.Point) {
	l := &s.layers[i]
	n := st.slots[l.slot:]
	own := s.owner(l, st.slots)
	var dx, dy float64
	if l.follow >= 0 && !rest {
		p, q := s.origin(st, l.follow), s.layers[l.follow].upon
		dx, dy = p.X-q[0], p.Y-q[1]
		// A displacement on the canvas, as the group sees it.
		if l.parent >= 0 {
			if inv, ok := st.world[l.parent].Affine.Invert(); ok {
				dx, dy = inv.A*dx+inv.C*dy, inv.B*dx+inv.D*dy
			}
		}
	}
	zoom := l.spread.scale * l.covers
	p := Pose{Owner: own, Size: geom.Size{W: n[sSize], H: n[sSize+1]}, Anchor: l.anchor, Place: [2]float64{n[sPlace] + l.spread.x + dx, n[sPlace+1] + l.spread.y + dy},
		Scale: [2]float64{n[sScale] * zoom, n[sScale+1] * zoom}, Skew: [2]float64(n[sSkew : sSkew+2]), Origin: [2]float64(n[sOrigin : sOrigin+2]),
		Turn: n[sTurn] + l.spread.turn, Corners: [8]float64(n[sCorners : sCorners+8])}
	return p.lie(l.Can(scheme.Moves))
}

// origin is where a layer's origin stands on the canvas.
func (s *Scene) origin(st *state, i int) geom.Point {
	n := st.slots[s.layers[i].slot:]
	return st.world[i].Apply(geom.Point{X: n[sOrigin] * n[sSize], Y: n[sOrigin+1] * n[sSize+1]})
}

// shown reports whether a layer is drawn at an instant.
func (l *layer) shown(st *state) bool {
	t := st.now.Template
	return t.Cmp(l.in) >= 0 && t.Cmp(l.out) < 0 && (st.slots[l.slot+sOpacity] > 0 || l.Kind.Can&scheme.Seen == 0)
}

// content is the way of a view's or picture's media to the layer's pixels.
func (l *layer) content(st *state) (m geom.Affine, covers bool) {
	n := st.slots[l.slot:]
	size := geom.Size{W: n[sSize], H: n[sSize+1]}
	if l.Kind == scheme.Picture {
		return geom.Scale(size.W/l.info.Size.W, size.H/l.info.Size.H), true
	}
	p := l.place
	if size != l.restSize {
		p = l.framing.Place(l.info.Size, size)
		p.Scale[0] *= l.safe
		p.Scale[1] *= l.safe
		p.Map = p.Moved(l.info.Size, size, 1, 0, [2]float64{})
	}
	if !l.moving {
		return p.Map, p.Covers
	}
	m = p.Moved(l.info.Size, size, n[sContentZoom], n[sContentTurn], [2]float64{n[sContentPan], n[sContentPan+1]})
	return m, geom.QuadCovers(m, l.info.Size, geom.Box{W: size.W, H: size.H})
}

// Outline is where a layer stands at an instant, in canvas pixels from the
// canvas' top left corner. Shapes have no pocket; they are told because they
// may hide parts of the pockets below.
type Outline struct {
	Layer  string `json:"layer"`
	Pocket string `json:"pocket"`
	// Box is upright and holds all of the layer; Quad is where its corners
	// stand, clockwise from the top left, when it is turned, skewed or in
	// perspective.
	Box     geom.Box     `json:"box"`
	Quad    []geom.Point `json:"quad,omitempty"`
	Radius  float64      `json:"radius"`
	Opacity float64      `json:"opacity"`
	// Size is a pocket's box in its own pixels, and Map takes those, from its top
	// left corner, to the canvas': x' = (a·x + c·y + e) ÷ (g·x + h·y + i), in the
	// order of the letters.
	Size *geom.Size  `json:"size,omitempty"`
	Map  *[9]float64 `json:"map,omitempty"`
	// Hides says that what lies below the layer can't be seen through it.
	Hides bool `json:"hides,omitempty" required:"false"`
	// Cut says that a matte cuts the layer, or a group that it is in; Cuts, that
	// the layer is not drawn itself and is seen by what it cuts.
	Cut  bool `json:"cut,omitempty" required:"false"`
	Cuts bool `json:"cuts,omitempty" required:"false"`
}

// hides reports whether a layer is opaque within its outline.
func (l *layer) hides(n []float64) bool {
	if n[sBlend] != 0 || len(l.masks) > 0 || l.matte >= 0 {
		return false
	}
	switch l.Kind {
	case scheme.View, scheme.Picture:
		return true
	case scheme.Shape:
		return l.form.Kind == geom.Rectangle && (l.table != nil && l.table.Opaque() || !l.graded && n[sFill+3] == 255)
	}
	return false
}

// Outlines appends the outlines of all layers with a box at an instant, the
// lowest first.
func (s *Scene) Outlines(dst []Outline, now timing.Instant) []Outline {
	st := s.states.Get().(*state)
	defer s.states.Put(st)
	s.stand(st, now, geom.Identity)
	for i := range s.layers {
		l := &s.layers[i]
		n := st.slots[l.slot:]
		if !l.Can(scheme.Box) || !l.first {
			continue
		}
		o := Outline{Layer: l.ID, Pocket: l.pocket, Cut: l.matte >= 0, Cuts: n[sHidden] != 0}
		if o.Cuts && !s.cutting(st, i) {
			continue
		}
		quad, ok := st.world[i].Quad(geom.Box{W: n[sSize], H: n[sSize+1]})
		if !ok {
			continue
		}
		o.Box = geom.Bounds(quad[:]...)
		if m := st.world[i]; m.IsFlat() && m.Upright() && m.A > 0 && m.D > 0 {
			sx, sy := st.world[i].Affine.Stretch()
			o.Radius = n[sRadius] * math.Min(sx, sy)
		} else {
			o.Quad = append([]geom.Point(nil), quad[:]...)
		}
		if m := st.world[i]; o.Pocket != "" {
			o.Size, o.Map = &geom.Size{W: n[sSize], H: n[sSize+1]}, &[9]float64{m.A, m.B, m.C, m.D, m.E, m.F, m.G, m.H, m.I}
		}
		o.Opacity = 0
		if l.shown(st) {
			o.Opacity = n[sOpacity]
		}
		for p := l.parent; p >= 0; p = s.layers[p].parent {
			up := &s.layers[p]
			if !up.shown(st) || st.slots[up.slot+sHidden] != 0 {
				o.Opacity = 0
			}
			o.Opacity *= st.slots[up.slot+sOpacity]
			o.Cut = o.Cut || up.matte >= 0
		}
		o.Hides = o.Opacity > 0.5 && !o.Cut && !o.Cuts && l.hides(n)
		dst = append(dst, o)
	}
	return dst
}

// cutting reports whether a layer that is not drawn itself is the matte of one that
// is shown.
func (s *Scene) cutting(st *state, i int) bool {
	for k := range s.layers {
		if l := &s.layers[k]; l.matte == i {
			seen := true
			for ; k >= 0 && seen; k = s.layers[k].parent {
				seen = s.layers[k].shown(st) && st.slots[s.layers[k].slot+sHidden] == 0
			}
			if seen {
				return true
			}
		}
	}
	return false
}

// Stand is how a pocket's view stands at rest, in numbers for people.
type Stand struct {
	Layer  string `json:"layer"`
	Pocket string `json:"pocket"`
	// Where is the name of the cell, such as "top left", or "".
	Where string `json:"where,omitempty" required:"false"`
	// Centre counts from the canvas centre, x to the right and y down.
	Centre geom.Point `json:"centre"`
	Size   geom.Size  `json:"size"`
	Radius float64    `json:"radius"`
	Media  geom.Size  `json:"media" doc:"Size of the media in the pocket; of an empty one that of the canvas, as something to frame"`
	Empty  bool       `json:"empty,omitempty" required:"false"`
	// Zoom is the zoom in use, Enlarged how many canvas pixels one media pixel
	// covers.
	Zoom     float64      `json:"zoom"`
	Enlarged float64      `json:"enlarged"`
	Covers   bool         `json:"covers" doc:"No edge of the media can be seen"`
	Cuts     bool         `json:"cuts,omitempty" required:"false" doc:"It is not drawn itself, and seen by what it cuts"`
	Framing  geom.Framing `json:"framing"`
	// Pan is the pan in use: in cover it stops where an edge would show.
	Pan [2]float64 `json:"pan"`
	// Map takes media pixels to the view's, both from their top left corner.
	Map geom.Affine `json:"map"`
}

// Stands lists all pocket views at rest, the lowest first.
func (s *Scene) Stands() []Stand {
	var out []Stand
	for i := range s.layers {
		l := &s.layers[i]
		if l.Kind != scheme.View || !l.first {
			continue
		}
		n := s.still[l.slot:]
		size := geom.Size{W: n[sSize], H: n[sSize+1]}
		mid := l.rest.Apply(geom.Point{X: size.W / 2, Y: size.H / 2})
		st := Stand{Layer: l.ID, Pocket: l.pocket, Centre: geom.Point{X: mid.X - s.canvas.W/2, Y: mid.Y - s.canvas.H/2},
			Size: size, Radius: n[sRadius], Framing: l.framing, Media: l.info.Size, Zoom: l.place.Zoom, Covers: l.place.Covers, Cuts: n[sHidden] != 0 && slices.ContainsFunc(s.layers, func(by layer) bool { return by.matte == i }), Pan: l.place.Pan, Map: l.place.Map}
		if l.cell != nil && l.parent < 0 {
			st.Where = l.cell.Name
			st.Centre = l.cell.Centre
		}
		if l.empty {
			p := l.framed.Place(s.canvas, size)
			st.Empty, st.Framing, st.Media, st.Zoom, st.Covers, st.Pan, st.Map = true, l.framed, s.canvas, p.Zoom, p.Covers, p.Pan, p.Map
		} else if l.media != "" {
			sx, sy := l.place.Map.Stretch()
			st.Enlarged = max(sx, sy)
		}
		out = append(out, st)
	}
	return out
}
