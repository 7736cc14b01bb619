package e2e

import (
	"fmt"
	"strings"
	"testing"
)

// Keys that come thirty a second are all counted, in framing, in a number and on a
// slider, and a burst of them is one step of undo.
func TestEveryQuickKeyCounts(t *testing.T) {
	w, _, _ := atDesk(t, t.TempDir(), "four-winds")
	const revision = `fetch('/api/pieces/' + location.pathname.split('/').pop()).then(r => r.json()).then(p => p.revision)`
	// burst presses a key on something and tells by how many revisions the piece went on.
	burst := func(on, key string, times int, there string) float64 {
		t.Helper()
		was := eval[float64](t, w.Tab, revision)
		eval[bool](t, w.Tab, fmt.Sprintf(`(async () => { for (let i = 0; i < %d; i++) { const e = %s; e.dispatchEvent(new KeyboardEvent('keydown', {key: %q, code: %[3]q, bubbles: true, cancelable: true}));
			e.dispatchEvent(new KeyboardEvent('keyup', {key: %[3]q, code: %[3]q, bubbles: true})); await new Promise(r => setTimeout(r, 33)) } return true })()`, times, on, key))
		w.until(there)
		w.until(`document.querySelector('.saved').innerText === 'Saved'`)
		w.until(fmt.Sprintf(`%s.then(r => r > %v)`, revision, was))
		w.exact()
		w.until(there)
		return eval[float64](t, w.Tab, revision) - was
	}
	once := func(what string, steps float64) {
		t.Helper()
		if steps != 1 {
			t.Errorf("%s: a burst made %v changes", what, steps)
		}
	}
	field := func(name string) string {
		return fmt.Sprintf(`[...document.querySelectorAll('[role=spinbutton]')].find(e => e.getAttribute('aria-label') === %q)`, name)
	}
	w.click("[data-rail-pocket=north-west] .pick")
	w.click("[data-test=frame-it]")
	w.until(`document.querySelector('[data-test=grab]')`)
	once("turning", burst("document.body", "]", 20, field("Turn")+`.getAttribute('aria-valuenow') === '20'`))
	w.click("[aria-label=Undo]")
	w.until(field("Turn") + `.getAttribute('aria-valuenow') === '0'`)
	zoomed := fmt.Sprintf(`Math.abs(Number(%s.getAttribute('aria-valuenow')) - %v) < 0.2`, field("Zoom"), 162.9)
	once("zooming", burst("document.body", "+", 10, zoomed))
	// Another pocket is selected before it is quiet: what was zoomed is zoomed, the other is not.
	eval[bool](t, w.Tab, `document.body.dispatchEvent(new KeyboardEvent('keydown', {key: '+', bubbles: true, cancelable: true})) || true`)
	w.click("[data-rail-pocket=south-east] .pick")
	w.until(`document.querySelector('.saved').innerText === 'Saved'`)
	w.until(field("Zoom") + `.getAttribute('aria-valuenow') === '100'`)
	w.click("[data-rail-pocket=north-west] .pick")
	w.until(fmt.Sprintf(`Math.abs(Number(%s.getAttribute('aria-valuenow')) - %v) < 0.2`, field("Zoom"), 171.0))
	// Two numbers of one framing, one right after the other, and another pocket at once.
	eval[bool](t, w.Tab, fmt.Sprintf(`(() => { const press = (e) => e.dispatchEvent(new KeyboardEvent('keydown', {key: 'ArrowUp', bubbles: true, cancelable: true}));
		press(%s); press(%s); document.querySelector('[data-rail-pocket=south-east] .pick').click(); return true })()`, field("Turn"), field("Zoom")))
	w.until(field("Turn") + `.getAttribute('aria-valuenow') === '0'`)
	w.click("[data-rail-pocket=north-west] .pick")
	w.until(fmt.Sprintf(`%s.getAttribute('aria-valuenow') === '1' && Math.abs(Number(%s.getAttribute('aria-valuenow')) - %v) < 0.2`, field("Turn"), field("Zoom"), 172.0))
	w.until(`document.querySelector('.saved').innerText === 'Saved'`)
	w.click("[aria-label=Undo]")
	w.until(field("Turn") + `.getAttribute('aria-valuenow') === '0'`)
	// A number.
	once("a number", burst(field("Turn"), "ArrowUp", 12, field("Turn")+`.getAttribute('aria-valuenow') === '12'`))
	// Undo in the middle of a burst takes the burst back.
	eval[bool](t, w.Tab, fmt.Sprintf(`(() => { const e = %s; e.focus(); for (let i = 0; i < 3; i++) e.dispatchEvent(new KeyboardEvent('keydown', {key: 'ArrowUp', bubbles: true, cancelable: true}));
		return e.dispatchEvent(new KeyboardEvent('keydown', {key: 'z', ctrlKey: true, bubbles: true, cancelable: true})) || true })()`, field("Turn")))
	w.until(`document.querySelector('[aria-label=Redo]').title.startsWith('Redo: Turn of')`)
	w.until(field("Turn") + `.getAttribute('aria-valuenow') === '12'`)
	// A slider of the sheet.
	eval[bool](t, w.Tab, `[...document.querySelectorAll('[role=tab]')].find(b => b.innerText === 'Sheet').click() || true`)
	w.until(`document.querySelector('[data-entry] [role=slider]')`)
	const slider = `document.querySelector('[data-entry] [role=slider]')`
	from := eval[float64](t, w.Tab, `Number(`+slider+`.getAttribute('aria-valuenow'))`)
	step := eval[float64](t, w.Tab, `fetch('/api/pieces/' + location.pathname.split('/').pop()).then(r => r.json()).then(p => p.sheet.flatMap(g => g.entries).find(e => e.kind === 'amount').step)`)
	eval[bool](t, w.Tab, slider+`.focus() || true`)
	once("a slider", burst(slider, "ArrowRight", 9, fmt.Sprintf(`Math.abs(Number(%s.getAttribute('aria-valuenow')) - %v) < 1e-6`, slider, from+9*step)))
}

