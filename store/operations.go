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
	// Window of the author's; what it changed itself is never in its way. "" is
	// none in particular.
	Window string
	Base   int64 // the revision the client had seen
	Op     edit.Op
	// Stroke names the operations on several pieces that are undone as one.
	Stroke string
}

// Outcome is what an operation, an undo or a redo led to.
type Outcome struct {
	Piece Document
	Title string
	// Joined is what others changed of the same things meanwhile, and stays.
	Joined []Joined
	// Changes is empty when nothing changed: the operation had been sent
	// before, or asked for what was so already.
	Changes []edit.Change
}

// Joined is a change of the same thing that came between, by its title. Mine says
// that the same person made it, in another window.
type Joined struct {
	Title string
	Mine  bool
}

// NothingError says that there is nothing to undo or redo.
type NothingError struct{ Verb string }

func (e *NothingError) Error() string { return "there is nothing to " + e.Verb }

// StaleError says that a client speaks of a state of things that is not there.
type StaleError struct{ What string }

func (e *StaleError) Error() string { return e.What }

// subject is a kind of documents as the log knows it: what an operation makes of
// one, and what recorded changes do.
type subject interface {
	do(ctx context.Context, d Document) (next kept, changes []edit.Change, title string, err error)
	replay(ctx context.Context, d Document, changes []edit.Change) (kept, error)
}

// kept is a content and the name that lists show for it; a draft's also as it is read.
type kept struct {
	content, name string
	number        int // the release that a piece is of
	draft         edit.Draft
}

// pieceSubject is a piece of a release, and an operation on it, or the release that it is
// moved to.
type pieceSubject struct {
	s     *Store
	op    edit.Op
	to    int // 0 is not moved
	takes edit.Takes
}

// releases are those of a piece's template; a try-out knows its draft alone.
func (p pieceSubject) releases(ctx context.Context, d Document) edit.Releases {
	return func(n int) (*template.Document, error) {
		d.Number = n
		return p.s.Template(ctx, d)
	}
}

func (p pieceSubject) do(ctx context.Context, d Document) (next kept, changes []edit.Change, title string, err error) {
	e, err := d.Parsed()
	if err != nil {
		return next, nil, "", err
	}
	var after edit.Piece
	if p.to != 0 {
		title = fmt.Sprintf("Move to release %d", p.to)
		after, changes, _, err = edit.Move(p.releases(ctx, d), e, p.to, p.takes)
	} else {
		var doc *template.Document
		if doc, err = p.releases(ctx, d)(e.Release); err != nil {
			return next, nil, "", err
		}
		if d.Tryout() {
			e = edit.Fit(doc, e)
		}
		title = edit.Title(doc, p.op)
		after, changes, err = edit.Apply(doc, e, p.op)
	}
	if err == nil {
		next, err = pieceOf(after)
	}
	return next, changes, title, err
}

func (p pieceSubject) replay(ctx context.Context, d Document, changes []edit.Change) (kept, error) {
	e, err := d.Parsed()
	if err == nil && d.Tryout() {
		var doc *template.Document
		if doc, err = p.s.Template(ctx, d); err == nil {
			e = edit.Fit(doc, e)
		}
	}
	if err == nil {
		e, err = edit.Replay(p.releases(ctx, d), e, changes)
	}
	if err != nil {
		return kept{}, err
	}
	return pieceOf(e)
}

func pieceOf(e edit.Piece) (kept, error) {
	b, err := json.Marshal(e)
	return kept{content: string(b), name: e.Name, number: e.Release}, err
}

// Planned tells what operation is to be carried out on a draft as it stands.
type Planned func(edit.Draft) (edit.DraftOp, error)

// draftSubject is a draft, and an operation on it.
type draftSubject struct {
	s    *Store
	plan Planned
}

func (d draftSubject) do(_ context.Context, of Document) (next kept, changes []edit.Change, title string, err error) {
	draft, err := d.s.draft(of)
	if err != nil {
		return next, nil, "", err
	}
	op, err := d.plan(draft)
	if err != nil || op.Kind == "" {
		return next, nil, "", err
	}
	title = edit.DraftTitle(draft.Doc, op)
	after, changes, err := draft.Do(op)
	if err == nil {
		next, err = draftOf(after)
	}
	return next, changes, title, err
}

