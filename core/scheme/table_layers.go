package scheme

import (
	"ivypocket/core/formula"
	"ivypocket/core/geom"
)

// The kinds of layers.
var (
	View = Layers.Add(Kind{Name: "view", Thread: "media", Can: Moves | Box | Seen | Blends | Cornered, Label: "Pocket view",
		Doc: "A pocket: `pocket` names it. Several views may show one pocket"})
	Picture = Layers.Add(Kind{Name: "picture", Thread: "media", Can: Moves | Box | Seen | Blends | Cornered, Label: "Picture", Doc: "A picture of the template's own: `media`"})
	Shape   = Layers.Add(Kind{Name: "shape", Thread: "colour", Can: Moves | Box | Seen | Blends | Painted | Cornered, Label: "Shape", Doc: "A `form`, filled and stroked"})
	Ground  = Layers.Add(Kind{Name: "ground", Thread: "colour", Can: Seen | Blends | Painted, Label: "Ground", Doc: "A colour or a gradient over the whole canvas, or the group"})
	Group   = Layers.Add(Kind{Name: "group", Can: Moves | Box | Seen | Blends | Holds, Label: "Group", Doc: "Its `layers` as one"})
	Use     = Layers.Add(Kind{Name: "use", Can: Moves | Box | Seen | Blends | Holds, Label: "Motif use", Doc: "A motif: the group that `motif` names, with `values` of its own"})
	Grade   = Layers.Add(Kind{Name: "grade", Thread: "amount", Can: Seen, Label: "Grade", Doc: "Changes the colours of all that lies below"})
	Camera  = Layers.Add(Kind{Name: "camera", Thread: "duration", Can: Moves, Label: "Camera", Doc: "Moves all that lies below as one sheet, about the middle: `place`, `scale`, `turn`"})
	Carrier = Layers.Add(Kind{Name: "carrier", Thread: "duration", Can: Moves | Box, Label: "Carrier", Doc: "No picture: a place that others `follow`"})
	Track   = Layers.Add(Kind{Name: "track", Thread: "duration", Label: "Progress track", Doc: "No picture: a number driven by keys, which formulas read as `progress('ID')`"})
	Words   = Layers.Add(Kind{Name: "words", Thread: "words", Can: Moves | Box | Seen | Blends | Painted | Lettered | Worded, Label: "Words", Doc: "A wording, `text`, set in a face and made to fit its box"})
	_       = Layers.Add(Kind{Name: "plate", Label: "Plate", Doc: "A baked 3D sequence", Later: true})
	Counter = Layers.Add(Kind{Name: "counter", Thread: "amount", Can: Moves | Box | Seen | Blends | Painted | Lettered, Label: "Counter", Doc: "Figures that turn to an end value"})
)

// stroked are the kinds that may have a stroke.
var stroked = []string{"shape", "words", "counter"}

// BlendModes lists the modes in which a layer may lie on what is below it: those
// of W3C Compositing and Blending Level 1, section 10, and add, which is
// plus-lighter of Level 2.
var BlendModes = []string{"normal", "multiply", "screen", "overlay", "darken", "lighten", "color-dodge", "color-burn",
	"hard-light", "soft-light", "difference", "exclusion", "hue", "saturation", "color", "luminosity", "add"}

// Anchors lists the points of a box by name, in the order in which people are
// offered them.
var Anchors = []string{"centre", "top left", "top", "top right", "right", "bottom right", "bottom", "bottom left", "left"}

var anchorPoints = [][2]float64{{0.5, 0.5}, {0, 0}, {0.5, 0}, {1, 0}, {1, 0.5}, {1, 1}, {0.5, 1}, {0, 1}, {0, 0.5}}

// AnchorPoint is where an anchor stands in its box, in shares of it.
func AnchorPoint(name string) [2]float64 {
	for i, n := range Anchors {
		if n == name {
			return anchorPoints[i]
		}
	}
	return anchorPoints[0]
}

// Wording are the rows of what shows letters.
var Wording = wordRows()

