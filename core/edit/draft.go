package edit

import (
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"

	"ivypocket/core/scheme"
	"ivypocket/core/template"
)

// Draft is a template while it is built. Copies share what is in it; none is
// changed in place.
type Draft struct {
	Doc *template.Document
	// raw is the document as it is written, nil while nobody asked for it.
	raw json.RawMessage
}

// NewDraft begins a draft with a document, which must be sound.
func NewDraft(raw []byte) (Draft, error) {
	d, err := template.Read(raw)
	if err == nil {
		err = d.Sound()
	}
	if err != nil {
		return Draft{}, err
	}
	return Draft{Doc: d}, nil
}

// DraftFrom is a draft of a document that is known to be sound.
func DraftFrom(d *template.Document) Draft { return Draft{Doc: d} }

// MarshalJSON writes the document.
func (d Draft) MarshalJSON() ([]byte, error) {
	if d.raw != nil {
		return d.raw, nil
	}
	return json.Marshal(d.Doc)
}

// DraftOp is one change of a draft. Kind says which of the members it uses:
//
//	set     Path, Value (null leaves it out), Format ("" is all formats)
//	keys    Path of a property, Move (null takes the keys away)
//	put     Path of a member or a named part, Part (null takes it away)
//	add     Into, At, Part, which has an id of its own
//	remove  Path of a thing
//	move    Path of a thing, Into, At
//	rename  Path of a thing, Name
//	tie     Entry, Ties
//	batch   Ops, applied in order as one change
type DraftOp struct {
	Kind   string          `json:"kind" enum:"set,keys,put,add,remove,move,rename,tie,batch"`
	Path   string          `json:"path,omitempty"`
	Value  *scheme.Value   `json:"value,omitempty"`
	Format string          `json:"format,omitempty"`
	Move   *template.Move  `json:"move,omitempty"`
	Part   json.RawMessage `json:"part,omitempty"`
	Into   string          `json:"into,omitempty" doc:"The list it goes into, such as layers, layers/ring/masks or groups/media/entries"`
	At     int             `json:"at,omitempty" doc:"Its place there, from 0"`
	Name   string          `json:"name,omitempty"`
	Entry  string          `json:"entry,omitempty"`
	Ties   []template.Tie  `json:"ties,omitempty"`
	Ops    []DraftOp       `json:"ops,omitempty"`
	// Title is what people call the operation, where its kind and path say too
	// little. It is not of the client's making.
	Title string `json:"-"`
}

// MaxBatch bounds the operations of a batch. What is done to every layer of the
// largest document fits.
const MaxBatch = 8 * scheme.MaxLayers

// Do carries out an operation on a copy of the draft and returns it with what
// changed. What would leave the draft unsound is refused, with the place and the
// reason; an operation that changes nothing returns no changes.
func (d Draft) Do(op DraftOp) (Draft, []Change, error) {
	if next, changes, ok := d.quick(op); ok {
		return next, changes, nil
	}
	return d.anew(op)
}

// Would is Do for what is only looked at: what changed is not told.
func (d Draft) Would(op DraftOp) (Draft, error) {
	if next, _, ok := d.quickly(op, false); ok {
		return next, nil
	}
	next, _, err := d.anew(op)
	return next, err
}

// anew carries out an operation on the whole document, and reads it anew.
func (d Draft) anew(op DraftOp) (Draft, []Change, error) {
	t, err := d.tree()
	if err != nil {
		return d, nil, err
	}
	w := drafting{doc: d.Doc, t: t}
	err = w.do(op, 0)
	if err == nil {
		err = w.settle()
	}
	if err != nil {
		return d, nil, err
	}
	if len(w.changes) == 0 {
		return d, nil, nil
	}
	if err := w.doc.Sound(); err != nil {
		return d, nil, err
	}
	return Draft{w.doc, w.raw}, w.changes, nil
}

// Replay carries out recorded changes on a copy of the draft, as undo and redo do.
// What is no longer as a change expects is a *ConflictError.
func (d Draft) Replay(changes []Change) (Draft, error) {
	t, err := d.tree()
	if err != nil {
		return d, err
	}
	for _, c := range changes {
		if err := t.replay(c); err != nil {
			return d, err
		}
	}
	next, err := soundOf(t)
	if err != nil {
		return d, err
	}
	return next, nil
}

