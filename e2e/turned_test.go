package e2e

import (
	"fmt"
	"math"
	"testing"
)

// In a pocket that is turned, flattened and pulled into perspective, media goes
// where the pointer goes, and the pin lies on what it was put on.
func TestFramingInATurnedPocketFollowsThePointer(t *testing.T) {
	url, _ := serve(t, t.TempDir())
	w := walker{t, tab(t, 1280, 800)}
	w.must(w.Go(url))
	w.click("[data-template=four-winds] .picture")
	w.exact()
	const piece = `location.pathname.split('/').pop()`
	// do sends a change as another window would; the page follows.
	do := func(id, op string) {
		t.Helper()
		if failed := eval[string](t, w.Tab, fmt.Sprintf(`(async () => { const id = %s; const p = await (await fetch('/api/pieces/' + id)).json();
			const r = await fetch('/api/pieces/' + id + '/operations', {method: 'POST', headers: {'Content-Type': 'application/json'}, body: JSON.stringify({id: %q, base: p.revision, op: %s})});
			return r.ok ? '' : await r.text() })()`, piece, id, op)); failed != "" {
			t.Fatal(failed)
		}
	}
	do("turn-the-pocket", `{kind: 'batch', ops: [{kind: 'rest', path: 'layers/view-north-west/turn', value: 60}, {kind: 'rest', path: 'layers/view-north-west/scale', value: [0.6, 0.5]},
		{kind: 'rest', path: 'layers/view-north-west/corners', value: [[80, 40], [0, 0], [-60, 20], [0, 0]]}, {kind: 'frame', pocket: 'north-west', framing: {fit: 'cover', focus: [0.5, 0.5], pan: [0, 0], zoom: 2, turn: 0}}]}`)
	w.until(`document.querySelector('[data-hit=view-north-west]')?.tagName === 'polygon'`)
	w.exact()
	w.click("[data-rail-pocket=north-west] .pick")
	w.until(`[...document.querySelectorAll('button')].some(b => b.innerText.includes('Frame on stage'))`)
	eval[bool](t, w.Tab, `[...document.querySelectorAll('button')].find(b => b.innerText.includes('Frame on stage')).click() || true`)
	w.until(`document.querySelector('[data-test=grab]')`)
	// Where the ghost's middle stands on the screen: its own box is that of what it shows.
	const ghost = `(() => { const i = document.querySelector('.ghost'); const m = new DOMMatrix(getComputedStyle(i).transform); const p = m.transformPoint({x: i.offsetWidth / 2, y: i.offsetHeight / 2}); return [p.x / p.w, p.y / p.w] })()`
	before := eval[[]float64](t, w.Tab, ghost)
	w.must(w.Drag("[data-test=grab]", 30, -14))
	w.until(`document.querySelector('[aria-label=Undo]').title.startsWith('Undo: Pan of')`)
	w.until(fmt.Sprintf(`(() => { const p = %s; return Math.hypot(p[0] - %g, p[1] - %g) > 8 })()`, ghost, before[0], before[1]))
	w.exact()
	after := eval[[]float64](t, w.Tab, ghost)
	// In perspective the middle of the picture and the place that was dragged do not
	// go exactly as far.
	if dx, dy := after[0]-before[0], after[1]-before[1]; math.Abs(dx-30) > 6 || math.Abs(dy+14) > 6 {
		t.Errorf("dragged by 30, -14 the media went %.1f, %.1f", dx, dy)
	}
	// A key takes it along the screen, not along the pocket.
	w.key("\x1b")
	w.until(`!document.querySelector('[data-test=grab]')`)
	eval[bool](t, w.Tab, `[...document.querySelectorAll('button')].find(b => b.innerText.includes('Frame on stage')).click() || true`)
	w.until(`document.querySelector('[data-test=grab]')`)
	eval[bool](t, w.Tab, `document.activeElement.blur() || true`)
	before = eval[[]float64](t, w.Tab, ghost)
	eval[bool](t, w.Tab, `document.body.dispatchEvent(new KeyboardEvent('keydown', {key: 'ArrowRight', shiftKey: true, bubbles: true})) || true`)
	w.until(fmt.Sprintf(`Math.abs(%s[0] - %g) > 3`, ghost, before[0]))
	after = eval[[]float64](t, w.Tab, ghost)
	if dx, dy := after[0]-before[0], after[1]-before[1]; dx < 4 || math.Abs(dy) > dx/3 {
		t.Errorf("an arrow to the right took the media by %.1f, %.1f", dx, dy)
	}
	// The pin is put under the pointer, and lies there.
	w.click("[data-test=focus]")
	w.until(`document.querySelector('[data-test=pin]')`)
	w.must(w.Drag("[data-test=grab]", 20, 10))
	w.until(`document.querySelector('[aria-label=Undo]').title.startsWith('Undo: Focus of')`)
	w.exact()
	grab := eval[[]float64](t, w.Tab, `(() => { const b = document.querySelector('[data-test=grab]').getBoundingClientRect(); return [b.left + b.width / 2 + 20, b.top + b.height / 2 + 10] })()`)
	pin := eval[[]float64](t, w.Tab, `(() => { const b = document.querySelector('[data-test=pin]').getBoundingClientRect(); return [b.left + b.width / 2, b.top + b.height / 2] })()`)
	// The focus moves the media as far as it may; the pin is on the same point of it.
	if d := math.Hypot(pin[0]-grab[0], pin[1]-grab[1]); d > 90 {
		t.Errorf("the pin lies %.1f px from where it was put", d)
	}
}