// What layers are of, and where they stand.
var (
	Motif = Layers.Has(Property{Name: "motif", Type: Ref, To: Motifs, Kinds: []string{"use"}, Needed: true, Plain: true, Label: "Motif", Section: "Place", Doc: "The motif that is used"})
	Place = Layers.Has(away(Property{Name: "place", Label: "Place", Section: "Place", On: Moves, Parts: xy, Way: true, Default: Many(0, 0),
		Doc: "px; where the layer's anchor stands, from the canvas' or the group's. In a cell it is the cell's"}))
	Size = Layers.Has(length(Property{Name: "size", Label: "Size", Section: "Place", On: Box, Parts: xy, Shown: sides, Join: Times,
		Doc: "px; absent is the cell, the group, the picture, or the whole canvas"}))
	Anchor = Layers.Has(choice(Property{Name: "anchor", Label: "Anchored to", Section: "Place", On: Box,
		Doc: "The point of the canvas, or of the group's box, that `place` counts from, and the point of the layer that is put there: one place may so serve canvases of all proportions"}, Anchors...))
	CellLayout = Layers.Has(rare(Property{Name: "cell.layout", Type: Ref, To: Layouts, Label: "Layout", Section: "Place", On: Box, Plain: true,
		Doc: "The layout in a cell of which it stands; then it has no place, size or anchor of its own"}))
	CellRow = Layers.Has(rare(needed(Property{Name: "cell.row", First: One(0), Label: "Row", Section: "Place", On: Box, Hi: 15, Integer: true, With: given("cell.layout"),
		Doc: "Counted from 0"})))
	CellColumn = Layers.Has(rare(needed(Property{Name: "cell.column", First: One(0), Label: "Column", Section: "Place", On: Box, Hi: 15, Integer: true, With: given("cell.layout"),
		Doc: "Counted from 0"})))
	CellDown   = Layers.Has(rare(spans(Property{Name: "cell.down", Label: "Rows it spans", Doc: "How many rows it goes over, with the gutters between"})))
	CellAcross = Layers.Has(rare(spans(Property{Name: "cell.across", Label: "Columns it spans", Doc: "How many columns it goes over"})))
	Scale      = Layers.Has(percent(Property{Name: "scale", Label: "Scale", Section: "Place", On: Moves, Parts: xy, Alike: true, Lo: -MaxScale, Hi: MaxScale, Join: Times, Signed: true, Default: One(1),
		Doc: "Factors about the origin; scale, skew and turn in this order"}))
	Turn   = Layers.Has(angle(Property{Name: "turn", Label: "Turn", Section: "Place", On: Moves, Default: One(0), Doc: "Degrees, clockwise, about the origin"}))
	Covers = Layers.Has(rare(truth(Property{Name: "covers", Label: "Covers its canvas", Section: "Place", On: Box,
		Doc: "Enlarges it by the smallest factor with which it hides its canvas or group at every instant, however it turns and moves"})))
	Skew = Layers.Has(rare(Property{Name: "skew", Label: "Skew", Section: "Place", On: Box, Parts: xy, Unit: formula.Degrees, Lo: -89, Hi: 89, Join: Plus, Default: Many(0, 0),
		Doc: "Degrees along x and y"}))
	Origin = Layers.Has(rare(percent(Property{Name: "origin", Label: "Origin", Section: "Place", On: Box, Parts: xy, Lo: -MaxShare, Hi: MaxShare, Join: Plus, Default: Many(0.5, 0.5),
		Doc: "The point it turns, skews and grows about, in shares of its box"})))
	Corners = Layers.Has(rare(away(Property{Name: "corners", Label: "Corners moved by", Section: "Place", On: Box, Parts: points, Shown: moved, Default: Many(0, 0, 0, 0, 0, 0, 0, 0),
		Doc: "px by which the four corners are moved, clockwise from the top left: perspective"})))
	Follow = Layers.Has(rare(Property{Name: "follow", Type: Ref, To: Layers, Verb: "follows", Label: "Follows", Section: "Place", On: Box, Plain: true,
		Doc: "A layer whose departure from rest this one shares, never its place"}))
)

