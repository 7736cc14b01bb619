// Package clip is the room for footage: what a file holds, the exact instants
// of its frames, frame n decoded from the original, and proxies. ffmpeg and
// ffprobe do the decoding, each a helper that is kept to one file, one
// container and a list of codecs.
package clip

import (
	"context"
	"encoding/json"
	"fmt"
	"math"
	"regexp"
	"sort"
	"strconv"
	"strings"
	"sync"
	"time"

	"ivypocket/core/raster"
	"ivypocket/core/timing"
	"ivypocket/media/helper"
	"ivypocket/media/limits"
)

// Limits of what comes in.
const (
	MaxBytes  = limits.ClipBytes
	MaxSide   = limits.ClipSide
	MaxPixels = limits.ClipPixels
	MaxFrames = limits.ClipFrames
	MaxTracks = limits.ClipTracks
)

// Bounds on helpers, in processor time.
const (
	probeTime = 60 * time.Second
	// describeTime is for what a file says of itself, which takes well below a
	// second unless somebody made it take long.
	describeTime = 20 * time.Second
	frameTime    = 60 * time.Second
	filmTime     = 24 * time.Hour
)

// Container is a kind of file that holds footage, by the name that ffmpeg's
// demuxer has.
type Container string

const (
	MOV      Container = "mov" // MP4 too
	Matroska Container = "matroska"
	GIF      Container = "gif"
	APNG     Container = "apng"
)

// whitelist names a demuxer as ffmpeg lists it.
var whitelist = map[Container]string{MOV: "mov,mp4,m4a,3gp,3g2,mj2", Matroska: "matroska,webm", GIF: "gif", APNG: "apng"}

// Codecs that come in, by ffprobe's names, and as people write them.
var Codecs = map[string]string{
	"h264": "H.264", "hevc": "H.265", "vp8": "VP8", "vp9": "VP9", "av1": "AV1", "prores": "ProRes",
	"mjpeg": "Motion JPEG", "png": "PNG", "qtrle": "QuickTime Animation", "gif": "GIF", "apng": "animated PNG",
}

// readable are the decoders a helper may use: of the codecs above, and of
// sound tracks that lie beside them.
const readable = "h264,hevc,vp8,vp9,libvpx,libvpx-vp9,av1,libdav1d,libaom-av1,prores,mjpeg,png,qtrle,gif,apng," +
	"aac,mp3,mp3float,mp2,mp2float,opus,libopus,vorbis,flac,alac,ac3,eac3,pcm_s16le,pcm_s16be,pcm_s24le,pcm_s24be,pcm_s32le,pcm_s32be,pcm_f32le,pcm_u8,pcm_alaw,pcm_mulaw"

// inside keeps ffmpeg and ffprobe to the one file, read as the container it was
// found to be: a text that names other files is then no playlist but a
// broken film.
func (c Container) inside() []string {
	args := []string{"-protocol_whitelist", "file", "-format_whitelist", whitelist[c], "-codec_whitelist", readable, "-f", string(c)}
	if c == MOV {
		args = append(args, "-enable_drefs", "0")
	}
	return args
}

// Facts is what is known of a checked clip.
type Facts struct {
	Container Container `json:"container"`
	Codec     string    `json:"codec"`  // ffprobe's name
	Pixels    string    `json:"pixels"` // ffmpeg's name of the pixel format
	Bits      int       `json:"bits"`   // of a channel
	Stream    int       `json:"stream"` // of the picture track
	// Width and Height are upright and of square pixels.
	Width  int `json:"width"`
	Height int `json:"height"`
	// Rate is in frames per second, exact or, when uneven, the average.
	Rate   timing.Rate `json:"rate"`
	Frames int64       `json:"frames"`
	// Uneven is set when frames are not evenly spaced; their instants are then
	// kept in a file of their own.
	Uneven bool `json:"uneven,omitempty"`
	// Exact is set once every frame has been found; until then Frames is what
	// the file says of itself.
	Exact bool `json:"exact"`
	// Start is the first frame's instant by the container's clock, in seconds.
	Start timing.Rat `json:"start"`
	// Keys are the frames that can be decoded on their own, as far as they are
	// few enough to be kept.
	Keys []int64 `json:"keys,omitempty"`
	// Matrix, Full, HDR and Wide are the colours: the Y′CbCr matrix, the full
	// range, "PQ" or "HLG" (ITU-R BT.2100), and primaries of BT.2020.
	Matrix raster.Matrix `json:"matrix,omitempty"`
	Full   bool          `json:"full,omitempty"`
	HDR    string        `json:"hdr,omitempty"`
	Wide   bool          `json:"wide,omitempty"`
	// Fields is "tff" or "bff" for interlaced pictures, by the field that comes
	// first.
	Fields string `json:"fields,omitempty"`
	Turned bool   `json:"turned,omitempty"` // the file says to turn the picture
	Alpha  bool   `json:"alpha,omitempty"`
	Sound  bool   `json:"sound,omitempty"`
}

