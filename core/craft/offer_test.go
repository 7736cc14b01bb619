package craft

import (
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"ivypocket/core/edit"
	"ivypocket/core/scene"
	"ivypocket/core/scheme"
	"ivypocket/core/sheet"
	"ivypocket/core/template"
	"ivypocket/core/timing"
)

const shown = `{"id": "a", "name": "Ring", "kind": "shape", "fill": "#c01030", "place": [-300, 0], "size": [500, 400], "turn": 12, "opacity": 0.6, "blend": "multiply",
		"masks": [{"id": "iris", "feather": 8}], "treatments": [{"id": "soft", "kind": "blur", "radius": 6}]},
	{"id": "b", "name": "Band", "kind": "shape", "fill": "colour:sea", "size": ["30vmin", "10vmin"], "opacity": 0.6, "treatments": [{"id": "soft", "kind": "blur", "radius": "1vmin"}]},
	{"id": "c", "name": "Rule", "kind": "shape", "fill": "colour:sea", "place": ["12vmin", 0], "size": [300, 20], "hidden": true},
	{"id": "k", "name": "Kept", "kind": "shape", "fill": "#ffffff", "size": [30, 20], "formulas": {"turn": "3"}, "motion": {"fill": {"keys": [{"at": 0, "value": "#000000"}, {"at": 9, "value": "#ffffff"}]}}},
	{"id": "v", "name": "View", "kind": "view", "pocket": "kite", "size": [400, 300]}`

const shownMore = `, "pockets": [{"id": "kite", "name": "Kite", "kinds": ["picture"]}], "colours": [{"id": "sea", "name": "Sea", "value": "#1e7383"}]`

func sheetText(d *template.Document) string {
	var b strings.Builder
	for _, g := range d.Sheet.Groups {
		fmt.Fprintf(&b, "%s:", g.Label)
		for _, e := range g.Entries {
			fmt.Fprintf(&b, " [%s", e.Label)
			if e.Default != nil {
				fmt.Fprintf(&b, " %s", e.Says(*e.Default))
			}
			if e.Min != nil {
				fmt.Fprintf(&b, " %g–%g", *e.Min, *e.Max)
			}
			for _, t := range e.Ties {
				fmt.Fprintf(&b, " →%s", t.To)
			}
			b.WriteString("]")
		}
		b.WriteString("\n")
	}
	return b.String()
}

