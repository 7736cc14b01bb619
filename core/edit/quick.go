package edit

import (
	"encoding/json"
	"maps"
	"slices"
	"strings"

	"ivypocket/core/scheme"
	"ivypocket/core/template"
)

// quick carries out an operation that sets values nothing else depends on, as all
// are that a drag sets: their rows alone say whether they may be set, and only what
// they are in is copied. What is not such an operation, or is refused, is left to
// Do, which reads the whole document anew and comes to the same.
func (d Draft) quick(op DraftOp) (next Draft, changes []Change, ok bool) { return d.quickly(op, true) }

// quickly is quick, which tells what changed or not.
func (d Draft) quickly(op DraftOp, tells bool) (next Draft, changes []Change, ok bool) {
	ops := []DraftOp{op}
	if op.Kind == "batch" {
		ops = op.Ops
	}
	if len(ops) == 0 || len(ops) > MaxBatch {
		return d, nil, false
	}
	for _, o := range ops {
		if (o.Kind != "set" || o.Value == nil) && (o.Kind != "keys" || o.Move == nil || len(o.Move.Keys) == 0) && o.Kind != "put" {
			return d, nil, false
		}
	}
	doc := d.Doc.Clone()
	for _, o := range ops {
		set := quickSet
		switch o.Kind {
		case "keys":
			set = quickKeys
		case "put":
			set = quickDefault
		}
		c, ok := set(doc, o, tells)
		if !ok {
			return d, nil, false
		}
		if c != nil {
			changes = append(changes, *c)
		}
	}
	if len(changes) == 0 && tells {
		return d, nil, true
	}
	return Draft{Doc: doc}, changes, true
}

// quickSet sets one value; no change is that it is so already.
func quickSet(doc *template.Document, op DraftOp, tells bool) (*Change, bool) {
	t, err := doc.Find(op.Path)
	if err != nil || t.Node == nil || !t.Property.Free() || strings.Contains(op.Path, "/motion/") || strings.Contains(op.Path, ":") {
		return nil, false
	}
	if op.Format != "" {
		return quickRest(doc, op)
	}
	v, err := doc.Whole(t, *op.Value)
	if err != nil || strings.ContainsFunc(v.Text, template.Unseen) {
		return nil, false
	}
	path := op.Path
	if t.Part >= 0 {
		path = strings.TrimSuffix(path, "."+t.Property.PartName(t.Part))
	}
	old, given := t.Node.Value(t.Property)
	if given && old.Equal(v) && old.Single == v.Single {
		return nil, true
	}
	if !tells {
		return nil, doc.Set(path, v) == nil
	}
	c := &Change{Path: path, Before: null}
	if given {
		if c.Before, err = json.Marshal(old); err != nil {
			return nil, false
		}
	}
	if c.After, err = json.Marshal(v); err != nil {
		return nil, false
	}
	return c, doc.Set(path, v) == nil
}

// quickDefault gives an entry of words others to begin with, where nothing but the words
// themselves goes by them.
func quickDefault(doc *template.Document, op DraftOp, tells bool) (*Change, bool) {
	seg := strings.Split(op.Path, "/")
	if len(seg) != 3 || seg[0] != "entries" || seg[2] != scheme.EntryDefault.Name || op.Format != "" || len(op.Part) == 0 {
		return nil, false
	}
	e := doc.Sheet.Entry(seg[1])
	var v scheme.Value
	if e == nil || !e.Worded() || e.Default == nil || json.Unmarshal(op.Part, &v) != nil || e.Check(v) != nil || strings.ContainsFunc(v.Text, template.Unseen) {
		return nil, false
	}
	for _, t := range e.Ties {
		if at, err := doc.Find(t.To); err != nil || !at.Property.Loose || at.Property.Check(nil, v) != nil || len(t.Stops) > 0 {
			return nil, false
		}
	}
	if e.Default.Equal(v) {
		return nil, true
	}
	c := &Change{Path: op.Path}
	if tells {
		var err error
		if c.Before, err = asTree(e.Default); err != nil {
			return nil, false
		}
		if c.After, err = asTree(v); err != nil {
			return nil, false
		}
	}
	// Lists are shared with the document before.
	doc.Sheet.Groups = slices.Clone(doc.Sheet.Groups)
	for g := range doc.Sheet.Groups {
		doc.Sheet.Groups[g].Entries = slices.Clone(doc.Sheet.Groups[g].Entries)
	}
	doc.Sheet.Entry(seg[1]).Default = &v
	return c, true
}

// quickKeys gives what moves already other keys.
func quickKeys(doc *template.Document, op DraftOp, tells bool) (*Change, bool) {
	head, name, ok := cutLast(op.Path)
	if !ok || strings.Contains(op.Path, ":") {
		return nil, false
	}
	for _, k := range op.Move.Keys {
		if k.ID == "" { // the document gives it one
			return nil, false
		}
	}
	was, err := doc.SetMove(op.Path, op.Move)
	if err != nil {
		return nil, false
	}
	if !tells {
		return nil, true
	}
	c := &Change{Path: head + "/motion/" + name}
	if c.Before, err = asTree(was); err != nil {
		return nil, false
	}
	if c.After, err = asTree(op.Move); err != nil {
		return nil, false
	}
	if equalJSON(c.Before, c.After) {
		return nil, true
	}
	return c, true
}

// asTree writes something as changes have it: its members by name.
func asTree(v any) (json.RawMessage, error) {
	raw, err := json.Marshal(v)
	if err != nil {
		return nil, err
	}
	tree, err := decoded(raw)
	if err != nil {
		return nil, err
	}
	return json.Marshal(tree)
}

// quickRest sets a value in one format.
func quickRest(doc *template.Document, op DraftOp) (*Change, bool) {
	i := slices.IndexFunc(doc.Formats, func(f template.Format) bool { return f.ID == op.Format })
	if i < 0 {
		return nil, false
	}
	path := template.FullPath(op.Path)
	old, given := doc.Formats[i].Rest[path]
	if given && old.Equal(*op.Value) && old.Single == op.Value.Single {
		return nil, true
	}
	c := &Change{Path: "formats/" + op.Format + "/rest/" + path, Before: null}
	var err error
	if given {
		if c.Before, err = json.Marshal(old); err != nil {
			return nil, false
		}
	}
	if c.After, err = json.Marshal(*op.Value); err != nil {
		return nil, false
	}
	rest := maps.Clone(doc.Formats[i].Rest)
	if rest == nil {
		rest = map[string]scheme.Value{}
	}
	rest[path] = *op.Value
	doc.Formats[i].Rest = rest
	// A number alone stands on what the format has besides.
	_, err = doc.For(&doc.Formats[i])
	return c, err == nil
}

// null is a path that holds nothing.
var null = json.RawMessage("null")
