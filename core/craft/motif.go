package craft

import (
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"

	"ivypocket/core/edit"
	"ivypocket/core/scene"
	"ivypocket/core/scheme"
	"ivypocket/core/template"
)

// What is built once and used many times.
func init() {
	register(
		row{"motif", "`layers` (one group), `name`", "makes a motif of a group, which becomes its first use", toMotif},
		row{"unmotif", "`layers` (uses of motifs)", "makes groups of uses, with layers of their own; a motif that nothing uses any more goes", unmotif},
		row{"motif-remove", "`id`", "removes a motif that nothing uses", removeMotif},
	)
}

// inUse stands between a use and a layer of its motif, as in paths.
const inUse = ":"

// cutUse splits the id of a layer in a use, such as "gull-two:wing", into the use and
// the layer of the motif.
func cutUse(id string) (use, inner string) {
	i := strings.LastIndex(id, inUse)
	if i < 0 {
		return "", id
	}
	return id[:i], id[i+1:]
}

// through lets an act on layers that are seen in one use of a motif be one on those of
// the motif itself.
func (b *bench) through(a *Act) error {
	ids := make([]string, len(a.Layers))
	for i, id := range a.Layers {
		use, inner := cutUse(id)
		if i > 0 && use != b.use {
			return errors.New("layers: some are in a use of a motif and some are not; work on one of them at a time")
		}
		b.use, ids[i] = use, inner
	}
	a.Layers = ids
	if id, ok := strings.CutPrefix(a.Into, "layers/"); ok {
		id, part, _ := strings.Cut(id, "/")
		use, inner := cutUse(id)
		if len(ids) == 0 {
			b.use = use
		}
		if y := b.doc.Layer(inner); y != nil && y.Kind == scheme.Use {
			if len(ids) == 0 {
				b.use = id
			}
			inner = y.Text(scheme.Motif)
		}
		if part == "" {
			part = "layers"
		}
		a.Into = "layers/" + inner + "/" + part
	}
	if b.use != "" && b.motifOf(b.use) == nil {
		return fmt.Errorf("layers: there is no use %q any more", b.use)
	}
	return nil
}

// motifOf is the motif that a use shows, wherever the use stands.
func (b *bench) motifOf(use string) *template.Layer {
	_, id := cutUse(use)
	if y := b.doc.Layer(id); y != nil && y.Kind == scheme.Use {
		return b.motif(y.Text(scheme.Motif))
	}
	return nil
}

// seen tells how layers stand, those of the motif that is worked on as they do in the
// use through which it is looked at.
func (b *bench) seen(list []scene.Standing) []scene.Standing {
	m := b.motifOf(b.use)
	if m == nil {
		return list
	}
	in := func(id string) string {
		if id == b.use {
			return m.ID
		}
		return strings.TrimPrefix(id, b.use+inUse)
	}
	out := slices.Clone(list)
	for i := range out {
		out[i].Layer, out[i].Parent = in(out[i].Layer), in(out[i].Parent)
	}
	return out
}

// inThisUse is the path of a motif's value as the use has it that is looked through,
// where it is to be set there: the act says so, or the use has a value of its own.
func (b *bench) inThisUse(path string) string {
	rest, ok := strings.CutPrefix(path, "layers/")
	if b.use == "" || !ok {
		return path
	}
	own := "layers/" + b.use + inUse + rest
	if b.act.Own || b.ownIn(own) {
		return own
	}
	return path
}

// ownIn reports whether a use says something itself of what a path names in it.
func (b *bench) ownIn(path string) bool {
	use, inner, ok := b.doc.InUse(path)
	if !ok {
		return false
	}
	for at := range b.doc.Layer(use).Own {
		if at == inner || strings.HasPrefix(at, inner+".") {
			return true
		}
	}
	return false
}

// alone refuses what an act in one use alone can't do: only values differ between uses.
func (b *bench) alone() error {
	for _, op := range b.ops {
		if op.Kind != "set" || !strings.HasPrefix(op.Path, "layers/"+b.use+inUse) {
			return errAlike
		}
	}
	return nil
}

