package raster

import (
	"encoding/binary"
	"math"

	"ivypocket/core/geom"
)

// Fill composites a flat rounded box on rows y0 to y1. The colour is straight
// sRGB, alpha included; opacity is 0 to 1.
func (s *Surface) Fill(y0, y1 int, box geom.Box, radius float64, rgba [4]uint8, opacity float64) {
	c := newClip(box, radius, s.W, s.H)
	a := uint32(float64(rgba[3])*opacity + 0.5)
	if c.shut || a == 0 {
		return
	}
	src := uint32(mul255(uint32(rgba[0]), a)) | uint32(mul255(uint32(rgba[1]), a))<<8 |
		uint32(mul255(uint32(rgba[2]), a))<<16 | a<<24
	var flat []uint8 // a run of the colour, once one has been written
	for y := max(y0, c.y0); y < min(y1, c.y1); y++ {
		row := s.row(y)
		x, wholeA, wholeB, end := c.row(y)
		for ; x < wholeA; x++ {
			store(row, x*4, over(scale255(src, c.coverage(x, y)), load(row, x*4)))
		}
		if a == 255 {
			run := row[x*4 : wholeB*4]
			if n := copy(run, flat); n < len(run) {
				for i := n; i < len(run); i += 4 {
					store(run, i, src)
				}
				flat = run
			}
			x = max(x, wholeB)
		} else {
			for ; x < wholeB; x++ {
				store(row, x*4, over(src, load(row, x*4)))
			}
		}
		for ; x < end; x++ {
			store(row, x*4, over(scale255(src, c.coverage(x, y)), load(row, x*4)))
		}
	}
}

// Picture is one drawing of a picture through a map into a rounded box.
type Picture struct {
	Src *Surface
	// Map takes pixels of Src to pixels of the destination.
	Map    geom.Affine
	Box    geom.Box
	Radius float64
	// Opacity is 0 to 1.
	Opacity float64
	// Edges says that the picture's own edges may lie inside the box; they are
	// then antialiased, and nothing is drawn beyond them. Without it the
	// outermost pixels go on outwards, which rounding alone makes visible.
	Edges bool
}

// stepShift is the number of fraction bits in source coordinates while a row
// is walked; weights use the top 8 of them.
const stepShift = 16

// Draw composites a picture on rows y0 to y1 by bilinear sampling. The result
// of a row does not depend on how rows are divided.
func (s *Surface) Draw(y0, y1 int, p *Picture) {
	c := newClip(p.Box, p.Radius, s.W, s.H)
	alpha := uint32(p.Opacity*255 + 0.5)
	inv, ok := p.Map.Invert()
	if c.shut || alpha == 0 || !ok || p.Src.W == 0 || p.Src.H == 0 {
		return
	}
	d := drawing{s: s, p: p, c: c, inv: inv, alpha: alpha}
	d.dx, d.dy, d.aligned = wholeShift(inv, &c)
	d.solid = p.Src.Opaque && alpha == 255
	d.shifted = inv.A == 1 && inv.D == 1 && inv.Upright()
	for y := max(y0, c.y0); y < min(y1, c.y1); y++ {
		a, wholeA, wholeB, b := c.row(y)
		if p.Edges {
			d.slow(y, a, b)
			continue
		}
		d.slow(y, a, wholeA)
		d.whole(y, wholeA, wholeB)
		d.slow(y, wholeB, b)
	}
}

type drawing struct {
	s       *Surface
	p       *Picture
	c       clip
	inv     geom.Affine
	alpha   uint32
	dx, dy  int  // aligned: source pixel = destination pixel + (dx, dy)
	aligned bool // pixels fall on pixels
	solid   bool // no blending is needed
	shifted bool // the picture is moved and nothing else
}

// wholeShift reports whether, all over the clip, destination pixels fall on
// source pixels to within a 1/512 of a pixel, and by which shift.
func wholeShift(inv geom.Affine, c *clip) (dx, dy int, ok bool) {
	if !inv.Upright() {
		return 0, 0, false
	}
	fx, fy := math.Round(inv.E), math.Round(inv.F)
	const eps = 1.0 / 512
	for _, x := range []float64{float64(c.x0), float64(c.x1)} {
		if math.Abs(inv.A*x+inv.E-x-fx) > eps {
			return 0, 0, false
		}
	}
	for _, y := range []float64{float64(c.y0), float64(c.y1)} {
		if math.Abs(inv.D*y+inv.F-y-fy) > eps {
			return 0, 0, false
		}
	}
	return int(fx), int(fy), true
}

