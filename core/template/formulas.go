package template

import (
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"

	"ivypocket/core/formula"
	"ivypocket/core/scheme"
	"ivypocket/core/timing"
)

// Name is something formulas read or yield: a value of the document, a layer's
// box, or a number that comes from outside the document.
type Name struct {
	// Head is "value", "box", "entry", "media", "canvas", "cell", "time", "cells",
	// which stands for all that a layout computes, "fills", which stands for the
	// size of a layer that fills its group, "words" of what a layer says, "set", which
	// stands for how that is set, or "behind" for the place and size of a backing.
	Head string
	// At is whose value it is, such as "layers/ring/masks/iris", the id of a layer,
	// entry or pocket, or by how many frames a time is shifted.
	At string
	// Property is its name, or what is read of the rest, such as "w"; Part one of
	// its numbers, -1 for all.
	Property string
	Part     int
}

func (n Name) String() string {
	s := n.Head
	switch {
	case n.Head == "value":
		s = n.At + "/" + n.Property
		if n.Part >= 0 {
			s += "." + fmt.Sprint(n.Part+1)
		}
		return s
	case n.At != "":
		s += "('" + n.At + "')"
	}
	if n.Property != "" {
		s += "." + n.Property
	}
	return s
}

// Names with few members.
var (
	wordsNames  = []string{"w", "h", "left", "right", "top", "bottom", "lines", "size"}
	boxNames    = []string{"w", "h", "left", "right", "top", "bottom"}
	sizeNames   = []string{"w", "h"}
	mediaNames  = []string{"w", "h", "frames", "seconds"}
	timeNames   = []string{"frames", "seconds", "share"}
	entryHeads  = "layer('…'), layout('…'), value('PATH'), entry('…'), media('…'), colour('…'), progress('…'), self, canvas, cell and time"
	memberUnits = map[string]formula.Unit{"words.lines": formula.Number, "media.frames": formula.Frames, "media.seconds": formula.Seconds,
		"time.frames": formula.Frames, "time.seconds": formula.Seconds, "time.share": formula.Number}
)

// scope resolves names as one thing sees them.
type scope struct {
	d    *Document
	self string // its path
	node *Node  // nil for what is none
	// settled says that the formula is for what does not move.
	settled bool
	slot    func(Name) int
	read    []Name
}

func (s *scope) ref(n Name, k formula.Kind, u formula.Unit) (formula.Ref, error) {
	if !slices.Contains(s.read, n) {
		s.read = append(s.read, n)
	}
	return formula.Ref{Slot: s.slot(n), Kind: k, Unit: u}, nil
}

func (s *scope) member(head, id string, path, names []string) (formula.Ref, error) {
	if len(path) != 1 || !slices.Contains(names, path[0]) {
		return formula.Ref{}, fmt.Errorf("%s has %s", head, strings.Join(names, ", "))
	}
	u, ok := memberUnits[head+"."+path[0]]
	if !ok {
		u = formula.Px
	}
	return s.ref(Name{head, id, path[0], -1}, formula.NumberKind, u)
}

