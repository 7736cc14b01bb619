package e2e

import (
	"fmt"
	"math"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp/kb"
)

// large is a template of so many layers, half of which move, in three formats.
func large(layers, frames int) string {
	var list []string
	for i := range layers {
		motion := ""
		if i%2 == 0 {
			motion = fmt.Sprintf(`, "motion": {"place": {"unit": "canvas", "keys": [{"at": 0, "value": [0, 0], "ease": [0.7, 0, 0.2, 1]}, {"at": %d, "value": [0.1, 0.05]}]}, "turn": {"keys": [{"at": 0, "value": 0}, {"at": %d, "value": 40}]}}`, frames-1, frames/2)
		}
		list = append(list, fmt.Sprintf(`{"id": "y%d", "name": "Layer %d", "kind": "shape", "fill": "#%02x%02x80", "place": [%d, %d], "size": [160, 110], "radius": 12%s}`, i, i, 40+i*3%200, 200-i*2%150, -800+(i%10)*170, -420+(i/10%8)*120, motion))
	}
	return fmt.Sprintf(`{"ivypocket": 3, "kind": "template", "id": "large", "name": "Large", "category": "Bench", "rate": "30", "frames": %d,
		"formats": [{"id": "landscape", "name": "Landscape", "width": 1920, "height": 1080}, {"id": "vertical", "name": "Vertical", "width": 1080, "height": 1920}, {"id": "square", "name": "Square", "width": 1080, "height": 1080}],
		"layers": [%s]}`, frames, strings.Join(list, ","))
}

// benched opens a document on the bench and returns how long that took, in ms.
func benched(b *testing.B, w walker, url, doc string) (opening float64) {
	b.Helper()
	w.must(w.Go(url + "/drafts"))
	id := eval[string](b, w.Tab, fmt.Sprintf(`fetch('/api/drafts/document', {method: 'POST', headers: {'Content-Type': 'application/json'}, body: %q}).then(r => r.json()).then(d => d.id)`, doc))
	w.until(fmt.Sprintf(`document.querySelector('[data-draft="%s"] .title')`, id))
	opening = eval[float64](b, w.Tab, fmt.Sprintf(`(async () => { const t = performance.now(); document.querySelector('[data-draft="%s"] .title').click();
		while (!(document.querySelector('.tree [data-layer]') && ['quick', 'exact'].includes(document.querySelector('.picture')?.dataset.quality))) await new Promise(r => requestAnimationFrame(r));
		return performance.now() - t })()`, id))
	w.exact()
	return opening
}

// drags drags something that is found by a selector by so many steps, each when the one before was seen, and returns
// the 95th of a hundred times from the pointer to the changed picture, and to the answer
// that it is kept, in ms.
func drags(b *testing.B, w walker, what string, steps int) (picture, kept float64) {
	b.Helper()
	return strides(b, w, what, steps, 2, "")
}

// strides is drags by steps of so many px, with more in each of the pointer's events, such as "ctrlKey: true".
func strides(b *testing.B, w walker, what string, steps, px int, more string) (picture, kept float64) {
	b.Helper()
	t := eval[[]float64](b, w.Tab, fmt.Sprintf(`(async () => {
		const times = [], kept = []
		const draw = CanvasRenderingContext2D.prototype.drawImage
		let drawn = () => {}
		CanvasRenderingContext2D.prototype.drawImage = function (...a) { const out = draw.apply(this, a); drawn(); return out }
		const send = (type, x, y, on = window) => on.dispatchEvent(new PointerEvent(type, {clientX: x, clientY: y, pointerId: 1, button: 0, buttons: 1, bubbles: true, cancelable: true, isPrimary: true, ...(type === 'pointermove' ? {%s} : {})}))
		Element.prototype.setPointerCapture = () => {}
		for (let round = 0; round < 5; round++) {
			const hit = document.querySelector(%q), r = hit.getBoundingClientRect()
			const x = r.x + r.width / 2, y = r.y + r.height / 2
			send('pointerdown', x, y, hit)
			send('pointermove', x + 5, y)
			await new Promise(ok => setTimeout(ok, 150))
			for (let i = 1; i <= %d / 5; i++) {
				const t = performance.now()
				const seen = new Promise(ok => (drawn = () => requestAnimationFrame(ok)))
				send('pointermove', x + 5 + i * %d, y + i)
				await seen
				times.push(performance.now() - t)
			}
			performance.clearResourceTimings()
			send('pointerup', x + 40, y + 20)
			for (;;) {
				const e = performance.getEntriesByType('resource').find(e => e.name.endsWith('/operations'))
				if (e) { kept.push(e.responseEnd - e.startTime); break }
				await new Promise(ok => setTimeout(ok, 10))
			}
			await new Promise(ok => setTimeout(ok, 400))
		}
		CanvasRenderingContext2D.prototype.drawImage = draw
		const p95 = a => a.sort((p, q) => p - q)[Math.floor(a.length * 0.95)]
		return [p95(times), kept.sort((p, q) => p - q)[Math.floor(kept.length / 2)]]
	})()`, more, what, steps, px))
	return t[0], t[1]
}

