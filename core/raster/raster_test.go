package raster

import (
	"bytes"
	"image"
	"image/color"
	"math"
	"math/rand/v2"
	"testing"

	"ivypocket/core/geom"
	"ivypocket/core/timing"
)

func noise(w, h int, opaque bool, seed uint64) *Surface {
	r := rand.New(rand.NewPCG(seed, 1))
	s := NewSurface(w, h)
	for i := 0; i < len(s.Pix); i += 4 {
		for c := range 4 {
			s.Pix[i+c] = uint8(r.Uint32())
		}
		if opaque {
			s.Pix[i+3] = 255
		}
	}
	if !opaque {
		s.Premultiply()
	}
	s.MeasureOpaque()
	return s
}

// W3C Compositing and Blending Level 1, section 9.1.4: co = cs + cb·(1 − αs),
// premultiplied, rounded to the nearest.
func TestOverIsSourceOver(t *testing.T) {
	for a := range uint32(256) {
		for b := range uint32(256) {
			cs := a / 2
			got := over(cs|a<<24, b|b<<24)
			want := uint32(math.Floor(float64(cs) + float64(b)*float64(255-a)/255 + 0.5))
			if got&255 != want {
				t.Fatalf("%d (alpha %d) over %d: %d, want %d", cs, a, b, got&255, want)
			}
			if got&255 > got>>24 {
				t.Fatalf("a channel of %d exceeds its alpha of %d", got&255, got>>24)
			}
		}
	}
}

// drawing is a picture drawn through a map into a rounded box.
type drawing struct {
	Src     *Surface
	Map     geom.Affine
	Box     geom.Box
	Radius  float64
	Opacity float64
	Edges   bool
}

func lay(dst *Surface, y0, y1 int, d drawing) {
	var p Picture
	if !p.Set(d.Src, d.Map.Flat(), dst.W, dst.H) {
		return
	}
	var cut Cut
	cut.Box(d.Box, d.Radius, dst.W, dst.H)
	var edges Coverage
	if d.Edges {
		q, _ := d.Map.Flat().Quad(geom.Box{W: float64(d.Src.W), H: float64(d.Src.H)})
		new(Filler).Quad(&edges, q, d.Box, dst.W, dst.H)
		cut.Cover(&edges)
	}
	dst.Paint(y0, y1, &p, &cut, d.Opacity, Normal, &Brush{})
}

func fill(dst *Surface, y0, y1 int, box geom.Box, radius float64, c [4]uint8, opacity float64) {
	var cut Cut
	cut.Box(box, radius, dst.W, dst.H)
	f := NewFlat(c)
	dst.Paint(y0, y1, &f, &cut, opacity, Normal, &Brush{})
}

// Random framings of an opaque picture must leave no pixel of the cell clear.
func TestCoverLeavesNoPixelClear(t *testing.T) {
	r := rand.New(rand.NewPCG(42, 7))
	media := []*Surface{noise(160, 40, true, 1), noise(40, 160, true, 2), noise(90, 90, true, 3), noise(3, 2, true, 4)}
	dst := NewSurface(64, 48)
	for i := range 10_000 {
		src := media[r.IntN(len(media))]
		f := geom.Framing{Fit: geom.Cover, Focus: [2]float64{r.Float64(), r.Float64()}, Pan: [2]float64{r.Float64()*8 - 4, r.Float64()*8 - 4},
			Zoom: 0.05 + r.Float64()*3, Turn: r.Float64()*720 - 360, FlipX: r.IntN(2) == 0, FlipY: r.IntN(2) == 0}
		if i%5 == 0 {
			f.Turn = float64(r.IntN(8)) * 90
		}
		w, h := 8+r.IntN(56), 8+r.IntN(40)
		cell := geom.Box{X: float64(r.IntN(64 - w + 1)), Y: float64(r.IntN(48 - h + 1)), W: float64(w), H: float64(h)}
		pl := f.Place(geom.Size{W: float64(src.W), H: float64(src.H)}, cell.Size())
		clear(dst.Pix)
		lay(dst, 0, 48, drawing{Src: src, Map: pl.Map.Then(geom.Translate(cell.X, cell.Y)), Box: cell, Opacity: 1, Edges: !pl.Covers})
		for y := int(cell.Y); y < int(cell.Y)+h; y++ {
			for x := int(cell.X); x < int(cell.X)+w; x++ {
				if _, _, _, a := dst.At(x, y); a != 255 {
					t.Fatalf("framing %d, %+v of %d × %d in %v: alpha %d at (%d, %d)", i, f, src.W, src.H, cell, a, x, y)
				}
			}
		}
	}
}

