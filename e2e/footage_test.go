package e2e

import (
	"encoding/base64"
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"runtime"
	"strconv"
	"strings"
	"testing"
	"time"

	"ivypocket/e2e/browser"
	"ivypocket/media/mediatest"
)

// numbered is a clip whose frames carry their numbers, to be dropped.
func numbered(t testing.TB, name string, frames int, rate string) browser.File {
	return browser.File{Name: name, Type: "video/mp4", Data: base64.StdEncoding.EncodeToString(mediatest.Clip(t, 640, 360, rate, frames))}
}

// Four Winds with a clip in each of its four cells.
func fourClips(t testing.TB, w walker) {
	t.Helper()
	w.click("[data-template=four-winds] .picture")
	w.exact()
	pockets := []string{"north-west", "north-east", "south-east", "south-west"}
	for i, p := range pockets {
		w.must(w.Drop(fmt.Sprintf("[data-rail-pocket=%s]", p), numbered(t, fmt.Sprintf("numbers %d.mp4", i), 200+i, []string{"30000/1001", "25", "24", "50"}[i])))
	}
	for i, p := range pockets {
		w.until(fmt.Sprintf(`document.querySelector('[data-rail-pocket=%s] .media')?.innerText === 'numbers %d.mp4'`, p, i))
	}
	// Proxies grow at the system's idle priority: on a busy machine that takes a while.
	w.must(w.Until(`!document.querySelector('.pocket .growing')`, 6*patience))
}

// stolen is how many seconds of this machine's processors went to other machines
// of its host so far: "steal" of proc(5).
func stolen() float64 {
	text, _ := os.ReadFile("/proc/stat")
	if f := strings.Fields(strings.SplitN(string(text), "\n", 2)[0]); len(f) > 8 {
		n, _ := strconv.ParseFloat(f[8], 64)
		return n / 100
	}
	return 0
}

