package media_test

import (
	"bytes"
	"compress/gzip"
	"compress/zlib"
	"context"
	"encoding/binary"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"runtime"
	"strings"
	"testing"
	"time"

	"ivypocket/media"
	"ivypocket/media/mediatest"
)

// laughs is a drawing whose entities unfold to a gigabyte.
func laughs() string {
	b := `<!DOCTYPE svg [<!ENTITY e0 "ha ha ha ha">`
	for i := range 9 {
		b += fmt.Sprintf(`<!ENTITY e%d "%s">`, i+1, strings.Repeat(fmt.Sprintf("&e%d;", i), 10))
	}
	return b + "]>" + svg("<text>&e9;</text>")
}

// zeros is a small packed file that is large.
func zeros() []byte {
	var b bytes.Buffer
	z := gzip.NewWriter(&b)
	_, _ = z.Write([]byte(svg("")))
	_, _ = z.Write(bytes.Repeat([]byte(" "), 64<<20))
	_ = z.Close()
	return b.Bytes()
}

func svg(inside string) string {
	return `<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" width="10" height="10">` + inside + `</svg>`
}

// box is a box of ISO/IEC 14496-12.
func box(kind string, data string) string {
	return string(binary.BigEndian.AppendUint32(nil, uint32(len(data)+8))) + kind + data
}

// webp is a RIFF file of WebP chunks.
func webp(chunks string) string {
	return "RIFF" + string(binary.LittleEndian.AppendUint32(nil, uint32(len(chunks)+4))) + "WEBP" + chunks
}