// Ref implements formula.Scope.
func (s *scope) Ref(head, id string, path []string) (formula.Ref, error) {
	if s.settled && (head == "time" || head == "cell" || len(path) > 0 && (path[0] == "box" || path[0] == "words")) {
		return formula.Ref{}, fmt.Errorf("%s changes in time, and what this formula yields is settled once", head)
	}
	switch head {
	case "canvas":
		return s.member(head, "", path, sizeNames)
	case "time":
		return s.member(head, s.late(), path, timeNames)
	case "cell":
		if s.node == nil || !inCell(s.node) {
			return formula.Ref{}, fmt.Errorf("this layer stands in no cell")
		}
		return s.member(head, s.node.ID, path, sizeNames)
	case "media":
		if s.d.Pocket(id) == nil {
			return formula.Ref{}, fmt.Errorf("there is no pocket named %q", id)
		}
		return s.member(head, id, path, mediaNames)
	case "colour":
		if path != nil {
			return formula.Ref{}, fmt.Errorf("a colour is a value; write colour('%s')", id)
		}
		return s.value("colours/" + id + "/value")
	case "value":
		if path != nil {
			return formula.Ref{}, fmt.Errorf("write the whole path in quotes, such as value('layers/ring/place.x')")
		}
		return s.value(s.inMotif(FullPath(id)))
	case "entry":
		return s.entry(id, path)
	case "progress":
		return s.progress(id, path)
	case "self":
		if len(path) > 0 && path[0] == "box" {
			return s.box(s.node, path)
		}
		if len(path) > 1 && path[0] == "words" {
			return s.words(s.node, path)
		}
		return s.value(s.self + "/" + strings.Join(path, "."))
	case "layout":
		return s.value("layouts/" + id + "/" + strings.Join(path, "."))
	case "layer":
		id = s.near(id)
		y := s.d.Layer(id)
		if y == nil {
			return formula.Ref{}, fmt.Errorf("there is no layer named %q", id)
		}
		if len(path) > 0 && path[0] == "box" {
			return s.box(y, path)
		}
		if len(path) > 1 && path[0] == "words" {
			return s.words(y, path)
		}
		at := "layers/" + id
		for len(path) > 2 && parts(path[0]) {
			at, path = at+"/"+path[0]+"/"+path[1], path[2:]
		}
		return s.value(at + "/" + strings.Join(path, "."))
	}
	return formula.Ref{}, fmt.Errorf("there is no %q; there are %s", head, entryHeads)
}

// parts reports whether layers, or parts of theirs, have parts of a name.
func parts(name string) bool {
	if _, p := scheme.Layers.Part(name); p != nil {
		return p.Of != scheme.Layers
	}
	for _, p := range scheme.Layers.Parts {
		if _, in := p.Of.Part(name); in != nil && p.Of != scheme.Layers {
			return true
		}
	}
	return false
}

// near is the id of a layer as it is meant by a formula: in a use of a motif the
// motif's own layers come first.
func (s *scope) near(id string) string {
	part := strings.Split(s.self, "/")
	if part[0] != "layers" {
		return id
	}
	for in := part[1]; ; {
		i := strings.LastIndex(in, inUse)
		if i < 0 {
			return id
		}
		if in = in[:i]; s.d.Layer(in+inUse+id) != nil {
			return in + inUse + id
		}
	}
}

// inMotif is a path as it is meant by a formula.
func (s *scope) inMotif(path string) string {
	if part := strings.SplitN(path, "/", 3); part[0] == "layers" && len(part) == 3 {
		return "layers/" + s.near(part[1]) + "/" + part[2]
	}
	return path
}

// late is how much later than the template the time of the formula's layer is, ""
// when it is not.
func (s *scope) late() string {
	part := strings.Split(s.self, "/")
	if part[0] != "layers" {
		return ""
	}
	if t := s.d.Late(part[1]); t.N != 0 {
		return t.String()
	}
	return ""
}

func (s *scope) box(y *Node, path []string) (formula.Ref, error) {
	if y == nil || !y.Can(scheme.Box) {
		what := "this"
		if y != nil {
			what = "a " + y.Kind.Name
		}
		return formula.Ref{}, fmt.Errorf("%s has no box", what)
	}
	return s.member("box", y.ID, path[1:], boxNames)
}

// words reads how large the words of a layer are, and where they stand.
func (s *scope) words(y *Node, path []string) (formula.Ref, error) {
	if y == nil || !y.Can(scheme.Lettered) {
		return formula.Ref{}, fmt.Errorf("only layers of words and counters have words.%s", strings.Join(path[1:], "."))
	}
	return s.member("words", y.ID, path[1:], wordsNames)
}