// Presentation times are those of requestAnimationFrame, marked by User Timing
// when a frame is put on the canvas. Cold, playing shows something all the
// time; after one pass no frame of 240 is dropped.
func TestFourClipsPlayWithoutADrop(t *testing.T) {
	url, _ := serve(t, t.TempDir())
	w := walker{t, tab(t, 1280, 800)}
	w.must(w.Go(url))
	fourClips(t, w)
	w.key("\x1b")
	w.click("[aria-label='First frame']")
	w.click("[data-test=play]")
	// Never frozen: no gap between presentations comes near a second.
	w.until(`performance.getEntriesByName('ivy-frame').length > 12`)
	w.must(w.Until(`document.querySelector('[data-test=how]').dataset.hot === 'true'`, 2*patience))
	gap := eval[float64](t, w.Tab, `(() => { const e = performance.getEntriesByName('ivy-frame').map(x => x.startTime); let m = 0; for (let i = 1; i < e.length; i++) m = Math.max(m, e[i] - e[i-1]); return m })()`)
	if gap > 900 {
		t.Errorf("while frames were gathered the picture stood still for %.0f ms", gap)
	}
	if n := eval[int](t, w.Tab, `document.querySelectorAll('[data-test=cached]').length`); n < 1 {
		t.Error("what is at hand is not shown on the time strip")
	}
	// A whole pass from its first frame to its last, which the page itself waits
	// for: asking it all the time would take the time it plays in. Machines that
	// are shared stall now and then, which is not what is asked: one pass of
	// eight must be whole, and one in which the system itself says that more than
	// 2 % of the time went to others counts only if it is.
	const pass = `(async () => { const frame = () => Number(document.querySelector('[data-test=frame]').innerText);
		const until = (ok) => new Promise(done => { const look = () => ok() ? done() : setTimeout(look, 90); look() });
		await until(() => frame() > 225); await until(() => frame() < 15);
		performance.clearMarks('ivy-frame');
		await until(() => frame() > 225); await until(() => frame() < 15);
		return performance.getEntriesByName('ivy-frame').map(e => e.detail) })()`
	best := -1
	for try := 0; try < 8 && best != 0; try++ {
		from, lost := time.Now(), stolen()
		shown := eval[[]int](t, w.Tab, pass)
		share := (stolen() - lost) / time.Since(from).Seconds() / float64(runtime.NumCPU())
		missing := 0
		for i := 1; i < len(shown); i++ {
			d := shown[i] - shown[i-1]
			if d < 0 {
				d += 240
			}
			missing += max(0, d-1)
		}
		if len(shown) < 200 {
			missing = 240
		}
		if missing == 0 || share <= 0.02 && (best < 0 || missing < best) {
			best = missing
		}
		t.Logf("pass %d: %d presented, %d dropped, %.0f %% of the time went to others", try+1, len(shown), missing, share*100)
	}
	if best > 0 {
		t.Errorf("%d frames dropped in the best of the passes for which the machine was ours", best)
	}

	// J K L, and a range that is looped.
	w.key("k")
	w.until(`document.querySelector('[data-test=play]').title.startsWith('Play')`)
	w.key("j")
	w.until(`document.querySelector('[data-test=how]').innerText.includes('backwards')`)
	w.key("l")
	w.key("l")
	w.until(`document.querySelector('[data-test=how]').innerText.includes('2×')`)
	w.key("k")
	w.click("[aria-label='First frame']")
	eval[bool](t, w.Tab, `(() => { const c = document.querySelector('.clothstrip'), r = c.getBoundingClientRect(); const e = (type, x) => c.dispatchEvent(new PointerEvent(type, {bubbles: true, button: 0, shiftKey: true, pointerId: 1, clientX: r.left + r.width * x, clientY: r.top + 20}));
		c.setPointerCapture = () => {}; e('pointerdown', 60.5 / 240); e('pointermove', 89.5 / 240); e('pointerup', 89.5 / 240); return true })()`)
	w.until(`document.querySelector('[data-test=unloop]')?.innerText.includes('60–89')`)
	w.click("[data-test=play]")
	time.Sleep(1500 * time.Millisecond)
	eval[bool](t, w.Tab, `performance.clearMarks('ivy-frame') || true`)
	time.Sleep(1500 * time.Millisecond)
	if out := eval[int](t, w.Tab, `performance.getEntriesByName('ivy-frame').filter(e => e.detail < 60 || e.detail > 89).length`); out != 0 {
		t.Errorf("%d frames outside the loop were shown", out)
	}
	w.click("[data-test=unloop]")
	w.until(`!document.querySelector('[data-test=loop]')`)
	w.click("[data-test=play]")

	// True size, and grounds. The template covers its canvas, so alpha is white all over.
	w.click("[data-test=true-size]")
	w.until(`document.querySelector('canvas').width === 1920`)
	w.click("[data-test=true-size]")
	w.until(`document.querySelector('canvas').width < 1000`)
	w.click("[data-test=ground]")
	w.until(`[...document.querySelectorAll('.n-base-select-option')].some(o => o.innerText === 'Alpha alone')`)
	eval[bool](t, w.Tab, `[...document.querySelectorAll('.n-base-select-option')].find(o => o.innerText === 'Alpha alone').click() || true`)
	w.until(`document.querySelector('.picture').dataset.ground === 'alpha'`)
	w.exact()
	w.until(`(() => { const c = document.querySelector('canvas'); const d = c.getContext('2d').getImageData(c.width / 4, c.height / 4, 1, 1).data; return d[0] === 255 && d[1] === 255 && d[2] === 255 })()`)
}

// barNumber reads the number that a clip's bars show within a box of the stage,
// given in shares of the canvas.
func barNumber(x, y, w, h float64) string {
	return fmt.Sprintf(`(() => { const c = document.querySelector('canvas'); const d = c.getContext('2d').getImageData(0, 0, c.width, c.height).data; let n = 0;
		for (let b = 0; b < %d; b++) { const px = Math.floor((%g + %g * (2 * b + 1) / %d) * c.width), py = Math.floor((%g + %g / 2) * c.height); if (d[(py * c.width + px) * 4] > 128) n |= 1 << b } return n })()`,
		mediatest.Bits, x, w, 2*mediatest.Bits, y, h)
}