// A value that is offered becomes an entry with what it is now for a default, with a label
// that says what it moves and with limits that suit it; the picture is the same.
func TestValuesAreOffered(t *testing.T) {
	for _, c := range []struct{ paths, want string }{
		{"layers/a/opacity", "Amounts: [Opacity of Ring 60 % 0–100 →layers/a/opacity]"},
		{"layers/a/turn", "Amounts: [Turn of Ring 12° -180–180 →layers/a/turn]"},
		{"layers/a/place", "Amounts: [Place of Ring -300, 0 →layers/a/place]"},
		{"layers/a/size", "Amounts: [Width of Ring 500 px 0–1000 →layers/a/size.x] [Height of Ring 400 px 0–1000 →layers/a/size.y]"},
		{"layers/b/size.x", "Amounts: [Width of Band 30 % 0–100 →layers/b/size.x]"},
		{"layers/c/place.x", "Amounts: [Place x of Rule 12 % -100–100 →layers/c/place.x]"},
		{"layers/c/place", "Amounts: [Place of Rule 12vmin, 0 →layers/c/place]"},
		{"layers/a/fill", "Colours: [Fill of Ring #c01030 →layers/a/fill]"},
		{"layers/b/fill", "Colours: [Sea #1e7383 →colours/sea]"},
		{"layers/c/hidden", "Choices: [Show Rule off →layers/c/hidden]"},
		{"layers/a/masks/iris/off", "Choices: [Mask of Ring on →layers/a/masks/iris/off]"},
		{"layers/a/masks/iris/feather", "Amounts: [Feather of Ring 8 px 0–100 →layers/a/masks/iris/feather]"},
		{"layers/a/treatments/soft/radius", "Amounts: [Radius of the blur of Ring 6 px 0–100 →layers/a/treatments/soft/radius]"},
		{"layers/a/treatments/soft/off", "Choices: [Treatment of Ring on →layers/a/treatments/soft/off]"},
		{"layers/a/blend", "Choices: [Blend of Ring Multiply →layers/a/blend]"},
		{"layers/b/treatments/soft/radius", "Amounts: [Radius of the blur of Band 1 % 0–12 →layers/b/treatments/soft/radius]"},
		{"pockets/kite", "Media: [Kite]"},
		{"pockets/kite/framing.zoom", "Amounts: [Zoom of Kite 100 % 5–200 →pockets/kite/framing.zoom]"},
		{"layers/a/opacity layers/b/opacity", "Amounts: [Opacity 60 % 0–100 →layers/a/opacity →layers/b/opacity]"},
		{"layers/a/fill pockets/kite layers/a/opacity", "Media: [Kite]\nAmounts: [Opacity of Ring 60 % 0–100 →layers/a/opacity]\nColours: [Fill of Ring #c01030 →layers/a/fill]"},
	} {
		d := doc(t, shown, "", shownMore)
		next, p := do(t, d, Act{Kind: "offer", Paths: strings.Fields(c.paths)})
		if got := strings.TrimSpace(sheetText(next)); got != c.want {
			t.Errorf("%s:\n%s\nnot\n%s", c.paths, got, c.want)
		}
		if err := next.Validate(); err != nil {
			t.Errorf("%s: %v", c.paths, err)
		}
		if !strings.HasPrefix(p.Op.Title, "Put ") {
			t.Errorf("%s is called %q", c.paths, p.Op.Title)
		}
		if f := next.Findings(); len(f) > 0 && !strings.Contains(f.Error(), "formula") {
			t.Errorf("%s: %v", c.paths, f)
		}
		if drawnAs(t, d) != drawnAs(t, next) {
			t.Errorf("%s: the picture is another", c.paths)
		}
		back, _ := do(t, next, Act{Kind: "withdraw", Paths: strings.Fields(c.paths)})
		if text(t, back) != text(t, d) {
			t.Errorf("%s: taken off, it is\n%s\nnot\n%s", c.paths, text(t, back), text(t, d))
		}
	}
}

// drawnAs is the address of a frame of a document with its sheet as it is when nobody filled
// it: of what is drawn, to the last number.
func drawnAs(t *testing.T, d *template.Document) scene.Address {
	t.Helper()
	return drawnAt(t, d, "wide", 3)
}

func drawnAt(t testing.TB, d *template.Document, format string, frame int64) scene.Address {
	t.Helper()
	r, err := sheet.Resolve(d, sheet.Values{})
	if err != nil {
		t.Fatal(err)
	}
	sc, err := scene.Compile(r, format, shelf{})
	if err != nil {
		t.Fatal(err)
	}
	var l scene.List
	sc.At(&l, sc.Time().At(timing.OutputFrame(frame)), scene.Size{W: 192, H: 108})
	return l.Address()
}

// What can't be offered says why.
func TestWhatIsNotOffered(t *testing.T) {
	d := doc(t, shown, "", shownMore+`, "layouts": [{"id": "grid", "kind": "split", "rows": [1], "columns": [1, 2], "gutterBy": "shrink"}]`)
	d, _ = do(t, d, Act{Kind: "offer", Paths: []string{"layers/a/opacity", "pockets/kite", "colours/sea"}})
	for path, why := range map[string]string{
		"layers/a/opacity": "is set by the entry Opacity of Ring already", "pockets/kite": "on the sheet already, as Kite", "layers/c/fill": "is set by the entry Sea",
		"layers/a/kind": "no property", "layers/v/pocket": "template's own", "layers/k/turn": "yielded by a formula", "layers/k/fill": "is set by its keys",
		"layouts/grid/columns": "offer one of them, such as layouts/grid/columns.1", "pockets/none": "no pocket", "layers/none/opacity": "no layer",
	} {
		if _, err := Do(d, shelf{}, Act{Kind: "offer", Format: "wide", Paths: []string{path}}); err == nil || !strings.Contains(err.Error(), why) {
			t.Errorf("%s: %v, not %s", path, err, why)
		}
	}
	if _, err := Do(d, shelf{}, Act{Kind: "withdraw", Format: "wide", Paths: []string{"layers/a/turn"}}); err == nil || !strings.Contains(err.Error(), "is not on the sheet") {
		t.Errorf("taken off though it is not there: %v", err)
	}
	if next, _ := do(t, d, Act{Kind: "offer", Paths: []string{"layouts/grid/columns.2"}}); next.Sheet.Entry("columns-2-of-grid") == nil {
		t.Errorf("the sheet is %s", sheetText(next))
	}
}

