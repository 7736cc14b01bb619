package craft

import (
	"encoding/json"
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"ivypocket/core/edit"
	"ivypocket/core/scheme"
	"ivypocket/core/template"
	"ivypocket/core/timing"
)

// Layers with keys of many kinds: in a group that plays later; eased, held, in steps, along a bent way; on a mask, a
// treatment, a colour, a path; by numbers apart; in the property's own measure.
const keyedLayers = `{"id": "g", "name": "G", "kind": "group", "size": [800, 600], "shift": 10, "layers": [
	{"id": "kite", "name": "Kite", "kind": "shape", "fill": "#c01030", "place": [-100, 40], "size": [200, 100], "opacity": 0.5,
	 "motion": {"place": {"unit": "canvas", "keys": [{"id": "a", "at": 0, "value": [0, 0], "out": [0.1, 0.05], "ease": [0.4, 0, 0.2, 1]}, {"id": "b", "at": 40, "value": [0.2, 0.1], "in": [-0.1, 0.05]}, {"id": "c", "at": 80, "value": [0.1, 0.3]}]},
	  "fill": {"keys": [{"id": "a", "at": 10, "value": "#c01030", "ease": [0.9, 0, 0.1, 1]}, {"id": "b", "at": 50, "value": "#10c03080"}]},
	  "turn": {"keys": [{"id": "a", "at": 5, "value": 0, "hold": true}, {"id": "b", "at": 25, "value": 30, "ease": [0.2, -0.6, 0.4, 1.8]}, {"id": "c", "at": 65, "value": 90}]}},
	 "masks": [{"id": "m", "feather": 4, "motion": {"turn": {"keys": [{"id": "a", "at": 0, "value": 0, "steps": {"count": 5}}, {"id": "b", "at": 50, "value": 90}]}}}]}]},
	{"id": "bar", "name": "Bar", "kind": "shape", "fill": "#20c040", "place": [300, 100], "size": [400, 80],
	 "motion": {"place.x": {"unit": "self", "keys": [{"id": "a", "at": 0, "value": -0.5, "ease": [0.3, 0, 0, 1]}, {"id": "b", "at": 30, "value": 0}]}, "size": {"unit": "own", "keys": [{"id": "a", "at": 0, "value": [100, 80]}, {"id": "b", "at": 30, "value": [400, 80]}]},
	  "radius": {"keys": [{"id": "a", "at": 0, "value": 1}, {"id": "b", "at": 20, "value": 2}]}}},
	{"id": "path", "name": "Path", "kind": "shape", "fill": "#20c040", "size": [100, 100], "form": {"kind": "path", "path": [[0, 0], [1, 0], [1, 1]]}},
	{"id": "still", "name": "Still", "kind": "shape", "fill": "#203040", "place": [50, 0], "size": [100, 100]}`

// seenAll is every number of all layers at a frame, in both formats.
func seenAll(t testing.TB, d *template.Document, frame int64) map[string][]float64 {
	t.Helper()
	out := map[string][]float64{}
	for _, f := range d.Formats {
		sc := sceneOf(t, d, f.ID)
		d.VisitAll(func(_ string, y *template.Layer) {
			for _, p := range sc.Look(y.ID, sc.Time().At(timing.OutputFrame(frame))).Properties {
				out[f.ID+" "+p.Path] = p.Now
			}
		})
	}
	return out
}

// otherwise names what is seen otherwise in two documents at some frame, by more than a thousandth of a px.
func seenOtherwise(t testing.TB, a, b *template.Document) string {
	t.Helper()
	for n := int64(0); n < a.Frames; n += 3 {
		was, is := seenAll(t, a, n), seenAll(t, b, n)
		for path, v := range was {
			for k := range v {
				if math.Abs(v[k]-is[path][k]) > 2e-3 {
					return fmt.Sprintf("%s at frame %d: %g, was %g", path, n, is[path], v)
				}
			}
		}
	}
	return ""
}

func keyIDs(d *template.Document, layer, name string) (out []string) {
	if m := d.Layer(layer).Motion[name]; m != nil {
		for _, k := range m.Keys {
			out = append(out, fmt.Sprintf("%s@%s", k.ID, k.At))
		}
	}
	return out
}

