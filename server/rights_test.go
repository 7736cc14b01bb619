package server

import (
	"bufio"
	"context"
	"crypto/tls"
	"encoding/json"
	"fmt"
	"io"
	"maps"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/go-chi/chi/v5"

	"ivypocket/access"
	"ivypocket/media/mediatest"
	"ivypocket/store"
)

// told is who may use which routes, as it was decided: an editor has the shelf, the desk,
// media and own renders. What is not here is the designers'.
var told = map[access.Right]string{
	access.Open: `GET /* GET /api/session POST /api/session DELETE /api/session`,
	access.Fill: `GET /api/shelf GET /api/faces POST /api/words/tidy GET /api/fonts/{name} GET /api/pieces/{id}/words GET /api/guides GET /api/templates/{id}/list PUT /api/templates/{id}/list GET /api/templates/{id}/list.csv POST /api/templates/{id}/list.csv POST /api/pieces/{id}/keep GET /api/pieces/{id}/row POST /api/pieces/{id}/row GET /api/fits POST /api/templates/{id}/fill POST /api/pieces/{id}/measure POST /api/templates/{id}/open GET /api/templates/{id}/poster GET /api/templates/{id}/releases
		GET /api/templates/{id}/releases/{number}/schema GET /api/pieces POST /api/pieces/delete POST /api/pieces/move POST /api/pieces/{id}/duplicate
		GET /api/pieces/{id} POST /api/pieces/{id}/operations POST /api/pieces/{id}/undo POST /api/pieces/{id}/redo POST /api/pieces/{id}/preview
		GET /api/pieces/{id}/frames GET /api/pieces/{id}/time GET /api/pieces/{id}/seen GET /api/pieces/{id}/under GET /api/pieces/{id}/best GET /api/pieces/{id}/clear
		GET /api/pieces/{id}/poster GET /api/pieces/{id}/pockets/{pocket}/thumb GET /api/pieces/{id}/move POST /api/pieces/{id}/move GET /api/pieces/{id}/look
		GET /api/pieces/{id}/trial POST /api/pieces/{id}/trial POST /api/pieces/{id}/trial/stop GET /api/trials/{id}/{file}
		GET /frames/{address}.{kind} GET /api/events GET /api/health GET /api/queue GET /api/author PUT /api/author GET /api/schema GET /api/openapi.json
		GET /api/media POST /api/media GET /api/media/{hash} GET /api/media/{hash}/file GET /api/media/{hash}/strip GET /api/media/{hash}/thumb
		POST /api/media/{hash}/name POST /api/media/{hash}/replace POST /api/media/clear POST /api/strokes/{id}/undo
		POST /api/sequences POST /api/sequences/find * /api/uploads/* POST /api/renders`,
	access.Own: `GET /api/renders POST /api/renders/clear GET /api/renders/{id}/file GET /api/renders/{id}/cut GET /api/renders/{id}/poster
		POST /api/renders/{id}/cancel POST /api/renders/{id}/pause POST /api/renders/{id}/retry`,
}

// guest is somebody at a browser, or another program.
type guest struct {
	h      *house
	cookie *http.Cookie
	from   string // an address, "" is this machine's
}

// guarded makes a house where people show codes, with a designer and two editors in it.
func guarded(t *testing.T, h *house) (designer, ann, bea *guest) {
	t.Helper()
	h.srv.DemandCodes()
	var in []*guest
	for _, who := range []struct {
		name string
		role access.Role
	}{{"Odalys Fenn", access.Designer}, {"Ruan Teague", access.Editor}, {"Aiko Minazuki", access.Editor}} {
		_, letters, err := h.store.NewCode(t.Context(), who.name, who.role)
		if err != nil {
			t.Fatal(err)
		}
		g := &guest{h: h}
		if status := g.enter(letters); status != 200 {
			t.Fatalf("%s: %d", who.name, status)
		}
		in = append(in, g)
	}
	return in[0], in[1], in[2]
}

