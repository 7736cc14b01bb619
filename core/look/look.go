// Package look is the room for treatments: what is done to a layer's picture, one
// after another. Each stands in a file of its own and in one table; what values it
// has is said by the scheme. It knows no document and no list.
package look

import (
	"fmt"

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
	Picture *raster.Wide
	Spare   [2]*raster.Wide
	Run     func(lines int, f func(from, to int))
}

// swap makes a spare picture the picture.
func (b *Bench) swap(i int) { b.Picture, b.Spare[i] = b.Spare[i], b.Picture }

// blur blurs the picture by deviations in pixels.
func (b *Bench) blur(x, y float64) {
	for _, p := range raster.Passes(x, y) {
		lines := b.Picture.H
		if p.Axis == raster.Down {
			lines = b.Picture.W
		}
		src, dst := b.Picture, b.Spare[0]
		b.Run(lines, func(from, to int) { p.Do(dst, src, from, to) })
		b.swap(0)
	}
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
