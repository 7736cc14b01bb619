// Package server is the room for HTTP: routes, typed operations, events, the
// scheduler of frames and the workers behind the queue. The rules of the job
// are in core; here they are only reached.
package server

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"net"
	"net/http"
	"net/url"
	"os"
	"strings"
	"sync"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humachi"
	"github.com/go-chi/chi/v5"
	"github.com/go-chi/chi/v5/middleware"
	lru "github.com/hashicorp/golang-lru/v2"

	"ivypocket/access"
	"ivypocket/core/edit"
	"ivypocket/core/scene"
	"ivypocket/core/template"
	"ivypocket/media"
	"ivypocket/store"
)

// Server serves one store. Run works until its context ends.
type Server struct {
	store *store.Store
	lib   *media.Library
	log   *slog.Logger
	hub   *hub
	turns turns
	gate  gate
	api   huma.API
	mux   http.Handler

	router *chi.Mux
	rights *rights

	stage   *scene.Pictures // of proxies
	exact   *scene.Pictures // of originals
	painter *scene.Painter  // used under the gate
	uploads *uploads

	scenes *lru.Cache[sceneKey, *scene.Scene]
	frames *lru.Cache[scene.Address, framed]

	pieceLists   *lru.Cache[string, pieceLine]
	releaseLists *lru.Cache[string, releaseLine]
	draftLists   *lru.Cache[string, DraftItem]
	covers       *lru.Cache[string, CoverView]
	sampled      *lru.Cache[sampleKey, *scene.Scene]
	renderBy     *lru.Cache[string, string] // whose code, by render

	wake   chan struct{} // the queue has something to do
	growth *growth

	mu        sync.Mutex
	running   map[string]*runningRender // by id
	preparing string                    // what is being made ready, for people
	trials    map[string]*runningTrial  // by piece

	work sync.WaitGroup // trials
	ctx  context.Context
	stop context.CancelFunc
}

// clearedFor is how long the files of media that was cleared away are kept, and
// pieces that were deleted.
const clearedFor = 7 * 24 * time.Hour

// MemoryLimit is what the server's own memory is kept below, in bytes: its caches
// and what is decoded at one time are bounded to it, and the collector works
// harder as it comes near. Helpers have bounds of their own.
const MemoryLimit = 2 << 30

// Memory for pictures in the sizes in which the stage last drew them.
const (
	stageBytes = 320 << 20
	exactBytes = 160 << 20
)

