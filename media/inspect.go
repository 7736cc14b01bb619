package media

import (
	"bytes"
	"context"
	"encoding/binary"
	"fmt"
	"image/png"
	"io"
	"os"

	"github.com/gabriel-vasile/mimetype"
	"github.com/rwcarlsen/goexif/exif"

	"ivypocket/core/geom"
	"ivypocket/core/scene"
	"ivypocket/core/template"
	"ivypocket/core/timing"
	"ivypocket/media/turbo"
)

// Type is what a file is by its content.
type Type string

const (
	PNG  Type = "png"
	JPEG Type = "jpeg"
	SVG  Type = "svg"
	MP4  Type = "mp4"
)

// Meta is what is known of a checked file.
type Meta struct {
	Type Type               `json:"type" enum:"png,jpeg,svg,mp4"`
	Kind template.MediaKind `json:"kind" enum:"picture,footage"`
	// Width and Height are of the upright picture.
	Width       int  `json:"width"`
	Height      int  `json:"height"`
	Orientation int  `json:"orientation,omitempty" required:"false" doc:"EXIF orientation that was applied"`
	Alpha       bool `json:"alpha" doc:"May have transparent parts"`
	// Footage only.
	Rate   *timing.Rate `json:"rate,omitempty"`
	Frames int64        `json:"frames,omitempty" required:"false"`
	Sound  bool         `json:"sound,omitempty" required:"false" doc:"Has sound, which is not played"`
	// Matrix is the colour matrix of the clip, bt709 or bt601.
	Matrix string `json:"matrix,omitempty" required:"false"`
	// Uneven is set when the clip's frames are not evenly spaced; it is then
	// read at its average rate.
	Uneven bool `json:"uneven,omitempty" required:"false"`
}

// Info is what a scene must know.
func (m Meta) Info() scene.Info {
	info := scene.Info{Size: geom.Size{W: float64(m.Width), H: float64(m.Height)}}
	if m.Rate != nil {
		info.Clip = &scene.Clip{Rate: *m.Rate, Frames: m.Frames}
	}
	return info
}

// RefusedError says why a file may not come in, for people.
type RefusedError struct{ Reason string }

func (e *RefusedError) Error() string { return e.Reason }

func refuse(format string, args ...any) error { return &RefusedError{fmt.Sprintf(format, args...)} }

// Inspect says what a file is and whether it may come in; a *RefusedError
// tells people why not. The file's name plays no part.
func Inspect(ctx context.Context, path string) (Meta, error) {
	f, err := os.Open(path)
	if err != nil {
		return Meta{}, err
	}
	defer f.Close()
	st, err := f.Stat()
	if err != nil {
		return Meta{}, err
	}
	if st.Size() == 0 {
		return Meta{}, refuse("The file is empty.")
	}
	head := make([]byte, 3072)
	n, err := io.ReadFull(f, head)
	if err != nil && err != io.ErrUnexpectedEOF {
		return Meta{}, err
	}
	mt := mimetype.Detect(head[:n])
	switch {
	case mt.Is("image/png") || mt.Is("image/vnd.mozilla.apng"):
		return whole(path, st.Size(), MaxPictureBytes, "picture", inspectPNG)
	case mt.Is("image/jpeg"):
		return whole(path, st.Size(), MaxPictureBytes, "picture", inspectJPEG)
	case mt.Is("image/svg+xml") || looksLikeSVG(head[:n]):
		m, err := whole(path, st.Size(), MaxVectorBytes, "drawing", CheckVector)
		if err != nil {
			return Meta{}, err
		}
		return m, tryVector(ctx, path)
	case mt.Is("video/mp4") || mt.Is("video/quicktime") || mt.Is("video/x-m4v"):
		if st.Size() > MaxClipBytes {
			return Meta{}, tooLarge("clip", st.Size(), MaxClipBytes)
		}
		m, err := inspectClip(ctx, path)
		if err != nil {
			return Meta{}, err
		}
		if _, err := m.decodeFrame(ctx, path, 0, 64, 64); err != nil {
			return Meta{}, refuse("The clip's first frame can't be decoded: %s.", err)
		}
		return m, nil
	}
	return Meta{}, refuse("This looks like %s. For now PNG, JPEG and SVG pictures and MP4 clips (H.264) can come in; convert it to one of them.", describe(mt))
}

