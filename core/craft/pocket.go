package craft

import (
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"

	"ivypocket/core/edit"
	"ivypocket/core/geom"
	"ivypocket/core/scheme"
	"ivypocket/core/template"
	"ivypocket/core/timing"
)

// What is done with pockets.
func init() {
	register(
		row{"sew", "`from` and `to` (a box), or `layers`, or `path` (`layouts/ID`) and `numbers` (`row`, `column`: a cell); `id` (a pocket that is shown once more), `kinds`, `name`, `media`", "sews a pocket; of shapes, which become its mask, or of pictures, which become its stand-in", sew},
		row{"unpick", "`layers` (views)", "makes pictures or shapes of them again", unpick},
		row{"fill", "`pocket`, `media`, `name`", "gives it a stand-in; no media empties it", fill},
		row{"frame", "`pocket`, `framing`, `members`", "says how media lies in it unless an editor frames it; no framing resets", frame},
		row{"play", "`pocket`, `play`, `members`", "says how clips run in it; no play resets", play},
		row{"empty", "", "puts the stand-ins of all pockets away, for delivery", empty},
		row{"unempty", "", "puts the stand-ins back that were put away", unempty},
		row{"pocket-remove", "`pocket` (that no layer shows)", "removes a pocket, with the entries that fill it", removePocket},
		row{"line-pocket", "`pocket`, `media` of the store", "says which picture it shows while it is empty; none is the neutral card", linePocket},
	)
}

// takes are the kinds of media of a pocket that nobody said more of.
var takes = []string{string(template.Picture), string(template.Footage)}

// pocketPart is a new pocket as it is written.
func (b *bench) pocketPart(name string, kinds []string) (id string, part json.RawMessage, err error) {
	if len(kinds) == 0 {
		kinds = takes
	}
	id = b.freeID(name + " pocket")
	part, err = json.Marshal(object{"id": id, "name": name, "kinds": kinds})
	return id, part, err
}

func sew(b *bench, a Act) error {
	if len(a.Layers) > 0 && a.From == a.To {
		return sewFrom(b, a)
	}
	name := strings.TrimSpace(a.Name)
	lay, inCell := strings.CutPrefix(a.Path, "layouts/")
	var cells []landing
	if inCell {
		var err error
		if cells, err = b.landings(lay, [2]int{int(a.Numbers["row"]), int(a.Numbers["column"])}); err != nil {
			return err
		}
		b.toCell(&a, cells)
		if name == "" {
			name = cells[0].name
		}
	}
	if name == "" {
		if name = "Pocket"; slices.Equal(a.Kinds, []string{string(template.Logo)}) {
			name = "Mark"
		}
	}
	if a.Id == "" {
		name = b.freePocket(name)
	}
	pocket := a.Id
	if pocket == "" {
		id, part, err := b.pocketPart(name, a.Kinds)
		if err != nil {
			return err
		}
		pocket = id
		b.add(edit.DraftOp{Kind: "add", Into: "pockets", At: -1, Part: part})
		if a.Media != "" {
			info, ok := b.lib.Info(a.Media)
			if !ok {
				return errors.New("media: it is not in the store; put it in first")
			}
			kind := template.Picture
			if info.Clip != nil {
				kind = template.Footage
			}
			b.remember(a.Media, a.Name, kind)
			stand, err := json.Marshal(template.StandIn{Media: a.Media})
			if err != nil {
				return err
			}
			b.add(edit.DraftOp{Kind: "put", Path: "pockets/" + id + "/standIn", Part: stand})
		}
	} else if p := b.doc.Pocket(pocket); p == nil {
		return fmt.Errorf("id: there is no pocket named %q", pocket)
	} else {
		name = b.freeName(p.Name)
	}
	y := object{"id": b.freeID(name), "name": name, "kind": scheme.View.Name, "pocket": pocket}
	if inCell {
		y["cell"] = object{"layout": lay, "row": cells[0].at[0], "column": cells[0].at[1]}
	} else if err := b.boxed(y, a, scheme.View); err != nil {
		return err
	}
	b.title = "Sew " + name
	b.plan.Chosen = []string{y["id"].(string)}
	if err := b.put(y, a.Into, a.At); err != nil || !inCell {
		return err
	}
	return b.land(y["id"].(string), cells)
}

// freePocket is a name for one more pocket: Pocket, Pocket 2.
func (b *bench) freePocket(name string) string {
	taken := func(n string) bool {
		return b.named[n] || slices.ContainsFunc(b.doc.Pockets, func(p template.Pocket) bool { return p.Name == n })
	}
	out := name
	for n := 2; taken(out); n++ {
		out = fmt.Sprintf("%s %d", name, n)
	}
	b.named[out] = true
	return out
}

