package deliver_test

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"ivypocket/core/geom"
	"ivypocket/core/raster"
	"ivypocket/core/scene"
	"ivypocket/core/scheme"
	"ivypocket/core/sheet"
	"ivypocket/core/template"
	"ivypocket/core/timing"
	"ivypocket/deliver"
	"ivypocket/media"
	"ivypocket/media/helper"
	"ivypocket/media/mediatest"
)

// setUp returns a job over the written split with one picture and one clip.
func setUp(t *testing.T) (deliver.Job, *media.Library) {
	t.Helper()
	b, err := os.ReadFile("../docs/examples/split.json")
	if err != nil {
		t.Fatal(err)
	}
	d, err := template.Parse([]byte(strings.Replace(string(b), `"rate": "25"`, `"rate": "30000/1001"`, 1)))
	if err != nil {
		t.Fatal(err)
	}
	dir := mediatest.NewFolder(t)
	pic, clip := "sha256:"+strings.Repeat("a", 64), "sha256:"+strings.Repeat("b", 64)
	dir.Put(t, pic, mediatest.PNG(t, mediatest.Quarters(640, 480)))
	dir.Put(t, clip, mediatest.Clip(t, 160, 64, "30000/1001", 60))
	v := sheet.Values{}.Clone()
	v.Fills["flood"], v.Fills["ebb"] = sheet.Fill{Media: pic}, sheet.Fill{Media: clip}
	lib := media.NewLibrary(dir)
	t.Cleanup(lib.Close)
	return deliver.Job{Name: "Tides", Doc: d, Values: v, Format: "landscape", Kind: deliver.MP4, Width: 480, Height: 270}, lib
}

// ffprobe is the referee of frame count, rate, pixel format and colour tags.
func TestFilmsHaveTheirFramesAndTags(t *testing.T) {
	j, lib := setUp(t)
	src := lib.Originals(context.Background(), helper.Foreground)
	defer src.Close()
	path := filepath.Join(t.TempDir(), "a.mp4")
	var last int64
	if err := deliver.Render(context.Background(), j, src, path, deliver.Hooks{Progress: func(n int64) { last = n }}); err != nil {
		t.Fatal(err)
	}
	if last != 150 {
		t.Errorf("progress ended at %d", last)
	}
	out, err := exec.Command("ffprobe", "-v", "error", "-count_frames", "-show_streams", "-of", "json", path).Output()
	if err != nil {
		t.Fatal(err)
	}
	var p struct{ Streams []map[string]any }
	if err := json.Unmarshal(out, &p); err != nil || len(p.Streams) != 1 {
		t.Fatalf("%v, %d streams; want one and no sound", err, len(p.Streams))
	}
	for k, want := range map[string]any{"nb_read_frames": "150", "r_frame_rate": "30000/1001", "pix_fmt": "yuv420p", "codec_name": "h264",
		"color_range": "tv", "color_space": "bt709", "color_primaries": "bt709", "color_transfer": "bt709", "width": 480.0, "height": 270.0} {
		if p.Streams[0][k] != want {
			t.Errorf("%s is %v, want %v", k, p.Streams[0][k], want)
		}
	}
}

// ffmpeg decodes what was rendered: each frame is the one that was painted, to
// within what H.264 at this quality loses.
func TestFilmsShowWhatWasPainted(t *testing.T) {
	j, lib := setUp(t)
	j.From, j.To = 20, 60
	ctx := context.Background()
	src := lib.Originals(ctx, helper.Foreground)
	defer src.Close()
	path := filepath.Join(t.TempDir(), "a.mp4")
	if err := deliver.Render(ctx, j, src, path, deliver.Hooks{}); err != nil {
		t.Fatal(err)
	}
	raw, err := exec.Command("ffmpeg", "-v", "error", "-i", path, "-vf", "scale=in_color_matrix=bt709:flags=accurate_rnd+full_chroma_int", "-f", "rawvideo", "-pix_fmt", "rgba", "-").Output()
	if err != nil || len(raw) != 40*480*270*4 {
		t.Fatalf("%v: %d bytes", err, len(raw))
	}
	for _, n := range []int64{20, 35, 59} {
		want := still(t, j, lib.Single(), n)
		got := raw[(n-20)*480*270*4:][:480*270*4]
		sum := 0.0
		for i := range want.Pix {
			d := float64(want.Pix[i]) - float64(got[i])
			sum += d * d
		}
		if mse := sum / float64(len(want.Pix)); mse > 30 { // 33 dB: hard edges between full colours lose most by 4:2:0
			t.Errorf("frame %d: mean squared difference %.1f", n, mse)
		}
	}
}

