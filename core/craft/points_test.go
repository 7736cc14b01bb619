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
	"ivypocket/core/scheme"
	"ivypocket/core/template"
	"ivypocket/core/timing"
)

// A turned shape with a path that has keys, a format and an entry of its own, and a mask.
const drawn = `{"id": "sail", "name": "Sail", "kind": "shape", "fill": "#c01030", "place": [-100, 40], "size": [400, 200], "turn": 30,
	"form": {"kind": "path", "path": [[0, 0], [1, 0], [1, 1], [0, 1]]},
	"motion": {"form.path": {"keys": [{"at": 0, "value": [[0, 0], [1, 0], [1, 1], [0, 1]]}, {"at": 50, "value": [[0, 0.5], [1, 0, -0.2, 0, 0.2, 0], [1, 1], [0, 1]]}]}}},
	{"id": "flag", "name": "Flag", "kind": "shape", "fill": "#2e6b4e", "size": [300, 300], "corners": [0, 0, 40, 30, 0, 0, 0, 0],
	 "masks": [{"id": "m1", "form": {"kind": "path", "path": [[0, 0], [1, 0.5, -0.1, -0.3, 0.1, 0.3], [0, 1]]}, "place": [20, 10], "size": [200, 100], "turn": 15}],
	 "treatments": [{"id": "soft", "kind": "blur", "radius": 3, "masks": [{"id": "m1", "form": {"kind": "path", "path": [[0, 0], [1, 0], [1, 1], [0, 1]]}, "size": [150, 90]}]}]}`

const drawnRest = `"layers/sail/form.path": [[0, 0], [0.9, 0], [0.9, 1], [0, 1]]`

const drawnMore = `, "sheet": {"groups": [{"id": "all", "label": "All", "entries": [{"id": "cut", "label": "Cut", "kind": "switch", "default": false, "ties": [
	{"to": "layers/flag/masks/m1/form.path", "stops": [{"at": true, "value": [[0, 0], [1, 0.5], [0, 1]]}, {"at": false, "value": [[0, 0], [1, 0.5, -0.1, -0.3, 0.1, 0.3], [0, 1]]}]}]}]}]}`

// onCanvas is a thing's path as it lies on the canvas at the first frame.
func onCanvas(t *testing.T, d *template.Document, format, path string) geom.Path {
	t.Helper()
	for _, f := range formsOf(t, d, format, strings.Split(path, "/")[1]) {
		if f.Path == path {
			return geom.Path{Nodes: f.Form.Path.Nodes, Closed: f.Form.Path.Closed}.Through(geom.Scale(f.Form.Size.W, f.Form.Size.H).Flat().Then(f.Map))
		}
	}
	t.Fatalf("there is no outline at %s", path)
	return geom.Path{}
}

func formsOf(t *testing.T, d *template.Document, format, layer string) []scene.Formed {
	t.Helper()
	sc := sceneOf(t, d, format)
	return sc.Forms(layer, sc.Time().At(timing.OutputFrame(0)))
}

// counts are how many points all paths that are said of a thing have.
func counts(t *testing.T, d *template.Document, path string) (out []int) {
	t.Helper()
	b := &bench{doc: d, act: Act{Format: "wide"}, format: d.Format("wide"), lib: shelf{}}
	o, err := b.outline(path)
	if err != nil {
		t.Fatal(err)
	}
	for _, p := range b.said(&o) {
		out = append(out, len(p.Nodes))
	}
	return out
}

// A point goes where the pointer takes it, whatever the layer's turn, its corners, or its mask's
// own place; what keys say goes along, and what a format says of its own stays.
func TestPointsFollowThePointer(t *testing.T) {
	first := doc(t, drawn, drawnRest, "")
	for _, path := range []string{"layers/sail", "layers/flag/masks/m1"} {
		was := onCanvas(t, first, "wide", path)
		next, _ := do(t, first, Act{Kind: "points", Path: path, Way: "move", Picks: []int{1, 2}, From: [2]float64{10, 10}, To: [2]float64{47, -13}})
		now := onCanvas(t, next, "wide", path)
		for i := range was.Nodes {
			dx, dy := now.Nodes[i].X-was.Nodes[i].X, now.Nodes[i].Y-was.Nodes[i].Y
			want := geom.Point{}
			if i == 1 || i == 2 {
				want = geom.Point{X: 37, Y: -23}
			}
			if math.Abs(dx-want.X) > 0.01 || math.Abs(dy-want.Y) > 0.01 {
				t.Errorf("%s: point %d went by %.3f, %.3f", path, i, dx, dy)
			}
		}
		if err := next.Validate(); err != nil {
			t.Error(err)
		}
	}
	next, p := do(t, first, Act{Kind: "points", Path: "layers/sail", Way: "move", Picks: []int{0}, From: [2]float64{0, 0}, To: [2]float64{100, 7}, Keep: true})
	if p.Op.Title != "Move points of Sail" {
		t.Errorf("it is called %q", p.Op.Title)
	}
	keys := next.Layer("sail").Motion["form.path"].Keys
	// 100 px to the right of a layer that is turned by 30°: cos 30° · 100 ÷ 400 across, −sin 30° · 100 ÷ 200 down.
	for i, y := range []float64{0, 0.5} {
		if n := keys[i].Value.Numbers; math.Abs(n[0]-100*math.Sqrt(3)/2/400) > 1e-6 || math.Abs(n[1]-(y-0.25)) > 1e-6 {
			t.Errorf("key %d has it at %v", i, n[:2])
		}
	}
	if v := next.Format("tall").Rest["layers/sail/form.path"].Numbers; v[0] != 0 || v[1] != 0 {
		t.Errorf("the other format went along: %v", v[:2])
	}
	tall, _ := do(t, first, Act{Kind: "points", Format: "tall", Path: "layers/sail", Way: "move", Picks: []int{0}, To: [2]float64{40, 0}})
	if v, _ := tall.Layer("sail").Value(scheme.LayerForm.Path); v.Numbers[0] != 0 || tall.Format("tall").Rest["layers/sail/form.path"].Numbers[0] == 0 {
		t.Error("a format that stands apart does not keep to itself")
	}
}

