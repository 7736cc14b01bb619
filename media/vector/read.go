package vector

import (
	"bytes"
	"compress/gzip"
	"encoding/xml"
	"errors"
	"io"
	"regexp"
	"strings"
	"unicode/utf8"

	"golang.org/x/text/encoding/htmlindex"
	"golang.org/x/text/encoding/unicode"

	"ivypocket/media/limits"
)

// LooksLike reports whether a file's first bytes may be those of a drawing.
func LooksLike(head []byte) bool {
	if packed(head) {
		z, err := gzip.NewReader(bytes.NewReader(head))
		if err != nil {
			return false
		}
		// The end of what is looked at is the end of nothing.
		head, _ = io.ReadAll(io.LimitReader(z, 1<<12))
	}
	if enc := utf16(head); enc != nil {
		head, _ = enc.Bytes(head[:len(head)&^1])
	}
	s := strings.TrimLeft(strings.TrimPrefix(string(head), "\ufeff"), " \t\r\n")
	return strings.HasPrefix(s, "<") && (strings.Contains(s, "<svg") || strings.Contains(s, "<!DOCTYPE svg"))
}

func packed(data []byte) bool { return len(data) > 2 && data[0] == 0x1f && data[1] == 0x8b }

type decoder interface{ Bytes([]byte) ([]byte, error) }

// utf16 is the decoder of UTF-16, if that is what data begins with; XML 1.0,
// appendix F.
func utf16(data []byte) decoder {
	switch {
	case bytes.HasPrefix(data, []byte{0xff, 0xfe}), bytes.HasPrefix(data, []byte{'<', 0, '?', 0}), bytes.HasPrefix(data, []byte{'<', 0, 's', 0}):
		return unicode.UTF16(unicode.LittleEndian, unicode.UseBOM).NewDecoder()
	case bytes.HasPrefix(data, []byte{0xfe, 0xff}), bytes.HasPrefix(data, []byte{0, '<', 0, '?'}), bytes.HasPrefix(data, []byte{0, '<', 0, 's'}):
		return unicode.UTF16(unicode.BigEndian, unicode.UseBOM).NewDecoder()
	}
	return nil
}

// plainText unpacks a drawing and decodes UTF-16; other encodings are left to
// the reader of XML, which sees them declared.
func plainText(data []byte) ([]byte, error) {
	if packed(data) {
		z, err := gzip.NewReader(bytes.NewReader(data))
		if err == nil {
			data, err = io.ReadAll(io.LimitReader(z, limits.VectorBytes+1))
		}
		if err != nil {
			return nil, refuse("The packed SVG is damaged: %s.", err)
		}
	}
	if len(data) > limits.VectorBytes {
		return nil, refuse("The SVG has more than %d MB. Simplify it.", limits.VectorBytes>>20)
	}
	if enc := utf16(data); enc != nil {
		out, err := enc.Bytes(data)
		if err != nil {
			return nil, refuse("The SVG is damaged: its UTF-16 can't be read.")
		}
		data = out
	}
	return bytes.TrimPrefix(data, []byte("\ufeff")), nil
}

// Name spaces of SVG and of what is used within it.
const (
	svgSpace   = "http://www.w3.org/2000/svg"
	xlinkSpace = "http://www.w3.org/1999/xlink"
	xmlSpace   = "http://www.w3.org/XML/1998/namespace"
)

// node is an element, or text where it has no name.
type node struct {
	name  string // "" is text
	space string
	attrs []attr
	text  string
	kids  []*node
}

type attr struct{ space, name, value string }

func (n *node) get(name string) string {
	for _, a := range n.attrs {
		if a.name == name && a.space == "" {
			return a.value
		}
	}
	return ""
}

func (n *node) set(name, value string) {
	for i, a := range n.attrs {
		if a.name == name && a.space == "" {
			n.attrs[i].value = value
			return
		}
	}
	n.attrs = append(n.attrs, attr{"", name, value})
}

func (n *node) drop(name string) {
	for i, a := range n.attrs {
		if a.name == name && a.space == "" {
			n.attrs = append(n.attrs[:i:i], n.attrs[i+1:]...)
			return
		}
	}
}

// walk visits all elements, each before what is in it.
func (n *node) walk(visit func(*node)) {
	if n.name != "" {
		visit(n)
	}
	for _, k := range n.kids {
		k.walk(visit)
	}
}

// content is the text right in an element.
func (n *node) content() string {
	var b strings.Builder
	for _, k := range n.kids {
		if k.name == "" {
			b.WriteString(k.text)
		}
	}
	return b.String()
}

