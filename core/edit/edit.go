// Package edit is the room for changes: every change to a piece is a named,
// reversible operation. It computes; keeping what it computes is for others.
package edit

import (
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"reflect"
	"strings"

	"ivypocket/core/geom"
	"ivypocket/core/scheme"
	"ivypocket/core/sheet"
	"ivypocket/core/template"
	"ivypocket/core/timing"
)

// Piece is a release filled by an editor.
type Piece struct {
	Name   string       `json:"name"`
	Values sheet.Values `json:"values"`
}

// Op is one change. Kind says which of the members it uses:
//
//	fill    Pocket, Media ("" puts the stand-in back); keeps the framing and
//	        how a clip runs, but begins other media at its first frame
//	frame   Pocket, Framing (null resets), Format ("" frames in all formats
//	        that have no framing of their own)
//	play    Pocket, Play (null resets)
//	entry   Entry, Value (null resets to the default)
//	rest    Path, Value (null resets to the template's), Format ("" is all
//	        formats)
//	frames  Frames, the length of the piece (0 resets to the template's)
//	name    Name
//	batch   Ops, applied in order as one change
type Op struct {
	Kind    string        `json:"kind" enum:"fill,frame,play,entry,rest,frames,name,batch"`
	Pocket  string        `json:"pocket,omitempty"`
	Media   string        `json:"media,omitempty"`
	Format  string        `json:"format,omitempty"`
	Framing *geom.Framing `json:"framing,omitempty"`
	Play    *timing.Play  `json:"play,omitempty"`
	Entry   string        `json:"entry,omitempty"`
	Path    string        `json:"path,omitempty"`
	Value   *scheme.Value `json:"value,omitempty"`
	Frames  int64         `json:"frames,omitempty"`
	Name    string        `json:"name,omitempty"`
	Ops     []Op          `json:"ops,omitempty"`
}

// Change is what an operation did at one path: enough to undo and redo it.
// A null side means that the path held nothing. A thing that came out of a list, or
// went into one, says which and at which place; one that did both was moved.
type Change struct {
	Path   string          `json:"path"`
	Before json.RawMessage `json:"before"`
	After  json.RawMessage `json:"after"`
	In     string          `json:"in,omitempty"`
	At     int             `json:"at,omitempty"`
	To     string          `json:"to,omitempty"`
	ToAt   int             `json:"toAt,omitempty"`
}

// MaxName bounds the name of a piece, in bytes.
const MaxName = 200

// Apply carries out an operation on a copy of the piece and returns it with
// what changed. An operation that changes nothing returns no changes.
func Apply(d *template.Document, p Piece, op Op) (Piece, []Change, error) {
	next := Piece{Name: p.Name, Values: p.Values.Clone()}
	if err := apply(d, &next, op, 0); err != nil {
		return p, nil, err
	}
	if err := next.Values.Validate(d); err != nil {
		return p, nil, err
	}
	changes, err := diff(p, next)
	return next, changes, err
}

func apply(d *template.Document, p *Piece, op Op, depth int) error {
	v := &p.Values
	switch op.Kind {
	case "fill":
		if d.Pocket(op.Pocket) == nil {
			return fmt.Errorf("pocket: the template has no pocket named %q", op.Pocket)
		}
		f := v.Fills[op.Pocket]
		if f.Play != nil && f.Media != op.Media {
			p := *f.Play
			p.In = 0
			if f.Play = &p; p == (timing.Play{}) {
				f.Play = nil
			}
		}
		f.Media = op.Media
		setFill(v, op.Pocket, f)
	case "frame":
		if d.Pocket(op.Pocket) == nil {
			return fmt.Errorf("pocket: the template has no pocket named %q", op.Pocket)
		}
		f := v.Fills[op.Pocket]
		switch {
		case op.Format == "":
			f.Framing = op.Framing
		case op.Framing == nil:
			delete(f.Formats, op.Format)
		default:
			if f.Formats == nil {
				f.Formats = map[string]geom.Framing{}
			}
			f.Formats[op.Format] = *op.Framing
		}
		setFill(v, op.Pocket, f)
	case "play":
		if d.Pocket(op.Pocket) == nil {
			return fmt.Errorf("pocket: the template has no pocket named %q", op.Pocket)
		}
		f := v.Fills[op.Pocket]
		f.Play = op.Play
		setFill(v, op.Pocket, f)
	case "entry":
		if d.Sheet.Entry(op.Entry) == nil {
			return fmt.Errorf("entry: the sheet has no entry named %q", op.Entry)
		}
		if op.Value == nil {
			delete(v.Entries, op.Entry)
		} else {
			v.Entries[op.Entry] = *op.Value
		}
	case "rest":
		if op.Format != "" && d.Format(op.Format) == nil {
			return fmt.Errorf("format: the template has no format named %q", op.Format)
		}
		if _, err := v.Standing(d, op.Format).Find(op.Path); err != nil {
			return fmt.Errorf("path: %w", err)
		}
		setRest(v, op.Format, op.Path, op.Value)
	case "frames":
		if v.Frames = op.Frames; v.Frames == d.Frames {
			v.Frames = 0
		}
	case "name":
		name := strings.TrimSpace(op.Name)
		if strings.ContainsFunc(name, func(r rune) bool { return r < ' ' || template.Unseen(r) }) {
			return errors.New("name: has a line end or a character that can't be seen; take it out")
		}
		if name == "" || len(name) > MaxName {
			return fmt.Errorf("name: needs 1 to %d characters", MaxName)
		}
		p.Name = name
	case "batch":
		if depth > 0 || len(op.Ops) == 0 || len(op.Ops) > 500 {
			return errors.New("ops: a batch holds 1 to 500 operations, none of them a batch")
		}
		for i, o := range op.Ops {
			if err := apply(d, p, o, depth+1); err != nil {
				return fmt.Errorf("ops[%d].%w", i, err)
			}
		}
	default:
		return fmt.Errorf("kind: %q is not one of fill, frame, play, entry, rest, frames, name, batch", op.Kind)
	}
	return nil
}

