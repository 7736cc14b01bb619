// Package formula is the room for formulas: expressions that yield a
// property's value from other values of the same instant. It reads them with the
// expression library's own syntax, checks types and units, and turns them into
// functions over a list of numbers. A formula has no loops, no memory and no
// clock of its own, so it always ends; the same numbers always give the same.
package formula

import (
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"
	"unicode"

	"github.com/expr-lang/expr/ast"
	"github.com/expr-lang/expr/file"
	"github.com/expr-lang/expr/parser"
)

// Limits of a formula, so that a hostile one costs nothing.
const (
	MaxLength = 1000
	MaxNodes  = 300
	maxDepth  = 150
)

// Unit is what a number counts, as powers of the units of the trade: a length
// times a length is an area. The zero value is a number without a unit.
type Unit struct {
	Px, Deg, Frames, Seconds int8
	// Free is a number written as such: it takes whatever unit is needed.
	Free bool
	// Loose has been multiplied by a number written as such, which may stand for so
	// many of one unit in each of another: time.seconds * 30 is 30 degrees a second
	// where an angle is needed, and half a minute of seconds where those are.
	Loose bool
}

// bare is the unit without what it may become.
func (u Unit) bare() Unit { u.Free, u.Loose = false, false; return u }

// The units of properties.
var (
	Number  = Unit{}
	Px      = Unit{Px: 1}
	Degrees = Unit{Deg: 1}
	Frames  = Unit{Frames: 1}
	Seconds = Unit{Seconds: 1}
	Free    = Unit{Free: true}
)

// UnitOf reads the unit of an entry as people write it; one that formulas know
// nothing of is free.
func UnitOf(name string) Unit {
	switch strings.TrimSpace(name) {
	case "px":
		return Px
	case "°", "deg", "degrees":
		return Degrees
	case "frames", "frame":
		return Frames
	case "s", "seconds":
		return Seconds
	case "", "%", "×":
		return Number
	}
	return Free
}

func (u Unit) String() string {
	var parts []string
	for _, p := range []struct {
		n    int8
		name string
	}{{u.Px, "px"}, {u.Deg, "degrees"}, {u.Frames, "frames"}, {u.Seconds, "seconds"}} {
		switch {
		case p.n == 1:
			parts = append(parts, p.name)
		case p.n != 0:
			parts = append(parts, fmt.Sprintf("%s to the power of %d", p.name, p.n))
		}
	}
	if parts == nil {
		return "a number without a unit"
	}
	return strings.Join(parts, " times ")
}

// Kind is a value's type.
type Kind uint8

const (
	NumberKind Kind = iota
	ColourKind      // straight red, green, blue, alpha, 0 to 255
	TruthKind       // 1 or 0
	WordKind        // one of a few words, by its number
)

// Ref is where a name's value stands in the list of numbers.
type Ref struct {
	Slot int
	Kind Kind
	Unit Unit
	// Words are those that a word may be, in the order of their numbers.
	Words []string
	// Times is one more than another slot by whose value it is multiplied; 0 is none.
	Times int
}

// Named is a name in the text of a formula, and where its value stands.
type Named struct {
	From, To int // characters
	Ref
}

// Error is what is wrong with a formula, and where in its text: characters, To the first that is
// not at fault.
type Error struct {
	From, To int
	What     string
}

func (e *Error) Error() string { return fmt.Sprintf("character %d: %s", e.From+1, e.What) }

// Want is what a formula is to yield.
type Want struct {
	Kind  Kind
	Unit  Unit
	Words []string
}

// Scope knows the names a formula may use. Head is "layer", "layout", "entry", "progress",
// "media", "colour" (all of which have an id), "value" (which has a path), "self",
// "canvas", "cell" or "time"; path is
// what follows, such as ["size", "x"]. An error says what there is instead.
type Scope interface {
	Ref(head, id string, path []string) (Ref, error)
}

// Program is a formula made ready.
type Program struct {
	Source string
	Kind   Kind
	// Reads lists the slots whose values it needs.
	Reads []int
	// Names are the names in its text, in order.
	Names []Named
	eval  [4]fn
}

type fn func([]float64) float64

// Number is the formula's value where it yields a number.
func (p *Program) Number(slots []float64) float64 { return p.eval[0](slots) }

// Colour is the formula's value where it yields a colour.
func (p *Program) Colour(slots []float64) (c [4]float64) {
	for i, f := range p.eval {
		c[i] = f(slots)
	}
	return
}

// value is a compiled part of a formula.
type value struct {
	kind  Kind
	unit  Unit
	words []string
	f     [4]fn
}

type compiler struct {
	scope Scope
	text  []rune
	names []Named
	words []string // that the formula is to yield one of
	reads map[int]bool
	order []int
	nodes int
}

