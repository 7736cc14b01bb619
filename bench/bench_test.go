// Package bench measures what the product promises about speed, side by side
// in one run: run it with make bench. Figures are medians or 95th percentiles
// of many frames; compare ratios, not times of different machines.
package bench

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"image/jpeg"
	"io"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"sort"
	"strconv"
	"strings"
	"sync"
	"testing"
	"testing/fstest"
	"time"

	"ivypocket/core/geom"
	"ivypocket/core/raster"
	"ivypocket/core/scene"
	"ivypocket/core/sheet"
	"ivypocket/core/template"
	"ivypocket/core/timing"
	"ivypocket/deliver"
	"ivypocket/demo"
	"ivypocket/media"
	"ivypocket/media/helper"
	"ivypocket/server"
	"ivypocket/store"
)

// fourWinds is the demo template with its four pictures in a store.
type fourWinds struct {
	dir   string
	store *store.Store
	doc   *template.Document
}

var (
	once sync.Once
	home fourWinds
)

func set(b *testing.B) fourWinds {
	b.Helper()
	once.Do(func() {
		dir, err := os.MkdirTemp("", "ivypocket-bench-")
		if err != nil {
			b.Fatal(err)
		}
		s, err := store.Open(dir)
		if err != nil {
			b.Fatal(err)
		}
		if err := demo.Seed(context.Background(), s, func(string) {}); err != nil {
			b.Fatal(err)
		}
		d, err := s.Document(context.Background(), "four-winds", 1)
		if err != nil {
			b.Fatal(err)
		}
		home = fourWinds{dir, s, d}
	})
	return home
}

func TestMain(m *testing.M) {
	code := m.Run()
	if home.store != nil {
		home.store.Close()
		os.RemoveAll(home.dir)
	}
	if clipsIn != "" {
		os.RemoveAll(clipsIn)
	}
	_ = helper.Clean()
	os.Exit(code)
}

// quantile of durations, in milliseconds.
func quantile(ds []time.Duration, q float64) float64 {
	sort.Slice(ds, func(i, j int) bool { return ds[i] < ds[j] })
	return float64(ds[min(len(ds)-1, int(q*float64(len(ds))))]) / 1e6
}

// front is a server over the set.
func front(b *testing.B, h fourWinds) (url, piece string) {
	b.Helper()
	srv, err := server.New(h.store, fstest.MapFS{}, slog.New(slog.DiscardHandler))
	if err != nil {
		b.Fatal(err)
	}
	ctx, cancel := context.WithCancel(context.Background())
	ended := make(chan struct{})
	go func() { _ = srv.Run(ctx); close(ended) }()
	hs := httptest.NewServer(srv.Handler())
	b.Cleanup(func() { cancel(); hs.Close(); <-ended; srv.Close() })
	var p struct{ ID string }
	ask(b, "POST", hs.URL+"/api/templates/four-winds/open?new=true", nil, &p)
	return hs.URL, p.ID
}

func ask(b *testing.B, method, url string, body io.Reader, into any) []byte {
	b.Helper()
	req, err := http.NewRequest(method, url, body)
	if err != nil {
		b.Fatal(err)
	}
	if body != nil {
		req.Header.Set("Content-Type", "application/json")
	}
	req.Header.Set("Ivy-Author", "bench")
	res, err := http.DefaultClient.Do(req)
	if err != nil {
		b.Fatal(err)
	}
	defer res.Body.Close()
	out, err := io.ReadAll(res.Body)
	if err != nil || res.StatusCode/100 != 2 {
		b.Fatalf("%s %s: %d %v %.200s", method, url, res.StatusCode, err, out)
	}
	if into != nil {
		if err := json.Unmarshal(out, into); err != nil {
			b.Fatal(err)
		}
	}
	return out
}

func addresses(b *testing.B, url, piece string, w, h int) []string {
	b.Helper()
	var f server.FramesView
	ask(b, "GET", fmt.Sprintf("%s/api/pieces/%s/frames?format=landscape&width=%d&height=%d", url, piece, w, h), nil, &f)
	var out []string
	for _, r := range f.Addresses {
		for range r.Frames {
			out = append(out, r.Address)
		}
	}
	return out
}

// A frame over HTTP at 960×540: JPEG while playing, PNG when stopped. Frames
// come one after another, as the page asks for them when it has none.
func BenchmarkFrameOverHTTP(b *testing.B) {
	url, piece := front(b, set(b))
	all := addresses(b, url, piece, 960, 540)
	for _, kind := range []string{"jpg", "png"} {
		b.Run(kind, func(b *testing.B) {
			for _, a := range all {
				ask(b, "GET", url+"/frames/"+a+".jpg", nil, nil)
			}
			ds := make([]time.Duration, 0, 1<<16)
			n := 0
			for b.Loop() {
				t := time.Now()
				ask(b, "GET", url+"/frames/"+all[n%len(all)]+"."+kind, nil, nil)
				ds = append(ds, time.Since(t))
				n++
			}
			b.ReportMetric(quantile(ds, 0.5), "median-ms")
			b.ReportMetric(quantile(ds, 0.95), "p95-ms")
		})
	}
}

