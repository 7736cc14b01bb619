// Package store is the room where things are kept: templates, releases,
// pieces with their operations, renders and trials in SQLite, and media as
// files named by their SHA-256.
package store

import (
	"context"
	"database/sql"
	"embed"
	"encoding/json"
	"errors"
	"os"
	"path/filepath"
	"strings"
	"time"

	"github.com/google/uuid"
	lru "github.com/hashicorp/golang-lru/v2"
	"github.com/jmoiron/sqlx"
	_ "github.com/mattn/go-sqlite3" // the database driver

	"ivypocket/core/edit"
	"ivypocket/core/sheet"
	"ivypocket/core/template"
)

//go:embed migrations/*.sql
var migrations embed.FS

// ErrNotFound says that there is nothing of that name.
var ErrNotFound = errors.New("not found")

// Store keeps everything below one folder.
type Store struct {
	db       *db
	dir      string
	scratch  *scratch
	drafts   *lru.Cache[string, edit.Draft]         // as they are read, by id and revision
	releases *lru.Cache[string, *template.Document] // as they are read, by template and number
	knownMedia
	troubles
}

// Open opens or makes the store in a folder and brings it up to date. A
// database that is damaged is a *DamagedError.
func Open(dir string) (s *Store, err error) {
	for _, sub := range []string{"media", "proxies", "renders", "trials", "tmp", "uploads", "snapshots"} {
		if err := os.MkdirAll(filepath.Join(dir, sub), 0o755); err != nil {
			return nil, unwritable(dir, err)
		}
	}
	s = &Store{dir: dir}
	s.releases, _ = lru.New[string, *template.Document](keptReleases)
	s.drafts, _ = lru.New[string, edit.Draft](keptDrafts)
	if s.scratch, err = newScratch(dir); err != nil {
		return nil, unwritable(dir, err)
	}
	if s.db, err = openDB(dir); err != nil {
		return nil, errors.Join(err, s.scratch.close())
	}
	if err := s.openMedia(); err != nil {
		return nil, errors.Join(err, s.Close())
	}
	return s, nil
}

// Tidy removes what a program that was stopped left half written, and makes
// ready for a full disk. Only the server does so, before it begins: other
// programs may be at work beside it, and what is theirs stays.
func (s *Store) Tidy() error {
	if err := tidyScratch(s.dir); err != nil {
		return err
	}
	for _, sub := range []string{"renders", "proxies"} {
		if err := clearHidden(filepath.Join(s.dir, sub)); err != nil {
			return err
		}
	}
	return s.keepSpare()
}

// Close closes the database and removes what was not finished.
func (s *Store) Close() error { return errors.Join(s.db.Close(), s.scratch.close()) }

// Dir is the folder everything is kept in.
func (s *Store) Dir() string { return s.dir }

// clearHidden removes the hidden files of a folder: those that were being
// written and would have got their names when they were whole.
func clearHidden(dir string) error {
	entries, err := os.ReadDir(dir)
	if err != nil {
		return err
	}
	for _, e := range entries {
		if !strings.HasPrefix(e.Name(), ".") {
			continue
		}
		if err := os.RemoveAll(filepath.Join(dir, e.Name())); err != nil {
			return err
		}
	}
	return nil
}

func now() string { return time.Now().UTC().Format(time.RFC3339Nano) }

// Shelved is a template on the shelf.
type Shelved struct {
	ID       string
	Name     string
	Category string
	Family   string
	Number   int    // of the newest release
	Deleted  string // when it was put in the bin; "" is not
}

// Templates lists all templates by category and name, those in the bin too: pieces of
// them are still there.
func (s *Store) Templates(ctx context.Context) ([]Shelved, error) {
	var out []Shelved
	err := s.db.SelectContext(ctx, &out, `SELECT t.id, t.name, t.category, t.family, t.deleted, MAX(r.number) AS number
		FROM templates t JOIN releases r ON r.template = t.id GROUP BY t.id ORDER BY t.category, t.name`)
	return out, err
}

// Shelve says what a template is called on the shelf and what it is filed under. Its
// releases stay as they are.
func (s *Store) Shelve(ctx context.Context, t Shelved) error {
	return s.db.tx(ctx, func(tx *sqlx.Tx) error {
		res, err := tx.ExecContext(ctx, `UPDATE templates SET name = ?, category = ?, family = ? WHERE id = ? AND deleted = ''`, t.Name, t.Category, t.Family, t.ID)
		if err != nil {
			return err
		}
		if n, err := res.RowsAffected(); err != nil || n == 0 {
			return errors.Join(err, ErrNotFound)
		}
		return nil
	})
}

// Kinds of documents.
const (
	PieceKind = "piece"
	DraftKind = "draft"
)

// Document is a piece or a draft as kept.
type Document struct {
	ID       string
	Kind     string
	Name     string
	Template string // the release it fills, or began from; "" is none
	Number   int
	Revision int64
	Content  string
	Created  string
	Changed  string
	Deleted  string // when it was deleted; "" is not
	// When a piece was last rendered, "" is never, and at which revision.
	Rendered         string
	RenderedRevision int64 `db:"rendered_revision"`
}

// Piece is a document that is a piece.
type Piece = Document