// describe names what a file seems to be.
func describe(mt *mimetype.MIME) string {
	switch {
	case mt.Is("application/octet-stream"):
		return "no kind of file that is known"
	case mt.Extension() != "":
		return mt.Extension()[1:] + " (" + mt.String() + ")"
	}
	return mt.String()
}

func tooLarge(what string, size, limit int64) error {
	return refuse("The %s is %d MB; the limit is %d MB.", what, size>>20, limit>>20)
}

func whole(path string, size, limit int64, what string, inspect func([]byte) (Meta, error)) (Meta, error) {
	if size > limit {
		return Meta{}, tooLarge(what, size, limit)
	}
	data, err := os.ReadFile(path)
	if err != nil {
		return Meta{}, err
	}
	return inspect(data)
}

func tryVector(ctx context.Context, path string) error {
	data, err := os.ReadFile(path)
	if err != nil {
		return err
	}
	if _, err := drawSVG(ctx, data, 64, 64); err != nil {
		return refuse("The SVG can't be drawn: %s.", err)
	}
	return nil
}

func checkSize(w, h int) error {
	if w < 1 || h < 1 {
		return refuse("The picture has no size.")
	}
	if w > MaxSide || h > MaxSide || w*h > MaxPixels {
		return refuse("The picture is %d × %d px; the limit is %d Mpx and %d px a side. Shrink it first.", w, h, MaxPixels/1_000_000, MaxSide)
	}
	return nil
}

func inspectPNG(data []byte) (Meta, error) {
	cfg, err := png.DecodeConfig(bytes.NewReader(data))
	if err != nil {
		return Meta{}, refuse("The PNG can't be read: %s.", err)
	}
	if err := checkSize(cfg.Width, cfg.Height); err != nil {
		return Meta{}, err
	}
	alpha, err := scanPNG(data)
	if err != nil {
		return Meta{}, err
	}
	if _, err := png.Decode(bytes.NewReader(data)); err != nil {
		return Meta{}, refuse("The PNG is damaged: %s.", err)
	}
	return Meta{Type: PNG, Kind: template.Picture, Width: cfg.Width, Height: cfg.Height, Alpha: alpha}, nil
}

// scanPNG walks the chunks to the end, so that a file that breaks off is
// noticed without decoding it, and says whether it may be transparent.
func scanPNG(data []byte) (alpha bool, err error) {
	for at := 8; at+12 <= len(data); {
		n := int(binary.BigEndian.Uint32(data[at:]))
		kind := string(data[at+4 : at+8])
		if n < 0 || n > len(data)-at-12 {
			break
		}
		switch kind {
		case "IHDR":
			alpha = n > 9 && data[at+8+9]&4 != 0
		case "tRNS":
			alpha = true
		case "IEND":
			return alpha, nil
		}
		at += 12 + n
	}
	return false, refuse("The PNG breaks off before its end; it may not have been copied whole.")
}

func inspectJPEG(data []byte) (Meta, error) {
	h, err := turbo.ReadHeader(data)
	if err != nil {
		return Meta{}, refuse("The JPEG can't be read: %s.", err)
	}
	if err := checkSize(h.W, h.H); err != nil {
		return Meta{}, err
	}
	if h.CMYK {
		return Meta{}, refuse("The JPEG is in print colours (CMYK). Save it as RGB.")
	}
	if !bytes.Contains(data[max(0, len(data)-4096):], []byte{0xff, 0xd9}) {
		return Meta{}, refuse("The JPEG breaks off before its end; it may not have been copied whole.")
	}
	// An eighth of its size is enough to notice damage.
	if _, err := turbo.Decode(data, 1, 1); err != nil {
		return Meta{}, refuse("The JPEG is damaged: %s.", err)
	}
	m := Meta{Type: JPEG, Kind: template.Picture, Width: h.W, Height: h.H, Orientation: orientation(data)}
	if m.Orientation >= 5 {
		m.Width, m.Height = m.Height, m.Width
	}
	return m, nil
}

// orientation reads the EXIF orientation, 1 when there is none to be had.
func orientation(data []byte) (o int) {
	o = 1
	// The reader below was not written for hostile files.
	defer func() { _ = recover() }()
	x, err := exif.Decode(bytes.NewReader(data[:min(len(data), 256<<10)]))
	if x == nil || err != nil && exif.IsCriticalError(err) {
		return
	}
	tag, err := x.Get(exif.Orientation)
	if err != nil {
		return
	}
	if v, err := tag.Int(0); err == nil && v >= 1 && v <= 8 {
		o = v
	}
	return
}
