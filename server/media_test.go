package server

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"image"
	"net"
	"net/http"
	"os"
	"path/filepath"
	"runtime"
	"strconv"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/tus/tusd/v2/pkg/handler"
	"ivypocket/core/timing"

	"ivypocket/media/mediatest"
	"ivypocket/media/sequence"
	"ivypocket/store"
)

const tusVersion = "1.0.0"

// begin announces an upload by the tus protocol and returns its address.
func (h *house) begin(name string, size int) string {
	h.t.Helper()
	res, b := h.do("POST", uploadsPath, nil, "Tus-Resumable", tusVersion, "Upload-Length", strconv.Itoa(size), "Upload-Metadata", "filename "+b64(name))
	if res.StatusCode != 201 {
		h.t.Fatalf("%d %s", res.StatusCode, b)
	}
	at := res.Header.Get("Location")
	return at[strings.Index(at, uploadsPath):]
}

func b64(s string) string {
	const set = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/"
	var out []byte
	for i := 0; i < len(s); i += 3 {
		var v uint32
		n := min(3, len(s)-i)
		for k := range 3 {
			v <<= 8
			if k < n {
				v |= uint32(s[i+k])
			}
		}
		for k := range 4 {
			if k <= n {
				out = append(out, set[v>>(18-6*k)&63])
			} else {
				out = append(out, '=')
			}
		}
	}
	return string(out)
}

func (h *house) patch(at string, offset int, part []byte) (*http.Response, []byte) {
	h.t.Helper()
	return h.do("PATCH", at, part, "Tus-Resumable", tusVersion, "Upload-Offset", strconv.Itoa(offset), "Content-Type", "application/offset+octet-stream")
}

// tus 1.0.0, core protocol and termination.
func TestUploadsGoOnWhereTheyBrokeOff(t *testing.T) {
	h := build(t, t.TempDir())
	data := mediatest.PNG(t, mediatest.Quarters(300, 200))
	at := h.begin("Dünen ✨.png", len(data))
	half := len(data) / 2
	if res, b := h.patch(at, 0, data[:half]); res.StatusCode != 204 {
		t.Fatalf("%d %s", res.StatusCode, b)
	}
	// A request that breaks off in the middle: what came is kept.
	conn, err := net.Dial("tcp", h.http.Listener.Addr().String())
	if err != nil {
		t.Fatal(err)
	}
	fmt.Fprintf(conn, "PATCH %s HTTP/1.1\r\nHost: localhost\r\nTus-Resumable: %s\r\nUpload-Offset: %d\r\nContent-Type: application/offset+octet-stream\r\nContent-Length: %d\r\n\r\n", at, tusVersion, half, len(data)-half)
	if _, err := conn.Write(data[half : half+10]); err != nil {
		t.Fatal(err)
	}
	h.wait("what was sent", func() bool {
		st, err := os.Stat(filepath.Join(h.store.Dir(), "uploads", at[len(uploadsPath):]))
		return err == nil && st.Size() == int64(half+10)
	})
	conn.Close()
	var offset int
	h.wait("the break", func() bool {
		res, _ := h.do("HEAD", at, nil, "Tus-Resumable", tusVersion)
		offset, _ = strconv.Atoi(res.Header.Get("Upload-Offset"))
		return res.StatusCode == 200
	})
	if offset != half+10 {
		t.Fatalf("offset %d of %d that were sent", offset, half+10)
	}
	if res, _ := h.patch(at, 3, data[3:]); res.StatusCode != 409 {
		t.Errorf("an offset that is not the upload's: %d", res.StatusCode)
	}
	res, b := h.patch(at, offset, data[offset:])
	var m MediumView
	if err := json.Unmarshal(b, &m); err != nil || res.StatusCode != 200 {
		t.Fatalf("%d %s", res.StatusCode, b)
	}
	sum := sha256.Sum256(data)
	if m.Hash != "sha256:"+hex.EncodeToString(sum[:]) || m.Name != "Dünen ✨.png" || m.Width != 300 {
		t.Errorf("%+v", m)
	}
	// A client that did not hear the last answer asks again and gets it.
	if res, _ := h.do("HEAD", at, nil, "Tus-Resumable", tusVersion); res.Header.Get("Upload-Offset") != strconv.Itoa(len(data)) {
		t.Errorf("after its end: %v", res.Header)
	}
	if res, b := h.do("GET", at, nil); res.StatusCode != 200 || !strings.Contains(string(b), m.Hash) {
		t.Errorf("the answer again: %d %s", res.StatusCode, b)
	}

	// Begun by one program and ended by another: the sum is taken from the file.
	at = h.begin("b.png", len(data)+1)
	other := append(append([]byte{}, data[:len(data)-12]...), append([]byte{0}, data[len(data)-12:]...)...)
	h.patch(at, 0, other[:100])
	h.srv.uploads.sums.drop(at[len(uploadsPath):])
	if res, b := h.patch(at, 100, other[100:]); res.StatusCode != 422 || !strings.Contains(string(b), "PNG") {
		t.Errorf("%d %s", res.StatusCode, b)
	}

	at = h.begin("c.png", 1000)
	h.patch(at, 0, data[:50])
	if res, _ := h.do("DELETE", at, nil, "Tus-Resumable", tusVersion); res.StatusCode != 204 {
		t.Errorf("cancelled: %d", res.StatusCode)
	}
	if res, _ := h.do("HEAD", at, nil, "Tus-Resumable", tusVersion); res.StatusCode != 404 {
		t.Errorf("a cancelled upload answers %d", res.StatusCode)
	}
	left, _ := os.ReadDir(filepath.Join(h.store.Dir(), "uploads"))
	for _, e := range left {
		if !strings.HasSuffix(e.Name(), endExt) {
			t.Errorf("%s was left", e.Name())
		}
	}
	if res, _ := h.do("HEAD", uploadsPath+"..%2f..%2fivypocket.db", nil, "Tus-Resumable", tusVersion); res.StatusCode != 404 {
		t.Errorf("a path out of the folder: %d", res.StatusCode)
	}
	res, b = h.do("POST", uploadsPath, nil, "Tus-Resumable", tusVersion, "Upload-Length", "9000000000000000", "Upload-Metadata", "filename "+b64("x"))
	if res.StatusCode != 413 {
		t.Errorf("an endless upload: %d %s", res.StatusCode, b)
	}
}

