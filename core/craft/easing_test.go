package craft

import (
	"strings"
	"testing"

	"ivypocket/core/scheme"
	"ivypocket/core/template"
	"ivypocket/core/timing"
)

// An easing is kept by name and changed in one place: all keys that go by it go along, in masks and groups too; those that
// were eased otherwise meanwhile, by hand or turned round, do not.
func TestAnEasingIsChangedInOnePlace(t *testing.T) {
	first := doc(t, keyedLayers, "", "")
	keys := []string{"layers/kite/motion/turn/b", "layers/kite/motion/place/a", "layers/bar/motion/size/a", "layers/kite/masks/m/motion/turn/a"}
	d, plan := do(t, first, Act{Kind: "easing", Name: "Snap", Value: ptr(scheme.Many(0.9, 0, 0.05, 1))})
	if len(d.Easings) != 1 || d.Easings[0].ID != "snap" || plan.Op.Title != "Keep the easing Snap" {
		t.Fatalf("%+v", d.Easings)
	}
	undone(t, first, plan)
	kept := d
	d, plan = do(t, d, Act{Kind: "ease", Id: "snap", Keys: keys})
	if plan.Op.Title != "Snap for 4 keys of several layers" {
		t.Errorf("it is called %q", plan.Op.Title)
	}
	key := func(path string) template.Key {
		seg := strings.Split(path, "/")
		n := d.Layer(seg[1])
		if seg[2] == "masks" {
			n, seg = n.Masks()[0], seg[2:]
		}
		for _, k := range n.Motion[seg[3]].Keys {
			if k.ID == seg[4] {
				return k
			}
		}
		t.Fatalf("there is no %s", path)
		return template.Key{}
	}
	for _, k := range keys {
		if got := key(k); got.Named != "snap" || got.Ease == nil || got.Ease[0] != 0.9 || got.Steps != nil {
			t.Errorf("%s: %+v", k, got)
		}
	}
	undone(t, kept, plan)
	// Eased by hand one goes its own way.
	d, _ = do(t, d, Act{Kind: "ease", Way: "curve", Value: ptr(scheme.Many(0.1, 0, 0.3, 1)), Keys: keys[:1]})
	if got := key(keys[0]); got.Named != "" {
		t.Errorf("by hand: %+v", got)
	}
	before := d
	d, plan = do(t, d, Act{Kind: "easing", Id: "snap", Value: ptr(scheme.Many(0.5, 0, 0.2, 1.4)), Name: "Snap back"})
	for _, k := range keys[1:] {
		if got := key(k); got.Named != "snap" || *got.Ease != (timing.Easing{0.5, 0, 0.2, 1.4}) {
			t.Errorf("changed: %s: %+v", k, got)
		}
	}
	if d.Easings[0].Name != "Snap back" || key(keys[0]).Ease[0] != 0.1 {
		t.Errorf("%+v, %+v", d.Easings, key(keys[0]))
	}
	undone(t, before, plan)
	// To steps, and back.
	d, _ = do(t, d, Act{Kind: "easing", Id: "snap", Steps: &timing.Steps{Count: 3}})
	if got := key(keys[1]); got.Ease != nil || got.Steps == nil || got.Steps.Count != 3 || got.Named != "snap" {
		t.Errorf("steps: %+v", got)
	}
	// Turned round it is another easing.
	turned, _ := do(t, d, Act{Kind: "reverse", Keys: []string{"layers/kite/motion/place/a", "layers/kite/motion/place/b", "layers/kite/motion/place/c"}})
	for _, k := range turned.Layer("kite").Motion["place"].Keys {
		if e := turned.Easing("snap"); k.Named == "snap" && !e.Eases(&k) {
			t.Errorf("turned round: %+v", k)
		}
	}
	before = d
	d, plan = do(t, d, Act{Kind: "drop-easing", Id: "snap"})
	if got := key(keys[1]); len(d.Easings) != 0 || got.Named != "" || got.Steps == nil {
		t.Errorf("taken out: %+v", got)
	}
	undone(t, before, plan)
	if err := d.Validate(); err != nil {
		t.Error(err)
	}
	// Kept from keys that go so, they go by it at once.
	d, _ = do(t, first, Act{Kind: "easing", Name: "Kite", Value: ptr(scheme.Many(0.4, 0, 0.2, 1)), Keys: []string{"layers/kite/motion/place/a"}})
	if got := key("layers/kite/motion/place/a"); got.Named != "kite-2" && got.Named != "kite" {
		t.Errorf("kept from a key: %+v", got)
	}
	for _, bad := range []struct {
		a    Act
		says string
	}{
		{Act{Kind: "easing", Value: ptr(scheme.Many(0.9, 0, 0.05, 1))}, "name"}, {Act{Kind: "easing", Name: "X"}, "four numbers"}, {Act{Kind: "easing", Name: "X", Value: ptr(scheme.Many(2, 0, 0, 1))}, "value"},
		{Act{Kind: "easing", Name: "X", Value: ptr(scheme.Many(0.2, 0.2, 0.7, 0.7))}, "even"}, {Act{Kind: "easing", Id: "none", Name: "X"}, "no easing"}, {Act{Kind: "drop-easing", Id: "none"}, "no easing"},
		{Act{Kind: "ease", Id: "none", Keys: keys}, "no easing"}, {Act{Kind: "easing", Name: "X", Steps: &timing.Steps{}}, "steps"},
	} {
		bad.a.Format = "wide"
		if _, err := Do(first, shelf{}, bad.a); err == nil || !strings.Contains(err.Error(), bad.says) {
			t.Errorf("%+v: %v", bad.a, err)
		}
	}
}
