package server

import (
	"context"
	"errors"
	"fmt"
	"mime"
	"net/http"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"sync"
	"sync/atomic"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/go-chi/chi/v5"

	"ivypocket/access"
	"ivypocket/deliver"
	"ivypocket/media/helper"
	"ivypocket/store"
)

// RenderView is one line of the queue.
type RenderView struct {
	ID      string  `json:"id"`
	Number  int64   `json:"number"`
	Piece   string  `json:"piece"`
	Name    string  `json:"name"`
	File    string  `json:"file"`
	Kind    string  `json:"kind"`
	Format  string  `json:"format"`
	Alpha   bool    `json:"alpha"`
	Width   int     `json:"width"`
	Height  int     `json:"height"`
	From    int64   `json:"from"`
	To      int64   `json:"to"`
	State   string  `json:"state" enum:"queued,running,paused,done,failed,cancelled"`
	Done    int64   `json:"done"`
	Total   int64   `json:"total"`
	Left    float64 `json:"left" doc:"Seconds left; -1 while nobody can tell"`
	Took    float64 `json:"took" doc:"Seconds"`
	Failure string  `json:"failure"`
	Bytes   int64   `json:"bytes"`
	Created string  `json:"created"`
	// Cut is where to cut beneath a film that hides it; absent is of others.
	Cut *CutView `json:"cut,omitempty" required:"false"`
	By  string   `json:"by" doc:"Who asked for it, by the name of their code; empty is somebody at this machine"`
}

func (s *Server) renderPath(id, kind string) string {
	return filepath.Join(s.store.Dir(), "renders", id+"."+kind)
}

func (s *Server) renderView(ctx context.Context, r store.Render) (RenderView, error) {
	j, err := s.jobOf(ctx, r)
	if err != nil {
		return RenderView{}, err
	}
	if run := s.found(r.ID); run != nil {
		r.Done = run.done.Load()
	}
	v := RenderView{ID: r.ID, Number: r.Number, Piece: r.Piece, Name: j.Name, File: j.FileName(), Kind: string(j.Kind), Format: j.Doc.Format(j.Format).Name, Alpha: j.Alpha,
		Width: j.Width, Height: j.Height, From: j.From, To: j.To, State: r.State, Done: r.Done, Total: j.Frames(), Left: -1,
		Failure: r.Failure, Bytes: r.Bytes, Created: r.Created}
	if r.State == store.Done {
		if c, err := deliver.ReadCut(s.renderPath(r.ID, v.Kind)); err == nil && c != nil {
			v.Cut = &CutView{c.Frame, c.Timecode, c.Milliseconds, c.Holds}
		}
	}
	if r.Code != "" {
		if v.By, err = s.store.Called(ctx, authorOf(access.Person{ID: r.Code})); err != nil {
			return RenderView{}, err
		}
	}
	switch r.State {
	case store.Running:
		took := since(r.Started).Seconds()
		v.Took = took
		if r.Done > 2 {
			v.Left = took / float64(r.Done) * float64(v.Total-r.Done)
		}
	case store.Done:
		a, err1 := time.Parse(time.RFC3339Nano, r.Started)
		b, err2 := time.Parse(time.RFC3339Nano, r.Ended)
		if err1 == nil && err2 == nil {
			v.Took = b.Sub(a).Seconds()
		}
	}
	return v, nil
}