// hostile is a corpus of files that must not come in, each with a word of the
// reason that people are told. All are made here.
func hostile(t testing.TB) []struct {
	name, reason string
	data         []byte
} {
	pic := mediatest.PNG(t, mediatest.Quarters(64, 64))
	jpg := mediatest.JPEG(t, mediatest.Quarters(64, 64), 6)
	clip := mediatest.Clip(t, 64, 48, "25", 5)
	fast := mediatest.Clip(t, 64, 48, "25", 30, "-movflags", "+faststart")
	mkv := mediatest.Film(t, 64, 48, "25", 30, "a.mkv", "-c:v", "libx264", "-pix_fmt", "yuv420p")
	moving := mediatest.Film(t, 64, 48, "25", 6, "m.gif")
	made := func(name string, args ...string) []byte { return mediatest.Film(t, 64, 48, "25", 5, name, args...) }
	lossy := mediatest.Film(t, 64, 48, "25", 1, "w.webp", "-c:v", "libwebp")
	avif := mediatest.Film(t, 64, 48, "25", 1, "a.avif", "-c:v", "libaom-av1", "-still-picture", "1", "-cpu-used", "8")
	bmp := mediatest.Film(t, 64, 48, "25", 1, "b.bmp", "-pix_fmt", "bgr24")
	tiff := mediatest.Film(t, 64, 48, "25", 1, "t.tiff")
	sound := func(name string, args ...string) []byte {
		path := filepath.Join(t.TempDir(), name)
		mediatest.FFmpeg(t, nil, append(append([]string{"-f", "lavfi", "-i", "sine=d=0.5"}, args...), path)...)
		b, err := os.ReadFile(path)
		if err != nil {
			t.Fatal(err)
		}
		return b
	}
	wav := sound("w.wav")
	cut := func(b []byte, n int) []byte { return append([]byte(nil), b[:n]...) }
	flip := func(b []byte, at int, mask byte) []byte { c := append([]byte(nil), b...); c[at] ^= mask; return c }
	with := func(b []byte, at int, put string) []byte {
		c := append([]byte(nil), b...)
		copy(c[at:], put)
		return c
	}
	at := func(b []byte, what string) int {
		i := bytes.Index(b, []byte(what))
		if i < 0 {
			t.Fatalf("no %q", what)
		}
		return i
	}
	jpegProgressive := mediatest.Film(t, 64, 48, "25", 1, "p.jpg")
	bigTIFF := with(tiff, 0, "")
	for i := int(binary.LittleEndian.Uint32(bigTIFF[4:])) + 2; i+12 < len(bigTIFF); i += 12 {
		if tag := binary.LittleEndian.Uint16(bigTIFF[i:]); tag == 256 || tag == 257 {
			binary.LittleEndian.PutUint16(bigTIFF[i+2:], 4)
			binary.LittleEndian.PutUint32(bigTIFF[i+8:], 25000)
		} else if tag > 257 {
			break
		}
	}
	type f = struct {
		name, reason string
		data         []byte
	}
	return []f{
		// What is no media at all, whatever it is called.
		{"empty", "empty", nil},
		{"text", "What comes in", []byte("hello there")},
		{"zeros", "What comes in", make([]byte, 5000)},
		{"a script", "script", []byte("#!/bin/sh\nrm -rf /\n")},
		{"a playlist", "playlist", []byte("#EXTM3U\n#EXTINF:1,\nfile:///etc/passwd\n")},
		{"a concat script", "playlist", []byte("ffconcat version 1.0\nfile /etc/passwd\n")},
		{"a program", "program", []byte("\x7fELF\x02\x01\x01")},
		{"another program", "program", []byte("MZ\x90\x00\x03")},
		{"a web page", "html", []byte("<!doctype html><html><script>alert(1)</script></html>")},
		{"a PDF", "pdf", []byte("%PDF-1.4\n")},
		{"an archive", "zip", []byte("PK\x03\x04\x14\x00\x00\x00\x08\x00")},
		{"a PostScript picture", "What comes in", []byte("%!PS\n%%EOF\n")},
		{"a picture of layers", "What comes in", []byte("8BPS\x00\x01")},
		{"a PNG signature alone", "PNG", []byte("\x89PNG\r\n\x1a\n")},
		// PNG.
		{"a PNG broken off", "breaks off", cut(pic, len(pic)-30)},
		{"a PNG with a wrong sum", "PNG", flip(pic, 50, 1)},
		{"a PNG bomb", "60000", mediatest.BombPNG(60000, 60000)},
		{"a PNG of 20 000 × 20 000", "Mpx", mediatest.BombPNG(20000, 20000)},
		{"a PNG without pixels", "damaged", mediatest.BombPNG(100, 100)},
		{"a PNG of no width", "PNG", mediatest.BombPNG(0, 100)},
		{"a PNG whose chunk is endless", "breaks off", with(pic, 33, "\x7f\xff\xff\xff")},
		{"a PNG of HDR", "HDR", mediatest.PNGChunk(pic, "cICP", []byte{9, 16, 0, 1})},
		// JPEG.
		{"a JPEG broken off", "breaks off", cut(jpg, len(jpg)-20)},
		{"a JPEG of only a head", "What comes in", cut(jpg, 2)},
		{"a JPEG of three bytes", "JPEG", cut(jpg, 3)},
		{"a JPEG with noise for data", "JPEG", append(cut(jpg, len(jpg)-200), bytes.Repeat([]byte{0xff}, 200)...)},
		{"a JPEG of 65 000 × 65 000", "JPEG", with(jpg, at(jpg, "\xff\xc0")+5, "\xfd\xe8\xfd\xe8")},
		{"a JPEG of 120 passes", "passes", manyScans(jpegProgressive, 120, 0xc2, "")},
		{"a JPEG of 120 passes with junk between", "passes", manyScans(jpegProgressive, 120, 0xc2, "ab")},
		{"a JPEG of 120 arithmetic passes", "passes", manyScans(jpegProgressive, 120, 0xca, "")},
		{"a JPEG of 120 scans of the usual kind", "passes", manyScans(jpegProgressive, 120, 0xc0, "")},
		// GIF.
		{"a GIF of only a head", "GIF", []byte("GIF89a\x01\x00\x01\x00\x00\x00\x00;")},
		{"a GIF broken off", "GIF", cut(moving, 400)},
		{"a GIF of 65 535 × 65 535", "px", with(with(moving, 6, "\xff\xff\xff\xff"), 0, "")},
		// WebP.
		{"a WebP broken off", "breaks off", cut(lossy, len(lossy)-10)},
		{"a WebP of noise", "WebP", with(lossy, 30, strings.Repeat("\xff", 40))},
		{"a moving WebP", "animated", []byte(webp("VP8X\x0a\x00\x00\x00\x02\x00\x00\x00\x0f\x00\x00\x0f\x00\x00"))},
		{"a WebP of 16 million px a side", "px", []byte(webp("VP8X\x0a\x00\x00\x00\x00\x00\x00\x00\xff\xff\xff\xff\xff\xff"))},
		{"a WebP that says it is small after it was large", "px", []byte(webp("VP8L\x05\x00\x00\x00\x2f\xff\xff\xff\x0f\x00VP8X\x0a\x00\x00\x00\x00\x00\x00\x00\x00\x00\x00\x00\x00\x00"))},
		{"a WebP whose size is not its picture's", "damaged", []byte(webp("VP8X\x0a\x00\x00\x00\x00\x00\x00\x00\x07\x00\x00\x07\x00\x00" + "VP8L\x05\x00\x00\x00\x2f\xff\xff\xff\x0f\x00"))},
		{"a WebP of nothing", "size", []byte(webp("ABCD\x00\x00\x00\x00"))},
		// AVIF and its kin.
		{"an AVIF broken off", "AVIF", cut(avif, len(avif)-40)},
		{"an AVIF of only a head", "AVIF", cut(avif, 60)},
		{"a moving AVIF", "moving AVIF", []byte(box("ftyp", "avis\x00\x00\x00\x00avisavif"))},
		{"a HEIC", "HEIC", []byte(box("ftyp", "heic\x00\x00\x00\x00mif1heic"))},
		// TIFF and BMP.
		{"a TIFF broken off", "TIFF", cut(tiff, len(tiff)/2)},
		{"a TIFF whose tables are elsewhere", "TIFF", []byte("II*\x00\xff\xff\xff\x7f")},
		{"a TIFF of 25 000 × 25 000", "Mpx", bigTIFF},
		{"a BMP broken off", "damaged", cut(bmp, len(bmp)/2)},
		{"a BMP of a billion px", "px", with(bmp, 18, "\x00\x00\x00\x40\x00\x00\x00\x40")},
		// SVG.
		{"an SVG script", "script", []byte(svg(`<script>alert(1)</script>`))},
		{"an SVG event", "script", []byte(svg(`<rect onload="alert(1)"/>`))},
		{"an SVG link outside", "outside", []byte(svg(`<image xlink:href="file:///etc/passwd"/>`))},
		{"an SVG link to the web", "outside", []byte(svg(`<image href="http://192.0.2.1/a.png"/>`))},
		{"an SVG style outside", "style", []byte(svg(`<style>@import "a.css";</style>`))},
		{"an SVG style sheet", "style", []byte(`<?xml-stylesheet href="a.css"?>` + svg(``))},
		{"an SVG fill outside", "outside", []byte(svg(`<rect style="fill:url(http://192.0.2.1/#a)"/>`))},
		{"an SVG whose entities unfold", "unfold", []byte(laughs())},
		{"an SVG whose entity unfolds often", "unfold", []byte(`<!DOCTYPE svg [<!ENTITY a "` + strings.Repeat("a", 9000) + `">]>` + svg(`<text>`+strings.Repeat("&a;", 600)+`</text>`))},
		{"an SVG of markup in entities", "markup", []byte(`<!DOCTYPE svg [<!ENTITY a "<script/>">]>` + svg(`<text>&a;</text>`))},
		{"an SVG of entities of its type", "document type", []byte(`<!DOCTYPE svg [<!ENTITY % a "x">]>` + svg(``))},
		{"an SVG that is packed without end", "SVG", zeros()},
		{"an SVG with a hidden import", "style", []byte(svg(`<style>\40 import "a.css";</style>`))},
		{"an SVG with a hidden url", "outside", []byte(svg(`<rect style="fill:u\72l(http://192.0.2.1/#a)"/>`))},
		{"an SVG that uses another", "outside", []byte(svg(`<use href="other.svg#a"/>`))},
		{"an SVG with an entity outside", "another file", []byte(`<!DOCTYPE svg [<!ENTITY a SYSTEM "file:///etc/passwd">]>` + svg(`<text>&a;</text>`))},
		{"an SVG too deep", "deeper", []byte(svg(strings.Repeat("<g>", 100) + strings.Repeat("</g>", 100)))},
		{"an SVG of too many parts", "parts", []byte(svg(strings.Repeat("<g/>", 200_001)))},
		{"an SVG broken off", "SVG", []byte(svg(`<rect`))},
		{"an SVG too large", "SVG", []byte(`<svg xmlns="http://www.w3.org/2000/svg" width="9e9" height="2"/>`)},
		// Clips.
		{"an MP4 broken off", "breaks off", cut(clip, len(clip)/3)},
		{"an MP4 broken off in its pictures", "breaks off", cut(fast, len(fast)-200)},
		{"an MP4 of only a head", "clip", cut(clip, 40)},
		{"an MP4 of a box of endless size", "breaks off", []byte(box("ftyp", "isom\x00\x00\x02\x00") + "\x00\x00\x00\x01moov\x7f\xff\xff\xff\xff\xff\xff\xff")},
		{"an MP4 of nothing", "track", []byte(box("ftyp", "isom\x00\x00\x02\x00") + box("moov", ""))},
		{"an MP4 that names another file", "track", []byte(box("ftyp", "qt  \x00\x00\x00\x00") + box("moov", box("rmra", box("rmda", box("rdrf", "\x00\x00\x00\x00url \x00\x00\x00\x0cfile:///etc/")))))},
		{"an MP4 of another codec", "codec", made("o.mp4", "-c:v", "mpeg4")},
		{"an MP4 with a comment of 4 MB", "text", noted(clip, 4<<20)},
		{"a Matroska of another codec", "codec", made("o.mkv", "-c:v", "ffv1")},
		{"a Matroska broken off", "breaks off", cut(mkv, len(mkv)*2/3)},
		{"a Matroska of only a head", "clip", []byte("\x1aE\xdf\xa3\x84B\x86\x81\x01")},
		{"an AVI", "avi", made("o.avi", "-c:v", "mjpeg", "-pix_fmt", "yuvj420p")},
		{"a transport stream", "What comes in", made("o.ts", "-c:v", "libx264", "-pix_fmt", "yuv420p")},
		{"a raw stream", "What comes in", made("o.h264", "-c:v", "libx264", "-pix_fmt", "yuv420p")},
		// Sound.
		{"a WAV broken off", "breaks off", cut(wav, len(wav)/2)},
		{"a WAV of only a head", "sound", []byte("RIFF\x0c\x00\x00\x00WAVEfmt \x00\x00\x00\x00")},
		{"a WAV of a million channels", "sound", with(wav, 22, "\xff\xff")},
		{"an MP3 of noise", "sound", append([]byte("ID3\x03\x00\x00\x00\x00\x00\x0a"), bytes.Repeat([]byte{0x55}, 4000)...)},
		{"an Ogg of noise", "sound", append([]byte("OggS\x00\x02"), bytes.Repeat([]byte{0x55}, 4000)...)},
		{"a FLAC of only a head", "sound", []byte("fLaC\x80\x00\x00\x22")},
		{"an M4A of nothing", "sound", []byte(box("ftyp", "M4A \x00\x00\x00\x00") + box("moov", ""))},
	}
}

