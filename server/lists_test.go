package server

import (
	"encoding/json"
	"path/filepath"
	"testing"

	"github.com/jmoiron/sqlx"
)

// A list reads what changed since the one before, and nothing else: content that
// is spoilt behind the server's back, at the same revision, is not looked at.
func TestListsReadWhatChanged(t *testing.T) {
	h := filled(t)
	other := h.post("/api/templates/two-tides/open?new=true", nil, 200)["id"].(string)
	names := func() map[string]string {
		t.Helper()
		_, b := h.do("GET", "/api/shelf", nil)
		var shelf []ShelfItem
		if err := json.Unmarshal(b, &shelf); err != nil || len(shelf) != 1 {
			t.Fatalf("%v %s", err, b)
		}
		out := map[string]string{}
		for _, p := range shelf[0].Pieces {
			out[p.ID] = p.Name
		}
		return out
	}
	if got := names(); len(got) != 2 {
		t.Fatal(got)
	}
	db, err := sqlx.Open("sqlite3", "file:"+filepath.Join(h.store.Dir(), "ivypocket.db")+"?_busy_timeout=5000")
	if err != nil {
		t.Fatal(err)
	}
	defer db.Close()
	if _, err := db.Exec(`UPDATE documents SET content = '' WHERE id = ?`, other); err != nil {
		t.Fatal(err)
	}
	h.op("a-new-name", 1, map[string]any{"kind": "name", "name": "Ebb"}, 200)
	if got := names(); len(got) != 2 || got[h.piece] != "Ebb" {
		t.Errorf("%v", got)
	}
}
