package words

import (
	"math"
	"slices"
	"testing"
)

// long is how wide the first line of a setting is, in px.
func long(v *Setting) float64 { return v.Lines[0].Right - v.Lines[0].Left }

// A letter and a mark are what Unicode has as one letter (UAX #15): both spellings are set alike, at the places where they were typed;
// a mark that no face has is told.
func TestLettersAndMarksAreComposed(t *testing.T) {
	fam := family(t, "bitter-latin", "bitter-latin-ext", "bitter-vietnamese")
	for _, c := range [][2]string{{"Hu\u031bo\u031bng", "Hương"}, {"e\u0301te\u0301", "été"}, {"S\u030cpatny\u0301", "Špatný"}} {
		apart, one := set(fam, c[0], nil), set(fam, c[1], nil)
		if len(apart.Missing) != 0 || math.Abs(long(apart)-long(one)) > 1e-9 {
			t.Errorf("%+q is %g wide and lacks %q; %s is %g wide", c[0], long(apart), apart.Missing, c[1], long(one))
		}
		if s := said(c[0], apart); s[0] != c[0] {
			t.Errorf("%+q is said as %+q", c[0], s[0])
		}
	}
	if v := set(family(t, "stardos-stencil-400"), "Z\u030c", nil); len(v.Missing) == 0 {
		t.Error("a stencil face without the letter tells of nothing that is missing")
	}
	if v := set(fam, "q\u0f39", nil); !slices.Equal(v.Missing, []rune{0xf39}) {
		t.Errorf("a mark of another script lacks %q", v.Missing)
	}
}

// CSS Text Level 3, section 8.2: tracking is not added for what shows nothing, is added to blanks between joined letters, and letters that are
// set apart take no other forms.
func TestWhatTrackingIsAddedTo(t *testing.T) {
	fam := family(t, "figtree-latin")
	arabic := family(t, "cairo-arabic")
	wide := func(f *Family, text string, tracking float64) float64 {
		return long(set(f, text, func(sp *Spec) { sp.Tracking = tracking }))
	}
	for _, c := range []struct {
		f    *Family
		text string
		n    float64
	}{{fam, "ab", 1}, {fam, "a\u200bb", 1}, {fam, "a\u2060b", 1}, {arabic, "ألوان السماء", 1}, {arabic, "ألوان", 0}} {
		if got := (wide(c.f, c.text, 0.1) - wide(c.f, c.text, 0)) / 10; math.Abs(got-c.n) > 1e-6 {
			t.Errorf("%+q: tracking is added %g times, not %g", c.text, got, c.n)
		}
	}
	italic := family(t, "fraunces-latin-italic")
	var ids []any
	for _, m := range set(italic, "ffi", func(sp *Spec) { sp.Italic, sp.Tracking = true, 0.1 }).Letters {
		ids = append(ids, m.From)
	}
	if len(ids) != 3 {
		t.Errorf("tracked ffi of an italic is %d letters", len(ids))
	}
}

// Lines end behind a slash within a word only where they fit in no other way; UAX #14 would allow it anywhere.
func TestSlashesKeepTogether(t *testing.T) {
	fam := family(t, "figtree-latin")
	full := long(set(fam, "wind at 40 km/", nil))
	v := set(fam, "wind at 40 km/h", func(sp *Spec) { sp.W, sp.By = full+1, []Means{ByWrapping} })
	if got := said("wind at 40 km/h", v); !slices.Equal(got, []string{"wind at 40", "km/h"}) {
		t.Errorf("lines are %q", got)
	}
	word := "saltmarsh/estuary"
	v = set(fam, word, func(sp *Spec) { sp.W, sp.By = long(set(fam, "saltmarsh/", nil))+1, []Means{ByWrapping} })
	if got := said(word, v); !slices.Equal(got, []string{"saltmarsh/", "estuary"}) {
		t.Errorf("lines are %q", got)
	}
}