// Each must be refused in words that name what is wrong, whatever the file is
// called; this process must not grow by more than a small picture takes.
func TestHostileFilesAreRefusedWithAReason(t *testing.T) {
	all := hostile(t)
	if len(all) < 60 {
		t.Errorf("only %d files", len(all))
	}
	dir := t.TempDir()
	runtime.GC()
	var before, after runtime.MemStats
	runtime.ReadMemStats(&before)
	for i, c := range all {
		path := filepath.Join(dir, fmt.Sprintf("holiday %d.jpg", i))
		if err := os.WriteFile(path, c.data, 0o644); err != nil {
			t.Fatal(err)
		}
		var refused *media.RefusedError
		m, err := media.Inspect(context.Background(), path)
		if !errors.As(err, &refused) || !strings.Contains(refused.Reason, c.reason) {
			t.Errorf("%s: %v (%s), want a reason about %q", c.name, err, m.TypeName(), c.reason)
		}
	}
	runtime.ReadMemStats(&after)
	if grown := int64(after.HeapSys) - int64(before.HeapSys); grown > 300<<20 {
		t.Errorf("the process grew by %d MB", grown>>20)
	}
}

// What is sound comes in whatever it is called.
func TestSoundFilesComeInUnderAnyName(t *testing.T) {
	dir := mediatest.NewFolder(t)
	for name, data := range map[string][]byte{
		"song.jpg": mediatest.PNG(t, mediatest.Quarters(8, 8)), "page.html": mediatest.JPEG(t, mediatest.Quarters(8, 8), 0),
		"x.exe": mediatest.Clip(t, 64, 48, "25", 3), "Kühe & Ähren ✨.txt": mediatest.Film(t, 64, 48, "25", 3, "a.webm", "-c:v", "libvpx", "-deadline", "realtime"),
		"noext": mediatest.Film(t, 64, 48, "25", 4, "a.gif"),
	} {
		dir.Put(t, name, data)
	}
	path := filepath.Join(t.TempDir(), "s.m4a")
	mediatest.FFmpeg(t, nil, "-f", "lavfi", "-i", "sine=d=0.5", "-c:a", "aac", "-f", "mp4", path)
	b, err := os.ReadFile(path)
	if err != nil {
		t.Fatal(err)
	}
	if m := dir.Put(t, "film.mp4", b); m.Sound == nil || m.Kind != "sound" {
		t.Errorf("an MP4 without a picture track: %+v", m)
	}
}

