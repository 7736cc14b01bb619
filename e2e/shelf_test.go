package e2e

import (
	"fmt"
	"testing"

	"github.com/chromedp/chromedp/kb"
)

// listed is a script of the names that the list of pieces shows, in their order.
const listed = `[...document.querySelectorAll('[data-piece] .name')].map(e => e.innerText).join()`

// Pieces are found among many, sorted, renamed, duplicated, deleted and brought back,
// and a window that has a deleted one open says so.
func TestPiecesAreFoundRenamedDuplicatedAndBroughtBack(t *testing.T) {
	t.Parallel()
	w, url, _ := atDesk(t, t.TempDir(), "four-winds")
	piece := eval[string](t, w.Tab, `location.pathname.split('/').pop()`)
	renamed(w, piece, "Harbour 9")
	for range 5 {
		eval[bool](t, w.Tab, `fetch('/api/templates/four-winds/open?new=true', {method: 'POST'}).then(r => r.ok)`)
	}
	eval[bool](t, w.Tab, `fetch('/api/templates/gust/open?new=true', {method: 'POST'}).then(r => r.ok)`)
	renamed(w, eval[string](t, w.Tab, `fetch('/api/pieces').then(r => r.json()).then(l => l.find(p => p.template === 'gust').id)`), "Harbour 10")

	// The shelf shows the last four of each template, and leads to all of them and to
	// what a search finds among pieces.
	list, err := w.Another(1280, 800)
	w.must(err)
	t.Cleanup(list.Close)
	l := walker{t, list}
	l.must(list.Go(url))
	// A press on a template's picture asks whether the last piece is meant or a new one, and changes nothing before.
	pieces := `fetch('/api/pieces').then(r => r.json()).then(l => l.filter(p => p.template === 'gust').length)`
	l.click("[data-template=gust] .picture")
	l.until(`document.querySelector('[data-test=choose-last]')?.innerText.includes('Go on with Harbour 10')`)
	if n := eval[int](t, list, pieces); n != 1 {
		t.Errorf("there are %d pieces before anything was chosen", n)
	}
	l.click("[data-test=choose-last]")
	l.until(`document.querySelector('.bar .name')?.innerText === 'Harbour 10'`)
	l.must(list.Go(url))
	l.click("[data-test=all-pieces]")
	l.until(`document.querySelectorAll('[data-piece]').length === 6 && document.querySelector('.only')`)
	l.must(list.Go(url))
	l.click("input[type=search]")
	l.key("harbour")
	l.until(`document.querySelector('[data-test=found-pieces]')?.innerText.startsWith('2 pieces match')`)
	l.click("[data-test=found-pieces]")
	l.until(listed + ` === 'Harbour 10,Harbour 9'`)

	// By name, with numbers as people count.
	l.click("[data-sort=name]")
	l.until(listed + ` === 'Harbour 9,Harbour 10' && document.querySelector('th[aria-sort=ascending]')`)
	l.click("[data-sort=name]")
	l.until(listed + ` === 'Harbour 10,Harbour 9'`)

	// Renamed by keys; Escape leaves it as it was. The open window is told.
	row := fmt.Sprintf("[data-piece=%q]", piece)
	l.click(row + " [data-test=rename]")
	l.key("Quay" + kb.Escape)
	l.until(listed + ` === 'Harbour 10,Harbour 9'`)
	l.key(kb.Enter) // the focus is back on the button
	l.until(`document.activeElement.className === 'name-field'`)
	l.key("Harbour wall" + kb.Enter)
	l.until(listed + ` === 'Harbour wall,Harbour 10'`)
	w.until(`document.querySelector('.bar .name')?.innerText === 'Harbour wall'`)

	// A duplicate is named at once; taking it back deletes it.
	l.click(row + " [data-test=duplicate]")
	l.until(`document.activeElement.className === 'name-field' && document.activeElement.value === 'Harbour wall 2'`)
	l.key("Harbour light" + kb.Enter)
	l.until(listed + ` === 'Harbour wall,Harbour light,Harbour 10'`)
	l.click("[data-test=undo]")
	l.until(listed + ` === 'Harbour wall,Harbour 10' && document.querySelector('[data-test=deleted]')`)

	// Picked one by one, or all that the search found, and deleted in one go.
	l.click(row + " .n-checkbox")
	l.until(`document.querySelector('[data-test=delete-chosen]')?.innerText.includes('Delete 1')`)
	l.click("[data-test=all]")
	l.until(`document.querySelector('[data-test=delete-chosen]')?.innerText.includes('Delete 2')`)
	l.click("[data-test=delete-chosen]")
	l.until(`document.querySelectorAll('[data-piece]').length === 0 && document.querySelector('[data-test=done]')?.innerText.includes('Deleted 2 pieces')`)
	w.until(`document.body.innerText.includes('This piece was deleted')`)
	l.click("[data-test=undo]")
	l.until(listed + ` === 'Harbour wall,Harbour 10'`)
	w.exact() // what was open is open again

	// It comes back by whoever has it open, too, and can then be worked on.
	// A dialog about it ends with it, and does not come back empty.
	w.click("[data-test=render]")
	w.until(`document.querySelector('[data-test=start-render]')`)
	l.click(row + " [data-test=delete]")
	w.click("[data-test=back]")
	w.exact()
	w.until(`!document.querySelector('[data-test=start-render]')`)
	l.until(listed + ` === 'Harbour wall,Harbour 10'`)
	w.click("[data-rail-pocket=north-west] .pick")
	w.click("[data-fit=contain]")
	w.until(`document.querySelector('[aria-label=Undo]:not(:disabled)')`)

	// And from the list of what was deleted.
	l.click(row + " [data-test=delete]")
	l.until(listed + ` === 'Harbour 10'`)
	l.click("[data-test=deleted]")
	l.click("[data-deleted=" + quoted(piece) + "] [data-test=back]")
	l.until(listed + ` === 'Harbour wall,Harbour 10'`)
	l.must(list.Go(url + "/pieces?find=nobody"))
	l.until(`document.body.innerText.includes('No piece matches “nobody”')`)
}

