//go:build goexperiment.simd && amd64

package raster

import "simd/archsimd"

// upperBytes puts the third byte of each of four numbers of 32 bits side by side.
var upperBytes = [16]int8{2, 6, 10, 14, -1, -1, -1, -1, -1, -1, -1, -1, -1, -1, -1, -1}

// rowVector grades opaque pixels from the first on, and says how many bytes they
// were: each channel's number adds to all four of the result.
func (g *Grader) rowVector(px []uint8) int {
	zero, full, half := archsimd.BroadcastInt32x4(0), archsimd.BroadcastInt32x4(255<<16), archsimd.BroadcastInt32x4(1<<15)
	third := archsimd.LoadInt8x16(&upperBytes)
	i := 0
	for ; i+4 <= len(px); i += 4 {
		v := load(px, i)
		if v>>24 != 255 {
			break
		}
		c := archsimd.LoadInt32x4(&g.sums[0][v&255]).Add(archsimd.LoadInt32x4(&g.sums[1][v>>8&255])).Add(archsimd.LoadInt32x4(&g.sums[2][v>>16&255]))
		store(px, i, c.Max(zero).Min(full).Add(half).AsUint8x16().PermuteOrZero(third).AsUint32x4().GetElem(0))
	}
	archsimd.ClearAVXUpperBits()
	return i
}

// Weights of luminance for pairs of channels, red with green and green with blue:
// green's are split, as one alone is too large for a pair.
var (
	lumaFirst  = [16]int16{13933, 23436, 13933, 23436, 13933, 23436, 13933, 23436, 13933, 23436, 13933, 23436, 13933, 23436, 13933, 23436}
	lumaSecond = [16]int16{23435, 4732, 23435, 4732, 23435, 4732, 23435, 4732, 23435, 4732, 23435, 4732, 23435, 4732, 23435, 4732}
	redGreen   = [32]int8{0, -1, 1, -1, 4, -1, 5, -1, 8, -1, 9, -1, 12, -1, 13, -1, 0, -1, 1, -1, 4, -1, 5, -1, 8, -1, 9, -1, 12, -1, 13, -1}
	greenBlue  = [32]int8{1, -1, 2, -1, 5, -1, 6, -1, 9, -1, 10, -1, 13, -1, 14, -1, 1, -1, 2, -1, 5, -1, 6, -1, 9, -1, 10, -1, 13, -1, 14, -1}
	thirds     = [32]int8{2, 6, 10, 14, -1, -1, -1, -1, -1, -1, -1, -1, -1, -1, -1, -1, 2, 6, 10, 14, -1, -1, -1, -1, -1, -1, -1, -1, -1, -1, -1, -1}
	fourths    = [32]int8{3, 7, 11, 15, -1, -1, -1, -1, -1, -1, -1, -1, -1, -1, -1, -1, 3, 7, 11, 15, -1, -1, -1, -1, -1, -1, -1, -1, -1, -1, -1, -1}
)

// matteVector makes coverage of as many pixels of a row as are a multiple of eight,
// and says how many that was.
func matteVector(to, row []uint8, luma bool) int {
	n := len(to) &^ 7
	last := archsimd.LoadInt8x32(&fourths)
	if luma {
		last = archsimd.LoadInt8x32(&thirds)
	}
	rg, gb := archsimd.LoadInt8x32(&redGreen), archsimd.LoadInt8x32(&greenBlue)
	first, second := archsimd.LoadInt16x16(&lumaFirst), archsimd.LoadInt16x16(&lumaSecond)
	half := archsimd.BroadcastInt32x8(32768)
	for i := 0; i < n; i += 8 {
		v := archsimd.LoadUint8x32Slice(row[i*4:])
		if luma {
			v = v.PermuteOrZeroGrouped(rg).AsInt16x16().DotProductPairs(first).
				Add(v.PermuteOrZeroGrouped(gb).AsInt16x16().DotProductPairs(second)).Add(half).AsUint8x32()
		}
		v = v.PermuteOrZeroGrouped(last)
		store(to, i, v.GetLo().AsUint32x4().GetElem(0))
		store(to, i+4, v.GetHi().AsUint32x4().GetElem(0))
	}
	archsimd.ClearAVXUpperBits()
	return n
}

// mulCoverVector multiplies as much coverage by coverage as is a multiple of 16, and
// says how much that was.
func mulCoverVector(dst, by []uint8) int {
	n := len(dst) &^ 15
	half, by257 := archsimd.BroadcastUint16x16(128), archsimd.BroadcastUint16x16(257)
	first := archsimd.LoadInt8x32(&lowFirst)
	for i := 0; i < n; i += 16 {
		v := archsimd.LoadUint8x16Slice(dst[i:]).ExtendToUint16().Mul(archsimd.LoadUint8x16Slice(by[i:]).ExtendToUint16()).
			Add(half).MulHigh(by257).AsUint8x32().PermuteOrZeroGrouped(first)
		putPair(dst, i, v.GetLo().AsUint64x2().GetElem(0))
		putPair(dst, i+8, v.GetHi().AsUint64x2().GetElem(0))
	}
	archsimd.ClearAVXUpperBits()
	return n
}

// mixRowVector goes from dst to src as mixRow does, and says how many pixels it did.
func mixRowVector(dst, src, cov []uint8) int {
	k := newShares()
	low := archsimd.LoadInt8x32(&lowPairs)
	i := 0
	for ; i+16 <= len(cov); i += 8 { // sixteen are read, the first eight used
		share := archsimd.LoadUint8x16Slice(cov[i:]).ExtendLo8ToUint32().AsUint8x32().PermuteOrZeroGrouped(low).AsUint16x16()
		rest := k.low.Sub(share)
		s, d := archsimd.LoadUint8x32Slice(src[i*4:]), archsimd.LoadUint8x32Slice(dst[i*4:])
		rb := s.AsUint16x16().And(k.low).Mul(share).Add(d.AsUint16x16().And(k.low).Mul(rest)).Add(k.half).MulHigh(k.by255)
		ag := s.PermuteOrZeroGrouped(k.down).AsUint16x16().Mul(share).Add(d.PermuteOrZeroGrouped(k.down).AsUint16x16().Mul(rest)).Add(k.half).MulHigh(k.by255)
		rb.AsUint8x32().Or(ag.AsUint8x32().PermuteOrZeroGrouped(k.up)).StoreSlice(dst[i*4:])
	}
	archsimd.ClearAVXUpperBits()
	return i
}
