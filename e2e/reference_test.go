// Package e2e drives the real interface in headless Chromium, and uses
// Chromium as the referee of what standards say should be drawn.
package e2e

import (
	"bytes"
	"context"
	"encoding/base64"
	"encoding/json"
	"fmt"
	"image"
	"image/color"
	"image/png"
	"math"
	"math/rand/v2"
	"os"
	"path/filepath"
	"testing"
	"time"

	"ivypocket/core/geom"
	"ivypocket/core/raster"
	"ivypocket/core/scene"
	"ivypocket/core/timing"
	"ivypocket/deliver"
	"ivypocket/demo"
	"ivypocket/e2e/browser"
	"ivypocket/fonts"
	"ivypocket/media"
	"ivypocket/media/mediatest"
)

func tab(t testing.TB, w, h int) *browser.Tab {
	t.Helper()
	b, err := browser.Open(context.Background(), w, h)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() {
		for _, what := range b.Wrong() {
			t.Errorf("the page's own scripts went wrong: %s", what)
		}
		b.Close()
	})
	return b
}

func eval[T any](t testing.TB, b *browser.Tab, js string) T {
	t.Helper()
	v, err := browser.Eval[T](b, js)
	if err != nil {
		t.Fatal(err)
	}
	return v
}

// W3C CSS Easing Functions Level 1: Chromium's Web Animations at sampled
// times, to 1e-4, also with handles above 1 and below 0.
func TestEasingAgreesWithChromium(t *testing.T) {
	t.Parallel()
	b := tab(t, 300, 300)
	for _, e := range []timing.Easing{{0.9, 0, 0.1, 1}, {0.25, 0.1, 0.25, 1}, {0.42, 0, 1, 1}, {0, 0, 0.58, 1}, {0.42, 0, 0.58, 1}, {0.2, 0.9, 0.1, 1}, {0.7, -0.6, 0.3, 1.6}, {0, 1, 1, 0}, {1, 0, 0, 1}, {0.1, 2.2, 0.3, 1}, {0.8, -1.4, 0.2, 2}, {1, -3.5, 0, 4}} {
		got := eval[[]float64](t, b, fmt.Sprintf(`(() => { const e = document.createElement('div'); document.body.append(e);
			const a = e.animate([{opacity: 0}, {opacity: 1}], {duration: 1000, easing: 'cubic-bezier(%g, %g, %g, %g)', fill: 'both'}); a.pause();
			const out = []; for (let i = 0; i <= 100; i++) { a.currentTime = i * 10; out.push(a.effect.getComputedTiming().progress) }
			return out })()`, e[0], e[1], e[2], e[3]))
		for i, want := range got {
			if v := e.At(float64(i) / 100); math.Abs(v-want) > 1e-4 {
				t.Errorf("cubic-bezier%v at %d %%: %g, Chromium has %g", e, i, v, want)
			}
		}
	}
}

// W3C CSS Easing Functions Level 1, 2.3: steps, with each of its jumps, against Chromium's Web Animations; at the instants
// of steps, too.
func TestStepsAgreeWithChromium(t *testing.T) {
	t.Parallel()
	b := tab(t, 300, 300)
	for _, jump := range timing.Jumps {
		for _, n := range []int{1, 2, 3, 4, 7, 10} {
			s := timing.Steps{Count: n, Jump: jump}
			if s.Validate() != nil {
				continue
			}
			got := eval[[]float64](t, b, fmt.Sprintf(`(() => { const e = document.createElement('div'); document.body.append(e);
				const a = e.animate([{opacity: 0}, {opacity: 1}], {duration: 840, easing: 'steps(%d, jump-%s)', fill: 'both'}); a.pause();
				const out = []; for (let i = 0; i <= 84; i++) { a.currentTime = i * 10; out.push(a.effect.getComputedTiming().progress) }
				return out })()`, n, jump))
			tr, err := timing.NewTrack([]timing.Key{{At: timing.Int(5), Value: []float64{0}, Steps: &s}, {At: timing.Int(89), Value: []float64{1}}}, 1, timing.Plain)
			if err != nil {
				t.Fatal(err)
			}
			v := make([]float64, 1)
			for i, want := range got {
				if tr.Value(timing.TemplateTime{Rat: timing.Int(int64(5 + i))}, v); math.Abs(v[0]-want) > 1e-9 {
					t.Errorf("steps(%d, jump-%s) at %d of 84: %g, Chromium has %g", n, jump, i, v[0], want)
				}
			}
		}
	}
}

