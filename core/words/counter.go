package words

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"
	"sync"
	"unicode"

	"github.com/bojanz/currency"
	"golang.org/x/text/language"
	"golang.org/x/text/message"
	"golang.org/x/text/number"
)

// Counter is a number on its way from one value to another, as figures show it.
type Counter struct {
	// Values are where it begins, what it comes through, and where it ends, all equally far apart on
	// the way.
	Values []float64
	// Done is how far it has come, 0 to 1.
	Done float64
	// Roll lets digits turn one by one, as on wheels; else they change at once.
	Roll     bool
	Decimals int
	// Digits is how many there are before the decimal sign at the least.
	Digits int
	// Locale says which signs it has, by CLDR: a BCP 47 tag.
	Locale string
	// Plain leaves out thousands marks, Plus shows the sign of what is above nothing.
	Plain, Plus bool
	Unit        string
	Before      bool // the unit
	Apart       bool // with a blank between
}

// Limits of counters.
const (
	MaxDecimals = 6
	MaxDigits   = 12
	// MaxFigure bounds its values: with all decimals they are counted exactly.
	MaxFigure = 1e9
)

// steps is a value in units of the last decimal, exact: half a unit counts away from nothing, on the decimal number that was typed
// (ECMA-402, Intl.NumberFormat, roundingMode halfExpand), not on the binary one next to it.
func (c *Counter) steps(v float64) float64 {
	typed, power, _ := strings.Cut(strconv.FormatFloat(v, 'e', -1, 64), "e")
	n, _ := strconv.Atoi(power)
	shifted, err := strconv.ParseFloat(fmt.Sprintf("%se%d", typed, n+c.Decimals), 64)
	if err != nil {
		return 0
	}
	return math.Round(shifted)
}

// At is where it is, in units of the last decimal. At the end it is exactly there.
func (c *Counter) At() float64 {
	n := len(c.Values) - 1
	if n < 0 {
		return 0
	}
	k := math.Max(0, math.Min(1, c.Done)) * float64(n)
	i := min(int(k), max(0, n-1))
	a := c.steps(c.Values[i])
	if n == 0 {
		return a
	}
	b := c.steps(c.Values[i+1])
	switch k -= float64(i); {
	case k <= 0:
		return a
	case k >= 1:
		return b
	}
	return a + (b-a)*k
}

// Shows is the whole number of steps that is read off it: it never shows a value before it is
// reached.
func (c *Counter) Shows() float64 {
	x := c.At()
	n := len(c.Values) - 1
	if n < 1 {
		return x
	}
	i := min(int(math.Max(0, math.Min(1, c.Done))*float64(n)), n-1)
	if c.Values[i+1] < c.Values[i] {
		return math.Ceil(x - slightly)
	}
	return math.Floor(x + slightly)
}

// slightly is how far off a step may be for the sake of rounding.
const slightly = 1e-6

// Text is what is read off it, with its signs, and without its unit.
func (c *Counter) Text() string {
	x := c.Shows()
	f := formsOf(c.Locale, c.Plain)
	digits := fmt.Sprintf("%0*.0f", c.Decimals+max(1, c.Digits), math.Abs(x))
	whole, rest := digits[:len(digits)-c.Decimals], digits[len(digits)-c.Decimals:]
	var b strings.Builder
	neg := x < 0
	b.WriteString(f.prefix(neg, c.Plus && x > 0))
	for i, d := range whole {
		if s := f.mark(len(whole), len(whole)-i); s != "" && i > 0 {
			b.WriteString(s)
		}
		b.WriteRune(f.zero + d - '0')
	}
	if c.Decimals > 0 {
		b.WriteString(f.point)
		for _, d := range rest {
			b.WriteRune(f.zero + d - '0')
		}
	}
	b.WriteString(f.suffix(neg))
	return b.String()
}

// forms are the signs of numbers in a locale.
type forms struct {
	zero                rune
	point               string
	minus, plus, behind string // before a negative number, a positive one, and after a negative one
	marks               [MaxDigits + 6][]string
}

