package words

import (
	"reflect"
	"slices"
	"strings"
	"unicode"

	"github.com/go-text/typesetting/bidi"
	"github.com/go-text/typesetting/font"
	ot "github.com/go-text/typesetting/font/opentype"
	"github.com/go-text/typesetting/harfbuzz"
	"github.com/go-text/typesetting/language"
	"github.com/go-text/typesetting/segmenter"
	"golang.org/x/text/cases"
	xlanguage "golang.org/x/text/language"
	ucd "golang.org/x/text/unicode/bidi"
	"golang.org/x/text/unicode/norm"
)

// glyph is one glyph of a cluster, in ems from the cluster's beginning on the
// baseline, y downwards.
type glyph struct {
	id   font.GID
	x, y float64
}

// cluster is what can't be parted: one or more letters with their marks and the
// glyphs that show them, from left to right.
type cluster struct {
	// from and to are the letters it shows, of those of its text.
	from, to int
	// level is that of UAX #9: odd ones are read from right to left.
	level   int8
	in      *instance
	scale   float64 // below 1 where small capitals are made of capitals
	advance float64 // ems
	glyphs  []glyph
	blank   bool // white space
	parts   bool // a separator of words, which justifying widens
	joins   bool // of a script whose letters are joined: tracking leaves them alone
	shy     bool // a soft hyphen
	ignored bool // shows nothing of its own: no tracking is added for it
	// breaks says that a line may begin here; unsafe that it is shaped otherwise if one does.
	breaks, unsafe bool
	// slash: what breaks here is a slash before it within a word.
	slash bool
}

// paragraph is a part of a text between line ends.
type paragraph struct {
	from, to int
	rtl      bool
	clusters []cluster
	words    []int // in which each cluster is, counted from 0
}

// text is a wording shaped in a style, at any size.
type text struct {
	style Style
	// runes are the letters that are shown, origin for each of them, and one more,
	// where it comes from in the wording as it was typed.
	runes  []rune
	origin []int
	small  []bool // capitals that are to be small
	paras  []paragraph
	// missing are letters that no face has, stood the families that stand in.
	missing []rune
	stood   []*Family
	choose  *chooser
	levels  []int8
	script  []language.Script
}

// shape shapes a wording.
func shape(wording string, style Style) *text {
	t := &text{style: style, choose: newChooser(&style)}
	t.show(wording)
	t.levels, t.script = make([]int8, len(t.runes)), make([]language.Script, len(t.runes))
	for from := 0; ; {
		to := from
		for to < len(t.runes) && t.runes[to] != '\n' {
			to++
		}
		t.paras = append(t.paras, t.paragraph(from, to))
		if to == len(t.runes) {
			return t
		}
		from = to + 1
	}
}

// show makes the letters that are shown of those that were typed.
func (t *text) show(wording string) {
	typed := []rune(wording)
	if len(typed) > MaxRunes {
		typed = typed[:MaxRunes]
	}
	small := t.style.Case == SmallCaps && !t.choose.feature(t.choose.primary, "smcp")
	put := func(from int, rs []rune, isSmall bool) {
		for _, r := range rs {
			t.runes, t.origin, t.small = append(t.runes, r), append(t.origin, from), append(t.small, isSmall)
		}
	}
	tag := xlanguage.Make(t.style.Language)
	var change cases.Caser
	switch {
	case t.style.Case == Capitals, small:
		change = cases.Upper(tag)
	case t.style.Case == LowerCase:
		change = cases.Lower(tag)
	}
	for i := 0; i < len(typed); {
		j := i + 1
		for j < len(typed) && joined(typed[j]) { // marks change with their letter
			j++
		}
		part := typed[i:j]
		switch r := typed[i]; {
		case r == '\r' && j < len(typed) && typed[j] == '\n':
			part = nil
		case r == '\r', r == 0x85, r == 0x2028, r == 0x2029, r == '\v', r == '\f':
			part = []rune{'\n'}
		case r == '\t':
			part = []rune{' '}
		case r < ' ' && r != '\n', r == 0x7f:
			part = nil
		}
		switch t.style.Case {
		case Capitals, LowerCase:
			put(i, composed([]rune(change.String(string(part)))), false)
		case SmallCaps:
			isLower := small && unicode.IsLower(typed[i])
			if isLower {
				part = []rune(change.String(string(part)))
			}
			put(i, composed(part), isLower)
		default:
			one := composed(part)
			less := len(part) - len(one)
			for k, r := range one {
				at := i
				if k > 0 {
					at = max(i, i+k+less)
				}
				put(min(at, len(typed)-1), []rune{r}, false)
			}
		}
		i = j
	}
	t.origin = append(t.origin, len(typed))
}

