package scheme

import "ivypocket/core/words"

// What an entry of the sheet may ask for, in the order in which a sheet has them: what
// changes most stands first.
var (
	MediaEntry    = Entries.Add(Kind{Name: "media", Label: "Media", Thread: "media", Doc: "What lies in a pocket"})
	WordsEntry    = Entries.Add(Kind{Name: "words", Label: "Words", Thread: "words", Doc: "A wording of one line as it is typed; it may be set in several"})
	LinesEntry    = Entries.Add(Kind{Name: "lines", Label: "Lines of words", Thread: "words", Doc: "A wording of several lines"})
	TypefaceEntry = Entries.Add(Kind{Name: "typeface", Label: "Face", Thread: "words", Doc: "One of a few faces"})
	ChoiceEntry   = Entries.Add(Kind{Name: "choice", Label: "Choice", Thread: "choice", Doc: "One of a few things"})
	SwitchEntry   = Entries.Add(Kind{Name: "switch", Label: "Switch", Thread: "choice", Doc: "On or off"})
	DurationEntry = Entries.Add(Kind{Name: "duration", Label: "Duration", Thread: "duration", Doc: "How long the piece is; held spans keep their length"})
	PlaceEntry    = Entries.Add(Kind{Name: "place", Label: "Place", Thread: "amount", Doc: "A point on the canvas, dragged on the picture"})
	AmountEntry   = Entries.Add(Kind{Name: "amount", Label: "Amount", Thread: "amount", Doc: "A number"})
	AngleEntry    = Entries.Add(Kind{Name: "angle", Label: "Angle", Thread: "amount", Doc: "An angle in degrees, clockwise"})
	ColourEntry   = Entries.Add(Kind{Name: "colour", Label: "Colour", Thread: "colour", Doc: "A colour"})
	GradientEntry = Entries.Add(Kind{Name: "gradient", Label: "Gradient", Thread: "colour", Doc: "One of the document's gradients"})
)

// Picked are the kinds that choose among options.
var Picked = of(ChoiceEntry, GradientEntry, TypefaceEntry)

// of names kinds of entries, for the rows that only they have.
func of(kinds ...*Kind) []string {
	out := make([]string, len(kinds))
	for i, k := range kinds {
		out[i] = k.Name
	}
	return out
}

var (
	onLine = of(AmountEntry, AngleEntry)
	worded = of(WordsEntry, LinesEntry)
	tied   = of(WordsEntry, LinesEntry, TypefaceEntry, ChoiceEntry, SwitchEntry, PlaceEntry, AmountEntry, AngleEntry, ColourEntry, GradientEntry)
)

// FramingParts are what of a pocket's framing a media entry may leave to the editor.
var FramingParts = []string{"fit", "focus", "pan", "zoom", "turn", "flip", "play"}

