package clip

import (
	"bytes"
	"context"
	"encoding/binary"
	"errors"
	"fmt"
	"io"
	"math"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync"

	"github.com/google/renameio/v2"

	"ivypocket/core/raster"
	"ivypocket/core/timing"
	"ivypocket/media/helper"
	"ivypocket/media/turbo"
)

// A proxy is a small intra-only copy of a clip in several sizes, for the stage.
// Its file holds JPEG pictures, one frame's after another's: for each size the
// colours and, of clips with alpha, premultiplied colours and a plane of alpha.
// Then comes a table and a footer, all numbers big-endian:
//
//	table   for each frame: the tick at which it begins (8 bytes), the offset of
//	        its first picture (8), the length of each picture (4 each)
//	sizes   for each size: width and height (4 each)
//	footer  ticks per second as numerator and denominator (8 each), the tick at
//	        which the last frame ends (8), frames (8), sizes (1), pictures for
//	        each size (1), the magic text
const proxyMagic = "ivyproxy2"

const footerBytes = int64(8*4 + 2 + len(proxyMagic))

const (
	proxySide    = 960 // longer side of the largest size
	leastSide    = 120 // of the smallest
	proxyQuality = 80
	alphaQuality = 90
	maxLevels    = 3
)

// level is one size of a proxy.
type level struct{ w, h int }

// levels are the sizes of a clip's proxy, each half of the one before. Sides
// are multiples of 8, so that every size and its colour planes have whole ones.
func levels(w, h int) []level {
	k := math.Min(1, proxySide/float64(max(w, h)))
	side := func(n int) int { return 8 * max(1, int(math.Round(float64(n)*k/8))) }
	out := []level{{side(w), side(h)}}
	for len(out) < maxLevels {
		l := out[len(out)-1]
		if max(l.w, l.h)/2 < leastSide || l.w%4 != 0 || l.h%4 != 0 {
			break
		}
		out = append(out, level{l.w / 2, l.h / 2})
	}
	return out
}

// entry is one frame in a proxy's file.
type entry struct {
	start  int64
	offset int64
	sizes  [2 * maxLevels]uint32
}

// Proxy reads frames of a proxy's file, also of one that is still growing. It
// is safe for use by many goroutines.
type Proxy struct {
	f      *os.File
	levels []level
	each   int // pictures for each size
	mu     sync.RWMutex
	table  []entry
	whole  bool
}

// Done is how many frames are there, and whether they are all.
func (p *Proxy) Done() (frames int64, whole bool) {
	p.mu.RLock()
	defer p.mu.RUnlock()
	return int64(len(p.table)), p.whole
}

// ErrNotYet says that a proxy has not grown as far as the frame.
var ErrNotYet = errors.New("the proxy has not grown as far as that")

// lastResort is how much smaller than asked for a size may be before the next
// larger one is taken.
const lastResort = 0.9

// Frame decodes frame n of the size that is nearest to w×h and hardly smaller.
// Frames after the last are the last one.
func (p *Proxy) Frame(n int64, w, h int) (*raster.Surface, error) {
	p.mu.RLock()
	if n >= int64(len(p.table)) && p.whole {
		n = int64(len(p.table)) - 1
	}
	if n < 0 || n >= int64(len(p.table)) {
		p.mu.RUnlock()
		return nil, ErrNotYet
	}
	e := p.table[n]
	p.mu.RUnlock()
	k := len(p.levels) - 1
	for k > 0 && (float64(p.levels[k].w) < lastResort*float64(w) || float64(p.levels[k].h) < lastResort*float64(h)) {
		k--
	}
	at := e.offset
	for i := range k * p.each {
		at += int64(e.sizes[i])
	}
	size := int64(e.sizes[k*p.each])
	total := size
	if p.each == 2 {
		total += int64(e.sizes[k*2+1])
	}
	b := make([]byte, total)
	if _, err := p.f.ReadAt(b, at); err != nil {
		return nil, err
	}
	s, err := turbo.Decode(b[:size], p.levels[k].w, p.levels[k].h)
	if err != nil || p.each == 1 {
		return s, err
	}
	plane, pw, ph, err := turbo.DecodeGrey(b[size:])
	if err != nil {
		return nil, err
	}
	if pw != s.W || ph != s.H {
		return nil, fmt.Errorf("the proxy's alpha has another size than its colours")
	}
	s.Join(plane)
	return s, nil
}

