package craft

import (
	"strings"
	"testing"

	"ivypocket/core/scheme"
	"ivypocket/core/template"
)

func remarks(rs []Remark) string {
	var out []string
	for _, r := range rs {
		out = append(out, r.What)
	}
	return strings.Join(out, "\n")
}

// What is wrong with a sheet is told in words, and one press mends most of it: the remark is
// gone, the document sound, and nothing else is changed for the worse.
func TestASheetIsCheckedAndMended(t *testing.T) {
	entry := func(text string) string {
		return `, "sheet": {"groups": [{"id": "g", "label": "G", "entries": [` + text + `]}]}`
	}
	const pic = `{"id": "pic", "label": "Kite", "kind": "media", "pocket": "kite"}`
	const faint = `{"id": "faint", "label": "Faintness", "kind": "amount", "help": "How faint.", "default": 60, "min": 0, "max": 100, "ties": [{"to": "layers/b/opacity", "from": [0, 100], "into": [0, 1]}]}`
	for want, c := range map[string]struct {
		sheet, rest string
		stays       bool // no press mends it
	}{
		"Kite stands below Faintness":                     {sheet: entry(faint + "," + pic)},
		"No entry fills the pocket":                       {sheet: entry(faint)},
		"Two entries are called kite":                     {sheet: entry(pic + `, {"id": "two", "label": "kite", "kind": "colour", "default": "#c01030", "ties": [{"to": "layers/a/fill"}]}`), stays: true},
		"“Amount 2” does not say":                         {sheet: entry(pic + "," + strings.Replace(faint, "Faintness", "Amount 2", 1)), stays: true},
		"Faintness has no help":                           {sheet: entry(pic + "," + strings.Replace(faint, `"help": "How faint.", `, "", 1)), stays: true},
		"Idle drives nothing":                             {sheet: entry(pic + `, {"id": "idle", "label": "Idle", "kind": "switch", "default": true}`)},
		"both drive opacity of Band":                      {sheet: entry(pic + "," + faint + "," + strings.NewReplacer(`"id": "faint"`, `"id": "again"`, "Faintness", "Again").Replace(faint))},
		"A formula yields turn of Kept":                   {sheet: entry(pic + "," + strings.NewReplacer("layers/b/opacity", "layers/k/turn").Replace(faint))},
		"Keys take the place of fill of Kept":             {sheet: entry(pic + `, {"id": "tint", "label": "Tint", "kind": "colour", "default": "#ffffff", "ties": [{"to": "layers/k/fill"}]}`)},
		"Tall has a value of its own for opacity of Band": {sheet: entry(pic + "," + faint), rest: `"layers/b/opacity": 0.3`},
		"gives opacity of Band the same everywhere":       {sheet: entry(pic + "," + strings.Replace(faint, "[0, 1]", "[0.6, 0.6]", 1))},
		"Faintness draws opacity of Band as 0.3":          {sheet: entry(pic + "," + strings.Replace(faint, `"default": 60`, `"default": 30`, 1))},
		"lies outside 0 to 100":                           {sheet: entry(pic + "," + strings.Replace(faint, `"from": [0, 100], "into": [0, 1]`, `"stops": [{"at": 0, "value": 0}, {"at": 60, "value": 0.6}, {"at": 120, "value": 1}]`, 1)), stays: true},
	} {
		d := doc(t, shown, c.rest, shownMore+c.sheet)
		all := CheckSheet(d)
		got := remarks(all)
		if !strings.Contains(got, want) {
			t.Errorf("%s is not told:\n%s", want, got)
			continue
		}
		for _, r := range all {
			if !strings.Contains(r.What, want) {
				continue
			}
			if (r.Mend == "") != c.stays {
				t.Errorf("%s: mended by %q", want, r.Mend)
			}
			if r.Mend == "" {
				continue
			}
			next, _ := do(t, d, r.Act)
			left := remarks(CheckSheet(next))
			if strings.Contains(left, want) || len(CheckSheet(next)) > len(all) {
				t.Errorf("%s: mended, there is\n%s", want, left)
			}
		}
	}
	good := doc(t, shown, "", shownMore+entry(pic+","+faint))
	if got := remarks(CheckSheet(good)); got != "" {
		t.Errorf("a good sheet has\n%s", got)
	}
}

// A length in shares that is offered is drawn as it rests; nothing is to be told of it.
func TestLengthsInSharesAreDrawnAsTheyRest(t *testing.T) {
	d := flowDoc(t)
	two := scheme.Value{Numbers: []float64{2}, Single: true, Shorter: 1}
	d, _ = do(t, d, Act{Kind: "rest", Path: "layers/card/flow.gap", Value: &two})
	d, err := template.Parse([]byte(text(t, d))) // as it is read again
	if err != nil {
		t.Fatal(err)
	}
	d, _ = do(t, d, Act{Kind: "offer", Paths: []string{"layers/card/flow.gap"}, Way: "each"})
	if got := remarks(CheckSheet(d)); strings.Contains(got, "rests at") {
		t.Errorf("it is said that %s", got)
	}
}
