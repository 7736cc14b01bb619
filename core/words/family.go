package words

import (
	"math"
	"slices"

	"github.com/go-text/typesetting/language"
	"golang.org/x/text/unicode/norm"
)

// Family is a face for people: one or more files that belong together, for several
// ranges of letters, for italics, for weights.
type Family struct {
	ID, Name string
	Fonts    []*Font
	// StandIns are asked, in their order from 0, for letters that it does not have; nil
	// is the end of them.
	StandIns func(i int) *Family
}

// samples are letters that show what a face is like, in the order in which they are tried.
var samples = []string{"Aag", "Жжф", "Ωδξ", "بيت", "שלום", "हिन्दी", "ไทย", "永字", "あア", "한글", "0123"}

// Sample is a few letters that the family has itself, to show it by.
func (f *Family) Sample() string {
	for _, s := range samples {
		if has(f.Fonts, []rune(s)) != nil {
			return s
		}
	}
	var own []rune
	for _, t := range f.Fonts {
		it := t.ft.Cmap.Iter()
		for it != nil && len(own) < 3 && it.Next() {
			if r, g := it.Char(); r > ' ' && len(t.at(nil).outline(g)) > 0 {
				own = append(own, r)
			}
		}
	}
	return string(own)
}

// sign tells a family from all others, also from one of the same id made of another file.
func (f *Family) sign() string {
	if len(f.Fonts) == 0 {
		return f.ID
	}
	return f.ID + string(f.Fonts[0].sum[:])
}

// Named is a family by its id, with what it is called and what it looks like in a word or two.
type Named struct{ ID, Name, Sort string }

// Axes lists what a family's faces change along, by the first of them that is
// upright, besides their weight.
func (f *Family) Axes() (out []Axis) {
	for _, t := range f.Fonts {
		if !t.Italic {
			for _, a := range t.Axes {
				if a.Tag != "wght" {
					out = append(out, a)
				}
			}
			return out
		}
	}
	return nil
}

// Weights are the lightest and the heaviest that a family has.
func (f *Family) Weights() (least, most float64) {
	least, most = math.Inf(1), math.Inf(-1)
	for _, t := range f.Fonts {
		lo, hi := t.Weight, t.Weight
		if a := t.Axis("wght"); a != nil {
			lo, hi = a.Least, a.Most
		}
		least, most = math.Min(least, lo), math.Max(most, hi)
	}
	return least, most
}

// HasItalic reports whether there is an italic.
func (f *Family) HasItalic() bool {
	return slices.ContainsFunc(f.Fonts, func(t *Font) bool { return t.Italic })
}

// chooser finds the face for each letter of a style.
type chooser struct {
	style *Style
	// files are those of the style's family in the order in which they are asked.
	files []*Font
	axes  []AxisValue
	in    map[*Font]*instance
	// primary is the face that says how high lines are.
	primary *instance
}

func newChooser(s *Style) *chooser {
	c := &chooser{style: s, in: map[*Font]*instance{}}
	weight := s.Weight
	if weight == 0 {
		weight = 400
	}
	c.axes = append([]AxisValue{{"wght", weight}}, s.Axes...)
	c.files = c.order(s.Family)
	c.primary = c.instance(c.files[0])
	return c
}

// order lists a family's files, those first that are nearest to the style.
func (c *chooser) order(f *Family) []*Font {
	files := slices.Clone(f.Fonts)
	off := func(t *Font) float64 {
		d := 0.0
		if t.Italic != c.style.Italic {
			d += 1e4
		}
		if t.Axis("wght") == nil {
			d += math.Abs(t.Weight - c.axes[0].Value)
		}
		return d
	}
	slices.SortStableFunc(files, func(a, b *Font) int {
		switch x, y := off(a), off(b); {
		case x < y:
			return -1
		case x > y:
			return 1
		}
		return 0
	})
	return files
}

func (c *chooser) instance(t *Font) *instance {
	in := c.in[t]
	if in == nil {
		in = t.at(c.axes)
		c.in[t] = in
	}
	return in
}

// find returns the face for a grapheme cluster: the first that has all of its
// letters. Where none has, the one for its first letter stands in, or the family's own first face, with
// its sign for what is missing; lacks are the letters that it has not. stood is the family that stands in.
func (c *chooser) find(cluster []rune) (in *instance, stood *Family, lacks []rune) {
	if f := has(c.files, cluster); f != nil {
		return c.instance(f), nil, nil
	}
	for i := 0; c.style.Family.StandIns != nil; i++ {
		s := c.style.Family.StandIns(i)
		if s == nil {
			break
		}
		if s.ID == c.style.Family.ID {
			continue
		}
		if f := has(c.order(s), cluster); f != nil {
			return c.instance(f), s, nil
		}
	}
	// A mark that no face has together with its letter: the letter alone.
	if len(cluster) > 1 {
		in, stood, lacks = c.find(cluster[:1])
		for _, r := range cluster[1:] {
			if !in.of.shows(r) {
				lacks = append(lacks, r)
			}
		}
		return in, stood, lacks
	}
	return c.primary, nil, cluster
}

// has finds the first file that has every letter of a cluster.
func has(files []*Font, cluster []rune) *Font {
next:
	for _, f := range files {
		for _, r := range cluster {
			if !ignorable(r) && !f.shows(r) {
				continue next
			}
		}
		return f
	}
	return nil
}

// shows reports whether the face has a letter, as one or as a letter with marks (UAX #15, form D), which HarfBuzz takes it
// apart for.
func (f *Font) shows(r rune) bool {
	if f.Has(r) {
		return true
	}
	parts := []rune(norm.NFD.String(string(r)))
	return len(parts) > 1 && !slices.ContainsFunc(parts, func(r rune) bool { return !f.Has(r) })
}

// ignorable reports whether a letter shows nothing of its own: joiners, selectors,
// directional marks (Default_Ignorable_Code_Point, the part of it that occurs in words).
func ignorable(r rune) bool {
	switch {
	case r == 0xad, r == 0x34f, r == 0x61c, r >= 0x200b && r <= 0x200f, r >= 0x202a && r <= 0x202e, r >= 0x2060 && r <= 0x206f,
		r >= 0xfe00 && r <= 0xfe0f, r == 0xfeff, r >= 0xe0000 && r <= 0xe0fff:
		return true
	}
	return false
}

// scriptOf is the script of a letter; ok is false where it goes with its neighbours.
func scriptOf(r rune) (s language.Script, ok bool) {
	s = language.LookupScript(r)
	return s, s != language.Common && s != language.Inherited && s != language.Unknown
}
