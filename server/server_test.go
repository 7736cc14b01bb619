package server

import (
	"bufio"
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"image"
	"image/color"
	_ "image/jpeg" // thumbnails are read back
	_ "image/png"
	"io"
	"io/fs"
	"log"
	"log/slog"
	"mime"
	"mime/multipart"
	"net"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"testing/fstest"
	"time"

	"ivypocket/core/sheet"
	"ivypocket/core/template"
	"ivypocket/core/timing"
	"ivypocket/deliver"
	"ivypocket/media/helper"
	"ivypocket/media/mediatest"
	"ivypocket/store"
)

// house is a running server over the written split.
type house struct {
	t     *testing.T
	srv   *Server
	store *store.Store
	http  *httptest.Server
	piece string
	said  saying // what net/http found wrong
	stop  func()
}

// saying is a text that several may write.
type saying struct {
	mu sync.Mutex
	b  strings.Builder
}

func (s *saying) Write(p []byte) (int, error) {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.b.Write(p)
}

func (s *saying) String() string {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.b.String()
}

func build(t *testing.T, dir string) *house {
	t.Helper()
	s, err := store.Open(dir)
	if err != nil {
		t.Fatal(err)
	}
	b, err := os.ReadFile("../docs/examples/split.json")
	if err != nil {
		t.Fatal(err)
	}
	d, err := template.Parse(b)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := s.Release(context.Background(), d); err != nil {
		t.Fatal(err)
	}
	web := fs.FS(fstest.MapFS{"index.html": {Data: []byte("<title>page</title>")}, "assets/a.js": {Data: []byte("1")}})
	srv, err := New(s, web, slog.New(slog.DiscardHandler))
	if err != nil {
		t.Fatal(err)
	}
	h := &house{t: t, store: s, srv: srv}
	ctx, cancel := context.WithCancel(context.Background())
	ended := make(chan error, 1)
	go func() { ended <- h.srv.Run(ctx) }()
	h.http = httptest.NewUnstartedServer(h.srv.Handler())
	h.http.Config.ErrorLog = log.New(&h.said, "", 0)
	h.http.Start()
	stopped := false
	h.stop = func() {
		if stopped {
			return
		}
		stopped = true
		cancel()
		h.http.CloseClientConnections()
		h.http.Close()
		if err := <-ended; err != nil {
			t.Error(err)
		}
		h.srv.Close()
		s.Close()
		// Of two answers to one request, of handlers that fell, and the like.
		if said := h.said.String(); said != "" {
			t.Errorf("the server of HTTP said:\n%s", said)
		}
	}
	t.Cleanup(h.stop)
	h.piece = h.post("/api/templates/two-tides/open", nil, 200)["id"].(string)
	return h
}

func (h *house) do(method, path string, body any, header ...string) (*http.Response, []byte) {
	h.t.Helper()
	var r io.Reader
	switch b := body.(type) {
	case nil:
	case []byte:
		r = bytes.NewReader(b)
	default:
		j, err := json.Marshal(b)
		if err != nil {
			h.t.Fatal(err)
		}
		r = bytes.NewReader(j)
	}
	req, err := http.NewRequest(method, h.http.URL+path, r)
	if err != nil {
		h.t.Fatal(err)
	}
	if r != nil {
		req.Header.Set("Content-Type", "application/json")
	}
	req.Header.Set("Ivy-Author", "ann")
	for i := 0; i < len(header); i += 2 {
		if header[i] == "Host" {
			req.Host = header[i+1]
		}
		req.Header.Set(header[i], header[i+1])
	}
	res, err := http.DefaultClient.Do(req)
	if err != nil {
		h.t.Fatal(err)
	}
	defer res.Body.Close()
	out, err := io.ReadAll(res.Body)
	if err != nil {
		h.t.Fatal(err)
	}
	return res, out
}

func (h *house) json(method, path string, body any, status int) map[string]any {
	h.t.Helper()
	res, b := h.do(method, path, body)
	if res.StatusCode != status {
		h.t.Fatalf("%s %s: %d, want %d: %s", method, path, res.StatusCode, status, b)
	}
	var out map[string]any
	if len(b) > 0 && b[0] == '{' {
		if err := json.Unmarshal(b, &out); err != nil {
			h.t.Fatal(err)
		}
	}
	return out
}

func (h *house) post(path string, body any, status int) map[string]any {
	h.t.Helper()
	return h.json("POST", path, body, status)
}

