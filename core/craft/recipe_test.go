package craft

import (
	"maps"
	"math"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"ivypocket/core/geom"
	"ivypocket/core/recipe"
	"ivypocket/core/scene"
	"ivypocket/core/scheme"
	"ivypocket/core/sheet"
	"ivypocket/core/template"
	"ivypocket/core/timing"
)

// begun is a new document of two formats that begins with a recipe.
func begun(t testing.TB, kind string, numbers map[string]float64) *template.Document {
	t.Helper()
	d, err := Blank(shelf{}, Start{Name: "Slides", Category: "Harbour", Rate: "25", Frames: 120, Recipe: kind, Numbers: numbers,
		Canvases: [][2]int{{1920, 1080}, {1080, 1920}}})
	if err != nil {
		t.Fatalf("%s of %v: %v", kind, numbers, err)
	}
	return d
}

// some are numbers within a recipe's limits, no more of anything than a few above its least.
func some(rng *rand.Rand, r *recipe.Recipe, few float64) map[string]float64 {
	out := map[string]float64{}
	for _, n := range r.Numbers {
		out[n.Name] = n.Least + float64(rng.IntN(int(min(n.Most, n.Least+few)-n.Least)+1))
	}
	return out
}

// What a recipe builds is a whole document that can be drawn in all its formats, and
// changing its numbers comes to what building from them does.
func TestChangingARecipesNumbersComesToBuildingFromThem(t *testing.T) {
	rng := rand.New(rand.NewPCG(31, 32))
	for _, r := range recipe.All() {
		for range 30 {
			from, to := some(rng, r, 20), some(rng, r, 20)
			d := begun(t, r.Kind, from)
			if err := d.Validate(); err != nil {
				t.Fatalf("%s of %v: %v", r.Kind, from, err)
			}
			for _, f := range d.Formats {
				sc, err := scene.Compile(&sheet.Resolved{Doc: d, Values: sheet.Values{}}, f.ID, shelf{})
				if err != nil {
					t.Fatalf("%s of %v in %s: %v", r.Kind, from, f.ID, err)
				}
				for n := range sc.Frames() {
					sc.Standings(sc.Time().At(timing.OutputFrame(n)))
				}
			}
			next, plan := do(t, d, Act{Kind: "recipe", Id: r.Kind, Numbers: to})
			if got, want := text(t, next), text(t, begun(t, r.Kind, to)); got != want {
				t.Fatalf("%s from %v to %v:\n%s\nbuilt from them:\n%s\nby %+v", r.Kind, from, to, got, want, plan.Op)
			}
			// And the same numbers once more change nothing.
			if same, p := do(t, next, Act{Kind: "recipe", Id: r.Kind, Numbers: to}); text(t, same) != text(t, next) {
				t.Fatalf("%s: the same numbers again change it by %+v", r.Kind, p.Op)
			}
		}
	}
}

// What was done by hand to what a recipe built is still so when a number changes.
func TestARecipesNumbersLeaveWhatWasDoneByHand(t *testing.T) {
	d := begun(t, "split", nil)
	sky := scheme.Says("#88aacc")
	d, _ = do(t, d, Act{Kind: "rest", Path: "layers/split-backing/fill", Value: &sky})
	d, _ = do(t, d, Act{Kind: "rename", Path: "layers/split-cell-1-1", Name: "Harbour"})
	d, _ = do(t, d, Act{Kind: "rename", Path: "pockets/split-pocket-1-1", Name: "Harbour"})
	d, _ = do(t, d, Act{Kind: "discard", Layers: []string{"split-cell-2-2"}})
	d, _ = do(t, d, Act{Kind: "insert", Way: "shape", Path: "star", Layers: []string{"split-cell-1-1"}})
	d, _ = do(t, d, Act{Kind: "group", Layers: []string{"split-cell-1-2"}})
	d, _ = do(t, d, Act{Kind: "recipe", Id: "split", Numbers: map[string]float64{"columns": 4, "gutter": 4}})
	if got := d.Layer("split-backing").Text(scheme.Fill); got != "#88aacc" {
		t.Errorf("the border's colour is %s again", got)
	}
	if d.Layer("split-cell-1-1").Name != "Harbour" || d.Pocket("split-pocket-1-1").Name != "Harbour" {
		t.Errorf("what was called Harbour is %s in %s", d.Layer("split-cell-1-1").Name, d.Pocket("split-pocket-1-1").Name)
	}
	if d.Layer("split-cell-2-1").Name != "Row 2, column 1" {
		t.Errorf("with four columns a cell is called %s", d.Layer("split-cell-2-1").Name)
	}
	if d.Layer("split-cell-2-2") != nil {
		t.Error("what was deleted is there again")
	}
	if d.Layer("split-cell-1-3") == nil || d.Layer("split-cell-2-3") == nil || d.Layer("star") == nil {
		t.Error("a cell of the new column, or the star, is missing")
	}
	if v, _, _ := d.Get("layouts/split-cells/gutter"); v.String() != "4vmin" {
		t.Errorf("the gutter is %v", v)
	}
	// A cell that was put into a group has its new neighbour there, above it.
	if into, at := (&bench{doc: d}).parentOf("split-cell-1-3"); into == "layers" || at != 1 {
		t.Errorf("the new cell is in %s at %d", into, at)
	}
	// Another recipe of the kind has ids of its own, and so has what somebody names alike.
	d, _ = do(t, d, Act{Kind: "recipe", Way: "split"})
	d, _ = do(t, d, Act{Kind: "insert", Way: "ground", Name: "Split cell 9"})
	if len(d.Recipes) != 2 || d.Recipes[1].ID != "split-2" || d.Layer("split-2-cell-1-1") == nil || d.Layer("own-split-cell-9") == nil {
		t.Errorf("recipes %+v", d.Recipes)
	}
	if err := d.Sound(); err != nil {
		t.Error(err)
	}
}

