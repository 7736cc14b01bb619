package timing

import (
	"fmt"
	"math"
)

// Easing is a cubic-bezier timing function of CSS Easing Functions Level 1,
// given by its two handles x1, y1, x2, y2. The zero value is linear.
type Easing [4]float64

// Validate says what is wrong with the handles: their x must lie within 0 to 1.
func (e Easing) Validate() error {
	for i, v := range e {
		if math.IsNaN(v) || math.Abs(v) > 100 {
			return fmt.Errorf("[%d]: %g is outside -100 to 100", i, v)
		}
		if i%2 == 0 && (v < 0 || v > 1) {
			return fmt.Errorf("[%d]: %g is outside 0 to 1, where a handle's x must lie", i, v)
		}
	}
	return nil
}

// At returns the eased progress for a progress from 0 to 1.
func (e Easing) At(x float64) float64 {
	if x <= 0 {
		return 0
	}
	if x >= 1 {
		return 1
	}
	if e[0] == e[1] && e[2] == e[3] {
		return x
	}
	return pointOf([4]float64{0, e[1], e[3], 1}, e.param(x))
}

// Slope returns the derivative of At at a progress from 0 to 1: 1 is the speed
// of a linear way. Where the curve stands upright it is infinite in theory and
// very large here.
func (e Easing) Slope(x float64) float64 {
	if e[0] == e[1] && e[2] == e[3] {
		return 1
	}
	t := e.param(math.Max(0, math.Min(1, x)))
	dx, dy := slopeOf([4]float64{0, e[0], e[2], 1}, t), slopeOf([4]float64{0, e[1], e[3], 1}, t)
	if dx < 1e-6 && math.Abs(dy) < 1e-6 {
		// Both handles lie on the end: look a little further in.
		u := math.Max(1e-3, math.Min(1-1e-3, t))
		dx, dy = slopeOf([4]float64{0, e[0], e[2], 1}, u), slopeOf([4]float64{0, e[1], e[3], 1}, u)
	}
	return dy / math.Max(dx, 1e-9)
}

// Back is the easing of the same way gone backwards; of none it is none. Done twice it is the same again.
func (e *Easing) Back() *Easing {
	if e == nil {
		return nil
	}
	turn := func(v float64) float64 { return math.Round((1-v)*1e12) / 1e12 }
	return &Easing{turn(e[2]), turn(e[3]), turn(e[0]), turn(e[1])}
}

// param solves for the curve's parameter at an x within 0 to 1.
//
// The curve's x is a cubic in its parameter that never falls, so it is solved
// by Newton's method inside a bracket that bisection keeps closing.
func (e Easing) param(x float64) float64 {
	cx := 3 * e[0]
	bx := 3*(e[2]-e[0]) - cx
	ax := 1 - cx - bx
	lo, hi, t := 0.0, 1.0, x
	for range 60 {
		d := ((ax*t+bx)*t+cx)*t - x
		if math.Abs(d) < 1e-12 {
			break
		}
		if d > 0 {
			hi = t
		} else {
			lo = t
		}
		slope := (3*ax*t+2*bx)*t + cx
		next := t - d/slope
		if !(next > lo && next < hi) {
			next = (lo + hi) / 2
		}
		t = next
	}
	return t
}

// bounds is the range of At between two progresses.
func (e Easing) bounds(x0, x1 float64) (lo, hi float64) {
	if e[0] == e[1] && e[2] == e[3] {
		return x0, x1
	}
	u0, u1 := 0.0, 1.0
	if x0 > 0 {
		u0 = e.param(x0)
	}
	if x1 < 1 {
		u1 = e.param(x1)
	}
	return cubicBounds([4]float64{0, e[1], e[3], 1}, u0, u1)
}
