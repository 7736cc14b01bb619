package scene

import (
	"bytes"
	"crypto/sha256"
	"encoding/binary"
	"encoding/hex"
	"math"
	"slices"

	"ivypocket/core/geom"
	"ivypocket/core/raster"
	"ivypocket/core/timing"
)

// Size is a size in whole device pixels.
type Size struct{ W, H int }

// ItemKind is what an item of a draw list does.
type ItemKind uint8

const (
	FillItem    ItemKind = iota // a form filled with a colour or a gradient
	StrokeItem                  // a line along a form
	PictureItem                 // a picture within a form
	GroundItem                  // a colour or a gradient everywhere
	GradeItem                   // changes the colours of what is below
	GroupItem                   // the items that follow, as one
	MeanItem                    // the mean of the groups that follow, all of one weight
	TreatItem                   // the items that follow, as one picture that is treated
)

var kindNames = [...]string{"fill", "stroke", "picture", "ground", "grade", "group", "mean", "treated"}

// Item is one thing to draw. What is inside a group follows it in the list.
type Item struct {
	Layer  string
	Pocket string
	Kind   ItemKind
	// Span is how many items after this one are inside it.
	Span    int
	Opacity float64
	Blend   raster.Blend
	// Isolated groups begin clear; others begin with what is below them.
	Isolated bool

	// Form is the outline the item is drawn within, in the layer's own pixels,
	// which Map takes to the device's.
	Form geom.Form
	Map  geom.Projective
	// Box holds all that the item may change on the device.
	Box geom.Box

	Colour   [4]uint8 // straight sRGB
	Gradient *raster.Gradient
	// From and To are the gradient's two points in the layer's pixels.
	From, To geom.Point

	Pen   geom.Pen
	Align int8 // of a stroke: -1 inside, 0 centre, 1 outside
	Dash  []float64
	Shift float64
	Part  [2]float64 // of the outline that is drawn

	Grade raster.Grade

	// Media and Frame name a picture; Content takes its pixels to the layer's.
	Media     string
	Frame     int64
	MediaSize geom.Size
	Reading   int
	Content   geom.Affine
	// Rest takes the picture's pixels to the device's where everything stands
	// when nothing moves, RestBox is the layer's box there: a still is made ready
	// for this place, so that it is sharp there. Zero when unknown.
	Rest    geom.Affine
	RestBox geom.Box
	// Still says that the media is no clip.
	Still bool
	// Edges says that edges of the media may be seen inside the form.
	Edges bool

	// Steps are what is done to the picture of what is inside the item.
	Steps []Done

	// Masks are those of the list from the first number up to the second.
	Masks [2]int
	// Matte is the index of the item that cuts this one, 0 for none; Luma cuts
	// by its luminance instead of its alpha.
	Matte       int
	Luma        bool
	InvertMatte bool

	hash Address
}

// Mask is an outline that cuts an item, with its soft edge, in device pixels.
type Mask struct {
	Form geom.Form
	Map  geom.Projective
	// Mode is how it joins the masks before it.
	Mode   raster.MaskMode
	Invert bool
	// In and Out are how far the soft edge reaches to both sides of the
	// outline, Growth how far that is moved outwards.
	In, Out, Growth float64
	Falloff         timing.Easing
	Opacity         float64
}

// soft is its edge as it is drawn.
func (m *Mask) soft() raster.Soft {
	return raster.Soft{In: m.In, Out: m.Out, Growth: m.Growth, Falloff: m.Falloff}
}

// List is everything that makes one picture, the lowest first.
type List struct {
	Size  Size
	Items []Item
	// Main is how many of the items are drawn; those after them are mattes.
	Main  int
	Masks []Mask
	// Nodes is the memory of drawn outlines, dashes that of strokes.
	Nodes  []geom.Node
	dashes []float64
	steps  []Done
	// drawings are those of the layers around the one that is being listed, kept
	// for their memory.
	drawings []*Drawing
	deep     int
	writer   writer

	buf    []byte
	mattes []matteAt
	// origins are where the items of a list that was taken from another stand there.
	origins []int
}

// matteAt is where a layer's own picture stands among the mattes.
type matteAt struct{ layer, item int }

