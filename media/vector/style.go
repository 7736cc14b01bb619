package vector

import (
	"cmp"
	"slices"
	"strings"

	"github.com/andybalholm/cascadia"
	"github.com/tdewolff/parse/v2"
	"github.com/tdewolff/parse/v2/css"
	"golang.org/x/net/html"
)

// A drawing program knows style sheets, but no custom properties ("variables"),
// and no colours that are newer than it: those are resolved.

// presentation lists the attributes that are CSS.
var presentation = []string{"fill", "stroke", "stop-color", "flood-color", "lighting-color", "color", "style"}

func resolveStyles(root *node, c *cleaner) error {
	custom := false
	root.walk(func(n *node) {
		custom = custom || n.name == "style" && strings.Contains(n.content(), "var(")
		for _, a := range n.attrs {
			custom = custom || strings.Contains(a.value, "var(")
		}
	})
	if custom {
		if err := resolveVariables(root); err != nil {
			return err
		}
	}
	root.walk(func(n *node) {
		if n.name == "style" {
			n.kids = []*node{{text: olderColours(n.content(), c)}}
		}
		for i, a := range n.attrs {
			if a.space == "" && slices.Contains(presentation, a.name) {
				n.attrs[i].value = olderColours(a.value, c)
			}
		}
	})
	return nil
}

// declaration is one property of a rule or of a style attribute.
type declaration struct {
	name, value string
	important   bool
}

type rule struct {
	sel  cascadia.Sel
	decl []declaration
}

// declarations reads a style attribute, or with rules a style sheet: its rules in
// order, those in at-rules left out.
func declarations(text string, attribute bool) (own []declaration, rules []rule) {
	p := css.NewParser(parse.NewInputString(text), attribute)
	var sels []cascadia.Sel
	var prelude strings.Builder
	deep := 0
	for {
		kind, _, data := p.Next()
		switch kind {
		case css.ErrorGrammar:
			if p.HasParseError() {
				continue
			}
			return own, rules
		case css.BeginAtRuleGrammar:
			deep++
		case css.EndAtRuleGrammar:
			deep--
		case css.QualifiedRuleGrammar, css.BeginRulesetGrammar:
			for _, t := range p.Values() {
				prelude.Write(t.Data)
			}
			if kind == css.QualifiedRuleGrammar {
				prelude.WriteString(",")
				continue
			}
			sels = nil
			if group, err := cascadia.ParseGroup(prelude.String()); err == nil {
				sels = group
			}
			prelude.Reset()
			own = nil
		case css.DeclarationGrammar, css.CustomPropertyGrammar:
			d := declaration{name: string(data)}
			if kind == css.DeclarationGrammar {
				d.name = strings.ToLower(d.name)
			}
			var v strings.Builder
			for _, t := range p.Values() {
				v.Write(t.Data)
			}
			d.value = strings.TrimSpace(v.String())
			if before, ok := strings.CutSuffix(strings.ToLower(d.value), "important"); ok {
				if before = strings.TrimRight(before, " "); strings.HasSuffix(before, "!") {
					d.important, d.value = true, strings.TrimSpace(d.value[:len(before)-1])
				}
			}
			own = append(own, d)
		case css.EndRulesetGrammar:
			if deep == 0 {
				for _, s := range sels {
					rules = append(rules, rule{s, own})
				}
			}
			own = nil
		}
	}
}

// maxMatches bounds how often a selector is held against an element.
const maxMatches = 5_000_000

// resolveVariables puts the values of custom properties in the place of their names,
// by the cascade: CSS Custom Properties for Cascading Variables Level 1.
func resolveVariables(root *node) error {
	var rules []rule
	count := 0
	root.walk(func(n *node) {
		count++
		if n.name == "style" {
			_, more := declarations(n.content(), false)
			rules = append(rules, more...)
		}
	})
	if count*len(rules) > maxMatches {
		return refuse("The SVG has too many parts for its %d styles with variables. Save it with the styles in the parts.", len(rules))
	}
	doc := &html.Node{Type: html.DocumentNode}
	// Selectors look at the elements after one, too: the tree stands before it is read.
	stands := map[*node]*html.Node{}
	pair(root, doc, stands)
	var visit func(n *node, inherited map[string]string)
	visit = func(n *node, inherited map[string]string) {
		vars := n.resolve(stands[n], rules, inherited)
		for _, k := range n.kids {
			if k.name != "" {
				visit(k, vars)
			}
		}
	}
	visit(root, map[string]string{})
	return nil
}

// winning is a declaration with what decides over it.
type winning struct {
	declaration
	inline bool
	weight cascadia.Specificity
	order  int
}

