package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"

	"github.com/jmoiron/sqlx"

	"ivypocket/core/edit"
	"ivypocket/core/template"
)

// Sent is an operation as a client sends it.
type Sent struct {
	ID     string // made by the client; sending it again does nothing
	Author string
	Base   int64 // the revision the client had seen
	Op     edit.Op
	// Stroke names the operations on several pieces that are undone as one.
	Stroke string
}

// Outcome is what an operation, an undo or a redo led to.
type Outcome struct {
	Piece Piece
	Title string
	// Changes is empty when nothing changed: the operation had been sent
	// before, or asked for what was so already.
	Changes []edit.Change
}

// NothingError says that there is nothing to undo or redo.
type NothingError struct{ Verb string }

func (e *NothingError) Error() string { return "there is nothing to " + e.Verb }

// StaleError says that a client speaks of a state of things that is not there.
type StaleError struct{ What string }

func (e *StaleError) Error() string { return e.What }

// known reports whether an operation has been carried out on a piece. That its
// id is one of another piece's operations is a *StaleError.
func known(ctx context.Context, tx *sqlx.Tx, id, piece string) (bool, error) {
	var of string
	err := tx.GetContext(ctx, &of, `SELECT piece FROM operations WHERE id = ?`, id)
	switch {
	case errors.Is(err, sql.ErrNoRows):
		return false, nil
	case err == nil && of != piece:
		return false, &StaleError{fmt.Sprintf("id: %s is that of an operation on another piece; every operation needs an id of its own", id)}
	}
	return err == nil, err
}

type operation struct {
	ID       string
	Piece    string
	Revision int64
	Author   string
	Title    string
	Changes  string
	State    string
	Created  string
	Stroke   string
}

func (o operation) changes() (c []edit.Change, err error) {
	err = json.Unmarshal([]byte(o.Changes), &c)
	return
}

// Do carries out an operation, keeps it with the new snapshot in one
// transaction, and returns the piece as it then stands. Operations on other
// paths that came since its base are no obstacle; one on the same path is a
// *edit.ConflictError.
func (s *Store) Do(ctx context.Context, d *template.Document, piece string, in Sent) (Outcome, error) {
	var out Outcome
	err := s.db.tx(ctx, func(tx *sqlx.Tx) error {
		p, e, err := readPiece(ctx, tx, piece)
		if err != nil {
			return err
		}
		out = Outcome{Piece: p, Title: edit.Title(d, in.Op)}
		if done, err := known(ctx, tx, in.ID, piece); err != nil || done {
			return err
		}
		if in.Base > p.Revision {
			return &StaleError{fmt.Sprintf("base: revision %d is newer than the piece's, which is %d; read the piece again", in.Base, p.Revision)}
		}
		next, changes, err := edit.Apply(d, e, in.Op)
		if err != nil || len(changes) == 0 {
			return err
		}
		var since []operation
		if err := tx.SelectContext(ctx, &since, `SELECT * FROM operations WHERE piece = ? AND revision > ?`, piece, in.Base); err != nil {
			return err
		}
		for _, o := range since {
			theirs, err := o.changes()
			if err != nil {
				return err
			}
			if path := edit.Overlap(changes, theirs); path != "" {
				return &edit.ConflictError{Path: path}
			}
		}
		if _, err := tx.ExecContext(ctx, `UPDATE operations SET state = 'gone' WHERE piece = ? AND author = ? AND state = 'undone'`, piece, in.Author); err != nil {
			return err
		}
		out.Changes = changes
		out.Piece, err = keep(ctx, tx, p, next, operation{ID: in.ID, Author: in.Author, Title: out.Title, State: "done", Stroke: in.Stroke}, changes)
		return err
	})
	return out, err
}

// Undo takes back the author's last operation that stands; id makes the undo
// itself an operation that is carried out once.
func (s *Store) Undo(ctx context.Context, d *template.Document, piece, author, id string) (Outcome, error) {
	return s.step(ctx, d, piece, author, author, id, "undo",
		`SELECT * FROM operations WHERE piece = ? AND author = ? AND state = 'done' ORDER BY revision DESC LIMIT 1`, "undone")
}

// Redo carries out again what the author's last undo took back.
func (s *Store) Redo(ctx context.Context, d *template.Document, piece, author, id string) (Outcome, error) {
	return s.step(ctx, d, piece, author, author, id, "redo",
		`SELECT * FROM operations WHERE piece = ? AND author = ? AND state = 'undone' ORDER BY revision ASC LIMIT 1`, "done")
}

