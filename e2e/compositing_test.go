package e2e

import (
	"context"
	"fmt"
	"image"
	"math"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"ivypocket/core/geom"
	"ivypocket/core/raster"
	"ivypocket/core/scene"
	"ivypocket/core/scheme"
	"ivypocket/core/sheet"
	"ivypocket/core/template"
	"ivypocket/core/timing"
	"ivypocket/e2e/browser"
)

// composed paints the only frame of a document made of the given layers (JSON). A
// picture layer's media is src's.
func composed(t *testing.T, w, h int, layers string, src scene.Source) *raster.Surface {
	t.Helper()
	doc, err := template.Parse(fmt.Appendf(nil, `{"ivypocket": 3, "kind": "template", "id": "referee", "name": "Referee", "category": "Checks", "rate": "25", "frames": 1,
		"formats": [{"id": "only", "name": "Only", "width": %d, "height": %d}], "layers": [%s]}`, w, h, layers))
	if err != nil {
		t.Fatalf("%v\n%s", err, layers)
	}
	r, err := sheet.Resolve(doc, sheet.Values{})
	if err != nil {
		t.Fatal(err)
	}
	if src == nil {
		src = only{s: raster.NewSurface(1, 1)}
	}
	s, err := scene.Compile(r, "only", src)
	if err != nil {
		t.Fatal(err)
	}
	p := scene.NewPainter(scene.NewPictures(src, 64<<20))
	defer p.Close()
	var l scene.List
	s.At(&l, s.Time().At(timing.OutputFrame(0)), scene.Size{W: w, H: h})
	dst := &raster.Surface{}
	if err := p.Paint(context.Background(), &l, dst); err != nil {
		t.Fatal(err)
	}
	return dst
}

// page shows HTML on white and returns what Chromium drew.
func page(t *testing.T, b *browser.Tab, html string) image.Image {
	t.Helper()
	eval[bool](t, b, fmt.Sprintf(`(async () => { document.body.style.cssText = 'margin:0;background:#fff;overflow:hidden'; document.body.innerHTML = %q;
		await Promise.all([...document.images].map(i => i.decode()));
		await new Promise(r => requestAnimationFrame(() => requestAnimationFrame(r))); return true })()`, html))
	return shot(t, b)
}

// svgImage returns what Chromium makes of an opaque SVG picture. It is drawn on
// a canvas: a screenshot of a luminance mask never comes.
func svgImage(t *testing.T, b *browser.Tab, w, h int, body string) image.Image {
	t.Helper()
	svg := fmt.Sprintf(`<svg xmlns="http://www.w3.org/2000/svg" width="%d" height="%d">%s</svg>`, w, h, body)
	pix := eval[[]int](t, b, fmt.Sprintf(`(async () => { const i = new Image(); i.src = 'data:image/svg+xml,' + encodeURIComponent(%q); await i.decode();
		const x = new OffscreenCanvas(%d, %d).getContext('2d'); x.drawImage(i, 0, 0); return [...x.getImageData(0, 0, %d, %d).data] })()`, svg, w, h, w, h))
	img := image.NewNRGBA(image.Rect(0, 0, w, h))
	for i, v := range pix {
		img.Pix[i] = uint8(v)
	}
	return img
}

// referee is how two pictures differ.
type referee struct {
	worst    int
	at       image.Point
	mean     float64 // of each pixel's greatest difference
	far      float64 // the share of pixels that differ by more than 24
	got, has [3]uint8
}

func judge(got *raster.Surface, want image.Image, skip func(x, y int) bool) (r referee) {
	n, far := 0, 0
	for y := range got.H {
		for x := range got.W {
			if skip != nil && skip(x, y) {
				continue
			}
			a, b, c, _ := got.At(x, y)
			wr, wg, wb, _ := want.At(x, y).RGBA()
			d := 0
			for _, v := range []int{int(a) - int(wr>>8), int(b) - int(wg>>8), int(c) - int(wb>>8)} {
				d = max(d, v, -v)
			}
			n++
			r.mean += float64(d)
			if d > 24 {
				far++
			}
			if d > r.worst {
				r.worst, r.at, r.got, r.has = d, image.Point{X: x, Y: y}, [3]uint8{a, b, c}, [3]uint8{uint8(wr >> 8), uint8(wg >> 8), uint8(wb >> 8)}
			}
		}
	}
	r.mean /= float64(n)
	r.far = float64(far) / float64(n)
	return r
}