// Files dropped on a pocket of one piece fill it, though another piece is open by the
// time they have come.
func TestAnUploadBelongsToThePieceItWasBegunOn(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	w, _, _ := atDesk(t, dir, "four-winds")
	first := eval[string](t, w.Tab, `location.pathname.split('/').pop()`)
	// What is sent waits until it is told to go.
	eval[bool](t, w.Tab, `(() => { const open = XMLHttpRequest.prototype.open, send = XMLHttpRequest.prototype.send; window.held = [];
		XMLHttpRequest.prototype.open = function (m, ...a) { this.verb = m; return open.call(this, m, ...a) };
		XMLHttpRequest.prototype.send = function (b) { if (window.held && this.verb !== 'HEAD') window.held.push(() => send.call(this, b)); else send.call(this, b) }; return true })()`)
	w.must(w.Drop("[data-rail-pocket=mark-pocket]", w.file(dir, "Brinewell Rope.svg", "image/svg+xml")))
	w.until(`window.held.length > 0`)
	w.click(`a[href="/"]`)
	w.click("[data-template=sky-and-sand] .picture")
	w.until(`location.pathname.split('/').pop() !== '` + first + `'`)
	w.exact()
	second := eval[string](t, w.Tab, `location.pathname.split('/').pop()`)
	eval[bool](t, w.Tab, `(() => { const all = window.held; window.held = null; all.forEach(f => f()); return true })()`)
	const stands = `fetch('/api/pieces/%s').then(r => r.json()).then(p => p.pockets.filter(x => !x.standIn).map(x => x.id).join())`
	w.until(fmt.Sprintf(stands+`.then(x => x === 'mark-pocket')`, first))
	if got := eval[string](t, w.Tab, fmt.Sprintf(stands, second)); got != "" {
		t.Errorf("it went into %s of the piece that was open when it had come", got)
	}
}

