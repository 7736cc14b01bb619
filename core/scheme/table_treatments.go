package scheme

// The kinds of treatments. Each carries the version of how it is drawn, which a
// document names and a release pins.
var (
	Blur = Treatments.Add(Kind{Name: "blur", Label: "Blur", Behaviour: 1, Doc: "A Gaussian blur, as CSS `blur()` and SVG's `feGaussianBlur`"})
	// DropShadow is the layer's alpha in one colour, blurred and shifted, under it.
	DropShadow = Treatments.Add(Kind{Name: "shadow", Label: "Drop shadow", Behaviour: 1,
		Doc: "The layer's alpha in one colour, blurred and shifted, under it, as SVG's `feDropShadow`"})
)

// Treatments. Their lengths are those of the canvas, or of the group the layer is
// in: a layer's own scale and turn leave them as they are.
var (
	Behaviour = Treatments.Has(rare(Property{Name: "behaviour", Label: "Behaviour", Lo: 1, Hi: 1000, Integer: true, Plain: true,
		Doc: "The version of how it is drawn; absent is the newest, and is written out when the document is kept"}))
	Off = Treatments.Has(live(truth(Property{Name: "off", Label: "Off", Doc: "Left out, to see what lies under it"})))

	BlurRadius = Treatments.Has(length(Property{Name: "radius", Label: "Radius", Parts: xy, Alike: true, Hi: 1000, Join: Times, Needed: true,
		Doc: "px; the standard deviation of the blur, along x and y"}))
	ShadowOffset = Treatments.Has(away(Property{Name: "offset", Label: "Offset", Kinds: []string{"shadow"}, Parts: xy, Default: Many(0, 0), Doc: "px; how far it falls from the layer"}))
	ShadowColour = Treatments.Has(live(Property{Name: "colour", Type: Colour, Label: "Colour", Kinds: []string{"shadow"}, Default: Says("#000000"), Doc: "Its colour, with its alpha"}))
	ShadowAmount = Treatments.Has(percent(Property{Name: "opacity", Label: "Opacity", Kinds: []string{"shadow"}, Hi: 1, Join: Times, Default: One(1), Doc: "0 to 1"}))
)
