package store

import (
	"sort"
	"sync"
)

// Trouble is something in the store that can't be used, which does not keep the
// rest from being used.
type Trouble struct {
	What string `json:"what" doc:"What it is about"`
	Why  string `json:"why"`
	Do   string `json:"do" doc:"What may be done"`
}

// troubles are what was found, by what it was found in.
type troubles struct {
	lock sync.Mutex
	by   map[string]Trouble
}

// Note keeps a trouble with something, in place of what was noted of it before.
func (t *troubles) Note(key string, tr Trouble) {
	t.lock.Lock()
	defer t.lock.Unlock()
	if t.by == nil {
		t.by = map[string]Trouble{}
	}
	t.by[key] = tr
}

// Settle says that there is none any more.
func (t *troubles) Settle(key string) {
	t.lock.Lock()
	defer t.lock.Unlock()
	delete(t.by, key)
}

// Troubles lists what was noted, by what it is about.
func (t *troubles) Troubles() []Trouble {
	t.lock.Lock()
	defer t.lock.Unlock()
	out := make([]Trouble, 0, len(t.by))
	for _, tr := range t.by {
		out = append(out, tr)
	}
	sort.Slice(out, func(i, k int) bool { return out[i].What < out[k].What })
	return out
}
