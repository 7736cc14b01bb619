package edit

import (
	"errors"
	"reflect"
	"strings"
	"testing"

	"ivypocket/core/geom"
	"ivypocket/core/internal/sample"
	"ivypocket/core/scheme"
	"ivypocket/core/template"
	"ivypocket/core/timing"
)

var (
	mediaA = "sha256:" + strings.Repeat("a", 64)
	mediaB = "sha256:" + strings.Repeat("b", 64)
	mediaC = "sha256:" + strings.Repeat("c", 64)
)

func value(v scheme.Value) *scheme.Value { return &v }

func framing(zoom float64) *geom.Framing {
	f := geom.DefaultFraming(geom.Cover)
	f.Zoom = zoom
	return &f
}

var everyOp = []Op{
	{Kind: "fill", Pocket: "flood", Media: mediaA},
	{Kind: "frame", Pocket: "flood", Framing: framing(2)},
	{Kind: "frame", Pocket: "flood", Format: "square", Framing: framing(3)},
	{Kind: "entry", Entry: "border", Value: value(scheme.One(40))},
	{Kind: "entry", Entry: "border-colour", Value: value(scheme.Says("#123456"))},
	{Kind: "name", Name: "  Wednesday  "},
	{Kind: "frame", Pocket: "flood", Format: "square"},
	{Kind: "keep", Pocket: "flood", Value: value(scheme.Is(true))},
	{Kind: "frame", Pocket: "flood"},
	{Kind: "batch", Ops: []Op{{Kind: "fill", Pocket: "flood"}, {Kind: "fill", Pocket: "ebb", Media: mediaA}}},
	{Kind: "entry", Entry: "border"},
	{Kind: "frames", Frames: 300},
	{Kind: "frames", Frames: 0},
	{Kind: "frame", Pocket: "flood", Framing: framing(2)},
	{Kind: "frame", Pocket: "flood", Framing: &geom.Framing{Turn: 20}, Members: []string{"turn"}},
	{Kind: "play", Pocket: "flood", Play: &timing.Play{Speed: timing.Int(2)}, Members: []string{"speed"}},
	{Kind: "fill", Pocket: "flood", Media: mediaA, Name: "As it was called here.png"},
	{Kind: "fill", Pocket: "flood", Media: mediaB},
}

func TestEveryOperationIsTakenBackAndCarriedOutAgain(t *testing.T) {
	d := sample.Lasting(t)
	states := []Piece{{Name: "Piece"}}
	var done [][]Change
	for _, op := range everyOp {
		next, changes, err := Apply(d, states[len(states)-1], op)
		if err != nil {
			t.Fatalf("%s: %v", op.Kind, err)
		}
		if len(changes) == 0 {
			t.Fatalf("%s %+v changed nothing", op.Kind, op)
		}
		states, done = append(states, next), append(done, changes)
	}
	same := func(a, b Piece) bool {
		x, _ := flatten(a)
		y, _ := flatten(b)
		return reflect.DeepEqual(x, y)
	}
	p := states[len(states)-1]
	for i := len(done) - 1; i >= 0; i-- {
		var err error
		if p, err = Replay(only(d), p, Reverse(done[i])); err != nil || !same(p, states[i]) {
			t.Fatalf("taking back %s: %v", everyOp[i].Kind, err)
		}
	}
	for i := range done {
		var err error
		if p, err = Replay(only(d), p, done[i]); err != nil || !same(p, states[i+1]) {
			t.Fatalf("carrying out %s again: %v", everyOp[i].Kind, err)
		}
	}
}

