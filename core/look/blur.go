package look

import (
	"encoding/binary"
	"fmt"
	"math"

	"ivypocket/core/raster"
	"ivypocket/core/scheme"
)

// blur is a Gaussian blur (Filter Effects Module Level 1, feGaussianBlur). Its
// deviations are in pixels of the device.
type blur struct {
	behaviour int
	x, y      float64
}

func init() {
	Treats(scheme.Blur, func(behaviour int, v Values) Step {
		n := v.Numbers(scheme.BlurRadius)
		b := blur{behaviour, v.Length(n[0]), v.Length(n[1])}
		if b.x <= 0 && b.y <= 0 {
			return nil
		}
		return b
	})
}

func (b blur) Reach() (x, y int) { return raster.Reach(b.x), raster.Reach(b.y) }

func (b blur) Key(to []byte) []byte {
	return numbers(append(to, "blur"...), float64(b.behaviour), b.x, b.y)
}

func (b blur) Do(at *Bench) {
	at.widen()
	at.Wide, at.Spare[0] = at.blurred(at.Wide, at.Spare[0], b.x, b.y)
}

func (b blur) String() string { return fmt.Sprintf("blurred by %.3g and %.3g px", b.x, b.y) }

func numbers(b []byte, vs ...float64) []byte {
	for _, v := range vs {
		b = binary.BigEndian.AppendUint64(b, math.Float64bits(v+0))
	}
	return b
}
