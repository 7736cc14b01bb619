package media_test

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"image"
	"image/color"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"ivypocket/core/raster"
	"ivypocket/media"
	"ivypocket/media/mediatest"
)

func near(a, b uint8, by int) bool { return math.Abs(float64(a)-float64(b)) <= float64(by) }

// EXIF 2.32, tag Orientation: whatever its value, an upright picture comes out
// upright. The stored picture is turned by the table the other way.
func TestJPEGsComeInUprightInAllOrientations(t *testing.T) {
	upright := raster.FromImage(mediatest.Quarters(96, 64))
	// The orientation that undoes each one.
	undo := map[int]int{1: 1, 2: 2, 3: 3, 4: 4, 5: 5, 6: 8, 7: 7, 8: 6}
	dir := mediatest.NewFolder(t)
	lib := media.NewLibrary(dir)
	defer lib.Close()
	for o := 1; o <= 8; o++ {
		stored := upright.Oriented(undo[o])
		name := fmt.Sprint("o", o)
		m := dir.Put(t, name, mediatest.JPEG(t, stored.Image(), o))
		if m.Width != 96 || m.Height != 64 || m.Orientation != o {
			t.Errorf("orientation %d: %d × %d, read as %d", o, m.Width, m.Height, m.Orientation)
		}
		for _, size := range []image.Point{{96, 64}, {24, 16}} {
			s, err := lib.Stage().Picture(context.Background(), name, 0, size.X, size.Y)
			if err != nil {
				t.Fatal(err)
			}
			for _, p := range []image.Point{{0, 0}, {1, 0}, {0, 1}, {1, 1}} {
				x, y := size.X/4+p.X*size.X/2, size.Y/4+p.Y*size.Y/2
				r, g, b, _ := s.At(x, y)
				wr, wg, wb, _ := upright.At(24+p.X*48, 16+p.Y*32)
				if !near(r, wr, 6) || !near(g, wg, 6) || !near(b, wb, 6) {
					t.Errorf("orientation %d at %v, corner %v: %d %d %d, want %d %d %d", o, size, p, r, g, b, wr, wg, wb)
				}
			}
		}
	}
}

func TestPNGsKeepTheirAlpha(t *testing.T) {
	img := image.NewNRGBA(image.Rect(0, 0, 8, 8))
	for i := range 64 {
		img.SetNRGBA(i%8, i/8, color.NRGBA{200, 100, 0, 128})
	}
	dir := mediatest.NewFolder(t)
	if m := dir.Put(t, "p", mediatest.PNG(t, img)); !m.Alpha || m.Type != media.PNG {
		t.Errorf("%+v", m)
	}
	lib := media.NewLibrary(dir)
	s, err := lib.Stage().Picture(context.Background(), "p", 0, 4, 4)
	if err != nil {
		t.Fatal(err)
	}
	if r, g, b, a := s.At(2, 2); r != 100 || g != 50 || b != 0 || a != 128 {
		t.Errorf("%d %d %d %d", r, g, b, a)
	}
}

func TestSVGSizes(t *testing.T) {
	for attrs, want := range map[string]image.Point{
		`width="120" height="80"`:                      {120, 80},
		`width="1in" height="25.4mm"`:                  {96, 96},
		`viewBox="0 0 300 150"`:                        {300, 150},
		`width="100%" height="100%" viewBox="0,0,7,9"`: {7, 9},
		`width="200" viewBox="0 0 100 50"`:             {200, 100},
	} {
		dir := mediatest.NewFolder(t)
		m := dir.Put(t, "s", []byte(`<?xml version="1.0"?><svg xmlns="http://www.w3.org/2000/svg" `+attrs+`><rect width="5" height="5" fill="url(#a)"/></svg>`))
		if m.Width != want.X || m.Height != want.Y {
			t.Errorf("%s: %d × %d, want %v", attrs, m.Width, m.Height, want)
		}
	}
}

func svg(inside string) string {
	return `<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" width="10" height="10">` + inside + `</svg>`
}

