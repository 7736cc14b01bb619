// Command soak has the real program work under a mixed load on a scratch folder
// and kills it outright, again and again, and fills the disk under it; after each
// it looks whether anything that was acknowledged is lost. It talks to loopback
// alone, and ends by itself.
//
// What must hold is written down in docs/reliability.md.
package main

import (
	"bufio"
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/base64"
	"encoding/hex"
	"encoding/json"
	"flag"
	"fmt"
	"image"
	"image/png"
	"io"
	"math/rand/v2"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"sync"
	"sync/atomic"
	"syscall"
	"time"
)

func main() {
	length := flag.Duration("for", 10*time.Minute, "how long it takes")
	program := flag.String("program", "bin/ivypocket", "the program")
	load := flag.Bool("load", false, "everything at once, and no kills: how long answers take")
	seed := flag.Uint64("seed", 1, "of the instants of the kills")
	flag.Parse()
	dir, err := os.MkdirTemp("", "ivypocket-soak-")
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
	defer os.RemoveAll(dir)
	s := &soak{program: *program, dir: filepath.Join(dir, "data"), rnd: rand.New(rand.NewPCG(*seed, 7)), client: &http.Client{Timeout: 60 * time.Second,
		Transport: &http.Transport{MaxIdleConnsPerHost: 64}}}
	end := time.Now().Add(*length)
	work := func() error { return s.run(end, filepath.Join(dir, "small")) }
	if *load {
		work = func() error { return s.hold(end) }
	}
	if err := work(); err != nil {
		fmt.Fprintln(os.Stderr, "soak:", err)
		os.Exit(1)
	}
	s.sum()
	if len(s.lost) > 0 {
		os.Exit(1)
	}
}

// Numbers of those who work at one time.
const (
	writers   = 4
	uploaders = 3
	viewers   = 6
)

// soak is what was done and what came of it.
type soak struct {
	program, dir string
	rnd          *rand.Rand
	client       *http.Client

	kills, fills               int
	operations, uploads, views atomic.Int64
	refused                    atomic.Int64 // with 503 or 507, which is an answer
	pieces                     []*piece
	took                       *took  // how long answers took, when that is asked
	stuck                      func() // called when one took too long

	mu   sync.Mutex
	kept map[string]string // hash of an acknowledged upload by its address
	lost []string
}

// piece is what one writer works on.
type piece struct {
	id              string
	base            int64
	acked, attempts int // the numbers it was last set to
}

func (s *soak) lose(format string, args ...any) {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.lost = append(s.lost, fmt.Sprintf(format, args...))
	fmt.Println("LOST:", s.lost[len(s.lost)-1])
}

// start starts the program on a folder and returns its address.
func (s *soak) start(dir string) (*exec.Cmd, string, error) {
	cmd := exec.Command(s.program, "--data", dir, "serve", "--addr", "127.0.0.1:0")
	cmd.SysProcAttr = &syscall.SysProcAttr{Pdeathsig: syscall.SIGKILL}
	var said bytes.Buffer
	cmd.Stderr = &said
	if s.took != nil {
		cmd.Stderr = io.MultiWriter(&said, os.Stderr) // what it is at, when it is asked
	}
	out, err := cmd.StdoutPipe()
	if err == nil {
		err = cmd.Start()
	}
	if err != nil {
		return nil, "", err
	}
	line, err := bufio.NewReader(out).ReadString('\n')
	_, url, ok := strings.Cut(strings.TrimSpace(line), "http://")
	if err != nil || !ok {
		_ = cmd.Wait()
		return nil, "", fmt.Errorf("the program did not start: %s", said.String())
	}
	return cmd, "http://" + url, nil
}