func (s *scope) entry(id string, path []string) (formula.Ref, error) {
	e := s.d.Sheet.Entry(id)
	switch {
	case e == nil:
		return formula.Ref{}, fmt.Errorf("the sheet has no entry named %q", id)
	case path != nil:
		return formula.Ref{}, fmt.Errorf("an entry is a value; write entry('%s')", id)
	case asks[e.Kind].formula == nil:
		return formula.Ref{}, fmt.Errorf("the entry %q is of the kind %s and has no value for formulas", id, e.Kind)
	}
	k, u, words, _ := asks[e.Kind].formula(e)
	r, err := s.ref(Name{"entry", id, "", -1}, k, u)
	r.Words = words
	return r, err
}

// progress reads a progress track: how far it is, times what it goes to. It is a number of
// whatever is needed where somebody has said what it goes to.
func (s *scope) progress(id string, path []string) (formula.Ref, error) {
	id = s.near(id)
	y := s.d.Layer(id)
	switch {
	case y == nil || y.Kind != scheme.Track:
		return formula.Ref{}, fmt.Errorf("there is no progress track named %q", id)
	case path != nil:
		return formula.Ref{}, fmt.Errorf("a progress track is a value; write progress('%s')", id)
	}
	r, err := s.value("layers/" + id + "/" + scheme.Progress.Name)
	if err != nil {
		return r, err
	}
	by, err := s.value("layers/" + id + "/" + scheme.Goal.Name)
	r.Times = by.Slot + 1
	if e := s.d.EntryOf("layers/" + id + "/" + scheme.Goal.Name); e != nil && asks[e.Kind].formula != nil {
		_, r.Unit, _, _ = asks[e.Kind].formula(e)
	} else if y.Given(scheme.Goal) {
		r.Unit = formula.Free
	}
	return r, err
}

// value reads a value of the document.
func (s *scope) value(path string) (formula.Ref, error) {
	t, err := s.d.Find(path)
	if err != nil {
		return formula.Ref{}, err
	}
	p := t.Property
	if err := readable(p, t.Part); err != nil {
		return formula.Ref{}, err
	}
	if t.Node != nil && t.thing == nil && p.Join != scheme.Fixed && s.settled && t.Node.Moves(p) {
		return formula.Ref{}, fmt.Errorf("%s moves, and what this formula yields is settled once", path)
	}
	if v, given := t.value(); s.settled && !given && v.Numbers == nil && v.Text == "" && t.formulas[p.Of(t.Part)] == "" {
		return formula.Ref{}, fmt.Errorf("%s is not given in the document, and what this formula yields is settled before anything stands", path)
	}
	k, _ := p.Formula()
	if p.Type == scheme.List {
		k = formula.NumberKind
	}
	r, err := s.ref(t.name(path), k, p.Unit)
	r.Words = p.Words
	return r, err
}

// readable says why a property is not one number, or a colour.
func readable(p *scheme.Property, part int) error {
	if _, ok := p.Formula(); !ok && p.Type != scheme.List {
		return fmt.Errorf("%s is no number, colour, word or switch; formulas can't reach it", p.Name)
	}
	if part < 0 && p.Parted() && !p.Alike {
		name := "1"
		if p.Type != scheme.List {
			name = p.Parts[0]
		}
		return fmt.Errorf("%s is several numbers; name one of them, such as %s.%s", p.Name, p.Name, name)
	}
	return nil
}

// name is the target as formulas name it. Where one number stands for all, that
// is the first.
func (t *Target) name(path string) Name {
	at := path[:strings.LastIndexByte(path, '/')]
	part := t.Part
	if part < 0 && t.Property.Parted() {
		part = 0
	}
	return Name{"value", at, t.Property.Name, part}
}

// Step is one thing to compute at each instant: a formula, a layer's box that a
// formula reads, or the cells of a layout that changes. Steps come in an order in
// which each finds what it reads.
type Step struct {
	Target   Name
	Property *scheme.Property // of a formula's target
	All      bool             // one number stands for all of the property's
	Program  *formula.Program // nil for a box and for cells
	Slot     int

	path  string // of the formula in the document
	reads []Name
	named []Name // those of them that stand in its text
}

