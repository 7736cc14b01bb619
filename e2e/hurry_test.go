package e2e

import (
	"testing"
	"time"
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
