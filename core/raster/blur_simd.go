//go:build goexperiment.simd && amd64

package raster

import "simd/archsimd"

// sixteen numbers of 16 bits as two registers of 32: the first, second, fifth and
// sixth four of them would stand apart, so that joined come out in order.
func parted(v []uint16, zero archsimd.Uint16x16) (a, b archsimd.Int32x8) {
	x := archsimd.LoadUint16x16Slice(v)
	return x.InterleaveLoGrouped(zero).AsInt32x8(), x.InterleaveHiGrouped(zero).AsInt32x8()
}

// boxVector is boxColumn for sixteen columns side by side.
func boxVector(to, from []uint16, stride, n int, b box) {
	zero := archsimd.BroadcastUint16x16(0)
	none := zero.AsInt32x8()
	full, end, half := archsimd.BroadcastFloat32x8(b.full), archsimd.BroadcastFloat32x8(b.end), archsimd.BroadcastFloat32x8(0.5)
	s0, s1 := none, none
	for i := range min(b.r, n) {
		x, y := parted(from[i*stride:], zero)
		s0, s1 = s0.Add(x), s1.Add(y)
	}
	for i := range n {
		e0, e1 := none, none
		if k := i - b.r - 1; k >= 0 {
			e0, e1 = parted(from[k*stride:], zero)
			s0, s1 = s0.Sub(e0), s1.Sub(e1)
		}
		if k := i + b.r; k < n {
			x, y := parted(from[k*stride:], zero)
			s0, s1 = s0.Add(x), s1.Add(y)
			if k++; k < n {
				x, y = parted(from[k*stride:], zero)
				e0, e1 = e0.Add(x), e1.Add(y)
			}
		}
		t0 := s0.ConvertToFloat32().Mul(full).Add(e0.ConvertToFloat32().Mul(end)).Add(half).ConvertToInt32()
		t1 := s1.ConvertToFloat32().Mul(full).Add(e1.ConvertToFloat32().Mul(end)).Add(half).ConvertToInt32()
		t0.SaturateToUint16ConcatGrouped(t1).StoreSlice(to[i*stride:])
	}
	archsimd.ClearAVXUpperBits()
}

// kernelVector is kernelColumn for sixteen columns side by side.
func kernelVector(to, from []uint16, stride, n int, k []float32) {
	zero := archsimd.BroadcastUint16x16(0)
	half := archsimd.BroadcastFloat32x8(0.5)
	for i := range n {
		x, y := parted(from[i*stride:], zero)
		w := archsimd.BroadcastFloat32x8(k[0])
		s0, s1 := x.ConvertToFloat32().Mul(w), y.ConvertToFloat32().Mul(w)
		for d := 1; d < len(k); d++ {
			x, y = zero.AsInt32x8(), zero.AsInt32x8()
			if i >= d {
				x, y = parted(from[(i-d)*stride:], zero)
			}
			if i+d < n {
				u, v := parted(from[(i+d)*stride:], zero)
				x, y = x.Add(u), y.Add(v)
			}
			w := archsimd.BroadcastFloat32x8(k[d])
			s0, s1 = s0.Add(x.ConvertToFloat32().Mul(w)), s1.Add(y.ConvertToFloat32().Mul(w))
		}
		s0.Add(half).ConvertToInt32().SaturateToUint16ConcatGrouped(s1.Add(half).ConvertToInt32()).StoreSlice(to[i*stride:])
	}
	archsimd.ClearAVXUpperBits()
}

