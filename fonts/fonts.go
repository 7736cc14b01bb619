// Package fonts is the room for the faces that ship with the program, for the engine
// and the browser alike: the files themselves, each under the SIL Open Font License
// with its copyright notice in its own name table, and the table of what they are.
package fonts

import (
	"embed"
	"fmt"
	"io/fs"
	"strings"
	"sync"

	"ivypocket/core/words"
)

//go:embed files/*.woff
var files embed.FS

// Face is a row of the table: a family that ships.
type Face struct {
	ID, Name string
	// Sort says in a word or two what it looks like.
	Sort string
	// Files are the names of its files without their end, in the order in which they
	// are asked for letters.
	Files []string
	// Aids are families that only stand in for letters which others don't have, and
	// are offered last.
	Aids bool
}

// Faces lists the families, in the order in which people are offered them.
var Faces = []Face{
	{ID: "figtree", Name: "Figtree", Sort: "Sans", Files: both(of("figtree", "latin", "latin-ext"))},
	{ID: "fraunces", Name: "Fraunces", Sort: "Serif", Files: both(of("fraunces", "latin", "vietnamese", "latin-ext"))},
	{ID: "bitter", Name: "Bitter", Sort: "Slab serif", Files: both(of("bitter", "latin", "vietnamese", "latin-ext", "cyrillic"))},
	{ID: "sofia-sans-extra-condensed", Name: "Sofia Sans Extra Condensed", Sort: "Condensed", Files: of("sofia-sans-extra-condensed", "latin", "latin-ext", "cyrillic", "greek")},
	{ID: "unbounded", Name: "Unbounded", Sort: "Heavy display", Files: of("unbounded", "latin", "vietnamese", "latin-ext", "cyrillic")},
	{ID: "caveat", Name: "Caveat", Sort: "Handwritten", Files: of("caveat", "latin", "latin-ext", "cyrillic")},
	{ID: "dancing-script", Name: "Dancing Script", Sort: "Handwritten, connected", Files: of("dancing-script", "latin", "vietnamese", "latin-ext")},
	{ID: "spline-sans-mono", Name: "Spline Sans Mono", Sort: "One width", Files: both(of("spline-sans-mono", "latin", "latin-ext"))},
	{ID: "stardos-stencil", Name: "Stardos Stencil", Sort: "Stencil", Files: of("stardos-stencil", "400", "700")},
	{ID: "fredoka", Name: "Fredoka", Sort: "Rounded", Files: of("fredoka", "latin", "latin-ext", "hebrew")},
	{ID: "cairo", Name: "Cairo", Sort: "Arabic and Latin", Files: of("cairo", "arabic", "latin", "latin-ext")},
	{ID: "rubik", Name: "Rubik", Sort: "Hebrew, Arabic, Cyrillic, Latin", Files: both(of("rubik", "latin", "latin-ext", "cyrillic", "hebrew", "arabic"))},
	{ID: "noto-sans-sc", Name: "Noto Sans SC", Sort: "Chinese and Japanese", Files: append(of("noto-sans-sc", "500"), "noto-sans-jp-500")},
	{ID: "noto-emoji", Name: "Noto Emoji", Sort: "Emoji in one colour", Files: of("noto-emoji", "500"), Aids: true},
}

// standIns are asked, in this order, for letters that a family does not have.
var standIns = []string{"rubik", "cairo", "sofia-sans-extra-condensed", "figtree", "bitter", "noto-sans-sc", "noto-emoji"}

// Usual is the family of words of which nothing else is said.
const Usual = "figtree"

func of(family string, parts ...string) (out []string) {
	for _, p := range parts {
		out = append(out, family+"-"+p)
	}
	return out
}

// both are upright files and their italics.
func both(upright []string) []string {
	for _, f := range upright[:len(upright):len(upright)] {
		upright = append(upright, f+"-italic")
	}
	return upright
}

// Italic reports whether a file of the table is an italic one.
func Italic(file string) bool { return strings.HasSuffix(file, "-italic") }

// File returns a file of the table.
func File(name string) ([]byte, error) { return fs.ReadFile(files, "files/"+name+".woff") }

// families are those that have been read: each is when it is first asked for.
var families = map[string]func() *words.Family{}

func init() {
	for _, f := range Faces {
		families[f.ID] = sync.OnceValue(f.load)
	}
}

func (f *Face) load() *words.Family {
	fam := &words.Family{ID: f.ID, Name: f.Name, StandIns: standIn}
	for _, name := range f.Files {
		data, err := File(name)
		if err != nil {
			panic(err) // the table names a file that is not there
		}
		t, err := words.Parse(data)
		if err != nil {
			panic(fmt.Sprintf("fonts: %s: %v", name, err))
		}
		t.Italic = Italic(name)
		fam.Fonts = append(fam.Fonts, t)
	}
	return fam
}

// standIn is the family that stands in for letters which others don't have, in their
// order; nil after the last.
func standIn(i int) *words.Family {
	if i >= len(standIns) {
		return nil
	}
	return Family(standIns[i])
}

// Family finds a family that ships, nil for none.
func Family(id string) *words.Family {
	if load := families[id]; load != nil {
		return load()
	}
	return nil
}

// FilesOf are the names of the files of a family that ships.
func FilesOf(id string) []string {
	for _, f := range Faces {
		if f.ID == id {
			return f.Files
		}
	}
	return nil
}

// Adopt makes a family of a font from outside, with the same stand-ins as others.
func Adopt(id string, f *words.Font) *words.Family {
	return &words.Family{ID: id, Name: f.Name(), Fonts: []*words.Font{f}, StandIns: standIn}
}

// Shelf hands out the faces that ship, to whatever needs no others.
type Shelf struct{}

// letters is what shelves have set.
var letters = words.NewSetter()

// Face finds a face by its id, nil for none.
func (Shelf) Face(id string) *words.Family { return Family(id) }

// Named lists the faces that people are offered.
func (Shelf) Named() (out []words.Named) {
	for _, f := range Faces {
		if !f.Aids {
			out = append(out, words.Named{ID: f.ID, Name: f.Name, Sort: f.Sort})
		}
	}
	return out
}

// Letters sets wordings, and remembers what it has set.
func (Shelf) Letters() *words.Setter { return letters }
