package raster

import "math"

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

// A colour is summed from three tables, of luma and of each difference, whose
// entries hold red, green and blue side by side in lanes of one 64-bit word:
// yuvFraction bits of fraction, and yuvBias added to the whole, so that no lane
// is ever below 0 or reaches the next.
const (
	yuvLane     = 21
	yuvFraction = 6
	yuvBias     = 512
)

type yuvTable struct{ y, u, v [256]uint64 }

// yuvClamp takes a lane's whole part to a byte.
var yuvClamp = func() (t [2048]uint8) {
	for i := range t {
		t[i] = uint8(max(0, min(255, i-yuvBias)))
	}
	return
}()

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
			pack := func(r, g, b float64) (v uint64) {
				for i, c := range [3]float64{r, g, b} {
					v += uint64(math.Round(c*(1<<yuvFraction))) << (i * yuvLane)
				}
				return
			}
			for i := range 256 {
				l, c := (float64(i)-y0)*ys+0.5, (float64(i)-128)*cs
				// Each lane's bias is shared out so that every entry is above 0: luma
				// reaches down to −19, a difference to −276.
				t.y[i] = pack(l+32, l+32, l+32)
				t.u[i] = pack(160, 240-c*2*(1-kb)*kb/kg, 320+c*2*(1-kb))
				t.v[i] = pack(320+c*2*(1-kr), 240-c*2*(1-kr)*kr/kg, 160)
			}
		}
		out[m] = &pair
	}
	return out
}()

func tableOf(m Matrix, full bool) *yuvTable {
	pair := yuvTables[m]
	if pair == nil {
		pair = yuvTables[BT709]
	}
	if full {
		return &pair[1]
	}
	return &pair[0]
}

// yuvPixel packs the colour that a sum of table entries is.
func yuvPixel(sum uint64) uint64 {
	return uint64(yuvClamp[sum>>yuvFraction&2047]) | uint64(yuvClamp[sum>>(yuvLane+yuvFraction)&2047])<<8 |
		uint64(yuvClamp[sum>>(2*yuvLane+yuvFraction)&2047])<<16 | 0xff000000
}

// FromYUV444 fills the surface with the colours of three planes of its size,
// one after another.
func (s *Surface) FromYUV444(planes []uint8, m Matrix, full bool) {
	t := tableOf(m, full)
	n := s.W * s.H
	halves(s.H, func(a, b int) {
		y, u, v := planes[a*s.W:b*s.W], planes[n+a*s.W:n+b*s.W], planes[2*n+a*s.W:2*n+b*s.W]
		u, v = u[:len(y)], v[:len(y)]
		out := s.Pix[a*s.W*4:][:len(y)*4]
		for i, l := range y {
			store(out, i*4, uint32(yuvPixel(t.y[l]+t.u[u[i]]+t.v[v[i]])))
		}
	})
	s.Opaque = true
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
