package still

import (
	"context"

	"golang.org/x/sync/semaphore"
)

// room bounds what is held at one time, in bytes. Who comes first goes first, and
// so one that takes all of it, in a helper, for many seconds, would hold up
// everybody; what is small has a part of its own that large ones can't take.
type room struct {
	all, own *semaphore.Weighted
	most     int64 // that one can take
	small    int64 // at most this is small
}

func newRoom(bytes, own, small int64) *room {
	return &room{semaphore.NewWeighted(bytes - own), semaphore.NewWeighted(own), bytes - own, small}
}

// enter waits until n bytes are free, or all of them when there are no more; leave
// makes them free again.
func (r *room) enter(ctx context.Context, n int64) (leave func(), err error) {
	n = min(n, r.most)
	in := r.all
	leave = func() { in.Release(n) }
	if n <= r.small {
		if in.TryAcquire(n) {
			return leave, nil
		}
		in = r.own
	}
	return leave, in.Acquire(ctx, n)
}
