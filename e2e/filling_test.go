package e2e

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"
)

// asks sends a request of the page's and returns what it answers.
func (w walker) asks(method, path string, body any) map[string]any {
	w.Helper()
	b, err := json.Marshal(body)
	w.must(err)
	text := eval[string](w.TB, w.Tab, fmt.Sprintf(`fetch(%q, {method: %q, headers: {'Content-Type': 'application/json'}, body: %q}).then(r => r.text())`, path, method, b))
	var out map[string]any
	w.must(json.Unmarshal([]byte(text), &out))
	return out
}

// released makes a template of a purpose with its pockets on the sheet.
func (w walker) released(name, purpose string) {
	w.Helper()
	d := w.asks("POST", "/api/drafts", map[string]any{"start": map[string]any{"name": name, "category": "Frames", "rate": "25", "frames": 50, "purpose": purpose, "canvases": [][2]int{{1920, 1080}}}})
	var paths []string
	for _, k := range d["pockets"].([]any) {
		paths = append(paths, "pockets/"+k.(map[string]any)["id"].(string))
	}
	w.asks("POST", "/api/drafts/"+d["id"].(string)+"/operations", map[string]any{"id": "offer-" + name, "base": 0, "op": map[string]any{"kind": "offer", "paths": paths}})
	w.asks("POST", "/api/drafts/"+d["id"].(string)+"/release", map[string]any{})
}

// From the media store a clip goes into the frame that is made for one, which becomes as
// large, as fast and as long as it; two go to A and B, in either order.
func TestAClipFillsWhatIsMadeForIt(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	url, _ := serve(t, dir)
	w := walker{t, tab(t, 1280, 800)}
	w.must(w.Go(url + "/media"))
	w.released("Hem", "frame")
	w.released("Turn", "transition")
	w.click(`[data-medium="Squall coming in.mp4"]`)
	w.click("[data-test=fill-with]")
	w.until(`document.querySelector('[data-fit]')?.dataset.fit === 'hem' && document.querySelector('[data-fit=hem]').innerText.includes('1280 × 720 at 24, 110 frames')`)
	w.click("[data-fit=hem] [data-test=fill-it]")
	w.exact()
	w.until(`document.querySelector('[data-test=measure]')?.innerText.includes('1280 × 720 at 24, 110 frames')`)
	// As the template is, by hand and by undo, and the clip's again.
	w.click("[data-test=leave-measure]")
	w.until(`document.querySelector('[data-test=measure]').innerText.includes('1920 × 1080 at 25, 50 frames')`)
	w.click("[data-test=take-measure]")
	w.until(`document.querySelector('[data-test=measure]').innerText.includes('110 frames') && document.body.innerText.includes('of 110 at 24')`)
	w.click("[aria-label=Undo]")
	w.until(`document.querySelector('[data-test=measure]').innerText.includes('50 frames')`)
	w.click("[aria-label=Redo]")
	w.until(`document.querySelector('[data-test=measure]').innerText.includes('110 frames')`)
	// Other media in its pocket leaves the measure until it is wished.
	w.must(w.Drop("[data-pocket=clip]", w.file(dir, "Marsh, upright.jpg", "image/jpeg")))
	w.until(`document.querySelector('[data-test=measure]').innerText.includes('as a clip before it was')`)
	w.click("[data-test=take-measure]")
	w.until(`document.querySelector('[data-test=measure]').innerText.includes('1200 × 2100 at 25')`)

	// Two, A and B, in either order.
	w.must(w.Go(url + "/media"))
	w.click(`[data-medium="Kites at noon.mp4"]`)
	w.click("[data-test=fill-with]")
	w.click("[data-test=add-another]")
	w.click(`[data-pick="Squall coming in.mp4"]`)
	w.until(`document.querySelector('[data-fit]')?.dataset.fit === 'turn' && /Clip A Kites.*Clip B Squall/.test(document.querySelector('[data-fit=turn]').innerText)`)
	w.click("[data-test=swap-media]")
	w.until(`/Clip A Squall.*Clip B Kites/.test(document.querySelector('[data-fit=turn]')?.innerText ?? '')`)
	w.click("[data-fit=turn] [data-test=fill-it]")
	w.exact()
	w.until(`document.querySelector('[data-rail-pocket=from]')?.innerText.includes('Squall') && document.querySelector('[data-rail-pocket=to]').innerText.includes('Kites')`)
}