func (s *Server) renderRoutes() {
	add(s, access.Own, huma.Operation{OperationID: "renders", Method: http.MethodGet, Path: "/api/renders", Summary: "The render queue, the newest first"},
		func(ctx context.Context, _ *struct{}) (*struct{ Body []RenderView }, error) {
			rows, err := s.store.Renders(ctx)
			if err != nil {
				return nil, s.apiError(err)
			}
			out := []RenderView{}
			for _, r := range rows {
				if !personOf(ctx).Owns(r.Code) {
					continue
				}
				v, err := s.renderView(ctx, r)
				key := "render " + r.ID
				if err != nil {
					s.store.Note(key, store.Trouble{What: fmt.Sprintf("Render %d", r.Number), Why: "What is kept of it can't be read.", Do: "It is left out; render the piece again."})
					continue
				}
				s.store.Settle(key)
				out = append(out, v)
			}
			return &struct{ Body []RenderView }{out}, nil
		})
	add(s, access.Fill, huma.Operation{OperationID: "render", Method: http.MethodPost, Path: "/api/renders", Summary: "Queue a render of a piece as it stands now"},
		func(ctx context.Context, in *struct {
			Body struct {
				Piece  string `json:"piece"`
				Format string `json:"format"`
				Kind   string `json:"kind" enum:"mp4,webm,png"`
				Alpha  bool   `json:"alpha,omitempty" doc:"Keep what is clear; of films only WebM can"`
				From   int64  `json:"from,omitempty" doc:"First frame; for PNG the frame"`
				To     int64  `json:"to,omitempty" doc:"Frame after the last; 0 is the end"`
				Width  int    `json:"width,omitempty" doc:"0 is the format's"`
				Height int    `json:"height,omitempty"`
			}
		}) (*struct{ Body RenderView }, error) {
			p, err := s.piece(ctx, in.Body.Piece)
			if err == nil && p.row.Tryout() {
				err = badRequest{errors.New("a draft that is tried out is not rendered; release it, and render a piece of the release")}
			}
			if err != nil {
				return nil, s.apiError(err)
			}
			b := in.Body
			j := deliver.Job{Name: p.piece.Name, Template: p.row.Template, Release: p.row.Number, Doc: p.doc, Values: p.piece.Values, Format: b.Format, Kind: deliver.Kind(b.Kind), Alpha: b.Alpha, From: b.From, To: b.To, Width: b.Width, Height: b.Height}
			if err := j.Validate(); err != nil {
				return nil, s.apiError(badRequest{err})
			}
			if _, err := s.scene(p, b.Format); err != nil {
				return nil, s.apiError(err)
			}
			row, err := s.store.QueueRender(ctx, p.row.ID, p.row.Revision, !j.Kind.Film(), personOf(ctx).ID, j)
			if err != nil {
				return nil, s.apiError(err)
			}
			s.wakeRenders()
			s.hub.send(event{Type: "render", ID: row.ID, State: row.State})
			v, err := s.renderView(ctx, row)
			tell(ctx, row.ID, "%s: render %d, %s", p.piece.Name, row.Number, v.File)
			return &struct{ Body RenderView }{v}, s.apiError(err)
		})
	add(s, access.Own, huma.Operation{OperationID: "cancel-render", Method: http.MethodPost, Path: "/api/renders/{id}/cancel", Summary: "Cancel a render that is queued or running"},
		func(ctx context.Context, in *struct {
			ID string `path:"id"`
		}) (*struct{}, error) {
			var err error
			if run := s.found(in.ID); run != nil {
				run.cancel()
			} else {
				var ok bool
				if ok, err = s.store.CancelQueued(ctx, in.ID); err == nil && !ok {
					return nil, huma.Error409Conflict("The render has already ended.")
				}
			}
			s.hub.send(event{Type: "render", ID: in.ID})
			return nil, s.apiError(err)
		})
	add(s, access.Own, huma.Operation{OperationID: "retry-render", Method: http.MethodPost, Path: "/api/renders/{id}/retry", Summary: "Queue a failed or cancelled render again"},
		func(ctx context.Context, in *struct {
			ID string `path:"id"`
		}) (*struct{}, error) {
			err := s.store.RequeueRender(ctx, in.ID)
			s.wakeRenders()
			s.hub.send(event{Type: "render", ID: in.ID})
			return nil, s.apiError(err)
		})
	add(s, access.Own, huma.Operation{OperationID: "pause-render", Method: http.MethodPost, Path: "/api/renders/{id}/pause", Summary: "Let a render wait, begun or not, or let it go on"},
		func(ctx context.Context, in *struct {
			ID   string `path:"id"`
			Body struct {
				Paused bool `json:"paused"`
			}
		}) (*struct{}, error) {
			run := s.found(in.ID)
			var ok bool
			var err error
			if in.Body.Paused {
				if ok, err = s.store.PauseRender(ctx, in.ID); ok && run != nil {
					run.pause()
				}
			} else if ok, err = s.store.ResumeRender(ctx, in.ID, run != nil); ok && run != nil {
				run.resume()
			}
			if err == nil && !ok {
				return nil, huma.Error409Conflict("The render has ended, or is as you want it already.")
			}
			s.wakeRenders()
			s.hub.send(event{Type: "render", ID: in.ID})
			return nil, s.apiError(err)
		})
	add(s, access.Build, huma.Operation{OperationID: "move-render", Method: http.MethodPost, Path: "/api/renders/{id}/move", Summary: "Change the order of renders that wait"},
		func(ctx context.Context, in *struct {
			ID   string `path:"id"`
			Body struct {
				To string `json:"to" enum:"first,up,down"`
			}
		}) (*struct{}, error) {
			err := s.store.MoveRender(ctx, in.ID, in.Body.To)
			if errors.Is(err, store.ErrNotFound) {
				return nil, huma.Error409Conflict("The render waits no more.")
			}
			s.hub.send(event{Type: "render", ID: in.ID})
			return nil, s.apiError(err)
		})
	type queue struct {
		AtOnce int `json:"atOnce" minimum:"1" maximum:"3" doc:"Renders made at one time"`
	}
	add(s, access.Fill, huma.Operation{OperationID: "queue", Method: http.MethodGet, Path: "/api/queue", Summary: "How the render queue works"},
		func(ctx context.Context, _ *struct{}) (*struct{ Body queue }, error) {
			return &struct{ Body queue }{queue{s.atOnce(ctx)}}, nil
		})
	add(s, access.Build, huma.Operation{OperationID: "set-queue", Method: http.MethodPost, Path: "/api/queue", Summary: "Say how many renders are made at one time"},
		func(ctx context.Context, in *struct{ Body queue }) (*struct{ Body queue }, error) {
			err := s.store.SetSetting(ctx, atOnceSetting, strconv.Itoa(in.Body.AtOnce))
			s.wakeRenders()
			s.hub.send(event{Type: "render"})
			return &struct{ Body queue }{queue{s.atOnce(ctx)}}, s.apiError(err)
		})
	type chosenRenders struct {
		IDs []string `json:"ids" minItems:"1" maxItems:"10000"`
	}
	type clearedRenders struct {
		IDs   []string `json:"ids" doc:"Those that are gone; what waits or runs stays"`
		Bytes int64    `json:"bytes" doc:"What their files took"`
	}
	add(s, access.Own, huma.Operation{OperationID: "clear-renders", Method: http.MethodPost, Path: "/api/renders/clear", Summary: "Forget renders that have ended, with their files"},
		func(ctx context.Context, in *struct{ Body chosenRenders }) (*struct{ Body clearedRenders }, error) {
			out := clearedRenders{IDs: []string{}}
			ids, err := s.ownOf(ctx, in.Body.IDs)
			if err != nil {
				return nil, s.apiError(err)
			}
			gone, err := s.store.ClearRenders(ctx, ids)
			tell(ctx, "", "Cleared %d renders", len(gone))
			for _, r := range gone {
				// One that can't be read any more does not say what kind of file it made.
				for _, kind := range deliver.Kinds {
					err = errors.Join(err, deliver.Remove(s.renderPath(r.ID, string(kind))))
				}
				s.store.Settle("render " + r.ID)
				out.IDs, out.Bytes = append(out.IDs, r.ID), out.Bytes+r.Bytes
			}
			if len(gone) > 0 {
				s.hub.send(event{Type: "render"})
			}
			return &struct{ Body clearedRenders }{out}, s.apiError(err)
		})
}

