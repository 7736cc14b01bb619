package raster

import (
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"testing"
)

func wideOf(w, h int, f func(x, y int) [4]uint16) *Wide {
	p := &Wide{}
	p.Reset(w, h, 4)
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
	in := func(n int, f func(from, to int)) {
		for from := 0; from < n; from += part {
			f(from, min(n, from+part))
		}
	}
	a := &Wide{W: src.W, H: src.H, N: src.N, Pix: slices.Clone(src.Pix)}
	turn := func() {
		b := &Wide{}
		b.Reset(a.H, a.W, a.N)
		in(b.H, func(from, to int) { b.Turn(a, from, to) })
		a = b
	}
	for _, d := range []float64{dx, dy} {
		turn()
		for _, p := range Passes(d) {
			b := &Wide{}
			b.Reset(a.W, a.H, a.N)
			in(a.Columns(), func(from, to int) { p.Down(b, a, from, to) })
			a = b
		}
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

// A colour under a picture of 8 bits gives the bits of the way over 16 and back.
func TestUnderGivesTheBitsOfTheWayThereAndBack(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 4))
	for n, colour := range [][4]uint8{{0, 0, 0, 255}, {32, 16, 64, 160}, {255, 255, 255, 1}} {
		s, shade := noise(37, 21, false, uint64(n)), wideOf(37, 21, func(int, int) [4]uint16 { return [4]uint16{} })
		shade.Reset(37, 21, 1)
		for i := range shade.Pix {
			shade.Pix[i] = uint16([]int{0, 65535, r.IntN(65536)}[r.IntN(3)])
		}
		var w Wide
		w.Reset(37, 21, 4)
		w.From(s, 0, 21)
		w.Under(shade, colour, 0, 21)
		want := NewSurface(37, 21)
		w.To(want, 0, 21, n, 3)
		s.Under(shade, colour, 0, 9, n, 3)
		s.Under(shade, colour, 9, 21, n, 3)
		if !slices.Equal(s.Pix, want.Pix) {
			t.Errorf("%v is laid otherwise", colour)
		}
	}
}

func BenchmarkBlur(b *testing.B) {
	src, dst := &Wide{}, &Wide{}
	src.Reset(960, 540, 4)
	dst.Reset(960, 540, 4)
	for _, d := range []float64{1, 4, 64} {
		b.Run(fmt.Sprint(d), func(b *testing.B) {
			for b.Loop() {
				for _, p := range Passes(d) {
					p.Down(dst, src, 0, src.Columns())
				}
			}
		})
	}
}

// With vector instructions and without, the bits of a blur and of what is around it
// are the same, with four channels and with one.
func TestVectorAndScalarBlursHaveTheSameBits(t *testing.T) {
	if !vectors {
		t.Skip("this build or this machine has no vector instructions")
	}
	r := rand.New(rand.NewPCG(5, 6))
	for _, n := range []int{1, 4} {
		for _, size := range [][2]int{{37, 29}, {64, 5}, {3, 50}} {
			src := &Wide{}
			src.Reset(size[0], size[1], n)
			for i := range src.Pix {
				src.Pix[i] = uint16([]int{0, 65535, r.IntN(65536)}[r.IntN(3)])
			}
			same := func(what string, f func() any) {
				t.Helper()
				a := fmt.Sprint(f())
				var b string
				scalar(func() { b = fmt.Sprint(f()) })
				if a != b {
					t.Errorf("%s of %v, %d channels:\n%s\n%s", what, size, n, a, b)
				}
			}
			for _, d := range []float64{0.7, 1.9, 2.5, 7, 40} {
				same(fmt.Sprint("blur by ", d), func() any { return blurred(src, d, d, 1000).Pix })
			}
			for _, f := range []int{2, 4, 8} {
				same(fmt.Sprint("shrunk and grown by ", f), func() any {
					small, out := &Wide{}, &Wide{}
					w, h := Shrunk(src.W, src.H, f, 1, f-1)
					small.Reset(w, h, n)
					small.Shrink(src, f, 1, f-1, 0, h)
					out.Reset(src.W, src.H, n)
					out.Grow(small, f, 1, f-1, 0, src.H)
					return [][]uint16{small.Pix, out.Pix}
				})
			}
			if n == 4 {
				s := NewSurface(src.W, src.H)
				src.To(s, 0, src.H, 0, 0)
				for _, by := range [][2]float64{{0, 0}, {1.3, -2.7}, {-4.25, 3.5}, {0.996, 0.004}} {
					same(fmt.Sprint("alpha moved by ", by), func() any {
						a, b := &Wide{}, &Wide{}
						a.Reset(src.W, src.H, 1)
						b.Reset(src.W, src.H, 1)
						a.Alpha(s, by[0], by[1], 0, src.H)
						b.AlphaOf(src, by[0], by[1], 0, src.H)
						return [][]uint16{a.Pix, b.Pix}
					})
				}
				same("to bytes and back", func() any {
					s, back := NewSurface(src.W, src.H), &Wide{}
					src.To(s, 0, src.H, 3, 1)
					back.Reset(src.W, src.H, 4)
					back.From(s, 0, src.H)
					return back.Pix
				})
			}
		}
	}
}
