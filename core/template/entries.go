package template

import (
	"errors"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"

	"ivypocket/core/formula"
	"ivypocket/core/scheme"
	"ivypocket/core/timing"
	"ivypocket/core/words"
)

// Sheet is what the editor is given.
type Sheet struct {
	Groups []Group `json:"groups,omitempty"`
}

// Group is a part of the sheet under one heading.
type Group struct {
	ID      string  `json:"id"`
	Label   string  `json:"label"`
	Entries []Entry `json:"entries"`
}

// EntryKind is what an entry asks for: the name of one of scheme.Entries' kinds.
type EntryKind string

const (
	MediaEntry    EntryKind = "media"
	WordsEntry    EntryKind = "words"
	LinesEntry    EntryKind = "lines"
	TypefaceEntry EntryKind = "typeface"
	ChoiceEntry   EntryKind = "choice"
	SwitchEntry   EntryKind = "switch"
	DurationEntry EntryKind = "duration"
	PlaceEntry    EntryKind = "place"
	AmountEntry   EntryKind = "amount"
	AngleEntry    EntryKind = "angle"
	ColourEntry   EntryKind = "colour"
	GradientEntry EntryKind = "gradient"
)

// Entry is one line of the sheet. What its members mean stands in scheme.Entries.
type Entry struct {
	ID       string        `json:"id"`
	Label    string        `json:"label"`
	Data     string        `json:"data,omitempty" doc:"Name for data; absent: its id"`
	Kind     EntryKind     `json:"kind"`
	Help     string        `json:"help,omitempty"`
	Pocket   string        `json:"pocket,omitempty"`
	Framing  *[]string     `json:"framing,omitempty"`
	Default  *scheme.Value `json:"default,omitempty"`
	Min      *float64      `json:"min,omitempty"`
	Max      *float64      `json:"max,omitempty"`
	Step     float64       `json:"step,omitempty" required:"false"`
	Unit     string        `json:"unit,omitempty"`
	Area     *[4]float64   `json:"area,omitempty"`
	Options  []Option      `json:"options,omitempty"`
	Notches  []float64     `json:"notches,omitempty"`
	Letters  int           `json:"letters,omitempty"`
	Lines    int           `json:"lines,omitempty"`
	Required bool          `json:"required,omitempty"`
	Fixed    bool          `json:"fixed,omitempty"`
	When     *When         `json:"when,omitempty"`
	Cue      string        `json:"cue,omitempty"`
	Within   string        `json:"within,omitempty"`
	Ties     []Tie         `json:"ties,omitempty"`
}

// Option is one of the things that a choice is between.
type Option struct {
	ID    string `json:"id"`
	Label string `json:"label"`
}

// When says that an entry is shown only while another has one of some values.
type When struct {
	Entry string         `json:"entry"`
	Is    []scheme.Value `json:"is"`
}

// Limits of a sheet.
const (
	MaxOptions = 40
	MaxNotches = 40
	MaxTies    = 100
)

// asking is what is done with entries of one kind.
type asking struct {
	// takes says what is wrong with a value that an editor gives.
	takes func(e *Entry, v scheme.Value) error
	// lacks tells what the entry itself has to say besides; its default is checked
	// apart.
	lacks func(d *Document, e *Entry, l *faultList, path string)
	// schema is the JSON Schema of its values (draft 2020-12); nil where kept is false.
	schema func(e *Entry) scheme.Object
	// ends are values as far from one another as an editor may go.
	ends func(e *Entry) []scheme.Value
	// reads is a value as rows of data have it; nil where kept is false.
	reads func(e *Entry, text string) (scheme.Value, error)
	// writes is a value for rows of data; nil is Value.String.
	writes func(e *Entry, v scheme.Value) string
	// formula is what it is to a formula; ok is false where it is nothing.
	formula func(e *Entry) (k formula.Kind, u formula.Unit, words []string, ok bool)
	// line says that its values are numbers on a line, which ties map by ranges and between
	// stops.
	line bool
	// kept says that its values are kept among those of entries: not in a pocket's fill, nor
	// as the length of a piece.
	kept bool
}

func one(v scheme.Value) bool { return v.Single && !v.Truth && v.Shorter == 0 && v.Text == "" }

func inRange(e *Entry, v scheme.Value) error {
	if !one(v) {
		return fmt.Errorf("%s is not a number", v)
	}
	return within(v.Number(), *e.Min, *e.Max)
}

