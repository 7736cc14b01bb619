package craft

import (
	"encoding/json"
	"fmt"
	"math"
	"slices"
	"strings"
	"testing"

	"ivypocket/core/recipe"
	"ivypocket/core/scheme"
	"ivypocket/core/template"
	"ivypocket/core/timing"
)

// still is a layer that does nothing yet, and a clip's worth of others.
const standing = `{"id": "c", "name": "C", "kind": "shape", "fill": "#c01030", "place": [100, 50], "size": [200, 100], "opacity": 0.7, "shift": 4, "stroke": {"colour": "#ffffff", "width": 4}},
	{"id": "d", "name": "D", "kind": "shape", "fill": "#1e7383", "place": [-300, 0], "size": [300, 300], "turn": 20}, {"id": "e", "name": "E", "kind": "ground", "fill": "#203040"}`

// A ready move that is performed is seen as its keys would be, in every format, whichever way it goes; made keys of again
// it is seen as it was, and undone it never was.
func TestReadyMovesArePerformedAsTheirKeysWouldBe(t *testing.T) {
	first := doc(t, standing, "", "")
	for _, m := range Moves() {
		for way := range 2 {
			numbers := map[string]float64{}
			usual, err := recipe.Whole(m.Numbers, m.Label, nil)
			if err != nil {
				t.Fatal(err)
			}
			if _, goes := usual["way"]; goes {
				numbers["way"] = float64(way)
			} else if way == 1 {
				continue
			}
			keyed, _ := do(t, first, Act{Kind: "ready", Way: m.Kind, Layers: []string{"c"}, Frame: 20, Numbers: numbers})
			played, p := do(t, first, Act{Kind: "perform", Way: m.Kind, Layers: []string{"c"}, Frame: 20, Numbers: numbers})
			if err := played.Validate(); err != nil || p.Op.Title != m.Label+" for C" || len(played.Moves) != 1 {
				t.Fatalf("%s: %q, %v", m.Kind, p.Op.Title, err)
			}
			u := played.Layer("c").Performances()[0]
			if u.Number(scheme.PerformedLong) != usual["length"] || u.On(scheme.PerformedBack) != (way == 1) || len(played.Layer("c").Motion) > 0 {
				t.Errorf("%s: it is performed as %s", m.Kind, text(t, played))
			}
			for _, n := range []int64{0, 20, 24, 31, 40, 70, 99} {
				for _, f := range first.Formats {
					if a, b := drawnAt(t, keyed, f.ID, n), drawnAt(t, played, f.ID, n); a != b {
						t.Errorf("%s, %d: in %s at frame %d it is not drawn as by its keys", m.Kind, way, f.ID, n)
					}
				}
			}
			free, _ := do(t, played, Act{Kind: "free-move", Paths: []string{"layers/c/moves/m1"}})
			if len(free.Layer("c").Performances()) > 0 {
				t.Errorf("%s: it is performed still", m.Kind)
			}
			for _, n := range []int64{0, 21, 33, 60} {
				if drawnAt(t, free, "wide", n) != drawnAt(t, keyed, "wide", n) {
					t.Errorf("%s, %d: made keys of it is drawn otherwise at frame %d", m.Kind, way, n)
				}
			}
		}
	}
}

