package vector

import (
	"bytes"
	"compress/gzip"
	"encoding/xml"
	"fmt"
	"io"
	"strings"
	"testing"

	"golang.org/x/text/encoding/unicode"
)

const head = `<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" width="10" height="20" `

func svg(inside string) string { return head + `>` + inside + `</svg>` }

func read(t *testing.T, text string) (string, []string) {
	t.Helper()
	d, err := Read([]byte(text))
	if err != nil {
		t.Fatalf("%v\n%s", err, text)
	}
	dec := xml.NewDecoder(bytes.NewReader(d.SVG))
	for {
		if _, err := dec.Token(); err == io.EOF {
			break
		} else if err != nil {
			t.Fatalf("what is written can't be read: %v\n%s", err, d.SVG)
		}
	}
	return string(d.SVG), d.Notes
}

// What programs save besides the drawing is taken out, and told where it could have
// been seen.
func TestOrdinaryDrawingsAreCleaned(t *testing.T) {
	for name, c := range map[string]struct{ in, has, not, note string }{
		"name spaces by entities": {`<?xml version="1.0"?><!DOCTYPE svg PUBLIC "-//W3C//DTD SVG 1.1//EN" "svg11.dtd" [<!ENTITY ns_own "http://example.org/own/1.0/"><!ENTITY ns_svg "http://www.w3.org/2000/svg">]>
			<svg xmlns="&ns_svg;" xmlns:i="&ns_own;" i:view="3" width="10" height="20"><i:data>AAA</i:data><rect width="5" height="5"/></svg>`, "<rect", "AAA", ""},
		"a switch":         {svg(`<switch><foreignObject requiredExtensions="http://example.org/" width="1" height="1"><b xmlns="http://example.org/">HTML</b></foreignObject><g><circle r="4"/></g></switch>`), "<circle", "HTML", "an embedded page"},
		"a link":           {svg(`<a xlink:href="https://example.org/"><rect width="3" height="3"/></a>`), "<a><rect", "example.org", "links"},
		"text in entities": {`<!DOCTYPE svg [<!ENTITY who "Odalys"><!ENTITY all "&who; Fenn">]>` + svg(`<text>&all;</text>`), "Odalys Fenn", "&all;", ""},
		"metadata":         {svg(`<metadata><x/></metadata><title>A</title><path d="M0 0"/>`), "<path", "title", ""},
		"a film":           {svg(`<video href="#a"/><rect/>`), "<rect", "video", "a film"},
		"motion":           {svg(`<rect><animate attributeName="x" to="9"/></rect>`), "<rect", "animate", "It moves"},
		"a base":           {head + `xml:base="file:///etc/"><rect/></svg>`, "<rect", "etc", ""},
		"fonts from afar":  {svg(`<style>@font-face { font-family: X; src: url(https://example.org/x.woff2) } .a { fill: red }</style><rect class="a"/>`), ".a { fill: red }", "example.org", "a font"},
		"a drawing in one": {svg(`<image href="data:image/svg+xml;base64,PHN2Zy8+"/><rect/>`), "<rect", "base64", "image/svg+xml"},
		"a picture":        {svg(`<image xlink:href="data:image/png;base64,AAAA" width="4" height="4"/>`), "data:image/png", "xxx", ""},
		"no name space":    {`<svg width="3" height="4"><rect/></svg>`, `xmlns="http://www.w3.org/2000/svg"`, "xxx", ""},
		"no size":          {`<svg xmlns="http://www.w3.org/2000/svg"><rect/></svg>`, `viewBox="0 0 300 150"`, "xxx", "300 × 150"},
		"Latin-1":          {"<?xml version=\"1.0\" encoding=\"ISO-8859-1\"?>" + svg("<text>S\xf3lveig</text>"), "Sólveig", "\xf3", ""},
		"spaces in text":   {svg(`<text>a<tspan>b</tspan> <tspan>c</tspan></text>`), "</tspan> <tspan>", "xxx", ""},
	} {
		out, notes := read(t, c.in)
		if !strings.Contains(out, c.has) || strings.Contains(out, c.not) {
			t.Errorf("%s: %s", name, out)
		}
		if all := strings.Join(notes, " "); !strings.Contains(all, c.note) || c.note == "" && all != "" {
			t.Errorf("%s: it says %q", name, all)
		}
	}
}