// W3C Motion Path Module Level 1, offset-path and offset-distance: an even way, of one curve and of several keys that are
// passed by themselves, is where Chromium has so much of the path's length, to 1 in 2000 of the canvas. One curve that is eased
// is there at the share that the easing has come to. (The paths are large, as Chromium measures them to half a px.)
func TestWaysAgreeWithOffsetPath(t *testing.T) {
	t.Parallel()
	b := tab(t, 1200, 900)
	rnd := rand.New(rand.NewPCG(7, 21))
	for round := range 12 {
		at := func() [2]float64 {
			return [2]float64{math.Round(rnd.Float64() * 40000), math.Round(rnd.Float64() * 28000)}
		}
		bend := func() [2]float64 {
			return [2]float64{math.Round(rnd.Float64()*24000 - 12000), math.Round(rnd.Float64()*24000 - 12000)}
		}
		var keys []timing.Key
		path := ""
		e := timing.Easing{0.8, 0, 0.2, 1}
		n, ease := 2+round%4, "linear"
		if n == 2 {
			ease = "cubic-bezier(0.8, 0, 0.2, 1)"
		}
		for i := range n {
			p, in, out := at(), bend(), bend()
			k := timing.Key{Value: p[:], In: in, Out: out}
			if i == 0 {
				if k.At = timing.Int(0); n == 2 {
					k.Ease = &e
				}
				path = fmt.Sprintf("M %g %g", p[0], p[1])
			} else {
				from := keys[i-1]
				path += fmt.Sprintf(" C %g %g %g %g %g %g", from.Value[0]+from.Out[0], from.Value[1]+from.Out[1], p[0]+in[0], p[1]+in[1], p[0], p[1])
			}
			if i == n-1 {
				k.At = timing.Int(100)
			}
			keys = append(keys, k)
		}
		tr, err := timing.NewWay(keys, true, [2]float64{1, 1})
		if err != nil {
			t.Fatal(err)
		}
		got := eval[[][2]float64](t, b, fmt.Sprintf(`(() => { const e = document.createElement('div'); document.body.style.margin = 0; document.body.append(e);
			e.style.cssText = "position: absolute; left: 0; top: 0; width: 0; height: 0; offset-rotate: 0deg; offset-anchor: 0 0; offset-path: path('%s')";
			const a = e.animate([{ offsetDistance: '0%%' }, { offsetDistance: '100%%' }], { duration: 1000, easing: '%s', fill: 'both' }); a.pause();
			const out = []; for (let i = 0; i <= 50; i++) { a.currentTime = i * 20; const r = e.getBoundingClientRect(); out.push([r.x + scrollX, r.y + scrollY]) }
			e.remove(); return out })()`, path, ease))
		v := make([]float64, 2)
		for i, want := range got {
			tr.Value(timing.TemplateTime{Rat: timing.Int(int64(2 * i))}, v)
			if off := math.Hypot(v[0]-want[0], v[1]-want[1]); off > 20 {
				t.Errorf("%s at %d of 50: %g, Chromium has %v", path, i, v, want)
				break
			}
		}
	}
}

func dataURL(t *testing.T, img image.Image) string {
	t.Helper()
	return "data:image/png;base64," + base64.StdEncoding.EncodeToString(mediatest.PNG(t, img))
}