// Each must be refused in words that name what is wrong, whatever the file is
// called.
func TestHostileAndBrokenFilesAreRefusedWithAReason(t *testing.T) {
	jpg := mediatest.JPEG(t, mediatest.Quarters(64, 64), 6)
	pic := mediatest.PNG(t, mediatest.Quarters(64, 64))
	clip := mediatest.Clip(t, 64, 48, "25", 5)
	hevc := filepath.Join(t.TempDir(), "h.mp4")
	if out, err := exec.Command("ffmpeg", "-v", "error", "-f", "lavfi", "-i", "testsrc=s=64x64:d=0.2", "-c:v", "mpeg4", hevc).CombinedOutput(); err != nil {
		t.Fatal(err, string(out))
	}
	other, err := os.ReadFile(hevc)
	if err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct {
		name   string
		data   []byte
		reason string
	}{
		{"empty", nil, "empty"},
		{"text", []byte("hello there"), "PNG, JPEG"},
		{"a script named mp4", []byte("#!/bin/sh\nrm -rf /\n"), "MP4"},
		{"a playlist", []byte("#EXTM3U\n#EXTINF:1,\nfile:///etc/passwd\n"), "MP4"},
		{"a concat script", []byte("ffconcat version 1.0\nfile /etc/passwd\n"), "MP4"},
		{"a web page", []byte("<!doctype html><html><script>alert(1)</script></html>"), "html"},
		{"a PDF", []byte("%PDF-1.4\n"), "pdf"},
		{"a GIF", []byte("GIF89a\x01\x00\x01\x00\x00\x00\x00;"), "gif"},
		{"a JPEG broken off", jpg[:len(jpg)-20], "breaks off"},
		{"a JPEG of only a head", jpg[:3], "size"},
		{"a JPEG with noise for data", append(append([]byte{}, jpg[:len(jpg)-200]...), bytes.Repeat([]byte{0xff}, 200)...), "JPEG"},
		{"a PNG broken off", pic[:len(pic)-30], "breaks off"},
		{"a PNG with a wrong sum", append(append(append([]byte{}, pic[:50]...), pic[50]^1), pic[51:]...), "PNG"},
		{"a PNG bomb", mediatest.BombPNG(60000, 60000), "60000"},
		{"a PNG of 20 000 × 20 000", mediatest.BombPNG(20000, 20000), "Mpx"},
		{"a PNG without pixels", mediatest.BombPNG(100, 100), "damaged"},
		{"an SVG script", []byte(svg(`<script>alert(1)</script>`)), "script"},
		{"an SVG event", []byte(svg(`<rect onload="alert(1)"/>`)), "script"},
		{"an SVG link outside", []byte(svg(`<image xlink:href="file:///etc/passwd"/>`)), "outside"},
		{"an SVG link to the web", []byte(svg(`<image href="http://192.0.2.1/a.png"/>`)), "outside"},
		{"an SVG style outside", []byte(svg(`<style>@import "a.css";</style>`)), "style"},
		{"an SVG fill outside", []byte(svg(`<rect style="fill:url(http://192.0.2.1/#a)"/>`)), "outside"},
		{"an SVG in an SVG", []byte(svg(`<image href="data:image/svg+xml;base64,PHN2Zy8+"/>`)), "outside"},
		{"an SVG with entities", []byte(`<!DOCTYPE svg [<!ENTITY a "aaaa"><!ENTITY b "&a;&a;">]>` + svg(`<text>&b;</text>`)), "entities"},
		{"an SVG of strange HTML", []byte(svg(`<foreignObject><b/></foreignObject>`)), "foreignObject"},
		{"an SVG too deep", []byte(svg(strings.Repeat("<g>", 100) + strings.Repeat("</g>", 100))), "deeper"},
		{"an SVG broken off", []byte(svg(`<rect`)), "SVG"},
		{"an SVG of no size", []byte(`<svg xmlns="http://www.w3.org/2000/svg"><rect/></svg>`), "viewBox"},
		{"an SVG too large", []byte(`<svg xmlns="http://www.w3.org/2000/svg" width="9e9" height="2"/>`), "SVG"},
		{"an MP4 broken off", clip[:len(clip)/3], "MP4"},
		{"an MP4 of only a head", clip[:40], "MP4"},
		{"an MP4 of another codec", other, "H.264"},
	} {
		path := filepath.Join(t.TempDir(), "holiday.jpg")
		if err := os.WriteFile(path, c.data, 0o644); err != nil {
			t.Fatal(err)
		}
		var refused *media.RefusedError
		_, err := media.Inspect(context.Background(), path)
		if !errors.As(err, &refused) || !strings.Contains(refused.Reason, c.reason) {
			t.Errorf("%s: %v, want a reason about %q", c.name, err, c.reason)
		}
	}
}

