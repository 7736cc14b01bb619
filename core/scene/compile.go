package scene

import (
	"fmt"
	"math"
	"math/rand/v2"
	"strings"

	"ivypocket/core/geom"
	"ivypocket/core/raster"
	"ivypocket/core/sheet"
	"ivypocket/core/template"
	"ivypocket/core/timing"
)

// Where a layer's numbers stand among its own. Every property has its place, so
// that an instant is evaluated by copying all of rest and changing what moves.
const (
	sPlace      = 0
	sSize       = 2
	sScale      = 4
	sTurn       = 6
	sSkew       = 7
	sOrigin     = 9
	sCorners    = 11
	sOpacity    = 19
	sRadius     = 20
	sFill       = 24
	sContent    = 28 // turn, pan x, pan y, zoom
	sGradient   = 32 // from, to
	sStroke     = 36 // colour, width, shift, from, to
	sGrade      = 44 // slope, offset, power, saturation
	sForm       = 54 // inner, head, shaft, round
	layerSlots  = 58
	mPlace      = 0
	mSize       = 2
	mTurn       = 4
	mRadius     = 5
	mFeather    = 9
	mGrowth     = 10
	mOpacity    = 11
	mForm       = 12
	maskSlots   = 16
	formSlots   = 4
	unset       = -1 // once the size of the layer that a mask cuts
	strokeWidth = sStroke + 4
)

// slotOf says where a property stands among a layer's or a mask's numbers.
var slotOf = map[string]int{
	"place": sPlace, "size": sSize, "scale": sScale, "turn": sTurn, "skew": sSkew, "origin": sOrigin, "corners": sCorners,
	"opacity": sOpacity, "radius": sRadius, "fill": sFill, "content.turn": sContent, "content.pan": sContent + 1,
	"content.zoom": sContent + 3, "gradient.from": sGradient, "gradient.to": sGradient + 2, "stroke.colour": sStroke,
	"stroke.width": strokeWidth, "stroke.shift": sStroke + 5, "stroke.from": sStroke + 6, "stroke.to": sStroke + 7,
	"grade.slope": sGrade, "grade.offset": sGrade + 3, "grade.power": sGrade + 6, "grade.saturation": sGrade + 9,
	"form.inner": sForm, "form.head": sForm + 1, "form.shaft": sForm + 2, "form.round": sForm + 3,
}

var maskSlotOf = map[string]int{
	"place": mPlace, "size": mSize, "turn": mTurn, "radius": mRadius, "feather": mFeather, "growth": mGrowth, "opacity": mOpacity,
	"inner": mForm, "head": mForm + 1, "shaft": mForm + 2, "round": mForm + 3,
}

// defaults of properties that a document leaves out and that are not 0.
var defaults = map[string][]float64{
	"scale": {1, 1}, "origin": {0.5, 0.5}, "opacity": {1}, "stroke.to": {1}, "grade.slope": {1, 1, 1}, "grade.power": {1, 1, 1},
	"grade.saturation": {1}, "form.inner": {0.5}, "form.head": {0.4}, "form.shaft": {0.4}, "inner": {0.5}, "head": {0.4}, "shaft": {0.4},
}

// layer is one appearance of a document's layer, with all that does not change
// in time settled. Copies of a layer are appearances of their own.
type layer struct {
	*template.Layer
	slot    int // of its first number
	masks   []mask
	path    pathSlot
	parent  int // the group it is in, -1 for none
	span    int // how many appearances inside it follow
	first   bool
	anchor  [2]float64
	follow  int // -1 for none
	delay   timing.Rat
	in, out timing.Rat
	matte   int // -1 for none
	blend   raster.Blend
	spread  spread
	covers  float64 // the factor that Covers asks for

	form geom.Form
	cell *geom.Cell

	media   string
	info    Info
	framing geom.Framing
	play    timing.Play
	place   geom.Placement // of the media in the box at rest
	safe    float64        // zoom on top of it that the content's motion asks for
	moving  bool           // the content moves

	stops    []raster.Stop // of the gradient, with the document's colours
	table    *raster.Gradient
	rest     geom.Projective // the layer's pixels to the canvas' at rest
	restSize geom.Size
	upon     [2]float64 // where its origin stands on the canvas at rest
}

