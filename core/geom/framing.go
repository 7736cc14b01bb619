package geom

import (
	"bytes"
	"encoding/json"
	"fmt"
	"math"
)

// Fit says how media of any proportions is brought into a box. The words and
// their meaning are those of CSS Images Level 3, object-fit; Stretch is its
// "fill" and Original its "none".
type Fit string

const (
	Cover    Fit = "cover"
	Contain  Fit = "contain"
	Stretch  Fit = "stretch"
	Original Fit = "original"
)

// Fits lists every fit, in the order in which people are offered them.
var Fits = []Fit{Cover, Contain, Stretch, Original}

// Limits of framing values.
const (
	MinZoom = 0.05
	MaxZoom = 20
	MaxPan  = 4
	MaxTurn = 3600
)

// Framing is how media lies in its pocket. It never touches the pocket's own
// place and motion.
type Framing struct {
	Fit Fit `json:"fit" enum:"cover,contain,stretch,original" doc:"How media of any proportions is brought into the pocket"`
	// Focus is the point of the media that matters, as shares of its width
	// and height from the top left; it works as CSS object-position does in
	// percent: that point of the media lies on the same point of the box.
	Focus [2]float64 `json:"focus" doc:"The point of the media that matters, shares of width and height"`
	// Pan moves the media, in shares of the box's width and height.
	Pan [2]float64 `json:"pan" doc:"Shift in shares of the box"`
	// Zoom enlarges beyond what the fit asks for; 1 is the fit itself.
	Zoom float64 `json:"zoom" doc:"1 is the fit itself"`
	// Turn is an angle in degrees, clockwise.
	Turn  float64 `json:"turn" doc:"Degrees, clockwise"`
	FlipX bool    `json:"flipX,omitempty" required:"false"`
	FlipY bool    `json:"flipY,omitempty" required:"false"`
}

// FramingMembers names what a framing says, each of which can be set on its own.
var FramingMembers = []string{"fit", "focus", "pan", "zoom", "turn", "flipX", "flipY"}

// DefaultFraming is the given fit, centred, neither moved nor turned.
func DefaultFraming(fit Fit) Framing {
	return Framing{Fit: fit, Focus: [2]float64{0.5, 0.5}, Zoom: 1}
}

// UnmarshalJSON reads a framing of which members may be left out: those have
// their defaults, and a fit that is left out is the pocket's own, for whoever
// knows the pocket. A member that is unknown is refused.
func (f *Framing) UnmarshalJSON(b []byte) error {
	type plain Framing // has no methods
	p := plain(DefaultFraming(""))
	dec := json.NewDecoder(bytes.NewReader(b))
	dec.DisallowUnknownFields()
	err := dec.Decode(&p)
	*f = Framing(p)
	return err
}

// Or is the framing with what it leaves open as another has it.
func (f Framing) Or(other Framing) Framing {
	if f.Fit == "" {
		f.Fit = other.Fit
	}
	return f
}

// Validate says which value of the framing lies outside its limits.
func (f Framing) Validate() error {
	switch f.Fit {
	case "", Cover, Contain, Stretch, Original:
	default:
		return fmt.Errorf("fit: %q is not one of cover, contain, stretch, original", f.Fit)
	}
	for i, axis := range []string{"x", "y"} {
		if !(f.Focus[i] >= 0 && f.Focus[i] <= 1) {
			return fmt.Errorf("focus %s: %g is outside 0 to 1", axis, f.Focus[i])
		}
		if !(math.Abs(f.Pan[i]) <= MaxPan) {
			return fmt.Errorf("pan %s: %g is outside %d to %d boxes", axis, f.Pan[i], -MaxPan, MaxPan)
		}
	}
	if !(f.Zoom >= MinZoom && f.Zoom <= MaxZoom) {
		return fmt.Errorf("zoom: %g is outside %g to %d", f.Zoom, MinZoom, MaxZoom)
	}
	if !(math.Abs(f.Turn) <= MaxTurn) {
		return fmt.Errorf("turn: %g° is outside -%d° to %d°", f.Turn, MaxTurn, MaxTurn)
	}
	return nil
}

// Limits say how far an editor may frame media otherwise than the pocket's own
// framing has it. What is nil is free.
type Limits struct {
	// Pan is how far it may be shifted from the pocket's own pan, shares of the box.
	Pan *[2]float64 `json:"pan,omitempty" doc:"How far an editor may shift it, x and y, shares of the pocket"`
	// Zoom are the least and the greatest zoom.
	Zoom *[2]float64 `json:"zoom,omitempty" doc:"The least and the greatest zoom"`
	// Turn is how far it may be turned from the pocket's own turn, either way.
	Turn *float64 `json:"turn,omitempty" doc:"How far an editor may turn it either way, degrees"`
}

