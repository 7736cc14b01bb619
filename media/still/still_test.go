package still_test

import (
	"bytes"
	"context"
	"encoding/binary"
	"errors"
	"hash/crc32"
	"slices"

	"image"
	"image/color"
	"image/gif"
	"math"
	"os"
	"path/filepath"
	"testing"
	"time"

	"golang.org/x/image/tiff"

	"ivypocket/core/raster"
	"ivypocket/media/mediatest"
	"ivypocket/media/still"
)

var ctx = context.Background()

func put(t testing.TB, kind still.Kind, data []byte) (string, still.Facts) {
	t.Helper()
	path := filepath.Join(t.TempDir(), "p")
	if err := os.WriteFile(path, data, 0o644); err != nil {
		t.Fatal(err)
	}
	f, err := still.Inspect(ctx, kind, path)
	if err != nil {
		t.Fatal(err)
	}
	return path, f
}

func pixels(t testing.TB, kind still.Kind, data []byte, w, h int) *raster.Surface {
	t.Helper()
	path, f := put(t, kind, data)
	s, err := still.Decode(ctx, kind, path, f, w, h)
	if err != nil {
		t.Fatal(err)
	}
	return s
}

func near(a, b uint8, by int) bool { return math.Abs(float64(a)-float64(b)) <= float64(by) }