// Handles on one line turn together and keep their lengths; alone one moves when it is asked to,
// and a corner gets two.
func TestHandlesStayOnOneLine(t *testing.T) {
	first := doc(t, drawn, "", "")
	const path = "layers/flag/masks/m1"
	handle := func(p geom.Path, i int) (in, out geom.Point) {
		n := p.Nodes[i]
		return geom.Point{X: n.InX, Y: n.InY}, geom.Point{X: n.OutX, Y: n.OutY}
	}
	was := onCanvas(t, first, "wide", path)
	in, out := handle(was, 1)
	act := Act{Kind: "points", Path: path, Way: "out", Picks: []int{1}, To: [2]float64{30, 5}}
	next, _ := do(t, first, act)
	in2, out2 := handle(onCanvas(t, next, "wide", path), 1)
	if math.Abs(out2.X-out.X-30) > 0.02 || math.Abs(out2.Y-out.Y-5) > 0.02 {
		t.Errorf("the handle went to %v from %v", out2, out)
	}
	long := func(p geom.Point) float64 { return math.Hypot(p.X, p.Y) }
	if cross := (in2.X*out2.Y - in2.Y*out2.X) / long(in2) / long(out2); math.Abs(cross) > 1e-3 || in2.X*out2.X+in2.Y*out2.Y > 0 || math.Abs(long(in2)-long(in)) > 0.05 {
		t.Errorf("the other is %v, was %v", in2, in)
	}
	act.Middle = true
	alone, _ := do(t, first, act)
	if in3, _ := handle(onCanvas(t, alone, "wide", path), 1); math.Abs(in3.X-in.X) > 0.01 || math.Abs(in3.Y-in.Y) > 0.01 {
		t.Errorf("the other went along: %v", in3)
	}
	act.Middle, act.Picks = false, []int{0}
	corner, _ := do(t, first, act)
	if n := corner.Layer("flag").Masks()[0].Get(scheme.MaskForm.Path).Numbers; n[2] != -n[4] || n[3] != -n[5] || n[4] == 0 {
		t.Errorf("a corner's handles are %v", n[2:6])
	}
}

// Points are put in and taken out in everything that is said of a path, and in none it is
// another line for it.
func TestPathsStayInStep(t *testing.T) {
	first := doc(t, drawn, drawnRest, drawnMore)
	for _, c := range []struct {
		path string
		act  Act
		want int
	}{
		{"layers/sail", Act{Way: "add", To: [2]float64{860, 500}}, 5}, {"layers/sail", Act{Way: "remove", Picks: []int{3}}, 3}, {"layers/sail", Act{Way: "join", Picks: []int{0, 3}}, 3},
		{"layers/sail", Act{Way: "smooth", Picks: []int{0, 1}}, 4}, {"layers/sail", Act{Way: "corner", Picks: []int{1}}, 4}, {"layers/sail", Act{Way: "open", Picks: []int{2}}, 5},
		{"layers/flag/masks/m1", Act{Way: "add", To: [2]float64{980, 560}}, 4}, {"layers/flag/masks/m1", Act{Way: "join", Picks: []int{1, 2}}, 2},
	} {
		c.act.Kind, c.act.Path = "points", c.path
		next, _ := do(t, first, c.act)
		for _, n := range counts(t, next, c.path) {
			if n != c.want {
				t.Errorf("%s of %s: there are %v points", c.act.Way, c.path, counts(t, next, c.path))
				break
			}
		}
		if err := next.Validate(); err != nil {
			t.Errorf("%s: %v", c.act.Way, err)
		}
		if c.act.Way == "add" && drawnAs(t, first) == drawnAs(t, next) {
			continue
		}
		if c.act.Way == "add" { // the same line, by another list: its points lie on the old one
			a, b := onCanvas(t, first, "wide", c.path), onCanvas(t, next, "wide", c.path)
			for _, n := range b.Nodes {
				if _, _, far := a.Nearest(geom.Point{X: n.X, Y: n.Y}); far > 0.2 { // in perspective the handles say where it runs, nearly
					t.Errorf("%s: a point lies %g px beside the line", c.path, far)
				}
			}
		}
		if c.act.Way == "open" {
			if !next.Layer("sail").On(scheme.LayerForm.Open) {
				t.Error("it is closed yet")
			}
			shut, _ := do(t, next, Act{Kind: "points", Path: c.path, Way: "join", Picks: []int{0, 4}})
			if n := counts(t, shut, c.path)[0]; n != 4 || shut.Layer("sail").On(scheme.LayerForm.Open) {
				t.Errorf("shut again it has %d points", n)
			}
		}
	}
	for why, a := range map[string]Act{
		"a path has 2 points or more": {Path: "layers/flag/masks/m1", Way: "remove", Picks: []int{0, 1}},
		"too few points":              {Path: "layers/sail", Way: "smooth"},
		"there is no point 9":         {Path: "layers/sail", Way: "move", Picks: []int{9}},
		"is closed already":           {Path: "layers/sail", Way: "shut"},
		"points that follow one":      {Path: "layers/sail", Way: "join", Picks: []int{0, 2}},
		"select one point; the path":  {Path: "layers/sail", Way: "open", Picks: []int{0, 2}},
		"Flag is no drawn path":       {Path: "layers/flag", Way: "add"},
		"no mask \"m9\"":              {Path: "layers/flag/masks/m9", Way: "add"},
		"is not one of layers/ID":     {Path: "colours/sea", Way: "add"},
		"is not one of move":          {Path: "layers/sail", Way: "bend", Picks: []int{0}},
	} {
		a.Kind = "points"
		refusedFor(t, first, a, why)
	}
}