func setFill(v *sheet.Values, pocket string, f sheet.Fill) {
	if f.Empty() {
		delete(v.Fills, pocket)
		return
	}
	v.Fills[pocket] = f
}

// setRest puts a value at rest somewhere, or with nil where the template has it,
// in one format or, for "", in all.
func setRest(v *sheet.Values, format, path string, r *scheme.Value) {
	all := v.Rest
	if format != "" {
		all = v.Formats[format]
	}
	if all == nil {
		all = map[string]scheme.Value{}
	}
	// A whole value takes the place of its numbers' own.
	maps.DeleteFunc(all, func(at string, _ scheme.Value) bool { return within(at, path) })
	if r != nil {
		all[path] = *r
	}
	if format == "" {
		v.Rest = all
		return
	}
	if v.Formats == nil {
		v.Formats = map[string]map[string]scheme.Value{}
	}
	if v.Formats[format] = all; len(all) == 0 {
		delete(v.Formats, format)
	}
}

// Title names an operation for people, such as "Swap North wind".
func Title(d *template.Document, op Op) string {
	switch op.Kind {
	case "fill":
		if op.Media == "" {
			return "Put the stand-in back in " + pocketName(d, op.Pocket)
		}
		return "Swap " + pocketName(d, op.Pocket)
	case "frame":
		if op.Framing == nil {
			return "Reset framing of " + pocketName(d, op.Pocket)
		}
		return "Frame " + pocketName(d, op.Pocket)
	case "play":
		if op.Play == nil {
			return "Reset how " + pocketName(d, op.Pocket) + " runs"
		}
		return "Set how " + pocketName(d, op.Pocket) + " runs"
	case "entry":
		if e := d.Sheet.Entry(op.Entry); e != nil {
			if op.Value == nil {
				return "Reset " + e.Label
			}
			return "Set " + e.Label
		}
	case "rest":
		if what := d.Called(op.Path); what != "" {
			if op.Value == nil {
				return "Reset " + what
			}
			return "Set " + what
		}
	case "frames":
		if op.Frames == 0 || op.Frames == d.Frames {
			return "Reset the duration"
		}
		return "Set the duration"
	case "name":
		return "Rename"
	case "batch":
		if len(op.Ops) == 1 {
			return Title(d, op.Ops[0])
		}
		return fmt.Sprintf("%d changes", len(op.Ops))
	}
	return op.Kind
}

func pocketName(d *template.Document, id string) string {
	if p := d.Pocket(id); p != nil {
		return p.Name
	}
	return id
}

// Reverse returns the changes that undo the given ones.
func Reverse(changes []Change) []Change {
	out := make([]Change, len(changes))
	for i, c := range changes {
		out[len(changes)-1-i] = Change{c.Path, c.After, c.Before, c.To, c.ToAt, c.In, c.At}
	}
	return out
}

// ConflictError says that a path no longer holds what a change found there.
type ConflictError struct{ Path string }

func (e *ConflictError) Error() string {
	return e.Path + ": was changed by somebody else in the meantime; look at it as it is now and do it again"
}

// Replay carries out recorded changes on a copy of the piece, as undo and redo
// do. A path that does not hold what the change expects is a *ConflictError.
func Replay(d *template.Document, p Piece, changes []Change) (Piece, error) {
	flat, err := flatten(p)
	if err != nil {
		return p, err
	}
	for _, c := range changes {
		if !equalJSON(flat[c.Path], c.Before) {
			return p, &ConflictError{c.Path}
		}
		if isNull(c.After) {
			delete(flat, c.Path)
		} else {
			flat[c.Path] = c.After
		}
	}
	next, err := unflatten(flat)
	if err != nil {
		return p, err
	}
	return next, next.Values.Validate(d)
}

