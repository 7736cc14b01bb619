package still

import (
	"bufio"
	"bytes"
	"context"
	"encoding/binary"
	"fmt"
	"image/gif"
	"image/png"
	"io"
	"os"
	"path/filepath"
	"regexp"
	"strconv"

	"golang.org/x/image/bmp"
	"golang.org/x/image/tiff"

	"ivypocket/core/raster"
	"ivypocket/media/helper"
	"ivypocket/media/icc"
)

// WebP is read by dwebp, as its lossy pictures are of BT.601 in limited range,
// which the Go project's reader takes for something else.
type webpReader struct{}

// webpFacts is what the RIFF chunks of a WebP say (RFC 9649).
type webpFacts struct {
	w, h          int
	alpha, moving bool
	profile       []byte
}

func scanWebP(data []byte) (f webpFacts, err error) {
	if len(data) < 20 || string(data[:4]) != "RIFF" || string(data[8:12]) != "WEBP" {
		return f, Refuse("The WebP can't be read: it has no header.")
	}
	if int64(binary.LittleEndian.Uint32(data[4:]))+8 > int64(len(data)) {
		return f, Refuse("The WebP breaks off before its end; it may not have been copied whole.")
	}
	for at := 12; at+8 <= len(data); {
		n := int(binary.LittleEndian.Uint32(data[at+4:]))
		if n < 0 || n > len(data)-at-8 {
			break
		}
		b := data[at+8 : at+8+n]
		switch kind := string(data[at : at+4]); {
		case kind == "VP8X" && n >= 10 && at == 12: // of an extended file it is the first
			f.alpha, f.moving = b[0]&0x10 != 0, b[0]&0x02 != 0
			f.w, f.h = 1+(int(b[4])|int(b[5])<<8|int(b[6])<<16), 1+(int(b[7])|int(b[8])<<8|int(b[9])<<16)
		case kind == "VP8 " && n >= 10 && f.w == 0:
			f.w, f.h = int(binary.LittleEndian.Uint16(b[6:]))&0x3fff, int(binary.LittleEndian.Uint16(b[8:]))&0x3fff
		case kind == "VP8L" && n >= 5 && f.w == 0:
			v := binary.LittleEndian.Uint32(b[1:])
			f.w, f.h, f.alpha = 1+int(v&0x3fff), 1+int(v>>14&0x3fff), v>>28&1 != 0
		case kind == "ICCP" && n <= icc.MaxBytes:
			f.profile = b
		}
		at += 8 + n + n&1
	}
	return f, nil
}

func (webpReader) head(_ context.Context, _ string, data []byte) (Facts, error) {
	s, err := scanWebP(data)
	if err != nil {
		return Facts{}, err
	}
	if s.moving {
		return Facts{}, Refuse("The WebP is animated, which is not read. Convert it to WebM or GIF.")
	}
	f := Facts{Width: s.w, Height: s.h, Alpha: s.alpha}
	f.spaced(profile(s.profile))
	return f, nil
}

func (webpReader) pixels(ctx context.Context, path string, data []byte, f Facts, w, h int) (*raster.Surface, error) {
	args := []string{"-quiet", "-pam"}
	if w*2 <= f.Width && h*2 <= f.Height {
		args = append(args, "-scale", strconv.Itoa(w), strconv.Itoa(h))
	} else {
		w, h = f.Width, f.Height
	}
	out, err := helper.Run(ctx, helper.Spec{Name: "dwebp", Limit: helperTime, Output: int64(w)*int64(h)*4 + pamHeader, Args: append(args, "-o", "-", "--", path)}, nil)
	if err != nil {
		return nil, err
	}
	s, err := parsePAM(out, w, h)
	if err != nil {
		return nil, err
	}
	if f.Space != "" {
		scan, err := scanWebP(data)
		if err != nil {
			return nil, err
		}
		if err := convert(ctx, s, profile(scan.profile)); err != nil {
			return nil, err
		}
	}
	s.Premultiply()
	return s, nil
}

