package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"

	"github.com/jmoiron/sqlx"

	"ivypocket/core/edit"
)

// KeptList is the list of a template, as it was at a revision; 0 is of one that nobody has
// made yet.
type KeptList struct {
	edit.List
	Revision int64
}

// ListOf reads the list that is kept with a template.
func (s *Store) ListOf(ctx context.Context, template string) (KeptList, error) {
	return listOf(ctx, s.db, template)
}

func listOf(ctx context.Context, from sqlx.QueryerContext, template string) (l KeptList, err error) {
	var row struct {
		Revision int64
		Content  string
	}
	err = notFound(sqlx.GetContext(ctx, from, &row, `SELECT revision, content FROM kept_lists WHERE template = ?`, template))
	if errors.Is(err, ErrNotFound) {
		return KeptList{List: edit.List{Columns: []string{}, Rows: []edit.Row{}}}, nil
	}
	if err == nil {
		err = json.Unmarshal([]byte(row.Content), &l.List)
	}
	l.Revision = row.Revision
	return l, err
}

// KeepList changes the list that is kept with a template, as it stood at a revision; when
// it was changed since, that is a *StaleError and nothing is kept.
func (s *Store) KeepList(ctx context.Context, template string, base int64, change func(*edit.List) error) (l KeptList, err error) {
	err = s.db.tx(ctx, func(tx *sqlx.Tx) error {
		var there int
		if err := tx.GetContext(ctx, &there, `SELECT COUNT(*) FROM templates WHERE id = ?`, template); err != nil {
			return err
		}
		if there == 0 {
			return ErrNotFound
		}
		if l, err = listOf(ctx, tx, template); err != nil {
			return err
		}
		if base != l.Revision {
			return &StaleError{fmt.Sprintf("The list was changed meanwhile, and is at revision %d, not %d. Look at it again, and repeat what you did.", l.Revision, base)}
		}
		if err := change(&l.List); err != nil {
			return err
		}
		if err := l.List.Check(); err != nil {
			return &UnfitError{err}
		}
		b, err := json.Marshal(l.List)
		if err != nil {
			return err
		}
		l.Revision++
		_, err = tx.ExecContext(ctx, `INSERT INTO kept_lists (template, revision, content, changed) VALUES (?, ?, ?, ?)
			ON CONFLICT (template) DO UPDATE SET revision = excluded.revision, content = excluded.content, changed = excluded.changed`, template, l.Revision, string(b), now())
		return err
	})
	return l, err
}

// UnfitError is that something, such as a list, is not as it can be kept.
type UnfitError struct{ Err error }

func (e *UnfitError) Error() string { return e.Err.Error() }
func (e *UnfitError) Unwrap() error { return e.Err }
