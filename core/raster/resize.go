package raster

import (
	"math"
	"sync"

	"ivypocket/core/geom"
)

// weightBits is the precision of resampling weights; their sum is exactly
// 1<<weightBits, so that flat colours stay flat.
const weightBits = 14

// taps are the source samples that make one destination sample.
type taps struct {
	first   int
	weights []int32
}

// kernel is the Catmull-Rom cubic (B = 0, C = 1/2 in Mitchell and Netravali's
// family), which keeps 1:1 copies exact and shrinks without much ringing.
func kernel(x float64) float64 {
	x = math.Abs(x)
	switch {
	case x < 1:
		return (1.5*x-2.5)*x*x + 1
	case x < 2:
		return ((-0.5*x+2.5)*x-4)*x + 2
	}
	return 0
}

// makeTaps filters from samples into to others, the middle of other i lying at
// scale·(i + ½) + shift among the samples' middles, which lie at k + ½. A
// negative scale mirrors.
func makeTaps(from, to int, scale, shift float64) []taps {
	stretch := math.Max(1, math.Abs(scale))
	out := make([]taps, to)
	for i := range out {
		centre := (float64(i)+0.5)*scale + shift - 0.5
		first := int(math.Ceil(centre - 2*stretch))
		last := int(math.Floor(centre + 2*stretch))
		// Samples beyond the edge take the edge's colour.
		lo, hi := min(max(first, 0), from-1), max(min(last, from-1), 0)
		w := make([]float64, hi-lo+1)
		sum := 0.0
		for k := first; k <= last; k++ {
			v := kernel((float64(k) - centre) / stretch)
			w[min(max(k, lo), hi)-lo] += v
			sum += v
		}
		t := taps{first: lo, weights: make([]int32, len(w))}
		total, best := int32(0), 0
		for k := range w {
			t.weights[k] = int32(math.Round(w[k] / sum * (1 << weightBits)))
			total += t.weights[k]
			if w[k] > w[best] {
				best = k
			}
		}
		t.weights[best] += 1<<weightBits - total
		out[i] = t
	}
	return out
}

// Resize returns the surface at another size, filtered for the scale.
func (s *Surface) Resize(w, h int) *Surface {
	if w == s.W && h == s.H {
		return s
	}
	return s.resample(makeTaps(s.W, w, float64(s.W)/float64(w), 0), makeTaps(s.H, h, float64(s.H)/float64(h), 0))
}

// Region returns w×h pixels from (x, y) on of the surface drawn through an
// upright map, filtered for the scale. Beyond the surface's edges its
// outermost pixels go on.
func (s *Surface) Region(m geom.Affine, x, y, w, h int) *Surface {
	inv, _ := m.Invert()
	return s.resample(makeTaps(s.W, w, inv.A, inv.A*float64(x)+inv.E), makeTaps(s.H, h, inv.D, inv.D*float64(y)+inv.F))
}

// resample filters along rows, then along columns.
func (s *Surface) resample(tx, ty []taps) *Surface {
	w, h := len(tx), len(ty)
	// Only the rows that the second step reads are made by the first.
	y0, y1 := s.H, 0
	for _, t := range ty {
		y0, y1 = min(y0, t.first), max(y1, t.first+len(t.weights))
	}
	mid := NewSurface(w, y1-y0)
	halves(mid.H, func(a, b int) {
		for y := a; y < b; y++ {
			src, dst := s.row(y+y0), mid.row(y)
			for x := range tx {
				store(dst, x*4, weigh(src[tx[x].first*4:], 4, tx[x].weights))
			}
		}
	})
	out := NewSurface(w, h)
	halves(h, func(a, b int) {
		for y := a; y < b; y++ {
			dst := out.row(y)
			src := mid.Pix[(ty[y].first-y0)*w*4:]
			for x := range w {
				store(dst, x*4, weigh(src[x*4:], w*4, ty[y].weights))
			}
		}
	})
	out.Opaque = s.Opaque
	return out
}

// weigh sums pixels at a stride and keeps each channel within its alpha, which
// a filter with negative lobes can overstep.
func weigh(src []uint8, stride int, w []int32) uint32 {
	var r, g, b, a int32 = 1 << (weightBits - 1), 1 << (weightBits - 1), 1 << (weightBits - 1), 1 << (weightBits - 1)
	i := 0
	for _, k := range w {
		p := src[i : i+4 : i+4]
		r += int32(p[0]) * k
		g += int32(p[1]) * k
		b += int32(p[2]) * k
		a += int32(p[3]) * k
		i += stride
	}
	a = min(max(a>>weightBits, 0), 255)
	r = min(max(r>>weightBits, 0), a)
	g = min(max(g>>weightBits, 0), a)
	b = min(max(b>>weightBits, 0), a)
	return uint32(r) | uint32(g)<<8 | uint32(b)<<16 | uint32(a)<<24
}

// halves runs two halves of a range side by side.
func halves(n int, f func(a, b int)) {
	if n < 32 {
		f(0, n)
		return
	}
	var wg sync.WaitGroup
	wg.Go(func() { f(0, n/2) })
	f(n/2, n)
	wg.Wait()
}
