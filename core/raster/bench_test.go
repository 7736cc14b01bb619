package raster

import "testing"

func BenchmarkYUV420(b *testing.B) {
	s := noise(1920, 1080, true, 1)
	dst := make([]uint8, YUV420Size(1920, 1080))
	for b.Loop() {
		s.YUV420(dst, 0, s.H)
	}
}

// Planes of a clip as its proxy or its decoder gives them.
func BenchmarkFromYUV(b *testing.B) {
	const w, h = 960, 544
	planes := make([]uint8, w*h*3)
	for i := range planes {
		planes[i] = uint8(i*7 + i/977)
	}
	s := NewSurface(w, h)
	b.Run("444", func(b *testing.B) {
		for b.Loop() {
			s.FromYUV444(planes, BT709, false)
		}
	})
}
