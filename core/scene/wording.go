package scene

import (
	"math"
	"slices"
	"sync/atomic"

	"ivypocket/core/geom"
	"ivypocket/core/raster"
	"ivypocket/core/scheme"
	"ivypocket/core/template"
	"ivypocket/core/timing"
	"ivypocket/core/words"
)

// Faces are the families that words may be set in.
type Faces interface {
	// Face finds one by the id of a face that ships or the hash of a font file; nil is none.
	Face(id string) *words.Family
	// Named lists those that people are offered.
	Named() []words.Named
	// Letters sets wordings, and remembers what it has set.
	Letters() *words.Setter
}

// wording is what an appearance of a layer says, with all that is settled once.
type wording struct {
	layer int
	spec  words.Spec
	// missing says that its face is not there and another stands in.
	missing bool
	// counts says that it is a counter's; unit and locale are what it says besides.
	counts       bool
	unit, locale string
	// last is what was set last: an instant like the one before costs nothing.
	last atomic.Pointer[lastSet]
}

// lastSet is a setting and the numbers that it was made by.
type lastSet struct {
	by  [wordNumbers]float64
	set *words.Setting
}

// wordNumbers is how many numbers of an instant a setting depends on.
const wordNumbers = 36 + scheme.MaxAxes

// letter readies a layer that shows letters.
func (c *compiler) letter(l *layer, me int) {
	l.words = -1
	if !l.Can(scheme.Lettered) {
		return
	}
	w := scheme.Wording
	x := &wording{layer: me}
	x.spec.Text, x.spec.Language, x.spec.Sign = l.Text(w.Text), l.Text(w.Language), l.Text(w.Sign)
	if x.counts = l.Kind == scheme.Counter; x.counts {
		x.unit, x.locale = l.Text(w.Unit), l.Text(w.Locale)
	}
	if x.spec.Family = c.lib.Face(l.Text(w.Face)); x.spec.Family == nil {
		x.missing, x.spec.Family = true, c.lib.Face(w.Face.Default.Text)
	}
	l.words = len(c.s.wordings)
	c.s.wordings = append(c.s.wordings, x)
}

// wordSlots are where the numbers of a wording stand, besides its box.
var wordSlots = func() (out []int) {
	w := scheme.Wording
	for _, p := range []*scheme.Property{w.Size, w.Weight, w.Italic, w.Leading, w.Tracking, w.Align, w.Stand, w.Case, w.Figures, w.Edges, w.Rise, w.Paragraph, w.Direction, w.Ligatures, w.Kerning,
		w.Lines, w.Least, w.By[0], w.By[1], w.By[2], w.By[3], w.Closest, w.Even,
		w.From, w.To, w.Done, w.Turns, w.Decimals, w.UnitFirst, w.UnitApart, w.Digits, w.Bare, w.Plus} {
		out = append(out, p.Slot())
	}
	return out
}()

