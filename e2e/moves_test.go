package e2e

import (
	"fmt"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// A ready move is performed by three panels, spread on one line, slid and drawn out on the strip; its key is dragged through
// one and moved for all. Its length is offered and tried by an editor's eyes; it is made keys of, saved by a name, and
// performed anew; a plain move has no keys. All is taken back.
func TestMovesArePerformed(t *testing.T) {
	t.Parallel()
	w, _, _ := atBench(t, t.TempDir(), "Sails")
	ops := ""
	for i := range 3 {
		ops += fmt.Sprintf(`{kind: 'add', into: 'layers', at: %d, part: {id: 'p%d', name: 'Panel %d', kind: 'shape', fill: '#c0%02x30', size: [300, 700], place: [%d, 0]}},`, i, i, i+1, 60*i, -600+600*i)
	}
	w.op(`{kind: 'batch', ops: [` + ops + `]}`)
	w.until(`document.querySelectorAll('.tree [data-layer]').length === 3`)
	w.exact()
	document := func() string {
		return eval[string](t, w.Tab, `fetch('/api/drafts/' + location.pathname.split('/').pop() + '/document').then(r => r.text())`)
	}
	first, steps := document(), 0
	done := func(do func()) { t.Helper(); w.revised(do); steps++ }
	performs := func(want string) {
		t.Helper()
		if got := w.draft(`d.layers.map(y => y.performs.map(p => p.from + '-' + p.until).join('+')).join(' ')`); got != want {
			t.Errorf("they perform at %s, not %s", got, want)
		}
	}
	w.to(0)
	w.click(".tree [data-layer=p0]")
	w.ctrl("a")
	w.until(`document.querySelector('[data-test=moves]')`)
	w.click("[data-test=moves] summary")
	w.until(`document.querySelector('[data-move=enter]')`)
	w.click("[data-move=enter]")
	done(func() { w.click("[data-test=perform]") })
	performs("0-20 0-20 0-20")
	w.until(`document.querySelector('[data-test=stagger-line] [data-test=stagger-spread]')`)
	w.axe("moves that are performed")
	focus := func(sel string) {
		t.Helper()
		if !eval[bool](t, w.Tab, fmt.Sprintf(`(() => { const e = document.querySelector(%q); e?.scrollIntoView({ block: 'center' }); e?.focus(); return document.activeElement === e })()`, sel)) {
			t.Fatalf("%s takes no keys", sel)
		}
	}
	focus("[data-test=stagger-spread]")
	done(func() { // a burst is one change
		w.must(w.Press(kb.ArrowRight, chromedp.ModifierShift))
		w.must(w.Press(kb.ArrowRight, chromedp.ModifierShift))
	})
	performs("0-20 10-30 20-40")
	eval[bool](t, w.Tab, `(document.querySelector('[data-test=stagger-line]').scrollIntoView({ block: 'center' }), true)`)
	done(func() { w.must(w.Drag("[data-test=stagger-spread]", 40, 0)) })
	last := w.draft(`d.layers[2].performs[0].from`)
	if last == "20" || w.draft(`d.layers[1].performs[0].from * 2 - d.layers[2].performs[0].from`) != "0" && w.draft(`Math.abs(d.layers[1].performs[0].from * 2 - d.layers[2].performs[0].from)`) != "1" {
		t.Errorf("spread by hand the last begins at %s, the second at %s", last, w.draft(`d.layers[1].performs[0].from`))
	}
	done(func() { w.ctrl("z") })
	steps -= 2

	// On the strip.
	eval[bool](t, w.Tab, `(document.querySelector('[data-test=bars-grip]').dispatchEvent(new MouseEvent('click', { bubbles: true, detail: 0 })), true)`)
	const bar = `[data-performance="layers/p0/moves/m1"] .bar`
	w.until(`document.querySelector('` + bar + `')`)
	done(func() { w.must(w.Drag(bar, 60, 0)) })
	from := w.draft(`d.layers[0].performs[0].from`)
	if from == "0" {
		t.Error("dragged it begins where it began")
	}
	focus(bar)
	done(func() { w.must(w.Press(kb.ArrowRight, chromedp.ModifierAlt)) })
	if got := w.draft(`d.layers[0].performs[0].until - d.layers[0].performs[0].from`); got != "21" {
		t.Errorf("drawn out by a key it takes %s frames", got)
	}
	w.click(`[data-performance-keys="layers/p0/moves/m1"]`)
	const leaf = `[data-key="layers/p0/moves/m1/motion/place/k2"]`
	w.until(`document.querySelector('` + leaf + `')`)
	was := w.keysOf("layers/p2/moves/m1/place")
	done(func() { w.must(w.Drag(leaf, -40, 0)) })
	if now := w.keysOf("layers/p2/moves/m1/place"); now == was {
		t.Errorf("its key moved for one, for the other it stands at %s still", now)
	}
	w.exact()

	// On the sheet.
	w.click(".tree [data-layer=p1]")
	w.until(`document.querySelector('[data-offer="layers/p1/moves/m1/length"]')`)
	eval[bool](t, w.Tab, `(document.querySelector('[data-parts=moves]').scrollIntoView(), true)`)
	w.until(`!document.querySelector('.n-message')`)
	w.axe("what a layer performs")
	done(func() { w.click(`[data-offer="layers/p1/moves/m1/length"]`) })
	if got := w.draft(`d.sheet.flatMap(g => g.entries).map(e => e.label).join()`); got != "Length of Enter from the left of Panel 2" {
		t.Errorf("the sheet asks for %q", got)
	}
	// Its keys, which are saved by a name.
	done(func() { w.click("[data-test=free-move]") })
	if got := w.draft(`d.layers[1].performs.length + ' ' + d.layers[1].tracks.map(t => t.path).join() + ' ' + d.sheet.length`); got != "0 layers/p1/place 0" && got != "0 layers/p1/place 1" {
		t.Errorf("made keys of there is %s", got)
	}
	w.until(`document.querySelector('[data-track="layers/p1/place"] .label')`)
	w.click(`[data-track="layers/p1/place"] .label`)
	w.until(`document.querySelector('[data-test=save-move]')`)
	w.click(`[aria-label="Save the picked keys as a move"]`)
	w.key("Glide")
	done(func() { w.key(kb.Enter) })
	if got := w.draft(`d.savedMoves.map(m => m.name + ' ' + m.uses).join()`); got != "Enter from the left 2,Glide 1" {
		t.Errorf("the moves are %s", got)
	}
	w.until(`document.querySelector('[data-test=add-moves]')`)
	eval[bool](t, w.Tab, `(document.querySelector('[data-test=add-moves]').scrollIntoView({ block: 'center' }), true)`)
	w.click("[data-test=add-moves]")
	done(func() { w.option(".n-dropdown-option-body", "A plain one: from, to") })
	w.exact()
	at := fmt.Sprint(eval[int](t, w.Tab, `Number(document.querySelector('.time [data-test=frame]').innerText)`))
	if got := w.draft(`d.layers[1].performs.map(p => p.kind + ' ' + p.from).join()`); got != "saved 10,plain "+at {
		t.Errorf("it performs %s", got)
	}
	// As it was a step before beside how it is: they stop at one frame, and another step is another picture.
	picture := func() string {
		return eval[string](t, w.Tab, `document.querySelector('[data-test=version-picture]').toDataURL()`)
	}
	shown := fmt.Sprintf(`document.querySelector('[data-test=version-picture]')?.dataset.frame === '%s'`, at)
	w.key("Z")
	w.until(shown)
	w.axe("two versions")
	w.click("[data-test=version-older]")
	w.until(`document.querySelector('[data-test=version] strong').innerText.includes('Make keys of')`)
	w.until(shown)
	w.to(45)
	w.until(`document.querySelector('[data-test=version-picture]').dataset.frame === document.querySelector('.time [data-test=frame]').innerText`)
	late := picture()
	for !eval[bool](t, w.Tab, `document.querySelector('[data-test=version-older]').disabled`) { // to before there was anything
		w.click("[data-test=version-older]")
	}
	w.until(fmt.Sprintf(`document.querySelector('[data-test=version-picture]').toDataURL() !== %q`, late))
	w.key("l")
	w.until(`Number(document.querySelector('[data-test=version-picture]').dataset.frame) > 20`)
	w.key("k")
	w.key("Z")
	w.until(`!document.querySelector('[data-test=version]')`)
	for range steps {
		w.revised(func() { w.ctrl("z") })
	}
	if now := document(); now != first {
		t.Errorf("taken back it is\n%s\nnot\n%s", now, first)
	}
}
