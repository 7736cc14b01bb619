package bench

import (
	"context"
	"fmt"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"strconv"
	"strings"
	"sync"
	"testing"
	"time"

	"ivypocket/core/raster"
	"ivypocket/core/scene"
	"ivypocket/core/sheet"
	"ivypocket/core/template"
	"ivypocket/core/timing"
	"ivypocket/demo"
	"ivypocket/media"
	"ivypocket/store"
)

// painting is a template of the demo, made ready to be painted.
type painting struct {
	s        *scene.Scene
	pictures *scene.Pictures
	painter  *scene.Painter
	l        scene.List
	ready    scene.Ready
	dst      raster.Surface
	size     scene.Size
}

func newPainting(b *testing.B, id string, size scene.Size) *painting {
	h := set(b)
	ctx := context.Background()
	lib := media.NewLibrary(h.store)
	b.Cleanup(lib.Close)
	doc, err := h.store.Document(ctx, id, 1)
	if err != nil {
		b.Fatal(err)
	}
	for _, m := range doc.Media {
		if m.Kind == template.Footage && !lib.HasProxy(m.Hash) {
			if err := lib.GrowProxy(ctx, m.Hash, func(int64) {}); err != nil {
				b.Fatal(err)
			}
		}
	}
	r, err := sheet.Resolve(doc, sheet.Values{})
	if err != nil {
		b.Fatal(err)
	}
	s, err := scene.Compile(r, "landscape", lib)
	if err != nil {
		b.Fatal(err)
	}
	p := &painting{s: s, pictures: scene.NewPictures(lib.Stage(), 256<<20), painter: scene.NewPainter(nil), size: size}
	b.Cleanup(p.painter.Close)
	for n := range s.Frames() { // what the first frames ask for is not measured
		p.list(b, n)
	}
	return p
}

// list makes a frame's list and pictures ready.
func (p *painting) list(b *testing.B, n int64) {
	p.s.At(&p.l, p.s.Time().At(timing.OutputFrame(n%p.s.Frames())), p.size)
	if err := p.pictures.Ready(context.Background(), &p.l, &p.ready); err != nil {
		b.Fatal(err)
	}
}

// paint evaluates and paints a frame that was made ready.
func (p *painting) paint(b *testing.B, n int64) time.Duration {
	t := time.Now()
	p.s.At(&p.l, p.s.Time().At(timing.OutputFrame(n%p.s.Frames())), p.size)
	if err := p.painter.PaintReady(context.Background(), &p.l, &p.ready, &p.dst); err != nil {
		b.Fatal(err)
	}
	return time.Since(t)
}

// Painting each template of the demo, all of its frames in turn, its pictures
// made ready beforehand. Nothing is shared with the frame before but what a
// painter keeps by itself.
func BenchmarkPaint(b *testing.B) {
	for _, id := range demo.Templates {
		for _, size := range []scene.Size{{W: 960, H: 540}, {W: 1920, H: 1080}} {
			b.Run(fmt.Sprintf("%s/%d×%d", id, size.W, size.H), func(b *testing.B) {
				p := newPainting(b, id, size)
				ds := make([]time.Duration, 0, 1<<16)
				n := int64(0)
				b.ReportAllocs()
				for b.Loop() {
					b.StopTimer()
					p.list(b, n)
					b.StartTimer()
					if d := p.paint(b, n); len(ds) < cap(ds) {
						ds = append(ds, d)
					}
					n++
				}
				b.ReportMetric(quantile(ds, 0.5), "median-ms")
				b.ReportMetric(quantile(ds, 0.95), "p95-ms")
			})
		}
	}
}

// painted counts the pixels in the boxes of what a list draws, as explain prints
// them, within the frame. Of what holds others, treated pictures are counted, once.
func painted(l *scene.List) int {
	sum := 0
	for i := range l.Items {
		if it := &l.Items[i]; it.Span == 0 || it.Kind == scene.TreatItem {
			x0, y0, x1, y1 := raster.Within(it.Box, l.Size.W, l.Size.H)
			sum += max(0, x1-x0) * max(0, y1-y0)
		}
	}
	return sum
}

