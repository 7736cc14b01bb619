package craft

import (
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"reflect"
	"slices"
	"strings"

	"ivypocket/core/edit"
	"ivypocket/core/recipe"
	"ivypocket/core/scheme"
	"ivypocket/core/template"
)

// Layers that are built from a few numbers.
func init() {
	register(
		row{"recipe", "`way` (a kind of recipes) or `id` (of one that was built from), `numbers`",
			"builds layers from a few numbers, or changes the numbers of what was built: what they make otherwise changes, the rest stays", cook},
		row{"recipe-forget", "`id`", "lets what was built from a recipe be layers like others", forgetRecipe},
	)
}

func (b *bench) recipe() (*template.Recipe, error) {
	for i := range b.doc.Recipes {
		if b.doc.Recipes[i].ID == b.act.Id {
			return &b.doc.Recipes[i], nil
		}
	}
	return nil, fmt.Errorf("id: there is no recipe %q any more", b.act.Id)
}

func forgetRecipe(b *bench, _ Act) error {
	r, err := b.recipe()
	if err != nil {
		return err
	}
	b.title = "Let go of the recipe"
	b.add(edit.DraftOp{Kind: "remove", Path: "recipes/" + r.ID})
	return nil
}

func cook(b *bench, a Act) error {
	var was recipe.Parts
	id, numbers := a.Id, map[string]float64{}
	kind := recipe.Find(a.Way)
	if id != "" {
		r, err := b.recipe()
		if err != nil {
			return err
		}
		kind = recipe.Find(r.Kind)
		// An act that says some of the numbers leaves the others.
		maps.Copy(numbers, r.Numbers)
		if was, err = kind.Build(b.base(id, r.Frames), r.Numbers); err != nil {
			return err
		}
	} else if kind == nil {
		return fmt.Errorf("way: %q is not a kind of recipes", a.Way)
	} else {
		id = b.freeRecipe(kind.Kind)
	}
	maps.Copy(numbers, a.Numbers)
	numbers, err := kind.Whole(numbers)
	if err != nil {
		return err
	}
	is, err := kind.Build(b.base(id, b.doc.Frames), numbers)
	if err != nil {
		return err
	}
	if a.Id == "" {
		b.title = "Build: " + kind.Label
		part, err := json.Marshal(template.Recipe{ID: id, Kind: kind.Kind, Numbers: numbers, Frames: b.doc.Frames})
		if err != nil {
			return err
		}
		b.add(edit.DraftOp{Kind: "add", Into: "recipes", At: -1, Part: part})
	} else {
		b.title = "Change the numbers: " + kind.Label
		if err := b.putAll("recipes/"+id, object{"numbers": numbers, "frames": b.doc.Frames}); err != nil {
			return err
		}
	}
	return (&cooking{bench: b, was: was, is: is, lists: map[string][]string{}, called: map[string]string{}}).all()
}

// base is what parts are built for: the formats of now, so that what differs is by the
// numbers alone.
func (b *bench) base(id string, frames int64) recipe.Base {
	base := recipe.Base{ID: id, Rate: b.doc.Rate, Frames: frames}
	for _, f := range b.doc.Formats {
		base.Formats = append(base.Formats, recipe.Canvas{ID: f.ID, Size: f.Canvas()})
	}
	return base
}

// freeRecipe is an id that no id begins with.
func (b *bench) freeRecipe(kind string) string {
	used := func(id string) bool {
		has := func(other string) bool { return other == id || strings.HasPrefix(other, id+"-") }
		found := slices.ContainsFunc(b.doc.Recipes, func(r template.Recipe) bool { return r.ID == id }) ||
			slices.ContainsFunc(b.doc.Pockets, func(p template.Pocket) bool { return has(p.ID) })
		b.doc.VisitNodes(func(_, _ string, n *template.Node) { found = found || has(n.ID) })
		return found
	}
	id := kind
	for n := 2; used(id); n++ {
		id = fmt.Sprintf("%s-%d", kind, n)
	}
	return id
}

// cooking turns what a recipe made into what it makes now.
type cooking struct {
	*bench
	was, is recipe.Parts
	lists   map[string][]string // ids in lists by their paths, as they are by then
	called  map[string]string   // new pockets' names by their ids
}

