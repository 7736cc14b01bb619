package clip_test

import (
	"bytes"
	"context"
	"encoding/binary"
	"errors"
	"io"
	"math"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"ivypocket/core/raster"
	"ivypocket/core/timing"
	"ivypocket/media/clip"
	"ivypocket/media/helper"
	"ivypocket/media/mediatest"
)

var ctx = context.Background()

// open inspects a file as a clip.
func open(t testing.TB, name string, data []byte) clip.Clip {
	t.Helper()
	path := filepath.Join(t.TempDir(), name)
	if err := os.WriteFile(path, data, 0o644); err != nil {
		t.Fatal(err)
	}
	c := clip.MOV
	switch filepath.Ext(name) {
	case ".mkv", ".webm":
		c = clip.Matroska
	case ".gif":
		c = clip.GIF
	case ".apng":
		c = clip.APNG
	}
	facts, times, first, err := clip.Inspect(ctx, c, path, int64(len(data)))
	if err != nil {
		t.Fatalf("%s: %v", name, err)
	}
	if first == nil || first.W < 1 {
		t.Fatalf("%s: no first frame", name)
	}
	return clip.Clip{Path: path, Facts: facts, Times: times}
}

const w, h = 160, 64

// shows checks that three ways to a frame give the frame's own number: on its
// own, in order, and from the proxy.
func shows(t *testing.T, what string, c clip.Clip, number func(n int64) int64, frames ...int64) {
	t.Helper()
	ordered := slices.Clone(frames)
	slices.Sort(ordered)
	d, err := c.Open(ctx, helper.Foreground, ordered[0], w, h)
	if err != nil {
		t.Fatal(err)
	}
	defer d.Close()
	inOrder := map[int64][]byte{}
	for _, n := range ordered {
		s, err := d.Frame(n)
		if err != nil {
			t.Errorf("%s, frame %d in order: %v", what, n, err)
			return
		}
		inOrder[n] = slices.Clone(s.Pix)
	}
	var p *clip.Proxy
	if err := c.BuildProxy(ctx, filepath.Join(t.TempDir(), "p"), func(q *clip.Proxy) { p = q }, func(int64) {}); err != nil {
		t.Errorf("%s: proxy: %v", what, err)
		return
	}
	defer p.Close()
	for _, n := range frames {
		s, err := c.Frame(ctx, n, w, h)
		if err != nil {
			t.Errorf("%s, frame %d: %v", what, n, err)
			continue
		}
		if got := int64(mediatest.Number(s.Pix, w, h)); got != number(n) {
			t.Errorf("%s: frame %d on its own shows %d, want %d", what, n, got, number(n))
		}
		if !slices.Equal(s.Pix, inOrder[n]) {
			t.Errorf("%s: frame %d on its own and in order (%d) are two pictures", what, n, mediatest.Number(inOrder[n], w, h))
		}
		q, err := p.Frame(n, w, h)
		if err != nil {
			t.Errorf("%s, frame %d of the proxy: %v", what, n, err)
			continue
		}
		if got := int64(mediatest.Number(q.Resize(w, h).Pix, w, h)); got != number(n) {
			t.Errorf("%s: frame %d of the proxy shows %d, want %d", what, n, got, number(n))
		}
	}
}

func same(n int64) int64 { return n }