// meanVector is the mean of w × h pixels of four channels, w of them even, in rows a
// stride apart; by is 1 ÷ how many they are.
func meanVector(from []uint16, stride, w, h int, by float32) [4]uint16 {
	sum := archsimd.BroadcastUint32x8(0)
	for y := range h {
		row := from[y*stride:]
		for x := 0; x < w; x += 2 {
			sum = sum.Add(archsimd.LoadUint16x8Slice(row[4*x:]).ExtendToUint32())
		}
	}
	t := sum.GetLo().Add(sum.GetHi()).AsInt32x4().ConvertToFloat32().Mul(archsimd.BroadcastFloat32x4(by)).
		Add(archsimd.BroadcastFloat32x4(0.5)).ConvertToInt32().AsUint8x16().PermuteOrZero(archsimd.LoadInt8x16(&lowHalves)).AsUint64x2().GetElem(0)
	archsimd.ClearAVXUpperBits()
	return [4]uint16{uint16(t), uint16(t >> 16), uint16(t >> 32), uint16(t >> 48)}
}

// lowHalves puts the lower halves of four numbers of 32 bits side by side.
var lowHalves = [16]int8{0, 1, 4, 5, 8, 9, 12, 13, -1, -1, -1, -1, -1, -1, -1, -1}

// lineVector goes from one row to another by fy of n, and says for how many numbers.
func lineVector(line []int32, top, low []uint16, n, fy int32) int {
	a, b := archsimd.BroadcastInt32x8(n-fy), archsimd.BroadcastInt32x8(fy)
	end := len(top) &^ 7
	for i := 0; i < end; i += 8 {
		t, l := archsimd.LoadUint16x8Slice(top[i:]).ExtendToUint32().AsInt32x8(), archsimd.LoadUint16x8Slice(low[i:]).ExtendToUint32().AsInt32x8()
		t.Mul(a).Add(l.Mul(b)).StoreSlice(line[i:])
	}
	archsimd.ClearAVXUpperBits()
	return end
}

// growVector goes from each pixel of a line to the next in f steps, as many whole ways
// as have room, and says how many pixels it made.
func growVector(out []uint16, line []int32, f int) int {
	n := float32(2 * f)
	var here, there [4]archsimd.Float32x8 // weights of two pixels each
	for k := range f / 2 {
		a, b := float32(4*k+1), float32(4*k+3)
		there[k] = archsimd.BroadcastFloat32x8(a).SetHi(archsimd.BroadcastFloat32x4(b))
		here[k] = archsimd.BroadcastFloat32x8(n - a).SetHi(archsimd.BroadcastFloat32x4(n - b))
	}
	by, half := archsimd.BroadcastFloat32x8(1/(n*n)), archsimd.BroadcastFloat32x8(0.5)
	low := archsimd.LoadInt8x32(&lowHalvesTwice)
	done := 0
	var a, b archsimd.Float32x8
	for ; len(line) >= 8 && len(out) >= 4*f; line = line[4:] {
		x, y := archsimd.LoadInt32x4Slice(line).ConvertToFloat32(), archsimd.LoadInt32x4Slice(line[4:]).ConvertToFloat32()
		a, b = a.SetLo(x).SetHi(x), b.SetLo(y).SetHi(y)
		for k := range f / 2 {
			v := a.Mul(here[k]).Add(b.Mul(there[k])).Mul(by).Add(half).ConvertToInt32().AsUint8x32().PermuteOrZeroGrouped(low)
			lo, hi := v.GetLo().AsUint64x2().GetElem(0), v.GetHi().AsUint64x2().GetElem(0)
			*(*[4]uint16)(out[8*k:]) = [4]uint16{uint16(lo), uint16(lo >> 16), uint16(lo >> 32), uint16(lo >> 48)}
			*(*[4]uint16)(out[8*k+4:]) = [4]uint16{uint16(hi), uint16(hi >> 16), uint16(hi >> 32), uint16(hi >> 48)}
		}
		out = out[4*f:]
		done += f
	}
	archsimd.ClearAVXUpperBits()
	return done
}

