package craft

import (
	"encoding/json"
	"math"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"ivypocket/core/edit"
	"ivypocket/core/geom"
	"ivypocket/core/recipe"
	"ivypocket/core/scene"
	"ivypocket/core/scheme"
	"ivypocket/core/sheet"
	"ivypocket/core/template"
	"ivypocket/core/timing"
)

// Whatever is done at the bench, a thousand times, the draft stays sound, can be drawn
// in every format, and is taken back to the byte.
func TestAThousandActsLeaveASoundDraft(t *testing.T) {
	rng := rand.New(rand.NewPCG(28, 29))
	d, err := Blank(shelf{}, Start{Name: "Long day", Rate: "25", Frames: 100, Canvases: [][2]int{{1280, 720}, {720, 1280}}})
	if err != nil {
		t.Fatal(err)
	}
	draft := edit.DraftFrom(d)
	first := text(t, draft.Doc)
	type step struct {
		before  string
		changes []edit.Change
	}
	var done []step
	refused, counts := map[string]int{}, map[string]int{}
	pick := func(list ...string) string { return list[rng.IntN(len(list))] }
	point := func() [2]float64 {
		return [2]float64{math.Round(rng.Float64() * 1280), math.Round(rng.Float64() * 720)}
	}
	for tries := 0; len(done) < 1000 && tries < 8000; tries++ {
		var ids []string
		draft.Doc.Visit(func(_ string, y *template.Layer) { ids = append(ids, y.ID) })
		if whole, err := draft.Doc.Expanded(); err == nil && rng.IntN(4) == 0 { // through uses of motifs
			ids = nil
			whole.Visit(func(_ string, y *template.Layer) { ids = append(ids, y.ID) })
		}
		a := Act{Kind: pick(append(Kinds(), "group", "motif", "motif", "unmotif")...), Format: draft.Doc.Formats[rng.IntN(len(draft.Doc.Formats))].ID, Frame: int64(rng.IntN(100)), Apart: rng.IntN(4) == 0, From: point(), To: point(),
			Handle: [2]float64{float64(rng.IntN(3)) / 2, float64(rng.IntN(3)) / 2}, Keep: rng.IntN(3) == 0, Middle: rng.IntN(4) == 0, Copy: rng.IntN(5) == 0, Snap: float64(rng.IntN(2) * 8),
			At: rng.IntN(5), Name: pick("", "*1.1", "+5", "Sun"), Own: rng.IntN(4) == 0, Record: rng.IntN(4) == 0}
		for range 1 + rng.IntN(3) {
			if len(ids) > 0 {
				if id := ids[rng.IntN(len(ids))]; !slices.Contains(a.Layers, id) {
					a.Layers = append(a.Layers, id)
				}
			}
		}
		if counts["recipe"] == 0 && len(ids) <= 8 { // later there are too many layers for one
			a.Kind = "recipe"
		}
		if len(ids) > 60 && rng.IntN(3) > 0 { // it takes no longer at the end than at the beginning
			a.Kind = "discard"
		}
		switch a.Kind {
		case "hold", "loosen":
			a.From = [2]float64{float64(rng.IntN(120)), float64(rng.IntN(120))}
		case "border":
			if held := Held(draft.Doc); len(held) > 0 {
				a.Id, a.Way, a.Frames = held[rng.IntN(len(held))].ID, pick("", "from", "to"), int64(rng.IntN(80)-40)
			}
		case "formula", "take":
			if len(ids) > 1 {
				a.Path, a.Id = "layers/"+ids[rng.IntN(len(ids))]+"/"+pick("turn", "place.x", "size.y", "opacity", "scale"), "layers/"+ids[rng.IntN(len(ids))]+"/"+pick("turn", "place.y", "size.x", "opacity", "box.left")
				a.Way, a.Name = pick(Takes()...), pick("", "time.share", "canvas.w / 4", "sin(time.seconds * 90) * 20")
			}
		case "easing":
			a.Name, a.Value = pick("Snap", "Haul", ""), ptr(scheme.Many(0.9, 0, 0.1, 1+rng.Float64()))
			if n := len(draft.Doc.Easings); n > 0 && rng.IntN(2) == 0 {
				a.Id = draft.Doc.Easings[rng.IntN(n)].ID
			}
		case "drop-easing":
			if n := len(draft.Doc.Easings); n > 0 {
				a.Id = draft.Doc.Easings[rng.IntN(n)].ID
			}
		case "film":
			a.Way = pick("move", "zoom", "turn")
			for _, y := range draft.Doc.Layers {
				if y.Kind == scheme.Camera {
					a.Layers = []string{y.ID}
				}
			}
		case "insert":
			a.Way, a.Path, a.Media = pick("shape", "shape", "words", "words", "counter", "ground", "group", "grade", "camera", "picture", "use", "carrier", "track"), pick(Forms()...), pictureHash
			if a.Way == "use" && len(draft.Doc.Motifs) > 0 {
				a.Id = draft.Doc.Motifs[rng.IntN(len(draft.Doc.Motifs))].ID
			}
			if len(ids) > 12 {
				continue
			}
		case "duplicate", "sew":
			if len(ids) > 12 {
				continue
			}
		case "split", "format-add":
			a.To = [2]float64{float64(1 + rng.IntN(2)), 2}
			if len(draft.Doc.Layouts) > 1 {
				continue
			}
			if a.Kind == "format-add" {
				a.To = [2]float64{float64(2 * (100 + rng.IntN(900))), float64(2 * (100 + rng.IntN(900)))}
				if len(draft.Doc.Formats) > 2 {
					continue
				}
			}
		case "motif-remove":
			if len(draft.Doc.Motifs) > 0 {
				a.Id = draft.Doc.Motifs[0].ID
			}
		case "unit":
			a.Way = pick("px", "share")
		case "recipe", "recipe-forget":
			kind := recipe.All()[rng.IntN(len(recipe.All()))]
			if n := len(draft.Doc.Recipes); n > 0 && (n > 2 || len(ids) > 8 || a.Kind == "recipe-forget" || rng.IntN(3) > 0) {
				a.Id = draft.Doc.Recipes[rng.IntN(n)].ID
				kind = recipe.Find(draft.Doc.Recipes[slices.IndexFunc(draft.Doc.Recipes, func(r template.Recipe) bool { return r.ID == a.Id })].Kind)
			} else if len(ids) > 8 {
				continue
			}
			a.Way, a.Numbers = kind.Kind, some(rng, kind, 2)
		case "motif", "group", "unmotif": // mostly of what it can be made of
			draft.Doc.Visit(func(_ string, y *template.Layer) {
				if rng.IntN(3) == 0 && (y.Kind == scheme.Group && a.Kind == "motif" || y.Kind == scheme.Use && a.Kind == "unmotif") {
					a.Layers = []string{y.ID}
				}
			})
			if a.Kind == "group" && len(draft.Doc.Layers) > 2 {
				at := rng.IntN(len(draft.Doc.Layers) - 1)
				a.Layers = []string{draft.Doc.Layers[at].ID, draft.Doc.Layers[at+1].ID}
			}
		case "format-size", "format-remove", "format-copy", "format-lay":
			a.Into = draft.Doc.Formats[0].ID
			if a.Kind == "format-copy" && len(draft.Doc.Formats) > 2 {
				continue
			}
			a.Id = draft.Doc.Formats[rng.IntN(len(draft.Doc.Formats))].ID
			a.To = [2]float64{float64(2 * (100 + rng.IntN(900))), float64(2 * (100 + rng.IntN(900)))}
		case "nest":
			if a.Into = "layers"; len(ids) > 0 && rng.IntN(2) == 0 {
				a.Into = "layers/" + ids[rng.IntN(len(ids))] + "/layers"
			}
		case "stack":
			a.Way = pick("up", "down", "top", "bottom")
		case "align":
			a.Way = pick("left", "centre", "right", "top", "middle", "bottom")
		case "spread":
			a.Way = pick("across", "down")
		case "adjust":
			a.Path = pick("opacity", "size", "place.x", "turn", "scale")
		case "mark":
			on := scheme.Is(rng.IntN(3) == 0)
			a.Path, a.Value = pick("hidden", "locked"), &on
		case "fill", "frame", "play":
			if len(draft.Doc.Pockets) == 0 {
				continue
			}
			a.Pocket, a.Media = draft.Doc.Pockets[rng.IntN(len(draft.Doc.Pockets))].ID, pick("", pictureHash, clipHash)
			f := geom.DefaultFraming(geom.Cover)
			f.Zoom = 1 + rng.Float64()
			a.Framing, a.Play = &f, &timing.Play{Speed: timing.Int(2)}
		case "divide", "line":
			if a.Way, a.To = pick("rows", "columns"), [2]float64{float64(rng.IntN(300)), float64(rng.IntN(300))}; a.Kind == "divide" {
				a.To[0] = 2
			}
			if a.At = 0; len(draft.Doc.Layouts) > 0 {
				a.Id = draft.Doc.Layouts[0].ID
			}
		case "cell":
			if len(draft.Doc.Layouts) == 0 {
				continue
			}
			a.Id, a.From = draft.Doc.Layouts[0].ID, [2]float64{0, 0}
		case "describe":
			a.Path, a.Name = pick("name", "family", "purpose"), pick("overlay", "transition", "frame")
		case "time":
			a.Name, a.At, a.Way = pick("", "30", "24"), rng.IntN(200), pick("keep", "stretch")
		case "cue-remove", "cue":
			if len(draft.Doc.Cues) > 0 && rng.IntN(2) == 0 {
				a.Id = draft.Doc.Cues[rng.IntN(len(draft.Doc.Cues))].ID
			}
		case "colour", "colour-remove":
			if a.Way = "#102030"; len(draft.Doc.Colours) > 0 && rng.IntN(2) == 0 {
				a.Id = draft.Doc.Colours[rng.IntN(len(draft.Doc.Colours))].ID
			}
		case "gradient", "gradient-remove":
			if a.Name, a.Layers = pick("Dusk", "Dawn"), nil; len(draft.Doc.Gradients) > 0 && rng.IntN(3) > 0 {
				a.Id = draft.Doc.Gradients[rng.IntN(len(draft.Doc.Gradients))].ID
			} else if len(draft.Doc.Gradients) > 3 {
				continue
			} else if len(ids) > 0 && rng.IntN(2) == 0 {
				a.Layers = []string{ids[rng.IntN(len(ids))]}
			}
		case "treat":
			a.Way = pick("blur", "shadow")
		case "mask", "mask-pose":
			if len(ids) == 0 {
				continue
			}
			if a.Path, a.Way = "layers/"+ids[rng.IntN(len(ids))], pick("star", "ellipse"); a.Kind == "mask-pose" {
				a.Path, a.Way = a.Path+"/masks/m1", pick("move", "size", "turn", "feather", "growth")
			}
		case "draw":
			if len(ids) > 12 {
				continue
			}
			a.Part, a.Way = []byte(`[[100, 100], [400, 120, -50, 0, 50, 20], [300, 500]]`), pick("open", "closed")
			if a.Path = ""; len(ids) > 0 && rng.IntN(2) == 0 {
				a.Path = "layers/" + ids[rng.IntN(len(ids))]
			}
		case "points":
			if len(ids) == 0 {
				continue
			}
			a.Path, a.Way, a.Picks = "layers/"+ids[rng.IntN(len(ids))]+pick("", "/masks/m1"), pick("move", "add", "remove", "smooth", "open", "join"), []int{rng.IntN(3), rng.IntN(3)}
		case "gradient-end":
			if len(ids) == 0 {
				continue
			}
			a.Path, a.Name = "layers/"+ids[rng.IntN(len(ids))], pick("from", "to")
		case "stops":
			a.Path = "layers/none"
			draft.Doc.VisitNodes(func(_, path string, n *template.Node) {
				if len(n.Stops()) > 0 && (a.Path == "layers/none" || rng.IntN(2) == 0) {
					a.Path = path
				}
			})
			a.Part = []byte(pick(`[{"id": "s1", "at": 0, "colour": "#000000"}, {"at": 0.5, "colour": "#ffffff80"}]`, `[{"id": "s2", "at": 1, "colour": "#000000"}, {"id": "s1", "at": 0, "colour": "#00ff00"}, {"at": 0.2, "colour": "#ffffff"}]`))
		case "offer", "withdraw":
			var paths []string
			draft.Doc.VisitNodes(func(_, path string, n *template.Node) {
				n.Values(func(p *scheme.Property, _ scheme.Value) { paths = append(paths, path+"/"+p.Name) })
			})
			for _, p := range draft.Doc.Pockets {
				paths = append(paths, "pockets/"+p.ID)
			}
			if len(paths) == 0 {
				continue
			}
			a.Paths = []string{paths[rng.IntN(len(paths))]}
		case "entry":
			a.Way = pick("choice", "switch", "duration", "place", "amount", "angle", "colour", "gradient")
		case "heading":
			a.Name = pick("Look", "More")
		case "default", "options":
			list := draft.Doc.Sheet.Entries()
			if len(list) == 0 {
				continue
			}
			e := list[rng.IntN(len(list))]
			a.Entry, a.Value, a.Part = e.ID, e.Default, []byte(`[{"id": "first", "label": "First"}, {"label": "Third"}]`)
			if ends := e.Ends(); len(ends) > 0 {
				a.Value = &ends[rng.IntN(len(ends))]
			}
		case "rest": // flows, what stays out of them, and what goes with a pocket
			var groups []string
			draft.Doc.Visit(func(_ string, y *template.Layer) {
				if y.Kind == scheme.Group {
					groups = append(groups, y.ID)
				}
			})
			if len(ids) == 0 {
				continue
			}
			v := scheme.Is(rng.IntN(2) == 0)
			a.Path = "layers/" + ids[rng.IntN(len(ids))] + "/" + pick("hidden", "loose")
			if len(groups) > 0 && rng.IntN(3) > 0 {
				a.Path, v = "layers/"+groups[rng.IntN(len(groups))]+"/flow.way", scheme.Says(pick("row", "stack", "none"))
				if a.Apart = rng.IntN(3) == 0; rng.IntN(3) == 0 {
					a.Path, a.Apart, v = strings.TrimSuffix(a.Path, "way")+"hugs", false, scheme.Is(true)
				}
			} else if len(draft.Doc.Pockets) > 0 && rng.IntN(2) == 0 {
				a.Path, v = strings.TrimSuffix(a.Path, a.Path[strings.LastIndexByte(a.Path, '/')+1:])+"without", scheme.Says(draft.Doc.Pockets[0].ID)
			}
			a.Value = &v
		case "key":
			a.Path, a.Way = pick("place", "turn", "opacity", "size", "scale.x"), pick("", "", "off")
		case "retime", "reverse", "ease", "keyed", "unkey":
			draft.Doc.VisitNodes(func(_, path string, n *template.Node) {
				for _, name := range sorted(n.Motion) {
					for _, k := range n.Motion[name].Keys {
						if strings.HasPrefix(path, "layers/") && rng.IntN(2) == 0 {
							a.Keys = append(a.Keys, path+"/motion/"+name+"/"+k.ID)
						}
					}
				}
				if strings.Count(path, "/") > 1 || !strings.HasPrefix(path, "layers/") || rng.IntN(2) == 0 {
					return
				}
				for _, m := range draft.Doc.Performing(n) {
					at := strings.LastIndexByte(m.Path, '/')
					a.Keys = append(a.Keys, m.Path[:at]+"/motion"+m.Path[at:]+"/"+m.Move.Keys[0].ID)
				}
			})
			a.Frames, a.From, a.To, a.Way = int64(rng.IntN(40)-20), [2]float64{0, 50}, [2]float64{float64(rng.IntN(20)), float64(30 + rng.IntN(50))}, pick("curve", "hold", "linear", "steps")
			a.Steps, a.Numbers = &timing.Steps{Count: 3}, map[string]float64{"0": 5}
			if a.Value = ptr(scheme.Many(0.5, -1, 0, 2)); a.Kind == "keyed" {
				a.Value = nil
			}
		case "perform", "move-name", "drop-move":
			a.Way, a.Name = pick(readyKinds()...), pick("Haul", "Sweep")
			if n := len(draft.Doc.Moves); n > 0 && (rng.IntN(2) == 0 || n > 5) {
				a.Id, a.Way = draft.Doc.Moves[rng.IntN(n)].ID, ""
			}
		case "move-time", "free-move":
			draft.Doc.VisitAll(func(_ string, y *template.Layer) {
				for _, u := range y.Performances() {
					a.Paths = append(a.Paths, "layers/"+y.ID+"/moves/"+u.ID)
				}
			})
			if len(a.Paths) > 1 {
				at := rng.IntN(len(a.Paths))
				a.Paths = a.Paths[at : at+1]
			}
			a.Way, a.Frames = pick("", "length"), int64(rng.IntN(40)-20)
		case "back", "highlight", "tidy", "axis", "high-line":
			draft.Doc.VisitAll(func(_ string, y *template.Layer) {
				if y.Can(scheme.Lettered) && (rng.IntN(2) == 0 || a.Path == "") {
					a.Layers, a.Path = []string{y.ID}, "layers/"+y.ID
					for _, h := range y.Highlights() {
						a.Path = "layers/" + y.ID + "/highlights/" + h.ID
					}
				}
			})
			a.Way = pick(scheme.Highlights.KindNames()...)
			if a.Kind == "axis" {
				a.Way = pick("wdth", "SOFT", "slnt")
			}
		case "save-move":
			a.Name = pick("Haul", "Sweep")
			for _, id := range ids {
				if y := draft.Doc.Layer(id); y != nil && a.Keys == nil {
					for _, m := range y.Moving() {
						for _, k := range m.Move.Keys {
							at := strings.LastIndexByte(m.Path, '/')
							a.Keys = append(a.Keys, m.Path[:at]+"/motion"+m.Path[at:]+"/"+k.ID)
						}
					}
				}
			}
		case "set", "keys", "put", "add", "remove", "move", "rename", "tie", "batch":
			continue // plain changes are tried elsewhere
		}
		p, err := Do(draft.Doc, shelf{}, a)
		if err != nil {
			refused[a.Kind]++
			continue
		}
		if p.Op.Kind == "" {
			continue
		}
		next, changes, err := draft.Do(p.Op)
		if err != nil && (strings.HasPrefix(draft.Doc.Circled(err.Error()), "That would go in a circle: ") || strings.Contains(err.Error(), "bring them together")) { // which is told in words
			refused[a.Kind]++
			continue
		}
		if err != nil {
			t.Fatalf("%d, %s: planned and refused: %v\n%+v", len(done), a.Kind, err, a)
		}
		if len(changes) == 0 {
			continue
		}
		if p.Op.Title == "" {
			t.Errorf("%s has no title", a.Kind)
		}
		for _, f := range next.Doc.Formats[:min(len(next.Doc.Formats), len(done)%6)] { // which is what takes time
			if _, err := scene.Compile(&sheet.Resolved{Doc: next.Doc, Values: sheet.Values{}}, f.ID, shelf{}); err != nil && !strings.Contains(err.Error(), "has no row") {
				t.Fatalf("%d, %s: can't be drawn in %s: %v\n%+v\n%+v", len(done), a.Kind, f.ID, err, a, p.Op)
			}
		}
		done = append(done, step{text(t, draft.Doc), changes})
		counts[a.Kind]++
		draft = next
	}
	if len(done) < 1000 || counts["save-move"] == 0 || counts["free-move"] == 0 || counts["perform"] == 0 || counts["motif"] == 0 || counts["recipe"] == 0 || counts["unmotif"] == 0 {
		t.Errorf("%d acts were carried out: %v; refused were %v", len(done), counts, refused)
	}
	for i := len(done) - 1; i >= 0; i-- {
		var err error
		if draft, err = draft.Replay(edit.Reverse(done[i].changes)); err != nil || text(t, draft.Doc) != done[i].before {
			t.Fatalf("taking back %d: %v\n%+v\ncame to\n%s\nnot\n%s", i, err, done[i].changes, text(t, draft.Doc), done[i].before)
		}
	}
	if text(t, draft.Doc) != first {
		t.Error("all of it taken back is another draft")
	}
}

