package bench

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"ivypocket/core/raster"
	"ivypocket/core/scene"
	"ivypocket/core/sheet"
	"ivypocket/core/timing"
	"ivypocket/core/words"
	"ivypocket/deliver"
	"ivypocket/demo"
	"ivypocket/media"
	"ivypocket/media/helper"
	"ivypocket/server"
)

// clips are four 1080p H.264 clips of 240 frames at 29.97 and 12 Mbit/s, with
// grain, as a camera makes them.
var clips = sync.OnceValues(func() ([]string, error) {
	dir, err := os.MkdirTemp("", "ivypocket-bench-clips-")
	if err != nil {
		return nil, err
	}
	clipsIn = dir
	first := filepath.Join(dir, "0.mp4")
	if out, err := exec.Command("ffmpeg", "-v", "error", "-f", "lavfi", "-i", "testsrc2=s=1920x1080:r=30000/1001:d=8.1,noise=alls=6:allf=t", "-frames:v", "240",
		"-c:v", "libx264", "-preset", "veryfast", "-b:v", "12M", "-pix_fmt", "yuv420p", "-colorspace", "bt709", first).CombinedOutput(); err != nil {
		return nil, fmt.Errorf("%w: %s", err, out)
	}
	paths := []string{first}
	for i := range 3 {
		p := filepath.Join(dir, fmt.Sprintf("%d.mp4", i+1))
		if out, err := exec.Command("ffmpeg", "-v", "error", "-i", first, "-c", "copy", "-metadata", fmt.Sprintf("comment=%d", i), p).CombinedOutput(); err != nil {
			return nil, fmt.Errorf("%w: %s", err, out)
		}
		paths = append(paths, p)
	}
	return paths, nil
})

// clipsIn is where they lie, once they are made.
var clipsIn string

func fourClips(b *testing.B) []string {
	b.Helper()
	paths, err := clips()
	if err != nil {
		b.Fatal(err)
	}
	return paths
}

// fourFilled puts the four clips into Four Winds and waits for their proxies.
func fourFilled(b *testing.B, h fourWinds, url, piece string) {
	b.Helper()
	for i, p := range fourClips(b) {
		data, err := os.ReadFile(p)
		if err != nil {
			b.Fatal(err)
		}
		var m struct{ Hash string }
		ask(b, "POST", url+"/api/media?name=clip.mp4", bytes.NewReader(data), &m)
		pocket := []string{"north-west", "north-east", "south-east", "south-west"}[i]
		ask(b, "POST", url+"/api/pieces/"+piece+"/operations", strings.NewReader(fmt.Sprintf(`{"id": "bench-fill-%d-%s", "base": %d, "op": {"kind": "fill", "pocket": %q, "media": %q}}`, i, piece, i, pocket, m.Hash)), nil)
		for {
			var v struct{ Frames, ProxyDone int64 }
			ask(b, "GET", url+"/api/media/"+m.Hash, nil, &v)
			if v.ProxyDone >= v.Frames {
				break
			}
			time.Sleep(50 * time.Millisecond)
		}
	}
}

