package store

import (
	"context"
	"errors"
	"fmt"
	"net/url"
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
	// replacedForm is the name of the folder of a database that a snapshot took the place of.
	replacedForm = "replaced-20060102T150405Z"
	// snapshotsKept is how many of the newest are kept; of each of the daysKept days before the newest is kept, too, so that a program
	// that is started again and again does not lose what was yesterday.
	snapshotsKept = 6
	daysKept      = 7
)

// snapshotEvery is how old the newest of so many snapshots may become while something changes: a new folder's first work has one soon.
func snapshotEvery(have int) time.Duration {
	switch have {
	case 0:
		return 0
	case 1:
		return 10 * time.Minute
	case 2:
		return time.Hour
	}
	return 4 * time.Hour
}

// Snapshots lists the snapshots in a folder, the newest first.
func Snapshots(dir string) ([]Snapshot, error) {
	return copies(filepath.Join(dir, "snapshots"), snapshotForm, func(e os.FileInfo) int64 { return e.Size() })
}

// Replaced lists the databases that snapshots took the place of, the newest first. Each can be put back like a snapshot.
func Replaced(dir string) ([]Snapshot, error) {
	return copies(dir, replacedForm, func(e os.FileInfo) int64 {
		st, err := os.Stat(filepath.Join(dir, e.Name(), databaseFile))
		if err != nil {
			return 0
		}
		return st.Size()
	})
}

func copies(in, form string, size func(os.FileInfo) int64) (out []Snapshot, err error) {
	entries, err := os.ReadDir(in)
	if err != nil && !errors.Is(err, os.ErrNotExist) {
		return nil, err
	}
	for _, e := range entries {
		at, err := time.Parse(form, e.Name())
		if err != nil {
			continue
		}
		if st, err := e.Info(); err == nil {
			out = append(out, Snapshot{e.Name(), at, size(st)})
		}
	}
	sort.Slice(out, func(i, k int) bool { return out[i].At.After(out[k].At) })
	return out, nil
}

// SnapshotIfDue takes a snapshot when the newest one is old, or there is none,
// and something has changed since; the oldest beyond a few go. At the start of a program it is due whenever something has
// changed.
func (s *Store) SnapshotIfDue(ctx context.Context, now time.Time, start bool) error {
	list, err := Snapshots(s.dir)
	if err != nil {
		return err
	}
	if len(list) > 0 && (!start && now.Sub(list[0].At) < snapshotEvery(len(list)) || !s.changedSince(list[0].At)) {
		return nil
	}
	return s.TakeSnapshot(ctx, now)
}

// spare are the snapshots of a list, the newest first, that need not be kept.
func spare(list []Snapshot) (out []Snapshot) {
	days := map[string]bool{}
	for i, one := range list {
		day := one.At.Format(time.DateOnly)
		if i >= snapshotsKept && (days[day] || list[0].At.Sub(one.At) > daysKept*24*time.Hour) {
			out = append(out, one)
		}
		days[day] = true
	}
	return out
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
	for _, old := range spare(list) {
		if err := os.Remove(filepath.Join(dir, old.Name)); err != nil {
			return err
		}
	}
	return nil
}

// Restore puts a snapshot, or for "latest" the newest that is sound, or a database that was replaced before, in the
// place of a folder's database, and keeps that one in a folder beside it, whose
// path it returns. Files that only the other database knows are kept, too, until Settle. Nobody may serve the folder, and nobody have it
// open.
func Restore(ctx context.Context, dir, name string) (taken Snapshot, kept string, err error) {
	taken, path, err := sound(ctx, dir, name)
	if err != nil {
		return taken, "", err
	}
	// Before anything is put in another's place: nothing is swept from now on.
	if err := hold(dir, time.Now()); err != nil {
		return taken, "", err
	}
	kept, err = putBack(ctx, dir, path)
	return taken, kept, err
}

// sound finds what is to be put back, and where it lies.
func sound(ctx context.Context, dir, name string) (taken Snapshot, path string, err error) {
	list, err := Snapshots(dir)
	if err != nil {
		return taken, "", err
	}
	before, err := Replaced(dir)
	if err != nil {
		return taken, "", err
	}
	var why []string
	try := func(c Snapshot, at string) bool {
		bad, err := checkFile(ctx, at)
		if err != nil {
			bad = err.Error()
		}
		if bad != "" {
			why = append(why, c.Name+" is damaged itself: "+bad)
			return false
		}
		taken, path = c, at
		return true
	}
	for _, c := range list {
		if (name == "latest" || name == c.Name) && try(c, filepath.Join(dir, "snapshots", c.Name)) {
			return taken, path, nil
		}
	}
	for _, c := range before {
		if name == c.Name && try(c, filepath.Join(dir, c.Name, databaseFile)) {
			return taken, path, nil
		}
	}
	if len(why) > 0 {
		return taken, "", errors.New(strings.Join(why, "; "))
	}
	return taken, "", fmt.Errorf("there is no snapshot %q, and no database of that name was replaced", name)
}