// The in-point is chosen by running the pointer over the strip; the stage shows
// the very frame under it, large, and afterwards the piece begins with it.
func TestTheFirstFrameIsChosenOnAStrip(t *testing.T) {
	t.Parallel()
	url, _ := serve(t, t.TempDir())
	w := walker{t, tab(t, 1280, 800)}
	w.must(w.Go(url))
	w.click("[data-template=four-winds] .picture")
	w.exact()
	w.must(w.Drop("[data-rail-pocket=north-west]", numbered(t, "numbers.mp4", 150, "30000/1001")))
	w.until(`document.querySelector('[data-rail-pocket=north-west] .media')?.innerText === 'numbers.mp4'`)
	w.click("[data-rail-pocket=north-west] .pick")
	w.until(`document.querySelector('[data-test=strip] img')?.naturalWidth > 100`)
	w.click("[data-fit=stretch]")
	w.must(w.Until(`!document.querySelector('.pocket .growing')`, 6*patience))
	run := func(kind string, frame int) {
		t.Helper()
		eval[bool](t, w.Tab, fmt.Sprintf(`(() => { const s = document.querySelector('[data-test=strip]'), r = s.getBoundingClientRect(); s.dispatchEvent(new PointerEvent(%q, {bubbles: true, button: 0, clientX: r.left + r.width * %g, clientY: r.top + 9})); return true })()`,
			kind, (float64(frame)+0.5)/150))
	}
	for _, n := range []int{0, 41, 104, 149} {
		run("pointermove", n)
		// The pocket is 936 × 516 and as large as fits: its width or height is the stage's.
		w.until(fmt.Sprintf(`%s === %d`, barNumber(0.01, 0.1, 0.98, 0.8), n))
	}
	run("pointermove", 104)
	run("pointerdown", 104)
	w.until(`document.querySelector('[data-test=strip]').getAttribute('aria-valuenow') === '104'`)
	w.until(`document.querySelector('[aria-label=Undo]').title.includes('Undo: First frame of North-west')`)
	eval[bool](t, w.Tab, `document.querySelector('[data-test=strip]').dispatchEvent(new PointerEvent('pointerleave')) || true`)
	w.click("[data-after=loop]")
	w.until(`document.querySelector('[data-test=clip]').innerText.includes('it begins again')`)
	w.exact()
	// At frame 120 the clip, 46 frames from its in-point on, is in its third round.
	want := 104 + 120%46
	cell := barNumber(12.0/1920+4.0/1920, 0.1, 936.0/1920-8.0/1920, 0.3)
	if got := eval[int](t, w.Tab, cell); got != want {
		t.Errorf("frame 120 shows %d of the clip, want %d", got, want)
	}
	w.click("[aria-label=Undo]")
	w.click("[aria-label=Undo]")
	w.until(`document.querySelector('[data-test=strip]').getAttribute('aria-valuenow') === '0'`)
	// By keyboard too.
	eval[bool](t, w.Tab, `document.querySelector('[data-test=strip]').focus() || true`)
	w.key("\u0303")
	w.until(`document.querySelector('[data-test=strip]').getAttribute('aria-valuenow') === '1'`)
}

// atMedia serves the demo from a folder and opens the media store.
func atMedia(t *testing.T, dir string) walker {
	t.Helper()
	url, _ := serve(t, dir)
	w := walker{t, tab(t, 1280, 800)}
	w.must(w.Go(url + "/media"))
	w.until(`document.querySelectorAll('[data-medium]').length > 10`)
	return w
}