// Reset makes the list empty, keeping its memory.
func (l *List) Reset(size Size) {
	l.Size, l.Items, l.Main, l.Masks, l.Nodes, l.dashes, l.mattes = size, l.Items[:0], 0, l.Masks[:0], l.Nodes[:0], l.dashes[:0], l.mattes[:0]
	clear(l.steps)
	l.steps = l.steps[:0]
}

// drawing returns memory for one more layer inside those that are being listed.
func (l *List) drawing() *Drawing {
	if l.deep++; l.deep > len(l.drawings) {
		l.drawings = append(l.drawings, &Drawing{})
	}
	return l.drawings[l.deep-1]
}

// keep copies numbers into the list's own memory.
func (l *List) keep(n []float64) []float64 {
	from := len(l.dashes)
	l.dashes = append(l.dashes, n...)
	return l.dashes[from:len(l.dashes):len(l.dashes)]
}

// Behaviour is the version of how lists are painted. It is part of every
// address, so that a frame painted otherwise is another frame.
const Behaviour = 4

// Address is the hash of a draw list or of an item with all that it draws:
// equal pictures share one address.
type Address [16]byte

func (a Address) String() string { return hex.EncodeToString(a[:]) }

// Address hashes the list's canonical bytes. Layer ids are left out: they do
// not change the picture.
func (l *List) Address() Address {
	l.sign()
	b := append(l.buf[:0], "ivypocket frame "...)
	b = append(b, Behaviour)
	b = binary.AppendVarint(b, int64(l.Size.W))
	b = binary.AppendVarint(b, int64(l.Size.H))
	for i := 0; i < l.Main; i += 1 + l.Items[i].Span {
		b = append(b, l.Items[i].hash[:]...)
	}
	l.buf = b
	sum := sha256.Sum256(b)
	return Address(sum[:16])
}

// Hash is the address of what an item draws, with all that is inside it and
// cuts it, once the list has been signed.
func (it *Item) Hash() Address { return it.hash }

// sign gives every item its hash, the mattes first.
func (l *List) sign() {
	for i := range l.Items {
		l.Items[i].hash = Address{}
	}
	for i := range l.Items {
		l.signItem(i)
	}
}

func (l *List) signItem(i int) {
	it := &l.Items[i]
	if it.hash != (Address{}) {
		return
	}
	for k := i + 1; k <= i+it.Span; k += 1 + l.Items[k].Span {
		l.signItem(k)
	}
	if it.Matte > 0 {
		l.signItem(it.Matte)
	}
	b := l.buf[:0]
	num := func(vs ...float64) { b = appendNumbers(b, vs...) }
	b = append(b, byte(it.Kind), byte(it.Blend))
	num(it.Opacity)
	b = appendFlags(b, it.Isolated, it.Luma, it.InvertMatte, it.Still, it.Edges)
	switch it.Kind {
	case FillItem, GroundItem, StrokeItem:
		b = appendForm(b, &it.Form, it.Map)
		b = append(b, it.Colour[:]...)
		if it.Gradient != nil {
			b = it.Gradient.AppendKey(b)
			num(it.From.X, it.From.Y, it.To.X, it.To.Y)
		}
		if it.Kind == StrokeItem {
			b = it.appendPen(b)
		}
	case PictureItem:
		b = appendForm(b, &it.Form, it.Map)
		b = append(b, it.Media...)
		b = binary.AppendVarint(b, it.Frame)
		num(it.Content.A, it.Content.B, it.Content.C, it.Content.D, it.Content.E, it.Content.F, it.MediaSize.W, it.MediaSize.H)
		if it.Reading != 0 {
			b = binary.AppendVarint(b, int64(it.Reading))
		}
		num(it.Rest.A, it.Rest.B, it.Rest.C, it.Rest.D, it.Rest.E, it.Rest.F, it.RestBox.X, it.RestBox.Y, it.RestBox.W, it.RestBox.H)
	case GradeItem:
		g := &it.Grade
		num(g.Slope[:]...)
		num(g.Offset[:]...)
		num(g.Power[:]...)
		num(g.Saturation)
	}
	for k := range it.Steps {
		b = it.Steps[k].key(b, l)
	}
	for k := it.Masks[0]; k < it.Masks[1]; k++ {
		b = l.Masks[k].append(b)
	}
	for k := i + 1; k <= i+it.Span; k += 1 + l.Items[k].Span {
		b = append(b, l.Items[k].hash[:]...)
	}
	if it.Matte > 0 {
		b = append(b, l.Items[it.Matte].hash[:]...)
	}
	l.buf = b
	sum := sha256.Sum256(b)
	it.hash = Address(sum[:16])
}

