package e2e

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"ivypocket/e2e/browser"
)

// hurried counts what somebody does: a press, a drag, a drop, a word that is typed. How long
// the machine took is told and not tested; machines are noisy.
type hurried struct {
	walker
	acts  int
	begun time.Time
}

func hurry(w walker) *hurried { return &hurried{walker: w, begun: time.Now()} }

func (h *hurried) click(sel string) { h.Helper(); h.acts++; h.walker.click(sel) }
func (h *hurried) types(k string)   { h.Helper(); h.acts++; h.walker.key(k) }
func (h *hurried) drag(sel string, dx, dy float64) {
	h.Helper()
	h.acts++
	h.must(h.Drag(sel, dx, dy))
}
func (h *hurried) within(most int, what string) {
	h.Helper()
	h.Logf("%s: %d actions; the machine took %.1f s", what, h.acts, time.Since(h.begun).Seconds())
	if h.acts > most {
		h.Errorf("%s takes %d actions; %d are enough", what, h.acts, most)
	}
}

// From an opened Four Winds to a render with four other pictures, another colour and one of
// them reframed, in 15 actions.
func TestFourWindsInAHurry(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	w, _, _ := atDesk(t, dir, "four-winds")
	h := hurry(w)
	h.acts++
	h.must(h.Drop("svg [data-pocket=north-west]", w.file(dir, "Marsh, upright.jpg", "image/jpeg"), w.file(dir, "Night panorama.jpg", "image/jpeg"), w.file(dir, "Dusk.jpg", "image/jpeg"), w.file(dir, "Dawn.jpg", "image/jpeg")))
	h.until(`document.querySelector('[data-test=progress]')?.innerText.includes('Mark') && document.querySelector('[data-rail-pocket=south-west]').innerText.includes('Dawn')`)
	h.click("svg [data-pocket=north-west]")
	h.click("[data-test=frame-it]")
	h.drag("[data-test=grab]", 0, 60)
	h.click("[data-test=framing-done]")
	h.click("[data-side=sheet]")
	h.click("[data-entry=backing-colour] input:not([type=color])")
	eval[bool](t, w.Tab, `document.activeElement.select() ?? true`)
	h.types("#1e5f6b\r")
	h.click("[data-test=render]")
	h.click("[data-test=start-render]")
	h.until(`location.pathname === '/renders' && document.querySelector('[data-render]')`)
	h.within(15, "Four Winds, filled, reframed, coloured and on its way")
}

// Eight values in three groups, from a finished draft.
func TestEightValuesOnTheSheetInAHurry(t *testing.T) {
	t.Parallel()
	w, _, _ := atBench(t, t.TempDir(), "Hurry")
	w.op(`{kind: 'batch', ops: [
		{kind: 'add', into: 'layers', at: 0, part: {id: 'low', name: 'Low', kind: 'shape', fill: '#204060', size: [900, 700], stroke: {colour: '#f0e0c0', width: 6}}},
		{kind: 'add', into: 'layers', at: 1, part: {id: 'ring', name: 'Ring', kind: 'shape', form: {kind: 'ellipse'}, fill: '#c06020', place: [500, 0], size: [400, 400]}}]}`)
	w.op(`{kind: 'sew', from: [100, 100], to: [500, 400], format: 'landscape', kinds: ['picture'], name: 'Kite'}`)
	w.until(`document.querySelector('.tree [data-layer=ring]')`)
	h := hurry(w)
	offer := func(paths ...string) {
		t.Helper()
		for _, p := range paths {
			w.revised(func() { h.click("[data-offer='" + p + "']") })
		}
	}
	h.click(".tree [data-layer=ring]")
	offer("layers/ring/fill", "layers/ring/opacity", "layers/ring/turn")
	h.click(".tree [data-layer=low]")
	offer("layers/low/fill", "layers/low/stroke.colour", "layers/low/stroke.width", "layers/low/opacity")
	h.click(".tree .layer:first-child")
	w.revised(func() { h.click("[data-offer^='pockets/']") })
	h.within(16, "eight values on the sheet")
	if got := w.draft(`d.sheet.filter(g => g.entries.length).map(g => g.label + ' ' + g.entries.length).join(', ')`); got != "Media 1, Amounts 4, Colours 3" {
		t.Errorf("%s", got)
	}
}

