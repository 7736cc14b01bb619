package raster

import (
	"math"
	"math/bits"
)

// Wide is a picture whose premultiplied channels have 16 bits: what is done to a
// layer's picture one after another is rounded to 8 bits once, at its end.
type Wide struct {
	W, H int
	Pix  []uint16
}

// Reset makes the picture w×h, keeping its memory where it suffices. The pixels
// are left as they are.
func (p *Wide) Reset(w, h int) {
	n := 4 * w * h
	if cap(p.Pix) < n {
		p.Pix = make([]uint16, n)
	}
	p.W, p.H, p.Pix = w, h, p.Pix[:n]
}

// From takes rows y0 to y1 from a surface of the same size.
func (p *Wide) From(s *Surface, y0, y1 int) {
	from, to := s.Pix[4*y0*p.W:4*y1*p.W], p.Pix[4*y0*p.W:4*y1*p.W]
	for i, v := range from {
		to[i] = uint16(v) * 257
	}
}

// ordered are thresholds of a 4 × 4 pattern (Bayer), in 32nds of a step of 8 bits.
var ordered = [16]uint32{1, 17, 5, 21, 25, 9, 29, 13, 7, 23, 3, 19, 31, 15, 27, 11}

// To writes rows y0 to y1 to a surface of the same size. What falls between two
// steps of 8 bits is dithered, so that slow changes show no bands; dx and dy are
// the surface's place, so that the pattern stays on the canvas. A pixel's channels
// share a threshold: none becomes larger than its alpha.
func (p *Wide) To(s *Surface, y0, y1, dx, dy int) {
	for y := y0; y < y1; y++ {
		from, to := p.Pix[4*y*p.W:4*(y+1)*p.W], s.Pix[4*y*p.W:4*(y+1)*p.W]
		line := ordered[4*((y+dy)&3) : 4*((y+dy)&3)+4]
		for x := range p.W {
			t := line[(x+dx)&3] * 257 / 32
			for c := 4 * x; c < 4*x+4; c++ {
				to[c] = uint8((uint32(from[c]) + t) / 257)
			}
		}
	}
}

