package e2e

import (
	"fmt"
	"os"
	"strings"
	"testing"

	"github.com/chromedp/chromedp/kb"

	"ivypocket/e2e/browser"
)

// axe has axe-core, which comes from npm, look at the page as it stands: rules of WCAG
// 2 and of good practice. Patterns of cloth and pictures behind text are taken away
// first, as contrast can't be measured on them; the colours below them stay.
func (w walker) axe(what string) {
	w.Helper()
	if !eval[bool](w.TB, w.Tab, `!!window.axe`) {
		b, err := os.ReadFile("../web/node_modules/axe-core/axe.min.js")
		if err != nil {
			w.Fatal(err, "; install what the front end needs: make build")
		}
		eval[bool](w.TB, w.Tab, string(b)+"; true")
	}
	found := eval[[]string](w.TB, w.Tab, `(async () => {
		const plain = document.createElement('style');
		plain.textContent = '*, *::before, *::after { background-image: none !important; transition: none !important; animation: none !important }';
		document.head.append(plain);
		await new Promise(r => setTimeout(r, 400)); // what is coming in or fading
		try {
			const r = await axe.run(document, {resultTypes: ['violations']});
			return r.violations.flatMap(v => v.nodes.map(n => v.id + ': ' + n.html.slice(0, 160) + ' ' + n.failureSummary.replace(/\s+/g, ' ')));
		} finally { plain.remove() } })()`)
	for _, f := range found {
		w.Errorf("%s: %s", what, f)
	}
}

// Every view and every dialog, on a small screen of a computer and on a telephone.
func TestAxeFindsNothing(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	w, url, _ := atDesk(t, dir, "four-winds")
	desk := eval[string](t, w.Tab, `location.pathname`)
	// dialog looks at one that is open or coming, and leaves it.
	dialog := func(what, shows string) {
		t.Helper()
		w.until(`document.querySelector('.n-modal ` + shows + `')`)
		w.axe(what)
		w.key(kb.Escape)
		w.until(`!document.querySelector('.n-modal')`)
	}
	w.axe("the desk")
	w.click("[data-rail-pocket=north-west] .pick")
	w.until(`document.querySelector('[data-test=frame-it]')`)
	w.axe("a pocket")
	w.click("[data-test=frame-it]")
	w.until(`document.querySelector('[aria-label=Framing]')`)
	w.axe("framing")
	w.key(kb.Escape)
	w.must(w.Drop("[data-rail-pocket=north-east]", w.file(dir, "Kites at noon.mp4", "video/mp4")))
	w.until(`document.querySelector('[data-rail-pocket=north-east] .badge')`)
	w.click("[data-rail-pocket=north-east] .pick")
	w.until(`document.querySelector('[data-test=clip]')`)
	w.axe("a clip")
	w.key(kb.Escape)
	w.click("[data-side=framing]")
	w.until(`document.querySelector('[data-stand]')`)
	w.axe("the places of the pockets")
	w.click("[data-side=sheet]")
	w.until(`document.querySelector('.sheet')`)
	w.axe("the sheet")
	w.click("[data-test=open-list]")
	w.click("[data-test=keep-row]")
	dialog("the list of a template", "[data-row]")
	w.click("[data-entry] .swatch")
	w.until(`document.querySelector('.n-color-picker-panel')`)
	w.axe("a colour being picked")
	w.key(kb.Escape)
	w.click("[data-side=trial]")
	w.click("[data-test=try]")
	w.until(`document.querySelector('.tiles button')`)
	w.axe("the trial")
	w.click(".tiles button")
	dialog("a picture of the trial", "img")
	w.click("[data-test=ground]")
	w.until(`document.querySelector('.n-popselect-menu, .n-base-select-menu')`)
	w.axe("the grounds")
	w.key(kb.Escape)
	w.click("[aria-label='Keys']")
	dialog("the keys", "kbd")
	w.click("[data-rail-pocket=mark-pocket] .pick")
	w.key("o")
	dialog("choosing media", "[data-pick]")
	w.click("[data-test=fold-rail]")
	w.click("[data-test=fold-panel]")
	w.until(`document.querySelectorAll('.unfold').length === 2`)
	w.axe("the desk with its panels folded")
	w.click("[data-test=unfold-rail]")
	w.click("[data-test=unfold-panel]")
	w.click("[data-test=render]")
	w.until(`document.querySelector('.n-modal [data-test=start-render]')`)
	w.axe("starting a render")
	w.click("[data-kind=png]")
	w.click("[data-test=start-render]")
	w.until(`document.querySelector('[data-state=done]')`)
	w.axe("the queue")
	w.click("button.view")
	dialog("what was rendered", "img.large")
	w.click("[data-test=clear]")
	dialog("clearing a render away", "[data-test=sure]")

	w.must(w.Go(url + "/media"))
	w.click(".card")
	w.until(`document.querySelector('[data-test=one]')`)
	w.axe("the media store")
	w.click("[data-test=replace]")
	dialog("replacing media", "[data-pick]")
	w.click("[data-test=fill-with]")
	dialog("filling with media", "[data-fit]")
	var row []browser.File
	for i := range 5 {
		f := w.file(dir, "Dawn.jpg", "image/jpeg")
		f.Name = fmt.Sprintf("DSC_%04d.jpg", i)
		row = append(row, f)
	}
	w.must(w.Drop(".media", row...))
	dialog("numbered pictures", "[data-test=numbered]")
	w.must(w.Go(url + "/"))
	w.until(`document.querySelector('.card')`)
	w.axe("the shelf")
	w.must(w.Go(url + "/pieces"))
	w.click("[data-test=duplicate]")
	w.until(`document.querySelector('.name-field')`)
	w.axe("the list of pieces")
	w.click("[data-piece] [data-test=delete]")
	w.click("[data-test=deleted]")
	w.until(`document.querySelector('[data-deleted]')`)
	w.axe("what was deleted")

	phone := walker{t, tab(t, 390, 844)}
	for _, place := range []string{"/", "/pieces", "/media", "/renders", "/people", desk, desk + "?panel=framing", desk + "?panel=sheet", desk + "?panel=trial"} {
		phone.must(phone.Go(url + place))
		phone.until(`document.querySelector('h1') && !document.querySelector('[aria-busy=true]')`)
		phone.axe("on a telephone, " + place)
	}
	phone.click("[data-test=render]")
	phone.until(`document.querySelector('.n-modal [data-test=start-render]')`)
	phone.axe("on a telephone, starting a render")
}

