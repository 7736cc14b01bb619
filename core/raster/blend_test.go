package raster

import (
	"math"
	"math/big"
	"math/rand/v2"
	"testing"

	"ivypocket/core/geom"
)

// one and two are exact numbers.
var (
	zero = big.NewRat(0, 1)
	one  = big.NewRat(1, 1)
	half = big.NewRat(1, 2)
)

func add2(a, b *big.Rat) *big.Rat { return new(big.Rat).Add(a, b) }
func sub(a, b *big.Rat) *big.Rat  { return new(big.Rat).Sub(a, b) }
func mul(a, b *big.Rat) *big.Rat  { return new(big.Rat).Mul(a, b) }
func div(a, b *big.Rat) *big.Rat  { return new(big.Rat).Quo(a, b) }
func least(a, b *big.Rat) *big.Rat {
	if a.Cmp(b) < 0 {
		return a
	}
	return b
}
func most(a, b *big.Rat) *big.Rat {
	if a.Cmp(b) > 0 {
		return a
	}
	return b
}

// formula is B(cb, cs) of W3C Compositing and Blending Level 1, section 10.1, in
// exact fractions; nil for modes that have none there. The square root in
// soft-light is taken to 60 bits.
func formula(mode Blend, cb, cs *big.Rat) *big.Rat {
	screen := func(a, b *big.Rat) *big.Rat { return sub(add2(a, b), mul(a, b)) }
	hard := func(cb, cs *big.Rat) *big.Rat {
		two := mul(big.NewRat(2, 1), cs)
		if cs.Cmp(half) <= 0 {
			return mul(cb, two)
		}
		return screen(cb, sub(two, one))
	}
	switch mode {
	case Normal:
		return cs
	case Multiply:
		return mul(cb, cs)
	case Screen:
		return screen(cb, cs)
	case Overlay:
		return hard(cs, cb)
	case Darken:
		return least(cb, cs)
	case Lighten:
		return most(cb, cs)
	case ColorDodge:
		switch {
		case cb.Sign() == 0:
			return zero
		case cs.Cmp(one) == 0:
			return one
		}
		return least(one, div(cb, sub(one, cs)))
	case ColorBurn:
		switch {
		case cb.Cmp(one) == 0:
			return one
		case cs.Sign() == 0:
			return zero
		}
		return sub(one, least(one, div(sub(one, cb), cs)))
	case HardLight:
		return hard(cb, cs)
	case SoftLight:
		k := sub(one, mul(big.NewRat(2, 1), cs))
		if cs.Cmp(half) <= 0 {
			return sub(cb, mul(k, mul(cb, sub(one, cb))))
		}
		d := new(big.Rat)
		if cb.Cmp(big.NewRat(1, 4)) <= 0 {
			d = mul(add2(mul(sub(mul(big.NewRat(16, 1), cb), big.NewRat(12, 1)), cb), big.NewRat(4, 1)), cb)
		} else {
			f, _ := cb.Float64()
			d.SetFloat64(math.Sqrt(f))
		}
		return sub(cb, mul(k, sub(d, cb)))
	case Difference:
		return sub(most(cb, cs), least(cb, cs))
	case Exclusion:
		return sub(add2(cb, cs), mul(big.NewRat(2, 1), mul(cb, cs)))
	}
	return nil
}

// W3C Compositing and Blending Level 1, section 9.1.4 and 10.1, in exact
// arithmetic: every separable mode, premultiplied, on random pixels and on those
// where formulas change their ways, to 1/255.
func TestBlendsAreTheFormulas(t *testing.T) {
	rng := rand.New(rand.NewPCG(10, 1))
	edge := []uint8{0, 1, 63, 64, 127, 128, 254, 255}
	channel := func(a uint8) uint8 {
		if rng.IntN(3) == 0 {
			return min(a, edge[rng.IntN(len(edge))])
		}
		return uint8(rng.IntN(int(a) + 1))
	}
	for mode := Normal; mode < Hue; mode++ {
		for range 1500 {
			sa, da := edge[rng.IntN(len(edge))], edge[rng.IntN(len(edge))]
			if rng.IntN(2) == 0 {
				sa, da = uint8(rng.Uint32()), uint8(rng.Uint32())
			}
			s, d := [4]uint8{channel(sa), channel(sa), channel(sa), sa}, [4]uint8{channel(da), channel(da), channel(da), da}
			got := d
			blendRow(got[:], s[:], mode)
			share := func(v uint8) *big.Rat { return big.NewRat(int64(v), 255) }
			as, ab := share(sa), share(da)
			for k := range 3 {
				want := add2(mul(share(s[k]), sub(one, ab)), mul(share(d[k]), sub(one, as)))
				if sa > 0 && da > 0 {
					want = add2(want, mul(mul(as, ab), formula(mode, div(share(d[k]), ab), div(share(s[k]), as))))
				}
				w, _ := want.Float64()
				if math.Abs(float64(got[k])-w*255) > 1 {
					t.Fatalf("%s of %v on %v: channel %d is %d, want %.3f", mode, s, d, k, got[k], w*255)
				}
			}
			alpha, _ := sub(add2(as, ab), mul(as, ab)).Float64()
			if math.Abs(float64(got[3])-alpha*255) > 0.51 {
				t.Fatalf("%s of %v on %v: alpha %d", mode, s, d, got[3])
			}
		}
	}
}