// Numbers burnt into the frames by ffmpeg's encoders are the referee, in every
// container and codec that comes in, at even rates.
func TestFrameNIsFrameN(t *testing.T) {
	for _, c := range []struct {
		name, rate string
		args       []string
	}{
		{"h264.mp4", "30000/1001", []string{"-c:v", "libx264", "-preset", "ultrafast", "-g", "12", "-bf", "2", "-pix_fmt", "yuv420p"}},
		{"h264.mkv", "24000/1001", []string{"-c:v", "libx264", "-preset", "ultrafast", "-g", "20", "-bf", "3", "-pix_fmt", "yuv420p"}},
		{"h264-10.mov", "25", []string{"-c:v", "libx264", "-preset", "ultrafast", "-pix_fmt", "yuv420p10le", "-g", "10"}},
		{"hevc.mp4", "30000/1001", []string{"-c:v", "libx265", "-preset", "ultrafast", "-x265-params", "log-level=none:keyint=15", "-pix_fmt", "yuv420p10le"}},
		{"vp8.webm", "30", []string{"-c:v", "libvpx", "-auto-alt-ref", "1", "-lag-in-frames", "16", "-b:v", "1M", "-g", "15", "-deadline", "realtime"}},
		{"vp9.webm", "50", []string{"-c:v", "libvpx-vp9", "-b:v", "1M", "-g", "15", "-deadline", "realtime", "-cpu-used", "8"}},
		{"av1.mp4", "25", []string{"-c:v", "libaom-av1", "-cpu-used", "8", "-usage", "realtime", "-g", "15", "-b:v", "1M"}},
		{"prores.mov", "24000/1001", []string{"-c:v", "prores_ks", "-pix_fmt", "yuv422p10le"}},
		{"mjpeg.mov", "25", []string{"-c:v", "mjpeg", "-q:v", "3", "-pix_fmt", "yuvj420p"}},
		{"png.mov", "60000/1001", []string{"-c:v", "png", "-pix_fmt", "rgb24"}},
		{"rle.mov", "25", []string{"-c:v", "qtrle", "-pix_fmt", "rgb24"}},
		{"moving.gif", "20", []string{"-loop", "0"}},
		{"moving.apng", "20", []string{"-f", "apng", "-plays", "0"}},
	} {
		t.Run(c.name, func(t *testing.T) {
			t.Parallel()
			const frames = 40
			k := open(t, c.name, mediatest.Film(t, w, h, c.rate, frames, c.name, c.args...))
			if k.Facts.Frames != frames || k.Facts.Uneven || k.Facts.Rate.String() != c.rate || !k.Facts.Exact {
				t.Fatalf("%d frames at %s (uneven %v), want %d at %s", k.Facts.Frames, k.Facts.Rate, k.Facts.Uneven, frames, c.rate)
			}
			shows(t, c.name, k, same, 0, 1, 13, 14, 15, 31, frames-1)
			a, err1 := k.First(ctx, w, h)
			b, err2 := k.Frame(ctx, 0, w, h)
			if err1 != nil || err2 != nil || !slices.Equal(a.Pix, b.Pix) {
				t.Errorf("the first frame, decoded quickly, is another (%v, %v)", err1, err2)
			}
		})
	}
}

// Frames that were dropped on the way leave the others at their own instants,
// as a phone's clip has them; ffmpeg writes those.
func TestFrameNIsFrameNAtUnevenTimes(t *testing.T) {
	for _, name := range []string{"phone.mp4", "screen.mkv"} {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			// Of 60 numbers those stay that are not divisible by 3 or 7.
			k := open(t, name, mediatest.Film(t, w, h, "30", 60, name, "-vf", `select=mod(n\,3)*mod(n\,7)`, "-fps_mode", "vfr",
				"-c:v", "libx264", "-preset", "ultrafast", "-g", "9", "-bf", "2", "-pix_fmt", "yuv420p"))
			var kept []int64
			for n := range int64(60) {
				if n%3 != 0 && n%7 != 0 {
					kept = append(kept, n)
				}
			}
			if k.Facts.Frames != int64(len(kept)) || !k.Facts.Uneven {
				t.Fatalf("%d frames, uneven %v; want %d", k.Facts.Frames, k.Facts.Uneven, len(kept))
			}
			for i, n := range kept {
				want := float64(n-kept[0]) / 30
				if got := k.Times.At(timing.SourceFrame(i)).Float(); math.Abs(got-want) > 0.0011 {
					t.Errorf("frame %d begins at %g s, want %g", i, got, want)
				}
			}
			shows(t, name, k, func(n int64) int64 { return kept[n] }, 0, 1, 5, 17, 18, int64(len(kept)-1))
		})
	}
}

