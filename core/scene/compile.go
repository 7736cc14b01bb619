package scene

import (
	"fmt"
	"maps"
	"math"
	"math/rand/v2"
	"slices"
	"strings"

	"ivypocket/core/geom"
	"ivypocket/core/raster"
	"ivypocket/core/scheme"
	"ivypocket/core/sheet"
	"ivypocket/core/template"
	"ivypocket/core/timing"
	"ivypocket/core/words"
)

// Where numbers stand among those of their thing: every property has its place,
// allotted by the table, so that an instant is evaluated by copying all of rest
// and changing what moves.
var (
	sPlace, sSize, sScale     = scheme.Place.Slot(), scheme.Size.Slot(), scheme.Scale.Slot()
	sTurn, sSkew, sOrigin     = scheme.Turn.Slot(), scheme.Skew.Slot(), scheme.Origin.Slot()
	sCorners, sOpacity        = scheme.Corners.Slot(), scheme.Opacity.Slot()
	sRadius, sFill            = scheme.Radius.Slot(), scheme.Fill.Slot()
	sHidden, sBlend           = scheme.Hidden.Slot(), scheme.Blend.Slot()
	sContentTurn              = scheme.ContentTurn.Slot()
	sContentPan, sContentZoom = scheme.ContentPan.Slot(), scheme.ContentZoom.Slot()
	mPlace, mSize, mTurn      = scheme.MaskPlace.Slot(), scheme.MaskSize.Slot(), scheme.MaskTurn.Slot()
)

// unset stands for the size of a mask that is as large as its layer: once that.
const unset = -1

// content are the numbers that move media inside its pocket.
var content = []int{sContentTurn, sContentPan, sContentPan + 1, sContentZoom}

// thing is one appearance of a node of the document, with the place of its numbers.
type thing struct {
	*template.Node
	slot int
	runs []run
}

// run is where the numbers of a list or a path stand.
type run struct {
	of      *scheme.Property
	slot, n int
}

// at is where a property's numbers stand, -1 for nowhere, and how many there are.
func (t *thing) at(p *scheme.Property) (slot, n int) {
	if p.Slot() >= 0 {
		return t.slot + p.Slot(), p.Width()
	}
	for _, r := range t.runs {
		if r.of == p {
			return r.slot, r.n
		}
	}
	return -1, 0
}

// layer is one appearance of a document's layer, with all that does not change
// in time settled. Copies of a layer are appearances of their own.
type layer struct {
	thing
	masks   []mask
	treats  []treat
	stops   []thing // its own, and those that are drawn
	drawn   []thing
	acts    []thing // its performances
	parent  int     // the group it is in, -1 for none
	span    int     // how many appearances inside it follow
	first   bool
	anchor  [2]float64
	follow  int        // -1 for none
	delay   timing.Rat // how late its keys are
	shift   timing.Rat // how late all of it is
	in, out timing.Rat
	matte   int // -1 for none
	spread  spread
	covers  float64 // the factor that Covers asks for
	samples int64   // instants that motion blur mixes, 0 for none
	shutter float64

	form    geom.Form
	highs   []high    // highlighters
	axes    []thing   // of its face
	reveals []*reveal // what parts of its words perform
	words   int       // among the scene's wordings, -1 for none
	backs   int       // the words that it is behind of, -1 for none

	cell  *geom.Cell
	flows bool // it stands in the flow of its group
	gone  bool // it is left out, as a pocket is empty
	// touches says on which sides of its cell another begins at once: left, top,
	// right, bottom.
	touches [4]bool

	pocket  string
	media   string
	empty   bool         // a view of a pocket that holds nothing; its media is then the lining's
	framed  geom.Framing // how the pocket's media lies, or would
	info    Info
	framing geom.Framing
	play    timing.Play
	place   geom.Placement // of the media in the box at rest
	safe    float64        // zoom on top of it that the content's motion asks for
	moving  bool           // the content moves

	table    *raster.Gradient // nil when there is none, or when its stops change
	graded   bool             // filled with a gradient
	sized    bool             // it has a size of its own, or fills a group that has
	changes  bool             // its size changes in time
	begins   timing.Rat       // the instant at which a view's clip begins
	fills    []int            // tracks of its size, where it fills a group that changes
	rest     geom.Projective  // the layer's pixels to the canvas' at rest
	restSize geom.Size
	upon     [2]float64 // where its origin stands on the canvas at rest
}