// joined reports whether a letter is one with the one before it: a mark, or a later part of a Hangul syllable.
func joined(r rune) bool { return unicode.Is(unicode.Mn, r) || r >= 0x1160 && r <= 0x11ff }

// composed is letters with their marks as one, where Unicode has them so (UAX #15, form C): faces have letters for
// them more often than marks that fit.
func composed(part []rune) []rune {
	if len(part) < 2 {
		return part
	}
	return []rune(norm.NFC.String(string(part)))
}

// paragraph shapes the letters from one index up to another.
func (t *text) paragraph(from, to int) paragraph {
	p := paragraph{from: from, to: to}
	runes := t.runes[from:to]
	p.rtl = t.style.Direction == RightToLeft || t.style.Direction != LeftToRight && firstStrong(runes)
	if len(runes) == 0 {
		return p
	}
	levels(runes, p.rtl, t.levels[from:to])
	t.scripts(from, to)
	var seg segmenter.Segmenter
	seg.Init(runes)
	graphemes := make([]bool, len(runes)+1) // where one begins
	for it := seg.GraphemeIterator(); it.Next(); {
		graphemes[it.Grapheme().Offset] = true
	}
	graphemes[len(runes)] = true
	faces := t.faces(from, to, graphemes)
	for a := from; a < to; {
		z := a + 1
		for z < to && t.levels[z] == t.levels[a] && t.script[z] == t.script[a] && faces[z-from] == faces[a-from] && t.small[z] == t.small[a] {
			z++
		}
		p.clusters = append(p.clusters, t.run(faces[a-from], a, z, from, to)...)
		a = z
	}
	p.clusters = whole(p.clusters, graphemes, from)
	starts := map[int]int{}
	for i := range p.clusters {
		starts[p.clusters[i].from] = i
	}
	for it := seg.LineIterator(); it.Next(); {
		l := it.Line()
		if i, ok := starts[from+l.Offset]; ok && i > 0 {
			c := &p.clusters[i]
			c.breaks = true
			c.slash = t.runes[c.from-1] == '/' && unicode.IsLetter(t.runes[c.from])
		}
	}
	p.words = p.inWords(t)
	return p
}

// whole joins clusters that are parts of one grapheme cluster: a face that lacks a mark has
// it stand by itself.
func whole(list []cluster, graphemes []bool, from int) []cluster {
	out := list[:0]
	for _, c := range list {
		n := len(out)
		if n == 0 || graphemes[c.from-from] {
			out = append(out, c)
			continue
		}
		p := &out[n-1]
		left, right := p.glyphs, c.glyphs
		shift := p.advance
		if p.level%2 == 1 {
			left, right, shift = c.glyphs, p.glyphs, c.advance
		}
		joined := slices.Clone(left)
		for _, g := range right {
			joined = append(joined, glyph{g.id, g.x + shift, g.y})
		}
		p.glyphs, p.advance, p.to, p.unsafe = joined, p.advance+c.advance, c.to, p.unsafe || c.unsafe
	}
	return out
}

// levels finds the embedding level of every letter of a paragraph (UAX #9).
func levels(runes []rune, rtl bool, to []int8) {
	dir := bidi.LeftToRight
	if rtl {
		dir = bidi.RightToLeft
	}
	var b bidi.Paragraph
	// The module tells runs of one direction and the level of the first letter of each; those
	// after it may lie deeper, and are needed to bring lines into order. All are there to be read.
	all := reflect.ValueOf(b.Segment(runes, dir)).FieldByName("levels")
	for i := range min(len(to), all.Len()) {
		to[i] = int8(all.Index(i).Int())
	}
}

// firstStrong reports whether a paragraph is read from right to left: rules P2 and P3
// of UAX #9.
func firstStrong(runes []rune) bool {
	isolates := 0
	for _, r := range runes {
		switch p, _ := ucd.LookupRune(r); p.Class() {
		case ucd.LRI, ucd.RLI, ucd.FSI:
			isolates++
		case ucd.PDI:
			isolates = max(0, isolates-1)
		case ucd.L:
			if isolates == 0 {
				return false
			}
		case ucd.R, ucd.AL:
			if isolates == 0 {
				return true
			}
		}
	}
	return false
}