// formulaAt is a formula and where it stands.
type formulaAt struct {
	at, path, name, source string
	node                   *Node
}

// formulasOf lists all formulas of the document, in its order.
func (d *Document) formulasOf() []formulaAt {
	var out []formulaAt
	add := func(at, path string, n *Node, formulas map[string]string) {
		for _, name := range slices.Sorted(maps.Keys(formulas)) {
			out = append(out, formulaAt{at + ".formulas." + name, path, name, formulas[name], n})
		}
	}
	for i, c := range d.Colours {
		add(fmt.Sprintf("colours[%d]", i), "colours/"+c.ID, nil, c.Formulas)
	}
	for i, p := range d.Pockets {
		add(fmt.Sprintf("pockets[%d]", i), "pockets/"+p.ID, nil, p.Formulas)
	}
	for i, c := range d.Cues {
		add(fmt.Sprintf("cues[%d]", i), "cues/"+c.ID, nil, c.Formulas)
	}
	// Places are spelt out on the way to formulas alone: a document has thousands
	// of things, and few formulas.
	var all func(list []*Node, at, path string)
	all = func(list []*Node, at, path string) {
		for i, n := range list {
			if !n.formulated() {
				continue
			}
			here, name := fmt.Sprintf("%s[%d]", at, i), path+"/"+n.ID
			if n.from != "" {
				here = n.from
			}
			add(here, name, n, n.Formulas)
			for k, part := range n.sort.Parts {
				if part.Of == scheme.Layers {
					all(n.Part(k), here+"."+part.At, "layers")
				} else {
					all(n.Part(k), here+"."+part.At, name+"/"+part.Name)
				}
			}
		}
	}
	all(d.Layouts, "layouts", "layouts")
	all(d.Layers, "layers", "layers")
	return out
}

// formulated reports whether a thing or what is in it has formulas.
func (n *Node) formulated() bool {
	if len(n.Formulas) > 0 {
		return true
	}
	for _, list := range n.parts {
		if slices.ContainsFunc(list, (*Node).formulated) {
			return true
		}
	}
	return false
}

// Formulas makes all formulas ready: those for what is settled once, and those
// for what may change from instant to instant. slot says where the number of a
// name stands, or the first of a colour's four; it is asked for every name that
// is read or yielded. The error is of type Faults.
func (d *Document) Formulas(slot func(Name) int) (settled, moving []Step, err error) {
	var faults Faults
	nodes := map[Name]*Step{}
	var order []Name
	for _, f := range d.formulasOf() {
		st, err := d.step(f, slot)
		if err != nil {
			faults = append(faults, placed(f.at, err))
			continue
		}
		for part := range max(1, st.Property.Width()) {
			n := st.Target
			if st.All && st.Property.Parted() {
				n.Part = part
			} else if part > 0 {
				break
			}
			if other := nodes[n]; other != nil {
				faults = append(faults, Fault{f.at, "yields what " + other.path + " yields too; leave one of them out"})
				break
			}
			nodes[n] = st
		}
		order = append(order, st.Target)
	}
	if faults != nil {
		return nil, nil, faults
	}
	d.computed(nodes, order, slot)
	steps, err := inOrder(nodes, order)
	if err != nil {
		return nil, nil, err
	}
	for _, st := range steps {
		if st.Property != nil && st.Property.Join == scheme.Fixed {
			settled = append(settled, st)
		} else {
			moving = append(moving, st)
		}
	}
	return settled, moving, nil
}

