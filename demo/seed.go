package demo

import (
	"bytes"
	"context"
	"embed"
	"fmt"
	"image/jpeg"
	"io"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"sync"

	"golang.org/x/sync/errgroup"

	"ivypocket/core/raster"
	"ivypocket/core/template"
	"ivypocket/core/timing"
	"ivypocket/deliver"
	"ivypocket/store"
)

//go:embed templates/*.json
var documents embed.FS

// Templates lists the ids of the demo's templates.
var Templates = []string{"eight-knots", "four-winds", "gust", "line-out", "maker-card", "sail-window", "sky-and-sand", "telescope", "wind-board"}

// file is something the demo draws.
type file struct {
	id, name string
	draw     func(ctx context.Context, path string) error
}

func picture(id, name string, w, h int) file {
	return file{id, name, func(_ context.Context, path string) error {
		var b bytes.Buffer
		if err := jpeg.Encode(&b, coasts[id].draw(w, h), &jpeg.Options{Quality: 90}); err != nil {
			return err
		}
		return os.WriteFile(path, b.Bytes(), 0o644)
	}}
}

func mark(id, name string, data func() ([]byte, error)) file {
	return file{id, name, func(_ context.Context, path string) error {
		b, err := data()
		if err != nil {
			return err
		}
		return os.WriteFile(path, b, 0o644)
	}}
}

func text(s string) func() ([]byte, error) {
	return func() ([]byte, error) { return []byte(s), nil }
}

// clip draws a silent clip of a coast in the wind.
func clip(id, of, name string, w, h int, rate string, frames int) file {
	return file{id, name, func(ctx context.Context, path string) error {
		r, err := timing.ParseRate(rate)
		if err != nil {
			return err
		}
		return encode(ctx, deliver.EncoderArgs(deliver.MP4, false, w, h, r, "pipe:0", path), func(out io.Writer) error {
			planes, film := make([]byte, raster.YUV420Size(w, h)), coasts[of].film(w, h)
			for n := range frames {
				raster.FromImage(film(r.Seconds(int64(n)).Float())).YUV420(planes, 0, h)
				if _, err := out.Write(planes); err != nil {
					return err
				}
			}
			return nil
		})
	}}
}

var files = []file{
	picture("dawn", "Dawn.jpg", 2400, 1600),
	picture("noon", "Noon.jpg", 2400, 1350),
	picture("dusk", "Dusk.jpg", 2000, 1400),
	picture("squall", "Squall.jpg", 2100, 1260),
	picture("marsh", "Marsh, upright.jpg", 1200, 2100),
	picture("night", "Night panorama.jpg", 3200, 1000),
	mark("festival", "Saltmarsh Kite Week.svg", text(festivalMark)),
	mark("rope", "Brinewell Rope.svg", text(ropeMark)),
	mark("tern", "Tern & Tiller Sailcloth.png", drawTern),
	clip("kites", "noon", "Kites at noon.mp4", 1280, 720, "30000/1001", 150),
	clip("reeds", "marsh", "Reeds, upright.mp4", 720, 1280, "25", 100),
	clip("embers", "dusk", "Last kites at dusk.mp4", 1280, 720, "25", 120),
	clip("gusts", "squall", "Squall coming in.mp4", 1280, 720, "24", 110),
	{"loop", "One kite, on nothing.webm", drawLoneKite},
	{"drum", "Wind and drum.flac", drawSound},
	mark("mirembe", "Mirembe Achen.svg", text(mirembe)),
	mark("teodor", "Teodor Vasile.svg", text(teodor)),
}

// Numbered is the folder of numbered pictures that make a clip; two of them are
// missing.
const Numbered = "Paper kite, numbered"

// Files is the folder of media that the demo draws, for dropping on pockets.
func Files(dir string) string { return filepath.Join(dir, "demo media") }

// Draw draws demo media into a folder, except what is there already: the files
// of the given ids, or all.
func Draw(ctx context.Context, dir string, say func(string), ids ...string) error {
	return drawEach(ctx, dir, say, func(context.Context, file) error { return nil }, ids...)
}