// manyScans makes a JPEG of another kind of a baseline one, by its name alone, and
// gives it more passes: its last scan again and again, with junk between that
// decoders pass over (ITU-T T.81, annex B).
func manyScans(data []byte, n int, kind byte, junk string) []byte {
	sof, sos := bytes.Index(data, []byte{0xff, 0xc0}), bytes.Index(data, []byte{0xff, 0xda})
	end := bytes.LastIndex(data, []byte{0xff, 0xd9})
	out := append([]byte(nil), data[:end]...)
	out[sof+1] = kind
	for range n - 1 {
		out = append(append(out, 0xff, 0xfe, 0, 2), junk...) // an empty comment
		out = append(out, data[sos:end]...)
	}
	return append(out, 0xff, 0xd9)
}

// noted puts a comment of n bytes into an MP4's moov box, which is its last, of
// characters that ffmpeg takes long to read.
func noted(clip []byte, n int) []byte {
	text := box("data", "\x00\x00\x00\x01\x00\x00\x00\x00"+strings.Repeat("\\\n", n/2))
	meta := box("meta", "\x00\x00\x00\x00"+box("hdlr", strings.Repeat("\x00", 8)+"mdirappl"+strings.Repeat("\x00", 9))+box("ilst", box("\xa9cmt", text)))
	at := bytes.Index(clip, []byte("moov")) - 4
	moov := string(clip[at+8:]) + box("udta", meta)
	return append(append([]byte(nil), clip[:at]...), box("moov", moov)...)
}

