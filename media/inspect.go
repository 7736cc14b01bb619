// Package media is the room for pictures, vector art, footage, sound and fonts from
// outside: what a file is, whether it may come in, its pixels, and frame n of a
// clip. Whatever comes from outside is hostile until it has been checked here.
// Each kind of file has a room of its own below.
package media

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"slices"
	"strings"

	"github.com/gabriel-vasile/mimetype"

	"ivypocket/core/geom"
	"ivypocket/core/raster"
	"ivypocket/core/scene"
	"ivypocket/core/template"
	"ivypocket/core/timing"
	"ivypocket/media/clip"
	"ivypocket/media/face"
	"ivypocket/media/limits"
	"ivypocket/media/sequence"
	"ivypocket/media/sound"
	"ivypocket/media/still"
	"ivypocket/media/vector"
)

// MaxBytes bounds any file; kinds have limits of their own.
const MaxBytes = clip.MaxBytes

// Version is that of what Inspect finds. Media inspected by an older one is
// inspected again.
const Version = 3

// Meta is what is known of a checked file. One of its parts is set.
type Meta struct {
	Version int                `json:"version"`
	Kind    template.MediaKind `json:"kind"`
	// Width and Height are of the upright picture; 0 for sound and fonts.
	Width    int            `json:"width"`
	Height   int            `json:"height"`
	Type     still.Kind     `json:"type,omitempty"` // of a still
	Still    *still.Facts   `json:"still,omitempty"`
	Clip     *clip.Facts    `json:"clip,omitempty"`
	Sound    *sound.Facts   `json:"sound,omitempty"`
	Face     *face.Facts    `json:"face,omitempty"`
	Sequence *sequence.List `json:"-"` // is the file itself
	Pictures int            `json:"pictures,omitempty"`
	Times    *timing.Clip   `json:"-"` // of a clip or sequence
	// First is a clip's first frame, small, as Inspect found it.
	First *raster.Surface `json:"-"`
}

// Load completes what was kept of a file with what lies beside it: the times of
// an uneven clip, the list of a sequence.
func (m *Meta) Load(path, times string) error {
	switch {
	case m.Clip != nil && m.Clip.Uneven:
		c, err := clip.ReadTimes(times)
		if err != nil {
			return err
		}
		m.Times = &c
	case m.Clip != nil:
		c := timing.Even(m.Clip.Rate, m.Clip.Frames)
		m.Times = &c
	case m.Pictures > 0:
		b, err := os.ReadFile(path)
		if err != nil {
			return err
		}
		l, err := sequence.Parse(b)
		if err != nil {
			return err
		}
		c := l.Times()
		m.Sequence, m.Times = &l, &c
	}
	return nil
}

// Moves reports whether the media is footage.
func (m Meta) Moves() bool { return m.Kind == template.Footage }

// Alpha reports whether parts of it may be transparent.
func (m Meta) Alpha() bool {
	switch {
	case m.Still != nil:
		return m.Still.Alpha
	case m.Clip != nil:
		return m.Clip.Alpha
	case m.Sequence != nil:
		return m.Sequence.Alpha
	}
	return false
}

// Info is what a scene must know.
func (m Meta) Info() scene.Info {
	i := scene.Info{Size: geom.Size{W: float64(m.Width), H: float64(m.Height)}, Clip: m.Times}
	if m.Type == still.SVG {
		i.Reading = vector.Version
	}
	return i
}

// Notes says for people what was done to bring the file in.
func (m Meta) Notes() []string {
	switch {
	case m.Clip != nil:
		return m.Clip.Notes()
	case m.Face != nil:
		return m.Face.Notes()
	case m.Sequence != nil && len(m.Sequence.Gaps) > 0:
		var gaps []string
		for _, g := range m.Sequence.Gaps {
			gaps = append(gaps, g.String())
		}
		return []string{"Pictures " + strings.Join(gaps, ", ") + " are missing; the one before holds."}
	case m.Still != nil:
		out := slices.Clone(m.Still.Notes)
		if m.Still.Mark == (raster.Mark{}) {
			out = append(out, "Nothing of it can be seen: every pixel is clear.")
		}
		if m.Still.Pages > 1 {
			out = append(out, fmt.Sprintf("It holds %d pictures; the first is taken.", m.Still.Pages))
		}
		if m.Still.Space != "" && !m.Still.Slight {
			out = append(out, "Its colours ("+m.Still.Space+") were brought to sRGB.")
		}
		if m.Still.Orientation > 1 {
			out = append(out, "Turned upright as the camera said.")
		}
		if m.Still.Mark.Ground != "" {
			out = append(out, "No transparency: it lies on a flat ground of "+m.Still.Mark.Ground+".")
		}
		return out
	}
	return nil
}