// One saved move serves all who perform it: what is changed through one is changed for all, where each has it.
func TestASavedMoveIsChangedForAllWhoPerformIt(t *testing.T) {
	first := doc(t, standing, "", "")
	d, _ := do(t, first, Act{Kind: "perform", Way: "enter", Layers: []string{"c", "d"}, Frame: 10})
	d, _ = do(t, d, Act{Kind: "perform", Way: "enter", Layers: []string{"d"}, Frame: 60, Numbers: map[string]float64{"way": 1}})
	if len(d.Moves) != 1 || d.Moves[0].Name != "Enter from the left" {
		t.Fatalf("there are %d moves; one serves in and out", len(d.Moves))
	}
	d, _ = do(t, d, Act{Kind: "perform", Way: "enter", Layers: []string{"e", "d"}, Frame: 60, Numbers: map[string]float64{"amount": 50}})
	if len(d.Moves) != 2 || d.Moves[1].Name != "Enter from the left 2" || len(d.Layer("e").Performances()) > 0 {
		t.Fatalf("another distance is no move of its own, or a ground enters: %s", text(t, d))
	}
	// A key that is moved through a layer, which plays 4 frames late and from frame 10, and at half the time.
	d, _ = do(t, d, Act{Kind: "rest", Path: "layers/c/moves/m1/length", Value: ptr(scheme.One(10))})
	id := d.Moves[0].ID
	moved, p := do(t, d, Act{Kind: "retime", Keys: []string{"layers/c/moves/m1/motion/place/k2"}, Frames: -4})
	keys := moved.Move(id).Motion["place"].Keys
	if got := keys[1].At; got != timing.Int(12) || p.Op.Title != "Move a key of place of the move Enter from the left" {
		t.Errorf("moved by 4 frames in half the time, it lies at %s of 20: %s", got, p.Op.Title)
	}
	// Through the one that leaves, the time goes the other way.
	moved, _ = do(t, d, Act{Kind: "retime", Keys: []string{"layers/d/moves/m2/motion/place/k2"}, Frames: 4})
	if got := moved.Move(id).Motion["place"].Keys[1].At; got != timing.Int(16) {
		t.Errorf("moved later on the way out it lies at %s", got)
	}
	// An ease that is set while it goes backwards is that of the way in, the other way round.
	eased, _ := do(t, d, Act{Kind: "ease", Way: "curve", Keys: []string{"layers/d/moves/m2/motion/place/k2"}, Value: ptr(scheme.Many(0.9, 0, 0.4, 1))})
	if e := eased.Move(id).Motion["place"].Keys[0].Ease; e == nil || math.Abs(e[0]-0.6) > 1e-9 || math.Abs(e[2]-0.1) > 1e-9 {
		t.Errorf("eased on the way out, the way in has %v", e)
	}
	// Moved there and back through the one that leaves, nothing is otherwise; what waits behind the last key does, too.
	last, _ := do(t, d, Act{Kind: "ease", Way: "curve", Keys: []string{"layers/c/moves/m1/motion/place/k2"}, Value: ptr(scheme.Many(0.9, 0, 0.4, 1))})
	there, _ := do(t, last, Act{Kind: "retime", Keys: []string{"layers/d/moves/m2/motion/place/k2"}, Frames: 4})
	there, _ = do(t, there, Act{Kind: "retime", Keys: []string{"layers/d/moves/m2/motion/place/k2"}, Frames: -4})
	if text(t, there) != text(t, last) {
		t.Errorf("there and back it is\n%s\nnot\n%s", text(t, there), text(t, last))
	}
	// A value that is set is seen there, whatever the distance.
	d, _ = do(t, d, Act{Kind: "rest", Path: "layers/c/moves/m1/amount", Value: ptr(scheme.One(0.5))})
	set, _ := do(t, d, Act{Kind: "keyed", Keys: []string{"layers/c/moves/m1/motion/place/k1"}, Value: ptr(scheme.Many(-500, 0)), Frame: 10})
	if got := seenAll(t, set, 10)["wide layers/c/place"]; math.Abs(got[0]+500) > 0.01 || math.Abs(got[1]) > 0.01 {
		t.Errorf("set to -500, 0 it is seen at %g", got)
	}
	if _, err := Do(d, shelf{}, Act{Kind: "stagger", Format: "wide", Keys: []string{"layers/c/moves/m1/motion/place/k1", "layers/d/moves/m1/motion/place/k1"}, Numbers: map[string]float64{"frames": 3}}); err == nil || !strings.Contains(err.Error(), "stagger the layers") {
		t.Errorf("keys that are everybody's, staggered: %v", err)
	}
	if _, err := Do(d, shelf{}, Act{Kind: "drop-move", Id: id, Format: "wide"}); err == nil || !strings.Contains(err.Error(), "C performs it, and 2 layers in all") {
		t.Errorf("a move that is performed: %v", err)
	}
	named, _ := do(t, d, Act{Kind: "move-name", Id: id, Name: "Haul in"})
	if named.Move(id).Name != "Haul in" {
		t.Error("it is not renamed")
	}
	gone, _ := do(t, first, Act{Kind: "perform", Way: "fade", Layers: []string{"c"}})
	gone, _ = do(t, gone, Act{Kind: "remove", Path: "layers/c/moves/m1"})
	gone, _ = do(t, gone, Act{Kind: "drop-move", Id: gone.Moves[0].ID})
	if text(t, gone) != text(t, first) {
		t.Errorf("taken away there is left %s", text(t, gone))
	}
}

