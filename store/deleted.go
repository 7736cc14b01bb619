package store

import (
	"context"
	"encoding/json"
	"errors"
	"time"

	"github.com/jmoiron/sqlx"
)

// ErrDeleted says that a document was deleted and can still be brought back.
var ErrDeleted = errors.New("it was deleted, and can still be brought back")

// Delete takes documents of a kind out of all lists, or brings them back, and returns
// the ids of those that it changed. What is deleted can't be read or changed, and
// stays until Forget; media that it speaks of is kept as long.
func (s *Store) Delete(ctx context.Context, kind string, ids []string, back bool) (changed []string, err error) {
	return s.bin(ctx, `UPDATE documents SET deleted = ? WHERE (deleted <> '') = ? AND id = ? AND kind = ?`, ids, back, kind)
}

// DeleteTemplates puts templates in the bin, or takes them out, and returns the ids of
// those that it changed. Pieces of them stay as they are.
func (s *Store) DeleteTemplates(ctx context.Context, ids []string, back bool) (changed []string, err error) {
	return s.bin(ctx, `UPDATE templates SET deleted = ? WHERE (deleted <> '') = ? AND id = ?`, ids, back)
}

// bin notes of each id when it was deleted, or that it is not, by a query that takes
// the instant, whether it was deleted before, the id, and more.
func (s *Store) bin(ctx context.Context, query string, ids []string, back bool, more ...any) (changed []string, err error) {
	at := now()
	if back {
		at = ""
	}
	err = s.makingRoom(ctx, func(tx *sqlx.Tx) error {
		changed = nil
		for _, id := range ids {
			res, err := tx.ExecContext(ctx, query, append([]any{at, back, id}, more...)...)
			if err != nil {
				return err
			}
			if n, err := res.RowsAffected(); err != nil {
				return err
			} else if n > 0 {
				changed = append(changed, id)
			}
		}
		return nil
	})
	return changed, err
}

// forgetTemplates removes for good what has been in the bin since before an instant and
// no piece or draft speaks of any more.
func forgetTemplates(ctx context.Context, tx *sqlx.Tx, before time.Time) error {
	var rows []struct{ ID, Deleted string }
	if err := tx.SelectContext(ctx, &rows, `SELECT id, deleted FROM templates
		WHERE deleted <> '' AND id NOT IN (SELECT template FROM documents)`); err != nil {
		return err
	}
	for _, r := range rows {
		if at, err := time.Parse(time.RFC3339Nano, r.Deleted); err == nil && at.After(before) {
			continue
		}
		for _, q := range []string{`DELETE FROM releases WHERE template = ?`, `DELETE FROM templates WHERE id = ?`} {
			if _, err := tx.ExecContext(ctx, q, r.ID); err != nil {
				return err
			}
		}
	}
	return nil
}

// Forget removes for good what was deleted before an instant: documents with their
// operations and trials, and templates that nothing is made of. It returns how many
// documents that were.
func (s *Store) Forget(ctx context.Context, before time.Time) (n int, err error) {
	var rows []struct{ ID, Deleted string }
	if err := s.db.SelectContext(ctx, &rows, `SELECT id, deleted FROM documents WHERE deleted <> ''`); err != nil {
		return 0, err
	}
	err = s.makingRoom(ctx, func(tx *sqlx.Tx) error {
		n = 0
		for _, r := range rows {
			if at, err := time.Parse(time.RFC3339Nano, r.Deleted); err == nil && at.After(before) {
				continue
			}
			// Somebody may have brought it back since it was listed.
			res, err := tx.ExecContext(ctx, `DELETE FROM documents WHERE id = ? AND deleted <> ''`, r.ID)
			if err != nil {
				return err
			}
			gone, err := res.RowsAffected()
			if err != nil {
				return err
			}
			n += int(gone)
		}
		if _, err := tx.ExecContext(ctx, `DELETE FROM documents WHERE kind = ? AND number = 0 AND template NOT IN (SELECT id FROM documents WHERE kind = ?)`, PieceKind, DraftKind); err != nil {
			return err
		}
		return forgetTemplates(ctx, tx, before)
	})
	return n, err
}

// Duplicate makes a piece that stands as another one does, under another name and
// with no history; the next one is like it, with nothing in its pockets yet.
func (s *Store) Duplicate(ctx context.Context, id, name string, next bool) (Piece, error) {
	p, err := s.Piece(ctx, id)
	if err != nil {
		return Piece{}, err
	}
	e, err := p.Parsed()
	if err != nil {
		return Piece{}, err
	}
	if e.Name = name; next {
		e.Values, e.Aside = e.Values.Unfilled(), nil
	}
	content, err := json.Marshal(e)
	if err != nil {
		return Piece{}, err
	}
	return s.newDocument(ctx, Document{Kind: PieceKind, Name: name, Template: p.Template, Number: p.Number, Content: string(content)})
}
