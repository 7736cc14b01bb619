package server

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"image"
	"image/png"
	"slices"
	"strings"
	"testing"

	"ivypocket/core/geom"
	"ivypocket/core/scene"
	"ivypocket/core/scheme"
	"ivypocket/core/template"
)

// A kind of layers and a property of it, declared here and nowhere else: a disc of
// grey that is as bright as it gleams.
var (
	disc  = scheme.Layers.Add(scheme.Kind{Name: "disc", Can: scheme.Moves | scheme.Box | scheme.Seen | scheme.Blends, Label: "Disc", Thread: "amount", Doc: "A grey disc"})
	gleam = scheme.Layers.Has(scheme.Property{Name: "gleam.amount", Kinds: []string{"disc"}, Hi: 1, Join: scheme.Times, Default: scheme.One(0.5),
		Label: "Gleam", Section: "Gleam", Factor: 100, Sign: "%", Step: 5, Doc: "How bright it is"})
)

func init() {
	scene.Draws(disc, func(d *scene.Drawing) {
		it := d.Item
		v := uint8(d.Number(gleam)*255 + 0.5)
		it.Kind, it.Form.Kind, it.Colour = scene.FillItem, geom.Ellipse, [4]uint8{v, v, v, 255}
		d.Put(it)
	})
}

const discs = `{"ivypocket": 3, "kind": "template", "id": "discs", "name": "Discs", "category": "Tests", "rate": "25", "frames": 50,
	"formats": [{"id": "wide", "name": "Wide", "width": 64, "height": 32}, {"id": "tall", "name": "Tall", "width": 32, "height": 64, "rest": {"layers/plain/gleam.amount": 0.75}}],
	"layers": [
		{"id": "plain", "name": "Plain", "kind": "disc", "gleam": {"amount": 1}, "size": [20, 20], "place": [-20, 0]},
		{"id": "keyed", "name": "Keyed", "kind": "disc", "gleam": {"amount": 1}, "size": [20, 20],
			"motion": {"gleam.amount": {"keys": [{"at": 0, "value": 0.25}, {"at": 40, "value": 0.75}]}}},
		{"id": "told", "name": "Told", "kind": "disc", "size": [20, 20], "place": [20, 0], "formulas": {"gleam.amount": "layer('plain').gleam.amount / 2"}}],
	"sheet": {"groups": [{"id": "g", "label": "G", "entries": [{"label": "Shine", "data": "shine", "kind": "amount", "default": 100, "min": 0, "max": 100,
		"ties": [{"to": "layers/plain/gleam.amount", "from": [0, 100], "into": [0, 1]}]}]}]}}`

