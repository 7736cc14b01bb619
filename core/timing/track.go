package timing

import (
	"fmt"
	"math"
	"sort"
)

// Key is a value at an instant, and how the way to the next key is eased.
type Key struct {
	At Rat
	// Value has as many numbers as the track is wide.
	Value []float64
	// Ease leads to the next key; nil is linear.
	Ease *Easing
	// Steps, in place of an ease, go to the next key step by step.
	Steps *Steps
	// Hold keeps the value until the next key.
	Hold bool
	// Out and In are the handles of a curved way of places, as displacements
	// from this key's value: Out leads to the next key, In comes from the one
	// before. Both zero is a straight way.
	Out, In [2]float64
}

// eased is how far the way to the next key is gone after a share of its time.
func (k *Key) eased(p float64) float64 {
	switch {
	case k.Steps != nil:
		return k.Steps.At(p)
	case k.Ease != nil:
		return k.Ease.At(p)
	}
	return p
}

// Blend says how a track goes from one value to the next.
type Blend uint8

const (
	// Plain mixes each number on its own; angles too, which may go round many times.
	Plain Blend = iota
	// Colours are straight red, green, blue and alpha, mixed premultiplied as
	// CSS Color Level 4, section 12.3, says of sRGB.
	Colours
	// Places are pairs that go along the curve their handles make.
	Places
	// EvenPlaces go along that curve at a speed that depends on the easing
	// alone: equal shares of progress are equal lengths of the way.
	EvenPlaces
)

// Track is a property's keys in the order of time, made ready to be asked.
type Track struct {
	keys  []Key
	width int
	blend Blend
	arcs  []*arc // of each stretch between two keys, nil where it is straight
	by    [2]float64
}

// MaxKeys bounds a track.
const MaxKeys = 10000

// NewTrack makes keys of a width ready. Its error begins with the place of the
// key at fault. In EvenPlaces, keys between the first and the last may leave out
// their time: they are passed when the way has reached them at even speed.
func NewTrack(keys []Key, width int, blend Blend) (*Track, error) {
	return newTrack(keys, width, blend, [2]float64{1, 1})
}

// NewWay is NewTrack for places, evenly passed or not, of which 1 across and 1 down are so long as by
// says: an even speed is one on the canvas, where a share of its width is not one of its height.
func NewWay(keys []Key, even bool, by [2]float64) (*Track, error) {
	if even {
		return newTrack(keys, 2, EvenPlaces, by)
	}
	return newTrack(keys, 2, Places, by)
}

func newTrack(keys []Key, width int, blend Blend, by [2]float64) (*Track, error) {
	if len(keys) == 0 {
		return nil, fmt.Errorf(": has no keys; leave the motion out")
	}
	if len(keys) > MaxKeys {
		return nil, fmt.Errorf(": %d keys are more than %d", len(keys), MaxKeys)
	}
	t := &Track{keys: append([]Key(nil), keys...), width: width, blend: blend, by: by}
	for i, k := range t.keys {
		if len(k.Value) != width {
			return nil, fmt.Errorf("[%d].value: has %d numbers, not %d", i, len(k.Value), width)
		}
		for _, v := range k.Value {
			if math.IsNaN(v) || math.IsInf(v, 0) {
				return nil, fmt.Errorf("[%d].value: is not a finite number", i)
			}
		}
		if k.Ease != nil {
			if err := k.Ease.Validate(); err != nil {
				return nil, fmt.Errorf("[%d].ease%w", i, err)
			}
		}
		if k.Steps != nil {
			if err := k.Steps.Validate(); err != nil {
				return nil, fmt.Errorf("[%d].steps%w", i, err)
			}
			if k.Ease != nil {
				return nil, fmt.Errorf("[%d].steps: it has an ease, too; leave one of both out", i)
			}
		}
	}
	if blend == Places || blend == EvenPlaces {
		t.arcs = make([]*arc, len(keys))
		for i := 0; i+1 < len(t.keys); i++ {
			if t.keys[i].Out != [2]float64{} || t.keys[i+1].In != [2]float64{} {
				t.arcs[i] = newArc(t.keys[i], t.keys[i+1], by)
			}
		}
	}
	if blend == EvenPlaces {
		if err := t.passing(); err != nil {
			return nil, err
		}
	}
	for i, k := range t.keys {
		if k.At.D == 0 {
			return nil, fmt.Errorf("[%d].at: is missing", i)
		}
		if i > 0 && k.At.Cmp(t.keys[i-1].At) <= 0 {
			return nil, fmt.Errorf("[%d].at: %s is not after the key before it at %s", i, k.At, t.keys[i-1].At)
		}
	}
	return t, nil
}