// "Framed apart" counts from the moment it is ticked, and so does unticking it.
func TestFramedApartIsFramedApartAtOnce(t *testing.T) {
	t.Parallel()
	w, _, _ := atDesk(t, t.TempDir(), "four-winds")
	w.click("[data-rail-pocket=north-west] .pick")
	w.click("[data-test=frame-it]")
	w.until(`document.querySelector('[data-test=grab]')`)
	const turns = `fetch('/api/pieces/' + location.pathname.split('/').pop()).then(r => r.json()).then(p => ['landscape', 'vertical'].map(f => p.stands[f].find(s => s.pocket === 'north-west').framing.turn).join())`
	turn := func(want string) {
		t.Helper()
		eval[bool](t, w.Tab, `document.body.dispatchEvent(new KeyboardEvent('keydown', {key: '}', shiftKey: true, bubbles: true, cancelable: true})) || true`)
		w.until(turns + `.then(x => x === '` + want + `')`)
		w.until(`document.querySelector('.saved').innerText === 'Saved'`)
	}
	turn("15,15")
	w.click("[data-test=own-framing]")
	w.until(`document.querySelector('[data-test=own-framing]').getAttribute('aria-checked') === 'true'`)
	turn("30,15")
	w.click("[data-test=own-framing]")
	w.until(turns + `.then(x => x === '15,15')`)
	w.until(`document.querySelector('[data-test=own-framing]').getAttribute('aria-checked') === 'false'`)
	turn("30,30")
}

// What the stage says of its picture is never ahead of it: it is "as rendered" only when
// the pixels are those of what is asked for now.
func TestTheStageSaysWhatItShows(t *testing.T) {
	w, _, _ := atDesk(t, t.TempDir(), "four-winds")
	// Pictures and addresses wait until they are told to come.
	eval[bool](t, w.Tab, `(() => { const f = window.fetch; window.held = []; window.fetch = (a, b) => { const u = String(a.url ?? a);
		return window.held && /frames/.test(u) ? new Promise(r => window.held.push(r)).then(() => f(a, b)) : f(a, b) }; return true })()`)
	free := func() {
		t.Helper()
		eval[bool](t, w.Tab, `(() => { const all = window.held; window.held = null; all.forEach(r => r()); return true })()`)
		w.exact()
		eval[bool](t, w.Tab, `!!(window.held = [])`)
	}
	const says = `document.querySelector('[data-test=how]').innerText`
	for what, do := range map[string]func(){
		"another format": func() { w.click("[data-format=vertical]") },
		"another ground": func() { w.click("[data-test=ground]"); w.click(".n-base-select-option:nth-of-type(3)") },
		"another framing": func() {
			w.click("[data-rail-pocket=north-west] .pick")
			w.until(`document.querySelector('[data-fit=contain]')`)
			w.click("[data-fit=contain]")
			w.until(`document.querySelector('[aria-label=Undo]').title.startsWith('Undo: Fit of')`)
		},
	} {
		do()
		w.until(says + ` !== 'as rendered, without loss'`)
		for range 5 {
			if got := w.text("[data-test=how]"); got == "as rendered, without loss" {
				t.Errorf("%s: it says %q of what was there before", what, got)
			}
		}
		free()
		w.until(says + ` === 'as rendered, without loss'`)
	}
}