// Held is what a database holds, in numbers.
type Held struct{ Templates, Releases, Drafts, Pieces, Media int }

// Contents tells what the database of a folder holds, or, with a name, what Restore would put in its place. ok is false where it can't be
// read.
func Contents(ctx context.Context, dir, name string) (h Held, ok bool) {
	path := filepath.Join(dir, databaseFile)
	if name != "" {
		var err error
		if _, path, err = sound(ctx, dir, name); err != nil {
			return h, false
		}
	}
	if _, err := os.Stat(path); err != nil {
		return h, false
	}
	db, err := toRead(path)
	if err != nil {
		return h, false
	}
	defer db.Close()
	count := func(n *int, query string) bool { return db.GetContext(ctx, n, `SELECT COUNT(*) FROM `+query) == nil }
	if !count(&h.Templates, `templates`) || !count(&h.Releases, `releases`) || !count(&h.Media, `media`) {
		return h, false
	}
	// Older databases had a table for pieces alone.
	if !count(&h.Drafts, `documents WHERE kind = 'draft'`) || !count(&h.Pieces, `documents WHERE kind = 'piece'`) {
		return h, count(&h.Pieces, `pieces`)
	}
	return h, true
}

const (
	// heldFile says since when nothing is swept in a folder, by its content, a time.
	heldFile = "sweeping-held"
	// heldFor is how long that is so at the least after a database was put back.
	heldFor = 7 * 24 * time.Hour
)

// hold has nothing removed from the folder that only another database than its own knows.
func hold(dir string, now time.Time) error {
	return os.WriteFile(filepath.Join(dir, heldFile), []byte(now.UTC().Format(time.RFC3339)), 0o644)
}

// HeldSince tells since when nothing is swept, because a database was put back and nobody has said since that all is well.
func HeldSince(dir string) (since time.Time, held bool) {
	b, err := os.ReadFile(filepath.Join(dir, heldFile))
	if err != nil {
		return since, !errors.Is(err, os.ErrNotExist)
	}
	since, err = time.Parse(time.RFC3339, strings.TrimSpace(string(b)))
	if err != nil {
		since = time.Now()
	}
	return since, true
}

// Settle ends that nothing is swept, once that has been so for seven days. What only replaced databases know may be removed then.
func Settle(dir string, now time.Time) error {
	since, held := HeldSince(dir)
	if !held {
		return errors.New("nothing is held back: no database was put back")
	}
	if end := since.Add(heldFor); now.Before(end) {
		return fmt.Errorf("all files are kept until %s, in case the other database is wanted back; say so again then", end.Local().Format("2 Jan 2006 15:04"))
	}
	return os.Remove(filepath.Join(dir, heldFile))
}

// toRead opens a database of any of the places where one lies. One with a log is read along with it.
func toRead(path string) (*sqlx.DB, error) {
	u := url.URL{Scheme: "file", OmitHost: true, Path: path}
	if _, err := os.Stat(path + "-wal"); err != nil {
		u.RawQuery = "mode=ro&immutable=1"
	}
	return sqlx.Open("sqlite3", u.String())
}

func checkFile(ctx context.Context, path string) (why string, err error) {
	db, err := toRead(path)
	if err != nil {
		return "", err
	}
	defer db.Close()
	return quickCheck(ctx, db)
}

func putBack(ctx context.Context, dir, path string) (kept string, err error) {
	part := filepath.Join(dir, databaseFile+".restored")
	_ = os.Remove(part)
	// By SQLite, since a database that was replaced may have had more in its log than in its file.
	from, err := toRead(path)
	if err != nil {
		return "", err
	}
	_, err = from.ExecContext(ctx, `VACUUM INTO ?`, part)
	if err = errors.Join(err, from.Close()); err == nil {
		err = disk.Sync(part)
	}
	if err != nil {
		_ = os.Remove(part)
		return "", told(err)
	}
	for at := time.Now().UTC(); ; at = at.Add(time.Second) { // two within a second would have one name
		kept = filepath.Join(dir, at.Format(replacedForm))
		if err = os.Mkdir(kept, 0o755); !errors.Is(err, os.ErrExist) {
			break
		}
	}
	if err != nil {
		return "", err
	}
	for _, ext := range []string{"", "-wal", "-shm"} {
		if err := os.Rename(filepath.Join(dir, databaseFile+ext), filepath.Join(kept, databaseFile+ext)); err != nil && !errors.Is(err, os.ErrNotExist) {
			return kept, err
		}
	}
	return kept, errors.Join(os.Rename(part, filepath.Join(dir, databaseFile)), disk.Sync(dir))
}