// Close lets go of the file.
func (p *Proxy) Close() { _ = p.f.Close() }

// OpenProxy opens a whole proxy.
func OpenProxy(path string) (*Proxy, error) {
	f, err := os.Open(path)
	if err != nil {
		return nil, err
	}
	p := &Proxy{f: f, whole: true}
	if err := p.readTable(); err != nil {
		f.Close()
		return nil, fmt.Errorf("proxy %s: %w", filepath.Base(path), err)
	}
	return p, nil
}

var errDamaged = errors.New("is damaged")

func (p *Proxy) readTable() error {
	st, err := p.f.Stat()
	if err != nil {
		return err
	}
	foot := make([]byte, footerBytes)
	end := st.Size() - footerBytes
	if end < 0 {
		return errDamaged
	}
	if _, err := p.f.ReadAt(foot, end); err != nil {
		return err
	}
	if string(foot[footerBytes-int64(len(proxyMagic)):]) != proxyMagic {
		return errDamaged
	}
	frames, nl, each := int64(binary.BigEndian.Uint64(foot[24:])), int64(foot[32]), int64(foot[33])
	if frames < 1 || frames > MaxFrames || nl < 1 || nl > maxLevels || each < 1 || each > 2 {
		return errDamaged
	}
	p.each = int(each)
	row := 16 + 4*nl*each
	end -= nl * 8
	from := end - frames*row
	if from < 0 {
		return errDamaged
	}
	b := make([]byte, frames*row+nl*8)
	if _, err := p.f.ReadAt(b, from); err != nil {
		return err
	}
	for i := range nl {
		l := level{int(binary.BigEndian.Uint32(b[frames*row+i*8:])), int(binary.BigEndian.Uint32(b[frames*row+i*8+4:]))}
		if l.w < 1 || l.h < 1 || l.w > 4*proxySide || l.h > 4*proxySide {
			return errDamaged
		}
		p.levels = append(p.levels, l)
	}
	p.table = make([]entry, frames)
	at, start := int64(0), int64(-1)
	for n := range p.table {
		r := b[int64(n)*row:]
		e := entry{start: int64(binary.BigEndian.Uint64(r)), offset: int64(binary.BigEndian.Uint64(r[8:]))}
		if e.offset != at || e.start <= start {
			return errDamaged
		}
		for i := range nl * each {
			e.sizes[i] = binary.BigEndian.Uint32(r[16+i*4:])
			at += int64(e.sizes[i])
		}
		if at > from || at == e.offset {
			return errDamaged
		}
		start = e.start
		p.table[n] = e
	}
	return nil
}

// Starts are the ticks at which the proxy's frames begin.
func (p *Proxy) Starts() []int64 {
	p.mu.RLock()
	defer p.mu.RUnlock()
	out := make([]int64, len(p.table))
	for i := range p.table {
		out[i] = p.table[i].start
	}
	return out
}

// CountError says that decoding gave another number of frames than the clip's
// times have.
type CountError struct{ Decoded, Known int64 }

func (e *CountError) Error() string {
	return fmt.Sprintf("the clip holds %d frames and not %d", e.Decoded, e.Known)
}

// Picker gives the frames of a clip in order, io.EOF after the last. A frame
// holds until the next.
type Picker func(n int64) (*raster.Surface, error)