// A star is drawn by hand as a mask, its edge softened by a knob, its corners rounded.
func TestAStarDrawnByHandInAHurry(t *testing.T) {
	t.Parallel()
	w, _, _ := atBench(t, t.TempDir(), "Star")
	h := hurry(w)
	h.click("[data-swatch=rectangle]")
	h.acts++
	w.revised(func() { w.pull(460, 190, 1000, 700) })
	h.until(`document.querySelector('[data-test=add-masks]')`)
	h.click("[data-test=add-masks]")
	h.acts++
	h.option(".n-dropdown-option-body", "Draw a path")
	h.until(`document.querySelector('[data-test=pen-sheet]')`)
	points := [][2]float64{{960, 230}, {1040, 440}, {1260, 450}, {1090, 590}, {1150, 810}, {960, 690}, {770, 810}, {830, 590}, {660, 450}, {880, 440}}
	for _, p := range points {
		h.acts++
		w.press(p[0], p[1])
	}
	h.acts++
	w.revised(func() { w.press(points[0][0], points[0][1]) })
	h.until(`document.querySelector('[data-mask-knob=feather]')`)
	k := w.pin(0, 0)
	w.revised(func() { h.drag("[data-mask-knob=feather]", 30*k, 0) })
	h.until(`document.querySelector('[data-property="masks/m1/form.round"] [aria-label=Rounding]')`)
	h.click(`[data-property="masks/m1/form.round"] [aria-label=Rounding]`)
	h.until(`document.querySelector('[data-property="masks/m1/form.round"] input')`)
	w.revised(func() { h.types("24\r") })
	h.within(20, "a star drawn by hand as a mask, soft and round")
}

// Guides for a tall feed, one line of which is moved.
func TestGuidesInAHurry(t *testing.T) {
	t.Parallel()
	w, _, _ := atBench(t, t.TempDir(), "Tall", "1080x1920")
	h := hurry(w)
	h.click("[data-format=vertical]")
	h.click("[data-test=guides]")
	h.click("[data-guides=feed-tall]")
	h.click("[data-adjust=feed-tall]")
	h.until(`document.querySelector('[data-guide-grip="caption top"]')`)
	h.drag(`[data-guide-grip="caption top"]`, 0, -30)
	h.until(`document.querySelector('[data-guide-reset=caption]')`)
	h.click("[data-test=guides-done]")
	h.within(6, "guides for a tall feed with a line moved")
}

