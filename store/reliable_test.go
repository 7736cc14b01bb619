package store_test

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"syscall"
	"testing"
	"time"

	"github.com/jmoiron/sqlx"

	"ivypocket/core/edit"
	"ivypocket/media/mediatest"
	"ivypocket/store"
)

// raw opens the database of a closed store past everything that guards it.
func raw(t *testing.T, dir string, do ...string) {
	t.Helper()
	db, err := sqlx.Open("sqlite3", "file:"+filepath.Join(dir, "ivypocket.db"))
	if err != nil {
		t.Fatal(err)
	}
	defer db.Close()
	for _, q := range do {
		if _, err := db.Exec(q); err != nil {
			t.Fatal(q, err)
		}
	}
}

func TestAFolderIsServedByOne(t *testing.T) {
	dir := filepath.Join(t.TempDir(), "new")
	a, err := store.LockFolder(dir)
	if err != nil {
		t.Fatal(err)
	}
	var taken *store.InUseError
	if _, err := store.LockFolder(dir); !errors.As(err, &taken) || !strings.Contains(err.Error(), "just starting") {
		t.Errorf("%v", err)
	}
	if err := a.Tell("http://127.0.0.1:8420"); err != nil {
		t.Fatal(err)
	}
	if _, err := store.LockFolder(dir); !errors.As(err, &taken) || taken.Address != "http://127.0.0.1:8420" {
		t.Errorf("%v", err)
	}
	// Other programs may use it all the while.
	s := open(t, dir)
	withPiece(t, s)
	if err := a.Unlock(); err != nil {
		t.Fatal(err)
	}
	b, err := store.LockFolder(dir)
	if err != nil {
		t.Fatal(err)
	}
	b.Unlock()
}

// 500 writers at one time each get their turn.
func TestWritersStandInLine(t *testing.T) {
	s := open(t, t.TempDir())
	_, p := withPiece(t, s)
	var wg sync.WaitGroup
	failed := make(chan error, 500)
	for i := range 500 {
		wg.Go(func() {
			op := border(float64(i % 40))
			var conflict *edit.ConflictError
			if _, err := s.Do(ctx, p.ID, store.Sent{ID: fmt.Sprintf("writer-%d", i), Author: "ann", Base: 0, Op: op}); err != nil && !errors.As(err, &conflict) {
				failed <- err
			}
			if err := s.SetSetting(ctx, "a", fmt.Sprint(i)); err != nil {
				failed <- err
			}
		})
	}
	wg.Wait()
	close(failed)
	if n := store.Writers(s); n != 1 { // more would take turns by chance, and some lose
		t.Errorf("%d connections write", n)
	}
	for err := range failed {
		t.Fatal(err)
	}
}

func TestOperationsOfAnotherPieceOrTimeConflict(t *testing.T) {
	s := open(t, t.TempDir())
	d, p := withPiece(t, s)
	q, err := s.NewPiece(ctx, d.ID, 1, "Other")
	if err != nil {
		t.Fatal(err)
	}
	if _, err := s.Do(ctx, p.ID, store.Sent{ID: "the-first", Author: "ann", Op: border(20)}); err != nil {
		t.Fatal(err)
	}
	var stale *store.StaleError
	if _, err := s.Do(ctx, q.ID, store.Sent{ID: "the-first", Author: "ann", Op: border(20)}); !errors.As(err, &stale) {
		t.Errorf("an id of another piece: %v", err)
	}
	if _, err := s.Undo(ctx, q.ID, "ann", "the-first"); !errors.As(err, &stale) {
		t.Errorf("an undo by the id of another piece: %v", err)
	}
	if _, err := s.Do(ctx, p.ID, store.Sent{ID: "too-new--", Author: "ann", Base: 7, Op: border(30)}); !errors.As(err, &stale) {
		t.Errorf("a base that is yet to come: %v", err)
	}
}

