package timing

import (
	"math"
	"math/rand/v2"
	"strings"
	"testing"
)

func track(t *testing.T, width int, b Blend, keys ...Key) *Track {
	t.Helper()
	tr, err := NewTrack(keys, width, b)
	if err != nil {
		t.Fatal(err)
	}
	return tr
}

func value(tr *Track, at Rat) []float64 {
	out := make([]float64, tr.Width())
	tr.Value(TemplateTime{at}, out)
	return out
}

func TestTracksHoldEaseAndEnd(t *testing.T) {
	hard := Easing{0.9, 0, 0.1, 1}
	tr := track(t, 2, Plain, Key{At: Int(10), Value: []float64{0, 4}, Ease: &hard}, Key{At: Int(20), Value: []float64{1, 8}, Hold: true}, Key{At: Int(30), Value: []float64{5, 0}})
	for _, c := range []struct {
		at   Rat
		want [2]float64
	}{
		{Int(0), [2]float64{0, 4}}, {Int(15), [2]float64{0.5, 6}}, {Int(20), [2]float64{1, 8}},
		{NewRat(599, 20), [2]float64{1, 8}}, {Int(30), [2]float64{5, 0}}, {Int(99), [2]float64{5, 0}},
	} {
		if got := value(tr, c.at); math.Abs(got[0]-c.want[0]) > 1e-9 || math.Abs(got[1]-c.want[1]) > 1e-9 {
			t.Errorf("at %s: %v, want %v", c.at, got, c.want)
		}
	}
}

func TestTracksSayWhichKeyIsAtFault(t *testing.T) {
	v := []float64{1}
	for want, keys := range map[string][]Key{
		": has no keys":                         {},
		"[1].at: 5 is not after the key before": {{At: Int(5), Value: v}, {At: Int(5), Value: v}},
		"[0].value: has 2 numbers, not 1":       {{At: Int(5), Value: []float64{1, 2}}},
		"[0].at: is missing":                    {{Value: v}},
		"[0].ease[2]: 1.5 is outside 0 to 1":    {{At: Int(1), Value: v, Ease: &Easing{0, 0, 1.5, 0}}},
		"[0].value: is not a finite number":     {{At: Int(1), Value: []float64{math.NaN()}}},
	} {
		if _, err := NewTrack(keys, 1, Plain); err == nil || !strings.HasPrefix(err.Error(), want) {
			t.Errorf("%v, want %q", err, want)
		}
	}
}

// CSS Color Level 4, 12.3, interpolating with alpha: colours are mixed
// premultiplied, so half-way from opaque red to clear blue is half-clear red.
func TestColoursMixPremultiplied(t *testing.T) {
	tr := track(t, 4, Colours, Key{At: Int(0), Value: []float64{255, 0, 0, 255}}, Key{At: Int(10), Value: []float64{0, 0, 255, 0}})
	if got := value(tr, Int(5)); got[0] != 255 || got[2] != 0 || got[3] != 127.5 {
		t.Errorf("half-way: %v", got)
	}
	tr = track(t, 4, Colours, Key{At: Int(0), Value: []float64{200, 0, 0, 255}}, Key{At: Int(10), Value: []float64{100, 0, 50, 255}})
	if got := value(tr, Int(5)); got[0] != 150 || got[2] != 25 || got[3] != 255 {
		t.Errorf("opaque half-way: %v", got)
	}
}

