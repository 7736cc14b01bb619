package raster

import (
	"math"

	"ivypocket/core/geom"
	"ivypocket/core/timing"
)

// MaskMode is how a mask joins those before it.
type MaskMode uint8

const (
	AddMask MaskMode = iota
	SubtractMask
	IntersectMask
)

// ParseMaskMode reads a mode's name; any other is add.
func ParseMaskMode(name string) MaskMode {
	switch name {
	case "subtract":
		return SubtractMask
	case "intersect":
		return IntersectMask
	}
	return AddMask
}

// Soft is the edge of a mask, in device pixels: how far it reaches inwards and
// outwards from the outline, how far that is grown, and the way from clear to
// full across it.
type Soft struct {
	In, Out, Growth float64
	Falloff         timing.Easing
}

// Hard reports whether the edge is the outline itself: neither soft nor grown.
func (s Soft) Hard() bool { return s.In == 0 && s.Out == 0 && s.Growth == 0 }

// Mask makes a plane of a form with a soft edge.
//
// A soft or grown edge is a function of the distance from the outline, so it
// is 0 exactly where the feather ends and full where it begins. Distances are
// measured on a grid as coarse as the feather allows: a step of it changes the
// coverage by less than a twelfth, and between its points it is nearly straight.
func (f *Filler) Mask(p *Coverage, form *geom.Form, m geom.Projective, s Soft, box geom.Box, w, h int) {
	if s.Hard() {
		f.Fill(p, form, m, box, w, h)
		return
	}
	f.outline(form, m)
	if form.Kind == geom.Drawn { // one that crosses itself is soft at its edge alone
		f.shapes.Edge()
	}
	width := s.In + s.Out
	step := math.Max(1, math.Floor(width/12))
	reach := math.Max(math.Abs(s.Growth-s.In), math.Abs(s.Growth+s.Out)) + 2*step + 1
	b := f.shapes.Bounds()
	out := math.Max(0, s.Growth+s.Out) + 1
	x0, y0, x1, y1 := Within(geom.Box{X: b.X - out, Y: b.Y - out, W: b.W + 2*out, H: b.H + 2*out}.Intersect(box), w, h)
	p.Reset(x0, y0, x1-x0, y1-y0)
	if p.W == 0 || p.H == 0 {
		return
	}
	f.distances(x0, y0, x1, y1, step, reach)
	var ramp [1025]uint8
	for i := range ramp {
		t := float64(i) / 1024
		ramp[i] = uint8(math.Max(0, math.Min(1, s.Falloff.At(t)))*255 + 0.5)
	}
	// From where on all is inside the soft edge, and from where on outside.
	full, none := s.In-s.Growth+0.01, -s.Out-s.Growth-0.01
	if width < 1 { // an edge, grown
		ramp[0], ramp[1024] = 0, 255
		full, none = 1-s.Growth, -1-s.Growth
	}
	// d is the distance inwards from the outline.
	g := &f.field
	for y := range p.H {
		row := p.Pix[y*p.W : (y+1)*p.W]
		fy := (float64(y) + 0.5) / step
		gy := min(int(fy), g.h-2)
		ty := float32(fy) - float32(gy)
		top, bottom := g.d[gy*g.w:(gy+1)*g.w], g.d[(gy+1)*g.w:(gy+2)*g.w]
		inv := 1 / float32(step)
		for x := 0; x < len(row); x++ {
			fx := (float32(x) + 0.5) * inv
			gx := min(int(fx), g.w-2)
			// Between points that are all as far in, or out, as the edge is soft, and a
			// little farther, no pixel need be looked at by itself: eight at a time, or
			// as many as lie between four points.
			n, end := 2, min(len(row), int(float32(gx+1)*float32(step)-0.5))
			if step == 1 {
				n, end = 9, x+8
			}
			if end > x+1 && end <= len(row) {
				lo, hi := bounds(top[gx:gx+n], bottom[gx:gx+n])
				fill := -1
				if float64(lo) > full {
					fill = int(ramp[1024])
				} else if float64(hi) < none {
					fill = int(ramp[0])
				}
				if fill >= 0 {
					for ; x < end; x++ {
						row[x] = uint8(fill)
					}
					x--
					continue
				}
			}
			tx := fx - float32(gx)
			a, c := top[gx]+(top[gx+1]-top[gx])*tx, bottom[gx]+(bottom[gx+1]-bottom[gx])*tx
			d := float64(a + (c-a)*ty)
			if width < 1 { // an edge, grown
				row[x] = uint8(clamp01(d+s.Growth+0.5)*255 + 0.5)
				continue
			}
			row[x] = ramp[int(clamp01((d+s.Growth+s.Out)/width)*1024+0.5)]
		}
	}
	p.measure()
}