// XML 1.0, appendix F (UTF-16), RFC 1952 (gzip).
func TestDrawingsInOtherEncodings(t *testing.T) {
	text := `<?xml version="1.0" encoding="utf-16"?>` + svg(`<text>Sólveig</text>`)
	for _, order := range []unicode.Endianness{unicode.LittleEndian, unicode.BigEndian} {
		for _, bom := range []unicode.BOMPolicy{unicode.UseBOM, unicode.IgnoreBOM} {
			b, err := unicode.UTF16(order, bom).NewEncoder().Bytes([]byte(text))
			if err != nil {
				t.Fatal(err)
			}
			if out, _ := read(t, string(b)); !LooksLike(b[:200]) || !strings.Contains(out, "Sólveig") {
				t.Errorf("%v, %v: %v %s", order, bom, LooksLike(b[:200]), out)
			}
		}
	}
	var b bytes.Buffer
	z := gzip.NewWriter(&b)
	_, _ = z.Write([]byte(svg("<rect/>" + strings.Repeat("<path d='M1 1'/>", 2000))))
	_ = z.Close()
	if out, _ := read(t, b.String()); !LooksLike(b.Bytes()[:100]) || !strings.Contains(out, "<rect") {
		t.Errorf("packed: %v", LooksLike(b.Bytes()[:100]))
	}
}

// The examples and the rules of CSS Custom Properties for Cascading Variables Level 1.
func TestCustomPropertiesAreResolved(t *testing.T) {
	for name, c := range map[string]struct{ style, inside, has string }{
		"by the root":            {`:root { --a: #123456 } rect { fill: var(--a) }`, `<rect/>`, `<rect style="fill: #123456"`},
		"by an attribute":        {`svg { --a: teal }`, `<rect fill="var(--a)"/>`, `<rect fill="teal"`},
		"inherited":              {`.up { --a: red }`, `<g class="up"><rect style="stroke: blue; fill: var(--a)"/></g>`, `style="stroke: blue; fill: red"`},
		"of its own":             {`rect { --a: red; fill: var(--a) } #x { --a: blue }`, `<rect id="x"/>`, `style="fill: blue"`},
		"a fallback":             {`rect { fill: var(--none, var(--b, green)) }`, `<rect/>`, `style="fill: green"`},
		"one by another":         {`:root { --a: var(--b); --b: 5px } rect { stroke-width: var(--a) }`, `<rect/>`, `stroke-width: 5px`},
		"by the heavier":         {`.x { fill: var(--a) } :root { --a: red; --b: blue } rect.x { fill: var(--b) }`, `<rect class="x"/>`, `style="fill: blue"`},
		"important":              {`:root { --a: red } rect { fill: var(--a) !important }`, `<rect style="fill: blue"/>`, `fill: red !important`},
		"beaten by a plain rule": {`:root { --a: red } rect { fill: var(--a) } #x { fill: blue }`, `<rect id="x"/>`, `<rect id="x"/>`},
		"a newer colour":         {`:root { --l: 0.7; --c: oklch(var(--l) 0 0) } rect { fill: var(--c) }`, `<rect/>`, `fill: #9e9e9e`},
	} {
		out, notes := read(t, svg(`<style>`+c.style+`</style>`+c.inside))
		if !strings.Contains(out, c.has) || len(notes) > 0 {
			t.Errorf("%s: %v %s", name, notes, out)
		}
	}
	// In a circle they stand for nothing: the property is as if it were not there.
	if out, _ := read(t, svg(`<style>:root { --a: var(--b); --b: var(--a) } rect { fill: var(--a) }</style><rect/>`)); !strings.Contains(out, "<rect/>") {
		t.Errorf("a circle: %s", out)
	}
	long := strings.Repeat("--x: var(--y) var(--y);", 1)
	for i := range 40 {
		long += fmt.Sprintf("--v%d: var(--v%d) var(--v%d);", i, i+1, i+1)
	}
	if out, err := Read([]byte(svg(`<style>:root {` + long + `--v40: red} rect { fill: var(--v0) }</style><rect/>`))); err != nil || len(out.SVG) > 1<<20 {
		t.Errorf("variables that double 40 times: %d bytes, %v", len(out.SVG), err)
	}
}

