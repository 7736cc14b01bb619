package e2e

import (
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// Slowness may delay what people do; it may never lose it, take letters for commands, or do to one layer what was meant for another.
func TestSlowAnswersLoseNothing(t *testing.T) {
	t.Parallel()
	for name, late := range map[string]time.Duration{"a third of a second": 300 * time.Millisecond, "three seconds": 3 * time.Second} {
		t.Run(name, func(t *testing.T) { slowly(t, late) })
	}
}

func slowly(t *testing.T, late time.Duration) {
	w, _, _ := atBench(t, t.TempDir(), "Notice")
	w.op(`{kind: 'insert', way: 'shape', path: 'rectangle', format: 'landscape'}`)
	w.until(`document.querySelector('.tree [data-layer=panel]')`)
	w.click(`.tree [data-layer=panel]`)
	w.exact()
	w.must(w.Slow(late))
	document := func(js string) {
		t.Helper()
		w.until(`fetch('/api/drafts/' + location.pathname.split('/').pop() + '/document').then(r => r.json()).then(d => ` + js + `)`)
	}
	// Letters that are commands elsewhere: hide, loop, record, next cue.
	w.must(w.Press("W", chromedp.ModifierShift))
	w.until(`document.querySelector('[data-test=drawing]')`)
	w.pull(300, 300, 900, 300)
	w.key("Hats, a Rope. MR")
	document(`d.layers.find(y => y.id === 'words')?.text === 'Hats, a Rope. MR' && !d.layers.some(y => y.hidden)`)
	if eval[bool](t, w.Tab, `!!document.querySelector('[data-test=recording], [data-test=loop]')`) {
		t.Error("letters of the words were taken for commands")
	}
	w.key(kb.Escape)

	// Somebody goes on elsewhere before the words are there: they say what was typed, and nothing takes the selection away.
	w.must(w.Press("W", chromedp.ModifierShift))
	w.until(`document.querySelector('[data-test=drawing]')`)
	w.pull(300, 700, 900, 300)
	w.key("Low tide")
	w.click(`.tree [data-layer=panel]`)
	document(`d.layers.find(y => y.id === 'words-2')?.text === 'Low tide'`)
	w.until(`document.querySelector('.tree [data-layer=words-2]')`)
	if got := eval[string](t, w.Tab, `[...document.querySelectorAll('.tree .layer.on')].map(e => e.dataset.layer).join()`); got != "panel" {
		t.Errorf("the answer left %s selected", got)
	}

	// What is asked for at once is about what is on its way, not about what was selected before.
	w.must(w.Press("C", chromedp.ModifierShift))
	w.until(`document.querySelector('[data-test=drawing]')`)
	w.pull(1300, 300, 300, 300)
	w.key("h")
	document(`d.layers.find(y => y.form?.kind === 'ellipse')?.hidden && !d.layers.find(y => y.id === 'panel').hidden`)

	// A sentence in the panel, and the page read anew in the middle of it.
	w.click(`.tree [data-layer=words]`)
	const field = `[data-property=text] textarea`
	w.until(`document.querySelector('` + field + `')`)
	w.click(field)
	w.ctrl("a")
	const sentence = "Kites over the marsh are counted at noon, at four and when the wind turns"
	for _, c := range sentence {
		w.key(string(c))
	}
	w.until(`document.querySelector('` + field + `').value === ` + quoted(sentence))
	document(`d.layers.find(y => y.id === 'words').text === ` + quoted(sentence))
	w.key("; bring a hat")
	w.must(w.Go(eval[string](t, w.Tab, `location.href`)))
	document(`d.layers.find(y => y.id === 'words').text === ` + quoted(sentence+"; bring a hat"))
}