// From the last byte of a 1080p clip to its first frame, its length, and a strip
// of its frames.
func BenchmarkFootageAtOnce(b *testing.B) {
	url, _ := front(b, set(b))
	base, err := os.ReadFile(fourClips(b)[0])
	if err != nil {
		b.Fatal(err)
	}
	var ds []time.Duration
	n := 0
	for b.Loop() {
		b.StopTimer()
		n++
		// Another file each time: a box that nobody reads, at the end.
		data := append(append([]byte{}, base...), []byte(fmt.Sprintf("\x00\x00\x00\x10free%08d", n))...)
		req, err := http.NewRequest("POST", url+"/api/uploads/", nil)
		if err != nil {
			b.Fatal(err)
		}
		req.Header.Set("Tus-Resumable", "1.0.0")
		req.Header.Set("Upload-Length", fmt.Sprint(len(data)))
		req.Header.Set("Upload-Metadata", "filename Yy5tcDQ=")
		res, err := http.DefaultClient.Do(req)
		if err != nil || res.StatusCode != 201 {
			b.Fatal(err, res.StatusCode)
		}
		res.Body.Close()
		at := url + res.Header.Get("Location")[strings.Index(res.Header.Get("Location"), "/api/"):]
		patch := func(offset int, part []byte) *http.Response {
			req, err := http.NewRequest("PATCH", at, bytes.NewReader(part))
			if err != nil {
				b.Fatal(err)
			}
			req.Header.Set("Tus-Resumable", "1.0.0")
			req.Header.Set("Upload-Offset", fmt.Sprint(offset))
			req.Header.Set("Content-Type", "application/offset+octet-stream")
			res, err := http.DefaultClient.Do(req)
			if err != nil {
				b.Fatal(err)
			}
			return res
		}
		patch(0, data[:len(data)-4096]).Body.Close()
		b.StartTimer()
		t := time.Now()
		last := patch(len(data)-4096, data[len(data)-4096:])
		var m struct {
			Hash   string
			Frames int64
		}
		if err := json.NewDecoder(last.Body).Decode(&m); err != nil || m.Frames != 240 {
			b.Fatal(err, m)
		}
		last.Body.Close()
		var wg sync.WaitGroup
		wg.Go(func() { ask(b, "GET", url+"/api/media/"+m.Hash+"/thumb?side=480", nil, nil) })
		wg.Go(func() { ask(b, "GET", url+"/api/media/"+m.Hash+"/strip?count=3&side=92", nil, nil) })
		wg.Wait()
		ds = append(ds, time.Since(t))
		b.StopTimer()
		for {
			var v struct{ Frames, ProxyDone int64 }
			ask(b, "GET", url+"/api/media/"+m.Hash, nil, &v)
			if v.ProxyDone >= v.Frames {
				break
			}
			time.Sleep(20 * time.Millisecond)
		}
		b.StartTimer()
	}
	b.ReportMetric(quantile(ds, 0.5), "median-ms")
	b.ReportMetric(quantile(ds, 0.95), "p95-ms")
}

// A proxy grows behind, at a multiple of the clip's own speed.
func BenchmarkProxyGrows(b *testing.B) {
	dir := b.TempDir()
	meta, err := media.Inspect(context.Background(), fourClips(b)[0])
	if err != nil {
		b.Fatal(err)
	}
	var took time.Duration
	n := 0
	var library *media.Library
	for b.Loop() {
		n++
		f := folder{dir, fourClips(b)[0], meta, n}
		library = media.NewLibrary(f)
		t := time.Now()
		if err := library.GrowProxy(context.Background(), "c", func(int64) {}); err != nil {
			b.Fatal(err)
		}
		took += time.Since(t)
	}
	seconds := meta.Times.Seconds().Float() * float64(n)
	b.ReportMetric(seconds/took.Seconds(), "×-real-time")
	// And is read at the size in which a pocket of Four Winds is seen on a stage of 960×540.
	defer library.Close()
	var ds []time.Duration
	for i := range 2000 {
		t := time.Now()
		if _, err := library.Stage().Picture(context.Background(), "c", int64(i*37%240), 480, 270); err != nil {
			b.Fatal(err)
		}
		ds = append(ds, time.Since(t))
	}
	b.ReportMetric(quantile(ds, 0.95), "frame-480-p95-ms")
	ds = ds[:0]
	for i := range 1000 {
		t := time.Now()
		if _, err := library.Stage().Picture(context.Background(), "c", int64(i*37%240), 960, 540); err != nil {
			b.Fatal(err)
		}
		ds = append(ds, time.Since(t))
	}
	b.ReportMetric(quantile(ds, 0.95), "frame-960-p95-ms")
}

type folder struct {
	dir, path string
	meta      media.Meta
	n         int
}

func (f folder) Meta(string) (media.Meta, bool) { return f.meta, true }
func (f folder) Whole(string) bool              { return true }
func (f folder) Faces() []words.Named           { return nil }
func (f folder) Path(string) string             { return f.path }
func (f folder) ProxyPath(string) string        { return filepath.Join(f.dir, fmt.Sprint("p", f.n)) }

