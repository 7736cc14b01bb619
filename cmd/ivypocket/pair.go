package main

import (
	"crypto/tls"
	"fmt"
	"os"
	"sync"
	"time"
)

// pair is a certificate and its key, read again when their files changed, so that one
// that is renewed needs no new start.
type pair struct {
	cert, key string

	mu   sync.Mutex
	of   time.Time // when the files were last changed, as they were read
	last *tls.Certificate
}

func newPair(cert, key string) *pair { return &pair{cert: cert, key: key} }

// get is the pair as its files have it; while they can't be read, as they had it before.
func (p *pair) get(*tls.ClientHelloInfo) (*tls.Certificate, error) {
	p.mu.Lock()
	defer p.mu.Unlock()
	var changed time.Time
	for _, file := range []string{p.cert, p.key} {
		if st, err := os.Stat(file); err == nil && st.ModTime().After(changed) {
			changed = st.ModTime()
		}
	}
	if p.last != nil && changed.Equal(p.of) {
		return p.last, nil
	}
	c, err := tls.LoadX509KeyPair(p.cert, p.key)
	switch {
	case err == nil:
		p.last, p.of = &c, changed
	case p.last == nil:
		return nil, fmt.Errorf("--tls-cert and --tls-key: %w", err)
	}
	return p.last, nil
}
