package media

import (
	"bufio"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"math"
	"os/exec"
	"regexp"
	"strconv"
	"strings"

	"ivypocket/core/raster"
	"ivypocket/core/template"
	"ivypocket/core/timing"
)

// insideOnly keeps ffmpeg and ffprobe to the one file, read as MP4 whatever it
// says of itself: a text that names other files is then no playlist but a
// broken MP4.
var insideOnly = []string{
	"-protocol_whitelist", "file", "-format_whitelist", "mov,mp4,m4a,3gp,3g2,mj2",
	"-codec_whitelist", "h264", "-f", "mov", "-enable_drefs", "0",
}

// notListed is how ffprobe names a codec that insideOnly keeps out.
var notListed = regexp.MustCompile(`Codec \((\w+)\) not on whitelist`)

type probed struct {
	Streams []struct {
		CodecType   string `json:"codec_type"`
		CodecName   string `json:"codec_name"`
		PixFmt      string `json:"pix_fmt"`
		Width       int    `json:"width"`
		Height      int    `json:"height"`
		RFrameRate  string `json:"r_frame_rate"`
		AvgRate     string `json:"avg_frame_rate"`
		ColorSpace  string `json:"color_space"`
		Packets     string `json:"nb_read_packets"`
		Disposition struct {
			AttachedPic int `json:"attached_pic"`
		} `json:"disposition"`
		SideData []struct {
			Rotation float64 `json:"rotation"`
		} `json:"side_data_list"`
	} `json:"streams"`
}

func inspectClip(ctx context.Context, path string) (Meta, error) {
	args := append([]string{"-v", "error"}, insideOnly...)
	args = append(args, "-count_packets", "-show_streams", "-of", "json", path)
	out, err := run(ctx, probeTime, nil, nil, "ffprobe", args...)
	if err != nil {
		if ctx.Err() != nil {
			return Meta{}, ctx.Err()
		}
		if codec := notListed.FindStringSubmatch(err.Error()); codec != nil {
			return Meta{}, refuse("The clip is %s; for now H.264 can come in. Convert it.", strings.ToUpper(codec[1]))
		}
		return Meta{}, refuse("The clip can't be read as MP4: %s. It may be damaged or not be a clip.", strings.TrimPrefix(err.Error(), "ffprobe: "+path+": "))
	}
	var p probed
	if err := json.Unmarshal(out, &p); err != nil {
		return Meta{}, refuse("The clip can't be read as MP4.")
	}
	if len(p.Streams) > MaxTracks {
		return Meta{}, refuse("The clip has %d tracks; the limit is %d.", len(p.Streams), MaxTracks)
	}
	m := Meta{Type: MP4, Kind: template.Footage}
	found := false
	for _, s := range p.Streams {
		if s.CodecType == "audio" {
			m.Sound = true
		}
		if s.CodecType != "video" || s.Disposition.AttachedPic != 0 || found {
			continue
		}
		found = true
		if s.CodecName != "h264" {
			return m, refuse("The clip is %s; for now H.264 can come in. Convert it.", strings.ToUpper(s.CodecName))
		}
		if s.PixFmt != "yuv420p" && s.PixFmt != "yuvj420p" {
			return m, refuse("The clip's pixels are %s; for now 8-bit 4:2:0 can come in. Convert it.", s.PixFmt)
		}
		m.Width, m.Height = s.Width, s.Height
		for _, sd := range s.SideData {
			if math.Mod(math.Abs(sd.Rotation), 180) == 90 {
				m.Width, m.Height = s.Height, s.Width
			}
		}
		if s.Width < 2 || s.Height < 2 || s.Width*s.Height > MaxClipPixels {
			return m, refuse("The clip is %d × %d px; the limit is %d px in all.", s.Width, s.Height, MaxClipPixels)
		}
		if m.Frames, err = strconv.ParseInt(s.Packets, 10, 64); err != nil || m.Frames < 1 {
			return m, refuse("The clip has no frames.")
		}
		if m.Frames > MaxClipFrames {
			return m, refuse("The clip has %d frames; the limit is %d.", m.Frames, MaxClipFrames)
		}
		rate, err := timing.ParseRate(s.AvgRate)
		if err != nil {
			return m, refuse("The clip's frame rate can't be read: %s.", err)
		}
		m.Rate = &rate
		m.Uneven = s.RFrameRate != s.AvgRate && m.Frames > 1
		m.Matrix = matrix(s.ColorSpace, s.Height)
	}
	if !found {
		return m, refuse("The file has no picture track.")
	}
	return m, nil
}

