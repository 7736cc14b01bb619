//go:build goexperiment.simd && amd64

package raster

import (
	"math"
	"simd/archsimd"
)

// Of two pixels that stand side by side in eight bytes: each of the bytes of the
// left one in a pair's lower or upper half, and of the right one in the lower.
var (
	leftLow  = [32]int8{0, -1, 1, -1, 2, -1, 3, -1, 8, -1, 9, -1, 10, -1, 11, -1, 0, -1, 1, -1, 2, -1, 3, -1, 8, -1, 9, -1, 10, -1, 11, -1}
	leftHigh = [32]int8{-1, 0, -1, 1, -1, 2, -1, 3, -1, 8, -1, 9, -1, 10, -1, 11, -1, 0, -1, 1, -1, 2, -1, 3, -1, 8, -1, 9, -1, 10, -1, 11}
	rightLow = [32]int8{4, -1, 5, -1, 6, -1, 7, -1, 12, -1, 13, -1, 14, -1, 15, -1, 4, -1, 5, -1, 6, -1, 7, -1, 12, -1, 13, -1, 14, -1, 15, -1}
	// The bytes that pairs end as, in the lower or upper half of each 16; a pair's
	// own lower byte, or its upper.
	lowFirst   = [32]int8{0, 2, 4, 6, 8, 10, 12, 14, -1, -1, -1, -1, -1, -1, -1, -1, 0, 2, 4, 6, 8, 10, 12, 14, -1, -1, -1, -1, -1, -1, -1, -1}
	lowSecond  = [32]int8{-1, -1, -1, -1, -1, -1, -1, -1, 0, 2, 4, 6, 8, 10, 12, 14, -1, -1, -1, -1, -1, -1, -1, -1, 0, 2, 4, 6, 8, 10, 12, 14}
	highFirst  = [32]int8{1, 3, 5, 7, 9, 11, 13, 15, -1, -1, -1, -1, -1, -1, -1, -1, 1, 3, 5, 7, 9, 11, 13, 15, -1, -1, -1, -1, -1, -1, -1, -1}
	highSecond = [32]int8{-1, -1, -1, -1, -1, -1, -1, -1, 1, 3, 5, 7, 9, 11, 13, 15, -1, -1, -1, -1, -1, -1, -1, -1, 1, 3, 5, 7, 9, 11, 13, 15}
)

// weighVector weighs the gathered samples as bilinear does.
func (g *gathered) weighVector(out []uint8) {
	ll, lh, rl := archsimd.LoadInt8x32(&leftLow), archsimd.LoadInt8x32(&leftHigh), archsimd.LoadInt8x32(&rightLow)
	first, second := archsimd.LoadInt8x32(&highFirst), archsimd.LoadInt8x32(&highSecond)
	half, by256 := archsimd.BroadcastUint16x16(128), archsimd.BroadcastUint16x16(256)
	for i := 0; i*4+32 <= len(out); i += 8 {
		// The first, second, fifth and sixth pixel, then the other four.
		top, bottom := archsimd.LoadUint64x4Slice(g.top[i:]).AsUint8x32(), archsimd.LoadUint64x4Slice(g.bottom[i:]).AsUint8x32()
		fx, fy := archsimd.LoadUint64x4Slice(g.fx[i:]).AsUint16x16(), archsimd.LoadUint64x4Slice(g.fy[i:]).AsUint16x16()
		t := top.PermuteOrZeroGrouped(rl).AsUint16x16().Sub(top.PermuteOrZeroGrouped(ll).AsUint16x16()).Mul(fx).
			Add(top.PermuteOrZeroGrouped(lh).AsUint16x16()).Add(half).MulHigh(by256)
		b := bottom.PermuteOrZeroGrouped(rl).AsUint16x16().Sub(bottom.PermuteOrZeroGrouped(ll).AsUint16x16()).Mul(fx).
			Add(bottom.PermuteOrZeroGrouped(lh).AsUint16x16()).Add(half).MulHigh(by256)
		v := b.Sub(t).Mul(fy).Add(t.Mul(by256)).Add(half)
		top, bottom = archsimd.LoadUint64x4Slice(g.top[i+4:]).AsUint8x32(), archsimd.LoadUint64x4Slice(g.bottom[i+4:]).AsUint8x32()
		fx, fy = archsimd.LoadUint64x4Slice(g.fx[i+4:]).AsUint16x16(), archsimd.LoadUint64x4Slice(g.fy[i+4:]).AsUint16x16()
		t = top.PermuteOrZeroGrouped(rl).AsUint16x16().Sub(top.PermuteOrZeroGrouped(ll).AsUint16x16()).Mul(fx).
			Add(top.PermuteOrZeroGrouped(lh).AsUint16x16()).Add(half).MulHigh(by256)
		b = bottom.PermuteOrZeroGrouped(rl).AsUint16x16().Sub(bottom.PermuteOrZeroGrouped(ll).AsUint16x16()).Mul(fx).
			Add(bottom.PermuteOrZeroGrouped(lh).AsUint16x16()).Add(half).MulHigh(by256)
		w := b.Sub(t).Mul(fy).Add(t.Mul(by256)).Add(half)
		v.AsUint8x32().PermuteOrZeroGrouped(first).Or(w.AsUint8x32().PermuteOrZeroGrouped(second)).StoreSlice(out[i*4:])
	}
	archsimd.ClearAVXUpperBits()
}