// Cut without encoding anew: an edit list hides frames that are in the file,
// and other tracks begin at other instants.
func TestFrameNIsFrameNAfterTrimming(t *testing.T) {
	dir := t.TempDir()
	whole, cut := filepath.Join(dir, "whole.mp4"), filepath.Join(dir, "cut.mp4")
	if err := os.WriteFile(whole, mediatest.Clip(t, w, h, "25", 60), 0o644); err != nil {
		t.Fatal(err)
	}
	mediatest.FFmpeg(t, nil, "-ss", "0.76", "-i", whole, "-f", "lavfi", "-i", "sine=d=3", "-map", "0:v", "-map", "1:a", "-c:v", "copy", "-c:a", "aac", "-shortest", cut)
	b, err := os.ReadFile(cut)
	if err != nil {
		t.Fatal(err)
	}
	k := open(t, "cut.mp4", b)
	if !k.Facts.Sound {
		t.Error("the sound track is not seen")
	}
	first, err := k.Frame(ctx, 0, w, h)
	if err != nil {
		t.Fatal(err)
	}
	from := int64(mediatest.Number(first.Pix, w, h))
	if from < 12 || from > 19 || k.Facts.Frames != 60-from {
		t.Fatalf("begins with number %d and has %d frames", from, k.Facts.Frames)
	}
	shows(t, "cut", k, func(n int64) int64 { return n + from }, 0, 1, 4, 5, 20, k.Facts.Frames-1)

	late := filepath.Join(dir, "late.mkv")
	mediatest.FFmpeg(t, nil, "-f", "lavfi", "-i", "sine=d=3", "-itsoffset", "0.5", "-i", whole, "-map", "1:v", "-map", "0:a", "-c:v", "copy", "-c:a", "libopus", late)
	if b, err = os.ReadFile(late); err != nil {
		t.Fatal(err)
	}
	k = open(t, "late.mkv", b)
	if k.Facts.Start.Float() < 0.4 || k.Facts.Frames != 60 {
		t.Errorf("begins at %s with %d frames", k.Facts.Start, k.Facts.Frames)
	}
	shows(t, "late", k, same, 0, 1, 11, 12, 13, 59)
}

func TestTurnedClipsStandUpright(t *testing.T) {
	dir := t.TempDir()
	flat, turned := filepath.Join(dir, "flat.mp4"), filepath.Join(dir, "turned.mp4")
	// White at the left.
	mediatest.FFmpeg(t, nil, "-f", "lavfi", "-i", "color=black:s=64x48:d=0.4,drawbox=w=20:h=48:c=white:t=fill", "-c:v", "libx264", "-pix_fmt", "yuv420p", flat)
	mediatest.FFmpeg(t, nil, "-i", flat, "-c", "copy", "-metadata:s:v:0", "rotate=90", turned)
	b, err := os.ReadFile(turned)
	if err != nil {
		t.Fatal(err)
	}
	k := open(t, "t.mp4", b)
	if k.Facts.Width != 48 || k.Facts.Height != 64 || !k.Facts.Turned {
		t.Fatalf("%+v", k.Facts)
	}
	s, err := k.Frame(ctx, 2, 48, 64)
	if err != nil {
		t.Fatal(err)
	}
	_, top, _, _ := s.At(24, 4)
	_, bottom, _, _ := s.At(24, 60)
	if top > 40 || bottom < 200 { // a quarter turn against the clock brings the left side down
		t.Errorf("top %d, bottom %d", top, bottom)
	}
}

