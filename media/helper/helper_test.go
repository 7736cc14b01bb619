package helper

import (
	"bytes"
	"context"
	"errors"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"testing"
	"time"
)

// A helper that goes on writing is ended, and what it wrote is not kept.
func TestAHelperThatWritesTooMuchIsEnded(t *testing.T) {
	var much *OutputError
	out, err := Run(context.Background(), Spec{Name: "yes", Limit: 20 * time.Second, Output: 1000}, nil)
	if !errors.As(err, &much) || much.Limit != 1000 || out != nil {
		t.Errorf("%v", err)
	}
	if out, err := Run(context.Background(), Spec{Name: "head", Args: []string{"-c", "1000", "/dev/zero"}, Limit: 20 * time.Second, Output: 1000}, nil); err != nil || len(out) != 1000 {
		t.Errorf("what it may write: %d, %v", len(out), err)
	}
	to := filepath.Join(t.TempDir(), "out")
	if _, err := Run(context.Background(), Spec{Name: "dd", Args: []string{"if=/dev/zero", "of=" + to, "bs=1000", "count=100"}, Limit: 20 * time.Second, File: 5000}, nil); err == nil {
		t.Error("a file may be larger than was said")
	}
	if st, err := os.Stat(to); err != nil || st.Size() > 5000 {
		t.Errorf("%v, %v", st, err)
	}
}

func TestAHelperEndsWithItsContext(t *testing.T) {
	ctx, cancel := context.WithCancel(context.Background())
	time.AfterFunc(50*time.Millisecond, cancel)
	var out bytes.Buffer
	if err := Stream(ctx, Spec{Name: "sleep", Args: []string{"60"}, Limit: time.Minute}, nil, &out); !errors.Is(err, context.Canceled) {
		t.Errorf("%v", err)
	}
}

// Folders of programs that are no more go; those of this one and of others that
// live stay, and so does what only looks like one.
func TestWhatKilledProgramsLeftIsSwept(t *testing.T) {
	dead := exec.Command("true")
	if err := dead.Run(); err != nil {
		t.Fatal(err)
	}
	dir := t.TempDir()
	stays := map[string]bool{
		scratchName + strconv.Itoa(dead.Process.Pid) + "-1": false,
		scratchName + strconv.Itoa(os.Getpid()) + "-1":      true,
		scratchName + "1-1": true, // the system's first process
		scratchName + "x":   true,
		"else":              true,
	}
	for name := range stays {
		if err := os.MkdirAll(filepath.Join(dir, name, "fonts"), 0o755); err != nil {
			t.Fatal(err)
		}
	}
	sweepScratch(dir)
	for name, want := range stays {
		if _, err := os.Stat(filepath.Join(dir, name)); (err == nil) != want {
			t.Errorf("%s: stays %v", name, err == nil)
		}
	}
	a, err := Scratch("a")
	if err != nil {
		t.Fatal(err)
	}
	if err := Clean(); err != nil {
		t.Error(err)
	}
	if _, err := os.Stat(filepath.Dir(a)); !os.IsNotExist(err) {
		t.Errorf("%s is left: %v", filepath.Dir(a), err)
	}
}