// passing gives keys without a time the instant at which even speed reaches
// them, in steps of a thousandth of a frame, of which each key is one later than that before it at
// least.
func (t *Track) passing() error {
	for i := 0; i < len(t.keys); i++ {
		if t.keys[i].At.D != 0 {
			continue
		}
		from := i - 1
		to := i
		for to < len(t.keys) && t.keys[to].At.D == 0 {
			to++
		}
		if from < 0 || to == len(t.keys) {
			return fmt.Errorf("[%d].at: is missing; the first and the last key need a time", i)
		}
		total := 0.0
		for k := from; k < to; k++ {
			total += t.length(k)
		}
		span := t.keys[to].At.Sub(t.keys[from].At)
		gone, steps := 0.0, math.Floor(span.Float()*1000)
		for k := from + 1; k < to; k++ {
			gone += t.length(k - 1)
			share := float64(k-from) / float64(to-from)
			if total > 0 {
				share = gone / total
			}
			step := math.Max(math.Min(math.Round(span.Float()*share*1000), steps-float64(to-k)), float64(k-from))
			if before := t.keys[k-1].At.Sub(t.keys[from].At).Float() * 1000; step <= before {
				step = math.Floor(before) + 1
			}
			t.keys[k].At = t.keys[from].At.Add(NewRat(int64(step), 1000))
		}
		i = to
	}
	return nil
}

// length is that of the way from key i to the next.
func (t *Track) length(i int) float64 {
	if t.arcs[i] != nil {
		return t.arcs[i].length()
	}
	a, b := t.keys[i].Value, t.keys[i+1].Value
	return math.Hypot((b[0]-a[0])*t.by[0], (b[1]-a[1])*t.by[1])
}

// Width is how many numbers the track has at each instant.
func (t *Track) Width() int { return t.width }

// Keys returns the track's keys, their times filled in; they must not be changed.
func (t *Track) Keys() []Key { return t.keys }

// segment finds the key at or before an instant and the linear progress to the
// next; at the ends and on hold the progress is 0.
func (t *Track) segment(at TemplateTime) (i int, progress float64) {
	if at.Cmp(t.keys[0].At) <= 0 {
		return 0, 0
	}
	last := len(t.keys) - 1
	if at.Cmp(t.keys[last].At) >= 0 {
		return last, 0
	}
	i = sort.Search(len(t.keys), func(i int) bool { return t.keys[i].At.Cmp(at.Rat) > 0 }) - 1
	a := &t.keys[i]
	if a.Hold {
		return i, 0
	}
	return i, at.Sub(a.At).Div(t.keys[i+1].At.Sub(a.At)).Float()
}

// Value writes the track's value at an instant to dst, which has its width;
// before the first key it is the first key's, after the last the last's. It
// allocates nothing.
func (t *Track) Value(at TemplateTime, dst []float64) {
	i, p := t.segment(at)
	a := &t.keys[i]
	if p == 0 {
		// A first step may be made at once.
		if a.Steps != nil && !a.Hold && i+1 < len(t.keys) && at.Cmp(a.At) == 0 {
			p = a.Steps.At(0)
		}
		if p == 0 {
			copy(dst, a.Value)
			return
		}
	} else {
		p = a.eased(p)
	}
	b := &t.keys[i+1]
	switch {
	case t.blend == Colours:
		MixColours(dst, a.Value, b.Value, p)
	case t.arcs != nil && t.arcs[i] != nil:
		dst[0], dst[1] = t.arcs[i].at(p, t.blend == EvenPlaces)
	default:
		for k := range dst[:t.width] {
			dst[k] = a.Value[k] + (b.Value[k]-a.Value[k])*p
		}
	}
}

// Speed writes how fast each number changes at an instant, per frame of the
// template: the derivative from the right. It is 0 before the first key, after
// the last, on hold and between steps. Colours have none.
func (t *Track) Speed(at TemplateTime, dst []float64) {
	i, p := t.segment(at)
	if at.Cmp(t.keys[0].At) < 0 {
		i = len(t.keys) - 1
	}
	t.speed(i, p, dst)
}

// SpeedBefore is Speed from the left: that of the way which ends at a key.
func (t *Track) SpeedBefore(at TemplateTime, dst []float64) {
	i, p := t.segment(at)
	switch {
	case at.Cmp(t.keys[i].At) > 0 && i < len(t.keys)-1: // on the way
	case at.Cmp(t.keys[i].At) == 0 && i > 0:
		i, p = i-1, 1
	default:
		i = len(t.keys) - 1
	}
	t.speed(i, p, dst)
}

