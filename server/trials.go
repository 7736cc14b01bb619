package server

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"image/png"
	"net/http"
	"os"
	"path/filepath"
	"regexp"

	"github.com/danielgtaylor/huma/v2"
	"github.com/go-chi/chi/v5"
	"github.com/google/uuid"

	"ivypocket/access"
	"ivypocket/core/trial"
	"ivypocket/media/turbo"
	"ivypocket/store"
)

// TrialView is the state of a piece's last swap trial.
type TrialView struct {
	State string `json:"state" enum:"none,running,done,failed"`
	Done  int    `json:"done"`
	Total int    `json:"total"`
	// Revision of the piece that was tried, or of the draft.
	Revision int64         `json:"revision"`
	Failure  string        `json:"failure"`
	Cases    int           `json:"cases"`
	Findings []FindingView `json:"findings"`
	Tiles    []TileView    `json:"tiles"`
	Sheets   []SheetView   `json:"sheets"`
}

// FindingView is a finding with its picture.
type FindingView struct {
	trial.Finding
	Picture string `json:"picture"`
}

// TileView is one case of the contact sheet.
type TileView struct {
	trial.Tile
	Picture string `json:"picture"`
}

// SheetView is the contact sheet of a format, as one picture.
type SheetView struct {
	Format  string `json:"format"`
	Picture string `json:"picture"`
}

type runningTrial struct {
	done, total int
	revision    int64
	cancel      context.CancelFunc
	failure     string
	ended       bool
}

// trialBytes bounds the pictures a trial keeps.
const trialBytes = 192 << 20

func (s *Server) trialRoutes() {
	type in struct {
		ID string `path:"id"`
	}
	add(s, access.Fill, huma.Operation{OperationID: "get-trial", Method: http.MethodGet, Path: "/api/pieces/{id}/trial", Summary: "The last swap trial of a piece"},
		func(ctx context.Context, in *in) (*struct{ Body TrialView }, error) {
			v, err := s.trialView(ctx, in.ID)
			return &struct{ Body TrialView }{v}, s.apiError(err)
		})
	add(s, access.Fill, huma.Operation{OperationID: "try-swaps", Method: http.MethodPost, Path: "/api/pieces/{id}/trial", Summary: "Try all swaps"},
		func(ctx context.Context, in *in) (*struct{ Body TrialView }, error) {
			p, err := s.piece(ctx, in.ID)
			if err != nil {
				return nil, s.apiError(err)
			}
			s.mu.Lock()
			if t := s.trials[in.ID]; t == nil || t.ended {
				tctx, cancel := context.WithCancel(s.ctx)
				t := &runningTrial{cancel: cancel, revision: p.tried()}
				s.trials[in.ID] = t
				s.work.Go(func() { s.tryAll(tctx, p, t) })
			}
			s.mu.Unlock()
			v, err := s.trialView(ctx, in.ID)
			return &struct{ Body TrialView }{v}, s.apiError(err)
		})
	add(s, access.Fill, huma.Operation{OperationID: "stop-trial", Method: http.MethodPost, Path: "/api/pieces/{id}/trial/stop", Summary: "Stop a running swap trial"},
		func(ctx context.Context, in *in) (*struct{ Body TrialView }, error) {
			s.stopTrial(in.ID)
			v, err := s.trialView(ctx, in.ID)
			return &struct{ Body TrialView }{v}, s.apiError(err)
		})
}

// stopTrial ends the trial of a piece, if there is one.
func (s *Server) stopTrial(piece string) {
	s.mu.Lock()
	defer s.mu.Unlock()
	if t := s.trials[piece]; t != nil {
		t.cancel()
		delete(s.trials, piece)
	}
}

func (s *Server) trialView(ctx context.Context, piece string) (TrialView, error) {
	v := TrialView{State: "none", Findings: []FindingView{}, Tiles: []TileView{}, Sheets: []SheetView{}}
	s.mu.Lock()
	t := s.trials[piece]
	if t != nil {
		v.State, v.Done, v.Total, v.Revision, v.Failure = "running", t.done, t.total, t.revision, t.failure
		if t.ended {
			v.State = "failed"
		}
	}
	s.mu.Unlock()
	if t != nil {
		return v, nil
	}
	_, report, err := s.store.Trial(ctx, piece)
	if errors.Is(err, store.ErrNotFound) {
		return v, nil
	}
	if err == nil {
		err = json.Unmarshal([]byte(report), &v)
	}
	return v, err
}