func (d Draft) tree() (tree, error) {
	raw, err := d.MarshalJSON()
	if err != nil {
		return nil, err
	}
	v, err := decoded(raw)
	t, _ := v.(map[string]any)
	return t, err
}

func soundOf(t tree) (Draft, error) {
	raw, err := json.Marshal(t)
	if err != nil {
		return Draft{}, err
	}
	return NewDraft(raw)
}

// replay carries out one change.
func (t tree) replay(c Change) error {
	switch {
	case c.In == "" && c.To == "": // a value
		s, err := t.spot(c.Path)
		if err != nil {
			return &ConflictError{Path: c.Path}
		}
		now, err := s.get()
		if err != nil || !equalJSON(now, c.Before) {
			return &ConflictError{Path: c.Path}
		}
		return s.put(c.After)
	case c.In == "": // something new
		in, err := t.listAt(c.To)
		if err != nil {
			return &ConflictError{Path: c.Path}
		}
		if s, err := t.spot(c.Path); err == nil && s.thing != nil {
			return &ConflictError{Path: c.Path}
		}
		v, err := decoded(c.After)
		if err == nil {
			in.insert(c.ToAt, v)
		}
		return err
	}
	s, err := t.spot(c.Path)
	in, err2 := t.listAt(c.In)
	if err != nil || err2 != nil || s.member != nil || !in.same(s.in) {
		return &ConflictError{Path: c.Path}
	}
	if c.To == "" { // something is taken away
		if now, err := s.get(); err != nil || !equalJSON(now, c.Before) {
			return &ConflictError{Path: c.Path}
		}
		s.in.remove(s.at)
		return nil
	}
	return t.move(s, c.To, c.ToAt)
}

// same reports whether two are one list.
func (l list) same(o list) bool {
	if l.key != o.key || len(l.items()) != len(o.items()) {
		return false
	}
	return len(l.items()) > 0 && &l.items()[0] == &o.items()[0]
}

// move puts a thing elsewhere.
func (t tree) move(s spot, to string, at int) error {
	in, err := t.listAt(to)
	if err != nil {
		return err
	}
	s.in.remove(s.at)
	// Its own list may have been made anew.
	if in, err = t.listAt(to); err != nil {
		return fmt.Errorf("into: %s is in what is moved", to)
	}
	in.insert(at, s.thing)
	return nil
}

// drafting carries out an operation.
type drafting struct {
	doc     *template.Document // as it stood when it was last settled
	raw     json.RawMessage    // the same as it is written
	t       tree               // as it stands
	changes []Change
	pending []int // the changes since it was settled
	full    bool  // one of them put something there that others are in
}

// holds reports whether a path is of a thing in which there are others that have paths
// of their own.
func (w *drafting) holds(path string) bool {
	s, err := w.t.spot(path)
	return err == nil && s.member == nil && (s.thing["layers"] != nil || s.thing["entries"] != nil)
}

func (w *drafting) do(op DraftOp, depth int) error {
	if err := w.ready(op); err != nil {
		return err
	}
	switch op.Kind {
	case "set":
		return w.set(op)
	case "keys":
		return w.keys(op)
	case "put":
		s, err := w.t.spot(op.Path)
		if err != nil {
			return fmt.Errorf("path: %w", err)
		}
		if s.member == nil {
			return w.replace(op.Path, s, op.Part)
		}
		return w.put(op.Path, op.Part)
	case "add":
		return w.add(op)
	case "remove":
		return w.remove(op.Path)
	case "move":
		return w.moved(op)
	case "rename":
		s, err := w.t.spot(op.Path)
		if err != nil || s.member != nil {
			return fmt.Errorf("path: there is no %s to be renamed", op.Path)
		}
		name := strings.TrimSpace(op.Name)
		if name == "" || len(name) > MaxName {
			return fmt.Errorf("name: needs 1 to %d characters", MaxName)
		}
		member := "name"
		if _, labelled := s.thing["label"]; labelled {
			member = "label"
		}
		raw, err := json.Marshal(name)
		if err != nil {
			return err
		}
		return w.put(op.Path+"/"+member, raw)
	case "tie":
		raw, err := json.Marshal(op.Ties)
		if err != nil {
			return err
		}
		if len(op.Ties) == 0 {
			raw = nil
		}
		return w.put("entries/"+op.Entry+"/ties", raw)
	case "batch":
		if depth > 0 || len(op.Ops) == 0 || len(op.Ops) > MaxBatch {
			return fmt.Errorf("ops: a batch holds 1 to %d operations, none of them a batch", MaxBatch)
		}
		for i, o := range op.Ops {
			if err := w.do(o, depth+1); err != nil {
				return fmt.Errorf("ops[%d].%w", i, err)
			}
		}
		return nil
	}
	return fmt.Errorf("kind: %q is not one of set, keys, put, add, remove, move, rename, tie, batch", op.Kind)
}

