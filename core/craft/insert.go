package craft

import (
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"

	"ivypocket/core/edit"
	"ivypocket/core/geom"
	"ivypocket/core/scheme"
	"ivypocket/core/template"
)

// What is new on the bench.
func init() {
	register(row{"insert", "`way` (a kind of layers), `path` (of a shape: its form), `from` and `to` (a box that was drawn; none is one in the middle), `into`, `at`, `id` (of a use: its motif), `media`, `name`, `snap`, `keep`, `middle`",
		"adds a layer above those in `layers`, or into a list", insert})
}

// object is a thing as it is written.
type object = map[string]any

// form is a shape as people draw it: what it is called, and what it is written with.
type form struct {
	name string
	with object
}

var forms = map[string]form{
	"rectangle": {"Panel", nil}, "ellipse": {"Round", object{"form": object{"kind": "ellipse"}}},
	"triangle": {"Pennant", object{"form": object{"kind": "path", "path": [][2]float64{{0, 0}, {1, 0.5}, {0, 1}}}}},
	"polygon":  {"Polygon", object{"form": object{"kind": "polygon", "sides": 6}}},
	"star":     {"Star", object{"form": object{"kind": "star", "sides": 5}}}, "arrow": {"Arrow", object{"form": object{"kind": "arrow"}}},
	"rule": {"Rule", nil}, "border": {"Border", nil},
}

// Forms lists the shapes that can be drawn.
func Forms() []string { return sorted(forms) }

// newFill is the colour of what is new until somebody chooses another.
const newFill = "#c9b88c"

// cloths are the colours of new shapes, one after another, so that one is told from the
// next before anybody chooses.
var cloths = []string{newFill, "#2e6b4e", "#b4492b", "#1e7383", "#7b3f66", "#efe6d0"}

// nextFill is the first cloth that no layer has, or when all are in use the one whose turn
// it is.
func (b *bench) nextFill() string {
	used, shapes := map[string]bool{}, 0
	b.doc.VisitAll(func(_ string, y *template.Layer) {
		if y.Kind == scheme.Shape {
			used[y.Text(scheme.Fill)] = true
			shapes++
		}
	})
	for _, c := range cloths {
		if !used[c] {
			return c
		}
	}
	return cloths[shapes%len(cloths)]
}

func insert(b *bench, a Act) error {
	k := scheme.Layers.Kind(a.Way)
	if k == nil || k.Later {
		return fmt.Errorf("way: %q is not a kind of layers", a.Way)
	}
	y := object{"kind": k.Name}
	name := k.Label
	switch k {
	case scheme.Shape:
		form, ok := forms[a.Path]
		if !ok {
			return fmt.Errorf("path: %q is not one of %s", a.Path, strings.Join(Forms(), ", "))
		}
		for key, v := range form.with {
			y[key] = v
		}
		name = form.name
		if a.Path == "border" {
			y["stroke"] = object{"colour": newFill, "width": b.lengths(8)[0], "align": "inside"}
		} else {
			y["fill"] = b.nextFill()
		}
	case scheme.Words:
		b.lettered(y)
		y["text"] = scheme.Wording.Text.First.Text
	case scheme.Counter:
		b.lettered(y)
		y["figure"] = object{"to": scheme.Wording.To.First.Number()}
		end := b.doc.Poster().Floor() // where it is best seen it is done
		if end < 2 {
			end = max(2, b.doc.Frames-1)
		}
		y["motion"] = object{"figure.done": object{"keys": []any{object{"id": "k1", "at": 0, "value": 0, "ease": []float64{0.2, 0, 0.1, 1}}, object{"id": "k2", "at": end, "value": 1}}}}
	case scheme.Ground:
		y["fill"] = "#3c4a44"
	case scheme.Grade:
		y["grade"] = object{"saturation": 1}
	case scheme.Picture:
		if !scheme.ValidHash(a.Media) {
			return errors.New("media: name a picture of the store")
		}
		y["media"] = a.Media
		b.remember(a.Media, a.Name, template.Picture)
	case scheme.Use:
		m := b.motif(a.Id)
		if m == nil {
			return fmt.Errorf("id: there is no motif named %q", a.Id)
		}
		y["motif"], name = m.ID, m.Name
	case scheme.View:
		return errors.New("way: a pocket is sewn; use sew")
	}
	if a.Name != "" {
		name = a.Name
	}
	name = b.freeName(strings.TrimSpace(name))
	id := b.freeID(name)
	y["id"], y["name"] = id, name
	if k.Can&scheme.Box != 0 && k != scheme.Group && k != scheme.Use {
		if err := b.boxed(y, a, k); err != nil {
			return err
		}
	}
	if k.Can&scheme.Lettered != 0 {
		b.sized(y, a)
	}
	b.title = "Add " + name
	b.plan.Chosen = []string{id}
	return b.put(y, a.Into, a.At)
}

