// Package release is the room for releases of a template: what is otherwise in one than in
// another, as people would say it. It draws nothing and keeps nothing.
package release

import (
	"bytes"
	"encoding/json"
	"fmt"
	"reflect"
	"slices"
	"strings"

	"ivypocket/core/scheme"
	"ivypocket/core/template"
)

// How is what became of a thing.
type How string

// What may become of a thing.
const (
	Added   How = "added"
	Lost    How = "lost"
	Renamed How = "renamed"
	Changed How = "changed"
)

// Difference is one thing that is otherwise: an entry of the sheet by its id, or a part of
// the template; Says is how, a sentence each.
type Difference struct {
	Entry string
	What  string
	How   How
	Says  []string
}

// Comparison is what is otherwise in the second of two releases.
type Comparison struct {
	Sheet    []Difference // in the order of the newer sheet; what went comes last
	Template []Difference
	// Alike says that nothing at all is otherwise.
	Alike bool
}

// Compare tells what is otherwise in b than in a.
func Compare(a, b *template.Document) Comparison {
	c := Comparison{Sheet: sheets(a, b), Template: parts(a, b)}
	c.Alike = alike(a, b)
	return c
}

func sheets(a, b *template.Document) []Difference {
	var out []Difference
	for _, e := range b.Sheet.Entries() {
		old := a.Sheet.Entry(e.ID)
		if old == nil {
			out = append(out, Difference{e.ID, e.Label, Added, []string{kindOf(e)}})
			continue
		}
		d := Difference{Entry: e.ID, What: e.Label, How: Changed}
		if e.Label != old.Label || e.DataName() != old.DataName() {
			d.How = Renamed
		}
		if d.Says = entry(old, e); len(d.Says) > 0 {
			out = append(out, d)
		}
	}
	for _, e := range a.Sheet.Entries() {
		if b.Sheet.Entry(e.ID) == nil {
			out = append(out, Difference{e.ID, e.Label, Lost, []string{kindOf(e)}})
		}
	}
	return out
}

func kindOf(e *template.Entry) string {
	if k := e.Of(); k != nil {
		return k.Label
	}
	return string(e.Kind)
}

// entry tells what an entry says otherwise, by the rows of what entries say.
func entry(a, b *template.Entry) []string {
	if a.Kind != b.Kind {
		return []string{fmt.Sprintf("Is %s, was %s", strings.ToLower(kindOf(b)), strings.ToLower(kindOf(a)))}
	}
	was, now := members(a), members(b)
	var out []string
	for _, p := range scheme.Entries.Properties() {
		x, y := was[p.Name], now[p.Name]
		if reflect.DeepEqual(x, y) {
			continue
		}
		switch s, t := said(x), said(y); {
		case s != "" && t != "":
			out = append(out, fmt.Sprintf("%s: %s, was %s", p.Label, t, s))
		case t != "" && x == nil:
			out = append(out, fmt.Sprintf("%s: %s", p.Label, t))
		case s != "" && y == nil:
			out = append(out, fmt.Sprintf("%s: none, was %s", p.Label, s))
		default:
			out = append(out, p.Label+": changed")
		}
	}
	return out
}

func members(e *template.Entry) map[string]any {
	b, _ := json.Marshal(e) // numbers, texts and switches: it can't fail
	out := map[string]any{}
	_ = json.Unmarshal(b, &out)
	return out
}

// said is a plain value in words; "" is for one that would be a list of things.
func said(v any) string {
	switch v := v.(type) {
	case string:
		return v
	case bool:
		if v {
			return "yes"
		}
		return "no"
	case float64:
		return fmt.Sprint(v)
	}
	return ""
}

