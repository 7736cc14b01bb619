package raster

import "math"

// Wide is a picture whose channels have 16 bits: what is done to a layer's picture
// one after another is rounded to 8 bits once, at its end. It has four premultiplied
// channels, or one.
type Wide struct {
	W, H, N int
	Pix     []uint16
}

// Reset makes the picture w×h with four channels or one, keeping its memory where
// it suffices. The pixels are left as they are.
func (p *Wide) Reset(w, h, channels int) {
	n := w * h * channels
	if cap(p.Pix) < n {
		p.Pix = make([]uint16, n)
	}
	p.W, p.H, p.N, p.Pix = w, h, channels, p.Pix[:n]
}

// Columns counts the columns of numbers, of which each pixel has one for a channel.
func (p *Wide) Columns() int { return p.W * p.N }

// Rows are the numbers of rows y0 to y1.
func (p *Wide) Rows(y0, y1 int) []uint16 { return p.Pix[y0*p.Columns() : y1*p.Columns()] }

// Keep leaves rows y0 to y1 of a picture of four channels as they are where they are covered,
// and makes them what they were before where they are not; in between it mixes the two.
func (p *Wide) Keep(before *Wide, c *Coverage, y0, y1 int) {
	for y := y0; y < y1; y++ {
		to, from := p.Rows(y, y+1), before.Rows(y, y+1)
		e := c.extent(y)
		lo, hi := 4*min(int(e.lo), p.W), 4*min(int(e.hi), p.W)
		copy(to[:lo], from[:lo])
		copy(to[hi:], from[hi:])
		for i := lo; i < hi; i += 4 {
			x := i / 4
			if x >= int(e.a) && x < int(e.b) {
				continue
			}
			k := uint32(c.At(x, y))
			for j := i; j < i+4; j++ {
				to[j] = uint16((uint32(from[j])*(255-k) + uint32(to[j])*k + 127) / 255)
			}
		}
	}
}

// From takes rows y0 to y1 from a surface of the same size.
func (p *Wide) From(s *Surface, y0, y1 int) {
	from, to := s.Pix[4*y0*p.W:4*y1*p.W], p.Pix[4*y0*p.W:4*y1*p.W]
	if vectors {
		n := widenVector(to, from)
		from, to = from[n:], to[n:]
	}
	for i, v := range from {
		to[i] = uint16(v) * 257
	}
}

// ordered are thresholds of a 4 × 4 pattern (Bayer), in 32nds of a step of 8 bits.
var ordered = [16]uint32{1, 17, 5, 21, 25, 9, 29, 13, 7, 23, 3, 19, 31, 15, 27, 11}

// thresholds are those of four pixels from a column on, in steps of 16 bits.
func thresholds(line []uint32, dx int) *[4]uint32 {
	return &[4]uint32{line[dx&3] * 257 / 32, line[(dx+1)&3] * 257 / 32, line[(dx+2)&3] * 257 / 32, line[(dx+3)&3] * 257 / 32}
}

// To writes rows y0 to y1 to a surface of the same size. What falls between two
// steps of 8 bits is dithered, so that slow changes show no bands; dx and dy are
// the surface's place, so that the pattern stays on the canvas. A pixel's channels
// share a threshold: none becomes larger than its alpha.
func (p *Wide) To(s *Surface, y0, y1, dx, dy int) {
	for y := y0; y < y1; y++ {
		from, to := p.Pix[4*y*p.W:4*(y+1)*p.W], s.Pix[4*y*p.W:4*(y+1)*p.W]
		line := ordered[4*((y+dy)&3) : 4*((y+dy)&3)+4]
		n := 0
		if vectors {
			n = narrowVector(to, from, thresholds(line, dx))
		}
		for x := n; x < p.W; x++ {
			t := line[(x+dx)&3] * 257 / 32
			for c := 4 * x; c < 4*x+4; c++ {
				to[c] = uint8((uint32(from[c]) + t) / 257)
			}
		}
	}
}

// Alpha takes rows y0 to y1 from the alpha of a surface, shifted by parts of a
// pixel. It has one channel.
func (p *Wide) Alpha(from *Surface, dx, dy float64, y0, y1 int) {
	row := func(y int) []uint8 {
		if y < 0 || y >= from.H {
			return nil
		}
		return from.Pix[4*y*from.W : 4*(y+1)*from.W]
	}
	p.alpha(dx, dy, y0, y1, func(x, y int, w uint32, to []uint32) {
		r := row(y)
		n := 0
		if vectors {
			n = addAlphaVector(to[x:], r, 257*w)
		}
		for i := 4*n + 3; i < len(r); i += 4 {
			to[x+i/4] += uint32(r[i]) * 257 * w
		}
	}, from.W)
}

