package store

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strings"

	"github.com/google/renameio/v2"

	"ivypocket/media/disk"
)

// backedUp are the folders that a backup has besides the database: media under their hashes, finished films and pictures. Proxies and trials
// are made anew.
var backedUp = []string{"media", "renders"}

// Backup copies the store into another folder, while others work on it: first the database as it stands at this instant, then the files
// that the folder has not yet. A folder that holds an older backup costs what changed since; a folder that holds anything else is left
// alone. What comes out can be served. copied counts files and their bytes.
func (s *Store) Backup(ctx context.Context, to string) (files int, bytes int64, err error) {
	to, err = filepath.Abs(to)
	if err != nil {
		return 0, 0, err
	}
	own, err := filepath.Abs(s.dir)
	if err != nil {
		return 0, 0, err
	}
	if to == own || strings.HasPrefix(to+"/", own+"/") {
		return 0, 0, errors.New("a backup within the folder itself would go with it; name a folder elsewhere")
	}
	if there, err := os.ReadDir(to); err == nil && len(there) > 0 {
		if _, err := os.Stat(filepath.Join(to, databaseFile)); err != nil {
			return 0, 0, fmt.Errorf("%s holds other things than a backup; name an empty folder, or a new one", to)
		}
	}
	if err := os.MkdirAll(to, 0o755); err != nil {
		return 0, 0, full(err)
	}
	part := filepath.Join(to, "."+databaseFile+".part")
	_ = os.Remove(part)
	defer os.Remove(part)
	if err := s.db.copyTo(ctx, part); err != nil {
		return 0, 0, err
	}
	// Files before the database that knows them: who is stopped in between has an older backup, and a whole one.
	for _, sub := range backedUp {
		root := filepath.Join(s.dir, sub)
		err := filepath.WalkDir(root, func(path string, e fs.DirEntry, err error) error {
			if err != nil || ctx.Err() != nil {
				return errors.Join(err, ctx.Err())
			}
			rel, err := filepath.Rel(s.dir, path)
			if err != nil {
				return err
			}
			if e.IsDir() {
				return os.MkdirAll(filepath.Join(to, rel), 0o755)
			}
			if strings.HasPrefix(e.Name(), ".") || !e.Type().IsRegular() { // it is being written
				return nil
			}
			n, err := copyNew(path, filepath.Join(to, rel))
			if errors.Is(err, os.ErrNotExist) { // it went meanwhile
				return nil
			}
			if n >= 0 {
				files, bytes = files+1, bytes+n
			}
			return err
		})
		if err != nil {
			return files, bytes, full(err)
		}
	}
	// An older log would be taken for this database's.
	for _, ext := range []string{"-wal", "-shm"} {
		if err := os.Remove(filepath.Join(to, databaseFile+ext)); err != nil && !errors.Is(err, os.ErrNotExist) {
			return files, bytes, err
		}
	}
	return files, bytes, full(errors.Join(disk.Sync(part), os.Rename(part, filepath.Join(to, databaseFile)), disk.Sync(to)))
}

// copyNew copies a file unless it is there, by its size: names of media say what is in them. n is how many bytes it took, -1 for none.
func copyNew(from, to string) (n int64, err error) {
	st, err := os.Stat(from)
	if err != nil {
		return -1, err
	}
	if there, err := os.Stat(to); err == nil && there.Size() == st.Size() && !there.ModTime().Before(st.ModTime()) {
		return -1, nil
	}
	in, err := os.Open(from)
	if err != nil {
		return -1, err
	}
	defer in.Close()
	out, err := renameio.NewPendingFile(to, renameio.WithPermissions(st.Mode().Perm()))
	if err != nil {
		return -1, err
	}
	defer out.Cleanup() //nolint:errcheck // what was put in its place is no longer there to be removed
	if n, err = out.ReadFrom(in); err != nil {
		return n, err
	}
	return n, out.CloseAtomicallyReplace()
}
