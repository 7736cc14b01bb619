package trial

import (
	"context"
	"errors"
	"strings"
	"testing"

	"ivypocket/core/geom"
	drawn "ivypocket/core/internal/sample"
	"ivypocket/core/sheet"
)

var still = "sha256:" + strings.Repeat("a", 64)

func input(t *testing.T, replace ...string) Input {
	t.Helper()
	d := drawn.Split(t, replace...)
	v := sheet.Values{}.Clone()
	for _, p := range d.Pockets {
		v.Fills[p.ID] = sheet.Fill{Media: still}
	}
	return Input{Doc: d, Values: v, Cache: 64 << 20, Source: drawn.Source{still: {W: 300, H: 200, RGBA: [4]uint8{30, 40, 60, 255}}}}
}

func run(t *testing.T, in Input) *Report {
	t.Helper()
	r, err := Run(context.Background(), in)
	if err != nil {
		t.Fatal(err)
	}
	return r
}

func kinds(r *Report) map[Kind]int {
	out := map[Kind]int{}
	for _, f := range r.Findings {
		out[f.Kind]++
	}
	return out
}

func TestASoundSplitHasNoEdgesAndNoSwallowedCells(t *testing.T) {
	r := run(t, input(t))
	k := kinds(r)
	if k[UncoveredEdge] != 0 || k[SwallowedCell] != 0 {
		t.Errorf("found %v", k)
	}
	// As it is, six media, six marks, both ends of an amount and of a colour; in two formats.
	if want := 2 * (1 + 6 + 6 + 4); r.Cases != want || len(r.Tiles) != want {
		t.Errorf("%d cases and %d tiles, want %d", r.Cases, len(r.Tiles), want)
	}
}

func TestAPlantedFramingFaultIsFoundWithItsFrameAndPicture(t *testing.T) {
	in := input(t)
	f := geom.DefaultFraming(geom.Contain)
	v := in.Values.Fills["ebb"]
	v.Framing = &f
	in.Values.Fills["ebb"] = v
	r := run(t, in)
	if kinds(r)[UncoveredEdge] == 0 {
		t.Fatal("media that lies in its cell by contain shows its edges, and nobody said so")
	}
	for _, fd := range r.Findings {
		if fd.Kind != UncoveredEdge {
			continue
		}
		if fd.Pocket != "ebb" || !strings.HasPrefix(fd.Where, "Ebb (") || fd.Picture == nil || fd.Picture.W*fd.Picture.H == 0 || fd.Frame < 0 || fd.Frame >= in.Doc.Frames {
			t.Errorf("%+v", fd)
		}
	}
}

func TestAPlantedGutterThatSwallowsItsCellsIsFound(t *testing.T) {
	r := run(t, input(t, `"max": 60`, `"max": 1900`, `"from": [0, 60]`, `"from": [0, 1900]`))
	found := false
	for _, f := range r.Findings {
		if f.Kind == SwallowedCell {
			found = true
			if !strings.Contains(f.Case, "1900") || !strings.Contains(f.Advice, "Border") {
				t.Errorf("case %q, advice %q: the entry that did it is not named", f.Case, f.Advice)
			}
		}
	}
	if !found {
		t.Error("a gutter of 1900 px leaves no cell, and nobody said so")
	}
}

func TestAMarkThatMeltsIntoItsGroundIsFound(t *testing.T) {
	r := run(t, input(t))
	dark, sound := false, true
	for _, f := range r.Findings {
		if f.Kind == MeltingMark && f.Case == "very dark media" {
			dark = true // the sample mark is dark too
		}
		if f.Kind == MeltingMark && f.Case == "very bright media" {
			sound = false
		}
	}
	if !dark || !sound {
		t.Errorf("dark mark over dark media found: %v; over bright media left alone: %v", dark, sound)
	}
}

func TestContactSheetShowsEveryCase(t *testing.T) {
	r := run(t, input(t))
	page, err := ContactSheet(r.Tiles, "square")
	if err != nil || page == nil || page.Rect.Dx() < 6*TileSide || page.Rect.Dy() < 3*TileSide {
		t.Errorf("%v, %v", page.Rect, err)
	}
	if none, err := ContactSheet(r.Tiles, "round"); none != nil || err != nil {
		t.Errorf("a format without tiles: %v, %v", none, err)
	}
}

func TestATrialThatIsStoppedEnds(t *testing.T) {
	ctx, cancel := context.WithCancel(context.Background())
	in := input(t)
	in.Progress = func(done, _ int) {
		if done == 2 {
			cancel()
		}
	}
	if _, err := Run(ctx, in); !errors.Is(err, context.Canceled) {
		t.Errorf("got %v", err)
	}
}
