package server

import (
	"context"
	"errors"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/http/httptest"
	"strings"
	"sync"
	"testing"
	"time"
)

// queue has n requests of a client wait and returns the order in which they got
// their turns, as names like "a0".
type queue struct {
	t     *testing.T
	turns turns
	mu    sync.Mutex
	got   []string
	wg    sync.WaitGroup
}

// full takes all places and returns what gives one of them back.
func (q *queue) full() (free func()) {
	var held []func()
	for range places {
		leave, err := q.turns.enter(context.Background(), quickTurn, "holder", "")
		if err != nil {
			q.t.Fatal(err)
		}
		held = append(held, leave)
	}
	return func() { held[0](); held = held[1:] }
}

func (q *queue) ask(r turnRank, client, view, name string) {
	before := q.waiting()
	ready := make(chan struct{})
	q.wg.Go(func() {
		close(ready)
		leave, err := q.turns.enter(context.Background(), r, client, view)
		q.mu.Lock()
		defer q.mu.Unlock()
		var busy *busyError
		switch {
		case errors.As(err, &busy):
			q.got = append(q.got, name+" refused")
		case err != nil:
			q.t.Error(err)
		default:
			q.got = append(q.got, name)
			leave()
		}
	})
	<-ready
	for end := time.Now().Add(10 * time.Second); q.waiting() == before && time.Now().Before(end); time.Sleep(100 * time.Microsecond) {
		q.mu.Lock()
		n := len(q.got)
		q.mu.Unlock()
		if n > 0 { // it, or another in its place, was refused
			return
		}
	}
}

func (q *queue) waiting() (n int) {
	q.turns.mu.Lock()
	defer q.turns.mu.Unlock()
	for _, l := range q.turns.lines {
		n += l.n
	}
	return n
}

// One that asks for many holds up nobody but itself, and what is looked at goes
// before what must be exact and what is for later.
func TestClientsTakeTurns(t *testing.T) {
	q := &queue{t: t}
	free := q.full()
	for i := range 4 {
		q.ask(idleTurn, "c", "", fmt.Sprint("idle", i))
		q.ask(exactTurn, "a", "", fmt.Sprint("exact", i))
	}
	for i := range 4 {
		q.ask(quickTurn, "a", "", fmt.Sprint("a", i))
	}
	q.ask(quickTurn, "b", "", "b0")
	free()
	q.wg.Wait()
	if got := strings.Join(q.got, " "); got != "a0 b0 a1 a2 a3 exact0 exact1 exact2 exact3 idle0 idle1 idle2 idle3" {
		t.Errorf("turns: %s", got)
	}
}

// What is slow never takes all places.
func TestAPlaceIsLeftForWhatIsQuick(t *testing.T) {
	var ts turns
	in := 0
	for range places {
		for _, r := range []turnRank{exactTurn, idleTurn} {
			ctx, cancel := context.WithTimeout(context.Background(), 20*time.Millisecond)
			if _, err := ts.enter(ctx, r, "a", ""); err == nil {
				in++
			}
			cancel()
		}
	}
	if in != slowPlaces {
		t.Errorf("%d slow ones are inside, want %d", in, slowPlaces)
	}
	if _, err := ts.enter(context.Background(), quickTurn, "b", ""); err != nil {
		t.Error(err)
	}
}

// Pictures that stand for whole files may take long to decode, one and all. They
// leave places for a stopped frame and for what is dragged.
func TestSmallPicturesLeavePlacesForFrames(t *testing.T) {
	var ts turns
	enter := func(r turnRank) bool {
		ctx, cancel := context.WithTimeout(context.Background(), 20*time.Millisecond)
		defer cancel()
		_, err := ts.enter(ctx, r, "a", "")
		return err == nil
	}
	in := 0
	for range places {
		if enter(smallTurn) {
			in++
		}
		if enter(idleTurn) {
			in++
		}
	}
	if in != laterPlaces {
		t.Errorf("%d are inside, want %d", in, laterPlaces)
	}
	if !enter(exactTurn) || !enter(quickTurn) || !enter(quickTurn) || !enter(quickTurn) {
		t.Error("there is no place for frames")
	}
}