func rangeLacks(_ *Document, e *Entry, l *faultList, path string) {
	if e.Min == nil || e.Max == nil || !(*e.Min < *e.Max) {
		l.want(path+".max", "%s needs min and max, min the smaller", article(string(e.Kind)))
		return
	}
	if len(e.Notches) > MaxNotches {
		l.add(path+".notches", "are more than %d", MaxNotches)
	}
	for i, n := range e.Notches {
		if err := within(n, *e.Min, *e.Max); err != nil {
			l.add(fmt.Sprintf("%s.notches[%d]", path, i), "%v", err)
		} else if i > 0 && n <= e.Notches[i-1] {
			l.add(fmt.Sprintf("%s.notches[%d]", path, i), "does not come after the one before")
		}
	}
}

func rangeEnds(e *Entry) []scheme.Value {
	return []scheme.Value{scheme.One(*e.Min), scheme.One(*e.Max)}
}

// readNumber reads a number as people and spreadsheets write it: with a comma for a point,
// a minus of its own, the entry's unit after it.
func readNumber(e *Entry, text string) (float64, error) {
	text = strings.TrimSpace(text)
	if e.Unit != "" {
		text = strings.TrimSpace(strings.TrimSuffix(text, e.Unit))
	}
	text = strings.TrimSpace(strings.TrimSuffix(strings.ReplaceAll(text, "\u2212", "-"), "°"))
	if !strings.Contains(text, ".") {
		text = strings.Replace(text, ",", ".", 1)
	}
	v, err := strconv.ParseFloat(text, 64)
	if err != nil || math.IsInf(v, 0) || math.IsNaN(v) {
		return 0, fmt.Errorf("%q is not a number", text)
	}
	return v, nil
}

func readRange(e *Entry, text string) (scheme.Value, error) {
	v, err := readNumber(e, text)
	return scheme.One(v), err
}

// Words for on and off, as tables have them.
var (
	onWords  = []string{"on", "yes", "true", "1", "x"}
	offWords = []string{"off", "no", "false", "0"}
)

func rangeSchema(e *Entry) scheme.Object {
	return scheme.Object{"type": "number", "minimum": *e.Min, "maximum": *e.Max}
}

// placeSchema is of two numbers, or of two shares such as "25vmin", whose limits a pattern
// does not tell.
func placeSchema(e *Entry) scheme.Object {
	axis := func(i int) scheme.Object {
		if e.Default != nil && e.Default.Shorter != 0 {
			return scheme.Object{"type": []string{"string", "number"}}
		}
		lo, hi := -float64(scheme.MaxLength), float64(scheme.MaxLength)
		if e.Area != nil {
			lo, hi = e.Area[i], e.Area[i+2]
		}
		return scheme.Object{"type": "number", "minimum": lo, "maximum": hi}
	}
	return scheme.Object{"type": "array", "prefixItems": []any{axis(0), axis(1)}, "items": false, "minItems": 2, "maxItems": 2}
}

func article(word string) string {
	if strings.ContainsRune("aeiou", rune(word[0])) {
		return "an " + word
	}
	return "a " + word
}

// picking is of entries that choose among options; lacks says what is wrong with the id of
// one, where it is that of something in the document.
func picking(lacks func(d *Document, id string) string) asking {
	return asking{
		kept:   true,
		schema: func(e *Entry) scheme.Object { return scheme.Object{"enum": e.optionIDs()} },
		// By its label, as people know it, or by its id.
		reads: func(e *Entry, text string) (scheme.Value, error) {
			for _, o := range e.Options {
				if strings.EqualFold(o.Label, text) || o.ID == text {
					return scheme.Says(o.ID), nil
				}
			}
			var labels []string
			for _, o := range e.Options {
				labels = append(labels, o.Label)
			}
			return scheme.Value{}, fmt.Errorf("%q is not one of %s", text, strings.Join(labels, ", "))
		},
		writes: func(e *Entry, v scheme.Value) string { return e.Says(v) },
		takes: func(e *Entry, v scheme.Value) error {
			if v.Numbers != nil || !slices.ContainsFunc(e.Options, func(o Option) bool { return o.ID == v.Text }) {
				return fmt.Errorf("%s is not one of its options: %s", v, strings.Join(e.optionIDs(), ", "))
			}
			return nil
		},
		lacks: func(d *Document, e *Entry, l *faultList, path string) {
			if n := len(e.Options); n < 2 || n > MaxOptions {
				l.want(path+".options", "are %d; %s is between 2 to %d", n, article(string(e.Kind)), MaxOptions)
			}
			seen := map[string]bool{}
			for i, o := range e.Options {
				if !scheme.ValidID(o.ID) && !(e.Kind == TypefaceEntry && scheme.ValidHash(o.ID)) || seen[o.ID] {
					l.add(fmt.Sprintf("%s.options[%d].id", path, i), "%q is not an id of its own: small letters, digits and hyphens, a letter first", o.ID)
				}
				seen[o.ID] = true
				if lacks != nil {
					if why := lacks(d, o.ID); why != "" {
						l.add(fmt.Sprintf("%s.options[%d].id", path, i), "%s", why)
					}
				}
				if strings.TrimSpace(o.Label) == "" {
					l.want(fmt.Sprintf("%s.options[%d].label", path, i), "is missing")
				}
			}
		},
		ends: func(e *Entry) (out []scheme.Value) {
			for _, o := range e.Options {
				out = append(out, scheme.Says(o.ID))
			}
			return out
		},
		formula: func(e *Entry) (formula.Kind, formula.Unit, []string, bool) {
			return formula.WordKind, formula.Number, e.optionIDs(), true
		},
	}
}