// Overlap returns a path that both lists change, or "".
func Overlap(a, b []Change) string {
	for _, x := range a {
		for _, y := range b {
			if within(x.Path, y.Path) || within(y.Path, x.Path) {
				return x.Path
			}
		}
	}
	return ""
}

// within reports whether a path names all or a part of what another does.
func within(path, of string) bool {
	rest, ok := strings.CutPrefix(path, of)
	return ok && (rest == "" || rest[0] == '/' || rest[0] == '.')
}

// flatten turns a piece into the smallest things that are changed on their
// own: its name, each pocket's media and how it runs, each framing, each entry,
// each property of a layer.
func flatten(p Piece) (map[string]json.RawMessage, error) {
	flat := map[string]json.RawMessage{}
	put := func(path string, v any) error {
		b, err := json.Marshal(v)
		flat[path] = b
		return err
	}
	errs := []error{put("name", p.Name)}
	if p.Values.Frames != 0 {
		errs = append(errs, put("frames", p.Values.Frames))
	}
	for id, f := range p.Values.Fills {
		if f.Media != "" {
			errs = append(errs, put("fills/"+id+"/media", f.Media))
		}
		if f.Framing != nil {
			errs = append(errs, put("fills/"+id+"/framing", f.Framing))
		}
		if f.Play != nil {
			errs = append(errs, put("fills/"+id+"/play", f.Play))
		}
		for k, fr := range f.Formats {
			errs = append(errs, put("fills/"+id+"/formats/"+k, fr))
		}
	}
	for k, e := range p.Values.Entries {
		errs = append(errs, put("entries/"+k, e))
	}
	rest := func(where string, r map[string]scheme.Value) {
		for path, v := range r {
			errs = append(errs, put(where+"/"+path, v))
		}
	}
	rest("rest", p.Values.Rest)
	for k, r := range p.Values.Formats {
		rest("formats/"+k, r)
	}
	return flat, errors.Join(errs...)
}

func unflatten(flat map[string]json.RawMessage) (Piece, error) {
	p := Piece{Values: sheet.Values{}.Clone()}
	var errs []error
	get := func(b json.RawMessage, to any) { errs = append(errs, json.Unmarshal(b, to)) }
	for path, b := range flat {
		part := strings.Split(path, "/")
		switch part[0] {
		case "name":
			get(b, &p.Name)
		case "frames":
			get(b, &p.Values.Frames)
		case "rest", "formats":
			var v scheme.Value
			get(b, &v)
			format, of := "", part[1:]
			if part[0] == "formats" {
				format, of = part[1], part[2:]
			}
			setRest(&p.Values, format, strings.Join(of, "/"), &v)
		case "entries":
			var v scheme.Value
			get(b, &v)
			p.Values.Entries[part[1]] = v
		case "fills":
			f := p.Values.Fills[part[1]]
			switch part[2] {
			case "media":
				get(b, &f.Media)
			case "framing":
				get(b, &f.Framing)
			case "play":
				get(b, &f.Play)
			case "formats":
				var fr geom.Framing
				get(b, &fr)
				if f.Formats == nil {
					f.Formats = map[string]geom.Framing{}
				}
				f.Formats[part[3]] = fr
			}
			p.Values.Fills[part[1]] = f
		}
	}
	return p, errors.Join(errs...)
}

func diff(a, b Piece) ([]Change, error) {
	fa, err1 := flatten(a)
	fb, err2 := flatten(b)
	var out []Change
	null := json.RawMessage("null")
	for path, before := range fa {
		after, ok := fb[path]
		if !ok {
			out = append(out, Change{Path: path, Before: before, After: null})
		} else if !equalJSON(before, after) {
			out = append(out, Change{Path: path, Before: before, After: after})
		}
	}
	for path, after := range fb {
		if _, ok := fa[path]; !ok {
			out = append(out, Change{Path: path, Before: null, After: after})
		}
	}
	return out, errors.Join(err1, err2)
}

// UpgradePath is the path of a change as it was recorded for documents of schema
// 2, by layer and property, as it is now.
func UpgradePath(path string) string {
	part := strings.Split(path, "/")
	switch {
	case part[0] == "rest" && len(part) == 3:
		return "rest/" + template.PathFrom2(part[1], part[2])
	case part[0] == "formats" && len(part) == 4:
		return "formats/" + part[1] + "/" + template.PathFrom2(part[2], part[3])
	}
	return path
}

func isNull(b json.RawMessage) bool { return len(b) == 0 || string(b) == "null" }

func equalJSON(a, b json.RawMessage) bool {
	if isNull(a) || isNull(b) {
		return isNull(a) == isNull(b)
	}
	var x, y any
	return json.Unmarshal(a, &x) == nil && json.Unmarshal(b, &y) == nil && reflect.DeepEqual(x, y)
}
