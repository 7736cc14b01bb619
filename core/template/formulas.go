package template

import (
	"fmt"
	"slices"
	"sort"
	"strings"

	"ivypocket/core/formula"
)

// Name is something formulas read: a property of a layer, a layer's box, or a
// number that comes from outside the layers.
type Name struct {
	// Head is "layer", "box", "entry", "media", "colour", "canvas", "cell" or "time".
	Head string
	// ID is of the layer, entry, pocket or colour.
	ID string
	// Property is a layer's property, or what is read of the rest, such as "w".
	Property  string
	Component int
}

func (n Name) String() string {
	s := n.Head
	if n.ID != "" {
		s += "('" + n.ID + "')"
	}
	if n.Property != "" {
		s += "." + n.Property
	}
	if n.Head == "layer" && n.Component > 0 {
		s += "." + fmt.Sprint(n.Component+1)
	}
	return s
}

// Names with few members.
var (
	boxNames    = []string{"w", "h", "left", "right", "top", "bottom"}
	sizeNames   = []string{"w", "h"}
	mediaNames  = []string{"w", "h", "frames", "seconds"}
	timeNames   = []string{"frames", "seconds", "share"}
	entryHeads  = "layer('…'), entry('…'), media('…'), colour('…'), self, canvas, cell and time"
	memberUnits = map[string]formula.Unit{"media.frames": formula.Frames, "media.seconds": formula.Seconds,
		"time.frames": formula.Frames, "time.seconds": formula.Seconds, "time.share": formula.Number}
)

// scope resolves names as one layer sees them.
type scope struct {
	d    *Document
	self *Layer
	slot func(Name) int
	read []Name
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
	return s.ref(Name{Head: head, ID: id, Property: path[0]}, formula.NumberKind, u)
}

// Ref implements formula.Scope.
func (s *scope) Ref(head, id string, path []string) (formula.Ref, error) {
	switch head {
	case "canvas":
		return s.member(head, "", path, sizeNames)
	case "time":
		return s.member(head, "", path, timeNames)
	case "cell":
		if s.self.Rest.Cell == nil {
			return formula.Ref{}, fmt.Errorf("this layer stands in no cell")
		}
		return s.member(head, s.self.ID, path, sizeNames)
	case "media":
		if s.d.Pocket(id) == nil {
			return formula.Ref{}, fmt.Errorf("there is no pocket named %q", id)
		}
		return s.member(head, id, path, mediaNames)
	case "colour":
		for _, c := range s.d.Colours {
			if c.ID == id && path == nil {
				return s.ref(Name{Head: head, ID: id}, formula.ColourKind, formula.Number)
			}
		}
		return formula.Ref{}, fmt.Errorf("there is no colour named %q", id)
	case "entry":
		for _, e := range s.d.Sheet.Entries() {
			if e.Data != id {
				continue
			}
			if path != nil {
				return formula.Ref{}, fmt.Errorf("an entry is a value; write entry('%s')", id)
			}
			switch e.Kind {
			case AmountEntry:
				return s.ref(Name{Head: head, ID: id}, formula.NumberKind, formula.UnitOf(e.Unit))
			case ColourEntry:
				return s.ref(Name{Head: head, ID: id}, formula.ColourKind, formula.Number)
			}
			return formula.Ref{}, fmt.Errorf("the entry %q is of the kind %s and has no value for formulas", id, e.Kind)
		}
		return formula.Ref{}, fmt.Errorf("the sheet has no entry of the data name %q", id)
	case "self", "layer":
		y := s.self
		if head == "layer" {
			if y = s.d.Layer(id); y == nil {
				return formula.Ref{}, fmt.Errorf("there is no layer named %q", id)
			}
		}
		if len(path) > 0 && path[0] == "box" {
			switch y.Kind {
			case View, Still, Shape, Grouped:
			default:
				return formula.Ref{}, fmt.Errorf("a %s has no box", y.Kind)
			}
			return s.member("box", y.ID, path[1:], boxNames)
		}
		return s.property(y, strings.Join(path, "."))
	}
	return formula.Ref{}, fmt.Errorf("there is no %q; there are %s", head, entryHeads)
}