// scripts gives every letter a script: what is common to all goes with what is
// before it, or after it at the beginning.
func (t *text) scripts(from, to int) {
	last, first := language.Script(0), -1
	for i := from; i < to; i++ {
		if s, ok := scriptOf(t.runes[i]); ok {
			last = s
			if first < 0 {
				first = i
			}
		}
		t.script[i] = last
	}
	lead := language.Latin
	if first >= 0 {
		lead = t.script[first]
	}
	for i := from; i < to && t.script[i] == 0; i++ {
		t.script[i] = lead
	}
}

// faces finds the face of every letter, one for each grapheme cluster. Joiners and the
// like stay with the face before them.
func (t *text) faces(from, to int, graphemes []bool) []*instance {
	out := make([]*instance, to-from)
	var last *instance
	for a := from; a < to; {
		z := a + 1
		for z < to && !graphemes[z-from] {
			z++
		}
		in := last
		var stood *Family
		var lacks []rune
		if r := t.runes[a]; in == nil || !ignorable(r) || !in.of.Has(r) {
			in, stood, lacks = t.choose.find(t.runes[a:z])
		}
		for _, r := range lacks {
			if !ignorable(r) && !unicode.IsSpace(r) && !slices.Contains(t.missing, r) {
				t.missing = append(t.missing, r)
			}
		}
		if stood != nil && !slices.Contains(t.stood, stood) {
			t.stood = append(t.stood, stood)
		}
		for i := a; i < z; i++ {
			out[i-from] = in
		}
		last, a = in, z
	}
	return out
}

// feature reports whether a face has an OpenType feature for substitutions.
func (c *chooser) feature(in *instance, tag string) bool {
	_, ok := in.of.ft.GSUB.FindFeatureIndex(ot.MustNewTag(tag))
	return ok
}

// run shapes letters of one level, script and face; what stands around them from
// begin up to end has its say in how letters join.
func (t *text) run(in *instance, from, to, begin, end int) []cluster {
	var features []harfbuzz.Feature
	set := func(tag string, v uint32) {
		features = append(features, harfbuzz.Feature{Tag: ot.MustNewTag(tag), Value: v, End: harfbuzz.FeatureGlobalEnd})
	}
	joins := cursive(t.script[from])
	apart := t.style.apart && !joins
	if t.style.NoLigatures || apart {
		set("liga", 0)
		set("clig", 0)
	}
	if apart {
		set("calt", 0)
	}
	if t.style.NoKerning {
		set("kern", 0)
	}
	if t.style.Case == SmallCaps && !t.small[from] {
		set("smcp", 1)
	}
	switch t.style.Figures {
	case Tabular:
		set("tnum", 1)
	case Proportional:
		set("pnum", 1)
	}
	scale := 1.0
	if t.small[from] {
		scale = smallScale
	}
	rtl := t.levels[from]%2 == 1
	in.of.shaping.Lock()
	defer in.of.shaping.Unlock()
	infos, pos, ok := in.shape(t.runes[begin:end], from-begin, to-from, rtl, t.script[from], t.style.Language, features)
	k := scale / (in.of.upem * unit)
	var out []cluster
	for i := 0; ok && i < len(infos); {
		j := i
		c := cluster{from: begin + infos[i].Cluster, level: t.levels[from], in: in, scale: scale, joins: joins}
		for ; j < len(infos) && infos[j].Cluster == infos[i].Cluster; j++ {
			p := pos[j]
			if !t.emptyGlyph(infos[j].Glyph, c.from) {
				c.glyphs = append(c.glyphs, glyph{infos[j].Glyph, c.advance + float64(p.XOffset)*k, -float64(p.YOffset) * k})
			}
			if c.advance += float64(p.XAdvance) * k; p.XAdvance != 0 { // marks have none
				c.advance += in.round(infos[j].Glyph) * k * unit
			}
			c.unsafe = c.unsafe || infos[j].Mask&harfbuzz.GlyphUnsafeToBreak != 0
		}
		out = append(out, c)
		i = j
	}
	if rtl { // logical order, as everywhere
		slices.Reverse(out)
	}
	for i := range out {
		c := &out[i]
		c.to = to
		if i+1 < len(out) {
			c.to = out[i+1].from
		}
		r := t.runes[c.from]
		c.blank = unicode.IsSpace(r) && r != 0xa0 && r != 0x202f
		c.parts, c.shy = r == ' ' || r == 0xa0, r == 0xad
		c.ignored = ignorable(r) && c.to == c.from+1
		if c.shy {
			c.glyphs, c.advance = nil, 0
		}
	}
	if t.style.Figures == Tabular && !t.choose.feature(in, "tnum") {
		in.tabulate(out, t.runes)
	}
	return out
}

