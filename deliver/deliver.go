// Package deliver is the room where pictures become files: the encoders and
// the loop that feeds them. What to draw comes from scene, where to put it from
// the caller.
package deliver

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"image"
	"image/png"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"syscall"
	"time"

	"github.com/google/renameio/v2"

	"ivypocket/core/raster"
	"ivypocket/core/scene"
	"ivypocket/core/sheet"
	"ivypocket/core/template"
	"ivypocket/core/timing"
)

// Kind is a kind of file.
type Kind string

const (
	MP4 Kind = "mp4"
	PNG Kind = "png"
)

// Job is one file to be made. It holds all it needs but the media, so that a
// queued render does not change when its piece does.
type Job struct {
	Name   string             `json:"name"`
	Doc    *template.Document `json:"document"`
	Values sheet.Values       `json:"values"`
	Format string             `json:"format"`
	Kind   Kind               `json:"kind"`
	// From and To are output frames, To excluded. A picture is frame From.
	From int64 `json:"from"`
	To   int64 `json:"to"`
	// Width and Height are in pixels; MP4 needs even numbers.
	Width  int `json:"width"`
	Height int `json:"height"`
}

// Frames is how many frames the job draws.
func (j Job) Frames() int64 {
	if j.Kind == PNG {
		return 1
	}
	return j.To - j.From
}

