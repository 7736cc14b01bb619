package e2e

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// atBench serves an empty shelf of drafts and begins a template of a name, on canvases
// such as 1920x1080.
func atBench(t testing.TB, dir, name string, canvases ...string) (w walker, url string, stop func()) {
	t.Helper()
	url, stop = serve(t, dir)
	w = walker{t, tab(t, 1280, 800)}
	w.must(w.Go(url + "/drafts"))
	w.click("[data-test=new-template]")
	w.until(`document.activeElement?.getAttribute('aria-label') === 'Name'`)
	w.key(name)
	for _, c := range canvases {
		if !eval[bool](t, w.Tab, fmt.Sprintf(`document.querySelector('[data-canvas="%s"]').classList.contains('on')`, c)) {
			w.click(fmt.Sprintf(`[data-canvas="%s"]`, c))
		}
	}
	time.Sleep(400 * time.Millisecond) // the dialog has come to rest
	w.click("[data-test=begin]")
	w.until(`document.querySelector('.bench [data-swatch]')`)
	w.exact()
	return
}

// ctrl presses a key with Ctrl.
func (w walker) ctrl(key string) { w.Helper(); w.must(w.Press(key, chromedp.ModifierCtrl)) }

// saved waits until everything is kept.
func (w walker) saved() {
	w.Helper()
	w.until(`document.querySelector('.saved')?.innerText === 'Saved'`)
}

// draft asks for something of the draft that is open, as JavaScript of d.
func (w walker) draft(js string) string {
	w.Helper()
	return eval[string](w.TB, w.Tab, `fetch('/api/drafts/' + location.pathname.split('/').pop()).then(r => r.json()).then(d => String(`+js+`))`)
}

// onBench is a tab with a template of the shelf on the bench.
func onBench(t testing.TB, dir, template string) (w walker, url string) {
	t.Helper()
	url, _ = serve(t, dir)
	w = walker{t, tab(t, 1280, 800)}
	w.must(w.Go(url))
	w.click("[data-template=" + template + "] [data-test=to-bench]")
	w.until(`document.querySelector('.bench [data-layer]')`)
	w.exact()
	return w, url
}

// frame is what a frame looks like, without loss: the SHA-256 of its PNG.
func (w walker) frame(format string, n int) string {
	w.Helper()
	return eval[string](w.TB, w.Tab, fmt.Sprintf(`(async () => {
		const id = location.pathname.split('/').pop()
		const f = await (await fetch('/api/drafts/' + id + '/frames?format=%s&width=640&height=640&from=%d&count=1')).json()
		const png = await (await fetch('/frames/' + f.addresses[0].address + '.png')).arrayBuffer()
		return [...new Uint8Array(await crypto.subtle.digest('SHA-256', png))].map(b => b.toString(16).padStart(2, '0')).join('') })()`, format, n))
}

