//go:build goexperiment.simd && amd64

package raster

import "simd/archsimd"

// oddPairs has all bits in the pairs of green and alpha that are an alpha.
var oddPairs = [16]uint16{0, 0xffff, 0, 0xffff, 0, 0xffff, 0, 0xffff, 0, 0xffff, 0, 0xffff, 0, 0xffff, 0, 0xffff}

// pairBlender does the modes of which all numbers fit into 16 bits, as
// blendChannel does them.
type pairBlender struct {
	shares
	odd   archsimd.Uint16x16
	alpha archsimd.Int8x32
	mode  Blend
}

// blendRowVector composites as many pixels as are a multiple of eight in a mode
// other than normal, and says how many bytes that was.
func blendRowVector(dst, src []uint8, mode Blend) int {
	switch mode {
	case ColorDodge, ColorBurn, SoftLight:
		return blendPlanes(dst, src, mode)
	case Hue, Saturation, Color, Luminosity:
		return blendHues(dst, src, mode)
	}
	n := len(dst) &^ 31
	if mode == Add {
		for i := 0; i < n; i += 32 {
			archsimd.LoadUint8x32Slice(dst[i:]).AddSaturated(archsimd.LoadUint8x32Slice(src[i:])).StoreSlice(dst[i:])
		}
		archsimd.ClearAVXUpperBits()
		return n
	}
	k := pairBlender{shares: newShares(), odd: archsimd.LoadUint16x16(&oddPairs), alpha: archsimd.LoadInt8x32(&alphaPairs), mode: mode}
	for i := 0; i < n; i += 32 {
		s := archsimd.LoadUint8x32Slice(src[i:])
		if s.IsZero() {
			continue
		}
		d := archsimd.LoadUint8x32Slice(dst[i:])
		sa, da := s.PermuteOrZeroGrouped(k.alpha).AsUint16x16(), d.PermuteOrZeroGrouped(k.alpha).AsUint16x16()
		rb := k.blend(s.AsUint16x16().And(k.low), d.AsUint16x16().And(k.low), sa, da, false)
		ga := k.blend(s.PermuteOrZeroGrouped(k.down).AsUint16x16(), d.PermuteOrZeroGrouped(k.down).AsUint16x16(), sa, da, true)
		rb.AsUint8x32().Or(ga.AsUint8x32().PermuteOrZeroGrouped(k.up)).StoreSlice(dst[i:])
	}
	archsimd.ClearAVXUpperBits()
	return n
}

// blend is half of the channels of eight pixels. All steps are taken modulo
// 65536; what they come to is at most 255².
func (k *pairBlender) blend(s, d, sa, da archsimd.Uint16x16, alphas bool) archsimd.Uint16x16 {
	var b archsimd.Uint16x16
	switch k.mode {
	case Multiply:
		b = s.Mul(d)
	case Screen:
		// s + d − s·d ÷ 255, 255 times over.
		return s.Mul(k.low).Add(d.Mul(k.low.Sub(s))).Add(k.half).MulHigh(k.by255)
	case Overlay:
		b = hardPairs(d, s, da, sa)
	case HardLight:
		b = hardPairs(s, d, sa, da)
	case Darken:
		b = s.Mul(da).Min(d.Mul(sa))
	case Lighten:
		b = s.Mul(da).Max(d.Mul(sa))
	case Difference:
		x, y := s.Mul(da), d.Mul(sa)
		b = x.Max(y).Sub(x.Min(y))
	case Exclusion:
		sd := s.Mul(d)
		b = s.Mul(da).Add(d.Mul(sa)).Sub(sd).Sub(sd)
	}
	if alphas && (k.mode == Difference || k.mode == Exclusion) {
		b = b.AndNot(k.odd).Or(sa.Mul(da).And(k.odd)) // they are of colours alone
	}
	return s.Mul(k.low.Sub(da)).Add(d.Mul(k.low.Sub(sa))).Add(b).Add(k.half).MulHigh(k.by255)
}

