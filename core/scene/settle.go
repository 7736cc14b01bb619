package scene

import (
	"math"
	"slices"

	"ivypocket/core/geom"
	"ivypocket/core/scheme"
	"ivypocket/core/timing"
)

// clocks finds when the clip in each pocket begins: the first instant at which it
// is seen in any of the pocket's views, by their own trims and those of the groups
// they are in. All views run by that clock, each as much later as it is shifted.
func (c *compiler) clocks() {
	s := c.s
	begins := map[string]timing.Rat{}
	// By the view's own time, in which it is not shifted; what is not trimmed is
	// there from the template's beginning.
	seen := func(i int) timing.Rat {
		at, shift := timing.Int(0), s.layers[i].shift
		for ; i >= 0; i = s.layers[i].parent {
			if up := &s.layers[i]; up.Given(scheme.In) && up.in.Sub(shift).Cmp(at) > 0 {
				at = up.in.Sub(shift)
			}
		}
		return at
	}
	for i := range s.layers {
		l := &s.layers[i]
		if l.Kind != scheme.View || !l.first {
			continue
		}
		at := seen(i)
		if old, ok := begins[l.pocket]; !ok || at.Cmp(old) < 0 {
			begins[l.pocket] = at
		}
	}
	for i := range s.layers {
		if l := &s.layers[i]; l.Kind == scheme.View {
			l.begins = begins[l.pocket].Add(l.shift)
		}
	}
}

// filling readies a layer that fills a group whose size changes: its own keys join
// the group's size anew.
func (c *compiler) filling(i int) {
	l := &c.s.layers[i]
	l.changes = true
	for k := range c.s.tracks {
		if n := c.s.tracks[k].slot - l.slot; n >= sSize && n < sSize+2 {
			l.fills = append(l.fills, k)
		}
	}
}

// settle computes what follows from rest and from the whole of the motion:
// where layers stand, how media lies in its pocket, and the smallest zoom at
// which what must cover does so at every instant.
func (c *compiler) settle() {
	s := c.s
	st := s.states.New().(*state)
	// Where everything stands when no keys move it, but formulas are heeded.
	s.still = slices.Clone(s.rest)
	if len(s.steps) > 0 {
		copy(st.slots, s.rest)
		st.now = s.time.At(s.Poster())
		s.compute(st)
		copy(s.still, st.slots)
	}
	for i := range s.layers {
		l := &s.layers[i]
		l.changes = l.changes || l.Moves(scheme.Size)
		if l.cell != nil {
			l.changes = l.changes || slices.ContainsFunc(s.layouts, func(y layout) bool { return slices.Contains(y.layers, i) })
		}
	}
	var wild []wild
	for i := range s.layers {
		l := &s.layers[i]
		if l.media == "" || l.Kind != scheme.View {
			continue
		}
		box := geom.Size{W: s.still[l.slot+sSize], H: s.still[l.slot+sSize+1]}
		l.place = l.framing.Place(l.info.Size, box)
		formulas := false
		for _, p := range []*scheme.Property{scheme.ContentTurn, scheme.ContentPan, scheme.ContentZoom} {
			l.moving = l.moving || l.Given(p) || l.Moves(p)
			formulas = formulas || l.yielded(p)
		}
		if !l.moving || l.framing.Fit != geom.Cover {
			continue
		}
		if formulas || l.changes {
			wild = append(wild, wildContent(s, i))
			continue
		}
		from, to := l.in.Float(), l.out.Float()
		gone := c.sway(i, from, to, content)[3][0] < geom.LeastZoom
		need := geom.SmallestZoom(l.info.Size, box, from, to, func(a, b float64) geom.Sway {
			return l.swayed(box, [4][2]float64(c.sway(i, a, b, content)), gone)
		})
		l.enlarge(box, need*math.Max(box.W/l.info.Size.W, box.H/l.info.Size.H)/math.Abs(l.place.Scale[0]))
	}
	for i := range s.layers {
		l := &s.layers[i]
		if !l.On(scheme.Covers) {
			continue
		}
		if !c.plain(l) {
			wild = append(wild, wildCovers(s, i))
			continue
		}
		frame, box := s.owner(l, s.still), geom.Size{W: s.still[l.slot+sSize], H: s.still[l.slot+sSize+1]}
		fit := math.Max(frame.W/box.W, frame.H/box.H)
		off := geom.Point{X: (l.anchor[0] - 0.5) * (frame.W - box.W), Y: (l.anchor[1] - 0.5) * (frame.H - box.H)}
		from, to, which := l.in.Float(), l.out.Float(), []int{sPlace, sPlace + 1, sTurn, sScale, sScale + 1}
		whole := c.sway(i, from, to, which)
		gone := math.Min(least(whole[3]), least(whole[4])) < geom.LeastZoom
		l.covers = fit * geom.SmallestZoom(box, frame, from, to, func(a, b float64) geom.Sway {
			n := c.sway(i, a, b, which)
			return geom.Sway{
				Turn: n[2], X: [2]float64{off.X + n[0][0], off.X + n[0][1]}, Y: [2]float64{off.Y + n[1][0], off.Y + n[1][1]},
				Zoom: geom.Shrinks(math.Min(least(n[3]), least(n[4])), gone),
			}
		})
	}
	c.tame(wild)
	c.stand(st)
}