func TestSnapshotsAreFewAndPutBack(t *testing.T) {
	dir := t.TempDir()
	s := open(t, dir)
	_, p := withPiece(t, s)
	at := time.Date(2026, 3, 1, 8, 0, 0, 0, time.UTC)
	for i := range 9 {
		if err := s.TakeSnapshot(ctx, at.Add(time.Duration(i)*time.Hour)); err != nil {
			t.Fatal(err)
		}
	}
	list, err := store.Snapshots(dir)
	if err != nil || len(list) != 6 || !list[0].At.Equal(at.Add(8*time.Hour)) {
		t.Fatalf("%v, %v", list, err)
	}
	if err := s.SnapshotIfDue(ctx, at.Add(9*time.Hour), false); err != nil {
		t.Error(err)
	}
	if now, _ := store.Snapshots(dir); now[0] != list[0] {
		t.Error("one was taken though the last is young")
	}
	if err := s.SnapshotIfDue(ctx, at.Add(13*time.Hour), false); err != nil {
		t.Error(err)
	}
	if now, _ := store.Snapshots(dir); now[0] == list[0] {
		t.Error("none was taken though the last is old")
	}
	s.Close()

	// The newest snapshot and the database itself are damaged.
	list, _ = store.Snapshots(dir)
	newest := filepath.Join(dir, "snapshots", list[0].Name)
	for _, path := range []string{newest, filepath.Join(dir, "ivypocket.db")} {
		if err := os.WriteFile(path, bytes.Repeat([]byte("damage. "), 2000), 0o644); err != nil {
			t.Fatal(err)
		}
	}
	var bad *store.DamagedError
	if _, err := store.Open(dir); !errors.As(err, &bad) || !strings.Contains(err.Error(), "restore latest") {
		t.Fatalf("%v", err)
	}
	if _, _, err := store.Restore(ctx, dir, list[0].Name); err == nil {
		t.Error("a damaged snapshot was put back")
	}
	taken, kept, err := store.Restore(ctx, dir, "latest")
	if err != nil || taken.Name != list[1].Name {
		t.Fatalf("%v, %v", taken, err)
	}
	if b, err := os.ReadFile(filepath.Join(kept, "ivypocket.db")); err != nil || !bytes.HasPrefix(b, []byte("damage")) {
		t.Errorf("the damaged database is not kept: %v", err)
	}
	s = open(t, dir)
	if got, err := s.Piece(ctx, p.ID); err != nil || got.Content != p.Content {
		t.Errorf("%+v, %v", got, err)
	}
	if err := s.Check(ctx); err != nil {
		t.Error(err)
	}
}

// A restore can be taken back whole: what only the other database knows is not swept, and the other database is put back by its name.
func TestARestoreCanBeTakenBack(t *testing.T) {
	dir := t.TempDir()
	s := open(t, dir)
	if err := s.TakeSnapshot(ctx, time.Now().Add(-time.Hour)); err != nil { // of the empty folder
		t.Fatal(err)
	}
	_, p := withPiece(t, s)
	own := filepath.Join(dir, "media", "ab", strings.Repeat("ab", 32)+".png") // a file as the restored database does not know it
	if err := errors.Join(os.MkdirAll(filepath.Dir(own), 0o755), os.WriteFile(own, []byte("original"), 0o644)); err != nil {
		t.Fatal(err)
	}
	s.Close()
	list, err := store.Snapshots(dir)
	if err != nil || len(list) != 1 {
		t.Fatalf("%v, %v", list, err)
	}
	now, ok := store.Contents(ctx, dir, "")
	then, sound := store.Contents(ctx, dir, list[0].Name)
	if !ok || !sound || now.Pieces != 1 || then != (store.Held{}) {
		t.Errorf("the database has %+v, the snapshot %+v", now, then)
	}
	_, kept, err := store.Restore(ctx, dir, "latest")
	if err != nil {
		t.Fatal(err)
	}
	s = open(t, dir)
	late := time.Now().Add(30 * 24 * time.Hour)
	if n, err := s.Sweep(late); n != 0 || err != nil {
		t.Errorf("%d files were swept after a restore, %v", n, err)
	}
	s.Close()
	if err := store.Settle(dir, time.Now().Add(24*time.Hour)); err == nil {
		t.Error("files may go a day after a restore")
	}
	if _, _, err := store.Restore(ctx, dir, filepath.Base(kept)); err != nil {
		t.Fatal(err)
	}
	s = open(t, dir)
	if got, err := s.Piece(ctx, p.ID); err != nil || got.Content != p.Content {
		t.Errorf("taken back: %+v, %v", got, err)
	}
	if b, err := os.ReadFile(own); err != nil || string(b) != "original" {
		t.Errorf("the original is %q, %v", b, err)
	}
	if err := store.Settle(dir, late); err != nil {
		t.Error(err)
	}
	if n, err := s.Sweep(late); n != 1 || err != nil {
		t.Errorf("%d files were swept when all was well, %v", n, err)
	}
	if err := store.Settle(dir, late); err == nil {
		t.Error("it was said twice that all is well")
	}
}