// exifOf is a JPEG whose EXIF is a TIFF of two directories that name each other
// as the next, which is 2 kB for a reader that follows them for ever.
func exifOf(jpg []byte, tiff string) []byte {
	app1 := "Exif\x00\x00" + tiff
	head := append([]byte{0xff, 0xd8, 0xff, 0xe1}, binary.BigEndian.AppendUint16(nil, uint16(len(app1)+2))...)
	return append(append(head, app1...), jpg[2:]...)
}

// The orientation is tag 274 of the first directory (EXIF 2.32, 4.6.4); nothing
// beyond that directory is read.
func TestEXIFThatPointsAtItselfIsReadOnce(t *testing.T) {
	ifd := func(orientation, next int) string {
		b := binary.LittleEndian.AppendUint16(nil, 1)
		b = binary.LittleEndian.AppendUint16(b, 274)
		b = binary.LittleEndian.AppendUint16(b, 3)
		b = binary.LittleEndian.AppendUint32(b, 1)
		b = binary.LittleEndian.AppendUint32(b, uint32(orientation))
		return string(binary.LittleEndian.AppendUint32(b, uint32(next)))
	}
	circle := "II*\x00\x08\x00\x00\x00" + ifd(6, 26) + ifd(3, 8)
	plain := mediatest.JPEG(t, mediatest.Quarters(64, 32), 0)
	for name, c := range map[string]struct {
		tiff string
		turn int
	}{
		"two that name each other": {circle, 6},
		"one that names itself":    {"II*\x00\x08\x00\x00\x00" + ifd(8, 8), 8},
		"one beyond the end":       {"II*\x00\xff\xff\xff\xff", 1},
		"one cut short":            {circle[:20], 1},
		"an orientation of 9":      {"II*\x00\x08\x00\x00\x00" + ifd(9, 0), 1},
		"65535 entries":            {"II*\x00\x08\x00\x00\x00\xff\xff" + ifd(6, 0)[2:], 6},
		"nothing":                  {"", 1},
	} {
		path := filepath.Join(t.TempDir(), "a.jpg")
		if err := os.WriteFile(path, exifOf(plain, c.tiff), 0o644); err != nil {
			t.Fatal(err)
		}
		m, err := media.Inspect(context.Background(), path)
		if err != nil || max(1, m.Still.Orientation) != c.turn {
			t.Errorf("%s: orientation %d, %v; want %d", name, m.Still.Orientation, err, c.turn)
		}
	}
}

