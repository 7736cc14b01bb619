package server

import (
	"bytes"
	"encoding/json"
	"fmt"
	"net/http"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/jmoiron/sqlx"

	"ivypocket/media/mediatest"
	"ivypocket/store"
)

func (h *house) health() HealthView {
	h.t.Helper()
	_, b := h.do("GET", "/api/health", nil)
	var v HealthView
	if err := json.Unmarshal(b, &v); err != nil {
		h.t.Fatalf("%s: %v", b, err)
	}
	return v
}

// One piece, release and render that can't be read are left out of every list
// and named; all else goes on.
func TestUnreadableRowsAreLeftOutAndNamed(t *testing.T) {
	dir := t.TempDir()
	h := filled(t)
	dir = h.store.Dir()
	good := h.post("/api/templates/two-tides/open?new=true", nil, 200)["id"].(string)
	h.post("/api/renders", map[string]any{"piece": good, "format": "landscape", "kind": "png", "width": 64, "height": 36}, 200)
	db, err := sqlx.Open("sqlite3", "file:"+filepath.Join(dir, "ivypocket.db")+"?_busy_timeout=5000")
	if err != nil {
		t.Fatal(err)
	}
	defer db.Close()
	for _, q := range []string{
		`UPDATE documents SET content = '{"name": 7', revision = revision + 1 WHERE id = '` + h.piece + `'`,
		`INSERT INTO templates (id, name, category, family) VALUES ('torn', 'Torn', 'x', '')`,
		`INSERT INTO releases (template, number, document, created) VALUES ('torn', 1, '{}', '')`,
		`INSERT INTO renders (id, number, piece, job, state, done, failure, bytes, created, started, ended) VALUES ('r', 900, 'p', '{"kind": 7}', 'done', 0, '', 0, '', '', '')`,
	} {
		if _, err := db.Exec(q); err != nil {
			t.Fatal(q, err)
		}
	}
	_, b := h.do("GET", "/api/shelf", nil)
	var shelf []ShelfItem
	if err := json.Unmarshal(b, &shelf); err != nil || len(shelf) != 1 || len(shelf[0].Pieces) != 1 || shelf[0].Pieces[0].ID != good {
		t.Errorf("%v %s", err, b)
	}
	if res, b := h.do("GET", "/api/renders", nil); res.StatusCode != 200 || strings.Contains(string(b), `"r"`) {
		t.Errorf("%d %s", res.StatusCode, b)
	}
	for _, path := range []string{"/api/media", "/api/pieces/" + good} {
		if res, b := h.do("GET", path, nil); res.StatusCode != 200 {
			t.Errorf("%s: %d %s", path, res.StatusCode, b)
		}
	}
	var what []string
	for _, tr := range h.health().Troubles {
		what = append(what, tr.What)
	}
	if got := strings.Join(what, ", "); got != "A piece of Two Tides, Render 900, Torn" {
		t.Errorf("troubles: %s", got)
	}
	// They can be deleted, and are then no trouble any more.
	h.post("/api/pieces/delete", map[string]any{"ids": []string{h.piece}}, 200)
	h.post("/api/renders/clear", map[string]any{"ids": []string{"r"}}, 200)
	if tr := h.health().Troubles; len(tr) != 1 || tr[0].What != "Torn" {
		t.Errorf("troubles: %v", tr)
	}
}

func TestClearedMediaIsRemovedWhenAskedFor(t *testing.T) {
	h := build(t, t.TempDir())
	hash := h.upload("a.png", mediatest.PNG(t, mediatest.Quarters(50, 50)))
	h.post("/api/media/clear", map[string]any{"hashes": []string{hash}}, 200)
	v := h.health()
	if v.Cleared != 1 || v.ClearedBytes < 100 || v.Free <= 0 || v.Reserve != store.Reserve {
		t.Errorf("%+v", v)
	}
	if freed := h.post("/api/media/purge", nil, 200); freed["files"] != 1.0 || freed["bytes"].(float64) != float64(v.ClearedBytes) || freed["left"] != 0.0 {
		t.Errorf("%v", freed)
	}
	if _, err := os.Stat(h.store.Path(hash)); !os.IsNotExist(err) {
		t.Errorf("the file is still there: %v", err)
	}
}

