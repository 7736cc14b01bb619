package trial

import (
	"context"
	"math"

	"ivypocket/core/geom"
	"ivypocket/core/raster"
	"ivypocket/core/scene"
)

// sample is a piece of trial media, drawn when it is asked for.
type sample struct {
	id, name string
	size     geom.Size
	// colour of a place, both coordinates from 0 to 1, straight alpha.
	colour func(x, y float64) [4]uint8
}

// pictures are what an editor may put where a picture or a clip is meant.
var pictures = []sample{
	{"trial:tall", "tall media", geom.Size{W: 400, H: 2400}, cloth(40, 215)},
	{"trial:wide", "wide media", geom.Size{W: 3000, H: 300}, cloth(40, 215)},
	{"trial:tiny", "tiny media", geom.Size{W: 24, H: 16}, cloth(40, 215)},
	{"trial:dark", "very dark media", geom.Size{W: 960, H: 720}, cloth(2, 26)},
	{"trial:bright", "very bright media", geom.Size{W: 960, H: 720}, cloth(232, 255)},
	{"trial:clear", "transparent media", geom.Size{W: 960, H: 720}, holes},
}

// Names of the marks by which it is told which ones a pocket takes.
const (
	darkMark   = "a very dark mark"
	brightMark = "a very bright mark"
)

// marks are what an editor may put where a logo is meant.
var marks = []sample{
	{"trial:mark-tall", "a tall mark", geom.Size{W: 200, H: 800}, bars(0x1d, 0x52, 0x6b)},
	{"trial:mark-wide", "a wide mark", geom.Size{W: 1600, H: 200}, bars(0x1d, 0x52, 0x6b)},
	{"trial:mark-tiny", "a tiny mark", geom.Size{W: 16, H: 16}, bars(0x1d, 0x52, 0x6b)},
	{"trial:mark-dark", darkMark, geom.Size{W: 600, H: 400}, bars(0x0c, 0x0c, 0x0e)},
	{"trial:mark-bright", brightMark, geom.Size{W: 600, H: 400}, bars(0xfb, 0xfb, 0xf8)},
	{"trial:mark-opaque", "a mark without transparency", geom.Size{W: 600, H: 400}, cloth(120, 200)},
}

// cloth is an opaque weave between two brightnesses, lighter to the top left,
// whose border and diagonal show how it is cropped.
func cloth(lo, hi float64) func(x, y float64) [4]uint8 {
	return func(x, y float64) [4]uint8 {
		t := 1 - (x+y)/2
		if (int(x*8)+int(y*8))%2 == 0 {
			t = t*0.8 + 0.1
		}
		v := lo + (hi-lo)*t
		return [4]uint8{uint8(v), uint8(v*0.94 + 0.03*hi), uint8(v*0.86 + 0.05*hi), 255}
	}
}

// holes is a weave with clear squares.
func holes(x, y float64) [4]uint8 {
	if (int(x*6)+int(y*6))%2 == 0 {
		return [4]uint8{}
	}
	return [4]uint8{0xb9, 0x82, 0x1f, 255}
}

// bars is a mark of three slanted bars on clear ground, reaching all edges.
func bars(r, g, b uint8) func(x, y float64) [4]uint8 {
	return func(x, y float64) [4]uint8 {
		if math.Mod(x*3+y+3, 1) < 0.55 {
			return [4]uint8{r, g, b, 255}
		}
		return [4]uint8{}
	}
}

func (s sample) draw(w, h int) *raster.Surface {
	out := raster.NewSurface(w, h)
	for y := range h {
		for x := range w {
			c := s.colour((float64(x)+0.5)/float64(w), (float64(y)+0.5)/float64(h))
			copy(out.Pix[(y*w+x)*4:], c[:])
		}
	}
	out.MeasureOpaque()
	return out
}

// withSamples adds the trial's own media to a source.
type withSamples struct {
	scene.Source
	all map[string]sample
}

func addSamples(src scene.Source) withSamples {
	w := withSamples{src, map[string]sample{}}
	for _, s := range append(append([]sample(nil), pictures...), marks...) {
		w.all[s.id] = s
	}
	return w
}

// Info describes the trial's media, else asks the source.
func (w withSamples) Info(media string) (scene.Info, bool) {
	if s, ok := w.all[media]; ok {
		return scene.Info{Size: s.size}, true
	}
	return w.Source.Info(media)
}

// Trace traces the trial's media, else asks the source.
func (w withSamples) Trace(media string) (*raster.Trace, error) {
	if s, ok := w.all[media]; ok {
		k := math.Min(1, 512/math.Max(s.size.W, s.size.H))
		pic := s.draw(max(1, int(s.size.W*k)), max(1, int(s.size.H*k)))
		pic.Premultiply()
		return raster.NewTrace(pic), nil
	}
	return w.Source.Trace(media)
}

// Vector is false for the trial's media, else asks the source.
func (w withSamples) Vector(media string) bool {
	if _, ok := w.all[media]; ok {
		return false
	}
	return w.Source.Vector(media)
}

// Picture draws the trial's media, else asks the source.
func (w withSamples) Picture(ctx context.Context, media string, frame int64, pw, ph int) (*raster.Surface, error) {
	if s, ok := w.all[media]; ok {
		return s.draw(pw, ph), nil
	}
	return w.Source.Picture(ctx, media, frame, pw, ph)
}