// Other media lies as its pocket has it, in all formats, unless the editor chose to
// keep the framing; the stand-in always does. The same media again changes nothing.
func TestOtherMediaIsFramedByItsPocketsRule(t *testing.T) {
	d := sample.Split(t)
	framed, _, err := Apply(d, Piece{Name: "x"}, Op{Kind: "batch", Ops: []Op{everyOp[0], everyOp[1], everyOp[2]}})
	if err != nil {
		t.Fatal(err)
	}
	kept, _, err := Apply(d, framed, Op{Kind: "keep", Pocket: "flood", Value: value(scheme.Is(true))})
	if err != nil {
		t.Fatal(err)
	}
	own := template.StandIn{Media: mediaB}
	d.Pocket("flood").StandIn = &own
	standIn, _, err := Apply(d, Piece{Name: "x"}, Op{Kind: "batch", Ops: []Op{{Kind: "fill", Pocket: "flood", Media: own.Media}, everyOp[1]}})
	if err != nil {
		t.Fatal(err)
	}
	for name, c := range map[string]struct {
		from  Piece
		media string
		zoom  float64 // 0: as the pocket has it
	}{
		"other media": {framed, mediaC, 0}, "the same": {framed, mediaA, 2}, "the stand-in": {framed, "", 0},
		"the stand-in by its own name, and back": {standIn, "", 0},
		"other media, kept":                      {kept, mediaC, 2}, "the stand-in, kept": {kept, "", 0},
	} {
		p, _, err := Apply(d, c.from, Op{Kind: "fill", Pocket: "flood", Media: c.media})
		f := p.Values.Fills["flood"]
		switch {
		case err != nil:
			t.Errorf("%s: %v", name, err)
		case c.zoom == 0 && (f.Framing != nil || len(f.Formats) > 0 || f.Keep):
			t.Errorf("%s: is framed as the one before: %+v", name, f)
		case c.zoom > 0 && (f.Framing == nil || f.Framing.Zoom != c.zoom || f.Formats["square"].Zoom != 3):
			t.Errorf("%s: its framing is lost: %+v", name, f)
		}
	}
	if p, _, err := Apply(d, framed, Op{Kind: "fill", Pocket: "flood", Media: mediaB, Value: value(scheme.Is(true))}); err != nil || p.Values.Fills["flood"].Framing == nil || p.Values.Fills["flood"].Keep {
		t.Errorf("kept this once: %v, %+v", err, p.Values.Fills)
	}
	if p, _, err := Apply(d, kept, Op{Kind: "batch", Ops: []Op{{Kind: "frame", Pocket: "flood"}, {Kind: "frame", Pocket: "flood", Format: "square"}}}); err != nil || p.Values.Fills["flood"].Keep {
		t.Errorf("there is no framing any more, and it is to be kept: %v", err)
	}
}

// Changes of different members of one framing do not overlap, and each can be undone
// alone, whichever came first.
func TestMembersOfAFramingAreChangedApart(t *testing.T) {
	d := sample.Split(t)
	part := func(f geom.Framing, members ...string) Op {
		return Op{Kind: "frame", Pocket: "flood", Framing: &f, Members: members}
	}
	p, first, err := Apply(d, Piece{Name: "x"}, part(geom.Framing{Turn: 20, Zoom: 9}, "turn"))
	if err != nil || p.Values.Fills["flood"].Framing.Zoom != 1 {
		t.Fatalf("%v: %+v", err, p.Values.Fills["flood"].Framing)
	}
	p, second, err := Apply(d, p, part(geom.Framing{Zoom: 3, FlipX: true}, "zoom", "flipX"))
	f := p.Values.Fills["flood"].Framing
	if err != nil || f.Turn != 20 || f.Zoom != 3 || !f.FlipX || f.Fit != geom.Cover {
		t.Fatalf("%v: %+v", err, f)
	}
	if path := Overlap(first, second); path != "" || !Same(first, second) {
		t.Errorf("overlap at %q, of one thing: %v", path, Same(first, second))
	}
	p, err = Replay(only(d), p, Reverse(first))
	if f := p.Values.Fills["flood"].Framing; err != nil || f == nil || f.Turn != 0 || f.Zoom != 3 || !f.FlipX {
		t.Errorf("the first undone: %v, %+v", err, f)
	}
	_, again, _ := Apply(d, p, part(geom.Framing{Zoom: 4}, "zoom"))
	if Overlap(second, again) == "" {
		t.Error("two changes of one member do not overlap")
	}
	_, reset, _ := Apply(d, p, Op{Kind: "frame", Pocket: "flood"})
	if Overlap(second, reset) == "" {
		t.Error("a reset and a change do not overlap")
	}
	if _, _, err := Apply(d, p, part(geom.Framing{}, "mood")); err == nil || !strings.HasPrefix(err.Error(), `members: "mood"`) {
		t.Errorf("a member that there is not: %v", err)
	}
}