// What an entry says of itself.
var (
	EntryLabel   = Entries.Has(Property{Name: "label", Type: Text, Label: "Label", Needed: true, Plain: true, Doc: "For people"})
	EntryData    = Entries.Has(Property{Name: "data", Type: Text, Label: "Name for data", Plain: true, Doc: "The name that rows of data know it by; absent is its id"})
	EntryHelp    = Entries.Has(Property{Name: "help", Type: Text, Label: "Help", Plain: true, Doc: "One sentence"})
	EntryPocket  = Entries.Has(Property{Name: "pocket", Type: Ref, To: Pockets, Label: "Pocket", Plain: true, Kinds: of(MediaEntry), Doc: "What it fills"})
	EntryFraming = Entries.Has(Property{Name: "framing", Type: Whole, Label: "Framing", Plain: true, Kinds: of(MediaEntry),
		Doc: "What of its framing an editor may change, within the pocket's limits, some of `fit`, `focus`, `pan`, `zoom`, `turn`, `flip` and `play` (how clips run); absent is all, `[]` nothing"})
	EntryDefault = Entries.Has(Property{Name: "default", Type: Whole, Label: "Default", Plain: true, Kinds: tied, Needed: true,
		Doc: "Its value until an editor gives another: a wording, a number, a colour, true or false, the id of an option or a gradient, or `[x, y]` of a place"})
	EntryMin  = Entries.Has(Property{Name: "min", Label: "Least", Lo: -1e12, Hi: 1e12, Plain: true, Kinds: of(AmountEntry, AngleEntry, DurationEntry), Doc: "Its least value; an amount and an angle need one. Of a duration in frames: absent is what the held spans allow"})
	EntryMax  = Entries.Has(Property{Name: "max", Label: "Most", Lo: -1e12, Hi: 1e12, Plain: true, Kinds: of(AmountEntry, AngleEntry, DurationEntry), Doc: "Its greatest value, likewise"})
	EntryStep = Entries.Has(Property{Name: "step", Label: "Step", Hi: 1e12, Plain: true, Kinds: onLine, Doc: "By how much it goes up and down; absent gives a hundred steps or more"})
	EntryUnit = Entries.Has(Property{Name: "unit", Type: Text, Label: "Unit", Plain: true, Kinds: of(AmountEntry, DurationEntry), Doc: "For people, and for formulas: `px`, `°`, `frames`, `s`, `%`; of a duration `frames` or `s`"})
	EntryArea = Entries.Has(Property{Name: "area", Parts: []string{"left", "top", "right", "bottom"}, Label: "Area", Lo: -MaxLength, Hi: MaxLength, Plain: true, Kinds: of(PlaceEntry),
		Doc: "Where a place may lie, in the unit of its default, from the middle of the canvas; absent is the whole canvas"})
	EntryOptions  = Entries.Has(Property{Name: "options", Type: Whole, Label: "Options", Plain: true, Needed: true, Kinds: of(ChoiceEntry, GradientEntry, TypefaceEntry), Doc: "What there is to choose from, each with an `id` and a `label`; the ids of gradients are those of the document's, those of faces theirs"})
	EntryNotches  = Entries.Has(Property{Name: "notches", Type: Whole, Label: "Notches", Plain: true, Kinds: onLine, Doc: "Values at which the picture was set by example; absent are its two ends and its default"})
	EntryLetters  = Entries.Has(Property{Name: "letters", Label: "Letters at most", Lo: 1, Hi: words.MaxRunes, Integer: true, Plain: true, Kinds: worded, Doc: "How many letters a wording may have; absent is 2000"})
	EntryLines    = Entries.Has(Property{Name: "lines", Label: "Lines at most", Lo: 1, Hi: 50, Integer: true, Plain: true, Kinds: of(LinesEntry), Doc: "How many lines it may have as it is typed; absent is 50"})
	EntryRequired = Entries.Has(truth(Property{Name: "required", Label: "Needed", Plain: true, Kinds: worded, Doc: "It may not be left empty"}))
	EntryFixed    = Entries.Has(truth(Property{Name: "fixed", Label: "Fixed for good", Plain: true, Doc: "No editor sees or changes it: its default holds"}))
	EntryWhen     = Entries.Has(Property{Name: "when", Type: Whole, Label: "Shown when", Plain: true, Doc: "It is shown only while a switch or a choice (`entry`) has one of the values in `is`"})
	EntryCue      = Entries.Has(Property{Name: "cue", Type: Text, Label: "Best seen at", Plain: true, Doc: "The id of the cue that the playhead goes to when it is touched"})
	EntryWithin   = Entries.Has(Property{Name: "within", Type: Text, Label: "Within", Plain: true, Kinds: of(AmountEntry), Doc: "The id of the held span that an amount of `frames` or `s` reaches to the end of at most, counted from its beginning: `max` is no more than that"})
	EntryTies     = Entries.Has(Property{Name: "ties", Type: Whole, Label: "Ties", Plain: true, Kinds: tied,
		Doc: "What its value drives: `to` a path, `of` one number of a place (`x`, `y`). A number may be mapped `from` a range `into` another by an `ease`; or `stops` say which value (`value`) holds at which of its own (`at`)"})
)
