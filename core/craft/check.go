package craft

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"ivypocket/core/edit"
	"ivypocket/core/scheme"
	"ivypocket/core/template"
)

func init() {
	register(row{"sheet-order", "", "orders headings and entries by how often things change: media, choices, time, amounts, colours", orderSheet})
}

// Remark is something about a sheet that its designer should know: what it is, whose, and,
// where one press mends it, the act that does and what the button says.
type Remark struct {
	What  string
	Entry string // "" is of the sheet as a whole
	Layer string // that it is about, "" is none
	Mend  string
	Act   Act
}

// ManyEntries is how many entries a sheet may have before it is told that they are many:
// common practice, no source.
const ManyEntries = 15

// CheckSheet looks a sheet over: its order and size, what no entry reaches, labels that are
// alike or say nothing, help that is missing, and ties that are never seen.
func CheckSheet(d *template.Document) []Remark {
	c := &checking{d: d}
	c.whole()
	c.labels()
	for _, e := range d.Sheet.Entries() {
		c.entry(e)
	}
	return c.out
}

type checking struct {
	d   *template.Document
	out []Remark
}

func (c *checking) add(r Remark) { c.out = append(c.out, r) }

// rank is the place of a kind among those of a sheet; unknown ones stand last.
func rank(e *template.Entry) int {
	if i := slices.Index(scheme.Entries.Kinds, e.Of()); i >= 0 {
		return i
	}
	return len(scheme.Entries.Kinds)
}

func (c *checking) whole() {
	entries := c.d.Sheet.Entries()
	for i, e := range entries {
		if i > 0 && heading(e) < heading(entries[i-1]) {
			c.add(Remark{What: fmt.Sprintf("%s stands below %s, which changes less often: media first, then choices, time, amounts and colours", e.Label, entries[i-1].Label),
				Entry: e.ID, Mend: "Put in order", Act: Act{Kind: "sheet-order"}})
			break
		}
	}
	shown := 0
	for _, e := range entries {
		if !e.Fixed {
			shown++
		}
	}
	if shown > ManyEntries {
		c.add(Remark{What: fmt.Sprintf("%d entries are many to find one's way in; fix some for good, or show some only when a switch asks for them", shown)})
	}
	for _, p := range c.d.Pockets {
		seen := false
		c.d.VisitAll(func(_ string, y *template.Layer) { seen = seen || y.Text(scheme.Pocket) == p.ID })
		if seen && c.d.Sheet.Fills(p.ID) == nil {
			c.add(Remark{What: fmt.Sprintf("No entry fills the pocket %s: an editor can't", p.Name), Mend: "Put on sheet", Act: Act{Kind: "offer", Paths: []string{"pockets/" + p.ID}}})
		}
	}
}

func (c *checking) labels() {
	seen := map[string]string{}
	for _, e := range c.d.Sheet.Entries() {
		label := strings.ToLower(strings.TrimSpace(e.Label))
		if seen[label] != "" {
			c.add(Remark{What: fmt.Sprintf("Two entries are called %s", e.Label), Entry: e.ID})
		}
		seen[label] = e.ID
		base := strings.TrimRight(label, "0123456789 ")
		if k := e.Of(); k != nil && (base == strings.ToLower(k.Label) || len([]rune(base)) < 2) {
			c.add(Remark{What: fmt.Sprintf("“%s” does not say what it moves", e.Label), Entry: e.ID})
		}
		if e.OnLine() && e.Help == "" && !e.Fixed {
			c.add(Remark{What: fmt.Sprintf("%s has no help: say in a sentence what it does", e.Label), Entry: e.ID})
		}
	}
}

func (c *checking) entry(e *template.Entry) {
	if !e.Kept() || e.Default == nil {
		return
	}
	shows := slices.ContainsFunc(c.d.Sheet.Entries(), func(o *template.Entry) bool { return o.When != nil && o.When.Entry == e.ID })
	if len(e.Ties) == 0 && c.d.EntryReader(e.ID) == "" && !shows {
		c.add(Remark{What: fmt.Sprintf("%s drives nothing", e.Label), Entry: e.ID, Mend: "Take it off", Act: Act{Kind: "withdraw", Entry: e.ID}})
		return
	}
	for i := range e.Ties {
		c.tie(e, i)
	}
}

