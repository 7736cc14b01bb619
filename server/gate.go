package server

import (
	"context"
	"sync"
	"time"
)

// gate lets one picture be painted at a time, on all cores, and says who is
// next: what a person waits for goes before everything else. Batch work also
// waits a moment after it, as one picture that is looked at is soon followed by
// the next, but never for long.
type gate struct {
	mu     sync.Mutex
	busy   bool
	urgent []chan struct{}
	batch  []chan struct{}
	last   time.Time // when a person last got a picture
	passed int       // urgent turns since batch work, which waits, had one
}

const (
	// quiet is how long batch work waits after a picture that a person got.
	quiet = 30 * time.Millisecond
	// patience is how long it waits at most.
	patience = 150 * time.Millisecond
	// share is how many urgent pictures go before one of those that wait behind
	// them, so that a render goes on, slowly, whatever is asked for.
	share = 12
)

// enter waits for the turn; the returned function gives it on.
func (g *gate) enter(ctx context.Context, urgent bool) (leave func(), err error) {
	if !urgent {
		if err := g.hush(ctx); err != nil {
			return nil, err
		}
	}
	leave = g.leave
	if urgent {
		leave = g.leaveUrgent
	}
	g.mu.Lock()
	if !g.busy {
		g.busy = true
		g.mu.Unlock()
		return leave, nil
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
		return leave, nil
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

// hush waits until nobody has been looking for a moment.
func (g *gate) hush(ctx context.Context) error {
	begun := time.Now()
	for {
		g.mu.Lock()
		left := quiet - time.Since(g.last)
		g.mu.Unlock()
		left = min(left, patience-time.Since(begun))
		if left <= 0 {
			return ctx.Err()
		}
		select {
		case <-time.After(left):
		case <-ctx.Done():
			return ctx.Err()
		}
	}
}

func (g *gate) leave() {
	g.mu.Lock()
	defer g.mu.Unlock()
	g.next()
}

func (g *gate) leaveUrgent() {
	g.mu.Lock()
	defer g.mu.Unlock()
	g.last = time.Now()
	g.next()
}

// next hands the turn on. The lock is held.
func (g *gate) next() {
	queues := []*[]chan struct{}{&g.urgent, &g.batch}
	if g.passed++; len(g.batch) == 0 {
		g.passed = 0
	} else if g.passed > share {
		queues[0], queues[1] = queues[1], queues[0]
	}
	for _, queue := range queues {
		if len(*queue) > 0 {
			if queue == &g.batch {
				g.passed = 0
			}
			turn := (*queue)[0]
			*queue = (*queue)[1:]
			close(turn)
			return
		}
	}
	g.busy = false
}

func (g *gate) waitBatch(ctx context.Context) (func(), error) { return g.enter(ctx, false) }