func TestAbandonedUploadsAreRemoved(t *testing.T) {
	h := build(t, t.TempDir())
	old, young := h.begin("old.png", 100), h.begin("young.png", 100)
	path := func(at string) string { return filepath.Join(h.store.Dir(), "uploads", at[len(uploadsPath):]) }
	for _, p := range []string{path(old), path(old) + ".info"} {
		if err := os.Chtimes(p, time.Now(), time.Now().Add(-abandoned-time.Hour)); err != nil {
			t.Fatal(err)
		}
	}
	h.srv.uploads.tidy(time.Now())
	for at, want := range map[string]int{old: 404, young: 200} {
		if res, _ := h.do("HEAD", at, nil, "Tus-Resumable", tusVersion); res.StatusCode != want {
			t.Errorf("%s: %d, want %d", at, res.StatusCode, want)
		}
	}
}

func (h *house) stored(query string) []StoredView {
	h.t.Helper()
	_, b := h.do("GET", "/api/media"+query, nil)
	var out []StoredView
	if err := json.Unmarshal(b, &out); err != nil {
		h.t.Fatalf("%v: %s", err, b)
	}
	return out
}

func TestTheMediaStoreKnowsWhereMediaIsUsed(t *testing.T) {
	h := filled(t)
	spare := h.upload("spare%20leaf.png", mediatest.PNG(t, mediatest.Quarters(30, 20)))
	all := h.stored("")
	if len(all) != 3 || all[0].Name != "b.mp4" || all[2].Hash != spare { // what was used last comes first
		t.Fatalf("%d: %+v", len(all), all)
	}
	if u := all[0].Uses; len(u) != 1 || u[0].Piece != h.piece || u[0].Pocket != "Ebb" || !all[0].Kept || all[2].Kept {
		t.Errorf("%+v", all)
	}
	for query, want := range map[string]int{"?search=spare": 1, "?search=SPARE%20leaf": 1, "?search=ebb": 1, "?search=h.264": 1, "?kind=picture": 2, "?kind=footage,sound": 1, "?search=nothing": 0} {
		if got := h.stored(query); len(got) != want {
			t.Errorf("%s: %d, want %d", query, len(got), want)
		}
	}
}

func TestMediaIsReplacedEverywhereAtOneStroke(t *testing.T) {
	h := filled(t)
	old := h.stored("?search=a.jpg")[0].Hash
	second := h.post("/api/templates/two-tides/open?new=true", nil, 200)["id"].(string)
	h.post("/api/pieces/"+second+"/operations", map[string]any{"id": "second-fill", "base": 0, "op": map[string]any{"kind": "batch", "ops": []map[string]any{
		{"kind": "fill", "pocket": "flood", "media": old}, {"kind": "fill", "pocket": "ebb", "media": old}}}}, 200)
	fresh := h.upload("fresh.png", mediatest.PNG(t, mediatest.Quarters(64, 64)))
	v := h.post("/api/media/"+old+"/replace", map[string]any{"with": fresh}, 200)
	if v["pieces"].(float64) != 2 || len(h.stored("?search=fresh")[0].Uses) != 3 || len(h.stored("?search=a.jpg")[0].Uses) != 0 {
		t.Errorf("%+v", v)
	}
	u := h.post("/api/strokes/"+v["stroke"].(string)+"/undo", nil, 200)
	if u["pieces"].(float64) != 2 || len(h.stored("?search=a.jpg")[0].Uses) != 3 {
		t.Errorf("%+v", u)
	}
	h.post("/api/strokes/"+v["stroke"].(string)+"/undo", nil, 409)
	h.post("/api/media/"+old+"/replace", map[string]any{"with": old}, 422)
	h.post("/api/media/"+old+"/replace", map[string]any{"with": "sha256:" + strings.Repeat("0", 64)}, 422)
	// A pocket that takes nothing of the kind is left and named.
	mark := h.upload("mark.png", mediatest.PNG(t, mediatest.Quarters(50, 20)))
	h.op("the-mark", 4, map[string]any{"kind": "fill", "pocket": "logo", "media": mark}, 200)
	clip := h.stored("?search=b.mp4")[0].Hash
	if v := h.post("/api/media/"+mark+"/replace", map[string]any{"with": clip}, 200); v["pieces"].(float64) != 0 || len(v["left"].([]any)) != 1 {
		t.Errorf("%+v", v)
	}
}