// The same without the promise that edges are hidden: antialiased edges that
// run along or beyond the cell's must not show either.
func TestCoverHidesAntialiasedEdges(t *testing.T) {
	r := rand.New(rand.NewPCG(8, 8))
	src := noise(50, 70, true, 9)
	dst := NewSurface(40, 40)
	for range 1000 {
		f := geom.Framing{Fit: geom.Cover, Focus: [2]float64{r.Float64(), r.Float64()}, Zoom: 1, Turn: r.Float64() * 360}
		cell := geom.Box{X: 4, Y: 6, W: 30, H: 28}
		pl := f.Place(geom.Size{W: 50, H: 70}, cell.Size())
		clear(dst.Pix)
		lay(dst, 0, 40, drawing{Src: src, Map: pl.Map.Then(geom.Translate(cell.X, cell.Y)), Box: cell, Opacity: 1, Edges: true})
		for y := 6; y < 34; y++ {
			for x := 4; x < 34; x++ {
				if _, _, _, a := dst.At(x, y); a < 254 {
					t.Fatalf("%+v: alpha %d at (%d, %d)", f, a, x, y)
				}
			}
		}
	}
}

func TestBandsGiveTheSameBits(t *testing.T) {
	r := rand.New(rand.NewPCG(11, 12))
	for i := range 60 {
		src := noise(30+r.IntN(50), 30+r.IntN(50), i%2 == 0, uint64(i))
		p := drawing{Src: src, Map: geom.Translate(-20, -20).Then(geom.Scale(0.5+r.Float64()*2, 0.5+r.Float64()*2)).Then(geom.Rotate(float64(i%4) * r.Float64() * 90)).Then(geom.Translate(30, 30)),
			Box: geom.Box{X: r.Float64() * 10, Y: r.Float64() * 10, W: 40, H: 45}, Radius: r.Float64() * 20, Opacity: r.Float64(), Edges: i%3 == 0}
		whole, parts := noise(64, 64, true, 77), noise(64, 64, true, 77)
		lay(whole, 0, 64, p)
		fill(whole, 0, 64, p.Box, 9, [4]uint8{200, 30, 90, 140}, 0.7)
		for y := 0; y < 64; {
			n := min(64, y+1+r.IntN(20))
			lay(parts, y, n, p)
			fill(parts, y, n, p.Box, 9, [4]uint8{200, 30, 90, 140}, 0.7)
			y = n
		}
		if !bytes.Equal(whole.Pix, parts.Pix) {
			t.Fatalf("picture %d differs when drawn in bands", i)
		}
	}
}

// The quick way for pictures that are only shifted gives the bits of the
// general way, which a map that is upright but for its last bit takes.
func TestShiftedPicturesHaveTheBitsOfTheGeneralWay(t *testing.T) {
	r := rand.New(rand.NewPCG(21, 22))
	for i := range 400 {
		src := noise(1+r.IntN(40), 1+r.IntN(40), true, uint64(i))
		x, y := r.Float64()*60-30, r.Float64()*60-30
		if i%3 == 0 {
			x = math.Round(x)
		}
		if i%4 == 0 {
			y = math.Round(y)
		}
		if math.Abs(x-math.Round(x)) < 1.0/512 && math.Abs(y-math.Round(y)) < 1.0/512 {
			continue // as near to whole pixels as this, it is copied
		}
		p := drawing{Src: src, Map: geom.Translate(x, y), Box: geom.Box{X: x, Y: y, W: float64(src.W), H: float64(src.H)}, Opacity: 1}
		quick, general := NewSurface(32, 32), NewSurface(32, 32)
		lay(quick, 0, 32, p)
		p.Map.B = 1e-300
		lay(general, 0, 32, p)
		if !bytes.Equal(quick.Pix, general.Pix) {
			t.Fatalf("%d × %d shifted by %g, %g: other bits", src.W, src.H, x, y)
		}
	}
}

