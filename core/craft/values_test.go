package craft

import (
	"fmt"
	"math"
	"testing"

	"ivypocket/core/scene"
	"ivypocket/core/scheme"
	"ivypocket/core/sheet"
	"ivypocket/core/template"
)

// What goes with a value comes along with it, and goes with it.
func TestValuesComeInCompany(t *testing.T) {
	d := doc(t, `{"id": "s", "name": "S", "kind": "shape", "fill": "#102030", "size": [100, 100], "radius": 9, "motion": {"radius": {"keys": [{"at": 0, "value": 0}, {"at": 9, "value": 2}]}}},
		{"id": "m", "name": "M", "kind": "shape", "fill": "#ffffff", "size": [10, 10]}`, `"layers/s/radius": 3`, "")
	set := func(d *template.Document, name, value string) *template.Document {
		t.Helper()
		a := Act{Kind: "rest", Path: "layers/s/" + name}
		if value != "" {
			v := scheme.Says(value)
			a.Value = &v
		}
		next, _ := do(t, d, a)
		if _, err := scene.Compile(&sheet.Resolved{Doc: next, Values: sheet.Values{}}, "wide", shelf{}); err != nil {
			t.Fatal(err)
		}
		pixels(t, next, "wide", 5)
		return next
	}
	star := set(d, "form.kind", "star")
	if y := star.Layer("s"); y.Number(scheme.LayerForm.Sides) != 6 || y.Given(scheme.Radius) || len(y.Motion) > 0 || len(star.Format("tall").Rest) > 0 {
		t.Errorf("a star: %s", text(t, star))
	}
	if y := set(star, "form.kind", "rectangle").Layer("s"); y.Given(scheme.LayerForm.Sides) {
		t.Error("a rectangle with sides")
	}
	if y := set(d, "stroke.colour", "#ffffff").Layer("s"); y.Number(scheme.StrokeWidth) != 4 {
		t.Error("a stroke without a width")
	}
	graded := set(d, "gradient.kind", "radial")
	if y := graded.Layer("s"); len(y.Stops()) != 2 || y.Given(scheme.Fill) || !y.Given(scheme.GradientTo) {
		t.Errorf("a gradient: %s", text(t, graded))
	}
	if y := set(graded, "gradient.kind", "").Layer("s"); len(y.Stops()) != 0 || y.Given(scheme.GradientFrom) {
		t.Error("stops of no gradient")
	}
	if y := set(d, "matte.layer", "m").Layer("s"); y.Text(scheme.MatteOf) != "alpha" {
		t.Error("a matte of nothing")
	}
	set(d, "form.kind", "path")
	seven := scheme.One(7)
	many, _ := do(t, d, Act{Kind: "rest", Path: "layers/s/copies.count", Value: &seven})
	if y := many.Layer("s"); !y.Given(scheme.CopiesSpread) || y.Given(scheme.CopiesTurn) {
		t.Errorf("seven copies lie on one another: %s", text(t, many))
	}
	none := scheme.Many(0, 0)
	many, _ = do(t, many, Act{Kind: "rest", Path: "layers/s/copies.spread", Value: &none})
	many, _ = do(t, many, Act{Kind: "rest", Path: "layers/s/copies.count", Value: &seven})
	if v, _, _ := many.Get("layers/s/copies.spread"); !v.Equal(none) {
		t.Error("a spread that somebody set goes when the number of copies changes")
	}
	many, _ = do(t, many, Act{Kind: "rest", Path: "layers/s/copies.spread"})
	if many, _ = do(t, many, Act{Kind: "rest", Path: "layers/s/copies.count", Value: &seven}); many.Layer("s").Given(scheme.CopiesSpread) {
		t.Error("a spread that somebody left out comes back")
	}
}

// A new length leaves what stands where it is, or brings it along; a new rate leaves it
// at its second. 20 frames of 300 at 30 frames a second are 0.667 s (from references).
func TestLengthAndRate(t *testing.T) {
	d := doc(t, `{"id": "s", "name": "S", "kind": "shape", "fill": "#102030", "in": 10, "out": 90, "motion": {"turn": {"keys": [{"at": 0, "value": 0}, {"at": 20, "value": 9}]}}}`, "",
		`, "cues": [{"id": "poster", "name": "Poster", "at": 50}], "spans": [{"kind": "held", "from": 0, "to": 20}, {"kind": "elastic", "from": 20, "to": 100}]`)
	for _, c := range []struct {
		a    Act
		want string
	}{
		{Act{Kind: "time", At: 200}, "200: 10 90 20 50 20 100"},
		{Act{Kind: "time", At: 200, Way: "stretch"}, "200: 20 180 40 100 40 200"},
		{Act{Kind: "time", At: 40}, "40: 10 40 20 39 20 40"},
		{Act{Kind: "time", Name: "50"}, "200: 20 180 40 100 40 200"},
		{Act{Kind: "time", Name: "50", At: 100}, "100: 20 100 40 99 40 100"},
	} {
		next, _ := do(t, d, c.a)
		y := next.Layer("s")
		in, out := y.Trim(next)
		got := fmt.Sprintf("%d: %s %s %s %s %d %d", next.Frames, in, out, y.Motion["turn"].Keys[1].At, next.Cues[0].At, next.Spans[0].To, next.Spans[1].To)
		if got != c.want {
			t.Errorf("%+v: %s, want %s", c.a, got, c.want)
		}
	}
}