// Values of CSS Color Module Level 4: its examples of oklch(), hwb() and color(), and
// web-platform tests of lab() and lch() from memory, within 1 of 255.
func TestNewerColoursAreWrittenAsOlder(t *testing.T) {
	for in, want := range map[string]string{
		"hwb(194 0% 0%)": "#00c3ff", "hwb(194 0% 0% / .5)": "rgba(0, 195, 255, 0.5)", "hwb(45 40% 80%)": "#555555",
		"color(srgb 1 0.5 0)": "#ff8000", "color(srgb-linear 0.5 0.5 0.5)": "#bcbcbc", "oklch(100% 0 0)": "#ffffff", "lab(100% 0 0)": "#ffffff",
		"oklab(0.627955 0.224863 0.125846)": "#ff0000", "oklch(51.975% 0.17686 142.495)": "#008000", "lab(46.2775% -47.5621 48.5837)": "#008000",
		"lch(29.2345% 44.2 27)": "#7d2329", "color(display-p3 1 1 1)": "#ffffff", "oklch(none none none)": "#000000", "light-dark(red, blue)": "red",
	} {
		c := &cleaner{}
		if got := olderColours("fill: "+in, c); got != "fill: "+want || len(c.said) > 0 {
			t.Errorf("%s is %s %v, want %s", in, got, c.said, want)
		}
	}
	c := &cleaner{}
	if got := olderColours("color-mix(in oklab, red, blue)", c); got != "color-mix(in oklab, red, blue)" || len(c.said) != 1 {
		t.Errorf("a colour that can't be drawn: %s, %v", got, c.said)
	}
}

func TestFacesThatAreNotHereAreTold(t *testing.T) {
	for name, c := range map[string]struct{ in, note string }{
		"another":          {`<text font-family="Arial, sans-serif">A</text>`, "Its text is set in Arial, which is not here; it is drawn in Figtree."},
		"another by style": {`<style>text { font: bold 12px/1.2 'Times New Roman', serif }</style><text>A</text>`, "set in Times New Roman, which is not here; it is drawn in DejaVu Serif."},
		"one that is":      {`<text style="font-family: figtree">A</text>`, ""},
		"a kind":           {`<text font-family="monospace">A</text>`, ""},
		"no text":          {`<g font-family="Arial"><rect/></g>`, ""},
		"no glyph":         {`<text>凧 kite</text>`, "No face here has the characters 凧;"},
	} {
		if _, notes := read(t, svg(c.in)); !strings.Contains(strings.Join(notes, " "), c.note) || c.note == "" && len(notes) > 0 {
			t.Errorf("%s: %v", name, notes)
		}
	}
}

func FuzzRead(f *testing.F) {
	f.Add([]byte(svg(`<path d="M0 0L5 5"/>`)))
	f.Add([]byte(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 1 1"><style>:root{--a:var(--b,red)}a{fill:url(#x)}</style><a fill="var(--a)"/></svg>`))
	f.Add([]byte(`<!DOCTYPE svg [<!ENTITY a "b">]>` + svg(`<text font-family="A,B">&a;</text>`)))
	f.Fuzz(func(t *testing.T, data []byte) { _, _ = Read(data) })
}