func TestMapsThatAreNoMapsDrawNothing(t *testing.T) {
	dst := NewSurface(8, 8)
	nan := math.NaN()
	for _, m := range []geom.Affine{{}, {A: nan, D: 1}, {A: 1, D: 1, E: nan}, {A: 1, D: math.Inf(1)}, {A: 1e-200, D: 1e-200}} {
		lay(dst, 0, 8, drawing{Src: noise(4, 4, true, 1), Map: m, Box: geom.Box{W: 8, H: 8}, Opacity: 1})
	}
	for _, v := range dst.Pix {
		if v != 0 {
			t.Fatal("something was drawn")
		}
	}
}

func TestOneToOneIsACopy(t *testing.T) {
	src := noise(40, 30, true, 5)
	dst := NewSurface(40, 30)
	lay(dst, 0, 30, drawing{Src: src, Map: geom.Identity, Box: geom.Box{W: 40, H: 30}, Opacity: 1})
	if !bytes.Equal(src.Pix, dst.Pix) {
		t.Error("a picture drawn at its own size and place is another picture")
	}
}

// A picture that drifts by a share of a pixel must change steadily: each
// pixel of a rising edge never falls while the edge moves one way.
func TestSubPixelMotionIsMonotonic(t *testing.T) {
	src := NewSurface(16, 1)
	for x := range 16 {
		v := uint8(0)
		if x >= 8 {
			v = 255
		}
		copy(src.Pix[x*4:], []uint8{v, v, v, 255})
	}
	src.Opaque = true
	last := make([]uint8, 16)
	for i := 0; i <= 256; i++ {
		dst := NewSurface(16, 1)
		lay(dst, 0, 1, drawing{Src: src, Map: geom.Translate(-4*float64(i)/256, 0), Box: geom.Box{W: 16, H: 1}, Opacity: 1})
		for x := range 16 {
			if v := dst.Pix[x*4]; v < last[x] {
				t.Fatalf("at shift %d/64, pixel %d falls from %d to %d", i, x, last[x], v)
			} else {
				last[x] = v
			}
		}
	}
}

func TestFillCoversByArea(t *testing.T) {
	s := NewSurface(10, 10)
	fill(s, 0, 10, geom.Box{X: 2.25, Y: 3, W: 4.5, H: 2.5}, 0, [4]uint8{255, 255, 255, 255}, 1)
	for _, c := range []struct {
		x, y int
		want float64
	}{{2, 3, 0.75}, {3, 3, 1}, {6, 4, 0.75}, {3, 5, 0.5}, {6, 5, 0.375}, {7, 3, 0}, {3, 2, 0}} {
		if _, _, _, a := s.At(c.x, c.y); math.Abs(float64(a)-c.want*255) > 1 {
			t.Errorf("(%d, %d): alpha %d, want %g", c.x, c.y, a, c.want*255)
		}
	}
}

// The area of a rounded box is w·h − (4 − π)·r².
func TestRoundCornersHaveTheirArea(t *testing.T) {
	for _, r := range []float64{2, 5.5, 12, 20} {
		s := NewSurface(48, 48)
		fill(s, 0, 48, geom.Box{X: 3.3, Y: 4.1, W: 40, H: 40}, r, [4]uint8{0, 0, 0, 255}, 1)
		sum := 0.0
		for i := 3; i < len(s.Pix); i += 4 {
			sum += float64(s.Pix[i]) / 255
		}
		if want := 1600 - (4-math.Pi)*r*r; math.Abs(sum-want) > 1.5 {
			t.Errorf("radius %g: area %.2f, want %.2f", r, sum, want)
		}
	}
}

