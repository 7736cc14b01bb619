package craft

import (
	"errors"
	"fmt"
	"math"

	"ivypocket/core/edit"
	"ivypocket/core/scheme"
	"ivypocket/core/template"
	"ivypocket/core/timing"
)

// When layers are there, and when all that is theirs happens.
func init() {
	register(
		row{"slide", "`layers`; `frames` (later; below 0 earlier), or `way`: `in`, `out`, which then stands at `frame`",
			"shifts layers in time with their keys, masks, trim and clip, and with what is in them", slide},
		row{"trim", "`layers`; `way`: `in`, `out`; `frames` by which it goes, or none: to `frame`, which is the first, or the last, that is seen", "trims layers", trim},
		row{"part", "`layers`, `frame`", "makes two layers of one: up to a frame, and from there on", partLayers},
	)
}

// span is when a layer is there, in the template's time, and how late its own time is.
type span struct{ in, out, late timing.Rat }

// spanOf tells when a layer is there, as it is seen: in a use of a motif with what shifts that.
func (b *bench) spanOf(y *template.Layer) (s span) {
	s.late = b.lateIn(b.use, y.ID)
	s.in, s.out = y.Span(b.doc, s.late)
	return s
}

// lateIn is how late a layer plays, as it is seen through a use of a motif; "" is none.
func (b *bench) lateIn(use, id string) timing.Rat {
	if use == "" {
		return b.doc.Late(id)
	}
	if whole, err := b.doc.Expanded(); err == nil {
		return whole.Late(use + inUse + id)
	}
	return b.doc.Late(id)
}

// setTime gives a layer another instant, or takes it away; where formats have one of their own,
// the format that is looked at gets it.
func (b *bench) setTime(y *template.Layer, p *scheme.Property, to *timing.Rat) error {
	path := "layers/" + y.ID + "/" + p.Name
	if by := b.doc.Driver(path); by != "" {
		return fmt.Errorf("%s is set by %s", b.doc.Called(path), by)
	}
	op := edit.DraftOp{Kind: "set", Path: path}
	if to != nil {
		v := scheme.Instant(*to)
		op.Value = &v
	}
	if b.format != nil {
		if _, own := b.format.Rest[path]; own {
			op.Format = b.format.ID
		}
	}
	b.add(op)
	return nil
}

// slide lets layers play earlier or later.
func slide(b *bench, a Act) error {
	list, err := b.chosen()
	if err != nil {
		return err
	}
	by := a.Frames
	if a.Way != "" {
		if a.Way != "in" && a.Way != "out" {
			return fmt.Errorf("way: %q is neither in nor out", a.Way)
		}
		// Of several the first that begins, or the last that ends, stands there then.
		first, last := b.spanOf(list[0]).in, b.spanOf(list[0]).out
		for _, y := range list {
			s := b.spanOf(y)
			if s.in.Cmp(first) < 0 {
				first = s.in
			}
			if s.out.Cmp(last) > 0 {
				last = s.out
			}
		}
		if by = a.Frame - int64(math.Round(first.Float())); a.Way == "out" {
			by = a.Frame + 1 - int64(math.Round(last.Float()))
		}
	}
	b.title = "Slide " + b.called(a.Layers)
	for _, y := range list {
		to := y.Shift().Add(timing.Int(by))
		if limit := timing.Int(b.doc.Frames); to.Cmp(limit) > 0 || to.Cmp(timing.Int(-b.doc.Frames)) < 0 {
			return fmt.Errorf("%s would be shifted by %s frames; the template has %d", y.Name, to, b.doc.Frames)
		}
		if by == 0 {
			continue
		}
		at := &to
		if to.N == 0 {
			at = nil
		}
		if err := errors.Join(b.setTime(y, scheme.Shift, at), b.endsAlong(y, to)); err != nil {
			return err
		}
	}
	return nil
}

// endsAlong lets the beginning and the end of a layer slide with it also where they are those of
// the template, of which it says nothing: slid later it begins later, slid earlier it ends earlier.
// Back where it was it says nothing again. One that was shifted and said nothing goes on as it is.
func (b *bench) endsAlong(y *template.Layer, shift timing.Rat) error {
	up := b.spanOf(y).late.Sub(y.Shift()) // by the groups it is in
	none := timing.Int(0)
	for _, end := range []struct {
		p     *scheme.Property
		is    timing.Rat
		slips bool // it shows that the end is the layer's own
	}{{scheme.In, none.Sub(up), shift.Cmp(none) > 0}, {scheme.Out, timing.Int(b.doc.Frames).Sub(up), shift.Cmp(none) < 0}} {
		own, err := y.Get(end.p).Time()
		switch given := y.Given(end.p); {
		case !given && end.slips && y.Shift().N == 0:
			err = b.setTime(y, end.p, &end.is)
		case given && err == nil && shift.N == 0 && own.Cmp(end.is) == 0:
			err = b.setTime(y, end.p, nil)
		default:
			continue
		}
		if err != nil {
			return err
		}
	}
	return nil
}

