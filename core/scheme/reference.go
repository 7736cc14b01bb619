package scheme

import (
	"fmt"
	"regexp"
	"slices"
	"strings"
)

// block is a table in a page, between two comments.
var block = regexp.MustCompile(`(?s)(<!-- table of ([a-z ]+) -->\n).*?(<!-- end of table -->)`)

// Reference returns a page in which every table between the comments "table of
// SORT" (or "table of kinds of SORT") and "end of table" is as the rows say. Others are
// tables that stand elsewhere, by name.
func Reference(page string, others map[string]string) (string, error) {
	var err error
	out := block.ReplaceAllStringFunc(page, func(s string) string {
		m := block.FindStringSubmatch(s)
		if t, ok := others[m[2]]; ok {
			return m[1] + t + m[3]
		}
		name, kinds := strings.CutPrefix(m[2], "kinds of ")
		i := slices.IndexFunc(sorts(), func(s *Sort) bool { return s.Plural == name || s.Name+"s" == name })
		if i < 0 {
			err = fmt.Errorf("there is no table of %s", m[2])
			return s
		}
		if kinds {
			return m[1] + sorts()[i].kindTable() + m[3]
		}
		return m[1] + sorts()[i].table() + m[3]
	})
	return out, err
}

func sorts() []*Sort {
	return []*Sort{Layers, SavedMoves, Performances, Masks, Treatments, Highlights, HighLines, Axes, Stops, Layouts, Colours, Gradients, Pockets, Recipes, Easings, Cues, Formats, Entries, Keys}
}

func (s *Sort) kindTable() string {
	var b strings.Builder
	b.WriteString("| `kind` | draws |\n| --- | --- |\n")
	var later []string
	for _, k := range s.Kinds {
		if k.Later {
			later = append(later, "`"+k.Name+"`")
			continue
		}
		fmt.Fprintf(&b, "| `%s` | %s |\n", k.Name, lower(k.Doc))
	}
	if later != nil {
		fmt.Fprintf(&b, "| %s ◦ | |\n", strings.Join(later, ", "))
	}
	return b.String()
}

// table lists the rows of a sort, those of one section together.
func (s *Sort) table() string {
	var b strings.Builder
	moves := slices.ContainsFunc(s.props, func(p *Property) bool { return p.Join != Fixed })
	var sections []string
	for _, p := range s.props {
		if !slices.Contains(sections, p.Section) {
			sections = append(sections, p.Section)
		}
	}
	for i, sec := range sections {
		if i > 0 {
			b.WriteByte('\n')
		}
		if sec != "" && len(sections) > 1 {
			fmt.Fprintf(&b, "**%s**\n\n", sec)
		}
		b.WriteString("| member | value | " + map[bool]string{true: "keys | ", false: ""}[moves] + "means |\n| --- | --- | " + map[bool]string{true: "--- | ", false: ""}[moves] + "--- |\n")
		for _, p := range s.props {
			if p.Section != sec {
				continue
			}
			fmt.Fprintf(&b, "| `%s` | %s | ", p.Name, p.value())
			if moves {
				b.WriteString(p.motion() + " | ")
			}
			b.WriteString(lower(p.Doc) + p.who() + " |\n")
		}
	}
	return b.String()
}

func lower(s string) string {
	if len(s) > 1 && (s[1] == ' ' || s[1] >= 'a' && s[1] <= 'z') {
		return strings.ToLower(s[:1]) + s[1:]
	}
	return s
}

// value says what may be written.
func (p *Property) value() string {
	limits := func() string {
		if p.Lo == p.Hi {
			return ""
		}
		return fmt.Sprintf(" from %s to %s", sign(p.Lo), sign(p.Hi))
	}
	var v string
	switch p.Type {
	case Numbers:
		switch v = "a number"; {
		case p.Integer:
			v = "a whole number"
		case p.Parts != nil:
			v = "`[" + strings.Join(p.Parts, ", ") + "]`"
			if len(p.Parts) > 4 {
				v = fmt.Sprintf("%d numbers, alone or in pairs", len(p.Parts))
			}
		}
		if p.Alike {
			v += " or one for all"
		}
		v += "," + limits()
	case List:
		v = fmt.Sprintf("a list of %d to %d numbers,%s", p.Least, p.Most, limits())
	case Points:
		v = fmt.Sprintf("a list of %d to %d points", p.Least, p.Most)
	case Colour:
		v = "a colour"
	case Choice:
		v = "`" + strings.Join(p.Words, "`, `") + "`"
	case Choices:
		v = "some of `" + strings.Join(p.Words, "`, `") + "`"
	case Switch:
		v = "true or false"
	case Text:
		v = "text"
	case Ref:
		v = "the id of a " + p.To.Name
	case Media:
		v = "media"
	case Typeface:
		v = "the id of a face, or a font file"
	case Time:
		v = "an instant"
	case Curve:
		v = "an easing"
	case Exact:
		v = "a fraction"
	default:
		v = "see below"
	}
	v = strings.TrimSuffix(v, ",")
	switch d := p.Default; {
	case p.Needed && p.With == nil:
		v += "; needed"
	case p.Type == Choice && d.Text != "", p.Type == Switch:
		v += "; absent is `" + d.String() + "`"
	case d.Numbers != nil && slices.ContainsFunc(d.Numbers, func(n float64) bool { return n != 0 }):
		v += "; absent is " + d.String()
	}
	return v
}

func sign(v float64) string { return strings.Replace(plain(v), "-", "−", 1) }

// motion says how keys join rest.
func (p *Property) motion() string {
	switch {
	case p.Join == Fixed:
		return "—"
	case p.Type == Choice || p.Type == Switch:
		return "in its place, at once"
	case p.Join == Plus && p.Length:
		return "add, in `unit`"
	case p.Join == Plus:
		return "add"
	case p.Join == Times:
		return "multiply"
	}
	return "in its place"
}

// who says which kinds have it, where not all have.
func (p *Property) who() string {
	var kinds, others []string
	for _, k := range p.sort.Kinds {
		switch {
		case k.Later:
		case p.For(k):
			kinds = append(kinds, "`"+k.Name+"`")
		default:
			others = append(others, "`"+k.Name+"`")
		}
	}
	var notes []string
	switch {
	case others == nil:
	case len(others) < len(kinds):
		notes = append(notes, "not of "+strings.Join(others, ", "))
	default:
		notes = append(notes, "of "+strings.Join(kinds, ", "))
	}
	switch {
	case p.With != nil && p.With.Words == nil:
		notes = append(notes, "with `"+p.With.Name+"`")
	case p.With != nil:
		notes = append(notes, "with `"+p.With.Name+"` `"+strings.Join(p.With.Words, "`, `")+"`")
	}
	if p.Without != nil {
		notes = append(notes, "without `"+p.Without.Name+"`")
	}
	if notes == nil {
		return ""
	}
	return ". *" + strings.Join(notes, "; ") + "*"
}