func TestTheMediaStoreFromDropToReplacement(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	w := atMedia(t, dir)

	// A folder's worth of numbered pictures comes in as one clip, its gap named.
	var pictures []browser.File
	names, err := os.ReadDir(filepath.Join(dir, "demo media", "Paper kite, numbered"))
	w.must(err)
	for _, n := range names {
		f, err := browser.FileOf(filepath.Join(dir, "demo media", "Paper kite, numbered", n.Name()), n.Name(), "image/png")
		w.must(err)
		pictures = append(pictures, f)
	}
	w.must(w.Drop(".media", pictures...))
	w.until(`document.querySelector('[data-test=as-clip].n-radio--checked')`)
	time.Sleep(300 * time.Millisecond)
	w.click("[data-test=bring-numbered]")
	w.until(`[...document.querySelectorAll('[data-arrival]')].some(e => e.dataset.arrival.includes('[001–024]') && e.dataset.state === 'done')`)
	w.until(`document.querySelector('[data-medium*="001–024"]')`)
	w.click(`[data-medium*="001–024"]`)
	w.until(`document.querySelector('[data-test=one]').innerText.includes('15–16 are missing')`)

	// Refused with a reason; the rest goes on. Sound shows its waveform.
	script := browser.File{Name: "song.mp3", Type: "audio/mpeg", Data: base64.StdEncoding.EncodeToString([]byte("#!/bin/sh\n"))}
	w.must(w.Drop(".media", script))
	w.until(`[...document.querySelectorAll('.arrival.refused p')].some(e => e.innerText.includes('script'))`)
	w.click("[data-kind=sound]")
	w.until(`document.querySelectorAll('[data-medium]').length === 1 && document.querySelector('[data-medium] .wave path').getAttribute('d').length > 500`)
	w.click("[data-kind=all]")

	// Used in a piece, replaced everywhere, undone.
	w.click("[href='/']")
	w.click("[data-template=four-winds] .picture")
	w.exact()
	w.click("[data-rail-pocket=north-east] .pick")
	w.key("o")
	w.until(`document.querySelector('[data-pick="Kites at noon.mp4"]')`)
	time.Sleep(300 * time.Millisecond)
	w.click(`[data-pick="Kites at noon.mp4"]`)
	w.until(`document.querySelector('[data-rail-pocket=north-east] .media')?.innerText === 'Kites at noon.mp4'`)
	w.until(`!document.querySelector('.n-modal')`)
	w.click("[href='/media']")
	w.until(`document.querySelector('[data-medium="Kites at noon.mp4"]')?.innerText.includes('1 pocket')`)
	w.click(`[data-medium="Kites at noon.mp4"]`)
	w.click("[data-test=replace]")
	w.until(`document.querySelector('[data-pick="Last kites at dusk.mp4"]')`)
	time.Sleep(300 * time.Millisecond)
	w.click(`[data-pick="Last kites at dusk.mp4"]`)
	w.until(`document.querySelector('[data-test=done]')?.innerText.includes('in 1 piece')`)
	w.until(`document.querySelector('[data-medium="Last kites at dusk.mp4"]')?.innerText.includes('1 pocket') && !document.querySelector('.n-modal')`)
	w.click("[data-test=undo]")
	w.until(`document.querySelector('[data-medium="Kites at noon.mp4"]')?.innerText.includes('1 pocket') && !document.querySelector('[data-test=done]')`)

	// Unused ones cleared, and brought back.
	before := eval[int](t, w.Tab, `document.querySelectorAll('[data-medium]').length`)
	w.click("[data-test=clear-unused]")
	w.until(fmt.Sprintf(`document.querySelectorAll('[data-medium]').length < %d`, before))
	if text := w.text("[data-test=done]"); !strings.Contains(text, "Cleared") {
		t.Errorf("said %q", text)
	}
	w.click("[data-test=undo]")
	w.until(fmt.Sprintf(`document.querySelectorAll('[data-medium]').length === %d`, before))
}

// An upload is paused, goes on, survives a server that is gone for a while, and
// can be cancelled.
func TestUploadsArePausedResumedAndCancelled(t *testing.T) {
	t.Parallel()
	url, _ := serve(t, t.TempDir())
	w := walker{t, tab(t, 1280, 800)}
	w.must(w.Go(url + "/media"))
	w.until(`document.querySelectorAll('[data-medium]').length > 10`)
	// A large file that takes a while: requests to the uploads are slowed in the page.
	eval[bool](t, w.Tab, `(() => { const send = XMLHttpRequest.prototype.send; window.hold = true;
		XMLHttpRequest.prototype.send = function (b) { if (b instanceof Blob && b.size > 1e6 && window.hold) { const part = b; this.abortedByUs = false; setTimeout(() => { try { send.call(this, part) } catch {} }, 1500) } else send.call(this, b) }; return true })()`)
	noise := make([]byte, 3<<20)
	v := uint32(5)
	for i := range noise {
		v = v*1664525 + 1013904223
		noise[i] = byte(v >> 24)
	}
	big := func(name string) browser.File {
		return browser.File{Name: name, Type: "video/mp4", Data: base64.StdEncoding.EncodeToString(append([]byte("\x00\x00\x00\x18ftypisom\x00\x00\x02\x00isommp42"), noise...))}
	}
	state := func(name, want string) string {
		return fmt.Sprintf(`[...document.querySelectorAll('[data-arrival]')].some(e => e.dataset.arrival === %q && e.dataset.state === %q)`, name, want)
	}
	w.must(w.Drop(".media", big("one.mp4"), big("two.mp4"), big("three.mp4")))
	w.until(state("one.mp4", "coming") + " && " + state("three.mp4", "waiting")) // two at a time
	w.click(`[aria-label="Pause one.mp4"]`)
	w.until(state("one.mp4", "paused") + " && " + state("three.mp4", "coming"))
	w.click(`[aria-label="Cancel two.mp4"]`)
	w.until(`![...document.querySelectorAll('[data-arrival]')].some(e => e.dataset.arrival === 'two.mp4')`)
	eval[bool](t, w.Tab, `(window.hold = false, true)`)
	w.click(`[aria-label="Go on with one.mp4"]`)
	// All of it was sent, and it is no film.
	w.until(state("one.mp4", "refused") + " && " + state("three.mp4", "refused"))
	var reasons []string
	j := eval[string](t, w.Tab, `JSON.stringify([...document.querySelectorAll('.arrival.refused p')].map(e => e.innerText))`)
	w.must(json.Unmarshal([]byte(j), &reasons))
	for _, r := range reasons {
		if !strings.Contains(r, "breaks off") && !strings.Contains(r, "clip") {
			t.Errorf("reason %q", r)
		}
	}
}