// Compile reads a formula that is to yield a number of a unit, a colour, true or
// false, or a word. Errors say where in the text, what, and what to write instead.
func Compile(source string, want Want, scope Scope) (*Program, error) {
	if len(source) > MaxLength {
		return nil, fmt.Errorf("%d characters are more than %d", len(source), MaxLength)
	}
	if strings.TrimSpace(source) == "" {
		return nil, fmt.Errorf("is empty")
	}
	var p parser.Parser
	tree, err := p.Parse(source, nil)
	if err != nil {
		var at *file.Error
		if errors.As(err, &at) {
			return nil, &Error{at.From, max(at.To, at.From+1), at.Message}
		}
		line, _, _ := strings.Cut(err.Error(), "\n")
		return nil, errors.New(line)
	}
	c := &compiler{scope: scope, text: []rune(source), words: want.Words, reads: map[int]bool{}}
	v, err := c.node(tree.Node, 0)
	if err != nil {
		return nil, err
	}
	if v.kind != want.Kind {
		return nil, fmt.Errorf("gives %s, where %s is needed", v.kind, want.Kind)
	}
	if want.Kind == NumberKind && !v.unit.fits(want.Unit) {
		return nil, fmt.Errorf("gives %s, where %s is needed; %s", v.unit, want.Unit, v.unit.joined(want.Unit))
	}
	return &Program{Source: source, Kind: want.Kind, Reads: c.order, Names: c.names, eval: v.f}, nil
}

func (k Kind) String() string {
	switch k {
	case ColourKind:
		return "a colour"
	case TruthKind:
		return "true or false"
	case WordKind:
		return "a word"
	}
	return "a number"
}

// at puts the place in the text before an error.
func at(n ast.Node, format string, args ...any) error {
	l := n.Location()
	return &Error{l.From, max(l.To, l.From+1), fmt.Sprintf(format, args...)}
}

func constant(v float64) [4]fn { return [4]fn{func([]float64) float64 { return v }} }

func (c *compiler) node(n ast.Node, depth int) (value, error) {
	if c.nodes++; c.nodes > MaxNodes {
		return value{}, fmt.Errorf("has more than %d parts", MaxNodes)
	}
	if depth > maxDepth {
		return value{}, at(n, "is nested deeper than %d levels", maxDepth)
	}
	switch n := n.(type) {
	case *ast.IntegerNode:
		return value{unit: Free, f: constant(float64(n.Value))}, nil
	case *ast.FloatNode:
		return value{unit: Free, f: constant(n.Value)}, nil
	case *ast.BoolNode:
		v := 0.0
		if n.Value {
			v = 1
		}
		return value{kind: TruthKind, f: constant(v)}, nil
	case *ast.UnaryNode:
		return c.unary(n, depth)
	case *ast.BinaryNode:
		return c.binary(n, depth)
	case *ast.ConditionalNode:
		return c.conditional(n, depth)
	case *ast.BuiltinNode:
		return c.call(n, n.Name, n.Arguments, depth)
	case *ast.CallNode:
		if id, ok := n.Callee.(*ast.IdentifierNode); ok {
			return c.call(n, id.Value, n.Arguments, depth)
		}
	case *ast.MemberNode, *ast.IdentifierNode:
		return c.ref(n)
	case *ast.StringNode:
		if i := slices.Index(c.words, n.Value); i >= 0 {
			return value{kind: WordKind, words: c.words, f: constant(float64(i))}, nil
		}
		if c.words != nil {
			return value{}, at(n, "%q is not one of %s", n.Value, strings.Join(c.words, ", "))
		}
		return value{}, at(n, "text alone has no value; write layer('%s') and what you need of it", n.Value)
	}
	return value{}, at(n, "formulas have no such thing; they have numbers, names, + - * / %% **, comparisons, and, or, not, ? : and functions")
}

