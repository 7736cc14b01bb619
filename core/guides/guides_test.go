package guides

import (
	"math"
	"math/rand/v2"
	"strings"
	"testing"

	"ivypocket/core/geom"
	"ivypocket/core/scheme"
)

// The safe areas of EBU R 95, version 1.1, for pictures of 16:9: 3.5 % for action and 5 % for
// graphics; what that is in whole px as its table has it, from memory.
func TestSafeAreasAreThoseOfR95(t *testing.T) {
	for _, c := range []struct {
		w, h             float64
		action, graphics [2]float64
	}{
		{1280, 720, [2]float64{45, 25}, [2]float64{64, 36}},
		{1920, 1080, [2]float64{67, 38}, [2]float64{96, 54}},
		{3840, 2160, [2]float64{134, 76}, [2]float64{192, 108}},
	} {
		l := Ready("r95").On(geom.Size{W: c.w, H: c.h}, geom.Size{})
		for i, want := range [][2]float64{c.action, c.graphics} {
			b := l.Marks[i].Box
			if b != [4]float64{want[0], want[1], c.w - want[0], c.h - want[1]} {
				t.Errorf("%g × %g: %s lies at %v, not %v in", c.w, c.h, l.Marks[i].ID, b, want)
			}
		}
		if l.Note != "" || !l.Fits {
			t.Errorf("on 16:9 it says %q", l.Note)
		}
	}
	if l := Ready("r95").On(geom.Size{W: 1080, H: 1920}, geom.Size{}); !strings.Contains(l.Note, "common practice") {
		t.Errorf("on an upright canvas it says %q", l.Note)
	}
}

// luminance is the relative luminance of WCAG 2.2.
func luminance(c [3]float64) float64 {
	var l float64
	for i, v := range c {
		if v /= 255; v <= 0.04045 {
			v /= 12.92
		} else {
			v = math.Pow((v+0.055)/1.055, 2.4)
		}
		l += v * [3]float64{0.2126, 0.7152, 0.0722}[i]
	}
	return l
}

func contrast(a, b float64) float64 { return (math.Max(a, b) + 0.05) / (math.Min(a, b) + 0.05) }

// One of the two tones of a line has the contrast of 3 : 1 that WCAG 2.2, success criterion
// 1.4.11, asks of graphics, with whatever the picture is there.
func TestTwoTonesStandOutFromAnyPicture(t *testing.T) {
	var tones [2]float64
	for i, hex := range Tones {
		c, err := scheme.ParseColour(hex)
		if err != nil {
			t.Fatal(err)
		}
		tones[i] = luminance([3]float64{float64(c.R), float64(c.G), float64(c.B)})
	}
	least, where := math.Inf(1), [3]float64{}
	try := func(c [3]float64) {
		l := luminance(c)
		if k := math.Max(contrast(l, tones[0]), contrast(l, tones[1])); k < least {
			least, where = k, c
		}
	}
	for v := range 256 {
		try([3]float64{float64(v), float64(v), float64(v)})
	}
	rng := rand.New(rand.NewPCG(7, 7))
	for range 20000 {
		try([3]float64{float64(rng.IntN(256)), float64(rng.IntN(256)), float64(rng.IntN(256))})
	}
	if least < 3 {
		t.Errorf("on %v neither tone has more than %.2f : 1", where, least)
	}
}

// All ready-made sets are sound, stand for a shape, and what is free of furniture is.
func TestReadyMadeSetsAreSound(t *testing.T) {
	shapes := map[Shape]geom.Size{Wide: {W: 1920, H: 1080}, Square: {W: 1080, H: 1080}, Tall: {W: 1080, H: 1920}}
	seen := map[string]bool{}
	for _, s := range ReadyMade() {
		if err := s.Check(); err != nil {
			t.Errorf("%s: %v", s.ID, err)
		}
		if seen[s.ID] || s.About == "" {
			t.Errorf("%s is there twice, or says nothing of itself", s.ID)
		}
		seen[s.ID] = true
		for shape, canvas := range shapes {
			fits := s.Shape == "" || s.Shape == shape
			if l := s.On(canvas, geom.Size{}); l.Fits != fits || fits != (l.Note == "" || s.ID == r95) {
				t.Errorf("%s on %s: fits %v, %q", s.ID, shape, l.Fits, l.Note)
			}
		}
		if free := s.Mark("free"); free != nil {
			for _, m := range s.Marks {
				if b := m.Box; m.Kind == Covered && b[0] < free.Box[2] && b[2] > free.Box[0] && b[1] < free.Box[3] && b[3] > free.Box[1] {
					t.Errorf("%s: %s reaches into what is free", s.ID, m.Name)
				}
			}
		}
	}
	// A picture of 9:16 as high as a screen of 9:19.5 is 16/19.5 as wide as it: a rule of three.
	if b := Ready("feed-full").Mark("cut-left").Box; math.Abs(1-2*b[2]-16/19.5) > 1e-9 {
		t.Errorf("%g of each side is cut off", b[2])
	}
}