// BenchmarkBench measures the designer's hand: opening, dragging, keeping, in a template
// of the demo, in one of 60 layers, 1800 frames and three formats, and in one of 500.
func BenchmarkBench(b *testing.B) {
	url, _ := serve(b, b.TempDir())
	w := walker{b, tab(b, 1280, 800)}
	w.must(w.Go(url))
	w.click("[data-template=four-winds] [data-test=to-bench]")
	w.until(`document.querySelector('[data-hit=badge]')`)
	w.exact()
	// Light copies grow on a first start; what is measured is the hand, not those.
	w.must(w.Until(`fetch('/api/media').then(r => r.json()).then(l => l.every(m => m.kind !== 'footage' || m.proxyDone >= m.frames))`, 4*time.Minute))
	for b.Loop() {
		picture, kept := drags(b, w, "[data-hit=badge]", 100)
		b.ReportMetric(picture, "four-winds-p95-ms")
		b.ReportMetric(kept, "four-winds-kept-ms")
		opening := benched(b, w, url, large(60, 1800))
		b.ReportMetric(opening, "60-opening-ms")
		picture, kept = drags(b, w, "[data-hit=y13]", 100)
		b.ReportMetric(picture, "60-p95-ms")
		b.ReportMetric(kept, "60-kept-ms")
		b.ReportMetric(benched(b, w, url, large(500, 300)), "500-opening-ms")
		// The tree is scrolled from end to end: the longest time between two pictures.
		b.ReportMetric(eval[float64](b, w.Tab, `(async () => { const el = document.querySelector('.left'), gaps = []; let last = performance.now()
			for (let i = 0; i < 90; i++) { el.scrollTop = el.scrollHeight * i / 90; await new Promise(r => requestAnimationFrame(r)); const n = performance.now(); gaps.push(n - last); last = n }
			return gaps.sort((a, b) => a - b)[Math.floor(gaps.length * 0.95)] })()`), "500-scroll-p95-ms")
	}
}

// BenchmarkMemory measures what the bench holds after 100 and after 500 operations in a
// template of 60 layers: it is to be steady.
func BenchmarkMemory(b *testing.B) {
	url, _ := serve(b, b.TempDir())
	w := walker{b, tab(b, 1280, 800)}
	benched(b, w, url, large(60, 300))
	w.click("[data-layer=y13]")
	work := func(n int) float64 {
		b.Helper()
		for range n / 50 {
			eval[bool](b, w.Tab, `(async () => { for (let i = 0; i < 50; i++) {
				performance.clearResourceTimings()
				document.body.dispatchEvent(new KeyboardEvent('keydown', {key: 'h', bubbles: true}))
				while (!performance.getEntriesByType('resource').some(e => e.name.endsWith('/operations'))) await new Promise(ok => setTimeout(ok, 4)) } return true })()`)
		}
		time.Sleep(3 * time.Second)
		m, err := w.Memory()
		if err != nil {
			b.Fatal(err)
		}
		return m / (1 << 20)
	}
	for b.Loop() {
		first, last := work(100), work(400)
		b.ReportMetric(work(400), "after-900-MB")
		b.ReportMetric(work(400), "after-1300-MB")
		b.ReportMetric(first, "after-100-MB")
		b.ReportMetric(last, "after-500-MB")
		b.ReportMetric(last/first, "of-that")
	}
}