func (h *house) upload(name string, data []byte) string {
	h.t.Helper()
	res, b := h.do("POST", "/api/media?name="+name, data)
	if res.StatusCode != 200 {
		h.t.Fatalf("%s: %s", name, b)
	}
	var m MediumView
	if err := json.Unmarshal(b, &m); err != nil {
		h.t.Fatal(err)
	}
	return m.Hash
}

func (h *house) op(id string, base int, op map[string]any, status int) map[string]any {
	h.t.Helper()
	return h.post("/api/pieces/"+h.piece+"/operations", map[string]any{"id": id, "base": base, "op": op}, status)
}

func (h *house) frames(format string, w, ht int) []string {
	h.t.Helper()
	return h.framesOf("pieces/"+h.piece, format, w, ht)
}

// framesOf are the addresses of a document's frames, one for each frame.
func (h *house) framesOf(what, format string, w, ht int) []string {
	h.t.Helper()
	var f FramesView
	_, b := h.do("GET", fmt.Sprintf("/api/%s/frames?format=%s&width=%d&height=%d", what, format, w, ht), nil)
	if err := json.Unmarshal(b, &f); err != nil {
		h.t.Fatalf("%v: %s", err, b)
	}
	var out []string
	for _, r := range f.Addresses {
		for range r.Frames {
			out = append(out, r.Address)
		}
	}
	return out
}

func filled(t *testing.T) *house {
	h := build(t, t.TempDir())
	pic := h.upload("a.jpg", mediatest.JPEG(t, mediatest.Quarters(640, 480), 0))
	clip := h.upload("b.mp4", mediatest.Clip(t, 160, 64, "25", 40))
	h.op("fill-one", 0, map[string]any{"kind": "fill", "pocket": "flood", "media": pic}, 200)
	h.op("fill-two", 1, map[string]any{"kind": "fill", "pocket": "ebb", "media": clip}, 200)
	return h
}

// Whoever leaves before their answer is whole, or in the middle of what they send,
// leads to nothing that the server of HTTP finds wrong, such as a second answer.
func TestWhoeverLeavesIsNoFault(t *testing.T) {
	h := filled(t)
	upload := func() string {
		res, _ := h.do("POST", "/api/uploads/", nil, "Tus-Resumable", tusVersion, "Upload-Length", "100000")
		return strings.TrimPrefix(res.Header.Get("Location"), h.http.URL)
	}
	address := h.frames("landscape", 1920, 1080)[3]
	requests := []string{
		"GET /api/pieces/" + h.piece + "/frames?format=landscape&width=960&height=540&from=0&count=512 HTTP/1.1\r\n\r\n",
		"GET /api/shelf HTTP/1.1\r\n\r\n",
		"GET /api/media HTTP/1.1\r\n\r\n",
		"GET /api/openapi.json HTTP/1.1\r\n\r\n",
		"GET /api/schema HTTP/1.1\r\n\r\n",
		"GET /api/events HTTP/1.1\r\n\r\n",
		"GET /frames/" + address + ".png HTTP/1.1\r\n\r\n",
		"GET /api/pieces/" + h.piece + "/poster HTTP/1.1\r\n\r\n",
		"POST /api/media?name=a.png HTTP/1.1\r\nContent-Length: 90000\r\n\r\nxx",
		"POST /api/pieces/" + h.piece + "/operations HTTP/1.1\r\nContent-Type: application/json\r\nContent-Length: 900\r\n\r\n{",
	}
	var wg sync.WaitGroup
	for n := range 8 {
		for i, r := range requests {
			wg.Go(func() { h.leave(r, time.Duration(n*n)*time.Millisecond/2+time.Duration(i)*100*time.Microsecond) })
		}
		if at := upload(); at != "" {
			wg.Go(func() {
				h.leave("PATCH "+at+" HTTP/1.1\r\nTus-Resumable: 1.0.0\r\nUpload-Offset: 0\r\nContent-Type: application/offset+octet-stream\r\nContent-Length: 100000\r\n\r\nabc", time.Duration(n)*4*time.Millisecond)
			})
		}
	}
	wg.Wait()
	h.json("GET", "/api/pieces/"+h.piece, nil, 200)
	time.Sleep(200 * time.Millisecond) // for those who are still being answered
	if said := h.said.String(); said != "" {
		t.Error(said)
	}
}

