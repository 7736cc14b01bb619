package craft

import (
	"fmt"
	"math"
	"slices"
	"strings"
	"testing"

	"ivypocket/core/recipe"
	"ivypocket/core/template"
	"ivypocket/core/timing"
)

// A layer that goes its own way, in its own time, half seen; one that stands.
const movable = `{"id": "a", "name": "A", "kind": "shape", "fill": "#c01030", "place": [100, 50], "size": [200, 100], "scale": [0.8, 0.8], "opacity": 0.7, "shift": 4, "stroke": {"colour": "#ffffff", "width": 4},
	"motion": {"place": {"unit": "self", "keys": [{"id": "k1", "at": 0, "value": [0, 0]}, {"id": "k2", "at": 90, "value": [1, 0]}]}, "opacity": {"keys": [{"id": "k1", "at": 0, "value": 1}, {"id": "k2", "at": 90, "value": 0.5}]}, "scale": {"keys": [{"id": "k1", "at": 0, "value": 1}, {"id": "k2", "at": 90, "value": 2}]}}}, {"id": "b", "name": "B", "kind": "ground", "fill": "#203040"}`

// Every ready move departs from where a layer stands and what it does: where it is to be at rest, it is seen as it was, in
// every format; on the way it is not. Going out it is the same backwards.
func TestReadyMovesDepartFromWhereLayersStand(t *testing.T) {
	first := doc(t, movable, "", "")
	// differs is by how much any number of the layer differs from what it was at a frame.
	differs := func(d *template.Document, frame int64) (most float64) {
		was, is := seenAll(t, first, frame), seenAll(t, d, frame)
		for path, v := range was {
			for k := range v {
				most = math.Max(most, math.Abs(v[k]-is[path][k]))
			}
		}
		for path, v := range is { // masks and treatments of its own
			if was[path] == nil && (strings.HasSuffix(path, "/wipe/place") || strings.HasSuffix(path, "/focus/radius")) {
				most = math.Max(most, math.Abs(v[0]))
			}
		}
		return most
	}
	for _, m := range Moves() {
		usual, err := recipe.Whole(m.Numbers, m.Label, nil)
		if err != nil {
			t.Fatal(err)
		}
		begins, ends := int64(20), 20+int64(usual["length"])
		d, p := do(t, first, Act{Kind: "ready", Way: m.Kind, Layers: []string{"a"}, Frame: begins})
		if err := d.Validate(); err != nil || p.Op.Title != m.Label+" for A" {
			t.Fatalf("%s: %v", p.Op.Title, err)
		}
		if m.Kind != "drift" && ends < 100 && differs(d, ends) > 2e-3 {
			t.Errorf("%s: at its end it is %g off", m.Kind, differs(d, ends))
		}
		arrives := m.Kind != "pulse" && m.Kind != "sway" && m.Kind != "cuts" && m.Kind != "drift"
		if d0 := differs(d, begins); arrives != (d0 > 0.05) {
			t.Errorf("%s: at its beginning it is %g off", m.Kind, d0)
		}
		if on := differs(d, begins+5); on < 0.005 {
			t.Errorf("%s: on the way it is only %g off", m.Kind, on)
		}
		if _, goes := usual["way"]; !goes {
			continue
		}
		out, _ := do(t, first, Act{Kind: "ready", Way: m.Kind, Layers: []string{"a"}, Frame: begins, Numbers: map[string]float64{"way": 1}})
		if differs(out, begins) > 2e-3 || differs(out, ends) < 0.05 {
			t.Errorf("%s: going out it is %g off where it begins and %g where it ends", m.Kind, differs(out, begins), differs(out, ends))
		}
	}
	// By its side and distance; in any format it comes from beyond the canvas.
	d, _ := do(t, first, Act{Kind: "ready", Way: "enter", Layers: []string{"a"}, Frame: 20, Numbers: map[string]float64{"side": 3, "amount": 150, "soft": 0}})
	for _, f := range d.Formats {
		was, is := seenAll(t, first, 20)[f.ID+" layers/a/place"], seenAll(t, d, 20)[f.ID+" layers/a/place"]
		if f.ID == "wide" && math.Abs(is[1]-was[1]-1.5*1080) > 0.1 || is[0] != was[0] && math.Abs(is[0]-was[0]) > 1e-2 {
			t.Errorf("%s: it enters at %g, stands at %g", f.ID, is, was)
		}
	}
	for want, a := range map[string]Act{
		"not one of enter":   {Way: "explode", Layers: []string{"a"}},
		"outside 1 to 10000": {Way: "fade", Layers: []string{"a"}, Numbers: map[string]float64{"length": 0}},
		"asks for no":        {Way: "fade", Layers: []string{"a"}, Numbers: map[string]float64{"side": 1}},
		"can't do that":      {Way: "wipe", Layers: []string{"b"}},
		"do not fit":         {Way: "cuts", Layers: []string{"a"}, Numbers: map[string]float64{"times": 30, "length": 12}},
		"none is selected":   {Way: "fade"},
	} {
		a.Kind, a.Format = "ready", "wide"
		if _, err := Do(first, shelf{}, a); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%v, want %q", err, want)
		}
	}
	// The same seed jumps the same way, another one otherwise; each jump is held.
	jumps := func(seed float64) string {
		d, _ := do(t, first, Act{Kind: "ready", Way: "cuts", Layers: []string{"a"}, Frame: 20, Numbers: map[string]float64{"seed": seed}})
		for _, k := range d.Layer("a").Motion["place"].Keys[1:7] {
			if !k.Hold {
				t.Errorf("a jump is not held: %+v", k)
			}
		}
		return text(t, d)
	}
	if jumps(3) != jumps(3) || jumps(3) == jumps(4) {
		t.Error("jumps are not those of their seed")
	}
}

