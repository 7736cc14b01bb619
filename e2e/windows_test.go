package e2e

import (
	"fmt"
	"testing"

	"github.com/chromedp/chromedp/kb"
)

// An hour of frames is scrubbed and played like a few seconds: its frames are
// told by windows, as the playhead comes to them.
func TestALongPieceIsScrubbedAndPlayed(t *testing.T) {
	dir := t.TempDir()
	url, _ := serve(t, dir)
	w := walker{t, tab(t, 1280, 800)}
	w.must(w.Go(url))
	const frames = 90_000
	piece := eval[string](t, w.Tab, fmt.Sprintf(`(async () => {
		const post = async (path, body) => (await fetch(path, { method: 'POST', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify(body) })).json()
		const p = await post('/api/templates/telescope/open?new=true', undefined)
		await post('/api/pieces/' + p.id + '/operations', { id: 'make-it-long', base: p.revision, op: { kind: 'frames', frames: %d } })
		return p.id
	})()`, frames))
	w.must(w.Go(url + "/desk/" + piece))
	w.exact()
	at := func(n int) {
		t.Helper()
		w.until(fmt.Sprintf(`document.querySelector('.clothstrip').getAttribute('aria-valuenow') === '%d'`, n))
		w.exact()
	}
	w.key(kb.End)
	at(frames - 1)
	w.key(kb.ArrowLeft)
	at(frames - 2)
	w.key(kb.Home)
	at(0)
	// Played over the end of a window: frames are presented on both sides.
	for range 25 {
		w.key(kb.ArrowRight)
	}
	at(25)
	w.key(" ")
	w.until(`performance.getEntriesByName('ivy-frame').some((m) => m.detail > 270)`)
	w.key(" ")
	w.exact()
	if eval[bool](t, w.Tab, `!!document.querySelector('.failed, .failure')`) {
		t.Error("something failed on the way")
	}
}

// Two windows of one person: a drag that ends after the other window changed the same
// is refused and says what was changed; one of another member joins, and says so.
func TestADragThatAnotherWindowOvertook(t *testing.T) {
	t.Parallel()
	w, url, _ := atDesk(t, t.TempDir(), "four-winds")
	piece := eval[string](t, w.Tab, `location.pathname.split('/').pop()`)
	second, err := w.Another(1280, 800)
	w.must(err)
	t.Cleanup(second.Close)
	two := walker{t, second}
	w.must(second.Go(url + "/desk/" + piece))
	two.exact()
	w.click("[data-rail-pocket=north-west] .pick")
	w.click("[data-test=frame-it]")
	w.until(`document.querySelector('[data-test=grab]')`)
	eval[bool](t, w.Tab, `(() => { for (let i = 0; i < 4; i++) document.body.dispatchEvent(new KeyboardEvent('keydown', {key: '+', bubbles: true, cancelable: true})); return true })()`)
	w.until(`document.querySelector('[aria-label=Undo]').title.startsWith('Undo: Zoom of North-west')`)
	const framing = `fetch('/api/pieces/' + location.pathname.split('/').pop()).then(r => r.json()).then(p => { const f = p.stands.landscape.find(s => s.pocket === 'north-west').framing; return [f.turn, f.pan[0], f.zoom].map(v => v.toFixed(3)).join(' ') })`
	says := func(w walker, text string) {
		t.Helper()
		w.until(fmt.Sprintf(`[...document.querySelectorAll('.n-message')].some(m => m.innerText.includes(%q))`, text))
	}
	// The second window: the same document, as the first; by its own fields.
	two.click("[data-rail-pocket=north-west] .pick")
	press := func(field, key string) {
		t.Helper()
		eval[bool](t, two.Tab, fmt.Sprintf(`[...document.querySelectorAll('[role=spinbutton]')].find(e => e.getAttribute('aria-label') === %q).dispatchEvent(new KeyboardEvent('keydown', {key: %q, shiftKey: true, bubbles: true, cancelable: true})) || true`, field, key))
	}
	// Another member: both are kept.
	letGo, err := w.Hold("[data-test=grab]", 12, 0)
	w.must(err)
	press("Turn", "ArrowUp")
	two.until(framing + `.then(f => f.startsWith('10.000 0.000 '))`)
	w.until(`[...document.querySelectorAll('[role=spinbutton]')].some(e => e.getAttribute('aria-label') === 'Turn' && e.getAttribute('aria-valuenow') === '10')`)
	w.must(letGo())
	says(w, "“Turn of North-west” was changed by you in another window meanwhile; both are kept.")
	w.until(framing + `.then(f => f.startsWith('10.000 ') && !f.startsWith('10.000 0.000'))`)
	w.until(`document.querySelector('.saved').innerText === 'Saved'`)
	two.exact()
	was := eval[string](t, w.Tab, framing)
	// The same member: it stays as the other window left it.
	letGo, err = w.Hold("[data-test=grab]", 12, 0)
	w.must(err)
	press("Pan x", "ArrowDown")
	two.until(fmt.Sprintf(`%s.then(f => f !== %q)`, framing, was))
	was = eval[string](t, w.Tab, framing)
	w.must(letGo())
	says(w, "“Pan of North-west” was changed by you in another window meanwhile. It stays as it is there; if you still want yours, do it again")
	w.until(`document.querySelector('.saved').innerText === 'Saved'`)
	if now := eval[string](t, w.Tab, framing); now != was {
		t.Errorf("the drag left %s, the other window %s", now, was)
	}
	// And it can be done again.
	w.must(w.Drag("[data-test=grab]", 12, 0))
	w.until(fmt.Sprintf(`%s.then(f => f !== %q)`, framing, was))
	// Undo says what it undid.
	w.click("[aria-label=Undo]")
	says(w, "Undone: Pan of North-west")
}

