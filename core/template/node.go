package template

import (
	"fmt"
	"slices"

	"ivypocket/core/geom"
	"ivypocket/core/scheme"
)

// Node is a thing of a document whose properties are those of a table: a layer,
// a mask, a stop of a gradient, a layout. What the document says of them stands
// here; what it leaves out has the table's default.
type Node struct {
	ID   string
	Name string
	Kind *scheme.Kind // nil for sorts that have no kinds
	// Motion is how properties depart from rest, by their names, shared by all
	// formats.
	Motion map[string]*Move
	// Formulas yield properties from other values, by their names.
	Formulas map[string]string
	// Own are the values that a use has in place of its motif's, by their paths in
	// the motif, such as "layers/wing/fill".
	Own map[string]scheme.Value

	acts   []act   // what it performs, of documents with their moves in place
	along  string  // the performance that it came along with
	added  []Added // what moves it besides its own keys
	from   string  // where it stands in the document, when it came out of a motif
	sort   *scheme.Sort
	values []given   // in the order of the table; shared with clones: replaced, never changed
	parts  [][]*Node // as the sort lists them
}

// given is what the document says of a property.
type given struct {
	p *scheme.Property
	v scheme.Value
}

// Layer is one thing that is drawn; later layers lie above earlier ones.
type Layer = Node

// NewNode is a thing of a sort and, where it has kinds, of a kind.
func NewNode(s *scheme.Sort, k *scheme.Kind, id string) *Node {
	return &Node{ID: id, Kind: k, sort: s, parts: make([][]*Node, len(s.Parts))}
}

// Sort is what the thing is.
func (n *Node) Sort() *scheme.Sort { return n.sort }

// Can reports whether its kind is able to do something.
func (n *Node) Can(c scheme.Can) bool { return n.Kind != nil && n.Kind.Can&c != 0 }

// Value is what the document says of a property; given is false where it says
// nothing and the default holds.
func (n *Node) Value(p *scheme.Property) (v scheme.Value, given bool) {
	for i := range n.values {
		if n.values[i].p == p {
			return n.values[i].v, true
		}
	}
	return v, false
}

// Get is the value of a property, given or default.
func (n *Node) Get(p *scheme.Property) scheme.Value {
	if v, given := n.Value(p); given {
		return v
	}
	return p.Default
}

// Given reports whether the document says something of a property.
func (n *Node) Given(p *scheme.Property) bool {
	for i := range n.values {
		if n.values[i].p == p {
			return true
		}
	}
	return false
}

// Number is the value of a property that is one number.
func (n *Node) Number(p *scheme.Property) float64 { return n.Get(p).Number() }

// Text is the value of a property that is a word, a reference or a colour.
func (n *Node) Text(p *scheme.Property) string { return n.Get(p).Text }

// On is the value of a property that is true or false.
func (n *Node) On(p *scheme.Property) bool { return n.Get(p).On() }

// Values lists what the document says, in the order of the table.
func (n *Node) Values(f func(p *scheme.Property, v scheme.Value)) {
	for i := range n.values {
		f(n.values[i].p, n.values[i].v)
	}
}

// Has reports whether the thing has a property, as it stands.
func (n *Node) Has(p *scheme.Property) bool {
	if n.sort == scheme.SavedMoves && p.Sort() != n.sort { // it moves what layers have that perform it; a path has points of its own
		return p.Sort() == scheme.Layers && p.Join != scheme.Fixed && p.Type.Live() && p.Type != scheme.Points && p.Type != scheme.List
	}
	return p.Sort() == n.sort && p.For(n.Kind) && n.holds(p.With, true) && n.holds(p.Without, false)
}

// holds reports whether a condition is met. One on a property that the thing's
// kind can't have does not count.
func (n *Node) holds(w *scheme.When, want bool) bool {
	if w == nil {
		return true
	}
	q := n.sort.Property(w.Name)
	if q == nil || !q.For(n.Kind) {
		return true
	}
	v, given := n.Value(q)
	if !given {
		v = q.Default
	}
	return w.Holds(v.Text, given) == want
}

// Properties lists the properties it has, in the order of the table.
func (n *Node) Properties() []*scheme.Property {
	var out []*scheme.Property
	for _, p := range n.of().Properties() {
		if n.Has(p) {
			out = append(out, p)
		}
	}
	return out
}

