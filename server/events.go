package server

import (
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"sync"
	"time"

	"ivypocket/access"
)

// event is news for every open window.
type event struct {
	Type string `json:"type"` // piece, draft, render, media, trial, shelf, list, guides, trouble
	// ID is of the piece, render, media or trial; State of a piece is that it was
	// deleted, or is back.
	ID       string `json:"id,omitempty"`
	Revision int64  `json:"revision,omitempty"`
	Window   string `json:"window,omitempty"` // whose change it was
	Done     int64  `json:"done,omitempty"`
	Total    int64  `json:"total,omitempty"`
	State    string `json:"state,omitempty"`
}

// hub passes events to all listeners. A listener that does not keep up loses
// events, and is told so that it asks for everything anew.
type hub struct {
	mu   sync.Mutex
	subs map[chan event]struct{}
}

func newHub() *hub { return &hub{subs: map[chan event]struct{}{}} }

func (h *hub) send(e event) {
	h.mu.Lock()
	defer h.mu.Unlock()
	for c := range h.subs {
		select {
		case c <- e:
		default:
			select {
			case <-c: // make room for the word that something was lost
			default:
			}
			select {
			case c <- event{Type: "lost"}:
			default:
			}
		}
	}
}

// listen makes somebody a listener until they leave.
func (h *hub) listen() chan event {
	c := make(chan event, 64)
	h.mu.Lock()
	defer h.mu.Unlock()
	h.subs[c] = struct{}{}
	return c
}

func (h *hub) leave(c chan event) {
	h.mu.Lock()
	defer h.mu.Unlock()
	delete(h.subs, c)
}

// serve streams events as text/event-stream (WHATWG HTML, server-sent events).
func (s *Server) events(w http.ResponseWriter, r *http.Request) {
	c := s.hub.listen()
	defer s.hub.leave(c)
	w.Header().Set("Content-Type", "text/event-stream")
	w.Header().Set("Cache-Control", "no-store")
	rc := http.NewResponseController(w)
	_ = rc.SetWriteDeadline(time.Time{})
	if _, err := fmt.Fprint(w, "retry: 1000\n\n"); err != nil || rc.Flush() != nil {
		return
	}
	beat := time.NewTicker(20 * time.Second)
	defer beat.Stop()
	for {
		var err error
		select {
		case <-r.Context().Done():
			return
		case <-beat.C:
			_, err = fmt.Fprint(w, ": still here\n\n")
		case e := <-c:
			if !s.hears(r.Context(), e) {
				continue
			}
			b, _ := json.Marshal(e)
			_, err = fmt.Fprintf(w, "data: %s\n\n", b)
		}
		if err != nil || rc.Flush() != nil {
			return
		}
	}
}

// hears reports whether an event is for who listens: drafts are the designers', and
// renders those of who asked for them.
func (s *Server) hears(ctx context.Context, e event) bool {
	p := personOf(ctx)
	if p.Role == access.Designer || e.ID == "" {
		return true
	}
	switch e.Type {
	case "draft":
		return false
	case "render":
		by, ok := s.renderBy.Get(e.ID)
		if !ok {
			r, err := s.store.Render(ctx, e.ID)
			if err != nil {
				return false
			}
			by = r.Code
			s.renderBy.Add(e.ID, by)
		}
		return p.Owns(by)
	}
	return true
}
