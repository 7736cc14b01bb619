package e2e

import (
	"fmt"
	"math"
	"strings"
	"testing"

	"github.com/chromedp/chromedp/kb"
)

// pin puts a mark at a point of the canvas, to press and drag at.
func (w walker) pin(x, y float64) (scale float64) {
	w.Helper()
	return eval[float64](w.TB, w.Tab, fmt.Sprintf(`(() => { const r = document.querySelector('.picture').getBoundingClientRect(), k = r.width / (document.querySelector('[data-format][aria-checked=true]').dataset.format === 'vertical' ? 1080 : 1920)
		const p = document.getElementById('pin') || document.body.appendChild(document.createElement('i')); p.id = 'pin'; p.style = 'position:fixed;width:0;height:0;pointer-events:none;left:' + (r.x + %g * k) + 'px;top:' + (r.y + %g * k) + 'px'; return k })()`, x, y))
}

// press presses a point of the canvas, and pull drags from one.
func (w walker) press(x, y float64) { w.Helper(); w.pin(x, y); w.click("#pin") }
func (w walker) pull(x, y, dx, dy float64) {
	w.Helper()
	k := w.pin(x, y)
	w.must(w.Drag("#pin", dx*k, dy*k))
}

// forms are the outlines of a layer as the bench is told, as JavaScript of f.
func (w walker) forms(layer, js string) string {
	w.Helper()
	return eval[string](w.TB, w.Tab, `fetch('/api/drafts/' + location.pathname.split('/').pop() + '/layers/`+layer+`?format=landscape&frame=0').then(r => r.json()).then(y => { const f = y.forms; return String(`+js+`) })`)
}

