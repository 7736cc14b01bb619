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
		click("[data-template=four-winds] .picture"), exact, shot("bench"),
		func() error { return tab.Drop("[data-rail-pocket=south-west]", file("Kites at noon.mp4", "video/mp4")) },
		func() error {
			return tab.Drop("svg [data-pocket=north-west]", file("Marsh, upright.jpg", "image/jpeg"))
		},
		until(`document.querySelector('[data-rail-pocket=north-west] .media').innerText.startsWith('Marsh')`, 30*time.Second),
		until(`!document.querySelector('.pocket .growing')`, 60*time.Second),
		click("svg [data-pocket=south-east]"), click("[data-test=frame-it]"),
		js(wheel), func() error { time.Sleep(900 * time.Millisecond); return nil },
		func() error { return tab.Drag("[data-test=grab]", -40, -30) }, exact, shot("framing"),
		click("[data-test=framing-done]"), click("[role=tab]:nth-child(2)"), click("[data-format=vertical]"),
		until(`document.querySelector('canvas').height > document.querySelector('canvas').width`, 30*time.Second),
		func() error { time.Sleep(1500 * time.Millisecond); return nil }, exact, shot("sheet"),
		click("[data-format=landscape]"), click("[role=tab]:nth-child(3)"), click("[data-test=try]"),
		until(`document.querySelectorAll('.tiles img').length > 30`, 90*time.Second), exact, shot("trial"),
		click("[data-test=render]"), until(`document.querySelector('[data-test=start-render]')`, 10*time.Second), shot("render"),
		click("[data-test=start-render]"), until(`document.querySelector('[data-state=done]')`, 120*time.Second),
		js(`(async () => { const r = (await (await fetch('/api/renders')).json())[0];
			for (const b of [{format: 'vertical', kind: 'mp4'}, {format: 'landscape', kind: 'png', from: 120}, {format: 'landscape', kind: 'mp4', width: 960, height: 540}])
				await fetch('/api/renders', {method: 'POST', headers: {'Content-Type': 'application/json'}, body: JSON.stringify({piece: r.piece, ...b})}) })()`),
		until(`document.querySelector('[data-state=running] .num') && document.querySelectorAll('[data-state=queued]').length > 0`, 30*time.Second),
		func() error { time.Sleep(700 * time.Millisecond); return nil }, shot("renders"),
		until(`!document.querySelector('[data-state=running], [data-state=queued]')`, 120*time.Second),
		click(".brand"), until(`document.querySelector('.card .piece img')?.naturalWidth > 10`, 30*time.Second), shot("shelf"),
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
