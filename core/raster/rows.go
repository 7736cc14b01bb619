package raster

import "encoding/binary"

// Rows of premultiplied pixels. Each of these loops has a twin in vector
// instructions with the same bits, where the machine has them.

// overRow composites src on dst; both have the same length.
func overRow(dst, src []uint8) {
	n := len(dst) &^ 7
	if vectors {
		n = overRowVector(dst, src)
		dst, src = dst[n:], src[n:]
		n = len(dst) &^ 7
	}
	src = src[:len(dst)]
	for i := 0; i < n; i += 8 {
		s := binary.LittleEndian.Uint64(src[i:])
		a0, a1 := s>>24&255, s>>56
		switch {
		case a0&a1 == 255:
			binary.LittleEndian.PutUint64(dst[i:], s)
			continue
		case s == 0:
			continue
		}
		binary.LittleEndian.PutUint64(dst[i:], s+scalePair(binary.LittleEndian.Uint64(dst[i:]), 255-a0, 255-a1))
	}
	if n < len(dst) {
		store(dst, n, over(load(src, n), load(dst, n)))
	}
}

// overFlatRow composites one pixel that is not opaque on many.
func overFlatRow(dst []uint8, px uint32) {
	if vectors {
		dst = dst[overFlatVector(dst, px):]
	}
	for i := 0; i+3 < len(dst); i += 4 {
		store(dst, i, over(px, load(dst, i)))
	}
}

// scalePair multiplies two packed pixels by two numbers ÷ 255, rounded, as
// scale255 does each of them.
func scalePair(p, a0, a1 uint64) uint64 {
	const mask = 0x00ff00ff00ff00ff
	const half = 0x0080008000800080
	rb, ag := p&mask, p>>8&mask
	rb = rb&0xffffffff*a0 | rb>>32*a1<<32
	ag = ag&0xffffffff*a0 | ag>>32*a1<<32
	rb += half
	ag += half
	rb = (rb + rb>>8&mask) >> 8 & mask
	ag = (ag + ag>>8&mask) &^ mask
	return rb | ag
}

// fadeRow multiplies pixels by a share of 255.
func fadeRow(px []uint8, alpha uint32) {
	if alpha >= 255 {
		return
	}
	if vectors {
		px = px[fadeRowVector(px, alpha):]
	}
	for i := 0; i+3 < len(px); i += 4 {
		store(px, i, scale255(load(px, i), alpha))
	}
}

// coverRow multiplies pixels by one share of 255 each.
func coverRow(px, cov []uint8) {
	if vectors {
		n := coverRowVector(px, cov)
		px, cov = px[n*4:], cov[n:]
	}
	for i, c := range cov {
		switch c {
		case 255:
		case 0:
			store(px, i*4, 0)
		default:
			store(px, i*4, scale255(load(px, i*4), uint32(c)))
		}
	}
}

// mulCover multiplies coverage by coverage.
func mulCover(dst, by []uint8) {
	by = by[:len(dst)]
	if vectors {
		n := mulCoverVector(dst, by)
		dst, by = dst[n:], by[n:]
	}
	for i, c := range by {
		switch c {
		case 255:
		case 0:
			dst[i] = 0
		default:
			dst[i] = mul255(uint32(dst[i]), uint32(c))
		}
	}
}

// mixRow goes from dst to src by a share of 255 for each pixel: what a group
// that began with its backdrop leaves there.
func mixRow(dst, src, cov []uint8) {
	if vectors {
		n := mixRowVector(dst, src, cov)
		dst, src, cov = dst[n*4:], src[n*4:], cov[n:]
	}
	for i, c := range cov {
		switch c {
		case 0:
		case 255:
			store(dst, i*4, load(src, i*4))
		default:
			// One rounding for both, so that equal pixels stay as they are.
			for k := i * 4; k < i*4+4; k++ {
				t := uint32(src[k])*uint32(c) + uint32(dst[k])*uint32(255-c) + 128
				dst[k] = uint8((t + t>>8) >> 8)
			}
		}
	}
}

// fillRow fills with one pixel.
func fillRow(dst []uint8, px uint32) {
	if len(dst) == 0 {
		return
	}
	store(dst, 0, px)
	for n := 4; n < len(dst); n *= 2 {
		copy(dst[n:], dst[:n])
	}
}
