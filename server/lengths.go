package server

import (
	"context"
	"math"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"ivypocket/access"
	"ivypocket/core/scene"
	"ivypocket/core/template"
	"ivypocket/core/timing"
)

type (
	// LengthView is a template at some length: a row of pictures of it, over the time that
	// its parts take then.
	LengthView struct {
		Frames int64        `json:"frames"`
		Time   []PartView   `json:"time"`
		Cells  []LengthCell `json:"cells"`
	}
	// LengthCell is a picture of such a row.
	LengthCell struct {
		Frame   int64   `json:"frame"`
		Shows   float64 `json:"shows" doc:"The frame of the template that it shows"`
		Address string  `json:"address"`
	}
)

// Lengths that are looked at side by side, and the most pictures of one.
const (
	triedLengths = 5
	lengthCells  = 12
)

// tries are lengths to try a template at: its shortest, its longest and three between, its own
// among them. Where nothing says how long it may be it is twice as long as it is.
func tries(d *template.Document) []int64 {
	lo, hi := d.Lengths()
	hi = min(hi, max(2*d.Frames, lo))
	out := []int64{}
	for i := range int64(triedLengths) {
		n := lo + (hi-lo)*i/(triedLengths-1)
		if k := len(out); k == 0 || n > out[k-1] {
			out = append(out, n)
		}
	}
	// Its own takes the place of the one that is nearest to it, unless that is an end.
	best := -1
	for i := 1; i+1 < len(out); i++ {
		if best < 0 || math.Abs(float64(out[i]-d.Frames)) < math.Abs(float64(out[best]-d.Frames)) {
			best = i
		}
	}
	if best > 0 && d.Frames > lo && d.Frames < hi {
		out[best] = d.Frames
	}
	return out
}

func (s *Server) lengths(ctx context.Context, p pieceState, format string, side int) ([]LengthView, error) {
	out := []LengthView{}
	list := tries(p.doc)
	most := list[len(list)-1]
	for _, n := range list {
		if n == p.doc.Frames {
			p.piece.Values.Frames = 0
		} else {
			p.piece.Values.Frames = n
		}
		sc, err := s.scene(p, format)
		if err != nil {
			return nil, err
		}
		v := LengthView{Frames: n, Time: partViews(sc.Time(), p.doc), Cells: []LengthCell{}}
		// Pictures stand as near in all rows: each for as many frames.
		count := max(1, int64(math.Round(lengthCells*float64(n)/float64(most))))
		size := fit(sc.Canvas(), side, side)
		var l scene.List
		for i := range count {
			frame := (2*i + 1) * n / (2 * count)
			now := sc.Time().At(timing.OutputFrame(frame))
			sc.At(&l, now, size)
			a := l.Address()
			s.frames.Add(a, framed{sc, frame, size})
			v.Cells = append(v.Cells, LengthCell{frame, now.Template.Float(), a.String()})
		}
		out = append(out, v)
	}
	return out, nil
}

func (s *Server) lengthRoutes() {
	add(s, access.Build, huma.Operation{OperationID: "draft-lengths", Method: http.MethodGet, Path: "/api/drafts/{id}/lengths", Summary: "A draft at its shortest, its longest and three lengths between"},
		func(ctx context.Context, in *struct {
			ID     string `path:"id"`
			Format string `query:"format" required:"true"`
			Side   int    `query:"side" minimum:"16" maximum:"512" default:"160" doc:"The longer side of the pictures, px"`
		}) (*struct{ Body []LengthView }, error) {
			p, err := s.draft(ctx, in.ID)
			if err != nil {
				return nil, s.apiError(err)
			}
			v, err := s.lengths(ctx, p, in.Format, in.Side)
			return &struct{ Body []LengthView }{v}, s.apiError(err)
		})
}
