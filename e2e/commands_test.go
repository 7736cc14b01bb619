package e2e

import (
	"bytes"
	"encoding/json"
	"fmt"
	"os"
	"regexp"
	"slices"
	"strings"
	"testing"

	"ivypocket/core/recipe"
)

// command is a row of the table that keys, tips and help are made from.
type command struct {
	id, Where string
	Keys      []string
	Text      string
}

// commands reads the table in its order.
func commands(t *testing.T) (out []command) {
	t.Helper()
	b, err := os.ReadFile("../web/src/common/commands.json")
	if err != nil {
		t.Fatal(err)
	}
	d := json.NewDecoder(bytes.NewReader(b))
	if _, err := d.Token(); err != nil {
		t.Fatal(err)
	}
	for d.More() {
		id, err := d.Token()
		c := command{id: fmt.Sprint(id)}
		if err == nil {
			err = d.Decode(&c)
		}
		if err != nil {
			t.Fatal(err)
		}
		out = append(out, c)
	}
	return
}

// Every row of the table does something where it says it does, with each of its keys,
// and stands in the list that people read.
func TestEveryCommandOfTheTableIsThere(t *testing.T) {
	t.Parallel()
	w, _, _ := atDesk(t, t.TempDir(), "four-winds")
	w.click("[data-rail-pocket=north-west] .pick")
	w.until(`document.querySelector('.pocket.on')`)
	press := func(key string) bool {
		t.Helper()
		parts := strings.Split(key, "+")
		if key == "+" {
			parts = []string{key}
		}
		name := parts[len(parts)-1]
		if name == "Space" {
			name = " "
		}
		has := func(what string) bool { return len(parts) > 1 && strings.Contains(key, what+"+") }
		if len(name) == 1 && !has("Shift") {
			name = strings.ToLower(name)
		}
		return eval[bool](t, w.Tab, fmt.Sprintf(`!document.body.dispatchEvent(new KeyboardEvent('keydown', {key: %q, shiftKey: %v, ctrlKey: %v, bubbles: true, cancelable: true}))`, name, has("Shift"), has("Ctrl")))
	}
	all := commands(t)
	for _, where := range []string{"document", "framing", "everywhere"} {
		for _, c := range all {
			if c.Where != where {
				continue
			}
			if where == "framing" {
				// Some of them end it, or select nothing.
				eval[bool](t, w.Tab, `!!document.querySelector('.pocket.on') || document.querySelector('[data-rail-pocket=north-west] .pick').click() || true`)
				if !eval[bool](t, w.Tab, `!!document.querySelector('[aria-label=Framing]')`) {
					press("Enter")
				}
				w.until(`document.querySelector('[aria-label=Framing]')`)
			}
			for _, k := range c.Keys {
				if !press(k) {
					t.Errorf("%s: nobody hears %s", c.id, k)
				}
			}
			if c.id == "choose" {
				w.until(`document.querySelector('.n-modal')`)
				w.key("\x1b")
				w.until(`!document.querySelector('.n-modal')`)
			}
		}
	}
	w.until(`document.querySelector('.n-modal dl')`)
	list := w.text(".n-modal")
	for _, c := range all {
		if !strings.Contains(list, c.Text) {
			t.Errorf("%s: the list of keys does not say %q", c.id, c.Text)
		}
	}
}

// A drag that is given up by Escape leaves all as it was: the media in a pocket,
// a number, the playhead, a part to be looped.
func TestEscapeGivesUpADrag(t *testing.T) {
	t.Parallel()
	w, _, _ := atDesk(t, t.TempDir(), "four-winds")
	const revision = `fetch('/api/pieces/' + location.pathname.split('/').pop()).then(r => r.json()).then(p => p.revision)`
	was := eval[float64](t, w.Tab, revision)
	give := func(what, selector string, dx, dy float64, moved, back string) {
		t.Helper()
		letGo, err := w.Hold(selector, dx, dy)
		w.must(err)
		w.must(w.Until(moved, patience))
		w.key("\x1b")
		w.must(w.Until(back, patience))
		w.must(letGo())
		w.exact()
		w.must(w.Until(back, patience))
		if now := eval[float64](t, w.Tab, revision); now != was {
			t.Errorf("%s: the piece went from revision %v to %v", what, was, now)
		}
	}
	frame := func(n string) string { return `document.querySelector('[data-test=frame]').innerText === '` + n + `'` }
	give("the playhead", ".clothstrip", 90, 0, "!("+frame("120")+")", frame("120"))
	const field = `document.querySelector('[data-entry=gutter] [role=spinbutton]')`
	value := eval[string](t, w.Tab, field+`.innerText`)
	give("a number", `[data-entry=gutter] [role=spinbutton]`, 40, 0, field+`.innerText !== '`+value+`'`, field+`.innerText === '`+value+`'`)
	w.click("[data-rail-pocket=north-west] .pick")
	w.click("[data-test=frame-it]")
	w.until(`document.querySelector('[data-test=grab]')`)
	const ghost = `document.querySelector('.ghost').style.transform`
	lies := eval[string](t, w.Tab, ghost)
	give("media", "[data-test=grab]", 50, 20, ghost+` !== '`+lies+`'`, ghost+` === '`+lies+`'`)
	w.until(`document.querySelector('[data-test=grab]')`) // the first Escape ends the drag alone
}

// Every recipe can be built, and everything in the tray be taken, by name.
func TestEveryRecipeAndSwatchHasACommand(t *testing.T) {
	t.Parallel()
	has := map[string]bool{}
	var built []string
	for _, c := range commands(t) {
		has[c.id] = true
		if kind, ok := strings.CutPrefix(c.id, "recipe-"); ok {
			built = append(built, kind)
		}
	}
	slices.Sort(built)
	if kinds := recipe.Kinds(); !slices.Equal(built, kinds) {
		t.Errorf("commands build %v; there are %v", built, kinds)
	}
	tray, err := os.ReadFile("../web/src/bench/tool.ts")
	if err != nil {
		t.Fatal(err)
	}
	keyed := map[string]bool{"pocket": true, "rectangle": true, "ellipse": true, "path": true, "words": true, "recipe": true} // by keys of their own, or a list
	for _, m := range regexp.MustCompile(`(?m)^  \{ id: '([a-z]+)'`).FindAllSubmatch(tray, -1) {
		if id := string(m[1]); has["tray-"+id] == keyed[id] {
			t.Errorf("%s of the tray is taken by name: %v", id, has["tray-"+id])
		}
	}
}