// Another version of a picture, as large as the one before, lies as that one did; other
// media lies as its pocket has it.
func TestAnotherVersionOfAPictureKeepsItsFraming(t *testing.T) {
	h := filled(t)
	size := func(hash string) (w, ht int) {
		md, _ := h.store.Medium(hash)
		return md.Meta.Width, md.Meta.Height
	}
	old := h.stored("?search=a.jpg")[0].Hash
	w, ht := size(old)
	frame := map[string]any{"kind": "frame", "pocket": "flood", "framing": map[string]any{"fit": "cover", "focus": []float64{0.5, 0.5}, "pan": []float64{0, 0}, "zoom": 3, "turn": 0}}
	base := h.json("GET", "/api/pieces/"+h.piece, nil, 200)["revision"]
	h.post("/api/pieces/"+h.piece+"/operations", map[string]any{"id": "zoom-in-so", "base": base, "op": frame}, 200)
	zoom := func() float64 {
		p, err := h.srv.piece(context.Background(), h.piece)
		if err != nil {
			t.Fatal(err)
		}
		if f := p.piece.Values.Fills["flood"].Framing; f != nil {
			return f.Zoom
		}
		return 0
	}
	same := h.upload("same.png", mediatest.PNG(t, mediatest.Quarters(w, ht)))
	h.post("/api/media/"+old+"/replace", map[string]any{"with": same}, 200)
	if zoom() != 3 {
		t.Errorf("as large: zoom %v", zoom())
	}
	h.post("/api/media/"+same+"/replace", map[string]any{"with": h.upload("other.png", mediatest.PNG(t, mediatest.Quarters(w+2, ht)))}, 200)
	if zoom() != 0 {
		t.Errorf("of another size: zoom %v", zoom())
	}
}

func TestUnusedMediaIsClearedAndBroughtBack(t *testing.T) {
	h := filled(t)
	spare := h.upload("spare.png", mediatest.PNG(t, mediatest.Quarters(30, 20)))
	was := h.stored("?search=a.jpg")[0].Hash
	h.op("other-pic", 2, map[string]any{"kind": "fill", "pocket": "flood", "media": h.upload("n.png", mediatest.PNG(t, mediatest.Quarters(31, 20)))}, 200)
	v := h.post("/api/media/clear", map[string]any{"hashes": []string{}}, 200)
	if len(v["hashes"].([]any)) != 2 || len(h.stored("")) != 2 {
		t.Fatalf("%+v", v)
	}
	// Undo of the piece brings media back that was cleared.
	h.post("/api/pieces/"+h.piece+"/undo", map[string]any{"id": "back-again"}, 200)
	if len(h.stored("?search=a.jpg")) != 1 {
		t.Error("what undo put back into a pocket is not in the store's list")
	}
	h.post("/api/media/clear", map[string]any{"hashes": []string{spare}, "back": true}, 200)
	if len(h.stored("?search=spare")) != 1 {
		t.Error("what was cleared did not come back")
	}
	if v := h.post("/api/media/clear", map[string]any{"hashes": []string{was}}, 200); len(v["hashes"].([]any)) != 0 || len(v["left"].([]any)) != 1 {
		t.Errorf("media in use: %+v", v)
	}
	// Files stay while undo may want them, and a while in any case.
	h.post("/api/media/clear", map[string]any{"hashes": []string{}}, 200)
	ctx := context.Background()
	if gone, err := h.store.Purge(ctx, time.Now().Add(-time.Hour)); err != nil || len(gone) != 0 {
		t.Errorf("purged %v, %v", gone, err)
	}
	gone, err := h.store.Purge(ctx, time.Now().Add(time.Hour))
	if err != nil || len(gone) != 1 || gone[0] != spare {
		t.Errorf("purged %v, %v; want the spare picture alone", gone, err)
	}
	if _, err := os.Stat(h.store.Path(spare)); !errors.Is(err, os.ErrNotExist) {
		t.Error("its file is still there")
	}
	if again := h.upload("spare.png", mediatest.PNG(t, mediatest.Quarters(30, 20))); again != spare || len(h.stored("?search=spare")) != 1 {
		t.Error("purged media can't come in again")
	}
}