// Of many colour profiles in a PNG the first is meant, and the others cost
// nothing: 2 500 of 8 MB each would take a minute to unpack.
func TestOfManyProfilesTheFirstIsTaken(t *testing.T) {
	data := mediatest.PNG(t, mediatest.Quarters(16, 16))
	var z bytes.Buffer
	w := zlib.NewWriter(&z)
	_, _ = w.Write(make([]byte, 8<<20))
	w.Close()
	first := mediatest.PNGChunk(data, "iCCP", append([]byte("p\x00\x00"), z.Bytes()...))
	chunk := first[33 : 33+len(first)-len(data)]
	sound := mediatest.WithProfile(data, mediatest.WideRGB())
	many := append([]byte(nil), sound[33:33+len(sound)-len(data)]...)
	for range 2500 {
		many = append(many, chunk...)
	}
	path := filepath.Join(t.TempDir(), "a.png")
	if err := os.WriteFile(path, append(append(append([]byte(nil), data[:33]...), many...), data[33:]...), 0o644); err != nil {
		t.Fatal(err)
	}
	ctx, cancel := context.WithTimeout(context.Background(), 20*time.Second)
	defer cancel()
	if m, err := media.Inspect(ctx, path); err != nil || m.Still.Space == "" {
		t.Errorf("%+v, %v", m.Still, err)
	}
}

// What nobody waits for any more is not decoded to its end.
func TestInspectingEndsWithItsContext(t *testing.T) {
	png := mediatest.PNG(t, mediatest.Quarters(3000, 2000))
	path := filepath.Join(t.TempDir(), "a.png")
	if err := os.WriteFile(path, png, 0o644); err != nil {
		t.Fatal(err)
	}
	ctx, cancel := context.WithCancel(context.Background())
	cancel()
	var refused *media.RefusedError
	if _, err := media.Inspect(ctx, path); !errors.Is(err, context.Canceled) || errors.As(err, &refused) {
		t.Errorf("%v", err)
	}
	for _, kind := range []string{"png", "gif", "bmp", "tiff"} { // decoders of the Go project
		if kind != "png" {
			if err := os.WriteFile(path, mediatest.Film(t, 1200, 900, "25", 1, "a."+kind), 0o644); err != nil {
				t.Fatal(err)
			}
		}
		if _, err := media.Inspect(&leaving{Context: context.Background(), after: 0}, path); !errors.Is(err, context.Canceled) || errors.As(err, &refused) {
			t.Errorf("%s, left after it was read: %v", kind, err)
		}
	}
}

// leaving is a context that ends when it has been asked for a number of times.
type leaving struct {
	context.Context
	after, asked int
}

func (l *leaving) Err() error {
	if l.asked++; l.asked > l.after {
		return context.Canceled
	}
	return nil
}