func (g *guest) enter(letters string) int {
	res, _ := g.do("POST", "/api/session", map[string]any{"code": letters})
	for _, c := range res.Cookies() {
		if c.Name == cookieName {
			g.cookie = c
		}
	}
	return res.StatusCode
}

func (g *guest) do(method, path string, body any, header ...string) (*http.Response, []byte) {
	if g.cookie != nil {
		header = append(header, "Cookie", g.cookie.Name+"="+g.cookie.Value)
	}
	return g.h.do(method, path, body, header...)
}

// code is the code that somebody came in by.
func (g *guest) code() string {
	_, b := g.do("GET", "/api/session", nil)
	var v SessionView
	_ = json.Unmarshal(b, &v)
	return v.ID
}

// Every route states a right; nobody gets further than the way in, editors as far as is
// told above, designers everywhere. Each route is asked for as each of them.
func TestEveryRouteByEveryRole(t *testing.T) {
	h := build(t, t.TempDir())
	designer, editor, _ := guarded(t, h)
	want := map[string]access.Right{}
	for right, routes := range told {
		f := strings.Fields(routes)
		for i := 0; i < len(f); i += 2 {
			want[f[i]+" "+f[i+1]] = right
		}
	}
	seen := map[string]bool{}
	err := chi.Walk(h.srv.router, func(method, route string, _ http.Handler, _ ...func(http.Handler) http.Handler) error {
		name := method + " " + route
		right, ok := want[name]
		if !ok {
			if right, ok = want["* "+route]; ok {
				name = "* " + route
			} else {
				right = access.Build
			}
		}
		seen[name] = true
		stated, ok := h.srv.rights.stated[name]
		if !ok || stated != right {
			t.Errorf("%s states %q, and is told to be %q", name, stated, right)
		}
		path := strings.NewReplacer("{id}", "none", "{hash}", "none", "{pocket}", "none", "{layer}", "none", "{number}", "1", "{file}", "a.json", "{address}", "none", "{kind}", "png", "*", "none").Replace(route)
		for _, who := range []struct {
			g   *guest
			may bool
			no  int
		}{{&guest{h: h}, right == access.Open, 401}, {&guest{h: h, cookie: &http.Cookie{Name: cookieName, Value: "made-up"}}, right == access.Open, 401},
			{editor, right <= access.Own, 403}, {designer, true, 0}} {
			if route == "/api/session" && method != "GET" {
				continue // coming in and going out have tests of their own
			}
			ctx, cancel := context.WithTimeout(t.Context(), 20*time.Second)
			req, _ := http.NewRequestWithContext(ctx, method, h.http.URL+path, strings.NewReader("{}"))
			req.Header.Set("Content-Type", "application/json")
			if who.g.cookie != nil {
				req.AddCookie(who.g.cookie)
			}
			res, err := http.DefaultClient.Do(req) // a stream is not read to its end
			cancel()
			if err != nil {
				t.Errorf("%s: %v", name, err)
				continue
			}
			res.Body.Close()
			refused := res.StatusCode == 401 || res.StatusCode == 403
			if who.may == refused || !who.may && res.StatusCode != who.no {
				t.Errorf("%s answers %d; may %v, %d else", name, res.StatusCode, who.may, who.no)
			}
		}
		return nil
	})
	if err != nil {
		t.Fatal(err)
	}
	for name := range want {
		if !seen[name] {
			t.Errorf("%s is told of and is no route", name)
		}
	}
	for _, name := range slices.Sorted(maps.Keys(h.srv.rights.stated)) {
		if !seen[name] {
			t.Errorf("%s states a right and is no route", name)
		}
	}
	// A route that says nothing keeps the server from starting.
	h.srv.router.Get("/api/secret", func(http.ResponseWriter, *http.Request) {})
	if bare, err := h.srv.unstated(); err != nil || !slices.Equal(bare, []string{"GET /api/secret"}) {
		t.Errorf("%v %v", bare, err)
	}
}