// What was recorded of whole framings is undone and redone like what is recorded now.
func TestChangesOfWholeFramingsAreBroughtUpToDate(t *testing.T) {
	d := sample.Split(t)
	old := []Change{{Path: "fills/flood/framing", Before: []byte(`null`), After: []byte(`{"fit":"contain","focus":[0.5,0.5],"pan":[0.1,0],"zoom":2,"turn":0}`)},
		{Path: "fills/flood/formats/square", Before: []byte(`null`), After: []byte(`{"fit":"cover","focus":[0.5,0.5],"pan":[0,0],"zoom":3,"turn":0}`)},
		{Path: "fills/flood/play", Before: []byte(`{"in":4}`), After: []byte(`{"in":4,"speed":"2"}`)}, {Path: "entries/border", Before: []byte(`null`), After: []byte(`12`)}}
	var now []Change
	for _, c := range old {
		now = append(now, UpgradeChange(c)...)
	}
	p, _, err := Apply(d, Piece{Name: "x"}, Op{Kind: "play", Pocket: "flood", Play: &timing.Play{In: 4}})
	if err != nil {
		t.Fatal(err)
	}
	done, err := Replay(only(d), p, now)
	f := done.Values.Fills["flood"]
	if err != nil || f.Framing.Zoom != 2 || f.Framing.Pan[0] != 0.1 || f.Formats["square"].Zoom != 3 || f.Play.Speed != timing.Int(2) || f.Play.In != 4 || done.Values.Entries["border"].Number() != 12 {
		t.Fatalf("%v: %+v", err, f)
	}
	if back, err := Replay(only(d), done, Reverse(now)); err != nil || back.Values.Fills["flood"].Framing != nil || back.Values.Fills["flood"].Play.In != 4 {
		t.Errorf("undone: %v, %+v", err, back.Values.Fills)
	}
}

func TestFramingAllFormatsKeepsThoseFramedApart(t *testing.T) {
	d := sample.Split(t)
	p, _, err := Apply(d, Piece{Name: "x"}, everyOp[2])
	if err != nil {
		t.Fatal(err)
	}
	for _, op := range []Op{everyOp[1], {Kind: "frame", Pocket: "flood"}} {
		next, changes, err := Apply(d, p, op)
		if err != nil || next.Values.Fills["flood"].Formats["square"].Zoom != 3 {
			t.Errorf("%+v: the square format's own framing is lost: %v, %v", op, changes, err)
		}
	}
}

func TestUndoOfWhatSomebodyElseChangedIsAConflict(t *testing.T) {
	d := sample.Split(t)
	p, mine, _ := Apply(d, Piece{Name: "x"}, Op{Kind: "fill", Pocket: "flood", Media: mediaA})
	p, theirs, _ := Apply(d, p, Op{Kind: "fill", Pocket: "flood", Media: mediaB})
	var conflict *ConflictError
	if _, err := Replay(only(d), p, Reverse(mine)); !errors.As(err, &conflict) || conflict.Path != "fills/flood/media" {
		t.Errorf("got %v", err)
	}
	if Overlap(mine, theirs) == "" {
		t.Error("two swaps of one pocket do not overlap")
	}
	_, frame, _ := Apply(d, p, everyOp[1])
	if path := Overlap(mine, frame); path != "" {
		t.Errorf("a swap and a framing overlap at %s", path)
	}
}