// leave sends a request, waits a moment and breaks the connection off.
func (h *house) leave(request string, after time.Duration) {
	c, err := net.Dial("tcp", h.http.Listener.Addr().String())
	if err != nil {
		h.t.Error(err)
		return
	}
	head, body, _ := strings.Cut(request, " HTTP/1.1\r\n")
	if _, err := io.WriteString(c, head+" HTTP/1.1\r\nHost: "+h.http.Listener.Addr().String()+"\r\n"+body); err != nil {
		h.t.Error(err)
	}
	time.Sleep(after)
	_ = c.(*net.TCPConn).SetLinger(0)
	c.Close()
}

func TestOtherPagesAreNotAnswered(t *testing.T) {
	h := build(t, t.TempDir())
	own := strings.TrimPrefix(h.http.URL, "http://")
	for name, c := range map[string]struct {
		header []string
		status int
	}{
		"this page":              {[]string{"Origin", h.http.URL, "Sec-Fetch-Site", "same-origin"}, 200},
		"no browser":             {nil, 200},
		"another host name":      {[]string{"Host", "evil.example"}, 403},
		"a name that looks near": {[]string{"Host", "127.0.0.1.evil.example"}, 403},
		"an outside address":     {[]string{"Host", "192.0.2.7:80"}, 403},
		"localhost":              {[]string{"Host", "localhost:" + own[strings.LastIndex(own, ":")+1:]}, 200},
		"another origin":         {[]string{"Origin", "http://evil.example"}, 403},
		"another port":           {[]string{"Origin", "http://127.0.0.1:1"}, 403},
		"a sandboxed page":       {[]string{"Origin", "null"}, 403},
		"another site's picture": {[]string{"Sec-Fetch-Site", "cross-site", "Sec-Fetch-Mode", "no-cors"}, 403},
	} {
		if res, b := h.do("GET", "/api/shelf", nil, c.header...); res.StatusCode != c.status {
			t.Errorf("%s: %d, want %d: %s", name, res.StatusCode, c.status, b)
		}
	}
}

// A stopped frame is the final picture: the bytes of the render command at
// that size, clips decoded from their originals.
func TestStoppedFramesEqualTheRender(t *testing.T) {
	h := filled(t)
	p, err := h.srv.piece(context.Background(), h.piece)
	if err != nil {
		t.Fatal(err)
	}
	for format, size := range map[string][2]int{"landscape": {960, 540}, "square": {500, 500}} {
		addresses := h.frames(format, size[0], size[1])
		for _, n := range []int64{0, 13, 36, 149} {
			res, got := h.do("GET", "/frames/"+addresses[n]+".png", nil)
			if res.StatusCode != 200 || res.Header.Get("Ivy-Footage") != "original" || !strings.Contains(res.Header.Get("Cache-Control"), "immutable") {
				t.Fatalf("%d %v: %s", res.StatusCode, res.Header, got)
			}
			j := deliver.Job{Doc: p.doc, Values: p.piece.Values, Format: format, Kind: deliver.PNG, From: n, Width: size[0], Height: size[1]}
			path := filepath.Join(t.TempDir(), "a.png")
			src := h.srv.lib.Originals(context.Background(), helper.Foreground)
			if err := deliver.Render(context.Background(), j, src, path, deliver.Hooks{}); err != nil {
				t.Fatal(err)
			}
			src.Close()
			want, err := os.ReadFile(path)
			if err != nil {
				t.Fatal(err)
			}
			if !bytes.Equal(got, want) {
				t.Errorf("%s, frame %d: the stage and the render differ", format, n)
			}
		}
	}
}

func TestQuickFramesSayThatTheyReadProxies(t *testing.T) {
	h := filled(t)
	a := h.frames("landscape", 480, 270)
	res, b := h.do("GET", "/frames/"+a[50]+".jpg", nil)
	if res.StatusCode != 200 || res.Header.Get("Content-Type") != "image/jpeg" || res.Header.Get("Ivy-Footage") != "proxy" {
		t.Errorf("%d %v %s", res.StatusCode, res.Header, b[:min(len(b), 200)])
	}
	if res, _ := h.do("GET", "/frames/"+a[50]+".jpg", nil, "If-None-Match", `"`+a[50]+`"`); res.StatusCode != 304 {
		t.Errorf("a known frame was sent again: %d", res.StatusCode)
	}
	for path, status := range map[string]int{"/frames/" + strings.Repeat("0", 32) + ".jpg": 410, "/frames/xyz.jpg": 404, "/frames/" + a[0] + ".gif": 404} {
		if res, _ := h.do("GET", path, nil); res.StatusCode != status {
			t.Errorf("%s: %d, want %d", path, res.StatusCode, status)
		}
	}
}

