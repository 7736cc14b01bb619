package craft

import (
	"encoding/json"
	"math"
	"strings"
	"testing"

	"ivypocket/core/edit"
	"ivypocket/core/geom"
	"ivypocket/core/scene"
	"ivypocket/core/scheme"
	"ivypocket/core/sheet"
	"ivypocket/core/template"
	"ivypocket/core/timing"
)

const skies = `{"id": "sky", "name": "Sky", "kind": "ground", "gradient": {"kind": "linear", "from": [0, 0], "to": [0, 1], "stops": [{"id": "low", "at": 0, "colour": "#402030"}, {"id": "high", "at": 1, "colour": "colour:sea"}]}},
	{"id": "band", "name": "Band", "kind": "shape", "size": [300, 100], "gradient": {"kind": "linear", "from": [0, 0], "to": [1, 0], "named": "noon"}},
	{"id": "rule", "name": "Rule", "kind": "shape", "size": [300, 10], "fill": "#ffffff"}`

const skiesMore = `, "colours": [{"id": "sea", "name": "Sea", "value": "#1e7383"}],
	"gradients": [{"id": "noon", "name": "Noon", "stops": [{"id": "s1", "at": 0, "colour": "#ffffff"}, {"id": "s2", "at": 1, "colour": "#80c0ff"}]}],
	"sheet": {"groups": [{"id": "all", "label": "All", "entries": [{"id": "tint", "label": "Tint", "kind": "colour", "default": "#402030", "ties": [{"to": "layers/sky/stops/low/colour"}]}]}]}`

// refusedFor says why an act is refused.
func refusedFor(t *testing.T, d *template.Document, a Act, why string) {
	t.Helper()
	a.Format = "wide"
	if _, err := Do(d, shelf{}, a); err == nil || !strings.Contains(err.Error(), why) {
		t.Errorf("%s: %v, not %q", a.Kind, err, why)
	}
}

// Stops that are given a name are the document's then: the layer takes them, and what set
// them goes along. Removed, they are the layer's own again. The picture is always the same.
func TestStopsAreGivenAName(t *testing.T) {
	first := doc(t, skies, `"layers/sky/stops/high/colour": "#abcdef"`, skiesMore)
	d, p := do(t, first, Act{Kind: "gradient", Name: " Dusk ", Layers: []string{"sky"}})
	if g := d.Gradient("dusk"); g == nil || g.Name != "Dusk" || len(g.Stops()) != 2 || p.Op.Title != "Add the gradient Dusk" {
		t.Fatalf("%q: %s", p.Op.Title, text(t, d))
	}
	y := d.Layer("sky")
	if y.Text(scheme.GradientNamed) != "dusk" || len(y.Stops()) != 0 || d.Sheet.Entry("tint").Ties[0].To != "gradients/dusk/stops/low/colour" {
		t.Errorf("%s", text(t, d))
	}
	if rest := d.Format("tall").Rest; len(rest) != 1 || rest["gradients/dusk/stops/high/colour"].Text != "#abcdef" {
		t.Errorf("the format says %v", rest)
	}
	same := func(what string, d *template.Document) {
		t.Helper()
		if err := d.Validate(); err != nil {
			t.Errorf("%s: %v", what, err)
		}
		if drawnAs(t, first) != drawnAs(t, d) {
			t.Errorf("%s: the picture is another", what)
		}
	}
	same("named", d)
	renamed, _ := do(t, d, Act{Kind: "gradient", Id: "dusk", Name: "Nightfall"})
	if renamed.Gradient("dusk").Name != "Nightfall" || !strings.Contains(renamed.Called("gradients/dusk/stops/low/colour"), "Nightfall") {
		t.Errorf("it is called %s", renamed.Called("gradients/dusk/stops/low/colour"))
	}
	own, _ := do(t, d, Act{Kind: "gradient-remove", Id: "dusk"})
	if y := own.Layer("sky"); y.Given(scheme.GradientNamed) || len(y.Stops()) != 2 || own.Gradient("dusk") != nil {
		t.Errorf("%s", text(t, own))
	}
	same("removed", own)
	if rest, tie := own.Format("tall").Rest, own.Sheet.Entry("tint").Ties; len(rest) != 1 || rest["layers/sky/stops/high/colour"].Text != "#abcdef" || len(tie) != 1 || tie[0].To != "layers/sky/stops/low/colour" {
		t.Errorf("removed, the format says %v, and the entry sets %v", rest, tie)
	}
	left, _ := do(t, d, Act{Kind: "rest", Path: "layers/sky/gradient.named"})
	same("let go of", left)
	if rest := left.Format("tall").Rest; rest["layers/sky/stops/high/colour"].Text != "#abcdef" {
		t.Errorf("let go of, the format says %v", rest)
	}

	refusedFor(t, first, Act{Kind: "gradient", Name: "X", Layers: []string{"rule"}}, "Rule has no gradient")
	refusedFor(t, first, Act{Kind: "gradient", Name: "X", Layers: []string{"band"}}, "Band has a named gradient already")
	refusedFor(t, first, Act{Kind: "gradient", Name: "X", Layers: []string{"band", "sky"}}, "name one layer")
	refusedFor(t, first, Act{Kind: "gradient", Name: " "}, "")
	refusedFor(t, first, Act{Kind: "gradient", Id: "gone", Name: "X"}, "no gradient \"gone\" any more")
	refusedFor(t, first, Act{Kind: "gradient-remove", Id: "gone"}, "any more")
	moves, _ := do(t, first, Act{Kind: "put", Path: "layers/sky/stops/low/formulas/at", Part: json.RawMessage(`"time.share"`)})
	refusedFor(t, moves, Act{Kind: "gradient", Name: "X", Layers: []string{"sky"}}, "moves")
}

