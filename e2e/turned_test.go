package e2e

import (
	"fmt"
	"math"
	"testing"
)

// In a pocket that is turned, flattened and pulled into perspective, media goes
// where the pointer goes, and the pin lies on what it was put on.
func TestFramingInATurnedPocketFollowsThePointer(t *testing.T) {
	t.Parallel()
	url, _ := serve(t, t.TempDir())
	w := walker{t, tab(t, 1280, 800)}
	w.must(w.Go(url))
	// A release in which the pocket is turned, and a piece of it.
	piece := eval[string](t, w.Tab, `(async () => {
		const post = async (path, body) => { const r = await fetch('/api/' + path, {method: 'POST', headers: {'Content-Type': 'application/json'}, body: JSON.stringify(body)}); if (!r.ok) throw await r.text(); return r.json() }
		const d = await post('drafts', {template: 'four-winds'}), rest = (name, value) => ({kind: 'rest', path: 'layers/view-north-west/' + name, value})
		await post('drafts/' + d.id + '/operations', {id: 'turn-the-pocket', base: 0, op: {kind: 'batch', ops: [rest('turn', 60), rest('scale', [0.6, 0.5]), rest('corners', [[80, 40], [0, 0], [-60, 20], [0, 0]])]}})
		await post('drafts/' + d.id + '/release', {note: ''})
		const p = await post('templates/four-winds/open')
		await post('pieces/' + p.id + '/operations', {id: 'frame-it', base: 0, op: {kind: 'frame', pocket: 'north-west', framing: {fit: 'cover', focus: [0.5, 0.5], pan: [0, 0], zoom: 2, turn: 0}}})
		return p.id })()`)
	w.must(w.Go(url + "/desk/" + piece))
	w.exact()
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
