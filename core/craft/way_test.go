package craft

import (
	"encoding/json"
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"ivypocket/core/edit"
	"ivypocket/core/geom"
	"ivypocket/core/scene"
	"ivypocket/core/sheet"
	"ivypocket/core/template"
	"ivypocket/core/timing"
)

// A layer in a turned group that a curved, eased way leads along, with a mask that goes its own.
const leads = `{"id": "g", "name": "G", "kind": "group", "size": [800, 600], "turn": 90, "shift": 10, "layers": [
	{"id": "kite", "name": "Kite", "kind": "shape", "fill": "#c01030", "place": [-100, 40], "size": [200, 100], "scale": [0.5, 0.5], "shift": 5,
	 "motion": {"place": {"unit": "canvas", "keys": [{"id": "a", "at": 0, "value": [0, 0], "out": [0.1, 0.05], "ease": [0.4, 0, 0.2, 1]}, {"id": "b", "at": 40, "value": [0.2, 0.1], "in": [-0.1, 0.05]}, {"id": "c", "at": 80, "value": [0.1, 0.3000001]}]}},
	 "masks": [{"id": "m", "size": [80, 80], "motion": {"place": {"unit": "self", "even": true, "keys": [{"at": 0, "value": [0, 0]}, {"value": [0.3, 0]}, {"at": 60, "value": [0.3, 0.3]}]}}}]}]},
	{"id": "still", "name": "Still", "kind": "shape", "fill": "#c01030", "place": [50, 0], "size": [100, 100]},
	{"id": "cam", "name": "Cam", "kind": "camera"}`

// seenWay is the way of a thing on the canvas.
func seenWay(t *testing.T, d *template.Document, format, path string, frame int64) geom.Path {
	t.Helper()
	sc := sceneOf(t, d, format)
	f, ok := sc.Way(path, sc.Time().At(timing.OutputFrame(frame)))
	if !ok {
		t.Fatalf("%s goes no way", path)
	}
	return f.Form.Path.Through(geom.Scale(f.Form.Size.W, f.Form.Size.H).Flat().Then(f.Map))
}

// origins are where a layer's origin stands on the canvas at every 5th frame.
func origins(t *testing.T, d *template.Document, format, id string) (out []geom.Point) {
	t.Helper()
	sc := sceneOf(t, d, format)
	for n := int64(0); n < 100; n += 5 {
		for _, s := range sc.Standings(sc.Time().At(timing.OutputFrame(n))) {
			if s.Layer == id {
				out = append(out, s.World.Apply(geom.Point{X: s.Now.Origin[0] * s.Now.Size.W, Y: s.Now.Origin[1] * s.Now.Size.H}))
			}
		}
	}
	return out
}

func sameWay(a, b []geom.Point, by float64) bool {
	for i := range a {
		if !near(a[i], b[i], by) {
			return false
		}
	}
	return len(a) == len(b)
}

// A way lies where what it leads goes: at every frame it is the same, and the layer stands on it.
func TestWaysLieWhereTheyLead(t *testing.T) {
	d := doc(t, leads, "", "")
	for _, format := range []string{"wide", "tall"} {
		first := seenWay(t, d, format, "layers/g", 0)
		if len(first.Nodes) != 0 {
			t.Errorf("the group goes the way %v", first)
		}
		way := seenWay(t, d, format, "layers/kite", 0)
		for i, at := range origins(t, d, format, "kite") {
			if other := seenWay(t, d, format, "layers/kite", int64(5*i)); !near(geom.Point{X: other.Nodes[1].X, Y: other.Nodes[1].Y}, geom.Point{X: way.Nodes[1].X, Y: way.Nodes[1].Y}, 1e-6) {
				t.Fatalf("at frame %d it lies elsewhere", 5*i)
			}
			if _, _, far := way.Nearest(at); far > 0.01 {
				t.Errorf("%s: at frame %d it stands %g px beside its way", format, 5*i, far)
			}
		}
	}
}

