package raster

import (
	"image"
	"image/draw"
	"math"

	"golang.org/x/image/vector"

	"ivypocket/core/geom"
)

// Coverage is coverage of a part of the device, 0 to 255 for each pixel; outside
// it nothing is covered.
type Coverage struct {
	X, Y, W, H int
	Pix        []uint8
	rows       []extent
}

// extent says of one row which pixels are touched, from lo up to hi, and which
// of those in one run are wholly covered, from a up to b.
type extent struct{ lo, a, b, hi int32 }

// Reset makes the plane hold a part of the device, keeping its memory. The
// coverage is left as it is.
func (p *Coverage) Reset(x, y, w, h int) {
	p.X, p.Y, p.W, p.H = x, y, max(0, w), max(0, h)
	if p.W == 0 || p.H == 0 {
		p.W, p.H = 0, 0 // no row is left with the extents it had
	}
	if n := p.W * p.H; cap(p.Pix) < n {
		// What grows from frame to frame should not be made anew each time.
		p.Pix = make([]uint8, n, n+n/8)
	} else {
		p.Pix = p.Pix[:n]
	}
	if cap(p.rows) < p.H {
		p.rows = make([]extent, p.H)
	}
	p.rows = p.rows[:p.H]
}

// Bytes is the memory the plane takes.
func (p *Coverage) Bytes() int { return cap(p.Pix) + 16*cap(p.rows) }

// At returns the coverage of a pixel of the device.
func (p *Coverage) At(x, y int) uint8 {
	if x < p.X || y < p.Y || x >= p.X+p.W || y >= p.Y+p.H {
		return 0
	}
	return p.Pix[(y-p.Y)*p.W+x-p.X]
}

// measure finds every row's extents, eight pixels at a time where it can.
func (p *Coverage) measure() {
	for y := range p.rows {
		row := p.Pix[y*p.W : (y+1)*p.W]
		lo, hi := run(row, 0, 0), len(row)
		for hi >= lo+8 && loadPair(row, hi-8) == 0 {
			hi -= 8
		}
		for hi > lo && row[hi-1] == 0 {
			hi--
		}
		a := lo
		for a < hi && row[a] != 255 {
			a++
		}
		b := run(row[:hi], a, 255)
		p.rows[y] = extent{int32(p.X + lo), int32(p.X + a), int32(p.X + b), int32(p.X + hi)}
	}
}

// run is where a run of one value ends that begins at i.
func run(row []uint8, i int, value uint8) int {
	eight := uint64(value) * 0x0101010101010101
	for i+8 <= len(row) && loadPair(row, i) == eight {
		i += 8
	}
	for i < len(row) && row[i] == value {
		i++
	}
	return i
}

// extent returns a row's extents; off the plane all are empty.
func (p *Coverage) extent(y int) extent {
	if y < p.Y || y >= p.Y+p.H {
		return extent{}
	}
	return p.rows[y-p.Y]
}

// Filler turns outlines into coverage. It may be used again; it is not safe for
// use by several goroutines.
type Filler struct {
	v         *vector.Rasterizer
	room      int // pixels that it has had memory for
	spare     Coverage
	field     field
	shapes    geom.Contours
	more      geom.Contours
	pen       geom.Contours
	crossings [][]crossing // of the rows of a grid of distances
}

// smallRaster is the largest side with which the rasterizer reckons in whole numbers,
// in other memory (floatingPointMathThreshold in its source).
const smallRaster = 512

// Within returns the whole pixels of a surface of w×h that a box touches.
func Within(b geom.Box, w, h int) (x0, y0, x1, y1 int) {
	return bound(math.Floor(b.X), w), bound(math.Floor(b.Y), h), bound(math.Ceil(b.X+b.W), w), bound(math.Ceil(b.Y+b.H), h)
}

// fill makes a plane of the lines' inside by the non-zero rule, within the
// pixels from (x0, y0) to (x1, y1). Coverage is the exact area of the inside.
func (f *Filler) fill(p *Coverage, c *geom.Contours, x0, y0, x1, y1 int) {
	b := c.Bounds()
	x0, y0 = max(x0, int(math.Max(math.Floor(b.X), math.MinInt32))), max(y0, int(math.Max(math.Floor(b.Y), math.MinInt32)))
	x1, y1 = min(x1, int(math.Min(math.Ceil(b.X+b.W), math.MaxInt32))), min(y1, int(math.Min(math.Ceil(b.Y+b.H), math.MaxInt32)))
	p.Reset(x0, y0, x1-x0, y1-y0)
	if p.W == 0 || p.H == 0 {
		return
	}
	if f.v == nil {
		f.v = &vector.Rasterizer{}
	}
	if n := p.W * p.H; n > f.room && max(p.W, p.H) > smallRaster {
		// Its memory, with some to spare: it keeps what it has.
		f.room = n + n/8
		f.v.Reset(f.room, 1)
	}
	f.v.Reset(p.W, p.H)
	f.v.DrawOp = draw.Src // the plane's old coverage does not matter
	for i := range c.Ends {
		f.line(c.Line(i), float64(x0), float64(y0), float64(p.W), float64(p.H))
	}
	f.v.Draw(&image.Alpha{Pix: p.Pix, Stride: p.W, Rect: image.Rect(0, 0, p.W, p.H)}, image.Rect(0, 0, p.W, p.H), image.Opaque, image.Point{})
	p.measure()
}

// maxRise is the height in pixels of the longest piece of a line that is given
// to the rasterizer. It works with 9 bits after the point and adds up a slope
// rounded to them row by row, so that a line of 160 rows ends as much as a
// sixth of a pixel off; one of 16 rows a sixtieth.
const maxRise = 16

