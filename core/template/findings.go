package template

import (
	"fmt"
	"maps"
	"math"
	"regexp"
	"slices"
	"strings"

	"ivypocket/core/scheme"
)

// Findings are told of a document that can be drawn and is still not as somebody
// will have meant it: something that is set is never seen. Each names both
// places.
func (d *Document) Findings() Faults {
	l := &faultList{}
	tied := d.tied()
	d.findIdle(l, tied)
	for _, to := range slices.Sorted(maps.Keys(tied)) {
		ties := tied[to]
		for _, t := range ties[1:] {
			l.add(t.path, "drives %s, as %s does; the last one alone is seen. Leave one of them out", to, ties[0].path)
		}
		d.findOverruled(l, to, ties[0])
	}
	d.VisitNodes(func(at, _ string, n *Node) {
		n.Values(func(p *scheme.Property, v scheme.Value) {
			if by := n.formulaOf(p); by != "" && !v.Equal(p.Default) {
				l.add(at+"."+p.Name, "is never seen: %s.formulas.%s yields it. Leave the rest value out", at, by)
			}
		})
	})
	d.findSoft(l)
	return l.f
}

// tieAt is a tie of an entry with its place.
type tieAt struct {
	path  string
	entry *Entry
	tie   Tie
}

// tied lists the ties to each property, in the order in which they are applied.
func (d *Document) tied() map[string][]tieAt {
	out := map[string][]tieAt{}
	for g := range d.Sheet.Groups {
		for e := range d.Sheet.Groups[g].Entries {
			entry := &d.Sheet.Groups[g].Entries[e]
			for i, t := range entry.Ties {
				to := FullPath(t.To)
				out[to] = append(out[to], tieAt{fmt.Sprintf("sheet.groups[%d].entries[%d].ties[%d]", g, e, i), entry, t})
			}
		}
	}
	return out
}

// readEntry finds the entries that a formula reads.
var readEntry = regexp.MustCompile(`\bentry\(\s*['"]([^'"]+)['"]`)

// quoted finds the names in a formula.
var quoted = regexp.MustCompile(`'([^']*)'|"([^"]*)"`)

// Reads reports whether a formula names a layer, or something of it.
func Reads(formula, layer string) bool { return slices.Contains(Names(formula), layer) }

// Names lists what a formula names between quotes: of what is in a layer, the layer's id.
func Names(formula string) (out []string) {
	for _, m := range quoted.FindAllStringSubmatch(formula, -1) {
		name := m[1] + m[2]
		if seg := strings.SplitN(name, "/", 3); len(seg) == 3 && seg[0] == "layers" {
			name = seg[1]
		}
		out = append(out, name)
	}
	return out
}

// Reread is a formula in which layers have other ids.
func Reread(formula string, ids map[string]string) string {
	return quoted.ReplaceAllStringFunc(formula, func(q string) string {
		name, quote := q[1:len(q)-1], q[:1]
		if id := ids[name]; id != "" {
			return quote + id + quote
		}
		if seg := strings.SplitN(name, "/", 3); len(seg) == 3 && seg[0] == "layers" && ids[seg[1]] != "" {
			return quote + "layers/" + ids[seg[1]] + "/" + seg[2] + quote
		}
		return q
	})
}

// findIdle finds entries that drive nothing and that no formula reads.
func (d *Document) findIdle(l *faultList, tied map[string][]tieAt) {
	read := map[string]bool{}
	for _, f := range d.formulasOf() {
		for _, m := range readEntry.FindAllStringSubmatch(f.source, -1) {
			read[m[1]] = true
		}
	}
	shows := map[string]bool{}
	for _, e := range d.Sheet.Entries() {
		if e.When != nil {
			shows[e.When.Entry] = true
		}
	}
	for g, group := range d.Sheet.Groups {
		for e, entry := range group.Entries {
			if entry.Kept() && len(entry.Ties) == 0 && !read[entry.ID] && !shows[entry.ID] {
				l.add(fmt.Sprintf("sheet.groups[%d].entries[%d]", g, e), "%s drives nothing: it has no ties, and no formula reads it. Tie it to something, or leave it out", entry.Label)
			}
		}
	}
}

// findOverruled finds what keeps a tied value from being seen, and rest values
// that a tie keeps from being seen.
func (d *Document) findOverruled(l *faultList, to string, t tieAt) {
	target, err := d.Find(to)
	if err != nil {
		return
	}
	for i := range d.Formats {
		for _, path := range slices.Sorted(maps.Keys(d.Formats[i].Rest)) {
			if d.SamePath(path, to) {
				l.add(fmt.Sprintf("formats[%d].rest.%s", i, path), "hides what %s sets (%s) in this format. Leave one of them out", t.path, t.entry.Label)
			}
		}
	}
	n := target.Node
	if n == nil || target.thing != nil {
		return
	}
	if by := n.formulaFor(target.Property, target.Part); by != "" {
		l.add(t.path, "sets %s, which the formula %s yields; the entry is never seen. Leave one of them out, or let the formula read entry('%s')", to, by, t.entry.ID)
	}
	rest, given := n.Value(target.Property)
	if e := t.entry; given && e.Default != nil {
		drawn, drives := t.tie.Value(e, *e.Default)
		if !drives {
			return
		}
		if target.Part >= 0 {
			if rest, _, err = d.Get(to); err != nil {
				return
			}
		}
		same := drawn
		same.Numbers = rest.Numbers // which differ by what reckoning leaves behind
		if !same.Equal(rest) || !sameNumbers(drawn.Numbers, rest.Numbers) {
			l.add(t.path, "sets %s to %s by the entry's default, while the %s has %s, which is never seen. Make them the same", to, drawn, n.sort.Name, rest)
		}
	}
}

// sameNumbers reports whether numbers are the same, but for rounding; one may
// stand for several.
func sameNumbers(a, b []float64) bool {
	if len(a) != len(b) && len(a) != 1 {
		return false
	}
	for i, v := range b {
		if math.Abs(a[min(i, len(a)-1)]-v) > 1e-9*math.Max(1, math.Abs(v)) {
			return false
		}
	}
	return true
}

// formulaOf names the formula that yields a property as a whole, or the last of
// those that together do; "" is none.
func (n *Node) formulaOf(p *scheme.Property) string {
	if n.Formulas[p.Name] != "" {
		return p.Name
	}
	if p.Type != scheme.Numbers || !p.Parted() {
		return ""
	}
	by := ""
	for i := range p.Parts {
		if by = p.Of(i); n.Formulas[by] == "" {
			return ""
		}
	}
	return by
}

// YieldedBy names the formula that yields a property, or one of its numbers; "" is none.
func (n *Node) YieldedBy(p *scheme.Property, part int) string { return n.formulaFor(p, part) }

// EntryReader is what people call a thing whose formula reads an entry, "" for none.
func (d *Document) EntryReader(id string) string {
	for _, f := range d.formulasOf() {
		for _, m := range readEntry.FindAllStringSubmatch(f.source, -1) {
			if m[1] == id {
				if called := d.Called(f.path + "/" + f.name); called != "" {
					return called
				}
				return f.at
			}
		}
	}
	return ""
}

// formulaFor names the formula that yields a property, or one of its numbers.
func (n *Node) formulaFor(p *scheme.Property, part int) string {
	if part >= 0 && n.Formulas[p.Of(part)] != "" {
		return p.Of(part)
	}
	return n.formulaOf(p)
}