func TestOnLoopbackNobodyLogsIn(t *testing.T) {
	h := build(t, t.TempDir())
	if v := h.json("GET", "/api/session", nil, 200); v["codes"] != false || v["role"] != "designer" {
		t.Errorf("%v", v)
	}
	// A code that is shown all the same is no harm.
	if v := h.post("/api/session", map[string]any{"code": "x"}, 200); v["role"] != "designer" {
		t.Errorf("%v", v)
	}
	if res, _ := h.do("GET", "/api/shelf", nil, "Host", "pocket.example"); res.StatusCode != 403 {
		t.Errorf("a name from elsewhere: %d", res.StatusCode)
	}
}

func TestTheWayInAndOut(t *testing.T) {
	h := build(t, t.TempDir())
	designer, _, _ := guarded(t, h)
	c := designer.cookie
	// RFC 6265, and its successor's SameSite.
	if !c.HttpOnly || c.SameSite != http.SameSiteStrictMode || c.Secure || c.Path != "/" || c.MaxAge < 29*24*3600 || len(c.Value) < 40 {
		t.Errorf("%+v", c)
	}
	if res, b := designer.do("GET", "/api/session", nil, "Host", "pocket.example"); res.StatusCode != 200 || !strings.Contains(string(b), "Odalys Fenn") {
		t.Errorf("at a name that people gave the machine: %d %s", res.StatusCode, b)
	}
	// A page of somebody else does not get in, cookie or not.
	if res, _ := designer.do("POST", "/api/pieces/delete", map[string]any{"ids": []string{h.piece}}, "Origin", "https://elsewhere.example"); res.StatusCode != 403 {
		t.Errorf("%d", res.StatusCode)
	}
	// Behind TLS, here or before, the cookie is kept from plain HTTP.
	_, letters, _ := h.store.NewCode(t.Context(), "Teodor Vasile", access.Editor)
	res, _ := h.do("POST", "/api/session", map[string]any{"code": strings.ToLower(letters)}, "X-Forwarded-Proto", "https")
	if cs := res.Cookies(); len(cs) != 1 || !cs[0].Secure {
		t.Errorf("%v", cs)
	}
	secure := httptest.NewTLSServer(h.srv.Handler())
	defer secure.Close()
	client := secure.Client()
	client.Transport.(*http.Transport).TLSClientConfig.MinVersion = tls.VersionTLS12
	sres, err := client.Post(secure.URL+"/api/session", "application/json", strings.NewReader(`{"code": "`+letters+`"}`))
	if err != nil {
		t.Fatal(err)
	}
	sres.Body.Close()
	if cs := sres.Cookies(); len(cs) != 1 || !cs[0].Secure {
		t.Errorf("%v", cs)
	}
	// What is kept is neither the code nor the token.
	kept := ""
	for _, ext := range []string{"", "-wal"} {
		b, err := os.ReadFile(filepath.Join(h.store.Dir(), "ivypocket.db"+ext))
		if err != nil {
			t.Fatal(err)
		}
		kept += string(b)
	}
	if !strings.Contains(kept, "Teodor Vasile") || strings.Contains(kept, c.Value) || strings.Contains(kept, letters) || strings.Contains(kept, strings.ReplaceAll(letters, "-", "")) {
		t.Error("the letters of a code or the token of a session are kept")
	}
	// A new session of the same browser is another, and the old one has ended.
	old := *designer
	if status := designer.enter(letters); status != 200 || designer.cookie.Value == old.cookie.Value {
		t.Errorf("%d", status)
	}
	if res, _ := old.do("GET", "/api/shelf", nil); res.StatusCode != 401 {
		t.Errorf("%d", res.StatusCode)
	}
	// Out.
	out := *designer
	if res, _ := designer.do("DELETE", "/api/session", nil); res.StatusCode != 204 || len(res.Cookies()) != 1 || res.Cookies()[0].MaxAge >= 0 {
		t.Errorf("%d %v", res.StatusCode, res.Cookies())
	}
	if res, _ := out.do("GET", "/api/shelf", nil); res.StatusCode != 401 {
		t.Errorf("the token is still good: %d", res.StatusCode)
	}
	// Wrong ones are told as such, and after some of them there is a wait, for right ones, too.
	var status int
	for range 12 {
		res, _ := h.do("POST", "/api/session", map[string]any{"code": access.NewCode()})
		if status = res.StatusCode; status == 429 {
			if res.Header.Get("Retry-After") == "" {
				t.Error("it is not said how long")
			}
			break
		}
		if status != 401 {
			t.Fatal(status)
		}
	}
	if status != 429 || (&guest{h: h}).enter(letters) != 429 {
		t.Errorf("attempts are not slowed: %d", status)
	}
	// Whom a server of this machine passes on does not wait for others: it says last where
	// somebody comes from, whatever they say themselves.
	for _, c := range []struct {
		from string
		want int
	}{{"203.0.113.9", 200}, {"192.0.2.1, 203.0.113.10", 200}, {"nonsense", 429}} {
		if res, _ := h.do("POST", "/api/session", map[string]any{"code": letters}, "X-Forwarded-For", c.from); res.StatusCode != c.want {
			t.Errorf("from %s: %d, want %d", c.from, res.StatusCode, c.want)
		}
	}
	for range 7 {
		h.do("POST", "/api/session", map[string]any{"code": access.NewCode()}, "X-Forwarded-For", "198.51.100.1, 203.0.113.11")
	}
	if res, _ := h.do("POST", "/api/session", map[string]any{"code": letters}, "X-Forwarded-For", "198.51.100.2, 203.0.113.11"); res.StatusCode != 429 {
		t.Errorf("who says to come from elsewhere is not slowed: %d", res.StatusCode)
	}
}

