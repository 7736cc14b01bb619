package template

import (
	"encoding/json"
	"fmt"
	"maps"
	"reflect"
	"slices"
	"strings"
	"unicode"

	"ivypocket/core/geom"
	"ivypocket/core/scheme"
)

// Paths name every value of a document by ids: "layers/ring/place",
// "layers/ring/masks/iris/feather", "layers/sky/stops/dawn/colour", "gradients/dusk/stops/low/colour",
// "layouts/grid/columns", "pockets/mark/framing.zoom", "cues/poster/at",
// "layers/ring/motion/place/k2/value", each as a whole or, after a point, by one
// of its numbers: "layers/ring/place.x", "layouts/grid/columns.2". A colour's
// path may leave out "/value". The ids of layers are enough wherever they stand.

// step is where a thing stands in another: in which of its parts, at which place.
type step struct{ part, at int }

// place finds a layer by id, and the way to it from the document's layers, or from
// its motifs.
func (d *Document) place(id string) (*Node, []step, []*Node) {
	if way, ok := d.places[id]; ok {
		if n := follow(d.Layers, way); n != nil && n.ID == id {
			return n, way, d.Layers
		}
	}
	var n *Node
	var way []step
	var find func(list []*Node, trail []step) bool
	find = func(list []*Node, trail []step) bool {
		for i, y := range list {
			here := append(trail, step{scheme.PartLayers, i})
			if y.ID == id {
				n, way = y, slices.Clone(here)
				return true
			}
			if find(y.Layers(), here) {
				return true
			}
		}
		return false
	}
	if find(d.Layers, nil) {
		return n, way, d.Layers
	}
	find(d.Motifs, nil)
	return n, way, d.Motifs
}

// follow goes a way, as far as there is one.
func follow(list []*Node, way []step) *Node {
	var n *Node
	for i, s := range way {
		if i > 0 {
			list = n.Part(s.part)
		}
		if s.at >= len(list) {
			return nil
		}
		n = list[s.at]
	}
	return n
}

// index remembers where layers stand, so that each is found at once.
func (d *Document) index() {
	d.places = map[string][]step{}
	var all func(list []*Node, trail []step)
	all = func(list []*Node, trail []step) {
		for i, y := range list {
			here := append(slices.Clone(trail), step{scheme.PartLayers, i})
			d.places[y.ID] = here
			all(y.Layers(), here)
		}
	}
	all(d.Layers, nil)
}

// Target is what a path names.
type Target struct {
	Property *scheme.Property
	Part     int   // one of its numbers, -1 for all
	Node     *Node // whose it is, nil for a thing that is none

	thing    any // pointer to it, where it is no Node
	list     []*Node
	way      []step
	formulas map[string]string
	move     string // motion whose key it is
	key      int
	// use and inner say that it is a value of a use, by its path in the motif.
	use   *Node
	inner string
}

// Formula is the formula of just this property, or number of it; "" is none.
func (t *Target) Formula() string {
	if t.Property == nil {
		return ""
	}
	return t.formulas[t.Property.Of(t.Part)]
}

