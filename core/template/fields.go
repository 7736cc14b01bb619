package template

import (
	"fmt"
	"strings"

	"ivypocket/core/formula"
	"ivypocket/core/geom"
)

// Join says how motion joins rest.
type Join uint8

const (
	// Plus adds: a place, an angle. Lengths are in units, so that one motion
	// serves every format.
	Plus Join = iota
	// Times multiplies: a size, an opacity.
	Times
	// Instead takes rest's place: a colour, a path, a share.
	Instead
	// Fixed is for properties that do not move.
	Fixed
)

// ValueKind is what a property's value is.
type ValueKind uint8

const (
	Numbers    ValueKind = iota
	ColourText           // #rrggbb or colour:ID
	Points               // of a path
	Words                // one of a few words
)

// Property is something about a layer that rests, moves, is tied and is
// reached by formulas.
type Property struct {
	// Name is such as "place", "stroke.width" or "masks.iris.feather".
	Name  string
	Kind  ValueKind
	Width int // how many numbers it has
	Unit  formula.Unit
	Lo    float64
	Hi    float64
	Join  Join
	// Length says that Plus motion is in units of the canvas or the layer.
	Length bool
	// Words that the property may be.
	Words []string
}

// field is a property of one layer with the way to its value.
type field struct {
	Property
	get func() (Rest, bool) // false: rests at its default
	put func(Rest)
}

// anchors lists the points of a box by name, and where they stand in shares of it.
var anchors = map[string][2]float64{
	"centre": {0.5, 0.5}, "top left": {0, 0}, "top": {0.5, 0}, "top right": {1, 0}, "right": {1, 0.5},
	"bottom right": {1, 1}, "bottom": {0.5, 1}, "bottom left": {0, 1}, "left": {0, 0.5},
}

// anchorNames lists them in the order in which people are offered them.
var anchorNames = []string{"centre", "top left", "top", "top right", "right", "bottom right", "bottom", "bottom left", "left"}

// AnchorPoint is where an anchor stands in its box, in shares of it.
func AnchorPoint(name string) [2]float64 {
	if p, ok := anchors[name]; ok {
		return p
	}
	return [2]float64{0.5, 0.5}
}

// Limits of values, far beyond what a picture bears.
const (
	maxTurn  = 36000
	maxScale = 100
	maxShare = 100
)

func scalar(name string, unit formula.Unit, lo, hi float64, join Join, p *float64) field {
	return field{Property{Name: name, Width: 1, Unit: unit, Lo: lo, Hi: hi, Join: join},
		func() (Rest, bool) { return One(*p), true },
		func(v Rest) { *p = v.Numbers[0] }}
}

func optional(name string, unit formula.Unit, lo, hi float64, join Join, p **float64) field {
	return field{Property{Name: name, Width: 1, Unit: unit, Lo: lo, Hi: hi, Join: join},
		func() (Rest, bool) {
			if *p == nil {
				return Rest{}, false
			}
			return One(**p), true
		},
		func(v Rest) { n := v.Numbers[0]; *p = &n }}
}

// One is the rest value of one number.
func One(v float64) Rest { return Rest{Numbers: []float64{v}, Single: true} }

func pair(name string, unit formula.Unit, lo, hi float64, join Join, p **[2]float64) field {
	return field{Property{Name: name, Width: 2, Unit: unit, Lo: lo, Hi: hi, Join: join},
		func() (Rest, bool) {
			if *p == nil {
				return Rest{}, false
			}
			return Rest{Numbers: append([]float64(nil), (*p)[:]...)}, true
		},
		func(v Rest) { *p = &[2]float64{v.Numbers[0], v.Numbers[1]} }}
}

func fixedPair(name string, unit formula.Unit, lo, hi float64, join Join, p *[2]float64) field {
	return field{Property{Name: name, Width: 2, Unit: unit, Lo: lo, Hi: hi, Join: join},
		func() (Rest, bool) { return Rest{Numbers: append([]float64(nil), p[:]...)}, true },
		func(v Rest) { *p = [2]float64{v.Numbers[0], v.Numbers[1]} }}
}

func triple(name string, lo, hi float64, p **[3]float64) field {
	return field{Property{Name: name, Width: 3, Lo: lo, Hi: hi, Join: Instead},
		func() (Rest, bool) {
			if *p == nil {
				return Rest{}, false
			}
			return Rest{Numbers: append([]float64(nil), (*p)[:]...)}, true
		},
		func(v Rest) { *p = &[3]float64{v.Numbers[0], v.Numbers[1], v.Numbers[2]} }}
}

func radii(name string, p **Radii) field {
	return field{Property{Name: name, Width: 4, Unit: formula.Px, Lo: 0, Hi: maxLength, Join: Times},
		func() (Rest, bool) {
			if *p == nil {
				return Rest{}, false
			}
			return Rest{Numbers: append([]float64(nil), (*p)[:]...)}, true
		},
		func(v Rest) {
			r := Radii{v.Numbers[0], v.Numbers[0], v.Numbers[0], v.Numbers[0]}
			copy(r[:], v.Numbers)
			*p = &r
		}}
}

