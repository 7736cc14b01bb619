package demo

import (
	"bytes"
	"context"
	"fmt"
	"math"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"ivypocket/core/cover"
	"ivypocket/core/edit"
	"ivypocket/core/raster"
	"ivypocket/core/scene"
	"ivypocket/core/scheme"
	"ivypocket/core/sheet"
	"ivypocket/core/template"
	"ivypocket/core/timing"
	"ivypocket/store"
)

// made gives every file of the demo a hash of its own.
func made() map[string]string {
	hashes := map[string]string{}
	for i, f := range files {
		hashes[f.id] = "sha256:" + (strings.Repeat(fmt.Sprintf("%x", i), 64))[:64]
	}
	return hashes
}

func TestFourWindsIsSoundAndEntersOneAfterAnother(t *testing.T) {
	d, err := Template("four-winds", made())
	if err != nil {
		t.Fatal(err)
	}
	if d.Rate.Label() != "29.97" || d.Frames != 240 || len(d.Formats) != 2 || len(d.Pockets) != 5 {
		t.Errorf("%s, %d frames, %d formats, %d pockets", d.Rate.Label(), d.Frames, len(d.Formats), len(d.Pockets))
	}
	last := -1.0
	for _, y := range d.Layers {
		if y.Kind != scheme.View || !y.Given(scheme.CellLayout) {
			continue
		}
		keys := y.Motion["place"].Keys
		if keys[0].At.Float() <= last || *keys[0].Ease != [4]float64{0.9, 0, 0.1, 1} {
			t.Errorf("%s enters at %s by %v", y.ID, keys[0].At, keys[0].Ease)
		}
		last = keys[0].At.Float()
	}
	var kinds []template.EntryKind
	for _, g := range d.Sheet.Groups {
		kinds = append(kinds, g.Entries[len(g.Entries)-1].Kind)
	}
	if !slices.Equal(kinds, []template.EntryKind{template.MediaEntry, template.ChoiceEntry, template.AmountEntry, template.ColourEntry}) {
		t.Errorf("the sheet's groups end in %v; media first, then choices, amounts and colours", kinds)
	}
}

// filled is a template of the demo with values, compiled for a format.
func filled(t *testing.T, id, format string, values map[string]scheme.Value) *scene.Scene {
	t.Helper()
	d, err := Template(id, made())
	if err != nil {
		t.Fatal(err)
	}
	r, err := sheet.Resolve(d, sheet.Values{Entries: values})
	if err != nil {
		t.Fatal(err)
	}
	s, err := scene.Compile(r, format, tinted{})
	if err != nil {
		t.Fatal(err)
	}
	return s
}

// Whatever layout and gutter are chosen, the mark stands in the middle of the gutters between
// the four skies, in both formats.
func TestTheMarkStandsWhereTheSkiesMeet(t *testing.T) {
	for _, format := range []string{"landscape", "vertical"} {
		seen := map[[2]float64]bool{}
		for _, layout := range []string{"even", "west", "east", "north"} {
			for _, gutter := range []float64{0, 16, 160} {
				at := map[string]scene.Stand{}
				for _, s := range filled(t, "four-winds", format, map[string]scheme.Value{"layout": scheme.Says(layout), "gutter": scheme.One(gutter)}).Stands() {
					at[s.Pocket] = s
				}
				nw, se, mark := at["north-west"], at["south-east"], at["mark-pocket"]
				x := (nw.Centre.X + nw.Size.W/2 + se.Centre.X - se.Size.W/2) / 2
				y := (nw.Centre.Y + nw.Size.H/2 + se.Centre.Y - se.Size.H/2) / 2
				if math.Abs(mark.Centre.X-x) > 0.01 || math.Abs(mark.Centre.Y-y) > 0.01 {
					t.Errorf("%s, %s, %g: the mark stands at %v, the skies meet at %g, %g", format, layout, gutter, mark.Centre, x, y)
				}
				seen[[2]float64{mark.Centre.X, mark.Centre.Y}] = true
			}
		}
		if len(seen) < 6 {
			t.Errorf("%s: the layouts lie alike: %v", format, seen)
		}
	}
}

// What is left out closes up: the quote of a card, the note of a board.
func TestWhatIsLeftOutClosesUp(t *testing.T) {
	for _, c := range []struct{ template, entry, goes, stays string }{{"maker-card", "show-quote", "quote", "name"}, {"wind-board", "show-note", "note", "headline"}} {
		for _, format := range []string{"landscape", "vertical"} {
			place := func(on bool) map[string]scene.Standing {
				s := filled(t, c.template, format, map[string]scheme.Value{c.entry: scheme.Is(on)})
				out := map[string]scene.Standing{}
				for _, st := range s.Standings(s.Time().At(timing.OutputFrame(s.Poster()))) {
					out[st.Layer] = st
				}
				return out
			}
			with, without := place(true), place(false)
			if a, b := with[c.stays].Now.Place[1], without[c.stays].Now.Place[1]; !(b > a+20) {
				t.Errorf("%s, %s: %s stands at %g with the %s and at %g without", c.template, format, c.stays, a, c.goes, b)
			}
		}
	}
}