// An open path is broken into two that lie where it lay, in keys, formats, uses and at stops
// alike; both keep its looks, and what drives them.
func TestOpenPathsBreakInTwo(t *testing.T) {
	line := strings.Replace(drawn, `"form": {"kind": "path", "path": [[0, 0]`, `"stroke": {"colour": "#102030", "width": 6}, "form": {"kind": "path", "open": true, "path": [[0, 0]`, 1)
	first := doc(t, line, drawnRest, `, "sheet": {"groups": [{"id": "all", "label": "All", "entries": [{"id": "ink", "label": "Ink", "kind": "colour", "default": "#102030", "ties": [{"to": "layers/sail/stroke.colour"}]}]}]}`)
	for _, format := range []string{"wide", "tall"} {
		was := onCanvas(t, first, format, "layers/sail")
		next, p := do(t, first, Act{Kind: "points", Format: format, Path: "layers/sail", Way: "open", Picks: []int{2}})
		if err := next.Validate(); err != nil || p.Op.Title != "Break Sail" {
			t.Fatalf("%q: %v", p.Op.Title, err)
		}
		i := slices.IndexFunc(next.Layers, func(y *template.Layer) bool { return y.Name == "Sail 2" })
		if i < 1 || next.Layers[i-1].ID != "sail" {
			t.Fatal("its other part isn't right above it")
		}
		other := next.Layers[i].ID
		a, b := onCanvas(t, next, format, "layers/sail"), onCanvas(t, next, format, "layers/"+other)
		if len(a.Nodes) != 3 || len(b.Nodes) != 2 || a.Closed || b.Closed || a.Nodes[0] != was.Nodes[0] || a.Nodes[2].X != was.Nodes[2].X || b.Nodes[0].X != was.Nodes[2].X || b.Nodes[1].Y != was.Nodes[3].Y {
			t.Errorf("%v and %v of %v", a, b, was)
		}
		if got := fmt.Sprint(counts(t, next, "layers/sail"), counts(t, next, "layers/"+other)); got != "[3 3 3 3] [2 2 2 2]" {
			t.Errorf("there are %s points", got)
		}
		if ties := next.Sheet.Entries()[0].Ties; len(ties) != 2 || ties[1].To != "layers/"+other+"/stroke.colour" {
			t.Errorf("its colour on the sheet drives %v", ties)
		}
	}
	for why, a := range map[string]Act{
		"ends there already":         {Path: "layers/sail", Picks: []int{0}},
		"select a point between":     {Path: "layers/sail", Picks: []int{3}},
		"select one point; the path": {Path: "layers/sail", Picks: []int{1, 2}},
	} {
		a.Kind, a.Way = "points", "open"
		refusedFor(t, first, a, why)
	}
	mask, _ := do(t, first, Act{Kind: "points", Path: "layers/flag/masks/m1", Way: "open", Picks: []int{1}})
	refusedFor(t, mask, Act{Kind: "points", Path: "layers/flag/masks/m1", Way: "open", Picks: []int{1}}, "a mask is one path")
	stops := doc(t, `{"id": "l", "name": "L", "kind": "shape", "stroke": {"colour": "#102030", "width": 4}, "size": [100, 100], "form": {"kind": "path", "open": true, "path": [[0, 0], [1, 0], [1, 1], [0, 1]]}}`, "",
		`, "sheet": {"groups": [{"id": "all", "label": "All", "entries": [{"id": "cut", "label": "Cut", "kind": "switch", "default": false, "ties": [
		{"to": "layers/l/form.path", "stops": [{"at": true, "value": [[0, 0], [1, 0.5], [0.5, 1], [0, 1]]}, {"at": false, "value": [[0, 0], [1, 0], [1, 1], [0, 1]]}]}]}]}]}`)
	broken, _ := do(t, stops, Act{Kind: "points", Path: "layers/l", Way: "open", Picks: []int{1}})
	if err := broken.Validate(); err != nil || fmt.Sprint(counts(t, broken, "layers/l"), counts(t, broken, "layers/l-2")) != "[2 2 2] [3 3 3]" {
		t.Errorf("%v: %v, %v points", err, counts(t, broken, "layers/l"), counts(t, broken, "layers/l-2"))
	}
}

