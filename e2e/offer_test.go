package e2e

import (
	"fmt"
	"testing"
	"time"

	"github.com/chromedp/chromedp/kb"
)

// A designer offers values from where they stand, makes a choice by example, and releases;
// an editor fills what is offered, and nothing else.
func TestOfferReleaseAndFill(t *testing.T) {
	t.Parallel()
	w, url, _ := atBench(t, t.TempDir(), "Offer")
	w.op(`{kind: 'batch', ops: [
		{kind: 'add', into: 'layers', at: 0, part: {id: 'low', name: 'Low', kind: 'shape', fill: '#204060', size: [900, 700]}},
		{kind: 'add', into: 'layers', at: 1, part: {id: 'ring', name: 'Ring', kind: 'shape', form: {kind: 'ellipse'}, fill: '#c06020', place: [500, 0], size: [400, 400]}}]}`)
	w.op(`{kind: 'sew', from: [100, 100], to: [500, 400], format: 'landscape', kinds: ['picture'], name: 'Kite'}`)
	w.op(`{kind: 'describe', path: 'category', name: 'Cards'}`)
	w.until(`document.querySelector('.tree [data-layer=ring]')`)
	w.click(".tree [data-layer=ring]")
	for _, name := range []string{"fill", "opacity"} {
		w.revised(func() { w.click("[data-offer='layers/ring/" + name + "']") })
		w.until(fmt.Sprintf(`document.querySelector("[data-offer='layers/ring/%s']").getAttribute('aria-pressed') === 'true'`, name))
	}
	w.revised(func() { w.click("[data-offer='layers/ring/place']") })
	w.click(".tree .layer:first-child")
	w.until(`document.querySelector("[data-offer^='pockets/']")`)
	w.revised(func() { w.click("[data-offer^='pockets/']") })
	w.click("[data-side=sheet]")
	w.until(`document.querySelectorAll('.sheet [data-line]').length === 4`)
	labels := `[...document.querySelectorAll('.sheet .label')].filter(e => e.dataset.entry).map(e => e.innerText).join(', ')`
	if got := eval[string](t, w.Tab, labels); got != "Kite, Opacity of Ring, Place of Ring, Fill of Ring" {
		t.Errorf("the sheet has %s", got)
	}
	// By keys and by the pointer an entry goes elsewhere; its settings are set where it stands.
	w.until(`document.querySelector('[data-entry=opacity-of-ring]')`)
	w.revised(func() { w.must(w.Drag("[data-line=fill-of-ring] .grip", 0, -60)) })
	if got := w.draft(`d.sheet.map(g => g.label + ' ' + g.entries.length).join(', ')`); got != "Media 1, Amounts 3, Colours 0" {
		t.Errorf("dragged, the groups are %s", got)
	}
	w.revised(func() { w.ctrl("z") })
	w.click("[data-entry=opacity-of-ring]")
	w.until(`document.querySelector('[data-settings=opacity-of-ring] [aria-label=Help]')`)
	w.click("[data-settings=opacity-of-ring] [aria-label=Help]")
	w.key("How much of it is seen.")
	w.revised(func() { w.click("[data-settings=opacity-of-ring] [aria-label=Label]") })
	w.until(`!document.querySelector('.n-message')`)
	w.axe("the sheet on the bench")

	// A choice by example: held at its second option, the ring is moved and hidden things are
	// shown; let go, the picture is as it was.
	w.exact()
	before := w.frame("landscape", 0)
	w.click(".tree [data-layer=low]")
	w.click("[data-side=sheet]")
	w.click("[data-test=add-entry]")
	w.until(`document.querySelector('.n-dropdown-menu')`)
	w.key(kb.Escape) // the list alone
	w.until(`!document.querySelector('.n-dropdown-menu:not([class*="-leave-"])')`)
	if eval[string](t, w.Tab, `document.querySelector('.tree .layer.on')?.dataset.layer ?? ''`) != "low" {
		t.Error("Escape from a list takes the selection, too")
	}
	w.key(kb.Escape)
	w.until(`!document.querySelector('.tree .layer.on')`)
	w.revised(func() {
		w.click("[data-test=add-entry]")
		w.option(".n-dropdown-option-body", "Choice between a few things")
	})
	w.click("[data-notch='choice second']")
	w.until(`document.querySelector('[data-test=pinned]')`)
	w.revised(func() { w.must(w.Drag("[data-hit=low]", 120, 0)) })
	if got := w.draft(`d.sheet.flatMap(g => g.entries).find(e => e.id === 'choice').bench.ties.map(t => t.called).join(', ')`); got != "place of Low" {
		t.Errorf("the choice drives %s", got)
	}
	w.key(kb.Escape + kb.Escape) // the selection, then the picture
	w.until(`!document.querySelector('[data-test=pinned]')`)
	if w.frame("landscape", 0) != before {
		t.Error("let go, it is another picture")
	}

	w.click("[data-test=release]")
	w.until(`document.querySelector('[data-test=release-now]')`)
	w.click("[data-test=try-release]")
	w.until(`/cases/.test(document.querySelector('[data-test=release-trial] b')?.innerText ?? '')`)
	w.axe("releasing")
	w.click("[data-test=release-now]")
	w.click("[data-test=fill-release]")
	w.until(`location.pathname.startsWith('/desk/')`)
	w.exact()
	w.click("[data-side=sheet]")
	w.until(`document.querySelector('[data-entry=choice] [data-option=second]')`)
	at := w.text("[data-entry=opacity-of-ring]")
	if at == "" {
		t.Error("the opacity is not on the editor's sheet")
	}
	plain := eval[string](t, w.Tab, `document.querySelector('.picture').dataset.address ?? ''`)
	w.click("[data-entry=choice] [data-option=second]")
	w.until(`fetch('/api/pieces/' + location.pathname.split('/').pop()).then(r => r.json()).then(p => p.sheet.flatMap(g => g.entries).some(e => e.id === 'choice' && e.value === 'second' && e.given))`)
	w.exact()
	if now := eval[string](t, w.Tab, `document.querySelector('.picture').dataset.address ?? ''`); plain != "" && now == plain {
		t.Error("the choice changes nothing")
	}
	// The slider goes by keys; reset takes it back.
	w.until(`document.querySelector('[data-entry=opacity-of-ring] [role=spinbutton]')`)
	w.click("[data-entry=opacity-of-ring] [role=spinbutton]")
	w.key("40" + kb.Enter)
	w.until(`document.querySelector('[data-entry=opacity-of-ring] .back')`)
	w.axe("the desk's sheet")
	w.click("[data-entry=opacity-of-ring] .back")
	w.until(`!document.querySelector('[data-entry=opacity-of-ring] .back')`)
	// A place is dragged on the picture, and by keys.
	was := eval[string](t, w.Tab, `(async () => JSON.stringify((await (await fetch('/api/pieces/' + location.pathname.split('/').pop())).json()).sheet.flatMap(g => g.entries).find(e => e.kind === 'place').value))()`)
	w.must(w.Drag("[data-place=place-of-ring]", 60, 30))
	place := func(want string) {
		t.Helper()
		w.until(`fetch('/api/pieces/' + location.pathname.split('/').pop()).then(r => r.json()).then(p => { const v = p.sheet.flatMap(g => g.entries).find(e => e.kind === 'place').value; return ` + want + ` })`)
	}
	if was != "[500,0]" {
		t.Errorf("the place was %s", was)
	}
	place("v[0] > 600 && v[1] > 50")
	at = eval[string](t, w.Tab, `document.querySelector('[data-entry=place-of-ring] [aria-label="Place of Ring x"]').ariaValueNow`)
	w.key(kb.ArrowRight)
	place("v[0] === " + at + " + 1")

	// To the template and back: it asks for less, is released again and compared; the piece
	// keeps its own release until it is moved, and moving is undone like anything.
	desk := eval[string](t, w.Tab, `location.pathname`)
	w.exact()
	w.click("[data-test=to-template]")
	w.until(`location.pathname.startsWith('/bench/') && document.querySelector('.tree [data-layer=ring]')`)
	w.op(`{kind: 'withdraw', entry: 'choice'}`)
	w.op(`{kind: 'rename', path: 'entries/opacity-of-ring', name: 'Thickness'}`)
	w.click("[data-test=release]")
	w.click("[aria-label='What is new in it']")
	w.key("One choice fewer.")
	w.click("[data-test=release-now]")
	w.click("[data-test=compare]")
	w.until(`document.querySelector('[data-look=before]')?.naturalWidth > 100 && document.querySelector('[data-look=after]')?.naturalWidth > 100`)
	told := `[...document.querySelectorAll('[data-difference]')].map(e => e.innerText.replace(/\s+/g, ' ')).join('; ')`
	if got := eval[string](t, w.Tab, told); got != "renamed Thickness Label: Thickness, was Opacity of Ring; gone Choice Choice" {
		t.Errorf("compared: %q", got)
	}
	w.axe("comparing releases")
	w.key(kb.Escape)
	w.until(`!document.querySelector('[data-difference]')`)
	w.key(kb.Escape)
	w.click(".place[href='" + desk + "']")
	w.exact()
	w.click("[data-test=newer]")
	w.until(`document.querySelector('[data-look=after]')?.naturalWidth > 100`)
	for list, want := range map[string]string{"lost": "Choice", "kept": "Place of Ring"} {
		if got := w.text("[data-moved=" + list + "] li b"); got != want {
			t.Errorf("%s is %q, want %q", list, got, want)
		}
	}
	w.axe("moving a piece")
	second := `fetch('/api/pieces/' + location.pathname.split('/').pop()).then(r => r.json()).then(p => p.sheet.flatMap(g => g.entries).some(e => e.id === 'choice' && e.value === 'second'))`
	w.click("[data-test=move-now]")
	w.until(`document.querySelector('.of').innerText.includes('release 2') && !document.querySelector('[data-test=newer]')`)
	w.until(`document.querySelector('[data-test=aside]')?.innerText.startsWith('One value is put aside') && !document.querySelector('[data-entry=choice]')`)
	w.click("[aria-label=Undo]")
	w.until(`document.querySelector('[data-test=newer]') && ` + second)
	w.until(`document.querySelector('[data-entry=choice] [data-option=second]') && !document.querySelector('[data-test=aside]')`)

	// Or with others, from the list.
	w.must(w.Go(url + "/pieces"))
	w.until(`document.querySelector('[data-piece] .newer')`)
	w.click("[data-test=all]")
	w.click("[data-test=move-chosen]")
	w.until(`document.querySelector('[data-test=done]')?.innerText.includes('to the newest release') && !document.querySelector('[data-piece] .newer')`)
	w.click("[data-test=undo]")
	w.until(`document.querySelector('[data-piece] .newer')`)
}