// A key is put on anything, and nothing goes otherwise by it; taken away where it was put the document is as before.
func TestAKeyIsPutAndNothingGoesOtherwise(t *testing.T) {
	first := doc(t, keyedLayers, "", "")
	for _, path := range []string{"kite/place", "kite/turn", "kite/opacity", "kite/masks/m/feather", "kite/masks/m/place", "bar/place", "bar/size", "bar/radius", "bar/fill", "path/form.path", "still/place", "still/blend", "still/scale.x"} {
		for _, frame := range []int64{0, 17, 35, 70, 99} {
			d, p := do(t, first, Act{Kind: "key", Paths: []string{"layers/" + path}, Frame: frame})
			if err := d.Validate(); err != nil || !strings.HasPrefix(p.Op.Title, "Put a key on ") {
				t.Fatalf("%s: %v", p.Op.Title, err)
			}
			if why := seenOtherwise(t, first, d); why != "" {
				t.Errorf("with a key at frame %d of %s %s", frame, path, why)
			}
			if again, _ := do(t, d, Act{Kind: "key", Paths: []string{"layers/" + path}, Frame: frame}); text(t, again) != text(t, d) {
				t.Errorf("%s: put twice it is %s", path, text(t, again))
			}
			if gone, _ := do(t, d, Act{Kind: "key", Way: "off", Paths: []string{"layers/" + path}, Frame: frame}); len(keyIDs(gone, strings.Split(path, "/")[0], "place")) != len(keyIDs(first, strings.Split(path, "/")[0], "place")) {
				t.Errorf("%s: taken away there are %v", path, keyIDs(gone, "kite", "place"))
			}
		}
	}
	// Between two steps; not within one, which would be another way.
	d, _ := do(t, first, Act{Kind: "key", Paths: []string{"layers/kite/masks/m/turn"}, Frame: 40}) // the group plays 10 later
	if why := seenOtherwise(t, first, d); why != "" || !strings.Contains(text(t, d), `"steps":{"count":3}},{"id":"k1","at":30,"value":54,"steps":{"count":2}}`) {
		t.Errorf("between steps: %s, %s", why, text(t, d))
	}
	for want, a := range map[string]Act{
		"goes in steps there":            {Paths: []string{"layers/kite/masks/m/turn"}, Frame: 44},
		"settled once":                   {Paths: []string{"layers/kite/anchor"}},
		"could have keys":                {Path: "anchor", Layers: []string{"kite"}},
		"no property":                    {Paths: []string{"layers/kite/wings"}},
		"say which property":             {},
		"\"pockets/x\" is not of a laye": {Paths: []string{"pockets/x"}},
	} {
		a.Kind, a.Format = "key", "wide"
		if _, err := Do(first, shelf{}, a); err == nil || !strings.Contains(err.Error(), want) && !strings.Contains(err.Error(), "has no") {
			t.Errorf("%v, want %q", err, want)
		}
	}
	// On several layers at once, of which one is locked.
	d, p := do(t, first, Act{Kind: "key", Path: "opacity", Layers: []string{"kite", "bar", "still"}, Frame: 12})
	if p.Op.Title != "Put keys on 3 properties" || len(keyIDs(d, "bar", "opacity")) != 1 || keyIDs(d, "kite", "opacity")[0] != "k1@2" {
		t.Errorf("%s: %v, %v", p.Op.Title, keyIDs(d, "bar", "opacity"), keyIDs(d, "kite", "opacity"))
	}
	locked, _ := do(t, first, Act{Kind: "mark", Path: "locked", Value: ptr(scheme.Is(true)), Layers: []string{"g"}})
	if _, err := Do(locked, shelf{}, Act{Kind: "key", Paths: []string{"layers/kite/opacity"}}); err == nil || !strings.Contains(err.Error(), "G is locked") {
		t.Errorf("in a locked group: %v", err)
	}
	for _, a := range []Act{{Kind: "mask-pose", Path: "layers/kite/masks/m", Way: "move", To: [2]float64{9, 9}}, {Kind: "points", Path: "layers/kite/motion/place", Way: "move", Picks: []int{0}, To: [2]float64{9, 9}}} {
		a.Format = "wide"
		if _, err := Do(locked, shelf{}, a); err == nil || !strings.Contains(err.Error(), "G is pinned down") {
			t.Errorf("%s in a locked group: %v", a.Kind, err)
		}
	}
}