// What a layer does is saved as a move, performed in the place of its keys, and by others where they stand.
func TestKeysAreSavedAsAMove(t *testing.T) {
	d := doc(t, movable, "", "")
	keys := []string{"layers/a/motion/place/k1", "layers/a/motion/place/k2", "layers/a/motion/opacity/k1", "layers/a/motion/opacity/k2"}
	saved, p := do(t, d, Act{Kind: "save-move", Keys: keys, Name: "Cross over"})
	if p.Op.Title != "Save the move Cross over" || len(saved.Layer("a").Motion) != 1 || saved.Moves[0].Number(scheme.MoveLong) != 90 {
		t.Fatalf("%s: %s", p.Op.Title, text(t, saved))
	}
	if other := seenOtherwise(t, d, saved); other != "" {
		t.Error(other)
	}
	more, _ := do(t, saved, Act{Kind: "perform", Id: "cross-over", Layers: []string{"b"}, Frame: 5})
	if got := seenAll(t, more, 50)["wide layers/b/opacity"]; math.Abs(got[0]-0.75) > 1e-6 {
		t.Errorf("a ground performs what it can; its opacity is %g", got)
	}
	// Other keys take the move's place, for all.
	again, _ := do(t, more, Act{Kind: "save-move", Keys: []string{"layers/a/motion/scale/k1", "layers/a/motion/scale/k2"}, Id: "cross-over"})
	if m := again.Moves[0]; len(m.Motion) != 1 || m.Motion["scale"] == nil || len(again.Layer("a").Performances()) != 2 {
		t.Errorf("saved anew it is %s", text(t, again))
	}
	for want, a := range map[string]Act{
		"name: is missing":         {Keys: keys},
		"there is one key":         {Keys: keys[:1], Name: "N"},
		"no move \"far\" any more": {Keys: keys, Id: "far"},
		"none is selected":         {Name: "N"},
	} {
		a.Kind, a.Format = "save-move", "wide"
		if _, err := Do(d, shelf{}, a); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%v, want %q", err, want)
		}
	}
	// A mask goes along.
	masked := doc(t, `{"id": "a", "name": "A", "kind": "shape", "fill": "#c01030", "size": [200, 100], "masks": [{"id": "iris", "form": {"kind": "ellipse"}, "feather": 20, "motion": {"feather": {"keys": [{"id": "k1", "at": 10, "value": 0}, {"id": "k2", "at": 30, "value": 3}]}}}]}`, "", "")
	along, _ := do(t, masked, Act{Kind: "save-move", Keys: []string{"layers/a/masks/iris/motion/feather/k1", "layers/a/masks/iris/motion/feather/k2"}, Name: "Open"})
	if len(along.Layer("a").Masks()) > 0 || len(along.Moves[0].Masks()) != 1 {
		t.Fatalf("the mask stays behind: %s", text(t, along))
	}
	for _, n := range []int64{0, 15, 29, 60} {
		if drawnAt(t, along, "wide", n) != drawnAt(t, masked, "wide", n) {
			t.Errorf("with its mask along it is drawn otherwise at frame %d", n)
		}
	}
	tied := doc(t, `{"id": "a", "name": "A", "kind": "shape", "fill": "#c01030", "size": [200, 100], "masks": [{"id": "iris", "feather": 20, "motion": {"turn": {"keys": [{"id": "k1", "at": 10, "value": 0}, {"id": "k2", "at": 30, "value": 3}]}}}]}`, "",
		`, "sheet": {"groups": [{"id": "g1", "label": "G", "entries": [{"id": "soft", "label": "Soft", "kind": "amount", "unit": "px", "default": 20, "min": 1, "max": 60, "ties": [{"to": "layers/a/masks/iris/feather"}]}]}]}`)
	if _, err := Do(tied, shelf{}, Act{Kind: "save-move", Format: "wide", Keys: []string{"layers/a/masks/iris/motion/turn/k1", "layers/a/masks/iris/motion/turn/k2"}, Name: "Open"}); err == nil || !strings.Contains(err.Error(), "an entry or a format sets something of the mask iris") {
		t.Errorf("a mask that is on the sheet: %v", err)
	}
	back, _ := do(t, along, Act{Kind: "free-move", Paths: []string{"layers/a/moves/m1"}})
	back, _ = do(t, back, Act{Kind: "drop-move", Id: "open"})
	if text(t, back) != text(t, masked) {
		t.Errorf("and back it is\n%s\nnot\n%s", text(t, back), text(t, masked))
	}
}

