package craft

import (
	"slices"
	"strings"
	"testing"

	"ivypocket/core/scheme"
	"ivypocket/core/template"
)

const flowing = `{"ivypocket": 3, "kind": "template", "id": "t", "name": "T", "category": "C", "rate": "25", "frames": 50,
	"formats": [{"id": "wide", "name": "Wide", "width": 1000, "height": 500}, {"id": "tall", "name": "Tall", "width": 500, "height": 1000}],
	"layers": [{"id": "card", "name": "Card", "kind": "group", "flow": {"way": "stack", "gap": 10, "hugs": true}, "layers": [
		{"id": "low", "name": "Low", "kind": "shape", "fill": "#ffffff", "size": [100, 20]}, {"id": "high", "name": "High", "kind": "shape", "fill": "#ff0000", "size": [60, 40]}]}]}`

func flowDoc(t *testing.T) *template.Document {
	t.Helper()
	d, err := template.Parse([]byte(flowing))
	if err != nil {
		t.Fatal(err)
	}
	return d
}

// What stands in a flow is not dragged, and says why; taken out of its group, or when the
// group is ungrouped, it stays where it stood; the hidden one takes no room.
func TestLayersInAFlow(t *testing.T) {
	d := flowDoc(t)
	if _, err := Do(d, shelf{}, Act{Kind: "place", Format: "wide", Layers: []string{"low"}, From: [2]float64{0, 0}, To: [2]float64{50, 0}}); err == nil || !strings.Contains(err.Error(), "place of Low is set by the flow of Card") {
		t.Errorf("dragged: %v", err)
	}
	apart, _ := do(t, d, Act{Kind: "ungroup", Layers: []string{"card"}})
	for _, f := range []string{"wide", "tall"} {
		if !slices.Equal(pixels(t, d, f, 0), pixels(t, apart, f, 0)) {
			t.Errorf("ungrouped, %s is another picture", f)
		}
	}
	// The stack is 70 high: the low one ends 35 below the middle.
	if y := apart.Layer("low"); apart.Layer("card") != nil || y.Get(scheme.Place).Numbers[1] != 25 {
		t.Errorf("ungrouped, the low one stands at %v", y.Get(scheme.Place).Numbers)
	}
	out, _ := do(t, d, Act{Kind: "nest", Layers: []string{"low"}, Into: "layers", At: -1})
	if y := out.Layer("low"); y.Get(scheme.Place).Numbers[1] != 25 {
		t.Errorf("taken out, the low one stands at %v", y.Get(scheme.Place).Numbers)
	}
	hidden, _ := do(t, d, Act{Kind: "rest", Path: "layers/high/hidden", Value: ptr(scheme.Is(true))})
	if slices.Equal(pixels(t, d, "wide", 0), pixels(t, hidden, "wide", 0)) {
		t.Error("hiding one leaves the picture")
	}
	row, _ := do(t, d, Act{Kind: "rest", Path: "layers/card/flow.way", Value: ptr(scheme.Says("row")), Format: "tall", Apart: true})
	if !slices.Equal(pixels(t, d, "wide", 0), pixels(t, row, "wide", 0)) || slices.Equal(pixels(t, d, "tall", 0), pixels(t, row, "tall", 0)) {
		t.Error("a row in the one format is not in it alone")
	}
}

func ptr(v scheme.Value) *scheme.Value { return &v }
