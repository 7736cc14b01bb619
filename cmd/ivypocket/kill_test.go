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
func program(t *testing.T, data string, more ...string) (*exec.Cmd, string) {
	t.Helper()
	cmd := exec.Command(os.Args[0], append([]string{"--data", data, "serve", "--addr", "127.0.0.1:0"}, more...)...)
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
	if err != nil || !strings.Contains(line, "http") {
		t.Fatalf("%v: %q", err, line)
	}
	return cmd, strings.TrimSpace(line[strings.Index(line, "http"):])
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

// Killed outright while a layer of a draft is dragged: every step that was acknowledged
// is there at the next start, none twice, and the draft goes on.
func TestADraftSurvivesAKillInMidDrag(t *testing.T) {
	data := filepath.Join(t.TempDir(), "data")
	cmd, url := program(t, data)
	var d struct {
		ID       string
		Revision int64
		Layers   []struct{ ID string }
		Undo     string
	}
	if status := request(t, "POST", url+"/api/drafts", []byte(`{"start": {"name": "Drag", "rate": "25", "frames": 50, "canvases": [[1280, 720]]}}`), &d); status != 200 {
		t.Fatal(status)
	}
	var done struct {
		Draft struct{ Revision int64 }
	}
	ops := url + "/api/drafts/" + d.ID + "/operations"
	if status := request(t, "POST", ops, []byte(`{"id": "put-it-there", "base": 0, "op": {"kind": "insert", "way": "shape", "path": "star", "format": "landscape"}}`), &done); status != 200 {
		t.Fatal(status)
	}
	// Steps are kept one after another, with pictures of the drag between; the kill comes
	// at some moment of it.
	kept := make(chan int64, 10_000)
	go func() {
		defer close(kept)
		for i := int64(1); ; i++ {
			drag := fmt.Sprintf(`{"kind": "place", "layers": ["star"], "to": [%d, 3], "format": "landscape"}`, i)
			for path, body := range map[string]string{"preview": fmt.Sprintf(`{"op": %s, "format": "landscape", "width": 320, "height": 180}`, drag), "operations": fmt.Sprintf(`{"id": "step-%06d", "base": %d, "op": %s}`, i, i, drag)} {
				res, err := http.Post(url+"/api/drafts/"+d.ID+"/"+path, "application/json", strings.NewReader(body))
				if err != nil {
					return
				}
				_, err = io.Copy(io.Discard, res.Body)
				res.Body.Close()
				if err != nil {
					return
				}
				if path == "operations" && res.StatusCode == 200 {
					kept <- i + 1
				}
			}
		}
	}()
	time.Sleep(400 * time.Millisecond)
	if err := cmd.Process.Signal(syscall.SIGKILL); err != nil {
		t.Fatal(err)
	}
	_ = cmd.Wait()
	last := int64(1)
	for r := range kept {
		last = r
	}
	if last < 3 {
		t.Fatalf("only %d steps were kept before the kill", last)
	}
	_, url = program(t, data)
	if status := request(t, "GET", url+"/api/drafts/"+d.ID, nil, &d); status != 200 || d.Revision < last || d.Revision > last+1 || len(d.Layers) != 1 || d.Undo != "Move Star" {
		t.Fatalf("%d: revision %d of %d, %v, undo %q", status, d.Revision, last, d.Layers, d.Undo)
	}
	// The step that may or may not have been kept is sent again, and is there once.
	was := d.Revision
	again := fmt.Sprintf(`{"id": "step-%06d", "base": %d, "op": {"kind": "place", "layers": ["star"], "to": [1, 3], "format": "landscape"}}`, was-1, was)
	if status := request(t, "POST", url+"/api/drafts/"+d.ID+"/operations", []byte(again), &done); status != 200 || done.Draft.Revision != was {
		t.Errorf("%d: sent again it is at revision %d, not %d", status, done.Draft.Revision, was)
	}
	if status := request(t, "POST", url+"/api/drafts/"+d.ID+"/undo", []byte(`{"id": "take-it-back"}`), &done); status != 200 || done.Draft.Revision != was+1 {
		t.Errorf("%d: undone, it is at revision %d", status, done.Draft.Revision)
	}
}
