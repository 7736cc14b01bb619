// Package sample gives the tests of the core the written split and a source of
// drawn media.
package sample

import (
	"context"
	"fmt"
	"os"
	"strings"
	"testing"

	"ivypocket/core/geom"
	"ivypocket/core/raster"
	"ivypocket/core/scene"
	"ivypocket/core/template"
	"ivypocket/core/timing"
	"ivypocket/core/words"
	"ivypocket/fonts"
)

// Split reads the written split, with pieces of its text replaced, from a
// package two folders deep.
func Split(t testing.TB, replace ...string) *template.Document {
	t.Helper()
	b, err := os.ReadFile("../../docs/examples/split.json")
	if err != nil {
		t.Fatal(err)
	}
	for i := 0; i < len(replace); i += 2 {
		if !strings.Contains(string(b), replace[i]) {
			t.Fatalf("the sample has no %s", replace[i]) // and the test would test nothing
		}
	}
	d, err := template.Parse([]byte(strings.NewReplacer(replace...).Replace(string(b))))
	if err != nil {
		t.Fatal(err)
	}
	return d
}

// Length is an entry that asks for the length of the piece.
const Length = `{"id": "length", "label": "Length", "data": "length", "kind": "duration", "unit": "s"}`

// Lasting is Split whose sheet asks for the length of the piece, too.
func Lasting(t testing.TB) *template.Document {
	t.Helper()
	const colours = `{"id": "colours", "label": "Colours", "entries": [`
	return Split(t, colours, `{"id": "time", "label": "Time", "entries": [`+Length+`]}, `+colours)
}

// Source is media by hash.
type Source map[string]Media

// Media is a flat picture with a gradient, or a clip of such pictures.
type Media struct {
	W, H  int
	RGBA  [4]uint8
	Clip  *timing.Clip
	Asked *int // counts how often pixels were asked for
}

// Face is one of the faces that ship.
func (s Source) Face(id string) *words.Family { return fonts.Family(id) }

// Named lists them.
func (s Source) Named() []words.Named { return fonts.Shelf{}.Named() }

// Letters sets wordings, and remembers what it has set.
func (s Source) Letters() *words.Setter { return fonts.Shelf{}.Letters() }

// Info describes media.
func (s Source) Info(hash string) (scene.Info, bool) {
	m, ok := s[hash]
	return scene.Info{Size: geom.Size{W: float64(m.W), H: float64(m.H)}, Clip: m.Clip}, ok
}

// Trace finds media to be visible all over.
func (s Source) Trace(hash string) (*raster.Trace, error) {
	m := s[hash]
	return raster.NewTrace(&raster.Surface{W: m.W, H: m.H, Opaque: m.RGBA[3] == 255, Pix: make([]uint8, 4*m.W*m.H)}), nil
}

// Vector is always false.
func (s Source) Vector(string) bool { return false }

// Picture draws media; frames of a clip differ in blue.
func (s Source) Picture(_ context.Context, hash string, frame int64, w, h int) (*raster.Surface, error) {
	m, ok := s[hash]
	if !ok {
		return nil, fmt.Errorf("no media %s", hash)
	}
	if m.Asked != nil {
		*m.Asked++
	}
	out := raster.NewSurface(w, h)
	for y := range h {
		for x := range w {
			c := m.RGBA
			c[0] = uint8((int(c[0]) + x*64/w) & 255)
			c[2] = uint8((int(c[2]) + int(frame)) & 255)
			copy(out.Pix[(y*w+x)*4:], c[:])
		}
	}
	out.Premultiply()
	return out, nil
}

// Fleeting is false: every picture is drawn anew.
func (s Source) Fleeting() bool { return false }
