package raster

import (
	"fmt"
	"math"
	"math/rand/v2"
	"testing"
)

func wideOf(w, h int, f func(x, y int) [4]uint16) *Wide {
	p := &Wide{}
	p.Reset(w, h)
	for y := range h {
		for x := range w {
			v := f(x, y)
			copy(p.Pix[4*(y*w+x):], v[:])
		}
	}
	return p
}

// blurred does all passes, the lines of each in parts of a size.
func blurred(src *Wide, dx, dy float64, part int) *Wide {
	a := wideOf(src.W, src.H, func(x, y int) [4]uint16 { return [4]uint16(src.Pix[4*(y*src.W+x):]) })
	b := wideOf(src.W, src.H, func(int, int) [4]uint16 { return [4]uint16{} })
	for _, p := range Passes(dx, dy) {
		n := src.H
		if p.Axis == Down {
			n = src.W
		}
		for from := 0; from < n; from += part {
			p.Do(b, a, from, min(n, from+part))
		}
		a, b = b, a
	}
	return a
}

// A blurred point is a Gaussian: its sum stays, its variance is the deviation's
// square, and it is near to the curve everywhere (three boxes, Filter Effects
// Module Level 1, section 9.13).
func TestABlurredPointIsAGaussian(t *testing.T) {
	for _, d := range []float64{0.5, 1, 1.9, 2, 2.4, 3.7, 4, 9.2, 20, 64} {
		n := 2*Reach(d) + 9
		mid := n / 2
		// A line of full pixels across, so that one axis is looked at.
		src := wideOf(n, 3, func(x, _ int) [4]uint16 {
			if x == mid {
				return [4]uint16{65535, 65535, 65535, 65535}
			}
			return [4]uint16{}
		})
		got := blurred(src, d, 0, 1)
		sum, variance, worst := 0.0, 0.0, 0.0
		peak := 1 / (d * math.Sqrt(2*math.Pi))
		for x := range n {
			v := float64(got.Pix[4*(n+x)+3]) / 65535
			sum += v
			variance += v * float64((x-mid)*(x-mid))
			// The curve in the middle of this pixel.
			want := peak * math.Exp(-float64((x-mid)*(x-mid))/(2*d*d))
			worst = math.Max(worst, math.Abs(v-want)/peak)
		}
		if math.Abs(sum-1) > 0.003 || math.Abs(math.Sqrt(variance/sum)-d) > 0.02*d+0.03 || worst > 0.07 {
			t.Errorf("deviation %g: sum %.4f, deviation %.3f, off by %.3f of the peak", d, sum, math.Sqrt(variance/sum), worst)
		}
		if got.Pix[4*n+3] != 0 || got.Pix[4*(n+n-1)+3] != 0 {
			t.Errorf("deviation %g spreads farther than its reach of %d", d, Reach(d))
		}
	}
}

// At any division into parts the bits are the same, grey stays grey, and no
// channel is larger than its alpha.
func TestBlursAreTheSameHoweverDivided(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 4))
	src := wideOf(67, 45, func(int, int) [4]uint16 {
		a := uint16(r.IntN(65536))
		return [4]uint16{a, uint16(r.IntN(int(a) + 1)), 0, a}
	})
	for _, d := range [][2]float64{{4, 4}, {1.2, 30}, {30, 0}, {0, 2.5}} {
		whole := blurred(src, d[0], d[1], 1000)
		for _, part := range []int{1, 7, 16, 33} {
			if fmt.Sprint(blurred(src, d[0], d[1], part).Pix) != fmt.Sprint(whole.Pix) {
				t.Errorf("%v in parts of %d lines", d, part)
			}
		}
		for i := 0; i < len(whole.Pix); i += 4 {
			p := whole.Pix[i : i+4]
			if p[0] != p[3] || p[1] > p[3] {
				t.Fatalf("%v: pixel %d is %v", d, i/4, p)
			}
		}
	}
	grey := wideOf(300, 3, func(int, int) [4]uint16 { return [4]uint16{30000, 30000, 30000, 65535} })
	for _, d := range []float64{1, 4, 17.3} {
		if p := blurred(grey, d, 0, 9).Pix[4*(300+150):]; p[0] != 30000 || p[3] != 65535 {
			t.Errorf("deviation %g turns grey into %v", d, p[:4])
		}
	}
}

// Dithering keeps the mean of what falls between two steps of 8 bits, and full and
// clear pixels as they are.
func TestWidePicturesAreDitheredOnce(t *testing.T) {
	for _, v := range []uint16{0, 65535, 257 * 100, 257*100 + 64, 257*100 + 128, 257*100 + 200} {
		p, s := wideOf(16, 16, func(int, int) [4]uint16 { return [4]uint16{v, v, v, v} }), NewSurface(16, 16)
		p.To(s, 0, 16, 3, 5)
		sum := 0
		for i := 3; i < len(s.Pix); i += 4 {
			sum += int(s.Pix[i])
		}
		if mean := float64(sum) / 256; math.Abs(mean-float64(v)/257) > 0.04 {
			t.Errorf("%d becomes %.3f on the whole, want %.3f", v, mean, float64(v)/257)
		}
	}
}

func BenchmarkBlur(b *testing.B) {
	src, dst := &Wide{}, &Wide{}
	src.Reset(960, 540)
	dst.Reset(960, 540)
	for _, d := range []float64{1, 4, 64} {
		b.Run(fmt.Sprint(d), func(b *testing.B) {
			for b.Loop() {
				for _, p := range Passes(d, d) {
					n := src.H
					if p.Axis == Down {
						n = src.W
					}
					p.Do(dst, src, 0, n)
				}
			}
		})
	}
}
