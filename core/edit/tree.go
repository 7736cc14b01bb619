package edit

import (
	"bytes"
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"ivypocket/core/scheme"
)

// tree is a document as decoded JSON, in which things are found by their ids and
// changed in place.
type tree map[string]any

// list is a list of things in a tree: a member of an object.
type list struct {
	owner map[string]any
	key   string
}

func (l list) items() []any { v, _ := l.owner[l.key].([]any); return v }

// put sets the list; an empty one is left out, as the document writes it.
func (l list) put(v []any) {
	if len(v) == 0 && !(l.key == "layers" && isDocument(l.owner)) && l.key != "formats" && l.key != "entries" {
		delete(l.owner, l.key)
		return
	}
	if v == nil {
		v = []any{}
	}
	l.owner[l.key] = v
}

func (l list) find(id string) (int, map[string]any) {
	for i, v := range l.items() {
		if m, ok := v.(map[string]any); ok && m["id"] == id {
			return i, m
		}
	}
	return -1, nil
}

// spot is what a path names: a thing in a list, or a member of one.
type spot struct {
	in    list // of the thing
	at    int
	thing map[string]any
	// sort is the thing's, that of layers where it has no lists.
	sort *scheme.Sort
	// member is the way to the member in the thing; nil is the thing itself.
	member []string
}

// sortOf is the sort of things of a root that have lists. Those of motifs are layers.
func sortOf(root string) *scheme.Sort {
	switch root {
	case scheme.Gradients.Plural:
		return scheme.Gradients
	case scheme.SavedMoves.Plural:
		return scheme.SavedMoves
	}
	return scheme.Layers
}

// wayOf is the way in a thing to its list of a name, such as its masks, and what they are;
// nil where things of its sort have no such list.
func wayOf(s *scheme.Sort, name string) ([]string, *scheme.Sort) {
	if _, part := s.Part(name); part != nil {
		return strings.Split(part.At, "."), part.Of
	}
	return nil, nil
}

// keyed are the members of things that are themselves named by what follows.
var keyed = map[string]bool{"motion": true, "formulas": true, "values": true, "rest": true}

// roots are the lists of the document by the names that paths have for them.
func (t tree) root(name string) (list, bool) {
	switch name {
	case "layers", "motifs", "moves", "gradients", "layouts", "pockets", "colours", "recipes", "easings", "cues", "formats", "media":
		return list{t, name}, true
	case "groups":
		sheet, ok := t["sheet"].(map[string]any)
		if !ok {
			sheet = map[string]any{}
			t["sheet"] = sheet
		}
		return list{sheet, "groups"}, true
	}
	return list{}, false
}

// layer finds a layer by id, wherever it stands.
func (t tree) layer(id string) (list, int, map[string]any) {
	var search func(l list) (list, int, map[string]any)
	search = func(l list) (list, int, map[string]any) {
		if i, m := l.find(id); m != nil {
			return l, i, m
		}
		for _, v := range l.items() {
			if m, ok := v.(map[string]any); ok {
				if in, i, found := search(list{m, "layers"}); found != nil {
					return in, i, found
				}
			}
		}
		return list{}, -1, nil
	}
	if in, i, m := search(list{t, "layers"}); m != nil {
		return in, i, m
	}
	return search(list{t, "motifs"})
}

func (t tree) thing(kind, id string) (list, int, map[string]any) {
	switch kind {
	case "layers":
		return t.layer(id)
	case "entries":
		groups, _ := t.root("groups")
		for _, g := range groups.items() {
			if m, ok := g.(map[string]any); ok {
				in := list{m, "entries"}
				if i, e := in.find(id); e != nil {
					return in, i, e
				}
			}
		}
		return list{}, -1, nil
	}
	in, ok := t.root(kind)
	if !ok {
		return list{}, -1, nil
	}
	i, m := in.find(id)
	return in, i, m
}

