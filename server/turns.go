package server

import (
	"bytes"
	"context"
	"net"
	"net/http"
	"strconv"
	"sync"
	"time"
)

// turns lets requests for pictures in, a few at a time, before anything is done
// for them: decoding, compiling and painting all cost memory and time. What a
// person waits for goes before what must be exact, and that before what nobody
// waits for yet; among requests of one kind the clients take turns, so that one
// that asks for hundreds holds up nobody but itself.
type turns struct {
	mu     sync.Mutex
	inside [ranks]int
	lines  [ranks]line
	pace   [ranks]time.Duration // from one that leaves to the next, lately

	standing time.Duration // otherwise standing, for tests
}

// turnRank is how soon a picture is wanted.
type turnRank int

const (
	quickTurn turnRank = iota // what somebody looks at while it changes
	exactTurn                 // a stopped frame, without loss
	smallTurn                 // thumbnails, strips, posters: each stands for a whole file that is to be decoded
	idleTurn                  // frames for later
	ranks
)

// Places, how many of them what is not quick may take, and how many of those what
// nobody looks at alone, so that one is always left for what goes before.
const (
	places      = 6
	slowPlaces  = 3
	laterPlaces = 2
)

var most = [ranks]int{quickTurn: places, exactTurn: 2, smallTurn: laterPlaces, idleTurn: laterPlaces}

// A line is full when who comes last would wait longer than wait, as things go:
// pictures take from 4 ms to seconds. shortest and longest bound it in any case.
const (
	wait      = 1500 * time.Millisecond
	firstPace = 10 * time.Millisecond // while nothing is known
	shortest  = 16
	longest   = 512
)

// bound is how many may wait in a line. The lock is held.
func (t *turns) bound(r turnRank) int {
	pace := t.pace[r]
	if pace == 0 {
		pace = firstPace
	}
	return min(max(int(wait/pace), shortest), longest)
}

// passed notes how long one was inside beside how many others. The lock is held.
func (t *turns) passed(r turnRank, took time.Duration) {
	pace := took / time.Duration(max(1, t.inside[r]))
	if t.pace[r] == 0 {
		t.pace[r] = pace
	}
	t.pace[r] = max(time.Microsecond, (t.pace[r]*15+pace)/16)
}

// line is those who wait, by client; order is whose turn is next.
type line struct {
	of    map[string][]*waiter
	order []string
	n     int
}

type waiter struct {
	client, view string
	turn         chan struct{} // closed when it may go in, or never will
	gone         error
}

// busyError says that a request was not carried out because of others.
type busyError struct {
	text  string
	after int // seconds until it may be asked again
}

func (e *busyError) Error() string { return e.text }

var (
	errBusy      = &busyError{"The server has more pictures to draw than it can; ask again in a moment.", 1}
	errOvertaken = &busyError{"A newer picture of the same view was asked for.", 0}
)

// enter waits for a place; leave gives it back. A request of the same client for
// the same view, if it has a name, is overtaken while it waits.
func (t *turns) enter(ctx context.Context, r turnRank, client, view string) (leave func(), err error) {
	t.mu.Lock()
	l := &t.lines[r]
	if view != "" {
		for _, w := range l.of[client] {
			if w.view == view {
				l.drop(w, errOvertaken)
				break
			}
		}
	}
	w := &waiter{client: client, view: view, turn: make(chan struct{})}
	l.add(w)
	if t.admit(); l.n > t.bound(r) {
		// Whoever has the most waiting gives up the last of them.
		who := l.longestClient()
		q := l.of[who]
		l.drop(q[len(q)-1], errBusy)
	}
	t.mu.Unlock()
	var once sync.Once
	var begun time.Time
	leave = func() {
		once.Do(func() {
			t.mu.Lock()
			defer t.mu.Unlock()
			t.passed(r, time.Since(begun))
			t.inside[r]--
			t.admit()
		})
	}
	tired := time.NewTimer(t.patience())
	defer tired.Stop()
	why := error(errBusy)
	select {
	case <-w.turn:
		if w.gone != nil {
			return nil, w.gone
		}
		begun = time.Now()
		return leave, nil
	case <-tired.C:
	case <-ctx.Done():
		why = ctx.Err()
	}
	t.mu.Lock()
	defer t.mu.Unlock()
	select {
	case <-w.turn: // at the same moment
		if w.gone == nil {
			t.inside[r]--
			t.admit()
		}
	default:
		l.drop(w, why)
	}
	return nil, why
}