// Stops are set as a list: those that are there keep what else is said of them, others come
// in the order of their places, and what set one that goes is let go.
func TestStopsAreSet(t *testing.T) {
	first := doc(t, skies, "", skiesMore)
	first, _ = do(t, first, Act{Kind: "put", Path: "layers/sky/stops/high/formulas/at", Part: json.RawMessage(`"1"`)})
	d, _ := do(t, first, Act{Kind: "stops", Path: "layers/sky", Part: json.RawMessage(`[{"id": "high", "at": 0.9, "colour": "#000000"}, {"at": 0.4, "colour": "colour:sea"}, {"at": 0.2, "colour": "#ff0000"}]`)})
	var got []string
	for _, s := range d.Layer("sky").Stops() {
		got = append(got, s.ID+" "+s.Get(scheme.StopAt).String()+" "+s.Text(scheme.StopColour)+" "+s.Formulas["at"])
	}
	if want := "s1 0.2 #ff0000 |s2 0.4 colour:sea |high 0.9 #000000 1"; strings.Join(got, "|") != want {
		t.Errorf("%s\nnot\n%s", strings.Join(got, "|"), want)
	}
	if e := d.Sheet.Entry("tint"); len(e.Ties) != 0 {
		t.Errorf("it is tied on: %v", e.Ties)
	}
	n, _ := do(t, first, Act{Kind: "stops", Path: "gradients/noon", Part: json.RawMessage(`[{"id": "s2", "at": 0, "colour": "#80c0ff"}, {"id": "s1", "at": 0.5, "colour": "#ffffff"}]`)})
	if s := n.Gradient("noon").Stops(); len(s) != 2 || s[0].ID != "s2" {
		t.Errorf("%s", text(t, n))
	}
	for _, bad := range []string{`[{"at": 0, "colour": "#000000"}]`, `{}`, `[]`} {
		refusedFor(t, first, Act{Kind: "stops", Path: "gradients/noon", Part: json.RawMessage(bad)}, "2 to 64 stops")
	}
	refusedFor(t, first, Act{Kind: "stops", Path: "layers/rule", Part: json.RawMessage(`[{"at": 0, "colour": "#000000"}, {"at": 1, "colour": "#ffffff"}]`)}, "Rule has no gradient")
	v := scheme.Says("linear")
	if d, _ := do(t, first, Act{Kind: "rest", Path: "layers/rule/gradient.kind", Value: &v}); d.Layer("rule").Stops()[0].Text(scheme.StopColour) != "#ffffff" || d.Layer("rule").Given(scheme.Fill) {
		t.Errorf("its gradient does not begin with its fill: %s", text(t, d))
	}
	refusedFor(t, first, Act{Kind: "stops", Path: "gradients/gone", Part: json.RawMessage(`[]`)}, "no gradient at")
	p, err := Do(first, shelf{}, Act{Kind: "stops", Format: "wide", Path: "gradients/noon", Part: json.RawMessage(`[{"at": 0, "colour": "red"}, {"at": 2, "colour": "#000000"}]`)})
	if draft := (edit.Draft{Doc: first}); err == nil {
		_, _, err = draft.Do(p.Op)
	}
	if err == nil {
		t.Error("a stop beyond the end is taken")
	}
}