// A note with its own backing is left out by a switch: the backing goes with it, and the
// card around it closes up, in both formats; the designer sees it as an editor will, with the
// draft as it stands. A mark's backing goes when its pocket is emptied.
func TestASwitchTakesItsBackingAlong(t *testing.T) {
	t.Parallel()
	w, _, _ := atBench(t, t.TempDir(), "Closes up", "1920x1080", "1080x1920")
	w.op(`{kind: 'add', into: 'layers', at: -1, part: {id: 'card', name: 'Card', kind: 'group', flow: {way: 'stack', gap: 20, hugs: true, padding: 20}, layers: [
		{id: 'backing', name: 'Backing', kind: 'shape', fill: '#000000'},
		{id: 'note', name: 'Note', kind: 'group', flow: {way: 'row', hugs: true, padding: 10}, layers: [{id: 'slip', name: 'Slip', kind: 'shape', fill: '#00ff00'}, {id: 'said', name: 'Said', kind: 'shape', fill: '#0000ff', size: [300, 60]}]},
		{id: 'title', name: 'Title', kind: 'shape', fill: '#ff0000', size: [400, 100]}]}}`)
	w.until(`document.querySelector('.tree [data-layer=note]')`)
	w.exact()
	w.click(".tree [data-layer=note]")
	w.until(`document.querySelector("[data-layer-panel=note]")`)
	eval[bool](t, w.Tab, `document.querySelectorAll('[data-layer-panel] details').forEach(d => d.open = true) || true`)
	w.revised(func() { w.click("[data-offer='layers/note/hidden']") })
	w.click("[data-side=sheet]")
	w.until(`document.querySelector('.sheet [data-line=show-note]')`)
	// The way there holds also where the desk is slow to arrive and the address has news meanwhile.
	w.must(w.Slow(300 * time.Millisecond))
	eval[bool](t, w.Tab, `(() => { const news = setInterval(() => document.body.dispatchEvent(new KeyboardEvent('keydown', {key: 'ArrowRight', code: 'ArrowRight', bubbles: true})), 280);
		setTimeout(() => clearInterval(news), 3000); document.querySelector('[data-test=as-editor]').click(); return true })()`)
	w.until(`document.querySelector('[data-test=trying]') && document.querySelector('[data-entry=show-note] [role=switch]')`)
	w.must(w.Slow(0))
	w.exact()
	// The card is 240 px high with the note: 20 + 100 + 20 + 80 + 20; without it 140.
	pixel := func(dy int) string {
		return fmt.Sprintf(`(document.querySelector('.picture').dataset.quality === 'exact' && (() => { const c = document.querySelector('canvas'), k = c.width / (c.width > c.height ? 1920 : 1080); return [...c.getContext('2d').getImageData(c.width / 2 + 5, c.height / 2 + %d * k, 1, 1).data].join() })())`, dy)
	}
	both := func(dy int, want string) {
		t.Helper()
		for _, f := range []string{"vertical", "landscape"} {
			if eval[bool](t, w.Tab, `!!document.querySelector('[data-format=`+f+`]')`) {
				w.click("[data-format=" + f + "]")
			}
			w.until(pixel(dy) + ` === '` + want + `'`)
		}
	}
	both(95, "0,255,0,255") // the slip, below what is said
	both(115, "0,0,0,255")  // the backing's padding
	w.click("[data-entry=show-note] [role=switch]")
	both(0, "255,0,0,255")
	both(60, "0,0,0,255")
	both(115, "0,0,0,0") // nothing is left of it
	w.click("[aria-label=Undo]")
	both(95, "0,255,0,255")
	w.click("[data-test=back-to-bench]")
	w.until(`document.querySelector('.bench .tree [data-layer=note]') && document.querySelector('.sheet [data-line=show-note]')`)
	if w.draft(`d.layers.find(y => y.id === 'note').hidden`) != "false" {
		t.Error("what was tried out is in the draft")
	}
}