// Snapshots are due at a start after a change, soon after the first work, and kept for days however often a program starts.
func TestWhenSnapshotsAreTaken(t *testing.T) {
	dir := t.TempDir()
	s := open(t, dir)
	taken := func(at time.Time, start bool) bool {
		t.Helper()
		before, _ := store.Snapshots(dir)
		if err := s.SnapshotIfDue(ctx, at, start); err != nil {
			t.Fatal(err)
		}
		after, _ := store.Snapshots(dir)
		return len(after) > len(before)
	}
	at := time.Now().Add(-48 * time.Hour)
	if !taken(at, true) {
		t.Error("a new folder has none")
	}
	withPiece(t, s) // changed now, which is after all of these
	if taken(at.Add(5*time.Minute), false) || !taken(at.Add(11*time.Minute), false) {
		t.Error("the first work has its snapshot after ten minutes")
	}
	if !taken(at.Add(12*time.Minute), true) {
		t.Error("a start after a change has none")
	}
	if taken(at.Add(3*time.Hour), false) || !taken(at.Add(5*time.Hour), false) {
		t.Error("later they are four hours apart")
	}
	if taken(time.Now().Add(time.Hour), true) && taken(time.Now().Add(2*time.Hour), true) {
		t.Error("one was taken though nothing changed")
	}
	for i := range 20 { // a day of starts
		if err := s.TakeSnapshot(ctx, time.Now().Add(time.Duration(i+10)*time.Minute)); err != nil {
			t.Fatal(err)
		}
	}
	list, _ := store.Snapshots(dir)
	if oldest := list[len(list)-1].At; time.Since(oldest) < 24*time.Hour {
		t.Errorf("%d are left, the oldest of %s", len(list), oldest)
	}
}

// A backup is whole, holds what it is a backup of, and costs only what changed when it is made again; it is made of nothing else's folder.
func TestABackupIsWholeAndCheapAgain(t *testing.T) {
	dir, to := t.TempDir(), filepath.Join(t.TempDir(), "safe")
	s := open(t, dir)
	_, p := withPiece(t, s)
	file := func(name, text string) {
		t.Helper()
		path := filepath.Join(dir, name)
		if err := errors.Join(os.MkdirAll(filepath.Dir(path), 0o755), os.WriteFile(path, []byte(text), 0o644)); err != nil {
			t.Fatal(err)
		}
	}
	file("media/ab/one.png", "one")
	file("media/ab/.half.png", "half")
	file("renders/film.mp4", "film")
	if n, bytes, err := s.Backup(ctx, to); n != 2 || bytes != 7 || err != nil {
		t.Errorf("%d files of %d bytes, %v", n, bytes, err)
	}
	if _, err := s.Do(ctx, p.ID, store.Sent{ID: "afterwards", Author: "ann", Op: border(20)}); err != nil {
		t.Fatal(err)
	}
	file("media/cd/two.png", "second")
	if n, bytes, err := s.Backup(ctx, to); n != 1 || bytes != 6 || err != nil {
		t.Errorf("again %d files of %d bytes, %v", n, bytes, err)
	}
	copied := open(t, to)
	got, err := copied.Piece(ctx, p.ID)
	if err != nil || got.Revision != 1 {
		t.Errorf("the backup has %+v, %v", got, err)
	}
	if err := copied.Check(ctx); err != nil {
		t.Error(err)
	}
	for _, bad := range []string{dir, filepath.Join(dir, "media"), filepath.Dir(dir)} {
		if _, _, err := s.Backup(ctx, bad); err == nil {
			t.Errorf("%s was taken for a backup", bad)
		}
	}
}

