// Package cover is the room for transitions that hide a cut: which of their frames leave nothing of
// what lies beneath to be seen, and where to cut there. A frame is judged as it is painted, at full
// size, so that round corners and gaps of less than a pixel count as they are seen. Who paints, and
// when, is the caller's.
package cover

import (
	"context"
	"fmt"
	"slices"
	"sort"

	"ivypocket/core/raster"
	"ivypocket/core/scene"
	"ivypocket/core/scheme"
	"ivypocket/core/sheet"
	"ivypocket/core/template"
	"ivypocket/core/timing"
)

// Cue is the id of the cue at which a transition is to be cut.
const Cue = "cut"

// Run is frames one after another that are fully covered, To the first that is not.
type Run struct {
	From int64 `json:"from"`
	To   int64 `json:"to"`
}

// Found is what was found in a scene.
type Found struct {
	Runs []Run
	// Nearest is the frame of which the most is covered, and Share how much of it: where no frame
	// is covered, what comes nearest to it.
	Nearest int64
	Share   float64
}

// Paint paints a list of a scene.
type Paint func(ctx context.Context, l *scene.List) (*raster.Surface, error)

// Scene is the scene of a format without the clips that it leads from and to: what is left covers
// them. Whatever shows a clip, be it an entry, a format's own value or a use's, it is left out.
func Scene(r *sheet.Resolved, format string, lib scene.Library) (*scene.Scene, error) {
	f := r.Doc.Format(format)
	if f == nil {
		return nil, fmt.Errorf("the template has no format named %q", format)
	}
	d, err := r.Doc.For(f)
	if err == nil {
		d, err = d.Expanded()
	}
	if err != nil {
		return nil, err
	}
	ends := map[string]bool{}
	for _, p := range d.Pockets {
		ends[p.ID] = p.Role == template.RoleFrom || p.Role == template.RoleTo
	}
	c := d.Clone()
	c.Formats = slices.Clone(d.Formats)
	c.Format(format).Rest = nil // stands in the layers now
	d.VisitAll(func(_ string, y *template.Layer) {
		if y.Kind == scheme.View && ends[y.Text(scheme.Pocket)] {
			c.Still("layers/"+y.ID, scheme.Hidden, scheme.Is(true))
		}
	})
	return scene.Compile(&sheet.Resolved{Doc: c, Values: r.Values}, format, lib)
}

// A first look is taken at coarseSide px; where a pixel is clearer there than half, something is
// clear at full size too. Seams of what lies edge to edge are never so clear, which at full
// size may be none.
const (
	coarseSide = 240
	halfClear  = 128
)

// looker looks at instants of a scene.
type looker struct {
	sc           *scene.Scene
	paint        Paint
	full, coarse scene.Size
	list         scene.List
	last         scene.Address
	told         bool // whether what was looked at last is covered
	share        float64
	begun        bool
}

func newLooker(sc *scene.Scene, paint Paint) *looker {
	c := sc.Canvas()
	k := min(1, coarseSide/max(c.W, c.H))
	return &looker{sc: sc, paint: paint, full: scene.Size{W: int(c.W), H: int(c.H)}, coarse: scene.Size{W: max(1, int(c.W*k)), H: max(1, int(c.H*k))}}
}

// covered reports whether an instant is fully covered, and how much of it is.
func (k *looker) covered(ctx context.Context, now timing.Instant) (bool, float64, error) {
	if err := ctx.Err(); err != nil {
		return false, 0, err
	}
	k.sc.At(&k.list, now, k.full)
	at := k.list.Address()
	if k.begun && at == k.last {
		return k.told, k.share, nil
	}
	look := func(size scene.Size, limit uint8) (int, error) {
		k.sc.At(&k.list, now, size)
		s, err := k.paint(ctx, &k.list)
		if err != nil {
			return 0, err
		}
		k.share = 1 - float64(s.Below(255))/float64(s.W*s.H)
		return s.Below(limit), nil
	}
	below, err := look(k.coarse, halfClear)
	if err == nil && below == 0 {
		below, err = look(k.full, 255)
	}
	if err != nil {
		return false, 0, err
	}
	k.begun, k.last, k.told = true, at, below == 0
	return k.told, k.share, nil
}

// note keeps what comes nearest to being covered.
func (f *Found) note(frame int64, share float64) {
	if f.Nearest < 0 || share > f.Share {
		f.Nearest, f.Share = frame, share
	}
}

// Frames finds the frames of a scene that are fully covered.
func Frames(ctx context.Context, sc *scene.Scene, paint Paint) (Found, error) {
	out := Found{Nearest: -1}
	k := newLooker(sc, paint)
	for n := range sc.Frames() {
		told, share, err := k.covered(ctx, sc.Time().At(timing.OutputFrame(n)))
		if err != nil {
			return out, err
		}
		out.note(n, share)
		out.Runs = add(out.Runs, n, told)
	}
	return out, nil
}