// smooth is a picture without hard edges, so that how a filter rounds an edge
// does not matter, but where each colour falls does.
func smooth(w, h int) *image.NRGBA {
	img := image.NewNRGBA(image.Rect(0, 0, w, h))
	for y := range h {
		for x := range w {
			u, v := (float64(x)+0.5)/float64(w), (float64(y)+0.5)/float64(h)
			img.SetNRGBA(x, y, color.NRGBA{uint8(20 + 210*u), uint8(20 + 210*v), uint8(128 + 100*math.Sin(u*6)*math.Cos(v*6)), 255})
		}
	}
	return img
}

// W3C CSS Images Level 3, object-fit and object-position: Chromium's pixels of
// an <img>. The picture is smooth, so that the filters' own rounding stays
// within 4/255; a misplacement of one pixel would make more.
func TestFramingAgreesWithObjectFit(t *testing.T) {
	t.Parallel()
	b := tab(t, 420, 320)
	for name, size := range map[string]image.Point{"landscape": {640, 240}, "portrait": {180, 420}, "square": {300, 300}} {
		img := smooth(size.X, size.Y)
		url := dataURL(t, img)
		painter := scene.NewPainter(scene.NewPictures(only{s: raster.FromImage(img)}, 64<<20))
		t.Cleanup(painter.Close)
		for fit, css := range map[geom.Fit]string{geom.Cover: "cover", geom.Contain: "contain", geom.Stretch: "fill", geom.Original: "none"} {
			for _, focus := range [][2]float64{{0.5, 0.5}, {0, 1}, {0.8, 0.25}} {
				eval[bool](t, b, fmt.Sprintf(`(async () => { document.body.style.cssText = 'margin:0;background:#000';
					document.body.innerHTML = '<img style="position:absolute;left:0;top:0;width:400px;height:300px;object-fit:%s;object-position:%g%% %g%%">';
					const i = document.querySelector('img'); i.src = %q; await i.decode(); await new Promise(r => requestAnimationFrame(() => requestAnimationFrame(r))); return true })()`,
					css, focus[0]*100, focus[1]*100, url))
				want := shot(t, b)
				f := geom.DefaultFraming(fit)
				f.Focus = focus
				box := geom.Box{W: 400, H: 300}
				pl := f.Place(geom.Size{W: float64(size.X), H: float64(size.Y)}, box.Size())
				got := &raster.Surface{}
				whole := geom.Form{Kind: geom.Rectangle, Size: box.Size()}
				if err := painter.Paint(context.Background(), &scene.List{Size: scene.Size{W: 400, H: 300}, Main: 2, Items: []scene.Item{
					{Kind: scene.FillItem, Form: whole, Map: geom.Identity.Flat(), Box: box, Opacity: 1, Colour: [4]uint8{0, 0, 0, 255}},
					{Kind: scene.PictureItem, Form: whole, Map: geom.Identity.Flat(), Media: name, MediaSize: geom.Size{W: float64(size.X), H: float64(size.Y)}, Box: box, RestBox: box,
						Content: pl.Map, Rest: pl.Map, Opacity: 1, Still: true, Edges: !pl.Covers},
				}}, got); err != nil {
					t.Fatal(err)
				}
				// Pixels on the picture's own edge depend on the filter; one pixel
				// around it is left out.
				compare(t, fmt.Sprintf("%s, %s at %v", name, css, focus), got, want, 400, 300, 4, edgeOf(pl.Map, size))
			}
		}
	}
}

// only is a source of one picture.
type only struct {
	fonts.Shelf
	s *raster.Surface
}

func (o only) Info(string) (scene.Info, bool) {
	return scene.Info{Size: geom.Size{W: float64(o.s.W), H: float64(o.s.H)}}, true
}
func (o only) Trace(string) (*raster.Trace, error) { return raster.NewTrace(o.s), nil }
func (o only) Vector(string) bool                  { return false }
func (o only) Fleeting() bool                      { return false }
func (o only) Picture(context.Context, string, int64, int, int) (*raster.Surface, error) {
	return o.s, nil
}