// An entry that is taken off leaves nothing that speaks of it, and what it set stays as its
// default has it; one that a formula reads stays on the sheet.
func TestWithdrawingLeavesNothingBehind(t *testing.T) {
	d := doc(t, shown, "", shownMore)
	d, _ = do(t, d, Act{Kind: "offer", Paths: []string{"layers/c/hidden", "layers/a/opacity", "layers/b/opacity", "layers/a/turn"}})
	d, _ = do(t, d, Act{Kind: "put", Path: "entries/turn-of-ring/when", Part: []byte(`{"entry": "show-rule", "is": [true]}`)})
	d, _ = do(t, d, Act{Kind: "put", Path: "entries/opacity/default", Part: []byte(`40`)})
	half, _ := do(t, d, Act{Kind: "withdraw", Paths: []string{"layers/a/opacity"}})
	if e := half.Sheet.Entry("opacity"); e == nil || len(e.Ties) != 1 || half.Layer("a").Get(scheme.Opacity).Number() != 0.4 {
		t.Errorf("of two one is left: %s", sheetText(half))
	}
	gone, _ := do(t, half, Act{Kind: "withdraw", Entry: "show-rule"})
	if e := gone.Sheet.Entry("turn-of-ring"); e == nil || e.When != nil || gone.Sheet.Entry("show-rule") != nil || len(gone.Sheet.Groups) != 1 {
		t.Errorf("left is %s", sheetText(gone))
	}
	read, _ := do(t, d, Act{Kind: "put", Path: "layers/c/formulas/turn", Part: []byte(`"entry('turn-of-ring')"`)})
	if _, err := Do(read, shelf{}, Act{Kind: "withdraw", Format: "wide", Entry: "turn-of-ring"}); err == nil || !strings.Contains(err.Error(), "read by the formula of turn of Rule") {
		t.Errorf("taken off though it is read: %v", err)
	}
	// What is deleted goes off the sheet.
	less, _ := do(t, d, Act{Kind: "discard", Layers: []string{"c"}})
	for _, e := range less.Sheet.Entries() {
		for _, tie := range e.Ties {
			if strings.HasPrefix(tie.To, "layers/c/") {
				t.Errorf("%s drives %s", e.Label, tie.To)
			}
		}
	}
}

