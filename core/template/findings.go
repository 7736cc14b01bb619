package template

import (
	"fmt"
	"maps"
	"math"
	"regexp"
	"slices"
	"strings"
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
	d.Visit(func(path string, y *Layer) {
		for _, p := range y.Standings() {
			if by := y.formulaOf(&p.Property); by != "" && p.Given && (p.Kind == ColourText || !isDefault(p)) {
				l.add(path+"."+y.restPath(p.Name), "is never seen: %s.formulas.%s yields it. Leave the rest value out", path, by)
			}
		}
	})
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
				out[t.To] = append(out[t.To], tieAt{fmt.Sprintf("sheet.groups[%d].entries[%d].ties[%d]", g, e, i), entry, t})
			}
		}
	}
	return out
}

// readEntry finds the entries that a formula reads.
var readEntry = regexp.MustCompile(`\bentry\(\s*['"]([^'"]+)['"]`)

// findIdle finds entries that drive nothing and that no formula reads.
func (d *Document) findIdle(l *faultList, tied map[string][]tieAt) {
	read := map[string]bool{}
	d.Visit(func(_ string, y *Layer) {
		for _, f := range y.Formulas {
			for _, m := range readEntry.FindAllStringSubmatch(f, -1) {
				read[m[1]] = true
			}
		}
	})
	for g, group := range d.Sheet.Groups {
		for e, entry := range group.Entries {
			if entry.Kind != MediaEntry && len(entry.Ties) == 0 && !read[entry.Data] {
				l.add(fmt.Sprintf("sheet.groups[%d].entries[%d]", g, e), "%s drives nothing: it has no ties, and no formula reads it. Tie it to something, or leave it out", entry.Label)
			}
		}
	}
}

// findOverruled finds what keeps a tied value from being seen, and rest values
// that a tie keeps from being seen.
func (d *Document) findOverruled(l *faultList, to string, t tieAt) {
	part := strings.Split(to, "/")
	if len(part) != 3 {
		return
	}
	id, name := part[1], part[2]
	for i := range d.Formats {
		if _, own := d.Formats[i].Rest[id][name]; own {
			l.add(fmt.Sprintf("formats[%d].rest.%s.%s", i, id, name), "hides what %s sets (%s) in this format. Leave one of them out", t.path, t.entry.Label)
		}
	}
	if part[0] != "layers" {
		return
	}
	y := d.Layer(id)
	p, rest, given, err := y.Property(name)
	if err != nil {
		return
	}
	if by := y.formulaOf(&p); by != "" {
		l.add(t.path, "sets %s, which the formula %s yields; the entry is never seen. Leave one of them out, or let the formula read entry('%s')", to, by, t.entry.Data)
	}
	if e := t.entry; given && e.Default != nil {
		drawn := Rest{Text: e.Default.Text}
		if e.Kind == AmountEntry {
			drawn = t.tie.Rest(e.Default.Amount)
		}
		if drawn.Text != rest.Text || !sameNumbers(drawn.Numbers, rest.Numbers) {
			l.add(t.path, "sets %s to %s by the entry's default, while the layer has %s, which is never seen. Make them the same", to, words(drawn), words(rest))
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

func words(r Rest) string {
	if r.Text != "" {
		return r.Text
	}
	return strings.Trim(fmt.Sprint(r.Numbers), "[]")
}

// formulaOf names the formula that yields a property as a whole, or one of those
// that together do; "" is none.
func (y *Layer) formulaOf(p *Property) string {
	by := ""
	for _, c := range p.Components() {
		name := p.Name
		if c != "" {
			name += "." + c
		}
		if y.Formulas[name] == "" {
			return ""
		}
		by = name
	}
	return by
}

// isDefault reports whether a rest value is what holds when nothing is said:
// numbers that always stand in a document, such as a turn of 0, say nothing.
func isDefault(p Standing) bool {
	for _, v := range p.Rest.Numbers {
		if v != 0 {
			return false
		}
	}
	return true
}