// New returns a server of a store. web holds the built front end.
func New(s *store.Store, web fs.FS, log *slog.Logger) (*Server, error) {
	srv := &Server{
		store: s, lib: media.NewLibrary(s), log: log, hub: newHub(),
		wake: make(chan struct{}, 1), growth: newGrowth(),
		running: map[string]*runningRender{}, trials: map[string]*runningTrial{},
	}
	srv.ctx, srv.stop = context.WithCancel(context.Background())
	var err error
	if srv.uploads, err = srv.newUploads(); err != nil {
		return nil, err
	}
	srv.stage = scene.NewPictures(srv.lib.Stage(), stageBytes)
	srv.exact = scene.NewPictures(srv.lib.Single(), exactBytes)
	srv.painter = scene.NewPainter(nil)
	srv.covers, _ = lru.New[string, CoverView](32)
	srv.sampled, _ = lru.New[sampleKey, *scene.Scene](8)
	srv.scenes, _ = lru.New[sceneKey, *scene.Scene](128)
	srv.frames, _ = lru.New[scene.Address, framed](keptAddresses)
	srv.pieceLists, _ = lru.New[string, pieceLine](listedPieces)
	srv.draftLists, _ = lru.New[string, DraftItem](listedPieces)
	srv.renderBy, _ = lru.New[string, string](listedPieces)
	srv.releaseLists, _ = lru.New[string, releaseLine](listedReleases)

	r := chi.NewRouter()
	srv.router, srv.rights = r, newRights(s)
	r.Use(middleware.Recoverer, secure, srv.guard, srv.known, named, pinned, paced(stalled))
	huma.DefaultArrayNullable = false // lists are never null here
	cfg := huma.DefaultConfig("Ivy Pocket", "1")
	// What the package would serve itself states no right.
	cfg.DocsPath, cfg.OpenAPIPath, cfg.SchemasPath = "", "", ""
	cfg.CreateHooks = nil // answers carry no links to schemas
	cfg.Formats = map[string]huma.Format{"application/json": whole, "json": whole}
	srv.api = humachi.New(r, cfg)
	srv.accessRoutes()
	srv.shelfRoutes()
	srv.pieceRoutes()
	srv.fillRoutes()
	srv.listRoutes()
	srv.guideRoutes()
	srv.ledgerRoutes()
	srv.motionRoutes()
	srv.lengthRoutes()
	srv.formulaRoutes()
	srv.coverRoutes()
	srv.costRoutes()
	srv.easingRoutes()
	srv.draftRoutes()
	srv.renderRoutes()
	srv.trialRoutes()
	srv.moveRoutes()
	srv.mediaRoutes()
	srv.healthRoutes()
	srv.wordRoutes()
	const get, post = http.MethodGet, http.MethodPost
	srv.plain(access.Fill, get, "/api/events", "", srv.lasting(http.HandlerFunc(srv.events)))
	srv.plain(access.Fill, get, "/api/openapi.json", "", srv.described)
	srv.plain(access.Fill, get, "/api/schema", "", documentSchema)
	srv.plain(access.Fill, post, "/api/media", "put-media", srv.lasting(http.HandlerFunc(srv.upload)).ServeHTTP)
	srv.plain(access.Fill, "*", uploadsPath+"*", "", srv.lasting(srv.uploads))
	srv.plain(access.Fill, get, "/api/media/{hash}/strip", "", srv.inTurn(small, srv.mediaStrip))
	srv.plain(access.Fill, get, "/api/media/{hash}/file", "", srv.mediaFile)
	srv.plain(access.Fill, get, "/api/fonts/{name}", "", srv.font)
	srv.plain(access.Fill, get, "/api/media/{hash}/thumb", "", srv.inTurn(small, srv.mediaThumb))
	for _, of := range srv.kinds() {
		srv.lookRoutes(of)
		after := srv.pieceWould
		if of.kind == store.DraftKind {
			after = srv.draftWould
		}
		srv.plain(of.right, get, of.path+"/pockets/{pocket}/thumb", "", srv.inTurn(small, srv.pocketThumb(of)))
		srv.plain(of.right, get, of.path+"/poster", "", srv.inTurn(small, srv.poster(of)))
		srv.plain(of.right, post, of.path+"/preview", "", srv.inTurn(previewed, srv.preview(of, after)))
	}
	srv.plain(access.Build, get, "/api/drafts/{id}/document", "", srv.saveDocument)
	srv.plain(access.Build, post, "/api/drafts/document", "drop-document", srv.dropDocument)
	srv.plain(access.Fill, get, "/api/templates/{id}/poster", "", srv.inTurn(small, srv.templatePoster))
	srv.plain(access.Fill, get, "/api/templates/{id}/releases/{number}/schema", "", srv.valuesSchema)
	srv.plain(access.Fill, get, "/api/templates/{id}/list.csv", "", srv.listCSV)
	srv.plain(access.Fill, post, "/api/templates/{id}/list.csv", "read-list", srv.readList)
	srv.plain(access.Build, get, "/api/templates/{id}/releases/{number}/look", "", srv.inTurn(small, srv.releaseLook))
	srv.plain(access.Fill, get, "/api/pieces/{id}/look", "", srv.inTurn(small, srv.movedLook))
	srv.plain(access.Fill, get, "/frames/{address}.{kind}", "", srv.inTurn(frameRank, srv.frame))
	srv.plain(access.Own, get, "/api/renders/{id}/file", "", srv.renderFile)
	srv.plain(access.Own, get, "/api/renders/{id}/cut", "", srv.cutFile)
	srv.plain(access.Own, get, "/api/renders/{id}/poster", "", srv.inTurn(small, srv.renderPoster))
	srv.plain(access.Fill, get, "/api/trials/{id}/{file}", "", srv.trialFile)
	srv.plain(access.Open, get, "/*", "", webHandler(web))
	if bare, err := srv.unstated(); err != nil || len(bare) > 0 {
		return nil, errors.Join(err, fmt.Errorf("routes that don't say who may use them: %s", strings.Join(bare, ", ")))
	}
	srv.mux = r
	return srv, nil
}

// Handler answers requests.
func (s *Server) Handler() http.Handler { return s.mux }

// OpenAPI is the description of the API as YAML.
func (s *Server) OpenAPI() ([]byte, error) { return s.api.OpenAPI().MarshalJSON() }