// set sets the wording of an appearance at an instant. at is the size that it has to
// keep, 0 for its own.
func (s *Scene) set(slots []float64, i int, at float64) *words.Setting {
	x := s.wordings[s.layers[i].words]
	n := slots[s.layers[i].slot:]
	var by [wordNumbers]float64
	for k, slot := range wordSlots {
		by[k] = n[slot]
	}
	by[wordNumbers-2], by[wordNumbers-1] = n[sSize], n[sSize+1]
	for k := range s.layers[i].axes {
		by[len(wordSlots)+k] = slots[s.layers[i].axes[k].slot+scheme.AxisValue.Slot()]
	}
	steps := s.layers[i].numbers(scheme.Wording.Steps, slots)
	for k, v := range steps { // a list that moves is another list
		by[wordNumbers-3] += v * float64(k+1)
	}
	if last := x.last.Load(); at == 0 && last != nil && last.by == by {
		return last.set
	}
	w := scheme.Wording
	sp := x.spec
	number := func(p *scheme.Property) float64 { return n[p.Slot()] }
	word := func(p *scheme.Property) string {
		return p.Words[min(max(0, int(number(p))), len(p.Words)-1)]
	}
	sp.Size, sp.Weight, sp.Italic = number(w.Size), math.Max(1, math.Min(1000, number(w.Weight))), number(w.Italic) != 0
	sp.Leading, sp.Tracking, sp.Rise, sp.Paragraph = number(w.Leading), number(w.Tracking), number(w.Rise), number(w.Paragraph)
	sp.Align, sp.Stand, sp.Case, sp.Figures, sp.Edges, sp.Direction = words.Align(word(w.Align)), words.Stand(word(w.Stand)), words.Case(word(w.Case)), words.Figures(word(w.Figures)),
		words.Edges(word(w.Edges)), words.Direction(word(w.Direction))
	sp.NoLigatures, sp.NoKerning = number(w.Ligatures) == 0, number(w.Kerning) == 0
	sp.Lines, sp.Least, sp.Closest, sp.Even = int(number(w.Lines)), number(w.Least), number(w.Closest), number(w.Even) != 0
	for k := range s.layers[i].axes {
		sp.Axes = append(sp.Axes, words.AxisValue{Tag: s.layers[i].axes[k].Text(scheme.AxisTag), Value: by[len(wordSlots)+k]})
	}
	for _, p := range w.By {
		if m := word(p); m != p.Words[0] {
			sp.By = append(sp.By, words.Means(m))
		}
	}
	sp.W, sp.H, sp.At = n[sSize], n[sSize+1], at
	var set *words.Setting
	if x.counts {
		set = s.setter.Count(&sp, &words.Counter{Values: slices.Concat([]float64{number(w.From)}, steps, []float64{number(w.To)}), Done: number(w.Done), Roll: number(w.Turns) == 0, Decimals: int(number(w.Decimals)),
			Digits: int(number(w.Digits)), Locale: x.locale, Plain: number(w.Bare) != 0, Plus: number(w.Plus) != 0, Unit: x.unit, Before: number(w.UnitFirst) != 0, Apart: number(w.UnitApart) != 0})
	} else {
		set = s.setter.Set(&sp)
	}
	if at == 0 {
		x.last.Store(&lastSet{by, set})
	}
	return set
}

// setAll sets what belongs to a step: words that keep one size are set anew at the
// smallest that any of them found.
func (s *Scene) setAll(slots []float64, layers []int, to []*words.Setting) {
	least := math.Inf(1)
	for _, i := range layers {
		v := s.set(slots, i, 0)
		to[s.layers[i].words] = v
		if !v.Empty() && slots[s.layers[i].slot+sHidden] == 0 {
			least = math.Min(least, v.Size)
		}
	}
	if len(layers) < 2 || s.layers[layers[0]].Text(scheme.Wording.Together) == "" {
		return
	}
	for _, i := range layers {
		if v := to[s.layers[i].words]; v.Size > least {
			to[s.layers[i].words] = s.set(slots, i, least)
		}
	}
}

// extent is what of a layer's box others see: all of it, or, of words, as much as they
// fill.
func (s *Scene) extent(i int, slots []float64, set []*words.Setting) geom.Box {
	l := &s.layers[i]
	if l.words >= 0 && set[l.words] != nil {
		return set[l.words].Box
	}
	return geom.Box{W: slots[l.slot+sSize], H: slots[l.slot+sSize+1]}
}

// worded is a number of a layer's words as formulas read it: how large they are as scaled,
// their sides from the middle of the canvas or group, how many lines they are, and their
// size.
func (s *Scene) worded(i int, st *state, what string) float64 {
	l := &s.layers[i]
	v := st.set[l.words]
	if v == nil {
		return 0
	}
	switch what {
	case "lines":
		return float64(len(v.Lines))
	case "size":
		return v.Size
	}
	return side(s.upright(i, st.slots, v.Box), what)
}

// side is a number of an upright box by its name.
func side(b geom.Box, what string) float64 {
	switch what {
	case "w":
		return b.W
	case "h":
		return b.H
	case "left":
		return b.X
	case "right":
		return b.X + b.W
	case "top":
		return b.Y
	}
	return b.Y + b.H
}

