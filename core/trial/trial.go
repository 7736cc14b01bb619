// Package trial is the room for swap trials: it fills a template with every
// kind of media and value an editor may bring and reports what breaks. What
// the draw list's numbers can tell is read from them; pixels are looked at
// only where nothing else will do.
package trial

import (
	"context"
	"fmt"
	"math"
	"slices"
	"strings"

	"ivypocket/core/geom"
	"ivypocket/core/raster"
	"ivypocket/core/scene"
	"ivypocket/core/scheme"
	"ivypocket/core/sheet"
	"ivypocket/core/template"
	"ivypocket/core/timing"
)

// Kind says what a finding is about.
type Kind string

const (
	UncoveredEdge Kind = "uncovered edge"
	MeltingMark   Kind = "melting mark"
	SwallowedCell Kind = "swallowed cell"
	UnseenMark    Kind = "unseen mark"
	OpaqueMark    Kind = "opaque mark"
	NotDrawn      Kind = "not drawn"
	NeverCovers   Kind = "never covers"
)

// Finding is one thing that breaks.
type Finding struct {
	Kind Kind `json:"kind" doc:"A kind of findings, such as uncovered edge, or one of the rules for words"`
	// Hint says that nothing is broken: it tells an editor what goes well here.
	Hint   bool   `json:"hint" doc:"Advice rather than a fault"`
	Format string `json:"format"`
	Frame  int64  `json:"frame"`
	Case   string `json:"case" doc:"What was tried"`
	Pocket string `json:"pocket,omitempty"`
	Layer  string `json:"layer,omitempty" doc:"The layer whose words it is about"`
	Where  string `json:"where" doc:"The pocket or cell as people call it"`
	What   string `json:"what"`
	Advice string `json:"advice"`

	// Values are what was tried, so that the case can be looked at again.
	Values sheet.Values `json:"-"`
	// Picture is the frame, about PictureSide px on its longer side; nil where
	// nothing could be drawn.
	Picture *raster.Surface `json:"-"`
}

// Tile is one case of the contact sheet.
type Tile struct {
	Format   string          `json:"format"`
	Case     string          `json:"case"`
	Frame    int64           `json:"frame"`
	Findings int             `json:"findings"`
	Picture  *raster.Surface `json:"-"`
}

// Report is the outcome of a trial.
type Report struct {
	Findings []Finding `json:"findings"`
	Tiles    []Tile    `json:"tiles"`
	Cases    int       `json:"cases"`
}

// Pictures in a report, their longer side in pixels.
const (
	PictureSide = 720
	TileSide    = 300
)

// WCAG 2.2, success criterion 1.4.11: graphical objects need a contrast of 3:1
// against what is next to them.
const minContrast = 3

// minLegible is the share of a mark that must reach the contrast; below half,
// its shape can't be made out. Common practice, no source.
const minLegible = 0.5

// minCell is the least share of the canvas' shorter side a cell must keep to
// show anything. Common practice, no source.
const minCell = 0.03

// Input is what a trial works on.
type Input struct {
	Doc    *template.Document
	Values sheet.Values // as the piece stands
	Source scene.Source
	// Cache bounds the pictures kept in memory, in bytes.
	Cache int
	// Wait is called before each picture and may let others go first; nil does
	// nothing.
	Wait func(context.Context) (release func(), err error)
	// Progress is told after each case; nil does nothing.
	Progress func(done, total int)
}

// oneCase is a set of values that is tried.
type oneCase struct {
	name   string
	values sheet.Values
	entry  string // the entry that was moved, if one was
}

// Run tries every case in every format.
func Run(ctx context.Context, in Input) (*Report, error) {
	src := addSamples(in.Source)
	painter := scene.NewPainter(nil)
	defer painter.Close()
	t := &runner{in: in, src: src, pictures: scene.NewPictures(src, in.Cache), painter: painter, report: &Report{}, melts: map[string][]Finding{}, told: map[string]bool{}, worded: map[string]*wordFinding{}}
	cases := t.cases()
	total := len(cases) * len(in.Doc.Formats)
	for _, f := range in.Doc.Formats {
		if err := t.covers(ctx, f); err != nil && ctx.Err() != nil {
			return nil, ctx.Err()
		} // what can't be drawn is told below
		for _, c := range cases {
			if err := t.try(ctx, f, c); err != nil {
				if ctx.Err() != nil {
					return nil, ctx.Err()
				}
				t.report.Findings = append(t.report.Findings, Finding{Kind: NotDrawn, Format: f.ID, Case: c.name, Where: "The piece", What: "It can't be drawn: " + err.Error() + ".",
					Advice: "Look at it with these values; the other cases were tried all the same.", Values: c.values})
			}
			t.report.Cases++
			if in.Progress != nil {
				in.Progress(t.report.Cases, total)
			}
		}
	}
	t.advise()
	t.tellMore()
	return t.report, nil
}

