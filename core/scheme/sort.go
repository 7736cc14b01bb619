package scheme

import (
	"fmt"
	"regexp"
	"slices"
	"strings"
)

// Can is what a kind of thing is able to do. Properties go to all kinds that can
// do what they are about.
type Can uint16

const (
	Moves    Can = 1 << iota // it has a place, a scale and a turn
	Box                      // it has a size of its own, and so edges and corners
	Seen                     // it has a picture, or changes one: an opacity, masks, a matte
	Blends                   // it lies on what is below it in a mode
	Painted                  // it is filled with a colour or a gradient
	Cornered                 // it is a rectangle whose corners may be round
	Holds                    // it holds other things of its sort
	Lettered                 // it shows letters, set in a face
	Worded                   // they are a wording
)

// Kind is one kind of a sort of things: a kind of layer, a treatment.
type Kind struct {
	Name string
	Can  Can
	// Label and Doc are for people: what it is called and what it draws.
	Label, Doc string
	// Thread is the kind of value it is about, by which people tell it in lists:
	// media, colour, amount or duration; "" is none.
	Thread string
	// Later kinds are part of the format and not drawn by this version.
	Later bool
	// Behaviour is the version of how it is drawn.
	Behaviour int
}

// Part is a list of things in a thing, such as the masks of a layer.
type Part struct {
	Name string // as paths have it
	At   string // where it stands in the document, as properties are named
	Of   *Sort
	Most int
	Doc  string
	// On says which kinds have it; 0 is all.
	On Can
	// With is a property that must be given, Without one that must not.
	With, Without string
}

// Sort is a sort of things in a document: layers, masks, formats. It has rows of
// properties, and of kinds where there are several.
type Sort struct {
	Name   string // for people, such as "layer"
	Plural string // as paths have it, such as "layers"
	Kinds  []*Kind
	Parts  []*Part
	// Named says that its things have names for people.
	Named bool
	// Formulas and Motion say that its things may have them.
	Formulas, Motion bool

	props    []*Property
	byName   map[string]*Property
	defaults []float64
}

// Has puts a row into the table.
func (s *Sort) Has(p Property) *Property {
	if s.byName == nil {
		s.byName = map[string]*Property{}
	}
	if s.byName[p.Name] != nil {
		panic("scheme: " + s.Name + " has " + p.Name + " twice")
	}
	row := &p
	row.sort, row.index, row.slot = s, len(s.props), -1
	if w := row.Width(); row.Type.Live() && w > 0 {
		row.slot = len(s.defaults)
		s.defaults = append(s.defaults, make([]float64, w)...)
		row.Put(s.defaults[row.slot:], row.Default)
	}
	if row.Factor == 0 {
		row.Factor = 1
	}
	if row.Sign == "" {
		switch {
		case row.Unit.Px == 1:
			row.Sign = "px"
		case row.Unit.Deg == 1:
			row.Sign = "°"
		case row.Unit.Frames == 1:
			row.Sign = "frames"
		}
	}
	s.props = append(s.props, row)
	s.byName[p.Name] = row
	return row
}

// Add puts a kind into the table.
func (s *Sort) Add(k Kind) *Kind {
	s.Kinds = append(s.Kinds, &k)
	return &k
}

// Properties lists the rows in the order in which they were put in.
func (s *Sort) Properties() []*Property { return s.props }

// Property finds a row by name.
func (s *Sort) Property(name string) *Property { return s.byName[name] }

// asks reports whether a condition of another row, or of a part, asks for a property.
func (s *Sort) asks(name string) bool {
	for _, p := range s.props {
		for _, w := range []*When{p.With, p.Without} {
			if w != nil && w.Name == name {
				return true
			}
		}
	}
	for _, p := range s.Parts {
		if p.With == name || p.Without == name {
			return true
		}
	}
	return false
}