// What an operation leaves as it was keeps its address, so that no page asks for
// it again.
func TestFramesThatLookTheSameKeepTheirAddresses(t *testing.T) {
	h := filled(t)
	before := h.frames("landscape", 480, 270)
	h.op("the-third", 2, map[string]any{"kind": "fill", "pocket": "logo", "media": h.upload("m.png", mediatest.PNG(t, mediatest.Quarters(50, 50)))}, 200)
	// The mark fades in from frame 20 on; before, its lining was clear as well.
	after := h.frames("landscape", 480, 270)
	for n := range before {
		if (before[n] == after[n]) != (n < 21) {
			t.Errorf("frame %d: address kept %v", n, before[n] == after[n])
		}
	}
}

// Frames are told by windows, and what is told is remembered.
func TestFramesAreToldByWindows(t *testing.T) {
	h := filled(t)
	ask := func(query string, status int) (v FramesView) {
		t.Helper()
		res, b := h.do("GET", "/api/pieces/"+h.piece+"/frames?format=landscape&width=96&height=54"+query, nil)
		if res.StatusCode != status || status == 200 && json.Unmarshal(b, &v) != nil {
			t.Fatalf("%s: %d %s", query, res.StatusCode, b)
		}
		return v
	}
	told := func(v FramesView) (addresses []string, outlines []int) {
		for _, r := range v.Addresses {
			for range r.Frames {
				addresses = append(addresses, r.Address)
			}
		}
		for _, r := range v.Outlines {
			for range r.Frames {
				outlines = append(outlines, len(r.Outlines))
			}
		}
		return
	}
	whole, stand := told(ask("", 200))
	if len(whole) != 150 || len(stand) != 150 {
		t.Fatalf("%d addresses, %d outlines", len(whole), len(stand))
	}
	for _, c := range []struct{ from, count, want int }{{0, 10, 10}, {140, 512, 10}, {149, 1, 1}, {7, 100, 100}} {
		v := ask(fmt.Sprintf("&from=%d&count=%d", c.from, c.count), 200)
		part, outlines := told(v)
		if len(part) != c.want || len(outlines) != c.want || v.From != int64(c.from) || v.Frames != 150 {
			t.Errorf("%+v: %d addresses, %d outlines of %d frames", c, len(part), len(outlines), v.Frames)
			continue
		}
		for i, a := range part {
			if a != whole[c.from+i] {
				t.Errorf("%+v: frame %d has another address than in the whole", c, c.from+i)
			}
		}
	}
	ask("&from=150", 422)
	ask("&count=513", 422)
	ask("&from=-1", 422)
}

// However long a piece is, what is told of it is drawn: 240 minutes have more
// frames than addresses are remembered.
func TestAnyLengthCanBeScrubbed(t *testing.T) {
	h := build(t, t.TempDir())
	h.piece = h.lasting("long", `"frames": 150`, `"frames": 150, "spans": [{"kind": "elastic", "from": 0, "to": 150}]`)
	const length = timing.MaxFrames
	h.op("make-it-long", 0, map[string]any{"kind": "frames", "frames": length}, 200)
	for _, from := range []int{0, length / 2, length - 100} {
		res, b := h.do("GET", fmt.Sprintf("/api/pieces/%s/frames?format=landscape&width=96&height=54&from=%d&count=100", h.piece, from), nil)
		var v FramesView
		if err := json.Unmarshal(b, &v); err != nil || res.StatusCode != 200 || len(v.Addresses) == 0 {
			t.Fatalf("%d %s", res.StatusCode, b)
		}
		if res, _ := h.do("GET", "/frames/"+v.Addresses[0].Address+".jpg", nil); res.StatusCode != 200 {
			t.Errorf("frame %d: %d", from, res.StatusCode)
		}
	}
}