// BenchmarkDrawing measures a point of a mask of 60 points, with a feather, dragged over
// footage, and the ledger of 60 layers: from the press to its rows, and from a key to what
// fits.
func BenchmarkDrawing(b *testing.B) {
	url, _ := serve(b, b.TempDir())
	w := walker{b, tab(b, 1280, 800)}
	w.must(w.Go(url))
	w.must(w.Until(`fetch('/api/media').then(r => r.json()).then(l => l.every(m => m.kind !== 'footage' || m.proxyDone >= m.frames))`, 4*time.Minute))
	clip := eval[string](b, w.Tab, `fetch('/api/media').then(r => r.json()).then(l => l.find(m => m.kind === 'footage' && m.width >= 1280).hash)`)
	var points []string
	for i := range 60 {
		turn := float64(i) / 60 * 2 * math.Pi
		far := 0.42 + 0.06*float64(i%2)
		points = append(points, fmt.Sprintf("[%.4f, %.4f, %.4f, %.4f, %.4f, %.4f]", 0.5+far*math.Cos(turn), 0.5+far*math.Sin(turn), 0.02*math.Sin(turn), -0.02*math.Cos(turn), -0.02*math.Sin(turn), 0.02*math.Cos(turn)))
	}
	masked := fmt.Sprintf(`{"ivypocket": 3, "kind": "template", "id": "masked", "name": "Masked", "category": "Bench", "rate": "25", "frames": 100,
		"formats": [{"id": "landscape", "name": "Landscape", "width": 1920, "height": 1080}],
		"pockets": [{"id": "clip", "name": "Clip", "kinds": ["footage"], "standIn": {"media": %q}}], "media": [{"hash": %q, "name": "Clip", "kind": "footage"}],
		"layers": [{"id": "view", "name": "View", "kind": "view", "pocket": "clip", "size": [1920, 1080], "masks": [{"id": "m1", "form": {"kind": "path", "path": [%s]}, "feather": 40}]}]}`, clip, clip, strings.Join(points, ", "))
	for b.Loop() {
		benched(b, w, url, masked)
		w.click(".tree [data-layer=view]")
		w.until(`document.querySelector('[data-points-of=m1]')`)
		w.click("[data-points-of=m1]")
		w.until(`document.querySelector('[data-node="17"]')`)
		picture, _ := drags(b, w, `[data-node="17"]`, 100)
		b.ReportMetric(picture, "mask-point-p95-ms")
		benched(b, w, url, large(60, 1800))
		b.ReportMetric(eval[float64](b, w.Tab, `(async () => { const t = performance.now(); document.querySelector('[data-side=ledger]').click()
			while (!document.querySelector('[data-row]')) await new Promise(r => requestAnimationFrame(r))
			return performance.now() - t })()`), "ledger-opening-ms")
		b.ReportMetric(eval[float64](b, w.Tab, `(async () => { const field = document.querySelector('[aria-label="Search the ledger"]'), times = []
			for (const text of ['o', 'op', 'opa', 'opac', 'opaci', 'opacity', 'layer 4', 'layer 41', 'fill', 'fil', 'fi', 'f', '']) {
				const t = performance.now()
				Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value').set.call(field, text); field.dispatchEvent(new Event('input', {bubbles: true}))
				await new Promise(r => requestAnimationFrame(() => setTimeout(r))) // it is painted by then
				times.push(performance.now() - t)
			}
			return times.sort((a, b) => a - b)[Math.floor(times.length * 0.95)] })()`), "ledger-filter-p95-ms")
	}
}

