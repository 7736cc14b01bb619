package edit

import (
	"encoding/json"
	"errors"
	"fmt"
	"math/rand/v2"
	"os"
	"strings"
	"testing"

	"ivypocket/core/scheme"
	"ivypocket/core/template"
	"ivypocket/core/timing"
)

func draft(t *testing.T, name string) Draft {
	t.Helper()
	b, err := os.ReadFile("../../docs/examples/" + name + ".json")
	if err != nil {
		t.Fatal(err)
	}
	d, err := NewDraft(b)
	if err != nil {
		t.Fatal(err)
	}
	return d
}

func bytesOf(t *testing.T, d Draft) string {
	t.Helper()
	b, err := json.Marshal(d)
	if err != nil {
		t.Fatal(err)
	}
	return string(b)
}

// drafts are operations on the written split, each of which changes something.
var drafts = []DraftOp{
	{Kind: "set", Path: "layers/mark/place", Value: value(scheme.Many(10, 20))},
	{Kind: "set", Path: "layers/mark/place.x", Value: value(scheme.One(7))},
	{Kind: "set", Path: "layers/mark/size", Format: "square", Value: value(scheme.Many(9, 9))},
	{Kind: "set", Path: "layers/mark/place.y", Format: "landscape", Value: value(scheme.One(3))},
	{Kind: "set", Path: "layers/mark/size", Format: "square"},
	{Kind: "set", Path: "layouts/tides/columns.2", Value: value(scheme.One(4))},
	{Kind: "set", Path: "colours/sand", Value: value(scheme.Says("#112233"))},
	{Kind: "set", Path: "pockets/ebb/framing.zoom", Value: value(scheme.One(2))},
	{Kind: "set", Path: "pockets/flood/framing.zoom", Value: value(scheme.One(2))},
	{Kind: "set", Path: "pockets/flood/framing.turn", Value: value(scheme.One(5))},
	{Kind: "put", Path: "pockets/flood/framing"},
	{Kind: "set", Path: "layers/ground/hidden", Value: value(scheme.Is(true))},
	{Kind: "keys", Path: "layers/ground/turn", Move: &template.Move{Keys: []template.Key{{ID: "k1", At: timing.Int(0), Value: scheme.One(3)}}}},
	{Kind: "set", Path: "layers/ground/motion/turn/k1/value", Value: value(scheme.One(9))},
	{Kind: "keys", Path: "layers/ground/turn"},
	{Kind: "add", Into: "layers", At: 1, Part: json.RawMessage(`{"id": "band", "name": "Band", "kind": "group", "layers": []}`)},
	{Kind: "add", Into: "layers/band/layers", Part: json.RawMessage(`{"id": "rule", "name": "Rule", "kind": "shape", "fill": "#102030", "size": [10, 2]}`)},
	{Kind: "add", Into: "layers/rule/masks", Part: json.RawMessage(`{"id": "m", "feather": 3}`)},
	{Kind: "set", Path: "layers/rule/masks/m/feather", Value: value(scheme.One(8))},
	{Kind: "add", Into: "layers/rule/treatments", Part: json.RawMessage(`{"id": "soft", "kind": "blur", "radius": 2}`)},
	{Kind: "move", Path: "layers/mark", Into: "layers/band/layers", At: 0},
	{Kind: "move", Path: "layers/rule", Into: "layers", At: 0},
	{Kind: "move", Path: "layers/ground", Into: "layers", At: 2},
	{Kind: "rename", Path: "layers/rule", Name: "Rule, fine"},
	{Kind: "put", Path: "layers/rule/formulas/turn", Part: json.RawMessage(`"time.frames * 2"`)},
	{Kind: "put", Path: "layers/rule", Part: json.RawMessage(`{"id": "rule", "name": "Other", "kind": "shape", "stroke": {"colour": "#000000", "width": 2}}`)},
	{Kind: "put", Path: "spans", Part: json.RawMessage(`[{"kind": "held", "from": 0, "to": 10}]`)},
	{Kind: "add", Into: "groups", At: 1, Part: json.RawMessage(`{"id": "amounts", "label": "Amounts", "entries": []}`)},
	{Kind: "add", Into: "groups/amounts/entries", Part: json.RawMessage(`{"id": "faint", "label": "Faint", "kind": "amount", "default": 1, "min": 0, "max": 1, "ties": [{"to": "layers/mark/opacity"}]}`)},
	{Kind: "tie", Entry: "border", Ties: []template.Tie{{To: "layouts/tides/gutter"}}},
	{Kind: "add", Into: "pockets", At: 99, Part: json.RawMessage(`{"id": "extra", "name": "Extra", "kinds": ["picture"]}`)},
	{Kind: "remove", Path: "pockets/extra"},
	{Kind: "remove", Path: "layers/rule/masks/m"}, // of a layer that was put anew: not there
	{Kind: "add", Into: "motifs", Part: json.RawMessage(`{"id": "gull", "name": "Gull", "kind": "group", "layers": [{"id": "wing", "name": "Wing", "kind": "shape", "fill": "#ffffff"}]}`)},
	{Kind: "add", Into: "layers", Part: json.RawMessage(`{"id": "one", "name": "One", "kind": "use", "motif": "gull"}`)},
	{Kind: "set", Path: "layers/one:wing/fill", Value: value(scheme.Says("#ff0000"))},
	{Kind: "set", Path: "layers/wing/fill", Value: value(scheme.Says("#00ff00"))},
	{Kind: "batch", Ops: []DraftOp{{Kind: "remove", Path: "layers/one"}, {Kind: "remove", Path: "layers/gull"}}},
	{Kind: "remove", Path: "entries/border-colour"},
	{Kind: "move", Path: "entries/ebb-tide", Into: "groups/amounts/entries", At: 0},
	{Kind: "move", Path: "layers/mark", Into: "layers", At: 99},
	{Kind: "remove", Path: "layers/band"},
}