// Rows of a list that is kept with a template fill pieces; it comes and goes as CSV.
func TestAPieceIsFilledFromAList(t *testing.T) {
	t.Parallel()
	w, _, _ := atDesk(t, t.TempDir(), "four-winds")
	w.click("[data-side=sheet]")
	w.click("[data-test=open-list]")
	w.until(`document.querySelector('[data-test=keep-row]')`)
	w.click("[data-test=keep-row]")
	w.until(`document.querySelectorAll('[data-row]').length === 1`)
	// Another pocket is filled that the file has no column for: no row of it empties that.
	eval[bool](t, w.Tab, `(async () => { const id = location.pathname.split('/').pop(), p = await (await fetch('/api/pieces/' + id)).json(), m = (await (await fetch('/api/media')).json()).find(m => m.name === 'Dawn.jpg')
		return (await fetch('/api/pieces/' + id + '/operations', {method: 'POST', headers: {'Content-Type': 'application/json'}, body: JSON.stringify({id: 'fill-the-other', base: p.revision, op: {kind: 'fill', pocket: 'north-east', media: m.hash}})})).ok })()`)
	w.until(`document.querySelector('[data-rail-pocket=north-east]').innerText.includes('Dawn')`)
	csv := "Name,North-west sky,Gutter\nMonday,Noon.jpg,24\nTuesday,Nowhere.jpg,9000\n"
	eval[bool](t, w.Tab, fmt.Sprintf(`(() => { const f = document.querySelector('[data-test=csv-file]'), d = new DataTransfer(); d.items.add(new File([%q], 'week.csv')); f.files = d.files; f.dispatchEvent(new Event('change')); return true })()`, csv))
	w.until(`document.querySelectorAll('[data-row]').length === 3 && document.querySelector('[data-test=done]').innerText.includes('week.csv was read')`)
	if bad := w.text("[data-row=Tuesday]"); !strings.Contains(bad, "Nowhere.jpg is not in the store") || !strings.Contains(bad, "9000 is outside") {
		t.Errorf("%q", bad)
	}
	// A row that can't be used fills nothing and says why; it is mended in its place.
	w.click("[data-row=Tuesday] [data-test=fill-row]")
	w.until(`document.body.innerText.includes('Tuesday, Gutter')`)
	w.click(`[data-row=Tuesday] [data-cell=gutter] input`)
	eval[bool](t, w.Tab, `document.activeElement.select() ?? true`)
	w.key("30\r")
	w.until(`!document.querySelector('[data-row=Tuesday] [data-cell=gutter].bad')`)
	w.click(`[data-row=Tuesday] [data-cell=north-west-sky] button`)
	w.until(`document.querySelector('[data-pick="Dusk.jpg"]')`)
	w.click(`[data-pick="Dusk.jpg"]`)
	w.until(`!document.querySelector('[data-row=Tuesday] .bad')`)
	w.click("[data-row=Tuesday] [data-test=fill-row]")
	w.until(`document.querySelector('[data-entry=gutter] [role=spinbutton]').ariaValueNow === '30' && document.querySelector('[data-rail-pocket=north-west]').innerText.includes('Dusk') && document.querySelector('[data-rail-pocket=north-east]').innerText.includes('Dawn')`)
	w.click("[aria-label=Undo]")
	w.until(`document.querySelector('[data-entry=gutter] [role=spinbutton]').ariaValueNow !== '30'`)
	// The first row was kept while that pocket was empty: what it empties is said before it does.
	w.click("[data-test=open-list]")
	w.click("[data-row]:first-child [data-test=fill-row]")
	w.until(`document.querySelector('[data-test=row-empties]')?.innerText.includes('(Dawn.jpg)')`)
	w.until(`document.querySelector('[data-rail-pocket=north-east]').innerText.includes('Dawn')`)
	w.click("[data-test=row-fill]")
	w.until(`!document.querySelector('[data-rail-pocket=north-east]').innerText.includes('Dawn')`)
	w.click("[aria-label=Undo]")
	// What was taken off comes back.
	w.click("[data-test=open-list]")
	w.click("[data-row=Monday] [data-test=remove-row]")
	w.until(`document.querySelectorAll('[data-row]').length === 2`)
	w.click("[data-test=done] [data-test=undo]")
	w.until(`document.querySelectorAll('[data-row]').length === 3`)
	if got := eval[string](t, w.Tab, `fetch(document.querySelector('[data-test=save-csv]').href).then(r => r.text())`); !strings.Contains(got, "Monday,") || !strings.Contains(got, "Tuesday,Dusk.jpg") {
		t.Errorf("%q", got)
	}
}