// The one panel whose colour is off is found in a template of 60 layers, and changed.
func TestTheOneColourThatIsOffInAHurry(t *testing.T) {
	t.Parallel()
	url, _ := serve(t, t.TempDir())
	w := walker{t, tab(t, 1280, 800)}
	doc := large(60, 100)
	for i := range 60 {
		doc = strings.Replace(doc, fmt.Sprintf(`"fill": "#%02x%02x80"`, 40+i*3%200, 200-i*2%150), `"fill": "#2e6b4e"`, 1)
	}
	doc = strings.Replace(doc, `"name": "Layer 41", "kind": "shape", "fill": "#2e6b4e"`, `"name": "Layer 41", "kind": "shape", "fill": "#2e6b9e"`, 1)
	w.must(w.Go(url + "/drafts"))
	id := eval[string](t, w.Tab, fmt.Sprintf(`fetch('/api/drafts/document', {method: 'POST', headers: {'Content-Type': 'application/json'}, body: %q}).then(r => r.json()).then(d => d.id)`, doc))
	w.must(w.Go(url + "/bench/" + id))
	w.until(`document.querySelector('.tree [data-layer]')`)
	w.exact()
	h := hurry(w)
	h.click("[data-side=ledger]")
	h.until(`document.querySelector('[data-row]')`)
	h.until(`document.activeElement.getAttribute('aria-label') === 'Search the ledger'`) // it is opened to be searched
	h.types("fill")
	h.until(`document.querySelectorAll('[data-row]').length > 10 && document.querySelector('[data-row="layers/y0/fill"]')`)
	// By eye, down the list: the one that is not green.
	h.acts++
	eval[bool](t, w.Tab, `(document.querySelector('.ledger .rows').scrollTop = 41 * 45 - 100, true)`)
	h.until(`document.querySelector('[data-row="layers/y41/fill"]')`)
	h.click(`[data-row="layers/y41/fill"]`)
	h.until(`document.querySelector('[data-test=ledger-set] [data-property=fill] input')`)
	h.click("[data-test=ledger-set] [data-property=fill] input")
	w.revised(func() { h.types("#2e6b4e\r") })
	h.within(7, "the one panel whose colour is off")
}

// holds fills the selected pocket with media of the store.
func (h *hurried) holds(name string) {
	h.Helper()
	h.types("o")
	h.until(`document.querySelector('[data-pick="` + name + `"]')`)
	h.revised(func() { h.click(`[data-pick="` + name + `"]`) })
	h.until(`!document.querySelector('[data-pick]')`)
}

// drawn takes something from the tray and draws its box.
func (h *hurried) drawn(swatch string, x, y, w, ht float64) {
	h.Helper()
	h.click("[data-swatch=" + swatch + "]")
	h.until(`document.querySelector('[data-test=drawing]')`)
	h.acts++
	h.revised(func() { h.pull(x, y, w, ht) })
}

// A round pocket with a soft edge and a ring lies over a clip, and its limits are set.
func TestARoundPocketInAHurry(t *testing.T) {
	t.Parallel()
	w, _, _ := atBench(t, t.TempDir(), "Round")
	h := hurry(w)
	h.drawn("pocket", 0, 0, 1920, 1080)
	h.holds("Kites at noon.mp4")
	h.drawn("pocket", 660, 240, 600, 600)
	h.until(`document.querySelectorAll('.tree [data-layer]').length === 2 && document.querySelector('[data-test=add-masks]')`)
	h.click("[data-test=add-masks]")
	h.acts++
	h.option(".n-dropdown-option-body", "Ellipse")
	h.until(`document.querySelector('[data-test=masking]')`)
	h.acts++
	w.revised(func() { w.press(960, 540) })
	h.until(`document.querySelector('[data-mask-knob=feather]')`)
	k := w.pin(0, 0)
	w.revised(func() { h.drag("[data-mask-knob=feather]", 24*k, 0) })
	h.holds("Dawn.jpg")
	for _, limit := range []string{"pan", "zoom"} {
		h.until(`document.querySelector('[data-limit=` + limit + `]')`)
		w.revised(func() { h.click("[data-limit=" + limit + "]") })
	}
	h.drawn("ellipse", 650, 230, 620, 620)
	h.until(`document.querySelector('[data-property="stroke.colour"] input')`)
	h.click(`[data-property="stroke.colour"] input`)
	w.revised(func() { h.types("#f3ead6\r") })
	h.until(`document.querySelector('[data-property=fill] [aria-label="Reset Fill"]')`)
	w.revised(func() { h.click(`[data-property=fill] [aria-label="Reset Fill"]`) })
	h.within(24, "a round pocket with ring and soft edge over a clip, its limits set")
	if got := w.draft(`d.pockets.length + ' ' + d.faults.length`); got != "2 0" {
		t.Errorf("pockets and faults are %s", got)
	}
}