// Performances slide, take longer and are staggered as keys are; keys before and after one become one motion with it.
func TestPerformancesInTime(t *testing.T) {
	var layers, ids []string
	for i := range 6 {
		id := fmt.Sprintf("p%d", i)
		ids = append(ids, id)
		layers = append(layers, fmt.Sprintf(`{"id": %q, "name": "P", "kind": "shape", "fill": "#c01030", "place": [%d, 0], "size": [100, 900]}`, id, -375+150*i))
	}
	d, _ := do(t, doc(t, strings.Join(layers, ","), "", ""), Act{Kind: "perform", Way: "fade", Layers: ids, Frame: 10})
	begins := func(d *template.Document) (out []string) {
		for _, id := range ids {
			out = append(out, d.Layer(id).Performances()[0].Get(scheme.PerformedAt).String())
		}
		return out
	}
	s, p := do(t, d, Act{Kind: "stagger", Layers: ids, Way: "middle", Numbers: map[string]float64{"frames": 3}})
	if got := strings.Join(begins(s), " "); got != "16 13 10 10 13 16" || p.Op.Title != "Stagger 6 layers" {
		t.Errorf("they begin at %s: %s", got, p.Op.Title)
	}
	s, _ = do(t, s, Act{Kind: "stagger", Layers: ids, Way: "order", Numbers: map[string]float64{"overlap": 50}})
	if got := strings.Join(begins(s), " "); got != "10 20 30 40 50 60" {
		t.Errorf("overlapping by half they begin at %s", got)
	}
	later, _ := do(t, s, Act{Kind: "move-time", Paths: []string{"layers/p0/moves/m1", "layers/p1/moves/m1"}, Frames: -15})
	longer, _ := do(t, later, Act{Kind: "move-time", Way: "length", Paths: []string{"layers/p0/moves/m1"}, Frames: 15})
	if u := longer.Layer("p0").Performances()[0]; u.Get(scheme.PerformedAt).String() != "-5" || u.Number(scheme.PerformedLong) != 35 {
		t.Errorf("slid and made longer it is %s", text(t, longer))
	}
	for want, a := range map[string]Act{
		"1 is the least":           {Way: "length", Frames: -20, Paths: []string{"layers/p0/moves/m1"}},
		"not length":               {Way: "end", Paths: []string{"layers/p0/moves/m1"}},
		"performs no \"m2\"":       {Paths: []string{"layers/p0/moves/m2"}},
		"farther off":              {Frames: 500, Paths: []string{"layers/p0/moves/m1"}},
		"say which performances":   {},
		"not the path":             {Paths: []string{"layers/p0"}},
		"there is no layer \"p9\"": {Paths: []string{"layers/p9/moves/m1"}},
	} {
		a.Kind, a.Format = "move-time", "wide"
		if _, err := Do(d, shelf{}, a); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%v, want %q", err, want)
		}
	}
	// Another rate leaves them when they are, in its own frames.
	fast, _ := do(t, s, Act{Kind: "time", Name: "50", At: 200, Way: "stretch"})
	if u := fast.Layer("p3").Performances()[0]; u.Get(scheme.PerformedAt).String() != "80" || u.Number(scheme.PerformedLong) != 40 || fast.Moves[0].Number(scheme.MoveLong) != 40 {
		t.Errorf("at twice the rate it is %s", text(t, fast))
	}
	// In and out become one motion; where both move at once, that is said.
	both, _ := do(t, doc(t, standing, "", ""), Act{Kind: "perform", Way: "enter", Layers: []string{"d"}, Frame: 5})
	both, _ = do(t, both, Act{Kind: "perform", Way: "enter", Layers: []string{"d"}, Frame: 60, Numbers: map[string]float64{"way": 1}})
	one, _ := do(t, both, Act{Kind: "free-move", Paths: []string{"layers/d/moves/m2"}})
	one, _ = do(t, one, Act{Kind: "free-move", Paths: []string{"layers/d/moves/m1"}})
	if len(one.Layer("d").Motion["place"].Keys) != 4 {
		t.Errorf("made one it is %s", text(t, one))
	}
	for n := int64(0); n < 100; n += 4 {
		a, b := seenAll(t, both, n)["wide layers/d/place"], seenAll(t, one, n)["wide layers/d/place"]
		if math.Abs(a[0]-b[0])+math.Abs(a[1]-b[1]) > 1e-2 {
			t.Errorf("made one it stands at %g at frame %d, was at %g", b, n, a)
		}
	}
	crossing, _ := do(t, one, Act{Kind: "perform", Way: "enter", Layers: []string{"d"}, Frame: 62})
	if _, err := Do(crossing, shelf{}, Act{Kind: "free-move", Format: "wide", Paths: []string{"layers/d/moves/m1"}}); err == nil || !strings.Contains(err.Error(), "move them apart first") {
		t.Errorf("two that cross: %v", err)
	}
}

