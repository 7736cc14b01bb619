package e2e

import (
	"context"
	"encoding/base64"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"ivypocket/demo"
	"ivypocket/e2e/browser"
	"ivypocket/media/helper"
	"ivypocket/server"
	"ivypocket/store"
	"ivypocket/web"
)

// drawn is a folder with the demo's media, drawn once for all tests.
var drawn = sync.OnceValues(func() (string, error) {
	dir, err := os.MkdirTemp("", "ivypocket-e2e-")
	if err == nil {
		drawnIn = dir
		err = demo.Draw(context.Background(), dir, func(string) {})
	}
	return dir, err
})

// ready is a folder of data with the demo's templates, and with light copies of all
// clips, made once: most tests are not about making them.
var ready = sync.OnceValues(func() (string, error) {
	from, err := drawn()
	if err != nil {
		return "", err
	}
	if readyIn, err = os.MkdirTemp("", "ivypocket-e2e-"); err != nil {
		return "", err
	}
	if err := os.CopyFS(demo.Files(readyIn), os.DirFS(from)); err != nil {
		return "", err
	}
	url, _, stop, err := start(readyIn, false)
	if err != nil {
		return "", err
	}
	defer stop()
	for range 1200 {
		res, err := http.Get(url + "/api/media")
		if err != nil {
			return "", err
		}
		var all []server.MediumView
		err = json.NewDecoder(res.Body).Decode(&all)
		res.Body.Close()
		if err != nil {
			return "", err
		}
		if len(all) > 0 && !slices.ContainsFunc(all, func(m server.MediumView) bool { return m.ProxyDone < m.Frames }) {
			return readyIn, nil
		}
		time.Sleep(100 * time.Millisecond)
	}
	return "", errors.New("the light copies of the demo's clips were not made in two minutes")
})

// drawnIn and readyIn are those folders, once they are there.
var drawnIn, readyIn string

func TestMain(m *testing.M) {
	code := m.Run()
	for _, dir := range []string{drawnIn, readyIn} {
		if dir != "" {
			os.RemoveAll(dir)
		}
	}
	_ = helper.Clean()
	os.Exit(code)
}

// copyDemo puts the drawn media where the demo looks for it.
func copyDemo(t testing.TB, dir string) {
	t.Helper()
	from, err := drawn()
	if err == nil {
		err = os.CopyFS(demo.Files(dir), os.DirFS(from))
	}
	if err != nil && !errors.Is(err, fs.ErrExist) {
		t.Fatal(err)
	}
}

// seed puts the demo into a folder, if it is new.
func seed(t testing.TB, dir string) {
	t.Helper()
	if old, err := os.ReadDir(dir); err == nil && len(old) == 0 {
		from, err := ready()
		if err == nil {
			err = os.CopyFS(dir, os.DirFS(from))
		}
		if err != nil {
			t.Fatal(err)
		}
	}
	copyDemo(t, dir)
}

// serve runs the real program over a folder, seeded if it is new, and returns its address.
func serve(t testing.TB, dir string) (url string, stop func()) {
	t.Helper()
	seed(t, dir)
	url, _, end, err := start(dir, false)
	if err != nil {
		t.Fatal(err)
	}
	stop = func() {
		if err := end(); err != nil {
			t.Error(err)
		}
	}
	t.Cleanup(stop)
	return url, stop
}

// start runs the real program over a folder with the demo's media, where people show codes
// or not; end may be called again.
func start(dir string, codes bool) (url string, kept *store.Store, end func() error, err error) {
	if _, err := fs.Stat(web.Files(), "index.html"); err != nil {
		return "", nil, nil, errors.New("the front end is not built; run: make build")
	}
	s, err := store.Open(dir)
	if err != nil {
		return "", nil, nil, err
	}
	if err := demo.Seed(context.Background(), s, func(string) {}); err != nil {
		return "", nil, nil, err
	}
	srv, err := server.New(s, web.Files(), slog.New(slog.DiscardHandler))
	if err != nil {
		return "", nil, nil, err
	}
	if codes {
		srv.DemandCodes()
	}
	ctx, cancel := context.WithCancel(context.Background())
	ended := make(chan error, 1)
	go func() { ended <- srv.Run(ctx) }()
	h := httptest.NewServer(srv.Handler())
	return h.URL, s, sync.OnceValue(func() error {
		cancel()
		h.CloseClientConnections()
		h.Close()
		err := <-ended
		srv.Close()
		s.Close()
		return err
	}), nil
}

// walker stops a test at the first step that fails.
type walker struct {
	testing.TB
	*browser.Tab
}

