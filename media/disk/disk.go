// Package disk is the room for what is asked of a disk beyond reading and
// writing files: that something is really on it, and how much room there is.
package disk

import (
	"errors"
	"os"
	"syscall"
)

// Sync puts a file's bytes, or the names given in a folder, on the disk, so that
// they are there also when the power goes in the next moment.
func Sync(path string) error {
	f, err := os.Open(path)
	if err != nil {
		return err
	}
	err = f.Sync()
	if errors.Is(err, syscall.EINVAL) {
		err = nil // a file system that knows no such thing for folders
	}
	return errors.Join(err, f.Close())
}

// Free is the room that is left for this program on the disk of a folder, in bytes.
func Free(dir string) (int64, error) {
	var st syscall.Statfs_t
	err := syscall.Statfs(dir, &st)
	return int64(st.Bavail) * st.Bsize, err
}
