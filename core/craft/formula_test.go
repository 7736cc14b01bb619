package craft

import (
	"math"
	"slices"
	"strings"
	"testing"

	"ivypocket/core/scheme"
	"ivypocket/core/template"
)

const takenFrom = `{"id": "panel", "name": "Panel", "kind": "shape", "fill": "#c01030", "place": [-100, 40], "size": [400, 200],
	 "motion": {"size": {"unit": "own", "keys": [{"id": "a", "at": 0, "value": [200, 200]}, {"id": "b", "at": 50, "value": [400, 200]}]}}},
	{"id": "title", "name": "Title", "kind": "shape", "fill": "#20c040", "place": [30, 60], "size": [100, 50], "opacity": 0.5},
	{"id": "rise", "name": "Rise", "kind": "track", "motion": {"progress": {"keys": [{"id": "a", "at": 10, "value": 0}, {"id": "b", "at": 20, "value": 1}]}}},
	{"id": "locked", "name": "Locked", "kind": "shape", "fill": "#20c040", "size": [10, 10], "locked": true}`

const takenSheet = `, "colours": [{"id": "sea", "name": "Sea", "value": "#102030"}], "sheet": {"groups": [{"id": "g", "label": "G", "entries": [{"id": "width", "label": "Width", "kind": "amount", "unit": "px", "min": 0, "max": 300, "default": 120}]}]}`

func TestAValueIsTakenFromAnother(t *testing.T) {
	first := doc(t, takenFrom, "", takenSheet)
	at := func(d *template.Document, frame int64, path string) float64 {
		v := seenAll(t, d, frame)["wide "+path[:strings.LastIndexByte(path, '/')+1]+strings.SplitN(path[strings.LastIndexByte(path, '/')+1:], ".", 2)[0]]
		if strings.HasSuffix(path, ".y") {
			return v[1]
		}
		return v[0]
	}
	for _, c := range []struct {
		path, from, way, text string
		now, end              float64 // at frame 25, where it is taken, and at 50
	}{
		{"layers/title/size.x", "layers/panel/size.x", "", "layer('panel').size.x", 300, 400},
		{"layers/title/size.x", "layers/panel/size", "same", "layer('panel').size.x", 300, 400},
		{"layers/title/size.y", "layers/panel/size", "same", "layer('panel').size.y", 200, 200},
		{"layers/title/size.x", "layers/panel/size.x", "share", "layer('panel').size.x * 0.3333", 100, 133.3},
		{"layers/title/size.x", "layers/panel/size.x", "along", "layer('panel').size.x - 200", 100, 200},
		{"layers/title/place.x", "layers/panel/size.x", "opposite", "330 - layer('panel').size.x", 30, -70},
		{"layers/title/place.x", "layers/panel/box.right", "along", "layer('panel').box.right - 20", 30, 80},
		{"layers/title/size.x", "layers/panel/size.x", "remapped", "remap(layer('panel').size.x, 200, 400, 0, 100)", 50, 100},
		// From another unit: so much of what is needed for 1 of it.
		{"layers/title/turn", "layers/panel/size.x", "same", "(layer('panel').size.x) * 1", 300, 400},
		{"layers/title/opacity", "layers/rise/progress", "same", "progress('rise')", 1, 1},
		{"layers/title/opacity", "layers/rise/progress", "share", "progress('rise') * 0.5", 0.5, 0.5},
		{"layers/title/place.y", "layers/rise/progress", "remapped", "remap(progress('rise'), 0, 1, 0, 60)", 60, 60},
		{"layers/title/size.x", "entries/width", "same", "entry('width')", 120, 120},
		{"layers/title/size.x", "entries/width", "remapped", "remap(entry('width'), 0, 300, 0, 100)", 40, 40},
		{"layers/title/size.x", "canvas.w", "share", "canvas.w * 0.0521", 100, 100},
		{"layers/title/opacity", "time.share", "same", "time.share", 0.25, 0.5},
		{"layers/title/fill", "colours/sea", "same", "colour('sea')", 16, 16},
		{"layers/title/fill", "layers/panel/fill", "same", "layer('panel').fill", 0xc0, 0xc0},
	} {
		d, plan := do(t, first, Act{Kind: "take", Path: c.path, Id: c.from, Way: c.way, Frame: 25})
		name := c.path[strings.LastIndexByte(c.path, '/')+1:]
		if got := d.Layer("title").Formulas[name]; got != c.text {
			t.Errorf("%s %s from %s: %s, want %s", c.path, c.way, c.from, got, c.text)
			continue
		}
		if now, end := at(d, 25, c.path), at(d, 50, c.path); math.Abs(now-c.now) > 0.1 || math.Abs(end-c.end) > 0.1 {
			t.Errorf("%s: it is %g and then %g, want %g and %g", c.text, now, end, c.now, c.end)
		}
		undone(t, first, plan)
		// Taken once more in another way it is reckoned from where it stood by itself.
		if twice, _ := do(t, d, Act{Kind: "take", Path: c.path, Id: c.from, Way: "along", Frame: 25}); c.text != "" {
			if once, _ := do(t, first, Act{Kind: "take", Path: c.path, Id: c.from, Way: "along", Frame: 25}); text(t, twice) != text(t, once) {
				t.Errorf("%s: taken along then it is %s", c.text, twice.Layer("title").Formulas[name])
			}
		}
		// Taken off, the document is as before.
		if off, _ := do(t, d, Act{Kind: "formula", Path: c.path}); text(t, off) != text(t, first) {
			t.Errorf("%s: taken off it is\n%s", c.text, text(t, off))
		}
	}
	for _, bad := range []struct {
		a    Act
		says string
	}{
		{Act{Kind: "take", Path: "layers/title/size.x", Id: "layers/title/size.x"}, "from itself"},
		{Act{Kind: "take", Path: "layers/title/size.x", Id: "layers/none/size.x"}, "none"},
		{Act{Kind: "take", Path: "layers/title/size.x", Id: "layers/panel/size.x", Way: "odd"}, "same, share"},
		{Act{Kind: "take", Path: "layers/title/size.x", Id: "layers/panel/fill"}, "a colour"},
		{Act{Kind: "take", Path: "layers/title/name", Id: "layers/panel/size.x"}, ""},
		{Act{Kind: "take", Path: "layers/locked/turn", Id: "layers/panel/turn"}, "locked"},
		{Act{Kind: "formula", Path: "layers/title/turn", Name: "layer('panle').turn"}, "character 1: there is no layer named \"panle\""},
		{Act{Kind: "formula", Path: "layers/title/turn", Name: "3 +"}, "character"},
		{Act{Kind: "formula", Path: "layers/title/turn", Name: "self.turn + 1"}, "circle"},
		{Act{Kind: "formula", Path: "layers/title/place", Name: "3"}, ""},
	} {
		bad.a.Format = "wide"
		if _, err := Do(first, shelf{}, bad.a); err == nil || !strings.Contains(err.Error(), bad.says) {
			t.Errorf("%+v: %v", bad.a, err)
		}
	}
}