// ref resolves a name such as layer('panel').size.x or canvas.w.
func (c *compiler) ref(n ast.Node) (value, error) {
	var path []string
	head, id := "", ""
	root := n
	for head == "" {
		switch m := root.(type) {
		case *ast.MemberNode:
			p, ok := m.Property.(*ast.StringNode)
			if !ok || m.Optional || m.Method {
				return value{}, at(n, "write names with points between them, such as layer('panel').size.x")
			}
			path = append([]string{p.Value}, path...)
			root = m.Node
		case *ast.IdentifierNode:
			head = m.Value
		case *ast.CallNode:
			callee, ok := m.Callee.(*ast.IdentifierNode)
			var arg *ast.StringNode
			if ok && len(m.Arguments) == 1 {
				arg, _ = m.Arguments[0].(*ast.StringNode)
			}
			if arg == nil {
				return value{}, at(n, "write an id in quotes, such as layer('panel')")
			}
			head, id = callee.Value, arg.Value
		default:
			return value{}, at(n, "is not a name; write such as layer('panel').size.x, entry('gutter') or canvas.w")
		}
	}
	r, err := c.scope.Ref(head, id, path)
	if err != nil {
		from := root.Location().From
		return value{}, &Error{from, NameEnd(c.text, from), err.Error()}
	}
	width := 1
	if r.Kind == ColourKind {
		width = 4
	}
	c.names = append(c.names, Named{root.Location().From, NameEnd(c.text, root.Location().From), r})
	v := value{kind: r.Kind, unit: r.Unit, words: r.Words}
	read := func(slot int) {
		if !c.reads[slot] {
			c.reads[slot] = true
			c.order = append(c.order, slot)
		}
	}
	if r.Times > 0 {
		by := r.Times - 1
		read(r.Slot)
		read(by)
		v.f[0] = func(s []float64) float64 { return s[r.Slot] * s[by] }
		return v, nil
	}
	for i := range width {
		slot := r.Slot + i
		read(slot)
		v.f[i] = func(s []float64) float64 { return s[slot] }
	}
	return v, nil
}

// NameEnd is where a name ends that begins at a character: layer('a').masks.b.feather.
func NameEnd(text []rune, from int) int {
	quoted, open := false, false
	for i := from; i < len(text); i++ {
		switch r := text[i]; {
		case r == '\'' || r == '"':
			quoted = !quoted
		case quoted || r == '.' || r == '_' || unicode.IsLetter(r) || unicode.IsDigit(r):
		case r == '(' && i+1 < len(text) && (text[i+1] == '\'' || text[i+1] == '"'):
			open = true
		case r == ')' && open:
			open = false
		default:
			return i
		}
	}
	return len(text)
}

func (c *compiler) unary(n *ast.UnaryNode, depth int) (value, error) {
	v, err := c.node(n.Node, depth+1)
	if err != nil {
		return v, err
	}
	f := v.f[0]
	switch n.Operator {
	case "-", "+":
		if v.kind != NumberKind {
			return v, at(n, "%s needs a number, not %s", n.Operator, v.kind)
		}
		if n.Operator == "-" {
			v.f[0] = func(s []float64) float64 { return -f(s) }
		}
		return v, nil
	case "!", "not":
		if v.kind != TruthKind {
			return v, at(n, "%s needs a comparison, not %s", n.Operator, v.kind)
		}
		v.f[0] = func(s []float64) float64 { return 1 - f(s) }
		return v, nil
	}
	return v, at(n, "there is no %q in formulas", n.Operator)
}

// same is the unit two numbers have in common.
func same(a, b Unit) (Unit, bool) {
	switch {
	case a.bare() == b.bare():
		return Unit{a.Px, a.Deg, a.Frames, a.Seconds, a.Free && b.Free, a.Loose && b.Loose}, true
	case a.Free || a.Loose:
		return b, true
	case b.Free || b.Loose:
		return a, true
	}
	return a, false
}

// fits reports whether a number may stand where another unit is needed.
func (u Unit) fits(want Unit) bool {
	_, ok := same(u, want)
	return ok
}

// joined says how a number of one unit may become one of another.
func (u Unit) joined(to Unit) string {
	if u.bare() == Number {
		return fmt.Sprintf("multiply it by how many %s 1 is, such as 30", to)
	}
	return fmt.Sprintf("multiply it by how much of that one of it is, as in time.seconds * 30 for 30 degrees a second")
}

// times is the unit of a product, or of a quotient for sign -1.
func times(a, b Unit, sign int8) Unit {
	u := Unit{a.Px + sign*b.Px, a.Deg + sign*b.Deg, a.Frames + sign*b.Frames, a.Seconds + sign*b.Seconds, false, false}
	// A number written as such stays free until it meets a unit, which it makes loose.
	u.Free = (a.Free || b.Free) && u == Unit{} && (a.Free && (b.Free || b == Unit{}) || b.Free && a == Unit{})
	u.Loose = !u.Free && (a.Free || b.Free || a.Loose || b.Loose)
	return u
}

func truth(b bool) float64 {
	if b {
		return 1
	}
	return 0
}