func (r referee) String() string {
	return fmt.Sprintf("at most %d, at %v, where %v is drawn and Chromium has %v; on average %.3f; %.3f %% far off", r.worst, r.at, r.got, r.has, r.mean, r.far*100)
}

const onWhite = `{"id": "white", "name": "White", "kind": "ground", "fill": "#ffffff"}`

// exact lists alphas, and of what number a colour must be a multiple so that
// it is a whole number when it is multiplied by them: both sides begin with the
// same bits.
var exact = [][2]int{{255, 1}, {51, 5}, {85, 3}, {102, 5}, {153, 5}, {170, 3}, {204, 5}, {0, 255}}

// exactColour is a random colour of which both sides keep every bit.
func exactColour(rng *rand.Rand) string {
	a := exact[rng.IntN(len(exact))]
	n := 255/a[1] + 1
	c := func() int {
		if rng.IntN(6) == 0 {
			return rng.IntN(2) * 255
		}
		return rng.IntN(n) * a[1]
	}
	return fmt.Sprintf("#%02x%02x%02x%02x", c(), c(), c(), a[0])
}

// W3C Compositing and Blending Level 1, section 10: every mode, between random
// colours of every kind of alpha, against Chromium's canvas. Nowhere do they
// differ by more than 2/255, premultiplied.
func TestBlendsAgreeWithCanvas(t *testing.T) {
	t.Parallel()
	const across, side, pairs = 16, 4, 240
	const w = across * side
	b := tab(t, 100, 100)
	rng := rand.New(rand.NewPCG(16, 1))
	for round := range 4 * len(scheme.BlendModes) {
		mode := scheme.BlendModes[round/4]
		canvas := mode
		switch mode {
		case "normal":
			canvas = "source-over"
		case "add":
			canvas = "lighter"
		}
		below, above := make([]string, pairs), make([]string, pairs)
		for i := range pairs {
			below[i], above[i] = exactColour(rng), exactColour(rng)
		}
		want := eval[[]int](t, b, fmt.Sprintf(`(() => { const x = new OffscreenCanvas(%d, %d).getContext('2d', {willReadFrequently: true});
			const all = (colours, mode) => { x.globalCompositeOperation = mode; colours.split(' ').forEach((c, i) => { x.fillStyle = c; x.fillRect(i %% %d * %d, Math.floor(i / %d) * %d, %d, %d) }) };
			all(%q, 'source-over'); all(%q, %q); return [...x.getImageData(0, 0, %d, %d).data] })()`, w, w, across, side, across, side, side, side,
			strings.Join(below, " "), strings.Join(above, " "), canvas, w, w))
		var layers []string
		for i := range pairs {
			at := fmt.Sprintf(`"anchor": "top left", "place": [%d, %d], "size": [%d, %d]`, i%across*side, i/across*side, side, side)
			layers = append(layers, fmt.Sprintf(`{"id": "a%d", "name": "A", "kind": "shape", %s, "fill": %q}, {"id": "b%d", "name": "B", "kind": "shape", "blend": %q, %s, "fill": %q}`, i, at, below[i], i, mode, at, above[i]))
		}
		drawn := composed(t, w, w, strings.Join(layers, ","), nil)
		worst, said := 0, ""
		for i := range pairs {
			at := (i/across*side*w + i%across*side) * 4
			got := drawn.Pix[at : at+4]
			for k, v := range want[at : at+4] {
				if k < 3 {
					v = (v*want[at+3] + 127) / 255
				}
				if d := v - int(got[k]); max(d, -d) > worst {
					worst, said = max(d, -d), fmt.Sprintf("%s of %s on %s: %v, Chromium has %v (straight)", mode, above[i], below[i], got, want[at:at+4])
				}
			}
		}
		if worst > 2 {
			t.Errorf("differs by %d: %s", worst, said)
		}
	}
}

// stack makes random layers, as a document has them and as CSS has them.
type stack struct {
	rng  *rand.Rand
	n    int
	side int
}

// steep modes make much of a difference of 1/255 in what is below them: they
// divide by it or double it, or take hues from what is nearly grey. Chromium
// rounds several times on the way to difference and exclusion, so that with an
// alpha of 0.04 it is off by 2.5/255 from the formula.
var steep = []string{"overlay", "hard-light", "difference", "exclusion", "color-dodge", "color-burn", "soft-light", "hue", "saturation", "color", "luminosity"}

