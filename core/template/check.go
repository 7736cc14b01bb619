package template

import (
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"unicode"

	"ivypocket/core/formula"
	"ivypocket/core/scheme"
)

// Checked is what is known of a formula before it is kept.
type Checked struct {
	// Needs is the unit, or the kind, of what it has to yield.
	Needs string
	// Fault says what is wrong with it, "" for nothing, and From and To where: characters, the
	// first that is not at fault last.
	Fault    string
	From, To int
	// Mend, if any, is what the text at fault should be.
	Mend *Mended
	// Ring are the values that read one another in a circle, by their paths.
	Ring []string
	// Names are what it reads, in the order of its text.
	Names []formula.Named
	// Examples are formulas that would do here.
	Examples []formula.Example
}

// Mended is what should stand at a place in a formula.
type Mended struct {
	From, To int
	With     string
}

// wanted is what a formula for a property has to yield, and the names that it may use.
func (d *Document) wanted(path string) (formula.Want, *scope, error) {
	t, err := d.Find(path)
	if err != nil {
		return formula.Want{}, nil, err
	}
	p := t.Property
	k, ok := p.Formula()
	if p.Type == scheme.List && t.Part >= 0 {
		k, ok = formula.NumberKind, true
	}
	if !ok || p.Plain {
		return formula.Want{}, nil, fmt.Errorf("%s can't have a formula", d.Called(path))
	}
	if err := readable(p, t.Part); err != nil {
		return formula.Want{}, nil, err
	}
	slots := 0
	s := &scope{d: d, self: path[:strings.LastIndexByte(path, '/')], node: t.Node, settled: p.Join == scheme.Fixed, slot: func(Name) int { slots += 4; return slots - 4 }}
	return formula.Want{Kind: k, Unit: p.Unit, Words: p.Words}, s, nil
}

// CheckFormula says what is wrong with a formula for a property, or one of its numbers, and how
// to mend it. The error is of a property that can have none.
func (d *Document) CheckFormula(path, text string) (Checked, error) {
	want, s, err := d.wanted(path)
	if err != nil {
		return Checked{}, err
	}
	c := Checked{Needs: want.Unit.String()}
	if want.Kind != formula.NumberKind {
		c.Needs = want.Kind.String()
	}
	if want.Words != nil {
		c.Needs = "'" + strings.Join(want.Words, "', '") + "'"
	}
	for _, x := range formula.Examples {
		if _, err := formula.Compile(x.Text, want, s); err == nil && (want.Kind != formula.NumberKind || x.Of == want.Unit) {
			c.Examples = append(c.Examples, x)
		}
	}
	if strings.TrimSpace(text) == "" {
		return c, nil
	}
	whole := len([]rune(text))
	prog, err := formula.Compile(text, want, s)
	if err != nil {
		c.Fault, c.To = err.Error(), whole
		var at *formula.Error
		if errors.As(err, &at) {
			c.Fault, c.From, c.To = at.What, min(at.From, whole), min(max(at.To, at.From+1), whole)
			c.Mend = d.mend(text, want, s, at)
		} else if free, e := formula.Compile("("+text+") * 1", want, s); e == nil && free != nil {
			// A unit that does not fit: so much of what is needed for 1 of it.
			c.Mend = &Mended{0, whole, "(" + text + ") * 1"}
		}
		return c, nil
	}
	c.Names = prog.Names
	with := d.Clone()
	if err := with.setFormula(path, text); err != nil {
		return c, err
	}
	if expanded, e := with.Expanded(); e == nil {
		with = expanded
	}
	slots := map[Name]int{}
	_, _, err = with.Formulas(func(n Name) int {
		if _, ok := slots[n]; !ok {
			slots[n] = len(slots) * 4
		}
		return slots[n]
	})
	var faults Faults
	if errors.As(err, &faults) {
		for _, f := range faults {
			c.Fault, c.To = f.What, whole
			if c.Ring = ring(with, f.What); c.Ring != nil {
				break
			}
		}
	}
	return c, nil
}