var errAlike = errors.New("in one use alone values are set; what there is, and how it lies, is the same in all uses")

// alike refuses what would be done to what stands in a use, and is no value of it.
func (b *bench) alike() error {
	for _, op := range b.ops {
		if seg := strings.SplitN(op.Path, "/", 3); op.Kind != "set" && len(seg) == 3 && seg[0] == "layers" && strings.Contains(seg[1], inUse) {
			return errAlike
		}
	}
	return nil
}

func toMotif(b *bench, a Act) error {
	list, err := b.chosen()
	if err != nil {
		return err
	}
	if len(list) != 1 || list[0].Kind != scheme.Group {
		return errors.New("layers: a motif is made of one group; group them first")
	}
	g := list[0]
	inside := map[string]bool{}
	within(g, func(y *template.Layer) { inside[y.ID] = true })
	if err := b.closed(g, inside); err != nil {
		return err
	}
	name := strings.TrimSpace(a.Name)
	if name == "" {
		name = g.Name
	}
	m := object{"id": b.freeID(name + " motif"), "name": name, "kind": scheme.Group.Name}
	use, err := writtenOut(g)
	if err != nil {
		return err
	}
	delete(use, "layers")
	use["kind"], use["motif"] = scheme.Use.Name, m["id"]
	sized := slices.ContainsFunc(b.doc.Formats, func(f template.Format) bool {
		for at := range f.Rest {
			if strings.HasPrefix(at, "layers/"+g.ID+"/size") {
				return true
			}
		}
		return false
	})
	if size := use["size"]; size != nil && !sized { // all uses are as large
		m["size"] = size
		delete(use, "size")
	}
	b.title = "Make a motif of " + g.Name
	part, err := json.Marshal(m)
	if err != nil {
		return err
	}
	b.add(edit.DraftOp{Kind: "add", Into: "motifs", At: -1, Part: part})
	for i, y := range g.Layers() {
		b.add(edit.DraftOp{Kind: "move", Path: "layers/" + y.ID, Into: "layers/" + m["id"].(string) + "/layers", At: i})
	}
	if part, err = json.Marshal(use); err != nil {
		return err
	}
	b.add(edit.DraftOp{Kind: "put", Path: "layers/" + g.ID, Part: part})
	b.plan.Chosen = []string{g.ID}
	return b.unchanged(func(frame int64, format string) error {
		return fmt.Errorf("frame %d of the format %s would look otherwise", frame, format)
	})
}

// closed says what a group hangs on outside it, or what outside it hangs on what is in
// it: a motif is the same wherever it is used.
func (b *bench) closed(g *template.Layer, inside map[string]bool) (err error) {
	b.doc.VisitAll(func(_ string, y *template.Layer) {
		mine := inside[y.ID] && y != g
		y.Named(scheme.Layers, func(_ string, _ *template.Node, p *scheme.Property, to string) {
			if err != nil || mine == (inside[to] && to != g.ID) {
				return
			}
			if mine {
				err = fmt.Errorf("%s %s %s, which is not in %s; a motif holds all that it hangs on", y.Name, p.Verb, b.doc.Layer(to).Name, g.Name)
			} else if to != g.ID {
				err = fmt.Errorf("%s %s %s, which would be in a motif; bring them together first", y.Name, p.Verb, b.doc.Layer(to).Name)
			}
		})
	})
	for id := range inside {
		if by := b.reader(id, inside); by != "" && id != g.ID && err == nil {
			err = fmt.Errorf("%s is read by the formula of %s, which is not in %s", b.doc.Layer(id).Name, by, g.Name)
		}
	}
	return err
}

