package craft

import (
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"ivypocket/core/edit"
	"ivypocket/core/formula"
	"ivypocket/core/scheme"
	"ivypocket/core/template"
)

// What is put on the sheet, and taken off it.
func init() {
	register(
		row{"offer", "`paths` of values, or of pockets (`pockets/ID`); `group` (none is that of its kind), `way`: `each` (an entry for each, though they are alike)",
			"puts values on the sheet as they are now; of several that are alike one entry drives all", offer},
		row{"entry", "`way` (a kind of entries), `name`, `group`", "adds an entry that drives nothing yet: what it drives is set by example", addEntry},
		row{"options", "`entry` (a choice, or of gradients), `part`: its options, each with a `label` and, if it is there already or is that of a gradient, its `id`",
			"says what there is to choose from; what was said of one that is left out goes", setOptions},
		row{"heading", "`name`", "adds a heading to the sheet", addHeading},
		row{"withdraw", "`paths` that are on the sheet, or `entry`", "takes them off the sheet; the picture stays as it is", withdraw},
	)
}

// offer makes entries of values. What a value is now becomes the default, its label says
// what it is, and its limits are such as suit it until the designer says otherwise.
func offer(b *bench, a Act) error {
	if len(a.Paths) == 0 {
		return errors.New("paths: name what is to be put on the sheet")
	}
	var list []template.Entry
	var of []string // whose value an entry is, "" for one that stands alone
	for _, path := range a.Paths {
		entries, err := b.offered(path)
		if err != nil {
			return err
		}
		for _, e := range entries {
			key := ""
			if t, err := b.doc.Find(e.tie()); err == nil && a.Way != "each" {
				key = fmt.Sprint(t.Property.Name, " ", t.Part, " ", e.Kind, " ", e.Default)
			}
			if i := slices.Index(of, key); key != "" && i >= 0 { // one drives all that are alike
				list[i].Ties = append(list[i].Ties, e.Ties...)
				list[i].Label = e.alike
				continue
			}
			list, of = append(list, e.Entry), append(of, key)
		}
	}
	names := make([]string, len(list))
	for i := range list {
		e := &list[i]
		e.Label = b.freeLabel(e.Label)
		e.ID = b.freeEntry(e.Label)
		names[i] = e.Label
		if err := b.putOnSheet(*e, a.Group); err != nil {
			return err
		}
	}
	b.title = "Put " + strings.Join(names, ", ") + " on the sheet"
	if len(names) > 3 {
		b.title = fmt.Sprintf("Put %d values on the sheet", len(names))
	}
	return nil
}

// addEntry puts an entry on the sheet that no value was offered for.
func addEntry(b *bench, a Act) error {
	k := scheme.Entries.Kind(a.Way)
	if k == nil || k == scheme.MediaEntry {
		return fmt.Errorf("way: %q is not a kind of entries that stands alone; media is offered from its pocket", a.Way)
	}
	if e := b.doc.Sheet.Duration(); e != nil && k == scheme.DurationEntry {
		return fmt.Errorf("%s is there already; a piece has one length", e.Label)
	}
	label := k.Label
	if strings.TrimSpace(a.Name) != "" {
		var err error
		if label, err = Said(a.Name, true); err != nil {
			return err
		}
	}
	e := template.Entry{Kind: template.EntryKind(k.Name), Label: b.freeLabel(label)}
	e.ID = b.freeEntry(e.Label)
	value := func(v scheme.Value) { e.Default = &v }
	lo, hi := 0.0, 100.0
	switch k {
	case scheme.WordsEntry:
		value(scheme.Says("Words"))
	case scheme.LinesEntry:
		value(scheme.Says("First line\nSecond line"))
	case scheme.TypefaceEntry:
		o := offering{Entry: e}
		b.offerFaces(&o, scheme.Wording.Face.Default)
		e.Options = o.Options
		value(scheme.Wording.Face.Default)
	case scheme.ChoiceEntry:
		e.Options = []template.Option{{ID: "first", Label: "First"}, {ID: "second", Label: "Second"}}
		value(scheme.Says("first"))
	case scheme.SwitchEntry:
		value(scheme.Is(true))
	case scheme.AmountEntry:
		e.Min, e.Max, e.Unit = &lo, &hi, "%"
		value(scheme.One(50))
	case scheme.AngleEntry:
		lo, hi = -180, 180
		e.Min, e.Max = &lo, &hi
		value(scheme.One(0))
	case scheme.PlaceEntry:
		value(scheme.Many(0, 0))
	case scheme.ColourEntry:
		value(scheme.Says("#1e7383"))
	case scheme.GradientEntry:
		o := offering{Entry: e}
		if len(b.doc.Gradients) == 0 {
			return errors.New("the template has no named gradients yet; add two first")
		}
		first := scheme.Says(b.doc.Gradients[0].ID)
		if err := b.offerGradient(&o, first); err != nil {
			return err
		}
		e.Options = o.Options
		value(first)
	}
	b.title = "Add " + e.Label + " to the sheet"
	return b.putOnSheet(e, a.Group)
}

