package server

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"ivypocket/access"
	"ivypocket/core/craft"
	"ivypocket/core/scheme"
	"ivypocket/core/template"
	"ivypocket/store"
)

// What is done to templates on the shelf: they are called otherwise and filed elsewhere,
// copied, put in the bin and taken out. Their releases stay as they are.

// ShelfBody is what a template is called and filed under.
type ShelfBody struct {
	Name     string `json:"name" minLength:"1" maxLength:"200"`
	Category string `json:"category,omitempty" maxLength:"200"`
	Family   string `json:"family,omitempty" maxLength:"200"`
}

func (s *Server) templateRoutes() {
	add(s, access.Build, huma.Operation{OperationID: "shelve-template", Method: http.MethodPut, Path: "/api/templates/{id}", DefaultStatus: http.StatusNoContent,
		Summary: "Say what a template is called and what it is filed under"},
		func(ctx context.Context, in *struct {
			ID   string `path:"id"`
			Body ShelfBody
		}) (*struct{}, error) {
			t := store.Shelved{ID: in.ID}
			for at, text := range map[*string]string{&t.Name: in.Body.Name, &t.Category: in.Body.Category, &t.Family: in.Body.Family} {
				var err error
				if *at, err = craft.Said(text, at == &t.Name); err != nil {
					return nil, s.apiError(badRequest{err})
				}
			}
			err := s.store.Shelve(ctx, t)
			tell(ctx, t.ID, "%s: filed on the shelf", t.Name)
			if err == nil {
				s.hub.send(event{Type: "shelf"})
			}
			return nil, s.apiError(err)
		})
	add(s, access.Build, huma.Operation{OperationID: "copy-template", Method: http.MethodPost, Path: "/api/templates/{id}/copy", Summary: "Put a copy of a template beside it on the shelf"},
		func(ctx context.Context, in *struct {
			ID string `path:"id"`
		}) (*struct{ Body NamedView }, error) {
			d, err := s.copyTemplate(ctx, in.ID)
			if err != nil {
				return nil, s.apiError(err)
			}
			tell(ctx, d.ID, "%s: copied from %s", d.Name, in.ID)
			return &struct{ Body NamedView }{NamedView{d.ID, d.Name}}, nil
		})
	type chosenTemplates struct {
		IDs  []string `json:"ids" minItems:"1" maxItems:"1000"`
		Back bool     `json:"back,omitempty" doc:"Take them out of the bin"`
	}
	type changedTemplates struct {
		IDs []string `json:"ids" doc:"Those that this changed"`
	}
	add(s, access.Build, huma.Operation{OperationID: "delete-templates", Method: http.MethodPost, Path: "/api/templates/delete", Summary: "Put templates in the bin, or take them out",
		Description: "For seven days they can be taken out again, and as long as there are pieces of them. Pieces stay as they are."},
		func(ctx context.Context, in *struct{ Body chosenTemplates }) (*struct{ Body changedTemplates }, error) {
			ids, err := s.store.DeleteTemplates(ctx, in.Body.IDs, in.Body.Back)
			tellMany(ctx, ids, in.Body.Back, "template")
			if len(ids) > 0 {
				s.hub.send(event{Type: "shelf"})
			}
			return &struct{ Body changedTemplates }{changedTemplates{append([]string{}, ids...)}}, s.apiError(err)
		})
}

// ReleaseView is a release as it is listed.
type ReleaseView struct {
	ReleaseOf
	Note   string `json:"note"`
	When   string `json:"when" format:"date-time"`
	Hash   string `json:"hash" doc:"SHA-256 of its document; empty is of before hashes were kept"`
	Pieces int    `json:"pieces" doc:"Made of it"`
}