func unmotif(b *bench, a Act) error {
	list, err := b.chosen()
	if err != nil {
		return err
	}
	b.title = "Make a group of " + b.called(a.Layers)
	whole, err := b.doc.Expanded()
	if err != nil {
		return err
	}
	left := b.uses()
	for _, u := range list {
		if u.Kind != scheme.Use {
			return fmt.Errorf("%s is no use of a motif", u.Name)
		}
		if err := b.detach(u, whole.Layer(u.ID)); err != nil {
			return err
		}
		left[u.Text(scheme.Motif)]--
	}
	for _, u := range list {
		if id := u.Text(scheme.Motif); left[id] == 0 {
			left[id] = -1
			b.dropMotif(b.motif(id))
		}
	}
	b.plan.Chosen = a.Layers
	return b.unchanged(func(frame int64, format string) error {
		return fmt.Errorf("frame %d of the format %s would look otherwise", frame, format)
	})
}

// uses counts the uses of each motif.
func (b *bench) uses() map[string]int {
	out := map[string]int{}
	b.doc.VisitAll(func(_ string, y *template.Layer) {
		if y.Kind == scheme.Use {
			out[y.Text(scheme.Motif)]++
		}
	})
	return out
}

// detach makes a group of a use, given as it stands when all uses are expanded. What
// formats and ties say of it, or of all uses, they then say of its own layers.
func (b *bench) detach(u, group *template.Layer) error {
	if group == nil {
		return fmt.Errorf("%s is itself in a motif; work on it there", u.Name)
	}
	ids := map[string]string{} // by what they are called in the use, and in the motif
	within(group, func(y *template.Layer) {
		if y != group {
			id := b.freeID(y.Name)
			_, inner := cutUse(y.ID)
			ids[y.ID], ids[inner] = id, id
		}
	})
	tree, err := writtenOut(group)
	if err != nil {
		return err
	}
	renamed(tree, ids)
	part, err := json.Marshal(tree)
	if err != nil {
		return err
	}
	own := func(at string) (string, bool) {
		seg := strings.SplitN(at, "/", 3)
		if seg[0] != "layers" || len(seg) < 3 || ids[seg[1]] == "" {
			return "", false
		}
		return "layers/" + ids[seg[1]] + "/" + seg[2], true
	}
	b.add(edit.DraftOp{Kind: "put", Path: "layers/" + u.ID, Part: part})
	for _, f := range b.doc.Formats {
		for _, said := range []bool{false, true} { // what is said of this use counts
			for _, at := range sorted(f.Rest) {
				if to, ok := own(at); ok && strings.HasPrefix(at, "layers/"+u.ID+inUse) == said {
					v := f.Rest[at]
					b.add(edit.DraftOp{Kind: "set", Path: to, Value: &v, Format: f.ID})
				}
			}
		}
		for _, at := range sorted(f.Rest) {
			if strings.HasPrefix(at, "layers/"+u.ID+inUse) {
				b.add(edit.DraftOp{Kind: "put", Path: "formats/" + f.ID + "/rest/" + at})
			}
		}
	}
	b.retie(func(t template.Tie) []template.Tie {
		var out []template.Tie
		if !strings.HasPrefix(t.To, "layers/"+u.ID+inUse) {
			out = append(out, t)
		}
		if to, ok := own(t.To); ok {
			t.To = to
			out = append(out, t)
		}
		return out
	})
	return nil
}

func removeMotif(b *bench, a Act) error {
	m := b.motif(a.Id)
	if m == nil {
		return fmt.Errorf("id: there is no motif named %q", a.Id)
	}
	if n := b.uses()[m.ID]; n > 0 {
		return fmt.Errorf("%s is used %d times; delete its uses first, or make groups of them", m.Name, n)
	}
	b.title = "Delete the motif " + m.Name
	b.dropMotif(m)
	return nil
}

// dropMotif removes a motif, with what is said of it.
func (b *bench) dropMotif(m *template.Layer) {
	within(m, func(y *template.Layer) { b.forget("layers/" + y.ID) })
	b.add(edit.DraftOp{Kind: "remove", Path: "layers/" + m.ID})
}