// put changes a member, and records it.
func (w *drafting) put(path string, raw json.RawMessage) error {
	s, err := w.t.spot(path)
	if err != nil {
		return fmt.Errorf("path: %w", err)
	}
	if s.member == nil || slices.Contains([]string{"id", "ivypocket", "layers", "motifs", "masks", "stops"}, s.member[len(s.member)-1]) {
		return fmt.Errorf("path: %s is not a member that is set; add, remove and move change lists", path)
	}
	before, err := s.get()
	if err != nil || equalJSON(before, raw) {
		return err
	}
	if isNull(raw) {
		raw = null
	}
	// What belongs together in a pocket is written whole once it is there at all.
	if head, _, deeper := strings.Cut(path, "."); deeper && strings.HasPrefix(path, "pockets/") && s.thing[s.member[0]] == nil {
		path, before = head, null
	}
	if err := s.put(raw); err != nil {
		return err
	}
	return w.record(Change{Path: path, Before: before})
}

// record notes a change that has been made. What is there now is told later.
func (w *drafting) record(c Change) error {
	w.pending = append(w.pending, len(w.changes))
	w.changes = append(w.changes, c)
	w.full = w.full || c.To != "" && c.In == "" && w.holds(c.Path)
	return nil
}

// settle reads the document as it is now, and completes the changes that have been
// made since it was last read: with what is there as the document writes it, which
// may say more than what was sent.
func (w *drafting) settle() error {
	if len(w.pending) == 0 {
		return nil
	}
	raw, err := json.Marshal(w.t)
	if err != nil {
		return err
	}
	d, err := template.Read(raw)
	if err != nil {
		return err
	}
	if raw, err = json.Marshal(d); err != nil {
		return err
	}
	v, err := decoded(raw)
	if err != nil {
		return err
	}
	w.t, _ = v.(map[string]any)
	w.doc, w.raw = d, raw
	for _, i := range w.pending {
		c := &w.changes[i]
		if c.In != "" && c.To != "" {
			continue // it is what it was, elsewhere
		}
		c.After = null
		if s, err := w.t.spot(c.Path); err == nil {
			if c.After, err = s.get(); err != nil {
				return err
			}
		}
	}
	w.pending, w.full = w.pending[:0], false
	return nil
}

// ready settles what an operation depends on: what it reads of the document, or
// changes of that has been changed already.
func (w *drafting) ready(op DraftOp) error {
	// What is in something new has a path of its own.
	if w.full {
		return w.settle()
	}
	if op.Kind == "keys" { // they are written as a whole, whatever else the thing says
		at := op.Path
		if head, name, ok := cutLast(op.Path); ok {
			at = head + "/motion/" + name
		}
		for _, i := range w.pending {
			if c := w.changes[i]; within(at, c.Path) || within(c.Path, at) || c.In != "" || c.To != "" {
				return w.settle()
			}
		}
		return nil
	}
	if op.Kind == "set" {
		// It reads the thing it is set in, and whether that is there; through a use of a
		// motif it may be any.
		own := "formats/" + op.Format + "/rest/" + template.FullPath(op.Path)
		for _, i := range w.pending {
			c := w.changes[i]
			moved := c.In != "" || c.To != ""
			same := thingOf(c.Path) == thingOf(op.Path) || within(own, c.Path) || within(c.Path, own)
			if moved || same || strings.Contains(op.Path, ":") {
				return w.settle()
			}
		}
		return nil
	}
	if (op.Kind == "remove" || op.Kind == "put") && w.holds(op.Path) {
		return w.settle()
	}
	entry := ""
	if op.Entry != "" {
		entry = "entries/" + op.Entry
	}
	for _, i := range w.pending {
		c := w.changes[i]
		if c.In != "" && c.To != "" {
			continue
		}
		for _, at := range []string{op.Path, entry} {
			if at != "" && (within(at, c.Path) || within(c.Path, at)) {
				return w.settle()
			}
		}
		if op.Into != "" && within(op.Into, c.Path) { // it goes into what is new
			return w.settle()
		}
	}
	return nil
}

