// Package guides is the room for what is laid over a picture to place things by: safe areas,
// zones that a feed covers, lines, a still picture. A set of them is part of no document, so
// that nothing of it is ever drawn in a render.
package guides

import (
	"errors"
	"fmt"
	"math"
	"regexp"
	"slices"
	"strings"
	"unicode/utf8"

	"ivypocket/core/geom"
	"ivypocket/core/scheme"
)

// Limits of a set.
const (
	MaxSets    = 200
	MaxMarks   = 60
	MaxName    = 120
	LeastFade  = 0.05
	MaxLongest = 24 * 3600 // s
	longSided  = 1.2       // a canvas is wide, or tall, from this ratio of its sides on
)

// Kind is what a mark is.
type Kind string

const (
	// Upright and Level are lines across the whole canvas: at an x, at a y.
	Upright Kind = "upright"
	Level   Kind = "level"
	// Safe is a zone that what matters stays inside.
	Safe Kind = "safe"
	// Covered is a zone that something else lies on.
	Covered Kind = "covered"
)

// Kinds lists the kinds of marks.
var Kinds = []Kind{Upright, Level, Safe, Covered}

// Zone reports whether a mark has four edges.
func (k Kind) Zone() bool { return k == Safe || k == Covered }

// Mark is a line, or a zone with four edges.
type Mark struct {
	ID   string `json:"id"`
	Name string `json:"name"`
	Kind Kind   `json:"kind" enum:"upright,level,safe,covered"`
	// At is where a line lies, Box where a zone has its left, top, right and bottom edge: all
	// in shares of the canvas' width and height, from its top left corner.
	At  float64    `json:"at,omitempty"`
	Box [4]float64 `json:"box,omitempty" required:"false"`
	// Colour and Fade are its own in place of the set's; "" and 0 are those of the set.
	Colour string  `json:"colour,omitempty"`
	Fade   float64 `json:"fade,omitempty"`
}

// Still is a picture to align to, as large as it fits the canvas.
type Still struct {
	Media string  `json:"media" doc:"sha256:…"`
	Fade  float64 `json:"fade" doc:"0.05 to 1"`
}

// Set is marks that belong together.
type Set struct {
	ID    string `json:"id"`
	Name  string `json:"name"`
	About string `json:"about,omitempty" doc:"What its numbers are from"`
	// Of is the ready-made set that it was made of, to whose marks its own are reset.
	Of string `json:"of,omitempty"`
	// Shape is of the canvases that it is meant for: "" is all.
	Shape Shape `json:"shape,omitempty" enum:",wide,square,tall"`
	// Colour of its lines; "" is two tones, of which one stands out from any picture.
	Colour string  `json:"colour,omitempty"`
	Fade   float64 `json:"fade" doc:"How strong they are, 0.05 to 1"`
	// Longest is how long a piece may be where it is shown, in seconds; 0 is no limit.
	Longest float64 `json:"longest,omitempty"`
	Marks   []Mark  `json:"marks"`
	Still   *Still  `json:"still,omitempty"`
}

// Shape is the sort of a canvas by its sides.
type Shape string

const (
	Wide   Shape = "wide"
	Square Shape = "square"
	Tall   Shape = "tall"
)

// ShapeOf is the shape of a canvas.
func ShapeOf(canvas geom.Size) Shape {
	switch {
	case canvas.W >= longSided*canvas.H:
		return Wide
	case canvas.H >= longSided*canvas.W:
		return Tall
	}
	return Square
}

// Fits reports whether the set is meant for a canvas.
func (s *Set) Fits(canvas geom.Size) bool { return s.Shape == "" || s.Shape == ShapeOf(canvas) }

// Tones are the two of a line that has no colour of its own, the light one on the dark one.
// WCAG 2.2, 1.4.11, asks of graphics a contrast of 3 : 1 with what is next to them. Of two
// tones whose own contrast is c, one has √c or more with any colour there is, as luminances
// lie on one line: 3 : 1 wants a c of 9, and these have more.
var Tones = [2]string{"#fffefa", "#14201a"}

var colourForm = regexp.MustCompile(`^#[0-9a-fA-F]{6}$`)

