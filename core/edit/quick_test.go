package edit

import (
	"encoding/json"
	"fmt"
	"maps"
	"math"
	"math/rand/v2"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"

	"ivypocket/core/scheme"
	"ivypocket/core/template"
	"ivypocket/core/timing"
)

// samples are values for a property: at its limits and at random within them.
func samples(p *scheme.Property, rng *rand.Rand) []scheme.Value {
	number := func() float64 {
		lo, hi := math.Max(p.Lo, -2000), math.Min(p.Hi, 2000)
		v := lo + rng.Float64()*(hi-lo)
		if p.Integer {
			return math.Round(v)
		}
		return math.Round(v*100) / 100
	}
	switch p.Type {
	case scheme.Numbers:
		if p.Width() == 1 {
			return []scheme.Value{scheme.One(number()), scheme.One(p.Lo), scheme.One(p.Hi), scheme.One(p.Hi + 1)}
		}
		v := scheme.Value{}
		for range p.Width() {
			v.Numbers = append(v.Numbers, number())
		}
		return []scheme.Value{v, scheme.One(number()), scheme.Many(1)}
	case scheme.Colour:
		return []scheme.Value{scheme.Says("#102030"), scheme.Says("#10203040"), scheme.Says("colour:none"), scheme.Says("red")}
	case scheme.Choice:
		return []scheme.Value{scheme.Says(p.Words[rng.IntN(len(p.Words))]), scheme.Says("song")}
	case scheme.Text:
		return []scheme.Value{scheme.Says("Kites"), scheme.Says(""), scheme.Says("a\tb\n\u202e"), scheme.Says("x\x07y"), scheme.Says(strings.Repeat("long ", 600)), scheme.One(3)}
	case scheme.Switch:
		return []scheme.Value{scheme.Is(true), scheme.Is(false), scheme.One(1)}
	}
	return nil
}