// Find finds what a path names.
func (d *Document) Find(path string) (Target, error) {
	t := Target{Part: -1}
	if use, motif, inner, ok := d.useOf(path); ok {
		t, err := d.inMotif(motif, inner)
		if err != nil {
			return t, err
		}
		at := strings.TrimSuffix(inner, "."+t.Property.PartName(t.Part))
		_, t.way, t.list = d.place(use.ID)
		t.use, t.inner = use, at
		return t, nil
	}
	seg := strings.Split(path, "/")
	if len(seg) < 2 {
		return t, fmt.Errorf("%q is not the path of a value; write such as layers/ID/PROPERTY, layers/ID/masks/ID/PROPERTY, layouts/ID/PROPERTY or colours/ID", path)
	}
	id, rest := seg[1], seg[2:]
	var s *scheme.Sort
	switch seg[0] {
	case "layers":
		s = scheme.Layers
		t.Node, t.way, t.list = d.place(id)
	case "layouts":
		s = scheme.Layouts
		if i := slices.IndexFunc(d.Layouts, func(n *Node) bool { return n.ID == id }); i >= 0 {
			t.Node, t.list, t.way = d.Layouts[i], d.Layouts, []step{{0, i}}
		}
	case "gradients":
		s = scheme.Gradients
		if i := slices.IndexFunc(d.Gradients, func(n *Node) bool { return n.ID == id }); i >= 0 {
			t.Node, t.list, t.way = d.Gradients[i], d.Gradients, []step{{0, i}}
		}
	case "moves":
		s = scheme.SavedMoves
		if i := slices.IndexFunc(d.Moves, func(n *Node) bool { return n.ID == id }); i >= 0 {
			t.Node, t.list, t.way = d.Moves[i], d.Moves, []step{{0, i}}
		}
	case "colours":
		s = scheme.Colours
		for i := range d.Colours {
			if c := &d.Colours[i]; c.ID == id {
				t.thing, t.formulas = c, c.Formulas
			}
		}
		if rest == nil || len(rest) == 0 {
			rest = []string{"value"}
		}
	case "pockets":
		s = scheme.Pockets
		if p := d.Pocket(id); p != nil {
			t.thing, t.formulas = p, p.Formulas
		}
	case "cues":
		s = scheme.Cues
		for i := range d.Cues {
			if c := &d.Cues[i]; c.ID == id {
				t.thing, t.formulas = c, c.Formulas
			}
		}
	case "formats":
		s = scheme.Formats
		if f := d.Format(id); f != nil {
			t.thing = f
		}
	case "entries":
		s = scheme.Entries
		if e := d.Sheet.Entry(id); e != nil {
			t.thing = e
		}
	default:
		return t, fmt.Errorf("there are no %q; a path begins with layers, layouts, colours, gradients, moves, pockets, cues, formats or entries", seg[0])
	}
	if t.Node == nil && t.thing == nil {
		return t, fmt.Errorf("there is no %s named %q", s.Name, id)
	}
	if t.Node != nil {
		return d.within(t, rest)
	}
	if len(rest) != 1 {
		return t, fmt.Errorf("a %s has no parts; write %s/%s/PROPERTY", s.Name, seg[0], id)
	}
	var err error
	t.Property, t.Part, err = s.Target(rest[0])
	return t, err
}

// within goes on along a path inside a thing.
func (d *Document) within(t Target, rest []string) (Target, error) {
	for {
		n := t.Node
		if len(rest) == 0 {
			return t, fmt.Errorf("the path ends at %s; say which of its properties", n.called())
		}
		t.formulas = n.Formulas
		if len(rest) == 1 {
			var err error
			t.Property, t.Part, err = n.Target(rest[0])
			return t, err
		}
		if rest[0] == "motion" && len(rest) == 4 {
			m := n.Motion[rest[1]]
			if m == nil {
				return t, fmt.Errorf("%s of %s has no keys", rest[1], n.called())
			}
			t.move, t.key = rest[1], slices.IndexFunc(m.Keys, func(k Key) bool { return k.ID == rest[2] })
			if t.key < 0 {
				return t, fmt.Errorf("%s has no key named %q", rest[1], rest[2])
			}
			t.thing, t.formulas = &m.Keys[t.key], nil
			var err error
			t.Property, t.Part, err = scheme.Keys.Target(rest[3])
			if err != nil && strings.HasPrefix(rest[3], "value.") {
				// One of the numbers of a key is one of its property's.
				var of *scheme.Property
				if of, _, err = n.Target(rest[1]); err == nil {
					t.Property = scheme.KeyValue
					var ok bool
					if t.Part, ok = of.Part(rest[3][len("value."):]); !ok {
						err = fmt.Errorf("%s has no %q", of.Name, rest[3][len("value."):])
					}
				}
			}
			return t, err
		}
		k, part := n.sort.Part(rest[0])
		if part == nil {
			return t, fmt.Errorf("%s has no %q", n.called(), rest[0])
		}
		i := slices.IndexFunc(n.Part(k), func(m *Node) bool { return m.ID == rest[1] })
		if i < 0 {
			return t, fmt.Errorf("%s has no %s named %q", n.called(), part.Of.Name, rest[1])
		}
		t.way = append(slices.Clone(t.way), step{k, i})
		t.Node, rest = n.Part(k)[i], rest[2:]
	}
}

// Get is the value that a path names; given is false where the document says
// nothing and the default holds.
func (d *Document) Get(path string) (v scheme.Value, given bool, err error) {
	t, err := d.Find(path)
	if err != nil {
		return v, false, err
	}
	v, given = t.value()
	if t.Part >= 0 {
		full := t.Property.Full(v)
		if t.Part >= len(full) {
			return scheme.Value{}, false, nil
		}
		short := v.Shorter
		if v.Single && short != 0 {
			short = 1<<len(full) - 1
		}
		v = scheme.One(full[t.Part])
		v.Shorter = short >> t.Part & 1
	}
	return v, given, nil
}