var (
	formsMu   sync.Mutex
	formsMade = map[string]*forms{}
)

// formsOf reads off how a locale writes numbers, from numbers that CLDR's data writes.
func formsOf(locale string, bare bool) *forms {
	key := fmt.Sprint(locale, bare)
	formsMu.Lock()
	defer formsMu.Unlock()
	if f := formsMade[key]; f != nil {
		return f
	}
	tag, err := language.Parse(locale)
	if err != nil || locale == "" {
		tag = language.English
	}
	p := message.NewPrinter(tag)
	f := &forms{zero: zeroOf(p), point: ".", minus: "-", plus: "+"}
	// x/text forgets the digits of a language where a region is given besides.
	if _, sure := tag.Region(); f.zero == '0' && sure == language.Exact && tag.TypeForKey("nu") == "" && !latinDigits[tag.String()] {
		base, _ := tag.Base()
		if of := message.NewPrinter(language.Make(base.String())); zeroOf(of) != '0' {
			p, f.zero = of, zeroOf(of)
		}
	}
	isDigit := func(r rune) bool { return r >= f.zero && r <= f.zero+9 }
	if s := strings.TrimFunc(p.Sprint(number.Decimal(1.5, number.Scale(1))), isDigit); s != "" {
		f.point = s
	}
	neg := p.Sprint(number.Decimal(-1))
	if i := strings.IndexFunc(neg, isDigit); i >= 0 {
		f.minus, f.behind = neg[:i], strings.TrimLeftFunc(neg[i:], isDigit)
	}
	if f.minus == "-" {
		f.minus = "\u2212" // the sign as it is set, as wide as the others
	}
	for n := 1; n < len(f.marks) && !bare; n++ {
		s := p.Sprint(number.Decimal(math.Pow(10, float64(n-1))))
		f.marks[n] = make([]string, n+1)
		left, mark := n, ""
		for _, r := range s {
			if !isDigit(r) {
				mark += string(r)
				continue
			}
			f.marks[n][left] = mark
			left, mark = left-1, ""
		}
	}
	if f.marks[4] != nil && !marksFour(tag) {
		clear(f.marks[4])
	}
	if len(formsMade) > 200 {
		clear(formsMade)
	}
	formsMade[key] = f
	return f
}

// marksFour reports whether a language sets the thousands of four digits off, or begins with five (CLDR, minimumGroupingDigits).
// x/text has no such data; what writes prices has.
func marksFour(tag language.Tag) bool {
	f := currency.NewFormatter(currency.NewLocale(tag.String()))
	f.CurrencyDisplay, f.MinDigits, f.MaxDigits = currency.DisplayNone, 0, 0
	a, err := currency.NewAmount("1234", "EUR")
	if err != nil {
		return true
	}
	return strings.ContainsFunc(strings.TrimSpace(f.Format(a)), func(r rune) bool { return !unicode.IsDigit(r) && unicode.IsPrint(r) || unicode.IsSpace(r) })
}

// latinDigits are the regions with Latin digits of languages that have others elsewhere, from CLDR 44 (from
// memory).
var latinDigits = map[string]bool{"ar-AE": true, "ar-DZ": true, "ar-EH": true, "ar-LY": true, "ar-MA": true, "ar-TN": true}

// zeroOf is the digit by which a printer writes nothing.
func zeroOf(p *message.Printer) rune {
	for _, r := range p.Sprint(number.Decimal(0)) {
		if unicode.IsDigit(r) {
			return r
		}
	}
	return '0'
}

// mark is what stands before the k-th digit from the right of a number of n digits.
func (f *forms) mark(n, k int) string {
	if n >= len(f.marks) || f.marks[n] == nil || k >= len(f.marks[n]) {
		return ""
	}
	return f.marks[n][k]
}

func (f *forms) prefix(negative, plus bool) string {
	switch {
	case negative:
		return f.minus
	case plus:
		return f.plus
	}
	return ""
}

func (f *forms) suffix(negative bool) string {
	if negative {
		return f.behind
	}
	return ""
}