// Defaults are the numbers that a thing of the sort has in a scene when its
// document says nothing, besides those of lists and paths. They are not to be
// changed.
func (s *Sort) Defaults() []float64 { return s.defaults }

// Refs are the properties that name a thing of a sort.
func (s *Sort) Refs(to *Sort) (out []*Property) {
	for _, p := range s.props {
		if p.Type == Ref && p.To == to {
			out = append(out, p)
		}
	}
	return out
}

// Kind finds a kind by name.
func (s *Sort) Kind(name string) *Kind {
	for _, k := range s.Kinds {
		if k.Name == name {
			return k
		}
	}
	return nil
}

// KindNames lists the kinds that this version draws.
func (s *Sort) KindNames() []string {
	var out []string
	for _, k := range s.Kinds {
		if !k.Later {
			out = append(out, k.Name)
		}
	}
	return out
}

// Part finds a part by its name in paths.
func (s *Sort) Part(name string) (int, *Part) {
	for i, p := range s.Parts {
		if p.Name == name {
			return i, p
		}
	}
	return -1, nil
}

// For reports whether a kind of thing can have the property, whatever its other
// properties are.
func (p *Property) For(k *Kind) bool {
	if p.On == 0 && p.Kinds == nil {
		return true
	}
	return k != nil && (k.Can&p.On != 0 || slices.Contains(p.Kinds, k.Name))
}

// Holds reports whether the condition holds; word is the other property's word,
// given whether the document says something of it.
func (w *When) Holds(word string, given bool) bool {
	if w.Words == nil {
		return given
	}
	return slices.Contains(w.Words, word)
}

// split finds the property and the number that a name such as "place.x" means.
func (s *Sort) split(name string) (p *Property, part int, err error) {
	if p := s.byName[name]; p != nil {
		return p, -1, nil
	}
	for i := strings.LastIndexByte(name, '.'); i > 0; i = strings.LastIndexByte(name[:i], '.') {
		if p := s.byName[name[:i]]; p != nil {
			k, ok := p.Part(name[i+1:])
			if !ok {
				if !p.Parted() {
					return nil, 0, fmt.Errorf("%s has no parts; write %s alone", p.Name, p.Name)
				}
				return nil, 0, fmt.Errorf("%s has no %q; it has %s", p.Name, name[i+1:], strings.Join(p.Parts, ", "))
			}
			return p, k, nil
		}
	}
	return nil, 0, fmt.Errorf("a %s has no property %q", s.Name, name)
}

// Target finds the property and the number of it, -1 for all, that a name such
// as "place" or "place.x" means.
func (s *Sort) Target(name string) (p *Property, part int, err error) { return s.split(name) }

var (
	idForm   = regexp.MustCompile(`^[a-z][a-z0-9-]{0,62}$`)
	hashForm = regexp.MustCompile(`^sha256:[0-9a-f]{64}$`)

	hashWithin = regexp.MustCompile(`sha256:[0-9a-f]{64}`)
)

// ValidID reports whether text may be the id of a thing.
func ValidID(s string) bool { return idForm.MatchString(s) }

// ValidHash reports whether text is a media hash such as sha256:….
func ValidHash(s string) bool { return hashForm.MatchString(s) }

// Hashes finds the media hashes in a text.
func Hashes(text string) []string { return hashWithin.FindAllString(text, -1) }

// IDOf makes an id of a name: "North wind, 2" is "north-wind-2".
func IDOf(name string) string {
	var b strings.Builder
	for _, r := range strings.ToLower(name) {
		switch {
		case r >= 'a' && r <= 'z' || b.Len() > 0 && r >= '0' && r <= '9':
			b.WriteRune(r)
		case b.Len() > 0 && !strings.HasSuffix(b.String(), "-"):
			b.WriteByte('-')
		}
		if b.Len() >= 48 {
			break
		}
	}
	if id := strings.Trim(b.String(), "-"); id != "" {
		return id
	}
	return "thing"
}
