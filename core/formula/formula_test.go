package formula

import (
	"fmt"
	"math"
	"strings"
	"testing"
)

// names is a scope of a few names.
type scope map[string]Ref

func (m scope) Ref(head, id string, path []string) (Ref, error) {
	r, ok := m[strings.Join(append([]string{head + ":" + id}, path...), ".")]
	if !ok {
		return r, fmt.Errorf("there is no %s", head)
	}
	return r, nil
}

var some = scope{
	"layer:panel.size.x": {Slot: 0, Kind: NumberKind, Unit: Px}, "layer:panel.turn": {Slot: 1, Kind: NumberKind, Unit: Degrees}, "canvas:.w": {Slot: 2, Kind: NumberKind, Unit: Px},
	"time:.share": {Slot: 3, Kind: NumberKind, Unit: Number}, "time:.seconds": {Slot: 4, Kind: NumberKind, Unit: Seconds}, "entry:count": {Slot: 5, Kind: NumberKind, Unit: Number},
	"layer:panel.blend": {Slot: 5, Kind: WordKind, Words: []string{"normal", "multiply"}}, "layer:panel.hidden": {Slot: 3, Kind: TruthKind},
	"colour:dye": {Slot: 6, Kind: ColourKind, Unit: Number}, "colour:sail": {Slot: 10, Kind: ColourKind, Unit: Number},
}

var slots = []float64{960, 30, 1920, 0.25, 2, 7, 200, 100, 0, 255, 100, 0, 50, 255}

func TestFormulasYieldTheirValues(t *testing.T) {
	for src, c := range map[string]struct {
		unit Unit
		want float64
	}{
		// A title that stops at its panel's width ÷ 4 (common practice, no source).
		"layer('panel').size.x / 4":                        {Px, 240},
		"-layer('panel').size.x/4 + 12":                    {Px, -228},
		"mix(-240, 240, time.share)":                       {Px, -120},
		"clamp(canvas.w * 2, 0, 3000)":                     {Px, 3000},
		"remap(layer('panel').size.x, 0, canvas.w, 0, 90)": {Degrees, 45},
		"step(1, time.seconds)":                            {Number, 1},
		"smoothstep(0, 1, time.share)":                     {Number, 0.15625},
		"sin(layer('panel').turn)":                         {Number, 0.5},
		"time.seconds > 1 and time.share < 0.5 ? 3 : 4":    {Px, 3},
		"max(1, 2, entry('count'), 5) % 4":                 {Number, 3},
		"-1 % 4":                                           {Number, 3},
		"canvas.w * layer('panel').size.x / canvas.w":      {Px, 960},
		"100 * time.share":                                 {Px, 25},
		"2 ** 3 + round(2.5) + floor(-0.5)":                {Number, 10},
		"(layer('panel').turn + 15)":                       {Degrees, 45},
		"time.seconds * 30":                                {Degrees, 60},
		"time.seconds * 30 + layer('panel').turn":          {Degrees, 90},
		"layer('panel').blend == 'multiply' ? 1 : 2":       {Number, 2},
	} {
		p, err := Compile(src, Want{Unit: c.unit}, some)
		if err != nil {
			t.Errorf("%s: %v", src, err)
			continue
		}
		if got := p.Number(slots); math.Abs(got-c.want) > 1e-12 {
			t.Errorf("%s is %g, want %g", src, got, c.want)
		}
	}
	p, err := Compile("time.share < 0.5 ? mix(colour('dye'), colour('sail'), 0.5) : colour('dye')", Want{Kind: ColourKind}, some)
	if err != nil {
		t.Fatal(err)
	}
	if got := p.Colour(slots); got != [4]float64{150, 50, 25, 255} {
		t.Errorf("a mixed colour is %v", got)
	}
	if len(p.Reads) != 9 {
		t.Errorf("reads %v", p.Reads)
	}
}