// piece is one sign of a counter: how much of its room it takes, 0 to 1, and of a digit how far its
// wheel has turned.
type piece struct {
	text  string
	digit bool
	wheel float64
	there float64
}

// pieces are the signs of a counter from left to right.
func (c *Counter) pieces() (out []piece) {
	f := formsOf(c.Locale, c.Plain)
	x := c.At()
	if !c.Roll {
		x = c.Shows()
	}
	neg := x < 0 || c.Shows() < 0
	abs := math.Abs(x)
	// How many wheels: those that have left nothing, and the one that is leaving it.
	least := c.Decimals + max(1, c.Digits)
	n := least
	for n < MaxDigits+MaxDecimals+2 && wheel(abs, n) > slightly {
		n++
	}
	first := wheel(abs, n-1) // of the leftmost
	there := 1.0
	if n > least {
		there = math.Min(1, first)
	}
	whole := n - c.Decimals
	put := func(text string, there float64) {
		if text != "" {
			out = append(out, piece{text: text, there: there})
		}
	}
	sign := 1.0
	if neg && abs < 1 { // it comes and goes around nothing
		sign = abs
	}
	put(f.prefix(neg, c.Plus && x > 0), sign)
	for k := whole; k >= 1; k-- {
		if k < whole {
			mark, old := f.mark(whole, k), ""
			if there < 1 {
				old = f.mark(whole-1, k)
				if k == whole-1 {
					old = ""
				}
			}
			share := 1.0
			if there < 1 && mark != old {
				share = there
			}
			put(mark, share)
		}
		p := piece{digit: true, wheel: wheel(abs, k-1+c.Decimals), there: 1}
		if k == whole {
			p.there = there
		}
		out = append(out, p)
	}
	if c.Decimals > 0 {
		put(f.point, 1)
		for k := c.Decimals - 1; k >= 0; k-- {
			out = append(out, piece{digit: true, wheel: wheel(abs, k), there: 1})
		}
	}
	put(f.suffix(neg), sign)
	return out
}

// wheel is how far the wheel of 10 to the k has turned: it stands while those to its right count, and
// turns on with the last of them.
func wheel(x float64, k int) float64 {
	p := math.Pow(10, float64(k))
	full := math.Floor(x / p)
	if k == 0 {
		return x
	}
	return full + math.Max(0, x-full*p-(p-1))
}

// Count sets a counter. Letters of wheels that turn stand above and below their line, which cuts them, and
// come after all that stands still: Turning says how many they are.
func (s *Setter) Count(spec *Spec, c *Counter) *Setting {
	sp := *spec
	sp.bound()
	sp.Figures = Tabular
	sp.NoLigatures = true
	f := fitting{Spec: &sp, setter: s}
	// One size for the whole way.
	widest := 0.0
	for i := range c.Values {
		at := *c
		at.Done = float64(i) / math.Max(1, float64(len(c.Values)-1))
		widest = math.Max(widest, f.wide(f.figures(&at)))
	}
	size := sp.Size
	if sp.W > 0 && widest*size > sp.W && sp.Least < size {
		size = math.Max(sp.Least, sp.W/widest)
	}
	list := f.figures(c)
	in := f.setter.shape("0", sp.Style).choose.primary
	up, down := in.ascent, in.descent
	if sp.Edges == CapitalEdges {
		up, down = in.capitals, 0
	}
	wide := f.wide(list) * size
	out := &Setting{Size: size, Tracking: sp.Tracking, Over: sp.W > 0 && wide > sp.W*(1+slack), Words: 1}
	free := sp.W - wide
	left := 0.0
	switch {
	case sp.W == 0:
	case sp.Align == Centre:
		left = free / 2
	case sp.Align == End:
		left = free
	}
	top := 0.0
	if sp.H > 0 {
		switch sp.Stand {
		case Middle:
			top = (sp.H - (up+down)*size) / 2
		case Bottom:
			top = sp.H - (up+down)*size
		}
	}
	base := top + up*size - sp.Rise
	// Wheels are as far apart as lines of their own.
	turn := (in.ascent + in.descent) * size
	x := left
	var turning []Letter
	put := func(to *[]Letter, cl []cluster, at, down float64) {
		for i := range cl {
			*to = append(*to, Letter{To: 1, X: at, Y: base + down, Advance: cl[i].advance * size, in: cl[i].in, scale: cl[i].scale, glyphs: cl[i].glyphs})
			at += cl[i].advance * size
		}
	}
	for _, g := range list {
		room := g.wide * size * g.there
		if !g.digit {
			if g.there > 0.5 || g.there == 1 {
				put(&out.Letters, g.now, x+(room-g.wide*size)/2, 0)
			}
			x += room
			continue
		}
		off := g.wheel - math.Floor(g.wheel)
		if !c.Roll || off < slightly || off > 1-slightly {
			off = 0
		}
		at, to := x+room-g.wide*size, &out.Letters
		if off > 0 {
			to = &turning
			put(to, g.next, at, (1-off)*turn)
		}
		if g.now != nil {
			put(to, g.now, at, -off*turn)
		}
		x += room
	}
	out.Letters, out.Turning = append(out.Letters, turning...), len(turning)
	l := Line{To: len(out.Letters), Baseline: base, Left: left, Right: x, Top: top, Bottom: top + (up+down)*size}
	out.Lines = []Line{l}
	out.finish()
	return out
}

