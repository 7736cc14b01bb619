package server

import (
	"context"
	"fmt"
	"io"
	"net"
	"net/http"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/alexedwards/scs/v2"
	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humachi"
	"github.com/go-chi/chi/v5"
	"github.com/go-chi/chi/v5/middleware"

	"ivypocket/access"
	"ivypocket/store"
)

// rights is what routes say of who may use them. A route that says nothing is none: the
// server does not start with one.
type rights struct {
	codes    bool // whether people show codes
	sessions *scs.SessionManager
	slow     *access.Slow
	stated   map[string]access.Right // by method and pattern, "*" for all methods

	mu   sync.Mutex
	long map[*longRequest]bool
}

// longRequest is a request that lasts: it ends when who made it is in no more.
type longRequest struct {
	token string
	end   context.CancelFunc
}

// sessionLife is how long somebody is in by one code.
const sessionLife = 30 * 24 * time.Hour

// inQuestion is how often it is asked whether who is at a long request is still in: codes
// are withdrawn by other programs, too.
const inQuestion = 2 * time.Second

const cookieName = "ivy-session"

func newRights(s *store.Store) *rights {
	m := scs.New()
	m.Store, m.HashTokenInStore, m.Lifetime = s.Sessions(), true, sessionLife
	m.Cookie.Name, m.Cookie.SameSite = cookieName, http.SameSiteStrictMode
	return &rights{sessions: m, slow: access.NewSlow(), stated: map[string]access.Right{}, long: map[*longRequest]bool{}}
}

// DemandCodes lets nobody in from now on who does not show a code.
func (s *Server) DemandCodes() { s.rights.codes = true }

type personKey struct{}

// personOf is who makes a request.
func personOf(ctx context.Context) access.Person {
	p, _ := ctx.Value(personKey{}).(access.Person)
	return p
}

// authorOf is the author of what somebody does who came in by a code: the same at every
// browser, and nobody else's.
func authorOf(p access.Person) string { return "code " + p.ID }

// known finds out who makes a request.
func (s *Server) known(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		p := access.Person{Role: access.Designer}
		if s.rights.codes {
			var err error
			if p, err = s.whoShows(r.Context(), tokenOf(r)); err != nil {
				s.failed(w, r, err)
				return
			}
			if p.ID != "" {
				r.Header.Set("Ivy-Author", authorOf(p))
			}
		}
		next.ServeHTTP(w, r.WithContext(context.WithValue(r.Context(), personKey{}, p)))
	})
}

func tokenOf(r *http.Request) string {
	if c, err := r.Cookie(cookieName); err == nil {
		return c.Value
	}
	return ""
}

// codeKey is where a session keeps its code's id.
const codeKey = "code"

// whoShows is who has a session's token: nobody for one that ended, or whose code was
// withdrawn.
func (s *Server) whoShows(ctx context.Context, token string) (access.Person, error) {
	if token == "" {
		return access.Person{}, nil
	}
	sctx, err := s.rights.sessions.Load(ctx, token)
	if err != nil {
		return access.Person{}, err
	}
	c, err := s.store.CodeOf(ctx, s.rights.sessions.GetString(sctx, codeKey))
	if gone(err) {
		return access.Person{}, nil
	}
	return c.Person(), err
}

// refused says why a request may not use a route that states a right; status 0 is that it
// may. id is what the route's address speaks of.
func (s *Server) refused(ctx context.Context, right access.Right, id string) (status int, why string) {
	p := personOf(ctx)
	switch {
	case p.Role == "" && !p.May(right):
		return http.StatusUnauthorized, shownFirst
	case !p.May(right):
		return http.StatusForbidden, "This is for designers; your code is an editor's."
	case right == access.Own && p.Role != access.Designer:
		if r, err := s.store.Render(ctx, id); err == nil && !p.Owns(r.Code) {
			return http.StatusNotFound, "There is nothing at this address; it may have been deleted."
		}
	case right == access.Fill && p.Role != access.Designer && id != "":
		// What is tried out is a draft, which is the designers'.
		if row, err := s.store.Piece(ctx, id); err == nil && row.Tryout() {
			return http.StatusNotFound, "There is nothing at this address; it may have been deleted."
		}
	}
	return 0, ""
}

const shownFirst = "Show your access code first."

// asks marks an operation that is sent and yet changes nothing; others are written down.
var asks = map[string]any{"asks": true}

