// Package scheme is the room for the tables of the format: what sorts of things
// a document has, of what kinds they are, and what properties each has. A
// property is declared once, as a row; reading and checking a document, ties,
// formulas, keys, formats, the numbers of a scene, the panels of the interface,
// the JSON Schema and the reference page all follow from it. It knows no
// document and draws nothing.
package scheme

import (
	"ivypocket/core/formula"
	"ivypocket/core/geom"
)

// Limits of values, far beyond what a picture bears.
const (
	MinSide  = 16
	MaxSide  = 8192
	MaxTurn  = 36000
	MaxScale = 100
	MaxShare = 100
	// MaxLength bounds lengths in pixels: four times the largest canvas.
	MaxLength = 4 * MaxSide
	MaxMasks  = 20
	MaxStops  = 64
	MaxDashes = 16
	// MaxTreatments bounds those of one layer.
	MaxTreatments = 12
	MaxCopies     = 200
	MaxSamples    = 32
	MaxLayers     = 500
	MaxGradients  = 100
	// MaxMoves bounds those that a document saves, MaxPerformances those that one layer performs.
	MaxMoves        = 200
	MaxPerformances = 24
)

// The sorts of things that a document has. Rows stand in files that come after
// this one, so that they are put in in their order.
var (
	Layers = &Sort{Name: "layer", Plural: "layers", Named: true, Motion: true, Formulas: true}
	// Motifs are groups that are built once and used many times.
	Motifs = &Sort{Name: "motif", Plural: "motifs"}
	Masks  = &Sort{Name: "mask", Plural: "masks", Motion: true, Formulas: true}
	// Treatments are what is done to a layer's picture, one after another.
	Treatments = &Sort{Name: "treatment", Plural: "treatments", Motion: true, Formulas: true}
	// Highlights mark words of a layer; HighLines say how they differ on its first line, its second and so on.
	Highlights = &Sort{Name: "highlight", Plural: "highlights", Motion: true, Formulas: true}
	HighLines  = &Sort{Name: "highline", Plural: "lines", Motion: true, Formulas: true}
	// Axes say where a variable face stands on an axis of its own, besides its weight.
	Axes  = &Sort{Name: "axis", Plural: "axes", Motion: true, Formulas: true}
	Stops = &Sort{Name: "stop", Plural: "stops", Motion: true, Formulas: true}
	// Gradients are the document's own, by name; they are the same at all times.
	Gradients = &Sort{Name: "gradient", Plural: "gradients", Named: true}
	// SavedMoves are motions that are saved by name; layers perform them. What is in them are keys of properties
	// of layers, and masks and treatments that come along.
	SavedMoves = &Sort{Name: "move", Plural: "moves", Named: true, Motion: true}
	// Performances are what layers do besides their own keys: moves that are saved, and plain ones without keys.
	Performances = &Sort{Name: "performance", Plural: "moves", Formulas: true}
	Layouts      = &Sort{Name: "layout", Plural: "layouts", Motion: true, Formulas: true}
	Colours      = &Sort{Name: "colour", Plural: "colours", Named: true, Formulas: true}
	Pockets      = &Sort{Name: "pocket", Plural: "pockets", Named: true, Formulas: true}
	Recipes      = &Sort{Name: "recipe", Plural: "recipes"}
	Cues         = &Sort{Name: "cue", Plural: "cues", Named: true, Formulas: true}
	Formats      = &Sort{Name: "format", Plural: "formats", Named: true}
	Entries      = &Sort{Name: "entry", Plural: "entries"}
	// Easings are the document's own, by name; keys that go by one change with it.
	Easings = &Sort{Name: "easing", Plural: "easings", Named: true}
	Keys    = &Sort{Name: "key", Plural: "keys"}
)

var (
	xy     = []string{"x", "y"}
	sides  = []string{"Width", "Height"}
	rgb    = []string{"red", "green", "blue"}
	rgbs   = []string{"R", "G", "B"}
	edges  = []string{"topLeft", "topRight", "bottomRight", "bottomLeft"}
	points = []string{"topLeft.x", "topLeft.y", "topRight.x", "topRight.y", "bottomRight.x", "bottomRight.y", "bottomLeft.x", "bottomLeft.y"}
	arrows = []string{"↖", "↗", "↘", "↙"}
	moved  = []string{"↖ x", "↖ y", "↗ x", "↗ y", "↘ x", "↘ y", "↙ x", "↙ y"}
)

func percent(p Property) Property { p.Factor, p.Sign = 100, "%"; return p }

