package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"

	"github.com/jmoiron/sqlx"

	"ivypocket/core/edit"
)

// Past is one operation of a document's history.
type Past struct {
	ID       string
	Revision int64 // which the operation led to
	Author   string
	Title    string
	State    string // done, undone, gone, or step for an undo or redo itself
	Created  string
	// Called is what the author is called, "" when nobody said.
	Called string
}

// Past lists the operations of a document, the last first, from below a revision; 0 is
// from the last.
func (s *Store) Past(ctx context.Context, document string, below int64, limit int) ([]Past, error) {
	if below == 0 {
		below = 1 << 62
	}
	out := []Past{}
	err := s.db.SelectContext(ctx, &out, `SELECT o.id, o.revision, o.author, o.title, o.state, o.created, COALESCE(a.name, '') AS called
		FROM operations o LEFT JOIN authors a ON a.id = o.author WHERE o.document = ? AND o.revision < ? ORDER BY o.revision DESC LIMIT ?`, document, below, limit)
	return out, err
}

// Call gives an author a name by which others read who did what; "" takes it away.
func (s *Store) Call(ctx context.Context, author, name string) error {
	_, err := s.db.exec(ctx, `INSERT INTO authors (id, name) VALUES (?, ?) ON CONFLICT(id) DO UPDATE SET name = excluded.name`, author, name)
	return err
}

// Called is what an author is called, "" when nobody said.
func (s *Store) Called(ctx context.Context, author string) (name string, err error) {
	err = notFound(s.db.GetContext(ctx, &name, `SELECT name FROM authors WHERE id = ?`, author))
	if errors.Is(err, ErrNotFound) {
		err = nil
	}
	return name, err
}

// BackTo takes a draft back to how it stood at a revision: an operation like any other,
// which can be undone.
func (s *Store) BackTo(ctx context.Context, draft string, revision int64, in Sent) (Outcome, error) {
	var out Outcome
	var made kept
	err := s.db.tx(ctx, func(tx *sqlx.Tx) error {
		p, err := readDocument(ctx, tx, DraftKind, draft)
		if err != nil {
			return err
		}
		out = Outcome{Piece: p}
		if done, err := known(ctx, tx, in.ID, DraftKind, draft); err != nil || done {
			return err
		}
		if revision < 0 || revision > p.Revision {
			return &StaleError{fmt.Sprintf("revision: the draft has none of number %d; its last is %d", revision, p.Revision)}
		}
		if in.Base != p.Revision {
			return &StaleError{fmt.Sprintf("base: the draft is at revision %d by now; look at it as it is and choose again", p.Revision)}
		}
		changes, err := undone(ctx, tx, draft, revision)
		if err != nil || len(changes) == 0 {
			return err
		}
		next, err := draftSubject{s: s}.replay(ctx, p, changes)
		if err != nil {
			return err
		}
		out.Title = "Go back to the beginning"
		if revision > 0 {
			var title string
			if err := tx.GetContext(ctx, &title, `SELECT title FROM operations WHERE document = ? AND revision = ?`, draft, revision); err != nil {
				return err
			}
			out.Title = fmt.Sprintf("Go back to “%s”", title)
		}
		if _, err := tx.ExecContext(ctx, `UPDATE operations SET state = 'gone' WHERE document = ? AND author = ? AND state = 'undone'`, draft, in.Author); err != nil {
			return err
		}
		out.Changes, made = changes, next
		out.Piece, err = keep(ctx, tx, p, next, operation{ID: in.ID, Author: in.Author, Title: out.Title, State: "done", Sender: in.Window}, changes)
		return err
	})
	s.keepRead(out, made, err)
	return out, err
}

// undone are the changes that take back all that was done since a revision.
func undone(ctx context.Context, from sqlx.QueryerContext, draft string, revision int64) (changes []edit.Change, err error) {
	var since []operation
	if err := sqlx.SelectContext(ctx, from, &since, `SELECT * FROM operations WHERE document = ? AND revision > ? ORDER BY revision DESC`, draft, revision); err != nil {
		return nil, err
	}
	for _, o := range since {
		c, err := o.changes()
		if err != nil {
			return nil, err
		}
		changes = append(changes, edit.Reverse(c)...)
	}
	return changes, nil
}

// DraftAt is a draft as it stood at a revision; nothing is changed.
func (s *Store) DraftAt(ctx context.Context, id string, revision int64) (edit.Draft, error) {
	d, err := s.DraftOf(ctx, id)
	if err != nil {
		return edit.Draft{}, err
	}
	draft, err := s.draft(d)
	if err != nil || revision == d.Revision {
		return draft, err
	}
	if revision < 0 || revision > d.Revision {
		return edit.Draft{}, ErrNotFound
	}
	changes, err := undone(ctx, s.db, id, revision)
	if err != nil {
		return edit.Draft{}, err
	}
	return draft.Replay(changes)
}

// CopyDraft makes a draft that stands as another one does, under another name and with no
// history.
func (s *Store) CopyDraft(ctx context.Context, id, name string) (Document, error) {
	d, err := s.DraftOf(ctx, id)
	if err != nil {
		return Document{}, err
	}
	draft, err := s.draft(d)
	if err != nil {
		return Document{}, err
	}
	part, err := json.Marshal(name)
	if err != nil {
		return Document{}, err
	}
	if next, _, err := draft.Do(edit.DraftOp{Kind: "put", Path: "name", Part: part}); err != nil {
		return Document{}, err
	} else {
		return s.NewDraft(ctx, next, d.Template, d.Number)
	}
}