// Check says what is wrong with a set.
func (s *Set) Check() error {
	var wrong []error
	add := func(at, format string, args ...any) {
		wrong = append(wrong, fmt.Errorf(at+": "+format, args...))
	}
	text := func(at, v string, needed bool) {
		if needed && strings.TrimSpace(v) == "" {
			add(at, "is missing")
		} else if utf8.RuneCountInString(v) > MaxName {
			add(at, "has more than %d characters", MaxName)
		}
	}
	look := func(at, colour string, fade float64, open bool) {
		if colour != "" && !colourForm.MatchString(colour) {
			add(at+"colour", "%q is not a colour such as #1e7383", colour)
		}
		if !(fade >= LeastFade && fade <= 1) && !(open && fade == 0) {
			add(at+"fade", "%g is outside %g to 1", fade, LeastFade)
		}
	}
	if !scheme.ValidID(s.ID) {
		add("id", "%q is not an id: small letters, digits and hyphens, a letter first", s.ID)
	}
	text("name", s.Name, true)
	if utf8.RuneCountInString(s.About) > 400 {
		add("about", "has more than 400 characters")
	}
	look("", s.Colour, s.Fade, false)
	if !slices.Contains([]Shape{"", Wide, Square, Tall}, s.Shape) {
		add("shape", "%q is not one of wide, square and tall", s.Shape)
	}
	if !(s.Longest >= 0 && s.Longest <= MaxLongest) {
		add("longest", "%g is outside 0 to %d seconds", s.Longest, MaxLongest)
	}
	if s.Still != nil {
		if !scheme.ValidHash(s.Still.Media) {
			add("still.media", "%q is not sha256: and 64 hex digits", s.Still.Media)
		}
		look("still.", "", s.Still.Fade, false)
	}
	if len(s.Marks) > MaxMarks {
		add("marks", "are more than %d", MaxMarks)
	}
	seen := map[string]bool{}
	for i, m := range s.Marks {
		at := fmt.Sprintf("marks[%d].", i)
		if !scheme.ValidID(m.ID) || seen[m.ID] {
			add(at+"id", "%q is not an id of its own", m.ID)
		}
		seen[m.ID] = true
		text(at+"name", m.Name, true)
		look(at, m.Colour, m.Fade, true)
		b := m.Box
		switch {
		case !slices.Contains(Kinds, m.Kind):
			add(at+"kind", "%q is not one of upright, level, safe and covered", m.Kind)
		case m.Kind.Zone():
			for k, v := range b {
				if !(v >= 0 && v <= 1) {
					add(fmt.Sprintf("%sbox[%d]", at, k), "%g is outside 0 to 1", v)
				}
			}
			if !(b[0] < b[2] && b[1] < b[3]) {
				add(at+"box", "has its right or bottom edge before its left or top one")
			}
		case !(m.At >= 0 && m.At <= 1):
			add(at+"at", "%g is outside 0 to 1", m.At)
		}
	}
	return errors.Join(wrong...)
}

// Laid is a set on a canvas, in whole px of it.
type Laid struct {
	Marks []LaidMark `json:"marks"`
	// Still is where the picture lies: left, top, width, height.
	Still *[4]float64 `json:"still,omitempty"`
	// Fits says that the set is meant for a canvas of this shape; Note what else there is to
	// know of it here.
	Fits bool   `json:"fits"`
	Note string `json:"note"`
}

// LaidMark is a mark on a canvas.
type LaidMark struct {
	ID  string     `json:"id"`
	At  float64    `json:"at"`
	Box [4]float64 `json:"box" doc:"Left, top, right, bottom"`
}

// On lays a set on a canvas; still is the size of its picture, if it has one.
func (s *Set) On(canvas, still geom.Size) Laid {
	l := Laid{Marks: []LaidMark{}, Fits: s.Fits(canvas)}
	for _, m := range s.Marks {
		p := LaidMark{ID: m.ID}
		switch m.Kind {
		case Upright:
			p.At = math.Round(m.At * canvas.W)
		case Level:
			p.At = math.Round(m.At * canvas.H)
		default:
			for k, v := range m.Box {
				p.Box[k] = math.Round(v * [2]float64{canvas.W, canvas.H}[k%2])
			}
		}
		l.Marks = append(l.Marks, p)
	}
	if s.Still != nil && still.W > 0 && still.H > 0 {
		k := math.Min(canvas.W/still.W, canvas.H/still.H)
		w, h := still.W*k, still.H*k
		l.Still = &[4]float64{(canvas.W - w) / 2, (canvas.H - h) / 2, w, h}
	}
	if !l.Fits {
		l.Note = map[Shape]string{Wide: "Meant for wide canvases", Square: "Meant for canvases about as wide as high", Tall: "Meant for upright canvases"}[s.Shape]
	}
	if s.ID == r95 || s.Of == r95 {
		if math.Abs(canvas.W/canvas.H-16.0/9) > 0.01 {
			l.Note = "R 95 speaks of 16:9 alone; the same shares here are common practice"
		}
	}
	return l
}

// Moved are the ids of the marks that lie elsewhere than those of the ready-made set that
// this one was made of.
func (s *Set) Moved() []string {
	out := []string{}
	of := Ready(s.Of)
	if of == nil {
		return out
	}
	for _, m := range s.Marks {
		if w := of.Mark(m.ID); w != nil && (w.At != m.At || w.Box != m.Box) {
			out = append(out, m.ID)
		}
	}
	return out
}

// Mark finds a mark by its id; nil is none.
func (s *Set) Mark(id string) *Mark {
	if i := slices.IndexFunc(s.Marks, func(m Mark) bool { return m.ID == id }); i >= 0 {
		return &s.Marks[i]
	}
	return nil
}
