package scene

import (
	"math"
	"math/rand/v2"
	"slices"
	"sync/atomic"

	"ivypocket/core/geom"
	"ivypocket/core/raster"
	"ivypocket/core/scheme"
	"ivypocket/core/timing"
	"ivypocket/core/words"
)

// reveal is a move that the lines, words or letters of a layer perform one after another.
type reveal struct {
	by, order  string
	each       float64 // frames from one to the next
	seed       uint64
	cut        bool    // at the edges of its line
	back       bool    // it leads away from rest
	begin, end float64 // the frames at which the first of them begins and has done it
	tracks     []int
	masks      []mask
	treats     []treat
	// last are the units of the setting that was seen last.
	last atomic.Pointer[units]
}

// units are the parts of a setting that perform.
type units struct {
	of   *words.Setting
	each []part
}

// part is a line, a word or a letter of a setting.
type part struct {
	from, to int // letters
	line     int
	box      geom.Box
	late     float64 // frames after the first
	whole    *geom.Outlines
}

// reveals takes what the parts of a layer's words perform out of what the layer does as a
// whole. Its tracks are those from one index on.
func (c *compiler) reveals(l *layer, from int) {
	if l.Kind != scheme.Words {
		return
	}
	s := c.s
	for _, a := range l.acts {
		by := a.Text(scheme.PerformedBy)
		if by == scheme.PerformedBy.Words[0] || a.On(scheme.PerformedOff) {
			continue
		}
		r := &reveal{by: by, order: a.Text(scheme.PerformedOrder), each: a.Number(scheme.PerformedEach), seed: uint64(int64(a.Number(scheme.PerformedSeed))), cut: a.On(scheme.PerformedCut), back: a.On(scheme.PerformedBack), begin: a.Number(scheme.PerformedAt), end: a.Number(scheme.PerformedAt) + a.Number(scheme.PerformedLong)}
		inside := map[int]bool{}
		own := func(t *thing) {
			for k := range len(t.Sort().Defaults()) {
				inside[t.slot+k] = true
			}
		}
		l.masks = slices.DeleteFunc(l.masks, func(m mask) bool {
			if m.Along() != a.ID {
				return false
			}
			r.masks = append(r.masks, m)
			return true
		})
		l.treats = slices.DeleteFunc(l.treats, func(t treat) bool {
			if t.Along() != a.ID {
				return false
			}
			r.treats = append(r.treats, t)
			return true
		})
		for i := range r.masks {
			own(&r.masks[i].thing)
		}
		for i := range r.treats {
			own(&r.treats[i].thing)
			for k := range r.treats[i].masks {
				own(&r.treats[i].masks[k].thing)
			}
		}
		for k := from; k < len(s.tracks); k++ {
			d := &s.tracks[k]
			if inside[d.slot] || d.by == a.ID && d.slot >= l.slot && d.slot < l.slot+len(l.Sort().Defaults()) {
				d.idle = true
				r.tracks = append(r.tracks, k)
			}
		}
		l.reveals = append(l.reveals, r)
	}
}

// unitsOf parts a setting, and says how late each part is.
func (r *reveal) unitsOf(v *words.Setting) []part {
	if u := r.last.Load(); u != nil && u.of == v {
		return u.each
	}
	var out []part
	same := func(a, b *words.Letter) bool {
		switch r.by {
		case "line":
			return a.Line == b.Line
		case "word":
			return a.Line == b.Line && a.Word == b.Word
		}
		return false
	}
	for i := range v.Letters {
		m := &v.Letters[i]
		if m.Blank {
			continue
		}
		if n := len(out); n > 0 && same(&v.Letters[out[n-1].from], m) {
			out[n-1].to = i + 1
			continue
		}
		out = append(out, part{from: i, to: i + 1, line: m.Line})
	}
	for i := range out {
		p := &out[i]
		x0, x1 := math.Inf(1), math.Inf(-1)
		for _, m := range v.Letters[p.from:p.to] {
			x0, x1 = math.Min(x0, m.X), math.Max(x1, m.X+m.Advance)
		}
		l := v.Lines[p.line]
		p.box = geom.Box{X: x0, Y: l.Top, W: x1 - x0, H: l.Bottom - l.Top}
		p.whole = v.Outline(p.from, p.to)
	}
	for i, turn := range turns(len(out), r.order, r.seed) {
		out[i].late = turn * r.each
	}
	r.last.Store(&units{v, out})
	return out
}