// Section 10.2 in its own words: hue takes the source's hue and the backdrop's
// saturation and luminosity, and so on. Worked by hand for opaque colours.
func TestNonSeparableBlendsKeepWhatTheyAreNamedAfter(t *testing.T) {
	rng := rand.New(rand.NewPCG(10, 2))
	l := func(p [4]uint8) float64 { return 0.3*float64(p[0]) + 0.59*float64(p[1]) + 0.11*float64(p[2]) }
	spread := func(p [4]uint8) int { return int(max(p[0], p[1], p[2])) - int(min(p[0], p[1], p[2])) }
	for range 3000 {
		s := [4]uint8{uint8(rng.Uint32()), uint8(rng.Uint32()), uint8(rng.Uint32()), 255}
		d := [4]uint8{uint8(rng.Uint32()), uint8(rng.Uint32()), uint8(rng.Uint32()), 255}
		for mode := Hue; mode <= Luminosity; mode++ {
			got := d
			blendRow(got[:], s[:], mode)
			want := l(d)
			if mode == Luminosity {
				want = l(s)
			}
			if math.Abs(l(got)-want) > 1 {
				t.Fatalf("%s of %v on %v: luminosity %.1f, want %.1f", mode, s, d, l(got), want)
			}
			if mode == Saturation && spread(s) == 0 && spread(got) > 1 {
				t.Fatalf("grey's saturation on %v makes %v", d, got)
			}
			if mode == Hue && spread(d) == 0 && spread(got) > 1 {
				t.Fatalf("a hue on grey %v makes %v", d, got)
			}
		}
	}
}

// No mode makes a colour that exceeds its alpha, and a flat source blends as any
// other does.
func TestBlendsStayPremultipliedAndFlatOnesAreTheSame(t *testing.T) {
	for mode := Normal; mode <= Add; mode++ {
		a, b := noise(97, 1, false, uint64(mode)), noise(97, 1, false, uint64(mode)+50)
		for i := 0; i < 97*4; i += 8 {
			b.Pix[i+3] = 255
		}
		px := load(a.Pix, 8)
		flat, row := &Surface{W: 97, H: 1, Pix: append([]uint8(nil), b.Pix...)}, append([]uint8(nil), b.Pix...)
		f := Flat{px}
		var cut Cut
		flat.Paint(0, 1, &f, &cut, 1, mode, &Brush{})
		src := make([]uint8, len(row))
		fillRow(src, px)
		blendRow(row, src, mode)
		for i := range row {
			if row[i] != flat.Pix[i] {
				t.Fatalf("%s, byte %d: %d, a flat source makes %d", mode, i, row[i], flat.Pix[i])
			}
		}
		blendRow(b.Pix, a.Pix, mode)
		for i := 0; i < len(b.Pix); i += 4 {
			if m := b.Pix[i+3]; max(b.Pix[i], b.Pix[i+1], b.Pix[i+2]) > m {
				t.Fatalf("%s: %v", mode, b.Pix[i:i+4])
			}
		}
	}
}