// stop is a script that tells of what has the focus, and whether that can be seen: if
// nothing around it looks otherwise than without the focus, it can't.
const stop = `(async () => {
	const e = document.activeElement;
	if (!e || e === document.body) return '';
	const above = e.parentElement.parentElement ?? e.parentElement;
	const look = () => [e, ...[...e.querySelectorAll('*')].slice(0, 20), above, ...[...above.querySelectorAll('*')].slice(0, 90)].map(x => [undefined, '::before', '::after'].map(p => { const s = getComputedStyle(x, p);
		return [s.outlineStyle === 'none' ? '' : s.outlineWidth + s.outlineColor + s.outlineOffset, s.boxShadow, s.borderColor, s.stroke, s.strokeWidth, s.backgroundColor, s.opacity, s.clipPath].join() }).join(';')).join('|');
	const name = e.tagName + ' ' + (e.getAttribute('aria-label') ?? e.innerText ?? '').replace(/\s+/g, ' ').slice(0, 40) + ' .' + String(e.className.baseVal ?? e.className).slice(0, 60);
	const seen = look();
	e.blur();
	const shown = look() !== seen;
	e.focus({preventScroll: true});
	const r = e.getBoundingClientRect(), out = r.right < 0 || r.bottom < 0 || r.left > innerWidth || r.top > innerHeight;
	return name + (shown ? '' : ' SHOWS NO FOCUS') + (out ? ' IS OUT OF SIGHT' : '') })()`