// Whatever is sent as an act is carried out on a sound draft or refused; nothing falls.
func FuzzActs(f *testing.F) {
	for _, s := range []string{
		`{"kind": "place", "layers": ["a", "b"], "from": [1, 2], "to": [1e300, -5], "snap": 8}`, `{"kind": "grow", "layers": ["a"], "handle": [0.5, 2], "to": [9, 9]}`,
		`{"kind": "split", "to": [16, 16], "numbers": {"gutter": -1}}`, `{"kind": "insert", "way": "shape", "path": "star"}`, `{"kind": "batch", "ops": [{"kind": "discard", "layers": ["a"]}, {"kind": "group", "layers": ["b", "c"]}]}`,
		`{"kind": "add", "into": "layers", "part": {"id": "z", "name": "Z", "kind": "group", "layers": [{"id": "y"}]}}`, `{"kind": "format-size", "id": "wide", "to": [16, 8192]}`, `{"kind": "time", "name": "1/7", "at": 3, "way": "stretch"}`,
		`{"kind": "rest", "path": "layers/a/form.kind", "value": "star"}`, `{"kind": "turn", "layers": ["a"], "from": [0, 0], "to": [0, 0]}`, `{"kind": "nest", "layers": ["a"], "into": "layers/b/layers", "at": -9}`,
	} {
		f.Add(s)
	}
	d := doc(f, three, "", "")
	f.Fuzz(func(t *testing.T, s string) {
		var a Act
		if json.Unmarshal([]byte(s), &a) != nil {
			return
		}
		if a.Format == "" {
			a.Format = "wide"
		}
		p, err := Do(d, shelf{}, a)
		if err != nil || p.Op.Kind == "" {
			return
		}
		next, changes, err := edit.DraftFrom(d).Do(p.Op)
		if err != nil {
			return
		}
		if err := next.Doc.Sound(); err != nil {
			t.Fatalf("%s: %v", s, err)
		}
		if back, err := next.Replay(edit.Reverse(changes)); err != nil || text(t, back.Doc) != text(t, d) {
			t.Fatalf("%s: was not taken back: %v", s, err)
		}
	})
}
