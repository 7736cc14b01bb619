package scheme

import "ivypocket/core/words"

// WordRows are the rows of what shows letters: what they say, in which face, and how they
// are made to fit.
type WordRows struct {
	Text, Face, Weight, Italic, Size, Leading, Tracking, Align, Stand, Case, Figures *Property
	Edges, Rise, Paragraph, Direction, Language, Ligatures, Kerning                  *Property

	Lines, Least, Closest, Sign, Even, Together *Property
	// Of counters.
	From, To, Steps, Done, Turns, Decimals, Digits, Locale, Bare, Plus, Unit, UnitFirst, UnitApart *Property
	// By are the means of fitting, in the order in which they are tried.
	By [4]*Property
}

// usualFace is the id of the family in which words are set of which nothing is said.
const usualFace = "figtree"

func wordRows() WordRows {
	var w WordRows
	count := func(p Property) *Property { p.Kinds, p.Section = []string{"counter"}, "Figures"; return Layers.Has(p) }
	value := func(p Property) Property { p.Lo, p.Hi = -words.MaxFigure, words.MaxFigure; return p }
	w.From = count(live(value(Property{Name: "figure.from", Label: "From", Default: One(0), Doc: "Where it begins"})))
	w.To = count(live(value(Property{Name: "figure.to", Label: "To", Needed: true, First: One(1000), Doc: "Where it ends: what it shows when all is done, exactly"})))
	w.Done = count(share(Property{Name: "figure.done", Label: "Done", Default: One(1), Doc: "How far it has come: 0 is the beginning, 1 the end; its keys say when"}))
	w.Steps = count(rare(live(value(Property{Name: "figure.steps", Type: List, Label: "Through", Least: 1, Most: 20, Doc: "Values that it comes through on the way, equally far apart in what is done"}))))
	w.Turns = count(live(choice(Property{Name: "figure.way", Label: "Figures", Doc: "Digits `turn` one by one, as on wheels, or `change` at once"}, "turn", "change")))
	w.Decimals = count(live(Property{Name: "figure.decimals", Label: "Decimals", Hi: words.MaxDecimals, Integer: true, Default: One(0), Doc: "Digits after the decimal sign"}))
	w.Unit = count(Property{Name: "figure.unit", Type: Text, Label: "Unit", Most: 40, Doc: "Stands beside the figures"})
	w.UnitFirst = count(rare(live(truth(Property{Name: "figure.unitFirst", Label: "Unit first", Doc: "It stands before them"}))))
	w.UnitApart = count(rare(live(on(Property{Name: "figure.unitApart", Label: "Unit apart", Doc: "With a blank between"}))))
	w.Digits = count(rare(live(Property{Name: "figure.digits", Label: "Digits at least", Lo: 1, Hi: words.MaxDigits, Integer: true, Default: One(1), Doc: "Before the decimal sign; what is missing is shown as 0"})))
	w.Locale = count(rare(Property{Name: "figure.signs", Type: Text, Label: "Signs as in", Most: 35, Doc: "A BCP 47 tag such as `de`: thousands marks, decimal sign and digits as CLDR has them; absent is English"}))
	w.Bare = count(rare(live(truth(Property{Name: "figure.bare", Label: "No thousands marks", Doc: "Leaves them out"}))))
	w.Plus = count(rare(live(truth(Property{Name: "figure.plus", Label: "Plus sign", Doc: "Before what is above nothing"}))))

	row := func(p Property) *Property { p.On, p.Section = Lettered, "Words"; return Layers.Has(p) }
	only := func(p Property) *Property { p.Kinds, p.Section = []string{"words"}, "Words"; return Layers.Has(p) }
	w.Text = only(Property{Name: "text", Type: Text, Label: "Words", Needed: true, First: Says("Words"), Most: words.MaxRunes, Loose: true,
		Doc: "What they say; line ends part paragraphs. Empty words show nothing and take no room in a flow"})
	w.Face = row(Property{Name: "face", Type: Typeface, Label: "Face", Default: Says(usualFace), Doc: "The id of a face that ships, or `sha256:…` of a font file"})
	w.Size = row(length(Property{Name: "type.size", Label: "Size", Hi: words.MaxSize, Join: Times, Needed: true, First: One(96), Doc: "px; of the em. Fitting makes it smaller, down to `fit.least`"}))
	w.Weight = row(Property{Name: "type.weight", Label: "Weight", Lo: 1, Hi: 1000, Join: Plus, Default: One(400), Step: 10, Doc: "1 to 1000, 400 is regular and 700 bold; the nearest that the face has"})
	w.Italic = row(live(truth(Property{Name: "type.italic", Label: "Italic", Doc: "In the face's italic, where it has one"})))
	w.Align = row(live(choice(Property{Name: "type.align", Label: "Aligned",
		Doc: "Where lines stand between the sides of the box. `start` is the side on which a paragraph begins to be read; `justified` widens blanks, but for the last line of a paragraph"}, texts(words.Aligns)...)))
	w.Stand = row(live(choice(Property{Name: "type.stand", Label: "Stand", Doc: "Where all lines together stand in the box, and so whether they grow down, both ways or up"},
		string(words.Middle), string(words.Top), string(words.Bottom))))
	w.Leading = row(percent(Property{Name: "type.leading", Label: "Leading", Hi: 5, Join: Times, Default: One(1.2), Step: 5, Doc: "From baseline to baseline, in sizes"}))
	w.Tracking = row(percent(Property{Name: "type.tracking", Label: "Tracking", Lo: -0.5, Hi: 3, Join: Plus, Default: One(0), Step: 1,
		Doc: "Added after each letter, in ems; letters that are set apart have no ligatures, and those of joined scripts stay as they are"}))
	w.Case = row(live(choice(Property{Name: "type.case", Label: "Letters", Doc: "Shown as they are typed, or all as capitals; small capitals are the face's, or made of its capitals"}, texts(words.Cases)...)))
	w.Figures = row(rare(live(choice(Property{Name: "type.figures", Label: "Figures", Doc: "Digits of one width, or each as wide as it is; in any face"}, texts(words.AllFigures)...))))
	w.Edges = row(rare(live(choice(Property{Name: "type.edges", Label: "Measured",
		Doc: "From where to where words are measured: the `face`'s ascent and descent, or the top of `capitals` and the baseline (CSS `text-box-edge`)"}, texts(words.AllEdges)...))))
	w.Rise = row(rare(away(Property{Name: "type.rise", Label: "Baseline shift", Default: One(0), Doc: "px upwards"})))
	w.Paragraph = row(rare(length(Property{Name: "type.paragraph", Label: "Between paragraphs", Join: Times, Default: One(0), Doc: "px more between the last line of one and the first of the next"})))
	w.Direction = row(rare(live(choice(Property{Name: "type.direction", Label: "Read", Doc: "The direction in which a paragraph is read: by its first letter that has one (UAX #9), or always the same"}, texts(words.Directions)...))))
	w.Language = row(rare(Property{Name: "type.language", Type: Text, Label: "Language", Doc: "A BCP 47 tag such as `tr`, for capitals and forms of letters that depend on it"}))
	w.Ligatures = row(rare(live(on(Property{Name: "type.ligatures", Label: "Ligatures", Doc: "Letters that the face joins, such as fi"}))))
	w.Kerning = row(rare(live(on(Property{Name: "type.kerning", Label: "Kerning", Doc: "Pairs of letters are set closer, as the face has it"}))))

	fit := func(p Property) *Property {
		if p.Section = "Fitting"; p.Kinds == nil {
			p.Kinds = []string{"words"}
		}
		return Layers.Has(p)
	}
	w.Lines = fit(live(Property{Name: "fit.lines", Label: "Lines at most", Hi: 50, Integer: true, Default: One(0), Doc: "0 is as many as there is room for"}))
	w.Least = fit(length(Property{Name: "fit.least", Kinds: []string{"words", "counter"}, Label: "Smallest size", Hi: words.MaxSize, Join: Times, Default: One(0), Doc: "px; 0 is the size itself: they are not made smaller"}))
	means := append([]string{"nothing"}, texts(words.AllMeans)...)
	for i, d := range []string{string(words.ByWrapping), string(words.BySize), "nothing", "nothing"} {
		p := live(choice(Property{Name: []string{"fit.first", "fit.second", "fit.third", "fit.fourth"}[i], Label: []string{"Fit first by", "Then by", "Then by", "Then by"}[i],
			Doc: []string{"By what words that don't fit their box are made to: `wrapping` breaks lines, `size` makes them smaller, `tracking` sets letters closer, `shortening` leaves out the end",
				"The next means, where that is not enough", "The means after that", "The last of them"}[i]}, means...))
		p.Default, p.Rare = Says(d), i > 1
		w.By[i] = fit(p)
	}
	w.Closest = fit(rare(percent(Property{Name: "fit.closest", Label: "Closest tracking", Lo: -0.5, Hi: 3, Join: Plus, Default: One(0), Step: 1, Doc: "In ems; as far as fitting by tracking goes"})))
	w.Sign = fit(rare(Property{Name: "fit.sign", Type: Text, Label: "Sign of what is left out", Default: Says("…"), Most: 20, Doc: "Stands at the end of what is shortened"}))
	w.Even = fit(rare(live(truth(Property{Name: "fit.even", Label: "Even lines", Doc: "Lines are about as long as one another (CSS `text-wrap: balance`)"}))))
	w.Together = fit(rare(Property{Name: "fit.together", Type: Text, Label: "One size with", Most: 60, Plain: true,
		Doc: "A name of your own: all words with the same one keep one size, the smallest that any of them needs"}))
	return w
}

// on is true unless something else is said.
func on(p Property) Property { p.Type, p.Default = Switch, Is(true); return p }