// BenchmarkMotion measures the strip of layers in time: from the press to its rows in a template of 200
// layers; rows scrolled from end to end in one of 500, every property that moves unfolded; and one of 400 picked keys
// dragged, from the pointer to the picture.
func BenchmarkMotion(b *testing.B) {
	url, _ := serve(b, b.TempDir())
	w := walker{b, tab(b, 1280, 800)}
	w.must(w.Go(url))
	w.must(w.Until(`fetch('/api/media').then(r => r.json()).then(l => l.every(m => m.kind !== 'footage' || m.proxyDone >= m.frames))`, 4*time.Minute)) // light copies grow on a first start
	opening := func() float64 {
		b.Helper()
		eval[bool](b, w.Tab, `(localStorage.setItem('ivy-bars', '0'), true)`)
		return eval[float64](b, w.Tab, `(async () => {
			const shown = () => document.querySelectorAll('[data-bar]').length > 4
			if (shown()) document.body.dispatchEvent(new KeyboardEvent('keydown', {key: 't', bubbles: true}))
			while (shown()) await new Promise(r => requestAnimationFrame(r))
			const t = performance.now(); document.body.dispatchEvent(new KeyboardEvent('keydown', {key: 't', bubbles: true}))
			while (!shown()) await new Promise(r => requestAnimationFrame(r))
			await new Promise(r => requestAnimationFrame(() => setTimeout(r)))
			return performance.now() - t })()`)
	}
	for b.Loop() {
		benched(b, w, url, large(200, 300))
		b.ReportMetric(opening(), "200-strip-ms")
		// All keys of the 100 layers that move are picked: 400 of them.
		w.ctrl("a")
		eval[bool](b, w.Tab, `(document.body.dispatchEvent(new KeyboardEvent('keydown', {key: 'A', ctrlKey: true, shiftKey: true, bubbles: true})), true)`)
		w.until(`document.querySelector('[data-test=keys-bar]')?.innerText.startsWith('400 keys')`)
		picture, kept := strides(b, w, `[data-leaf]`, 100, 5, "ctrlKey: true")
		b.ReportMetric(picture, "400-keys-p95-ms")
		b.ReportMetric(kept, "400-keys-kept-ms")
		benched(b, w, url, large(500, 300))
		opening()
		w.ctrl("a")
		eval[bool](b, w.Tab, `(document.body.dispatchEvent(new KeyboardEvent('keydown', {key: 'u', bubbles: true})), true)`)
		w.until(`document.querySelector('[data-track]')`)
		b.ReportMetric(eval[float64](b, w.Tab, `(async () => { const el = document.querySelector('.bars .rows'), gaps = []; let last = performance.now()
			for (let i = 0; i < 120; i++) { el.scrollTop = el.scrollHeight * i / 120; await new Promise(r => requestAnimationFrame(r)); const n = performance.now(); gaps.push(n - last); last = n }
			return gaps.sort((a, b) => a - b)[Math.floor(gaps.length * 0.95)] })()`), "1000-rows-scroll-p95-ms")
	}
}

// BenchmarkTyping types a letter after another into words on the picture, of a template of the
// demo with many words, at the bench and at the desk: the 95th of a hundred times from a letter
// to the picture that shows it, in ms.
func BenchmarkTyping(b *testing.B) {
	const typed = `(async () => {
		const times = [], draw = CanvasRenderingContext2D.prototype.drawImage
		let drawn = () => {}
		CanvasRenderingContext2D.prototype.drawImage = function (...a) { const out = draw.apply(this, a); drawn(); return out }
		const at = document.querySelector('[data-test=writing-field]')
		for (let i = 0; i < 100; i++) {
			if (i % 10 === 0) at.select()
			const t = performance.now()
			const seen = new Promise(ok => (drawn = () => requestAnimationFrame(ok)))
			document.execCommand('insertText', false, 'Windover'[i % 8])
			await seen
			times.push(performance.now() - t)
			await new Promise(ok => setTimeout(ok, 60))
		}
		CanvasRenderingContext2D.prototype.drawImage = draw
		return times.sort((p, q) => p - q)[95] })()`
	url, _ := serve(b, b.TempDir())
	w := walker{b, tab(b, 1280, 800)}
	w.must(w.Go(url))
	w.must(w.Until(`fetch('/api/media').then(r => r.json()).then(l => l.every(m => m.kind !== 'footage' || m.proxyDone >= m.frames))`, 4*time.Minute))
	w.click("[data-template=maker-card] [data-test=to-bench]")
	w.until(`document.querySelector('.tree [data-layer=name-words]')`)
	w.exact()
	w.click(".tree [data-layer=name-words]")
	// Into the group, where it is looked at closer, which draws more pixels; then as all of it is seen.
	w.key("e")
	w.until(`document.activeElement?.dataset.test === 'writing-field'`)
	for b.Loop() {
		b.ReportMetric(eval[float64](b, w.Tab, typed), "bench-closer-p95-ms")
	}
	w.key(kb.Escape)
	w.click("[data-test=fit]")
	w.exact()
	w.key("e")
	w.until(`document.activeElement?.dataset.test === 'writing-field'`)
	b.ReportMetric(eval[float64](b, w.Tab, typed), "bench-p95-ms")
	w.must(w.Go(url))
	w.click("[data-template=maker-card] .picture")
	w.exact()
	w.click("[data-words=name-words]")
	w.until(`document.activeElement?.dataset.test === 'writing-field'`)
	b.ReportMetric(eval[float64](b, w.Tab, typed), "desk-p95-ms")
}
