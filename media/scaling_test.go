package media_test

import (
	"bytes"
	"fmt"
	"math"
	"os"
	"path/filepath"
	"testing"

	"ivypocket/core/raster"
	"ivypocket/demo"
	"ivypocket/media/mediatest"
)

// Shrinking agrees with ffmpeg's scaler (libswscale): by whole factors with its
// area filter, by others with its Lanczos filter, to 40 dB PSNR and better.
func TestShrinkingAgreesWithFFmpeg(t *testing.T) {
	src := demo.Coast("noon", 1440, 960)
	in := mediatest.PNG(t, src.Image())
	for _, c := range []struct {
		w, h   int
		filter string
	}{{720, 480, "area"}, {480, 320, "area"}, {360, 240, "area"}, {1000, 667, "lanczos"}, {617, 411, "lanczos"}, {200, 133, "lanczos"}} {
		path := filepath.Join(t.TempDir(), "small")
		mediatest.FFmpeg(t, bytes.NewReader(in), "-f", "png_pipe", "-i", "-", "-vf", fmt.Sprintf("scale=%d:%d:flags=%s+accurate_rnd+full_chroma_int+full_chroma_inp,format=rgba", c.w, c.h, c.filter), "-f", "rawvideo", path)
		pix, err := os.ReadFile(path)
		if err != nil {
			t.Fatal(err)
		}
		theirs := &raster.Surface{W: c.w, H: c.h, Pix: pix}
		ours := src.Resize(c.w, c.h)
		if len(theirs.Pix) != len(ours.Pix) {
			t.Fatalf("%d bytes", len(theirs.Pix))
		}
		sum := 0.0
		for i := range ours.Pix {
			d := float64(ours.Pix[i]) - float64(theirs.Pix[i])
			if i%4 != 3 {
				sum += d * d
			}
		}
		psnr := 10 * math.Log10(255*255*float64(c.w*c.h*3)/math.Max(sum, 1))
		t.Logf("%d × %d: %.1f dB against %s", c.w, c.h, psnr, c.filter)
		if psnr < 40 {
			t.Errorf("%d × %d: %.1f dB against %s", c.w, c.h, psnr, c.filter)
		}
	}
}
