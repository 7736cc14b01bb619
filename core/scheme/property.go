package scheme

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"

	"ivypocket/core/formula"
	"ivypocket/core/geom"
)

// Join says how motion joins rest.
type Join uint8

const (
	// Fixed is for what is settled once for the whole time: it has no keys, and
	// a formula for it reads nothing that moves.
	Fixed Join = iota
	// Plus adds: a place, an angle. Lengths are in units, so that one motion
	// serves every format.
	Plus
	// Times multiplies: a size, an opacity.
	Times
	// Instead takes rest's place: a colour, a path, a share, a word.
	Instead
)

// Type is what a property's value is.
type Type uint8

const (
	Numbers  Type = iota // so many of them as the property is wide
	List                 // as many numbers as the document says
	Colour               // #rrggbb, #rrggbbaa or colour:ID
	Points               // of a path
	Choice               // one of a few words
	Choices              // some of a few words
	Switch               // true or false
	Text                 // words for people
	Ref                  // the id of something else in the document
	Media                // sha256:…
	Time                 // an instant in frames, exact
	Curve                // the four numbers of an easing
	Exact                // an exact fraction
	Typeface             // the id of a face that ships, or sha256:… of a font file
	Whole                // anything else that is read and written whole; Doc says what
)

var typeNames = [...]string{"number", "list", "colour", "path", "choice", "choices", "switch", "words", "reference", "media", "time", "easing", "fraction", "typeface", "whole"}

func (t Type) String() string { return typeNames[t] }

// Live reports whether values of the type may change from instant to instant:
// they stand among the numbers of a scene.
func (t Type) Live() bool {
	switch t {
	case Numbers, List, Colour, Points, Choice, Switch:
		return true
	}
	return false
}

// InShares reports whether its numbers are lengths, which may be written in shares of the
// canvas' shorter side.
func (p *Property) InShares() bool { return p.Unit.Px == 1 && !p.Integer }

// Property is a row of the table: something about a thing that rests, and that
// may move, be tied, be yielded by a formula and differ by format. Everything
// that is known about it stands here.
type Property struct {
	// Name is such as "place" or "stroke.width"; in a document each point opens
	// an object: {"stroke": {"width": 3}}.
	Name string
	Type Type
	// Parts names the numbers, such as x and y; nil for one number. Shown is what
	// people see instead.
	Parts, Shown []string
	// Alike says that one number stands for all of them.
	Alike bool
	Unit  formula.Unit
	// Lo and Hi are the limits of its numbers; of a list and of points also of
	// how many there may be, from Least to Most.
	Lo, Hi      float64
	Least, Most int
	// Integer says that its numbers are whole ones.
	Integer bool
	// Default holds where the document says nothing. One without it depends on
	// where the thing stands, as a size does; Doc says how.
	Default Value
	Words   []string // of a choice
	To      *Sort    // of a reference: what it may name
	Verb    string   // of a reference to a layer: what it does with it, such as "follows"
	Join    Join
	// Length says that Plus motion is in units of the canvas or of the thing, and
	// that the value may be written in hundredths of the canvas' shorter side.
	Length bool
	// Way says that keys may bend its way by handles.
	Way bool
	// Signed says that factors of Times motion may be below 0.
	Signed bool

	// On and Kinds say which kinds of things have it: those with one of the
	// abilities, and those named; neither is all.
	On    Can
	Kinds []string
	// Within says what the layer must be able to that the thing is in, or it has no
	// effect and is not offered.
	Within Can
	// With and Without make it depend on another property: of these words, of
	// any (""), or of none.
	With, Without *When
	// Needed says that the document must give it. First is what it is given when what it
	// goes with comes about and nobody said more.
	Needed bool
	First  Value
	// Plain is for what only the designer writes: no tie, no format and no piece
	// sets it.
	Plain bool
	// Loose says of a text that every one that fits the row fits the document.
	Loose bool
	// Shared says that it is the same in all formats, as motion is.
	Shared bool
	// Bound says that more than its row tells which values it may have: what is said
	// elsewhere in the document.
	Bound bool

	// Label, Section, Sign and Factor are for people: a share with the factor 100
	// and the sign "%" is shown in hundredths. Step is one step of it, in their
	// numbers; 0 is fit for its limits. Rare properties stand folded away.
	Label, Section, Sign string
	Factor               float64
	Step                 float64
	Rare                 bool
	// Doc is its line on the reference page.
	Doc string

	sort  *Sort
	index int
	slot  int // of its first number among the thing's, -1 for none
}