func (s *soak) run(end time.Time, small string) error {
	if err := s.seed(); err != nil {
		return err
	}
	s.kept = map[string]string{}
	for round := 0; time.Now().Before(end); round++ {
		cmd, url, err := s.start(s.dir)
		if err != nil {
			return err
		}
		if round == 0 {
			if err := s.open(url); err != nil {
				return err
			}
		}
		s.check(url)
		ctx, stop := context.WithTimeout(context.Background(), time.Duration(500+s.rnd.IntN(4500))*time.Millisecond)
		s.load(ctx, url, func() { _ = cmd.Process.Signal(syscall.SIGKILL) })
		stop()
		_ = cmd.Wait()
		s.kills++
		if round%8 == 3 {
			if err := s.fullDisk(small); err != nil {
				return err
			}
		}
		fmt.Printf("%3d kills, %d full disks: %d operations and %d uploads acknowledged, %d pictures, %d refused, %d lost\n",
			s.kills, s.fills, s.operations.Load(), s.uploads.Load(), s.views.Load(), s.refused.Load(), len(s.lost))
	}
	cmd, url, err := s.start(s.dir)
	if err != nil {
		return err
	}
	s.check(url)
	_ = cmd.Process.Signal(syscall.SIGTERM)
	return cmd.Wait()
}

func (s *soak) seed() error {
	if out, err := exec.Command(s.program, "--data", s.dir, "demo", "--seed-only").CombinedOutput(); err != nil {
		return fmt.Errorf("seeding: %s", out)
	}
	return nil
}

// open makes a piece for each writer.
func (s *soak) open(url string) error {
	for range writers {
		var p struct {
			ID       string
			Revision int64
		}
		if status, b := s.ask("POST", url+"/api/templates/four-winds/open?new=true", nil, &p); status != 200 {
			return fmt.Errorf("a piece could not be made: %d %s", status, b)
		}
		s.pieces = append(s.pieces, &piece{id: p.ID, base: p.Revision})
	}
	return nil
}

// ask sends JSON and reads JSON; a status of 0 is no answer.
func (s *soak) ask(method, url string, body, into any, header ...string) (int, []byte) {
	var r io.Reader
	switch b := body.(type) {
	case nil:
	case []byte:
		r = bytes.NewReader(b)
	default:
		j, _ := json.Marshal(b)
		r = bytes.NewReader(j)
	}
	req, err := http.NewRequest(method, url, r)
	if err != nil {
		return 0, nil
	}
	req.Header.Set("Content-Type", "application/json")
	for i := 0; i+1 < len(header); i += 2 {
		req.Header.Set(header[i], header[i+1])
	}
	begun := time.Now()
	res, err := s.client.Do(req)
	if s.took != nil {
		defer func() {
			d := time.Since(begun)
			if s.took.note(kindOf(method, req.URL.Path), d); d > hung {
				s.lose("%s %s took %.1f s", method, req.URL.Path, d.Seconds())
				s.stuck()
			}
		}()
	}
	if err != nil {
		return 0, nil
	}
	defer res.Body.Close()
	b, err := io.ReadAll(res.Body)
	if err != nil {
		return 0, nil
	}
	if res.StatusCode >= 500 && res.StatusCode != 503 && res.StatusCode != 507 {
		s.lose("%s %s answered %d: %.200s", method, req.URL.Path, res.StatusCode, b)
	}
	if res.StatusCode == 503 || res.StatusCode == 507 {
		s.refused.Add(1)
	}
	if into != nil && res.StatusCode < 300 && json.Unmarshal(b, into) != nil {
		return 0, nil
	}
	if at := res.Header.Get("Location"); at != "" {
		b = []byte(at)
	}
	return res.StatusCode, b
}

// load has all work until ctx ends; then kill is called in the middle of it.
func (s *soak) load(ctx context.Context, url string, kill func()) {
	var wg sync.WaitGroup
	for _, p := range s.pieces {
		wg.Go(func() {
			for ctx.Err() == nil && s.write(url, p) {
			}
		})
	}
	for range uploaders {
		wg.Go(func() {
			for ctx.Err() == nil && s.upload(url) {
			}
		})
	}
	for i := range viewers {
		wg.Go(func() {
			for n := i; ctx.Err() == nil && s.view(url, n); n += viewers {
			}
		})
	}
	wg.Go(func() {
		s.ask("POST", url+"/api/renders", map[string]any{"piece": s.pieces[0].id, "format": "landscape", "kind": "mp4", "width": 640, "height": 360}, nil)
	})
	<-ctx.Done()
	kill()
	wg.Wait()
}