func TestInterlacedClipsAreDeinterlacedAndSaidSo(t *testing.T) {
	dir := t.TempDir()
	path := filepath.Join(dir, "i.mov")
	// A bar that moves between fields makes combs.
	mediatest.FFmpeg(t, nil, "-f", "lavfi", "-i", "color=black:s=160x64:r=50:d=1,geq=lum='if(between(X-mod(N*6\\,120)\\,8\\,28)\\,235\\,16)':cb=128:cr=128", "-vf", "interlace=lowpass=0,setfield=tff",
		"-c:v", "prores_ks", "-flags", "+ildct", "-pix_fmt", "yuv422p10le", path)
	b, err := os.ReadFile(path)
	if err != nil {
		t.Fatal(err)
	}
	k := open(t, "i.mov", b)
	if k.Facts.Fields == "" || !slices.ContainsFunc(k.Facts.Notes(), func(s string) bool { return strings.Contains(s, "deinterlaced") }) {
		t.Fatalf("%+v %v", k.Facts, k.Facts.Notes())
	}
	comb := func(s *raster.Surface) (n int) {
		for y := 20; y < 40; y++ {
			for x := range s.W {
				a, _, _, _ := s.At(x, y-1)
				m, _, _, _ := s.At(x, y)
				c, _, _, _ := s.At(x, y+1)
				if int(a)+int(c)-2*int(m) > 200 || 2*int(m)-int(a)-int(c) > 200 {
					n++
				}
			}
		}
		return
	}
	for _, n := range []int64{0, 1, 2, 9, 20} {
		s, err := k.Frame(ctx, n, 160, 64)
		if err != nil {
			t.Fatal(err)
		}
		if c := comb(s); c > 20 {
			t.Errorf("frame %d has a comb at %d pixels", n, c)
		}
	}
	d, err := k.Open(ctx, helper.Foreground, 5, 160, 64)
	if err != nil {
		t.Fatal(err)
	}
	defer d.Close()
	for n := int64(5); n < 9; n++ {
		in, err := d.Frame(n)
		if err != nil {
			t.Fatal(err)
		}
		alone, err := k.Frame(ctx, n, 160, 64)
		if err != nil || !slices.Equal(in.Pix, alone.Pix) {
			t.Errorf("frame %d on its own and in order are two pictures (%v)", n, err)
		}
	}
}

// ffmpeg is the referee: flat patches encoded with tagged matrices and ranges
// come back within 2/255 of what went in.
func TestColourMatricesAndRangesAreUndone(t *testing.T) {
	for _, patch := range [][3]uint8{{0x9a, 0x4b, 0x2c}, {0x10, 0xc8, 0x60}, {0x30, 0x30, 0xe0}, {0xf0, 0xf0, 0xf0}, {0x08, 0x08, 0x08}} {
		for _, matrix := range []string{"bt709", "smpte170m"} {
			for _, rng := range []string{"tv", "pc"} {
				path := filepath.Join(t.TempDir(), "c.mp4")
				hex := "0x" + hex2(patch[0]) + hex2(patch[1]) + hex2(patch[2])
				mediatest.FFmpeg(t, nil, "-f", "lavfi", "-i", "color=c="+hex+":s=64x64:d=0.2,format=rgb24",
					"-vf", "scale=out_color_matrix="+matrix+":out_range="+rng+",format=yuv420p", "-c:v", "libx264", "-crf", "2", "-colorspace", matrix, "-color_range", rng, path)
				b, err := os.ReadFile(path)
				if err != nil {
					t.Fatal(err)
				}
				k := open(t, "c.mp4", b)
				s, err := k.Frame(ctx, 0, 64, 64)
				if err != nil {
					t.Fatal(err)
				}
				near(t, matrix+" "+rng, s, patch, 2)
				var p *clip.Proxy
				if err := k.BuildProxy(ctx, path+".p", func(q *clip.Proxy) { p = q }, func(int64) {}); err != nil {
					t.Fatal(err)
				}
				q, err := p.Frame(0, 64, 64)
				if err != nil {
					t.Fatal(err)
				}
				near(t, "proxy, "+matrix+" "+rng, q, patch, 4) // JPEG's own rounding on top
				p.Close()
			}
		}
	}
}

func hex2(v uint8) string { return string([]byte{"0123456789abcdef"[v>>4], "0123456789abcdef"[v&15]}) }

func near(t *testing.T, what string, s *raster.Surface, want [3]uint8, by int) {
	t.Helper()
	r, g, b, a := s.At(s.W/2, s.H/2)
	for i, v := range [3]uint8{r, g, b} {
		if d := int(v) - int(want[i]); d > by || d < -by || a != 255 {
			t.Errorf("%s: %d %d %d, want %v", what, r, g, b, want)
			return
		}
	}
}