// What else sets a value makes room, or is named: keys go and come back by undo, an entry stays.
func TestAFormulaTakesThePlaceOfKeys(t *testing.T) {
	first := doc(t, takenFrom, "", takenSheet)
	d, plan := do(t, first, Act{Kind: "formula", Path: "layers/rise/progress", Name: "time.share"})
	if len(d.Layer("rise").Motion) != 0 || d.Layer("rise").Formulas["progress"] != "time.share" {
		t.Errorf("%s", text(t, d))
	}
	undone(t, first, plan)
	// One for a number leaves the keys of the others; one for the whole takes the place of those of its numbers.
	d, _ = do(t, first, Act{Kind: "formula", Path: "layers/panel/size.x", Name: "canvas.w / 4"})
	if v := seenAll(t, d, 25)["wide layers/panel/size"]; v[0] != 480 || v[1] != 200 || d.Layer("panel").Motion["size"] == nil {
		t.Errorf("size %v", v)
	}
	d, _ = do(t, first, Act{Kind: "formula", Path: "layers/title/scale.x", Name: "2"})
	d, _ = do(t, d, Act{Kind: "formula", Path: "layers/title/scale", Name: "0.5 * 1"})
	if f := d.Layer("title").Formulas; len(f) != 1 || f["scale"] == "" {
		t.Errorf("formulas %v", f)
	}
	tied, _ := do(t, first, Act{Kind: "tie", Entry: "width", Ties: []template.Tie{{To: "layers/title/size.x"}}})
	if _, err := Do(tied, shelf{}, Act{Kind: "formula", Format: "wide", Path: "layers/title/size.x", Name: "3"}); err == nil || !strings.Contains(err.Error(), "driven by the entry Width") {
		t.Errorf("%v", err)
	}
}

// A goal makes a track a number of what an entry says.
func TestAProgressTrackGoesToWhatAnEntrySays(t *testing.T) {
	d := doc(t, takenFrom, "", takenSheet)
	d, _ = do(t, d, Act{Kind: "tie", Entry: "width", Ties: []template.Tie{{To: "layers/rise/goal"}}})
	d, _ = do(t, d, Act{Kind: "formula", Path: "layers/title/size.x", Name: "progress('rise') + 10"})
	c, err := d.CheckFormula("layers/title/turn", "progress('rise')")
	if err != nil || !strings.Contains(c.Fault, "px") {
		t.Errorf("px are taken for degrees: %+v, %v", c, err)
	}
	d, _ = do(t, d, Act{Kind: "rest", Path: "layers/rise/goal", Value: ptr(scheme.One(200))})
	for frame, want := range map[int64]float64{0: 10, 15: 110, 30: 210} {
		if got := seenAll(t, d, frame)["wide layers/title/size"]; math.Abs(got[0]-want) > 1e-6 {
			t.Errorf("at frame %d it is %g wide, want %g", frame, got[0], want)
		}
	}
}