// spot finds what a path names.
func (t tree) spot(path string) (spot, error) {
	seg := strings.Split(path, "/")
	if len(seg) == 1 {
		return spot{thing: t, at: -1, member: []string{path}}, nil
	}
	var s spot
	s.in, s.at, s.thing = t.thing(seg[0], seg[1])
	if s.thing == nil {
		return s, fmt.Errorf("there is no %s", seg[0]+"/"+seg[1])
	}
	s.sort = sortOf(seg[0])
	rest := seg[2:]
	for len(rest) >= 2 {
		way, of := wayOf(s.sort, rest[0])
		if way == nil {
			break
		}
		in, ok := partOf(s.thing, way)
		if !ok {
			return s, fmt.Errorf("%s has no %s", strings.Join(seg[:len(seg)-len(rest)], "/"), rest[0])
		}
		i, m := in.find(rest[1])
		if m == nil {
			return s, fmt.Errorf("there is no %s in %s", rest[1], strings.Join(seg[:len(seg)-len(rest)+1], "/"))
		}
		s.in, s.at, s.thing, s.sort, rest = in, i, m, of, rest[2:]
	}
	switch {
	case len(rest) == 0:
	case keyed[rest[0]] && len(rest) == 4 && rest[0] == "motion": // a member of a key
		motion, _ := s.thing["motion"].(map[string]any)
		move, _ := motion[rest[1]].(map[string]any)
		i, key := list{move, "keys"}.find(rest[2])
		if key == nil {
			return s, fmt.Errorf("there is no key %s of %s", rest[2], rest[1])
		}
		return spot{in: list{move, "keys"}, at: i, thing: key, member: strings.Split(rest[3], ".")}, nil
	case keyed[rest[0]] && len(rest) > 1:
		s.member = []string{rest[0], strings.Join(rest[1:], "/")}
	case len(rest) == 1:
		s.member = strings.Split(rest[0], ".")
	default:
		return s, fmt.Errorf("there is no %s", path)
	}
	return s, nil
}

// partOf is a list in a thing, by the way to it.
func partOf(thing map[string]any, way []string) (list, bool) {
	for _, k := range way[:len(way)-1] {
		inner, ok := thing[k].(map[string]any)
		if !ok {
			return list{}, false
		}
		thing = inner
	}
	return list{thing, way[len(way)-1]}, true
}

// listAt finds a list of things by its path: "layers", "layers/ring/masks",
// "groups/media/entries".
func (t tree) listAt(path string) (list, error) {
	if l, ok := t.root(path); ok {
		return l, nil
	}
	head, name, ok := cutLast(path)
	if !ok {
		return list{}, fmt.Errorf("there is no list %q", path)
	}
	s, err := t.spot(head)
	if err != nil {
		return list{}, err
	}
	if s.member == nil && strings.HasPrefix(head, "groups/") && name == "entries" {
		return list{s.thing, name}, nil
	}
	if s.member == nil {
		if way, _ := wayOf(s.sort, name); way != nil {
			if l, ok := partOf(s.thing, way); ok {
				return l, nil
			}
		}
	}
	return list{}, fmt.Errorf("there is no list %q", path)
}

func cutLast(s string) (head, tail string, ok bool) {
	i := strings.LastIndexByte(s, '/')
	if i < 0 {
		return s, "", false
	}
	return s[:i], s[i+1:], true
}

// get is what a path names, null when it is not there.
func (s spot) get() (json.RawMessage, error) {
	var v any = s.thing
	for _, k := range s.member {
		m, _ := v.(map[string]any)
		v = m[k]
	}
	return json.Marshal(v)
}

// put sets a member; null takes it out, and what it leaves empty.
func (s spot) put(raw json.RawMessage) error {
	v, err := decoded(raw)
	if err != nil {
		return err
	}
	var set func(m map[string]any, way []string)
	set = func(m map[string]any, way []string) {
		k := way[0]
		if len(way) == 1 {
			if m[k] = v; v == nil {
				delete(m, k)
			}
			return
		}
		inner, ok := m[k].(map[string]any)
		if !ok {
			inner = map[string]any{}
			m[k] = inner
		}
		if set(inner, way[1:]); len(inner) == 0 {
			delete(m, k)
		}
	}
	set(s.thing, s.member)
	return nil
}

// decoded reads JSON with its numbers as they are written.
func decoded(raw json.RawMessage) (any, error) {
	if isNull(raw) {
		return nil, nil
	}
	dec := json.NewDecoder(bytes.NewReader(raw))
	dec.UseNumber()
	var v any
	err := dec.Decode(&v)
	return v, err
}

// insert puts a thing into a list, at its end when at is beyond it.
func (l list) insert(at int, v any) {
	items := slices.Clone(l.items())
	if at < 0 || at > len(items) {
		at = len(items)
	}
	l.put(slices.Insert(items, at, v))
}

func (l list) remove(at int) {
	l.put(slices.Delete(slices.Clone(l.items()), at, at+1))
}
