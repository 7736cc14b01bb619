package clip

import (
	"bufio"
	"context"
	"fmt"
	"io"
	"os/exec"
	"strconv"
	"strings"

	"ivypocket/core/raster"
	"ivypocket/core/timing"
	"ivypocket/media/helper"
)

// Clip is a checked clip: its file, facts and times.
type Clip struct {
	Path  string
	Facts Facts
	Times timing.Clip
}

// layout is how decoded pixels come over the pipe.
type layout int

const (
	planes444 layout = iota // Y′CbCr without subsampling, as the clip's matrix and range say
	rgba                    // straight alpha
)

// output chooses filters and layout for frames of w×h. Colours are converted
// once: by raster when they are Y′CbCr of a usual kind, by ffmpeg when they are
// RGB, have alpha, or are beyond sRGB.
func (f Facts) output(w, h int) (chain []string, l layout) {
	if f.Fields != "" {
		chain = append(chain, "bwdif=mode=send_frame:parity="+f.Fields+":deint=all")
	}
	full := "tv"
	if f.Full {
		full = "pc"
	}
	rgb := f.Alpha || !strings.HasPrefix(f.Pixels, "yuv")
	switch {
	case f.HDR != "" || f.Wide:
		transfer := "smpte2084"
		switch f.HDR {
		case "HLG":
			transfer = "arib-std-b67"
		case "":
			transfer = "bt709"
		}
		// Shrunk first, as the rest is slow. Diffuse white at 203 cd/m² is that of
		// ITU-R BT.2408; the curve is a filmic one.
		chain = append(chain, fmt.Sprintf("scale=%d:%d:flags=bicubic", w, h),
			fmt.Sprintf("zscale=tin=%s:pin=bt2020:min=%s:rin=%s:t=linear:npl=203", transfer, map[bool]string{true: "2020_ncl", false: "709"}[f.Matrix == raster.BT2020], full),
			"format=gbrpf32le", "zscale=p=bt709")
		if f.HDR != "" {
			chain = append(chain, "tonemap=tonemap=mobius:desat=0")
		}
		return append(chain, "zscale=t=iec61966-2-1:m=gbr:r=pc", "format=gbrp"), rgba
	case rgb:
		const exact = "flags=bicubic+accurate_rnd+full_chroma_int"
		if f.Alpha {
			w, h = f.Width, f.Height // colours with straight alpha must not be mixed
		}
		in := ""
		if strings.HasPrefix(f.Pixels, "yuv") {
			in = fmt.Sprintf(":in_color_matrix=%s:in_range=%s", f.Matrix, full)
		}
		return append(chain, fmt.Sprintf("scale=%d:%d:%s%s", w, h, exact, in)), rgba
	}
	m := string(f.Matrix)
	return append(chain, fmt.Sprintf("scale=%d:%d:flags=bicubic:in_color_matrix=%s:out_color_matrix=%s:in_range=%s:out_range=%s", w, h, m, m, full, full)), planes444
}

// lead is how many frames before the first one are decoded: deinterlacing
// looks at those around it, so that a frame on its own equals the same frame in
// order.
func (f Facts) lead() int64 {
	if f.Fields != "" {
		return 2
	}
	return 0
}

// seeks reports whether a container can be entered in the middle.
func (c Container) seeks() bool { return c == MOV || c == Matroska }

// leading is how many frames may lie before a key frame and yet need it and the
// one before to be decoded, as in open groups of pictures. A helper that was
// sent right before a key frame would lose them.
func (f Facts) leading() int64 {
	switch f.Codec {
	case "hevc":
		return 16
	case "h264":
		return 6
	}
	return 0
}

// input makes ffmpeg read from a frame on; skip is how many frames come before
// it, and trim, if any, is the filter that goes before all others.
func (c Clip) input(first int64) (args []string, trim string, skip int64) {
	f := c.Facts
	args = append([]string{"-v", "error", "-nostdin", "-threads", "2"}, f.Container.inside()...)
	if f.Alpha && f.Codec == "vp9" {
		args = append(args, "-c:v", "libvpx-vp9") // the other decoder drops alpha
	}
	if f.Alpha && f.Codec == "vp8" {
		args = append(args, "-c:v", "libvpx")
	}
	from := max(0, first-f.lead())
	skip = first - from
	if from > 0 && f.Container.seeks() {
		enter := max(0, from-f.leading())
		at := c.before(enter)
		if enter < from {
			trim = fmt.Sprintf("trim=start=%.6f", c.before(from)-at)
		}
		// The container's own clock is meant, which other tracks may have started
		// earlier.
		args = append(args, "-seek_timestamp", "1", "-ss", strconv.FormatFloat(at+f.Start.Float(), 'f', 6, 64))
	} else {
		skip = first
	}
	return append(args, "-i", c.Path), trim, skip
}

// before is an instant between a frame and the one before it, in seconds, so
// that rounding can't lose either.
func (c Clip) before(n int64) float64 {
	b := c.Times.At(timing.SourceFrame(n)).Float()
	if n == 0 {
		return b - 0.5/c.Times.Rate.Float()
	}
	return (c.Times.At(timing.SourceFrame(n-1)).Float() + b) / 2
}

// Frames is a decoder of a clip's frames, one after another. It is for use by
// one goroutine.
type Frames struct {
	f      Facts
	cmd    *exec.Cmd
	out    *bufio.Reader
	closer io.Closer
	said   *helper.Complaint
	stop   context.CancelFunc
	layout layout
	w, h   int // asked for
	dw, dh int // decoded
	next   int64
	skip   int64
	raw    []byte
	ring   [2]*raster.Surface // lent out in turn
	turn   int
	last   *raster.Surface // of frame next-1
}