// trim lets layers begin or end elsewhere. Each stays a frame long, and within the template.
func trim(b *bench, a Act) error {
	list, err := b.chosen()
	if err != nil {
		return err
	}
	p := map[string]*scheme.Property{"in": scheme.In, "out": scheme.Out}[a.Way]
	if p == nil {
		return fmt.Errorf("way: %q is neither in nor out", a.Way)
	}
	b.title = "Trim " + b.called(a.Layers)
	for _, y := range list {
		s := b.spanOf(y)
		// What is dragged is the end that is seen, and a frame of it is seen then.
		one, first, last := timing.Int(1), timing.Int(0), timing.Int(b.doc.Frames)
		in, out := clampRat(s.in, first, last), clampRat(s.out, first, last)
		if out.Cmp(in) <= 0 {
			return fmt.Errorf("%s can't be trimmed: %s; slide it into the template first", y.Name, s.says())
		}
		edge, lo, hi := in, first, out.Sub(one)
		if p == scheme.Out {
			edge, lo, hi = out, in.Add(one), last
		}
		to := edge.Add(timing.Int(a.Frames))
		switch {
		case a.Frames != 0:
		case p == scheme.In:
			to = timing.Int(a.Frame)
		default:
			to = timing.Int(a.Frame + 1)
		}
		if a.Frames == 0 && (to.Cmp(lo) < 0 || to.Cmp(hi) > 0) {
			if p == scheme.In {
				return fmt.Errorf("%s can't begin at frame %d: %s", y.Name, a.Frame, s.says())
			}
			return fmt.Errorf("%s can't end with frame %d: %s", y.Name, a.Frame, s.says())
		}
		to = clampRat(to, lo, hi)
		if to.Cmp(edge) == 0 {
			continue
		}
		own := to.Sub(s.late)
		at := &own
		// As long as the template it says nothing.
		if s.late.N == 0 && (p == scheme.In && own.N == 0 || p == scheme.Out && own.Cmp(timing.Int(b.doc.Frames)) == 0) {
			at = nil
		}
		if err := b.setTime(y, p, at); err != nil {
			return err
		}
	}
	return nil
}

// says tells when a layer is there, for people.
func (s *span) says() string {
	return fmt.Sprintf("it is there from frame %s up to %s", s.in, s.out)
}

func clampRat(v, lo, hi timing.Rat) timing.Rat {
	if v.Cmp(lo) < 0 {
		return lo
	}
	if v.Cmp(hi) > 0 {
		return hi
	}
	return v
}

// partLayers makes two layers of each: the second begins where the first ends. The picture stays as it
// is, at every frame in every format.
func partLayers(b *bench, a Act) error {
	list, err := b.chosen()
	if err != nil {
		return err
	}
	at := timing.Int(a.Frame)
	b.title = "Split " + b.called(a.Layers)
	for i := len(list) - 1; i >= 0; i-- { // from the top, so that places below stay
		y := list[i]
		s := b.spanOf(y)
		if at.Cmp(s.in) <= 0 || at.Cmp(s.out) >= 0 {
			return fmt.Errorf("%s can't be split at frame %d: %s", y.Name, a.Frame, s.says())
		}
		if by := b.hangsOn(y.ID); by != "" {
			return errors.New(by)
		}
		into, place := b.parentOf(y.ID)
		ids, err := b.copyAll(y, into, place+1)
		if err != nil {
			return err
		}
		b.alsoTied(ids, func(_, _ *template.Tie) {})
		own := at.Sub(s.late)
		out, in := scheme.Instant(own), scheme.Instant(own)
		b.add(edit.DraftOp{Kind: "set", Path: "layers/" + y.ID + "/out", Value: &out})
		b.add(edit.DraftOp{Kind: "set", Path: "layers/" + ids[y.ID] + "/in", Value: &in})
		b.plan.Chosen = append([]string{ids[y.ID]}, b.plan.Chosen...)
	}
	return b.unchanged(func(frame int64, format string) error {
		return fmt.Errorf("frame %d of the format %s would look otherwise", frame, format)
	})
}

// hangsOn says who needs a layer for all of the time; "" is nobody.
func (b *bench) hangsOn(id string) (why string) {
	of := b.doc.Layer(id).Name
	b.doc.VisitAll(func(_ string, y *template.Layer) {
		y.Named(scheme.Layers, func(_ string, _ *template.Node, p *scheme.Property, to string) {
			if why == "" && to == id && (p == scheme.MatteLayer || p == scheme.MaskWords) {
				why = fmt.Sprintf("%s %s %s, which can't be two layers; split %s instead, or put both into a group and split that", y.Name, p.Verb, of, y.Name)
			}
		})
	})
	return why
}

// alsoTied lets entries that drive layers drive their copies, too; apart says what is otherwise
// with a tie and with that of the copy.
func (b *bench) alsoTied(ids map[string]string, apart func(t, copy *template.Tie)) {
	b.retie(func(t template.Tie) []template.Tie {
		to, ok := repathed(t.To, ids)
		if !ok {
			return []template.Tie{t}
		}
		other := t
		other.To = to
		apart(&t, &other)
		return []template.Tie{t, other}
	})
}
