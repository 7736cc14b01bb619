package sheet_test

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"ivypocket/core/internal/sample"
	"ivypocket/core/sheet"
	"ivypocket/core/template"
	"ivypocket/internal/judge"
)

// everyKind is the sample with an entry of every kind whose values are kept.
func everyKind(t *testing.T) *template.Document {
	t.Helper()
	const groups = `"sheet": {"groups": [`
	return sample.Split(t, groups, groups+`{"id": "more", "label": "More", "entries": [
		{"id": "way", "label": "Way", "kind": "choice", "default": "one", "options": [{"id": "one", "label": "One"}, {"id": "two", "label": "Two"}], "ties": [{"to": "layers/mark/opacity", "stops": [{"at": "one", "value": 1}, {"at": "two", "value": 0.5}]}]},
		{"id": "on", "label": "On", "kind": "switch", "default": true, "ties": [{"to": "layers/mark/hidden", "stops": [{"at": true, "value": false}, {"at": false, "value": true}]}]},
		`+sample.Length+`, {"id": "spot", "label": "Spot", "kind": "place", "default": [0, 0], "area": [-100, -50, 100, 50], "ties": [{"to": "layers/mark/place"}]},
		{"id": "lean", "label": "Lean", "kind": "angle", "default": 0, "min": -45, "max": 45, "ties": [{"to": "layers/mark/turn"}]},
		{"id": "gone", "label": "Gone", "kind": "amount", "default": 1, "min": 0, "max": 2, "fixed": true, "ties": [{"to": "layers/mark/skew.x"}]}]}, `,
		`{"to": "layers/mark/opacity", "from": [0, 60], "into": [1, 0.6]}`, `{"to": "layers/mark/skew.y"}`)
}

// The schema of a release takes what the sheet takes and refuses what it refuses: random
// values of every kind, judged by a validator of JSON Schema draft 2020-12
// (santhosh-tekuri/jsonschema). Seeded.
func TestTheSchemaTakesWhatTheSheetTakes(t *testing.T) {
	d := everyKind(t)
	s := judge.NewSchema(t, sheet.Schema(d))
	rng := rand.New(rand.NewPCG(20, 12))
	pick := func(all ...string) string { return all[rng.IntN(len(all))] }
	number := func(reach float64) string { return fmt.Sprint((rng.Float64()*2.4 - 1.2) * reach) }
	odd := func() string {
		return pick(`"two"`, `"three"`, "true", "3", "[1, 2]", "[1]", `"#102030"`, `"#10203"`, `{}`, `[200, 0]`, `"colour:sand"`, "1e9", "-7", `[1, 2, 3]`)
	}
	hash := "sha256:" + strings.Repeat("ab", 32)
	taken, refused := 0, 0
	for range 3000 {
		var entries, fills []string
		for id, v := range map[string]string{"way": pick(`"one"`, `"two"`), "on": pick("true", "false"), "spot": fmt.Sprintf("[%s, %s]", number(90), number(45)), "lean": number(40), "border": fmt.Sprint(rng.Float64() * 63),
			"border-colour": pick(`"#102030"`, `"#10203040"`, `"#ABCDEF"`)} {
			if rng.IntN(3) == 0 {
				if rng.IntN(8) == 0 {
					v = odd()
				}
				entries = append(entries, fmt.Sprintf("%q: %s", id, v))
			}
		}
		if rng.IntN(12) == 0 {
			entries = append(entries, pick(`"gone": 1`, `"nobody": 1`, `"length": 200`))
		}
		for _, id := range []string{"flood", "ebb", "logo"} {
			if rng.IntN(3) == 0 {
				fills = append(fills, fmt.Sprintf(`%q: {"media": %q, "framing": {"fit": %q, "zoom": %s, "turn": %s}, "formats": {%q: {"pan": [%s, 0]}}, "play": {"in": %s, "after": %q}}`, id, pick(hash, hash, hash, "x"),
					pick("cover", "contain", "", "wide"), pick("1", "2.5", "0.01"), pick("0", "-90", "9999"), pick("square", "square", "landscape", "round"), pick("0", "3.5", "5"), pick("0", "4", "-1"), pick("loop", "", "never")))
			}
		}
		frames := pick("0", "", "", "151", "864001", "-1")
		text := fmt.Sprintf(`{"entries": {%s}, "fills": {%s}`, strings.Join(entries, ", "), strings.Join(fills, ", "))
		if frames != "" {
			text += `, "frames": ` + frames
		}
		text += "}"
		var v sheet.Values
		err := json.Unmarshal([]byte(text), &v)
		if err == nil {
			err = v.Validate(d)
		}
		if said := s.Fits([]byte(text)); (said == nil) != (err == nil) {
			t.Fatalf("%s\nthe sheet says %v, the schema %v", text, err, said)
		}
		if err == nil {
			taken++
			// And what is kept of it fits, too.
			b, err := json.Marshal(v)
			if err != nil {
				t.Fatal(err)
			}
			if err := s.Fits(b); err != nil {
				t.Fatalf("kept as %s: %v", b, err)
			}
		} else {
			refused++
		}
	}
	if taken < 200 || refused < 200 {
		t.Errorf("%d were taken and %d refused", taken, refused)
	}
}

// A piece of a template that is put around a clip may have the clip's measure, and then a
// length in the clip's frames; of others nobody has one.
func TestTheSchemaOfAFrameTakesItsMeasure(t *testing.T) {
	plain, frame := everyKind(t), everyKind(t)
	frame.Purpose = template.Frame
	lo, hi := frame.Lengths()
	for text, takes := range map[string]bool{
		`{}`: true,
		`{"measure": {"format": "square", "width": 640, "height": 480, "rate": "30000/1001"}}`:          true,
		`{"measure": {"format": "landscape", "width": 1280, "height": 720, "rate": 50}, "frames": 301}`: true,
		`{"measure": {"format": "round", "width": 640, "height": 480, "rate": 25}}`:                     false,
		`{"measure": {"format": "square", "width": 641, "height": 480, "rate": 25}}`:                    false,
		`{"measure": {"format": "square", "width": 9000, "height": 480, "rate": 25}}`:                   false,
		`{"measure": {"format": "square", "width": 640, "height": 480}}`:                                false,
		`{"measure": {"format": "square", "width": 640, "height": 480, "rate": 25, "depth": 3}}`:        false,
		fmt.Sprintf(`{"frames": %d}`, lo):                                                               true, fmt.Sprintf(`{"frames": %d}`, lo-1): lo == 1, fmt.Sprintf(`{"frames": %d}`, hi+1): false,
	} {
		if err := judge.NewSchema(t, sheet.Schema(frame)).Fits([]byte(text)); (err == nil) != takes {
			t.Errorf("%s: %v", text, err)
		}
		if strings.Contains(text, "measure") {
			if judge.NewSchema(t, sheet.Schema(plain)).Fits([]byte(text)) == nil {
				t.Errorf("%s: a template that stands alone takes it", text)
			}
			continue
		}
		var v sheet.Values
		if err := json.Unmarshal([]byte(text), &v); err == nil {
			if err := v.Validate(frame); (err == nil) != takes {
				t.Errorf("%s: the sheet says %v", text, err)
			}
		}
	}
}
