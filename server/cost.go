package server

import (
	"context"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"ivypocket/access"
	"ivypocket/core/scene"
	"ivypocket/core/scheme"
	"ivypocket/store"
)

// CostView is what a layer's motion blur costs: how long a frame takes with it and without.
type CostView struct {
	With    float64 `json:"with" doc:"ms"`
	Without float64 `json:"without" doc:"ms"`
	Width   int     `json:"width" doc:"Of the picture that was painted, px"`
}

// Pictures that are painted to measure a cost: their longer side, and how often; the quickest counts, as what else the
// machine does only ever adds.
const (
	costSide  = 960
	costTries = 3
)

// blurCost measures what a layer's motion blur costs at a frame.
func (s *Server) blurCost(ctx context.Context, p pieceState, layer, format string, frame int64) (CostView, error) {
	var v CostView
	y := p.doc.Layer(layer)
	if y == nil {
		return v, store.ErrNotFound
	}
	bare := p.doc.Clone()
	bare.Leave("layers/"+layer, scheme.BlurSamples)
	c := pool.Get().(*canvas)
	defer pool.Put(c)
	with, err := s.compile(p.doc, p.piece.Values, format)
	if err != nil {
		return v, err
	}
	without, err := s.compile(bare, p.piece.Values, format)
	if err != nil {
		return v, err
	}
	size := fit(with.Canvas(), costSide, costSide)
	v.Width = size.W
	frame = min(frame, with.Frames()-1)
	// In turns, so that both meet what else goes on.
	for range costTries {
		for _, one := range []struct {
			sc *scene.Scene
			to *float64
		}{{with, &v.With}, {without, &v.Without}} {
			begun := time.Now()
			if err := s.paint(ctx, one.sc, frame, size, false, c); err != nil {
				return v, err
			}
			if took := float64(time.Since(begun)) / float64(time.Millisecond); *one.to == 0 || took < *one.to {
				*one.to = took
			}
		}
	}
	return v, nil
}

func (s *Server) costRoutes() {
	add(s, access.Build, huma.Operation{OperationID: "blur-cost", Method: http.MethodGet, Path: "/api/drafts/{id}/layers/{layer}/blur", Summary: "What a layer's motion blur costs at a frame, measured"},
		func(ctx context.Context, in *struct {
			ID     string `path:"id"`
			Layer  string `path:"layer" maxLength:"200"`
			Format string `query:"format" required:"true"`
			Frame  int64  `query:"frame" minimum:"0"`
		}) (*struct{ Body CostView }, error) {
			p, err := s.draft(ctx, in.ID)
			if err != nil {
				return nil, s.apiError(err)
			}
			v, err := s.blurCost(ctx, p, in.Layer, in.Format, in.Frame)
			return &struct{ Body CostView }{v}, s.apiError(err)
		})
}
