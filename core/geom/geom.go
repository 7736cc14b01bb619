// Package geom is the room for plain geometry: points, sizes, boxes, affine
// maps, how media lies in a pocket (framing) and split layouts. It knows
// nothing of pixels, time or documents. Lengths are canvas pixels with y
// growing downwards; angles are degrees, clockwise as seen on the screen.
package geom

import "math"

// Point is a place or a displacement, in pixels.
type Point struct {
	X float64 `json:"x"`
	Y float64 `json:"y"`
}

// Size is a width and a height, in pixels.
type Size struct {
	W float64 `json:"w"`
	H float64 `json:"h"`
}

// Empty reports whether the size encloses nothing.
func (s Size) Empty() bool { return !(s.W > 0 && s.H > 0) }

// Box is an axis-aligned rectangle given by its top left corner and its size.
type Box struct {
	X float64 `json:"x"`
	Y float64 `json:"y"`
	W float64 `json:"w"`
	H float64 `json:"h"`
}

// Centred returns the box of the given size around a centre.
func Centred(c Point, s Size) Box { return Box{c.X - s.W/2, c.Y - s.H/2, s.W, s.H} }

// Centre returns the middle of the box.
func (b Box) Centre() Point { return Point{b.X + b.W/2, b.Y + b.H/2} }

// Size returns the width and height of the box.
func (b Box) Size() Size { return Size{b.W, b.H} }

// Corners returns the corners clockwise from the top left.
func (b Box) Corners() [4]Point {
	return [4]Point{{b.X, b.Y}, {b.X + b.W, b.Y}, {b.X + b.W, b.Y + b.H}, {b.X, b.Y + b.H}}
}

// Meets reports whether two boxes have a point in common, if only of their edges.
func (b Box) Meets(o Box) bool {
	return b.X <= o.X+o.W && o.X <= b.X+b.W && b.Y <= o.Y+o.H && o.Y <= b.Y+b.H
}

// Intersect returns the part common to both boxes; its size is never negative.
func (b Box) Intersect(o Box) Box {
	x0, y0 := math.Max(b.X, o.X), math.Max(b.Y, o.Y)
	x1, y1 := math.Min(b.X+b.W, o.X+o.W), math.Min(b.Y+b.H, o.Y+o.H)
	return Box{x0, y0, math.Max(0, x1-x0), math.Max(0, y1-y0)}
}

// Affine maps (x, y) to (A·x + C·y + E, B·x + D·y + F), in the order of
// CSS Transforms Level 1, matrix(a, b, c, d, e, f).
type Affine struct {
	A float64 `json:"a"`
	B float64 `json:"b"`
	C float64 `json:"c"`
	D float64 `json:"d"`
	E float64 `json:"e"`
	F float64 `json:"f"`
}

// Identity leaves every point where it is.
var Identity = Affine{A: 1, D: 1}

// Translate moves by (x, y).
func Translate(x, y float64) Affine { return Affine{1, 0, 0, 1, x, y} }

// Scale stretches from the origin.
func Scale(x, y float64) Affine { return Affine{x, 0, 0, y, 0, 0} }

// Rotate turns clockwise around the origin by an angle in degrees. Quarter
// turns are exact.
func Rotate(degrees float64) Affine {
	s, c := SinCos(degrees)
	return Affine{c, s, -s, c, 0, 0}
}

// SinCos returns sine and cosine of an angle in degrees, exact at quarter turns.
func SinCos(degrees float64) (s, c float64) {
	d := math.Mod(degrees, 360)
	if d < 0 {
		d += 360
	}
	switch d {
	case 0:
		return 0, 1
	case 90:
		return 1, 0
	case 180:
		return 0, -1
	case 270:
		return -1, 0
	}
	return math.Sincos(d * math.Pi / 180)
}

// Then returns the map that first does m and then n.
func (m Affine) Then(n Affine) Affine {
	return Affine{
		A: n.A*m.A + n.C*m.B, B: n.B*m.A + n.D*m.B,
		C: n.A*m.C + n.C*m.D, D: n.B*m.C + n.D*m.D,
		E: n.A*m.E + n.C*m.F + n.E, F: n.B*m.E + n.D*m.F + n.F,
	}
}

// Apply maps one point.
func (m Affine) Apply(p Point) Point {
	return Point{m.A*p.X + m.C*p.Y + m.E, m.B*p.X + m.D*p.Y + m.F}
}

// Det is the signed factor by which areas grow.
func (m Affine) Det() float64 { return m.A*m.D - m.B*m.C }

// Invert returns the inverse map; ok is false when the map flattens the
// plane or is not finite.
func (m Affine) Invert() (inv Affine, ok bool) {
	d := m.Det()
	if d == 0 || math.IsNaN(d) || math.IsInf(d, 0) {
		return Affine{}, false
	}
	inv = Affine{A: m.D / d, B: -m.B / d, C: -m.C / d, D: m.A / d}
	inv.E = -(inv.A*m.E + inv.C*m.F)
	inv.F = -(inv.B*m.E + inv.D*m.F)
	sum := inv.A + inv.B + inv.C + inv.D + inv.E + inv.F
	return inv, !math.IsNaN(sum) && !math.IsInf(sum, 0)
}

// Stretch returns the lengths to which the map takes the unit vectors.
func (m Affine) Stretch() (x, y float64) { return math.Hypot(m.A, m.B), math.Hypot(m.C, m.D) }

// Upright reports whether the map keeps the axes parallel to themselves.
func (m Affine) Upright() bool { return m.B == 0 && m.C == 0 }