func still(t *testing.T, j deliver.Job, src scene.Source, n int64) *raster.Surface {
	t.Helper()
	r, err := sheet.Resolve(j.Doc, j.Values)
	if err != nil {
		t.Fatal(err)
	}
	s, err := scene.Compile(r, j.Format, src)
	if err != nil {
		t.Fatal(err)
	}
	p := scene.NewPainter(scene.NewPictures(src, 64<<20))
	defer p.Close()
	var l scene.List
	var out raster.Surface
	s.At(&l, s.Time().At(timing.OutputFrame(n)), scene.Size{W: j.Width, H: j.Height})
	if err := p.Paint(context.Background(), &l, &out); err != nil {
		t.Fatal(err)
	}
	return &out
}

func TestPicturesAreWithoutLoss(t *testing.T) {
	j, lib := setUp(t)
	j.Kind, j.From = deliver.PNG, 33
	path := filepath.Join(t.TempDir(), "a.png")
	src := lib.Originals(context.Background(), helper.Foreground)
	defer src.Close()
	if err := deliver.Render(context.Background(), j, src, path, deliver.Hooks{}); err != nil {
		t.Fatal(err)
	}
	raw, err := exec.Command("ffmpeg", "-v", "error", "-i", path, "-f", "rawvideo", "-pix_fmt", "rgba", "-").Output()
	if err != nil || !bytes.Equal(raw, still(t, j, lib.Single(), 33).Pix) {
		t.Errorf("another decoder reads other pixels than were painted: %v", err)
	}
}

func TestACancelledRenderLeavesNothing(t *testing.T) {
	j, lib := setUp(t)
	ctx, cancel := context.WithCancel(context.Background())
	src := lib.Originals(ctx, helper.Foreground)
	defer src.Close()
	dir := t.TempDir()
	err := deliver.Render(ctx, j, src, filepath.Join(dir, "a.mp4"), deliver.Hooks{Progress: func(n int64) {
		if n == 10 {
			cancel()
		}
	}})
	if !errors.Is(err, context.Canceled) {
		t.Errorf("got %v", err)
	}
	if left, _ := os.ReadDir(dir); len(left) != 0 {
		t.Errorf("%s was left", left[0].Name())
	}
}

func TestJobsThatCannotBeRenderedSayWhy(t *testing.T) {
	j, _ := setUp(t)
	for want, change := range map[string]func(*deliver.Job){
		"format":      func(j *deliver.Job) { j.Format = "round" },
		"kind":        func(j *deliver.Job) { j.Kind = "gif" },
		"frames":      func(j *deliver.Job) { j.From, j.To = 5, 5 },
		"frames: 0":   func(j *deliver.Job) { j.To = 151 },
		"frame: 150":  func(j *deliver.Job) { j.Kind, j.From = deliver.PNG, 150 },
		"size: 481":   func(j *deliver.Job) { j.Width = 481 },
		"size: 480 ×": func(j *deliver.Job) { j.Height = 300 },
		"size: 19200": func(j *deliver.Job) { j.Width, j.Height = 19200, 10800 },
	} {
		c := j
		change(&c)
		if err := c.Validate(); err == nil || !strings.HasPrefix(err.Error(), want) {
			t.Errorf("%s: %v", want, err)
		}
	}
	j.Name = `../..\ev:il*`
	if n := j.FileName(); strings.ContainsAny(n, `/\:*`) || !strings.HasSuffix(n, ".mp4") {
		t.Errorf("file name %q", n)
	}
}