// Equal progress is equal length along a curved way: its length is measured
// here by 200 000 straight steps.
func TestEvenSpeedAlongPaths(t *testing.T) {
	a := Key{At: Int(0), Value: []float64{0, 0}, Out: [2]float64{0.1, -2}}
	b := Key{At: Int(100), Value: []float64{3, 1}, In: [2]float64{2, 0.5}}
	even, plain := track(t, 2, EvenPlaces, a, b), track(t, 2, Places, a, b)
	const n = 200000
	x := [4]float64{0, 0.1, 5, 3}
	y := [4]float64{0, -2, 1.5, 1}
	sum := make([]float64, n+1)
	for i := 1; i <= n; i++ {
		u, v := float64(i-1)/n, float64(i)/n
		sum[i] = sum[i-1] + math.Hypot(pointOf(x, v)-pointOf(x, u), pointOf(y, v)-pointOf(y, u))
	}
	for p := 0.0; p <= 1; p += 0.05 {
		k := 0
		for sum[k] < p*sum[n] && k < n {
			k++
		}
		u := float64(k) / n
		got := value(even, NewRat(int64(math.Round(p*100)), 1))
		if d := math.Hypot(got[0]-pointOf(x, u), got[1]-pointOf(y, u)); d > 1e-3*sum[n] {
			t.Errorf("at %g of the way it is %g off", p, d)
		}
	}
	if e, q := value(even, Int(50)), value(plain, Int(50)); math.Hypot(e[0]-q[0], e[1]-q[1]) < 0.01 {
		t.Error("even speed and plain progress are the same; the curve tests nothing")
	}
	// Its speed is the same all along.
	v := make([]float64, 2)
	for f := int64(1); f < 100; f += 7 {
		even.Speed(TemplateTime{Int(f)}, v)
		if got := math.Hypot(v[0], v[1]); math.Abs(got-sum[n]/100) > 1e-3 {
			t.Errorf("speed at %d: %g, want %g", f, got, sum[n]/100)
		}
	}
}

func TestKeysWithoutTimeArePassedEvenly(t *testing.T) {
	tr := track(t, 2, EvenPlaces, Key{At: Int(0), Value: []float64{0, 0}}, Key{Value: []float64{3, 0}}, Key{Value: []float64{3, 1}}, Key{At: Int(40), Value: []float64{3, 6}})
	for at, want := range map[int64][2]float64{4: {0.9, 0}, 12: {2.7, 0}, 30: {3, 3.75}} {
		if got := value(tr, Int(at)); math.Hypot(got[0]-want[0], got[1]-want[1]) > 1e-3 {
			t.Errorf("at %d: %v, want %v", at, got, want)
		}
	}
	if _, err := NewTrack([]Key{{Value: []float64{0, 0}}, {At: Int(3), Value: []float64{1, 1}}}, 2, EvenPlaces); err == nil {
		t.Error("a first key without a time was taken")
	}
}

// Speed is the derivative: what finite differences of the value give.
func TestSpeedIsTheDerivative(t *testing.T) {
	rnd := rand.New(rand.NewPCG(4, 2))
	for range 300 {
		e := Easing{rnd.Float64(), rnd.Float64()*3 - 1, rnd.Float64(), rnd.Float64()*3 - 1}
		tr := track(t, 2, Places,
			Key{At: Int(0), Value: []float64{0, 0}, Ease: &e, Out: [2]float64{rnd.Float64(), rnd.Float64()}},
			Key{At: Int(100), Value: []float64{1, 2}, In: [2]float64{-rnd.Float64(), -rnd.Float64()}})
		at := NewRat(int64(5000+rnd.IntN(90000)), 1000)
		const h = 1000000
		a, b, v := value(tr, at.Sub(NewRat(1, h))), value(tr, at.Add(NewRat(1, h))), make([]float64, 2)
		tr.Speed(TemplateTime{at}, v)
		for k := range v {
			if want := (b[k] - a[k]) * h / 2; math.Abs(v[k]-want) > 1e-3*(1+math.Abs(want)) {
				t.Fatalf("%v at %s: speed %g, differences give %g", e, at, v[k], want)
			}
		}
	}
}