// Range is between which values a framing may lie: those of the limits, which count
// from the pocket's own framing, else those that any framing has.
type Range struct {
	Pan  [2][2]float64 `json:"pan" doc:"From and to, in x and in y"`
	Zoom [2]float64    `json:"zoom"`
	Turn [2]float64    `json:"turn"`
}

// Range is what the limits leave. What the pocket's own framing has is always in it.
func (l *Limits) Range(own Framing) Range {
	r := Range{Pan: [2][2]float64{{-MaxPan, MaxPan}, {-MaxPan, MaxPan}}, Zoom: [2]float64{MinZoom, MaxZoom}, Turn: [2]float64{-MaxTurn, MaxTurn}}
	if l == nil {
		return r
	}
	if l.Pan != nil {
		for k, most := range l.Pan {
			r.Pan[k] = [2]float64{own.Pan[k] - most, own.Pan[k] + most}
		}
	}
	if l.Zoom != nil {
		r.Zoom = [2]float64{math.Min(l.Zoom[0], own.Zoom), math.Max(l.Zoom[1], own.Zoom)}
	}
	if l.Turn != nil {
		r.Turn = [2]float64{own.Turn - *l.Turn, own.Turn + *l.Turn}
	}
	return r
}

// Hold is a framing brought within the limits.
func (l *Limits) Hold(f, own Framing) Framing {
	if l == nil {
		return f
	}
	r := l.Range(own)
	for k := range f.Pan {
		f.Pan[k] = clamp(f.Pan[k], r.Pan[k][0], r.Pan[k][1])
	}
	f.Zoom, f.Turn = clamp(f.Zoom, r.Zoom[0], r.Zoom[1]), clamp(f.Turn, r.Turn[0], r.Turn[1])
	return f
}

// Validate says which limit lies outside its own.
func (l *Limits) Validate() error {
	if l.Pan != nil {
		for i, axis := range []string{"x", "y"} {
			if !(l.Pan[i] >= 0 && l.Pan[i] <= MaxPan) {
				return fmt.Errorf("pan %s: %g is outside 0 to %d boxes", axis, l.Pan[i], MaxPan)
			}
		}
	}
	if z := l.Zoom; z != nil && !(z[0] >= MinZoom && z[0] <= z[1] && z[1] <= MaxZoom) {
		return fmt.Errorf("zoom: %g to %g is not a range within %g to %d", z[0], z[1], MinZoom, MaxZoom)
	}
	if l.Turn != nil && !(*l.Turn >= 0 && *l.Turn <= MaxTurn) {
		return fmt.Errorf("turn: %g° is outside 0° to %d°", *l.Turn, MaxTurn)
	}
	return nil
}

// Placement is where a framing puts media of a known size in a box.
type Placement struct {
	// Map takes media pixels to box pixels, both from their top left corner.
	Map Affine
	// Covers says that no edge of the media can be seen inside the box.
	Covers bool
	// Zoom is the zoom that was used; in cover it is never below 1.
	Zoom float64
	// Slack is how far the media may still be panned from its centre, in box
	// pixels along the media's own axes, before an edge would show. Only cover
	// has it; elsewhere panning ends where too little of the media would be seen.
	Slack Size
	// Pan is the pan in use, in shares of the box: the part of the framing's pan
	// that was not stopped.
	Pan [2]float64
	// Scale, Turn and Offset make up Map: factors from the media's centre,
	// below 0 where it is flipped, degrees, and the displacement of the media's
	// centre from the box's.
	Scale  [2]float64
	Turn   float64
	Offset Point
}

// Moved is the placement's map with the content enlarged by a factor, turned by
// degrees and shifted by shares of the box, on top of how it lies.
func (p *Placement) Moved(media, box Size, zoom, turn float64, pan [2]float64) Affine {
	s, c := SinCos(p.Turn + turn)
	return Translate(-media.W/2, -media.H/2).Then(Scale(p.Scale[0]*zoom, p.Scale[1]*zoom)).Then(Affine{c, s, -s, c, 0, 0}).
		Then(Translate(box.W/2+p.Offset.X+pan[0]*box.W, box.H/2+p.Offset.Y+pan[1]*box.H))
}

