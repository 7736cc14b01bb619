// Package timing is the room for exact time: frame rates and instants as
// fractions, timecode, easing curves and key tracks. Nothing outside it
// divides by a rate. It holds three clocks apart by type: output frames,
// template time and source time.
package timing

import (
	"cmp"
	"encoding/json"
	"fmt"
	"math"
	"math/big"
	"math/bits"
	"strconv"
	"strings"
)

// Rat is an exact fraction with a positive denominator, in lowest terms. The
// zero value is not a number; use NewRat or Int.
type Rat struct{ N, D int64 }

// NewRat returns n/d in lowest terms. d must not be 0.
func NewRat(n, d int64) Rat {
	if d < 0 {
		n, d = -n, -d
	}
	g := gcd(abs(n), d)
	if g > 1 {
		n, d = n/g, d/g
	}
	return Rat{n, d}
}

// Int returns n/1.
func Int(n int64) Rat { return Rat{n, 1} }

// Mul returns r·o.
func (r Rat) Mul(o Rat) Rat {
	g1, g2 := gcd(abs(r.N), o.D), gcd(abs(o.N), r.D)
	return NewRat((r.N/g1)*(o.N/g2), (r.D/g2)*(o.D/g1))
}

// Div returns r/o; o must not be 0.
func (r Rat) Div(o Rat) Rat { return r.Mul(NewRat(o.D, o.N)) }

// Add returns r+o. Where the denominators have much in common, as those of sums of the same
// fractions have, nothing on the way is larger than it must be (Knuth, The Art of Computer
// Programming 2, 4.5.1).
func (r Rat) Add(o Rat) Rat {
	if r.D == 0 || o.D == 0 { // no number stays none
		return Rat{}
	}
	g := gcd(r.D, o.D)
	n := r.N*(o.D/g) + o.N*(r.D/g)
	if n == 0 {
		return Rat{0, 1}
	}
	h := gcd(abs(n), g)
	return Rat{n / h, (r.D / g) * (o.D / h)}
}

// Sub returns r-o.
func (r Rat) Sub(o Rat) Rat { return r.Add(Rat{-o.N, o.D}) }

// Cmp is -1, 0 or 1 as r is below, equal to or above o.
func (r Rat) Cmp(o Rat) int {
	switch {
	case r.D == o.D:
		return cmp.Compare(r.N, o.N)
	case r.D == 0 || o.D == 0:
		return 0
	}
	if (r.N < 0) != (o.N < 0) {
		if r.N < 0 {
			return -1
		}
		return 1
	}
	// The products may have more than 64 bits.
	ah, al := bits.Mul64(uint64(abs(r.N)), uint64(o.D))
	bh, bl := bits.Mul64(uint64(abs(o.N)), uint64(r.D))
	c := cmp.Or(cmp.Compare(ah, bh), cmp.Compare(al, bl))
	if r.N < 0 {
		return -c
	}
	return c
}

// Floor returns the largest whole number not above r.
func (r Rat) Floor() int64 {
	q := r.N / r.D
	if r.N%r.D != 0 && r.N < 0 {
		q--
	}
	return q
}

// Ceil is the least whole number that is not below r.
func (r Rat) Ceil() int64 { return -Rat{-r.N, r.D}.Floor() }

// Float returns the nearest float64.
func (r Rat) Float() float64 { return float64(r.N) / float64(r.D) }

func (r Rat) String() string {
	if r.D == 1 {
		return strconv.FormatInt(r.N, 10)
	}
	return fmt.Sprintf("%d/%d", r.N, r.D)
}

// maxTerm keeps products of two fractions inside int64.
const maxTerm = 1 << 31

// Short is the fraction, or the nearest of few enough digits to be written where it has too
// many: off by less than a millionth.
func (r Rat) Short() Rat {
	if abs(r.N) <= maxTerm && r.D <= maxTerm {
		return r
	}
	const parts = 1 << 20
	d := int64(parts)
	for d > 1 && math.Abs(r.Float())*float64(d) > maxTerm {
		d /= 2
	}
	return NewRat(int64(math.Round(r.Float()*float64(d))), d)
}

// ParseRat reads "30000/1001", "12" or a decimal such as "12.5".
func ParseRat(s string) (Rat, error) {
	s = strings.TrimSpace(s)
	// Digits, a sign, a stroke and a point alone: an exponent of nine digits
	// would keep the arithmetic below busy for hours.
	b, ok := (*big.Rat)(nil), len(s) <= 64 && strings.Trim(s, "0123456789+-./") == ""
	if ok {
		b, ok = new(big.Rat).SetString(s)
	}
	if !ok {
		return Rat{}, fmt.Errorf("%.40q is not a fraction such as 30000/1001", s)
	}
	if !b.Num().IsInt64() || !b.Denom().IsInt64() || abs(b.Num().Int64()) > maxTerm || b.Denom().Int64() > maxTerm {
		return Rat{}, fmt.Errorf("%q has too many digits", s)
	}
	return Rat{b.Num().Int64(), b.Denom().Int64()}, nil
}

// MarshalJSON writes whole numbers as numbers and others as "n/d".
func (r Rat) MarshalJSON() ([]byte, error) {
	if r.D == 1 {
		return []byte(strconv.FormatInt(r.N, 10)), nil
	}
	return json.Marshal(r.String())
}

