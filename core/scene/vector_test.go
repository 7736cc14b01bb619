package scene

import (
	"testing"

	"ivypocket/core/geom"
)

// A vector drawing that is zoomed into is made as large as it is seen, up to a bound
// that is the same share of every canvas; pixels are never made more of.
func TestVectorDrawingsAreBoundedByTheirCanvas(t *testing.T) {
	media := geom.Size{W: 100, H: 50}
	for _, c := range []struct {
		canvas Size
		zoom   float64
		vector bool
		w, h   int
	}{
		{Size{W: 1920, H: 1080}, 8, true, 800, 400},
		{Size{W: 1920, H: 1080}, 400, true, 4096, 2048},
		{Size{W: 1080, H: 1920}, 400, true, 4096, 2048},
		{Size{W: 3840, H: 2160}, 400, true, 4096, 2048},
		{Size{W: 960, H: 540}, 400, true, 2048, 1024},
		{Size{W: 960, H: 540}, 900, true, 2048, 1024},
		{Size{W: 120, H: 68}, 400, true, 1024, 512},
		{Size{W: 1920, H: 1080}, 400, false, 100, 50},
	} {
		if w, h := prepared(media, c.zoom, c.zoom, c.vector, c.canvas); w != c.w || h != c.h {
			t.Errorf("%v, ×%g: %d × %d, want %d × %d", c.canvas, c.zoom, w, h, c.w, c.h)
		}
	}
}