func quoted(s string) string { return fmt.Sprintf("%q", s) }

// Renders that have ended are cleared many at once, after asking; what waits stays.
func TestManyRendersAreClearedAtOnce(t *testing.T) {
	t.Parallel()
	w, url, _ := atDesk(t, t.TempDir(), "four-winds")
	queue := func(kind string) {
		t.Helper()
		eval[bool](t, w.Tab, fmt.Sprintf(`(async () => { const id = location.pathname.split('/').pop(), p = await (await fetch('/api/pieces/' + id)).json();
			return (await fetch('/api/renders', {method: 'POST', headers: {'Content-Type': 'application/json'}, body: JSON.stringify({piece: id, format: p.template.formats[0].id, kind: %q})})).ok })()`, kind))
	}
	// A film that takes longer than all that is done beside it.
	if !eval[bool](t, w.Tab, `(async () => { const id = location.pathname.split('/').pop();
		return (await fetch('/api/pieces/' + id + '/operations', {method: 'POST', headers: {'Content-Type': 'application/json'}, body: JSON.stringify({id: crypto.randomUUID(), base: 0, op: {kind: 'frames', frames: 9000}})})).ok })()`) {
		t.Fatal("the piece was not made longer")
	}
	queue("mp4")
	for range 3 {
		queue("png")
	}
	w.must(w.Go(url + "/renders"))
	// The pictures are ready while the film is being made.
	w.until(`document.querySelectorAll('[data-state=done]').length === 3 && document.querySelectorAll('[data-state=running]').length === 1`)
	w.click("[data-state=done] .n-checkbox")
	w.until(`document.querySelector('[data-test=clear-chosen]')?.innerText.includes('Clear 1 away')`)
	// With Shift all from there to here.
	eval[bool](t, w.Tab, `[...document.querySelectorAll('[data-state=done] .n-checkbox')].at(-1).dispatchEvent(new MouseEvent('click', {bubbles: true, shiftKey: true}))`)
	w.until(`document.querySelector('[data-test=clear-chosen]')?.innerText.includes('Clear 3 away')`)
	w.click("[data-test=clear-chosen]")
	w.until(`document.querySelector('[data-test=sure]')?.innerText.includes('3 renders and their files')`)
	w.click("[data-test=clear-away]")
	w.until(`document.querySelectorAll('[data-render]').length === 1 && document.querySelector('[data-state=running]')`)
	w.click("[data-test=cancel]")
	w.click("[data-test=clear]")
	w.click("[data-test=clear-away]")
	w.until(`document.body.innerText.includes('Nothing rendered yet')`)
}
