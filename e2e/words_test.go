package e2e

import (
	"encoding/base64"
	"fmt"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"ivypocket/e2e/browser"
	"ivypocket/fonts"
)

// A designer types words on the picture, marks a phrase, gives them another face and a backing, rolls figures and offers
// what an editor shall change; the editor types on the picture as well. What is pasted comes in clean, undo takes typing
// back as one change, and letters that are joined or read from the right have their caret where they stand.
func TestWordsAreTypedOnThePicture(t *testing.T) {
	t.Parallel()
	w, _, _ := atBench(t, t.TempDir(), "Notice")
	w.op(`{kind: 'insert', way: 'ground', format: 'landscape'}`)
	w.op(`{kind: 'describe', path: 'category', name: 'Cards'}`)
	text := `d.layers.filter(y => y.kind === 'words').map(y => y.id).join()`
	w.must(w.Press("W", chromedp.ModifierShift))
	w.revised(func() { w.pull(300, 300, 1300, 480) })
	if got := w.draft(text); got != "words" {
		t.Fatalf("there are %q", got)
	}
	said := func(want string) {
		t.Helper()
		w.until(`fetch('/api/drafts/' + location.pathname.split('/').pop() + '/document').then(r => r.json()).then(d => d.layers.find(y => y.kind === 'words').text === ` + quoted(want) + `)`)
	}
	w.until(`document.activeElement?.dataset.test === 'writing-field'`)
	w.key("Kites fly until eight")
	said("Kites fly until eight")
	w.axe("typing on the picture")
	// Pasted text loses its stray blanks and line ends.
	w.must(w.Press(kb.End, chromedp.ModifierCtrl))
	eval[bool](t, w.Tab, `(() => { const d = new DataTransfer(); d.setData('text/plain', ',\t and  then\r\nnot'); document.activeElement.dispatchEvent(new ClipboardEvent('paste', { clipboardData: d, bubbles: true, cancelable: true })); return true })()`)
	said("Kites fly until eight, and then\nnot")
	w.must(w.Press("a", chromedp.ModifierCtrl))
	w.key("Kites fly until eight")
	said("Kites fly until eight")
	// A phrase is selected by keys and swept.
	w.must(w.Press(kb.Home, chromedp.ModifierCtrl))
	for range 2 {
		w.must(w.Press(kb.ArrowRight, chromedp.ModifierCtrl|chromedp.ModifierShift))
	}
	w.until(`document.querySelectorAll('[data-test=writing] .chosen').length === 1`)
	x := func() float64 {
		return eval[float64](t, w.Tab, `Number(document.querySelector('[data-test=caret]').getAttribute('x1'))`)
	}
	before := x()
	w.until(`document.querySelector('[data-test=add-highlights]')`)
	w.click("[data-test=add-highlights]")
	w.revised(func() { w.option(".n-dropdown-option-body", "A sweep behind") })
	if got := eval[string](t, w.Tab, `fetch('/api/drafts/' + location.pathname.split('/').pop() + '/document').then(r => r.json()).then(d => d.layers.find(y => y.kind === 'words').highlights.map(h => h.kind + ' ' + h.phrase).join())`); got != "sweep Kites fly" {
		t.Errorf("marked is %q", got)
	}
	if before <= 0 {
		t.Errorf("the caret stood at %g", before)
	}
	// Another face, found by its name, by keys.
	w.click(".tree [data-layer=words]")
	w.until(`document.querySelector('.panel [data-test=face]')`)
	w.click(".panel [data-test=face]")
	w.until(`document.querySelectorAll('[data-face]').length > 10`)
	w.axe("the list of faces")
	w.revised(func() { w.click("[data-face=bitter]") })
	w.exact()
	// From right to left: the caret goes left as letters come.
	w.key("e")
	w.until(`document.activeElement?.dataset.test === 'writing-field'`)
	w.must(w.Press("a", chromedp.ModifierCtrl))
	w.key("של")
	said("של")
	w.exact()
	right := x()
	w.key("ום")
	said("שלום")
	w.until(fmt.Sprintf(`Math.abs(Number(document.querySelector('[data-test=caret]').getAttribute('x1')) - %g) > 20`, right))
	// By an input method, what is being composed is seen, and what it becomes is kept.
	w.must(w.Press("a", chromedp.ModifierCtrl))
	w.must(w.Compose("凧", "t", "た", "たこ"))
	said("凧")
	w.must(w.Compose("揚げ", "あ", "あげ"))
	said("凧揚げ")
	w.must(w.Press("a", chromedp.ModifierCtrl))
	w.key("Kites fly until eight")
	said("Kites fly until eight")
	w.key(kb.Escape)
	w.until(`!document.querySelector('[data-test=writing]')`)

	// Figures that roll.
	w.op(`{kind: 'insert', way: 'counter', format: 'landscape'}`)
	w.op(`{kind: 'rest', path: 'layers/counter/figure.to', value: 1284.5, format: 'landscape'}`)
	w.op(`{kind: 'rest', path: 'layers/counter/figure.decimals', value: 1, format: 'landscape'}`)
	w.until(`document.querySelector('.tree [data-layer=counter]')`)
	w.exact()
	if first, last := w.frame("landscape", 0), w.frame("landscape", 99); first == last {
		t.Error("the figures stand still")
	}

	// Offered, released and filled.
	w.click(".tree [data-layer=words]")
	w.until(`document.querySelector("[data-offer='layers/words/text']")`)
	w.revised(func() { w.click("[data-offer='layers/words/text']") })
	w.revised(func() { w.click("[data-offer='layers/words/face']") })
	w.click(".tree [data-layer=counter]")
	w.until(`document.querySelector("[data-offer='layers/counter/figure.to']")`)
	w.revised(func() { w.click("[data-offer='layers/counter/figure.to']") })
	if got := w.draft(`d.sheet.flatMap(g => g.entries).map(e => e.kind).join()`); got != "words,typeface,amount" && strings.Count(got, ",") != 2 {
		t.Errorf("offered are %s", got)
	}
	w.click("[data-test=release]")
	w.click("[data-test=release-now]")
	w.click("[data-test=fill-release]")
	w.until(`location.pathname.startsWith('/desk/')`)
	w.exact()
	w.until(`document.querySelector('[data-words=words]')`)
	w.click("[data-words=words]")
	w.until(`document.activeElement?.dataset.test === 'writing-field'`)
	w.must(w.Press("a", chromedp.ModifierCtrl))
	w.key("Kites stay down")
	given := func(want string) {
		t.Helper()
		w.until(`fetch('/api/pieces/' + location.pathname.split('/').pop()).then(r => r.json()).then(p => p.sheet.flatMap(g => g.entries).find(e => e.kind === 'words').value === ` + quoted(want) + `)`)
	}
	given("Kites stay down")
	w.axe("typing at the desk")
	w.key(kb.Escape)
	w.until(`!document.querySelector('[data-test=writing]')`)
	w.exact()
	w.click("[aria-label=Undo]")
	given("Kites fly until eight")
}