// figure is a sign of a counter with what is seen of it, in ems.
type figure struct {
	piece
	wide      float64
	now, next []cluster // of a digit: what its wheel shows, and what comes from below
}

// figures shapes the signs of a counter.
func (f *fitting) figures(c *Counter) (out []figure) {
	shaped := func(text string) []cluster {
		t := f.setter.shape(text, f.Style)
		return t.paras[0].clusters
	}
	wide := func(cl []cluster) (w float64) {
		for i := range cl {
			w += cl[i].advance
		}
		return w
	}
	zero := formsOf(c.Locale, c.Plain).zero
	cell := 0.0
	digits := make([][]cluster, 10)
	for d := range digits {
		digits[d] = shaped(string(zero + rune(d)))
		cell = math.Max(cell, wide(digits[d]))
	}
	list := c.pieces()
	least := max(1, c.Digits)
	if c.Unit != "" {
		unit := piece{text: c.Unit, there: 1}
		blank := piece{text: "\u00a0", there: 1}
		switch {
		case c.Before && c.Apart:
			list = slices.Concat([]piece{unit, blank}, list)
		case c.Before:
			list = slices.Concat([]piece{unit}, list)
		case c.Apart:
			list = append(list, blank, unit)
		default:
			list = append(list, unit)
		}
	}
	whole := 0
	for _, p := range list {
		if p.digit {
			whole++
		}
	}
	whole -= c.Decimals
	seen := 0
	for i, p := range list {
		g := figure{piece: p, wide: cell}
		if !p.digit {
			g.now = shaped(p.text)
			g.wide = wide(g.now)
		} else {
			at := math.Floor(p.wheel + slightly)
			d := int(math.Mod(at, 10))
			g.now, g.next = centred(digits[d], cell), centred(digits[(d+1)%10], cell)
			seen++
			if at == 0 && seen == 1 && whole > least { // nothing is there yet
				g.now = nil
			}
		}
		if i > 0 && (p.digit || list[i-1].digit) {
			out[len(out)-1].wide += f.Tracking
		}
		out = append(out, g)
	}
	return out
}

// centred is a digit in the middle of its cell.
func centred(cl []cluster, cell float64) []cluster {
	if len(cl) != 1 || cl[0].advance == cell {
		return cl
	}
	c := cl[0]
	shift := (cell - c.advance) / 2
	glyphs := slices.Clone(c.glyphs)
	for i := range glyphs {
		glyphs[i].x += shift
	}
	c.glyphs, c.advance = glyphs, cell
	return []cluster{c}
}

func (f *fitting) wide(list []figure) (w float64) {
	for i := range list {
		w += list[i].wide * list[i].there
	}
	return w
}