// edgeOf reports whether a pixel lies within 1.5 px of the edge of a picture.
func edgeOf(m geom.Affine, size image.Point) func(x, y int) bool {
	a, b := m.Apply(geom.Point{}), m.Apply(geom.Point{X: float64(size.X), Y: float64(size.Y)})
	return func(x, y int) bool {
		px, py := float64(x)+0.5, float64(y)+0.5
		near := func(v, e float64) bool { return math.Abs(v-e) < 1.5 }
		return near(px, a.X) || near(px, b.X) || near(py, a.Y) || near(py, b.Y)
	}
}

func shot(t *testing.T, b *browser.Tab) image.Image {
	t.Helper()
	path := t.TempDir() + "/shot.png"
	if err := b.Shot(path); err != nil {
		t.Fatal(err)
	}
	data, err := os.ReadFile(path)
	if err != nil {
		t.Fatal(err)
	}
	img, err := png.Decode(bytes.NewReader(data))
	if err != nil {
		t.Fatal(err)
	}
	return img
}

func compare(t *testing.T, what string, got *raster.Surface, want image.Image, w, h, tolerance int, skip func(x, y int) bool) {
	t.Helper()
	worst, at := 0, image.Point{}
	for y := range h {
		for x := range w {
			if skip(x, y) {
				continue
			}
			r, g, b, _ := got.At(x, y)
			wr, wg, wb, _ := want.At(x, y).RGBA()
			for _, d := range []int{int(r) - int(wr>>8), int(g) - int(wg>>8), int(b) - int(wb>>8)} {
				if d < 0 {
					d = -d
				}
				if d > worst {
					worst, at = d, image.Point{X: x, Y: y}
				}
			}
		}
	}
	if worst > tolerance {
		r, g, b, _ := got.At(at.X, at.Y)
		t.Errorf("%s: differs by %d at %v: %d %d %d, Chromium has %v", what, worst, at, r, g, b, want.At(at.X, at.Y))
	}
}

