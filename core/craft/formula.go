package craft

import (
	"cmp"
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"ivypocket/core/edit"
	"ivypocket/core/formula"
	"ivypocket/core/scene"
	"ivypocket/core/scheme"
	"ivypocket/core/template"
	"ivypocket/core/timing"
)

// Formulas: written, or made by pointing at what they read.
func init() {
	register(
		row{"formula", "`path` of a property or one of its numbers; `name`: the formula, none takes it away", "lets a formula set what is seen of a property", writeFormula},
		row{"take", "`path` of a property or one of its numbers; `id`: the path of what it takes; `way`: " + strings.Join(Takes(), ", "),
			"writes the formula that takes a value from another one", take},
	)
}

// A taking is one way in which a value follows another; source is what is read, now what the two
// are at the instant that is looked at, from and to the ends of the other.
type taking struct {
	name, doc string
	writes    func(source string, now, other float64, from, to float64) string
}

var takings = []taking{
	{"same", "the same value", func(s string, _, _, _, _ float64) string { return s }},
	{"share", "the share of it that it is now", func(s string, now, other, _, _ float64) string {
		if other == 0 {
			return s + " * 1"
		}
		return s + " * " + figure(now/other)
	}},
	{"opposite", "as far the other way, from where they are now", func(s string, now, other, _, _ float64) string {
		if sum := now + other; math.Abs(sum) > 1e-6 {
			return figure(sum) + " - " + s
		}
		return "-" + s
	}},
	{"along", "as far as it goes, from where they are now", func(s string, now, other, _, _ float64) string {
		switch by := now - other; {
		case math.Abs(by) < 1e-6:
			return s
		case by < 0:
			return s + " - " + figure(-by)
		default:
			return s + " + " + figure(by)
		}
	}},
	{"remapped", "its range mapped onto another", func(s string, now, _, from, to float64) string {
		lo, hi := 0.0, now
		if now == 0 {
			hi = 1
		}
		return fmt.Sprintf("remap(%s, %s, %s, %s, %s)", s, figure(from), figure(to), figure(lo), figure(hi))
	}},
}

// Takes lists the ways in which a value may be taken.
func Takes() []string {
	out := make([]string, len(takings))
	for i, t := range takings {
		out[i] = t.name
	}
	return out
}

// figure writes a number as people would.
func figure(v float64) string {
	return strconv.FormatFloat(math.Round(v*1e4)/1e4, 'f', -1, 64)
}

// formulaPath is where the document keeps the formula of a property.
func formulaPath(path string) string {
	at := strings.LastIndexByte(path, '/')
	return path[:at] + "/formulas" + path[at:]
}

// mayFormula readies a property for a formula: what else sets it has to go first.
func (b *bench) mayFormula(path string) (template.Target, error) {
	t, err := b.doc.Find(path)
	if err != nil {
		return t, err
	}
	if id, ok := strings.CutPrefix(path, "layers/"); ok {
		id, _, _ = strings.Cut(id, "/")
		if g := b.lockedBy(id); g != "" {
			return t, fmt.Errorf("%s is locked", g)
		}
	}
	if e := b.doc.EntryOf(path); e != nil {
		return t, fmt.Errorf("%s is driven by the entry %s: let the formula read entry('%s'), and take the property off the sheet first", b.doc.Called(path), e.Label, e.ID)
	}
	return t, nil
}

func writeFormula(b *bench, a Act) error {
	t, err := b.mayFormula(a.Path)
	if err != nil {
		return err
	}
	called := b.doc.Called(a.Path)
	text := strings.TrimSpace(a.Name)
	if text == "" {
		b.title = "Take the formula off " + called
		b.dropFormulas(a.Path, t)
		return nil
	}
	c, err := b.doc.CheckFormula(a.Path, text)
	if err != nil {
		return err
	}
	if c.Fault != "" {
		return fmt.Errorf("%s: character %d: %s", called, c.From+1, c.Fault)
	}
	b.title = "Formula of " + called
	b.unmove(a.Path, t)
	b.dropFormulas(a.Path, t)
	part, err := json.Marshal(text)
	b.add(edit.DraftOp{Kind: "put", Path: formulaPath(a.Path), Part: part})
	return err
}

