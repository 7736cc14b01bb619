package timing

import (
	"math/big"
	"math/rand/v2"
	"testing"
)

func even(t *testing.T, r string, frames int64) *Clip {
	c := Even(rate(t, r), frames)
	return &c
}

var zero = TemplateTime{Int(0)}

// Worked by hand: 29.97 against 25, 24 and itself, where counting frames by a
// rounded rate would drift.
func TestSourceFramesAreExact(t *testing.T) {
	m := Map{Rate: rate(t, "29.97"), Frames: 1 << 40}
	for _, c := range []struct {
		clip  string
		frame OutputFrame
		want  SourceFrame
	}{
		{"29.97", 123456, 123456},
		{"30", 30000, 30030}, // 30000 frames last 1001 s
		{"25", 30000, 25025},
		{"24000/1001", 30000, 24000},
		{"59.94", 7, 14},
	} {
		if got := m.Source(m.At(c.frame), zero, even(t, c.clip, 1<<40), Play{}); got != c.want {
			t.Errorf("frame %d over a clip at %s: %d, want %d", c.frame, c.clip, got, c.want)
		}
	}
}

func TestAShortClipHoldsLoopsOrBounces(t *testing.T) {
	m := Map{Rate: rate(t, "25"), Frames: 100}
	clip := even(t, "25", 5)
	for _, c := range []struct {
		play Play
		want []SourceFrame
	}{
		{Play{}, []SourceFrame{0, 1, 2, 3, 4, 4, 4, 4, 4, 4, 4, 4}},
		{Play{In: 2, After: Hold}, []SourceFrame{2, 3, 4, 4, 4, 4}},
		{Play{In: 2, After: Loop}, []SourceFrame{2, 3, 4, 2, 3, 4, 2}},
		{Play{In: 3, After: Bounce}, []SourceFrame{3, 4, 4, 3, 3, 4, 4, 3}},
		{Play{After: Bounce}, []SourceFrame{0, 1, 2, 3, 4, 4, 3, 2, 1, 0, 0, 1}},
		{Play{Speed: Int(2), After: Loop}, []SourceFrame{0, 2, 4, 1, 3, 0}},
		{Play{Speed: NewRat(1, 2)}, []SourceFrame{0, 0, 1, 1, 2, 2, 3, 3, 4, 4, 4, 4}},
		{Play{In: 99}, []SourceFrame{4, 4}},
		{Play{In: 99, After: Bounce}, []SourceFrame{4, 4, 4}},
	} {
		for f, want := range c.want {
			if got := m.Source(m.At(OutputFrame(f)), zero, clip, c.play); got != want {
				t.Errorf("%+v at frame %d: %d, want %d", c.play, f, got, want)
			}
		}
	}
	if got := m.Source(m.At(3), TemplateTime{Int(9)}, clip, Play{}); got != 0 {
		t.Errorf("before its view begins: frame %d, want the first", got)
	}
}

// A phone's clip: frames begin when they were taken, in milliseconds.
func TestUnevenClipsShowTheFrameThatHasBegun(t *testing.T) {
	starts := []int64{0, 33, 70, 71, 400}
	c, err := Uneven(Int(1000), starts, 440)
	if err != nil {
		t.Fatal(err)
	}
	for tick, want := range map[int64]SourceFrame{-5: 0, 0: 0, 32: 0, 33: 1, 69: 1, 70: 2, 71: 3, 399: 3, 400: 4, 9999: 4} {
		if got := c.FrameAt(tick); got != want {
			t.Errorf("at %d ms: frame %d, want %d", tick, got, want)
		}
	}
	m := Map{Rate: rate(t, "25"), Frames: 100} // 40 ms a frame
	for f, want := range []SourceFrame{0, 1, 3, 3, 3, 3, 3, 3, 3, 3, 4, 0, 1} {
		if got := m.Source(m.At(OutputFrame(f)), zero, &c, Play{After: Loop}); got != want {
			t.Errorf("frame %d: %d, want %d", f, got, want)
		}
	}
	if c.At(3) != NewRat(71, 1000) || c.At(5) != NewRat(44, 100) || c.Seconds() != NewRat(44, 100) {
		t.Errorf("instants: %s, %s", c.At(3), c.Seconds())
	}
}