// Open starts to decode from a frame on at w×h; Close ends it, and so does the
// end of ctx.
func (c Clip) Open(ctx context.Context, rank helper.Rank, first int64, w, h int) (*Frames, error) {
	return c.open(ctx, rank, first, -1, w, h)
}

func (c Clip) open(ctx context.Context, rank helper.Rank, first, count int64, w, h int, options ...string) (*Frames, error) {
	args, trim, skip := c.input(first)
	args = append(options, args...)
	chain, l := c.Facts.output(w, h)
	if trim != "" {
		chain = append([]string{trim}, chain...)
	}
	d := &Frames{f: c.Facts, said: &helper.Complaint{}, layout: l, w: w, h: h, dw: w, dh: h, next: first, skip: skip}
	if c.Facts.Alpha {
		d.dw, d.dh = c.Facts.Width, c.Facts.Height
	}
	pixels, bytes := "yuv444p", 3
	if l == rgba {
		pixels, bytes = "rgba", 4
	}
	args = append(args, "-map", "0:"+strconv.Itoa(c.Facts.Stream), "-an", "-sn", "-dn", "-vf", strings.Join(chain, ","), "-fps_mode", "passthrough")
	if count > 0 {
		args = append(args, "-frames:v", strconv.FormatInt(count+skip, 10))
	}
	args = append(args, "-f", "rawvideo", "-pix_fmt", pixels, "pipe:1")
	d.raw = make([]byte, d.dw*d.dh*bytes)
	ctx, d.stop = context.WithCancel(ctx)
	limit := filmTime
	if count > 0 {
		limit = frameTime
	}
	d.cmd = helper.Command(ctx, helper.Spec{Name: "ffmpeg", Args: args, Limit: limit, Rank: rank})
	d.cmd.Stderr = d.said
	pipe, err := d.cmd.StdoutPipe()
	if err == nil {
		err = d.cmd.Start()
	}
	if err != nil {
		d.stop()
		return nil, err
	}
	d.closer, d.out = pipe, bufio.NewReaderSize(pipe, 1<<20)
	return d, nil
}

// ReadAhead is how many frames are read and dropped rather than sought.
const ReadAhead = 150

// Reaches reports whether a frame lies where reading on finds it soon.
func (d *Frames) Reaches(n int64) bool {
	return n == d.next-1 && d.last != nil || n >= d.next && n <= d.next+ReadAhead
}

// Frame returns frame n, which must not lie before the last one returned. The
// surface holds until the frame after the next is asked for. io.EOF says that
// the clip ended before it.
func (d *Frames) Frame(n int64) (*raster.Surface, error) {
	if n == d.next-1 && d.last != nil {
		return d.last, nil
	}
	if n < d.next {
		return nil, fmt.Errorf("frame %d lies behind", n)
	}
	for ; d.skip > 0; d.skip-- {
		if err := d.read(); err != nil {
			return nil, err
		}
	}
	for d.next < n {
		if err := d.read(); err != nil {
			return nil, err
		}
		d.next++
		d.last = nil
	}
	if err := d.read(); err != nil {
		return nil, err
	}
	d.next++
	d.last = d.surface()
	return d.last, nil
}

// Last returns the last frame that was read, if any.
func (d *Frames) Last() *raster.Surface { return d.last }

func (d *Frames) read() error {
	_, err := io.ReadFull(d.out, d.raw)
	if err == io.ErrUnexpectedEOF {
		err = io.EOF
	}
	return err
}

// surface makes a picture of the raw frame.
func (d *Frames) surface() *raster.Surface {
	s := d.ring[d.turn]
	if s == nil {
		s = raster.NewSurface(d.dw, d.dh)
		d.ring[d.turn] = s
	}
	d.turn = (d.turn + 1) % len(d.ring)
	if d.layout == planes444 {
		s.FromYUV444(d.raw, d.f.Matrix, d.f.Full)
		return s
	}
	copy(s.Pix, d.raw)
	if !d.f.Alpha {
		s.Opaque = true
		return s
	}
	s.Premultiply()
	if d.w < d.dw || d.h < d.dh {
		return s.Resize(d.w, d.h)
	}
	return s
}

// Close ends the decoder and waits for it.
func (d *Frames) Close() {
	d.stop()
	_ = d.closer.Close()
	_ = d.cmd.Wait()
}

// First decodes the first frame as quickly as can be: ffmpeg does not look into
// the file beforehand, which would decode that frame twice. Where that does not
// do, it is decoded like any other.
func (c Clip) First(ctx context.Context, w, h int) (*raster.Surface, error) {
	if c.Facts.Container.seeks() && !c.Facts.Alpha {
		if s, err := c.frame(ctx, 0, w, h, "-nofind_stream_info"); err == nil || ctx.Err() != nil {
			return s, err
		}
	}
	return c.Frame(ctx, 0, w, h)
}

// Frame decodes one frame of the original at w×h.
func (c Clip) Frame(ctx context.Context, n int64, w, h int) (*raster.Surface, error) {
	return c.frame(ctx, n, w, h)
}

func (c Clip) frame(ctx context.Context, n int64, w, h int, options ...string) (*raster.Surface, error) {
	d, err := c.open(ctx, helper.Foreground, n, 1, w, h, options...)
	if err != nil {
		return nil, err
	}
	defer d.Close()
	s, err := d.Frame(n)
	if err != nil {
		if ctx.Err() != nil {
			return nil, ctx.Err()
		}
		_ = d.cmd.Wait()
		return nil, fmt.Errorf("frame %d of the clip can't be decoded: %s", n, d.said.Last())
	}
	return s, nil
}
