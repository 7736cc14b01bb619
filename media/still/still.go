// Package still is the room for pictures that do not move: reading each kind of
// file, checking it, and its pixels, upright and in sRGB. Files are hostile
// until they have been through Inspect.
package still

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"image"
	"io"
	"os"
	"time"

	"ivypocket/core/raster"
	"ivypocket/media/icc"
	"ivypocket/media/limits"
)

// Kind is what a picture file is by its content.
type Kind string

const (
	PNG  Kind = "png"
	JPEG Kind = "jpeg"
	WebP Kind = "webp"
	GIF  Kind = "gif"
	AVIF Kind = "avif"
	TIFF Kind = "tiff"
	BMP  Kind = "bmp"
	SVG  Kind = "svg"
)

// Limits of what comes in, and of the helpers that read it.
const (
	MaxBytes       = limits.PictureBytes
	MaxVectorBytes = limits.VectorBytes
	MaxSide        = limits.PictureSide
	MaxPixels      = limits.PicturePixels
	MaxVectorDepth = limits.VectorDepth
	MaxVectorNodes = limits.VectorNodes
	helperTime     = 20 * time.Second
)

// Facts is what is known of a checked picture.
type Facts struct {
	// Width and Height are of the upright picture.
	Width       int    `json:"width"`
	Height      int    `json:"height"`
	Orientation int    `json:"orientation,omitempty"` // EXIF 2.32, 1 to 8; 0 is 1
	Alpha       bool   `json:"alpha,omitempty"`       // may have transparent parts
	Space       string `json:"space,omitempty"`       // of its colours, when they are converted
	Slight      bool   `json:"slight,omitempty"`      // that is not seen
	Pages       int    `json:"pages,omitempty"`       // when it holds several pictures; the first is taken
	// Notes says for people what was left out of it or is drawn otherwise.
	Notes []string `json:"notes,omitempty"`
	// Mark is what can be seen of it, in shares of its size.
	Mark raster.Mark `json:"mark"`
}

// RefusedError says why a file may not come in, for people.
type RefusedError struct{ Reason string }

func (e *RefusedError) Error() string { return e.Reason }

// Refuse makes a RefusedError.
func Refuse(format string, args ...any) error { return &RefusedError{fmt.Sprintf(format, args...)} }

// reader is one kind of picture file.
type reader interface {
	// head reads what can be known without decoding: its size as stored, and
	// why it may not come in. data is the whole file.
	head(ctx context.Context, path string, data []byte) (Facts, error)
	// pixels decodes at w×h of the stored picture or more; what can't shrink on
	// the way gives its full size.
	pixels(ctx context.Context, path string, data []byte, f Facts, w, h int) (*raster.Surface, error)
}

var readers = map[Kind]reader{
	PNG: pngReader{}, JPEG: jpegReader{}, WebP: webpReader{}, GIF: gifReader{},
	AVIF: avifReader{}, TIFF: tiffReader{}, BMP: bmpReader{}, SVG: svgReader{},
}

// decodeBytes bounds the memory of all pictures being decoded at one time, in
// this process; who finds it taken waits. A third is for those that take no more
// than one of 16 megapixels does.
const decodeBytes = 1 << 30

var admit = newRoom(decodeBytes, decodeBytes/3, 192<<20)

// enter waits until a picture may be decoded at a size; leave lets the next one in.
func enter(ctx context.Context, kind Kind, f Facts, w, h int) (leave func(), err error) {
	// Twice its pixels, as a decoder has a picture of its own; 16-bit ones have
	// twice as many bytes again.
	need := int64(f.Width) * int64(f.Height) * 12
	if kind.Shrinks() {
		// Decoding shrinks by up to 8 on the way.
		need = min(need, int64(w)*int64(h)*16+4<<20)
	}
	return admit.enter(ctx, need)
}

// readBytes bounds the files held in memory at one time to be looked at and
// decoded; it has room for the largest, and beside it for small ones. Who waits to
// decode holds its file, and nobody who decodes waits for a file.
const readBytes = MaxBytes + MaxBytes/4

var reading = newRoom(readBytes, MaxBytes/4, MaxBytes/16)