// step undoes or redoes the operation that query finds for a piece and a key.
func (s *Store) step(ctx context.Context, d *template.Document, piece, author, key, id, verb, query, becomes string) (Outcome, error) {
	var out Outcome
	err := s.db.tx(ctx, func(tx *sqlx.Tx) error {
		p, e, err := readPiece(ctx, tx, piece)
		if err != nil {
			return err
		}
		out.Piece = p
		if done, err := known(ctx, tx, id, piece); err != nil || done {
			return err
		}
		var o operation
		if err := tx.GetContext(ctx, &o, query, piece, key); err != nil {
			if errors.Is(err, sql.ErrNoRows) {
				return &NothingError{verb}
			}
			return err
		}
		changes, err := o.changes()
		if err != nil {
			return err
		}
		if verb == "undo" {
			changes = edit.Reverse(changes)
		}
		next, err := edit.Replay(d, e, changes)
		if err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `UPDATE operations SET state = ? WHERE id = ?`, becomes, o.ID); err != nil {
			return err
		}
		out.Title, out.Changes = o.Title, changes
		out.Piece, err = keep(ctx, tx, p, next, operation{ID: id, Author: author, Title: verb + ": " + o.Title, State: "step"}, changes)
		return err
	})
	return out, err
}

// Stroke is the part of an operation on several pieces that fell on one.
type Stroke struct{ Piece, Operation, Author string }

// Strokes lists the operations of a stroke that stand.
func (s *Store) Strokes(ctx context.Context, stroke string) ([]Stroke, error) {
	var out []Stroke
	err := s.db.SelectContext(ctx, &out, `SELECT piece, id AS operation, author FROM operations WHERE stroke = ? AND state = 'done' ORDER BY piece`, stroke)
	return out, err
}

// UndoOperation takes back one operation that stands, whatever came after it on
// other paths; a path that was changed since is a *edit.ConflictError.
func (s *Store) UndoOperation(ctx context.Context, d *template.Document, st Stroke, id string) (Outcome, error) {
	return s.step(ctx, d, st.Piece, st.Author, st.Operation, id, "undo", `SELECT * FROM operations WHERE piece = ? AND id = ? AND state = 'done'`, "undone")
}

// History is what an author could undo and redo, by title; "" is nothing.
type History struct{ Undo, Redo string }

// History returns what an author could undo and redo.
func (s *Store) History(ctx context.Context, piece, author string) (h History, err error) {
	get := func(to *string, query string) {
		if e := s.db.GetContext(ctx, to, query, piece, author); e != nil && !errors.Is(e, sql.ErrNoRows) {
			err = e
		}
	}
	get(&h.Undo, `SELECT title FROM operations WHERE piece = ? AND author = ? AND state = 'done' ORDER BY revision DESC LIMIT 1`)
	get(&h.Redo, `SELECT title FROM operations WHERE piece = ? AND author = ? AND state = 'undone' ORDER BY revision ASC LIMIT 1`)
	return
}

func readPiece(ctx context.Context, tx *sqlx.Tx, id string) (p Piece, e edit.Piece, err error) {
	if err = tx.GetContext(ctx, &p, `SELECT * FROM pieces WHERE id = ?`, id); err != nil {
		return p, e, notFound(err)
	}
	e, err = p.Parsed()
	return
}

// keep writes the snapshot and the operation that led to it.
func keep(ctx context.Context, tx *sqlx.Tx, p Piece, next edit.Piece, o operation, changes []edit.Change) (Piece, error) {
	content, err := json.Marshal(next)
	if err != nil {
		return p, err
	}
	list, err := json.Marshal(changes)
	if err != nil {
		return p, err
	}
	p.Revision++
	p.Content, p.Changed = string(content), now()
	o.Piece, o.Revision, o.Changes, o.Created = p.ID, p.Revision, string(list), p.Changed
	if _, err := tx.NamedExecContext(ctx, `UPDATE pieces SET revision = :revision, content = :content, changed = :changed WHERE id = :id`, p); err != nil {
		return p, err
	}
	_, err = tx.NamedExecContext(ctx, `INSERT INTO operations (id, piece, revision, author, title, changes, state, created, stroke)
		VALUES (:id, :piece, :revision, :author, :title, :changes, :state, :created, :stroke)`, o)
	return p, err
}