// bounds are the least and the greatest of two runs of distances.
func bounds(a, b []float32) (lo, hi float32) {
	if vectors && len(a) == 9 {
		return boundsVector(a, b)
	}
	lo, hi = a[0], a[0]
	b = b[:len(a)]
	for i, v := range a {
		lo, hi = min(lo, v, b[i]), max(hi, v, b[i])
	}
	return
}

// field holds distances from an outline at the corners of a grid, above 0
// inside it.
type field struct {
	w, h int
	d    []float32
}

// distances measures the distance of the filler's outline from the points of a
// grid over a part of the device, as far as reach; beyond, only the sign holds.
func (f *Filler) distances(x0, y0, x1, y1 int, step, reach float64) {
	g := &f.field
	g.w, g.h = int(math.Ceil(float64(x1-x0)/step))+2, int(math.Ceil(float64(y1-y0)/step))+2
	n := g.w * g.h
	if cap(g.d) < n {
		g.d = make([]float32, n)
	}
	g.d = g.d[:n]
	far := float32(reach * reach)
	g.d[0] = far
	for i := 1; i < n; i *= 2 {
		copy(g.d[i:], g.d[:i])
	}
	at := func(v float64, o int) float64 { return (v - float64(o)) / step }
	for i := range f.shapes.Ends {
		l := f.shapes.Line(i)
		for k := range l {
			a, b := l[k], l[(k+1)%len(l)]
			// Only points within reach of this piece are looked at.
			gx0 := max(0, int(math.Floor(at(math.Min(a.X, b.X)-reach, x0))))
			gx1 := min(g.w-1, int(math.Ceil(at(math.Max(a.X, b.X)+reach, x0))))
			gy0 := max(0, int(math.Floor(at(math.Min(a.Y, b.Y)-reach, y0))))
			gy1 := min(g.h-1, int(math.Ceil(at(math.Max(a.Y, b.Y)+reach, y0))))
			dx, dy := b.X-a.X, b.Y-a.Y
			len2 := dx*dx + dy*dy
			for gy := gy0; gy <= gy1; gy++ {
				py := float64(y0) + float64(gy)*step - a.Y
				row := g.d[gy*g.w : (gy+1)*g.w]
				gx := gx0
				if vectors && len2 > 0 && gx1 >= gx0 {
					gx += nearVector(row[gx0:gx1+1], gx0, piece{float64(x0), step, a.X, py, dx, dy, len2})
				}
				for ; gx <= gx1; gx++ {
					px := float64(x0) + float64(gx)*step - a.X
					t := 0.0
					if len2 > 0 {
						t = math.Max(0, math.Min(1, (px*dx+py*dy)/len2))
					}
					ex, ey := px-t*dx, py-t*dy
					if d := float32(ex*ex + ey*ey); d < row[gx] {
						row[gx] = d
					}
				}
			}
		}
	}
	f.inside(x0, y0, step)
}

// piece is a straight piece of an outline for a row of the grid: where the grid begins and
// its step, where the piece begins across it, how far below that the row lies, and its way.
type piece struct{ x0, step, ax, py, dx, dy, len2 float64 }

// crossing is where a line crosses a row of the grid, and which way: 1 is downwards.
type crossing struct {
	x    float64
	turn int
}

