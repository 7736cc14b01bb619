package trial

import (
	"strings"
	"testing"

	drawn "ivypocket/core/internal/sample"
	"ivypocket/core/sheet"
	"ivypocket/core/template"
)

// A transition that never covers is found, with the frame that comes nearest to it; its twin that
// covers for one frame is sound, and what is no transition need not cover.
func TestATransitionThatNeverCoversIsFound(t *testing.T) {
	doc := func(purpose, more string) *template.Document {
		pockets := `, "pockets": [{"id": "a", "name": "A", "kinds": ["picture"], "role": "from"}, {"id": "b", "name": "B", "kinds": ["picture"], "role": "to"}]`
		if purpose != "transition" {
			pockets = ""
		}
		d, err := template.Parse([]byte(`{"ivypocket": 3, "kind": "template", "id": "t", "name": "T", "category": "T", "purpose": "` + purpose + `", "rate": "30", "frames": 41` + pockets + `,
			"formats": [{"id": "f", "name": "F", "width": 320, "height": 180}], "layers": [{"id": "p", "name": "P", "kind": "shape", "fill": "#102030", "size": [320, 180]` + more + `, "motion": {"place": {"unit": "canvas", "keys": [{"at": 0, "value": [-1, 0]}, {"at": 40, "value": [1, 0]}]}}}]}`))
		if err != nil {
			t.Fatal(err)
		}
		return d
	}
	for _, c := range []struct {
		purpose, more string
		want          int
	}{{"transition", "", 0}, {"transition", `, "radius": 8`, 1}, {"overlay", `, "radius": 8`, 0}} {
		r := run(t, Input{Doc: doc(c.purpose, c.more), Values: sheet.Values{}.Clone(), Cache: 64 << 20, Source: drawn.Source{}})
		if n := kinds(r)[NeverCovers]; n != c.want {
			t.Errorf("%s%s: %d findings", c.purpose, c.more, n)
		}
		for _, f := range r.Findings {
			if f.Kind == NeverCovers && (f.Frame != 20 || f.Picture == nil || !strings.Contains(f.What, "99.8") || f.Hint) {
				t.Errorf("%+v", f)
			}
		}
	}
}
