// Package raster is the room for pixels, and the only one that loops over
// them: surfaces, coverage, compositing and resampling. Pixels are premultiplied
// RGBA, 8 bits each, sRGB-encoded, composited as they are encoded, in the way
// of W3C Compositing and Blending Level 1 and of browsers.
package raster

import (
	"encoding/binary"
	"image"
)

// Surface is a picture of W×H premultiplied RGBA pixels, rows without gaps.
type Surface struct {
	W, H int
	Pix  []uint8
	// Top is the row of the device that the first one is: a surface may hold a
	// band of it.
	Top int
	// Opaque promises that every alpha is 255; drawing then skips blending.
	Opaque bool
}

// NewSurface returns a clear surface.
func NewSurface(w, h int) *Surface { return &Surface{W: w, H: h, Pix: make([]uint8, w*h*4)} }

// Reset makes the surface w×h, keeping its memory where it suffices. The
// pixels are left as they are.
func (s *Surface) Reset(w, h int) {
	n := w * h * 4
	if cap(s.Pix) < n {
		s.Pix = make([]uint8, n)
	}
	s.W, s.H, s.Top, s.Pix, s.Opaque = w, h, 0, s.Pix[:n], false
}

// Bytes is the memory the pixels take.
func (s *Surface) Bytes() int { return len(s.Pix) }

// Clear makes rows y0 to y1 transparent.
func (s *Surface) Clear(y0, y1 int) { clear(s.Pix[(y0-s.Top)*s.W*4 : (y1-s.Top)*s.W*4]) }

// ClearPart makes columns x0 to x1 of rows y0 to y1 transparent.
func (s *Surface) ClearPart(x0, y0, x1, y1 int) {
	for y := y0; y < y1; y++ {
		clear(s.row(y)[4*x0 : 4*x1])
	}
}

// Band makes the surface hold rows y0 to y1 of a device w pixels wide.
func (s *Surface) Band(w, y0, y1 int) {
	s.Reset(w, y1-y0)
	s.Top = y0
}

// CopyRows copies rows y0 to y1 of a surface as wide as this one.
func (s *Surface) CopyRows(from *Surface, y0, y1 int) {
	for y := y0; y < y1; y++ {
		copy(s.row(y), from.row(y))
	}
}

// MeasureOpaque sets Opaque from the pixels.
func (s *Surface) MeasureOpaque() {
	for i := 3; i < len(s.Pix); i += 4 {
		if s.Pix[i] != 255 {
			s.Opaque = false
			return
		}
	}
	s.Opaque = true
}

// Image returns the surface as an image of the standard library that shares
// its pixels.
func (s *Surface) Image() *image.RGBA {
	return &image.RGBA{Pix: s.Pix, Stride: s.W * 4, Rect: image.Rect(0, 0, s.W, s.H)}
}

// FromImage copies an image, converting it to premultiplied RGBA.
func FromImage(img image.Image) *Surface {
	b := img.Bounds()
	s := NewSurface(b.Dx(), b.Dy())
	switch m := img.(type) {
	case *image.RGBA:
		for y := range s.H {
			copy(s.row(y), m.Pix[m.PixOffset(b.Min.X, b.Min.Y+y):])
		}
	case *image.NRGBA:
		for y := range s.H {
			premultiplyRow(s.row(y), m.Pix[m.PixOffset(b.Min.X, b.Min.Y+y):])
		}
	default:
		for y := range s.H {
			row := s.row(y)
			for x := range s.W {
				r, g, bl, a := img.At(b.Min.X+x, b.Min.Y+y).RGBA()
				row[x*4], row[x*4+1], row[x*4+2], row[x*4+3] = to8(r), to8(g), to8(bl), to8(a)
			}
		}
	}
	s.MeasureOpaque()
	return s
}

// to8 rounds a 16-bit channel to 8 bits.
func to8(v uint32) uint8 { return uint8((v*255 + 32767) / 65535) }

