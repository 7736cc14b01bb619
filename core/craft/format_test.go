package craft

import (
	"fmt"
	"math"
	"math/rand/v2"
	"strings"
	"testing"

	"ivypocket/core/geom"
	"ivypocket/core/scene"
	"ivypocket/core/sheet"
	"ivypocket/core/template"
)

// A new format keeps every pocket on its canvas, what filled a side fills it, and a twin
// in double size looks the same.
func TestNewFormatsKeepPocketsOnTheCanvas(t *testing.T) {
	rng := rand.New(rand.NewPCG(11, 12))
	canvases := [][2]float64{{1080, 1920}, {1080, 1080}, {3840, 2160}, {640, 360}, {1920, 800}, {600, 1600}}
	for round := range 40 {
		var list, pockets []string
		for i := range 6 {
			w, h := 60+rng.Float64()*1800, 60+rng.Float64()*1000
			x, y := (rng.Float64()-0.5)*(1920-w), (rng.Float64()-0.5)*(1080-h)
			list = append(list, fmt.Sprintf(`{"id": "v%d", "name": "V%d", "kind": "view", "pocket": "p%d", "place": [%.2f, %.2f], "size": [%.2f, %.2f], "radius": 12}`, i, i, i, x, y, w, h))
			pockets = append(pockets, fmt.Sprintf(`{"id": "p%d", "name": "P%d", "kinds": ["picture"]}`, i, i))
		}
		list = append(list, `{"id": "back", "name": "Back", "kind": "shape", "fill": "#ffffff", "size": [1920, 1080]}`,
			`{"id": "corner", "name": "Corner", "kind": "shape", "fill": "#ffffff", "anchor": "top left", "place": [40, 30], "size": [100, 50]}`)
		d := doc(t, strings.Join(list, ","), "", `, "pockets": [`+strings.Join(pockets, ",")+`]`)
		c := canvases[round%len(canvases)]
		next, _ := do(t, d, Act{Kind: "format-add", To: c, Name: "New"})
		all := stands(t, next, "new", 0)
		for id, s := range all {
			b := s.Box()
			if strings.HasPrefix(id, "v") && (b.X < -0.01 || b.Y < -0.01 || b.X+b.W > c[0]+0.01 || b.Y+b.H > c[1]+0.01 || b.W < 1 || b.H < 1) {
				t.Fatalf("round %d: %s stands at %v on %v", round, id, b, c)
			}
		}
		back, corner := all["back"], all["corner"]
		if b := back.Box(); math.Abs(b.W-c[0]) > 0.01 || math.Abs(b.H-c[1]) > 0.01 || math.Abs(b.X) > 0.01 {
			t.Errorf("what filled the canvas stands at %v on %v", b, c)
		}
		k := math.Min(c[0], c[1]) / 1080
		if b := corner.Box(); math.Abs(b.X-40*k) > 0.01 || math.Abs(b.Y-30*k) > 0.01 {
			t.Errorf("what counts from a corner stands at %v on %v", b, c)
		}
		if c[0]/c[1] == 1920.0/1080 { // a twin of another size
			for id, s := range stands(t, d, "wide", 0) {
				a, is := s.Box(), all[id]
				b := is.Box()
				if math.Abs(a.X*k-b.X) > 0.02 || math.Abs(a.W*k-b.W) > 0.02 || math.Abs(a.Y*k-b.Y) > 0.02 {
					t.Errorf("round %d: %s at %v became %v", round, id, a, b)
				}
			}
		}
	}
	// Cells in a row lie one under another on a tall canvas.
	d, _ := do(t, doc(t, "", "", ""), Act{Kind: "split", To: [2]float64{3, 1}, Numbers: map[string]float64{"gutter": 12}, Middle: true})
	next, _ := do(t, d, Act{Kind: "format-add", To: [2]float64{720, 1280}, Name: "Phone"})
	for id, s := range stands(t, next, "phone", 0) {
		if b := s.Box(); id != "backing" && (b.W != 720 || math.Abs(b.H-(1280-16)/3) > 0.5) {
			t.Errorf("the cell of %s is %v", id, b)
		}
	}
}

