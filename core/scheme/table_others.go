package scheme

import (
	"ivypocket/core/formula"
	"ivypocket/core/geom"
	"ivypocket/core/recipe"
	"ivypocket/core/timing"
)

// Split is the kind of layout that divides the canvas.
var Split = Layouts.Add(Kind{Name: "split", Label: "Split", Doc: "Divides the canvas into rows and columns"})

// Layouts.
var (
	Rows     = Layouts.Has(weights(Property{Name: "rows", Label: "Rows", Doc: "Weights, 1 to 16 of them; `[1, 1]` is two equal ones, `[2, 1]` an uneven pair"}))
	Columns  = Layouts.Has(weights(Property{Name: "columns", Label: "Columns", Doc: "Weights, as rows"}))
	Gutter   = Layouts.Has(length(Property{Name: "gutter", Label: "Gutter", Join: Times, Default: One(0), Doc: "px between neighbours"}))
	GutterBy = Layouts.Has(needed(choice(Property{Name: "gutterBy", Label: "Gutter by",
		Doc: "`shrink`: cells get smaller, outer edges stay. `outwards`: cells keep their size and move away from the middle, so outer edges are lost"}, string(geom.Shrink), string(geom.Outwards))))
	Margin     = Layouts.Has(length(Property{Name: "margin", Label: "Margin", Join: Times, Default: One(0), Doc: "px between the outer cells and the canvas edge"}))
	CellRadius = Layouts.Has(length(Property{Name: "radius", Label: "Corner radius", Join: Times, Default: One(0), Doc: "px; of each cell, at most half its shorter side"}))
)

func weights(p Property) Property {
	p.Type, p.Lo, p.Hi, p.Least, p.Most, p.Join, p.Needed = List, 1e-4, 1e6, 1, geom.MaxCellsPerAxis, Instead, true
	return p
}