// The quick way to set a value and the way through the whole document come to the
// same draft and the same changes, to the byte; what the one refuses so does the other.
func TestTheQuickWayComesToTheSame(t *testing.T) {
	files, err := filepath.Glob("../../demo/templates/*.json")
	if err != nil || len(files) == 0 {
		t.Fatal("no templates", err)
	}
	rng := rand.New(rand.NewPCG(5, 6))
	quick, all := 0, 0
	for _, file := range files {
		raw, err := os.ReadFile(file)
		if err != nil {
			t.Fatal(err)
		}
		// The demo knows its media by name until it is drawn.
		raw = regexp.MustCompile(`"demo:[a-z-]+"`).ReplaceAll(raw, []byte(`"sha256:`+strings.Repeat("0a", 32)+`"`))
		d, err := NewDraft(raw)
		if err != nil {
			t.Fatalf("%s: %v", file, err)
		}
		var ops []DraftOp
		d.Doc.VisitNodes(func(_, path string, n *template.Node) {
			for _, p := range n.Sort().Properties() {
				if !n.Has(p) && rng.IntN(4) > 0 { // what it does not have is refused, and tried now and then
					continue
				}
				for _, v := range samples(p, rng) {
					at := path + "/" + p.Name
					if p.Parted() && len(v.Numbers) == 1 && rng.IntN(2) == 0 {
						at += "." + p.PartName(rng.IntN(p.Width()))
					}
					op := DraftOp{Kind: "set", Path: at, Value: &v}
					if rng.IntN(3) == 0 {
						op.Format = d.Doc.Formats[rng.IntN(len(d.Doc.Formats))].ID
					}
					ops = append(ops, op)
				}
			}
		})
		d.Doc.VisitNodes(func(_, path string, n *template.Node) {
			for _, name := range slices.Sorted(maps.Keys(n.Motion)) {
				for _, change := range []func(m *template.Move){
					func(m *template.Move) { // later
						for i := range m.Keys {
							if m.Keys[i].At.D != 0 {
								m.Keys[i].At = m.Keys[i].At.Add(timing.NewRat(7, 3))
							}
						}
					},
					func(m *template.Move) { m.Keys = m.Keys[:1] },
					func(m *template.Move) { m.Keys[0].Ease = &timing.Easing{0.3, -1, 0.2, 2.5} },
					func(m *template.Move) { m.Keys[0].Ease, m.Keys[0].Hold = nil, true },
					func(m *template.Move) { slices.Reverse(m.Keys) }, // not in order
					func(m *template.Move) { m.Keys[0].ID = "" },      // the document gives it one
					func(m *template.Move) { m.Keys[0].ID = m.Keys[len(m.Keys)-1].ID },
					func(m *template.Move) { m.Keys[0].Value = scheme.Says("odd") },
					func(m *template.Move) { m.Keys[0].Value = scheme.One(1e30) },
					func(m *template.Move) { m.Unit = template.SelfUnit },
					func(m *template.Move) {},
				} {
					m := *n.Motion[name]
					m.Keys = slices.Clone(m.Keys)
					change(&m)
					ops = append(ops, DraftOp{Kind: "keys", Path: path + "/" + name, Move: &m})
				}
			}
		})
		rng.Shuffle(len(ops), func(i, j int) { ops[i], ops[j] = ops[j], ops[i] })
		ops = ops[:min(len(ops), 80)]
		d.Doc.VisitAll(func(_ string, y *template.Layer) { // what is typed, always
			if y.Can(scheme.Worded) {
				for _, v := range samples(scheme.Wording.Text, rng) {
					ops = append(ops, DraftOp{Kind: "set", Path: "layers/" + y.ID + "/text", Value: &v})
				}
			}
		})
		for _, e := range d.Doc.Sheet.Entries() {
			for _, v := range []string{`"Kites"`, `""`, `"two\nlines"`, `"x\u0007y"`, `7`, `"` + strings.Repeat("long ", 600) + `"`} {
				ops = append(ops, DraftOp{Kind: "put", Path: "entries/" + e.ID + "/default", Part: json.RawMessage(v)})
			}
		}
		rng.Shuffle(len(ops), func(i, j int) { ops[i], ops[j] = ops[j], ops[i] })
		for k, op := range ops {
			if k%8 == 7 {
				op = DraftOp{Kind: "batch", Ops: ops[k-3 : k+1]}
			}
			what := fmt.Sprintf("%s: %s %s %s", filepath.Base(file), op.Kind, op.Path, op.Format)
			all++
			a, ca, ok := d.quick(op)
			b, cb, err := d.anew(op)
			if !ok {
				if err == nil {
					d = b
				}
				continue
			}
			quick++
			if err != nil {
				t.Fatalf("%s: carried out, and refused by the whole document: %v", what, err)
			}
			if x, y := bytesOf(t, a), bytesOf(t, b); x != y {
				t.Fatalf("%s: came to\n%s\nnot\n%s", what, x, y)
			}
			if would, err := d.Would(op); err != nil || bytesOf(t, would) != bytesOf(t, a) {
				t.Fatalf("%s: looked at it is %s: %v", what, bytesOf(t, would), err)
			}
			if x, y := marshalled(t, ca), marshalled(t, cb); x != y {
				t.Fatalf("%s: changed\n%s\nnot\n%s", what, x, y)
			}
			if back, err := a.Replay(Reverse(ca)); err != nil || bytesOf(t, back) != bytesOf(t, d) {
				t.Fatalf("%s: was not taken back: %v", what, err)
			}
			d = a
		}
	}
	if quick < all/10 || quick > all*9/10 {
		t.Errorf("%d of %d went the quick way", quick, all)
	}
}

func marshalled(t *testing.T, changes []Change) string {
	t.Helper()
	if changes == nil {
		changes = []Change{}
	}
	b, err := json.Marshal(changes)
	if err != nil {
		t.Fatal(err)
	}
	return string(b)
}
