package server

import (
	"context"
	"errors"
	"fmt"
	"math"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humachi"

	"ivypocket/access"
	"ivypocket/store"
)

// SessionView is who is at this browser.
type SessionView struct {
	Codes bool   `json:"codes" doc:"Whether people show access codes here; at this machine alone nobody does"`
	ID    string `json:"id" doc:"The code's; empty is nobody, or anybody at this machine"`
	Name  string `json:"name"`
	Role  string `json:"role" enum:",designer,editor" doc:"Empty is nobody who is known"`
}

// CodeView is an access code, as it is listed.
type CodeView struct {
	ID        string `json:"id"`
	Name      string `json:"name"`
	Role      string `json:"role" enum:"designer,editor"`
	Created   string `json:"created"`
	Used      string `json:"used" doc:"When somebody last came in by it; empty is never"`
	Withdrawn string `json:"withdrawn"`
	Mine      bool   `json:"mine" doc:"Who asks came in by it"`
}

// DeedView is a line of what was done.
type DeedView struct {
	Number  int64  `json:"number"`
	At      string `json:"at"`
	Code    string `json:"code" doc:"Empty is somebody at this machine"`
	Name    string `json:"name"`
	Role    string `json:"role"`
	Act     string `json:"act" doc:"An operation of this API"`
	Subject string `json:"subject" doc:"What it was done to, by its id"`
	Said    string `json:"said"`
}

func (s *Server) session(ctx context.Context) SessionView {
	p := personOf(ctx)
	return SessionView{s.rights.codes, p.ID, p.Name, string(p.Role)}
}

type sessionOut struct{ Body SessionView }

// wayIn gives an operation the request itself, for its cookies and where it comes from.
type wayInKey struct{}

type wayIn struct {
	r *http.Request
	w http.ResponseWriter
}

func withWayIn(c huma.Context, next func(huma.Context)) {
	r, w := humachi.Unwrap(c)
	next(huma.WithValue(c, wayInKey{}, wayIn{r, w}))
}

// enter lets somebody in who shows a code.
func (s *Server) enter(ctx context.Context, letters string) (SessionView, error) {
	in := ctx.Value(wayInKey{}).(wayIn)
	if !s.rights.codes {
		return s.session(ctx), nil
	}
	var c store.Code
	var err error
	ok, wait := s.rights.slow.Try(addressOf(in.r), time.Now(), func() bool {
		c, err = s.store.Shown(ctx, letters)
		return err == nil || !errors.Is(err, store.ErrNotFound)
	})
	switch {
	case wait > 0:
		seconds := int(math.Ceil(wait.Seconds()))
		in.w.Header().Set("Retry-After", fmt.Sprint(seconds))
		return SessionView{}, huma.NewError(http.StatusTooManyRequests,
			fmt.Sprintf("Too many wrong codes came from here. Wait %d seconds and try again.", seconds))
	case err != nil && !errors.Is(err, store.ErrNotFound):
		return SessionView{}, s.apiError(err)
	case !ok:
		return SessionView{}, huma.NewError(http.StatusUnauthorized,
			"This is no code that lets in. Type it as you got it: six groups of four letters and digits.")
	}
	m := *s.rights.sessions
	m.Cookie.Secure = secureNow(in.r)
	// A session that somebody had is not gone on with: its token may be known to others.
	if old := tokenOf(in.r); old != "" {
		if was, err := m.Load(ctx, old); err == nil {
			_ = m.Destroy(was)
		}
	}
	sctx, err := m.Load(ctx, "")
	if err != nil {
		return SessionView{}, s.apiError(err)
	}
	m.Put(sctx, codeKey, c.ID)
	token, ends, err := m.Commit(sctx)
	if err != nil {
		return SessionView{}, s.apiError(err)
	}
	m.WriteSessionCookie(sctx, in.w, token, ends)
	p := c.Person()
	if err := s.store.Call(ctx, authorOf(p), p.Name); err != nil {
		return SessionView{}, s.apiError(err)
	}
	s.recordAs(ctx, p, "", "enter", &telling{c.ID, "Came in"})
	return SessionView{true, p.ID, p.Name, string(p.Role)}, nil
}

// leave ends the session that a browser shows.
func (s *Server) leave(ctx context.Context) error {
	in := ctx.Value(wayInKey{}).(wayIn)
	m := *s.rights.sessions
	m.Cookie.Secure = secureNow(in.r)
	sctx, err := m.Load(ctx, tokenOf(in.r))
	if err == nil {
		err = m.Destroy(sctx)
	}
	if err != nil {
		return s.apiError(err)
	}
	m.WriteSessionCookie(sctx, in.w, "", time.Time{})
	s.endLong(ctx)
	return nil
}

func codeView(c store.Code, p access.Person) CodeView {
	return CodeView{c.ID, c.Name, string(c.Role), c.Created, c.Used, c.Withdrawn, c.ID == p.ID}
}

