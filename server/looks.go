package server

import (
	"context"
	"fmt"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"ivypocket/access"
	"ivypocket/core/geom"
	"ivypocket/core/scene"
	"ivypocket/store"
)

// looks is a kind of documents that can be looked at: pieces, drafts. What is told of
// where things stand in them and how they look is the same for all.
type looks struct {
	kind, path string
	right      access.Right
	open       func(ctx context.Context, id string) (pieceState, error)
}

// op names an operation of the API.
func (l looks) op(name string) string { return l.kind + "-" + name }

func (s *Server) kinds() []looks {
	return []looks{{store.PieceKind, "/api/pieces/{id}", access.Fill, s.piece}, {store.DraftKind, "/api/drafts/{id}", access.Build, s.draft}}
}

// opened is a document, compiled for a format.
func (s *Server) opened(ctx context.Context, of looks, id, format string) (pieceState, *scene.Scene, error) {
	p, err := of.open(ctx, id)
	if err != nil {
		return p, nil, err
	}
	sc, err := s.scene(p, format)
	return p, sc, err
}

func (s *Server) lookRoutes(of looks) {
	add(s, of.right, huma.Operation{OperationID: of.op("seen"), Method: http.MethodGet, Path: of.path + "/seen", Summary: "Where layers are seen on a frame that mattes cut"},
		func(ctx context.Context, in *struct {
			ID     string `path:"id"`
			Format string `query:"format" required:"true"`
			Frame  int64  `query:"frame" minimum:"0"`
		}) (*struct{ Body []scene.Seen }, error) {
			_, sc, err := s.opened(ctx, of, in.ID, in.Format)
			if err != nil {
				return nil, s.apiError(err)
			}
			v, err := s.seen(ctx, sc, min(in.Frame, sc.Frames()-1))
			return &struct{ Body []scene.Seen }{v}, s.apiError(err)
		})
	add(s, of.right, huma.Operation{OperationID: of.op("under"), Method: http.MethodGet, Path: of.path + "/under", Summary: "Which layers are seen at a point of a frame, the topmost first",
		Description: "Whatever lies on top. Those that are seen within 3 px of the screen come last; grounds and grades are not told."},
		func(ctx context.Context, in *struct {
			ID     string  `path:"id"`
			Format string  `query:"format" required:"true"`
			Frame  int64   `query:"frame" minimum:"0"`
			X      float64 `query:"x" minimum:"-100000" maximum:"100000" doc:"px of the canvas from its left edge"`
			Y      float64 `query:"y" minimum:"-100000" maximum:"100000"`
			Zoom   float64 `query:"zoom" minimum:"0.001" maximum:"64" default:"1" doc:"px of the screen for one of the canvas"`
		}) (*struct{ Body []string }, error) {
			_, sc, err := s.opened(ctx, of, in.ID, in.Format)
			if err != nil {
				return nil, s.apiError(err)
			}
			v, err := s.under(ctx, sc, min(in.Frame, sc.Frames()-1), geom.Point{X: in.X, Y: in.Y}, in.Zoom)
			return &struct{ Body []string }{v}, s.apiError(err)
		})
	add(s, of.right, huma.Operation{OperationID: of.op("best"), Method: http.MethodGet, Path: of.path + "/best", Summary: "In how many pixels media for each pocket is sharp",
		Description: "By pocket; the largest of all formats and of all that moves there. Pockets that are never seen are left out."},
		func(ctx context.Context, in *struct {
			ID string `path:"id"`
		}) (*struct{ Body map[string]geom.Size }, error) {
			p, err := of.open(ctx, in.ID)
			if err != nil {
				return nil, s.apiError(err)
			}
			v, err := s.best(p)
			return &struct{ Body map[string]geom.Size }{v}, s.apiError(err)
		})
	add(s, of.right, huma.Operation{OperationID: of.op("clear"), Method: http.MethodGet, Path: of.path + "/clear", Summary: "Whether it can be seen through somewhere at some time"},
		func(ctx context.Context, in *struct {
			ID     string `path:"id"`
			Format string `query:"format" required:"true"`
		}) (*struct {
			Body struct {
				Clear bool `json:"clear"`
			}
		}, error) {
			_, sc, err := s.opened(ctx, of, in.ID, in.Format)
			if err != nil {
				return nil, s.apiError(err)
			}
			out := &struct {
				Body struct {
					Clear bool `json:"clear"`
				}
			}{}
			out.Body.Clear, err = s.clear(context.WithValue(ctx, gathering{}, true), sc)
			return out, s.apiError(err)
		})
	add(s, of.right, huma.Operation{OperationID: of.op("time"), Method: http.MethodGet, Path: of.path + "/time", Summary: "Where held and elastic time lie at a length"},
		func(ctx context.Context, in *struct {
			ID     string `path:"id"`
			Frames int64  `query:"frames" minimum:"0" doc:"0 is its own length"`
		}) (*struct{ Body []PartView }, error) {
			p, err := of.open(ctx, in.ID)
			if err != nil {
				return nil, s.apiError(err)
			}
			m, err := p.doc.TimeMap(in.Frames)
			if err != nil {
				return nil, s.apiError(badRequest{fmt.Errorf("frames: %w", err)})
			}
			return &struct{ Body []PartView }{partViews(m, p.doc)}, nil
		})
	add(s, of.right, huma.Operation{OperationID: of.op("frames"), Method: http.MethodGet, Path: of.path + "/frames", Summary: "Addresses of a window of frames of a format at a size, and what stands where on them"},
		func(ctx context.Context, in *struct {
			ID     string `path:"id"`
			Format string `query:"format" required:"true"`
			Width  int    `query:"width" minimum:"16" maximum:"8192" required:"true" doc:"The frames fit within width and height"`
			Height int    `query:"height" minimum:"16" maximum:"8192" required:"true"`
			From   int64  `query:"from" minimum:"0" doc:"The first frame of the window"`
			Count  int64  `query:"count" minimum:"1" maximum:"512" default:"512"`
			Alone  string `query:"alone" maxLength:"4000" doc:"Layers that alone are drawn, with commas between"`
			Past   int64  `query:"past" minimum:"-1" default:"-1" doc:"Of a draft: as it stood at a revision; -1 is as it is"`
		}) (*struct{ Body FramesView }, error) {
			p, err := of.open(ctx, in.ID)
			if err == nil && in.Past >= 0 && of.kind == store.DraftKind {
				p, err = s.draftPast(ctx, p, in.Past)
			}
			if err != nil {
				return nil, s.apiError(err)
			}
			p.alone = in.Alone
			sc, err := s.scene(p, in.Format)
			if err != nil {
				return nil, s.apiError(err)
			}
			v, err := s.window(ctx, sc, fit(sc.Canvas(), in.Width, in.Height), in.From, in.Count)
			v.Revision = p.row.Revision
			return &struct{ Body FramesView }{v}, s.apiError(err)
		})
}