// What a use of a motif says itself of a path, what a format says of it in that use, and what an
// entry drives there stay in step with the motif's; broken, both parts have all of it, and a copy
// of the use has what formats say of it.
func TestPathsInUsesStayInStep(t *testing.T) {
	first := doc(t, `{"id": "one", "name": "One", "kind": "use", "motif": "m", "values": {"layers/l/stroke.colour": "#ff0000", "layers/l/form.path": [[0, 0], [0.5, 0], [1, 0.5]]}}`,
		`"layers/one:l/form.path": [[0, 0], [0.5, 0], [1, 0.7]]`,
		`, "motifs": [{"id": "m", "name": "M", "kind": "group", "size": [400, 400], "layers": [{"id": "l", "name": "L", "kind": "shape", "stroke": {"colour": "#102030", "width": 4}, "size": [100, 100],
		"form": {"kind": "path", "open": true, "path": [[0, 0], [1, 0], [1, 1]]}}]}], "sheet": {"groups": [{"id": "all", "label": "All", "entries": [{"id": "cut", "label": "Cut", "kind": "switch", "default": false, "ties": [
		{"to": "layers/one:l/form.path", "stops": [{"at": true, "value": [[0, 0], [1, 0.5], [0.5, 1]]}, {"at": false, "value": [[0, 0], [0.5, 0], [1, 0.5]]}]}]}]}]}`)
	points := func(v scheme.Value) int { return len(v.Numbers) / geom.NodeWidth }
	all := func(d *template.Document, id string) (out []int) { // at rest, in the use, in a format, at both stops
		y := d.Layer(id)
		if y == nil {
			return nil
		}
		out = append(out, points(y.Get(scheme.LayerForm.Path)), points(d.Layer("one").Own["layers/"+id+"/form.path"]), points(d.Format("tall").Rest["layers/one:"+id+"/form.path"]))
		for _, tie := range d.Sheet.Entries()[0].Ties {
			if tie.To == "layers/one:"+id+"/form.path" {
				out = append(out, points(tie.Stops[0].Value), points(tie.Stops[1].Value))
			}
		}
		return out
	}
	act := Act{Kind: "points", Path: "layers/one:l", Way: "add", To: [2]float64{900, 500}}
	next, _ := do(t, first, act)
	if got := fmt.Sprint(all(next, "l")); got != "[4 4 4 4 4]" || next.Validate() != nil {
		t.Errorf("with a point more there are %s: %v", got, next.Validate())
	}
	act.Way, act.Picks = "open", []int{1}
	next, _ = do(t, first, act)
	if got := fmt.Sprint(all(next, "l"), all(next, "l-2")); got != "[2 2 2 2 2] [2 2 2 2 2]" || next.Validate() != nil {
		t.Errorf("broken in two there are %s: %v", got, next.Validate())
	}
	if own := next.Layer("one").Own["layers/l-2/stroke.colour"]; own.Text != "#ff0000" {
		t.Errorf("the use's own colour is not the other part's: %v", own)
	}
	next, p := do(t, first, Act{Kind: "duplicate", Layers: []string{"one"}})
	if v := next.Format("tall").Rest["layers/"+p.Chosen[0]+":l/form.path"]; points(v) != 3 {
		t.Errorf("the copy of a use has lost what a format says of it: %v", next.Format("tall").Rest)
	}
}