func (w walker) must(err error) {
	w.Helper()
	if err != nil {
		w.Fatal(err)
	}
}
func (w walker) until(js string)  { w.Helper(); w.must(w.Until(js, patience)) }
func (w walker) click(sel string) { w.Helper(); w.must(w.Click(sel)) }
func (w walker) key(k string)     { w.Helper(); w.must(w.Keys(k)) }
func (w walker) text(sel string) string {
	w.Helper()
	return eval[string](w.TB, w.Tab, fmt.Sprintf("document.querySelector(%q)?.innerText ?? ''", sel))
}
func (w walker) exact() {
	w.Helper()
	w.until(`document.querySelector('.picture')?.dataset.quality === 'exact'`)
}

// atDesk serves the demo from a folder and opens a piece of a template.
func atDesk(t testing.TB, dir, template string) (w walker, url string, stop func()) {
	t.Helper()
	url, stop = serve(t, dir)
	w = walker{t, tab(t, 1280, 800)}
	w.must(w.Go(url))
	w.click("[data-template=" + template + "] .picture")
	w.exact()
	return
}

// file reads one of the demo's files for dropping.
func (w walker) file(dir, name, mime string) browser.File {
	w.Helper()
	f, err := browser.FileOf(filepath.Join(dir, "demo media", name), name, mime)
	w.must(err)
	return f
}

