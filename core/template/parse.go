package template

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"reflect"
	"sort"
	"strings"
	"unicode"
	"unicode/utf8"

	"ivypocket/core/scheme"
)

// MaxBytes bounds a document; a long template with thousands of keys has a
// tenth of it.
const MaxBytes = 8 << 20

// maxDepth bounds nesting, so that no document exhausts the stack.
const maxDepth = 64

// Fault is one thing wrong with a document: where, what and what to do.
type Fault struct {
	Path string `json:"path" doc:"Where, such as layers[3].rest.size"`
	What string `json:"what"`
}

func (f Fault) Error() string { return f.Path + ": " + f.What }

// Faults is every fault found in one reading.
type Faults []Fault

func (f Faults) Error() string {
	lines := make([]string, len(f))
	for i := range f {
		lines[i] = f[i].Error()
	}
	return strings.Join(lines, "\n")
}

// Unseen reports whether a character has no place in a text for people: control
// characters but for tabs and line ends, and those that turn the order of what
// follows (Unicode UAX #9, 2.2 and 2.3), by which one name may look like another.
func Unseen(r rune) bool {
	return r != '\t' && r != '\n' && r != '\r' && unicode.IsControl(r) || r >= 0x202a && r <= 0x202e || r >= 0x2066 && r <= 0x2069
}

// Parse reads a document: it upgrades an older one, refuses what is unknown or
// not drawn yet, and validates the rest. Its error is of type Faults.
func Parse(data []byte) (*Document, error) {
	d, err := Read(data)
	if err != nil {
		return nil, err
	}
	if err := d.Validate(); err != nil {
		return nil, err
	}
	return d, nil
}

// Read is Parse without validating the document as a whole.
func Read(data []byte) (*Document, error) {
	if len(data) > MaxBytes {
		return nil, Faults{{"document", fmt.Sprintf("%d bytes are more than %d", len(data), MaxBytes)}}
	}
	tree, err := decodeTree(data)
	if err != nil {
		return nil, asFaults("document", err)
	}
	root, ok := tree.(map[string]any)
	if !ok {
		return nil, Faults{{"document", "is not a JSON object"}}
	}
	if err := upgrade(root); err != nil {
		return nil, err
	}
	var faults Faults
	var d Document
	d.Gradients = readNodes(scheme.Gradients, root["gradients"], "gradients", &faults)
	d.Layouts = readNodes(scheme.Layouts, root["layouts"], "layouts", &faults)
	d.Moves = readNodes(scheme.SavedMoves, root["moves"], "moves", &faults)
	d.Motifs = readNodes(scheme.Layers, root["motifs"], "motifs", &faults)
	d.Layers = readNodes(scheme.Layers, root["layers"], "layers", &faults)
	delete(root, "moves")
	delete(root, "motifs")
	delete(root, "gradients")
	delete(root, "layouts")
	delete(root, "layers")
	checkTree(root, reflect.TypeFor[document](), "", &faults)
	if faults != nil {
		return nil, faults
	}
	clean, err := json.Marshal(root)
	if err != nil {
		return nil, Faults{{"document", err.Error()}}
	}
	if err := json.Unmarshal(clean, (*document)(&d)); err != nil {
		return nil, Faults{{"document", plain(err)}}
	}
	d.name()
	d.index()
	return &d, nil
}

// document has no methods.
type document Document

// UnmarshalJSON reads a document as Parse does.
func (d *Document) UnmarshalJSON(b []byte) error {
	p, err := Parse(b)
	if err == nil {
		*d = *p
	}
	return err
}

// name gives ids to keys and entries that have none, and pins the behaviour of
// treatments that name none.
func (d *Document) name() {
	d.VisitNodes(func(_, _ string, n *Node) {
		if n.sort == scheme.Treatments && n.Kind != nil && !n.Given(scheme.Behaviour) {
			n.set(scheme.Behaviour, scheme.One(float64(n.Kind.Behaviour)))
		}
		for _, m := range n.Motion {
			if m == nil {
				continue
			}
			taken := map[string]bool{}
			for _, k := range m.Keys {
				taken[k.ID] = true
			}
			for i := range m.Keys {
				if k := &m.Keys[i]; k.ID == "" {
					k.ID = freeID("k", i+1, taken)
				}
			}
		}
	})
	for _, e := range d.Sheet.Entries() {
		if e.ID == "" {
			e.ID = e.Data
		}
	}
}

