package demo

import (
	"context"
	"crypto/sha256"
	"encoding/json"
	"flag"
	"fmt"
	"maps"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"ivypocket/core/geom"
	"ivypocket/core/raster"
	"ivypocket/core/scene"
	"ivypocket/core/sheet"
	"ivypocket/core/template"
	"ivypocket/core/timing"
	"ivypocket/fonts"
)

var keep = flag.Bool("keep", false, "store the templates as they are now as releases, with the hashes of their frames, beside those that are stored")

// tinted is media of one colour that runs to another, by its hash.
type tinted struct{ fonts.Shelf }

func (tinted) Info(hash string) (scene.Info, bool) {
	return scene.Info{Size: geom.Size{W: 400, H: 300}}, strings.HasPrefix(hash, "sha256:")
}
func (tinted) Trace(string) (*raster.Trace, error) {
	return raster.NewTrace(&raster.Surface{W: 4, H: 3, Opaque: true, Pix: make([]uint8, 48)}), nil
}
func (tinted) Vector(string) bool { return false }
func (tinted) Fleeting() bool     { return false }
func (tinted) Picture(_ context.Context, hash string, frame int64, w, h int) (*raster.Surface, error) {
	out := raster.NewSurface(w, h)
	for y := range h {
		for x := range w {
			copy(out.Pix[(y*w+x)*4:], []uint8{hash[8], uint8(255 * x / w), uint8(255*y/h + int(frame)), 255})
		}
	}
	out.Opaque = true
	return out, nil
}

// looks are the hashes of a release's frames: at its cues, its ends and its middle, in every
// format.
func looks(t *testing.T, d *template.Document) map[string]string {
	t.Helper()
	out := map[string]string{}
	p := scene.NewPainter(scene.NewPictures(tinted{}, 64<<20))
	defer p.Close()
	for _, f := range d.Formats {
		s, err := scene.Compile(&sheet.Resolved{Doc: d, Values: sheet.Values{}}, f.ID, tinted{})
		if err != nil {
			t.Fatal(err)
		}
		at := map[string]timing.OutputFrame{"first": 0, "middle": timing.OutputFrame(s.Frames() / 2), "last": timing.OutputFrame(s.Frames() - 1)}
		for _, c := range d.Cues {
			at["cue "+c.ID] = s.Time().Frame(timing.TemplateTime{Rat: c.At})
		}
		w, h := f.Width/4, f.Height/4
		for _, name := range slices.Sorted(maps.Keys(at)) {
			var l scene.List
			var dst raster.Surface
			s.At(&l, s.Time().At(at[name]), scene.Size{W: w, H: h})
			if err := p.Paint(t.Context(), &l, &dst); err != nil {
				t.Fatal(err)
			}
			out[f.ID+", "+name] = fmt.Sprintf("%x", sha256.Sum256(dst.Pix))[:24]
		}
	}
	return out
}

// A release that was made once is read and drawn as it was, to the bit, whatever becomes of
// the program: behaviours are pinned. What is stored is never changed; what a template is
// now is stored beside it with -keep.
func TestStoredReleasesAreDrawnAsTheyWere(t *testing.T) {
	const dir = "testdata/releases"
	if *keep {
		for _, id := range Templates {
			d, err := Template(id, made())
			if err != nil {
				t.Fatal(err)
			}
			doc, err := json.Marshal(d)
			if err != nil {
				t.Fatal(err)
			}
			sum := sha256.Sum256(doc)
			name := filepath.Join(dir, fmt.Sprintf("%s-%x", id, sum[:4]))
			frames, err := json.MarshalIndent(looks(t, d), "", " ")
			if err == nil {
				err = os.MkdirAll(dir, 0o755)
			}
			for file, b := range map[string][]byte{name + ".json": doc, name + ".frames": frames} {
				if _, there := os.Stat(file); there != nil && err == nil {
					err = os.WriteFile(file, append(b, '\n'), 0o644)
				}
			}
			if err != nil {
				t.Fatal(err)
			}
		}
	}
	stored, err := filepath.Glob(dir + "/*.json")
	if err != nil || len(stored) < len(Templates) {
		t.Fatalf("%d releases are stored: %v", len(stored), err)
	}
	of := map[string]bool{}
	for _, file := range stored {
		b, err := os.ReadFile(file)
		if err != nil {
			t.Fatal(err)
		}
		d, err := template.Parse(b)
		if err != nil {
			t.Errorf("%s: %v", file, err)
			continue
		}
		of[d.ID] = true
		var want map[string]string
		if b, err = os.ReadFile(strings.TrimSuffix(file, ".json") + ".frames"); err == nil {
			err = json.Unmarshal(b, &want)
		}
		if err != nil || len(want) == 0 {
			t.Fatalf("%s: %v", file, err)
		}
		got := looks(t, d)
		for name, hash := range want {
			if got[name] != hash {
				t.Errorf("%s, %s: is drawn otherwise: %s, was %s", file, name, got[name], hash)
			}
		}
	}
	for _, id := range Templates {
		if !of[id] {
			t.Errorf("no release of %s is stored; run: go test ./demo -run StoredReleases -keep", id)
		}
	}
}