// treat is a treatment of a layer, with the masks that say where it is done.
type treat struct {
	thing
	masks []mask
}

// mask is a layer's mask, or one of a treatment, with what does not change settled.
type mask struct {
	thing
	form    geom.Form
	falloff timing.Easing
	view    int // the appearance whose media is followed, -1 for none
	of      string
	lines   *geom.Contours
}

// spread is how one of several copies differs.
type spread struct {
	x, y, turn, scale float64
}

// driven is a track and the numbers it moves.
type driven struct {
	track *timing.Track
	by    string // the performance that it is of, "" for keys of its own
	idle  bool   // it moves parts of words, and not the layer
	layer int    // whose delay it has, -1 for a layout
	slot  int
	join  scheme.Join
	// unit takes keys to pixels: 1 for the canvas, 2 for the layer's own box,
	// 0 for neither.
	unit uint8
	// axis is the direction of its first number, 0 for x and 1 for y; the others
	// take turns. -1 is a length without a direction.
	axis int8
}

// layout is a layout whose cells change in time.
type layout struct {
	thing
	layers []int // the appearances that stand in its cells
	tracks [][]int
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
	if doc, err = doc.Expanded(); err != nil {
		return nil, err
	}
	if doc, err = doc.Settled(func(n template.Name) []float64 { return outside(r, lib, f, doc, n) }); err != nil {
		return nil, err
	}
	doc = doc.Performed(f.Canvas())
	r = &sheet.Resolved{Doc: doc, Values: r.Values}
	s := &Scene{doc: doc, canvas: f.Canvas(), setter: lib.Letters()}
	if s.time, err = doc.TimeMap(r.Values.Frames); err != nil {
		return nil, fmt.Errorf("frames: %w", err)
	}
	c := &compiler{s: s, r: r, format: format, lib: lib, cells: map[string][]geom.Cell{}, byID: map[string]int{}, names: map[template.Name]int{},
		all: map[string][]int{}, seen: map[int][]float64{}}
	for _, l := range doc.Layouts {
		if c.cells[l.ID], err = l.Split(s.canvas).Cells(); err != nil {
			return nil, fmt.Errorf("layout %s: %w", l.ID, err)
		}
		if l.Changes() {
			t, err := c.thing(l, -1)
			if err != nil {
				return nil, fmt.Errorf("layout %s: %w", l.ID, err)
			}
			s.layouts = append(s.layouts, layout{thing: t})
		}
	}
	s.rest = slices.Grow(s.rest, numbers(doc.Layers))
	for _, y := range doc.Layers {
		if err := c.add(y, -1, late{timing.Int(0), timing.Int(0)}, s.canvas); err != nil {
			return nil, err
		}
	}
	if err := c.connect(); err != nil {
		return nil, err
	}
	if err := c.formulas(); err != nil {
		return nil, err
	}
	c.settleFlows()
	c.order()
	c.clocks()
	s.states.New = func() any {
		return &state{slots: make([]float64, len(s.rest)), local: make([]geom.Projective, len(s.layers)), world: make([]geom.Projective, len(s.layers)),
			set: make([]*words.Setting, len(s.wordings))}
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
	all    map[string][]int  // the appearances of each layer
	seen   map[int][]float64 // what formulas yield at every quarter of a frame
}

// maxAppearances bounds the layers of a scene with all copies.
const maxAppearances = 4000

// late is how late a layer is: its keys, and all of it.
type late struct{ keys, shift timing.Rat }

func (c *compiler) add(y *template.Layer, parent int, by late, owner geom.Size) error {
	shift := y.Shift()
	by = late{by.keys.Add(shift), by.shift.Add(shift)}
	if !y.Given(scheme.CopiesCount) {
		return c.appear(y, parent, by, owner, spread{scale: 1}, true)
	}
	wide, scale := y.Get(scheme.CopiesSpread).Numbers, y.Get(scheme.CopiesScale).Numbers
	turn, slow := y.Number(scheme.CopiesTurn), y.Number(scheme.CopiesDelay)
	rnd := rand.New(rand.NewPCG(uint64(int64(y.Number(scheme.CopiesSeed))), 0x1b873593))
	for k := range int(y.Number(scheme.CopiesCount)) {
		// All are drawn for each copy, so that changing one leaves the others.
		a, b, t, z, d := rnd.Float64(), rnd.Float64(), rnd.Float64(), rnd.Float64(), rnd.Float64()
		sp := spread{(2*a - 1) * wide[0] * owner.W, (2*b - 1) * wide[1] * owner.H, (2*t - 1) * turn, 1}
		if y.Given(scheme.CopiesScale) {
			sp.scale = scale[0] + (scale[1]-scale[0])*z
		}
		own := late{by.keys.Add(timing.Int(int64(d * (slow + 1)))), by.shift}
		if err := c.appear(y, parent, own, owner, sp, k == 0); err != nil {
			return err
		}
	}
	return nil
}

// numbers is how many numbers layers and what is in them have, but for copies,
// lists and paths.
func numbers(list []*template.Node) int {
	n := 0
	for _, y := range list {
		n += len(y.Sort().Defaults())
		for k := range y.Sort().Parts {
			n += numbers(y.Part(k))
		}
	}
	return n
}

// thing gives a node's numbers their place, puts its values there and makes its
// motion ready.
func (c *compiler) thing(n *template.Node, layer int) (thing, error) {
	s := c.s
	t := thing{Node: n, slot: len(s.rest)}
	s.rest = append(s.rest, n.Sort().Defaults()...)
	var err error
	n.Values(func(p *scheme.Property, v scheme.Value) {
		v = v.Resolved(s.canvas)
		switch at := t.slot + p.Slot(); {
		case p.Slot() < 0 && p.Type.Live():
			t.runs = append(t.runs, run{p, len(s.rest), len(v.Numbers)})
			s.rest = append(s.rest, v.Numbers...)
		case p.Slot() < 0:
		case p.Type == scheme.Colour:
			col, e := s.doc.Colour(v.Text)
			if e != nil && err == nil {
				err = fmt.Errorf("%s: %w", p.Name, e)
			}
			copy(s.rest[at:], []float64{float64(col.R), float64(col.G), float64(col.B), float64(col.A)})
		default:
			p.Put(s.rest[at:], v)
		}
	})
	if err == nil && len(n.Motion)+len(n.Added()) > 0 {
		err = c.motion(&t, layer)
	}
	return t, err
}

// motion makes a thing's keys ready.
func (c *compiler) motion(t *thing, layer int) error {
	s := c.s
	var list []template.Added
	for _, name := range slices.Sorted(maps.Keys(t.Motion)) {
		list = append(list, template.Added{By: t.Along(), Name: name, Move: t.Motion[name]})
	}
	for _, a := range append(list, t.Added()...) {
		name, m := a.Name, a.Move
		p, part, err := t.Target(name)
		if err != nil {
			return err
		}
		tr, err := s.doc.Track(t.Node, p, part, m, s.canvas)
		if err != nil {
			return fmt.Errorf("motion.%s.keys%w", name, err)
		}
		slot, _ := t.at(p)
		d := driven{track: tr, by: a.By, layer: layer, slot: slot + max(0, part), join: m.Joins(p), axis: -1}
		if p.Length && p.Join == scheme.Plus {
			d.unit = 1
			if m.Unit == template.SelfUnit {
				d.unit = 2
			}
		}
		if p.Parts != nil {
			d.axis = int8(max(0, part) % 2)
		}
		s.tracks = append(s.tracks, d)
	}
	return nil
}

// appear adds one appearance of a layer and of what is in it.
func (c *compiler) appear(y *template.Layer, parent int, by late, owner geom.Size, sp spread, first bool) error {
	s := c.s
	if len(s.layers) >= maxAppearances {
		return fmt.Errorf("layer %s: with all copies there are more than %d layers; lower the number of copies", y.ID, maxAppearances)
	}
	me := len(s.layers)
	first = first && (parent < 0 || s.layers[parent].first)
	tracks := len(s.tracks)
	t, err := c.thing(y, me)
	if err != nil {
		return fmt.Errorf("layer %s: %w", y.ID, err)
	}
	l := layer{thing: t, parent: parent, first: first, anchor: scheme.AnchorPoint(y.Text(scheme.Anchor)), follow: -1, matte: -1,
		delay: by.keys, shift: by.shift, spread: sp, covers: 1, safe: 1, form: y.Geometry()}
	l.in, l.out = y.Trim(s.doc)
	if y.Given(scheme.In) {
		l.in = l.in.Add(by.shift)
	}
	if y.Given(scheme.Out) {
		l.out = l.out.Add(by.shift)
	}
	if y.Given(scheme.BlurSamples) {
		l.samples, l.shutter = int64(y.Number(scheme.BlurSamples)), y.Number(scheme.BlurShutter)
	}
	if err := c.size(&l, owner); err != nil {
		return err
	}
	if p := y.Text(scheme.Without); p != "" && c.r.Media(p) == "" {
		c.leaveOut(&l)
	}
	if l.masks, err = c.masks(y, me); err != nil {
		return fmt.Errorf("layer %s, %w", y.ID, err)
	}
	for _, n := range y.Treatments() {
		t := treat{}
		if t.thing, err = c.thing(n, me); err == nil {
			t.masks, err = c.masks(n, me)
		}
		if err != nil {
			return fmt.Errorf("layer %s, treatment %s: %w", y.ID, n.ID, err)
		}
		l.treats = append(l.treats, t)
	}
	if err := c.gradient(&l, me); err != nil {
		return err
	}
	for _, n := range y.Highlights() {
		h := high{}
		if h.thing, err = c.thing(n, me); err != nil {
			return fmt.Errorf("layer %s, highlight %s: %w", y.ID, n.ID, err)
		}
		for _, of := range n.Part(0) {
			t, err := c.thing(of, me)
			if err != nil {
				return fmt.Errorf("layer %s, highlight %s, line %s: %w", y.ID, n.ID, of.ID, err)
			}
			h.lines = append(h.lines, t)
		}
		l.highs = append(l.highs, h)
	}
	for _, n := range y.Axes() {
		t, err := c.thing(n, me)
		if err != nil {
			return fmt.Errorf("layer %s, axis %s: %w", y.ID, n.ID, err)
		}
		l.axes = append(l.axes, t)
	}
	for _, n := range y.Performances() {
		t, err := c.thing(n, me)
		if err != nil {
			return fmt.Errorf("layer %s, move %s: %w", y.ID, n.ID, err)
		}
		l.acts = append(l.acts, t)
	}
	c.letter(&l, me)
	c.reveals(&l, tracks)
	if first {
		c.byID[y.ID] = me
	}
	c.all[y.ID] = append(c.all[y.ID], me)
	s.layers = append(s.layers, l)
	for _, in := range y.Layers() {
		if err := c.add(in, me, by, geom.Size{W: s.rest[l.slot+sSize], H: s.rest[l.slot+sSize+1]}); err != nil {
			return err
		}
	}
	s.layers[me].span = len(s.layers) - me - 1
	return nil
}

// masks settles what cuts a layer, or a treatment of it.
func (c *compiler) masks(of *template.Node, me int) ([]mask, error) {
	list := of.Masks()
	if len(list) == 0 {
		return nil, nil
	}
	out := make([]mask, len(list))
	for i, m := range list {
		t, err := c.thing(m, me)
		if err != nil {
			return nil, fmt.Errorf("mask %s: %w", m.ID, err)
		}
		if !m.Given(scheme.MaskSize) {
			c.s.rest[t.slot+mSize], c.s.rest[t.slot+mSize+1] = unset, unset
		}
		out[i] = mask{thing: t, form: m.Geometry(), of: m.Text(scheme.MaskOf), view: -1}
		copy(out[i].falloff[:], m.Get(scheme.Falloff).Numbers)
	}
	return out, nil
}

// leaveOut hides a layer for good: no keys and no formula of its own show it.
func (c *compiler) leaveOut(l *layer) {
	l.gone = true
	hidden := l.slot + sHidden
	c.s.rest[hidden] = 1
	c.s.tracks = slices.DeleteFunc(c.s.tracks, func(t driven) bool { return t.slot == hidden })
}

// size finds the media a layer shows and gives it the size of what it stands in,
// where it has none of its own.
func (c *compiler) size(l *layer, owner geom.Size) error {
	s, y := c.s, l.Node
	rest := s.rest[l.slot:]
	switch y.Kind {
	case scheme.View:
		l.pocket = y.Text(scheme.Pocket)
		l.media = c.r.Media(l.pocket)
	case scheme.Picture:
		l.media = y.Text(scheme.OwnMedia)
	}
	if y.Kind == scheme.View {
		l.framing, l.play = c.r.Framing(l.pocket, c.format), c.r.Play(l.pocket)
		l.framed = l.framing
		if l.empty = l.media == ""; l.empty {
			if p := c.r.Doc.Pocket(l.pocket); p != nil && p.Lined() != "" {
				l.media, l.framing = p.Lined(), geom.DefaultFraming(geom.Cover)
			}
		}
	}
	size := owner
	if l.media != "" {
		info, ok := c.lib.Info(l.media)
		if !ok {
			return &MissingError{l.pocket, y.ID, l.media}
		}
		l.info = info
		if y.Kind == scheme.Picture {
			size = info.Size
		}
	}
	if y.Given(scheme.CellLayout) {
		if err := c.cell(l); err != nil {
			return err
		}
		size = l.cell.Size
		rest[sPlace], rest[sPlace+1] = l.cell.Centre.X, l.cell.Centre.Y
		if !y.Given(scheme.Radius) {
			for k := range 4 {
				rest[sRadius+k] = l.cell.Radius
			}
		}
	}
	if !y.Given(scheme.Size) {
		rest[sSize], rest[sSize+1] = size.W, size.H
	}
	l.sized = !y.Fills() || y.Moves(scheme.Size) || l.parent >= 0 && s.layers[l.parent].sized
	return nil
}

// cell finds the cell a layer stands in.
func (c *compiler) cell(l *layer) error {
	s, id := c.s, l.Text(scheme.CellLayout)
	row, column, down, across := l.Cell()
	lay := s.doc.Layout(id)
	if lay == nil {
		return fmt.Errorf("layer %s: there is no layout named %q", l.ID, id)
	}
	split := lay.Split(s.canvas)
	cell, ok := split.Spanning(c.cells[id], row, column, down, across)
	if !ok {
		return fmt.Errorf("layer %s: the layout %s has no row %d, column %d, or not so many from there on", l.ID, id, row, column)
	}
	l.cell = &cell
	if lay.Number(scheme.Gutter) == 0 {
		l.touches = [4]bool{column > 0, row > 0, column+across < len(split.Columns), row+down < len(split.Rows)}
	}
	for i := range s.layouts {
		if s.layouts[i].ID == id {
			s.layouts[i].layers = append(s.layouts[i].layers, len(s.layers))
		}
	}
	return nil
}

// gradient makes a layer's gradient ready, unless it changes in time.
func (c *compiler) gradient(l *layer, me int) (err error) {
	if l.graded = l.Gradient(); !l.graded {
		return nil
	}
	// Its own are there also while it has a named one: formulas may speak of them.
	if l.stops, err = c.stopsOf(l, l.Node, me); err != nil {
		return err
	}
	l.drawn = l.stops
	if g := c.s.doc.Gradient(l.Text(scheme.GradientNamed)); g != nil {
		if l.drawn, err = c.stopsOf(l, g, me); err != nil {
			return err
		}
	}
	if !slices.ContainsFunc(l.drawn, func(t thing) bool { return t.Changes() }) {
		l.table = l.gradientOf(c.s.rest)
	}
	return nil
}

// stopsOf makes the stops of a gradient ready for a layer.
func (c *compiler) stopsOf(l *layer, of *template.Node, me int) (out []thing, err error) {
	for _, st := range of.Stops() {
		t, err := c.thing(st, me)
		if err != nil {
			return nil, fmt.Errorf("layer %s, stop %s: %w", l.ID, st.ID, err)
		}
		out = append(out, t)
	}
	return out, nil
}

// gradientOf is the layer's gradient by the numbers of an instant.
func (l *layer) gradientOf(slots []float64) *raster.Gradient {
	at, colour := scheme.StopAt.Slot(), scheme.StopColour.Slot()
	stops := make([]raster.Stop, len(l.drawn))
	last := 0.0
	for i := range l.drawn {
		n := slots[l.drawn[i].slot:]
		last = math.Max(last, n[at]) // stops that move never pass one another
		stops[i] = raster.Stop{At: last, Colour: colourOf(n[colour:])}
	}
	return raster.NewGradient(raster.ParseGradientKind(l.Text(scheme.GradientKind)), stops, !l.On(scheme.GradientPlain))
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
		if id := l.Text(scheme.Follow); id != "" {
			l.follow = inside(i, id)
		}
		if id := l.Text(scheme.MatteLayer); id != "" {
			l.matte = inside(i, id)
		}
		c.backed(i)
		if err := c.trace(i, l.masks); err != nil {
			return fmt.Errorf("layer %s: %w", l.ID, err)
		}
		for k := range l.treats {
			if err := c.trace(i, l.treats[k].masks); err != nil {
				return fmt.Errorf("layer %s, treatment %s: %w", l.ID, l.treats[k].ID, err)
			}
		}
	}
	return nil
}