func TestCodesAreMadeAndWithdrawnInTheApplication(t *testing.T) {
	h := build(t, t.TempDir())
	designer, editor, _ := guarded(t, h)
	res, b := designer.do("POST", "/api/codes", map[string]any{"name": " Mirembe  Achen", "role": "designer"})
	var made struct {
		Code    CodeView
		Letters string
	}
	if err := json.Unmarshal(b, &made); err != nil || res.StatusCode != 200 || made.Code.Name != "Mirembe Achen" || len(made.Letters) != 29 {
		t.Fatalf("%d %s", res.StatusCode, b)
	}
	second := &guest{h: h}
	if status := second.enter(made.Letters); status != 200 {
		t.Fatal(status)
	}
	if res, _ := second.do("POST", "/api/codes/"+made.Code.ID+"/name", map[string]any{"name": "Mirembe A."}); res.StatusCode != 204 {
		t.Errorf("%d", res.StatusCode)
	}
	_, b = second.do("GET", "/api/codes", nil)
	var list []CodeView
	if err := json.Unmarshal(b, &list); err != nil || len(list) != 4 || list[0].Name != "Mirembe A." || !list[0].Mine || list[0].Used == "" || strings.Contains(string(b), made.Letters) {
		t.Errorf("%s", b)
	}
	for _, bad := range []map[string]any{{"name": "", "role": "editor"}, {"name": "x", "role": "boss"}, {"name": strings.Repeat("x", 61), "role": "editor"}} {
		if res, _ := designer.do("POST", "/api/codes", bad); res.StatusCode != 422 {
			t.Errorf("%v: %d", bad, res.StatusCode)
		}
	}
	if res, _ := second.do("POST", "/api/codes/"+designer.code()+"/withdraw", nil); res.StatusCode != 204 {
		t.Errorf("%d", res.StatusCode)
	}
	if res, _ := designer.do("GET", "/api/codes", nil); res.StatusCode != 401 {
		t.Errorf("who was withdrawn is still in: %d", res.StatusCode)
	}
	_, b = second.do("POST", "/api/codes", map[string]any{"name": "Short", "role": "editor"})
	if err := json.Unmarshal(b, &made); err != nil {
		t.Fatal(err)
	}
	if res, _ := second.do("POST", "/api/codes/"+made.Code.ID+"/withdraw", nil); res.StatusCode != 204 {
		t.Errorf("%d", res.StatusCode)
	}
	if status := (&guest{h: h}).enter(made.Letters); status != 401 {
		t.Errorf("a code that was withdrawn lets in: %d", status)
	}
	if res, b := second.do("POST", "/api/codes/"+second.code()+"/withdraw", nil); res.StatusCode != 409 || !strings.Contains(string(b), "last designer") {
		t.Errorf("%d %s", res.StatusCode, b)
	}
	if res, _ := second.do("POST", "/api/codes/none/withdraw", nil); res.StatusCode != 404 {
		t.Errorf("%d", res.StatusCode)
	}
	if res, _ := editor.do("GET", "/api/codes", nil); res.StatusCode != 403 {
		t.Errorf("%d", res.StatusCode)
	}
}

