package scheme

import (
	"encoding/json"
	"fmt"
	"strconv"
	"strings"

	"ivypocket/core/geom"
	"ivypocket/core/timing"
)

// Value is the whole value of one property: a number, several, text, true or
// false, or the points of a path. It says how it was written, not what it is
// for; a Property says whether it fits.
type Value struct {
	// Numbers are its numbers; of true and false 1 and 0.
	Numbers []float64
	Text    string
	Single  bool // one number, not a list of one
	Truth   bool // true or false
	// Wide is how many numbers each point has when Numbers are a path's.
	Wide int
	// Shorter tells, a bit for each number, which of them are hundredths of the
	// canvas' shorter side ("vmin" of CSS Values and Units Level 4) and not pixels.
	Shorter uint32
}

// One is the value of one number.
func One(v float64) Value { return Value{Numbers: []float64{v}, Single: true} }

// Many is the value of several numbers.
func Many(v ...float64) Value { return Value{Numbers: v} }

// Says is the value of a text, a word or a colour.
func Says(text string) Value { return Value{Text: text} }

// Is is true or false as a value.
func Is(on bool) Value {
	v := Value{Numbers: []float64{0}, Single: true, Truth: true}
	if on {
		v.Numbers[0] = 1
	}
	return v
}

// On reports whether a value is true.
func (v Value) On() bool { return v.Truth && v.Numbers[0] != 0 }

// Number is the first of its numbers, 0 when there is none.
func (v Value) Number() float64 {
	if len(v.Numbers) == 0 {
		return 0
	}
	return v.Numbers[0]
}

// Time is the value as an exact instant, in frames.
func (v Value) Time() (timing.Rat, error) {
	if v.Text != "" {
		return timing.ParseRat(v.Text)
	}
	if len(v.Numbers) != 1 || v.Truth {
		return timing.Rat{}, fmt.Errorf("is not a number of frames, such as 24 or \"25/2\"")
	}
	return timing.ParseRat(strconv.FormatFloat(v.Numbers[0], 'f', -1, 64))
}

// Instant is an exact instant as a value.
func Instant(r timing.Rat) Value {
	if r.D == 1 {
		return One(float64(r.N))
	}
	return Says(r.String())
}

// shorterUnit is what follows a length in hundredths of the shorter side.
const shorterUnit = "vmin"

// shares reads a length such as "25vmin".
func shares(text string) (float64, bool) {
	n, ok := strings.CutSuffix(text, shorterUnit)
	if !ok {
		return 0, false
	}
	v, err := strconv.ParseFloat(n, 64)
	return v, err == nil
}

// Resolved is the value in pixels on a canvas: lengths in shares of its shorter
// side are multiplied by it.
func (v Value) Resolved(canvas geom.Size) Value {
	if v.Shorter == 0 {
		return v
	}
	out := v
	out.Numbers = append([]float64(nil), v.Numbers...)
	for i := range out.Numbers {
		if v.Shorter&(1<<i) != 0 {
			out.Numbers[i] *= min(canvas.W, canvas.H) / 100
		}
	}
	out.Shorter, out.Text = 0, ""
	return out
}

// Equal reports whether two values say the same. A length in shares says it in its numbers,
// whether or not it has been read from text.
func (v Value) Equal(o Value) bool {
	if v.Text != o.Text && (v.Shorter == 0 || v.Text != "" && o.Text != "") || v.Truth != o.Truth || v.Wide != o.Wide || v.Shorter != o.Shorter || len(v.Numbers) != len(o.Numbers) {
		return false
	}
	for i := range v.Numbers {
		if v.Numbers[i] != o.Numbers[i] {
			return false
		}
	}
	return true
}

// UnmarshalJSON reads a number, a list of numbers, text, true or false, or a
// path's list of points, each of two numbers or of six. Lengths may be text
// such as "25vmin", alone or in a list.
func (v *Value) UnmarshalJSON(b []byte) error {
	var t any
	if err := json.Unmarshal(b, &t); err != nil {
		return err
	}
	out, err := FromTree(t)
	*v = out
	return err
}