// add puts an operation into the API, for those who have a right.
func add[I, O any](s *Server, right access.Right, op huma.Operation, h func(context.Context, *I) (*O, error)) {
	s.says(op.Method, op.Path, right)
	op.Extensions = map[string]any{"x-right": right.String()}
	act := ""
	if _, only := op.Metadata["asks"]; !only && op.Method != http.MethodGet {
		act = op.OperationID
	}
	op.Middlewares = append(op.Middlewares, func(c huma.Context, next func(huma.Context)) {
		r, w := humachi.Unwrap(c)
		if status, why := s.refused(r.Context(), right, pieceIn(c.Operation().Path, c.Param("id"))); status != 0 {
			problem(w, status, why)
			return
		}
		if act == "" {
			next(c)
			return
		}
		told := &telling{subject: c.Param("id"), said: op.Summary}
		next(huma.WithValue(c, tellKey{}, told))
		if c.Status() < 400 {
			s.record(r, act, told)
		}
	})
	huma.Register(s.api, op, h)
}

// pieceIn is the id of a piece or a render that an address speaks of; others need no
// look at whose they are.
func pieceIn(pattern, id string) string {
	if strings.HasPrefix(pattern, "/api/pieces/{id}") || strings.HasPrefix(pattern, "/api/renders/{id}") {
		return id
	}
	return ""
}

// plain puts a plain handler at a route, for those who have a right. act is what it is
// called where it is written down that it was done; "" is not written down.
func (s *Server) plain(right access.Right, method, path, act string, h http.HandlerFunc) {
	s.says(method, path, right)
	guarded := func(w http.ResponseWriter, r *http.Request) {
		if status, why := s.refused(r.Context(), right, pieceIn(path, chi.URLParam(r, "id"))); status != 0 {
			problem(w, status, why)
			return
		}
		if act == "" {
			h(w, r)
			return
		}
		told := &telling{subject: chi.URLParam(r, "id"), said: act}
		ww := middleware.NewWrapResponseWriter(w, r.ProtoMajor)
		h(ww, r.WithContext(context.WithValue(r.Context(), tellKey{}, told)))
		// One who left in the middle was answered nothing, and it was not done.
		if ww.Status() != 0 && ww.Status() < 400 {
			s.record(r, act, told)
		}
	}
	if method == "*" {
		s.router.HandleFunc(path, guarded)
		return
	}
	s.router.MethodFunc(method, path, guarded)
}

func (s *Server) says(method, path string, right access.Right) {
	s.rights.stated[method+" "+path] = right
}

// unstated lists the routes that say nothing of who may use them.
func (s *Server) unstated() (out []string, err error) {
	err = chi.Walk(s.router, func(method, route string, _ http.Handler, _ ...func(http.Handler) http.Handler) error {
		_, one := s.rights.stated[method+" "+route]
		_, all := s.rights.stated["* "+route]
		if !one && !all {
			out = append(out, method+" "+route)
		}
		return nil
	})
	return out, err
}

// lasting makes a request's handler one that may last: its context ends as soon as who
// made it is in no more.
func (s *Server) lasting(h http.Handler) http.HandlerFunc {
	return func(w http.ResponseWriter, r *http.Request) {
		if !s.rights.codes {
			h.ServeHTTP(w, r)
			return
		}
		ctx, end := context.WithCancel(r.Context())
		defer end()
		l := &longRequest{tokenOf(r), end}
		s.rights.mu.Lock()
		s.rights.long[l] = true
		s.rights.mu.Unlock()
		defer func() {
			s.rights.mu.Lock()
			delete(s.rights.long, l)
			s.rights.mu.Unlock()
		}()
		in := r.WithContext(ctx)
		if in.Body != nil {
			in.Body = lastingBody{in.Body, ctx, w}
		}
		ww := middleware.NewWrapResponseWriter(w, r.ProtoMajor)
		h.ServeHTTP(ww, in)
		if ctx.Err() != nil && r.Context().Err() == nil && ww.Status() == 0 {
			problem(w, http.StatusUnauthorized, shownFirst)
		}
	}
}

// lastingBody brings nothing more when who sends it is in no more.
type lastingBody struct {
	io.ReadCloser
	ctx context.Context
	w   http.ResponseWriter
}

func (b lastingBody) Read(p []byte) (int, error) {
	if err := b.ctx.Err(); err != nil {
		b.w.Header().Set("Connection", "close") // else what is still to come is waited for
		return 0, err
	}
	return b.ReadCloser.Read(p)
}