// standing is how long anybody stands in a line: a page has six connections, and
// when all of them wait for pictures, nothing else that it asks for gets through.
const standing = 6 * time.Second

func (t *turns) patience() time.Duration {
	if t.standing > 0 {
		return t.standing
	}
	return standing
}

// admit lets in whom there is room for. The lock is held.
func (t *turns) admit() {
	for r := range t.lines {
		l := &t.lines[r]
		for l.n > 0 && t.fits(turnRank(r)) {
			client := l.order[0]
			w := l.of[client][0]
			l.order = append(l.order[1:], client) // the others first
			l.drop(w, nil)
			t.inside[r]++
		}
	}
}

func (t *turns) fits(r turnRank) bool {
	all, slow, later := 0, 0, 0
	for k, n := range t.inside {
		all += n
		if turnRank(k) >= exactTurn {
			slow += n
		}
		if turnRank(k) >= smallTurn {
			later += n
		}
	}
	return all < places && t.inside[r] < most[r] && (r < exactTurn || slow < slowPlaces) && (r < smallTurn || later < laterPlaces)
}

func (l *line) add(w *waiter) {
	if l.of == nil {
		l.of = map[string][]*waiter{}
	}
	if len(l.of[w.client]) == 0 {
		l.order = append(l.order, w.client)
	}
	l.of[w.client] = append(l.of[w.client], w)
	l.n++
}

// drop takes somebody out of the line and tells why; nil is that it is their turn.
func (l *line) drop(w *waiter, why error) {
	q := l.of[w.client]
	for i := range q {
		if q[i] != w {
			continue
		}
		q = append(q[:i:i], q[i+1:]...)
		l.n--
		w.gone = why
		close(w.turn)
		break
	}
	if l.of[w.client] = q; len(q) > 0 {
		return
	}
	delete(l.of, w.client)
	for i, c := range l.order {
		if c == w.client {
			l.order = append(l.order[:i:i], l.order[i+1:]...)
			break
		}
	}
}

func (l *line) longestClient() (who string) {
	for _, c := range l.order {
		if len(l.of[c]) > len(l.of[who]) {
			who = c
		}
	}
	return who
}

// clientOf tells who asks: a window of ours by its name, anybody else by where
// they are.
func clientOf(r *http.Request) (client string, window bool) {
	if w := r.Header.Get("Ivy-Window"); w != "" {
		return "window " + w, true
	}
	host, _, err := net.SplitHostPort(r.RemoteAddr)
	if err != nil {
		host = r.RemoteAddr
	}
	return host, false
}

// inTurn answers with a picture when there is a place for it. view names what a
// window has one of, so that a newer request overtakes an older one; "" is
// nothing of the kind.
func (s *Server) inTurn(rank func(*http.Request) (turnRank, string), h http.HandlerFunc) http.HandlerFunc {
	return func(w http.ResponseWriter, r *http.Request) {
		k, view := rank(r)
		client, window := clientOf(r)
		if !window {
			view = ""
		}
		leave, err := s.turns.enter(r.Context(), k, client, view)
		if err != nil {
			s.failed(w, r, err)
			return
		}
		a := &answer{ResponseWriter: w}
		func() {
			defer leave() // before anything is sent: a client may take its time to read
			h(a, r)
		}()
		a.send()
	}
}

// answer holds an answer back until it is whole.
type answer struct {
	http.ResponseWriter
	status int
	body   bytes.Buffer
}

func (a *answer) WriteHeader(status int) { a.status = status }

func (a *answer) Write(b []byte) (int, error) { return a.body.Write(b) }

// unread is how long a client may take to read an answer.
const unread = 60 * time.Second

func (a *answer) send() {
	rc := http.NewResponseController(a.ResponseWriter)
	_ = rc.SetWriteDeadline(time.Now().Add(unread))
	if a.status != 0 {
		a.ResponseWriter.WriteHeader(a.status)
	}
	_, _ = a.body.WriteTo(a.ResponseWriter)
	_ = rc.SetWriteDeadline(time.Time{})
}

func small(*http.Request) (turnRank, string)     { return smallTurn, "" }
func previewed(*http.Request) (turnRank, string) { return quickTurn, "preview" }
func (e *busyError) retry(w http.ResponseWriter) {
	w.Header().Set("Retry-After", strconv.Itoa(e.after))
}
