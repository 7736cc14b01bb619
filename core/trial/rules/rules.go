// Package rules is the room for the rules of swap trials for words: each is a row of a
// table and a file of its own. A rule is handed what a layer says on the frame on which it
// is best seen, and tells what is wrong with it. It draws nothing itself.
package rules

import (
	"math"

	"ivypocket/core/geom"
	"ivypocket/core/scene"
)

// Words are what a layer says, as it is seen where it is best seen.
type Words struct {
	scene.Said
	// Name is the layer's, for people.
	Name   string
	Canvas geom.Size
	Frame  int64
	// Seconds is how long it is shown in all.
	Seconds float64
	// Box holds its letters, and Ink what is seen of them, in px of the canvas.
	Box, Ink geom.Box
	// Height is that of its letters' em on the canvas, px.
	Height float64
	// Bold says that they are.
	Bold bool
	// Others are what else is said, or shown by marks, on the frame.
	Others []Other
	// Stands tells how much of its letters stands out from what is truly behind them by a
	// contrast ratio at least, 0 to 1; seen is how many pixels there are.
	Stands func(ratio float64) (share float64, seen int, err error)
	// Kept tells how much of its letters masks and mattes leave, 0 to 1.
	Kept func() (share float64, err error)
}

// Other is something else on the frame that words should not lie on.
type Other struct {
	Name string
	Box  geom.Box
}

// Finding is what a rule found.
type Finding struct {
	What, Advice string
	// Hint says that nothing is broken.
	Hint bool
}

// Rule is a row of the table.
type Rule struct {
	// Kind is what its findings are called.
	Kind string
	Find func(w *Words) (*Finding, error)
}

// table holds the rules, in the order of their files' names.
var table []Rule

func register(r Rule) { table = append(table, r) }

// All lists the rules.
func All() []Rule { return table }

// Kinds lists what findings of rules may be called.
func Kinds() (out []string) {
	for _, r := range table {
		out = append(out, r.Kind)
	}
	return out
}

// share is a length in hundredths of a canvas' height.
func (w *Words) share(px float64) float64 { return px / w.Canvas.H * 100 }

// beyond is how far a box lies outside another, in px; 0 is not.
func beyond(b, in geom.Box) float64 {
	return math.Max(math.Max(in.X-b.X, in.Y-b.Y), math.Max(b.X+b.W-in.X-in.W, b.Y+b.H-in.Y-in.H))
}