func TestOperationsOverHTTP(t *testing.T) {
	h := build(t, t.TempDir())
	set := map[string]any{"kind": "entry", "entry": "border", "value": 33}
	for range 2 { // the second is the same one again
		done := h.op("same-one", 0, set, 200)
		if rev := done["piece"].(map[string]any)["revision"]; rev != 1.0 {
			t.Errorf("revision %v", rev)
		}
	}
	h.op("stale-one", 0, map[string]any{"kind": "entry", "entry": "border", "value": 5}, 409)
	for want, op := range map[string]map[string]any{
		"outside 0 to 60":    {"kind": "entry", "entry": "border", "value": 999},
		"not a colour":       {"kind": "entry", "entry": "border-colour", "value": "red"},
		"no pocket":          {"kind": "fill", "pocket": "cellar"},
		"not in the store":   {"kind": "fill", "pocket": "flood", "media": "sha256:" + strings.Repeat("0", 64)},
		"validation failed":  {"kind": "dance"},
		"zoom: 0 is outside": {"kind": "frame", "pocket": "flood", "framing": map[string]any{"fit": "cover", "focus": []int{0, 0}, "pan": []int{0, 0}, "zoom": 0, "turn": 0}},
		"takes no clips":     {"kind": "fill", "pocket": "logo", "media": h.upload("b.mp4", mediatest.Clip(t, 64, 48, "25", 4))},
	} {
		if got := fmt.Sprint(h.op("wrong-one", 1, op, 422)); !strings.Contains(got, want) {
			t.Errorf("%v: %s, want %q", op, got, want)
		}
	}
	undone := h.post("/api/pieces/"+h.piece+"/undo", map[string]any{"id": "undo-one"}, 200)["piece"].(map[string]any)
	if undone["undo"] != "" || undone["redo"] != "Border" {
		t.Errorf("undo %v, redo %v", undone["undo"], undone["redo"])
	}
	h.post("/api/pieces/"+h.piece+"/undo", map[string]any{"id": "undo-two"}, 409)
	h.json("GET", "/api/pieces/nobody", nil, 404)
}

func TestRefusedUploadsGiveTheirReason(t *testing.T) {
	h := build(t, t.TempDir())
	res, b := h.do("POST", "/api/media?name=a.mp4", []byte("ffconcat version 1.0\nfile /etc/passwd\n"))
	if res.StatusCode != 422 || res.Header.Get("Content-Type") != "application/problem+json" || !strings.Contains(string(b), "playlist") {
		t.Errorf("%d %s", res.StatusCode, b)
	}
	if hash := h.upload("Südwind%20%E2%9C%A8.png", mediatest.PNG(t, mediatest.Quarters(8, 8))); hash == "" {
		t.Error("a name in Unicode was not taken")
	}
	if res, _ := h.do("GET", "/api/media/sha256:zz/thumb", nil); res.StatusCode != 404 {
		t.Errorf("a thumbnail of nothing: %d", res.StatusCode)
	}
}

func TestThumbnailsShowMediaAndItsFraming(t *testing.T) {
	h := filled(t)
	clear := image.NewNRGBA(image.Rect(0, 0, 30, 20))
	clear.Set(3, 3, color.White)
	mark := h.upload("m.png", mediatest.PNG(t, clear))
	h.op("fill-mark", 2, map[string]any{"kind": "fill", "pocket": "logo", "media": mark}, 200)
	base := "/api/pieces/" + h.piece + "/pockets/"
	for path, c := range map[string]struct {
		kind string
		w, h int
	}{
		base + "flood/thumb?format=landscape&side=212": {"image/jpeg", 212, 180},
		base + "ebb/thumb?format=square&side=300":      {"image/jpeg", 148, 300},
		base + "logo/thumb?format=landscape&side=100":  {"image/png", 100, 100},
		"/api/media/" + mark + "/thumb?side=60":        {"image/png", 60, 40},
		"/api/pieces/" + h.piece + "/poster?side=240":  {"image/jpeg", 240, 135},
		"/api/templates/two-tides/poster?side=240":     {"image/jpeg", 240, 135},
	} {
		res, b := h.do("GET", path, nil)
		cfg, _, err := image.DecodeConfig(bytes.NewReader(b))
		if res.StatusCode != 200 || res.Header.Get("Content-Type") != c.kind || err != nil || cfg.Width != c.w || cfg.Height != c.h {
			t.Errorf("%s: %d %s, %d × %d, %v", path, res.StatusCode, res.Header.Get("Content-Type"), cfg.Width, cfg.Height, err)
		}
	}
	if res, _ := h.do("GET", base+"cellar/thumb?format=landscape", nil); res.StatusCode != 404 {
		t.Errorf("a pocket that is not there: %d", res.StatusCode)
	}
}

// parted takes an answer apart as a browser's formData does (RFC 7578).
func parted(t *testing.T, res *http.Response, b []byte) map[string][]byte {
	t.Helper()
	kind, params, err := mime.ParseMediaType(res.Header.Get("Content-Type"))
	if err != nil || kind != "multipart/form-data" {
		t.Fatalf("%d %s: %s", res.StatusCode, kind, b)
	}
	out := map[string][]byte{}
	for r := multipart.NewReader(bytes.NewReader(b), params["boundary"]); ; {
		p, err := r.NextPart()
		if err == io.EOF {
			return out
		}
		if err != nil {
			t.Fatal(err)
		}
		if out[p.FormName()], err = io.ReadAll(p); err != nil {
			t.Fatal(err)
		}
	}
}