func TestFromTheShelfToAFilm(t *testing.T) {
	dir := t.TempDir()
	url, _ := serve(t, dir)
	w := walker{t, tab(t, 1280, 800)}
	w.must(w.Go(url))

	// The shelf, with a poster that is really drawn.
	w.until(`document.querySelector('[data-template=four-winds] img')?.naturalWidth > 300`)
	w.click("[data-template=four-winds] .picture")
	w.exact()

	w.click("[data-side=framing]")
	w.until(`document.querySelector('[data-stand=south-east]')`)
	// The cells' numbers: (1920 − 3·16)/2 = 936 wide, centres 936/2 + 16/2 = 476 from the middle.
	if got := w.text("[data-stand=south-east]"); !strings.Contains(got, "bottom right") || !strings.Contains(got, "476") || !strings.Contains(got, "266") || !strings.Contains(got, "936 × 516") {
		t.Errorf("south-east stands at %q", got)
	}

	// A drop of three files: one is broken and says why, the others go on to
	// this pocket and the next.
	good, clip := w.file(dir, "Marsh, upright.jpg", "image/jpeg"), w.file(dir, "Kites at noon.mp4", "video/mp4")
	broken := good
	broken.Name = "torn.jpg"
	raw, err := base64.StdEncoding.DecodeString(good.Data)
	w.must(err)
	broken.Data = base64.StdEncoding.EncodeToString(raw[:len(raw)/2])
	w.must(w.Drop("svg [data-pocket=north-west]", good, broken, clip))
	w.until(`document.querySelector('[data-rail-pocket=north-west] .media')?.innerText === 'Marsh, upright.jpg'`)
	w.until(`document.querySelector('[data-rail-pocket=north-east] .media')?.innerText === 'Kites at noon.mp4'`)
	w.until(`document.querySelector('.arrival.refused p')?.innerText.includes('breaks off')`)
	if got := w.text("[data-rail-pocket=north-east]"); !strings.Contains(got, "silent") {
		t.Errorf("the clip is not shown as silent: %q", got)
	}
	w.click(".arrival.refused button")
	w.until(`!document.querySelector('.arrival')`)

	// A mark goes into the logo pocket, a clip does not.
	w.must(w.Drop("[data-rail-pocket=mark-pocket]", clip))
	w.until(`document.querySelector('.arrival.refused p')?.innerText.includes('takes no clips')`)
	w.must(w.Drop("[data-rail-pocket=mark-pocket]", w.file(dir, "Tern & Tiller Sailcloth.png", "image/png")))
	w.until(`document.querySelector('[data-rail-pocket=mark-pocket] .media')?.innerText.startsWith('Tern')`)

	// Framing on the stage: zoom and pan, as far as no edge shows.
	w.click("svg [data-pocket=north-west]")
	w.click("[data-test=frame-it]")
	w.until(`document.querySelector('[data-test=grab]')`)
	eval[bool](t, w.Tab, `document.querySelector('.surround').dispatchEvent(new WheelEvent('wheel', {deltaY: -300, bubbles: true, cancelable: true})) || true`)
	w.until(`[...document.querySelectorAll('[role=spinbutton]')].some(e => e.getAttribute('aria-label') === 'Zoom' && Number(e.getAttribute('aria-valuenow')) > 140)`)
	w.must(w.Drag("[data-test=grab]", -300, 500))
	w.until(`[...document.querySelectorAll('[role=spinbutton]')].some(e => e.getAttribute('aria-label') === 'Pan y' && Number(e.getAttribute('aria-valuenow')) > 10)`)
	w.exact()
	const clear = `(() => { const c = document.querySelector('canvas'); const k = c.width / 1920; const d = c.getContext('2d').getImageData(16 * k + 14, 16 * k + 14, 936 * k - 28, 516 * k - 28).data;
		for (let i = 3; i < d.length; i += 4) if (d[i] !== 255) return false; return true })()`
	if !eval[bool](t, w.Tab, clear) {
		t.Error("a pixel of the framed cell is clear")
	}
	pan := eval[float64](t, w.Tab, `Number([...document.querySelectorAll('[role=spinbutton]')].find(e => e.getAttribute('aria-label') === 'Pan y').getAttribute('aria-valuenow'))`)
	w.click("[data-test=framing-done]")

	// Swapped again, the framing stays if that is asked for.
	w.click("[data-test=keep-framing]")
	w.until(`document.querySelector('[data-test=keep-framing]').getAttribute('aria-checked') === 'true'`)
	w.must(w.Drop("[data-rail-pocket=north-west]", w.file(dir, "Night panorama.jpg", "image/jpeg")))
	w.until(`document.querySelector('[data-rail-pocket=north-west] .media')?.innerText === 'Night panorama.jpg'`)
	zoomed := `[...document.querySelectorAll('[role=spinbutton]')].some(e => e.getAttribute('aria-label') === 'Zoom' && Number(e.getAttribute('aria-valuenow')) > 140)`
	w.until(zoomed)

	// Undo takes back the swap and the wish to keep, then the pan; a reload keeps all of it.
	undo := `document.querySelector('[aria-label=Undo]')`
	w.click("[aria-label=Undo]")
	w.until(`document.querySelector('[data-rail-pocket=north-west] .media')?.innerText === 'Marsh, upright.jpg'`)
	w.click("[aria-label=Undo]")
	w.until(`document.querySelector('[data-test=keep-framing]').getAttribute('aria-checked') === 'false'`)
	w.click("[aria-label=Undo]")
	w.until(fmt.Sprintf(`[...document.querySelectorAll('[role=spinbutton]')].some(e => e.getAttribute('aria-label') === 'Pan y' && Math.abs(Number(e.getAttribute('aria-valuenow')) - %g) > 1)`, pan))
	w.must(w.Go(eval[string](t, w.Tab, "location.href")))
	w.exact()
	w.until(`document.querySelector('[data-rail-pocket=north-west] .media')?.innerText === 'Marsh, upright.jpg'`)
	w.until(undo + `.title.startsWith('Undo: Zoom of North-west') && document.querySelector('[aria-label=Redo]').title.startsWith('Redo: Pan of North-west')`)

	// A second window follows, without being touched.
	second, err := w.Another(1280, 800)
	w.must(err)
	t.Cleanup(second.Close)
	w.must(second.Go(eval[string](t, w.Tab, "location.href")))
	w.must(second.Until(`document.querySelector('.name')`, patience))
	w.click(".name")
	w.until(`document.activeElement.classList.contains('name-field')`)
	w.key("Wednesday\r")
	w.until(`document.querySelector('.name')?.innerText === 'Wednesday'`)
	w.must(second.Until(`document.querySelector('.name')?.innerText === 'Wednesday'`, patience))

	// The sheet: an entry typed as a sum; the cells follow.
	w.click("[data-side=sheet]")
	w.click("[data-entry=gutter] [role=spinbutton]")
	w.until(`document.activeElement.closest('[data-entry=gutter]') && document.activeElement.tagName === 'INPUT'`)
	w.key("120/3\r")
	w.until(`document.querySelector('[data-entry=gutter] [role=spinbutton]')?.getAttribute('aria-valuenow') === '40'`)
	w.key("\x1b")
	w.click("[data-side=framing]")
	w.until(`document.querySelector('[data-stand=south-east]')?.innerText.includes('900 × 480')`)

	// Formats and time.
	w.click("[data-format=vertical]")
	w.until(`document.querySelector('canvas').height > document.querySelector('canvas').width`)
	w.until(`document.querySelector('[data-stand=south-east]')?.innerText.includes('480 × 900')`)
	w.click("[aria-label='First frame']")
	w.until(`document.querySelector('[data-test=frame]').innerText === '0'`)
	w.click("[data-test=play]")
	w.until(`Number(document.querySelector('[data-test=frame]').innerText) > 20`)
	w.click("[data-test=play]")
	w.exact()

	// Framed apart in this format, and then in all others: each keeps its own.
	w.click("[data-side=framing]")
	w.click("[data-rail-pocket=south-west] .pick")
	w.click("[data-test=own-framing]")
	w.until(`document.querySelector('[data-test=own-framing]').getAttribute('aria-checked') === 'true'`)
	w.click("[data-fit=contain]")
	w.until(`document.querySelector('.caution')?.innerText.includes('Edges')`)
	w.click("[data-format=landscape]")
	w.until(`document.querySelector('[data-test=own-framing]').getAttribute('aria-checked') === 'false' && !document.querySelector('.caution')`)
	w.click("[aria-label=Undo]")
	w.click("[aria-label=Undo]")
	w.until(`document.querySelector('[aria-label=Undo]').title.startsWith('Undo: Gutter')`)
	w.click("[data-format=vertical]")
	w.until(`document.querySelector('canvas').height > document.querySelector('canvas').width`)
	w.exact()

	// Trying swaps: a dark or bright mark must melt somewhere on a light badge.
	w.click("[data-side=trial]")
	w.click("[data-test=try]")
	w.must(w.Until(`document.querySelectorAll('.tiles img').length === 46`, 2*patience))
	w.until(`[...document.querySelectorAll('[data-test=hint]')].some(e => e.innerText.includes('Takes dark marks') && e.innerText.includes('a very bright mark'))`)
	if n := eval[int](t, w.Tab, `document.querySelectorAll('[data-test=finding]').length + document.querySelectorAll('[data-test=hint]').length`); n != 1 {
		t.Errorf("%d findings and hints in a sound template, want the one hint", n)
	}

	// The film, downloaded and read by another program.
	w.click("[data-test=render]")
	w.until(`document.querySelector('[data-test=start-render]')`)
	time.Sleep(300 * time.Millisecond) // the dialog slides in
	w.click("[data-test=start-render]")
	w.until(`document.querySelector('[data-state=running]')`)
	w.must(w.Until(`document.querySelector('[data-state=done]')`, 3*patience))
	data := eval[string](t, w.Tab, `(async () => { const a = document.querySelector('[data-test=download]'); const b = await (await fetch(a.href)).blob();
		return await new Promise(r => { const f = new FileReader(); f.onload = () => r(f.result.split(',')[1]); f.readAsDataURL(b) }) })()`)
	film, err := base64.StdEncoding.DecodeString(data)
	w.must(err)
	path := filepath.Join(t.TempDir(), "film.mp4")
	w.must(os.WriteFile(path, film, 0o644))
	out, err := exec.Command("ffprobe", "-v", "error", "-count_frames", "-show_entries", "stream=nb_read_frames,width,height,color_space", "-of", "csv=p=0", path).Output()
	w.must(err)
	if got := strings.TrimSpace(string(out)); got != "1080,1920,bt709,240" {
		t.Errorf("the film is %s, want 1080,1920,bt709,240", got)
	}
}

