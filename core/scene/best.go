package scene

import (
	"math"

	"ivypocket/core/geom"
	"ivypocket/core/scheme"
	"ivypocket/core/timing"
)

// bestSteps is about how many instants of a scene are looked at.
const bestSteps = 240

// Best tells in how many pixels media for each pocket is sharp: the largest that its
// views are on the canvas, in all of their motion, at the zoom that the pocket's own
// framing and what the media does in it ask for; the sides are even. It has the
// pocket's proportions; media of others is best so large that it covers this. Pockets
// that no view shows are left out.
func (s *Scene) Best() map[string]geom.Size {
	out := map[string]geom.Size{}
	st := s.states.Get().(*state)
	defer s.states.Put(st)
	frames := s.time.Frames
	for k := range min(frames, bestSteps) {
		frame := k
		if frames > bestSteps {
			frame = k * (frames - 1) / (bestSteps - 1)
		}
		s.stand(st, s.time.At(timing.OutputFrame(frame)), geom.Identity)
		for i := range s.layers {
			l := &s.layers[i]
			if l.Kind != scheme.View || !l.shown(st) {
				continue
			}
			n := st.slots[l.slot:]
			box := geom.Box{W: n[sSize], H: n[sSize+1]}
			if box.Size().Empty() {
				continue
			}
			sx, sy := st.world[i].Stretch(box)
			zoom := math.Max(1, l.framed.Zoom) * math.Max(1, n[scheme.ContentZoom.Slot()])
			was := out[l.pocket]
			out[l.pocket] = geom.Size{W: math.Max(was.W, box.W*sx*zoom), H: math.Max(was.H, box.H*sy*zoom)}
		}
	}
	even := func(v float64) float64 { return 2 * math.Ceil(v/2-1e-6) }
	for id, b := range out {
		out[id] = geom.Size{W: even(b.W), H: even(b.H)}
	}
	return out
}
