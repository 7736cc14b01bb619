package craft

import (
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"

	"ivypocket/core/edit"
	"ivypocket/core/scheme"
	"ivypocket/core/template"
)

// Layers are carried from one template to another, and what one wears is put on others.
func init() {
	register(
		row{"paste", "`clip` (as `GET …/clip` gives it), `layers`, `into`, `at`", "puts layers that were copied above those that are selected, with the pockets, colours, gradients and layouts they speak of", paste},
		row{"dress", "`clip`, `layers`, `way`: `look`, `masks`, `motion`", "puts only that of the first layer that was copied on others", dress},
	)
}

// Clip is layers on their way from one template to another.
type Clip struct {
	Ivy       string             `json:"ivypocket" enum:"layers"`
	Of        string             `json:"of" doc:"The template they are of"`
	Layers    []json.RawMessage  `json:"layers"`
	Pockets   []template.Pocket  `json:"pockets,omitempty"`
	Colours   []template.Colour  `json:"colours,omitempty"`
	Gradients []json.RawMessage  `json:"gradients,omitempty"`
	Layouts   []json.RawMessage  `json:"layouts,omitempty"`
	Motifs    []json.RawMessage  `json:"motifs,omitempty"`
	Moves     []json.RawMessage  `json:"moves,omitempty"`
	Media     []template.Media   `json:"media,omitempty"`
	Rest      map[string]restsOf `json:"rest,omitempty" doc:"What formats say of them, by canvas, such as 1920x1080"`
}

type restsOf = map[string]scheme.Value

// Copied takes layers to be pasted, with all that they speak of.
func Copied(d *template.Document, ids []string) (Clip, error) {
	ids = slices.Clone(ids)
	for i, id := range ids { // of a motif, whichever use it is looked at through
		_, ids[i] = cutUse(id)
	}
	c := Clip{Ivy: "layers", Of: d.ID, Layers: []json.RawMessage{}, Rest: map[string]restsOf{}}
	b := &bench{doc: d, act: Act{Kind: "copy", Layers: ids}}
	list, err := b.chosen()
	if err != nil && len(list) == 0 {
		return c, err
	}
	spoken := map[string]bool{}
	mine := map[string]bool{}
	var note func(y *template.Layer)
	note = func(y *template.Layer) {
		mine[y.ID] = true
		for _, p := range []*scheme.Property{scheme.Pocket, scheme.CellLayout, scheme.Motif, scheme.OwnMedia, scheme.GradientNamed} {
			spoken[y.Text(p)] = true
		}
		colours := func(n *template.Node) {
			n.Values(func(p *scheme.Property, v scheme.Value) {
				if id, named := scheme.ColourID(v.Text); named {
					spoken[id] = true
				}
			})
		}
		colours(y)
		if g := d.Gradient(y.Text(scheme.GradientNamed)); g != nil {
			for _, n := range g.Stops() {
				colours(n)
			}
		}
		parts := slices.Concat(y.Masks(), y.Treatments(), y.Stops(), y.Highlights())
		for _, h := range y.Highlights() {
			parts = append(parts, h.Part(0)...)
		}
		for _, u := range y.Performances() {
			if m := d.Move(u.Text(scheme.PerformedMove)); m != nil {
				spoken[m.ID] = true
				parts = slices.Concat(parts, m.Masks(), m.Treatments())
				for _, name := range sorted(m.Motion) {
					for _, k := range m.Motion[name].Keys {
						if id, named := scheme.ColourID(k.Value.Text); named {
							spoken[id] = true
						}
					}
				}
			}
		}
		for _, t := range y.Treatments() {
			parts = append(parts, t.Masks()...)
		}
		for _, n := range parts {
			colours(n)
			if n.Sort() == scheme.Masks {
				spoken[n.Text(scheme.MaskPocket)] = true
			}
		}
		for _, in := range y.Layers() {
			note(in)
		}
		if m := b.motif(y.Text(scheme.Motif)); m != nil {
			note(m)
		}
	}
	for _, y := range list {
		note(y)
		raw, err := json.Marshal(y)
		if err != nil {
			return c, err
		}
		c.Layers = append(c.Layers, raw)
	}
	for _, p := range d.Pockets {
		if spoken[p.ID] {
			p.Formulas, p.Role = nil, ""
			c.Pockets = append(c.Pockets, p)
			if p.StandIn != nil {
				spoken[p.StandIn.Media] = true
			}
			spoken[p.Lined()] = true
		}
	}
	for _, k := range d.Colours {
		if spoken[k.ID] {
			k.Formulas = nil
			c.Colours = append(c.Colours, k)
		}
	}
	for _, list := range []struct {
		from []*template.Node
		to   *[]json.RawMessage
	}{{d.Gradients, &c.Gradients}, {d.Layouts, &c.Layouts}, {d.Motifs, &c.Motifs}, {d.Moves, &c.Moves}} {
		for _, n := range list.from {
			if !spoken[n.ID] {
				continue
			}
			raw, err := json.Marshal(n)
			if err != nil {
				return c, err
			}
			*list.to = append(*list.to, raw)
		}
	}
	for _, m := range d.Media {
		if spoken[m.Hash] {
			c.Media = append(c.Media, m)
		}
	}
	for _, f := range d.Formats {
		for path, v := range f.Rest {
			if seg := strings.SplitN(path, "/", 3); seg[0] == "layers" && mine[seg[1]] {
				at := fmt.Sprintf("%dx%d", f.Width, f.Height)
				if c.Rest[at] == nil {
					c.Rest[at] = restsOf{}
				}
				c.Rest[at][path] = v
			}
		}
	}
	return c, nil
}

