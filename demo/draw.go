// Package demo draws and seeds the made-up festival that shows the product:
// Saltmarsh Kite Week. Every picture, clip and mark is drawn by the code here,
// so nothing in it belongs to anybody else.
package demo

import (
	"image"
	"image/color"
	"math"
	"math/rand/v2"

	"golang.org/x/image/vector"

	"ivypocket/core/raster"
)

type rgb [3]float64

func hex(v uint32) rgb {
	return rgb{float64(v >> 16 & 255), float64(v >> 8 & 255), float64(v & 255)}
}

func (a rgb) mix(b rgb, t float64) rgb {
	if t <= 0 {
		t = 0
	} else if t > 1 {
		t = 1
	}
	return rgb{a[0] + (b[0]-a[0])*t, a[1] + (b[1]-a[1])*t, a[2] + (b[2]-a[2])*t}
}

// coast is a view of the marsh: a sky, a light in it, dunes before it, kites.
type coast struct {
	top, low    rgb // of the sky
	sun         rgb
	sunX, sunY  float64 // shares of the picture
	sunSize     float64
	dunes       []rgb // from far to near
	dunesAt     float64
	seed        uint64
	kites       []kite
	reeds       bool
	hazeFromSun float64
}

// kite is a diamond with a tail, at a share of the picture.
type kite struct {
	x, y, size, lean float64
	a, b             uint32
}

// draw paints the view once.
func (c coast) draw(w, h int) *image.RGBA {
	rng := rand.New(rand.NewPCG(c.seed, 7))
	return c.before(c.ground(c.light(w, h, false), 0, rng), 0, rng)
}

// film paints the view at instants, in seconds. Sky and dunes, which are soft, are drawn at
// half the size, and what of them stands still is worked out once.
func (c coast) film(w, h int) func(t float64) *image.RGBA {
	l := c.light(w/2, h/2, true)
	return func(t float64) *image.RGBA {
		rng := rand.New(rand.NewPCG(c.seed, 7))
		return c.before(raster.FromImage(c.ground(l, t, rng)).Resize(w, h).Image(), t, rng)
	}
}

// before puts what stands before the ground on it.
func (c coast) before(img *image.RGBA, t float64, rng *rand.Rand) *image.RGBA {
	if c.reeds {
		c.drawReeds(img, rng, t)
	}
	for i, k := range c.kites {
		k.x += 0.03 * math.Sin(t*0.9+float64(i)*2.1)
		k.y += 0.025 * math.Sin(t*1.3+float64(i)*1.1)
		k.lean += 0.16 * math.Sin(t*1.1+float64(i))
		k.draw(img, t+float64(i))
	}
	return img
}

// light is the sky without its clouds, which stands still.
type light struct {
	coast
	w, h int
	rows [][]rgb // those that are kept
	row  []rgb   // where none are
}

func (c coast) light(w, h int, kept bool) *light {
	l := &light{coast: c, w: w, h: h}
	if kept {
		l.rows = make([][]rgb, h)
	} else {
		l.row = make([]rgb, w)
	}
	return l
}

// at returns a row of it.
func (l *light) at(y int) []rgb {
	row := l.row
	if l.rows != nil {
		if l.rows[y] != nil {
			return l.rows[y]
		}
		row = make([]rgb, l.w)
		l.rows[y] = row
	}
	aspect := float64(l.w) / float64(l.h)
	v := (float64(y) + 0.5) / float64(l.h)
	sky := l.top.mix(l.low, math.Pow(v/math.Max(0.05, l.dunesAt), 1.3))
	for x := range row {
		u := (float64(x) + 0.5) / float64(l.w)
		d := math.Hypot((u-l.sunX)*aspect, v-l.sunY)
		row[x] = sky.mix(l.sun, l.hazeFromSun*math.Exp(-d*d/0.12))
		if d < l.sunSize {
			row[x] = row[x].mix(l.sun, math.Min(1, (l.sunSize-d)*float64(l.h)/2))
		}
	}
	return row
}

