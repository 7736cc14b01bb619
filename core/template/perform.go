package template

import (
	"maps"
	"math"
	"slices"
	"strings"

	"ivypocket/core/geom"
	"ivypocket/core/scheme"
	"ivypocket/core/timing"
)

// What layers perform besides their own keys: moves that are saved by name, and plain ones. Each lets a layer depart from
// where it stands and from what it does already, as keys do.

// act is a performance of a layer, with the saved move; nil of a plain one.
type act struct {
	id string
	of *Node
}

// Added is a motion that a thing has by a performance.
type Added struct {
	By   string // the performance's id
	Name string // of the property, or of its number
	Move *Move
}

// Performances are what a layer does besides its own keys.
func (n *Node) Performances() []*Node { return n.partOf(scheme.Performances) }

// Added are the motions that a thing has by performances, of documents in which they are put in place.
func (n *Node) Added() []Added { return n.added }

// Along is the performance that a mask or a treatment came along with; "" is none.
func (n *Node) Along() string { return n.along }

// plainMoves are the properties that plain moves move.
var plainMoves = []struct{ of, from, to *scheme.Property }{
	{scheme.Place, scheme.PlainPlaceFrom, scheme.PlainPlaceTo},
	{scheme.Scale, scheme.PlainScaleFrom, scheme.PlainScaleTo},
	{scheme.Turn, scheme.PlainTurnFrom, scheme.PlainTurnTo},
	{scheme.Opacity, scheme.PlainOpacityFrom, scheme.PlainOpacityTo},
}

// performs reports whether a performance moves a property, or a number of it.
func (n *Node) performs(name string) bool {
	for _, a := range n.acts {
		if a.of != nil {
			if a.of.Motion[name] != nil {
				return true
			}
			continue
		}
		u := byID(n.Performances(), a.id)
		for _, m := range plainMoves {
			if m.of.Name == name && u != nil && (u.Given(m.from) || u.Given(m.to) || len(u.Formulas) > 0) {
				return true
			}
		}
	}
	return false
}

// performing reports whether any layer performs something.
func (d *Document) performing() (yes bool) {
	d.VisitAll(func(_ string, y *Layer) { yes = yes || len(y.Performances()) > 0 })
	return yes
}

// perform notes what a layer performs, and gives it the masks and treatments that come along.
func (e *expander) perform(c *Node) {
	list := c.Performances()
	if len(list) == 0 {
		return
	}
	c.acts, c.parts = nil, slices.Clone(c.parts)
	for _, u := range list {
		a := act{u.ID, nil}
		if u.Kind == scheme.Saved {
			if a.of = e.d.Move(u.Text(scheme.PerformedMove)); a.of == nil {
				continue // told where it is named
			}
			for k, part := range scheme.SavedMoves.Parts {
				at, own := c.sort.Part(part.Name)
				if own.On != 0 && !c.Can(own.On) {
					continue
				}
				all := slices.Clone(c.parts[at])
				for _, n := range a.of.Part(k) {
					all = append(all, along(n, u.ID))
				}
				c.parts[at] = all
			}
		}
		c.acts = append(c.acts, a)
	}
}

// along is a thing of a saved move as a layer has it that performs the move.
func along(n *Node, by string) *Node {
	c := *n
	c.ID, c.along = by+inUse+n.ID, by
	c.parts = slices.Clone(n.parts)
	for k, part := range n.parts {
		c.parts[k] = nil
		for _, in := range part {
			m := *in
			m.along = by
			c.parts[k] = append(c.parts[k], &m)
		}
	}
	return &c
}

// Performed is an expanded document in which all that layers perform is keys on a canvas, by the numbers that their
// performances have.
func (d *Document) Performed(canvas geom.Size) *Document {
	if !slices.ContainsFunc(d.Layers, acting) {
		return d
	}
	c := *d
	c.own = nil
	c.Layers = performed(d.Layers, canvas)
	return &c
}

func acting(n *Node) bool { return len(n.acts) > 0 || slices.ContainsFunc(n.Layers(), acting) }

func performed(list []*Node, canvas geom.Size) []*Node {
	out := make([]*Node, len(list))
	for i, n := range list {
		if out[i] = n; !acting(n) {
			continue
		}
		c := *n
		c.parts = slices.Clone(n.parts)
		if len(c.parts[scheme.PartLayers]) > 0 {
			c.parts[scheme.PartLayers] = performed(c.parts[scheme.PartLayers], canvas)
		}
		for _, a := range n.acts {
			if u := byID(n.Performances(), a.id); u != nil {
				c.does(u, a, canvas)
			}
		}
		c.chain()
		out[i] = &c
	}
	return out
}

