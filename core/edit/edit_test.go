package edit

import (
	"errors"
	"reflect"
	"strings"
	"testing"

	"ivypocket/core/geom"
	"ivypocket/core/internal/sample"
	"ivypocket/core/scheme"
	"ivypocket/core/timing"
)

var (
	mediaA = "sha256:" + strings.Repeat("a", 64)
	mediaB = "sha256:" + strings.Repeat("b", 64)
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
	{Kind: "fill", Pocket: "flood", Media: mediaB},
	{Kind: "frame", Pocket: "flood", Format: "square"},
	{Kind: "batch", Ops: []Op{{Kind: "fill", Pocket: "flood"}, {Kind: "fill", Pocket: "ebb", Media: mediaA}}},
	{Kind: "frame", Pocket: "flood"},
	{Kind: "entry", Entry: "border"},
	{Kind: "rest", Path: "layers/ground/opacity", Value: value(scheme.One(0.5))},
	{Kind: "rest", Path: "layers/mark/size", Format: "square", Value: value(scheme.Many(90, 80))},
	{Kind: "rest", Path: "layers/mark/size", Value: value(scheme.Many(100, 100))},
	{Kind: "rest", Path: "layers/mark/size", Format: "square"},
	{Kind: "rest", Path: "layers/ground/opacity"},
	{Kind: "frames", Frames: 300},
	{Kind: "frames", Frames: 0},
}

func TestEveryOperationIsTakenBackAndCarriedOutAgain(t *testing.T) {
	d := sample.Split(t)
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
		if p, err = Replay(d, p, Reverse(done[i])); err != nil || !same(p, states[i]) {
			t.Fatalf("taking back %s: %v", everyOp[i].Kind, err)
		}
	}
	for i := range done {
		var err error
		if p, err = Replay(d, p, done[i]); err != nil || !same(p, states[i+1]) {
			t.Fatalf("carrying out %s again: %v", everyOp[i].Kind, err)
		}
	}
}

func TestSwappingKeepsTheFraming(t *testing.T) {
	d := sample.Split(t)
	p, _, err := Apply(d, Piece{Name: "x"}, everyOp[1])
	if err != nil {
		t.Fatal(err)
	}
	p, changes, err := Apply(d, p, Op{Kind: "fill", Pocket: "flood", Media: mediaB})
	if err != nil || len(changes) != 1 || changes[0].Path != "fills/flood/media" || p.Values.Fills["flood"].Framing.Zoom != 2 {
		t.Errorf("%v %v %+v", err, changes, p.Values)
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
	if _, err := Replay(d, p, Reverse(mine)); !errors.As(err, &conflict) || conflict.Path != "fills/flood/media" {
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
	d := sample.Split(t)
	for want, op := range map[string]Op{
		"kind":                  {Kind: "sing"},
		"pocket":                {Kind: "fill", Pocket: "attic", Media: mediaA},
		"fills.flood":           {Kind: "fill", Pocket: "flood", Media: "file:///etc/passwd"},
		"entry":                 {Kind: "entry", Entry: "mood"},
		"entries.border":        {Kind: "entry", Entry: "border", Value: value(scheme.One(-1))},
		"name":                  {Kind: "name", Name: "   "},
		"ops[1]":                {Kind: "batch", Ops: []Op{{Kind: "name", Name: "a"}, {Kind: "sing"}}},
		"ops":                   {Kind: "batch"},
		"path":                  {Kind: "rest", Path: "layers/attic/size"},
		"format":                {Kind: "rest", Path: "layers/mark/size", Format: "round"},
		"frames":                {Kind: "frames", Frames: -4},
		"rest.layers/mark/size": {Kind: "rest", Path: "layers/mark/size", Value: value(scheme.Many(1, -1))},
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

func TestOperationsHaveTitlesForPeople(t *testing.T) {
	d := sample.Split(t)
	for i, want := range map[int]string{0: "Swap Flood", 1: "Frame Flood", 3: "Set Border", 5: "Rename", 8: "2 changes", 9: "Reset framing of Flood", 10: "Reset Border", 11: "Set opacity of Backing", 14: "Reset size of Mark"} {
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
		there, err := Replay(d, p, changes)
		if err != nil {
			t.Fatal(err)
		}
		back, err := Replay(d, there, Reverse(changes))
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
	d := sample.Split(t)
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

func TestPathsOfOlderChangesAreUpgraded(t *testing.T) {
	for old, want := range map[string]string{
		"rest/mark/size": "rest/layers/mark/size", "formats/square/mark/masks.iris.path": "formats/square/layers/mark/masks/iris/form.path",
		"fills/flood/media": "fills/flood/media", "rest/layers/mark/size": "rest/layers/mark/size", "name": "name",
	} {
		if got := UpgradePath(old); got != want {
			t.Errorf("%s became %s, want %s", old, got, want)
		}
	}
}
