package server

import (
	"context"
	"fmt"
	"net/http"
	"strconv"

	"github.com/danielgtaylor/huma/v2"

	"ivypocket/access"
	"ivypocket/core/cover"
	"ivypocket/core/raster"
	"ivypocket/core/scene"
	"ivypocket/core/sheet"
	"ivypocket/core/timing"
	"ivypocket/deliver"
	"ivypocket/store"
)

type (
	// CoverView tells of which frames of a draft nothing beneath is seen, and where to cut there.
	CoverView struct {
		Revision int64         `json:"revision"`
		Formats  []FormatCover `json:"formats"`
		Runs     []cover.Run   `json:"runs" doc:"Frames that are covered in all formats"`
		// Cut is the best frame to cut at; absent where it never covers in all formats.
		Cut *CutView `json:"cut,omitempty" required:"false"`
		// Cue is where the cue for it stands, and whether a cut there is never seen.
		Cue     *CutView      `json:"cue,omitempty" required:"false"`
		Lengths []LengthCover `json:"lengths" doc:"The same at its shortest, its longest and between"`
	}
	// CutView is a frame to cut at, as people and switchers want it.
	CutView struct {
		Frame        int64  `json:"frame"`
		Timecode     string `json:"timecode"`
		Milliseconds int64  `json:"milliseconds"`
		Holds        bool   `json:"holds" doc:"A cut there is never seen"`
	}
	// FormatCover is what is covered in a format.
	FormatCover struct {
		Format string      `json:"format"`
		Runs   []cover.Run `json:"runs"`
		// Nearest is the frame of which the most is covered, and Share how much.
		Nearest int64   `json:"nearest"`
		Share   float64 `json:"share"`
	}
	// LengthCover is what is covered at a length, in all formats.
	LengthCover struct {
		Frames int64       `json:"frames"`
		Runs   []cover.Run `json:"runs"`
		Holds  bool        `json:"holds" doc:"The cue, or else the best frame, is covered there too"`
	}
)

// maxCovered bounds the template whose frames are looked at: two minutes at 60 frames a second.
const maxCovered = 2 * 60 * 60

func runsOf(r []cover.Run) []cover.Run {
	if r == nil {
		return []cover.Run{}
	}
	return r
}

// cover finds what a draft covers. Nobody waits for it with the pointer in hand: others go first.
func (s *Server) cover(ctx context.Context, p pieceState) (CoverView, error) {
	ctx = context.WithValue(ctx, gathering{}, true)
	d := p.doc
	r, err := sheet.Resolve(d, sheet.Values{})
	if err != nil {
		return CoverView{}, err
	}
	c := pool.Get().(*canvas)
	defer pool.Put(c)
	paint := func(ctx context.Context, l *scene.List) (*raster.Surface, error) {
		return &c.surface, s.paintOf(ctx, false, l, c)
	}
	v := CoverView{Revision: p.row.Revision, Formats: []FormatCover{}, Runs: []cover.Run{}, Lengths: []LengthCover{}}
	if len(d.Formats) == 0 {
		return v, nil
	}
	if d.Frames > maxCovered {
		return v, badRequest{fmt.Errorf("frames: %d are more than the %d that are looked at one by one for what they cover; that is for transitions", d.Frames, maxCovered)}
	}
	var times [][]cover.Time // by format
	var lists [][]cover.Run
	for _, f := range d.Formats {
		sc, err := cover.Scene(r, f.ID, s.lib)
		if err != nil {
			return v, err
		}
		t, found, err := cover.Times(ctx, sc, d.Spans, paint)
		if err != nil {
			return v, err
		}
		times, lists = append(times, t), append(lists, found.Runs)
		v.Formats = append(v.Formats, FormatCover{f.ID, runsOf(found.Runs), found.Nearest, found.Share})
	}
	runs := cover.Common(lists...)
	v.Runs = runsOf(runs)
	tell := func(frame int64) *CutView {
		return &CutView{frame, d.Rate.Timecode(frame), cover.Milliseconds(frame, d.Rate), cover.Holds(runs, frame)}
	}
	goal, any := timing.Rat{}, false // the instant at which it is cut
	if frame, ok := cover.Cut(runs); ok {
		v.Cut, goal, any = tell(frame), timing.Int(frame), true
	}
	for _, q := range d.Cues {
		if q.ID == cover.Cue {
			v.Cue, goal, any = tell(min(d.Frames-1, q.At.Ceil())), q.At, true
		}
	}
	for _, n := range tries(d) {
		if n == d.Frames {
			v.Lengths = append(v.Lengths, LengthCover{n, v.Runs, any && cover.Holds(runs, int64(goal.Ceil()))})
			continue
		}
		m, err := d.TimeMap(n)
		if err != nil {
			return v, err
		}
		lists = lists[:0]
		for _, t := range times {
			lists = append(lists, cover.Runs(t, m))
		}
		runs := cover.Common(lists...)
		v.Lengths = append(v.Lengths, LengthCover{n, runsOf(runs), any && cover.Holds(runs, int64(m.Frame(timing.TemplateTime{Rat: goal})))})
	}
	return v, nil
}

