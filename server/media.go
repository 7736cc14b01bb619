package server

import (
	"context"
	"net/http"
	"time"

	"ivypocket/media"
)

// upload takes one file as the body of the request; its name is in the query.
// Bodies are streamed to disk, so that a large clip takes no memory.
func (s *Server) upload(w http.ResponseWriter, r *http.Request) {
	rc := http.NewResponseController(w)
	_ = rc.SetReadDeadline(time.Time{})
	md, err := s.store.Put(r.Context(), r.URL.Query().Get("name"), r.Body)
	if err != nil {
		s.failed(w, r, err)
		return
	}
	if md.Meta.Rate != nil && !s.lib.HasProxy(md.Hash) {
		s.queueGrowth(md.Hash)
	}
	v, _ := s.mediumView(md.Hash)
	w.Header().Set("Content-Type", "application/json")
	_ = writeJSON(w, v)
}

// growWorker grows the proxies of clips one after another.
func (s *Server) growWorker(ctx context.Context) {
	for {
		select {
		case <-ctx.Done():
			return
		case hash := <-s.grow:
			s.growOne(ctx, hash)
		}
	}
}

func (s *Server) growOne(ctx context.Context, hash string) {
	var last time.Time
	err := s.lib.GrowProxy(ctx, hash, func(g media.Growth) {
		s.mu.Lock()
		s.growth[hash] = g
		s.mu.Unlock()
		if time.Since(last) > 300*time.Millisecond {
			last = time.Now()
			s.hub.send(event{Type: "media", ID: hash, Done: g.Done, Total: g.Frames})
		}
	})
	s.mu.Lock()
	delete(s.growth, hash)
	s.mu.Unlock()
	state := "done"
	if err != nil {
		if isCancelled(err) {
			return
		}
		state = "failed"
		s.log.Error("proxy", "media", hash, "error", err)
	}
	s.hub.send(event{Type: "media", ID: hash, State: state})
}
