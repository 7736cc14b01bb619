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
	// table holds premultiplied colours with 8 bits after the point.
	table  [tableSize + 1][4]uint16
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
			g.table[i][j] = uint16(c[j]*256 + 0.5)
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

// share is how far along the way a place in the layer is.
func (s *Shade) share(p geom.Point) float64 {
	x, y := p.X-s.from.X, p.Y-s.from.Y
	if s.r == 0 {
		return 1
	}
	switch s.g.kind {
	case Radial:
		return math.Hypot(x, y) / s.r
	case Conic:
		t := (math.Atan2(y, x) - s.start) / (2 * math.Pi)
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
func (s *Shade) Row(buf []uint8, x0, x1, y int) ([]uint8, bool) {
	out := buf[:(x1-x0)*4]
	p := geom.Point{X: float64(x0) + 0.5, Y: float64(y) + 0.5}
	half := &bayer[y&7]
	var plain [8]uint16
	if !s.g.dither {
		for i := range plain {
			plain[i] = 128
		}
		half = &plain
	}
	put := func(i int, t float64) {
		v := t*tableSize + 0.5
		k := 0
		if v >= tableSize {
			k = tableSize
		} else if v > 0 {
			k = int(v)
		}
		c := &s.g.table[k]
		h := half[(x0+i)&7]
		o := out[i*4 : i*4+4 : i*4+4]
		// Alpha has the same threshold, so no colour comes to exceed it.
		o[0], o[1], o[2], o[3] = uint8((c[0]+h)>>8), uint8((c[1]+h)>>8), uint8((c[2]+h)>>8), uint8((c[3]+h)>>8)
	}
	if s.inv.IsFlat() && s.g.kind == Linear {
		q := s.inv.Apply(p)
		t := s.share(q)
		dt := s.inv.A*s.ax + s.inv.B*s.ay
		for i := range x1 - x0 {
			put(i, t+dt*float64(i))
		}
		return out, true
	}
	for i := range x1 - x0 {
		put(i, s.share(s.inv.Apply(geom.Point{X: p.X + float64(i), Y: p.Y})))
	}
	return out, true
}

// Solid reports whether every pixel is opaque.
func (s *Shade) Solid() bool { return s.g.opaque }

func (g *Gradient) String() string {
	s := [...]string{"linear", "radial", "conic"}[g.kind] + " gradient"
	for _, st := range g.stops {
		s += fmt.Sprintf(" #%02x%02x%02x%02x at %g", st.Colour[0], st.Colour[1], st.Colour[2], st.Colour[3], st.At)
	}
	return s
}