// addHeading adds an empty group.
func addHeading(b *bench, a Act) error {
	text, err := Said(a.Name, true)
	if err != nil {
		return err
	}
	id := scheme.IDOf(text)
	for n := 2; slices.ContainsFunc(b.doc.Sheet.Groups, func(g template.Group) bool { return g.ID == id }); n++ {
		id = fmt.Sprintf("%s-%d", scheme.IDOf(text), n)
	}
	part, err := json.Marshal(template.Group{ID: id, Label: text, Entries: []template.Entry{}})
	b.title = "Add the heading " + text
	b.add(edit.DraftOp{Kind: "add", Into: "groups", At: -1, Part: part})
	return err
}

// setOptions says what a choice is between. Stops and conditions that speak of an option
// which is left out go with it.
func setOptions(b *bench, a Act) error {
	e := b.doc.Sheet.Entry(a.Entry)
	if e == nil || !e.Picks() {
		return fmt.Errorf("entry: there is no choice named %q", a.Entry)
	}
	var next []template.Option
	if err := json.Unmarshal(a.Part, &next); err != nil {
		return fmt.Errorf("part: is no list of options")
	}
	return b.options(e, next)
}

// options is setOptions for options that were read.
func (b *bench) options(e *template.Entry, next []template.Option) error {
	if len(next) < 2 || len(next) > template.MaxOptions {
		return fmt.Errorf("part: %s is between 2 to %d options", e.Label, template.MaxOptions)
	}
	has := func(id string) bool {
		return slices.ContainsFunc(next, func(o template.Option) bool { return o.ID == id })
	}
	for i := range next {
		text, err := Said(next[i].Label, true)
		if err != nil {
			return err
		}
		next[i].Label = text
		base := scheme.IDOf(text)
		for n, id := 2, base; next[i].ID == ""; n++ {
			if !has(id) {
				next[i].ID = id
			}
			id = fmt.Sprintf("%s-%d", base, n)
		}
	}
	if e.Default != nil && !has(e.Default.Text) {
		return fmt.Errorf("%s is the default of %s; choose another first", e.Says(*e.Default), e.Label)
	}
	var ties []template.Tie
	for _, t := range e.Ties {
		stops := slices.DeleteFunc(slices.Clone(t.Stops), func(s template.Stop) bool { return !has(s.At.Text) })
		if len(stops) == 0 && len(t.Stops) > 0 {
			continue // it drove something at that option alone
		}
		t.Stops = stops
		ties = append(ties, t)
	}
	if !slices.EqualFunc(ties, e.Ties, func(x, y template.Tie) bool { return len(x.Stops) == len(y.Stops) }) {
		b.add(edit.DraftOp{Kind: "tie", Entry: e.ID, Ties: ties})
	}
	for _, o := range b.doc.Sheet.Entries() {
		if o.When == nil || o.When.Entry != e.ID {
			continue
		}
		when := *o.When
		when.Is = slices.DeleteFunc(slices.Clone(when.Is), func(v scheme.Value) bool { return !has(v.Text) })
		switch {
		case len(when.Is) == len(o.When.Is):
		case len(when.Is) == 0:
			b.add(edit.DraftOp{Kind: "put", Path: "entries/" + o.ID + "/when"})
		default:
			if err := b.putPart("entries/"+o.ID+"/when", when); err != nil {
				return err
			}
		}
	}
	b.title = "Options of " + e.Label
	return b.putPart("entries/"+e.ID+"/options", next)
}

// offering is an entry that is not on the sheet yet.
type offering struct {
	template.Entry
	alike string // what it is called when it drives several
}

func (o offering) tie() string {
	if len(o.Ties) == 0 {
		return ""
	}
	return o.Ties[0].To
}