// write sets a number on the sheet; the next one is larger.
func (s *soak) write(url string, p *piece) bool {
	p.attempts++
	var done struct {
		Piece struct{ Revision int64 }
	}
	status, _ := s.ask("POST", url+"/api/pieces/"+p.id+"/operations", map[string]any{"id": fmt.Sprintf("%s-%d", p.id, p.attempts), "base": p.base,
		"op": map[string]any{"kind": "name", "name": strconv.Itoa(p.attempts)}}, &done)
	if status == 200 {
		p.base, p.acked = done.Piece.Revision, p.attempts
		s.operations.Add(1)
	}
	return status != 0
}

// upload sends a picture that nobody has sent before, by the tus protocol.
func (s *soak) upload(url string) bool {
	img := image.NewNRGBA(image.Rect(0, 0, 64, 64))
	for i := range img.Pix {
		img.Pix[i] = byte(rand.Uint32())
	}
	var b bytes.Buffer
	_ = png.Encode(&b, img)
	sum := sha256.Sum256(b.Bytes())
	hash := "sha256:" + hex.EncodeToString(sum[:])
	status, at := s.ask("POST", url+"/api/uploads/", nil, nil, "Tus-Resumable", "1.0.0", "Upload-Length", strconv.Itoa(b.Len()),
		"Upload-Metadata", "filename "+base64.StdEncoding.EncodeToString([]byte("soak.png")))
	if status != 201 {
		return status != 0
	}
	path := string(at[bytes.Index(at, []byte("/api/")):])
	half := b.Len() / 2
	for _, part := range [][2]int{{0, half}, {half, b.Len()}} {
		status, _ = s.ask("PATCH", url+path, b.Bytes()[part[0]:part[1]], nil, "Tus-Resumable", "1.0.0", "Upload-Offset", strconv.Itoa(part[0]), "Content-Type", "application/offset+octet-stream")
		if status != 200 && status != 204 {
			return status != 0
		}
	}
	s.uploads.Add(1)
	s.mu.Lock()
	s.kept[path] = hash
	s.mu.Unlock()
	return true
}

// view asks for a picture of some kind.
func (s *soak) view(url string, n int) bool {
	p := s.pieces[n%len(s.pieces)]
	var status int
	switch n % 3 {
	case 0:
		status, _ = s.ask("POST", url+"/api/pieces/"+p.id+"/preview", map[string]any{"format": "landscape", "frame": n % 200, "width": 640, "height": 360, "op": map[string]any{"kind": "name", "name": "x"}}, nil)
	case 1:
		status, _ = s.ask("GET", url+"/api/pieces/"+p.id+"/poster?side=300", nil, nil)
	default:
		status, _ = s.ask("GET", url+"/api/shelf", nil, nil)
	}
	s.views.Add(1)
	return status != 0
}

// check looks whether all is there that was acknowledged, and nothing has a name
// that is not whole.
func (s *soak) check(url string) {
	for _, p := range s.pieces {
		var v struct {
			Name     string
			Revision int64
		}
		if status, b := s.ask("GET", url+"/api/pieces/"+p.id, nil, &v); status != 200 {
			s.lose("piece %s: %d %.200s", p.id, status, b)
			continue
		}
		if n, err := strconv.Atoi(v.Name); p.acked > 0 && (err != nil || n < p.acked || n > p.attempts) {
			s.lose("piece %s is at %q; number %d was acknowledged and %d was the last that was sent", p.id, v.Name, p.acked, p.attempts)
		}
		p.base = v.Revision
	}
	var list []struct{ Hash string }
	if status, b := s.ask("GET", url+"/api/media", nil, &list); status != 200 {
		s.lose("the media store: %d %.200s", status, b)
		return
	}
	there := map[string]bool{}
	for _, m := range list {
		there[m.Hash] = true
	}
	for path, hash := range s.kept {
		if !there[hash] {
			s.lose("upload %s, %s", path, hash)
		}
	}
	// Some are read back, and asked for by their uploads' addresses.
	left := 20
	for path, hash := range s.kept {
		if left--; left < 0 {
			break
		}
		_, b := s.ask("GET", url+"/api/media/"+hash+"/file", nil, nil)
		if sum := sha256.Sum256(b); "sha256:"+hex.EncodeToString(sum[:]) != hash {
			s.lose("the file of %s is another", hash)
		}
		if status, b := s.ask("GET", url+path, nil, nil); status != 200 || !bytes.Contains(b, []byte(hash)) {
			s.lose("the answer of upload %s: %d %.200s", path, status, b)
		}
	}
	var health struct{ Troubles []struct{ What, Why string } }
	s.ask("GET", url+"/api/health", nil, &health)
	for _, t := range health.Troubles {
		s.lose("%s: %s", t.What, t.Why)
	}
}