func (k *cooking) all() error {
	if err := k.less(); err != nil {
		return err
	}
	for _, of := range []struct {
		list    string
		was, is []object
	}{{"pockets", k.was.Pockets, k.is.Pockets}, {"layouts", k.was.Layouts, k.is.Layouts}} {
		for i, y := range of.is {
			path := of.list + "/" + idOf(y)
			old := find(of.was, idOf(y))
			switch there := k.there(path); {
			case old == nil && !there:
				into, at, _ := k.slot(of.is, i, of.list)
				if err := k.new(y, into, at); err != nil {
					return err
				}
			case old != nil && there:
				if err := k.change(path, old, y); err != nil {
					return err
				}
			}
		}
	}
	if err := k.layers(k.is.Layers, "layers"); err != nil {
		return err
	}
	return k.rest()
}

// there reports whether a thing that has a path is in the document.
func (k *cooking) there(path string) bool {
	kind, id, _ := strings.Cut(path, "/")
	switch kind {
	case "layers":
		return k.doc.Layer(id) != nil
	case "layouts":
		return k.doc.Layout(id) != nil
	}
	return k.doc.Pocket(id) != nil
}

// less takes away what is not made any more.
func (k *cooking) less() error {
	stays := map[string]bool{}
	each(k.is.Layers, func(y object) { stays[idOf(y)] = true })
	var gone []*template.Layer
	each(k.was.Layers, func(y object) {
		if have := k.doc.Layer(idOf(y)); have != nil && !stays[have.ID] {
			gone = append(gone, have)
		}
	})
	if err := k.takeAway(gone); err != nil {
		return err
	}
	left := map[string]bool{} // pockets that others show
	k.doc.VisitAll(func(_ string, y *template.Layer) {
		if y.Kind == scheme.View && !slices.Contains(gone, y) {
			left[y.Text(scheme.Pocket)] = true
		}
		for _, v := range y.Own {
			left[v.Text] = true
		}
	})
	for _, p := range k.was.Pockets {
		if id := idOf(p); find(k.is.Pockets, id) == nil && k.doc.Pocket(id) != nil && !left[id] {
			if err := k.dropPocket(id); err != nil {
				return err
			}
		}
	}
	return nil
}

// layers goes through what stands in one list, from the bottom up.
func (k *cooking) layers(list []object, home string) error {
	for i, y := range list {
		id := idOf(y)
		old, have := (object)(nil), k.doc.Layer(id)
		each(k.was.Layers, func(o object) {
			if idOf(o) == id {
				old = o
			}
		})
		switch {
		case old == nil && have == nil:
			into, at, ok := k.slot(list, i, home)
			if !ok {
				continue // what it was to be in was taken away
			}
			if err := k.new(y, into, at); err != nil {
				return err
			}
			continue // with all that is in it
		case old == nil || have == nil || have.Kind.Name != old["kind"]:
			// Somebody took it away, or made something else of it.
		default:
			if have.On(scheme.Locked) && !reflect.DeepEqual(without(old), without(y)) {
				return fmt.Errorf("%s is locked; unlock it first", have.Name)
			}
			if err := k.change("layers/"+id, old, y); err != nil {
				return err
			}
		}
		if err := k.layers(inside(y), "layers/"+id+"/layers"); err != nil {
			return err
		}
	}
	return nil
}

// slot is where something new goes: behind what comes before it where that is now, or
// before what comes next, or at the end of the list that is its home.
func (k *cooking) slot(list []object, i int, home string) (into string, at int, ok bool) {
	beside := func(y object, by int) bool {
		path := home
		if strings.HasPrefix(home, "layers") {
			if in, n := k.parentOf(idOf(y)); n >= 0 {
				path = in
			}
		}
		for _, path := range append(sorted(k.lists), path) {
			if n := slices.Index(k.listed(path), idOf(y)); n >= 0 {
				into, at = path, n+by
				return true
			}
		}
		return false
	}
	for j := i - 1; j >= 0; j-- {
		if beside(list[j], 1) {
			return into, at, true
		}
	}
	for j := i + 1; j < len(list); j++ {
		if beside(list[j], 0) {
			return into, at, true
		}
	}
	if n := len(k.act.Layers); home == "layers" && n > 0 && k.act.Id == "" {
		if into, at := k.parentOf(k.act.Layers[n-1]); at >= 0 {
			return into, at + 1, true
		}
	}
	if strings.HasPrefix(home, "layers/") {
		if _, err := k.listAt(home); err != nil {
			return "", 0, false
		}
	}
	return home, len(k.listed(home)), true
}

