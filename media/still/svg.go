package still

import (
	"bytes"
	"context"
	"embed"
	"encoding/xml"
	"fmt"
	"image/png"
	"io"
	"os"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"sync"

	"ivypocket/core/raster"
	"ivypocket/media/helper"
)

//go:embed fonts/*.woff
var shippedFonts embed.FS

// LooksLikeSVG reports whether a file's first bytes are those of a drawing.
func LooksLikeSVG(head []byte) bool {
	s := strings.TrimLeft(strings.TrimPrefix(string(head), "\ufeff"), " \t\r\n")
	return strings.HasPrefix(s, "<") && strings.Contains(s, "<svg")
}

// cssOutside finds what a style may use to reach outside the drawing.
var (
	cssImport = regexp.MustCompile(`(?i)@import`)
	cssURL    = regexp.MustCompile(`(?i)url\(\s*['"]?\s*([^'")\s]*)`)
)

// CheckVector says whether a drawing may come in, and its own size. It reads the
// text alone; Inspect also tries to draw it.
func CheckVector(data []byte) (Facts, error) {
	m := Facts{Alpha: true}
	dec := xml.NewDecoder(bytes.NewReader(data))
	dec.Strict = true
	dec.CharsetReader = func(label string, _ io.Reader) (io.Reader, error) {
		return nil, fmt.Errorf("it is encoded as %s; save it as UTF-8", label)
	}
	depth, nodes, inStyle := 0, 0, false
	for {
		tok, err := dec.Token()
		if err == io.EOF {
			break
		}
		if err != nil {
			return m, Refuse("The SVG can't be read: %s.", err)
		}
		switch t := tok.(type) {
		case xml.Directive:
			if strings.Contains(strings.ToUpper(string(t)), "ENTITY") {
				return m, Refuse("The SVG declares entities, which can be made to unfold without end. Save it without them.")
			}
		case xml.ProcInst:
			if t.Target == "xml-stylesheet" {
				return m, Refuse("The SVG takes its style from another file. Put the style inside.")
			}
		case xml.StartElement:
			depth++
			nodes++
			if depth > MaxVectorDepth || nodes > MaxVectorNodes {
				return m, Refuse("The SVG has more than %d parts or is nested deeper than %d. Simplify it.", MaxVectorNodes, MaxVectorDepth)
			}
			if nodes == 1 {
				if t.Name.Local != "svg" {
					return m, Refuse("This is XML, but not SVG.")
				}
				if m.Width, m.Height, err = svgSize(t.Attr); err != nil {
					return m, err
				}
			}
			if err := checkElement(t); err != nil {
				return m, err
			}
			inStyle = t.Name.Local == "style"
		case xml.EndElement:
			depth--
			inStyle = false
		case xml.CharData:
			if inStyle {
				if err := checkStyle(string(t)); err != nil {
					return m, err
				}
			}
		}
	}
	if nodes == 0 {
		return m, Refuse("The SVG is empty.")
	}
	return m, checkSize(m.Width, m.Height)
}

func checkElement(t xml.StartElement) error {
	switch strings.ToLower(t.Name.Local) {
	case "script", "foreignobject", "iframe", "object", "embed", "handler", "listener", "audio", "video":
		return Refuse("The SVG has a <%s>, which a mark does not need. Save it as plain SVG.", t.Name.Local)
	}
	for _, a := range t.Attr {
		name := strings.ToLower(a.Name.Local)
		switch {
		case strings.HasPrefix(name, "on"):
			return Refuse("The SVG has a script (%s). Save it as plain SVG.", a.Name.Local)
		case name == "href" || name == "src":
			if err := checkReference(a.Value); err != nil {
				return err
			}
		case name == "base":
			return Refuse("The SVG refers to other files (xml:base). Save it as plain SVG.")
		default:
			if err := checkStyle(a.Value); err != nil {
				return err
			}
		}
	}
	return nil
}

func checkStyle(s string) error {
	if cssImport.MatchString(s) {
		return Refuse("The SVG takes its style from another file. Put the style inside.")
	}
	for _, u := range cssURL.FindAllStringSubmatch(s, -1) {
		if err := checkReference(u[1]); err != nil {
			return err
		}
	}
	return nil
}

func checkReference(ref string) error {
	ref = strings.TrimSpace(ref)
	low := strings.ToLower(ref)
	if ref == "" || ref[0] == '#' || strings.HasPrefix(low, "data:image/png;") || strings.HasPrefix(low, "data:image/jpeg;") {
		return nil
	}
	if len(ref) > 60 {
		ref = ref[:60] + "…"
	}
	return Refuse("The SVG refers to something outside itself (%s). Embed it or leave it out.", ref)
}