func (a Act) clip() (Clip, error) {
	var c Clip
	if len(a.Clip) == 0 || json.Unmarshal(a.Clip, &c) != nil || c.Ivy != "layers" || len(c.Layers) == 0 {
		return c, errors.New("clip: holds no layers; copy some first")
	}
	return c, nil
}

func treeOf(raw json.RawMessage) (object, error) {
	var tree object
	dec := json.NewDecoder(strings.NewReader(string(raw)))
	dec.UseNumber()
	if err := dec.Decode(&tree); err != nil || tree == nil {
		return nil, errors.New("clip: is not what was copied")
	}
	return tree, nil
}

// brought adds what pasted layers speak of, unless the template has the same already,
// and tells the ids that those have here.
func (b *bench) brought(c Clip) (map[string]string, error) {
	ids := map[string]string{}
	put := func(into string, v any, id string) error {
		part, err := json.Marshal(v)
		b.add(edit.DraftOp{Kind: "add", Into: into, At: -1, Part: part})
		b.taken[id] = true
		return err
	}
	for _, p := range c.Pockets {
		if have := b.doc.Pocket(p.ID); have != nil && have.Name == p.Name {
			ids[p.ID] = p.ID
			continue
		}
		was := p.ID
		p.ID = b.freeID(p.ID)
		ids[was] = p.ID
		if err := put("pockets", p, p.ID); err != nil {
			return nil, err
		}
	}
	for _, k := range c.Colours {
		if i := slices.IndexFunc(b.doc.Colours, func(h template.Colour) bool { return h.Value == k.Value && h.Name == k.Name }); i >= 0 {
			ids[k.ID] = b.doc.Colours[i].ID
			continue
		}
		was := k.ID
		k.ID = b.freeID(k.ID)
		ids[was] = k.ID
		if err := put("colours", k, k.ID); err != nil {
			return nil, err
		}
	}
	for _, list := range []struct {
		name string
		from []json.RawMessage
		have []*template.Node
	}{{"gradients", c.Gradients, b.doc.Gradients}, {"layouts", c.Layouts, b.doc.Layouts}, {"moves", c.Moves, b.doc.Moves}, {"motifs", c.Motifs, b.doc.Motifs}} {
		for _, raw := range list.from {
			tree, err := treeOf(raw)
			if err != nil {
				return nil, err
			}
			was, _ := tree["id"].(string)
			if i := slices.IndexFunc(list.have, func(n *template.Node) bool {
				same, err := json.Marshal(n)
				return err == nil && string(same) == string(raw)
			}); i >= 0 {
				ids[was] = was
				continue
			}
			if list.name == "motifs" {
				b.newIDs(tree, ids)
				respell(tree, ids)
			} else {
				ids[was] = b.freeID(was)
				tree["id"] = ids[was]
				recolour(tree, ids)
			}
			if err := put(list.name, tree, ids[was]); err != nil {
				return nil, err
			}
		}
	}
	for _, m := range c.Media {
		b.remember(m.Hash, m.Name, m.Kind)
	}
	return ids, nil
}

// newIDs gives all layers of a tree ids of their own.
func (b *bench) newIDs(tree object, ids map[string]string) {
	if was, ok := tree["id"].(string); ok {
		ids[was] = b.freeID(was)
	}
	if list, ok := tree["layers"].([]any); ok {
		for _, in := range list {
			if m, ok := in.(object); ok {
				b.newIDs(m, ids)
			}
		}
	}
}

