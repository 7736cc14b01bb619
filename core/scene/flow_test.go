package scene_test

import (
	"encoding/json"
	"fmt"
	"math"
	"strings"
	"testing"

	"ivypocket/core/geom"
	"ivypocket/core/scene"
	"ivypocket/core/sheet"
	"ivypocket/core/template"
	"ivypocket/core/timing"
)

// flowed is a document of two formats with some layers, compiled for one of them.
func flowed(t *testing.T, layers, rest, entries, format string, v sheet.Values) *scene.Scene {
	t.Helper()
	d, err := template.Parse(fmt.Appendf(nil, `{"ivypocket": 3, "kind": "template", "id": "t", "name": "T", "category": "C", "rate": "25", "frames": 50,
		"formats": [{"id": "wide", "name": "Wide", "width": 1000, "height": 500}, {"id": "tall", "name": "Tall", "width": 500, "height": 1000, "rest": {%s}}],
		"pockets": [{"id": "badge", "name": "Badge", "kinds": ["logo"]}], "layers": [%s], "sheet": {"groups": [{"id": "g", "label": "G", "entries": [%s]}]}}`, rest, layers, entries))
	if err != nil {
		t.Fatal(err)
	}
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

// stands tells the boxes of some layers on the canvas at a frame, as left, top, width and
// height.
func stands(s *scene.Scene, frame int64, layers ...string) string {
	var out []string
	all := s.Standings(s.Time().At(timing.OutputFrame(frame)))
	for _, id := range layers {
		for _, k := range all {
			if k.Layer == id {
				b := k.Box()
				if k.Now.Size == (geom.Size{}) {
					b = geom.Box{}
				}
				out = append(out, fmt.Sprintf("%s %g %g %g %g", id, round(b.X), round(b.Y), round(b.W), round(b.H)))
			}
		}
	}
	return strings.Join(out, ", ")
}

func given(t *testing.T, text string) (v sheet.Values) {
	t.Helper()
	if err := json.Unmarshal([]byte(text), &v); err != nil {
		t.Fatal(err)
	}
	return v
}

func round(x float64) float64 { return math.Round(x*1e6)/1e6 + 0 }

// box is a shape of a size; the first in a group lies lowest, and comes last in a flow.
func box(id string, w, h float64, more string) string {
	return fmt.Sprintf(`{"id": %q, "name": %q, "kind": "shape", "fill": "#ffffff", "size": [%g, %g]%s}`, id, id, w, h, more)
}

func group(flow string, layers ...string) string {
	return fmt.Sprintf(`{"id": "card", "name": "Card", "kind": "group", %s, "layers": [%s]}`, flow, strings.Join(layers, ", "))
}

const fill = `{"id": "backing", "name": "Backing", "kind": "shape", "fill": "#000000"}`

// What is in a group stands in a row or a stack, the topmost first; a backing is as large
// as all of it, and what is hidden takes no room. Worked out by hand.
func TestAFlowClosesUp(t *testing.T) {
	a, b, c := box("a", 100, 20, ""), box("b", 60, 30, ""), box("c", 80, 40, "")
	hidden := box("b", 60, 30, `, "hidden": true`)
	for name, x := range map[string]struct{ layers, want string }{
		// 110 × 120 about the middle of 1000 × 500, which is at 445, 190.
		"a stack": {group(`"flow": {"way": "stack", "gap": 10, "align": "start", "hugs": true, "padding": 5}`, fill, c, b, a),
			"backing 445 190 110 120, a 450 195 100 20, b 450 225 60 30, c 450 265 80 40"},
		"one is hidden": {group(`"flow": {"way": "stack", "gap": 10, "align": "start", "hugs": true, "padding": 5}`, fill, c, hidden, a),
			"backing 445 210 110 80, a 450 215 100 20, c 450 245 80 40"},
		"all are hidden": {group(`"flow": {"way": "stack", "gap": 10, "hugs": true, "padding": 5}`, fill, hidden), "backing 0 0 0 0"},
		"a row": {group(`"flow": {"way": "row", "gap": 10, "align": "end", "hugs": true}`, c, b, a),
			"a 370 250 100 20, b 480 240 60 30, c 550 230 80 40"},
		"in a box of its own": {group(`"size": [400, 200], "flow": {"way": "row", "from": "end", "align": "start"}`, b, a), "a 540 150 100 20, b 640 150 60 30"},
		"wrapped":             {group(`"size": [400, 200], "flow": {"way": "row", "from": "start", "align": "start", "gap": 10, "wrap": 170}`, c, b, a), "a 300 150 100 20, b 410 150 60 30, c 300 190 80 40"},
		"wrapped and hugged":  {group(`"flow": {"way": "row", "from": "start", "align": "start", "gap": 10, "wrap": 170, "hugs": true}`, fill, c, b, a), "backing 415 210 170 80, a 415 210 100 20, b 525 210 60 30, c 415 250 80 40"},
		"scaled at rest":      {group(`"flow": {"way": "row", "align": "start", "hugs": true}`, b, box("a", 100, 20, `, "scale": 2, "origin": [0, 0]`)), "a 370 230 200 40, b 570 230 60 30"},
		"about its middle":    {group(`"flow": {"way": "row", "align": "start", "hugs": true}`, b, box("a", 100, 20, `, "scale": [2, -1]`)), "a 370 235 200 20, b 570 235 60 30"},
		"from its corner up":  {group(`"anchor": "bottom left", "flow": {"way": "stack", "align": "start", "hugs": true}`, b, a), "a 0 450 100 20, b 0 470 60 30"},
		"anchored otherwise":  {group(`"flow": {"way": "row", "align": "start", "hugs": true}`, b, box("a", 100, 20, `, "anchor": "top right", "place": [900, 900]`)), "a 420 235 100 20, b 520 235 60 30"},
		"one is loose":        {group(`"flow": {"way": "row", "align": "start", "hugs": true}`, b, box("a", 100, 20, `, "loose": true, "place": [7, 8]`)), "a 457 248 100 20, b 470 235 60 30"},
		"one in another": {group(`"flow": {"way": "stack", "align": "start", "hugs": true}`, c, `{"id": "in", "name": "In", "kind": "group", "flow": {"way": "row", "align": "start", "hugs": true, "gap": 5}, "layers": [`+b+`, `+a+`]}`),
			"a 417.5 215 100 20, b 522.5 215 60 30, c 417.5 245 80 40, in 417.5 215 165 30"},
	} {
		got := stands(flowed(t, x.layers, "", "", "wide", sheet.Values{}), 0, "backing", "a", "b", "c", "in")
		for _, part := range strings.Split(x.want, ", ") {
			if !strings.Contains(got+",", part+",") {
				t.Errorf("%s: %s, want %s", name, got, x.want)
				break
			}
		}
	}
}

// A switch leaves out what it hides, in both formats; one of them stacks what the other has
// in a row, and wraps. Gap and members have keys: they depart from where the flow has them.
func TestAFlowMovesAndHasFormats(t *testing.T) {
	a := box("a", 100, 20, `, "motion": {"place": {"unit": "self", "keys": [{"id": "k1", "at": 0, "value": [-0.5, 0]}, {"id": "k2", "at": 40, "value": [0, 0]}]}, "scale": {"keys": [{"id": "k1", "at": 0, "value": 1}, {"id": "k2", "at": 40, "value": 3}]}}`)
	b, c := box("b", 60, 30, ""), box("c", 80, 40, "")
	card := group(`"flow": {"way": "row", "gap": 10, "align": "start", "from": "start", "hugs": true}, "motion": {"flow.gap": {"keys": [{"id": "k1", "at": 0, "value": 1, "ease": [0, 0, 1, 1]}, {"id": "k2", "at": 40, "value": 2}]}}`, fill, c, b, a)
	const tall = `"layers/card/flow.way": "stack", "layers/card/flow.wrap": 60`
	const shown = `{"id": "shown", "label": "Shown", "data": "shown", "kind": "switch", "default": true, "ties": [{"to": "layers/b/hidden", "stops": [{"at": true, "value": false}, {"at": false, "value": true}]}]}`
	at := func(format string, frame int64, values string) string {
		t.Helper()
		v := sheet.Values{}
		if values != "" {
			v = given(t, values)
		}
		return stands(flowed(t, card, tall, shown, format, v), frame, "backing", "a", "b", "c")
	}
	const off = `{"entries": {"shown": false}}`
	for _, x := range []struct {
		format string
		frame  int64
		values string
		want   string
	}{
		// 100 + 60 + 80 and two gaps of 10: 260 wide; a begins 50 px to the left.
		{"wide", 0, "", "backing 370 230 260 40, a 320 230 100 20, b 480 230 60 30, c 550 230 80 40"},
		// In the middle of the way the gap is 15, and a, twice as large, 25 px from where it stands.
		{"wide", 20, off, "backing 402.5 230 195 40, a 327.5 220 200 40, c 517.5 230 80 40"},
		// At its end 20; a is where the flow has it, three times as large about its middle.
		{"wide", 40, "", "backing 360 230 280 40, a 260 210 300 60, b 480 230 60 30, c 560 230 80 40"},
		{"wide", 0, off, "backing 405 230 190 40, a 355 230 100 20, c 515 230 80 40"},
		// Stacked and wrapped at 60: a and b in a line of 20 + 10 + 30, c beside them.
		{"tall", 0, "", "backing 155 470 190 60, a 105 470 100 20, b 155 500 60 30, c 265 470 80 40"},
		{"tall", 0, off, "backing 155 480 190 40, a 105 480 100 20, c 265 480 80 40"},
	} {
		if got := at(x.format, x.frame, x.values); !without(got, "b", x.values == off, x.want) {
			t.Errorf("%s at %d %s: %s, want %s", x.format, x.frame, x.values, got, x.want)
		}
	}
}

// without compares, and leaves one layer out of what stands.
func without(got, layer string, leave bool, want string) bool {
	var kept []string
	for _, part := range strings.Split(got, ", ") {
		if !leave || !strings.HasPrefix(part, layer+" ") {
			kept = append(kept, part)
		}
	}
	return strings.Join(kept, ", ") == want
}

// What is left out without a pocket's media goes while the pocket is empty, whatever its
// keys and formulas say, and the rest closes up.
func TestWhatHangsOnAnEmptyPocketIsLeftOut(t *testing.T) {
	const keys = `, "without": "badge", "motion": {"hidden": {"keys": [{"id": "k1", "at": 0, "value": false}]}}`
	card := group(`"flow": {"way": "row", "gap": 10, "align": "start", "hugs": true}`, fill,
		box("rule", 20, 30, `, "without": "badge", "formulas": {"hidden": "false"}`), box("a", 100, 20, ""),
		`{"id": "mark", "name": "Mark", "kind": "view", "pocket": "badge", "size": [50, 50]`+keys+`}`)
	empty := flowed(t, card, "", "", "wide", sheet.Values{})
	if got := stands(empty, 0, "backing", "a"); got != "backing 450 240 100 20, a 450 240 100 20" {
		t.Errorf("empty: %s", got)
	}
	for _, k := range empty.Standings(empty.Time().At(0)) {
		if gone := k.Layer == "mark" || k.Layer == "rule"; k.Shown == gone {
			t.Errorf("empty: %s is shown %v", k.Layer, k.Shown)
		}
	}
	full := flowed(t, card, "", "", "wide", given(t, `{"fills": {"badge": {"media": "`+hash("c")+`"}}}`))
	if got := stands(full, 0, "backing", "mark", "a", "rule"); got != "backing 405 225 190 50, mark 405 225 50 50, a 465 225 100 20, rule 575 225 20 30" {
		t.Errorf("filled: %s", got)
	}
}

// A formula reads where the flow has a layer, one that yields a place takes part in none,
// and what goes in a circle is told.
func TestFormulasAndFlows(t *testing.T) {
	s := flowed(t, box("told", 10, 10, `, "formulas": {"place.x": "layer('a').place.x", "place.y": "layer('card').size.y"}`)+", "+
		group(`"flow": {"way": "row", "gap": 10, "align": "start", "hugs": true}`, box("c", 40, 40, `, "formulas": {"place.x": "7"}`), box("b", 60, 30, ""), box("a", 100, 20, "")), "", "", "wide", sheet.Values{})
	// The row of a and b is 170 wide: a stands 35 left of its middle.
	if got := stands(s, 0, "told", "a"); got != "told 460 275 10 10, a 415 235 100 20" {
		t.Errorf("told: %s", got)
	}
	circle := group(`"flow": {"way": "row", "hugs": true}, "formulas": {"flow.gap": "layer('a').place.x"}`, box("b", 60, 30, ""), box("a", 100, 20, ""))
	_, err := template.Parse([]byte(`{"ivypocket": 3, "kind": "template", "id": "t", "name": "T", "category": "C", "rate": "25", "frames": 50, "formats": [{"id": "wide", "name": "Wide", "width": 1000, "height": 500}], "layers": [` + circle + `]}`))
	if err == nil || !strings.Contains(err.Error(), "goes in a circle") {
		t.Errorf("a circle: %v", err)
	}
}

// Who follows a layer in a flow departs from rest as that does; a group in a flow that
// closes up in time takes less room from that instant on.
func TestFollowersAndGroupsInAFlow(t *testing.T) {
	gaps := `"flow": {"way": "row", "gap": 10, "align": "start", "hugs": true}, "motion": {"flow.gap": {"keys": [{"id": "k1", "at": 0, "value": 1}, {"id": "k2", "at": 40, "value": 3}]}}`
	s := flowed(t, group(gaps, box("b", 60, 30, ""), box("a", 100, 20, ""))+", "+box("by", 10, 10, `, "follow": "b"`), "", "", "wide", sheet.Values{})
	if got := stands(s, 0, "b", "by"); got != "b 525 235 60 30, by 495 245 10 10" {
		t.Errorf("at rest: %s", got)
	}
	if got := stands(s, 40, "b", "by"); got != "b 535 235 60 30, by 505 245 10 10" {
		t.Errorf("moved: %s", got)
	}
	in := `{"id": "in", "name": "In", "kind": "group", "flow": {"way": "row", "align": "start", "hugs": true, "gap": 5}, "layers": [` +
		box("b", 60, 30, `, "motion": {"hidden": {"keys": [{"id": "k1", "at": 0, "value": false}, {"id": "k2", "at": 20, "value": true}]}}`) + `, ` + box("a", 100, 20, "") + `]}`
	s = flowed(t, group(`"flow": {"way": "stack", "align": "start", "hugs": true}`, fill, box("c", 80, 40, ""), in), "", "", "wide", sheet.Values{})
	for frame, want := range map[int64]string{0: "backing 417.5 215 165 70, a 417.5 215 100 20, c 417.5 245 80 40", 20: "backing 450 220 100 60, a 450 220 100 20, c 450 240 80 40"} {
		if got := stands(s, frame, "backing", "a", "c"); got != want {
			t.Errorf("at %d: %s, want %s", frame, got, want)
		}
	}
}

// An instant of what flows is evaluated without anything being made anew.
func TestFlowsAllocateNothing(t *testing.T) {
	s := flowed(t, group(`"flow": {"way": "row", "gap": 10, "hugs": true, "wrap": 150}`, fill, box("c", 80, 40, ""), box("b", 60, 30, ""), box("a", 100, 20, "")), "", "", "wide", sheet.Values{})
	var l scene.List
	at := func() { s.At(&l, s.Time().At(3), scene.Size{W: 100, H: 50}) }
	at()
	if n := testing.AllocsPerRun(100, at); n > 0 {
		t.Errorf("%v allocations", n)
	}
}
