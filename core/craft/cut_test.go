package craft

import (
	"strings"
	"testing"
)

// The cut is kept as a cue, moved when it is kept again; and the clips of a transition change there, also in shifted groups.
func TestTheCutIsKeptAndMade(t *testing.T) {
	pockets := `, "purpose": "transition", "pockets": [{"id": "pa", "name": "A", "kinds": ["picture"], "role": "from"}, {"id": "pb", "name": "B", "kinds": ["picture"], "role": "to"}]`
	first := doc(t, `{"id": "a", "name": "Clip A", "kind": "view", "pocket": "pa"}, {"id": "g", "name": "G", "kind": "group", "shift": 10, "layers": [{"id": "b", "name": "Clip B", "kind": "view", "pocket": "pb", "in": 5, "out": 80}]}`, "", pockets)
	d, plan := do(t, first, Act{Kind: "cut-cue", At: 40})
	if len(d.Cues) != 1 || d.Cues[0].ID != "cut" || d.Cues[0].At.N != 40 {
		t.Errorf("%+v", d.Cues)
	}
	undone(t, first, plan)
	d, _ = do(t, d, Act{Kind: "cut-cue", At: 42})
	if len(d.Cues) != 1 || d.Cues[0].At.N != 42 {
		t.Errorf("%+v", d.Cues)
	}
	d, plan = do(t, first, Act{Kind: "cut-clips", At: 42})
	_, out := d.Layer("a").Span(d, d.Late("a"))
	in, _ := d.Layer("b").Span(d, d.Late("b"))
	if out.N != 42 || in.N != 42 {
		t.Errorf("A ends at %s, B begins at %s", out, in)
	}
	undone(t, first, plan)
	for at, says := range map[int]string{0: "before and after", 100: "before and after", 95: "Clip B ends before"} {
		if _, err := Do(first, shelf{}, Act{Kind: "cut-clips", Format: "wide", At: at}); err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("at %d: %v", at, err)
		}
	}
	if _, err := Do(doc(t, "", "", ""), shelf{}, Act{Kind: "cut-clips", Format: "wide", At: 40}); err == nil {
		t.Error("a template without clips is cut")
	}
}
