package e2e

import (
	"fmt"
	"math"
	"testing"

	"github.com/chromedp/chromedp/kb"
)

// dragFrom drags from a point of the page, whatever lies there.
func (w walker) dragFrom(x, y, dx, dy float64) {
	w.Helper()
	eval[bool](w.TB, w.Tab, fmt.Sprintf(`(() => { let p = document.getElementById('pin3') || document.body.appendChild(document.createElement('i')); p.id = 'pin3'; p.style = 'position:fixed;pointer-events:none;width:0;height:0;left:%gpx;top:%gpx'; return true })()`, x, y))
	w.must(w.Drag("#pin3", dx, dy))
}

// Time is held by dragging over the pleats; the end of the piece is dragged and held time stays as long; a value is tied
// by pointing, followed, and kept out of circles; a camera goes by its handles; a cover is found. All of it is taken back.
func TestElasticTimeFormulasAndCover(t *testing.T) {
	t.Parallel()
	w, _, _ := atBench(t, t.TempDir(), "Elastic")
	w.op(`{kind: 'batch', ops: [
		{kind: 'add', into: 'layers', at: 0, part: {id: 'a', name: 'First', kind: 'shape', fill: '#c01030', size: [200, 200], place: [-300, 0], motion: {size: {unit: 'own', keys: [{id: 'k', at: 0, value: [200, 200]}, {id: 'l', at: 100, value: [600, 200]}]}}}},
		{kind: 'add', into: 'layers', at: 1, part: {id: 'b', name: 'Second', kind: 'shape', fill: '#2e6b4e', size: [100, 100], place: [200, 200]}},
		{kind: 'add', into: 'layers', at: 2, part: {id: 'wipe', name: 'Wipe', kind: 'shape', fill: '#1e7383', size: [1920, 1080], radius: 30, in: 40, out: 91}},
		{kind: 'add', into: 'layers', at: 3, part: {id: 'eye', name: 'Eye', kind: 'camera'}},
		{kind: 'describe', path: 'purpose', name: 'overlay'}]}`)
	w.until(`document.querySelector('.tree [data-layer=b]')`)
	w.exact()
	first := eval[string](t, w.Tab, `fetch('/api/drafts/' + location.pathname.split('/').pop() + '/document').then(r => r.text())`)
	steps := 0
	done := func(do func()) { t.Helper(); w.revised(do); steps++ }

	// Held and elastic.
	r := eval[[]float64](t, w.Tab, `(() => { const r = document.querySelector('[data-test=pleats]').getBoundingClientRect(); return [r.x, r.y + r.height / 2, r.width / 250] })()`)
	done(func() { w.dragFrom(r[0]+0.5, r[1], 60*r[2], 0) })
	held := func() string {
		return w.draft(`d.time.filter(p => p.kind === 'held').map(p => p.from + '-' + p.to).join(' ')`)
	}
	if got := held(); got != "0-60" {
		t.Fatalf("held %s", got)
	}
	id := w.draft(`d.time[0].id`)
	w.until(`document.querySelector('[data-test=crossing]')`) // the size goes on past it
	done(func() {
		w.must(w.Drag(fmt.Sprintf(`[data-held-to="%s"]`, id), 20*r[2], 0))
	})
	if got := held(); got != "0-80" {
		t.Errorf("its border dragged by 20 frames it is held %s", got)
	}
	w.axe("held time")
	w.must(w.Drag("[data-test=piece-end]", -70*r[2], 0))
	w.until(`document.querySelector('[data-test=tried]')`)
	// As many frames as before, of fewer in all.
	wide := eval[float64](t, w.Tab, fmt.Sprintf(`(() => { const n = Number(document.querySelector('[data-test=tried]').innerText.match(/at (\d+)/)[1]); return document.querySelector('[data-held="%s"]').getBoundingClientRect().width / document.querySelector('.clothstrip').getBoundingClientRect().width * n })()`, id))
	if math.Abs(wide-80) > 1 {
		t.Errorf("in a shorter piece %g frames are held", wide)
	}
	w.to(150)
	w.until(`(n => n > 170 && n < 230)(Number(document.querySelector('[data-test=shows]')?.innerText.replace(/[^0-9.]/g, '')))`)
	if got := w.draft(`d.frames + ' ' + d.tried`); got != "250 0" {
		t.Errorf("tried, the draft is %s frames long", got)
	}
	w.click("[data-test=own-length]")
	w.until(`!document.querySelector('[data-test=tried]')`)
	w.click("[data-test=try-lengths]")
	w.until(`document.querySelectorAll('[data-length]').length === 5 && [...document.querySelectorAll('[data-length] img')].every(i => i.naturalWidth > 0)`)
	w.axe("lengths")
	w.key(kb.Escape)
	w.until(`!document.querySelector('[data-length]')`)

	// Tied by pointing.
	w.click(".tree [data-layer=b]")
	builder{w}.find("size")
	w.click("[data-formula-of=size]")
	w.click("[data-test=take-from]")
	w.until(`document.querySelector('[data-test=pointing-at]')`)
	w.click(".tree [data-layer=a]")
	done(func() { w.click(`[data-source="layers/a/size.x"]`) })
	w.until(`document.querySelector('[data-test=formula-yields]')`)
	if a, b := w.seen("a", "size", 50, 0), w.seen("b", "size", 50, 0); a != b || a <= 200 {
		t.Errorf("taken it is %g wide, the other %g", b, a)
	}
	done(func() { w.click("[data-way=share]") })
	if a, b := w.seen("a", "size", 150, 0), w.seen("b", "size", 150, 0); math.Abs(b-100) > 0.2 || a != 600 {
		t.Errorf("a share of it it is %g wide, the other %g", b, a)
	}
	w.axe("a formula")
	// Typed wrong it is told where, and mended.
	w.click("[data-test=formula-text]")
	w.ctrl("a")
	w.key("layer('a').szie.x")
	w.until(`document.querySelector('[data-test=formula-fault] mark')?.innerText.includes('szie')`)
	w.click("[data-test=formula-mend]")
	w.until(`document.querySelector('[data-test=formula-text]').value === "layer('a').size.x" && !document.querySelector('[data-test=formula-fault]')`)
	done(func() { w.click("[data-test=formula-keep]") })
	// A circle is a ring of names, and each leads there.
	w.click(".tree [data-layer=a]")
	builder{w}.find("size")
	w.click("[data-formula-of=size]")
	w.click("[data-test=formula-text]")
	w.key("layer('b').size.x")
	w.until(`document.querySelectorAll('[data-ring]').length === 3`)
	w.click(`[data-ring="layers/b/size.x"]`)
	w.until(`document.querySelector('[data-formula-of=size]') && document.querySelector('.tree [data-layer=b]').getAttribute('aria-selected') !== 'false'`)

	// The camera by its handles.
	w.click(".tree [data-layer=eye]")
	w.until(`document.querySelector('[data-camera-move]')`)
	done(func() { w.must(w.Drag("[data-camera-move]", 40, 0)) })
	if x := w.seen("eye", "place", 10, 0); x < 60 {
		t.Errorf("the camera stands at %g", x)
	}
	w.revised(func() { w.ctrl("z") }) // the wipe is to cover under it
	steps--
	done(func() { w.must(w.Drag("[data-camera-zoom='2']", 30, 17)) })
	if s := w.seen("eye", "scale", 10, 0); s <= 1.02 {
		t.Errorf("the camera is scaled by %g", s)
	}
	w.revised(func() { w.ctrl("z") })
	steps--

	// What covers, and where to cut.
	w.key(kb.Escape)
	w.until(`document.querySelector('[data-test=cover]')`)
	w.click("[data-test=find-cover]")
	w.until(`document.querySelector('[data-test=never-covers]')?.innerText.includes('at best')`)
	w.click(".tree [data-layer=wipe]")
	done(func() { w.set("radius", 0, "0") })
	w.key(kb.Escape)
	w.until(`document.querySelector('[data-test=best-cut]')?.innerText === 'frame 65' && document.querySelector('[data-test=covers]')`)
	done(func() { w.click("[data-test=keep-cut]") })
	w.click("[data-test=over-scenes]")
	w.until(`document.querySelector('.picture').dataset.ground === 'scenes:65'`)
	w.exact()
	w.until(`!document.querySelector('.n-message')`)
	w.axe("a cover")

	for range steps {
		w.revised(func() { w.ctrl("z") })
	}
	if last := eval[string](t, w.Tab, `fetch('/api/drafts/' + location.pathname.split('/').pop() + '/document').then(r => r.text())`); last != first {
		t.Errorf("taken back it is\n%s\nnot\n%s", last, first)
	}
}