func colour(name string, p *string) field {
	return field{Property{Name: name, Kind: ColourText, Width: 4, Lo: 0, Hi: 255, Join: Instead},
		func() (Rest, bool) { return Rest{Text: *p}, *p != "" },
		func(v Rest) { *p = v.Text }}
}

func length(f field) field { f.Length = true; return f }

// formFields are the numbers of an outline.
func formFields(prefix string, f *Form) []field {
	if f == nil {
		return nil
	}
	var out []field
	switch f.Kind {
	case geom.Star:
		out = append(out, optional(prefix+"inner", formula.Number, 0, 1, Instead, &f.Inner))
	case geom.Arrow:
		out = append(out, optional(prefix+"head", formula.Number, 0, 1, Instead, &f.Head), optional(prefix+"shaft", formula.Number, 0, 1, Instead, &f.Shaft))
	case geom.Drawn:
		if f.Path != nil {
			out = append(out, field{Property{Name: prefix + "path", Kind: Points, Width: len(f.Path.Points.Numbers), Lo: -maxShare, Hi: maxShare, Join: Instead},
				func() (Rest, bool) { return f.Path.Points, true },
				func(v Rest) { f.Path.Points = v }})
		}
	}
	if f.Kind != geom.Rectangle && f.Kind != geom.Ellipse {
		out = append(out, scalar(prefix+"round", formula.Px, 0, maxLength, Times, &f.Round))
	}
	return out
}

// fields lists all properties of a layer with the way to their values.
func (y *Layer) fields() []field {
	r := &y.Rest
	out := make([]field, 0, 20+7*len(y.Masks))
	add := func(f ...field) { out = append(out, f...) }
	moves := func() {
		add(length(pair("place", formula.Px, -maxLength, maxLength, Plus, &r.Place)))
		add(pair("scale", formula.Number, -maxScale, maxScale, Times, &r.Scale))
		add(scalar("turn", formula.Degrees, -maxTurn, maxTurn, Plus, &r.Turn))
	}
	switch y.Kind {
	case Camera:
		moves()
		return out
	case Grade:
		if r.Grade != nil {
			add(triple("grade.slope", 0, 10, &r.Grade.Slope), triple("grade.offset", -2, 2, &r.Grade.Offset), triple("grade.power", 0.05, 10, &r.Grade.Power))
			add(optional("grade.saturation", formula.Number, 0, 10, Instead, &r.Grade.Saturation))
		}
	case Ground:
		if r.Gradient == nil {
			add(colour("fill", &r.Fill))
		}
	default:
		moves()
		add(pair("size", formula.Px, 0, maxLength, Times, &r.Size))
		add(pair("skew", formula.Degrees, -89, 89, Plus, &r.Skew), pair("origin", formula.Number, -maxShare, maxShare, Plus, &r.Origin))
		add(length(field{Property{Name: "corners", Width: 8, Unit: formula.Px, Lo: -maxLength, Hi: maxLength, Join: Plus},
			func() (Rest, bool) {
				if r.Corners == nil {
					return Rest{}, false
				}
				var n []float64
				for _, c := range r.Corners {
					n = append(n, c[:]...)
				}
				return Rest{Numbers: n}, true
			},
			func(v Rest) {
				var c [4][2]float64
				for i, n := range v.Numbers {
					c[i/2][i%2] = n
				}
				r.Corners = &c
			}}))
		add(field{Property{Name: "anchor", Kind: Words, Join: Fixed, Words: anchorNames},
			func() (Rest, bool) { return Rest{Text: r.Anchor}, r.Anchor != "" },
			func(v Rest) { r.Anchor = v.Text }})
	}
	add(optional("opacity", formula.Number, 0, 1, Times, &r.Opacity))
	switch y.Kind {
	case Shape:
		if r.Gradient == nil { // which would hide it
			add(colour("fill", &r.Fill))
		}
		if y.Form == nil || y.Form.Kind == geom.Rectangle {
			add(radii("radius", &r.Radius))
		}
		add(formFields("form.", y.Form)...)
	case View, Still:
		add(radii("radius", &r.Radius))
	}
	if y.Kind == View {
		c := r.Content
		if c == nil {
			// Read as it stands when it is not given; set only makes it.
			c = &Content{}
		}
		hold := func() { r.Content = c }
		for _, f := range []field{
			scalar("content.turn", formula.Degrees, -maxTurn, maxTurn, Plus, &c.Turn),
			fixedPair("content.pan", formula.Number, -geom.MaxPan, geom.MaxPan, Plus, &c.Pan),
			scalar("content.zoom", formula.Number, 0, maxScale, Times, &c.Zoom),
		} {
			put := f.put
			f.put = func(v Rest) { put(v); hold() }
			add(f)
		}
	}
	if g := r.Gradient; g != nil {
		add(fixedPair("gradient.from", formula.Number, -maxShare, maxShare, Instead, &g.From), fixedPair("gradient.to", formula.Number, -maxShare, maxShare, Instead, &g.To))
	}
	if s := r.Stroke; s != nil && y.Kind == Shape {
		add(colour("stroke.colour", &s.Colour), scalar("stroke.width", formula.Px, 0, maxLength, Times, &s.Width), scalar("stroke.shift", formula.Px, -maxLength, maxLength, Plus, &s.Shift))
		out[len(out)-1].Length = true
		add(scalar("stroke.from", formula.Number, 0, 1, Instead, &s.From), optional("stroke.to", formula.Number, 0, 1, Instead, &s.To))
	}
	for i := range y.Masks {
		m := &y.Masks[i]
		p := "masks." + m.ID + "."
		if m.Of == "" {
			add(length(pair(p+"place", formula.Px, -maxLength, maxLength, Plus, &m.Place)), pair(p+"size", formula.Px, 0, maxLength, Times, &m.Size))
			add(scalar(p+"turn", formula.Degrees, -maxTurn, maxTurn, Plus, &m.Turn))
			if m.Form == nil || m.Form.Kind == geom.Rectangle {
				add(radii(p+"radius", &m.Radius))
			}
			add(formFields(p, m.Form)...)
		}
		add(scalar(p+"feather", formula.Px, 0, maxLength, Times, &m.Feather), length(scalar(p+"growth", formula.Px, -maxLength, maxLength, Plus, &m.Growth)))
		add(optional(p+"opacity", formula.Number, 0, 1, Times, &m.Opacity))
	}
	return out
}