func (s *scope) property(y *Layer, path string) (formula.Ref, error) {
	p, c, err := y.target(path)
	if err != nil {
		return formula.Ref{}, err
	}
	return s.ref(Name{Head: "layer", ID: y.ID, Property: p.Name, Component: c}, p.kindOf(), p.Unit)
}

// target finds the property and the component that a path such as "size.x" or
// "turn" names.
func (y *Layer) target(path string) (Property, int, error) {
	p, _, _, err := y.Property(path)
	name, part := path, ""
	if err != nil {
		if i := strings.LastIndexByte(path, '.'); i > 0 {
			name, part = path[:i], path[i+1:]
			if q, _, _, err2 := y.Property(name); err2 == nil {
				p, err = q, nil
			}
		}
		if err != nil {
			return p, 0, err
		}
	}
	parts := p.Components()
	if i := slices.Index(parts, part); i >= 0 {
		return p, i, nil
	}
	if parts == nil {
		return p, 0, fmt.Errorf("%s is not a number; formulas can't reach it", name)
	}
	return p, 0, fmt.Errorf("%s is %d numbers; name one of %s, such as %s.%s", name, len(parts), strings.Join(parts, ", "), name, parts[0])
}

// Step is one thing to compute at each instant: a formula, or a layer's box
// that a formula reads. Steps come in an order in which each finds what it reads.
type Step struct {
	Target   Name
	Property Property         // of a formula's target
	Program  *formula.Program // nil for a box
	Slot     int
}

// Formulas makes all formulas ready. slot says where the number of a name
// stands, or the first of a colour's four; it is asked for every name that is
// read or yielded. The error is of type Faults.
func (d *Document) Formulas(slot func(Name) int) ([]Step, error) {
	type node struct {
		step  Step
		path  string
		reads []Name
	}
	nodes := map[Name]*node{}
	var order []Name
	var faults Faults
	d.Visit(func(path string, y *Layer) {
		names := make([]string, 0, len(y.Formulas))
		for k := range y.Formulas {
			names = append(names, k)
		}
		sort.Strings(names)
		for _, k := range names {
			at := path + ".formulas." + k
			p, c, err := y.target(k)
			if err != nil {
				faults = append(faults, Fault{at, err.Error()})
				continue
			}
			s := &scope{d: d, self: y, slot: slot}
			prog, err := formula.Compile(y.Formulas[k], p.kindOf(), p.Unit, s)
			if err != nil {
				faults = append(faults, Fault{at, err.Error()})
				continue
			}
			n := Name{Head: "layer", ID: y.ID, Property: p.Name, Component: c}
			nodes[n] = &node{step: Step{Target: n, Property: p, Program: prog, Slot: slot(n)}, path: at, reads: s.read}
			order = append(order, n)
		}
	})
	if faults != nil {
		return nil, faults
	}
	// Boxes that are read depend on their layer's place, size and scale.
	for _, n := range order {
		for _, r := range nodes[n].reads {
			if r.Head != "box" || nodes[r] != nil {
				continue
			}
			b := &node{step: Step{Target: r, Slot: slot(r)}, path: nodes[n].path}
			for _, p := range []string{"place", "size", "scale"} {
				for c := range 2 {
					b.reads = append(b.reads, Name{"layer", r.ID, p, c})
				}
			}
			nodes[r] = b
		}
	}
	var steps []Step
	state := map[Name]int{} // 1 while what it reads is looked at, 2 when done
	var trail []Name
	var visit func(n Name) bool
	visit = func(n Name) bool {
		at := nodes[n]
		if at == nil || state[n] == 2 {
			return true
		}
		trail = append(trail, n)
		if state[n] == 1 {
			return false
		}
		state[n] = 1
		for _, r := range at.reads {
			if !visit(r) {
				return false
			}
		}
		trail = trail[:len(trail)-1]
		state[n] = 2
		steps = append(steps, at.step)
		return true
	}
	for _, n := range order {
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
