package store

import (
	"context"
	"crypto/sha256"
	"database/sql"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"

	"github.com/jmoiron/sqlx"

	"ivypocket/core/scheme"
	"ivypocket/core/template"
)

// A release is frozen: rows are added, never changed, and each is kept with the hash of
// what it says.

// Released is a release as it is listed.
type Released struct {
	Template string
	Number   int
	Note     string
	Hash     string
	Created  string
	Pieces   int // made of it
}

// Releases lists the releases of a template, the newest first.
func (s *Store) Releases(ctx context.Context, id string) ([]Released, error) {
	out := []Released{}
	err := s.db.SelectContext(ctx, &out, `SELECT r.template, r.number, r.note, r.hash, r.created,
		(SELECT COUNT(*) FROM documents d WHERE d.kind = ? AND d.template = r.template AND d.number = r.number AND d.deleted = '') AS pieces
		FROM releases r WHERE r.template = ? ORDER BY r.number DESC`, PieceKind, id)
	if err == nil && len(out) == 0 {
		err = ErrNotFound
	}
	return out, err
}

// Release adds a release of a template, unless there is one already that is the same to the
// byte, and returns its number. A new one says what the template is called.
func (s *Store) Release(ctx context.Context, d *template.Document) (int, error) {
	doc, err := json.Marshal(d)
	if err != nil {
		return 0, err
	}
	number := 0
	err = s.db.tx(ctx, func(tx *sqlx.Tx) error {
		err := tx.GetContext(ctx, &number, `SELECT number FROM releases WHERE template = ? AND document = ? ORDER BY number DESC LIMIT 1`, d.ID, string(doc))
		if err == nil || !errors.Is(err, sql.ErrNoRows) {
			return err
		}
		number, err = addRelease(ctx, tx, d, doc, "")
		return err
	})
	return number, err
}

// ReleaseDraft makes a release of a draft as it is: the next one of the template that it
// began from, or the first of a new one. The draft goes on from it. What it needs yet is a
// template.Faults.
func (s *Store) ReleaseDraft(ctx context.Context, id, note string, anew bool) (Released, error) {
	var out Released
	err := s.db.tx(ctx, func(tx *sqlx.Tx) error {
		row, err := readDocument(ctx, tx, DraftKind, id)
		if err != nil {
			return err
		}
		draft, err := s.Read(row)
		if err != nil {
			return err
		}
		d := draft.Doc.Clone()
		if err := d.Validate(); err != nil {
			return err
		}
		var there int
		if err := tx.GetContext(ctx, &there, `SELECT COUNT(*) FROM templates WHERE id = ? AND deleted = ''`, row.Template); err != nil {
			return err
		}
		d.ID = row.Template
		if anew || there == 0 {
			if d.ID, err = freeTemplate(ctx, tx, d.Name); err != nil {
				return err
			}
		}
		doc, err := json.Marshal(d)
		if err != nil {
			return err
		}
		var last Released
		err = tx.GetContext(ctx, &last, `SELECT template, number, note, hash, created FROM releases WHERE template = ? ORDER BY number DESC LIMIT 1`, d.ID)
		if err != nil && !errors.Is(err, sql.ErrNoRows) {
			return err
		}
		if last.Number > 0 && last.Hash == hashOf(doc) {
			return &StaleError{fmt.Sprintf("release %d is the same as the draft; there is nothing to release", last.Number)}
		}
		number, err := addRelease(ctx, tx, d, doc, note)
		if err != nil {
			return err
		}
		out = Released{Template: d.ID, Number: number, Note: note, Hash: hashOf(doc)}
		_, err = tx.ExecContext(ctx, `UPDATE documents SET template = ?, number = ? WHERE id = ?`, d.ID, number, id)
		return err
	})
	return out, err
}

func hashOf(doc []byte) string {
	sum := sha256.Sum256(doc)
	return hex.EncodeToString(sum[:])
}

// addRelease adds the next release of a template.
func addRelease(ctx context.Context, tx *sqlx.Tx, d *template.Document, doc []byte, note string) (number int, err error) {
	if err := tx.GetContext(ctx, &number, `SELECT COALESCE(MAX(number), 0) + 1 FROM releases WHERE template = ?`, d.ID); err != nil {
		return 0, err
	}
	if _, err := tx.ExecContext(ctx, `INSERT INTO templates (id, name, category, family) VALUES (?, ?, ?, ?)
		ON CONFLICT(id) DO UPDATE SET name = excluded.name, category = excluded.category, family = excluded.family`,
		d.ID, d.Name, d.Category, d.Family); err != nil {
		return 0, err
	}
	_, err = tx.ExecContext(ctx, `INSERT INTO releases (template, number, document, created, note, hash) VALUES (?, ?, ?, ?, ?, ?)`,
		d.ID, number, string(doc), now(), note, hashOf(doc))
	return number, err
}

// freeTemplate is an id for a new template that is like its name.
func freeTemplate(ctx context.Context, tx *sqlx.Tx, name string) (string, error) {
	var taken []string
	if err := tx.SelectContext(ctx, &taken, `SELECT id FROM templates UNION SELECT DISTINCT template FROM releases`); err != nil {
		return "", err
	}
	has := map[string]bool{}
	for _, id := range taken {
		has[id] = true
	}
	id := scheme.IDOf(name)
	for n := 2; has[id]; n++ {
		id = fmt.Sprintf("%s-%d", scheme.IDOf(name), n)
	}
	return id, nil
}

// keptReleases is how many releases are kept as they are read.
const keptReleases = 64

// Document reads a release, which nobody may change. One whose document is not what was
// released is refused.
func (s *Store) Document(ctx context.Context, id string, number int) (*template.Document, error) {
	key := fmt.Sprintf("%s@%d", id, number)
	if d, ok := s.releases.Get(key); ok {
		return d, nil
	}
	var row struct{ Document, Hash string }
	if err := s.db.GetContext(ctx, &row, `SELECT document, hash FROM releases WHERE template = ? AND number = ?`, id, number); err != nil {
		return nil, notFound(err)
	}
	if row.Hash != "" && row.Hash != hashOf([]byte(row.Document)) {
		return nil, fmt.Errorf("release %d of %s is damaged: it is not the document that was released", number, id)
	}
	d, err := template.Parse([]byte(row.Document))
	if err == nil {
		s.releases.Add(key, d)
	}
	return d, err
}