// ffmpeg decodes what was rendered: frame count, tags, and alpha where half is
// drawn and where all is. (A decoder of another make, Chromium's, is asked in
// e2e.)
func TestWebMFilmsKeepWhatIsClear(t *testing.T) {
	j, lib := setUp(t)
	half := scheme.Says("#3050a080")
	j.Values.Entries["border-colour"], j.Values.Entries["border"] = half, scheme.One(60)
	j.Kind, j.From, j.To = deliver.WebM, 40, 70
	ctx := context.Background()
	for _, alpha := range []bool{true, false} {
		j.Alpha = alpha
		src := lib.Originals(ctx, helper.Foreground)
		path := filepath.Join(t.TempDir(), "a.webm")
		if err := deliver.Render(ctx, j, src, path, deliver.Hooks{}); err != nil {
			t.Fatal(err)
		}
		src.Close()
		out, err := exec.Command("ffprobe", "-v", "error", "-count_frames", "-show_streams", "-of", "json", path).Output()
		if err != nil {
			t.Fatal(err)
		}
		var p struct{ Streams []map[string]any }
		if err := json.Unmarshal(out, &p); err != nil || len(p.Streams) != 1 {
			t.Fatalf("%v, %d streams", err, len(p.Streams))
		}
		for k, want := range map[string]any{"nb_read_frames": "30", "codec_name": "vp9", "color_range": "tv", "color_space": "bt709", "width": 480.0, "height": 270.0} {
			if p.Streams[0][k] != want {
				t.Errorf("%s is %v, want %v", k, p.Streams[0][k], want)
			}
		}
		tags, _ := p.Streams[0]["tags"].(map[string]any)
		if has := tags["alpha_mode"] == "1" || tags["ALPHA_MODE"] == "1"; has != alpha {
			t.Errorf("alpha %v: tags %v", alpha, tags)
		}
		raw, err := exec.Command("ffmpeg", "-v", "error", "-c:v", "libvpx-vp9", "-i", path, "-vf", "scale=in_color_matrix=bt709:flags=accurate_rnd+full_chroma_int", "-f", "rawvideo", "-pix_fmt", "rgba", "-").Output()
		if err != nil || len(raw) != 30*480*270*4 {
			t.Fatalf("%v: %d bytes", err, len(raw))
		}
		want := still(t, j, lib.Single(), 60)
		got := raw[20*480*270*4:]
		sum, n := 0.0, 0.0
		for y := 10; y < 260; y++ {
			for _, x := range []int{100, 160, 317, 318, 400} { // a picture, the border, the clip
				o := (y*480 + x) * 4
				a := 255
				if alpha {
					a = int(got[o+3])
				}
				if d := a - int(want.Pix[o+3]); alpha && (d > 6 || d < -6) {
					t.Fatalf("alpha at %d, %d: %d, want %d", x, y, a, want.Pix[o+3])
				}
				for c := range 3 {
					v := int(got[o+c])
					if alpha {
						v = v * a / 255 // the file's colours are straight, the surface's premultiplied
					}
					d := float64(v - int(want.Pix[o+c]))
					sum, n = sum+d*d, n+1
				}
			}
		}
		if mse := sum / n; mse > 40 { // 32 dB: hard edges between full colours lose most by 4:2:0
			t.Errorf("alpha %v: mean squared difference %.1f", alpha, mse)
		}
	}
	j.Kind, j.Alpha = deliver.MP4, true
	if err := j.Validate(); err == nil || !strings.Contains(err.Error(), "WebM") {
		t.Errorf("alpha in MP4: %v", err)
	}
}

// The final render reads originals: each of its frames shows the clip's frame
// that its own time asks for, also where the clip runs faster, begins later and
// bounces.
func TestFilmsShowTheClipsOwnFrames(t *testing.T) {
	j, lib := setUp(t)
	for _, y := range j.Doc.Layers {
		y.Motion = nil
	}
	f := j.Values.Fills["ebb"]
	f.Play = &timing.Play{In: 20, Speed: timing.NewRat(3, 2), After: timing.Bounce}
	framing := geom.DefaultFraming(geom.Stretch)
	f.Framing = &framing
	j.Values.Fills["ebb"] = f
	ctx := context.Background()
	src := lib.Originals(ctx, helper.Foreground)
	defer src.Close()
	path := filepath.Join(t.TempDir(), "a.mp4")
	j.To = 100
	if err := deliver.Render(ctx, j, src, path, deliver.Hooks{}); err != nil {
		t.Fatal(err)
	}
	// The right cell begins at 2/3 of 1920 − 12 px, and 12 px on: a quarter of that here.
	raw, err := exec.Command("ffmpeg", "-v", "error", "-i", path, "-vf", "crop=156:40:322:6,scale=160:64", "-f", "rawvideo", "-pix_fmt", "rgba", "-").Output()
	if err != nil || len(raw) != 100*160*64*4 {
		t.Fatalf("%v: %d bytes", err, len(raw))
	}
	for n := range int64(100) {
		gone := n * 3 / 2 % 80 // 40 frames from the in-point, there and back
		want := 20 + gone
		if gone >= 40 {
			want = 20 + 79 - gone
		}
		if got := mediatest.Number(raw[n*160*64*4:], 160, 64); int64(got) != want {
			t.Errorf("frame %d shows %d of the clip, want %d", n, got, want)
		}
	}
}
