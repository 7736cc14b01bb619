package geom

import (
	"math"
	"math/rand/v2"
	"testing"
)

// What an editor does stops at the limits, which count from the pocket's own framing;
// that framing itself, and all within, is left as it is.
func TestFramingStopsAtItsLimits(t *testing.T) {
	five, pan, zoom := 5.0, [2]float64{0.1, 0}, [2]float64{1, 2}
	own := DefaultFraming(Cover)
	own.Pan, own.Turn, own.Zoom = [2]float64{0.3, -0.2}, 40, 3
	l := &Limits{Pan: &pan, Zoom: &zoom, Turn: &five}
	if got := l.Hold(own, own); got != own {
		t.Errorf("its own framing became %+v", got)
	}
	rng := rand.New(rand.NewPCG(1, 2))
	for range 200 {
		f := own
		f.Pan = [2]float64{rng.Float64()*8 - 4, rng.Float64()*8 - 4}
		f.Turn, f.Zoom = rng.Float64()*200-100, 0.05+rng.Float64()*19
		got := l.Hold(f, own)
		if math.Abs(got.Pan[0]-0.3) > 0.1+1e-12 || got.Pan[1] != -0.2 || math.Abs(got.Turn-40) > 5+1e-12 || got.Zoom < 1 || got.Zoom > 3 {
			t.Fatalf("%+v is held to %+v", f, got)
		}
		if again := l.Hold(got, own); again != got {
			t.Fatalf("held twice: %+v, %+v", got, again)
		}
		if free := (*Limits)(nil).Hold(f, own); free != f {
			t.Fatalf("without limits: %+v", free)
		}
		if one := (&Limits{Turn: &five}).Hold(f, own); one.Pan != f.Pan || one.Zoom != f.Zoom {
			t.Fatalf("by its turn alone: %+v", one)
		}
	}
	for _, bad := range []Limits{{Pan: &[2]float64{-1, 0}}, {Pan: &[2]float64{0, 5}}, {Zoom: &[2]float64{2, 1}}, {Zoom: &[2]float64{0, 1}}, {Turn: new(float64)}} {
		if bad.Turn != nil {
			*bad.Turn = -1
		}
		if bad.Validate() == nil {
			t.Errorf("%+v was taken", bad)
		}
	}
	if err := l.Validate(); err != nil {
		t.Error(err)
	}
}