// However values are offered and withdrawn, every tie has something to drive, the document
// stays sound, and taken back it is the same to the byte.
func TestOfferingAndWithdrawingAtRandom(t *testing.T) {
	rng := rand.New(rand.NewPCG(13, 1))
	for round := range 12 {
		draft := edit.DraftFrom(tangle(t, rng))
		var paths []string
		draft.Doc.VisitNodes(func(_, path string, n *template.Node) {
			n.Values(func(p *scheme.Property, _ scheme.Value) { paths = append(paths, path+"/"+p.Name) })
		})
		for _, p := range draft.Doc.Pockets {
			paths = append(paths, "pockets/"+p.ID)
		}
		first := text(t, draft.Doc)
		var done [][]edit.Change
		on := []string{}
		for len(done) < 40 {
			a := Act{Kind: "offer", Format: draft.Doc.Formats[0].ID, Paths: []string{paths[rng.IntN(len(paths))], paths[rng.IntN(len(paths))]}[:1+rng.IntN(2)]}
			if len(on) > 3 && rng.IntN(3) == 0 {
				a = Act{Kind: "withdraw", Format: a.Format, Paths: []string{on[rng.IntN(len(on))]}}
			}
			p, err := Do(draft.Doc, shelf{}, a)
			if err != nil {
				if len(done) == 0 && rng.IntN(200) == 0 {
					break // nothing of it may be offered
				}
				continue
			}
			next, changes, err := draft.Do(p.Op)
			if err != nil {
				t.Fatalf("round %d, %s %v: planned and refused: %v", round, a.Kind, a.Paths, err)
			}
			if a.Kind == "offer" {
				on = append(on, a.Paths...)
			} else {
				on = slices.DeleteFunc(on, func(s string) bool { return s == a.Paths[0] })
			}
			draft = next
			done = append(done, changes)
			for _, e := range draft.Doc.Sheet.Entries() {
				if e.Kept() && len(e.Ties) == 0 {
					t.Fatalf("round %d: %s drives nothing", round, e.Label)
				}
				for _, tie := range e.Ties {
					if _, err := draft.Doc.Find(tie.To); err != nil {
						t.Fatalf("round %d: %s is tied to nothing: %v", round, e.Label, err)
					}
				}
			}
			for _, g := range draft.Doc.Sheet.Groups {
				if len(g.Entries) == 0 {
					t.Fatalf("round %d: the group %s is empty", round, g.Label)
				}
			}
		}
		for _, changes := range slices.Backward(done) {
			var err error
			if draft, err = draft.Replay(edit.Reverse(changes)); err != nil {
				t.Fatal(err)
			}
		}
		if text(t, draft.Doc) != first {
			t.Fatalf("round %d: taken back it is another document", round)
		}
	}
}