// does puts one performance in place.
func (n *Node) does(u *Node, a act, canvas geom.Size) {
	off := u.On(scheme.PerformedOff)
	if a.of == nil {
		if !off {
			n.added = append(n.added, u.plainly(canvas)...)
		}
		return
	}
	t := TempoOf(u, a.of)
	for k, part := range n.sort.Parts {
		if part.Of == scheme.Layers || !slices.ContainsFunc(n.parts[k], func(m *Node) bool { return m.along == u.ID }) {
			continue
		}
		var list []*Node
		for _, m := range n.parts[k] {
			if m.along == u.ID && off {
				continue
			}
			if m.along == u.ID {
				m = t.part(m)
			}
			list = append(list, m)
		}
		n.parts[k] = list
	}
	if off {
		return
	}
	for _, name := range slices.Sorted(maps.Keys(a.of.Motion)) {
		if p, _, err := n.Target(name); err == nil { // others have what this one lacks
			n.added = append(n.added, Added{u.ID, name, t.Move(p, a.of.Motion[name])})
		}
	}
}

// chain lets motions that take rest's place follow one another: each counts from its first key on.
func (n *Node) chain() {
	var rest []Added
	after := map[string][]*Move{}
	for _, a := range n.added {
		p, _, err := n.Target(a.Name)
		u := byID(n.Performances(), a.By)
		if err != nil || a.Move.Joins(p) != scheme.Instead || len(a.Move.Keys) == 0 || u != nil && u.Text(scheme.PerformedBy) != scheme.PerformedBy.Words[0] {
			rest = append(rest, a)
			continue
		}
		after[a.Name] = append(after[a.Name], a.Move)
	}
	if len(after) == 0 {
		return
	}
	motion := maps.Clone(n.Motion)
	if motion == nil {
		motion = map[string]*Move{}
	}
	for name, list := range after {
		if own := n.Motion[name]; own != nil && len(own.Keys) > 0 {
			list = append([]*Move{own}, list...)
		}
		slices.SortStableFunc(list, func(a, b *Move) int { return a.Keys[0].At.Cmp(b.Keys[0].At) })
		one := list[0].clone()
		for _, m := range list[1:] {
			first := m.Keys[0].At
			one.Keys = slices.DeleteFunc(one.Keys, func(k Key) bool { return k.At.Cmp(first) >= 0 })
			if n := len(one.Keys); n > 0 {
				last := &one.Keys[n-1]
				last.Hold, last.Ease, last.Steps = true, nil, nil
			}
			one.Keys = append(one.Keys, m.Keys...)
		}
		motion[name] = one
	}
	n.Motion, n.added = motion, rest
}

// Tempo is how a layer performs a saved move: when, how fast, how far and how softly.
type Tempo struct {
	at, long, by timing.Rat
	back         bool
	amount, soft float64
}

// Begins is when a performance begins, in its layer's own time.
func Begins(u *Node) timing.Rat {
	return timing.NewRat(int64(math.Round(u.Number(scheme.PerformedAt)*1000)), 1000)
}

// TempoOf is how a performance has a move.
func TempoOf(u, of *Node) Tempo {
	long, own := frames(of.Number(scheme.MoveLong)), frames(u.Number(scheme.PerformedLong))
	return Tempo{Begins(u), long, own.Div(long), u.On(scheme.PerformedBack), u.Number(scheme.PerformedAmount), u.Number(scheme.PerformedSoft)}
}

// frames is a length as a fraction, of a thousandth of a frame; 1 at least.
func frames(n float64) timing.Rat {
	return timing.NewRat(int64(math.Round(math.Max(1, n)*1000)), 1000)
}

// Time is an instant of the move in the layer's own time; Back leads from there to the move.
func (t Tempo) Time(at timing.Rat) timing.Rat {
	if t.back {
		at = t.long.Sub(at)
	}
	return t.at.Add(fine(at.Mul(t.by)))
}

// finest bounds how finely instants are told that come of lengths, so that fractions stay small whatever a document says.
const finest = 1e6

func fine(r timing.Rat) timing.Rat {
	if r.D > finest {
		return timing.NewRat(int64(math.Round(r.Float()*1000)), 1000)
	}
	return r
}

// Back is the instant of the move that is played at one of the layer's own time.
func (t Tempo) Back(at timing.Rat) timing.Rat {
	at = fine(at.Sub(t.at).Div(t.by))
	if t.back {
		at = t.long.Sub(at)
	}
	return at
}