func (d draftSubject) replay(_ context.Context, of Document, changes []edit.Change) (kept, error) {
	draft, err := d.s.draft(of)
	if err == nil {
		draft, err = draft.Replay(changes)
	}
	if err != nil {
		return kept{}, err
	}
	return draftOf(draft)
}

func draftOf(d edit.Draft) (kept, error) {
	b, err := json.Marshal(d)
	return kept{content: string(b), name: d.Doc.Name, draft: d}, err
}

// keptDrafts is how many drafts are kept as they are read, so that an operation does
// not read the whole of one again.
const keptDrafts = 32

func draftKey(d Document) string { return fmt.Sprintf("%s@%d", d.ID, d.Revision) }

// draft is a draft as it is read, which is kept.
func (s *Store) draft(d Document) (edit.Draft, error) {
	if known, ok := s.drafts.Get(draftKey(d)); ok {
		return known, nil
	}
	read, err := d.Draft()
	if err == nil {
		s.drafts.Add(draftKey(d), read)
	}
	return read, err
}

// Read is a draft with its document, which nobody may change.
func (s *Store) Read(d Document) (edit.Draft, error) { return s.draft(d) }

// known reports whether an operation has been carried out on a document. That its
// id is one of another document's operations is a *StaleError.
func known(ctx context.Context, tx *sqlx.Tx, id, kind, document string) (bool, error) {
	var of string
	err := tx.GetContext(ctx, &of, `SELECT document FROM operations WHERE id = ?`, id)
	switch {
	case errors.Is(err, sql.ErrNoRows):
		return false, nil
	case err == nil && of != document:
		return false, &StaleError{fmt.Sprintf("id: %s is that of an operation on another %s; every operation needs an id of its own", id, kind)}
	}
	return err == nil, err
}

type operation struct {
	ID       string
	Document string
	Revision int64
	Author   string
	Title    string
	Changes  string
	State    string
	Created  string
	Stroke   string
	Sender   string // the author's window
}

func (o operation) changes() (c []edit.Change, err error) {
	err = json.Unmarshal([]byte(o.Changes), &c)
	return
}

// Do carries out an operation on a piece, keeps it with the new snapshot in one
// transaction, and returns the piece as it then stands. Operations on other
// paths that came since its base are no obstacle; one on the same path, or on a
// part or the whole of what it names, is a *edit.ConflictError.
func (s *Store) Do(ctx context.Context, piece string, in Sent) (Outcome, error) {
	return s.do(ctx, PieceKind, piece, in, pieceSubject{s: s, op: in.Op})
}

// Move is Do by which a piece goes to another release of its template; takes says which
// media a pocket takes.
func (s *Store) Move(ctx context.Context, piece string, in Sent, to int, takes edit.Takes) (Outcome, error) {
	return s.do(ctx, PieceKind, piece, in, pieceSubject{s: s, to: to, takes: takes})
}

// DoDraft is Do for drafts.
func (s *Store) DoDraft(ctx context.Context, draft string, in Sent, plan Planned) (Outcome, error) {
	return s.do(ctx, DraftKind, draft, in, draftSubject{s, plan})
}