// setFormula gives a property of a clone a formula.
func (d *Document) setFormula(path, text string) error {
	at := strings.LastIndexByte(path, '/')
	t, err := d.Find(path)
	if err != nil {
		return err
	}
	name := path[at+1:]
	put := func(m map[string]string) map[string]string {
		next := map[string]string{}
		for k, v := range m {
			// One for the whole takes the place of those for its numbers, and one for a number that
			// of the whole.
			if !strings.HasPrefix(k, t.Property.Name+".") && k != t.Property.Name || t.Part >= 0 && strings.Contains(k, ".") {
				next[k] = v
			}
		}
		next[name] = text
		return next
	}
	if t.Node != nil {
		n := d.writable(t)
		n.Formulas = put(n.Formulas)
		return nil
	}
	switch x := t.thing.(type) {
	case *Colour:
		x.Formulas = put(x.Formulas)
	case *Pocket:
		x.Formulas = put(x.Formulas)
	case *Cue:
		x.Formulas = put(x.Formulas)
	default:
		return fmt.Errorf("%s can't have a formula", path)
	}
	return nil
}

// ring are the paths of the values that a fault says go in a circle.
func ring(d *Document, what string) []string {
	text, ok := strings.CutPrefix(what, "goes in a circle: ")
	if !ok {
		return nil
	}
	var out []string
	for _, name := range strings.Split(text, " reads ") {
		if m := ofLayer.FindStringSubmatch(name); m != nil && m[1] == "box" {
			name = "layers/" + m[2] + "/size.1"
		}
		// Numbers of a value are counted there, and named in paths.
		if m := ofNumber.FindStringSubmatch(name); m != nil {
			name = m[1]
			if t, err := d.Find(name); err == nil && t.Property.Parted() && !t.Property.Alike {
				part, _ := strconv.Atoi(m[2])
				name += "." + t.Property.PartName(part-1)
			}
		}
		if _, err := d.Find(name); err == nil {
			out = append(out, name)
		}
	}
	return out
}

// Completion is a name that may stand in a formula in place of what is being typed.
type Completion struct {
	From, To int
	Text     string
	// Label is what people call it, About more of it.
	Label, About string
}

// maxCompletions is how many are told at one time.
const maxCompletions = 40

// Complete lists what may stand at the caret of a formula for a property: characters from its
// beginning.
func (d *Document) Complete(path, text string, caret int) []Completion {
	want, s, err := d.wanted(path)
	if err != nil {
		return nil
	}
	r := []rune(text)
	caret = min(max(caret, 0), len(r))
	from := begins(r, caret)
	token := string(r[from:caret])
	if token == "" && caret > 0 && !strings.ContainsRune("(+-*/%?:,<>=&| ", r[caret-1]) {
		return nil
	}
	type found struct {
		Completion
		rank int
	}
	var out []found
	for _, n := range d.names(s, want, token) {
		rank := fits(n, token)
		if rank < 0 || n.Text == token {
			continue
		}
		n.From, n.To = from, caret
		out = append(out, found{n, rank})
	}
	slices.SortStableFunc(out, func(a, b found) int { return a.rank - b.rank })
	list := make([]Completion, 0, maxCompletions)
	for _, f := range out[:min(len(out), maxCompletions)] {
		list = append(list, f.Completion)
	}
	return list
}

// begins is where the name begins that ends at a caret.
func begins(r []rune, caret int) int {
	i := caret
	for i > 0 {
		c := r[i-1]
		open := strings.Count(string(r[:i-1]), "'")%2 == 1 // in quotes
		switch {
		case unicode.IsLetter(c) || unicode.IsDigit(c) || c == '_' || c == '.' || c == '\'':
		case open && c == '-':
		case c == '(' && i < len(r) && i < caret && r[i] == '\'':
		case c == ')' && i > 1 && r[i-2] == '\'':
		default:
			return i
		}
		i--
	}
	return i
}

// fits ranks a name by what was typed: 0 begins with it, more is less near, -1 is not it.
func fits(n Completion, token string) int {
	t, text, label := strings.ToLower(token), strings.ToLower(n.Text), strings.ToLower(n.Label)
	bare := strings.Trim(t, "'()")
	switch {
	case strings.HasPrefix(text, t):
		return 0
	case strings.HasPrefix(label, t), strings.Contains(text, "('"+bare) && !strings.Contains(t, "("):
		return 1
	case strings.Contains(label, bare) && bare != "" && !strings.Contains(t, "("):
		return 2
	case bare != "" && strings.Contains(text, bare) && !strings.Contains(t, "("):
		return 3
	}
	return -1
}