// fullDisk fills a small disk to its last byte while the program works on it. It
// takes the right to mount one.
func (s *soak) fullDisk(dir string) error {
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return err
	}
	if err := syscall.Mount("tmpfs", dir, "tmpfs", 0, "size=160m"); err != nil {
		fmt.Println("no disk can be mounted here, so none was filled:", err)
		return nil
	}
	defer func() { _ = syscall.Unmount(dir, syscall.MNT_DETACH) }()
	other := &soak{program: s.program, dir: dir, rnd: s.rnd, client: s.client, kept: map[string]string{}}
	defer func() {
		s.lost = append(s.lost, other.lost...)
		s.operations.Add(other.operations.Load())
		s.uploads.Add(other.uploads.Load())
		s.refused.Add(other.refused.Load())
	}()
	// The demo's media takes a while to draw; it is taken from where it is.
	if err := os.CopyFS(filepath.Join(dir, "demo media"), os.DirFS(filepath.Join(s.dir, "demo media"))); err != nil {
		return err
	}
	if out, err := exec.Command(s.program, "--data", dir, "demo", "--seed-only").CombinedOutput(); err != nil {
		return fmt.Errorf("seeding: %s", out)
	}
	cmd, url, err := other.start(dir)
	if err != nil {
		return err
	}
	defer func() { _ = cmd.Process.Kill(); _ = cmd.Wait() }()
	if err := other.open(url); err != nil {
		return err
	}
	ctx, stop := context.WithTimeout(context.Background(), time.Second)
	other.load(ctx, url, func() {})
	stop()
	fill, err := os.Create(filepath.Join(dir, "filler"))
	if err != nil {
		return err
	}
	for block := make([]byte, 64<<10); err == nil; {
		_, err = fill.Write(block)
	}
	fill.Close()
	ctx, stop = context.WithTimeout(context.Background(), 2*time.Second)
	other.load(ctx, url, func() {})
	stop()
	if status, b := other.ask("POST", url+"/api/media/clear", map[string]any{"hashes": []string{}}, nil); status != 200 {
		other.lose("clearing media on a full disk: %d %.200s", status, b)
	}
	if err := os.Remove(fill.Name()); err != nil {
		return err
	}
	if status, b := other.ask("POST", url+"/api/media/clear", map[string]any{"hashes": values(other.kept), "back": true}, nil); status != 200 {
		other.lose("bringing media back: %d %.200s", status, b)
	}
	other.check(url)
	before := other.operations.Load()
	ctx, stop = context.WithTimeout(context.Background(), time.Second)
	other.load(ctx, url, func() {})
	stop()
	if other.operations.Load() == before {
		other.lose("nothing goes on though there is room again")
	}
	other.check(url)
	s.fills++
	return nil
}

func values(m map[string]string) []string {
	out := []string{}
	for _, v := range m {
		out = append(out, v)
	}
	return out
}

func (s *soak) sum() {
	fmt.Printf("\n%d kills and %d full disks; %d operations and %d uploads were acknowledged, %d pictures drawn, %d requests refused with when to ask again.\n",
		s.kills, s.fills, s.operations.Load(), s.uploads.Load(), s.views.Load(), s.refused.Load())
	if len(s.lost) == 0 {
		fmt.Println("Nothing was lost.")
		return
	}
	fmt.Printf("LOST OR WRONG, %d:\n%s\n", len(s.lost), strings.Join(s.lost, "\n"))
}
