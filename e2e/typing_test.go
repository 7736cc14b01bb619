package e2e

import (
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// Undo takes back what is typed while it is typed, what was pasted too, and what was done before where nothing was typed.
// Two windows type different words at once; of the same words the first keeps its own, and the second is told.
func TestTypingIsUndoneAndSharedByWindows(t *testing.T) {
	t.Parallel()
	w, url, _ := atBench(t, t.TempDir(), "Notice")
	w.op(`{kind: 'insert', way: 'words', format: 'landscape'}`)
	w.op(`{kind: 'insert', way: 'words', format: 'landscape'}`)
	w.op(`{kind: 'rest', path: 'layers/words-2/place', value: [0, 300], format: 'landscape'}`)
	second, err := w.Another(1280, 800)
	w.must(err)
	t.Cleanup(second.Close)
	two := walker{t, second}
	w.must(second.Go(eval[string](t, w.Tab, `location.href`)))
	says := func(id, want string) {
		t.Helper()
		w.until(`fetch('/api/drafts/' + location.pathname.split('/').pop() + '/document').then(r => r.json()).then(d => d.layers.find(y => y.id === ` + quoted(id) + `).text === ` + quoted(want) + `)`)
	}
	field := func(w walker, want string) {
		t.Helper()
		w.until(`document.activeElement?.dataset.test === 'writing-field' && document.activeElement.value === ` + quoted(want))
	}
	open := func(w walker, id string) {
		t.Helper()
		w.until(`document.querySelector('.tree [data-layer="` + id + `"]')`)
		w.click(`.tree [data-layer="` + id + `"]`)
		w.key("e")
		w.until(`document.activeElement?.dataset.test === 'writing-field'`)
		w.must(w.Press("a", chromedp.ModifierCtrl))
	}
	both := func() {
		for i := range 8 {
			w.key("abcdefgh"[i : i+1])
			two.key("mnopqrst"[i : i+1])
		}
	}
	open(w, "words")
	open(two, "words-2")
	both()
	says("words", "abcdefgh")
	says("words-2", "mnopqrst")
	two.key(kb.Escape)
	paste := func(text string) {
		eval[bool](t, w.Tab, `(() => { const d = new DataTransfer(); d.setData('text/plain', `+quoted(text)+`); document.activeElement.dispatchEvent(new ClipboardEvent('paste', { clipboardData: d, bubbles: true, cancelable: true })); return true })()`)
	}
	paste(" one \t two")
	says("words", "abcdefghone two")
	w.must(w.Press("z", chromedp.ModifierCtrl))
	says("words", "abcdefgh")
	for range 12 { // as many steps as the browser makes of it
		if eval[string](t, w.Tab, `document.activeElement.value`) != "Words" {
			w.must(w.Press("z", chromedp.ModifierCtrl))
		}
	}
	field(w, "Words")
	says("words", "Words")
	w.key(kb.Escape)
	w.until(`!document.querySelector('[data-test=writing]')`)

	// Nothing was typed: what was done last goes back.
	w.revised(func() { w.click("[data-align=left]") })
	const undo = `document.querySelector('[aria-label=Undo]').title`
	aligned := eval[string](t, w.Tab, undo)
	open(w, "words")
	w.revised(func() { w.must(w.Press("z", chromedp.ModifierCtrl)) })
	w.until(undo + ` !== ` + quoted(aligned))
	w.must(w.Press("Z", chromedp.ModifierCtrl|chromedp.ModifierShift))
	w.until(undo + ` === ` + quoted(aligned))
	// The field follows what is undone and done again, also to what it has held before.
	w.must(w.Press("a", chromedp.ModifierCtrl))
	w.key("Tide")
	says("words", "Tide")
	w.key(kb.Escape)
	w.until(`!document.querySelector('[data-test=writing]')`)
	open(w, "words")
	field(w, "Tide")
	w.must(w.Press("z", chromedp.ModifierCtrl))
	field(w, "Words")
	w.must(w.Press("Z", chromedp.ModifierCtrl|chromedp.ModifierShift))
	field(w, "Tide")
	w.must(w.Press("a", chromedp.ModifierCtrl))

	open(two, "words")
	both()
	says("words", "abcdefgh")
	field(two, "abcdefgh")
	two.until(`[...document.querySelectorAll('.n-message')].some(m => m.innerText.includes('was changed by you in another window'))`)
	two.key(kb.Escape)

	// On a sheet's field, too: it is one line of at most 90 letters, whatever is pasted.
	w.must(w.Go(url))
	w.click("[data-template=wind-board] .picture")
	const sentence = "textarea[aria-label=Sentence]"
	w.until(`document.querySelector('` + sentence + `')`)
	holds := func(want string) {
		t.Helper()
		w.until(`document.querySelector('` + sentence + `').value === ` + quoted(want))
	}
	w.click(sentence)
	w.must(w.Press("a", chromedp.ModifierCtrl))
	paste("Kites \n come\tdown ")
	holds("Kites come down")
	w.must(w.Press("z", chromedp.ModifierCtrl))
	holds("A fresh wind from the west, kites fly until eight")
	w.must(w.Press("a", chromedp.ModifierCtrl))
	paste(strings.Repeat("kite ", 50))
	w.until(`[...document.querySelector('` + sentence + `').value].length === 90`)
	w.key(kb.Enter)
	w.until(`document.activeElement !== document.querySelector('` + sentence + `')`)
	w.until(`fetch('/api/pieces/' + location.pathname.split('/').pop()).then(r => r.json()).then(p => [...p.sheet.flatMap(g => g.entries).find(e => e.label === 'Sentence').value].length >= 89)`)
}