// What a designer sets by hand while it is on the sheet becomes the entry's default, within
// limits that give way, and what the entry drives besides follows; what no value of the entry
// comes to is refused.
func TestTheSheetFollowsTheHand(t *testing.T) {
	d := doc(t, shown, "", shownMore)
	d, _ = do(t, d, Act{Kind: "offer", Paths: []string{"layers/a/opacity", "layers/b/opacity", "layers/a/place", "layers/a/turn", "layers/a/blend", "colours/sea", "layers/c/hidden", "layers/b/size.x"}})
	set := func(path string, v scheme.Value) *template.Document {
		t.Helper()
		next, _ := do(t, d, Act{Kind: "rest", Path: path, Value: &v})
		if f := next.Findings(); len(f) > 0 && !strings.Contains(f.Error(), "formula") {
			t.Errorf("%s: %v", path, f)
		}
		return next
	}
	if next := set("layers/a/opacity", scheme.One(0.25)); next.Sheet.Entry("opacity").Default.Number() != 25 || next.Layer("b").Get(scheme.Opacity).Number() != 0.25 {
		t.Errorf("the sheet is %s", sheetText(next))
	}
	if next := set("layers/a/turn", scheme.One(270)); *next.Sheet.Entry("turn-of-ring").Max != 270 || next.Sheet.Entry("turn-of-ring").Default.Number() != 270 {
		t.Errorf("the sheet is %s", sheetText(next))
	}
	if next := set("layers/a/blend", scheme.Says("screen")); next.Sheet.Entry("blend-of-ring").Default.Text != "screen" {
		t.Errorf("the sheet is %s", sheetText(next))
	}
	if next := set("layers/c/hidden", scheme.Is(false)); !next.Sheet.Entry("show-rule").Default.On() {
		t.Errorf("the sheet is %s", sheetText(next))
	}
	if next := set("layers/a/place.y", scheme.One(44)); next.Sheet.Entry("place-of-ring").Default.String() != "-300, 44" {
		t.Errorf("the sheet is %s", sheetText(next))
	}
	moved, _ := do(t, d, Act{Kind: "place", Layers: []string{"a"}, From: [2]float64{500, 500}, To: [2]float64{510, 520}})
	if got := moved.Sheet.Entry("place-of-ring").Default.String(); got != "-290, 20" {
		t.Errorf("dragged on the stage the place is %s", got)
	}
	tinted, _ := do(t, d, Act{Kind: "colour", Id: "sea", Way: "#204060"})
	if got := tinted.Sheet.Entry("sea").Default.Text; got != "#204060" {
		t.Errorf("the colour is %s", got)
	}
	wide := scheme.Many(648, 216)
	if next, _ := do(t, d, Act{Kind: "rest", Path: "layers/b/size", Value: &wide}); next.Sheet.Entry("width-of-band").Default.Number() != 60 {
		t.Errorf("the sheet is %s", sheetText(next))
	}
	// Left out, a value has its default, and so has the entry; several at once end with the last.
	out, _ := do(t, d, Act{Kind: "rest", Path: "layers/a/turn"})
	if got := out.Sheet.Entry("turn-of-ring").Default.Number(); got != 0 {
		t.Errorf("left out, the turn is %g", got)
	}
	some, most := scheme.One(0.2), scheme.One(0.9)
	two, _ := do(t, d, Act{Kind: "batch", Ops: []Act{{Kind: "rest", Path: "layers/a/opacity", Value: &some}, {Kind: "rest", Path: "layers/b/opacity", Value: &most}}})
	if a, b := two.Layer("a").Get(scheme.Opacity).Number(), two.Layer("b").Get(scheme.Opacity).Number(); two.Sheet.Entry("opacity").Default.Number() != 90 || a != 0.9 || b != 0.9 {
		t.Errorf("the opacities are %g and %g, by the sheet %s", a, b, sheetText(two))
	}
	// A curve can't be gone back.
	bent, _ := do(t, d, Act{Kind: "tie", Entry: "turn-of-ring", Ties: []template.Tie{{To: "layers/a/turn", Ease: &timing.Easing{0.4, 0, 1, 1}, From: &[2]float64{-180, 180}, Into: &[2]float64{-180, 180}}}})
	n := scheme.One(3)
	if _, err := Do(bent, shelf{}, Act{Kind: "rest", Format: "wide", Path: "layers/a/turn", Value: &n}); err == nil || !strings.Contains(err.Error(), "is set by the entry Turn of Ring") {
		t.Errorf("set though it can't be told: %v", err)
	}
}

// What a tie gives for a value it gives back.
func TestTiesGoThereAndBack(t *testing.T) {
	lo, hi := 0.0, 200.0
	e := &template.Entry{Kind: template.AmountEntry, Min: &lo, Max: &hi}
	vmin := func(n float64) scheme.Value { return scheme.Value{Numbers: []float64{n}, Single: true, Shorter: 1} }
	for what, tie := range map[string]template.Tie{
		"straight": {}, "a range": {From: &[2]float64{0, 200}, Into: &[2]float64{1, -3}},
		"in shares": {Stops: []template.Stop{{At: scheme.One(0), Value: vmin(0)}, {At: scheme.One(200), Value: vmin(50)}}},
	} {
		for at := 0.0; at <= 200; at += 7.3 {
			v, _ := tie.Value(e, scheme.One(at))
			if back, ok := tie.Back(e, v); !ok || math.Abs(back.Number()-at) > 1e-6 {
				t.Errorf("%s: %g came to %s and back to %s", what, at, v, back)
			}
		}
	}
}

