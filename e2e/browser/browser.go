// Package browser drives Debian's headless Chromium for tests and screenshots.
package browser

import (
	"context"
	"encoding/base64"
	"encoding/json"
	"fmt"
	"os"
	"slices"
	"sync"
	"time"
	"unicode/utf16"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/cdproto/heapprofiler"
	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/cdproto/network"
	"github.com/chromedp/cdproto/page"
	"github.com/chromedp/cdproto/runtime"
	"github.com/chromedp/chromedp"
)

// Path is Debian's Chromium.
const Path = "/usr/bin/chromium"

// Tab is one page of a browser of its own.
type Tab struct {
	ctx  context.Context
	stop []context.CancelFunc

	mu    sync.Mutex
	wrong []string
}

// Wrong is what went wrong in the page's own scripts: errors that nobody caught, and those that it wrote to the console itself.
func (t *Tab) Wrong() []string {
	t.mu.Lock()
	defer t.mu.Unlock()
	return slices.Clone(t.wrong)
}

// watch collects what goes wrong in the page until it is closed.
func (t *Tab) watch() {
	said := chromedp.Console(t.ctx)
	go func() {
		for m, err := range said {
			if err != nil {
				return
			}
			// What the browser itself logs, such as answers with a status of 4xx, has no arguments.
			if m.IsException() || (m.Type == chromedp.ConsoleError && len(m.Args) > 0) {
				t.mu.Lock()
				said := m.String()
				if m.Stack != nil {
					for _, f := range m.Stack.CallFrames[:min(4, len(m.Stack.CallFrames))] {
						said += fmt.Sprintf("\n\tat %s, %s:%d", f.FunctionName, f.URL, f.LineNumber+1)
					}
				}
				t.wrong = append(t.wrong, said)
				t.mu.Unlock()
			}
		}
	}()
}

// Open starts a browser with an empty profile and one page of a size.
func Open(parent context.Context, width, height int) (*Tab, error) {
	// What the browser leaves in the folder for temporary files goes with it.
	dir, err := os.MkdirTemp("", "ivypocket-browser-")
	if err != nil {
		return nil, err
	}
	opts := append(chromedp.DefaultExecAllocatorOptions[:],
		chromedp.ExecPath(Path), chromedp.NoSandbox, chromedp.Env("TMPDIR="+dir), chromedp.WindowSize(width, height),
		chromedp.Flag("disable-gpu", true), chromedp.Flag("disable-quic", true), chromedp.Flag("no-first-run", true),
		chromedp.Flag("disable-background-networking", true), chromedp.Flag("disable-component-update", true),
		chromedp.Flag("disable-sync", true), chromedp.Flag("force-color-profile", "srgb"))
	actx, stop := chromedp.NewExecAllocator(parent, opts...)
	ctx, cancel := chromedp.NewContext(actx)
	t := &Tab{ctx: ctx, stop: []context.CancelFunc{cancel, stop, func() { _ = os.RemoveAll(dir) }}}
	if err := chromedp.Do(ctx, chromedp.EmulateViewport(int64(width), int64(height))); err != nil {
		t.Close()
		return nil, fmt.Errorf("%s: %w", Path, err)
	}
	t.watch()
	return t, nil
}

// Another opens a second page in the same browser: another window of the same
// person.
func (t *Tab) Another(width, height int) (*Tab, error) {
	ctx, cancel := chromedp.NewContext(t.ctx)
	n := &Tab{ctx: ctx, stop: []context.CancelFunc{cancel}}
	if err := chromedp.Do(ctx, chromedp.EmulateViewport(int64(width), int64(height))); err != nil {
		return n, err
	}
	n.watch()
	return n, nil
}

// Touch makes the page one of a telephone: it is pressed by a finger, and is told so.
func (t *Tab) Touch() error {
	points := int64(2)
	_, err := chromedp.Call(t.ctx, emulation.SetTouchEmulationEnabled, emulation.SetTouchEmulationEnabledParams{Enabled: true, MaxTouchPoints: points})
	return err
}

// Tap presses the middle of an element with a finger.
func (t *Tab) Tap(selector string) error { return t.Swipe(selector, 0, 0) }

// Swipe puts a finger on the middle of an element, takes it somewhere in steps and lifts it.
func (t *Tab) Swipe(selector string, dx, dy float64) error {
	if err := t.Until(fmt.Sprintf("document.querySelector(%s)", quote(selector)), 15*time.Second); err != nil {
		return err
	}
	x, y, err := t.spot(selector)
	if err != nil {
		return err
	}
	const steps = 8
	for k := range steps + 1 {
		p := input.DispatchTouchEventParams{Type: input.DispatchTouchEventTypeTouchMove, TouchPoints: []*input.TouchPoint{{X: x + dx*float64(k)/steps, Y: y + dy*float64(k)/steps}}}
		if k == 0 {
			p.Type = input.DispatchTouchEventTypeTouchStart
		} else if dx == 0 && dy == 0 {
			break
		}
		if _, err := chromedp.Call(t.ctx, input.DispatchTouchEvent, p); err != nil {
			return err
		}
	}
	_, err = chromedp.Call(t.ctx, input.DispatchTouchEvent, input.DispatchTouchEventParams{Type: input.DispatchTouchEventTypeTouchEnd, TouchPoints: []*input.TouchPoint{}})
	if dx != 0 || dy != 0 {
		time.Sleep(300 * time.Millisecond) // no finger comes back sooner, and a tap that does is none to Chromium
	}
	return err
}

