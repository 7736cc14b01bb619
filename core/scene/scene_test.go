package scene_test

import (
	"bytes"
	"context"
	"errors"
	"math"
	"math/rand/v2"
	"strings"
	"testing"

	"ivypocket/core/geom"
	"ivypocket/core/internal/sample"
	"ivypocket/core/raster"
	"ivypocket/core/scene"
	"ivypocket/core/scheme"
	"ivypocket/core/sheet"
	"ivypocket/core/timing"
)

func hash(c string) string { return "sha256:" + strings.Repeat(c, 64) }

var fifty = timing.Even(timing.Rate{Rat: timing.Int(50)}, 40)

var source = sample.Source{
	hash("a"): {W: 400, H: 300, RGBA: [4]uint8{10, 120, 40, 255}},
	hash("b"): {W: 200, H: 500, RGBA: [4]uint8{90, 20, 140, 255}},
	hash("c"): {W: 100, H: 100, RGBA: [4]uint8{9, 9, 9, 128}},
	hash("d"): {W: 320, H: 180, RGBA: [4]uint8{0, 80, 0, 255}, Clip: &fifty},
}

func fills(pairs ...string) sheet.Values {
	v := sheet.Values{}.Clone()
	for i := 0; i < len(pairs); i += 2 {
		v.Fills[pairs[i]] = sheet.Fill{Media: hash(pairs[i+1])}
	}
	return v
}

func compile(t testing.TB, v sheet.Values, format string) *scene.Scene {
	t.Helper()
	r, err := sheet.Resolve(sample.Split(t), v)
	if err != nil {
		t.Fatal(err)
	}
	s, err := scene.Compile(r, format, source)
	if err != nil {
		t.Fatal(err)
	}
	return s
}

func at(s *scene.Scene, frame int64, w, h int) *scene.List {
	var l scene.List
	s.At(&l, s.Time().At(timing.OutputFrame(frame)), scene.Size{W: w, H: h})
	return &l
}

func TestEqualPicturesShareOneAddress(t *testing.T) {
	s := compile(t, fills("flood", "a", "ebb", "b"), "landscape")
	still, later := at(s, 60, 960, 540).Address(), at(s, 100, 960, 540).Address()
	if still != later {
		t.Error("two instants at which nothing moves have two addresses")
	}
	if at(s, 5, 960, 540).Address() == still || at(s, 60, 480, 270).Address() == still {
		t.Error("another instant or another size has the same address")
	}
	again := compile(t, fills("flood", "a", "ebb", "b"), "landscape")
	if at(again, 60, 960, 540).Address() != still {
		t.Error("the same piece compiled again has another address")
	}
	other := compile(t, fills("flood", "a", "ebb", "a"), "landscape")
	if at(other, 60, 960, 540).Address() == still {
		t.Error("other media has the same address")
	}
}

func TestMotionIsSharedAndRestIsTheFormats(t *testing.T) {
	for _, c := range []struct {
		format string
		frame  int64
		want   geom.Box
	}{
		{"landscape", 0, geom.Box{X: -1920, Y: 0, W: 1272, H: 1080}},
		{"landscape", 24, geom.Box{X: 0, Y: 0, W: 1272, H: 1080}},
		// A margin of 8 and a gutter of 12 leave (1080 − 2·8 − 12) ÷ 2.
		{"square", 0, geom.Box{X: -1072, Y: 8, W: 526, H: 1064}},
		{"square", 99, geom.Box{X: 8, Y: 8, W: 526, H: 1064}},
	} {
		s := compile(t, fills("flood", "a"), c.format)
		for _, o := range s.Outlines(nil, s.Time().At(timing.OutputFrame(c.frame))) {
			d := o.Box
			d.X, d.Y, d.W, d.H = d.X-c.want.X, d.Y-c.want.Y, d.W-c.want.W, d.H-c.want.H
			if o.Pocket == "flood" && math.Abs(d.X)+math.Abs(d.Y)+math.Abs(d.W)+math.Abs(d.H) > 1e-9 {
				t.Errorf("%s, frame %d: %v, want %v", c.format, c.frame, o.Box, c.want)
			}
		}
	}
}