// How what is in a group stands in a row or a stack, and closes up around what is left out.
var (
	FlowWay = Layers.Has(choice(flow(Property{Name: "flow.way", Label: "Flow",
		Doc: "What is in the group stands in a `row` or a `stack`, the topmost first, as wide and high as it is scaled at rest; what is hidden takes no room. What has no size of its own, stands in a cell, is `loose` or has a formula for its place takes no part. Keys for places depart from where the flow has them"}), "none", "row", "stack"))
	FlowGap   = Layers.Has(length(flow(Property{Name: "flow.gap", Label: "Gap", Join: Times, Default: One(0), Doc: "px between one and the next, and between lines"})))
	FlowAlign = Layers.Has(choice(flow(Property{Name: "flow.align", Label: "Aligned", Doc: "How what is in a line stands across it"}), "centre", "start", "end"))
	FlowFrom  = Layers.Has(rare(choice(flow(Property{Name: "flow.from", Label: "Begins", Doc: "Where lines stand that are shorter than there is room"}), "centre", "start", "end")))
	FlowWrap  = Layers.Has(rare(length(flow(Property{Name: "flow.wrap", Label: "Wraps at", Join: Times, Default: One(0), Doc: "px that a line is long at most; 0 does not wrap"}))))
	FlowHugs  = Layers.Has(truth(flow(Property{Name: "flow.hugs", Label: "Hugs what is in it", Doc: "The group is as large as what is in it; what has no size of its own, such as a backing, fills it"})))
	FlowPad   = Layers.Has(rare(length(flow(Property{Name: "flow.padding", Label: "Padding", Join: Times, Default: One(0), Doc: "px around what is in a group that hugs it"}))))
	Loose     = Layers.Has(rare(truth(Property{Name: "loose", Label: "Stays out of the flow", Section: "Place", On: Box, Plain: true, Doc: "It takes no part in the flow of its group"})))
)

func flow(p Property) Property {
	p.Section, p.Kinds = "Flow", []string{"group"}
	if p.Name != "flow.way" {
		p.With = given("flow.way")
	}
	return p
}

// What formulas read of a progress track: how far it is, times how much all of it is.
var (
	Progress = Layers.Has(percent(live(Property{Name: "progress", Label: "Progress", Section: "Progress", Kinds: []string{"track"}, Lo: -100, Hi: 100, Default: One(0),
		Doc: "How far it has come: 0 is the beginning, 1 the end; easing may swing beyond both"})))
	Goal = Layers.Has(live(Property{Name: "goal", Label: "Goes to", Section: "Progress", Kinds: []string{"track"}, Lo: -1e6, Hi: 1e6, Default: One(1),
		Doc: "What it is when all of it is done: `progress('ID')` is its progress times this, which an entry may drive"}))
)

// How a shape stands behind words, and grows with them.
var (
	BackOf = Layers.Has(rare(Property{Name: "behind.of", Type: Ref, To: Layers, Verb: "stands behind", Label: "Behind", Section: "Behind words", Kinds: []string{"shape"}, Plain: true,
		Doc: "Words in the same group: the shape is as large as they are, and stands where they do"}))
	BackPadding = Layers.Has(away(Property{Name: "behind.padding", Label: "Padding", Section: "Behind words", Kinds: []string{"shape"}, With: given("behind.of"),
		Parts: []string{"top", "right", "bottom", "left"}, Shown: []string{"↑", "→", "↓", "←"}, Alike: true, Default: One(0), Doc: "px around them; one number, or one for each side from the top clockwise"}))
	BackLeast = Layers.Has(rare(length(Property{Name: "behind.least", Label: "Smallest", Section: "Behind words", Kinds: []string{"shape"}, With: given("behind.of"), Parts: xy, Shown: sides,
		Join: Times, Default: Many(0, 0), Doc: "px that it is wide and high at the least"})))
	BackMost = Layers.Has(rare(length(Property{Name: "behind.most", Label: "Largest", Section: "Behind words", Kinds: []string{"shape"}, With: given("behind.of"), Parts: xy, Shown: sides,
		Join: Times, Default: Many(0, 0), Doc: "px that it is wide and high at the most; 0 is as large as it gets"})))
)