// dropFormulas takes the formulas off a property that stand in the way of one for a path: all of
// them where that is of the whole, the whole's where it is of a number.
func (b *bench) dropFormulas(path string, t template.Target) {
	if t.Node == nil {
		if t.Formula() != "" {
			b.add(edit.DraftOp{Kind: "put", Path: formulaPath(path)})
		}
		return
	}
	at := path[:strings.LastIndexByte(path, '/')+1]
	list := []string{t.Property.Name}
	if t.Part >= 0 {
		list = append(list, t.Property.Of(t.Part))
	} else {
		list = append(list, names(t.Property)...)
	}
	for _, name := range list {
		if t.Node.Formulas[name] != "" {
			b.add(edit.DraftOp{Kind: "put", Path: formulaPath(at + name)})
		}
	}
}

// unmove takes the keys away that nobody would see behind a formula.
func (b *bench) unmove(path string, t template.Target) {
	if t.Node == nil {
		return
	}
	at := path[:strings.LastIndexByte(path, '/')+1]
	list := []string{t.Property.Name}
	if t.Part >= 0 {
		if t.Property.Parted() && t.Node.Motion[t.Property.Name] != nil {
			return // the other numbers go on by them
		}
		list = []string{t.Property.Of(t.Part)}
	} else {
		list = append(list, names(t.Property)...)
	}
	for _, name := range list {
		if t.Node.Motion[name] != nil {
			b.add(edit.DraftOp{Kind: "keys", Path: at + name})
		}
	}
}

// plainName is an id that can stand in a formula without quotes.
var plainName = regexp.MustCompile(`^[a-z][a-z0-9]*$`)

// spoken is how formulas name what a path names; part is the number of it that is wanted where
// the path leaves that open.
func spoken(d *template.Document, path string, part int) (string, error) {
	seg := strings.Split(path, "/")
	quote := func(head, id, rest string) string {
		if rest != "" {
			rest = "." + rest
		}
		return head + "('" + id + "')" + rest
	}
	switch {
	case len(seg) == 1: // canvas.w, time.share
		return path, nil
	case seg[0] == "entries":
		return quote("entry", seg[1], ""), nil
	case seg[0] == "colours":
		return quote("colour", seg[1], ""), nil
	case seg[0] == "media":
		return quote("media", seg[1], seg[2]), nil
	case seg[0] == "layers" && len(seg) == 3 && strings.HasPrefix(seg[2], "box."):
		return quote("layer", seg[1], seg[2]), nil
	}
	t, err := d.Find(path)
	if err != nil {
		return "", err
	}
	if t.Part < 0 && t.Property.Parted() && !t.Property.Alike && t.Property.Type == scheme.Numbers {
		path += "." + t.Property.PartName(min(max(part, 0), len(t.Property.Parts)-1))
		seg = strings.Split(path, "/")
	}
	rest := seg[2:]
	switch {
	case seg[0] == "layers" && t.Node != nil && t.Node.Kind == scheme.Track && len(rest) == 1:
		return quote("progress", seg[1], ""), nil
	case seg[0] == "layers" && len(rest) == 1:
		return quote("layer", seg[1], rest[0]), nil
	case seg[0] == "layouts" && len(rest) == 1:
		return quote("layout", seg[1], rest[0]), nil
	case seg[0] == "layers" && len(rest) == 3 && plainName.MatchString(rest[1]):
		return quote("layer", seg[1], strings.Join(rest, ".")), nil
	}
	return "value('" + path + "')", nil
}

// CanTake says why a value can't be taken from another one, which both are named by their paths.
func CanTake(d *template.Document, path, from string) error {
	t, err := d.Find(path)
	if err != nil {
		return err
	}
	source, err := spoken(d, from, t.Part)
	if err != nil {
		return err
	}
	if own, err := spoken(d, path, t.Part); err == nil && own == source {
		return errors.New("a value can't be taken from itself")
	}
	c, err := d.CheckFormula(path, source)
	if err == nil && c.Mend != nil && c.Mend.From == 0 {
		c, err = d.CheckFormula(path, c.Mend.With)
	}
	switch {
	case err != nil:
		return err
	case len(c.Ring) > 0:
		return fmt.Errorf("%s and %s would read each other in a circle", d.Called(path), cmp.Or(d.Called(from), source))
	case c.Fault != "":
		return errors.New(c.Fault)
	}
	return nil
}