// While keys are recorded, what is set holds at the frame, and at the other keys all is as it was.
func TestWhatIsSetIsRecorded(t *testing.T) {
	first := doc(t, keyedLayers, "", "")
	seen := func(d *template.Document, frame int64, path string) []float64 {
		return seenAll(t, d, frame)["wide layers/"+path]
	}
	for _, c := range []struct {
		path   string
		value  scheme.Value
		frame  int64
		others []int64 // frames of its other keys
	}{
		{"kite/place", scheme.Many(120, -60), 35, []int64{10, 50, 90}},
		{"kite/turn", scheme.One(77), 60, []int64{15, 35, 75}},
		{"kite/opacity", scheme.One(0.25), 30, nil},
		{"kite/opacity", scheme.One(0.9), 30, nil}, // more than it rests at
		{"kite/masks/m/feather", scheme.One(9), 44, nil},
		{"kite/masks/m/place", scheme.Many(8, 6), 44, nil},
		{"bar/place", scheme.Many(250, 100), 15, []int64{0, 30}},
		{"bar/place", scheme.Many(250, 90), 15, nil}, // both numbers
		{"bar/place.x", scheme.One(-20), 15, []int64{0, 30}},
		{"bar/size", scheme.Many(222, 111), 15, []int64{0, 30}},
		{"bar/radius", scheme.Many(3, 3, 3, 3), 10, nil},
		{"still/place", scheme.Many(1, 2), 50, nil},
		{"still/scale", scheme.One(1.5), 50, nil},
	} {
		if c.path == "bar/radius" { // it rests at 0, of which keys would be shares
			if _, err := Do(first, shelf{}, Act{Kind: "rest", Record: true, Path: "layers/" + c.path, Value: &c.value, Frame: 10, Format: "wide"}); err == nil || !strings.Contains(err.Error(), "rests at 0") {
				t.Errorf("a radius of nothing: %v", err)
			}
			continue
		}
		d, p := do(t, first, Act{Kind: "rest", Record: true, Path: "layers/" + c.path, Value: &c.value, Frame: c.frame})
		if err := d.Validate(); err != nil || !strings.HasPrefix(p.Op.Title, "Record ") {
			t.Fatalf("%s: %v", p.Op.Title, err)
		}
		full, part, _ := strings.Cut(c.path, ".x")
		_ = part
		got := seen(d, c.frame, full)
		for k, want := range c.value.Numbers {
			if len(got) <= k || math.Abs(got[k]-want) > 2e-3 {
				t.Errorf("%s at frame %d: %g, not %g", c.path, c.frame, got, c.value.Numbers)
			}
		}
		for _, n := range c.others {
			if was, is := seen(first, n, full), seen(d, n, full); math.Abs(was[0]-is[0]) > 2e-3 {
				t.Errorf("%s: at its key at frame %d it is %g, was %g", c.path, n, is, was)
			}
		}
	}
	// Where all of a property has keys and one of its numbers has, too, what is typed is what is seen all the same.
	twice := doc(t, `{"id": "a", "name": "A", "kind": "shape", "fill": "#c01030", "size": [200, 100], "scale": [0.5, 0.5], "motion": {"scale": {"keys": [{"at": 0, "value": 2}, {"at": 50, "value": 3}]}, "scale.x": {"keys": [{"at": 0, "value": 1.5}]}, "place": {"unit": "canvas", "keys": [{"at": 0, "value": [0.1, 0]}]}, "place.x": {"unit": "canvas", "keys": [{"at": 0, "value": 0.2}]}}}`, "", "")
	d, _ := do(t, twice, Act{Kind: "rest", Record: true, Path: "layers/a/scale", Value: ptr(scheme.Many(3, 0.7)), Frame: 25})
	d, _ = do(t, d, Act{Kind: "rest", Record: true, Path: "layers/a/place", Value: ptr(scheme.Many(33, 44)), Frame: 25})
	if s, p := seen(d, 25, "a/scale"), seen(d, 25, "a/place"); math.Abs(s[0]-3) > 1e-4 || math.Abs(s[1]-0.7) > 1e-4 || math.Abs(p[0]-33) > 2e-3 || math.Abs(p[1]-44) > 2e-3 {
		t.Errorf("keys of keys: scaled by %g, at %g", s, p)
	}
	// Words, colours and switches, too.
	d, _ = do(t, first, Act{Kind: "rest", Record: true, Path: "layers/kite/fill", Value: ptr(scheme.Says("#ffffff")), Frame: 30})
	d, _ = do(t, d, Act{Kind: "rest", Record: true, Path: "layers/still/blend", Value: ptr(scheme.Says("multiply")), Frame: 30})
	if fill := seen(d, 30, "kite/fill"); fill[0] != 255 || fill[1] != 255 || len(keyIDs(d, "kite", "fill")) != 3 || len(keyIDs(d, "still", "blend")) != 1 {
		t.Errorf("a colour: %v, %v", fill, keyIDs(d, "kite", "fill"))
	}
	// On the stage: dragged, sized, turned, nudged, and a point of a path.
	for kind, a := range map[string]Act{
		"place": {Layers: []string{"kite"}, From: [2]float64{0, 0}, To: [2]float64{60, -30}},
		"turn":  {Layers: []string{"still"}, From: [2]float64{1100, 540}, To: [2]float64{1000, 700}},
		"grow":  {Layers: []string{"bar"}, Handle: [2]float64{1, 1}, From: [2]float64{0, 0}, To: [2]float64{50, 40}},
		"nudge": {Layers: []string{"still", "kite"}, To: [2]float64{7, 8}},
	} {
		a.Kind, a.Frame = kind, 33
		id := a.Layers[0]
		plain, _ := do(t, first, a)
		a.Record = true
		d, _ := do(t, first, a)
		if !nearQuad(quad(stands(t, d, "wide", 33)[id]), quad(stands(t, plain, "wide", 33)[id]), 0.01) {
			t.Errorf("%s: recorded it stands at %v, else at %v", kind, quad(stands(t, d, "wide", 33)[id]), quad(stands(t, plain, "wide", 33)[id]))
		}
		was, _, _ := first.Get("layers/" + id + "/place")
		if is, _, _ := d.Get("layers/" + id + "/place"); !is.Equal(was) {
			t.Errorf("%s: it rests elsewhere: %v", kind, is)
		}
		if id == "kite" && !nearQuad(quad(stands(t, d, "wide", 50)[id]), quad(stands(t, first, "wide", 50)[id]), 0.01) {
			t.Errorf("%s: at its other key it stands elsewhere", kind)
		}
	}
	pulled := Act{Kind: "points", Path: "layers/path", Way: "move", Picks: []int{0}, To: [2]float64{10, 20}, Frame: 20, Record: true}
	d, _ = do(t, first, pulled)
	pulled.Frame, pulled.To = 60, [2]float64{-10, 5}
	d, _ = do(t, d, pulled)
	if ids := keyIDs(d, "path", "form.path"); len(ids) != 2 || !slices.Equal(ids, []string{"k1@20", "k2@60"}) {
		t.Errorf("keys of the path: %v", ids)
	}
	if v, _, _ := d.Get("layers/path/form.path"); !v.Equal(first.Layer("path").Get(scheme.LayerForm.Path)) {
		t.Errorf("the path rests at %v", v)
	}
	// One that a formula sets has no use for keys.
	formula := doc(t, strings.Replace(keyedLayers, `"id": "still",`, `"id": "still", "formulas": {"turn": "time.seconds * 30"},`, 1), "", "")
	if _, err := Do(formula, shelf{}, Act{Kind: "rest", Record: true, Path: "layers/still/turn", Value: ptr(scheme.One(3)), Format: "wide"}); err == nil || !strings.Contains(err.Error(), "by the formula") {
		t.Errorf("over a formula: %v", err)
	}
}