func TestBlankTemplates(t *testing.T) {
	d, err := Blank(shelf{}, Start{Name: "Gust, 2", Purpose: template.Transition, Rate: "29.97", Frames: 60, Canvases: [][2]int{{1920, 1080}, {1080, 1920}}})
	if err != nil {
		t.Fatal(err)
	}
	if d.ID != "gust-2" || d.Rate.N != 30000 || d.Rate.D != 1001 || len(d.Formats) != 2 || d.Formats[1].Name != "Vertical" || order(d) != "to-view from-view" {
		t.Errorf("%s", text(t, d))
	}
	// At rest each shows its clip's full picture.
	for id, s := range stands(t, d, "vertical", 0) {
		if b := s.Box(); b != (geom.Box{W: 1080, H: 1920}) {
			t.Errorf("%s stands at %v", id, b)
		}
	}
	// A frame takes its clip's canvas, rate and length.
	d, err = Blank(shelf{}, Start{Name: "Frame", Purpose: template.Frame, Rate: "25", Frames: 50, Canvases: [][2]int{{1920, 1080}}, Clip: clipHash, Take: true})
	if err != nil || d.Formats[0].Width != 1280 || d.Rate.N != 30000 || d.Frames != 300 || d.Pockets[0].StandIn.Media != clipHash || d.Pockets[0].Role != template.RoleClip {
		t.Errorf("%v: %+v", err, d)
	}
	for want, s := range map[string]Start{
		"name":      {Rate: "25", Frames: 1, Canvases: [][2]int{{16, 16}}},
		"rate":      {Name: "A", Rate: "fast", Frames: 1, Canvases: [][2]int{{16, 16}}},
		"canvases":  {Name: "A", Rate: "25", Frames: 1, Canvases: [][2]int{{15, 16}}},
		"frames: 0": {Name: "A", Rate: "25", Canvases: [][2]int{{16, 16}}},
		"clip":      {Name: "A", Rate: "25", Frames: 1, Canvases: [][2]int{{16, 16}}, Clip: "sha256:no"},
		"purpose":   {Name: "A", Rate: "25", Frames: 1, Canvases: [][2]int{{16, 16}}, Purpose: "fun"},
	} {
		if _, err := Blank(shelf{}, s); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%+v: %v, want %q", s, err, want)
		}
	}
}

// A format that was there from the start is laid out like another at a wish, as a new one
// would be; what it had of its own goes.
func TestAFormatIsLaidOutLikeAnother(t *testing.T) {
	d := doc(t, `{"id": "s", "name": "S", "kind": "shape", "fill": "#102030", "size": [400, 200], "place": [-700, 0]},
		{"id": "back", "name": "Back", "kind": "shape", "fill": "#ffffff", "size": [1920, 1080]}`, `"layers/s/fill": "#ff0000"`, "")
	laid, p := do(t, d, Act{Kind: "format-lay", Id: "tall", Into: "wide"})
	fresh, _ := do(t, d, Act{Kind: "format-add", Id: "wide", To: [2]float64{1080, 1920}, Name: "New"})
	a, b := stands(t, laid, "tall", 0), stands(t, fresh, "new", 0)
	for id := range a {
		if quad(a[id]) != quad(b[id]) {
			t.Errorf("%s is %v, in a new format %v", id, quad(a[id]), quad(b[id]))
		}
	}
	if _, own := laid.Format("tall").Rest["layers/s/fill"]; own || p.Op.Title != "Lay Tall out like Wide" {
		t.Errorf("%v after %s", laid.Format("tall").Rest, p.Op.Title)
	}
	for _, a := range []Act{{Id: "tall", Into: "tall"}, {Id: "no", Into: "wide"}, {Id: "tall"}} {
		a.Kind, a.Format = "format-lay", "wide"
		if _, err := Do(d, shelf{}, a); err == nil {
			t.Errorf("%+v is laid out", a)
		}
	}
}

