package media

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

// command prepares a helper program: in a process group of its own so that it
// and its children end together, with bounds on memory, processor time and
// open files, and without this program's environment.
func command(ctx context.Context, limit time.Duration, env []string, name string, args ...string) *exec.Cmd {
	full := append([]string{
		fmt.Sprintf("--as=%d", int64(helperBytes)), fmt.Sprintf("--cpu=%d", int(limit.Seconds())+1), "--nofile=64", "--core=0",
		"--", name}, args...)
	cmd := exec.CommandContext(ctx, "prlimit", full...)
	cmd.Env = append([]string{"PATH=" + os.Getenv("PATH"), "LANG=C.UTF-8", "HOME=/nonexistent"}, env...)
	cmd.SysProcAttr = &syscall.SysProcAttr{Setpgid: true, Pdeathsig: syscall.SIGKILL}
	cmd.Cancel = func() error { return syscall.Kill(-cmd.Process.Pid, syscall.SIGKILL) }
	cmd.WaitDelay = 2 * time.Second
	return cmd
}

// run runs a helper to its end and returns what it wrote. What it says on
// failure becomes the error.
func run(ctx context.Context, limit time.Duration, in io.Reader, env []string, name string, args ...string) ([]byte, error) {
	ctx, cancel := context.WithTimeout(ctx, limit)
	defer cancel()
	cmd := command(ctx, limit, env, name, args...)
	var out, complaint bytes.Buffer
	cmd.Stdin, cmd.Stdout, cmd.Stderr = in, &out, &capped{w: &complaint, left: 4096}
	err := cmd.Run()
	if err == nil {
		return out.Bytes(), nil
	}
	return nil, helperError(ctx, limit, name, err, complaint.String())
}

func helperError(ctx context.Context, limit time.Duration, name string, err error, complaint string) error {
	if errors.Is(ctx.Err(), context.DeadlineExceeded) {
		return fmt.Errorf("%s did not finish within %s", name, limit)
	}
	if ctx.Err() != nil {
		return ctx.Err()
	}
	lines := strings.Split(strings.TrimSpace(complaint), "\n")
	if last := lines[len(lines)-1]; last != "" {
		return fmt.Errorf("%s: %s", name, last)
	}
	return fmt.Errorf("%s: %w", name, err)
}

// capped keeps the first bytes of what is written and drops the rest.
type capped struct {
	w    io.Writer
	left int
}

func (c *capped) Write(p []byte) (int, error) {
	if n := min(len(p), c.left); n > 0 {
		c.left -= n
		if _, err := c.w.Write(p[:n]); err != nil {
			return 0, err
		}
	}
	return len(p), nil
}