// respell writes a tree with the ids that things have here.
func respell(v any, ids map[string]string) {
	m, ok := v.(object)
	if !ok {
		return
	}
	renamed(m, ids)
	swap := func(in object, key string) {
		if id, ok := in[key].(string); ok && ids[id] != "" {
			in[key] = ids[id]
		}
	}
	ofLayer(m, func(in object) { swap(in, "pocket") })
	swap(m, "motif")
	if cell, ok := m["cell"].(object); ok {
		swap(cell, "layout")
	}
	if g, ok := m["gradient"].(object); ok {
		swap(g, "named")
	}
	recolour(m, ids)
	if list, ok := m["moves"].([]any); ok {
		for _, in := range list {
			if u, ok := in.(object); ok {
				swap(u, "move")
			}
		}
	}
	if list, ok := m["layers"].([]any); ok {
		for _, in := range list {
			respell(in, ids)
		}
	}
}

// recolour writes named colours by the ids that they have here, but for what is in
// other layers.
func recolour(v any, ids map[string]string) {
	switch v := v.(type) {
	case object:
		for key, in := range v {
			if text, ok := in.(string); ok {
				if id, named := scheme.ColourID(text); named && ids[id] != "" {
					v[key] = strings.TrimSuffix(text, id) + ids[id]
				}
			} else if key != "layers" {
				recolour(in, ids)
			}
		}
	case []any:
		for _, in := range v {
			recolour(in, ids)
		}
	}
}

func paste(b *bench, a Act) error {
	c, err := a.clip()
	if err != nil {
		return err
	}
	ids, err := b.brought(c)
	if err != nil {
		return err
	}
	trees := make([]object, len(c.Layers))
	for i, raw := range c.Layers {
		if trees[i], err = treeOf(raw); err != nil {
			return err
		}
		b.newIDs(trees[i], ids)
	}
	b.plan.Chosen = []string{}
	into, at := a.Into, a.At
	if into == "" {
		into, at = "layers", len(b.doc.Layers)
		if n := len(a.Layers); n > 0 {
			if in, k := b.parentOf(a.Layers[n-1]); k >= 0 {
				into, at = in, k+1
			}
		}
	}
	for i, tree := range trees {
		respell(tree, ids)
		// Whom it follows or is cut by may not have come along.
		b.unhang(tree, ids, c.Of == b.doc.ID)
		if name, ok := tree["name"].(string); ok {
			tree["name"] = b.freeName(name)
		}
		if into != "layers" {
			delete(tree, "cell")
		}
		if err := b.put(tree, into, at+i); err != nil {
			return err
		}
		id, _ := tree["id"].(string)
		b.plan.Chosen = append(b.plan.Chosen, id)
	}
	for _, f := range b.doc.Formats {
		rests := c.Rest[fmt.Sprintf("%dx%d", f.Width, f.Height)]
		for _, path := range slices.Sorted(maps.Keys(rests)) {
			seg := strings.SplitN(path, "/", 3)
			if v := rests[path]; len(seg) == 3 && ids[seg[1]] != "" {
				if id, named := scheme.ColourID(v.Text); named && ids[id] != "" {
					v.Text = strings.TrimSuffix(v.Text, id) + ids[id]
				}
				b.add(edit.DraftOp{Kind: "set", Path: "layers/" + ids[seg[1]] + "/" + seg[2], Value: &v, Format: f.ID})
			}
		}
	}
	b.title = fmt.Sprintf("Paste %d layers", len(trees))
	if name, _ := trees[0]["name"].(string); len(trees) == 1 {
		b.title = "Paste " + name
	}
	return nil
}

// unhang takes away what a pasted layer hangs on that is neither here nor came along.
func (b *bench) unhang(tree object, ids map[string]string, reads bool) {
	here := func(v any) bool {
		id, _ := v.(string)
		for _, mine := range ids {
			if mine == id {
				return true
			}
		}
		return b.doc.Layer(id) != nil
	}
	for _, p := range scheme.Layers.Refs(scheme.Layers) {
		all, part, deeper := strings.Cut(p.Name, ".")
		to := tree[all]
		if m, ok := to.(object); ok && deeper {
			to = m[part]
		}
		if to != nil && !here(to) {
			delete(tree, all) // with what belongs to it
		}
	}
	if !reads { // formulas read things of the other template
		delete(tree, "formulas")
	}
	if masks, ok := tree["masks"].([]any); ok {
		tree["masks"] = slices.DeleteFunc(masks, func(m any) bool {
			t, ok := m.(object)
			return ok && t[scheme.MaskWords.Name] != nil && !here(t[scheme.MaskWords.Name])
		})
	}
	for _, list := range []string{"masks", "treatments", "moves", "layers"} {
		if things, ok := tree[list].([]any); ok {
			for _, t := range things {
				if m, ok := t.(object); ok {
					b.unhang(m, ids, reads)
				}
			}
		}
	}
}