// A move goes to another template with its colours spelt out.
func TestMovesGoToOtherTemplates(t *testing.T) {
	from := doc(t, standing, "", `, "colours": [{"id": "dye", "name": "Dye", "value": "#336699"}], "easings": [{"id": "snap", "name": "Snap", "ease": [0.9, 0, 0.1, 1]}],
		"moves": [{"id": "flash", "name": "Flash", "length": 8, "motion": {"fill": {"keys": [{"id": "k1", "at": 0, "value": "colour:dye", "ease": [0.9, 0, 0.1, 1], "named": "snap"}, {"id": "k2", "at": 8, "value": "#ffffff"}]}}}]`)
	// Its keys go by the colours and easings of the template, as those of layers do.
	if d, _ := do(t, from, Act{Kind: "colour-remove", Id: "dye"}); d.Moves[0].Motion["fill"].Keys[0].Value.Text != "#336699" {
		t.Errorf("without its colour it is %s", text(t, d))
	}
	used := doc(t, `{"id": "one", "name": "One", "kind": "use", "motif": "two", "values": {"layers/in/fill": "colour:dye"}}, {"id": "g", "name": "G", "kind": "ground", "fill": "#000000", "motion": {"fill": {"keys": [{"id": "k", "at": 3, "value": "colour:dye"}]}}}`, "", `, "colours": [{"id": "dye", "name": "Dye", "value": "#336699"}],
		"motifs": [{"id": "two", "name": "Two", "kind": "group", "size": [90, 90], "layers": [{"id": "in", "name": "In", "kind": "shape", "fill": "#ffffff", "size": [9, 9]}]}]`)
	if d, _ := do(t, used, Act{Kind: "colour-remove", Id: "dye"}); d.Layer("one").Own["layers/in/fill"].Text != "#336699" || d.Layer("g").Motion["fill"].Keys[0].Value.Text != "#336699" {
		t.Errorf("without its colour it is %s", text(t, d))
	}
	if d, _ := do(t, from, Act{Kind: "easing", Id: "snap", Value: ptr(scheme.Many(0.5, 0, 0.5, 1))}); d.Moves[0].Motion["fill"].Keys[0].Ease[0] != 0.5 {
		t.Errorf("with another easing it is %s", text(t, d))
	}
	clip, err := MoveClip(from, from.Moves[0])
	if err != nil {
		t.Fatal(err)
	}
	to := doc(t, standing, "", "")
	d, p := do(t, to, Act{Kind: "perform", Clip: clip, Layers: []string{"c"}, Frame: 20})
	keys := d.Moves[0].Motion["fill"].Keys
	if p.Op.Title != "Flash for C" || keys[0].Value.Text != "#336699" || keys[0].Named != "" || keys[0].Ease == nil {
		t.Errorf("%s brought %s", p.Op.Title, text(t, d))
	}
	if _, err := Do(doc(t, `{"id": "k", "name": "K", "kind": "camera"}`, "", ""), shelf{}, Act{Kind: "perform", Clip: clip, Layers: []string{"k"}, Format: "wide"}); err == nil || !strings.Contains(err.Error(), "K can't do that") {
		t.Errorf("a camera that should take a colour: %v", err)
	}
	again, _ := do(t, d, Act{Kind: "perform", Clip: clip, Layers: []string{"d"}, Frame: 20})
	if len(again.Moves) != 1 {
		t.Errorf("brought twice there are %d", len(again.Moves))
	}
	for want, raw := range map[string]string{
		"no saved move":          `{"ivypocket": "layers"}`,
		"not part of the format": `{"ivypocket": "move", "name": "M", "length": 3, "smell": 1}`,
		"is not what was copied": `[1]`,
		"move.motion.fill":       `{"ivypocket": "move", "name": "M", "length": 3, "motion": {"fill": 5}}`,
	} {
		if _, err := Do(to, shelf{}, Act{Kind: "perform", Clip: json.RawMessage(raw), Layers: []string{"c"}, Format: "wide"}); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%s: %v, want %q", raw, err, want)
		}
	}
	// With the layer that performs it, too; and a plain move comes about.
	layers, err := Copied(from, []string{"c"})
	if err != nil || len(layers.Moves) != 0 {
		t.Errorf("nothing is performed, and %d moves go along: %v", len(layers.Moves), err)
	}
	played, _ := do(t, from, Act{Kind: "perform", Id: "flash", Layers: []string{"c"}})
	played, _ = do(t, played, Act{Kind: "plain-move", Layers: []string{"c", "e"}, Frame: 30})
	if list := played.Layer("e").Performances(); len(list) != 1 || !list[0].Given(scheme.PlainOpacityFrom) {
		t.Errorf("a ground's plain move is %s", text(t, played))
	}
	if layers, err = Copied(played, []string{"c"}); err != nil {
		t.Fatal(err)
	}
	raw, err := json.Marshal(layers)
	if err != nil {
		t.Fatal(err)
	}
	pasted, _ := do(t, to, Act{Kind: "paste", Clip: raw})
	if len(pasted.Moves) != 1 || !slices.ContainsFunc(pasted.Layers, func(y *template.Layer) bool { return len(y.Performances()) == 2 }) {
		t.Errorf("pasted there is %s", text(t, pasted))
	}
}

// In a motif a layer performs for all uses; through one of them it is slid, its keys moved, freed and taken away as it is seen
// there, and a use may have its own length.
func TestMovesInMotifs(t *testing.T) {
	first := doc(t, `{"id": "one", "name": "One", "kind": "use", "motif": "two", "shift": 5}, {"id": "other", "name": "Other", "kind": "use", "motif": "two"}`, "",
		`, "motifs": [{"id": "two", "name": "Two", "kind": "group", "size": [90, 90], "layers": [{"id": "in", "name": "In", "kind": "shape", "fill": "#ffffff", "size": [9, 9]}]}]`)
	d, _ := do(t, first, Act{Kind: "perform", Way: "fade", Layers: []string{"one:in"}, Frame: 20})
	performs := func(d *template.Document) string {
		t.Helper()
		for _, u := range d.Layer("in").Performances() {
			return fmt.Sprint(u.Number(scheme.PerformedAt), u.Number(scheme.PerformedLong))
		}
		return "nothing"
	}
	if got := performs(d); got != "15 20" {
		t.Errorf("through a use that plays 5 frames late it begins at %s", got)
	}
	d, _ = do(t, d, Act{Kind: "move-time", Paths: []string{"layers/one:in/moves/m1"}, Frames: 3})
	d, _ = do(t, d, Act{Kind: "retime", Keys: []string{"layers/one:in/moves/m1/motion/opacity/k2"}, Frames: -4})
	if got := performs(d); got != "18 20" || d.Moves[0].Motion["opacity"].Keys[1].At != timing.Int(16) {
		t.Errorf("slid and with a key moved it is %s", text(t, d))
	}
	own, _ := do(t, d, Act{Kind: "rest", Path: "layers/one:in/moves/m1/length", Value: ptr(scheme.One(40)), Own: true})
	if own.Layer("one").Own["layers/in/moves/m1/length"].Number() != 40 || performs(own) != "18 20" {
		t.Errorf("with a length of its own the use is %s", text(t, own))
	}
	if a, b := seenOf(t, own, "one:in", 23+16), seenOf(t, own, "other:in", 18+8); math.Abs(a-b) > 1e-6 {
		t.Errorf("in twice the time it is seen at %g, and at %g", a, b)
	}
	free, _ := do(t, d, Act{Kind: "free-move", Paths: []string{"layers/one:in/moves/m1"}})
	if k := free.Layer("in").Motion["opacity"]; k == nil || k.Keys[0].At != timing.Int(18) || performs(free) != "nothing" {
		t.Errorf("made keys of it is %s", text(t, free))
	}
	gone, _ := do(t, d, Act{Kind: "remove", Path: "layers/one:in/moves/m1"})
	if performs(gone) != "nothing" {
		t.Errorf("taken away it is %s", text(t, gone))
	}
	plain, _ := do(t, gone, Act{Kind: "perform", Id: d.Moves[0].ID, Layers: []string{"other"}, Frame: 30})
	if list := plain.Layer("other").Performances(); len(list) != 1 {
		t.Errorf("a use itself performs %s", text(t, plain))
	}
}