// A stream ends when its code is withdrawn, by this program or another, and so does a
// large body on its way; what is uploaded is gone on with by who began it alone.
func TestWhatLastsEndsWithTheCode(t *testing.T) {
	h := build(t, t.TempDir())
	designer, ann, bea := guarded(t, h)
	stream := func(g *guest) (*bufio.Reader, func()) {
		req, _ := http.NewRequest("GET", h.http.URL+"/api/events", nil)
		req.AddCookie(g.cookie)
		res, err := http.DefaultClient.Do(req)
		if err != nil || res.StatusCode != 200 {
			t.Fatal(err, res.StatusCode)
		}
		return bufio.NewReader(res.Body), func() { res.Body.Close() }
	}
	hers, end := stream(ann)
	defer end()
	begin := func(g *guest) string {
		res, b := g.do("POST", "/api/uploads/", nil, "Tus-Resumable", tusVersion, "Upload-Length", "300000")
		if res.StatusCode != 201 {
			t.Fatalf("%d %s", res.StatusCode, b)
		}
		at := res.Header.Get("Location")
		return at[strings.Index(at, uploadsPath):]
	}
	patch := func(g *guest, at string, from int, part []byte) int {
		res, _ := g.do("PATCH", at, part, "Tus-Resumable", tusVersion, "Upload-Offset", fmt.Sprint(from), "Content-Type", "application/offset+octet-stream")
		return res.StatusCode
	}
	at := begin(ann)
	if status := patch(ann, at, 0, make([]byte, 1000)); status != 204 {
		t.Fatal(status)
	}
	for _, c := range []struct {
		g    *guest
		what string
		want int
	}{{bea, "another editor", 404}, {&guest{h: h}, "nobody", 401}, {designer, "a designer", 200}, {ann, "who began it", 200}} {
		if res, _ := c.g.do("HEAD", at, nil, "Tus-Resumable", tusVersion); res.StatusCode != c.want {
			t.Errorf("HEAD by %s: %d", c.what, res.StatusCode)
		}
		if res, _ := c.g.do("DELETE", at, nil, "Tus-Resumable", tusVersion); c.want > 299 && res.StatusCode != c.want {
			t.Errorf("DELETE by %s: %d", c.what, res.StatusCode)
		}
		if c.want > 299 && patch(c.g, at, 1000, make([]byte, 10)) != c.want {
			t.Errorf("PATCH by %s", c.what)
		}
		if c.want == 200 { // the designer has taken it away
			at = begin(ann)
		}
	}
	// Bodies that come slowly, while the code goes.
	at = begin(ann)
	ended := make(chan int, 2)
	var pipes []*io.PipeWriter
	for _, to := range []string{"PATCH " + at, "POST /api/media?name=slow.png"} {
		method, path, _ := strings.Cut(to, " ")
		r, w := io.Pipe()
		req, _ := http.NewRequest(method, h.http.URL+path, r)
		req.ContentLength = 300000
		for k, v := range map[string]string{"Tus-Resumable": tusVersion, "Upload-Offset": "0", "Content-Type": "application/offset+octet-stream"} {
			req.Header.Set(k, v)
		}
		req.AddCookie(ann.cookie)
		go func() {
			res, err := http.DefaultClient.Do(req)
			if err != nil {
				ended <- 0
				return
			}
			res.Body.Close()
			ended <- res.StatusCode
		}()
		if _, err := w.Write(make([]byte, 5000)); err != nil {
			t.Fatal(err)
		}
		pipes = append(pipes, w)
	}
	if err := h.store.Withdraw(t.Context(), ann.code(), false); err != nil { // as the command line does
		t.Fatal(err)
	}
	for _, w := range pipes {
		go func() {
			for range 290 {
				if _, err := w.Write(make([]byte, 1000)); err != nil {
					return
				}
				time.Sleep(50 * time.Millisecond)
			}
			w.Close()
		}()
	}
	for range pipes {
		select {
		case status := <-ended:
			if status/100 == 2 {
				t.Errorf("the body was taken: %d", status)
			}
		case <-time.After(10 * time.Second): // before their ends
			t.Error("a body goes on")
		}
	}
	gone := make(chan error, 1)
	go func() {
		for {
			if _, err := hers.ReadString('\n'); err != nil {
				gone <- err
				return
			}
		}
	}()
	select {
	case <-gone:
	case <-time.After(15 * time.Second):
		t.Error("the stream goes on")
	}
	if status := patch(ann, at, 5000, make([]byte, 10)); status != 401 {
		t.Errorf("%d", status)
	}
}

