package server

import (
	"context"
	"sync"
)

// gate lets one picture be painted at a time, on all cores, and says who is
// next: what a person waits for goes before everything else, so that a batch
// of renders holds up nobody for longer than one frame.
type gate struct {
	mu     sync.Mutex
	busy   bool
	urgent []chan struct{}
	batch  []chan struct{}
}

// enter waits for the turn; the returned function gives it on.
func (g *gate) enter(ctx context.Context, urgent bool) (leave func(), err error) {
	g.mu.Lock()
	if !g.busy {
		g.busy = true
		g.mu.Unlock()
		return g.leave, nil
	}
	turn := make(chan struct{})
	queue := &g.batch
	if urgent {
		queue = &g.urgent
	}
	*queue = append(*queue, turn)
	g.mu.Unlock()
	select {
	case <-turn:
		return g.leave, nil
	case <-ctx.Done():
	}
	g.mu.Lock()
	defer g.mu.Unlock()
	for i, t := range *queue {
		if t == turn {
			*queue = append((*queue)[:i], (*queue)[i+1:]...)
			return nil, ctx.Err()
		}
	}
	// The turn came at the same moment; it is given on unused.
	g.next()
	return nil, ctx.Err()
}

func (g *gate) leave() {
	g.mu.Lock()
	defer g.mu.Unlock()
	g.next()
}

// next hands the turn on. The lock is held.
func (g *gate) next() {
	for _, queue := range []*[]chan struct{}{&g.urgent, &g.batch} {
		if len(*queue) > 0 {
			turn := (*queue)[0]
			*queue = (*queue)[1:]
			close(turn)
			return
		}
	}
	g.busy = false
}

func (g *gate) waitBatch(ctx context.Context) (func(), error) { return g.enter(ctx, false) }
