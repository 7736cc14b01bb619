package e2e

import (
	"strings"
	"testing"

	"github.com/chromedp/chromedp/kb"
)

// The ledger finds a value however deep it lies, sets it, puts it on the sheet, leads to it and back;
// a named colour is taken, renamed and its uses found; a colour is read from the picture.
func TestTheLedgerFindsSetsAndLeads(t *testing.T) {
	t.Parallel()
	w, _, _ := atBench(t, t.TempDir(), "Ledger")
	w.op(`{kind: 'batch', ops: [{kind: 'add', into: 'colours', at: -1, part: {id: 'sea', name: 'Sea', value: '#1e7383'}},
		{kind: 'add', into: 'layers', at: 0, part: {id: 'ground', name: 'Ground', kind: 'ground', fill: '#b4492b'}},
		{kind: 'add', into: 'layers', at: 1, part: {id: 'out', name: 'Outer', kind: 'group', layers: [{id: 'in', name: 'Inner', kind: 'group', layers: [
			{id: 'ring', name: 'Ring', kind: 'shape', fill: 'colour:sea', opacity: 0.5, size: [400, 300], masks: [{id: 'iris', feather: 8}]}]}]}}]}`)
	w.until(`document.querySelector('.tree [data-layer=ring]')`)
	w.exact()
	w.click("[data-side=ledger]")
	w.until(`document.querySelector('[data-row]')`)
	w.click("[aria-label='Search the ledger']")
	w.key("feather")
	w.until(`document.querySelectorAll('[data-row]').length === 1`)
	w.key(kb.ArrowDown)
	w.until(`document.querySelector('[data-test=ledger-set] [data-property="masks/iris/feather"]')`)
	w.axe("the ledger")
	if got := w.text("[data-row] .of"); !strings.Contains(got, "Mask iris of Ring in Outer › Inner") {
		t.Errorf("it is told to be of %q", got)
	}
	w.click("[data-test=ledger-set] [aria-label=Feather]")
	w.until(`document.querySelector('[data-test=ledger-set] input[aria-label=Feather]')`)
	w.revised(func() { w.key("24" + kb.Enter) })
	w.until(`document.querySelector('[data-row] .now').innerText === '24 px'`)
	w.revised(func() { w.click("[data-test=ledger-set] [data-offer='layers/ring/masks/iris/feather']") })
	w.until(`document.querySelector('[data-row] .sheet')?.innerText === 'Feather of Ring'`)
	// To its place, and back.
	w.click("[data-test=ledger-go]")
	w.until(`document.querySelector('[data-side=make]').getAttribute('aria-selected') === 'true' && document.querySelector('#panel [data-property="masks/iris/feather"]')`)
	w.click("[data-test=back-to-ledger]")
	w.until(`document.querySelector('[data-row].on .now')?.innerText === '24 px'`)
	w.click("[data-test=ledger-entry]")
	w.until(`document.querySelector('[data-settings=feather-of-ring]')`)
	w.click("[data-side=ledger]")
	w.until(`document.querySelector('[data-only=tied]')`)
	w.click("[data-only=tied]")
	w.until(`document.querySelectorAll('[data-row]').length === 1`)
	w.click("[data-only=all]")

	// Its uses, from the colour's own line; its name is changed there.
	w.click("[data-side=make]")
	w.must(w.Until(`(document.querySelector('.tree [data-layer=ring]'), true)`, patience))
	w.key(kb.Escape)
	w.key(kb.Escape)
	w.until(`document.querySelector('[data-uses=sea]')`)
	w.click("[data-uses=sea]")
	w.until(`[...document.querySelectorAll('[data-row]')].map(e => e.dataset.row).join() === 'layers/ring/fill,colours/sea/value'`)
	w.click("[data-row='layers/ring/fill']")
	w.until(`document.querySelector('[data-test=ledger-set] input')?.value === 'Sea'`)
	// From the picture: where the ground is seen.
	w.click("[data-test=ledger-set] [data-test=dropper]")
	w.until(`document.querySelector('[data-test=dropping-colour][data-exact=true]')`)
	w.revised(func() { w.press(300, 900) })
	if got := w.draft(`fetch('/api/drafts/' + location.pathname.split('/').pop() + '/document').then(r => r.json()).then(x => window.fill = x.layers[1].layers[0].layers[0].fill)`); got == "" {
		t.Error("nothing is told")
	}
	w.until(`window.fill === '#b4492b'`)
	w.until(`document.querySelector('[data-test=ledger-set] input')?.value === '#b4492b'`) // it is no use of the colour any more
	w.revised(func() {
		w.click("[data-test=ledger-set] [data-test=named-colours]")
		w.option(".n-dropdown-option-body", "Sea")
	})
	w.until(`document.querySelector('[data-test=ledger-set] input')?.value === 'Sea'`)

	// Before and after: as it was when it was opened, which changes nothing.
	w.exact()
	now := w.draft("d.revision")
	w.click("[data-test=before]")
	w.until(`document.querySelector('[data-test=before].on')`)
	w.axe("before and after")
	w.click("[data-test=before]")
	w.exact()
	if w.draft("d.revision") != now {
		t.Error("looking back is a change")
	}
	w.click("[data-test=keep-frame]")
	w.until(`document.querySelector('[data-test=wipe-edge]')`)
	w.must(w.Drag("[data-test=wipe-edge]", -120, 0))
	w.axe("two frames compared")
	w.click("[data-test=keep-frame]")
	w.until(`!document.querySelector('[data-test=frame-wipe]')`)
}
