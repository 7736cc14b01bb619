package craft

import (
	"strings"
	"testing"

	"ivypocket/core/edit"
	"ivypocket/core/scheme"
	"ivypocket/core/template"
)

// A group that plays later, with a layer that moves, is masked and trimmed; one that fills; one
// that a clip is in; one that is cut by another.
const plays = `{"id": "g", "name": "G", "kind": "group", "size": [800, 600], "shift": 10, "layers": [
	{"id": "kite", "name": "Kite", "kind": "shape", "fill": "#c01030", "size": [200, 100], "in": 20, "out": 60, "copies": {"count": 3, "seed": 4, "spread": [0.2, 0.2]},
	 "motion": {"place": {"unit": "canvas", "keys": [{"at": 0, "value": [0, 0], "ease": [0.6, 0, 0.2, 1]}, {"at": 80, "value": [0.2, 0.1]}]}}, "masks": [{"id": "m", "motion": {"turn": {"keys": [{"at": 0, "value": 0}, {"at": 50, "value": 90}]}}}]}]},
	{"id": "low", "name": "Low", "kind": "shape", "fill": "colour:sea", "size": [300, 200], "opacity": 0.5, "blend": "multiply"},
	{"id": "v", "name": "View", "kind": "view", "pocket": "clip", "size": [400, 300], "in": 5},
	{"id": "cutter", "name": "Cutter", "kind": "shape", "fill": "#000000", "size": [90, 90], "hidden": true},
	{"id": "cut", "name": "Cut", "kind": "shape", "fill": "#20c040", "size": [100, 100], "matte": {"layer": "cutter", "of": "alpha"}}`

const playsMore = `, "colours": [{"id": "sea", "name": "Sea", "value": "#1e7383"}], "pockets": [{"id": "clip", "name": "Clip", "kinds": ["footage", "picture"]}],
	"sheet": {"groups": [{"id": "all", "label": "All", "entries": [{"id": "thick", "label": "Thick", "kind": "amount", "default": 50, "min": 0, "max": 100, "unit": "%", "ties": [{"to": "layers/low/opacity", "from": [0, 100], "into": [0, 1]}]}]}]}`

// told is when a layer is there by what the document says: in, out and shift, "-" for nothing.
func told(d *template.Document, id string) string {
	var out []string
	for _, p := range []*scheme.Property{scheme.In, scheme.Out, scheme.Shift} {
		if v, given := d.Layer(id).Value(p); given {
			out = append(out, v.String())
		} else {
			out = append(out, "-")
		}
	}
	return strings.Join(out, " ")
}

// Layers are slid with all that is theirs, by so many frames or to a frame: what they show is then
// that much later.
func TestLayersAreSlidInTime(t *testing.T) {
	first := doc(t, plays, "", playsMore)
	d, p := do(t, first, Act{Kind: "slide", Layers: []string{"kite"}, Frames: 7})
	if told(d, "kite") != "20 60 7" || p.Op.Title != "Slide Kite" || d.Validate() != nil {
		t.Errorf("%s: %s, %v", p.Op.Title, told(d, "kite"), d.Validate())
	}
	was, is := stands(t, first, "wide", 45), stands(t, d, "wide", 52)
	if !nearQuad(quad(was["kite"]), quad(is["kite"]), 1e-6) {
		t.Errorf("7 frames later it stands at %v, not %v", quad(is["kite"]), quad(was["kite"]))
	}
	// In a group that is shifted it begins as much later all the same.
	inner := doc(t, strings.Replace(plays, `"in": 20, "out": 60, `, "", 1), "", playsMore)
	if d, _ := do(t, inner, Act{Kind: "slide", Layers: []string{"kite"}, Frames: 4}); told(d, "kite") != "-10 - 4" || !stands(t, d, "wide", 4)["kite"].Shown || stands(t, d, "wide", 3)["kite"].Shown {
		t.Errorf("in a shifted group it is there %s", told(d, "kite"))
	} else if d, _ = do(t, d, Act{Kind: "slide", Layers: []string{"kite"}, Frames: -4}); text(t, d) != text(t, inner) {
		t.Errorf("there and back in a shifted group it is there %s", told(d, "kite"))
	}
	for _, by := range []int64{7, -7} {
		all := []string{"g", "low", "v", "cut"}
		there, _ := do(t, first, Act{Kind: "slide", Layers: all, Frames: by})
		if back, _ := do(t, there, Act{Kind: "slide", Layers: all, Frames: -by}); text(t, back) != text(t, first) {
			t.Errorf("there and back it is %s", text(t, back))
		}
	}
	for _, c := range []struct {
		act  Act
		id   string
		want string
	}{
		{Act{Way: "in", Frame: 50, Layers: []string{"kite"}}, "kite", "20 60 20"},   // 20 + 10 of its group + 20
		{Act{Way: "out", Frame: 50, Layers: []string{"kite"}}, "kite", "20 60 -19"}, // the last frame that is seen is 50
		{Act{Way: "in", Frame: 50, Layers: []string{"kite", "v"}}, "kite", "20 60 45"},
		{Act{Way: "in", Frame: 50, Layers: []string{"kite", "v"}}, "v", "5 - 45"},
		{Act{Frames: 8, Layers: []string{"low"}}, "low", "0 - 8"}, // it begins 8 later
		{Act{Frames: -8, Layers: []string{"low"}}, "low", "- 100 -8"},
		{Act{Frames: -8, Layers: []string{"v"}}, "v", "5 100 -8"},
		{Act{Way: "out", Frame: 80, Layers: []string{"kite", "v"}}, "kite", "20 60 -19"}, // by what the later one needs
		{Act{Frames: -10, Layers: []string{"g"}}, "g", "- - -"},
	} {
		c.act.Kind = "slide"
		if d, _ := do(t, first, c.act); told(d, c.id) != c.want || d.Validate() != nil {
			t.Errorf("%+v: %s is there %s, not %s: %v", c.act, c.id, told(d, c.id), c.want, d.Validate())
		}
	}
	refusedFor(t, first, Act{Kind: "slide", Layers: []string{"v"}, Frames: 101}, "would be shifted by 101 frames; the template has 100")
	refusedFor(t, first, Act{Kind: "slide", Layers: []string{"v"}, Frames: -101}, "would be shifted by -101 frames")
	refusedFor(t, first, Act{Kind: "slide", Layers: []string{"v"}, Way: "over"}, "neither in nor out")
	refusedFor(t, first, Act{Kind: "slide"}, "none is selected")
}