func TestFormulasSayWhatIsWrong(t *testing.T) {
	for src, want := range map[string]string{
		"layer('panel').size.x + layer('panel').turn": `"+" joins px and degrees`,
		"layer('panel').turn":                         "gives degrees, where px is needed; multiply it by how much",
		"layer('panel').blend == 'screen'":            `"screen" is not one of normal, multiply`,
		"time.share == 'normal'":                      "a number is no word",
		"layer('panel').blend":                        "gives a word, where a number is needed",
		"canvas.w * canvas.w":                         "gives px to the power of 2",
		"layer('nobody').size.x":                      "character 1: there is no layer",
		"sin(canvas.w)":                               "needs an angle in degrees, not px",
		"1 +":                                         "unexpected token",
		"map([1,2], # * 2)":                           `there is no function "map"`,
		"count([1])":                                  `there is no function "count"`,
		"[1, 2]":                                      "formulas have no such thing",
		"let x = 1; x":                                "formulas have no such thing",
		"'panel'":                                     "text alone",
		"layer(3).size.x":                             "write an id in quotes",
		"clamp(1, 2)":                                 "clamp takes 3 arguments, not 2",
		"time.share > 0.5":                            "gives true or false, where a number is needed",
		"time.share ? 1 : 2":                          "must be a comparison",
		"colour('dye')":                               "gives a colour, where a number is needed",
		"":                                            "is empty",
		strings.Repeat("(", 400) + "1" + strings.Repeat(")", 400): "",
		strings.Repeat("1+", 400) + "1":                           "nested deeper",
		"max(" + strings.Repeat("1,", 400) + "1)":                 "more than 300 parts",
		strings.Repeat("-", 200) + "1":                            "nested deeper",
		strings.Repeat("1 ", 800):                                 "characters are more than",
	} {
		_, err := Compile(src, Want{Unit: Px}, some)
		if want != "" && (err == nil || !strings.Contains(err.Error(), want)) {
			t.Errorf("%.40s: %v, want %q", src, err, want)
		}
	}
}

func TestFormulasYieldWordsAndTruth(t *testing.T) {
	words := []string{"normal", "multiply", "screen"}
	p, err := Compile("entry('count') > 5 ? 'screen' : 'normal'", Want{Kind: WordKind, Words: words}, some)
	if err != nil || p.Number(slots) != 2 {
		t.Errorf("a word by a formula: %v", err)
	}
	if _, err := Compile("'overlay'", Want{Kind: WordKind, Words: words}, some); err == nil || !strings.Contains(err.Error(), "is not one of normal, multiply, screen") {
		t.Errorf("a word that is none: %v", err)
	}
	p, err = Compile("not (entry('count') > 5) or layer('panel').blend != 'normal'", Want{Kind: TruthKind}, some)
	if err != nil || p.Number(slots) != 1 {
		t.Errorf("a switch by a formula: %v", err)
	}
}

func TestFormulasLeaveNothingBehind(t *testing.T) {
	p, err := Compile("clamp(mix(layer('panel').size.x, canvas.w, smoothstep(0, 1, time.share)) + 12, 0, min(canvas.w, 4000, 5000))", Want{Unit: Px}, some)
	if err != nil {
		t.Fatal(err)
	}
	if n := testing.AllocsPerRun(100, func() { p.Number(slots) }); n > 0 {
		t.Errorf("%g allocations", n)
	}
}

func FuzzFormula(f *testing.F) {
	for _, s := range []string{"layer('panel').size.x / 4", "mix(colour('dye'), colour('sail'), 0.5)", "time.share > 1 ? -2 : max(1, 2, 3, 4)", "a?.b", "not (1 < 2) || true", "1..5", "{a: 1}", "\"\\u00zz", "0x1p-9", "1e400", "# + 1", "a | b(1)"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, src string) {
		for _, k := range []Kind{NumberKind, ColourKind} {
			if p, err := Compile(src, Want{Kind: k, Unit: Px}, some); err == nil {
				if k == NumberKind {
					p.Number(slots)
				} else {
					p.Colour(slots)
				}
			}
		}
	})
}