// Files are dropped on the pocket under them while its media is being framed, and while
// the piece plays.
func TestDropsWorkWhileFramingAndPlaying(t *testing.T) {
	dir := t.TempDir()
	w, _, _ := atDesk(t, dir, "four-winds")
	// drop drops a file where the middle of a pocket is, on whatever lies there.
	drop := func(x, y float64, name string) {
		t.Helper()
		f := w.file(dir, name, "image/jpeg")
		eval[bool](t, w.Tab, fmt.Sprintf(`(async () => { const dt = new DataTransfer(); dt.items.add(new File([Uint8Array.from(atob(%q), c => c.charCodeAt(0))], %q, {type: 'image/jpeg'}));
			const at = () => document.elementFromPoint(%v, %v); const send = type => at().dispatchEvent(new DragEvent(type, {bubbles: true, cancelable: true, dataTransfer: dt}));
			for (const type of ['dragenter', 'dragover', 'drop']) { send(type); await new Promise(r => setTimeout(r, 120)) } return true })()`, f.Data, f.Name, x, y))
	}
	spot := eval[[]float64](t, w.Tab, `(() => { const r = document.querySelector('[data-pocket=north-east]').getBoundingClientRect(); return [r.x + r.width / 2, r.y + r.height / 2] })()`)
	const media = `fetch('/api/pieces/' + location.pathname.split('/').pop()).then(r => r.json()).then(p => { const x = p.pockets.find(x => x.id === 'north-east'); return p.media[x.media].name })`
	w.click("[data-rail-pocket=north-east] .pick")
	w.click("[data-test=frame-it]")
	w.until(`document.querySelector('[data-test=grab]')`)
	drop(spot[0], spot[1], "Squall.jpg")
	w.until(media + `.then(n => n === 'Squall.jpg')`)
	w.click("[data-test=play]")
	w.until(`document.querySelector('[data-test=play]').getAttribute('aria-label') === 'Stop'`)
	drop(spot[0], spot[1], "Dusk.jpg")
	w.until(media + `.then(n => n === 'Dusk.jpg')`)
}

// A server that is away is told in words for people.
func TestNoMachineWordsWhenTheServerIsAway(t *testing.T) {
	t.Parallel()
	w, _, stop := atDesk(t, t.TempDir(), "four-winds")
	stop()
	w.until(`document.querySelector('.lost')`)
	w.click("[data-format=vertical]")
	w.key("j")
	w.until(`document.querySelector('.faults, .n-message')`)
	for range 5 {
		if text := w.text("body"); strings.Contains(strings.ToLower(text), "fetch") || strings.Contains(text, "TypeError") || strings.Contains(text, "NetworkError") {
			t.Fatalf("the page says: %s", text)
		}
	}
}

// A page that is loaded anew is where it was, and its window says what is open in it.
func TestReloadingStaysWhereOneIs(t *testing.T) {
	t.Parallel()
	w, _, _ := atDesk(t, t.TempDir(), "four-winds")
	w.until(`document.title.startsWith('Four Winds · Desk')`)
	w.click("[data-format=vertical]")
	eval[bool](t, w.Tab, `[...document.querySelectorAll('[role=tab]')].find(b => b.innerText === 'Sheet').click() || true`)
	w.key("l")
	w.key("k")
	w.key(",")
	w.key("\x1b") // selects nothing
	w.click("[data-rail-pocket=south-west] .pick")
	frame := w.text("[data-test=frame]")
	w.until(`location.search.includes('frame=` + frame + `') && location.search.includes('layer=view-south-west')`)
	w.click("[data-side=sheet]")
	w.until(`location.search.includes('panel=sheet')`)
	for range 2 {
		eval[bool](t, w.Tab, `(location.reload(), true)`)
		w.until(`document.querySelector('[data-rail-pocket=south-west].on') && document.querySelector('[data-format=vertical].on')`)
		w.until(`document.querySelector('[role=tab].on').innerText === 'Sheet' && document.querySelector('[data-test=frame]').innerText === '` + frame + `'`)
		w.exact()
	}
	// The trial's panel, too, though selecting a pocket brings another one up.
	w.must(w.Go(eval[string](t, w.Tab, `location.origin + location.pathname + '?pocket=north-west'`)))
	w.until(`document.querySelector('[data-test=frame-it]')`)
	w.must(w.Go(eval[string](t, w.Tab, `location.origin + location.pathname + '?pocket=north-west&panel=trial'`)))
	w.until(`document.querySelector('[data-rail-pocket=north-west].on') && document.querySelector('[role=tab].on').innerText === 'Trial'`)
	// What an address says and the piece does not have is left.
	w.must(w.Go(eval[string](t, w.Tab, `location.origin + location.pathname + '?format=nine&frame=1e9&layer=gone&panel=none'`)))
	w.exact()
	w.until(`document.querySelector('[data-format=landscape].on') && !document.querySelector('.pocket.on') && document.querySelector('[data-test=frame]').innerText === '239'`)
}