func TestSmallThingsAreAnsweredInWords(t *testing.T) {
	h := filled(t)
	wav := filepath.Join(t.TempDir(), "s.wav")
	mediatest.FFmpeg(t, nil, "-f", "lavfi", "-i", "sine=d=0.5", wav)
	b, err := os.ReadFile(wav)
	if err != nil {
		t.Fatal(err)
	}
	sound := h.upload("s.wav", b)
	preview := map[string]any{"format": "landscape", "width": 64, "height": 64, "op": map[string]any{"kind": "fill", "pocket": "flood", "media": sound}}
	op := func(id string, base int, name string) map[string]any {
		return map[string]any{"id": id, "base": base, "op": map[string]any{"kind": "name", "name": name}}
	}
	other := h.post("/api/templates/two-tides/open?new=true", nil, 200)["id"].(string)
	h.post("/api/pieces/"+other+"/operations", op("on-another", 0, "Other"), 200)
	at := "/api/pieces/" + h.piece + "/operations"
	for _, c := range []struct {
		what, method, path string
		body               any
		header             []string
		status             int
		words              string
	}{
		{"sound in a thumb", "GET", "/api/media/" + sound + "/thumb", nil, nil, 422, "no picture"},
		{"sound in a preview", "POST", "/api/pieces/" + h.piece + "/preview", preview, nil, 422, "takes no sound"},
		{"an id of another piece", "POST", at, op("on-another", 2, "X"), nil, 409, "another piece"},
		{"a base yet to come", "POST", at, op("from-the-future", 90, "X"), nil, 409, "newer"},
		{"a name with NUL", "POST", at, op("nul-in-name", 2, "a\x00b"), nil, 422, "can't be seen"},
		{"a name with a line end", "POST", at, op("line-in-name", 2, "a\nb"), nil, 422, "line end"},
		{"an author of 65 bytes", "POST", at, op("long-author", 2, "X"), []string{"Ivy-Author", strings.Repeat("a", 65)}, 422, "Ivy-Author"},
		{"an undo by an author of 65 bytes", "POST", "/api/pieces/" + h.piece + "/undo", map[string]any{"id": "undo-it-now"}, []string{"Ivy-Author", strings.Repeat("a", 65)}, 422, "Ivy-Author"},
		{"another page", "GET", "/api/shelf", nil, []string{"Origin", "http://example.com"}, 403, "other pages"},
		{"another host", "GET", "/api/shelf", nil, []string{"Host", "example.com"}, 403, "answers only"},
	} {
		res, b := h.do(c.method, c.path, c.body, c.header...)
		if res.StatusCode != c.status || !strings.Contains(string(b), c.words) {
			t.Errorf("%s: %d %s", c.what, res.StatusCode, b)
		}
		for _, name := range []string{"X-Content-Type-Options", "Referrer-Policy", "Content-Security-Policy", "Cross-Origin-Resource-Policy"} {
			if res.Header.Get(name) == "" {
				t.Errorf("%s: no %s", c.what, name)
			}
		}
	}
}

// A crowd on one address holds up nobody at a window of ours, and what can't be
// taken is told with when to ask again.
func TestACrowdLeavesAPersonRoom(t *testing.T) {
	h := filled(t)
	body := map[string]any{"format": "landscape", "frame": 60, "width": 960, "height": 540, "op": map[string]any{"kind": "name", "name": "X"}}
	b, _ := json.Marshal(body)
	stop := make(chan struct{})
	var wg sync.WaitGroup
	refused := make(chan string, 1000)
	client := &http.Client{Transport: &http.Transport{MaxConnsPerHost: 0, MaxIdleConnsPerHost: 200}}
	for range 300 {
		wg.Go(func() {
			for {
				select {
				case <-stop:
					return
				default:
				}
				res, err := client.Post(h.http.URL+"/api/pieces/"+h.piece+"/preview", "application/json", bytes.NewReader(b))
				if err != nil {
					continue
				}
				res.Body.Close()
				if res.StatusCode == 503 {
					select {
					case refused <- res.Header.Get("Retry-After"):
					default:
					}
					time.Sleep(20 * time.Millisecond)
				}
			}
		})
	}
	for full := false; !full; time.Sleep(time.Millisecond) { // until the crowd is there
		h.srv.turns.mu.Lock()
		full = h.srv.turns.lines[quickTurn].n >= shortest && len(refused) > 0
		h.srv.turns.mu.Unlock()
	}
	for range 10 {
		if res, b := h.do("POST", "/api/pieces/"+h.piece+"/preview", body, "Ivy-Window", "mine"); res.StatusCode != 200 {
			t.Errorf("%d %s", res.StatusCode, b)
		}
	}
	close(stop)
	wg.Wait()
	select {
	case after := <-refused:
		if n, err := strconv.Atoi(after); err != nil || n < 1 {
			t.Errorf("Retry-After: %q", after)
		}
	default:
		t.Error("nobody of the crowd was refused")
	}
}

func TestPicturesOfTrialsThatAreNoMoreGo(t *testing.T) {
	h := filled(t)
	h.post("/api/pieces/"+h.piece+"/trial", nil, 200)
	h.wait("the trial", func() bool { return h.json("GET", "/api/pieces/"+h.piece+"/trial", nil, 200)["state"] == "done" })
	folders := func() int { left, _ := filepath.Glob(filepath.Join(h.store.Dir(), "trials", "*")); return len(left) }
	if folders() != 1 {
		t.Fatal(folders())
	}
	// Left by a program that was killed.
	stray := filepath.Join(h.store.Dir(), "trials", fmt.Sprintf("%036d", 0))
	if err := os.Mkdir(stray, 0o755); err != nil {
		t.Fatal(err)
	}
	old := time.Now().Add(-3 * time.Hour)
	_ = os.Chtimes(stray, old, old)
	if err := h.store.SweepTrials(t.Context()); err != nil || folders() != 1 {
		t.Errorf("%d folders, %v", folders(), err)
	}
	// They stay as long as their piece can be brought back.
	h.post("/api/pieces/delete", map[string]any{"ids": []string{h.piece}}, 200)
	trials, _ := filepath.Glob(filepath.Join(h.store.Dir(), "trials", "*"))
	for _, dir := range trials {
		_ = os.Chtimes(dir, old, old)
	}
	if err := h.store.SweepTrials(t.Context()); err != nil || folders() != 1 {
		t.Errorf("%d folders, %v", folders(), err)
	}
	if n, err := h.store.Forget(t.Context(), time.Now()); err != nil || n != 1 {
		t.Errorf("forgot %d, %v", n, err)
	}
	if err := h.store.SweepTrials(t.Context()); err != nil || folders() != 0 {
		t.Errorf("%d folders, %v", folders(), err)
	}
}
