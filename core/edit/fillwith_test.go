package edit

import (
	"encoding/json"
	"slices"
	"testing"

	"ivypocket/core/geom"
	"ivypocket/core/internal/sample"
	"ivypocket/core/template"
	"ivypocket/core/timing"
)

// around is the sample put around a clip, from A to B, or as it is, with its pockets in
// that part.
func around(t *testing.T, p template.Purpose, roles map[string]template.Role) *template.Document {
	t.Helper()
	d := sample.Lasting(t)
	d.Purpose = p
	d.Pockets = slices.Clone(d.Pockets)
	for i := range d.Pockets {
		d.Pockets[i].Role = roles[d.Pockets[i].ID]
	}
	if err := d.Validate(); err != nil {
		t.Fatal(err)
	}
	return d
}

func given(name string, kind template.MediaKind, w, h float64, rate string, frames int64) Given {
	g := Given{Hash: mediaA, Name: name, Kind: kind, Size: geom.Size{W: w, H: h}}
	if rate != "" {
		r, _ := timing.ParseRate(rate)
		c := timing.Even(r, frames)
		g.Clip = &c
	}
	return g
}

func TestMediaGoesWhereATemplateIsMadeForIt(t *testing.T) {
	clip := given("Gulls.mp4", template.Footage, 1280, 720, "50", 500)
	still := given("Dunes.jpg", template.Picture, 3000, 2000, "", 0)
	mark := given("Kite.svg", template.Logo, 300, 300, "", 0)
	ids := func(all []*template.Pocket) (out []string) {
		for _, p := range all {
			out = append(out, p.ID)
		}
		return out
	}
	frame := around(t, template.Frame, map[string]template.Role{"ebb": template.RoleClip})
	from := around(t, template.Transition, map[string]template.Role{"ebb": template.RoleFrom, "flood": template.RoleTo})
	alone := sample.Lasting(t)
	for _, c := range []struct {
		what  string
		d     *template.Document
		media []Given
		want  []string
	}{
		{"a clip in a frame", frame, []Given{clip}, []string{"ebb"}},
		{"a frame's clip and a picture", frame, []Given{clip, still}, []string{"ebb", "flood"}},
		{"A and B", from, []Given{clip, still}, []string{"ebb", "flood"}},
		{"as the sheet asks", alone, []Given{clip, still}, []string{"flood", "ebb"}},
		{"a mark where marks go", alone, []Given{mark, clip}, []string{"logo", "flood"}},
		{"more than there are pockets", alone, []Given{clip, still, clip, still}, nil},
		{"two marks for one pocket", alone, []Given{mark, mark}, nil},
	} {
		if got := ids(Places(c.d, c.media)); !slices.Equal(got, c.want) {
			t.Errorf("%s goes to %v, want %v", c.what, got, c.want)
		}
	}

	// What is fixed for good takes nothing.
	fixed := changed(t, func(d *template.Document) {
		for g := range d.Sheet.Groups {
			for e := range d.Sheet.Groups[g].Entries {
				if d.Sheet.Groups[g].Entries[e].Pocket == "flood" {
					d.Sheet.Groups[g].Entries[e].Fixed = true
				}
			}
		}
	})
	if got := ids(Places(fixed, []Given{clip})); !slices.Equal(got, []string{"ebb"}) {
		t.Errorf("a pocket that is fixed is filled: %v", got)
	}

	op, err := FillWith(frame, []Given{clip, still})
	if err != nil || op.Name != "Fill with Gulls.mp4, Dunes.jpg" {
		t.Fatalf("%+v %v", op, err)
	}
	p := Piece{Name: "Gulls", Release: 1}
	next, changes, err := Apply(frame, p, op)
	if err != nil {
		t.Fatal(err)
	}
	v := next.Values
	if m := v.Measure; m == nil || m.Width != 1280 || m.Height != 720 || m.Rate.Label() != "50" || v.Frames != 500 || v.Fills["ebb"].Media != mediaA || v.Fills["flood"].Media != mediaA {
		t.Errorf("%+v", v)
	}
	if back, err := Replay(only(frame), next, Reverse(changes)); err != nil || !back.Values.Empty() {
		t.Errorf("taken back: %+v %v", back.Values, err)
	}
	// A row of it has the clip, and not its length.
	l := &List{}
	l.Widen(frame, next)
	if row := RowOf(frame, l, next, "a"); slices.Contains(row.Cells, "500") || slices.ContainsFunc(l.Columns, func(c string) bool { return frame.Sheet.Duration() != nil && c == frame.Sheet.Duration().DataName() }) {
		t.Errorf("%+v", l)
	}
	l.Columns = append(l.Columns, frame.Sheet.Duration().DataName())
	if row := RowOf(frame, l, next, "a"); row.Cells[len(row.Cells)-1] != "" {
		t.Errorf("%+v", row)
	}
	// A row fills with the clip and its measure; one with no clip leaves neither.
	rows := &List{Columns: []string{"ebb-tide"}, Rows: []Row{{"a", "Gulls", []string{mediaA}, nil}, {"b", "Nobody", []string{""}, nil}}}
	shelf := func(string) (Given, bool) { return clip, true }
	by := func(p Piece, id string) Piece {
		t.Helper()
		op, err := FromRow(frame, rows, id, shelf)
		if err != nil {
			t.Fatal(err)
		}
		next, _, err := Apply(frame, p, op)
		if err != nil {
			t.Fatal(err)
		}
		return next
	}
	full := by(p, "a")
	if empty := by(full, "b"); full.Values.Measure == nil || full.Values.Frames != 500 || !empty.Values.Empty() {
		t.Errorf("%+v, then %+v", full.Values, empty.Values)
	}
	// The next piece like it has neither the clip nor its measure.
	if n := v.Unfilled(); n.Measure != nil || n.Frames != 0 || v.Measure == nil {
		t.Errorf("%+v", n)
	}
	// A clip that is shorter than what is held leaves the shortest that can be.
	held := frame.Clone()
	held.Spans = []timing.Span{{Kind: timing.Held, From: 0, To: 20}}
	short, _, err := Apply(held, p, MeasureOf(held, given("Blink.mp4", template.Footage, 640, 360, "25", 3)))
	lo, _ := held.Measured(short.Values.Measure).Lengths()
	if err != nil || short.Values.Frames != lo || lo <= 3 {
		t.Errorf("%+v, at least %d: %v", short.Values, lo, err)
	}
	// A telephone's clip, whose frames come when they come, is seen at the usual rate nearby,
	// as long as it lasts: 301 frames in about 10.09 s are 302 at 29.97.
	starts := []int64{}
	for i := range int64(301) {
		starts = append(starts, i*33517+i%3*900)
	}
	phone, err := timing.Uneven(timing.Int(1_000_000), starts, 301*33517)
	if err != nil {
		t.Fatal(err)
	}
	shaky := given("Shaky.mp4", template.Footage, 1080, 1920, "", 0)
	shaky.Clip = &phone
	if op := MeasureOf(frame, shaky); op.Measure.Rate.Label() != "29.97" || op.Frames != 302 || op.Measure.Check(frame) != nil {
		t.Errorf("%s, %d frames, of a clip at %s: %v", op.Measure.Rate.Label(), op.Frames, phone.Rate.Label(), op.Measure.Check(frame))
	}
	// A picture gives its canvas alone.
	if still, _, err := Apply(frame, p, MeasureOf(frame, still)); err != nil || still.Values.Frames != 0 || still.Values.Measure.Rate != frame.Rate {
		t.Errorf("%+v %v", still.Values, err)
	}
	for _, d := range []*template.Document{from, alone} {
		if _, _, err := Apply(d, p, MeasureOf(d, clip)); err == nil {
			t.Errorf("%s is made to measure", d.Purpose)
		}
	}
	if _, err := FillWith(alone, []Given{clip, clip, clip}); err == nil {
		t.Error("three clips go into two pockets")
	}
	if _, err := FillWith(frame, nil); err == nil {
		t.Error("nothing is filled in")
	}
}