func appendNumbers(b []byte, vs ...float64) []byte {
	for _, v := range vs {
		b = binary.BigEndian.AppendUint64(b, math.Float64bits(v+0)) // +0 makes -0 and 0 one
	}
	return b
}

func appendFlags(b []byte, flags ...bool) []byte {
	n := byte(0)
	for k, f := range flags {
		if f {
			n |= 1 << k
		}
	}
	return append(b, n)
}

func appendForm(b []byte, f *geom.Form, m geom.Projective) []byte {
	b = append(b, f.Kind...)
	b = appendNumbers(b, f.Size.W, f.Size.H, f.Radii[0], f.Radii[1], f.Radii[2], f.Radii[3], f.Round, float64(f.Sides), f.Inner, f.Head, f.Shaft)
	b = appendNumbers(b, m.A, m.B, m.C, m.D, m.E, m.F, m.G, m.H, m.I)
	b = appendFlags(b, f.Path.Closed)
	for _, n := range f.Path.Nodes {
		b = appendNumbers(b, n.X, n.Y, n.InX, n.InY, n.OutX, n.OutY)
	}
	if f.Letters != nil {
		b = append(b, f.Letters.Key[:]...)
	}
	if f.Lines != nil {
		for _, p := range f.Lines.Points {
			b = appendNumbers(b, p.X, p.Y)
		}
	}
	return b
}

func (it *Item) appendPen(b []byte) []byte {
	b = append(append(append(b, it.Pen.Cap...), '/'), it.Pen.Join...)
	b = appendNumbers(b, it.Pen.Width, it.Pen.MiterLimit, float64(it.Align), it.Shift, it.Part[0], it.Part[1])
	return appendNumbers(b, it.Dash...)
}

func (m *Mask) append(b []byte) []byte {
	b = appendForm(b, &m.Form, m.Map)
	b = append(appendFlags(b, m.Invert), byte(m.Mode))
	b = appendNumbers(b, m.In, m.Out, m.Growth, m.Opacity)
	return appendNumbers(b, m.Falloff[:]...)
}

// bared is a list without the groups that only hold together what is in them.
func (l *List) bared() List {
	out := List{Size: l.Size, Masks: l.Masks}
	at := make([]int, len(l.Items)) // where an item stands then
	var ends []int                  // of the items around, in this list
	var spans []int                 // where those stand then, -1 for one that is left out
	for i := range l.Items {
		for len(ends) > 0 && i > ends[len(ends)-1] {
			ends, spans = ends[:len(ends)-1], spans[:len(spans)-1]
		}
		it := l.Items[i]
		if at[i] = len(out.Items); i == l.Main {
			out.Main = len(out.Items)
		}
		here := -1
		span := it.Span
		if !it.bare() {
			here = len(out.Items)
			for _, k := range spans {
				if k >= 0 {
					out.Items[k].Span++
				}
			}
			it.Span = 0
			out.Items = append(out.Items, it)
		}
		if span > 0 {
			ends, spans = append(ends, i+span), append(spans, here)
		}
	}
	if l.Main == len(l.Items) {
		out.Main = len(out.Items)
	}
	for i := range out.Items {
		if m := &out.Items[i].Matte; *m > 0 {
			*m = at[*m]
		}
	}
	return out
}