// EXIF 2.32, tag Orientation: whatever its value, an upright picture comes out
// upright. The stored picture is turned by the table the other way.
func TestJPEGsComeInUprightInAllOrientations(t *testing.T) {
	upright := raster.FromImage(mediatest.Quarters(96, 64))
	// The orientation that undoes each one.
	undo := map[int]int{1: 1, 2: 2, 3: 3, 4: 4, 5: 5, 6: 8, 7: 7, 8: 6}
	for o := 1; o <= 8; o++ {
		data := mediatest.JPEG(t, upright.Oriented(undo[o]).Image(), o)
		if _, f := put(t, still.JPEG, data); f.Width != 96 || f.Height != 64 || f.Orientation != o {
			t.Errorf("orientation %d: %d × %d, read as %d", o, f.Width, f.Height, f.Orientation)
		}
		for _, size := range []image.Point{{96, 64}, {24, 16}} {
			s := pixels(t, still.JPEG, data, size.X, size.Y)
			for _, p := range []image.Point{{0, 0}, {1, 0}, {0, 1}, {1, 1}} {
				x, y := s.W/4+p.X*s.W/2, s.H/4+p.Y*s.H/2
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
	if _, f := put(t, still.PNG, mediatest.PNG(t, img)); !f.Alpha {
		t.Errorf("%+v", f)
	}
	if r, g, b, a := pixels(t, still.PNG, mediatest.PNG(t, img), 4, 4).At(2, 2); r != 100 || g != 50 || b != 0 || a != 128 {
		t.Errorf("%d %d %d %d", r, g, b, a)
	}
}

// What a picture that says it may be transparent really is, is measured; so is
// what of it can be seen.
func TestMarksAreMeasured(t *testing.T) {
	img := image.NewNRGBA(image.Rect(0, 0, 100, 50))
	for y := 10; y < 30; y++ {
		for x := 20; x < 80; x++ {
			img.SetNRGBA(x, y, color.NRGBA{9, 80, 40, 255})
		}
	}
	_, f := put(t, still.PNG, mediatest.PNG(t, img))
	if m := f.Mark; m.Solid || m.Left != 0.2 || m.Top != 0.2 || m.Right != 0.8 || m.Bottom != 0.6 {
		t.Errorf("trimmed: %+v", m)
	}
	for i := 0; i < len(img.Pix); i += 4 {
		if img.Pix[i+3] == 0 {
			copy(img.Pix[i:], []byte{250, 248, 240, 255})
		}
	}
	_, f = put(t, still.PNG, mediatest.PNG(t, img))
	if f.Alpha || !f.Mark.Solid || f.Mark.Ground != "#faf8f0" {
		t.Errorf("on a flat ground: %+v", f)
	}
	if _, f = put(t, still.JPEG, mediatest.JPEG(t, img, 0)); f.Mark.Ground == "" {
		t.Errorf("on a flat ground, as JPEG: %+v", f)
	}
	if _, f = put(t, still.PNG, mediatest.PNG(t, mediatest.Quarters(40, 40))); f.Mark.Ground != "" || !f.Mark.Solid {
		t.Errorf("a photograph: %+v", f)
	}
	if _, f = put(t, still.PNG, mediatest.PNG(t, image.NewNRGBA(image.Rect(0, 0, 5, 5)))); f.Mark != (raster.Mark{}) {
		t.Errorf("clear all over: %+v", f)
	}
}

func TestSVGSizes(t *testing.T) {
	for attrs, want := range map[string]image.Point{
		`width="120" height="80"`:                      {120, 80},
		`width="1in" height="25.4mm"`:                  {96, 96},
		`viewBox="0 0 300 150"`:                        {300, 150},
		`width="100%" height="100%" viewBox="0,0,7,9"`: {7, 9},
		`width="200" viewBox="0 0 100 50"`:             {200, 100},
		``:                                             {300, 150}, // CSS 2.2, 10.3.2
	} {
		_, f := put(t, still.SVG, []byte(`<?xml version="1.0"?><svg xmlns="http://www.w3.org/2000/svg" `+attrs+`><rect width="5" height="5" fill="url(#a)"/></svg>`))
		if f.Width != want.X || f.Height != want.Y {
			t.Errorf("%s: %d × %d, want %v", attrs, f.Width, f.Height, want)
		}
	}
}

// Text in a drawing is drawn in the faces that ship: each letter as itself, in serifs
// and in equal widths where those are asked for. What no face has is a box, the same
// for all.
func TestTextInDrawingsIsDrawn(t *testing.T) {
	draw := func(text, family string) *raster.Surface {
		t.Helper()
		path, f := put(t, still.SVG, []byte(`<svg xmlns="http://www.w3.org/2000/svg" width="120" height="40"><text x="4" y="30" font-size="28" font-family="`+family+`">`+text+`</text></svg>`))
		s, err := still.Decode(context.Background(), still.SVG, path, f, 120, 40)
		if err != nil {
			t.Fatal(err)
		}
		return s
	}
	ink := func(s *raster.Surface) (right int) {
		for y := range s.H {
			for x := range s.W {
				if _, _, _, a := s.At(x, y); a > 60 {
					right = max(right, x)
				}
			}
		}
		return
	}
	if l, w := ink(draw("illi", "sans-serif")), ink(draw("WMWM", "sans-serif")); l < 10 || w < 2*l {
		t.Errorf("illi reaches to %d, WMWM to %d", l, w)
	}
	if l, w := ink(draw("illi", "monospace")), ink(draw("WMWM", "monospace")); w-l > 6 {
		t.Errorf("in equal widths illi reaches to %d, WMWM to %d", l, w)
	}
	if bytes.Equal(draw("E", "serif").Pix, draw("E", "sans-serif").Pix) || bytes.Equal(draw("E", "Georgia").Pix, draw("E", "Arial").Pix) {
		t.Error("serifs are drawn as without")
	}
	if bytes.Equal(draw("ж", "sans-serif").Pix, draw("б", "sans-serif").Pix) {
		t.Error("two letters look the same")
	}
}

// The Go project's TIFF writer and ffmpeg's are the sources: both come back as
// they went in.
func TestTIFFsComeBackAsTheyWentIn(t *testing.T) {
	img := mediatest.Quarters(40, 30)
	img.SetNRGBA(3, 3, color.NRGBA{100, 50, 25, 51})
	files := map[string][]byte{}
	for name, o := range map[string]*tiff.Options{"plain": nil, "deflate": {Compression: tiff.Deflate, Predictor: true}} {
		var b bytes.Buffer
		if err := tiff.Encode(&b, img, o); err != nil {
			t.Fatal(err)
		}
		files[name] = b.Bytes()
	}
	for name, args := range map[string][]string{"lzw": {"-compression_algo", "lzw"}, "16 bits": {"-pix_fmt", "rgb48le"}} {
		path := filepath.Join(t.TempDir(), "t.tiff")
		mediatest.FFmpeg(t, bytes.NewReader(mediatest.PNG(t, img)), append(append([]string{"-f", "png_pipe", "-i", "-"}, args...), path)...)
		var err error
		if files[name], err = os.ReadFile(path); err != nil {
			t.Fatal(err)
		}
	}
	for name, data := range files {
		s := pixels(t, still.TIFF, data, 40, 30)
		for _, p := range []image.Point{{5, 5}, {35, 5}, {5, 25}, {35, 25}} {
			r, g, b, a := s.At(p.X, p.Y)
			if w := img.NRGBAAt(p.X, p.Y); !near(r, w.R, 1) || !near(g, w.G, 1) || !near(b, w.B, 1) || a != 255 {
				t.Errorf("%s at %v: %d %d %d %d, want %v", name, p, r, g, b, a, w)
			}
		}
	}
	if r, g, b, a := pixels(t, still.TIFF, files["plain"], 40, 30).At(3, 3); r != 20 || g != 10 || b != 5 || a != 51 {
		t.Errorf("alpha: %d %d %d %d", r, g, b, a)
	}
}

// The press's own formula is the referee of print colours: its table holds whole
// steps of L*a*b*, which deep colours feel most; 8/255 are left for that, and
// 2/255 in the mean.
func TestPrintColoursFollowTheirProfile(t *testing.T) {
	const n = 24
	pix := make([]byte, n*n*4)
	ink := func(i int) (c, m, y, k float64) {
		return float64(i%n) / (n - 1), float64(i/n) / (n - 1), float64((i*7)%n) / (n - 1), float64((i*5)%n) / (n - 1) * 0.6
	}
	for i := range n * n {
		c, m, y, k := ink(i)
		for j, v := range [4]float64{c, m, y, k} {
			pix[i*4+j] = byte(255 - math.Round(v*255))
		}
	}
	// The transform alone, as JPEG would blur neighbours.
	_, f := put(t, still.JPEG, mediatest.WithProfile(mediatest.PrintJPEG(t, pix, n, n), mediatest.Press()))
	if f.Space != "CMYK" {
		t.Fatalf("%+v", f)
	}
	got := mediatest.Converted(t, mediatest.Press(), pix)
	sum := 0.0
	for i := range n * n {
		r, g, b := mediatest.PressColour(ink(i))
		for j, lin := range [3]float64{r, g, b} {
			v := 12.92 * lin
			if lin > 0.0031308 { // IEC 61966-2-1
				v = 1.055*math.Pow(lin, 1/2.4) - 0.055
			}
			d := math.Abs(float64(got[i*4+j]) - v*255)
			if sum += d; d > 8 {
				t.Fatalf("inks %d, channel %d: %d, want %.1f", i, j, got[i*4+j], v*255)
			}
		}
	}
	if mean := sum / (3 * n * n); mean > 2 {
		t.Errorf("colours are %.2f off in the mean", mean)
	}
}

func TestOnePictureGIFs(t *testing.T) {
	img := image.NewPaletted(image.Rect(2, 3, 10, 11), color.Palette{color.NRGBA{0, 0, 0, 0}, color.NRGBA{220, 30, 30, 255}})
	for i := range img.Pix {
		img.Pix[i] = uint8(i / 32)
	}
	var b bytes.Buffer
	if err := gif.EncodeAll(&b, &gif.GIF{Image: []*image.Paletted{img}, Delay: []int{0}, Config: image.Config{Width: 16, Height: 16, ColorModel: img.Palette}}); err != nil {
		t.Fatal(err)
	}
	if still.GIFMoves(bytes.NewReader(b.Bytes())) {
		t.Error("one picture moves")
	}
	s := pixels(t, still.GIF, b.Bytes(), 16, 16)
	if r, _, _, a := s.At(5, 9); s.W != 16 || r != 220 || a != 255 {
		t.Errorf("%d × %d, %d %d", s.W, s.H, r, a)
	}
	if _, _, _, a := s.At(0, 0); a != 0 {
		t.Error("outside its picture it is not clear")
	}
}

// Every reader of ours that looks into files, on whatever comes.
func FuzzReaders(f *testing.F) {
	f.Add(mediatest.WithProfile(mediatest.PNG(f, mediatest.Quarters(4, 4)), mediatest.WideRGB()))
	f.Add(mediatest.WithProfile(mediatest.JPEG(f, mediatest.Quarters(8, 8), 6), mediatest.DarkGrey()))
	f.Add([]byte("GIF89a\x01\x00\x01\x00\x80\x00\x00abcdef\x2c\x00\x00\x00\x00\x01\x00\x01\x00\x00\x02\x02\x44\x01\x00;"))
	f.Add([]byte("RIFF\x14\x00\x00\x00WEBPVP8X\x0a\x00\x00\x00\x10\x00\x00\x00\x07\x00\x00\x07\x00\x00"))
	f.Add([]byte("RIFF\x2c\x00\x00\x00WEBPVP8L\x05\x00\x00\x00\x2f\xff\xff\xff\x0f\x00VP8X\x0a\x00\x00\x00\x00\x00\x00\x00\x00\x00\x00\x00\x00\x00"))
	// EXIF whose two directories name each other as the next.
	f.Add([]byte("\xff\xd8\xff\xe1\x00\x34Exif\x00\x00II*\x00\x08\x00\x00\x00\x01\x00\x12\x01\x03\x00\x01\x00\x00\x00\x06\x00\x00\x00\x1a\x00\x00\x00" +
		"\x01\x00\x12\x01\x03\x00\x01\x00\x00\x00\x03\x00\x00\x00\x08\x00\x00\x00\xff\xd9"))
	// Three passes of a progressive picture.
	f.Add([]byte("\xff\xd8\xff\xc2\x00\x0b\x08\x00\x10\x00\x10\x01\x01\x11\x00\xff\xda\x00\x02ab\xff\x00\xff\xd0\xff\xda\x00\x02cd\xff\xda\x00\x02ef\xff\xd9"))
	f.Add([]byte("II*\x00\x08\x00\x00\x00\x01\x00\x12\x01\x03\x00\x01\x00\x00\x00\x06\x00\x00\x00\x00\x00\x00\x00"))
	f.Fuzz(func(t *testing.T, data []byte) { still.Scan(data) })
}

// Files that are looked at are admitted by their size: 20 pictures of 240 MB at
// once would take all memory.
func TestFilesAreAdmittedByTheirSize(t *testing.T) {
	path := filepath.Join(t.TempDir(), "large")
	f, err := os.Create(path)
	if err != nil {
		t.Fatal(err)
	}
	if err := f.Truncate(still.ReadBytes * 2 / 3); err != nil { // takes no room on the disk
		t.Fatal(err)
	}
	f.Close()
	_, leave, err := still.Read(context.Background(), path, still.MaxBytes)
	if err != nil {
		t.Fatal(err)
	}
	soon, cancel := context.WithTimeout(context.Background(), 50*time.Millisecond)
	defer cancel()
	if _, _, err := still.Read(soon, path, still.MaxBytes); !errors.Is(err, context.DeadlineExceeded) {
		t.Errorf("a second one came in: %v", err)
	}
	leave()
	_, leave, err = still.Read(context.Background(), path, still.MaxBytes)
	if err != nil {
		t.Fatal(err)
	}
	leave()
	// The largest that may come in finds room at all.
	if err := os.Truncate(path, still.MaxBytes); err != nil {
		t.Fatal(err)
	}
	if _, leave, err = still.Read(context.Background(), path, still.MaxBytes); err != nil {
		t.Fatal(err)
	}
	leave()
	var refused *still.RefusedError
	if _, _, err := still.Read(context.Background(), path, still.MaxBytes-1); !errors.As(err, &refused) {
		t.Errorf("%v", err)
	}
}

// What is told of a picture: that it holds several, that nothing of it is seen, and that
// its colours were changed where that can be seen: gAMA 45455, which PNG (second
// edition, 11.3.3.2) asks writers of sRGB for, can't.
func TestWhatIsToldOfAPicture(t *testing.T) {
	chunk := func(kind string, data []byte) []byte {
		b := binary.BigEndian.AppendUint32(nil, uint32(len(data)))
		b = append(append(b, kind...), data...)
		return binary.BigEndian.AppendUint32(b, crc32.ChecksumIEEE(b[4:]))
	}
	plain := mediatest.PNG(t, mediatest.Quarters(20, 20))
	with := func(c []byte) []byte { return slices.Concat(plain[:33], c, plain[33:]) }
	for gamma, slight := range map[uint32]bool{45455: true, 100000: false} {
		_, f := put(t, still.PNG, with(chunk("gAMA", binary.BigEndian.AppendUint32(nil, gamma))))
		if f.Space == "" || f.Slight != slight {
			t.Errorf("gAMA %d: %+v", gamma, f)
		}
	}
	var b bytes.Buffer
	if err := tiff.Encode(&b, mediatest.Quarters(20, 20), nil); err != nil {
		t.Fatal(err)
	}
	one := b.Bytes()
	if _, f := put(t, still.TIFF, one); f.Pages != 0 {
		t.Errorf("one picture: %+v", f)
	}
	// The first directory again at the end, as the second one.
	at := binary.LittleEndian.Uint32(one[4:])
	n := 2 + 12*int(binary.LittleEndian.Uint16(one[at:])) + 4
	two := slices.Concat(one, one[at:int(at)+n])
	binary.LittleEndian.PutUint32(two[int(at)+n-4:], uint32(len(one)))
	if _, f := put(t, still.TIFF, two); f.Pages != 2 {
		t.Errorf("two pictures: %+v", f)
	}
	binary.LittleEndian.PutUint32(two[len(two)-4:], at) // in a circle
	if _, f := put(t, still.TIFF, two); f.Pages != 2 {
		t.Errorf("in a circle: %+v", f)
	}
}
