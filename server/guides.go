package server

import (
	"context"
	"errors"
	"net/http"
	"slices"

	"github.com/danielgtaylor/huma/v2"

	"ivypocket/access"
	"ivypocket/core/geom"
	"ivypocket/core/guides"
	"ivypocket/store"
)

type (
	// GuidesView are all sets of guides, as they lie on a canvas.
	GuidesView struct {
		Tones [2]string  `json:"tones" doc:"The light and the dark colour of lines that have none of their own"`
		Sets  []GuideSet `json:"sets"`
	}
	// GuideSet is a set of guides.
	GuideSet struct {
		guides.Set
		// Revision is 0 for a ready-made one, which is not changed.
		Revision int64       `json:"revision"`
		Laid     guides.Laid `json:"laid"`
		Moved    []string    `json:"moved" doc:"The marks that lie elsewhere than those of the set it was made of"`
		// Name of its picture, in the store.
		StillName string `json:"stillName"`
	}
)

var (
	errReadyGuides = badRequest{errors.New("ready-made guides stay as they are; change a copy of them")}
	errGuideStill  = badRequest{errors.New("set.still.media: is no picture of the store")}
)

func (s *Server) guideSet(k store.KeptGuides, canvas geom.Size) GuideSet {
	v := GuideSet{Set: k.Set, Revision: k.Revision, Moved: k.Moved()}
	var still geom.Size
	if k.Set.Still != nil {
		if md, ok := s.store.Medium(k.Set.Still.Media); ok {
			still, v.StillName = geom.Size{W: float64(md.Meta.Width), H: float64(md.Meta.Height)}, md.Name
		}
	}
	v.Laid = k.On(canvas, still)
	return v
}

func (s *Server) guideRoutes() {
	add(s, access.Fill, huma.Operation{OperationID: "guides", Method: http.MethodGet, Path: "/api/guides",
		Summary: "All sets of guides as they lie on a canvas, the ready-made ones first", Description: "No render ever shows them."},
		func(ctx context.Context, in *struct {
			Width  int `query:"width" minimum:"1" maximum:"16384" required:"true"`
			Height int `query:"height" minimum:"1" maximum:"16384" required:"true"`
		}) (*struct{ Body GuidesView }, error) {
			canvas := geom.Size{W: float64(in.Width), H: float64(in.Height)}
			kept, err := s.store.GuideSets(ctx)
			if err != nil {
				return nil, s.apiError(err)
			}
			out := GuidesView{guides.Tones, []GuideSet{}}
			for _, set := range guides.ReadyMade() {
				out.Sets = append(out.Sets, s.guideSet(store.KeptGuides{Set: set}, canvas))
			}
			for _, k := range kept {
				out.Sets = append(out.Sets, s.guideSet(k, canvas))
			}
			return &struct{ Body GuidesView }{out}, nil
		})
	add(s, access.Build, huma.Operation{OperationID: "keep-guides", Method: http.MethodPut, Path: "/api/guides/{id}", Summary: "Keep a set of guides",
		Description: "In the place of the one that stood at the revision, 0 for a new one. 409 says that somebody changed it since. Ready-made ones stay as they are."},
		func(ctx context.Context, in *struct {
			ID   string `path:"id"`
			Body struct {
				Revision int64      `json:"revision" minimum:"0"`
				Set      guides.Set `json:"set"`
			}
		}) (*struct {
			Body struct {
				Revision int64 `json:"revision"`
			}
		}, error) {
			set := in.Body.Set
			set.ID = in.ID
			err := s.fitGuides(&set)
			var k store.KeptGuides
			if err == nil {
				k, err = s.store.KeepGuides(ctx, set, in.Body.Revision)
			}
			if err != nil {
				return nil, s.apiError(err)
			}
			tell(ctx, in.ID, "Guides %s: kept", set.Name)
			s.hub.send(event{Type: "guides", ID: in.ID, Revision: k.Revision})
			out := &struct {
				Body struct {
					Revision int64 `json:"revision"`
				}
			}{}
			out.Body.Revision = k.Revision
			return out, nil
		})
	add(s, access.Build, huma.Operation{OperationID: "drop-guides", Method: http.MethodDelete, Path: "/api/guides/{id}", Summary: "Remove a set of guides", DefaultStatus: http.StatusNoContent},
		func(ctx context.Context, in *struct {
			ID       string `path:"id"`
			Revision int64  `query:"revision" minimum:"1" required:"true"`
		}) (*struct{}, error) {
			if err := s.store.DropGuides(ctx, in.ID, in.Revision); err != nil {
				return nil, s.apiError(err)
			}
			tell(ctx, in.ID, "Guides %s: removed", in.ID)
			s.hub.send(event{Type: "guides", ID: in.ID})
			return nil, nil
		})
}

// fitGuides says whether a set can be kept.
func (s *Server) fitGuides(set *guides.Set) error {
	switch {
	case guides.Ready(set.ID) != nil:
		return errReadyGuides
	case set.Of != "" && guides.Ready(set.Of) == nil:
		set.Of = ""
	}
	if set.Marks == nil {
		set.Marks = []guides.Mark{}
	}
	set.Marks = slices.Clone(set.Marks)
	if err := set.Check(); err != nil {
		return badRequest{err}
	}
	if set.Still != nil {
		if md, ok := s.store.Medium(set.Still.Media); !ok || md.Meta.Kind != "picture" {
			return errGuideStill
		}
	}
	return nil
}