func (c *checking) tie(e *template.Entry, i int) {
	t := &e.Ties[i]
	target, err := c.d.Find(t.To)
	if err != nil {
		return
	}
	called := c.d.Called(t.To)
	layer := ""
	if id, ok := strings.CutPrefix(t.To, "layers/"); ok {
		layer, _, _ = strings.Cut(id, "/")
	}
	untie := Act{Kind: "tie", Entry: e.ID, Ties: slices.Delete(slices.Clone(e.Ties), i, i+1)}
	told := func(what, mend string, act Act) { c.add(Remark{what, e.ID, layer, mend, act}) }
	for _, o := range c.d.Sheet.Entries() {
		if o.ID != e.ID && slices.ContainsFunc(o.Ties, func(x template.Tie) bool { return c.d.SamePath(x.To, t.To) }) && before(c.d, e, o) {
			told(fmt.Sprintf("%s and %s both drive %s; the last one alone is seen", e.Label, o.Label, called), "Untie "+e.Label, untie)
			return
		}
	}
	if n := target.Node; n != nil {
		if n.YieldedBy(target.Property, target.Part) != "" {
			told(fmt.Sprintf("A formula yields %s: %s is never seen there", called, e.Label), "Untie", untie)
			return
		}
		if m := n.Motion[target.Property.Name]; m != nil && m.Joins(target.Property) == scheme.Instead {
			told(fmt.Sprintf("Keys take the place of %s: %s is never seen there", called, e.Label), "Untie", untie)
			return
		}
	}
	for _, f := range c.d.Formats {
		for _, path := range sorted(f.Rest) {
			if c.d.SamePath(path, t.To) {
				told(fmt.Sprintf("%s has a value of its own for %s, which hides what %s sets", f.Name, called, e.Label), "Join it", Act{Kind: "join", Path: path, Format: f.ID})
			}
		}
	}
	if c.same(e, t) {
		told(fmt.Sprintf("%s gives %s the same everywhere", e.Label, called), "Untie", untie)
		return
	}
	for _, s := range t.Stops {
		if e.OnLine() && e.Min != nil && (s.At.Number() < *e.Min || s.At.Number() > *e.Max) {
			told(fmt.Sprintf("The stop of %s at %s lies outside %s to %s: no editor comes there", called, s.At, plain(*e.Min), plain(*e.Max)), "", Act{})
		}
	}
	drawn, drives := t.Value(e, *e.Default)
	if now, _, err := c.d.Get(t.To); err == nil && drives && !comesTo(now, drawn) {
		told(fmt.Sprintf("%s draws %s as %s, while it rests at %s", e.Label, called, drawn, now), "Make them the same", Act{Kind: "default", Entry: e.ID, Value: e.Default})
	}
}

// before reports whether one entry comes before another on the sheet.
func before(d *template.Document, a, b *template.Entry) bool {
	list := d.Sheet.Entries()
	return slices.Index(list, a) < slices.Index(list, b)
}

// same reports whether a tie gives one value whatever its entry says.
func (c *checking) same(e *template.Entry, t *template.Tie) bool {
	values := []scheme.Value{}
	for _, s := range t.Stops {
		values = append(values, s.Value)
	}
	if len(t.Stops) > 0 && !e.OnLine() && len(t.Stops) < len(e.Ends()) { // elsewhere it rests
		if now, _, err := c.d.Get(t.To); err == nil {
			values = append(values, now)
		}
	}
	if len(t.Stops) == 0 {
		if !e.OnLine() || e.Min == nil {
			return false
		}
		for k := range 9 {
			v, _ := t.Value(e, scheme.One(*e.Min+(*e.Max-*e.Min)*float64(k)/8))
			values = append(values, v)
		}
	}
	return len(values) > 0 && !slices.ContainsFunc(values, func(v scheme.Value) bool { return !comesTo(v, values[0]) })
}

// orderSheet orders entries under their headings, and headings by what they begin with.
func orderSheet(b *bench, _ Act) error {
	b.title = "Put the sheet in order"
	type group struct {
		id   string
		rank int
	}
	var groups []group
	for _, g := range b.doc.Sheet.Groups {
		least := math.MaxInt
		list := make([]template.Entry, len(g.Entries))
		copy(list, g.Entries)
		slices.SortStableFunc(list, func(x, y template.Entry) int { return heading(&x) - heading(&y) })
		order := slices.Clone(g.Entries)
		for at, e := range list {
			least = min(least, heading(&e)*100+rank(&e))
			from := slices.IndexFunc(order, func(x template.Entry) bool { return x.ID == e.ID })
			if from != at {
				order = slices.Insert(slices.Delete(order, from, from+1), at, e)
				b.add(edit.DraftOp{Kind: "move", Path: "entries/" + e.ID, Into: "groups/" + g.ID + "/entries", At: at})
			}
		}
		groups = append(groups, group{g.ID, least})
	}
	order := slices.Clone(groups)
	slices.SortStableFunc(groups, func(x, y group) int { return x.rank - y.rank })
	for at, g := range groups {
		from := slices.Index(order, g)
		if from != at {
			order = slices.Insert(slices.Delete(order, from, from+1), at, g)
			b.add(edit.DraftOp{Kind: "move", Path: "groups/" + g.id, Into: "groups", At: at})
		}
	}
	return nil
}