// How layers look.
var (
	Opacity  = Layers.Has(percent(Property{Name: "opacity", Label: "Opacity", Section: "Look", On: Seen, Hi: 1, Join: Times, Default: One(1), Doc: "0 to 1"}))
	OwnMedia = Layers.Has(Property{Name: "media", Type: Media, Kinds: []string{"picture"}, Needed: true, Label: "Picture", Section: "Look", Doc: "The picture: `sha256:…`"})
	Hidden   = Layers.Has(rare(live(truth(Property{Name: "hidden", Label: "Hidden", Section: "Look", On: Seen, Doc: "Not drawn, but may be a matte and may be followed"}))))
	Without  = Layers.Has(rare(Property{Name: "without", Type: Ref, To: Pockets, Label: "Left out without", Section: "Look", On: Seen, Plain: true,
		Doc: "A pocket: while nothing lies in it, neither an editor's media nor a stand-in, the layer is hidden, whatever its keys say"}))
	Locked = Layers.Has(rare(truth(Property{Name: "locked", Label: "Locked", Section: "Look", Plain: true, Doc: "At the bench the pointer and the keys leave it, and all that is in it, as it is; it is drawn as ever"})))
	Blend  = Layers.Has(rare(live(choice(Property{Name: "blend", Label: "Blend", Section: "Look", On: Blends,
		Doc: "How it lies on what is below it: a mode of W3C Compositing and Blending Level 1, or `add`, which is `plus-lighter` of Level 2"}, BlendModes...))))
	Clips    = Layers.Has(rare(live(truth(Property{Name: "clip", Label: "Clips", Section: "Look", On: Holds, Doc: "What is in it is cut off at its box"}))))
	Isolated = Layers.Has(rare(live(truth(Property{Name: "isolated", Label: "Isolated", Section: "Look", On: Holds,
		Doc: "Blends among its own layers alone, as in W3C Compositing and Blending Level 1, section 3.3"}))))
	LayerForm = formRows(Layers, []string{"shape"}, nil)
	Radius    = LayerForm.Radius
	Fill      = Layers.Has(live(Property{Name: "fill", Type: Colour, Label: "Fill", Section: "Look", On: Painted, Without: given("gradient.kind"), Doc: "The colour it is filled with"}))

	GradientKind = Layers.Has(rare(Property{Name: "gradient.kind", Type: Choice, Words: []string{"linear", "radial", "conic"}, Label: "Gradient", Section: "Look", On: Painted, Plain: true,
		Doc: "`linear` runs from one point to the other, `radial` has its centre at the first and its rim through the other, `conic` goes clockwise round the first, beginning in the direction of the other. Mixed premultiplied"}))
	GradientFrom = Layers.Has(percent(live(needed(Property{Name: "gradient.from", First: Many(0, 0.5), Label: "Gradient from", Section: "Look", On: Painted, Parts: xy, Lo: -MaxShare, Hi: MaxShare, With: given("gradient.kind"),
		Doc: "Shares of the box"}))))
	GradientTo = Layers.Has(percent(live(needed(Property{Name: "gradient.to", First: Many(1, 0.5), Label: "Gradient to", Section: "Look", On: Painted, Parts: xy, Lo: -MaxShare, Hi: MaxShare, With: given("gradient.kind"),
		Doc: "Shares of the box"}))))
	GradientPlain = Layers.Has(rare(truth(Property{Name: "gradient.plain", Label: "Without dithering", Section: "Look", On: Painted, With: given("gradient.kind"),
		Doc: "Leaves out the dithering that keeps slow changes free of bands"})))

	GradientNamed = Layers.Has(Property{Name: "gradient.named", Type: Ref, To: Gradients, Label: "Named gradient", Section: "Look", On: Painted, With: given("gradient.kind"),
		Doc: "One of the document's gradients, the stops of which it has in place of its own"})

	StrokeColour = Layers.Has(live(Property{Name: "stroke.colour", Type: Colour, Label: "Colour", Section: "Stroke", Kinds: stroked, Doc: "A line along the form, or around each letter, in this colour"}))
	StrokeWidth  = Layers.Has(length(stroke(Property{Name: "stroke.width", First: One(4), Label: "Width", Join: Times, Needed: true, Doc: "px"})))
	StrokeAlign  = Layers.Has(rare(live(choice(stroke(Property{Name: "stroke.align", Label: "Lies", Doc: "On which side of the outline it lies"}), "centre", "inside", "outside"))))
	StrokeCap    = Layers.Has(rare(live(choice(stroke(Property{Name: "stroke.cap", Label: "Ends", Doc: "How open ends end, as in SVG"}), "butt", "round", "square"))))
	StrokeJoin   = Layers.Has(rare(live(choice(stroke(Property{Name: "stroke.join", Label: "Corners", Doc: "How corners are joined, as in SVG"}), "miter", "round", "bevel"))))
	StrokeMiter  = Layers.Has(rare(live(stroke(Property{Name: "stroke.miter", Label: "Longest mitre", Lo: 1, Hi: 1000, Default: One(4), Doc: "In widths"}))))
	StrokeDash   = Layers.Has(rare(live(stroke(Property{Name: "stroke.dash", Type: List, Label: "Dashes", Sign: "px", Hi: MaxLength, Most: MaxDashes, Doc: "px of line and gap in turn"}))))
	StrokeShift  = Layers.Has(rare(away(stroke(Property{Name: "stroke.shift", Label: "Dashes begin", Default: One(0), Doc: "px into the dashes at which they begin"}))))
	StrokeFrom   = Layers.Has(share(stroke(Property{Name: "stroke.from", Label: "Drawn from", Default: One(0), Doc: "The part of the outline that is drawn begins here, a share of its length"})))
	StrokeTo     = Layers.Has(share(stroke(Property{Name: "stroke.to", Label: "Drawn to", Default: One(1), Doc: "and ends here"})))

	Pocket = Layers.Has(Property{Name: "pocket", Type: Ref, To: Pockets, Kinds: []string{"view"}, Needed: true, Plain: true, Label: "Pocket", Section: "Media inside",
		Doc: "The pocket that is shown"})
	ContentTurn = Layers.Has(angle(content(Property{Name: "content.turn", Label: "Turn", Default: One(0), Doc: "How a view's media moves inside the pocket, on top of its framing: degrees, clockwise"})))
	ContentPan  = Layers.Has(percent(content(Property{Name: "content.pan", Label: "Pan", Parts: xy, Lo: -4, Hi: 4, Join: Plus, Default: Many(0, 0), Doc: "Shares of the pocket"})))
	ContentZoom = Layers.Has(percent(content(Property{Name: "content.zoom", Label: "Zoom", Hi: MaxScale, Join: Times, Default: One(1),
		Doc: "A factor. In cover it is enlarged by the smallest factor with which no edge shows for the whole motion, between keys too"})))

	Slope      = Layers.Has(grade(Property{Name: "grade.slope", Label: "Slope", Parts: rgb, Shown: rgbs, Alike: true, Hi: 10, Default: One(1), Doc: "ASC CDL: out = (in · slope + offset) ^ power for each channel"}))
	Offset     = Layers.Has(grade(Property{Name: "grade.offset", Label: "Offset", Parts: rgb, Shown: rgbs, Alike: true, Lo: -2, Hi: 2, Default: One(0), Doc: "ASC CDL"}))
	Power      = Layers.Has(grade(Property{Name: "grade.power", Label: "Power", Parts: rgb, Shown: rgbs, Alike: true, Lo: 0.05, Hi: 10, Default: One(1), Doc: "ASC CDL"}))
	Saturation = Layers.Has(percent(grade(Property{Name: "grade.saturation", Label: "Saturation", Hi: 10, Default: One(1), Doc: "About BT.709 luma, after the rest"})))
)

