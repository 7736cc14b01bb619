package e2e

import (
	"fmt"
	"strings"
	"testing"

	"github.com/chromedp/chromedp/kb"
)

// Guides lie over the picture at the bench, the desk and over a clip alone, are adjusted by
// dragging and by numbers and put back; what is dragged is drawn to them; and no picture that
// the server makes is another for it.
func TestGuidesLieOverAndNeverInThePicture(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	w, _, _ := atBench(t, dir, "Guides", "1080x1920")
	w.op(`{kind: 'batch', ops: [{kind: 'describe', path: 'category', name: 'Cards'}, {kind: 'add', into: 'layers', at: 0, part: {id: 'low', name: 'Low', kind: 'ground', fill: '#ffffff'}},
		{kind: 'add', into: 'layers', at: 1, part: {id: 'panel', name: 'Panel', kind: 'shape', fill: '#204060', size: [200, 200], place: [40, 40]}}]}`)
	w.until(`document.querySelector('.tree [data-layer=panel]')`)
	w.click("[data-format=vertical]")
	w.exact()
	before := [2]string{w.frame("landscape", 0), w.frame("vertical", 0)}

	// One key shows them, a press chooses which.
	w.key("g")
	w.until(`document.querySelector('[data-mark="r95/action"]')`)
	w.click("[data-test=guides]")
	w.click("[data-guides=r95]")
	w.click("[data-guides=feed-tall]")
	w.until(`document.querySelector('[data-mark="feed-tall/caption"]') && !document.querySelector('[data-mark="r95/action"]')`)
	w.axe("the list of guides")
	// A line is dragged: a copy is made, whose name says so; numbers follow, and it goes back.
	w.click("[data-adjust=feed-tall]")
	w.until(`document.querySelector('[data-guide-grip="free top"]')`)
	const top = `document.querySelector('[data-guide-mark=free] .grid > :nth-child(2)')?.innerText.replace(/\D/g, '')`
	w.until(top + ` === '211'`) // 11 % of 1920
	// The list that it was chosen from has gone from above it.
	w.until(`(() => { const g = document.querySelector('[data-guide-grip="free top"]'), r = g.getBoundingClientRect(); return document.elementFromPoint(r.x + r.width / 2, r.y + r.height / 2) === g })()`)
	w.must(w.Drag(`[data-guide-grip="free top"]`, 0, 50))
	w.until(`document.querySelector('[data-guide-reset=free]')`)
	if got := eval[string](t, w.Tab, `document.querySelector('[aria-label="Name of the guides"]').value`); got != "Tall feed, adjusted" {
		t.Errorf("the copy is called %q", got)
	}
	w.axe("adjusting guides")
	w.click("[data-guide-reset=free]")
	w.until(`!document.querySelector('[data-guide-reset=free]') && ` + top + ` === '211'`)
	w.until(`document.querySelector('[data-guide-mark=free] [aria-label="Free of furniture, left"]')`)
	w.click(`[data-guide-mark=free] [aria-label="Free of furniture, left"]`)
	w.until(`document.querySelector('input[aria-label="Free of furniture, left"]')`)
	w.key("100" + kb.Enter)
	w.until(`document.querySelector('[data-guide-reset=free]')`)
	w.click("[data-test=guides-done]")

	// What is dragged near a line comes to lie on it, to the number.
	w.until(`document.querySelector('[data-hit=panel]')`)
	scale := eval[float64](t, w.Tab, `document.querySelector('.picture').clientWidth / 1080`)
	// Its left edge is at 540 + 40 - 100 = 480; the line at 100.
	letGo, err := w.Hold("[data-hit=panel]", -(480-100-6)*scale, 20*scale)
	w.must(err)
	w.until(`[...document.querySelectorAll('.what')].some(e => e.innerText.startsWith('left edge of Free of furniture of Tall feed, adjusted'))`)
	w.must(letGo())
	w.until(`document.querySelector('[aria-label=Undo]').title.includes('Move Panel')`)
	w.saved()
	if got := w.draft(`fetch('/api/drafts/' + location.pathname.split('/').pop() + '/layers/panel?format=vertical&frame=0').then(r => r.json()).then(y => window.x = y.properties.find(p => p.name === 'place').rest[0])`); got == "" {
		t.Error("its place is not told")
	}
	w.until(`window.x === -340`)
	w.ctrl("z")
	w.saved()

	// Everything that the server draws is as it was, on the bench and in a file.
	if got := [2]string{w.frame("landscape", 0), w.frame("vertical", 0)}; got != before {
		t.Error("with guides it is another picture")
	}

	// At the desk they are there, too; an editor of a set that says how long a piece may be is
	// told when it is longer.
	w.click("[data-test=release]")
	w.until(`document.querySelector('[data-test=release-now]')`)
	w.click("[data-test=release-now]")
	w.click("[data-test=fill-release]")
	w.until(`location.pathname.startsWith('/desk/')`)
	w.exact()
	w.click("[data-format=vertical]")
	w.exact()
	w.until(`document.querySelector('[data-mark$="/caption"]')`)
	png := func() string {
		return eval[string](t, w.Tab, `(async () => { const id = location.pathname.split('/').pop()
			const f = await (await fetch('/api/pieces/' + id + '/frames?format=vertical&width=640&height=640&from=0&count=1')).json()
			const png = await (await fetch('/frames/' + f.addresses[0].address + '.png')).arrayBuffer()
			return [...new Uint8Array(await crypto.subtle.digest('SHA-256', png))].map(b => b.toString(16).padStart(2, '0')).join('') })()`)
	}
	if png() != before[1] {
		t.Error("at the desk it is another picture")
	}
	w.must(w.Until(fmt.Sprintf(`fetch('/api/guides?width=1080&height=1920').then(r => r.json()).then(g => g.sets.find(s => s.revision)).then(s => fetch('/api/guides/' + s.id, {method: 'PUT', headers: {'Content-Type': 'application/json'},
		body: JSON.stringify({revision: s.revision, set: {id: s.id, name: s.name, of: s.of, shape: s.shape, fade: s.fade, marks: s.marks, longest: %d}})})).then(r => r.ok)`, 4), patience))
	w.until(`document.querySelector('[data-test=too-long]')?.innerText.startsWith('6 s too long')`)
	w.key("g")
	w.until(`!document.querySelector('[data-test=guides-over]')`)
	if strings.Contains(eval[string](t, w.Tab, `document.querySelector('.below').innerText`), "too long") {
		t.Error("hidden, they still say that it is too long")
	}
}