// Scrubbing over HTTP at 960×540 with four clips: frames far from each other,
// each painted anew; quiet, and while two 1080p renders of the same are made.
func BenchmarkScrub(b *testing.B) {
	h := set(b)
	url, piece := front(b, h)
	fourFilled(b, h, url, piece)
	all := addresses(b, url, piece, 960, 540)
	scrub := func(count, seed int) []time.Duration {
		var ds []time.Duration
		for i := range count {
			a := all[(i*53+seed*7)%len(all)]
			t := time.Now()
			ask(b, "GET", url+"/frames/"+a+".jpg", nil, nil)
			ds = append(ds, time.Since(t))
			time.Sleep(8 * time.Millisecond) // a hand on a mouse
		}
		return ds
	}
	var quiet, loaded []time.Duration
	seed := 0
	for b.Loop() {
		seed++
		quiet = append(quiet, scrub(120, seed)...)
		b.StopTimer()
		ask(b, "POST", url+"/api/queue", strings.NewReader(`{"atOnce": 2}`), nil)
		var ids []string
		for range 2 {
			var r struct{ ID string }
			ask(b, "POST", url+"/api/renders", strings.NewReader(fmt.Sprintf(`{"piece": %q, "format": "landscape", "kind": "mp4", "width": 1920, "height": 1080}`, piece)), &r)
			ids = append(ids, r.ID)
		}
		for begun := false; !begun; time.Sleep(20 * time.Millisecond) {
			var list []struct {
				ID   string
				Done int64
			}
			ask(b, "GET", url+"/api/renders", nil, &list)
			n := 0
			for _, r := range list {
				if (r.ID == ids[0] || r.ID == ids[1]) && r.Done > 0 {
					n++
				}
			}
			begun = n == 2
		}
		b.StartTimer()
		loaded = append(loaded, scrub(120, seed)...)
		b.StopTimer()
		for _, id := range ids {
			req, _ := http.NewRequest("POST", url+"/api/renders/"+id+"/cancel", nil)
			if res, err := http.DefaultClient.Do(req); err == nil {
				res.Body.Close()
			}
		}
		time.Sleep(300 * time.Millisecond)
		b.StartTimer()
	}
	q, l := quantile(quiet, 0.95), quantile(loaded, 0.95)
	b.ReportMetric(quantile(quiet, 0.5), "quiet-median-ms")
	b.ReportMetric(q, "quiet-p95-ms")
	b.ReportMetric(l, "loaded-p95-ms")
	b.ReportMetric(l/q, "loaded/quiet")
}

// A 1080p render of Four Winds with four 1080p clips beside its floor: the four
// decodes and the encode, running together and painting nothing.
func BenchmarkRenderFootage1080p(b *testing.B) {
	h := set(b)
	ctx := context.Background()
	dir := b.TempDir()
	v := sheet.Values{}.Clone()
	paths := fourClips(b)
	for i, p := range paths {
		f, err := os.Open(p)
		if err != nil {
			b.Fatal(err)
		}
		md, err := h.store.Put(ctx, "clip.mp4", f)
		f.Close()
		if err != nil {
			b.Fatal(err)
		}
		v.Fills[[]string{"north-west", "north-east", "south-east", "south-west"}[i]] = sheet.Fill{Media: md.Hash}
	}
	job := deliver.Job{Name: "bench", Doc: h.doc, Values: v, Format: "landscape", Kind: deliver.MP4, Width: 1920, Height: 1080}
	if err := job.Validate(); err != nil {
		b.Fatal(err)
	}
	lib := media.NewLibrary(h.store)
	defer lib.Close()
	raw := filepath.Join(dir, "frames.raw")
	if err := writeRaw(ctx, lib, job, raw); err != nil {
		b.Fatal(err)
	}
	var ours, floor []time.Duration
	for b.Loop() {
		t := time.Now()
		src := lib.Originals(ctx, helper.Foreground)
		if err := deliver.Render(ctx, job, src, filepath.Join(dir, "ours.mp4"), deliver.Hooks{}); err != nil {
			b.Fatal(err)
		}
		src.Close()
		ours = append(ours, time.Since(t))
		t = time.Now()
		var wg sync.WaitGroup
		run := func(args ...string) {
			wg.Go(func() {
				if out, err := exec.Command("ffmpeg", args...).CombinedOutput(); err != nil {
					b.Errorf("ffmpeg: %v %.600s", err, out)
				}
			})
		}
		for _, p := range paths {
			run("-v", "error", "-nostdin", "-threads", "2", "-i", p, "-f", "null", "-")
		}
		run(deliver.EncoderArgs(deliver.MP4, false, 1920, 1080, h.doc.Rate, raw, filepath.Join(dir, "floor.mp4"))...)
		wg.Wait()
		floor = append(floor, time.Since(t))
	}
	o, f := quantile(ours, 0.5), quantile(floor, 0.5)
	b.ReportMetric(o, "ours-ms")
	b.ReportMetric(f, "floor-ms")
	b.ReportMetric(o/f, "ours/floor")
}