// Every operation is taken back to the byte and carried out again, one by one and
// all of them.
func TestEveryDraftOperationIsTakenBackToTheByte(t *testing.T) {
	states := []Draft{draft(t, "split")}
	var done [][]Change
	refused := 0
	for i, op := range drafts {
		d := states[len(states)-1]
		next, changes, err := d.Do(op)
		if err != nil {
			if op.Path != "layers/rule/masks/m" {
				t.Fatalf("%d, %s %s%s: %v", i, op.Kind, op.Path, op.Into, err)
			}
			refused++
			continue
		}
		if len(changes) == 0 || bytesOf(t, next) == bytesOf(t, d) {
			t.Fatalf("%d, %s %s changed nothing", i, op.Kind, op.Path)
		}
		back, err := next.Replay(Reverse(changes))
		if err != nil || bytesOf(t, back) != bytesOf(t, d) {
			t.Fatalf("%d, taking back %s %s%s: %v\n%s\n%s", i, op.Kind, op.Path, op.Into, err, bytesOf(t, back), bytesOf(t, d))
		}
		again, err := back.Replay(changes)
		if err != nil || bytesOf(t, again) != bytesOf(t, next) {
			t.Fatalf("%d, carrying out %s %s%s again: %v", i, op.Kind, op.Path, op.Into, err)
		}
		states, done = append(states, next), append(done, changes)
	}
	if refused != 1 {
		t.Errorf("%d operations were refused", refused)
	}
	d := states[len(states)-1]
	for i := len(done) - 1; i >= 0; i-- {
		var err error
		if d, err = d.Replay(Reverse(done[i])); err != nil || bytesOf(t, d) != bytesOf(t, states[i]) {
			t.Fatalf("back to state %d: %v", i, err)
		}
	}
}

// At random, what is done to a draft is taken back in the other order to the byte.
func TestDraftsComeBackFromAnywhere(t *testing.T) {
	rng := rand.New(rand.NewPCG(11, 12))
	for round := range 30 {
		d := draft(t, "split")
		first := bytesOf(t, d)
		var done [][]Change
		for range 40 {
			op := drafts[rng.IntN(len(drafts))]
			if next, changes, err := d.Do(op); err == nil && len(changes) > 0 {
				d, done = next, append(done, changes)
			}
		}
		if len(done) < 8 {
			t.Fatalf("round %d did %d operations", round, len(done))
		}
		for i := len(done) - 1; i >= 0; i-- {
			var err error
			if d, err = d.Replay(Reverse(done[i])); err != nil {
				t.Fatalf("round %d: %v", round, err)
			}
		}
		if bytesOf(t, d) != first {
			t.Fatalf("round %d came back to another draft", round)
		}
	}
}