// SVG 1.1 drawn by the engine's helper and by Chromium. Edges are antialiased
// in different ways, so that the mean difference counts, and how few pixels
// are far off.
func TestVectorDrawingsAgreeWithChromium(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	if err := demo.Draw(context.Background(), dir, func(string) {}, "festival", "rope"); err != nil {
		t.Fatal(err)
	}
	b := tab(t, 420, 420)
	const open = `<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" `
	// What a drawing program does not know by itself, and what is cleaned.
	inline := map[string]string{
		"variables": open + `viewBox="0 0 40 40"><style>:root { --a: #c33; --w: 6px } .k { --a: teal } rect { fill: var(--a); stroke: var(--none, gold); stroke-width: var(--w) } #z { fill: navy }</style>
			<rect x="3" y="3" width="14" height="14"/><g class="k"><rect x="22" y="3" width="14" height="14"/><rect id="z" x="3" y="22" width="14" height="14"/></g><circle cx="29" cy="29" r="8" fill="var(--a)"/></svg>`,
		"newer colours": open + `viewBox="0 0 40 40"><rect width="20" height="20" fill="oklch(0.7 0.18 50)"/><rect x="20" width="20" height="20" style="fill: lab(55% -40 30)"/>
			<rect y="20" width="20" height="20" fill="hwb(200 20% 10% / 0.6)"/><rect x="20" y="20" width="20" height="20" fill="color(display-p3 0.9 0.4 0.2)"/></svg>`,
		"a switch, links and entities": `<!DOCTYPE svg [<!ENTITY own "http://example.org/"><!ENTITY red "#b4492b">]>` + open + `xmlns:i="&own;" width="40" height="40"><switch>
			<foreignObject requiredExtensions="&own;" width="40" height="40"><i:data/></foreignObject><g><a xlink:href="#x"><path d="M4 36 20 4l16 32z" fill="&red;"/></a></g></switch></svg>`,
		"neither size nor viewBox": open + `><circle cx="150" cy="75" r="60" fill="#2e6b4e"/><path d="M0 0h30v30z"/></svg>`,
	}
	sizes := map[string]image.Point{"Saltmarsh Kite Week.svg": {400, 400}, "Brinewell Rope.svg": {320, 120}, "neither size nor viewBox": {300, 150}}
	for name := range inline {
		if sizes[name] == (image.Point{}) {
			sizes[name] = image.Pt(400, 400)
		}
	}
	for name, size := range sizes {
		data := []byte(inline[name])
		if len(data) == 0 {
			var err error
			if data, err = os.ReadFile(dir + "/" + name); err != nil {
				t.Fatal(err)
			}
		}
		folder := mediatest.NewFolder(t)
		folder.Put(t, "svg", data)
		s, err := media.NewLibrary(folder).Stage().Picture(context.Background(), "svg", 0, size.X, size.Y)
		if err != nil {
			t.Fatal(err)
		}
		onWhite := raster.FromImage(s.Image())
		onWhite.Over(0, size.Y, 255, 255, 255)
		eval[bool](t, b, fmt.Sprintf(`(async () => { document.body.style.cssText = 'margin:0;background:#fff'; document.body.innerHTML = '<img style="display:block;width:%dpx;height:%dpx">';
			const i = document.querySelector('img'); i.src = %q; await i.decode(); await new Promise(r => requestAnimationFrame(() => requestAnimationFrame(r))); return true })()`,
			size.X, size.Y, "data:image/svg+xml;base64,"+base64.StdEncoding.EncodeToString(data)))
		want := shot(t, b)
		sum, far := 0.0, 0
		for y := range size.Y {
			for x := range size.X {
				r, g, bl, _ := onWhite.At(x, y)
				wr, wg, wb, _ := want.At(x, y).RGBA()
				d := math.Max(math.Abs(float64(r)-float64(wr>>8)), math.Max(math.Abs(float64(g)-float64(wg>>8)), math.Abs(float64(bl)-float64(wb>>8))))
				sum += d
				if d > 48 {
					far++
				}
			}
		}
		n := float64(size.X * size.Y)
		if sum/n > 1 || float64(far)/n > 0.001 {
			t.Errorf("%s: mean difference %.2f, %d pixels far off", name, sum/n, far)
		}
	}
}

