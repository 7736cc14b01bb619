// Package deliver is the room where pictures become files: the encoders and
// the loop that feeds them. What to draw comes from scene, where to put it from
// the caller.
package deliver

import (
	"context"
	"errors"
	"fmt"
	"image"
	"image/png"
	"io"
	"math"
	"os"
	"path/filepath"
	"strings"
	"syscall"

	"github.com/google/renameio/v2"

	"ivypocket/core/raster"
	"ivypocket/core/scene"
	"ivypocket/core/scheme"
	"ivypocket/core/sheet"
	"ivypocket/core/template"
	"ivypocket/core/timing"
	"ivypocket/media/disk"
	"ivypocket/media/helper"
)

// Kind is a kind of file.
type Kind string

const (
	MP4  Kind = "mp4"  // H.264
	WebM Kind = "webm" // VP9, with or without alpha
	PNG  Kind = "png"
)

// Kinds lists every kind of file that is made.
var Kinds = []Kind{MP4, WebM, PNG}

// Film reports whether a kind holds more than one picture.
func (k Kind) Film() bool { return k == MP4 || k == WebM }

// Job is one file to be made. It names the release and holds the values, so that
// a queued render does not change when its piece does.
type Job struct {
	Name     string `json:"name"`
	Template string `json:"template,omitempty"`
	Release  int    `json:"release,omitempty"`
	// Doc is the release. Whoever keeps a job reads it again by its name.
	Doc    *template.Document `json:"-"`
	Values sheet.Values       `json:"values"`
	Format string             `json:"format"`
	Kind   Kind               `json:"kind"`
	// From and To are output frames, To excluded. A picture is frame From.
	From int64 `json:"from"`
	To   int64 `json:"to"`
	// Width and Height are in pixels; films need even numbers.
	Width  int `json:"width"`
	Height int `json:"height"`
	// Alpha keeps what is clear; of films only WebM can.
	Alpha bool `json:"alpha,omitempty"`
}

// Frames is how many frames the job draws.
func (j Job) Frames() int64 {
	if j.Kind == PNG {
		return 1
	}
	return j.To - j.From
}

// Length is the number of frames of the whole piece.
func (j Job) Length() int64 {
	if j.Values.Frames > 0 {
		return j.Values.Frames
	}
	return j.Doc.Measured(j.Values.Measure).Own()
}

// Poster is the frame that stands for the piece.
func (j Job) Poster() int64 {
	m, err := j.Doc.Measured(j.Values.Measure).TimeMap(j.Values.Frames)
	if err != nil {
		return 0
	}
	return int64(m.Frame(j.Doc.Poster()))
}

// Validate fills in what was left at zero and says what can't be rendered.
func (j *Job) Validate() error {
	f := j.Doc.Measured(j.Values.Measure).Format(j.Format)
	if f == nil {
		return fmt.Errorf("format: the template has no format named %q", j.Format)
	}
	if j.Width == 0 && j.Height == 0 {
		j.Width, j.Height = f.Size()
	}
	frames := j.Length()
	if j.To == 0 && j.Kind.Film() {
		j.To = frames
	}
	switch j.Kind {
	case MP4, WebM:
		if j.From < 0 || j.To <= j.From || j.To > frames {
			return fmt.Errorf("frames: %d to %d is not a range within the piece's %d frames", j.From, j.To, frames)
		}
		if j.Width%2 != 0 || j.Height%2 != 0 {
			return fmt.Errorf("size: %d × %d px has an odd side, which films (4:2:0) can't hold", j.Width, j.Height)
		}
	case PNG:
		if j.From < 0 || j.From >= frames {
			return fmt.Errorf("frame: %d is not one of the piece's %d frames", j.From, frames)
		}
	default:
		return fmt.Errorf("kind: %q is not one of mp4, webm, png", j.Kind)
	}
	if j.Alpha && j.Kind == MP4 {
		return errors.New("alpha: MP4 can't hold transparency; choose WebM")
	}
	if j.Width < 2 || j.Height < 2 || j.Width > scheme.MaxSide || j.Height > scheme.MaxSide {
		return fmt.Errorf("size: %d × %d px is outside 2 to %d px a side", j.Width, j.Height, scheme.MaxSide)
	}
	want := float64(j.Width) * float64(f.Height) / float64(f.Width)
	// A canvas is whole px, which are larger ones where a picture has more than it.
	if d := math.Abs(want - float64(j.Height)); d > math.Max(1, float64(j.Width)/float64(f.Width)) {
		return fmt.Errorf("size: %d × %d px has other proportions than the format's %d × %d", j.Width, j.Height, f.Width, f.Height)
	}
	return nil
}

// Source gives originals; Close ends its decoders.
type Source interface {
	scene.Source
	Close()
}