// BuildProxy writes a clip's proxy; its file appears at to only whole. growing
// is handed the proxy before its first frame and may read it from then on;
// progress is told how many frames are there. A clip whose frames turn out to
// be of another number is a *CountError, and there is no proxy.
func (c Clip) BuildProxy(ctx context.Context, to string, growing func(*Proxy), progress func(done int64)) error {
	if c.Facts.Alpha {
		d, err := c.Open(ctx, helper.Background, 0, levels(c.Facts.Width, c.Facts.Height)[0].w, levels(c.Facts.Width, c.Facts.Height)[0].h)
		if err != nil {
			return err
		}
		defer d.Close()
		return BuildPictureProxy(ctx, c.Times, c.Facts.Width, c.Facts.Height, true, d.Frame, to, growing, progress)
	}
	b, err := newBuilder(to, c.Times, levels(c.Facts.Width, c.Facts.Height), 1)
	if err != nil {
		return err
	}
	defer b.cleanup()
	l := b.proxy.levels[0]
	args, _, _ := c.input(0)
	args[slices.Index(args, "-threads")+1] = "3" // it waits for nobody, and one thread often does
	chain, kind := c.Facts.output(l.w, l.h)
	for i := range chain {
		chain[i] = strings.Replace(chain[i], "flags=bicubic:", "flags=area:", 1) // quicker, and as good for halving
	}
	// JPEG's own colours: BT.601 in full range. From one matrix to another ffmpeg's
	// scaler goes by way of RGB; this filter does it at once.
	if kind == planes444 {
		space := map[raster.Matrix]string{raster.BT601: "bt470bg", raster.BT709: "bt709", raster.BT2020: "bt2020ncl"}[c.Facts.Matrix]
		chain = append(chain, "format=yuv420p", fmt.Sprintf("colorspace=ispace=%s:irange=%s:iprimaries=bt709:itrc=bt709:space=bt470bg:range=pc:primaries=bt709:trc=bt709:format=yuv420p:fast=1",
			space, map[bool]string{true: "pc", false: "tv"}[c.Facts.Full]))
	} else {
		chain = append(chain, "scale=out_color_matrix=bt601:out_range=pc")
	}
	growing(b.proxy)
	args = append(args, "-map", fmt.Sprintf("0:%d", c.Facts.Stream), "-an", "-sn", "-dn", "-vf", strings.Join(chain, ","), "-fps_mode", "passthrough",
		"-f", "rawvideo", "-pix_fmt", "yuv420p", "pipe:1")
	ctx, stop := context.WithCancel(ctx)
	defer stop()
	cmd := helper.Command(ctx, helper.Spec{Name: "ffmpeg", Args: args, Limit: filmTime, Rank: helper.Background})
	said := &helper.Complaint{}
	cmd.Stderr = said
	pipe, err := cmd.StdoutPipe()
	if err == nil {
		err = cmd.Start()
	}
	if err != nil {
		return err
	}
	defer func() { stop(); _ = pipe.Close(); _ = cmd.Wait() }()
	// The next frame is read while one is written, so that ffmpeg never waits.
	empty, full := make(chan []byte, 2), make(chan []byte, 2)
	for range cap(empty) {
		empty <- make([]byte, l.w*l.h*3/2)
	}
	go func() {
		defer close(full)
		for raw := range empty {
			if _, err := io.ReadFull(pipe, raw); err != nil {
				return
			}
			full <- raw
		}
	}()
	defer close(empty)
	var half [2][]byte
	for raw := range full {
		if err := b.addPlanes(raw, &half); err != nil {
			return err
		}
		empty <- raw
		progress(b.frames())
	}
	return b.finish(ctx)
}

// BuildPictureProxy is BuildProxy for frames that come as pictures.
func BuildPictureProxy(ctx context.Context, times timing.Clip, w, h int, alpha bool, pick Picker, to string, growing func(*Proxy), progress func(done int64)) error {
	each := 1
	if alpha {
		each = 2
	}
	b, err := newBuilder(to, times, levels(w, h), each)
	if err != nil {
		return err
	}
	defer b.cleanup()
	growing(b.proxy)
	for n := int64(0); ; n++ {
		s, err := pick(n)
		if err == io.EOF {
			break
		}
		if err != nil {
			return err
		}
		if err := b.addSurface(s); err != nil {
			return err
		}
		progress(b.frames())
	}
	return b.finish(ctx)
}

// builder writes a proxy frame by frame.
type builder struct {
	out   *renameio.PendingFile
	proxy *Proxy
	times timing.Clip
	at    int64
	bufs  [2 * maxLevels][]byte
	alpha []byte
	all   []byte
}

