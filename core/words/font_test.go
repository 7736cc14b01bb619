package words

import (
	"encoding/binary"
	"os"
	"slices"
	"strings"
	"testing"
)

// testFont is a face that ships.
func testFont(t testing.TB) *Font {
	t.Helper()
	return shipped(t, "figtree-latin")
}

func shipped(t testing.TB, name string) *Font {
	t.Helper()
	b, err := os.ReadFile("../../fonts/files/" + name + ".woff")
	if err != nil {
		t.Fatal(err)
	}
	f, err := Parse(b)
	if err != nil {
		t.Fatal(err)
	}
	return f
}

// Font files that are none, cut off or made to fill memory are refused with the reason.
func TestHostileFontsAreRefused(t *testing.T) {
	good, err := os.ReadFile("../../fonts/files/figtree-latin.woff")
	if err != nil {
		t.Fatal(err)
	}
	bomb := slices.Clone(good)
	for i := range int(binary.BigEndian.Uint16(bomb[12:])) { // every table says that it unpacks to much
		binary.BigEndian.PutUint32(bomb[44+20*i+12:], 1<<30)
	}
	none := slices.Clone(good)
	binary.BigEndian.PutUint16(none[12:], 0)
	for what, c := range map[string]struct {
		data []byte
		want string
	}{
		"text": {[]byte("this is no font, whatever its name says"), "no font file"}, "nothing": {nil, "no font file"},
		"cut off": {good[:len(good)/2], "cut off"}, "cut in its directory": {good[:60], "tables"}, "much": {bomb, "unpacks to"}, "no tables": {none, "0 tables"},
		"collection": {append([]byte("ttcf"), good[4:]...), "collection"}, "too large": {make([]byte, MaxFontBytes+1), "is the most"},
	} {
		if _, err := Parse(c.data); err == nil || !strings.Contains(err.Error(), c.want) {
			t.Errorf("%s: %v", what, err)
		}
	}
}

// Axes, weights and what a file says of its being embedded are read.
func TestWhatFontsSay(t *testing.T) {
	f := shipped(t, "fraunces-latin")
	if f.Family != "Fraunces" || f.Rights != MayInstall || len(f.Axes) != 4 || f.Axis("SOFT") == nil || f.Axis("wdth") != nil || f.Axis("wght").Most != 900 {
		t.Errorf("%+v", f)
	}
	if got := f.Axis("SOFT").Name + ", " + f.Axis("opsz").Name; got != "Softness, Optical size" {
		t.Errorf("its axes are called %s", got)
	}
	fam := &Family{ID: "f", Fonts: []*Font{f}}
	plain, soft := set(fam, "a", nil), set(fam, "a", func(s *Spec) { s.Axes = []AxisValue{{"SOFT", 100}, {"opsz", 144}} })
	if plain.Whole().Key == soft.Whole().Key {
		t.Error("an axis changes nothing")
	}
}

// FuzzParse finds files that make reading or setting fail in ways that are not told.
func FuzzParse(f *testing.F) {
	for _, name := range []string{"figtree-latin", "stardos-stencil-400", "rubik-hebrew"} {
		b, err := os.ReadFile("../../fonts/files/" + name + ".woff")
		if err != nil {
			f.Fatal(err)
		}
		f.Add(b)
	}
	f.Fuzz(func(t *testing.T, data []byte) {
		font, err := Parse(data)
		if err != nil {
			return
		}
		set(&Family{ID: "f", Fonts: []*Font{font}}, "Ag fi שא 1é", func(s *Spec) { s.W, s.By = 300, AllMeans }).Whole()
	})
}

// How long words take that nobody has set yet, and those that are as they were.
func BenchmarkSet(b *testing.B) {
	fam := family(b, "figtree-latin", "figtree-latin-ext")
	const text = "The tide turns at noon and the kites come down again, one by one, over the pier and the dunes; Odalys Fenn ties them along a line, forty of them, and nobody lets go until the wind has"
	sp := Spec{Text: text, Style: Style{Family: fam}, Size: 60, Least: 20, Leading: 1.2, W: 900, H: 300, By: []Means{ByWrapping, BySize}}
	b.Run("first", func(b *testing.B) {
		for b.Loop() {
			NewSetter().Set(&sp).Whole()
		}
	})
	b.Run("again", func(b *testing.B) {
		s := NewSetter()
		for b.Loop() {
			s.Set(&sp).Whole()
		}
	})
}

// How long the edge of letters takes: of words that nobody has seen, and of words in a face
// whose letters are known.
func BenchmarkEdge(b *testing.B) {
	const text = "The tide turns at noon and the kites come down again, one by one, over the pier and the dunes; Odalys Fenn ties them along a line, forty of them, and nobody lets go until the wind has"
	for _, face := range []string{"bitter-latin", "dancing-script-latin"} {
		sp := Spec{Text: text, Size: 60, Least: 20, Leading: 1.2, W: 900, H: 300, By: []Means{ByWrapping, BySize}}
		b.Run(face+"/first", func(b *testing.B) {
			for b.Loop() {
				b.StopTimer()
				sp.Style.Family = family(b, face)
				b.StartTimer()
				NewSetter().Set(&sp).Whole().Edge()
			}
		})
		b.Run(face+"/letters known", func(b *testing.B) {
			for b.Loop() {
				NewSetter().Set(&sp).Whole().Edge()
			}
		})
	}
}
