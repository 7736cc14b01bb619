package scene

import (
	"math"

	"ivypocket/core/geom"
	"ivypocket/core/scheme"
	"ivypocket/core/timing"
)

// Pose is how a layer lies on its canvas or in its group, in numbers. Lengths are
// px, angles degrees, the rest shares and factors.
type Pose struct {
	// Owner is the size of the canvas or group, Size that of the layer's own box.
	Owner, Size geom.Size
	// Anchor is the point of both boxes that Place counts from and is put at.
	Anchor, Place       [2]float64
	Scale, Skew, Origin [2]float64
	Turn                float64
	Corners             [8]float64 // by how much each is moved, clockwise from the top left
}

// Map takes the layer's own pixels, from its top left corner, to those of its canvas
// or group; ok is false when no eye sees it.
func (p Pose) Map() (m geom.Projective, ok bool) {
	a, form := p.lie(true)
	if form == nil {
		return a.Flat(), true
	}
	q, ok := geom.Quad(geom.Box{W: p.Size.W, H: p.Size.H}, [4]geom.Point(form))
	return q.Then(a.Flat()), ok
}

// lie is Map in two steps: the four corners before it, where they are moved, and what
// comes then. What does not move stands at its owner's corner.
func (p *Pose) lie(moves bool) (m geom.Affine, form []geom.Point) {
	w, h := p.Size.W, p.Size.H
	left := p.Anchor[0]*(p.Owner.W-w) + p.Place[0]
	top := p.Anchor[1]*(p.Owner.H-h) + p.Place[1]
	if !moves {
		left, top = 0, 0
	}
	ox, oy := p.Origin[0]*w, p.Origin[1]*h
	m = geom.Translate(-ox, -oy).Then(geom.Scale(p.Scale[0], p.Scale[1]))
	if p.Skew != [2]float64{} {
		m = m.Then(geom.Affine{A: 1, B: math.Tan(p.Skew[1] * math.Pi / 180), C: math.Tan(p.Skew[0] * math.Pi / 180), D: 1})
	}
	if p.Turn != 0 {
		m = m.Then(geom.Rotate(p.Turn))
	}
	m = m.Then(geom.Translate(left+ox, top+oy))
	if p.Corners != [8]float64{} {
		to := geom.Box{W: w, H: h}.Corners()
		for k := range to {
			to[k].X += p.Corners[2*k]
			to[k].Y += p.Corners[2*k+1]
		}
		form = to[:]
	}
	return m, form
}

// Standing is how a layer stands at an instant.
type Standing struct {
	Layer  string
	Parent string // the group it is in, "" for none
	// Rest is its pose when nothing moves it, Now that of the instant.
	Rest, Now Pose
	// World takes its own pixels to the canvas', with the cameras above it; Up takes
	// those of its group, or of the canvas, there.
	World, Up geom.Projective
	// InCell says that a layout gives it its place and its size, Flows that the flow of its
	// group gives it its place.
	InCell, Flows bool
	// Shown says that it is there at the instant and can be seen.
	Shown bool
	// Order is its place among all layers, the lowest first.
	Order int
}

// Box is the smallest upright box around the layer on the canvas.
func (s *Standing) Box() geom.Box {
	q, ok := s.World.Quad(geom.Box{W: s.Now.Size.W, H: s.Now.Size.H})
	if !ok {
		return geom.Box{}
	}
	return geom.Bounds(q[:]...)
}

// Standings tells how every layer that moves stands at an instant, the first copy of
// those that have some, the lowest first.
func (s *Scene) Standings(now timing.Instant) []Standing {
	st := s.states.Get().(*state)
	defer s.states.Put(st)
	s.stand(st, now, geom.Identity)
	out := make([]Standing, 0, len(s.layers))
	pose := func(l *layer, n []float64, own geom.Size) Pose {
		return Pose{Owner: own, Size: geom.Size{W: n[sSize], H: n[sSize+1]}, Anchor: l.anchor, Place: [2]float64(n[sPlace : sPlace+2]),
			Scale: [2]float64(n[sScale : sScale+2]), Skew: [2]float64(n[sSkew : sSkew+2]), Origin: [2]float64(n[sOrigin : sOrigin+2]),
			Turn: n[sTurn], Corners: [8]float64(n[sCorners : sCorners+8])}
	}
	for i := range s.layers {
		l := &s.layers[i]
		if !l.first || !l.Can(scheme.Moves) {
			continue
		}
		k := Standing{Layer: l.ID, Rest: pose(l, s.still[l.slot:], s.owner(l, s.still)), Now: pose(l, st.slots[l.slot:], s.owner(l, st.slots)),
			World: st.world[i], Up: geom.Identity.Flat(), InCell: l.cell != nil, Flows: l.flows, Shown: l.shown(st) && st.slots[l.slot+sHidden] == 0, Order: i}
		if l.parent >= 0 {
			k.Parent = s.layers[l.parent].ID
			k.Up = st.world[l.parent]
		}
		// Cameras come between a layer and its owner.
		if inv, ok := st.local[i].Invert(); ok && l.Kind != scheme.Camera {
			k.Up = inv.Then(st.world[i])
		}
		for p := l.parent; p >= 0; p = s.layers[p].parent {
			up := &s.layers[p]
			k.Shown = k.Shown && up.shown(st) && st.slots[up.slot+sHidden] == 0
		}
		out = append(out, k)
	}
	return out
}
