package raster

import "encoding/binary"

// Source gives rows of premultiplied pixels to be drawn.
type Source interface {
	// Row returns pixels x0 to x1 of a row. They are in buf, which has room for
	// them, or somewhere else; own says that they may be changed. Places are
	// counted from the pixel origin on, so that a run has the same bits whole and
	// in parts.
	Row(buf []uint8, origin, x0, x1, y int) (px []uint8, own bool)
	// Solid reports whether every pixel is opaque.
	Solid() bool
}

// Brush is the memory of one goroutine that paints.
type Brush struct {
	px, cov []uint8
	flat    flatBlend
}

func (b *Brush) room(w int) {
	if len(b.cov) < w {
		b.px, b.cov = make([]uint8, 4*w), make([]uint8, w)
	}
}

// Paint composites a source on rows y0 to y1, within a cut, by an opacity from
// 0 to 1 and in a mode. The result of a row does not depend on how rows are
// divided.
func (s *Surface) Paint(y0, y1 int, src Source, cut *Cut, opacity float64, mode Blend, b *Brush) {
	alpha := uint32(clamp01(opacity)*255 + 0.5)
	if alpha == 0 {
		return
	}
	b.room(s.W)
	for y := y0; y < y1; y++ {
		e := cut.extent(y, s.W)
		if e.lo >= e.hi {
			continue
		}
		left, right := cut.seen(y, e)
		for _, part := range [2]extent{left, right} {
			if part.lo < part.hi {
				cut.edges(y, part, b.cov)
				s.paintRow(y, e, part, src, alpha, mode, b)
			}
		}
	}
}

// paintRow composites a source on the pixels of a part of an extent of a row.
func (s *Surface) paintRow(y int, whole, e extent, src Source, alpha uint32, mode Blend, b *Brush) {
	row := s.row(y)
	flat, _ := src.(*Flat)
	if flat != nil && mode == Normal {
		flat.paint(row, e, b.cov, alpha)
		return
	}
	for _, part := range [3]struct {
		origin, x0, x1 int32
		cov            bool
	}{{whole.lo, e.lo, e.a, true}, {whole.a, e.a, e.b, false}, {whole.b, e.b, e.hi, true}} {
		if part.x0 >= part.x1 {
			continue
		}
		dst := row[part.x0*4 : part.x1*4]
		if flat != nil && mode != Add && mode < Hue && !part.cov {
			b.flat.row(dst, scale255(flat.px, alpha), mode)
			continue
		}
		px, own := src.Row(b.px, int(part.origin), int(part.x0), int(part.x1), y)
		if (part.cov || alpha < 255) && !own {
			copy(b.px, px)
			px = b.px[:len(dst)]
		}
		if part.cov {
			coverRow(px, b.cov[part.x0:part.x1])
		}
		fadeRow(px, alpha)
		if mode == Normal && !part.cov && alpha == 255 && src.Solid() {
			copy(dst, px)
			continue
		}
		blendRow(dst, px, mode)
	}
}

// Mix goes from what is there to a source on rows y0 to y1, within a cut and
// by an opacity: how a group that began with its backdrop joins it.
func (s *Surface) Mix(y0, y1 int, src Source, cut *Cut, opacity float64, b *Brush) {
	alpha := uint32(clamp01(opacity)*255 + 0.5)
	b.room(s.W)
	for y := y0; y < y1; y++ {
		e := cut.row(y, s.W, b.cov)
		if e.lo >= e.hi || alpha == 0 {
			continue
		}
		for x := e.a; x < e.b; x++ {
			b.cov[x] = 255
		}
		cov := b.cov[e.lo:e.hi]
		if alpha < 255 {
			for i := range cov {
				cov[i] = mul255(uint32(cov[i]), alpha)
			}
		}
		px, _ := src.Row(b.px, int(e.lo), int(e.lo), int(e.hi), y)
		mixRow(s.row(y)[e.lo*4:e.hi*4], px, cov)
	}
}

// Grade changes the colours on rows y0 to y1, within a cut and by an opacity.
func (s *Surface) Grade(y0, y1 int, g *Grader, cut *Cut, opacity float64, b *Brush) {
	alpha := uint32(clamp01(opacity)*255 + 0.5)
	b.room(s.W)
	for y := y0; y < y1; y++ {
		e := cut.row(y, s.W, b.cov)
		if e.lo >= e.hi || alpha == 0 {
			continue
		}
		var cov []uint8
		if alpha < 255 || e.a > e.lo || e.b < e.hi {
			for x := e.a; x < e.b; x++ {
				b.cov[x] = 255
			}
			cov = b.cov[e.lo:e.hi]
			if alpha < 255 {
				for i := range cov {
					cov[i] = mul255(uint32(cov[i]), alpha)
				}
			}
		}
		g.row(s.row(y)[e.lo*4:e.hi*4], cov)
	}
}

// Flat is one colour everywhere.
type Flat struct{ px uint32 }