// step makes one formula ready.
func (d *Document) step(f formulaAt, slot func(Name) int) (*Step, error) {
	path := f.path + "/" + f.name
	t, err := d.Find(path)
	if err != nil {
		return nil, err
	}
	p := t.Property
	k, ok := p.Formula()
	switch {
	case p.Type == scheme.List && t.Part >= 0:
		k = formula.NumberKind
	case !ok:
		return nil, fmt.Errorf("%s is no number, colour, word or switch; formulas can't reach it", p.Name)
	}
	if err := readable(p, t.Part); err != nil {
		return nil, err
	}
	if p.Plain {
		return nil, fmt.Errorf("%s is settled by the template's designer and not by a formula", p.Name)
	}
	s := &scope{d: d, self: f.path, node: f.node, settled: p.Join == scheme.Fixed, slot: slot}
	prog, err := formula.Compile(f.source, formula.Want{Kind: k, Unit: p.Unit, Words: p.Words}, s)
	if err != nil {
		return nil, err
	}
	n := t.name(path)
	return &Step{Target: n, Property: p, All: t.Part < 0 && p.Alike, Program: prog, Slot: slot(n), path: f.at, reads: s.read, named: s.read}, nil
}

// computed adds what is computed without a formula: the boxes that are read, which
// depend on their layer's place, size and scale, and the cells of layouts that
// change, on which the place and size of what stands in them depend.
func (d *Document) computed(nodes map[Name]*Step, order []Name, slot func(Name) int) {
	d.settings(nodes)
	fills := d.filling()
	in := map[string]string{} // the group in the flow of which a layer stands
	var groups []*Layer
	d.Visit(func(_ string, g *Layer) {
		if !g.Flows() {
			return
		}
		groups = append(groups, g)
		for _, y := range g.Layers() {
			if y.Flowing() {
				in[y.ID] = g.ID
			}
		}
	})
	// What has to be known before a layer's place and size are.
	var cells func(layer string) []Name
	cells = func(layer string) []Name {
		y := d.Layer(layer)
		var out []Name
		if y != nil && y.Given(scheme.BackOf) {
			return []Name{{"behind", layer, "", -1}}
		}
		if y != nil && y.Hugs() {
			out = append(out, Name{"flow", layer, "", -1})
		}
		if g := in[layer]; g != "" {
			out = append(out, Name{"flow", g, "", -1})
		}
		if out != nil {
			return out
		}
		if fills[layer] {
			return []Name{{"fills", layer, "", -1}}
		}
		if y == nil || !inCell(y) {
			return nil
		}
		if l := d.Layout(y.Text(scheme.CellLayout)); l != nil && l.Changes() {
			return []Name{{"cells", l.ID, "", -1}}
		}
		return nil
	}
	for id := range fills {
		n := Name{"fills", id, "", -1}
		_, way, list := d.place(id)
		owner := follow(list, way[:len(way)-1]).ID
		nodes[n] = &Step{Target: n, Slot: -1, path: "layers/" + id, reads: append(cells(owner), Name{"value", "layers/" + owner, scheme.Size.Name, 0}, Name{"value", "layers/" + owner, scheme.Size.Name, 1})}
	}
	for _, g := range groups {
		n := Name{"flow", g.ID, "", -1}
		st := &Step{Target: n, Slot: -1, path: "layers/" + g.ID}
		for _, p := range []*scheme.Property{scheme.FlowGap, scheme.FlowWrap, scheme.FlowPad} {
			st.reads = append(st.reads, Name{"value", "layers/" + g.ID, p.Name, -1})
		}
		if !g.Hugs() {
			st.reads = append(st.reads, cells(g.ID)...)
			st.reads = append(st.reads, Name{"value", "layers/" + g.ID, scheme.Size.Name, 0}, Name{"value", "layers/" + g.ID, scheme.Size.Name, 1})
		}
		for _, y := range g.Layers() {
			if !y.Flowing() {
				continue
			}
			if y.Hugs() {
				st.reads = append(st.reads, Name{"flow", y.ID, "", -1})
			}
			if y.Can(scheme.Lettered) {
				st.reads = append(st.reads, Name{"set", y.ID, "", -1})
			}
			st.reads = append(st.reads, Name{"value", "layers/" + y.ID, scheme.Hidden.Name, -1}, Name{"value", "layers/" + y.ID, scheme.Size.Name, 0}, Name{"value", "layers/" + y.ID, scheme.Size.Name, 1})
		}
		nodes[n] = st
	}
	for _, n := range order {
		st := nodes[n]
		for _, r := range append(slices.Clone(st.reads), n) {
			switch {
			case r.Head == "cell":
				st.reads = append(st.reads, cells(r.At)...)
			case r.Head == "value" && (r.Property == scheme.Place.Name || r.Property == scheme.Size.Name || r.Property == scheme.Radius.Name):
				if id, ok := strings.CutPrefix(r.At, "layers/"); ok {
					for _, c := range cells(id) {
						// A flow says where a layer stands, by how large it is.
						if r.Property == scheme.Place.Name || c.Head != "flow" || c.At != in[id] {
							st.reads = append(st.reads, c)
						}
					}
				}
			case r.Head == "box" && nodes[r] == nil:
				nodes[r] = &Step{Target: r, Slot: slot(r), path: st.path, reads: d.standing(r.At, cells)}
			case r.Head == "words" && nodes[r] == nil:
				nodes[r] = &Step{Target: r, Slot: slot(r), path: st.path, reads: []Name{{"set", r.At, "", -1}}}
				switch r.Property {
				case "lines", "size":
				case "w", "h": // wherever they stand, so that what stands in the same flow may be as long
					nodes[r].reads = append(nodes[r].reads, Name{"value", "layers/" + r.At, scheme.Scale.Name, 0}, Name{"value", "layers/" + r.At, scheme.Scale.Name, 1})
				default:
					nodes[r].reads = append(nodes[r].reads, d.standing(r.At, cells)...)
				}
			}
		}
	}
	for n, st := range nodes {
		switch n.Head {
		case "set":
			for _, r := range slices.Clone(st.reads) {
				if r.Property != scheme.Size.Name {
					continue
				}
				for _, c := range cells(strings.TrimPrefix(r.At, "layers/")) {
					if c.Head != "flow" { // which says where they stand, by how large they are
						st.reads = append(st.reads, c)
					}
				}
			}
		case "behind":
			of := d.Layer(n.At).Text(scheme.BackOf)
			st.reads = append(st.reads, d.standing(of, cells)...)
			st.reads = append(st.reads, Name{"set", of, "", -1})
		}
	}
	for _, l := range d.Layouts {
		n := Name{"cells", l.ID, "", -1}
		if !l.Changes() {
			continue
		}
		st := &Step{Target: n, Slot: -1, path: "layouts/" + l.ID}
		for _, t := range order {
			if t.Head == "value" && t.At == "layouts/"+l.ID {
				st.reads = append(st.reads, t)
			}
		}
		nodes[n] = st
	}
}