// seenOf is the opacity of a layer at a frame.
func seenOf(t testing.TB, d *template.Document, layer string, frame int64) float64 {
	t.Helper()
	sc := sceneOf(t, d, "wide")
	for _, p := range sc.Look(layer, sc.Time().At(timing.OutputFrame(frame))).Properties {
		if p.Path == "layers/"+layer+"/opacity" {
			return p.Now[0]
		}
	}
	t.Fatalf("%s is not there", layer)
	return 0
}

// What something else sets, or somebody pinned down, is left alone and told; what is performed is the same in all formats; what a freed
// move's values were offered as is offered no more.
func TestPerformancesThatAreNotFree(t *testing.T) {
	d := doc(t, `{"id": "a", "name": "A", "kind": "shape", "fill": "#ffffff", "size": [9, 9], "moves": [{"id": "m", "kind": "plain", "length": 20, "opacity": {"from": 0}}]},
		{"id": "b", "name": "B", "kind": "shape", "fill": "#ffffff", "size": [9, 9], "moves": [{"id": "m", "kind": "plain", "length": 20, "opacity": {"from": 0}, "formulas": {"length": "7 * 3"}}]},
		{"id": "c", "name": "C", "kind": "shape", "fill": "#ffffff", "size": [9, 9], "locked": true, "moves": [{"id": "m", "kind": "plain", "length": 20, "opacity": {"from": 0}}]},
		{"id": "g", "name": "G", "kind": "ground", "gradient": {"kind": "linear", "from": [0, 0], "to": [1, 0], "stops": [{"id": "s", "at": 0, "colour": "#ffffff", "motion": {"colour": {"keys": [{"id": "k1", "at": 0, "value": "#000000"}, {"id": "k2", "at": 9, "value": "#ffffff"}]}}}, {"id": "t", "at": 1, "colour": "#000000"}]}}`,
		"", `, "sheet": {"groups": [{"id": "g1", "label": "G", "entries": [{"id": "long", "label": "Long", "kind": "amount", "unit": "frames", "default": 20, "min": 1, "max": 60, "ties": [{"to": "layers/a/moves/m/length"}]}]}]},
		"moves": [{"id": "turns", "name": "Turns", "length": 10, "motion": {"turn": {"keys": [{"id": "k1", "at": 0, "value": 9}, {"id": "k2", "at": 10, "value": 0}]}}}]`)
	for want, a := range map[string]Act{
		"is set by the entry Long":      {Kind: "move-time", Way: "length", Frames: 3, Paths: []string{"layers/a/moves/m"}},
		"is set by the formula 7 * 3":   {Kind: "move-time", Way: "length", Frames: 3, Paths: []string{"layers/b/moves/m"}},
		"C is locked":                   {Kind: "move-time", Frames: 3, Paths: []string{"layers/c/moves/m"}},
		"is of this layer's own gradie": {Kind: "save-move", Name: "N", Keys: []string{"layers/g/stops/s/motion/colour/k1", "layers/g/stops/s/motion/colour/k2"}},
	} {
		a.Format = "wide"
		if _, err := Do(d, shelf{}, a); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%v, want %q", err, want)
		}
	}
	tall, _ := do(t, d, Act{Kind: "rest", Path: "layers/b/moves/m/at", Value: ptr(scheme.One(15)), Apart: true, Format: "tall"})
	if len(tall.Format("tall").Rest) > 0 || tall.Layer("b").Performances()[0].Number(scheme.PerformedAt) != 15 {
		t.Errorf("motion is the same in all formats, and here it is %s", text(t, tall))
	}
	far, _ := do(t, d, Act{Kind: "rest", Path: "layers/a/moves/m/place.from", Value: ptr(scheme.Many(400, 0))})
	for _, kind := range []string{"format-add", "format-copy"} {
		if more, _ := do(t, far, Act{Kind: kind, Id: "wide", To: [2]float64{400, 1000}}); len(more.Formats) != 3 || strings.Contains(text(t, more), `"layers/a/moves/m/`+"place") {
			t.Errorf("%s: what is performed is another there: %s", kind, text(t, more))
		}
	}
	free, _ := do(t, d, Act{Kind: "free-move", Paths: []string{"layers/a/moves/m"}})
	if len(free.Sheet.Entries()[0].Ties) > 0 || free.Layer("a").Motion["opacity"] == nil {
		t.Errorf("made keys of it is %s", text(t, free))
	}
	played, _ := do(t, d, Act{Kind: "perform", Id: "turns", Layers: []string{"b"}})
	if _, err := Do(played, shelf{}, Act{Kind: "save-move", Name: "N", Format: "wide", Keys: []string{"layers/b/moves/m1/motion/turn/k1", "layers/b/moves/m1/motion/turn/k2"}}); err == nil || !strings.Contains(err.Error(), "of a saved move already") {
		t.Errorf("keys of a move saved once more: %v", err)
	}
	// What takes rest's place waits where it came to, until the freed keys begin.
	held := doc(t, `{"id": "a", "name": "A", "kind": "shape", "fill": "#000000", "size": [9, 9], "motion": {"fill": {"keys": [{"id": "k1", "at": 0, "value": "#000000"}, {"id": "k2", "at": 10, "value": "#ff0000"}]}}, "moves": [{"id": "m", "kind": "saved", "move": "flash", "at": 50, "length": 8}]}`, "",
		`, "moves": [{"id": "flash", "name": "Flash", "length": 8, "motion": {"fill": {"keys": [{"id": "k1", "at": 0, "value": "#00ff00"}, {"id": "k2", "at": 8, "value": "#0000ff"}]}}}]`)
	one, _ := do(t, held, Act{Kind: "free-move", Paths: []string{"layers/a/moves/m"}})
	for _, n := range []int64{5, 30, 49, 50, 54, 70} {
		if drawnAt(t, held, "wide", n) != drawnAt(t, one, "wide", n) {
			t.Errorf("made one motion it is drawn otherwise at frame %d: %s", n, text(t, one))
		}
	}
}