// When is a condition on another property of the same thing.
type When struct {
	Name  string
	Words []string // nil: given at all
}

// Sort is what has the property.
func (p *Property) Sort() *Sort { return p.sort }

// Width is how many numbers it has; 0 where that is up to the document.
func (p *Property) Width() int {
	switch p.Type {
	case Numbers:
		return max(1, len(p.Parts))
	case Colour, Curve:
		return 4
	case Choice, Switch, Time, Exact:
		return 1
	}
	return 0
}

// Slot is where its first number stands among those of the thing, or -1.
func (p *Property) Slot() int { return p.slot }

// Free reports whether a value that fits the row fits the document, whatever else is
// said there, and changes nothing of what else may be said.
func (p *Property) Free() bool {
	return (p.Type.Live() && p.Width() > 0 || p.Loose) && !p.Plain && !p.Bound && !p.sort.asks(p.Name)
}

// Parted reports whether its numbers can be reached one by one.
func (p *Property) Parted() bool { return p.Type == Numbers && len(p.Parts) > 1 || p.Type == List }

// Part finds one of its numbers by name; those of a list are named by their
// places, counted from 1.
func (p *Property) Part(name string) (int, bool) {
	if p.Type == List {
		n, err := strconv.Atoi(name)
		return n - 1, err == nil && n >= 1 && n <= p.Most
	}
	i := slices.Index(p.Parts, name)
	return i, i >= 0 && p.Parted()
}

// PeopleCall is what people call it, or one of its numbers: "Opacity", "Place x", "Width".
func (p *Property) PeopleCall(part int) string {
	switch {
	case part < 0:
		return p.Label
	case part < len(p.Shown) && p.Shown[part][0] < utf8.RuneSelf: // a word and no arrow
		return p.Shown[part]
	}
	return p.Label + " " + p.PartName(part)
}

// PartName is the name of one of its numbers, "" for all of them.
func (p *Property) PartName(part int) string {
	switch {
	case part < 0:
		return ""
	case p.Type == List:
		return strconv.Itoa(part + 1)
	}
	return p.Parts[part]
}

// Of names the property and one of its numbers, such as "place.x".
func (p *Property) Of(part int) string {
	if part < 0 {
		return p.Name
	}
	return p.Name + "." + p.PartName(part)
}

// Formula is the kind of value that formulas yield for it and read of it; ok is
// false where there is none.
func (p *Property) Formula() (k formula.Kind, ok bool) {
	switch p.Type {
	case Numbers, Time:
		return formula.NumberKind, true
	case Colour:
		return formula.ColourKind, true
	case Switch:
		return formula.TruthKind, true
	case Choice:
		return formula.WordKind, true
	}
	return 0, false
}

// Names tells what there is in a document.
type Names interface {
	// Has reports whether there is a thing of a sort and an id.
	Has(s *Sort, id string) bool
}

// Check says what is wrong with a value for the property.
func (p *Property) Check(names Names, v Value) error {
	return p.check(names, v, p.Lo, p.Hi)
}

// CheckKey says what is wrong with a value of a key. Own says that it is in the
// property's own measure.
func (p *Property) CheckKey(names Names, v Value, own bool) error {
	lo, hi := p.KeyLimits(own)
	if v.Shorter != 0 && !own {
		return fmt.Errorf("is in shares of the canvas, which its keys are without saying so; write the number alone")
	}
	return p.check(names, v, lo, hi)
}