// Keys move with the numbers; how they lead from one to the next stays as somebody made
// it, and motion that was taken away stays away.
func TestARecipesKeysMoveAndKeepTheirEase(t *testing.T) {
	d := begun(t, "panels", map[string]float64{"panels": 2, "begin": 10})
	m := *d.Layer("panels-panel-1").Motion["place"]
	m.Keys = slices.Clone(m.Keys)
	m.Keys[0].Ease = nil
	m.Keys[0].Hold = true
	d, _ = do(t, d, Act{Kind: "keys", Path: "layers/panels-panel-1/place", Move: &m})
	d, _ = do(t, d, Act{Kind: "keys", Path: "layers/panels-panel-2/place"})
	d, _ = do(t, d, Act{Kind: "recipe", Id: "panels", Numbers: map[string]float64{"begin": 20}})
	now := d.Layer("panels-panel-1").Motion["place"].Keys
	if now[0].At.Float() != 20 || now[1].At.Float() != 34 || !now[0].Hold || now[0].Ease != nil || now[2].Ease == nil {
		t.Errorf("the keys are %+v", now)
	}
	if d.Layer("panels-panel-2").Motion["place"] != nil {
		t.Error("the second panel moves again")
	}
	if d.Recipes[0].Numbers["begin"] != 20 || d.Recipes[0].Numbers["panels"] != 2 {
		t.Errorf("the numbers are %v", d.Recipes[0].Numbers)
	}
	// At another length, the recipe without new numbers is built for that.
	d, _ = do(t, d, Act{Kind: "time", At: 60, Way: "keep"})
	d, _ = do(t, d, Act{Kind: "recipe", Id: "panels"})
	if d.Recipes[0].Frames != d.Frames {
		t.Errorf("built for %d frames; there are %d", d.Recipes[0].Frames, d.Frames)
	}
}