// Premultiply turns straight alpha into premultiplied alpha in place.
func (s *Surface) Premultiply() {
	for y := range s.H {
		premultiplyRow(s.row(y), s.row(y))
	}
	s.MeasureOpaque()
}

func premultiplyRow(dst, src []uint8) {
	for i := 0; i+3 < len(dst); i += 4 {
		a := uint32(src[i+3])
		dst[i] = mul255(uint32(src[i]), a)
		dst[i+1] = mul255(uint32(src[i+1]), a)
		dst[i+2] = mul255(uint32(src[i+2]), a)
		dst[i+3] = uint8(a)
	}
}

// Straight returns the surface with straight alpha, for files that want it.
func (s *Surface) Straight() *image.NRGBA {
	out := image.NewNRGBA(image.Rect(0, 0, s.W, s.H))
	for i := 0; i < len(s.Pix); i += 4 {
		a := uint32(s.Pix[i+3])
		if a == 0 {
			continue
		}
		for c := range 3 {
			out.Pix[i+c] = uint8(min(255, (uint32(s.Pix[i+c])*255+a/2)/a))
		}
		out.Pix[i+3] = uint8(a)
	}
	return out
}

// At returns one premultiplied pixel.
func (s *Surface) At(x, y int) (r, g, b, a uint8) {
	i := (y*s.W + x) * 4
	return s.Pix[i], s.Pix[i+1], s.Pix[i+2], s.Pix[i+3]
}

func (s *Surface) row(y int) []uint8 { return s.Pix[(y-s.Top)*s.W*4 : (y-s.Top+1)*s.W*4] }

// Oriented returns the surface turned upright by an EXIF orientation, 1 to 8
// (EXIF 2.32, tag 0x0112): which sides of the picture row 0 and column 0 are.
func (s *Surface) Oriented(orientation int) *Surface {
	if orientation < 2 || orientation > 8 {
		return s
	}
	w, h := s.W, s.H
	if orientation >= 5 {
		w, h = h, w
	}
	out := NewSurface(w, h)
	out.Opaque = s.Opaque
	for y := range h {
		row := out.row(y)
		for x := range w {
			var sx, sy int
			switch orientation {
			case 2:
				sx, sy = s.W-1-x, y
			case 3:
				sx, sy = s.W-1-x, s.H-1-y
			case 4:
				sx, sy = x, s.H-1-y
			case 5:
				sx, sy = y, x
			case 6:
				sx, sy = y, s.H-1-x
			case 7:
				sx, sy = s.W-1-y, s.H-1-x
			case 8:
				sx, sy = s.W-1-y, x
			}
			copy(row[x*4:x*4+4], s.Pix[(sy*s.W+sx)*4:])
		}
	}
	return out
}

// mul255 is a·b/255, rounded.
func mul255(a, b uint32) uint8 {
	t := a*b + 128
	return uint8((t + t>>8) >> 8)
}

func load(p []uint8, i int) uint32       { return binary.LittleEndian.Uint32(p[i:]) }
func loadPair(p []uint8, i int) uint64   { return binary.LittleEndian.Uint64(p[i:]) }
func putPair(p []uint8, i int, v uint64) { binary.LittleEndian.PutUint64(p[i:], v) }
func store(p []uint8, i int, v uint32)   { binary.LittleEndian.PutUint32(p[i:], v) }

// scale255 multiplies all four channels of a packed pixel by a/255, rounded.
func scale255(p uint32, a uint32) uint32 {
	rb := (p&0x00ff00ff)*a + 0x00800080
	rb = (rb + (rb>>8)&0x00ff00ff) >> 8 & 0x00ff00ff
	ag := (p>>8&0x00ff00ff)*a + 0x00800080
	ag = (ag + (ag>>8)&0x00ff00ff) & 0xff00ff00
	return rb | ag
}

// over composites a packed premultiplied source on a destination.
func over(src, dst uint32) uint32 { return src + scale255(dst, 255-src>>24) }