// MaxLines bounds the lines of a wording as it is typed.
const MaxLines = 50

// Limit is how many letters and lines a wording of the entry may have.
func (e *Entry) Limit() (letters, lines int) {
	letters, lines = words.MaxRunes, 1
	if e.Letters > 0 {
		letters = min(letters, e.Letters)
	}
	if e.Kind == LinesEntry {
		if lines = MaxLines; e.Lines > 0 {
			lines = min(lines, e.Lines)
		}
	}
	return letters, lines
}

// wording is of entries that ask for words, of so many lines at most.
func wording(most int) asking {
	return asking{
		kept: true,
		takes: func(e *Entry, v scheme.Value) error {
			if v.Text == "" && v.Numbers != nil {
				return fmt.Errorf("%s is no wording", v)
			}
			letters, lines := e.Limit()
			if n := utf8.RuneCountInString(v.Text); n > letters {
				return fmt.Errorf("has %d letters, and there is room for %d; shorten it", n, letters)
			}
			if n := strings.Count(v.Text, "\n") + 1; n > lines {
				if lines == 1 {
					return errors.New("has several lines, and there is room for one; put it on one line")
				}
				return fmt.Errorf("has %d lines, and there is room for %d; take some out", n, lines)
			}
			if i := strings.IndexFunc(v.Text, func(r rune) bool { return r < ' ' && r != '\n' }); i >= 0 {
				return errors.New("has a sign in it that is no letter, such as a tab; take it out")
			}
			if e.Required && strings.TrimSpace(v.Text) == "" {
				return errors.New("is empty, and it is needed; type something")
			}
			return nil
		},
		lacks: func(_ *Document, e *Entry, l *faultList, path string) {
			if e.Letters < 0 || e.Letters > words.MaxRunes {
				l.add(path+".letters", "%d is outside 1 to %d", e.Letters, words.MaxRunes)
			}
			if e.Lines < 0 || e.Lines > most {
				l.add(path+".lines", "%d is outside 1 to %d", e.Lines, most)
			}
		},
		schema: func(e *Entry) scheme.Object {
			letters, lines := e.Limit()
			o := scheme.Object{"type": "string", "maxLength": letters}
			if e.Required {
				o["pattern"] = `\S`
			}
			if lines == 1 {
				o["not"] = scheme.Object{"pattern": `\n`}
			}
			return o
		},
		reads:  func(e *Entry, text string) (scheme.Value, error) { return scheme.Says(words.Tidy(text)), nil },
		writes: func(_ *Entry, v scheme.Value) string { return v.Text },
		ends:   func(e *Entry) []scheme.Value { return []scheme.Value{*e.Default} },
	}
}

