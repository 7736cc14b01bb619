package store

import (
	"context"
	"errors"
	"io"
	"os"
	"path/filepath"
	"syscall"

	"github.com/jmoiron/sqlx"

	"ivypocket/media/disk"
)

// Reserve is the room on the disk, in bytes, that everything which writes leaves
// free, so that the database can always go on: an operation is small.
const Reserve = 64 << 20

// ErrDiskFull says that nothing more can be written.
var ErrDiskFull = errors.New("the disk is full; nothing was changed. Make room and try again")

// Free is the room on the disk that this program may use, in bytes.
func (s *Store) Free() (int64, error) { return disk.Free(s.dir) }

// Room is ErrDiskFull when need more bytes would not leave the reserve.
func (s *Store) Room(need int64) error { return room(s.dir, need) }

func room(dir string, need int64) error {
	free, err := disk.Free(dir)
	if err == nil && free-need < Reserve {
		return ErrDiskFull
	}
	return nil // where it can't be asked, writing tells
}

// askEvery is how many bytes are written before the room is asked for again.
const askEvery = 8 << 20

// Roomy passes on what is read for as long as writing it leaves the reserve;
// then reading fails with ErrDiskFull.
func (s *Store) Roomy(r io.Reader) io.Reader { return &roomy{r: r, dir: s.dir} }

type roomy struct {
	r    io.Reader
	dir  string
	left int64 // until the room is asked for again
}

func (r *roomy) Read(p []byte) (int, error) {
	if r.left <= 0 {
		if err := room(r.dir, askEvery); err != nil {
			return 0, err
		}
		r.left = askEvery
	}
	n, err := r.r.Read(p[:min(int64(len(p)), r.left)])
	r.left -= int64(n)
	return n, err
}

// The spare is a file that is given up when the disk is full, so that there is
// room for noting that something is cleared away.
const (
	spareFile  = "spare"
	spareBytes = 4 << 20
)

// keepSpare makes the spare where it is not there and there is room for it.
func (s *Store) keepSpare() error {
	path := filepath.Join(s.dir, spareFile)
	if st, err := os.Stat(path); err == nil && st.Size() == spareBytes {
		return nil
	}
	if s.Room(spareBytes) != nil {
		return nil // another time
	}
	f, err := os.OpenFile(path, os.O_RDWR|os.O_CREATE, 0o644)
	if err != nil {
		return err
	}
	err = syscall.Fallocate(int(f.Fd()), 0, 0, spareBytes)
	if errors.Is(err, syscall.EOPNOTSUPP) {
		_, err = f.Write(make([]byte, spareBytes))
	}
	if err = errors.Join(err, f.Close()); err != nil {
		_ = os.Remove(path)
	}
	return full(err)
}

// makingRoom is a transaction of the kind that leads to more room on the disk:
// on a full one it takes the place of the spare.
func (s *Store) makingRoom(ctx context.Context, f func(*sqlx.Tx) error) error {
	err := s.db.tx(ctx, f)
	if errors.Is(err, ErrDiskFull) && os.Remove(filepath.Join(s.dir, spareFile)) == nil {
		err = s.db.tx(ctx, f)
	}
	return err
}

// Cleared is how many media were cleared away whose files are still there, and
// the bytes they take.
func (s *Store) Cleared() (n int, bytes int64) {
	for _, md := range s.All() {
		if md.Cleared == "" {
			continue
		}
		n++
		for _, p := range s.filesOf(md.Hash) {
			if st, err := os.Stat(p); err == nil {
				bytes += st.Size()
			}
		}
	}
	return n, bytes
}