func TestNumberedPicturesMakeAClip(t *testing.T) {
	h := build(t, t.TempDir())
	_, b := h.do("POST", "/api/sequences/find", map[string]any{"names": []string{"k 03.png", "k 01.png", "k 04.png", "x.jpg"}})
	var found struct {
		Groups []sequence.Group
		Rest   []string
	}
	if err := json.Unmarshal(b, &found); err != nil || len(found.Groups) != 1 || len(found.Rest) != 1 {
		t.Fatalf("%v %s", err, b)
	}
	g := found.Groups[0]
	var hashes []string
	for _, n := range g.Numbers {
		img := image.NewNRGBA(image.Rect(0, 0, 160, 64))
		for i, v := range mediatest.Numbered(160, 64, int(n)) {
			copy(img.Pix[i*4:], []byte{v, v, v, 255})
		}
		hashes = append(hashes, h.upload(fmt.Sprintf("k%d.png", n), mediatest.PNG(t, img)))
	}
	m := h.post("/api/sequences", map[string]any{"name": g.Name, "rate": "25", "numbers": g.Numbers, "hashes": hashes}, 200)
	if m["kind"] != "footage" || m["frames"].(float64) != 4 || !strings.Contains(fmt.Sprint(m["notes"]), "2 are missing") {
		t.Errorf("%+v", m)
	}
	hash := m["hash"].(string)
	h.wait("the proxy", func() bool { return h.srv.lib.HasProxy(hash) })
	for frame, want := range []int{1, 1, 3, 4} {
		s, err := h.srv.lib.Single().Picture(context.Background(), hash, int64(frame), 160, 64)
		if err != nil || mediatest.Number(s.Pix, 160, 64) != want {
			t.Errorf("frame %d shows %d, want %d (%v)", frame, mediatest.Number(s.Pix, 160, 64), want, err)
		}
		if s, err = h.srv.lib.Stage().Picture(context.Background(), hash, int64(frame), 160, 64); err != nil || mediatest.Number(s.Resize(160, 64).Pix, 160, 64) != want {
			t.Errorf("frame %d of the proxy (%v)", frame, err)
		}
	}
	// Its pictures are seen through it, and stay while it does.
	if all := h.stored(""); len(all) != 1 {
		t.Errorf("%d lines in the store", len(all))
	}
	h.op("fill-numbered", 0, map[string]any{"kind": "fill", "pocket": "ebb", "media": hash}, 200)
	if v := h.post("/api/media/clear", map[string]any{"hashes": []string{}}, 200); len(v["hashes"].([]any)) != 0 {
		t.Errorf("pictures of a sequence in use were cleared: %v", v)
	}
	small := h.upload("s.png", mediatest.PNG(t, mediatest.Quarters(20, 20)))
	if v := h.post("/api/sequences", map[string]any{"name": "n", "rate": "25", "numbers": []int{1, 2}, "hashes": []string{hashes[0], small}}, 422); !strings.Contains(v["detail"].(string), "one size") {
		t.Errorf("%v", v)
	}
	h.post("/api/sequences", map[string]any{"name": "n", "rate": "0", "numbers": []int{1, 2}, "hashes": hashes[:2]}, 422)
	// A restart finds the list again.
	dir := h.store.Dir()
	h.stop()
	h = build(t, dir)
	if m, ok := h.store.Meta(hash); !ok || m.Times == nil || m.Times.Frames != 4 {
		t.Errorf("after a restart: %+v", m)
	}
}

func TestHowAClipRunsIsAnOperation(t *testing.T) {
	h := filled(t)
	before := h.frames("landscape", 480, 270)
	done := h.op("run-it-so", 2, map[string]any{"kind": "play", "pocket": "ebb", "play": map[string]any{"in": 10, "speed": 1.5, "after": "bounce"}}, 200)
	if done["title"] != "Run of Ebb" {
		t.Errorf("%v", done["title"])
	}
	p, err := h.srv.piece(context.Background(), h.piece)
	if err != nil {
		t.Fatal(err)
	}
	if got := p.play("ebb"); got.In != 10 || got.Speed != timing.NewRat(3, 2) || got.After != timing.Bounce {
		t.Errorf("%+v", got)
	}
	if after := h.frames("landscape", 480, 270); after[50] == before[50] {
		t.Error("a frame of another instant of the clip has the same address")
	}
	// Other media begins at its first frame and keeps the rest.
	h.op("swap-it-now", 3, map[string]any{"kind": "fill", "pocket": "ebb", "media": h.upload("c.mp4", mediatest.Clip(t, 160, 64, "30", 20))}, 200)
	if p, err = h.srv.piece(context.Background(), h.piece); err != nil {
		t.Fatal(err)
	}
	if got := p.play("ebb"); got.In != 0 || got.After != timing.Bounce {
		t.Errorf("after a swap: %+v", got)
	}
	h.post("/api/pieces/"+h.piece+"/undo", map[string]any{"id": "undo-swap"}, 200)
	h.post("/api/pieces/"+h.piece+"/undo", map[string]any{"id": "undo-play"}, 200)
	if after := h.frames("landscape", 480, 270); after[100] != before[100] {
		t.Error("undo does not bring the frames back")
	}
	for _, play := range []map[string]any{{"in": -1, "speed": 1, "after": "hold"}, {"in": 0, "speed": 0, "after": "hold"}, {"in": 0, "speed": 1e300, "after": "hold"}, {"in": 0, "speed": 1, "after": "never"}} {
		h.op(fmt.Sprintf("bad-play-%v", play), 5, map[string]any{"kind": "play", "pocket": "ebb", "play": play}, 422)
	}
}