// KeyLimits are the least and the greatest that a number of a key may be; own keys take the place of rest.
func (p *Property) KeyLimits(own bool) (lo, hi float64) {
	lo, hi = p.Lo, p.Hi
	switch {
	case own:
	case p.Join == Plus && p.Length:
		lo, hi = -MaxShare, MaxShare
	case p.Join == Times:
		lo, hi = math.Max(0, lo), math.Min(MaxScale, hi)
		if p.Signed {
			lo = -MaxScale
		}
		if p.Hi == 1 {
			hi = 1
		}
	}
	return lo, hi
}

func (p *Property) check(names Names, v Value, lo, hi float64) error {
	if err := p.shape(v); err != nil {
		return err
	}
	switch p.Type {
	case Colour:
		id, named := ColourID(v.Text)
		if !named {
			_, err := ParseColour(v.Text)
			return err
		}
		if names != nil && !names.Has(Colours, id) {
			return fmt.Errorf("there is no colour named %q", id)
		}
	case Choice:
		if !slices.Contains(p.Words, v.Text) {
			return fmt.Errorf("%q is not one of %s", v.Text, strings.Join(p.Words, ", "))
		}
	case Ref:
		if names != nil && !names.Has(p.To, v.Text) {
			return fmt.Errorf("there is no %s named %q", p.To.Name, v.Text)
		}
	case Media:
		if !ValidHash(v.Text) {
			return fmt.Errorf("%q is not sha256: and 64 hex digits", v.Text)
		}
	case Typeface:
		if !ValidHash(v.Text) && !ValidID(v.Text) {
			return fmt.Errorf("%q is neither the id of a face nor sha256: and 64 hex digits", v.Text)
		}
	case Text:
		if n := utf8.RuneCountInString(v.Text); p.Most > 0 && n > p.Most {
			return fmt.Errorf("has %d letters, and %d is the most", n, p.Most)
		}
	case Time:
		_, err := v.Time()
		return err
	case Numbers, List, Points:
		limit := 1.0
		for i, n := range v.Numbers {
			limit = 1
			if v.Shorter&(1<<(i%32)) != 0 && i < 32 {
				limit = shorterLimit
			}
			if math.IsNaN(n) || n < lo/limit || n > hi/limit {
				return p.at(v, i, "%s is outside %s to %s", plain(n), plain(lo/limit), plain(hi/limit))
			}
			if p.Integer && n != math.Trunc(n) {
				return p.at(v, i, "%s is not a whole number", plain(n))
			}
		}
	}
	return nil
}

// Bounded is a value whose numbers are drawn back to the property's limits.
func (p *Property) Bounded(v Value) Value {
	v.Numbers = slices.Clone(v.Numbers)
	for i, n := range v.Numbers {
		lo, hi := p.Lo, p.Hi
		if i < 32 && v.Shorter&(1<<i) != 0 {
			lo, hi = lo/shorterLimit, hi/shorterLimit
		}
		v.Numbers[i] = math.Max(lo, math.Min(hi, n))
	}
	return v
}

// shorterLimit is how many pixels at the least a hundredth of a side of the
// largest canvas is: lengths in shares have limits as many times smaller.
const shorterLimit = MaxSide / 100.0

// ShareLimits are the limits of a length in hundredths of the canvas' shorter side.
func (p *Property) ShareLimits() (lo, hi float64) { return p.Lo / shorterLimit, p.Hi / shorterLimit }

// MaxShares bounds lengths in hundredths of the canvas' shorter side.
const MaxShares = MaxLength / shorterLimit

// at begins an error with the place in a list.
func (p *Property) at(v Value, i int, format string, args ...any) error {
	text := fmt.Sprintf(format, args...)
	if v.Wide != 0 || p.Type == Numbers && len(v.Numbers) < 3 {
		return fmt.Errorf("%s", text)
	}
	return fmt.Errorf("[%d]: %s", i, text)
}

