package timing

import "math"

// Divide makes two stretches of that between a key and the next, which together go the same way at
// the same times: it returns what the two become, and the key between them at an instant. Where the easing of an even way goes beyond
// its ends, that part is another, and where the x of an easing's handles are crossed its parts are
// as near as handles come. It is not ok where there is no such key: on hold, on steps, or where the
// easing stands at an end of the way.
func (t *Track) Divide(key int, at Rat) (first, middle, last Key, ok bool) {
	a, b := t.keys[key], t.keys[key+1]
	first, middle, last = a, Key{At: at}, b
	x := at.Sub(a.At).Div(b.At.Sub(a.At)).Float()
	if a.Hold || a.Steps != nil || x <= 0 || x >= 1 {
		return a, middle, b, false
	}
	y := x
	if a.Ease != nil {
		y = a.Ease.At(x)
		left, right, ok := a.Ease.divide(x)
		if !ok {
			return a, middle, b, false
		}
		first.Ease, middle.Ease = &left, &right
	}
	if a.Out == [2]float64{} && b.In == [2]float64{} {
		for k := range a.Value {
			middle.Value = append(middle.Value, a.Value[k]+(b.Value[k]-a.Value[k])*y)
		}
		return first, middle, last, true
	}
	c := newArc(a, b, t.by)
	u := c.param(y, t.blend == EvenPlaces)
	middle.Value = make([]float64, 2)
	for k, p := range [2][4]float64{c.x, c.y} {
		ab, bc, cd := mix(p[0], p[1], u), mix(p[1], p[2], u), mix(p[2], p[3], u)
		abc, bcd := mix(ab, bc, u), mix(bc, cd, u)
		m := mix(abc, bcd, u)
		middle.Value[k] = m
		first.Out[k], middle.In[k], middle.Out[k], last.In[k] = ab-p[0], abc-m, bcd-m, cd-p[3]
	}
	return first, middle, last, true
}

func mix(a, b, t float64) float64 { return a + (b-a)*t }

// divide is the easing up to a progress, and from there on, each from 0 to 1 (de Casteljau).
func (e Easing) divide(x float64) (left, right Easing, ok bool) {
	if e[0] == e[1] && e[2] == e[3] { // straight
		return e, e, true
	}
	t := e.param(x)
	var ends [2]float64
	for k := range 2 {
		p := [4]float64{0, e[k], e[2+k], 1}
		ab, bc, cd := mix(p[0], p[1], t), mix(p[1], p[2], t), mix(p[2], p[3], t)
		abc, bcd := mix(ab, bc, t), mix(bc, cd, t)
		m := mix(abc, bcd, t)
		ends[k] = m
		left[k], left[2+k] = ab/m, abc/m
		right[k], right[2+k] = (bcd-m)/(1-m), (cd-m)/(1-m)
	}
	if math.Abs(ends[1]) < 1e-6 || math.Abs(1-ends[1]) < 1e-6 {
		return e, e, false
	}
	for k := 0; k < 4; k += 2 {
		left[k], right[k] = math.Max(0, math.Min(1, left[k])), math.Max(0, math.Min(1, right[k]))
	}
	return left, right, left.Validate() == nil && right.Validate() == nil
}

// When is the first instant, to a thousandth of a frame, at which a track of places has gone as
// far on the curve from a key to the next as a parameter between 0 and 1 says.
func (t *Track) When(key int, u float64) Rat {
	a, b := &t.keys[key], &t.keys[key+1]
	gone := func(x float64) float64 {
		x = a.eased(x)
		if c := t.arcs[key]; c != nil {
			x = c.param(x, t.blend == EvenPlaces)
		}
		return x
	}
	const steps = 64
	lo, hi := 0.0, 1.0
	for k := 1; k <= steps; k++ {
		if x := float64(k) / steps; gone(x) >= u {
			lo, hi = float64(k-1)/steps, x
			break
		}
	}
	for range 50 {
		if m := (lo + hi) / 2; gone(m) < u {
			lo = m
		} else {
			hi = m
		}
	}
	frames := b.At.Sub(a.At)
	thousandths := math.Round(frames.Float() * 1000 * (lo + hi) / 2)
	thousandths = math.Max(1, math.Min(frames.Float()*1000-1, thousandths))
	return a.At.Add(NewRat(int64(thousandths), 1000))
}