// A picture that is far wider or higher than others has its place bounded on a
// strip, and a strip as a whole is bounded: 60 frames of 8192 × 1 px asked for 9 GB.
func TestStripsOfAnyProportionAreBounded(t *testing.T) {
	h := build(t, t.TempDir())
	for _, c := range []struct{ w, h, count, side, frames, width int }{
		{8192, 1, 60, 60, 60, 240},
		{2048, 16, 60, 240, 36, 960}, // 8 Mpx hold 36 of them
		{16, 2048, 60, 240, 60, 60},
		{64, 48, 12, 60, 12, 80},
	} {
		hash := h.upload("wide.gif", mediatest.Film(t, c.w, c.h, "25", 60, "a.gif", "-filter_complex", "split[a][b];[a]palettegen=max_colors=4[p];[b][p]paletteuse"))
		res, b := h.do("GET", fmt.Sprintf("/api/media/%s/strip?count=%d&side=%d", hash, c.count, c.side), nil)
		cfg, _, err := image.DecodeConfig(bytes.NewReader(b))
		if err != nil || res.Header.Get("Ivy-Strip") != strconv.Itoa(c.frames) || cfg.Width != c.frames*c.width || cfg.Height != c.side {
			t.Errorf("%d × %d: %s frames, %d × %d px, %v", c.w, c.h, res.Header.Get("Ivy-Strip"), cfg.Width, cfg.Height, err)
		}
	}
}

func TestStripsFilesAndGroundsAreAnswered(t *testing.T) {
	h := filled(t)
	clip := h.stored("?kind=footage")[0].Hash
	res, b := h.do("GET", "/api/media/"+clip+"/strip?count=5&side=32", nil)
	img, _, err := image.Decode(bytes.NewReader(b))
	if err != nil || res.Header.Get("Ivy-Strip") != "5" || img.Bounds().Dx() != 5*80 || img.Bounds().Dy() != 32 {
		t.Errorf("strip: %v, %v", err, res.Header)
	}
	pic := h.stored("?kind=picture")[0].Hash
	if res, _ := h.do("GET", "/api/media/"+pic+"/strip", nil); res.StatusCode != 404 {
		t.Errorf("a picture's strip: %d", res.StatusCode)
	}
	// RFC 9110, section 14: ranges. Nothing but sound is shown in place.
	res, whole := h.do("GET", "/api/media/"+pic+"/file", nil)
	if !strings.HasPrefix(res.Header.Get("Content-Disposition"), "attachment") || res.Header.Get("Content-Type") != "application/octet-stream" {
		t.Errorf("%v", res.Header)
	}
	res, part := h.do("GET", "/api/media/"+pic+"/file", nil, "Range", "bytes=-10")
	if res.StatusCode != 206 || !bytes.Equal(part, whole[len(whole)-10:]) || res.Header.Get("Content-Range") != fmt.Sprintf("bytes %d-%d/%d", len(whole)-10, len(whole)-1, len(whole)) {
		t.Errorf("range: %d %v", res.StatusCode, res.Header)
	}
	if res, _ = h.do("GET", "/api/media/"+pic+"/file", nil, "Range", "bytes=999999999-"); res.StatusCode != 416 {
		t.Errorf("a range beyond the end: %d", res.StatusCode)
	}
	if res, _ = h.do("GET", "/api/media/"+pic+"/file", nil, "Range", "bytes=0-5", "If-Range", `"other"`); res.StatusCode != 200 {
		t.Errorf("a range of another version: %d", res.StatusCode)
	}

	// On a ground: a backing that is clear lets it through.
	h.op("clear-all", 2, map[string]any{"kind": "batch", "ops": []map[string]any{{"kind": "entry", "entry": "border-colour", "value": "#00000000"}, {"kind": "entry", "entry": "border", "value": 60}}}, 200)
	a := h.frames("landscape", 480, 270)[60]
	at := func(ground string) [4]uint32 {
		t.Helper()
		res, b := h.do("GET", "/frames/"+a+".png"+ground, nil)
		img, _, err := image.Decode(bytes.NewReader(b))
		if err != nil {
			t.Fatalf("%s: %d %s", ground, res.StatusCode, b[:min(200, len(b))])
		}
		r, g, bl, al := img.At(317, 20).RGBA() // in the border between the cells
		return [4]uint32{r >> 8, g >> 8, bl >> 8, al >> 8}
	}
	for ground, want := range map[string][4]uint32{"": {0, 0, 0, 0}, "?ground=black": {0, 0, 0, 255}, "?ground=white": {255, 255, 255, 255}, "?ground=grey": {119, 119, 119, 255}, "?ground=alpha": {0, 0, 0, 255}} {
		if got := at(ground); got != want {
			t.Errorf("%q: %v, want %v", ground, got, want)
		}
	}
	if c := at("?ground=checker"); c[0] != 0xcc && c[0] != 0x99 {
		t.Errorf("checker: %v", c)
	}
	if c := at("?ground=clip:" + clip); c[3] != 255 || c[0] > 60 && c[0] < 200 { // bars of numbers
		t.Errorf("clip: %v", c)
	}
	for _, ground := range []string{"?ground=pink", "?ground=clip:" + pic, "?ground=clip:"} {
		if res, _ := h.do("GET", "/frames/"+a+".png"+ground, nil); res.StatusCode != 422 {
			t.Errorf("%s: %d", ground, res.StatusCode)
		}
	}
}

