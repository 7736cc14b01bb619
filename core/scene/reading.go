package scene

import (
	"strings"

	"ivypocket/core/formula"
	"ivypocket/core/scheme"
	"ivypocket/core/template"
	"ivypocket/core/timing"
)

// Reading is a formula at an instant: what it yields, and what its names are then.
type Reading struct {
	Yields []float64
	Names  []NamedValue
}

// NamedValue is a name in a formula's text, and what it is.
type NamedValue struct {
	formula.Named
	Value []float64 // four of a colour
}

// Reading tells the formula of a property, or of one of its numbers, by its path. There is none
// of what is settled once for all time.
func (s *Scene) Reading(path string, now timing.Instant) (Reading, bool) {
	st := s.states.Get().(*state)
	defer s.states.Put(st)
	s.evaluate(st, now)
	for i := range s.steps {
		x := &s.steps[i]
		if x.Program == nil || x.Property == nil || !x.named(path) {
			continue
		}
		var r Reading
		width := 1
		if x.Program.Kind == formula.ColourKind {
			width = 4
		}
		r.Yields = append(r.Yields, st.slots[x.slot:x.slot+width]...)
		for _, n := range x.Program.Names {
			width := 1
			if n.Kind == formula.ColourKind {
				width = 4
			}
			v := append([]float64{}, st.slots[n.Slot:n.Slot+width]...)
			if n.Times > 0 {
				v[0] *= st.slots[n.Times-1]
			}
			r.Names = append(r.Names, NamedValue{n, v})
		}
		return r, true
	}
	return Reading{}, false
}

// named reports whether a step is the formula of a property by its path.
func (x *step) named(path string) bool {
	at := strings.LastIndexByte(path, '/')
	if at < 0 || x.Target.Head != "value" || x.Target.At != path[:at] {
		return false
	}
	name := path[at+1:]
	return x.All && name == x.Target.Property || name == x.Target.Property && x.Target.Part < 0 ||
		x.Target.Part >= 0 && name == x.Property.Of(x.Target.Part) && !x.All || name == x.Target.Property && !x.Property.Parted()
}

// Reads are the paths of what the formulas of the scene read, by the path of what each yields:
// values of the document, entries as entries/ID.
func (s *Scene) Reads() map[string][]string {
	out := map[string][]string{}
	for i := range s.steps {
		x := &s.steps[i]
		if x.Program == nil || x.Property == nil {
			continue
		}
		path := pathOf(x.Target, x.Property, x.All)
		if _, ok := out[path]; ok {
			continue // a copy
		}
		list := []string{}
		for _, r := range x.Read() {
			switch r.Head {
			case "value":
				if t, err := s.doc.Find(r.At + "/" + r.Property); err == nil {
					list = append(list, pathOf(r, t.Property, t.Property.Alike))
				}
			case "entry":
				list = append(list, "entries/"+r.At)
			case "box":
				list = append(list, "layers/"+r.At+"/box."+r.Property)
			}
		}
		out[path] = list
	}
	return out
}

// pathOf is the path of a value, or of the one of its numbers that a name is of.
func pathOf(n template.Name, p *scheme.Property, whole bool) string {
	if whole || n.Part < 0 || !p.Parted() {
		return n.At + "/" + p.Name
	}
	return n.At + "/" + p.Of(n.Part)
}