func TestEditorsHaveTheirOwnRenders(t *testing.T) {
	h := filled(t)
	designer, ann, bea := guarded(t, h)
	order := func(g *guest) string {
		res, b := g.do("POST", "/api/renders", map[string]any{"piece": h.piece, "format": "landscape", "kind": "png", "width": 320, "height": 180})
		var v RenderView
		if err := json.Unmarshal(b, &v); err != nil || res.StatusCode != 200 {
			t.Fatalf("%d %s", res.StatusCode, b)
		}
		return v.ID
	}
	hers, other, boss := order(ann), order(bea), order(designer)
	for end := time.Now().Add(30 * time.Second); ; time.Sleep(20 * time.Millisecond) {
		rows, err := h.store.Renders(t.Context())
		if err != nil || time.Now().After(end) {
			t.Fatal("renders don't end", err)
		}
		if !slices.ContainsFunc(rows, func(r store.Render) bool { return r.State != store.Done }) {
			break
		}
	}
	ids := func(g *guest) (out []string) {
		_, b := g.do("GET", "/api/renders", nil)
		var list []RenderView
		if err := json.Unmarshal(b, &list); err != nil {
			t.Fatal(err)
		}
		for _, v := range list {
			out = append(out, v.ID)
			if v.ID == hers && v.By != "Ruan Teague" {
				t.Errorf("by %q", v.By)
			}
		}
		return out
	}
	if got := ids(ann); !slices.Equal(got, []string{hers}) {
		t.Errorf("%v", got)
	}
	if got := ids(designer); len(got) != 3 {
		t.Errorf("%v", got)
	}
	for _, path := range []string{"file", "poster"} {
		for id, want := range map[string]int{hers: 200, other: 404, boss: 404} {
			if res, _ := ann.do("GET", "/api/renders/"+id+"/"+path, nil); res.StatusCode != want {
				t.Errorf("%s: %d, want %d", path, res.StatusCode, want)
			}
		}
	}
	for _, verb := range []string{"cancel", "retry", "pause"} {
		if res, _ := ann.do("POST", "/api/renders/"+other+"/"+verb, map[string]any{"paused": true}); res.StatusCode != 404 {
			t.Errorf("%s: %d", verb, res.StatusCode)
		}
	}
	_, b := ann.do("POST", "/api/renders/clear", map[string]any{"ids": []string{hers, other, boss}})
	if got := ids(designer); strings.Contains(string(b), other) || len(got) != 2 || slices.Contains(got, hers) {
		t.Errorf("%v after %s", got, b)
	}
}

