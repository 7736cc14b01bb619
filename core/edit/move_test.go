package edit

import (
	"encoding/json"
	"errors"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"ivypocket/core/internal/sample"
	"ivypocket/core/scheme"
	"ivypocket/core/template"
	"ivypocket/core/timing"
)

// only yields one document for any release.
func only(d *template.Document) Releases {
	return func(int) (*template.Document, error) { return d, nil }
}

// numbered yields documents as releases 1, 2 and so on.
func numbered(all ...*template.Document) Releases {
	return func(n int) (*template.Document, error) {
		if n < 1 || n > len(all) {
			return nil, errors.New("there is no such release")
		}
		return all[n-1], nil
	}
}

func anything(string, *template.Pocket) bool { return true }

// filled is a piece of the sample, with a value in everything.
func filled(t *testing.T, d *template.Document) Piece {
	t.Helper()
	p := Piece{Name: "Piece", Release: 1}
	for _, op := range []Op{everyOp[0], everyOp[1], everyOp[2], {Kind: "fill", Pocket: "ebb", Media: mediaB, Name: "Ebb.png"}, everyOp[3], everyOp[4], {Kind: "frames", Frames: 300}} {
		var err error
		if p, _, err = Apply(d, p, op); err != nil {
			t.Fatal(err)
		}
	}
	return p
}

// changed is the sample as another release has it.
func changed(t *testing.T, f func(d *template.Document)) *template.Document {
	t.Helper()
	d := sample.Lasting(t)
	d.Sheet.Groups = slices.Clone(d.Sheet.Groups)
	for g := range d.Sheet.Groups {
		d.Sheet.Groups[g].Entries = slices.Clone(d.Sheet.Groups[g].Entries)
	}
	f(d)
	if err := d.Validate(); err != nil {
		t.Fatal(err)
	}
	return d
}

func withoutEntry(d *template.Document, id string) {
	for g := range d.Sheet.Groups {
		d.Sheet.Groups[g].Entries = slices.DeleteFunc(d.Sheet.Groups[g].Entries, func(e template.Entry) bool { return e.ID == id })
	}
	d.Sheet.Groups = slices.DeleteFunc(d.Sheet.Groups, func(g template.Group) bool { return len(g.Entries) == 0 })
}

func lines(all []Line) string {
	var out []string
	for _, l := range all {
		out = append(out, strings.TrimSuffix(l.Label+": "+l.Says, ": "))
	}
	return strings.Join(out, "; ")
}