func (t *Target) value() (v scheme.Value, given bool) {
	if t.use != nil {
		if v, given = t.use.Own[t.inner]; given {
			return v, true
		}
	}
	if t.thing == nil {
		v, given = t.Node.Value(t.Property)
	} else if f, ok := member(reflect.ValueOf(t.thing).Elem(), t.Property.Name, false); ok {
		if b, err := json.Marshal(f.Interface()); err == nil && string(b) != "null" {
			given = json.Unmarshal(b, &v) == nil
		}
	}
	if !given {
		v = t.Property.Default
	}
	return v, given
}

// Whole is the whole value of what a path names when v is set there: where it
// names one number, the others stay as they are. The error says what is wrong
// with the value.
func (d *Document) Whole(t Target, v scheme.Value) (scheme.Value, error) {
	p := t.Property
	old, _ := t.value()
	v, err := whole(p, t.Part, old, v)
	if err != nil {
		return v, err
	}
	if p.Type == scheme.Whole {
		return v, nil // checked where it stands
	}
	return v, p.Check(d, v)
}

// whole is a value in which one number is set, where part names one; the others
// stay as they were.
func whole(p *scheme.Property, part int, old, v scheme.Value) (scheme.Value, error) {
	if part < 0 {
		return v, nil
	}
	full := slices.Clone(p.Full(old))
	switch {
	case len(v.Numbers) != 1 || v.Wide != 0 || v.Truth:
		return v, fmt.Errorf("is not one number")
	case part >= len(full):
		return v, fmt.Errorf("%s has no value of its own of which one number could be set; set it whole", p.Name)
	}
	full[part] = v.Numbers[0]
	old.Shorter &^= 1 << part
	old.Shorter |= v.Shorter << part
	return scheme.Value{Numbers: full, Shorter: old.Shorter, Wide: old.Wide}, nil
}

// Set gives a property, or one of its numbers, a new value at rest.
func (d *Document) Set(path string, v scheme.Value) error {
	t, err := d.Find(path)
	if err != nil {
		return err
	}
	if v, err = d.Whole(t, v); err != nil {
		return err
	}
	switch {
	case t.use != nil:
		use := d.writable(t)
		use.Own = maps.Clone(use.Own)
		if use.Own == nil {
			use.Own = map[string]scheme.Value{}
		}
		use.Own[t.inner] = v
		return nil
	case t.move != "":
		return d.setKey(t, v)
	case t.thing != nil:
		return put(reflect.ValueOf(t.thing).Elem(), t.Property, v)
	}
	d.writable(t).set(t.Property, v)
	return nil
}

// Drive is Set for what ties, formats and pieces may set.
func (d *Document) Drive(path string, v scheme.Value) error {
	t, err := d.Find(path)
	if err != nil {
		return err
	}
	if t.Property.Plain {
		return fmt.Errorf("%s is the template's own; it is the same in all formats and pieces", t.Property.Name)
	}
	return d.Set(path, v)
}

// setKey sets something of a key, and checks that all keys still go together.
func (d *Document) setKey(t Target, v scheme.Value) error {
	n := d.writable(t)
	m := n.Motion[t.move].clone()
	if err := put(reflect.ValueOf(&m.Keys[t.key]).Elem(), t.Property, v); err != nil {
		return err
	}
	p, part, err := n.Target(t.move)
	if err != nil {
		return err
	}
	if _, err := d.Track(n, p, part, m, geom.Size{W: 100, H: 100}); err != nil {
		return fmt.Errorf("keys%w", err)
	}
	motion := maps.Clone(n.Motion)
	motion[t.move] = m
	n.Motion = motion
	return nil
}

// SetMove gives a property, or one of its numbers, that moves already other keys, measured as its
// keys are. It returns those before. What would be unsound is refused, and the document is of no use then.
func (d *Document) SetMove(path string, m *Move) (was *Move, err error) {
	t, err := d.Find(path)
	if err != nil {
		return nil, err
	}
	name := path[strings.LastIndexByte(path, '/')+1:]
	if t.Node == nil || t.use != nil || t.thing != nil || t.Node.Motion[name] == nil || t.Node.Motion[name].Unit != m.Unit {
		return nil, fmt.Errorf("%s has no keys that are measured so", path)
	}
	n := d.writable(t)
	was = n.Motion[name]
	n.Motion = maps.Clone(n.Motion)
	n.Motion[name] = m.clone()
	l := faultList{}
	if d.validateMove(&l, path, n, name); l.f != nil {
		return nil, l.f
	}
	return was, nil
}

// Still gives a thing a value that nothing else sets: no keys, no formula.
func (d *Document) Still(path string, p *scheme.Property, v scheme.Value) {
	t, err := d.Find(path + "/" + p.Name)
	if err != nil || t.Node == nil {
		return
	}
	n := d.writable(t)
	n.Motion, n.Formulas = maps.Clone(n.Motion), maps.Clone(n.Formulas)
	delete(n.Motion, p.Name)
	delete(n.Formulas, p.Name)
	n.set(p, v)
}