func TestResizeKeepsFlatColoursAndOpacity(t *testing.T) {
	for _, c := range [][4]uint8{{255, 255, 255, 255}, {13, 77, 201, 255}, {10, 20, 30, 40}} {
		s := NewSurface(53, 31)
		for i := 0; i < len(s.Pix); i += 4 {
			copy(s.Pix[i:], c[:])
		}
		for _, to := range []image.Point{{7, 5}, {53, 12}, {90, 70}, {1, 1}} {
			out := s.Resize(to.X, to.Y)
			for i := 0; i < len(out.Pix); i += 4 {
				if [4]uint8(out.Pix[i:i+4]) != c {
					t.Fatalf("%v at %v became %v", c, to, out.Pix[i:i+4])
				}
			}
		}
	}
	out := noise(64, 64, false, 3).Resize(23, 17)
	for i := 0; i < len(out.Pix); i += 4 {
		if a := out.Pix[i+3]; out.Pix[i] > a || out.Pix[i+1] > a || out.Pix[i+2] > a {
			t.Fatalf("premultiplied %v exceeds its alpha", out.Pix[i:i+4])
		}
	}
}

// EXIF 2.32, orientation: where row 0 and column 0 of the stored picture are
// seen. Written down from the table, for a picture of 2×3 pixels named a to f.
func TestOrientations(t *testing.T) {
	want := map[int][]string{
		1: {"ab", "cd", "ef"}, 2: {"ba", "dc", "fe"}, 3: {"fe", "dc", "ba"}, 4: {"ef", "cd", "ab"},
		5: {"ace", "bdf"}, 6: {"eca", "fdb"}, 7: {"fdb", "eca"}, 8: {"bdf", "ace"},
	}
	src := NewSurface(2, 3)
	for i := range 6 {
		src.Pix[i*4] = 'a' + uint8(i)
	}
	for o, rows := range want {
		got := src.Oriented(o)
		if got.W != len(rows[0]) || got.H != len(rows) {
			t.Errorf("orientation %d: %d × %d", o, got.W, got.H)
			continue
		}
		for y, row := range rows {
			for x := range row {
				if r, _, _, _ := got.At(x, y); r != row[x] {
					t.Errorf("orientation %d at (%d, %d): %c, want %c", o, x, y, r, row[x])
				}
			}
		}
	}
}

func TestImagesComeInPremultiplied(t *testing.T) {
	img := image.NewNRGBA(image.Rect(0, 0, 1, 1))
	img.SetNRGBA(0, 0, color.NRGBA{200, 100, 50, 128})
	for name, m := range map[string]image.Image{"straight": img, "another kind": struct{ image.Image }{img}} {
		r, g, b, a := FromImage(m).At(0, 0)
		if r != 100 || g != 50 || b != 25 || a != 128 {
			t.Errorf("%s: %d %d %d %d, want 100 50 25 128", name, r, g, b, a)
		}
	}
}

// WCAG 2.2: black on white is 21:1; #777777 on white is 4.48:1.
func TestContrast(t *testing.T) {
	if c := Contrast(Luminance(0, 0, 0), Luminance(255, 255, 255)); math.Abs(c-21) > 1e-9 {
		t.Errorf("black on white: %g", c)
	}
	if c := Contrast(Luminance(0x77, 0x77, 0x77), Luminance(255, 255, 255)); math.Abs(c-4.48) > 0.005 {
		t.Errorf("#777777 on white: %g", c)
	}
}