// RefusedError says why a file may not come in, for people.
type RefusedError struct{ Reason string }

func (e *RefusedError) Error() string { return e.Reason }

func refuse(format string, args ...any) error { return &RefusedError{fmt.Sprintf(format, args...)} }

// notListed is how the helpers name a codec that is kept out.
var notListed = regexp.MustCompile(`Codec \((\w+)\) not on whitelist`)

// track is what ffprobe says of a track.
type track struct {
	Index       int               `json:"index"`
	CodecType   string            `json:"codec_type"`
	CodecName   string            `json:"codec_name"`
	PixFmt      string            `json:"pix_fmt"`
	Width       int               `json:"width"`
	Height      int               `json:"height"`
	Aspect      string            `json:"sample_aspect_ratio"`
	Field       string            `json:"field_order"`
	RFrameRate  string            `json:"r_frame_rate"`
	AvgRate     string            `json:"avg_frame_rate"`
	TimeBase    string            `json:"time_base"`
	StartTime   string            `json:"start_time"`
	NbFrames    string            `json:"nb_frames"`
	Duration    string            `json:"duration"`
	Range       string            `json:"color_range"`
	Space       string            `json:"color_space"`
	Transfer    string            `json:"color_transfer"`
	Primaries   string            `json:"color_primaries"`
	Tags        map[string]string `json:"tags"`
	Disposition struct {
		AttachedPic int `json:"attached_pic"`
	} `json:"disposition"`
	SideData []struct {
		Rotation float64 `json:"rotation"`
	} `json:"side_data_list"`
}

// described is what ffprobe is asked for: what track has a place for, and no
// texts that anybody may have written into the file.
const described = "stream=index,codec_type,codec_name,pix_fmt,width,height,sample_aspect_ratio,field_order,r_frame_rate,avg_frame_rate," +
	"time_base,start_time,nb_frames,duration,color_range,color_space,color_transfer,color_primaries" +
	":stream_tags=alpha_mode,ALPHA_MODE:stream_disposition=attached_pic:stream_side_data=rotation:format=duration"

// describeBytes bounds what that may come to: some hundred tracks.
const describeBytes = 1 << 20

// scanBytes is the size up to which all frames are found before a clip is
// shown. Reading more takes longer than people should wait; a larger file is
// taken at its word first.
const scanBytes = 160 << 20

// scanFrames is the same for frames.
const scanFrames = 20_000