// mask is a layer's mask with what does not change settled.
type mask struct {
	*template.Mask
	slot  int
	form  geom.Form
	path  pathSlot
	mode  raster.MaskMode
	view  int // the appearance whose media is followed, -1 for none
	lines *geom.Contours
}

// pathSlot is where a drawn outline's numbers stand.
type pathSlot struct {
	slot, n int
	closed  bool
}

// spread is how one of several copies differs.
type spread struct {
	x, y, turn, scale float64
}

// driven is a track and the numbers it moves.
type driven struct {
	track *timing.Track
	layer int
	slot  int
	join  template.Join
	// unit takes keys to pixels: 1 for the canvas, 2 for the layer's own box,
	// 0 for neither.
	unit uint8
}

// Compile settles a document for a format. Media that is missing from the
// library is an error of type *MissingError.
func Compile(r *sheet.Resolved, format string, lib Library) (*Scene, error) {
	f := r.Doc.Format(format)
	if f == nil {
		return nil, fmt.Errorf("the template has no format named %q", format)
	}
	doc, err := r.Doc.For(f)
	if err != nil {
		return nil, err
	}
	s := &Scene{doc: doc, canvas: f.Canvas()}
	if s.time, err = doc.TimeMap(r.Values.Frames); err != nil {
		return nil, fmt.Errorf("frames: %w", err)
	}
	c := &compiler{s: s, r: r, format: format, lib: lib, cells: map[string][]geom.Cell{}, byID: map[string]int{}, names: map[template.Name]int{}, seen: map[int][]float64{}}
	for i := range doc.Layouts {
		if c.cells[doc.Layouts[i].ID], err = doc.Layouts[i].Split(s.canvas).Cells(); err != nil {
			return nil, fmt.Errorf("layout %s: %w", doc.Layouts[i].ID, err)
		}
	}
	for i := range doc.Layers {
		if err := c.add(&doc.Layers[i], -1, timing.Int(0), s.canvas); err != nil {
			return nil, err
		}
	}
	if err := c.connect(); err != nil {
		return nil, err
	}
	if err := c.formulas(); err != nil {
		return nil, err
	}
	c.order()
	s.states.New = func() any {
		return &state{slots: make([]float64, len(s.rest)), local: make([]geom.Projective, len(s.layers)), world: make([]geom.Projective, len(s.layers))}
	}
	c.settle()
	return s, nil
}

type compiler struct {
	s      *Scene
	r      *sheet.Resolved
	format string
	lib    Library
	cells  map[string][]geom.Cell
	byID   map[string]int // the first appearance of each layer
	names  map[template.Name]int
	seen   map[int][]float64 // what formulas yield at every quarter of a frame
}

// maxAppearances bounds the layers of a scene with all copies.
const maxAppearances = 4000

func (c *compiler) add(y *template.Layer, parent int, delay timing.Rat, owner geom.Size) error {
	copies := template.Copies{Count: 1}
	if y.Copies != nil {
		copies = *y.Copies
	}
	rnd := rand.New(rand.NewPCG(uint64(copies.Seed), 0x1b873593))
	for k := range copies.Count {
		sp, late := spread{scale: 1}, delay
		if y.Copies != nil {
			// All are drawn for each copy, so that changing one leaves the others.
			a, b, t, z, d := rnd.Float64(), rnd.Float64(), rnd.Float64(), rnd.Float64(), rnd.Float64()
			sp = spread{(2*a - 1) * copies.Spread[0] * owner.W, (2*b - 1) * copies.Spread[1] * owner.H, (2*t - 1) * copies.Turn, 1}
			if copies.Scale != [2]float64{} {
				sp.scale = copies.Scale[0] + (copies.Scale[1]-copies.Scale[0])*z
			}
			late = late.Add(timing.Int(int64(d * float64(copies.Delay+1))))
		}
		if err := c.appear(y, parent, late, owner, sp, k == 0); err != nil {
			return err
		}
	}
	return nil
}