// A layer's named gradient is offered as a choice between all of the document's; what is
// offered, or set, is not removed without a word.
func TestNamedGradientsAreOffered(t *testing.T) {
	first := doc(t, skies, "", skiesMore)
	refusedFor(t, first, Act{Kind: "offer", Paths: []string{"layers/sky/gradient.named"}}, "give its stops a name")
	refusedFor(t, first, Act{Kind: "offer", Paths: []string{"layers/band/gradient.named"}}, "add a second named gradient")
	refusedFor(t, first, Act{Kind: "entry", Way: "gradient"}, "a second named gradient")
	d, _ := do(t, first, Act{Kind: "gradient", Name: "Dusk", Layers: []string{"sky"}})
	d, _ = do(t, d, Act{Kind: "gradient", Name: "Dawn"})
	offered, _ := do(t, d, Act{Kind: "offer", Paths: []string{"layers/sky/gradient.named", "layers/band/gradient.named"}})
	if got := sheetText(offered); !strings.Contains(got, "[Gradient of Sky Dusk →layers/sky/gradient.named] [Gradient of Band Noon →layers/band/gradient.named]") {
		t.Errorf("%s", got)
	}
	if drawnAs(t, d) != drawnAs(t, offered) {
		t.Error("the picture is another")
	}
	back, _ := do(t, offered, Act{Kind: "withdraw", Paths: []string{"layers/sky/gradient.named", "layers/band/gradient.named"}})
	if text(t, back) != text(t, d) {
		t.Errorf("taken off, it is\n%s\nnot\n%s", text(t, back), text(t, d))
	}
	e := offered.Sheet.Entry("gradient-of-sky")
	refusedFor(t, offered, Act{Kind: "gradient-remove", Id: "dusk"}, "Dusk is the default of Gradient of Sky")
	less, _ := do(t, offered, Act{Kind: "gradient-remove", Id: "dawn"})
	if got := less.Sheet.Entry(e.ID).Options; len(got) != 2 || less.Gradient("dawn") != nil {
		t.Errorf("options are %v", got)
	}
	refusedFor(t, less, Act{Kind: "gradient-remove", Id: "noon"}, "nothing to choose between")
	// A choice that sets it, a format of its own, a use of a motif.
	lay, _ := do(t, d, Act{Kind: "entry", Way: "choice", Name: "Lay"})
	lay, _ = do(t, lay, Act{Kind: "tie", Entry: "lay", Ties: []template.Tie{{To: "layers/band/gradient.named", Stops: []template.Stop{{At: scheme.Says("first"), Value: scheme.Says("noon")}, {At: scheme.Says("second"), Value: scheme.Says("dawn")}}}}})
	refusedFor(t, lay, Act{Kind: "gradient-remove", Id: "dawn"}, "Lay sets Dawn")
	v := scheme.Says("dawn")
	apart, _ := do(t, d, Act{Kind: "rest", Path: "layers/band/gradient.named", Value: &v, Apart: true, Format: "tall"})
	refusedFor(t, apart, Act{Kind: "gradient-remove", Id: "dawn"}, "Tall has Dawn as its own value")
}

// A named gradient comes along with a layer that is pasted, once.
func TestNamedGradientsAreCarried(t *testing.T) {
	from, _ := do(t, doc(t, skies, "", skiesMore), Act{Kind: "gradient", Name: "Dusk", Layers: []string{"sky"}})
	c, err := Copied(from, []string{"sky"})
	if err != nil {
		t.Fatal(err)
	}
	raw, err := json.Marshal(c)
	if err != nil {
		t.Fatal(err)
	}
	to := doc(t, `{"id": "dusk", "name": "D", "kind": "shape", "fill": "#000000", "size": [10, 10]}`, "", `, "colours": [{"id": "sea", "name": "Other", "value": "#000000"}]`)
	next, _ := do(t, to, Act{Kind: "paste", Clip: raw})
	if len(next.Gradients) != 1 || next.Gradients[0].ID == "dusk" || next.Layer("sky").Text(scheme.GradientNamed) != next.Gradients[0].ID || len(next.Colours) != 2 || next.Gradients[0].Stops()[1].Text(scheme.StopColour) == "colour:sea" {
		t.Errorf("%s", text(t, next))
	}
	if err := next.Validate(); err != nil {
		t.Error(err)
	}
	again, _ := do(t, from, Act{Kind: "paste", Clip: raw})
	if len(again.Gradients) != 2 {
		t.Errorf("it is brought twice: %s", text(t, again))
	}
}