// A path with curves is drawn with the pen, its points are moved, added, turned, joined and taken
// out by pointer and by keys; it is a shape, a line and a mask; Chromium's own path, through the
// same points, is the line that is drawn.
func TestPathsAreDrawnWithThePen(t *testing.T) {
	t.Parallel()
	w, _, _ := atBench(t, t.TempDir(), "Chalk")
	w.op(`{kind: 'add', into: 'layers', at: 0, part: {id: 'panel', name: 'Panel', kind: 'shape', fill: '#c9b88c', size: [1200, 800]}}`)
	w.until(`document.querySelector('.tree [data-layer=panel]')`)
	w.exact()
	pen := func() {
		w.click("[data-swatch=path]")
		w.until(`document.querySelector('[data-test=pen-sheet]')`)
	}
	pen()
	w.axe("the pen")
	w.press(500, 300)
	w.press(1100, 320)
	w.pull(1200, 700, 90, 120) // a curve
	w.press(600, 800)
	w.revised(func() { w.press(500, 300) }) // its first point closes it
	w.until(`document.querySelector('.tree [data-layer=path]')`)
	nodes := func() string {
		return w.forms("path", `f[0].nodes.map(n => n.map(v => Math.round(v)).join(' ')).join(', ')`)
	}
	// Presses fall on whole pixels of the screen.
	got := eval[[]float64](t, w.Tab, `fetch('/api/drafts/' + location.pathname.split('/').pop() + '/layers/path?format=landscape&frame=0').then(r => r.json()).then(y => y.forms[0].nodes.flat())`)
	want := []float64{500, 300, 500, 300, 500, 300, 1100, 320, 1100, 320, 1100, 320, 1200, 700, 1110, 580, 1290, 820, 600, 800, 600, 800, 600, 800}
	if len(got) != len(want) {
		t.Fatalf("it has the points %s", nodes())
	}
	for i := range want {
		if math.Abs(got[i]-want[i]) > 3 {
			t.Errorf("number %d is %g, not about %g", i, got[i], want[i])
		}
	}
	// The line that is told is the one that Chromium draws through the same points, to a tenth of a
	// px (HTML Standard, Path2D): stroked so wide, each holds all of the other.
	if got := eval[string](t, w.Tab, `fetch('/api/drafts/' + location.pathname.split('/').pop() + '/layers/path?format=landscape&frame=0').then(r => r.json()).then(y => {
		// A hundred times as large, where its own curves along a stroke are near enough.
		const big = 100, f = y.forms[0], n = f.nodes.map((v) => v.map((x) => x * big)), ctx = document.createElement('canvas').getContext('2d'), theirs = new Path2D(), ours = new Path2D()
		ours.addPath(new Path2D(f.line), new DOMMatrix([big, 0, 0, big, 0, 0]))
		theirs.moveTo(n[0][0], n[0][1])
		const pieces = n.map((a, i) => { const b = n[(i + 1) % n.length]; theirs.bezierCurveTo(a[4], a[5], b[2], b[3], b[0], b[1]); return [[a[0], a[1]], [a[4], a[5]], [b[2], b[3]], [b[0], b[1]]] })
		theirs.closePath()
		ctx.lineWidth = 0.2 * big
		// Points along the curve by its definition, and along the straight pieces of the line that is told.
		const mix = (p, q, t) => [p[0] + (q[0] - p[0]) * t, p[1] + (q[1] - p[1]) * t]
		const along = (c, t) => { const [a, b, d] = [mix(c[0], c[1], t), mix(c[1], c[2], t), mix(c[2], c[3], t)]; return mix(mix(a, b, t), mix(b, d, t), t) }
		const line = f.line.match(/-?[\d.]+(e-?\d+)?/g).map((v) => v * big), at = line.flatMap((_, i) => (i % 2 ? [] : [[line[i], line[i + 1]]]))
		const off = (path, list) => list.filter(([x, y]) => !ctx.isPointInStroke(path, x, y)).length
		const on = pieces.flatMap((c) => Array.from({length: 500}, (_, i) => along(c, i / 500)))
		const straight = at.flatMap((p, i) => (i ? [0, 0.25, 0.5, 0.75].map((t) => mix(at[i - 1], p, t)) : []))
		// Were it a quarter of a px aside, it would be told.
		return [off(ours, on), off(theirs, straight), on.length, straight.length > 40, off(theirs, straight.map(([x, y]) => [x + 0.25 * big, y + 0.25 * big])) > 0].join(' ') })`); got != "0 0 2000 true true" {
		t.Errorf("beside Chromium's: %s", got)
	}

	// Its points.
	w.click("[data-test=edit-points]")
	w.until(`document.querySelector('[data-node="3"]')`)
	w.axe("the points of a path")
	k := w.pin(0, 0)
	before := nodes()
	w.revised(func() { w.must(w.Drag(`[data-node="1"]`, 60*k, -30*k)) })
	if now := nodes(); now == before || !strings.HasPrefix(now, strings.Split(before, ",")[0]) {
		t.Errorf("dragged, it is %s", now)
	}
	w.click(`[data-node="0"]`)
	w.revised(func() { w.key(kb.ArrowRight + kb.ArrowRight) })
	w.click(`[data-node="2"]`)
	w.revised(func() { w.must(w.Drag(`[data-handle="2 out"]`, 40*k, 20*k)) })
	count := func(n int) {
		t.Helper()
		w.until(fmt.Sprintf(`document.querySelectorAll('[data-node]').length === %d`, n))
	}
	w.revised(func() { w.press(800, 310) }) // on the line, nearly: a point more
	count(5)
	w.until(`document.querySelectorAll('.node.on').length === 1`)
	w.revised(func() { w.click("[data-points=smooth]") })
	w.revised(func() { w.key(kb.Delete) })
	count(4)
	w.click(`[data-node="0"]`)
	w.key("\t") // the next one
	w.until(`document.querySelector('.node.on [data-node="1"]')`)
	w.revised(func() { w.click("[data-points=open]") })
	count(5)
	// Open, it breaks in two, and comes back as one.
	w.click(`[data-node="2"]`)
	w.revised(func() { w.click("[data-points=open]") })
	count(3)
	w.until(`[...document.querySelectorAll('.tree .layer')].some((l) => /Path 2/.test(l.textContent))`)
	w.revised(func() { w.ctrl("z") })
	count(5)
	w.revised(func() { w.click("[data-points=shut]") })
	count(4)
	w.revised(func() { w.ctrl("z") })
	w.revised(func() { w.ctrl("z") })
	count(4)
	// What tells of it is one line, and takes no press from the stage that it lies over.
	w.until(`document.querySelectorAll('.n-message').length === 1`)
	if got := eval[bool](t, w.Tab, `(() => { const r = document.querySelector('.n-message').getBoundingClientRect(); return !!document.elementFromPoint(r.x + r.width / 2, r.y + r.height / 2).closest('.n-message') })()`); got {
		t.Error("what tells of a step back takes presses")
	}
	w.click("[data-test=path-done]")

	// A line, and a mask.
	pen()
	w.press(300, 950)
	w.press(900, 1000)
	w.revised(func() { w.key(kb.Enter) })
	w.until(`document.querySelector('.tree [data-layer=line]')`)
	w.click(".tree [data-layer=panel]")
	w.until(`document.querySelector('[data-test=add-masks]')`)
	w.click("[data-test=add-masks]")
	w.option(".n-dropdown-option-body", "Draw a path")
	w.until(`document.querySelector('[data-test=pen-sheet]')`)
	w.press(700, 250)
	w.press(1300, 540)
	w.press(700, 830)
	w.revised(func() { w.press(700, 250) })
	if got := w.forms("panel", `f.length + ' ' + f[1].nodes.length`); got != "2 3" {
		t.Errorf("the panel has %s", got)
	}
	// Nothing of it is left by undo.
	w.ctrl("z")
	w.until(`document.querySelector('[aria-label=Undo]').title.includes('Draw Line')`)
}