// TypeName is the kind of file as people write it.
func (m Meta) TypeName() string {
	switch {
	case m.Still != nil:
		return m.Type.Name()
	case m.Clip != nil:
		return clip.Codecs[m.Clip.Codec]
	case m.Sound != nil:
		return map[sound.Container]string{sound.WAV: "WAV", sound.FLAC: "FLAC", sound.MP3: "MP3", sound.Ogg: "Ogg", sound.M4A: "M4A"}[m.Sound.Container]
	}
	if m.Face != nil {
		return m.Face.Form.Name()
	}
	return "Sequence"
}

// RefusedError says why a file may not come in, for people.
type RefusedError struct{ Reason string }

func (e *RefusedError) Error() string { return e.Reason }

func refuse(format string, args ...any) error { return &RefusedError{fmt.Sprintf(format, args...)} }

// asRefused makes refusals of the rooms below one type.
func asRefused(err error) error {
	var s *still.RefusedError
	var c *clip.RefusedError
	var a *sound.RefusedError
	var f *face.RefusedError
	switch {
	case errors.As(err, &s):
		return &RefusedError{s.Reason}
	case errors.As(err, &c):
		return &RefusedError{c.Reason}
	case errors.As(err, &a):
		return &RefusedError{a.Reason}
	case errors.As(err, &f):
		return &RefusedError{f.Reason}
	}
	return err
}

// headBytes is how much of a file is looked at to tell what it is.
const headBytes = 4096

// Inspect says what a file is and whether it may come in; a *RefusedError
// tells people why not. The file's name plays no part.
func Inspect(ctx context.Context, path string) (Meta, error) {
	m, err := inspect(ctx, path)
	m.Version = Version
	return m, asRefused(err)
}

func inspect(ctx context.Context, path string) (Meta, error) {
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
	head := make([]byte, headBytes)
	n, err := io.ReadFull(f, head)
	if err != nil && err != io.ErrUnexpectedEOF {
		return Meta{}, err
	}
	head = head[:n]
	w := sniff(head)
	if st.Size() <= still.MaxBytes { // larger ones are no pictures in any case
		if w.still == still.GIF && still.GIFMoves(io.NewSectionReader(f, 0, st.Size())) {
			w = what{clip: clip.GIF}
		} else if w.still == still.PNG && still.PNGMoves(f, st.Size()) {
			w = what{clip: clip.APNG}
		}
	}
	switch {
	case w.still != "":
		facts, err := still.Inspect(ctx, w.still, path)
		return Meta{Kind: template.Picture, Type: w.still, Width: facts.Width, Height: facts.Height, Still: &facts}, err
	case w.clip != "":
		if !w.clip.Whole(f, st.Size()) {
			return Meta{}, refuse("The clip breaks off before its end; it may not have been copied whole.")
		}
		if !w.clip.Texts(f, st.Size()) {
			return Meta{}, refuse("The clip carries a text of more than %d KB, such as a comment. Save it without.", limits.ClipNote>>10)
		}
		return inspectClip(ctx, w.clip, path, st.Size())
	case w.sound != "":
		if w.sound == sound.M4A && !clip.MOV.Texts(f, st.Size()) {
			return Meta{}, refuse("The sound carries a text of more than %d KB, such as a comment. Save it without.", limits.ClipNote>>10)
		}
		return inspectSound(ctx, w.sound, f, path, st.Size())
	case w.face != "":
		facts, err := face.Inspect(ctx, w.face, path)
		return Meta{Kind: template.Font, Face: &facts}, err
	case w.reason != "":
		return Meta{}, refuse("%s", w.reason)
	}
	return Meta{}, refuse("This looks like %s. %s", describe(head), comesIn)
}

const comesIn = "What comes in: PNG, JPEG, WebP, GIF, AVIF, TIFF, BMP and SVG pictures, MP4, MOV, MKV and WebM clips, WAV, FLAC, MP3, Opus and M4A sound, and TTF, OTF, WOFF and WOFF2 fonts. Convert it to one of them."

func inspectClip(ctx context.Context, c clip.Container, path string, size int64) (Meta, error) {
	facts, times, first, err := clip.Inspect(ctx, c, path, size)
	if err != nil {
		if c == clip.MOV && ctx.Err() == nil && strings.Contains(err.Error(), "no picture track") && facts.Sound {
			s, serr := sound.Inspect(ctx, sound.M4A, path, size)
			return Meta{Kind: template.Sound, Sound: &s}, serr
		}
		return Meta{}, err
	}
	return Meta{Kind: template.Footage, Width: facts.Width, Height: facts.Height, Clip: &facts, Times: &times, First: first}, nil
}

