package timing

import (
	"fmt"
	"sort"
)

// SpanKind says what becomes of a span when a piece is longer or shorter than
// its template.
type SpanKind string

const (
	// Held time always plays at its own speed.
	Held SpanKind = "held"
	// Elastic time stretches and shrinks.
	Elastic SpanKind = "elastic"
)

// Span is a part of a template's time, from a whole frame up to another one.
type Span struct {
	ID   string   `json:"id,omitempty" doc:"By which entries may name it"`
	Kind SpanKind `json:"kind" enum:"held,elastic"`
	From int64    `json:"from" doc:"Frames"`
	To   int64    `json:"to" doc:"Frames; the first that is not in the span"`
}

// MaxSpans bounds how often a template may change between held and elastic.
const MaxSpans = 100

// ValidateSpans says which span is at fault in a template of so many frames.
// Spans stand in order; time that none of them names is elastic.
func ValidateSpans(spans []Span, frames int64) error {
	if len(spans) > MaxSpans {
		return fmt.Errorf(": %d spans are more than %d", len(spans), MaxSpans)
	}
	at := int64(0)
	for i, s := range spans {
		switch {
		case s.Kind != Held && s.Kind != Elastic:
			return fmt.Errorf("[%d].kind: %q is not one of held, elastic", i, s.Kind)
		case s.From < at:
			return fmt.Errorf("[%d].from: frame %d lies before frame %d, where the span before it ends", i, s.From, at)
		case s.To <= s.From:
			return fmt.Errorf("[%d].to: frame %d is not after %d, where the span begins", i, s.To, s.From)
		case s.To > frames:
			return fmt.Errorf("[%d].to: frame %d lies beyond the template's %d frames", i, s.To, frames)
		}
		at = s.To
	}
	return nil
}

// Whole returns spans that name all of a template's time: what is between
// them, and all of it if there are none, is elastic.
func Whole(spans []Span, frames int64) []Span {
	var out []Span
	at := int64(0)
	gap := func(to int64) {
		if to > at {
			out = append(out, Span{Kind: Elastic, From: at, To: to})
		}
	}
	for _, s := range spans {
		gap(s.From)
		out = append(out, s)
		at = s.To
	}
	gap(frames)
	return out
}

// Shortest is the least number of frames a piece may have: all held spans,
// with nothing between them. A template that holds nothing needs one frame; one
// that holds everything can't be stretched at all.
func Shortest(spans []Span) int64 {
	sum := int64(0)
	for _, s := range spans {
		if s.Kind == Held {
			sum += s.To - s.From
		}
	}
	return max(1, sum)
}

// Stretches reports whether any of the template's time is elastic.
func Stretches(spans []Span, frames int64) bool {
	for _, s := range Whole(spans, frames) {
		if s.Kind == Elastic {
			return true
		}
	}
	return false
}

// Borders are the frames at which held time and elastic time meet, in order: what goes on
// across one plays in part at its own speed and in part at another.
func Borders(spans []Span, frames int64) []int64 {
	var out []int64
	whole := Whole(spans, frames)
	for i := 1; i < len(whole); i++ {
		if whole[i].Kind != whole[i-1].Kind {
			out = append(out, whole[i].From)
		}
	}
	return out
}

// Part is a span with the frames of an output on which it falls, not necessarily whole ones
// where the output runs at another rate.
type Part struct {
	Span
	At, Until Rat // frames of the output
}

// Parts are all of a template's time in an output, in order.
func (m Map) Parts(spans []Span, frames int64) []Part {
	var out []Part
	if m.pieces == nil {
		for _, s := range Whole(spans, frames) {
			out = append(out, Part{s, m.seen(Int(s.From)), m.seen(Int(s.To))})
		}
		return out
	}
	for _, p := range m.pieces {
		out = append(out, Part{p.span, m.seen(Int(p.from)), m.seen(Int(p.to))})
	}
	return out
}

// Base is the template's rate.
func (m Map) Base() Rate {
	if m.base.N == 0 {
		return m.Rate
	}
	return m.base
}

// based is how many frames of the template's rate last as long as frames of the output.
func (m Map) based(out Rat) Rat {
	if m.base.N == 0 {
		return out
	}
	return out.Mul(m.base.Div(m.Rate.Rat))
}

// seen is how many frames of the output last as long as frames of the template's rate.
func (m Map) seen(t Rat) Rat {
	if m.base.N == 0 {
		return t
	}
	return t.Mul(m.Rate.Div(m.base.Rat))
}

// Seen is how many frames of another rate a number of frames lasts, to the nearest, and at
// least one.
func (r Rate) Seen(frames int64, at Rate) int64 {
	if r == at {
		return frames
	}
	return max(1, Int(frames).Mul(at.Div(r.Rat)).Add(NewRat(1, 2)).Floor())
}