// A way of motion is drawn where a layer is to go, and its points are worked on as those of any
// path: moved, bent, added, taken out, taken back; the layer goes along it, at even speed.
func TestWaysAreDrawnWithThePen(t *testing.T) {
	t.Parallel()
	w, _, _ := atBench(t, t.TempDir(), "Way")
	w.op(`{kind: 'add', into: 'layers', at: 0, part: {id: 'panel', name: 'Panel', kind: 'shape', fill: '#c9b88c', size: [200, 100], masks: [{id: 'm', size: [100, 80]}]}}`)
	w.until(`document.querySelector('.tree [data-layer=panel]')`)
	w.exact()
	w.click(".tree [data-layer=panel]")
	w.click("button[aria-label='First frame']")
	w.click("[data-test=draw-way]")
	w.until(`document.querySelector('[data-test=pen-sheet]')`)
	w.axe("the pen of a way")
	w.press(300, 300)
	w.pull(900, 800, 200, 0)
	w.press(1500, 300)
	w.revised(func() { w.key(kb.Enter) })
	w.until(`document.querySelectorAll('[data-node]').length === 3`)
	w.axe("the points of a way")
	// Its middle stands on the way, at its ends and where it has come half as far.
	stands := func(frame int) (x, y float64) {
		t.Helper()
		p := eval[[]float64](t, w.Tab, fmt.Sprintf(`fetch('/api/drafts/' + location.pathname.split('/').pop() + '/layers/panel?format=landscape&frame=%d').then(r => r.json()).then(y => y.properties.find(p => p.path === 'layers/panel/place').now)`, frame))
		return p[0] + 960, p[1] + 540
	}
	frames := eval[int](t, w.Tab, `fetch('/api/drafts/' + location.pathname.split('/').pop()).then(r => r.json()).then(d => d.frames)`)
	near := func(frame int, x, y float64) {
		t.Helper()
		if gx, gy := stands(frame); math.Hypot(gx-x, gy-y) > 4 {
			t.Errorf("at frame %d it stands at %.0f, %.0f, not %g, %g", frame, gx, gy, x, y)
		}
	}
	near(0, 300, 300)
	near(frames-1, 1500, 300)
	x1, y1 := stands((frames - 1) / 4)
	x3, y3 := stands(frames - 1 - (frames-1)/4)
	if math.Abs(x1-300-(1500-x3)) > 8 || math.Abs(y1-y3) > 8 {
		t.Errorf("a quarter on it stands at %.0f, %.0f, a quarter before its end at %.0f, %.0f: the way is the same on both sides", x1, y1, x3, y3)
	}
	k := w.pin(0, 0)
	w.revised(func() { w.must(w.Drag(`[data-node="0"]`, 0, 150*k)) })
	near(0, 300, 450)
	w.click(`[data-node="1"]`)
	w.revised(func() { w.must(w.Drag(`[data-handle="1 out"]`, 0, 100*k)) })
	x, y := stands(frames / 3)
	at := eval[[]float64](t, w.Tab, `(() => { const p = document.querySelector('[data-test=points-line]'), q = p.getPointAtLength(p.getTotalLength() * 0.8); return [q.x, q.y] })()`)
	w.revised(func() { w.press(at[0], at[1]) })
	w.until(`document.querySelectorAll('[data-node]').length === 4 && document.querySelectorAll('.node.on').length === 1`)
	near(frames/3, x, y) // it goes on as it went
	near(frames-1, 1500, 300)
	w.revised(func() { w.click("[data-points=corner]") })
	w.revised(func() { w.key(kb.ArrowUp) })
	w.revised(func() { w.key(kb.Delete) })
	w.until(`document.querySelectorAll('[data-node]').length === 3`)
	if got := eval[bool](t, w.Tab, `!!document.querySelector('[data-points=join], [data-points=open]')`); got {
		t.Error("a way is offered to be broken")
	}
	for range 6 { // what the corner, the arrow, Delete, the added point, the handle and the drag did
		w.revised(func() { w.ctrl("z") })
	}
	near(0, 300, 300)
	w.click("[data-test=path-done]")
	// A mask goes a way of its own.
	w.click("[data-parts=masks] [data-part=m] .name")
	w.click("[data-parts=masks] [data-test=draw-way]")
	w.until(`document.querySelector('[data-test=pen-sheet]')`)
	w.press(300, 280)
	w.press(340, 320)
	w.revised(func() { w.key(kb.Enter) })
	if got := w.forms("panel", `f.filter(x => x.way).map(x => x.path + ' ' + x.nodes.length).join(', ')`); got != "layers/panel/motion/place 3, layers/panel/masks/m/motion/place 2" {
		t.Errorf("ways are %s", got)
	}
}