func (s *Server) tryAll(ctx context.Context, p pieceState, t *runningTrial) {
	defer t.cancel()
	id := p.row.ID
	rep, err := trial.Run(ctx, trial.Input{
		Doc: p.doc, Values: p.piece.Values, Source: s.lib.Stage(), Cache: trialBytes, Wait: s.gate.waitBatch,
		Progress: func(done, total int) {
			s.mu.Lock()
			t.done, t.total = done, total
			s.mu.Unlock()
			s.hub.send(event{Type: "trial", ID: id, Done: int64(done), Total: int64(total)})
		},
	})
	var v TrialView
	trialID := uuid.NewString()
	if err == nil {
		v, err = s.keepPictures(trialID, p, rep)
	}
	folder := func(id string) string { return filepath.Join(s.store.Dir(), "trials", id) }
	if err == nil {
		var b []byte
		if b, err = json.Marshal(v); err == nil {
			old, _, _ := s.store.Trial(ctx, id)
			if err = s.store.KeepTrial(ctx, trialID, id, string(b)); err == nil && old != "" {
				_ = os.RemoveAll(folder(old)) // else it is swept
			}
		}
	}
	if err != nil { // of a trial that is not kept, nor are the pictures
		_ = os.RemoveAll(folder(trialID))
	}
	s.mu.Lock()
	switch {
	case ctx.Err() != nil: // stopped; nobody wants to hear of it
	case err != nil:
		t.failure, t.ended = err.Error(), true
	default:
		delete(s.trials, id)
	}
	s.mu.Unlock()
	s.hub.send(event{Type: "trial", ID: id, State: "ended"})
}

// keepPictures writes a report's pictures beside each other and returns the
// report with their addresses.
func (s *Server) keepPictures(id string, p pieceState, rep *trial.Report) (TrialView, error) {
	dir := filepath.Join(s.store.Dir(), "trials", id)
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return TrialView{}, err
	}
	v := TrialView{State: "done", Revision: p.tried(), Cases: rep.Cases, Done: rep.Cases, Total: rep.Cases,
		Findings: []FindingView{}, Tiles: []TileView{}, Sheets: []SheetView{}}
	var buf []byte
	keep := func(name string, data []byte) (string, error) {
		if err := s.store.Room(int64(len(data))); err != nil {
			return "", err
		}
		return "/api/trials/" + id + "/" + name, os.WriteFile(filepath.Join(dir, name), data, 0o644)
	}
	for i, f := range rep.Findings {
		if f.Picture == nil {
			v.Findings = append(v.Findings, FindingView{f, ""})
			continue
		}
		var err error
		if buf, err = turbo.Encode(buf, f.Picture, playQuality, turbo.Full); err != nil {
			return v, err
		}
		url, err := keep(fmt.Sprintf("finding-%d.jpg", i+1), buf)
		if err != nil {
			return v, err
		}
		v.Findings = append(v.Findings, FindingView{f, url})
	}
	for i, t := range rep.Tiles {
		var err error
		if buf, err = turbo.Encode(buf, t.Picture, playQuality, turbo.Half); err != nil {
			return v, err
		}
		url, err := keep(fmt.Sprintf("tile-%d.jpg", i+1), buf)
		if err != nil {
			return v, err
		}
		v.Tiles = append(v.Tiles, TileView{t, url})
	}
	for _, f := range p.doc.Formats {
		page, err := trial.ContactSheet(rep.Tiles, f.ID)
		if err != nil || page == nil {
			return v, err
		}
		var b bytes.Buffer
		if err := png.Encode(&b, page); err != nil {
			return v, err
		}
		url, err := keep("contact-"+f.ID+".png", b.Bytes())
		if err != nil {
			return v, err
		}
		v.Sheets = append(v.Sheets, SheetView{f.ID, url})
	}
	return v, nil
}

var (
	uuidForm     = regexp.MustCompile(`^[0-9a-f-]{36}$`)
	trialPicture = regexp.MustCompile(`^(finding-\d+|tile-\d+|contact-[a-z0-9-]+)\.(jpg|png)$`)
)

func (s *Server) trialFile(w http.ResponseWriter, r *http.Request) {
	id, file := chi.URLParam(r, "id"), chi.URLParam(r, "file")
	if !uuidForm.MatchString(id) || !trialPicture.MatchString(file) {
		problem(w, http.StatusNotFound, "There is no such picture.")
		return
	}
	w.Header().Set("Cache-Control", "private, max-age=31536000, immutable")
	http.ServeFile(w, r, filepath.Join(s.store.Dir(), "trials", id, file))
}