// unitPx is how many CSS px a unit has (CSS Values and Units Level 3).
var unitPx = map[string]float64{"": 1, "px": 1, "pt": 4.0 / 3, "pc": 16, "mm": 96 / 25.4, "cm": 96 / 2.54, "in": 96, "em": 16, "ex": 8}

// svgSize is the drawing's own size: width and height, else the viewBox.
func svgSize(attrs []xml.Attr) (w, h int, err error) {
	var fw, fh, vw, vh float64
	length := func(s string) float64 {
		s = strings.TrimSpace(s)
		i := len(s)
		for i > 0 && (s[i-1] >= 'a' && s[i-1] <= 'z' || s[i-1] == '%') {
			i--
		}
		n, err := strconv.ParseFloat(s[:i], 64)
		k, ok := unitPx[s[i:]]
		if err != nil || !ok || !(n > 0) {
			return 0
		}
		return n * k
	}
	for _, a := range attrs {
		switch a.Name.Local {
		case "width":
			fw = length(a.Value)
		case "height":
			fh = length(a.Value)
		case "viewBox":
			p := strings.FieldsFunc(a.Value, func(r rune) bool { return r == ' ' || r == ',' || r == '\t' || r == '\n' })
			if len(p) == 4 {
				vw, _ = strconv.ParseFloat(p[2], 64)
				vh, _ = strconv.ParseFloat(p[3], 64)
			}
		}
	}
	switch {
	case fw > 0 && fh > 0:
	case vw > 0 && vh > 0:
		switch {
		case fw > 0:
			fh = fw * vh / vw
		case fh > 0:
			fw = fh * vw / vh
		default:
			fw, fh = vw, vh
		}
	default:
		return 0, 0, Refuse("The SVG says neither its size nor a viewBox. Save it with one of them.")
	}
	if !(fw < MaxSide && fh < MaxSide) {
		return 0, 0, Refuse("The SVG is %.0f × %.0f px; the limit is %d px a side.", fw, fh, MaxSide)
	}
	return max(1, int(fw+0.5)), max(1, int(fh+0.5)), nil
}

// fontsOnly writes a font configuration that knows the shipped fonts alone and
// returns its path.
var fontsOnly = sync.OnceValues(func() (string, error) {
	dir, err := helper.Scratch("fonts")
	if err != nil {
		return "", err
	}
	files, err := shippedFonts.ReadDir("fonts")
	if err != nil {
		return "", err
	}
	for _, f := range files {
		b, err := shippedFonts.ReadFile("fonts/" + f.Name())
		if err == nil {
			err = os.WriteFile(filepath.Join(dir, f.Name()), b, 0o600)
		}
		if err != nil {
			return "", err
		}
	}
	conf := filepath.Join(dir, "fonts.conf")
	text := `<?xml version="1.0"?><!DOCTYPE fontconfig SYSTEM "fonts.dtd"><fontconfig><dir>` + dir +
		`</dir><cachedir>` + dir + `/cache</cachedir></fontconfig>`
	return conf, os.WriteFile(conf, []byte(text), 0o600)
})

type svgReader struct{}

func (svgReader) head(_ context.Context, _ string, data []byte) (Facts, error) {
	return CheckVector(data)
}

func (svgReader) pixels(ctx context.Context, _ string, data []byte, _ Facts, w, h int) (*raster.Surface, error) {
	return drawSVG(ctx, data, w, h)
}

// drawSVG makes pixels of a checked drawing, exactly w×h of them.
func drawSVG(ctx context.Context, data []byte, w, h int) (*raster.Surface, error) {
	conf, err := fontsOnly()
	if err != nil {
		return nil, err
	}
	// Read from a pipe the drawing has no place of its own, so that no
	// reference can reach a file.
	// A PNG that can't be packed is a little larger than its pixels.
	most := int64(w)*int64(h)*4 + int64(w)*int64(h)/64 + 1<<20
	out, err := helper.Run(ctx, helper.Spec{Name: "rsvg-convert", Limit: helperTime, Output: most, Env: []string{"FONTCONFIG_FILE=" + conf},
		Args: []string{"--width", strconv.Itoa(w), "--height", strconv.Itoa(h), "--format", "png"}}, bytes.NewReader(data))
	if err != nil {
		return nil, err
	}
	img, err := png.Decode(ending(ctx, out))
	if err != nil {
		return nil, err
	}
	s := raster.FromImage(img)
	if s.W != w || s.H != h {
		s = s.Resize(w, h)
	}
	return s, nil
}