// asks are the kinds of entries, one row each; scheme.Entries says which members each has.
var asks = map[EntryKind]asking{
	MediaEntry: {
		takes: func(*Entry, scheme.Value) error { return fmt.Errorf("is filled in its pocket") },
		lacks: func(d *Document, e *Entry, l *faultList, path string) {
			if e.Pocket == "" {
				l.want(path+".pocket", "is missing: name the pocket that is filled")
			} else if d.Pocket(e.Pocket) == nil {
				l.add(path+".pocket", "there is no pocket named %q", e.Pocket)
			}
			if e.Framing != nil {
				for i, f := range *e.Framing {
					if !slices.Contains(scheme.FramingParts, f) || slices.Index(*e.Framing, f) < i {
						l.add(fmt.Sprintf("%s.framing[%d]", path, i), "%q is not one of %s, each once", f, strings.Join(scheme.FramingParts, ", "))
					}
				}
			}
		},
	},
	WordsEntry:    wording(1),
	LinesEntry:    wording(MaxLines),
	TypefaceEntry: picking(func(_ *Document, id string) string { return "" }),
	ChoiceEntry:   picking(nil),
	GradientEntry: picking(func(d *Document, id string) string {
		if d.Gradient(id) == nil {
			return fmt.Sprintf("there is no gradient named %q", id)
		}
		return ""
	}),
	SwitchEntry: {
		kept:   true,
		schema: func(*Entry) scheme.Object { return scheme.Object{"type": "boolean"} },
		reads: func(_ *Entry, text string) (scheme.Value, error) {
			on := slices.Contains(onWords, strings.ToLower(text))
			if !on && !slices.Contains(offWords, strings.ToLower(text)) {
				return scheme.Value{}, fmt.Errorf("%q is neither on nor off", text)
			}
			return scheme.Is(on), nil
		},
		writes: func(e *Entry, v scheme.Value) string { return e.Says(v) },
		takes: func(_ *Entry, v scheme.Value) error {
			if !v.Truth {
				return fmt.Errorf("%s is neither true nor false", v)
			}
			return nil
		},
		ends: func(*Entry) []scheme.Value { return []scheme.Value{scheme.Is(false), scheme.Is(true)} },
		formula: func(*Entry) (formula.Kind, formula.Unit, []string, bool) {
			return formula.TruthKind, formula.Number, nil, true
		},
	},
	DurationEntry: {
		takes: func(*Entry, scheme.Value) error { return fmt.Errorf("is the length of the piece") },
		lacks: func(d *Document, e *Entry, l *faultList, path string) {
			if e.Unit != "" && e.Unit != "frames" && e.Unit != "s" {
				l.add(path+".unit", "%q is neither frames nor s", e.Unit)
			}
			for member, v := range map[string]*float64{"min": e.Min, "max": e.Max} {
				if v == nil {
					continue
				}
				if *v != math.Trunc(*v) {
					l.add(path+"."+member, "%g is not a whole number of frames", *v)
				} else if _, err := d.TimeMap(int64(*v)); err != nil {
					l.add(path+"."+member, "%v", err)
				}
			}
			if e.Min != nil && e.Max != nil && *e.Min > *e.Max {
				l.add(path+".max", "is below min")
			}
			if lo, hi := e.Lengths(d); d.Frames < lo || d.Frames > hi {
				l.add(path+".max", "the template's own %d frames lie outside %d to %d", d.Frames, lo, hi)
			}
		},
	},
	PlaceEntry: {
		kept:   true,
		schema: placeSchema,
		reads: func(e *Entry, text string) (scheme.Value, error) {
			parts := strings.FieldsFunc(text, func(r rune) bool { return r == ' ' || r == ';' || r == ',' })
			if len(parts) != 2 {
				return scheme.Value{}, fmt.Errorf("%q is not a place: two numbers with a blank between, such as 120 -40", text)
			}
			v := scheme.Value{Numbers: make([]float64, 2)}
			for i, p := range parts {
				shares := e.Default != nil && e.Default.Shorter&(1<<i) != 0
				if shares {
					p = strings.TrimSuffix(p, "vmin")
					v.Shorter |= 1 << i
				}
				n, err := readNumber(e, p)
				if err != nil {
					return scheme.Value{}, err
				}
				v.Numbers[i] = n
			}
			return v, nil
		},
		writes: func(_ *Entry, v scheme.Value) string { return strings.ReplaceAll(v.String(), ", ", " ") },
		takes: func(e *Entry, v scheme.Value) error {
			if len(v.Numbers) != 2 || v.Single || v.Wide != 0 || v.Truth {
				return fmt.Errorf("%s is not a place such as [120, -40]", v)
			}
			if e.Default != nil && v.Shorter != e.Default.Shorter {
				return fmt.Errorf("%s is written in another unit than the default, %s", v, e.Default)
			}
			for i, n := range v.Numbers {
				lo, hi := -float64(scheme.MaxLength), float64(scheme.MaxLength)
				if e.Area != nil {
					lo, hi = e.Area[i], e.Area[i+2]
				}
				if err := within(n, lo, hi); err != nil {
					return fmt.Errorf("%s: %w", "xy"[i:i+1], err)
				}
			}
			return nil
		},
		lacks: func(_ *Document, e *Entry, l *faultList, path string) {
			if a := e.Area; a != nil && (!(a[0] <= a[2]) || !(a[1] <= a[3])) {
				l.add(path+".area", "has its right or bottom before its left or top")
			}
		},
		ends: func(e *Entry) []scheme.Value {
			if e.Area == nil {
				return []scheme.Value{*e.Default}
			}
			var out []scheme.Value
			for _, at := range [][2]int{{0, 1}, {2, 1}, {2, 3}, {0, 3}} {
				out = append(out, scheme.Value{Numbers: []float64{e.Area[at[0]], e.Area[at[1]]}, Shorter: e.Default.Shorter})
			}
			return out
		},
	},
	AmountEntry: {line: true, kept: true, schema: rangeSchema, reads: readRange, takes: inRange, lacks: rangeLacks, ends: rangeEnds,
		formula: func(e *Entry) (formula.Kind, formula.Unit, []string, bool) {
			return formula.NumberKind, formula.UnitOf(e.Unit), nil, true
		}},
	AngleEntry: {line: true, kept: true, schema: rangeSchema, reads: readRange, takes: inRange, lacks: rangeLacks, ends: rangeEnds,
		formula: func(*Entry) (formula.Kind, formula.Unit, []string, bool) {
			return formula.NumberKind, formula.Degrees, nil, true
		}},
	ColourEntry: {
		kept: true,
		reads: func(_ *Entry, text string) (scheme.Value, error) {
			if !strings.HasPrefix(text, "#") {
				text = "#" + text
			}
			return scheme.Says(strings.ToLower(text)), nil
		},
		schema: func(*Entry) scheme.Object {
			return scheme.Object{"type": "string", "pattern": "^#([0-9a-fA-F]{6}|[0-9a-fA-F]{8})$"}
		},
		takes: func(_ *Entry, v scheme.Value) error {
			if v.Numbers != nil {
				return fmt.Errorf("%s is not a colour such as #1e7383", v)
			}
			_, err := scheme.ParseColour(v.Text)
			return err
		},
		ends: func(*Entry) []scheme.Value {
			return []scheme.Value{scheme.Says("#000000"), scheme.Says("#ffffff")}
		},
		formula: func(*Entry) (formula.Kind, formula.Unit, []string, bool) {
			return formula.ColourKind, formula.Number, nil, true
		},
	},
}