// From the last byte of an uploaded photograph of 12 Mpx to the frame that
// shows it: checked, kept, put in a pocket and painted. Each photograph is
// another, so that nothing is known of it.
func BenchmarkPhotographShown(b *testing.B) {
	url, piece := front(b, set(b))
	base := demo.Coast("dawn", 1000, 750).Resize(4000, 3000).Image()
	ds := []time.Duration{}
	n := 0
	for b.Loop() {
		b.StopTimer()
		n++
		// A mark of a few pixels makes it another file.
		for i := range 64 {
			base.Pix[i*4] = uint8(n >> (i % 8) * 3)
		}
		var file bytes.Buffer
		if err := jpeg.Encode(&file, base, &jpeg.Options{Quality: 90}); err != nil {
			b.Fatal(err)
		}
		var p struct{ Revision int }
		ask(b, "GET", url+"/api/pieces/"+piece, nil, &p)
		b.StartTimer()
		t := time.Now()
		var m struct{ Hash string }
		ask(b, "POST", url+"/api/media?name=photo.jpg", &file, &m)
		op := fmt.Sprintf(`{"id": "bench-op-%d", "base": %d, "op": {"kind": "fill", "pocket": "north-west", "media": %q}}`, time.Now().UnixNano(), p.Revision, m.Hash)
		ask(b, "POST", url+"/api/pieces/"+piece+"/operations", strings.NewReader(op), nil)
		ask(b, "GET", url+"/frames/"+addresses(b, url, piece, 960, 540)[120]+".jpg", nil, nil)
		ds = append(ds, time.Since(t))
	}
	b.ReportMetric(quantile(ds, 0.5), "median-ms")
	b.ReportMetric(quantile(ds, 0.95), "p95-ms")
}

// A 1080p render of 240 frames with four pictures beside two others in turn:
// the encoder alone, on the same frames from a raw file that are converted
// already, and an ffmpeg filter
// graph that draws the same picture. The graph decodes, scales, crops and rounds
// each picture once, moves it to the place it has in each frame, and lets mark
// and badge grow as ours do; the mark is given as pixels and does not fade.
func BenchmarkRender1080p(b *testing.B) {
	h := set(b)
	dir := b.TempDir()
	job := deliver.Job{Name: "bench", Doc: h.doc, Format: "landscape", Kind: deliver.MP4, Width: 1920, Height: 1080}
	if err := job.Validate(); err != nil {
		b.Fatal(err)
	}
	lib := media.NewLibrary(h.store)
	defer lib.Close()
	raw, graph := prepareRivals(b, h, lib, dir)
	ctx := context.Background()
	run := func(args []string) time.Duration {
		t := time.Now()
		if out, err := exec.Command("ffmpeg", args...).CombinedOutput(); err != nil {
			b.Fatalf("ffmpeg: %v %.600s", err, out)
		}
		return time.Since(t)
	}
	var ours, encoder, rival []time.Duration
	for b.Loop() {
		t := time.Now()
		src := lib.Originals(ctx, helper.Foreground)
		if err := deliver.Render(ctx, job, src, filepath.Join(dir, "ours.mp4"), deliver.Hooks{}); err != nil {
			b.Fatal(err)
		}
		src.Close()
		ours = append(ours, time.Since(t))
		encoder = append(encoder, run(deliver.EncoderArgs(deliver.MP4, false, 1920, 1080, h.doc.Rate, raw, filepath.Join(dir, "encoder.mp4"))))
		rival = append(rival, run(graph))
	}
	o, e, g := quantile(ours, 0.5), quantile(encoder, 0.5), quantile(rival, 0.5)
	b.ReportMetric(o, "ours-ms")
	b.ReportMetric(e, "encoder-ms")
	b.ReportMetric(g, "graph-ms")
	b.ReportMetric(o/e, "ours/encoder")
	b.ReportMetric(g/o, "graph/ours")
	// That the graph draws the same picture is measured too.
	out, err := exec.Command("ffmpeg", "-i", filepath.Join(dir, "ours.mp4"), "-i", filepath.Join(dir, "graph.mp4"), "-lavfi", "psnr", "-f", "null", "-").CombinedOutput()
	if err != nil {
		b.Fatalf("ffmpeg: %v %.600s", err, out)
	}
	if m := regexp.MustCompile(`average:([\d.]+)`).FindSubmatch(out); m != nil {
		db, _ := strconv.ParseFloat(string(m[1]), 64)
		b.ReportMetric(db, "psnr-dB")
	}
}