// pamHeader is more than the header of a PAM takes.
const pamHeader = 256

// parsePAM reads RGBA pixels of an expected size (netpbm's PAM).
func parsePAM(b []byte, w, h int) (*raster.Surface, error) {
	end := []byte("ENDHDR\n")
	i := bytes.Index(b[:min(len(b), pamHeader)], end)
	if i < 0 || !bytes.Contains(b[:i], []byte(fmt.Sprintf("WIDTH %d\nHEIGHT %d\nDEPTH 4\n", w, h))) || len(b) < i+len(end)+w*h*4 {
		return nil, fmt.Errorf("its pixels are not as its header says")
	}
	s := raster.NewSurface(w, h)
	copy(s.Pix, b[i+len(end):])
	return s, nil
}

// GIF holds one picture here; animated ones are footage.
type gifReader struct{}

// GIFMoves reports whether a GIF holds more than one picture. It walks the
// blocks (GIF89a) without decoding any, no further than the second picture.
func GIFMoves(r io.Reader) bool {
	pictures := 0
	walkGIF(bufio.NewReaderSize(r, 64<<10), func() bool { pictures++; return pictures < 2 })
	return pictures > 1
}

// walkGIF calls picture for each image descriptor, for as long as it says to go
// on, and reports whether the file ends with a trailer.
func walkGIF(r *bufio.Reader, picture func() bool) (whole bool) {
	skip := func(n int) bool { got, _ := r.Discard(n); return got == n }
	table := func(flags byte) int {
		if flags&0x80 == 0 {
			return 0
		}
		return 3 << (flags&7 + 1)
	}
	blocks := func() bool {
		for {
			n, err := r.ReadByte()
			if err != nil || !skip(int(n)) {
				return false
			}
			if n == 0 {
				return true
			}
		}
	}
	var head [13]byte
	if _, err := io.ReadFull(r, head[:]); err != nil || !skip(table(head[10])) {
		return false
	}
	for {
		kind, err := r.ReadByte()
		if err != nil {
			return false
		}
		switch kind {
		case 0x3b:
			return true
		case 0x21:
			if !skip(1) || !blocks() {
				return false
			}
		case 0x2c:
			// The descriptor, its colours, the code size.
			if _, err := io.ReadFull(r, head[:9]); err != nil || !skip(table(head[8])+1) {
				return false
			}
			if !picture() || !blocks() {
				return false
			}
		default:
			return false
		}
	}
}

func (gifReader) head(_ context.Context, _ string, data []byte) (Facts, error) {
	cfg, err := gif.DecodeConfig(bytes.NewReader(data))
	if err != nil {
		return Facts{}, Refuse("The GIF can't be read: %s.", err)
	}
	if !walkGIF(bufio.NewReader(bytes.NewReader(data)), func() bool { return true }) {
		return Facts{}, Refuse("The GIF breaks off before its end; it may not have been copied whole.")
	}
	return Facts{Width: cfg.Width, Height: cfg.Height, Alpha: true}, nil
}

func (gifReader) pixels(ctx context.Context, _ string, data []byte, f Facts, _, _ int) (*raster.Surface, error) {
	img, err := gif.Decode(ending(ctx, data))
	if err != nil {
		return nil, err
	}
	s := raster.FromImage(img)
	if at := img.Bounds().Min; at.X != 0 || at.Y != 0 || s.W != f.Width || s.H != f.Height {
		whole := raster.NewSurface(f.Width, f.Height)
		whole.Put(s, at.X, at.Y)
		return whole, nil
	}
	return s, nil
}

type tiffReader struct{}

func (tiffReader) head(_ context.Context, _ string, data []byte) (Facts, error) {
	cfg, err := tiff.DecodeConfig(bytes.NewReader(data))
	if err != nil {
		return Facts{}, Refuse("The TIFF can't be read: %s. Save it as PNG.", err)
	}
	f := Facts{Width: cfg.Width, Height: cfg.Height, Alpha: true}
	var t *icc.Transform
	f.Orientation, t = tiffTags(data)
	f.spaced(t)
	f.Pages = pages(data)
	return f, nil
}