// drawEach draws demo media, and does something with each file that is there.
func drawEach(ctx context.Context, dir string, say func(string), there func(context.Context, file) error, ids ...string) error {
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return err
	}
	var one sync.Mutex
	told := say
	say = func(line string) {
		one.Lock()
		defer one.Unlock()
		told(line)
	}
	g, ctx := errgroup.WithContext(ctx)
	g.SetLimit(2)
	for _, f := range files {
		path := filepath.Join(dir, f.name)
		if len(ids) > 0 && !slices.Contains(ids, f.id) {
			continue
		}
		g.Go(func() error {
			if _, err := os.Stat(path); err == nil {
				return there(ctx, f)
			}
			say("Drawing " + f.name)
			// Named only when whole, so that a stop half-way leaves nothing broken.
			part := filepath.Join(dir, ".part-"+f.name)
			if err := f.draw(ctx, part); err != nil {
				return fmt.Errorf("%s: %w", f.name, err)
			}
			if err := os.Rename(part, path); err != nil {
				return err
			}
			return there(ctx, f)
		})
	}
	if len(ids) == 0 {
		g.Go(func() error { return drawNumbered(filepath.Join(dir, Numbered), say) })
	}
	return g.Wait()
}

// Template returns a template of the demo with the hashes of its drawn media.
func Template(id string, hashes map[string]string) (*template.Document, error) {
	text, err := documents.ReadFile("templates/" + id + ".json")
	if err != nil {
		return nil, err
	}
	var pairs []string
	for id, h := range hashes {
		pairs = append(pairs, `"demo:`+id+`"`, `"`+h+`"`)
	}
	d, err := template.Parse([]byte(strings.NewReplacer(pairs...).Replace(string(text))))
	if err != nil {
		return nil, fmt.Errorf("%s: %w", id, err)
	}
	return d, nil
}

// Seed draws the demo's media, takes it in and puts the templates on the shelf.
// Doing it again changes nothing and touches no piece.
func Seed(ctx context.Context, s *store.Store, say func(string)) error {
	return SeedSlowly(ctx, s, say, func(store.Medium) {}, func() {})
}

// SeedSlowly is Seed for a store that is served meanwhile: each template is on the
// shelf as soon as its media is drawn. took hears of media that came in, shelved when
// the shelf changed.
func SeedSlowly(ctx context.Context, s *store.Store, say func(string), took func(store.Medium), shelved func()) error {
	dir := Files(s.Dir())
	var mu sync.Mutex
	hashes, done := map[string]string{}, map[string]bool{}
	// release puts those templates on the shelf whose media is all there.
	release := func(ctx context.Context) error {
		for _, id := range Templates {
			text, err := documents.ReadFile("templates/" + id + ".json")
			if err != nil {
				return err
			}
			ready := !done[id]
			for _, m := range mention.FindAllSubmatch(text, -1) {
				ready = ready && hashes[string(m[1])] != ""
			}
			if !ready {
				continue
			}
			doc, err := Template(id, hashes)
			if err != nil {
				return err
			}
			if _, err := s.Release(ctx, doc); err != nil {
				return fmt.Errorf("%s: %w", id, err)
			}
			done[id] = true
			shelved()
		}
		return nil
	}
	return drawEach(ctx, dir, say, func(ctx context.Context, f file) error {
		in, err := os.Open(filepath.Join(dir, f.name))
		if err != nil {
			return err
		}
		md, err := s.Put(ctx, f.name, in)
		in.Close()
		if err != nil {
			return fmt.Errorf("%s: %w", f.name, err)
		}
		mu.Lock()
		defer mu.Unlock()
		took(md)
		hashes[f.id] = md.Hash
		return release(ctx)
	})
}

// mention finds the media that a template of the demo names.
var mention = regexp.MustCompile(`"demo:([a-z]+)"`)

// Coast draws one of the demo's views, for tests and benchmarks that want a
// picture with something in it.
func Coast(name string, w, h int) *raster.Surface {
	return raster.FromImage(coasts[name].draw(w, h))
}
