package raster

import (
	"encoding/binary"
	"fmt"
	"math"

	"ivypocket/core/geom"
)

// GradientKind is the shape of a gradient.
type GradientKind uint8

const (
	Linear GradientKind = iota
	Radial
	Conic
)

// ParseGradientKind reads a kind's name; any other is linear.
func ParseGradientKind(name string) GradientKind {
	switch name {
	case "radial":
		return Radial
	case "conic":
		return Conic
	}
	return Linear
}

// Stop is a colour, straight sRGB, at a share of the way.
type Stop struct {
	At     float64
	Colour [4]uint8
}

// Gradient is a table of colours along a way. Colours between two stops are
// mixed premultiplied, as CSS Images Level 4, section 3.4.2, says. It is safe for
// use by many goroutines.
type Gradient struct {
	kind   GradientKind
	dither bool
	stops  []Stop
	// table holds premultiplied colours with 8 bits after the point, red in the
	// lowest 16 bits.
	table  [tableSize + 1]uint64
	opaque bool
}

// tableSize is fine enough that a step between two entries of a gradient of
// two colours is at most a quarter of 1/255.
const tableSize = 1024

// NewGradient makes a table of stops in order; before the first and after the
// last their colours go on.
func NewGradient(kind GradientKind, stops []Stop, dither bool) *Gradient {
	g := &Gradient{kind: kind, dither: dither, stops: stops, opaque: true}
	pre := func(c [4]uint8) (p [4]float64) {
		for k := range 3 {
			p[k] = float64(c[k]) * float64(c[3]) / 255
		}
		p[3] = float64(c[3])
		return
	}
	for i := range g.table {
		at := float64(i) / tableSize
		k := 0
		for k < len(stops) && stops[k].At <= at {
			k++
		}
		var c [4]float64
		switch {
		case k == 0:
			c = pre(stops[0].Colour)
		case k == len(stops):
			c = pre(stops[k-1].Colour)
		default:
			a, b := pre(stops[k-1].Colour), pre(stops[k].Colour)
			t := (at - stops[k-1].At) / (stops[k].At - stops[k-1].At)
			for j := range c {
				c[j] = a[j] + (b[j]-a[j])*t
			}
		}
		for j := range c {
			g.table[i] |= uint64(uint16(c[j]*256+0.5)) << (16 * j)
		}
		g.opaque = g.opaque && c[3] == 255
	}
	return g
}

// AppendKey appends what tells this gradient from others.
func (g *Gradient) AppendKey(b []byte) []byte {
	b = append(b, byte(g.kind))
	if g.dither {
		b = append(b, 1)
	}
	for _, s := range g.stops {
		b = binary.BigEndian.AppendUint64(b, math.Float64bits(s.At))
		b = append(b, s.Colour[:]...)
	}
	return b
}

// Shade is a gradient laid on the device.
type Shade struct {
	g        *Gradient
	inv      geom.Projective // device to the layer's pixels
	from     geom.Point
	ax, ay   float64 // linear: the way's share per pixel of x and y
	r, start float64
}

// Lay places a gradient by two points in a layer's pixels and the layer's way
// to the device. ok is false when the layer is seen edge on.
func (g *Gradient) Lay(from, to geom.Point, m geom.Projective) (s Shade, ok bool) {
	s = Shade{g: g, from: from}
	if s.inv, ok = m.Invert(); !ok {
		return s, false
	}
	dx, dy := to.X-from.X, to.Y-from.Y
	d2 := dx*dx + dy*dy
	if d2 > 0 {
		s.ax, s.ay, s.r = dx/d2, dy/d2, math.Sqrt(d2)
	}
	s.start = math.Atan2(dy, dx)
	return s, true
}

// atanTerms are those of Abramowitz and Stegun, Handbook of Mathematical Functions,
// 4.4.49.
var atanTerms = [5]float64{0.9998660, -0.3302995, 0.1801410, -0.0851330, 0.0208351}

// atan2 is the angle of a direction, to 0.00001 radians: far finer than the
// steps of the table.
func atan2(y, x float64) float64 {
	a, b := math.Abs(x), math.Abs(y)
	if a == 0 && b == 0 {
		return 0
	}
	t := math.Min(a, b) / math.Max(a, b)
	q := t * t
	r := t * (atanTerms[0] + q*(atanTerms[1]+q*(atanTerms[2]+q*(atanTerms[3]+q*atanTerms[4]))))
	if b > a {
		r = math.Pi/2 - r
	}
	if x < 0 {
		r = math.Pi - r
	}
	if y < 0 {
		return -r
	}
	return r
}