// newInk is the colour of new words.
const newInk = "#f5f2ea"

// lettered gives new words and figures the face that the template uses most, and a colour.
func (b *bench) lettered(y object) {
	y["fill"] = newInk
	used, most := map[string]int{}, 0
	b.doc.VisitAll(func(_ string, o *template.Layer) {
		if f := o.Text(scheme.Wording.Face); o.Can(scheme.Lettered) {
			if used[f]++; used[f] > most {
				most = used[f]
				y["face"] = f
			}
		}
	})
}

// sized gives new words the size at which one line fills the box that was drawn, and lets
// them be made smaller, down to a third of it.
func (b *bench) sized(y object, a Act) {
	h := math.Min(b.format.Canvas().W, b.format.Canvas().H) * 0.1
	if box := b.drawn(a); box.W >= 1 && box.H >= 1 {
		h = math.Max(1, math.Min(box.H*0.8, scheme.Wording.Size.Hi))
	}
	y["type"] = object{"size": b.lengths(math.Round(h))[0]}
	y["fit"] = object{"least": b.lengths(math.Max(1, math.Round(h/3)))[0]}
}

// put adds a new layer to a list: above what is selected where no place is named.
func (b *bench) put(y object, into string, at int) error {
	if into == "" {
		into, at = "layers", -1
		if n := len(b.act.Layers); n > 0 {
			if in, k := b.parentOf(b.act.Layers[n-1]); k >= 0 {
				into, at = in, k+1
			}
		}
	}
	if _, err := b.listAt(into); err != nil {
		return err
	}
	part, err := json.Marshal(y)
	if err != nil {
		return err
	}
	b.add(edit.DraftOp{Kind: "add", Into: into, At: at, Part: part})
	return nil
}

// lengths are px as a new value is written: as shares where the formats differ in size.
func (b *bench) lengths(px ...float64) []any {
	out := make([]any, len(px))
	for i, v := range px {
		if out[i] = math.Round(v*1e3) / 1e3; b.inShares() && b.format != nil {
			share := v / math.Min(b.format.Canvas().W, b.format.Canvas().H) * 100
			if math.Abs(share) > scheme.MaxShares {
				continue
			}
			out[i] = fmt.Sprintf("%gvmin", math.Round(share*1e5)/1e5)
		}
	}
	return out
}

// drawn is the box that was drawn on the canvas, snapped; none is empty.
func (b *bench) drawn(a Act) geom.Box {
	p, q := a.From, a.To
	if a.Snap > 0 && p != q {
		on := func(at [2]float64) [2]float64 {
			by, guides := b.snapPoint(nil, geom.Point{X: at[0], Y: at[1]}, geom.Point{}, a.Snap)
			b.plan.Guides = append(b.plan.Guides, guides...)
			for i, way := range []float64{by.X, by.Y} {
				if at[i] += way; way == 0 {
					at[i] = math.Round(at[i])
				}
			}
			return at
		}
		p, q = on(p), on(q)
		// A side that was drawn is not drawn to nothing.
		for i, axis := range []string{"x", "y"} {
			if math.Abs(q[i]-p[i]) < 1 && math.Abs(a.To[i]-a.From[i]) >= 1 {
				p[i], q[i] = math.Round(a.From[i]), math.Round(a.To[i])
				b.plan.Guides = slices.DeleteFunc(b.plan.Guides, func(g Guide) bool { return g.Axis == axis })
			}
		}
	}
	w, h := q[0]-p[0], q[1]-p[1]
	if a.Keep {
		side := math.Max(math.Abs(w), math.Abs(h))
		w, h = math.Copysign(side, w), math.Copysign(side, h)
	}
	box := geom.Box{X: math.Min(p[0], p[0]+w), Y: math.Min(p[1], p[1]+h), W: math.Abs(w), H: math.Abs(h)}
	if a.Middle {
		box = geom.Box{X: p[0] - math.Abs(w), Y: p[1] - math.Abs(h), W: 2 * math.Abs(w), H: 2 * math.Abs(h)}
	}
	return box
}