// resolve finds the custom properties of an element and writes what mentions them
// without them.
func (n *node) resolve(h *html.Node, rules []rule, inherited map[string]string) map[string]string {
	var all []winning
	for i, r := range rules {
		if r.sel.PseudoElement() == "" && r.sel.Match(h) {
			for _, d := range r.decl {
				all = append(all, winning{d, false, r.sel.Specificity(), i})
			}
		}
	}
	own, _ := declarations(n.get("style"), true)
	for _, d := range own {
		all = append(all, winning{d, true, cascadia.Specificity{}, len(rules)})
	}
	slices.SortStableFunc(all, func(a, b winning) int {
		is := func(on bool) int {
			if on {
				return 1
			}
			return 0
		}
		return cmp.Or(is(a.important)-is(b.important), is(a.inline)-is(b.inline), cmp.Compare(a.weight[0], b.weight[0]), cmp.Compare(a.weight[1], b.weight[1]),
			cmp.Compare(a.weight[2], b.weight[2]), a.order-b.order)
	})
	won := map[string]winning{}
	for _, w := range all {
		won[w.name] = w
	}
	given := map[string]string{}
	for name, w := range won {
		if strings.HasPrefix(name, "--") {
			given[name] = w.value
		}
	}
	vars := inherited
	if len(given) > 0 {
		of := variables{own: given, inherited: inherited, known: map[string]string{}, underWay: map[string]bool{}}
		vars = make(map[string]string, len(inherited)+len(given))
		for k, v := range inherited {
			vars[k] = v
		}
		for name := range given {
			if v, ok := of.value(name); ok {
				vars[name] = v
			} else {
				delete(vars, name)
			}
		}
	}
	var style []string
	for _, d := range own {
		if !strings.Contains(d.value, "var(") && !strings.HasPrefix(d.name, "--") {
			style = append(style, d.text())
		}
	}
	var names []string
	for name, w := range won {
		if !strings.HasPrefix(name, "--") && strings.Contains(w.value, "var(") {
			names = append(names, name)
		}
	}
	slices.Sort(names)
	for _, name := range names {
		w := won[name]
		if v, ok := (&variables{inherited: vars}).unfold(w.value); ok {
			w.value = v
			style = append(style, w.text())
		}
	}
	if len(own) > 0 || len(names) > 0 {
		n.drop("style")
		if len(style) > 0 {
			n.set("style", strings.Join(style, "; "))
		}
	}
	kept := n.attrs[:0]
	for _, a := range n.attrs {
		if a.space == "" && a.name != "style" && strings.Contains(a.value, "var(") {
			v, ok := (&variables{inherited: vars}).unfold(a.value)
			if !ok {
				continue // as if it were not there: CSS calls it invalid when it is computed
			}
			a.value = v
		}
		kept = append(kept, a)
	}
	n.attrs = kept
	return vars
}

func (d declaration) text() string {
	if d.important {
		return d.name + ": " + d.value + " !important"
	}
	return d.name + ": " + d.value
}

// variables are the custom properties of an element: its own, which may mention one
// another, and those it inherits.
type variables struct {
	own, inherited map[string]string
	// known are own ones that were worked out; one that is being worked out is under
	// way, and stands for nothing if it is come upon again.
	known    map[string]string
	underWay map[string]bool
	steps    int
}

// Bounds of what var() may unfold to, in bytes, and of the work on one value.
const (
	maxValue = 64 << 10
	maxSteps = 10_000
)

// value works out one of them.
func (v *variables) value(name string) (string, bool) {
	text, mine := v.own[name]
	if !mine {
		text, ok := v.inherited[name]
		return text, ok
	}
	if done, ok := v.known[name]; ok {
		return done, true
	}
	if v.underWay[name] {
		return "", false
	}
	v.underWay[name] = true
	out, ok := v.unfold(text)
	if ok {
		v.known[name], v.underWay[name] = out, false
	}
	return out, ok
}

// unfold replaces var() in a value; ok is false where something stands for nothing.
func (v *variables) unfold(value string) (out string, ok bool) {
	var done strings.Builder
	for {
		at := strings.Index(value, "var(")
		if at < 0 {
			done.WriteString(value)
			return done.String(), done.Len() <= maxValue
		}
		end, open := -1, 0
		for i := at + 3; i < len(value) && end < 0; i++ {
			if value[i] == '(' {
				open++
			} else if value[i] == ')' {
				if open--; open == 0 {
					end = i
				}
			}
		}
		if v.steps++; end < 0 || v.steps > maxSteps {
			return "", false
		}
		name, fallback, has := strings.Cut(value[at+4:end], ",")
		text, known := v.value(strings.TrimSpace(name))
		if !known && has {
			text, known = v.unfold(strings.TrimSpace(fallback))
		}
		if !known || done.Len()+len(text) > maxValue {
			return "", false
		}
		done.WriteString(value[:at] + text)
		value = value[end+1:]
	}
}

// pair builds the tree that selectors are held against, and says which element of it
// stands for which of the drawing.
func pair(n *node, up *html.Node, stands map[*node]*html.Node) {
	h := &html.Node{Type: html.ElementNode, Data: strings.ToLower(n.name)}
	for _, a := range n.attrs {
		if a.space == "" {
			h.Attr = append(h.Attr, html.Attribute{Key: strings.ToLower(a.name), Val: a.value})
		}
	}
	up.AppendChild(h)
	stands[n] = h
	for _, k := range n.kids {
		if k.name != "" {
			pair(k, h, stands)
		}
	}
}
