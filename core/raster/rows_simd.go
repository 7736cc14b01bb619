//go:build goexperiment.simd && amd64

package raster

import "simd/archsimd"

// vectors says whether rows are done with vector instructions: eight pixels at
// once, as sixteen pairs of bytes, first red and blue of each, then green and
// alpha, as scalePair does two. Shifts are done by shuffling and multiplying,
// because a shift's count takes an instruction of another set, which stalls.
var vectors = archsimd.X86.AVX2()

// shuffles of the bytes of four pixels; −1 is nothing.
var (
	// An alpha, or the lowest byte, for both of its pixel's pairs.
	alphaPairs = [32]int8{3, -1, 3, -1, 7, -1, 7, -1, 11, -1, 11, -1, 15, -1, 15, -1, 3, -1, 3, -1, 7, -1, 7, -1, 11, -1, 11, -1, 15, -1, 15, -1}
	lowPairs   = [32]int8{0, -1, 0, -1, 4, -1, 4, -1, 8, -1, 8, -1, 12, -1, 12, -1, 0, -1, 0, -1, 4, -1, 4, -1, 8, -1, 8, -1, 12, -1, 12, -1}
	// Each pair's upper byte put down, and its lower one put up.
	downwards = [32]int8{1, -1, 3, -1, 5, -1, 7, -1, 9, -1, 11, -1, 13, -1, 15, -1, 1, -1, 3, -1, 5, -1, 7, -1, 9, -1, 11, -1, 13, -1, 15, -1}
	upwards   = [32]int8{-1, 0, -1, 2, -1, 4, -1, 6, -1, 8, -1, 10, -1, 12, -1, 14, -1, 0, -1, 2, -1, 4, -1, 6, -1, 8, -1, 10, -1, 12, -1, 14}
)

// shares multiplies pixels by shares of 255.
type shares struct {
	low, half, by255 archsimd.Uint16x16
	down, up         archsimd.Int8x32
}

func newShares() shares {
	// (v + 128) · 257 ÷ 65536 is v ÷ 255, rounded, for products of two bytes.
	return shares{archsimd.BroadcastUint16x16(255), archsimd.BroadcastUint16x16(128), archsimd.BroadcastUint16x16(257),
		archsimd.LoadInt8x32(&downwards), archsimd.LoadInt8x32(&upwards)}
}

// of multiplies eight pixels by the share in each of their pairs.
func (k *shares) of(px archsimd.Uint8x32, share archsimd.Uint16x16) archsimd.Uint8x32 {
	rb := px.AsUint16x16().And(k.low).Mul(share).Add(k.half).MulHigh(k.by255)
	ag := px.PermuteOrZeroGrouped(k.down).AsUint16x16().Mul(share).Add(k.half).MulHigh(k.by255)
	return rb.AsUint8x32().Or(ag.AsUint8x32().PermuteOrZeroGrouped(k.up))
}

// overRowVector composites as many pixels as are a multiple of eight, and says
// how many bytes that was.
func overRowVector(dst, src []uint8) int {
	n := len(dst) &^ 31
	k := newShares()
	alpha := archsimd.LoadInt8x32(&alphaPairs)
	for i := 0; i < n; i += 32 {
		s := archsimd.LoadUint8x32Slice(src[i:])
		if s.IsZero() {
			continue
		}
		rest := k.low.Sub(s.PermuteOrZeroGrouped(alpha).AsUint16x16())
		s.Add(k.of(archsimd.LoadUint8x32Slice(dst[i:]), rest)).StoreSlice(dst[i:])
	}
	archsimd.ClearAVXUpperBits()
	return n
}

// overFlatVector composites one pixel, whose alpha is below 255, on many.
func overFlatVector(dst []uint8, px uint32) int {
	n := len(dst) &^ 31
	k := newShares()
	s := archsimd.BroadcastUint32x8(px).AsUint8x32()
	rest := archsimd.BroadcastUint16x16(uint16(255 - px>>24))
	for i := 0; i < n; i += 32 {
		s.Add(k.of(archsimd.LoadUint8x32Slice(dst[i:]), rest)).StoreSlice(dst[i:])
	}
	archsimd.ClearAVXUpperBits()
	return n
}

// fadeRowVector multiplies pixels by a share of 255.
func fadeRowVector(px []uint8, alpha uint32) int {
	n := len(px) &^ 31
	k := newShares()
	share := archsimd.BroadcastUint16x16(uint16(alpha))
	for i := 0; i < n; i += 32 {
		k.of(archsimd.LoadUint8x32Slice(px[i:]), share).StoreSlice(px[i:])
	}
	archsimd.ClearAVXUpperBits()
	return n
}

// coverRowVector multiplies pixels by a share of 255 each, and says how many
// pixels it did.
func coverRowVector(px, cov []uint8) int {
	k := newShares()
	low := archsimd.LoadInt8x32(&lowPairs)
	i := 0
	for ; i+16 <= len(cov); i += 8 { // sixteen are read, the first eight used
		share := archsimd.LoadUint8x16Slice(cov[i:]).ExtendLo8ToUint32().AsUint8x32().PermuteOrZeroGrouped(low).AsUint16x16()
		k.of(archsimd.LoadUint8x32Slice(px[i*4:]), share).StoreSlice(px[i*4:])
	}
	archsimd.ClearAVXUpperBits()
	return i
}