// Other media lies as its pocket has it, and the stand-in as it did; a mark that is
// panned as far as it goes is still seen.
func TestTheFramingOfTheMediumBeforeIsNotTheNextOnes(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	w, _, _ := atDesk(t, dir, "four-winds")
	w.click("[data-rail-pocket=mark-pocket] .pick")
	w.click("[data-test=frame-it]")
	w.until(`document.querySelector('[data-test=grab]')`)
	const mark = `fetch('/api/pieces/' + location.pathname.split('/').pop()).then(r => r.json()).then(p => p.stands.landscape.find(s => s.pocket === 'mark-pocket'))`
	eval[bool](t, w.Tab, `(async () => { for (let i = 0; i < 300; i++) { document.body.dispatchEvent(new KeyboardEvent('keydown', {key: 'ArrowLeft', shiftKey: true, bubbles: true, cancelable: true})); if (i % 20 === 0) await new Promise(r => setTimeout(r, 10)) } return true })()`)
	w.until(mark + `.then(s => s.pan[0] < -0.5 && s.framing.pan[0] === s.pan[0])`)
	if over := eval[float64](t, w.Tab, mark+`.then(s => { const w = s.map.a * s.media.w; return Math.min(s.size.w, s.map.e + w) - Math.max(0, s.map.e) })`); over < 10 {
		t.Errorf("%.1f px of the mark are seen", over)
	}
	w.click("[data-test=framing-done]")
	w.must(w.Drop("[data-rail-pocket=mark-pocket]", w.file(dir, "Brinewell Rope.svg", "image/svg+xml")))
	w.until(`document.querySelector('[data-rail-pocket=mark-pocket] .media')?.innerText.startsWith('Brinewell')`)
	w.until(mark + `.then(s => s.pan[0] === 0 && s.zoom === 1)`)
	w.click("[data-test=frame-it]")
	w.until(`document.querySelector('[data-test=grab]')`)
	w.must(w.Drag("[data-test=grab]", 10, 4))
	w.until(mark + `.then(s => s.pan[0] !== 0)`)
	w.click("[data-test=framing-done]")
	eval[bool](t, w.Tab, `[...document.querySelectorAll('button')].find(b => b.innerText === 'Stand-in').click() || true`)
	w.until(mark + `.then(s => s.pan[0] === 0 && s.zoom === 1)`)
}

// renamed has a script rename a piece: no window of its own.
func renamed(w walker, piece, name string) {
	w.Helper()
	eval[bool](w.TB, w.Tab, fmt.Sprintf(`fetch('/api/pieces/%s').then(r => r.json()).then(p => fetch('/api/pieces/%[1]s/operations', {method: 'POST', headers: {'Content-Type': 'application/json'},
		body: JSON.stringify({id: crypto.randomUUID(), base: p.revision, op: {kind: 'name', name: %[2]q}})})).then(r => r.ok)`, piece, name))
}

// Ten windows of one browser hold one stream of news between them: a browser has six
// connections to a server (common practice, no source), and frames need them.
func TestTenWindowsAtOnce(t *testing.T) {
	w, url, _ := atDesk(t, t.TempDir(), "four-winds")
	piece := eval[string](t, w.Tab, `location.pathname.split('/').pop()`)
	all := []walker{w}
	for range 9 {
		another, err := w.Another(1280, 800)
		w.must(err)
		t.Cleanup(another.Close)
		next := walker{t, another}
		w.must(another.Go(url + "/desk/" + piece))
		next.exact()
		all = append(all, next)
	}
	last := all[len(all)-1]
	for i, name := range []string{"Monday", "Tuesday"} {
		who := []walker{last, w}[i]
		renamed(who, piece, name)
		for _, x := range all {
			x.until(fmt.Sprintf(`document.querySelector('.name')?.innerText === %q`, name))
		}
	}
	// The last one goes on to be drawn in.
	last.click("[data-format=vertical]")
	last.exact()
	// A window that is closed takes nothing from the others.
	all[3].Close()
	last.click("[data-rail-pocket=north-west] .pick")
	last.click("[data-fit=contain]")
	w.click("[data-rail-pocket=north-west] .pick")
	w.until(`[...document.querySelectorAll('.caution')].some(c => c.innerText.includes('Edges'))`)
}

// Where a browser has no shared workers one window holds the stream for all, and another
// one takes over when it is closed.
func TestOneWindowHoldsTheNewsWhereThereAreNoWorkers(t *testing.T) {
	t.Parallel()
	w, url, _ := atDesk(t, t.TempDir(), "four-winds")
	piece := eval[string](t, w.Tab, `location.pathname.split('/').pop()`)
	var all []walker
	for range 3 {
		another, err := w.Another(1280, 800)
		w.must(err)
		t.Cleanup(another.Close)
		w.must(another.Before(`delete window.SharedWorker`))
		w.must(another.Go(url + "/desk/" + piece))
		next := walker{t, another}
		next.exact()
		if eval[bool](t, another, `'SharedWorker' in window`) {
			t.Fatal("the window has shared workers")
		}
		all = append(all, next)
	}
	rename := func(name string) {
		t.Helper()
		renamed(w, piece, name)
		for _, x := range all {
			x.until(fmt.Sprintf(`document.querySelector('.name')?.innerText === %q`, name))
		}
	}
	rename("Monday")
	all[0].Close()
	all = all[1:]
	rename("Tuesday")
}