// A measure goes along to releases that are put around a clip, is aside in others, and
// comes back to the byte.
func TestAMeasureMovesAlong(t *testing.T) {
	frame := around(t, template.Frame, map[string]template.Role{"ebb": template.RoleClip})
	plain := sample.Lasting(t)
	later := around(t, template.Frame, map[string]template.Role{"flood": template.RoleClip})
	op, err := FillWith(frame, []Given{given("Gulls.mp4", template.Footage, 1280, 720, "59.94", 500)})
	if err != nil {
		t.Fatal(err)
	}
	p, _, err := Apply(frame, Piece{Name: "Gulls", Release: 1}, op)
	if err != nil {
		t.Fatal(err)
	}
	before, _ := json.Marshal(p)
	of := numbered(frame, plain, later)
	there, _, moved, err := Move(of, p, 2, anything)
	if err != nil || there.Values.Measure != nil || there.Aside == nil || there.Aside.Measure == nil || len(moved.Lost) == 0 || moved.Lost[0].Label != "The clip's measure" {
		t.Fatalf("%+v %+v %v", there, moved, err)
	}
	back, _, _, err := Move(of, there, 1, anything)
	if err != nil {
		t.Fatal(err)
	}
	if after, _ := json.Marshal(back); string(after) != string(before) {
		t.Errorf("%s\n%s", before, after)
	}
	along, _, _, err := Move(of, p, 3, anything)
	if err != nil || along.Values.Measure == nil || *along.Values.Measure != *p.Values.Measure || along.Values.Frames != p.Values.Frames || along.Aside != nil {
		t.Errorf("%+v %v", along, err)
	}
}

