package raster

import "testing"

func BenchmarkYUV420(b *testing.B) {
	s := noise(1920, 1080, true, 1)
	dst := make([]uint8, YUV420Size(1920, 1080))
	for b.Loop() {
		s.YUV420(dst, 0, s.H)
	}
}
