package geom

import (
	"fmt"
	"math"
)

// FormKind is the outline of a shape or a mask.
type FormKind string

const (
	Rectangle FormKind = "rectangle"
	Ellipse   FormKind = "ellipse"
	Polygon   FormKind = "polygon"
	Star      FormKind = "star"
	Arrow     FormKind = "arrow"
	Drawn     FormKind = "path"
	// Traced is an outline found in a picture; documents don't name it.
	Traced FormKind = "traced"
	// Lettered is an outline of letters; documents don't name it.
	Lettered FormKind = "letters"
)

// Forms lists every form, in the order in which people are offered them.
var Forms = []FormKind{Rectangle, Ellipse, Polygon, Star, Arrow, Drawn}

// Form is an outline in a box from (0, 0) to its size.
type Form struct {
	Kind FormKind
	Size Size
	// Radii of a rectangle's corners, clockwise from the top left, in pixels.
	// Where they do not fit they shrink together (CSS Backgrounds and Borders
	// Level 3, section 4.5).
	Radii [4]float64
	// Round is the radius of all corners of the other forms.
	Round float64
	// Sides of a polygon, points of a star. Both stand on the ellipse of the
	// box, the first at its top.
	Sides int
	// Inner is how far a star's inner corners stand from its centre, as a
	// share of its points.
	Inner float64
	// Head is the length of an arrow's head as a share of the width, Shaft the
	// thickness of its shaft as a share of the height. It points to the right.
	Head, Shaft float64
	// Path holds a drawn outline's nodes in shares of the size.
	Path Path
	// Lines is a traced outline, in pixels; it is not changed.
	Lines *Contours
	// Letters are outlines of curves, in pixels; they are not changed.
	Letters *Outlines
}

// Limits of forms.
const (
	MinSides = 3
	MaxSides = 100
	MaxNodes = 2000
)

// Validate says which of the form's values lies outside its limits.
func (f Form) Validate() error {
	switch f.Kind {
	case Rectangle, Ellipse:
	case Polygon, Star:
		if f.Sides < MinSides || f.Sides > MaxSides {
			return fmt.Errorf("sides: %d is outside %d to %d", f.Sides, MinSides, MaxSides)
		}
	case Arrow:
	case Drawn:
		if n := len(f.Path.Nodes); n < 2 || n > MaxNodes {
			return fmt.Errorf("path: %d points are outside 2 to %d", n, MaxNodes)
		}
	default:
		return fmt.Errorf("form: %q is not one of rectangle, ellipse, polygon, star, arrow, path", f.Kind)
	}
	return nil
}

// IsBox reports whether the form is a rectangle whose four corners are alike,
// and their radius.
func (f *Form) IsBox() (radius float64, ok bool) {
	r := f.Radii
	return r[0], f.Kind == Rectangle && r[0] == r[1] && r[1] == r[2] && r[2] == r[3]
}

// Contours appends the outline in straight pieces within a tolerance; spare is
// memory for the way there.
func (f *Form) Contours(dst, spare *Contours, tolerance float64) {
	w, h := f.Size.W, f.Size.H
	if !(w > 0 && h > 0) {
		return
	}
	switch f.Kind {
	case Rectangle:
		f.rectangle(dst, tolerance)
		return
	case Ellipse:
		dst.add(Point{w, h / 2})
		dst.arc(Point{w / 2, h / 2}, w/2, h/2, 0, 2*math.Pi, tolerance)
		// The last point is the first but for rounding.
		dst.Points[len(dst.Points)-1] = Point{w, h / 2}
		dst.end(true)
		return
	}
	to := dst
	if f.Round > 0 {
		spare.Reset()
		to = spare
	}
	switch f.Kind {
	case Polygon, Star:
		n, step := f.Sides, 1
		if f.Kind == Star {
			n, step = 2*n, 2
		}
		for i := range n {
			k := 1.0
			if i%step == 1 {
				k = f.Inner
			}
			s, c := SinCos(360*float64(i)/float64(n) - 90)
			to.add(Point{w / 2 * (1 + k*c), h / 2 * (1 + k*s)})
		}
		to.end(true)
	case Arrow:
		neck, a, b := w*(1-clamp(f.Head, 0, 1)), h/2*(1-clamp(f.Shaft, 0, 1)), h/2*(1+clamp(f.Shaft, 0, 1))
		for _, p := range []Point{{0, a}, {neck, a}, {neck, 0}, {w, h / 2}, {neck, h}, {neck, b}, {0, b}} {
			to.add(p)
		}
		to.end(true)
	case Traced:
		for i := range f.Lines.Ends {
			for _, p := range f.Lines.Line(i) {
				to.add(p)
			}
			to.end(true)
		}
	case Lettered:
		for _, p := range f.Letters.Paths {
			to.AddPath(p, tolerance)
		}
	case Drawn:
		to.addScaled(f.Path, w, h, tolerance)
	}
	if f.Round > 0 {
		var rounded Contours
		spare.RoundCorners(&rounded, f.Round, tolerance)
		for i := range rounded.Ends {
			for _, p := range rounded.Line(i) {
				dst.add(p)
			}
			dst.end(rounded.Closed[i])
		}
	}
}

// addScaled appends a path whose numbers are shares of a size.
func (c *Contours) addScaled(p Path, w, h, tolerance float64) {
	scaled := func(n Node) Node { return Node{n.X * w, n.Y * h, n.InX * w, n.InY * h, n.OutX * w, n.OutY * h} }
	for i := range p.Nodes {
		n := scaled(p.Nodes[i])
		if i == 0 {
			c.add(Point{n.X, n.Y})
			continue
		}
		c.step(scaled(p.Nodes[i-1]), n, tolerance)
	}
	if n := len(p.Nodes); p.Closed && n > 1 {
		c.step(scaled(p.Nodes[n-1]), scaled(p.Nodes[0]), tolerance)
	}
	c.end(p.Closed)
}

func (f *Form) rectangle(dst *Contours, tolerance float64) {
	w, h := f.Size.W, f.Size.H
	r := f.Radii
	k := 1.0
	for i, side := range [4]float64{w, h, w, h} {
		if sum := r[i] + r[(i+1)%4]; sum > side {
			k = math.Min(k, side/sum)
		}
	}
	for i := range r {
		r[i] = math.Max(0, r[i]*k)
	}
	corner := func(x, y, cx, cy, r, from float64) {
		if r == 0 {
			dst.add(Point{x, y})
			return
		}
		s, c := math.Sincos(from)
		dst.add(Point{cx + r*c, cy + r*s})
		dst.arc(Point{cx, cy}, r, r, from, from+math.Pi/2, tolerance)
	}
	corner(0, 0, r[0], r[0], r[0], math.Pi)
	corner(w, 0, w-r[1], r[1], r[1], -math.Pi/2)
	corner(w, h, w-r[2], h-r[2], r[2], 0)
	corner(0, h, r[3], h-r[3], r[3], math.Pi/2)
	dst.end(true)
}
