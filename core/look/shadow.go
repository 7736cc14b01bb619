package look

import (
	"fmt"
	"math"

	"ivypocket/core/raster"
	"ivypocket/core/scheme"
)

// shadow is a drop shadow (Filter Effects Module Level 1, feDropShadow): the alpha
// in one colour, blurred and shifted, with the picture over it.
type shadow struct {
	behaviour int
	blur      [2]float64
	offset    [2]float64
	colour    [4]uint8
}

func init() {
	Treats(scheme.DropShadow, func(behaviour int, v Values) Step {
		r, o, c := v.Numbers(scheme.BlurRadius), v.Numbers(scheme.ShadowOffset), v.Numbers(scheme.ShadowColour)
		s := shadow{behaviour: behaviour, blur: [2]float64{v.Length(r[0]), v.Length(r[1])}}
		s.offset[0], s.offset[1] = v.Way(o[0], o[1])
		for i := range 3 {
			s.colour[i] = uint8(c[i] + 0.5)
		}
		s.colour[3] = uint8(c[3]*v.Numbers(scheme.ShadowAmount)[0] + 0.5)
		if s.colour[3] == 0 {
			return nil
		}
		return s
	})
}

func (s shadow) Reach() (x, y int) {
	return raster.Reach(s.blur[0]) + int(math.Ceil(math.Abs(s.offset[0]))), raster.Reach(s.blur[1]) + int(math.Ceil(math.Abs(s.offset[1])))
}

func (s shadow) Key(b []byte) []byte {
	return append(numbers(append(b, "shadow"...), float64(s.behaviour), s.blur[0], s.blur[1], s.offset[0], s.offset[1]), s.colour[:]...)
}

func (s shadow) Do(b *Bench) {
	shade := b.Spare[0]
	w, h := b.Picture.W, b.Picture.H
	shade.Reset(w, h, 1)
	b.Run(h, func(from, to int) {
		if b.wide {
			shade.AlphaOf(b.Wide, s.offset[0], s.offset[1], from, to)
		} else {
			shade.Alpha(b.Picture, s.offset[0], s.offset[1], from, to)
		}
	})
	shade, _ = b.blurred(shade, b.Spare[1], s.blur[0], s.blur[1])
	b.Run(h, func(from, to int) {
		if b.wide {
			b.Wide.Under(shade, s.colour, from, to)
		} else {
			b.Picture.Under(shade, s.colour, from, to, b.X, b.Y)
		}
	})
}

func (s shadow) String() string {
	return fmt.Sprintf("a shadow of #%02x%02x%02x%02x at %.3g, %.3g px, blurred by %.3g and %.3g px", s.colour[0], s.colour[1], s.colour[2], s.colour[3],
		s.offset[0], s.offset[1], s.blur[0], s.blur[1])
}