// AlphaOf does so from the alpha of a wide picture.
func (p *Wide) AlphaOf(from *Wide, dx, dy float64, y0, y1 int) {
	p.alpha(dx, dy, y0, y1, func(x, y int, w uint32, to []uint32) {
		if y < 0 || y >= from.H {
			return
		}
		r := from.Pix[4*y*from.W : 4*(y+1)*from.W]
		for i := 3; i < len(r); i += 4 {
			to[x+i/4] += uint32(r[i]) * w
		}
	}, from.W)
}

// alpha mixes four rows and columns around, in 256ths: add adds w times a row of
// alpha of width columns to numbers, from an index on.
func (p *Wide) alpha(dx, dy float64, y0, y1 int, add func(x, y int, w uint32, to []uint32), width int) {
	ix, iy := int(math.Floor(dx)), int(math.Floor(dy))
	fx, fy := uint32(math.Round((dx-float64(ix))*256)), uint32(math.Round((dy-float64(iy))*256))
	line := make([]uint32, width+2) // a column more on either side
	for y := y0; y < y1; y++ {
		clear(line)
		add(1, y-iy, 256-fy, line)
		if fy > 0 {
			add(1, y-iy-1, fy, line)
		}
		to := p.Pix[y*p.W : (y+1)*p.W]
		// Of the columns of the line, the one that stands at x is x − ix + 1.
		lo, hi := min(max(0, ix), p.W), max(0, min(p.W, width+ix+1))
		clear(to[:lo])
		n := lo
		if vectors && lo < hi {
			n += betweenVector(to[lo:hi], line[lo-ix:], fx)
		}
		for x := n; x < hi; x++ {
			k := x - ix + 1
			to[x] = uint16((line[k]*(256-fx) + line[k-1]*fx + 1<<15) >> 16) // at most 65535 × 2¹⁶ and a half, which fits
		}
		if hi = max(hi, lo); hi < p.W {
			clear(to[hi:])
		}
	}
}

// shaded is a colour (straight, with an alpha of its own) in shares of 65535.
func shaded(colour [4]uint8) (c [4]uint32) {
	a := uint32(colour[3])
	for i := range 3 {
		c[i] = uint32(colour[i]) * a * 257 / 255
	}
	c[3] = a * 257
	return
}

// Under lays a colour (straight, with an alpha of its own), as strong as a picture of
// one channel says, under rows y0 to y1.
func (p *Wide) Under(shade *Wide, colour [4]uint8, y0, y1 int) {
	c := shaded(colour)
	for y := y0; y < y1; y++ {
		to, row := p.Pix[4*y*p.W:4*(y+1)*p.W], shade.Pix[y*p.W:(y+1)*p.W]
		for x, m := range row {
			px := (*[4]uint16)(to[4*x:])
			rest := 65535 - uint32(px[3])
			if rest == 0 || m == 0 {
				continue
			}
			k := share16(uint32(m), rest)
			for i := range px {
				px[i] += uint16(share16(c[i], k))
			}
		}
	}
}

// Under lays a colour under rows y0 to y1 as the wide picture's does, with its pixels
// dithered as To does: the bits are those of the way there and back.
func (s *Surface) Under(shade *Wide, colour [4]uint8, y0, y1, dx, dy int) {
	c := shaded(colour)
	for y := y0; y < y1; y++ {
		to, row := s.Pix[4*y*s.W:4*(y+1)*s.W], shade.Pix[y*s.W:(y+1)*s.W]
		line := ordered[4*((y+dy)&3) : 4*((y+dy)&3)+4]
		n := 0
		if vectors {
			n = underVector(to, row, &c, thresholds(line, dx))
		}
		for x := n; x < len(row); x++ {
			m := row[x]
			px := load(to, 4*x)
			rest := 65535 - px>>24*257
			if rest == 0 || m == 0 {
				continue
			}
			k := share16(uint32(m), rest)
			t := line[(x+dx)&3] * 257 / 32
			// What is there is a whole step, so that only what is added is rounded.
			store(to, 4*x, px+(share16(c[0], k)+t)/257+(share16(c[1], k)+t)/257<<8+(share16(c[2], k)+t)/257<<16+(share16(c[3], k)+t)/257<<24)
		}
	}
}

// share16 multiplies shares of 65535, rounded.
func share16(a, b uint32) uint32 {
	t := a*b + 1<<15 // at most 65535² + 2¹⁵, which fits
	return (t + t>>16) >> 16
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
func (p *Placed) Row(buf []uint8, _, x0, x1, y int) ([]uint8, bool) {
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
