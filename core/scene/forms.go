package scene

import (
	"ivypocket/core/geom"
	"ivypocket/core/scheme"
	"ivypocket/core/timing"
)

// Formed is an outline of a layer at an instant: that of a shape, or of a mask that is drawn.
type Formed struct {
	// Path is the thing that has it: layers/ID, layers/ID/masks/ID or layers/ID/treatments/ID/masks/ID.
	Path string
	// Mask is its id, "" for the shape itself.
	Mask string
	Form geom.Form
	// Map takes pixels of the form's box, from its top left corner, to those of the canvas.
	Map geom.Projective
	// Of a mask: Owner takes px of its layer to the canvas, Turn is how it is turned on it, Rest
	// how it lies there when nothing moves it.
	Owner geom.Projective
	Turn  float64
	Rest  Pose
	// Feather and Growth of a mask, px of its layer; Off says that it is left out.
	Feather, Growth float64
	Off             bool
}

// Forms tells the outlines of a layer at an instant: its first copy, if it has some. Masks that
// follow what is in a pocket have none of their own.
func (s *Scene) Forms(layer string, now timing.Instant) (out []Formed) {
	st := s.states.Get().(*state)
	defer s.states.Put(st)
	s.stand(st, now, geom.Identity)
	w := &writer{s: s, l: &List{}}
	for i := range s.layers {
		l := &s.layers[i]
		if l.ID != layer || !l.first {
			continue
		}
		n := st.slots[l.slot:]
		own := geom.Size{W: n[sSize], H: n[sSize+1]}
		path := "layers/" + l.ID
		if l.Kind == scheme.Shape {
			f := Formed{Path: path, Form: geom.Form{Size: own}, Map: st.world[i]}
			w.formOf(&l.thing, &scheme.LayerForm, &l.form, &f.Form, st.slots)
			out = append(out, f)
		}
		masked := func(path string, masks []mask) {
			for k := range masks {
				if masks[k].of == "" {
					out = append(out, w.formed(st, i, path, &masks[k]))
				}
			}
		}
		masked(path, l.masks)
		for k := range l.treats {
			masked(path+"/treatments/"+l.treats[k].ID, l.treats[k].masks)
		}
		return out
	}
	return nil
}

// formed tells the outline of a drawn mask of a layer; path is what it is a mask of.
func (w *writer) formed(st *state, i int, path string, m *mask) Formed {
	l, mn := &w.s.layers[i], st.slots[m.slot:]
	n, still := st.slots[l.slot:], w.s.still[l.slot:]
	own := geom.Size{W: n[sSize], H: n[sSize+1]}
	f := Formed{Path: path + "/masks/" + m.ID, Mask: m.ID, Feather: mn[scheme.Feather.Slot()], Growth: mn[scheme.Growth.Slot()], Off: mn[scheme.MaskOff.Slot()] != 0}
	var at geom.Affine
	f.Form.Size, at = m.lie(mn, own)
	w.formOf(&m.thing, &scheme.MaskForm, &m.form, &f.Form, st.slots)
	f.Map = at.Flat().Then(st.world[i])
	r := w.s.still[m.slot:]
	f.Owner, f.Turn = st.world[i], mn[mTurn]
	f.Rest.Place, f.Rest.Turn = [2]float64(r[mPlace:mPlace+2]), r[mTurn]
	f.Rest.Size, _ = m.lie(r, geom.Size{W: still[sSize], H: still[sSize+1]})
	return f
}