// layer is one layer or group, of a depth.
func (s *stack) layer(depth int, gentle bool) (doc, html string) {
	s.n++
	id := fmt.Sprintf("y%d", s.n)
	mode := scheme.BlendModes[s.rng.IntN(len(scheme.BlendModes))]
	for gentle && slices.Contains(steep, mode) {
		mode = scheme.BlendModes[s.rng.IntN(len(scheme.BlendModes))]
	}
	css := strings.Replace(mode, "add", "plus-lighter", 1)
	opacity := 1.0
	if s.rng.IntN(3) == 0 {
		opacity = float64(1+s.rng.IntN(4)) / 5 // a whole number of 255ths
	}
	if depth < 2 && s.rng.IntN(3) == 0 {
		var docs []string
		for k := range 1 + s.rng.IntN(2) {
			// What follows others in a group lies on pixels that each side has
			// rounded by itself.
			d, h := s.layer(depth+1, k > 0 || depth > 0)
			docs = append(docs, d)
			html += h
		}
		in := strings.Join(docs, ",")
		// CSS has groups that are not isolated only where they have no opacity
		// and no mode of their own.
		if s.rng.IntN(2) == 0 {
			return fmt.Sprintf(`{"id": %q, "name": "G", "kind": "group", "layers": [%s]}`, id, in), fmt.Sprintf(`<div>%s</div>`, html)
		}
		if slices.Contains(steep, mode) {
			mode, css = "normal", "normal"
		}
		return fmt.Sprintf(`{"id": %q, "name": "G", "kind": "group", "isolated": true, "blend": %q, "opacity": %g, "layers": [%s]}`, id, mode, opacity, in),
			fmt.Sprintf(`<div style="isolation:isolate;mix-blend-mode:%s;opacity:%g;position:absolute;inset:0">%s</div>`, css, opacity, html)
	}
	if slices.Contains(steep, mode) {
		opacity = 1
	}
	x0, y0 := s.rng.IntN(s.side/3), s.rng.IntN(s.side/3)
	w, h := s.side/3+s.rng.IntN(s.side/3), s.side/3+s.rng.IntN(s.side/3)
	c := exactColour(s.rng)
	return fmt.Sprintf(`{"id": %q, "name": "S", "kind": "shape", "blend": %q, "anchor": "top left", "place": [%d, %d], "size": [%d, %d], "fill": %q, "opacity": %g}`, id, mode, x0, y0, w, h, c, opacity),
		fmt.Sprintf(`<div style="position:absolute;left:%dpx;top:%dpx;width:%dpx;height:%dpx;background:%s;mix-blend-mode:%s;opacity:%g"></div>`, x0, y0, w, h, c, css, opacity)
}

// W3C Compositing and Blending Level 1: random stacks of shapes and groups in
// all sixteen modes and add (plus-lighter of Level 2), with opacity, isolated
// and not, against CSS mix-blend-mode, opacity and isolation. Layer by layer
// Chromium goes on from what the engine has drawn so far, so that its rounding
// of the layers before does not count; nowhere do they differ by more than 2/255.
func TestRandomStacksAgreeWithMixBlendMode(t *testing.T) {
	t.Parallel()
	const side, across, down, high = 48, 12, 5, 3
	b := tab(t, side*across, side*down)
	for round := range 8 {
		rng := rand.New(rand.NewPCG(uint64(round), 17))
		type tile struct {
			back      string
			docs, css [high]string
		}
		tiles := make([]tile, across*down)
		for i := range tiles {
			s := stack{rng: rng, n: i * 100, side: side}
			tiles[i].back = fmt.Sprintf("#%06x", rng.Uint32()&0xffffff)
			for k := range high {
				tiles[i].docs[k], tiles[i].css[k] = s.layer(0, false)
			}
		}
		var before *raster.Surface
		for k := range high + 1 {
			var docs []string
			html, url := "", ""
			if k > 0 {
				url = dataURL(t, before.Image())
			}
			for i, c := range tiles {
				x, y := i%across*side, i/across*side
				docs = append(docs, fmt.Sprintf(`{"id": "tile%d", "name": "T", "kind": "group", "isolated": true, "anchor": "top left", "place": [%d, %d], "size": [%d, %d], "layers": [%s]}`, i, x, y, side, side,
					strings.Join(append([]string{fmt.Sprintf(`{"id": "back%d", "name": "B", "kind": "shape", "fill": %q}`, i, c.back)}, c.docs[:k]...), ",")))
				if k > 0 {
					html += fmt.Sprintf(`<div style="position:absolute;left:%dpx;top:%dpx;width:%dpx;height:%dpx;isolation:isolate;overflow:hidden;background:var(--so-far) -%dpx -%dpx">%s</div>`, x, y, side, side, x, y, c.css[k-1])
				}
			}
			got := composed(t, side*across, side*down, strings.Join(docs, ",\n"), nil)
			if k > 0 {
				want := page(t, b, fmt.Sprintf(`<img src=%q style="display:none"><div style="--so-far:url(%s)">%s</div>`, url, url, html))
				if r := judge(got, want, nil); r.worst > 2 {
					i := r.at.Y/side*across + r.at.X/side
					t.Errorf("round %d, layer %d of tile %d: %v\n%s", round, k, i, r, docs[i])
				}
			}
			before = got
		}
	}
}