// read reads a file whole once there is room for it; leave makes room again.
func read(ctx context.Context, path string, limit int64) (data []byte, leave func(), err error) {
	f, err := os.Open(path)
	if err != nil {
		return nil, nil, err
	}
	defer f.Close()
	st, err := f.Stat()
	if err != nil {
		return nil, nil, err
	}
	if st.Size() > limit {
		return nil, nil, Refuse("The picture is %d MB; the limit is %d MB.", st.Size()>>20, limit>>20)
	}
	if leave, err = reading.enter(ctx, st.Size()); err != nil {
		return nil, nil, err
	}
	data = make([]byte, st.Size())
	if _, err := io.ReadFull(f, data); err != nil {
		leave()
		return nil, nil, err
	}
	return data, leave, nil
}

// ending reads data until a context ends, so that decoding it ends too.
func ending(ctx context.Context, data []byte) *endingReader {
	return &endingReader{ctx: ctx, r: bytes.NewReader(data)}
}

type endingReader struct {
	ctx context.Context
	r   *bytes.Reader
}

func (e *endingReader) Read(p []byte) (int, error) {
	if err := e.ctx.Err(); err != nil {
		return 0, err
	}
	return e.r.Read(p)
}

func (e *endingReader) ReadAt(p []byte, off int64) (int, error) {
	if err := e.ctx.Err(); err != nil {
		return 0, err
	}
	return e.r.ReadAt(p, off)
}

// trySide is the size at which a picture is decoded to notice damage and to
// measure what is seen of it; what can't shrink is decoded whole.
const trySide = 512

// Inspect checks a file of a kind. What may not come in is a *RefusedError.
func Inspect(ctx context.Context, kind Kind, path string) (Facts, error) {
	r, ok := readers[kind]
	if !ok {
		return Facts{}, Refuse("Pictures of the kind %q are not read.", kind)
	}
	limit := int64(MaxBytes)
	if kind == SVG {
		limit = MaxVectorBytes
	}
	data, done, err := read(ctx, path, limit)
	if err != nil {
		return Facts{}, err
	}
	defer done()
	f, err := r.head(ctx, path, data)
	if err != nil {
		return f, err
	}
	if err := checkSize(f.Width, f.Height); err != nil {
		return f, err
	}
	w, h := f.Width, f.Height
	for w > trySide || h > trySide {
		w, h = (w+1)/2, (h+1)/2
	}
	leave, err := enter(ctx, kind, f, w, h)
	if err != nil {
		return f, err
	}
	defer leave()
	s, err := r.pixels(ctx, path, data, f, w, h)
	if err != nil {
		if cerr := ctx.Err(); cerr != nil {
			return f, cerr // which not every decoder passes on
		}
		var refused *RefusedError
		if errors.As(err, &refused) {
			return f, err
		}
		return f, Refuse("The %s is damaged: %s.", kind.Name(), err)
	}
	if f.Alpha = f.Alpha && !s.Opaque; kind == SVG {
		f.Alpha = true
	}
	s = s.Oriented(f.Orientation)
	f.Mark = s.MeasureMark()
	if f.Orientation >= 5 {
		f.Width, f.Height = f.Height, f.Width
	}
	return f, nil
}

// Decode gives the pixels of a checked picture, upright, at w×h or more, or at
// its full size. What it reads is bounded by what Inspect let in.
func Decode(ctx context.Context, kind Kind, path string, f Facts, w, h int) (*raster.Surface, error) {
	r, ok := readers[kind]
	if !ok {
		return nil, fmt.Errorf("pictures of the kind %q are not read", kind)
	}
	data, done, err := read(ctx, path, MaxBytes)
	if err != nil {
		return nil, err
	}
	defer done()
	if f.Orientation >= 5 {
		w, h = h, w
		f.Width, f.Height = f.Height, f.Width
	}
	leave, err := enter(ctx, kind, f, w, h)
	if err != nil {
		return nil, err
	}
	defer leave()
	s, err := r.pixels(ctx, path, data, f, w, h)
	if err != nil {
		if cerr := ctx.Err(); cerr != nil {
			return nil, cerr
		}
		return nil, err
	}
	return s.Oriented(f.Orientation), nil
}

// Shrinks reports whether a kind can be decoded smaller than it is, so that
// nothing is gained by keeping it decoded at its full size.
func (k Kind) Shrinks() bool { return k == JPEG || k == SVG || k == WebP }

// Name is the kind as people write it.
func (k Kind) Name() string {
	return map[Kind]string{PNG: "PNG", JPEG: "JPEG", WebP: "WebP", GIF: "GIF", AVIF: "AVIF", TIFF: "TIFF", BMP: "BMP", SVG: "SVG"}[k]
}