// prepareRivals writes all frames as one raw file, and the pictures and
// commands of the filter graph.
func prepareRivals(b *testing.B, h fourWinds, lib *media.Library, dir string) (raw string, graph []string) {
	b.Helper()
	r, err := sheet.Resolve(h.doc, sheet.Values{})
	if err != nil {
		b.Fatal(err)
	}
	s, err := scene.Compile(r, "landscape", lib)
	if err != nil {
		b.Fatal(err)
	}
	p := scene.NewPainter(scene.NewPictures(lib.Stage(), 256<<20))
	defer p.Close()
	size := scene.Size{W: 1920, H: 1080}
	var l scene.List
	var dst raster.Surface
	ctx := context.Background()
	raw = filepath.Join(dir, "frames.raw")
	f, err := os.Create(raw)
	if err != nil {
		b.Fatal(err)
	}
	defer f.Close()
	planes := make([]byte, raster.YUV420Size(size.W, size.H))
	var commands strings.Builder
	still := map[string]scene.Item{}
	for n := range s.Frames() {
		s.At(&l, s.Time().At(timing.OutputFrame(n)), size)
		if err := p.Paint(ctx, &l, &dst); err != nil {
			b.Fatal(err)
		}
		dst.YUV420(planes, 0, size.H)
		if _, err := f.Write(planes); err != nil {
			b.Fatal(err)
		}
		at := max(0, h.doc.Rate.Seconds(n).Float()-0.004)
		for _, o := range s.Outlines(nil, s.Time().At(timing.OutputFrame(n))) {
			if strings.HasPrefix(o.Layer, "view-") {
				fmt.Fprintf(&commands, "%.6f overlay@%s x %d, overlay@%s y %d;\n", at, o.Pocket, int(o.Box.X), o.Pocket, int(o.Box.Y))
			} else if o.Layer != "ground" {
				fmt.Fprintf(&commands, "%.6f scale@%s w %d, scale@%s h %d;\n", at, o.Layer, max(2, int(o.Box.W)), o.Layer, max(2, int(o.Box.H)))
			}
		}
		if n == 120 {
			for _, it := range l.Items {
				still[it.Layer] = it
			}
		}
	}
	if err := os.WriteFile(filepath.Join(dir, "commands.txt"), []byte(commands.String()), 0o644); err != nil {
		b.Fatal(err)
	}
	graph = []string{"-v", "error", "-y", "-f", "lavfi", "-i", "color=c=0xf1e7d2:s=1920x1080:r=30000/1001:d=9,format=rgb24"}
	filter := fmt.Sprintf("[0]sendcmd=f=%s[v0];", filepath.Join(dir, "commands.txt"))
	input := func(path string) int {
		graph = append(graph, "-i", path)
		return strings.Count(strings.Join(graph, " "), " -i ") - 1
	}
	write := func(name string, items ...scene.Item) string {
		box := items[0].Box
		for k := range items {
			items[k].Box = geom.Box{W: box.W, H: box.H}
			away := geom.Translate(-box.X, -box.Y)
			items[k].Map, items[k].Rest = items[k].Map.Then(away.Flat()), items[k].Rest.Then(away)
			items[k].RestBox = items[k].Box
		}
		var cut raster.Surface
		if err := p.Paint(ctx, &scene.List{Size: scene.Size{W: int(box.W), H: int(box.H)}, Items: items, Main: len(items)}, &cut); err != nil {
			b.Fatal(err)
		}
		path := filepath.Join(dir, name+".png")
		out, err := os.Create(path)
		if err == nil {
			err = deliver.WritePNG(out, &cut)
			out.Close()
		}
		if err != nil {
			b.Fatal(err)
		}
		return path
	}
	v := 0
	for _, id := range []string{"north-west", "north-east", "south-east", "south-west"} {
		it := still["view-"+id]
		shape := it
		shape.Kind, shape.Colour = scene.FillItem, [4]uint8{255, 255, 255, 255}
		pic, mask := input(h.store.Path(it.Media)), input(write(id+"-mask", shape))
		bw, bh := int(it.Box.W), int(it.Box.H)
		filter += fmt.Sprintf("[%d]scale=%d:%d:force_original_aspect_ratio=increase:flags=bicubic,crop=%d:%d,format=rgba[c%d];[%d]alphaextract[m%d];[c%d][m%d]alphamerge,loop=loop=-1:size=1,fps=30000/1001[p%d];[v%d][p%d]overlay@%s=x=-2000:y=0:format=rgb:shortest=1[v%d];",
			pic, bw, bh, bw, bh, v, mask, v, v, v, v, v, v, id, v+1)
		v++
	}
	for _, id := range []string{"badge", "mark"} {
		pic := input(write(id, still[id]))
		filter += fmt.Sprintf("[%d]format=rgba,loop=loop=-1:size=1,fps=30000/1001,scale@%s=w=2:h=2:eval=frame[p%d];[v%d][p%d]overlay=x=(W-w)/2:y=(H-h)/2:format=rgb:shortest=1[v%d];", pic, id, v, v, v, v+1)
		v++
	}
	filter += "[v6]scale=out_color_matrix=bt709:out_range=tv:flags=bicubic+accurate_rnd+full_chroma_int,format=yuv420p[out]"
	return raw, append(graph, "-filter_complex", filter, "-map", "[out]", "-frames:v", "240",
		"-c:v", "libx264", "-preset", "veryfast", "-crf", "18", "-f", "mp4", filepath.Join(dir, "graph.mp4"))
}