// The area under the speed is the change of the value: of numbers, places and colours over several keys, eased far beyond
// their ends, held ones and ones without time among them (the fundamental theorem of calculus, by Simpson's rule).
func TestTheAreaUnderSpeedIsTheChangeOfValue(t *testing.T) {
	rnd := rand.New(rand.NewPCG(8, 15))
	for round := range 120 {
		blend, width := []Blend{Plain, Places, EvenPlaces}[round%3], 2
		var keys []Key
		for i := range 4 {
			k := Key{At: Int(int64(30 * i)), Value: []float64{rnd.Float64() * 4, rnd.Float64() * 4}}
			if rnd.IntN(3) > 0 {
				k.Ease = &Easing{0.1 + 0.8*rnd.Float64(), rnd.Float64()*2 - 0.5, 0.1 + 0.8*rnd.Float64(), rnd.Float64()*2 - 0.5}
			}
			if blend != Plain {
				k.Out, k.In = [2]float64{rnd.Float64() - 0.5, rnd.Float64() - 0.5}, [2]float64{rnd.Float64() - 0.5, rnd.Float64() - 0.5}
			}
			keys = append(keys, k)
		}
		tr := track(t, width, blend, keys...)
		area, v := make([]float64, width), make([]float64, width)
		const n = 4000 // of each stretch, so that its ends are ends of intervals
		for i := range 3 {
			for k := 0; k <= n; k++ {
				at := NewRat(int64(30*(i*n+k)), n)
				if tr.Speed(TemplateTime{at}, v); k == n {
					tr.SpeedBefore(TemplateTime{at}, v)
				}
				w := 2.0
				if k == 0 || k == n {
					w = 1
				} else if k%2 == 1 {
					w = 4
				}
				for j := range v {
					area[j] += w * v[j] * 30 / n / 3
				}
			}
		}
		for j := range area {
			if want := keys[3].Value[j] - keys[0].Value[j]; math.Abs(area[j]-want) > 0.01*(1+math.Abs(want)) {
				t.Errorf("%v: the area is %g, the change %g", blend, area[j], want)
			}
		}
	}
}

// A 300-frame template at 30 fps whose first 20 frames are a fade: unheld it
// takes 40 frames at 600 and 10 at 150, held always 20. With 120 frames held at
// each end, 60 are elastic, 360 of them in a piece of 600, and no piece is
// shorter than 240 (common practice, no source; the rest is arithmetic).
func TestSpansOfTheTrade(t *testing.T) {
	r := rate(t, "30")
	fade := func(spans []Span, length int64) OutputFrame {
		m, err := NewMap(r, 300, spans, length)
		if err != nil {
			t.Fatal(err)
		}
		return m.Frame(TemplateTime{Int(20)})
	}
	held := []Span{{Kind: Held, From: 0, To: 20}}
	for _, c := range []struct {
		spans  []Span
		length int64
		want   OutputFrame
	}{{nil, 600, 40}, {nil, 150, 10}, {held, 600, 20}, {held, 150, 20}} {
		if got := fade(c.spans, c.length); got != c.want {
			t.Errorf("%v at %d frames: the fade ends at %d, want %d", c.spans, c.length, got, c.want)
		}
	}
	ends := []Span{{Kind: Held, From: 0, To: 120}, {Kind: Held, From: 180, To: 300}}
	if got := Shortest(ends); got != 240 {
		t.Errorf("shortest %d, want 240", got)
	}
	m, err := NewMap(r, 300, ends, 600)
	if err != nil {
		t.Fatal(err)
	}
	if a, b := m.Output(TemplateTime{Int(120)}), m.Output(TemplateTime{Int(180)}); b.Sub(a) != Int(360) {
		t.Errorf("the elastic part takes %s frames, want 360", b.Sub(a))
	}
	if _, err := NewMap(r, 300, ends, 239); err == nil {
		t.Error("239 frames were taken")
	}
	if _, err := NewMap(r, 300, ends, 240); err != nil {
		t.Error(err)
	}
	if _, err := NewMap(r, 300, []Span{{Kind: Held, From: 0, To: 300}}, 301); err == nil {
		t.Error("a template that holds everything was stretched")
	}
}