// ownOf leaves of renders those that are somebody's to do with.
func (s *Server) ownOf(ctx context.Context, ids []string) ([]string, error) {
	p := personOf(ctx)
	if p.Role == access.Designer {
		return ids, nil
	}
	rows, err := s.store.Renders(ctx)
	if err != nil {
		return nil, err
	}
	own := map[string]bool{}
	for _, r := range rows {
		own[r.ID] = p.Owns(r.Code)
	}
	return slices.DeleteFunc(slices.Clone(ids), func(id string) bool { return !own[id] }), nil
}

func (s *Server) wakeRenders() {
	select {
	case s.wake <- struct{}{}:
	default:
	}
}

// runningRender is a render that somebody works on.
type runningRender struct {
	cancel context.CancelFunc
	single bool // one picture, not a film
	done   atomic.Int64
	mu     sync.Mutex
	paused chan struct{} // closed when it may go on; nil when it is not paused
}

func (r *runningRender) pause() {
	r.mu.Lock()
	defer r.mu.Unlock()
	if r.paused == nil {
		r.paused = make(chan struct{})
	}
}

func (r *runningRender) resume() {
	r.mu.Lock()
	defer r.mu.Unlock()
	if r.paused != nil {
		close(r.paused)
		r.paused = nil
	}
}