type runner struct {
	// melts are the cases in which a pocket's mark can't be made out, by pocket, in
	// the order in which they were tried; order is that of the pockets.
	melts map[string][]Finding
	order []string
	// told are pockets and formats of which something was said once for all cases.
	told map[string]bool
	// worded are findings about words by what they are about, and the further cases that have them.
	worded map[string]*wordFinding

	in       Input
	src      withSamples
	pictures *scene.Pictures
	ready    scene.Ready
	painter  *scene.Painter
	report   *Report
	list     scene.List
}

func (t *runner) cases() []oneCase {
	out := []oneCase{{name: asItIs, values: t.in.Values}}
	fill := func(samples []sample, logo bool) {
		for _, s := range samples {
			v, any := t.in.Values.Clone(), false
			for _, p := range t.in.Doc.Pockets {
				if p.IsLogo() == logo {
					f := v.Fills[p.ID]
					f.Media = s.id
					v.Fills[p.ID] = f
					any = true
				}
			}
			if any {
				out = append(out, oneCase{name: s.name, values: v})
			}
		}
	}
	fill(pictures, false)
	fill(marks, true)
	out = append(out, t.wordings()...)
	for _, e := range t.in.Doc.Sheet.Entries() {
		if e.Fixed {
			continue
		}
		ends := e.Ends()
		for i := range ends {
			v := t.in.Values.Clone()
			v.Entries[e.ID] = ends[i]
			out = append(out, oneCase{name: e.Label + " at " + e.Says(ends[i]), values: v, entry: e.Label})
		}
	}
	return out
}

// resolve skips the validation of media hashes, which the trial's own media
// does not have.
func (t *runner) resolve(v sheet.Values) (*sheet.Resolved, error) {
	bare := v.Clone()
	for id, f := range bare.Fills {
		f.Media = ""
		bare.Fills[id] = f
	}
	r, err := sheet.Resolve(t.in.Doc, bare)
	if err != nil {
		return nil, err
	}
	r.Values = v
	return r, nil
}