// Points of a way are moved, bent, added, taken out; what is added leaves the motion as it is, at
// every frame in every format.
func TestWaysAreWorkedOnAsPaths(t *testing.T) {
	first := doc(t, leads, "", "")
	const way = "layers/kite" + onWay
	at := func(d *template.Document, i int) geom.Point {
		n := seenWay(t, d, "wide", "layers/kite", 20).Nodes[i]
		return geom.Point{X: n.X, Y: n.Y}
	}
	was := at(first, 1)
	d, p := do(t, first, Act{Kind: "points", Path: way, Way: "move", Picks: []int{1}, Frame: 20, To: [2]float64{30, -17}})
	if !near(at(d, 1), geom.Point{X: was.X + 30, Y: was.Y - 17}, 0.01) || !near(at(d, 0), at(first, 0), 1e-6) || p.Op.Title != "Move points of the way of Kite" {
		t.Errorf("%s: it went from %v to %v", p.Op.Title, was, at(d, 1))
	}
	if k := d.Layer("kite").Motion["place"].Keys; k[0].Out == nil || *k[0].Out != [2]float64{0.1, 0.05} || k[0].Ease == nil || k[2].Value.Numbers[1] != 0.3000001 {
		t.Errorf("the others are %+v", k)
	}
	// A handle turns the other along.
	d, _ = do(t, first, Act{Kind: "points", Path: way, Way: "smooth", Picks: []int{1}})
	smooth := seenWay(t, d, "wide", "layers/kite", 0).Nodes[1]
	d, _ = do(t, d, Act{Kind: "points", Path: way, Way: "out", Picks: []int{1}, To: [2]float64{25, 25}})
	n := seenWay(t, d, "wide", "layers/kite", 0).Nodes[1]
	if math.Abs(n.OutX-smooth.OutX-25) > 0.01 || math.Abs(n.OutX*n.InY-n.OutY*n.InX) > 0.5 {
		t.Errorf("its handles are %v, of %v", n, smooth)
	}
	d, _ = do(t, d, Act{Kind: "points", Path: way, Way: "corner", Picks: []int{0, 1}})
	if k := d.Layer("kite").Motion["place"].Keys; k[0].Out != nil || k[1].In != nil || k[1].Out != nil {
		t.Errorf("as corners they are %+v", k)
	}
	for name, path := range map[string]string{"kite": "layers/kite", "mask": "layers/kite/masks/m"} {
		on := seenWay(t, first, "wide", path, 0)
		for _, spot := range []geom.Point{on.At(0, 0.3), on.At(1, 0.7)} {
			d, _ = do(t, first, Act{Kind: "points", Path: path + onWay, Way: "add", To: [2]float64{spot.X, spot.Y}})
			now := seenWay(t, d, "wide", path, 0)
			if _, _, far := now.Nearest(spot); len(now.Nodes) != 4 || far > 0.2 || d.Validate() != nil {
				t.Errorf("%s: %d points, %g px beside: %v", name, len(now.Nodes), far, d.Validate())
			}
			if name == "mask" && strings.Count(text(t, d), `"at":`) != strings.Count(text(t, first), `"at":`) {
				t.Error("a point of an even way has an instant of its own")
			}
			for _, format := range []string{"wide", "tall"} {
				if !sameWay(origins(t, first, format, "kite"), origins(t, d, format, "kite"), 0.05) {
					t.Errorf("%s: it goes otherwise in %s", name, format)
				}
			}
		}
	}
	// Out again; of an even way an end gets its instant.
	d, _ = do(t, first, Act{Kind: "points", Path: way, Way: "remove", Picks: []int{1}})
	if k := d.Layer("kite").Motion["place"].Keys; len(k) != 2 || k[1].ID != "c" {
		t.Errorf("left are %+v", k)
	}
	d, _ = do(t, first, Act{Kind: "points", Path: "layers/kite/masks/m" + onWay, Way: "remove", Picks: []int{2}})
	if k := d.Layer("kite").Masks()[0].Motion["place"].Keys; len(k) != 2 || k[1].At.Cmp(timing.Int(30)) != 0 || d.Validate() != nil {
		t.Errorf("left are %+v: %v", k, d.Validate())
	}
	for why, a := range map[string]Act{
		"2 points or more":       {Path: way, Way: "remove", Picks: []int{0, 2}},
		"an instant of its own":  {Path: way, Way: "join", Picks: []int{0, 1}},
		"goes no way; draw":      {Path: "layers/still" + onWay, Way: "add"},
		"no way that can be":     {Path: "layers/cam" + onWay, Way: "add"},
		"select":                 {Path: way, Way: "move"},
		"is not one of move":     {Path: way, Way: "bend", Picks: []int{0}},
		"no layer \"gone\"":      {Path: "layers/gone" + onWay, Way: "add"},
		"would lead too far":     {Path: way, Way: "move", Picks: []int{0}, To: [2]float64{1e9, 0}},
		"no mask \"x\"":          {Path: "layers/kite/masks/x" + onWay, Way: "add"},
		"is not one of layers/I": {Path: "colours/sea" + onWay, Way: "add"},
	} {
		a.Kind = "points"
		refusedFor(t, first, a, why)
	}
}