// standing is what has to be known before it is where a layer stands, and how large it is.
func (d *Document) standing(id string, cells func(layer string) []Name) []Name {
	out := slices.Clone(cells(id))
	for _, p := range []*scheme.Property{scheme.Place, scheme.Size, scheme.Scale} {
		for c := range 2 {
			out = append(out, Name{"value", "layers/" + id, p.Name, c})
		}
	}
	return out
}

// settings adds how words are set, which depends on their numbers and their box, and the
// backings behind them. Words that keep one size are set together.
func (d *Document) settings(nodes map[Name]*Step) {
	together := map[string]*Step{}
	d.Visit(func(_ string, y *Layer) {
		if y.Text(scheme.BackOf) != "" && y.Kind == scheme.Shape {
			n := Name{"behind", y.ID, "", -1}
			st := &Step{Target: n, Slot: -1, path: "layers/" + y.ID}
			for _, p := range []*scheme.Property{scheme.BackPadding, scheme.BackLeast, scheme.BackMost} {
				for c := range p.Width() {
					st.reads = append(st.reads, Name{"value", "layers/" + y.ID, p.Name, c})
				}
			}
			nodes[n] = st
		}
		if !y.Can(scheme.Lettered) {
			return
		}
		n := Name{"set", y.ID, "", -1}
		st := together[y.Text(scheme.Wording.Together)]
		if st == nil {
			st = &Step{Target: n, Slot: -1, path: "layers/" + y.ID}
			if g := y.Text(scheme.Wording.Together); g != "" {
				together[g] = st
			}
		}
		for _, p := range scheme.Layers.Properties() {
			if p.Section == "Words" || p.Section == "Fitting" || p.Section == "Figures" || p == scheme.Hidden {
				st.reads = append(st.reads, Name{"value", "layers/" + y.ID, p.Name, -1})
			}
		}
		st.reads = append(st.reads, Name{"value", "layers/" + y.ID, scheme.Size.Name, 0}, Name{"value", "layers/" + y.ID, scheme.Size.Name, 1})
		nodes[n] = st
	})
}

