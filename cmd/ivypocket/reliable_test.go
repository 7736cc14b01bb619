package main

import (
	"bytes"
	"crypto/sha256"
	"errors"
	"fmt"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"ivypocket/media/mediatest"
	"ivypocket/store"
)

// Two servers on one folder would take each other's uploads and renders. The
// second is told where the first one answers; other commands go on beside it.
func TestASecondServerIsTurnedAway(t *testing.T) {
	data := filepath.Join(t.TempDir(), "data")
	shelve(t, data)
	first, url := program(t, data)
	for _, args := range [][]string{{"serve", "--addr", "127.0.0.1:0"}, {"demo", "--addr", "127.0.0.1:0"}, {"restore", "latest"}} {
		if out, err := ivypocket(t, append([]string{"--data", data}, args...)...); err == nil || !strings.Contains(err.Error(), url) {
			t.Errorf("%s: %v %s", args[0], err, out)
		}
	}
	out := filepath.Join(t.TempDir(), "a.png")
	if said, err := ivypocket(t, "--data", data, "render", "two-tides", "--size", "64x36", "-o", out); err != nil {
		t.Errorf("%v %s", err, said)
	}
	// Its place is free when it is gone, also when it was killed.
	_ = first.Process.Kill()
	_ = first.Wait()
	if _, again := program(t, data); again == "" {
		t.Error("the folder stays taken")
	}
}

func TestADamagedDatabaseIsPutBack(t *testing.T) {
	data := filepath.Join(t.TempDir(), "data")
	shelve(t, data)
	if out, err := ivypocket(t, "--data", data, "restore"); err != nil || !strings.Contains(out, "no snapshot") {
		t.Errorf("%v %s", err, out)
	}
	cmd, url := program(t, data)
	for end := 0; end < 200; end++ { // a snapshot is taken at the start
		if out, _ := ivypocket(t, "--data", data, "restore"); strings.Contains(out, ".db") {
			break
		}
		request(t, "GET", url+"/api/shelf", nil, nil)
	}
	_ = cmd.Process.Kill()
	_ = cmd.Wait()
	for _, ext := range []string{"-wal", "-shm"} {
		_ = os.Remove(filepath.Join(data, "ivypocket.db"+ext))
	}
	if err := os.WriteFile(filepath.Join(data, "ivypocket.db"), bytes.Repeat([]byte{7}, 9000), 0o644); err != nil {
		t.Fatal(err)
	}
	if _, err := ivypocket(t, "--data", data, "serve", "--addr", "127.0.0.1:0"); err == nil || !strings.Contains(err.Error(), "restore latest") {
		t.Errorf("%v", err)
	}
	if out, err := ivypocket(t, "--data", data, "restore", "latest"); err != nil || !strings.Contains(out, "is kept in") {
		t.Errorf("%v %s", err, out)
	}
	_, url = program(t, data)
	var p struct{ Name string }
	if status := request(t, "POST", url+"/api/templates/two-tides/open", nil, &p); status != http.StatusOK || p.Name != "Two Tides" {
		t.Errorf("%d %+v", status, p)
	}
}

// The program decodes for itself what takes long.
func TestTheProgramDecodesForItself(t *testing.T) {
	c := root()
	var out bytes.Buffer
	c.SetIn(bytes.NewReader(mediatest.JPEG(t, mediatest.Quarters(640, 320), 0)))
	c.SetOut(&out)
	c.SetArgs([]string{decodeCommandName, "160", "80", "false"})
	if err := c.Execute(); err != nil || !strings.HasPrefix(out.String(), "P7\nWIDTH 160\nHEIGHT 80\n") {
		t.Errorf("%v %.40q", err, out.String())
	}
	for _, args := range [][]string{{"x", "1", "false"}, {"1", "1"}, {"1", "1", "maybe"}} {
		c = root()
		c.SetArgs(append([]string{decodeCommandName}, args...))
		c.SetIn(strings.NewReader(""))
		if err := c.Execute(); err == nil {
			t.Error(fmt.Sprint(args), "was taken")
		}
	}
}

// Values with a mistyped member are refused with its place, not drawn without it.
func TestValuesAreReadStrictly(t *testing.T) {
	data := filepath.Join(t.TempDir(), "data")
	shelve(t, data)
	values := filepath.Join(t.TempDir(), "v.json")
	for text, words := range map[string]string{
		`{"fils": {}}`:                                   "fils",
		`{"fills": {"ebb": {"framin": {}}}}`:             "fills.ebb.framin",
		`{"fills": {"ebb": {"framing": {"zom": 2}}}}`:    "fills.ebb.framing",
		`{"entries": {"border": {"amount": 3}}}`:         "entries.border",
		`{"frames": "many"}`:                             "frames",
		`{"fills": {"ebb": {"framing": {"zoom": 900}}}}`: "zoom",
	} {
		if err := os.WriteFile(values, []byte(text), 0o644); err != nil {
			t.Fatal(err)
		}
		if _, err := ivypocket(t, "--data", data, "render", "two-tides", "--values", values, "--size", "64x36", "-o", filepath.Join(t.TempDir(), "a.png")); err == nil || !strings.Contains(err.Error(), words) {
			t.Errorf("%s: %v", text, err)
		}
	}
}

// A backup is a data folder of its own and draws the same pictures, also one that is made while a server works; a restore that
// would miss something says what, and is taken back by name.
func TestABackupServesTheSamePictures(t *testing.T) {
	data, safe := filepath.Join(t.TempDir(), "data"), filepath.Join(t.TempDir(), "safe")
	empty, err := store.Open(data)
	if err != nil {
		t.Fatal(err)
	}
	if err := errors.Join(empty.TakeSnapshot(t.Context(), time.Now().Add(-time.Hour)), empty.Close()); err != nil {
		t.Fatal(err)
	}
	shelve(t, data)
	cmd, _ := program(t, data)
	if out, err := ivypocket(t, "--data", data, "backup", safe); err != nil || !strings.Contains(out, "holds everything") {
		t.Fatalf("%v %s", err, out)
	}
	_ = cmd.Process.Kill()
	_ = cmd.Wait()
	drawn := func(folder string) [sha256.Size]byte {
		t.Helper()
		path := filepath.Join(t.TempDir(), "a.png")
		if _, err := ivypocket(t, "--data", folder, "render", "two-tides", "--size", "192x108", "--frame", "20", "-o", path); err != nil {
			t.Fatal(err)
		}
		b, err := os.ReadFile(path)
		if err != nil {
			t.Fatal(err)
		}
		return sha256.Sum256(b)
	}
	if drawn(data) != drawn(safe) {
		t.Error("the backup draws something else")
	}
	list, err := store.Snapshots(data)
	if err != nil || len(list) == 0 {
		t.Fatal(err)
	}
	first := list[len(list)-1].Name
	if _, err := ivypocket(t, "--data", data, "restore", first); err == nil || !strings.Contains(err.Error(), "0 templates; the database now has 1") {
		t.Errorf("%v", err)
	}
	if _, err := ivypocket(t, "--data", data, "restore", first, "--yes"); err != nil {
		t.Fatal(err)
	}
	before, err := store.Replaced(data)
	if err != nil || len(before) != 1 {
		t.Fatalf("%v, %v", before, err)
	}
	if _, err := ivypocket(t, "--data", data, "restore", before[0].Name); err != nil {
		t.Fatal(err)
	}
	if drawn(data) != drawn(safe) {
		t.Error("taken back, it draws something else")
	}
	if _, err := ivypocket(t, "--data", data, "restore", "settle"); err == nil {
		t.Error("files may go on the day of a restore")
	}
}
