package cover_test

import (
	"context"
	"fmt"
	"reflect"
	"testing"

	"ivypocket/core/cover"
	"ivypocket/core/internal/sample"
	"ivypocket/core/raster"
	"ivypocket/core/scene"
	"ivypocket/core/sheet"
	"ivypocket/core/template"
	"ivypocket/core/timing"
)

// made is a document of some layers on a canvas.
func made(t *testing.T, rate string, frames, w, h int, more, layers string) *template.Document {
	t.Helper()
	d, err := template.Parse(fmt.Appendf(nil, `{"ivypocket": 3, "kind": "template", "id": "t", "name": "T", "category": "T", "rate": %q, "frames": %d%s,
		"formats": [{"id": "f", "name": "F", "width": %d, "height": %d}], "layers": [%s]}`, rate, frames, more, w, h, layers))
	if err != nil {
		t.Fatal(err)
	}
	return d
}

// found looks for the covered frames of a document at a length, 0 its own.
func found(t *testing.T, d *template.Document, length int64) (f cover.Found) {
	t.Helper()
	painted(t, d, length, func(sc *scene.Scene, paint cover.Paint) (err error) {
		f, err = cover.Frames(context.Background(), sc, paint)
		return err
	})
	return f
}

// painted does something with a document at a length, and with what paints it.
func painted(t *testing.T, d *template.Document, length int64, do func(*scene.Scene, cover.Paint) error) {
	t.Helper()
	lib := sample.Source{}
	sc, err := cover.Scene(&sheet.Resolved{Doc: d, Values: sheet.Values{Frames: length}}, "f", lib)
	if err != nil {
		t.Fatal(err)
	}
	p := scene.NewPainter(scene.NewPictures(lib, 64<<20))
	defer p.Close()
	var ready scene.Ready
	pictures := scene.NewPictures(lib, 64<<20)
	var surface raster.Surface
	if err := do(sc, func(ctx context.Context, l *scene.List) (*raster.Surface, error) {
		if err := pictures.Ready(ctx, l, &ready); err != nil {
			return nil, err
		}
		return &surface, p.PaintReady(ctx, l, &ready, &surface)
	}); err != nil {
		t.Fatal(err)
	}
}

// panel is one that travels over the canvas from top to bottom, by so many px on each side of the middle, from frame 0 to a last one.
func panel(w, h, by int, last int, canvas int, more string) string {
	return fmt.Sprintf(`{"id": "p", "name": "P", "kind": "shape", "fill": "#102030", "size": [%d, %d]%s, "motion": {"place": {"unit": "canvas", "keys": [{"at": 0, "value": [0, %g]}, {"at": %d, "value": [0, %g]}]}}}`,
		w, h, more, -float64(by)/float64(canvas), last, float64(by)/float64(canvas))
}

// A panel that wipes over a canvas 2160 px high travels 4320 px, from just above to just below, and covers
// it at the one instant at which it stands in its middle; with 80 px to spare (4400) it covers it as long as it
// stands less than 40 px off. With round corners it never covers the four corners (common practice, no source; the rest
// is arithmetic).
func TestAPanelThatWipesTheCanvas(t *testing.T) {
	d := made(t, "60", 61, 3840, 2160, "", panel(3840, 2160, 2160, 60, 2160, ""))
	if f := found(t, d, 0); !reflect.DeepEqual(f.Runs, []cover.Run{{From: 30, To: 31}}) {
		t.Errorf("as high as the canvas: %v", f.Runs)
	}
	// 4400 px in 110 frames are 40 px a frame.
	d = made(t, "60", 111, 3840, 2160, "", panel(3840, 2240, 2200, 110, 2160, ""))
	f := found(t, d, 0)
	if !reflect.DeepEqual(f.Runs, []cover.Run{{From: 54, To: 57}}) {
		t.Errorf("with 80 px to spare: %v", f.Runs)
	}
	if at, ok := cover.Cut(f.Runs); !ok || at != 55 {
		t.Errorf("cut at %d", at)
	}
	d = made(t, "60", 61, 1280, 720, "", panel(1280, 720, 720, 60, 720, `, "radius": 6`))
	f = found(t, d, 0)
	if _, ok := cover.Cut(f.Runs); ok || f.Nearest != 30 || f.Share < 0.9999 || f.Share >= 1 {
		t.Errorf("with round corners: %v, at best %g at frame %d", f.Runs, f.Share, f.Nearest)
	}
	// Not opaque it covers nothing.
	if f := found(t, made(t, "60", 61, 1280, 720, "", panel(1280, 720, 720, 60, 720, `, "opacity": 0.996`)), 0); f.Runs != nil {
		t.Errorf("seen through a little: %v", f.Runs)
	}
}

