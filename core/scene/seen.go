package scene

import (
	"ivypocket/core/geom"
	"ivypocket/core/raster"
	"ivypocket/core/timing"
)

// Seen is where a layer that mattes cut is seen: closed lines on the canvas, inside
// which it is by the even-odd rule. It has none where nothing of it is seen.
type Seen struct {
	Layer string         `json:"layer"`
	Lines [][]geom.Point `json:"lines"`
}

// Seen tells where at an instant the layers are seen that mattes cut, themselves or
// with a group that they are in. paint gives the picture of a list.
func (s *Scene) Seen(now timing.Instant, size Size, paint func(*List) (*raster.Surface, error)) ([]Seen, error) {
	var l, sub List
	s.At(&l, now, size)
	cut := map[matteKey][]uint8{}
	// What an item's matte lets through, of 255, by pixels.
	through := func(it *Item) ([]uint8, error) {
		key := matteKey{it.Matte, it.Luma, it.InvertMatte}
		if c, ok := cut[key]; ok {
			return c, nil
		}
		sub.Size, sub.Masks = size, l.Masks
		sub.take(&l, it.Matte, it.Matte+1+l.Items[it.Matte].Span)
		pic, err := paint(&sub)
		if err != nil {
			return nil, err
		}
		out := make([]uint8, size.W*size.H)
		for i := range out {
			p := pic.Pix[4*i : 4*i+4]
			v := int(p[3])
			if it.Luma { // of what is multiplied by its alpha: CSS Masking Level 1, 7.10.1
				v = (2126*int(p[0]) + 7152*int(p[1]) + 722*int(p[2])) / 10000
			}
			if it.InvertMatte {
				v = 255 - v
			}
			out[i] = uint8(v)
		}
		cut[key] = out
		return out, nil
	}
	var out []Seen
	known := map[string]bool{}
	k := s.canvas.W / float64(size.W)
	var among func(from, to int, by []uint8) error
	among = func(from, to int, by []uint8) error {
		for i := from; i < to; i += 1 + l.Items[i].Span {
			it := &l.Items[i]
			mine := by
			if it.Matte > 0 {
				c, err := through(it)
				if err != nil {
					return err
				}
				if mine = c; by != nil {
					mine = make([]uint8, len(c))
					for p := range mine {
						mine[p] = uint8((int(c[p])*int(by[p]) + 127) / 255)
					}
				}
			}
			if mine != nil && it.Layer != "" && !known[it.Layer] {
				known[it.Layer] = true
				lines := raster.Lines(size.W, size.H, func(x, y int) float64 { return float64(mine[y*size.W+x]) })
				for _, line := range lines {
					for p := range line {
						line[p] = geom.Point{X: line[p].X * k, Y: line[p].Y * k}
					}
				}
				out = append(out, Seen{it.Layer, lines})
			}
			if err := among(i+1, i+1+it.Span, mine); err != nil {
				return err
			}
		}
		return nil
	}
	return out, among(0, l.Main, nil)
}