// While nothing is recorded, what moves is shifted as a whole, also where keys take the place of rest.
func TestWhatMovesIsShiftedAsAWhole(t *testing.T) {
	first := doc(t, keyedLayers, "", "")
	d, p := do(t, first, Act{Kind: "rest", Path: "layers/bar/size", Value: ptr(scheme.Many(450, 100)), Frame: 30})
	if p.Op.Title != "Shift size of Bar" {
		t.Errorf("it is called %q", p.Op.Title)
	}
	for _, n := range []int64{0, 12, 30} {
		was, is := seenAll(t, first, n)["wide layers/bar/size"], seenAll(t, d, n)["wide layers/bar/size"]
		if math.Abs(is[0]-was[0]-50) > 1e-3 || math.Abs(is[1]-was[1]-20) > 1e-3 {
			t.Errorf("at frame %d: %g, was %g", n, is, was)
		}
	}
	grown, _ := do(t, first, Act{Kind: "grow", Layers: []string{"bar"}, Handle: [2]float64{1, 0.5}, From: [2]float64{0, 0}, To: [2]float64{200, 0}, Frame: 30})
	if was, is := seenAll(t, first, 0)["wide layers/bar/size"], seenAll(t, grown, 0)["wide layers/bar/size"]; math.Abs(is[0]-1.5*was[0]) > 1e-3 {
		t.Errorf("grown by half at its last key it is %g at the first, was %g", is, was)
	}
	if _, err := Do(first, shelf{}, Act{Kind: "rest", Path: "layers/kite/fill", Value: ptr(scheme.Says("#ffffff")), Format: "wide"}); err == nil || !strings.Contains(err.Error(), "record") {
		t.Errorf("a colour with keys: %v", err)
	}
}

// Keys are moved, scaled, reversed, copied, pasted and taken away, on several layers at once; there and back restores
// every byte.
func TestKeysAreMovedScaledAndReversed(t *testing.T) {
	first := doc(t, keyedLayers, "", "")
	all := []string{"layers/kite/motion/place/a", "layers/kite/motion/place/b", "layers/kite/motion/place/c", "layers/kite/motion/turn/a", "layers/kite/motion/turn/b", "layers/kite/motion/turn/c", "layers/bar/motion/place.x/a", "layers/bar/motion/place.x/b", "layers/kite/masks/m/motion/turn/a", "layers/kite/masks/m/motion/turn/b"}
	for name, there := range map[string][2]Act{
		"moved":    {{Kind: "retime", Frames: 6}, {Kind: "retime", Frames: -6}},
		"scaled":   {{Kind: "retime", From: [2]float64{0, 100}, To: [2]float64{0, 200}}, {Kind: "retime", From: [2]float64{0, 200}, To: [2]float64{0, 100}}},
		"reversed": {{Kind: "reverse"}, {Kind: "reverse"}},
	} {
		there[0].Keys, there[1].Keys = all, all
		d, p := do(t, first, there[0])
		if text(t, d) == text(t, first) || d.Validate() != nil {
			t.Errorf("%s: %v", p.Op.Title, d.Validate())
		}
		if back, _ := do(t, d, there[1]); text(t, back) != text(t, first) {
			t.Errorf("%s there and back it is\n%s\nnot\n%s", name, text(t, back), text(t, first))
		}
	}
	// Backwards it is seen at the frame that lies as far from the end, where nothing is held or in steps.
	way := all[:3]
	d, p := do(t, first, Act{Kind: "reverse", Keys: way})
	if p.Op.Title != "Reverse 3 keys of place of Kite" {
		t.Errorf("it is called %q", p.Op.Title)
	}
	for n := int64(10); n <= 90; n += 8 {
		if was, is := seenAll(t, first, 100-n)["wide layers/kite/place"], seenAll(t, d, n)["wide layers/kite/place"]; math.Abs(was[0]-is[0]) > 1e-3 || math.Abs(was[1]-is[1]) > 1e-3 {
			t.Errorf("backwards at frame %d it is at %g, not %g", n, is, was)
		}
	}
	// One that lands on another takes its place, ties to which go; one that passes it does not.
	tied := doc(t, keyedLayers, "", `, "sheet": {"groups": [{"id": "all", "label": "All", "entries": [{"id": "far", "label": "Far", "kind": "amount", "default": 30, "min": 0, "max": 100, "unit": "°", "ties": [{"to": "layers/kite/motion/turn/b/value"}]}]}]}`)
	d, _ = do(t, tied, Act{Kind: "retime", Keys: all[3:4], Frames: 20})
	if ids := keyIDs(d, "kite", "turn"); !slices.Equal(ids, []string{"a@25", "c@65"}) || d.Validate() != nil || strings.Contains(text(t, d), "turn/b") {
		t.Errorf("landed: %v, %v", ids, d.Validate())
	}
	d, _ = do(t, tied, Act{Kind: "retime", Keys: all[3:4], Frames: 30})
	if ids := keyIDs(d, "kite", "turn"); !slices.Equal(ids, []string{"b@25", "a@35", "c@65"}) || d.Validate() != nil {
		t.Errorf("passed: %v, %v", ids, d.Validate())
	}
	// Scaled so small that two would lie on one frame they lie between frames.
	d, _ = do(t, first, Act{Kind: "retime", Keys: way, From: [2]float64{10, 90}, To: [2]float64{10, 11}})
	if ids := keyIDs(d, "kite", "place"); !slices.Equal(ids, []string{"a@0", "b@1/2", "c@1"}) {
		t.Errorf("scaled to a frame: %v", ids)
	}
	for want, a := range map[string]Act{
		"turned round":    {Kind: "retime", Keys: way, From: [2]float64{0, 10}, To: [2]float64{10, 0}},
		"farther off":     {Kind: "retime", Keys: way, Frames: 500},
		"two or more":     {Kind: "reverse", Keys: way[:1]},
		"none is select":  {Kind: "unkey"},
		"no key \"z\"":    {Kind: "unkey", Keys: []string{"layers/kite/motion/place/z"}},
		"is not the path": {Kind: "unkey", Keys: []string{"layers/kite/place"}},
	} {
		a.Format = "wide"
		if _, err := Do(first, shelf{}, a); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%v, want %q", err, want)
		}
	}
	// Without its last key a property has no motion.
	d, p = do(t, first, Act{Kind: "unkey", Keys: all})
	if d.Layer("kite").Motion["place"] != nil || d.Layer("bar").Motion["size"] == nil || p.Op.Title != "Take away 10 keys of several layers" {
		t.Errorf("%s: %s", p.Op.Title, text(t, d))
	}
}