// Inspect reads what a file of a container holds. Its times come beside the
// facts, and its first frame, small. What may not come in is a *RefusedError.
func Inspect(ctx context.Context, c Container, path string, bytes int64) (Facts, timing.Clip, *raster.Surface, error) {
	f := Facts{Container: c}
	if bytes > MaxBytes {
		return f, timing.Clip{}, nil, refuse("The clip is %d GB; the limit is %d GB.", bytes>>30, int64(MaxBytes)>>30)
	}
	// The stamps of the first picture track are read at the same time, as that is
	// the one most likely to be meant.
	ctx, stop := context.WithCancel(ctx)
	defer stop()
	var guess *stamps
	guessed := make(chan struct{})
	go func() {
		defer close(guessed)
		if bytes <= scanBytes {
			guess, _ = c.stamps(ctx, path, "V:0", false, helper.Foreground)
		}
	}()
	defer func() { stop(); <-guessed }()
	args := append([]string{"-v", "error"}, c.inside()...)
	out, err := helper.Run(ctx, helper.Spec{Name: "ffprobe", Limit: describeTime, Output: describeBytes,
		Args: append(args, "-show_entries", described, "-of", "json", path)}, nil)
	if err != nil {
		return f, timing.Clip{}, nil, unread(ctx, err, path)
	}
	var p struct {
		Streams []track `json:"streams"`
		Format  struct {
			Duration string `json:"duration"`
		} `json:"format"`
	}
	if err := json.Unmarshal(out, &p); err != nil {
		return f, timing.Clip{}, nil, refuse("The clip can't be read.")
	}
	if len(p.Streams) > MaxTracks {
		return f, timing.Clip{}, nil, refuse("The clip has %d tracks; the limit is %d.", len(p.Streams), MaxTracks)
	}
	var t *track
	for i := range p.Streams {
		switch s := &p.Streams[i]; {
		case s.CodecType == "audio":
			f.Sound = true
		case s.CodecType == "video" && s.Disposition.AttachedPic == 0 && t == nil:
			t = s
		}
	}
	if t == nil {
		return f, timing.Clip{}, nil, refuse("The file has no picture track.")
	}
	if err := f.describe(t); err != nil {
		return f, timing.Clip{}, nil, err
	}
	// The first frame is decoded while the others are found.
	var first *raster.Surface
	var firstErr error
	var wg sync.WaitGroup
	early := f
	wg.Go(func() {
		k := math.Min(1, proxySide/float64(max(early.Width, early.Height)))
		w, h := max(1, int(math.Round(float64(early.Width)*k))), max(1, int(math.Round(float64(early.Height)*k)))
		first, firstErr = Clip{Path: path, Facts: early}.First(ctx, w, h)
	})
	var times timing.Clip
	if times, err = f.estimate(t, p.Format.Duration); err != nil || bytes <= scanBytes && f.Frames <= scanFrames {
		if <-guessed; guess != nil && f.Codec != "vp8" {
			times, err = guess.apply(&f)
		} else {
			times, err = f.Scan(ctx, path, helper.Foreground)
		}
	}
	wg.Wait()
	switch {
	case err != nil:
		return f, times, nil, err
	case ctx.Err() != nil:
		return f, times, nil, ctx.Err()
	case firstErr != nil:
		return f, times, nil, refuse("The clip's first frame can't be decoded: %s.", firstErr)
	}
	return f, times, first, nil
}

func unread(ctx context.Context, err error, path string) error {
	if ctx.Err() != nil {
		return ctx.Err()
	}
	if codec := notListed.FindStringSubmatch(err.Error()); codec != nil {
		return unknownCodec(codec[1])
	}
	return refuse("The clip can't be read: %s. It may be damaged or not be a clip.", strings.TrimPrefix(strings.TrimPrefix(err.Error(), "ffprobe: "), path+": "))
}

func unknownCodec(name string) error {
	return refuse("The clip's codec, %s, is not one that is read: %s. Convert it.", strings.ToUpper(name), strings.Join(codecNames(), ", "))
}

func codecNames() []string {
	var names []string
	for _, n := range Codecs {
		names = append(names, n)
	}
	sort.Strings(names)
	return names
}