// hold waits while the render is paused.
func (r *runningRender) hold(ctx context.Context) error {
	r.mu.Lock()
	p := r.paused
	r.mu.Unlock()
	if p != nil {
		select {
		case <-p:
		case <-ctx.Done():
		}
	}
	return ctx.Err()
}

// Most renders that are made at one time, and the setting that says how many.
const (
	maxAtOnce     = 3
	atOnceSetting = "renders at once"
)

func (s *Server) atOnce(ctx context.Context) int {
	v, err := s.store.Setting(ctx, atOnceSetting, "1")
	n, nerr := strconv.Atoi(v)
	if err != nil || nerr != nil {
		return 1
	}
	return min(max(n, 1), maxAtOnce)
}

// renderWorker works through the queue: as many films at one time as is set, and
// beside them one single picture, which does not wait behind films.
func (s *Server) renderWorker(ctx context.Context) {
	var wg sync.WaitGroup
	defer wg.Wait()
	for ctx.Err() == nil {
		films, pictures := s.atWork()
		begun := pictures < 1 && s.beginRender(ctx, &wg, true)
		begun = films < s.atOnce(ctx) && s.beginRender(ctx, &wg, false) || begun
		if begun {
			continue
		}
		select {
		case <-ctx.Done():
		case <-s.wake:
		case <-time.After(5 * time.Second):
		}
	}
}

// atWork counts the renders that are being made and not paused.
func (s *Server) atWork() (films, pictures int) {
	s.mu.Lock()
	defer s.mu.Unlock()
	for _, r := range s.running {
		r.mu.Lock()
		switch {
		case r.paused != nil:
		case r.single:
			pictures++
		default:
			films++
		}
		r.mu.Unlock()
	}
	return films, pictures
}

// beginRender begins with the next film or single picture, and reports whether
// one waited.
func (s *Server) beginRender(ctx context.Context, wg *sync.WaitGroup, single bool) bool {
	row, err := s.store.NextRender(ctx, single)
	if err != nil {
		if !errors.Is(err, store.ErrNotFound) && ctx.Err() == nil {
			s.log.Error("render queue", "error", err)
		}
		return false
	}
	rctx, cancel := context.WithCancel(ctx)
	run := &runningRender{cancel: cancel, single: single}
	s.mu.Lock()
	s.running[row.ID] = run
	s.mu.Unlock()
	wg.Go(func() {
		defer cancel()
		s.renderOne(ctx, rctx, row, run)
		s.wakeRenders()
	})
	return true
}