// BT.2100: a PQ code of 58 % is 203 cd/m², diffuse white (ITU-R BT.2408); 75 %
// of HLG likewise. Tone-mapped, it must be bright and not burnt out, and black
// stay black.
func TestHDRIsToneMappedAndSaidSo(t *testing.T) {
	for transfer, white := range map[string]int{"smpte2084": 594, "arib-std-b67": 767} { // 10-bit codes, limited range: 64 + 876·0.58…
		path := filepath.Join(t.TempDir(), "hdr.mp4")
		mediatest.FFmpeg(t, nil, "-f", "lavfi", "-i", "nullsrc=s=64x64:d=0.2,format=yuv420p10le,geq=lum='if(lt(X\\,32)\\,64\\,"+itoa(64+(white-0)*876/1023)+")':cb=512:cr=512", "-c:v", "libx265",
			"-x265-params", "log-level=none:lossless=1:colorprim=bt2020:transfer="+transfer+":colormatrix=bt2020nc:range=limited", "-pix_fmt", "yuv420p10le",
			"-color_trc", transfer, "-color_primaries", "bt2020", "-colorspace", "bt2020nc", path)
		b, err := os.ReadFile(path)
		if err != nil {
			t.Fatal(err)
		}
		k := open(t, "hdr.mp4", b)
		if k.Facts.HDR == "" || k.Facts.Bits != 10 || !strings.Contains(strings.Join(k.Facts.Notes(), " "), "tone-mapped") {
			t.Fatalf("%+v", k.Facts)
		}
		s, err := k.Frame(ctx, 0, 64, 64)
		if err != nil {
			t.Fatal(err)
		}
		if r, g, b, _ := s.At(10, 32); r > 6 || g > 6 || b > 6 {
			t.Errorf("%s: black is %d %d %d", transfer, r, g, b)
		}
		r, g, bl, _ := s.At(50, 32)
		if r < 150 || r > 254 || math.Abs(float64(r)-float64(g)) > 3 || math.Abs(float64(g)-float64(bl)) > 3 {
			t.Errorf("%s: diffuse white is %d %d %d", transfer, r, g, bl)
		}
	}
}

func itoa(n int) string {
	if n < 10 {
		return string(rune('0' + n))
	}
	return itoa(n/10) + string(rune('0'+n%10))
}

// Alpha of VP8, VP9, ProRes 4444, PNG and QuickTime Animation comes through,
// premultiplied, in frames and proxies.
func TestAlphaComesThrough(t *testing.T) {
	const src = "color=c=0xC86432:s=160x64:r=25:d=0.4,format=rgba,geq=r='r(X,Y)':g='g(X,Y)':b='b(X,Y)':a='if(lt(X\\,80)\\,128\\,if(lt(X\\,120)\\,255\\,0))'"
	for name, args := range map[string][]string{
		"vp8.webm":   {"-c:v", "libvpx", "-pix_fmt", "yuva420p", "-auto-alt-ref", "0", "-b:v", "4M", "-metadata:s:v:0", "alpha_mode=1"},
		"vp9.webm":   {"-c:v", "libvpx-vp9", "-pix_fmt", "yuva420p", "-auto-alt-ref", "0", "-b:v", "4M", "-deadline", "realtime"},
		"prores.mov": {"-c:v", "prores_ks", "-profile:v", "4444", "-pix_fmt", "yuva444p10le"},
		"png.mov":    {"-c:v", "png", "-pix_fmt", "rgba"},
		"rle.mov":    {"-c:v", "qtrle", "-pix_fmt", "argb"},
	} {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			path := filepath.Join(t.TempDir(), name)
			mediatest.FFmpeg(t, nil, append(append([]string{"-f", "lavfi", "-i", src}, args...), path)...)
			b, err := os.ReadFile(path)
			if err != nil {
				t.Fatal(err)
			}
			k := open(t, name, b)
			if !k.Facts.Alpha {
				t.Fatal("its alpha is not seen")
			}
			var p *clip.Proxy
			if err := k.BuildProxy(ctx, path+".p", func(q *clip.Proxy) { p = q }, func(int64) {}); err != nil {
				t.Fatal(err)
			}
			defer p.Close()
			one, err := k.Frame(ctx, 3, 160, 64)
			if err != nil {
				t.Fatal(err)
			}
			two, err := p.Frame(3, 160, 64)
			if err != nil {
				t.Fatal(err)
			}
			for what, s := range map[string]*raster.Surface{"frame": one, "proxy": two} {
				for x, want := range map[int][4]int{40: {100, 50, 25, 128}, 100: {200, 100, 50, 255}, 140: {0, 0, 0, 0}} {
					r, g, b, a := s.At(x, 32)
					for i, v := range [4]uint8{r, g, b, a} {
						if d := int(v) - want[i]; d > 5 || d < -5 {
							t.Errorf("%s at x %d: %d %d %d %d, want %v", what, x, r, g, b, a, want)
							break
						}
					}
				}
			}
		})
	}
}

