package template

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"ivypocket/core/scheme"
)

// inUse stands between the id of a use and that of a layer of its motif:
// "gull-two:wing" is the wing of that use. No id of a document has it.
const inUse = ":"

// maxExpanded bounds the layers of a document with all of its uses.
const maxExpanded = 4000

// Expanded is the document with each use of a motif as a group of its own, in
// which the use's values stand, and with the masks and treatments that come along
// with what layers perform. Ids in a use are those of the motif behind the use's:
// "gull-two:wing". The error is of type Faults.
func (d *Document) Expanded() (*Document, error) {
	if len(d.Motifs) == 0 && !d.performing() {
		return d, nil
	}
	e := expander{d: d}
	c := *d
	c.Motifs, c.own = nil, nil
	c.Layers = e.list(d.Layers, "layers", nil, nil)
	if e.faults != nil {
		return nil, e.faults
	}
	c.index()
	return &c, nil
}

type expander struct {
	d      *Document
	count  int
	faults Faults
}

// frame is a use that is being expanded: what its layers are called, which ids
// are the motif's own, and the values of the use.
type frame struct {
	prefix string
	own    map[string]bool
	values map[string]scheme.Value
	// at is the place of the use in the document, by which faults of its values
	// are told.
	at string
}

func (e *expander) list(list []*Node, at string, in *frame, trail []string) []*Node {
	out := make([]*Node, 0, len(list))
	for i, y := range list {
		here := fmt.Sprintf("%s[%d]", at, i)
		out = append(out, e.layer(y, here, in, trail))
	}
	return out
}

// layer is a layer with the uses in it expanded. In a use it has another id, and
// what it names of the motif is the use's own.
func (e *expander) layer(y *Node, at string, in *frame, trail []string) *Node {
	if e.count++; e.count > maxExpanded {
		if e.count == maxExpanded+1 {
			e.faults = append(e.faults, Fault{at, fmt.Sprintf("with all uses of motifs there are more than %d layers", maxExpanded)})
		}
		return y
	}
	c := *y
	if in != nil {
		c.from = at
		c.ID = in.prefix + y.ID
		c.values = e.values(y, "layers/"+y.ID, in)
		for k, part := range y.sort.Parts {
			if part.Of == scheme.Layers {
				continue
			}
			c.parts = slices.Clone(c.parts)
			c.parts[k] = e.things(y.Part(k), "layers/"+y.ID+"/"+part.Name, at+"."+part.At, in)
		}
	}
	inside, place := y.Layers(), at+".layers"
	if y.Kind == scheme.Use {
		id := c.Text(scheme.Motif)
		m := byID(e.d.Motifs, id)
		if m == nil || slices.Contains(trail, id) {
			if m != nil {
				e.faults = append(e.faults, Fault{at + ".motif", "goes in a circle: " + strings.Join(append(trail, id), " uses ")})
			}
			return y
		}
		trail = append(slices.Clone(trail), id)
		values := y.Own
		if in != nil { // what the use around it says counts
			values = joined(values, valuesIn(in.values, "layers/"+y.ID+inUse))
		}
		in = &frame{prefix: c.ID + inUse, own: ids(m), values: values, at: at}
		c.Kind = scheme.Group
		// What the use says counts, else what the motif does.
		both := Node{values: m.values}
		for _, g := range c.values {
			if g.p != scheme.Motif {
				both.set(g.p, g.v)
			}
		}
		c.values = both.values
		c.Motion = joined(m.Motion, c.Motion)
		c.Formulas = joined(m.Formulas, c.Formulas)
		c.Own = nil
		c.parts = slices.Clone(c.parts)
		for k, part := range y.sort.Parts { // so do its own masks and treatments
			if part.Of != scheme.Layers && len(c.Part(k)) == 0 {
				c.parts[k] = m.Part(k)
			}
		}
		inside = m.Layers()
		place = fmt.Sprintf("motifs[%d].layers", slices.Index(e.d.Motifs, m))
		e.unknown(y, m, at)
	}
	c.parts = slices.Clone(c.parts)
	c.parts[scheme.PartLayers] = e.list(inside, place, in, trail)
	e.perform(&c)
	return &c
}

// valuesIn are the values of a use inside a use, by their paths in its motif.
func valuesIn(values map[string]scheme.Value, prefix string) map[string]scheme.Value {
	out := map[string]scheme.Value{}
	for path, v := range values {
		if rest, ok := strings.CutPrefix(path, prefix); ok {
			out["layers/"+rest] = v
		}
	}
	return out
}

