package scheme

import "ivypocket/core/words"

// The kinds of highlighters.
var (
	Sweep     = Highlights.Add(Kind{Name: "sweep", Label: "Sweep", Doc: "A band behind words, as of a felt pen"})
	Underline = Highlights.Add(Kind{Name: "underline", Label: "Underline", Doc: "A line below words"})
	WordBox   = Highlights.Add(Kind{Name: "box", Label: "Box", Doc: "A line around words"})
	Strike    = Highlights.Add(Kind{Name: "strike", Label: "Strike", Doc: "A line through words"})
)

// Suits is how thick a highlighter of a kind is of which nothing is said: in sizes of the letters, a sweep
// in heights of the line.
var Suits = map[*Kind]float64{Sweep: 0.9, Underline: 0.08, WordBox: 0.05, Strike: 0.08}

// Limits of highlighters.
const (
	MaxHighlights = 20
	MaxHighLines  = 50
)

// Highlighters of words.
var (
	HighPhrase = Highlights.Has(Property{Name: "phrase", Type: Text, Label: "Words", Most: words.MaxRunes, Plain: true,
		Doc: "The words that are highlighted, wherever they stand; of several places the nearest to `word`. Where they are not to be found, the words at that place are"})
	HighWord   = Highlights.Has(Property{Name: "word", Label: "From word", Integer: true, Hi: words.MaxRunes, Plain: true, Default: One(0), Doc: "The place of the first of them among all words, from 0"})
	HighWords  = Highlights.Has(Property{Name: "count", Label: "So many", Integer: true, Lo: 1, Hi: words.MaxRunes, Plain: true, Default: One(1), Doc: "How many words they are"})
	HighSwept  = Highlights.Has(share(Property{Name: "swept", Label: "Swept", Default: One(1), Doc: "How far it has come, from the first word to the last: 0 is nothing, 1 all of it"}))
	HighColour = Highlights.Has(live(Property{Name: "colour", Type: Colour, Label: "Colour", Needed: true, First: Says("#e7a13a"), Doc: "Its colour"}))
	HighThick  = Highlights.Has(percent(Property{Name: "thickness", Label: "Thickness", Hi: 5, Join: Times, Default: One(0), Doc: "Of a sweep in heights of the line, of others in sizes of the letters; 0 is as it suits the kind"}))
	HighOver   = Highlights.Has(percent(Property{Name: "overhang", Label: "Overhang", Lo: -5, Hi: 5, Join: Plus, Default: One(0.1), Doc: "How far it reaches beyond the words at both ends, in sizes of the letters"}))
	HighRise   = Highlights.Has(percent(Property{Name: "rise", Label: "Higher by", Lo: -5, Hi: 5, Join: Plus, Default: One(0), Doc: "In sizes of the letters"}))
	HighRound  = Highlights.Has(percent(Property{Name: "round", Label: "Rounding", Hi: 1, Join: Instead, Default: One(0), Doc: "Of its corners: 1 is round ends"}))
	HighAbove  = Highlights.Has(live(truth(Property{Name: "above", Label: "Over the words", Doc: "It lies on them, and not behind"})))
	HighOff    = Highlights.Has(live(truth(Property{Name: "off", Label: "Off", Doc: "Left out"})))

	LineColour = HighLines.Has(live(Property{Name: "colour", Type: Colour, Label: "Colour", Doc: "On its line; absent is the highlighter's"}))
	LineThick  = HighLines.Has(percent(Property{Name: "thickness", Label: "Thickness", Hi: 5, Join: Times, Default: One(0), Doc: "Likewise; 0 is the highlighter's"}))
	LineOver   = HighLines.Has(percent(Property{Name: "overhang", Label: "Overhang", Lo: -5, Hi: 5, Join: Plus, Default: One(0), Doc: "Likewise; absent is the highlighter's"}))
)