// appear adds one appearance of a layer and of what is in it.
func (c *compiler) appear(y *template.Layer, parent int, delay timing.Rat, owner geom.Size, sp spread, first bool) error {
	s := c.s
	if len(s.layers) >= maxAppearances {
		return fmt.Errorf("layer %s: with all copies there are more than %d layers; lower the number of copies", y.ID, maxAppearances)
	}
	me := len(s.layers)
	first = first && (parent < 0 || s.layers[parent].first)
	l := layer{Layer: y, slot: len(s.rest), parent: parent, first: first, anchor: template.AnchorPoint(y.Rest.Anchor), follow: -1, matte: -1,
		delay: delay, in: timing.Int(0), out: timing.Int(s.doc.Frames), spread: sp, covers: 1, safe: 1, blend: raster.ParseBlend(y.Blend)}
	if y.In != nil {
		l.in = *y.In
	}
	if y.Out != nil {
		l.out = *y.Out
	}
	s.rest = append(s.rest, make([]float64, layerSlots)...)
	rest := s.rest[l.slot:]
	// What a kind of layer does not have stands as it must for the rest.
	rest[sScale], rest[sScale+1], rest[sOpacity] = 1, 1, 1
	size := owner
	switch y.Kind {
	case template.View:
		l.media = c.r.Media(y.Pocket)
	case template.Still:
		l.media = y.Media
	}
	if l.media != "" {
		info, ok := c.lib.Info(l.media)
		if !ok {
			return &MissingError{y.Pocket, y.ID, l.media}
		}
		l.info = info
		if y.Kind == template.Still {
			size = info.Size
		}
	}
	if ref := y.Rest.Cell; ref != nil {
		cell := c.cells[ref.Layout][ref.Row*len(s.doc.Layout(ref.Layout).Columns)+ref.Column]
		l.cell, size = &cell, cell.Size
		rest[sPlace], rest[sPlace+1] = cell.Centre.X, cell.Centre.Y
		for k := range 4 {
			rest[sRadius+k] = cell.Radius
		}
	}
	rest[sSize], rest[sSize+1] = size.W, size.H
	l.form = y.Form.Geometry()
	if y.Form != nil && y.Form.Path != nil {
		n := y.Form.Path.Points.Numbers
		l.path = pathSlot{len(s.rest), len(n), !y.Form.Path.Open}
		s.rest = append(s.rest, n...)
	}
	for i := range y.Masks {
		m := mask{Mask: &y.Masks[i], slot: len(s.rest), form: y.Masks[i].Form.Geometry(), mode: raster.ParseMaskMode(y.Masks[i].Mode), view: -1}
		s.rest = append(s.rest, make([]float64, maskSlots)...)
		s.rest[m.slot+mSize], s.rest[m.slot+mSize+1] = unset, unset
		if m.Form != nil && m.Form.Path != nil {
			n := m.Form.Path.Points.Numbers
			m.path = pathSlot{len(s.rest), len(n), !m.Form.Path.Open}
			s.rest = append(s.rest, n...)
		}
		l.masks = append(l.masks, m)
	}
	if err := c.values(&l, me); err != nil {
		return err
	}
	if g := y.Rest.Gradient; g != nil {
		for _, st := range g.Stops {
			col, err := s.doc.Colour(st.Colour)
			if err != nil {
				return fmt.Errorf("layer %s: %w", y.ID, err)
			}
			l.stops = append(l.stops, raster.Stop{At: st.At, Colour: [4]uint8{col.R, col.G, col.B, col.A}})
		}
		l.table = raster.NewGradient(raster.ParseGradientKind(g.Kind), l.stops, !g.Plain)
	}
	if y.Kind == template.View && l.media != "" {
		l.framing = c.r.Framing(y.Pocket, c.format)
		l.play = c.r.Play(y.Pocket)
	}
	if first {
		c.byID[y.ID] = me
	}
	s.layers = append(s.layers, l)
	for i := range y.Layers {
		if err := c.add(&y.Layers[i], me, delay, geom.Size{W: s.rest[l.slot+sSize], H: s.rest[l.slot+sSize+1]}); err != nil {
			return err
		}
	}
	s.layers[me].span = len(s.layers) - me - 1
	return nil
}

// at is where a property of a layer stands.
func (l *layer) at(name string) int {
	if i, ok := slotOf[name]; ok {
		return l.slot + i
	}
	if name == "form.path" {
		return l.path.slot
	}
	id, rest, _ := strings.Cut(strings.TrimPrefix(name, "masks."), ".")
	for i := range l.masks {
		if m := &l.masks[i]; m.ID == id {
			if rest == "path" {
				return m.path.slot
			}
			return m.slot + maskSlotOf[rest]
		}
	}
	panic("scene: no place for " + name)
}