// ASC Color Decision List 1.2, "ASC CDL Transfer Functions": out = (in · slope +
// offset) ^ power, clamped between 0 and 1 before and after; then saturation
// about BT.709 luma, the reference's order. In floating point, to 1/255.
func TestGradesAreTheASCsFunctions(t *testing.T) {
	rng := rand.New(rand.NewPCG(12, 1))
	for range 300 {
		var g Grade
		for k := range 3 {
			g.Slope[k], g.Offset[k], g.Power[k] = rng.Float64()*3, rng.Float64()-0.5, 0.3+rng.Float64()*2
		}
		g.Saturation = rng.Float64() * 2
		var made Grader
		made.Set(&g)
		for range 20 {
			in := [4]uint8{uint8(rng.Uint32()), uint8(rng.Uint32()), uint8(rng.Uint32()), 255}
			var out [3]float64
			for k := range out {
				v := math.Max(0, math.Min(1, float64(in[k])/255*g.Slope[k]+g.Offset[k]))
				out[k] = math.Max(0, math.Min(1, math.Pow(v, g.Power[k])))
			}
			luma := 0.2126*out[0] + 0.7152*out[1] + 0.0722*out[2]
			got := in
			made.row(got[:], nil)
			for k := range out {
				want := math.Max(0, math.Min(1, luma+g.Saturation*(out[k]-luma))) * 255
				if math.Abs(float64(got[k])-want) > 0.51 {
					t.Fatalf("%+v of %v: %v, channel %d should be %.2f", g, in, got, k, want)
				}
			}
		}
	}
	var none Grader
	none.Set(&NoGrade)
	s := noise(40, 3, false, 2)
	want := append([]uint8(nil), s.Pix...)
	none.row(s.Pix, nil)
	for i := range want {
		if d := int(s.Pix[i]) - int(want[i]); max(d, -d) > 1 {
			t.Fatalf("no grade changes %d to %d", want[i], s.Pix[i])
		}
	}
}

// A slow gradient is dithered: over any 8×8 pixels its mean is the exact colour
// to 1/16 of a step, where it would otherwise stand in bands as wide as a step.
func TestSlowGradientsHaveNoBands(t *testing.T) {
	g := NewGradient(Linear, []Stop{{0, [4]uint8{100, 100, 100, 255}}, {1, [4]uint8{108, 108, 108, 255}}}, true)
	sh, ok := g.Lay(geom.Point{}, geom.Point{X: 1600}, geom.Identity.Flat())
	if !ok {
		t.Fatal("not laid")
	}
	rows := make([][]uint8, 8)
	for y := range rows {
		buf := make([]uint8, 1600*4)
		rows[y], _ = sh.Row(buf, 0, 0, 1600, y)
	}
	for x := 0; x+8 <= 1600; x += 8 {
		sum := 0.0
		for _, r := range rows {
			for k := range 8 {
				sum += float64(r[(x+k)*4])
			}
		}
		if want := 100 + 8*float64(x+4)/1600; math.Abs(sum/64-want) > 1.0/16 {
			t.Fatalf("at %d the mean is %.3f, want %.3f", x, sum/64, want)
		}
	}
}

// The traced outline of a disc lies on its edge, its hull has its area, and
// its box is its square, in pixels of any size.
func TestTracesLieOnTheEdge(t *testing.T) {
	const n, r = 200, 70.3
	s := NewSurface(n, n)
	for y := range n {
		for x := range n {
			c := math.Max(0, math.Min(1, r-math.Hypot(float64(x)+0.5-100, float64(y)+0.5-100)+0.5))
			s.Pix[(y*n+x)*4+3] = uint8(c*255 + 0.5)
		}
	}
	tr := NewTrace(s)
	for _, of := range []string{"outline", "hull"} {
		l := tr.Lines(of, geom.Size{W: 400, H: 400})
		if len(l.Ends) != 1 {
			t.Fatalf("%s has %d lines", of, len(l.Ends))
		}
		area := 0.0
		for i, p := range l.Points {
			q := l.Points[(i+1)%len(l.Points)]
			area += (p.X*q.Y - q.X*p.Y) / 2
			if d := math.Hypot(p.X-200, p.Y-200); math.Abs(d-2*r) > 1.2 {
				t.Errorf("%s: a point is %.2f from the middle, want %.2f", of, d, 2*r)
			}
		}
		if want := math.Pi * 4 * r * r; math.Abs(math.Abs(area)-want)/want > 0.01 {
			t.Errorf("%s: area %.0f, want %.0f", of, area, want)
		}
	}
	b := tr.Lines("box", geom.Size{W: 400, H: 400}).Bounds()
	if math.Abs(b.X-(200-2*r)) > 1.5 || math.Abs(b.W-4*r) > 3 {
		t.Errorf("the box is %v", b)
	}
	if l := NewTrace(NewSurface(10, 10)).Lines("outline", geom.Size{W: 10, H: 10}); len(l.Ends) != 0 {
		t.Error("nothing has an outline")
	}
}
