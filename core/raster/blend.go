package raster

import (
	"math"
	"sync"
)

// Blend is how colours join those below them.
type Blend uint8

// The modes of W3C Compositing and Blending Level 1, section 10, and add, which
// is plus-lighter of Level 2, in the order of their names below.
const (
	Normal Blend = iota
	Multiply
	Screen
	Overlay
	Darken
	Lighten
	ColorDodge
	ColorBurn
	HardLight
	SoftLight
	Difference
	Exclusion
	Hue
	Saturation
	Color
	Luminosity
	Add
)

var blendNames = [...]string{"normal", "multiply", "screen", "overlay", "darken", "lighten", "color-dodge", "color-burn",
	"hard-light", "soft-light", "difference", "exclusion", "hue", "saturation", "color", "luminosity", "add"}

// ParseBlend reads a mode's name; any other is normal.
func ParseBlend(name string) Blend {
	for i, n := range blendNames {
		if n == name {
			return Blend(i)
		}
	}
	return Normal
}

func (b Blend) String() string { return blendNames[b] }

// blendRow composites src on dst in a mode. All of them follow section 9.1.4,
// co = cs·αs·(1 − αb) + cb·αb·(1 − αs) + αs·αb·B(cb, cs), in premultiplied
// numbers: S(1 − αb) + D(1 − αs) + αs·αb·B(D/αb, S/αs).
func blendRow(dst, src []uint8, mode Blend) {
	if mode == Normal {
		overRow(dst, src)
		return
	}
	if vectors {
		n := blendRowVector(dst, src, mode)
		dst, src = dst[n:], src[n:]
	}
	if mode == Add {
		for i := range dst {
			dst[i] = uint8(min(255, uint32(dst[i])+uint32(src[i])))
		}
		return
	}
	separable := mode < Hue
	var both *[256][256]uint8
	if separable {
		both = opaquePairs[mode]()
	}
	for i := 0; i+3 < len(dst); i += 4 {
		sa, da := uint32(src[i+3]), uint32(dst[i+3])
		if sa == 0 {
			continue
		}
		if separable && sa&da == 255 {
			dst[i], dst[i+1], dst[i+2] = both[src[i]][dst[i]], both[src[i+1]][dst[i+1]], both[src[i+2]][dst[i+2]]
			continue
		}
		if da == 0 {
			copy(dst[i:i+4], src[i:i+4])
			continue
		}
		if separable {
			for k := i; k < i+3; k++ {
				dst[k] = blendChannel(mode, uint32(src[k]), uint32(dst[k]), sa, da)
			}
		} else {
			blendHue(mode, dst[i:i+4:i+4], src[i:i+4:i+4])
		}
		dst[i+3] = uint8(sa + da - uint32(mul255(sa, da)))
	}
}

// opaquePairs holds what separable modes make of a channel of an opaque source
// and one of an opaque backdrop, made when it is first needed.
var opaquePairs = func() (all [Hue]func() *[256][256]uint8) {
	for mode := range Hue {
		all[mode] = sync.OnceValue(func() *[256][256]uint8 {
			var t [256][256]uint8
			for s := range t {
				for d := range t[s] {
					t[s][d] = blendChannel(mode, uint32(s), uint32(d), 255, 255)
				}
			}
			return &t
		})
	}
	return
}()

// flatBlend holds what a separable mode makes of one pixel on opaque ones, by
// the value of each channel of what is below.
type flatBlend struct {
	px    uint32
	mode  Blend
	table [3][256]uint32 // in its channel's place, the first with the alpha of an opaque pixel
}

// row composites the pixel on many.
func (f *flatBlend) row(dst []uint8, px uint32, mode Blend) {
	sa := px >> 24
	if sa == 0 {
		return
	}
	if f.px != px || f.mode != mode {
		f.px, f.mode = px, mode
		for k := range f.table {
			for d := range f.table[k] {
				f.table[k][d] = uint32(blendChannel(mode, px>>(8*k)&255, uint32(d), sa, 255)) << (8 * k)
				if k == 0 {
					f.table[k][d] |= 255 << 24
				}
			}
		}
	}
	for i := 0; i+3 < len(dst); i += 4 {
		v := load(dst, i)
		switch da := v >> 24; da {
		case 255:
			store(dst, i, f.table[0][v&255]|f.table[1][v>>8&255]|f.table[2][v>>16&255])
		case 0:
			store(dst, i, px)
		default:
			for k := range 3 {
				dst[i+k] = blendChannel(mode, px>>(8*k)&255, uint32(dst[i+k]), sa, da)
			}
			dst[i+3] = uint8(sa + da - uint32(mul255(sa, da)))
		}
	}
}

// div255 is v/255, rounded, for v up to 4·255².
func div255(v uint32) uint32 { return (v + 127) / 255 }