func (s *Store) do(ctx context.Context, kind, id string, in Sent, sub subject) (Outcome, error) {
	var out Outcome
	var made kept
	err := s.db.tx(ctx, func(tx *sqlx.Tx) error {
		p, err := readDocument(ctx, tx, kind, id)
		if err != nil {
			return err
		}
		out = Outcome{Piece: p}
		done, err := known(ctx, tx, in.ID, kind, id)
		if err != nil {
			return err
		}
		if !done && in.Base > p.Revision {
			return &StaleError{fmt.Sprintf("base: revision %d is newer than the %s's, which is %d; read it again", in.Base, kind, p.Revision)}
		}
		next, changes, title, err := sub.do(ctx, p)
		if out.Title = title; done {
			return nil
		}
		if err != nil || len(changes) == 0 {
			return err
		}
		var since []operation
		if err := tx.SelectContext(ctx, &since, `SELECT * FROM operations WHERE document = ? AND revision > ?`, id, in.Base); err != nil {
			return err
		}
		for _, o := range since {
			theirs, err := o.changes()
			if err != nil {
				return err
			}
			if in.Window != "" && o.Sender == in.Window {
				continue
			}
			if path := edit.Overlap(changes, theirs); path != "" {
				return &edit.ConflictError{Path: path, Other: o.Title, Mine: o.Author == in.Author}
			}
			if edit.Same(changes, theirs) {
				out.Joined = append(out.Joined, Joined{o.Title, o.Author == in.Author})
			}
		}
		if _, err := tx.ExecContext(ctx, `UPDATE operations SET state = 'gone' WHERE document = ? AND author = ? AND state = 'undone'`, id, in.Author); err != nil {
			return err
		}
		out.Changes, made = changes, next
		out.Piece, err = keep(ctx, tx, p, next, operation{ID: in.ID, Author: in.Author, Title: title, State: "done", Stroke: in.Stroke, Sender: in.Window}, changes)
		return err
	})
	s.keepRead(out, made, err)
	return out, err
}

// keepRead keeps what a draft became, once that is on the disk.
func (s *Store) keepRead(out Outcome, made kept, err error) {
	if err == nil && made.draft.Doc != nil && len(out.Changes) > 0 {
		s.drafts.Add(draftKey(out.Piece), made.draft)
	}
}

// Queries of what an author's undo and redo are about.
const (
	lastDone   = `SELECT * FROM operations WHERE document = ? AND author = ? AND state = 'done' ORDER BY revision DESC LIMIT 1`
	lastUndone = `SELECT * FROM operations WHERE document = ? AND author = ? AND state = 'undone' ORDER BY revision ASC LIMIT 1`
)

// Undo takes back the author's last operation that stands; id makes the undo
// itself an operation that is carried out once.
func (s *Store) Undo(ctx context.Context, piece, author, id string) (Outcome, error) {
	return s.step(ctx, PieceKind, pieceSubject{s: s}, piece, author, author, id, "undo", lastDone, "undone")
}

// Redo carries out again what the author's last undo took back.
func (s *Store) Redo(ctx context.Context, piece, author, id string) (Outcome, error) {
	return s.step(ctx, PieceKind, pieceSubject{s: s}, piece, author, author, id, "redo", lastUndone, "done")
}

// UndoDraft is Undo for drafts.
func (s *Store) UndoDraft(ctx context.Context, draft, author, id string) (Outcome, error) {
	return s.step(ctx, DraftKind, draftSubject{s: s}, draft, author, author, id, "undo", lastDone, "undone")
}

// RedoDraft is Redo for drafts.
func (s *Store) RedoDraft(ctx context.Context, draft, author, id string) (Outcome, error) {
	return s.step(ctx, DraftKind, draftSubject{s: s}, draft, author, author, id, "redo", lastUndone, "done")
}

// step undoes or redoes the operation that query finds for a document and a key.
func (s *Store) step(ctx context.Context, kind string, sub subject, document, author, key, id, verb, query, becomes string) (Outcome, error) {
	var out Outcome
	var made kept
	err := s.db.tx(ctx, func(tx *sqlx.Tx) error {
		p, err := readDocument(ctx, tx, kind, document)
		if err != nil {
			return err
		}
		out.Piece = p
		if done, err := known(ctx, tx, id, kind, document); err != nil || done {
			return err
		}
		var o operation
		if err := tx.GetContext(ctx, &o, query, document, key); err != nil {
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
		next, err := sub.replay(ctx, p, changes)
		var conflict *edit.ConflictError
		if errors.As(err, &conflict) {
			return blame(ctx, tx, conflict, o, changes, verb, author)
		}
		if err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `UPDATE operations SET state = ? WHERE id = ?`, becomes, o.ID); err != nil {
			return err
		}
		out.Title, out.Changes, made = o.Title, changes, next
		out.Piece, err = keep(ctx, tx, p, next, operation{ID: id, Author: author, Title: verb + ": " + o.Title, State: "step"}, changes)
		return err
	})
	s.keepRead(out, made, err)
	return out, err
}