// wears are the properties of a layer's look.
var wears = []*scheme.Property{scheme.Fill, scheme.Opacity, scheme.Blend, scheme.StrokeColour, scheme.StrokeWidth, scheme.StrokeAlign,
	scheme.StrokeCap, scheme.StrokeJoin, scheme.StrokeMiter, scheme.StrokeDash, scheme.StrokeShift, scheme.Radius}

// dress puts the look, the masks or the motion of a layer on others.
func dress(b *bench, a Act) error {
	c, err := a.clip()
	if err != nil {
		return err
	}
	list, err := b.chosen()
	if err != nil {
		return err
	}
	ids, err := b.brought(Clip{Colours: c.Colours, Gradients: c.Gradients, Pockets: c.Pockets, Moves: c.Moves})
	if err != nil {
		return err
	}
	from, err := treeOf(c.Layers[0])
	if err != nil {
		return err
	}
	respell(from, ids)
	of, _ := from["name"].(string)
	b.title = "Put the " + a.Way + " of " + of + " on " + b.called(a.Layers)
	for _, y := range list {
		tree, err := writtenOut(y)
		if err != nil {
			return err
		}
		switch a.Way {
		case "look":
			drop := func(m object, src object, p *scheme.Property) {
				way := strings.Split(p.Name, ".")
				erase(m, way)
				if v := reach(src, way); v != nil && p.For(y.Kind) {
					plant(m, way, v)
				}
			}
			for _, p := range wears {
				b.forget("layers/" + y.ID + "/" + p.Name)
				drop(tree, from, p)
			}
			for part, can := range map[string]scheme.Can{"treatments": scheme.Blends, "gradient": scheme.Painted} {
				if delete(tree, part); from[part] != nil && y.Can(can) {
					tree[part] = from[part]
				}
			}
			if tree["gradient"] != nil {
				delete(tree, "fill")
			}
		case "masks":
			if !y.Can(scheme.Seen) {
				return fmt.Errorf("%s can't be masked: it is a %s", y.Name, y.Kind.Label)
			}
			if delete(tree, "masks"); from["masks"] != nil {
				tree["masks"] = from["masks"]
			}
		case "motion":
			delete(tree, "motion")
			moves := object{}
			if m, ok := from["motion"].(object); ok {
				for name, v := range m {
					if p, _, err := scheme.Layers.Target(name); err == nil && p.For(y.Kind) && y.Has(p) {
						moves[name] = v
					}
				}
			}
			if len(moves) > 0 {
				tree["motion"] = moves
			}
			b.forget("layers/" + y.ID + "/moves")
			if delete(tree, "moves"); from["moves"] != nil {
				b.unhang(from, nil, false)
				tree["moves"] = from["moves"]
			}
		default:
			return errors.New("way: is none of look, masks, motion")
		}
		part, err := json.Marshal(tree)
		if err != nil {
			return err
		}
		b.add(edit.DraftOp{Kind: "put", Path: "layers/" + y.ID, Part: part})
	}
	return nil
}

func reach(m object, way []string) any {
	if len(way) == 1 {
		return m[way[0]]
	}
	in, _ := m[way[0]].(object)
	if in == nil {
		return nil
	}
	return reach(in, way[1:])
}

func plant(m object, way []string, v any) {
	if len(way) == 1 {
		m[way[0]] = v
		return
	}
	in, _ := m[way[0]].(object)
	if in == nil {
		in = object{}
		m[way[0]] = in
	}
	plant(in, way[1:], v)
}

// Alone is a document in which only some layers are drawn, with what is in them and
// what they are in.
func Alone(d *template.Document, ids []string) *template.Document {
	c := d.Clone()
	on := scheme.Is(true)
	// Those of a motif are named through its use, as in "gull-two:wing".
	var walk func(list []*template.Layer, prefix string, inside bool, deep int)
	walk = func(list []*template.Layer, prefix string, inside bool, deep int) {
		for _, y := range list {
			id := prefix + y.ID
			mine := inside || slices.Contains(ids, id)
			holds := slices.ContainsFunc(ids, func(want string) bool {
				in, ok := strings.CutPrefix(want, prefix)
				if !ok {
					return false
				}
				in, _, _ = strings.Cut(in, inUse)
				return y.ID == in || y.Holds(in)
			})
			if !mine && !holds && scheme.Hidden.For(y.Kind) {
				_ = c.Set("layers/"+id+"/hidden", on)
				continue
			}
			walk(y.Layers(), prefix, mine, deep)
			if m := (&bench{doc: d}).motif(y.Text(scheme.Motif)); m != nil && !mine && deep < len(d.Motifs) {
				walk(m.Layers(), id+inUse, mine, deep+1)
			}
		}
	}
	walk(d.Layers, "", false, 0)
	return c
}
