package server

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"ivypocket/access"
	"ivypocket/core/template"
)

// kin lists the other documents of a draft's family: newest releases on the shelf, and drafts.
func (s *Server) kin(ctx context.Context, id string, d *template.Document) ([]*template.Document, error) {
	if d.Family == "" {
		return nil, nil
	}
	return s.others(ctx, id, func(family string) bool { return family == d.Family })
}

// others lists the documents of some families but for one draft: newest releases on the shelf, and drafts.
func (s *Server) others(ctx context.Context, id string, of func(family string) bool) ([]*template.Document, error) {
	list, err := s.store.Templates(ctx)
	if err != nil {
		return nil, err
	}
	var out []*template.Document
	for _, t := range list {
		if !of(t.Family) || t.Deleted != "" {
			continue
		}
		if doc, err := s.store.Document(ctx, t.ID, t.Number); err == nil { // one that can't be read is told elsewhere
			out = append(out, doc)
		}
	}
	drafts, err := s.draftItems(ctx, false)
	if err != nil {
		return nil, err
	}
	for _, it := range drafts {
		if !of(it.Family) || it.ID == id {
			continue
		}
		if row, err := s.store.DraftOf(ctx, it.ID); err == nil {
			if draft, err := s.store.Read(row); err == nil {
				out = append(out, draft.Doc)
			}
		}
	}
	return out, nil
}

func (s *Server) easingRoutes() {
	add(s, access.Build, huma.Operation{OperationID: "family-easings", Method: http.MethodGet, Path: "/api/drafts/{id}/easings", Summary: "Easings of other templates of a draft's family",
		Description: "Those that the draft has alike are left out; of several that are alike one is told."},
		func(ctx context.Context, in *struct {
			ID string `path:"id"`
		}) (*struct{ Body []EasingView }, error) {
			p, err := s.draft(ctx, in.ID)
			if err != nil {
				return nil, s.apiError(err)
			}
			kin, err := s.kin(ctx, in.ID, p.doc)
			if err != nil {
				return nil, s.apiError(err)
			}
			out := []EasingView{}
			told := append([]template.NamedEasing{}, p.doc.Easings...)
			for _, doc := range kin {
				for _, e := range doc.Easings {
					known := false
					for i := range told {
						known = known || told[i].Name == e.Name && told[i].Eases(&template.Key{Ease: e.Ease, Steps: e.Steps})
					}
					if !known {
						told = append(told, e)
						out = append(out, EasingView{NamedView{e.ID, e.Name}, e.Ease, e.Steps, 0, doc.Name})
					}
				}
			}
			return &struct{ Body []EasingView }{out}, nil
		})
}