func TestTheBenchWorksByKeyboard(t *testing.T) {
	t.Parallel()
	url, stop := serve(t, t.TempDir())
	w := walker{t, tab(t, 1280, 800)}
	w.must(w.Go(url))
	w.click("[data-template=four-winds] .picture")
	w.exact()
	frame := func(n string) {
		t.Helper()
		w.until(`document.querySelector('[data-test=frame]').innerText === '` + n + `'`)
	}
	frame("120")
	eval[bool](t, w.Tab, `document.querySelector('svg [data-pocket=north-west]').focus() || true`)
	w.until(`document.querySelector('.pocket.on')?.dataset.railPocket === 'north-west'`)
	w.key("\r")
	w.until(`document.querySelector('[aria-label=Framing]')`)
	w.key("]")
	w.until(`[...document.querySelectorAll('[role=spinbutton]')].some(e => e.getAttribute('aria-label') === 'Turn' && e.getAttribute('aria-valuenow') === '1')`)
	w.key("x")
	w.until(`document.querySelector('[aria-label="Flip left to right"]').classList.contains('on')`)
	w.key("0")
	w.until(`[...document.querySelectorAll('[role=spinbutton]')].some(e => e.getAttribute('aria-label') === 'Turn' && e.getAttribute('aria-valuenow') === '0')`)
	w.key("\r")
	w.until(`!document.querySelector('[aria-label=Framing]')`)
	w.key("\r")
	w.until(`document.querySelector('[aria-label=Framing]')`)
	w.key("\x1b")
	w.until(`!document.querySelector('[aria-label=Framing]')`)
	w.key(".")
	frame("239")
	w.key(",")
	frame("120")
	w.key("v")
	w.until(`document.querySelector('[data-format=vertical]').classList.contains('on')`)
	w.key("?")
	w.until(`document.querySelector('.n-modal')?.innerText.includes('Keys')`)
	w.key("\x1b")
	w.until(`!document.querySelector('.n-modal')`)

	// When the server goes away the page says so, and what is safe.
	stop()
	w.until(`document.querySelector('.lost')?.innerText.includes('does not answer')`)
}