func (s *Server) accessRoutes() {
	add(s, access.Open, huma.Operation{OperationID: "session", Method: http.MethodGet, Path: "/api/session",
		Summary: "Who is at this browser"},
		func(ctx context.Context, _ *struct{}) (*sessionOut, error) {
			return &sessionOut{s.session(ctx)}, nil
		})
	add(s, access.Open, huma.Operation{OperationID: "enter", Method: http.MethodPost, Path: "/api/session",
		Summary:     "Show an access code and come in",
		Description: "429 says how long to wait after too many wrong codes.", Metadata: asks, Middlewares: huma.Middlewares{withWayIn}},
		func(ctx context.Context, in *struct {
			Body struct {
				Code string `json:"code" maxLength:"200"`
			}
		}) (*sessionOut, error) {
			v, err := s.enter(ctx, in.Body.Code)
			return &sessionOut{v}, err
		})
	add(s, access.Open, huma.Operation{OperationID: "leave", Method: http.MethodDelete, Path: "/api/session",
		Summary: "Go out", Metadata: asks, Middlewares: huma.Middlewares{withWayIn}},
		func(ctx context.Context, _ *struct{}) (*struct{}, error) {
			return nil, s.leave(ctx)
		})
	add(s, access.Build, huma.Operation{OperationID: "codes", Method: http.MethodGet, Path: "/api/codes",
		Summary: "Access codes: those that are good, then those withdrawn"},
		func(ctx context.Context, _ *struct{}) (*struct{ Body []CodeView }, error) {
			all, err := s.store.Codes(ctx)
			out := []CodeView{}
			for _, c := range all {
				out = append(out, codeView(c, personOf(ctx)))
			}
			return &struct{ Body []CodeView }{out}, s.apiError(err)
		})
	type made struct {
		Code    CodeView `json:"code"`
		Letters string   `json:"letters" doc:"The code itself; it is told this once and kept nowhere"`
	}
	add(s, access.Build, huma.Operation{OperationID: "make-code", Method: http.MethodPost, Path: "/api/codes", Summary: "Make an access code"},
		func(ctx context.Context, in *struct {
			Body struct {
				Name string `json:"name" maxLength:"60" doc:"Who it is for"`
				Role string `json:"role" enum:"designer,editor"`
			}
		}) (*struct{ Body made }, error) {
			c, letters, err := s.store.NewCode(ctx, in.Body.Name, access.Role(in.Body.Role))
			if err != nil {
				return nil, s.apiError(badRequest{err})
			}
			tell(ctx, c.ID, "Made a code for %s (%s)", c.Name, c.Role)
			return &struct{ Body made }{made{codeView(c, personOf(ctx)), letters}}, nil
		})
	add(s, access.Build, huma.Operation{OperationID: "name-code", Method: http.MethodPost, Path: "/api/codes/{id}/name",
		Summary: "Say who a code is for"},
		func(ctx context.Context, in *struct {
			ID   string `path:"id"`
			Body struct {
				Name string `json:"name" maxLength:"60"`
			}
		}) (*struct{}, error) {
			err := s.store.NameCode(ctx, in.ID, in.Body.Name)
			if err != nil && !gone(err) {
				err = badRequest{err}
			}
			if err == nil {
				tell(ctx, in.ID, "Named a code %s", in.Body.Name)
				err = s.store.Call(ctx, authorOf(access.Person{ID: in.ID}), in.Body.Name)
			}
			return nil, s.apiError(err)
		})
	add(s, access.Build, huma.Operation{OperationID: "withdraw-code", Method: http.MethodPost, Path: "/api/codes/{id}/withdraw",
		Summary:     "Make a code good for nothing, at once and for ever",
		Description: "Who came in by it is out, and what they have running ends. The last designer's stays."},
		func(ctx context.Context, in *struct {
			ID string `path:"id"`
		}) (*struct{}, error) {
			if c, err := s.store.CodeOf(ctx, in.ID); err == nil {
				tell(ctx, in.ID, "Withdrew the code of %s (%s)", c.Name, c.Role)
			}
			err := s.store.Withdraw(ctx, in.ID, true)
			if errors.Is(err, store.ErrLastDesigner) {
				return nil, huma.Error409Conflict(err.Error())
			}
			s.endLong(ctx)
			return nil, s.apiError(err)
		})
	add(s, access.Build, huma.Operation{OperationID: "deeds", Method: http.MethodGet, Path: "/api/deeds",
		Summary:     "Who changed and rendered what, the last first",
		Description: "At most 100 lines; ask for those below the last one's number for more."},
		func(ctx context.Context, in *struct {
			Below int64  `query:"below" minimum:"0" doc:"Only lines below this number; 0 is all"`
			Code  string `query:"code" doc:"Only what was done by this code"`
			Text  string `query:"text" maxLength:"100" doc:"Only lines with this in them"`
		}) (*struct{ Body []DeedView }, error) {
			all, err := s.store.Deeds(ctx, in.Below, in.Code, in.Text, 100)
			out := []DeedView{}
			for _, d := range all {
				out = append(out, DeedView{d.Number, d.At, d.Code, d.Name, string(d.Role), d.Act, d.Subject, d.Said})
			}
			return &struct{ Body []DeedView }{out}, s.apiError(err)
		})
}
