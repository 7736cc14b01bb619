package raster

import "encoding/binary"

// Video as encoders want it: ITU-R BT.709-6 luma and colour difference,
// 8 bits, limited range (16 to 235 and 16 to 240), 4:2:0 with chroma sited at
// the left of each pair of pixels, as H.264 assumes when nothing else is said.

// yuvBits is the precision of the matrix. Each row of it sums exactly, so that
// grey stays grey.
const yuvBits = 16

// The matrix, times 1<<yuvBits: Kr = 0.2126, Kb = 0.0722; luma spans 219/255,
// colour differences 224/255.
const (
	yr, yg, yb = 11966, 40254, 4064
	ur, ug, ub = -6596, -22189, 28785 // 28784.2, so that grey stays grey
	vr, vg, vb = 28785, -26145, -2640 // -2639.4
)

// YUV420Size is the number of bytes of w×h pixels, both even.
func YUV420Size(w, h int) int { return w * h * 3 / 2 }

// YUV420 converts rows y0 to y1 of the surface, laid on black, into planes of
// luma and of the two colour differences, one after another in dst. Sides must
// be even; rows are taken in pairs.
func (s *Surface) YUV420(dst []uint8, y0, y1 int) {
	w, h := s.W, s.H
	luma, cb, cr := dst[:w*h], dst[w*h:w*h+w*h/4], dst[w*h+w*h/4:w*h+w*h/2]
	from := y0 / 2
	halves((y1+1)/2-from, func(a, b int) {
		for y := from + a; y < from+b; y++ {
			top, bottom := s.row(2*y), s.row(2*y+1)
			yuvLuma(luma[2*y*w:][:w], top)
			yuvLuma(luma[(2*y+1)*w:][:w], bottom)
			yuvChroma(cb[y*w/2:][:w/2], cr[y*w/2:][:w/2], top, bottom)
		}
	})
}

func yuvLuma(dst, row []uint8) {
	row = row[:len(dst)*4]
	for i := 0; i+8 <= len(row); i += 8 {
		v := binary.LittleEndian.Uint64(row[i:])
		lo := yr*(v&255) + yg*(v>>8&255) + yb*(v>>16&255) + 16<<yuvBits + 1<<(yuvBits-1)
		hi := yr*(v>>32&255) + yg*(v>>40&255) + yb*(v>>48&255) + 16<<yuvBits + 1<<(yuvBits-1)
		binary.LittleEndian.PutUint16(dst[i/4:], uint16(lo>>yuvBits|hi>>yuvBits<<8))
	}
}

// yuvChroma weighs each pixel at an even column with its neighbours, 1 : 2 : 1,
// over both rows.
func yuvChroma(cb, cr, top, bottom []uint8) {
	const mask = 0x00ff00ff00ff00ff
	n := len(cb) * 8
	top, bottom, cr = top[:n], bottom[:n], cr[:len(cb)]
	// Of two pixels in one word, red and blue stay in 16-bit lanes, and green
	// (with alpha) is shifted into such lanes of its own.
	first := uint64(load(top, 0)) | uint64(load(bottom, 0))<<32
	leftRB := first&mask + (first >> 32 & mask)
	leftG := first>>8&mask + (first >> 40 & mask)
	for x := range cb {
		t, b := binary.LittleEndian.Uint64(top[x*8:]), binary.LittleEndian.Uint64(bottom[x*8:])
		rb := t&mask + b&mask
		g := t>>8&mask + b>>8&mask
		// Low half: the middle pixel; high half: the one to its right. Eight
		// pixels are summed in all.
		sumRB := leftRB + 2*rb + rb>>32
		sumG := leftG + 2*g + g>>32
		r, gr, bl := int64(sumRB&0xffff), int64(sumG&0xffff), int64(sumRB>>16&0xffff)
		const bias = 128<<(yuvBits+3) + 1<<(yuvBits+2)
		cb[x] = uint8((ur*r + ug*gr + ub*bl + bias) >> (yuvBits + 3))
		cr[x] = uint8((vr*r + vg*gr + vb*bl + bias) >> (yuvBits + 3))
		leftRB, leftG = rb>>32, g>>32
	}
}

// YUVA420Size is the number of bytes of w×h pixels with alpha, both even.
func YUVA420Size(w, h int) int { return w * h * 5 / 2 }

// YUVA420 is YUV420 with a plane of alpha after the others, and with colours
// that are not laid on black but straight. Clear pixels beside seen ones take
// their colour, so that colour shared by four pixels does not darken at edges.
func (s *Surface) YUVA420(dst []uint8, y0, y1 int) {
	w, h := s.W, s.H
	y0 &^= 1
	y1 = min(h, (y1+1)&^1)
	alpha := dst[w*h*3/2 : w*h*5/2]
	for i := y0 * w; i < y1*w; i++ {
		alpha[i] = s.Pix[i*4+3]
	}
	if y0 >= y1 {
		return
	}
	straight := NewSurface(w, y1-y0)
	halves(y1-y0, func(a, b int) {
		for y := a; y < b; y++ {
			src, to := s.row(y0+y), straight.row(y)
			for i := 0; i < len(src); i += 4 {
				switch al := uint32(src[i+3]); al {
				case 0:
					s.nearby(to[i:i+4], i/4, y0+y)
				case 255:
					copy(to[i:i+4], src[i:i+4])
				default:
					for c := range 3 {
						to[i+c] = uint8(min(255, (uint32(src[i+c])*255+al/2)/al))
					}
				}
			}
		}
	})
	// The planes of the rows alone, and from there to their places.
	part := make([]uint8, YUV420Size(w, y1-y0))
	straight.YUV420(part, 0, y1-y0)
	n, m := w*(y1-y0), w*(y1-y0)/4
	copy(dst[y0*w:], part[:n])
	copy(dst[w*h+y0*w/4:], part[n:n+m])
	copy(dst[w*h*5/4+y0*w/4:], part[n+m:n+2*m])
}

// nearby writes the mean straight colour of the pixels around a clear one.
func (s *Surface) nearby(to []uint8, x, y int) {
	var sum [4]uint32
	for ny := max(0, y-1); ny <= min(s.H-1, y+1); ny++ {
		row := s.row(ny)
		for nx := max(0, x-1); nx <= min(s.W-1, x+1); nx++ {
			for c := range 4 {
				sum[c] += uint32(row[nx*4+c])
			}
		}
	}
	if sum[3] > 0 {
		for c := range 3 {
			to[c] = uint8(min(255, (sum[c]*255+sum[3]/2)/sum[3]))
		}
	}
}