// sampleKey is one of the two sample scenes on a canvas.
type sampleKey struct {
	second bool
	w, h   int
}

// samples puts the two sample scenes beneath a frame, the cut made at a frame.
func (s *Server) samples(ctx context.Context, c *canvas, said string, f framed) error {
	at, err := strconv.ParseInt(said, 10, 64)
	if err != nil {
		return badRequest{fmt.Errorf("ground: scenes:%s names no frame to cut at", said)}
	}
	size := f.scene.Canvas()
	key := sampleKey{f.frame >= at, int(size.W), int(size.H)}
	sc, ok := s.sampled.Get(key)
	if !ok {
		if sc, err = cover.Sample(key.second, key.w, key.h, s.lib); err != nil {
			return err
		}
		s.sampled.Add(key, sc)
	}
	under := canvas{surface: c.under}
	sc.At(&under.list, sc.Time().At(timing.OutputFrame(f.frame%cover.SampleFrames)), f.size)
	if err := s.paintList(ctx, false, &under); err != nil {
		return err
	}
	c.under = under.surface
	c.surface.Beneath(0, c.surface.H, &c.under)
	return nil
}

// cutFile downloads where to cut beneath a film.
func (s *Server) cutFile(w http.ResponseWriter, r *http.Request) {
	row, v, ok := s.renderOf(w, r)
	if !ok {
		return
	}
	if v.Cut == nil || row.State != store.Done {
		problem(w, http.StatusNotFound, "Nothing is said of a cut beneath this film.")
		return
	}
	w.Header().Set("Content-Disposition", disposition("attachment", v.File+".cut.json"))
	w.Header().Set("Content-Type", "application/json")
	w.Header().Set("Cache-Control", "private, no-cache")
	http.ServeFile(w, r, deliver.CutPath(s.renderPath(row.ID, v.Kind)))
}

func (s *Server) coverRoutes() {
	add(s, access.Build, huma.Operation{OperationID: "draft-cover", Method: http.MethodGet, Path: "/api/drafts/{id}/cover", Summary: "Of which frames nothing beneath is seen, and where to cut there",
		Description: "Every frame is judged as it is painted, at full size, in all formats, at five lengths."},
		func(ctx context.Context, in *struct {
			ID string `path:"id"`
		}) (*struct{ Body CoverView }, error) {
			p, err := s.draft(ctx, in.ID)
			if err != nil {
				return nil, s.apiError(err)
			}
			key := fmt.Sprintf("%s@%d", in.ID, p.row.Revision)
			if v, ok := s.covers.Get(key); ok {
				return &struct{ Body CoverView }{v}, nil
			}
			v, err := s.cover(ctx, p)
			if err == nil {
				s.covers.Add(key, v)
			}
			return &struct{ Body CoverView }{v}, s.apiError(err)
		})
}