// Run carries on what a stopped program left and works through the queue
// until ctx ends; then it ends everything it started.
func (s *Server) Run(ctx context.Context) error {
	if err := s.store.RequeueRenders(ctx); err != nil {
		return err
	}
	var wg sync.WaitGroup
	wg.Go(func() { s.renderWorker(ctx) })
	for range growers {
		wg.Go(func() { s.growWorker(ctx) })
	}
	wg.Go(func() { s.uploads.takeWhole(ctx) })
	wg.Go(func() { s.keepHouse(ctx) })
	wg.Go(func() { s.watchLong(ctx) })
	for _, md := range s.store.All() {
		s.wantProxy(md)
	}
	<-ctx.Done()
	s.stop()
	wg.Wait()
	s.work.Wait()
	return nil
}

// keepHouse does at once, and every hour after, what keeps the store in order.
func (s *Server) keepHouse(ctx context.Context) {
	hour := time.NewTicker(time.Hour)
	defer hour.Stop()
	often := time.NewTicker(snapshotLook)
	defer often.Stop()
	for start := true; ; start = false {
		now := time.Now()
		s.uploads.tidy(now)
		var ferr, perr error
		since, held := store.HeldSince(s.store.Dir())
		if !held {
			_, ferr = s.store.Forget(ctx, now.Add(-clearedFor))
			_, perr = s.store.Purge(ctx, now.Add(-clearedFor))
		} else if start {
			s.log.Warn("a database was put back; no file is removed until somebody says that all is well: ivypocket restore settle", "since", since)
		}
		swept, serr := s.store.Sweep(now)
		if swept > 0 {
			s.log.Info("removed files that belonged to nothing", "files", swept)
		}
		for what, err := range map[string]error{"deleted pieces": ferr, "purge": perr, "sweep": serr, "trials": s.store.SweepTrials(ctx), "access": s.store.TidyAccess(ctx, now), "snapshot": s.store.SnapshotIfDue(ctx, now, start)} {
			if err != nil && ctx.Err() == nil {
				s.log.Error(what, "error", err)
			}
		}
		for again := false; !again; {
			select {
			case <-ctx.Done():
				return
			case now := <-often.C:
				if err := s.store.SnapshotIfDue(ctx, now, false); err != nil && ctx.Err() == nil {
					s.log.Error("snapshot", "error", err)
				}
			case <-hour.C:
				s.uploads.takeWhole(ctx)
				again = true
			}
		}
	}
}

// snapshotLook is how often it is looked whether a snapshot is due: a new folder's first work is not to wait for the hour.
const snapshotLook = 2 * time.Minute

// Close lets go of what New made. Run must have ended.
func (s *Server) Close() {
	s.stop()
	s.work.Wait()
	s.painter.Close()
	s.lib.Close()
}

// Serve serves on a listener until ctx ends.
func (s *Server) Serve(ctx context.Context, l net.Listener) error {
	h := &http.Server{
		Handler: s.mux, ReadHeaderTimeout: 10 * time.Second, IdleTimeout: 2 * time.Minute,
		ErrorLog:    slog.NewLogLogger(s.log.Handler(), slog.LevelWarn),
		BaseContext: func(net.Listener) context.Context { return ctx },
	}
	ended := make(chan error, 1)
	go func() { ended <- h.Serve(l) }()
	runErr := s.Run(ctx)
	shut, cancel := context.WithTimeout(context.Background(), 3*time.Second)
	defer cancel()
	if h.Shutdown(shut) != nil {
		_ = h.Close()
	}
	if err := <-ended; !errors.Is(err, http.ErrServerClosed) {
		return errors.Join(err, runErr)
	}
	return runErr
}

// guard keeps other web pages out: a page elsewhere can reach loopback, and a
// name it controls can be made to point there, so Host and Origin are checked. Where
// people show codes, the server has names that it does not know itself; a page elsewhere
// comes without the cookie there.
func (s *Server) guard(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		host := r.Host
		if h, _, err := net.SplitHostPort(host); err == nil {
			host = h
		}
		host = strings.Trim(host, "[]")
		if ip := net.ParseIP(host); !s.rights.codes && host != "localhost" && (ip == nil || !ip.IsLoopback()) {
			problem(w, http.StatusForbidden, fmt.Sprintf("host %q: this server answers only at 127.0.0.1, ::1 and localhost", r.Host))
			return
		}
		if o := r.Header.Get("Origin"); o != "" {
			if u, err := url.Parse(o); err != nil || u.Host != r.Host {
				problem(w, http.StatusForbidden, fmt.Sprintf("origin %q: requests of other pages are not answered", o))
				return
			}
		}
		switch r.Header.Get("Sec-Fetch-Site") {
		case "", "none", "same-origin":
		default:
			if r.Method != http.MethodGet || r.Header.Get("Sec-Fetch-Mode") != "navigate" {
				problem(w, http.StatusForbidden, "requests of other pages are not answered")
				return
			}
		}
		next.ServeHTTP(w, r)
	})
}