// Leave leaves a value of a thing out.
func (d *Document) Leave(path string, p *scheme.Property) {
	if t, err := d.Find(path + "/" + p.Name); err == nil && t.Node != nil {
		d.writable(t).unset(p)
	}
}

// writable is the thing a target names as this document's own, with all that it
// is in: what other documents share is copied.
func (d *Document) writable(t Target) *Node {
	list := t.list
	var n *Node
	for i, s := range t.way {
		if i > 0 {
			list = n.parts[s.part]
		}
		n = list[s.at]
		if !d.own[n] {
			c := *n
			c.parts = slices.Clone(n.parts)
			for k := range c.parts {
				c.parts[k] = slices.Clone(c.parts[k])
			}
			n = &c
			list[s.at] = n
			if d.own == nil {
				d.own = map[*Node]bool{}
			}
			d.own[n] = true
		}
	}
	return n
}

// member finds what a property's name means in a struct, by the names of JSON.
// With make, what is not there is made, and what others share is copied.
func member(v reflect.Value, name string, make bool) (reflect.Value, bool) {
	head, rest, deeper := strings.Cut(name, ".")
	for i := range v.NumField() {
		tag, _, _ := strings.Cut(v.Type().Field(i).Tag.Get("json"), ",")
		if tag != head {
			continue
		}
		f := v.Field(i)
		if !deeper {
			return f, true
		}
		if f.Kind() == reflect.Pointer {
			switch {
			case f.IsNil() && !make:
				return f, false
			case make:
				c := reflect.New(f.Type().Elem())
				if !f.IsNil() {
					c.Elem().Set(f.Elem())
				} else if err := json.Unmarshal([]byte("{}"), c.Interface()); err != nil {
					return f, false
				}
				f.Set(c)
			}
			f = f.Elem()
		}
		return member(f, rest, make)
	}
	return v, false
}

func put(v reflect.Value, p *scheme.Property, val scheme.Value) error {
	f, ok := member(v, p.Name, true)
	if !ok {
		return fmt.Errorf("there is no %s", p.Name)
	}
	b, err := json.Marshal(val)
	if err != nil {
		return err
	}
	to := reflect.New(f.Type())
	if err := json.Unmarshal(b, to.Interface()); err != nil {
		return fmt.Errorf("is not %s", p.Type)
	}
	f.Set(to.Elem())
	return nil
}

// For returns the document as it stands in a format: with the format's own
// values in place.
func (d *Document) For(f *Format) (*Document, error) {
	if len(f.Rest) == 0 {
		return d, nil
	}
	c := d.Clone()
	// In the order of their names, so that of several faults the same is told.
	for _, path := range slices.Sorted(maps.Keys(f.Rest)) {
		err := c.Drive(path, f.Rest[path])
		if t, e := c.Find(path); e == nil && t.Property.Shared {
			err = fmt.Errorf("%s is motion, which all formats share", t.Property.Name)
		}
		if err != nil {
			return nil, Faults{{"rest." + path, err.Error()}}
		}
	}
	return c, nil
}

// ByKeys is what Driver names where keys take rest's place.
const ByKeys = "its keys"

// Driver names what sets a value in place of its own rest: the entry tied to it,
// the cell it stands in, or keys that take rest's place. "" is nothing.
func (d *Document) Driver(path string) string {
	t, err := d.Find(path)
	if err != nil {
		return ""
	}
	if e := d.EntryOf(path); e != nil {
		return "the entry " + e.Label
	}
	n, p := t.Node, t.Property
	if n == nil || t.thing != nil {
		return ""
	}
	if inCell(n) && (p == scheme.Place || p == scheme.Size || p == scheme.Anchor) {
		return "the cell of the layout " + n.Text(scheme.CellLayout)
	}
	if n.sort == scheme.Layers && p == scheme.Place {
		if g := d.FlowOf(n.ID); g != nil {
			return "the flow of " + g.Name
		}
	}
	if p == scheme.Size && n.sort == scheme.Layers && n.Hugs() {
		return "what is in it"
	}
	if m := n.Motion[p.Name]; m != nil && m.Joins(p) == scheme.Instead {
		return ByKeys
	}
	return ""
}

// EntryOf is the first entry that drives a value, or a part of it; nil is none.
func (d *Document) EntryOf(path string) *Entry {
	for _, e := range d.Sheet.Entries() {
		for _, tie := range e.Ties {
			if d.SamePath(tie.To, path) {
				return e
			}
		}
	}
	return nil
}