// turns are whose turn it is among n that come one after another: 0 is the first.
func turns(n int, order string, seed uint64) []float64 {
	out := make([]float64, n)
	mid := float64(n-1) / 2
	for i := range out {
		switch far := math.Floor(math.Abs(float64(i) - mid)); order {
		case "backwards":
			out[i] = float64(n - 1 - i)
		case "from the middle":
			out[i] = far
		case "to the middle":
			out[i] = math.Floor(mid) - far
		default:
			out[i] = float64(i)
		}
	}
	if order == "at random" {
		for i, k := range rand.New(rand.NewPCG(seed, 0x9e3779b9)).Perm(n) {
			out[i] = float64(k)
		}
	}
	return out
}

// departure is how a part departs from where it rests.
type departure struct {
	x, y, turn, opacity float64
	scale, skew         [2]float64
	fill                [4]float64
	filled              bool
	masks, treats       bool
}

// atRest reports whether nothing departs.
func (d *departure) atRest() bool {
	return d.x == 0 && d.y == 0 && d.turn == 0 && d.opacity == 1 && d.scale == [2]float64{1, 1} && d.skew == [2]float64{} && !d.filled
}

// depart adds what a reveal lets a part do at an instant of the layer's own time. The numbers
// of its masks and treatments are put where they are then.
func (w *writer) depart(d *departure, r *reveal, st *state, l *layer, p *part) {
	s := w.s
	at := st.now.Template.Rat
	if l.delay.N != 0 {
		at = at.Sub(l.delay)
	}
	at = at.Sub(timing.NewRat(int64(math.Round(p.late*1000)), 1000))
	moved := func(t *thing) { copy(st.slots[t.slot:t.slot+len(t.Sort().Defaults())], s.rest[t.slot:]) }
	for i := range r.masks {
		moved(&r.masks[i].thing)
	}
	for i := range r.treats {
		moved(&r.treats[i].thing)
		for k := range r.treats[i].masks {
			moved(&r.treats[i].masks[k].thing)
		}
	}
	for _, k := range r.tracks {
		t := &s.tracks[k]
		n := t.track.Width()
		if n > 16 {
			continue
		}
		var small [16]float64
		v := small[:n]
		t.track.Value(timing.TemplateTime{Rat: at}, v)
		slot := t.slot - l.slot
		if slot < 0 || slot >= len(l.Sort().Defaults()) { // of a mask or a treatment
			to := st.slots[t.slot : t.slot+n]
			for j := range v {
				switch {
				case t.join == scheme.Instead:
					to[j] = v[j]
				case t.join == scheme.Times:
					to[j] *= v[j]
				default:
					to[j] += v[j] * w.partUnit(t, p, j)
				}
			}
			continue
		}
		for j := range v {
			switch to := slot + j; {
			case to == sPlace:
				d.x += v[j] * w.partUnit(t, p, j)
			case to == sPlace+1:
				d.y += v[j] * w.partUnit(t, p, j)
			case to == sTurn:
				d.turn += v[j]
			case to == sOpacity:
				d.opacity *= v[j]
			case to == sScale || to == sScale+1:
				d.scale[to-sScale] *= v[j]
			case to == sSkew || to == sSkew+1:
				d.skew[to-sSkew] += v[j]
			case to >= sFill && to < sFill+4:
				d.fill[to-sFill], d.filled = v[j], true
			}
		}
	}
}

// partUnit is how many pixels 1 is for a component of a track that adds lengths: of the
// canvas, or of the part's own box.
func (w *writer) partUnit(t *driven, p *part, component int) float64 {
	if t.unit == 0 {
		return 1
	}
	width, height := w.s.canvas.W, w.s.canvas.H
	if t.unit == 2 {
		width, height = p.box.W, p.box.H
	}
	switch {
	case t.axis < 0:
		return math.Min(width, height)
	case (int(t.axis)+component)%2 == 0:
		return width
	}
	return height
}

// way is a departure as a map of the layer's pixels, about the middle of the part.
func (d *departure) way(p *part) geom.Affine {
	c := p.box.Centre()
	m := geom.Translate(-c.X, -c.Y).Then(geom.Scale(d.scale[0], d.scale[1]))
	if d.skew != [2]float64{} {
		m = m.Then(geom.Affine{A: 1, B: math.Tan(d.skew[1] * math.Pi / 180), C: math.Tan(d.skew[0] * math.Pi / 180), D: 1})
	}
	if d.turn != 0 {
		m = m.Then(geom.Rotate(d.turn))
	}
	return m.Then(geom.Translate(c.X+d.x, c.Y+d.y))
}