// endLong ends the long requests of those who are in no more.
func (s *Server) endLong(ctx context.Context) {
	s.rights.mu.Lock()
	var all []*longRequest
	for l := range s.rights.long {
		all = append(all, l)
	}
	s.rights.mu.Unlock()
	for _, l := range all {
		if p, err := s.whoShows(ctx, l.token); err == nil && p.ID == "" {
			l.end()
		}
	}
}

// watchLong does it every now and then until ctx ends.
func (s *Server) watchLong(ctx context.Context) {
	t := time.NewTicker(inQuestion)
	defer t.Stop()
	for {
		select {
		case <-ctx.Done():
			return
		case <-t.C:
			s.endLong(ctx)
		}
	}
}

type tellKey struct{}

// telling is what is written down of a request.
type telling struct{ subject, said string }

// tell says what a request does, in words for who reads later what was done.
func tell(ctx context.Context, subject, format string, args ...any) {
	if t, _ := ctx.Value(tellKey{}).(*telling); t != nil {
		t.subject, t.said = subject, fmt.Sprintf(format, args...)
	}
}

// tellMany says that several were deleted or brought back.
func tellMany(ctx context.Context, ids []string, back bool, what string) {
	did := "Deleted"
	if back {
		did = "Brought back"
	}
	if len(ids) != 1 {
		what += "s"
	}
	tell(ctx, strings.Join(ids[:min(len(ids), 50)], " "), "%s %d %s", did, len(ids), what)
}

// record writes down what somebody did. It was done: a failure is told, and no more.
func (s *Server) record(r *http.Request, act string, t *telling) {
	// Whoever asked may have gone; that it was done stays true.
	s.recordAs(context.WithoutCancel(r.Context()), personOf(r.Context()), r.Header.Get("Ivy-Author"), act, t)
}

func (s *Server) recordAs(ctx context.Context, p access.Person, author, act string, t *telling) {
	if p.ID == "" && author != "" {
		p.Name, _ = s.store.Called(ctx, author)
	}
	if err := s.store.Record(ctx, store.Deed{Code: p.ID, Name: p.Name, Role: p.Role, Act: act, Subject: t.subject, Said: t.said}); err != nil {
		s.log.Error("what was done could not be written down", "act", act, "subject", t.subject, "said", t.said, "error", err)
	}
}

// secureNow reports whether a request came over TLS, to this program or to one before it
// on the way. Whoever lies here gets a cookie that their browser keeps from plain HTTP.
func secureNow(r *http.Request) bool {
	return r.TLS != nil || r.Header.Get("X-Forwarded-Proto") == "https"
}

// addressOf is where a request comes from; one that a server of this machine passes on,
// from where that server says last.
func addressOf(r *http.Request) string {
	host, _, err := net.SplitHostPort(r.RemoteAddr)
	if err != nil {
		return r.RemoteAddr
	}
	if ip := net.ParseIP(host); ip != nil && ip.IsLoopback() {
		all := strings.Split(strings.Join(r.Header.Values("X-Forwarded-For"), ","), ",")
		if last := strings.TrimSpace(all[len(all)-1]); net.ParseIP(last) != nil {
			return last
		}
	}
	return host
}

// Rights is the table of rights and the routes that state them, for the reference.
func (s *Server) Rights() string {
	routes := map[access.Right][]string{}
	for route, right := range s.rights.stated {
		method, path, _ := strings.Cut(route, " ")
		routes[right] = append(routes[right], path+" "+method)
	}
	var b strings.Builder
	b.WriteString("| right | routes |\n| --- | --- |\n")
	for right := access.Open; right <= access.Build; right++ {
		slices.Sort(routes[right])
		for i, r := range routes[right] {
			path, method, _ := strings.Cut(r, " ")
			routes[right][i] = "`" + strings.TrimPrefix(method+" ", "* ") + path + "`"
		}
		fmt.Fprintf(&b, "| %s | %s |\n", right, strings.Join(routes[right], ", "))
	}
	return b.String()
}

// described answers with the description of the API.
func (s *Server) described(w http.ResponseWriter, r *http.Request) {
	b, err := s.OpenAPI()
	if err != nil {
		s.failed(w, r, err)
		return
	}
	w.Header().Set("Content-Type", "application/json")
	_, _ = w.Write(b)
}