// UnmarshalJSON reads a number or a string that ParseRat takes.
func (r *Rat) UnmarshalJSON(b []byte) error {
	s := string(b)
	if len(b) > 0 && b[0] == '"' {
		if err := json.Unmarshal(b, &s); err != nil {
			return err
		}
	}
	if len(s) > 64 {
		return fmt.Errorf("a fraction of %d characters is too long", len(s))
	}
	v, err := ParseRat(s)
	if err == nil {
		*r = v
	}
	return err
}

func gcd(a, b int64) int64 {
	for b != 0 {
		a, b = b, a%b
	}
	if a == 0 {
		return 1
	}
	return a
}

func abs(n int64) int64 {
	if n < 0 {
		return -n
	}
	return n
}

// Rate is a frame rate in frames per second, exact.
type Rate struct{ Rat }

// Common names of rates whose decimal form is a rounding; SMPTE ST 12-1 and
// common practice write 29.97 for 30000/1001.
var named = map[string]Rat{
	"23.976": {24000, 1001}, "23.98": {24000, 1001}, "29.97": {30000, 1001},
	"59.94": {60000, 1001}, "119.88": {120000, 1001},
}

// ParseRate reads "30000/1001", "25" or a usual rounding such as "29.97".
func ParseRate(s string) (Rate, error) {
	if r, ok := named[strings.TrimSpace(s)]; ok {
		return Rate{r}, nil
	}
	r, err := ParseRat(s)
	if err != nil {
		return Rate{}, err
	}
	if r.N <= 0 || r.Float() > 240 || r.Float() < 1 {
		return Rate{}, fmt.Errorf("%s frames per second is outside 1 to 240", s)
	}
	return Rate{r}, nil
}

// UnmarshalJSON reads a number or a string that ParseRate takes.
func (r *Rate) UnmarshalJSON(b []byte) error {
	s := string(b)
	if len(b) > 0 && b[0] == '"' {
		if err := json.Unmarshal(b, &s); err != nil {
			return err
		}
	}
	if len(s) > 64 {
		return fmt.Errorf("a frame rate of %d characters is too long", len(s))
	}
	v, err := ParseRate(s)
	if err == nil {
		*r = v
	}
	return err
}

// Nominal is the whole number of frames that timecode counts in a second.
func (r Rate) Nominal() int64 { return r.Add(NewRat(1, 2)).Floor() }

// Label is the rate as people write it, such as 29.97.
func (r Rate) Label() string {
	for _, name := range []string{"23.976", "29.97", "59.94", "119.88"} {
		if named[name] == r.Rat {
			return name
		}
	}
	return strconv.FormatFloat(r.Float(), 'f', -1, 64)
}

// OutputFrame counts the frames of what is rendered, from 0.
type OutputFrame int64

// TemplateTime is an instant of a template, in frames of its own rate (not
// necessarily whole).
type TemplateTime struct{ Rat }

// SourceFrame counts the frames of a clip in the order in which they are
// seen, from 0.
type SourceFrame int64

// Map is the way from output frames to template time and on to the frames of
// clips. Output runs at the template's rate, if it is not Seen at another. A map made by
// hand is of a piece as long as its template; NewMap makes the others.
type Map struct {
	// Rate is the output's.
	Rate Rate
	// base is the template's, where the output has another.
	base Rate
	// Frames is the length of the output.
	Frames int64
	pieces []piece // nil when nothing is stretched
}

// MaxParts bounds the fractions of rates at which pieces run: those of NTSC have 1001
// parts, and what is computed from longer ones goes beyond what a number holds.
const MaxParts = 1001

// usual are the rates at which films are made (common practice, no source).
var usual = []Rate{{NewRat(24000, 1001)}, {Int(24)}, {Int(25)}, {NewRat(30000, 1001)}, {Int(30)}, {Int(50)}, {NewRat(60000, 1001)}, {Int(60)}}

// Usual is the usual rate that lies nearest.
func (r Rate) Usual() Rate {
	best := usual[0]
	for _, u := range usual[1:] {
		if math.Abs(math.Log(u.Float()/r.Float())) < math.Abs(math.Log(best.Float()/r.Float())) {
			best = u
		}
	}
	return best
}

// Seconds returns the length of a number of frames.
func (r Rate) Seconds(frames int64) Rat { return Int(frames).Div(r.Rat) }

// DropFrame says whether timecode at this rate skips numbers to stay with the
// clock: 29.97 and 59.94 (SMPTE ST 12-1).
func (r Rate) DropFrame() bool {
	return r.Rat == Rat{30000, 1001} || r.Rat == Rat{60000, 1001}
}

// Timecode writes a frame as hh:mm:ss:ff, with a semicolon before the frames
// where numbers are dropped. Drop-frame counting skips the first 2 numbers (4
// at 59.94) of every minute but each tenth (SMPTE ST 12-1).
func (r Rate) Timecode(frame int64) string {
	sign := ""
	if frame < 0 {
		sign, frame = "-", -frame
	}
	nom, sep := r.Nominal(), ":"
	if r.DropFrame() {
		sep = ";"
		drop := nom / 15
		perTen := nom*600 - 9*drop
		perOne := nom*60 - drop
		d, m := frame/perTen, frame%perTen
		frame += 9 * drop * d
		if m >= drop {
			frame += drop * ((m - drop) / perOne)
		}
	}
	s := frame / nom
	return fmt.Sprintf("%s%02d:%02d:%02d%s%02d", sign, s/3600, s/60%60, s%60, sep, frame%nom)
}