// maxWho bounds the names of an author and of a window, in bytes: they are kept
// with every operation.
const maxWho = 64

// named refuses names of authors and windows that nobody needs.
func named(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		for _, name := range []string{"Ivy-Author", "Ivy-Window"} {
			if n := len(r.Header.Get(name)); n > maxWho {
				problem(w, http.StatusUnprocessableEntity, fmt.Sprintf("%s: has %d bytes; %d are the most", name, n, maxWho))
				return
			}
		}
		next.ServeHTTP(w, r)
	})
}

// secure sets what every answer carries.
func secure(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		h := w.Header()
		if strings.HasPrefix(r.URL.Path, "/api/") {
			// What stands here changes; without a word a browser may keep even that
			// something is gone (RFC 9111, 4.2.2). Who answers may say otherwise.
			h.Set("Cache-Control", "no-store")
		}
		h.Set("X-Content-Type-Options", "nosniff")
		h.Set("Referrer-Policy", "no-referrer")
		h.Set("Cross-Origin-Resource-Policy", "same-origin")
		h.Set("Content-Security-Policy", "default-src 'self'; img-src 'self' blob: data:; style-src 'self' 'unsafe-inline'; frame-ancestors 'none'; object-src 'none'; base-uri 'none'")
		next.ServeHTTP(w, r)
	})
}

// problem answers with problem details (RFC 9457).
func problem(w http.ResponseWriter, status int, detail string) {
	w.Header().Set("Content-Type", "application/problem+json")
	w.Header().Set("Cache-Control", "no-store")
	w.WriteHeader(status)
	_ = writeJSON(w, huma.ErrorModel{Title: http.StatusText(status), Status: status, Detail: detail})
}

// failed answers a plain handler's error.
func (s *Server) failed(w http.ResponseWriter, r *http.Request, err error) {
	if r.Context().Err() != nil {
		return // nobody is listening any more
	}
	var busy *busyError
	if errors.As(err, &busy) {
		busy.retry(w)
	}
	if errors.As(err, new(*media.GoneError)) {
		s.hub.send(event{Type: "trouble"})
	}
	status, detail := s.explain(err)
	problem(w, status, detail)
}

// explain turns an error into a status and a text for people.
func (s *Server) explain(err error) (int, string) {
	var refused *media.RefusedError
	var conflict *edit.ConflictError
	var nothing *store.NothingError
	var stale *store.StaleError
	var busy *busyError
	var missing *scene.MissingError
	var gone *media.GoneError
	var faults template.Faults
	switch {
	case errors.Is(err, store.ErrNotFound):
		return http.StatusNotFound, "There is nothing at this address; it may have been deleted."
	case errors.Is(err, store.ErrDeleted):
		return http.StatusGone, "This was deleted. It can still be brought back."
	case errors.As(err, &refused):
		return http.StatusUnprocessableEntity, refused.Reason
	case errors.As(err, &busy):
		return http.StatusServiceUnavailable, err.Error()
	case errors.Is(err, os.ErrDeadlineExceeded):
		return http.StatusRequestTimeout, errStalled.Error()
	case errors.Is(err, context.Canceled):
		return http.StatusServiceUnavailable, "It was broken off before its end; ask again."
	case errors.As(err, &gone):
		if md, ok := s.store.Medium(gone.Media); ok {
			return http.StatusConflict, "The file of " + md.Name + " is gone from the store or damaged. Put the same file in again; it takes its old places by itself."
		}
		return http.StatusConflict, err.Error()
	case errors.As(err, &stale), errors.As(err, &conflict), errors.As(err, &nothing), errors.As(err, &missing):
		return http.StatusConflict, err.Error()
	case errors.Is(err, store.ErrDiskFull):
		return http.StatusInsufficientStorage, err.Error()
	case errors.As(err, &faults), errors.As(err, new(badRequest)), errors.As(err, new(*store.UnfitError)):
		return http.StatusUnprocessableEntity, err.Error()
	}
	s.log.Error("request failed", "error", err)
	return http.StatusInternalServerError, err.Error()
}

// badRequest is an error of the caller's making.
type badRequest struct{ error }

// apiError turns an error into one of huma's.
func (s *Server) apiError(err error) error {
	if err == nil {
		return nil
	}
	status, detail := s.explain(err)
	return huma.NewError(status, detail)
}