// One row and one drawing function are all that a property and a kind of layers
// need: they are read, written, validated, keyed, tied, overridden, reached by
// formulas, shown over HTTP, drawn, and described.
func TestAPropertyAndAKindAreDeclaredInOnePlace(t *testing.T) {
	d, err := template.Parse([]byte(discs))
	if err != nil {
		t.Fatal(err)
	}
	if b, err := json.Marshal(d); err != nil || strings.Count(string(b), `"gleam":{"amount":1}`) != 2 {
		t.Errorf("written as %s: %v", b, err)
	}
	for bad, want := range map[string][2]string{
		`"gleam": {"amount": 1}`: {`"gleam": {"amount": 2}`, "layers[0].gleam.amount: 2 is outside 0 to 1"},
		`"value": 0.75`:          {`"value": 7`, "layers[1].motion.gleam.amount.keys[1].value: 7 is outside 0 to 1"},
		`"into": [0, 1]`:         {`"into": [0, 3]`, "sheet.groups[0].entries[0].ties[0].to: 3 is outside"},
		`amount / 2"`:            {`shine / 2"`, "layers[2].formulas.gleam.amount: character 1: a layer of the kind \"disc\" has no property \"gleam.shine\""},
		`gleam.amount": 0.75}`:   {`gleam.amount": -1}`, "formats[1].rest.layers/plain/gleam.amount: -1 is outside"},
		`"kind": "disc"`:         {`"fill": "#000000", "kind": "disc"`, "layers[0].fill: a layer of the kind \"disc\" has no property \"fill\""},
	} {
		var faults template.Faults
		_, err := template.Parse([]byte(strings.Replace(discs, bad, want[0], 1)))
		if !errors.As(err, &faults) || !slices.ContainsFunc(faults, func(f template.Fault) bool { return strings.HasPrefix(f.Error(), want[1]) }) {
			t.Errorf("%s: %v, want %s", want[0], err, want[1])
		}
	}

	h := build(t, t.TempDir())
	if _, err := h.store.Release(context.Background(), d); err != nil {
		t.Fatal(err)
	}
	h.piece = h.post("/api/templates/discs/open", nil, 200)["id"].(string)
	draft := h.start(map[string]any{"template": "discs"})
	look := func(layer string) map[string]any {
		t.Helper()
		for _, p := range h.json("GET", fmt.Sprintf("/api/drafts/%s/layers/%s?format=wide&frame=20", draft, layer), nil, 200)["properties"].([]any) {
			if k := p.(map[string]any); k["name"] == "gleam.amount" {
				return k
			}
		}
		t.Fatalf("%s has no gleam", layer)
		return nil
	}
	if p := look("keyed"); p["label"] != "Gleam" || p["section"] != "Gleam" || p["factor"] != 100.0 || p["sign"] != "%" || p["step"] != 5.0 || p["moves"] != true || fmt.Sprint(p["now"]) != "[0.5]" {
		t.Errorf("shown as %v", p)
	}
	if p := look("told"); fmt.Sprint(p["formulas"], p["now"]) != "[layer('plain').gleam.amount / 2] [0.5]" {
		t.Errorf("by formula: %v", p)
	}
	greys := func(format string, w, ht int, at ...image.Point) (out []uint8) {
		t.Helper()
		img := h.picture(format, 20, w, ht)
		for _, p := range at {
			r, _, _, _ := img.At(p.X, p.Y).RGBA()
			out = append(out, uint8(r>>8))
		}
		return out
	}
	// At frame 20 the keyed one is half-way, and the told one half of the plain one.
	if got := greys("wide", 64, 32, image.Pt(12, 16), image.Pt(32, 16), image.Pt(52, 16)); !slices.Equal(got, []uint8{255, 128, 128}) {
		t.Errorf("drawn as %v", got)
	}
	if got := greys("tall", 32, 64, image.Pt(1, 32)); !slices.Equal(got, []uint8{191}) {
		t.Errorf("in the other format as %v", got)
	}
	h.op("shine-one", 0, map[string]any{"kind": "entry", "entry": "shine", "value": 50}, 200)
	if got := greys("wide", 64, 32, image.Pt(12, 16), image.Pt(32, 16), image.Pt(52, 16)); !slices.Equal(got, []uint8{128, 128, 64}) {
		t.Errorf("after the entry it is drawn as %v", got)
	}
	h.act(draft, "rest-one", 0, map[string]any{"kind": "rest", "path": "layers/keyed/gleam.amount", "value": 0.5}, 200)
	if p := look("keyed"); fmt.Sprint(p["rest"], p["now"]) != "[0.5] [0.25]" {
		t.Errorf("after it was set at the bench: %v", p)
	}

	res, body := h.do("GET", "/api/schema", nil)
	if res.Header.Get("Content-Type") != "application/schema+json" || !strings.Contains(string(body), `"gleam":{"additionalProperties":false`) {
		t.Errorf("the schema that is served does not tell of it: %s", res.Header.Get("Content-Type"))
	}
	page, err := scheme.Reference("<!-- table of layers -->\n<!-- end of table -->", nil)
	if err != nil || !strings.Contains(page, "| `gleam.amount` | a number, from 0 to 1; absent is 0.5 | multiply | how bright it is. *of `disc`* |") {
		t.Errorf("the page on the format does not tell of it: %v", err)
	}
}

// picture is a frame of the piece as PNG has it.
func (h *house) picture(format string, frame, w, ht int) image.Image {
	h.t.Helper()
	at := h.frames(format, w, ht)[frame]
	res, b := h.do("GET", "/frames/"+at+".png", nil)
	if res.StatusCode != 200 {
		h.t.Fatalf("%s: %s", res.Status, b)
	}
	img, err := png.Decode(bytes.NewReader(b))
	if err != nil {
		h.t.Fatal(err)
	}
	return img
}