// Decode reads JSON into v as Parse reads a document: what is unknown, or of
// another kind than it should be, is told with its place. Its error is of type
// Faults.
func Decode(data []byte, v any) error {
	tree, err := decodeTree(data)
	if err != nil {
		return asFaults("values", err)
	}
	var faults Faults
	checkTree(tree, reflect.TypeOf(v).Elem(), "", &faults)
	if faults != nil {
		return faults
	}
	if err := json.Unmarshal(data, v); err != nil {
		return Faults{{"values", plain(err)}}
	}
	return nil
}

// asFaults is an error as faults, of the whole where it names no place.
func asFaults(whole string, err error) Faults {
	var f Faults
	if errors.As(err, &f) {
		return f
	}
	return Faults{{whole, err.Error()}}
}

func decodeTree(data []byte) (any, error) {
	depth, str, esc := 0, false, false
	for _, c := range data {
		switch {
		case esc:
			esc = false
		case str && c == '\\':
			esc = true
		case c == '"':
			str = !str
		case str:
		case c == '{' || c == '[':
			if depth++; depth > maxDepth {
				return nil, fmt.Errorf("is nested deeper than %d levels", maxDepth)
			}
		case c == '}' || c == ']':
			depth--
		}
	}
	dec := json.NewDecoder(bytes.NewReader(data))
	dec.UseNumber()
	var tree any
	if err := dec.Decode(&tree); err != nil {
		var syn *json.SyntaxError
		if errors.As(err, &syn) {
			line := 1 + bytes.Count(data[:min(int(syn.Offset), len(data))], []byte("\n"))
			return nil, fmt.Errorf("line %d is not JSON: %s", line, syn)
		}
		return nil, fmt.Errorf("is not JSON: %s", err)
	}
	if dec.More() {
		return nil, errors.New("has more after its closing brace")
	}
	return tree, twice(data)
}

// twice finds a member that an object has more than once, of which readers take
// one or the other (RFC 8259, 4). The data is sound JSON.
func twice(data []byte) error {
	dec := json.NewDecoder(bytes.NewReader(data))
	dec.UseNumber()
	var faults Faults
	var walk func(path string) error
	walk = func(path string) error {
		tok, err := dec.Token()
		if err != nil {
			return err
		}
		switch tok {
		case json.Delim('{'):
			seen := map[string]bool{}
			for dec.More() {
				key, err := dec.Token()
				if err != nil {
					return err
				}
				name := key.(string)
				at := join(path, name)
				if seen[name] {
					faults = append(faults, Fault{at, "is there more than once; keep one"})
				}
				seen[name] = true
				if err := walk(at); err != nil {
					return err
				}
			}
			_, err = dec.Token()
		case json.Delim('['):
			for i := 0; dec.More(); i++ {
				if err := walk(fmt.Sprintf("%s[%d]", path, i)); err != nil {
					return err
				}
			}
			_, err = dec.Token()
		}
		return err
	}
	if err := walk(""); err != nil {
		return err
	}
	if faults != nil {
		return faults
	}
	return nil
}

// later names what docs/format.md describes and this version does not draw, by
// the type that would hold it.
var later = map[string][]string{
	"document": {"guides", "looks", "duration", "faces", "sounds", "families"},
	"Format":   {"guides"},
	"layer":    {"look"},
	"Pocket":   {"shape"},
	"Entry":    {"choices", "stops", "seconds", "limits"},
	"Tie":      {"stops", "formula"},
	"Limits":   {"alpha", "size"},
	"StandIn":  {"framing"},
}