// blendChannel is one premultiplied channel of a separable mode.
func blendChannel(mode Blend, s, d, sa, da uint32) uint8 {
	// rest is what does not overlap, 255 times over.
	rest := s*(255-da) + d*(255-sa)
	var b uint32 // αs·αb·B, 255 times over
	switch mode {
	case Multiply:
		b = s * d
	case Screen:
		return uint8(s + d - uint32(mul255(s, d)))
	case Overlay:
		b = hardLight(d, s, da, sa)
	case HardLight:
		b = hardLight(s, d, sa, da)
	case Darken:
		b = min(s*da, d*sa)
	case Lighten:
		b = max(s*da, d*sa)
	case Difference:
		b = max(s*da, d*sa) - min(s*da, d*sa)
	case Exclusion:
		b = s*da + d*sa - 2*s*d
	case ColorDodge:
		b = dodge(s, d, sa, da)
	case ColorBurn:
		b = sa*da - dodge(sa-s, da-d, sa, da)
	case SoftLight:
		if sa > 0 && da > 0 {
			b = uint32(softLight(float64(s)/float64(sa), float64(d)/float64(da))*float64(sa*da) + 0.5)
		}
	}
	return uint8(min(255, div255(rest+b)))
}

// hardLight multiplies where the source is dark and screens where it is light.
func hardLight(s, d, sa, da uint32) uint32 {
	if 2*s <= sa {
		return 2 * s * d
	}
	return sa*da - 2*(da-d)*(sa-s)
}

// dodge is αs²·d ÷ (αs − s), at most αs·αb. Its numbers are below 2²⁴, and the
// quotients far enough from each half, that 32 bits round as 64 would.
func dodge(s, d, sa, da uint32) uint32 {
	switch {
	case d == 0:
		return 0
	case s >= sa:
		return sa * da
	}
	return uint32(min(float32(sa*da), float32(sa*sa*d)/float32(sa-s)+0.5))
}

// softLight is B(cb, cs) of section 10.1.10.
func softLight(s, d float64) float64 {
	if s <= 0.5 {
		return d - (1-2*s)*d*(1-d)
	}
	g := math.Sqrt(d)
	if d <= 0.25 {
		g = ((16*d-12)*d + 4) * d
	}
	return d + (2*s-1)*(g-d)
}

// blendHue is one pixel of a non-separable mode, section 10.2. Colours are both
// taken times the other's alpha, so that they lie from 0 to αs·αb and nothing need
// be divided by an alpha. Each product has a rounding of its own: vectors do it so.
func blendHue(mode Blend, dst, src []uint8) {
	sa, da := float32(src[3]), float32(dst[3])
	ks, kd := float32(sa*(1.0/255)), float32(da*(1.0/255))
	var s, d, b [3]float32
	for c := range s {
		s[c], d[c] = float32(float32(src[c])*kd), float32(float32(dst[c])*ks)
	}
	both := float32(sa * kd)
	switch mode {
	case Hue:
		b = setLum(setSat(s, sat(d)), lum(d), both)
	case Saturation:
		b = setLum(setSat(d, sat(s)), lum(d), both)
	case Color:
		b = setLum(s, lum(d), both)
	default:
		b = setLum(d, lum(s), both)
	}
	for c := range b {
		rest := float32(float32(src[c])*(1-kd)) + float32(float32(dst[c])*(1-ks))
		dst[c] = uint8(b[c] + rest + 0.5)
	}
}

// tiny is what is divided by in place of nothing.
const tiny = 1e-6

func lum(c [3]float32) float32 {
	return float32(0.3*c[0]) + float32(0.59*c[1]) + float32(0.11*c[2])
}

func sat(c [3]float32) float32 { return max(c[0], c[1], c[2]) - min(c[0], c[1], c[2]) }

// setLum gives a colour a luminosity. What would then lie below 0 or above k is
// taken nearer to the grey of that luminosity, and the other two with it
// (ClipColor).
func setLum(c [3]float32, l, k float32) [3]float32 {
	grey := lum(c)
	for j := range c {
		c[j] -= grey
	}
	low := min(1, l/max(tiny, -min(c[0], c[1], c[2])))
	high := min(1, (k-l)/max(tiny, max(c[0], c[1], c[2])))
	by := float32(low * high)
	for j := range c {
		c[j] = l + float32(c[j]*by)
	}
	return c
}

// setSat gives a colour a saturation.
func setSat(c [3]float32, s float32) [3]float32 {
	lo := min(c[0], c[1], c[2])
	by := s / max(tiny, max(c[0], c[1], c[2])-lo)
	for j := range c {
		c[j] = float32((c[j] - lo) * by)
	}
	return c
}