// written is a layer as the document writes it, to be changed.
func writtenOut(y *template.Layer) (object, error) {
	raw, err := json.Marshal(y)
	if err != nil {
		return nil, err
	}
	var tree object
	dec := json.NewDecoder(strings.NewReader(string(raw)))
	dec.UseNumber()
	return tree, dec.Decode(&tree)
}

// turnInto makes another kind of layer of one, which keeps its id, its place in the
// stack and all that the new kind has too.
func (b *bench) turnInto(y *template.Layer, k *scheme.Kind, with object) error {
	tree, err := writtenOut(y)
	if err != nil {
		return err
	}
	drop := func(name string) bool {
		p, _, err := scheme.Layers.Target(name)
		return err == nil && !p.For(k)
	}
	y.Values(func(p *scheme.Property, _ scheme.Value) {
		if drop(p.Name) {
			erase(tree, strings.Split(p.Name, "."))
		}
	})
	if k.Can&scheme.Painted == 0 {
		delete(tree, "gradient")
	}
	for _, key := range []string{"motion", "formulas"} {
		if m, ok := tree[key].(object); ok {
			for name := range m {
				if drop(name) {
					delete(m, name)
				}
			}
			if len(m) == 0 {
				delete(tree, key)
			}
		}
	}
	tree["kind"] = k.Name
	for key, v := range with {
		tree[key] = v
	}
	// What formats and ties say of what it has no more.
	for _, f := range b.doc.Formats {
		for _, path := range sorted(f.Rest) {
			if name, ok := strings.CutPrefix(path, "layers/"+y.ID+"/"); ok && drop(name) {
				b.add(edit.DraftOp{Kind: "put", Path: "formats/" + f.ID + "/rest/" + path})
			}
		}
	}
	b.retie(func(t template.Tie) []template.Tie {
		if name, ok := strings.CutPrefix(t.To, "layers/"+y.ID+"/"); ok && drop(name) {
			return nil
		}
		return []template.Tie{t}
	})
	part, err := json.Marshal(tree)
	if err == nil {
		b.add(edit.DraftOp{Kind: "put", Path: "layers/" + y.ID, Part: part})
	}
	return err
}

// erase takes a member out of an object, and the objects it leaves empty.
func erase(m object, way []string) {
	if len(way) == 1 {
		delete(m, way[0])
		return
	}
	if in, ok := m[way[0]].(object); ok {
		erase(in, way[1:])
		if len(in) == 0 {
			delete(m, way[0])
		}
	}
}

// sewFrom makes pockets of layers: a shape becomes the mask of its pocket, a picture
// its stand-in.
func sewFrom(b *bench, a Act) error {
	list, err := b.chosen()
	if err != nil {
		return err
	}
	b.title = "Make a pocket of " + b.called(a.Layers)
	for _, y := range list {
		id, part, err := b.pocketPart(y.Name, a.Kinds)
		if err != nil {
			return err
		}
		var p object
		if err := json.Unmarshal(part, &p); err != nil {
			return err
		}
		with := object{"pocket": id}
		switch y.Kind {
		case scheme.Picture:
			p["standIn"] = object{"media": y.Text(scheme.OwnMedia)}
			if info, ok := b.lib.Info(y.Text(scheme.OwnMedia)); ok && !y.Given(scheme.Size) {
				with["size"] = b.lengths(info.Size.W, info.Size.H)
			}
			p["framing"] = object{"fit": "stretch"}
		case scheme.Shape:
			if y.Geometry().Kind != geom.Rectangle {
				tree, err := writtenOut(y)
				if err != nil {
					return err
				}
				masks, _ := tree["masks"].([]any)
				mask := object{"id": free(masks, "shape"), "form": tree["form"]}
				if len(masks) > 0 {
					mask["mode"] = "intersect"
				}
				if m, ok := tree["motion"].(object); ok {
					moves := object{}
					for name, v := range m {
						if strings.HasPrefix(name, "form.") {
							moves[name] = v
						}
					}
					if len(moves) > 0 {
						mask["motion"] = moves
					}
				}
				with["masks"] = append(masks, mask)
			}
		default:
			return fmt.Errorf("%s is a %s; shapes and pictures become pockets", y.Name, strings.ToLower(y.Kind.Label))
		}
		if part, err = json.Marshal(p); err != nil {
			return err
		}
		b.add(edit.DraftOp{Kind: "add", Into: "pockets", At: -1, Part: part})
		if err := b.turnInto(y, scheme.View, with); err != nil {
			return err
		}
	}
	b.plan.Chosen = a.Layers
	return nil
}

// free is an id that no thing of a list has.
func free(list []any, id string) string {
	has := func(id string) bool {
		return slices.ContainsFunc(list, func(v any) bool { m, ok := v.(object); return ok && m["id"] == id })
	}
	out := id
	for n := 2; has(out); n++ {
		out = fmt.Sprintf("%s-%d", id, n)
	}
	return out
}