// growOneVector is growVector for one channel and steps of eight, or of four.
func growOneVector(out []uint16, line []int32, f int) int {
	n := float32(2 * f)
	var there, here [8]float32
	for k := range there {
		there[k] = float32(2*(k%f) + 1)
		here[k] = n - there[k]
	}
	t, h := archsimd.LoadFloat32x8(&there), archsimd.LoadFloat32x8(&here)
	by, half := archsimd.BroadcastFloat32x8(1/(n*n)), archsimd.BroadcastFloat32x8(0.5)
	done := 0
	for ; len(line) > 8/f && len(out) >= 8; line = line[8/f:] {
		l0, l1 := float32(line[0]), float32(line[1])
		a, b := archsimd.BroadcastFloat32x8(l0), archsimd.BroadcastFloat32x8(l1)
		if f == 4 {
			a, b = a.SetHi(archsimd.BroadcastFloat32x4(l1)), b.SetHi(archsimd.BroadcastFloat32x4(float32(line[2])))
		}
		v := a.Mul(h).Add(b.Mul(t)).Mul(by).Add(half).ConvertToInt32()
		v.GetLo().SaturateToUint16Concat(v.GetHi()).StoreSlice(out)
		out = out[8:]
		done += 8
	}
	archsimd.ClearAVXUpperBits()
	return done
}

var lowHalvesTwice = [32]int8{0, 1, 4, 5, 8, 9, 12, 13, -1, -1, -1, -1, -1, -1, -1, -1, 0, 1, 4, 5, 8, 9, 12, 13, -1, -1, -1, -1, -1, -1, -1, -1}

// widenVector makes bytes numbers of 16 bits, and says how many it did.
func widenVector(to []uint16, from []uint8) int {
	n := len(from) &^ 15
	by := archsimd.BroadcastUint16x16(257)
	for i := 0; i < n; i += 16 {
		archsimd.LoadUint8x16Slice(from[i:]).ExtendToUint16().Mul(by).StoreSlice(to[i:])
	}
	archsimd.ClearAVXUpperBits()
	return n
}

// narrowVector makes numbers of 16 bits bytes with thresholds that come again after
// four pixels, and says how many pixels it did.
func narrowVector(to []uint8, from []uint16, t *[4]uint32) int {
	var lines [16]uint16
	for i := range lines {
		lines[i] = uint16(t[i/4])
	}
	line, by := archsimd.LoadUint16x16(&lines), archsimd.BroadcastUint16x16(65281) // ÷ 257, 8 bits up
	upper := archsimd.LoadInt8x32(&highFirst)
	n := len(to) / 16
	for i := range n {
		v := archsimd.LoadUint16x16Slice(from[16*i:]).AddSaturated(line).MulHigh(by).AsUint8x32().PermuteOrZeroGrouped(upper)
		putPair(to, 16*i, v.GetLo().AsUint64x2().GetElem(0))
		putPair(to, 16*i+8, v.GetHi().AsUint64x2().GetElem(0))
	}
	archsimd.ClearAVXUpperBits()
	return 4 * n
}

// boundsVector is bounds for nine distances in two rows.
func boundsVector(a, b []float32) (lo, hi float32) {
	w, x := archsimd.LoadFloat32x8Slice(a), archsimd.LoadFloat32x8Slice(b)
	y, z := archsimd.LoadFloat32x8Slice(a[1:]), archsimd.LoadFloat32x8Slice(b[1:])
	l, h := w.Min(x).Min(y.Min(z)), w.Max(x).Max(y.Max(z))
	var least, most [4]float32
	l.GetLo().Min(l.GetHi()).Store(&least)
	h.GetLo().Max(h.GetHi()).Store(&most)
	archsimd.ClearAVXUpperBits()
	return min(least[0], least[1], least[2], least[3]), max(most[0], most[1], most[2], most[3])
}

// Of each number of 32 bits: its upper half, and its highest byte, where the lower ones
// were or where one of a pixel's channels stands.
var (
	upperHalves = bytesOfEach(2, 3, -1, -1)
	topBytes    = [4][32]int8{bytesOfEach(3, -1, -1, -1), bytesOfEach(-1, 3, -1, -1), bytesOfEach(-1, -1, 3, -1), bytesOfEach(-1, -1, -1, 3)}
)