// What a release does not take is put aside and told with the reason; what is new, and
// what is called otherwise, is told.
func TestAMoveTellsWhatIsKeptLostAndNew(t *testing.T) {
	first := sample.Lasting(t)
	number := func(n float64) *float64 { return &n }
	for name, c := range map[string]struct {
		change                func(d *template.Document)
		kept, lost, new, back string
	}{
		"nothing is other": {func(*template.Document) {}, "Ebb tide: Ebb.png; Flood tide; Border: 40 px; Border colour: #123456; Length: 300 frames", "", "", ""},
		"an entry went": {func(d *template.Document) { withoutEntry(d, "border") }, "Ebb tide: Ebb.png; Flood tide; Border colour: #123456; Length: 300 frames",
			"Border: the sheet no longer asks for it", "", ""},
		"its limits are narrower": {func(d *template.Document) { d.Sheet.Entry("border").Max = number(30) }, "Ebb tide: Ebb.png; Flood tide; Border colour: #123456; Length: 300 frames",
			"Border: 40 is outside 0 to 30", "", ""},
		"it is fixed": {func(d *template.Document) { d.Sheet.Entry("border").Fixed = true }, "Ebb tide: Ebb.png; Flood tide; Border colour: #123456; Length: 300 frames",
			"Border: it is fixed for good now", "", ""},
		"it is called otherwise": {func(d *template.Document) { d.Sheet.Entry("border").Label = "Seam" }, "Ebb tide: Ebb.png; Flood tide; Seam: 40 px, was called Border; Border colour: #123456; Length: 300 frames", "", "", ""},
		"one is new": {func(d *template.Document) {
			d.Sheet.Groups = append(d.Sheet.Groups, template.Group{ID: "more", Label: "More", Entries: []template.Entry{{ID: "tint", Label: "Tint", Kind: template.ColourEntry, Default: value(scheme.Says("#000000"))}}})
		}, "Ebb tide: Ebb.png; Flood tide; Border: 40 px; Border colour: #123456; Length: 300 frames", "", "Tint", ""},
		"a pocket went": {func(d *template.Document) { withoutEntry(d, "ebb-tide") }, "Flood tide; Border: 40 px; Border colour: #123456; Length: 300 frames",
			"Ebb: the sheet no longer asks for it", "", ""},
		"a format went": {func(d *template.Document) { d.Formats = d.Formats[:1] }, "Ebb tide: Ebb.png; Flood tide; Border: 40 px; Border colour: #123456; Length: 300 frames",
			"Flood tide: its framing in Square: there is no such format", "", ""},
		"the length went": {func(d *template.Document) { withoutEntry(d, "length") }, "Ebb tide: Ebb.png; Flood tide; Border: 40 px; Border colour: #123456",
			"Length: the sheet no longer asks for it", "", ""},
		"it is shorter": {func(d *template.Document) { d.Sheet.Entry("length").Max = number(200) }, "Ebb tide: Ebb.png; Flood tide; Border: 40 px; Border colour: #123456",
			"Length: Length goes from 1 to 200 frames, and 300 lies outside", "", ""},
	} {
		of := numbered(first, changed(t, c.change))
		p := filled(t, first)
		next, changes, m, err := Move(of, p, 2, anything)
		if err != nil {
			t.Errorf("%s: %v", name, err)
			continue
		}
		if got := [4]string{lines(m.Kept), lines(m.Lost), lines(m.New), lines(m.Back)}; got != [4]string{c.kept, c.lost, c.new, c.back} {
			t.Errorf("%s:\n%q, want\n%q", name, got, [4]string{c.kept, c.lost, c.new, c.back})
		}
		if next.Release != 2 || (next.Aside != nil) != (c.lost != "") {
			t.Errorf("%s: release %d, aside %v", name, next.Release, next.Aside)
		}
		// It comes back where it is asked for again, and is told.
		again, _, m, err := Move(of, next, 1, anything)
		if err != nil || same(t, again) != same(t, p) || len(m.Lost) > 0 || (len(m.Back) > 0) != (c.lost != "" && name != "a format went") {
			t.Errorf("%s: moved back it is\n%s, %v (%v), was\n%s", name, same(t, again), m, err, same(t, p))
		}
		if undone, err := Replay(of, next, Reverse(changes)); err != nil || same(t, undone) != same(t, p) || undone.Release != 1 {
			t.Errorf("%s: undone it is %s: %v", name, same(t, undone), err)
		}
	}
	p := filled(t, first)
	if _, changes, _, err := Move(numbered(first), p, 1, anything); err != nil || changes != nil {
		t.Errorf("to its own release: %v %v", changes, err)
	}
	if _, _, _, err := Move(numbered(first), p, 2, anything); err == nil {
		t.Error("it went to a release that is not there")
	}
	if _, _, m, err := Move(numbered(first, first), p, 2, func(hash string, _ *template.Pocket) bool { return hash != mediaB }); err != nil || lines(m.Lost) != "Ebb: the pocket takes no media of this kind" {
		t.Errorf("media that a pocket does not take: %v, %v", lines(m.Lost), err)
	}
}

// same is a piece to the byte, with its release.
func same(t *testing.T, p Piece) string {
	t.Helper()
	b, err := json.Marshal(p)
	if err != nil {
		t.Fatal(err)
	}
	return fmt.Sprint(p.Release, " ", string(b))
}