// A mark is cut into a panel, through which footage is seen.
func TestAMarkCutIntoAPanelInAHurry(t *testing.T) {
	t.Parallel()
	w, _, _ := atBench(t, t.TempDir(), "Cut")
	h := hurry(w)
	h.drawn("pocket", 0, 0, 1920, 1080)
	h.holds("Kites at noon.mp4")
	h.drawn("rectangle", 260, 140, 1400, 800)
	h.drawn("mark", 660, 240, 600, 600)
	h.holds("Saltmarsh Kite Week.svg")
	w.revised(func() { h.types("h") }) // it is seen by what it cuts
	h.click(".tree [data-layer=panel]")
	h.until(`document.querySelector('[data-point="matte.layer"]')`)
	open := eval[bool](t, w.Tab, `(() => { const d = document.querySelector('[data-point="matte.layer"]').closest('details'); if (!d || d.open) return false; d.open = true; return true })()`)
	if open {
		h.acts++
	}
	h.click(`[data-point="matte.layer"]`)
	h.until(`document.querySelector('[data-test=pointing]')`)
	w.revised(func() { h.click(".tree .layer:first-child") })
	h.until(`document.querySelector('[data-property="matte.invert"] [role=switch]')`)
	w.revised(func() { h.click(`[data-property="matte.invert"] [role=switch]`) })
	h.within(18, "a mark cut into a panel over footage")
	h.click("[data-test=look-at-matte]")
	h.until(`document.querySelector('.picture').dataset.ground === 'alpha'`)
	h.click("[data-test=look-at-matte]")
	h.until(`document.querySelector('.picture').dataset.ground === ''`)
}

// asked sets a number that a move or a recipe asks for.
func (h *hurried) asked(name, label, value string) {
	h.Helper()
	h.until(`document.querySelector('[data-number=` + name + `] [aria-label=` + label + `], [data-number=` + name + `][aria-label=` + label + `], [aria-label=` + label + `]')`)
	h.click(`[aria-label=` + label + `]`)
	h.until(`document.querySelector('input[aria-label=` + label + `]')`)
	h.types(value + "\r")
}

// Three panels with a mark pass over two clips, one after the other, with hard easing, in and out; the cut is found and the
// colours are offered: from a blank canvas. Somebody who takes 4 s for each has it in under 5 minutes.
func TestATransitionInAHurry(t *testing.T) {
	t.Parallel()
	url, _ := serve(t, t.TempDir())
	w := walker{t, tab(t, 1280, 800)}
	w.must(w.Go(url + "/drafts"))
	h := hurry(w)
	h.click("[data-test=new-template]")
	h.until(`document.activeElement?.getAttribute('aria-label') === 'Name'`)
	h.types("Sails")
	h.click("[data-purpose=transition]")
	time.Sleep(400 * time.Millisecond) // the dialog has come to rest
	h.click("[data-test=begin]")
	h.until(`document.querySelector('.bench [data-swatch]')`)
	w.exact()
	h.click("[data-rail-pocket=to]")
	h.holds("Squall coming in.mp4")
	h.click("[data-rail-pocket=from]")
	h.holds("Kites at noon.mp4")
	for range 3 {
		h.drawn("rectangle", 0, 0, 1920, 1080)
	}
	h.drawn("mark", 710, 290, 500, 500)
	h.holds("Saltmarsh Kite Week.svg")
	panels := func() {
		t.Helper()
		h.click(".tree [data-layer=panel-3]")
		h.acts++
		eval[bool](t, w.Tab, `document.querySelector('.tree [data-layer=panel]').dispatchEvent(new MouseEvent('click', { shiftKey: true, bubbles: true }))`)
		h.until(`document.querySelector('.panel h2')?.innerText === '3 layers'`)
	}
	performs := func(move string) {
		t.Helper()
		w.revised(func() { h.click("[data-test=perform]") })
	}
	panels()
	h.types(kb.Home)
	h.click("[data-test=moves] summary")
	h.click("[data-move=enter]")
	h.asked("soft", "Softness", "0")
	performs("in")
	h.types(".")
	h.click("[data-move=enter]")
	h.until(`document.querySelector('[data-word=way-out]')`)
	h.acts++
	eval[bool](t, w.Tab, `document.querySelector('[data-word=way-out]').closest('label, .n-radio-button').click() || true`)
	performs("out")
	eval[bool](t, w.Tab, `(document.querySelector('[data-test=stagger-line]').scrollIntoView({ block: 'center' }), true)`)
	w.revised(func() { h.drag("[data-test=stagger-spread]", 24, 0) })
	h.click(".tree .layer:first-child") // the mark
	h.types(kb.Home)
	for range 2 {
		h.acts++
		w.must(w.Press(kb.ArrowRight, chromedp.ModifierShift))
	}
	h.click("[data-move=pop]")
	performs("pop")
	panels()
	w.until(`document.querySelector('[data-test=offer-several]')`)
	h.click("[data-test=offer-several]")
	h.acts++
	w.revised(func() { h.option(".n-dropdown-option-body", "Fill") })
	h.within(70, "three panels with a mark over two clips, their colours offered")
	if got := w.draft(`d.savedMoves.length + ' ' + d.layers.map(y => y.performs.length).join('') + ' ' + d.sheet.flatMap(g => g.entries).filter(e => e.kind === 'colour').length`); got != "2 002221 3" {
		t.Errorf("moves, performances and colours are %s", got)
	}
	if covered := eval[int](t, w.Tab, `fetch('/api/drafts/' + location.pathname.split('/').pop() + '/cover').then(r => r.json()).then(c => c.runs.length)`); covered == 0 {
		t.Error("no frame is covered, where the cut could be made")
	}
}

