// Package sound is the room for sound files from outside: what they hold, and
// the outline of their waveform.
package sound

import (
	"context"
	"encoding/binary"
	"encoding/json"
	"fmt"
	"strconv"
	"strings"
	"time"

	"ivypocket/media/helper"
	"ivypocket/media/limits"
)

// Limits of what comes in.
const (
	MaxBytes   = limits.SoundBytes
	MaxSeconds = limits.SoundSeconds
	probeTime  = 120 * time.Second
	// What a file says of itself takes no time and little room unless somebody
	// made it so.
	describeTime  = 20 * time.Second
	describeBytes = 1 << 20
)

// Container is a kind of sound file, by the name of ffmpeg's demuxer.
type Container string

const (
	WAV  Container = "wav"
	FLAC Container = "flac"
	MP3  Container = "mp3"
	Ogg  Container = "ogg"
	M4A  Container = "mov"
)

var whitelist = map[Container]string{WAV: "wav", FLAC: "flac", MP3: "mp3", Ogg: "ogg", M4A: "mov,mp4,m4a,3gp,3g2,mj2"}

const readable = "aac,mp3,mp3float,mp2,mp2float,opus,libopus,vorbis,flac,alac,pcm_s16le,pcm_s16be,pcm_s24le,pcm_s24be,pcm_s32le,pcm_f32le,pcm_f64le,pcm_u8,mjpeg,png"

func (c Container) inside() []string {
	return []string{"-v", "error", "-protocol_whitelist", "file", "-format_whitelist", whitelist[c], "-codec_whitelist", readable, "-f", string(c)}
}

// Facts is what is known of a checked sound file.
type Facts struct {
	Container Container `json:"container"`
	Codec     string    `json:"codec"`
	Rate      int       `json:"rate"` // samples a second
	Channels  int       `json:"channels"`
	Seconds   float64   `json:"seconds"`
	// Peaks are the lowest and highest sample of each of up to MaxPeaks equal
	// parts, by turns, −127 to 127.
	Peaks []int8 `json:"peaks"`
}

// MaxPeaks bounds the parts of a waveform.
const MaxPeaks = 1024

// RefusedError says why a file may not come in, for people.
type RefusedError struct{ Reason string }

func (e *RefusedError) Error() string { return e.Reason }

func refuse(format string, args ...any) error { return &RefusedError{fmt.Sprintf(format, args...)} }

// Inspect reads a sound file to its end, which is how its length and waveform
// are known and damage is noticed.
func Inspect(ctx context.Context, c Container, path string, bytes int64) (Facts, error) {
	f := Facts{Container: c}
	if bytes > MaxBytes {
		return f, refuse("The sound is %d GB; the limit is %d GB.", bytes>>30, MaxBytes>>30)
	}
	unread := func(err error) error {
		if ctx.Err() != nil {
			return ctx.Err()
		}
		return refuse("The sound can't be read: %s. It may be damaged.", strings.TrimPrefix(strings.TrimPrefix(err.Error(), "ffprobe: "), path+": "))
	}
	out, err := helper.Run(ctx, helper.Spec{Name: "ffprobe", Limit: describeTime, Output: describeBytes,
		Args: append(c.inside(), "-show_entries", "stream=index,codec_type,codec_name,sample_rate,channels", "-of", "json", path)}, nil)
	if err != nil {
		return f, unread(err)
	}
	var p struct {
		Streams []struct {
			Index      int    `json:"index"`
			CodecType  string `json:"codec_type"`
			CodecName  string `json:"codec_name"`
			SampleRate string `json:"sample_rate"`
			Channels   int    `json:"channels"`
		} `json:"streams"`
	}
	if err := json.Unmarshal(out, &p); err != nil {
		return f, refuse("The sound can't be read.")
	}
	at := -1
	for _, s := range p.Streams {
		if s.CodecType == "audio" {
			at = s.Index
			f.Codec, f.Channels = s.CodecName, s.Channels
			f.Rate, _ = strconv.Atoi(s.SampleRate)
			break
		}
	}
	if at < 0 || f.Rate < 1000 || f.Rate > 768000 || f.Channels < 1 || f.Channels > 64 {
		return f, refuse("The file has no sound track that can be read.")
	}
	var w wave
	args := append(c.inside(), "-nostdin", "-i", path, "-map", fmt.Sprintf("0:%d", at), "-vn", "-sn", "-dn", "-ac", "1", "-ar", strconv.Itoa(waveRate), "-f", "s16le", "pipe:1")
	if err := helper.Stream(ctx, helper.Spec{Name: "ffmpeg", Limit: probeTime, Output: (MaxSeconds + 60) * waveRate * 2, Args: args}, nil, &w); err != nil {
		if w.samples > MaxSeconds*waveRate {
			return f, refuse("The sound lasts more than %d hours, which is the limit.", MaxSeconds/3600)
		}
		return f, unread(err)
	}
	if w.samples == 0 {
		return f, refuse("The sound is empty.")
	}
	f.Seconds = float64(w.samples) / waveRate
	f.Peaks = w.peaks()
	return f, nil
}

// waveRate is the number of samples a second a waveform is measured at.
const waveRate = 8000

// wave measures 16-bit samples as they come. When there are too many parts,
// pairs of them become one.
type wave struct {
	samples int64
	odd     []byte
	each    int64 // samples in a part
	parts   [][2]int16
}

func (w *wave) Write(p []byte) (int, error) {
	n := len(p)
	if len(w.odd) == 1 && len(p) > 0 {
		w.add(int16(binary.LittleEndian.Uint16([]byte{w.odd[0], p[0]})))
		w.odd, p = nil, p[1:]
	}
	for ; len(p) >= 2; p = p[2:] {
		w.add(int16(binary.LittleEndian.Uint16(p)))
	}
	if len(p) == 1 {
		w.odd = append([]byte(nil), p[0])
	}
	if w.samples > MaxSeconds*waveRate {
		return 0, fmt.Errorf("too long")
	}
	return n, nil
}

func (w *wave) add(v int16) {
	if w.each == 0 {
		w.each = 8
	}
	i := int(w.samples / w.each)
	if i == len(w.parts) {
		if i == 2*MaxPeaks {
			for k := range MaxPeaks {
				a, b := w.parts[2*k], w.parts[2*k+1]
				w.parts[k] = [2]int16{min(a[0], b[0]), max(a[1], b[1])}
			}
			w.parts = w.parts[:MaxPeaks]
			w.each *= 2
			i = MaxPeaks
		}
		w.parts = append(w.parts, [2]int16{v, v})
	}
	q := &w.parts[i]
	q[0], q[1] = min(q[0], v), max(q[1], v)
	w.samples++
}

func (w *wave) peaks() []int8 {
	parts := w.parts
	for len(parts) > MaxPeaks {
		var half [][2]int16
		for k := 0; k < len(parts); k += 2 {
			b := parts[min(k+1, len(parts)-1)]
			half = append(half, [2]int16{min(parts[k][0], b[0]), max(parts[k][1], b[1])})
		}
		parts = half
	}
	out := make([]int8, 0, 2*len(parts))
	for _, p := range parts {
		out = append(out, int8(max(-127, int(p[0])/256)), int8(max(-127, int(p[1])/256)))
	}
	return out
}
