package store

import (
	"context"
	"encoding/json"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/jmoiron/sqlx"
	"github.com/pressly/goose/v3"
)

// A database that was written for documents of schema 2 is brought up to date
// when it is opened; what can't be read stays as it is.
func TestOlderDatabasesAreUpgraded(t *testing.T) {
	dir := t.TempDir()
	if err := os.MkdirAll(dir, 0o755); err != nil {
		t.Fatal(err)
	}
	db, err := sqlx.Open("sqlite3", dsn(filepath.Join(dir, databaseFile), ""))
	if err != nil {
		t.Fatal(err)
	}
	sub, err := fs.Sub(migrations, "migrations")
	if err != nil {
		t.Fatal(err)
	}
	old, err := goose.NewProvider(goose.DialectSQLite3, db.DB, sub, goose.WithGoMigrations(toPaths, toMembers, toOffered))
	if err != nil {
		t.Fatal(err)
	}
	ctx := context.Background()
	values := `{"entries": {"border": 30}, "rest": {"mark": {"size": [9, 9], "masks.iris.inner": 0.5}}, "formats": {"square": {"mark": {"turn": 3}}}}`
	if _, err := old.UpTo(ctx, 2); err != nil {
		t.Fatal(err)
	}
	err = func() error {
		for _, q := range []string{
			`INSERT INTO templates (id, name, category, family) VALUES ('t', 'T', 'C', '')`,
			`INSERT INTO releases (template, number, document, created) VALUES ('t', 1, '{}', '')`,
			`INSERT INTO pieces (id, template, number, revision, content, created, changed) VALUES ('p', 't', 1, 1, '{"name": "P", "values": ` + values + `}', '', '')`,
			`INSERT INTO pieces (id, template, number, revision, content, created, changed) VALUES ('torn', 't', 1, 1, '{"na', '', '')`,
			`INSERT INTO operations (id, piece, revision, author, title, changes, state, created) VALUES ('o', 'p', 1, 'a', 'x', '[{"path": "formats/square/mark/turn", "before": null, "after": 3}]', 'done', '2026-01-01')`,
			`INSERT INTO operations (id, piece, revision, author, title, changes, state, created) VALUES ('f', 'p', 2, 'a', 'x', '[{"path": "fills/k/framing", "before": null, "after": {"fit": "cover", "zoom": 2}}]', 'done', '2026-01-04')`,
			`INSERT INTO renders (id, number, piece, job, state, done, failure, bytes, created, started, ended) VALUES ('r', 1, 'p', '{"name": "P", "document": {"ivypocket": 2}, "values": ` + values + `}', 'queued', 0, '', 0, '', '', '')`,
			`INSERT INTO renders (id, number, piece, job, state, done, failure, bytes, created, started, ended) VALUES ('s', 2, 'p', '{"kind": "png"}', 'done', 1, '', 9, '2026-01-02', '', '2026-01-03')`,
			`INSERT INTO trials (id, piece, report, created) VALUES ('x', 'p', '{}', '')`,
		} {
			if _, err := db.ExecContext(ctx, q); err != nil {
				return err
			}
		}
		return nil
	}()
	if err != nil {
		t.Fatal(err)
	}
	if err := db.Close(); err != nil {
		t.Fatal(err)
	}
	s, err := Open(dir)
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	// It can be had as it was before.
	list, err := Snapshots(dir)
	if err != nil || len(list) != 1 {
		t.Fatalf("%d snapshots were taken before the upgrade: %v", len(list), err)
	}
	if before, ok := Contents(ctx, dir, list[0].Name); !ok || before.Pieces != 2 || before.Releases != 1 {
		t.Errorf("the snapshot has %+v", before)
	}
	p, err := s.Piece(ctx, "p")
	if err != nil {
		t.Fatal(err)
	}
	e, err := p.Parsed()
	if err != nil || strings.Contains(p.Content, "mark") || e.Values.Entries["border"].Number() != 30 {
		t.Errorf("the piece became %s: %v", p.Content, err)
	}
	if p.Name != "P" || p.Kind != PieceKind || p.Revision != 1 {
		t.Errorf("the piece became %+v", p)
	}
	var trials int
	if err := s.db.GetContext(ctx, &trials, `SELECT COUNT(*) FROM trials WHERE piece = 'p'`); err != nil || trials != 1 {
		t.Errorf("%d trials: %v", trials, err)
	}
	if torn, err := s.Piece(ctx, "torn"); err != nil || torn.Content != `{"na` {
		t.Errorf("a torn piece became %q: %v", torn.Content, err)
	}
	r, err := s.Render(ctx, "r")
	var job map[string]json.RawMessage
	if err != nil || json.Unmarshal([]byte(r.Job), &job) != nil || job["document"] == nil || strings.Contains(string(job["values"]), "mark") || !strings.Contains(string(job["values"]), "border") {
		t.Errorf("the render became %s: %v", r.Job, err)
	}
	if r.Single || r.Revision != 0 {
		t.Errorf("the render became %+v", r)
	}
	if r, err := s.Render(ctx, "s"); err != nil || !r.Single || r.Revision != 1 {
		t.Errorf("the picture became %+v: %v", r, err)
	}
	if p.Deleted != "" || p.Rendered != "2026-01-03" || p.RenderedRevision != 1 {
		t.Errorf("the piece was rendered %s as it stood at %d", p.Rendered, p.RenderedRevision)
	}
	var changes, state string
	if err := s.db.GetContext(ctx, &changes, `SELECT changes || state FROM operations WHERE id = 'o'`); err != nil || changes != "[]gone" {
		t.Errorf("the operation became %s: %v", changes, err)
	}
	if err := s.db.GetContext(ctx, &state, `SELECT state FROM operations WHERE id = 'f'`); err != nil || state != "done" {
		t.Errorf("the framing's operation became %s: %v", state, err)
	}
	if err := s.db.GetContext(ctx, &changes, `SELECT changes FROM operations WHERE id = 'f'`); err != nil || !strings.Contains(changes, "fills/k/framing/zoom") {
		t.Errorf("the framing's operation became %s: %v", changes, err)
	}
}