// unpick makes pictures and shapes of views again.
func unpick(b *bench, a Act) error {
	list, err := b.chosen()
	if err != nil {
		return err
	}
	b.title = "Unpick " + b.called(a.Layers)
	shown := map[string]int{}
	b.doc.VisitAll(func(_ string, y *template.Layer) {
		if y.Kind == scheme.View {
			shown[y.Text(scheme.Pocket)]++
		}
	})
	for _, y := range list {
		if y.Kind != scheme.View {
			return fmt.Errorf("%s shows no pocket", y.Name)
		}
		p := b.doc.Pocket(y.Text(scheme.Pocket))
		picture := ""
		if p != nil && p.StandIn != nil {
			if info, ok := b.lib.Info(p.StandIn.Media); ok && info.Clip == nil {
				picture = p.StandIn.Media
			}
		}
		switch {
		case picture != "":
			with := object{"media": picture}
			if p != nil && y.Text(scheme.Without) == p.ID { // it would be left out without itself
				with[scheme.Without.Name] = nil
			}
			err = b.turnInto(y, scheme.Picture, with)
		default:
			with := object{"fill": newFill}
			if p != nil && y.Text(scheme.Without) == p.ID {
				with[scheme.Without.Name] = nil
			}
			tree, werr := writtenOut(y)
			if werr != nil {
				return werr
			}
			if masks, ok := tree["masks"].([]any); ok {
				last, ok := masks[len(masks)-1].(object)
				if ok && last["form"] != nil && last["size"] == nil && last["place"] == nil {
					with["form"] = last["form"]
					with["masks"] = masks[:len(masks)-1]
				}
			}
			err = b.turnInto(y, scheme.Shape, with)
		}
		if err != nil {
			return err
		}
		if p == nil {
			continue
		}
		if shown[p.ID]--; shown[p.ID] == 0 {
			if err := b.dropPocket(p.ID); err != nil {
				return err
			}
		}
	}
	b.plan.Chosen = a.Layers
	return nil
}

// removePocket removes a pocket that was left when its layers were deleted.
func removePocket(b *bench, _ Act) error {
	p, err := b.pocket()
	if err != nil {
		return err
	}
	by := ""
	b.doc.VisitAll(func(_ string, y *template.Layer) {
		if y.Text(scheme.Pocket) == p.ID {
			by = y.Name
		}
	})
	if by != "" {
		return fmt.Errorf("pocket: %s is shown by the layer %s; delete or unpick that first", p.Name, by)
	}
	b.title = "Remove " + p.Name
	if err := b.dropPocket(p.ID); err != nil {
		return err
	}
	if len(b.ops) == 0 {
		return fmt.Errorf("pocket: a mask or a formula speaks of %s; change that first", p.Name)
	}
	return nil
}

// dropPocket removes a pocket that nothing shows any more, with the entries that fill
// it. One that a mask or a formula speaks of stays.
func (b *bench) dropPocket(id string) error {
	spoken := false
	b.doc.VisitNodes(func(_, _ string, n *template.Node) {
		spoken = spoken || n.Sort() == scheme.Masks && n.Text(scheme.MaskPocket) == id
		for _, f := range n.Formulas {
			spoken = spoken || strings.Contains(f, "'"+id+"'") || strings.Contains(f, `"`+id+`"`)
		}
	})
	if spoken {
		return nil
	}
	for _, e := range b.doc.Sheet.Entries() {
		if e.Pocket == id {
			if err := b.dropEntry(e); err != nil {
				return err
			}
		}
	}
	// What was left out without it is there for good. Before all else: who goes is there yet.
	b.doc.VisitAll(func(_ string, y *template.Layer) {
		if y.Text(scheme.Without) == id {
			b.ops = slices.Insert(b.ops, 0, edit.DraftOp{Kind: "put", Path: "layers/" + y.ID + "/" + scheme.Without.Name})
		}
	})
	b.forget("pockets/" + id)
	b.add(edit.DraftOp{Kind: "remove", Path: "pockets/" + id})
	return nil
}

func (b *bench) pocket() (*template.Pocket, error) {
	if p := b.doc.Pocket(b.act.Pocket); p != nil {
		return p, nil
	}
	return nil, fmt.Errorf("pocket: the template has no pocket named %q", b.act.Pocket)
}

func fill(b *bench, a Act) error {
	p, err := b.pocket()
	if err != nil {
		return err
	}
	b.title = "Stand-in of " + p.Name
	if a.Media == "" {
		b.title = "Empty " + p.Name
		b.add(edit.DraftOp{Kind: "put", Path: "pockets/" + p.ID + "/standIn"})
		return nil
	}
	if len(a.Kinds) == 1 {
		b.remember(a.Media, a.Name, template.MediaKind(a.Kinds[0]))
	}
	part, err := json.Marshal(template.StandIn{Media: a.Media})
	b.add(edit.DraftOp{Kind: "put", Path: "pockets/" + p.ID + "/standIn", Part: part})
	return err
}