// What cuts layers, when they are there, and how often.
var (
	MatteLayer = Layers.Has(rare(Property{Name: "matte.layer", Type: Ref, To: Layers, Verb: "is cut by", Label: "Cut by", Section: "Cut", On: Seen, Plain: true,
		Doc: "Any layer, wherever it stands; what goes in a circle is a fault"}))
	MatteOf = Layers.Has(rare(live(needed(choice(Property{Name: "matte.of", First: Says("alpha"), Label: "Its", Section: "Cut", On: Seen, With: given("matte.layer"),
		Doc: "Whether its opacity or its brightness cuts"}, "alpha", "luma")))))
	MatteInvert = Layers.Has(rare(live(truth(Property{Name: "matte.invert", Label: "Inverted", Section: "Cut", On: Seen, With: given("matte.layer"), Doc: "Cuts what would be left"}))))

	In  = Layers.Has(rare(Property{Name: "in", Type: Time, Unit: formula.Frames, Label: "From", Section: "Time", Default: One(0), Doc: "The first instant at which it is there; absent is the template's beginning"}))
	Out = Layers.Has(rare(Property{Name: "out", Type: Time, Unit: formula.Frames, Label: "Until", Section: "Time", Doc: "The first instant at which it is gone; absent is the template's end"}))

	Shift = Layers.Has(rare(Property{Name: "shift", Type: Time, Unit: formula.Frames, Label: "Shifted by", Section: "Time", Default: One(0),
		Doc: "Frames, how much later it plays with all that is its own: keys, masks, trim, clip, and what is in it; below 0 earlier"}))

	CopiesCount  = Layers.Has(rare(Property{Name: "copies.count", Label: "Copies", Section: "Copies", On: Box, Lo: 1, Hi: MaxCopies, Integer: true, Plain: true, Doc: "How many there are in all, scattered at random, the same every time"}))
	CopiesSeed   = Layers.Has(rare(copies(Property{Name: "copies.seed", Label: "Seed", Lo: -1 << 53, Hi: 1 << 53, Integer: true, Default: One(0), Doc: "Another one scatters them otherwise"})))
	CopiesSpread = Layers.Has(rare(percent(copies(Property{Name: "copies.spread", First: Many(0.5, 0.5), Label: "Spread", Parts: xy, Hi: MaxShare, Default: Many(0, 0), Doc: "How far they are shifted at most, shares of the canvas"}))))
	CopiesTurn   = Layers.Has(rare(copies(Property{Name: "copies.turn", Label: "Turned by", Unit: formula.Degrees, Hi: MaxTurn, Default: One(0), Doc: "Degrees, how far they are turned at most"})))
	CopiesScale  = Layers.Has(rare(percent(copies(Property{Name: "copies.scale", Bound: true, Label: "Scaled by", Parts: []string{"least", "greatest"}, Hi: MaxScale, Default: Many(1, 1), Doc: "The least and the greatest factor"}))))
	CopiesDelay  = Layers.Has(rare(copies(Property{Name: "copies.delay", Bound: true, Label: "Delayed by", Unit: formula.Frames, Hi: 1 << 31, Integer: true, Default: One(0), Doc: "Frames, how late their motion is at most"})))

	BlurSamples = Layers.Has(rare(Property{Name: "motionBlur.samples", Label: "Instants", Section: "Motion blur", On: Box, Lo: 2, Hi: MaxSamples, Integer: true, Plain: true,
		Doc: "The mean of so many instants of the time in which the shutter is open"}))
	BlurShutter = Layers.Has(rare(needed(Property{Name: "motionBlur.shutter", First: One(180), Label: "Shutter", Section: "Motion blur", On: Box, Unit: formula.Degrees, Lo: 1e-6, Hi: 720, With: given("motionBlur.samples"),
		Doc: "Degrees; 360 is open for all of a frame"})))
)