// W3C Compositing and Blending Level 1, section 9: what mattes do is the
// Porter–Duff operators source-in (the alpha of another layer) and source-out
// (its inverse), beside source-over and lighter. Chromium's canvas draws the
// same random layers by globalCompositeOperation; its pixels, premultiplied
// again, differ by no more than 2/255 anywhere.
func TestMattesAgreeWithPorterDuff(t *testing.T) {
	t.Parallel()
	const side, tiles = 40, 60
	b := tab(t, 100, 100)
	rng := rand.New(rand.NewPCG(9, 1))
	type box struct {
		c    string
		x, y int
	}
	for range tiles {
		at := func() box { return box{exactColour(rng), rng.IntN(16), rng.IntN(16)} }
		below, matte, cut := at(), at(), at()
		invert, mode := rng.IntN(2) == 0, rng.IntN(2)
		shape := func(id string, k box, more string) string {
			return fmt.Sprintf(`{"id": %q, "name": "S", "kind": "shape", "anchor": "top left", "place": [%d, %d], "size": [24, 24], "fill": %q%s}`, id, k.x, k.y, k.c, more)
		}
		got := composed(t, side, side, strings.Join([]string{
			shape("below", below, ""), shape("matte", matte, `, "hidden": true`),
			shape("cut", cut, fmt.Sprintf(`, "matte": {"layer": "matte", "of": "alpha", "invert": %v}, "blend": %q`, invert, []string{"normal", "add"}[mode])),
		}, ","), nil)
		op := map[bool]string{false: "source-in", true: "source-out"}[invert]
		pix := eval[[]int](t, b, fmt.Sprintf(`(() => { const make = () => new OffscreenCanvas(%d, %d).getContext('2d', {willReadFrequently: true});
			const box = (x, c, l, t) => { x.fillStyle = c; x.fillRect(l, t, 24, 24) };
			const m = make(); box(m, %q, %d, %d); const all = make(); box(all, %q, %d, %d);
			m.globalCompositeOperation = %q; m.drawImage(all.canvas, 0, 0);
			const d = make(); box(d, %q, %d, %d); d.globalCompositeOperation = %q; d.drawImage(m.canvas, 0, 0);
			return [...d.getImageData(0, 0, %d, %d).data] })()`, side, side, matte.c, matte.x, matte.y, cut.c, cut.x, cut.y, op,
			below.c, below.x, below.y, []string{"source-over", "lighter"}[mode], side, side))
		worst, where := 0, 0
		for i, v := range pix {
			if i%4 != 3 {
				v = (v*pix[i-i%4+3] + 127) / 255
			}
			if d := v - int(got.Pix[i]); max(d, -d) > worst {
				worst, where = max(d, -d), i
			}
		}
		if worst > 2 {
			t.Errorf("%s of %v by %v on %v: differs by %d at (%d, %d)", op, cut, matte, below, worst, where/4%side, where/4/side)
		}
	}
}