// When those inside stay, who waits is told to ask again, so that their connection
// is free for other things.
func TestNobodyStandsInALineForLong(t *testing.T) {
	ts := turns{standing: 30 * time.Millisecond}
	var held []func()
	for range places {
		leave, err := ts.enter(context.Background(), quickTurn, "holder", "")
		if err != nil {
			t.Fatal(err)
		}
		held = append(held, leave)
	}
	var busy *busyError
	if _, err := ts.enter(context.Background(), quickTurn, "a", ""); !errors.As(err, &busy) || busy.after < 1 {
		t.Errorf("%v", err)
	}
	for _, l := range ts.lines {
		if l.n > 0 {
			t.Errorf("%d still stand in line", l.n)
		}
	}
	held[0]()
	if _, err := ts.enter(context.Background(), quickTurn, "a", ""); err != nil {
		t.Error(err)
	}
}

// A full line is told, to whoever has the most in it.
func TestAFullLineRefusesWhoAsksForMost(t *testing.T) {
	q := &queue{t: t}
	free := q.full()
	bound := q.turns.bound(quickTurn)
	for i := range bound {
		q.ask(quickTurn, "greedy", "", fmt.Sprint("g", i))
	}
	q.ask(quickTurn, "modest", "", "m")
	free()
	q.wg.Wait()
	refused := 0
	for i, name := range q.got {
		if strings.HasSuffix(name, "refused") {
			refused++
			if !strings.HasPrefix(name, "g") {
				t.Errorf("%s", name)
			}
		}
		if name == "m" && i > 3 {
			t.Errorf("the modest one was number %d", i)
		}
	}
	if refused != 1 || len(q.got) != bound+1 {
		t.Errorf("%d of %d were refused", refused, len(q.got))
	}
}

// How many may wait goes by how long those before them took.
func TestALineIsAsLongAsTheWaitAllows(t *testing.T) {
	var ts turns
	for pace, want := range map[time.Duration]int{time.Millisecond: longest, 5 * time.Millisecond: int(wait / (5 * time.Millisecond)), time.Second: shortest} {
		for range 200 {
			ts.inside[quickTurn] = 3
			ts.passed(quickTurn, 3*pace)
		}
		if got := ts.bound(quickTurn); got < want*9/10 || got > want*11/10 {
			t.Errorf("at one in %s, %d may wait, want %d", pace, got, want)
		}
	}
}

// A newer request for a view overtakes the older one of the same window.
func TestStaleRequestsAreDropped(t *testing.T) {
	q := &queue{t: t}
	free := q.full()
	q.ask(quickTurn, "a", "preview", "old")
	q.ask(quickTurn, "b", "preview", "other")
	q.ask(quickTurn, "a", "preview", "new")
	free()
	q.wg.Wait()
	if got := strings.Join(q.got, ", "); !strings.HasPrefix(got, "old refused") || strings.Count(got, "refused") != 1 || len(q.got) != 3 {
		t.Errorf("%s", got)
	}
}

// Who leaves while waiting, or at the very moment of the turn, loses no place.
func TestPlacesAreNotLost(t *testing.T) {
	var ts turns
	var wg sync.WaitGroup
	for i := range 400 {
		wg.Go(func() {
			ctx, cancel := context.WithTimeout(context.Background(), time.Duration(i%7)*100*time.Microsecond)
			defer cancel()
			if leave, err := ts.enter(ctx, turnRank(i)%ranks, fmt.Sprint(i%5), ""); err == nil {
				time.Sleep(100 * time.Microsecond)
				leave()
				leave() // giving it back twice gives one back
			}
		})
	}
	wg.Wait()
	ts.mu.Lock()
	defer ts.mu.Unlock()
	for r := range ts.lines {
		if ts.inside[r] != 0 || ts.lines[r].n != 0 || len(ts.lines[r].of) != 0 || len(ts.lines[r].order) != 0 {
			t.Errorf("rank %d: %d inside, %+v", r, ts.inside[r], ts.lines[r])
		}
	}
}