// Two panels that meet cover; a quarter of a px between them is seen, and so is a seam that falls between pixels.
func TestGapsOfLessThanAPixelAreSeen(t *testing.T) {
	for _, c := range []struct {
		at, high float64
		covered  bool
	}{{-180, 360, true}, {-180.25, 360, false}, {-180.25, 360.5, true}, {-180.5, 360, false}, {-180, 361, true}} {
		d := made(t, "60", 2, 1280, 720, "", fmt.Sprintf(`{"id": "a", "name": "A", "kind": "shape", "fill": "#102030", "size": [1280, %g], "place": [0, %g]}, {"id": "b", "name": "B", "kind": "shape", "fill": "#302010", "size": [1280, 360], "place": [0, 180]}`, c.high+1e-9, c.at))
		if f := found(t, d, 0); (len(f.Runs) > 0) != c.covered {
			t.Errorf("%g high at %g: %v", c.high, c.at, f.Runs)
		}
	}
}

// A transition for live switching at 60 frames a second: it begins to clear at 2 s and 45 frames, frame 165, which
// is 2750 ms; to cut at 1000 ms is too early, at 1300 ms, frame 78, it is right (common practice, no source).
func TestWhereToCutALiveSwitch(t *testing.T) {
	r, err := timing.ParseRate("60")
	if err != nil {
		t.Fatal(err)
	}
	if got := cover.Milliseconds(165, r); got != 2750 {
		t.Errorf("frame 165 is at %d ms", got)
	}
	if got := cover.Milliseconds(78, r); got != 1300 {
		t.Errorf("frame 78 is at %d ms", got)
	}
	ntsc, _ := timing.ParseRate("30000/1001")
	if got := cover.Milliseconds(60, ntsc); got != 2002 { // 60 frames at 29.97 are 2.002 s
		t.Errorf("frame 60 is at %d ms", got)
	}
	// Five bars close one after another, the last at frame 70, and open from 165 on.
	bars := ""
	for i := range 5 {
		bars += fmt.Sprintf(`{"id": "b%d", "name": "B", "kind": "shape", "fill": "#102030", "size": [256, 720], "place": [%d, 0], "motion": {"place": {"unit": "canvas", "keys": [
			{"at": %d, "value": [0, -1.5], "ease": [0.2, 0, 0, 1]}, {"at": %d, "value": [0, 0], "hold": true}, {"at": 165, "value": [0, 0], "ease": [1, 0, 0.8, 1]}, {"at": 200, "value": [0, 1.5]}]}}},`, i, -512+256*i, 10+5*i, 50+5*i)
	}
	d := made(t, "60", 210, 1280, 720, "", bars[:len(bars)-1])
	runs := found(t, d, 0).Runs
	if len(runs) != 1 || runs[0].From > 70 || runs[0].From <= 60 || runs[0].To < 166 || runs[0].To > 170 {
		t.Fatalf("covered %v", runs)
	}
	if cover.Holds(runs, 60) || !cover.Holds(runs, 78) || !cover.Holds(runs, runs[0].To) || cover.Holds(runs, runs[0].To+1) {
		t.Errorf("a cut at 1000 ms is seen: %v, one at 1300 ms: %v", !cover.Holds(runs, 60), !cover.Holds(runs, 78))
	}
}

