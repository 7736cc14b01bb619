package timing

import (
	"math/rand/v2"
	"testing"
)

// Facts of the trade: a film of 24 shown at 25 frames a second, each second as long; every
// second frame of 50 is one of 25; 2 s at 29.97 are 60 frames (common practice, no source).
func TestATemplateSeenAtAnotherRate(t *testing.T) {
	for _, c := range []struct {
		from, at string
		frames   int64
		own      int64
	}{{"25", "50", 100, 200}, {"50", "25", 100, 50}, {"24", "25", 48, 50}, {"30", "29.97", 60, 60}, {"25", "29.97", 50, 60}, {"60", "23.976", 60, 24}, {"240", "1", 10, 1}} {
		from, at := rate(t, c.from), rate(t, c.at)
		if got := from.Seen(c.frames, at); got != c.own {
			t.Errorf("%d frames at %s are %d at %s, want %d", c.frames, c.from, got, c.at, c.own)
		}
		m, err := SeenMap(from, c.frames, nil, at, c.own)
		if err != nil || m.Frames != c.own || m.Rate != at || m.Base() != from {
			t.Fatalf("%+v: %v", m, err)
		}
		for f := range c.own {
			// An instant is where the clock has it.
			if now := m.At(OutputFrame(f)); now.Template.Div(from.Rat).Cmp(Int(f).Div(at.Rat)) != 0 || m.Output(now.Template).Cmp(Int(f)) != 0 {
				t.Errorf("%s at %s, frame %d: %v", c.from, c.at, f, now)
			}
		}
	}
	same, _ := SeenMap(rate(t, "25"), 100, nil, rate(t, "25"), 100)
	if plain, _ := NewMap(rate(t, "25"), 100, nil, 100); same.Rate != plain.Rate || same.Base() != plain.Rate || same.At(7) != plain.At(7) {
		t.Error("the template's own rate is another")
	}
	for _, bad := range []int64{0, -1, 1 << 40} {
		if _, err := SeenMap(rate(t, "25"), 100, nil, rate(t, "50"), bad); err == nil {
			t.Errorf("%d frames are taken", bad)
		}
	}
}

// At any rate and length held spans keep their pace, elastic ones take up the rest, time
// never runs back, and a clip of the output's rate is seen frame by frame.
func TestHeldSpansKeepTheirPaceAtAnyRate(t *testing.T) {
	r := rand.New(rand.NewPCG(13, 7))
	rates := []string{"23.976", "24", "25", "29.97", "30", "50", "59.94", "60"}
	spans := []Span{{Kind: Held, From: 0, To: 20}, {Kind: Elastic, From: 20, To: 60}, {Kind: Held, From: 60, To: 100}}
	for range 400 {
		from, at := rate(t, rates[r.IntN(len(rates))]), rate(t, rates[r.IntN(len(rates))])
		length := from.Seen(60, at) + 1 + r.Int64N(400)
		m, err := SeenMap(from, 100, spans, at, length)
		if err != nil {
			t.Fatal(err)
		}
		step := from.Div(at.Rat)
		clip := Even(at, 1000)
		for f := range length {
			now := m.At(OutputFrame(f))
			if now.Template.Cmp(Int(0)) < 0 || now.Template.Cmp(Int(100)) >= 0 {
				t.Fatalf("%d of %d: template frame %v", f, length, now.Template)
			}
			if got := m.Source(now, TemplateTime{Int(0)}, &clip, Play{}); got != SourceFrame(min(f, 999)) {
				t.Fatalf("frame %d of the clip is seen at %d", got, f)
			}
			if f == 0 {
				continue
			}
			was := m.At(OutputFrame(f - 1)).Template
			by := now.Template.Sub(was.Rat)
			if held := now.Template.Cmp(Int(20)) < 0 || was.Cmp(Int(60)) >= 0; held && by.Cmp(step) != 0 || by.N < 0 {
				t.Fatalf("%s at %s, %d frames: from %v to %v", from.Label(), at.Label(), length, was, now.Template)
			}
		}
		// The end is seen to the frame in which it lies.
		if last := m.At(OutputFrame(length - 1)).Template; Int(100).Sub(last.Rat).Cmp(step.Add(Int(1))) > 0 {
			t.Fatalf("%s at %s: the last of %d frames is at %v", from.Label(), at.Label(), length, last)
		}
	}
	if _, err := SeenMap(rate(t, "25"), 100, spans, rate(t, "50"), 119); err == nil {
		t.Error("119 frames at 50 are 59.5 at 25, and 60 are held")
	}
}
