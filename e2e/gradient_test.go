package e2e

import (
	"fmt"
	"strings"
	"testing"

	"github.com/chromedp/chromedp/kb"
)

// A layer's gradient is set on its strip by pointer and by keys, gets a name, a second one is
// made beside it, and an editor chooses between the two at the desk and in a list's table.
func TestGradientsAreNamedAndChosen(t *testing.T) {
	t.Parallel()
	w, _, _ := atBench(t, t.TempDir(), "Skies")
	w.op(`{kind: 'batch', ops: [
		{kind: 'add', into: 'layers', at: 0, part: {id: 'sky', name: 'Sky', kind: 'ground', gradient: {kind: 'linear', from: [0, 0], to: [0, 1], stops: [{id: 'low', at: 0, colour: '#402030'}, {id: 'high', at: 1, colour: '#1e7383'}]}}},
		{kind: 'add', into: 'layers', at: 1, part: {id: 'band', name: 'Band', kind: 'shape', size: [600, 200], gradient: {kind: 'linear', from: [0, 0], to: [1, 0], stops: [{at: 0, colour: '#ffffff'}, {at: 1, colour: '#000000'}]}}}]}`)
	stops := func(of string) string {
		w.Helper()
		return eval[string](t, w.Tab, `fetch('/api/drafts/' + location.pathname.split('/').pop() + '/document').then(r => r.json()).then(d => [...(d.gradients ?? []), ...d.layers].filter(x => x.id === '`+of+`')
			.flatMap(x => x.stops ?? x.gradient.stops ?? []).map(s => s.id + ' ' + s.at + ' ' + s.colour).join(', '))`)
	}
	w.until(`document.querySelector('.tree [data-layer=sky]')`)
	w.click(".tree [data-layer=sky]")
	w.until(`document.querySelector("[data-gradient='layers/sky'] .stop")`)
	wide := eval[float64](t, w.Tab, `document.querySelector("[data-gradient='layers/sky'] .bed").clientWidth`)
	// A stop in the middle, of the colour that is there; dragged a quarter on; then by keys.
	w.revised(func() { w.click("[data-gradient='layers/sky'] [data-test=stop-add]") })
	if got, want := stops("sky"), "low 0 #402030, s1 0.5 #2f4a5a, high 1 #1e7383"; got != want {
		t.Errorf("stops are %s, not %s", got, want)
	}
	w.revised(func() { w.must(w.Drag("[data-gradient='layers/sky'] [data-stop=s1]", wide/4, 0)) })
	const left = `parseFloat(document.querySelector("[data-gradient='layers/sky'] [data-stop=s1]").style.left)`
	w.until(left + ` > 60`)
	at := eval[float64](t, w.Tab, left)
	if at < 73 || at > 77 {
		t.Errorf("it was dragged to %g %%", at)
	}
	w.must(w.Until(`document.querySelector("[data-gradient='layers/sky'] [data-stop=s1]").focus() || true`, patience))
	w.revised(func() { w.key(kb.ArrowLeft + kb.ArrowLeft + kb.ArrowLeft) })
	w.until(fmt.Sprintf(left+` < %g`, at-2.9))
	if now := eval[float64](t, w.Tab, left); now < at-3.1 {
		t.Errorf("three arrows on it is at %g %%", now)
	}
	w.revised(func() { w.key(kb.Delete) })
	if got, want := stops("sky"), "low 0 #402030, high 1 #1e7383"; got != want {
		t.Errorf("stops are %s, not %s", got, want)
	}
	w.axe("a gradient of a layer")
	w.exact()
	before := w.frame("landscape", 0)

	// Both get a name; the picture stays. One is offered: a choice between both.
	for layer, name := range map[string]string{"sky": "Dusk", "band": "Grey"} {
		w.click(".tree [data-layer=" + layer + "]")
		w.until(`document.querySelector("[data-gradient='layers/` + layer + `']")`)
		w.click("[aria-label='A name for these stops']")
		w.key(name)
		w.revised(func() { w.click("[data-test=name-stops]") })
	}
	if got, want := stops("dusk"), "low 0 #402030, high 1 #1e7383"; got != want {
		t.Errorf("the named one has %s, not %s", got, want)
	}
	if w.frame("landscape", 0) != before {
		t.Error("with names it is another picture")
	}
	w.click(".tree [data-layer=sky]")
	w.until(`document.querySelector("[data-offer='layers/sky/gradient.named']")`)
	w.revised(func() { w.click("[data-offer='layers/sky/gradient.named']") })
	w.click("[data-side=sheet]")
	w.click("[data-entry=gradient-of-sky]")
	w.until(`document.querySelectorAll('[data-settings=gradient-of-sky] .options .strip').length === 2`)
	w.axe("an entry of gradients")
	w.click("[data-test=as-editor]")
	w.until(`location.pathname.startsWith('/desk/')`)
	w.exact()
	w.until(`document.querySelector('[data-option=grey]')`)
	w.click("[data-option=dusk] input")
	w.key(kb.ArrowRight) // by keys, as any choice
	w.until(`document.querySelector('[data-option].on')?.dataset.option === 'grey'`)
	w.saved()
	w.exact()
	w.axe("choosing a gradient")
	w.until(`document.querySelector('.n-message') === null`)
	if title := eval[string](t, w.Tab, `document.querySelector('[data-option=grey] .strip i').style.background`); !strings.Contains(title, "rgb(255, 255, 255)") {
		t.Errorf("its strip is %s", title)
	}
}
