package scene_test

import (
	"fmt"
	"strings"
	"testing"

	"ivypocket/core/scene"
	"ivypocket/core/scheme"
	"ivypocket/core/sheet"
	"ivypocket/core/template"
)

// saved is a move that comes from the left in 20 frames, while it fades on, turns and takes on another colour.
const saved = `"moves": [{"id": "come", "name": "Come", "length": 20, "motion": {
	"place": {"unit": "canvas", "keys": [{"at": 0, "value": [-0.5, 0], "ease": [0.2, 0.8, 0.1, 1]}, {"at": 12, "value": [0.1, 0.25]}, {"at": 20, "value": [0, 0]}]},
	"opacity": {"keys": [{"at": 0, "value": 0}, {"at": 10, "value": 1}]},
	"turn": {"keys": [{"at": 0, "value": 40, "hold": true}, {"at": 20, "value": 0}]},
	"fill": {"keys": [{"at": 0, "value": "#ffffff"}, {"at": 20, "value": "#204060"}]},
	"stroke.to": {"keys": [{"at": 0, "value": 0}, {"at": 20, "value": 1}]}}}], `

func body(id, more string) string {
	return fmt.Sprintf(`{"id": %q, "name": "Y", "kind": "shape", "place": [10, -5], "size": [40, 20], "turn": 5, "fill": "#204060"%s}`, id, more)
}

// A layer that performs a saved move stands as one that has the same keys by itself: shifted, stretched, scaled, softened
// or passed the other way as they are written out by hand here.
func TestPerformedMovesAreKeysOfTheLayer(t *testing.T) {
	pairs := map[string][2]string{
		"as saved": {`"length": 20`, `"place": {"unit": "canvas", "keys": [{"at": 0, "value": [-0.5, 0], "ease": [0.2, 0.8, 0.1, 1]}, {"at": 12, "value": [0.1, 0.25]}, {"at": 20, "value": [0, 0]}]},
			"opacity": {"keys": [{"at": 0, "value": 0}, {"at": 10, "value": 1}]}, "turn": {"keys": [{"at": 0, "value": 40, "hold": true}, {"at": 20, "value": 0}]},
			"fill": {"keys": [{"at": 0, "value": "#ffffff"}, {"at": 20, "value": "#204060"}]}`},
		"later and in half the time": {`"at": 7, "length": 10`, `"place": {"unit": "canvas", "keys": [{"at": 7, "value": [-0.5, 0], "ease": [0.2, 0.8, 0.1, 1]}, {"at": 13, "value": [0.1, 0.25]}, {"at": 17, "value": [0, 0]}]},
			"opacity": {"keys": [{"at": 7, "value": 0}, {"at": 12, "value": 1}]}, "turn": {"keys": [{"at": 7, "value": 40, "hold": true}, {"at": 17, "value": 0}]},
			"fill": {"keys": [{"at": 7, "value": "#ffffff"}, {"at": 17, "value": "#204060"}]}`},
		"half as far, to the other side": {`"length": 20, "amount": -0.5`, `"place": {"unit": "canvas", "keys": [{"at": 0, "value": [0.25, 0], "ease": [0.2, 0.8, 0.1, 1]}, {"at": 12, "value": [-0.05, -0.125]}, {"at": 20, "value": [0, 0]}]},
			"opacity": {"keys": [{"at": 0, "value": 1}, {"at": 10, "value": 1}]}, "turn": {"keys": [{"at": 0, "value": -20, "hold": true}, {"at": 20, "value": 0}]},
			"fill": {"keys": [{"at": 0, "value": "#ffffff"}, {"at": 20, "value": "#204060"}]}`},
		"evenly": {`"length": 20, "soft": 1`, `"place": {"unit": "canvas", "keys": [{"at": 0, "value": [-0.5, 0]}, {"at": 12, "value": [0.1, 0.25]}, {"at": 20, "value": [0, 0]}]},
			"opacity": {"keys": [{"at": 0, "value": 0}, {"at": 10, "value": 1}]}, "turn": {"keys": [{"at": 0, "value": 40, "hold": true}, {"at": 20, "value": 0}]},
			"fill": {"keys": [{"at": 0, "value": "#ffffff"}, {"at": 20, "value": "#204060"}]}`},
		"backwards": {`"at": 30, "length": 20, "back": true`, `"place": {"unit": "canvas", "keys": [{"at": 30, "value": [0, 0]}, {"at": 38, "value": [0.1, 0.25], "ease": [0.9, 0, 0.8, 0.2]}, {"at": 50, "value": [-0.5, 0]}]},
			"opacity": {"keys": [{"at": 40, "value": 1}, {"at": 50, "value": 0}]}, "turn": {"keys": [{"at": 30, "value": 0, "hold": true}, {"at": 50, "value": 40}]},
			"fill": {"keys": [{"at": 30, "value": "#204060"}, {"at": 50, "value": "#ffffff"}]}`},
		"off": {`"length": 20, "off": true`, ``},
	}
	for name, p := range pairs {
		s := made(t, 200, 100, saved, body("does", `, "moves": [{"id": "m", "kind": "saved", "move": "come", `+p[0]+`}]`)+","+body("has", `, "motion": {`+p[1]+`}`), sheet.Values{})
		for f := int64(0); f < 60; f++ {
			for _, of := range []string{"place", "opacity", "turn", "fill"} {
				near(t, fmt.Sprintf("%s: %s at frame %d", name, of, f), now(t, s, "layers/does/"+of, f), now(t, s, "layers/has/"+of, f)...)
			}
		}
	}
}