// filling finds the layers that fill a group whose size changes in time.
func (d *Document) filling() map[string]bool {
	out := map[string]bool{}
	var among func(list []*Node, changes bool)
	among = func(list []*Node, changes bool) {
		for _, y := range list {
			own := y.Moves(scheme.Size) || y.Hugs()
			switch {
			case inCell(y):
				l := d.Layout(y.Text(scheme.CellLayout))
				own = own || l != nil && l.Changes()
			case changes && y.Fills():
				out[y.ID], own = true, true
			}
			among(y.Layers(), own)
		}
	}
	among(d.Layers, false)
	return out
}

// Fills reports whether a layer is as large as the canvas or the group it is in.
func (n *Node) Fills() bool {
	return n.Can(scheme.Box) && !n.Given(scheme.Size) && !inCell(n) && !n.Given(scheme.OwnMedia) && !n.Given(scheme.BackOf) && !n.Hugs()
}

// Changes reports whether a thing has keys or formulas of its own.
func (n *Node) Changes() bool { return len(n.Motion) > 0 || len(n.Formulas) > 0 }

// inOrder sorts steps so that each finds what it reads.
func inOrder(nodes map[Name]*Step, order []Name) ([]Step, error) {
	// Cells and what fills groups are computed whether or not a formula reads them.
	all := slices.Clone(order)
	var cells []Name
	for n := range nodes {
		switch n.Head {
		case "cells", "fills", "flow", "set", "behind":
			cells = append(cells, n)
		}
	}
	slices.SortFunc(cells, func(a, b Name) int { return strings.Compare(a.Head+a.At, b.Head+b.At) })
	all = append(all, cells...)
	var steps []Step
	state := map[*Step]int{} // 1 while what it reads is looked at, 2 when done
	var trail []Name
	var visit func(n Name) bool
	visit = func(n Name) bool {
		at := nodes[n]
		if at == nil || state[at] == 2 {
			return true
		}
		trail = append(trail, at.Target)
		if state[at] == 1 {
			return false
		}
		state[at] = 1
		for _, r := range at.reads {
			if !visit(r) {
				return false
			}
		}
		trail = trail[:len(trail)-1]
		state[at] = 2
		steps = append(steps, *at)
		return true
	}
	for _, n := range all {
		trail = trail[:0]
		if !visit(n) {
			last := trail[len(trail)-1]
			circle := trail[slices.Index(trail, last):]
			text := make([]string, len(circle))
			for i := range circle {
				text[i] = circle[i].String()
			}
			return nil, Faults{{nodes[last].path, "goes in a circle: " + strings.Join(text, " reads ")}}
		}
	}
	return steps, nil
}