func TestFrameNIsFrameN(t *testing.T) {
	for _, rate := range []string{"30000/1001", "25", "24000/1001"} {
		dir := mediatest.NewFolder(t)
		m := dir.Put(t, "c", mediatest.Clip(t, 160, 64, rate, 50))
		if m.Frames != 50 || m.Rate.String() != rate || m.Sound || m.Uneven {
			t.Fatalf("%+v", m)
		}
		lib := media.NewLibrary(dir)
		ctx := context.Background()
		grown := int64(0)
		if err := lib.GrowProxy(ctx, "c", func(g media.Growth) { grown = g.Done }); err != nil || grown != 50 || !lib.HasProxy("c") {
			t.Fatalf("proxy: %v, %d frames", err, grown)
		}
		originals := lib.Originals(ctx)
		for name, c := range map[string]struct {
			frames []int64
			get    func(int64) (*raster.Surface, error)
		}{
			"proxy":            {[]int64{0, 1, 17, 49, 3}, func(n int64) (*raster.Surface, error) { return lib.Stage().Picture(ctx, "c", n, 160, 64) }},
			"single originals": {[]int64{0, 1, 12, 13, 49}, func(n int64) (*raster.Surface, error) { return lib.Still().Picture(ctx, "c", n, 160, 64) }},
			"in order":         {[]int64{5, 6, 6, 7, 20, 49, 2}, func(n int64) (*raster.Surface, error) { return originals.Picture(ctx, "c", n, 160, 64) }},
		} {
			for _, n := range c.frames {
				s, err := c.get(n)
				if err != nil {
					t.Fatalf("%s, frame %d: %v", name, n, err)
				}
				if got := mediatest.Number(s.Pix, 160, 64); int64(got) != n {
					t.Errorf("%s at %s: frame %d shows %d", name, rate, n, got)
				}
			}
		}
		one, err1 := lib.Still().Picture(ctx, "c", 30, 80, 32)
		two, err2 := originals.Picture(ctx, "c", 30, 80, 32)
		if err1 != nil || err2 != nil || !bytes.Equal(one.Pix, two.Pix) {
			t.Error("a frame on its own and in order are two pictures")
		}
		originals.Close()
		lib.Close()
	}
}

func TestSoundAndTurnedClipsAreSaid(t *testing.T) {
	dir := mediatest.NewFolder(t)
	path := filepath.Join(t.TempDir(), "s.mp4")
	if out, err := exec.Command("ffmpeg", "-v", "error", "-f", "lavfi", "-i", "testsrc=s=64x48:d=0.4", "-f", "lavfi", "-i", "sine=d=0.4", "-c:v", "libx264", "-pix_fmt", "yuv420p", path).CombinedOutput(); err != nil {
		t.Fatal(err, string(out))
	}
	turned := filepath.Join(t.TempDir(), "t.mp4")
	if out, err := exec.Command("ffmpeg", "-v", "error", "-display_rotation", "90", "-i", path, "-c", "copy", turned).CombinedOutput(); err != nil {
		t.Skip("this ffmpeg can't write a rotation: " + string(out))
	}
	b, err := os.ReadFile(turned)
	if err != nil {
		t.Fatal(err)
	}
	if m := dir.Put(t, "t", b); !m.Sound || m.Width != 48 || m.Height != 64 {
		t.Errorf("%+v: want sound, and 48 × 64 upright", m)
	}
}

// ffmpeg is the referee: flat patches encoded with tagged matrices come back
// within 2/255 of what went in.
func TestColourMatricesAreUndone(t *testing.T) {
	for _, matrix := range []string{"bt709", "smpte170m"} {
		path := filepath.Join(t.TempDir(), "c.mp4")
		out, err := exec.Command("ffmpeg", "-v", "error", "-f", "lavfi", "-i", "color=c=0x9A4B2C:s=64x64:d=0.2,format=rgb24",
			"-vf", "scale=out_color_matrix="+matrix+":out_range=tv,format=yuv420p", "-c:v", "libx264", "-crf", "4", "-colorspace", matrix, path).CombinedOutput()
		if err != nil {
			t.Fatal(err, string(out))
		}
		b, err := os.ReadFile(path)
		if err != nil {
			t.Fatal(err)
		}
		dir := mediatest.NewFolder(t)
		dir.Put(t, "c", b)
		lib := media.NewLibrary(dir)
		s, err := lib.Still().Picture(context.Background(), "c", 0, 64, 64)
		if err != nil {
			t.Fatal(err)
		}
		if r, g, b, _ := s.At(30, 30); !near(r, 0x9a, 2) || !near(g, 0x4b, 2) || !near(b, 0x2c, 2) {
			t.Errorf("%s: %d %d %d, want 154 75 44", matrix, r, g, b)
		}
	}
}

func FuzzInspectSVG(f *testing.F) {
	f.Add([]byte(svg(`<path d="M0 0L5 5"/>`)))
	f.Add([]byte(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 1 1"><style>a{fill:url(#x)}</style></svg>`))
	f.Fuzz(func(t *testing.T, data []byte) {
		_, _ = media.CheckVector(data)
	})
}