func (t *runner) try(ctx context.Context, f template.Format, c oneCase) error {
	r, err := t.resolve(c.values)
	if err != nil {
		return err
	}
	s, err := scene.Compile(r, f.ID, t.src)
	if err != nil {
		return err
	}
	poster := int64(s.Poster())
	first := len(t.report.Findings)
	found := func(k Kind, pocket, where string, frame int64, what, advice string) error {
		fd := Finding{Kind: k, Format: f.ID, Frame: frame, Case: c.name, Pocket: pocket, Where: where, What: what, Advice: advice, Values: c.values}
		var err error
		if fd.Picture, err = t.picture(ctx, s, frame, PictureSide); err != nil {
			return err
		}
		t.report.Findings = append(t.report.Findings, fd)
		return nil
	}
	short := math.Min(s.Canvas().W, s.Canvas().H)
	for _, st := range s.Stands() {
		p := t.in.Doc.Pocket(st.Pocket)
		where := p.Name
		if st.Where != "" {
			where += " (" + st.Where + ")"
		}
		side := math.Min(st.Size.W, st.Size.H)
		if side < minCell*short {
			what := fmt.Sprintf("The cell is left %.0f × %.0f px.", st.Size.W, st.Size.H)
			advice := "Lower the gutter or the margin, or use fewer rows and columns."
			if c.entry != "" {
				advice = fmt.Sprintf("Lower the far limit of “%s” on the sheet.", c.entry)
			}
			if err := found(SwallowedCell, st.Pocket, where, poster, what, advice); err != nil {
				return err
			}
			continue
		}
		if p.IsLogo() || st.Media.Empty() || st.Covers {
			continue
		}
		frame, ok := t.seen(s, st.Layer, poster)
		if !ok {
			continue
		}
		what := fmt.Sprintf("An edge of the media shows inside the cell; it lies there by %q at zoom %.2f.", st.Framing.Fit, st.Framing.Zoom)
		if err := found(UncoveredEdge, st.Pocket, where, frame, what, "Frame it with cover, where no edge can come into view."); err != nil {
			return err
		}
	}
	for _, st := range s.Stands() {
		p := t.in.Doc.Pocket(st.Pocket)
		if !p.IsLogo() || st.Media.Empty() {
			continue
		}
		once := func(k Kind, hint bool, what, advice string) error {
			key := string(k) + f.ID + st.Pocket
			if t.told[key] {
				return nil
			}
			t.told[key] = true
			err := found(k, st.Pocket, p.Name, poster, what, advice)
			if err == nil {
				t.report.Findings[len(t.report.Findings)-1].Hint = hint
			}
			return err
		}
		if st.Cuts {
			if opaque, err := t.opaque(ctx, r.Media(st.Pocket), st.Media); err != nil || !opaque {
				if err != nil {
					return err
				}
				continue
			}
			// A mark of the trial's own only shows what the pocket needs.
			if err := once(OpaqueMark, c.name != asItIs, "The mark has no transparency, and cuts as a full rectangle.", "Choose a mark on clear ground."); err != nil {
				return err
			}
			continue
		}
		frame, ok := t.seen(s, st.Layer, poster)
		share, drawn := 0.0, 0
		if ok {
			if share, drawn, err = t.legible(ctx, s, st.Layer, frame); err != nil {
				return err
			}
		}
		switch {
		case drawn == 0 && hides(r.Doc.Layers, st.Layer) && !hides(t.in.Doc.Layers, st.Layer):
			// An entry leaves it out, as it is meant to.
		case drawn == 0:
			if err := once(UnseenMark, false, "Nothing of the mark is drawn on any frame.", "See that it is not clear all over, not outside the canvas and not covered."); err != nil {
				return err
			}
		case share >= minLegible:
		case c.name == asItIs:
			what := fmt.Sprintf("Only %.0f %% of the mark stands out by %d:1 from what is behind it.", share*100, minContrast)
			if err := found(MeltingMark, st.Pocket, p.Name, frame, what, "Put a backing of another brightness under the mark, or choose another mark."); err != nil {
				return err
			}
		default:
			m := Finding{Kind: MeltingMark, Hint: true, Format: f.ID, Frame: frame, Case: c.name, Pocket: st.Pocket, Where: p.Name, Values: c.values}
			if t.melts[st.Pocket] == nil {
				t.order = append(t.order, st.Pocket)
				if m.Picture, err = t.picture(ctx, s, frame, PictureSide); err != nil {
					return err
				}
			}
			t.melts[st.Pocket] = append(t.melts[st.Pocket], m)
		}
	}
	if err := t.words(ctx, s, r, f, c); err != nil {
		return err
	}
	tile := Tile{Format: f.ID, Case: c.name, Frame: poster}
	for _, fd := range t.report.Findings[first:] {
		if !fd.Hint {
			tile.Findings++
		}
	}
	if tile.Picture, err = t.picture(ctx, s, poster, TileSide); err != nil {
		return err
	}
	t.report.Tiles = append(t.report.Tiles, tile)
	return nil
}

// asItIs is the case of the piece as it stands.
const asItIs = "as it is"

// advise says once for each pocket which marks it takes, from all cases in which one
// melted: what an editor should bring, not a fault for every colour.
func (t *runner) advise() {
	for _, pocket := range t.order {
		all := t.melts[pocket]
		var names []string
		melts := map[string]bool{}
		for _, m := range all {
			if !melts[m.Case] {
				melts[m.Case] = true
				names = append(names, m.Case)
			}
		}
		takes := ""
		switch dark, bright := !melts[darkMark], !melts[brightMark]; {
		case dark && !bright:
			takes = "Takes dark marks. "
		case bright && !dark:
			takes = "Takes bright marks. "
		case !bright:
			takes = "Takes marks of neither great darkness nor brightness. "
		}
		fd := all[0]
		fd.What = fmt.Sprintf("%sLess than half of the mark stands out by %d:1 from what is behind it with %s.", takes, minContrast, strings.Join(names, ", "))
		fd.Advice = "Tell the editor so, or put a backing of another brightness under the mark."
		t.report.Findings = append(t.report.Findings, fd)
	}
}

