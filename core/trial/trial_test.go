package trial

import (
	"context"
	"encoding/json"
	"errors"
	"maps"
	"strings"
	"testing"

	"ivypocket/core/geom"
	drawn "ivypocket/core/internal/sample"
	"ivypocket/core/sheet"
	"ivypocket/core/template"
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

// A mark that melts as the piece stands is a fault. What melts with other media, marks
// and colours is one piece of advice for its pocket.
func TestMeltingMarksAreOnePieceOfAdvice(t *testing.T) {
	hints := func(r *Report) (out []Finding) {
		for _, f := range r.Findings {
			if f.Kind == MeltingMark && f.Hint {
				out = append(out, f)
			}
		}
		return
	}
	r := run(t, input(t))
	h := hints(r)
	if len(h) != 1 || h[0].Pocket != "logo" || h[0].Picture == nil || !strings.Contains(h[0].What, "very dark media") || strings.Contains(h[0].What, "very bright media") {
		t.Fatalf("%+v", h)
	}
	for _, tile := range r.Tiles {
		if tile.Case == "very dark media" && tile.Findings != 0 {
			t.Errorf("%s counts %d findings", tile.Case, tile.Findings)
		}
	}
	if n := kinds(r)[MeltingMark]; n != 1+2 { // the sample mark is as dark as the sample media, in two formats
		t.Errorf("%d melting marks", n)
	}
	// On bright media a dark mark stands out, and a bright one does not.
	in := input(t)
	bright := "sha256:" + strings.Repeat("b", 64)
	in.Source = drawn.Source{still: {W: 300, H: 200, RGBA: [4]uint8{30, 40, 60, 255}}, bright: {W: 300, H: 200, RGBA: [4]uint8{250, 250, 245, 255}}}
	for _, p := range in.Doc.Pockets {
		if !p.IsLogo() {
			in.Values.Fills[p.ID] = sheet.Fill{Media: bright}
		}
	}
	if h := hints(run(t, in)); len(h) != 1 || !strings.HasPrefix(h[0].What, "Takes dark marks. ") || !strings.Contains(h[0].What, "a very bright mark") {
		t.Errorf("%+v", h)
	}
}

// A mark of which nothing is drawn is told once in each format; so is one without
// transparency where it cuts something, as a fault where it is the piece's own and as
// advice where it is one that was tried.
func TestMarksThatAreNotSeenOrCutNothingAreTold(t *testing.T) {
	in := input(t)
	clear := "sha256:" + strings.Repeat("c", 64)
	in.Source = drawn.Source{still: {W: 300, H: 200, RGBA: [4]uint8{30, 40, 60, 255}}, clear: {W: 300, H: 200}}
	in.Values.Fills["logo"] = sheet.Fill{Media: clear}
	if r := run(t, in); kinds(r)[UnseenMark] != len(in.Doc.Formats) {
		t.Errorf("a clear mark: %v", kinds(r))
	}
	cut := []string{`"kind": "view", "pocket": "logo"`, `"kind": "view", "pocket": "logo", "hidden": true`, `"kind": "shape", "fill": "colour:sand"`, `"kind": "shape", "fill": "colour:sand", "matte": {"layer": "mark", "of": "alpha"}`}
	for media, want := range map[string]bool{still: false, clear: true} {
		in := input(t, cut...)
		in.Source = drawn.Source{still: {W: 300, H: 200, RGBA: [4]uint8{30, 40, 60, 255}}, clear: {W: 300, H: 200, RGBA: [4]uint8{9, 9, 9, 100}}}
		in.Values.Fills["logo"] = sheet.Fill{Media: media}
		r := run(t, in)
		n := 0
		for _, f := range r.Findings {
			if f.Kind == OpaqueMark {
				if n++; f.Hint != want {
					t.Errorf("%s: %+v", media[:10], f)
				}
			}
			if f.Kind == UnseenMark || f.Kind == MeltingMark {
				t.Errorf("%s: what only cuts is said to be unseen or to melt: %+v", media[:10], f)
			}
		}
		if n != len(in.Doc.Formats) {
			t.Errorf("%s: told %d times", media[:10], n)
		}
	}
}

// A case that can't be drawn is a finding, and the others are tried.
// badged is the input with its mark in a group, and what more the group says and the sheet
// asks for.
func badged(t *testing.T, group map[string]any, entry map[string]any) Input {
	t.Helper()
	in := input(t)
	raw, err := json.Marshal(in.Doc)
	var doc map[string]any
	if err == nil {
		err = json.Unmarshal(raw, &doc)
	}
	if err != nil {
		t.Fatal(err)
	}
	layers := doc["layers"].([]any)
	for i, y := range layers {
		if y.(map[string]any)["id"] == "mark" {
			badge := map[string]any{"id": "badge", "name": "Badge", "kind": "group", "layers": []any{y}}
			maps.Copy(badge, group)
			layers[i] = badge
		}
	}
	if entry != nil {
		groups := doc["sheet"].(map[string]any)["groups"].([]any)
		g := groups[len(groups)-1].(map[string]any)
		g["entries"] = append(g["entries"].([]any), entry)
	}
	if raw, err = json.Marshal(doc); err == nil {
		in.Doc, err = template.Parse(raw)
	}
	if err != nil {
		t.Fatal(err)
	}
	return in
}

// A mark that a switch leaves out, with the group that it is in, is meant to be gone; one
// that is hidden whatever the sheet says is told.
func TestAMarkThatIsLeftOutIsNoFault(t *testing.T) {
	stop := func(at, value bool) map[string]any { return map[string]any{"at": at, "value": value} }
	show := map[string]any{"kind": "switch", "id": "show", "label": "Show", "default": true,
		"ties": []any{map[string]any{"to": "layers/badge/hidden", "stops": []any{stop(false, true), stop(true, false)}}}}
	if n := kinds(run(t, badged(t, nil, show)))[UnseenMark]; n != 0 {
		t.Errorf("a mark that is left out is told %d times", n)
	}
	if n := kinds(run(t, badged(t, map[string]any{"hidden": true}, nil)))[UnseenMark]; n == 0 {
		t.Error("a mark that is always hidden is not told")
	}
}

func TestACaseThatCannotBeDrawnEndsNothing(t *testing.T) {
	in := input(t)
	v := in.Values.Fills["flood"]
	v.Media = "sha256:" + strings.Repeat("d", 64) // which nobody has
	in.Values.Fills["flood"] = v
	r := run(t, in)
	if n := kinds(r)[NotDrawn]; n == 0 || n == r.Cases || len(r.Tiles) == 0 || len(r.Tiles)+n != r.Cases {
		t.Errorf("%d of %d cases, %d tiles: %v", n, r.Cases, len(r.Tiles), kinds(r))
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