// A clip that was too large to be counted at once is counted behind, and what
// was made of the guess is let go.
func TestFramesAreCountedBehind(t *testing.T) {
	h := filled(t)
	clip := h.stored("?kind=footage")[0].Hash
	h.wait("the proxy", func() bool { return h.srv.lib.HasProxy(clip) })
	m, _ := h.store.Meta(clip)
	facts, guess := *m.Clip, timing.Even(m.Times.Rate, 7)
	facts.Frames, facts.Exact = 7, false
	m.Clip, m.Times = &facts, &guess
	if err := h.store.Learn(context.Background(), clip, m); err != nil {
		t.Fatal(err)
	}
	h.srv.scenes.Purge()
	before := h.frames("landscape", 480, 270)
	md, _ := h.store.Medium(clip)
	h.srv.wantProxy(md)
	h.wait("the count", func() bool { m, _ := h.store.Meta(clip); return m.Clip.Exact })
	if m, _ := h.store.Meta(clip); m.Times.Frames != 40 {
		t.Errorf("%d frames", m.Times.Frames)
	}
	if after := h.frames("landscape", 480, 270); after[30] == before[30] {
		t.Error("a frame that the guess did not know has the address it had before")
	}
}

func TestRendersArePausedOrderedAndMadeSeveralAtOnce(t *testing.T) {
	h := filled(t)
	ask := map[string]any{"piece": h.piece, "format": "landscape", "kind": "mp4", "width": 1920, "height": 1080}
	first := h.post("/api/renders", ask, 200)["id"].(string)
	h.wait("the first frames", func() bool { return h.render(first).Done > 3 })
	h.post("/api/renders/"+first+"/pause", map[string]any{"paused": true}, 204)
	h.post("/api/renders/"+first+"/pause", map[string]any{"paused": true}, 409)
	// One that is paused leaves its place to the next.
	small := map[string]any{"piece": h.piece, "format": "landscape", "kind": "mp4", "to": 10, "width": 480, "height": 270}
	second := h.post("/api/renders", small, 200)["id"].(string)
	h.wait("the second", func() bool { return h.render(second).State == "done" })
	at := h.render(first).Done
	time.Sleep(150 * time.Millisecond)
	if r := h.render(first); r.State != "paused" || r.Done > at+inFlightSlack {
		t.Errorf("a paused render went from %d to %d, %s", at, r.Done, r.State)
	}
	// Order: of those that wait, the last goes first.
	var waiting []string
	h.post("/api/renders/"+first+"/pause", map[string]any{"paused": false}, 204)
	for range 3 {
		waiting = append(waiting, h.post("/api/renders", small, 200)["id"].(string))
	}
	h.post("/api/renders/"+waiting[1]+"/pause", map[string]any{"paused": true}, 204)
	h.post("/api/renders/"+waiting[2]+"/move", map[string]any{"to": "first"}, 204)
	if a, b := h.render(waiting[2]).Number, h.render(waiting[0]).Number; a >= b {
		t.Errorf("moved first it has number %d, and the one that was first %d", a, b)
	}
	h.post("/api/renders/"+first+"/move", map[string]any{"to": "first"}, 409)
	if v := h.post("/api/queue", map[string]any{"atOnce": 2}, 200); v["atOnce"].(float64) != 2 {
		t.Errorf("%v", v)
	}
	h.post("/api/queue", map[string]any{"atOnce": 9}, 422)
	h.wait("the others beside the first", func() bool {
		return h.render(waiting[2]).State == "done" && h.render(waiting[0]).State == "done"
	})
	if r := h.render(waiting[1]); r.State != "paused" {
		t.Errorf("a paused render is %s", r.State)
	}
	h.post("/api/renders/"+waiting[1]+"/cancel", nil, 204)
	h.post("/api/renders/"+first+"/cancel", nil, 204)
	h.wait("the end", func() bool { return h.render(first).State == "cancelled" && h.render(waiting[1]).State == "cancelled" })
}

// inFlightSlack is how many frames may still be on their way to the encoder.
const inFlightSlack = 12

// children counts the processes that have this one as their parent.
func children(t *testing.T) int {
	t.Helper()
	dirs, err := filepath.Glob("/proc/[0-9]*/stat")
	if err != nil {
		t.Fatal(err)
	}
	n := 0
	for _, p := range dirs {
		b, err := os.ReadFile(p)
		if err != nil {
			continue
		}
		f := strings.Fields(string(b[bytes.LastIndexByte(b, ')')+1:]))
		if len(f) > 1 && f[1] == strconv.Itoa(os.Getpid()) && f[0] != "Z" {
			n++
		}
	}
	return n
}