// What is drawn on the canvas lies there, as a shape in a turned group and as a mask of a turned
// layer alike.
func TestPathsAreDrawnWhereThePointerWas(t *testing.T) {
	first := doc(t, drawn+`, {"id": "g", "name": "G", "kind": "group", "size": [800, 600], "place": [50, -20], "turn": -20, "scale": [1.5, 0.8], "layers": []}`, "", "")
	part := json.RawMessage(`[[300, 200], [700, 260, -80, -60, 80, 60], [640, 600], [260.5, 480]]`)
	want := geom.Path{Nodes: []geom.Node{{X: 300, Y: 200}, {X: 700, Y: 260, InX: -80, InY: -60, OutX: 80, OutY: 60}, {X: 640, Y: 600}, {X: 260.5, Y: 480}}}
	check := func(what string, d *template.Document, path string) {
		t.Helper()
		if err := d.Validate(); err != nil {
			t.Fatalf("%s: %v", what, err)
		}
		got := onCanvas(t, d, "wide", path)
		if len(got.Nodes) != len(want.Nodes) {
			t.Fatalf("%s: %v", what, got)
		}
		for i, n := range got.Nodes {
			w := want.Nodes[i]
			for k, v := range []float64{n.X - w.X, n.Y - w.Y, n.InX - w.InX, n.InY - w.InY, n.OutX - w.OutX, n.OutY - w.OutY} {
				if math.Abs(v) > 0.05 {
					t.Errorf("%s: number %d of point %d is off by %g", what, k, i, v)
				}
			}
		}
	}
	d, p := do(t, first, Act{Kind: "draw", Part: part, Way: "closed"})
	check("on the canvas", d, "layers/"+p.Chosen[0])
	if y := d.Layer(p.Chosen[0]); !y.Given(scheme.Fill) || y.Given(scheme.StrokeColour) {
		t.Error("a closed path is not filled")
	}
	d, p = do(t, first, Act{Kind: "draw", Part: part, Way: "open", Into: "layers/g/layers", At: -1})
	check("in a group", d, "layers/"+p.Chosen[0])
	if y := d.Layer(p.Chosen[0]); y.Given(scheme.Fill) || !y.Given(scheme.StrokeColour) || !y.On(scheme.LayerForm.Open) {
		t.Error("an open path is no line")
	}
	d, _ = do(t, first, Act{Kind: "draw", Part: part, Way: "closed", Path: "layers/sail"})
	check("as a mask", d, "layers/sail/masks/m1")
	// A ground has no place of its own: it lies over the canvas, or over the group it is in.
	grounds := doc(t, `{"id": "all", "name": "All", "kind": "ground", "fill": "#ffffff"}, {"id": "g", "name": "G", "kind": "group", "size": [800, 600], "place": [50, -20], "turn": -20, "layers": [{"id": "part", "name": "Part", "kind": "ground", "fill": "#000000"}]}`, "", "")
	for _, id := range []string{"all", "part"} {
		d, _ = do(t, grounds, Act{Kind: "draw", Part: part, Way: "closed", Path: "layers/" + id})
		check("as a mask of a ground, "+id, d, "layers/"+id+"/masks/m1")
	}
	// It takes its looks from another layer: what joins two things belongs to one of them.
	d, p = do(t, first, Act{Kind: "draw", Part: json.RawMessage(`[[0, 0], [100, 0]]`), Way: "open", Id: "sail"})
	if y := d.Layer(p.Chosen[0]); y.Text(scheme.StrokeColour) != "#c01030" || y.Given(scheme.Fill) {
		t.Errorf("%s", text(t, d))
	}
	for why, a := range map[string]Act{
		"is no list of points":  {Part: json.RawMessage(`"x"`)},
		"2 to 2000 points":      {Part: json.RawMessage(`[[1, 2]]`)},
		"lies too far away":     {Part: json.RawMessage(`[[1, 2], [1e9, 3]]`)},
		"a mask is a closed":    {Part: part, Way: "open", Path: "layers/sail"},
		"there is no layer":     {Part: part, Path: "layers/none"},
		"no layer \"none\" any": {Part: part, Id: "none"},
	} {
		a.Kind = "draw"
		refusedFor(t, first, a, why)
	}
}

// Masks of every form are drawn by a box, or follow what is in a pocket; treatments come with
// numbers that are seen.
func TestMasksAndTreatmentsAreAdded(t *testing.T) {
	first := doc(t, drawn+`, {"id": "v", "name": "View", "kind": "view", "pocket": "kite", "size": [400, 300]}, {"id": "cam", "name": "Cam", "kind": "camera"}`, "", `, "pockets": [{"id": "kite", "name": "Kite", "kinds": ["picture"]}]`)
	for _, way := range []string{"rectangle", "ellipse", "triangle", "polygon", "star", "arrow"} {
		d, _ := do(t, first, Act{Kind: "mask", Path: "layers/flag", Way: way, From: [2]float64{900, 500}, To: [2]float64{1000, 560}})
		f := formsOf(t, d, "wide", "flag")
		m := f[slices.IndexFunc(f, func(f scene.Formed) bool { return f.Path == "layers/flag/masks/m2" })]
		if err := d.Validate(); err != nil {
			t.Errorf("%s: %v", way, err)
		}
		if mid := m.Map.Apply(geom.Point{X: m.Form.Size.W / 2, Y: m.Form.Size.H / 2}); math.Hypot(mid.X-950, mid.Y-530) > 0.1 {
			t.Errorf("%s lies about %v", way, mid)
		}
	}
	// It lies as it was drawn also on a layer that is turned, by 30° here.
	turned, _ := do(t, first, Act{Kind: "mask", Path: "layers/sail", Way: "rectangle", From: [2]float64{900, 500}, To: [2]float64{1000, 560}})
	f := formsOf(t, turned, "wide", "sail")
	m := f[slices.IndexFunc(f, func(f scene.Formed) bool { return f.Path == "layers/sail/masks/m1" })]
	if q, _ := m.Map.Quad(geom.Box{W: m.Form.Size.W, H: m.Form.Size.H}); !near(q[0], geom.Point{X: 900, Y: 500}, 0.02) || !near(q[2], geom.Point{X: 1000, Y: 560}, 0.02) {
		t.Errorf("on a turned layer it lies at %v", q)
	}
	whole, _ := do(t, first, Act{Kind: "mask", Path: "layers/sail", Way: "ellipse"})
	if m := whole.Layer("sail").Masks()[0]; m.Given(scheme.MaskSize) || m.Given(scheme.MaskPlace) {
		t.Error("one that is not drawn is not as large as its layer")
	}
	of, _ := do(t, first, Act{Kind: "mask", Path: "layers/v", Way: "outline"})
	if of.Layer("v").Masks()[0].Text(scheme.MaskOf) != "outline" {
		t.Error("it follows nothing")
	}
	refusedFor(t, first, Act{Kind: "mask", Path: "layers/sail", Way: "box"}, "Sail shows none")
	refusedFor(t, first, Act{Kind: "mask", Path: "layers/cam", Way: "star"}, "can't be masked")
	refusedFor(t, first, Act{Kind: "mask", Path: "layers/sail", Way: "rule"}, "no form of a mask")
	for _, k := range scheme.Treatments.Kinds {
		d, p := do(t, first, Act{Kind: "treat", Layers: []string{"sail", "v"}, Way: k.Name})
		d, _ = do(t, d, Act{Kind: "treat", Layers: []string{"sail"}, Way: k.Name})
		if n := len(d.Layer("sail").Treatments()); n != 2 || d.Validate() != nil || !strings.HasPrefix(p.Op.Title, k.Label) {
			t.Errorf("%s: %d, %v", k.Name, n, d.Validate())
		}
		if drawnAs(t, first) == drawnAs(t, d) {
			t.Errorf("%s: nothing is seen of it", k.Name)
		}
	}
	// Their order is changed as that of layers is.
	two, _ := do(t, first, Act{Kind: "mask", Path: "layers/flag", Way: "ellipse"})
	two, _ = do(t, two, Act{Kind: "move", Path: "layers/flag/masks/m2", Into: "layers/flag/masks", At: 0})
	if m := two.Layer("flag").Masks(); m[0].ID != "m2" || m[1].ID != "m1" {
		t.Errorf("masks are %s, %s", m[0].ID, m[1].ID)
	}
	refusedFor(t, first, Act{Kind: "treat", Layers: []string{"sail"}, Way: "glow"}, "not a kind of treatments")
	refusedFor(t, first, Act{Kind: "treat", Layers: []string{"cam"}, Way: "blur"}, "can't be treated")
}

