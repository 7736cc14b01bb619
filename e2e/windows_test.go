package e2e

import (
	"fmt"
	"testing"

	"github.com/chromedp/chromedp/kb"
)

// An hour of frames is scrubbed and played like a few seconds: its frames are
// told by windows, as the playhead comes to them.
func TestALongPieceIsScrubbedAndPlayed(t *testing.T) {
	dir := t.TempDir()
	url, _ := serve(t, dir)
	w := walker{t, tab(t, 1280, 800)}
	w.must(w.Go(url))
	const frames = 90_000
	piece := eval[string](t, w.Tab, fmt.Sprintf(`(async () => {
		const post = async (path, body) => (await fetch(path, { method: 'POST', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify(body) })).json()
		const p = await post('/api/templates/telescope/open?new=true', undefined)
		await post('/api/pieces/' + p.id + '/operations', { id: 'make-it-long', base: p.revision, op: { kind: 'frames', frames: %d } })
		return p.id
	})()`, frames))
	w.must(w.Go(url + "/desk/" + piece))
	w.exact()
	at := func(n int) {
		t.Helper()
		w.until(fmt.Sprintf(`document.querySelector('.clothstrip').getAttribute('aria-valuenow') === '%d'`, n))
		w.exact()
	}
	w.key(kb.End)
	at(frames - 1)
	w.key(kb.ArrowLeft)
	at(frames - 2)
	w.key(kb.Home)
	at(0)
	// Played over the end of a window: frames are presented on both sides.
	for range 25 {
		w.key(kb.ArrowRight)
	}
	at(25)
	w.key(" ")
	w.until(`performance.getEntriesByName('ivy-frame').some((m) => m.detail > 270)`)
	w.key(" ")
	w.exact()
	if eval[bool](t, w.Tab, `!!document.querySelector('.failed, .failure')`) {
		t.Error("something failed on the way")
	}
}
