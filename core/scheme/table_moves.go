package scheme

import "ivypocket/core/formula"

// The kinds of performances.
var (
	Saved = Performances.Add(Kind{Name: "saved", Label: "Saved move", Doc: "A move of the document's, by which the layer departs from where it stands"})
	Plain = Performances.Add(Kind{Name: "plain", Label: "Plain move", Doc: "A move without keys: from, to, and how smooth"})
)

// MostPerformed bounds how long a performance takes, in frames.
const MostPerformed = 100000

// MoveLong is how long a saved move takes as it was saved.
var MoveLong = SavedMoves.Has(Property{Name: "length", Label: "Length", Unit: formula.Frames, Lo: 1, Hi: MostPerformed, Needed: true, Plain: true,
	Doc: "Frames that it takes as its keys stand; a layer that performs it in so many has them at just those"})

// Performances. They are settled once for the whole time, so that entries may drive them and nothing else.
var (
	PerformedMove = Performances.Has(Property{Name: "move", Type: Ref, To: SavedMoves, Label: "Move", Kinds: []string{"saved"}, Needed: true, Plain: true, Doc: "The move that it performs"})
	PerformedAt   = Performances.Has(Property{Name: "at", Unit: formula.Frames, Lo: -MostPerformed, Hi: MostPerformed, Label: "Begins", Default: One(0), Doc: "The instant in the layer's own time, in frames"})
	PerformedLong = Performances.Has(needed(Property{Name: "length", Label: "Length", Unit: formula.Frames, Lo: 1, Hi: MostPerformed, First: One(20),
		Doc: "Frames that it takes; the keys of a saved move are as far apart as they are then"}))
	PerformedAmount = Performances.Has(percent(Property{Name: "amount", Label: "Distance", Lo: -10, Hi: 10, Kinds: []string{"saved"}, Default: One(1),
		Doc: "A factor: how far the layer departs from where it stands; below 0 to the other side. What takes rest's place, such as a colour, is left as it is"}))
	PerformedSoft = Performances.Has(percent(Property{Name: "soft", Label: "Softness", Lo: -1, Hi: 1, Kinds: []string{"saved"}, Default: One(0),
		Doc: "0 eases as it was saved, 1 evenly, -1 as violently as it goes"}))
	PerformedBack = Performances.Has(truth(Property{Name: "back", Label: "Backwards", Kinds: []string{"saved"}, Doc: "It leaves as it would have come"}))

	PerformedBy    = Performances.Has(choice(Property{Name: "by", Within: Worded, Label: "Done by", Doc: "The layer as a whole, or, of words, each line, word or letter, one after another"}, "whole", "line", "word", "letter"))
	PerformedOrder = Performances.Has(parted(choice(Property{Name: "order", Label: "In order", Doc: "Which of them comes first"}, "as they are read", "backwards", "from the middle", "to the middle", "at random")))
	PerformedEach  = Performances.Has(parted(Property{Name: "each", Label: "Each after", Unit: formula.Frames, Hi: 1000, Default: One(2), Doc: "Frames from one to the next; less than it takes, and they overlap"}))
	PerformedSeed  = Performances.Has(parted(Property{Name: "seed", Label: "Chance", Hi: 1e6, Integer: true, Default: One(1), Doc: "Another number is another order at random"}))
	PerformedCut   = Performances.Has(parted(truth(Property{Name: "cut", Label: "Cut at its line", Doc: "What lies above or below the line on the way is cut off"})))

	PlainPlaceFrom   = Performances.Has(plainMove(Property{Name: "place.from", Label: "Place from", Unit: formula.Px, Parts: xy, Lo: -MaxLength, Hi: MaxLength, Default: Many(0, 0), Doc: "px from where it stands"}))
	PlainPlaceTo     = Performances.Has(plainMove(Property{Name: "place.to", Label: "Place to", Unit: formula.Px, Parts: xy, Lo: -MaxLength, Hi: MaxLength, Default: Many(0, 0), Doc: "px from where it stands"}))
	PlainScaleFrom   = Performances.Has(plainMove(percent(Property{Name: "scale.from", Label: "Scale from", Lo: -MaxScale, Hi: MaxScale, Default: One(1), Doc: "A factor of its own"})))
	PlainScaleTo     = Performances.Has(plainMove(percent(Property{Name: "scale.to", Label: "Scale to", Lo: -MaxScale, Hi: MaxScale, Default: One(1), Doc: "A factor of its own"})))
	PlainTurnFrom    = Performances.Has(plainMove(Property{Name: "turn.from", Label: "Turn from", Unit: formula.Degrees, Lo: -MaxTurn, Hi: MaxTurn, Default: One(0), Doc: "Degrees, clockwise, besides its own"}))
	PlainTurnTo      = Performances.Has(plainMove(Property{Name: "turn.to", Label: "Turn to", Unit: formula.Degrees, Lo: -MaxTurn, Hi: MaxTurn, Default: One(0), Doc: "Degrees, clockwise, besides its own"}))
	PlainOpacityFrom = Performances.Has(plainMove(percent(Property{Name: "opacity.from", Label: "Opacity from", Hi: 1, Default: One(1), Doc: "A factor of its own"})))
	PlainOpacityTo   = Performances.Has(plainMove(percent(Property{Name: "opacity.to", Label: "Opacity to", Hi: 1, Default: One(1), Doc: "A factor of its own"})))
	PlainSmooth      = Performances.Has(plainMove(percent(Property{Name: "smooth", Label: "Smoothness", Hi: 1, Default: One(0.5), Doc: "0 is even, 1 begins and ends as gently as it goes"})))

	PerformedOff = Performances.Has(truth(Property{Name: "off", Label: "Off", Doc: "Left out"}))
)

func init() {
	for _, p := range Performances.Properties() {
		p.Shared = true
	}
}

// parted is of moves that parts of words perform.
func parted(p Property) Property {
	p.With = &When{Name: "by", Words: []string{"line", "word", "letter"}}
	return p
}

func plainMove(p Property) Property { p.Kinds = []string{"plain"}; return p }
