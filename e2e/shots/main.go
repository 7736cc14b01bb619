// Command shots takes the pictures of the main views that the README shows,
// from the demo's data.
package main

import (
	"context"
	"fmt"
	"log"
	"log/slog"
	"net/http/httptest"
	"os"
	"path/filepath"
	"time"

	"ivypocket/demo"
	"ivypocket/e2e/browser"
	"ivypocket/server"
	"ivypocket/store"
	"ivypocket/web"
)

func main() {
	if len(os.Args) != 2 {
		log.Fatal("usage: shots FOLDER")
	}
	if err := run(context.Background(), os.Args[1]); err != nil {
		log.Fatal(err)
	}
}

func run(ctx context.Context, out string) error {
	dir, err := os.MkdirTemp("", "ivypocket-shots-")
	if err != nil {
		return err
	}
	defer os.RemoveAll(dir)
	s, err := store.Open(dir)
	if err != nil {
		return err
	}
	defer s.Close()
	if err := demo.Seed(ctx, s, func(string) {}); err != nil {
		return err
	}
	srv, err := server.New(s, web.Files(), slog.Default())
	if err != nil {
		return err
	}
	defer srv.Close()
	ctx, cancel := context.WithCancel(ctx)
	defer cancel()
	go func() { _ = srv.Run(ctx) }()
	h := httptest.NewServer(srv.Handler())
	defer h.Close()
	defer h.CloseClientConnections()
	tab, err := browser.Open(ctx, 1280, 800)
	if err != nil {
		return err
	}
	defer tab.Close()

	file := func(name, mime string) browser.File {
		f, ferr := browser.FileOf(filepath.Join(demo.Files(dir), name), name, mime)
		if ferr != nil && err == nil {
			err = ferr
		}
		return f
	}
	numbered := func() error {
		var all []browser.File
		folder := filepath.Join(demo.Files(dir), demo.Numbered)
		names, rerr := os.ReadDir(folder)
		if rerr != nil {
			return rerr
		}
		for _, n := range names {
			f, ferr := browser.FileOf(filepath.Join(folder, n.Name()), n.Name(), "image/png")
			if ferr != nil {
				return ferr
			}
			all = append(all, f)
		}
		if err := tab.Drop(".media", all...); err != nil {
			return err
		}
		if err := tab.Until(`document.querySelector('[data-test=bring-numbered]')`, 10*time.Second); err != nil {
			return err
		}
		time.Sleep(400 * time.Millisecond)
		return tab.Click("[data-test=bring-numbered]")
	}
	exact := func() error {
		return tab.Until(`document.querySelector('.picture')?.dataset.quality === 'exact'`, 30*time.Second)
	}
	shot := func(name string) func() error {
		return func() error {
			time.Sleep(900 * time.Millisecond) // whatever slides or fades has done so
			fmt.Println(name)
			return tab.Shot(filepath.Join(out, name+".png"))
		}
	}
	click := func(sel string) func() error { return func() error { return tab.Click(sel) } }
	js := func(code string) func() error {
		return func() error { _, err := browser.Eval[any](tab, code); return err }
	}
	until := func(code string, limit time.Duration) func() error {
		return func() error { return tab.Until(code, limit) }
	}
	const wheel = `document.querySelector('.surround').dispatchEvent(new WheelEvent('wheel', {deltaY: -260, bubbles: true, cancelable: true}))`
	for _, step := range []func() error{
		func() error { return tab.Go(h.URL) },
		until(`document.querySelector('.card img')?.naturalWidth > 300`, 30*time.Second),
		click("[data-template=four-winds] .picture"), exact, shot("desk"),
		func() error { return tab.Drop("[data-rail-pocket=south-west]", file("Kites at noon.mp4", "video/mp4")) },
		func() error {
			return tab.Drop("svg [data-pocket=north-west]", file("Marsh, upright.jpg", "image/jpeg"))
		},
		until(`document.querySelector('[data-rail-pocket=north-west] .media').innerText.startsWith('Marsh')`, 30*time.Second),
		until(`!document.querySelector('.pocket .growing')`, 60*time.Second),
		click("svg [data-pocket=south-east]"), click("[data-test=frame-it]"),
		js(wheel), func() error { time.Sleep(900 * time.Millisecond); return nil },
		func() error { return tab.Drag("[data-test=grab]", -40, -30) }, exact, shot("framing"),
		click("[data-test=framing-done]"), click("[data-side=sheet]"), click("[data-format=vertical]"),
		until(`document.querySelector('canvas').height > document.querySelector('canvas').width`, 30*time.Second),
		func() error { time.Sleep(1500 * time.Millisecond); return nil }, exact, shot("sheet"),
		click("[data-format=landscape]"), click("[data-side=trial]"), click("[data-test=try]"),
		until(`document.querySelectorAll('.tiles img').length > 30`, 90*time.Second), exact, shot("trial"),
		click("[data-test=render]"), until(`document.querySelector('[data-test=start-render]')`, 10*time.Second),
		click("[data-test=start-render]"), until(`document.querySelector('[data-state=done]')`, 120*time.Second),
		js(`(async () => { const r = (await (await fetch('/api/renders')).json())[0];
			for (const b of [{format: 'vertical', kind: 'mp4'}, {format: 'landscape', kind: 'png', from: 120}, {format: 'landscape', kind: 'mp4', width: 960, height: 540}])
				await fetch('/api/renders', {method: 'POST', headers: {'Content-Type': 'application/json'}, body: JSON.stringify({piece: r.piece, ...b})}) })()`),
		until(`document.querySelector('[data-state=running] .num') && document.querySelectorAll('[data-state=queued]').length > 0`, 30*time.Second),
		func() error { time.Sleep(700 * time.Millisecond); return nil }, shot("renders"),
		until(`!document.querySelector('[data-state=running], [data-state=queued]')`, 120*time.Second),
		// Footage: a clip's strip, playing a range, the store, files coming in.
		click("[href='/media']"), until(`document.querySelectorAll('[data-medium]').length > 10`, 30*time.Second), numbered,
		until(`[...document.querySelectorAll('[data-arrival]')].some(e => e.dataset.arrival.includes('024') && e.dataset.state === 'done')`, 60*time.Second),
		js(`(() => { const send = XMLHttpRequest.prototype.send; XMLHttpRequest.prototype.send = function (b) { if (b instanceof Blob && b.size > 100000) { this.upload.onprogress?.({loaded: b.size * 0.62, total: b.size, lengthComputable: true}); return } send.call(this, b) } })()`),
		func() error {
			long := file("Squall coming in.mp4", "video/mp4")
			long.Name = "Long walk on the dunes.mp4"
			wrong := file("Saltmarsh Kite Week.svg", "text/plain")
			wrong.Name, wrong.Data = "notes.txt", "aGVsbG8="
			return tab.Drop(".media", long, wrong)
		},
		until(`document.querySelector('[data-state=refused]') && document.querySelector('[data-state=coming], [data-state=checking]')`, 30*time.Second),
		click(`[data-medium*="024"]`), until(`document.querySelector('[data-test=one]')`, 10*time.Second), shot("media"),
		func() error { return tab.Go(h.URL) }, until(`document.querySelector('.card img')?.naturalWidth > 300`, 30*time.Second),
		click("[data-template=four-winds] .picture"), exact,
		// The list that is kept with the template, and who did what.
		js(`(async () => { const at = '/api/templates/four-winds/list', l = await (await fetch(at)).json();
			await fetch(at + '.csv?revision=' + l.revision, {method: 'POST', body: 'Name,North-west sky,South-east sky,Layout,Gutter,Backing colour\nFriday,Dawn.jpg,Dusk.jpg,Even,16,#f1e7d2\nSaturday,Kites at noon.mp4,"Reeds, upright.mp4",West,24,#1e5f6b\nSunday,Night panorama.jpg,Squall.jpg,North,40,#7b3f66\nMonday,Fog.jpg,,Even,200,#203040\n'});
			for (const [name, role] of [['Odalys Fenn', 'designer'], ['Ruan Teague', 'editor'], ['Aiko Minazuki', 'editor']])
				await fetch('/api/codes', {method: 'POST', headers: {'Content-Type': 'application/json'}, body: JSON.stringify({name, role})}) })()`),
		click("[data-side=sheet]"), click("[data-test=open-list]"), until(`document.querySelectorAll('[data-row]').length === 4 && [...document.querySelectorAll('[data-row] img')].every(i => i.naturalWidth > 10)`, 20*time.Second), shot("list"),
		func() error { return tab.Keys("\x1b") }, until(`!document.querySelector('.n-modal')`, 10*time.Second),
		click(".brand"), click("[data-template=telescope] .picture"), until(`document.querySelector('[data-rail-pocket=far-shore]')`, 30*time.Second), exact,
		click(".brand"), click("[data-template=sail-window] .picture"), until(`document.querySelector('[data-rail-pocket=weather]')`, 30*time.Second), exact,
		click("[data-test=ground]"), until(`[...document.querySelectorAll('.n-base-select-option')].some(e => e.innerText === 'On a checker')`, 10*time.Second),
		js(`[...document.querySelectorAll('.n-base-select-option')].find(e => e.innerText === 'On a checker').click()`),
		js(`(() => { const c = document.querySelector('.clothstrip'), r = c.getBoundingClientRect(); c.setPointerCapture = () => {}; const e = (type) => c.dispatchEvent(new PointerEvent(type, {bubbles: true, button: 0, pointerId: 1, clientX: r.left + r.width * 229.5 / 270, clientY: r.top + 20})); e('pointerdown'); e('pointerup') })()`),
		until(`document.querySelector('[data-test=frame]').innerText === '229'`, 10*time.Second), click("[data-rail-pocket=weather] .pick"), func() error { time.Sleep(1500 * time.Millisecond); return nil }, exact, shot("matte"),
		click(".brand"), until(`document.querySelector('.card .piece img')?.naturalWidth > 10`, 30*time.Second), shot("shelf"),
		js(`(async () => { const post = (path, body) => fetch('/api/' + path, {method: 'POST', headers: {'Content-Type': 'application/json'}, body: JSON.stringify(body)}).then(r => r.json());
			const name = async (id, base, name) => post('pieces/' + id + '/operations', {id: crypto.randomUUID(), base, op: {kind: 'name', name}});
			const all = await (await fetch('/api/pieces')).json();
			const names = {'four-winds': 'Kite Week, the four days', telescope: 'Tern & Tiller, telescope', 'sail-window': 'Kite Week, sail reveal'};
			for (const p of all) if (names[p.template]) await name(p.id, p.revision, names[p.template]);
			const first = all.find(p => p.template === 'four-winds').id;
			for (const n of ['Kite Week, Friday only', 'Kite Week, for the ferry screens']) { const d = await post('pieces/' + first + '/duplicate'); await name(d.id, 0, n) }
			const gust = await post('templates/gust/open?new=true'); await name(gust.id, 0, 'Gust, storm warning') })()`),
		func() error { return tab.Go(h.URL + "/people") }, until(`document.querySelector('[data-code]')`, 10*time.Second), shot("people"),
		// The bench: a template of the shelf, a blank one that is begun, all drafts.
		func() error { return tab.Go(h.URL) }, click("[data-template=telescope] [data-test=to-bench]"), until(`document.querySelector('[data-hit=glass]')`, 30*time.Second), exact,
		click("[data-layer=glass]"), until(`document.querySelector('[data-test=frame]')`, 10*time.Second), func() error { return tab.Keys("t") }, until(`document.querySelector('[data-bar=glass]')`, 10*time.Second), exact, shot("bench"),
		func() error { return tab.Keys("t") },
		func() error { return tab.Go(h.URL) }, click("[data-template=four-winds] [data-test=to-bench]"), until(`document.querySelector('[data-hit=badge]')`, 30*time.Second), exact,
		click("[data-layer=bloom]"), func() error { return tab.Keys("tm") }, until(`document.querySelector('[data-curve-key]')`, 10*time.Second), click("[data-curve-key]"), until(`document.querySelector('[data-curve-handle]')`, 10*time.Second), exact, shot("motion"),
		func() error { return tab.Keys("mt") }, click("[data-layer=view-north-west]"), until(`document.querySelector('[data-test=layout]')`, 10*time.Second),
		click("[data-side=sheet]"), click("[data-entry=gutter]"), until(`document.querySelector('[data-settings=gutter]')`, 10*time.Second), click("[data-notch='gutter 160']"),
		until(`document.querySelector('[data-test=pinned]')`, 10*time.Second), func() error { time.Sleep(800 * time.Millisecond); return nil }, exact, shot("offer"), click("[data-test=unpin]"),
		// A mask's own path, and everything that can be changed, with guides over the picture.
		func() error { return tab.Go(h.URL) }, click("[data-template=wind-board] [data-test=to-bench]"), until(`document.querySelector('[data-hit=pennant]')`, 30*time.Second), exact,
		click(".tree [data-layer=told]"), func() error { return tab.Keys("e") }, until(`document.querySelector('[data-test=writing]')`, 10*time.Second), func() error { time.Sleep(900 * time.Millisecond); return nil }, exact, shot("words"),
		func() error { return tab.Keys("\x1b\x1b\x1b\x1b") }, until(`!document.querySelector('.tree .layer.on')`, 10*time.Second),
		click("[data-hit=pennant]"), until(`document.querySelector('[data-parts=masks] [data-points-of]')`, 10*time.Second), click("[data-parts=masks] [data-points-of]"),
		until(`document.querySelector('[data-node="2"]')`, 10*time.Second), click(`[data-node="2"]`), click("[data-points=smooth]"), func() error { time.Sleep(900 * time.Millisecond); return nil }, exact, shot("drawing"),
		click("[data-test=path-done]"), click("[data-format=vertical]"), exact, click("[data-test=guides]"), click("[data-guides=feed-tall]"), click("[data-guides=r95]"), click("[data-side=ledger]"),
		until(`document.querySelector('[data-row]')`, 10*time.Second), click("[aria-label='Search the ledger']"), func() error { return tab.Keys("fill") }, until(`document.querySelector('[data-row="layers/pole/fill"]')`, 10*time.Second),
		click(`[data-row="layers/pole/fill"]`), func() error { time.Sleep(900 * time.Millisecond); return nil }, exact, shot("ledger"), func() error { return tab.Keys("\x1b") },
		js(`localStorage.setItem('ivy-guides-on', 'false')`),
		func() error { return tab.Go(h.URL + "/drafts") }, until(`[...document.querySelectorAll('[data-draft] img')].filter(i => i.naturalWidth > 10).length === 3`, 30*time.Second),
		click("[data-test=new-template]"), shot("start"),
		click(`[data-canvas="1080x1920"]`), click("[data-begin-with=card]"), func() error { time.Sleep(500 * time.Millisecond); return nil }, click("[data-test=begin]"),
		until(`document.querySelector('[data-recipe=card]')`, 30*time.Second), click("[data-test=beside]"),
		until(`document.querySelector('[data-side-format] canvas')?.width > 20`, 20*time.Second), exact, shot("recipe"),
		func() error { // the desk on a telephone
			phone, perr := tab.Another(390, 844)
			if perr != nil {
				return perr
			}
			defer phone.Close()
			for _, do := range []func() error{
				func() error { return phone.Go(h.URL) }, func() error { return phone.Click("[data-template=four-winds] .picture") },
				func() error { return phone.Click("[data-side=sheet]") },
				func() error {
					return phone.Until(`document.querySelector('.picture')?.dataset.quality === 'exact'`, 30*time.Second)
				},
				func() error { return phone.Shot(filepath.Join(out, "telephone.png")) },
			} {
				if perr := do(); perr != nil {
					return perr
				}
			}
			return nil
		},
	} {
		if serr := step(); serr != nil {
			return serr
		}
		if err != nil {
			return err
		}
	}
	return nil
}
