package craft

import (
	"math"
	"strings"
	"testing"

	"ivypocket/core/geom"
	"ivypocket/core/scheme"
)

// A camera is moved, zoomed and turned by points of the picture that it moves: the point that is dragged comes
// to lie under the pointer. In a turned group it goes by the group.
func TestACameraIsFilmedByItsPicture(t *testing.T) {
	first := doc(t, `{"id": "p", "name": "P", "kind": "shape", "fill": "#102030", "size": [100, 100], "place": [200, 100]},
		{"id": "g", "name": "G", "kind": "group", "size": [800, 600], "turn": 90, "layers": [{"id": "q", "name": "Q", "kind": "shape", "fill": "#102030", "size": [10, 10]}, {"id": "inner", "name": "Inner", "kind": "camera"}]},
		{"id": "cam", "name": "Camera", "kind": "camera", "scale": 1.5, "turn": 10, "motion": {"turn": {"keys": [{"at": 0, "value": 0}, {"at": 50, "value": 20}]}}}`, "", "")
	corner := func(d any, q [4]geom.Point) geom.Point { return q[0] }
	for _, c := range []struct {
		name string
		a    Act
		want func(from geom.Point) geom.Point
	}{
		{"move", Act{Way: "move", To: [2]float64{60, -30}}, func(p geom.Point) geom.Point { return geom.Point{X: p.X + 60, Y: p.Y - 30} }},
		{"turn", Act{Way: "turn"}, nil}, {"zoom", Act{Way: "zoom"}, nil},
	} {
		was := corner(first, quad(stands(t, first, "wide", 25)["p"]))
		about := geom.Point{X: 960, Y: 540}
		a := c.a
		a.Kind, a.Layers, a.Frame, a.Format = "film", []string{"cam"}, 25, "wide"
		a.From = [2]float64{was.X, was.Y}
		to := geom.Point{}
		switch c.name {
		case "move":
			to = c.want(was)
		case "turn":
			rad := 30 * math.Pi / 180
			v := geom.Point{X: was.X - about.X, Y: was.Y - about.Y}
			to = geom.Point{X: about.X + v.X*math.Cos(rad) - v.Y*math.Sin(rad), Y: about.Y + v.X*math.Sin(rad) + v.Y*math.Cos(rad)}
		case "zoom":
			to = geom.Point{X: about.X + (was.X-about.X)*1.25, Y: about.Y + (was.Y-about.Y)*1.25}
		}
		a.To = [2]float64{to.X, to.Y}
		d, plan := do(t, first, a)
		if is := corner(d, quad(stands(t, d, "wide", 25)["p"])); !near(is, to, 0.01) {
			t.Errorf("%s: it lies at %v, want %v", c.name, is, to)
		}
		undone(t, first, plan)
		// While keys are recorded it is a key.
		a.Record = true
		rec, _ := do(t, first, a)
		if is := corner(rec, quad(stands(t, rec, "wide", 25)["p"])); !near(is, to, 0.01) || len(rec.Layer("cam").Motion) == 0 {
			t.Errorf("%s recorded: it lies at %v, want %v", c.name, is, to)
		}
	}
	d, _ := do(t, first, Act{Kind: "film", Layers: []string{"inner"}, Way: "move", From: [2]float64{960, 540}, To: [2]float64{1000, 540}})
	if p := d.Layer("inner").Get(scheme.Place); math.Abs(math.Hypot(p.Numbers[0], p.Numbers[1])-40/1.5) > 0.01 || math.Abs(p.Numbers[1]) < 26 {
		t.Errorf("in a group turned by 90° it is moved by %v", p.Numbers)
	}
	for _, bad := range []struct {
		a    Act
		says string
	}{{Act{Layers: []string{"p"}, Way: "move"}, "choose one camera"}, {Act{Layers: []string{"cam"}, Way: "odd"}, "move, zoom, turn"}, {Act{Layers: []string{"cam"}, Way: "zoom", From: [2]float64{960, 540}}, "middle"}} {
		bad.a.Kind, bad.a.Format = "film", "wide"
		if _, err := Do(first, shelf{}, bad.a); err == nil || !strings.Contains(err.Error(), bad.says) {
			t.Errorf("%+v: %v", bad.a, err)
		}
	}
	out, _ := do(t, first, Act{Kind: "film", Layers: []string{"cam"}, Way: "zoom", From: [2]float64{970, 540}, To: [2]float64{960, 540}})
	if s := out.Layer("cam").Get(scheme.Scale).Number(); s != 0.01 {
		t.Errorf("zoomed out as far as it goes it is %g", s)
	}
}
