package craft

import (
	"cmp"
	"encoding/json"
	"fmt"
	"math"
	"slices"

	"ivypocket/core/edit"
	"ivypocket/core/template"
	"ivypocket/core/timing"
)

// Elastic time: which of the template's time is held, and what may not reach out of it.
func init() {
	register(
		row{"hold", "`from`: two frames", "holds the time from a frame up to another; held spans that it reaches into become one with it", hold},
		row{"loosen", "`from`: two frames", "makes the time from a frame up to another elastic", loosen},
		row{"border", "`id` of a held span; `way`: `from`, `to`, or none: all of it; `frames` by which it goes, or `at`, the frame it goes to",
			"moves a border of held time, up to the next held span; what is limited by its length goes along", border},
		row{"within", "`entry`, `id` of a held span or none", "lets an amount of time reach no further than a held span is long", keepWithin},
	)
}

// ends reads two frames of an act: the first, and the one after the last.
func (b *bench) ends(a Act) (from, to int64, err error) {
	x, y := math.Round(a.From[0]), math.Round(a.From[1])
	x, y = math.Max(0, math.Min(x, y)), math.Min(float64(b.doc.Frames), math.Max(x, y))
	if !(x < y) {
		return 0, 0, fmt.Errorf("from: %g to %g are none of the template's %d frames", a.From[0], a.From[1], b.doc.Frames)
	}
	return int64(x), int64(y), nil
}

// frames names a part of the time for titles: its first and its last frame.
func frames(from, to int64) string {
	if to-from == 1 {
		return fmt.Sprintf("frame %d", from)
	}
	return fmt.Sprintf("frames %d to %d", from, to-1)
}

// held are the held spans, each with an id. What is elastic needs no saying.
func (b *bench) held() []timing.Span {
	var out []timing.Span
	for _, s := range b.doc.Spans {
		if s.Kind != timing.Held {
			continue
		}
		if s.ID == "" {
			s.ID = b.freeID("held")
		}
		out = append(out, s)
	}
	return out
}

// Held are the held spans of a draft as acts know them: one without an id has the one that
// it is given when spans are changed.
func Held(d *template.Document) []timing.Span { return newBench(d, nil, Act{}).held() }

func hold(b *bench, a Act) error {
	from, to, err := b.ends(a)
	if err != nil {
		return err
	}
	one := timing.Span{Kind: timing.Held, From: from, To: to}
	next, into := []timing.Span{}, map[string]string{}
	for _, s := range b.held() {
		if s.To <= from || s.From >= to {
			next = append(next, s)
			continue
		}
		if one.ID == "" {
			one.ID = s.ID
		}
		into[s.ID] = one.ID
		one.From, one.To = min(one.From, s.From), max(one.To, s.To)
	}
	if one.ID == "" {
		one.ID = b.freeID("held")
	}
	b.title = "Hold " + frames(one.From, one.To)
	return b.putSpans(append(next, one), into, b.doc.Rate)
}

func loosen(b *bench, a Act) error {
	from, to, err := b.ends(a)
	if err != nil {
		return err
	}
	next, into := []timing.Span{}, map[string]string{}
	for _, s := range b.held() {
		if s.To <= from || s.From >= to {
			next = append(next, s)
			continue
		}
		before, after := s, s
		before.To, after.From = from, to
		if into[s.ID] = ""; before.From < before.To {
			next = append(next, before)
			into[s.ID] = s.ID
		}
		if after.From < after.To {
			if into[s.ID] != "" {
				after.ID = b.freeID("held")
			}
			next = append(next, after)
			into[s.ID] = s.ID
		}
	}
	b.title = "Let " + frames(from, to) + " stretch"
	return b.putSpans(next, into, b.doc.Rate)
}