// NewFlat returns a source of a straight colour.
func NewFlat(c [4]uint8) Flat {
	a := uint32(c[3])
	return Flat{uint32(mul255(uint32(c[0]), a)) | uint32(mul255(uint32(c[1]), a))<<8 | uint32(mul255(uint32(c[2]), a))<<16 | a<<24}
}

// Solid reports whether the colour is opaque.
func (f *Flat) Solid() bool { return f.px>>24 == 255 }

// Row gives the colour.
func (f *Flat) Row(buf []uint8, _, x0, x1, _ int) ([]uint8, bool) {
	out := buf[:(x1-x0)*4]
	fillRow(out, f.px)
	return out, true
}

// paint composites the colour on a row.
func (f *Flat) paint(row []uint8, e extent, cov []uint8, alpha uint32) {
	px := f.px
	if alpha < 255 {
		px = scale255(px, alpha)
	}
	edge := func(x0, x1 int32) {
		for x := x0; x < x1; x++ {
			switch c := uint32(cov[x]); c {
			case 0:
			default:
				store(row, int(x)*4, over(scale255(px, c), load(row, int(x)*4)))
			}
		}
	}
	edge(e.lo, e.a)
	if whole := row[e.a*4 : max(e.a, e.b)*4]; px>>24 == 255 {
		fillRow(whole, px)
	} else {
		overFlatRow(whole, px)
	}
	edge(e.b, e.hi)
}

// Whole is a surface drawn where it is. Shared surfaces are not changed by
// what draws them.
type Whole struct {
	S      *Surface
	Shared bool
}

// Solid reports whether the surface promises to be opaque.
func (w *Whole) Solid() bool { return w.S.Opaque }

// Row gives the surface's own pixels.
func (w *Whole) Row(_ []uint8, _, x0, x1, y int) ([]uint8, bool) {
	return w.S.row(y)[x0*4 : x1*4], !w.Shared
}

// Matte makes coverage of rows of a surface: of its alpha, or of its luminance,
// both or their inverse. Luminance is of the premultiplied colours as they are
// encoded, by the weights of CSS Masking Level 1, section 7.10.1.
func (s *Surface) Matte(p *Coverage, y0, y1 int, luma, invert bool) {
	p.Reset(0, y0, s.W, y1-y0)
	for y := y0; y < y1; y++ {
		row, to := s.row(y), p.Pix[(y-y0)*p.W:(y-y0+1)*p.W]
		from := 0
		if vectors {
			from = matteVector(to, row, luma)
		}
		if !luma {
			for x := from; x < len(to); x++ {
				to[x] = row[x*4+3]
			}
		} else {
			for x := from; x < len(to); x++ {
				to[x] = uint8(lumaOf(load(row, x*4)))
			}
		}
		if invert {
			for x := range to {
				to[x] = 255 - to[x]
			}
		}
	}
	p.measure()
}

// Sum is a mean in the making: of each pixel the four channels, in the four 16-bit
// lanes of a word, which hold 257 surfaces and more.
type Sum struct {
	w, x0, x1 int
	pix       []uint64
	shares    [maxSum*255 + 1]uint8 // of a sum, by how many surfaces it is of
	of        int
}

// maxSum is of how many surfaces a mean may be.
const maxSum = 32

// Reset begins a mean of rows w pixels wide and h high, which are clear but for
// the columns x0 to x1.
func (m *Sum) Reset(w, h, x0, x1 int) {
	m.w, m.x0, m.x1 = w, x0, max(x0, x1)
	if n := (m.x1 - m.x0) * h; cap(m.pix) < n {
		m.pix = make([]uint64, n)
	} else {
		m.pix = m.pix[:n]
		clear(m.pix)
	}
}

// Add adds all rows of a surface.
func (m *Sum) Add(s *Surface) {
	n := m.x1 - m.x0
	for at, y := 0, 0; at < len(m.pix); at, y = at+n, y+1 {
		to, from := m.pix[at:at+n], s.Pix[4*(y*m.w+m.x0):4*(y*m.w+m.x1)]
		for i := range to {
			p := uint64(binary.LittleEndian.Uint32(from[4*i:]))
			p = (p | p<<16) & 0x0000ffff0000ffff
			to[i] += (p | p<<8) & 0x00ff00ff00ff00ff
		}
	}
}

// Mean writes the mean of n surfaces, at most maxSum.
func (m *Sum) Mean(s *Surface, n int) {
	if m.of != n {
		m.of = n
		for i := range m.shares[:255*n+1] {
			m.shares[i] = uint8((i + n/2) / n)
		}
	}
	w := m.x1 - m.x0
	for at, y := 0, 0; at < len(m.pix); at, y = at+w, y+1 {
		row := s.Pix[4*y*m.w : 4*(y+1)*m.w]
		clear(row[:4*m.x0])
		clear(row[4*m.x1:])
		to := row[4*m.x0 : 4*m.x1]
		for i, v := range m.pix[at : at+w] {
			to[4*i], to[4*i+1], to[4*i+2], to[4*i+3] = m.shares[uint16(v)], m.shares[uint16(v>>16)], m.shares[uint16(v>>32)], m.shares[v>>48]
		}
	}
}
