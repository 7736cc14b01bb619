package e2e

import (
	"fmt"
	"strings"
	"testing"
)

// number reads a field of the layer panel.
func (w walker) number(property string, i int) float64 {
	w.Helper()
	return eval[float64](w.TB, w.Tab, fmt.Sprintf(`Number(document.querySelectorAll('[data-property="%s"] [role=spinbutton]')[%d].getAttribute('aria-valuenow'))`, property, i))
}

// set types into a field of the layer panel.
func (w walker) set(property string, i int, text string) {
	w.Helper()
	field := fmt.Sprintf(`document.querySelectorAll('[data-property="%s"] .field')[%d]`, property, i)
	eval[bool](w.TB, w.Tab, field+`.querySelector('[role=spinbutton]').focus() || true`)
	w.key("\r")
	w.until(field + `.querySelector('input') === document.activeElement`)
	w.key(text + "\r")
	w.until(`!` + field + `.querySelector('input')`)
}

// What moves, what a formula sets and what stands in a cell say so in the layer's panel;
// numbers are set there, in one format alone too.
func TestLayersAreSetInTheirPanel(t *testing.T) {
	t.Parallel()
	w, url := onBench(t, t.TempDir(), "telescope")
	w.click("[data-layer=notches]")
	w.until(`document.querySelector('[data-layer-panel=notches]')`)
	if got := w.text(`[data-property=turn]`); !strings.Contains(got, "moves") || !strings.Contains(got, "16.5 °") {
		t.Errorf("its turn is shown as %q", got)
	}
	// The group that it is in is looked at from near by, and stays so while it is worked on.
	w.until(`document.querySelector('canvas').width > 1000`)
	w.exact()
	// On the ring between two notches; a line four times as wide goes over it.
	const brass = `(document.querySelector('.picture').dataset.quality === 'exact' && (() => { const c = document.querySelector('canvas'); const k = c.width / 1920; return [...c.getContext('2d').getImageData(600 * k, 160 * k, 720 * k, 40 * k).data].reduce((a, b) => (a * 31 + b) % 65521, 7) })())`
	before := eval[float64](t, w.Tab, brass)
	w.set("stroke.width", 0, "18*2+4")
	w.until(`document.querySelector('[data-property="stroke.width"] [role=spinbutton]')?.getAttribute('aria-valuenow') === '40'`)
	w.until(fmt.Sprintf(`%s !== %g`, brass, before))
	w.click("[aria-label=Undo]")
	w.until(`document.querySelector('[data-property="stroke.width"] [role=spinbutton]')?.getAttribute('aria-valuenow') === '18'`)
	w.until(fmt.Sprintf(`%s === %g`, brass, before)) // to the bit
	if n := eval[int](t, w.Tab, `document.querySelector('canvas').width`); n < 1000 {
		t.Error("a change leads away from what is looked at")
	}

	// What a formula sets says so and can't be typed over.
	w.click("[data-layer=held]")
	w.until(`document.querySelector('[data-layer-panel=held] [data-property=place]')?.innerText.includes("entry('across')")`)
	if n := eval[int](t, w.Tab, `document.querySelectorAll('[data-property=place] [role=spinbutton]').length`); n != 0 {
		t.Errorf("%d fields of a formula's place can be set", n)
	}

	w.click("[data-layer=ring]")
	w.until(`document.querySelector('[data-layer-panel=ring]')`)
	w.set("place", 0, "60")
	w.click("[data-format=vertical]")
	w.until(`document.querySelector('canvas').height > document.querySelector('canvas').width && document.querySelector('[data-layer-panel=ring]')`)
	if x := w.number("place", 0); x != 60 {
		t.Errorf("in the other format it stands at %g", x)
	}
	w.key("q")
	w.set("place", 0, "10")
	w.until(`document.querySelectorAll('[data-property=place] [role=spinbutton]')[0]?.getAttribute('aria-valuenow') === '10'`)
	w.click("[data-format=landscape]")
	w.until(`document.querySelectorAll('[data-property=place] [role=spinbutton]')[0]?.getAttribute('aria-valuenow') === '60'`)

	// All of it is there after a reload.
	w.until(`location.search.includes('layer=ring') && location.search.includes('format=landscape')`)
	w.must(w.Go(eval[string](t, w.Tab, "location.href")))
	w.exact()
	w.until(`document.querySelectorAll('[data-property=place] [role=spinbutton]')[0]?.getAttribute('aria-valuenow') === '60'`)

	w.must(w.Go(url))
	w.click("[data-template=four-winds] [data-test=to-bench]")
	w.until(`document.querySelector('.bench [data-layer=mark]')`)
	w.exact()
	// What stands in a cell of the split says whose place that is.
	w.click("[data-layer=view-north-west]")
	w.until(`document.querySelector('[data-layer-panel=view-north-west] [data-property=place]')?.innerText.includes('cell of the layout winds')`)
}