// plain is a number for people.
func plain(v float64) string { return strconv.FormatFloat(v, 'f', -1, 64) }

// shape says whether a value is of the property's type at all.
func (p *Property) shape(v Value) error {
	switch p.Type {
	case Numbers:
		n, w := len(p.Full(v)), p.Width()
		switch {
		case v.Numbers == nil || v.Truth || v.Wide != 0 && w < 4:
			return fmt.Errorf("is not %s", p.Wants())
		case n != w:
			return fmt.Errorf("is not %s", p.Wants())
		}
		if v.Shorter != 0 && p.Unit != formula.Px {
			return fmt.Errorf("%s is no length; write a number without %s", p.Name, shorterUnit)
		}
	case List:
		if v.Numbers == nil || v.Single || v.Wide != 0 {
			return fmt.Errorf("is not a list of numbers")
		}
		if n := len(v.Numbers); n < p.Least || n > p.Most {
			return fmt.Errorf("has %d numbers, not %d to %d", n, p.Least, p.Most)
		}
	case Points:
		if v.Wide == 0 {
			return fmt.Errorf("is not a list of points, each [x, y] or with handles [x, y, in x, in y, out x, out y]")
		}
		if n := len(v.Numbers) / geom.NodeWidth; n < p.Least || n > p.Most {
			return fmt.Errorf("%d points are outside %d to %d", n, p.Least, p.Most)
		}
	case Switch:
		if !v.Truth {
			return fmt.Errorf("is not true or false")
		}
	case Colour:
		if v.Text == "" || v.Numbers != nil {
			return fmt.Errorf("is not a colour such as #1e7383")
		}
	case Choice:
		if v.Numbers != nil {
			return fmt.Errorf("is not one of %s", strings.Join(p.Words, ", "))
		}
	case Ref, Media, Text, Typeface:
		if v.Text == "" && v.Numbers != nil {
			return fmt.Errorf("is not text")
		}
	case Curve:
		if len(v.Numbers) != 4 || v.Wide != 0 {
			return fmt.Errorf("is not the four numbers of an easing, such as [0.4, 0, 0.6, 1]")
		}
	}
	return nil
}

// Wants says what shape of value the property has.
func (p *Property) Wants() string {
	var s string
	switch w := p.Width(); w {
	case 1:
		s = "one number"
	case 2:
		s = "a pair of numbers"
	default:
		s = fmt.Sprintf("%d numbers", w)
	}
	if p.Alike {
		s = "one number or " + strings.TrimPrefix(s, "one ")
	}
	return s
}

// Full is a value with all of its numbers, where one stood for all.
func (p *Property) Full(v Value) []float64 {
	if v.Wide != 0 && p.Type == Numbers { // written in pairs
		out := make([]float64, 0, 2*len(v.Numbers)/v.Wide)
		for i := 0; i < len(v.Numbers); i += v.Wide {
			out = append(out, v.Numbers[i:i+2]...)
		}
		return out
	}
	if w := p.Width(); p.Alike && len(v.Numbers) == 1 && w > 1 {
		return slices.Repeat(v.Numbers, w)
	}
	return v.Numbers
}

// Put writes a value as numbers, as they stand in a scene: a word by its number,
// a colour, unless it is a named one, as red, green, blue and alpha from 0 to 255.
func (p *Property) Put(to []float64, v Value) {
	switch {
	case p.Type == Choice:
		to[0] = float64(p.Word(v.Text))
	case p.Type == Colour:
		if c, err := ParseColour(v.Text); err == nil {
			to[0], to[1], to[2], to[3] = float64(c.R), float64(c.G), float64(c.B), float64(c.A)
		}
	default:
		copy(to, p.Full(v))
	}
}

// Word is where a word stands among the property's words, 0 when it is none.
func (p *Property) Word(text string) int { return max(0, slices.Index(p.Words, text)) }

// Compare orders rows as the table has them.
func (p *Property) Compare(o *Property) int { return p.index - o.index }