func checkSize(w, h int) error {
	if w < 1 || h < 1 {
		return Refuse("The picture has no size.")
	}
	if w > MaxSide || h > MaxSide || w*h > MaxPixels {
		return Refuse("The picture is %d × %d px; the limit is %d Mpx and %d px a side. Shrink it first.", w, h, MaxPixels/1_000_000, MaxSide)
	}
	return nil
}

// inSRGB makes a surface of a decoded image whose colours are a profile's; nil
// is sRGB already.
func inSRGB(ctx context.Context, img image.Image, t *icc.Transform) (*raster.Surface, error) {
	if t == nil || t.Same || t.Space == icc.CMYK {
		return raster.FromImage(img), nil
	}
	b := img.Bounds()
	s := raster.NewSurface(b.Dx(), b.Dy())
	switch m := img.(type) {
	case *image.NRGBA:
		for y := range s.H {
			copy(s.Pix[y*s.W*4:(y+1)*s.W*4], m.Pix[m.PixOffset(b.Min.X, b.Min.Y+y):])
		}
	case *image.Gray:
		if t.Space == icc.Grey {
			for y := range s.H {
				i := m.PixOffset(b.Min.X, b.Min.Y+y)
				t.Convert(s.Pix[y*s.W*4:(y+1)*s.W*4], m.Pix[i:i+s.W])
			}
			s.Opaque = true
			return s, nil
		}
		straight(s, img)
	default:
		straight(s, img)
	}
	if err := convert(ctx, s, t); err != nil {
		return nil, err
	}
	s.Premultiply()
	return s, nil
}

// straight copies an image with straight alpha.
func straight(s *raster.Surface, img image.Image) {
	b := img.Bounds()
	for y := range s.H {
		for x := range s.W {
			r, g, bl, a := img.At(b.Min.X+x, b.Min.Y+y).RGBA()
			o := (y*s.W + x) * 4
			for k, v := range [3]uint32{r, g, bl} {
				if a != 0 {
					s.Pix[o+k] = uint8(min(255, (v*255+a/2)/a))
				}
			}
			s.Pix[o+3] = uint8((a*255 + 32767) / 65535)
		}
	}
}

// convert brings straight colours to sRGB in place. Grey pictures may have a
// profile for grey alone.
func convert(ctx context.Context, s *raster.Surface, t *icc.Transform) error {
	if t == nil || t.Same {
		return nil
	}
	if t.Space != icc.Grey {
		return inBands(ctx, s, func(b *raster.Surface) { t.Convert(b.Pix, b.Pix) })
	}
	var grey, alpha []byte
	return inBands(ctx, s, func(b *raster.Surface) {
		n := b.W * b.H
		grey, alpha = append(grey[:0], make([]byte, n)...), append(alpha[:0], make([]byte, n)...)
		for i := range n {
			grey[i], alpha[i] = b.Pix[i*4], b.Pix[i*4+3]
		}
		t.Convert(b.Pix, grey)
		for i := range n {
			b.Pix[i*4+3] = alpha[i]
		}
	})
}

// bandPixels is how much of a picture is converted before anybody asks whether
// it is still wanted.
const bandPixels = 1 << 20

// inBands does something to a picture some rows at a time, until a context ends.
func inBands(ctx context.Context, s *raster.Surface, do func(band *raster.Surface)) error {
	rows := max(1, bandPixels/max(1, s.W))
	for y := 0; y < s.H; y += rows {
		if err := ctx.Err(); err != nil {
			return err
		}
		n := min(rows, s.H-y)
		do(&raster.Surface{W: s.W, H: n, Pix: s.Pix[y*s.W*4 : (y+n)*s.W*4]})
	}
	return nil
}

// profile parses a colour profile; one that can't be read is ignored, as
// browsers do.
func profile(b []byte) *icc.Transform {
	if len(b) == 0 {
		return nil
	}
	t, err := icc.Parse(b)
	if err != nil {
		return nil
	}
	return t
}

// spaced says how a transform changes a picture's colours.
func (f *Facts) spaced(t *icc.Transform) {
	f.Space = spaceOf(t)
	f.Slight = f.Space != "" && t.Slight()
}

// spaceOf says which colours are converted, for people; "" is none.
func spaceOf(t *icc.Transform) string {
	if t == nil || t.Same {
		return ""
	}
	return string(t.Space)
}