// A star is drawn as a mask, moved, softened and grown by its knobs, as its numbers say; masks are
// combined, ordered and switched; treatments are added, and masked in turn.
func TestMasksAreDrawnAndSoftened(t *testing.T) {
	t.Parallel()
	w, _, _ := atBench(t, t.TempDir(), "Masks")
	w.op(`{kind: 'add', into: 'layers', at: 0, part: {id: 'panel', name: 'Panel', kind: 'shape', fill: '#c9b88c', size: [1200, 800]}}`)
	w.until(`document.querySelector('.tree [data-layer=panel]')`)
	w.exact()
	w.click(".tree [data-layer=panel]")
	w.until(`document.querySelector('[data-test=add-masks]')`)
	add := func(name string) {
		w.click("[data-test=add-masks]")
		w.option(".n-dropdown-option-body", name)
		w.until(`document.querySelector('[data-test=masking]')`)
	}
	add("Star")
	w.revised(func() { w.pull(700, 300, 500, 400) })
	w.until(`document.querySelector('[data-mask-knob=feather]')`)
	w.axe("a mask on the stage")
	k := w.pin(0, 0)
	number := func(name string) float64 {
		t.Helper()
		return eval[float64](t, w.Tab, `fetch('/api/drafts/' + location.pathname.split('/').pop() + '/layers/panel?format=landscape&frame=0').then(r => r.json()).then(y => y.properties.find(p => p.path === 'layers/panel/masks/m1/`+name+`').rest[0])`)
	}
	w.revised(func() { w.must(w.Drag("[data-mask-knob=feather]", 48*k, 0)) })
	if n := number("feather"); math.Abs(n-48) > 3 {
		t.Errorf("its feather is %g", n)
	}
	w.revised(func() { w.must(w.Drag("[data-mask-knob=growth]", 0, -30*k)) })
	if n := number("growth"); math.Abs(n-30) > 3 {
		t.Errorf("its growth is %g", n)
	}
	at := number("place")
	w.revised(func() { w.must(w.Drag("[data-test=mask-body]", 80*k, 0)) })
	if n := number("place"); math.Abs(n-at-80) > 9 { // it may be drawn to a line
		t.Errorf("it went from %g to %g", at, n)
	}
	add("Ellipse")
	w.revised(func() { w.press(960, 540) }) // as large as the layer
	w.until(`document.querySelectorAll('[data-parts=masks] [data-part]').length === 2`)
	order := func() string {
		return eval[string](t, w.Tab, `[...document.querySelectorAll('[data-parts=masks] [data-part]')].map(e => e.dataset.part + (e.classList.contains('off') ? ' off' : '')).join(', ')`)
	}
	w.until(`document.querySelector('[data-part=m2].on')`)
	w.revised(func() { w.click("[data-switch=m2]") })
	w.until(`document.querySelector('[data-part=m2].off')`)
	w.must(w.Until(`document.querySelector('[data-part=m2] .grip').focus() || true`, patience))
	w.revised(func() { w.must(w.Press(kb.ArrowUp, 1)) }) // with Alt
	w.until(`document.querySelector('[data-parts=masks] [data-part]').dataset.part === 'm2'`)
	if got := order(); got != "m2 off, m1" {
		t.Errorf("masks are %s", got)
	}
	w.revised(func() { w.click("[data-remove-part=m2]") })
	w.revised(func() {
		w.click("[data-test=add-treatments]")
		w.option(".n-dropdown-option-body", "Drop shadow")
	})
	w.until(`document.querySelector('[data-part=shadow]')`)
	w.click("[data-part=shadow] .name")
	w.until(`document.querySelector('[data-part=shadow] [data-offer]')`)
	w.revised(func() { w.click("[data-part=shadow] [data-offer='layers/panel/treatments/shadow/radius']") })
	if got := w.draft(`d.sheet.flatMap(g => g.entries).map(e => e.label).join()`); got != "Radius of the drop shadow of Panel" {
		t.Errorf("on the sheet is %q", got)
	}
	w.axe("a layer with a mask and a treatment")

	// The treatment is masked in turn: by a form, and by a path with its points.
	within := func(name string) {
		w.click("[data-test=add-within]")
		w.option(".n-dropdown-option-body", name)
	}
	inside := func(js string) string {
		t.Helper()
		return w.forms("panel", `((f) => `+js+`)(f.filter(x => x.path.startsWith('layers/panel/treatments/shadow/')))`)
	}
	within("Ellipse")
	w.until(`document.querySelector('[data-test=masking]')`)
	w.revised(func() { w.pull(900, 500, 300, 200) })
	w.until(`document.querySelector('[data-parts=within] [data-part=m1].on') && !document.querySelector('[data-parts=masks] [data-part=m1].on')`)
	w.revised(func() { w.must(w.Drag("[data-mask-knob=feather]", 40*k, 0)) })
	if got := inside(`f.length + ' ' + f[0].kind + ' ' + (Math.abs(f[0].feather - 40) < 3)`); got != "1 ellipse true" {
		t.Errorf("the shadow is done within %s", got)
	}
	within("Draw a path")
	w.until(`document.querySelector('[data-test=pen-sheet]')`)
	w.press(700, 250)
	w.press(1300, 540)
	w.press(700, 830)
	w.revised(func() { w.press(700, 250) })
	w.click("[data-parts=within] [data-points-of=m2]")
	w.until(`document.querySelectorAll('[data-node]').length === 3`)
	w.revised(func() { w.must(w.Drag(`[data-node="1"]`, 60*k, 30*k)) })
	w.click("[data-test=path-done]")
	if got := inside(`f.length + ' ' + f[1].nodes.length`); got != "2 3" {
		t.Errorf("then it is done within %s", got)
	}
	// One key shows what is open as if it were not there.
	w.until(`document.querySelector('[data-test=before]').getAttribute('aria-label').includes('without this mask')`)
	w.click("[data-parts=within] [data-switch=m2]")
	w.until(`document.querySelector('[data-parts=within] [data-part=m2].off')`)
	w.revised(func() { w.click("[data-parts=within] [data-offer='layers/panel/treatments/shadow/masks/m2/opacity']") })
	if got := w.draft(`d.sheet.flatMap(g => g.entries).map(e => e.label).join()`); got != "Radius of the drop shadow of Panel,Opacity of the mask of Panel" {
		t.Errorf("on the sheet is %q", got)
	}
	w.axe("a treatment within masks")
}
