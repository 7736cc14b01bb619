// Package mediatest makes files for tests: pictures, clips whose frames carry
// their own number, and files that mean harm.
package mediatest

import (
	"bytes"
	"context"
	"encoding/binary"
	"fmt"
	"image"
	"image/color"
	"image/jpeg"
	"image/png"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"testing"

	"ivypocket/core/words"
	"ivypocket/media"
)

// Folder is a media.Files of files in a folder.
type Folder struct {
	Dir   string
	Metas map[string]media.Meta
}

// NewFolder returns an empty folder.
func NewFolder(t testing.TB) *Folder {
	return &Folder{Dir: t.TempDir(), Metas: map[string]media.Meta{}}
}

// Meta returns what is known of media.
func (f *Folder) Meta(hash string) (media.Meta, bool) { m, ok := f.Metas[hash]; return m, ok }

// Path is where media lies.
func (f *Folder) Path(hash string) string { return filepath.Join(f.Dir, hash) }

// ProxyPath is where the proxy lies.
func (f *Folder) ProxyPath(hash string) string { return filepath.Join(f.Dir, hash+".proxy") }

// Whole reports whether media is there at all.
func (f *Folder) Whole(hash string) bool { _, err := os.Stat(f.Path(hash)); return err == nil }

// Faces lists the fonts of the folder.
func (f *Folder) Faces() (out []words.Named) {
	for hash, m := range f.Metas {
		if m.Face != nil {
			out = append(out, words.Named{ID: hash, Name: m.Face.Name})
		}
	}
	return out
}

// Put writes and inspects a file.
func (f *Folder) Put(t testing.TB, name string, data []byte) media.Meta {
	t.Helper()
	if err := os.WriteFile(f.Path(name), data, 0o644); err != nil {
		t.Fatal(err)
	}
	m, err := media.Inspect(context.Background(), f.Path(name))
	if err != nil {
		t.Fatalf("%s: %v", name, err)
	}
	f.Metas[name] = m
	return m
}

// Quarters is a picture whose quarters are red, green, blue and yellow, from
// the top left clockwise as red, green, yellow, blue.
func Quarters(w, h int) *image.NRGBA {
	img := image.NewNRGBA(image.Rect(0, 0, w, h))
	c := [2][2]color.NRGBA{{{220, 30, 30, 255}, {30, 200, 30, 255}}, {{30, 30, 220, 255}, {220, 200, 30, 255}}}
	for y := range h {
		for x := range w {
			img.SetNRGBA(x, y, c[y*2/h][x*2/w])
		}
	}
	return img
}

// PNG encodes a picture.
func PNG(t testing.TB, img image.Image) []byte {
	t.Helper()
	var b bytes.Buffer
	if err := png.Encode(&b, img); err != nil {
		t.Fatal(err)
	}
	return b.Bytes()
}

// JPEG encodes a picture with an EXIF orientation; 0 writes no EXIF.
func JPEG(t testing.TB, img image.Image, orientation int) []byte {
	t.Helper()
	var b bytes.Buffer
	if err := jpeg.Encode(&b, img, &jpeg.Options{Quality: 95}); err != nil {
		t.Fatal(err)
	}
	if orientation == 0 {
		return b.Bytes()
	}
	// EXIF 2.32: an APP1 segment with a TIFF header and one entry, tag 0x0112.
	tiff := []byte("II*\x00\x08\x00\x00\x00\x01\x00\x12\x01\x03\x00\x01\x00\x00\x00")
	tiff = append(tiff, byte(orientation), 0, 0, 0, 0, 0, 0, 0)
	seg := append([]byte("Exif\x00\x00"), tiff...)
	out := append([]byte{0xff, 0xd8, 0xff, 0xe1}, byte((len(seg)+2)>>8), byte(len(seg)+2))
	out = append(out, seg...)
	return append(out, b.Bytes()[2:]...)
}

// Bits is how many bits of its number a clip's frame carries.
const Bits = 10

// Clip makes an H.264 clip in which each frame shows its own number as black
// and white bars, and returns the file's bytes.
func Clip(t testing.TB, w, h int, rate string, frames int, extra ...string) []byte {
	t.Helper()
	return Film(t, w, h, rate, frames, "clip.mp4", append([]string{"-c:v", "libx264", "-preset", "ultrafast", "-crf", "10", "-g", "12", "-bf", "2", "-pix_fmt", "yuv420p"}, extra...)...)
}

// Film is Clip in any container, by the name's ending, and codec.
func Film(t testing.TB, w, h int, rate string, frames int, name string, args ...string) []byte {
	t.Helper()
	var raw bytes.Buffer
	for n := range frames {
		raw.Write(Numbered(w, h, n))
	}
	path := filepath.Join(t.TempDir(), name)
	FFmpeg(t, &raw, append(append([]string{"-f", "rawvideo", "-pix_fmt", "gray", "-s", fmt.Sprintf("%dx%d", w, h), "-r", rate, "-i", "-"}, args...), path)...)
	b, err := os.ReadFile(path)
	if err != nil {
		t.Fatal(err)
	}
	return b
}

// FFmpeg runs ffmpeg to its end.
func FFmpeg(t testing.TB, in io.Reader, args ...string) {
	t.Helper()
	cmd := exec.Command("ffmpeg", append([]string{"-v", "error", "-y"}, args...)...)
	cmd.Stdin = in
	if out, err := cmd.CombinedOutput(); err != nil {
		t.Fatalf("ffmpeg %v: %v: %s", args, err, out)
	}
}

// Numbered is a grey picture of bars, white for each bit of n that is set, the
// lowest bit at the left.
func Numbered(w, h, n int) []byte {
	out := make([]byte, w*h)
	for y := range h {
		for x := range w {
			v := byte(30)
			if n>>(x*Bits/w)&1 == 1 {
				v = 225
			}
			out[y*w+x] = v
		}
	}
	return out
}

// Number reads the number back from RGBA pixels.
func Number(pix []byte, w, h int) int {
	n := 0
	for b := range Bits {
		x := (2*b + 1) * w / (2 * Bits)
		if pix[(h/2*w+x)*4] > 128 {
			n |= 1 << b
		}
	}
	return n
}

// BombPNG says that it is w×h pixels and holds almost nothing.
func BombPNG(w, h uint32) []byte {
	head := binary.BigEndian.AppendUint32(binary.BigEndian.AppendUint32(nil, w), h)
	out := append([]byte("\x89PNG\r\n\x1a\n"), chunk("IHDR", append(head, 8, 6, 0, 0, 0))...)
	return append(append(out, chunk("IDAT", []byte("x\x9c\x03\x00\x00\x00\x00\x01"))...), chunk("IEND", nil)...)
}