// Close ends the page, and the browser if Open made it.
func (t *Tab) Close() {
	for _, f := range t.stop {
		f()
	}
}

// Go opens an address.
func (t *Tab) Go(url string) error { return chromedp.Do(t.ctx, chromedp.Navigate(url)) }

// Before has JavaScript run in every page that is opened from now on, before its own.
func (t *Tab) Before(js string) error {
	return chromedp.Do(t.ctx, chromedp.Func(func(ctx context.Context, target *chromedp.Target) error {
		_, err := cdp.Call(ctx, target, page.AddScriptToEvaluateOnNewDocument, page.AddScriptToEvaluateOnNewDocumentParams{Source: js})
		return err
	}))
}

// Compose types as by an input method: letters that are being composed, each state of them after
// the other, and then what they become.
func (t *Tab) Compose(becomes string, states ...string) error {
	for _, s := range states {
		n := int64(len(utf16.Encode([]rune(s))))
		if _, err := chromedp.Call(t.ctx, input.ImeSetComposition, input.ImeSetCompositionParams{Text: s, SelectionStart: n, SelectionEnd: n}); err != nil {
			return err
		}
		time.Sleep(60 * time.Millisecond)
	}
	_, err := chromedp.Call(t.ctx, input.InsertText, input.InsertTextParams{Text: becomes})
	return err
}

// Slow has every answer of the network come later by so much.
func (t *Tab) Slow(by time.Duration) error {
	if _, err := chromedp.Call(t.ctx, network.Enable, network.EnableParams{}); err != nil {
		return err
	}
	_, err := chromedp.Call(t.ctx, network.EmulateNetworkConditionsByRule, network.EmulateNetworkConditionsByRuleParams{
		MatchedNetworkConditions: []*network.Conditions{{Latency: float64(by.Milliseconds()), DownloadThroughput: -1, UploadThroughput: -1}}})
	return err
}

// Eval runs JavaScript and returns its value, waiting for a promise.
func Eval[T any](t *Tab, js string) (T, error) {
	ctx, cancel := context.WithTimeout(t.ctx, 60*time.Second)
	defer cancel()
	return chromedp.Run(ctx, chromedp.Evaluate[T](js, chromedp.EvalAwaitPromise))
}

// Until waits until JavaScript is true, or what it promises.
func (t *Tab) Until(js string, limit time.Duration) error {
	end := time.Now().Add(limit)
	for {
		ok, err := Eval[bool](t, "(async () => !!(await ("+js+")))()")
		if ok && err == nil {
			return nil
		}
		if time.Now().After(end) {
			text, _ := Eval[string](t, "document.body.innerText.slice(0, 600)")
			return fmt.Errorf("not within %s: %s (last error: %v)\nthe page reads: %s", limit, js, err, text)
		}
		time.Sleep(40 * time.Millisecond)
	}
}

// spot is the middle of an element. Like a person it waits, for three seconds at most, until
// the element stands still (a dialog grows into its place: Vue marks what comes and goes by
// classes, also before its first step) and nothing lies over it.
func (t *Tab) spot(selector string) (x, y float64, err error) {
	p, err := Eval[[]float64](t, fmt.Sprintf(`(async () => { const find = () => document.querySelector(%s); if (!find()) return [];
		find().scrollIntoView({block: 'nearest'});
		const at = () => { const r = find()?.getBoundingClientRect(); return r ? [r.x + r.width / 2, r.y + r.height / 2] : [] };
		const frame = () => new Promise(done => { requestAnimationFrame(done); setTimeout(done, 100) });
		const end = performance.now() + 3000; let was = at(), now = was, still = 0;
		while (performance.now() < end) {
			await frame(); await frame(); was = now; now = at();
			const over = now.length ? document.elementFromPoint(...now) : null, e = find();
			still = now.join() === was.join() ? still + 1 : 0;
			if (!e || e.closest('[class*=-enter-active],[class*=-leave-active]')) continue;
			if (still && (e.contains(over) || over?.contains(e) || still > 8)) break;
		}
		return now })()`, quote(selector)))
	if err != nil {
		return 0, 0, err
	}
	if len(p) != 2 {
		return 0, 0, fmt.Errorf("there is no %s on the page", selector)
	}
	return p[0], p[1], nil
}