// Keys on an even way that are passed by themselves go on being so.
func TestKeysOfEvenWaysAreHandled(t *testing.T) {
	first := doc(t, leads, "", "")
	m := "layers/kite/masks/m/motion/place/"
	all := []string{m + "k1", m + "k2", m + "k3"}
	d, _ := do(t, first, Act{Kind: "retime", Keys: all, Frames: 5})
	if ks := d.Layer("kite").Masks()[0].Motion["place"].Keys; ks[0].At != timing.Int(5) || ks[2].At != timing.Int(65) || ks[1].At.D == 0 {
		t.Errorf("moved: %v", ks)
	}
	d, _ = do(t, first, Act{Kind: "ease", Way: "curve", Value: ptr(scheme.Many(0.9, 0, 0.1, 1)), Keys: all[:1]})
	if ks := d.Layer("kite").Masks()[0].Motion["place"].Keys; ks[1].At.D != 0 || ks[0].Ease == nil {
		t.Errorf("eased: %v", ks)
	}
}

// Eases are set on many keys at once: curves far beyond their ends, none, steps, holds.
func TestKeysAreEased(t *testing.T) {
	first := doc(t, keyedLayers, "", "")
	keys := []string{"layers/kite/motion/turn/b", "layers/bar/motion/place.x/a", "layers/kite/masks/m/motion/turn/a"}
	d, p := do(t, first, Act{Kind: "ease", Way: "curve", Value: ptr(scheme.Many(1, -3.5, 0, 4)), Keys: keys})
	if m := d.Layer("bar").Motion["place.x"].Keys[0]; *m.Ease != (timing.Easing{1, -3.5, 0, 4}) || d.Layer("kite").Masks()[0].Motion["turn"].Keys[0].Steps != nil || p.Op.Title != "Ease 3 keys of several layers" || d.Validate() != nil {
		t.Errorf("%s: %v, %v", p.Op.Title, m, d.Validate())
	}
	d, _ = do(t, d, Act{Kind: "ease", Way: "steps", Steps: &timing.Steps{Count: 4, Jump: "none"}, Keys: keys})
	if v := seenAll(t, d, 10)["wide layers/bar/place"]; math.Abs(v[0]-(300-200+200.0/3)) > 1e-3 || d.Validate() != nil { // one step of three made
		t.Errorf("in steps at frame 10 it is at %g, %v", v, d.Validate())
	}
	d, _ = do(t, d, Act{Kind: "ease", Way: "hold", Keys: keys})
	if v := seenAll(t, d, 29)["wide layers/bar/place"]; math.Abs(v[0]-100) > 1e-3 {
		t.Errorf("held at frame 29 it is at %g", v)
	}
	d, _ = do(t, d, Act{Kind: "ease", Way: "linear", Keys: keys})
	if v := seenAll(t, d, 15)["wide layers/bar/place"]; math.Abs(v[0]-200) > 1e-3 {
		t.Errorf("even at frame 15 it is at %g", v)
	}
	for want, a := range map[string]Act{
		"outside 0 to 1":       {Way: "curve", Value: ptr(scheme.Many(1.2, 0, 0, 1)), Keys: keys},
		"four numbers":         {Way: "curve", Keys: keys},
		"not one of":           {Way: "wild", Keys: keys},
		"say how many":         {Way: "steps", Keys: keys},
		"outside 2 to 1000":    {Way: "steps", Steps: &timing.Steps{Count: 1, Jump: "none"}, Keys: keys},
		"jump: \"up\" is not ": {Way: "steps", Steps: &timing.Steps{Count: 3, Jump: "up"}, Keys: keys},
	} {
		a.Kind, a.Format = "ease", "wide"
		if _, err := Do(first, shelf{}, a); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%v, want %q", err, want)
		}
	}
}

// A key's value is typed as it is seen, or raised by an amount, in whichever measure it is kept.
func TestKeysGetValuesAsTheyAreSeen(t *testing.T) {
	first := doc(t, keyedLayers, `"layers/bar/place": [0, 0]`, "")
	for _, c := range []struct {
		key, path string
		frame     int64
		value     scheme.Value
	}{
		{"layers/kite/motion/place/b", "kite/place", 50, scheme.Many(10, 20)},
		{"layers/bar/motion/place.x/b", "bar/place", 30, scheme.One(77)},
		{"layers/bar/motion/size/a", "bar/size", 0, scheme.Many(50, 60)},
		{"layers/kite/motion/turn/c", "kite/turn", 75, scheme.One(-180)},
	} {
		for _, format := range []string{"wide", "tall"} {
			d, _ := do(t, first, Act{Kind: "keyed", Keys: []string{c.key}, Value: &c.value, Format: format})
			got := seenAll(t, d, c.frame)[format+" layers/"+c.path]
			for k, want := range c.value.Numbers {
				if math.Abs(got[k]-want) > 5e-3 {
					t.Errorf("%s in %s: %g, not %g", c.key, format, got, c.value.Numbers)
				}
			}
		}
	}
	d, _ := do(t, first, Act{Kind: "keyed", Keys: []string{"layers/kite/motion/place/a", "layers/kite/motion/place/b"}, Numbers: map[string]float64{"0": 30}})
	for _, n := range []int64{10, 50} {
		if was, is := seenAll(t, first, n)["wide layers/kite/place"], seenAll(t, d, n)["wide layers/kite/place"]; math.Abs(is[0]-was[0]-30) > 5e-3 || math.Abs(is[1]-was[1]) > 5e-3 {
			t.Errorf("raised by 30 at frame %d: %g, was %g", n, is, was)
		}
	}
	d, _ = do(t, first, Act{Kind: "keyed", Keys: []string{"layers/kite/motion/fill/b"}, Value: ptr(scheme.Says("#010203"))})
	if d.Layer("kite").Motion["fill"].Keys[1].Value.Text != "#010203" {
		t.Error("the colour of a key was not set")
	}
	if _, err := Do(first, shelf{}, Act{Kind: "keyed", Keys: []string{"layers/kite/motion/fill/b"}, Value: ptr(scheme.Says("blue")), Format: "wide"}); err == nil {
		t.Error("blue is no colour here")
	}
}