// A split with a border, a star and a mark is built from nothing by the pointer; all of
// it is undone and done again, and after a reload every frame is the same to the byte.
func TestASplitIsBuiltFromNothing(t *testing.T) {
	t.Parallel()
	w, _, _ := atBench(t, t.TempDir(), "Harbour", "1080x1920")
	blank := w.frame("landscape", 0)
	w.click("[data-swatch=split]")
	w.until(`document.querySelector('[data-test=split-done]')`)
	w.click("[data-test=split-done]")
	w.until(`document.querySelectorAll('.tree [data-layer]').length === 5 && document.querySelectorAll('[data-rail-pocket]').length === 4`)
	if got := w.draft("d.layouts[0].cells.landscape.map(c => c.name + ' ' + c.box.w + '×' + c.box.h).join(', ')"); got != "top left 954×534, top right 954×534, bottom left 954×534, bottom right 954×534" {
		t.Errorf("the cells are %s", got)
	}
	// The backing gives the border its colour.
	w.click("[data-layer=backing]")
	w.until(`document.querySelector('[data-property=fill] input')`)
	eval[bool](t, w.Tab, `(() => { const i = document.querySelector('[data-property=fill] input'); i.focus(); i.value = '#b4492b'; i.dispatchEvent(new Event('input', {bubbles: true})); i.blur(); return true })()`)
	w.until(`document.querySelector('[aria-label=Undo]').title.includes('Set fill of Backing')`)
	// A star is drawn over the middle, and a mark pressed twice.
	w.click("[data-swatch=star]")
	w.must(w.Drag("[data-test=drawing]", 90, 90))
	w.until(`document.querySelector('.tree [data-layer=star]')`)
	w.click("[data-swatch=mark]")
	w.click("[data-test=drawing]")
	w.until(`document.querySelector('.tree [data-layer=mark]')`)
	w.saved()
	built := []string{w.frame("landscape", 0), w.frame("vertical", 100)}
	doc := eval[string](t, w.Tab, `fetch('/api/drafts/' + location.pathname.split('/').pop() + '/document').then(r => r.text())`)
	steps := 0
	for ; eval[bool](t, w.Tab, `!document.querySelector('[aria-label=Undo]').disabled`); steps++ {
		was := w.draft("d.revision")
		w.ctrl("z")
		w.until(`fetch('/api/drafts/' + location.pathname.split('/').pop()).then(r => r.json()).then(d => String(d.revision) !== ` + quoted(was) + `)`)
		w.saved()
	}
	if steps != 4 || w.frame("landscape", 0) != blank || w.draft("d.layers.length + d.pockets.length") != "0" {
		t.Errorf("after %d steps back it is not blank", steps)
	}
	for range steps {
		w.click("[aria-label=Redo]")
		w.saved()
	}
	w.must(w.Go(eval[string](t, w.Tab, `location.href`)))
	w.exact()
	if w.frame("landscape", 0) != built[0] || w.frame("vertical", 100) != built[1] {
		t.Error("done again, the frames are others")
	}
	if again := eval[string](t, w.Tab, `fetch('/api/drafts/' + location.pathname.split('/').pop() + '/document').then(r => r.text())`); again != doc {
		t.Error("done again, the document is another")
	}
}

// What is dragged near the middle lands in it to the number, and says so on the way;
// with Ctrl it stays where it is put; Escape gives a drag up.
func TestDraggingSnapsToExactNumbers(t *testing.T) {
	t.Parallel()
	w, _, _ := atBench(t, t.TempDir(), "Snap")
	w.click("[data-swatch=rectangle]")
	w.must(w.Drag("[data-test=drawing]", 100, 60))
	w.until(`document.querySelector('.tree [data-layer=panel]')`)
	place := func() string {
		w.saved()
		return w.draft(`JSON.stringify(d.layers.length)`) + eval[string](t, w.Tab, `(async () => { const id = location.pathname.split('/').pop(); const y = await (await fetch('/api/drafts/' + id + '/layers/panel?format=landscape&frame=0')).json(); return y.properties.find(p => p.name === 'place').rest.join(' ') })()`)
	}
	w.exact()
	at := place()
	// 100 × 60 px of the screen right and down of the middle; back by nearly half of it.
	letGo, err := w.Hold(`[data-hit=panel]`, -48, -28)
	w.must(err)
	w.until(`[...document.querySelectorAll('.what')].filter(e => e.innerText === 'middle of the canvas').length === 2`)
	w.must(letGo())
	w.until(`document.querySelector('[aria-label=Undo]').title.includes('Move Panel')`)
	if got := place(); got != "10 0" {
		t.Errorf("it came from %s to %s", at, got)
	}
	letGo, err = w.Hold(`[data-hit=panel]`, 60, 0)
	w.must(err)
	w.until(`document.querySelector('[data-test=told]')`)
	w.key(kb.Escape)
	w.must(letGo())
	if got := place(); got != "10 0" {
		t.Errorf("a drag that was given up came to %s", got)
	}
	w.key(kb.ArrowRight)
	w.key(kb.ArrowRight)
	w.must(w.Press(kb.ArrowDown, chromedp.ModifierShift))
	w.until(`document.querySelector('[aria-label=Undo]').title.includes('Move Panel')`)
	time.Sleep(600 * time.Millisecond) // what keys did waits for quiet
	if got := place(); got != "12 10" {
		t.Errorf("nudged to %s", got)
	}
	w.ctrl("z")
	w.saved()
	if got := place(); got != "10 0" {
		t.Errorf("a burst of keys is undone as one: %s", got)
	}
}