// A length that is written in shares of the shorter side stays so when a number of px is
// set, a new one is written so where canvases differ in size, and units change without
// the picture of the canvas that is looked at.
func TestLengthsKeepTheirUnits(t *testing.T) {
	d := doc(t, `{"id": "s", "name": "S", "kind": "shape", "fill": "#102030", "size": ["25vmin", 200], "place": [108, 54], "masks": [{"id": "m", "form": {"kind": "ellipse"}, "feather": 27}]}`, "",
		`, "layouts": [{"id": "l", "kind": "split", "rows": [1], "columns": [1, 1], "gutter": "2vmin", "gutterBy": "shrink"}]`)
	says := func(d *template.Document, path, want string) {
		t.Helper()
		if v, _, err := d.Get(path); err != nil || v.String() != want {
			t.Errorf("%s is %v, %v; want %s", path, v, err, want)
		}
	}
	two, one := scheme.Many(540, 300), scheme.One(21.6)
	d, _ = do(t, d, Act{Kind: "rest", Path: "layers/s/size", Value: &two})
	says(d, "layers/s/size", `50vmin, 300`)
	part := scheme.One(270)
	d, _ = do(t, d, Act{Kind: "rest", Path: "layers/s/size.x", Value: &part})
	says(d, "layers/s/size", `25vmin, 300`)
	d, _ = do(t, d, Act{Kind: "rest", Path: "layouts/l/gutter", Value: &one})
	says(d, "layouts/l/gutter", `2vmin`)
	d, _ = do(t, d, Act{Kind: "rest", Path: "layers/s/radius", Value: &one})
	says(d, "layers/s/radius", `21.6`) // both canvases have a shorter side of 1080

	before := stands(t, d, "wide", 0)["s"]
	d, p := do(t, d, Act{Kind: "unit", Layers: []string{"s"}, Way: "share"})
	says(d, "layers/s/size", `25vmin, 27.77778vmin`)
	says(d, "layers/s/place", `10vmin, 5vmin`)
	says(d, "layers/s/masks/m/feather", `2.5vmin`)
	if after := stands(t, d, "wide", 0)["s"]; math.Abs(after.Box().Y-before.Box().Y) > 1e-4 || math.Abs(after.Box().H-before.Box().H) > 1e-4 {
		t.Errorf("it stands at %v, before at %v", after.Box(), before.Box())
	}
	if p.Op.Title != "Lengths in shares of S" {
		t.Errorf("it is called %q", p.Op.Title)
	}
	d, _ = do(t, d, Act{Kind: "unit", Path: "layers/s/size", Way: "px"})
	says(d, "layers/s/size", `270, 300`)
	for _, a := range []Act{{Path: "layers/s/fill", Way: "px"}, {Path: "layers/s/opacity", Way: "px"}, {Path: "layers/s/size", Way: "em"}, {Way: "px"}, {Path: "layers/no/size", Way: "px"}} {
		a.Kind, a.Format = "unit", "wide"
		if _, err := Do(d, shelf{}, a); err == nil {
			t.Errorf("%+v is written otherwise", a)
		}
	}
	// What comes in shares is kept so, and what a format has of its own in its own unit.
	ten := scheme.Many(10, 10)
	ten.Shorter = 3
	d, _ = do(t, d, Act{Kind: "rest", Path: "layers/s/size", Value: &ten})
	says(d, "layers/s/size", "10vmin, 10vmin")
	apart := scheme.Many(50, 60)
	d, _ = do(t, d, Act{Kind: "unit", Path: "layers/s/place", Way: "px"})
	d, _ = do(t, d, Act{Kind: "rest", Path: "layers/s/place", Value: &apart, Format: "tall", Apart: true})
	d, _ = do(t, d, Act{Kind: "unit", Path: "layers/s/place", Way: "share", Format: "wide"})
	d, _ = do(t, d, Act{Kind: "rest", Path: "layers/s/place", Value: &apart, Format: "tall", Apart: true})
	if v := d.Format("tall").Rest["layers/s/place"]; v.String() != "50, 60" {
		t.Errorf("the tall format's own place is %v", v)
	}
	// A format that has its own value has that one written otherwise too.
	own := scheme.Many(108, 108)
	d, _ = do(t, d, Act{Kind: "rest", Path: "layers/s/size", Value: &own, Format: "tall", Apart: true})
	d, _ = do(t, d, Act{Kind: "unit", Path: "layers/s/size", Way: "share", Format: "tall"})
	if v := d.Format("tall").Rest["layers/s/size"]; v.String() != `10vmin, 10vmin` {
		t.Errorf("in the tall format it is %v", v)
	}
}