// members sets those members of a framing, or of how a clip runs, that are meant.
func (b *bench) members(path string, v any, names, known []string) error {
	raw, err := json.Marshal(v)
	if err != nil {
		return err
	}
	var all map[string]*scheme.Value
	if err := json.Unmarshal(raw, &all); err != nil {
		return err
	}
	if len(names) == 0 {
		names = known
	}
	format := ""
	if b.act.Apart && b.format != nil {
		format = b.format.ID
	}
	for _, n := range names {
		if !slices.Contains(known, n) {
			return fmt.Errorf("members: %q is not one of %s", n, strings.Join(known, ", "))
		}
		v := all[n]
		if v == nil && scheme.Pockets.Property(strings.TrimPrefix(path, "pockets/"+b.act.Pocket+"/")+"."+n) != nil {
			// One that is left out has its default.
			d := scheme.Pockets.Property(strings.TrimPrefix(path, "pockets/"+b.act.Pocket+"/") + "." + n).Default
			v = &d
		}
		if v != nil {
			b.add(edit.DraftOp{Kind: "set", Path: path + "." + n, Value: v, Format: format})
		}
	}
	return nil
}

func frame(b *bench, a Act) error {
	p, err := b.pocket()
	if err != nil {
		return err
	}
	b.title = "Framing of " + p.Name
	if a.Framing != nil {
		return b.members("pockets/"+p.ID+"/framing", a.Framing, a.Members, geom.FramingMembers)
	}
	b.title = "Reset framing of " + p.Name
	if !b.act.Apart || b.format == nil {
		b.add(edit.DraftOp{Kind: "put", Path: "pockets/" + p.ID + "/framing"})
		return nil
	}
	for _, path := range sorted(b.format.Rest) {
		if strings.HasPrefix(path, "pockets/"+p.ID+"/framing.") {
			b.add(edit.DraftOp{Kind: "set", Path: path, Format: b.format.ID})
		}
	}
	return nil
}

func play(b *bench, a Act) error {
	p, err := b.pocket()
	if err != nil {
		return err
	}
	b.title = "Run of " + p.Name
	if a.Play == nil {
		b.title = "Reset how " + p.Name + " runs"
		b.add(edit.DraftOp{Kind: "put", Path: "pockets/" + p.ID + "/play"})
		return nil
	}
	names := a.Members
	if len(names) == 0 {
		names = timing.PlayMembers
	}
	if i := slices.Index(names, "in"); i >= 0 { // the first frame is the stand-in's own
		if p.StandIn == nil {
			return errors.New("pocket: it is empty, and so has no first frame")
		}
		at := scheme.One(float64(a.Play.In))
		b.add(edit.DraftOp{Kind: "set", Path: "pockets/" + p.ID + "/standIn.inPoint", Value: &at})
		if names = slices.Delete(slices.Clone(names), i, i+1); len(names) == 0 {
			return nil
		}
	}
	return b.members("pockets/"+p.ID+"/play", a.Play, names, []string{"speed", "after"})
}

// empty puts the stand-ins of all pockets away, so that each shows its lining.
func empty(b *bench, _ Act) error {
	b.title = "Empty all pockets"
	b.putAway(true)
	return nil
}

func unempty(b *bench, _ Act) error {
	b.title = "Put the stand-ins back"
	b.putAway(false)
	return nil
}

// putAway puts all stand-ins away, or back. They stay in the document, so that nothing
// has to be looked for again.
func (b *bench) putAway(away bool) {
	for _, p := range b.doc.Pockets {
		if p.StandIn != nil && p.StandIn.Away != away {
			v := scheme.Is(away)
			b.add(edit.DraftOp{Kind: "set", Path: "pockets/" + p.ID + "/standIn.away", Value: &v})
		}
	}
}

func linePocket(b *bench, a Act) error {
	p, err := b.pocket()
	if err != nil {
		return err
	}
	b.title = "Lining of " + p.Name
	if a.Media == "" {
		b.add(edit.DraftOp{Kind: "put", Path: "pockets/" + p.ID + "/lining"})
		return nil
	}
	if info, ok := b.lib.Info(a.Media); !ok || info.Clip != nil {
		return errors.New("media: a lining is a picture of the store")
	}
	b.remember(a.Media, a.Name, template.Picture)
	part, err := json.Marshal(template.Lining{Media: a.Media})
	b.add(edit.DraftOp{Kind: "put", Path: "pockets/" + p.ID + "/lining", Part: part})
	return err
}