// ground paints sky and dunes.
func (c coast) ground(l *light, t float64, rng *rand.Rand) *image.RGBA {
	w, h := l.w, l.h
	img := image.NewRGBA(image.Rect(0, 0, w, h))
	aspect := float64(w) / float64(h)
	ridges := make([][]float64, len(c.dunes))
	for i := range c.dunes {
		ridges[i] = make([]float64, w)
		p1, p2, p3 := rng.Float64()*6, rng.Float64()*6, rng.Float64()*6
		base := c.dunesAt + (1-c.dunesAt)*float64(i)/float64(len(c.dunes))*0.9
		for x := range w {
			u := float64(x)/float64(w)*aspect + t*0.012*float64(i+1)
			ridges[i][x] = base + 0.045*math.Sin(u*2.3+p1) + 0.02*math.Sin(u*5.1+p2) + 0.006*math.Sin(u*17+p3)
		}
	}
	noise := make([]float64, 4096)
	for i := range noise {
		noise[i] = rng.Float64() - 0.5
	}
	// What depends on the column alone.
	sway, ripple := make([]float64, w), make([]float64, w)
	for x := range w {
		u := (float64(x) + 0.5) / float64(w)
		sway[x], ripple[x] = 1.7*math.Sin(u*3+t*0.05+float64(c.seed)), 7*math.Sin(u*9)
	}
	near := len(ridges) - 1
	for y := range h {
		v := (float64(y) + 0.5) / float64(h)
		row := l.at(y)
		for x := range w {
			px := row[x]
			i := near // the nearest dune that hides the sky
			for i >= 0 && !(v > ridges[i][x]) {
				i--
			}
			if i >= 0 {
				r := ridges[i]
				lit := 0.0
				if x > 0 {
					lit = (r[x] - r[x-1]) * float64(w) * 0.9
				}
				px = c.dunes[i].mix(c.sun, math.Max(0, 0.25*lit)).mix(rgb{10, 18, 26}, 0.35*((v-r[x])/0.35))
				if i == near {
					px = px.mix(rgb{255, 255, 255}, 0.02*math.Sin((v*160+ripple[x])*2))
				}
			} else if v < c.dunesAt { // long thin clouds
				const rare = 0.72 // both waves are beyond it where there is one
				if a := math.Sin(v*38 + sway[x]); a > rare || a < -rare {
					u := (float64(x) + 0.5) / float64(w)
					if band := a*math.Sin(u*4.3+v*9+float64(c.seed)*1.3) - rare; band > 0 {
						px = px.mix(c.sun, band*1.6)
					}
				}
			}
			n := noise[(x*131+y*977)&4095] * 2.4
			o := img.PixOffset(x, y)
			for k := range 3 {
				img.Pix[o+k] = byteOf(px[k] + n + 0.5)
			}
			img.Pix[o+3] = 255
		}
	}
	return img
}

// byteOf is a level without its fraction, held within what a byte has.
func byteOf(v float64) uint8 {
	switch {
	case v <= 0:
		return 0
	case v >= 255:
		return 255
	}
	return uint8(v)
}

func (c coast) drawReeds(img *image.RGBA, rng *rand.Rand, t float64) {
	w, h := float64(img.Rect.Dx()), float64(img.Rect.Dy())
	p := newPen(img)
	for range 90 {
		x, tall := rng.Float64()*w, (0.08+0.16*rng.Float64())*h
		bend := (0.02 + 0.03*rng.Float64()) * h * (1 + 0.4*math.Sin(t*1.4+x/w*9))
		th := 0.0016 * h * (1 + rng.Float64())
		p.move(x-th, h)
		p.curve(x-th, h-tall*0.6, x+bend, h-tall)
		p.curve(x+th*1.6, h-tall*0.6, x+th*1.6, h)
	}
	p.fill(color.RGBA{24, 34, 30, 255})
}

func (k kite) draw(img *image.RGBA, t float64) {
	w, h := float64(img.Rect.Dx()), float64(img.Rect.Dy())
	s := k.size * math.Min(w, h)
	cx, cy := k.x*w, k.y*h
	sin, cos := math.Sincos(k.lean)
	at := func(x, y float64) (float64, float64) { return cx + s*(x*cos-y*sin), cy + s*(x*sin+y*cos) }
	tri := func(c uint32, pts ...float64) {
		p := newPen(img)
		for i := 0; i < len(pts); i += 2 {
			x, y := at(pts[i], pts[i+1])
			if i == 0 {
				p.move(x, y)
			} else {
				p.line(x, y)
			}
		}
		p.fill(color.RGBA{uint8(c >> 16), uint8(c >> 8), uint8(c), 255})
	}
	// The tail, a ribbon that waves.
	for i := range 26 {
		u, v := float64(i)/26, float64(i+1)/26
		wave := func(u float64) float64 { return 0.16 * u * math.Sin(u*11-t*3) }
		c := k.a
		if i%4 < 2 {
			c = k.b
		}
		th := 0.022 * (1 - u*0.6)
		tri(c, wave(u)-th, 1+u*1.7, wave(u)+th, 1+u*1.7, wave(v)+th, 1+v*1.7, wave(v)-th, 1+v*1.7)
	}
	tri(k.a, 0, -1, 0.62, -0.2, 0, -0.2)
	tri(k.b, 0, -1, 0, -0.2, -0.62, -0.2)
	tri(k.b, 0.62, -0.2, 0, 1, 0, -0.2)
	tri(k.a, -0.62, -0.2, 0, -0.2, 0, 1)
}

// pen fills outlines. It keeps their points until they are filled, so that
// only the part of the picture they reach is touched.
type pen struct {
	img            *image.RGBA
	pts            []float64 // x, y of every point in order
	ops            []byte    // m, l, q, c
	x0, y0, x1, y1 float64
}

func newPen(img *image.RGBA) *pen {
	return &pen{img: img, x0: math.Inf(1), y0: math.Inf(1), x1: math.Inf(-1), y1: math.Inf(-1)}
}

func (p *pen) add(op byte, pts ...float64) {
	p.ops = append(p.ops, op)
	p.pts = append(p.pts, pts...)
	for i := 0; i < len(pts); i += 2 {
		p.x0, p.x1 = math.Min(p.x0, pts[i]), math.Max(p.x1, pts[i])
		p.y0, p.y1 = math.Min(p.y0, pts[i+1]), math.Max(p.y1, pts[i+1])
	}
}

