package server

import (
	"context"
	"errors"
	"sync"
	"time"

	"ivypocket/media"
	"ivypocket/media/clip"
	"ivypocket/store"
)

// growth is the list of clips whose proxies are to grow: the one that was last
// wanted goes first, as it is what somebody looks at.
type growth struct {
	mu     sync.Mutex
	wanted []string
	now    map[string]context.CancelFunc // those that grow
	again  map[string]bool               // those wanted since they began to
	wake   chan struct{}
}

// growers is how many proxies grow at one time: a film of hours must not hold
// up all others.
const growers = 2

func newGrowth() *growth {
	return &growth{now: map[string]context.CancelFunc{}, again: map[string]bool{}, wake: make(chan struct{}, growers)}
}

func (g *growth) want(hash string) {
	g.mu.Lock()
	defer g.mu.Unlock()
	if g.now[hash] != nil {
		g.again[hash] = true
		return
	}
	for i, h := range g.wanted {
		if h == hash {
			g.wanted = append(g.wanted[:i], g.wanted[i+1:]...)
			break
		}
	}
	g.wanted = append(g.wanted, hash)
	select {
	case g.wake <- struct{}{}:
	default:
	}
}

// drop takes a clip off the list and stops it if it grows.
func (g *growth) drop(hash string) {
	g.mu.Lock()
	defer g.mu.Unlock()
	for i, h := range g.wanted {
		if h == hash {
			g.wanted = append(g.wanted[:i], g.wanted[i+1:]...)
			break
		}
	}
	if stop := g.now[hash]; stop != nil {
		stop()
	}
}

// take returns the next clip and a context that ends when it is dropped.
func (g *growth) take(ctx context.Context) (string, context.Context, bool) {
	g.mu.Lock()
	defer g.mu.Unlock()
	if len(g.wanted) == 0 {
		return "", nil, false
	}
	last := len(g.wanted) - 1
	hash := g.wanted[last]
	g.wanted = g.wanted[:last]
	ctx, g.now[hash] = context.WithCancel(ctx)
	return hash, ctx, true
}

// done takes a clip off those that grow and reports whether it was wanted
// meanwhile, perhaps for what came after it had looked.
func (g *growth) done(hash string) (again bool) {
	g.mu.Lock()
	defer g.mu.Unlock()
	again = g.again[hash]
	g.now[hash]()
	delete(g.now, hash)
	delete(g.again, hash)
	return again
}

// wantProxy has a clip's frames counted and its proxy grown, if that is still
// to be done.
func (s *Server) wantProxy(md store.Medium) {
	if md.Meta.Moves() && md.Cleared == "" && !(s.lib.HasProxy(md.Hash) && counted(md.Meta)) {
		s.growth.want(md.Hash)
	}
}

// counted reports whether all frames of footage are known.
func counted(m media.Meta) bool { return m.Clip == nil || m.Clip.Exact }

// growWorker grows the proxies of clips one after another; growers of it work
// side by side.
func (s *Server) growWorker(ctx context.Context) {
	for {
		if hash, gctx, ok := s.growth.take(ctx); ok {
			s.growOne(gctx, hash)
			if s.growth.done(hash) {
				if md, ok := s.store.Medium(hash); ok {
					s.wantProxy(md)
				}
			}
			if ctx.Err() != nil {
				return
			}
			continue
		}
		select {
		case <-ctx.Done():
			return
		case <-s.growth.wake:
		}
	}
}

func (s *Server) growOne(ctx context.Context, hash string) {
	err := s.grow(ctx, hash)
	state := "done"
	if err != nil {
		if errors.Is(err, context.Canceled) {
			return
		}
		state = "failed"
		s.log.Error("proxy", "media", hash, "error", err)
	}
	s.hub.send(event{Type: "media", ID: hash, State: state})
}

func (s *Server) grow(ctx context.Context, hash string) error {
	if m, ok := s.store.Meta(hash); ok && !counted(m) {
		if err := s.recount(ctx, hash, false); err != nil {
			return err
		}
	}
	ctx, give := context.WithCancelCause(ctx)
	defer give(nil)
	var last time.Time
	progress := func(done int64) {
		if time.Since(last) > 300*time.Millisecond {
			last = time.Now()
			if err := s.store.Room(0); err != nil {
				give(err)
			}
			m, _ := s.store.Meta(hash)
			if m.Times != nil {
				s.hub.send(event{Type: "media", ID: hash, Done: done, Total: m.Times.Frames})
			}
		}
	}
	err := s.lib.GrowProxy(ctx, hash, progress)
	var other *clip.CountError
	if errors.As(err, &other) {
		// Packets are not always frames; decoding tells.
		if err = s.recount(ctx, hash, true); err == nil {
			err = s.lib.GrowProxy(ctx, hash, progress)
		}
	}
	if cause := context.Cause(ctx); err != nil && errors.Is(cause, store.ErrDiskFull) {
		return cause
	}
	return err
}

// recount finds the frames of a clip anew and lets all that was made of what
// was known before go.
func (s *Server) recount(ctx context.Context, hash string, decode bool) error {
	m, err := s.lib.Rescan(ctx, hash, decode)
	if err != nil {
		return err
	}
	if err := s.store.Learn(ctx, hash, m); err != nil {
		return err
	}
	s.scenes.Purge()
	s.frames.Purge()
	s.stage.Forget(hash)
	s.exact.Forget(hash)
	s.hub.send(event{Type: "media", ID: hash, State: "counted"})
	return nil
}