// Click waits for an element and presses the mouse in its middle.
func (t *Tab) Click(selector string) error {
	if err := t.Until(fmt.Sprintf("document.querySelector(%s)", quote(selector)), 15*time.Second); err != nil {
		return err
	}
	x, y, err := t.spot(selector)
	if err != nil {
		return err
	}
	return chromedp.Do(t.ctx, chromedp.MouseClickXY(x, y))
}

// ClickAt is Click at a place in an element's box, in shares of it.
func (t *Tab) ClickAt(selector string, x, y float64) error {
	p, err := Eval[[]float64](t, fmt.Sprintf(`(() => { const r = document.querySelector(%s).getBoundingClientRect(); return [r.x + r.width * %g, r.y + r.height * %g] })()`, quote(selector), x, y))
	if err != nil {
		return err
	}
	return chromedp.Do(t.ctx, chromedp.MouseEvent(input.DispatchMouseEventTypeMouseMoved, p[0], p[1]), chromedp.MouseClickXY(p[0], p[1]))
}

// Drag presses in the middle of an element, moves in steps and lets go.
func (t *Tab) Drag(selector string, dx, dy float64) error {
	letGo, err := t.Hold(selector, dx, dy)
	if err != nil {
		return err
	}
	return letGo()
}

// Hold is Drag that lets go when it is told to.
func (t *Tab) Hold(selector string, dx, dy float64) (letGo func() error, err error) {
	x, y, err := t.spot(selector)
	if err != nil {
		return nil, err
	}
	steps := []chromedp.Action[chromedp.Void]{chromedp.MouseEvent(input.DispatchMouseEventTypeMousePressed, x, y, chromedp.ButtonLeft)}
	for i := 1; i <= 8; i++ {
		k := float64(i) / 8
		steps = append(steps, chromedp.MouseEvent(input.DispatchMouseEventTypeMouseMoved, x+dx*k, y+dy*k, chromedp.ButtonLeft))
	}
	return func() error {
		return chromedp.Do(t.ctx, chromedp.MouseEvent(input.DispatchMouseEventTypeMouseReleased, x+dx, y+dy, chromedp.ButtonLeft))
	}, chromedp.Do(t.ctx, steps...)
}

// Keys types keys into whatever has the focus.
func (t *Tab) Keys(keys string) error { return chromedp.Do(t.ctx, chromedp.KeyEvent(keys)) }

// File is a file to be dropped.
type File struct {
	Name string `json:"name"`
	Type string `json:"type"`
	Data string `json:"data"` // base64
}

// FileOf reads a file for dropping.
func FileOf(path, name, mime string) (File, error) {
	b, err := os.ReadFile(path)
	return File{name, mime, base64.StdEncoding.EncodeToString(b)}, err
}

// Drop drops files on the middle of an element as from the desktop.
func (t *Tab) Drop(selector string, files ...File) error {
	list, err := json.Marshal(files)
	if err != nil {
		return err
	}
	ok, err := Eval[bool](t, fmt.Sprintf(`(async () => {
		const e = document.querySelector(%s); if (!e) return false;
		const dt = new DataTransfer();
		for (const f of %s) {
			const bytes = Uint8Array.from(atob(f.data), c => c.charCodeAt(0));
			dt.items.add(new File([bytes], f.name, {type: f.type}));
		}
		const r = e.getBoundingClientRect();
		for (const type of ['dragenter', 'dragover', 'drop'])
			e.dispatchEvent(new DragEvent(type, {bubbles: true, cancelable: true, clientX: r.x + r.width / 2, clientY: r.y + r.height / 2, dataTransfer: dt}));
		return true })()`, quote(selector), list))
	if err == nil && !ok {
		err = fmt.Errorf("there is no %s on the page", selector)
	}
	return err
}

// Shot takes a PNG of the page.
func (t *Tab) Shot(path string) error {
	b, err := chromedp.Run(t.ctx, chromedp.CaptureScreenshot())
	if err != nil {
		return err
	}
	return os.WriteFile(path, b, 0o644)
}

// Memory is what the page holds once garbage is gone, in bytes: scripts, elements and
// buffers.
func (t *Tab) Memory() (bytes float64, err error) {
	for range 2 { // what is freed may free others
		if _, err := chromedp.Call(t.ctx, heapprofiler.CollectGarbage, cdp.Empty{}); err != nil {
			return 0, err
		}
	}
	u, err := chromedp.Call(t.ctx, runtime.GetHeapUsage, cdp.Empty{})
	return u.UsedSize + u.EmbedderHeapUsedSize + u.BackingStorageSize, err
}

func quote(s string) string {
	b, _ := json.Marshal(s)
	return string(b)
}

// Press presses a key with modifiers held.
func (t *Tab) Press(key string, held ...chromedp.Modifier) error {
	return chromedp.Do(t.ctx, chromedp.KeyEvent(key, chromedp.KeyModifiers(held...)))
}