// A montage of eight pictures, cut hard, each jumping about in held cuts: from nothing, in under 4 minutes at 4 s for each
// action.
func TestAMontageInAHurry(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	url, _ := serve(t, dir)
	w := walker{t, tab(t, 1280, 800)}
	w.must(w.Go(url + "/drafts"))
	h := hurry(w)
	h.click("[data-test=new-template]")
	h.until(`document.activeElement?.getAttribute('aria-label') === 'Name'`)
	h.types("Knots")
	time.Sleep(400 * time.Millisecond)
	eval[bool](t, w.Tab, `(document.querySelector('[data-begin-with=montage]').scrollIntoView({ block: 'center' }), true)`)
	h.click("[data-begin-with=montage]")
	h.asked("pictures", "Pictures", "8")
	h.asked("fade", "Fade", "0")
	h.click("[data-test=begin]")
	h.until(`document.querySelectorAll('.bench [data-rail-pocket]').length === 8`)
	h.acts++
	files := []browser.File{}
	for _, name := range []string{"Dawn.jpg", "Noon.jpg", "Dusk.jpg", "Squall.jpg", "Marsh, upright.jpg", "Night panorama.jpg", "Noon.jpg", "Dawn.jpg"} {
		files = append(files, w.file(dir, name, "image/jpeg"))
	}
	h.must(h.Drop("[data-rail-pocket]", files...))
	h.until(`document.querySelectorAll('.bench [data-rail-pocket] img').length === 8`)
	h.click(".tree [data-layer]")
	h.acts++
	w.ctrl("a")
	h.until(`document.querySelector('[data-test=moves]')`)
	h.types(kb.Home)
	h.click("[data-test=moves] summary")
	h.click("[data-move=cuts]")
	h.asked("length", "Length", "150")
	h.asked("times", "Times", "30")
	w.revised(func() { h.click("[data-test=perform]") })
	h.within(30, "a montage of eight pictures with hold cuts")
	if got := w.draft(`d.layers.filter(y => y.performs.length).length + ' ' + d.pockets.filter(p => p.media || p.standIn).length`); got[:2] != "8 " {
		t.Errorf("%s perform and hold media", got)
	}
}
