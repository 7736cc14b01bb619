package raster

// Over puts a flat colour, straight sRGB and opaque, below everything, on rows
// y0 to y1.
func (s *Surface) Over(y0, y1 int, r, g, b uint8) {
	under := uint32(r) | uint32(g)<<8 | uint32(b)<<16 | 0xff000000
	p := s.Pix[y0*s.W*4 : y1*s.W*4]
	for i := 0; i < len(p); i += 4 {
		if v := load(p, i); v>>24 != 255 {
			store(p, i, over(v, under))
		}
	}
}

// Checker puts squares of two greys below everything, on rows y0 to y1; side
// is theirs, in pixels.
func (s *Surface) Checker(y0, y1, side int) {
	const light, dark = 0xffcccccc, 0xff999999
	side = max(1, side)
	for y := y0; y < y1; y++ {
		row := s.row(y)
		for x := range s.W {
			v := load(row, x*4)
			if v>>24 == 255 {
				continue
			}
			under := uint32(light)
			if (x/side+y/side)&1 == 1 {
				under = dark
			}
			store(row, x*4, over(v, under))
		}
	}
}

// AlphaAlone shows alpha as grey, white where the picture is opaque, on rows y0
// to y1.
func (s *Surface) AlphaAlone(y0, y1 int) {
	p := s.Pix[y0*s.W*4 : y1*s.W*4]
	for i := 0; i < len(p); i += 4 {
		a := uint32(p[i+3])
		store(p, i, a|a<<8|a<<16|0xff000000)
	}
}

// LumaAlone shows luminance as grey, as Matte has it, on rows y0 to y1.
func (s *Surface) LumaAlone(y0, y1 int) {
	p := s.Pix[y0*s.W*4 : y1*s.W*4]
	for i := 0; i < len(p); i += 4 {
		l := lumaOf(load(p, i))
		store(p, i, l|l<<8|l<<16|0xff000000)
	}
}

// lumaOf is the luminance of a premultiplied pixel, by the weights of CSS Masking Level 1,
// section 7.10.1.
func lumaOf(v uint32) uint32 { return (v&255*13933 + v>>8&255*46871 + v>>16&255*4732 + 32768) >> 16 }

// Beneath composites the surface on another one of the same size and takes its
// place, on rows y0 to y1.
func (s *Surface) Beneath(y0, y1 int, under *Surface) {
	from, to := y0*s.W*4, y1*s.W*4
	p, q := s.Pix[from:to], under.Pix[from:to]
	for i := 0; i < len(p); i += 4 {
		if v := load(p, i); v>>24 != 255 {
			store(p, i, over(v, load(q, i)))
		}
	}
}
