package e2e

import (
	"fmt"
	"math"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// to puts the playhead on a frame.
func (w walker) to(frame int) {
	w.Helper()
	for range 30 {
		now := eval[int](w.TB, w.Tab, `Number(document.querySelector('.time [data-test=frame]').innerText)`)
		d := frame - now
		if d == 0 {
			return
		}
		key, held := kb.ArrowRight, []chromedp.Modifier{}
		if d < 0 {
			key = kb.ArrowLeft
		}
		if d >= 10 || d <= -10 {
			held = []chromedp.Modifier{chromedp.ModifierShift}
		}
		eval[bool](w.TB, w.Tab, `document.querySelector('.clothstrip').focus() || true`)
		w.must(w.Press(key, held...))
		w.until(fmt.Sprintf(`Number(document.querySelector('.time [data-test=frame]').innerText) !== %d`, now))
	}
	w.Fatalf("frame %d was not come to", frame)
}

// keysOf are the instants of the keys of a property, as the bench is told.
func (w walker) keysOf(path string) string {
	w.Helper()
	return w.draft(fmt.Sprintf(`d.layers.flatMap(y => y.tracks).filter(t => t.path === '%s').flatMap(t => t.keys.map(k => k.at)).join(' ')`, path))
}

// seen is a number of a property at a frame.
func (w walker) seen(layer, property string, frame, i int) float64 {
	w.Helper()
	return eval[float64](w.TB, w.Tab, fmt.Sprintf(`fetch('/api/drafts/' + location.pathname.split('/').pop() + '/layers/%s?format=landscape&frame=%d').then(r => r.json()).then(y => y.properties.find(p => p.name === '%s').now[%d])`, layer, frame, property, i))
}

// Motion is recorded on the stage and worked on over the strip: keys are dragged, boxed, scaled, reversed, copied onto
// another layer, eased by handles; the curve and the picture agree; all of it is taken back.
func TestMotionIsMadeOnTheBench(t *testing.T) {
	t.Parallel()
	w, _, _ := atBench(t, t.TempDir(), "Keys")
	w.op(`{kind: 'batch', ops: [
		{kind: 'add', into: 'layers', at: 0, part: {id: 'low', name: 'Low', kind: 'ground', fill: '#204060'}},
		{kind: 'add', into: 'layers', at: 1, part: {id: 'a', name: 'First', kind: 'shape', fill: '#c01030', size: [200, 200], place: [-500, 0]}},
		{kind: 'add', into: 'layers', at: 2, part: {id: 'b', name: 'Second', kind: 'shape', fill: '#c9b88c', size: [100, 100], place: [0, 400]}}]}`)
	w.until(`document.querySelector('.tree [data-layer=b]')`)
	w.exact()
	first := eval[string](t, w.Tab, `fetch('/api/drafts/' + location.pathname.split('/').pop() + '/document').then(r => r.text())`)
	steps := 0
	done := func(do func()) { t.Helper(); w.revised(do); steps++ }

	// Recorded: off it moves as a whole, on it gets keys.
	w.click(".tree [data-layer=a]")
	w.to(10)
	w.key("r")
	w.until(`document.querySelector('[data-test=recording]').innerText.includes('frame 10') && document.querySelector('[data-test=record]').getAttribute('aria-pressed') === 'true'`)
	done(func() { w.pull(460, 540, 100, 0) })
	w.to(40)
	done(func() { w.pull(560, 540, 800, -200) })
	if got := w.keysOf("layers/a/place"); got != "10 40" {
		t.Fatalf("recorded were keys at %s", got)
	}
	if x, y := w.seen("a", "place", 10, 0), w.seen("a", "place", 40, 1); math.Abs(x+400) > 2 || math.Abs(y+200) > 2 {
		t.Errorf("it stands at %g and %g", x, y)
	}
	// A number that is typed is a key, too.
	builder{w}.find("turn")
	done(func() { w.set("turn", 0, "45") })
	if got := w.keysOf("layers/a/turn"); got != "40" {
		t.Errorf("keys of its turn: %s", got)
	}
	w.key("r")
	w.until(`!document.querySelector('[data-test=recording]') && document.querySelector('[data-test=shifts]')`)
	was := w.seen("a", "place", 10, 0)
	done(func() { w.pull(1360, 340, 0, 60) })
	if got := w.keysOf("layers/a/place"); got != "10 40" || math.Abs(w.seen("a", "place", 10, 0)-was) > 1 || math.Abs(w.seen("a", "place", 10, 1)-60) > 2 {
		t.Errorf("shifted, its keys are at %s", got)
	}

	// Over the strip each property has a row with leaves.
	w.key("t")
	w.until(`document.querySelector('[data-bar=a]')`)
	w.must(w.Press("M", chromedp.ModifierShift))
	w.until(`document.querySelectorAll('[data-key]').length === 3`)
	w.axe("keys over the strip")
	px := eval[float64](t, w.Tab, `document.querySelector('.clothstrip').getBoundingClientRect().width / 250`)
	key := func(path, id string) string { return fmt.Sprintf(`[data-key="layers/a/motion/%s/%s"]`, path, id) }
	done(func() { w.must(w.Drag(key("place", "k2"), 21*px, 0)) })
	if got := w.keysOf("layers/a/place"); got != "10 61" {
		t.Errorf("dragged, keys are at %s", got)
	}
	// A box around all of the rows picks all three; they go on by keys, and their time is scaled by its end.
	w.until(`document.querySelector('[data-track="layers/a/turn"]')`)
	box := eval[[]float64](t, w.Tab, `(() => { const r = document.querySelector('[data-track="layers/a/place"]').getBoundingClientRect(), q = document.querySelector('[data-track="layers/a/turn"]').getBoundingClientRect(); let p = document.getElementById('pin2') || document.body.appendChild(document.createElement('i')); p.id = 'pin2'; p.style = 'position:fixed;pointer-events:none;width:0;height:0;left:' + (r.x + 150 * `+fmt.Sprint(px)+`) + 'px;top:' + (r.y + 2) + 'px'; return [r.y, q.bottom] })()`)
	w.must(w.Drag("#pin2", -145*px, box[1]-box[0]-5))
	w.until(`document.querySelector('[data-test=keys-bar]').innerText.startsWith('3 keys, frames 10 to 61')`)
	done(func() { w.must(w.Press(kb.ArrowRight, chromedp.ModifierShift)) })
	if got := w.keysOf("layers/a/place") + ", " + w.keysOf("layers/a/turn"); got != "20 71, 50" {
		t.Errorf("moved on by keys they are at %s", got)
	}
	w.until(`document.querySelector('[data-test=keys-bar]').innerText.startsWith('3 keys, frames 20 to 71')`)
	done(func() { w.must(w.Drag("[data-test=keys-to]", 49*px, 0)) })
	if got := w.keysOf("layers/a/place") + ", " + w.keysOf("layers/a/turn"); got != "20 120, 79" {
		t.Errorf("scaled they are at %s", got)
	}
	done(func() { w.click("[data-test=keys-reverse]") })
	if got := w.keysOf("layers/a/place") + ", " + w.keysOf("layers/a/turn"); got != "20 120, 61" {
		t.Errorf("reversed they are at %s", got)
	}
	done(func() { w.click("[data-test=keys-reverse]") })

	// Copied onto the other layer at the playhead, it goes the same way from where it stands.
	w.ctrl("c")
	w.until(`localStorage.getItem('ivy-clip')?.includes('"ivypocket":"keys"')`)
	w.click(".tree [data-layer=b]")
	w.to(50)
	done(func() { w.ctrl("v") })
	if got := w.keysOf("layers/b/place") + ", " + w.keysOf("layers/b/turn"); got != "50 150, 109" {
		t.Errorf("pasted they are at %s", got)
	}
	w.until(`document.querySelector('[data-test=keys-bar]').innerText.startsWith('3 keys, frames 50 to 150')`)
	done(func() { w.key(kb.Delete) })
	if got := w.keysOf("layers/b/place"); got != "" {
		t.Errorf("taken away there are %s", got)
	}

	// From key to key; the one there is picked, and its easing is set in the panel.
	w.click(".tree [data-layer=a]")
	w.to(0)
	w.key("n")
	w.until(`document.querySelector('.time [data-test=frame]').innerText === '20' && document.querySelector('[data-test=keys-panel]')`)
	done(func() { w.click("[data-way=curve]") })
	done(func() { w.click("[data-easing=gust]") })
	half := w.seen("a", "place", 35, 0)
	done(func() { w.must(w.Drag("[data-handle='0']", -40, 0)) })
	if now := w.seen("a", "place", 35, 0); now-half < 8 {
		t.Errorf("eased less hard it is at %g at frame 35, not far from %g", now, half)
	}
	w.until(`!document.querySelector('.n-message')`)
	w.axe("the panel of keys")

	done(func() { w.click("[data-easing=breath]") })

	// In the curves, with the speed below: a handle there changes how fast it goes, and neither end.
	w.key("m")
	w.until(`document.querySelectorAll('[data-curve-handle]').length > 0`)
	w.axe("curves")
	ends := [2]float64{w.seen("a", "place", 20, 0), w.seen("a", "place", 120, 0)}
	before := w.seen("a", "place", 100, 0)
	done(func() { w.must(w.Drag(`[data-curve-handle="layers/a/motion/place/k1 0 1 speed"]`, 0, -30)) })
	if now := w.seen("a", "place", 100, 0); math.Abs(now-before) < 3 {
		t.Errorf("faster at its end it is at %g at frame 100, was %g", now, before)
	}
	if now := [2]float64{w.seen("a", "place", 20, 0), w.seen("a", "place", 120, 0)}; now != ends {
		t.Errorf("its ends are at %g, were at %g", now, ends)
	}
	// The curve says what the picture shows, at a frame between keys.
	w.to(60)
	w.exact()
	want := eval[float64](t, w.Tab, `fetch('/api/drafts/' + location.pathname.split('/').pop() + '/curves', {method: 'POST', headers: {'Content-Type': 'application/json'}, body: JSON.stringify({format: 'landscape', paths: ['layers/a/place']})}).then(r => r.json()).then(([c]) => { const i = c.points.findIndex(p => p[0] >= 60), [p, q] = [c.points[i - 1], c.points[i]]; return p[1] + (q[1] - p[1]) * (60 - p[0]) / (q[0] - p[0]) })`)
	got := eval[float64](t, w.Tab, `(() => { const c = document.querySelector('canvas'), k = c.width / 1920; const d = c.getContext('2d').getImageData(0, 0, c.width, c.height).data; let sum = 0, n = 0; for (let i = 0; i < d.length; i += 4) if (d[i] > 150 && d[i + 1] < 60) { sum += (i / 4) % c.width + 0.5; n++ } return n ? sum / n / k - 960 : -9999 })()`)
	if math.Abs(got-want) > 2 {
		t.Errorf("the picture shows it at %g, the curve says %g", got, want)
	}
	// A key's value and instant are dragged at once.
	done(func() { w.must(w.Drag(`[data-curve-key="layers/a/motion/place/k2 0"]`, 10*px, 25)) })
	if k := w.keysOf("layers/a/place"); k != "20 130" || w.seen("a", "place", 130, 0) >= ends[1]-10 {
		t.Errorf("dragged it is at frames %s, %g", k, w.seen("a", "place", 130, 0))
	}
	w.key("m")

	// All of it is taken back.
	for range steps {
		w.revised(func() { w.ctrl("z") })
	}
	if now := eval[string](t, w.Tab, `fetch('/api/drafts/' + location.pathname.split('/').pop() + '/document').then(r => r.text())`); now != first {
		t.Errorf("taken back it is\n%s\nnot\n%s", now, first)
	}
}

// The time that is seen is looked at closer with the wheel, gone along, and all of it again by a press; of a layer by a
// key. What is scrubbed, dragged and played stays right.
func TestTimeIsLookedAtCloser(t *testing.T) {
	t.Parallel()
	w, _, _ := atBench(t, t.TempDir(), "Zoom")
	w.op(`{kind: 'add', into: 'layers', at: 0, part: {id: 'a', name: 'First', kind: 'shape', fill: '#c01030', size: [200, 200], in: 100, out: 140, motion: {turn: {keys: [{at: 110, value: 0}, {at: 130, value: 90}]}}}}`)
	w.until(`document.querySelector('.tree [data-layer=a]')`)
	w.key("t")
	w.until(`document.querySelector('[data-bar=a]')`)
	w.click("[data-bar=a]")
	w.key("T")
	w.until(`document.querySelector('[data-test=time-window]')`)
	seen := eval[[]float64](t, w.Tab, `(() => { const b = document.querySelector('[data-bar=a]').getBoundingClientRect(), s = document.querySelector('.clothstrip').getBoundingClientRect(); return [(b.left - s.left) / s.width, b.width / s.width] })()`)
	if seen[0] < 0.03 || seen[0] > 0.15 || seen[1] < 0.7 {
		t.Errorf("the bar lies at %g of what is seen", seen)
	}
	// What is pressed is what lies there.
	w.must(w.ClickAt(".clothstrip", 0.5, 0.5))
	w.until(`Math.abs(Number(document.querySelector('.time [data-test=frame]').innerText) - 120) < 3`)
	per := eval[float64](t, w.Tab, `document.querySelector('[data-bar=a]').getBoundingClientRect().width / 40`)
	w.revised(func() { w.must(w.Drag("[data-bar-out=a]", -10*per, 0)) })
	if got := w.draft(`d.layers[0].until`); got != "130" {
		t.Errorf("trimmed it ends at %s", got)
	}
	// The wheel looks closer still where the pointer is; with Shift it goes along.
	wheel := func(more string) float64 {
		return eval[float64](t, w.Tab, `(() => { const s = document.querySelector('.clothstrip'), r = s.getBoundingClientRect(); s.dispatchEvent(new WheelEvent('wheel', {clientX: r.left + r.width / 2, clientY: r.top + 9, bubbles: true, cancelable: true, `+more+`})); return 0 })()`)
	}
	wheel("ctrlKey: true, deltaY: -300")
	w.until(fmt.Sprintf(`document.querySelector('[data-bar=a]').getBoundingClientRect().width > %g`, 30*per*1.2))
	was := eval[string](t, w.Tab, `document.querySelector('[data-test=time-all]').innerText`)
	wheel("shiftKey: true, deltaY: 200")
	w.until(`document.querySelector('[data-test=time-all]').innerText !== ` + quoted(was))
	// The playhead is followed.
	w.to(140)
	w.until(`(() => { const n = document.querySelector('.needle'); return n.style.display !== 'none' && n.getBoundingClientRect().left < document.querySelector('.clothstrip').getBoundingClientRect().right })()`)
	w.click("[data-test=time-all]")
	w.until(`!document.querySelector('[data-test=time-window]')`)
}

// Twelve panels enter by a ready move, one after the other from the middle out; backwards they leave as they came. What is
// seen before and after is laid over; played at half speed a second takes two. All is taken back.
func TestTwelveLayersAreStaggered(t *testing.T) {
	t.Parallel()
	w, _, _ := atBench(t, t.TempDir(), "Panels")
	ops := ""
	for i := range 12 {
		ops += fmt.Sprintf(`{kind: 'add', into: 'layers', at: %d, part: {id: 'p%d', name: 'Panel %d', kind: 'shape', fill: '#c0%02x30', size: [150, 1080], place: [%d, 0]}},`, i, i, i+1, 20*i, -880+160*i)
	}
	w.op(`{kind: 'batch', ops: [` + ops + `]}`)
	w.until(`document.querySelectorAll('.tree [data-layer]').length === 12`)
	w.exact()
	first := eval[string](t, w.Tab, `fetch('/api/drafts/' + location.pathname.split('/').pop() + '/document').then(r => r.text())`)
	w.to(0)
	w.click(".tree [data-layer=p0]")
	w.ctrl("a")
	w.until(`document.querySelector('[data-test=moves]')`)
	w.click("[data-test=moves] summary")
	w.until(`document.querySelectorAll('[data-move]').length === 11`)
	w.click("[data-move=enter]")
	w.axe("ready moves")
	eval[bool](t, w.Tab, `document.querySelector('[data-word=side-below]').closest('label, .n-radio-button').click() || true`)
	w.revised(func() { w.click("[data-test=put-move]") })
	w.until(`document.querySelector('[data-test=keys-panel]') && document.querySelector('[data-test=stagger]')`)
	begins := func(want string) {
		t.Helper()
		if got := w.draft(`d.layers.map(y => Math.min(...y.tracks[0].keys.map(k => k.at))).join(' ')`); got != want {
			t.Errorf("they begin at %s, not %s", got, want)
		}
	}
	begins("0 0 0 0 0 0 0 0 0 0 0 0")
	eval[bool](t, w.Tab, `(document.querySelector('[data-test=stagger-order]').scrollIntoView({block: 'center'}), true)`)
	w.click("[data-test=stagger-order] .n-base-selection")
	w.revised(func() { w.option(".n-base-select-option", "from the middle out") })
	begins("20 16 12 8 4 0 0 4 8 12 16 20")
	w.exact()
	// Half-way there the middle ones stand higher than those at the sides.
	w.to(10)
	if in, out := w.seen("p5", "place", 10, 1), w.seen("p1", "place", 10, 1); !(in < out && out > 900) {
		t.Errorf("at frame 10 they stand at %g and %g", in, out)
	}
	w.until(`document.querySelector('[data-test=backwards]')`)
	w.revised(func() { w.click("[data-test=backwards]") })
	begins("0 4 8 12 16 20 20 16 12 8 4 0")
	// The frames before and after are laid over the picture, and go with it.
	w.key("O")
	w.until(`(() => { const c = document.querySelector('[data-test=onion-skin]'); return c && (` + pixels + `)(c, 0, 0, c.width, c.height).some(v => v > 0) })()`)
	w.key("O")
	w.until(`!document.querySelector('[data-test=onion-skin]')`)
	w.click("[data-test=pace]")
	w.until(`document.querySelector('[data-test=pace]').innerText === '½×'`)
	w.key("l")
	w.until(`document.querySelector('.stage').innerText.includes('½×')`)
	w.key("k")
	for range 3 {
		w.revised(func() { w.ctrl("z") })
	}
	if now := eval[string](t, w.Tab, `fetch('/api/drafts/' + location.pathname.split('/').pop() + '/document').then(r => r.text())`); now != first {
		t.Errorf("taken back it is\n%s\nnot\n%s", now, first)
	}
}