// Backwards reports whether it leaves as it would have come.
func (t Tempo) Backwards() bool { return t.back }

// Amount is how far it goes, a factor.
func (t Tempo) Amount() float64 { return t.amount }

// Frames are when the move begins and ends, in the layer's own time.
func (t Tempo) Frames() (from, to timing.Rat) { return t.at, t.at.Add(t.long.Mul(t.by)) }

// part is a mask or a treatment of the move at its tempo.
func (t Tempo) part(n *Node) *Node {
	c := *n
	if len(n.Motion) > 0 {
		c.Motion = map[string]*Move{}
		for name, m := range n.Motion {
			if p, _, err := n.Target(name); err == nil {
				c.Motion[name] = t.Move(p, m)
			}
		}
	}
	c.parts = slices.Clone(n.parts)
	for k, part := range n.parts {
		c.parts[k] = make([]*Node, len(part))
		for i, in := range part {
			c.parts[k][i] = t.part(in)
		}
	}
	return &c
}

// Timed is a motion of the move with its keys where the layer has them: in its own time, and in the order in which it
// passes them. What they are worth and how softly they go is as it was saved. Saved leads back.
func (t Tempo) Timed(m *Move) *Move { return t.turned(m, t.Time) }

// Saved is the motion of the move of what Timed gave.
func (t Tempo) Saved(m *Move) *Move { return t.turned(m, t.Back) }

func (t Tempo) turned(m *Move, to func(timing.Rat) timing.Rat) *Move {
	c := m.clone()
	for i := range c.Keys {
		if c.Keys[i].At.D != 0 {
			c.Keys[i].At = to(c.Keys[i].At)
		}
	}
	if !t.back {
		return c
	}
	was := m.Keys
	slices.Reverse(c.Keys)
	last := len(was) - 1
	for i := range c.Keys { // the ways between them are gone the other way; what the last one has waits there
		k, from := &c.Keys[i], was[last]
		if i < last {
			from = was[last-1-i]
		}
		k.In, k.Out = k.Out, k.In
		k.Ease, k.Steps, k.Hold, k.Named = from.Ease.Back(), from.Steps.Back(), from.Hold, from.Named
		if i == last {
			k.Ease, k.Steps = from.Ease, from.Steps
		}
	}
	return c
}

// Move is a motion of the move as the layer has it.
func (t Tempo) Move(p *scheme.Property, m *Move) *Move {
	c := t.Timed(m)
	joins := m.Joins(p)
	for i := range c.Keys {
		k := &c.Keys[i]
		if k.Ease != nil {
			e := Softer(*k.Ease, t.soft)
			k.Ease = &e
		}
		if t.amount == 1 || joins != scheme.Plus && joins != scheme.Times {
			continue
		}
		v := slices.Clone(k.Value.Numbers)
		for j := range v {
			if joins == scheme.Plus {
				v[j] *= t.amount
			} else {
				v[j] = 1 + (v[j]-1)*t.amount
			}
			v[j] = keyWithin(p, v[j])
		}
		k.Value.Numbers = v
		for _, h := range []**[2]float64{&k.In, &k.Out} {
			if *h != nil {
				*h = &[2]float64{keyWithin(p, (*h)[0]*t.amount), keyWithin(p, (*h)[1]*t.amount)}
			}
		}
	}
	return c
}

// keyWithin is a number of a key as it may be: whatever an entry says, it is drawn.
func keyWithin(p *scheme.Property, v float64) float64 {
	lo, hi := p.KeyLimits(false)
	return math.Max(lo, math.Min(hi, v))
}

// mostSwing bounds how far easings swing out by being made more violent.
const mostSwing = 100

// Softer is an easing made softer, up to 1: the even way; or harder, down to -1. One that stays between its ends goes on
// doing so.
func Softer(e timing.Easing, by float64) timing.Easing {
	factor := 1 - by
	if by < 0 {
		factor = 1 - 2*by
	}
	if by == 0 {
		return e
	}
	out := e
	for i, even := range []float64{1. / 3, 1. / 3, 2. / 3, 2. / 3} {
		v := even + (e[i]-even)*factor
		if i%2 == 0 || e[i] >= 0 && e[i] <= 1 {
			v = math.Max(0, math.Min(1, v))
		}
		out[i] = math.Max(-mostSwing, math.Min(mostSwing, math.Round(v*1e4)/1e4))
	}
	return out
}