// checkTree walks a decoded tree beside the type it is meant for and reports
// every member the type does not have and every value of the wrong kind.
func checkTree(v any, t reflect.Type, path string, faults *Faults) {
	for t.Kind() == reflect.Pointer {
		if v == nil {
			return
		}
		t = t.Elem()
	}
	if reflect.PointerTo(t).Implements(reflect.TypeFor[json.Unmarshaler]()) {
		b, err := json.Marshal(v)
		if err == nil {
			err = reflect.New(t).Interface().(json.Unmarshaler).UnmarshalJSON(b)
		}
		if err != nil {
			*faults = append(*faults, placed(path, err))
		}
		return
	}
	wrong := func(want string) { *faults = append(*faults, Fault{path, "is " + kindOf(v) + ", not " + want}) }
	switch t.Kind() {
	case reflect.Struct:
		m, ok := v.(map[string]any)
		if !ok {
			wrong("an object")
			return
		}
		fields := map[string]reflect.Type{}
		for i := range t.NumField() {
			if name, _, _ := strings.Cut(t.Field(i).Tag.Get("json"), ","); name != "" {
				fields[name] = t.Field(i).Type
			}
		}
		names := make([]string, 0, len(m))
		for k := range m {
			names = append(names, k)
		}
		sort.Strings(names)
		for _, k := range names {
			at := join(path, k)
			if ft, ok := fields[k]; ok {
				checkTree(m[k], ft, at, faults)
				continue
			}
			what := fmt.Sprintf("is not part of the format; %s has %s", called(t), listFields(t))
			for _, l := range later[t.Name()] {
				if l == k {
					what = "is part of the format, but this version does not draw it yet; leave it out"
				}
			}
			*faults = append(*faults, Fault{at, what})
		}
	case reflect.Slice, reflect.Array:
		a, ok := v.([]any)
		if !ok {
			if v != nil {
				wrong("a list")
			}
			return
		}
		if t.Kind() == reflect.Array && len(a) != t.Len() {
			*faults = append(*faults, Fault{path, fmt.Sprintf("has %d members, not %d", len(a), t.Len())})
			return
		}
		for i := range a {
			checkTree(a[i], t.Elem(), fmt.Sprintf("%s[%d]", path, i), faults)
		}
	case reflect.Map:
		m, ok := v.(map[string]any)
		if !ok {
			wrong("an object")
			return
		}
		for k := range m {
			checkTree(m[k], t.Elem(), join(path, k), faults)
		}
	case reflect.String:
		s, ok := v.(string)
		if !ok {
			wrong("text")
		} else {
			checkText(s, path, faults)
		}
	case reflect.Bool:
		if _, ok := v.(bool); !ok {
			wrong("true or false")
		}
	default:
		n, ok := v.(json.Number)
		if !ok {
			wrong("a number")
			return
		}
		if t.Kind() == reflect.Float64 {
			if _, err := n.Float64(); err != nil {
				*faults = append(*faults, Fault{path, n.String() + " is too large"})
			}
		} else if _, err := n.Int64(); err != nil {
			*faults = append(*faults, Fault{path, n.String() + " is not a whole number"})
		}
	}
}

// checkText tells of a character that can't be seen.
func checkText(s, path string, faults *Faults) {
	if at := strings.IndexFunc(s, Unseen); at >= 0 {
		r, _ := utf8.DecodeRuneInString(s[at:])
		*faults = append(*faults, Fault{path, fmt.Sprintf("has a character that can't be seen (U+%04X); take it out", r)})
	}
}

// placed is an error as a fault. One that begins with [n] or .name goes on with
// the path.
func placed(path string, err error) Fault {
	text := plain(err)
	if strings.HasPrefix(text, "[") || strings.HasPrefix(text, ".") {
		if head, rest, ok := strings.Cut(text, ": "); ok {
			path, text = path+head, rest
		}
	}
	return Fault{path, strings.TrimPrefix(text, ": ")}
}

// called is what a type is called, for people: LayerRest is "layer rest".
func called(t reflect.Type) string {
	var b strings.Builder
	for i, r := range t.Name() {
		if i > 0 && unicode.IsUpper(r) {
			b.WriteByte(' ')
		}
		b.WriteRune(unicode.ToLower(r))
	}
	return b.String()
}

func listFields(t reflect.Type) string {
	var names []string
	for i := range t.NumField() {
		if name, _, _ := strings.Cut(t.Field(i).Tag.Get("json"), ","); name != "" {
			names = append(names, name)
		}
	}
	return strings.Join(names, ", ")
}

func kindOf(v any) string {
	switch v.(type) {
	case nil:
		return "null"
	case bool:
		return "true or false"
	case json.Number:
		return "a number"
	case string:
		return "text"
	case []any:
		return "a list"
	}
	return "an object"
}

func join(path, k string) string {
	if path == "" {
		return k
	}
	return path + "." + k
}

func plain(err error) string { return strings.TrimPrefix(err.Error(), "json: ") }