func spans(p Property) Property {
	p.Section, p.On, p.Lo, p.Hi, p.Integer, p.With, p.Default = "Place", Box, 1, geom.MaxCellsPerAxis, true, given("cell.layout"), One(1)
	return p
}

func stroke(p Property) Property {
	p.Section, p.Kinds, p.With = "Stroke", stroked, given("stroke.colour")
	return p
}

func content(p Property) Property { p.Section, p.Kinds = "Media inside", []string{"view"}; return p }

func grade(p Property) Property {
	p.Section, p.Kinds, p.Join = "Grade", []string{"grade"}, Instead
	return p
}

func copies(p Property) Property {
	p.Section, p.On, p.With = "Copies", Box, given("copies.count")
	return p
}

// Masks.
var (
	MaskOf = Masks.Has(Property{Name: "of", Type: Choice, Words: []string{"box", "hull", "outline"}, Label: "Follows", Plain: true,
		Doc: "Makes the outline from a pocket's media instead: its visible `box`, the `hull` of what is visible, or its traced `outline` (of a clip, that of its first frame)"})
	MaskPocket = Masks.Has(Property{Name: "pocket", Type: Ref, To: Pockets, Label: "Of pocket", Plain: true, With: given("of"), Doc: "Whose media; absent is the view's own"})
	MaskWords  = Masks.Has(Property{Name: "words", Type: Ref, To: Layers, Verb: "is masked by", Label: "Of words", Plain: true, With: given("of"),
		Doc: "The layer whose letters it follows instead, wherever they stand: as `outline` the letters, as `box` what they fill"})
	MaskForm   = formRows(Masks, nil, given("of"))
	MaskPlace  = Masks.Has(away(Property{Name: "place", Label: "Place", Parts: xy, Way: true, Default: Many(0, 0), Without: given("of"), Doc: "px from the middle of the layer's box"}))
	MaskSize   = Masks.Has(length(Property{Name: "size", Label: "Size", Parts: xy, Shown: sides, Join: Times, Without: given("of"), Doc: "px; absent is the layer's box"}))
	MaskTurn   = Masks.Has(angle(Property{Name: "turn", Label: "Turn", Default: One(0), Without: given("of"), Doc: "Degrees, clockwise"}))
	MaskOff    = Masks.Has(rare(live(truth(Property{Name: "off", Label: "Off", Doc: "Left out: what it cuts away is seen"}))))
	MaskMode   = Masks.Has(live(choice(Property{Name: "mode", Label: "Joins by", Doc: "How it joins the masks before it; a first one that subtracts takes from all"}, "add", "subtract", "intersect")))
	MaskInvert = Masks.Has(live(truth(Property{Name: "invert", Label: "Inverted", Doc: "What is outside is kept"})))
	Feather    = Masks.Has(length(Property{Name: "feather", Label: "Feather", Join: Times, Default: One(0), Doc: "px; width of the soft edge"}))
	Soft       = Masks.Has(live(choice(Property{Name: "soft", Label: "Soft", Doc: "To which side, or both, the edge is soft"}, "both", "inwards", "outwards")))
	Falloff    = Masks.Has(Property{Name: "falloff", Type: Curve, Label: "Falloff", Doc: "The way from clear to full across the feather; absent is linear"})
	Growth     = Masks.Has(away(Property{Name: "growth", Label: "Growth", Default: One(0), Doc: "px by which the outline is moved outwards, or inwards below 0"}))
	MaskAlpha  = Masks.Has(percent(Property{Name: "opacity", Label: "Opacity", Hi: 1, Join: Times, Default: One(1), Doc: "0 to 1"}))
)

