package raster

// FromCMYK turns print colours without a profile, four bytes a pixel and
// inverted as JPEG files hold them, into RGBA in place: each ink lets through
// what black leaves (common practice, no source; browsers do the same).
func (s *Surface) FromCMYK() {
	for i := 0; i+3 < len(s.Pix); i += 4 {
		k := uint32(s.Pix[i+3])
		s.Pix[i] = mul255(uint32(s.Pix[i]), k)
		s.Pix[i+1] = mul255(uint32(s.Pix[i+1]), k)
		s.Pix[i+2] = mul255(uint32(s.Pix[i+2]), k)
		s.Pix[i+3] = 255
	}
	s.Opaque = true
}

// Put copies another surface's pixels to a place; what lies outside is left
// out.
func (s *Surface) Put(o *Surface, x, y int) {
	x0, x1 := max(0, x), min(s.W, x+o.W)
	if x0 >= x1 {
		return
	}
	for row := max(0, y); row < min(s.H, y+o.H); row++ {
		copy(s.row(row)[x0*4:x1*4], o.row(row - y)[(x0-x)*4:])
	}
}

// Matrix is a way from Y′CbCr to R′G′B′.
type Matrix string

const (
	BT601  Matrix = "bt601"  // ITU-R BT.601
	BT709  Matrix = "bt709"  // ITU-R BT.709
	BT2020 Matrix = "bt2020" // ITU-R BT.2020, non-constant luminance
)

// luma are the weights of red and blue in luma, by the matrix's standard.
var luma = map[Matrix][2]float64{BT601: {0.299, 0.114}, BT709: {0.2126, 0.0722}, BT2020: {0.2627, 0.0593}}

// yuvTable holds a matrix's products in 16.16 fixed point, with the rounding
// in the one of luma.
type yuvTable struct{ y, rv, gu, gv, bu [256]int32 }

var yuvTables = func() map[Matrix]*[2]yuvTable {
	out := map[Matrix]*[2]yuvTable{}
	for m, w := range luma {
		var pair [2]yuvTable
		for full := range 2 {
			t := &pair[full]
			// Limited range: luma 16 to 235, chroma 16 to 240 (BT.601, BT.709).
			y0, ys, cs := 16.0, 255.0/219, 255.0/224
			if full == 1 {
				y0, ys, cs = 0, 1, 1
			}
			kr, kb := w[0], w[1]
			kg := 1 - kr - kb
			for i := range 256 {
				fix := func(v float64) int32 {
					if v < 0 {
						return -int32(-v*65536 + 0.5)
					}
					return int32(v*65536 + 0.5)
				}
				c := (float64(i) - 128) * cs
				t.y[i] = fix((float64(i)-y0)*ys) + 1<<15
				t.rv[i] = fix(c * 2 * (1 - kr))
				t.bu[i] = fix(c * 2 * (1 - kb))
				t.gv[i] = fix(-c * 2 * (1 - kr) * kr / kg)
				t.gu[i] = fix(-c * 2 * (1 - kb) * kb / kg)
			}
		}
		out[m] = &pair
	}
	return out
}()

// FromYUV444 fills the surface with the colours of three planes of its size,
// one after another.
func (s *Surface) FromYUV444(planes []uint8, m Matrix, full bool) {
	pair := yuvTables[m]
	if pair == nil {
		pair = yuvTables[BT709]
	}
	t := &pair[0]
	if full {
		t = &pair[1]
	}
	n := s.W * s.H
	halves(s.H, func(a, b int) {
		y, u, v := planes[a*s.W:b*s.W], planes[n+a*s.W:n+b*s.W], planes[2*n+a*s.W:2*n+b*s.W]
		u, v = u[:len(y)], v[:len(y)]
		out := s.Pix[a*s.W*4 : b*s.W*4]
		for i, l := range y {
			yy, cu, cv := t.y[l], u[i], v[i]
			r, g, bl := yy+t.rv[cv], yy+t.gu[cu]+t.gv[cv], yy+t.bu[cu]
			store(out[:len(y)*4], i*4, clamp16(r)|clamp16(g)<<8|clamp16(bl)<<16|0xff000000)
		}
	})
	s.Opaque = true
}