func (e *Entry) optionIDs() (out []string) {
	for _, o := range e.Options {
		out = append(out, o.ID)
	}
	return out
}

// Of is the row of the table that the entry's kind has, nil for an unknown one.
func (e *Entry) Of() *scheme.Kind { return scheme.Entries.Kind(string(e.Kind)) }

// Worded reports whether its values are wordings.
func (e *Entry) Worded() bool { return e.Kind == WordsEntry || e.Kind == LinesEntry }

// Picks reports whether its values are its options.
func (e *Entry) Picks() bool { return slices.Contains(scheme.Picked, string(e.Kind)) }

// Discrete reports whether it has a few values, each of which may have consequences of its
// own: options, or on and off.
func (e *Entry) Discrete() bool { return e.Kind == SwitchEntry || e.Picks() }

// Numbers are a value of the entry as formulas read it: a number, 1 or 0, the place of an
// option, or straight red, green, blue and alpha.
func (e *Entry) Numbers(v scheme.Value) []float64 {
	if e.Picks() {
		return []float64{float64(max(0, slices.Index(e.optionIDs(), v.Text)))}
	}
	if e.Worded() {
		return []float64{0}
	}
	if v.Text != "" {
		c, _ := scheme.ParseColour(v.Text)
		return []float64{float64(c.R), float64(c.G), float64(c.B), float64(c.A)}
	}
	return []float64{v.Number()}
}

// Kept reports whether its values are kept as values of entries: media lies in its
// pocket, and a duration is the length of the piece.
func (e *Entry) Kept() bool { return asks[e.Kind].kept }

// OnLine reports whether its values are numbers on a line, between which ties reckon.
func (e *Entry) OnLine() bool { return asks[e.Kind].line }

