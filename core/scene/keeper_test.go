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

// SetBand makes bands of so many rows, for tests of other packages.
func (p *Painter) SetBand(rows int) { p.band = rows }