// Layers are trimmed by so many frames or to the frame that is looked at, which is seen then; each
// stays a frame long.
func TestLayersAreTrimmed(t *testing.T) {
	first := doc(t, plays, "", playsMore)
	for _, c := range []struct {
		act  Act
		id   string
		want string
	}{
		{Act{Way: "in", Frame: 40, Layers: []string{"kite"}}, "kite", "30 60 -"}, // its group is 10 late
		{Act{Way: "out", Frame: 40, Layers: []string{"kite"}}, "kite", "20 31 -"},
		{Act{Way: "in", Frame: 40, Layers: []string{"low", "v"}}, "low", "40 - -"},
		{Act{Way: "in", Frame: 40, Layers: []string{"low", "v"}}, "v", "40 - -"},
		{Act{Way: "in", Frames: -9, Layers: []string{"v"}}, "v", "- - -"}, // as far as there is time
		{Act{Way: "in", Frames: 90, Layers: []string{"kite"}}, "kite", "59 60 -"},
		{Act{Way: "out", Frames: -90, Layers: []string{"kite"}}, "kite", "20 21 -"},
		{Act{Way: "out", Frames: -3, Layers: []string{"low"}}, "low", "- 97 -"},
		{Act{Way: "out", Frames: 300, Layers: []string{"kite"}}, "kite", "20 90 -"},
	} {
		c.act.Kind = "trim"
		if d, _ := do(t, first, c.act); told(d, c.id) != c.want || d.Validate() != nil {
			t.Errorf("%+v: %s is there %s, not %s: %v", c.act, c.id, told(d, c.id), c.want, d.Validate())
		}
	}
	// What is dragged is the end that is seen, however far it lies outside.
	early, _ := do(t, first, Act{Kind: "slide", Layers: []string{"v"}, Frames: -20})
	if d, _ := do(t, early, Act{Kind: "trim", Way: "out", Frames: -200, Layers: []string{"v"}}); told(d, "v") != "5 21 -20" {
		t.Errorf("as short as it can be it is there %s, and its first frame that is seen is the template's", told(d, "v"))
	}
	if early, _ = do(t, early, Act{Kind: "trim", Way: "in", Frames: 6, Layers: []string{"v"}}); told(early, "v") != "26 100 -20" {
		t.Errorf("6 frames on from the first that is seen it is there %s", told(early, "v"))
	}
	// One that is not seen at all is not trimmed; one that is never leaves the template.
	gone, _ := do(t, first, Act{Kind: "slide", Layers: []string{"kite"}, Frames: -75})
	refusedFor(t, gone, Act{Kind: "trim", Way: "in", Frames: 3, Layers: []string{"kite"}}, "slide it into the template first")
	if early, _ = do(t, early, Act{Kind: "trim", Way: "out", Frames: -200, Layers: []string{"v"}}); told(early, "v") != "26 27 -20" {
		t.Errorf("trimmed to one frame it is there %s", told(early, "v"))
	}
	// In a use of a motif that is shifted it is trimmed where it is seen.
	used := doc(t, `{"id": "one", "name": "One", "kind": "use", "motif": "m", "shift": 10}`, "", `, "motifs": [{"id": "m", "name": "M", "kind": "group", "size": [400, 400], "layers": [{"id": "l", "name": "L", "kind": "shape", "fill": "#102030", "size": [100, 100]}]}]`)
	used, _ = do(t, used, Act{Kind: "trim", Way: "in", Frame: 30, Layers: []string{"one:l"}})
	if told(used, "l") != "20 - -" || !stands(t, used, "wide", 30)["one:l"].Shown || stands(t, used, "wide", 29)["one:l"].Shown {
		t.Errorf("in a use it is there %s", told(used, "l"))
	}
	// Where a format has an end of its own, that is what is trimmed in it.
	apart := doc(t, plays, `"layers/low/out": 70`, playsMore)
	for format, want := range map[string]string{"wide": "- 41 -; 70", "tall": "- - -; 41"} {
		d, _ := do(t, apart, Act{Kind: "trim", Way: "out", Frame: 40, Format: format, Layers: []string{"low"}})
		if got := told(d, "low") + "; " + d.Format("tall").Rest["layers/low/out"].String(); got != want {
			t.Errorf("trimmed in %s it is there %s, not %s", format, got, want)
		}
	}
	// At the frame that it is trimmed to it is still, or already, seen.
	for way, frames := range map[string][2]int64{"in": {40, 39}, "out": {40, 41}} {
		d, _ := do(t, first, Act{Kind: "trim", Way: way, Frame: 40, Layers: []string{"low"}})
		if s := stands(t, d, "wide", frames[0])["low"]; !s.Shown {
			t.Errorf("trimmed at its %s to frame 40 it is not seen there", way)
		}
		if s := stands(t, d, "wide", frames[1])["low"]; s.Shown {
			t.Errorf("trimmed at its %s to frame 40 it is seen at %d", way, frames[1])
		}
	}
	refusedFor(t, first, Act{Kind: "trim", Way: "in", Frame: 80, Layers: []string{"kite"}}, "can't begin at frame 80: it is there from frame 30 up to 70")
	refusedFor(t, first, Act{Kind: "trim", Way: "out", Frame: 20, Layers: []string{"kite"}}, "can't end with frame 20")
	refusedFor(t, first, Act{Kind: "trim", Way: "off", Layers: []string{"kite"}}, "neither in nor out")
	tied := doc(t, plays, "", strings.Replace(playsMore, `{"to": "layers/low/opacity", "from": [0, 100], "into": [0, 1]}`, `{"to": "layers/low/out", "from": [0, 100], "into": [10, 90]}`, 1))
	if tied.Validate() == nil { // an entry sets it
		refusedFor(t, tied, Act{Kind: "trim", Way: "out", Frame: 20, Layers: []string{"low"}}, "is set by")
	}
}