// roundVector rounds eight colours of the table at a time, as round8 does.
func (t *toned) roundVector(out []uint8, half *[8]uint16) {
	first, second := archsimd.LoadInt8x32(&highFirst), archsimd.LoadInt8x32(&highSecond)
	var spread [8]uint64
	for i, h := range half {
		spread[inPlace[i]] = uint64(h) * 0x0001000100010001
	}
	h0, h1 := archsimd.LoadUint64x4Slice(spread[:4]).AsUint16x16(), archsimd.LoadUint64x4Slice(spread[4:]).AsUint16x16()
	for i := 0; i*4+32 <= len(out); i += 8 {
		a := archsimd.LoadUint64x4Slice(t[i:]).AsUint16x16().Add(h0).AsUint8x32().PermuteOrZeroGrouped(first)
		b := archsimd.LoadUint64x4Slice(t[i+4:]).AsUint16x16().Add(h1).AsUint8x32().PermuteOrZeroGrouped(second)
		a.Or(b).StoreSlice(out[i*4:])
	}
	archsimd.ClearAVXUpperBits()
}

// radialVector finds where pixels of a row lie in the table of a radial gradient, as
// share does.
func (s *Shade) radialVector(at []int32, x, y float64, from int) int {
	n := len(at) &^ 3
	dx, dy := archsimd.BroadcastFloat64x4(s.inv.A), archsimd.BroadcastFloat64x4(s.inv.B)
	x0, y0 := archsimd.BroadcastFloat64x4(x), archsimd.BroadcastFloat64x4(y)
	step, i4 := archsimd.BroadcastFloat64x4(4), archsimd.LoadFloat64x4(&[4]float64{float64(from), float64(from + 1), float64(from + 2), float64(from + 3)})
	r, size, half := archsimd.BroadcastFloat64x4(s.r), archsimd.BroadcastFloat64x4(tableSize), archsimd.BroadcastFloat64x4(0.5)
	for i := 0; i < n; i += 4 {
		px, py := x0.Add(dx.Mul(i4)), y0.Add(dy.Mul(i4))
		t := px.Mul(px).Add(py.Mul(py)).Sqrt().Div(r)
		t.Mul(size).Add(half).Min(size).ConvertToInt32().StoreSlice(at[i:])
		i4 = i4.Add(step)
	}
	archsimd.ClearAVXUpperBits()
	return n
}

