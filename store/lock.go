package store

import (
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"syscall"
)

// A folder is served by one program at a time: it takes what a stopped one left
// for its own, and two would take each other's. Other programs may read from it
// and add to it all the while.

// InUseError says that another program serves a folder.
type InUseError struct {
	Dir string
	// Address is where that program answers; "" while it is just starting.
	Address string
}

func (e *InUseError) Error() string {
	where := "It is just starting."
	if e.Address != "" {
		where = "It answers at " + e.Address + "."
	}
	return fmt.Sprintf("another server works on the folder %s. %s Use that one, stop it first, or serve another folder with --data", e.Dir, where)
}

// Lock is the right to serve a folder. It ends with Unlock, or with the program.
type Lock struct{ f *os.File }

// LockFolder takes a folder for a server; an *InUseError says who has it.
func LockFolder(dir string) (*Lock, error) {
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return nil, unwritable(dir, err)
	}
	f, err := os.OpenFile(filepath.Join(dir, "server.lock"), os.O_RDWR|os.O_CREATE, 0o644)
	if err != nil {
		return nil, unwritable(dir, err)
	}
	if err := syscall.Flock(int(f.Fd()), syscall.LOCK_EX|syscall.LOCK_NB); err != nil {
		defer f.Close()
		if !errors.Is(err, syscall.EWOULDBLOCK) {
			return nil, fmt.Errorf("the folder %s can't be locked: %w", dir, err)
		}
		b := make([]byte, 200)
		n, _ := f.ReadAt(b, 0)
		return nil, &InUseError{dir, strings.TrimSpace(string(b[:n]))}
	}
	return &Lock{f}, f.Truncate(0)
}

// Tell writes down where the server answers, for those who find the folder
// taken.
func (l *Lock) Tell(address string) error {
	_, err := l.f.WriteAt([]byte(address+"\n"), 0)
	return err
}

// Unlock gives the folder back.
func (l *Lock) Unlock() error { return errors.Join(l.f.Truncate(0), l.f.Close()) }

// unwritable says plainly that nothing can be written in a folder.
func unwritable(dir string, err error) error {
	switch {
	case errors.Is(err, syscall.EROFS):
		return fmt.Errorf("the folder %s is on a disk that can only be read; choose another with --data", dir)
	case errors.Is(err, os.ErrPermission):
		return fmt.Errorf("the folder %s can't be written to by this user; change its permissions or choose another with --data", dir)
	case errors.Is(err, syscall.ENOTDIR), errors.Is(err, os.ErrExist):
		return fmt.Errorf("%s is not a folder; choose another with --data", dir)
	}
	return full(err)
}

// scratch is a folder of this program's own for files that are not finished.
// It is locked as long as the program lives, so that another knows what is left
// over.
type scratch struct {
	dir  string
	lock *os.File
}

const scratchLock = ".lock"

// guardScratch keeps others from tidying while a folder is made and not yet
// locked, and from making one while somebody tidies.
func guardScratch(dir string) (release func(), err error) {
	f, err := os.OpenFile(filepath.Join(dir, "tmp.lock"), os.O_RDWR|os.O_CREATE, 0o644)
	if err != nil {
		return nil, err
	}
	if err := syscall.Flock(int(f.Fd()), syscall.LOCK_EX); err != nil {
		f.Close()
		return nil, err
	}
	return func() { f.Close() }, nil
}

// newScratch makes the folder below tmp.
func newScratch(dir string) (*scratch, error) {
	release, err := guardScratch(dir)
	if err != nil {
		return nil, err
	}
	defer release()
	own, err := os.MkdirTemp(filepath.Join(dir, "tmp"), "p-")
	if err != nil {
		return nil, err
	}
	f, err := os.OpenFile(filepath.Join(own, scratchLock), os.O_RDWR|os.O_CREATE, 0o644)
	if err == nil {
		err = syscall.Flock(int(f.Fd()), syscall.LOCK_EX|syscall.LOCK_NB)
	}
	if err != nil {
		_ = os.RemoveAll(own)
		return nil, err
	}
	return &scratch{own, f}, nil
}

func (s *scratch) close() error { return errors.Join(os.RemoveAll(s.dir), s.lock.Close()) }

// tidyScratch removes what programs left that are no more.
func tidyScratch(dir string) error {
	release, err := guardScratch(dir)
	if err != nil {
		return err
	}
	defer release()
	tmp := filepath.Join(dir, "tmp")
	entries, err := os.ReadDir(tmp)
	if err != nil {
		return err
	}
	for _, e := range entries {
		path := filepath.Join(tmp, e.Name())
		if f, err := os.OpenFile(filepath.Join(path, scratchLock), os.O_RDWR, 0); err == nil {
			taken := syscall.Flock(int(f.Fd()), syscall.LOCK_EX|syscall.LOCK_NB) != nil
			f.Close()
			if taken {
				continue
			}
		}
		if err := os.RemoveAll(path); err != nil {
			return err
		}
	}
	return nil
}
