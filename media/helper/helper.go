// Package helper is the room for programs run outside the process: each in a
// process group of its own, with bounds on what it may use, and gone when its
// context is.
package helper

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"os/exec"
	"strings"
	"syscall"
	"time"
)

// Bytes bounds the address space of a helper.
const Bytes = 4 << 30

// Rank says how urgent a helper is.
type Rank int

const (
	// Foreground is for what a person waits for.
	Foreground Rank = iota
	// Background takes only what the rest leaves of the processor.
	Background
)

// Spec is a program to be run.
type Spec struct {
	Name string
	Args []string
	// Limit bounds its processor time.
	Limit time.Duration
	Rank  Rank
	// Env is all it sees of the environment, beside the path.
	Env []string
}

// Command prepares a helper: in a process group of its own so that it and its
// children end together, with bounds on memory, processor time and open files,
// and without this program's environment.
func Command(ctx context.Context, s Spec) *exec.Cmd {
	name, args := "prlimit", append([]string{
		fmt.Sprintf("--as=%d", int64(Bytes)), fmt.Sprintf("--cpu=%d", int(s.Limit.Seconds())+1), "--nofile=64", "--core=0",
		"--", s.Name}, s.Args...)
	if s.Rank == Background {
		name, args = "chrt", append([]string{"--idle", "0", "prlimit"}, args...)
	}
	cmd := exec.CommandContext(ctx, name, args...)
	cmd.Env = append([]string{"PATH=" + os.Getenv("PATH"), "LANG=C.UTF-8", "HOME=/nonexistent"}, s.Env...)
	cmd.SysProcAttr = &syscall.SysProcAttr{Setpgid: true, Pdeathsig: syscall.SIGKILL}
	cmd.Cancel = func() error { return syscall.Kill(-cmd.Process.Pid, syscall.SIGKILL) }
	cmd.WaitDelay = 2 * time.Second
	return cmd
}

// Run runs a helper to its end and returns what it wrote; its time on the clock
// is bounded like that on the processor. What it says on failure becomes the
// error.
func Run(ctx context.Context, s Spec, in io.Reader) ([]byte, error) {
	var out bytes.Buffer
	err := Stream(ctx, s, in, &out)
	if err != nil {
		return nil, err
	}
	return out.Bytes(), nil
}

// Stream is Run with the output written as it comes.
func Stream(ctx context.Context, s Spec, in io.Reader, out io.Writer) error {
	ctx, cancel := context.WithTimeout(ctx, s.Limit)
	defer cancel()
	cmd := Command(ctx, s)
	complaint := &Complaint{}
	cmd.Stdin, cmd.Stdout, cmd.Stderr = in, out, complaint
	err := cmd.Run()
	switch {
	case err == nil:
		return nil
	case errors.Is(ctx.Err(), context.DeadlineExceeded):
		return fmt.Errorf("%s did not finish within %s", s.Name, s.Limit)
	case ctx.Err() != nil:
		return ctx.Err()
	case complaint.Last() != "":
		return fmt.Errorf("%s: %s", s.Name, complaint.Last())
	}
	return fmt.Errorf("%s: %w", s.Name, err)
}

// Complaint keeps the first few kilobytes of what a helper says on its error
// output and drops the rest.
type Complaint struct{ b []byte }

const maxComplaint = 8192

func (c *Complaint) Write(p []byte) (int, error) {
	c.b = append(c.b, p[:min(len(p), maxComplaint-len(c.b))]...)
	return len(p), nil
}

func (c *Complaint) String() string { return strings.TrimSpace(string(c.b)) }

// Last is the last line that was said.
func (c *Complaint) Last() string {
	lines := strings.Split(c.String(), "\n")
	return lines[len(lines)-1]
}