// Called is what people call the value of a path, such as "feather of Mark", or "opacity of
// the mask of Mark" where a layer has one of that name, too; "" when there is none.
func (d *Document) Called(path string) string {
	t, err := d.Find(path)
	if err != nil {
		return ""
	}
	what := spelt(t.Property.Of(t.Part))
	seg := strings.Split(path, "/")
	of := seg[1]
	switch seg[0] {
	case "layers":
		of = d.nameOf(of)
		if n := t.Node; n != nil && n.sort != scheme.Layers && scheme.Layers.Property(t.Property.Name) != nil {
			what += " of the " + n.said()
		} else if n != nil && n.sort == scheme.Performances {
			if what += " of the plain move"; d.Move(n.Text(scheme.PerformedMove)) != nil {
				what = strings.TrimSuffix(what, "the plain move") + d.Move(n.Text(scheme.PerformedMove)).Name
			}
		}
	case "pockets":
		of = d.Pocket(of).Name
	case "formats":
		of = d.Format(of).Name
	case "entries":
		of = d.Sheet.Entry(of).Label
	case "gradients":
		of = d.Gradient(of).Name
	case "moves":
		of = "the move " + d.Move(of).Name
	case "colours":
		i := slices.IndexFunc(d.Colours, func(c Colour) bool { return c.ID == of })
		of = d.Colours[i].Name
	}
	return what + " of " + of
}

// said is what people call a part of a layer: a mask, a drop shadow.
func (n *Node) said() string {
	if n.Kind != nil {
		return strings.ToLower(n.Kind.Label)
	}
	return n.sort.Name
}

// nameOf is what people call a layer, also one in a use: "Wing in Second gull".
func (d *Document) nameOf(id string) string {
	use, inner, in := strings.Cut(id, inUse)
	switch y := d.Layer(use); {
	case y == nil:
		return id
	case in:
		return d.nameOf(inner) + " in " + y.Name
	default:
		return y.Name
	}
}

// spelt is a name as people read it: "motionBlur.shutter" is "motion blur shutter".
func spelt(name string) string {
	var b strings.Builder
	for _, r := range name {
		switch {
		case r == '.':
			b.WriteByte(' ')
		case unicode.IsUpper(r):
			b.WriteByte(' ')
			b.WriteRune(unicode.ToLower(r))
		default:
			b.WriteRune(r)
		}
	}
	return b.String()
}

// inCell reports whether a layer stands in a cell of a layout.
// Flows reports whether what is in a group stands in a row or a stack.
func (n *Node) Flows() bool {
	return n.Kind == scheme.Group && n.Text(scheme.FlowWay) != "none"
}

// Hugs reports whether a group is as large as what flows in it.
func (n *Node) Hugs() bool { return n.Flows() && n.On(scheme.FlowHugs) }

// Flowing reports whether a layer takes part in the flow of the group it is in, if that
// has one.
func (n *Node) Flowing() bool {
	return n.Can(scheme.Box) && !n.Fills() && !inCell(n) && !n.On(scheme.Loose) && !n.Given(scheme.BackOf) &&
		n.Formulas["place"] == "" && n.Formulas["place.x"] == "" && n.Formulas["place.y"] == ""
}

// FlowOf is the group in the flow of which a layer stands; nil is none.
func (d *Document) FlowOf(layer string) *Layer {
	var found *Layer
	d.VisitAll(func(_ string, g *Layer) {
		if found != nil || !g.Flows() {
			return
		}
		for _, y := range g.Layers() {
			if y.ID == layer && y.Flowing() {
				found = g
			}
		}
	})
	return found
}

func inCell(n *Node) bool { return n.sort == scheme.Layers && n.Given(scheme.CellLayout) }

// SamePath reports whether one of two paths names all or a part of what the
// other does.
func (d *Document) SamePath(a, b string) bool {
	if a == b {
		return true
	}
	a, b = FullPath(a), FullPath(b)
	return a == b || strings.HasPrefix(a, b+".") && d.partOf(a, b) || strings.HasPrefix(b, a+".") && d.partOf(b, a)
}

// partOf reports whether a path names one of the numbers of what another does.
func (d *Document) partOf(long, short string) bool {
	x, err1 := d.Find(long)
	y, err2 := d.Find(short)
	return err1 == nil && err2 == nil && x.Property == y.Property && x.Part >= 0
}

// FullPath is a path with what it may leave out.
func FullPath(path string) string {
	if strings.HasPrefix(path, "colours/") && strings.Count(path, "/") == 1 {
		return path + "/value"
	}
	return path
}