func TestFormulasAreCheckedAndCompleted(t *testing.T) {
	d := doc(t, takenFrom, "", takenSheet)
	for _, c := range []struct{ path, text, fault, mend string }{
		{"layers/title/turn", "", "", ""},
		{"layers/title/turn", "layer('panle').turn + 3", "no layer named", "layer('panel').turn + 3"},
		{"layers/title/turn", "3 + layer('panel').trun", "trun", "3 + layer('panel').turn"},
		{"layers/title/size.x", "entry('widht') * 2", "no entry", "entry('width') * 2"},
		{"layers/title/turn", "rond(3)", "no function", "round(3)"},
		{"layers/title/turn", "min(3, abs(4)", "", "min(3, abs(4))"},
		{"layers/title/size.x", "canvsa.w", "", "canvas.w"},
		{"layers/title/turn", "canvas.w", "px", "(canvas.w) * 1"},
		{"layers/title/fill", "3", "a colour", ""},
		{"layers/title/blend", "'screen'", "", ""},
		{"layers/title/opacity", "progress('rise')", "", ""},
		{"layers/title/opacity", "progress('ries')", "no progress track", "progress('rise')"},
	} {
		got, err := d.CheckFormula(c.path, c.text)
		if err != nil {
			t.Fatal(err)
		}
		mended := ""
		if m := got.Mend; m != nil {
			mended = c.text[:m.From] + m.With + c.text[m.To:]
		}
		if !strings.Contains(got.Fault, c.fault) || (c.fault == "" && c.mend == "") != (got.Fault == "") || mended != c.mend {
			t.Errorf("%s: %q, mended %q, want %q", c.text, got.Fault, mended, c.mend)
		}
		if got.Fault != "" && (got.From < 0 || got.To <= got.From && got.From < len(c.text) || got.To > len(c.text)) {
			t.Errorf("%s: at %d to %d", c.text, got.From, got.To)
		}
	}
	// Each example does where it is offered, and some are offered everywhere but for colours.
	for _, path := range []string{"layers/title/turn", "layers/title/size.x", "layers/title/opacity", "layers/title/hidden", "layers/title/blend", "layers/rise/progress"} {
		c, err := d.CheckFormula(path, "")
		if err != nil || len(c.Examples) == 0 {
			t.Fatalf("%s has no examples: %v", path, err)
		}
		for _, x := range c.Examples {
			if next, err := Do(d, shelf{}, Act{Kind: "formula", Format: "wide", Path: path, Name: x.Text}); err != nil || next.Op.Kind == "" {
				t.Errorf("%s: %s: %v", path, x.Text, err)
			}
		}
	}
	if got := d.Circled("layers/x: goes in a circle: box('panel').w reads layers/title/size.1 reads box('panel').w"); got != "That would go in a circle: the box of Panel depends on size of Title depends on the box of Panel" {
		t.Errorf("a circle is told as %q", got)
	}
	if got := d.Circled("layers/x: is too large"); got != "layers/x: is too large" {
		t.Errorf("another fault is told as %q", got)
	}
	ring, err := d.CheckFormula("layers/title/turn", "layer('panel').turn")
	if err != nil || ring.Ring != nil {
		t.Errorf("%+v, %v", ring, err)
	}
	d, _ = do(t, d, Act{Kind: "formula", Path: "layers/panel/turn", Name: "layer('title').place.x * 1"})
	ring, _ = d.CheckFormula("layers/title/place.x", "layer('panel').turn * 1")
	if !slices.Equal(ring.Ring, []string{"layers/title/place.x", "layers/panel/turn", "layers/title/place.x"}) && !slices.Equal(ring.Ring, []string{"layers/panel/turn", "layers/title/place.x", "layers/panel/turn"}) {
		t.Errorf("ring %v", ring.Ring)
	}
	for _, c := range []struct {
		text  string
		caret int
		want  string
	}{
		{"pan", 3, "layer('panel')."}, {"2 * lay", 7, "layer('panel')."}, {"layer('panel').si", 17, "layer('panel').size.x"},
		{"layer('panel').bo", 17, "layer('panel').box.left"}, {"cl", 2, "clamp("}, {"clamp(wid", 9, "entry('width')"}, {"Ri", 2, "progress('rise')"},
		{"self.op", 7, "self.opacity"}, {"time.", 5, "time.seconds"}, {"", 0, "canvas.w"},
	} {
		list := d.Complete("layers/title/size.x", c.text, c.caret)
		i := slices.IndexFunc(list, func(n template.Completion) bool { return n.Text == c.want })
		if i < 0 {
			t.Errorf("%q: %v", c.text, list)
			continue
		}
		if n := list[i]; n.To != c.caret || n.From > n.To {
			t.Errorf("%q: %+v", c.text, n)
		}
	}
	if list := d.Complete("layers/title/size.x", "3", 1); len(list) > 0 {
		t.Errorf("a figure is completed: %v", list)
	}
}