// Photographs of a camera that are dropped together are asked after, with pictures as
// the likelier answer; as a clip they may be kept on their own too.
func TestPhotographsAreNotMadeAClipUnasked(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	w := atMedia(t, dir)
	before := eval[int](t, w.Tab, `document.querySelectorAll('[data-medium]').length`)
	photographs := func(first int) (out []browser.File) {
		noon := w.file(dir, "Noon.jpg", "image/jpeg")
		raw, err := base64.StdEncoding.DecodeString(noon.Data)
		w.must(err)
		for i := range 5 {
			// JPEG ends at its end mark; what comes after it makes another file.
			b := append(raw[:len(raw):len(raw)], byte(first), byte(i))
			out = append(out, browser.File{Name: fmt.Sprintf("DSC_%04d.JPG", first+i), Type: "image/jpeg", Data: base64.StdEncoding.EncodeToString(b)})
		}
		return out
	}
	count := func(more int) {
		t.Helper()
		w.until(fmt.Sprintf(`document.querySelectorAll('[data-medium]').length === %d`, before+more))
	}
	checked := func(test string) string {
		return fmt.Sprintf(`document.querySelector('[data-test=%s]')?.classList.contains('n-radio--checked')`, test)
	}
	w.must(w.Drop(".media", photographs(101)...))
	w.until(checked("as-pictures"))
	time.Sleep(300 * time.Millisecond)
	w.key("\x1b")
	w.until(`!document.querySelector('[data-test=numbered]')`)
	count(0)
	w.must(w.Drop(".media", photographs(101)...))
	w.until(checked("as-pictures"))
	time.Sleep(300 * time.Millisecond)
	w.click("[data-test=bring-numbered]")
	count(5)
	w.must(w.Drop(".media", photographs(201)...))
	w.until(checked("as-pictures"))
	time.Sleep(300 * time.Millisecond)
	w.click("[data-test=as-clip]")
	w.until(`document.querySelector('[data-test=apart]')`)
	w.click("[data-test=apart]")
	w.click("[data-test=bring-numbered]")
	count(11)
	w.until(`document.querySelector('[data-medium*="0201–0205"]')`)
	w.must(w.Drop(".media", photographs(301)...))
	w.until(checked("as-pictures"))
	time.Sleep(300 * time.Millisecond)
	w.click("[data-test=as-clip]")
	w.click("[data-test=bring-numbered]")
	count(12)
}