// W3C CSS Masking Level 1: an SVG mask of a gradient, by its alpha
// and by its luminance. Both sides round a gradient, a product and a blend:
// 3/255. (SVG's gradients, unlike CSS's, are not premultiplied: stops of one
// colour or of one alpha are the same in both.)
func TestMattesAgreeWithCSSMasks(t *testing.T) {
	t.Parallel()
	b := tab(t, 240, 120)
	for _, of := range []string{"alpha", "luma"} {
		for i, stops := range [][2]string{{"#000000ff", "#ffffffff"}, {"#ff0000ff", "#00ff00ff"}, {"#ffffff00", "#ffffffff"}, {"#ffc04080", "#2060ff80"}} {
			got := composed(t, 240, 120, fmt.Sprintf(`%s, {"id": "mask", "name": "M", "kind": "ground", "hidden": true, "gradient": {"kind": "linear", "plain": true, "from": [0, 0], "to": [1, 0], "stops": [{"at": 0, "colour": %q}, {"at": 1, "colour": %q}]}},
				{"id": "cut", "name": "C", "kind": "shape", "size": [200, 80], "fill": "#10305a", "matte": {"layer": "mask", "of": %q}}`, onWhite, stops[0], stops[1], of), nil)
			css := map[string]string{"alpha": "alpha", "luma": "luminance"}[of]
			want := svgImage(t, b, 240, 120, fmt.Sprintf(`<linearGradient id="g"><stop stop-color="%s"/><stop offset="1" stop-color="%s"/></linearGradient>
				<mask id="m" maskUnits="userSpaceOnUse" x="0" y="0" width="240" height="120" style="mask-type:%s"><rect width="240" height="120" fill="url(#g)"/></mask>
				<rect width="240" height="120" fill="#fff"/><g mask="url(#m)"><rect x="20" y="20" width="200" height="80" fill="#10305a"/></g>`, stops[0], stops[1], css))
			if r := judge(got, want, nil); r.worst > 3 {
				t.Errorf("%s of gradient %d: %v", of, i, r)
			}
		}
	}
}

// W3C CSS Images Level 3 and 4: linear, radial and conic gradients with several
// stops, some clear, premultiplied between them. Undithered here, as Chromium's
// are: 2/255; where two stops meet the sides may fall apart by a pixel, and are
// left out.
func TestGradientsAgreeWithCSS(t *testing.T) {
	t.Parallel()
	const w, h = 240, 160
	b := tab(t, w, h)
	stops := []struct {
		at float64
		c  string
	}{{0, "#ff4000ff"}, {0.3, "#20c06080"}, {0.55, "#00000000"}, {0.8, "#3060ffff"}, {1, "#ffe0a0ff"}}
	var ours, css, turns []string
	for _, s := range stops {
		ours = append(ours, fmt.Sprintf(`{"at": %g, "colour": %q}`, s.at, s.c))
		css = append(css, fmt.Sprintf("%s %g%%", s.c, s.at*100))
		turns = append(turns, fmt.Sprintf("%s %gdeg", s.c, s.at*360))
	}
	for _, c := range []struct {
		kind     string
		from, to [2]float64 // px
		css      string
	}{
		{"linear", [2]float64{0, 80}, [2]float64{240, 80}, "linear-gradient(90deg," + strings.Join(css, ",") + ")"},
		// 45° over 240 × 160: the line is |w sin| + |h cos| long.
		{"linear", [2]float64{120 - 100, 80 + 100}, [2]float64{120 + 100, 80 - 100}, "linear-gradient(45deg," + strings.Join(css, ",") + ")"},
		{"radial", [2]float64{90, 70}, [2]float64{190, 70}, "radial-gradient(circle 100px at 90px 70px," + strings.Join(css, ",") + ")"},
		{"conic", [2]float64{100, 90}, [2]float64{100, 0}, "conic-gradient(from 0deg at 100px 90px," + strings.Join(turns, ",") + ")"},
		{"conic", [2]float64{100, 90}, [2]float64{200, 90}, "conic-gradient(from 90deg at 100px 90px," + strings.Join(turns, ",") + ")"},
	} {
		got := composed(t, w, h, fmt.Sprintf(`%s, {"id": "g", "name": "G", "kind": "ground", "gradient": {"kind": %q, "plain": true, "from": [%g, %g], "to": [%g, %g], "stops": [%s]}}`,
			onWhite, c.kind, c.from[0]/w, c.from[1]/h, c.to[0]/w, c.to[1]/h, strings.Join(ours, ",")), nil)
		want := page(t, b, fmt.Sprintf(`<div style="width:%dpx;height:%dpx;background:%s"></div>`, w, h, c.css))
		seam := func(x, y int) bool { return false }
		if c.kind == "conic" { // where the round ends on its beginning, and its middle
			seam = func(x, y int) bool {
				dx, dy := float64(x)+0.5-c.from[0], float64(y)+0.5-c.from[1]
				ux, uy := c.to[0]-c.from[0], c.to[1]-c.from[1]
				n := math.Hypot(ux, uy)
				return math.Hypot(dx, dy) < 8 || math.Abs(dx*uy-dy*ux)/n < 1.5 && dx*ux+dy*uy > 0
			}
		}
		if r := judge(got, want, seam); r.worst > 2 {
			t.Errorf("%s: %v", c.css, r)
		}
	}
}