// What is settled once for a template: its canvases, colours, pockets, instants
// and what its sheet asks for.
var (
	FormatWidth  = Formats.Has(Property{Name: "width", Label: "Width", Unit: formula.Px, Lo: MinSide, Hi: MaxSide, Integer: true, Needed: true, Plain: true, Doc: "px, even, 16 to 8192"})
	FormatHeight = Formats.Has(Property{Name: "height", Label: "Height", Unit: formula.Px, Lo: MinSide, Hi: MaxSide, Integer: true, Needed: true, Plain: true, Doc: "px, even, 16 to 8192"})
	FormatRest   = Formats.Has(Property{Name: "rest", Type: Whole, Label: "Its own values", Plain: true, Doc: "Values that differ in this format, each whole, by their paths"})

	ColourValue = Colours.Has(Property{Name: "value", Type: Colour, Label: "Colour", Needed: true, Doc: "`#rrggbb` or `#rrggbbaa`"})

	PocketKinds = Pockets.Has(Property{Name: "kinds", Type: Choices, Words: []string{"picture", "footage", "logo"}, Label: "Takes", Needed: true, Plain: true, Doc: "What it takes; a logo pocket takes pictures too"})
	PocketRole  = Pockets.Has(Property{Name: "role", Type: Choice, Words: []string{"from", "to", "clip"}, Label: "Part", Plain: true,
		Doc: "Its part in what the template is for: of a transition `from`, which it leads away from, and `to`, which it leads to; of a frame the `clip` it is put around"})
	FramingFit = Pockets.Has(framing(choice(Property{Name: "framing.fit", Label: "Fit",
		Doc: "How media of any proportions is brought into the pocket: CSS `object-fit` (`stretch` is its `fill`, `original` its `none`); absent is `contain` for logos, `cover` for the rest"}, texts(geom.Fits)...)))
	FramingFocus = Pockets.Has(framing(percent(Property{Name: "framing.focus", Label: "Focus", Parts: xy, Hi: 1, Default: Many(0.5, 0.5),
		Doc: "The point of the media that matters, shares of width and height; CSS `object-position` in percent"})))
	FramingPan   = Pockets.Has(framing(percent(Property{Name: "framing.pan", Label: "Pan", Parts: xy, Lo: -geom.MaxPan, Hi: geom.MaxPan, Default: Many(0, 0), Doc: "Shift in shares of the pocket"})))
	FramingZoom  = Pockets.Has(framing(percent(Property{Name: "framing.zoom", Label: "Zoom", Lo: geom.MinZoom, Hi: geom.MaxZoom, Default: One(1), Doc: "1 is the fit itself"})))
	FramingTurn  = Pockets.Has(framing(Property{Name: "framing.turn", Label: "Turn", Unit: formula.Degrees, Lo: -geom.MaxTurn, Hi: geom.MaxTurn, Default: One(0), Doc: "Degrees, clockwise"}))
	FramingFlipX = Pockets.Has(framing(truth(Property{Name: "framing.flipX", Label: "Mirrored", Doc: "Left and right change places"})))
	FramingFlipY = Pockets.Has(framing(truth(Property{Name: "framing.flipY", Label: "Upside down", Doc: "Top and bottom change places"})))
	LimitsPan    = Pockets.Has(limits(percent(Property{Name: "limits.pan", Label: "Pan", Parts: xy, Hi: geom.MaxPan, Doc: "How far an editor may shift its media from where the pocket's own framing has it, shares of the pocket; absent is as far as it goes"})))
	LimitsZoom   = Pockets.Has(limits(percent(Property{Name: "limits.zoom", Label: "Zoom", Parts: []string{"least", "greatest"}, Bound: true, Lo: geom.MinZoom, Hi: geom.MaxZoom, Doc: "The least and the greatest zoom of an editor"})))
	LimitsTurn   = Pockets.Has(limits(Property{Name: "limits.turn", Label: "Turn", Unit: formula.Degrees, Hi: geom.MaxTurn, Doc: "Degrees by which an editor may turn its media from the pocket's own turn, either way"}))
	Required     = Pockets.Has(truth(Property{Name: "required", Label: "Needed", Plain: true, Doc: "A piece is not done while the pocket holds its stand-in, or nothing"}))
	LiningMedia  = Pockets.Has(Property{Name: "lining.media", Type: Media, Label: "Lining", Section: "Lining", Plain: true, Doc: "A picture that it shows while it is empty, in place of a neutral card: `sha256:…`"})
	PlaySpeed    = Pockets.Has(Property{Name: "play.speed", Type: Exact, Label: "Speed", Section: "Clips", Default: One(1), Doc: "A factor, exact: `1`, `1.5`, `\"2/3\"`; 1/20 to 20"})
	PlayAfter    = Pockets.Has(choice(Property{Name: "play.after", Label: "When it is over", Section: "Clips",
		Doc: "When a clip is over before the piece: `hold` its last frame, `loop`, or `bounce` back to its first and forth again"}, "hold", "loop", "bounce"))
	StandInMedia = Pockets.Has(Property{Name: "standIn.media", Type: Media, Label: "Stand-in", Section: "Stand-in", Plain: true, Doc: "The sample media it holds while the template is built: `sha256:…`"})
	StandInPoint = Pockets.Has(Property{Name: "standIn.inPoint", Label: "In-point", Section: "Stand-in", Unit: formula.Frames, Hi: 1 << 31, Integer: true, Plain: true, Default: One(0),
		With: given("standIn.media"), Doc: "The first frame that is seen of a stand-in that is a clip, from 0"})

	StandInAway = Pockets.Has(truth(Property{Name: "standIn.away", Label: "Put away", Section: "Stand-in", Plain: true, With: given("standIn.media"),
		Doc: "For delivery: the pocket is empty, and its stand-in can be put back"}))

	CueAt = Cues.Has(Property{Name: "at", Type: Time, Unit: formula.Frames, Label: "At", Needed: true, Doc: "The instant, in frames"})

	RecipeKind    = Recipes.Has(needed(choice(Property{Name: "kind", Label: "Kind", Plain: true, Doc: "What was built"}, recipe.Kinds()...)))
	RecipeNumbers = Recipes.Has(Property{Name: "numbers", Type: Whole, Label: "Numbers", Needed: true, Plain: true, Doc: "What it was built from, by name, within the limits that the program tells"})
	RecipeFrames  = Recipes.Has(Property{Name: "frames", Label: "Length", Unit: formula.Frames, Lo: 1, Hi: timing.MaxFrames, Integer: true, Needed: true, Plain: true, Doc: "The length it was built for"})

	EasingCurve = Easings.Has(Property{Name: "ease", Type: Curve, Label: "Ease", Plain: true, Doc: "The four numbers of CSS `cubic-bezier`"})
	EasingSteps = Easings.Has(Property{Name: "steps.count", Label: "Steps", Lo: 1, Hi: timing.MaxSteps, Integer: true, Plain: true, Doc: "So many equal steps, as CSS `steps()` has them; in place of an ease"})
	EasingJump  = Easings.Has(choice(Property{Name: "steps.jump", Label: "Steps are made", Plain: true, With: given("steps.count"), Doc: "Where one is: at the `end`, the `start`, at `none` or at `both`"}, "end", "start", "none", "both"))

	KeyAt    = Keys.Has(Property{Name: "at", Type: Time, Unit: formula.Frames, Label: "At", Doc: "Frames of the template's rate; inner keys of an even way may leave it out"})
	KeyValue = Keys.Has(Property{Name: "value", Type: Whole, Label: "Value", Needed: true, Doc: "As the property has it, joined to rest as the table says"})
	KeyEase  = Keys.Has(Property{Name: "ease", Type: Curve, Label: "Ease", Doc: "The way to the next key: the four numbers of CSS `cubic-bezier`; absent is linear"})
	KeySteps = Keys.Has(Property{Name: "steps.count", Label: "Steps", Lo: 1, Hi: timing.MaxSteps, Integer: true, Doc: "The way to the next key is gone in so many equal steps, as CSS `steps()` has it; in place of an ease"})
	KeyJump  = Keys.Has(choice(Property{Name: "steps.jump", Label: "Steps are made", With: given("steps.count"), Doc: "Where one is: at the `end`, the `start`, at `none` or at `both`"}, "end", "start", "none", "both"))
	KeyHold  = Keys.Has(truth(Property{Name: "hold", Label: "Hold", Doc: "Keeps the value until the next key"}))
	KeyNamed = Keys.Has(Property{Name: "named", Type: Text, Label: "Named", Doc: "The id of the document's easing that it goes by: its `ease` or `steps` are that one's"})
	KeyOut   = Keys.Has(Property{Name: "out", Label: "Way out", Parts: xy, Lo: -MaxShare, Hi: MaxShare, Doc: "A handle that bends the way of a place: a displacement from the key"})
	KeyIn    = Keys.Has(Property{Name: "in", Label: "Way in", Parts: xy, Lo: -MaxShare, Hi: MaxShare, Doc: "The handle of the way that comes here"})
)

func limits(p Property) Property { p.Section, p.Plain = "Limits", true; return p }

func framing(p Property) Property { p.Section = "Framing"; return p }
