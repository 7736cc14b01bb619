package e2e

import (
	"fmt"
	"math"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// option presses what a selector finds by the text that stands on it.
func (w walker) option(selector, text string) {
	w.Helper()
	js := fmt.Sprintf(`[...document.querySelectorAll(%q)].findLast(b => b.innerText.trim() === %q)`, selector, text)
	w.until(js)
	eval[bool](w.TB, w.Tab, `(document.querySelectorAll('[data-found]').forEach(e => e.removeAttribute('data-found')), `+js+`.setAttribute('data-found', ''), true)`)
	w.click("[data-found]")
}

// op carries an act out on the draft that is open, as another window would.
func (w walker) op(act string) {
	w.Helper()
	if failed := eval[string](w.TB, w.Tab, fmt.Sprintf(`(async () => { const id = location.pathname.split('/').pop(); const d = await (await fetch('/api/drafts/' + id)).json();
		const r = await fetch('/api/drafts/' + id + '/operations', {method: 'POST', headers: {'Content-Type': 'application/json'}, body: JSON.stringify({id: crypto.randomUUID(), base: d.revision, op: %s})});
		return r.ok ? '' : await r.text() })()`, act)); failed != "" {
		w.Fatal(failed)
	}
}

// revised does something and waits until the draft is at another revision.
func (w walker) revised(do func()) {
	w.Helper()
	was := w.draft("d.revision")
	do()
	w.until(`fetch('/api/drafts/' + location.pathname.split('/').pop()).then(r => r.json()).then(d => String(d.revision) !== ` + quoted(was) + `)`)
	w.saved()
}

// A template begins with a recipe; its numbers are dragged and chosen, in both formats at
// once, what was done by hand stays, and one undo takes one change back.
func TestARecipesNumbersAreChangedOnTheBench(t *testing.T) {
	t.Parallel()
	url, _ := serve(t, t.TempDir())
	w := walker{t, tab(t, 1280, 800)}
	w.must(w.Go(url + "/drafts"))
	w.click("[data-test=new-template]")
	w.until(`document.activeElement?.getAttribute('aria-label') === 'Name'`)
	w.key("Slides")
	w.click(`[data-canvas="1080x1920"]`)
	w.click("[data-begin-with=split]")
	w.until(`document.querySelector('[data-recipe-numbers=split] [aria-label=Columns]')`)
	// A number that is typed here, with Enter, begins nothing yet.
	w.click("[data-recipe-numbers=split] [aria-label=Columns]")
	w.until(`document.querySelector('[data-recipe-numbers=split] input[aria-label=Columns]')`)
	w.key("3" + kb.Enter)
	w.until(`document.querySelector('[data-recipe-numbers=split] [aria-label=Columns]')?.innerText.trim() === '3'`)
	time.Sleep(400 * time.Millisecond)
	w.click("[data-test=begin]")
	w.until(`document.querySelector('.bench [data-recipe=split]')`)
	w.exact()
	if got := w.draft("d.name + ', ' + d.layers.length + ', ' + d.formats.map(f => d.layouts[0].splits[f.id].columns.length + '×' + d.layouts[0].splits[f.id].rows.length).join(' ')"); got != "Slides, 7, 3×2 2×3" {
		t.Errorf("it began as %s", got)
	}
	// A cell is called otherwise by hand; then the gutter is dragged.
	w.revised(func() { w.op(`{kind: 'rename', path: 'layers/split-cell-1-1', name: 'Harbour'}`) })
	gutter := `[data-recipe=split] [aria-label=Gutter]`
	w.until(fmt.Sprintf(`document.querySelector(%q)`, gutter))
	before := w.frame("landscape", 0)
	w.revised(func() { w.must(w.Drag(gutter, 30, 0)) })
	w.until(`document.querySelector('[aria-label=Undo]').title.includes('Change the numbers: Split')`)
	if n := w.draft("d.recipes[0].numbers.gutter"); n == "1.5" || w.frame("landscape", 0) == before {
		t.Errorf("dragged, the gutter is %s", n)
	}
	w.revised(func() { w.click("[data-word=backing-clear]") })
	if got := w.draft("d.layers.map(y => y.name).join(', ')"); !strings.Contains(got, "Harbour") || strings.Contains(got, "Border") {
		t.Errorf("the layers are %s", got)
	}
	w.revised(func() { w.ctrl("z") })
	w.revised(func() { w.ctrl("z") })
	if w.frame("landscape", 0) != before {
		t.Error("two steps back it is another picture")
	}
	// Another is built from the tray, and its panel stands where it is selected.
	w.revised(func() {
		w.click("[data-swatch=recipe]")
		w.option(".n-dropdown-option-body", "Reveal of a mark")
	})
	w.until(`document.querySelector('[data-recipe=reveal] [aria-label=Rings]')`)
	w.revised(func() { w.click("[data-test=forget-recipe]") })
	if got := w.draft("d.recipes.map(r => r.id).join(' ')"); got != "split" {
		t.Errorf("recipes are %s", got)
	}
}

// What is picked is what is seen: not the corner of a round shape's box, nor what a mask
// takes away; a press at the same place picks what lies below.
func TestWhatIsSeenIsPicked(t *testing.T) {
	t.Parallel()
	w, _, _ := atBench(t, t.TempDir(), "Seen")
	w.op(`{kind: 'batch', ops: [
		{kind: 'add', into: 'layers', at: 0, part: {id: 'low', name: 'Low', kind: 'shape', fill: '#204060', size: [900, 900]}},
		{kind: 'add', into: 'layers', at: 1, part: {id: 'ring', name: 'Ring', kind: 'shape', form: {kind: 'ellipse'}, fill: '#c06020', size: [600, 600],
			masks: [{id: 'hole', form: {kind: 'ellipse'}, size: [300, 300], mode: 'subtract'}]}}]}`)
	w.until(`document.querySelector('.tree [data-layer=ring]')`)
	w.exact()
	picked := func(x, y float64, want string) {
		t.Helper()
		w.must(w.ClickAt("[data-hit=ring]", x, y))
		w.until(fmt.Sprintf(`(document.querySelector('.tree .layer.on')?.dataset.layer ?? '') === %q`, want))
		time.Sleep(450 * time.Millisecond) // the next press is no double one
	}
	picked(0.1, 0.5, "ring")
	picked(0.08, 0.08, "low") // the corner of its box
	picked(0.5, 0.5, "low")   // its hole
	picked(0.12, 0.45, "ring")
	picked(0.12, 0.45, "low") // at the same place, what lies below
	picked(0.12, 0.45, "ring")
	// Outside of all, nothing is; Tab goes through all.
	w.must(w.ClickAt("[data-hit=ring]", -0.6, 0.5))
	w.until(`!document.querySelector('.tree .layer.on')`)
	w.key(kb.Tab)
	w.until(`document.querySelector('.tree .layer.on')?.dataset.layer === 'low'`)
	w.key(kb.Tab)
	w.until(`document.querySelector('.tree .layer.on')?.dataset.layer === 'ring'`)
}

// A motif is made of a group by a key, used four times, and changed in one use alone and in
// all: four places change, and each use keeps what it has of its own; made a group again nothing moves.
func TestAMotifIsUsedFourTimesAndChanged(t *testing.T) {
	t.Parallel()
	w, _, _ := atBench(t, t.TempDir(), "Motifs")
	w.op(`{kind: 'add', into: 'layers', at: 0, part: {id: 'gull', name: 'Gull', kind: 'group', size: [400, 300], place: [-400, 0], layers: [
		{id: 'body', name: 'Body', kind: 'shape', fill: '#c01030', size: [200, 100]}, {id: 'wing', name: 'Wing', kind: 'shape', fill: '#1040c0', size: [80, 160], place: [0, -60]}]}}`)
	w.until(`document.querySelector('.tree [data-layer=gull]')`)
	before := w.frame("landscape", 0)
	w.click("[data-layer=gull]")
	w.revised(func() { w.must(w.Press("U", chromedp.ModifierShift)) })
	if w.frame("landscape", 0) != before || w.draft("d.motifs.length + ' ' + d.motifs[0]?.uses") != "1 1" {
		t.Errorf("motifs: %s", w.draft("JSON.stringify(d.motifs)"))
	}
	w.until(`document.querySelector('[data-swatch=motif-' + 'gull' + '], [data-swatch^=motif-]')`)
	uses := []string{"gull"}
	for i := range 3 {
		w.revised(func() { w.click("[data-swatch^=motif-]") })
		id := w.draft("d.layers.filter(y => y.motif).at(-1).id")
		w.op(fmt.Sprintf(`{kind: 'place', layers: [%q], from: [0, 0], to: [%d, %d], format: 'landscape'}`, id, 350*i+350, 100-80*i))
		w.until(fmt.Sprintf(`document.querySelector('.tree [data-layer="%s:wing"]')`, id))
		uses = append(uses, id)
	}
	second, third := uses[1], uses[2]
	fills := func(layer string) string {
		w.saved()
		return eval[string](t, w.Tab, fmt.Sprintf(`(async () => { const id = location.pathname.split('/').pop(); const out = [];
			for (const y of '%s'.split(' ')) { const v = await (await fetch('/api/drafts/' + id + '/layers/' + y + ':%s?format=landscape')).json(); out.push(v.properties.find(p => p.name === 'fill').text) } return out.join(' ') })()`, strings.Join(uses, " "), layer))
	}
	paint := func(colour string) {
		t.Helper()
		w.revised(func() {
			eval[bool](t, w.Tab, fmt.Sprintf(`(() => { const i = document.querySelector('[data-property=fill] input'); i.focus(); i.value = %q; i.dispatchEvent(new Event('input', {bubbles: true})); i.blur(); return true })()`, colour))
		})
	}
	w.click(fmt.Sprintf(`.tree [data-layer="%s:wing"]`, second))
	w.until(`document.querySelector('[data-test=this-use]') && document.querySelector('[data-property=fill] input')`)
	w.click("[data-test=this-use]")
	paint("#ffcc00")
	w.click(fmt.Sprintf(`.tree [data-layer="%s:wing"]`, third))
	w.until(fmt.Sprintf(`document.querySelector('[data-layer-panel="%s:wing"] [data-property=fill] input')`, third))
	w.click("[data-test=this-use]") // another use is another choice
	paint("#884400")
	if got := fills("wing"); got != "#1040c0 #ffcc00 #884400 #1040c0" {
		t.Errorf("set in two uses alone, the wings are %s", got)
	}
	w.click("[data-test=all-uses]")
	w.click(`.tree [data-layer="gull:wing"]`)
	w.until(`document.querySelector('[data-layer-panel="gull:wing"] [data-property=fill] input')`)
	paint("#20a060")
	if got := fills("wing"); got != "#20a060 #ffcc00 #884400 #20a060" {
		t.Errorf("set in all, the wings are %s", got)
	}
	w.click(fmt.Sprintf(`.tree [data-layer="%s:body"]`, uses[3]))
	w.until(fmt.Sprintf(`document.querySelector('[data-layer-panel="%s:body"] [data-property=fill] input')`, uses[3]))
	paint("#3050a0")
	if got := fills("body"); got != "#3050a0 #3050a0 #3050a0 #3050a0" {
		t.Errorf("set in all, the bodies are %s", got)
	}
	before = w.frame("landscape", 0)
	w.click(fmt.Sprintf(`.tree [data-layer="%s"]`, second))
	w.revised(func() { w.click("[data-test=unmotif]") })
	if w.frame("landscape", 0) != before {
		t.Error("made a group again, it is another picture")
	}
}

// Pockets are settled: needed, limited, lined, emptied for delivery and filled again to
// the byte; a free cell takes its pocket back by a press.
func TestPocketsAreSettledAndEmptied(t *testing.T) {
	t.Parallel()
	w, url, _ := atBench(t, t.TempDir(), "Pockets")
	w.must(w.Go(url + "/"))
	w.click("[data-template=four-winds] [data-test=to-bench]")
	w.until(`document.querySelector('.bench [data-layer]')`)
	w.exact()
	full := w.frame("landscape", 120)
	w.revised(func() { w.click("[data-test=empty-all]") })
	empty := w.frame("landscape", 120)
	if empty == full || w.draft("d.pockets.filter(p => p.media).length") != "0" {
		t.Error("emptied, pockets show what they showed")
	}
	w.revised(func() { w.click("[data-test=unempty]") })
	if w.frame("landscape", 120) != full {
		t.Error("put back, the stand-ins are another picture")
	}
	// A cell whose layer goes is free, and takes its pocket again.
	w.click("[data-layer=view-north-east]")
	w.revised(func() { w.key(kb.Delete) })
	w.until(`document.querySelector('[data-free-cell]')`)
	if w.frame("landscape", 120) == full {
		t.Error("without one of its cells it is the same picture")
	}
	w.revised(func() { w.click("[data-free-cell]") })
	if n := w.draft("d.layers.filter(y => y.layout).length"); n != "4" {
		t.Errorf("%s layers are in cells", n)
	}
	// What an editor may do is limited in the panel, and the server keeps to it.
	w.click("[data-rail-pocket=south-west] .pick")
	w.until(`document.querySelector('[data-test=pocket-settings]')`)
	w.revised(func() { w.click("[data-test=required]") })
	if got := w.draft("d.pockets.find(p => p.id === 'south-west').required"); got != "true" {
		t.Errorf("needed: %s", got)
	}
}

// What follows is set by pointing, also at a carrier, which has no picture but a mark;
// cues are dragged along the strip and moved by keys; formats are seen side by side.
func TestPointingCuesAndFormatsSideBySide(t *testing.T) {
	t.Parallel()
	w, _, _ := atBench(t, t.TempDir(), "Point", "1080x1920")
	w.op(`{kind: 'batch', ops: [
		{kind: 'add', into: 'layers', at: 0, part: {id: 'sun', name: 'Sun', kind: 'shape', fill: '#ffcc00', size: ['20vmin', '20vmin'], place: ['-20vmin', 0]}},
		{kind: 'add', into: 'layers', at: 1, part: {id: 'kite', name: 'Kite', kind: 'shape', fill: '#c01030', size: ['20vmin', '20vmin'], place: ['20vmin', 0]}}]}`)
	w.until(`document.querySelector('.tree [data-layer=kite]')`)
	w.exact()
	before := w.frame("landscape", 0)
	w.click("[data-swatch=carrier]")
	w.revised(func() { w.must(w.Drag("[data-test=drawing]", 40, -60)) })
	if w.frame("landscape", 0) != before {
		t.Error("a carrier is seen")
	}
	w.click("[data-layer=kite]")
	point := func() {
		t.Helper()
		w.until(`document.querySelector('[data-property=follow]')`)
		eval[bool](t, w.Tab, `([...document.querySelectorAll('details.more')].forEach(d => d.open = true), true)`)
		w.click("[data-point=follow]")
		w.until(`document.querySelector('[data-test=pointing]')`)
	}
	follows := func(want string) {
		t.Helper()
		if got := w.draft("d.layers.find(y => y.id === 'kite').follows"); got != want {
			t.Errorf("the kite follows %q, not %q", got, want)
		}
	}
	point()
	w.must(w.ClickAt("[data-hit=kite]", 0.5, 0.5)) // itself can't be meant
	w.until(`[...document.querySelectorAll('.n-message')].length > 0`)
	w.revised(func() { w.must(w.ClickAt("[data-hit=sun]", 0.5, 0.5)) })
	follows("sun")
	point()
	w.key(kb.Escape)
	w.until(`!document.querySelector('[data-test=pointing]')`)
	point()
	w.revised(func() { w.must(w.ClickAt("[data-carrier]", 0.5, 0.5)) })
	follows("carrier")
	// The list leads to what it follows.
	w.click("[data-layer=kite] .hang")
	w.until(`document.querySelector('.tree .layer.on')?.dataset.layer === 'carrier'`)

	// A cue is dragged, given up, and moved by a key.
	at := func() string { w.saved(); return w.draft("d.cues[0].frame") }
	was := at()
	w.revised(func() { w.must(w.Drag("[data-cue=poster]", -150, 0)) })
	dragged := at()
	if dragged == was {
		t.Errorf("the cue is still at %s", was)
	}
	letGo, err := w.Hold("[data-cue=poster]", 90, 0)
	w.must(err)
	w.key(kb.Escape)
	w.must(letGo())
	if at() != dragged {
		t.Errorf("given up, it is at %s, not at %s", at(), dragged)
	}
	eval[bool](t, w.Tab, `(document.querySelector('[data-cue=poster]').focus(), true)`)
	w.revised(func() { w.key(kb.ArrowRight) })
	var a, b int
	fmt.Sscan(dragged, &a)
	if fmt.Sscan(at(), &b); b != a+1 {
		t.Errorf("moved by a key from %d it is at %d", a, b)
	}

	// The other format is seen beside this one, follows, and is gone over to.
	w.must(w.Press("V", chromedp.ModifierShift))
	const dark = `(() => { const c = document.querySelector('[data-side-format=%s] canvas'); if (!c || c.width < 20) return ''; const d = c.getContext('2d').getImageData(0, 0, c.width, c.height).data; let n = 0; for (let i = 0; i < d.length; i += 4) n += d[i] > 150 && d[i+1] < 80 ? 1 : 0; return String(n > 40) })()`
	w.until(fmt.Sprintf(dark, "vertical") + ` === 'true'`)
	// Guides lie over it, too, each as the canvas is.
	w.key("g")
	w.until(`document.querySelector('[data-side-format=vertical] [data-mark]')`)
	w.until(`!document.querySelector('.n-message')`)
	w.axe("formats beside one another, with guides")
	w.key("g")
	w.until(`!document.querySelector('[data-mark]')`)
	w.click("[data-layer=kite]")
	w.revised(func() { w.key(kb.Delete) })
	w.until(fmt.Sprintf(dark, "vertical") + ` === 'false'`)
	w.click("[data-side-format=vertical]")
	w.until(`document.querySelector('[data-format=vertical]').classList.contains('on') && document.querySelector('[data-side-format=landscape]')`)
}

// A template on the shelf is renamed and filed, copied, put in the bin and taken out.
func TestTemplatesAreFiledOnTheShelf(t *testing.T) {
	t.Parallel()
	url, _ := serve(t, t.TempDir())
	w := walker{t, tab(t, 1280, 800)}
	w.must(w.Go(url))
	more := func(id, what string) {
		t.Helper()
		w.click("[data-more=" + id + "]")
		w.option(".n-dropdown-option-body", what)
	}
	more("gust", "Rename or file …")
	w.until(`document.activeElement?.getAttribute('aria-label') === 'Name'`)
	w.ctrl("a")
	w.key("Squall" + kb.Enter)
	w.until(`document.querySelector('[data-template=gust] h2')?.innerText === 'Squall' && !document.querySelector('.n-modal')`)
	more("gust", "Copy")
	w.until(`[...document.querySelectorAll('[data-template] h2')].some(h => h.innerText === 'Squall 2')`)
	more("gust", "Put in the bin")
	w.until(`!document.querySelector('[data-template=gust]')`)
	w.click("[data-test=bin]")
	w.click("[data-test=out]")
	w.until(`document.querySelector('[data-template=gust] h2')?.innerText === 'Squall'`)
	w.axe("the shelf")
}

// The pins around a layer stand where Chromium's own maps have them: under two turned,
// stretched groups, and where its corners are pulled into perspective (W3C CSS Transforms
// Level 1; the middle of a side in perspective by construction from vanishing points).
func TestPinsStandWhereDOMMatrixHasThem(t *testing.T) {
	t.Parallel()
	w, _, _ := atBench(t, t.TempDir(), "Pins")
	w.op(`{kind: 'add', into: 'layers', at: 0, part: {id: 'outer', name: 'Outer', kind: 'group', size: [900, 600], place: [120, -40], turn: 33, scale: [0.9, 0.6], layers: [
		{id: 'inner', name: 'Inner', kind: 'group', size: [500, 400], place: [-60, 30], turn: -71, scale: [0.8, 1.2], layers: [
			{id: 'kite', name: 'Kite', kind: 'shape', fill: '#c01030', size: [300, 220], place: [40, -10], turn: 12, corners: [[30, 10], [-40, 25], [10, -30], [-5, 5]]}]}]}}`)
	w.until(`document.querySelector('.tree [data-layer=kite]')`)
	w.click("[data-layer=kite]")
	w.until(`document.querySelectorAll('[data-pin]').length >= 4`)
	w.exact()
	got := eval[map[string][]float64](t, w.Tab, `(() => { const c = document.querySelector('[data-stage] .picture').getBoundingClientRect(); const k = c.width / 1920; const out = {};
		for (const p of document.querySelectorAll('[data-pin]')) { const r = p.getBoundingClientRect(); out[p.dataset.pin] = [(r.x + r.width / 2 - c.x) / k, (r.y + r.height / 2 - c.y) / k] } return out })()`)
	quad := eval[[][]float64](t, w.Tab, `(() => { const m = new DOMMatrix().translate(960 + 120, 540 - 40).rotate(33).scale(0.9, 0.6).translate(-450, -300)
		.translate(450 - 60, 300 + 30).rotate(-71).scale(0.8, 1.2).translate(-250, -200).translate(250 + 40, 200 - 10).rotate(12).translate(-150, -110);
		return [[30, 10], [300 - 40, 25], [310, 220 - 30], [-5, 225]].map(([x, y]) => { const p = m.transformPoint(new DOMPoint(x, y)); return [p.x, p.y] }) })()`)
	cross := func(a, b, c, d []float64) []float64 { // where the lines through a, b and c, d meet
		den := (a[0]-b[0])*(c[1]-d[1]) - (a[1]-b[1])*(c[0]-d[0])
		p, q := a[0]*b[1]-a[1]*b[0], c[0]*d[1]-c[1]*d[0]
		return []float64{(p*(c[0]-d[0]) - (a[0]-b[0])*q) / den, (p*(c[1]-d[1]) - (a[1]-b[1])*q) / den}
	}
	mid := cross(quad[0], quad[2], quad[1], quad[3])
	upright, level := cross(quad[0], quad[3], quad[1], quad[2]), cross(quad[0], quad[1], quad[3], quad[2])
	want := map[string][]float64{"top left": quad[0], "top right": quad[1], "bottom right": quad[2], "bottom left": quad[3],
		"top": cross(upright, mid, quad[0], quad[1]), "bottom": cross(upright, mid, quad[3], quad[2]),
		"left": cross(level, mid, quad[0], quad[3]), "right": cross(level, mid, quad[1], quad[2])}
	for name, p := range want {
		q, ok := got[name]
		if !ok && (name == "top" || name == "bottom" || name == "left" || name == "right") {
			continue // too near to others to be shown
		}
		if !ok || math.Hypot(p[0]-q[0], p[1]-q[1]) > 1.5 {
			t.Errorf("the %s pin stands at %v; Chromium has %v", name, q, p)
		}
	}
	if len(got) < 6 {
		t.Errorf("only %d pins are shown", len(got))
	}
}

// Four Winds is built anew on the bench alone, by pointer and keys: its poster frame is
// the shipped one's to the byte, in both formats.
func TestFourWindsIsBuiltOnTheBench(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	url, _ := serve(t, dir)
	w := walker{t, tab(t, 1280, 800)}
	w.must(w.Go(url + "/drafts"))
	shipped := map[string]string{}
	id := eval[string](t, w.Tab, `fetch('/api/drafts', {method: 'POST', headers: {'Content-Type': 'application/json'}, body: '{"template": "four-winds"}'}).then(r => r.json()).then(d => d.id)`)
	for _, f := range []string{"landscape", "vertical"} {
		w.must(w.Go(url + "/bench/" + id))
		shipped[f] = w.frame(f, 120)
	}
	w.must(w.Go(url + "/drafts"))
	w.click("[data-test=new-template]")
	w.until(`document.activeElement?.getAttribute('aria-label') === 'Name'`)
	w.key("Winds")
	w.click(`[data-canvas="1080x1920"]`)
	w.click(".n-base-selection:has([aria-label='Frames per second'])")
	w.option(".n-base-select-option", "29.97 fps")
	w.click("[aria-label='Length in frames']")
	w.ctrl("a")
	w.key("240" + kb.Tab)
	time.Sleep(400 * time.Millisecond)
	w.click("[data-test=begin]")
	w.until(`document.querySelector('.bench [data-swatch]')`)
	w.exact()

	w.click("[data-swatch=split]")
	w.until(`document.querySelector('[data-test=split-done]')`)
	time.Sleep(400 * time.Millisecond)
	for label, n := range map[string]string{"Gutter": "16", "Margin": "16", "Corner radius": "28"} {
		w.click(fmt.Sprintf(".dialog [aria-label='%s'], .n-modal [aria-label='%s']", label, label))
		w.ctrl("a")
		w.key(n + kb.Tab)
	}
	w.revised(func() { w.click("[data-test=split-done]") })
	w.until(`document.querySelectorAll('[data-rail-pocket]').length === 4 && !document.querySelector('.n-modal')`)
	paint := func(layer, colour string) {
		t.Helper()
		if !eval[bool](t, w.Tab, `!!document.querySelector('[data-layer-panel=`+layer+`]')`) {
			w.click("[data-layer=" + layer + "]")
		}
		w.until(`document.querySelector('[data-layer-panel=` + layer + `] [data-property=fill] input')`)
		w.revised(func() {
			w.click("[data-property=fill] input")
			w.ctrl("a")
			w.key(colour + kb.Enter)
		})
	}
	paint("backing", "#f1e7d2")
	for pocket, name := range map[string]string{"top-left": "Dawn", "top-right": "Noon", "bottom-right": "Dusk", "bottom-left": "Squall"} {
		w.revised(func() { w.must(w.Drop("[data-rail-pocket="+pocket+"-pocket]", w.file(dir, name+".jpg", "image/jpeg"))) })
	}
	w.click("[data-layer=top-right]")
	w.key(kb.PageUp) // the panel that comes lies above what is selected: on top of all
	w.key(kb.Escape)
	w.click("[data-swatch=rectangle]")
	w.revised(func() { w.click("[data-test=drawing]") })
	set := func(layer, property string, numbers ...string) {
		t.Helper()
		w.until(`document.querySelector('[data-layer-panel=` + layer + `] [data-property=` + property + `]')`)
		for i, n := range numbers {
			w.revised(func() { w.set(property, i, n) })
		}
	}
	set("panel", "size", "320", "320")
	set("panel", "radius", "160")
	paint("panel", "#fbfaf5")
	w.click("[data-swatch=mark]")
	w.revised(func() { w.click("[data-test=drawing]") })
	set("mark", "size", "224", "224")
	w.revised(func() {
		w.must(w.Drop("[data-rail-pocket=mark-pocket]", w.file(dir, "Saltmarsh Kite Week.svg", "image/svg+xml")))
	})
	// In the tall format both are larger, there alone.
	w.click("[data-format=vertical]")
	w.until(`document.querySelector('[data-format=vertical]').classList.contains('on')`)
	w.click("[data-test=apart]")
	w.click("[data-layer=mark]")
	set("mark", "size", "270", "270")
	w.click("[data-layer=panel]")
	set("panel", "size", "380", "380")
	set("panel", "radius", "190")
	for f, want := range shipped {
		if got := w.frame(f, 120); got != want {
			t.Errorf("its poster in the %s format is another picture", f)
		}
	}
}

// What is drawn on one canvas lies off another: the bench says so, and lays that one out.
// A pocket that is left without a layer is told, sewn on again and removed. A number that is
// typed right after the press is the number.
func TestWhatIsLeftOverIsToldAndMended(t *testing.T) {
	t.Parallel()
	url, _ := serve(t, t.TempDir())
	w := walker{t, tab(t, 1280, 800)}
	w.must(w.Go(url))
	w.click("[data-test=new-template]")
	w.until(`document.activeElement?.getAttribute('aria-label') === 'Name'`)
	w.key("Strap")
	w.click(`[data-canvas="1080x1920"]`)
	w.click("[data-test=begin]")
	w.until(`document.querySelector('.bench [data-swatch]')`)
	w.op(`{kind: 'insert', way: 'shape', path: 'triangle', from: [100, 500], to: [300, 700], format: 'landscape'}`)
	w.op(`{kind: 'sew', from: [700, 500], to: [900, 700], format: 'landscape', kinds: ['picture'], name: 'Kite'}`)
	w.until(`document.querySelectorAll('.tree .layer').length === 2`)
	w.click("[data-format=vertical]")
	w.revised(func() { w.click("[data-test=astray]") })
	w.until(`!document.querySelector('[data-test=astray]')`)
	if got := w.draft(`d.formats.map(f => f.astray.length).join(' ')`); got != "0 0" {
		t.Errorf("off the canvases are %s", got)
	}
	w.click(".tree .layer:first-child")
	w.until(`document.querySelector('.tree .layer.on')`)
	w.revised(func() { w.key(kb.Delete) })
	w.click(".rail .loose .pick")
	w.until(`document.querySelector('[data-test=remove-pocket]')`)
	w.axe("a pocket that no layer shows")
	w.revised(func() { w.click("[data-test=show-again]") })
	if got := w.draft(`d.pockets.map(p => p.name + p.layers.length).join(' ')`); got != "Kite1" {
		t.Errorf("sewn on again, the pockets are %s", got)
	}
	w.revised(func() { w.ctrl("z") })
	w.revised(func() { w.click("[data-test=remove-pocket]") })
	if got := w.draft(`d.pockets.length`); got != "0" {
		t.Errorf("%s pockets are left", got)
	}
	w.click(".tree .layer")
	w.until(`document.querySelector('[aria-label=Turn]')`)
	w.revised(func() {
		w.click("[aria-label=Turn]")
		w.key("20" + kb.Enter)
	})
	w.until(`document.querySelector('span[aria-label=Turn]')?.ariaValueNow === '20'`)
}
