package raster

import (
	"math"
	"testing"

	"ivypocket/core/geom"
)

// sampled is the share of a pixel of which n×n points lie inside.
func sampled(px, py, n int, inside func(x, y float64) bool) int {
	k := 0
	for i := range n {
		for j := range n {
			if inside(float64(px)+(float64(i)+0.5)/float64(n), float64(py)+(float64(j)+0.5)/float64(n)) {
				k++
			}
		}
	}
	return (k*255 + n*n/2) / (n * n)
}

// Edges, turned, skewed and curved, cover each pixel by the exact area within
// it: elementary geometry, by counting points, to 6/255.
func TestEdgesCoverTheirExactArea(t *testing.T) {
	const w, h = 200, 160
	type placed struct {
		name   string
		form   geom.Form
		m      geom.Affine
		inside func(x, y float64) bool // in the form's own box
	}
	box := geom.Size{W: 120, H: 90}
	about := geom.Translate(-60, -45)
	rect := func(x, y float64) bool { return x >= 0 && y >= 0 && x <= 120 && y <= 90 }
	oval := func(x, y float64) bool { return math.Hypot((x-60)/60, (y-45)/45) <= 1 }
	var f Filler
	for _, c := range []placed{
		{"a turned rectangle", geom.Form{Kind: geom.Rectangle, Size: box}, about.Then(geom.Rotate(29)).Then(geom.Translate(100.3, 80.7)), rect},
		{"a rectangle turned by little", geom.Form{Kind: geom.Rectangle, Size: box}, about.Then(geom.Rotate(0.4)).Then(geom.Translate(100, 80.5)), rect},
		{"a skewed rectangle", geom.Form{Kind: geom.Rectangle, Size: box}, about.Then(geom.Affine{A: 1, C: 0.3, D: 1}).Then(geom.Translate(99.2, 80.1)), rect},
		{"an ellipse", geom.Form{Kind: geom.Ellipse, Size: box}, about.Then(geom.Rotate(17)).Then(geom.Translate(100.5, 79.6)), oval},
		{"one that runs out of the picture", geom.Form{Kind: geom.Ellipse, Size: box}, about.Then(geom.Scale(2.1, 2.1)).Then(geom.Translate(20, 90)), oval},
	} {
		inv, ok := c.m.Invert()
		if !ok {
			t.Fatal(c.name)
		}
		var p Coverage
		f.Fill(&p, &c.form, c.m.Flat(), geom.Box{W: w, H: h}, w, h)
		worst := 0
		for y := range h {
			for x := range w {
				n := 64
				if v := p.At(x, y); v == 0 || v == 255 {
					n = 8
				}
				want := sampled(x, y, n, func(x, y float64) bool { q := inv.Apply(geom.Point{X: x, Y: y}); return c.inside(q.X, q.Y) })
				if d := int(p.At(x, y)) - want; max(d, -d) > worst {
					worst = max(d, -d)
				}
			}
		}
		if worst > 6 {
			t.Errorf("%s: a pixel is off by %d/255", c.name, worst)
		}
	}
}

// An edge that drifts by a 64th of a pixel a frame gets no pixel lighter on its
// way, and darkens each by steps of no more than a 16th.
func TestADriftingEdgeChangesMonotonically(t *testing.T) {
	for name, m := range map[string]geom.Affine{"upright": geom.Identity, "turned": geom.Rotate(7)} {
		var f Filler
		var before, now Coverage
		form := geom.Form{Kind: geom.Rectangle, Size: geom.Size{W: 40, H: 200}}
		for step := range 200 {
			at := m.Then(geom.Translate(-20+float64(step)/64, -60))
			f.Fill(&now, &form, at.Flat(), geom.Box{W: 60, H: 60}, 60, 60)
			for y := 10; y < 50; y++ {
				for x := range 60 {
					if b, a := int(before.At(x, y)), int(now.At(x, y)); step > 0 && x > 15 && (a < b || a > b+16) {
						t.Fatalf("%s, step %d, (%d, %d): %d after %d", name, step, x, y, a, b)
					}
				}
			}
			now.Copy(&before)
		}
	}
}

// A line along a circle is a ring; where it is wider than the circle there is no
// hole in it. Counted points again.
func TestLinesAlongTightCurvesCoverTheirArea(t *testing.T) {
	for _, c := range []struct{ radius, width float64 }{{30, 10}, {8, 12}, {6, 11.5}, {5, 16}} {
		var f Filler
		var p Coverage
		form := geom.Form{Kind: geom.Ellipse, Size: geom.Size{W: 2 * c.radius, H: 2 * c.radius}}
		f.Stroke(&p, &form, geom.Translate(40.3-c.radius, 40.6-c.radius).Flat(), Line{Pen: geom.Pen{Width: c.width}, Part: [2]float64{0, 1}}, geom.Box{W: 80, H: 80}, 80, 80)
		worst := 0
		for y := range 80 {
			for x := range 80 {
				want := sampled(x, y, 16, func(x, y float64) bool {
					return math.Abs(math.Hypot(x-40.3, y-40.6)-c.radius) <= c.width/2
				})
				if d := int(p.At(x, y)) - want; max(d, -d) > worst {
					worst = max(d, -d)
				}
			}
		}
		if worst > 10 {
			t.Errorf("a circle of radius %g, %g wide: a pixel is off by %d/255", c.radius, c.width, worst)
		}
	}
}