func (p *pen) move(x, y float64)             { p.add('m', x, y) }
func (p *pen) line(x, y float64)             { p.add('l', x, y) }
func (p *pen) curve(cx, cy, x, y float64)    { p.add('q', cx, cy, x, y) }
func (p *pen) cube(a, b, c, d, x, y float64) { p.add('c', a, b, c, d, x, y) }

func (p *pen) fill(c color.Color) {
	box := image.Rect(int(math.Floor(p.x0)), int(math.Floor(p.y0)), int(math.Ceil(p.x1))+1, int(math.Ceil(p.y1))+1).Intersect(p.img.Rect)
	if box.Empty() {
		return
	}
	r := vector.NewRasterizer(box.Dx(), box.Dy())
	i := 0
	next := func() (x, y float32) {
		x, y = float32(p.pts[i]-float64(box.Min.X)), float32(p.pts[i+1]-float64(box.Min.Y))
		i += 2
		return
	}
	for k, op := range p.ops {
		switch op {
		case 'm':
			if k > 0 {
				r.ClosePath()
			}
			r.MoveTo(next())
		case 'l':
			r.LineTo(next())
		case 'q':
			ax, ay := next()
			bx, by := next()
			r.QuadTo(ax, ay, bx, by)
		case 'c':
			ax, ay := next()
			bx, by := next()
			cx, cy := next()
			r.CubeTo(ax, ay, bx, by, cx, cy)
		}
	}
	r.ClosePath()
	r.Draw(p.img, box, image.NewUniform(c), image.Point{})
}

// The four winds, and more of the coast to swap in.
var coasts = map[string]coast{
	"dawn": {top: hex(0x5b7fa6), low: hex(0xf3c9a0), sun: hex(0xfff0cf), sunX: 0.3, sunY: 0.55, sunSize: 0.05, hazeFromSun: 0.6,
		dunes: []rgb{hex(0xa78d86), hex(0x7d6b66), hex(0x4d4a4c)}, dunesAt: 0.68, seed: 3,
		kites: []kite{{0.66, 0.3, 0.13, 0.3, 0xb4492b, 0xf3e3c3}, {0.42, 0.17, 0.06, -0.2, 0x1e5f6b, 0xe9d8a8}}},
	"noon": {top: hex(0x2f7fb5), low: hex(0xbfe0ea), sun: hex(0xffffff), sunX: 0.8, sunY: 0.12, sunSize: 0.04, hazeFromSun: 0.5,
		dunes: []rgb{hex(0xe7d3a2), hex(0xd9bc80), hex(0xc39f62)}, dunesAt: 0.66, seed: 11,
		kites: []kite{{0.36, 0.36, 0.16, -0.35, 0xd98d1c, 0x7b3f66}, {0.7, 0.3, 0.08, 0.2, 0x2e6b4e, 0xf4efdf}}},
	"squall": {top: hex(0x2b3a44), low: hex(0x9fb1ad), sun: hex(0xdfe6da), sunX: 0.55, sunY: 0.45, sunSize: 0, hazeFromSun: 0.45,
		dunes: []rgb{hex(0x72807a), hex(0x55645f), hex(0x39453f)}, dunesAt: 0.6, seed: 23, reeds: true,
		kites: []kite{{0.55, 0.33, 0.15, 0.55, 0xc7502f, 0xe8c15a}}},
	"dusk": {top: hex(0x2a2547), low: hex(0xe2774f), sun: hex(0xffc37a), sunX: 0.62, sunY: 0.6, sunSize: 0.07, hazeFromSun: 0.7,
		dunes: []rgb{hex(0x5d3b4c), hex(0x3b2a3b), hex(0x1f1b28)}, dunesAt: 0.7, seed: 31, reeds: true,
		kites: []kite{{0.3, 0.3, 0.14, -0.25, 0x1d6f74, 0xf2d9a6}, {0.76, 0.22, 0.07, 0.35, 0xa33d52, 0xf6e8cf}}},
	"marsh": {top: hex(0x6b8f7a), low: hex(0xdfe3b5), sun: hex(0xfdfbe0), sunX: 0.5, sunY: 0.5, sunSize: 0.03, hazeFromSun: 0.6,
		dunes: []rgb{hex(0x8ba06b), hex(0x647a4b), hex(0x3f5233)}, dunesAt: 0.55, seed: 47, reeds: true,
		kites: []kite{{0.5, 0.28, 0.1, 0.1, 0x7b3f66, 0xf0d489}}},
	"night": {top: hex(0x060b18), low: hex(0x1c2f49), sun: hex(0xd8e2f0), sunX: 0.74, sunY: 0.2, sunSize: 0.045, hazeFromSun: 0.35,
		dunes: []rgb{hex(0x16202d), hex(0x0f1721), hex(0x090d14)}, dunesAt: 0.72, seed: 59,
		kites: []kite{{0.34, 0.36, 0.12, 0.2, 0xe0a63a, 0x4d7ea8}}},
}