func TestOddSizesAndOneFrameComeIn(t *testing.T) {
	path := filepath.Join(t.TempDir(), "odd.mov")
	mediatest.FFmpeg(t, nil, "-f", "lavfi", "-i", "testsrc=s=151x83:d=1", "-frames:v", "1", "-c:v", "png", path)
	b, err := os.ReadFile(path)
	if err != nil {
		t.Fatal(err)
	}
	k := open(t, "odd.mov", b)
	if k.Facts.Width != 151 || k.Facts.Height != 83 || k.Facts.Frames != 1 {
		t.Errorf("%+v", k.Facts)
	}
	if s, err := k.Frame(ctx, 0, 75, 41); err != nil || s.W != 75 {
		t.Error(err)
	}
	if s, err := k.Strip(ctx, []int64{0}, 40, 22); err != nil || len(s) != 1 {
		t.Error(err)
	}
	// Anamorphic: 64 samples of 4:3 make 85 px.
	path = filepath.Join(t.TempDir(), "wide.mp4")
	mediatest.FFmpeg(t, nil, "-f", "lavfi", "-i", "testsrc=s=64x48:d=0.2", "-vf", "setsar=4/3", "-c:v", "libx264", "-pix_fmt", "yuv420p", path)
	if b, err = os.ReadFile(path); err != nil {
		t.Fatal(err)
	}
	if k := open(t, "wide.mp4", b); k.Facts.Width != 85 || k.Facts.Height != 48 {
		t.Errorf("%d × %d, want 85 × 48", k.Facts.Width, k.Facts.Height)
	}
}

func TestStripsShowFramesAllAlongTheClip(t *testing.T) {
	for _, frames := range []int{60, 400} {
		k := open(t, "s.mp4", mediatest.Clip(t, w, h, "25", frames))
		want := []int64{5, int64(frames) / 2, int64(frames) - 3}
		strip, err := k.Strip(ctx, want, w, h)
		if err != nil || len(strip) != 3 {
			t.Fatalf("%d frames: %d pictures, %v", frames, len(strip), err)
		}
		for i, s := range strip {
			got := int64(mediatest.Number(s.Pix, w, h))
			if d := want[i] - got; d < 0 || d > 12 || frames == 60 && d != 0 { // key frames lie 12 apart
				t.Errorf("of %d frames, picture %d shows %d, want %d or the key frame before it", frames, i, got, want[i])
			}
		}
	}
}

func TestAFrameBeyondTheEndIsSaid(t *testing.T) {
	k := open(t, "e.mp4", mediatest.Clip(t, w, h, "25", 10))
	d, err := k.Open(ctx, helper.Foreground, 8, w, h)
	if err != nil {
		t.Fatal(err)
	}
	defer d.Close()
	if _, err := d.Frame(9); err != nil {
		t.Error(err)
	}
	if _, err := d.Frame(10); err != io.EOF {
		t.Errorf("got %v", err)
	}
	if _, err := d.Frame(2); err == nil {
		t.Error("a frame that lies behind was given")
	}
}