// Damage in the middle of a database that opens is found before it is served.
func TestTheQuickCheckFindsDamage(t *testing.T) {
	dir := t.TempDir()
	s := open(t, dir)
	_, p := withPiece(t, s)
	for i := range 40 {
		if _, err := s.Do(ctx, p.ID, store.Sent{ID: fmt.Sprintf("operation-%d", i), Author: "ann", Base: int64(i), Op: border(float64(i))}); err != nil {
			t.Fatal(err)
		}
	}
	if err := s.Check(ctx); err != nil {
		t.Errorf("sound: %v", err)
	}
	s.Close()
	path := filepath.Join(dir, "ivypocket.db")
	b, err := os.ReadFile(path)
	if err != nil {
		t.Fatal(err)
	}
	for i := len(b) / 2; i < len(b)-4096; i += 64 {
		b[i] ^= 0xff
	}
	if err := os.WriteFile(path, b, 0o644); err != nil {
		t.Fatal(err)
	}
	var bad *store.DamagedError
	s, err = store.Open(dir)
	if err == nil {
		err = s.Check(ctx)
		s.Close()
	}
	if !errors.As(err, &bad) {
		t.Errorf("%v", err)
	}
}

// One row that can't be read is named and does not keep the rest from being used.
func TestAnUnreadableRowIsSkippedAndNamed(t *testing.T) {
	dir := t.TempDir()
	s := open(t, dir)
	var hashes []string
	for i := range 3 {
		md, err := s.Put(ctx, fmt.Sprintf("%d.png", i), bytes.NewReader(mediatest.PNG(t, mediatest.Quarters(10+i, 10))))
		if err != nil {
			t.Fatal(err)
		}
		hashes = append(hashes, md.Hash)
	}
	s.Close()
	// What is known of the first is lost: it is inspected anew. Of the second the
	// file is lost as well.
	raw(t, dir, `UPDATE media SET meta = '{"versi' WHERE name IN ('0.png', '1.png')`)
	if err := os.WriteFile(s.Path(hashes[1]), nil, 0o644); err != nil {
		t.Fatal(err)
	}
	s = open(t, dir)
	for i, want := range []bool{true, false, true} {
		if md, ok := s.Medium(hashes[i]); ok != want || ok && md.Meta.Width != 10+i {
			t.Errorf("number %d: %v %+v", i, ok, md)
		}
	}
	if tr := s.Troubles(); len(tr) != 1 || tr[0].What != "1.png" {
		t.Errorf("%v", tr)
	}
	// Put in again it is what it was.
	if _, err := s.Put(ctx, "x.png", bytes.NewReader(mediatest.PNG(t, mediatest.Quarters(11, 10)))); err != nil || len(s.Troubles()) != 0 {
		t.Errorf("%v, %v", err, s.Troubles())
	}
}