// whole draws a run of pixels that the box covers entirely.
func (d *drawing) whole(y, a, b int) {
	if a >= b {
		return
	}
	row := d.s.row(y)
	src := d.p.Src
	if d.aligned {
		sy := min(max(y+d.dy, 0), src.H-1)
		from := src.row(sy)
		lo, hi := max(a, -d.dx), min(b, src.W-d.dx)
		if lo < hi {
			if d.solid {
				copy(row[lo*4:hi*4], from[(lo+d.dx)*4:(hi+d.dx)*4])
			} else {
				for x := lo; x < hi; x++ {
					d.blend(row, x*4, load(from, (x+d.dx)*4))
				}
			}
		}
		for x := a; x < min(lo, b); x++ {
			d.blend(row, x*4, load(from, 0))
		}
		for x := max(hi, a); x < b; x++ {
			d.blend(row, x*4, load(from, (src.W-1)*4))
		}
		return
	}
	u, v := d.source(a, y)
	du, dv := int64(math.Round(d.inv.A*(1<<stepShift))), int64(math.Round(d.inv.B*(1<<stepShift)))
	iu, iv := int64(math.Floor(u*(1<<stepShift))), int64(math.Floor(v*(1<<stepShift)))
	// The pixels between the source's outermost samples need no clamping.
	maxU, maxV := int64(src.W-1)<<stepShift, int64(src.H-1)<<stepShift
	stride := src.W * 4
	if d.shifted && d.solid && iv >= 0 && iv < maxV {
		// The weights are the same all along the row: two pixels at a time,
		// with the bits that the general way gives.
		fx, fy := uint64(iu>>(stepShift-8)&255), uint64(iv>>(stepShift-8)&255)
		for ; a < b && iu < 0; a++ {
			store(row, a*4, d.clamped(iu, iv))
			iu += 1 << stepShift
		}
		n := min(b-a, int((maxU-iu)>>stepShift)-1) &^ 1
		if n > 0 {
			i := int(iv>>stepShift)*stride + int(iu>>stepShift)*4
			lerpRun(row[a*4:(a+n)*4], src.Pix[i:], src.Pix[i+stride:], fx, fy)
			a += n
			iu += int64(n) << stepShift
		}
	}
	for x := a; x < b; x++ {
		var px uint32
		if iu >= 0 && iv >= 0 && iu < maxU && iv < maxV {
			i := int(iv>>stepShift)*stride + int(iu>>stepShift)*4
			px = bilinear(load(src.Pix, i), load(src.Pix, i+4), load(src.Pix, i+stride), load(src.Pix, i+stride+4),
				uint64(iu>>(stepShift-8)&255), uint64(iv>>(stepShift-8)&255))
		} else {
			px = d.clamped(iu, iv)
		}
		if d.solid {
			store(row, x*4, px)
		} else {
			d.blend(row, x*4, px)
		}
		iu += du
		iv += dv
	}
}

// slow draws pixels that the box or the picture's edge covers in part.
func (d *drawing) slow(y, a, b int) {
	row := d.s.row(y)
	for x := a; x < b; x++ {
		cov := d.c.coverage(x, y)
		if cov == 0 {
			continue
		}
		u, v := d.source(x, y)
		if d.p.Edges {
			cov = cov * d.edge(u+0.5, v+0.5) / 255
			if cov == 0 {
				continue
			}
		}
		px := d.clamped(int64(math.Floor(u*(1<<stepShift))), int64(math.Floor(v*(1<<stepShift))))
		d.blend(row, x*4, scale255(px, cov))
	}
}

// source is where the centre of a destination pixel falls among the samples
// of the source; sample 0 lies at 0.
func (d *drawing) source(x, y int) (u, v float64) {
	p := d.inv.Apply(geom.Point{X: float64(x) + 0.5, Y: float64(y) + 0.5})
	return p.X - 0.5, p.Y - 0.5
}

// edge is the share of a destination pixel that lies inside the picture, from
// its distance to the four edges.
func (d *drawing) edge(u, v float64) uint32 {
	// A step of one destination pixel across an edge of constant u moves u by
	// the length of u's gradient.
	gu, gv := math.Hypot(d.inv.A, d.inv.C), math.Hypot(d.inv.B, d.inv.D)
	cu := clamp01(u/gu+0.5) - clamp01((u-float64(d.p.Src.W))/gu+0.5)
	cv := clamp01(v/gv+0.5) - clamp01((v-float64(d.p.Src.H))/gv+0.5)
	return share(cu * cv)
}

func clamp01(v float64) float64 { return math.Max(0, math.Min(1, v)) }

// clamped samples with coordinates kept inside the picture.
func (d *drawing) clamped(iu, iv int64) uint32 {
	src := d.p.Src
	iu = min(max(iu, 0), int64(src.W-1)<<stepShift)
	iv = min(max(iv, 0), int64(src.H-1)<<stepShift)
	x0, y0 := int(iu>>stepShift), int(iv>>stepShift)
	x1, y1 := min(x0+1, src.W-1), min(y0+1, src.H-1)
	return bilinear(load(src.Pix, (y0*src.W+x0)*4), load(src.Pix, (y0*src.W+x1)*4),
		load(src.Pix, (y1*src.W+x0)*4), load(src.Pix, (y1*src.W+x1)*4),
		uint64(iu>>(stepShift-8)&255), uint64(iv>>(stepShift-8)&255))
}

func (d *drawing) blend(row []uint8, i int, px uint32) {
	if d.alpha != 255 {
		px = scale255(px, d.alpha)
	}
	switch px >> 24 {
	case 255:
		store(row, i, px)
	case 0:
	default:
		store(row, i, over(px, load(row, i)))
	}
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
