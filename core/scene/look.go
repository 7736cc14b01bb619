package scene

import (
	"fmt"

	"ivypocket/core/geom"
	"ivypocket/core/template"
	"ivypocket/core/timing"
)

// Look is a layer as it stands at an instant, in numbers for people.
type Look struct {
	Properties []Shown
	// Pull takes a way on the canvas to one of the layer's place: a, b, c, d of
	// an affine map.
	Pull [4]float64
}

// Shown is a property with its values.
type Shown struct {
	template.Property
	// Rest and Now are its numbers at rest and at the instant; of a colour red,
	// green, blue and alpha. Paths have none.
	Rest, Now []float64
	// Text is of words, or a colour at rest as #rrggbb or #rrggbbaa, "" where
	// there is none.
	Text string
}

// Look tells how a layer stands at an instant: its first copy, if it has some.
func (s *Scene) Look(layer string, now timing.Instant) (out Look) {
	st := s.states.Get().(*state)
	defer s.states.Put(st)
	s.stand(st, now, geom.Identity)
	for i := range s.layers {
		l := &s.layers[i]
		if l.ID != layer || !l.first {
			continue
		}
		out.Pull = [4]float64{1, 0, 0, 1}
		if l.parent >= 0 {
			if inv, ok := st.world[l.parent].Affine.Invert(); ok {
				out.Pull = [4]float64{inv.A, inv.B, inv.C, inv.D}
			}
		}
		for _, p := range l.Standings() {
			sh := Shown{Property: p.Property, Rest: []float64{}, Now: []float64{}}
			switch p.Kind {
			case template.Words:
				if sh.Text = p.Rest.Text; sh.Text == "" && len(p.Words) > 0 {
					sh.Text = p.Words[0]
				}
			case template.Points:
			default:
				at := l.at(p.Name)
				sh.Rest = append(sh.Rest, s.rest[at:at+p.Width]...)
				sh.Now = append(sh.Now, st.slots[at:at+p.Width]...)
				if p.Kind == template.ColourText && p.Given {
					c := colourOf(sh.Rest)
					sh.Text = fmt.Sprintf("#%02x%02x%02x", c[0], c[1], c[2])
					if c[3] != 255 {
						sh.Text += fmt.Sprintf("%02x", c[3])
					}
				} else if len(sh.Rest) == 2 && sh.Rest[0] < 0 && p.Name[len(p.Name)-4:] == "size" {
					// A mask as large as its layer (its numbers are shares, below 0).
					n := st.slots[l.slot:]
					for k := range 2 {
						sh.Now[k] *= -n[sSize+k]
						sh.Rest[k] *= -s.rest[l.slot+sSize+k]
					}
				}
			}
			out.Properties = append(out.Properties, sh)
		}
		return out
	}
	return out
}
