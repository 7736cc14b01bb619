package craft

import (
	"encoding/json"
	"math/rand/v2"
	"strings"
	"testing"

	"ivypocket/core/edit"
	"ivypocket/core/template"
	"ivypocket/core/timing"
)

// inHeld tells the held spans of a document as "0-20 60-100".
func inHeld(d *template.Document) string {
	var out []string
	for _, s := range d.Spans {
		b, _ := json.Marshal([]int64{s.From, s.To})
		out = append(out, string(s.Kind[0])+string(b))
	}
	return strings.Join(out, " ")
}

// undone takes a change back and wants the document as it was, to the byte.
func undone(t *testing.T, before *template.Document, plan Plan) {
	t.Helper()
	next, changes, err := edit.DraftFrom(before).Do(plan.Op)
	if err != nil {
		t.Fatal(err)
	}
	if back, err := next.Replay(edit.Reverse(changes)); err != nil || text(t, back.Doc) != text(t, before) {
		t.Fatalf("%s was not taken back: %v", plan.Op.Title, err)
	}
}

func TestTimeIsHeldAndLoosened(t *testing.T) {
	d := doc(t, "", "", "")
	for _, step := range []struct {
		a    Act
		want string
	}{
		{Act{Kind: "hold", From: [2]float64{20, 0}}, "h[0,20]"}, // whichever way it is dragged
		{Act{Kind: "hold", From: [2]float64{60, 400}}, "h[0,20] h[60,100]"},
		{Act{Kind: "hold", From: [2]float64{10, 30}}, "h[0,30] h[60,100]"},          // one with what it reaches into
		{Act{Kind: "hold", From: [2]float64{30, 40}}, "h[0,30] h[30,40] h[60,100]"}, // beside it one of its own
		{Act{Kind: "border", Id: "held-3", Way: "to", Frames: 90}, "h[0,30] h[30,60] h[60,100]"},
		{Act{Kind: "border", Id: "held", Way: "to", At: 2}, "h[0,2] h[30,60] h[60,100]"},
		{Act{Kind: "border", Id: "held-3", Frames: -90}, "h[0,2] h[2,32] h[60,100]"},
		{Act{Kind: "border", Id: "held-3", Way: "from", Frames: 80}, "h[0,2] h[31,32] h[60,100]"}, // a frame is left
		{Act{Kind: "loosen", From: [2]float64{70, 80}}, "h[0,2] h[31,32] h[60,70] h[80,100]"},
		{Act{Kind: "loosen", From: [2]float64{1, 85}}, "h[0,1] h[85,100]"},
		{Act{Kind: "loosen", From: [2]float64{0, 100}}, ""},
	} {
		before := d
		var plan Plan
		if d, plan = do(t, d, step.a); inHeld(d) != step.want {
			t.Fatalf("%+v: %s, want %s", step.a, inHeld(d), step.want)
		}
		if err := timing.ValidateSpans(d.Spans, d.Frames); err != nil {
			t.Fatal(err)
		}
		undone(t, before, plan)
	}
	for _, bad := range []Act{
		{Kind: "hold", From: [2]float64{100, 200}}, {Kind: "hold", From: [2]float64{5, 5}}, {Kind: "border", Id: "held"},
		{Kind: "within", Entry: "nothing"},
	} {
		if _, err := Do(d, shelf{}, bad); err == nil {
			t.Errorf("%+v was planned", bad)
		}
	}
}

