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
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"time"

	"github.com/google/uuid"
	"github.com/jmoiron/sqlx"
	_ "github.com/mattn/go-sqlite3" // the database driver
	"github.com/pressly/goose/v3"

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
	db  *sqlx.DB
	dir string
	media
}

// Open opens or makes the store in a folder and brings it up to date.
func Open(dir string) (*Store, error) {
	for _, sub := range []string{"media", "proxies", "renders", "trials", "tmp", "uploads"} {
		if err := os.MkdirAll(filepath.Join(dir, sub), 0o755); err != nil {
			return nil, err
		}
	}
	db, err := sqlx.Open("sqlite3", "file:"+filepath.Join(dir, "ivypocket.db")+
		"?_journal_mode=WAL&_busy_timeout=10000&_foreign_keys=on&_txlock=immediate&_synchronous=NORMAL")
	if err != nil {
		return nil, err
	}
	sub, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return nil, err
	}
	p, err := goose.NewProvider(goose.DialectSQLite3, db.DB, sub)
	if err == nil {
		_, err = p.Up(context.Background())
	}
	if err != nil {
		db.Close()
		return nil, fmt.Errorf("database in %s: %w", dir, err)
	}
	s := &Store{db: db, dir: dir}
	if err := s.media.open(db, dir); err != nil {
		db.Close()
		return nil, err
	}
	return s, nil
}

// Tidy removes what a program that was stopped left half written. Only the
// server does so, before it begins: another program may be at work beside it.
func (s *Store) Tidy() error {
	for sub, all := range map[string]bool{"tmp": true, "renders": false, "proxies": false} {
		if err := clearFolder(filepath.Join(s.dir, sub), all); err != nil {
			return err
		}
	}
	return nil
}

// Close closes the database.
func (s *Store) Close() error { return s.db.Close() }

// Dir is the folder everything is kept in.
func (s *Store) Dir() string { return s.dir }

// clearFolder removes what is in a folder: everything, or the hidden files
// that are being written until they get their names.
func clearFolder(dir string, all bool) error {
	entries, err := os.ReadDir(dir)
	if err != nil {
		return err
	}
	for _, e := range entries {
		if !all && !strings.HasPrefix(e.Name(), ".") {
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
	Number   int // of the newest release
}

// Templates lists the shelf by category and name.
func (s *Store) Templates(ctx context.Context) ([]Shelved, error) {
	var out []Shelved
	err := s.db.SelectContext(ctx, &out, `SELECT t.id, t.name, t.category, t.family, MAX(r.number) AS number
		FROM templates t JOIN releases r ON r.template = t.id GROUP BY t.id ORDER BY t.category, t.name`)
	return out, err
}

// Release adds a frozen release of a template, unless the newest one is the
// same to the byte, and returns its number.
func (s *Store) Release(ctx context.Context, d *template.Document) (int, error) {
	doc, err := json.Marshal(d)
	if err != nil {
		return 0, err
	}
	number := 0
	err = s.tx(ctx, func(tx *sqlx.Tx) error {
		if _, err := tx.ExecContext(ctx, `INSERT INTO templates VALUES (?, ?, ?, ?)
			ON CONFLICT(id) DO UPDATE SET name = excluded.name, category = excluded.category, family = excluded.family`,
			d.ID, d.Name, d.Category, d.Family); err != nil {
			return err
		}
		var last struct {
			Number   int
			Document string
		}
		err := tx.GetContext(ctx, &last, `SELECT number, document FROM releases WHERE template = ? ORDER BY number DESC LIMIT 1`, d.ID)
		if err == nil && last.Document == string(doc) {
			number = last.Number
			return nil
		}
		if err != nil && !errors.Is(err, sql.ErrNoRows) {
			return err
		}
		number = last.Number + 1
		_, err = tx.ExecContext(ctx, `INSERT INTO releases VALUES (?, ?, ?, ?)`, d.ID, number, string(doc), now())
		return err
	})
	return number, err
}

// Document reads a release.
func (s *Store) Document(ctx context.Context, id string, number int) (*template.Document, error) {
	var doc string
	if err := s.db.GetContext(ctx, &doc, `SELECT document FROM releases WHERE template = ? AND number = ?`, id, number); err != nil {
		return nil, notFound(err)
	}
	return template.Parse([]byte(doc))
}

func notFound(err error) error {
	if errors.Is(err, sql.ErrNoRows) {
		return ErrNotFound
	}
	return err
}

// Piece is a piece as kept.
type Piece struct {
	ID       string
	Template string
	Number   int
	Revision int64
	Content  string
	Created  string
	Changed  string
}

// Parsed returns the piece's name and values.
func (p Piece) Parsed() (edit.Piece, error) {
	var e edit.Piece
	err := json.Unmarshal([]byte(p.Content), &e)
	e.Values = e.Values.Clone()
	return e, err
}

// NewPiece makes a piece of a release.
func (s *Store) NewPiece(ctx context.Context, template string, number int, name string) (Piece, error) {
	content, err := json.Marshal(edit.Piece{Name: name, Values: sheet.Values{}})
	if err != nil {
		return Piece{}, err
	}
	p := Piece{ID: uuid.NewString(), Template: template, Number: number, Content: string(content), Created: now()}
	p.Changed = p.Created
	_, err = s.db.NamedExecContext(ctx, `INSERT INTO pieces VALUES (:id, :template, :number, :revision, :content, :created, :changed)`, p)
	return p, err
}

// Piece reads a piece.
func (s *Store) Piece(ctx context.Context, id string) (Piece, error) {
	var p Piece
	err := s.db.GetContext(ctx, &p, `SELECT * FROM pieces WHERE id = ?`, id)
	return p, notFound(err)
}

// Pieces lists all pieces, the last changed first.
func (s *Store) Pieces(ctx context.Context) ([]Piece, error) {
	var out []Piece
	err := s.db.SelectContext(ctx, &out, `SELECT * FROM pieces ORDER BY changed DESC`)
	return out, err
}

// DeletePiece removes a piece with its operations and trials.
func (s *Store) DeletePiece(ctx context.Context, id string) error {
	res, err := s.db.ExecContext(ctx, `DELETE FROM pieces WHERE id = ?`, id)
	if err != nil {
		return err
	}
	if n, err := res.RowsAffected(); err != nil || n == 0 {
		return errors.Join(err, ErrNotFound)
	}
	return nil
}

func (s *Store) tx(ctx context.Context, f func(*sqlx.Tx) error) error {
	tx, err := s.db.BeginTxx(ctx, nil)
	if err != nil {
		return err
	}
	if err := f(tx); err != nil {
		return errors.Join(err, tx.Rollback())
	}
	return tx.Commit()
}