// What a number takes away goes with all that speaks of it, except what others show or a
// formula reads; what is locked is not changed.
func TestWhatARecipeTakesAwayGoesWhole(t *testing.T) {
	d := begun(t, "montage", map[string]float64{"pictures": 4})
	d, _ = do(t, d, Act{Kind: "offer", Paths: []string{"pockets/montage-pocket-picture-4/framing.zoom"}, Group: "more"})
	d, _ = do(t, d, Act{Kind: "sew", Id: "montage-pocket-picture-3"})
	d, _ = do(t, d, Act{Kind: "recipe", Id: "montage", Numbers: map[string]float64{"pictures": 2}})
	if d.Layer("montage-picture-3") != nil || d.Pocket("montage-pocket-picture-4") != nil || d.Pocket("montage-pocket-picture-3") == nil {
		t.Error("the 3rd layer and the 4th pocket go, the 3rd pocket is shown elsewhere and stays")
	}
	for _, e := range d.Sheet.Entries() {
		for _, tie := range e.Ties {
			if strings.Contains(tie.To, "picture-4") {
				t.Errorf("%s is still driven", tie.To)
			}
		}
	}
	on := scheme.Is(true)
	d, _ = do(t, d, Act{Kind: "mark", Layers: []string{"montage-picture-1"}, Path: "locked", Value: &on})
	_, err := Do(d, shelf{}, Act{Kind: "recipe", Id: "montage", Format: "landscape", Numbers: map[string]float64{"fade": 30}})
	if err == nil || !strings.Contains(err.Error(), "locked") {
		t.Errorf("a locked picture gets another fade: %v", err)
	}
	on = scheme.Is(false)
	d, _ = do(t, d, Act{Kind: "mark", Layers: []string{"montage-picture-1"}, Path: "locked", Value: &on})
	// What somebody made something else of is theirs.
	shape, _ := do(t, d, Act{Kind: "unpick", Layers: []string{"montage-picture-2"}})
	if shape, _ = do(t, shape, Act{Kind: "recipe", Id: "montage", Numbers: map[string]float64{"drift": 40}}); shape.Layer("montage-picture-2").Kind != scheme.Shape {
		t.Error("a shape shows a pocket again")
	}
	ring, _ := do(t, begun(t, "card", nil), Act{Kind: "sew", Layers: []string{"card-ring"}})
	if ring, _ = do(t, ring, Act{Kind: "recipe", Id: "card", Numbers: map[string]float64{"ring": 4}}); ring.Layer("card-ring").Kind != scheme.View {
		t.Error("a pocket is a ring again")
	}
	before := maps.Clone(d.Recipes[0].Numbers)
	for _, a := range []Act{{Way: "soup"}, {Id: "soup"}, {Id: "montage", Numbers: map[string]float64{"pictures": 99}},
		{Way: "card", Numbers: map[string]float64{"salt": 1}}} {
		a.Kind, a.Format = "recipe", "landscape"
		if _, err := Do(d, shelf{}, a); err == nil {
			t.Errorf("%+v is cooked", a)
		}
	}
	if !maps.Equal(before, d.Recipes[0].Numbers) {
		t.Error("a recipe that was refused changed the numbers")
	}
	// With the last of its layers it goes.
	if none, _ := do(t, d, Act{Kind: "discard", Layers: []string{"montage-picture-1", "montage-picture-2"}}); len(none.Recipes) != 0 {
		t.Errorf("%+v is left of nothing", none.Recipes)
	}
	d, _ = do(t, d, Act{Kind: "recipe-forget", Id: "montage"})
	if len(d.Recipes) != 0 || d.Layer("montage-picture-1") == nil {
		t.Error("a recipe that is let go leaves its layers")
	}
}

// Cells are divided and merged in all formats at once, also where rows and columns have
// changed places; what lies beside them stays where it was.
func TestCellsAreDividedWhereRowsAndColumnsChangePlaces(t *testing.T) {
	d := begun(t, "split", map[string]float64{"columns": 3, "rows": 1, "gutter": 2})
	all := func(d *template.Document, f string) map[string]scene.Standing { return stands(t, d, f, 0) }
	for _, f := range []string{"landscape", "vertical"} {
		way := map[string]string{"landscape": "columns", "vertical": "rows"}[f]
		next, p := do(t, d, Act{Kind: "divide", Format: f, Layers: []string{"split-cell-1-2"}, Way: way, To: [2]float64{2}})
		made := ""
		for id := range all(next, f) {
			if d.Layer(id) == nil {
				made = id
			}
		}
		for _, g := range []string{"landscape", "vertical"} {
			was, is := all(d, g), all(next, g)
			for id, s := range was {
				if a, b := s.Box(), is[id]; id != "split-cell-1-2" && !near(a.Centre(), boxOf(b).Centre(), 0.2) {
					t.Errorf("divided in %s, %s went in %s from %v to %v", f, id, g, a, b.Box())
				}
			}
			old, one, two := boxOf(was["split-cell-1-2"]), boxOf(is["split-cell-1-2"]), boxOf(is[made])
			side, other := [2]float64{one.W, two.W}, old.W
			if g == "vertical" {
				side, other = [2]float64{one.H, two.H}, old.H
			}
			if math.Abs(side[0]-side[1]) > 0.2 || math.Abs(side[0]*2+21.6-other) > 0.3 {
				t.Errorf("divided in %s, the halves are %v in %s of what was %g", f, side, g, other)
			}
		}
		if p.Op.Title != "Divide Row 1, column 2 into 2" && p.Op.Title != "Divide Centre into 2" && p.Op.Title != "Divide Middle into 2" {
			t.Errorf("it is called %s", p.Op.Title)
		}
		// And made one again, all is as it was.
		back, _ := do(t, next, Act{Kind: "merge", Format: f, Layers: []string{"split-cell-1-2", made}})
		for _, g := range []string{"landscape", "vertical"} {
			was, is := all(d, g), all(back, g)
			for id, s := range was {
				if a, b := s.Box(), boxOf(is[id]); !near(a.Centre(), b.Centre(), 0.2) || math.Abs(a.W-b.W) > 0.3 || math.Abs(a.H-b.H) > 0.3 {
					t.Errorf("merged in %s, %s stands in %s at %v, before at %v", f, id, g, b, a)
				}
			}
		}
	}
}

func boxOf(s scene.Standing) geom.Box { return s.Box() }