func (c *compiler) binary(n *ast.BinaryNode, depth int) (value, error) {
	if v, ok, err := c.word(n, depth); ok {
		return v, err
	}
	a, err := c.node(n.Left, depth+1)
	if err != nil {
		return a, err
	}
	b, err := c.node(n.Right, depth+1)
	if err != nil {
		return b, err
	}
	f, g := a.f[0], b.f[0]
	switch op := n.Operator; op {
	case "&&", "and", "||", "or":
		if a.kind != TruthKind || b.kind != TruthKind {
			return a, at(n, "%q joins comparisons, not %s and %s", op, a.kind, b.kind)
		}
		if op == "&&" || op == "and" {
			a.f[0] = func(s []float64) float64 { return f(s) * g(s) }
		} else {
			a.f[0] = func(s []float64) float64 { return math.Max(f(s), g(s)) }
		}
		return a, nil
	default:
		if a.kind != NumberKind || b.kind != NumberKind {
			return a, at(n, "%q needs two numbers, not %s and %s", op, a.kind, b.kind)
		}
		switch op {
		case "*":
			return value{unit: times(a.unit, b.unit, 1), f: [4]fn{func(s []float64) float64 { return f(s) * g(s) }}}, nil
		case "/":
			return value{unit: times(a.unit, b.unit, -1), f: [4]fn{func(s []float64) float64 { return f(s) / g(s) }}}, nil
		case "**", "^":
			if !a.unit.fits(Number) || !b.unit.fits(Number) {
				return a, at(n, "a power needs numbers without units, not %s and %s", a.unit, b.unit)
			}
			return value{unit: a.unit, f: [4]fn{func(s []float64) float64 { return math.Pow(f(s), g(s)) }}}, nil
		}
		u, ok := same(a.unit, b.unit)
		if !ok {
			return a, at(n, "%q joins %s and %s, which do not go together", op, a.unit, b.unit)
		}
		num := map[string]fn{
			"+": func(s []float64) float64 { return f(s) + g(s) },
			"-": func(s []float64) float64 { return f(s) - g(s) },
			"%": func(s []float64) float64 { return mod(f(s), g(s)) },
		}
		cmp := map[string]fn{
			"<":  func(s []float64) float64 { return truth(f(s) < g(s)) },
			"<=": func(s []float64) float64 { return truth(f(s) <= g(s)) },
			">":  func(s []float64) float64 { return truth(f(s) > g(s)) },
			">=": func(s []float64) float64 { return truth(f(s) >= g(s)) },
			"==": func(s []float64) float64 { return truth(f(s) == g(s)) },
			"!=": func(s []float64) float64 { return truth(f(s) != g(s)) },
		}
		if h := num[op]; h != nil {
			return value{unit: u, f: [4]fn{h}}, nil
		}
		if h := cmp[op]; h != nil {
			return value{kind: TruthKind, f: [4]fn{h}}, nil
		}
		return a, at(n, "there is no %q in formulas", op)
	}
}

// word compares a word that is read with one that is written.
func (c *compiler) word(n *ast.BinaryNode, depth int) (v value, ok bool, err error) {
	other, text := n.Left, n.Right
	if _, first := n.Left.(*ast.StringNode); first {
		other, text = n.Right, n.Left
	}
	s, ok := text.(*ast.StringNode)
	if !ok || n.Operator != "==" && n.Operator != "!=" {
		return v, false, nil
	}
	if v, err = c.node(other, depth+1); err != nil {
		return v, true, err
	}
	want := float64(slices.Index(v.words, s.Value))
	if want < 0 {
		if v.kind != WordKind {
			return v, true, at(n, "%s is no word", v.kind)
		}
		return v, true, at(text, "%q is not one of %s", s.Value, strings.Join(v.words, ", "))
	}
	f, is := v.f[0], n.Operator == "=="
	return value{kind: TruthKind, f: [4]fn{func(s []float64) float64 { return truth((f(s) == want) == is) }}}, true, nil
}

// mod has the sign of its divisor, so that a wheel that turns back goes round too.
func mod(a, b float64) float64 {
	m := math.Mod(a, b)
	if m != 0 && (m < 0) != (b < 0) {
		m += b
	}
	return m
}

func (c *compiler) conditional(n *ast.ConditionalNode, depth int) (value, error) {
	q, err := c.node(n.Cond, depth+1)
	if err != nil {
		return q, err
	}
	a, err := c.node(n.Exp1, depth+1)
	if err != nil {
		return a, err
	}
	b, err := c.node(n.Exp2, depth+1)
	if err != nil {
		return b, err
	}
	if q.kind != TruthKind {
		return q, at(n, "what stands before ? must be a comparison, not %s", q.kind)
	}
	if a.kind != b.kind {
		return a, at(n, "gives %s or %s; both must be alike", a.kind, b.kind)
	}
	u, ok := same(a.unit, b.unit)
	if !ok {
		return a, at(n, "gives %s or %s; both must be alike", a.unit, b.unit)
	}
	out := value{kind: a.kind, unit: u}
	for i := range a.f {
		if f, g, test := a.f[i], b.f[i], q.f[0]; f != nil {
			out.f[i] = func(s []float64) float64 {
				if test(s) != 0 {
					return f(s)
				}
				return g(s)
			}
		}
	}
	return out, nil
}