// Settled returns the document with what its formulas settle once put in place.
// read tells a number that comes from outside the document, or a colour's four.
func (d *Document) Settled(read func(Name) []float64) (*Document, error) {
	if !d.settles() {
		return d, nil
	}
	var slots []float64
	where := map[Name]int{}
	var names []Name
	steps, _, err := d.Formulas(func(n Name) int {
		at, ok := where[n]
		if !ok {
			at = len(slots)
			where[n] = at
			names = append(names, n)
			slots = append(slots, 0, 0, 0, 0)
		}
		return at
	})
	if err != nil {
		return nil, err
	}
	c := d.Clone()
	for _, st := range steps {
		for _, r := range st.reads {
			to := slots[where[r] : where[r]+4]
			if r.Head != "value" {
				copy(to, read(r))
				continue
			}
			t, err := c.Find(r.At + "/" + r.Property)
			if err != nil {
				return nil, Faults{{st.path, err.Error()}}
			}
			v, _ := t.value()
			if v.Numbers == nil && v.Text == "" {
				return nil, Faults{{st.path, r.String() + " is not given in the document; it can't be read here"}}
			}
			c.numbers(t.Property, v, max(0, r.Part), to)
		}
		v, ok := st.value(slots)
		if !ok {
			continue // what can't be said leaves what was there
		}
		path := st.Target.At + "/" + st.Property.Name
		if !st.All && st.Property.Parted() {
			path += "." + st.Property.PartName(st.Target.Part)
		}
		if err := c.Set(path, v); err != nil {
			return nil, Faults{{st.path, err.Error()}}
		}
	}
	return c, nil
}

// settles reports whether any formula is for what is settled once.
func (d *Document) settles() bool {
	return slices.ContainsFunc(d.formulasOf(), func(f formulaAt) bool {
		t, err := d.Find(f.path + "/" + f.name)
		return err == nil && t.Property.Join == scheme.Fixed
	})
}

// numbers writes a value, or one number of it, as formulas read it.
func (d *Document) numbers(p *scheme.Property, v scheme.Value, part int, to []float64) {
	switch p.Type {
	case scheme.Time:
		if t, err := v.Time(); err == nil {
			to[0] = t.Float()
		}
	case scheme.Colour:
		if c, err := d.Colour(v.Text); err == nil {
			copy(to, []float64{float64(c.R), float64(c.G), float64(c.B), float64(c.A)})
		}
	case scheme.Choice, scheme.Switch:
		p.Put(to, v)
	default:
		if full := p.Full(v); part < len(full) {
			to[0] = full[part]
		}
	}
}

// value is what a settled step yields; what lies outside the property's limits
// stops at them.
func (st *Step) value(slots []float64) (scheme.Value, bool) {
	p := st.Property
	if p.Type == scheme.Colour {
		c := st.Program.Colour(slots)
		b := [4]uint8{}
		for i, v := range c {
			if v != v {
				return scheme.Value{}, false
			}
			b[i] = uint8(max(0, min(255, v)) + 0.5)
		}
		return scheme.Says(scheme.RGBA{R: b[0], G: b[1], B: b[2], A: b[3]}.String()), true
	}
	v := st.Program.Number(slots)
	if v != v {
		return scheme.Value{}, false
	}
	switch p.Type {
	case scheme.Switch:
		return scheme.Is(v != 0), true
	case scheme.Choice:
		return scheme.Says(p.Words[max(0, min(len(p.Words)-1, int(v)))]), true
	case scheme.Time:
		// To a thousandth of a frame, so that the fraction stays small.
		return scheme.Instant(timing.NewRat(int64(math.Round(v*1000)), 1000)), true
	}
	v = max(p.Lo, min(p.Hi, v))
	if p.Integer {
		v = math.Round(v)
	}
	return scheme.One(v), true
}

// Numbers are a value of the document as formulas read it: a number, or a
// colour's four.
func (d *Document) Numbers(n Name) []float64 {
	out := make([]float64, 4)
	t, err := d.Find(n.At + "/" + n.Property)
	if err != nil {
		return out
	}
	v, _ := t.value()
	d.numbers(t.Property, v, max(0, n.Part), out)
	if t.Property.Type == scheme.Colour {
		return out
	}
	return out[:1]
}

// Read are the names in the text of a formula: what follows from them is not told.
func (st *Step) Read() []Name {
	if st.named == nil {
		return st.reads
	}
	return st.named
}