// Keys come apart and together again, and nothing goes otherwise; where it would, that is said.
func TestKeysOfNumbersApart(t *testing.T) {
	first := doc(t, `{"id": "a", "name": "A", "kind": "shape", "fill": "#c01030", "size": [200, 100], "motion": {"place": {"unit": "canvas", "keys": [{"id": "k1", "at": 0, "value": [0, 0], "ease": [0.4, 0, 0.2, 1]}, {"id": "k2", "at": 40, "value": [0.2, 0.1], "hold": true}, {"id": "k3", "at": 80, "value": [0.1, 0.3]}]}}}`, "",
		`, "sheet": {"groups": [{"id": "all", "label": "All", "entries": [{"id": "far", "label": "Far", "kind": "amount", "default": 0.2, "min": 0, "max": 100, "ties": [{"to": "layers/a/motion/place/k2/value.x"}]}, {"id": "when", "label": "When", "kind": "amount", "default": 40, "min": 10, "max": 70, "ties": [{"to": "layers/a/motion/place/k2/at"}]}]}]}`)
	d, _ := do(t, first, Act{Kind: "apart", Way: "apart", Paths: []string{"layers/a/place"}})
	if d.Layer("a").Motion["place"] != nil || len(d.Layer("a").Motion["place.y"].Keys) != 3 || d.Validate() != nil || seenOtherwise(t, first, d) != "" {
		t.Errorf("apart: %v, %s", d.Validate(), seenOtherwise(t, first, d))
	}
	if far, when := d.Sheet.Entry("far").Ties, d.Sheet.Entry("when").Ties; len(far) != 1 || far[0].To != "layers/a/motion/place.x/k2/value" || len(when) != 2 {
		t.Errorf("tied are %v and %v", far, when)
	}
	loose := doc(t, `{"id": "a", "name": "A", "kind": "shape", "fill": "#c01030", "size": [200, 100], "motion": {"place.x": {"unit": "canvas", "keys": [{"at": 0, "value": 0, "ease": [0.4, 0, 0.2, 1]}, {"at": 40, "value": 0.2}]}, "place.y": {"unit": "canvas", "keys": [{"at": 40, "value": 0.2, "ease": [0.1, 0, 0.2, 1]}, {"at": 60, "value": 0.3}]}}}`, "", "")
	together, _ := do(t, loose, Act{Kind: "apart", Way: "together", Paths: []string{"layers/a/place"}})
	if ks := together.Layer("a").Motion["place"].Keys; len(ks) != 3 || together.Layer("a").Motion["place.x"] != nil || seenOtherwise(t, loose, together) != "" {
		t.Errorf("together: %v, %s", ks, seenOtherwise(t, loose, together))
	}
	keyed := doc(t, keyedLayers, "", "")
	for want, a := range map[string]Act{
		"bent way":         {Way: "apart", Paths: []string{"layers/kite/place"}},
		"one number":       {Way: "apart", Paths: []string{"layers/kite/turn"}},
		"has no keys":      {Way: "apart", Paths: []string{"layers/still/place"}},
		"none of the numb": {Way: "together", Paths: []string{"layers/still/place"}},
		"neither":          {Way: "so", Paths: []string{"layers/still/place"}},
	} {
		a.Kind, a.Format = "apart", "wide"
		if _, err := Do(keyed, shelf{}, a); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%v, want %q", err, want)
		}
	}
	odd := strings.Replace(text(t, loose), `"at":40,"value":0.2,"ease":[0.1,0,0.2,1]`, `"at":20,"value":0.2,"ease":[0.1,0,0.2,1]`, 1)
	parsed, err := template.Parse([]byte(odd))
	if err != nil {
		t.Fatal(err)
	}
	if _, err := Do(parsed, shelf{}, Act{Kind: "apart", Way: "together", Paths: []string{"layers/a/place"}, Format: "wide"}); err == nil || !strings.Contains(err.Error(), "in its own way") {
		t.Errorf("eased otherwise: %v", err)
	}
}

