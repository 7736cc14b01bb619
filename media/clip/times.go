package clip

import (
	"bufio"
	"context"
	"encoding/binary"
	"errors"
	"fmt"
	"io"
	"math"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"

	"github.com/google/renameio/v2"

	"ivypocket/core/timing"
	"ivypocket/media/helper"
)

// Scan finds the instant of every frame without decoding any, sets what the
// facts say of time, and returns the times.
func (f *Facts) Scan(ctx context.Context, path string, rank helper.Rank) (timing.Clip, error) {
	// A packet of VP8 may hold a frame that is never shown, which its decoder
	// alone can tell.
	return f.scan(ctx, path, f.Codec == "vp8", rank)
}

// ScanDecoded is Scan by decoding everything, for clips whose packets and
// frames turn out not to be the same in number.
func (f *Facts) ScanDecoded(ctx context.Context, path string) (timing.Clip, error) {
	return f.scan(ctx, path, true, helper.Background)
}

func (f *Facts) scan(ctx context.Context, path string, decode bool, rank helper.Rank) (timing.Clip, error) {
	st, err := f.Container.stamps(ctx, path, strconv.Itoa(f.Stream), decode, rank)
	if err != nil {
		return timing.Clip{}, err
	}
	return st.apply(f)
}

// stamps reads the time stamps of a track, named as ffprobe does.
func (c Container) stamps(ctx context.Context, path, track string, decode bool, rank helper.Rank) (*stamps, error) {
	ctx, stop := context.WithCancel(ctx)
	defer stop()
	args := append([]string{"-v", "error"}, c.inside()...)
	args = append(args, "-select_streams", track, "-of", "csv=p=1")
	if decode {
		args = append(args, "-show_entries", "frame=pts,pkt_duration:stream=time_base")
	} else {
		args = append(args, "-show_entries", "packet=pts,dts,duration,flags:stream=time_base")
	}
	read, write := io.Pipe()
	var st stamps
	parsed := make(chan error, 1)
	go func() {
		err := st.read(read)
		if err != nil {
			stop()
		}
		_ = read.CloseWithError(err)
		parsed <- err
	}()
	limit := probeTime
	if decode {
		limit = filmTime
	}
	err := helper.Stream(ctx, helper.Spec{Name: "ffprobe", Limit: limit, Output: stampBytes, Rank: rank, Args: append(args, path)}, nil, write)
	write.Close()
	if perr := <-parsed; perr != nil {
		return nil, perr
	}
	if err != nil {
		return nil, unread(ctx, err, path)
	}
	return &st, nil
}

// stampBytes bounds the lines of stamps: one for each frame, about 60 bytes, and
// as many again for what is decoded and not shown.
const stampBytes = MaxFrames * 128

// stamps are the time stamps of a track's frames, in ticks of its time base.
type stamps struct {
	base timing.Rat // seconds for one tick
	pts  []int64
	keys []int64 // stamps of key frames, up to maxKeys and one more
	last int64   // duration of the frame with the highest stamp; 0 is unknown
	top  int64
}

// maxKeys bounds the key frames that are kept of a clip.
const maxKeys = 1000

var errTooMany = refuse("The clip has more than %d frames, which is the limit.", MaxFrames)

// read takes the lines of ffprobe: "packet,pts,dts,duration,flags",
// "frame,pts,duration" and "stream,base".
func (s *stamps) read(r io.Reader) error {
	lines := bufio.NewScanner(r)
	s.top = math.MinInt64
	for lines.Scan() {
		part := strings.Split(lines.Text(), ",")
		var at, lasts string
		key := false
		switch {
		case part[0] == "packet" && len(part) >= 5:
			if len(part[4]) > 1 && part[4][1] == 'D' {
				continue // is decoded and not shown
			}
			at, lasts = part[1], part[3]
			if at == "N/A" {
				at = part[2]
			}
			key = part[4] != "" && part[4][0] == 'K'
		case part[0] == "frame" && len(part) >= 3:
			at, lasts = part[1], part[2]
		case part[0] == "stream" && len(part) >= 2:
			if base, err := timing.ParseRat(part[1]); err == nil && base.N > 0 {
				s.base = base
			}
			continue
		default:
			continue
		}
		v, err := strconv.ParseInt(at, 10, 64)
		if err != nil {
			continue
		}
		if len(s.pts) >= MaxFrames {
			return errTooMany
		}
		s.pts = append(s.pts, v)
		if key && len(s.keys) <= maxKeys {
			s.keys = append(s.keys, v)
		}
		if v >= s.top {
			s.top = v
			s.last, _ = strconv.ParseInt(lasts, 10, 64)
		}
	}
	if err := lines.Err(); err != nil && !errors.Is(err, io.ErrClosedPipe) {
		return err
	}
	return nil
}