// Undo is a person's, whatever author a request names; what they did is written down.
func TestWhoDidWhat(t *testing.T) {
	h := filled(t)
	designer, ann, bea := guarded(t, h)
	op := func(g *guest, id string, base int, at float64) {
		t.Helper()
		res, b := g.do("POST", "/api/pieces/"+h.piece+"/operations", map[string]any{"id": id, "base": base, "op": map[string]any{"kind": "entry", "entry": "border", "value": at}}, "Ivy-Author", "the same")
		if res.StatusCode != 200 {
			t.Fatalf("%d %s", res.StatusCode, b)
		}
	}
	op(ann, "ann-sets-it", 2, 20)
	for i, author := range []string{"code " + ann.code(), "the same"} {
		res, b := bea.do("POST", "/api/pieces/"+h.piece+"/undo", map[string]any{"id": fmt.Sprintf("bea-undoes-%d", i)}, "Ivy-Author", author)
		if res.StatusCode != 409 {
			t.Errorf("bea takes back what ann did as %q: %d %s", author, res.StatusCode, b)
		}
	}
	if res, b := ann.do("POST", "/api/pieces/"+h.piece+"/undo", map[string]any{"id": "ann-undoes"}); res.StatusCode != 200 {
		t.Errorf("%d %s", res.StatusCode, b)
	}
	if res, _ := bea.do("PUT", "/api/author", map[string]any{"name": "Ruan Teague"}); res.StatusCode != 409 {
		t.Errorf("bea takes ann's name: %d", res.StatusCode)
	}
	ann.do("POST", "/api/renders", map[string]any{"piece": h.piece, "format": "landscape", "kind": "png"})
	ann.do("POST", "/api/pieces/"+h.piece+"/preview", map[string]any{"op": map[string]any{"kind": "entry", "entry": "border", "value": 3}, "format": "landscape", "width": 160, "height": 90})
	ann.do("POST", "/api/pieces/"+h.piece+"/operations", map[string]any{"id": "a-wrong-one", "base": 4, "op": map[string]any{"kind": "entry", "entry": "none", "value": 3}})
	pic := mediatest.JPEG(t, mediatest.Quarters(64, 48), 0)
	if res, b := ann.do("POST", "/api/media?name=kite.jpg", pic); res.StatusCode != 200 {
		t.Fatalf("%d %s", res.StatusCode, b)
	}
	// Whoever leaves in the middle has done nothing.
	h.leave("POST /api/media?name=torn.jpg HTTP/1.1\r\nCookie: "+ann.cookie.Name+"="+ann.cookie.Value+"\r\nContent-Length: 90000\r\n\r\nxx", 100*time.Millisecond)
	time.Sleep(300 * time.Millisecond)
	read := func(query string) (out []DeedView) {
		_, b := designer.do("GET", "/api/deeds?"+query, nil)
		if err := json.Unmarshal(b, &out); err != nil {
			t.Fatalf("%s", b)
		}
		return out
	}
	var said []string
	hers := read("code=" + ann.code())
	for _, d := range hers {
		said = append(said, d.Act)
		if d.Name != "Ruan Teague" || d.Role != "editor" {
			t.Errorf("%+v", d)
		}
	}
	if !slices.Equal(said, []string{"put-media", "render", "undo", "do", "enter"}) {
		t.Errorf("%v", said)
	}
	if len(hers) == 5 && (hers[0].Said != "Put kite.jpg into the store" || hers[3].Subject != h.piece || !strings.Contains(hers[3].Said, "Two Tides") || !strings.Contains(hers[1].Said, "render 1")) {
		t.Errorf("%+v", hers)
	}
	if got := read("text=KITE.jpg"); len(got) != 1 {
		t.Errorf("%v", got)
	}
	if got := read(fmt.Sprintf("below=%d&code=%s", hers[2].Number, ann.code())); len(got) != 2 {
		t.Errorf("%v", got)
	}
}