// offered are the entries that a value comes to: one, or one for each of its numbers.
func (b *bench) offered(path string) ([]offering, error) {
	if id, ok := strings.CutPrefix(path, "pockets/"); ok && !strings.Contains(id, "/") {
		p := b.doc.Pocket(id)
		if p == nil {
			return nil, fmt.Errorf("paths: the template has no pocket named %q", id)
		}
		if e := b.doc.Sheet.Fills(id); e != nil {
			return nil, fmt.Errorf("%s is on the sheet already, as %s", p.Name, e.Label)
		}
		return []offering{{template.Entry{Kind: template.MediaEntry, Label: p.Name, Pocket: id}, p.Name}}, nil
	}
	t, err := b.doc.Find(path)
	if err != nil {
		return nil, fmt.Errorf("paths: %w", err)
	}
	p, called := t.Property, b.doc.Called(path)
	if p.Plain {
		return nil, fmt.Errorf("%s is the template's own and can't be offered", called)
	}
	v, _, err := b.doc.Get(path)
	if err != nil {
		return nil, err
	}
	if id, named := scheme.ColourID(v.Text); named && p.Type == scheme.Colour {
		return b.offered("colours/" + id) // whoever uses it goes along
	}
	if by := b.doc.Driver(path); by != "" {
		return nil, fmt.Errorf("%s is set by %s already", called, by)
	}
	if n := t.Node; n != nil && n.YieldedBy(p, t.Part) != "" {
		return nil, fmt.Errorf("%s is yielded by a formula; let that read an entry instead", called)
	}
	what := p.PeopleCall(t.Part)
	_, of, _ := strings.Cut(called, " of ")
	o := offering{template.Entry{Label: what + " of " + of, Default: &v, Ties: []template.Tie{{To: path}}}, what}
	if p == scheme.ColourValue { // by its name
		o.Label = of
	}
	switch width := p.Width(); {
	case p.Type == scheme.Colour:
		o.Kind = template.ColourEntry
	case p == scheme.Wording.Text:
		o.Label, o.alike = of, "Words"
		if o.Kind = template.WordsEntry; strings.Contains(v.Text, "\n") {
			o.Kind = template.LinesEntry
		}
	case p.Type == scheme.Text:
		o.Kind = template.WordsEntry
	case p.Type == scheme.Typeface:
		b.offerFaces(&o, v)
	case p.Type == scheme.Switch:
		b.offerSwitch(&o, p, of, v)
	case p.Type == scheme.Choice:
		offerChoice(&o, p, v)
	case p == scheme.GradientNamed:
		if err := b.offerGradient(&o, v); err != nil {
			return nil, err
		}
	case p.Type == scheme.List && t.Part < 0:
		return nil, fmt.Errorf("%s is several numbers; offer one of them, such as %s.%s", called, path, p.PartName(0))
	case p.Type != scheme.Numbers && p.Type != scheme.List:
		return nil, fmt.Errorf("%s is %s, which no entry can ask for", called, p.Wants())
	case width == 1 || t.Part >= 0 || p.Alike && v.Single:
		b.offerNumber(&o, p, v)
	case width == 2 && p.Length:
		o.Kind = template.PlaceEntry
	default: // each of its numbers on its own
		var out []offering
		for i := range p.Parts {
			one, err := b.offered(path + "." + p.PartName(i))
			if err != nil {
				return nil, err
			}
			out = append(out, one...)
		}
		return out, nil
	}
	return []offering{o}, nil
}

// offerSwitch offers something that is on or off; what hides or leaves out is offered as
// showing it.
func (b *bench) offerSwitch(o *offering, p *scheme.Property, of string, v scheme.Value) {
	o.Kind = template.SwitchEntry
	if p != scheme.Hidden && p != scheme.Off && p != scheme.MaskOff {
		return
	}
	shown := scheme.Is(!v.On())
	o.Default = &shown
	o.Label, o.alike = "Show "+of, "Show them"
	if p != scheme.Hidden {
		o.Label = capital(p.Sort().Name) + " of " + of
	}
	o.Ties[0].Stops = []template.Stop{{At: scheme.Is(false), Value: scheme.Is(true)}, {At: scheme.Is(true), Value: scheme.Is(false)}}
}

