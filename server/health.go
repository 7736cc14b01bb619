package server

import (
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"ivypocket/access"
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
	Preparing    string          `json:"preparing" doc:"What is being made ready; empty when all is there"`
}

// FreedView is what freeing room led to.
type FreedView struct {
	Files int   `json:"files"`
	Bytes int64 `json:"bytes"`
	Left  int   `json:"left" doc:"Media that stays, as undo may bring it back"`
}

func (s *Server) healthRoutes() {
	add(s, access.Fill, huma.Operation{OperationID: "health", Method: http.MethodGet, Path: "/api/health", Summary: "How the store stands"},
		func(context.Context, *struct{}) (*struct{ Body HealthView }, error) {
			v := HealthView{Reserve: store.Reserve, Troubles: s.store.Troubles()}
			v.Cleared, v.ClearedBytes = s.store.Cleared()
			s.mu.Lock()
			v.Preparing = s.preparing
			s.mu.Unlock()
			var err error
			v.Free, err = s.store.Free()
			return &struct{ Body HealthView }{v}, s.apiError(err)
		})
	add(s, access.Build, huma.Operation{OperationID: "purge-media", Method: http.MethodPost, Path: "/api/media/purge", Summary: "Remove the files of media that was cleared away, now",
		Description: "It can't be brought back after that. What undo may need stays."},
		func(ctx context.Context, _ *struct{}) (*struct{ Body FreedView }, error) {
			_, before := s.store.Cleared()
			if since, held := store.HeldSince(s.store.Dir()); held {
				return nil, huma.Error409Conflict("A database was put back on " + since.Local().Format("2 January 2006") +
					", and no file is removed until whoever did it says that all is well: ivypocket restore settle. Make room in another way until then.")
			}
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
		j.Doc, err = s.store.Document(ctx, j.Template, j.Release)
	}
	if err == nil && j.Doc.Format(j.Format) == nil {
		err = fmt.Errorf("the template has no format named %q", j.Format)
	}
	if err != nil {
		err = fmt.Errorf("render %d: what it was to make can't be read: %w", r.Number, err)
	}
	return j, err
}