// What layers do begins one after the other, from the first on: by order, by place, from the middle, by chance; a number
// of frames or an overlap; done again with other numbers it is as if it was done once (60 frames at 29.97 hold twelve
// panels 5 apart: common practice, no source).
func TestMovesAreStaggered(t *testing.T) {
	var layers, ids []string
	for i := range 12 {
		id := fmt.Sprintf("p%d", i)
		ids = append(ids, id)
		layers = append(layers, fmt.Sprintf(`{"id": %q, "name": "P", "kind": "shape", "fill": "#c01030", "place": [%d, 0], "size": [100, 900], "motion": {"opacity": {"keys": [{"id": "a", "at": 10, "value": 0}, {"id": "b", "at": 30, "value": 1}]}, "turn": {"keys": [{"id": "a", "at": 12, "value": 0}]}}}`, id, -825+150*i))
	}
	first := doc(t, strings.Join(layers, ","), "", "")
	begins := func(d *template.Document) (out []int64) {
		for _, id := range ids {
			k := d.Layer(id).Motion["opacity"].Keys
			if k[1].At.Sub(k[0].At) != timing.Int(20) || d.Layer(id).Motion["turn"].Keys[0].At.Sub(k[0].At) != timing.Int(2) {
				t.Errorf("%s: its keys are no longer as far apart: %v", id, k)
			}
			out = append(out, int64(k[0].At.Float()))
		}
		return out
	}
	for way, want := range map[string]string{
		"order":  "[10 15 20 25 30 35 40 45 50 55 60 65]",
		"back":   "[65 60 55 50 45 40 35 30 25 20 15 10]",
		"left":   "[65 60 55 50 45 40 35 30 25 20 15 10]",
		"middle": "[35 30 25 20 15 10 10 15 20 25 30 35]",
		"edges":  "[10 15 20 25 30 35 35 30 25 20 15 10]",
		"down":   "[10 10 10 10 10 10 10 10 10 10 10 10]",
	} {
		d, p := do(t, first, Act{Kind: "stagger", Way: way, Layers: ids, Numbers: map[string]float64{"frames": 5}})
		if got := fmt.Sprint(begins(d)); got != want || way != "down" && p.Op.Title != "Stagger 12 layers" {
			t.Errorf("%s: they begin at %s, not %s", way, got, want)
		}
		again, _ := do(t, d, Act{Kind: "stagger", Way: "order", Layers: ids, Numbers: map[string]float64{"frames": 2}})
		once, _ := do(t, first, Act{Kind: "stagger", Way: "order", Layers: ids, Numbers: map[string]float64{"frames": 2}})
		if text(t, again) != text(t, once) {
			t.Errorf("%s, then in order: they begin at %v, not %v", way, begins(again), begins(once))
		}
	}
	d, _ := do(t, first, Act{Kind: "stagger", Layers: ids, Numbers: map[string]float64{"overlap": 75}})
	if got := begins(d); got[1] != 15 || got[11] != 65 {
		t.Errorf("overlapping by 75 of 100 of 20 frames they begin at %v", got)
	}
	d, _ = do(t, first, Act{Kind: "stagger", Way: "middle", Layers: ids, Numbers: map[string]float64{"spread": 25, "from": 4}})
	if got := fmt.Sprint(begins(d)); got != "[29 24 19 14 9 4 4 9 14 19 24 29]" {
		t.Errorf("spread over 25 frames from 4 on they begin at %s", got)
	}
	chance := func(seed float64) []int64 {
		d, _ := do(t, first, Act{Kind: "stagger", Way: "random", Layers: ids, Numbers: map[string]float64{"frames": 3, "seed": seed}})
		return begins(d)
	}
	one, two := chance(1), chance(2)
	if slices.Equal(one, two) || !slices.Equal(one, chance(1)) || slices.Equal(slices.Sorted(slices.Values(one)), one) || slices.Max(one) != 43 {
		t.Errorf("by chance they begin at %v and %v", one, two)
	}
	// Only the keys that are picked.
	d, _ = do(t, first, Act{Kind: "stagger", Keys: []string{"layers/p0/motion/turn/a", "layers/p1/motion/turn/a"}, Numbers: map[string]float64{"frames": 4}})
	if k := d.Layer("p1").Motion; k["turn"].Keys[0].At != timing.Int(16) || k["opacity"].Keys[0].At != timing.Int(10) {
		t.Errorf("picked keys lie at %v", k["turn"].Keys)
	}
	for want, a := range map[string]Act{
		"two or more":      {Layers: ids[:1], Numbers: map[string]float64{"frames": 5}},
		"say how many":     {Layers: ids},
		"not one of order": {Layers: ids, Way: "about", Numbers: map[string]float64{"frames": 5}},
		"far off":          {Layers: ids, Numbers: map[string]float64{"spread": 5, "from": 900}},
		"outside 0 to 100": {Layers: ids, Numbers: map[string]float64{"overlap": 120}},
	} {
		a.Kind, a.Format = "stagger", "wide"
		if _, err := Do(first, shelf{}, a); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%v, want %q", err, want)
		}
	}
}