func TestDrawingIsTheSameEveryTime(t *testing.T) {
	for _, name := range []string{"dawn", "squall"} {
		a, b := Coast(name, 120, 80), Coast(name, 120, 80)
		if !bytes.Equal(a.Pix, b.Pix) || !a.Opaque {
			t.Errorf("%s differs from itself", name)
		}
	}
}

func TestSeedingAgainKeepsWhatSomebodyMade(t *testing.T) {
	if testing.Short() {
		t.Skip("draws everything")
	}
	ctx, dir := context.Background(), t.TempDir()
	s, err := store.Open(dir)
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	// A template is on the shelf as soon as its media is drawn, while more is to come.
	var said, took, shelved, first int
	err = SeedSlowly(ctx, s, func(string) { said++ }, func(store.Medium) { took++ }, func() {
		if shelved++; shelved == 1 {
			first = took
			if list, err := s.Templates(ctx); err != nil || len(list) != 1 {
				t.Errorf("at first there are %d templates, %v", len(list), err)
			}
		}
	})
	if err != nil || said != len(files)+1 || took != len(files) || shelved != len(Templates) || first == 0 || first >= len(files) {
		t.Fatalf("%v, drew %d, took in %d, put %d on the shelf, the first after %d files", err, said, took, shelved, first)
	}
	p, err := s.NewPiece(ctx, "four-winds", 1, "Mine")
	if err != nil {
		t.Fatal(err)
	}
	if _, err := s.Do(ctx, p.ID, store.Sent{ID: "my-change", Author: "me", Op: edit.Op{Kind: "name", Name: "Still mine"}}); err != nil {
		t.Fatal(err)
	}
	said = 0
	if err := Seed(ctx, s, func(string) { said++ }); err != nil || said != 0 {
		t.Errorf("%v, drew %d again", err, said)
	}
	if list, err := s.Templates(ctx); err != nil || len(list) != len(Templates) || list[0].Number != 1 {
		t.Errorf("%+v, %v", list, err)
	}
	if row, err := s.Piece(ctx, p.ID); err != nil || !strings.Contains(row.Content, "Still mine") {
		t.Errorf("%+v, %v", row, err)
	}
	parts, err := filepath.Glob(filepath.Join(Files(dir), ".part-*"))
	if err != nil || parts != nil {
		t.Errorf("left %v", parts)
	}
	if entries, err := os.ReadDir(Files(dir)); err != nil || len(entries) != len(files)+1 { // and the folder of numbered pictures
		t.Errorf("%d files, %v", len(entries), err)
	}
}

// Gust hides its cut: at the frame of its cue nothing beneath is seen, in every format and at every length that is tried; its
// pennants go one after another in even steps, by one easing in and one out.
func TestGustHidesItsCut(t *testing.T) {
	d, err := Template("gust", made())
	if err != nil {
		t.Fatal(err)
	}
	var starts []float64
	d.Visit(func(_ string, y *template.Layer) {
		for _, p := range d.Performing(y) {
			starts = append(starts, p.Move.Keys[0].At.Float())
			if k := p.Move.Keys; k[0].Named != "blow-in" || k[2].Named != "blow-out" || k[2].At.Sub(k[0].At) != timing.Int(84) {
				t.Errorf("%s goes by %+v", y.Name, k)
			}
		}
	})
	if len(d.Moves) != 1 {
		t.Errorf("there are %d moves; one serves all pennants", len(d.Moves))
	}
	slices.Sort(starts)
	if !slices.Equal(starts, []float64{0, 4, 8, 12, 16}) {
		t.Errorf("pennants begin at %v", starts)
	}
	pictures := scene.NewPictures(tinted{}, 64<<20)
	p := scene.NewPainter(pictures)
	defer p.Close()
	for _, f := range d.Formats {
		sc, err := cover.Scene(&sheet.Resolved{Doc: d, Values: sheet.Values{}}, f.ID, tinted{})
		if err != nil {
			t.Fatal(err)
		}
		var ready scene.Ready
		var surface raster.Surface
		times, found, err := cover.Times(t.Context(), sc, d.Spans, func(ctx context.Context, l *scene.List) (*raster.Surface, error) {
			if err := pictures.Ready(ctx, l, &ready); err != nil {
				return nil, err
			}
			return &surface, p.PaintReady(ctx, l, &ready, &surface)
		})
		if err != nil {
			t.Fatal(err)
		}
		if at, ok := cover.Cut(found.Runs); !ok || at < 70 || at > 78 {
			t.Errorf("%s: covered %v", f.ID, found.Runs)
		}
		for _, length := range []int64{128, 0, 200, 288} {
			m, err := d.TimeMap(length)
			if err != nil {
				t.Fatal(err)
			}
			if at := int64(m.Frame(timing.TemplateTime{Rat: timing.Int(74)})); !cover.Holds(cover.Runs(times, m), at) {
				t.Errorf("%s at %d frames: a cut at frame %d is seen", f.ID, length, at)
			}
		}
	}
}