// At the desk nothing but the sheet and what lies in its pockets can be changed: there are
// no layers to press or to drag. A piece's length goes from its held time up, and cues
// and the playhead follow.
func TestTheDeskOffersTheSheetAlone(t *testing.T) {
	t.Parallel()
	w, _, _ := atDesk(t, t.TempDir(), "telescope")
	if eval[bool](t, w.Tab, `!!document.querySelector('[data-layer], [data-property], [data-layer-panel], .hit:not([data-pocket])')`) {
		t.Error("layers can be reached at the desk")
	}
	w.click("[data-hit=far-shore], [data-pocket=far-shore]")
	w.until(`document.querySelector('[role=tab].on').innerText === 'Framing' && document.querySelector('[data-test=frame-it]')`)
	was := eval[float64](t, w.Tab, `fetch('/api/pieces/' + location.pathname.split('/').pop()).then(r => r.json()).then(p => p.revision)`)
	w.must(w.Drag("[data-pocket=far-shore]", -70, 20))
	w.key("\x1b")
	w.until(`document.querySelector('[role=tab].on').innerText === 'Sheet' && document.querySelector('[data-entry]')`)
	if now := eval[float64](t, w.Tab, `fetch('/api/pieces/' + location.pathname.split('/').pop()).then(r => r.json()).then(p => p.revision)`); now != was {
		t.Error("a drag on the stage changed the piece")
	}

	duration := `document.querySelector('[data-test=duration]')`
	eval[bool](t, w.Tab, duration+`.querySelector('[role=spinbutton]').focus() || true`)
	w.key("\r")
	w.until(duration + `.querySelector('input') === document.activeElement`)
	w.key("60\r")
	w.until(`document.querySelector('.clothstrip').getAttribute('aria-valuemax') === '99'`)
	if got := w.text(".duration"); !strings.Contains(got, "00:00:04:00") || !strings.Contains(got, "was 200") {
		t.Errorf("the shortest piece reads %q", got)
	}
	w.click("[aria-label='Last frame']")
	w.until(`document.querySelector('[data-test=frame]').innerText === '99'`)
	w.exact()
	w.click("[aria-label=Undo]")
	w.until(`document.querySelector('.clothstrip').getAttribute('aria-valuemax') === '199'`)
}

// A pocket that is seen through a mark is what the pointer is on where it is seen; beside
// it is the mark that cuts it, and a label is its pocket. So it goes for presses, for
// drops and for framing.
func TestPocketsSeenThroughMattesAreTakenWhereTheyAreSeen(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	w, _, _ := atDesk(t, dir, "sail-window")
	w.until(`document.querySelector('path.hit[data-hit=weather-two]')`)
	// at does something where the canvas has a point, in shares.
	at := func(x, y float64, what string) {
		t.Helper()
		eval[bool](t, w.Tab, fmt.Sprintf(`(() => { const r = document.querySelector('svg.outlines').getBoundingClientRect(); const x = r.x + r.width * %v, y = r.y + r.height * %v;
			const e = document.elementFromPoint(x, y); const on = (type, more = {}) => e.dispatchEvent(new PointerEvent(type, {bubbles: true, cancelable: true, button: 0, pointerId: 1, clientX: x, clientY: y, ...more}));
			%s; return true })()`, x, y, what))
	}
	const press = `on('pointerdown'); on('pointerup')`
	selected := func(name string) {
		t.Helper()
		w.until(fmt.Sprintf(`document.querySelector('.make h2')?.innerText === %q`, name))
	}
	at(0.35, 0.31, press) // on a wing of the second mark
	selected("Weather")
	at(0.3, 0.75, press) // in the mark's box, beside it
	selected("Second mark")
	at(0.35, 0.31, press)
	selected("Weather")
	eval[bool](t, w.Tab, `(() => { const e = [...document.querySelectorAll('.tag')].find(x => x.innerText === 'Second mark'); e.dispatchEvent(new PointerEvent('pointerdown', {bubbles: true, button: 0, pointerId: 1})); e.dispatchEvent(new PointerEvent('pointerup', {bubbles: true, button: 0, pointerId: 1})); return true })()`)
	selected("Second mark")
	drop := func(x, y float64, name, mime string) {
		t.Helper()
		f := w.file(dir, name, mime)
		at(x, y, fmt.Sprintf(`const dt = new DataTransfer(); dt.items.add(new File([Uint8Array.from(atob(%q), c => c.charCodeAt(0))], %q, {type: %q}));
			for (const type of ['dragenter', 'dragover', 'drop']) e.dispatchEvent(new DragEvent(type, {bubbles: true, cancelable: true, dataTransfer: dt}))`, f.Data, f.Name, f.Type))
	}
	drop(0.35, 0.31, "Dusk.jpg", "image/jpeg")
	w.until(`document.querySelector('[data-rail-pocket=weather] .media').innerText === 'Dusk.jpg'`)
	w.until(`document.querySelector('path.hit[data-hit=weather-two]')`)
	drop(0.3, 0.75, "Saltmarsh Kite Week.svg", "image/svg+xml")
	w.until(`document.querySelector('[data-rail-pocket=second] .media').innerText.startsWith('Saltmarsh')`)
	// A mark that only cuts is framed on the stage too.
	if eval[bool](t, w.Tab, `[...document.querySelectorAll('.caution')].some(c => c.innerText.includes('ground'))`) {
		t.Error("ground is said to show around a mark that only cuts")
	}
	w.click("[data-test=frame-it]")
	w.until(`document.querySelector('[data-test=grab]')`)
	w.must(w.Drag("[data-test=grab]", 30, 10))
	w.until(`document.querySelector('[aria-label=Undo]').title.startsWith('Undo: Pan of Second mark')`)
}