// SeenMap is NewMap for an output that runs at another rate than the template, and is
// length of its own frames long. Every instant is where the clock has it: held spans keep
// their pace to the instant, and clips of the output's rate are seen frame by frame.
func SeenMap(rate Rate, frames int64, spans []Span, at Rate, length int64) (Map, error) {
	own := rate.Seen(frames, at)
	long := frames
	if length != own {
		// The template's frame that the output's last one begins in is the last.
		lasts := Int(length).Mul(rate.Div(at.Rat))
		if long = lasts.Ceil(); length >= 0 && lasts.Cmp(Int(Shortest(spans))) < 0 {
			return Map{}, fmt.Errorf("%d frames at %s are shorter than the held spans", length, at.Label())
		}
	}
	m, err := NewMap(rate, frames, spans, long)
	if err != nil {
		return m, fmt.Errorf("%d frames at %s: %w", length, at.Label(), err)
	}
	if length < 1 || length > MaxFrames {
		return m, fmt.Errorf("%d frames are not 1 to %d", length, MaxFrames)
	}
	if at != rate {
		m.Rate, m.base = at, rate
	}
	m.Frames = length
	return m, nil
}

// piece is a span with the output frames on which it falls.
type piece struct {
	span     Span
	from, to int64 // output frames
}

// NewMap returns the way from the frames of an output that is length frames
// long to the time of a template of the given spans and number of frames.
//
// Elastic spans take up the difference in proportion to their own lengths,
// each to a whole frame, so that a held span begins on a whole frame of the
// output and shows the very instants it shows in the template.
func NewMap(rate Rate, frames int64, spans []Span, length int64) (Map, error) {
	m := Map{Rate: rate, Frames: length}
	if length == frames {
		return m, nil
	}
	whole := Whole(spans, frames)
	elastic := int64(0)
	for _, s := range whole {
		if s.Kind == Elastic {
			elastic += s.To - s.From
		}
	}
	least := frames - elastic
	switch {
	case elastic == 0:
		return m, fmt.Errorf("%d frames are not the %d of the template, all of whose time is held", length, frames)
	case length < max(1, least):
		return m, fmt.Errorf("%d frames are fewer than %d, the shortest that the held spans allow", length, max(1, least))
	case length > MaxFrames:
		return m, fmt.Errorf("%d frames are more than %d", length, MaxFrames)
	}
	room := length - least // for all elastic spans together
	at, seen := int64(0), int64(0)
	for _, s := range whole {
		n := s.To - s.From
		if s.Kind == Elastic {
			// Rounded as a running sum, so that the whole fits to the frame.
			before := roundDiv(seen*room, elastic)
			seen += n
			n = roundDiv(seen*room, elastic) - before
		}
		m.pieces = append(m.pieces, piece{s, at, at + n})
		at += n
	}
	return m, nil
}

// MaxFrames bounds the length of templates and pieces: an hour at 240 frames
// per second.
const MaxFrames = 60 * 60 * 240

func roundDiv(n, d int64) int64 { return (2*n + d) / (2 * d) }

// Instant is one moment of an output, told by the two clocks that differ when
// elastic time is stretched.
type Instant struct {
	// Output counts frames of the output, not necessarily whole. Clips run by
	// it, so that they keep their own speed.
	Output Rat
	// Template is where keys, cues and formulas stand.
	Template TemplateTime
}

// At returns the instant of an output frame.
func (m Map) At(f OutputFrame) Instant { return m.Moment(Int(int64(f))) }

// Moment returns the instant at a place among the output's frames, which may
// lie between two of them or outside.
func (m Map) Moment(out Rat) Instant {
	at := m.based(out)
	if m.pieces == nil {
		return Instant{out, TemplateTime{at}}
	}
	n := at.Floor()
	i := sort.Search(len(m.pieces), func(i int) bool { return m.pieces[i].to > n })
	i = min(i, len(m.pieces)-1)
	p := m.pieces[i]
	gone := at.Sub(Int(p.from))
	if p.span.Kind == Elastic {
		if p.to == p.from { // only met at the output's very end
			return Instant{out, TemplateTime{Int(p.span.To)}}
		}
		gone = gone.Mul(NewRat(p.span.To-p.span.From, p.to-p.from))
	}
	return Instant{out, TemplateTime{Int(p.span.From).Add(gone)}}
}

// Output returns where among the output's frames an instant of the template
// falls; in an elastic span shrunk to nothing it is the span's only place.
func (m Map) Output(t TemplateTime) Rat {
	return m.seen(m.stretched(t))
}

// stretched is Output at the template's own rate.
func (m Map) stretched(t TemplateTime) Rat {
	if m.pieces == nil {
		return t.Rat
	}
	n := t.Floor()
	i := sort.Search(len(m.pieces), func(i int) bool { return m.pieces[i].span.To > n })
	i = min(i, len(m.pieces)-1)
	p := m.pieces[i]
	gone := t.Sub(Int(p.span.From))
	if p.span.Kind == Elastic {
		gone = gone.Mul(NewRat(p.to-p.from, p.span.To-p.span.From))
	}
	return Int(p.from).Add(gone)
}

// Frame returns the first output frame that lies at an instant of the template
// or after it, within the output.
func (m Map) Frame(t TemplateTime) OutputFrame {
	out := m.Output(t)
	return OutputFrame(max(0, min(out.Ceil(), m.Frames-1)))
}
