package raster

import (
	"math"
	"sync"
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

func makeTaps(from, to int) []taps {
	scale := float64(from) / float64(to)
	stretch := math.Max(1, scale)
	out := make([]taps, to)
	for i := range out {
		centre := (float64(i)+0.5)*scale - 0.5
		first := int(math.Ceil(centre - 2*stretch))
		last := int(math.Floor(centre + 2*stretch))
		// Samples beyond the edge take the edge's colour.
		lo, hi := max(first, 0), min(last, from-1)
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
	mid := s
	if w != s.W {
		mid = NewSurface(w, s.H)
		t := makeTaps(s.W, w)
		halves(s.H, func(y0, y1 int) {
			for y := y0; y < y1; y++ {
				src, dst := s.row(y), mid.row(y)
				for x := range t {
					store(dst, x*4, weigh(src[t[x].first*4:], 4, t[x].weights))
				}
			}
		})
	}
	out := mid
	if h != s.H {
		out = NewSurface(w, h)
		t := makeTaps(s.H, h)
		halves(h, func(y0, y1 int) {
			for y := y0; y < y1; y++ {
				dst := out.row(y)
				src := mid.Pix[t[y].first*w*4:]
				for x := range w {
					store(dst, x*4, weigh(src[x*4:], w*4, t[y].weights))
				}
			}
		})
	}
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