// Held time keeps its pace in transitions too: the way in and out are the same frames at each length.
func TestHeldTransitionsStretchBetween(t *testing.T) {
	d := made(t, "30", 60, 320, 180, `, "spans": [{"kind": "held", "from": 0, "to": 25}, {"kind": "held", "from": 35, "to": 60}]`,
		`{"id": "p", "name": "P", "kind": "shape", "fill": "#102030", "size": [320, 180], "motion": {"place": {"unit": "canvas", "keys": [{"at": 5, "value": [-1, 0]}, {"at": 20, "value": [0, 0], "hold": true}, {"at": 40, "value": [0, 0]}, {"at": 55, "value": [1, 0]}]}}}`)
	for length, want := range map[int64]cover.Run{0: {From: 20, To: 41}, 50: {From: 20, To: 31}, 90: {From: 20, To: 71}} {
		if f := found(t, d, length); len(f.Runs) != 1 || f.Runs[0] != want {
			t.Errorf("%d frames: %v, want %v", length, f.Runs, want)
		}
	}
}

// What is found at its own length tells of every other what painting all of its frames does.
func TestEveryLengthFollowsFromTheOwn(t *testing.T) {
	for _, spans := range []string{``, `, "spans": [{"kind": "held", "from": 0, "to": 12}, {"kind": "held", "from": 40, "to": 60}]`, `, "spans": [{"kind": "held", "from": 18, "to": 30}]`} {
		d := made(t, "30", 60, 160, 90, spans, `{"id": "p", "name": "P", "kind": "shape", "fill": "#102030", "size": [170, 90], "motion": {"place": {"unit": "canvas", "keys": [{"at": 5, "value": [-1.1, 0]}, {"at": 25, "value": [0, 0]}, {"at": 33, "value": [0.01, 0]}, {"at": 55, "value": [1.2, 0]}]}}}`)
		var times []cover.Time
		var own cover.Found
		painted(t, d, 0, func(sc *scene.Scene, paint cover.Paint) (err error) {
			times, own, err = cover.Times(context.Background(), sc, d.Spans, paint)
			return err
		})
		for _, length := range []int64{0, 33, 47, 61, 90, 240} {
			m, err := d.TimeMap(length)
			if err != nil {
				continue
			}
			want := found(t, d, length).Runs
			if got := cover.Runs(times, m); !reflect.DeepEqual(got, want) {
				t.Errorf("%s at %d frames: %v, painted %v", spans, length, got, want)
			}
			if length == 0 && !reflect.DeepEqual(own.Runs, want) {
				t.Errorf("%s: %v, painted %v", spans, own.Runs, want)
			}
		}
	}
}

// What a transition leads from and to covers nothing; what it has besides does.
func TestClipsOfTheTransitionDoNotCover(t *testing.T) {
	view := func(id string) string {
		return fmt.Sprintf(`{"id": "v%s", "name": "V", "kind": "view", "pocket": %q, "size": [320, 180], "motion": {"hidden": {"keys": [{"at": 0, "value": false}]}}}`, id, id)
	}
	more := `, "purpose": "transition", "pockets": [{"id": "a", "name": "A", "kinds": ["picture"], "role": "from"}, {"id": "b", "name": "B", "kinds": ["picture"], "role": "to"}]`
	wipe := panel(320, 200, 190, 38, 180, "")
	d := made(t, "30", 39, 320, 180, more, view("a")+","+view("b")+","+wipe)
	f := found(t, d, 0)
	if !reflect.DeepEqual(f.Runs, []cover.Run{{From: 18, To: 21}}) {
		t.Errorf("covered %v", f.Runs)
	}
	if f := found(t, made(t, "30", 39, 320, 180, more, view("a")+","+view("b")), 0); f.Runs != nil || f.Share != 0 {
		t.Errorf("by nothing: %v", f)
	}
}