// A font file that is dropped on words is what they are set in from then on; it stands in the
// list of faces, is shown in the media store with what may be done with it, and a face with
// axes is set along them.
func TestAFontIsDroppedOnWords(t *testing.T) {
	t.Parallel()
	w, url, _ := atBench(t, t.TempDir(), "Notice")
	w.op(`{kind: 'insert', way: 'ground', format: 'landscape'}`)
	w.op(`{kind: 'insert', way: 'words', format: 'landscape'}`)
	w.until(`document.querySelector('.tree [data-layer=words]')`)
	font, err := fonts.File("fraunces-latin")
	if err != nil {
		t.Fatal(err)
	}
	harbour := browser.File{Name: "Harbour.woff", Type: "font/woff", Data: base64.StdEncoding.EncodeToString(font)}
	w.must(w.Drop("[data-stage] .picture", harbour)) // beside the letters, and none are selected
	w.until(`document.body.innerText.includes('Harbour.woff is in the store; drop it on words')`)
	w.click(".tree [data-layer=words]")
	w.until(`document.querySelector('.panel [data-test=face]')`)
	w.revised(func() { w.must(w.Drop("[data-stage] .picture", harbour)) })
	if got := w.draft(`d.missing.length + ' ' + d.layers.find(y => y.kind === 'words').id`); got != "0 words" {
		t.Errorf("after the drop: %s", got)
	}
	w.until(`document.querySelector('.panel [data-test=face]')?.innerText === 'Fraunces' && document.querySelector('[data-parts=axes]')`)
	w.click("[data-test=add-axes]")
	w.revised(func() { w.option(".n-dropdown-option-body", "Softness") })
	w.until(`document.querySelector("[data-parts=axes] [data-part=a1] input[aria-label=At], [data-parts=axes] [data-part=a1] .inside")`)
	w.click(".panel [data-test=face]")
	w.until(`document.querySelector('[data-face^="sha256:"] b')?.innerText === 'Fraunces' && document.querySelector('[data-test=bring-font]')`)
	if in := eval[bool](t, w.Tab, `(() => { const r = document.querySelector('[data-test=bring-font]').getBoundingClientRect(); return r.bottom <= innerHeight && r.top >= 0 && r.right <= innerWidth })()`); !in {
		t.Error("a font can't be brought in where the list ends beyond the window")
	}
	w.axe("the list of faces with one's own")
	w.key(kb.Escape)

	w.must(w.Go(url + "/media"))
	w.click("[data-kind=font]")
	w.click("[data-medium='Harbour.woff']")
	w.until(`document.querySelector('[data-test=one] .notes')?.innerText.includes('It is variable') && document.querySelector('[data-test=one] img').naturalWidth > 100`)
	w.axe("a font in the media store")
	broken := browser.File{Name: "Broken.woff2", Type: "font/woff2", Data: base64.StdEncoding.EncodeToString([]byte("wOF2 and nothing more"))}
	w.must(w.Drop(".media", broken))
	w.until(`document.querySelector('.arrivals')?.innerText.includes('The font file is cut off.')`)
}
