package raster

import (
	"math"
	"math/bits"
)

// box is one pass of a blur: the mean over 2·r + 1 pixels and, at both ends, a part
// of one more, so that its width is any number (P. Gwosdek and others, Theoretical
// Foundations of Gaussian Convolution by Extended Box Filtering, 2011).
type box struct {
	r         int
	full, end float32 // weights
}

// passes are the boxes whose repeated mean is nearly a Gaussian.
const passes = 3

// boxOf is the box of which so many passes have the variance of a Gaussian.
func boxOf(deviation float64) box {
	v := deviation * deviation
	length := math.Sqrt(12*v/passes + 1)
	r := int(math.Floor((length - 1) / 2))
	n := float64(2*r + 1)
	// The share of the pixels at both ends with which the variance is right.
	k := float64(r)
	alpha := n * (k*(k+1) - 3*v/passes) / (6 * (v/passes - (k+1)*(k+1)))
	total := n + 2*alpha
	return box{r: r, full: float32(1 / total), end: float32(alpha / total)}
}

// Reach is how far a blur of a standard deviation spreads, in pixels.
func Reach(deviation float64) int {
	if deviation <= 0 {
		return 0
	}
	if deviation < kernelBelow {
		return int(math.Ceil(3 * deviation))
	}
	return passes * (boxOf(deviation).r + 1)
}

// kernelBelow is the deviation below which a Gaussian is summed pixel by pixel: of
// so few pixels boxes are a poor one. "For larger values of s (s >= 2.0), an
// approximation can be used" (Filter Effects Module Level 1, section 9.13).
const kernelBelow = 2

// bell is a Gaussian's weights from its middle outwards.
func bell(deviation float64) []float32 {
	n := int(math.Ceil(3 * deviation))
	w, sum := make([]float64, n+1), 0.0
	for i := range w {
		w[i] = math.Exp(-float64(i*i) / (2 * deviation * deviation))
		sum += w[i]
		if i > 0 {
			sum += w[i]
		}
	}
	out := make([]float32, n+1)
	for i := range w {
		out[i] = float32(w[i] / sum)
	}
	return out
}

// Pass is one step of a blur. It goes down columns; for one across, the picture is
// turned before and after.
type Pass struct {
	kernel []float32 // nil for a box
	box    box
}

// Passes lists what must be done one after another to blur by a deviation along
// one axis.
func Passes(deviation float64) []Pass {
	switch {
	case deviation <= 1e-3:
		return nil
	case deviation < kernelBelow:
		return []Pass{{kernel: bell(deviation)}}
	}
	p := Pass{box: boxOf(deviation)}
	return []Pass{p, p, p}
}

// Down does the pass down columns of dst, from those of src, which is of the same
// size. Columns are counted by channels, Columns of them. What lies beyond the ends
// is clear.
//
// Sums are whole numbers and weighed in floating point of 32 bits: near enough that
// grey stays grey, and a channel that is at most its alpha remains so, as rounding
// keeps order.
func (p *Pass) Down(dst, src *Wide, from, to int) {
	stride := src.Columns()
	if vectors {
		for ; from+16 <= to; from += 16 {
			if p.kernel != nil {
				kernelVector(dst.Pix[from:], src.Pix[from:], stride, src.H, p.kernel)
			} else {
				boxVector(dst.Pix[from:], src.Pix[from:], stride, src.H, p.box)
			}
		}
	}
	for ; from < to; from++ {
		if p.kernel != nil {
			kernelColumn(dst.Pix[from:], src.Pix[from:], stride, src.H, p.kernel)
		} else {
			boxColumn(dst.Pix[from:], src.Pix[from:], stride, src.H, p.box)
		}
	}
}

// boxColumn is one pass of a box down n numbers that lie a stride apart.
func boxColumn(to, from []uint16, stride, n int, b box) {
	var sum int32 // of the 2·r + 1 around the one at hand
	at := func(i int) int32 {
		if i < 0 || i >= n {
			return 0
		}
		return int32(from[i*stride])
	}
	for i := range b.r {
		sum += at(i)
	}
	for i := range n {
		last := at(i - b.r - 1)
		sum += at(i+b.r) - last
		to[i*stride] = uint16(float32(float32(sum)*b.full) + float32(float32(at(i+b.r+1)+last)*b.end) + 0.5)
	}
}

// kernelColumn sums a Gaussian down n numbers that lie a stride apart.
func kernelColumn(to, from []uint16, stride, n int, k []float32) {
	for i := range n {
		s := float32(float32(from[i*stride]) * k[0])
		for d := 1; d < len(k); d++ {
			both := int32(0)
			if i >= d {
				both = int32(from[(i-d)*stride])
			}
			if i+d < n {
				both += int32(from[(i+d)*stride])
			}
			s += float32(float32(both) * k[d])
		}
		to[i*stride] = uint16(s + 0.5)
	}
}

