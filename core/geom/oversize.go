package geom

import "math"

// Sway is everything that turning, moving media may do within a stretch of
// time: bounds of its angle, of its centre's displacement from the frame's, and
// the least factor by which it is enlarged meanwhile.
type Sway struct {
	Turn, X, Y [2]float64 // degrees; px
	Zoom       float64
}

// SmallestZoom returns the smallest factor on media of a size, scaled to cover
// a frame at rest, with which it covers the frame at every instant from one time
// to another. during bounds what the media does between two times, and exactly
// so when they are equal.
//
// What is needed within a stretch is bounded from what the media may do in it;
// stretches are halved where the bound exceeds what is known to be needed, so
// that no peak between keys is missed. The result is never too small, and too
// large by at most a millionth, or by what the media does within a millionth of
// the time where it jumps.
func SmallestZoom(media, frame Size, from, to float64, during func(a, b float64) Sway) float64 {
	if media.Empty() || frame.Empty() {
		return 1
	}
	fit := math.Max(frame.W/media.W, frame.H/media.H)
	half := Size{media.W * fit / 2, media.H * fit / 2}
	need := math.Max(zoomFor(half, frame, during(from, from)), zoomFor(half, frame, during(to, to)))
	tiny := (to - from) * 1e-6
	steps := 0
	var search func(a, b float64)
	search = func(a, b float64) {
		steps++
		bound := zoomFor(half, frame, during(a, b))
		if bound <= need*(1+1e-6) {
			return
		}
		if b-a <= tiny || steps > maxSearch {
			need = bound
			return
		}
		m := (a + b) / 2
		need = math.Max(need, zoomFor(half, frame, during(m, m)))
		search(a, m)
		search(m, b)
	}
	if to > from {
		// Begun in parts, so that the first bounds are not useless.
		const parts = 32
		for i := range parts {
			search(from+(to-from)*float64(i)/parts, from+(to-from)*float64(i+1)/parts)
		}
	}
	return need * (1 + 1e-9)
}

// maxSearch bounds the halving; a search that reaches it, as wild motion might,
// ends with bounds that are safe and larger than need be.
const maxSearch = 200000

// LeastZoom is the factor below which what is made smaller is as good as gone. No
// oversize makes up for that: what shrinks to nothing shows its edges on the way,
// and is enlarged only as far as its turning and moving ask for.
const LeastZoom = 0.01

// Shrinks is a factor as it counts for what must cover: what is gone at some time
// counts as whole while it is smaller.
func Shrinks(zoom float64, gone bool) float64 {
	if gone {
		return math.Max(1, zoom)
	}
	return zoom
}

// ZoomFor is the factor on media of a size, scaled to cover a frame at rest, with
// which it covers the frame as it lies at an instant.
func ZoomFor(media, frame Size, s Sway) float64 {
	if media.Empty() || frame.Empty() {
		return 0
	}
	fit := math.Max(frame.W/media.W, frame.H/media.H)
	return zoomFor(Size{media.W * fit / 2, media.H * fit / 2}, frame, s)
}

// Reach is the smallest factor about a point by which a form of four corners, in
// order, must be enlarged to hold a box, whose corners come to the form's own
// pixels by back. A side that goes through the
// point, or lies beyond it, is not counted: no enlarging moves it there.
func Reach(form []Point, about Point, back Affine, box Box) float64 {
	turns := 0.0
	for i := range form {
		a, b, c := form[i], form[(i+1)%len(form)], form[(i+2)%len(form)]
		turns += (b.X-a.X)*(c.Y-b.Y) - (b.Y-a.Y)*(c.X-b.X)
	}
	most := 0.0
	for i := range form {
		a, b := form[i], form[(i+1)%len(form)]
		// The side's normal, outwards.
		nx, ny := b.Y-a.Y, a.X-b.X
		if turns < 0 {
			nx, ny = -nx, -ny
		}
		room := nx*(a.X-about.X) + ny*(a.Y-about.Y)
		if room <= 1e-6*math.Hypot(nx, ny) {
			continue
		}
		for _, q := range box.Corners() {
			p := back.Apply(q)
			most = math.Max(most, (nx*(p.X-about.X)+ny*(p.Y-about.Y))/room)
		}
	}
	return most
}

// zoomFor bounds the zoom needed by media of a half size: the frame's corners,
// seen from axes that have turned by any angle of the sway, must lie within it.
func zoomFor(half, frame Size, s Sway) float64 {
	x := math.Max(reach(frame, s, 0), reach(frame, s, 180)) / half.W
	y := math.Max(reach(frame, s, 90), reach(frame, s, 270)) / half.H
	return math.Max(x, y) / math.Max(s.Zoom, LeastZoom)
}

// reach is how far the frame's corners may lie from the media's centre along
// an axis at an angle from the media's own x axis.
func reach(frame Size, s Sway, axis float64) float64 {
	most := 0.0
	for _, cx := range [2]float64{-frame.W / 2, frame.W / 2} {
		for _, cy := range [2]float64{-frame.H / 2, frame.H / 2} {
			for _, ox := range s.X {
				for _, oy := range s.Y {
					most = math.Max(most, reachOf(cx-ox, cy-oy, s.Turn[0]+axis, s.Turn[1]+axis))
				}
			}
		}
	}
	return most
}

// reachOf is the largest of x·cos a + y·sin a over the angles from a to b.
func reachOf(x, y, a, b float64) float64 {
	sa, ca := SinCos(a)
	sb, cb := SinCos(b)
	most := math.Max(x*ca+y*sa, x*cb+y*sb)
	if b > a {
		// The peak is where the axis points at the place itself.
		peak := math.Atan2(y, x) * 180 / math.Pi
		if first := a + math.Mod(math.Mod(peak-a, 360)+360, 360); first <= b {
			most = math.Max(most, math.Hypot(x, y))
		}
	}
	return most
}