// Every stop of the Tab key shows that it has the focus, and lists of many are one stop.
func TestEveryStopShowsItsFocus(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	w, url, _ := atDesk(t, dir, "four-winds")
	desk := eval[string](t, w.Tab, `location.pathname`)
	walk := func(what string, most int) (stops []string) {
		t.Helper()
		eval[bool](t, w.Tab, `(() => { const s = document.createElement('style'); s.textContent = '*, *::before, *::after { transition: none !important; animation: none !important }'; document.head.append(s);
			document.activeElement.blur(); document.body.tabIndex = -1; document.body.focus(); document.body.removeAttribute('tabindex'); return true })()`)
		for range most {
			w.key(kb.Tab)
			s := eval[string](t, w.Tab, stop)
			if s == "" || len(stops) > 0 && s == stops[0] {
				break
			}
			stops = append(stops, s)
			if strings.Contains(s, "SHOWS NO FOCUS") || strings.Contains(s, "IS OUT OF SIGHT") {
				t.Errorf("%s, stop %d: %s", what, len(stops), s)
			}
		}
		if len(stops) < 6 || len(stops) == most {
			t.Errorf("%s: %d stops: %q", what, len(stops), stops)
		}
		return stops
	}
	count := func(stops []string, of string) (n int) {
		for _, s := range stops {
			if strings.Contains(s, of) {
				n++
			}
		}
		return n
	}
	w.must(w.Go(url + desk + "?panel=sheet"))
	w.exact()
	stops := walk("the sheet", 90)
	// Five pockets of the stage are five stops, and three tabs are one; to come by a pocket
	// leaves the sheet where it is.
	for _, part := range []string{"Gutter", "Corner radius", "Backing colour"} {
		if count(stops, part) == 0 {
			t.Errorf("%s is no stop of the sheet: %q", part, stops)
		}
	}
	if n := count(stops, "Pocket "); n != 5 {
		t.Errorf("the stage is %d stops: %q", n, stops)
	}
	// What was folded away can be brought back by the next key.
	eval[bool](t, w.Tab, `document.querySelector('[data-test=fold-panel]').focus() || true`)
	w.key(kb.Enter)
	w.until(`document.activeElement.dataset.test === 'unfold-panel'`)
	w.key(kb.Enter)
	w.until(`document.activeElement.dataset.test === 'fold-panel'`)
	// The way past them.
	eval[bool](t, w.Tab, `document.querySelector('.past').focus() || true`)
	w.key(kb.Enter)
	w.until(`document.activeElement === document.querySelector('[data-stage]')`)

	w.must(w.Go(url + desk + "?pocket=north-west&panel=framing"))
	w.exact()
	walk("a pocket at the desk", 90)
	for _, place := range []string{"/", "/pieces", "/media", "/renders"} {
		w.must(w.Go(url + place))
		w.until(`document.querySelector('h1') && !document.querySelector('[aria-busy=true]')`)
		if place == "/renders" {
			continue // nothing is there yet but the way to the shelf
		}
		walk(place, 90)
	}
}

// On a telephone and at twice the size (WCAG 2.2, 1.4.4 and 1.4.10) the stage is there,
// Render is in reach, and nothing has to be scrolled across.
func TestSmallWindowsAreUsable(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	w, url, _ := atDesk(t, dir, "four-winds")
	desk := eval[string](t, w.Tab, `location.pathname`)
	renamed(w, strings.TrimPrefix(desk, "/desk/"), "A long name that somebody pasted from a brief and never made shorter, for the ferry screens")
	fits := func(w walker, what string) {
		t.Helper()
		if wide := eval[[]string](t, w.Tab, `[...document.querySelectorAll('body *')].filter(e => e.scrollWidth > e.clientWidth + 1 && ['auto', 'scroll'].includes(getComputedStyle(e).overflowX) && !e.matches('.formats'))
			.map(e => e.tagName + '.' + e.className + ' ' + e.scrollWidth + ' in ' + e.clientWidth)`); len(wide) > 0 {
			t.Errorf("%s has to be scrolled across: %q", what, wide)
		}
	}
	inSight := `(sel => { const e = document.querySelector(sel), r = e?.getBoundingClientRect(); return !!r && r.width > 20 && r.height > 12 && r.left >= 0 && r.top >= 0 && r.right <= innerWidth && r.bottom <= innerHeight &&
		e.contains(document.elementFromPoint(r.x + r.width / 2, r.y + r.height / 2)) })`
	for _, size := range [][2]int{{390, 844}, {720, 450}} {
		s := walker{t, tab(t, size[0], size[1])}
		what := fmt.Sprintf("%d × %d", size[0], size[1])
		for _, place := range []string{"/", "/pieces", "/media", "/renders", "/people"} {
			s.must(s.Go(url + place))
			s.until(`document.querySelector('h1') && !document.querySelector('[aria-busy=true]')`)
			fits(s, what+" "+place)
		}
		s.must(s.Go(url + desk))
		s.exact()
		fits(s, what+" at the desk")
		for _, sel := range []string{".picture", "[data-test=render]", "[data-test=play]", ".clothstrip", "[aria-label=Undo]", "[data-format=vertical]"} {
			if !eval[bool](t, s.Tab, inSight+fmt.Sprintf("(%q)", sel)) {
				t.Errorf("%s: %s is not in sight", what, sel)
			}
		}
		if n := eval[float64](t, s.Tab, `(r => r.width * r.height)(document.querySelector('.picture').getBoundingClientRect())`); n < 0.15*float64(size[0]*size[1]) {
			t.Errorf("%s: the picture takes %.0f %% of the window", what, 100*n/float64(size[0]*size[1]))
		}
		// A pocket is picked on the stage, and its zoom set in the panel.
		s.click("svg [data-pocket=north-east]")
		s.until(`document.querySelector('[data-test=frame-it]')`)
		fits(s, what+" with a pocket")
		s.click("[data-test=frame-it]")
		s.until(inSight + `("[data-test=framing-done]")`)
		s.click("[data-test=framing-done]")
		// A long name leaves room for what stands beside it.
		if over := eval[float64](t, s.Tab, `document.querySelector('.bar h1 .name').getBoundingClientRect().right - document.querySelector('.history').getBoundingClientRect().left`); over > 0 {
			t.Errorf("%s: the name lies %.0f px over undo", what, over)
		}
		eval[bool](t, s.Tab, `[...document.querySelectorAll('[role=spinbutton]')].find(e => e.getAttribute('aria-label') === 'Zoom').focus() || true`)
		s.key(kb.ArrowUp)
		s.until(`document.querySelector('[aria-label=Undo]:not(:disabled)')`)
		s.click("[aria-label=Undo]")
		s.until(`document.querySelector('[aria-label=Undo]:disabled')`)
		s.click("[data-test=render]")
		s.until(`document.querySelector('.n-modal [data-test=start-render]')`)
		fits(s, what+" starting a render")
		s.key(kb.Escape)
	}

	// Panels fold, and stay so when the page is loaded again.
	wide := eval[float64](t, w.Tab, `document.querySelector('[data-stage]').clientWidth`)
	w.click("[data-test=fold-rail]")
	w.click("[data-test=fold-panel]")
	w.until(fmt.Sprintf(`document.querySelector('[data-stage]').clientWidth > %v + 400`, wide))
	w.exact()
	w.must(w.Go(url + desk))
	w.until(`document.querySelectorAll('.unfold').length === 2`)
	w.click("[data-test=unfold-rail]")
	w.click("[data-rail-pocket=mark-pocket] .pick")
	w.click("[data-test=unfold-panel]")
	w.until(fmt.Sprintf(`document.querySelector('[data-stage]').clientWidth === %v && document.querySelector('[data-test=frame-it]')`, wide))
}