// Ends are values as far from one another as an editor may go, for trials.
func (e *Entry) Ends() []scheme.Value {
	if f := asks[e.Kind].ends; f != nil {
		return f(e)
	}
	return nil
}

// Says is a value of the entry for people: an option by its label.
func (e *Entry) Says(v scheme.Value) string {
	for _, o := range e.Options {
		if e.Picks() && o.ID == v.Text {
			return o.Label
		}
	}
	if e.Worded() {
		return v.Text
	}
	if v.Truth {
		if v.On() {
			return "on"
		}
		return "off"
	}
	if e.Unit != "" {
		return v.String() + " " + e.Unit
	}
	if e.Kind == AngleEntry {
		return v.String() + "°"
	}
	return v.String()
}

// Stops are the values at which the entry is set by example: the notches of a line, or
// its two ends and its default; all that a choice or a switch may say. Others have none.
func (e *Entry) Stops() []scheme.Value {
	switch {
	case e.Discrete():
		return e.Ends()
	case !e.OnLine() || e.Min == nil || e.Max == nil:
		return nil
	}
	at := e.Notches
	if len(at) == 0 {
		at = []float64{*e.Min, *e.Max}
		if e.Default != nil && e.Default.Number() > *e.Min && e.Default.Number() < *e.Max {
			at = []float64{*e.Min, e.Default.Number(), *e.Max}
		}
	}
	out := make([]scheme.Value, len(at))
	for i, n := range at {
		out[i] = scheme.One(n)
	}
	return out
}

// Lengths are the shortest and the longest piece, in frames, that a duration entry
// allows: what the spans do, and the designer.
func (e *Entry) Lengths(d *Document) (lo, hi int64) {
	lo, hi = d.spanLengths()
	if e.Fixed {
		return d.Own(), d.Own()
	}
	// What a designer says is in frames of the template.
	if e.Min != nil {
		lo = max(lo, d.Rate.Seen(int64(*e.Min), d.Seen()))
	}
	if e.Max != nil {
		hi = min(hi, d.Rate.Seen(int64(*e.Max), d.Seen()))
	}
	return lo, hi
}

// Lengths are the shortest and the longest piece, in frames: what the spans allow, and the
// duration entry, if there is one.
func (d *Document) Lengths() (lo, hi int64) {
	if e := d.Sheet.Duration(); e != nil {
		return e.Lengths(d)
	}
	return d.spanLengths()
}

func (d *Document) spanLengths() (lo, hi int64) {
	if !timing.Stretches(d.Spans, d.Frames) {
		return d.Own(), d.Own()
	}
	shortest := timing.Shortest(d.Spans)
	if d.made == nil {
		return shortest, MaxFrames
	}
	return timing.Int(shortest).Mul(d.made.Rate.Div(d.Rate.Rat)).Ceil(), MaxFrames
}

// Timed reports whether its values are lengths of time: frames of the template, or seconds.
func (e *Entry) Timed() bool { return e.Kind == AmountEntry && (e.Unit == "frames" || e.Unit == "s") }

// Lasts is so many frames at a rate in the entry's unit.
func (e *Entry) Lasts(frames int64, rate timing.Rate) float64 {
	if e.Unit == "s" {
		return timing.Int(frames).Div(rate.Rat).Float()
	}
	return float64(frames)
}

// validateWithin tells of an entry that may reach out of the held span it is to keep to.
func (d *Document) validateWithin(l *faultList, path string, e *Entry) {
	if e.Within == "" {
		return
	}
	i := slices.IndexFunc(d.Spans, func(s timing.Span) bool { return s.ID == e.Within && s.Kind == timing.Held })
	if i < 0 {
		l.want(path+".within", "there is no held span %q", e.Within)
		return
	}
	s := d.Spans[i]
	switch long := e.Lasts(s.To-s.From, d.Rate); {
	case !e.Timed():
		l.want(path+".within", "is for amounts of frames or seconds; the unit is %q", e.Unit)
	case e.Max != nil && *e.Max > long:
		l.want(path+".max", "%g %s is more than %g, as long as the held span at frame %d is: it would reach into time that stretches", *e.Max, e.Unit, long, s.From)
	}
}

// Check says whether an editor's value is one the entry takes.
func (e *Entry) Check(v scheme.Value) error {
	a, ok := asks[e.Kind]
	if !ok {
		return fmt.Errorf("a %s entry takes no value of this kind", e.Kind)
	}
	return a.takes(e, v)
}

