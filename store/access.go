package store

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"
	"github.com/jmoiron/sqlx"

	"ivypocket/access"
)

// Code is an access code without its letters, which nobody knows but who has it.
type Code struct {
	ID        string
	Name      string
	Role      access.Role
	Hash      string
	Created   string
	Used      string // when somebody last got in by it; '' is never
	Withdrawn string // '' is that it is good
}

// Person is who a code is for.
func (c Code) Person() access.Person { return access.Person{ID: c.ID, Name: c.Name, Role: c.Role} }

// NewCode makes a code for somebody and returns its letters, which are told this once.
func (s *Store) NewCode(ctx context.Context, name string, role access.Role) (Code, string, error) {
	name, err := access.CleanName(name)
	if err != nil {
		return Code{}, "", err
	}
	if _, err := access.ParseRole(string(role)); err != nil {
		return Code{}, "", err
	}
	letters := access.NewCode()
	hash, _ := access.Hash(letters)
	c := Code{ID: uuid.NewString(), Name: name, Role: role, Hash: hash, Created: now()}
	return c, letters, s.db.named(ctx,
		`INSERT INTO codes (id, name, role, hash, created) VALUES (:id, :name, :role, :hash, :created)`, c)
}

// Codes lists all codes, those that are good first, the newest first.
func (s *Store) Codes(ctx context.Context) ([]Code, error) {
	out := []Code{}
	return out, s.db.SelectContext(ctx, &out, `SELECT * FROM codes ORDER BY withdrawn <> '', created DESC`)
}

// CodeOf reads a code that is good; it is ErrNotFound for one that was withdrawn.
func (s *Store) CodeOf(ctx context.Context, id string) (Code, error) {
	var c Code
	return c, notFound(s.db.GetContext(ctx, &c, `SELECT * FROM codes WHERE id = ? AND withdrawn = ''`, id))
}

// Shown finds the good code of somebody who shows its letters, and notes that it was
// used; it is ErrNotFound for anything else.
func (s *Store) Shown(ctx context.Context, letters string) (Code, error) {
	hash, ok := access.Hash(letters)
	if !ok {
		return Code{}, ErrNotFound
	}
	var good []Code
	if err := s.db.SelectContext(ctx, &good, `SELECT * FROM codes WHERE withdrawn = ''`); err != nil {
		return Code{}, err
	}
	hashes := make([]string, len(good))
	for i, c := range good {
		hashes[i] = c.Hash
	}
	at := access.Match(hash, hashes)
	if at < 0 {
		return Code{}, ErrNotFound
	}
	_, err := s.db.exec(ctx, `UPDATE codes SET used = ? WHERE id = ?`, now(), good[at].ID)
	return good[at], err
}

// NameCode says who a code is for.
func (s *Store) NameCode(ctx context.Context, id, name string) error {
	name, err := access.CleanName(name)
	if err != nil {
		return err
	}
	done, err := s.turn(ctx, `UPDATE codes SET name = ? WHERE id = ?`, name, id)
	if err == nil && !done {
		err = ErrNotFound
	}
	return err
}

// ErrLastDesigner is that a code can't go because nobody could make another.
var ErrLastDesigner = errors.New("this is the last designer's code; make another before it goes, or nobody gets in any more")

// Withdraw makes a code good for nothing, at once and for ever. keep refuses to withdraw
// the last designer's.
func (s *Store) Withdraw(ctx context.Context, id string, keep bool) error {
	return s.db.tx(ctx, func(tx *sqlx.Tx) error {
		var c Code
		if err := tx.GetContext(ctx, &c, `SELECT * FROM codes WHERE id = ? AND withdrawn = ''`, id); err != nil {
			return notFound(err)
		}
		var others int
		if err := tx.GetContext(ctx, &others, `SELECT COUNT(*) FROM codes WHERE role = ? AND withdrawn = '' AND id <> ?`, access.Designer, id); err != nil {
			return err
		}
		if keep && c.Role == access.Designer && others == 0 {
			return ErrLastDesigner
		}
		_, err := tx.ExecContext(ctx, `UPDATE codes SET withdrawn = ? WHERE id = ?`, now(), id)
		return err
	})
}

// Sessions keeps who is in, as scs asks for it. What it keeps things by are hashes.
type Sessions struct{ db *db }

// Sessions of this store.
func (s *Store) Sessions() Sessions { return Sessions{s.db} }

func (k Sessions) DeleteCtx(ctx context.Context, token string) error {
	_, err := k.db.exec(ctx, `DELETE FROM sessions WHERE token = ?`, token)
	return err
}

func (k Sessions) FindCtx(ctx context.Context, token string) (b []byte, found bool, err error) {
	err = notFound(k.db.GetContext(ctx, &b, `SELECT data FROM sessions WHERE token = ? AND ends > ?`, token, time.Now().Unix()))
	if errors.Is(err, ErrNotFound) {
		return nil, false, nil
	}
	return b, err == nil, err
}

func (k Sessions) CommitCtx(ctx context.Context, token string, b []byte, ends time.Time) error {
	_, err := k.db.exec(ctx, `INSERT INTO sessions (token, data, ends) VALUES (?, ?, ?) ON CONFLICT (token) DO UPDATE SET data = excluded.data, ends = excluded.ends`, token, b, ends.Unix())
	return err
}

func (k Sessions) Delete(token string) error { return k.DeleteCtx(context.Background(), token) }
func (k Sessions) Find(token string) ([]byte, bool, error) {
	return k.FindCtx(context.Background(), token)
}
func (k Sessions) Commit(token string, b []byte, ends time.Time) error {
	return k.CommitCtx(context.Background(), token, b, ends)
}

// Deed is that somebody did something.
type Deed struct {
	Number  int64
	At      string
	Code    string // '' is somebody at this machine
	Name    string
	Role    access.Role
	Act     string // an operation of the API
	Subject string // what it was done to, by its id
	Said    string // both, for people
}

// Record writes down that somebody did something, now.
func (s *Store) Record(ctx context.Context, d Deed) error {
	d.At = now()
	return s.db.named(ctx, `INSERT INTO audit (at, code, name, role, act, subject, said) VALUES (:at, :code, :name, :role, :act, :subject, :said)`, d)
}

// Deeds lists what was done before a number, the last first; 0 is all. Only what was done
// by a code, and what has a text in it, if these are given.
func (s *Store) Deeds(ctx context.Context, below int64, code, text string, most int) ([]Deed, error) {
	out := []Deed{}
	return out, s.db.SelectContext(ctx, &out, `SELECT * FROM audit WHERE (? = 0 OR number < ?) AND (? = '' OR code = ?)
		AND (? = '' OR instr(lower(said), lower(?)) > 0 OR instr(lower(name), lower(?)) > 0) ORDER BY number DESC LIMIT ?`, below, below, code, code, text, text, text, most)
}

// deedsKept is how long it is known who did what.
const deedsKept = 366 * 24 * time.Hour

// TidyAccess removes what nobody asks for any more: sessions that ended, and deeds of
// long ago.
func (s *Store) TidyAccess(ctx context.Context, at time.Time) error {
	_, err := s.db.exec(ctx, `DELETE FROM sessions WHERE ends <= ?`, at.Unix())
	if err == nil {
		_, err = s.db.exec(ctx, `DELETE FROM audit WHERE at < ?`, at.Add(-deedsKept).UTC().Format(time.RFC3339Nano))
	}
	if err != nil {
		return fmt.Errorf("who is in and who did what: %w", err)
	}
	return nil
}