// overAll composites rows of a surface on another on all cores and returns how
// long that took.
func overAll(dst, src *raster.Surface) time.Duration {
	t := time.Now()
	n := runtime.GOMAXPROCS(0)
	var wg sync.WaitGroup
	for k := range n {
		wg.Go(func() {
			var brush raster.Brush
			var cut raster.Cut
			dst.Paint(dst.H*k/n, dst.H*(k+1)/n, &raster.Whole{S: src}, &cut, 1, raster.Normal, &brush)
		})
	}
	wg.Wait()
	return time.Since(t)
}

// Painting all frames of a template beside compositing as many pixels source over
// with an alpha for each, on as many cores, in turn.
func BenchmarkShare(b *testing.B) {
	for _, id := range demo.Templates {
		for _, size := range []scene.Size{{W: 1920, H: 1080}, {W: 3840, H: 2160}} {
			b.Run(fmt.Sprintf("%s/%d×%d", id, size.W, size.H), func(b *testing.B) {
				p := newPainting(b, id, size)
				over, on := raster.NewSurface(1920, 1080), raster.NewSurface(1920, 1080)
				for i := range over.Pix {
					over.Pix[i] = uint8(i*7%101 + i/997%100)
					if i%4 == 3 {
						over.Pix[i] = 201
					}
				}
				var ours, theirs, near time.Duration
				pixels, nearPixels, slowest, n := 0, 0, time.Duration(0), int64(0)
				poster := int64(p.s.Poster())
				for b.Loop() {
					p.list(b, n)
					d := p.paint(b, n)
					px := painted(&p.l)
					ours, slowest, pixels = ours+d, max(slowest, d), pixels+px
					if at := n % p.s.Frames(); at > poster-12 && at <= poster+12 {
						near, nearPixels = near+d, nearPixels+px
					}
					theirs += overAll(on, over)
					n++
				}
				perPixel := float64(theirs.Nanoseconds()) / float64(n) / 1920 / 1080
				ns := float64(ours.Nanoseconds()) / float64(pixels)
				b.ReportMetric(ns, "ns/px")
				b.ReportMetric(ns/perPixel, "×over")
				b.ReportMetric(float64(near.Nanoseconds())/float64(max(1, nearPixels))/perPixel, "×over-near-poster")
				b.ReportMetric(float64(pixels)/float64(n)/1e6, "Mpx")
				b.ReportMetric(ours.Seconds()*1e3/float64(n), "ms")
				b.ReportMetric(slowest.Seconds()*1e3, "slowest-ms")
			})
		}
	}
}

// crowded is a document of 60 layers with 600 keys and 40 formulas, with as many
// frames and formats as are asked for.
func crowded(frames, formats int) string {
	rng := rand.New(rand.NewPCG(60, 600))
	var layers []string
	for i := range 60 {
		key := func(v func() string) string {
			var keys []string
			for k := range 5 {
				keys = append(keys, fmt.Sprintf(`{"at": %d, "value": %s, "ease": [0.4, 0, 0.2, 1]}`, k*60, v()))
			}
			return `"keys": [` + strings.Join(keys, ", ") + `]`
		}
		formulas := ""
		if i >= 20 {
			formulas = fmt.Sprintf(`, "formulas": {"opacity": "clamp(0.4 + 0.6 * sin(layer('y%d').turn + time.share * 360), 0, 1) * smoothstep(0, 12, time.frames)"}`, i-20)
		}
		layers = append(layers, fmt.Sprintf(`{"id": "y%d", "name": "Y", "kind": "shape", "place": [%d, %d], "size": [200, 120], "fill": "#1e7383",
			"motion": {"place": {"unit": "canvas", %s}, "turn": {%s}}%s}`, i, rng.IntN(1600)-800, rng.IntN(900)-450,
			key(func() string { return fmt.Sprintf("[%g, %g]", rng.Float64()-0.5, rng.Float64()-0.5) }), key(func() string { return fmt.Sprint(rng.IntN(360)) }), formulas))
	}
	canvases := []string{`{"id": "landscape", "name": "Landscape", "width": 1920, "height": 1080}`, `{"id": "vertical", "name": "Vertical", "width": 1080, "height": 1920}`,
		`{"id": "square", "name": "Square", "width": 1080, "height": 1080}`}
	return fmt.Sprintf(`{"ivypocket": 3, "kind": "template", "id": "crowded", "name": "Crowded", "category": "Bench", "rate": "25", "frames": %d,
		"formats": [%s], "layers": [%s], "sheet": {"groups": [{"id": "g", "label": "G", "entries": [{"id": "spot", "label": "Spot", "kind": "place", "default": [0, 0], "ties": [{"to": "layers/y7/place"}]}]}]}}`,
		frames, strings.Join(canvases[:formats], ", "), strings.Join(layers, ",\n"))
}