// values puts a layer's rest values in their places and makes its motion ready.
func (c *compiler) values(l *layer, me int) error {
	s := c.s
	for _, p := range l.Standings() {
		v, given := p.Rest, p.Given
		if p.Kind == template.Words {
			continue
		}
		at := l.at(p.Name)
		short := p.Name
		if strings.HasPrefix(short, "masks.") {
			short = short[strings.LastIndexByte(short, '.')+1:]
		}
		switch {
		case p.Kind == template.ColourText && given:
			col, err := s.doc.Colour(v.Text)
			if err != nil {
				return fmt.Errorf("layer %s: %w", l.ID, err)
			}
			copy(s.rest[at:], []float64{float64(col.R), float64(col.G), float64(col.B), float64(col.A)})
		case given:
			copy(s.rest[at:at+p.Width], v.Numbers)
			if p.Name == "content.zoom" && v.Numbers[0] == 0 {
				s.rest[at] = 1
			}
		default:
			copy(s.rest[at:], defaults[short])
		}
		if m := l.Motion[p.Name]; m != nil {
			tr, err := m.Track(s.doc, p.Property)
			if err != nil {
				return fmt.Errorf("layer %s: motion.%s.keys%w", l.ID, p.Name, err)
			}
			d := driven{track: tr, layer: me, slot: at, join: p.Join}
			if p.Length && p.Join == template.Plus {
				d.unit = 1
				if m.Unit == "self" {
					d.unit = 2
				}
			}
			s.tracks = append(s.tracks, d)
		}
	}
	return nil
}

// connect finds whom each layer follows and is cut by, and the media that
// masks follow.
func (c *compiler) connect() error {
	s := c.s
	inside := func(me int, id string) int {
		// A copy of a group follows and is cut by its own layers first.
		for p := s.layers[me].parent; p >= 0; p = s.layers[p].parent {
			for k := p + 1; k <= p+s.layers[p].span; k++ {
				if s.layers[k].ID == id {
					return k
				}
			}
		}
		return c.byID[id]
	}
	for i := range s.layers {
		l := &s.layers[i]
		if l.Follow != "" {
			l.follow = inside(i, l.Follow)
		}
		if l.Matte != nil {
			l.matte = inside(i, l.Matte.Layer)
		}
		for k := range l.masks {
			m := &l.masks[k]
			if m.Of == "" {
				continue
			}
			m.view = i
			if m.Pocket != "" && m.Pocket != l.Pocket {
				for v := range s.layers {
					if s.layers[v].Kind == template.View && s.layers[v].Pocket == m.Pocket {
						m.view = v
						break
					}
				}
			}
			v := &s.layers[m.view]
			if v.media == "" {
				continue // an empty pocket is all visible
			}
			tr, err := c.lib.Trace(v.media)
			if err != nil {
				return fmt.Errorf("layer %s: mask %s: %w", l.ID, m.ID, err)
			}
			m.lines = tr.Lines(m.Of, v.info.Size)
		}
	}
	return nil
}

// formulas gives every name that formulas use its place.
func (c *compiler) formulas() error {
	s := c.s
	if !hasFormulas(s.doc.Layers) {
		return nil
	}
	steps, err := s.doc.Formulas(c.place)
	if err != nil {
		return err
	}
	for _, st := range steps {
		x := step{Step: st, layer: c.byID[st.Target.ID]}
		x.slot = st.Slot
		s.steps = append(s.steps, x)
		if st.Program == nil {
			continue
		}
		// Copies obey the same formula.
		for i := range s.layers {
			if i != x.layer && s.layers[i].ID == st.Target.ID {
				y := x
				y.layer, y.slot = i, s.layers[i].at(st.Target.Property)+st.Target.Component
				s.steps = append(s.steps, y)
			}
		}
	}
	return nil
}

func hasFormulas(layers []template.Layer) bool {
	for i := range layers {
		if len(layers[i].Formulas) > 0 || hasFormulas(layers[i].Layers) {
			return true
		}
	}
	return false
}