// plainly is a plain move as keys on a canvas.
func (n *Node) plainly(canvas geom.Size) (out []Added) {
	at := Begins(n)
	end := at.Add(frames(n.Number(scheme.PerformedLong)))
	for _, m := range plainMoves {
		if !n.Given(m.from) && !n.Given(m.to) {
			continue
		}
		move := &Move{}
		for i, p := range []*scheme.Property{m.from, m.to} {
			v := slices.Clone(n.Get(p).Resolved(canvas).Numbers)
			if m.of == scheme.Place {
				move.Unit = CanvasUnit
				v[0], v[1] = v[0]/canvas.W, v[1]/canvas.H
			}
			for j := range v {
				v[j] = keyWithin(m.of, v[j])
			}
			k := Key{ID: []string{"from", "to"}[i], At: []timing.Rat{at, end}[i], Value: scheme.Many(v...)}
			if len(v) == 1 {
				k.Value = scheme.One(v[0])
			}
			if i == 0 {
				k.Ease = Smooth(n.Number(scheme.PlainSmooth))
			}
			move.Keys = append(move.Keys, k)
		}
		out = append(out, Added{n.ID, m.of.Name, move})
	}
	return out
}

// Smooth is an easing out of rest and into it: 0 is the even way, for which there is none, 1 as gentle as it goes.
func Smooth(by float64) *timing.Easing {
	x := math.Round(math.Max(0, math.Min(1, by))*0.9*1e4) / 1e4
	if x == 0 {
		return nil
	}
	return &timing.Easing{x, 0, math.Round((1-x)*1e4) / 1e4, 1}
}

// Performing are the motions of a layer by its performances, in the order of the tables: their paths are those of the
// performance with the property behind it, such as layers/ring/moves/m1/place.
func (d *Document) Performing(y *Node) (out []Performing) {
	for _, u := range y.Performances() {
		of := d.Move(u.Text(scheme.PerformedMove))
		if of == nil {
			continue
		}
		t := TempoOf(u, of)
		head := "layers/" + y.ID + "/moves/" + u.ID
		for _, m := range of.Moving() {
			m.Path = head + strings.TrimPrefix(m.Path, "layers/"+of.ID)
			out = append(out, Performing{Moving: Moving{m.Path, m.Of, m.Prop, m.Part, t.Timed(m.Move)}, By: u, Tempo: t})
		}
	}
	return out
}

// PerformedAs are the motions of a layer's own that a performance is, as keys on a canvas in the layer's own time.
func (d *Document) PerformedAs(u *Node, canvas geom.Size) (out []Added) {
	of := d.Move(u.Text(scheme.PerformedMove))
	if of == nil {
		return u.plainly(canvas)
	}
	t := TempoOf(u, of)
	for _, name := range slices.Sorted(maps.Keys(of.Motion)) {
		if p, _, err := of.Target(name); err == nil {
			out = append(out, Added{u.ID, name, t.Move(p, of.Motion[name])})
		}
	}
	return out
}

// ParseMove reads a saved move by itself. Its error is of type Faults.
func ParseMove(data []byte) (*Node, error) {
	tree, err := decodeTree(data)
	if err != nil {
		return nil, asFaults("move", err)
	}
	var faults Faults
	n := readNode(scheme.SavedMoves, tree, "move", &faults)
	if faults != nil {
		return nil, faults
	}
	return n, nil
}

// Performing is a motion that a layer has by a performance.
type Performing struct {
	Moving
	By    *Node
	Tempo Tempo
}

// Performs finds the performance, its saved move and the path there that the path of a motion by a performance names.
func (d *Document) Performs(path string) (layer, u, of *Node, inner string, ok bool) {
	seg := strings.SplitN(path, "/", 5)
	if len(seg) < 5 || seg[0] != "layers" || seg[2] != scheme.Performances.Plural {
		return nil, nil, nil, "", false
	}
	if layer = d.Layer(seg[1]); layer == nil {
		return nil, nil, nil, "", false
	}
	if u = byID(layer.Performances(), seg[3]); u == nil {
		return nil, nil, nil, "", false
	}
	if of = d.Move(u.Text(scheme.PerformedMove)); of == nil {
		return nil, nil, nil, "", false
	}
	if _, _, err := u.sort.Target(seg[4]); err == nil && !strings.Contains(seg[4], "/") && of.Motion[seg[4]] == nil {
		return nil, nil, nil, "", false // it is of the performance itself
	}
	return layer, u, of, scheme.SavedMoves.Plural + "/" + of.ID + "/" + seg[4], true
}