func offerChoice(o *offering, p *scheme.Property, v scheme.Value) {
	o.Kind = template.ChoiceEntry
	for _, w := range p.Words {
		id := scheme.IDOf(w)
		o.Options = append(o.Options, template.Option{ID: id, Label: capital(w)})
		o.Ties[0].Stops = append(o.Ties[0].Stops, template.Stop{At: scheme.Says(id), Value: scheme.Says(w)})
	}
	now := scheme.Says(scheme.IDOf(v.Text))
	o.Default = &now
	if !slices.ContainsFunc(o.Ties[0].Stops, func(s template.Stop) bool { return s.At.Text != s.Value.Text }) {
		o.Ties[0].Stops = nil // its options are the words themselves
	}
}

// offerGradient offers a choice between all gradients of the document.
func (b *bench) offerGradient(o *offering, v scheme.Value) error {
	switch {
	case v.Text == "":
		return fmt.Errorf("%s is none yet; give its stops a name, or choose a named one, first", o.Label)
	case len(b.doc.Gradients) < 2:
		return errors.New("an editor would have nothing to choose between; add a second named gradient first")
	}
	o.Kind, o.Label, o.alike = template.GradientEntry, strings.Replace(o.Label, scheme.GradientNamed.Label, "Gradient", 1), "Gradient"
	for _, g := range b.doc.Gradients {
		if len(o.Options) < template.MaxOptions-1 || g.ID == v.Text { // what it is now is among them
			o.Options = append(o.Options, template.Option{ID: g.ID, Label: g.Name})
		}
	}
	return nil
}

// offerFaces offers a choice between faces: what it is now, those that the template uses,
// then as many others as there is room for.
func (b *bench) offerFaces(o *offering, v scheme.Value) {
	o.Kind = template.TypefaceEntry
	names := map[string]string{}
	var ids []string
	add := func(id string) {
		if id != "" && !slices.Contains(ids, id) && len(ids) < template.MaxOptions {
			ids = append(ids, id)
		}
	}
	add(v.Text)
	b.doc.VisitAll(func(_ string, y *template.Layer) {
		if y.Can(scheme.Lettered) {
			add(y.Text(scheme.Wording.Face))
		}
	})
	for _, f := range b.lib.Named() {
		names[f.ID] = f.Name
		add(f.ID)
	}
	for _, id := range ids {
		name := names[id]
		if name == "" {
			name = b.nameOf(id)
		}
		o.Options = append(o.Options, template.Option{ID: id, Label: name})
	}
}

// offerNumber offers one number, in the numbers that people see.
func (b *bench) offerNumber(o *offering, p *scheme.Property, v scheme.Value) {
	shown := math.Round(v.Number()*p.Factor*1e6) / 1e6
	one := scheme.One(shown)
	lo, hi := b.suits(p, shown)
	if v.Shorter != 0 { // hundredths of the shorter side
		if lo, hi = 0, math.Max(100, round125(shown)); p.Lo < 0 {
			hi = math.Max(100, round125(math.Abs(shown)))
			lo = -hi
		}
		// In whole ones, so that people read them.
		least, most := p.ShareLimits()
		lo, hi = math.Max(lo, math.Min(shown, math.Ceil(least))), math.Min(hi, math.Max(shown, math.Floor(most)))
	}
	o.Kind, o.Default, o.Min, o.Max, o.Unit = template.AmountEntry, &one, &lo, &hi, p.Sign
	switch tie := &o.Ties[0]; {
	case v.Shorter != 0:
		at := func(n float64) template.Stop {
			return template.Stop{At: scheme.One(n), Value: scheme.Value{Numbers: []float64{n}, Single: true, Shorter: 1}}
		}
		tie.Stops, o.Unit = []template.Stop{at(lo), at(hi)}, "%"
	case p.Factor != 1:
		tie.From, tie.Into = &[2]float64{lo, hi}, &[2]float64{lo / p.Factor, hi / p.Factor}
	}
	if p.Unit == formula.Degrees {
		o.Kind, o.Unit = template.AngleEntry, ""
	}
	if p.Integer {
		o.Step = 1
	}
}