// emptyGlyph reports whether a glyph is the sign for a missing one where nothing is
// to be seen.
func (t *text) emptyGlyph(g font.GID, at int) bool {
	r := t.runes[at]
	return g == 0 && (unicode.IsSpace(r) || ignorable(r))
}

// shape has HarfBuzz shape a part of letters. A face that makes it fail shows nothing.
func (in *instance) shape(runes []rune, from, n int, rtl bool, script language.Script, lang string, features []harfbuzz.Feature) (infos []harfbuzz.GlyphInfo, pos []harfbuzz.GlyphPosition, ok bool) {
	f := in.of
	defer func() {
		if recover() != nil {
			f.buf, ok = harfbuzz.NewBuffer(), false
		}
	}()
	props := harfbuzz.SegmentProperties{Direction: harfbuzz.LeftToRight, Script: script, Language: language.NewLanguage(lang)}
	if rtl {
		props.Direction = harfbuzz.RightToLeft
	}
	f.face.SetCoords(in.face.Coords())
	f.buf.Clear()
	f.buf.AddRunes(runes, from, n)
	f.buf.Props = props
	f.buf.Shape(f.hb, features)
	return f.buf.Info, f.buf.Pos, true
}

// tabulate gives all digits the width of the widest, in a face that has no figures
// of one width.
func (in *instance) tabulate(out []cluster, runes []rune) {
	in.mu.Lock()
	defer in.mu.Unlock()
	if in.digit == 0 {
		for r := '0'; r <= '9'; r++ {
			if g, ok := in.face.NominalGlyph(r); ok {
				in.digit = max(in.digit, float64(in.face.HorizontalAdvance(g))/in.of.upem)
			}
		}
	}
	for i := range out {
		c := &out[i]
		if r := runes[c.from]; c.to != c.from+1 || r < '0' || r > '9' {
			continue
		}
		shift := (in.digit*c.scale - c.advance) / 2
		for k := range c.glyphs {
			c.glyphs[k].x += shift
		}
		c.advance = in.digit * c.scale
	}
}

// cursive reports whether the letters of a script are joined to one another.
func cursive(s language.Script) bool {
	switch s {
	case language.Arabic, language.Syriac, language.Mongolian, language.Nko, language.Mandaic, language.Manichaean, language.Adlam, language.Hanifi_Rohingya, language.Sogdian:
		return true
	}
	return false
}

// inWords says for every letter of a paragraph in which word it is, counted from 0: what
// stands between white space, or, of scripts without it, between places where lines
// may break.
func (p *paragraph) inWords(t *text) []int {
	out := make([]int, len(p.clusters))
	n, inWord := -1, false
	for i := range p.clusters {
		c := &p.clusters[i]
		switch {
		case c.blank:
			inWord = false
		case !inWord, c.breaks && spaceless(t.script[c.from]) && spaceless(t.script[max(p.from, c.from-1)]):
			n, inWord = n+1, true
		}
		out[i] = max(0, n)
	}
	return out
}

func spaceless(s language.Script) bool {
	switch s {
	case language.Han, language.Hiragana, language.Katakana, language.Thai, language.Lao, language.Khmer, language.Myanmar:
		return true
	}
	return false
}

// Tidy is a wording without what crept in: blanks at its ends and at those of lines,
// doubled blanks, tabs, line ends of other systems, byte order marks. What is meant is left as it is.
func Tidy(wording string) string {
	s := strings.NewReplacer("\r\n", "\n", "\r", "\n", "\u0085", "\n", "\u2028", "\n", "\u2029", "\n\n", "\t", " ", "\v", "\n", "\f", "\n", "\ufeff", "", "\u0000", "").Replace(wording)
	lines := strings.Split(s, "\n")
	for i, l := range lines {
		var b strings.Builder
		blank := false
		for _, r := range strings.TrimFunc(l, unicode.IsSpace) {
			if r == ' ' {
				if !blank {
					b.WriteRune(r)
				}
				blank = true
				continue
			}
			blank = false
			b.WriteRune(r)
		}
		lines[i] = b.String()
	}
	for len(lines) > 0 && lines[0] == "" {
		lines = lines[1:]
	}
	for len(lines) > 0 && lines[len(lines)-1] == "" {
		lines = lines[:len(lines)-1]
	}
	return strings.Join(lines, "\n")
}
