package geom

import "math"

// Projective maps (x, y) to (A·x + C·y + E, B·x + D·y + F) ÷ (G·x + H·y + I):
// an affine map when G and H are 0 and I is 1. In CSS Transforms Level 2 it is
// matrix3d(A,B,0,G, C,D,0,H, 0,0,1,0, E,F,0,I).
type Projective struct {
	Affine
	G, H, I float64
}

// Flat returns an affine map as a projective one.
func (m Affine) Flat() Projective { return Projective{m, 0, 0, 1} }

// IsFlat reports whether the map is affine.
func (m Projective) IsFlat() bool { return m.G == 0 && m.H == 0 && m.I == 1 }

// Apply maps one point. Where the divisor is 0 or below, which is behind the
// eye, the result means nothing; Depth tells.
func (m Projective) Apply(p Point) Point {
	q := m.Affine.Apply(p)
	if m.IsFlat() {
		return q
	}
	w := m.Depth(p)
	return Point{q.X / w, q.Y / w}
}

// Depth is the divisor at a point.
func (m Projective) Depth(p Point) float64 { return m.G*p.X + m.H*p.Y + m.I }

// Then returns the map that first does m and then n.
func (m Projective) Then(n Projective) Projective {
	if m.IsFlat() && n.IsFlat() {
		return m.Affine.Then(n.Affine).Flat()
	}
	return Projective{
		Affine: Affine{
			A: n.A*m.A + n.C*m.B + n.E*m.G, B: n.B*m.A + n.D*m.B + n.F*m.G,
			C: n.A*m.C + n.C*m.D + n.E*m.H, D: n.B*m.C + n.D*m.D + n.F*m.H,
			E: n.A*m.E + n.C*m.F + n.E*m.I, F: n.B*m.E + n.D*m.F + n.F*m.I,
		},
		G: n.G*m.A + n.H*m.B + n.I*m.G,
		H: n.G*m.C + n.H*m.D + n.I*m.H,
		I: n.G*m.E + n.H*m.F + n.I*m.I,
	}
}

// Invert returns the inverse map; ok is false when the map flattens the plane
// or is not finite.
func (m Projective) Invert() (inv Projective, ok bool) {
	if m.IsFlat() {
		a, ok := m.Affine.Invert()
		return a.Flat(), ok
	}
	a, b, c := m.D*m.I-m.F*m.H, m.C*m.I-m.E*m.H, m.C*m.F-m.E*m.D
	det := m.A*a - m.B*b + m.G*c
	if det == 0 || math.IsNaN(det) || math.IsInf(det, 0) {
		return Projective{}, false
	}
	inv = Projective{
		Affine: Affine{
			A: a / det, C: -b / det, E: c / det,
			B: -(m.B*m.I - m.F*m.G) / det, D: (m.A*m.I - m.E*m.G) / det, F: -(m.A*m.F - m.E*m.B) / det,
		},
		G: (m.B*m.H - m.D*m.G) / det, H: -(m.A*m.H - m.C*m.G) / det, I: (m.A*m.D - m.C*m.B) / det,
	}
	sum := inv.A + inv.B + inv.C + inv.D + inv.E + inv.F + inv.G + inv.H + inv.I
	return inv, !math.IsNaN(sum) && !math.IsInf(sum, 0)
}

// Quad returns the map that takes a box to the quadrilateral of four corners,
// clockwise from the one of the box's top left. ok is false when the corners do
// not go round a convex shape, which no eye sees of a flat thing.
//
// The formula is that of Heckbert, Fundamentals of Texture Mapping and Image
// Warping (1989), section 2.2.3, from memory; the tests hold it against the
// corners themselves and against Chromium's matrix3d.
func Quad(b Box, to [4]Point) (Projective, bool) {
	turn := 0.0
	for i := range to {
		p, q, r := to[i], to[(i+1)%4], to[(i+2)%4]
		c := (q.X-p.X)*(r.Y-q.Y) - (q.Y-p.Y)*(r.X-q.X)
		if c == 0 || c*turn < 0 || math.IsNaN(c) {
			return Projective{}, false
		}
		turn = c
	}
	if !(b.W > 0 && b.H > 0) {
		return Projective{}, false
	}
	dx1, dx2, sx := to[1].X-to[2].X, to[3].X-to[2].X, to[0].X-to[1].X+to[2].X-to[3].X
	dy1, dy2, sy := to[1].Y-to[2].Y, to[3].Y-to[2].Y, to[0].Y-to[1].Y+to[2].Y-to[3].Y
	d := dx1*dy2 - dx2*dy1
	g, h := (sx*dy2-dx2*sy)/d, (dx1*sy-sx*dy1)/d
	unit := Projective{
		Affine: Affine{
			A: to[1].X - to[0].X + g*to[1].X, C: to[3].X - to[0].X + h*to[3].X, E: to[0].X,
			B: to[1].Y - to[0].Y + g*to[1].Y, D: to[3].Y - to[0].Y + h*to[3].Y, F: to[0].Y,
		}, G: g, H: h, I: 1,
	}
	return Translate(-b.X, -b.Y).Then(Scale(1/b.W, 1/b.H)).Flat().Then(unit), true
}

// Quad returns the box's corners as the map takes them; ok is false when one
// of them lies behind the eye.
func (m Projective) Quad(b Box) (q [4]Point, ok bool) {
	for i, p := range b.Corners() {
		if !(m.Depth(p) > 1e-9) {
			return q, false
		}
		q[i] = m.Apply(p)
	}
	return q, true
}

// Bounds returns the smallest upright box around some points.
func Bounds(points ...Point) Box {
	if len(points) == 0 {
		return Box{}
	}
	x0, y0 := points[0].X, points[0].Y
	x1, y1 := x0, y0
	for _, p := range points[1:] {
		x0, y0, x1, y1 = math.Min(x0, p.X), math.Min(y0, p.Y), math.Max(x1, p.X), math.Max(y1, p.Y)
	}
	return Box{x0, y0, x1 - x0, y1 - y0}
}

// Stretch returns the largest factors by which the map lengthens the unit
// vectors anywhere in a box.
func (m Projective) Stretch(b Box) (x, y float64) {
	if m.IsFlat() {
		return m.Affine.Stretch()
	}
	for _, p := range b.Corners() {
		w := m.Depth(p)
		q := m.Apply(p)
		x = math.Max(x, math.Hypot(m.A-q.X*m.G, m.B-q.Y*m.G)/math.Abs(w))
		y = math.Max(y, math.Hypot(m.C-q.X*m.H, m.D-q.Y*m.H)/math.Abs(w))
	}
	return
}