// Properties lists what can rest, move and be tied on this layer.
func (y *Layer) Properties() []Property {
	fields := y.fields()
	out := make([]Property, len(fields))
	for i := range fields {
		out[i] = fields[i].Property
	}
	return out
}

// Standing is a property of a layer with its rest value; Given is false where the
// document says nothing and the default holds.
type Standing struct {
	Property
	Rest  Rest
	Given bool
}

// Standings lists all properties of a layer with their rest values. Asking for
// each by its name would take as long for every one.
func (y *Layer) Standings() []Standing {
	fields := y.fields()
	out := make([]Standing, len(fields))
	for i := range fields {
		out[i].Property = fields[i].Property
		out[i].Rest, out[i].Given = fields[i].get()
	}
	return out
}

// Property returns one property and its rest value; given is false where the
// document says nothing and the default holds.
func (y *Layer) Property(name string) (p Property, v Rest, given bool, err error) {
	for _, f := range y.fields() {
		if f.Name == name {
			v, given = f.get()
			return f.Property, v, given, nil
		}
	}
	return p, v, false, y.unknown(name)
}

func (y *Layer) unknown(name string) error {
	var names []string
	for _, f := range y.fields() {
		names = append(names, f.Name)
	}
	return fmt.Errorf("a layer of the kind %q has no property %q; this one has %s", y.Kind, name, strings.Join(names, ", "))
}

// Check says what is wrong with a value for the property.
func (p *Property) Check(d *Document, v Rest) error {
	switch p.Kind {
	case ColourText:
		if v.Text == "" && v.Numbers != nil {
			return fmt.Errorf("is not a colour such as #1e7383")
		}
		_, err := d.Colour(v.Text)
		return err
	case Words:
		for _, w := range p.Words {
			if w == v.Text {
				return nil
			}
		}
		return fmt.Errorf("%q is not one of %s", v.Text, strings.Join(p.Words, ", "))
	case Points:
		if v.Wide == 0 || len(v.Numbers) != p.Width {
			return fmt.Errorf("needs %d points, so that each matches one of the path's", p.Width/geom.NodeWidth)
		}
	default:
		switch n := len(v.Numbers); {
		case v.Wide != 0 || v.Numbers == nil:
			return fmt.Errorf("is not a number")
		case p.Width == 1 && n != 1:
			return fmt.Errorf("is not one number")
		case p.Width == 2 && n != 2:
			return fmt.Errorf("is not a pair of numbers")
		case n != p.Width && !(p.Width == 4 && n == 1):
			return fmt.Errorf("has %d numbers, not %d", n, p.Width)
		}
	}
	for _, n := range v.Numbers {
		if err := within(n, p.Lo, p.Hi); err != nil {
			return err
		}
	}
	return nil
}

// Components names the parts of a property's value that formulas yield and
// read, in order: "" for a single number or a colour, "x" and "y" for pairs.
func (p *Property) Components() []string {
	switch {
	case p.Kind == ColourText || p.Width == 1:
		return []string{""}
	case p.Kind != Numbers:
		return nil
	case p.Width == 2:
		return []string{"x", "y"}
	case p.Width == 3:
		return []string{"red", "green", "blue"}
	case p.Width == 4:
		return []string{""} // all four corners alike
	}
	return nil
}