// Reads is the value that a row of data has for the entry, by its text, within what an
// editor may give.
func (e *Entry) Reads(text string) (scheme.Value, error) {
	a := asks[e.Kind]
	if a.reads == nil {
		return scheme.Value{}, fmt.Errorf("a %s has no value of this kind", e.Kind)
	}
	v, err := a.reads(e, strings.TrimSpace(text))
	if err == nil {
		err = a.takes(e, v)
	}
	return v, err
}

// Writes is a value of the entry as a row of data has it, which Reads reads.
func (e *Entry) Writes(v scheme.Value) string {
	if w := asks[e.Kind].writes; w != nil {
		return w(e, v)
	}
	return v.String()
}

// Schema is the JSON Schema of the values that an editor may give it (draft 2020-12); nil
// is of an entry whose values are not kept among those of entries.
func (e *Entry) Schema() scheme.Object {
	a, ok := asks[e.Kind]
	if !ok || a.schema == nil {
		return nil
	}
	s := a.schema(e)
	s["title"] = e.Label
	if e.Help != "" {
		s["description"] = e.Help
	}
	if e.Default != nil {
		s["default"] = e.Default.Tree()
	}
	return s
}

// StepSize is by how much an amount goes up and down: what the designer said, else
// a power of ten, 1 at most, that gives a hundred steps or more.
func (e *Entry) StepSize() float64 {
	if e.Step > 0 || e.Min == nil || e.Max == nil {
		return e.Step
	}
	return math.Min(1, math.Pow(10, math.Floor(math.Log10((*e.Max-*e.Min)/100)+1e-9)))
}

// DataName is what rows of data call the entry.
func (e *Entry) DataName() string {
	if e.Data == "" {
		return e.ID
	}
	return e.Data
}

// Holds reports whether what it asks for is so; value tells the value of another entry.
func (w *When) Holds(value func(id string) (scheme.Value, bool)) bool {
	if w == nil {
		return true
	}
	v, ok := value(w.Entry)
	return ok && slices.ContainsFunc(w.Is, v.Equal)
}

// Entries lists all entries of the sheet in order.
func (s Sheet) Entries() []*Entry {
	var out []*Entry
	for g := range s.Groups {
		for e := range s.Groups[g].Entries {
			out = append(out, &s.Groups[g].Entries[e])
		}
	}
	return out
}

// Entry returns the entry of an id, or nil.
func (s Sheet) Entry(id string) *Entry {
	for _, e := range s.Entries() {
		if e.ID == id {
			return e
		}
	}
	return nil
}

// Duration returns the entry for the length of the piece, or nil.
func (s Sheet) Duration() *Entry {
	for _, e := range s.Entries() {
		if e.Kind == DurationEntry {
			return e
		}
	}
	return nil
}

// Fills returns the media entry that fills a pocket, or nil.
func (s Sheet) Fills(pocket string) *Entry {
	for _, e := range s.Entries() {
		if e.Kind == MediaEntry && e.Pocket == pocket {
			return e
		}
	}
	return nil
}

// Asks reports whether the sheet asks an editor for what lies in a pocket.
func (s Sheet) Asks(pocket string) bool {
	e := s.Fills(pocket)
	return e != nil && !e.Fixed
}

// MayFrame reports whether an editor may change a part of a pocket's framing, one of
// scheme.FramingParts.
func (s Sheet) MayFrame(pocket, part string) bool {
	e := s.Fills(pocket)
	return e != nil && !e.Fixed && (e.Framing == nil || slices.Contains(*e.Framing, part))
}

func (d *Document) validateSheet(l *faultList) {
	data, ids, groups := map[string]string{}, map[string]bool{}, map[string]bool{}
	lengths := 0
	for g, group := range d.Sheet.Groups {
		if !scheme.ValidID(group.ID) || groups[group.ID] {
			l.add(fmt.Sprintf("sheet.groups[%d].id", g), "%q is not an id of its own: small letters, digits and hyphens, a letter first", group.ID)
		}
		groups[group.ID] = true
		for e := range group.Entries {
			entry := &d.Sheet.Groups[g].Entries[e]
			path := fmt.Sprintf("sheet.groups[%d].entries[%d]", g, e)
			if strings.TrimSpace(entry.Label) == "" {
				l.want(path+".label", "is missing")
			}
			if !scheme.ValidID(entry.ID) || ids[entry.ID] {
				l.add(path+".id", "%q is not an id of its own: small letters, digits and hyphens, a letter first", entry.ID)
			}
			ids[entry.ID] = true
			if name := entry.DataName(); !scheme.ValidID(name) {
				l.add(path+".data", "%q is not a data name: small letters, digits and hyphens, a letter first", name)
			} else if prev, taken := data[name]; taken {
				l.add(path+".data", "%q is already the data name of %s", name, prev)
			} else {
				data[name] = path
			}
			if entry.Kind == DurationEntry {
				if lengths++; lengths > 1 {
					l.add(path, "is a second duration; a piece has one length")
				}
			}
			d.validateEntry(l, path, entry)
		}
	}
}