// A bent way is bent as far as the move goes, and the other way round where it is gone back; an easing that is made harder stays
// between its ends where it was, and swings out farther where it did.
func TestBentWaysAndHarderEasings(t *testing.T) {
	const bent = `"moves": [{"id": "arc", "name": "Arc", "length": 20, "motion": {"place": {"unit": "canvas", "keys": [{"at": 0, "value": [-0.5, 0], "out": [0, 0.4], "ease": [0.6, -0.2, 0.3, 1]}, {"at": 20, "value": [0, 0], "in": [-0.2, 0]}]}}}], `
	for name, p := range map[string][2]string{
		"half as far": {`"length": 20, "amount": 0.5`, `{"at": 0, "value": [-0.25, 0], "out": [0, 0.2], "ease": [0.6, -0.2, 0.3, 1]}, {"at": 20, "value": [0, 0], "in": [-0.1, 0]}`},
		"backwards":   {`"length": 20, "back": true`, `{"at": 0, "value": [0, 0], "out": [-0.2, 0], "ease": [0.7, 0, 0.4, 1.2]}, {"at": 20, "value": [-0.5, 0], "in": [0, 0.4]}`},
		"harder":      {`"length": 20, "soft": -1`, `{"at": 0, "value": [-0.5, 0], "out": [0, 0.4], "ease": [1, -1.2667, 0, 1]}, {"at": 20, "value": [0, 0], "in": [-0.2, 0]}`},
		"softer":      {`"length": 20, "soft": 0.5`, `{"at": 0, "value": [-0.5, 0], "out": [0, 0.4], "ease": [0.4667, 0.0667, 0.4833, 0.8333]}, {"at": 20, "value": [0, 0], "in": [-0.2, 0]}`},
	} {
		s := made(t, 200, 100, bent, body("does", `, "moves": [{"id": "m", "kind": "saved", "move": "arc", `+p[0]+`}]`)+","+body("has", `, "motion": {"place": {"unit": "canvas", "keys": [`+p[1]+`]}}`), sheet.Values{})
		for f := int64(0); f < 25; f++ {
			near(t, fmt.Sprintf("%s at frame %d", name, f), now(t, s, "layers/does/place", f), now(t, s, "layers/has/place", f)...)
		}
	}
}

// Whatever an entry says, it is drawn: what goes beyond what keys may be goes as far as they may.
func TestPerformancesStayWithinWhatKeysMayBe(t *testing.T) {
	const far = `"moves": [{"id": "far", "name": "Far", "length": 10, "motion": {"place": {"unit": "self", "keys": [{"at": 0, "value": [60, -60], "out": [90, 0]}, {"at": 10, "value": [0, 0]}]},
		"scale": {"keys": [{"at": 0, "value": 50}, {"at": 10, "value": 1}]}}}], `
	s := made(t, 200, 100, far, body("y", `, "moves": [{"id": "m", "kind": "saved", "move": "far", "length": 10, "amount": 10}, {"id": "n", "kind": "plain", "length": 10, "at": 50, "place": {"from": [32768, 0]}}]`), sheet.Values{})
	near(t, "as far as keys may be", now(t, s, "layers/y/place", 0), 10+100*40+100*200, -5-100*20)
	odd := strings.Replace(strings.Replace(far, `"length": 10`, `"length": 9.871`, 1), `{"at": 10, "value": [0, 0]}`, `{"at": "999999937/99999989", "value": [0, 0]}`, 1)
	s2 := made(t, 200, 100, odd, body("y", `, "shift": "99999989/99999971", "moves": [{"id": "m", "kind": "saved", "move": "far", "at": 3.333, "length": 7.777}]`), sheet.Values{})
	near(t, "where odd fractions end", now(t, s2, "layers/y/place", 30), 10, -5)
	near(t, "as large as keys may be", now(t, s, "layers/y/scale", 0), 100, 100)
}

