package craft

import (
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"strings"

	"ivypocket/core/edit"
	"ivypocket/core/scheme"
	"ivypocket/core/template"
)

// duplicate puts copies of layers right above them.
func duplicate(b *bench, a Act) error {
	list, err := b.chosen()
	if err != nil {
		return err
	}
	b.title = "Duplicate " + b.called(a.Layers)
	for i := len(list) - 1; i >= 0; i-- { // from the top, so that places below stay
		y := list[i]
		into, at := b.parentOf(y.ID)
		id, err := b.copyOf(y, into, at+1)
		if err != nil {
			return err
		}
		b.plan.Chosen = append([]string{id}, b.plan.Chosen...)
	}
	return nil
}

// copies puts copies of layers above them; what is set on them from then on is set on
// the copies.
func (b *bench) copies(list []moved) error {
	b.as = map[string]string{}
	for i := len(list) - 1; i >= 0; i-- {
		m := &list[i]
		into, at := b.parentOf(m.ID)
		id, err := b.copyOf(m.Layer, into, at+1)
		if err != nil {
			return err
		}
		b.as[m.ID] = id
		b.plan.Chosen = append([]string{id}, b.plan.Chosen...)
	}
	return nil
}

// copyOf adds a copy of a layer with all that is in it, under ids of its own, and with
// what formats and uses of its motif say of it. What is cut by, follows or reads one of them does so with its
// copy.
func (b *bench) copyOf(y *template.Layer, into string, at int) (string, error) {
	ids, err := b.copyAll(y, into, at)
	return ids[y.ID], err
}

// copyAll is copyOf that tells the ids of all copies, by those of what they are copies of.
func (b *bench) copyAll(y *template.Layer, into string, at int) (map[string]string, error) {
	ids := map[string]string{}
	within(y, func(in *template.Layer) { ids[in.ID] = b.freeID(in.Name) })
	raw, err := json.Marshal(y)
	if err != nil {
		return nil, err
	}
	var tree map[string]any
	dec := json.NewDecoder(strings.NewReader(string(raw)))
	dec.UseNumber()
	if err := dec.Decode(&tree); err != nil {
		return nil, err
	}
	renamed(tree, ids)
	tree["name"] = b.freeName(y.Name)
	part, err := json.Marshal(tree)
	if err != nil {
		return nil, err
	}
	b.add(edit.DraftOp{Kind: "add", Into: into, At: at, Part: part})
	for _, f := range b.doc.Formats {
		for _, path := range sorted(f.Rest) {
			if to, ok := repathed(path, ids); ok {
				v := f.Rest[path]
				b.add(edit.DraftOp{Kind: "set", Path: to, Value: &v, Format: f.ID})
			}
		}
	}
	var own error
	b.doc.VisitAll(func(_ string, use *template.Layer) { // what uses of the motif say of it
		for _, path := range sorted(use.Own) {
			if to, ok := repathed(path, ids); ok {
				part, err := json.Marshal(use.Own[path])
				own = errors.Join(own, err)
				b.add(edit.DraftOp{Kind: "put", Path: "layers/" + use.ID + "/values/" + to, Part: part})
			}
		}
	})
	return ids, own
}

// repathed is the path of a value with other ids of layers in it, also where it goes through
// uses of motifs; ok says that it had one of them.
func repathed(path string, ids map[string]string) (to string, ok bool) {
	seg := strings.SplitN(path, "/", 3)
	if seg[0] != "layers" || len(seg) < 3 {
		return "", false
	}
	through := strings.Split(seg[1], inUse)
	for i, id := range through {
		if ids[id] != "" {
			through[i], ok = ids[id], true
		}
	}
	return "layers/" + strings.Join(through, inUse) + "/" + seg[2], ok
}

// inMotif is the path of a value without the uses that it goes through.
func inMotif(path string) string {
	seg := strings.SplitN(path, "/", 3)
	if seg[0] == "layers" && len(seg) == 3 {
		_, id := cutUse(seg[1])
		return "layers/" + id + "/" + seg[2]
	}
	return path
}

// ofLayer calls f for a layer's tree and for its treatments, its masks and theirs.
func ofLayer(tree map[string]any, f func(m map[string]any)) {
	f(tree)
	for _, list := range []string{scheme.Masks.Plural, scheme.Treatments.Plural, scheme.Highlights.Plural, scheme.HighLines.Plural} {
		if things, ok := tree[list].([]any); ok {
			for _, t := range things {
				if m, ok := t.(map[string]any); ok {
					ofLayer(m, f)
				}
			}
		}
	}
}

// renamed gives the layers of a tree their new ids, and what speaks of them.
func renamed(tree map[string]any, ids map[string]string) {
	swap := func(m map[string]any, key string) {
		if id, ok := m[key].(string); ok && ids[id] != "" {
			m[key] = ids[id]
		}
	}
	swap(tree, "id")
	for _, p := range scheme.Layers.Refs(scheme.Layers) {
		all, part, deeper := strings.Cut(p.Name, ".")
		if m, ok := tree[all].(map[string]any); ok && deeper {
			swap(m, part)
		} else if !deeper {
			swap(tree, all)
		}
	}
	ofLayer(tree, func(m map[string]any) {
		swap(m, scheme.MaskWords.Name) // no other thing has a member of that name
		if formulas, ok := m["formulas"].(map[string]any); ok {
			for k, f := range formulas {
				if text, ok := f.(string); ok {
					formulas[k] = template.Reread(text, ids)
				}
			}
		}
	})
	if inside, ok := tree["layers"].([]any); ok {
		for _, t := range inside {
			if m, ok := t.(map[string]any); ok {
				renamed(m, ids)
			}
		}
	}
}

// freeName is a name for one more layer: "Sun 2" beside "Sun".
func (b *bench) freeName(name string) string {
	taken := map[string]bool{}
	b.doc.VisitAll(func(_ string, y *template.Layer) { taken[y.Name] = true })
	maps.Copy(taken, b.named)
	base := name
	if i := strings.LastIndexByte(name, ' '); i > 0 && strings.Trim(name[i+1:], "0123456789") == "" {
		base = name[:i]
	}
	for n := 2; taken[name]; n++ {
		name = fmt.Sprintf("%s %d", base, n)
	}
	b.named[name] = true
	return name
}