func TestUnevenClipsAreChecked(t *testing.T) {
	c, err := Uneven(Int(90000), []int64{0, 3003, 6006}, 9009)
	if err != nil || c.Starts != nil || c.Rate.Rat != NewRat(30000, 1001) || c.Frames != 3 {
		t.Errorf("evenly spaced frames: %+v, %v", c, err)
	}
	for name, starts := range map[string][]int64{"none": {}, "late": {1, 2}, "twice": {0, 5, 5}, "back": {0, 9, 5}, "beyond": {0, 1000}} {
		if _, err := Uneven(Int(1000), starts, 900); err == nil {
			t.Errorf("%s: was taken", name)
		}
	}
}

// The definition in exact arithmetic by math/big: the frame whose interval
// holds in + t ÷ rate · speed, over rates, speeds, in-points and time bases.
func TestSourceAgreesWithExactArithmetic(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 5))
	rates := []string{"24000/1001", "24", "25", "29.97", "30", "50", "59.94", "60"}
	big2 := func(v Rat) *big.Rat { return big.NewRat(v.N, v.D) }
	for range 20_000 {
		m := Map{Rate: rate(t, rates[r.IntN(len(rates))]), Frames: 1 << 40}
		var c Clip
		if r.IntN(2) == 0 {
			c = Even(rate(t, rates[r.IntN(len(rates))]), 1+r.Int64N(5000))
		} else {
			starts, at := []int64{0}, int64(0)
			for range r.IntN(40) {
				at += 1 + r.Int64N(9000)
				starts = append(starts, at)
			}
			var err error
			if c, err = Uneven([]Rat{Int(90000), Int(1000), NewRat(30000, 1001), Int(1_000_000)}[r.IntN(4)], starts, at+1+r.Int64N(5000)); err != nil {
				t.Fatal(err)
			}
		}
		p := Play{In: SourceFrame(r.Int64N(c.Frames)), Speed: NewRat(1+r.Int64N(30000), 10000)}
		if p.Validate() != nil {
			continue
		}
		f := r.Int64N(400_000)
		at := new(big.Rat).Quo(big.NewRat(f, 1), big2(m.Rate.Rat))
		at.Mul(at, big2(p.Speed)).Add(at, big2(c.At(p.In)))
		want := SourceFrame(c.Frames - 1)
		for n := p.In; int64(n) < c.Frames; n++ {
			if at.Cmp(big2(c.At(n+1))) < 0 {
				want = n
				break
			}
			if c.Starts == nil && int64(n) < c.Frames-2 { // spare the long way: one frame is one tick
				q := new(big.Rat).Mul(at, big2(c.Rate.Rat))
				k := new(big.Int).Quo(q.Num(), q.Denom()).Int64()
				n = SourceFrame(max(int64(n), min(k, c.Frames-1)-1))
			}
		}
		if got := m.Source(m.At(OutputFrame(f)), zero, &c, p); got != want {
			t.Fatalf("frame %d at %s of %+v, %+v: %d, want %d", f, m.Rate, c.Rate, p, got, want)
		}
	}
}

func TestHowAClipRunsIsChecked(t *testing.T) {
	for _, p := range []Play{{In: -1}, {Speed: Int(0)}, {Speed: Int(21)}, {Speed: NewRat(1, 100)}, {After: "twice"}, {Speed: NewRat(100001, 100000*3)}} {
		if p.Validate() == nil {
			t.Errorf("%+v was taken", p)
		}
	}
	if err := (Play{In: 5, Speed: NewRat(3, 2), After: Bounce}).Validate(); err != nil {
		t.Error(err)
	}
}