// FromTree reads a value from decoded JSON, as UnmarshalJSON does.
func FromTree(t any) (Value, error) {
	switch t := t.(type) {
	case float64:
		return One(t), nil
	case json.Number:
		n, err := t.Float64()
		if err != nil {
			return Value{}, fmt.Errorf("%s is too large", t)
		}
		return One(n), nil
	case bool:
		return Is(t), nil
	case string:
		v := Says(t)
		if n, ok := shares(t); ok {
			v.Numbers, v.Single, v.Shorter = []float64{n}, true, 1
		}
		return v, nil
	case []any:
		return listValue(t)
	}
	return Value{}, fmt.Errorf("is neither a number, a list of numbers, text nor true or false")
}

func listValue(list []any) (Value, error) {
	v := Value{Numbers: make([]float64, 0, len(list))}
	for i, t := range list {
		one, err := FromTree(t)
		points, isList := t.([]any)
		switch {
		case isList:
			if i > 0 && v.Wide == 0 {
				return v, fmt.Errorf("[%d]: is a point among numbers", i)
			}
			v.Wide = geom.NodeWidth
			node, err := point(points)
			if err != nil {
				sep := ": "
				if strings.HasPrefix(err.Error(), "[") {
					sep = ""
				}
				return v, fmt.Errorf("[%d]%s%w", i, sep, err)
			}
			v.Numbers = append(v.Numbers, node[:]...)
		case err != nil || one.Truth || !one.Single:
			return v, fmt.Errorf("[%d]: is not a number", i)
		case v.Wide != 0:
			return v, fmt.Errorf("[%d]: is a number among points", i)
		default:
			if one.Shorter != 0 {
				if i >= 32 {
					return v, fmt.Errorf("[%d]: only the first 32 numbers may be in %s", i, shorterUnit)
				}
				v.Shorter |= 1 << i
			}
			v.Numbers = append(v.Numbers, one.Numbers[0])
		}
	}
	return v, nil
}

func point(list []any) (node [geom.NodeWidth]float64, err error) {
	if len(list) != 2 && len(list) != geom.NodeWidth {
		return node, fmt.Errorf("has %d numbers; a point has 2, or 6 with its handles", len(list))
	}
	for i, t := range list {
		v, err := FromTree(t)
		if err != nil || !v.Single || v.Truth || v.Shorter != 0 {
			return node, fmt.Errorf("[%d]: is not a number", i)
		}
		node[i] = v.Numbers[0]
	}
	return node, nil
}

// MarshalJSON writes what UnmarshalJSON reads.
func (v Value) MarshalJSON() ([]byte, error) { return json.Marshal(v.Tree()) }

// Tree is the value as json.Marshal takes it.
func (v Value) Tree() any {
	switch {
	case v.Truth:
		return v.On()
	case v.Wide != 0:
		points := [][]float64{}
		for i := 0; i+v.Wide <= len(v.Numbers); i += v.Wide {
			p := v.Numbers[i : i+v.Wide]
			if p[2] == 0 && p[3] == 0 && p[4] == 0 && p[5] == 0 {
				p = p[:2]
			}
			points = append(points, p)
		}
		return points
	case v.Numbers == nil || v.Single && v.Text != "":
		return v.Text
	case v.Single:
		return v.number(0)
	case v.Shorter == 0:
		return v.Numbers
	}
	list := make([]any, len(v.Numbers))
	for i := range list {
		list[i] = v.number(i)
	}
	return list
}

func (v Value) number(i int) any {
	if v.Shorter&(1<<i) != 0 {
		return strconv.FormatFloat(v.Numbers[i], 'f', -1, 64) + shorterUnit
	}
	return v.Numbers[i]
}

// String is the value for people.
func (v Value) String() string {
	b, err := json.Marshal(v)
	if err != nil {
		return v.Text
	}
	return strings.Trim(strings.ReplaceAll(strings.ReplaceAll(string(b), ",", ", "), `"`, ""), "[]")
}