// Stills as Chromium decodes them, within 2/255. With colour profiles the two
// use engines of their own, whose tables and rounding differ: 3/255 for
// primaries and a curve, 20/255 in the shadows of a press's four-dimensional
// table, which each interpolates in its own way (ours is held to the table's
// formula in media/still). Of 10 bits Chromium keeps 8 before it leaves
// Y′CbCr, which costs it up to 5/255. Where
// subsampled chroma is spread over pixels each decoder has a filter of its own,
// which a smooth picture keeps within 4/255.
func TestStillsAgreeWithChromium(t *testing.T) {
	t.Parallel()
	b := tab(t, 220, 220)
	dir := mediatest.NewFolder(t)
	lib := media.NewLibrary(dir)
	defer lib.Close()
	img := smooth(120, 80)
	plain := mediatest.PNG(t, img)
	jpg := mediatest.JPEG(t, img, 0)
	made := func(name string, args ...string) []byte {
		t.Helper()
		path := filepath.Join(t.TempDir(), name)
		mediatest.FFmpeg(t, bytes.NewReader(plain), append(append([]string{"-f", "png_pipe", "-i", "-"}, args...), path)...)
		data, err := os.ReadFile(path)
		if err != nil {
			t.Fatal(err)
		}
		return data
	}
	deep := image.NewNRGBA64(img.Rect)
	half := image.NewNRGBA(img.Rect)
	grey := image.NewGray(img.Rect)
	indexed := image.NewPaletted(img.Rect, color.Palette{color.NRGBA{200, 30, 30, 255}, color.NRGBA{30, 200, 30, 128}, color.NRGBA{0, 0, 0, 0}, color.NRGBA{30, 30, 220, 255}})
	inks := make([]byte, 120*80*4)
	for y := range 80 {
		for x := range 120 {
			c := img.NRGBAAt(x, y)
			deep.Set(x, y, c)
			half.SetNRGBA(x, y, color.NRGBA{c.R, c.G, c.B, uint8(55 + x)})
			grey.Set(x, y, c)
			indexed.SetColorIndex(x, y, uint8((x/30+y/20)%4))
			copy(inks[(y*120+x)*4:], []byte{c.R, c.G, c.B, uint8(120 + x)})
		}
	}
	press := mediatest.PrintJPEG(t, inks, 120, 80)
	for _, c := range []struct {
		name      string
		data      []byte
		mime      string
		tolerance int
	}{
		{"png", plain, "png", 0},
		{"png of 16 bits", mediatest.PNG(t, deep), "png", 1},
		{"png with alpha", mediatest.PNG(t, half), "png", 2},
		{"png with a palette", mediatest.PNG(t, indexed), "png", 1},
		{"grey png", mediatest.PNG(t, grey), "png", 0},
		{"interlaced png", made("i.png", "-c:v", "png", "-flags", "+ildct"), "png", 0},
		{"png with wide colours", mediatest.WithProfile(plain, mediatest.WideRGB()), "png", 3},
		{"png with wide colours and alpha", mediatest.WithProfile(mediatest.PNG(t, half), mediatest.WideRGB()), "png", 4},
		{"grey png with a profile", mediatest.WithProfile(mediatest.PNG(t, grey), mediatest.DarkGrey()), "png", 3},
		{"png with a gamma", mediatest.PNGChunk(plain, "gAMA", []byte{0, 0, 0xd9, 0x03}), "png", 3}, // 1/1.8
		{"png of P3 by code points", mediatest.PNGChunk(plain, "cICP", []byte{12, 13, 0, 1}), "png", 3},
		{"jpeg", jpg, "jpeg", 4},
		{"progressive jpeg without subsampling", made("p.jpg", "-c:v", "mjpeg", "-pix_fmt", "yuvj444p", "-q:v", "2"), "jpeg", 2},
		{"grey jpeg", made("g.jpg", "-c:v", "mjpeg", "-pix_fmt", "gray", "-q:v", "2"), "jpeg", 2},
		{"jpeg with wide colours", mediatest.WithProfile(jpg, mediatest.WideRGB()), "jpeg", 5},
		{"jpeg of print colours", press, "jpeg", 2},
		{"jpeg of print colours with a profile", mediatest.WithProfile(press, mediatest.Press()), "jpeg", 20},
		{"lossy webp", made("l.webp", "-c:v", "libwebp", "-quality", "90"), "webp", 2},
		{"lossless webp", made("n.webp", "-c:v", "libwebp", "-lossless", "1"), "webp", 0},
		{"gif", made("g.gif"), "gif", 0},
		{"bmp", made("b.bmp", "-pix_fmt", "bgr24"), "bmp", 0},
		{"avif", made("a.avif", "-c:v", "libaom-av1", "-still-picture", "1", "-crf", "10", "-cpu-used", "8", "-pix_fmt", "yuv444p"), "avif", 2},
		{"avif, subsampled", made("s.avif", "-c:v", "libaom-av1", "-still-picture", "1", "-crf", "10", "-cpu-used", "8", "-pix_fmt", "yuv420p"), "avif", 4},
		{"avif of 10 bits", made("t.avif", "-c:v", "libaom-av1", "-still-picture", "1", "-crf", "10", "-cpu-used", "8", "-pix_fmt", "yuv444p10le"), "avif", 5},
		{"orientation 1", mediatest.JPEG(t, img, 1), "jpeg", 4}, {"orientation 2", mediatest.JPEG(t, img, 2), "jpeg", 4},
		{"orientation 3", mediatest.JPEG(t, img, 3), "jpeg", 4}, {"orientation 4", mediatest.JPEG(t, img, 4), "jpeg", 4},
		{"orientation 5", mediatest.JPEG(t, img, 5), "jpeg", 4}, {"orientation 6", mediatest.JPEG(t, img, 6), "jpeg", 4},
		{"orientation 7", mediatest.JPEG(t, img, 7), "jpeg", 4}, {"orientation 8", mediatest.JPEG(t, img, 8), "jpeg", 4},
	} {
		m := dir.Put(t, c.name, c.data)
		got, err := lib.Stage().Picture(context.Background(), c.name, 0, m.Width, m.Height)
		if err != nil {
			t.Fatal(err)
		}
		pix := eval[[]int](t, b, fmt.Sprintf(`(async () => { const i = new Image(); i.src = %q; await i.decode();
			const c = new OffscreenCanvas(i.naturalWidth, i.naturalHeight); const x = c.getContext('2d'); x.drawImage(i, 0, 0);
			return [c.width, c.height, ...x.getImageData(0, 0, c.width, c.height).data] })()`, "data:image/"+c.mime+";base64,"+base64.StdEncoding.EncodeToString(c.data)))
		if pix[0] != got.W || pix[1] != got.H {
			t.Errorf("%s: %d × %d, Chromium has %d × %d", c.name, got.W, got.H, pix[0], pix[1])
			continue
		}
		// Straight colours of what is nearly clear say little; both are compared
		// premultiplied, as they are seen.
		worst, at := 0, 0
		for i := 0; i < len(got.Pix); i++ {
			v := pix[2+i]
			if i%4 != 3 {
				v = (v*pix[2+i-i%4+3] + 127) / 255
			}
			if d := int(math.Abs(float64(v) - float64(got.Pix[i]))); d > worst {
				worst, at = d, i/4
			}
		}
		if worst > c.tolerance {
			t.Errorf("%s: differs by up to %d, at (%d, %d); %d is allowed", c.name, worst, at%got.W, at/got.W, c.tolerance)
		}
	}
}

