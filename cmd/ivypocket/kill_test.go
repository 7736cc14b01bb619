package main

import (
	"bufio"
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"syscall"
	"testing"
	"time"

	"ivypocket/media/mediatest"
)

// TestMain is the program itself when it is asked to be.
func TestMain(m *testing.M) {
	if os.Getenv("IVYPOCKET_TEST_PROGRAM") != "" {
		main()
		return
	}
	os.Exit(m.Run())
}

// program starts the real program over a folder and returns its address.
func program(t *testing.T, data string) (*exec.Cmd, string) {
	t.Helper()
	cmd := exec.Command(os.Args[0], "--data", data, "serve", "--addr", "127.0.0.1:0")
	cmd.Env = append(os.Environ(), "IVYPOCKET_TEST_PROGRAM=1")
	cmd.SysProcAttr = &syscall.SysProcAttr{Setpgid: true}
	out, err := cmd.StdoutPipe()
	if err == nil {
		err = cmd.Start()
	}
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = cmd.Process.Kill(); _ = cmd.Wait() })
	line, err := bufio.NewReader(out).ReadString('\n')
	if err != nil || !strings.Contains(line, "http://") {
		t.Fatalf("%v: %q", err, line)
	}
	return cmd, strings.TrimSpace(line[strings.Index(line, "http://"):])
}

func request(t *testing.T, method, url string, body []byte, into any) int {
	t.Helper()
	req, err := http.NewRequest(method, url, bytes.NewReader(body))
	if err != nil {
		t.Fatal(err)
	}
	req.Header.Set("Content-Type", "application/json")
	res, err := http.DefaultClient.Do(req)
	if err != nil {
		t.Fatal(err)
	}
	defer res.Body.Close()
	b, err := io.ReadAll(res.Body)
	if err != nil {
		t.Fatal(err)
	}
	if into != nil {
		if err := json.Unmarshal(b, into); err != nil {
			t.Fatalf("%s %s: %d %s", method, url, res.StatusCode, b)
		}
	}
	return res.StatusCode
}

// Killed outright in the middle of a render and of a growing proxy: nothing
// half-written has a name, no helper lives on, and the next start goes on.
func TestAKilledProgramLeavesNothingHalfWritten(t *testing.T) {
	dir := t.TempDir()
	data := filepath.Join(dir, "data")
	if _, err := ivypocket(t, "--data", data, "render", split, "--size", "480x270", "--frame", "0", "-o", filepath.Join(dir, "a.png")); err != nil {
		t.Fatal(err)
	}
	shelve(t, data)
	cmd, url := program(t, data)
	var m struct{ Hash string }
	if status := request(t, "POST", url+"/api/media?name=c.mp4", mediatest.Clip(t, 1280, 720, "25", 400), &m); status != 200 {
		t.Fatal(status)
	}
	var p struct{ ID string }
	request(t, "POST", url+"/api/templates/two-tides/open", nil, &p)
	request(t, "POST", url+"/api/pieces/"+p.ID+"/operations", []byte(fmt.Sprintf(`{"id": "fill-it-now", "base": 0, "op": {"kind": "fill", "pocket": "flood", "media": %q}}`, m.Hash)), nil)
	var r struct{ ID, State string }
	request(t, "POST", url+"/api/renders", []byte(fmt.Sprintf(`{"piece": %q, "format": "landscape", "kind": "mp4", "width": 1920, "height": 1080}`, p.ID)), &r)
	state := func(url string) (state string, done int64) {
		var list []struct {
			ID, State string
			Done      int64
		}
		request(t, "GET", url+"/api/renders", nil, &list)
		return list[0].State, list[0].Done
	}
	for end := time.Now().Add(60 * time.Second); ; time.Sleep(20 * time.Millisecond) {
		if _, done := state(url); done > 0 {
			break
		}
		if time.Now().After(end) {
			t.Fatal("the render did not begin")
		}
	}
	if err := cmd.Process.Signal(syscall.SIGKILL); err != nil {
		t.Fatal(err)
	}
	_ = cmd.Wait()
	for _, sub := range []string{"renders", "proxies"} {
		entries, err := os.ReadDir(filepath.Join(data, sub))
		if err != nil {
			t.Fatal(err)
		}
		for _, e := range entries {
			if !strings.HasPrefix(e.Name(), ".") {
				t.Errorf("%s/%s has a name though it can't be whole", sub, e.Name())
			}
		}
	}
	// Helpers end with the program that started them.
	gone := func() bool {
		files, _ := filepath.Glob("/proc/[0-9]*/cmdline")
		for _, f := range files {
			if b, err := os.ReadFile(f); err == nil && bytes.Contains(b, []byte(data)) {
				return false
			}
		}
		return true
	}
	for end := time.Now().Add(10 * time.Second); !gone(); time.Sleep(50 * time.Millisecond) {
		if time.Now().After(end) {
			t.Fatal("a helper outlived the program")
		}
	}
	_, url = program(t, data)
	// A render gives way to all else on a busy machine.
	for end := time.Now().Add(6 * time.Minute); ; time.Sleep(100 * time.Millisecond) {
		if s, _ := state(url); s == "done" {
			break
		} else if s == "failed" || time.Now().After(end) {
			t.Fatalf("after the next start the render is %s", s)
		}
	}
	for _, sub := range []string{"renders", "proxies"} {
		if left, _ := filepath.Glob(filepath.Join(data, sub, ".*")); len(left) > 1 { // a proxy may be growing again
			t.Errorf("%v was left", left)
		}
	}
}