// What an editor sets where a value was put aside stands; what was aside gives way.
func TestWhatIsSetSinceAMoveStands(t *testing.T) {
	first, most := sample.Lasting(t), 30.0
	of := numbered(first, changed(t, func(d *template.Document) { d.Sheet.Entry("border").Max = &most }))
	p := filled(t, first)
	p, _, _, err := Move(of, p, 2, anything)
	if err != nil || p.Aside == nil {
		t.Fatal(p.Aside, err)
	}
	second, _ := of(2)
	if p, _, err = Apply(second, p, Op{Kind: "entry", Entry: "border", Value: value(scheme.One(7))}); err != nil || p.Aside == nil {
		t.Fatal(p.Aside, err)
	}
	if p, _, _, err = Move(of, p, 1, anything); err != nil || p.Values.Entries["border"].Number() != 7 || p.Aside != nil {
		t.Errorf("the border is %v, aside is %v: %v", p.Values.Entries["border"], p.Aside, err)
	}
}

// Whatever a piece holds and whatever releases there are: moved from one to another and
// back it is the same to the byte, moving is undone to the byte, and what a release is
// given is valid there. Seeded.
func TestMovingThereAndBackRestoresBytes(t *testing.T) {
	rng := rand.New(rand.NewPCG(13, 8))
	all := []*template.Document{sample.Lasting(t)}
	for range 5 {
		all = append(all, changed(t, func(d *template.Document) {
			for _, id := range []string{"border", "border-colour", "flood-tide", "ebb-tide", "mark", "length"} {
				e := d.Sheet.Entry(id)
				switch n := rng.IntN(6); {
				case n == 0:
					withoutEntry(d, id)
				case n == 1:
					e.Fixed = true
				case n == 2 && e.Kind == template.AmountEntry:
					most := 12 + rng.Float64()*40
					e.Max = &most
				case n == 3 && e.Kind == template.DurationEntry:
					most := 150 + float64(rng.IntN(300))
					e.Max = &most
				}
			}
			if rng.IntN(3) == 0 {
				d.Formats = d.Formats[:1]
			}
		}))
	}
	of := numbered(all...)
	for range 400 {
		n := 1 + rng.IntN(len(all))
		d := all[n-1]
		p := Piece{Name: "Piece", Release: n}
		for range 12 {
			var op Op
			pocket := []string{"flood", "ebb", "logo"}[rng.IntN(3)]
			switch rng.IntN(6) {
			case 0:
				op = Op{Kind: "fill", Pocket: pocket, Media: []string{mediaA, mediaB, mediaC}[rng.IntN(3)]}
			case 1:
				op = Op{Kind: "frame", Pocket: pocket, Framing: framing(1 + rng.Float64()), Format: []string{"", "landscape", "square"}[rng.IntN(3)]}
			case 2:
				op = Op{Kind: "entry", Entry: "border", Value: value(scheme.One(float64(rng.IntN(60))))}
			case 3:
				op = Op{Kind: "entry", Entry: "border-colour", Value: value(scheme.Says(fmt.Sprintf("#%06x", rng.IntN(1<<24))))}
			case 4:
				op = Op{Kind: "frames", Frames: 1 + rng.Int64N(500)}
			case 5:
				op = Op{Kind: "play", Pocket: pocket, Play: &timing.Play{In: timing.SourceFrame(rng.IntN(9))}}
			}
			if next, _, err := Apply(d, p, op); err == nil {
				p = next
			}
		}
		kinds := func(hash string, k *template.Pocket) bool { return hash != mediaC || k.ID != "logo" }
		to := 1 + rng.IntN(len(all))
		there, changes, m, err := Move(of, p, to, kinds)
		if err != nil {
			t.Fatal(err)
		}
		if err := there.Values.Validate(all[to-1]); err != nil {
			t.Errorf("from %d to %d it is not valid: %v", n, to, err)
		}
		if undone, err := Replay(of, there, Reverse(changes)); err != nil || same(t, undone) != same(t, p) {
			t.Errorf("undone from %d to %d it is\n%s, was\n%s: %v", n, to, same(t, undone), same(t, p), err)
		}
		back, _, _, err := Move(of, there, n, anything)
		if err != nil || same(t, back) != same(t, p) {
			t.Errorf("from %d to %d and back it is\n%s, was\n%s: %v", n, to, same(t, back), same(t, p), err)
		}
		if len(m.Lost) > 0 != (there.Aside != nil) {
			t.Errorf("lost %v, aside %v", m.Lost, there.Aside)
		}
	}
}
