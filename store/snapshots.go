package store

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"sort"
	"strings"
	"time"

	"github.com/jmoiron/sqlx"

	"ivypocket/media/disk"
)

// DamagedError says that the database can't be used as it is.
type DamagedError struct{ Dir, Why string }

func (e *DamagedError) Error() string {
	advice := "There is no snapshot to put in its place; keep a copy of the folder before anything else."
	if list, err := Snapshots(e.Dir); err == nil && len(list) > 0 {
		advice = fmt.Sprintf("The newest of %d snapshots is of %s; put it in its place with: ivypocket --data %s restore latest",
			len(list), list[0].At.Local().Format("2 Jan 2006 15:04"), e.Dir)
	}
	return fmt.Sprintf("the database in %s is damaged (%s). Nothing was changed. %s", e.Dir, e.Why, advice)
}

// Check looks through the whole database for damage and names it as a
// *DamagedError.
func (s *Store) Check(ctx context.Context) error {
	why, err := quickCheck(ctx, s.db.DB)
	if err == nil && why != "" {
		return &DamagedError{s.dir, why}
	}
	return err
}

func quickCheck(ctx context.Context, db *sqlx.DB) (why string, err error) {
	var lines []string
	if err := db.SelectContext(ctx, &lines, `PRAGMA quick_check(3)`); err != nil {
		if damaged(err) {
			return err.Error(), nil
		}
		return "", err
	}
	if len(lines) == 1 && lines[0] == "ok" {
		return "", nil
	}
	return strings.Join(lines, "; "), nil
}

// Snapshot is a copy of the database as it stood at an instant.
type Snapshot struct {
	Name  string
	At    time.Time
	Bytes int64
}

const (
	snapshotForm = "ivypocket-20060102T150405Z.db"
	// snapshotsKept is how many are kept, and snapshotEvery how old the newest may
	// become while something changes: together more than a day of work.
	snapshotsKept = 6
	snapshotEvery = 4 * time.Hour
)

// Snapshots lists the snapshots in a folder, the newest first.
func Snapshots(dir string) ([]Snapshot, error) {
	entries, err := os.ReadDir(filepath.Join(dir, "snapshots"))
	if err != nil && !errors.Is(err, os.ErrNotExist) {
		return nil, err
	}
	var out []Snapshot
	for _, e := range entries {
		at, err := time.Parse(snapshotForm, e.Name())
		if err != nil {
			continue
		}
		if st, err := e.Info(); err == nil {
			out = append(out, Snapshot{e.Name(), at, st.Size()})
		}
	}
	sort.Slice(out, func(i, k int) bool { return out[i].At.After(out[k].At) })
	return out, nil
}

// SnapshotIfDue takes a snapshot when the newest one is old, or there is none,
// and something has changed since; the oldest beyond a few go.
func (s *Store) SnapshotIfDue(ctx context.Context, now time.Time) error {
	list, err := Snapshots(s.dir)
	if err != nil {
		return err
	}
	if len(list) > 0 && (now.Sub(list[0].At) < snapshotEvery || !s.changedSince(list[0].At)) {
		return nil
	}
	return s.TakeSnapshot(ctx, now)
}

// changedSince reports whether the database's files were written to.
func (s *Store) changedSince(at time.Time) bool {
	for _, ext := range []string{"", "-wal"} {
		if st, err := os.Stat(filepath.Join(s.dir, databaseFile+ext)); err == nil && st.ModTime().After(at) {
			return true
		}
	}
	return false
}

// TakeSnapshot copies the database beside it while work goes on; the copy
// appears only whole, and only where it leaves the reserve.
func (s *Store) TakeSnapshot(ctx context.Context, now time.Time) error {
	dir := filepath.Join(s.dir, "snapshots")
	if st, err := os.Stat(filepath.Join(s.dir, databaseFile)); err == nil {
		if err := s.Room(st.Size()); err != nil {
			return err
		}
	}
	name := now.UTC().Format(snapshotForm)
	part := filepath.Join(s.scratch.dir, name)
	defer os.Remove(part)
	if err := s.db.copyTo(ctx, part); err != nil {
		return err
	}
	if err := errors.Join(disk.Sync(part), os.Rename(part, filepath.Join(dir, name)), disk.Sync(dir)); err != nil {
		return full(err)
	}
	list, err := Snapshots(s.dir)
	if err != nil {
		return err
	}
	for _, old := range list[min(len(list), snapshotsKept):] {
		if err := os.Remove(filepath.Join(dir, old.Name)); err != nil {
			return err
		}
	}
	return nil
}

// Restore puts a snapshot, or for "latest" the newest that is sound, in the
// place of a folder's database, and keeps that one in a folder beside it, whose
// path it returns. Nobody may serve the folder, and nobody have it open.
func Restore(ctx context.Context, dir, name string) (taken Snapshot, kept string, err error) {
	list, err := Snapshots(dir)
	if err != nil {
		return taken, "", err
	}
	var why []string
	for _, c := range list {
		if name != "latest" && name != c.Name {
			continue
		}
		bad, err := checkFile(ctx, filepath.Join(dir, "snapshots", c.Name))
		if err != nil {
			bad = err.Error()
		}
		if bad != "" {
			why = append(why, c.Name+" is damaged itself: "+bad)
			continue
		}
		kept, err = putBack(dir, c.Name)
		return c, kept, err
	}
	if len(why) > 0 {
		return taken, "", errors.New(strings.Join(why, "; "))
	}
	return taken, "", fmt.Errorf("there is no snapshot %q in %s", name, filepath.Join(dir, "snapshots"))
}

func checkFile(ctx context.Context, path string) (why string, err error) {
	db, err := sqlx.Open("sqlite3", "file:"+path+"?mode=ro&immutable=1")
	if err != nil {
		return "", err
	}
	defer db.Close()
	return quickCheck(ctx, db)
}

func putBack(dir, name string) (kept string, err error) {
	from, err := os.Open(filepath.Join(dir, "snapshots", name))
	if err != nil {
		return "", err
	}
	defer from.Close()
	part := filepath.Join(dir, databaseFile+".restored")
	to, err := os.Create(part)
	if err != nil {
		return "", full(err)
	}
	_, err = io.Copy(to, from)
	if err = errors.Join(err, to.Sync(), to.Close()); err != nil {
		_ = os.Remove(part)
		return "", full(err)
	}
	kept = filepath.Join(dir, "replaced-"+time.Now().UTC().Format("20060102T150405Z"))
	if err := os.Mkdir(kept, 0o755); err != nil {
		return "", err
	}
	for _, ext := range []string{"", "-wal", "-shm"} {
		if err := os.Rename(filepath.Join(dir, databaseFile+ext), filepath.Join(kept, databaseFile+ext)); err != nil && !errors.Is(err, os.ErrNotExist) {
			return kept, err
		}
	}
	return kept, errors.Join(os.Rename(part, filepath.Join(dir, databaseFile)), disk.Sync(dir))
}
