package server

import (
	"context"
	"fmt"
	"net/http"
	"strings"

	"github.com/danielgtaylor/huma/v2"

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

func (s *Server) templateRoutes(api huma.API) {
	huma.Register(api, huma.Operation{OperationID: "shelve-template", Method: http.MethodPut, Path: "/api/templates/{id}", DefaultStatus: http.StatusNoContent,
		Summary: "Say what a template is called and what it is filed under"},
		func(ctx context.Context, in *struct {
			ID   string `path:"id"`
			Body ShelfBody
		}) (*struct{}, error) {
			t := store.Shelved{ID: in.ID, Name: strings.TrimSpace(in.Body.Name), Category: strings.TrimSpace(in.Body.Category), Family: strings.TrimSpace(in.Body.Family)}
			if err := plainNames(t); err != nil {
				return nil, s.apiError(badRequest{err})
			}
			err := s.store.Shelve(ctx, t)
			if err == nil {
				s.hub.send(event{Type: "shelf"})
			}
			return nil, s.apiError(err)
		})
	huma.Register(api, huma.Operation{OperationID: "copy-template", Method: http.MethodPost, Path: "/api/templates/{id}/copy", Summary: "Put a copy of a template beside it on the shelf"},
		func(ctx context.Context, in *struct {
			ID string `path:"id"`
		}) (*struct{ Body NamedView }, error) {
			d, err := s.copyTemplate(ctx, in.ID)
			if err != nil {
				return nil, s.apiError(err)
			}
			return &struct{ Body NamedView }{NamedView{d.ID, d.Name}}, nil
		})
	type chosenTemplates struct {
		IDs  []string `json:"ids" minItems:"1" maxItems:"1000"`
		Back bool     `json:"back,omitempty" doc:"Take them out of the bin"`
	}
	type changedTemplates struct {
		IDs []string `json:"ids" doc:"Those that this changed"`
	}
	huma.Register(api, huma.Operation{OperationID: "delete-templates", Method: http.MethodPost, Path: "/api/templates/delete", Summary: "Put templates in the bin, or take them out",
		Description: "For seven days they can be taken out again, and as long as there are pieces of them. Pieces stay as they are."},
		func(ctx context.Context, in *struct{ Body chosenTemplates }) (*struct{ Body changedTemplates }, error) {
			ids, err := s.store.DeleteTemplates(ctx, in.Body.IDs, in.Body.Back)
			if len(ids) > 0 {
				s.hub.send(event{Type: "shelf"})
			}
			return &struct{ Body changedTemplates }{changedTemplates{append([]string{}, ids...)}}, s.apiError(err)
		})
}

// plainNames says what of a template's names can't be shown on one line.
func plainNames(t store.Shelved) error {
	for what, text := range map[string]string{"name": t.Name, "category": t.Category, "family": t.Family} {
		if strings.ContainsFunc(text, func(r rune) bool { return r < ' ' || template.Unseen(r) }) {
			return fmt.Errorf("%s: has a line end or a character that can't be seen; take it out", what)
		}
	}
	if t.Name == "" {
		return fmt.Errorf("name: is missing")
	}
	return nil
}

// asShelved is a release's document with the names that the shelf has for it.
func (s *Server) asShelved(ctx context.Context, d *template.Document) (*template.Document, error) {
	list, err := s.store.Templates(ctx)
	if err != nil {
		return nil, err
	}
	for _, t := range list {
		if t.ID == d.ID {
			c := d.Clone()
			c.Name, c.Category, c.Family = t.Name, t.Category, t.Family
			return c, nil
		}
	}
	return d, nil
}

// copyTemplate puts a copy on the shelf, with a name and an id of its own.
func (s *Server) copyTemplate(ctx context.Context, id string) (*template.Document, error) {
	d, _, err := s.newest(ctx, id)
	if err != nil {
		return nil, err
	}
	if d, err = s.asShelved(ctx, d); err != nil {
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
	c := d.Clone()
	c.Name = freeNameOf(d.Name, names)
	c.ID = scheme.IDOf(c.Name)
	for n := 2; ids[c.ID]; n++ {
		c.ID = fmt.Sprintf("%s-%d", scheme.IDOf(c.Name), n)
	}
	if _, err := s.store.Release(ctx, c); err != nil {
		return nil, err
	}
	s.hub.send(event{Type: "shelf"})
	return c, nil
}