// blame says which change keeps one from being undone or redone: the last of
// those on the same paths that came after it.
func blame(ctx context.Context, tx *sqlx.Tx, e *edit.ConflictError, o operation, changes []edit.Change, verb, author string) error {
	e.Back, e.Verb = o.Title, map[string]string{"undo": "undone", "redo": "redone"}[verb]
	var later []operation
	if err := tx.SelectContext(ctx, &later, `SELECT * FROM operations WHERE document = ? AND revision > ? ORDER BY revision DESC`, o.Document, o.Revision); err != nil {
		return err
	}
	for _, l := range later {
		theirs, err := l.changes()
		if err != nil {
			return err
		}
		if edit.Overlap(changes, theirs) != "" {
			e.Other, e.Mine = l.Title, l.Author == author
			break
		}
	}
	return e
}

// Stroke is the part of an operation on several pieces that fell on one.
type Stroke struct{ Piece, Operation, Author string }

// Strokes lists the operations of a stroke that stand.
func (s *Store) Strokes(ctx context.Context, stroke string) ([]Stroke, error) {
	var out []Stroke
	err := s.db.SelectContext(ctx, &out, `SELECT document AS piece, id AS operation, author FROM operations WHERE stroke = ? AND state = 'done' ORDER BY document`, stroke)
	return out, err
}

// UndoOperation takes back one operation that stands, whatever came after it on
// other paths; a path that was changed since is a *edit.ConflictError.
func (s *Store) UndoOperation(ctx context.Context, st Stroke, id string) (Outcome, error) {
	return s.step(ctx, PieceKind, pieceSubject{s: s}, st.Piece, st.Author, st.Operation, id, "undo", `SELECT * FROM operations WHERE document = ? AND id = ? AND state = 'done'`, "undone")
}

// History is what an author could undo and redo, by title; "" is nothing.
type History struct{ Undo, Redo string }

// History returns what an author could undo and redo.
func (s *Store) History(ctx context.Context, document, author string) (h History, err error) {
	get := func(to *string, query string) {
		if e := s.db.GetContext(ctx, to, query, document, author); e != nil && !errors.Is(e, sql.ErrNoRows) {
			err = e
		}
	}
	get(&h.Undo, `SELECT title FROM operations WHERE document = ? AND author = ? AND state = 'done' ORDER BY revision DESC LIMIT 1`)
	get(&h.Redo, `SELECT title FROM operations WHERE document = ? AND author = ? AND state = 'undone' ORDER BY revision ASC LIMIT 1`)
	return
}

// readDocument reads a document; one that was deleted is ErrDeleted.
func readDocument(ctx context.Context, from sqlx.QueryerContext, kind, id string) (d Document, err error) {
	err = notFound(sqlx.GetContext(ctx, from, &d, `SELECT * FROM documents WHERE kind = ? AND id = ?`, kind, id))
	if err == nil && d.Deleted != "" {
		err = ErrDeleted
	}
	return d, err
}

// keep writes the snapshot and the operation that led to it.
func keep(ctx context.Context, tx *sqlx.Tx, d Document, next kept, o operation, changes []edit.Change) (Document, error) {
	list, err := json.Marshal(changes)
	if err != nil {
		return d, err
	}
	d.Revision++
	d.Content, d.Name, d.Changed = next.content, next.name, now()
	if d.Kind == PieceKind {
		d.Number = next.number
	}
	o.Document, o.Revision, o.Changes, o.Created = d.ID, d.Revision, string(list), d.Changed
	if _, err := tx.NamedExecContext(ctx, `UPDATE documents SET revision = :revision, number = :number, name = :name, content = :content, changed = :changed WHERE id = :id`, d); err != nil {
		return d, err
	}
	_, err = tx.NamedExecContext(ctx, `INSERT INTO operations (id, document, revision, author, title, changes, state, created, stroke, sender)
		VALUES (:id, :document, :revision, :author, :title, :changes, :state, :created, :stroke, :sender)`, o)
	return d, err
}
