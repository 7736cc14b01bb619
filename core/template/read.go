package template

import (
	"bytes"
	"encoding/json"
	"fmt"
	"maps"
	"reflect"
	"slices"
	"strconv"
	"strings"

	"ivypocket/core/scheme"
)

// readNodes reads a list of things of a sort, telling every fault with its place.
func readNodes(s *scheme.Sort, tree any, at string, faults *Faults) []*Node {
	if tree == nil {
		return nil
	}
	list, ok := tree.([]any)
	if !ok {
		*faults = append(*faults, Fault{at, "is " + kindOf(tree) + ", not a list"})
		return nil
	}
	out := make([]*Node, 0, len(list))
	taken := map[string]bool{}
	for _, t := range list {
		if m, ok := t.(map[string]any); ok {
			if id, ok := m["id"].(string); ok {
				taken[id] = true
			}
		}
	}
	for i, t := range list {
		n := readNode(s, t, fmt.Sprintf("%s[%d]", at, i), faults)
		if n.ID == "" && !s.Named && s != scheme.Layouts {
			n.ID = freeID(s.Name[:1], i+1, taken)
		}
		out = append(out, n)
	}
	return out
}

// freeID is an id for a thing that has none: its place, or the next one that is
// not taken.
func freeID(letter string, n int, taken map[string]bool) string {
	for {
		id := letter + strconv.Itoa(n)
		if !taken[id] {
			taken[id] = true
			return id
		}
		n++
	}
}

func readNode(s *scheme.Sort, tree any, at string, faults *Faults) *Node {
	n := NewNode(s, nil, "")
	m, ok := tree.(map[string]any)
	if !ok {
		*faults = append(*faults, Fault{at, "is " + kindOf(tree) + ", not an object"})
		return n
	}
	r := reader{n: n, faults: faults}
	if s.Kinds != nil {
		r.kind(m["kind"], at)
	}
	r.members(m, at, "")
	return n
}

// reader reads one thing.
type reader struct {
	n      *Node
	faults *Faults
}

func (r *reader) fault(at, format string, args ...any) {
	*r.faults = append(*r.faults, Fault{at, fmt.Sprintf(format, args...)})
}

func (r *reader) kind(tree any, at string) {
	s := r.n.sort
	word, _ := tree.(string)
	k := s.Kind(word)
	switch {
	case k == nil:
		r.fault(at+".kind", "%q is not a kind of %s; there are %s", word, s.Name, listed(s.KindNames()))
	case k.Later:
		r.fault(at+".kind", "%q is part of the format, but this version does not draw it yet; leave the %s out", word, s.Name)
	}
	r.n.Kind = k
}

// members reads an object: the thing itself, or, below a prefix, what belongs
// together in it.
func (r *reader) members(m map[string]any, at, prefix string) {
	s := r.n.sort
	for _, k := range slices.Sorted(maps.Keys(m)) {
		here, name, v := join(at, k), prefix+k, m[k]
		if v == nil {
			continue // says nothing
		}
		if prefix == "" {
			switch {
			case k == "id":
				r.text(&r.n.ID, v, here)
				continue
			case k == "name" && s.Named:
				r.text(&r.n.Name, v, here)
				continue
			case k == "kind" && s.Kinds != nil:
				continue
			case k == "motion" && s.Motion:
				r.typed(&r.n.Motion, v, here)
				continue
			case k == "values" && r.n.Kind == scheme.Use:
				r.typed(&r.n.Own, v, here)
				continue
			case k == "formulas" && s.Formulas:
				r.typed(&r.n.Formulas, v, here)
				continue
			}
		}
		if p := s.Property(name); p != nil {
			r.value(p, v, here)
			continue
		}
		if i := slices.IndexFunc(s.Parts, func(p *scheme.Part) bool { return p.At == name }); i >= 0 {
			r.part(i, v, here)
			continue
		}
		if sub, ok := v.(map[string]any); ok && r.opens(name) {
			r.members(sub, here, name+".")
			continue
		}
		r.unknown(name, here, r.opens(name))
	}
}

// opens reports whether properties begin with a name.
func (r *reader) opens(name string) bool {
	return slices.ContainsFunc(r.n.sort.Properties(), func(p *scheme.Property) bool { return strings.HasPrefix(p.Name, name+".") })
}

func (r *reader) text(to *string, v any, at string) {
	text, ok := v.(string)
	if !ok {
		r.fault(at, "is %s, not text", kindOf(v))
		return
	}
	checkText(text, at, r.faults)
	*to = text
}