// upright is where a part of a layer's box lies, as it is scaled and not turned, from the
// middle of the canvas or group.
func (s *Scene) upright(i int, slots []float64, part geom.Box) geom.Box {
	l := &s.layers[i]
	n := slots[l.slot:]
	own := s.owner(l, slots)
	kx, ky := math.Abs(n[sScale]), math.Abs(n[sScale+1])
	cx := n[sPlace] + (l.anchor[0]-0.5)*(own.W-n[sSize])
	cy := n[sPlace+1] + (l.anchor[1]-0.5)*(own.H-n[sSize+1])
	return geom.Box{X: cx + (part.X-n[sSize]/2)*kx, Y: cy + (part.Y-n[sSize+1]/2)*ky, W: part.W * kx, H: part.H * ky}
}

// behind puts a backing behind the words that it is of: as large as they are with room
// around them, within its limits.
func (s *Scene) behind(i int, st *state) {
	l := &s.layers[i]
	n := st.slots[l.slot:]
	v := st.set[s.layers[l.backs].words]
	b := s.upright(l.backs, st.slots, v.Box)
	pad := n[scheme.BackPadding.Slot() : scheme.BackPadding.Slot()+4] // top, right, bottom, left
	b = geom.Box{X: b.X - pad[3], Y: b.Y - pad[0], W: b.W + pad[1] + pad[3], H: b.H + pad[0] + pad[2]}
	least, most := n[scheme.BackLeast.Slot():], n[scheme.BackMost.Slot():]
	held := func(at, long *float64, least, most float64) {
		mid := *at + *long/2
		if most > 0 {
			*long = math.Min(*long, most)
		}
		*long = math.Max(*long, least)
		*at = mid - *long/2
	}
	held(&b.X, &b.W, least[0], most[0])
	held(&b.Y, &b.H, least[1], most[1])
	own := s.owner(l, st.slots)
	n[sSize], n[sSize+1] = b.W, b.H
	n[sPlace] = b.X + b.W/2 - (l.anchor[0]-0.5)*(own.W-b.W)
	n[sPlace+1] = b.Y + b.H/2 - (l.anchor[1]-0.5)*(own.H-b.H)
	if v.Empty() { // nothing to be behind of
		n[sSize], n[sSize+1] = 0, 0
	}
}

// words lists what a layer says: its letters, filled and stroked.
func (d *Drawing) words() {
	v := d.st.set[d.l.words]
	if v == nil || v.Empty() {
		return
	}
	if len(d.l.highs) > 0 {
		defer d.grouped()()
		d.highlights(v, false)
		defer d.highlights(v, true)
	}
	if len(d.l.reveals) > 0 && d.parted(v) {
		return
	}
	d.letters(d.Item, v.Whole())
}

// grouped begins what is drawn as one where the layer is not opaque or is cut; what it returns
// ends it.
func (d *Drawing) grouped() func() {
	w, it := d.w, d.Item
	if it.Opacity == 1 && it.Blend == raster.Normal && it.Masks[0] == it.Masks[1] && it.Matte == 0 {
		return func() {}
	}
	at := w.open(Item{Layer: it.Layer, Kind: GroupItem, Opacity: it.Opacity, Blend: it.Blend, Isolated: true, Masks: it.Masks, Matte: it.Matte, Luma: it.Luma, InvertMatte: it.InvertMatte})
	d.Item.Opacity, d.Item.Blend, d.Item.Masks, d.Item.Matte = 1, raster.Normal, [2]int{}, 0
	return func() {
		w.close(at)
		if g := &w.l.Items[at]; g.Span == 0 || !w.seen(g.Box) {
			w.l.Items = w.l.Items[:at]
		}
	}
}

