package words

import (
	"math"
	"testing"
)

// What counters read, by facts of the trade: a digit is added, all nines, decimals, below nothing,
// downwards (common practice, no source).
func TestWhatCountersRead(t *testing.T) {
	for _, c := range []struct {
		c    Counter
		want string
	}{
		{Counter{Values: []float64{999, 1000}, Done: 0}, "999"}, {Counter{Values: []float64{999, 1000}, Done: 0.999}, "999"}, {Counter{Values: []float64{999, 1000}, Done: 1}, "1,000"},
		{Counter{Values: []float64{99999, 100000}, Done: 1}, "100,000"}, {Counter{Values: []float64{999999, 1000000}, Done: 1}, "1,000,000"},
		{Counter{Values: []float64{0, 999999999}, Done: 1}, "999,999,999"},
		{Counter{Values: []float64{0, 12.34}, Done: 1, Decimals: 2}, "12.34"}, {Counter{Values: []float64{0, 0.1 + 0.2}, Done: 1, Decimals: 1}, "0.3"}, {Counter{Values: []float64{0, 1.005}, Done: 1, Decimals: 2}, "1.01"},
		{Counter{Values: []float64{0, 12.3}, Done: 1, Decimals: 2, Locale: "de"}, "12,30"}, {Counter{Values: []float64{0, 1234567}, Done: 1, Locale: "de"}, "1.234.567"},
		{Counter{Values: []float64{0, 12345678}, Done: 1, Locale: "hi"}, "1,23,45,678"}, {Counter{Values: []float64{0, 1234567}, Done: 1, Plain: true}, "1234567"},
		{Counter{Values: []float64{10, -1200}, Done: 1}, "\u22121,200"}, {Counter{Values: []float64{-5, 5}, Done: 1, Plus: true}, "+5"}, {Counter{Values: []float64{1, -1}, Done: 0.4}, "1"},
		{Counter{Values: []float64{100, 90}, Done: 0.95}, "91"}, {Counter{Values: []float64{100, 90}, Done: 1}, "90"},
		{Counter{Values: []float64{0, 7}, Done: 1, Digits: 3}, "007"}, {Counter{Values: []float64{0, 10, 100}, Done: 0.5}, "10"}, {Counter{Values: []float64{0, 10, 100}, Done: 0.75}, "55"},
		{Counter{Values: []float64{42}, Done: 0.3}, "42"}, {Counter{}, "0"},
	} {
		if got := c.c.Text(); got != c.want {
			t.Errorf("%+v reads %q, not %q", c.c, got, c.want)
		}
	}
}

// Figures are rounded and set off as Intl.NumberFormat of ICU 78 with CLDR 48 does (Node 20): half away from nothing on the decimal that was
// typed, and thousands marks on four digits only where the language has them there.
func TestFiguresAgreeWithIntl(t *testing.T) {
	for _, c := range []struct {
		v        float64
		decimals int
		locale   string
		want     string
	}{
		{1.005, 2, "en", "1.01"}, {0.285, 2, "en", "0.29"}, {1.255, 2, "en", "1.26"}, {-1.005, 2, "en", "\u22121.01"}, {2.5, 0, "en", "3"}, {-2.5, 0, "en", "\u22123"},
		{1.0049, 2, "en", "1.00"}, {1e9, 2, "en", "1,000,000,000.00"}, {0, 2, "en", "0.00"},
		{1234, 0, "en", "1,234"}, {1234, 0, "de", "1.234"}, {1234, 0, "sv", "1\u00a0234"}, {1234, 0, "pt-BR", "1.234"},
		{1234, 0, "pt-PT", "1234"}, {12345, 0, "pt-PT", "12\u00a0345"}, {1234, 0, "hu", "1234"}, {12345, 0, "hu", "12\u00a0345"}, {1234, 0, "bg", "1234"}, {1234, 0, "sl", "1234"},
		{12345, 0, "sl", "12.345"}, {1234, 0, "et", "1234"}, {1234, 0, "lv", "1234"}, {1234, 0, "it-CH", "1234"}, {1234, 0, "es", "1234"}, {12345, 0, "es", "12.345"}, {1234, 0, "pl", "1234"},
	} {
		n := Counter{Values: []float64{c.v}, Decimals: c.decimals, Locale: c.locale, Done: 1}
		if got := n.Text(); got != c.want {
			t.Errorf("%g in %s reads %q, not %q", c.v, c.locale, got, c.want)
		}
	}
}