// speed is that on the way from the i-th key to the next after a share of its time.
func (t *Track) speed(i int, p float64, dst []float64) {
	clear(dst[:t.width])
	if i == len(t.keys)-1 || t.keys[i].Hold || t.keys[i].Steps != nil || t.blend == Colours {
		return
	}
	a, b := &t.keys[i], &t.keys[i+1]
	frames := b.At.Sub(a.At).Float()
	rate := 1.0
	eased := p
	if a.Ease != nil {
		eased, rate = a.Ease.At(p), a.Ease.Slope(p)
	}
	rate /= frames
	if t.arcs != nil && t.arcs[i] != nil {
		dst[0], dst[1] = t.arcs[i].slope(eased, t.blend == EvenPlaces)
		dst[0] *= rate
		dst[1] *= rate
		return
	}
	for k := range dst[:t.width] {
		dst[k] = (b.Value[k] - a.Value[k]) * rate
	}
}

// Progress is how far the track has come at an instant: 2.25 is a quarter of the way from its 3rd key to the next, as
// it is eased. Where an easing goes beyond its ends it does, too.
func (t *Track) Progress(at TemplateTime) float64 {
	i, p := t.segment(at)
	if a := &t.keys[i]; p > 0 || a.Steps != nil && !a.Hold && i+1 < len(t.keys) && at.Cmp(a.At) == 0 {
		return float64(i) + a.eased(p)
	}
	return float64(i)
}

// MixColours mixes straight colours, 0 to 255 each, premultiplied.
func MixColours(dst, a, b []float64, p float64) {
	// An easing may go beyond its ends; alpha can't.
	alpha := math.Max(0, math.Min(255, a[3]+(b[3]-a[3])*p))
	for k := range 3 {
		v := a[k] + (b[k]-a[k])*p
		if a[3] != b[3] && alpha > 0 {
			v = (a[k]*a[3] + (b[k]*b[3]-a[k]*a[3])*p) / alpha
		}
		dst[k] = math.Max(0, math.Min(255, v))
	}
	dst[3] = alpha
}

// arc is a cubic curve between two places with a table of its length.
type arc struct {
	x, y [4]float64 // the curve's four points
	by   [2]float64 // how long 1 is across and down
	sum  [arcSteps + 1]float64
}

// arcSteps is how finely a way is measured. The length within a step is taken
// by Gauss-Legendre quadrature and between steps inverted by Newton's method,
// so that the error is far below a thousandth of the way's length.
const arcSteps = 64

func newArc(a, b Key, by [2]float64) *arc {
	c := &arc{
		x: [4]float64{a.Value[0], a.Value[0] + a.Out[0], b.Value[0] + b.In[0], b.Value[0]},
		y: [4]float64{a.Value[1], a.Value[1] + a.Out[1], b.Value[1] + b.In[1], b.Value[1]}, by: by,
	}
	for i := range arcSteps {
		c.sum[i+1] = c.sum[i] + c.part(float64(i)/arcSteps, float64(i+1)/arcSteps)
	}
	return c
}

func (c *arc) length() float64 { return c.sum[arcSteps] }

// part is the length between two parameters, by Gauss-Legendre quadrature with
// five points (nodes and weights from memory; they integrate x⁸ exactly, as
// the tests hold).
func (c *arc) part(a, b float64) float64 {
	nodes := [5]float64{0, -0.5384693101056831, 0.5384693101056831, -0.9061798459386640, 0.9061798459386640}
	weights := [5]float64{0.5688888888888889, 0.4786286704993665, 0.4786286704993665, 0.2369268850561891, 0.2369268850561891}
	m, h, sum := (a+b)/2, (b-a)/2, 0.0
	for i := range nodes {
		sum += weights[i] * c.pace(m+h*nodes[i])
	}
	return sum * h
}

// pace is how fast the length grows with the parameter.
func (c *arc) pace(u float64) float64 {
	return math.Hypot(slopeOf(c.x, u)*c.by[0], slopeOf(c.y, u)*c.by[1])
}

// param is the curve's parameter at a progress.
func (c *arc) param(p float64, even bool) float64 {
	if !even || p <= 0 || p >= 1 || c.length() == 0 {
		return p
	}
	want := p * c.length()
	i := min(sort.SearchFloat64s(c.sum[:], want), arcSteps) - 1
	i = max(i, 0)
	lo := float64(i) / arcSteps
	u := lo
	if d := c.sum[i+1] - c.sum[i]; d > 0 {
		u += (want - c.sum[i]) / d / arcSteps
	}
	for range 3 {
		v := c.pace(u)
		if v < 1e-12 {
			break
		}
		u -= (c.sum[i] + c.part(lo, u) - want) / v
		u = math.Max(lo, math.Min(lo+1.0/arcSteps, u))
	}
	return u
}