// Copied keys are put at the playhead, onto other layers, measured as those are; copied and pasted where they were
// they change nothing.
func TestKeysAreCopiedAndPasted(t *testing.T) {
	first := doc(t, keyedLayers, "", "")
	clip := func(keys ...string) json.RawMessage {
		c, err := CopiedKeys(first, keys)
		if err != nil {
			t.Fatal(err)
		}
		raw, err := json.Marshal(c)
		if err != nil {
			t.Fatal(err)
		}
		return raw
	}
	way := []string{"layers/kite/motion/place/a", "layers/kite/motion/place/b", "layers/kite/motion/place/c"}
	if d, _ := do(t, first, Act{Kind: "paste-keys", Clip: clip(way...), Frame: 10}); text(t, d) != text(t, first) {
		t.Errorf("pasted where they were: %s", text(t, d))
	}
	d, p := do(t, first, Act{Kind: "paste-keys", Clip: clip(way...), Frame: 20, Layers: []string{"still", "path"}})
	if p.Op.Title != "Paste 6 keys" || !slices.Equal(keyIDs(d, "still", "place"), []string{"k1@20", "k2@60", "k3@100"}) || d.Validate() != nil {
		t.Errorf("%s: %v, %v", p.Op.Title, keyIDs(d, "still", "place"), d.Validate())
	}
	// Relative to where it stands: 40 frames on it has come 0.2 of the canvas across.
	was, is := seenAll(t, first, 60)["wide layers/still/place"], seenAll(t, d, 60)["wide layers/still/place"]
	if math.Abs(is[0]-was[0]-0.2*1920) > 1e-3 || math.Abs(is[1]-was[1]-0.1*1080) > 1e-3 {
		t.Errorf("at its second key it is at %g, was at %g", is, was)
	}
	// Of a canvas' width onto shares of the layer itself.
	both := doc(t, strings.Replace(keyedLayers, `"id": "still",`, `"id": "still", "motion": {"place": {"unit": "self", "keys": [{"at": 0, "value": [0, 0]}]}},`, 1), "", "")
	d, _ = do(t, both, Act{Kind: "paste-keys", Clip: clip(way[1]), Frame: 60, Layers: []string{"still"}})
	if is := seenAll(t, d, 60)["wide layers/still/place"]; math.Abs(is[0]-was[0]-0.2*1920) > 1e-2 {
		t.Errorf("measured by itself it is at %g", is)
	}
	// A mask's keys go to the only mask that another layer has; several layers' in their order.
	d, _ = do(t, both, Act{Kind: "mask", Path: "layers/still", Way: "ellipse"})
	d, _ = do(t, d, Act{Kind: "paste-keys", Clip: clip("layers/kite/masks/m/motion/turn/a", "layers/kite/masks/m/motion/turn/b"), Frame: 5, Layers: []string{"still"}})
	if m := d.Layer("still").Masks()[0].Motion["turn"]; m == nil || len(m.Keys) != 2 || m.Keys[0].Steps == nil {
		t.Errorf("on the mask: %+v", m)
	}
	// Of two masks that are like it none is meant.
	more := doc(t, strings.Replace(keyedLayers, `"id": "still",`, `"id": "still", "masks": [{"id": "p"}, {"id": "q"}],`, 1), "", "")
	if _, err := Do(more, shelf{}, Act{Kind: "paste-keys", Clip: clip("layers/kite/masks/m/motion/turn/a"), Layers: []string{"still"}, Format: "wide"}); err == nil || !strings.Contains(err.Error(), "no key fits") {
		t.Errorf("onto one of two masks: %v", err)
	}
	d, _ = do(t, first, Act{Kind: "paste-keys", Clip: clip("layers/kite/motion/turn/b", "layers/bar/motion/place.x/b"), Frame: 5, Layers: []string{"path", "still"}})
	if !slices.Equal(keyIDs(d, "path", "turn"), []string{"k1@10"}) || !slices.Equal(keyIDs(d, "still", "place.x"), []string{"k1@5"}) {
		t.Errorf("two onto two: %v, %v", keyIDs(d, "path", "turn"), keyIDs(d, "still", "place.x"))
	}
	for want, a := range map[string]Act{
		"holds no keys": {Clip: json.RawMessage(`{"ivypocket": "layers"}`)},
		"no key fits":   {Clip: clip("layers/kite/masks/m/motion/turn/a"), Layers: []string{"bar"}},
	} {
		a.Kind, a.Format = "paste-keys", "wide"
		if _, err := Do(first, shelf{}, a); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%v, want %q", err, want)
		}
	}
	other := doc(t, three, "", "")
	if _, err := Do(other, shelf{}, Act{Kind: "paste-keys", Clip: clip(way...), Format: "wide"}); err == nil || !strings.Contains(err.Error(), "select those") {
		t.Errorf("elsewhere, with nothing selected: %v", err)
	}
}