// tree reads the tree of a drawing.
func tree(text []byte) (*node, error) {
	dec := xml.NewDecoder(bytes.NewReader(text))
	dec.Strict = true
	dec.CharsetReader = func(label string, in io.Reader) (io.Reader, error) {
		if strings.HasPrefix(strings.ToLower(label), "utf-16") {
			return in, nil // it was decoded
		}
		enc, err := htmlindex.Get(label)
		if err != nil {
			return nil, errors.New("it is encoded as " + label + "; save it as UTF-8")
		}
		return enc.NewDecoder().Reader(in), nil
	}
	var root *node
	var open []*node
	nodes := 0
	for {
		tok, err := dec.Token()
		if err == io.EOF {
			break
		}
		var refused *RefusedError
		if errors.As(err, &refused) {
			return nil, err
		}
		if err != nil {
			return nil, refuse("The SVG can't be read: %s.", err)
		}
		switch t := tok.(type) {
		case xml.Directive:
			if dec.Entity, err = entities(string(t), text); err != nil {
				return nil, err
			}
		case xml.ProcInst:
			if t.Target == "xml-stylesheet" && !regexp.MustCompile(`href\s*=\s*["']#`).Match(t.Inst) {
				return nil, refuse("The SVG takes its style from another file. Put the style inside.")
			}
		case xml.StartElement:
			n := &node{name: t.Name.Local, space: t.Name.Space}
			if nodes++; len(open) >= limits.VectorDepth || nodes > limits.VectorNodes {
				return nil, refuse("The SVG has more than %d parts or is nested deeper than %d. Simplify it.", limits.VectorNodes, limits.VectorDepth)
			}
			for _, a := range t.Attr {
				if a.Name.Space != "xmlns" && a.Name.Local != "xmlns" {
					n.attrs = append(n.attrs, attr{a.Name.Space, a.Name.Local, a.Value})
				}
			}
			if root == nil {
				if root = n; n.name != "svg" || n.space != svgSpace && n.space != "" {
					return nil, refuse("This is XML, but not SVG.")
				}
			} else if len(open) > 0 {
				up := open[len(open)-1]
				up.kids = append(up.kids, n)
			}
			open = append(open, n)
		case xml.EndElement:
			open = open[:len(open)-1]
		case xml.CharData:
			if len(open) > 0 {
				up := open[len(open)-1]
				up.kids = append(up.kids, &node{text: string(t)})
			}
		}
	}
	if root == nil {
		return nil, refuse("The SVG is empty.")
	}
	return root, nil
}

var (
	entity   = regexp.MustCompile(`<!ENTITY\s+([\w.:-]+)\s+(?:"([^"]*)"|'([^']*)'|(SYSTEM|PUBLIC)[^>]*)\s*>`)
	paramed  = regexp.MustCompile(`<!ENTITY\s+%`)
	mention  = regexp.MustCompile(`&([A-Za-z_][\w.:-]*);`)
	declared = regexp.MustCompile(`(?s)<!DOCTYPE.*?\]\s*>`)
)

// maxUnfolded bounds what entities may unfold to, in bytes.
const maxUnfolded = 4 << 20

// entities reads what a document type declares, with entities in one another
// unfolded. They may stand for text alone.
func entities(doctype string, text []byte) (map[string]string, error) {
	if !strings.Contains(strings.ToUpper(doctype), "ENTITY") {
		return nil, nil
	}
	tooMuch := refuse("The SVG's entities unfold to more than %d MB. Save it without them.", maxUnfolded>>20)
	out := map[string]string{}
	outside := map[string]bool{}
	if paramed.MatchString("<!" + doctype) {
		return nil, refuse("The SVG declares entities of its document type. Save it without them.")
	}
	for _, m := range entity.FindAllStringSubmatch(doctype, -1) {
		if m[4] != "" {
			outside[m[1]] = true
			continue
		}
		v := m[2] + m[3]
		// What it mentions must stand before it; so nothing mentions itself.
		v = mention.ReplaceAllStringFunc(v, func(s string) string {
			if in, ok := out[s[1:len(s)-1]]; ok {
				return in
			}
			return s
		})
		if len(v) > maxUnfolded {
			return nil, tooMuch
		}
		out[m[1]] = v
	}
	total := 0
	for _, m := range mention.FindAllSubmatch(declared.ReplaceAll(text, nil), -1) {
		if outside[string(m[1])] {
			return nil, refuse("The SVG takes a part of it from another file (the entity %s). Put it inside.", m[1])
		}
		if total += len(out[string(m[1])]); total > maxUnfolded {
			return nil, tooMuch
		}
	}
	for name, v := range out {
		if strings.Contains(v, "<") {
			return nil, refuse("The SVG's entity %s stands for markup. Save it without entities.", name)
		}
		if !utf8.ValidString(v) {
			return nil, refuse("The SVG's entity %s can't be read. Save it without entities.", name)
		}
	}
	return out, nil
}

// write is a tree as XML.
func write(root *node) []byte {
	var b bytes.Buffer
	b.WriteString(`<?xml version="1.0" encoding="UTF-8"?>` + "\n")
	var put func(n *node, top bool)
	put = func(n *node, top bool) {
		if n.name == "" {
			_ = xml.EscapeText(&b, []byte(n.text)) // a buffer takes all
			return
		}
		b.WriteString("<" + n.name)
		if top {
			b.WriteString(` xmlns="` + svgSpace + `" xmlns:xlink="` + xlinkSpace + `"`)
		}
		for _, a := range n.attrs {
			name := a.name
			switch a.space {
			case xlinkSpace:
				name = "xlink:" + name
			case xmlSpace, "xml":
				name = "xml:" + name
			}
			b.WriteString(" " + name + `="`)
			_ = xml.EscapeText(&b, []byte(a.value))
			b.WriteString(`"`)
		}
		if len(n.kids) == 0 {
			b.WriteString("/>")
			return
		}
		b.WriteString(">")
		for _, k := range n.kids {
			put(k, false)
		}
		b.WriteString("</" + n.name + ">")
	}
	put(root, true)
	return b.Bytes()
}
