package raster

import (
	"math"

	"ivypocket/core/geom"
)

// clip is a rounded box and what share of each pixel it covers. Straight
// edges are covered by exact area; along the round corners coverage falls off
// over one pixel across the outline, which differs from exact area by less
// than 0.03 for radii above 2 px.
type clip struct {
	box    geom.Box
	r      float64
	x0, x1 int // pixels touched, x1 excluded
	y0, y1 int
	cx, cy float64
	innerX float64 // half the width less the radius
	innerY float64
	shut   bool
}

func newClip(b geom.Box, radius float64, w, h int) clip {
	c := clip{box: b, r: math.Max(0, math.Min(radius, math.Min(b.W, b.H)/2))}
	if !(b.W > 0 && b.H > 0) {
		c.shut = true
		return c
	}
	c.x0, c.x1 = bound(math.Floor(b.X), w), bound(math.Ceil(b.X+b.W), w)
	c.y0, c.y1 = bound(math.Floor(b.Y), h), bound(math.Ceil(b.Y+b.H), h)
	c.shut = c.x0 >= c.x1 || c.y0 >= c.y1
	m := b.Centre()
	c.cx, c.cy = m.X, m.Y
	c.innerX, c.innerY = b.W/2-c.r, b.H/2-c.r
	return c
}

func bound(v float64, n int) int { return int(math.Max(0, math.Min(v, float64(n)))) }

// row returns the pixels of a row that are touched, and among them those
// that are wholly covered, as half-open ranges. wholeA ≥ wholeB means none is.
func (c *clip) row(y int) (a, wholeA, wholeB, b int) {
	top, bottom := c.box.Y, c.box.Y+c.box.H
	fy := float64(y)
	if fy < top-1e-9 || fy+1 > bottom+1e-9 {
		return c.x0, c.x1, c.x1, c.x1
	}
	inset := 0.0
	// dy is how far into a corner's zone the row's outer side reaches.
	dy := math.Max(c.cy-c.innerY-fy, fy+1-(c.cy+c.innerY))
	if c.r > 0 && dy > 0 {
		inset = c.r
		if d := c.r*c.r - dy*dy; d > 0 {
			inset = c.r - math.Sqrt(d)
		}
		inset += 1.5
	}
	wholeA = max(c.x0, int(math.Ceil(c.box.X+inset-1e-9)))
	wholeB = min(c.x1, int(math.Floor(c.box.X+c.box.W-inset+1e-9)))
	if wholeA >= wholeB {
		return c.x0, c.x1, c.x1, c.x1
	}
	return c.x0, wholeA, wholeB, c.x1
}

// coverage is the share of a pixel inside the box, 0 to 255.
func (c *clip) coverage(x, y int) uint32 {
	if c.r > 0 {
		qx := math.Abs(float64(x)+0.5-c.cx) - c.innerX
		qy := math.Abs(float64(y)+0.5-c.cy) - c.innerY
		if qx > 0 && qy > 0 {
			return share(c.r - math.Hypot(qx, qy) + 0.5)
		}
	}
	return share(overlap(float64(x), c.box.X, c.box.X+c.box.W) * overlap(float64(y), c.box.Y, c.box.Y+c.box.H))
}

// overlap is the length common to the pixel [p, p+1] and the span [a, b].
func overlap(p, a, b float64) float64 { return math.Min(p+1, b) - math.Max(p, a) }

func share(v float64) uint32 { return uint32(math.Max(0, math.Min(1, v))*255 + 0.5) }

// Cut is what something is drawn within: upright boxes, whose coverage is
// computed on the way, and coverage made beforehand. The zero value is
// everything.
type Cut struct {
	boxes  [2]clip
	nBoxes int
	planes [4]*Coverage
	nPlane int
	// What is drawn over later, by row from hidden0 on.
	hidden  []Span
	hidden0 int
}

// Span is a run of pixels of a row, from one up to another.
type Span struct{ From, To int32 }