// counter lists figures; those that turn are cut at their line.
func (d *Drawing) counter() {
	v := d.st.set[d.l.words]
	if v == nil || len(v.Letters) == 0 {
		return
	}
	if v.Turning == 0 {
		d.letters(d.Item, v.Whole())
		return
	}
	defer d.grouped()()
	still := len(v.Letters) - v.Turning
	d.letters(d.Item, v.Outline(0, still))
	defer d.grouped()()
	it := &d.Item
	line := v.Lines[0]
	// Round digits reach a little over the line, and must not lose that when they begin to turn.
	far, over := v.Size, 0.03*v.Size
	it.Masks[0] = len(d.w.l.Masks)
	d.w.l.Masks = append(d.w.l.Masks, Mask{Form: geom.Form{Kind: geom.Rectangle, Size: geom.Size{W: line.Right - line.Left + 2*far, H: line.Bottom - line.Top + 2*over}}, Opacity: 1,
		Map: geom.Translate(line.Left-far, line.Top-over).Flat().Then(it.Map)})
	it.Masks[1] = len(d.w.l.Masks)
	d.letters(*it, v.Outline(still, len(v.Letters)))
}

// letters lists outlines of letters in the layer's pixels.
func (d *Drawing) letters(it Item, o *geom.Outlines) {
	quad, ok := it.Map.Quad(o.Box)
	if !ok || o.Box.Size().Empty() {
		return
	}
	it.Form.Kind, it.Form.Letters = geom.Lettered, o
	it.Box = geom.Bounds(quad[:]...)
	d.inked(it)
}

// Reads is what a layer of letters reads when all is done: its wording, or the figure that it
// comes to.
func Reads(y *template.Node) string {
	w := scheme.Wording
	if y.Kind != scheme.Counter {
		return y.Text(w.Text)
	}
	to := y.Number(w.To)
	c := words.Counter{Values: []float64{to, to}, Done: 1, Decimals: int(y.Number(w.Decimals)), Digits: int(y.Number(w.Digits)), Locale: y.Text(w.Locale), Plain: y.On(w.Bare), Plus: y.On(w.Plus),
		Unit: y.Text(w.Unit), Before: y.On(w.UnitFirst), Apart: y.On(w.UnitApart)}
	return c.Text()
}

// Said is what a layer says at an instant.
type Said struct {
	Layer string
	Text  string
	// Face is its family; Missing says that another stands in for it.
	Face    *words.Family
	Missing bool
	Set     *words.Setting
	// Map takes px of the layer's box, from its top left corner, to the canvas'.
	Map geom.Projective
	// Shown says that it is drawn at the instant.
	Shown bool
}

// Said tells the words of all layers at an instant, of the first of their copies.
func (s *Scene) Said(now timing.Instant) (out []Said) {
	st := s.states.Get().(*state)
	defer s.states.Put(st)
	s.stand(st, now, geom.Identity)
	for i := range s.layers {
		l := &s.layers[i]
		if l.words < 0 || !l.first || st.set[l.words] == nil || l.Kind != scheme.Words {
			continue
		}
		x := s.wordings[l.words]
		shown := l.shown(st) && st.slots[l.slot+sHidden] == 0
		for p := l.parent; p >= 0; p = s.layers[p].parent {
			shown = shown && s.layers[p].shown(st) && st.slots[s.layers[p].slot+sHidden] == 0
		}
		out = append(out, Said{Layer: l.ID, Text: x.spec.Text, Face: x.spec.Family, Missing: x.missing, Set: st.set[l.words], Map: st.world[i], Shown: shown})
	}
	return out
}

// setting are the appearances whose words are set in one step: those of a layer, or of all
// layers that keep one size with it.
func (c *compiler) setting(id string) (out []int) {
	together := c.s.layers[c.byID[id]].Text(scheme.Wording.Together)
	for i := range c.s.layers {
		if l := &c.s.layers[i]; l.words >= 0 && (l.ID == id || together != "" && l.Text(scheme.Wording.Together) == together) {
			out = append(out, i)
		}
	}
	return out
}

// backed finds the words that a shape is behind of.
func (c *compiler) backed(i int) {
	s := c.s
	l := &s.layers[i]
	l.backs = -1
	id := l.Text(scheme.BackOf)
	if id == "" {
		return
	}
	for _, k := range c.all[id] {
		if s.layers[k].parent == l.parent && s.layers[k].words >= 0 {
			l.backs, l.changes = k, true
			return
		}
	}
}