// Several files that are dropped on a pocket go to it and the next ones that take their
// kind, as one step of undo; what finds no place waits in the store. A file that the
// store knows by another name has the name here that it came by.
func TestSeveralFilesGoToTheNextPocketsAsOneStep(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	w, _, _ := atDesk(t, dir, "four-winds")
	dusk := w.file(dir, "Dusk.jpg", "image/jpeg")
	dusk.Name = "Evening, from the client.jpg"
	was := eval[string](t, w.Tab, `[...document.querySelectorAll('[data-rail-pocket] .media')].map(e => e.innerText).join('|')`)
	w.must(w.Drop("[data-rail-pocket=south-east]", w.file(dir, "Brinewell Rope.svg", "image/svg+xml"), dusk, w.file(dir, "Squall.jpg", "image/jpeg"), w.file(dir, "Noon.jpg", "image/jpeg"),
		w.file(dir, "Wind and drum.flac", "audio/flac"), w.file(dir, "Dawn.jpg", "image/jpeg")))
	media := func(pocket, want string) {
		t.Helper()
		w.until(fmt.Sprintf(`document.querySelector('[data-rail-pocket=%s] .media')?.innerText === %q`, pocket, want))
	}
	// South-east and South-west are left for pictures; the one for marks is no next one.
	media("south-east", "Brinewell Rope.svg")
	media("south-west", "Evening, from the client.jpg")
	media("mark-pocket", "Saltmarsh Kite Week.svg")
	w.until(`[...document.querySelectorAll('.n-message')].some(m => m.innerText.includes('No further pocket takes Squall.jpg, Noon.jpg, Wind and drum.flac, Dawn.jpg; they wait in the store.'))`)
	w.until(`!document.querySelector('.arrival') && document.querySelector('[aria-label=Undo]').title.startsWith('Undo: 2 changes')`)
	w.click("[aria-label=Undo]")
	w.until(fmt.Sprintf(`[...document.querySelectorAll('[data-rail-pocket] .media')].map(e => e.innerText).join('|') === %q`, was))
	// In the store it is called as before.
	if names := eval[string](t, w.Tab, `fetch('/api/media').then(r => r.json()).then(l => l.map(m => m.name).join('|'))`); strings.Contains(names, "Evening") || !strings.Contains(names, "Dusk.jpg") {
		t.Errorf("the store's names: %s", names)
	}
}

// A piece that can be seen through is rendered to what keeps that, unless another file
// is chosen, which says what becomes of it.
func TestTheRenderDialogKeepsWhatIsClear(t *testing.T) {
	t.Parallel()
	w, _, _ := atDesk(t, t.TempDir(), "gust")
	w.click("[data-test=render]")
	w.until(`[...document.querySelectorAll('[data-kind]')].map(e => e.dataset.kind).join() === 'webm,png,mp4'`)
	w.until(`document.querySelector('[data-test=alpha]') && !document.querySelector('[data-test=no-clear]')`)
	time.Sleep(400 * time.Millisecond) // the dialog has grown to its size
	w.click("[data-kind=mp4]")
	w.until(`document.querySelector('[data-test=no-clear]')?.innerText.includes('black')`)
	w.key("\x1b")
	w.until(`!document.querySelector('.n-modal')`)
	w.click("[href='/']")
	w.click("[data-template=sky-and-sand] .picture")
	w.exact()
	w.click("[data-test=render]")
	w.until(`[...document.querySelectorAll('[data-kind]')].map(e => e.dataset.kind).join() === 'mp4,webm,png'`)
}

// What is to be known of a picture is told when it comes in, on a pocket as in the store.
func TestWhatIsToBeKnownOfAPictureIsToldWhenItComesIn(t *testing.T) {
	t.Parallel()
	w, url, _ := atDesk(t, t.TempDir(), "four-winds")
	svg := func(name, inside string) browser.File {
		return browser.File{Name: name, Type: "image/svg+xml", Data: base64.StdEncoding.EncodeToString([]byte(`<svg xmlns="http://www.w3.org/2000/svg" width="90" height="40">` + inside + `</svg>`))}
	}
	w.must(w.Drop("[data-rail-pocket=mark-pocket]", svg("client.svg", `<a href="https://example.org/"><text x="4" y="30" font-family="Arial">Sail</text></a>`)))
	w.until(`[...document.querySelectorAll('.n-message')].some(m => m.innerText.includes('client.svg') && m.innerText.includes('links') && m.innerText.includes('Arial, which is not here'))`)
	w.must(w.Go(url + "/media"))
	w.until(`document.querySelectorAll('[data-medium]').length > 10`)
	w.must(w.Drop(".media", svg("nothing.svg", `<rect width="9" height="9" fill="none"/>`)))
	w.until(`document.querySelector('[data-arrival="nothing.svg"][data-state=done]')?.innerText.includes('every pixel is clear')`)
}