// apply orders the stamps and makes them times.
func (s *stamps) apply(f *Facts) (timing.Clip, error) {
	slices.Sort(s.pts)
	s.pts = slices.Compact(s.pts)
	n := int64(len(s.pts))
	if n == 0 {
		return timing.Clip{}, refuse("The clip has no frames.")
	}
	if s.base.D == 0 {
		return timing.Clip{}, refuse("The clip has no clock; it may be damaged.")
	}
	first := s.pts[0]
	if f.Keys = nil; len(s.keys) <= maxKeys {
		for _, k := range s.keys {
			if i, ok := slices.BinarySearch(s.pts, k); ok {
				f.Keys = append(f.Keys, int64(i))
			}
		}
		slices.Sort(f.Keys)
	}
	ticks := timing.Int(1).Div(s.base)
	if start, ok := mulExact(first, s.base); ok {
		f.Start = start
	} else {
		return timing.Clip{}, refuse("The clip's clock runs to impossible times; it may be damaged.")
	}
	for i := range s.pts {
		s.pts[i] -= first
	}
	end := s.pts[n-1] + s.last
	if s.last <= 0 {
		end = s.pts[n-1] + max(1, s.pts[n-1]/max(1, n-1))
	}
	var c timing.Clip
	var err error
	if rate, ok := regular(s.pts, end, ticks); ok {
		c = timing.Even(rate, n)
	} else if c, err = timing.Uneven(ticks, s.pts, end); err != nil {
		return c, refuse("The clip's time stamps make no sense: %s.", err)
	}
	if r := c.Rate.Float(); r > 1000 || n > 1 && r < 0.01 {
		return c, refuse("The clip runs at %g frames a second; the limit is 1000.", r)
	}
	f.Rate, f.Frames, f.Uneven, f.Exact = c.Rate, n, c.Starts != nil, true
	return c, nil
}

// mulExact is ticks·base, when the product fits.
func mulExact(ticks int64, base timing.Rat) (timing.Rat, bool) {
	if math.Abs(float64(ticks))*float64(base.N) > 1<<53 {
		return timing.Rat{}, false
	}
	return timing.NewRat(ticks*base.N, base.D), true
}

// usual are the rates that frames are looked for at when stamps were rounded
// to a coarse clock, such as the milliseconds of Matroska.
var usual = []timing.Rat{
	timing.NewRat(24000, 1001), timing.Int(24), timing.Int(25), timing.NewRat(30000, 1001), timing.Int(30), timing.Int(48), timing.Int(50),
	timing.NewRat(60000, 1001), timing.Int(60), timing.Int(100), timing.NewRat(120000, 1001), timing.Int(120), timing.Int(12), timing.Int(15), timing.Int(10),
}

// regular finds the rate at which every stamp is where that rate puts it, to
// less than one tick.
func regular(pts []int64, end int64, ticks timing.Rat) (timing.Rate, bool) {
	n := int64(len(pts))
	if n == 1 {
		// One frame has no rate of its own; its length makes one.
		if r := ticks.Div(timing.Int(end)); r.Float() >= 1 && r.Float() <= 240 {
			return timing.Rate{Rat: r}, true
		}
		return timing.Rate{Rat: timing.Int(25)}, true
	}
	try := usual
	if pts[1] > 0 {
		try = append([]timing.Rat{ticks.Div(timing.Int(pts[1]))}, usual...)
	}
	for _, r := range try {
		step := ticks.Div(r) // ticks for one frame
		if step.Float() < 1 {
			continue
		}
		ok := true
		for i, p := range pts {
			// |p − i·step| < 1, in whole numbers.
			if d := p*step.D - int64(i)*step.N; d >= step.D || d <= -step.D {
				ok = false
				break
			}
		}
		if ok {
			return timing.Rate{Rat: r}, true
		}
	}
	return timing.Rate{}, false
}

// Times of uneven clips are kept in a file: the magic text, ticks per second as
// numerator and denominator, the number of frames, the end, and how far each
// frame begins after the one before, all as variable-length numbers.
const timesMagic = "ivytimes1\n"

// WriteTimes keeps the times of an uneven clip; the file appears only whole.
func WriteTimes(path string, c timing.Clip) error {
	b := binary.AppendUvarint([]byte(timesMagic), uint64(c.Ticks.N))
	b = binary.AppendUvarint(b, uint64(c.Ticks.D))
	b = binary.AppendUvarint(b, uint64(c.Frames))
	b = binary.AppendUvarint(b, uint64(c.End))
	last := int64(0)
	for _, s := range c.Starts {
		b = binary.AppendUvarint(b, uint64(s-last))
		last = s
	}
	return renameio.WriteFile(path, b, 0o644, renameio.WithTempDir(filepath.Dir(path)))
}

// ReadTimes reads what WriteTimes kept.
func ReadTimes(path string) (timing.Clip, error) {
	b, err := os.ReadFile(path)
	if err != nil {
		return timing.Clip{}, err
	}
	return ParseTimes(b)
}

// ParseTimes reads the content of a file of times.
func ParseTimes(b []byte) (timing.Clip, error) {
	damaged := fmt.Errorf("the file of the clip's times is damaged")
	if len(b) < len(timesMagic) || string(b[:len(timesMagic)]) != timesMagic {
		return timing.Clip{}, damaged
	}
	b = b[len(timesMagic):]
	next := func() (int64, bool) {
		v, n := binary.Uvarint(b)
		if n <= 0 || v > 1<<53 {
			return 0, false
		}
		b = b[n:]
		return int64(v), true
	}
	tn, ok1 := next()
	td, ok2 := next()
	frames, ok3 := next()
	end, ok4 := next()
	if !ok1 || !ok2 || !ok3 || !ok4 || tn < 1 || td < 1 || frames < 1 || frames > int64(len(b)) {
		return timing.Clip{}, damaged
	}
	starts := make([]int64, frames)
	at := int64(0)
	for i := range starts {
		d, ok := next()
		if !ok || at > 1<<53 {
			return timing.Clip{}, damaged
		}
		at += d
		starts[i] = at
	}
	c, err := timing.Uneven(timing.NewRat(tn, td), starts, end)
	if err != nil {
		return c, damaged
	}
	return c, nil
}
