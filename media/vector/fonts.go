package vector

import (
	"embed"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"sync"

	"golang.org/x/image/font/sfnt"
)

//go:embed fonts/*.ttf
var shipped embed.FS

// Families that ship, and what they stand for. Figtree and Spline Sans Mono are those
// of the page; the others have more of the world's letters.
const (
	sans  = "Figtree"
	serif = "DejaVu Serif"
	mono  = "Spline Sans Mono"
	wide  = "DejaVu Sans"
)

var families = []string{sans, serif, mono, wide}

// standsFor says which shipped family is drawn for the kinds of CSS and for families
// that are often asked for; any other is drawn in the first one.
var standsFor = map[string]string{
	"serif": serif, "sans-serif": sans, "monospace": mono, "cursive": sans, "fantasy": sans, "system-ui": sans, "ui-monospace": mono, "ui-serif": serif, "ui-sans-serif": sans,
	"times": serif, "times new roman": serif, "georgia": serif, "garamond": serif, "palatino": serif, "cambria": serif, "baskerville": serif, "didot": serif, "bodoni": serif,
	"courier": mono, "courier new": mono, "consolas": mono, "menlo": mono, "monaco": mono,
}

// InstallFonts writes the shipped fonts and a font configuration that knows them
// alone into a folder, and returns the configuration's path.
func InstallFonts(dir string) (string, error) {
	files, err := shipped.ReadDir("fonts")
	if err != nil {
		return "", err
	}
	for _, f := range files {
		b, err := shipped.ReadFile("fonts/" + f.Name())
		if err == nil {
			err = os.WriteFile(filepath.Join(dir, f.Name()), b, 0o600)
		}
		if err != nil {
			return "", err
		}
	}
	var b strings.Builder
	b.WriteString(`<?xml version="1.0"?><!DOCTYPE fontconfig SYSTEM "fonts.dtd"><fontconfig><dir>` + dir + `</dir><cachedir>` + dir + `/cache</cachedir>`)
	names := make([]string, 0, len(standsFor))
	for name := range standsFor {
		names = append(names, name)
	}
	slices.Sort(names)
	for _, name := range names {
		b.WriteString(`<alias binding="same"><family>` + name + `</family><accept><family>` + standsFor[name] + `</family></accept></alias>`)
	}
	b.WriteString(`<match target="pattern"><edit name="family" mode="append_last"><string>` + sans + `</string><string>` + wide + `</string></edit></match></fontconfig>`)
	conf := filepath.Join(dir, "fonts.conf")
	return conf, os.WriteFile(conf, []byte(b.String()), 0o600)
}

var (
	familyRule = regexp.MustCompile(`(?i)font-family\s*:\s*([^;}]+)`)
	fontRule   = regexp.MustCompile(`(?i)(?:^|[;{\s])font\s*:\s*([^;}]+)`)
	fontSize   = regexp.MustCompile(`(?i)^.*?[\d.]+(?:px|pt|em|rem|%|ex|mm|cm|in|pc)?(?:\s*/\s*\S+)?\s+`)
)

// faces says which faces and characters a drawing asks for that do not ship.
func faces(root *node, c *cleaner) {
	var letters strings.Builder
	var lists []string
	root.walk(func(n *node) {
		if n.name == "text" || n.name == "tspan" || n.name == "textPath" {
			letters.WriteString(n.content())
			if n.name == "textPath" {
				c.say("Its text runs along a path, which can't be drawn. Turn text into outlines to keep it.")
			}
		}
		css := n.get("style")
		if n.name == "style" {
			css = n.content()
		}
		if f := n.get("font-family"); f != "" {
			lists = append(lists, f)
		}
		for _, m := range familyRule.FindAllStringSubmatch(css, -1) {
			lists = append(lists, m[1])
		}
		for _, m := range fontRule.FindAllStringSubmatch(css, -1) {
			lists = append(lists, fontSize.ReplaceAllString(m[1], ""))
		}
	})
	text := letters.String()
	if strings.TrimSpace(text) == "" {
		return
	}
	for _, list := range lists {
		asked, drawn := face(list)
		if asked != drawn {
			c.say("Its text is set in %s, which is not here; it is drawn in %s. Turn text into outlines to keep its looks.", brief(asked), drawn)
		}
	}
	if m := missing(text); m != "" {
		c.say("No face here has the characters %s; they are drawn as boxes. Turn text into outlines to keep them.", m)
	}
}

// face is the family that a list asks for first, and the one that is drawn.
func face(list string) (asked, drawn string) {
	for i, name := range strings.Split(list, ",") {
		name = strings.Trim(strings.TrimSpace(strings.TrimSuffix(strings.TrimSpace(name), "!important")), `"' `)
		if i == 0 {
			asked = name
		}
		for _, f := range families {
			if strings.EqualFold(f, name) {
				if i == 0 {
					asked = f
				}
				return asked, f
			}
		}
		if f := standsFor[strings.ToLower(name)]; f != "" {
			if i == 0 && generic(name) {
				asked = f
			}
			return asked, f
		}
	}
	return asked, sans
}

// generic reports whether a name is one of CSS's kinds of faces, which asks for no
// face in particular.
func generic(name string) bool {
	low := strings.ToLower(name)
	return strings.HasSuffix(low, "serif") || slices.Contains([]string{"monospace", "cursive", "fantasy", "system-ui", "ui-monospace"}, low)
}

var parsed = sync.OnceValue(func() (out []*sfnt.Font) {
	files, _ := shipped.ReadDir("fonts")
	for _, f := range files {
		b, err := shipped.ReadFile("fonts/" + f.Name())
		if err != nil {
			continue
		}
		if font, err := sfnt.Parse(b); err == nil {
			out = append(out, font)
		}
	}
	return out
})

// missing lists the first few characters that no shipped face has.
func missing(text string) string {
	var buf sfnt.Buffer
	var out []rune
	seen := map[rune]bool{}
	for _, r := range text {
		if r <= ' ' || seen[r] {
			continue
		}
		if seen[r] = true; !slices.ContainsFunc(parsed(), func(f *sfnt.Font) bool { g, err := f.GlyphIndex(&buf, r); return err == nil && g != 0 }) {
			if out = append(out, r); len(out) == 8 {
				break
			}
		}
	}
	return string(out)
}