// FromYUV420 is FromYUV444 for planes of colour difference of half the width and
// height, sited at the left of each pair of pixels. Both sides are even.
func (s *Surface) FromYUV420(planes []uint8, m Matrix, full bool) {
	pair := yuvTables[m]
	if pair == nil {
		pair = yuvTables[BT709]
	}
	t := &pair[0]
	if full {
		t = &pair[1]
	}
	n, half := s.W*s.H, s.W/2
	halves(s.H, func(a, b int) {
		for y := a; y < b; y++ {
			luma := planes[y*s.W:][:s.W]
			u, v := planes[n+y/2*half:][:half], planes[n+n/4+y/2*half:][:half]
			row := s.row(y)
			for x := range half {
				cu, cv := u[x], v[x]
				nu, nv := cu, cv
				if x+1 < half {
					nu, nv = uint8((uint32(cu)+uint32(u[x+1])+1)>>1), uint8((uint32(cv)+uint32(v[x+1])+1)>>1)
				}
				l := t.y[luma[2*x]]
				store(row, x*8, clamp16(l+t.rv[cv])|clamp16(l+t.gu[cu]+t.gv[cv])<<8|clamp16(l+t.bu[cu])<<16|0xff000000)
				l = t.y[luma[2*x+1]]
				store(row, x*8+4, clamp16(l+t.rv[nv])|clamp16(l+t.gu[nu]+t.gv[nv])<<8|clamp16(l+t.bu[nu])<<16|0xff000000)
			}
		}
	})
	s.Opaque = true
}

// clamp16 is a 16.16 number as a byte.
func clamp16(v int32) uint32 {
	v >>= 16
	if uint32(v) > 255 {
		return uint32(^v>>31) & 255 // 0 below, 255 above
	}
	return uint32(v)
}

// Plane is one channel of w×h samples.
type Plane struct {
	W, H int
	Pix  []uint8
}

// Half shrinks a plane to half its size, rounded up, by averaging; dst is used
// again if it is large enough.
func (p Plane) Half(dst []uint8) Plane {
	out := Plane{W: (p.W + 1) / 2, H: (p.H + 1) / 2}
	if n := out.W * out.H; cap(dst) < n {
		dst = make([]uint8, n)
	} else {
		dst = dst[:n]
	}
	out.Pix = dst
	for y := range out.H {
		a := p.Pix[2*y*p.W : 2*y*p.W+p.W]
		b := a
		if 2*y+1 < p.H {
			b = p.Pix[(2*y+1)*p.W : (2*y+1)*p.W+p.W]
		}
		row := dst[y*out.W : (y+1)*out.W]
		whole := p.W / 2
		for x := range whole {
			row[x] = uint8((uint32(a[2*x]) + uint32(a[2*x+1]) + uint32(b[2*x]) + uint32(b[2*x+1]) + 2) >> 2)
		}
		if whole < out.W {
			row[whole] = uint8((uint32(a[p.W-1]) + uint32(b[p.W-1]) + 1) >> 1)
		}
	}
	return out
}

// Join gives premultiplied colours the alpha of a plane of the surface's size,
// and keeps each channel within it: both may have been through a lossy codec.
func (s *Surface) Join(alpha []uint8) {
	for i := range s.W * s.H {
		a := alpha[i]
		p := s.Pix[i*4 : i*4+4 : i*4+4]
		p[0], p[1], p[2], p[3] = min(p[0], a), min(p[1], a), min(p[2], a), a
	}
	s.MeasureOpaque()
}

// Alpha writes the surface's alpha into a plane, which is used again if it is
// large enough.
func (s *Surface) Alpha(dst []uint8) []uint8 {
	n := s.W * s.H
	if cap(dst) < n {
		dst = make([]uint8, n)
	}
	dst = dst[:n]
	for i := range n {
		dst[i] = s.Pix[i*4+3]
	}
	return dst
}
