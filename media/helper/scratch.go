package helper

import (
	"errors"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"sync"
	"syscall"
)

// scratchName begins the names of folders that programs make for their helpers;
// after it comes the number of the process that made it.
const scratchName = "ivypocket-scratch-"

// scratch is this process' own folder. It is made when it is first needed.
var scratch = sync.OnceValues(func() (string, error) {
	sweepScratch(os.TempDir())
	return os.MkdirTemp(os.TempDir(), scratchName+strconv.Itoa(os.Getpid())+"-")
})

// Scratch makes a new folder for a helper's files, below one that is this
// process' own. Whoever asked for it removes it; what is forgotten goes with
// Clean, and what a killed program left when the next one asks for the first.
func Scratch(what string) (string, error) {
	own, err := scratch()
	if err != nil {
		return "", err
	}
	return os.MkdirTemp(own, what+"-")
}

// Clean removes all that Scratch made. Nothing may use it any more.
func Clean() error {
	own, err := scratch()
	if err != nil {
		return nil // there is none
	}
	return os.RemoveAll(own)
}

// sweepScratch removes folders of processes that are no more.
func sweepScratch(dir string) {
	left, _ := filepath.Glob(filepath.Join(dir, scratchName+"*"))
	for _, path := range left {
		number, _, _ := strings.Cut(strings.TrimPrefix(filepath.Base(path), scratchName), "-")
		pid, err := strconv.Atoi(number)
		if err != nil || pid < 1 {
			continue
		}
		if st, err := os.Lstat(path); err != nil || !st.IsDir() {
			continue
		}
		if errors.Is(syscall.Kill(pid, 0), syscall.ESRCH) {
			_ = os.RemoveAll(path) // somebody else's folder stays
		}
	}
}