// A treatment is masked as a layer is: by forms and paths, which are posed and whose points are
// worked on; it goes along where its layer is copied, and in a use of a motif.
func TestTreatmentsAreMaskedAsLayersAre(t *testing.T) {
	first := doc(t, `{"id": "y", "name": "Y", "kind": "shape", "fill": "#c01030", "size": [400, 300], "turn": 90, "treatments": [{"id": "soft", "kind": "blur", "radius": 20}]},
		{"id": "v", "name": "V", "kind": "view", "pocket": "kite"},
		{"id": "one", "name": "One", "kind": "use", "motif": "m"}`, "", `, "motifs": [{"id": "m", "name": "M", "kind": "group", "size": [400, 400], "layers": [
		{"id": "in", "name": "In", "kind": "shape", "fill": "#10c010", "size": [400, 400], "treatments": [{"id": "soft", "kind": "blur", "radius": 20}]}]}], "pockets": [{"id": "kite", "name": "Kite", "kinds": ["picture"]}]`)
	const at = "layers/y/treatments/soft"
	// 80 × 40 px drawn upright on the canvas, on a layer that lies on its side.
	d, p := do(t, first, Act{Kind: "mask", Path: at, Way: "ellipse", From: [2]float64{900, 500}, To: [2]float64{980, 540}})
	m := d.Layer("y").Treatments()[0].Masks()
	if len(m) != 1 || len(d.Layer("y").Masks()) != 0 || !near(geom.Point{X: m[0].Get(scheme.MaskSize).Numbers[0], Y: m[0].Get(scheme.MaskSize).Numbers[1]}, geom.Point{X: 80, Y: 40}, 0.01) || m[0].Number(scheme.MaskTurn) != -90 || p.Op.Title != "Mask the blur of Y" || d.Validate() != nil {
		t.Fatalf("%s: %v, %v", p.Op.Title, m, d.Validate())
	}
	if drawnAs(t, d) == drawnAs(t, first) {
		t.Error("nothing is seen of it")
	}
	moved, _ := do(t, d, Act{Kind: "mask-pose", Path: at + "/masks/m1", Way: "move", From: [2]float64{900, 500}, To: [2]float64{900, 530}})
	if was, is := m[0].Get(scheme.MaskPlace).Numbers, moved.Layer("y").Treatments()[0].Masks()[0].Get(scheme.MaskPlace).Numbers; math.Abs(is[0]-was[0]-30) > 0.01 || math.Abs(is[1]-was[1]) > 0.01 {
		t.Errorf("30 px down on the canvas took it from %v to %v", was, is)
	}
	path, _ := do(t, d, Act{Kind: "draw", Part: json.RawMessage(`[[900, 500], [1000, 500], [950, 600]]`), Way: "closed", Path: at})
	path, _ = do(t, path, Act{Kind: "points", Path: at + "/masks/m2", Way: "add", To: [2]float64{950, 500}})
	if got := path.Layer("y").Treatments()[0].Masks()[1].Get(scheme.MaskForm.Path); len(got.Numbers) != 4*geom.NodeWidth || path.Validate() != nil {
		t.Errorf("%v, %v", got, path.Validate())
	}
	// Formulas of its masks read the copies that come along, and in a use the use's own.
	read := d.Clone()
	if err := json.Unmarshal([]byte(strings.Replace(text(t, d), `"id":"m1",`, `"id":"m1","formulas": {"opacity": "layer('y').scale.x / 2"},`, 1)), read); err != nil {
		t.Fatal(err)
	}
	two, _ := do(t, read, Act{Kind: "duplicate", Layers: []string{"y"}})
	if f := two.Layer("y-2").Treatments()[0].Masks()[0].Formulas["opacity"]; !strings.Contains(f, "y-2") {
		t.Errorf("the copy's mask reads %s", f)
	}
	used, _ := do(t, first, Act{Kind: "mask", Path: "layers/one:in/treatments/soft", Way: "star", From: [2]float64{900, 500}, To: [2]float64{980, 540}})
	whole, err := used.Expanded()
	if err != nil || len(used.Layer("in").Treatments()[0].Masks()) != 1 || len(whole.Layer("one:in").Treatments()[0].Masks()) != 1 {
		t.Fatalf("%v: %s", err, text(t, used))
	}
	v := scheme.One(0.5)
	if err := used.Set("layers/one:in/treatments/soft/masks/m1/opacity", v); err != nil {
		t.Fatal(err)
	}
	if whole, _ = used.Expanded(); whole.Layer("one:in").Treatments()[0].Masks()[0].Number(scheme.MaskAlpha) != 0.5 || used.Layer("in").Treatments()[0].Masks()[0].Number(scheme.MaskAlpha) != 1 {
		t.Error("a use has not its own value of a mask of a treatment")
	}
	// What a pocket has in it may be followed; without a pocket of its own it must be said which.
	of, _ := do(t, first, Act{Kind: "treat", Layers: []string{"v"}, Way: "blur"})
	of, _ = do(t, of, Act{Kind: "mask", Path: "layers/v/treatments/blur", Way: "outline"})
	if of.Layer("v").Treatments()[0].Masks()[0].Text(scheme.MaskOf) != "outline" || of.Validate() != nil {
		t.Error(of.Validate())
	}
	refusedFor(t, first, Act{Kind: "mask", Path: at, Way: "outline"}, "Y shows none")
	refusedFor(t, d, Act{Kind: "mask", Path: at + "/masks/m1", Way: "star"}, "is a mask already")
	refusedFor(t, d, Act{Kind: "points", Path: at, Way: "add"}, "neither a layer nor a mask")
	refusedFor(t, d, Act{Kind: "mask", Path: "layers/y/treatments/no", Way: "star"}, "no treatment \"no\"")
	refusedFor(t, d, Act{Kind: "mask", Path: "layers/y/stops/no", Way: "star"}, "has no \"stops\"")
}

