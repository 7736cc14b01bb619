package server

import (
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"ivypocket/core/template"
	"ivypocket/deliver"
	"ivypocket/store"
)

// HealthView is how the store stands: the room on its disk, and what in it can't
// be used.
type HealthView struct {
	Free         int64           `json:"free" doc:"Bytes left on the disk"`
	Reserve      int64           `json:"reserve" doc:"Bytes that are left free whatever comes in; below, nothing comes in and nothing is rendered"`
	Cleared      int             `json:"cleared" doc:"Media cleared away whose files are still there"`
	ClearedBytes int64           `json:"clearedBytes"`
	Troubles     []store.Trouble `json:"troubles"`
}

// FreedView is what freeing room led to.
type FreedView struct {
	Files int   `json:"files"`
	Bytes int64 `json:"bytes"`
	Left  int   `json:"left" doc:"Media that stays, as undo may bring it back"`
}

func (s *Server) healthRoutes(api huma.API) {
	huma.Register(api, huma.Operation{OperationID: "health", Method: http.MethodGet, Path: "/api/health", Summary: "How the store stands"},
		func(context.Context, *struct{}) (*struct{ Body HealthView }, error) {
			v := HealthView{Reserve: store.Reserve, Troubles: s.store.Troubles()}
			v.Cleared, v.ClearedBytes = s.store.Cleared()
			var err error
			v.Free, err = s.store.Free()
			return &struct{ Body HealthView }{v}, s.apiError(err)
		})
	huma.Register(api, huma.Operation{OperationID: "purge-media", Method: http.MethodPost, Path: "/api/media/purge", Summary: "Remove the files of media that was cleared away, now",
		Description: "It can't be brought back after that. What undo may need stays."},
		func(ctx context.Context, _ *struct{}) (*struct{ Body FreedView }, error) {
			_, before := s.store.Cleared()
			gone, err := s.store.Purge(ctx, time.Now())
			for _, hash := range gone {
				s.lib.Forget(hash)
				s.stage.Forget(hash)
				s.exact.Forget(hash)
			}
			s.hub.send(event{Type: "media", State: "new"})
			v := FreedView{Files: len(gone)}
			v.Left, v.Bytes = s.store.Cleared()
			v.Bytes = before - v.Bytes
			return &struct{ Body FreedView }{v}, s.apiError(err)
		})
}

// readable returns the states of all pieces that can be read. One that can't is
// noted, and does not keep the others from being used.
func (s *Server) readable(ctx context.Context) ([]pieceState, error) {
	rows, err := s.store.Pieces(ctx)
	if err != nil {
		return nil, err
	}
	out := make([]pieceState, 0, len(rows))
	for _, row := range rows {
		p, err := s.state(ctx, row)
		key := "piece " + row.ID
		if err != nil {
			of := row.Template
			if d, derr := s.document(ctx, row.Template, row.Number); derr == nil {
				of = d.Name
			}
			s.log.Error("a piece can't be read", "piece", row.ID, "error", err)
			s.store.Note(key, store.Trouble{What: "A piece of " + of, Why: "What is kept of it can't be read.",
				Do: "It is left out. A snapshot may still have it; ivypocket restore lists them."})
			continue
		}
		s.store.Settle(key)
		out = append(out, p)
	}
	return out, ctx.Err()
}

// releases returns the newest releases of all templates that can be read, in the
// order of the shelf, as readable does.
func (s *Server) releases(ctx context.Context) ([]release, error) {
	list, err := s.store.Templates(ctx)
	if err != nil {
		return nil, err
	}
	out := make([]release, 0, len(list))
	for _, t := range list {
		d, err := s.document(ctx, t.ID, t.Number)
		key := "template " + t.ID
		if err != nil {
			s.store.Note(key, store.Trouble{What: t.Name, Why: fmt.Sprintf("Release %d of the template can't be read.", t.Number),
				Do: "It is left out. A snapshot may still have it; ivypocket restore lists them."})
			s.log.Error("a release can't be read", "template", t.ID, "release", t.Number, "error", err)
			continue
		}
		s.store.Settle(key)
		out = append(out, release{d, t.Number})
	}
	return out, ctx.Err()
}

// jobOf reads what a render was to make, with the release it names. Renders of
// earlier versions hold their document.
func (s *Server) jobOf(ctx context.Context, r store.Render) (j deliver.Job, err error) {
	var old struct{ Document json.RawMessage }
	if err = json.Unmarshal([]byte(r.Job), &j); err == nil {
		err = json.Unmarshal([]byte(r.Job), &old)
	}
	switch {
	case err != nil:
	case old.Document != nil:
		j.Doc, err = template.Parse(old.Document)
	default:
		j.Doc, err = s.document(ctx, j.Template, j.Release)
	}
	if err == nil && j.Doc.Format(j.Format) == nil {
		err = fmt.Errorf("the template has no format named %q", j.Format)
	}
	if err != nil {
		err = fmt.Errorf("render %d: what it was to make can't be read: %w", r.Number, err)
	}
	return j, err
}