func (d *Document) validateEntry(l *faultList, path string, e *Entry) {
	a, ok := asks[e.Kind]
	if !ok {
		l.add(path+".kind", "%q is not a kind of entry: %s", e.Kind, strings.Join(scheme.Entries.KindNames(), ", "))
		return
	}
	d.validateOwn(l, path, e)
	before := len(l.f)
	if a.lacks != nil {
		full := faultList{}
		a.lacks(d, e, &full, path)
		if len(full.f) > 0 {
			a.lacks(d, e, l, path)
			return // what else is wrong may follow from it
		}
	}
	d.validateWhen(l, path, e)
	if e.Cue != "" && !slices.ContainsFunc(d.Cues, func(c Cue) bool { return c.ID == e.Cue }) {
		l.add(path+".cue", "there is no cue named %q", e.Cue)
	}
	d.validateWithin(l, path, e)
	if !a.kept || len(l.f) > before {
		return
	}
	if e.Default == nil {
		l.want(path+".default", "is missing: %s has a value until an editor gives another", article(string(e.Kind)+" entry"))
		return
	}
	if err := e.Check(*e.Default); err != nil {
		l.err(path+".default", err)
		return
	}
	if len(e.Ties) > MaxTies {
		l.add(path+".ties", "are more than %d", MaxTies)
		return
	}
	for i := range e.Ties {
		d.validateTie(l, fmt.Sprintf("%s.ties[%d]", path, i), e, &e.Ties[i])
	}
}

// validateOwn tells of members that the entry's kind has not.
func (d *Document) validateOwn(l *faultList, path string, e *Entry) {
	k := e.Of()
	for _, m := range []struct {
		row   *scheme.Property
		given bool
	}{{scheme.EntryPocket, e.Pocket != ""}, {scheme.EntryFraming, e.Framing != nil}, {scheme.EntryDefault, e.Default != nil}, {scheme.EntryMin, e.Min != nil},
		{scheme.EntryMax, e.Max != nil}, {scheme.EntryStep, e.Step != 0}, {scheme.EntryUnit, e.Unit != ""}, {scheme.EntryArea, e.Area != nil},
		{scheme.EntryWithin, e.Within != ""}, {scheme.EntryOptions, e.Options != nil}, {scheme.EntryNotches, e.Notches != nil}, {scheme.EntryTies, e.Ties != nil},
		{scheme.EntryLetters, e.Letters != 0}, {scheme.EntryLines, e.Lines != 0}, {scheme.EntryRequired, e.Required}} {
		if m.given && !m.row.For(k) {
			l.add(path+"."+m.row.Name, "%s has no %s", article(k.Name+" entry"), m.row.Name)
		}
	}
}

func (d *Document) validateWhen(l *faultList, path string, e *Entry) {
	if e.When == nil {
		return
	}
	by := d.Sheet.Entry(e.When.Entry)
	switch {
	case by == nil:
		l.add(path+".when.entry", "there is no entry named %q", e.When.Entry)
	case !by.Discrete():
		l.add(path+".when.entry", "%s is neither a switch nor a choice", by.Label)
	case len(e.When.Is) == 0:
		l.add(path+".when.is", "names no value; it would never be shown")
	default:
		for i, v := range e.When.Is {
			l.err(fmt.Sprintf("%s.when.is[%d]", path, i), by.Check(v))
		}
		// One that hangs on itself is never seen.
		seen := map[string]bool{e.ID: true}
		for w := e.When; w != nil; {
			if seen[w.Entry] {
				l.add(path+".when.entry", "hangs on itself")
				return
			}
			seen[w.Entry] = true
			next := d.Sheet.Entry(w.Entry)
			if next == nil {
				return
			}
			w = next.When
		}
	}
}