// Turn takes rows y0 to y1 from the columns of another picture.
func (p *Wide) Turn(from *Wide, y0, y1 int) {
	const block = 8 // pixels of a line of the cache, of which rows are as long
	for y := y0; y < y1; y += block {
		for x := 0; x < p.W; x += block {
			for v := y; v < min(y+block, y1); v++ {
				if p.N == 1 {
					for u := x; u < min(x+block, p.W); u++ {
						p.Pix[v*p.W+u] = from.Pix[u*from.W+v]
					}
					continue
				}
				for u := x; u < min(x+block, p.W); u++ {
					*(*[4]uint16)(p.Pix[4*(v*p.W+u):]) = *(*[4]uint16)(from.Pix[4*(u*from.W+v):])
				}
			}
		}
	}
}

// Shrunk is a size in steps of f pixels, of which the first begins phase pixels
// before the picture.
func Shrunk(w, h, f, phaseX, phaseY int) (int, int) {
	return (w+phaseX+f-1)/f + 1, (h+phaseY+f-1)/f + 1
}

// Shrink takes rows y0 to y1 from a picture f times as large, a power of two of at
// most 8; each pixel is the mean of f × f, and the grid of those begins phaseX and
// phaseY pixels before that picture. What lies beyond it is clear.
func (p *Wide) Shrink(from *Wide, f, phaseX, phaseY, y0, y1 int) {
	by := 1 / float32(f*f) // sums are below 2²⁴, so that this is exact
	for y := y0; y < y1; y++ {
		a, b := max(0, y*f-phaseY), min(from.H, (y+1)*f-phaseY)
		out := p.Pix[y*p.Columns() : (y+1)*p.Columns()]
		for x := 0; x < p.W; x++ {
			l, r := max(0, x*f-phaseX), min(from.W, (x+1)*f-phaseX)
			if vectors && p.N == 4 && r-l == f && a < b {
				*(*[4]uint16)(out[4*x:]) = meanVector(from.Pix[4*(a*from.W+l):], 4*from.W, r-l, b-a, by)
				continue
			}
			for c := range p.N {
				sum := uint32(0)
				for v := a; v < b; v++ {
					row := from.Pix[v*from.Columns()+c:]
					for u := l; u < r; u++ {
						sum += uint32(row[u*p.N])
					}
				}
				out[x*p.N+c] = uint16(float32(float32(sum)*by) + 0.5)
			}
		}
	}
}

// Grow takes rows y0 to y1 from a picture that Shrink made, straight between the
// middles of its pixels. All its sums are below 2²⁴, so that 32 bits hold them, as
// whole numbers or in floating point.
func (p *Wide) Grow(from *Wide, f, phaseX, phaseY, y0, y1 int) {
	n := int32(2 * f)
	shift := 2 * bits.TrailingZeros32(uint32(n))
	round := int32(1) << shift >> 1
	cols := from.Columns()
	line := make([]int32, cols+from.N) // a row of the small picture, at a height
	for y := y0; y < y1; y++ {
		// In halves of a pixel from the middle of the first small one.
		v := 2*(y+phaseY) + 1 - f
		r := max(0, floorDiv(v, 2*f))
		fy := int32(min(max(0, v-2*f*r), 2*f))
		top, low := from.Pix[r*cols:(r+1)*cols], from.Pix[min(r+1, from.H-1)*cols:][:cols]
		done := 0
		if vectors {
			done = lineVector(line, top, low, n, fy)
		}
		for i := done; i < cols; i++ {
			line[i] = int32(top[i])*(n-fy) + int32(low[i])*fy
		}
		copy(line[cols:], line[cols-from.N:cols])
		out := p.Pix[y*p.Columns() : (y+1)*p.Columns()]
		for x := 0; x < p.W; {
			c, fx := 0, int32(0)
			if u := 2*(phaseX+x) + 1 - f; u > 0 {
				c = min(u/(2*f), from.W-1)
				fx = int32(min(u-2*f*c, 2*f))
			}
			if fx == 1 && x+f <= p.W {
				// The whole way from one to the next; the last stands twice.
				if vectors && p.N == 4 {
					x += growVector(out[4*x:], line[4*c:], f)
					continue
				}
				if vectors && p.N == 1 && f >= 4 {
					if did := growOneVector(out[x:], line[c:], f); did > 0 {
						x += did
						continue
					}
				}
				for i := range p.N {
					a, b := line[c*p.N+i], line[(c+1)*p.N+i]
					at, step := a*(n-1)+b+round, 2*(b-a)
					to := out[x*p.N+i : (x+f)*p.N]
					for k := 0; k < len(to); k += p.N {
						to[k] = uint16(at >> shift)
						at += step
					}
				}
				x += f
				continue
			}
			for i := range p.N {
				out[x*p.N+i] = uint16((line[c*p.N+i]*(n-fx) + line[(c+1)*p.N+i]*fx + round) >> shift)
			}
			x++
		}
	}
}

func floorDiv(a, b int) int {
	q := a / b
	if a%b < 0 {
		q--
	}
	return q
}