func newBuilder(to string, times timing.Clip, l []level, each int) (*builder, error) {
	out, err := renameio.NewPendingFile(to, renameio.WithTempDir(filepath.Dir(to)), renameio.WithPermissions(0o644))
	if err != nil {
		return nil, err
	}
	f, err := os.Open(out.Name())
	if err != nil {
		_ = out.Cleanup()
		return nil, err
	}
	return &builder{out: out, times: times, proxy: &Proxy{f: f, levels: l, each: each}}, nil
}

func (b *builder) cleanup() { _ = b.out.Cleanup() }

func (b *builder) frames() int64 { return int64(len(b.proxy.table)) }

func (b *builder) addPlanes(raw []byte, half *[2][]byte) error {
	l := b.proxy.levels
	var err error
	cur := raw
	for k := range l {
		if k > 0 {
			cur, half[k%2] = halve(cur, l[k-1], half[k%2])
		}
		if b.bufs[k], err = turbo.EncodePlanes(b.bufs[k], cur, l[k].w, l[k].h, proxyQuality); err != nil {
			return err
		}
	}
	return b.write(len(l))
}

// halve shrinks three planes of 4:2:0.
func halve(src []byte, from level, buf []byte) (out, kept []byte) {
	w, h := from.w, from.h
	need := w * h * 3 / 8
	if cap(buf) < need {
		buf = make([]byte, need)
	}
	buf = buf[:need]
	n, m := w*h, w*h/4
	raster.Plane{W: w, H: h, Pix: src[:n]}.Half(buf[: n/4 : n/4])
	raster.Plane{W: w / 2, H: h / 2, Pix: src[n : n+m]}.Half(buf[n/4 : n/4+m/4 : n/4+m/4])
	raster.Plane{W: w / 2, H: h / 2, Pix: src[n+m : n+2*m]}.Half(buf[n/4+m/4 : n/4+m/2 : n/4+m/2])
	return buf, buf
}

func (b *builder) addSurface(s *raster.Surface) error {
	var err error
	p := b.proxy
	for k, l := range p.levels {
		s = s.Resize(l.w, l.h)
		i := k * p.each
		if b.bufs[i], err = turbo.Encode(b.bufs[i], s, proxyQuality, turbo.Half); err != nil {
			return err
		}
		if p.each == 2 {
			b.alpha = s.Alpha(b.alpha)
			if b.bufs[i+1], err = turbo.EncodeGrey(b.bufs[i+1], b.alpha, l.w, l.h, alphaQuality); err != nil {
				return err
			}
		}
	}
	return b.write(len(p.levels) * p.each)
}

// write appends the first n buffers as a frame.
func (b *builder) write(n int) error {
	e := entry{offset: b.at, start: b.times.Start(timing.SourceFrame(b.frames()))}
	b.all = b.all[:0]
	for i := range n {
		e.sizes[i] = uint32(len(b.bufs[i]))
		b.all = append(b.all, b.bufs[i]...)
	}
	if _, err := b.out.Write(b.all); err != nil {
		return err
	}
	b.at += int64(len(b.all))
	b.proxy.mu.Lock()
	b.proxy.table = append(b.proxy.table, e)
	b.proxy.mu.Unlock()
	return nil
}

func (b *builder) finish(ctx context.Context) error {
	if err := ctx.Err(); err != nil {
		return err
	}
	p := b.proxy
	if n := b.frames(); n != b.times.Frames {
		return &CountError{n, b.times.Frames}
	}
	var t bytes.Buffer
	put := func(v any) { _ = binary.Write(&t, binary.BigEndian, v) }
	for i := range p.table {
		e := &p.table[i]
		put(e.start)
		put(e.offset)
		put(e.sizes[:len(p.levels)*p.each])
	}
	for _, l := range p.levels {
		put([2]uint32{uint32(l.w), uint32(l.h)})
	}
	put([4]int64{b.times.Ticks.N, b.times.Ticks.D, b.times.End, b.frames()})
	t.Write([]byte{byte(len(p.levels)), byte(p.each)})
	t.WriteString(proxyMagic)
	if _, err := b.out.Write(t.Bytes()); err != nil {
		return err
	}
	if err := b.out.CloseAtomicallyReplace(); err != nil {
		return err
	}
	p.mu.Lock()
	p.whole = true
	p.mu.Unlock()
	return nil
}