// Cancelled work really stops: no goroutine and no child process is left of a
// render, of stage frames nobody waits for any more, or of a proxy.
func TestCancelledWorkReallyStops(t *testing.T) {
	h := filled(t)
	h.wait("the proxy", func() bool { return h.srv.lib.HasProxy(h.stored("?kind=footage")[0].Hash) })
	h.http.Client().CloseIdleConnections()
	http.DefaultClient.CloseIdleConnections()
	time.Sleep(100 * time.Millisecond)
	goroutines, processes := runtime.NumGoroutine(), children(t)

	id := h.post("/api/renders", map[string]any{"piece": h.piece, "format": "landscape", "kind": "mp4", "width": 1920, "height": 1080}, 200)["id"].(string)
	h.wait("the first frames", func() bool { return h.render(id).Done > 0 })
	if children(t) <= processes {
		t.Error("a render has no child process")
	}
	h.post("/api/renders/"+id+"/cancel", nil, 204)

	addresses := h.frames("landscape", 1900, 1060)
	for _, n := range []int{3, 40, 90} {
		ctx, cancel := context.WithTimeout(context.Background(), 30*time.Millisecond)
		req, err := http.NewRequestWithContext(ctx, "GET", h.http.URL+"/frames/"+addresses[n]+".png", nil)
		if err != nil {
			t.Fatal(err)
		}
		if res, err := http.DefaultClient.Do(req); err == nil {
			res.Body.Close()
		}
		cancel()
	}
	long := h.upload("long.mp4", mediatest.Clip(t, 640, 360, "25", 300))
	h.wait("a growing proxy", func() bool { return h.srv.lib.Grown(long) > 0 })
	h.post("/api/media/clear", map[string]any{"hashes": []string{long}}, 200)

	h.wait("everything to stop", func() bool {
		http.DefaultClient.CloseIdleConnections()
		return children(t) <= processes && runtime.NumGoroutine() <= goroutines+1
	})
	if h.srv.lib.HasProxy(long) {
		t.Skip("the proxy was quicker than the wish to stop it")
	}
	h.wait("its file to go", func() bool {
		left, _ := filepath.Glob(filepath.Join(h.store.Dir(), "proxies", ".*"))
		return len(left) == 0
	})
}

// A full disk is said, and nothing is left half-written. A file system of a few
// megabytes is mounted for it, which takes root.
func TestAFullDiskBreaksNothing(t *testing.T) {
	dir := t.TempDir()
	if err := syscall.Mount("tmpfs", dir, "tmpfs", 0, "size=160m"); err != nil {
		t.Skip("no file system can be mounted here: ", err)
	}
	t.Cleanup(func() { _ = syscall.Unmount(dir, syscall.MNT_DETACH) })
	h := build(t, dir)
	pic := h.upload("a.png", noise(1200, 1000)(t)) // a film of it takes more than will be left
	h.op("fill-one", 0, map[string]any{"kind": "fill", "pocket": "flood", "media": pic}, 200)
	// Larger than what is left: refused before anything is sent.
	res, b := h.do("POST", uploadsPath, nil, "Tus-Resumable", tusVersion, "Upload-Length", strconv.Itoa(200<<20), "Upload-Metadata", "filename "+b64("big.mp4"))
	if res.StatusCode != 507 || !strings.Contains(string(b), "no room") {
		t.Errorf("%d %s", res.StatusCode, b)
	}
	// The disk fills up while the work goes on.
	fill, err := os.Create(filepath.Join(dir, "filler"))
	if err != nil {
		t.Fatal(err)
	}
	block := make([]byte, 64<<10)
	for err == nil {
		_, err = fill.Write(block)
	}
	st, _ := fill.Stat()
	_ = fill.Truncate(st.Size() - 256<<10) // the database needs a little
	fill.Close()
	if res, b := h.do("POST", "/api/media?name=b.png", noise(900, 700)(t)); res.StatusCode != 507 || !strings.Contains(string(b), "disk is full") {
		t.Errorf("%d %s", res.StatusCode, b)
	}
	id := h.post("/api/renders", map[string]any{"piece": h.piece, "format": "landscape", "kind": "mp4", "width": 1920, "height": 1080}, 200)["id"].(string)
	h.wait("the failure", func() bool { return h.render(id).State == "failed" })
	if f := h.render(id).Failure; !strings.Contains(f, "disk is full") {
		t.Errorf("the render failed with %q", f)
	}
	for _, what := range []string{"renders/*", "tmp/*/in-*", "uploads/*"} {
		if left, _ := filepath.Glob(filepath.Join(dir, what)); len(left) != 0 {
			t.Errorf("%s was left", left[0])
		}
	}
	// Room again: the same render goes through.
	if err := os.Remove(filepath.Join(dir, "filler")); err != nil {
		t.Fatal(err)
	}
	h.post("/api/renders/"+id+"/retry", nil, 204)
	h.wait("the render", func() bool { return h.render(id).State == "done" })
}