// Layers are restacked by dragging in the tree, grouped and ungrouped: what lies as it
// lay is the same picture to the byte.
func TestTheTreeRestacksGroupsAndUngroups(t *testing.T) {
	t.Parallel()
	w, url, _ := atBench(t, t.TempDir(), "Stack")
	for i, s := range []string{"rectangle", "ellipse", "star"} {
		w.click("[data-swatch=" + s + "]")
		w.must(w.Drag("[data-test=drawing]", float64(60+20*i), 70))
		w.until(fmt.Sprintf(`document.querySelectorAll('.tree [data-layer]').length === %d`, i+1))
	}
	names := `[...document.querySelectorAll('.tree [data-layer]')].map(e => e.dataset.layer).join(' ')`
	w.until(names + ` === 'star round panel'`)
	w.saved()
	was := w.frame("landscape", 0)
	w.click("[data-layer=round]")
	eval[bool](t, w.Tab, `document.querySelector('[data-layer=star]').dispatchEvent(new MouseEvent('click', {bubbles: true, ctrlKey: true}))`)
	w.until(`document.querySelector('[data-test=group]')`)
	w.click("[data-test=group]")
	w.until(names + ` === 'group star round panel'`)
	w.saved()
	if w.frame("landscape", 0) != was {
		t.Error("grouping made another picture")
	}
	w.click("[data-test=ungroup]")
	w.until(names + ` === 'star round panel'`)
	w.saved()
	if w.frame("landscape", 0) != was {
		t.Error("ungrouping made another picture")
	}
	// The lowest is dragged to the top, and taken back.
	w.must(w.Drag("[data-layer=panel]", 0, -58))
	w.until(names + ` === 'panel star round'`)
	w.saved()
	if w.frame("landscape", 0) == was {
		t.Error("restacking made no other picture")
	}
	w.ctrl("z")
	w.until(names + ` === 'star round panel'`)
	w.saved()
	if w.frame("landscape", 0) != was {
		t.Error("undone, it is another picture")
	}
	// Hidden, pinned down, renamed, deleted by keys.
	w.click("[data-layer=round]")
	w.key("h")
	w.until(`document.querySelector('[data-layer=round]').classList.contains('hidden')`)
	w.key("p")
	w.until(`document.querySelector('[data-layer=round] [aria-label=Unlock]')`)
	w.key(kb.Delete)
	w.until(`[...document.querySelectorAll('.n-message')].some(m => m.innerText.includes('is locked'))`)
	w.key("p")
	w.until(`document.querySelector('[data-layer=round] [aria-label=Lock]')`)
	w.saved()
	w.key(kb.F2)
	w.until(`document.activeElement?.tagName === 'INPUT'`)
	w.key("Moon" + kb.Enter)
	w.until(`document.querySelector('[data-layer=round]').innerText.includes('Moon')`)
	w.key(kb.Delete)
	w.until(names + ` === 'star panel'`)

	// A second window follows, and both change it.
	second, err := w.Another(1280, 800)
	w.must(err)
	t.Cleanup(second.Close)
	two := walker{t, second}
	two.must(second.Go(url + eval[string](t, w.Tab, `location.pathname`)))
	two.until(names + ` === 'star panel'`)
	two.click("[data-layer=star]")
	two.ctrl("d")
	w.until(names + ` === 'star-2 star panel'`)
	w.click("[data-layer=panel]")
	w.ctrl("d")
	two.until(names + ` === 'star-2 star panel-2 panel'`)
	// The history names it all, and goes back to a point of it.
	w.click("#side-history")
	w.until(`document.querySelector('[data-test=history]')?.innerText.includes('Duplicate Star')`)
	w.click(`[data-back="0"]`)
	w.until(`document.querySelectorAll('.tree [data-layer]').length === 0`)
	two.until(`document.querySelectorAll('.tree [data-layer]').length === 0`)
	w.ctrl("z")
	two.until(names + ` === 'star-2 star panel-2 panel'`)
}