func TestPreviewShowsAndKeepsNothing(t *testing.T) {
	h := filled(t)
	body := map[string]any{"format": "landscape", "frame": 60, "width": 480, "height": 270,
		"op": map[string]any{"kind": "frame", "pocket": "flood", "framing": map[string]any{"fit": "cover", "focus": []float64{0.5, 0.5}, "pan": []float64{4, 0}, "zoom": 1.5, "turn": 0}}}
	res, b := h.do("POST", "/api/pieces/"+h.piece+"/preview", body)
	var facts previewFacts
	parts := parted(t, res, b)
	if err := json.Unmarshal(parts["facts"], &facts); err != nil || res.StatusCode != 200 {
		t.Fatal(err, res.StatusCode)
	}
	if cfg, kind, err := image.DecodeConfig(bytes.NewReader(parts["picture"])); err != nil || kind != "jpeg" || cfg.Width != 480 || cfg.Height != 270 {
		t.Errorf("the picture: %s %v, %v", kind, cfg, err)
	}
	for _, st := range facts.Stands {
		if st.Pocket == "flood" && (!st.Covers || st.Pan[0] >= 4 || st.Pan[0] <= 0) {
			t.Errorf("pan in use %v, covers %v", st.Pan, st.Covers)
		}
	}
	if rev := h.json("GET", "/api/pieces/"+h.piece, nil, 200)["revision"]; rev != 2.0 {
		t.Errorf("revision %v after a preview", rev)
	}
	// With no operation it is the frame as it is.
	delete(body, "op")
	res, b = h.do("POST", "/api/pieces/"+h.piece+"/preview", body)
	if err := json.Unmarshal(parted(t, res, b)["facts"], &facts); err != nil || res.StatusCode != 200 {
		t.Fatal(err, res.StatusCode)
	}
	for _, st := range facts.Stands {
		if st.Pocket == "flood" && (st.Pan[0] != 0 || st.Zoom != 1) {
			t.Errorf("with no operation it stands at %v, %v times as large", st.Pan, st.Zoom)
		}
	}
}

func TestNewsReachesOtherWindows(t *testing.T) {
	h := build(t, t.TempDir())
	ctx, cancel := context.WithTimeout(context.Background(), 20*time.Second)
	defer cancel()
	req, err := http.NewRequestWithContext(ctx, "GET", h.http.URL+"/api/events", nil)
	if err != nil {
		t.Fatal(err)
	}
	res, err := http.DefaultClient.Do(req)
	if err != nil {
		t.Fatal(err)
	}
	defer res.Body.Close()
	lines := bufio.NewScanner(res.Body)
	lines.Scan() // the first line is there once the window listens
	h.op("some-thing", 0, map[string]any{"kind": "name", "name": "Renamed"}, 200)
	for lines.Scan() {
		if strings.Contains(lines.Text(), `"piece"`) {
			if !strings.Contains(lines.Text(), h.piece) || !strings.Contains(lines.Text(), `"revision":1`) {
				t.Error(lines.Text())
			}
			return
		}
	}
	t.Error("no news came")
}

func (h *house) wait(what string, f func() bool) {
	h.t.Helper()
	for end := time.Now().Add(60 * time.Second); time.Now().Before(end); time.Sleep(20 * time.Millisecond) {
		if f() {
			return
		}
	}
	h.t.Fatalf("waited in vain: %s", what)
}

func (h *house) render(id string) RenderView {
	h.t.Helper()
	_, b := h.do("GET", "/api/renders", nil)
	var list []RenderView
	if err := json.Unmarshal(b, &list); err != nil {
		h.t.Fatal(err)
	}
	for _, r := range list {
		if r.ID == id {
			return r
		}
	}
	return RenderView{}
}

