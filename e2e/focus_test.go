package e2e

import (
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// Keys do what they stand for wherever somebody pressed last; the whole of a number's box is the number; and what somebody came to by keys
// keeps the keys that belong to it.
func TestKeysWorkWhereverOnePressedLast(t *testing.T) {
	t.Parallel()
	w, _, _ := atBench(t, t.TempDir(), "Keys")
	w.op(`{kind: 'batch', ops: [
		{kind: 'add', into: 'layers', at: 0, part: {id: 'low', name: 'Low', kind: 'shape', fill: '#204060', size: [900, 700]}},
		{kind: 'add', into: 'layers', at: 1, part: {id: 'a', name: 'A', kind: 'shape', fill: '#c06020', size: [200, 200], motion: {place: {unit: 'canvas', keys: [{id: 'k1', at: '0', value: [0, 0]}, {id: 'k2', at: '40', value: [0.1, 0]}]}}}}]}`)
	w.until(`document.querySelector('.tree [data-layer=a]')`)
	frame := func(n string) {
		t.Helper()
		w.until(`document.querySelector('.time [data-test=frame]').innerText === ` + quoted(n))
	}
	trimmed := func(want string) {
		t.Helper()
		w.until(`fetch('/api/drafts/' + location.pathname.split('/').pop()).then(r => r.json()).then(d => { const y = d.layers.find(y => y.id === 'a'); return y.from + ' ' + y.until }).then(s => s === ` + quoted(want) + `)`)
	}
	const plays = `document.querySelector('[data-test=play]').getAttribute('aria-label') === 'Stop'`

	// After a layer in the list.
	w.click(`.tree [data-layer=a]`)
	w.key(kb.Home)
	frame("0")
	w.key("f")
	w.must(w.Press("F", chromedp.ModifierShift))
	frame("11")
	w.key("d")
	frame("10")
	w.key(kb.Home)
	frame("0")
	w.key(" ")
	w.until(plays)
	w.key(" ")
	w.until(`!(` + plays + `)`)
	w.key(kb.Home)
	frame("0")

	// After the time strip: the playhead is put, and the selection trimmed to it.
	w.click(".clothstrip")
	for range 2 {
		w.must(w.Press(kb.ArrowRight, chromedp.ModifierShift))
	}
	at := eval[string](t, w.Tab, `document.querySelector('.time [data-test=frame]').innerText`)
	w.must(w.Press(kb.End, chromedp.ModifierShift))
	trimmed("0 " + eval[string](t, w.Tab, `String(Number(`+at+`) + 1)`))
	frame(at)
	// Space after a switch and a button that were pressed plays, and presses them no more.
	w.click("[data-test=clip-strips], [aria-label='First frame']")
	w.click("[aria-label='First frame']")
	w.key(" ")
	w.until(plays)
	w.key(" ")
	w.until(`!(` + plays + `)`)
	// By keys a button is pressed as everywhere.
	eval[bool](t, w.Tab, `(document.querySelector("[aria-label='First frame']").focus(), true)`)
	w.key(kb.Tab)
	w.must(w.Press(kb.Tab, chromedp.ModifierShift))
	w.key(" ")
	frame("0")
	if eval[bool](t, w.Tab, plays) {
		t.Error("a button that somebody came to by keys plays")
	}

	// All of a number's box, and its name, are the number.
	w.click(`.tree [data-layer=a]`)
	const box = `[data-property=opacity] .field`
	w.until(`document.querySelector('` + box + `')`)
	eval[bool](t, w.Tab, `(document.querySelector('`+box+`').scrollIntoView({ block: 'center' }), true)`)
	for _, spot := range [][2]float64{{0.08, 0.5}, {0.5, 0.12}} {
		w.must(w.ClickAt(box, spot[0], spot[1]))
		w.until(`document.activeElement.matches('` + box + ` input')`)
		w.key(kb.Escape)
		w.until(`!document.querySelector('` + box + ` input')`)
	}
	w.click(`[data-property=opacity] .name`)
	w.until(`document.activeElement.matches('` + box + ` input')`)
	w.ctrl("a")
	w.revised(func() { w.key("40\r") })
	if got := w.draft(`d.layers.length`); got != "2" {
		t.Errorf("%s layers", got)
	}
	// Two presses reset it, as they do on its digits.
	w.must(w.ClickAt(box, 0.1, 0.5))
	w.revised(func() { w.must(w.ClickAt(box, 0.1, 0.5)) })
	w.until(`document.querySelector('` + box + ` [role=spinbutton]')?.getAttribute('aria-valuenow') === '100'`)

	// Where keys are picked Ctrl A takes all of them, and arrows move them.
	w.key("t")
	w.must(w.Press("M", chromedp.ModifierShift))
	w.until(`document.querySelectorAll('[data-key]').length === 2`)
	w.click(`[data-key="layers/a/motion/place/k1"]`)
	w.until(`document.querySelector('[data-test=keys-bar]')?.innerText.startsWith('1 key')`)
	w.ctrl("a")
	w.until(`document.querySelector('[data-test=keys-bar]').innerText.startsWith('2 keys')`)
	w.revised(func() { w.must(w.Press(kb.ArrowRight, chromedp.ModifierShift)) })
	if got := w.keysOf("layers/a/place"); got != "10 50" {
		t.Errorf("keys are at %s", got)
	}
}