// Place computes where media lies in a box. In cover the zoom is raised to the
// smallest one at which turned media still covers the box, and focus and pan
// stop where an edge would come into view. Elsewhere they stop before the media
// leaves the box.
//
// A box w×h seen from axes turned by t spans w·|cos t| + h·|sin t| by
// w·|sin t| + h·|cos t|. Media that covers this span covers the box, and
// no smaller media of its proportions does so for every focus. At t = 0 this
// is CSS object-fit and object-position.
func (f Framing) Place(media, box Size) Placement {
	if media.Empty() || box.Empty() {
		return Placement{Map: Affine{}}
	}
	s, c := SinCos(f.Turn)
	as, ac := math.Abs(s), math.Abs(c)
	var sx, sy float64
	zoom := f.Zoom
	span := Size{box.W*ac + box.H*as, box.W*as + box.H*ac}
	switch f.Fit {
	case Cover:
		zoom = math.Max(1, zoom)
		sx = math.Max(span.W/media.W, span.H/media.H)
		sy = sx
	case Contain:
		sx = math.Min(box.W/(media.W*ac+media.H*as), box.H/(media.W*as+media.H*ac))
		sy = sx
	case Stretch:
		sx, sy = box.W/media.W, box.H/media.H
	default:
		sx, sy = 1, 1
	}
	sx, sy = sx*zoom, sy*zoom
	w, h := media.W*sx, media.H*sy

	pan := Point{f.Pan[0] * box.W, f.Pan[1] * box.H}
	// off is the displacement of the media's centre from the box's.
	var off Point
	var slack Size
	used := f.Pan
	if f.Fit == Cover {
		slack = Size{math.Max(0, (w-span.W)/2), math.Max(0, (h-span.H)/2)}
		aim := Point{(1 - 2*f.focus(0)) * slack.W, (1 - 2*f.focus(1)) * slack.H}
		u := Point{
			X: clamp(aim.X+pan.X*c+pan.Y*s, -slack.W, slack.W),
			Y: clamp(aim.Y-pan.X*s+pan.Y*c, -slack.H, slack.H),
		}
		v := Point{u.X - aim.X, u.Y - aim.Y}
		used = [2]float64{(v.X*c - v.Y*s) / box.W, (v.X*s + v.Y*c) / box.H}
		off = Point{u.X*c - u.Y*s, u.X*s + u.Y*c}
	} else {
		bw, bh := w*ac+h*as, w*as+h*ac
		aim := Point{(f.focus(0) - 0.5) * (box.W - bw), (f.focus(1) - 0.5) * (box.H - bh)}
		off = Point{aim.X + pan.X, aim.Y + pan.Y}
		if k := within(off, box, Size{w, h}, s, c); k < 1 {
			off = Point{off.X * k, off.Y * k}
			used = [2]float64{(off.X - aim.X) / box.W, (off.Y - aim.Y) / box.H}
		}
	}
	if f.FlipX {
		sx = -sx
	}
	if f.FlipY {
		sy = -sy
	}
	p := Placement{Zoom: zoom, Slack: slack, Pan: used, Scale: [2]float64{sx, sy}, Turn: f.Turn, Offset: off}
	p.Map = p.Moved(media, box, 1, 0, [2]float64{})
	p.Covers = QuadCovers(p.Map, media, Box{0, 0, box.W, box.H})
	return p
}

// within is the share of a displacement from the box's middle, 1 at most, at which
// media of a size, turned by an angle with that sine and cosine, is still seen: the
// media shrunk to half meets the box within its rim, or the media meets the box
// shrunk to half.
//
// Two convex shapes that are symmetric about their middles meet when the one's
// displacement lies in the sum of both; for two rectangles that is so when it does
// along the four directions of their edges.
func within(off Point, box, media Size, s, c float64) float64 {
	as, ac := math.Abs(s), math.Abs(c)
	most := 0.0
	for _, half := range [2][2]float64{{0.9, 0.5}, {0.5, 1}} {
		bw, bh, mw, mh := half[0]*box.W/2, half[0]*box.H/2, half[1]*media.W/2, half[1]*media.H/2
		k := 1.0
		for _, n := range [4]struct{ along, reach float64 }{
			{off.X, bw + mw*ac + mh*as},
			{off.Y, bh + mw*as + mh*ac},
			{off.X*c + off.Y*s, mw + bw*ac + bh*as},
			{off.Y*c - off.X*s, mh + bw*as + bh*ac},
		} {
			if d := math.Abs(n.along); d > n.reach {
				k = math.Min(k, n.reach/d)
			}
		}
		most = math.Max(most, k)
	}
	return most
}

// focus is the focus as seen after flipping: the point of the media that was
// chosen stays the one that is kept in view.
func (f Framing) focus(axis int) float64 {
	v := f.Focus[axis]
	if axis == 0 && f.FlipX || axis == 1 && f.FlipY {
		v = 1 - v
	}
	return v
}

// coverTolerance is how far, in pixels of the media, a corner of a box may lie
// outside before it counts as uncovered: the rounding of float64 arithmetic,
// far below the 1/256 of a pixel that could change a colour.
const coverTolerance = 1e-6

// QuadCovers reports whether media drawn through m hides the whole of a box.
// The box is convex and the media a parallelogram, so its corners decide.
func QuadCovers(m Affine, media Size, box Box) bool {
	inv, ok := m.Invert()
	if !ok {
		return false
	}
	for _, p := range box.Corners() {
		q := inv.Apply(p)
		if q.X < -coverTolerance || q.Y < -coverTolerance || q.X > media.W+coverTolerance || q.Y > media.H+coverTolerance {
			return false
		}
	}
	return true
}

func clamp(v, lo, hi float64) float64 { return math.Max(lo, math.Min(hi, v)) }