// On a telephone, by a finger: a pocket is picked on the picture and framed there, a slider
// is drawn, a colour chosen, the playhead drawn along, and all of it undone.
func TestTheDeskByAFinger(t *testing.T) {
	t.Parallel()
	url, _ := serve(t, t.TempDir())
	w := walker{t, tab(t, 390, 844)}
	w.must(w.Touch())
	tap := func(sel string) { t.Helper(); w.must(w.Tap(sel)) }
	w.must(w.Go(url))
	tap("[data-template=four-winds] .picture")
	w.exact()
	undo := func(title string) {
		t.Helper()
		w.until(`document.querySelector('[aria-label=Undo]').title.startsWith('Undo: ` + title + `')`)
	}
	tap("svg [data-pocket=north-east]")
	w.until(`document.querySelector('.n-radio-group, .fits') && document.querySelector('[role=tab].on').innerText === 'Framing'`)
	tap("[data-test=frame-it]")
	w.until(`document.querySelector('[data-test=grab]')`)
	zoom := `[...document.querySelectorAll('[role=spinbutton]')].find(e => e.getAttribute('aria-label') === 'Zoom')`
	eval[bool](t, w.Tab, zoom+`.focus() || true`)
	w.key("150\r")
	w.until(zoom + `.getAttribute('aria-valuenow') === '150'`)
	w.exact()
	w.must(w.Swipe("[data-test=grab]", 18, 8))
	undo("Pan of North-east")
	tap("[data-test=framing-done]")
	w.until(`!document.querySelector('[data-test=grab]')`)

	tap("[data-side=sheet]")
	w.until(`document.querySelector('[data-entry=gutter] .n-slider-handle')`)
	gutter := `Number(document.querySelector('[data-entry=gutter] [role=spinbutton]').getAttribute('aria-valuenow'))`
	eval[bool](t, w.Tab, `(document.querySelector('[data-entry=gutter]').scrollIntoView({block: 'center'}), true)`)
	w.must(w.Swipe("[data-entry=gutter] .n-slider-handle", 60, 0))
	w.until(gutter + ` > 40`)
	undo("Gutter")
	at := w.text("[data-test=frame]")
	w.must(w.Swipe(".clothstrip", 70, 0))
	w.until(`document.querySelector('[data-test=frame]').innerText !== '` + at + `'`)
	tap("[data-side=pockets]")
	w.until(`document.querySelector('[data-rail-pocket=south-west] .pick')`)
	tap("[data-rail-pocket=south-west] .pick")
	w.until(`document.querySelector('[role=tab].on').innerText === 'Framing'`)
	tap("[data-test=play]")
	w.until(`document.querySelector('[data-test=play]').getAttribute('aria-label') !== 'Play'`)
	tap("[data-test=play]")
	for _, title := range []string{"Gutter", "Pan of North-east", "Zoom of North-east"} {
		undo(title)
		tap("[aria-label=Undo]")
	}
	w.until(`document.querySelector('[aria-label=Undo]').disabled`)
	tap("[data-test=render]")
	w.until(`document.querySelector('.n-modal [data-test=start-render]')`)
}