// stand finds where everything stands at rest. Whom a layer follows departs from
// its own rest, without formulas.
func (c *compiler) stand(st *state) {
	s := c.s
	copy(st.slots, s.rest)
	s.locate(st, true)
	for i := range s.layers {
		p := s.origin(st, i)
		s.layers[i].upon = [2]float64{p.X, p.Y}
	}
	copy(st.slots, s.still)
	s.locate(st, true)
	for i := range s.layers {
		l := &s.layers[i]
		l.rest = st.world[i]
		l.restSize = geom.Size{W: s.still[l.slot+sSize], H: s.still[l.slot+sSize+1]}
	}
}

// least is the least size of a factor between two, whichever way round.
func least(n [2]float64) float64 {
	if n[0] <= 0 && n[1] >= 0 {
		return 0
	}
	return math.Min(math.Abs(n[0]), math.Abs(n[1]))
}

// swayed bounds what a view's media does in its box, by bounds of its content's
// turn, pan and zoom.
func (l *layer) swayed(box geom.Size, n [4][2]float64, gone bool) geom.Sway {
	return geom.Sway{
		Turn: [2]float64{l.framing.Turn + n[0][0], l.framing.Turn + n[0][1]},
		X:    [2]float64{l.place.Offset.X + n[1][0]*box.W, l.place.Offset.X + n[1][1]*box.W},
		Y:    [2]float64{l.place.Offset.Y + n[2][0]*box.H, l.place.Offset.Y + n[2][1]*box.H},
		Zoom: geom.Shrinks(n[3][0], gone),
	}
}

// enlarge lets a view's media be larger by a factor, 1 at least.
func (l *layer) enlarge(box geom.Size, by float64) {
	l.safe = math.Max(1, by)
	l.place.Zoom *= l.safe
	l.place.Scale[0] *= l.safe
	l.place.Scale[1] *= l.safe
	l.place.Map = l.place.Moved(l.info.Size, box, 1, 0, [2]float64{})
	l.place.Covers = true
}

// yielded reports whether a formula yields a property or one of its numbers.
func (l *layer) yielded(p *scheme.Property) bool {
	if l.Formulas[p.Name] != "" {
		return true
	}
	for i := range p.Parts {
		if l.Formulas[p.Of(i)] != "" {
			return true
		}
	}
	return false
}

// plain reports whether a layer moves by place, turn and scale about its middle
// alone, in a box and within an owner that do not change: bounds of its keys then
// tell how far it must be enlarged.
func (c *compiler) plain(l *layer) bool {
	for _, p := range []*scheme.Property{scheme.Place, scheme.Turn, scheme.Scale} {
		if l.yielded(p) {
			return false
		}
	}
	for _, p := range []*scheme.Property{scheme.Skew, scheme.Origin, scheme.Corners} {
		if l.Given(p) || l.Moves(p) {
			return false
		}
	}
	return l.follow < 0 && !l.changes && !l.flows && l.spread == spread{scale: 1} && (l.parent < 0 || !c.s.layers[l.parent].changes)
}

// wild is a layer that must cover and whose motion is looked at instant by
// instant.
type wild struct {
	// factor is by how much it is made smaller at an instant, need by how much it
	// must be enlarged then; gone says that it shrinks to nothing at some time.
	factor func(st *state) float64
	need   func(st *state, gone bool) float64
	give   func(need float64)
}

// wildContent is a view whose media must cover its box, where that changes or
// formulas move the media.
func wildContent(s *Scene, i int) wild {
	l := &s.layers[i]
	return wild{
		factor: func(st *state) float64 { return st.slots[l.slot+sContentZoom] },
		need: func(st *state, gone bool) float64 {
			n := st.slots[l.slot:]
			box := geom.Size{W: n[sSize], H: n[sSize+1]}
			if box.Empty() {
				return 0
			}
			// How the media lies in the box as it is now, before it is moved.
			now := layer{framing: l.framing, place: l.framing.Place(l.info.Size, box)}
			var at [4][2]float64
			for k, w := range content {
				at[k] = [2]float64{n[w], n[w]}
			}
			fit := math.Max(box.W/l.info.Size.W, box.H/l.info.Size.H)
			return geom.ZoomFor(l.info.Size, box, now.swayed(box, at, gone)) * fit / math.Abs(now.place.Scale[0])
		},
		give: func(need float64) {
			l.enlarge(geom.Size{W: s.still[l.slot+sSize], H: s.still[l.slot+sSize+1]}, need)
		},
	}
}

