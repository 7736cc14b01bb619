package sound_test

import (
	"context"
	"math"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"ivypocket/media/mediatest"
	"ivypocket/media/sound"
)

// ffmpeg writes half a second of quiet, half a second of a full tone and half a
// second of a faint one, in every kind of file that comes in.
func TestSoundFilesHaveLengthAndWaveform(t *testing.T) {
	const src = "aevalsrc='if(lt(t,0.5),0,if(lt(t,1),1,0.25))*0.9*sin(2*PI*220*t)':s=44100:d=1.5"
	for name, args := range map[string][]string{
		"a.wav": {}, "a.flac": {}, "a.mp3": {"-c:a", "libmp3lame", "-b:a", "192k"}, "a.opus": {"-c:a", "libopus", "-b:a", "128k"}, "a.m4a": {"-c:a", "aac", "-b:a", "192k"},
	} {
		path := filepath.Join(t.TempDir(), name)
		mediatest.FFmpeg(t, nil, append(append([]string{"-f", "lavfi", "-i", src}, args...), path)...)
		c := map[string]sound.Container{".wav": sound.WAV, ".flac": sound.FLAC, ".mp3": sound.MP3, ".opus": sound.Ogg, ".m4a": sound.M4A}[filepath.Ext(name)]
		f, err := sound.Inspect(context.Background(), c, path, 1000)
		if err != nil {
			t.Errorf("%s: %v", name, err)
			continue
		}
		if math.Abs(f.Seconds-1.5) > 0.06 || f.Channels != 1 { // codecs pad the ends
			t.Errorf("%s: %g s, %d channels", name, f.Seconds, f.Channels)
		}
		n := len(f.Peaks) / 2
		at := func(share float64) (int, int) {
			i := int(share * float64(n))
			return int(f.Peaks[2*i]), int(f.Peaks[2*i+1])
		}
		if lo, hi := at(0.15); lo < -8 || hi > 8 {
			t.Errorf("%s: quiet reaches %d to %d", name, lo, hi)
		}
		var top, faint int
		for i := range n {
			if s := float64(i) / float64(n); s > 0.4 && s < 0.6 {
				top = max(top, int(f.Peaks[2*i+1]))
			} else if s > 0.75 && s < 0.95 {
				faint = max(faint, int(f.Peaks[2*i+1]))
			}
		}
		if top < 90 || faint < 15 || faint > 45 {
			t.Errorf("%s: the tone reaches %d, the faint one %d", name, top, faint)
		}
		if n > sound.MaxPeaks || n < 200 {
			t.Errorf("%s: %d parts", name, n)
		}
	}
}

func TestNoSoundIsRefused(t *testing.T) {
	path := filepath.Join(t.TempDir(), "n")
	for what, data := range map[string]string{"noise": strings.Repeat("\xff\xfb\x00\x12", 50), "a head": "RIFF\x24\x00\x00\x00WAVEfmt "} {
		if err := os.WriteFile(path, []byte(data), 0o644); err != nil {
			t.Fatal(err)
		}
		if _, err := sound.Inspect(context.Background(), sound.WAV, path, int64(len(data))); err == nil {
			t.Errorf("%s was taken", what)
		}
	}
}