// A draft that is tried out is a draft: an editor does not see it, by no way to pieces.
func TestEditorsDontSeeTryOuts(t *testing.T) {
	h := filled(t)
	d := h.post("/api/drafts", map[string]any{"template": "two-tides"}, 200)["id"].(string)
	tried := h.post("/api/drafts/"+d+"/desk", nil, 200)["id"].(string)
	designer, ann, _ := guarded(t, h)
	for _, path := range []string{"", "/frames?format=landscape&width=160&height=90", "/poster", "/best?format=landscape"} {
		if res, _ := ann.do("GET", "/api/pieces/"+tried+path, nil); res.StatusCode != 404 {
			t.Errorf("%s: %d", path, res.StatusCode)
		}
		if res, b := designer.do("GET", "/api/pieces/"+tried+path, nil); res.StatusCode != 200 {
			t.Errorf("%s: %d %.100s", path, res.StatusCode, b)
		}
	}
}

func TestOfOthersDraftsAndRendersNothingIsHeard(t *testing.T) {
	h := filled(t)
	designer, ann, bea := guarded(t, h)
	hear := func(g *guest) (read func() string) {
		req, _ := http.NewRequest("GET", h.http.URL+"/api/events", nil)
		req.AddCookie(g.cookie)
		res, err := http.DefaultClient.Do(req)
		if err != nil {
			t.Fatal(err)
		}
		t.Cleanup(func() { res.Body.Close() })
		lines := bufio.NewReader(res.Body)
		if _, err := lines.ReadString('\n'); err != nil { // it listens now
			t.Fatal(err)
		}
		return func() string {
			var b strings.Builder
			for {
				line, err := lines.ReadString('\n')
				b.WriteString(line)
				if err != nil || strings.Contains(line, `"the end"`) {
					return b.String()
				}
			}
		}
	}
	all, hers, others := hear(designer), hear(ann), hear(bea)
	_, b := designer.do("POST", "/api/drafts", map[string]any{"template": "two-tides"})
	var draft, render struct{ ID string }
	_ = json.Unmarshal(b, &draft)
	designer.do("POST", "/api/drafts/delete", map[string]any{"ids": []string{draft.ID}})
	_, b = ann.do("POST", "/api/renders", map[string]any{"piece": h.piece, "format": "landscape", "kind": "png"})
	_ = json.Unmarshal(b, &render)
	h.srv.hub.send(event{Type: "media", ID: "the end"})
	for _, c := range []struct {
		what                  string
		text                  string
		ofDrafts, ofTheRender bool
	}{{"the designer", all(), true, true}, {"who asked for it", hers(), false, true}, {"another", others(), false, false}} {
		if d, r := strings.Contains(c.text, draft.ID), strings.Contains(c.text, render.ID); d != c.ofDrafts || r != c.ofTheRender {
			t.Errorf("%s hears of drafts %v, of the render %v", c.what, d, r)
		}
	}
}

// No cache on the way keeps what only those see who are in (RFC 9111, 3.5 and 5.2.2.7).
func TestNothingIsForCachesOfOthers(t *testing.T) {
	h := filled(t)
	frame := "/frames/" + h.frames("landscape", 160, 90)[0]
	_, b := h.do("GET", "/api/media", nil)
	var media []struct{ Hash string }
	if err := json.Unmarshal(b, &media); err != nil || len(media) == 0 {
		t.Fatalf("%s", b)
	}
	for _, path := range []string{frame + ".png", frame + ".jpg", "/api/media/" + media[0].Hash + "/thumb", "/api/media/" + media[0].Hash + "/file", "/api/pieces/" + h.piece + "/poster", "/api/pieces/" + h.piece} {
		res, _ := h.do("GET", path, nil)
		if c := res.Header.Get("Cache-Control"); res.StatusCode != 200 || !strings.Contains(c, "private") && !strings.Contains(c, "no-store") && !strings.Contains(c, "no-cache") {
			t.Errorf("%s: %d, %q", path, res.StatusCode, c)
		}
	}
}