// Evaluating an instant of 60 layers with 600 keys and 40 formulas, as far as
// its draw list.
func BenchmarkEvaluate(b *testing.B) {
	doc, err := template.Parse([]byte(crowded(250, 1)))
	if err != nil {
		b.Fatal(err)
	}
	keys, formulas := 0, 0
	doc.Visit(func(_ string, y *template.Layer) {
		formulas += len(y.Formulas)
		for _, m := range y.Motion {
			keys += len(m.Keys)
		}
	})
	if len(doc.Layers) != 60 || keys != 600 || formulas != 40 {
		b.Fatalf("%d layers, %d keys, %d formulas", len(doc.Layers), keys, formulas)
	}
	r, err := sheet.Resolve(doc, sheet.Values{})
	if err != nil {
		b.Fatal(err)
	}
	h := set(b)
	lib := media.NewLibrary(h.store)
	defer lib.Close()
	s, err := scene.Compile(r, "landscape", lib)
	if err != nil {
		b.Fatal(err)
	}
	var l scene.List
	n := int64(0)
	b.ReportAllocs()
	for b.Loop() {
		s.At(&l, s.Time().At(timing.OutputFrame(n%s.Frames())), scene.Size{W: 960, H: 540})
		n++
	}
}

// peaks is the greatest memory that a process has held so far, and its children
// together, in bytes.
func peaks(pid int) (own, children int64) {
	high := func(pid string) int64 {
		text, _ := os.ReadFile("/proc/" + pid + "/status")
		for _, line := range strings.Split(string(text), "\n") {
			if v, ok := strings.CutPrefix(line, "VmHWM:"); ok {
				kb, _ := strconv.ParseInt(strings.Fields(v)[0], 10, 64)
				return kb << 10
			}
		}
		return 0
	}
	tasks, _ := filepath.Glob(fmt.Sprintf("/proc/%d/task/*/children", pid))
	for _, f := range tasks {
		text, _ := os.ReadFile(f)
		for _, c := range strings.Fields(string(text)) {
			children += high(c)
		}
	}
	return high(strconv.Itoa(pid)), children
}

// A film of 3840×2160: the memory of the process that paints it, and of the
// decoder and encoder beside it.
func BenchmarkMemory2160p(b *testing.B) {
	h := set(b)
	bin := filepath.Join(b.TempDir(), "ivypocket")
	if out, err := exec.Command("go", "build", "-o", bin, "ivypocket/cmd/ivypocket").CombinedOutput(); err != nil {
		b.Fatalf("%v: %s", err, out)
	}
	// A store of its own, so that both may be open.
	dir := b.TempDir()
	s, err := store.Open(dir)
	if err != nil {
		b.Fatal(err)
	}
	files := os.DirFS(demo.Files(h.store.Dir()))
	if err := os.CopyFS(demo.Files(dir), files); err != nil {
		b.Fatal(err)
	}
	if err := demo.Seed(context.Background(), s, func(string) {}); err != nil {
		b.Fatal(err)
	}
	s.Close()
	for _, id := range demo.Templates {
		b.Run(id, func(b *testing.B) {
			var own, children int64
			frames := 0
			for b.Loop() {
				c := exec.Command(bin, "--data", dir, "render", id, "--size", "3840x2160", "--frames", "40-100", "-o", filepath.Join(dir, "film.mp4"))
				if err := c.Start(); err != nil {
					b.Fatal(err)
				}
				done := make(chan error, 1)
				go func() { done <- c.Wait() }()
				for ended := false; !ended; {
					select {
					case err := <-done:
						if err != nil {
							b.Fatal(err)
						}
						ended = true
					case <-time.After(20 * time.Millisecond):
						o, k := peaks(c.Process.Pid)
						own, children = max(own, o), max(children, k)
					}
				}
				frames += 60
			}
			b.ReportMetric(float64(own)/1e6, "own-MB")
			b.ReportMetric(float64(children)/1e6, "children-MB")
			b.ReportMetric(b.Elapsed().Seconds()/float64(frames)*1e3, "ms/frame")
		})
	}
}