// A template of the shelf is opened on the bench as a copy, its document is saved and
// dropped again without loss, and one with faults is refused with their places.
func TestDraftsComeFromTheShelfAndFromFiles(t *testing.T) {
	t.Parallel()
	url, _ := serve(t, t.TempDir())
	w := walker{t, tab(t, 1280, 800)}
	w.must(w.Go(url))
	w.click("[data-template=four-winds] [data-test=to-bench]")
	w.until(`document.querySelector('.bench [data-layer]')`)
	w.exact()
	first := w.frame("landscape", 0)
	doc := eval[string](t, w.Tab, `fetch('/api/drafts/' + location.pathname.split('/').pop() + '/document').then(r => r.text())`)
	drop := func(text string) {
		t.Helper()
		eval[bool](t, w.Tab, fmt.Sprintf(`(() => { const dt = new DataTransfer(); dt.items.add(new File([%q], 'Winds.json', {type: 'application/json'}));
			for (const type of ['dragover', 'drop']) document.querySelector('.shelf').dispatchEvent(new DragEvent(type, {bubbles: true, cancelable: true, dataTransfer: dt})); return true })()`, text))
	}
	w.must(w.Go(url + "/drafts"))
	w.until(`document.querySelectorAll('[data-draft]').length === 1`)
	drop(strings.Replace(doc, `"kind": "view"`, `"kind": "vieww"`, 1))
	w.until(`/layers\[\d+\](\.layers\[\d+\])*\.kind: "vieww"/.test(document.querySelector('.failure')?.innerText ?? '')`)
	drop(doc)
	w.until(`location.pathname.startsWith('/bench/') && document.querySelector('.bench [data-layer]')`)
	w.exact()
	if again := eval[string](t, w.Tab, `fetch('/api/drafts/' + location.pathname.split('/').pop() + '/document').then(r => r.text())`); again != doc || w.frame("landscape", 0) != first {
		t.Error("saved and dropped again, the document is another")
	}
	// Into the bin, and out again.
	w.must(w.Go(url + "/drafts"))
	w.until(`document.querySelectorAll('[data-draft]').length === 2`)
	w.click("[data-draft] [aria-label^=Delete]")
	w.until(`document.querySelectorAll('[data-draft]').length === 1`)
	w.click("[data-test=bin]")
	w.click(".bin button")
	w.until(`document.querySelectorAll('[data-draft]').length === 2`)
}