// Hooks let the caller watch and slow a render; nil members do nothing.
type Hooks struct {
	// Wait is called before each frame and may let others go first.
	Wait func(context.Context) (release func(), err error)
	// Progress is told how many frames have been encoded.
	Progress func(done int64)
	// Rank is that of the encoder.
	Rank helper.Rank
}

// cacheBytes bounds the pictures a render keeps.
const cacheBytes = 384 << 20

// Render makes the job's file at path, which appears only whole.
func Render(ctx context.Context, j Job, src Source, path string, h Hooks) error {
	if err := j.Validate(); err != nil {
		return err
	}
	r, err := sheet.Resolve(j.Doc, j.Values)
	if err != nil {
		return err
	}
	s, err := scene.Compile(r, j.Format, src)
	if err != nil {
		return err
	}
	pictures := scene.NewPictures(src, cacheBytes)
	p := scene.NewPainter(pictures)
	defer p.Close()
	out, err := renameio.NewPendingFile(path, renameio.WithTempDir(filepath.Dir(path)), renameio.WithPermissions(0o644))
	if err != nil {
		return err
	}
	defer out.Cleanup()
	l := &loop{job: j, scene: s, pictures: pictures, painter: p, hooks: h}
	if j.Kind == PNG {
		err = l.still(ctx, out)
	} else {
		err = l.film(ctx, out.Name())
	}
	if err == nil && j.cuts() {
		var c *Cut
		if c, err = l.cut(ctx, src); err == nil {
			err = writeCut(path, c)
		}
	}
	if err != nil {
		return plain(err)
	}
	return plain(errors.Join(out.CloseAtomicallyReplace(), disk.Sync(filepath.Dir(path))))
}

// ErrDiskFull says that a file could not be finished for want of room.
var ErrDiskFull = errors.New("the disk is full; the unfinished file was removed. Make room and render again")

func plain(err error) error {
	if errors.Is(err, syscall.ENOSPC) {
		return ErrDiskFull
	}
	return err
}

type loop struct {
	job      Job
	scene    *scene.Scene
	pictures *scene.Pictures
	painter  *scene.Painter
	hooks    Hooks
}

// turn waits until this job may paint.
func (l *loop) turn(ctx context.Context) (leave func(), err error) {
	if l.hooks.Wait != nil {
		return l.hooks.Wait(ctx)
	}
	return func() {}, ctx.Err()
}

func (l *loop) at(list *scene.List, frame int64) {
	l.scene.At(list, l.scene.Time().At(timing.OutputFrame(frame)), scene.Size{W: l.job.Width, H: l.job.Height})
}

func (l *loop) progress(done int64) {
	if l.hooks.Progress != nil {
		l.hooks.Progress(done)
	}
}

func (l *loop) still(ctx context.Context, w io.Writer) error {
	var s raster.Surface
	var list scene.List
	var ready scene.Ready
	l.at(&list, l.job.From)
	if err := l.pictures.Ready(ctx, &list, &ready); err != nil {
		return err
	}
	leave, err := l.turn(ctx)
	if err != nil {
		return err
	}
	err = l.painter.PaintReady(ctx, &list, &ready, &s)
	leave()
	if err != nil {
		return err
	}
	if err := WritePNG(w, &s); err != nil {
		return err
	}
	l.progress(1)
	return nil
}

// WritePNG writes a surface without loss: as RGB when it is opaque, else with
// straight alpha. Equal surfaces give equal bytes.
func WritePNG(w io.Writer, s *raster.Surface) error {
	enc := png.Encoder{CompressionLevel: png.BestSpeed}
	var img image.Image = s.Image()
	if !s.Opaque {
		img = s.Straight()
	}
	return enc.Encode(w, img)
}

// FileName is a name for the job's file that every system takes.
func (j Job) FileName() string {
	clean := func(s string) string {
		s = strings.Map(func(r rune) rune {
			if strings.ContainsRune(`/\:*?"<>|`, r) || r < ' ' {
				return '-'
			}
			return r
		}, strings.TrimSpace(s))
		return strings.Trim(s, ". ")
	}
	name := clean(j.Name)
	if name == "" {
		name = "Piece"
	}
	if f := j.Doc.Format(j.Format); f != nil {
		name += " " + clean(f.Name)
	}
	if j.Kind == PNG {
		name += fmt.Sprintf(" frame %d", j.From)
	}
	return filepath.Base(name) + "." + string(j.Kind)
}

// Remove deletes a rendered file, and what lies beside it; that there is none is no fault.
func Remove(path string) error {
	for _, name := range []string{path, CutPath(path)} {
		if err := os.Remove(name); err != nil && !errors.Is(err, os.ErrNotExist) {
			return err
		}
	}
	return nil
}