// The map never goes back, begins at 0, ends with the template, and shows every
// held span frame by frame as the template does.
func TestStretchingKeepsHeldSpansAndOrder(t *testing.T) {
	rnd := rand.New(rand.NewPCG(7, 7))
	for range 2000 {
		frames := int64(1 + rnd.IntN(500))
		var spans []Span
		for at := int64(0); at < frames && len(spans) < 8; {
			from := at + int64(rnd.IntN(30))
			to := from + 1 + int64(rnd.IntN(60))
			if to > frames {
				break
			}
			spans = append(spans, Span{Kind: []SpanKind{Held, Elastic}[rnd.IntN(2)], From: from, To: to})
			at = to
		}
		if err := ValidateSpans(spans, frames); err != nil {
			t.Fatal(err)
		}
		if !Stretches(spans, frames) {
			continue
		}
		length := Shortest(spans) + int64(rnd.IntN(900))
		m, err := NewMap(Rate{Int(30)}, frames, spans, length)
		if err != nil {
			t.Fatal(err)
		}
		if got := m.Moment(Int(0)).Template.Rat; m.pieces == nil && got != Int(0) {
			t.Fatalf("begins at %s", got)
		}
		last := Int(-1)
		for f := range length * 3 {
			now := m.Moment(NewRat(f, 3)).Template.Rat
			if now.Cmp(last) < 0 || now.N < 0 || now.Cmp(Int(frames)) >= 0 {
				t.Fatalf("%v, %d of %d: time goes from %s to %s", spans, length, frames, last, now)
			}
			last = now
		}
		if end := m.Moment(Int(length)).Template.Rat; end.Cmp(Int(frames)) != 0 {
			t.Fatalf("%v: the output's end is template frame %s of %d", spans, end, frames)
		}
		for _, s := range spans {
			if s.Kind != Held {
				continue
			}
			at := m.Output(TemplateTime{Int(s.From)})
			if at.D != 1 {
				t.Fatalf("a held span begins between frames, at %s", at)
			}
			for n := range s.To - s.From {
				if got := m.At(OutputFrame(at.N + n)).Template.Rat; got != Int(s.From+n) {
					t.Fatalf("%v, %d of %d: held frame %d shows %s", spans, length, frames, s.From+n, got)
				}
			}
		}
		// Onto: every instant of elastic time that was not shrunk away is met.
		for _, p := range m.pieces {
			if p.to > p.from {
				mid := NewRat(p.span.From+p.span.To, 2)
				if got := m.Moment(m.Output(TemplateTime{mid})).Template.Rat; got != mid {
					t.Fatalf("template time %s comes back as %s", mid, got)
				}
			}
		}
	}
}

func TestFootageKeepsItsSpeedInElasticTime(t *testing.T) {
	m, err := NewMap(Rate{Int(30)}, 100, []Span{{Kind: Held, From: 0, To: 20}, {Kind: Held, From: 80, To: 100}}, 400)
	if err != nil {
		t.Fatal(err)
	}
	clip := Even(Rate{Int(30)}, 1000)
	for f := OutputFrame(0); f < 400; f++ {
		if got := m.Source(m.At(f), TemplateTime{Int(0)}, &clip, Play{}); int64(got) != int64(f) {
			t.Fatalf("output frame %d shows frame %d of a clip of the same rate", f, got)
		}
	}
	// A view that begins in the elastic span starts its clip there.
	start := TemplateTime{Int(50)}
	at := m.Frame(start)
	if got := m.Source(m.At(at+7), start, &clip, Play{}); got != 7 {
		t.Errorf("7 frames after its start the clip is at %d", got)
	}
}

func TestSpanFaults(t *testing.T) {
	for want, spans := range map[string][]Span{
		"[0].kind": {{Kind: "soft", From: 0, To: 5}}, "[1].from": {{Kind: Held, From: 0, To: 5}, {Kind: Held, From: 4, To: 9}}, "[0].to": {{Kind: Held, From: 5, To: 5}},
		"[1].to": {{Kind: Held, From: 0, To: 5}, {Kind: Elastic, From: 5, To: 11}},
	} {
		if err := ValidateSpans(spans, 10); err == nil || !strings.HasPrefix(err.Error(), want) {
			t.Errorf("%v: %v, want %s", spans, err, want)
		}
	}
}

// Even is even on the canvas: a way in shares of 200 × 100 px goes as far in each of its frames, in
// px, round a curve and from one stretch to the next.
func TestEvenWaysAreEvenOnTheCanvas(t *testing.T) {
	tr, err := NewWay([]Key{{At: Int(0), Value: []float64{0, 0}, Out: [2]float64{0, 1}}, {Value: []float64{1, 1}, In: [2]float64{-0.5, 0}}, {At: Int(100), Value: []float64{1, 0}}}, true, [2]float64{200, 100})
	if err != nil {
		t.Fatal(err)
	}
	length, steps := 0.0, []float64{}
	for k := range 1000 {
		a, b := value(tr, NewRat(int64(k), 10)), value(tr, NewRat(int64(k+1), 10))
		steps = append(steps, math.Hypot((b[0]-a[0])*200, (b[1]-a[1])*100))
		length += steps[k]
	}
	for k, step := range steps {
		if math.Abs(step-length/1000) > 0.02*length/1000 && math.Abs(float64(k)/10-tr.Keys()[1].At.Float()) > 0.2 {
			t.Fatalf("in the step from %g it goes %g px, on average %g", float64(k)/10, step, length/1000)
		}
	}
}