// of is the sort that its properties are of: what is in a saved move are those of layers.
func (n *Node) of() *scheme.Sort {
	if n.sort == scheme.SavedMoves {
		return scheme.Layers
	}
	return n.sort
}

// Target finds the property, and the number of it, that a name such as "place" or
// "place.x" means; part is -1 for all of it.
func (n *Node) Target(name string) (p *scheme.Property, part int, err error) {
	s := n.of()
	if n.sort.Property(name) != nil {
		s = n.sort
	}
	p, part, err = s.Target(name)
	if err != nil && s.Property(name) == nil {
		if p, _, _ := s.Target(cutPart(name)); p == nil {
			return nil, 0, n.unknown(name)
		}
		return nil, 0, err
	}
	if err == nil && !n.Has(p) {
		return nil, 0, n.lacks(p)
	}
	if err == nil && part >= 0 && p.Type == scheme.List && part >= len(n.Get(p).Numbers) {
		return nil, 0, fmt.Errorf("%s has %d numbers; there is no %d", p.Name, len(n.Get(p).Numbers), part+1)
	}
	return p, part, err
}

func cutPart(name string) string {
	for i := len(name) - 1; i > 0; i-- {
		if name[i] == '.' {
			return name[:i]
		}
	}
	return name
}

// called is what the thing is, for people: a layer of the kind "view", a mask.
func (n *Node) called() string {
	if n.Kind != nil {
		return fmt.Sprintf("a %s of the kind %q", n.sort.Name, n.Kind.Name)
	}
	return "a " + n.sort.Name
}

func (n *Node) unknown(name string) error {
	var names []string
	for _, p := range n.Properties() {
		names = append(names, p.Name)
	}
	return fmt.Errorf("%s has no property %q; this one has %s", n.called(), name, listed(names))
}

// lacks says why the thing has not a property that others of its sort have.
func (n *Node) lacks(p *scheme.Property) error {
	if n.sort == scheme.SavedMoves {
		return fmt.Errorf("%s is not moved by saved moves; each layer keeps its own", p.Name)
	}
	if !p.For(n.Kind) {
		var kinds []string
		for _, k := range n.sort.Kinds {
			if p.For(k) && !k.Later {
				kinds = append(kinds, k.Name)
			}
		}
		return fmt.Errorf("%s has no property %q; those of the kind %s have it", n.called(), p.Name, listed(kinds))
	}
	if !n.holds(p.With, true) {
		if p.With.Words == nil {
			return fmt.Errorf("%s goes with %s, which is missing", p.Name, p.With.Name)
		}
		return fmt.Errorf("%s goes with %s being %s", p.Name, p.With.Name, listed(p.With.Words))
	}
	return fmt.Errorf("%s does not go with %s; keep one of them", p.Name, p.Without.Name)
}

func listed(words []string) string {
	s := ""
	for i, w := range words {
		switch {
		case i == 0:
		case i == len(words)-1:
			s += " and "
		default:
			s += ", "
		}
		s += w
	}
	return s
}

// Part lists the things in it, as the sort numbers its parts.
func (n *Node) Part(i int) []*Node {
	if i >= len(n.parts) {
		return nil
	}
	return n.parts[i]
}

// Layers are those in a group, the lowest first.
func (n *Node) Layers() []*Node { return n.Part(scheme.PartLayers) }

// Holds reports whether a layer of an id is in it, however deep.
func (n *Node) Holds(id string) bool {
	for _, in := range n.Layers() {
		if in.ID == id || in.Holds(id) {
			return true
		}
	}
	return false
}

// Masks are what cuts a layer, or says where a treatment is done, in the order in which they join.
func (n *Node) Masks() []*Node { return n.partOf(scheme.Masks) }

// Treatments are what is done to a layer's picture, in order.
func (n *Node) Treatments() []*Node { return n.partOf(scheme.Treatments) }

// Named calls f for every property of a layer, of its masks and of those of its treatments
// that names a thing of a sort; path leads from the layer to what has it, "" for itself.
func (n *Node) Named(to *scheme.Sort, f func(path string, of *Node, p *scheme.Property, id string)) {
	each := func(path string, of *Node) {
		for _, p := range of.sort.Refs(to) {
			if id := of.Text(p); id != "" {
				f(path, of, p, id)
			}
		}
	}
	each("", n)
	for _, m := range n.Masks() {
		each("masks/"+m.ID, m)
	}
	for _, t := range n.Treatments() {
		each("treatments/"+t.ID, t)
		for _, m := range t.Masks() {
			each("treatments/"+t.ID+"/masks/"+m.ID, m)
		}
	}
}

