package access

import (
	"net/netip"
	"sync"
	"time"

	lru "github.com/hashicorp/golang-lru/v2"
	"golang.org/x/time/rate"
)

// Slow slows attempts to get in: wrong codes use up what an address may try, which comes
// back with time. Right ones cost nothing. There is no bound for all addresses together:
// it would let anybody keep everybody out, and codes are too long to be guessed.
type Slow struct {
	mu   sync.Mutex
	each *lru.Cache[netip.Prefix, *rate.Limiter]
}

const (
	// atOnce is how many wrong codes an address may try one after another, and again how
	// long it takes until it may try one more.
	atOnce = 6
	again  = 10 * time.Second
	// addresses is how many are remembered.
	addresses = 4096
)

// NewSlow returns one that nobody has tried yet.
func NewSlow() *Slow {
	each, _ := lru.New[netip.Prefix, *rate.Limiter](addresses)
	return &Slow{each: each}
}

// Try makes an attempt from an address at an instant, if it may be made; right says
// whether its code is. wait is how long it must be put off else.
func (s *Slow) Try(address string, now time.Time, right func() bool) (ok bool, wait time.Duration) {
	s.mu.Lock() // so that many attempts at once are no more than one after another
	defer s.mu.Unlock()
	at := network(address)
	l, known := s.each.Get(at)
	if !known {
		l = rate.NewLimiter(rate.Every(again), atOnce)
		s.each.Add(at, l)
	}
	if short := 1 - l.TokensAt(now); short > 0 {
		return false, time.Duration(short * float64(again))
	}
	if right() {
		return true, 0
	}
	l.AllowN(now, 1)
	return false, 0
}

// network is what an address is counted with: one of version 6 is as good as any of its
// /64, which one machine has to itself (RFC 6177).
func network(address string) netip.Prefix {
	a, err := netip.ParseAddr(address)
	if err != nil {
		return netip.Prefix{}
	}
	a = a.Unmap().WithZone("")
	if a.Is4() {
		return netip.PrefixFrom(a, 32)
	}
	p, _ := a.Prefix(64)
	return p
}
