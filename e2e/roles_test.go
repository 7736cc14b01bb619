package e2e

import (
	"fmt"
	"strings"
	"testing"

	"ivypocket/access"
)

// A server where people show codes: an editor fills and renders and sees nothing of what
// designers build, does not lose what they did when their session ends in the middle of it,
// and is out as soon as a designer withdraws their code.
func TestEditorsFillAndDesignersBuild(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	seed(t, dir)
	url, s, end, err := start(dir, true)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() {
		if err := end(); err != nil {
			t.Error(err)
		}
	})
	codes := map[access.Role]string{}
	for role, name := range map[access.Role]string{access.Designer: "Odalys Fenn", access.Editor: "Ruan Teague"} {
		if _, codes[role], err = s.NewCode(t.Context(), name, role); err != nil {
			t.Fatal(err)
		}
	}
	w, boss := walker{t, tab(t, 1280, 800)}, walker{t, tab(t, 1280, 800)}
	enter := func(w walker, code string) {
		t.Helper()
		w.until(`document.activeElement?.ariaLabel === 'Access code'`)
		w.key(code)
		w.click("[data-test=enter]")
	}
	w.must(w.Go(url + "/renders"))
	w.until(`document.querySelector('[data-test=gate]')`)
	w.axe("showing a code")
	enter(w, access.NewCode())
	w.until(`document.querySelector('#gate-wrong').innerText.includes('no code that lets in')`)
	eval[bool](t, w.Tab, `document.querySelector('[aria-label="Access code"]').select() ?? true`)
	w.key(strings.ToLower(codes[access.Editor]) + "\r")
	// What was wanted before is there after.
	w.until(`!document.querySelector('[data-test=gate]') && location.pathname === '/renders' && document.body.innerText.includes('Nothing rendered yet')`)
	boss.must(boss.Go(url))
	enter(boss, codes[access.Designer])
	w.click("a.place[href='/']")
	w.until(`document.querySelector('[data-template=four-winds]')`)
	builds := `[...document.querySelectorAll('[data-test=to-bench], [data-test=new-template], [data-more], a[href="/drafts"], a[href="/people"]')].length`
	if n := eval[int](t, w.Tab, builds); n != 0 {
		t.Errorf("an editor is offered %d things of designers", n)
	}
	boss.until(`document.querySelector('[data-test=to-bench]') && document.querySelector('[data-test=new-template]') && document.querySelector('[data-more]') && document.querySelector('a[href="/drafts"]')`)
	boss.click("[data-template=four-winds] [data-test=to-bench]")
	boss.until(`location.pathname.startsWith('/bench/')`)
	for _, path := range []string{"/drafts", "/people", eval[string](t, boss.Tab, `location.pathname`)} {
		w.must(w.Go(url + path))
		w.until(`location.pathname === '/' && document.querySelector('[data-template=four-winds]')`)
	}

	// At the desk: everything that a sheet offers, and no way to the bench.
	w.click("[data-template=four-winds] .picture")
	w.exact()
	if w.text(".of") == "" || eval[bool](t, w.Tab, `!!document.querySelector('[data-test=to-template]')`) {
		t.Errorf("%q", w.text(".of"))
	}
	w.click("[data-side=sheet]")
	w.click("[data-entry=gutter] [role=spinbutton]")
	w.until(`document.activeElement?.tagName === 'INPUT'`)
	w.key("31") // which is taken when the field is left
	// Out in the middle of it, as by another tab of the same browser.
	eval[bool](t, w.Tab, `fetch('/api/session', {method: 'DELETE'}).then(r => r.ok)`)
	w.until(`document.querySelector('[data-test=gate]')`) // by the stream that ended
	if err := w.Drop("[data-pocket=north-west]", w.file(dir, "Marsh, upright.jpg", "image/jpeg")); err != nil {
		t.Fatal(err)
	}
	eval[bool](t, w.Tab, `document.querySelector('[aria-label="Access code"]').focus() ?? true`)
	enter(w, codes[access.Editor])
	w.until(`!document.querySelector('[data-test=gate]') && document.querySelector('[data-entry=gutter] [role=spinbutton]').ariaValueNow === '31'`)
	w.until(`!document.querySelector('[data-arrival]') || document.querySelector('[data-state=done]')`)
	w.until(`fetch('/api/pieces/' + location.pathname.split('/')[2]).then(r => r.json()).then(p => p.pockets.find(k => k.id === 'north-west').mediaName.startsWith('Marsh'))`)
	w.click("[data-test=render]")
	w.until(`document.querySelector('[data-kind=png]')`)
	w.click("[data-kind=png]")
	w.click("[data-test=start-render]")
	w.must(w.Go(url + "/renders"))
	w.until(`document.querySelector('[data-state=done]')`)
	if w.text(".once") != "" {
		t.Error("an editor is offered how many renders are made at one time")
	}

	// The designer sees who did what, and ends it.
	boss.must(boss.Go(url + "/people"))
	boss.until(`document.querySelector('.deeds')?.innerText.includes('render 1') && document.querySelector('.deeds').innerText.includes('Put Marsh, upright.jpg into the store')`)
	if deeds := boss.text(".deeds"); !strings.Contains(deeds, "Ruan Teague") || !strings.Contains(deeds, "Odalys Fenn") {
		t.Errorf("%s", deeds)
	}
	boss.axe("people and what they did")
	boss.click("[data-test=make-code]")
	boss.until(`document.activeElement?.ariaLabel === 'Who it is for'`)
	boss.key("Aiko Minazuki")
	boss.click("[data-test=make-it]")
	boss.until(`document.querySelector('[data-test=letters]')?.innerText.length === 29`)
	third := boss.text("[data-test=letters]")
	boss.click("[data-test=code-done]")
	boss.click(`[data-code="Ruan Teague"] [data-test=withdraw]`)
	boss.click("[data-test=withdraw-it]")
	w.until(`document.querySelector('[data-test=gate]')`)
	boss.until(`!document.querySelector('[data-code="Ruan Teague"]') && document.querySelector('[data-code="Aiko Minazuki"]')`)
	// Who comes in after somebody else has nothing of theirs.
	enter(w, third)
	w.until(fmt.Sprintf(`!document.querySelector('[data-test=gate]') && document.querySelector('[data-test=me]')?.innerText === %q && document.body.innerText.includes('Nothing rendered yet')`, "AM"))
}