// An entry of any kind is added alone, is sound, and goes again without a trace.
func TestEntriesAreAddedAlone(t *testing.T) {
	first := doc(t, shown, "", shownMore)
	first, _ = do(t, first, Act{Kind: "gradient", Name: "Dusk"})
	first, _ = do(t, first, Act{Kind: "gradient", Name: "Dawn"})
	for _, k := range scheme.Entries.Kinds {
		if k == scheme.MediaEntry {
			if _, err := Do(first, shelf{}, Act{Kind: "entry", Format: "wide", Way: k.Name}); err == nil {
				t.Error("media stands alone")
			}
			continue
		}
		d, _ := do(t, first, Act{Kind: "entry", Way: k.Name})
		d, _ = do(t, d, Act{Kind: "entry", Way: "switch", Name: " Ring "})
		if err := d.Validate(); err != nil || d.Sheet.Entry("ring") == nil || len(d.Sheet.Entries()) != 2 {
			t.Errorf("%s: %v\n%s", k.Name, err, sheetText(d))
		}
		d, _ = do(t, d, Act{Kind: "withdraw", Entry: d.Sheet.Entry("ring").ID})
		d, _ = do(t, d, Act{Kind: "withdraw", Entry: d.Sheet.Entries()[0].ID})
		if text(t, d) != text(t, first) {
			t.Errorf("%s: left is %s", k.Name, text(t, d))
		}
	}
}

// Of an option that is left out nothing is said any more; a cue that is removed is nobody's;
// a pocket that is removed takes its heading along.
func TestWhatIsSaidOfWhatGoes(t *testing.T) {
	d := doc(t, shown, "", shownMore+exampled)
	d, _ = do(t, d, Act{Kind: "cue", Name: "Best", Frame: 7})
	cue := d.Cues[0].ID
	d, _ = do(t, d, Act{Kind: "put", Path: "entries/size/cue", Part: []byte(`"` + cue + `"`)})
	half := scheme.One(0.5)
	for _, at := range []string{"wild", "odd"} {
		d, _ = do(t, d, Act{Kind: "rest", Path: "layers/b/opacity", Value: &half, Pin: &Pin{"lay", scheme.Says(at)}})
	}
	d, _ = do(t, d, Act{Kind: "put", Path: "entries/size/when", Part: []byte(`{"entry": "lay", "is": ["odd"]}`)})
	d, _ = do(t, d, Act{Kind: "put", Path: "entries/on/when", Part: []byte(`{"entry": "lay", "is": ["odd", "calm"]}`)})
	next, _ := do(t, d, Act{Kind: "options", Entry: "lay", Part: []byte(`[{"id": "calm", "label": "Quiet"}, {"id": "wild", "label": "Wild"}, {"label": "Wild"}]`)})
	lay := next.Sheet.Entry("lay")
	if got := fmt.Sprint(lay.Options); got != "[{calm Quiet} {wild Wild} {wild-2 Wild}]" || len(lay.Ties[0].Stops) != 2 || next.Sheet.Entry("size").When != nil || len(next.Sheet.Entry("on").When.Is) != 1 {
		t.Errorf("it is %s", text(t, next))
	}
	if _, err := Do(d, shelf{}, Act{Kind: "options", Format: "wide", Entry: "lay", Part: []byte(`[{"id": "wild", "label": "Wild"}, {"label": "Other"}]`)}); err == nil || !strings.Contains(err.Error(), "Calm is the default of Layout") {
		t.Errorf("the default is left out: %v", err)
	}
	next, _ = do(t, d, Act{Kind: "cue-remove", Id: cue})
	if next.Sheet.Entry("size").Cue != "" {
		t.Error("an entry speaks of a cue that is gone")
	}
	d, _ = do(t, doc(t, shown, "", shownMore), Act{Kind: "offer", Paths: []string{"pockets/kite"}})
	d, _ = do(t, d, Act{Kind: "discard", Layers: []string{"v"}})
	d, _ = do(t, d, Act{Kind: "pocket-remove", Pocket: "kite"})
	if len(d.Sheet.Groups) != 0 {
		t.Errorf("left is %s", sheetText(d))
	}
	d, _ = do(t, d, Act{Kind: "heading", Name: " Look "})
	d, _ = do(t, d, Act{Kind: "heading", Name: "Look"})
	if got := strings.TrimSpace(sheetText(d)); got != "Look:\nLook:" || d.Sheet.Groups[1].ID != "look-2" {
		t.Errorf("headings are %s", got)
	}
}
