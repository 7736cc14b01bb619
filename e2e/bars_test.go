package e2e

import (
	"fmt"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// Layers in time are bars: slid and trimmed by pointer and by keys, drawn to the playhead, with their
// keys on them; split at the playhead, and all of it is taken back.
func TestLayersAreBarsInTime(t *testing.T) {
	t.Parallel()
	w, _, _ := atBench(t, t.TempDir(), "Bars")
	w.op(`{kind: 'batch', ops: [
		{kind: 'add', into: 'layers', at: 0, part: {id: 'low', name: 'Low', kind: 'ground', fill: '#204060'}},
		{kind: 'add', into: 'layers', at: 1, part: {id: 'g', name: 'Pair', kind: 'group', size: [600, 400], layers: [{id: 'a', name: 'First', kind: 'shape', fill: '#c01030', size: [200, 200], in: 50, out: 150,
			motion: {turn: {keys: [{at: 60, value: 0}, {at: 140, value: 90}]}}}, {id: 'b', name: 'Second', kind: 'shape', fill: '#c9b88c', size: [100, 100]}]}}]}`)
	w.until(`document.querySelector('.tree [data-layer=b]')`)
	w.exact()
	before := w.draft(`JSON.stringify(d.layers.map(y => [y.id, y.from, y.until, y.tracks.flatMap(t => t.keys.map(k => k.at))]))`)
	if before != `[["low",0,250,[]],["g",0,250,[]],["a",50,150,[60,140]],["b",0,250,[]]]` {
		t.Fatalf("layers are there %s", before)
	}
	w.key("t")
	w.until(`document.querySelectorAll('[data-bar]').length === 4 && document.querySelectorAll('.row .leaves path').length === 2`)
	w.axe("layers in time")
	there := func(id, want string) {
		t.Helper()
		if got := w.draft(fmt.Sprintf(`d.layers.filter(y => y.id === '%s').map(y => y.from + ' ' + y.until + ' ' + y.tracks.flatMap(t => t.keys.map(k => k.at)).join(','))`, id)); got != want {
			t.Errorf("%s is there %s, not %s", id, got, want)
		}
	}
	px := eval[float64](t, w.Tab, `document.querySelector('.clothstrip').getBoundingClientRect().width / 250`)
	// By the pointer: the bar, its ends; a group takes along what is in it.
	w.revised(func() { w.must(w.Drag("[data-bar=a]", 30*px, 0)) })
	there("a", "80 180 90,170")
	w.revised(func() { w.must(w.Drag("[data-bar-in=a]", -20*px, 0)) })
	there("a", "60 180 90,170")
	w.revised(func() { w.must(w.Drag("[data-bar-out=a]", -900*px, 0)) }) // a frame stays
	there("a", "60 61 90,170")
	w.revised(func() { w.ctrl("z") })
	w.revised(func() { w.must(w.Drag("[data-bar=g]", -40*px, 0)) })
	there("a", "20 140 50,130")
	there("g", "0 210 ")
	// Nearly at the playhead, it is drawn to it.
	w.click("button[aria-label='First frame']")
	eval[bool](t, w.Tab, `document.querySelector('.clothstrip').focus() || true`)
	for range 10 {
		w.must(w.Press(kb.ArrowRight, chromedp.ModifierShift))
	}
	w.until(`document.querySelector(".time [data-test=frame]").innerText === "100"`)
	w.revised(func() { w.must(w.Drag("[data-bar-out=a]", -39*px, 0)) })
	there("a", "20 100 50,130")
	// By keys, on the bar and to the playhead.
	eval[bool](t, w.Tab, `document.querySelector('[data-bar=b]').focus() || true`)
	w.revised(func() { w.key(kb.ArrowRight) })
	w.revised(func() { w.must(w.Press(kb.ArrowLeft, chromedp.ModifierAlt)) })
	there("b", "1 249 ")
	w.click("[data-bar=low]")
	w.revised(func() { w.must(w.Press(kb.Home, chromedp.ModifierShift)) })
	there("low", "100 250 ")
	w.click("[data-bar=a]")
	w.revised(func() { w.must(w.Press(kb.Home, chromedp.ModifierShift, chromedp.ModifierCtrl)) })
	there("a", "100 180 130,210")
	w.revised(func() { w.ctrl("z") })
	// Split, nothing is seen of it.
	w.click("[data-bar=low]")
	w.revised(func() { w.ctrl("z") })
	at := w.frame("landscape", 120)
	w.revised(func() { w.key("y") })
	there("low", "0 100 ")
	there("low-2", "100 250 ")
	if w.frame("landscape", 120) != at {
		t.Error("split, it is another picture")
	}
	for w.draft(`JSON.stringify(d.layers.map(y => [y.id, y.from, y.until, y.tracks.flatMap(t => t.keys.map(k => k.at))]))`) != before {
		if w.draft("d.undo") == "" {
			t.Fatal("taken back it is not as it was")
		}
		w.revised(func() { w.ctrl("z") })
	}
	// Only what moves; the height is dragged, and remembered.
	w.click("[data-test=only-moves]")
	w.until(`document.querySelectorAll('[data-bar]').length === 1`)
	w.must(w.Drag("[data-test=bars-grip]", 0, -60))
	high := eval[float64](t, w.Tab, `document.querySelector('[data-test=bars]').clientHeight`)
	w.key("t")
	w.until(`!document.querySelector('[data-test=bars]')`)
	w.click("[data-test=bars-grip]")
	w.until(fmt.Sprintf(`document.querySelector('[data-test=bars]')?.clientHeight === %g`, high))
}
