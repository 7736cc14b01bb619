package raster

import (
	"encoding/binary"
	"math"

	"ivypocket/core/geom"
)

// Picture is a picture drawn through a map by bilinear sampling. Beyond its
// edges its outermost pixels go on; a cut keeps them out of sight.
type Picture struct {
	Src *Surface
	inv geom.Projective // device to the picture's samples, which lie at whole numbers

	dx, dy  int  // aligned: source pixel = destination pixel + (dx, dy)
	aligned bool // pixels fall on pixels
	shifted bool // the picture is moved and nothing else
}

// Set lays a picture on a w×h device through a map that takes its pixels
// there. It reports whether it can be seen at all.
func (p *Picture) Set(src *Surface, m geom.Projective, w, h int) bool {
	inv, ok := m.Invert()
	if !ok || src.W == 0 || src.H == 0 {
		return false
	}
	*p = Picture{Src: src, inv: inv}
	if inv.IsFlat() {
		p.dx, p.dy, p.aligned = wholeShift(inv.Affine, w, h)
		p.shifted = inv.A == 1 && inv.D == 1 && inv.Upright()
	}
	return true
}

// stepShift is the number of fraction bits in source coordinates while a row
// is walked; weights use the top 8 of them.
const stepShift = 16

// wholeShift reports whether, all over the device, pixels fall on source
// pixels to within a 1/512 of a pixel, and by which shift.
func wholeShift(inv geom.Affine, w, h int) (dx, dy int, ok bool) {
	if !inv.Upright() {
		return 0, 0, false
	}
	fx, fy := math.Round(inv.E), math.Round(inv.F)
	const eps = 1.0 / 512
	for _, x := range []float64{0, float64(w)} {
		if math.Abs(inv.A*x+inv.E-x-fx) > eps {
			return 0, 0, false
		}
	}
	for _, y := range []float64{0, float64(h)} {
		if math.Abs(inv.D*y+inv.F-y-fy) > eps {
			return 0, 0, false
		}
	}
	return int(fx), int(fy), true
}

// Solid reports whether every pixel is opaque.
func (p *Picture) Solid() bool { return p.Src.Opaque }

// Row samples pixels x0 to x1 of a row.
func (p *Picture) Row(buf []uint8, origin, x0, x1, y int) ([]uint8, bool) {
	src := p.Src
	if p.aligned {
		from := src.row(min(max(y+p.dy, 0), src.H-1))
		lo, hi := max(x0, -p.dx), min(x1, src.W-p.dx)
		if lo == x0 && hi == x1 {
			return from[(lo+p.dx)*4 : (hi+p.dx)*4], false
		}
		out := buf[:(x1-x0)*4]
		lo = min(max(lo, x0), x1)
		hi = max(min(hi, x1), lo)
		fillRow(out[:(lo-x0)*4], load(from, 0))
		if lo < hi {
			copy(out[(lo-x0)*4:], from[(lo+p.dx)*4:(hi+p.dx)*4])
		}
		fillRow(out[(hi-x0)*4:], load(from, (src.W-1)*4))
		return out, true
	}
	out := buf[:(x1-x0)*4]
	if !p.inv.IsFlat() {
		p.slanted(out, origin, x0, y)
		return out, true
	}
	q := p.inv.Apply(geom.Point{X: float64(origin) + 0.5, Y: float64(y) + 0.5})
	du, dv := int64(math.Round(p.inv.A*(1<<stepShift))), int64(math.Round(p.inv.B*(1<<stepShift)))
	iu, iv := int64(math.Floor((q.X-0.5)*(1<<stepShift)))+int64(x0-origin)*du, int64(math.Floor((q.Y-0.5)*(1<<stepShift)))+int64(x0-origin)*dv
	// The pixels between the source's outermost samples need no clamping.
	maxU, maxV := int64(src.W-1)<<stepShift, int64(src.H-1)<<stepShift
	stride := src.W * 4
	i, n := 0, len(out)
	if p.shifted && iv >= 0 && iv < maxV {
		// The weights are the same all along the row: two pixels at a time,
		// with the bits that the general way gives.
		fx, fy := uint64(iu>>(stepShift-8)&255), uint64(iv>>(stepShift-8)&255)
		for ; i < n && iu < 0; i += 4 {
			store(out, i, p.clamped(iu, iv))
			iu += 1 << stepShift
		}
		run := min((n-i)/4, int((maxU-iu)>>stepShift)-1) &^ 1
		if run > 0 {
			k := int(iv>>stepShift)*stride + int(iu>>stepShift)*4
			lerpRun(out[i:i+run*4], src.Pix[k:], src.Pix[k+stride:], fx, fy)
			i += run * 4
			iu += int64(run) << stepShift
		}
	}
	for ; i < n; i += 4 {
		if run := p.gatherRun(out[i:], iu, iv, du, dv); run > 0 {
			i += run
			iu += int64(run/4) * du
			iv += int64(run/4) * dv
			if i >= n {
				break
			}
		}
		if iu >= 0 && iv >= 0 && iu < maxU && iv < maxV {
			k := int(iv>>stepShift)*stride + int(iu>>stepShift)*4
			store(out, i, bilinear(load(src.Pix, k), load(src.Pix, k+4), load(src.Pix, k+stride), load(src.Pix, k+stride+4),
				uint64(iu>>(stepShift-8)&255), uint64(iv>>(stepShift-8)&255)))
		} else {
			store(out, i, p.clamped(iu, iv))
		}
		iu += du
		iv += dv
	}
	return out, true
}