// Stops of a gradient.
var (
	StopAt     = Stops.Has(needed(share(Property{Name: "at", Bound: true, Label: "At", Doc: "A share of the way; not before the stop before it"})))
	StopColour = Stops.Has(live(Property{Name: "colour", Type: Colour, Label: "Colour", Needed: true, Doc: "The colour there"}))
)

func init() {
	Gradients.Parts = []*Part{{Name: "stops", At: "stops", Of: Stops, Most: MaxStops, Doc: "Its colours, 2 of them or more; they have no keys and no formulas"}}
	Treatments.Parts = []*Part{{Name: "masks", At: "masks", Of: Masks, Most: MaxMasks, Doc: "Where it is done, on the layer's box; they join in their order. None is all over the layer"}}
	Highlights.Parts = []*Part{{Name: "lines", At: "lines", Of: HighLines, Most: MaxHighLines, Doc: "How it differs on its first line, its second and so on; the last of them holds for the rest"}}
	Layers.Parts = []*Part{
		{Name: "layers", At: "layers", Of: Layers, Most: MaxLayers, On: Holds, Without: "motif", Doc: "What is in a group, the lowest first"},
		{Name: "masks", At: "masks", Of: Masks, Most: MaxMasks, On: Seen, Doc: "What cuts it; they join in their order"},
		{Name: "treatments", At: "treatments", Of: Treatments, Most: MaxTreatments, On: Blends, Doc: "What is done to its picture, one after another"},
		{Name: "stops", At: "gradient.stops", Of: Stops, Most: MaxStops, On: Painted, With: "gradient.kind", Doc: "The colours of its gradient, 2 of them or more unless it has a named one"},
		{Name: "moves", At: "moves", Of: Performances, Most: MaxPerformances, Doc: "What it does besides its own keys: saved moves, and plain ones"},
		{Name: "highlights", At: "highlights", Of: Highlights, Most: MaxHighlights, On: Worded, Doc: "What marks its words; later ones lie above earlier ones"},
		{Name: "axes", At: "axes", Of: Axes, Most: MaxAxes, On: Lettered, Doc: "Where a variable face stands on its axes, besides its weight"},
	}
	SavedMoves.Parts = []*Part{
		{Name: "masks", At: "masks", Of: Masks, Most: MaxMasks, Doc: "Masks that a layer has while it performs the move"},
		{Name: "treatments", At: "treatments", Of: Treatments, Most: MaxTreatments, Doc: "Treatments that a layer has while it performs the move"},
	}
}

// Where the parts of a layer stand.
const (
	PartLayers = iota
	PartMasks
	PartTreatments
	PartStops
	PartMoves
	PartHighlights
	PartAxes
)
