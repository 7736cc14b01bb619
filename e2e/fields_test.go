package e2e

import (
	"fmt"
	"math"
	"strings"
	"testing"
)

// What is typed in a number field is read by a rule, or refused in place with the
// reason; nothing is left out in silence. Decimal commas, thousands and × as people
// write them: ISO 80000-1, 7.3.2 (comma or point, groups of three set off by spaces);
// apostrophes and commas for thousands: common practice, no source.
func TestNumbersAreReadByARuleOrRefused(t *testing.T) {
	t.Parallel()
	w, _ := onBench(t, t.TempDir(), "telescope")
	w.click("[data-layer=ring]")
	w.until(`document.querySelector('[data-layer-panel=ring] [data-property=place]')`)
	const field = `document.querySelector('[data-layer-panel=ring] [data-property=place] .field')`
	// typed types something and tells what the field has then, and what it says: once that is said, or it has what it
	// is waited for.
	type result struct {
		Value float64
		Why   string
	}
	typed := func(text string, want float64) result {
		t.Helper()
		return eval[result](t, w.Tab, fmt.Sprintf(`(async () => { const f = %s, wait = () => new Promise(r => setTimeout(r, 60)), now = () => Number(f.querySelector('[role=spinbutton]')?.getAttribute('aria-valuenow'));
			const until = async (ok) => { for (let i = 0; i < 100 && !ok(); i++) await wait() };
			const key = (e, k) => e.dispatchEvent(new KeyboardEvent('keydown', {key: k, bubbles: true, cancelable: true}));
			if (!f.querySelector('input')) { key(f.querySelector('[role=spinbutton]'), 'Enter'); await until(() => f.querySelector('input')) }
			const i = f.querySelector('input'); i.value = %q; i.dispatchEvent(new Event('input')); await wait(); key(i, 'Enter');
			const said = () => document.querySelector('[data-test=why]')?.innerText ?? '';
			await until(() => said() || Math.abs(now() - %g) < 1e-6); await wait();
			const why = said(); if (f.querySelector('input')) { key(f.querySelector('input'), 'Escape'); await until(() => !f.querySelector('input')) }
			return {Value: now(), Why: why} })()`, field, text, want))
	}
	for _, c := range []struct {
		text string
		want float64
	}{{"1920/4", 480}, {"3x4", 12}, {"3 × 4", 12}, {"1,5", 1.5}, {"1 920", 1920}, {"1’920.5", 1920.5}, {"1.920,5", 1920.5}, {"1,920.5", 1920.5}, {"2e2", 200},
		{"−5", -5}, {"(2+3)*4", 20}, {"12 px", 12}, {"0,125", 0.125}, {".5", 0.5}, {"10 000 - 1", 9999}, {"2--3", 5}} {
		if got := typed(c.text, c.want); got.Why != "" || math.Abs(got.Value-c.want) > 1e-6 {
			t.Errorf("%q is read as %v (%s), want %v", c.text, got.Value, got.Why, c.want)
		}
	}
	typed("7", 7)
	for text, why := range map[string]string{"1,920": "1,920 can be 1920 or 1.92", "abc": "“abc” is no number", "12 cm": "“cm” can't be read here", "5+": "A number is missing at the end",
		"12 34": "“34” can't be read here", "((2)": "A bracket is not closed", "1/0": "That is no number", "1..2": "1..2 is no number"} {
		if got := typed(text, 1e300); got.Value != 7 || len(got.Why) < len(why) || got.Why[:len(why)] != why {
			t.Errorf("%q: %v and %q, want it refused: %q", text, got.Value, got.Why, why)
		}
	}
	// What is too much becomes the most there may be, and that is told.
	if got := typed("1e9", 1e300); got.Value < 1000 || got.Value >= 1e9 || !strings.HasPrefix(got.Why, "Not above ") {
		t.Errorf("too much: %v, and %q", got.Value, got.Why)
	}
	// What is refused stays when the field is left, and is told.
	eval[bool](t, w.Tab, fmt.Sprintf(`(async () => { const f = %s; f.querySelector('[role=spinbutton]').dispatchEvent(new KeyboardEvent('keydown', {key: 'Enter', bubbles: true})); await new Promise(r => setTimeout(r, 60));
		const i = f.querySelector('input'); i.value = 'seven'; i.dispatchEvent(new Event('input')); i.blur(); return true })()`, field))
	w.until(field + `.querySelector('input')?.value === 'seven' && ` + field + `.querySelector('.hook') && document.querySelector('[role=alert]')`)
}

// Colours are read as CSS Color Module Level 4 writes them; what can't be read stays
// where it was typed. Escape in the picker is to mean nothing, a press elsewhere means
// what was picked.
func TestColoursAreReadAsCSSWritesThem(t *testing.T) {
	t.Parallel()
	w, _, _ := atDesk(t, t.TempDir(), "four-winds")
	const kept = `fetch('/api/pieces/' + location.pathname.split('/').pop()).then(r => r.json()).then(p => p.sheet.flatMap(g => g.entries).find(e => e.kind === 'colour').value)`
	typed := func(text string) {
		t.Helper()
		eval[bool](t, w.Tab, fmt.Sprintf(`(async () => { const i = document.querySelector('[data-entry] .colour input'); i.focus(); i.value = %q; i.dispatchEvent(new Event('input')); await new Promise(r => setTimeout(r, 30));
			i.dispatchEvent(new KeyboardEvent('keydown', {key: 'Enter', bubbles: true, cancelable: true})); return true })()`, text))
	}
	for _, c := range [][2]string{{"12ab34", "#12ab34"}, {"#FC0", "#ffcc00"}, {"rebeccapurple", "#663399"}, {"rgb(1, 2, 3)", "#010203"}, {"rgb(100% 0 50%)", "#ff0080"},
		{"hsl(120 100% 25%)", "#008000"}, {"oklch(1 0 0)", "#ffffff"}, {"  Teal ", "#008080"}} {
		typed(c[0])
		w.until(fmt.Sprintf(`%s.then(v => v === %q)`, kept, c[1]))
		w.until(fmt.Sprintf(`document.querySelector('[data-entry] .colour input').value === %q`, c[1]))
	}
	for _, wrong := range []string{"12ab3", "no colour", "var(--ink)", "currentcolor", "rgb(1 2 3 / 0.5)", "url(x)"} {
		typed(wrong)
		w.until(fmt.Sprintf(`document.querySelector('[data-test=why]') && document.querySelector('[data-entry] .colour input').value === %q`, wrong))
		eval[bool](t, w.Tab, `document.querySelector('[data-entry] .colour input').dispatchEvent(new KeyboardEvent('keydown', {key: 'Escape', bubbles: true, cancelable: true})) || true`)
		w.until(`!document.querySelector('[data-test=why]') && document.querySelector('[data-entry] .colour input').value === '#008080'`)
	}
	pick := func() {
		t.Helper()
		w.click("[data-entry] .colour .swatch")
		w.until(`document.querySelector('.n-color-picker-pallete')?.getBoundingClientRect().width > 100`)
		w.click(".n-color-picker-pallete")
		w.until(`document.querySelector('[data-entry] .colour input').value !== '#008080'`)
	}
	pick()
	w.key("\x1b")
	w.until(`!document.querySelector('.n-color-picker-pallete') && document.querySelector('[data-entry] .colour input').value === '#008080'`)
	w.until(kept + `.then(v => v === '#008080')`)
	pick()
	w.click(".intro")
	w.until(`!document.querySelector('.n-color-picker-pallete')`)
	w.until(kept + `.then(v => v !== '#008080' && v === document.querySelector('[data-entry] .colour input').value)`)
}