// Tryout reports whether a piece is one of a draft as it stands, which an editor would fill:
// its template is the draft, by its id, and it is of no release. It is in no list.
func (p Document) Tryout() bool { return p.Kind == PieceKind && p.Number == 0 }

// Parsed returns a piece's name and values.
func (p Document) Parsed() (edit.Piece, error) {
	var e edit.Piece
	err := json.Unmarshal([]byte(p.Content), &e)
	e.Values, e.Release = e.Values.Clone(), p.Number
	return e, err
}

// Draft returns a draft's document.
func (p Document) Draft() (edit.Draft, error) { return edit.NewDraft([]byte(p.Content)) }

// NewPiece makes a piece of a release.
func (s *Store) NewPiece(ctx context.Context, template string, number int, name string) (Piece, error) {
	content, err := json.Marshal(edit.Piece{Name: name, Values: sheet.Values{}})
	if err != nil {
		return Piece{}, err
	}
	return s.newDocument(ctx, Document{Kind: PieceKind, Name: name, Template: template, Number: number, Content: string(content)})
}

// NewDraft keeps a template that is to be built, which begins from a release, or
// from nothing when number is 0.
func (s *Store) NewDraft(ctx context.Context, d edit.Draft, template string, number int) (Document, error) {
	content, err := json.Marshal(d)
	if err != nil {
		return Document{}, err
	}
	return s.newDocument(ctx, Document{Kind: DraftKind, Name: d.Doc.Name, Template: template, Number: number, Content: string(content)})
}

func (s *Store) newDocument(ctx context.Context, d Document) (Document, error) {
	d.ID, d.Created = uuid.NewString(), now()
	d.Changed = d.Created
	return d, s.db.named(ctx, `INSERT INTO documents (id, kind, name, template, number, revision, content, created, changed)
		VALUES (:id, :kind, :name, :template, :number, :revision, :content, :created, :changed)`, d)
}

// Tryout is the try-out of a draft, which is made when it is first asked for.
func (s *Store) Tryout(ctx context.Context, draft string) (Piece, error) {
	row, err := s.DraftOf(ctx, draft)
	if err != nil {
		return Piece{}, err
	}
	var p Piece
	err = s.db.GetContext(ctx, &p, `SELECT * FROM documents WHERE kind = ? AND number = 0 AND template = ? AND deleted = ''`, PieceKind, draft)
	if !errors.Is(err, sql.ErrNoRows) {
		return p, err
	}
	content, err := json.Marshal(edit.Piece{Name: row.Name, Values: sheet.Values{}})
	if err != nil {
		return Piece{}, err
	}
	return s.newDocument(ctx, Document{Kind: PieceKind, Name: row.Name, Template: draft, Content: string(content)})
}

// Template is the document that a piece is made of: a release, or for a try-out the draft
// as it stands.
func (s *Store) Template(ctx context.Context, p Piece) (*template.Document, error) {
	if !p.Tryout() {
		return s.Document(ctx, p.Template, p.Number)
	}
	row, err := s.DraftOf(ctx, p.Template)
	if err != nil {
		return nil, err
	}
	d, err := s.Read(row)
	return d.Doc, err
}

// Piece reads a piece, or a try-out.
func (s *Store) Piece(ctx context.Context, id string) (Piece, error) {
	return s.document(ctx, PieceKind, id)
}

// DraftOf reads a draft.
func (s *Store) DraftOf(ctx context.Context, id string) (Document, error) {
	return s.document(ctx, DraftKind, id)
}

// AnyDraft reads a draft, deleted or not.
func (s *Store) AnyDraft(ctx context.Context, id string) (d Document, err error) {
	return d, notFound(s.db.GetContext(ctx, &d, `SELECT * FROM documents WHERE kind = ? AND id = ?`, DraftKind, id))
}

func (s *Store) document(ctx context.Context, kind, id string) (d Document, err error) {
	return readDocument(ctx, s.db, kind, id)
}

// Pieces lists all pieces, the last changed first, without their content.
func (s *Store) Pieces(ctx context.Context) ([]Piece, error) {
	return s.documents(ctx, PieceKind, false)
}

// DeletedPieces lists the pieces that can be brought back, the last deleted first.
func (s *Store) DeletedPieces(ctx context.Context) ([]Piece, error) {
	return s.documents(ctx, PieceKind, true)
}

// Drafts lists all drafts, as Pieces does.
func (s *Store) Drafts(ctx context.Context) ([]Document, error) {
	return s.documents(ctx, DraftKind, false)
}

// DeletedDrafts lists the drafts that can be brought back, as DeletedPieces does.
func (s *Store) DeletedDrafts(ctx context.Context) ([]Document, error) {
	return s.documents(ctx, DraftKind, true)
}

func (s *Store) documents(ctx context.Context, kind string, deleted bool) (out []Document, err error) {
	err = s.db.SelectContext(ctx, &out, `SELECT id, kind, name, template, number, revision, created, changed, deleted, rendered, rendered_revision
		FROM documents WHERE kind = ? AND (kind <> ? OR number > 0) AND (deleted <> '') = ? ORDER BY deleted DESC, changed DESC`, kind, PieceKind, deleted)
	return
}