func TestFaultsOfSets(t *testing.T) {
	for _, c := range []struct {
		what string
		do   func(*Set)
	}{
		{"name: is missing", func(s *Set) { s.Name = " " }},
		{"name: has more than 120", func(s *Set) { s.Name = strings.Repeat("ü", 121) }},
		{"about: has more", func(s *Set) { s.About = strings.Repeat("x", 401) }},
		{"id: ", func(s *Set) { s.ID = "A b" }},
		{"fade: 0 is outside", func(s *Set) { s.Fade = 0 }},
		{"fade: NaN", func(s *Set) { s.Fade = math.NaN() }},
		{"colour: ", func(s *Set) { s.Colour = "red" }},
		{"shape: ", func(s *Set) { s.Shape = "round" }},
		{"longest: ", func(s *Set) { s.Longest = -1 }},
		{"still.media: ", func(s *Set) { s.Still = &Still{"x", 1} }},
		{"still.fade: ", func(s *Set) { s.Still = &Still{"sha256:" + strings.Repeat("a", 64), 2} }},
		{"marks: are more", func(s *Set) { s.Marks = make([]Mark, MaxMarks+1) }},
		{"marks[1].id: ", func(s *Set) { s.Marks[1].ID = s.Marks[0].ID }},
		{"marks[0].name: is missing", func(s *Set) { s.Marks[0].Name = "" }},
		{"marks[0].kind: ", func(s *Set) { s.Marks[0].Kind = "bent" }},
		{"marks[0].box[2]: 1.1 is outside", func(s *Set) { s.Marks[0].Box[2] = 1.1 }},
		{"marks[0].box: has its right", func(s *Set) { s.Marks[0].Box = [4]float64{0.5, 0, 0.5, 1} }},
		{"marks[0].fade: ", func(s *Set) { s.Marks[0].Fade = 0.01 }},
		{"marks[0].colour: ", func(s *Set) { s.Marks[0].Colour = "#12" }},
		{"marks[0].at: 2 is outside", func(s *Set) { s.Marks[0] = Mark{ID: "a", Name: "A", Kind: Level, At: 2} }},
	} {
		s := *Ready("feed-tall")
		c.do(&s)
		if err := s.Check(); err == nil || !strings.Contains(err.Error(), c.what) {
			t.Errorf("%v, not %q", err, c.what)
		}
	}
}

// Lines lie on whole px, a still picture as large as it fits, and what was moved is known.
func TestSetsAreLaidOnACanvas(t *testing.T) {
	s := *Ready("thirds")
	s.ID, s.Of, s.Still = "mine", "thirds", &Still{"sha256:" + strings.Repeat("a", 64), 0.5}
	if m := s.Moved(); len(m) != 0 {
		t.Errorf("moved are %v", m)
	}
	s.Marks[0].At = 0.25
	s.Marks = append(s.Marks, Mark{ID: "own", Name: "Own", Kind: Upright, At: 0.1})
	if m := s.Moved(); len(m) != 1 || m[0] != "left" {
		t.Errorf("moved are %v", m)
	}
	if err := s.Check(); err != nil {
		t.Error(err)
	}
	l := s.On(geom.Size{W: 1000, H: 500}, geom.Size{W: 200, H: 200})
	if l.Marks[0].At != 250 || l.Marks[1].At != 667 || l.Marks[2].At != 167 || l.Marks[5].At != 250 {
		t.Errorf("lines lie at %+v", l.Marks)
	}
	if *l.Still != [4]float64{250, 0, 500, 500} {
		t.Errorf("the picture lies at %v", *l.Still)
	}
}