// Whatever is done to paths and masks, the draft stays sound, its paths in step, and all of it is
// taken back to the byte.
func TestRandomEditsOfPathsLeaveASoundDraft(t *testing.T) {
	rng := rand.New(rand.NewPCG(14, 1))
	draft := edit.Draft{Doc: doc(t, drawn, drawnRest, drawnMore)}
	first := text(t, draft.Doc)
	var done [][]edit.Change
	var before []string
	refused := map[string]int{}
	paths := []string{"layers/sail", "layers/flag/masks/m1", "layers/flag/treatments/soft/masks/m1"}
	for len(done) < 300 {
		path := paths[rng.IntN(len(paths))]
		a := Act{Kind: "points", Format: []string{"wide", "tall"}[rng.IntN(2)], Frame: int64(rng.IntN(100)), Path: path, Apart: rng.IntN(4) == 0,
			Way:  []string{"move", "move", "in", "out", "add", "add", "remove", "corner", "smooth", "open", "shut", "join"}[rng.IntN(12)],
			From: [2]float64{rng.Float64() * 900, rng.Float64() * 900}, To: [2]float64{rng.Float64() * 900, rng.Float64() * 900}, Middle: rng.IntN(3) == 0, Keep: rng.IntN(3) == 0, Snap: float64(rng.IntN(2) * 8)}
		for range 1 + rng.IntN(3) {
			a.Picks = append(a.Picks, rng.IntN(6))
		}
		if rng.IntN(10) == 0 {
			a = Act{Kind: "mask", Format: "wide", Path: []string{"layers/sail", "layers/flag/treatments/soft"}[rng.IntN(2)], Way: []string{"star", "ellipse", "triangle"}[rng.IntN(3)], From: a.From, To: a.To, Snap: 8}
		}
		p, err := Do(draft.Doc, shelf{}, a)
		if err != nil {
			refused[fmt.Sprintf("%.40s", err)]++
			if len(refused) > 60 {
				t.Fatalf("%v", refused)
			}
			continue
		}
		next, changes, err := draft.Do(p.Op)
		if err != nil { // too far away
			if !strings.Contains(err.Error(), "is outside") {
				t.Fatalf("%s %s: planned and refused: %v", a.Kind, a.Way, err)
			}
			continue
		}
		if len(changes) == 0 {
			continue
		}
		if err := next.Doc.Validate(); err != nil {
			t.Fatalf("%s %s: %v", a.Kind, a.Way, err)
		}
		for _, path := range paths {
			if c := counts(t, next.Doc, path); fmt.Sprint(c) != fmt.Sprint(slices.Repeat(c[:1], len(c))) {
				t.Fatalf("%s %s: %s has %v points", a.Kind, a.Way, path, c)
			}
		}
		before, done, draft = append(before, text(t, draft.Doc)), append(done, changes), next
	}
	for i := len(done) - 1; i >= 0; i-- {
		var err error
		if draft, err = draft.Replay(edit.Reverse(done[i])); err != nil || text(t, draft.Doc) != before[i] {
			t.Fatalf("taking back %d: %v", i, err)
		}
	}
	if text(t, draft.Doc) != first {
		t.Error("all of it taken back is another draft")
	}
}