func TestATruncatedFileIsNoticedAndMended(t *testing.T) {
	dir := t.TempDir()
	s := open(t, dir)
	data := mediatest.PNG(t, mediatest.Quarters(60, 40))
	md, err := s.Put(ctx, "a.png", bytes.NewReader(data))
	if err != nil {
		t.Fatal(err)
	}
	if err := s.Touch(ctx, md.Hash); err != nil {
		t.Fatal(err)
	}
	for name, damage := range map[string]func() error{
		"cut short": func() error { return os.Truncate(s.Path(md.Hash), 30) },
		"gone":      func() error { return os.Remove(s.Path(md.Hash)) },
	} {
		if err := damage(); err != nil {
			t.Fatal(err)
		}
		s.Close()
		s = open(t, dir)
		if tr := s.Troubles(); len(tr) != 1 || tr[0].What != "a.png" {
			t.Errorf("%s: %v", name, tr)
		}
		again, err := s.Put(ctx, "another name.png", bytes.NewReader(data))
		if err != nil || again.Hash != md.Hash || len(s.Troubles()) != 0 {
			t.Errorf("%s: %+v, %v, %v", name, again, err, s.Troubles())
		}
		if b, err := os.ReadFile(s.Path(md.Hash)); err != nil || !bytes.Equal(b, data) {
			t.Errorf("%s: the file is not mended: %v", name, err)
		}
		if kept, _ := s.Medium(md.Hash); kept.Name != "a.png" || kept.Used == "" {
			t.Errorf("%s: what was known of it is lost: %+v", name, kept)
		}
	}
}

func TestFilesWithoutARowAreSwept(t *testing.T) {
	dir := t.TempDir()
	s := open(t, dir)
	md, err := s.Put(ctx, "a.png", bytes.NewReader(mediatest.PNG(t, mediatest.Quarters(6, 4))))
	if err != nil {
		t.Fatal(err)
	}
	stray := filepath.Join(dir, "media", "ab", "ab"+strings.Repeat("0", 62))
	proxy := filepath.Join(dir, "proxies", "ab"+strings.Repeat("0", 62)+".ivyproxy")
	for _, p := range []string{stray, proxy} {
		_ = os.MkdirAll(filepath.Dir(p), 0o755)
		if err := os.WriteFile(p, []byte("x"), 0o644); err != nil {
			t.Fatal(err)
		}
	}
	// Another program may be about to keep the row of what is young.
	if n, err := s.Sweep(time.Now()); n != 0 || err != nil {
		t.Errorf("%d swept, %v", n, err)
	}
	if n, err := s.Sweep(time.Now().Add(2 * time.Hour)); n != 2 || err != nil {
		t.Errorf("%d swept, %v", n, err)
	}
	if _, err := os.Stat(s.Path(md.Hash)); err != nil {
		t.Error(err)
	}
}

// What a program that lives is working on stays when another tidies.
func TestTidyingLeavesOthersAlone(t *testing.T) {
	dir := t.TempDir()
	a, b := open(t, dir), open(t, dir)
	begun, done := make(chan struct{}), make(chan error, 1)
	data := mediatest.PNG(t, mediatest.Quarters(8, 8))
	r, w := io.Pipe()
	go func() {
		_, err := a.Put(ctx, "slow.png", r)
		done <- err
	}()
	go func() {
		_, _ = w.Write(data[:20])
		close(begun)
	}()
	<-begun
	if err := b.Tidy(); err != nil {
		t.Fatal(err)
	}
	_, _ = w.Write(data[20:])
	w.Close()
	if err := <-done; err != nil {
		t.Error(err)
	}
}

