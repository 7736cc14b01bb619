package craft

import (
	"encoding/json"
	"fmt"
	"math"

	"ivypocket/core/edit"
	"ivypocket/core/scheme"
	"ivypocket/core/template"
)

func init() {
	register(row{"default", "`entry`, `value`", "gives an entry another default, and all that it drives the values that go with it", setDefault})
}

func setDefault(b *bench, a Act) error {
	e := b.doc.Sheet.Entry(a.Entry)
	if e == nil {
		return fmt.Errorf("entry: the sheet has no entry named %q any more", a.Entry)
	}
	if !e.Kept() || a.Value == nil {
		return fmt.Errorf("entry: %s has no default of its own", e.Label)
	}
	b.title = "Set " + e.Label
	ops, err := b.newDefault(e, e.Ties, -1, *a.Value)
	b.ops = append(b.ops, ops...)
	return err
}

// follow lets the sheet go along with what an act sets: the default of an entry that drives
// a value becomes the one with which it is as it was set, and all else that the entry drives
// follows. Where no value of the entry comes to it, the act is refused.
func (b *bench) follow() error {
	var more []edit.DraftOp
	for _, op := range b.ops {
		if op.Kind != "set" || op.Format != "" {
			continue
		}
		if op.Value == nil { // left out, it has its default, if there is one
			t, err := b.doc.Find(op.Path)
			if err != nil || t.Property.Default.Numbers == nil && t.Property.Default.Text == "" || t.Part >= 0 {
				continue
			}
			op.Value = &t.Property.Default
		}
		for _, e := range b.doc.Sheet.Entries() {
			if b.dropped[e.ID] || e.Default == nil {
				continue
			}
			ties := e.Ties
			if now, ok := b.ties[e.ID]; ok {
				ties = now
			}
			for i := range ties {
				t := &ties[i]
				if !b.doc.SamePath(t.To, op.Path) {
					continue
				}
				want, err := b.part(t.To, op)
				if err != nil {
					return err
				}
				if now, drives := t.Value(e, *e.Default); drives && comesTo(now, want) {
					continue
				}
				next, ok := t.Back(e, want)
				if !ok {
					return fmt.Errorf("%s is set by the entry %s; change its default or its ties on the sheet", b.doc.Called(op.Path), e.Label)
				}
				ops, err := b.newDefault(e, ties, i, next)
				if err != nil {
					return err
				}
				more = append(more, ops...)
				break
			}
		}
	}
	b.ops = append(b.ops, more...)
	return nil
}

// comesTo reports whether two values are the same but for rounding.
func comesTo(a, b scheme.Value) bool {
	if len(a.Numbers) != len(b.Numbers) || a.Shorter != b.Shorter {
		return a.Equal(b)
	}
	for i, n := range a.Numbers {
		if math.Abs(n-b.Numbers[i]) > 1e-9*math.Max(1, math.Abs(n)) {
			return false
		}
	}
	return (a.Shorter != 0 || a.Text == b.Text) && a.Truth == b.Truth
}

// part is what an operation makes of the value that a tie drives: all of it, or one of its
// numbers.
func (b *bench) part(to string, op edit.DraftOp) (scheme.Value, error) {
	if template.FullPath(to) == template.FullPath(op.Path) {
		return *op.Value, nil
	}
	c := b.doc.Clone()
	if err := c.Set(op.Path, *op.Value); err != nil {
		return scheme.Value{}, err
	}
	v, _, err := c.Get(to)
	return v, err
}

// newDefault gives an entry another default, wider limits where it lies beyond those it
// has, and what else it drives the values that go with it.
func (b *bench) newDefault(e *template.Entry, ties []template.Tie, but int, v scheme.Value) (ops []edit.DraftOp, err error) {
	put := func(member string, v any) {
		part, fault := json.Marshal(v)
		if fault != nil {
			err = fault
		}
		ops = append(ops, edit.DraftOp{Kind: "put", Path: "entries/" + e.ID + "/" + member, Part: part})
	}
	if e.OnLine() && e.Min != nil && e.Max != nil {
		if v.Number() < *e.Min {
			put("min", v.Number())
		}
		if v.Number() > *e.Max {
			put("max", v.Number())
		}
	}
	if e.Area != nil && len(v.Numbers) == 2 {
		a := *e.Area
		for i, n := range v.Numbers {
			a[i], a[i+2] = math.Min(a[i], n), math.Max(a[i+2], n)
		}
		if a != *e.Area {
			put("area", a)
		}
	}
	put("default", v)
	for i := range ties {
		if i == but {
			continue
		}
		if now, drives := ties[i].Value(e, v); drives {
			ops = append(ops, edit.DraftOp{Kind: "set", Path: ties[i].To, Value: &now})
		}
	}
	return ops, err
}