func border(b *bench, a Act) error {
	list := b.held()
	i := slices.IndexFunc(list, func(s timing.Span) bool { return s.ID == a.Id })
	if i < 0 {
		return fmt.Errorf("id: there is no held span %q any more", a.Id)
	}
	s := &list[i]
	by := a.Frames
	least, most := int64(0), b.doc.Frames
	if i > 0 {
		least = list[i-1].To
	}
	if i+1 < len(list) {
		most = list[i+1].From
	}
	switch a.Way {
	case "from":
		if by == 0 {
			by = int64(a.At) - s.From
		}
		s.From = min(max(s.From+by, least), s.To-1)
	case "to":
		if by == 0 {
			by = int64(a.At) - s.To
		}
		s.To = max(min(s.To+by, most), s.From+1)
	case "":
		if by == 0 {
			by = int64(a.At) - s.From
		}
		by = min(max(by, least-s.From), most-s.To)
		s.From, s.To = s.From+by, s.To+by
	default:
		return fmt.Errorf("way: %q is neither from nor to", a.Way)
	}
	b.title = "Hold " + frames(s.From, s.To)
	return b.putSpans(list, nil, b.doc.Rate)
}

// putSpans writes the held spans. into tells what became of some of them, "" that they are
// gone; the limits of entries follow.
func (b *bench) putSpans(list []timing.Span, into map[string]string, rate timing.Rate) error {
	slices.SortFunc(list, func(s, t timing.Span) int { return cmp.Compare(s.From, t.From) })
	if len(list) > timing.MaxSpans {
		return fmt.Errorf("there are %d held spans; %d are the most", len(list), timing.MaxSpans)
	}
	if slices.Equal(list, b.doc.Spans) {
		return nil
	}
	var part json.RawMessage
	if len(list) > 0 {
		var err error
		if part, err = json.Marshal(list); err != nil {
			return err
		}
	}
	b.add(edit.DraftOp{Kind: "put", Path: "spans", Part: part})
	for _, e := range b.doc.Sheet.Entries() {
		if e.Within == "" {
			continue
		}
		to, changed := into[e.Within]
		if !changed {
			to = e.Within
		}
		at := slices.IndexFunc(list, func(s timing.Span) bool { return s.ID == to })
		if at < 0 {
			b.add(edit.DraftOp{Kind: "put", Path: "entries/" + e.ID + "/within"})
			continue
		}
		if err := b.limit(e, list[at], rate); err != nil {
			return err
		}
	}
	return nil
}

// limit lets an entry reach no further than a held span is long.
func (b *bench) limit(e *template.Entry, s timing.Span, rate timing.Rate) error {
	long := e.Lasts(s.To-s.From, rate)
	if e.Min != nil && *e.Min >= long {
		return fmt.Errorf("%s is at least %g %s, and the held span is %g long", e.Label, *e.Min, cmp.Or(e.Unit, "frames"), long)
	}
	if e.Within != s.ID {
		if err := b.putPart("entries/"+e.ID+"/within", s.ID); err != nil {
			return err
		}
	}
	if e.Max == nil || *e.Max != long {
		if err := b.putPart("entries/"+e.ID+"/max", long); err != nil {
			return err
		}
	}
	if e.Default != nil && e.Default.Number() > long {
		if err := b.putPart("entries/"+e.ID+"/default", long); err != nil {
			return err
		}
	}
	if k := slices.IndexFunc(e.Notches, func(n float64) bool { return n > long }); k > 0 {
		return b.putPart("entries/"+e.ID+"/notches", e.Notches[:k])
	} else if k == 0 {
		b.add(edit.DraftOp{Kind: "put", Path: "entries/" + e.ID + "/notches"})
	}
	return nil
}

func keepWithin(b *bench, a Act) error {
	e := b.doc.Sheet.Entry(a.Entry)
	if e == nil {
		return fmt.Errorf("entry: there is no entry %q any more", a.Entry)
	}
	b.title = "Limit of " + e.Label
	if a.Id == "" {
		if e.Within != "" {
			b.add(edit.DraftOp{Kind: "put", Path: "entries/" + e.ID + "/within"})
		}
		return nil
	}
	if !e.Timed() {
		return fmt.Errorf("entry: %s is no amount of frames or seconds: give it the unit frames or s", e.Label)
	}
	list := b.held()
	at := slices.IndexFunc(list, func(s timing.Span) bool { return s.ID == a.Id })
	if at < 0 {
		return fmt.Errorf("id: there is no held span %q any more", a.Id)
	}
	if !slices.ContainsFunc(b.doc.Spans, func(s timing.Span) bool { return s.ID == a.Id }) {
		if err := b.putSpans(list, nil, b.doc.Rate); err != nil {
			return err
		}
	}
	return b.limit(e, list[at], b.doc.Rate)
}