// bytesOfEach says which bytes of each of eight numbers of 32 bits go where.
func bytesOfEach(a, b, c, d int8) (out [32]int8) {
	for i := range int8(8) {
		for k, v := range [4]int8{a, b, c, d} {
			if v >= 0 {
				v += i % 4 * 4
			}
			out[4*int(i)+k] = v
		}
	}
	return
}

// sharer multiplies shares of 65535 as share16 does.
type sharer struct {
	half  archsimd.Int32x8
	upper archsimd.Int8x32
}

func (k *sharer) share(a, b archsimd.Int32x8) archsimd.Int32x8 {
	t := a.Mul(b).Add(k.half)
	return t.Add(t.AsUint8x32().PermuteOrZeroGrouped(k.upper).AsInt32x8()).AsUint8x32().PermuteOrZeroGrouped(k.upper).AsInt32x8()
}

// underVector is Under of a surface for as many pixels as are a multiple of eight, with
// thresholds that come again after four, and says how many it did.
func underVector(to []uint8, shade []uint16, c *[4]uint32, t *[4]uint32) int {
	k := sharer{archsimd.BroadcastInt32x8(1 << 15), archsimd.LoadInt8x32(&upperHalves)}
	// v × 65281 ÷ 2²⁴ is v ÷ 257 for what is at most 65535 and a threshold.
	by := archsimd.BroadcastInt32x8(65281)
	most, up := archsimd.BroadcastInt32x8(65535), archsimd.BroadcastInt32x8(257)
	line := archsimd.LoadInt32x8(&[8]int32{int32(t[0]), int32(t[1]), int32(t[2]), int32(t[3]), int32(t[0]), int32(t[1]), int32(t[2]), int32(t[3])})
	c0, c1, c2, c3 := archsimd.BroadcastInt32x8(int32(c[0])), archsimd.BroadcastInt32x8(int32(c[1])), archsimd.BroadcastInt32x8(int32(c[2])), archsimd.BroadcastInt32x8(int32(c[3]))
	b0, b1, b2, b3 := archsimd.LoadInt8x32(&topBytes[0]), archsimd.LoadInt8x32(&topBytes[1]), archsimd.LoadInt8x32(&topBytes[2]), archsimd.LoadInt8x32(&topBytes[3])
	n := len(shade) &^ 7
	for x := 0; x < n; x += 8 {
		m := archsimd.LoadUint16x8Slice(shade[x:])
		if m.IsZero() {
			continue
		}
		px := archsimd.LoadUint8x32Slice(to[4*x:])
		rest := most.Sub(px.PermuteOrZeroGrouped(b0).AsInt32x8().Mul(up))
		s := k.share(m.ExtendToUint32().AsInt32x8(), rest)
		if s.IsZero() {
			continue
		}
		r := k.share(c0, s).Add(line).Mul(by).AsUint8x32().PermuteOrZeroGrouped(b0)
		g := k.share(c1, s).Add(line).Mul(by).AsUint8x32().PermuteOrZeroGrouped(b1)
		b := k.share(c2, s).Add(line).Mul(by).AsUint8x32().PermuteOrZeroGrouped(b2)
		a := k.share(c3, s).Add(line).Mul(by).AsUint8x32().PermuteOrZeroGrouped(b3)
		px.Add(r.Or(g).Or(b).Or(a)).StoreSlice(to[4*x:])
	}
	archsimd.ClearAVXUpperBits()
	return n
}