func (s *Server) releaseRoutes() {
	add(s, access.Fill, huma.Operation{OperationID: "releases", Method: http.MethodGet, Path: "/api/templates/{id}/releases", Summary: "The releases of a template, the newest first"},
		func(ctx context.Context, in *struct {
			ID string `path:"id"`
		}) (*struct{ Body []ReleaseView }, error) {
			t, err := s.shelved(ctx, in.ID)
			if err != nil {
				return nil, s.apiError(err)
			}
			list, err := s.store.Releases(ctx, in.ID)
			out := []ReleaseView{}
			for _, r := range list {
				out = append(out, ReleaseView{ReleaseOf{t.ID, t.Name, r.Number}, r.Note, r.Created, r.Hash, r.Pieces})
			}
			return &struct{ Body []ReleaseView }{out}, s.apiError(err)
		})
	add(s, access.Build, huma.Operation{OperationID: "release-draft", Method: http.MethodPost, Path: "/api/drafts/{id}/release", Summary: "Release a draft as it is",
		Description: "It is frozen: the next release of the template that the draft began from, or the first of a new one. The draft goes on from it."},
		func(ctx context.Context, in *struct {
			Who
			ID   string `path:"id"`
			Body struct {
				Note string `json:"note,omitempty" maxLength:"2000" doc:"What is new in it, for people"`
				New  bool   `json:"new,omitempty" doc:"As a template of its own, beside the one that it began from"`
			}
		}) (*struct{ Body ReleaseOf }, error) {
			row, err := s.store.DraftOf(ctx, in.ID)
			if err != nil {
				return nil, s.apiError(err)
			}
			draft, err := s.store.Read(row)
			if err != nil {
				return nil, s.apiError(err)
			}
			if missing := craft.Missing(draft.Doc, s.lib); len(missing) > 0 {
				return nil, s.apiError(badRequest{fmt.Errorf("%d of its files are missing; put them in again, or choose others", len(missing))})
			}
			r, err := s.store.ReleaseDraft(ctx, in.ID, strings.TrimSpace(in.Body.Note), in.Body.New)
			var faults template.Faults
			if errors.As(err, &faults) {
				err = badRequest{err}
			}
			if err != nil {
				return nil, s.apiError(err)
			}
			s.hub.send(event{Type: "shelf"})
			s.hub.send(event{Type: "draft", ID: in.ID, Revision: row.Revision})
			tell(ctx, r.Template, "%s: release %d", draft.Doc.Name, r.Number)
			return &struct{ Body ReleaseOf }{ReleaseOf{r.Template, draft.Doc.Name, r.Number}}, nil
		})
}

// shelved is a template that is on the shelf, as it is called there.
func (s *Server) shelved(ctx context.Context, id string) (store.Shelved, error) {
	list, err := s.store.Templates(ctx)
	if err != nil {
		return store.Shelved{}, err
	}
	for _, t := range list {
		switch {
		case t.ID == id && t.Deleted != "":
			return t, store.ErrDeleted
		case t.ID == id:
			return t, nil
		}
	}
	return store.Shelved{}, store.ErrNotFound
}

// newest is the newest release of a template that is on the shelf, called as it is there,
// and its number.
func (s *Server) newest(ctx context.Context, id string) (*template.Document, int, error) {
	t, err := s.shelved(ctx, id)
	if err != nil {
		return nil, 0, err
	}
	d, err := s.store.Document(ctx, id, t.Number)
	if err != nil {
		return nil, 0, err
	}
	c := d.Clone()
	c.Name, c.Category, c.Family = t.Name, t.Category, t.Family
	return c, t.Number, nil
}

// copyTemplate puts a copy on the shelf, with a name and an id of its own.
func (s *Server) copyTemplate(ctx context.Context, id string) (*template.Document, error) {
	d, _, err := s.newest(ctx, id)
	if err != nil {
		return nil, err
	}
	list, err := s.store.Templates(ctx)
	if err != nil {
		return nil, err
	}
	ids, names := map[string]bool{}, map[string]bool{}
	for _, t := range list {
		ids[t.ID], names[t.Name] = true, true
	}
	d.Name = freeNameOf(d.Name, names)
	d.ID = scheme.IDOf(d.Name)
	for n := 2; ids[d.ID]; n++ {
		d.ID = fmt.Sprintf("%s-%d", scheme.IDOf(d.Name), n)
	}
	if _, err := s.store.Release(ctx, d); err != nil {
		return nil, err
	}
	s.hub.send(event{Type: "shelf"})
	return d, nil
}