func TestOperationsThatCannotBeDoneChangeNothing(t *testing.T) {
	d := sample.Lasting(t)
	for want, op := range map[string]Op{
		"kind":           {Kind: "sing"},
		"pocket":         {Kind: "fill", Pocket: "attic", Media: mediaA},
		"fills.flood":    {Kind: "fill", Pocket: "flood", Media: "file:///etc/passwd"},
		"entry":          {Kind: "entry", Entry: "mood"},
		"entries.border": {Kind: "entry", Entry: "border", Value: value(scheme.One(-1))},
		"name":           {Kind: "name", Name: "   "},
		"ops[1]":         {Kind: "batch", Ops: []Op{{Kind: "name", Name: "a"}, {Kind: "sing"}}},
		"ops":            {Kind: "batch"},
		"members":        {Kind: "play", Pocket: "flood", Play: &timing.Play{}, Members: []string{"zoom"}},
		"value":          {Kind: "keep", Pocket: "flood", Value: value(scheme.One(1))},
		"pocket: has no": {Kind: "keep", Pocket: "flood", Value: value(scheme.Is(true))},
		"frames":         {Kind: "frames", Frames: -4},
	} {
		p := Piece{Name: "as it was"}
		got, changes, err := Apply(d, p, op)
		if err == nil || !strings.HasPrefix(err.Error(), want) || changes != nil || got.Name != "as it was" {
			t.Errorf("%s: %v, %v", want, err, changes)
		}
	}
	if _, changes, err := Apply(d, Piece{Name: "x"}, Op{Kind: "name", Name: "x"}); err != nil || len(changes) != 0 {
		t.Errorf("asking for what is so already: %v, %v", changes, err)
	}
}

// An editor changes what the sheet asks for, and nothing else: not what another pocket
// holds or how it lies there, nor the length of the piece.
func TestWhatTheSheetDoesNotAskForIsRefused(t *testing.T) {
	d := sample.Split(t)
	d.Sheet.Groups = []template.Group{d.Sheet.Groups[0]}
	d.Sheet.Groups[0].Entries[1].Fixed = true
	for want, op := range map[string]Op{
		"does not ask for the duration":            {Kind: "frames", Frames: 300},
		"does not ask for what lies in Ebb":        {Kind: "fill", Pocket: "ebb", Media: mediaA},
		"pocket: the sheet does not ask for what ": {Kind: "frame", Pocket: "ebb", Framing: framing(2)},
		"the sheet has no entry named":             {Kind: "entry", Entry: "border", Value: value(scheme.One(3))},
	} {
		if _, changes, err := Apply(d, Piece{Name: "x"}, op); err == nil || !strings.Contains(err.Error(), want) || changes != nil {
			t.Errorf("%s: %v, %v", op.Kind, err, changes)
		}
	}
	if _, _, err := Apply(d, Piece{Name: "x"}, Op{Kind: "fill", Pocket: "flood", Media: mediaA}); err != nil {
		t.Errorf("what it asks for: %v", err)
	}
	d.Sheet.Groups = nil
	if d.Sheet.Asks("flood") || d.Sheet.MayFrame("flood", "zoom") {
		t.Error("without an entry a pocket is the editor's")
	}
}

func TestOperationsHaveTitlesForPeople(t *testing.T) {
	d := sample.Split(t)
	for i, want := range map[int]string{0: "Media of Flood", 1: "Framing of Flood", 3: "Border", 5: "Rename", 8: "Reset framing of Flood", 9: "2 changes", 10: "Reset Border", 11: "Duration", 12: "Reset the duration",
		14: "Turn of Flood", 15: "Speed of Flood"} {
		if got := Title(d, everyOp[i]); got != want {
			t.Errorf("%q, want %q", got, want)
		}
	}
}