func TestClearAndAbsentLayersAreNotListed(t *testing.T) {
	s := compile(t, fills("flood", "a", "ebb", "b", "logo", "c"), "landscape")
	for frame, want := range map[int64]int{0: 2, 12: 3, 60: 4} { // backing and ebb; flood is outside; the mark is clear
		if got := len(at(s, frame, 960, 540).Items); got != want {
			t.Errorf("frame %d lists %d items, want %d", frame, got, want)
		}
	}
}

func TestEmptyPocketsShowTheirLining(t *testing.T) {
	l := at(compile(t, sheet.Values{}, "landscape"), 60, 960, 540)
	for _, it := range l.Items {
		if it.Kind == scene.PictureItem {
			t.Errorf("layer %s draws a picture though nothing fills it", it.Layer)
		}
	}
	if len(l.Items) != 10 { // the backing, and a group of an edge and a card for each of three
		t.Errorf("%d items", len(l.Items))
	}
}

func TestMissingMediaIsNamed(t *testing.T) {
	r, err := sheet.Resolve(sample.Split(t), fills("ebb", "9"))
	if err != nil {
		t.Fatal(err)
	}
	var missing *scene.MissingError
	if _, err := scene.Compile(r, "landscape", source); !errors.As(err, &missing) || missing.Pocket != "ebb" {
		t.Errorf("got %v", err)
	}
}

func TestClipsRunAtTheirOwnRateAndHoldTheirLastFrame(t *testing.T) {
	s := compile(t, fills("ebb", "d"), "landscape")
	for frame, want := range map[int64]int64{0: 0, 1: 2, 10: 20, 19: 38, 20: 39, 149: 39} {
		for _, it := range at(s, frame, 960, 540).Items {
			if it.Media == hash("d") && it.Frame != want {
				t.Errorf("frame %d shows frame %d of the clip, want %d", frame, it.Frame, want)
			}
		}
	}
}

func TestStandsAreExact(t *testing.T) {
	for _, st := range compile(t, fills("ebb", "b"), "landscape").Stands() {
		if st.Pocket == "ebb" && (st.Where != "right" || st.Centre != geom.Point{X: 642, Y: 0} || st.Size != geom.Size{W: 636, H: 1080}) {
			t.Errorf("%+v", st)
		}
	}
}

func TestPaintingIsRepeatableAndAllocatesNothing(t *testing.T) {
	s := compile(t, fills("flood", "a", "ebb", "b", "logo", "c"), "landscape")
	p := scene.NewPainter(scene.NewPictures(source, 64<<20))
	defer p.Close()
	var a, b raster.Surface
	var l scene.List
	ctx := context.Background()
	size := scene.Size{W: 480, H: 270}
	draw := func(dst *raster.Surface, frame int64) {
		s.At(&l, s.Time().At(timing.OutputFrame(frame)), size)
		if err := p.Paint(ctx, &l, dst); err != nil {
			t.Fatal(err)
		}
	}
	draw(&a, 14)
	draw(&b, 40)
	draw(&b, 14)
	if !bytes.Equal(a.Pix, b.Pix) {
		t.Error("the same frame painted again is another picture")
	}
	if !a.Opaque {
		t.Error("a picture on a backing of the canvas' size is opaque")
	}
	frame := int64(0)
	if n := testing.AllocsPerRun(100, func() { frame = (frame + 1) % 40; draw(&b, frame) }); n > 0 {
		t.Errorf("%g allocations a frame in the steady state", n)
	}
}

func TestRepaintingChangedRowsGivesTheWholePicture(t *testing.T) {
	s := compile(t, fills("flood", "a", "ebb", "b", "logo", "c"), "landscape")
	p, q := scene.NewPainter(scene.NewPictures(source, 64<<20)), scene.NewPainter(scene.NewPictures(source, 64<<20))
	defer p.Close()
	defer q.Close()
	var whole, parts raster.Surface
	saved := 0
	for _, frame := range []int64{0, 3, 12, 13, 22, 25, 26, 60, 61, 29, 5} {
		l := at(s, frame, 470, 264)
		if err := p.Paint(context.Background(), l, &whole); err != nil {
			t.Fatal(err)
		}
		y0, y1, err := q.Repaint(context.Background(), l, &parts)
		if err != nil {
			t.Fatal(err)
		}
		saved += 264 - (y1 - y0)
		if !bytes.Equal(whole.Pix, parts.Pix) {
			t.Fatalf("frame %d, rows %d to %d: another picture than painted whole", frame, y0, y1)
		}
	}
	if saved == 0 {
		t.Error("nothing was saved")
	}
}