// suits are limits that an editor can work with: those of the property where they are near,
// else such as suit the value it has, in the numbers that people see.
func (b *bench) suits(p *scheme.Property, shown float64) (lo, hi float64) {
	least, most := p.Lo*p.Factor, p.Hi*p.Factor
	switch {
	case p.Unit == formula.Degrees:
		lo, hi = -180, 180
	case p.InShares() && p.Lo < 0: // it goes both ways
		side := 1000.0
		if b.format != nil {
			side = math.Max(b.format.Canvas().W, b.format.Canvas().H)
		}
		lo, hi = -side/2, side/2
	case most-least <= 400 && least <= shown && shown <= most:
		return least, most
	case least < 0 && shown < 0:
		lo, hi = -round125(2*-shown), 0
	default:
		lo, hi = math.Max(0, least), round125(math.Max(2*shown, 100*math.Min(1, most)))
	}
	return math.Max(least, math.Min(lo, shown)), math.Min(most, math.Max(hi, shown))
}

// round125 is the next number upwards of the row 1, 2, 5, 10, 20, 50 …
func round125(v float64) float64 {
	k := math.Pow(10, math.Floor(math.Log10(v)))
	for _, n := range []float64{1, 2, 5, 10} {
		if n*k >= v*(1-1e-9) {
			return n * k
		}
	}
	return v
}

// capital begins a text with a capital.
func capital(text string) string {
	r, n := utf8.DecodeRuneInString(text)
	return string(unicode.ToUpper(r)) + text[n:]
}

// freeLabel is a label that no other entry has.
func (b *bench) freeLabel(label string) string {
	taken := func(l string) bool {
		return b.named["sheet "+l] || slices.ContainsFunc(b.doc.Sheet.Entries(), func(e *template.Entry) bool { return e.Label == l })
	}
	free := label
	for n := 2; taken(free); n++ {
		free = fmt.Sprintf("%s %d", label, n)
	}
	b.named["sheet "+free] = true
	return free
}

// freeEntry is an id of an entry that is also free as a name for data.
func (b *bench) freeEntry(label string) string {
	base := scheme.IDOf(label)
	taken := func(id string) bool {
		return b.taken["sheet "+id] || slices.ContainsFunc(b.doc.Sheet.Entries(), func(e *template.Entry) bool { return e.ID == id || e.DataName() == id })
	}
	id := base
	for n := 2; taken(id); n++ {
		id = fmt.Sprintf("%s-%d", base, n)
	}
	b.taken["sheet "+id] = true
	return id
}

// headed is a group that a sheet has for entries about one sort of value.
type headed struct{ id, label, thread string }

// headings are those groups, what changes most first.
var headings = []headed{{"media", "Media", "media"}, {"words", "Words", "words"}, {"choices", "Choices", "choice"}, {"time", "Time", "duration"},
	{"amounts", "Amounts", "amount"}, {"colours", "Colours", "colour"}}

// heading is the place among headings of that under which an entry stands: those under one
// may come in any order.
func heading(e *template.Entry) int {
	if k := e.Of(); k != nil {
		return slices.IndexFunc(headings, func(h headed) bool { return h.thread == k.Thread })
	}
	return len(headings)
}

// putOnSheet adds an entry to a group: the one that is named, else the first with entries
// about the same sort of thing, else a new one where a sheet has it.
func (b *bench) putOnSheet(e template.Entry, group string) error {
	part, err := json.Marshal(e)
	if err != nil {
		return err
	}
	order := func(k *scheme.Kind) int { return slices.Index(scheme.Entries.Kinds, k) }
	h := heading(&e)
	groups := b.doc.Sheet.Groups
	if group == "" {
		at := slices.IndexFunc(groups, func(g template.Group) bool {
			return g.ID == headings[h].id || slices.ContainsFunc(g.Entries, func(x template.Entry) bool { return x.Of().Thread == e.Of().Thread })
		})
		if at >= 0 {
			group = groups[at].ID
		} else {
			group = headings[h].id
		}
	}
	made := "group " + group
	if !slices.ContainsFunc(groups, func(g template.Group) bool { return g.ID == group }) && !b.taken[made] {
		b.taken[made] = true
		at := slices.IndexFunc(groups, func(g template.Group) bool { return len(g.Entries) > 0 && order(g.Entries[0].Of()) > order(e.Of()) })
		if at < 0 {
			at = len(groups)
		}
		label := capital(group)
		if group == headings[h].id {
			label = headings[h].label
		}
		raw, err := json.Marshal(template.Group{ID: group, Label: label, Entries: []template.Entry{}})
		if err != nil {
			return err
		}
		before := 0 // groups that this act made
		for _, g := range b.groups {
			if g[0] < at || g[0] == at && g[1] < h {
				before++
			}
		}
		b.groups = append(b.groups, [2]int{at, h})
		b.add(edit.DraftOp{Kind: "add", Into: "groups", At: at + before, Part: raw})
	}
	b.add(edit.DraftOp{Kind: "add", Into: "groups/" + group + "/entries", At: -1, Part: part})
	return nil
}

