package deliver

import (
	"context"
	"errors"
	"fmt"
	"os"
	"strconv"
	"strings"
	"syscall"
	"time"

	"golang.org/x/sync/errgroup"

	"ivypocket/core/raster"
	"ivypocket/core/scene"
	"ivypocket/core/timing"
	"ivypocket/media/helper"
)

// inFlight is how many frames may wait between painter and encoder: enough
// that neither waits while the other is at a hard one.
const inFlight = 8

// gathered is how many frames' pictures are made ready at one time: one that is
// painted, and the next.
const gathered = 2

// encodeTime bounds an encoder's processor time.
const encodeTime = 48 * time.Hour

// headerBytes is more than a film has beside its frames, none of which is larger
// than its pixels.
const headerBytes = 64 << 20

// Linux's fcntl command F_SETPIPE_SZ, and the size asked for.
const (
	setPipeSize = 1031
	pipeBytes   = 1 << 20
)

// slot is a frame on its way to the painter; times is how many frames in a row
// it is.
type slot struct {
	list  scene.List
	ready scene.Ready
	frame int64
	times int64
}

// picture is a painted frame, and how many frames in a row it is.
type picture struct {
	planes []byte
	times  int64
}

// film gathers the pictures of frames, paints those before them, and has ffmpeg
// encode those before these, all at one time.
func (l *loop) film(ctx context.Context, to string) error {
	j := l.job
	size := raster.YUV420Size(j.Width, j.Height)
	if j.Alpha {
		size = raster.YUVA420Size(j.Width, j.Height)
	}
	cmd := helper.Command(ctx, helper.Spec{Name: "ffmpeg", Args: j.EncoderArgs("pipe:0", to), Limit: encodeTime, Rank: l.hooks.Rank,
		File: j.Frames()*int64(size) + headerBytes})
	said := &helper.Complaint{}
	cmd.Stderr = said
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
	empty, full := make(chan *slot, gathered), make(chan *slot, gathered)
	for range gathered {
		empty <- &slot{}
	}
	free, ready := make(chan []byte, inFlight), make(chan picture, inFlight)
	for range inFlight {
		free <- make([]byte, size)
	}
	g, gctx := errgroup.WithContext(ctx)
	g.Go(func() error { defer close(full); return l.gather(gctx, empty, full) })
	g.Go(func() error { defer close(ready); return l.paint(gctx, size, empty, full, free, ready) })
	g.Go(func() error {
		defer in.Close()
		var done int64
		for p := range ready {
			for range p.times {
				if _, err := in.Write(p.planes); err != nil {
					return err
				}
				done++
				l.progress(done)
			}
			free <- p.planes
		}
		return nil
	})
	workErr := g.Wait()
	if workErr != nil && !errors.Is(workErr, syscall.EPIPE) {
		_ = cmd.Cancel()
	}
	waitErr := cmd.Wait()
	switch {
	case ctx.Err() != nil:
		return ctx.Err()
	case strings.Contains(said.String(), "No space left"):
		return syscall.ENOSPC
	case workErr != nil && !errors.Is(workErr, syscall.EPIPE):
		return workErr
	case waitErr != nil || workErr != nil:
		return fmt.Errorf("ffmpeg: %s", said)
	}
	return nil
}

// gather makes the pictures of each frame ready. Equal draw lists share an
// address, and what has been painted once is not painted again.
func (l *loop) gather(ctx context.Context, empty, full chan *slot) error {
	var next scene.List
	for f := l.job.From; f < l.job.To; {
		var s *slot
		select {
		case s = <-empty:
		case <-ctx.Done():
			return ctx.Err()
		}
		l.at(&s.list, f)
		s.frame, s.times = f, 1
		for first := s.list.Address(); f+s.times < l.job.To; s.times++ {
			if l.at(&next, f+s.times); next.Address() != first {
				break
			}
		}
		if err := l.pictures.Ready(ctx, &s.list, &s.ready); err != nil {
			return fmt.Errorf("frame %d: %w", f, err)
		}
		f += s.times
		full <- s
	}
	return nil
}

// paint brings one surface and its video planes from frame to frame; only rows
// that have changed since the last one are painted and converted.
func (l *loop) paint(ctx context.Context, size int, empty, full chan *slot, free chan []byte, ready chan picture) error {
	var s raster.Surface
	whole := make([]byte, size)
	for sl := range full {
		leave, err := l.turn(ctx)
		if err != nil {
			return err
		}
		y0, y1, err := l.painter.RepaintReady(ctx, &sl.list, &sl.ready, &s)
		if err == nil {
			if l.job.Alpha {
				s.YUVA420(whole, y0, y1)
			} else {
				s.YUV420(whole, y0, y1)
			}
		}
		leave()
		times := sl.times
		empty <- sl
		if err != nil {
			return fmt.Errorf("frame %d: %w", sl.frame, err)
		}
		select {
		case planes := <-free:
			copy(planes, whole)
			ready <- picture{planes, times}
		case <-ctx.Done():
			return ctx.Err()
		}
	}
	return ctx.Err()
}

// EncoderArgs makes ffmpeg encode the job's raw frames, as raster.YUV420 or
// YUVA420 make them: H.264 in MP4 or VP9 in WebM, tagged as BT.709, limited
// range.
func (j Job) EncoderArgs(input, to string) []string {
	return EncoderArgs(j.Kind, j.Alpha, j.Width, j.Height, j.Doc.Measured(j.Values.Measure).Seen(), input, to)
}

// EncoderArgs is Job.EncoderArgs for frames that belong to no job.
func EncoderArgs(k Kind, alpha bool, w, h int, rate timing.Rate, input, to string) []string {
	tags := []string{"-color_range", "tv", "-colorspace", "bt709", "-color_primaries", "bt709", "-color_trc", "bt709"}
	pixels := "yuv420p"
	if alpha {
		pixels = "yuva420p"
	}
	args := append([]string{"-v", "error", "-nostdin", "-y", "-f", "rawvideo", "-pix_fmt", pixels,
		"-s", fmt.Sprintf("%dx%d", w, h), "-r", rate.String()}, tags...)
	args = append(args, "-i", input)
	if k == WebM {
		args = append(args, "-c:v", "libvpx-vp9", "-crf", "22", "-b:v", "0", "-deadline", "good", "-cpu-used", "5", "-row-mt", "1", "-threads", "2", "-g", strconv.Itoa(int(rate.Nominal())*4))
		if alpha {
			// Frames that refer forwards can't carry alpha.
			args = append(args, "-auto-alt-ref", "0", "-metadata:s:v:0", "alpha_mode=1")
		}
		args = append(args, tags...)
		return append(args, "-f", "webm", to)
	}
	args = append(args, "-c:v", "libx264", "-preset", "veryfast", "-crf", "18", "-chroma_sample_location", "left")
	args = append(args, tags...)
	return append(args, "-movflags", "+faststart", "-f", "mp4", to)
}