// A small file system is mounted for it, which takes root.
func TestRoomIsMadeOnAFullDisk(t *testing.T) {
	dir := t.TempDir()
	if err := syscall.Mount("tmpfs", dir, "tmpfs", 0, "size=90m"); err != nil {
		t.Skip("no file system can be mounted here: ", err)
	}
	t.Cleanup(func() { _ = syscall.Unmount(dir, syscall.MNT_DETACH) })
	s := open(t, dir)
	if err := s.Tidy(); err != nil {
		t.Fatal(err)
	}
	_, p := withPiece(t, s)
	md, err := s.Put(ctx, "a.png", bytes.NewReader(mediatest.PNG(t, mediatest.Quarters(30, 30))))
	if err != nil {
		t.Fatal(err)
	}
	fill, err := os.Create(filepath.Join(dir, "filler"))
	if err != nil {
		t.Fatal(err)
	}
	// What comes in leaves the reserve, though there would be room for it.
	if free, ferr := s.Free(); ferr == nil {
		err = fill.Truncate(0)
		for left := free - store.Reserve - 4<<20; err == nil && left > 0; left -= 64 << 10 {
			_, err = fill.Write(make([]byte, 64<<10))
		}
	}
	if _, perr := s.Put(ctx, "large", io.LimitReader(zeros{}, 12<<20)); !errors.Is(perr, store.ErrDiskFull) {
		t.Errorf("media that reaches into the reserve: %v", perr)
	}
	for err == nil { // to the last byte: another program leaves no reserve
		_, err = fill.Write(make([]byte, 4096))
	}
	fill.Close()
	if _, err := s.Put(ctx, "b.png", bytes.NewReader(mediatest.PNG(t, mediatest.Quarters(31, 30)))); !errors.Is(err, store.ErrDiskFull) {
		t.Errorf("media: %v", err)
	}
	if err := s.TakeSnapshot(ctx, time.Now()); !errors.Is(err, store.ErrDiskFull) {
		t.Errorf("a snapshot: %v", err)
	}
	for i := 0; err == nil || !errors.Is(err, store.ErrDiskFull); i++ {
		if _, err = s.Do(ctx, p.ID, store.Sent{ID: fmt.Sprintf("fills-up-%d", i), Author: "ann", Base: int64(i), Op: border(float64(20 + i%2))}); i > 3000 {
			t.Fatal("the log never filled the disk: ", err)
		}
	}
	if err := s.SetCleared(ctx, []string{md.Hash}, true); err != nil {
		t.Fatalf("clearing: %v", err)
	}
	if n, bytes := s.Cleared(); n != 1 || bytes == 0 {
		t.Errorf("%d cleared, %d bytes", n, bytes)
	}
	if gone, err := s.Purge(ctx, time.Now().Add(time.Second)); err != nil || len(gone) != 1 {
		t.Errorf("purging: %v, %v", gone, err)
	}
}

// zeros is an endless file of nothing.
type zeros struct{}

func (zeros) Read(p []byte) (int, error) { clear(p); return len(p), nil }

func TestFoldersThatCantBeWrittenToAreSaidPlainly(t *testing.T) {
	dir := t.TempDir()
	file := filepath.Join(dir, "file")
	if err := os.WriteFile(file, nil, 0o644); err != nil {
		t.Fatal(err)
	}
	if _, err := store.Open(file); err == nil || !strings.Contains(err.Error(), "is not a folder") {
		t.Errorf("%v", err)
	}
	if err := syscall.Mount("tmpfs", dir, "tmpfs", syscall.MS_RDONLY, "size=1m"); err != nil {
		t.Skip("no file system can be mounted here: ", err)
	}
	t.Cleanup(func() { _ = syscall.Unmount(dir, syscall.MNT_DETACH) })
	if _, err := store.Open(dir); err == nil || !strings.Contains(err.Error(), "can only be read") {
		t.Errorf("%v", err)
	}
	if _, err := store.LockFolder(dir); err == nil || !strings.Contains(err.Error(), "can only be read") {
		t.Errorf("%v", err)
	}
}

// A request that ends on the way gives the one connection that writes back.
func TestAContextThatEndsLeavesTheWriterFree(t *testing.T) {
	s := open(t, t.TempDir())
	_, p := withPiece(t, s)
	gone, cancel := context.WithCancel(ctx)
	cancel()
	if _, err := s.Do(gone, p.ID, store.Sent{ID: "given-up-", Author: "ann", Op: border(20)}); !errors.Is(err, context.Canceled) {
		t.Errorf("%v", err)
	}
	if _, err := s.Do(ctx, p.ID, store.Sent{ID: "carried--", Author: "ann", Op: border(20)}); err != nil {
		t.Errorf("%v", err)
	}
}