// Alike reports whether two lists are one picture, but for groups that only hold
// together what is in them and for distances of less than a fiftieth of a pixel, which
// the same place reached by other sums may be away.
func Alike(a, b *List) bool {
	x, y := a.bared(), b.bared()
	if x.Size != y.Size || x.Main != y.Main || len(x.Items) != len(y.Items) {
		return false
	}
	for i := range x.Items {
		p, q := x.Items[i], y.Items[i]
		if !near(p.Map, q.Map, p.Form.Size) || len(p.Steps) != len(q.Steps) || !masksAlike(&x, &y, p.Masks, q.Masks) {
			return false
		}
		p.Steps, q.Steps = slices.Clone(p.Steps), slices.Clone(q.Steps)
		for k := range p.Steps {
			if !masksAlike(&x, &y, p.Steps[k].Masks, q.Steps[k].Masks) {
				return false
			}
			p.Steps[k].Masks, q.Steps[k].Masks = [2]int{}, [2]int{}
		}
		// All the rest is to be the same.
		q.Map, q.Content, q.Rest, q.RestBox, q.Box, q.Masks, p.Masks = p.Map, p.Content, p.Rest, p.RestBox, p.Box, [2]int{}, [2]int{}
		one, two := List{Items: []Item{p}}, List{Items: []Item{q}}
		one.Items[0].Span, two.Items[0].Span, one.Items[0].Matte, two.Items[0].Matte = 0, 0, 0, 0
		one.signItem(0)
		two.signItem(0)
		if p.Span != q.Span || p.Matte != q.Matte || one.Items[0].hash != two.Items[0].hash {
			return false
		}
	}
	return true
}

// masksAlike compares masks of two lists as Alike does.
func masksAlike(x, y *List, of, with [2]int) bool {
	if of[1]-of[0] != with[1]-with[0] {
		return false
	}
	for k := range of[1] - of[0] {
		m, n := x.Masks[of[0]+k], y.Masks[with[0]+k]
		if !near(m.Map, n.Map, m.Form.Size) || math.Abs(m.In-n.In)+math.Abs(m.Out-n.Out)+math.Abs(m.Growth-n.Growth) > 0.02 {
			return false
		}
		n.Map, n.In, n.Out, n.Growth = m.Map, m.In, m.Out, m.Growth
		if !bytes.Equal(m.append(nil), n.append(nil)) {
			return false
		}
	}
	return true
}

// near reports whether two maps take the corners of a box to the same places.
func near(m, n geom.Projective, size geom.Size) bool {
	const slight = 0.02
	for _, c := range (geom.Box{W: size.W, H: size.H}).Corners() {
		p, q := m.Apply(c), n.Apply(c)
		if math.Abs(p.X-q.X) > slight || math.Abs(p.Y-q.Y) > slight {
			return false
		}
	}
	return true
}

// bare reports whether an item is a group that changes nothing of what is in it.
func (it *Item) bare() bool {
	return it.Kind == GroupItem && it.Opacity == 1 && it.Blend == raster.Normal && !it.Isolated && it.Masks[0] == it.Masks[1] && it.Matte == 0
}

// Only returns a list that draws one item with all that is inside it and cuts
// it, as if it lay on nothing, fully opaque.
func (l *List) Only(i int) List {
	out := List{Size: l.Size, Masks: l.Masks}
	out.take(l, i, i+1+l.Items[i].Span)
	out.Items[0].Opacity, out.Items[0].Blend = 1, raster.Normal
	return out
}

// Below returns a list that draws what lies below an item.
func (l *List) Below(i int) List {
	out := List{Size: l.Size, Masks: l.Masks}
	out.take(l, 0, i)
	for k := range out.Main {
		out.Items[k].Span = min(out.Items[k].Span, i-1-k)
	}
	return out
}

// take makes this a list of items of another, with the mattes that cut them and
// what is in those, and no others: a matte that holds the items would hold itself.
func (l *List) take(from *List, start, end int) {
	l.Items, l.origins = l.Items[:0], l.origins[:0]
	bring := func(start, end int) {
		for i := start; i < end; i++ {
			l.Items, l.origins = append(l.Items, from.Items[i]), append(l.origins, i)
		}
	}
	bring(start, end)
	l.Main = len(l.Items)
	for k := 0; k < len(l.Items); k++ {
		m := l.Items[k].Matte
		if m == 0 {
			continue
		}
		at := slices.Index(l.origins[l.Main:], m)
		if at < 0 {
			at = len(l.Items) - l.Main
			bring(m, m+1+from.Items[m].Span)
		}
		l.Items[k].Matte = l.Main + at
	}
}