// Whatever is done to keys, the draft stays sound, can be drawn, and is taken back to the byte.
func TestManyActsOnKeysLeaveASoundDraft(t *testing.T) {
	rng := rand.New(rand.NewPCG(5, 8))
	draft := edit.DraftFrom(doc(t, keyedLayers, `"layers/still/opacity": 0.4`, ""))
	first := text(t, draft.Doc)
	var done [][]edit.Change
	counts := map[string]int{}
	var clip json.RawMessage
	for tries := 0; len(done) < 200 && tries < 2000; tries++ {
		var keys, paths []string
		for _, id := range []string{"kite", "bar", "path", "still"} {
			y := draft.Doc.Layer(id)
			paths = append(paths, "layers/"+id+"/place", "layers/"+id+"/opacity", "layers/"+id+"/scale", "layers/"+id+"/fill")
			for _, n := range append([]*template.Node{y}, y.Masks()...) {
				at := "layers/" + id
				if n != y {
					at += "/masks/" + n.ID
				}
				for _, name := range sorted(n.Motion) {
					for _, k := range n.Motion[name].Keys {
						if rng.IntN(3) == 0 {
							keys = append(keys, at+"/motion/"+name+"/"+k.ID)
						}
					}
				}
			}
		}
		path := paths[rng.IntN(len(paths))]
		a := Act{Kind: []string{"key", "key", "unkey", "retime", "retime", "reverse", "ease", "keyed", "apart", "paste-keys", "rest", "place"}[rng.IntN(12)], Format: []string{"wide", "tall"}[rng.IntN(2)], Frame: int64(rng.IntN(100)), Keys: keys, Apart: rng.IntN(4) == 0}
		switch a.Kind {
		case "key":
			a.Paths, a.Way = []string{path}, []string{"", "", "off"}[rng.IntN(3)]
		case "unkey":
			a.Keys = keys[:min(len(keys), 2)]
		case "retime":
			if a.Frames = int64(rng.IntN(30) - 15); rng.IntN(2) == 0 {
				a.From, a.To = [2]float64{0, 50}, [2]float64{float64(rng.IntN(10)), float64(20 + rng.IntN(50))}
			}
		case "ease":
			a.Way, a.Value, a.Steps = []string{"curve", "linear", "steps", "hold"}[rng.IntN(4)], ptr(scheme.Many(rng.Float64(), 3*rng.Float64()-1, rng.Float64(), 3*rng.Float64()-1)), &timing.Steps{Count: 1 + rng.IntN(6)}
		case "keyed":
			a.Numbers = map[string]float64{"0": float64(rng.IntN(9) - 4)}
			a.Keys = slices.DeleteFunc(a.Keys, func(k string) bool { return strings.Contains(k, "/fill/") })
		case "apart":
			a.Way, a.Paths = []string{"apart", "together"}[rng.IntN(2)], []string{path}
		case "paste-keys":
			if c, err := CopiedKeys(draft.Doc, keys); err == nil {
				clip, _ = json.Marshal(c)
			}
			a.Clip = clip
			a.Layers = []string{"still", "path"}[:rng.IntN(3)]
		case "rest":
			a.Path, a.Record = path, true
			a.Value = ptr(map[string]scheme.Value{"place": scheme.Many(float64(rng.IntN(400)), 3), "opacity": scheme.One(rng.Float64()), "scale": scheme.One(1.5), "fill": scheme.Says("#0a0b0c")}[path[strings.LastIndexByte(path, '/')+1:]])
		case "place":
			a.Layers, a.Record, a.To = []string{"kite", "bar"}, true, [2]float64{float64(rng.IntN(90)), 7}
		}
		p, err := Do(draft.Doc, shelf{}, a)
		if err != nil || p.Op.Kind == "" {
			continue
		}
		next, changes, err := draft.Do(p.Op)
		if err != nil {
			t.Fatalf("%d, %s: planned and refused: %v\n%+v", len(done), a.Kind, err, a)
		}
		if err := next.Doc.Validate(); err != nil {
			t.Fatalf("%d, %s: %v", len(done), a.Kind, err)
		}
		if len(changes) > 0 {
			sceneOf(t, next.Doc, "tall")
			done = append(done, changes)
			counts[a.Kind]++
			draft = next
		}
	}
	if len(done) < 200 || len(counts) < 10 {
		t.Errorf("%d acts were carried out: %v", len(done), counts)
	}
	for i := len(done) - 1; i >= 0; i-- {
		var err error
		if draft, err = draft.Replay(edit.Reverse(done[i])); err != nil {
			t.Fatal(err)
		}
	}
	if text(t, draft.Doc) != first {
		t.Errorf("taken back it is\n%s\nnot\n%s", text(t, draft.Doc), first)
	}
}

// Through a use of a motif keys are those of the motif, at the instants at which that use shows them.
func TestKeysThroughUsesOfMotifs(t *testing.T) {
	d := doc(t, `{"id": "one", "name": "One", "kind": "use", "motif": "gull", "size": [400, 300]}, {"id": "two", "name": "Two", "kind": "use", "motif": "gull", "size": [400, 300], "shift": 20}`, "",
		`, "motifs": [{"id": "gull", "name": "Gull", "kind": "group", "size": [400, 300], "layers": [{"id": "wing", "name": "Wing", "kind": "shape", "fill": "#c01030", "size": [100, 50]}]}]`)
	d, _ = do(t, d, Act{Kind: "rest", Record: true, Path: "layers/two:wing/turn", Value: ptr(scheme.One(30)), Frame: 50})
	d, _ = do(t, d, Act{Kind: "place", Record: true, Layers: []string{"two:wing"}, To: [2]float64{19.2, 0}, Frame: 50})
	if ids := keyIDs(d, "wing", "turn"); !slices.Equal(ids, []string{"k1@30"}) || !slices.Equal(keyIDs(d, "wing", "place"), ids) {
		t.Errorf("of the wing: %v", ids)
	}
	// Keys in a use along with those of a layer beside it, each in its own time, are reversed about the same middle.
	beside := doc(t, `{"id": "late", "name": "Late", "kind": "group", "size": [9, 9], "shift": 7, "layers": [{"id": "own", "name": "Own", "kind": "shape", "fill": "#c01030", "size": [10, 10], "motion": {"turn": {"keys": [{"id": "a", "at": 10, "value": 0}, {"id": "b", "at": 20, "value": 9}]}}}]}, {"id": "two", "name": "Two", "kind": "use", "motif": "gull", "size": [400, 300], "shift": 20}`, "",
		`, "motifs": [{"id": "gull", "name": "Gull", "kind": "group", "size": [400, 300], "layers": [{"id": "wing", "name": "Wing", "kind": "shape", "fill": "#c01030", "size": [100, 50], "motion": {"turn": {"keys": [{"id": "a", "at": 10, "value": 0}, {"id": "b", "at": 37, "value": 9}]}}}]}]`)
	turned, _ := do(t, beside, Act{Kind: "reverse", Keys: []string{"layers/two:wing/motion/turn/a", "layers/two:wing/motion/turn/b", "layers/own/motion/turn/a", "layers/own/motion/turn/b"}})
	if wing, own := keyIDs(turned, "wing", "turn"), keyIDs(turned, "own", "turn"); !slices.Equal(wing, []string{"b@-3", "a@24"}) || !slices.Equal(own, []string{"b@40", "a@50"}) { // 17 to 57 of the template
		t.Errorf("the wing's lie at %v, the others at %v", wing, own)
	}
	d, _ = do(t, d, Act{Kind: "retime", Keys: []string{"layers/one:wing/motion/turn/k1"}, Frames: 3})
	if ids := keyIDs(d, "wing", "turn"); !slices.Equal(ids, []string{"k1@33"}) {
		t.Errorf("moved through the other use: %v", ids)
	}
}
