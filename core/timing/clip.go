package timing

import (
	"fmt"
	"math"
	"math/bits"
	"sort"
)

// Clip is the time of a piece of footage, counted in whole ticks from the
// start of its first frame.
type Clip struct {
	// Rate is in frames per second; of a clip at uneven times it is the average.
	Rate   Rate
	Frames int64
	// Ticks per second. A clip at even times counts one tick for each frame.
	Ticks Rat
	// Starts holds the tick at which each frame begins, rising from 0; nil
	// when frame n begins at tick n.
	Starts []int64
	// End is the tick at which the last frame ends.
	End int64
}

// Even returns a clip whose frames are evenly spaced.
func Even(rate Rate, frames int64) Clip {
	return Clip{Rate: rate, Frames: frames, Ticks: rate.Rat, End: frames}
}

// Uneven returns a clip whose frames begin at the given ticks, the first at 0;
// end is the tick at which the last frame ends. Frames that turn out to be
// evenly spaced make an even clip.
func Uneven(ticks Rat, starts []int64, end int64) (Clip, error) {
	n := int64(len(starts))
	if n == 0 || starts[0] != 0 {
		return Clip{}, fmt.Errorf("a clip's first frame must begin at tick 0")
	}
	if ticks.N <= 0 || ticks.D <= 0 {
		return Clip{}, fmt.Errorf("%s ticks per second is not above 0", ticks)
	}
	step := end
	if n > 1 {
		step = starts[1]
	}
	even := step > 0 && end == n*step
	for i := int64(1); i < n; i++ {
		if starts[i] <= starts[i-1] {
			return Clip{}, fmt.Errorf("frame %d begins at tick %d, not after frame %d at %d", i, starts[i], i-1, starts[i-1])
		}
		even = even && starts[i] == i*step
	}
	if end <= starts[n-1] {
		return Clip{}, fmt.Errorf("the last frame ends at tick %d, before it begins at %d", end, starts[n-1])
	}
	if even {
		return Even(Rate{ticks.Div(Int(step))}, n), nil
	}
	// The average, as a fraction whose terms stay small enough to be worked with.
	avg := float64(n) * ticks.Float() / float64(end)
	rate := Rate{NewRat(int64(math.Round(avg*1000)), 1000)}
	return Clip{Rate: rate, Frames: n, Ticks: ticks, Starts: starts, End: end}, nil
}

// FrameAt returns the frame that is seen at a tick: the last one that has
// begun, the first before the clip and the last after it.
func (c *Clip) FrameAt(tick int64) SourceFrame {
	if c.Starts == nil {
		return SourceFrame(max(0, min(tick, c.Frames-1)))
	}
	n := sort.Search(len(c.Starts), func(i int) bool { return c.Starts[i] > tick })
	return SourceFrame(max(0, n-1))
}

// Start returns the tick at which a frame begins; that of the frame after the
// last is the clip's end.
func (c *Clip) Start(n SourceFrame) int64 {
	switch {
	case int64(n) >= c.Frames:
		return c.End
	case c.Starts == nil:
		return max(0, int64(n))
	}
	return c.Starts[max(0, n)]
}

// Seconds is the clip's length.
func (c *Clip) Seconds() Rat { return Int(c.End).Div(c.Ticks) }

// At returns the exact instant at which a frame begins, in seconds.
func (c *Clip) At(n SourceFrame) Rat { return Int(c.Start(n)).Div(c.Ticks) }

// After says what is seen when a clip is over before its pocket is.
type After string

const (
	Hold   After = "hold"   // the last frame stays
	Loop   After = "loop"   // it begins again at its in-point
	Bounce After = "bounce" // it runs back to its in-point, then forth again
)

// Play is how a clip runs in its pocket. The zero value runs all of it once at
// its own speed and holds the last frame.
type Play struct {
	// In is the first frame that is seen.
	In SourceFrame `json:"in,omitempty"`
	// Speed is a factor, exact; the zero value is 1.
	Speed Rat `json:"speed,omitzero"`
	// After is hold when empty.
	After After `json:"after,omitempty"`
}

// PlayMembers names what a Play says, each of which can be set on its own.
var PlayMembers = []string{"in", "speed", "after"}

// Limits of a clip's speed.
var (
	MinSpeed = NewRat(1, 20)
	MaxSpeed = Int(20)
)

// Validate says which value lies outside its limits.
func (p Play) Validate() error {
	if p.In < 0 {
		return fmt.Errorf("in: frame %d is below 0", p.In)
	}
	if p.Speed.D != 0 && (p.Speed.Cmp(MinSpeed) < 0 || p.Speed.Cmp(MaxSpeed) > 0 || p.Speed.D > 100000) {
		return fmt.Errorf("speed: %s is not between %s and %s in steps of 0.00001", p.Speed, MinSpeed, MaxSpeed)
	}
	switch p.After {
	case "", Hold, Loop, Bounce:
		return nil
	}
	return fmt.Errorf("after: %q is not one of hold, loop, bounce", p.After)
}

// Factor is the speed as a factor.
func (p Play) Factor() Rat {
	if p.Speed.D == 0 {
		return Int(1)
	}
	return p.Speed
}

// Source returns the frame of a clip seen at an instant by a view that begins
// at a template time: the frame whose interval holds that instant of the clip's
// own time, which is computed exactly and never by counting frames. It runs by
// the output's clock: a clip keeps its own speed in elastic spans too.
func (m Map) Source(now Instant, start TemplateTime, c *Clip, p Play) SourceFrame {
	in := min(p.In, SourceFrame(c.Frames-1))
	from := c.Start(in)
	gone := m.ticks(now.Output.Sub(m.Output(start)), c, p)
	length := c.End - from
	if gone < 0 {
		gone = 0
	}
	switch p.After {
	case Loop:
		gone %= length
	case Bounce:
		// On the way back the frame is seen whose interval, its end included
		// and its beginning not, holds the instant: each frame as long as on
		// the way there.
		if gone %= 2 * length; gone >= length {
			gone = 2*length - 1 - gone
		}
	default:
		gone = min(gone, length-1)
	}
	return c.FrameAt(from + gone)
}

// ticks is how many whole ticks of a clip pass in a length of template time.
func (m Map) ticks(t Rat, c *Clip, p Play) int64 {
	if t.N < 0 {
		return -1
	}
	// t ÷ rate · speed · ticks, with both sides kept in lowest terms on the way.
	r := t.Div(m.Rate.Rat).Mul(p.Factor())
	g1, g2 := gcd(r.N, c.Ticks.D), gcd(c.Ticks.N, r.D)
	hi, lo := bits.Mul64(uint64(r.N/g1), uint64(c.Ticks.N/g2))
	d := uint64(r.D/g2) * uint64(c.Ticks.D/g1)
	if hi >= d {
		return math.MaxInt64 / 4 // beyond the end of any clip
	}
	q, _ := bits.Div64(hi, lo, d)
	return int64(min(q, math.MaxInt64/4))
}