// Batch work has a share also while people never stop asking.
func TestBatchWorkIsNotStarved(t *testing.T) {
	var g gate
	leave, err := g.enter(context.Background(), true)
	if err != nil {
		t.Fatal(err)
	}
	order := make(chan string, 100)
	wait := func(urgent bool, name string) {
		ready := make(chan struct{})
		go func() {
			close(ready)
			leave, err := g.enter(context.Background(), urgent)
			if err == nil {
				order <- name
				leave()
			}
		}()
		<-ready
	}
	wait(false, "batch")
	for range 3 * share {
		wait(true, "urgent")
	}
	waiting := func() int { g.mu.Lock(); defer g.mu.Unlock(); return len(g.urgent) + len(g.batch) }
	for end := time.Now().Add(10 * time.Second); waiting() < 3*share+1 && time.Now().Before(end); {
		time.Sleep(time.Millisecond)
	}
	leave()
	for i := range 3*share + 1 {
		if name := <-order; name == "batch" {
			if i < share || i > share+2 {
				t.Errorf("batch work was number %d", i)
			}
			return
		}
	}
	t.Error("batch work never came")
}

// A body that stops coming ends its request; one that comes slowly does not.
func TestBodiesThatStallAreEnded(t *testing.T) {
	read := make(chan error, 1)
	srv := httptest.NewServer(paced(100 * time.Millisecond)(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		_, err := io.ReadAll(r.Body)
		read <- err
		// What has come is worked on for longer than a body may stall.
		time.Sleep(300 * time.Millisecond)
		if err == nil && r.Context().Err() != nil {
			read <- r.Context().Err()
		}
	})))
	defer srv.Close()
	send := func(parts int, each time.Duration) error {
		c, err := net.Dial("tcp", srv.Listener.Addr().String())
		if err != nil {
			t.Fatal(err)
		}
		defer c.Close()
		fmt.Fprintf(c, "POST / HTTP/1.1\r\nHost: x\r\nContent-Length: 10\r\n\r\n")
		for range parts {
			_, _ = c.Write([]byte("x"))
			time.Sleep(each)
		}
		err = <-read
		time.Sleep(350 * time.Millisecond)
		return err
	}
	if err := send(3, 0); err == nil || !strings.Contains(err.Error(), "timeout") {
		t.Errorf("a body that stops: %v", err)
	}
	if err := send(10, 30*time.Millisecond); err != nil {
		t.Errorf("a slow body: %v", err)
	}
	select {
	case err := <-read:
		t.Error(err)
	default:
	}
}

// A client that does not read its picture holds up nobody: its place is given
// back before anything is sent.
func TestWhoDoesNotReadHoldsNoPlace(t *testing.T) {
	var s Server
	srv := httptest.NewServer(s.inTurn(small, func(w http.ResponseWriter, _ *http.Request) {
		w.Header().Set("Content-Type", "image/jpeg")
		w.WriteHeader(http.StatusAccepted)
		_, _ = w.Write(make([]byte, 64<<20)) // more than any buffer on the way holds
	}))
	defer srv.Close()
	for range places {
		c, err := net.Dial("tcp", srv.Listener.Addr().String())
		if err != nil {
			t.Fatal(err)
		}
		defer c.Close()
		fmt.Fprint(c, "GET / HTTP/1.1\r\nHost: x\r\n\r\n")
		if _, err := io.ReadFull(c, make([]byte, 12)); err != nil { // it has begun to be sent
			t.Fatal(err)
		}
	}
	ctx, cancel := context.WithTimeout(context.Background(), 10*time.Second)
	defer cancel()
	req, err := http.NewRequestWithContext(ctx, "GET", srv.URL, nil)
	if err != nil {
		t.Fatal(err)
	}
	res, err := http.DefaultClient.Do(req)
	if err != nil {
		t.Fatal(err)
	}
	defer res.Body.Close()
	if n, err := io.Copy(io.Discard, res.Body); n != 64<<20 || err != nil || res.StatusCode != http.StatusAccepted || res.Header.Get("Content-Type") != "image/jpeg" {
		t.Errorf("%d bytes, %d, %v", n, res.StatusCode, err)
	}
}