// Operations in a batch come to what they come to one by one, and are taken back and
// carried out again as one, to the byte.
func TestBatchesComeToTheSame(t *testing.T) {
	rng := rand.New(rand.NewPCG(3, 4))
	tried := 0
	for round := range 60 {
		d := draft(t, "split")
		for _, op := range drafts[:rng.IntN(len(drafts))] {
			if next, _, err := d.Do(op); err == nil {
				d = next
			}
		}
		var ops []DraftOp
		last := d
		for range 12 {
			op := drafts[rng.IntN(len(drafts))]
			if next, changes, err := last.Do(op); err == nil && len(changes) > 0 && op.Kind != "batch" {
				last, ops = next, append(ops, op)
			}
		}
		if len(ops) < 2 {
			continue
		}
		tried++
		all, changes, err := d.Do(DraftOp{Kind: "batch", Ops: ops})
		if err != nil || bytesOf(t, all) != bytesOf(t, last) {
			t.Fatalf("round %d: %v\n%s\nnot\n%s", round, err, bytesOf(t, all), bytesOf(t, last))
		}
		back, err := all.Replay(Reverse(changes))
		if err != nil || bytesOf(t, back) != bytesOf(t, d) {
			t.Fatalf("round %d, taken back: %v\n%s", round, err, marshalled(t, changes))
		}
		if again, err := back.Replay(changes); err != nil || bytesOf(t, again) != bytesOf(t, all) {
			t.Fatalf("round %d, carried out again: %v", round, err)
		}
	}
	if tried < 40 {
		t.Errorf("%d batches were tried", tried)
	}
}

// What would leave a draft unsound is refused with its reason, and changes nothing.
func TestUnsoundOperationsAreRefused(t *testing.T) {
	d := draft(t, "split")
	for want, op := range map[string]DraftOp{
		"kind":                     {Kind: "sing"},
		"there is no layer named":  {Kind: "set", Path: "layers/attic/size", Value: value(scheme.Many(1, 1))},
		"value: is not a pair":     {Kind: "set", Path: "layers/mark/size", Value: value(scheme.One(1))},
		"outside":                  {Kind: "set", Path: "layers/mark/size", Format: "square", Value: value(scheme.Many(1, -1))},
		"no pocket named":          {Kind: "remove", Path: "pockets/flood"},
		"there is no layout named": {Kind: "remove", Path: "layouts/tides"},
		"is not an id":             {Kind: "add", Into: "layers", Part: json.RawMessage(`{"id": "The One"}`)},
		"there already":            {Kind: "add", Into: "layers", Part: json.RawMessage(`{"id": "mark", "name": "M", "kind": "shape", "fill": "#000000"}`)},
		"already the id":           {Kind: "add", Into: "layers", Part: json.RawMessage(`{"id": "tides", "name": "M", "kind": "shape", "fill": "#000000"}`)},
		"part: is not an object":   {Kind: "add", Into: "layers", Part: json.RawMessage(`3`)},
		"there is no list":         {Kind: "add", Into: "layers/mark/wheels", Part: json.RawMessage(`{"id": "a"}`)},
		"does not go into":         {Kind: "move", Path: "layers/mark", Into: "pockets"},
		"has no property":          {Kind: "put", Path: "layers/mark/formulas/smell", Part: json.RawMessage(`"1"`)},
		"not a member that is set": {Kind: "put", Path: "layers/mark/id", Part: json.RawMessage(`"other"`)},
		"name: needs":              {Kind: "rename", Path: "layers/mark", Name: " "},
		"ops[1]":                   {Kind: "batch", Ops: []DraftOp{{Kind: "rename", Path: "layers/mark", Name: "x"}, {Kind: "sing"}}},
		"ops: a batch":             {Kind: "batch"},
	} {
		next, changes, err := d.Do(op)
		if err == nil || !strings.Contains(err.Error(), want) || len(changes) > 0 && bytesOf(t, next) == "" {
			t.Errorf("%s %s: %v, want %q", op.Kind, op.Path, err, want)
		}
	}
	if a, b := bytesOf(t, d), bytesOf(t, draft(t, "split")); a != b {
		t.Error("refused operations changed the draft")
	}
	if _, changes, err := d.Do(DraftOp{Kind: "set", Path: "colours/sand", Value: value(scheme.Says("#e7d3a2"))}); err != nil || len(changes) != 0 {
		t.Errorf("asking for what is so already: %v, %v", changes, err)
	}
	// A group does not go into itself.
	g, _, err := d.Do(DraftOp{Kind: "add", Into: "layers", Part: json.RawMessage(`{"id": "g", "name": "G", "kind": "group", "layers": [{"id": "h", "name": "H", "kind": "group", "layers": []}]}`)})
	if err != nil {
		t.Fatal(err)
	}
	if _, _, err := g.Do(DraftOp{Kind: "move", Path: "layers/g", Into: "layers/h/layers"}); err == nil {
		t.Error("a group went into itself")
	}
}