// A change is for all formats or for one alone, and it is plain which; what stands apart
// is counted, listed and joined again. A new format is laid out by itself.
func TestFormatsStandApartAndJoin(t *testing.T) {
	t.Parallel()
	w, _, _ := atBench(t, t.TempDir(), "Formats")
	w.click("[data-swatch=rectangle]")
	w.must(w.Drag("[data-test=drawing]", 200, 90))
	w.until(`document.querySelector('.tree [data-layer=panel]')`)
	w.click("[data-test=add-format]")
	w.until(`document.querySelector('[data-test=format-done]')`)
	time.Sleep(400 * time.Millisecond)
	eval[bool](t, w.Tab, `(() => { [...document.querySelectorAll('.dialog .canvas')].find(b => b.innerText.includes('1080 × 1920')).click(); return true })()`)
	w.click("[data-test=format-done]")
	w.until(`document.querySelector('[data-format=vertical]')?.classList.contains('on') && !document.querySelector('.n-modal')`)
	place := func(format string) string {
		w.saved()
		return eval[string](t, w.Tab, fmt.Sprintf(`(async () => { const id = location.pathname.split('/').pop(); const y = await (await fetch('/api/drafts/' + id + '/layers/panel?format=%s&frame=0')).json(); return y.properties.find(p => p.name === 'place').rest.map(Math.round).join(' ') })()`, format))
	}
	wide := place("landscape")
	w.exact()
	own := w.draft("d.formats[1].own.length")
	// Alone.
	w.click("[data-test=apart]")
	w.until(`document.querySelector('[data-test=apart]').innerText === 'Changes Vertical alone'`)
	w.click("[data-layer=panel]")
	w.key(kb.ArrowDown)
	time.Sleep(600 * time.Millisecond)
	tall := place("vertical")
	if place("landscape") != wide || w.draft("d.formats[1].own.length") == "0" {
		t.Errorf("the other format went along: %s, %s; %s of its own", place("landscape"), wide, own)
	}
	w.click("[data-test=apart]")
	w.until(`document.querySelector('[data-test=apart]').innerText === 'Changes all formats'`)
	// It is listed, and joined again.
	w.click("[data-test=format-menu]")
	w.until(`document.querySelector('.menu')?.innerText.includes('place of Panel')`)
	w.click("[data-test=join-all]")
	w.until(`fetch('/api/drafts/' + location.pathname.split('/').pop()).then(r => r.json()).then(d => d.formats[1].own.length === 0)`)
	if place("vertical") == tall {
		t.Error("joined, it stands where it stood apart")
	}
	w.key(kb.Escape)
	w.ctrl("z")
	w.saved()
	if got := place("vertical"); got != tall {
		t.Errorf("undone, it stands at %s, not %s", got, tall)
	}
}

// Layers are copied from one template and pasted into another; a command is found by its
// name and done from the list of all.
func TestLayersAreCopiedAndCommandsFound(t *testing.T) {
	t.Parallel()
	w, url, _ := atBench(t, t.TempDir(), "One")
	w.click("[data-swatch=star]")
	w.must(w.Drag("[data-test=drawing]", 120, 120))
	w.until(`document.querySelector('.tree [data-layer=star]')`)
	w.exact()
	w.ctrl("c")
	w.until(`[...document.querySelectorAll('.n-message')].some(m => m.innerText === 'Copied Star.')`)
	star := w.frame("landscape", 0)
	w.must(w.Go(url + "/drafts"))
	w.click("[data-test=new-template]")
	w.until(`document.activeElement?.getAttribute('aria-label') === 'Name'`)
	w.key("Two" + kb.Enter)
	w.until(`document.querySelector('.bench [data-swatch]')`)
	w.exact()
	w.ctrl("v")
	w.until(`document.querySelector('.tree [data-layer=star]')`)
	w.saved()
	if w.frame("landscape", 0) != star {
		t.Error("pasted, it is another picture")
	}
	w.click("[aria-label=Keys]")
	w.until(`document.querySelector('[data-test=command-search]') === document.activeElement`)
	w.key("Duplicate" + kb.Enter)
	w.until(`document.querySelector('.tree [data-layer=star-2]')`)
	w.until(`!document.querySelector('.n-modal')`)
	// Shown alone, and all again.
	w.click("[data-swatch=ground]")
	w.until(`document.querySelector('.tree [data-layer=ground]')`)
	w.click("[data-layer=star]")
	w.click("[data-test=alone]")
	w.until(`document.querySelector('[data-test=show-all]')`)
	w.exact()
	w.click("[data-test=show-all]")
	w.until(`!document.querySelector('[data-test=show-all]')`)
}