// One move in and out, the way back, is as what stands at rest in between; what takes rest's place counts from its first
// key on. Keys of its own and another performance are departed from.
func TestPerformancesFollowAndJoinOneAnother(t *testing.T) {
	s := made(t, 200, 100, saved, body("y", `, "stroke": {"colour": "#000000", "width": 4}, "motion": {"place": {"unit": "canvas", "keys": [{"at": 0, "value": [0, 0]}, {"at": 80, "value": [0, 0.4]}]}},
		"moves": [{"id": "in", "kind": "saved", "move": "come", "length": 20}, {"id": "out", "kind": "saved", "move": "come", "at": 60, "length": 20, "back": true}]`), sheet.Values{})
	near(t, "the line while it comes", now(t, s, "layers/y/stroke.to", 10), 0.5)
	near(t, "the line at rest", now(t, s, "layers/y/stroke.to", 40), 1)
	near(t, "the line while it goes", now(t, s, "layers/y/stroke.to", 75), 0.25)
	near(t, "the place at rest, where its own keys have it", now(t, s, "layers/y/place", 40), 10, 15)
	near(t, "the place it came from", now(t, s, "layers/y/place", 0), -90, -5)
	near(t, "the place it goes to", now(t, s, "layers/y/place", 80), -90, 35)
	near(t, "the turn between", now(t, s, "layers/y/turn", 40), 5)
	var paths []string
	for _, c := range s.Curves("y") {
		paths = append(paths, c.Path)
	}
	if got := strings.Join(paths, " "); !strings.Contains(got, "layers/y/place layers/y/moves/in/place layers/y/moves/out/place") {
		t.Errorf("there are curves of %s", got)
	}
}

// A plain move goes from here to there in px of the canvas, factors and degrees, as CSS transitions do: an ease out of rest
// and into it is between its ends in the middle of its time.
func TestPlainMovesHaveNoKeys(t *testing.T) {
	s := made(t, 200, 100, "", body("y", `, "moves": [{"id": "m", "kind": "plain", "at": 10, "length": 20, "place": {"from": [-60, "10vmin"]}, "scale": {"from": 0.5, "to": 2}, "opacity": {"from": 0}, "smooth": 0.8}]`), sheet.Values{})
	near(t, "before", now(t, s, "layers/y/place", 0), -50, 5)
	near(t, "in the middle", now(t, s, "layers/y/place", 20), -20, 0)
	near(t, "after", now(t, s, "layers/y/place", 50), 10, -5)
	near(t, "grown", now(t, s, "layers/y/scale", 30), 2, 2)
	near(t, "faded", now(t, s, "layers/y/opacity", 20), 0.5)
	near(t, "turned", now(t, s, "layers/y/turn", 20), 5)
	if v := now(t, s, "layers/y/place", 13)[0]; v > -48 {
		t.Errorf("it leaves at %g: not gently", v)
	}
}