func inspectSound(ctx context.Context, c sound.Container, f io.ReaderAt, path string, size int64) (Meta, error) {
	if c == sound.WAV {
		var h [8]byte
		if _, err := f.ReadAt(h[:], 0); err == nil {
			// A length of all ones is that of a stream whose end was not known.
			if n := int64(h[4]) | int64(h[5])<<8 | int64(h[6])<<16 | int64(h[7])<<24; n != 0xffffffff && n+8 > size {
				return Meta{}, refuse("The sound breaks off before its end; it may not have been copied whole.")
			}
		}
	}
	facts, err := sound.Inspect(ctx, c, path, size)
	return Meta{Kind: template.Sound, Sound: &facts}, err
}

// what a file is by its first bytes.
type what struct {
	still  still.Kind
	clip   clip.Container
	sound  sound.Container
	face   face.Form
	reason string // why it is known and not read
}

func sniff(b []byte) what {
	has := func(at int, s string) bool { return len(b) >= at+len(s) && string(b[at:at+len(s)]) == s }
	switch {
	case has(0, "\x89PNG\r\n\x1a\n"):
		return what{still: still.PNG}
	case has(0, "\xff\xd8\xff"):
		return what{still: still.JPEG}
	case has(0, "RIFF") && has(8, "WEBP"):
		return what{still: still.WebP}
	case has(0, "GIF87a"), has(0, "GIF89a"):
		return what{still: still.GIF}
	case has(0, "II*\x00"), has(0, "MM\x00*"):
		return what{still: still.TIFF}
	case has(0, "BM") && len(b) > 18 && b[15] == 0 && b[16] == 0 && b[17] == 0:
		return what{still: still.BMP}
	case has(4, "ftyp"):
		return sniffBrand(b)
	case has(4, "moov"), has(4, "mdat"), has(4, "wide"), has(4, "free"), has(4, "skip"), has(4, "pnot"):
		return what{clip: clip.MOV}
	case has(0, "\x1aE\xdf\xa3"):
		return what{clip: clip.Matroska}
	case has(0, "RIFF") && has(8, "WAVE"), has(0, "RF64") && has(8, "WAVE"):
		return what{sound: sound.WAV}
	case has(0, "fLaC"):
		return what{sound: sound.FLAC}
	case has(0, "OggS"):
		return what{sound: sound.Ogg}
	case has(0, "ID3"), len(b) > 2 && b[0] == 0xff && b[1]&0xe6 == 0xe2 && b[1]&0x18 != 0x08 && b[2]&0xf0 != 0xf0:
		return what{sound: sound.MP3}
	case face.Sniff(b) != "":
		return what{face: face.Sniff(b)}
	case has(0, "ttcf"):
		return what{reason: "This is a collection of fonts. Put one of them in as a file of its own."}
	case vector.LooksLike(b):
		return what{still: still.SVG}
	case has(0, "#EXTM3U"), has(0, "ffconcat"):
		return what{reason: "This is a playlist, a text that names other files. Put in the files themselves."}
	case has(0, "#!"):
		return what{reason: "This is a script, whatever its name says."}
	case has(0, "\x7fELF"), has(0, "MZ"):
		return what{reason: "This is a program, whatever its name says."}
	}
	return what{}
}

// sniffBrand tells files of ISO/IEC 14496-12 apart by their brands.
func sniffBrand(b []byte) what {
	n := int(b[0])<<24 | int(b[1])<<16 | int(b[2])<<8 | int(b[3])
	brands := b[8:min(len(b), max(8, min(n, len(b))))]
	major := string(brands[:min(4, len(brands))])
	switch {
	case bytes.HasPrefix([]byte(major), []byte("M4A")), major == "M4B ":
		return what{sound: sound.M4A}
	case major == "avis":
		return what{reason: "This is a moving AVIF, which is not read. Convert it to WebM or MP4."}
	case major == "avif", major == "mif1" && bytes.Contains(brands, []byte("avif")):
		return what{still: still.AVIF}
	case major == "heic", major == "heix", major == "mif1", major == "msf1", major == "hevc":
		return what{reason: "This is a HEIC picture, whose codec is not read. Save it as JPEG, PNG or AVIF."}
	}
	return what{clip: clip.MOV}
}

// describe names what a file seems to be.
func describe(head []byte) string {
	mt := mimetype.Detect(head)
	switch {
	case mt.Is("application/octet-stream"):
		return "no kind of file that is known"
	case mt.Is("text/plain"):
		return "a text"
	case mt.Extension() != "":
		kind, _, _ := strings.Cut(mt.String(), ";")
		return mt.Extension()[1:] + " (" + kind + ")"
	}
	return mt.String()
}