// conicVector does so for a conic gradient.
func (s *Shade) conicVector(at []int32, x, y float64, from int) int {
	n := len(at) &^ 3
	num := archsimd.BroadcastFloat64x4
	dx, dy, x0, y0 := num(s.inv.A), num(s.inv.B), num(x), num(y)
	step, i4 := num(4), archsimd.LoadFloat64x4(&[4]float64{float64(from), float64(from + 1), float64(from + 2), float64(from + 3)})
	size, half, zero, least := num(tableSize), num(0.5), num(0), num(math.SmallestNonzeroFloat64)
	c := [5]archsimd.Float64x4{num(atanTerms[0]), num(atanTerms[1]), num(atanTerms[2]), num(atanTerms[3]), num(atanTerms[4])}
	quarter, straight, whole, start := num(math.Pi/2), num(math.Pi), num(2*math.Pi), num(s.start)
	for i := 0; i < n; i += 4 {
		px, py := x0.Add(dx.Mul(i4)), y0.Add(dy.Mul(i4))
		a, b := px.Max(zero.Sub(px)), py.Max(zero.Sub(py))
		t := a.Min(b).Div(a.Max(b).Max(least))
		q := t.Mul(t)
		r := t.Mul(c[0].Add(q.Mul(c[1].Add(q.Mul(c[2].Add(q.Mul(c[3].Add(q.Mul(c[4])))))))))
		r = quarter.Sub(r).Merge(r, b.Greater(a))
		r = straight.Sub(r).Merge(r, px.Less(zero))
		r = zero.Sub(r).Merge(r, py.Less(zero))
		w := r.Sub(start).Div(whole)
		w = w.Sub(w.Floor())
		w.Mul(size).Add(half).Max(zero).Min(size).ConvertToInt32().StoreSlice(at[i:])
		i4 = i4.Add(step)
	}
	archsimd.ClearAVXUpperBits()
	return n
}

// runVector weighs runs of two rows, as lerpRun does, and says how many bytes it
// did. Both rows hold one pixel more than dst.
func runVector(dst, top, bottom []uint8, fx, fy uint64) int {
	k := newShares()
	x, y := archsimd.BroadcastUint16x16(uint16(fx)), archsimd.BroadcastUint16x16(uint16(fy))
	by256 := archsimd.BroadcastUint16x16(256)
	n := len(dst) &^ 31
	for i := 0; i < n; i += 32 {
		p, q := archsimd.LoadUint8x32Slice(top[i:]), archsimd.LoadUint8x32Slice(top[i+4:])
		pe, po := p.AsUint16x16().And(k.low), p.PermuteOrZeroGrouped(k.down).AsUint16x16()
		qe, qo := q.AsUint16x16().And(k.low), q.PermuteOrZeroGrouped(k.down).AsUint16x16()
		e := qe.Sub(pe).Mul(x).Add(pe.Mul(by256)).Add(k.half).MulHigh(by256)
		o := qo.Sub(po).Mul(x).Add(po.Mul(by256)).Add(k.half).MulHigh(by256)
		if fy != 0 {
			p, q = archsimd.LoadUint8x32Slice(bottom[i:]), archsimd.LoadUint8x32Slice(bottom[i+4:])
			pe, po = p.AsUint16x16().And(k.low), p.PermuteOrZeroGrouped(k.down).AsUint16x16()
			qe, qo = q.AsUint16x16().And(k.low), q.PermuteOrZeroGrouped(k.down).AsUint16x16()
			e2 := qe.Sub(pe).Mul(x).Add(pe.Mul(by256)).Add(k.half).MulHigh(by256)
			o2 := qo.Sub(po).Mul(x).Add(po.Mul(by256)).Add(k.half).MulHigh(by256)
			e = e2.Sub(e).Mul(y).Add(e.Mul(by256)).Add(k.half).MulHigh(by256)
			o = o2.Sub(o).Mul(y).Add(o.Mul(by256)).Add(k.half).MulHigh(by256)
		}
		e.AsUint8x32().Or(o.AsUint8x32().PermuteOrZeroGrouped(k.up)).StoreSlice(dst[i:])
	}
	archsimd.ClearAVXUpperBits()
	return n
}