// slanted samples a row in perspective.
func (p *Picture) slanted(out []uint8, origin, x0, y int) {
	m := &p.inv
	fx, fy := float64(origin)+0.5, float64(y)+0.5
	u, v, w := m.A*fx+m.C*fy+m.E, m.B*fx+m.D*fy+m.F, m.G*fx+m.H*fy+m.I
	for range x0 - origin { // sums, as they would have come to be
		u += m.A
		v += m.B
		w += m.G
	}
	for i := 0; i < len(out); i += 4 {
		k := 1 / w
		// Kept within what fits: far outside, the edge goes on anyway.
		a := math.Max(-1e6, math.Min(1e6, u*k-0.5))
		b := math.Max(-1e6, math.Min(1e6, v*k-0.5))
		store(out, i, p.clamped(int64(math.Floor(a*(1<<stepShift))), int64(math.Floor(b*(1<<stepShift)))))
		u += m.A
		v += m.B
		w += m.G
	}
}

// clamped samples with coordinates kept inside the picture.
func (p *Picture) clamped(iu, iv int64) uint32 {
	src := p.Src
	iu = min(max(iu, 0), int64(src.W-1)<<stepShift)
	iv = min(max(iv, 0), int64(src.H-1)<<stepShift)
	x0, y0 := int(iu>>stepShift), int(iv>>stepShift)
	x1, y1 := min(x0+1, src.W-1), min(y0+1, src.H-1)
	return bilinear(load(src.Pix, (y0*src.W+x0)*4), load(src.Pix, (y0*src.W+x1)*4),
		load(src.Pix, (y1*src.W+x0)*4), load(src.Pix, (y1*src.W+x1)*4),
		uint64(iu>>(stepShift-8)&255), uint64(iv>>(stepShift-8)&255))
}

// clamp01 is v within 0 to 1.
func clamp01(v float64) float64 {
	if v > 1 {
		return 1
	}
	if v > 0 {
		return v
	}
	return 0
}

// bilinear weighs four packed pixels; fx and fy are 0 to 255 in 256ths. The
// four channels travel in the four 16-bit lanes of one word: 255·256 fits.
func bilinear(p00, p10, p01, p11 uint32, fx, fy uint64) uint32 {
	const half = 0x0080008000800080
	const mask = 0x00ff00ff00ff00ff
	top := (lanes(p00)*(256-fx) + lanes(p10)*fx + half) >> 8 & mask
	bot := (lanes(p01)*(256-fx) + lanes(p11)*fx + half) >> 8 & mask
	v := (top*(256-fy) + bot*fy + half) >> 8 & mask
	return uint32(v&0xff) | uint32(v>>8&0xff00) | uint32(v>>16&0xff0000) | uint32(v>>24&0xff000000)
}

// lerpRun weighs runs of two rows as bilinear does, two pixels at a time. Both
// rows must hold one pixel more than dst.
func lerpRun(dst, top, bottom []uint8, fx, fy uint64) {
	const half = 0x0080008000800080
	const mask = 0x00ff00ff00ff00ff
	if vectors {
		n := runVector(dst, top[:len(dst)+4], bottom[:len(dst)+4], fx, fy)
		dst, top, bottom = dst[n:], top[n:], bottom[n:]
	}
	n := len(dst)
	top, bottom = top[:n+4], bottom[:n+4]
	across := func(p, q uint64) (even, odd uint64) {
		even = (p&mask*(256-fx) + q&mask*fx + half) >> 8 & mask
		odd = (p>>8&mask*(256-fx) + q>>8&mask*fx + half) >> 8 & mask
		return
	}
	for i := 0; i+8 <= n; i += 8 {
		e, o := across(binary.LittleEndian.Uint64(top[i:]), binary.LittleEndian.Uint64(top[i+4:]))
		if fy != 0 {
			e2, o2 := across(binary.LittleEndian.Uint64(bottom[i:]), binary.LittleEndian.Uint64(bottom[i+4:]))
			e = (e*(256-fy) + e2*fy + half) >> 8 & mask
			o = (o*(256-fy) + o2*fy + half) >> 8 & mask
		}
		binary.LittleEndian.PutUint64(dst[i:], e|o<<8)
	}
}

// lanes spreads a packed pixel's bytes over 16-bit lanes.
func lanes(p uint32) uint64 {
	v := uint64(p)
	v = (v | v<<16) & 0x0000ffff0000ffff
	return (v | v<<8) & 0x00ff00ff00ff00ff
}