// joined is one map over another.
func joined[V any](under, over map[string]V) map[string]V {
	if len(under) == 0 {
		return over
	}
	out := maps.Clone(under)
	maps.Copy(out, over)
	return out
}

// things are a layer's masks, treatments or stops with the use's values.
func (e *expander) things(list []*Node, path, at string, in *frame) []*Node {
	out := make([]*Node, len(list))
	for i, n := range list {
		c := *n
		c.from = fmt.Sprintf("%s[%d]", at, i)
		c.values = e.values(n, path+"/"+n.ID, in)
		c.parts = slices.Clone(c.parts)
		for k, part := range n.sort.Parts {
			c.parts[k] = e.things(n.Part(k), path+"/"+n.ID+"/"+part.Name, c.from+"."+part.At, in)
		}
		out[i] = &c
	}
	return out
}

// values are those of a thing of a motif in one of its uses.
func (e *expander) values(n *Node, path string, in *frame) []given {
	c := *n
	for _, at := range slices.Sorted(maps.Keys(in.values)) {
		name, ok := strings.CutPrefix(at, path+"/")
		if !ok || strings.Contains(name, "/") {
			continue
		}
		p, part, err := n.sort.Target(name)
		if err != nil {
			continue // told by unknown
		}
		v, err := whole(p, part, c.Get(p), in.values[at])
		if err == nil {
			err = p.Check(e.d, v)
		}
		if err != nil {
			e.faults = append(e.faults, placed(in.at+".values."+at, err))
			continue
		}
		c.set(p, v)
	}
	for i, g := range c.values {
		if g.p.Type == scheme.Ref && g.p.To == scheme.Layers && in.own[g.v.Text] {
			c.values = slices.Clone(c.values)
			c.values[i].v = scheme.Says(in.prefix + g.v.Text)
		}
	}
	return c.values
}

// unknown tells of values of a use that its motif has no place for.
func (e *expander) unknown(use, motif *Node, at string) {
	for _, path := range slices.Sorted(maps.Keys(use.Own)) {
		if _, err := e.d.inMotif(motif, path); err != nil {
			e.faults = append(e.faults, placed(at+".values."+path, err))
		}
	}
}

// ids are those of the layers in a motif.
func ids(m *Node) map[string]bool {
	out := map[string]bool{}
	visit(m.Layers(), "", func(_ string, y *Layer) { out[y.ID] = true })
	return out
}

// inMotif finds what a path names in a motif.
func (d *Document) inMotif(m *Node, path string) (Target, error) {
	seg := strings.Split(path, "/")
	if id, of, ok := strings.Cut(seg[min(1, len(seg)-1)], inUse); ok && seg[0] == "layers" {
		if use := d.motifLayer(m, id); use != nil && use.Kind == scheme.Use {
			if inner := byID(d.Motifs, use.Text(scheme.Motif)); inner != nil && inner != m {
				return d.inMotif(inner, "layers/"+of+"/"+strings.Join(seg[2:], "/"))
			}
		}
	}
	if len(seg) < 3 || seg[0] != "layers" || !ids(m)[seg[1]] {
		return Target{}, fmt.Errorf("the motif %s has no such value; write layers/ID/PROPERTY of a layer in it", m.ID)
	}
	t := Target{Part: -1}
	t.Node = d.motifLayer(m, seg[1])
	return d.within(t, seg[2:])
}

func (d *Document) motifLayer(m *Node, id string) (found *Node) {
	visit(m.Layers(), "", func(_ string, y *Layer) {
		if y.ID == id {
			found = y
		}
	})
	return found
}

// useOf finds the use, and the path in its motif, that the path of a value in a
// use names, such as "layers/gull-two:wing/fill".
func (d *Document) useOf(path string) (use, motif *Node, inner string, ok bool) {
	seg := strings.SplitN(path, "/", 3)
	if len(seg) < 3 || seg[0] != "layers" {
		return nil, nil, "", false
	}
	id, of, found := strings.Cut(seg[1], inUse)
	if use = d.Layer(id); !found || use == nil || use.Kind != scheme.Use {
		return nil, nil, "", false
	}
	motif = byID(d.Motifs, use.Text(scheme.Motif))
	return use, motif, "layers/" + of + "/" + seg[2], motif != nil
}

// InUse tells the use, and the path in its motif, that the path of a value in a
// use names.
func (d *Document) InUse(path string) (use, inner string, ok bool) {
	u, _, in, ok := d.useOf(path)
	if !ok {
		return "", "", false
	}
	return u.ID, in, true
}