// The longest fade that is worth offering is 4 s, 120 frames at 30 fps, and may not reach into
// time that stretches (common practice, no source).
func TestAnAmountOfTimeKeepsWithinHeldTime(t *testing.T) {
	d := doc(t, "", "", "")
	d, _ = do(t, d, Act{Kind: "time", Name: "30", At: 300})
	d, _ = do(t, d, Act{Kind: "hold", From: [2]float64{0, 120}})
	d, _ = do(t, d, Act{Kind: "hold", From: [2]float64{180, 300}})
	d, _ = do(t, d, Act{Kind: "add", Into: "groups", At: -1, Part: []byte(`{"id":"times","label":"Times","entries":[]}`)})
	d, _ = do(t, d, Act{Kind: "add", Into: "groups/times/entries", At: -1, Part: []byte(`{"id":"fade","label":"Fade","kind":"amount","unit":"frames","default":20,"min":0,"max":200,"step":1,"notches":[0,100,200]}`)})
	fade := func() *template.Entry { return d.Sheet.Entry("fade") }
	before := d
	d, plan := do(t, d, Act{Kind: "within", Entry: "fade", Id: "held"})
	if e := fade(); *e.Max != 120 || e.Within != "held" || len(e.Notches) != 2 {
		t.Fatalf("max %g, within %q, notches %v", *e.Max, e.Within, e.Notches)
	}
	undone(t, before, plan)
	lacks := func() bool {
		err := d.Validate()
		return err != nil && strings.Contains(err.Error(), "entries[0]")
	}
	if lacks() {
		t.Errorf("%v", d.Validate())
	}
	// The border goes, and the limit with it, and what is offered below it.
	d, _ = do(t, d, Act{Kind: "border", Id: "held", Way: "to", At: 15})
	if e := fade(); *e.Max != 15 || e.Default.Number() != 15 || len(e.Notches) != 1 {
		t.Errorf("max %g, default %s, notches %v", *e.Max, e.Default, e.Notches)
	}
	// In seconds.
	d, _ = do(t, d, Act{Kind: "border", Id: "held", Way: "to", At: 120})
	d, _ = do(t, d, Act{Kind: "put", Path: "entries/fade/unit", Part: []byte(`"s"`)})
	if !lacks() {
		t.Error("120 s are as long as 120 frames")
	}
	d, _ = do(t, d, Act{Kind: "within", Entry: "fade", Id: "held"})
	if *fade().Max != 4 || lacks() {
		t.Errorf("max %g", *fade().Max)
	}
	// Parted, the first part limits it; merged, the whole does.
	d, _ = do(t, d, Act{Kind: "loosen", From: [2]float64{60, 90}})
	if e := fade(); e.Within != "held" || *e.Max != 2 {
		t.Errorf("within %q, max %g", e.Within, *e.Max)
	}
	d, _ = do(t, d, Act{Kind: "within", Entry: "fade", Id: d.Spans[1].ID})
	d, _ = do(t, d, Act{Kind: "hold", From: [2]float64{50, 100}})
	if e := fade(); e.Within != "held" || *e.Max != 4 {
		t.Errorf("within %q, max %g", e.Within, *e.Max)
	}
	// Half the rate: as long in seconds.
	d, _ = do(t, d, Act{Kind: "time", Name: "15"})
	if e := fade(); *e.Max != 4 || d.Spans[0].To != 60 || lacks() {
		t.Errorf("max %g of %s", *e.Max, inHeld(d))
	}
	// What is least can't be kept to: in words. What is let go limits nothing.
	d, _ = do(t, d, Act{Kind: "put", Path: "entries/fade/notches"})
	d, _ = do(t, d, Act{Kind: "put", Path: "entries/fade/default", Part: []byte(`3`)})
	d, _ = do(t, d, Act{Kind: "put", Path: "entries/fade/min", Part: []byte(`2`)})
	if _, err := Do(d, shelf{}, Act{Kind: "border", Id: "held", Way: "to", At: 10}); err == nil || !strings.Contains(err.Error(), "Fade is at least 2 s") {
		t.Errorf("%v", err)
	}
	d, _ = do(t, d, Act{Kind: "loosen", From: [2]float64{0, 300}})
	if e := fade(); e.Within != "" || lacks() {
		t.Errorf("within %q", e.Within)
	}
	if _, err := Do(d, shelf{}, Act{Kind: "within", Entry: "fade", Id: "held"}); err == nil {
		t.Error("an entry keeps within what is not there")
	}
}

// Whatever is held and loosened, spans stay sound, and each change is taken back to the byte.
func TestSpansStaySound(t *testing.T) {
	rnd := rand.New(rand.NewPCG(7, 11))
	d := doc(t, "", "", "")
	for n := range 400 {
		a := Act{Kind: []string{"hold", "loosen", "border", "time"}[rnd.IntN(4)], From: [2]float64{float64(rnd.IntN(110) - 10), float64(rnd.IntN(110) - 10)}}
		if k := len(d.Spans); a.Kind == "border" && k > 0 {
			a.Id, a.Way, a.Frames = d.Spans[rnd.IntN(k)].ID, []string{"", "from", "to"}[rnd.IntN(3)], int64(rnd.IntN(60)-30)
		}
		if a.Kind == "time" {
			a.At, a.Way = 60+rnd.IntN(60), []string{"keep", "stretch"}[rnd.IntN(2)]
		}
		if _, err := Do(d, shelf{}, a); err != nil {
			continue
		}
		before := d
		next, plan := do(t, d, a)
		if err := timing.ValidateSpans(next.Spans, next.Frames); err != nil {
			t.Fatalf("%d: %+v: %v", n, a, err)
		}
		if plan.Op.Kind != "" {
			undone(t, before, plan)
		}
		d = next
	}
}