// inside takes roots and gives the distances their signs: a point is inside
// when lines wind round it (the non-zero rule), which is counted along each row
// of the grid.
func (f *Filler) inside(x0, y0 int, step float64) {
	g := &f.field
	for len(f.crossings) < g.h {
		f.crossings = append(f.crossings, nil)
	}
	for gy := range g.h {
		f.crossings[gy] = f.crossings[gy][:0]
	}
	// A hair off the points of the grid, so that a corner is not met.
	level := func(gy int) float64 { return float64(y0) + float64(gy)*step + 1e-7 }
	for i := range f.shapes.Ends {
		l := f.shapes.Line(i)
		for k := range l {
			a, b := l[k], l[(k+1)%len(l)]
			lo, hi := a.Y, b.Y
			if lo > hi {
				lo, hi = hi, lo
			}
			// The rows that it may cross, and one more at either end.
			first := max(0, int(math.Floor((lo-float64(y0))/step))-1)
			last := min(g.h-1, int(math.Ceil((hi-float64(y0))/step))+1)
			for gy := first; gy <= last; gy++ {
				y := level(gy)
				if (a.Y <= y) == (b.Y <= y) {
					continue
				}
				turn := 1
				if a.Y > y {
					turn = -1
				}
				f.crossings[gy] = append(f.crossings[gy], crossing{a.X + (b.X-a.X)*(y-a.Y)/(b.Y-a.Y), turn})
			}
		}
	}
	for gy := range g.h {
		cross := f.crossings[gy]
		// Few lines cross a row; insertion keeps them in order.
		for i := 1; i < len(cross); i++ {
			for k := i; k > 0 && cross[k].x < cross[k-1].x; k-- {
				cross[k], cross[k-1] = cross[k-1], cross[k]
			}
		}
		wind := 0
		row := g.d[gy*g.w : (gy+1)*g.w]
		for gx, next := 0, 0; gx < len(row); {
			// Up to the next crossing all points are inside, or all outside.
			for next < len(cross) && cross[next].x <= float64(x0)+float64(gx)*step {
				wind += cross[next].turn
				next++
			}
			end := len(row)
			if next < len(cross) {
				end = min(end, int(math.Ceil((cross[next].x-float64(x0))/step)))
			}
			end = max(end, gx+1)
			sign := float32(1)
			if wind == 0 {
				sign = -1
			}
			run := row[gx:end]
			if vectors {
				run = run[rootsVector(run, sign):]
			}
			for i, v := range run {
				run[i] = sign * float32(math.Sqrt(float64(v)))
			}
			gx = end
		}
	}
}

// Join combines a mask with what the masks before it have left, in the pixels
// of dst: added, taken away or kept in common. shade is the mask's own opacity.
func (p *Coverage) Join(mask *Coverage, mode MaskMode, invert bool, shade float64) {
	k := uint32(clamp01(shade)*255 + 0.5)
	for y := range p.H {
		row := p.Pix[y*p.W : (y+1)*p.W]
		var from []uint8
		my := p.Y + y - mask.Y
		if my >= 0 && my < mask.H {
			from = mask.Pix[my*mask.W : (my+1)*mask.W]
		}
		for x := range row {
			c := uint32(0)
			if mx := p.X + x - mask.X; from != nil && mx >= 0 && mx < mask.W {
				c = uint32(from[mx])
			}
			if invert {
				c = 255 - c
			}
			c = uint32(mul255(c, k))
			a := uint32(row[x])
			switch mode {
			case AddMask:
				row[x] = uint8(a + c - uint32(mul255(a, c)))
			case SubtractMask:
				row[x] = mul255(a, 255-c)
			default:
				row[x] = mul255(a, c)
			}
		}
	}
}

// Fill makes all of the plane's coverage alike.
func (p *Coverage) Fill(c uint8) {
	for i := range p.Pix {
		p.Pix[i] = c
	}
}

// Done must be called when coverage has been joined.
func (p *Coverage) Done() { p.measure() }

// Copy makes dst a copy of the plane.
func (p *Coverage) Copy(dst *Coverage) {
	dst.Reset(p.X, p.Y, p.W, p.H)
	copy(dst.Pix, p.Pix)
	copy(dst.rows, p.rows)
}

func (m MaskMode) String() string { return [...]string{"add", "subtract", "intersect"}[m] }