func (r *reader) typed(to any, v any, at string) {
	before := len(*r.faults)
	checkTree(v, reflect.TypeOf(to).Elem(), at, r.faults)
	if len(*r.faults) > before {
		return
	}
	b, err := json.Marshal(v)
	if err == nil {
		err = json.Unmarshal(b, to)
	}
	if err != nil {
		r.fault(at, "%s", plain(err))
	}
}

func (r *reader) value(p *scheme.Property, tree any, at string) {
	v, err := scheme.FromTree(tree)
	if err != nil {
		*r.faults = append(*r.faults, placed(at, err))
		return
	}
	checkText(v.Text, at, r.faults)
	r.n.set(p, v)
}

func (r *reader) part(i int, tree any, at string) {
	part := r.n.sort.Parts[i]
	r.n.parts[i] = readNodes(part.Of, tree, at, r.faults)
	if r.n.Kind != nil && part.On != 0 && !r.n.Can(part.On) {
		var kinds []string
		for _, k := range r.n.sort.Kinds {
			if k.Can&part.On != 0 {
				kinds = append(kinds, k.Name)
			}
		}
		r.fault(at, "%s has none; those of the kind %s have", r.n.called(), listed(kinds))
	}
}

func (r *reader) unknown(name, at string, group bool) {
	if group {
		r.fault(at, "is not an object; it has %s", listed(r.memberNames(name+".")))
		return
	}
	if slices.Contains(later[r.n.sort.Name], name) {
		r.fault(at, "is part of the format, but this version does not draw it yet; leave it out")
		return
	}
	r.fault(at, "is not part of the format; %s has %s", r.n.called(), listed(r.memberNames(name[:strings.LastIndexByte(name, '.')+1])))
}

// memberNames lists what may stand at a place of the thing.
func (r *reader) memberNames(prefix string) []string {
	s := r.n.sort
	var out []string
	add := func(name string) {
		rest, ok := strings.CutPrefix(name, prefix)
		head, _, _ := strings.Cut(rest, ".")
		if ok && !slices.Contains(out, head) {
			out = append(out, head)
		}
	}
	if prefix == "" {
		out = append(out, "id")
		if s.Named {
			add("name")
		}
		if s.Kinds != nil {
			add("kind")
		}
	}
	for _, p := range s.Properties() {
		if p.For(r.n.Kind) {
			add(p.Name)
		}
	}
	for _, p := range s.Parts {
		if p.On == 0 || r.n.Can(p.On) {
			add(p.At)
		}
	}
	if prefix == "" && r.n.Kind == scheme.Use {
		add("values")
	}
	if prefix == "" && s.Motion {
		add("motion")
	}
	if prefix == "" && s.Formulas {
		add("formulas")
	}
	return out
}

// MarshalJSON writes the thing as it is read, its members in the order of the
// table.
func (n *Node) MarshalJSON() ([]byte, error) {
	var root object
	root.put("id", n.ID)
	if n.sort.Named {
		root.put("name", n.Name)
	}
	if n.Kind != nil {
		root.put("kind", n.Kind.Name)
	}
	n.Values(func(p *scheme.Property, v scheme.Value) { root.put(p.Name, v) })
	for i, p := range n.sort.Parts {
		if len(n.Part(i)) > 0 {
			root.put(p.At, n.Part(i))
		}
	}
	if len(n.Own) > 0 {
		root.put("values", n.Own)
	}
	if len(n.Motion) > 0 {
		root.put("motion", n.Motion)
	}
	if len(n.Formulas) > 0 {
		root.put("formulas", n.Formulas)
	}
	return json.Marshal(&root)
}

// object is a JSON object whose members keep their order. Points in names open
// further objects.
type object struct {
	names  []string
	values []any
}

func (o *object) put(name string, v any) {
	head, rest, deeper := strings.Cut(name, ".")
	if !deeper {
		o.names, o.values = append(o.names, name), append(o.values, v)
		return
	}
	i := slices.Index(o.names, head)
	if i < 0 {
		i = len(o.names)
		o.names, o.values = append(o.names, head), append(o.values, &object{})
	}
	o.values[i].(*object).put(rest, v)
}

func (o *object) MarshalJSON() ([]byte, error) {
	var b bytes.Buffer
	b.WriteByte('{')
	for i, name := range o.names {
		if i > 0 {
			b.WriteByte(',')
		}
		fmt.Fprintf(&b, "%q:", name)
		v, err := json.Marshal(o.values[i])
		if err != nil {
			return nil, err
		}
		b.Write(v)
	}
	b.WriteByte('}')
	return b.Bytes(), nil
}