// Validate fills in what was left at zero and says what can't be rendered.
func (j *Job) Validate() error {
	f := j.Doc.Format(j.Format)
	if f == nil {
		return fmt.Errorf("format: the template has no format named %q", j.Format)
	}
	if j.Width == 0 && j.Height == 0 {
		j.Width, j.Height = f.Width, f.Height
	}
	if j.To == 0 && j.Kind == MP4 {
		j.To = j.Doc.Frames
	}
	switch j.Kind {
	case MP4:
		if j.From < 0 || j.To <= j.From || j.To > j.Doc.Frames {
			return fmt.Errorf("frames: %d to %d is not a range within the template's %d frames", j.From, j.To, j.Doc.Frames)
		}
		if j.Width%2 != 0 || j.Height%2 != 0 {
			return fmt.Errorf("size: %d × %d px has an odd side, which MP4 (4:2:0) can't hold", j.Width, j.Height)
		}
	case PNG:
		if j.From < 0 || j.From >= j.Doc.Frames {
			return fmt.Errorf("frame: %d is not one of the template's %d frames", j.From, j.Doc.Frames)
		}
	default:
		return fmt.Errorf("kind: %q is not one of mp4, png", j.Kind)
	}
	if j.Width < 2 || j.Height < 2 || j.Width > template.MaxSide || j.Height > template.MaxSide {
		return fmt.Errorf("size: %d × %d px is outside 2 to %d px a side", j.Width, j.Height, template.MaxSide)
	}
	want := float64(j.Width) * float64(f.Height) / float64(f.Width)
	if d := want - float64(j.Height); d < -1 || d > 1 {
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
	p := scene.NewPainter(src, cacheBytes)
	defer p.Close()
	out, err := renameio.NewPendingFile(path, renameio.WithTempDir(filepath.Dir(path)), renameio.WithPermissions(0o644))
	if err != nil {
		return err
	}
	defer out.Cleanup()
	l := &loop{job: j, scene: s, painter: p, hooks: h}
	if j.Kind == PNG {
		err = l.still(ctx, out)
	} else {
		err = l.film(ctx, out.Name())
	}
	if err != nil {
		return plain(err)
	}
	return plain(out.CloseAtomicallyReplace())
}

func plain(err error) error {
	if errors.Is(err, syscall.ENOSPC) {
		return errors.New("the disk is full; the unfinished file was removed. Make room and render again")
	}
	return err
}

type loop struct {
	job     Job
	scene   *scene.Scene
	painter *scene.Painter
	hooks   Hooks
	list    scene.List
}

// turn waits until this job may paint.
func (l *loop) turn(ctx context.Context) (leave func(), err error) {
	if l.hooks.Wait != nil {
		return l.hooks.Wait(ctx)
	}
	return func() {}, ctx.Err()
}

func (l *loop) at(frame int64) *scene.List {
	l.scene.At(&l.list, l.scene.Time().At(timing.OutputFrame(frame)), scene.Size{W: l.job.Width, H: l.job.Height})
	return &l.list
}

// repaint brings a surface and its video planes to a frame; only rows that
// have changed since the last one are painted and converted.
func (l *loop) repaint(ctx context.Context, frame int64, s *raster.Surface, planes []byte) error {
	leave, err := l.turn(ctx)
	if err != nil {
		return err
	}
	defer leave()
	y0, y1, err := l.painter.Repaint(ctx, l.at(frame), s)
	if err == nil {
		s.YUV420(planes, y0, y1)
	}
	return err
}

func (l *loop) progress(done int64) {
	if l.hooks.Progress != nil {
		l.hooks.Progress(done)
	}
}

func (l *loop) still(ctx context.Context, w io.Writer) error {
	var s raster.Surface
	leave, err := l.turn(ctx)
	if err != nil {
		return err
	}
	err = l.painter.Paint(ctx, l.at(l.job.From), &s)
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

// inFlight is how many frames may wait between painter and encoder: enough
// that neither waits while the other is at a hard one.
const inFlight = 8

// Linux's fcntl command F_SETPIPE_SZ, and the size asked for.
const (
	setPipeSize = 1031
	pipeBytes   = 1 << 20
)

// picture is a painted frame, and how many frames in a row it is.
type picture struct {
	planes []byte
	times  int64
}

// same is how many frames from f on are one picture: equal draw lists share an
// address, and what has been painted once is not painted again.
func (l *loop) same(f int64) int64 {
	first, n := l.at(f).Address(), int64(1)
	for f+n < l.job.To && l.at(f+n).Address() == first {
		n++
	}
	return n
}

// film paints frames while ffmpeg encodes those before them.
func (l *loop) film(ctx context.Context, to string) error {
	ctx, stop := context.WithCancel(ctx)
	defer stop()
	cmd := exec.CommandContext(ctx, "ffmpeg", EncoderArgs(l.job.Width, l.job.Height, l.job.Doc.Rate, "pipe:0", to)...)
	cmd.SysProcAttr = &syscall.SysProcAttr{Setpgid: true, Pdeathsig: syscall.SIGKILL}
	cmd.Cancel = func() error { return syscall.Kill(-cmd.Process.Pid, syscall.SIGKILL) }
	cmd.WaitDelay = 2 * time.Second
	var complaint bytes.Buffer
	cmd.Stderr = &complaint
	theirs, in, err := os.Pipe()
	if err != nil {
		return err
	}
	// A roomy pipe spares thousands of turns between the two programs; where the
	// system does not grant it, the usual one does.
	_, _, _ = syscall.Syscall(syscall.SYS_FCNTL, in.Fd(), setPipeSize, pipeBytes)
	cmd.Stdin = theirs
	err = cmd.Start()
	theirs.Close()
	if err != nil {
		in.Close()
		return fmt.Errorf("ffmpeg could not be started: %w", err)
	}
	free := make(chan []byte, inFlight)
	for range inFlight {
		free <- make([]byte, raster.YUV420Size(l.job.Width, l.job.Height))
	}
	ready := make(chan picture, inFlight)
	written := make(chan error, 1)
	go func() {
		defer in.Close()
		var done int64
		for p := range ready {
			for range p.times {
				if _, err := in.Write(p.planes); err != nil {
					stop() // the painter must not wait for a writer that is gone
					written <- err
					return
				}
				done++
				l.progress(done)
			}
			free <- p.planes
		}
		written <- nil
	}()
	paintErr := func() error {
		defer close(ready)
		var s raster.Surface
		whole := make([]byte, raster.YUV420Size(l.job.Width, l.job.Height))
		for f := l.job.From; f < l.job.To; {
			same := l.same(f)
			if err := l.repaint(ctx, f, &s, whole); err != nil {
				return fmt.Errorf("frame %d: %w", f, err)
			}
			select {
			case planes := <-free:
				copy(planes, whole)
				ready <- picture{planes, same}
			case <-ctx.Done():
				return ctx.Err()
			}
			f += same
		}
		return nil
	}()
	if paintErr != nil {
		stop()
	}
	writeErr := <-written
	waitErr := cmd.Wait()
	switch {
	case writeErr != nil && strings.Contains(complaint.String(), "No space left"):
		return syscall.ENOSPC
	case paintErr != nil && (writeErr == nil || !errors.Is(paintErr, context.Canceled)):
		return paintErr
	case waitErr != nil || writeErr != nil:
		if ctx.Err() != nil && complaint.Len() == 0 {
			return ctx.Err()
		}
		if strings.Contains(complaint.String(), "No space left") {
			return syscall.ENOSPC
		}
		return fmt.Errorf("ffmpeg: %s", strings.TrimSpace(complaint.String()))
	}
	return nil
}

// EncoderArgs makes ffmpeg encode raw frames, as raster.YUV420 makes them, as
// H.264 in MP4 tagged as BT.709, limited range.
func EncoderArgs(w, h int, rate timing.Rate, input, to string) []string {
	tags := []string{"-color_range", "tv", "-colorspace", "bt709", "-color_primaries", "bt709", "-color_trc", "bt709"}
	args := append([]string{"-v", "error", "-nostdin", "-y", "-f", "rawvideo", "-pix_fmt", "yuv420p",
		"-s", fmt.Sprintf("%dx%d", w, h), "-r", rate.String()}, tags...)
	args = append(args, "-i", input, "-c:v", "libx264", "-preset", "veryfast", "-crf", "18", "-chroma_sample_location", "left")
	args = append(args, tags...)
	return append(args, "-movflags", "+faststart", "-f", "mp4", to)
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

// Remove deletes a rendered file; that there is none is no fault.
func Remove(path string) error {
	if err := os.Remove(path); err != nil && !errors.Is(err, os.ErrNotExist) {
		return err
	}
	return nil
}