// parts tells what is otherwise in the template besides its sheet.
func parts(a, b *template.Document) []Difference {
	var out []Difference
	add := func(what string, how How, says ...string) {
		out = append(out, Difference{What: what, How: how, Says: says})
	}
	if a.Name != b.Name {
		add("Name", Renamed, fmt.Sprintf("%s, was %s", b.Name, a.Name))
	}
	if a.Frames != b.Frames {
		add("Length", Changed, fmt.Sprintf("%d frames, was %d", b.Frames, a.Frames))
	}
	if a.Rate != b.Rate {
		add("Rate", Changed, fmt.Sprintf("%s frames a second, was %s", b.Rate, a.Rate))
	}
	for _, f := range b.Formats {
		size := fmt.Sprintf("%d × %d", f.Width, f.Height)
		if old := a.Format(f.ID); old == nil {
			add("Format "+f.Name, Added, size)
		} else if old.Width != f.Width || old.Height != f.Height {
			add("Format "+f.Name, Changed, fmt.Sprintf("%s, was %d × %d", size, old.Width, old.Height))
		}
	}
	for _, f := range a.Formats {
		if b.Format(f.ID) == nil {
			add("Format "+f.Name, Lost)
		}
	}
	for _, p := range b.Pockets {
		if a.Pocket(p.ID) == nil {
			add("Pocket "+p.Name, Added)
		}
	}
	for _, p := range a.Pockets {
		if b.Pocket(p.ID) == nil {
			add("Pocket "+p.Name, Lost)
		}
	}
	for _, c := range b.Colours {
		if old := colour(a, c.ID); old == "" {
			add("Colour "+c.Name, Added, c.Value)
		} else if old != c.Value {
			add("Colour "+c.Name, Changed, fmt.Sprintf("%s, was %s", c.Value, old))
		}
	}
	for _, c := range a.Colours {
		if colour(b, c.ID) == "" {
			add("Colour "+c.Name, Lost, c.Value)
		}
	}
	for _, g := range b.Gradients {
		if old := a.Gradient(g.ID); old == nil {
			add("Gradient "+g.Name, Added)
		} else if !alike(old, g) {
			add("Gradient "+g.Name, Changed)
		}
	}
	for _, g := range a.Gradients {
		if b.Gradient(g.ID) == nil {
			add("Gradient "+g.Name, Lost)
		}
	}
	if !alike(a.Layouts, b.Layouts) {
		add("Layouts", Changed)
	}
	if d := layers(a, b); d != nil {
		out = append(out, *d)
	}
	return out
}

func colour(d *template.Document, id string) string {
	for _, c := range d.Colours {
		if c.ID == id {
			return c.Value
		}
	}
	return ""
}

func alike(a, b any) bool {
	x, err1 := json.Marshal(a)
	y, err2 := json.Marshal(b)
	return err1 == nil && err2 == nil && bytes.Equal(x, y)
}

// layers tells how many layers there are more, fewer and otherwise, by their names.
func layers(a, b *template.Document) *Difference {
	was, now := map[string]*template.Layer{}, map[string]*template.Layer{}
	var order, gone []string
	a.VisitAll(func(_ string, y *template.Layer) { was[y.ID] = y })
	b.VisitAll(func(_ string, y *template.Layer) { now[y.ID], order = y, append(order, y.ID) })
	a.VisitAll(func(_ string, y *template.Layer) {
		if now[y.ID] == nil {
			gone = append(gone, y.Name)
		}
	})
	var added, changed []string
	for _, id := range order {
		switch y := now[id]; {
		case was[id] == nil:
			added = append(added, y.Name)
		case !sameLayer(was[id], y):
			changed = append(changed, y.Name)
		}
	}
	d := Difference{What: "Layers", How: Changed}
	for _, l := range []struct {
		what  string
		names []string
	}{{"New", added}, {"Gone", gone}, {"Changed", changed}} {
		if len(l.names) > 0 {
			d.Says = append(d.Says, l.what+": "+names(l.names))
		}
	}
	if d.Says == nil {
		return nil
	}
	return &d
}

// sameLayer compares layers by themselves: what lies in them stands for itself.
func sameLayer(a, b *template.Layer) bool {
	x, err1 := json.Marshal(a)
	y, err2 := json.Marshal(b)
	if err1 != nil || err2 != nil {
		return false
	}
	var m, n map[string]any
	if json.Unmarshal(x, &m) != nil || json.Unmarshal(y, &n) != nil {
		return false
	}
	delete(m, "layers")
	delete(n, "layers")
	return reflect.DeepEqual(m, n)
}

// most is how many names are told.
const most = 8

func names(all []string) string {
	all = slices.Clone(all)
	if len(all) > most {
		return fmt.Sprintf("%s and %d more", strings.Join(all[:most], ", "), len(all)-most)
	}
	return strings.Join(all, ", ")
}
