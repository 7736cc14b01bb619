package raster

import (
	"image/draw"
	"testing"
	"time"
)

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

// Source over with an alpha for each pixel, beside what Go's image/draw takes
// for the same pixels, on one core.
func BenchmarkOver(b *testing.B) {
	const w, h = 1920, 1080
	src, dst := noise(w, h, false, 3), noise(w, h, false, 4)
	for _, c := range []struct {
		name   string
		vector bool
	}{{"vector", true}, {"scalar", false}} {
		b.Run(c.name, func(b *testing.B) {
			if c.vector && !vectors {
				b.Skip("this build or this machine has no vector instructions")
			}
			was := vectors
			vectors = c.vector
			defer func() { vectors = was }()
			var ours, theirs time.Duration
			a, d := dst.Image(), src.Image()
			for b.Loop() {
				t0 := time.Now()
				for y := range h {
					overRow(dst.row(y), src.row(y))
				}
				t1 := time.Now()
				draw.Draw(a, a.Rect, d, d.Rect.Min, draw.Over)
				ours, theirs = ours+t1.Sub(t0), theirs+time.Since(t1)
			}
			b.ReportMetric(theirs.Seconds()/ours.Seconds(), "×image/draw")
			b.ReportMetric(float64(b.N)*w*h/ours.Seconds()/1e6, "Mpx/s")
		})
	}
}

// Each mode beside normal, on one core, with an alpha for each pixel.
func BenchmarkBlend(b *testing.B) {
	const w, h = 1920, 270
	src, dst := noise(w, h, false, 3), noise(w, h, false, 4)
	over := NewSurface(w, h)
	for mode := Multiply; mode <= Add; mode++ {
		b.Run(mode.String(), func(b *testing.B) {
			var ours, normal time.Duration
			for b.Loop() {
				copy(over.Pix, dst.Pix)
				t0 := time.Now()
				for y := range h {
					blendRow(over.row(y), src.row(y), Normal)
				}
				t1 := time.Now()
				copy(over.Pix, dst.Pix)
				t2 := time.Now()
				for y := range h {
					blendRow(over.row(y), src.row(y), mode)
				}
				normal, ours = normal+t1.Sub(t0), ours+time.Since(t2)
			}
			b.ReportMetric(ours.Seconds()/normal.Seconds(), "×normal")
			b.ReportMetric(ours.Seconds()*1e9/float64(b.N)/w/h, "ns/px")
		})
	}
}
