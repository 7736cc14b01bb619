package scene

import (
	"ivypocket/core/geom"
	"ivypocket/core/raster"
	"ivypocket/core/scheme"
)

// Drawing is one layer at one instant, for the function that draws its kind.
type Drawing struct {
	// Item is a beginning: the layer's form as a rectangle of its size, where it
	// stands on the device, its opacity, blend, masks and matte. Kinds that have no
	// box have the whole canvas or group.
	Item Item

	w  *writer
	l  *layer
	i  int
	st *state
	n  []float64 // of the layer
	// shift is how far what the layer shows is shifted in its box, so that it
	// stays where it is.
	shift geom.Point
}

// drawers hold the drawing function of each kind.
var drawers map[*scheme.Kind]func(*Drawing)

func init() {
	drawers = map[*scheme.Kind]func(*Drawing){
		scheme.View:    (*Drawing).picture,
		scheme.Picture: (*Drawing).picture,
		scheme.Shape:   (*Drawing).shape,
		scheme.Words:   (*Drawing).words,
		scheme.Counter: (*Drawing).counter,
		scheme.Ground:  (*Drawing).ground,
		scheme.Group:   (*Drawing).group,
		scheme.Grade:   (*Drawing).grade,
		// What moves others has no picture of its own.
		scheme.Camera:  func(*Drawing) {},
		scheme.Carrier: func(*Drawing) {},
		scheme.Track:   func(*Drawing) {},
	}
}

// Draws says how a kind of layers is drawn. It is called before there are scenes.
func Draws(k *scheme.Kind, f func(*Drawing)) { drawers[k] = f }

// Number is a property that is one number, or a word's or a switch's.
func (d *Drawing) Number(p *scheme.Property) float64 { return d.n[p.Slot()] }

// Numbers are those of a property; of a colour red, green, blue and alpha, 0 to 255.
func (d *Drawing) Numbers(p *scheme.Property) []float64 {
	if p.Slot() < 0 {
		return d.l.numbers(p, d.st.slots)
	}
	return d.n[p.Slot() : p.Slot()+p.Width()]
}

// On is a property that is true or false.
func (d *Drawing) On(p *scheme.Property) bool { return d.n[p.Slot()] != 0 }

// Word is a property that is one of a few words.
func (d *Drawing) Word(p *scheme.Property) string { return p.Words[int(d.n[p.Slot()])] }

// Colour is a property that is a colour, as items have it.
func (d *Drawing) Colour(p *scheme.Property) [4]uint8 { return colourOf(d.n[p.Slot():]) }

// Put lists an item.
func (d *Drawing) Put(it Item) { d.w.l.Items = append(d.w.l.Items, it) }

// blends are the modes by the numbers of their words.
var blends = func() (out []raster.Blend) {
	for _, w := range scheme.BlendModes {
		out = append(out, raster.ParseBlend(w))
	}
	return
}()

func blendOf(n []float64) raster.Blend { return blends[int(n[sBlend])] }

func colourOf(n []float64) [4]uint8 {
	return [4]uint8{uint8(n[0] + 0.5), uint8(n[1] + 0.5), uint8(n[2] + 0.5), uint8(n[3] + 0.5)}
}

// group lists what is in a group.
func (d *Drawing) group() {
	it := d.Item
	it.Kind, it.Isolated = GroupItem, d.On(scheme.Isolated)
	at := d.w.open(it)
	d.w.among(d.st, d.i+1, d.i+1+d.l.span)
	d.w.close(at)
	if g := &d.w.l.Items[at]; g.Span == 0 || !d.w.seen(g.Box) {
		d.w.l.Items = d.w.l.Items[:at]
	}
}

// ground lists a colour or a gradient everywhere, or within the group where that
// has a size.
func (d *Drawing) ground() {
	it := d.Item
	it.Kind = GroundItem
	if p := d.l.parent; p >= 0 && d.w.s.layers[p].sized {
		quad, ok := it.Map.Quad(geom.Box{W: it.Form.Size.W, H: it.Form.Size.H})
		if !ok {
			return
		}
		it.Kind, it.Box = FillItem, geom.Bounds(quad[:]...)
	}
	d.paint(&it)
	d.Put(it)
}

func (d *Drawing) grade() {
	it := d.Item
	it.Kind = GradeItem
	copy(it.Grade.Slope[:], d.Numbers(scheme.Slope))
	copy(it.Grade.Offset[:], d.Numbers(scheme.Offset))
	copy(it.Grade.Power[:], d.Numbers(scheme.Power))
	it.Grade.Saturation = d.Number(scheme.Saturation)
	d.Put(it)
}

// paint sets what an item is filled with.
func (d *Drawing) paint(it *Item) {
	if !d.l.graded {
		it.Colour = d.Colour(scheme.Fill)
		return
	}
	if it.Gradient = d.l.table; it.Gradient == nil {
		it.Gradient = d.l.gradientOf(d.st.slots)
	}
	s, from, to := it.Form.Size, d.Numbers(scheme.GradientFrom), d.Numbers(scheme.GradientTo)
	it.From, it.To = geom.Point{X: from[0] * s.W, Y: from[1] * s.H}, geom.Point{X: to[0] * s.W, Y: to[1] * s.H}
}
