package scene

import (
	"context"
	"testing"

	"ivypocket/core/geom"
	"ivypocket/core/raster"
)

// flatList has a group of two fills and a fill that moves, none of which needs
// media.
func flatList(x float64) *List {
	fill := func(b geom.Box, c [4]uint8) Item {
		return Item{Kind: FillItem, Opacity: 1, Colour: c, Box: b, Form: geom.Form{Kind: geom.Ellipse, Size: b.Size()}, Map: geom.Translate(b.X, b.Y).Flat()}
	}
	return &List{Size: Size{64, 48}, Main: 4, Items: []Item{
		{Kind: GroupItem, Opacity: 0.5, Isolated: true, Span: 2, Box: geom.Box{X: 5, Y: 5, W: 40, H: 40}},
		fill(geom.Box{X: 5, Y: 5, W: 30, H: 30}, [4]uint8{200, 0, 0, 255}), fill(geom.Box{X: 20, Y: 20, W: 25, H: 25}, [4]uint8{0, 0, 200, 255}),
		fill(geom.Box{X: x, Y: 10, W: 12, H: 12}, [4]uint8{0, 200, 0, 255}),
	}}
}

// A group that looks as it did is painted once more for keeps, and not again;
// coverage that has not changed is not made again.
func TestUnchangedGroupsAreNotPaintedAgain(t *testing.T) {
	p := NewPainter(NewPictures(nil, 1))
	defer p.Close()
	var dst raster.Surface
	for n, want := range []struct{ groups, coverage int }{{0, 3}, {1, 1}, {0, 1}, {0, 1}} {
		l := flatList(float64(n) * 3)
		if err := p.PaintReady(context.Background(), l, &Ready{draws: make([]raster.Picture, 4)}, &dst); err != nil {
			t.Fatal(err)
		}
		if len(p.kept.work) != want.groups || len(p.cuts.work) != want.coverage {
			t.Errorf("frame %d: %d groups painted for keeps and %d planes made, want %d and %d", n, len(p.kept.work), len(p.cuts.work), want.groups, want.coverage)
		}
		if n > 0 && p.kept.have(l.Items[0].hash) == nil {
			t.Errorf("frame %d: the group is not kept", n)
		}
	}
	// Turned otherwise, it is forgotten.
	l := flatList(0)
	l.Items[1].Colour = [4]uint8{1, 2, 3, 255}
	if err := p.Paint(context.Background(), l, &dst); err != nil {
		t.Fatal(err)
	}
	if len(p.kept.kept) != 0 {
		t.Errorf("%d pictures of groups are kept that nobody draws", len(p.kept.kept))
	}
}

// Pictures are kept of what is drawn from them: not of one of the pictures that
// motion blur sums, nor of what is in a treated layer, which a painter of its own
// keeps.
func TestPicturesAreKeptOnlyWhereTheyAreDrawn(t *testing.T) {
	p := NewPainter(NewPictures(nil, 1))
	defer p.Close()
	var dst raster.Surface
	for n := range 4 {
		still, moving := flatList(0).Items[:3], flatList(float64(n) * 3).Items[3]
		box := geom.Box{W: 64, H: 48}
		sample := Item{Kind: GroupItem, Opacity: 1, Isolated: true, Span: 3, Box: box}
		other := Item{Kind: GroupItem, Opacity: 1, Isolated: true, Span: 1, Box: box}
		l := &List{Size: Size{64, 48}, Items: []Item{{Kind: MeanItem, Opacity: 1, Isolated: true, Span: 6, Box: box}, sample}}
		l.Items = append(append(l.Items, still...), other, moving)
		l.Items = append(l.Items, Item{Kind: TreatItem, Opacity: 1, Isolated: true, Span: 4, Box: box})
		l.Items = append(append(l.Items, still...), moving)
		l.Main = len(l.Items)
		if err := p.PaintReady(context.Background(), l, &Ready{draws: make([]raster.Picture, l.Main), places: make([]place, l.Main)}, &dst); err != nil {
			t.Fatal(err)
		}
		// The still group within the sample would be drawn from what is kept.
		if len(p.kept.kept) > 1 || p.kept.have(l.Items[1].hash) != nil {
			t.Errorf("frame %d: %d pictures are kept", n, len(p.kept.kept))
		}
		if n > 1 && p.treats.inner[0].kept.have(l.Items[8].hash) == nil {
			t.Errorf("frame %d: the group in the treated layer is painted again", n)
		}
	}
}

// Where what motion blur sums is also drawn by itself, and kept, the sum is still made
// of it.
func TestASampleThatIsAlsoDrawnIsSummed(t *testing.T) {
	p := NewPainter(NewPictures(nil, 1))
	defer p.Close()
	var dst raster.Surface
	for n := range 4 {
		still, moving := flatList(0).Items[3], flatList(float64(n) * 3).Items[3]
		box := geom.Box{W: 64, H: 48}
		group := func(kind ItemKind, span int) Item {
			return Item{Kind: kind, Opacity: 1, Isolated: true, Span: span, Box: box}
		}
		sample := []Item{group(GroupItem, 2), group(TreatItem, 1), still}
		l := &List{Size: Size{64, 48}, Items: append(sample, group(MeanItem, 5))}
		l.Items = append(append(l.Items, sample...), group(GroupItem, 1), moving)
		l.Main = len(l.Items)
		if err := p.PaintReady(context.Background(), l, &Ready{draws: make([]raster.Picture, l.Main), places: make([]place, l.Main)}, &dst); err != nil {
			t.Fatal(err)
		}
		if n > 1 && p.kept.have(l.Items[4].hash) == nil {
			t.Errorf("frame %d: the sample is not one that is kept", n)
		}
		if px := dst.Pix[4*(16*64+6):]; px[1] != 200 {
			t.Errorf("frame %d: %v", n, px[:4])
		}
	}
}

// A matte that cuts two layers is taken along once.
func TestListsTakeEachMatteOnce(t *testing.T) {
	l := flatList(0)
	l.Items[1].Matte, l.Items[2].Matte = 4, 5
	for range 2 {
		l.Items = append(l.Items, l.Items[3])
	}
	l.Items[4].Matte = 5
	got := l.Only(0)
	if len(got.Items) != 5 || got.Main != 3 || got.Items[1].Matte != 3 || got.Items[2].Matte != 4 || got.Items[3].Matte != 4 {
		t.Errorf("%d items, of which %d are drawn, with mattes %d, %d and %d", len(got.Items), got.Main, got.Items[1].Matte, got.Items[2].Matte, got.Items[3].Matte)
	}
}

// SetBand makes bands of so many rows, for tests of other packages.
func (p *Painter) SetBand(rows int) { p.band = rows }

// PaintAll has what is hidden painted, too.
func (p *Painter) PaintAll() { p.all = true }