// Highlights are what marks words of a layer.
func (n *Node) Highlights() []*Node { return n.partOf(scheme.Highlights) }

// Axes say where a layer's face stands on axes of its own.
func (n *Node) Axes() []*Node { return n.partOf(scheme.Axes) }

// Stops are the colours of a gradient of the document's, or of one that a layer has of
// its own.
func (n *Node) Stops() []*Node { return n.partOf(scheme.Stops) }

// partOf are the things of a sort in it.
func (n *Node) partOf(s *scheme.Sort) []*Node {
	if i, part := n.sort.Part(s.Plural); part != nil {
		return n.Part(i)
	}
	return nil
}

// Gradient reports whether a layer is filled with a gradient.
func (n *Node) Gradient() bool { return n.Given(scheme.GradientKind) }

// unset leaves a value out.
func (n *Node) unset(p *scheme.Property) {
	n.values = slices.DeleteFunc(slices.Clone(n.values), func(g given) bool { return g.p == p })
}

// set gives a property another value. The values that clones share are left alone.
func (n *Node) set(p *scheme.Property, v scheme.Value) {
	i, found := slices.BinarySearchFunc(n.values, p, func(g given, p *scheme.Property) int { return g.p.Compare(p) })
	values := make([]given, 0, len(n.values)+1)
	values = append(append(values, n.values[:i]...), given{p, v})
	if found {
		i++
	}
	n.values = append(values, n.values[i:]...)
}

// With is the thing as it would be with a value; Without, with nothing said of a
// property.
func (n *Node) With(p *scheme.Property, v scheme.Value) Node {
	c := *n
	c.set(p, v)
	return c
}

func (n *Node) Without(p *scheme.Property) Node {
	c := *n
	c.values = slices.DeleteFunc(slices.Clone(n.values), func(g given) bool { return g.p == p })
	return c
}

// Geometry is a form as an outline of no size yet; its numbers are at rest.
func (n *Node) Geometry() geom.Form {
	f := scheme.LayerForm
	if n.sort == scheme.Masks {
		f = scheme.MaskForm
	}
	g := geom.Form{Kind: geom.Rectangle}
	if !f.Kind.For(n.Kind) {
		return g
	}
	g.Kind = geom.FormKind(n.Text(f.Kind))
	g.Sides = int(n.Number(f.Sides))
	g.Round, g.Inner, g.Head, g.Shaft = n.Number(f.Round), n.Number(f.Inner), n.Number(f.Head), n.Number(f.Shaft)
	g.Path.Closed = !n.On(f.Open)
	v := n.Get(f.Path).Numbers
	for i := 0; i+geom.NodeWidth <= len(v); i += geom.NodeWidth {
		g.Path.Nodes = append(g.Path.Nodes, geom.Node{X: v[i], Y: v[i+1], InX: v[i+2], InY: v[i+3], OutX: v[i+4], OutY: v[i+5]})
	}
	return g
}

// Split is a layout as geometry on a canvas, by its numbers at rest.
func (n *Node) Split(canvas geom.Size) geom.Split {
	px := func(p *scheme.Property) float64 { return n.Get(p).Resolved(canvas).Number() }
	return geom.Split{Canvas: canvas, Rows: n.Get(scheme.Rows).Numbers, Columns: n.Get(scheme.Columns).Numbers, Gutter: px(scheme.Gutter),
		By: geom.GutterBy(n.Text(scheme.GutterBy)), Margin: px(scheme.Margin), Radius: px(scheme.CellRadius)}
}

// Cell is the place of a layer in a layout: its first row and column, and how many of
// each it goes over.
func (n *Node) Cell() (row, column, down, across int) {
	return int(n.Number(scheme.CellRow)), int(n.Number(scheme.CellColumn)), int(n.Number(scheme.CellDown)), int(n.Number(scheme.CellAcross))
}

// Moves reports whether a property changes in time: by keys or by a formula.
func (n *Node) Moves(p *scheme.Property) bool {
	for part := -1; part < max(1, p.Width()) && (part < 0 || p.Parted()); part++ {
		name := p.Name
		if part >= 0 {
			if p.Type == scheme.List {
				break
			}
			name = p.Of(part)
		}
		if n.Motion[name] != nil || n.Formulas[name] != "" || n.performs(name) {
			return true
		}
	}
	return false
}