// Masks and treatments come along with a move, and go when it is off; they are no parts of the layer.
func TestWhatComesAlongWithAMove(t *testing.T) {
	const moves = `"moves": [{"id": "open", "name": "Open", "length": 10, "masks": [{"id": "wipe", "motion": {"place": {"unit": "self", "keys": [{"at": 0, "value": [-1, 0]}, {"at": 10, "value": [0, 0]}]}}}],
		"treatments": [{"id": "focus", "kind": "blur", "radius": 8, "motion": {"radius": {"keys": [{"at": 0, "value": 1}, {"at": 10, "value": 0}]}}, "masks": [{"id": "spot", "size": [30, 30], "motion": {"turn": {"keys": [{"at": 0, "value": 0}, {"at": 10, "value": 90}]}}}]}]}], `
	hand := `, "masks": [{"id": "wipe", "motion": {"place": {"unit": "self", "keys": [{"at": 20, "value": [-1, 0]}, {"at": 40, "value": [0, 0]}]}}}],
		"treatments": [{"id": "focus", "kind": "blur", "radius": 8, "motion": {"radius": {"keys": [{"at": 20, "value": 1}, {"at": 40, "value": 0}]}}, "masks": [{"id": "spot", "size": [30, 30], "motion": {"turn": {"keys": [{"at": 20, "value": 0}, {"at": 40, "value": 90}]}}}]}]`
	drawn := func(more string, frame int64) scene.Address {
		s := made(t, 200, 100, moves, body("y", more), sheet.Values{})
		return at(s, frame, 200, 100).Address()
	}
	does := `, "moves": [{"id": "m", "kind": "saved", "move": "open", "at": 20, "length": 20%s}]`
	for _, f := range []int64{0, 25, 30, 39, 60} {
		if drawn(fmt.Sprintf(does, ""), f) != drawn(hand, f) {
			t.Errorf("frame %d is not as with a mask and a blur of its own", f)
		}
		if drawn(fmt.Sprintf(does, `, "off": true`), f) != drawn("", f) {
			t.Errorf("frame %d is not as without, though it is off", f)
		}
	}
	s := made(t, 200, 100, moves, body("y", fmt.Sprintf(does, "")), sheet.Values{})
	for _, p := range s.Look("y", s.Time().At(0)).Properties {
		if strings.Contains(p.Path, "masks") || strings.Contains(p.Path, "treatments") {
			t.Errorf("it has %s", p.Path)
		}
	}
	var paths []string
	for _, c := range s.Curves("y") {
		paths = append(paths, c.Path)
	}
	if got := strings.Join(paths, " "); got != "layers/y/moves/m/masks/wipe/place layers/y/moves/m/treatments/focus/radius layers/y/moves/m/treatments/focus/masks/spot/turn" {
		t.Errorf("there are curves of %s", got)
	}
}

// What a move is performed by is settled by entries and formulas; in uses of motifs, too. It is the same in all formats.
func TestEntriesDriveWhatIsPerformed(t *testing.T) {
	entries := fmt.Sprintf(sheetOf, `{"id": "long", "label": "L", "kind": "amount", "unit": "frames", "default": 20, "min": 1, "max": 60, "ties": [{"to": "layers/y/moves/m/length"}]}, {"id": "far", "label": "F", "kind": "amount", "unit": "%", "default": 100, "min": 0, "max": 200, "ties": [{"to": "layers/y/moves/m/amount", "from": [0, 200], "into": [0, 2]}]}`)
	d, err := template.Parse([]byte(`{"ivypocket": 3, "kind": "template", "id": "t", "name": "T", "category": "Tests", "rate": "25", "frames": 100, ` + entries + saved + `
		"formats": [{"id": "wide", "name": "Wide", "width": 200, "height": 100}, {"id": "tall", "name": "Tall", "width": 100, "height": 200}],
		"motifs": [{"id": "two", "name": "Two", "kind": "group", "layers": [` + body("in", `, "moves": [{"id": "m", "kind": "saved", "move": "come", "at": 5, "length": 20}]`) + `]}],
		"layers": [` + body("y", `, "moves": [{"id": "m", "kind": "saved", "move": "come", "length": 20}]`) + `,
			` + body("z", `, "moves": [{"id": "m", "kind": "saved", "move": "come", "length": 20, "formulas": {"length": "value('layers/y/moves/m/length') * 2"}}]`) + `,
			{"id": "one", "name": "One", "kind": "use", "motif": "two", "values": {"layers/in/moves/m/amount": 2}}]}`))
	if err != nil {
		t.Fatal(err)
	}
	of := func(v sheet.Values, format string) *scene.Scene {
		r, err := sheet.Resolve(d, v)
		if err != nil {
			t.Fatal(err)
		}
		s, err := scene.Compile(r, format, source)
		if err != nil {
			t.Fatal(err)
		}
		return s
	}
	s := of(sheet.Values{}, "wide")
	near(t, "as it is", now(t, s, "layers/y/opacity", 5), 0.5)
	near(t, "by a formula twice as long", now(t, s, "layers/z/opacity", 10), 0.5)
	near(t, "in a use twice as far", now(t, s, "layers/one:in/place", 5), 10-200, -5)
	v := sheet.Values{}.Clone()
	v.Entries = map[string]scheme.Value{"long": scheme.One(40), "far": scheme.One(50)}
	s = of(v, "wide")
	near(t, "made longer", now(t, s, "layers/y/turn", 39), 25)
	near(t, "and longer what reads it", now(t, s, "layers/z/opacity", 20), 0.5)
	near(t, "half as far", now(t, s, "layers/y/place", 0), 10-50, -5)
	near(t, "in the other format", now(t, of(sheet.Values{}, "tall"), "layers/z/place", 0), 10-50, -5)
}