// A layer is made two where it is looked at, and nothing is seen of it, at any frame; what drives it
// drives both. What another is cut by stays one.
func TestLayersAreDividedInTime(t *testing.T) {
	first := doc(t, plays, `"layers/low/size": [500, 100]`, playsMore)
	d, p := do(t, first, Act{Kind: "part", Layers: []string{"kite", "low"}, Frame: 50})
	if told(d, "kite") != "20 40 -" || told(d, p.Chosen[0]) != "40 60 -" && told(d, p.Chosen[1]) != "40 60 -" || d.Validate() != nil || len(p.Chosen) != 2 {
		t.Fatalf("%v: %s, %v", p.Chosen, told(d, "kite"), d.Validate())
	}
	if told(d, "low") != "- 50 -" || told(d, "low-2") != "50 - -" || len(d.Sheet.Entry("thick").Ties) != 2 || d.Format("tall").Rest["layers/low-2/size"].Numbers[0] != 500 {
		t.Errorf("%s, %s: %s", told(d, "low"), told(d, "low-2"), text(t, d))
	}
	refusedFor(t, first, Act{Kind: "part", Layers: []string{"kite"}, Frame: 30}, "can't be split at frame 30")
	refusedFor(t, first, Act{Kind: "part", Layers: []string{"kite"}, Frame: 70}, "can't be split at frame 70")
	refusedFor(t, first, Act{Kind: "part", Layers: []string{"cutter"}, Frame: 50}, "Cut is cut by Cutter")
	// All of it is taken back to the byte.
	draft := edit.Draft{Doc: first}
	next, changes, err := draft.Do(p.Op)
	if err != nil {
		t.Fatal(err)
	}
	if back, err := next.Replay(edit.Reverse(changes)); err != nil || text(t, back.Doc) != text(t, first) {
		t.Errorf("taken back: %v", err)
	}
}