// noise makes a picture that hardly shrinks.
func noise(w, ht int) func(testing.TB) []byte {
	return func(t testing.TB) []byte {
		img := image.NewNRGBA(image.Rect(0, 0, w, ht))
		v := uint32(7)
		for i := range img.Pix {
			v = v*1664525 + 1013904223
			img.Pix[i] = byte(v >> 24)
		}
		return mediatest.PNG(t, img)
	}
}

// What a page was told to be safe is taken in, whenever the program was stopped
// after the last byte came: nothing was done yet, the file has its name, or the
// row is there and the answer was never sent.
func TestAWholeUploadIsTakenInAfterAStop(t *testing.T) {
	dir := t.TempDir()
	h := build(t, dir)
	pics := [][]byte{}
	var at []string
	for i := range 4 {
		data := mediatest.PNG(t, mediatest.Quarters(40+i, 30))
		pics = append(pics, data)
		at = append(at, h.begin(fmt.Sprintf("%d.png", i), len(data)))
	}
	bad := h.begin("bad.png", 5)
	h.stop()
	write := func(at string, data []byte) {
		if err := os.WriteFile(filepath.Join(dir, "uploads", at[len(uploadsPath):]), data, 0o644); err != nil {
			t.Fatal(err)
		}
	}
	for i := range pics {
		write(at[i], pics[i])
	}
	write(bad, []byte("hello"))
	hash := func(b []byte) string { sum := sha256.Sum256(b); return hex.EncodeToString(sum[:]) }
	// Number 1 was given its name and has no row.
	named := filepath.Join(dir, "media", hash(pics[1])[:2], hash(pics[1]))
	if err := os.MkdirAll(filepath.Dir(named), 0o755); err != nil {
		t.Fatal(err)
	}
	if err := os.WriteFile(named, pics[1], 0o644); err != nil {
		t.Fatal(err)
	}
	// Number 2 has its row, too.
	s, err := store.Open(dir)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := s.Put(context.Background(), "2.png", bytes.NewReader(pics[2])); err != nil {
		t.Fatal(err)
	}
	s.Close()
	h = build(t, dir)
	h.wait("them without anybody asking", func() bool { return len(h.stored("")) == len(pics) })
	up, _ := h.srv.uploads.whole(bad[len(uploadsPath):])
	for i := range pics {
		res, b := h.do("GET", at[i], nil)
		if res.StatusCode != 200 || !strings.Contains(string(b), hash(pics[i])) {
			t.Errorf("number %d: %d %s", i, res.StatusCode, b)
		}
		if res, _ := h.do("HEAD", at[i], nil, "Tus-Resumable", tusVersion); res.Header.Get("Upload-Offset") != strconv.Itoa(len(pics[i])) {
			t.Errorf("number %d: %v", i, res.Header)
		}
	}
	if res, b := h.do("GET", bad, nil); res.StatusCode != 422 || !strings.Contains(string(b), "text") {
		t.Errorf("a text: %d %s", res.StatusCode, b)
	}
	// A last request that comes late gets the same answer.
	if e := h.srv.uploads.finish(context.Background(), up); up.ID != "" && e.Status != 422 {
		t.Errorf("a text that is gone: %+v", e)
	}
	if e := h.srv.uploads.finish(context.Background(), handler.FileInfo{ID: at[0][len(uploadsPath):], Size: int64(len(pics[0]))}); e.Status != 200 {
		t.Errorf("a picture that was taken in: %+v", e)
	}
	// The answers outlive the next stop.
	h.stop()
	h = build(t, dir)
	if res, b := h.do("GET", at[0], nil); res.StatusCode != 200 || !strings.Contains(string(b), hash(pics[0])) {
		t.Errorf("after another stop: %d %s", res.StatusCode, b)
	}
	if n := len(h.stored("")); n != len(pics) {
		t.Errorf("%d media are in the store", n)
	}
}

// What may go otherwise another time is no end: on a full disk the upload stays.
func TestAnUploadThatHasNoRoomYetStays(t *testing.T) {
	h := build(t, t.TempDir())
	data := mediatest.PNG(t, mediatest.Quarters(30, 30))
	at := h.begin("a.png", len(data))
	take := h.srv.uploads.take
	h.srv.uploads.take = func(context.Context, handler.FileInfo) (ending, bool) { return ending{Status: 507, Body: "{}"}, false }
	if res, _ := h.patch(at, 0, data); res.StatusCode != 507 {
		t.Errorf("%d", res.StatusCode)
	}
	if res, _ := h.do("HEAD", at, nil, "Tus-Resumable", tusVersion); res.Header.Get("Upload-Offset") != strconv.Itoa(len(data)) {
		t.Errorf("%v", res.Header)
	}
	h.srv.uploads.take = take
	if res, b := h.do("GET", at, nil); res.StatusCode != 200 {
		t.Errorf("%d %s", res.StatusCode, b)
	}
}
