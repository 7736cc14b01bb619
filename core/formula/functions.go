package formula

import (
	"maps"
	"math"
	"slices"
	"sort"
	"strings"

	"github.com/expr-lang/expr/ast"
)

// rule says what units a function takes and gives.
type rule uint8

const (
	alike   rule = iota // all arguments alike; gives their unit
	pure                // numbers without units; gives one
	angular             // an angle in degrees; gives a number
	sign                // any unit; gives a number
)

// function is one function of formulas, of one, two or three numbers. One of
// two that takes more is applied to them in pairs.
type function struct {
	rule rule
	// says is how it is written, and what it gives.
	says [2]string
	f1   func(a float64) float64
	f2   func(a, b float64) float64
	f3   func(a, b, c float64) float64
	more bool
	args int // of those that call deals with itself
}

func (f *function) least() int {
	switch {
	case f.f1 != nil:
		return 1
	case f.f2 != nil:
		return 2
	case f.f3 != nil:
		return 3
	}
	return f.args
}

// functions has the expression library's own names and those that shading
// languages share (GLSL 4.60, section 8: mix, clamp, step, smoothstep).
var functions = map[string]function{
	"abs":   {says: [2]string{"abs(x)", "x without its sign"}, rule: alike, f1: math.Abs},
	"floor": {says: [2]string{"floor(x)", "the next whole number below"}, rule: alike, f1: math.Floor},
	"ceil":  {says: [2]string{"ceil(x)", "the next whole number above"}, rule: alike, f1: math.Ceil},
	"round": {says: [2]string{"round(x)", "the nearest whole number"}, rule: alike, f1: func(a float64) float64 { return math.Floor(a + 0.5) }},
	"sqrt":  {says: [2]string{"sqrt(x)", "the square root"}, rule: pure, f1: math.Sqrt},
	"sign":  {says: [2]string{"sign(x)", "-1, 0 or 1"}, rule: sign, f1: func(a float64) float64 { return truth(a > 0) - truth(a < 0) }},
	"sin":   {says: [2]string{"sin(angle)", "-1 to 1, of an angle in degrees"}, rule: angular, f1: func(a float64) float64 { return math.Sin(a * math.Pi / 180) }},
	"cos":   {says: [2]string{"cos(angle)", "-1 to 1, of an angle in degrees"}, rule: angular, f1: func(a float64) float64 { return math.Cos(a * math.Pi / 180) }},
	"tan":   {says: [2]string{"tan(angle)", "of an angle in degrees"}, rule: angular, f1: func(a float64) float64 { return math.Tan(a * math.Pi / 180) }},
	"min":   {says: [2]string{"min(a, b)", "the least of two or more"}, rule: alike, f2: math.Min, more: true},
	"max":   {says: [2]string{"max(a, b)", "the greatest of two or more"}, rule: alike, f2: math.Max, more: true},
	"clamp": {says: [2]string{"clamp(x, least, most)", "x, no less and no more"}, rule: alike, f3: func(v, lo, hi float64) float64 { return math.Min(math.Max(v, lo), hi) }},
	"step":  {says: [2]string{"step(edge, x)", "0 below the edge, 1 from it on"}, rule: sign, f2: func(edge, v float64) float64 { return truth(v >= edge) }},
	"smoothstep": {says: [2]string{"smoothstep(a, b, x)", "0 up to a, 1 from b on, softly between"}, rule: sign, f3: func(a, b, v float64) float64 {
		t := math.Min(1, math.Max(0, (v-a)/(b-a)))
		return t * t * (3 - 2*t)
	}},
	"mix":   {says: [2]string{"mix(a, b, share)", "from a to b, also of colours"}, args: 3},
	"remap": {says: [2]string{"remap(x, a, b, c, d)", "what is c where x is a, and d where it is b"}, args: 5},
}

func names() string {
	var out []string
	for n := range functions {
		out = append(out, n)
	}
	sort.Strings(out)
	return strings.Join(out, ", ")
}