// thingOf is the path of the thing that a path begins with.
func thingOf(path string) string {
	seg := strings.SplitN(path, "/", 3)
	return strings.Join(seg[:min(2, len(seg))], "/")
}

// set gives a value, in all formats or in one.
func (w *drafting) set(op DraftOp) error {
	d := w.doc
	t, err := d.Find(op.Path)
	if err != nil {
		return fmt.Errorf("path: %w", err)
	}
	path := template.FullPath(op.Path)
	var raw json.RawMessage
	if op.Value != nil {
		v := *op.Value
		if op.Format == "" { // in a format one number may stand alone
			if v, err = d.Whole(t, v); err != nil {
				return fmt.Errorf("value: %w", err)
			}
		}
		if raw, err = json.Marshal(v); err != nil {
			return err
		}
	}
	if op.Format != "" {
		return w.put("formats/"+op.Format+"/rest/"+path, raw)
	}
	if t.Part >= 0 {
		path = strings.TrimSuffix(path, "."+t.Property.PartName(t.Part))
	}
	if use, inner, ok := d.InUse(path); ok {
		path = "layers/" + use + "/values/" + inner
	}
	return w.put(path, raw)
}

// keys gives a property its motion.
func (w *drafting) keys(op DraftOp) error {
	head, name, ok := cutLast(op.Path)
	if !ok {
		return fmt.Errorf("path: %q is not the path of a property", op.Path)
	}
	var raw json.RawMessage
	if op.Move != nil && len(op.Move.Keys) > 0 {
		var err error
		if raw, err = json.Marshal(op.Move); err != nil {
			return err
		}
	}
	return w.put(head+"/motion/"+name, raw)
}

// listOf is the path of the list that a thing stands in.
func (w *drafting) listOf(s spot, path string) (string, error) {
	seg := strings.Split(path, "/")
	if len(seg) > 2 {
		return strings.Join(seg[:len(seg)-1], "/"), nil
	}
	// A layer or an entry may stand anywhere: its owner says where.
	if id, ok := s.in.owner["id"].(string); ok && seg[0] == "layers" && s.in.key == "layers" && !isDocument(s.in.owner) {
		return "layers/" + id + "/layers", nil
	}
	if id, ok := s.in.owner["id"].(string); ok && seg[0] == "entries" {
		return "groups/" + id + "/entries", nil
	}
	if seg[0] == "layers" {
		return s.in.key, nil // layers or motifs
	}
	return seg[0], nil
}

func isDocument(m map[string]any) bool { _, ok := m["ivypocket"]; return ok }

// add puts something new into a list.
func (w *drafting) add(op DraftOp) error {
	in, err := w.t.listAt(op.Into)
	if err != nil {
		return fmt.Errorf("into: %w", err)
	}
	v, err := decoded(op.Part)
	m, ok := v.(map[string]any)
	if err != nil || !ok {
		return errors.New("part: is not an object")
	}
	id, _ := m["id"].(string)
	if !scheme.ValidID(id) {
		return fmt.Errorf("part.id: %q is not an id: small letters, digits and hyphens, a letter first", id)
	}
	path := pathIn(op.Into, id)
	if s, err := w.t.spot(path); err == nil && s.thing != nil {
		return fmt.Errorf("part.id: %q is there already", id)
	}
	at := op.At
	if n := len(in.items()); at < 0 || at > n {
		at = n
	}
	in.insert(at, v)
	return w.record(Change{Path: path, Before: null, To: op.Into, ToAt: at})
}

// pathIn is the path of a thing in a list.
func pathIn(into, id string) string {
	switch head, name, ok := cutLast(into); {
	case into == "motifs" || ok && name == "layers" && head != "":
		return "layers/" + id
	case ok && name == "entries":
		return "entries/" + id
	}
	return into + "/" + id
}

func (w *drafting) remove(path string) error {
	s, err := w.t.spot(path)
	if err != nil || s.member != nil || s.at < 0 {
		return fmt.Errorf("path: there is no %s to be removed", path)
	}
	in, err := w.listOf(s, path)
	if err != nil {
		return err
	}
	before, err := s.get()
	if err != nil {
		return err
	}
	s.in.remove(s.at)
	return w.record(Change{Path: path, Before: before, In: in, At: s.at})
}