// names lists what a formula may speak of; the members of a thing once it is named.
func (d *Document) names(s *scope, want formula.Want, token string) []Completion {
	var out []Completion
	add := func(text, label, about string) {
		out = append(out, Completion{Text: text, Label: label, About: about})
	}
	members := func(prefix string, n *Node) {
		if n == nil {
			return
		}
		for _, p := range n.Properties() {
			if p.Plain && p.Type != scheme.Choice {
				continue
			}
			k, ok := p.Formula()
			switch {
			case p.Parted() && p.Type == scheme.Numbers && !p.Alike:
				for i := range p.Parts {
					if !s.settled || s.ok(prefix+p.Of(i)) {
						add(prefix+p.Of(i), p.Label+" "+shownPart(p, i), p.Unit.String())
					}
				}
			case ok && (!s.settled || s.ok(prefix+p.Name)):
				about := p.Unit.String()
				if k != formula.NumberKind {
					about = k.String()
				}
				add(prefix+p.Name, p.Label, about)
			}
		}
		if n.sort == scheme.Layers && n.Can(scheme.Box) && !s.settled {
			for _, b := range boxNames {
				add(prefix+"box."+b, "Box: "+b, "px, as it is seen scaled")
			}
		}
		for i, part := range n.sort.Parts {
			for _, in := range n.Part(i) {
				if part.Of != scheme.Layers && plainID.MatchString(in.ID) && strings.HasPrefix(token, prefix+part.Name+"."+in.ID+".") {
					for _, p := range in.Properties() {
						if _, ok := p.Formula(); ok && !p.Plain {
							add(prefix+part.Name+"."+in.ID+"."+p.Name, p.Label, p.Unit.String())
						}
					}
				} else if part.Of != scheme.Layers && plainID.MatchString(in.ID) {
					add(prefix+part.Name+"."+in.ID+".", in.said(), "of it")
				}
			}
		}
	}
	if head, _, ok := strings.Cut(token, "."); ok {
		switch m := named.FindStringSubmatch(head); {
		case head == "self":
			members("self.", s.node)
			return out
		case m != nil && m[1] == "layer":
			members(head+".", d.Layer(s.near(m[2])))
			return out
		case m != nil && m[1] == "layout":
			if l := d.Layout(m[2]); l != nil {
				members(head+".", l)
			}
			return out
		}
	}
	d.Visit(func(_ string, y *Layer) {
		if y.Kind == scheme.Track {
			add("progress('"+y.ID+"')", y.Name, "progress track")
		} else {
			add("layer('"+y.ID+"').", y.Name, strings.ToLower(y.Kind.Label))
		}
	})
	for _, e := range d.Sheet.Entries() {
		if asks[e.Kind].formula != nil {
			add("entry('"+e.ID+"')", e.Label, "entry of the sheet")
		}
	}
	if want.Kind == formula.ColourKind {
		for _, c := range d.Colours {
			add("colour('"+c.ID+"')", c.Name, "named colour")
		}
	}
	for _, w := range want.Words {
		add("'"+w+"'", w, "a word that it may be")
	}
	add("self.", "This itself", "its own properties")
	for _, n := range sizeNames {
		add("canvas."+n, "Canvas "+n, "px")
	}
	if !s.settled {
		for _, n := range timeNames {
			add("time."+n, "Time "+n, memberUnits["time."+n].String())
		}
		if s.node != nil && inCell(s.node) {
			for _, n := range sizeNames {
				add("cell."+n, "Cell "+n, "px")
			}
		}
	}
	for _, p := range d.Pockets {
		for _, n := range mediaNames {
			add("media('"+p.ID+"')."+n, "Media of "+p.Name+": "+n, "")
		}
	}
	for _, l := range d.Layouts {
		add("layout('"+l.ID+"').", "Layout "+l.ID, "its properties")
	}
	for _, f := range formula.Functions() {
		add(f.Name+"(", f.Says, f.Doc)
	}
	return out
}

var (
	plainID = regexp.MustCompile(`^[a-z][a-z0-9]*$`)
	named   = regexp.MustCompile(`^(\w+)\('([^']*)'\)$`)
)