// wildCovers is a layer that must cover its canvas or group, however it moves.
func wildCovers(s *Scene, i int) wild {
	l := &s.layers[i]
	scale := func(st *state) float64 {
		n := st.slots[l.slot:]
		return math.Min(math.Abs(n[sScale]), math.Abs(n[sScale+1]))
	}
	return wild{
		factor: scale,
		need: func(st *state, gone bool) float64 {
			n := st.slots[l.slot:]
			box := geom.Box{W: n[sSize], H: n[sSize+1]}
			if !l.shown(st) || box.Size().Empty() {
				return 0
			}
			m, form := s.stance(st, i, false)
			if form == nil {
				corners := box.Corners()
				form = corners[:]
			}
			inv, ok := m.Invert()
			if !ok {
				return 0 // flat: nothing is seen
			}
			own := s.owner(l, st.slots)
			need := geom.Reach(form, geom.Point{X: n[sOrigin] * box.W, Y: n[sOrigin+1] * box.H}, inv, geom.Box{W: own.W, H: own.H})
			if z := scale(st); gone && z < 1 {
				need *= z
			}
			return need
		},
		give: func(need float64) { l.covers = need },
	}
}

// maxInstants bounds how many instants are looked at.
const maxInstants = 4096

// tame looks at wild layers at every half frame, or at some thousand instants of
// a longer template, and closer where they need most.
func (c *compiler) tame(list []wild) {
	if len(list) == 0 {
		return
	}
	s := c.s
	st := s.states.New().(*state)
	at := func(t float64) {
		s.evaluate(st, s.time.Moment(s.time.Output(timing.TemplateTime{Rat: timing.NewRat(int64(math.Round(t*1000)), 1000)})))
		s.locate(st, false)
	}
	n := int(min(maxInstants, 2*s.doc.Frames))
	step := float64(s.doc.Frames) / float64(n)
	needs, gone := make([][]float64, len(list)), make([]bool, len(list))
	for k := range n + 1 {
		at(float64(k) * step)
		for i, w := range list {
			gone[i] = gone[i] || w.factor(st) < geom.LeastZoom
		}
	}
	for k := range n + 1 {
		at(float64(k) * step)
		for i, w := range list {
			needs[i] = append(needs[i], w.need(st, gone[i]))
		}
	}
	for i, w := range list {
		most := 0.0
		for _, k := range peaks(needs[i]) {
			a, b := math.Max(0, float64(k-1)*step), math.Min(float64(s.doc.Frames), float64(k+1)*step)
			top := needs[i][k]
			for range 24 { // to a hundred-thousandth of the way between them
				p, q := a+(b-a)/3, b-(b-a)/3
				at(p)
				u := w.need(st, gone[i])
				at(q)
				v := w.need(st, gone[i])
				if top = math.Max(top, math.Max(u, v)); u < v {
					a = p
				} else {
					b = q
				}
			}
			most = math.Max(most, top)
		}
		if most > 0 {
			w.give(most * (1 + 1e-6))
		}
	}
}

// peaks lists the few places where most is needed.
func peaks(v []float64) []int {
	var out []int
	for k := range v {
		if (k == 0 || v[k] >= v[k-1]) && (k == len(v)-1 || v[k] > v[k+1]) {
			out = append(out, k)
		}
	}
	slices.SortFunc(out, func(a, b int) int {
		switch {
		case v[a] > v[b]:
			return -1
		case v[a] < v[b]:
			return 1
		}
		return 0
	})
	return out[:min(len(out), 6)]
}

// sway bounds some of a layer's numbers, which no formula yields, between two
// instants of the template.
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
		if t.idle {
			continue
		}
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
			p, q := lo[n], hi[n]
			if t.unit > 0 {
				u := s.unit(&t, s.rest, n)
				p, q = p*u, q*u
			}
			// Keys of the whole and of one number join one after another.
			switch r := out[k]; t.join {
			case scheme.Plus:
				p, q = r[0]+p, r[1]+q
			case scheme.Times:
				v := []float64{r[0] * p, r[0] * q, r[1] * p, r[1] * q}
				p, q = slices.Min(v), slices.Max(v)
			}
			out[k] = [2]float64{math.Min(p, q), math.Max(p, q)}
		}
	}
	return out
}