// pieces is a cubic Bézier curve as SVG path data in 32 shorter ones.
func pieces(x0, y0, x1, y1, x2, y2, x3, y3 float64) string {
	at := func(a, b, c, d, t float64) (p, v float64) {
		u := 1 - t
		return u*u*u*a + 3*u*u*t*b + 3*u*t*t*c + t*t*t*d, 3 * (u*u*(b-a) + 2*u*t*(c-b) + t*t*(d-c))
	}
	const n = 32
	out := ""
	for i := range n {
		t, e := float64(i)/n, float64(i+1)/n
		px, vx := at(x0, x1, x2, x3, t)
		py, vy := at(y0, y1, y2, y3, t)
		qx, wx := at(x0, x1, x2, x3, e)
		qy, wy := at(y0, y1, y2, y3, e)
		out += fmt.Sprintf(" C%.9f,%.9f %.9f,%.9f %.9f,%.9f", px+vx/3/n, py+vy/3/n, qx-wx/3/n, qy-wy/3/n, qx, qy)
	}
	return out
}

// SVG 1.1 fills and strokes, and CSS border-radius. The engine covers a pixel of
// an edge by its exact area (core/raster holds it to that within 6/255).
// Chromium does so for straight lines to 40/255 or better, but draws a curve,
// a round cap or a round join by a few pieces that lie up to a quarter of a
// pixel off. So the mean over the picture, most of which is inside or outside,
// is held to 0.3/255, and of curved outlines 0.4 % of all pixels may be further
// off than 24/255; a line in the wrong place by half a pixel makes ten times as
// many.
func TestOutlinesAgreeWithSVG(t *testing.T) {
	t.Parallel()
	const w, h = 300, 220
	b := tab(t, w, h)
	dark := "#14303a"
	points := func(n int, inner float64) string { // on the ellipse of a box of 200 × 160
		var out []string
		for i := range n {
			k := 1.0
			if inner < 1 && i%2 == 1 {
				k = inner
			}
			a := 2*math.Pi*float64(i)/float64(n) - math.Pi/2
			out = append(out, fmt.Sprintf("%.6f,%.6f", 150+100*k*math.Cos(a), 110+80*k*math.Sin(a)))
		}
		return strings.Join(out, " ")
	}
	// Three curves and a line, in a box of 200 × 160 at (50, 30).
	wave := `{"kind": "path", "open": %v, "path": [[0, 0.5, 0, 0, 0.1, -0.6], [0.4, 0.3, -0.1, -0.2, 0.2, 0.4], [0.8, 0.9, -0.2, 0.1, 0.1, -0.3], [1, 0.1, 0, 0, 0, 0]]}`
	// In 32 pieces each: Chromium measures the length of a curve, on which dashes
	// stand, to within half a pixel of its form only.
	wavePath := "M50,110" + pieces(50, 110, 70, 14, 110, 46, 130, 78) + pieces(130, 78, 170, 142, 170, 190, 210, 174) + pieces(210, 174, 230, 126, 250, 46, 250, 46)
	round := "M250,110"
	for i := 1; i <= 64; i++ {
		a := 2 * math.Pi * float64(i) / 64
		round += fmt.Sprintf(" A100,80 0 0 1 %.9f,%.9f", 150+100*math.Cos(a), 110+80*math.Sin(a))
	}
	shape := func(form, rest string) string {
		if form != "" {
			form = `"form": ` + form + ","
		}
		return fmt.Sprintf(`%s, {"id": "s", "name": "S", "kind": "shape", %s "size": [200, 160], %s}`, onWhite, form, rest)
	}
	fill := fmt.Sprintf(`"fill": %q`, dark)
	stroke := func(more string) string {
		return fmt.Sprintf(`"stroke": {"colour": %q, "width": 14%s}`, dark, more)
	}
	svg := func(s string) string { return `<rect width="100%" height="100%" fill="#fff"/>` + s }
	paint := fmt.Sprintf(`fill="%s"`, dark)
	line := fmt.Sprintf(`fill="none" stroke="%s" stroke-width="14"`, dark)
	for name, c := range map[string][2]string{
		"ellipse":               {shape(`{"kind": "ellipse"}`, fill), svg(`<path d="` + round + `Z" ` + paint + `/>`)},
		"round rectangle":       {shape("", fill+`, "radius": [10, 40, 0, 70]`), fmt.Sprintf(`<div style="position:absolute;left:50px;top:30px;width:200px;height:160px;background:%s;border-radius:10px 40px 0 70px"></div>`, dark)},
		"radii that do not fit": {shape("", fill+`, "radius": [120, 90, 200, 0]`), fmt.Sprintf(`<div style="position:absolute;left:50px;top:30px;width:200px;height:160px;background:%s;border-radius:120px 90px 200px 0"></div>`, dark)},
		"turned rectangle":      {shape("", fill+`, "turn": 31`), svg(`<rect x="50" y="30" width="200" height="160" transform="rotate(31 150 110)" ` + paint + `/>`)},
		"skewed rectangle":      {shape("", fill+`, "skew": [20, 0]`), svg(`<rect x="-100" y="-80" width="200" height="160" transform="translate(150 110) skewX(20)" ` + paint + `/>`)},
		"polygon":               {shape(`{"kind": "polygon", "sides": 7}`, fill), svg(`<polygon points="` + points(7, 1) + `" ` + paint + `/>`)},
		"star":                  {shape(`{"kind": "star", "sides": 6, "inner": 0.45}`, fill), svg(`<polygon points="` + points(12, 0.45) + `" ` + paint + `/>`)},
		"drawn path":            {shape(fmt.Sprintf(wave, false), fill), svg(`<path d="` + wavePath + ` Z" ` + paint + `/>`)},
		"crossing path":         {shape(`{"kind": "path", "path": [[0, 0], [1, 1], [1, 0], [0, 1], [0.5, -0.1]]}`, fill), svg(`<path d="M50,30 L250,190 L250,30 L50,190 L150,14 Z" ` + paint + `/>`)},
		"mitred stroke":         {shape(`{"kind": "star", "sides": 5, "inner": 0.5}`, stroke(`, "miter": 10`)), svg(`<polygon points="` + points(10, 0.5) + `" stroke-miterlimit="10" ` + line + `/>`)},
		"mitres cut off":        {shape(`{"kind": "star", "sides": 5, "inner": 0.3}`, stroke(`, "miter": 1.2`)), svg(`<polygon points="` + points(10, 0.3) + `" stroke-miterlimit="1.2" ` + line + `/>`)},
		"round joins":           {shape(`{"kind": "star", "sides": 5, "inner": 0.5}`, stroke(`, "join": "round"`)), svg(`<polygon points="` + points(10, 0.5) + `" stroke-linejoin="round" ` + line + `/>`)},
		"bevelled joins":        {shape(`{"kind": "star", "sides": 5, "inner": 0.5}`, stroke(`, "join": "bevel"`)), svg(`<polygon points="` + points(10, 0.5) + `" stroke-linejoin="bevel" ` + line + `/>`)},
		"butt caps":             {shape(fmt.Sprintf(wave, true), stroke("")), svg(`<path d="` + wavePath + `" ` + line + `/>`)},
		"round caps":            {shape(fmt.Sprintf(wave, true), stroke(`, "cap": "round", "join": "round"`)), svg(`<path d="` + wavePath + `" stroke-linecap="round" stroke-linejoin="round" ` + line + `/>`)},
		"square caps":           {shape(fmt.Sprintf(wave, true), stroke(`, "cap": "square"`)), svg(`<path d="` + wavePath + `" stroke-linecap="square" ` + line + `/>`)},
		"dashes":                {shape(fmt.Sprintf(wave, true), stroke(`, "dash": [30, 12, 6, 12], "shift": 9`)), svg(`<path d="` + wavePath + `" stroke-dasharray="30 12 6 12" stroke-dashoffset="9" ` + line + `/>`)},
		"round dashes":          {shape(fmt.Sprintf(wave, true), stroke(`, "dash": [1, 24], "cap": "round"`)), svg(`<path d="` + wavePath + `" stroke-dasharray="1 24" stroke-linecap="round" ` + line + `/>`)},
		"dashed ellipse":        {shape(`{"kind": "ellipse"}`, stroke(`, "dash": [26, 14]`)), svg(`<path d="` + round + `Z" stroke-dasharray="26 14" ` + line + `/>`)},
		"dashed rectangle":      {shape("", stroke(`, "dash": [26, 14]`)), svg(`<rect x="50" y="30" width="200" height="160" stroke-dasharray="26 14" ` + line + `/>`)},
		"part of a line":        {shape(fmt.Sprintf(wave, true), stroke(`, "from": 0.2, "to": 0.7`)), svg(`<path d="` + wavePath + `" pathLength="100" stroke-dasharray="50 100" stroke-dashoffset="-20" ` + line + `/>`)},
		"inside":                {shape("", stroke(`, "align": "inside"`)), svg(`<rect x="57" y="37" width="186" height="146" ` + line + `/>`)},
		"outside":               {shape("", stroke(`, "align": "outside"`)), svg(`<rect x="43" y="23" width="214" height="174" ` + line + `/>`)},
	} {
		draw := func() image.Image { return page(t, b, c[1]) }
		if !strings.HasPrefix(c[1], "<div") {
			draw = func() image.Image { return svgImage(t, b, w, h, c[1]) }
		}
		r := judge(composed(t, w, h, c[0], nil), draw(), nil)
		curved := strings.Contains(c[0], "path") || strings.Contains(c[0], "ellipse") || strings.Contains(c[0], "round") || strings.Contains(c[0], "radius")
		if r.mean > 0.3 || r.far > 0.004 || !curved && r.worst > 40 {
			t.Errorf("%s: %v", name, r)
		}
	}
}

