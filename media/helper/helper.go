// Package helper is the room for programs run outside the process: each in a
// process group of its own, with bounds on what it may use, and gone when its
// context is.
package helper

import (
	"bytes"
	"context"
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
	// Output bounds what it may write to its output, in bytes, and File the size
	// of any file it makes. It is ended where it goes beyond; what says how much
	// is expected may lie. 0 lets it write nothing at all by Run and Stream, and
	// bounds no file.
	Output, File int64
	Rank         Rank
	// Env is all it sees of the environment, beside the path.
	Env []string
}

// Command prepares a helper: in a process group of its own so that it and its
// children end together, with bounds on memory, processor time and open files,
// and without this program's environment.
func Command(ctx context.Context, s Spec) *exec.Cmd {
	bounds := []string{fmt.Sprintf("--as=%d", int64(Bytes)), fmt.Sprintf("--cpu=%d", int(s.Limit.Seconds())+1), "--nofile=64", "--core=0"}
	if s.File > 0 {
		bounds = append(bounds, fmt.Sprintf("--fsize=%d", s.File))
	}
	name, args := "prlimit", append(append(bounds, "--", s.Name), s.Args...)
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
	asked := ctx
	ctx, cancel := context.WithTimeout(ctx, s.Limit)
	defer cancel()
	cmd := Command(ctx, s)
	complaint := &Complaint{}
	bounded := &bounded{to: out, left: s.Output, end: cancel}
	cmd.Stdin, cmd.Stdout, cmd.Stderr = in, bounded, complaint
	err := cmd.Run()
	switch {
	case bounded.over:
		return &OutputError{s.Name, s.Output}
	case err == nil:
		return nil
	case asked.Err() != nil:
		return asked.Err()
	case ctx.Err() != nil:
		return fmt.Errorf("%s did not finish within %s", s.Name, s.Limit)
	case complaint.Last() != "":
		return fmt.Errorf("%s: %s", s.Name, complaint.Last())
	}
	return fmt.Errorf("%s: %w", s.Name, err)
}

// OutputError says that a helper wrote more than it should have.
type OutputError struct {
	Name  string
	Limit int64 // bytes
}

func (e *OutputError) Error() string {
	return fmt.Sprintf("%s wrote more than the %d bytes that were to be expected, and was ended", e.Name, e.Limit)
}

// bounded passes on what a helper writes, up to a number of bytes, and ends the
// helper that goes beyond.
type bounded struct {
	to   io.Writer
	left int64
	end  context.CancelFunc
	over bool
}

func (b *bounded) Write(p []byte) (int, error) {
	if b.left -= int64(len(p)); b.left < 0 {
		b.over = true
		b.end()
		return 0, io.ErrShortWrite
	}
	return b.to.Write(p)
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