// Join makes a span that holds as much as it can of two: both when they touch, or
// else the longer one.
func (s Span) Join(o Span) Span {
	if s.From >= s.To || o.From < o.To && o.To-o.From > s.To-s.From && (o.From > s.To || s.From > o.To) {
		return o
	}
	if o.From >= o.To || o.From > s.To || s.From > o.To {
		return s
	}
	return Span{min(s.From, o.From), max(s.To, o.To)}
}

// Reset opens the cut again.
func (c *Cut) Reset() { c.nBoxes, c.nPlane, c.hidden = 0, 0, nil }

// Hide tells of pixels that will be drawn over, a span for each row from y on: they
// need not be drawn.
func (c *Cut) Hide(y int, spans []Span) { c.hidden0, c.hidden = y, spans }

// Whole returns which pixels of a row of w are wholly covered.
func (c *Cut) Whole(y, w int) Span {
	e := c.extent(y, w)
	return Span{e.a, max(e.a, e.b)}
}

// seen divides an extent by what is hidden of its row.
func (c *Cut) seen(y int, e extent) (left, right extent) {
	k := y - c.hidden0
	if k < 0 || k >= len(c.hidden) {
		return e, extent{}
	}
	h := c.hidden[k]
	if h.From >= h.To || h.From >= e.hi || h.To <= e.lo {
		return e, extent{}
	}
	return extent{e.lo, min(e.a, h.From), min(e.b, h.From), h.From}, extent{h.To, max(e.a, h.To), max(e.b, h.To), e.hi}
}

// Box keeps what lies within a rounded box on a w×h device. There is room for two.
func (c *Cut) Box(b geom.Box, radius float64, w, h int) {
	c.boxes[c.nBoxes] = newClip(b, radius, w, h)
	c.nBoxes++
}

// Cover keeps what is covered. There is room for four.
func (c *Cut) Cover(p *Coverage) {
	c.planes[c.nPlane] = p
	c.nPlane++
}

// row writes the shares of the pixels of a row of w pixels that are covered in
// part, and says which are touched and which wholly covered.
func (c *Cut) row(y, w int, cov []uint8) extent {
	e := c.extent(y, w)
	c.edges(y, e, cov)
	return e
}

// edges writes the shares of the pixels of an extent that are covered in part.
func (c *Cut) edges(y int, e extent, cov []uint8) {
	c.part(y, int(e.lo), int(min(e.a, e.hi)), cov)
	c.part(y, int(max(e.b, e.lo)), int(e.hi), cov)
}

// extent says which pixels of a row are touched and which wholly covered.
func (c *Cut) extent(y, w int) extent {
	e := extent{0, 0, int32(w), int32(w)}
	join := func(o extent) {
		e.lo, e.hi = max(e.lo, o.lo), min(e.hi, o.hi)
		e.a, e.b = max(e.a, o.a), min(e.b, o.b)
	}
	for i := range c.nBoxes {
		k := &c.boxes[i]
		if k.shut || y < k.y0 || y >= k.y1 {
			return extent{}
		}
		lo, a, b, hi := k.row(y)
		join(extent{int32(lo), int32(a), int32(b), int32(hi)})
	}
	for i := range c.nPlane {
		join(c.planes[i].extent(y))
	}
	if e.lo >= e.hi {
		return extent{}
	}
	if e.a >= e.b {
		e.a, e.b = e.hi, e.hi
	}
	return e
}

func (c *Cut) part(y, x0, x1 int, cov []uint8) {
	if x0 >= x1 {
		return
	}
	to := cov[x0:x1]
	for i := range to {
		to[i] = 255
	}
	for i := range c.nBoxes {
		k := &c.boxes[i]
		_, a, b, _ := k.row(y)
		edge := func(from, end int) {
			for x := max(from, x0); x < min(end, x1); x++ {
				v := k.coverage(x, y)
				if i > 0 {
					v = uint32(mul255(uint32(to[x-x0]), v))
				}
				to[x-x0] = uint8(v)
			}
		}
		edge(x0, a)
		edge(max(a, b), x1)
	}
	for i := range c.nPlane {
		p := c.planes[i]
		mulCover(to, p.Pix[(y-p.Y)*p.W+x0-p.X:])
	}
}