// pixels reads a part of a canvas from a copy of it: one that is read itself again and again is moved from the graphics
// process to the page by Chromium, and on a busy machine it comes there empty.
const pixels = `(c, x, y, w = 1, h = 1) => { const k = new OffscreenCanvas(w, h).getContext('2d', {willReadFrequently: true}); k.drawImage(c, x, y, w, h, 0, 0, w, h); return k.getImageData(0, 0, w, h).data }`

// What was filled is compared with the stand-ins by a press and by a key, and nothing
// changes by it; the next piece like one has its values and nothing in its pockets.
func TestThePieceBesideItsStandInsAndTheNextOne(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	w, _, _ := atDesk(t, dir, "four-winds")
	w.must(w.Drop("[data-rail-pocket=north-west]", w.file(dir, "Marsh, upright.jpg", "image/jpeg")))
	w.until(`document.querySelector('[data-rail-pocket=north-west] .media')?.innerText === 'Marsh, upright.jpg'`)
	w.until(`document.querySelector('[data-test=progress]').innerText.startsWith('4 of 5 pockets show stand-ins')`)
	w.exact()
	const look = `(() => { const c = document.querySelector('canvas'), k = c.width / 1920; return [...(` + pixels + `)(c, 300 * k, 200 * k, 40, 40)].reduce((a, b) => (a * 31 + b) % 65521, 7) })()`
	filled := eval[float64](t, w.Tab, look)
	revision := `fetch('/api/pieces/' + location.pathname.split('/').pop()).then(r => r.json()).then(p => p.revision)`
	was := eval[float64](t, w.Tab, revision)
	w.click("[data-test=compare-stand-ins]")
	w.until(fmt.Sprintf(`%s !== %g`, look, filled))
	// Elsewhere, too: in the other format, and at another frame.
	const seen = `(() => { const c = document.querySelector('canvas'); return c.height > c.width })()` // it takes the size of what is drawn on it
	w.click("[data-format=vertical]")
	w.until(seen)
	w.must(w.Drag(".clothstrip", -60, 0))
	w.until(seen + ` && document.querySelector('[data-test=compare-stand-ins]').getAttribute('aria-pressed') === 'true'`)
	w.click("[data-format=landscape]")
	w.click(".cue:last-child")
	w.key("x")
	w.until(`document.querySelector('[data-test=compare-stand-ins]').getAttribute('aria-pressed') === 'false'`)
	w.exact()
	w.until(fmt.Sprintf(`%s === %g`, look, filled))
	if now := eval[float64](t, w.Tab, revision); now != was {
		t.Error("looking at the stand-ins changed the piece")
	}
	w.click("[data-entry=gutter] [role=spinbutton]")
	w.key("40\r")
	w.until(`document.querySelector('[data-entry=gutter] [role=spinbutton]').getAttribute('aria-valuenow') === '40'`)
	at := eval[string](t, w.Tab, `location.pathname`)
	w.click("[data-test=next-piece]")
	w.until(`location.pathname !== '` + at + `' && document.querySelector('[data-test=progress]')?.innerText.startsWith('No pocket is filled yet')`)
	w.until(`document.querySelector('[data-entry=gutter] [role=spinbutton]').getAttribute('aria-valuenow') === '40' && document.querySelector('.bar h1').innerText === 'Four Winds 2'`)
}