// ok reports whether a name can be read here.
func (s *scope) ok(name string) bool {
	_, err := formula.Compile(name, formula.Want{Kind: formula.NumberKind, Unit: formula.Free}, s)
	return err == nil
}

func shownPart(p *scheme.Property, i int) string {
	if i < len(p.Shown) && p.Shown[i] != "" {
		return strings.ToLower(p.Shown[i])
	}
	return p.PartName(i)
}

// mend finds what was meant by a name that there is not.
func (d *Document) mend(text string, want formula.Want, s *scope, at *formula.Error) *Mended {
	r := []rune(text)
	if at.From >= len(r) || strings.HasSuffix(at.What, "EOF") {
		// Most often a bracket is left open.
		if n := strings.Count(text, "(") - strings.Count(text, ")"); n > 0 {
			return helps(text, want, s, Mended{len(r), len(r), strings.Repeat(")", n)})
		}
		return nil
	}
	to := formula.NameEnd(r, at.From)
	token := string(r[at.From:to])
	best, far := "", 1<<30
	for _, n := range append(d.names(s, want, ""), d.names(s, want, token)...) {
		name := strings.TrimRight(n.Text, ".(")
		if head, tail, ok := strings.Cut(token, "."); ok && strings.HasSuffix(n.Text, ".") && strings.Contains(head, "(") {
			name += "." + tail // a layer with the member that was asked of it
		}
		if by := misspelt(token, name); by > 0 && by < far {
			best, far = name, by
		}
	}
	if best == "" {
		return nil
	}
	return helps(text, want, s, Mended{at.From, to, best})
}

// helps is a mend that takes the fault away, or at least moves it on.
func helps(text string, want formula.Want, s *scope, m Mended) *Mended {
	r := []rune(text)
	next := string(r[:m.From]) + m.With + string(r[m.To:])
	_, err := formula.Compile(next, want, s)
	var at *formula.Error
	if err != nil && errors.As(err, &at) && at.From <= m.From {
		return nil // it is wrong still
	}
	return &m
}

// misspelt is by how many letters a name differs from another one, where that is a slip in one of
// its words; 0 is none.
func misspelt(typed, name string) int {
	split := func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) }
	a, b := strings.FieldsFunc(typed, split), strings.FieldsFunc(name, split)
	if len(a) != len(b) {
		return 0
	}
	by := 0
	for i := range a {
		switch d := distance(a[i], b[i]); {
		case d == 0:
		case by > 0 || d*2 > len(a[i]):
			return 0
		default:
			by = d
		}
	}
	return by
}

// distance is how many letters have to be put in, left out or changed (Levenshtein 1966).
func distance(a, b string) int {
	x, y := []rune(a), []rune(b)
	row := make([]int, len(y)+1)
	for j := range row {
		row[j] = j
	}
	for i := range x {
		last := row[0]
		row[0] = i + 1
		for j := range y {
			here := row[j+1]
			cost := 1
			if x[i] == y[j] {
				cost = 0
			}
			row[j+1] = min(here+1, row[j]+1, last+cost)
			last = here
		}
	}
	return row[len(y)]
}

var (
	ofLayer  = regexp.MustCompile(`^(flow|box|fills|cells)\('([^']+)'\)`)
	ofNumber = regexp.MustCompile(`^(.+)\.(\d+)$`)
)

// Circled tells a fault about values that read one another in a circle in words; other faults as
// they are.
func (d *Document) Circled(what string) string {
	_, text, ok := strings.Cut(what, "goes in a circle: ")
	if !ok {
		return what
	}
	var out []string
	for _, name := range strings.Split(text, " reads ") {
		if m := ofLayer.FindStringSubmatch(name); m != nil {
			if y := d.Layer(m[2]); y != nil {
				out = append(out, map[string]string{"flow": "the flow of ", "box": "the box of ", "fills": "the size of ", "cells": "the cells of "}[m[1]]+y.Name)
				continue
			}
		}
		if m := ofNumber.FindStringSubmatch(name); m != nil {
			name = m[1]
		}
		if called := d.Called(name); called != "" {
			name = called
		}
		out = append(out, name)
	}
	return "That would go in a circle: " + strings.Join(out, " depends on ")
}