func TestPicturesAreAskedForOncePerSize(t *testing.T) {
	asked := 0
	src := sample.Source{hash("a"): {W: 400, H: 300, RGBA: [4]uint8{1, 2, 3, 255}, Asked: &asked}}
	s := compile(t, fills("flood", "a"), "landscape")
	p := scene.NewPainter(scene.NewPictures(src, 64<<20))
	defer p.Close()
	var dst raster.Surface
	for frame := range int64(40) {
		if err := p.Paint(context.Background(), at(s, frame, 480, 270), &dst); err != nil {
			t.Fatal(err)
		}
	}
	if asked != 1 {
		t.Errorf("asked %d times for one picture in one size", asked)
	}
}

func TestCancelledPaintingStops(t *testing.T) {
	p := scene.NewPainter(scene.NewPictures(source, 64<<20))
	defer p.Close()
	ctx, cancel := context.WithCancel(context.Background())
	cancel()
	var dst raster.Surface
	if err := p.Paint(ctx, at(compile(t, fills("ebb", "b"), "landscape"), 0, 480, 270), &dst); !errors.Is(err, context.Canceled) {
		t.Errorf("got %v", err)
	}
}

// The promise of cover, through everything: a document without a backing whose
// one pocket is framed at random in 10 000 ways, moved, in whole-pixel cells; no
// pixel of its cell may be less than opaque.
func TestCoverLeavesNoPixelClearThroughTheWholeEngine(t *testing.T) {
	d := sample.Split(t, `"width": 1920, "height": 1080`, `"width": 48, "height": 32`, `"gutter": 12`, `"gutter": 0`,
		`"columns": [2, 1], "gutter"`, `"columns": [1, 1], "gutter"`)
	for i := range d.Layers {
		if d.Layers[i].ID == "left" {
			d.Layers[i].Motion = nil
			d.Layers = d.Layers[i : i+1]
			break
		}
	}
	if err := d.Set("layouts/tides/gutter", scheme.One(0)); err != nil {
		t.Fatal(err)
	}
	d.Sheet.Groups = nil
	r := rand.New(rand.NewPCG(99, 100))
	src := sample.Source{hash("a"): {W: 90, H: 30, RGBA: [4]uint8{10, 120, 40, 255}}, hash("b"): {W: 20, H: 70, RGBA: [4]uint8{9, 9, 9, 255}}, hash("e"): {W: 2, H: 3, RGBA: [4]uint8{5, 5, 5, 255}}}
	p := scene.NewPainter(scene.NewPictures(src, 1<<20))
	defer p.Close()
	var dst raster.Surface
	var l scene.List
	for i := range 10_000 {
		f := geom.Framing{Fit: geom.Cover, Focus: [2]float64{r.Float64(), r.Float64()}, Pan: [2]float64{r.Float64()*8 - 4, r.Float64()*8 - 4},
			Zoom: 0.05 + r.Float64()*3, Turn: r.Float64()*720 - 360, FlipX: r.IntN(2) == 0, FlipY: r.IntN(2) == 0}
		if i%4 == 0 {
			f.Turn = float64(r.IntN(4)) * 90
		}
		v := fills("flood", []string{"a", "b", "e"}[i%3])
		v.Fills["flood"] = sheet.Fill{Media: v.Fills["flood"].Media, Framing: &f}
		res, err := sheet.Resolve(d, v)
		if err != nil {
			t.Fatal(err)
		}
		s, err := scene.Compile(res, "landscape", src)
		if err != nil {
			t.Fatal(err)
		}
		s.At(&l, s.Time().At(0), scene.Size{W: 48, H: 32})
		if err := p.Paint(context.Background(), &l, &dst); err != nil {
			t.Fatal(err)
		}
		for y := range 32 {
			for x := range 24 {
				if _, _, _, a := dst.At(x, y); a != 255 {
					t.Fatalf("framing %d, %+v: alpha %d at (%d, %d)", i, f, a, x, y)
				}
			}
		}
	}
}