func (tiffReader) pixels(ctx context.Context, _ string, data []byte, f Facts, _, _ int) (*raster.Surface, error) {
	img, err := tiff.Decode(ending(ctx, data))
	if err != nil {
		return nil, err
	}
	_, t := tiffTags(data)
	return inSRGB(ctx, img, t)
}

// tiffTags reads orientation (274) and colour profile (34675) of the first
// picture (TIFF 6.0).
func tiffTags(data []byte) (orientation int, t *icc.Transform) {
	var packed []byte
	orientation, packed = firstIFD(data)
	return orientation, profile(packed)
}

// firstIFD reads two values of a TIFF's first directory, and no other
// directory: those may point at each other. It goes no further than the data,
// and takes the first of several.
func firstIFD(data []byte) (orientation int, profile []byte) {
	orientation = 1
	if len(data) < 8 {
		return
	}
	var o binary.ByteOrder = binary.LittleEndian
	if data[0] == 'M' {
		o = binary.BigEndian
	}
	at := int64(o.Uint32(data[4:]))
	if at+2 > int64(len(data)) {
		return
	}
	n := int64(o.Uint16(data[at:]))
	seen := false
	for i := range n {
		e := at + 2 + i*12
		if e+12 > int64(len(data)) {
			return
		}
		switch count := int64(o.Uint32(data[e+4:])); o.Uint16(data[e:]) {
		case 274:
			if v := int(o.Uint16(data[e+8:])); v >= 1 && v <= 8 && !seen {
				orientation, seen = v, true
			}
		case 34675:
			if from := int64(o.Uint32(data[e+8:])); count <= icc.MaxBytes && from+count <= int64(len(data)) && profile == nil {
				profile = data[from : from+count]
			}
		}
	}
	return
}

// pages counts the directories of a TIFF, each of which is a picture; 0 for one
// alone. It ends where they point back.
func pages(data []byte) int {
	if len(data) < 8 {
		return 0
	}
	var o binary.ByteOrder = binary.LittleEndian
	if data[0] == 'M' {
		o = binary.BigEndian
	}
	count, last := 0, int64(0)
	for at := int64(o.Uint32(data[4:])); at > last && at+2 <= int64(len(data)); {
		count++
		last = at
		next := at + 2 + int64(o.Uint16(data[at:]))*12
		if next+4 > int64(len(data)) {
			break
		}
		at = int64(o.Uint32(data[next:]))
	}
	if count < 2 {
		return 0
	}
	return count
}

type bmpReader struct{}

func (bmpReader) head(_ context.Context, _ string, data []byte) (Facts, error) {
	cfg, err := bmp.DecodeConfig(bytes.NewReader(data))
	if err != nil {
		return Facts{}, Refuse("The BMP can't be read: %s. Save it as PNG.", err)
	}
	return Facts{Width: cfg.Width, Height: cfg.Height, Alpha: true}, nil
}

func (bmpReader) pixels(ctx context.Context, _ string, data []byte, _ Facts, _, _ int) (*raster.Surface, error) {
	img, err := bmp.Decode(ending(ctx, data))
	if err != nil {
		return nil, err
	}
	return raster.FromImage(img), nil
}

// AVIF is read by avifdec.
type avifReader struct{}

var (
	avifSize      = regexp.MustCompile(`\* Resolution\s*:\s*(\d+)x(\d+)`)
	avifAlpha     = regexp.MustCompile(`\* Alpha\s*:\s*(.+)`)
	avifPrimaries = regexp.MustCompile(`\* Color Primaries\s*:\s*(\d+)`)
	avifTransfer  = regexp.MustCompile(`\* Transfer Char\.\s*:\s*(\d+)`)
	avifProfile   = regexp.MustCompile(`\* ICC Profile\s*:\s*Present`)
	avifTurn      = regexp.MustCompile(`\* irot \(Rotation\)\s*:\s*(\d+)`)
	avifMirror    = regexp.MustCompile(`\* imir \(Mirror\)\s*:\s*(?:Mode )?(\d+)`)
)