func TestOtherMediaBeginsAtItsFirstFrame(t *testing.T) {
	d := sample.Split(t)
	a, b := mediaA, mediaB
	p := Piece{Name: "p"}
	step := func(op Op) []Change {
		t.Helper()
		next, changes, err := Apply(d, p, op)
		if err != nil {
			t.Fatal(err)
		}
		// What is recorded brings the piece there and back.
		there, err := Replay(only(d), p, changes)
		if err != nil {
			t.Fatal(err)
		}
		back, err := Replay(only(d), there, Reverse(changes))
		if again, _ := diff(back, p); err != nil || len(again) != 0 {
			t.Fatalf("%v, %v", err, again)
		}
		p = next
		return changes
	}
	step(Op{Kind: "fill", Pocket: "ebb", Media: a})
	step(Op{Kind: "play", Pocket: "ebb", Play: &timing.Play{In: 9, Speed: timing.NewRat(1, 2), After: timing.Loop}})
	step(Op{Kind: "fill", Pocket: "ebb", Media: a})
	if got := p.Values.Fills["ebb"].Play; got == nil || got.In != 9 {
		t.Errorf("the same media again: %+v", got)
	}
	if c := step(Op{Kind: "fill", Pocket: "ebb", Media: b}); len(c) != 2 {
		t.Errorf("%d changes, want the media and how it runs", len(c))
	}
	if got := p.Values.Fills["ebb"].Play; got == nil || got.In != 0 || got.After != timing.Loop {
		t.Errorf("%+v", got)
	}
	step(Op{Kind: "play", Pocket: "ebb", Play: &timing.Play{In: 5}})
	step(Op{Kind: "fill", Pocket: "ebb", Media: a})
	if got := p.Values.Fills["ebb"].Play; got != nil {
		t.Errorf("an in-point alone: %+v", got)
	}
	if _, _, err := Apply(d, p, Op{Kind: "play", Pocket: "none", Play: &timing.Play{}}); err == nil {
		t.Error("a pocket that is not there was taken")
	}
}

// The template's own length is no length of the piece's: giving it resets, and
// where nothing was given it changes nothing.
func TestTheTemplatesOwnLengthResets(t *testing.T) {
	d := sample.Lasting(t)
	own := Op{Kind: "frames", Frames: d.Frames}
	if _, changes, err := Apply(d, Piece{Name: "x"}, own); err != nil || len(changes) != 0 {
		t.Errorf("%v, %v", changes, err)
	}
	longer, _, err := Apply(d, Piece{Name: "x"}, Op{Kind: "frames", Frames: d.Frames * 2})
	if err != nil || longer.Values.Frames != d.Frames*2 {
		t.Fatalf("%d, %v", longer.Values.Frames, err)
	}
	next, changes, err := Apply(d, longer, own)
	if err != nil || next.Values.Frames != 0 || len(changes) != 1 || Title(d, own) != "Reset the duration" {
		t.Errorf("%d frames, %v, %v, %q", next.Values.Frames, changes, err, Title(d, own))
	}
}

func TestBatchesAndNamesAreBounded(t *testing.T) {
	d := sample.Split(t)
	name := func(n int) Op { return Op{Kind: "name", Name: strings.Repeat("n", n)} }
	many := func(n int) (ops []Op) {
		for range n {
			ops = append(ops, name(3))
		}
		return
	}
	for what, c := range map[string]struct {
		op    Op
		fails bool
	}{
		"the longest name":    {name(MaxName), false},
		"a longer name":       {name(MaxName + 1), true},
		"the largest batch":   {Op{Kind: "batch", Ops: many(500)}, false},
		"a larger batch":      {Op{Kind: "batch", Ops: many(501)}, true},
		"a batch in a batch":  {Op{Kind: "batch", Ops: []Op{{Kind: "batch", Ops: many(1)}}}, true},
		"an operation of two": {Op{Kind: "batch", Ops: many(2)}, false},
	} {
		if _, _, err := Apply(d, Piece{Name: "x"}, c.op); (err != nil) != c.fails {
			t.Errorf("%s: %v", what, err)
		}
	}
}