// box is one pass of a blur: the mean over 2·r + 1 pixels and, at both ends, a part
// of one more, so that its width is any number (P. Gwosdek and others, Theoretical
// Foundations of Gaussian Convolution by Extended Box Filtering, 2011).
type box struct {
	r         int
	full, end uint64 // weights, in 2^-32
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
	b := box{r: r, full: uint64(math.Round((1 << 32) / total))}
	// What rounding leaves over goes to the ends, so that grey stays grey.
	b.end = (1<<32 - uint64(2*r+1)*b.full) / 2
	return b
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

// bell is a Gaussian's weights from its middle outwards, in 2^-32.
func bell(deviation float64) []uint64 {
	n := int(math.Ceil(3 * deviation))
	w, sum := make([]float64, n+1), 0.0
	for i := range w {
		w[i] = math.Exp(-float64(i*i) / (2 * deviation * deviation))
		sum += w[i]
		if i > 0 {
			sum += w[i]
		}
	}
	out, rest := make([]uint64, n+1), uint64(1<<32)
	for i := n; i > 0; i-- {
		out[i] = uint64(math.Round(w[i] / sum * (1 << 32)))
		rest -= 2 * out[i]
	}
	out[0] = rest
	return out
}

// Axis says along which lines a pass goes.
type Axis bool

const (
	Across Axis = false // rows
	Down   Axis = true  // columns
)

// Pass is one step of a blur.
type Pass struct {
	Axis   Axis
	kernel []uint64 // nil for a box
	box    box
}

// Passes lists what must be done one after another to blur by two deviations: all
// lines of one before the next begins.
func Passes(x, y float64) []Pass {
	var out []Pass
	add := func(axis Axis, d float64) {
		switch {
		case d <= 1e-3:
		case d < kernelBelow:
			out = append(out, Pass{Axis: axis, kernel: bell(d)})
		default:
			for range passes {
				out = append(out, Pass{Axis: axis, box: boxOf(d)})
			}
		}
	}
	add(Across, x)
	add(Down, y)
	return out
}

// strip is how many columns are gone down at once: four channels of as many
// pixels lie within few cache lines of each row.
const strip = 16

// line does the pass along one line of pixels.
func (p *Pass) line(to, from []uint16) {
	if p.kernel != nil {
		kernelLine(to, from, p.kernel)
	} else {
		boxLine(to, from, p.box)
	}
}

// Do takes lines of dst, which are rows or columns, from those of src. Columns are
// gathered into rows, some at a time, and put back.
func (p *Pass) Do(dst, src *Wide, from, to int) {
	if p.Axis == Across {
		for y := from; y < to; y++ {
			p.line(dst.Pix[4*y*dst.W:4*(y+1)*dst.W], src.Pix[4*y*src.W:4*(y+1)*src.W])
		}
		return
	}
	h := src.H
	in, out := make([]uint16, 4*strip*h), make([]uint16, 4*strip*h)
	for x0 := from; x0 < to; x0 += strip {
		n := min(strip, to-x0)
		for y := range h {
			row := src.Pix[4*(y*src.W+x0) : 4*(y*src.W+x0+n)]
			for i := range n {
				copy(in[4*(i*h+y):4*(i*h+y)+4], row[4*i:4*i+4])
			}
		}
		for i := range n {
			p.line(out[4*i*h:4*(i+1)*h], in[4*i*h:4*(i+1)*h])
		}
		for y := range h {
			row := dst.Pix[4*(y*dst.W+x0) : 4*(y*dst.W+x0+n)]
			for i := range n {
				copy(row[4*i:4*i+4], out[4*(i*h+y):4*(i*h+y)+4])
			}
		}
	}
}

// middle rounds sums of weights in 2^-32.
const middle = 1 << 31

// boxLine is one pass of a box along a line of pixels; beyond its ends all is clear.
func boxLine(to, from []uint16, b box) {
	n := len(from) / 4
	var s0, s1, s2, s3 uint64 // of the 2·r + 1 pixels around the one at hand
	for i := 0; i < min(b.r, n); i++ {
		s0, s1, s2, s3 = s0+uint64(from[4*i]), s1+uint64(from[4*i+1]), s2+uint64(from[4*i+2]), s3+uint64(from[4*i+3])
	}
	var none [4]uint16
	px := func(i int) *[4]uint16 {
		if i < 0 || i >= n {
			return &none
		}
		return (*[4]uint16)(from[4*i:])
	}
	full, end := b.full, b.end
	for i := 0; i < n; i++ {
		next, last, far := &none, &none, &none
		if i > b.r && i+b.r+1 < n {
			// Amidst the line no end need be thought of.
			next, last, far = (*[4]uint16)(from[4*(i+b.r):]), (*[4]uint16)(from[4*(i-b.r-1):]), (*[4]uint16)(from[4*(i+b.r+1):])
		} else {
			next, last, far = px(i+b.r), px(i-b.r-1), px(i+b.r+1)
		}
		l0, l1, l2, l3 := uint64(last[0]), uint64(last[1]), uint64(last[2]), uint64(last[3])
		s0, s1, s2, s3 = s0+uint64(next[0])-l0, s1+uint64(next[1])-l1, s2+uint64(next[2])-l2, s3+uint64(next[3])-l3
		t := (*[4]uint16)(to[4*i:])
		t[0] = uint16((s0*full + (uint64(far[0])+l0)*end + middle) >> 32)
		t[1] = uint16((s1*full + (uint64(far[1])+l1)*end + middle) >> 32)
		t[2] = uint16((s2*full + (uint64(far[2])+l2)*end + middle) >> 32)
		t[3] = uint16((s3*full + (uint64(far[3])+l3)*end + middle) >> 32)
	}
}

// kernelLine sums a Gaussian pixel by pixel.
func kernelLine(to, from []uint16, k []uint64) {
	n := len(from) / 4
	for i := range n {
		at := (*[4]uint16)(from[4*i:])
		s0, s1, s2, s3 := uint64(at[0])*k[0]+middle, uint64(at[1])*k[0]+middle, uint64(at[2])*k[0]+middle, uint64(at[3])*k[0]+middle
		for d := 1; d < len(k); d++ {
			w := k[d]
			if i >= d {
				p := (*[4]uint16)(from[4*(i-d):])
				s0, s1, s2, s3 = s0+uint64(p[0])*w, s1+uint64(p[1])*w, s2+uint64(p[2])*w, s3+uint64(p[3])*w
			}
			if i+d < n {
				p := (*[4]uint16)(from[4*(i+d):])
				s0, s1, s2, s3 = s0+uint64(p[0])*w, s1+uint64(p[1])*w, s2+uint64(p[2])*w, s3+uint64(p[3])*w
			}
		}
		*(*[4]uint16)(to[4*i:]) = [4]uint16{uint16(s0 >> 32), uint16(s1 >> 32), uint16(s2 >> 32), uint16(s3 >> 32)}
	}
}

// Shade takes rows y0 to y1 from the alpha of another picture: that alpha in one
// colour (straight, with an alpha of its own), shifted by parts of a pixel.
func (p *Wide) Shade(from *Wide, dx, dy float64, colour [4]uint8, y0, y1 int) {
	// The four pixels around, in 256ths.
	ix, iy := int(math.Floor(dx)), int(math.Floor(dy))
	fx, fy := uint64(math.Round((dx-float64(ix))*256)), uint64(math.Round((dy-float64(iy))*256))
	alpha := func(x, y int) uint64 {
		if x < 0 || y < 0 || x >= from.W || y >= from.H {
			return 0
		}
		return uint64(from.Pix[4*(y*from.W+x)+3])
	}
	a := uint64(colour[3])
	var c [4]uint64
	for i := range 3 {
		c[i] = uint64(colour[i]) * a * 257 / 255 // of 65535
	}
	c[3] = a * 257
	for y := y0; y < y1; y++ {
		for x := range p.W {
			u, v := x-ix, y-iy
			top := alpha(u, v)*(256-fx) + alpha(u-1, v)*fx
			low := top
			if fy > 0 {
				low = alpha(u, v-1)*(256-fx) + alpha(u-1, v-1)*fx
			}
			m := (top*(256-fy) + low*fy + 1<<15) >> 16
			to := p.Pix[4*(y*p.W+x) : 4*(y*p.W+x)+4]
			for i := range to {
				to[i] = uint16((m*c[i] + 32767) / 65535)
			}
		}
	}
}

// Over lays another picture over rows y0 to y1.
func (p *Wide) Over(top *Wide, y0, y1 int) {
	to, from := p.Pix[4*y0*p.W:4*y1*p.W], top.Pix[4*y0*p.W:4*y1*p.W]
	for i := 0; i < len(to); i += 4 {
		rest := 65535 - uint32(from[i+3])
		if rest == 65535 {
			continue
		}
		for c := i; c < i+4; c++ {
			to[c] = uint16(uint32(from[c]) + (uint32(to[c])*rest+32767)/65535)
		}
	}
}

// Shrunk is a size in steps of f pixels, of which the first begins phase pixels
// before the picture.
func Shrunk(w, h, f, phaseX, phaseY int) (int, int) {
	return (w+phaseX+f-1)/f + 1, (h+phaseY+f-1)/f + 1
}

// Shrink takes rows y0 to y1 from a picture f times as large, a power of two; each
// pixel is the mean of f × f, and the grid of those begins phaseX and phaseY pixels
// before that picture. What lies beyond it is clear.
func (p *Wide) Shrink(from *Wide, f, phaseX, phaseY, y0, y1 int) {
	shift := 2 * bits.TrailingZeros(uint(f))
	round := uint32(1) << shift >> 1
	for y := y0; y < y1; y++ {
		a, b := max(0, y*f-phaseY), min(from.H, (y+1)*f-phaseY)
		for x := range p.W {
			var s0, s1, s2, s3 uint32
			l, r := max(0, x*f-phaseX), min(from.W, (x+1)*f-phaseX)
			for v := a; v < b && l < r; v++ {
				row := from.Pix[4*(v*from.W+l) : 4*(v*from.W+r)]
				for i := 0; i+3 < len(row); i += 4 {
					s0, s1, s2, s3 = s0+uint32(row[i]), s1+uint32(row[i+1]), s2+uint32(row[i+2]), s3+uint32(row[i+3])
				}
			}
			*(*[4]uint16)(p.Pix[4*(y*p.W+x):]) = [4]uint16{uint16((s0 + round) >> shift), uint16((s1 + round) >> shift), uint16((s2 + round) >> shift), uint16((s3 + round) >> shift)}
		}
	}
}

// Grow takes rows y0 to y1 from a picture that Shrink made, straight between the
// middles of its pixels.
func (p *Wide) Grow(from *Wide, f, phaseX, phaseY, y0, y1 int) {
	n := uint32(2 * f)
	shift := 2 * bits.TrailingZeros32(n)
	round := uint32(1) << shift >> 1
	line := make([]uint32, 4*(from.W+1)) // a row of the small picture, at a height
	for y := y0; y < y1; y++ {
		// In halves of a pixel from the middle of the first small one.
		v := 2*(y+phaseY) + 1 - f
		r := max(0, floorDiv(v, 2*f))
		fy := uint32(min(max(0, v-2*f*r), 2*f))
		top, low := from.Pix[4*r*from.W:4*(r+1)*from.W], from.Pix[4*min(r+1, from.H-1)*from.W:]
		for i := range top {
			line[i] = uint32(top[i])*(n-fy) + uint32(low[i])*fy
		}
		copy(line[4*from.W:], line[4*from.W-4:4*from.W])
		u := 2*phaseX + 1 - f
		for x := range p.W {
			c := 0
			fx := uint32(0)
			if u > 0 {
				c = min(u/(2*f), from.W-1)
				fx = uint32(min(u-2*f*c, 2*f))
			}
			u += 2
			at, to := line[4*c:4*c+8], p.Pix[4*(y*p.W+x):4*(y*p.W+x)+4]
			to[0] = uint16((at[0]*(n-fx) + at[4]*fx + round) >> shift)
			to[1] = uint16((at[1]*(n-fx) + at[5]*fx + round) >> shift)
			to[2] = uint16((at[2]*(n-fx) + at[6]*fx + round) >> shift)
			to[3] = uint16((at[3]*(n-fx) + at[7]*fx + round) >> shift)
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

// Placed is a picture whose top left corner stands somewhere on the device; all
// around it is clear.
type Placed struct {
	S    *Surface
	X, Y int
}

// Solid reports whether every pixel is opaque, which is not so around it.
func (p *Placed) Solid() bool { return false }

// Row gives pixels x0 to x1 of a row of the device.
func (p *Placed) Row(buf []uint8, x0, x1, y int) ([]uint8, bool) {
	out := buf[:4*(x1-x0)]
	if y -= p.Y; y < 0 || y >= p.S.H {
		clear(out)
		return out, true
	}
	lo, hi := min(max(x0, p.X), x1), max(min(x1, p.X+p.S.W), x0)
	if lo >= hi {
		clear(out)
		return out, true
	}
	clear(out[:4*(lo-x0)])
	copy(out[4*(lo-x0):], p.S.Pix[4*(y*p.S.W+lo-p.X):4*(y*p.S.W+hi-p.X)])
	clear(out[4*(hi-x0):])
	return out, true
}