// An end of a gradient goes where the pointer takes it, on a turned layer and on a ground alike.
func TestEndsOfGradientsFollowThePointer(t *testing.T) {
	first := doc(t, skies+`, {"id": "lean", "name": "Lean", "kind": "shape", "place": [100, -50], "size": [300, 200], "turn": 30, "scale": [1.5, 1], "gradient": {"kind": "radial", "from": [0.5, 0.5], "to": [1, 0.5], "named": "noon"}}`, "", skiesMore)
	for _, id := range []string{"sky", "lean"} {
		for i, name := range []string{"from", "to"} {
			d, _ := do(t, first, Act{Kind: "gradient-end", Path: "layers/" + id, Name: name, To: [2]float64{700.5, 310}})
			sc, err := scene.Compile(&sheet.Resolved{Doc: d, Values: sheet.Values{}}, "wide", shelf{})
			if err != nil {
				t.Fatal(err)
			}
			if at := sc.Look(id, sc.Time().At(timing.OutputFrame(0))).Ends[i]; !near(at, geom.Point{X: 700.5, Y: 310}, 0.03) {
				t.Errorf("%s of %s came to %v", name, id, at)
			}
		}
	}
	own, _ := do(t, first, Act{Kind: "gradient-end", Path: "layers/sky", Name: "to", To: [2]float64{100, 100}, Format: "tall", Apart: true})
	if own.Format("tall").Rest["layers/sky/gradient.to"].Numbers == nil {
		t.Error("it is not the format's own")
	}
	refusedFor(t, first, Act{Kind: "gradient-end", Path: "layers/rule", Name: "to"}, "Rule has no gradient")
	refusedFor(t, first, Act{Kind: "gradient-end", Path: "layers/sky", Name: "middle"}, "neither from nor to")
	refusedFor(t, first, Act{Kind: "gradient-end", Path: "layers/gone", Name: "to"}, "no layer \"gone\"")
}

// While keys are recorded, what is set of stops becomes keys at the frame; while they are not, stops that move are shifted with
// all their keys, and those that rest are set. What was not touched gets no key.
func TestStopsAreRecordedFromTheirStrip(t *testing.T) {
	first := doc(t, `{"id": "sky", "name": "Sky", "kind": "ground", "gradient": {"kind": "linear", "from": [0, 0], "to": [0, 1], "stops": [{"id": "low", "at": 0.2, "colour": "#402030"}, {"id": "high", "at": 1, "colour": "#1e7383"}]}}`, "", "")
	stops := func(d *template.Document, frame int64, record bool, part string) *template.Document {
		t.Helper()
		next, _ := do(t, d, Act{Kind: "stops", Path: "layers/sky", Frame: frame, Record: record, Part: []byte(part)})
		return next
	}
	d := stops(first, 0, true, `[{"id": "low", "at": 0.3, "colour": "#402030"}, {"id": "high", "at": 1, "colour": "#1e7383"}]`)
	d = stops(d, 40, true, `[{"id": "low", "at": 0.7, "colour": "#ff2030"}, {"id": "high", "at": 1, "colour": "#1e7383"}]`)
	low, high := d.Layer("sky").Stops()[0], d.Layer("sky").Stops()[1]
	if k := low.Motion["at"].Keys; len(k) != 2 || k[0].Value.Number() != 0.3 || k[1].At != timing.Int(40) || k[1].Value.Number() != 0.7 {
		t.Errorf("recorded its place has %v", k)
	}
	if k := low.Motion["colour"].Keys; len(k) != 1 || k[0].Value.Text != "#ff2030" || len(high.Motion) > 0 || low.Text(scheme.StopColour) != "#402030" {
		t.Errorf("recorded it is %s", text(t, d))
	}
	shifted := stops(d, 20, false, `[{"id": "low", "at": 0.4, "colour": "#ff2030"}, {"id": "high", "at": 0.9, "colour": "#000000"}]`)
	low, high = shifted.Layer("sky").Stops()[0], shifted.Layer("sky").Stops()[1]
	if k := low.Motion["at"].Keys; math.Abs(k[0].Value.Number()-0.2) > 1e-6 || math.Abs(k[1].Value.Number()-0.6) > 1e-6 {
		t.Errorf("shifted by a tenth its place has %v", k)
	}
	if high.Number(scheme.StopAt) != 0.9 || high.Text(scheme.StopColour) != "#000000" {
		t.Errorf("the other rests at %s", text(t, shifted))
	}
	if _, err := Do(d, shelf{}, Act{Kind: "stops", Path: "layers/sky", Format: "wide", Part: []byte(`[{"id": "low", "at": 0.3, "colour": "#00ff00"}, {"id": "high", "at": 1, "colour": "#1e7383"}]`)}); err == nil || !strings.Contains(err.Error(), "record, or set its keys") {
		t.Errorf("a colour that keys say: %v", err)
	}
}