func TestTimesAreKeptExactly(t *testing.T) {
	c, err := timing.Uneven(timing.NewRat(90000, 1), []int64{0, 3000, 3001, 90000}, 91000)
	if err != nil {
		t.Fatal(err)
	}
	path := filepath.Join(t.TempDir(), "times")
	if err := clip.WriteTimes(path, c); err != nil {
		t.Fatal(err)
	}
	got, err := clip.ReadTimes(path)
	if err != nil || !slices.Equal(got.Starts, c.Starts) || got.End != c.End || got.Ticks != c.Ticks {
		t.Errorf("%+v, %v", got, err)
	}
	b, _ := os.ReadFile(path)
	for n := range len(b) {
		if _, err := clip.ParseTimes(b[:n]); err == nil {
			t.Errorf("%d of %d bytes were read", n, len(b))
		}
	}
}

func FuzzTimes(f *testing.F) {
	f.Add([]byte("ivytimes1\n\xe8\x07\x01\x02\x50\x00\x21"))
	f.Fuzz(func(t *testing.T, b []byte) {
		if c, err := clip.ParseTimes(b); err == nil {
			c.FrameAt(c.End / 2)
		}
	})
}

// proxyFile makes a small proxy and returns its bytes.
func proxyFile(t testing.TB) []byte {
	times := timing.Even(timing.Rate{Rat: timing.Int(25)}, 3)
	s := raster.NewSurface(32, 16)
	path := filepath.Join(t.TempDir(), "p")
	err := clip.BuildPictureProxy(ctx, times, 32, 16, true, func(n int64) (*raster.Surface, error) {
		if n == 3 {
			return nil, io.EOF
		}
		return s, nil
	}, path, func(*clip.Proxy) {}, func(int64) {})
	if err != nil {
		t.Fatal(err)
	}
	b, err := os.ReadFile(path)
	if err != nil {
		t.Fatal(err)
	}
	return b
}

func openBytes(t testing.TB, b []byte) (*clip.Proxy, error) {
	path := filepath.Join(t.TempDir(), "q")
	if err := os.WriteFile(path, b, 0o644); err != nil {
		t.Fatal(err)
	}
	return clip.OpenProxy(path)
}

func TestDamagedProxiesAreNoProxies(t *testing.T) {
	good := proxyFile(t)
	p, err := openBytes(t, good)
	if err != nil {
		t.Fatal(err)
	}
	if s, err := p.Frame(99, 4, 4); err != nil || s.W != 32 {
		t.Errorf("a frame beyond the last: %v", err)
	}
	if got := p.Starts(); !slices.Equal(got, []int64{0, 1, 2}) {
		t.Errorf("begins at %v", got)
	}
	p.Close()
	for n := range len(good) {
		if _, err := openBytes(t, good[:n]); err == nil {
			t.Fatalf("%d of %d bytes were read", n, len(good))
		}
	}
	for i := len(good) - 100; i < len(good); i++ {
		bad := slices.Clone(good)
		bad[i] ^= 0x40
		if p, err := openBytes(t, bad); err == nil {
			_, _ = p.Frame(1, 4, 4) // may be wrong, must not break
			p.Close()
		}
	}
}

func FuzzProxy(f *testing.F) {
	f.Add(proxyFile(f))
	f.Fuzz(func(t *testing.T, b []byte) {
		p, err := openBytes(t, b)
		if err != nil {
			return
		}
		defer p.Close()
		_, _ = p.Frame(0, 4, 4)
	})
}