// hardPairs is hardLight.
func hardPairs(s, d, sa, da archsimd.Uint16x16) archsimd.Uint16x16 {
	twice := s.Add(s)
	dark := sa.AsInt16x16().Less(twice.AsInt16x16()).ToInt16x16().AsUint16x16() // all bits where it is not
	a := twice.Mul(d)
	x := da.Sub(d).Mul(sa.Sub(s))
	b := sa.Mul(da).Sub(x).Sub(x)
	return b.And(dark).Or(a.AndNot(dark))
}

// Bytes of eight pixels taken apart into planes of 32 bits, and back.
var apart = [4][32]int8{
	{0, -1, -1, -1, 4, -1, -1, -1, 8, -1, -1, -1, 12, -1, -1, -1, 0, -1, -1, -1, 4, -1, -1, -1, 8, -1, -1, -1, 12, -1, -1, -1},
	{1, -1, -1, -1, 5, -1, -1, -1, 9, -1, -1, -1, 13, -1, -1, -1, 1, -1, -1, -1, 5, -1, -1, -1, 9, -1, -1, -1, 13, -1, -1, -1},
	{2, -1, -1, -1, 6, -1, -1, -1, 10, -1, -1, -1, 14, -1, -1, -1, 2, -1, -1, -1, 6, -1, -1, -1, 10, -1, -1, -1, 14, -1, -1, -1},
	{3, -1, -1, -1, 7, -1, -1, -1, 11, -1, -1, -1, 15, -1, -1, -1, 3, -1, -1, -1, 7, -1, -1, -1, 11, -1, -1, -1, 15, -1, -1, -1},
}

var together = [4][32]int8{
	{0, -1, -1, -1, 4, -1, -1, -1, 8, -1, -1, -1, 12, -1, -1, -1, 0, -1, -1, -1, 4, -1, -1, -1, 8, -1, -1, -1, 12, -1, -1, -1},
	{-1, 0, -1, -1, -1, 4, -1, -1, -1, 8, -1, -1, -1, 12, -1, -1, -1, 0, -1, -1, -1, 4, -1, -1, -1, 8, -1, -1, -1, 12, -1, -1},
	{-1, -1, 0, -1, -1, -1, 4, -1, -1, -1, 8, -1, -1, -1, 12, -1, -1, -1, 0, -1, -1, -1, 4, -1, -1, -1, 8, -1, -1, -1, 12, -1},
	{-1, -1, -1, 0, -1, -1, -1, 4, -1, -1, -1, 8, -1, -1, -1, 12, -1, -1, -1, 0, -1, -1, -1, 4, -1, -1, -1, 8, -1, -1, -1, 12},
}

// real numbers, eight at a time. Colours stand in three variables each: what is
// in an array, or made anew in a loop, goes by way of memory.
type real = archsimd.Float32x8

// realTable holds the numbers that formulas of modes need.
var realTable = [...]float32{0, tiny, 0.5, 1, 255, 1.0 / 255, 0.3, 0.59, 0.11}

// reals are the same, ready.
type reals struct {
	zero, tiny, half, one, full, by, red, green, blue real
}

func newReals() (k reals) {
	for i, to := range [...]*real{&k.zero, &k.tiny, &k.half, &k.one, &k.full, &k.by, &k.red, &k.green, &k.blue} {
		*to = archsimd.BroadcastFloat32x8(realTable[i])
	}
	return
}

// plane is one channel of eight pixels.
func plane(px archsimd.Uint8x32, k int) real {
	return px.PermuteOrZeroGrouped(archsimd.LoadInt8x32(&apart[k])).AsInt32x8().ConvertToFloat32()
}

// byteOf rounds a plane to bytes, in their place.
func (k *reals) byteOf(v real, c int) archsimd.Uint8x32 {
	return v.Add(k.half).ConvertToInt32().AsUint8x32().PermuteOrZeroGrouped(archsimd.LoadInt8x32(&together[c]))
}