// ITU-R BT.709-6: black, white and grey at 16, 235 and between; the primaries
// by the published equations in exact arithmetic, within 1.
func TestYUVIsBT709LimitedRange(t *testing.T) {
	for _, c := range [][3]float64{{0, 0, 0}, {255, 255, 255}, {128, 128, 128}, {255, 0, 0}, {0, 255, 0}, {0, 0, 255}, {201, 33, 150}} {
		s := NewSurface(6, 4)
		fill(s, 0, 4, geom.Box{W: 6, H: 4}, 0, [4]uint8{uint8(c[0]), uint8(c[1]), uint8(c[2]), 255}, 1)
		got := make([]uint8, YUV420Size(6, 4))
		s.YUV420(got, 0, s.H)
		y := 0.2126*c[0] + 0.7152*c[1] + 0.0722*c[2]
		want := []float64{16 + 219*y/255, 128 + 224*(c[2]-y)/(2*(1-0.0722))/255, 128 + 224*(c[0]-y)/(2*(1-0.2126))/255}
		for i, v := range got {
			plane := 0
			if i >= 24 {
				plane = 1 + (i-24)/6
			}
			if math.Abs(float64(v)-want[plane]) > 1 {
				t.Errorf("%v, byte %d: %d, want %.1f", c, i, v, want[plane])
			}
		}
	}
}

// Chroma is sited at the left of a pair: a red edge between columns 1 and 2
// leaves the first sample wholly of its side's colour but for a quarter.
func TestChromaIsSitedAtTheLeft(t *testing.T) {
	s := NewSurface(4, 2)
	fill(s, 0, 2, geom.Box{X: 1, W: 3, H: 2}, 0, [4]uint8{255, 0, 0, 255}, 1)
	got := make([]uint8, YUV420Size(4, 2))
	s.YUV420(got, 0, s.H)
	if cr := got[10]; math.Abs(float64(cr)-(128+112*0.25)) > 1.5 {
		t.Errorf("the first sample is %d; the pixel to its right weighs a quarter", cr)
	}
}

// Luminance alone is what a luma matte cuts by.
func TestLuminanceAloneIsWhatCuts(t *testing.T) {
	rng := rand.New(rand.NewPCG(5, 8))
	a, b := NewSurface(37, 9), NewSurface(37, 9)
	for i := 0; i < len(a.Pix); i += 4 {
		alpha := uint8(rng.IntN(256))
		for k := range 3 {
			a.Pix[i+k] = uint8(rng.IntN(int(alpha) + 1))
		}
		a.Pix[i+3] = alpha
	}
	copy(b.Pix, a.Pix)
	var c Coverage
	a.Matte(&c, 0, 9, true, false)
	b.LumaAlone(0, 9)
	for i, v := range c.Pix {
		if p := b.Pix[i*4 : i*4+4]; p[0] != v || p[1] != v || p[2] != v || p[3] != 255 {
			t.Fatalf("pixel %d is %v, and cuts by %d", i, p, v)
		}
	}
}

// A soft mask is soft along the edge of what it encloses. Where a drawn line crosses what it
// encloses already, as one that goes twice round a square does, in part, there is no edge.
func TestSoftMasksAreSoftAtTheirEdgeAlone(t *testing.T) {
	form := geom.Form{Kind: geom.Drawn, Size: geom.Size{W: 100, H: 100}, Path: geom.Path{Closed: true, Nodes: []geom.Node{
		{X: 0, Y: 0}, {X: 1, Y: 0}, {X: 1, Y: 1}, {X: 0, Y: 1}, {X: 0, Y: 0}, {X: 1, Y: 0}, {X: 1, Y: 0.5}, {X: 0, Y: 0.5}}}}
	plain := geom.Form{Kind: geom.Rectangle, Size: form.Size}
	m := geom.Translate(20, 20).Flat()
	var a, b Coverage
	var f Filler
	s := Soft{In: 10, Out: 10, Falloff: timing.Easing{0, 0, 1, 1}}
	f.Mask(&a, &form, m, s, geom.Box{W: 140, H: 140}, 140, 140)
	f.Mask(&b, &plain, m, s, geom.Box{W: 140, H: 140}, 140, 140)
	if !bytes.Equal(a.Pix, b.Pix) {
		t.Errorf("in its middle it covers %d, at its edge %d", a.At(70, 70), a.At(20, 70))
	}
}