// trace finds the media that masks of an appearance follow.
func (c *compiler) trace(i int, masks []mask) error {
	s := c.s
	for k := range masks {
		m := &masks[k]
		if m.of == "" {
			continue
		}
		m.view = i
		if id := m.Text(scheme.MaskWords); id != "" {
			m.view = c.beside(i, id)
			continue
		}
		if pocket := m.Text(scheme.MaskPocket); pocket != "" && pocket != s.layers[i].pocket {
			for v := range s.layers {
				if s.layers[v].Kind == scheme.View && s.layers[v].pocket == pocket {
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
			return fmt.Errorf("mask %s: %w", m.ID, err)
		}
		m.lines = tr.Lines(m.of, v.info.Size)
	}
	return nil
}

// beside is the appearance of a layer that belongs to that of another: one in the same
// group, else the first.
func (c *compiler) beside(i int, id string) int {
	for _, k := range c.all[id] {
		if c.s.layers[k].parent == c.s.layers[i].parent {
			return k
		}
	}
	return c.byID[id]
}

// formulas gives every name that formulas use its place.
func (c *compiler) formulas() error {
	s := c.s
	for i := range s.layouts {
		c.cellTracks(&s.layouts[i])
	}
	_, steps, err := s.doc.Formulas(c.place)
	if err != nil {
		return err
	}
	for _, st := range steps {
		x := step{Step: st, slot: st.Slot}
		switch st.Target.Head {
		case "box", "words":
			x.layer = c.byID[st.Target.At]
		case "set":
			x.sets = c.setting(st.Target.At)
		case "behind":
			for _, i := range c.all[st.Target.At] {
				if y := x; s.layers[i].backs >= 0 {
					y.layer = i
					s.steps = append(s.steps, y)
				}
			}
			continue
		case "fills":
			for _, i := range c.all[st.Target.At] {
				c.filling(i)
				y := x
				y.layer = i
				s.steps = append(s.steps, y)
			}
			continue
		case "flow":
			for _, i := range c.all[st.Target.At] {
				y := x
				y.layer, y.flow = i, c.flowing(i)
				s.steps = append(s.steps, y)
			}
			continue
		case "cells":
			for i := range s.layouts {
				if s.layouts[i].ID == st.Target.At {
					x.layout = &s.layouts[i]
				}
			}
		default:
			all := c.appearances(st.Target.At)
			if len(all) == 0 {
				continue // a layout in which nothing stands, and that nobody reads
			}
			x.layer = all[0].layer
			if st.Property == scheme.Hidden && x.layer >= 0 && s.layers[x.layer].gone {
				continue
			}
			// Copies obey the same formula.
			for _, t := range all[1:] {
				y := x
				at, _ := t.at(st.Property)
				y.layer, y.slot = t.layer, at+max(0, st.Target.Part)
				s.steps = append(s.steps, y)
			}
		}
		s.steps = append(s.steps, x)
	}
	return nil
}

// appearance is one appearance of a thing: of which layer, and its numbers.
type appearance struct {
	layer int
	*thing
}

// appearances lists those of the thing that a path names: a layer, what is in
// it, or a layout that changes. They stand until a layer is added.
func (c *compiler) appearances(path string) (out []appearance) {
	s, part := c.s, strings.Split(path, "/")
	if part[0] == "layouts" {
		for i := range s.layouts {
			if l := &s.layouts[i]; l.ID == part[1] {
				out = append(out, appearance{-1, &l.thing})
			}
		}
		return out
	}
	if part[0] != "layers" {
		return nil
	}
	for _, i := range c.all[part[1]] {
		if t := s.layers[i].part(part[2:]); t != nil {
			out = append(out, appearance{i, t})
		}
	}
	return out
}

// part is the thing that the rest of a path names after its layer: that itself, or what is in it.
func (l *layer) part(path []string) *thing {
	among := func(things []thing, id string) *thing {
		for k := range things {
			if things[k].ID == id {
				return &things[k]
			}
		}
		return nil
	}
	masked := func(masks []mask, id string) *thing {
		for k := range masks {
			if masks[k].ID == id {
				return &masks[k].thing
			}
		}
		return nil
	}
	switch {
	case len(path) == 0:
		return &l.thing
	case path[0] == scheme.Masks.Plural:
		return masked(l.masks, path[1])
	case path[0] == scheme.Treatments.Plural:
		for k := range l.treats {
			switch t := &l.treats[k]; {
			case t.ID != path[1]:
			case len(path) == 2:
				return &t.thing
			default:
				return masked(t.masks, path[3])
			}
		}
	case path[0] == scheme.Highlights.Plural:
		for k := range l.highs {
			h := &l.highs[k]
			if h.ID == path[1] && len(path) == 2 {
				return &h.thing
			}
			for j := range h.lines {
				if h.ID == path[1] && len(path) > 3 && h.lines[j].ID == path[3] {
					return &h.lines[j]
				}
			}
		}
	case path[0] == scheme.Performances.Plural:
		return among(l.acts, path[1])
	case path[0] == scheme.Stops.Plural:
		return among(l.stops, path[1])
	case path[0] == scheme.Axes.Plural:
		return among(l.axes, path[1])
	}
	return nil
}

// cellTracks lists, for each layer in a layout that changes, the tracks of what the
// layout computes: they join what it computes anew.
func (c *compiler) cellTracks(l *layout) {
	s := c.s
	for _, i := range l.layers {
		var list []int
		for k := range s.tracks {
			n := s.tracks[k].slot - s.layers[i].slot
			if n >= sPlace && n < sPlace+2 || n >= sSize && n < sSize+2 || n >= sRadius && n < sRadius+4 {
				list = append(list, k)
			}
		}
		l.tracks = append(l.tracks, list)
	}
}

// place says where a name's number stands, and puts it there if it never changes.
func (c *compiler) place(n template.Name) int {
	s := c.s
	if n.Head == "value" {
		if all := c.appearances(n.At); len(all) > 0 {
			if at, _ := all[0].at(all[0].Sort().Property(n.Property)); at >= 0 {
				return at + max(0, n.Part)
			}
		}
	}
	if at, ok := c.names[n]; ok {
		return at
	}
	at := len(s.rest)
	c.names[n] = at
	switch n.Head {
	case "cells":
		return -1
	case "set", "behind":
		return -1
	case "cell", "box", "words":
		i := c.byID[n.At]
		v := 0.0
		if l := &s.layers[i]; n.Head == "cell" && l.cell != nil {
			v = l.cell.Size.W
			if n.Property == "h" {
				v = l.cell.Size.H
			}
			for k := range s.layouts {
				if s.layouts[k].ID == l.Text(scheme.CellLayout) {
					s.cellNames = append(s.cellNames, cellName{i, n.Property == "h", at})
				}
			}
		}
		s.rest = append(s.rest, v)
	case "time":
		s.rest = append(s.rest, 0)
		k := clock{n.Property, at, timing.Int(0)}
		if late, err := timing.ParseRat(n.At); err == nil {
			k.late = late
		}
		s.clocks = append(s.clocks, k)
	default:
		s.rest = append(s.rest, outside(c.r, c.lib, s.doc.Format(c.format), s.doc, n)...)
	}
	return at
}

// outside tells a number that formulas read and that never changes, or a colour's
// four.
func outside(r *sheet.Resolved, lib Library, f *template.Format, doc *template.Document, n template.Name) []float64 {
	wh := func(z geom.Size) []float64 {
		if n.Property == "w" {
			return []float64{z.W}
		}
		return []float64{z.H}
	}
	switch n.Head {
	case "canvas":
		return wh(f.Canvas())
	case "media":
		var info Info
		if m := r.Media(n.At); m != "" {
			info, _ = lib.Info(m)
		}
		switch {
		case n.Property == "w" || n.Property == "h":
			return wh(info.Size)
		case info.Clip == nil:
			return []float64{0}
		case n.Property == "seconds":
			return []float64{info.Clip.Seconds().Float()}
		}
		return []float64{info.Clip.Seconds().Mul(doc.Rate.Rat).Float()}
	case "entry":
		v, _ := r.Value(n.At)
		return doc.Sheet.Entry(n.At).Numbers(v)
	}
	return doc.Numbers(n)
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