// line gives a closed line to the rasterizer, cut at the plane's top and bottom
// and pressed against its sides: what lies left of it still winds round its
// pixels, what lies right of it does not.
func (f *Filler) line(l []geom.Point, ox, oy, w, h float64) {
	if len(l) < 2 {
		return
	}
	begun := false
	var px, py float64
	put := func(x, y float64) {
		if !begun {
			f.v.MoveTo(float32(x), float32(y))
			begun = true
		} else if n := math.Ceil(math.Abs(y-py) / maxRise); n <= 1 {
			f.v.LineTo(float32(x), float32(y))
		} else {
			for k := 1.0; k <= n; k++ {
				f.v.LineTo(float32(px+(x-px)*k/n), float32(py+(y-py)*k/n))
			}
		}
		px, py = x, y
	}
	for i := range l {
		a, b := l[i], l[(i+1)%len(l)]
		a.X, a.Y, b.X, b.Y = a.X-ox, a.Y-oy, b.X-ox, b.Y-oy
		// Above and below the plane the line runs along its edge.
		var cuts [5]float64
		n := 1
		for _, edge := range [4]struct{ at, from, to float64 }{{0, a.Y, b.Y}, {h, a.Y, b.Y}, {0, a.X, b.X}, {w, a.X, b.X}} {
			if (edge.from < edge.at) != (edge.to < edge.at) {
				t := (edge.at - edge.from) / (edge.to - edge.from)
				// Kept in order; there are at most four.
				k := n
				for k > 1 && cuts[k-1] > t {
					cuts[k] = cuts[k-1]
					k--
				}
				cuts[k] = t
				n++
			}
		}
		for k := range n {
			t := cuts[k]
			put(math.Max(0, math.Min(w, a.X+(b.X-a.X)*t)), math.Max(0, math.Min(h, a.Y+(b.Y-a.Y)*t)))
		}
		put(math.Max(0, math.Min(w, b.X)), math.Max(0, math.Min(h, b.Y)))
	}
	if begun {
		f.v.ClosePath()
	}
}

// Tolerance is how far straight pieces may depart from a curve on the device,
// in pixels: too little to change coverage by 1/255 on most pixels.
const Tolerance = 0.02

// outline makes a form's lines on the device.
func (f *Filler) outline(form *geom.Form, m geom.Projective) {
	f.shapes.Reset()
	form.Contours(&f.shapes, &f.more, f.tolerance(form, m))
	f.shapes.Map(m)
}

func (f *Filler) tolerance(form *geom.Form, m geom.Projective) float64 {
	sx, sy := m.Stretch(geom.Box{W: form.Size.W, H: form.Size.H})
	return Tolerance / math.Max(math.Max(sx, sy), 1e-9)
}

// Fill makes a plane of a form's inside, within a box of a w×h device.
func (f *Filler) Fill(p *Coverage, form *geom.Form, m geom.Projective, box geom.Box, w, h int) {
	f.outline(form, m)
	x0, y0, x1, y1 := Within(box, w, h)
	f.fill(p, &f.shapes, x0, y0, x1, y1)
}

// Quad makes a plane of a quadrilateral's inside.
func (f *Filler) Quad(p *Coverage, q [4]geom.Point, box geom.Box, w, h int) {
	f.shapes.Reset()
	f.shapes.Points = append(f.shapes.Points, q[:]...)
	f.shapes.Ends, f.shapes.Closed = append(f.shapes.Ends, 4), append(f.shapes.Closed, true)
	x0, y0, x1, y1 := Within(box, w, h)
	f.fill(p, &f.shapes, x0, y0, x1, y1)
}

// Line says how a stroke runs along an outline.
type Line struct {
	Pen   geom.Pen
	Align int8 // -1 inside the outline, 0 on it, 1 outside
	Dash  []float64
	Shift float64
	Part  [2]float64 // shares of the outline's length
}

// Stroke makes a plane of a line along a form's outline. A line inside or
// outside is one of twice the width, cut by the outline.
func (f *Filler) Stroke(p *Coverage, form *geom.Form, m geom.Projective, l Line, box geom.Box, w, h int) {
	tol := f.tolerance(form, m)
	f.shapes.Reset()
	form.Contours(&f.shapes, &f.more, tol)
	from, to := &f.shapes, &f.more
	if l.Part[0] > 0 || l.Part[1] < 1 {
		from.Part(to, l.Part[0], l.Part[1])
		from, to = to, from
	}
	if len(l.Dash) > 0 {
		from.Dash(to, l.Dash, l.Shift)
		from = to
	}
	pen := l.Pen
	if l.Align != 0 {
		pen.Width *= 2
	}
	f.pen.Reset()
	from.Stroke(&f.pen, pen, tol)
	f.pen.Map(m)
	x0, y0, x1, y1 := Within(box, w, h)
	f.fill(p, &f.pen, x0, y0, x1, y1)
	if l.Align == 0 {
		return
	}
	f.outline(form, m)
	f.fill(&f.spare, &f.shapes, p.X, p.Y, p.X+p.W, p.Y+p.H)
	for y := range p.H {
		row := p.Pix[y*p.W : (y+1)*p.W]
		for x := range row {
			c := uint32(f.spare.At(p.X+x, p.Y+y))
			if l.Align > 0 {
				c = 255 - c
			}
			row[x] = mul255(uint32(row[x]), c)
		}
	}
	p.measure()
}