// blendPlanes does the separable modes that divide, as blendChannel does, in
// floating point of 32 bits.
func blendPlanes(dst, src []uint8, mode Blend) int {
	n := len(dst) &^ 31
	k, j := newReals(), newFine()
	for i := 0; i < n; i += 32 {
		s8 := archsimd.LoadUint8x32Slice(src[i:])
		if s8.IsZero() {
			continue
		}
		d8 := archsimd.LoadUint8x32Slice(dst[i:])
		sr, sg, sb, sa := plane(s8, 0), plane(s8, 1), plane(s8, 2), plane(s8, 3)
		dr, dg, db, da := plane(d8, 0), plane(d8, 1), plane(d8, 2), plane(d8, 3)
		both := sa.Mul(da)
		var r, g, b real
		switch mode {
		case ColorDodge:
			r, g, b = k.dodge(sr, dr, sa, both), k.dodge(sg, dg, sa, both), k.dodge(sb, db, sa, both)
		case ColorBurn:
			r = both.Sub(k.dodge(sa.Sub(sr), da.Sub(dr), sa, both))
			g = both.Sub(k.dodge(sa.Sub(sg), da.Sub(dg), sa, both))
			b = both.Sub(k.dodge(sa.Sub(sb), da.Sub(db), sa, both))
		default:
			r, g, b = j.soft(s8, d8, 0), j.soft(s8, d8, 1), j.soft(s8, d8, 2)
		}
		notDa, notSa := k.full.Sub(da), k.full.Sub(sa)
		r = r.Add(sr.Mul(notDa).Add(dr.Mul(notSa)))
		g = g.Add(sg.Mul(notDa).Add(dg.Mul(notSa)))
		b = b.Add(sb.Mul(notDa).Add(db.Mul(notSa)))
		a := k.full.Mul(sa.Add(da)).Sub(both)
		k.byteOf(r.Mul(k.by), 0).Or(k.byteOf(g.Mul(k.by), 1)).Or(k.byteOf(b.Mul(k.by), 2)).Or(k.byteOf(a.Mul(k.by), 3)).StoreSlice(dst[i:])
	}
	archsimd.ClearAVXUpperBits()
	return n
}

// dodge is αs²·d ÷ (αs − s), rounded: αs·αb where nothing is left to divide by,
// and 0 where there is nothing below.
func (k *reals) dodge(s, d, sa, both real) real {
	left := sa.Sub(s)
	v := both.Merge(sa.Mul(sa).Mul(d).Div(left), left.LessEqual(k.zero))
	return k.zero.Merge(v, d.LessEqual(k.zero)).Add(k.half).Trunc().Min(both)
}

// fine are the numbers that soft light needs, in 64 bits: with 32 one in fifty
// thousand of its results would be another.
type fine struct {
	quarter, half, one, two, four, twelve, sixteen archsimd.Float64x4
}

func newFine() fine {
	num := archsimd.BroadcastFloat64x4
	return fine{num(0.25), num(0.5), num(1), num(2), num(4), num(12), num(16)}
}

// soft is softLight times αs·αb, rounded, of one channel of eight pixels.
func (j *fine) soft(s8, d8 archsimd.Uint8x32, c int) real {
	s, sa := s8.PermuteOrZeroGrouped(archsimd.LoadInt8x32(&apart[c])).AsInt32x8(), s8.PermuteOrZeroGrouped(archsimd.LoadInt8x32(&apart[3])).AsInt32x8()
	d, da := d8.PermuteOrZeroGrouped(archsimd.LoadInt8x32(&apart[c])).AsInt32x8(), d8.PermuteOrZeroGrouped(archsimd.LoadInt8x32(&apart[3])).AsInt32x8()
	var out archsimd.Int32x8
	return out.SetLo(j.quad(s.GetLo(), sa.GetLo(), d.GetLo(), da.GetLo())).SetHi(j.quad(s.GetHi(), sa.GetHi(), d.GetHi(), da.GetHi())).ConvertToFloat32()
}