// parted lists what a layer says part by part, as far as any departs from where it rests; ok is
// false where none does.
func (g *Drawing) parted(v *words.Setting) (ok bool) {
	w, l, st := g.w, g.l, g.st
	r := l.reveals[0]
	list := r.unitsOf(v)
	// What the others part otherwise goes by the letters that are in it.
	more := make([][]part, len(l.reveals))
	for k, o := range l.reveals {
		if o.by == r.by || finer(o.by, r.by) {
			r, list = o, o.unitsOf(v)
		}
		more[k] = o.unitsOf(v)
	}
	departs := make([]departure, len(list))
	any := false
	for i := range list {
		d := departure{opacity: 1, scale: [2]float64{1, 1}}
		for k, o := range l.reveals {
			p := &list[i]
			if o != r {
				p = holder(more[k], list[i].from)
			}
			if p == nil {
				continue
			}
			w.depart(&d, o, st, l, p)
			d.masks, d.treats = d.masks || len(o.masks) > 0 && !w.over(o, st, l, p), d.treats || len(o.treats) > 0 && !w.over(o, st, l, p)
		}
		if fill := st.slots[l.slot+sFill : l.slot+sFill+4]; d.filled && d.fill == [4]float64(fill) {
			d.filled = false
		}
		departs[i] = d
		any = any || !d.atRest() || d.masks || d.treats
	}
	if !any {
		return false
	}
	it := g.Item
	defer g.grouped()()
	it = g.Item
	// What rests lies together, beneath what moves.
	for i := 0; i < len(list); {
		j := i
		for j < len(list) && departs[j].atRest() && !departs[j].treats && !departs[j].masks {
			j++
		}
		if j > i {
			g.letters(it, v.Outline(list[i].from, list[j-1].to))
			i = j
			continue
		}
		g.part(it, v, &list[i], &departs[i], more)
		i++
	}
	return true
}

// finer reports whether parts of one sort are smaller than those of another.
func finer(a, b string) bool {
	rank := map[string]int{"line": 0, "word": 1, "letter": 2}
	return rank[a] > rank[b]
}

// holder finds the part in which a letter is.
func holder(list []part, letter int) *part {
	for i := range list {
		if letter >= list[i].from && letter < list[i].to {
			return &list[i]
		}
	}
	return nil
}

// over reports whether a part is at rest as far as a reveal goes: it has done all of it, or, of
// one that leads away, has not begun. What cuts or treats it on the way is not there then.
func (w *writer) over(r *reveal, st *state, l *layer, p *part) bool {
	at := st.now.Template.Rat
	if l.delay.N != 0 {
		at = at.Sub(l.delay)
	}
	at = at.Sub(timing.NewRat(int64(math.Round(p.late*1000)), 1000))
	if r.back {
		return at.Float() <= r.begin
	}
	return at.Float() >= r.end
}

// part lists one part where it is.
func (d *Drawing) part(it Item, v *words.Setting, p *part, by *departure, more [][]part) {
	w, l, st := d.w, d.l, d.st
	if by.opacity <= 0 {
		return
	}
	it.Map = by.way(p).Flat().Then(it.Map)
	it.Masks[0] = len(w.l.Masks)
	var steps []Done
	for k, r := range l.reveals {
		of := holder(more[k], p.from)
		if of == nil {
			continue
		}
		if r.cut && !by.atRest() {
			ln := v.Lines[p.line]
			far := 4 * math.Max(w.s.canvas.W, w.s.canvas.H)
			m := Mask{Form: geom.Form{Kind: geom.Rectangle, Size: geom.Size{W: 2*far + ln.Right - ln.Left, H: ln.Bottom - ln.Top}}, Opacity: 1,
				Map: geom.Translate(ln.Left-far, ln.Top).Flat().Then(d.Item.Map)}
			if len(w.l.Masks) > it.Masks[0] {
				m.Mode = raster.IntersectMask
			}
			w.l.Masks = append(w.l.Masks, m)
		}
		if len(r.masks) == 0 && len(r.treats) == 0 || w.over(r, st, l, of) {
			continue
		}
		var again departure
		w.depart(&again, r, st, l, of) // its numbers, as they are for this part
		up := geom.Translate(of.box.X, of.box.Y).Flat().Then(it.Map)
		if len(r.masks) > 0 {
			w.masksOn(st, r.masks, up, of.box.Size())
		}
		way := w.device
		if alone, ok := st.local[d.i].Affine.Invert(); ok {
			way = alone.Then(st.world[d.i].Affine)
		}
		steps = append(steps, w.stepsOn(st, r.treats, way, up, of.box.Size())...)
	}
	it.Masks[1] = len(w.l.Masks)
	it.Opacity *= by.opacity
	draw := func(it Item) {
		from := len(w.l.Items)
		d.letters(it, p.whole)
		if by.filled {
			for k := from; k < len(w.l.Items); k++ {
				if w.l.Items[k].Kind == FillItem && w.l.Items[k].Gradient == nil {
					w.l.Items[k].Colour = colourOf(by.fill[:])
				}
			}
		}
	}
	if len(steps) > 0 {
		w.treated(it, steps, draw)
		return
	}
	draw(it)
}
