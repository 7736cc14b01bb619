package scene

import (
	"strings"

	"ivypocket/core/geom"
	"ivypocket/core/scheme"
	"ivypocket/core/timing"
)

// Formed is an outline of a layer at an instant: that of a shape, or of a mask that is drawn; or the
// way that keys lead one of them along.
type Formed struct {
	// Path is the thing that has it: layers/ID, layers/ID/masks/ID or layers/ID/treatments/ID/masks/ID;
	// of a way that, and /motion/place.
	Path string
	// Mask is the mask's id, "" for the layer itself.
	Mask string
	// Way says that it is one: an open path of its keys, in shares of what they are measured by. Dots
	// are where it is in even steps of time, of Step frames each, from its first key to its last.
	Way  bool
	Dots []geom.Point
	Step int64
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
		if f, ok := s.way(st, i, &l.thing, path); ok && len(f.Form.Path.Nodes) > 0 {
			out = append(out, f)
		}
		masked := func(path string, masks []mask) {
			for k := range masks {
				if masks[k].of != "" {
					continue
				}
				f := w.formed(st, i, path, &masks[k])
				out = append(out, f)
				if f, ok := s.way(st, i, &masks[k].thing, f.Path); ok && len(f.Form.Path.Nodes) > 0 {
					f.Mask = masks[k].ID
					out = append(out, f)
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

// Way tells the way of the layer or the mask that a path names, and how shares of what its keys are
// measured by lie on the canvas, also where it has no keys; ok is false for what stays where it is.
func (s *Scene) Way(path string, now timing.Instant) (f Formed, ok bool) {
	st := s.states.Get().(*state)
	defer s.states.Put(st)
	s.stand(st, now, geom.Identity)
	seg := strings.Split(path, "/")
	for i := range s.layers {
		if l := &s.layers[i]; l.first && l.ID == seg[1] {
			if t := l.part(seg[2:]); t != nil {
				return s.way(st, i, t, path)
			}
		}
	}
	return f, false
}

// maxDots bounds the dots of a way: more than that can't be told from one another.
const maxDots = 160

// dots are where a way is in even steps of time, as near one another as frames are if that is not
// too many.
func dots(track *timing.Track) (out []geom.Point, step int64) {
	keys := track.Keys()
	if len(keys) < 2 {
		return nil, 0
	}
	first, last := keys[0].At, keys[len(keys)-1].At
	step = last.Sub(first).Floor()/maxDots + 1
	var at [2]float64
	for t := first; t.Cmp(last) <= 0; t = t.Add(timing.Int(step)) {
		track.Value(timing.TemplateTime{Rat: t}, at[:])
		out = append(out, geom.Point{X: at[0], Y: at[1]})
	}
	return out, step
}

// way is the way of a layer or of a mask of it: its place departs from where it is by what keys say.
func (s *Scene) way(st *state, i int, t *thing, path string) (f Formed, ok bool) {
	l, place := &s.layers[i], scheme.Place
	if t.Sort() == scheme.Masks {
		place = scheme.MaskPlace
	}
	inv, seen := st.local[i].Invert()
	if !t.Has(place) || l.Kind == scheme.Camera || !seen {
		return f, false
	}
	n := st.slots[l.slot:]
	base := st.local[i].Apply(geom.Point{X: n[sOrigin] * n[sSize], Y: n[sOrigin+1] * n[sSize+1]})
	up := inv.Then(st.world[i])
	if t.Sort() == scheme.Masks {
		own := geom.Size{W: n[sSize], H: n[sSize+1]}
		if !l.Can(scheme.Box) {
			own = s.owner(l, st.slots)
		}
		base, up = geom.Point{X: own.W/2 + st.slots[t.slot+mPlace], Y: own.H/2 + st.slots[t.slot+mPlace+1]}, st.world[i]
	}
	f = Formed{Path: path + "/motion/" + place.Name, Way: true, Form: geom.Form{Kind: geom.Drawn, Size: s.canvas}}
	for k := range s.tracks {
		d := &s.tracks[k]
		if d.slot != t.slot+place.Slot() || d.track.Width() != 2 {
			continue
		}
		// By what it departs at the instant; from there the way leads on and back.
		at := st.now.Template
		if late := l.delay; late.N != 0 {
			at = timing.TemplateTime{Rat: at.Sub(late)}
		}
		var gone [2]float64
		d.track.Value(at, gone[:])
		f.Form.Size = geom.Size{W: s.unit(d, s.rest, 0), H: s.unit(d, s.rest, 1)}
		base = geom.Point{X: base.X - gone[0]*f.Form.Size.W, Y: base.Y - gone[1]*f.Form.Size.H}
		for _, key := range d.track.Keys() {
			f.Form.Path.Nodes = append(f.Form.Path.Nodes, geom.Node{X: key.Value[0], Y: key.Value[1], InX: key.In[0], InY: key.In[1], OutX: key.Out[0], OutY: key.Out[1]})
		}
		f.Dots, f.Step = dots(d.track)
	}
	f.Map = geom.Translate(base.X, base.Y).Flat().Then(up)
	return f, true
}
