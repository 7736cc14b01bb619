package template

import (
	"fmt"
	"math"
	"slices"

	"ivypocket/core/scheme"
	"ivypocket/core/timing"
)

// Tie binds an entry to a property, mapping the entry's value to the property's. Without
// more the property has the entry's value.
type Tie struct {
	To string `json:"to" doc:"The path of what is driven, such as layers/ID/place.x"`
	// Of is the number of a place that is meant, "" for the whole.
	Of string `json:"of,omitempty"`
	// From and Into map a range of the entry to one of the property; Ease bends the way.
	From *[2]float64    `json:"from,omitempty"`
	Into *[2]float64    `json:"into,omitempty"`
	Ease *timing.Easing `json:"ease,omitempty"`
	// Stops say which value holds at which of the entry's; between two of a line it is
	// mixed, by the ease of the first.
	Stops []Stop `json:"stops,omitempty"`
}

// Stop is a value of a property at a value of an entry.
type Stop struct {
	At    scheme.Value   `json:"at"`
	Value scheme.Value   `json:"value"`
	Ease  *timing.Easing `json:"ease,omitempty"`
}

// Value is what the tie gives its property for a value of its entry; ok is false where it
// gives nothing and the property stays at rest: a choice without a stop.
func (t *Tie) Value(e *Entry, v scheme.Value) (out scheme.Value, ok bool) {
	if t.Of != "" && len(v.Numbers) == 2 {
		i := slices.Index(scheme.Place.Parts, t.Of)
		if i < 0 {
			return v, false
		}
		v = scheme.Value{Numbers: v.Numbers[i : i+1], Single: true, Shorter: v.Shorter >> i & 1}
	}
	switch {
	case len(t.Stops) > 0 && e.OnLine():
		return t.between(v.Number()), true
	case len(t.Stops) > 0:
		i := slices.IndexFunc(t.Stops, func(s Stop) bool { return s.At.Equal(v) })
		if i < 0 {
			return v, false
		}
		return t.Stops[i].Value, true
	case t.From != nil && t.Into != nil:
		k := eased(t.Ease, (v.Number()-t.From[0])/(t.From[1]-t.From[0]))
		return scheme.One(t.Into[0] + (t.Into[1]-t.Into[0])*k), true
	}
	return v, true
}

// Back is the value of the entry with which the tie gives a value; ok is false where none
// does, or where it can't be told.
func (t *Tie) Back(e *Entry, want scheme.Value) (v scheme.Value, ok bool) {
	switch {
	case len(t.Stops) > 0:
		v, ok = t.backStop(e, want)
	case t.From != nil && t.Into != nil:
		if t.Ease != nil || t.Into[0] == t.Into[1] || !one(want) {
			return v, false
		}
		k := (want.Number() - t.Into[0]) / (t.Into[1] - t.Into[0])
		v, ok = scheme.One(rounded(t.From[0]+(t.From[1]-t.From[0])*k)), true
	default:
		v, ok = want, true
	}
	if i := slices.Index(scheme.Place.Parts, t.Of); ok && i >= 0 && e.Default != nil && len(e.Default.Numbers) == 2 && one(v) {
		place := scheme.Value{Numbers: slices.Clone(e.Default.Numbers), Shorter: e.Default.Shorter}
		place.Numbers[i] = v.Number()
		v = place
	}
	if !ok {
		return v, false
	}
	// Its limits may be widened; its sort may not.
	wide := *e
	if e.OnLine() {
		lo, hi := math.Inf(-1), math.Inf(1)
		wide.Min, wide.Max = &lo, &hi
	}
	wide.Area = nil
	return v, wide.Check(v) == nil
}

// backStop is the stop at which a value holds, or, between two that lie on a straight line,
// the place of it.
func (t *Tie) backStop(e *Entry, want scheme.Value) (scheme.Value, bool) {
	for _, s := range t.Stops {
		if s.Value.Equal(want) {
			return s.At, true
		}
	}
	if !e.OnLine() || len(t.Stops) != 2 || t.Stops[0].Ease != nil || len(want.Numbers) != 1 {
		return want, false
	}
	a, b := t.Stops[0], t.Stops[1]
	if len(a.Value.Numbers) != 1 || len(b.Value.Numbers) != 1 || a.Value.Number() == b.Value.Number() || a.Value.Shorter != want.Shorter || want.Truth {
		return want, false
	}
	k := (want.Number() - a.Value.Number()) / (b.Value.Number() - a.Value.Number())
	if k < 0 || k > 1 {
		return want, false // beyond its stops it stays at the last
	}
	return scheme.One(rounded(a.At.Number() + (b.At.Number()-a.At.Number())*k)), true
}

// rounded is a number without what reckoning there and back leaves behind.
func rounded(v float64) float64 { return math.Round(v*1e9) / 1e9 }

// between is the value at a place among the stops of a line; before the first and after
// the last it is theirs.
func (t *Tie) between(at float64) scheme.Value {
	last := len(t.Stops) - 1
	for i, s := range t.Stops {
		if at > s.At.Number() && i < last {
			continue
		}
		if i == 0 || at >= s.At.Number() {
			return s.Value
		}
		a := t.Stops[i-1]
		return Mix(a.Value, s.Value, eased(a.Ease, (at-a.At.Number())/(s.At.Number()-a.At.Number())))
	}
	return scheme.Value{}
}