// A stretch divided in two is the same way at the same times: curved and straight, even and not,
// eased and not, also beyond its ends. (The division is de Casteljau's, of the way and of the
// easing.) When says at which instant a way has come somewhere.
func TestStretchesAreDividedAsTheyAre(t *testing.T) {
	rng := rand.New(rand.NewPCG(3, 14))
	divided, refused := 0, 0
	for range 400 {
		number := func() float64 { return rng.Float64()*2 - 1 }
		a := Key{At: Int(10), Value: []float64{number(), number()}}
		b := Key{At: Int(10 + rng.Int64N(90) + 1), Value: []float64{number(), number()}}
		if rng.IntN(3) > 0 {
			a.Out, b.In = [2]float64{number(), number()}, [2]float64{number(), number()}
		}
		if rng.IntN(3) > 0 {
			a.Ease = &Easing{rng.Float64(), number() * 2, rng.Float64(), 1 + number()}
		}
		if a.Ease != nil && a.Ease[0] > a.Ease[2] { // crossed handles have no exact halves within their limits
			a.Ease[0], a.Ease[2] = a.Ease[2], a.Ease[0]
		}
		blend := []Blend{Places, EvenPlaces}[rng.IntN(2)]
		if a.Ease != nil && blend == EvenPlaces { // beyond its ends an even way is the curve's own, whose pace is another
			a.Ease[1], a.Ease[3] = math.Max(0, math.Min(1, a.Ease[1])), math.Max(0, math.Min(1, a.Ease[3]))
		}
		whole := track(t, 2, blend, a, b)
		at := whole.When(0, 0.05+rng.Float64()*0.9)
		first, middle, last, ok := whole.Divide(0, at)
		if !ok {
			refused++
			continue
		}
		divided++
		parts, err := NewTrack([]Key{first, middle, last}, 2, blend)
		if err != nil {
			t.Fatal(err)
		}
		for k := range 60 {
			now := a.At.Add(b.At.Sub(a.At).Mul(NewRat(int64(k), 59)))
			p, q := value(whole, now), value(parts, now)
			// The tables of lengths are as exact as a thousandth of the way.
			if math.Hypot(p[0]-q[0], p[1]-q[1]) > 2e-3 {
				t.Fatalf("at %s of %v to %v, divided at %s: %v, not %v", now, a, b, at, q, p)
			}
		}
	}
	if divided < 350 {
		t.Errorf("%d are divided, %d refused", divided, refused)
	}
	soft := Easing{0.8, 0, 0.2, 1}
	tr := track(t, 2, EvenPlaces, Key{At: Int(0), Value: []float64{0, 0}, Out: [2]float64{0, 0.6}, Ease: &soft}, Key{At: Int(40), Value: []float64{1, 0}, In: [2]float64{0, -0.1}})
	for _, u := range []float64{0.1, 0.4, 0.7} {
		got, c := value(tr, tr.When(0, u)), newArc(tr.Keys()[0], tr.Keys()[1], [2]float64{1, 1})
		if math.Hypot(got[0]-pointOf(c.x, u), got[1]-pointOf(c.y, u)) > 1e-3 {
			t.Errorf("at %g of the curve it is at %v", u, got)
		}
	}
	if _, _, _, ok := track(t, 2, Places, Key{At: Int(0), Value: []float64{0, 0}, Hold: true}, Key{At: Int(9), Value: []float64{1, 0}}).Divide(0, Int(3)); ok {
		t.Error("a way that is held is divided")
	}
}

// Keys of an even way that lie in one place are passed one after another all the same.
func TestEvenWaysPassKeysInOnePlace(t *testing.T) {
	at := func(x float64) Key { return Key{Value: []float64{x, 0}} }
	for _, keys := range [][]Key{{at(0), at(0), at(0), at(1), at(1), at(1)}, {at(0), at(1), at(1), at(1), at(2), at(2)}} {
		keys[0].At, keys[5].At = Int(0), NewRat(1, 5)
		tr := track(t, 2, EvenPlaces, keys...)
		for i, k := range tr.Keys()[1:] {
			if k.At.Cmp(tr.Keys()[i].At) <= 0 {
				t.Errorf("key %d is passed at %s, that before it at %s", i+1, k.At, tr.Keys()[i].At)
			}
		}
	}
}