// opaque reports whether media has no transparent part.
func (t *runner) opaque(ctx context.Context, media string, size geom.Size) (bool, error) {
	k := math.Min(1, 128/math.Max(size.W, size.H))
	pic, err := t.src.Picture(ctx, media, 0, max(1, int(size.W*k)), max(1, int(size.H*k)))
	if err != nil {
		return false, err
	}
	for i := 3; i < len(pic.Pix); i += 4 {
		if pic.Pix[i] < 250 {
			return false, nil
		}
	}
	return true, nil
}

// seen finds the frame in which most of a layer is seen, the poster if it is
// as good as any.
func (t *runner) seen(s *scene.Scene, layer string, poster int64) (frame int64, ok bool) {
	size := sized(s, TileSide)
	best := 0.0
	look := func(f int64) {
		s.At(&t.list, s.Time().At(timing.OutputFrame(f)), size)
		for i := range t.list.Main {
			it := &t.list.Items[i]
			if it.Layer != layer {
				continue
			}
			in := it.Box.Intersect(geom.Box{W: float64(size.W), H: float64(size.H)})
			if v := in.W * in.H * it.Opacity; v > best*1.001 {
				best, frame, ok = v, f, true
			}
		}
	}
	look(poster)
	for f := int64(0); f < s.Frames(); f += max(1, s.Frames()/60) {
		look(f)
	}
	return
}

// legible paints what is below a mark and the mark alone, and compares: the share of
// it that stands out, and how many pixels of it are seen.
func (t *runner) legible(ctx context.Context, s *scene.Scene, layer string, frame int64) (share float64, seen int, err error) {
	s.At(&t.list, s.Time().At(timing.OutputFrame(frame)), sized(s, PictureSide))
	at := -1
	for i := range t.list.Main {
		if t.list.Items[i].Layer == layer {
			at = i
			break
		}
	}
	if at < 0 {
		return 1, 0, nil
	}
	below, alone := t.list.Below(at), t.list.Only(at)
	var behind, mark raster.Surface
	if err := t.paint(ctx, &below, &behind); err != nil {
		return 0, 0, err
	}
	if err := t.paint(ctx, &alone, &mark); err != nil {
		return 0, 0, err
	}
	share, seen = raster.Legible(&mark, &behind, minContrast)
	return share, seen, nil
}

func (t *runner) picture(ctx context.Context, s *scene.Scene, frame int64, side int) (*raster.Surface, error) {
	s.At(&t.list, s.Time().At(timing.OutputFrame(frame)), sized(s, side))
	out := &raster.Surface{}
	return out, t.paint(ctx, &t.list, out)
}

func (t *runner) paint(ctx context.Context, l *scene.List, dst *raster.Surface) error {
	if err := t.pictures.Ready(ctx, l, &t.ready); err != nil {
		return err
	}
	if t.in.Wait != nil {
		release, err := t.in.Wait(ctx)
		if err != nil {
			return err
		}
		defer release()
	}
	return t.painter.PaintReady(ctx, l, &t.ready, dst)
}

// sized is the canvas shrunk until its longer side is as given.
func sized(s *scene.Scene, side int) scene.Size {
	c := s.Canvas()
	k := float64(side) / math.Max(c.W, c.H)
	return scene.Size{W: max(1, int(math.Round(c.W*k))), H: max(1, int(math.Round(c.H*k)))}
}

// hides reports whether a layer is hidden at rest, by itself or with a group that it is in.
func hides(layers []*template.Layer, id string) bool {
	for _, y := range layers {
		off := y.On(scheme.Hidden)
		if y.ID == id {
			return off
		}
		if hides(y.Layers(), id) || off && holds(y.Layers(), id) {
			return true
		}
	}
	return false
}

// holds reports whether a layer is among others, at any depth.
func holds(layers []*template.Layer, id string) bool {
	return slices.ContainsFunc(layers, func(y *template.Layer) bool { return y.ID == id || holds(y.Layers(), id) })
}