func (s *Server) renderOne(ctx, rctx context.Context, row store.Render, run *runningRender) {
	defer func() {
		s.mu.Lock()
		delete(s.running, row.ID)
		s.mu.Unlock()
	}()
	s.hub.send(event{Type: "render", ID: row.ID, State: store.Running})
	j, err := s.jobOf(ctx, row)
	path := s.renderPath(row.ID, string(j.Kind))
	rctx, give := context.WithCancelCause(rctx)
	defer give(nil)
	if err == nil {
		src := s.lib.Originals(rctx, helper.Background)
		var last time.Time
		err = deliver.Render(rctx, j, src, path, deliver.Hooks{
			Rank: helper.Background,
			Wait: func(ctx context.Context) (func(), error) {
				if err := run.hold(ctx); err != nil {
					return nil, err
				}
				return s.gate.waitBatch(ctx)
			},
			Progress: func(done int64) {
				run.done.Store(done)
				if time.Since(last) < 250*time.Millisecond && done < j.Frames() {
					return
				}
				last = time.Now()
				if s.store.Room(0) != nil {
					give(deliver.ErrDiskFull)
					return
				}
				s.hub.send(event{Type: "render", ID: row.ID, Done: done, Total: j.Frames()})
			},
		})
		src.Close()
	}
	if ctx.Err() != nil {
		return // the program is stopping; the render is queued again at the next start
	}
	state, failure, size := store.Done, "", int64(0)
	switch {
	case err != nil && errors.Is(context.Cause(rctx), deliver.ErrDiskFull):
		state, failure = store.Failed, deliver.ErrDiskFull.Error()
	case err != nil && rctx.Err() != nil:
		state = store.Cancelled
	case err != nil:
		state, failure = store.Failed, err.Error()
	default:
		if st, serr := os.Stat(path); serr == nil {
			size = st.Size()
		}
	}
	if err := s.store.EndRender(ctx, row.ID, state, failure, run.done.Load(), size); err != nil {
		s.log.Error("render", "error", err)
	}
	s.hub.send(event{Type: "render", ID: row.ID, State: state})
}

// found returns the running render of an id, or nil.
func (s *Server) found(id string) *runningRender {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.running[id]
}

// renderPoster answers with a frame of what a render draws, whatever its state.
func (s *Server) renderPoster(w http.ResponseWriter, r *http.Request) {
	row, err := s.store.Render(r.Context(), chi.URLParam(r, "id"))
	if err != nil {
		s.failed(w, r, err)
		return
	}
	j, err := s.jobOf(r.Context(), row)
	if err != nil {
		s.failed(w, r, err)
		return
	}
	frame := j.From
	if j.Kind.Film() {
		frame = min(max(j.Poster(), j.From), j.To-1)
	}
	s.still(w, r, j.Doc, j.Values, j.Format, frame)
}

// disposition is the header of a file that is shown or kept under a name.
func disposition(how, name string) string {
	return mime.FormatMediaType(how, map[string]string{"filename": name})
}

// renderOf is the render that a request names; that it is not there is answered.
func (s *Server) renderOf(w http.ResponseWriter, r *http.Request) (row store.Render, v RenderView, ok bool) {
	row, err := s.store.Render(r.Context(), chi.URLParam(r, "id"))
	if err == nil {
		v, err = s.renderView(r.Context(), row)
	}
	if err != nil {
		s.failed(w, r, err)
	}
	return row, v, err == nil
}

// renderFile downloads a finished file; parts of it can be asked for (RFC 9110).
func (s *Server) renderFile(w http.ResponseWriter, r *http.Request) {
	row, v, ok := s.renderOf(w, r)
	if !ok {
		return
	}
	f, err := os.Open(s.renderPath(row.ID, v.Kind))
	if row.State != store.Done || err != nil {
		problem(w, http.StatusConflict, "The file is not there; the render has not ended or its file was removed.")
		return
	}
	defer f.Close()
	how := "attachment"
	if r.URL.Query().Get("view") != "" {
		how = "inline"
	}
	w.Header().Set("Content-Disposition", disposition(how, v.File))
	w.Header().Set("Content-Type", map[string]string{"mp4": "video/mp4", "webm": "video/webm", "png": "image/png"}[v.Kind])
	w.Header().Set("Cache-Control", "private, no-cache")
	w.Header().Set("ETag", fmt.Sprintf(`"%s-%d"`, row.ID, v.Bytes))
	ended, _ := time.Parse(time.RFC3339Nano, row.Ended)
	http.ServeContent(w, r, v.File, ended, f)
}