func (c *compiler) call(n ast.Node, name string, args []ast.Node, depth int) (value, error) {
	switch name {
	case "layer", "layout", "value", "entry", "media", "colour", "progress":
		return c.ref(n)
	}
	fun, ok := functions[name]
	if !ok {
		return value{}, at(n, "there is no function %q; there are %s", name, names())
	}
	if need := fun.least(); len(args) < need || len(args) > need && !fun.more {
		return value{}, at(n, "%s takes %d arguments, not %d", name, need, len(args))
	}
	vals := make([]value, len(args))
	for i, a := range args {
		v, err := c.node(a, depth+1)
		if err != nil {
			return v, err
		}
		if v.kind != NumberKind && !(name == "mix" && v.kind == ColourKind && i < 2) {
			return v, at(a, "%s needs numbers, not %s", name, v.kind)
		}
		vals[i] = v
	}
	// alikes checks that arguments go together and returns their unit.
	alikes := func(vs ...value) (Unit, error) {
		u := vs[0].unit
		for _, v := range vs[1:] {
			var ok bool
			if u, ok = same(u, v.unit); !ok {
				return u, at(n, "%s is given %s and %s, which do not go together", name, vs[0].unit, v.unit)
			}
		}
		return u, nil
	}
	switch name {
	case "mix":
		if vals[0].kind != vals[1].kind {
			return value{}, at(n, "mix is given %s and %s", vals[0].kind, vals[1].kind)
		}
		u, err := alikes(vals[0], vals[1])
		if err == nil && !vals[2].unit.fits(Number) {
			err = at(n, "mix needs a share from 0 to 1 last, not %s", vals[2].unit)
		}
		out := value{kind: vals[0].kind, unit: u}
		for i := range out.f {
			if f, g, p := vals[0].f[i], vals[1].f[i], vals[2].f[0]; f != nil {
				out.f[i] = func(s []float64) float64 { a, t := f(s), p(s); return a + (g(s)-a)*t }
			}
		}
		return out, err
	case "remap":
		_, err := alikes(vals[0], vals[1], vals[2])
		if err != nil {
			return value{}, err
		}
		u, err := alikes(vals[3], vals[4])
		v, a, b, p, q := vals[0].f[0], vals[1].f[0], vals[2].f[0], vals[3].f[0], vals[4].f[0]
		return value{unit: u, f: [4]fn{func(s []float64) float64 {
			lo := p(s)
			return lo + (q(s)-lo)*(v(s)-a(s))/(b(s)-a(s))
		}}}, err
	}
	u, err := alikes(vals...)
	if err != nil {
		return value{}, err
	}
	switch fun.rule {
	case pure:
		if !u.fits(Number) {
			return value{}, at(n, "%s needs a number without a unit, not %s", name, u)
		}
	case angular:
		if !u.fits(Degrees) {
			return value{}, at(n, "%s needs an angle in degrees, not %s", name, u)
		}
		u = Number
	case sign:
		u = Number
	}
	return value{unit: u, f: [4]fn{fun.bind(vals)}}, nil
}

// bind applies a function to its arguments without leaving anything behind.
func (f *function) bind(vals []value) fn {
	a := vals[0].f[0]
	switch {
	case f.f1 != nil:
		g := f.f1
		return func(s []float64) float64 { return g(a(s)) }
	case f.f3 != nil:
		g, b, c := f.f3, vals[1].f[0], vals[2].f[0]
		return func(s []float64) float64 { return g(a(s), b(s), c(s)) }
	}
	g := f.f2
	for _, v := range vals[1:] {
		p, q := a, v.f[0]
		a = func(s []float64) float64 { return g(p(s), q(s)) }
	}
	return a
}

// Function is how a function is written, and what it gives.
type Function struct{ Name, Says, Doc string }

// Functions are all functions of formulas, by name.
func Functions() []Function {
	var out []Function
	for _, name := range slices.Sorted(maps.Keys(functions)) {
		f := functions[name]
		out = append(out, Function{name, f.says[0], f.says[1]})
	}
	return out
}