// replace puts another thing of the same id in a thing's place.
func (w *drafting) replace(path string, s spot, raw json.RawMessage) error {
	if isNull(raw) {
		return w.remove(path)
	}
	v, err := decoded(raw)
	m, ok := v.(map[string]any)
	if err != nil || !ok || m["id"] != s.thing["id"] {
		return fmt.Errorf("part: is not an object with the id %v", s.thing["id"])
	}
	before, err := s.get()
	if err != nil || equalJSON(before, raw) {
		return err
	}
	in, err := w.listOf(s, path)
	if err != nil {
		return err
	}
	w.changes = append(w.changes, Change{Path: path, Before: before, After: null, In: in, At: s.at})
	s.in.remove(s.at)
	to, err := w.t.listAt(in)
	if err != nil {
		return err
	}
	to.insert(s.at, v)
	return w.record(Change{Path: path, Before: null, To: in, ToAt: s.at})
}

func (w *drafting) moved(op DraftOp) error {
	s, err := w.t.spot(op.Path)
	if err != nil || s.member != nil || s.at < 0 {
		return fmt.Errorf("path: there is no %s to be moved", op.Path)
	}
	from, err := w.listOf(s, op.Path)
	if err != nil {
		return err
	}
	if pathIn(op.Into, fmt.Sprint(s.thing["id"])) != op.Path {
		return fmt.Errorf("into: %s does not go into %s", op.Path, op.Into)
	}
	in, err := w.t.listAt(op.Into)
	if err != nil {
		return fmt.Errorf("into: %w", err)
	}
	at, most := op.At, len(in.items())
	if from == op.Into {
		most--
	}
	if at < 0 || at > most {
		at = most
	}
	if from == op.Into && at == s.at {
		return nil
	}
	if err := w.t.move(s, op.Into, at); err != nil {
		return err
	}
	return w.record(Change{Path: op.Path, In: from, At: s.at, To: op.Into, ToAt: at})
}

// DraftTitle names an operation for people, such as "Set place of Mark".
func DraftTitle(d *template.Document, op DraftOp) string {
	if op.Title != "" {
		return op.Title
	}
	of := func(path string) string {
		if what := d.Called(path); what != "" {
			return what
		}
		if head, name, ok := cutLast(path); ok {
			for _, s := range []string{"layers/", "motifs/"} {
				if id, found := strings.CutPrefix(path, s); found {
					if y := d.Layer(id); y != nil {
						return y.Name
					}
				}
			}
			if id, found := strings.CutPrefix(path, "entries/"); found {
				id, member, _ := strings.Cut(id, "/")
				if e := d.Sheet.Entry(id); e != nil && member == "" {
					return e.Label
				} else if e != nil {
					return member + " of " + e.Label
				}
			}
			if id, found := strings.CutPrefix(path, "groups/"); found {
				for _, g := range d.Sheet.Groups {
					if g.ID == id {
						return "the heading " + g.Label
					}
				}
			}
			if strings.Count(path, "/") == 1 {
				return strings.TrimSuffix(head, "s") + " " + name
			}
			return name + " of " + head
		}
		return path
	}
	switch op.Kind {
	case "set":
		if op.Value == nil {
			return "Reset " + of(op.Path)
		}
		return "Set " + of(op.Path)
	case "keys":
		if op.Move == nil {
			return "Take away the keys of " + of(op.Path)
		}
		return "Set the keys of " + of(op.Path)
	case "put":
		return "Change " + of(op.Path)
	case "add":
		var part struct{ Name, Label, ID string }
		if json.Unmarshal(op.Part, &part) == nil && part.Name+part.Label != "" {
			return "Add " + part.Name + part.Label
		}
		return "Add " + part.ID
	case "remove":
		return "Remove " + of(op.Path)
	case "move":
		return "Move " + of(op.Path)
	case "rename":
		return "Rename " + of(op.Path)
	case "tie":
		if e := d.Sheet.Entry(op.Entry); e != nil {
			return "Tie " + e.Label
		}
		return "Tie " + op.Entry
	case "batch":
		if len(op.Ops) == 1 {
			return DraftTitle(d, op.Ops[0])
		}
		return fmt.Sprintf("%d changes", len(op.Ops))
	}
	return op.Kind
}
