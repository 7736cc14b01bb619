// Package look is the room for treatments: what is done to a layer's picture, one
// after another. Each stands in a file of its own and in one table; what values it
// has is said by the scheme. It knows no document and no list.
package look

import (
	"fmt"
	"math"

	"ivypocket/core/raster"
	"ivypocket/core/scheme"
)

// Values are a treatment's numbers at an instant.
type Values interface {
	// Numbers are those of a property; of a colour red, green, blue and alpha, 0 to 255.
	Numbers(p *scheme.Property) []float64
	// Length is a length of the canvas, or of the group the layer is in, in pixels
	// of the device; Way is a displacement.
	Length(v float64) float64
	Way(x, y float64) (dx, dy float64)
}

// Step is a treatment made ready for an instant.
type Step interface {
	// Reach is how far beyond the picture it is seen, and how far around a pixel it
	// looks.
	Reach() (x, y int)
	// Key appends all that its result depends on, besides the picture.
	Key(b []byte) []byte
	// Do changes the bench's picture.
	Do(b *Bench)
	// String says what it does, for people.
	fmt.Stringer
}

// Bench is where a picture is treated: the picture, and memory beside it. Run does
// a number of lines in parts, side by side, and waits for all.
type Bench struct {
	// Picture is what is treated. While it is wide, Wide holds it.
	Picture *raster.Surface
	wide    bool
	Wide    *raster.Wide
	Spare   [2]*raster.Wide
	// X and Y are where the picture's top left corner stands on the device.
	X, Y   int
	small  [2]raster.Wide
	before raster.Wide // what a step leaves outside its masks
	Run    func(lines int, f func(from, to int))
}

// Part is a step and where it is done, in pixels of the picture; nil is all over it.
type Part struct {
	Step
	Where *raster.Coverage
}

// Do does steps one after another. What comes to more than 8 bits is rounded once.
func (b *Bench) Do(steps []Part, ended func() error) error {
	b.wide = false
	for _, s := range steps {
		if s.Where != nil {
			b.part(s)
		} else {
			s.Do(b)
		}
		if err := ended(); err != nil {
			return err
		}
	}
	if b.wide {
		b.Run(b.Picture.H, func(from, to int) { b.Wide.To(b.Picture, from, to, b.X, b.Y) })
	}
	b.Picture.Opaque = false
	return nil
}

// part does a step where it is to be done; elsewhere all stays as it was, and where it is done
// by half the picture is half of what it was.
func (b *Bench) part(s Part) {
	b.widen()
	was := &b.before
	was.Reset(b.Wide.W, b.Wide.H, 4)
	b.Run(was.H, func(from, to int) { copy(was.Rows(from, to), b.Wide.Rows(from, to)) })
	s.Do(b)
	b.Run(was.H, func(from, to int) { b.Wide.Keep(was, s.Where, from, to) })
}

// widen makes the picture wide.
func (b *Bench) widen() {
	if !b.wide {
		b.wide = true
		b.Wide.Reset(b.Picture.W, b.Picture.H, 4)
		b.Run(b.Picture.H, func(from, to int) { b.Wide.From(b.Picture, from, to) })
	}
}

// blurred blurs a picture by deviations in pixels and returns the result and what is
// spare, which are the two in some order. A wide blur is made from a smaller picture,
// in which nothing is left that it would not take away: its time does not grow with
// its width.
func (b *Bench) blurred(pic, spare *raster.Wide, x, y float64) (result, rest *raster.Wide) {
	f := 1
	for f < maxShrink && min(x, y) >= 2*leastSmall*float64(f) {
		f *= 2
	}
	if f == 1 {
		return b.passes(pic, spare, x, y)
	}
	// The grid stays on the device, so that nothing shimmers where a picture moves.
	px, py := b.X&(f-1), b.Y&(f-1)
	small, other := &b.small[0], &b.small[1]
	w, h := raster.Shrunk(pic.W, pic.H, f, px, py)
	small.Reset(w, h, pic.N)
	b.Run(h, func(from, to int) { small.Shrink(pic, f, px, py, from, to) })
	small, _ = b.passes(small, other, narrower(x, f), narrower(y, f))
	b.Run(pic.H, func(from, to int) { pic.Grow(small, f, px, py, from, to) })
	return pic, spare
}

// Wide blurs are made from pictures so much smaller, at most, that their deviation
// is still leastSmall of its pixels.
const (
	maxShrink  = 8
	leastSmall = 2
)

// narrower is the deviation in a picture f times smaller: shrinking by means has
// blurred it by some, and growing it along straight lines does so again.
func narrower(d float64, f int) float64 {
	n := float64(f * f)
	return math.Sqrt(d*d-(n-1)/12-n/6) / float64(f)
}

// passes does all passes of a blur; it returns the result, and what is spare.
func (b *Bench) passes(pic, spare *raster.Wide, x, y float64) (result, rest *raster.Wide) {
	down := func(deviation float64) {
		for _, p := range raster.Passes(deviation) {
			spare.Reset(pic.W, pic.H, pic.N)
			src, dst := pic, spare
			b.Run(src.Columns(), func(from, to int) { p.Down(dst, src, from, to) })
			pic, spare = spare, pic
		}
	}
	turn := func() {
		spare.Reset(pic.H, pic.W, pic.N)
		src, dst := pic, spare
		b.Run(dst.H, func(from, to int) { dst.Turn(src, from, to) })
		pic, spare = spare, pic
	}
	if len(raster.Passes(x)) > 0 {
		turn()
		down(x)
		turn()
	}
	down(y)
	return pic, spare
}

// treatments make steps of the kinds of the scheme.
var treatments = map[*scheme.Kind]func(behaviour int, v Values) Step{}

// Treats says how a kind of treatments is done. It is called before there are scenes.
func Treats(k *scheme.Kind, f func(behaviour int, v Values) Step) { treatments[k] = f }

// Make readies a treatment for an instant; nil does nothing.
func Make(k *scheme.Kind, behaviour int, v Values) Step {
	if f := treatments[k]; f != nil {
		return f(behaviour, v)
	}
	return nil
}