// listed are the ids in a list as they are by then.
func (k *cooking) listed(path string) []string {
	if ids, ok := k.lists[path]; ok {
		return ids
	}
	ids := []string{}
	switch path {
	case "pockets":
		for _, p := range k.doc.Pockets {
			ids = append(ids, p.ID)
		}
	case "layouts":
		for _, l := range k.doc.Layouts {
			ids = append(ids, l.ID)
		}
	default:
		have, _ := k.listAt(path)
		for _, y := range have {
			ids = append(ids, y.ID)
		}
	}
	kind, _, _ := strings.Cut(path, "/")
	if kind == "motifs" {
		kind = "layers"
	}
	ids = slices.DeleteFunc(ids, func(id string) bool {
		return slices.ContainsFunc(k.ops, func(op edit.DraftOp) bool { return op.Kind == "remove" && op.Path == kind+"/"+id })
	})
	k.lists[path] = ids
	return ids
}

// new adds a thing, with a name that nothing has yet.
func (k *cooking) new(y object, into string, at int) error {
	k.lists[into] = slices.Insert(k.listed(into), at, idOf(y))
	switch into {
	case "pockets":
		name := k.freePocket(y["name"].(string))
		y["name"], k.called[idOf(y)] = name, name
	case "layouts":
	default:
		each([]object{y}, func(in object) {
			pocket, _ := in["pocket"].(string)
			if name, ok := k.called[pocket]; ok { // a view is called what its pocket is
				in["name"] = name
				return
			}
			in["name"] = k.freeName(in["name"].(string))
		})
		k.plan.Chosen = append(k.plan.Chosen, idOf(y))
	}
	part, err := json.Marshal(y)
	k.add(edit.DraftOp{Kind: "add", Into: into, At: at, Part: part})
	return err
}

// change sets the members of a thing that differ.
func (k *cooking) change(path string, was, is object) error {
	names := map[string]bool{}
	for _, o := range []object{was, is} {
		for n := range o {
			names[n] = n != "id" && n != "layers"
		}
	}
	for _, n := range sorted(names) {
		old, v := was[n], is[n]
		if !names[n] || reflect.DeepEqual(old, v) {
			continue
		}
		var err error
		switch {
		case n == "name" && k.nameAt(path) != old:
			// Somebody called it something else.
		case n == "masks":
			err = k.masks(path, old, v)
		case n == "motion":
			err = k.motion(path, asObject(old), asObject(v))
		case asObject(old) != nil && asObject(v) != nil:
			for _, m := range sorted(asObject(v)) {
				if w := asObject(v)[m]; !reflect.DeepEqual(w, asObject(old)[m]) && err == nil {
					err = k.putPart(path+"/"+n+"."+m, w)
				}
			}
		default:
			err = k.putPart(path+"/"+n, v)
		}
		if err != nil {
			return err
		}
	}
	return nil
}

func (k *cooking) nameAt(path string) any {
	kind, id, _ := strings.Cut(path, "/")
	switch {
	case kind == "pockets" && k.doc.Pocket(id) != nil:
		return k.doc.Pocket(id).Name
	case kind == "layers" && k.doc.Layer(id) != nil:
		return k.doc.Layer(id).Name
	}
	return nil
}

// masks adds those that are new and takes away those that are not made any more.
func (k *cooking) masks(path string, was, is any) error {
	y := k.doc.Layer(strings.TrimPrefix(path, "layers/"))
	for _, m := range asObjects(was) {
		has := slices.ContainsFunc(y.Masks(), func(n *template.Node) bool { return n.ID == idOf(m) })
		if at := path + "/masks/" + idOf(m); has && find(asObjects(is), idOf(m)) == nil {
			k.forget(at)
			k.add(edit.DraftOp{Kind: "remove", Path: at})
		}
	}
	for _, m := range asObjects(is) {
		has := slices.ContainsFunc(y.Masks(), func(n *template.Node) bool { return n.ID == idOf(m) })
		if !has && find(asObjects(was), idOf(m)) == nil {
			part, err := json.Marshal(m)
			if err != nil {
				return err
			}
			k.add(edit.DraftOp{Kind: "add", Into: path + "/masks", At: -1, Part: part})
		}
	}
	return nil
}

