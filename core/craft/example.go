package craft

import (
	"encoding/json"
	"fmt"
	"slices"

	"ivypocket/core/edit"
	"ivypocket/core/scene"
	"ivypocket/core/scheme"
	"ivypocket/core/sheet"
	"ivypocket/core/template"
)

// Pin holds the picture at a value of an entry: what is set then holds at that value, and
// becomes one of the entry's ties.
type Pin struct {
	Entry string       `json:"entry"`
	At    scheme.Value `json:"at"`
}

// byExample plans an act on the document as it is at a value of an entry. Values that it
// sets become stops of the entry's ties; an act that sets none is planned as ever.
func byExample(doc *template.Document, lib scene.Library, a Act) (Plan, error) {
	pin := *a.Pin
	a.Pin = nil
	a.Ops = slices.Clone(a.Ops)
	for i := range a.Ops {
		a.Ops[i].Pin = nil
	}
	if ofTheSheet(a) {
		return Do(doc, lib, a)
	}
	e := doc.Sheet.Entry(pin.Entry)
	if e == nil {
		return Plan{}, fmt.Errorf("pin: the sheet has no entry named %q any more", pin.Entry)
	}
	if len(e.Stops()) == 0 {
		return Plan{}, fmt.Errorf("pin: %s has no stops at which the picture could be set", e.Label)
	}
	r, err := sheet.Resolve(doc, sheet.Values{Entries: map[string]scheme.Value{e.ID: pin.At}})
	if err != nil {
		return Plan{}, fmt.Errorf("pin: %w", err)
	}
	plan, err := planned(sheet.At(r.Doc, e.ID, pin.At), lib, a, true)
	sets, others := 0, 0
	if err == nil {
		sets, others = count(plan.Op)
	}
	if sets == 0 { // of the sheet, of names, of the tree
		return Do(doc, lib, a)
	}
	if others > 0 {
		return plan, fmt.Errorf("%s is being set by example: only values are set then. Unpin it to do this", e.Label)
	}
	x := example{doc: doc, e: e, at: pin.At, ties: slices.Clone(e.Ties)}
	if err := x.take(plan.Op); err != nil {
		return plan, err
	}
	title := plan.Op.Title
	plan.Op = x.op()
	if plan.Op.Kind != "" {
		plan.Op.Title = fmt.Sprintf("%s, at %s %s", title, e.Label, e.Says(pin.At))
	}
	return plan, nil
}

// ofTheSheet reports whether an act is about the sheet and not about the picture.
func ofTheSheet(a Act) bool {
	if a.Kind == "batch" {
		return !slices.ContainsFunc(a.Ops, func(in Act) bool { return !ofTheSheet(in) })
	}
	return slices.Contains([]string{"default", "offer", "withdraw", "tie"}, a.Kind)
}

// count tells how many values an operation sets, and how much else it does.
func count(op edit.DraftOp) (sets, others int) {
	switch op.Kind {
	case "":
	case "batch":
		for _, in := range op.Ops {
			s, o := count(in)
			sets, others = sets+s, others+o
		}
	case "set":
		sets++
	default:
		others++
	}
	return sets, others
}

// example gathers what becomes of an entry's ties.
type example struct {
	doc  *template.Document
	e    *template.Entry
	at   scheme.Value
	ties []template.Tie
	rest []edit.DraftOp // values at rest, where the entry's default is what is set
}

func (x *example) take(op edit.DraftOp) error {
	if op.Kind == "batch" {
		for _, in := range op.Ops {
			if err := x.take(in); err != nil {
				return err
			}
		}
		return nil
	}
	called := x.doc.Called(op.Path)
	if op.Format != "" {
		return fmt.Errorf("%s is set in one format alone; an entry is for all of them. Let changes be for all formats, or unpin %s", called, x.e.Label)
	}
	t, err := x.doc.Find(op.Path)
	if err != nil {
		return err
	}
	if t.Property.Plain {
		return fmt.Errorf("%s is the template's own: no entry can drive it. Unpin %s to change it", called, x.e.Label)
	}
	for _, o := range x.doc.Sheet.Entries() {
		if o.ID != x.e.ID && slices.ContainsFunc(o.Ties, func(t template.Tie) bool { return x.doc.SamePath(t.To, op.Path) }) {
			return fmt.Errorf("%s is driven by %s already; take it off there first", called, o.Label)
		}
	}
	path := template.FullPath(op.Path)
	rest, _, err := x.doc.Get(path)
	if err != nil {
		return err
	}
	if op.Value == nil { // back to what it is without the entry
		x.ties = slices.DeleteFunc(x.ties, func(t template.Tie) bool { return template.FullPath(t.To) == path })
		return nil
	}
	return x.set(path, t, rest, *op.Value)
}