// addAlphaVector adds by times the alpha of as many pixels as are a multiple of eight,
// and says how many it did.
func addAlphaVector(to []uint32, px []uint8, by uint32) int {
	n := min(len(to), len(px)/4) &^ 7
	k, top := archsimd.BroadcastInt32x8(int32(by)), archsimd.LoadInt8x32(&topBytes[0])
	for i := 0; i < n; i += 8 {
		a := archsimd.LoadUint8x32Slice(px[4*i:]).PermuteOrZeroGrouped(top).AsInt32x8()
		archsimd.LoadUint32x8Slice(to[i:]).Add(a.Mul(k).AsUint32x8()).StoreSlice(to[i:])
	}
	archsimd.ClearAVXUpperBits()
	return n
}

// betweenVector goes from each number of a line to the one before it by fx of 256, for
// as many as are a multiple of eight, and says how many that was. The numbers are at
// most 65535 × 256, so that what they come to fits into 32 bits.
func betweenVector(to []uint16, line []uint32, fx uint32) int {
	n := len(to) &^ 7
	here, before := archsimd.BroadcastInt32x8(int32(256-fx)), archsimd.BroadcastInt32x8(int32(fx))
	half, upper := archsimd.BroadcastInt32x8(1<<15), archsimd.LoadInt8x32(&upperHalves)
	for i := 0; i < n; i += 8 {
		a, b := archsimd.LoadUint32x8Slice(line[i+1:]).AsInt32x8(), archsimd.LoadUint32x8Slice(line[i:]).AsInt32x8()
		v := a.Mul(here).Add(b.Mul(before)).Add(half).AsUint8x32().PermuteOrZeroGrouped(upper).AsInt32x8()
		v.GetLo().SaturateToUint16Concat(v.GetHi()).StoreSlice(to[i:])
	}
	archsimd.ClearAVXUpperBits()
	return n
}

// nearVector puts the squares of distances from a piece of an outline in the place of greater
// ones, of as many points of a row as are a multiple of four, and says how many that was. It
// reckons as the loop over single points does, to the last bit.
func nearVector(row []float32, from int, p piece) int {
	n := len(row) &^ 3
	if n == 0 {
		return 0
	}
	at := archsimd.LoadFloat64x4(&[4]float64{float64(from), float64(from + 1), float64(from + 2), float64(from + 3)})
	four := archsimd.BroadcastFloat64x4(4)
	x0, step, ax := archsimd.BroadcastFloat64x4(p.x0), archsimd.BroadcastFloat64x4(p.step), archsimd.BroadcastFloat64x4(p.ax)
	dx, dy, len2 := archsimd.BroadcastFloat64x4(p.dx), archsimd.BroadcastFloat64x4(p.dy), archsimd.BroadcastFloat64x4(p.len2)
	py, down := archsimd.BroadcastFloat64x4(p.py), archsimd.BroadcastFloat64x4(p.py*p.dy)
	zero, one := archsimd.BroadcastFloat64x4(0), archsimd.BroadcastFloat64x4(1)
	for i := 0; i < n; i += 4 {
		px := x0.Add(at.Mul(step)).Sub(ax)
		t := px.Mul(dx).Add(down).Div(len2).Min(one).Max(zero)
		ex, ey := px.Sub(t.Mul(dx)), py.Sub(t.Mul(dy))
		d := ex.Mul(ex).Add(ey.Mul(ey)).ConvertToFloat32()
		d.Min(archsimd.LoadFloat32x4Slice(row[i:])).StoreSlice(row[i:])
		at = at.Add(four)
	}
	archsimd.ClearAVXUpperBits()
	return n
}

// rootsVector takes the roots of as many numbers as are a multiple of eight, with a sign,
// and says how many that was.
func rootsVector(v []float32, sign float32) int {
	n := len(v) &^ 7
	k := archsimd.BroadcastFloat32x8(sign)
	for i := 0; i < n; i += 8 {
		archsimd.LoadFloat32x8Slice(v[i:]).Sqrt().Mul(k).StoreSlice(v[i:])
	}
	archsimd.ClearAVXUpperBits()
	return n
}