// writeRaw writes all frames of a job as the encoder takes them.
func writeRaw(ctx context.Context, lib *media.Library, j deliver.Job, path string) error {
	r, err := sheet.Resolve(j.Doc, j.Values)
	if err != nil {
		return err
	}
	src := lib.Originals(ctx, helper.Foreground)
	defer src.Close()
	s, err := scene.Compile(r, j.Format, src)
	if err != nil {
		return err
	}
	p := scene.NewPainter(scene.NewPictures(src, 256<<20))
	defer p.Close()
	f, err := os.Create(path)
	if err != nil {
		return err
	}
	defer f.Close()
	var l scene.List
	var dst raster.Surface
	planes := make([]byte, raster.YUV420Size(j.Width, j.Height))
	for n := range s.Frames() {
		s.At(&l, s.Time().At(timing.OutputFrame(n)), scene.Size{W: j.Width, H: j.Height})
		if err := p.Paint(ctx, &l, &dst); err != nil {
			return err
		}
		dst.YUV420(planes, 0, j.Height)
		if _, err := f.Write(planes); err != nil {
			return err
		}
	}
	return nil
}

// Scrubbing all templates of the demo over HTTP at 960×540: frames far from each other, each painted anew, once light copies of
// their clips are there.
func BenchmarkScrubDemo(b *testing.B) {
	h := set(b)
	url, _ := front(b, h)
	for end := time.Now().Add(4 * time.Minute); ; time.Sleep(300 * time.Millisecond) {
		var list []struct {
			Kind              string
			Frames, ProxyDone int64
		}
		ask(b, "GET", url+"/api/media", nil, &list)
		grown := true
		for _, m := range list {
			grown = grown && (m.Kind != "footage" || m.ProxyDone >= m.Frames)
		}
		if grown {
			break
		}
		if time.Now().After(end) {
			b.Fatal("light copies do not grow")
		}
	}
	var all []time.Duration
	each := map[string][]time.Duration{}
	for b.Loop() {
		for _, id := range demo.Templates {
			var p struct {
				ID       string
				Template struct{ Formats []struct{ ID string } }
			}
			ask(b, "POST", url+"/api/templates/"+id+"/open?new=true", nil, &p)
			ask(b, "GET", url+"/api/pieces/"+p.ID, nil, &p)
			var f server.FramesView
			ask(b, "GET", fmt.Sprintf("%s/api/pieces/%s/frames?format=%s&width=960&height=540", url, p.ID, p.Template.Formats[0].ID), nil, &f)
			var list []string
			for _, r := range f.Addresses {
				list = append(list, slices.Repeat([]string{r.Address}, int(r.Frames))...)
			}
			seen := map[string]bool{}
			for i := range 80 {
				a := list[i*53%len(list)]
				if seen[a] {
					continue // it is at hand
				}
				seen[a] = true
				t := time.Now()
				ask(b, "GET", url+"/frames/"+a+".jpg", nil, nil)
				d := time.Since(t)
				all, each[id] = append(all, d), append(each[id], d)
				time.Sleep(8 * time.Millisecond)
			}
		}
	}
	for _, id := range demo.Templates {
		b.ReportMetric(quantile(each[id], 0.95), id+"-p95-ms")
	}
	b.ReportMetric(quantile(all, 0.95), "all-p95-ms")
	b.ReportMetric(quantile(all, 0.5), "all-median-ms")
}
