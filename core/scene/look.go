package scene

import (
	"ivypocket/core/geom"
	"ivypocket/core/scheme"
	"ivypocket/core/template"
	"ivypocket/core/timing"
)

// Look is a layer as it stands at an instant, in numbers for people.
type Look struct {
	Properties []Shown
	// Pull takes a way on the canvas to one of the layer's place: a, b, c, d of
	// an affine map.
	Pull [4]float64
	// Ends are where its gradient begins and ends on the canvas; nil is none.
	Ends *[2]geom.Point
	// Sheet is where the corners of what a camera moves come to lie on the canvas, clockwise from the
	// top left, and Middle what it turns about; nil is of no camera.
	Sheet  *[4]geom.Point
	Middle geom.Point
	// Fill takes shares of what is filled to the canvas.
	Fill geom.Projective
}

// Shown is a property with its values.
type Shown struct {
	*scheme.Property
	// Path names it; Of is the thing it is a property of.
	Path string
	Of   *template.Node
	// Rest and Now are its numbers at rest and at the instant; of a colour red,
	// green, blue and alpha. Paths have none.
	Rest, Now []float64
	// Text is of words and instants, or a colour at rest as #rrggbb or #rrggbbaa,
	// "" where there is none.
	Text string
	// Given says that the document says something of it.
	Given bool
}

// Look tells how a layer stands at an instant: its first copy, if it has some.
func (s *Scene) Look(id string, now timing.Instant) (out Look) {
	s.looks(now, func(l *layer) bool { return l.ID == id }, func(_ string, l Look) { out = l })
	return out
}

// Looks tells how all layers stand at an instant, the lowest first, of each its first copy.
func (s *Scene) Looks(now timing.Instant, f func(layer string, l Look)) {
	s.looks(now, func(*layer) bool { return true }, f)
}

// Measure is how many px 1 is of a number of a key that adds a length to a property of a layer, or of what is in
// it, in the unit of a move; part is the one number that it has keys for, -1 all.
func (s *Scene) Measure(id string, p *scheme.Property, part int, unit string, k int) float64 {
	for i := range s.layers {
		if s.layers[i].ID != id || !s.layers[i].first {
			continue
		}
		d := driven{layer: i, unit: 1, axis: -1}
		if unit == template.SelfUnit {
			d.unit = 2
		}
		if p.Parts != nil {
			d.axis = int8(max(0, part) % 2)
		}
		return s.unit(&d, s.rest, k)
	}
	return 0
}

func (s *Scene) looks(now timing.Instant, want func(*layer) bool, f func(layer string, l Look)) {
	st := s.states.Get().(*state)
	defer s.states.Put(st)
	s.stand(st, now, geom.Identity)
	for i := range s.layers {
		if l := &s.layers[i]; l.first && want(l) {
			f(l.ID, s.look(st, i))
		}
	}
}

// look tells how one layer stands.
func (s *Scene) look(st *state, i int) (out Look) {
	l := &s.layers[i]
	out.Pull = [4]float64{1, 0, 0, 1}
	if l.parent >= 0 {
		if inv, ok := st.world[l.parent].Affine.Invert(); ok {
			out.Pull = [4]float64{inv.A, inv.B, inv.C, inv.D}
		}
	}
	if l.graded {
		own := s.filledBox(l, st.slots)
		out.Fill = geom.Scale(own.W, own.H).Flat().Then(st.world[i])
		end := func(p *scheme.Property) geom.Point {
			v := st.slots[l.slot+p.Slot():]
			return out.Fill.Apply(geom.Point{X: v[0], Y: v[1]})
		}
		out.Ends = &[2]geom.Point{end(scheme.GradientFrom), end(scheme.GradientTo)}
	}
	if l.Kind == scheme.Camera {
		own := s.owner(l, st.slots)
		if q, ok := st.world[i].Quad(geom.Box{W: own.W, H: own.H}); ok {
			out.Sheet, out.Middle = &q, st.world[i].Apply(geom.Point{X: own.W / 2, Y: own.H / 2})
		}
	}
	path := "layers/" + l.ID
	out.Properties = s.shown(out.Properties, st, l, &l.thing, path)
	for k := range l.acts {
		out.Properties = s.shown(out.Properties, st, l, &l.acts[k], path+"/moves/"+l.acts[k].ID)
	}
	for k := range l.axes {
		out.Properties = s.shown(out.Properties, st, l, &l.axes[k], path+"/axes/"+l.axes[k].ID)
	}
	for k := range l.highs {
		h := &l.highs[k]
		at := path + "/highlights/" + h.ID
		out.Properties = s.shown(out.Properties, st, l, &h.thing, at)
		for j := range h.lines {
			out.Properties = s.shown(out.Properties, st, l, &h.lines[j], at+"/lines/"+h.lines[j].ID)
		}
	}
	masked := func(path string, masks []mask) {
		for k := range masks {
			if masks[k].Along() != "" {
				continue // they are of the move
			}
			out.Properties = s.shown(out.Properties, st, l, &masks[k].thing, path+"/masks/"+masks[k].ID)
		}
	}
	masked(path, l.masks)
	for k := range l.treats {
		t := &l.treats[k]
		if t.Along() != "" {
			continue
		}
		out.Properties = s.shown(out.Properties, st, l, &t.thing, path+"/treatments/"+t.ID)
		masked(path+"/treatments/"+t.ID, t.masks)
	}
	for k := range l.stops {
		if l.Given(scheme.GradientNamed) {
			break // they wait behind the named one
		}
		out.Properties = s.shown(out.Properties, st, l, &l.stops[k], path+"/stops/"+l.stops[k].ID)
	}
	return out
}

// shown appends the properties of one thing.
func (s *Scene) shown(out []Shown, st *state, l *layer, t *thing, path string) []Shown {
	for _, p := range t.Properties() {
		if p.Within != 0 && !l.Can(p.Within) {
			continue
		}
		v, given := t.Value(p)
		if !given {
			v = p.Default
		}
		sh := Shown{Property: p, Path: path + "/" + p.Name, Of: t.Node, Rest: []float64{}, Now: []float64{}, Text: v.Text, Given: given}
		at, n := t.at(p)
		switch {
		case at < 0 || p.Type == scheme.Points:
		case p == scheme.MaskSize && s.rest[at] < 0:
			// A mask as large as its layer (its numbers are shares, below 0).
			for k := range 2 {
				sh.Rest = append(sh.Rest, -s.rest[at+k]*s.rest[l.slot+sSize+k])
				sh.Now = append(sh.Now, -st.slots[at+k]*st.slots[l.slot+sSize+k])
			}
		default:
			sh.Rest = append(sh.Rest, s.rest[at:at+n]...)
			sh.Now = append(sh.Now, st.slots[at:at+n]...)
			if p.Type == scheme.Colour && given {
				sh.Text = hexColour(colourOf(sh.Rest))
			}
		}
		if p.Type == scheme.Time {
			sh.Text = v.String()
		}
		out = append(out, sh)
	}
	return out
}

// filledBox is what the shares of a gradient are of: a layer's own box, of a ground all of what
// it lies over.
func (s *Scene) filledBox(l *layer, slots []float64) geom.Size {
	if l.Can(scheme.Box) {
		return geom.Size{W: slots[l.slot+sSize], H: slots[l.slot+sSize+1]}
	}
	return s.owner(l, slots)
}