func TestAProxyCanBeReadWhileItGrows(t *testing.T) {
	times := timing.Even(timing.Rate{Rat: timing.Int(25)}, 4)
	s := raster.NewSurface(64, 32)
	path := filepath.Join(t.TempDir(), "p")
	var p *clip.Proxy
	err := clip.BuildPictureProxy(ctx, times, 64, 32, false, func(n int64) (*raster.Surface, error) {
		if n == 4 {
			return nil, io.EOF
		}
		if n > 0 {
			if _, err := p.Frame(n-1, 8, 8); err != nil {
				t.Errorf("frame %d while frame %d is made: %v", n-1, n, err)
			}
		}
		if _, err := p.Frame(n, 8, 8); !errors.Is(err, clip.ErrNotYet) {
			t.Errorf("frame %d before it is made: %v", n, err)
		}
		if _, err := os.Stat(path); err == nil {
			t.Error("the file has its name before it is whole")
		}
		return s, nil
	}, path, func(q *clip.Proxy) { p = q }, func(int64) {})
	if err != nil {
		t.Fatal(err)
	}
	if n, whole := p.Done(); n != 4 || !whole {
		t.Errorf("%d frames, whole %v", n, whole)
	}
	times.Frames = 9
	var other *clip.CountError
	err = clip.BuildPictureProxy(ctx, times, 64, 32, false, func(n int64) (*raster.Surface, error) {
		if n == 4 {
			return nil, io.EOF
		}
		return s, nil
	}, path+"2", func(*clip.Proxy) {}, func(int64) {})
	if !errors.As(err, &other) || other.Decoded != 4 {
		t.Errorf("a clip of another number of frames: %v", err)
	}
	if _, err := os.Stat(path + "2"); err == nil {
		t.Error("a proxy of too few frames was kept")
	}
}

// Boxes within boxes without end are walked to a bound, and no deeper than texts
// may lie.
func TestEndlessBoxesEnd(t *testing.T) {
	box := func(kind string, inside []byte) []byte {
		return append(append(binary.BigEndian.AppendUint32(nil, uint32(len(inside)+8)), kind...), inside...)
	}
	long := box("\xa9cmt", make([]byte, 300<<10))
	for what, c := range map[string]struct {
		inside []byte
		fits   bool
	}{
		"a text":                   {box("udta", long), false},
		"a text of a track":        {box("trak", box("udta", long)), false},
		"a text in a list":         {box("udta", box("meta", append(make([]byte, 4), box("ilst", long)...))), false},
		"a cover":                  {box("udta", box("meta", append(make([]byte, 4), box("ilst", box("covr", make([]byte, 300<<10)))...))), true},
		"pictures of another kind": {box("trak", box("mdia", long)), true},
		"a track in a track":       {box("trak", box("trak", box("udta", long))), true}, // which nothing reads
		"a million small boxes":    {bytes.Repeat(box("udta", nil), 1_000_000), true},
	} {
		data := box("moov", c.inside)
		if got := clip.MOV.Texts(bytes.NewReader(data), int64(len(data))); got != c.fits {
			t.Errorf("%s: fits %v", what, got)
		}
	}
	deep := make([]byte, 8<<20) // each header says that the rest is a track
	for i := 0; i+8 <= len(deep); i += 8 {
		binary.BigEndian.PutUint32(deep[i:], uint32(len(deep)-i))
		copy(deep[i+4:], "trak")
	}
	copy(deep[4:], "moov")
	if !clip.MOV.Texts(bytes.NewReader(deep), int64(len(deep))) {
		t.Error("a million tracks in each other have a text")
	}
}

func FuzzWhole(f *testing.F) {
	f.Add([]byte("\x00\x00\x00\x40moov\x00\x00\x00\x38udta\x00\x00\x00\x30meta\x00\x00\x00\x00\x00\x00\x00\x08hdlr\x00\x00\x00\x1cilst\x00\x00\x00\x14\xa9cmt\x00\x00\x00\x0cdata\x00\x00\x00\x01"))
	f.Add([]byte("\x00\x00\x00\x18ftypisom\x00\x00\x02\x00isommp42\x00\x00\x00\x08moov"))
	f.Add([]byte("\x00\x00\x00\x01mdat\xff\xff\xff\xff\xff\xff\xff\xff"))
	f.Add([]byte("\x1aE\xdf\xa3\x84B\x86\x81\x01\x18S\x80g\x01\xff\xff\xff\xff\xff\xff\xff"))
	f.Fuzz(func(t *testing.T, b []byte) {
		for _, c := range []clip.Container{clip.MOV, clip.Matroska} {
			c.Whole(bytes.NewReader(b), int64(len(b)))
			c.Texts(bytes.NewReader(b), int64(len(b)))
		}
	})
}