// matrix is the colour matrix of a clip: as tagged, else by height, which is
// common practice (no source): BT.709 from 720 lines up, BT.601 below.
func matrix(tag string, height int) string {
	switch tag {
	case "bt709":
		return "bt709"
	case "smpte170m", "bt470bg", "fcc":
		return "bt601"
	}
	if height >= 720 {
		return "bt709"
	}
	return "bt601"
}

// decodeArgs makes ffmpeg write frames from a first one on as RGBA of w×h.
// Every way to a frame goes through here, so that all give the same pixels.
func (m Meta) decodeArgs(path string, first int64, count int64, w, h int) []string {
	args := append([]string{"-v", "error", "-nostdin", "-threads", "2"}, insideOnly...)
	if first > 0 {
		// Half a frame early, so that rounding can't lose the frame itself.
		at := (float64(first) - 0.5) * float64(m.Rate.D) / float64(m.Rate.N)
		args = append(args, "-ss", strconv.FormatFloat(at, 'f', 6, 64))
	}
	args = append(args, "-i", path, "-map", "0:V:0", "-an", "-sn", "-dn")
	filter := fmt.Sprintf("scale=%d:%d:flags=bicubic+accurate_rnd+full_chroma_int:in_color_matrix=%s", w, h, m.Matrix)
	if m.Uneven {
		filter = fmt.Sprintf("fps=%s,", m.Rate.String()) + filter
	}
	args = append(args, "-vf", filter, "-fps_mode", "passthrough")
	if count > 0 {
		args = append(args, "-frames:v", strconv.FormatInt(count, 10))
	}
	return append(args, "-f", "rawvideo", "-pix_fmt", "rgba", "pipe:1")
}

// decodeFrame decodes one frame of the original.
func (m Meta) decodeFrame(ctx context.Context, path string, frame int64, w, h int) (*raster.Surface, error) {
	out, err := run(ctx, frameTime, nil, nil, "ffmpeg", m.decodeArgs(path, frame, 1, w, h)...)
	if err != nil {
		return nil, err
	}
	if len(out) < w*h*4 {
		return nil, fmt.Errorf("frame %d of the clip can't be decoded", frame)
	}
	return &raster.Surface{W: w, H: h, Pix: out[:w*h*4], Opaque: true}, nil
}

// forward decodes a clip's frames one after another.
type forward struct {
	cmd    *exec.Cmd
	out    *bufio.Reader
	closer io.Closer
	next   int64
	w, h   int
	last   *raster.Surface // of frame next-1
	stop   context.CancelFunc
}

func (m Meta) forward(ctx context.Context, path string, first int64, w, h int) (*forward, error) {
	ctx, stop := context.WithCancel(ctx)
	cmd := command(ctx, filmTime, nil, "ffmpeg", m.decodeArgs(path, first, 0, w, h)...)
	pipe, err := cmd.StdoutPipe()
	if err != nil {
		stop()
		return nil, err
	}
	if err := cmd.Start(); err != nil {
		stop()
		return nil, err
	}
	return &forward{cmd: cmd, out: bufio.NewReaderSize(pipe, 1<<20), closer: pipe, next: first, w: w, h: h, stop: stop}, nil
}

// skipAhead is how many frames are read and dropped rather than sought.
const skipAhead = 120

// frame returns frame n; ok is false when it lies behind or too far ahead, or
// the clip ended before it.
func (f *forward) frame(n int64) (s *raster.Surface, ok bool, err error) {
	if n == f.next-1 && f.last != nil {
		return f.last, true, nil
	}
	if n < f.next || n > f.next+skipAhead {
		return nil, false, nil
	}
	for f.next <= n {
		s := raster.NewSurface(f.w, f.h)
		s.Opaque = true
		if _, err := io.ReadFull(f.out, s.Pix); err != nil {
			if err == io.EOF || err == io.ErrUnexpectedEOF {
				return nil, false, nil
			}
			return nil, false, err
		}
		f.last = s
		f.next++
	}
	return f.last, true, nil
}

func (f *forward) close() {
	f.stop()
	_ = f.closer.Close()
	_ = f.cmd.Wait()
}
