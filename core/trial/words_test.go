package trial

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"testing"
	"unicode/utf8"

	drawn "ivypocket/core/internal/sample"
	"ivypocket/core/sheet"
	"ivypocket/core/template"
	"ivypocket/core/trial/rules"
)

// spoken is a template of 100 frames whose words an editor types.
func spoken(t *testing.T, ground, entry, layers string) Input {
	t.Helper()
	d, err := template.Parse(fmt.Appendf(nil, `{"ivypocket": 3, "kind": "template", "id": "t", "name": "T", "category": "T", "rate": "25", "frames": 100,
		"formats": [{"id": "wide", "name": "Wide", "width": 1920, "height": 1080}],
		"layers": [{"id": "ground", "name": "Ground", "kind": "ground", "fill": %q}, %s],
		"sheet": {"groups": [{"id": "w", "label": "Words", "entries": [%s]}]}}`, ground, layers, entry))
	if err != nil {
		t.Fatal(err)
	}
	return Input{Doc: d, Values: sheet.Values{}.Clone(), Cache: 16 << 20, Source: drawn.Source{}}
}

const (
	asks = `{"id": "title", "label": "Title", "kind": "words", "default": "Kites tonight", "letters": %d, "ties": [{"to": "layers/title/text"}]}`
	says = `{"id": "title", "name": "Title", "kind": "words", "text": "Kites tonight", "face": "figtree", "type": {"size": %d}, "fit": {%s}, "fill": "#ffffff", "size": [%d, %d], "place": [%d, %d]%s}`
)

// Every rule finds a fault that was planted, and says nothing of the same template without it.
func TestRulesForWordsFindPlantedFaults(t *testing.T) {
	clean := fmt.Sprintf(says, 120, `"least": 60`, 1600, 500, 0, 0, "")
	few, many := fmt.Sprintf(asks, 30), fmt.Sprintf(asks, 400)
	faults := map[string]struct{ ground, entry, layers string }{
		"words overflow":        {"#102030", many, fmt.Sprintf(says, 120, `"least": 60`, 700, 160, 0, 0, "")},
		"words too small":       {"#102030", few, fmt.Sprintf(says, 120, `"least": 10`, 220, 60, 0, 0, "")},
		"words too faint":       {"#d8d8d8", few, clean},
		"outside the safe area": {"#102030", few, fmt.Sprintf(says, 120, `"least": 60`, 1600, 500, -200, 0, "")},
		"shown too briefly":     {"#102030", few, fmt.Sprintf(says, 120, `"least": 60`, 1600, 500, 0, 0, `, "in": 40, "out": 50`)},
		"words collide":         {"#102030", few, clean + `, {"id": "other", "name": "Other", "kind": "words", "text": "Already here", "type": {"size": 120}, "fill": "#ffffff", "size": [1600, 300], "place": [0, 20]}`},
		"words cut off":         {"#102030", few, fmt.Sprintf(says, 120, `"least": 60`, 1600, 500, 0, 0, `, "masks": [{"id": "m", "form": {"kind": "rectangle"}, "size": [1600, 90]}]`)},
		"face missing":          {"#102030", few, strings.Replace(clean, `"figtree"`, `"sha256:`+strings.Repeat("0d", 32)+`"`, 1)},
		"letters missing":       {"#102030", strings.Replace(few, "Kites tonight", "Kites \U0001e900", 1), clean},
		"orphan":                {"#102030", few, strings.Replace(fmt.Sprintf(says, 200, `"least": 60`, 1150, 800, 0, 0, ""), "Kites tonight", "All kites come down at", 1)},
	}
	for _, k := range rules.Kinds() {
		if _, ok := faults[k]; !ok {
			t.Errorf("%s is not tried", k)
		}
	}
	found := func(in Input) map[Kind]Finding {
		r, err := Run(context.Background(), in)
		if err != nil {
			t.Fatal(err)
		}
		out := map[Kind]Finding{}
		for _, f := range r.Findings {
			out[f.Kind] = f
		}
		return out
	}
	for kind, c := range faults {
		if kind == "orphan" {
			c.entry = strings.Replace(c.entry, "Kites tonight", "All kites come down at", 1)
		}
		got, ok := found(spoken(t, c.ground, c.entry, c.layers))[Kind(kind)]
		if !ok || got.Picture == nil || got.Advice == "" || got.Where != "Title" && got.Where != "Other" || got.Layer == "" {
			t.Errorf("%s: %+v", kind, got)
		}
	}
	for kind, f := range found(spoken(t, "#102030", few, clean)) {
		if !f.Hint {
			t.Errorf("the clean twin has %s with %s: %s", kind, f.Case, f.What)
		}
	}
}

// What marks words is behind them: letters are measured against it, and it need not stand out itself.
func TestContrastIsThatOfLetters(t *testing.T) {
	for colour, faint := range map[string]bool{"#182838": false, "#f0f0f0": true} {
		swept := fmt.Sprintf(says, 120, `"least": 60`, 1600, 500, 0, 0, `, "highlights": [{"id": "h", "kind": "sweep", "phrase": "Kites tonight", "count": 2, "colour": "`+colour+`", "overhang": 2, "thickness": 2}]`)
		r, err := Run(context.Background(), spoken(t, "#102030", fmt.Sprintf(asks, 30), swept))
		if err != nil {
			t.Fatal(err)
		}
		if got := slices.ContainsFunc(r.Findings, func(f Finding) bool { return f.Kind == "words too faint" && f.Case == asItIs }); got != faint {
			t.Errorf("swept with %s: %t", colour, got)
		}
	}
}

func TestManyCasesAreCounted(t *testing.T) {
	for n, want := range map[int]string{1: "a", 4: "a, b, c, d", 5: "a, b, c, d, e", 6: "a, b, c, d and 2 more cases"} {
		if got := few([]string{"a", "b", "c", "d", "e", "f"}[:n]); got != want {
			t.Errorf("%d cases: %s", n, got)
		}
	}
}

// Wordings that are tried keep to what the sheet has room for.
func TestTriedWordingsFitTheSheet(t *testing.T) {
	for _, letters := range []int{1, 5, 40, 2000} {
		for _, lines := range []int{1, 3} {
			for _, w := range wordings {
				text := w.of(letters, lines)
				if n := utf8.RuneCountInString(text); n > letters || strings.Count(text, "\n") >= lines {
					t.Errorf("%s has %d letters of %d, and lines %q", w.name, n, letters, text)
				}
			}
		}
	}
}