// A mask goes, grows, turns and softens as its handles are dragged, on a layer that is turned and
// scaled; the numbers say what the hand did.
func TestMasksFollowTheirHandles(t *testing.T) {
	first := doc(t, `{"id": "y", "name": "Y", "kind": "shape", "fill": "#c01030", "place": [-100, 40], "size": [400, 300], "turn": 30, "scale": [2, 2],
		"masks": [{"id": "m1", "form": {"kind": "star", "sides": 5}, "place": [20, 10], "size": [200, 100], "turn": 20, "feather": 4}, {"id": "m2"}]}`, "", "")
	form := func(d *template.Document, id string) scene.Formed {
		t.Helper()
		for _, f := range formsOf(t, d, "wide", "y") {
			if f.Mask == id {
				return f
			}
		}
		t.Fatal("it is gone")
		return scene.Formed{}
	}
	on := func(d *template.Document, id string, x, y float64) geom.Point {
		f := form(d, id)
		return f.Map.Apply(geom.Point{X: x * f.Form.Size.W, Y: y * f.Form.Size.H})
	}
	pose := func(a Act, from, to geom.Point) *template.Document {
		t.Helper()
		a.Kind, a.From, a.To = "mask-pose", [2]float64{from.X, from.Y}, [2]float64{to.X, to.Y}
		if a.Path == "" {
			a.Path = "layers/y/masks/m1"
		}
		d, _ := do(t, first, a)
		return d
	}
	mid := on(first, "m1", 0.5, 0.5)
	to := geom.Point{X: mid.X + 61, Y: mid.Y - 17}
	if d := pose(Act{Way: "move"}, mid, to); !near(on(d, "m1", 0.5, 0.5), to, 0.01) {
		t.Errorf("it went to %v, not %v", on(d, "m1", 0.5, 0.5), to)
	}
	// A corner goes where it is dragged, the one opposite stays; from the middle both go.
	corner := on(first, "m1", 1, 1)
	to = geom.Point{X: corner.X + 40, Y: corner.Y + 55}
	d := pose(Act{Way: "size", Handle: [2]float64{1, 1}}, corner, to)
	if !near(on(d, "m1", 1, 1), to, 0.02) || !near(on(d, "m1", 0, 0), on(first, "m1", 0, 0), 0.02) {
		t.Errorf("the corner went to %v, not %v, the other to %v", on(d, "m1", 1, 1), to, on(d, "m1", 0, 0))
	}
	d = pose(Act{Way: "size", Handle: [2]float64{1, 1}, Middle: true}, corner, to)
	if !near(on(d, "m1", 1, 1), to, 0.02) || !near(on(d, "m1", 0.5, 0.5), mid, 0.02) {
		t.Error("from the middle it is another")
	}
	if d = pose(Act{Way: "size", Handle: [2]float64{1, 1}, Keep: true}, corner, to); math.Abs(form(d, "m1").Form.Size.W/form(d, "m1").Form.Size.H-2) > 1e-3 {
		t.Errorf("its proportions are %v", form(d, "m1").Form.Size)
	}
	// A mask as large as its layer gets a size of its own.
	whole := on(first, "m2", 1, 0.5)
	if d = pose(Act{Path: "layers/y/masks/m2", Way: "size", Handle: [2]float64{1, 0.5}}, whole, geom.Point{X: whole.X + 100*math.Cos(math.Pi/6), Y: whole.Y + 50}); math.Abs(form(d, "m2").Form.Size.W-450) > 0.01 || form(d, "m2").Form.Size.H != 300 {
		t.Errorf("100 px of the canvas to the right of a layer twice as large make it %v", form(d, "m2").Form.Size)
	}
	side := on(first, "m1", 1, 0.5)
	d = pose(Act{Way: "turn"}, side, geom.Point{X: mid.X - (side.Y - mid.Y), Y: mid.Y + (side.X - mid.X)})
	if n := d.Layer("y").Masks()[0].Number(scheme.MaskTurn); math.Abs(n-110) > 0.01 {
		t.Errorf("a quarter on, it is turned by %g", n)
	}
	if d = pose(Act{Way: "turn", Keep: true}, side, geom.Point{X: side.X + 3, Y: side.Y + 9}); math.Mod(d.Layer("y").Masks()[0].Number(scheme.MaskTurn), 15) != 0 {
		t.Errorf("in steps it is turned by %g", d.Layer("y").Masks()[0].Number(scheme.MaskTurn))
	}
	// 30 px of the layer beyond the right edge, 12 below the upper one.
	d = pose(Act{Way: "feather"}, side, on(first, "m1", 230.0/200, 0.5))
	if n := d.Layer("y").Masks()[0].Number(scheme.Feather); math.Abs(n-30) > 0.01 {
		t.Errorf("its feather is %g", n)
	}
	d = pose(Act{Way: "growth"}, side, on(first, "m1", 0.5, 0.12))
	if n := d.Layer("y").Masks()[0].Number(scheme.Growth); math.Abs(n+12) > 0.01 {
		t.Errorf("its growth is %g", n)
	}
	refusedFor(t, first, Act{Kind: "mask-pose", Path: "layers/y/masks/m1", Way: "bend"}, "is not one of move")
	refusedFor(t, first, Act{Kind: "mask-pose", Path: "layers/y/masks/m7", Way: "move"}, "no mask \"m7\"")
	refusedFor(t, first, Act{Kind: "mask-pose", Path: "layers/y", Way: "move"}, "is no mask")
}
