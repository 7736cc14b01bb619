package timing

import (
	"encoding/json"
	"math"
	"math/big"
	"math/rand/v2"
	"testing"
)

func rate(t *testing.T, s string) Rate {
	t.Helper()
	r, err := ParseRate(s)
	if err != nil {
		t.Fatal(err)
	}
	return r
}

// SMPTE ST 12-1, drop-frame: the first minute ends at frame 1800, ten minutes
// have 17 982 frames, a day 2 589 408.
func TestDropFrameCounts(t *testing.T) {
	for _, c := range []struct {
		rate  string
		frame int64
		want  string
	}{
		{"29.97", 0, "00:00:00;00"},
		{"29.97", 1799, "00:00:59;29"},
		{"29.97", 1800, "00:01:00;02"},
		{"29.97", 17981, "00:09:59;29"},
		{"29.97", 17982, "00:10:00;00"},
		{"29.97", 2589407, "23:59:59;29"},
		{"29.97", 2589408, "24:00:00;00"},
		{"59.94", 3600, "00:01:00;04"},
		{"59.94", 35964, "00:10:00;00"},
		{"25", 1500, "00:01:00:00"},
		{"23.976", 24, "00:00:01:00"},
	} {
		if got := rate(t, c.rate).Timecode(c.frame); got != c.want {
			t.Errorf("frame %d at %s: %s, want %s", c.frame, c.rate, got, c.want)
		}
	}
}

// CSS Easing Functions Level 1: the keyword curves; the values are of the
// npm package bezier-easing's test, from memory, and of symmetry.
func TestEasing(t *testing.T) {
	ease, inOut := Easing{0.25, 0.1, 0.25, 1}, Easing{0.42, 0, 0.58, 1}
	for _, c := range []struct {
		e    Easing
		x, y float64
	}{
		{ease, 0.5, 0.8024033877399112},
		{inOut, 0.5, 0.5},
		{Easing{}, 0.3, 0.3},
		{Easing{0.9, 0, 0.1, 1}, 0.5, 0.5},
	} {
		if got := c.e.At(c.x); math.Abs(got-c.y) > 1e-6 {
			t.Errorf("%v at %g: %g, want %g", c.e, c.x, got, c.y)
		}
	}
	hard := Easing{0.9, 0, 0.1, 1}
	for x := 0.0; x <= 1; x += 1.0 / 512 {
		if d := hard.At(x) + hard.At(1-x) - 1; math.Abs(d) > 1e-9 {
			t.Fatalf("a symmetric curve is off by %g at %g", d, x)
		}
	}
	if e := (Easing{1.2, 0, 0.1, 1}); e.Validate() == nil {
		t.Error("a handle's x of 1.2 was taken")
	}
}

func TestRatesAreReadExactly(t *testing.T) {
	for in, want := range map[string]Rat{`"29.97"`: {30000, 1001}, `29.97`: {30000, 1001}, `"30000/1001"`: {30000, 1001}, `25`: {25, 1}, `"23.976"`: {24000, 1001}, `12.5`: {25, 2}} {
		var r Rate
		if err := json.Unmarshal([]byte(in), &r); err != nil || r.Rat != want {
			t.Errorf("%s: %v, %v", in, r, err)
		}
	}
	for _, in := range []string{`"0"`, `"-25"`, `"1e3"`, `1e999999999`, `"1e-999999999"`, `"0x10"`, `"1_0"`, `"25/0"`, `"abc"`, `1000`, `"99999999999999999999/3"`, `null`} {
		var r Rate
		if err := json.Unmarshal([]byte(in), &r); err == nil {
			t.Errorf("%s was taken as %v", in, r)
		}
	}
	if s := rate(t, "29.97").Seconds(240); s != NewRat(8008, 1000) {
		t.Errorf("240 frames at 29.97 last %s s, want 8.008", s)
	}
}

// Sums and comparisons of fractions are those of math/big, also where products on the way
// have more than 64 bits.
func TestFractionsOfManyDigits(t *testing.T) {
	rng := rand.New(rand.NewPCG(3, 1))
	big1 := func(r Rat) *big.Rat { return big.NewRat(r.N, r.D) }
	for range 20000 {
		d := 1 + rng.Int64N(1<<rng.IntN(30))
		a := NewRat(rng.Int64N(1<<40)-1<<39, d*(1+rng.Int64N(8)))
		b := NewRat(rng.Int64N(1<<40)-1<<39, d*(1+rng.Int64N(8)))
		if got, want := a.Cmp(b), big1(a).Cmp(big1(b)); got != want {
			t.Fatalf("%v and %v compare as %d, not %d", a, b, got, want)
		}
		if want := new(big.Rat).Add(big1(a), big1(b)); want.Num().IsInt64() && want.Denom().IsInt64() {
			if sum := a.Add(b).Float(); math.Abs(sum) < 1<<31 {
				if short := a.Add(b).Short(); math.Abs(short.Float()-a.Add(b).Float()) > 1e-6*math.Max(1, math.Abs(short.Float())) || abs(short.N) > maxTerm || short.D > maxTerm {
					t.Fatalf("%v is %v in short", a.Add(b), short)
				}
			}
			if got := a.Add(b); big1(got).Cmp(want) != 0 || got.D <= 0 || got != NewRat(got.N, got.D) {
				t.Fatalf("%v and %v are %v, not %v", a, b, got, want)
			}
		}
	}
}