// place says where a name's number stands, and puts it there if it never changes.
func (c *compiler) place(n template.Name) int {
	s := c.s
	if n.Head == "layer" {
		return s.layers[c.byID[n.ID]].at(n.Property) + n.Component
	}
	if at, ok := c.names[n]; ok {
		return at
	}
	at := len(s.rest)
	c.names[n] = at
	put := func(v ...float64) { s.rest = append(s.rest, v...) }
	wh := func(z geom.Size) {
		if n.Property == "w" {
			put(z.W)
		} else {
			put(z.H)
		}
	}
	rgba := func(col template.RGBA) { put(float64(col.R), float64(col.G), float64(col.B), float64(col.A)) }
	switch n.Head {
	case "canvas":
		wh(s.canvas)
	case "cell":
		wh(s.layers[c.byID[n.ID]].cell.Size)
	case "time":
		put(0)
		s.clocks = append(s.clocks, clock{n.Property, at})
	case "media":
		var info Info
		if m := c.r.Media(n.ID); m != "" {
			info, _ = c.lib.Info(m)
		}
		switch {
		case n.Property == "w" || n.Property == "h":
			wh(info.Size)
		case info.Clip == nil:
			put(0)
		case n.Property == "seconds":
			put(info.Clip.Seconds().Float())
		default:
			put(info.Clip.Seconds().Mul(s.time.Rate.Rat).Float())
		}
	case "colour":
		col, err := s.doc.Colour("colour:" + n.ID)
		if err != nil {
			col = template.RGBA{}
		}
		rgba(col)
	case "entry":
		v, _ := c.r.Value(n.ID)
		if v.Text != "" {
			col, _ := template.ParseColour(v.Text)
			rgba(col)
		} else {
			put(v.Amount)
		}
	default: // a box
		put(0)
	}
	return at
}

// order puts layers in an order in which each finds the group it is in and the
// layer it follows already placed. The document has no circles.
func (c *compiler) order() {
	s := c.s
	done := make([]bool, len(s.layers))
	var visit func(i int)
	visit = func(i int) {
		if i < 0 || done[i] {
			return
		}
		done[i] = true
		visit(s.layers[i].parent)
		visit(s.layers[i].follow)
		s.sequence = append(s.sequence, i)
	}
	for i := range s.layers {
		visit(i)
	}
}

// settle computes what follows from rest and from the whole of the motion:
// where layers stand, how media lies in its pocket, and the smallest zoom at
// which what must cover does so at every instant.
func (c *compiler) settle() {
	s := c.s
	st := s.states.New().(*state)
	copy(st.slots, s.rest)
	for i := range s.layers {
		l := &s.layers[i]
		if l.media == "" || l.Kind != template.View {
			continue
		}
		box := geom.Size{W: s.rest[l.slot+sSize], H: s.rest[l.slot+sSize+1]}
		l.place = l.framing.Place(l.info.Size, box)
		l.moving = l.Rest.Content != nil
		for _, t := range s.tracks {
			if k := t.slot - l.slot; k >= sContent && k < sContent+4 {
				l.moving = true
			}
		}
		for _, f := range s.steps {
			if k := f.slot - l.slot; k >= sContent && k < sContent+4 {
				l.moving = true
			}
		}
		if l.moving && l.framing.Fit == geom.Cover {
			fit := math.Max(box.W/l.info.Size.W, box.H/l.info.Size.H)
			need := geom.SmallestZoom(l.info.Size, box, l.in.Float(), l.out.Float(), func(a, b float64) geom.Sway {
				n := c.sway(i, a, b, []int{sContent, sContent + 1, sContent + 2, sContent + 3})
				return geom.Sway{
					Turn: [2]float64{l.framing.Turn + n[0][0], l.framing.Turn + n[0][1]},
					X:    [2]float64{l.place.Offset.X + n[1][0]*box.W, l.place.Offset.X + n[1][1]*box.W},
					Y:    [2]float64{l.place.Offset.Y + n[2][0]*box.H, l.place.Offset.Y + n[2][1]*box.H},
					Zoom: n[3][0],
				}
			})
			l.safe = math.Max(1, need*fit/math.Abs(l.place.Scale[0]))
			l.place.Zoom *= l.safe
			l.place.Scale[0] *= l.safe
			l.place.Scale[1] *= l.safe
			l.place.Map = l.place.Moved(l.info.Size, box, 1, 0, [2]float64{})
			l.place.Covers = true
		}
	}
	for i := range s.layers {
		l := &s.layers[i]
		if !l.Rest.Covers {
			continue
		}
		frame := s.canvas
		if l.parent >= 0 {
			p := s.layers[l.parent].slot
			frame = geom.Size{W: s.rest[p+sSize], H: s.rest[p+sSize+1]}
		}
		box := geom.Size{W: s.rest[l.slot+sSize], H: s.rest[l.slot+sSize+1]}
		fit := math.Max(frame.W/box.W, frame.H/box.H)
		off := geom.Point{X: (l.anchor[0] - 0.5) * (frame.W - box.W), Y: (l.anchor[1] - 0.5) * (frame.H - box.H)}
		l.covers = fit * geom.SmallestZoom(box, frame, l.in.Float(), l.out.Float(), func(a, b float64) geom.Sway {
			n := c.sway(i, a, b, []int{sPlace, sPlace + 1, sTurn, sScale, sScale + 1})
			return geom.Sway{
				Turn: n[2], X: [2]float64{off.X + n[0][0], off.X + n[0][1]}, Y: [2]float64{off.Y + n[1][0], off.Y + n[1][1]},
				Zoom: math.Min(n[3][0], n[4][0]),
			}
		})
	}
	s.locate(st, true)
	for i := range s.layers {
		l := &s.layers[i]
		l.rest = st.world[i]
		l.restSize = geom.Size{W: s.rest[l.slot+sSize], H: s.rest[l.slot+sSize+1]}
		p := s.origin(st, i)
		l.upon = [2]float64{p.X, p.Y}
	}
}