// W3C CSS Transforms Level 2: a picture under a matrix3d with perspective.
// Chromium's DOMPoint tells where the corners go; the layer's corners are put
// there and its pixels compared. The picture is smooth, so that each side's
// filter stays within 4/255; the edge, which each covers in its own way, is
// left out.
func TestPerspectiveAgreesWithMatrix3d(t *testing.T) {
	t.Parallel()
	const w, h, pw, ph = 400, 300, 240, 180
	b := tab(t, w, h)
	img := smooth(pw, ph)
	src := only{s: raster.FromImage(img)}
	url := dataURL(t, img)
	for _, m := range []string{
		"translate(80px, 60px) perspective(500px) rotateY(40deg)",
		"translate(80px, 60px) perspective(300px) rotateX(-35deg) rotateZ(12deg)",
		"matrix3d(0.9, 0.1, 0, 0.0012, -0.15, 0.8, 0, -0.0008, 0, 0, 1, 0, 90, 70, 0, 1)",
	} {
		q := eval[[]float64](t, b, fmt.Sprintf(`(() => { document.body.innerHTML = '<div style="width:%dpx;height:%dpx;transform-origin:0 0;transform:%s"></div>';
			const m = new DOMMatrix(getComputedStyle(document.body.firstChild).transform);
			return [[0, 0], [%d, 0], [%d, %d], [0, %d]].flatMap(([x, y]) => { const p = m.transformPoint({x, y}); return [p.x / p.w, p.y / p.w] }) })()`, pw, ph, m, pw, pw, ph, ph))
		var corners []string
		for i, at := range [4][2]float64{{0, 0}, {pw, 0}, {pw, ph}, {0, ph}} {
			corners = append(corners, fmt.Sprintf("[%.9f, %.9f]", q[2*i]-at[0], q[2*i+1]-at[1]))
		}
		got := composed(t, w, h, fmt.Sprintf(`%s, {"id": "p", "name": "P", "kind": "picture", "media": "sha256:%064d", "anchor": "top left", "place": [0, 0], "corners": [%s]}`, onWhite, 0, strings.Join(corners, ",")), src)
		want := page(t, b, fmt.Sprintf(`<img src=%q style="position:absolute;left:0;top:0;transform-origin:0 0;transform:%s">`, url, m))
		edge := func(x, y int) bool {
			p := geom.Point{X: float64(x) + 0.5, Y: float64(y) + 0.5}
			for i := range 4 {
				a, c := geom.Point{X: q[2*i], Y: q[2*i+1]}, geom.Point{X: q[(2*i+2)%8], Y: q[(2*i+3)%8]}
				n := math.Hypot(c.X-a.X, c.Y-a.Y)
				if math.Abs((p.X-a.X)*(c.Y-a.Y)-(p.Y-a.Y)*(c.X-a.X))/n < 2 {
					return true
				}
			}
			return false
		}
		if r := judge(got, want, edge); r.worst > 4 {
			t.Errorf("%s: %v", m, r)
		}
	}
}