// Of a motion of which some keys are saved the others go on so that nothing is seen otherwise; where that can't be, or something
// would be lost that comes along, it is refused.
func TestSomeKeysAreSavedAsAMove(t *testing.T) {
	const body = `{"id": "a", "name": "A", "kind": "shape", "fill": "#c01030", "size": [200, 100], "motion": {
		"place": {"unit": "canvas", "keys": [{"id": "k1", "at": 0, "value": [0.3, 0]}, {"id": "k2", "at": 10, "value": [0.1, 0.2], "ease": [0.8, 0, 0.2, 1]}, {"id": "k3", "at": 30, "value": [0.2, 0]}, {"id": "k4", "at": 50, "value": [0.2, 0]}, {"id": "k5", "at": 80, "value": [0, 0.4]}]},
		"opacity": {"keys": [{"id": "k1", "at": 0, "value": 0.2}, {"id": "k2", "at": 20, "value": 0.8}, {"id": "k3", "at": 60, "value": 0.8}, {"id": "k4", "at": 90, "value": 0}]},
		"fill": {"keys": [{"id": "k1", "at": 0, "value": "#000000"}, {"id": "k2", "at": 20, "value": "#ff0000"}, {"id": "k3", "at": 60, "value": "#ff0000"}, {"id": "k4", "at": 90, "value": "#0000ff"}]}},
		"masks": [{"id": "first", "size": [90, 90], "motion": {"turn": {"keys": [{"id": "k1", "at": 0, "value": 0}, {"id": "k2", "at": 9, "value": 9}]}}}, {"id": "last", "size": [150, 90], "feather": 9, "motion": {"turn": {"keys": [{"id": "k1", "at": 0, "value": 0}, {"id": "k2", "at": 9, "value": 9}, {"id": "k3", "at": 19, "value": 0}]}, "feather": {"keys": [{"id": "k1", "at": 0, "value": 1}, {"id": "k2", "at": 9, "value": 2}]}}}],
		"treatments": [{"id": "blur", "kind": "blur", "radius": 9, "masks": [{"id": "still", "size": [40, 40]}, {"id": "spot", "size": [60, 60], "motion": {"turn": {"keys": [{"id": "k1", "at": 5, "value": 0}, {"id": "k2", "at": 9, "value": 90}]}}}]}]}`
	d := doc(t, body, "", "")
	keys := func(of string, ids ...string) (out []string) {
		for _, id := range ids {
			at := strings.LastIndexByte(of, '/') + 1
			out = append(out, "layers/a/"+of[:at]+"motion/"+of[at:]+"/"+id)
		}
		return out
	}
	for name, picked := range map[string][]string{
		"the first of a place":      keys("place", "k1", "k2", "k3"),
		"the last of a place":       keys("place", "k4", "k5"),
		"the first of an opacity":   keys("opacity", "k1", "k2"),
		"the last of an opacity":    keys("opacity", "k3", "k4"),
		"the first of a colour":     keys("fill", "k1", "k2"),
		"the last of a colour":      keys("fill", "k3", "k4"),
		"several":                   slices.Concat(keys("place", "k4", "k5"), keys("opacity", "k3", "k4")),
		"a mask, as a whole":        slices.Concat(keys("masks/last/turn", "k1", "k2", "k3"), keys("masks/last/feather", "k1", "k2")),
		"a treatment, with its own": keys("treatments/blur/masks/spot/turn", "k1", "k2"),
	} {
		saved, _ := do(t, d, Act{Kind: "save-move", Name: "N", Keys: picked})
		if err := saved.Validate(); err != nil {
			t.Fatal(err)
		}
		for n := int64(0); n < 100; n += 5 {
			was, is := seenAll(t, d, n), seenAll(t, saved, n)
			for _, of := range []string{"place", "opacity", "fill"} {
				for k, v := range was["wide layers/a/"+of] {
					if math.Abs(v-is["wide layers/a/"+of][k]) > 2e-3 {
						t.Errorf("%s: %s is seen at %g at frame %d, was %g", name, of, is["wide layers/a/"+of], n, was["wide layers/a/"+of])
					}
				}
			}
			if strings.HasPrefix(name, "a ") && drawnAt(t, d, "wide", n) != drawnAt(t, saved, "wide", n) {
				t.Errorf("%s: frame %d is drawn otherwise", name, n)
			}
		}
	}
	for want, picked := range map[string][]string{
		"place of A goes on from frame 10 to 30":              keys("place", "k1", "k2"),
		"some between are not picked":                         keys("place", "k1", "k3"),
		"comes before last, and would come after it":          keys("masks/first/turn", "k1", "k2"),
		"turn of the mask of A has others; pick all that mov": keys("masks/last/feather", "k1", "k2"),
		"feather of A has others":                             keys("masks/last/turn", "k1", "k2", "k3"),
	} {
		if _, err := Do(d, shelf{}, Act{Kind: "save-move", Name: "N", Format: "wide", Keys: picked}); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%v, want %q", err, want)
		}
	}
	middle := doc(t, strings.Replace(strings.Replace(body, `"value": "#000000"`, `"value": "#ff0000"`, 1), `"value": "#0000ff"`, `"value": "#ff0000"`, 1), "", "")
	if _, err := Do(middle, shelf{}, Act{Kind: "save-move", Name: "N", Format: "wide", Keys: keys("fill", "k2", "k3")}); err == nil || !strings.Contains(err.Error(), "has keys before those that are picked and after") {
		t.Errorf("the middle of a colour: %v", err)
	}
	// What is nothing where the picked keys end: others are no shares of it, unless they are nothing, too.
	gone := doc(t, `{"id": "a", "name": "A", "kind": "shape", "fill": "#c01030", "size": [90, 90], "motion": {"opacity": {"keys": [{"id": "k1", "at": 0, "value": 1}, {"id": "k2", "at": 10, "value": 0}, {"id": "k3", "at": 30, "value": 0}, {"id": "k4", "at": 50, "value": 0}]},
		"place": {"unit": "canvas", "even": true, "keys": [{"id": "k1", "at": 0, "value": [0.3, 0]}, {"id": "k2", "at": 10, "value": [0, 0]}, {"id": "k3", "at": 30, "value": [0, 0]}, {"id": "k4", "at": 50, "value": [0, 0.3]}]}},
		"masks": [{"id": "driven", "formulas": {"turn": "3"}, "motion": {"feather": {"keys": [{"id": "k1", "at": 0, "value": 1}, {"id": "k2", "at": 9, "value": 2}]}}}]}`, "", "")
	saved, _ := do(t, gone, Act{Kind: "save-move", Name: "N", Keys: keys("opacity", "k1", "k2")})
	for _, n := range []int64{0, 5, 20, 40, 70} {
		if a, b := seenOf(t, gone, "a", n), seenOf(t, saved, "a", n); math.Abs(a-b) > 1e-6 {
			t.Errorf("gone at frame %d it is seen at %g, was %g", n, b, a)
		}
	}
	if k := saved.Layer("a").Motion["opacity"].Keys; k[0].Value.Number() != 1 {
		t.Errorf("what is nothing either way is %v", k)
	}
	back := doc(t, `{"id": "a", "name": "A", "kind": "shape", "fill": "#c01030", "size": [90, 90], "motion": {"opacity": {"keys": [{"id": "k1", "at": 0, "value": 1}, {"id": "k2", "at": 10, "value": 0}, {"id": "k3", "at": 30, "value": 0}, {"id": "k4", "at": 50, "value": 0.5}]}}}`, "", "")
	for want, on := range map[string]struct {
		d    *template.Document
		keys []string
	}{
		"of which others can't be shares": {back, keys("opacity", "k1", "k2")},
		"goes its way at an even speed":   {gone, keys("place", "k1", "k2")},
		"a formula sets something of the": {gone, keys("masks/driven/feather", "k1", "k2")},
	} {
		if _, err := Do(on.d, shelf{}, Act{Kind: "save-move", Name: "N", Format: "wide", Keys: on.keys}); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%v, want %q", err, want)
		}
	}
	off := doc(t, `{"id": "a", "name": "A", "kind": "shape", "fill": "#c01030", "size": [9, 9], "formulas": {"turn": "3"}, "moves": [{"id": "m", "kind": "plain", "length": 9, "off": true, "opacity": {"from": 0}}]}`, "", `, "moves": [{"id": "turns", "name": "Turns", "length": 10, "motion": {"turn": {"keys": [{"id": "k1", "at": 0, "value": 9}, {"id": "k2", "at": 10, "value": 0}]}}}]`)
	for want, a := range map[string]Act{
		"is off; switch it on first": {Kind: "free-move", Paths: []string{"layers/a/moves/m"}},
		"or formulas set it":         {Kind: "perform", Id: "turns", Layers: []string{"a"}},
	} {
		a.Format = "wide"
		if _, err := Do(off, shelf{}, a); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%v, want %q", err, want)
		}
	}
}