// sway bounds some of a layer's numbers between two instants of the template.
// Numbers that a formula yields are looked at in quarters of a frame.
func (c *compiler) sway(i int, a, b float64, which []int) [][2]float64 {
	s := c.s
	l := &s.layers[i]
	out := make([][2]float64, len(which))
	for k, w := range which {
		out[k] = [2]float64{s.rest[l.slot+w], s.rest[l.slot+w]}
	}
	var lo, hi [8]float64
	late := l.delay.Float()
	for _, t := range s.tracks {
		if t.layer != i || t.track.Width() > len(lo) {
			continue
		}
		within := false
		for _, w := range which {
			within = within || l.slot+w >= t.slot && l.slot+w < t.slot+t.track.Width()
		}
		if !within {
			continue
		}
		t.track.Bounds(a-late, b-late, lo[:], hi[:])
		for k, w := range which {
			n := l.slot + w - t.slot
			if n < 0 || n >= t.track.Width() {
				continue
			}
			r := s.rest[l.slot+w]
			p, q := lo[n], hi[n]
			if t.unit > 0 {
				u := s.unit(&t, s.rest, n)
				p, q = p*u, q*u
			}
			switch t.join {
			case template.Plus:
				p, q = r+p, r+q
			case template.Times:
				p, q = r*p, r*q
			}
			out[k] = [2]float64{math.Min(p, q), math.Max(p, q)}
		}
	}
	for _, f := range s.steps {
		for k, w := range which {
			if f.slot == l.slot+w {
				out[k] = c.sampled(f.slot, a, b)
			}
		}
	}
	return out
}

// sampled is the range of a formula's number between two instants.
func (c *compiler) sampled(slot int, a, b float64) [2]float64 {
	s := c.s
	v := c.seen[slot]
	if v == nil {
		st := s.states.New().(*state)
		for n := range 4*s.doc.Frames + 1 {
			s.evaluate(st, s.time.Moment(s.time.Output(timing.TemplateTime{Rat: timing.NewRat(n, 4)})))
			v = append(v, st.slots[slot])
		}
		c.seen[slot] = v
	}
	out := [2]float64{math.Inf(1), math.Inf(-1)}
	for n := max(0, int(math.Floor(4*a))); n <= min(len(v)-1, int(math.Ceil(4*b))); n++ {
		out = [2]float64{math.Min(out[0], v[n]), math.Max(out[1], v[n])}
	}
	return out
}