// A path overlaps what it is a part of, and nothing that only begins alike.
func TestPathsOverlapTheirParts(t *testing.T) {
	one := func(path string) []Change { return []Change{{Path: path}} }
	for _, c := range []struct {
		a, b string
		want bool
	}{
		{"rest/layers/mark/place", "rest/layers/mark/place", true},
		{"rest/layers/mark/place", "rest/layers/mark/place.x", true},
		{"rest/layers/mark/place.y", "rest/layers/mark/place.x", false},
		{"rest/layers/mark/place", "rest/layers/mark/placement", false},
		{"rest/layers/mark/place", "rest/layers/mark/size", false},
		{"fills/flood", "fills/flood/media", true},
	} {
		if got := Overlap(one(c.a), one(c.b)) != "" && Overlap(one(c.b), one(c.a)) != ""; got != c.want {
			t.Errorf("%s and %s: %v", c.a, c.b, got)
		}
	}
}

// What of a pocket's framing its entry leaves to nobody stays as the template has it.
func TestFramingThatIsNotTheEditors(t *testing.T) {
	d := sample.Split(t)
	var entry *template.Entry
	for _, e := range d.Sheet.Entries() {
		if e.Kind == template.MediaEntry {
			entry = e
		}
	}
	parts := []string{"zoom", "focus"}
	entry.Framing = &parts
	own := geom.DefaultFraming(geom.Cover)
	if p := d.Pocket(entry.Pocket); p != nil {
		own = p.DefaultFraming()
	}
	for what, c := range map[string]struct {
		set func(f *geom.Framing)
		ok  bool
	}{
		"zoom": {func(f *geom.Framing) { f.Zoom = 1.5 }, true}, "focus": {func(f *geom.Framing) { f.Focus = [2]float64{0.2, 0.3} }, true},
		"turn": {func(f *geom.Framing) { f.Turn = 3 }, false}, "pan": {func(f *geom.Framing) { f.Pan = [2]float64{0.1, 0} }, false},
		"flip": {func(f *geom.Framing) { f.FlipX = true }, false}, "fit": {func(f *geom.Framing) { f.Fit = geom.Stretch }, false},
	} {
		f := own
		c.set(&f)
		_, _, err := Apply(d, Piece{Name: "P"}, Op{Kind: "frame", Pocket: entry.Pocket, Framing: &f})
		if (err == nil) != c.ok || err != nil && !strings.Contains(err.Error(), "the template keeps") {
			t.Errorf("%s: %v", what, err)
		}
	}
	if _, _, err := Apply(d, Piece{Name: "P"}, Op{Kind: "play", Pocket: entry.Pocket, Play: &timing.Play{In: 3}}); err == nil {
		t.Error("how clips run was changed")
	}
	if _, _, err := Apply(d, Piece{Name: "P"}, Op{Kind: "frame", Pocket: entry.Pocket}); err != nil {
		t.Errorf("reset: %v", err)
	}
}

// What is done to the sheet is called by its labels.
func TestTheSheetIsCalledByItsLabels(t *testing.T) {
	d := sample.Split(t)
	e := d.Sheet.Entries()[0]
	g := d.Sheet.Groups[0]
	for want, op := range map[string]DraftOp{
		"Move " + e.Label:               {Kind: "move", Path: "entries/" + e.ID},
		"Change help of " + e.Label:     {Kind: "put", Path: "entries/" + e.ID + "/help"},
		"Rename the heading " + g.Label: {Kind: "rename", Path: "groups/" + g.ID},
	} {
		if got := DraftTitle(d, op); got != want {
			t.Errorf("%q, not %q", got, want)
		}
	}
}