func (c *arc) at(p float64, even bool) (x, y float64) {
	u := c.param(p, even)
	return pointOf(c.x, u), pointOf(c.y, u)
}

// slope is the change of the place with progress.
func (c *arc) slope(p float64, even bool) (x, y float64) {
	u := c.param(p, even)
	x, y = slopeOf(c.x, u), slopeOf(c.y, u)
	if v := c.pace(u); even && v > 0 {
		x, y = x/v*c.length(), y/v*c.length()
	}
	return
}

// pointOf and slopeOf are a cubic Bézier curve's value and derivative; beyond
// its ends it goes on as the same cubic.
func pointOf(p [4]float64, u float64) float64 {
	v := 1 - u
	return v*v*v*p[0] + 3*v*v*u*p[1] + 3*v*u*u*p[2] + u*u*u*p[3]
}

func slopeOf(p [4]float64, u float64) float64 {
	v := 1 - u
	return 3 * (v*v*(p[1]-p[0]) + 2*v*u*(p[2]-p[1]) + u*u*(p[3]-p[2]))
}

// Bounds writes the least and the greatest of each number between two instants,
// in frames, both included. They are exact but for rounding, also where an
// easing goes beyond its ends.
func (t *Track) Bounds(from, to float64, lo, hi []float64) {
	n := t.width
	for k := range n {
		lo[k], hi[k] = math.Inf(1), math.Inf(-1)
	}
	take := func(k int, v float64) { lo[k], hi[k] = math.Min(lo[k], v), math.Max(hi[k], v) }
	last := len(t.keys) - 1
	if from <= t.keys[0].At.Float() {
		for k := range n {
			take(k, t.keys[0].Value[k])
		}
	}
	if to >= t.keys[last].At.Float() {
		for k := range n {
			take(k, t.keys[last].Value[k])
		}
	}
	first := sort.Search(len(t.keys), func(i int) bool { return t.keys[i].At.Float() >= from })
	for i := max(0, first-1); i < last && t.keys[i].At.Float() <= to; i++ {
		a, b := &t.keys[i], &t.keys[i+1]
		t0, t1 := a.At.Float(), b.At.Float()
		if t1 < from {
			continue
		}
		if a.Hold {
			for k := range n {
				take(k, a.Value[k])
				if to >= t1 {
					take(k, b.Value[k])
				}
			}
			continue
		}
		p0, p1 := math.Max(0, (from-t0)/(t1-t0)), math.Min(1, (to-t0)/(t1-t0))
		e0, e1 := p0, p1
		switch {
		case a.Steps != nil:
			e0, e1 = a.Steps.At(p0), a.Steps.At(p1)
		case a.Ease != nil:
			e0, e1 = a.Ease.bounds(p0, p1)
		}
		if t.arcs != nil && t.arcs[i] != nil {
			c := t.arcs[i]
			u0, u1 := c.param(e0, t.blend == EvenPlaces), c.param(e1, t.blend == EvenPlaces)
			for k, axis := range [2][4]float64{c.x, c.y} {
				v0, v1 := cubicBounds(axis, u0, u1)
				take(k, v0)
				take(k, v1)
			}
			continue
		}
		for k := range n {
			d := b.Value[k] - a.Value[k]
			take(k, a.Value[k]+d*e0)
			take(k, a.Value[k]+d*e1)
		}
	}
}

// cubicBounds is the range of a cubic Bézier curve between two parameters: its
// ends and where its derivative, a quadratic, is 0.
func cubicBounds(p [4]float64, u0, u1 float64) (lo, hi float64) {
	a, b := pointOf(p, u0), pointOf(p, u1)
	lo, hi = math.Min(a, b), math.Max(a, b)
	d0, d1, d2 := p[1]-p[0], p[2]-p[1], p[3]-p[2]
	qa, qb, qc := d0-2*d1+d2, 2*(d1-d0), d0
	root := func(u float64) {
		if u > u0 && u < u1 {
			v := pointOf(p, u)
			lo, hi = math.Min(lo, v), math.Max(hi, v)
		}
	}
	if math.Abs(qa) < 1e-12 {
		if qb != 0 {
			root(-qc / qb)
		}
		return
	}
	if disc := qb*qb - 4*qa*qc; disc >= 0 {
		s := math.Sqrt(disc)
		root((-qb + s) / (2 * qa))
		root((-qb - s) / (2 * qa))
	}
	return
}