func length(p Property) Property {
	p.Unit = formula.Px
	if p.Hi == 0 {
		p.Hi = MaxLength
	}
	return p
}

// away is a length that goes both ways, and moves in units.
func away(p Property) Property {
	p.Lo, p.Join, p.Length = -MaxLength, Plus, true
	return length(p)
}

func angle(p Property) Property {
	p.Unit, p.Lo, p.Hi, p.Join = formula.Degrees, -MaxTurn, MaxTurn, Plus
	return p
}

// share is a number from 0 to 1 that keys take the place of.
func share(p Property) Property {
	p.Lo, p.Hi = 0, 1
	if p.Join == Fixed {
		p.Join = Instead
	}
	return percent(p)
}

func truth(p Property) Property { p.Type, p.Default = Switch, Is(false); return p }

func live(p Property) Property { p.Join = Instead; return p }

// choice is one of a few words, the first of which is its default.
func choice(p Property, words ...string) Property {
	p.Type, p.Words, p.Default = Choice, words, Says(words[0])
	return p
}

func needed(p Property) Property { p.Needed, p.Default = true, Value{}; return p }

func rare(p Property) Property { p.Rare = true; return p }

func given(name string) *When { return &When{Name: name} }

func texts[T ~string](list []T) []string {
	out := make([]string, len(list))
	for i, w := range list {
		out[i] = string(w)
	}
	return out
}

// Form are the rows of an outline, which layers and masks have alike.
type Form struct{ Kind, Sides, Inner, Head, Shaft, Round, Path, Open, Radius *Property }

// diamond is a drawn outline until somebody draws another.
var diamond = Value{Wide: geom.NodeWidth, Numbers: []float64{0.5, 0, 0, 0, 0, 0, 1, 0.5, 0, 0, 0, 0, 0.5, 1, 0, 0, 0, 0, 0, 0.5, 0, 0, 0, 0}}

func formRows(s *Sort, kinds []string, without *When) Form {
	row := func(p Property, of ...geom.FormKind) *Property {
		p.Kinds, p.Without, p.Section = kinds, without, "Outline"
		if of != nil {
			p.With = &When{Name: "form.kind", Words: texts(of)}
		}
		return s.Has(p)
	}
	var f Form
	f.Kind = row(choice(Property{Name: "form.kind", Label: "Form", Plain: true, Doc: "What the outline is"}, texts(geom.Forms)...))
	f.Sides = row(needed(live(Property{Name: "form.sides", First: One(6), Label: "Sides", Lo: geom.MinSides, Hi: geom.MaxSides, Integer: true,
		Doc: "Sides of a polygon, points of a star; the first stands at the top"})), geom.Polygon, geom.Star)
	f.Inner = row(share(Property{Name: "form.inner", Label: "Inner corners", Default: One(0.5), Doc: "How far a star's inner corners stand out, a share of its points"}), geom.Star)
	f.Head = row(share(Property{Name: "form.head", Label: "Head", Default: One(0.4), Doc: "Length of an arrow's head, a share of the width"}), geom.Arrow)
	f.Shaft = row(share(Property{Name: "form.shaft", Label: "Shaft", Default: One(0.4), Doc: "Thickness of an arrow's shaft, a share of the height"}), geom.Arrow)
	f.Round = row(length(Property{Name: "form.round", Label: "Rounding", Join: Times, Default: One(0), Doc: "px; radius of all corners"}), geom.Polygon, geom.Star, geom.Arrow, geom.Drawn)
	f.Path = row(Property{Name: "form.path", First: diamond, Type: Points, Label: "Path", Lo: -MaxShare, Hi: MaxShare, Least: 2, Most: geom.MaxNodes, Join: Instead, Needed: true,
		Doc: "Points in shares of the box, each `[x, y]` or with handles `[x, y, in x, in y, out x, out y]`, which are displacements from the point"}, geom.Drawn)
	f.Open = row(live(truth(Property{Name: "form.open", Label: "Open", Doc: "The last point is not joined to the first"})), geom.Drawn)
	radius := length(Property{Name: "radius", Label: "Corner radius", Section: "Look", Parts: edges, Shown: arrows, Alike: true, Join: Times, Default: One(0),
		With: &When{Name: "form.kind", Words: []string{string(geom.Rectangle)}}, Without: without,
		Doc: "px; of a rectangle: one number, or one for each corner clockwise from the top left. In a cell it is the layout's"})
	if s == Layers {
		radius.On = Cornered
	}
	f.Radius = s.Has(radius)
	return f
}