// Motifs come along: what is in them is of the new size in every use, and cells in them
// change places with the others.
func TestMotifsAreLaidOutToo(t *testing.T) {
	d, _ := do(t, doc(t, gulls, "", ""), Act{Kind: "motif", Layers: []string{"gull"}})
	d, p := do(t, d, Act{Kind: "insert", Way: "use", Id: d.Motifs[0].ID})
	d, _ = do(t, d, Act{Kind: "place", Layers: p.Chosen, To: [2]float64{300, -100}})
	next, _ := do(t, d, Act{Kind: "format-add", To: [2]float64{640, 360}, Name: "Small"})
	was, is := stands(t, d, "wide", 45), stands(t, next, "small", 45)
	for id, s := range was {
		a, small := s.Box(), is[id]
		if b := small.Box(); math.Abs(a.W/3-b.W) > 0.02 || math.Abs(a.X/3-b.X) > 0.02 || math.Abs(a.H/3-b.H) > 0.02 {
			t.Errorf("%s at %v became %v", id, a, b)
		}
	}
	split := begun(t, "split", map[string]float64{"columns": 3, "rows": 1})
	split, p = do(t, split, Act{Kind: "group", Layers: []string{"split-cell-1-2", "split-cell-1-3"}})
	split, _ = do(t, split, Act{Kind: "motif", Layers: p.Chosen})
	laid, _ := do(t, split, Act{Kind: "format-lay", Id: "landscape", Into: "vertical"})
	if _, err := laid.Expanded(); err != nil {
		t.Fatal(err)
	}
	for id, s := range stands(t, split, "landscape", 0) {
		now := stands(t, laid, "landscape", 0)[id]
		if quad(s) != quad(now) {
			t.Errorf("laid out like its twin that is turned, %s went from %v to %v", id, s.Box(), now.Box())
		}
	}
}

// A duplicate of a format is as that is, to the number, and stands beside it.
func TestADuplicateOfAFormatIsAsThatIs(t *testing.T) {
	d := doc(t, `{"id": "s", "name": "S", "kind": "shape", "fill": "#102030", "size": [100, 200]}`, `"layers/s/size": [300, 40]`, "")
	d, _ = do(t, d, Act{Kind: "format-copy", Id: "tall"})
	if len(d.Formats) != 3 || d.Formats[2].Name != "Tall 2" || d.Formats[2].ID != "tall-2" {
		t.Fatalf("%+v", d.Formats)
	}
	if a, b := stands(t, d, "tall", 0)["s"], stands(t, d, "tall-2", 0)["s"]; quad(a) != quad(b) {
		t.Errorf("%v is not %v", a.Box(), b.Box())
	}
	d, _ = do(t, d, Act{Kind: "format-copy", Id: "wide"})
	if d.Formats[1].Name != "Wide 2" {
		t.Errorf("%+v", d.Formats)
	}
	if _, err := Do(d, shelf{}, Act{Kind: "format-copy", Id: "none"}); err == nil {
		t.Error("a format that is not there is duplicated")
	}
}

// A format that nobody has laid out is told by the layers that lie off its canvas and on
// another's; laying it out like that one settles it. One that lies off all canvases is meant
// to.
func TestFormatsThatAreNotLaidOutAreTold(t *testing.T) {
	d := doc(t, `{"id": "left", "name": "Left", "kind": "shape", "fill": "#c01030", "place": [-800, 0], "size": [200, 200]},
		{"id": "mid", "name": "Mid", "kind": "shape", "fill": "#c01030", "size": [1400, 200]},
		{"id": "away", "name": "Away", "kind": "shape", "fill": "#c01030", "place": [-2000, 0], "size": [200, 200]},
		{"id": "gone", "name": "Gone", "kind": "shape", "fill": "#c01030", "place": [-800, 0], "size": [200, 200], "hidden": true}`, "", "")
	astray := func(d *template.Document) map[string]Stray {
		scenes := map[string]*scene.Scene{}
		for _, f := range d.Formats {
			sc, err := scene.Compile(&sheet.Resolved{Doc: d, Values: sheet.Values{}}, f.ID, shelf{})
			if err != nil {
				t.Fatal(err)
			}
			scenes[f.ID] = sc
		}
		return Astray(scenes)
	}
	got := astray(d)
	if s := got["tall"]; len(got) != 1 || s.Like != "wide" || strings.Join(s.Layers, " ") != "left" {
		t.Fatalf("astray are %v", got)
	}
	laid, _ := do(t, d, Act{Kind: "format-lay", Id: "tall", Into: got["tall"].Like})
	if got := astray(laid); len(got) != 0 {
		t.Errorf("laid out, astray are %v", got)
	}
}
