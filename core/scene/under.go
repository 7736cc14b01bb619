package scene

import (
	"slices"

	"ivypocket/core/geom"
	"ivypocket/core/raster"
	"ivypocket/core/scheme"
	"ivypocket/core/timing"
)

const (
	// underSide is the side of the picture that is looked at around a point, px; an
	// odd number, so that the point has a middle.
	underSide = 7
	// faint is the least alpha, of 255, that is taken hold of.
	faint = 6
)

// Under tells which layers are seen at a point of the canvas at an instant: those that
// leave something there after their masks, mattes and opacities and those of the groups
// around them, whatever lies on top. The topmost comes first; after them come those
// that are seen only within 3 px of the point. zoom is how many px of the screen one of
// the canvas has. Grounds and grades, which have no edge, are not among them. paint
// gives the picture of a list.
func (s *Scene) Under(now timing.Instant, at geom.Point, zoom float64, paint func(*List) (*raster.Surface, error)) ([]string, error) {
	size := Size{W: underSide, H: underSide}
	const mid = underSide / 2
	device := geom.Translate(-at.X, -at.Y).Then(geom.Scale(zoom, zoom)).Then(geom.Translate(mid+0.5, mid+0.5))
	var l List
	st := s.states.Get().(*state)
	defer s.states.Put(st)
	s.stand(st, now, device) // the same for each that is looked at
	write := func(keep []bool) { s.list(&l, st, size, device, keep) }
	write(nil)
	there := map[string]bool{}
	for i := range l.Items[:l.Main] {
		there[l.Items[i].Layer] = true
	}
	var on, near []string
	keep := make([]bool, len(s.layers))
	for i := len(s.layers) - 1; i >= 0; i-- {
		y := &s.layers[i]
		if !there[y.ID] || y.Can(scheme.Holds) || !y.Can(scheme.Box) {
			continue
		}
		delete(there, y.ID) // all its copies are looked at as one
		for k := range keep {
			keep[k] = s.layers[k].ID == y.ID
		}
		for k := range keep {
			for up := k; keep[k] && up >= 0; up = s.layers[up].parent {
				keep[up] = true
			}
		}
		write(keep)
		pic, err := paint(&l)
		if err != nil {
			return nil, err
		}
		best := 0
		for p := 3; p < len(pic.Pix); p += 4 {
			best = max(best, int(pic.Pix[p]))
		}
		switch {
		case int(pic.Pix[4*(mid*underSide+mid)+3]) >= faint:
			on = append(on, y.ID)
		case best >= faint:
			near = append(near, y.ID)
		}
	}
	return slices.Concat(on, near), nil
}