// A step is made at its instant, whatever the share of the time rounds to; and speeds at a key are those of the ways
// before and after it.
func TestStepsAndSpeedsAtTheirInstants(t *testing.T) {
	for n := 1; n <= 200; n++ {
		for i := 0; i <= n; i++ {
			if got := (Steps{Count: n}).At(NewRat(int64(i), int64(n)).Float()); math.Abs(got-float64(i)/float64(n)) > 1e-9 {
				t.Fatalf("steps(%d) after %d: %g", n, i, got)
			}
		}
	}
	tr := track(t, 1, Plain, Key{At: Int(0), Value: []float64{0}}, Key{At: Int(10), Value: []float64{5}}, Key{At: Int(20), Value: []float64{5}, Hold: true}, Key{At: Int(30), Value: []float64{9}})
	v := make([]float64, 1)
	for at, want := range map[int64][2]float64{-5: {0, 0}, 0: {0, 0.5}, 5: {0.5, 0.5}, 10: {0.5, 0}, 20: {0, 0}, 25: {0, 0}, 30: {0, 0}, 40: {0, 0}} {
		tr.SpeedBefore(TemplateTime{Int(at)}, v)
		before := v[0]
		tr.Speed(TemplateTime{Int(at)}, v)
		if before != want[0] || v[0] != want[1] {
			t.Errorf("at %d it goes at %g before and %g after, not %v", at, before, v[0], want)
		}
	}
	back := (&Easing{0.1, -0.3, 0.7, 1.9}).Back()
	for x := 0.0; x <= 1; x += 0.05 {
		if got, want := back.At(x), 1-(Easing{0.1, -0.3, 0.7, 1.9}).At(1-x); math.Abs(got-want) > 1e-9 {
			t.Errorf("backwards at %g: %g, not %g", x, got, want)
		}
	}
	if again := back.Back(); *again != (Easing{0.1, -0.3, 0.7, 1.9}) {
		t.Errorf("backwards twice it is %v", *again)
	}
}

// Parts are all of the time, in order, and say of each where the map has it.
func TestPartsAreWhatTheMapShows(t *testing.T) {
	r := rate(t, "30")
	spans := []Span{{Kind: Held, From: 0, To: 20}, {ID: "end", Kind: Held, From: 80, To: 100}}
	for _, length := range []int64{40, 41, 100, 173, 400} {
		for _, at := range []string{"30", "24000/1001"} {
			long := r.Seen(length, rate(t, at))
			if long < r.Seen(40, rate(t, at)) {
				long++
			}
			m, err := SeenMap(r, 100, spans, rate(t, at), long)
			if err != nil {
				continue // a shorter one than the held spans, by the other clock
			}
			parts := m.Parts(spans, 100)
			if len(parts) != 3 || parts[2].ID != "end" || parts[0].At != Int(0) {
				t.Fatalf("%d at %s: %+v", length, at, parts)
			}
			for i, p := range parts {
				if i > 0 && p.At != parts[i-1].Until {
					t.Errorf("%d at %s: part %d begins at %s", length, at, i, p.At)
				}
				if p.At == p.Until {
					continue
				}
				mid := p.At.Add(p.Until).Div(Int(2))
				if got, want := m.Moment(mid).Template.Rat, Int(p.From+p.To).Div(Int(2)); got.Cmp(want) != 0 {
					t.Errorf("%d at %s: in the middle of part %d it shows %s, want %s", length, at, i, got, want)
				}
			}
		}
	}
	if got := Borders([]Span{{Kind: Held, From: 0, To: 20}, {Kind: Held, From: 20, To: 30}, {Kind: Elastic, From: 30, To: 40}, {Kind: Held, From: 60, To: 100}}, 100); len(got) != 2 || got[0] != 30 || got[1] != 60 {
		t.Errorf("borders %v", got)
	}
}