// Where no sheet asks for a length, it is the clip's in the other release, too.
func TestALengthMovesAlongWithItsMeasure(t *testing.T) {
	bare := func() *template.Document {
		d := around(t, template.Frame, map[string]template.Role{"ebb": template.RoleClip})
		d.Sheet.Groups = slices.Clone(d.Sheet.Groups)
		for i := range d.Sheet.Groups {
			d.Sheet.Groups[i].Entries = slices.DeleteFunc(slices.Clone(d.Sheet.Groups[i].Entries), func(e template.Entry) bool { return e.Kind == template.DurationEntry })
		}
		return d
	}
	p, _, err := Apply(bare(), Piece{Name: "Gulls", Release: 1}, MeasureOf(bare(), given("Gulls.mp4", template.Footage, 1280, 720, "59.94", 500)))
	if err != nil {
		t.Fatal(err)
	}
	along, _, moved, err := Move(numbered(bare(), bare()), p, 2, anything)
	if err != nil || along.Values.Frames != 500 || along.Aside != nil || len(moved.Lost) != 0 {
		t.Errorf("%+v %+v %v", along, moved, err)
	}
}

// A length that the sheet asks for is counted in the clip's frames.
func TestTheDurationOfAMeasuredPiece(t *testing.T) {
	d := around(t, template.Frame, map[string]template.Role{"ebb": template.RoleClip})
	p, _, err := Apply(d, Piece{Name: "Gulls"}, MeasureOf(d, given("Gulls.mp4", template.Footage, 1280, 720, "50", 500)))
	if err != nil {
		t.Fatal(err)
	}
	made := d.Measured(p.Values.Measure)
	p, _, err = Apply(d, p, Op{Kind: "frames", Frames: made.Own()})
	if err != nil || p.Values.Frames != 0 {
		t.Errorf("%d %v", p.Values.Frames, err)
	}
	lo, _ := made.Lengths()
	if _, _, err := Apply(d, p, Op{Kind: "frames", Frames: lo - 1}); err == nil {
		t.Error("it is shorter than the shortest")
	}
	if p, _, err = Apply(d, p, Op{Kind: "measure"}); err != nil || p.Values.Measure != nil || p.Values.Frames != 0 {
		t.Errorf("%+v %v", p.Values, err)
	}
}
