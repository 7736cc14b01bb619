package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"io/fs"
	"net/url"
	"os"
	"path/filepath"
	"syscall"
	"time"

	"github.com/jmoiron/sqlx"
	"github.com/mattn/go-sqlite3"
	"github.com/pressly/goose/v3"
)

// db is the database: many connections that read, and one that writes. SQLite
// takes one writer at a time; those of this program stand in line for it here,
// where the first to come is the first to go, and wait for another program by
// the busy timeout alone.
type db struct {
	*sqlx.DB // reads, and can do nothing else
	w        *sqlx.DB
	dsn      string
}

// readers is how many connections that read are kept for who comes next.
const readers = 8

const databaseFile = "ivypocket.db"

// dsn names a database to the driver. Synchronous is full: what was committed
// is on the disk, also when the power goes in the next moment.
func dsn(path, more string) string {
	u := url.URL{Scheme: "file", OmitHost: true, Path: path}
	return u.String() + "?_journal_mode=WAL&_busy_timeout=10000&_foreign_keys=on&_txlock=immediate&_synchronous=FULL" + more
}

// openDB opens the database in a folder and brings it up to date.
func openDB(dir string) (*db, error) {
	path := filepath.Join(dir, databaseFile)
	w, err := sqlx.Open("sqlite3", dsn(path, ""))
	if err != nil {
		return nil, err
	}
	w.SetMaxOpenConns(1)
	sub, err := fs.Sub(migrations, "migrations")
	if err == nil {
		var p *goose.Provider
		if p, err = goose.NewProvider(goose.DialectSQLite3, w.DB, sub, goose.WithGoMigrations(toPaths, toMembers, toOffered)); err == nil {
			if err = beforeUpgrade(dir, w, p); err == nil {
				_, err = p.Up(context.Background())
			}
		}
	}
	var r *sqlx.DB
	if err == nil {
		r, err = sqlx.Open("sqlite3", dsn(path, "&_query_only=on"))
	}
	if err != nil {
		w.Close()
		if damaged(err) {
			return nil, &DamagedError{dir, err.Error()}
		}
		return nil, fmt.Errorf("database in %s: %w", dir, told(err))
	}
	r.SetMaxIdleConns(readers)
	return &db{r, w, dsn(path, "")}, nil
}

// beforeUpgrade takes a snapshot of a database that is about to be brought up to date, so that an older program can have it back.
func beforeUpgrade(dir string, w *sqlx.DB, p *goose.Provider) error {
	ctx := context.Background()
	from, err := p.GetDBVersion(ctx)
	if err != nil || from == 0 { // it is new
		return err
	}
	if due, err := p.HasPending(ctx); err != nil || !due {
		return err
	}
	at := time.Now()
	for { // two within a second would have one name
		path := filepath.Join(dir, "snapshots", at.UTC().Format(snapshotForm))
		if _, err := os.Stat(path); errors.Is(err, fs.ErrNotExist) {
			_, err = w.ExecContext(ctx, `VACUUM INTO ?`, path)
			return err
		}
		at = at.Add(time.Second)
	}
}

// copyTo copies the database into a new file. It reads by a connection of its own,
// so that who writes does not wait for it.
func (d *db) copyTo(ctx context.Context, path string) error {
	r, err := sqlx.Open("sqlite3", d.dsn)
	if err != nil {
		return err
	}
	defer r.Close()
	_, err = r.ExecContext(ctx, `VACUUM INTO ?`, path)
	return told(err)
}

func (d *db) Close() error { return errors.Join(d.DB.Close(), d.w.Close()) }

// exec carries out a statement that writes.
func (d *db) exec(ctx context.Context, query string, args ...any) (sql.Result, error) {
	r, err := d.w.ExecContext(ctx, query, args...)
	return r, told(err)
}

// named is exec with a struct's members for arguments.
func (d *db) named(ctx context.Context, query string, arg any) error {
	_, err := d.w.NamedExecContext(ctx, query, arg)
	return told(err)
}

// tx carries out f as one transaction that writes.
func (d *db) tx(ctx context.Context, f func(*sqlx.Tx) error) error {
	tx, err := d.w.BeginTxx(ctx, nil)
	if err != nil {
		return told(err)
	}
	if err := f(tx); err != nil {
		if rerr := tx.Rollback(); rerr != nil && !errors.Is(rerr, sql.ErrTxDone) {
			err = errors.Join(err, rerr)
		}
		return told(err)
	}
	return told(tx.Commit())
}

// told says in our own words that the disk is full.
func told(err error) error {
	var e sqlite3.Error
	if errors.As(err, &e) && (e.Code == sqlite3.ErrFull || e.SystemErrno == syscall.ENOSPC) {
		return ErrDiskFull
	}
	return full(err)
}

// full is told for what the system says.
func full(err error) error {
	if errors.Is(err, syscall.ENOSPC) || errors.Is(err, syscall.EDQUOT) {
		return ErrDiskFull
	}
	return err
}

// damaged reports whether SQLite found a file that is not as it should be.
func damaged(err error) bool {
	var e sqlite3.Error
	return errors.As(err, &e) && (e.Code == sqlite3.ErrCorrupt || e.Code == sqlite3.ErrNotADB)
}

func notFound(err error) error {
	if errors.Is(err, sql.ErrNoRows) {
		return ErrNotFound
	}
	return err
}
