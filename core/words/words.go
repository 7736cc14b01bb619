// Package words is the room for setting words: reading faces, shaping, breaking
// lines, fitting to a box, and the outlines of what is set. It is handed font
// files as bytes and gives back places and outlines; it knows no document, draws
// nothing and touches no disk.
//
// The stages are those of the field: text is segmented into paragraphs, runs of
// one direction, script and face (UAX #9, #24), shaped (OpenType, by a port of
// HarfBuzz), broken into lines (UAX #14) and laid out. What is shaped is measured
// in ems, so that one shaping serves every size.
package words

import (
	"fmt"
	"math"
)

// Limits of what is set.
const (
	// MaxRunes bounds the text of one wording.
	MaxRunes = 2000
	// MaxSize bounds the size of type, in px.
	MaxSize = 4096
)

// Case says in which letters words are shown.
type Case string

const (
	AsTyped    Case = "as typed"
	Capitals   Case = "capitals"
	SmallCaps  Case = "small capitals"
	LowerCase  Case = "small letters"
	smallScale      = 0.8 // of a face's capitals, for small ones that it does not have
)

// Cases lists them in the order in which people are offered them.
var Cases = []Case{AsTyped, Capitals, SmallCaps, LowerCase}

// Figures says which digits are used.
type Figures string

const (
	FaceFigures  Figures = "as the face has them"
	Tabular      Figures = "tabular"
	Proportional Figures = "proportional"
)

// AllFigures lists them.
var AllFigures = []Figures{FaceFigures, Tabular, Proportional}

// Direction is that of a paragraph; Auto goes by its first letter that has one.
type Direction string

const (
	Auto        Direction = "by its letters"
	LeftToRight Direction = "left to right"
	RightToLeft Direction = "right to left"
)

// Directions lists them.
var Directions = []Direction{Auto, LeftToRight, RightToLeft}

// Align is where lines stand between the sides of their box. Start is the left of
// a paragraph that is read from left to right, the right of one that is not.
type Align string

const (
	Start     Align = "start"
	Centre    Align = "centre"
	End       Align = "end"
	Justified Align = "justified"
)

// Aligns lists them.
var Aligns = []Align{Start, Centre, End, Justified}

// Stand is where all lines together stand between the top and the bottom of their
// box, and so whether they grow down, both ways or up.
type Stand string

const (
	Top    Stand = "top"
	Middle Stand = "middle"
	Bottom Stand = "bottom"
)

// Stands lists them.
var Stands = []Stand{Top, Middle, Bottom}

// Edges says from where to where words are measured: CSS Inline Layout Level 3
// has the same choice as text-box-edge.
type Edges string

const (
	// FaceEdges are the ascent of the first line and the descent of the last.
	FaceEdges Edges = "face"
	// CapitalEdges are the top of capitals of the first line and the last baseline.
	CapitalEdges Edges = "capitals"
)

// AllEdges lists them.
var AllEdges = []Edges{FaceEdges, CapitalEdges}

// Means is one of the ways in which words are made to fit.
type Means string

const (
	// ByWrapping breaks lines.
	ByWrapping Means = "wrapping"
	// BySize makes letters smaller, down to the smallest size.
	BySize Means = "size"
	// ByTracking sets them closer, down to the closest tracking.
	ByTracking Means = "tracking"
	// ByShortening leaves out the end and puts a sign there.
	ByShortening Means = "shortening"
)

// AllMeans lists them.
var AllMeans = []Means{ByWrapping, BySize, ByTracking, ByShortening}

// AxisValue is where a variable face stands on one of its axes.
type AxisValue struct {
	Tag   string
	Value float64
}

// Style is how words are shaped, whatever their size.
type Style struct {
	Family *Family
	Weight float64 // 1 to 1000, 400 is regular; 0 is 400
	Italic bool
	// Axes are further axes of a variable face.
	Axes                   []AxisValue
	Case                   Case
	Figures                Figures
	NoLigatures, NoKerning bool
	// apart: there is tracking. Letters that are set apart are not joined, and take no other forms by their neighbours (CSS Text
	// Level 3, section 8.2), but for scripts whose letters are joined anyway, which are not set apart.
	apart     bool
	Direction Direction
	// Language is a BCP 47 tag, "" for none in particular.
	Language string
}

// Spec is a wording that is to be set. Lengths are in px.
type Spec struct {
	Text string
	Style
	// Size is that of the em; fitting goes down to Least, 0 is Size.
	Size, Least float64
	// Leading is the distance of baselines, in sizes.
	Leading float64
	// Tracking is added after each letter, in ems; fitting goes down to Closest
	// where that is less.
	Tracking, Closest float64
	Align             Align
	Stand             Stand
	Edges             Edges
	Rise              float64 // of the baseline
	Paragraph         float64 // more room between paragraphs
	// Lines is how many there may be, 0 is as many as there is room for.
	Lines int
	// By are the means of fitting in the order in which they are tried.
	By   []Means
	Sign string // of what is shortened; "" is …
	// Even makes lines about as long as one another (CSS Text Level 4, text-wrap:
	// balance).
	Even bool
	// W and H are the box. A height of 0 is as high as the words are.
	W, H float64
	// At is a size that is to be used without fitting by size, 0 for none: that of
	// the group whose words keep one size.
	At float64
}

// Validate says which of the numbers lies outside its limits.
func (s *Spec) Validate() error {
	finite := func(name string, v, lo, hi float64) error {
		if math.IsNaN(v) || v < lo || v > hi {
			return fmt.Errorf("%s: %g is outside %g to %g", name, v, lo, hi)
		}
		return nil
	}
	if s.Family == nil {
		return fmt.Errorf("face: there is none")
	}
	for _, c := range []struct {
		name      string
		v, lo, hi float64
	}{{"size", s.Size, 0, MaxSize}, {"least", s.Least, 0, MaxSize}, {"leading", s.Leading, 0, 20}, {"tracking", s.Tracking, -2, 10}, {"closest", s.Closest, -2, 10},
		{"width", s.W, 0, 1e6}, {"height", s.H, 0, 1e6}, {"rise", s.Rise, -1e6, 1e6}, {"paragraph", s.Paragraph, 0, 1e6}} {
		if err := finite(c.name, c.v, c.lo, c.hi); err != nil {
			return err
		}
	}
	return nil
}