// take writes the formula by which a value follows another one.
func take(b *bench, a Act) error {
	i := slices.IndexFunc(takings, func(t taking) bool { return t.name == a.Way })
	if a.Way == "" {
		i = 0
	}
	if i < 0 {
		return fmt.Errorf("way: %q is not one of %s", a.Way, strings.Join(Takes(), ", "))
	}
	t, err := b.mayFormula(a.Path)
	if err != nil {
		return err
	}
	from := a.Id
	if b.use != "" { // in the same use of a motif things go by the motif's own names
		if inner, ok := strings.CutPrefix(from, "layers/"+b.use+inUse); ok {
			from = "layers/" + inner
		}
	}
	source, err := spoken(b.doc, from, t.Part)
	if err != nil {
		return err
	}
	if err := CanTake(b.doc, a.Path, from); err != nil {
		return err
	}
	if k, _ := t.Property.Formula(); k != formula.NumberKind {
		i = 0 // what is no number is taken as it is
	}
	// What the two are now is read by means of the plainest formula.
	now, other, lo, hi, err := b.both(a.Path, from, source)
	if err != nil {
		return err
	}
	text := takings[i].writes(source, now, other, lo, hi)
	c, err := b.doc.CheckFormula(a.Path, text)
	if err == nil && c.Fault != "" && c.Mend != nil && c.Mend.From == 0 {
		text = c.Mend.With // another unit
	}
	if err != nil {
		return err
	}
	a.Name = text
	if err := writeFormula(b, a); err != nil {
		return err
	}
	b.title = b.doc.Called(a.Path) + " takes from " + cmp.Or(b.doc.Called(from), source)
	return nil
}

// both reads a value and another at the frame that is looked at, and how far the other goes: an
// entry's limits, a track's ends, or what it is seen to be over the time.
func (b *bench) both(path, from, source string) (now, other, lo, hi float64, err error) {
	for _, text := range []string{source, "(" + source + ") * 1"} {
		c, e := b.doc.CheckFormula(path, text)
		if e != nil {
			return 0, 0, 0, 0, e
		}
		if c.Fault != "" {
			err = errors.New(c.Fault)
			continue
		}
		part, e := json.Marshal(text)
		if e != nil {
			return 0, 0, 0, 0, e
		}
		draft, _, e := edit.DraftFrom(b.doc).Do(edit.DraftOp{Kind: "put", Path: formulaPath(path), Part: part})
		if e != nil {
			return 0, 0, 0, 0, e
		}
		w := newBench(draft.Doc, b.lib, b.act)
		if w.format = draft.Doc.Format(b.act.Format); w.format == nil {
			return 0, 0, 0, 0, errors.New("format: say which format is looked at")
		}
		sc, e := w.scene()
		if e != nil {
			return 0, 0, 0, 0, e
		}
		// What it is by itself: taken once more in another way it is reckoned from where it stood.
		bare, _, e := edit.DraftFrom(b.doc).Do(edit.DraftOp{Kind: "put", Path: formulaPath(path)})
		if e != nil {
			return 0, 0, 0, 0, e
		}
		w.doc, w.sc = bare.Doc, nil
		plain, e := w.scene()
		if e != nil {
			return 0, 0, 0, 0, e
		}
		at := func(f int64) timing.Instant { return sc.Time().At(timing.OutputFrame(min(max(f, 0), sc.Frames()-1))) }
		seen := func(f int64) float64 {
			if r, ok := sc.Reading(path, at(f)); ok && len(r.Names) > 0 {
				return r.Names[0].Value[0]
			}
			return 0
		}
		now, other = numberOf(plain, path, at(b.act.Frame)), seen(b.act.Frame)
		lo, hi = other, other
		if e := b.doc.Sheet.Entry(strings.TrimPrefix(from, "entries/")); e != nil && strings.HasPrefix(from, "entries/") && e.Min != nil && e.Max != nil {
			lo, hi = *e.Min, *e.Max
		} else {
			for k := range int64(33) {
				v := seen(k * (sc.Frames() - 1) / 32)
				lo, hi = min(lo, v), max(hi, v)
			}
		}
		if lo == hi {
			lo, hi = min(0, hi), max(1, hi)
		}
		return now, other, lo, hi, nil
	}
	return 0, 0, 0, 0, err
}

// numberOf is what a property, or one of its numbers, is at an instant.
func numberOf(sc *scene.Scene, path string, now timing.Instant) float64 {
	seg := strings.Split(path, "/")
	if seg[0] != "layers" {
		return 0
	}
	for _, p := range sc.Look(seg[1], now).Properties {
		if p.Path == path && len(p.Now) > 0 {
			return p.Now[0]
		}
		for i := range p.Parts {
			if p.Path[:strings.LastIndexByte(p.Path, '/')+1]+p.Property.Of(i) == path && i < len(p.Now) {
				return p.Now[i]
			}
		}
	}
	return 0
}