// Nor do they where an entry, the format or a use of a motif shows them in place of what they are.
func TestWhatShowsAClipDoesNotCoverWithIt(t *testing.T) {
	const pockets = `, "purpose": "transition", "pockets": [{"id": "a", "name": "A", "kinds": ["picture"], "role": "from"}, {"id": "b", "name": "B", "kinds": ["picture"], "role": "to"}, {"id": "p", "name": "P", "kinds": ["picture"]}]`
	for name, c := range map[string]struct{ more, layers, rest string }{
		"an entry": {`, "sheet": {"groups": [{"id": "g", "label": "G", "entries": [{"id": "e", "kind": "switch", "label": "E", "default": true,
			"ties": [{"to": "layers/v/hidden", "stops": [{"at": true, "value": false}, {"at": false, "value": true}]}]}]}]}`,
			`{"id": "v", "name": "V", "kind": "view", "pocket": "a", "size": [320, 180]}`, ``},
		"the format": {``, `{"id": "v", "name": "V", "kind": "view", "pocket": "a", "size": [320, 180], "hidden": true}`, `"layers/v/hidden": false`},
		"a use": {`, "motifs": [{"id": "m", "name": "M", "kind": "group", "layers": [{"id": "v", "name": "V", "kind": "view", "pocket": "p", "size": [320, 180], "hidden": true}]}]`,
			`{"id": "u", "name": "U", "kind": "use", "motif": "m", "values": {"layers/v/hidden": false, "layers/v/pocket": "a"}}`, ``},
	} {
		d, err := template.Parse(fmt.Appendf(nil, `{"ivypocket": 3, "kind": "template", "id": "t", "name": "T", "category": "T", "rate": "30", "frames": 12%s,
			"formats": [{"id": "f", "name": "F", "width": 320, "height": 180, "rest": {%s}}], "layers": [%s]}`, pockets+c.more, c.rest, c.layers))
		if err != nil {
			t.Errorf("%s: %v", name, err)
			continue
		}
		r, err := sheet.Resolve(d, sheet.Values{})
		if err != nil {
			t.Errorf("%s: %v", name, err)
			continue
		}
		sc, err := cover.Scene(r, "f", sample.Source{})
		if err != nil {
			t.Errorf("%s: %v", name, err)
			continue
		}
		var l scene.List
		sc.At(&l, sc.Time().At(0), scene.Size{W: 320, H: 180})
		if len(l.Items) != 0 {
			t.Errorf("%s shows the clip: %d things are drawn", name, len(l.Items))
		}
		// Without its role the pocket's view is drawn, so that the check is of something.
		for i := range r.Doc.Pockets {
			r.Doc.Pockets[i].Role = ""
		}
		if sc, err = cover.Scene(r, "f", sample.Source{}); err != nil {
			t.Errorf("%s: %v", name, err)
			continue
		}
		if sc.At(&l, sc.Time().At(0), scene.Size{W: 320, H: 180}); len(l.Items) == 0 {
			t.Errorf("%s: nothing is drawn of a pocket without a role", name)
		}
	}
}

func TestRunsAreJoined(t *testing.T) {
	a, b := []cover.Run{{From: 0, To: 10}, {From: 20, To: 40}}, []cover.Run{{From: 5, To: 25}, {From: 30, To: 31}}
	if got := cover.Common(a, b); !reflect.DeepEqual(got, []cover.Run{{From: 5, To: 10}, {From: 20, To: 25}, {From: 30, To: 31}}) {
		t.Errorf("%v", got)
	}
	if at, ok := cover.Cut(a); !ok || at != 30 {
		t.Errorf("cut at %d", at)
	}
	if _, ok := cover.Cut(nil); ok {
		t.Error("a cut beneath nothing")
	}
	for _, second := range []bool{false, true} {
		sc, err := cover.Sample(second, 321, 181, sample.Source{})
		if err != nil || sc.Frames() != cover.SampleFrames {
			t.Errorf("%v", err)
		}
	}
}
