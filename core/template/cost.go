package template

import (
	"fmt"
	"slices"

	"ivypocket/core/scheme"
)

// Bounds on what a document may cost to draw, each told at the place that goes
// beyond it. Below them the time of a frame grows with the number of layers.
const (
	// MaxDrawn bounds how many layers are drawn for one frame: a layer in a group
	// is drawn once for each of the group's copies and for each instant of its
	// motion blur, and groups lie in groups.
	MaxDrawn = 20_000
	// MaxGraded bounds the pixels that all grades of a document go over for one
	// frame: each goes over the whole canvas, about 70 million a second on one core.
	MaxGraded = 1_000_000_000
	// MaxMattes bounds how deep mattes may be cut by mattes.
	MaxMattes = 16
)

// validateCost finds what would take too long to draw.
func (d *Document) validateCost(l *faultList) {
	var canvas Format
	for _, f := range d.Formats {
		if f.Width*f.Height > canvas.Width*canvas.Height {
			canvas = f
		}
	}
	drawn, grades := 0, 0
	told := false
	var walk func(layers []*Layer, at string, times int)
	walk = func(layers []*Layer, at string, times int) {
		for i, y := range layers {
			path := fmt.Sprintf("%slayers[%d]", at, i)
			n := times
			if y.Given(scheme.CopiesCount) {
				n *= min(max(1, int(y.Number(scheme.CopiesCount))), scheme.MaxCopies)
			}
			if y.Given(scheme.BlurSamples) {
				n *= min(max(1, int(y.Number(scheme.BlurSamples))), scheme.MaxSamples)
			}
			if drawn += n; drawn > MaxDrawn {
				if !told {
					l.add(path, "with this layer %d layers are drawn for a frame; the limit is %d. Lower the copies or the blur's samples of it or of the groups it is in", drawn, MaxDrawn)
				}
				told = true
				return // what is in it is drawn more often still
			}
			if y.Kind == scheme.Grade {
				if grades += n; grades*canvas.Width*canvas.Height > MaxGraded {
					l.add(path, "is grade %d, and each goes over the whole canvas; at %d × %d px there may be %d. Use fewer, or a smaller canvas",
						grades, canvas.Width, canvas.Height, MaxGraded/(canvas.Width*canvas.Height))
				}
			}
			walk(y.Layers(), path+".", n)
		}
	}
	walk(d.Layers, "", 1)
}

// Soft edges are told when a frame needs more than maxSoft pixels of them; two
// cores make some softSpeed of them in a second.
const (
	maxSoft   = 40_000_000
	softSpeed = 80_000_000
)

// findSoft finds soft edges that take long: each copy and each instant of motion
// blur makes its own. The layer that needs most is told.
func (d *Document) findSoft(l *faultList) {
	if len(d.Formats) == 0 {
		return
	}
	area, canvas := 0.0, d.Formats[0].Canvas()
	for _, f := range d.Formats {
		if a := f.Canvas().W * f.Canvas().H; a > area {
			area, canvas = a, f.Canvas()
		}
	}
	sum, most, where := 0.0, 0.0, ""
	var walk func(layers []*Layer, at string, times float64)
	walk = func(layers []*Layer, at string, times float64) {
		for i, y := range layers {
			path := fmt.Sprintf("%slayers[%d]", at, i)
			n := times
			if y.Given(scheme.CopiesCount) {
				n *= y.Number(scheme.CopiesCount)
			}
			if y.Given(scheme.BlurSamples) {
				n *= y.Number(scheme.BlurSamples)
			}
			px := area
			if v := y.Get(scheme.Size).Resolved(canvas).Numbers; len(v) == 2 {
				px = min(area, v[0]*v[1])
			}
			own := 0.0
			masks := slices.Clone(y.Masks())
			for _, t := range y.Treatments() {
				masks = append(masks, t.Masks()...)
			}
			for _, m := range masks {
				if m.Number(scheme.Feather) > 0 || m.Number(scheme.Growth) != 0 {
					own += n * px
				}
			}
			if sum += own; own > most {
				if most, where = own, path+".masks"; len(y.Masks()) == 0 {
					where = path + ".treatments"
				}
			}
			walk(y.Layers(), path+".", n)
		}
	}
	walk(d.Layers, "", 1)
	if sum > maxSoft {
		l.add(where, "some %.0f million pixels of soft edges are made for each frame, which takes about %.1f s. Lower the copies or the blur's samples of the layer or of the groups it is in, or the size of what is cut",
			sum/1e6, sum/softSpeed)
	}
}

// matteDepths finds how many mattes each layer needs one after another: its own,
// that one's, and so on, also of what is in it. A circle counts once round; it
// is told elsewhere.
func (d *Document) matteDepths(byID map[string]*Layer) map[*Layer]int {
	depths := map[*Layer]int{}
	busy := map[*Layer]bool{}
	var depth func(y *Layer) int
	depth = func(y *Layer) int {
		if n, ok := depths[y]; ok || busy[y] {
			return n
		}
		busy[y] = true
		n := 0
		for _, in := range y.Layers() {
			n = max(n, depth(in))
		}
		if m := byID[y.Text(scheme.MatteLayer)]; m != nil {
			n = max(n, 1+depth(m))
		}
		delete(busy, y)
		depths[y] = n
		return n
	}
	d.Visit(func(_ string, y *Layer) { depth(y) })
	return depths
}