// withdraw takes values off the sheet, and entries that drive nothing then. What they set
// stays as their defaults have it.
func withdraw(b *bench, a Act) error {
	entries := b.doc.Sheet.Entries()
	off := map[string][]int{} // ties that go, by entries
	whole := map[string]bool{}
	switch e := b.doc.Sheet.Entry(a.Entry); {
	case a.Entry != "" && e == nil:
		return fmt.Errorf("entry: the sheet has no entry named %q any more", a.Entry)
	case e != nil:
		whole[e.ID] = true
		for i := range e.Ties {
			off[e.ID] = append(off[e.ID], i)
		}
	case len(a.Paths) == 0:
		return errors.New("paths: name what is to be taken off the sheet")
	}
	for _, path := range a.Paths {
		found := false
		if id, ok := strings.CutPrefix(path, "pockets/"); ok && !strings.Contains(id, "/") {
			if e := b.doc.Sheet.Fills(id); e != nil {
				whole[e.ID], found = true, true
			}
		}
		if v, _, err := b.doc.Get(path); err == nil { // a named colour stands for itself
			if id, named := scheme.ColourID(v.Text); named {
				path = "colours/" + id
			}
		}
		for _, e := range entries {
			for i, t := range e.Ties {
				if b.doc.SamePath(t.To, path) && !slices.Contains(off[e.ID], i) {
					off[e.ID], found = append(off[e.ID], i), true
				}
			}
		}
		if !found {
			return fmt.Errorf("%s is not on the sheet", b.doc.Called(path))
		}
	}
	var names []string
	for _, e := range entries {
		if len(off[e.ID]) == 0 && !whole[e.ID] {
			continue
		}
		names = append(names, e.Label)
		if err := b.untie(e, off[e.ID], whole[e.ID]); err != nil {
			return err
		}
	}
	b.title = "Take " + strings.Join(names, ", ") + " off the sheet"
	if len(names) > 3 {
		b.title = fmt.Sprintf("Take %d values off the sheet", len(names))
	}
	return nil
}

// untie takes some of its ties from an entry, and the entry from the sheet when none is
// left or it goes whole.
func (b *bench) untie(e *template.Entry, off []int, whole bool) error {
	if len(off) < len(e.Ties) && !whole {
		var left []template.Tie
		for i, t := range e.Ties {
			if !slices.Contains(off, i) {
				left = append(left, t)
			}
		}
		b.ties[e.ID] = left
		b.add(edit.DraftOp{Kind: "tie", Entry: e.ID, Ties: left})
	} else if err := b.dropEntry(e); err != nil {
		return err
	}
	for _, i := range off {
		t := &e.Ties[i]
		v, drives := t.Value(e, *e.Default)
		if now, _, err := b.doc.Get(t.To); err == nil && drives && !comesTo(now, v) {
			b.add(edit.DraftOp{Kind: "set", Path: t.To, Value: &v})
		}
	}
	return nil
}

// dropEntry takes an entry off the sheet with what others say of it, and the group that it
// leaves empty. One that a formula reads stays.
func (b *bench) dropEntry(e *template.Entry) error {
	if by := b.doc.EntryReader(e.ID); by != "" {
		return fmt.Errorf("%s is read by the formula of %s; change that first", e.Label, by)
	}
	for _, o := range b.doc.Sheet.Entries() {
		if o.When != nil && o.When.Entry == e.ID {
			b.add(edit.DraftOp{Kind: "put", Path: "entries/" + o.ID + "/when"})
		}
	}
	b.add(edit.DraftOp{Kind: "remove", Path: "entries/" + e.ID})
	b.dropped[e.ID] = true
	for _, g := range b.doc.Sheet.Groups {
		in := slices.ContainsFunc(g.Entries, func(x template.Entry) bool { return x.ID == e.ID })
		if in && !slices.ContainsFunc(g.Entries, func(x template.Entry) bool { return !b.dropped[x.ID] }) {
			b.add(edit.DraftOp{Kind: "remove", Path: "groups/" + g.ID})
		}
	}
	return nil
}