// boxed gives a new layer its place and size: the box that was drawn, or one that suits
// its kind in the middle of the canvas.
func (b *bench) boxed(y object, a Act, k *scheme.Kind) error {
	if b.format == nil {
		return errors.New("format: say which format is looked at")
	}
	c := b.format.Canvas()
	short := math.Min(c.W, c.H)
	size := geom.Size{W: short * 0.4, H: short * 0.4}
	shape := ""
	if k == scheme.Shape {
		shape = a.Path
	}
	switch {
	case shape == "rule":
		size = geom.Size{W: c.W * 0.5, H: math.Max(2, math.Round(short*0.006))}
	case k.Can&scheme.Lettered != 0:
		size = geom.Size{W: math.Round(c.W * 0.6), H: math.Round(short * 0.2)}
	case k == scheme.Carrier:
		size = geom.Size{W: math.Round(short * 0.1), H: math.Round(short * 0.1)}
	case shape == "border":
		size = c
	case shape == "arrow":
		size.H /= 2
	case k == scheme.View && slices.Equal(a.Kinds, []string{string(template.Logo)}):
		size = geom.Size{W: short * 0.3, H: short * 0.3}
	case k == scheme.View:
		size = geom.Size{W: c.W * 0.5, H: c.H * 0.5}
	case k == scheme.Picture:
		info, ok := b.lib.Info(a.Media)
		if !ok {
			return errors.New("media: it is not in the store; put it in first")
		}
		size = info.Size
		if by := math.Min(1, math.Min(c.W*0.8/size.W, c.H*0.8/size.H)); by < 1 {
			size = geom.Size{W: math.Round(size.W * by), H: math.Round(size.H * by)}
		}
	}
	box := geom.Centred(geom.Point{X: c.W / 2, Y: c.H / 2}, size)
	drawn := b.drawn(a)
	if shape == "rule" && math.Max(drawn.W, drawn.H) >= 1 { // as long as it was drawn, and thin
		mid := drawn.Centre()
		if drawn.W >= drawn.H {
			drawn.Y, drawn.H = mid.Y-size.H/2, size.H
		} else {
			drawn.X, drawn.W = mid.X-size.H/2, size.H
		}
	}
	if drawn.W >= 1 && drawn.H >= 1 {
		box = drawn
		if k == scheme.Picture {
			by := math.Max(box.W/size.W, box.H/size.H)
			box = geom.Box{X: box.X, Y: box.Y, W: size.W * by, H: size.H * by}
		}
	}
	mid := box.Centre()
	place := geom.Point{X: mid.X - c.W/2, Y: mid.Y - c.H/2}
	if group := b.holder(a.Into); group != "" {
		all, err := b.stand()
		if err != nil {
			return err
		}
		for _, s := range all {
			if inv, ok := s.World.Invert(); s.Layer == group && ok {
				p := inv.Apply(mid)
				place = geom.Point{X: p.X - s.Now.Size.W/2, Y: p.Y - s.Now.Size.H/2}
			}
		}
	}
	if place != (geom.Point{}) {
		y["place"] = b.lengths(place.X, place.Y)
	}
	y["size"] = b.lengths(math.Max(1, box.W), math.Max(1, box.H))
	return nil
}

// holder is the group whose list a path is, "" for the canvas.
func (b *bench) holder(into string) string {
	if into == "" && len(b.act.Layers) > 0 {
		into, _ = b.parentOf(b.act.Layers[len(b.act.Layers)-1])
	}
	if id, ok := strings.CutPrefix(into, "layers/"); ok {
		return strings.TrimSuffix(id, "/layers")
	}
	return ""
}

func (b *bench) motif(id string) *template.Layer {
	if i := slices.IndexFunc(b.doc.Motifs, func(m *template.Layer) bool { return m.ID == id }); i >= 0 {
		return b.doc.Motifs[i]
	}
	return nil
}

// faces has the document say what the font files are that it comes to speak of.
func (b *bench) faces() {
	said, err := json.Marshal(b.ops)
	if err != nil {
		return
	}
	for _, hash := range scheme.Hashes(string(said)) {
		if f := b.lib.Face(hash); f != nil {
			b.remember(hash, f.Name, template.Font)
		}
	}
}

// nameOf is what media is called in the document, its hash where it says nothing of it.
func (b *bench) nameOf(hash string) string {
	for _, m := range b.doc.Media {
		if m.Hash == hash {
			return m.Name
		}
	}
	return hash
}

// remember has the document say what media it speaks of is.
func (b *bench) remember(hash, name string, kind template.MediaKind) {
	if b.media == nil {
		b.media = slices.Clone(b.doc.Media)
	}
	if slices.ContainsFunc(b.media, func(m template.Media) bool { return m.Hash == hash }) {
		return
	}
	if name == "" {
		name = "Media"
	}
	b.media = append(b.media, template.Media{Hash: hash, Name: name, Kind: kind})
	if part, err := json.Marshal(b.media); err == nil {
		b.add(edit.DraftOp{Kind: "put", Path: "media", Part: part})
	}
}