// A half-built draft is sound, kept and opened again; what it lacks is told when it
// is to be released.
func TestHalfBuiltDraftsAreKept(t *testing.T) {
	d, err := NewDraft([]byte(`{"ivypocket": 3, "kind": "template", "id": "t", "name": "", "category": "", "rate": "25", "frames": 50, "formats": [], "layers": [
		{"id": "v", "name": "V", "kind": "view"}, {"id": "s", "name": "S", "kind": "shape"}, {"id": "g", "name": "G", "kind": "ground"}],
		"sheet": {"groups": [{"id": "m", "label": "", "entries": [{"id": "e", "label": "", "kind": "amount"}, {"id": "f", "label": "", "kind": "media"}]}]}}`))
	if err != nil {
		t.Fatal(err)
	}
	again, err := NewDraft([]byte(bytesOf(t, d)))
	if err != nil || bytesOf(t, again) != bytesOf(t, d) {
		t.Errorf("opened again: %v", err)
	}
	var faults template.Faults
	if err := d.Doc.Validate(); !errors.As(err, &faults) || len(faults) < 9 {
		t.Errorf("%d things are missing: %v", len(faults), err)
	}
	if n := len(d.Doc.Findings()); n < 0 {
		t.Error(n)
	}
}

// Undo of what somebody else changed is a conflict; of what stands beside it, it
// is not.
func TestDraftsConflictWhereTheyOverlap(t *testing.T) {
	d := draft(t, "split")
	do := func(op DraftOp) []Change {
		t.Helper()
		next, changes, err := d.Do(op)
		if err != nil {
			t.Fatal(err)
		}
		d = next
		return changes
	}
	place := do(DraftOp{Kind: "set", Path: "layers/mark/place", Value: value(scheme.Many(1, 1))})
	size := do(DraftOp{Kind: "set", Path: "layers/mark/size", Value: value(scheme.Many(5, 5))})
	added := do(DraftOp{Kind: "add", Into: "layers", Part: json.RawMessage(`{"id": "new", "name": "N", "kind": "group", "layers": []}`)})
	do(DraftOp{Kind: "set", Path: "layers/mark/place", Value: value(scheme.Many(2, 2))})
	do(DraftOp{Kind: "set", Path: "layers/new/turn", Value: value(scheme.One(3))})
	moved := do(DraftOp{Kind: "move", Path: "layers/mark", Into: "layers/new/layers"})
	var conflict *ConflictError
	for what, c := range map[string][]Change{"a place set again": place, "something new that was changed": added} {
		if _, err := d.Replay(Reverse(c)); !errors.As(err, &conflict) {
			t.Errorf("%s: %v", what, err)
		}
	}
	for what, c := range map[string][]Change{"a size, wherever the layer is": size, "a move": moved} {
		if _, err := d.Replay(Reverse(c)); err != nil {
			t.Errorf("%s: %v", what, err)
		}
	}
	for _, c := range []struct {
		a, b []Change
		want bool
	}{{place, size, false}, {added, []Change{{Path: "layers/new/turn"}}, true}, {moved, []Change{{Path: "layers/mark/place"}}, true}, {moved, []Change{{Path: "layers/marker/place"}}, false}} {
		if got := Overlap(c.a, c.b) != ""; got != c.want {
			t.Errorf("%v and %v overlap: %v", c.a[0].Path, c.b[0].Path, got)
		}
	}
}

func BenchmarkDraft(b *testing.B) {
	var layers []string
	for i := range 500 {
		layers = append(layers, fmt.Sprintf(`{"id": "y%d", "name": "Y", "kind": "shape", "fill": "#1e7383", "place": [%d, 0], "size": [20, 20], "motion": {"turn": {"keys": [{"at": 0, "value": 0}, {"at": 40, "value": 90}]}}}`, i, i))
	}
	d, err := NewDraft(fmt.Appendf(nil, `{"ivypocket": 3, "kind": "template", "id": "t", "name": "T", "category": "T", "rate": "25", "frames": 50, "formats": [{"id": "l", "name": "L", "width": 1920, "height": 1080}], "layers": [%s]}`, strings.Join(layers, ",")))
	if err != nil {
		b.Fatal(err)
	}
	n := 0
	for b.Loop() {
		n++
		if d, _, err = d.Do(DraftOp{Kind: "set", Path: "layers/y7/place", Value: value(scheme.Many(float64(n%900), 3))}); err != nil {
			b.Fatal(err)
		}
	}
}