func TestRendersAreMadeDownloadedAndCancelled(t *testing.T) {
	h := filled(t)
	ask := map[string]any{"piece": h.piece, "format": "landscape", "kind": "mp4", "to": 50, "width": 480, "height": 270}
	id := h.post("/api/renders", ask, 200)["id"].(string)
	h.wait("a render", func() bool { return h.render(id).State == "done" })
	r := h.render(id)
	if r.Done != 50 || r.Bytes == 0 || r.Took <= 0 || r.File != "Two Tides Landscape.mp4" {
		t.Errorf("%+v", r)
	}
	res, whole := h.do("GET", "/api/renders/"+id+"/file", nil)
	if int64(len(whole)) != r.Bytes || !strings.Contains(res.Header.Get("Content-Disposition"), "Two Tides Landscape.mp4") {
		t.Errorf("%d bytes, %v", len(whole), res.Header)
	}
	// RFC 9110, section 14: a range of bytes.
	res, part := h.do("GET", "/api/renders/"+id+"/file", nil, "Range", "bytes=10-19")
	if res.StatusCode != 206 || !bytes.Equal(part, whole[10:20]) {
		t.Errorf("range: %d, %d bytes", res.StatusCode, len(part))
	}
	h.post("/api/renders/clear", map[string]any{"ids": []string{id}}, 200)
	if res, _ := h.do("GET", "/api/renders/"+id+"/file", nil); res.StatusCode != 404 {
		t.Errorf("a deleted render answers %d", res.StatusCode)
	}

	long := h.post("/api/renders", map[string]any{"piece": h.piece, "format": "landscape", "kind": "mp4", "width": 1920, "height": 1080}, 200)["id"].(string)
	queued := h.post("/api/renders", ask, 200)["id"].(string)
	h.wait("the first frames", func() bool { return h.render(long).Done > 0 })
	h.post("/api/renders/"+queued+"/cancel", nil, 204)
	h.post("/api/renders/"+long+"/cancel", nil, 204)
	h.wait("the end", func() bool { return h.render(long).State == "cancelled" && h.render(queued).State == "cancelled" })
	h.post("/api/renders/"+queued+"/retry", nil, 204)
	h.wait("a second try", func() bool { return h.render(queued).State == "done" })
	h.post("/api/renders", map[string]any{"piece": h.piece, "format": "landscape", "kind": "mp4", "to": 9999}, 422)
}

func TestTheQueueGoesOnAfterARestart(t *testing.T) {
	dir := t.TempDir()
	h := build(t, dir)
	ask := map[string]any{"piece": h.piece, "format": "landscape", "kind": "mp4"}
	id := h.post("/api/renders", ask, 200)["id"].(string)
	h.wait("the first frames", func() bool { return h.render(id).Done > 0 })
	h.stop()
	if left, _ := filepath.Glob(filepath.Join(dir, "renders", "*")); len(left) > 0 {
		t.Errorf("a half-written file was left: %v", left)
	}
	h = build(t, dir)
	h.wait("the render", func() bool { return h.render(id).State == "done" })
}

func TestTrialsRunAndKeepTheirPictures(t *testing.T) {
	h := filled(t)
	h.op("off-cover", 2, map[string]any{"kind": "frame", "pocket": "ebb", "framing": map[string]any{"fit": "contain", "focus": []float64{0.5, 0.5}, "pan": []int{0, 0}, "zoom": 1, "turn": 0}}, 200)
	h.post("/api/pieces/"+h.piece+"/trial", nil, 200)
	var v TrialView
	h.wait("the trial", func() bool {
		_, b := h.do("GET", "/api/pieces/"+h.piece+"/trial", nil)
		v = TrialView{}
		return json.Unmarshal(b, &v) == nil && v.State == "done"
	})
	if len(v.Findings) == 0 || v.Findings[0].Kind != "uncovered edge" || v.Revision != 3 || len(v.Sheets) != 2 {
		t.Errorf("%d findings, %d sheets, revision %d", len(v.Findings), len(v.Sheets), v.Revision)
	}
	for _, url := range []string{v.Findings[0].Picture, v.Tiles[0].Picture, v.Sheets[1].Picture} {
		if res, b := h.do("GET", url, nil); res.StatusCode != 200 || len(b) < 500 {
			t.Errorf("%s: %d", url, res.StatusCode)
		}
	}
	if res, _ := h.do("GET", "/api/trials/..%2f..%2f/ivypocket.db", nil); res.StatusCode != 404 {
		t.Errorf("a path out of the folder: %d", res.StatusCode)
	}
}

func TestPlacesOfTheApplicationGetItsPage(t *testing.T) {
	h := build(t, t.TempDir())
	for path, want := range map[string]string{"/": "page", "/desk/x": "page", "/assets/a.js": "1", "/api/nothing": "nothing"} {
		if _, b := h.do("GET", path, nil); !strings.Contains(string(b), want) {
			t.Errorf("%s: %s", path, b)
		}
	}
	res, _ := h.do("GET", "/", nil)
	if csp := res.Header.Get("Content-Security-Policy"); !strings.Contains(csp, "default-src 'self'") || strings.Contains(csp, "script-src 'unsafe") {
		t.Errorf("policy %q", csp)
	}
}