// add adds a frame to runs, if it is covered.
func add(runs []Run, n int64, covered bool) []Run {
	k := len(runs)
	switch {
	case !covered:
	case k > 0 && runs[k-1].To == n:
		runs[k-1].To++
	default:
		runs = append(runs, Run{n, n + 1})
	}
	return runs
}

// Time is a part of a template's time, both ends in it, all instants of which are covered.
type Time struct{ From, To timing.Rat }

// fine is how often the instant at which something begins or ends to be covered is halved, between two
// frames that stretch apart: to less than a thirtieth of a frame.
const fine = 5

// Times finds the instants of a template that are covered, by its scene at its own length. In
// elastic time, where other lengths show instants between its frames, those are looked at too. What
// lies between two instants that are covered is taken to be so.
func Times(ctx context.Context, sc *scene.Scene, spans []timing.Span, paint Paint) ([]Time, Found, error) {
	found := Found{Nearest: -1}
	k := newLooker(sc, paint)
	at := func(t timing.Rat) (bool, error) {
		told, share, err := k.covered(ctx, sc.Time().Moment(t))
		found.note(t.Floor(), share)
		return told, err
	}
	half := timing.NewRat(1, 2)
	var out []Time
	// edge is the last instant from in to out that is as in.
	edge := func(in, out timing.Rat) (timing.Rat, error) {
		for range fine {
			mid := in.Add(out).Mul(half)
			told, err := at(mid)
			if err != nil {
				return in, err
			}
			if told {
				in = mid
			} else {
				out = mid
			}
		}
		return in, nil
	}
	was := false
	for _, s := range timing.Whole(spans, sc.Frames()) {
		for n := s.From; n < s.To; n++ {
			steps := []timing.Rat{timing.Int(n)}
			elastic := s.Kind == timing.Elastic
			if elastic && n+1 < sc.Frames() {
				steps = append(steps, timing.Int(n).Add(half))
			}
			for i, t := range steps {
				told, err := at(t)
				if err != nil {
					return nil, found, err
				}
				// Into this instant it stretches if the time before it does.
				stretches := elastic && (i > 0 || n > s.From)
				before := t.Sub(timing.Int(1))
				if stretches {
					before = t.Sub(half)
				}
				j := len(out) - 1
				switch {
				case told && was:
					out[j].To = t
				case told:
					from := t
					if stretches {
						if from, err = edge(t, before); err != nil {
							return nil, found, err
						}
					}
					out = append(out, Time{from, t})
				case was && stretches:
					if out[j].To, err = edge(before, t); err != nil {
						return nil, found, err
					}
				}
				was = told
				if i == 0 {
					found.Runs = add(found.Runs, n, told)
				}
			}
		}
	}
	return out, found, nil
}

// Runs are the frames of a map of time that show covered instants.
func Runs(times []Time, m timing.Map) []Run {
	var out []Run
	for n := range m.Frames {
		t := m.At(timing.OutputFrame(n)).Template.Rat
		i := sort.Search(len(times), func(i int) bool { return times[i].To.Cmp(t) >= 0 })
		out = add(out, n, i < len(times) && times[i].From.Cmp(t) <= 0)
	}
	return out
}

// Cut is the frame at which to cut beneath: the first of what comes after. It stands in the
// middle of the longest run, where it is farthest from being seen; ok is false where nothing is
// covered.
func Cut(runs []Run) (frame int64, ok bool) {
	var best Run
	for _, r := range runs {
		if r.To-r.From > best.To-best.From {
			best = r
		}
	}
	return (best.From + best.To) / 2, best.To > best.From
}

// Holds reports whether a cut at a frame is never seen: the frame is covered, or the one before
// it is the last that is.
func Holds(runs []Run, frame int64) bool {
	for _, r := range runs {
		if r.From <= frame && frame <= r.To {
			return true
		}
	}
	return false
}

// Common are the frames that are in all of some lists of runs.
func Common(lists ...[]Run) []Run {
	var out []Run
	for i, list := range lists {
		if i == 0 {
			out = list
			continue
		}
		var both []Run
		for _, a := range out {
			for _, b := range list {
				if r := (Run{max(a.From, b.From), min(a.To, b.To)}); r.From < r.To {
					both = append(both, r)
				}
			}
		}
		out = both
	}
	return out
}

// Milliseconds is when a frame begins at a rate, to the nearest.
func Milliseconds(frame int64, r timing.Rate) int64 {
	return timing.Int(frame).Mul(timing.Int(1000)).Div(r.Rat).Add(timing.NewRat(1, 2)).Floor()
}