// W3C CSS Transforms Level 1: DOMMatrix composes as Affine does.
func TestMapsAgreeWithDOMMatrix(t *testing.T) {
	t.Parallel()
	b := tab(t, 100, 100)
	got := eval[map[string]float64](t, b, `(() => { const m = new DOMMatrix().translate(30, -7).rotate(33).scale(1.5, -0.5).translate(-60, -20);
		return {a: m.a, b: m.b, c: m.c, d: m.d, e: m.e, f: m.f} })()`)
	m := geom.Translate(-60, -20).Then(geom.Scale(1.5, -0.5)).Then(geom.Rotate(33)).Then(geom.Translate(30, -7))
	var ours map[string]float64
	j, err := json.Marshal(m)
	if err != nil {
		t.Fatal(err)
	}
	if err := json.Unmarshal(j, &ours); err != nil {
		t.Fatal(err)
	}
	for k, want := range got {
		if math.Abs(ours[k]-want) > 1e-9 {
			t.Errorf("%s is %g, DOMMatrix has %g", k, ours[k], want)
		}
	}
}

const patience = 30 * time.Second

// Footage as Chromium decodes it: a turned clip stands upright, and a film of
// ours with alpha is clear, half clear and solid where it was drawn so. Video
// goes through chroma subsampling on both sides: 6/255.
func TestFootageAgreesWithChromium(t *testing.T) {
	t.Parallel()
	b := tab(t, 300, 300)
	play := func(data []byte, kind string) []int {
		return eval[[]int](t, b, fmt.Sprintf(`(async () => { const v = document.createElement('video'); v.muted = true; v.src = %q;
			document.body.append(v);
			await new Promise((ok, bad) => { v.onloadeddata = ok; v.onerror = () => bad(v.error.message) });
			const seen = new Promise(ok => v.requestVideoFrameCallback(ok));
			// Its first frame is there already; playing makes sure that it is drawn, where the machine lets it play.
			await Promise.race([v.play().then(() => seen), new Promise(ok => setTimeout(ok, 5000))]); v.pause();
			const c = new OffscreenCanvas(v.videoWidth, v.videoHeight); const x = c.getContext('2d'); x.drawImage(v, 0, 0);
			return [c.width, c.height, ...x.getImageData(0, 0, c.width, c.height).data] })()`, "data:video/"+kind+";base64,"+base64.StdEncoding.EncodeToString(data)))
	}
	dir := mediatest.NewFolder(t)
	lib := media.NewLibrary(dir)
	defer lib.Close()
	compare := func(name string, data []byte, kind string, points []image.Point) {
		t.Helper()
		m := dir.Put(t, name, data)
		got, err := lib.Single().Picture(context.Background(), name, 0, m.Width, m.Height)
		if err != nil {
			t.Fatal(err)
		}
		pix := play(data, kind)
		if pix[0] != got.W || pix[1] != got.H {
			t.Fatalf("%s: %d × %d, Chromium has %d × %d", name, got.W, got.H, pix[0], pix[1])
		}
		for _, p := range points {
			i := (p.Y*got.W + p.X) * 4
			want := pix[2+i : 2+i+4]
			for c := range 4 {
				v := want[c]
				if c < 3 {
					v = (v*want[3] + 127) / 255
				}
				if d := v - int(got.Pix[i+c]); d > 6 || d < -6 {
					t.Errorf("%s at %v: %v, Chromium has %v (straight)", name, p, got.Pix[i:i+4], want)
					break
				}
			}
		}
	}
	flat, turned := filepath.Join(t.TempDir(), "f.mp4"), filepath.Join(t.TempDir(), "t.mp4")
	mediatest.FFmpeg(t, bytes.NewReader(mediatest.PNG(t, mediatest.Quarters(96, 64))), "-f", "png_pipe", "-i", "-", "-vf", "scale=out_color_matrix=bt601,format=yuv420p", "-c:v", "libx264", "-crf", "4", flat)
	mediatest.FFmpeg(t, nil, "-i", flat, "-c", "copy", "-metadata:s:v:0", "rotate=90", turned)
	data, err := os.ReadFile(turned)
	if err != nil {
		t.Fatal(err)
	}
	// Chromium of Debian may be built without H.264; then VP9 alone is compared.
	if eval[string](t, b, `document.createElement('video').canPlayType('video/mp4; codecs="avc1.42E01E"')`) != "" {
		compare("turned", data, "mp4", []image.Point{{16, 24}, {48, 24}, {16, 72}, {48, 72}})
	}

	film := filepath.Join(t.TempDir(), "a.webm")
	s := raster.NewSurface(128, 64)
	for i, c := range [][4]uint8{{200, 80, 40, 255}, {40, 160, 90, 128}, {}, {30, 60, 200, 64}} {
		var cut raster.Cut
		cut.Box(geom.Box{X: 32 * float64(i), W: 32, H: 64}, 0, s.W, s.H)
		flat := raster.NewFlat(c)
		s.Paint(0, 64, &flat, &cut, 1, raster.Normal, &raster.Brush{})
	}
	planes := make([]byte, raster.YUVA420Size(128, 64))
	s.YUVA420(planes, 0, 64)
	mediatest.FFmpeg(t, bytes.NewReader(bytes.Repeat(planes, 5)), deliver.EncoderArgs(deliver.WebM, true, 128, 64, timing.Rate{Rat: timing.Int(25)}, "-", film)...)
	if data, err = os.ReadFile(film); err != nil {
		t.Fatal(err)
	}
	compare("film", data, "webm", []image.Point{{16, 32}, {48, 32}, {80, 32}, {112, 32}})
	pix := play(data, "webm")
	for x, want := range map[int]int{16: 255, 48: 128, 80: 0, 112: 64} {
		if a := pix[2+(32*128+x)*4+3]; a < want-4 || a > want+4 {
			t.Errorf("Chromium reads alpha %d at x %d, want %d", a, x, want)
		}
	}
}