// set makes a value one of a tie's stops: of the tie that drives it, or of one that drives
// all or a number of it, or of a new one.
func (x *example) set(path string, t template.Target, rest, v scheme.Value) error {
	for i := range x.ties {
		to := template.FullPath(x.ties[i].To)
		if to == path {
			return x.stop(i, v)
		}
		if !x.doc.SamePath(to, path) {
			continue
		}
		other, err := x.doc.Find(to)
		if err != nil {
			return err
		}
		if other.Part < 0 { // all of it is tied: one number of that is set
			all, _ := x.ties[i].Value(x.e, x.at)
			full := slices.Clone(t.Property.Full(all))
			if t.Part < len(full) && len(v.Numbers) == 1 {
				full[t.Part] = v.Numbers[0]
				return x.stop(i, scheme.Value{Numbers: full, Shorter: all.Shorter&^(1<<t.Part) | v.Shorter<<t.Part})
			}
			continue
		}
		// One number is tied and all are set: each on its own.
		full := t.Property.Full(v)
		was := t.Property.Full(rest)
		for k, n := range full {
			at := path + "." + t.Property.PartName(k)
			one, err := x.doc.Find(at)
			if err != nil {
				return err
			}
			short := v.Shorter
			if v.Single && short != 0 {
				short = 1<<len(full) - 1
			}
			old := scheme.One(was[min(k, len(was)-1)])
			old.Shorter = rest.Shorter >> k & 1
			if err := x.set(at, one, old, scheme.Value{Numbers: []float64{n}, Single: true, Shorter: short >> k & 1}); err != nil {
				return err
			}
		}
		return nil
	}
	if v.Equal(rest) {
		return nil // as it is everywhere
	}
	tie := template.Tie{To: path}
	for _, at := range x.e.Stops() {
		tie.Stops = append(tie.Stops, template.Stop{At: at, Value: rest})
	}
	x.ties = append(x.ties, tie)
	return x.stop(len(x.ties)-1, v)
}

// stop gives a tie a value at the place that is pinned. One that reckons by a range, or not
// at all, is given stops first, where it gives what it gave.
func (x *example) stop(i int, v scheme.Value) error {
	t := &x.ties[i]
	if t.Of != "" {
		return fmt.Errorf("%s is driven by one number of %s; untie it first", x.doc.Called(t.To), x.e.Label)
	}
	stops := slices.Clone(t.Stops)
	if len(stops) == 0 {
		for _, at := range x.e.Stops() {
			was, drives := t.Value(x.e, at)
			if !drives {
				continue
			}
			stops = append(stops, template.Stop{At: at, Value: was})
			if t.Ease != nil && len(stops) == 1 {
				stops[0].Ease = t.Ease
			}
		}
	}
	k := slices.IndexFunc(stops, func(s template.Stop) bool { return s.At.Equal(x.at) })
	if k >= 0 {
		stops[k].Value = v
	} else {
		k = len(stops)
		if x.e.OnLine() {
			if k = slices.IndexFunc(stops, func(s template.Stop) bool { return s.At.Number() > x.at.Number() }); k < 0 {
				k = len(stops)
			}
		}
		stops = slices.Insert(stops, k, template.Stop{At: x.at, Value: v})
	}
	*t = template.Tie{To: t.To, Stops: stops}
	if x.e.Default != nil && x.e.Default.Equal(x.at) { // what rests is what is drawn
		x.rest = append(x.rest, edit.DraftOp{Kind: "set", Path: t.To, Value: &v})
	}
	// One that gives the same everywhere drives nothing; what rests says it.
	if !slices.ContainsFunc(stops, func(s template.Stop) bool { return !s.Value.Equal(stops[0].Value) }) {
		same := stops[0].Value
		x.rest = append(x.rest, edit.DraftOp{Kind: "set", Path: t.To, Value: &same})
		x.ties = slices.Delete(x.ties, i, i+1)
	}
	return nil
}

// op is what is changed in the document.
func (x *example) op() edit.DraftOp {
	ops := []edit.DraftOp{{Kind: "tie", Entry: x.e.ID, Ties: x.ties}}
	if x.e.OnLine() && !slices.ContainsFunc(x.e.Stops(), x.at.Equal) {
		at := []float64{x.at.Number()}
		for _, s := range x.e.Stops() {
			at = append(at, s.Number())
		}
		slices.Sort(at)
		if part, err := json.Marshal(at); err == nil {
			ops = append(ops, edit.DraftOp{Kind: "put", Path: "entries/" + x.e.ID + "/notches", Part: part})
		}
	}
	ops = append(ops, x.rest...)
	if len(ops) == 1 {
		return ops[0]
	}
	return edit.DraftOp{Kind: "batch", Ops: ops}
}