// describe fills in what a track's description says.
func (f *Facts) describe(t *track) error {
	if Codecs[t.CodecName] == "" {
		return unknownCodec(t.CodecName)
	}
	f.Codec, f.Pixels, f.Stream = t.CodecName, t.PixFmt, t.Index
	if t.PixFmt == "" {
		return refuse("The clip's pixels can't be read; it may be damaged.")
	}
	w, h := t.Width, t.Height
	if w < 1 || h < 1 || w > MaxSide || h > MaxSide || w*h > MaxPixels {
		return refuse("The clip is %d × %d px; the limit is %d px a side.", w, h, MaxSide)
	}
	if n, d, ok := strings.Cut(t.Aspect, ":"); ok {
		a, err1 := strconv.ParseFloat(n, 64)
		b, err2 := strconv.ParseFloat(d, 64)
		if err1 == nil && err2 == nil && a > 0 && b > 0 && a != b && a/b < 8 && b/a < 8 {
			w = int(math.Round(float64(w) * a / b))
		}
	}
	for _, sd := range t.SideData {
		if turn := math.Mod(math.Abs(sd.Rotation), 360); turn != 0 {
			f.Turned = true
			if math.Mod(turn, 180) == 90 {
				w, h = h, w
			}
		}
	}
	if f.Width, f.Height = w, h; w > MaxSide || w < 1 {
		return refuse("The clip is %d × %d px; the limit is %d px a side.", w, h, MaxSide)
	}
	f.Bits = 8
	if m := deep.FindStringSubmatch(t.PixFmt); m != nil {
		f.Bits, _ = strconv.Atoi(m[1])
	}
	f.Alpha = strings.HasPrefix(t.PixFmt, "yuva") || strings.HasPrefix(t.PixFmt, "gbrap") || strings.HasPrefix(t.PixFmt, "ya8") ||
		strings.HasPrefix(t.PixFmt, "ya16") || strings.Contains(t.PixFmt, "rgba") || strings.Contains(t.PixFmt, "bgra") || strings.Contains(t.PixFmt, "argb") ||
		strings.Contains(t.PixFmt, "abgr") || t.PixFmt == "pal8"
	if t.CodecName == "vp8" || t.CodecName == "vp9" {
		f.Alpha = t.Tags["alpha_mode"] == "1" || t.Tags["ALPHA_MODE"] == "1"
	}
	f.Full = t.Range == "pc" || strings.HasPrefix(t.PixFmt, "yuvj")
	f.Matrix = matrix(t.Space, f.Height)
	switch t.Transfer {
	case "smpte2084":
		f.HDR = "PQ"
	case "arib-std-b67":
		f.HDR = "HLG"
	}
	f.Wide = t.Primaries == "bt2020"
	switch t.Field {
	case "tt", "bt":
		f.Fields = "tff"
	case "bb", "tb":
		f.Fields = "bff"
	}
	return nil
}

var deep = regexp.MustCompile(`(?:p|gray|gbrp|gbrap|ya)(9|10|12|14|16)(?:le|be)?$`)

// matrix is the colour matrix of a clip: as tagged, else by height, which is
// common practice (no source): BT.709 from 720 lines up, BT.601 below.
func matrix(tag string, height int) raster.Matrix {
	switch tag {
	case "bt709":
		return raster.BT709
	case "bt2020nc", "bt2020c":
		return raster.BT2020
	case "smpte170m", "bt470bg", "fcc":
		return raster.BT601
	}
	if height >= 720 {
		return raster.BT709
	}
	return raster.BT601
}

// estimate takes a large file at its word.
func (f *Facts) estimate(t *track, whole string) (timing.Clip, error) {
	rate, err := timing.ParseRate(t.AvgRate)
	if err != nil {
		if rate, err = timing.ParseRate(t.RFrameRate); err != nil {
			return timing.Clip{}, refuse("The clip's frame rate can't be read: %s.", err)
		}
	}
	f.Rate = rate
	f.Frames, err = strconv.ParseInt(t.NbFrames, 10, 64)
	if err != nil {
		d := t.Duration
		if d == "" {
			d = whole
		}
		s, err := strconv.ParseFloat(d, 64)
		if err != nil || !(s > 0) {
			return timing.Clip{}, refuse("The clip does not say how long it is; it may have been broken off.")
		}
		f.Frames = int64(s*rate.Float() + 0.5)
	}
	if f.Frames < 1 || f.Frames > MaxFrames {
		return timing.Clip{}, refuse("The clip has %d frames; the limit is %d.", f.Frames, MaxFrames)
	}
	if s, err := strconv.ParseFloat(t.StartTime, 64); err == nil && math.Abs(s) < 1e6 {
		f.Start = timing.NewRat(int64(math.Round(s*1e6)), 1e6)
	} else {
		f.Start = timing.Int(0)
	}
	return timing.Even(rate, f.Frames), nil
}

// Notes says for people what was done to bring the clip in.
func (f Facts) Notes() []string {
	var out []string
	add := func(on bool, text string) {
		if on {
			out = append(out, text)
		}
	}
	add(f.Uneven, "Its frames come at uneven times, and each is shown at its own.")
	add(f.Fields != "", "Interlaced; it was deinterlaced.")
	add(f.HDR != "", "Brighter than white ("+f.HDR+"); it was tone-mapped.")
	add(f.HDR == "" && f.Wide, "Colours of BT.2020 were brought to sRGB.")
	add(f.Turned, "Turned upright as the camera said.")
	add(f.Sound, "Its sound is off.")
	add(!f.Exact, "Its frames are still being counted.")
	return out
}