// A way is drawn where the layer is to go, from the frame that is looked at to the layer's end, at
// even speed; also for what is in a turned group that plays later, and for a mask.
func TestWaysAreDrawn(t *testing.T) {
	first := doc(t, leads, "", "")
	part := json.RawMessage(`[[600, 300], [900, 500, -100, -100, 100, 100], [1300, 400]]`)
	for id, late := range map[string]int64{"still": 0, "kite": 15} {
		d, p := do(t, first, Act{Kind: "draw", Part: part, Way: "open", Path: "layers/" + id + onWay, Frame: 30})
		m := d.Layer(id).Motion["place"]
		if err := d.Validate(); err != nil || !m.Even || len(m.Keys) != 3 || m.Keys[0].At.Cmp(timing.Int(30-late)) != 0 || m.Keys[2].At.Cmp(timing.Int(99-late)) != 0 || !strings.HasPrefix(p.Op.Title, "Draw a way for ") {
			t.Fatalf("%s: %v: %+v", p.Op.Title, err, m)
		}
		sc := sceneOf(t, d, "wide")
		on := geom.Path{Nodes: []geom.Node{{X: 600, Y: 300}, {X: 900, Y: 500, InX: -100, InY: -100, OutX: 100, OutY: 100}, {X: 1300, Y: 400}}}
		var last geom.Point
		gone := []float64{}
		for n := int64(30); n < 100; n += 3 {
			for _, s := range sc.Standings(sc.Time().At(timing.OutputFrame(n))) {
				if s.Layer != id {
					continue
				}
				at := s.World.Apply(geom.Point{X: s.Now.Origin[0] * s.Now.Size.W, Y: s.Now.Origin[1] * s.Now.Size.H})
				if _, _, far := on.Nearest(at); far > 0.05 {
					t.Errorf("%s: at frame %d it stands %g px beside what was drawn", id, n, far)
				}
				if n > 30 {
					gone = append(gone, math.Hypot(at.X-last.X, at.Y-last.Y))
				}
				last = at
			}
		}
		for _, step := range gone {
			if math.Abs(step-gone[0]) > 0.03*gone[0] { // chords of a curve
				t.Errorf("%s: its steps are %v", id, gone)
				break
			}
		}
		if !near(last, geom.Point{X: 1300, Y: 400}, 0.05) {
			t.Errorf("%s ends at %v", id, last)
		}
	}
	// It does not begin before its layer.
	late := doc(t, `{"id": "y", "name": "Y", "kind": "shape", "fill": "#c01030", "size": [9, 9], "in": 50, "out": 80}`, "", "")
	late, _ = do(t, late, Act{Kind: "draw", Part: part, Way: "open", Path: "layers/y" + onWay, Frame: 30})
	if k := late.Layer("y").Motion["place"].Keys; k[0].At.Cmp(timing.Int(50)) != 0 || k[2].At.Cmp(timing.Int(79)) != 0 {
		t.Errorf("it is led from %s to %s", k[0].At, k[2].At)
	}
	// Closed, it comes back; what was there is replaced; a mask goes one of its own.
	d, _ := do(t, first, Act{Kind: "draw", Part: part, Way: "closed", Path: "layers/still" + onWay})
	d, _ = do(t, d, Act{Kind: "draw", Part: part, Way: "closed", Path: "layers/kite/masks/m" + onWay})
	if k, n := d.Layer("still").Motion["place"].Keys, seenWay(t, d, "wide", "layers/kite/masks/m", 0).Nodes; len(k) != 4 || fmt.Sprint(k[0].Value) != fmt.Sprint(k[3].Value) || len(n) != 4 || math.Hypot(n[1].X-900, n[1].Y-500) > 0.1 {
		t.Errorf("%+v, %v", k, n)
	}
	refusedFor(t, first, Act{Kind: "draw", Part: part, Path: "layers/still" + onWay, Frame: 99}, "no frame left")
	refusedFor(t, first, Act{Kind: "draw", Part: part, Path: "layers/cam" + onWay}, "no way that can be drawn")
	refusedFor(t, first, Act{Kind: "draw", Part: part, Path: "layers/still/fill" + onWay}, "is not one of layers/ID")
}