// What is performed is motion: a format that has it otherwise is refused.
func TestFormatsShareWhatIsPerformed(t *testing.T) {
	_, err := template.Parse([]byte(`{"ivypocket": 3, "kind": "template", "id": "t", "name": "T", "category": "Tests", "rate": "25", "frames": 100, ` + saved + `
		"formats": [{"id": "wide", "name": "Wide", "width": 200, "height": 100, "rest": {"layers/y/moves/m/length": 9}}], "layers": [` + body("y", `, "moves": [{"id": "m", "kind": "saved", "move": "come", "length": 20}]`) + `]}`))
	if err == nil || !strings.Contains(err.Error(), "length is motion, which all formats share") {
		t.Errorf("%v", err)
	}
}

// What is wrong with moves is told where it stands.
func TestFaultsOfMoves(t *testing.T) {
	for want, more := range map[string][2]string{
		`layers[0].moves[0].move: there is no`:                {saved, `, "moves": [{"id": "m", "kind": "saved", "move": "go", "length": 20}]`},
		`layers[0].moves[0].length: is missing`:               {saved, `, "moves": [{"id": "m", "kind": "saved", "move": "come"}]`},
		`layers[0].moves[0].place.from: `:                     {saved, `, "moves": [{"id": "m", "kind": "saved", "move": "come", "length": 20, "place": {"from": [1, 2]}}]`},
		`layers[0].moves[0].at: lies farther off`:             {saved, `, "moves": [{"id": "m", "kind": "saved", "move": "come", "length": 20, "at": 2000}]`},
		`moves[0].motion.size`:                                {`"moves": [{"id": "m", "name": "M", "length": 20, "motion": {"anchor": {"keys": [{"at": 0, "value": 1}]}, "size": {"keys": [{"at": 0, "value": "x"}]}}}], `, ``},
		`anchor is not moved by saved moves`:                  {`"moves": [{"id": "m", "name": "M", "length": 20, "motion": {"anchor": {"keys": [{"at": 0, "value": 1}]}}}], `, ``},
		`moves[0].motion: is missing`:                         {`"moves": [{"id": "m", "name": "M", "length": 20}], `, ``},
		`moves[0].masks[0].formulas: are not for`:             {`"moves": [{"id": "m", "name": "M", "length": 20, "masks": [{"id": "k", "formulas": {"turn": "3"}}]}], `, ``},
		`moves[1].id: "come" is already the id`:               {strings.Replace(saved, `}}}], `, `}}}, {"id": "come", "name": "Again", "length": 3, "motion": {"turn": {"keys": [{"at": 0, "value": 1}]}}}], `, 1), ``},
		`moves, and what this formula yields is settled once`: {saved, `, "moves": [{"id": "m", "kind": "saved", "move": "come", "length": 20}]}, {"id": "z", "name": "Z", "kind": "shape", "fill": "#ffffff", "moves": [{"id": "m", "kind": "saved", "move": "come", "length": 20, "formulas": {"length": "value('layers/y/opacity') * 40"}}]`},
		`moves[0].place: is not part of the format`:           {`"moves": [{"id": "m", "name": "M", "length": 20, "place": [1, 2]}], `, ``},
	} {
		_, err := template.Parse([]byte(`{"ivypocket": 3, "kind": "template", "id": "t", "name": "T", "category": "Tests", "rate": "25", "frames": 100, "formats": [{"id": "wide", "name": "Wide", "width": 200, "height": 100}],
			` + more[0] + `"layers": [` + body("y", more[1]) + `]}`))
		if err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%v, want %q", err, want)
		}
	}
}
