package sequence_test

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"ivypocket/core/timing"
	"ivypocket/media/sequence"
)

func TestNumberedNamesBelongTogether(t *testing.T) {
	groups, rest := sequence.Find([]string{"kite_0003.png", "kite_0001.png", "kite_0002.PNG", "kite_0006.png", "notes.txt", "Dünen 9.jpg", "Dünen 10.jpg", "Dünen 11.jpg", "sail_0001.jpg",
		"kite_0002.jpg", "phone 20260101.jpg", "phone 20250101.jpg", "v2_a.png", "v3_a.png"})
	if len(groups) != 3 {
		t.Fatalf("%d groups: %+v", len(groups), groups)
	}
	k := groups[0]
	if k.Name != "kite_[0001–0006].png" || !slices.Equal(k.Files, []string{"kite_0001.png", "kite_0002.PNG", "kite_0003.png", "kite_0006.png"}) || len(k.Gaps) != 1 || k.Gaps[0].String() != "4–5" {
		t.Errorf("%+v", k)
	}
	if d := groups[1]; d.Name != "Dünen [9–11].jpg" || !slices.Equal(d.Files, []string{"Dünen 9.jpg", "Dünen 10.jpg", "Dünen 11.jpg"}) {
		t.Errorf("numbers that are not padded: %+v", d)
	}
	if v := groups[2]; !slices.Equal(v.Files, []string{"v2_a.png", "v3_a.png"}) {
		t.Errorf("%+v", v)
	}
	if want := []string{"notes.txt", "sail_0001.jpg", "kite_0002.jpg", "phone 20260101.jpg", "phone 20250101.jpg"}; !slices.Equal(rest, want) {
		t.Errorf("the rest is %q, want %q", rest, want)
	}
	if g, _ := sequence.Find([]string{"a1.png", "a1.png", "a01.png"}); len(g) != 0 {
		t.Errorf("names that share their number: %+v", g)
	}
}

func TestGapsHoldThePictureBefore(t *testing.T) {
	l, err := sequence.New(timing.Rate{Rat: timing.Int(25)}, []int64{5, 6, 9}, []string{"a", "b", "c"})
	if err != nil || !slices.Equal(l.Pictures, []string{"a", "b", "b", "b", "c"}) || len(l.Gaps) != 1 || l.Gaps[0] != (sequence.Gap{From: 7, To: 8}) {
		t.Errorf("%+v, %v", l, err)
	}
	if c := l.Times(); c.Frames != 5 || c.Seconds() != timing.NewRat(1, 5) {
		t.Errorf("%+v", c)
	}
	l.Width, l.Height = 4, 3
	b, err := json.Marshal(l)
	if err != nil {
		t.Fatal(err)
	}
	if back, err := sequence.Parse(b); err != nil || !slices.Equal(back.Pictures, l.Pictures) || back.Rate != l.Rate {
		t.Errorf("%+v, %v", back, err)
	}
}

func TestListsThatMakeNoSenseAreRefused(t *testing.T) {
	r := timing.Rate{Rat: timing.Int(25)}
	for what, c := range map[string]struct {
		n []int64
		h []string
	}{"one": {[]int64{1}, []string{"a"}}, "twice": {[]int64{1, 1}, []string{"a", "b"}}, "back": {[]int64{2, 1}, []string{"a", "b"}},
		"far apart": {[]int64{1, 1 << 40}, []string{"a", "b"}}, "unlike": {[]int64{1, 2}, []string{"a"}}, "overflow": {[]int64{-1 << 62, 1 << 62}, []string{"a", "b"}}} {
		if _, err := sequence.New(r, c.n, c.h); err == nil {
			t.Errorf("%s: was taken", what)
		}
	}
	for _, s := range []string{"", "{}", `{"ivysequence":2}`, `{"ivysequence":1,"width":1,"height":1,"pictures":["a"]}`} {
		if _, err := sequence.Parse([]byte(s)); err == nil {
			t.Errorf("%s: was read", s)
		}
	}
}

func FuzzFind(f *testing.F) {
	f.Add("a1.png\na2.png\nb")
	f.Add("0\n00\n000000001")
	f.Fuzz(func(t *testing.T, s string) {
		names := strings.Split(s, "\n")
		groups, rest := sequence.Find(names)
		n := 0
		for _, g := range groups {
			n += len(g.Files)
			if g.Last-g.First >= sequence.MaxFrames || !slices.IsSorted(g.Numbers) {
				t.Errorf("%+v", g)
			}
		}
		if n+len(rest) > len(names) {
			t.Errorf("%d of %d names", n+len(rest), len(names))
		}
	})
}

// Names and times of cameras: DCF 2.0 (JEITA CP-3461B) for the names; that bursts are
// uneven and renders even is common practice, no source.
func TestWhetherNumberedPicturesAreAClip(t *testing.T) {
	names := func(form string, n int) (out []string) {
		for i := range n {
			out = append(out, fmt.Sprintf(form, 101+i))
		}
		return
	}
	for _, c := range []struct {
		what   string
		files  []string
		pauses []float64 // seconds, over and over; none is not known
		clip   bool
	}{
		{"a camera's", names("DSC_%04d.JPG", 10), nil, false},
		{"a camera's, now and then", names("IMG_%04d.jpg", 10), []float64{0.3, 0.3, 90, 4, 700}, false},
		{"a burst", names("P102%04d.JPG", 10), []float64{0.2}, false},
		{"a time lapse", names("DSCF%04d.JPG", 10), []float64{5}, true},
		{"a render", names("kite_%04d.png", 10), []float64{1.2, 1.4, 1.1}, true},
		{"a render with a pause", names("kite_%04d.png", 20), []float64{1, 1, 1, 1, 1, 1, 1, 1, 1, 1, 4000, 1, 1, 1, 1, 1, 1, 1, 1}, true},
		{"a render that was copied", names("kite_%04d.png", 10), []float64{0.001}, true},
		{"a render of a camera's name", names("kite%04d.png", 10), nil, true},
		{"a few", names("part %d.png", 5), nil, false},
		{"scans at uneven times", names("page %d.jpg", 10), []float64{3, 60, 8, 600}, false},
	} {
		groups, rest := sequence.Find(c.files)
		if len(groups) != 1 || len(rest) > 0 {
			t.Fatalf("%s: %v, %v", c.what, groups, rest)
		}
		changed := map[string]time.Time{}
		at := time.Date(2026, 6, 1, 12, 0, 0, 0, time.UTC)
		for i, f := range groups[0].Files {
			if len(c.pauses) > 0 {
				changed[f] = at
				at = at.Add(time.Duration(c.pauses[i%len(c.pauses)] * float64(time.Second)))
			}
		}
		if clip, why := groups[0].Likely(changed); clip != c.clip || why == "" {
			t.Errorf("%s: %v, %s", c.what, clip, why)
		}
	}
}