// eased bends a share of a way. Beyond its ends, where a range is no limit, it goes on
// straight.
func eased(e *timing.Easing, k float64) float64 {
	if e == nil || k <= 0 || k >= 1 {
		return k
	}
	return e.At(k)
}

// Mix is a value between two: numbers and colours are mixed, of others the first holds
// until the second is reached.
func Mix(a, b scheme.Value, k float64) scheme.Value {
	if k <= 0 {
		return a
	}
	if k >= 1 {
		return b
	}
	if len(a.Numbers) > 0 && len(a.Numbers) == len(b.Numbers) && !a.Truth && !b.Truth && a.Wide == b.Wide && a.Shorter == b.Shorter {
		out := a
		out.Text = ""
		out.Numbers = make([]float64, len(a.Numbers))
		for i := range out.Numbers {
			out.Numbers[i] = rounded(a.Numbers[i] + (b.Numbers[i]-a.Numbers[i])*k)
		}
		return out
	}
	ca, errA := scheme.ParseColour(a.Text)
	cb, errB := scheme.ParseColour(b.Text)
	if errA != nil || errB != nil {
		return a
	}
	var mixed [4]float64
	flat := func(c scheme.RGBA) []float64 {
		return []float64{float64(c.R), float64(c.G), float64(c.B), float64(c.A)}
	}
	timing.MixColours(mixed[:], flat(ca), flat(cb), k)
	byte8 := func(v float64) uint8 { return uint8(v + 0.5) }
	return scheme.Says(scheme.RGBA{R: byte8(mixed[0]), G: byte8(mixed[1]), B: byte8(mixed[2]), A: byte8(mixed[3])}.String())
}

func (d *Document) validateTie(l *faultList, at string, e *Entry, t *Tie) {
	before := len(l.f)
	ranged := t.From != nil || t.Into != nil
	switch {
	case t.Of != "" && (e.Kind != PlaceEntry || !slices.Contains(scheme.Place.Parts, t.Of)):
		l.add(at+".of", "%q is not one of the numbers of a place, x and y", t.Of)
	case (t.From == nil) != (t.Into == nil) || ranged && t.From[0] == t.From[1]:
		l.add(at, "from and into go together, and from must span something")
	case ranged && len(t.Stops) > 0:
		l.add(at, "has both a range and stops; it needs one of them")
	case ranged && !e.OnLine() && t.Of == "":
		l.add(at+".from", "only numbers are mapped by a range; %s is none", article(string(e.Kind)+" entry"))
	case t.Ease != nil && !ranged:
		l.add(at+".ease", "bends the way of a range, which is missing")
	case len(t.Stops) > 0 && !e.Discrete() && !e.OnLine():
		l.add(at+".stops", "%s has no stops", article(string(e.Kind)+" entry"))
	case len(t.Stops) > MaxNotches:
		l.add(at+".stops", "are more than %d", MaxNotches)
	}
	if t.Ease != nil {
		l.err(at+".ease", t.Ease.Validate())
	}
	for i, s := range t.Stops {
		here := fmt.Sprintf("%s.stops[%d]", at, i)
		if e.OnLine() {
			if !one(s.At) {
				l.add(here+".at", "%s is not a number", s.At)
			} else if i > 0 && s.At.Number() <= t.Stops[i-1].At.Number() {
				l.add(here+".at", "does not come after the one before")
			}
		} else {
			l.err(here+".at", e.Check(s.At))
			if slices.ContainsFunc(t.Stops[:i], func(o Stop) bool { return o.At.Equal(s.At) }) {
				l.add(here+".at", "%s is there already", e.Says(s.At))
			}
		}
		if s.Ease != nil {
			l.err(here+".ease", s.Ease.Validate())
		}
	}
	if len(l.f) > before {
		return
	}
	for _, v := range t.all(e) {
		if err := d.Clone().Drive(t.To, v); err != nil {
			l.err(at+".to", d.tieError(*t, err))
			return
		}
	}
}

// all are the values that a tie gives at the ends of its entry, at its default and at its
// stops: as far as it goes.
func (t *Tie) all(e *Entry) []scheme.Value {
	var out []scheme.Value
	for _, s := range t.Stops {
		out = append(out, s.Value)
	}
	if len(t.Stops) > 0 {
		return out
	}
	for _, v := range append(e.Ends(), *e.Default) {
		if x, ok := t.Value(e, v); ok {
			out = append(out, x)
		}
	}
	if e.OnLine() && t.Ease != nil { // a curve may swing beyond its ends
		for k := 1; k < 32; k++ {
			x, _ := t.Value(e, scheme.One(*e.Min+(*e.Max-*e.Min)*float64(k)/32))
			out = append(out, x)
		}
	}
	return out
}

// tieError says what to tie to instead of several numbers.
func (d *Document) tieError(t Tie, err error) error {
	if to, e := d.Find(t.To); e == nil && to.Part < 0 && to.Property.Parted() && !to.Property.Alike {
		return fmt.Errorf("%s is %s; tie to one of them, such as %s.%s", to.Property.Name, to.Property.Wants(), t.To, to.Property.PartName(0))
	}
	return err
}