// Whatever is done to ways, the draft stays sound, and all of it is taken back to the byte.
func TestRandomEditsOfWaysLeaveASoundDraft(t *testing.T) {
	rng := rand.New(rand.NewPCG(14, 9))
	draft := edit.Draft{Doc: doc(t, leads, "", "")}
	first := text(t, draft.Doc)
	var done [][]edit.Change
	for n := 0; len(done) < 150 && n < 3000; n++ {
		place := func() [2]float64 { return [2]float64{rng.Float64() * 1500, rng.Float64() * 900} }
		a := Act{Kind: "points", Format: []string{"wide", "tall"}[rng.IntN(2)], Frame: int64(rng.IntN(100)), Path: []string{"layers/kite", "layers/kite/masks/m", "layers/still"}[rng.IntN(3)] + onWay,
			Way: []string{"move", "in", "out", "add", "add", "remove", "corner", "smooth"}[rng.IntN(8)], From: place(), To: place(), Picks: []int{rng.IntN(6), rng.IntN(3)}}
		if rng.IntN(8) == 0 {
			a = Act{Kind: "draw", Format: a.Format, Frame: a.Frame, Path: a.Path, Way: []string{"open", "closed"}[rng.IntN(2)], Part: json.RawMessage(fmt.Sprintf(`[[%d, 20], [400, %d, 10, 20, -10, -20], [900, 900]]`, rng.IntN(900), rng.IntN(900)))}
		}
		p, err := Do(draft.Doc, shelf{}, a)
		if err != nil {
			continue
		}
		next, changes, err := draft.Do(p.Op)
		if err != nil {
			t.Fatalf("%s %s: planned and refused: %v", a.Kind, a.Way, err)
		}
		if len(changes) > 0 {
			if err := next.Doc.Validate(); err != nil {
				t.Fatalf("%s %s: %v", a.Kind, a.Way, err)
			}
			done, draft = append(done, changes), next
		}
	}
	if len(done) < 150 {
		t.Errorf("only %d changed anything", len(done))
	}
	for i := len(done) - 1; i >= 0; i-- {
		var err error
		if draft, err = draft.Replay(edit.Reverse(done[i])); err != nil {
			t.Fatal(err)
		}
	}
	if text(t, draft.Doc) != first {
		t.Error("all of it taken back is another draft")
	}
}

func sceneOf(t testing.TB, d *template.Document, format string) *scene.Scene {
	t.Helper()
	sc, err := scene.Compile(&sheet.Resolved{Doc: d, Values: sheet.Values{}}, format, shelf{})
	if err != nil {
		t.Fatal(err)
	}
	return sc
}

// Dots of a way stand in even steps of time: where the layer is seen then; with an even way they are as far from one
// another, with a hard easing near one another at both ends.
func TestDotsOfAWayAreEvenInTime(t *testing.T) {
	for _, c := range []struct{ ease, even string }{{"", ""}, {`, "ease": [0.9, 0, 0.1, 1]`, ""}, {"", `"even": true, `}} {
		d := doc(t, `{"id": "kite", "name": "Kite", "kind": "shape", "fill": "#c01030", "size": [100, 100], "shift": 5, "motion": {"place": {"unit": "canvas", `+c.even+`"keys": [{"at": 10, "value": [-0.2, 0], "out": [0.1, -0.3]`+c.ease+`}, {"at": 60, "value": [0.2, 0], "in": [-0.1, -0.3]}]}}}`, "", "")
		sc, err := scene.Compile(&sheet.Resolved{Doc: d, Values: sheet.Values{}}, "wide", shelf{})
		if err != nil {
			t.Fatal(err)
		}
		f, ok := sc.Way("layers/kite", sc.Time().At(30))
		if !ok || f.Step != 1 || len(f.Dots) != 51 {
			t.Fatalf("%d dots, %d frames each", len(f.Dots), f.Step)
		}
		var far []float64
		for i, p := range f.Dots {
			is := f.Map.Apply(geom.Point{X: p.X * f.Form.Size.W, Y: p.Y * f.Form.Size.H})
			s := stands(t, d, "wide", int64(15+i))["kite"]
			if want := s.World.Apply(geom.Point{X: 50, Y: 50}); !near(is, want, 1e-6) {
				t.Errorf("%s: dot %d lies at %v, the kite at %v", c.ease, i, is, want)
			}
			if i > 0 {
				far = append(far, math.Hypot(f.Dots[i].X-f.Dots[i-1].X, f.Dots[i].Y-f.Dots[i-1].Y))
			}
		}
		if spread := slices.Max(far) / slices.Min(far); c.ease != "" && spread < 20 {
			t.Errorf("eased hard, steps differ by %g", spread)
		}
	}
	long := doc(t, `{"id": "kite", "name": "Kite", "kind": "shape", "fill": "#c01030", "size": [100, 100], "motion": {"place": {"unit": "canvas", "keys": [{"at": 0, "value": [-0.2, 0]}, {"at": 900, "value": [0.2, 0]}]}}}`, "", "")
	sc, err := scene.Compile(&sheet.Resolved{Doc: long, Values: sheet.Values{}}, "wide", shelf{})
	if err != nil {
		t.Fatal(err)
	}
	if f, _ := sc.Way("layers/kite", sc.Time().At(0)); f.Step != 6 || len(f.Dots) != 151 {
		t.Errorf("of 900 frames there are %d dots, %d frames each", len(f.Dots), f.Step)
	}
}