// avifInfoBytes is more than a description takes.
const avifInfoBytes = 64 << 10

func avifInfo(ctx context.Context, path string) (string, error) {
	out, err := helper.Run(ctx, helper.Spec{Name: "avifdec", Limit: helperTime, Output: avifInfoBytes, Args: []string{"--info", path}}, nil)
	return string(out), err
}

func (avifReader) head(ctx context.Context, path string, _ []byte) (Facts, error) {
	info, err := avifInfo(ctx, path)
	if err != nil {
		if ctx.Err() != nil {
			return Facts{}, ctx.Err()
		}
		return Facts{}, Refuse("The AVIF can't be read: %s.", err)
	}
	num := func(r *regexp.Regexp) int {
		if m := r.FindStringSubmatch(info); m != nil {
			n, _ := strconv.Atoi(m[1])
			return n
		}
		return -1
	}
	m := avifSize.FindStringSubmatch(info)
	if m == nil {
		return Facts{}, Refuse("The AVIF can't be read: it does not say its size.")
	}
	var f Facts
	f.Width, _ = strconv.Atoi(m[1])
	f.Height, _ = strconv.Atoi(m[2])
	if a := avifAlpha.FindStringSubmatch(info); a != nil && a[1] != "Absent" {
		f.Alpha = true
	}
	if t := num(avifTransfer); t == 16 || t == 18 {
		return f, Refuse("The AVIF holds brightness beyond white (HDR), which is not read. Save it as an sRGB picture.")
	}
	f.Orientation = heifOrientation(num(avifTurn), num(avifMirror))
	switch {
	case avifProfile.MatchString(info):
		f.Space = "ICC"
	case cicp(num(avifPrimaries), num(avifTransfer)) != nil:
		f.Space = fmt.Sprintf("CICP %d/%d", num(avifPrimaries), num(avifTransfer))
	}
	return f, nil
}

// heifOrientation is the EXIF orientation of HEIF's irot, quarter turns
// against the clock, followed by imir (ISO/IEC 23008-12): 0 mirrors top and
// bottom, 1 left and right. -1 is none.
func heifOrientation(turn, mirror int) int {
	turn = max(turn, 0) & 3
	switch mirror {
	case 0:
		return [4]int{4, 5, 2, 7}[turn]
	case 1:
		return [4]int{2, 7, 4, 5}[turn]
	}
	return [4]int{1, 8, 3, 6}[turn]
}

func (avifReader) pixels(ctx context.Context, path string, _ []byte, f Facts, _, _ int) (*raster.Surface, error) {
	dir, err := helper.Scratch("avif")
	if err != nil {
		return nil, err
	}
	defer os.RemoveAll(dir)
	to := filepath.Join(dir, "out.png")
	// 16 bits of four channels, a byte a row, and the colour profile.
	most := int64(f.Width)*int64(f.Height)*8 + int64(f.Width+f.Height) + icc.MaxBytes + 1<<20
	if _, err := helper.Run(ctx, helper.Spec{Name: "avifdec", Limit: helperTime, Output: avifInfoBytes, File: most, Args: []string{"--jobs", "2", "--depth", "16", "--png-compress", "0",
		"--size-limit", strconv.Itoa(MaxPixels), path, to}}, nil); err != nil {
		return nil, err
	}
	out, err := os.Open(to)
	if err != nil {
		return nil, err
	}
	defer out.Close()
	data, err := io.ReadAll(io.LimitReader(out, most))
	if err != nil {
		return nil, err
	}
	img, err := png.Decode(ending(ctx, data))
	if err != nil {
		return nil, err
	}
	var t *icc.Transform
	var primaries, transfer int
	if _, err := fmt.Sscanf(f.Space, "CICP %d/%d", &primaries, &transfer); err == nil {
		t = cicp(primaries, transfer)
	} else if scan, err := scanPNG(data); err == nil {
		t = profile(scan.profile())
	}
	return inSRGB(ctx, img, t)
}
