package clip

import (
	"context"
	"fmt"
	"io"
	"slices"
	"strconv"
	"strings"
	"time"

	"ivypocket/core/raster"
	"ivypocket/core/timing"
	"ivypocket/media/helper"
)

// ReadThrough is the number of frames up to which a strip is made by decoding
// all of a clip: more would take longer than people should wait.
const ReadThrough = 60

// Key is the key frame at or before a frame; ok is false when it is not known.
func (f Facts) Key(n int64) (key int64, ok bool) {
	i, found := slices.BinarySearch(f.Keys, n)
	switch {
	case found:
		return n, true
	case i > 0:
		return f.Keys[i-1], true
	}
	return 0, false
}

// Strip decodes small pictures of a few frames, which rise, as quickly as can
// be had without a proxy: of a long clip each is the key frame before the one
// that is meant.
func (c Clip) Strip(ctx context.Context, frames []int64, w, h int) ([]*raster.Surface, error) {
	if c.Times.Frames <= ReadThrough || !c.Facts.Container.seeks() {
		return c.stripThrough(ctx, frames, w, h)
	}
	f := c.Facts
	args := []string{"-v", "error", "-nostdin"}
	var graph, out strings.Builder
	chain, l := f.output(w, h)
	for i, n := range frames {
		args = append(args, "-threads", "1")
		args = append(args, f.Container.inside()...)
		at := c.Times.At(timing.SourceFrame(n)).Float() + f.Start.Float()
		args = append(args, "-nofind_stream_info", "-noaccurate_seek", "-skip_frame", "nokey", "-flags", "+low_delay", "-seek_timestamp", "1",
			"-ss", strconv.FormatFloat(at, 'f', 6, 64), "-t", "0.04", "-i", c.Path)
		fmt.Fprintf(&graph, "[%d:%d]%s,trim=end_frame=1,setpts=0[s%d];", i, f.Stream, strings.Join(chain, ","), i)
		fmt.Fprintf(&out, "[s%d]", i)
	}
	if f.Alpha {
		return c.stripThrough(ctx, frames, w, h)
	}
	pixels, size := "yuv444p", w*h*3
	if l == rgba {
		pixels, size = "rgba", w*h*4
	}
	graph.WriteString(out.String() + fmt.Sprintf("concat=n=%d:v=1:a=0", len(frames)))
	args = append(args, "-filter_complex", graph.String(), "-fps_mode", "passthrough", "-f", "rawvideo", "-pix_fmt", pixels, "pipe:1")
	b, err := helper.Run(ctx, helper.Spec{Name: "ffmpeg", Args: args, Limit: 30 * time.Second, Output: int64(size) * int64(len(frames))}, nil)
	if err != nil {
		return nil, err
	}
	var strip []*raster.Surface
	for ; len(b) >= size; b = b[size:] {
		s := raster.NewSurface(w, h)
		if l == rgba {
			copy(s.Pix, b)
			s.Opaque = true
		} else {
			s.FromYUV444(b[:size], f.Matrix, f.Full)
		}
		strip = append(strip, s)
	}
	if len(strip) == 0 {
		return nil, fmt.Errorf("no frame of the clip can be decoded")
	}
	return strip, nil
}

func (c Clip) stripThrough(ctx context.Context, frames []int64, w, h int) ([]*raster.Surface, error) {
	d, err := c.Open(ctx, helper.Foreground, 0, w, h)
	if err != nil {
		return nil, err
	}
	defer d.Close()
	var strip []*raster.Surface
	for _, n := range frames {
		s, err := d.Frame(n)
		if err == io.EOF && len(strip) > 0 {
			break
		}
		if err != nil {
			return nil, err
		}
		own := *s
		own.Pix = append([]uint8(nil), s.Pix...)
		strip = append(strip, &own)
	}
	return strip, ctx.Err()
}