func TestMissingMediaIsSaidAndNothingElseBreaks(t *testing.T) {
	h := filled(t)
	p, err := h.srv.piece(context.Background(), h.piece)
	if err != nil {
		t.Fatal(err)
	}
	v := p.piece.Values.Clone()
	v.Fills["ebb"] = sheet.Fill{Media: "sha256:" + strings.Repeat("f", 64)}
	if _, err := h.srv.compile(p.doc, v, "landscape"); err == nil || !strings.Contains(err.Error(), "pocket ebb") {
		t.Errorf("got %v", err)
	}
}

func TestTheGateLetsPeopleGoFirst(t *testing.T) {
	var g gate
	leave, err := g.enter(context.Background(), false)
	if err != nil {
		t.Fatal(err)
	}
	order := make(chan string, 3)
	enter := func(name string, urgent bool) {
		go func() {
			done, err := g.enter(context.Background(), urgent)
			if err == nil {
				order <- name
				done()
			}
		}()
		for waiting := 0; ; time.Sleep(time.Millisecond) {
			g.mu.Lock()
			n := len(g.urgent) + len(g.batch)
			g.mu.Unlock()
			if waiting = n; waiting > 0 && (name != "person" || n == 3) {
				return
			}
		}
	}
	enter("batch", false)
	ctx, cancel := context.WithCancel(context.Background())
	gone := make(chan error)
	go func() { _, err := g.enter(ctx, true); gone <- err }()
	for {
		g.mu.Lock()
		n := len(g.urgent)
		g.mu.Unlock()
		if n == 1 {
			break
		}
		time.Sleep(time.Millisecond)
	}
	enter("person", true)
	cancel()
	if err := <-gone; err == nil {
		t.Error("a cancelled wish got its turn")
	}
	leave()
	if a, b := <-order, <-order; a != "person" || b != "batch" {
		t.Errorf("%s went before %s", a, b)
	}
	if _, err := g.enter(context.Background(), false); err != nil {
		t.Error(err)
	}
}

// Undo is per author, a conflict says whose change came between, and a window is not in
// its own way: as the headers of a request say.
func TestAuthorsAndWindowsOverHTTP(t *testing.T) {
	h := filled(t)
	at := "/api/pieces/" + h.piece
	base := h.json("GET", at, nil, 200)["revision"]
	do := func(author, window, id string, op map[string]any, status int) map[string]any {
		t.Helper()
		res, b := h.do("POST", at+"/operations", map[string]any{"id": id, "base": base, "op": op}, "Ivy-Author", author, "Ivy-Window", window)
		var out map[string]any
		if err := json.Unmarshal(b, &out); err != nil || res.StatusCode != status {
			t.Fatalf("%s: %d %s", id, res.StatusCode, b)
		}
		return out
	}
	framing := func(zoom, turn float64, member string) map[string]any {
		return map[string]any{"kind": "frame", "pocket": "ebb", "framing": map[string]any{"zoom": zoom, "turn": turn, "focus": []float64{0.5, 0.5}, "fit": "cover", "pan": []float64{0, 0}}, "members": []string{member}}
	}
	do("ann", "left", "anns-zoom", framing(2, 0, "zoom"), 200)
	do("ann", "left", "anns-zoom-2", framing(3, 0, "zoom"), 200)
	if joined := do("bob", "his", "bobs-turn", framing(1, 30, "turn"), 200)["joined"]; joined != "“Zoom of Ebb” was changed by somebody else meanwhile; both are kept." {
		t.Errorf("joined: %v", joined)
	}
	if out := do("ann", "right", "anns-zoom-3", framing(4, 0, "zoom"), 409); !strings.HasPrefix(fmt.Sprint(out["detail"]), "“Zoom of Ebb” was changed by you in another window meanwhile.") {
		t.Errorf("the conflict: %v", out["detail"])
	}
	for author, undo := range map[string]string{"ann": "Zoom of Ebb", "bob": "Turn of Ebb", "cy": ""} {
		_, b := h.do("GET", at, nil, "Ivy-Author", author)
		var p map[string]any
		if err := json.Unmarshal(b, &p); err != nil || p["undo"] != undo {
			t.Errorf("%s could undo %v, want %q (%v)", author, p["undo"], undo, err)
		}
	}
}