func (j *fine) quad(s32, sa32, d32, da32 archsimd.Int32x4) archsimd.Int32x4 {
	sa, da := sa32.ConvertToFloat64(), da32.ConvertToFloat64()
	s, d := s32.ConvertToFloat64().Div(sa.Max(j.one)), d32.ConvertToFloat64().Div(da.Max(j.one))
	twice := j.two.Mul(s)
	lower := d.Sub(j.one.Sub(twice).Mul(d).Mul(j.one.Sub(d)))
	g := j.sixteen.Mul(d).Sub(j.twelve).Mul(d).Add(j.four).Mul(d).Merge(d.Sqrt(), d.LessEqual(j.quarter))
	upper := d.Add(twice.Sub(j.one).Mul(g.Sub(d)))
	return lower.Merge(upper, s.LessEqual(j.half)).Mul(sa.Mul(da)).Add(j.half).ConvertToInt32()
}

// blendHues does the modes that are not separable, as blendHue does.
func blendHues(dst, src []uint8, mode Blend) int {
	n := len(dst) &^ 31
	k := newReals()
	for i := 0; i < n; i += 32 {
		s8 := archsimd.LoadUint8x32Slice(src[i:])
		if s8.IsZero() {
			continue
		}
		d8 := archsimd.LoadUint8x32Slice(dst[i:])
		sr, sg, sb, sa := plane(s8, 0), plane(s8, 1), plane(s8, 2), plane(s8, 3)
		dr, dg, db, da := plane(d8, 0), plane(d8, 1), plane(d8, 2), plane(d8, 3)
		ks, kd := sa.Mul(k.by), da.Mul(k.by)
		r, g, b := sr.Mul(kd), sg.Mul(kd), sb.Mul(kd)
		u, v, w := dr.Mul(ks), dg.Mul(ks), db.Mul(ks)
		var l real
		switch mode {
		case Hue:
			l = k.lum(u, v, w)
			r, g, b = k.setSat(r, g, b, u.Max(v).Max(w).Sub(u.Min(v).Min(w)))
		case Saturation:
			l = k.lum(u, v, w)
			r, g, b = k.setSat(u, v, w, r.Max(g).Max(b).Sub(r.Min(g).Min(b)))
		case Color:
			l = k.lum(u, v, w)
		default:
			l = k.lum(r, g, b)
			r, g, b = u, v, w
		}
		both := sa.Mul(kd)
		// As setLum does.
		grey := k.lum(r, g, b)
		r, g, b = r.Sub(grey), g.Sub(grey), b.Sub(grey)
		low := k.one.Min(l.Div(k.tiny.Max(k.zero.Sub(r.Min(g).Min(b)))))
		high := k.one.Min(both.Sub(l).Div(k.tiny.Max(r.Max(g).Max(b))))
		by := low.Mul(high)
		notKd, notKs := k.one.Sub(kd), k.one.Sub(ks)
		r = l.Add(r.Mul(by)).Add(sr.Mul(notKd).Add(dr.Mul(notKs)))
		g = l.Add(g.Mul(by)).Add(sg.Mul(notKd).Add(dg.Mul(notKs)))
		b = l.Add(b.Mul(by)).Add(sb.Mul(notKd).Add(db.Mul(notKs)))
		k.byteOf(r, 0).Or(k.byteOf(g, 1)).Or(k.byteOf(b, 2)).Or(k.byteOf(sa.Add(da).Sub(both), 3)).StoreSlice(dst[i:])
	}
	archsimd.ClearAVXUpperBits()
	return n
}

// lum is lum.
func (k *reals) lum(r, g, b real) real { return k.red.Mul(r).Add(k.green.Mul(g)).Add(k.blue.Mul(b)) }

// setSat is setSat.
func (k *reals) setSat(r, g, b, s real) (real, real, real) {
	lo := r.Min(g).Min(b)
	by := s.Div(k.tiny.Max(r.Max(g).Max(b).Sub(lo)))
	return r.Sub(lo).Mul(by), g.Sub(lo).Mul(by), b.Sub(lo).Mul(by)
}