// motion sets keys one by one where there are as many as before, so that what else was
// done to them stays.
func (k *cooking) motion(path string, was, is object) error {
	names := map[string]bool{}
	for _, o := range []object{was, is} {
		for n := range o {
			names[n] = true
		}
	}
	moves := k.doc.Layer(strings.TrimPrefix(path, "layers/")).Motion
	for _, n := range sorted(names) {
		if reflect.DeepEqual(was[n], is[n]) {
			continue
		}
		at, have := path+"/motion/"+n, moves[n]
		old, now := asObjects(asObject(was[n])["keys"]), asObjects(asObject(is[n])["keys"])
		if have == nil && was[n] != nil {
			continue // somebody took its motion away
		}
		if have == nil || len(old) != len(now) || len(have.Keys) != len(now) {
			if err := k.putPart(at, is[n]); err != nil {
				return err
			}
			continue
		}
		for i, key := range now {
			for _, m := range sorted(key) {
				if reflect.DeepEqual(key[m], old[i][m]) {
					continue
				}
				if err := k.putPart(at+"/"+have.Keys[i].ID+"/"+m, key[m]); err != nil {
					return err
				}
			}
		}
	}
	return nil
}

// rest sets what formats have of their own, of things that are there.
func (k *cooking) rest() error {
	made := map[string]bool{}
	for _, op := range k.ops {
		if op.Kind == "add" {
			var y object
			if json.Unmarshal(op.Part, &y) == nil {
				each([]object{y}, func(in object) { made[idOf(in)] = true })
			}
		}
	}
	for _, f := range k.doc.Formats {
		was, is := k.was.Rest[f.ID], k.is.Rest[f.ID]
		paths := map[string]bool{}
		for _, o := range []map[string]any{was, is} {
			for at := range o {
				paths[at] = true
			}
		}
		for _, at := range sorted(paths) {
			seg := strings.SplitN(at, "/", 3)
			old, v := was[at], is[at]
			kept := k.there(seg[0]+"/"+seg[1]) && !slices.ContainsFunc(k.ops, func(op edit.DraftOp) bool {
				return op.Kind == "remove" && op.Path == seg[0]+"/"+seg[1]
			})
			if !reflect.DeepEqual(old, v) && (kept || made[seg[1]]) {
				if err := k.putPart("formats/"+f.ID+"/rest/"+at, v); err != nil {
					return err
				}
			}
		}
	}
	return nil
}

func (b *bench) putPart(path string, v any) error {
	if v == nil {
		b.add(edit.DraftOp{Kind: "put", Path: path})
		return nil
	}
	part, err := json.Marshal(v)
	b.add(edit.DraftOp{Kind: "put", Path: path, Part: part})
	return err
}

func (b *bench) putAll(path string, members object) error {
	var err error
	for _, n := range sorted(members) {
		err = errors.Join(err, b.putPart(path+"/"+n, members[n]))
	}
	return err
}

func idOf(y object) string { id, _ := y["id"].(string); return id }

func asObject(v any) object { o, _ := v.(object); return o }

func asObjects(v any) (out []object) {
	list, _ := v.([]any)
	for _, m := range list {
		out = append(out, asObject(m))
	}
	return out
}

func inside(y object) []object { return asObjects(y["layers"]) }

// without is a layer without what is in it.
func without(y object) object {
	c := maps.Clone(y)
	delete(c, "layers")
	return c
}

func find(list []object, id string) object {
	if i := slices.IndexFunc(list, func(y object) bool { return idOf(y) == id }); i >= 0 {
		return list[i]
	}
	return nil
}

// each calls f for layers and all that is in them.
func each(list []object, f func(object)) {
	for _, y := range list {
		f(y)
		each(inside(y), f)
	}
}