// share is how far along the way a place is that lies at x, y from the
// gradient's first point, in the layer's pixels.
func (s *Shade) share(x, y float64) float64 {
	switch {
	case s.r == 0:
		return 1
	case s.g.kind == Radial:
		return math.Sqrt(x*x+y*y) / s.r
	case s.g.kind == Conic:
		t := (atan2(y, x) - s.start) / (2 * math.Pi)
		return t - math.Floor(t)
	}
	return x*s.ax + y*s.ay
}

// bayer holds thresholds of ordered dithering, 8×8 (Bayer 1973), in 256ths,
// centred on a half so that on the whole nothing gets lighter or darker.
var bayer = func() (t [8][8]uint16) {
	for y := range 8 {
		for x := range 8 {
			v, a, b := 0, x^y, y
			for bit := range 3 {
				v |= (a>>bit&1)<<(5-2*bit) | (b>>bit&1)<<(4-2*bit)
			}
			t[y][x] = uint16(v*4 + 2)
		}
	}
	return
}()

// Row writes pixels x0 to x1 of a row.
func (s *Shade) Row(buf []uint8, origin, x0, x1, y int) ([]uint8, bool) {
	out := buf[:(x1-x0)*4]
	p := geom.Point{X: float64(origin) + 0.5, Y: float64(y) + 0.5}
	var half [8]uint16 // from x0 on
	for i := range half {
		half[i] = 128
		if s.g.dither {
			half[i] = bayer[y&7][(x0+i)&7]
		}
	}
	m := &s.inv
	q := m.Apply(p)
	x, y0 := q.X-s.from.X, q.Y-s.from.Y
	var at, step int64
	linear := m.IsFlat() && s.g.kind == Linear && s.r > 0
	if linear {
		// With 32 bits after the point of the table's places; a place far out is
		// kept where its sum fits.
		const far = 1 << 20
		at = int64(math.Max(-far, math.Min(far, s.share(x, y0)*tableSize+0.5)) * (1 << 32))
		step = int64(math.Max(-far, math.Min(far, (m.A*s.ax+m.B*s.ay)*tableSize)) * (1 << 32))
		at += int64(x0-origin) * step
	}
	var in places
	for done := 0; done < x1-x0; done += atOnce {
		to, from := in[:min(atOnce, x1-x0-done)], x0-origin+done
		switch {
		case linear:
			for i := range to {
				to[i] = int32(min(max(at>>32, 0), tableSize))
				at += step
			}
		case !m.IsFlat():
			for i := range to {
				q := m.Apply(geom.Point{X: p.X + float64(from+i), Y: p.Y})
				to[i] = placeOf(s.share(q.X-s.from.X, q.Y-s.from.Y))
			}
		default:
			n := 0
			if vectors && s.r > 0 && s.g.kind == Radial {
				n = s.radialVector(to, x, y0, from)
			} else if vectors && s.r > 0 && s.g.kind == Conic {
				n = s.conicVector(to, x, y0, from)
			}
			for i := n; i < len(to); i++ {
				to[i] = placeOf(s.share(x+m.A*float64(from+i), y0+m.B*float64(from+i)))
			}
		}
		s.g.tone(out[done*4:], to, &half)
	}
	return out, true
}

// placeOf is where a share of the way lies in the table.
func placeOf(t float64) int32 { return int32(max(0, min(tableSize, t*tableSize+0.5))) }

// round8 rounds a colour's four lanes of 8 bits after the point by one threshold.
// As alpha has the same, no colour comes to exceed it.
func round8(c uint64, half uint16) uint32 {
	v := (c + uint64(half)*0x0001000100010001) >> 8 & 0x00ff00ff00ff00ff
	v = (v | v>>8) & 0x0000ffff0000ffff
	return uint32(v | v>>16)
}

// Solid reports whether every pixel is opaque.
func (s *Shade) Solid() bool { return s.g.opaque }

// Opaque reports whether all of its colours are.
func (g *Gradient) Opaque() bool { return g.opaque }

func (g *Gradient) String() string {
	s := [...]string{"linear", "radial", "conic"}[g.kind] + " gradient"
	for _, st := range g.stops {
		s += fmt.Sprintf(" #%02x%02x%02x%02x at %g", st.Colour[0], st.Colour[1], st.Colour[2], st.Colour[3], st.At)
	}
	return s
}