// At its end a counter shows its end value whatever it is, and never before: 4000 random ones.
func TestCountersEndAtTheirEnd(t *testing.T) {
	r := seeded(11)
	for range 4000 {
		c := Counter{Decimals: r.IntN(MaxDecimals + 1), Locale: []string{"en", "de", "fr", "hi", "de-CH"}[r.IntN(5)], Roll: r.IntN(2) == 0}
		round := func(v float64) float64 {
			return math.Round(v*math.Pow(10, float64(c.Decimals))) / math.Pow(10, float64(c.Decimals))
		}
		a, b := round((2*r.Float64()-1)*math.Pow(10, float64(r.IntN(9)))), round((2*r.Float64()-1)*math.Pow(10, float64(r.IntN(9))))
		c.Values, c.Done = []float64{a, b}, 1
		end := Counter{Values: []float64{b}, Decimals: c.Decimals, Locale: c.Locale}
		if c.Text() != end.Text() || c.At() != end.At() {
			t.Fatalf("from %g to %g it ends at %s, not %s", a, b, c.Text(), end.Text())
		}
		if c.Done = 0.9999999; math.Abs(b-a)*math.Pow(10, float64(c.Decimals)) >= 1 && c.Shows() == end.At() && math.Abs(c.At()-end.At()) > slightly {
			t.Fatalf("from %g to %g it shows its end before it is there", a, b)
		}
	}
}

// Wheels turn one by one, as on a machine that counts: one stands while those to its right count, and
// turns with the last step of them.
func TestWheelsTurnOneByOne(t *testing.T) {
	for _, c := range []struct {
		x    float64
		k    int
		want float64
	}{{7.25, 0, 7.25}, {7.25, 1, 0}, {9.25, 1, 0.25}, {19.5, 1, 1.5}, {99.5, 2, 0.5}, {98.5, 2, 0}, {999.75, 3, 0.75}, {1000, 3, 1}} {
		if got := wheel(c.x, c.k); math.Abs(got-c.want) > 1e-9 {
			t.Errorf("wheel %d at %g has turned by %g, not %g", c.k, c.x, got, c.want)
		}
	}
}

// A digit that is added moves the rest smoothly: no place jumps by more than a few hundredths of a
// digit's room from one small step to the next, and digits stay in their cells.
func TestAddedDigitsMoveTheRestSmoothly(t *testing.T) {
	fam := family(t, "figtree-latin")
	s := NewSetter()
	for _, values := range [][]float64{{990, 1010}, {99995, 100005}, {12, 8}, {3, -3}, {999999, 1000001}} {
		last := -1.0
		for i := range 4001 {
			c := Counter{Values: values, Done: float64(i) / 4000, Roll: true}
			v := s.Count(&Spec{Style: Style{Family: fam}, Size: 100, Leading: 1.2, W: 1000, Align: End}, &c)
			if v.Lines[0].Right > 1000+1e-6 {
				t.Fatalf("%v: beyond its box", values)
			}
			if w := v.Box.W; last >= 0 && math.Abs(w-last) > 3 {
				t.Fatalf("%v at %.4f: its width jumps from %g to %g", values, c.Done, last, w)
			} else {
				last = w
			}
		}
	}
	// At its end it stands still, uncut, as the plain figures of one width would.
	c := Counter{Values: []float64{0, 1234}, Done: 1, Roll: true}
	v := s.Count(&Spec{Style: Style{Family: fam}, Size: 100, Leading: 1.2}, &c)
	if v.Turning > 0 || len(v.Letters) != 5 {
		t.Errorf("%d of %d letters turn", v.Turning, len(v.Letters))
	}
}
