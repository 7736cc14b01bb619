package scheme

// MaxAxes bounds the axes that words are set along.
const MaxAxes = 8

// Axes of variable faces.
var (
	AxisTag = Axes.Has(Property{Name: "tag", Type: Text, Label: "Axis", Most: 4, Needed: true, First: Says("wdth"), Plain: true,
		Doc: "The four letters by which the font knows the axis, such as wdth, opsz or slnt. A face without it stays as it is"})
	AxisValue = Axes.Has(Property{Name: "value", Label: "At", Lo: -32768, Hi: 32767, Join: Plus, Needed: true, First: One(100), Step: 1,
		Doc: "The place on the axis, in the font's own numbers; beyond its ends it stands at the end"})
)
