package words

import (
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"ivypocket/core/geom"
)

func seeded(n uint64) *rand.Rand { return rand.New(rand.NewPCG(n, n)) }

func family(t testing.TB, files ...string) *Family {
	t.Helper()
	f := &Family{ID: files[0], Name: files[0]}
	for _, name := range files {
		f.Fonts = append(f.Fonts, shipped(t, name))
	}
	return f
}

func set(fam *Family, text string, change func(*Spec)) *Setting {
	sp := Spec{Text: text, Style: Style{Family: fam}, Size: 100, Leading: 1.2}
	if change != nil {
		change(&sp)
	}
	return NewSetter().Set(&sp)
}

// said is what the letters of each line show, blanks at their ends left out.
func said(text string, v *Setting) (out []string) {
	typed := []rune(text)
	for _, l := range v.Lines {
		s := ""
		for i, m := range v.Letters[l.From:l.To] {
			if i == 0 || m.From != v.Letters[l.From+i-1].From { // ß is two capitals
				s += string(typed[m.From:m.To])
			}
		}
		out = append(out, s)
	}
	return out
}

// Words never leave their box, whatever they are and however it is, unless it is said that
// they don't fit: widths to a hundredth of a px, 600 random wordings and boxes.
func TestFittedWordsStayInTheirBox(t *testing.T) {
	fam := family(t, "figtree-latin", "figtree-latin-ext")
	aids := []*Family{family(t, "rubik-arabic", "rubik-hebrew"), family(t, "noto-sans-sc-500"), nil}
	fam.StandIns = func(i int) *Family { return aids[min(i, 2)] }
	parts := strings.Fields("a of the kite Odalys, Fenn wind-blown AVATAR extraordinary fi ffl — 1,234.50 Straße şişe ألوان السماء שלום 夕凪の凧 I’m Unübersehbarkeiten W")
	r := rand.New(rand.NewPCG(3, 5))
	setter := NewSetter()
	over := 0
	for n := range 600 {
		var words []string
		for range 1 + r.IntN(14) {
			words = append(words, parts[r.IntN(len(parts))])
		}
		text := strings.Join(words, []string{" ", " ", " ", "\n"}[r.IntN(4)])
		sp := Spec{Text: text, Style: Style{Family: fam, Weight: float64(300 + r.IntN(600)), Case: Cases[r.IntN(len(Cases))], Figures: AllFigures[r.IntN(3)]}, Size: 20 + 100*r.Float64(), Leading: 0.9 + r.Float64(),
			Tracking: []float64{0, 0, 0.1, -0.02}[r.IntN(4)], Align: Aligns[r.IntN(4)], Stand: Stands[r.IntN(3)], Edges: AllEdges[r.IntN(2)], Lines: r.IntN(5), W: 80 + 900*r.Float64(), H: 40 + 500*r.Float64(), Even: r.IntN(3) == 0}
		sp.Least, sp.Closest = sp.Size*r.Float64(), sp.Tracking-0.1*r.Float64()
		sp.By = slices.Clone(AllMeans)
		r.Shuffle(4, func(i, j int) { sp.By[i], sp.By[j] = sp.By[j], sp.By[i] })
		sp.By = sp.By[:1+r.IntN(4)]
		v := setter.Set(&sp)
		if v.Over {
			over++
			continue
		}
		where := fmt.Sprintf("%d: %q in %.1f × %.1f by %v", n, text, sp.W, sp.H, sp.By)
		for _, l := range v.Lines {
			if l.Left < -0.01 || l.Right > sp.W+0.01 || l.Top < -0.01 || l.Bottom > sp.H+0.01 {
				t.Fatalf("%s: a line lies at %+v", where, l)
			}
			for _, m := range v.Letters[l.From:l.To] {
				if m.X < l.Left-0.01 || m.X+m.Advance > l.Right+0.01+math.Max(0, v.Tracking*v.Size) && !m.Blank {
					t.Fatalf("%s: a letter at %g to %g, its line from %g to %g", where, m.X, m.X+m.Advance, l.Left, l.Right)
				}
			}
		}
		if sp.Lines > 0 && len(v.Lines) > sp.Lines || v.Size > sp.Size || v.Size < sp.Least || v.Tracking > sp.Tracking || v.Tracking < sp.Closest {
			t.Fatalf("%s: %d lines at %g px, tracking %g", where, len(v.Lines), v.Size, v.Tracking)
		}
		if !v.Short { // nothing is lost but blanks at the ends of lines
			shown := strings.Join(strings.Fields(strings.Join(said(text, v), " ")), "")
			if want := strings.Join(strings.Fields(text), ""); shown != want {
				t.Fatalf("%s shows %q", where, shown)
			}
		}
	}
	if over > 400 {
		t.Errorf("%d of 600 don't fit: that tries little", over)
	}
}

// The means of fitting are tried in their order, each as little as it takes.
func TestMeansAreTriedInTheirOrder(t *testing.T) {
	fam := family(t, "figtree-latin")
	const text = "Odalys Fenn ties kites"
	wide := set(fam, text, nil).Box.W
	for _, c := range []struct {
		by       []Means
		w        float64
		lines    int
		size     float64
		tracking float64
		short    bool
	}{
		{[]Means{ByWrapping, BySize}, wide * 1.01, 1, 100, 0, false},
		{[]Means{ByWrapping, BySize}, wide * 0.7, 2, 100, 0, false},
		{[]Means{BySize, ByWrapping}, wide * 0.7, 1, 70, 0, false},
		{[]Means{BySize, ByWrapping}, wide * 0.4, 2, -1, 0, false}, // at 50 px one line is too wide still
		{[]Means{ByTracking, BySize}, wide * 0.97, 1, 100, -1, false},
		{[]Means{ByShortening}, wide * 0.5, 1, 100, 0, true},
		{nil, wide * 0.5, 1, 100, 0, false},
	} {
		v := set(fam, text, func(s *Spec) { s.By, s.W, s.Least, s.Closest = c.by, c.w, 50, -0.1 })
		if len(v.Lines) != c.lines || v.Short != c.short || c.size > 0 && math.Abs(v.Size-c.size) > 0.1 || c.tracking == 0 && v.Tracking != 0 || c.tracking < 0 && !(v.Tracking < 0) {
			t.Errorf("%v in %.0f of %.0f: %d lines at %.2f px, tracking %g, short %t", c.by, c.w, wide, len(v.Lines), v.Size, v.Tracking, v.Short)
		}
		if v.Over != (c.by == nil) {
			t.Errorf("%v in %.0f: over %t", c.by, c.w, v.Over)
		}
	}
	if v := set(fam, text, func(s *Spec) { s.By, s.W = []Means{ByShortening}, wide*0.5 }); !strings.HasPrefix(strings.Join(said(text+"…", v), ""), "Odalys Fe") {
		t.Errorf("shortened to %q", said(text+"…", v))
	}
}

// Lines grow down, both ways or up; leading is the distance of baselines.
func TestWhereLinesStand(t *testing.T) {
	fam := family(t, "figtree-latin")
	for _, c := range []struct {
		stand Stand
		edges Edges
		first float64 // baseline
	}{
		// Figtree's ascent is 0.95, its descent 0.25 (hhea), its capitals are 0.7 high (OS/2), of
		// an em; read off the font with fontTools.
		{Top, FaceEdges, 95}, {Bottom, FaceEdges, 500 - 25 - 150}, {Middle, FaceEdges, (500-(95+25+150))/2.0 + 95},
		{Top, CapitalEdges, 70}, {Bottom, CapitalEdges, 350}, {Middle, CapitalEdges, (500-(70+150))/2.0 + 70},
	} {
		v := set(fam, "One\nTwo", func(s *Spec) { s.H, s.W, s.Stand, s.Edges, s.Leading = 500, 600, c.stand, c.edges, 1.5 })
		if d := v.Lines[0].Baseline - c.first; math.Abs(d) > 1e-6 {
			t.Errorf("%s, %s: the first baseline lies at %g, not %g", c.stand, c.edges, v.Lines[0].Baseline, c.first)
		}
		if d := v.Lines[1].Baseline - v.Lines[0].Baseline; math.Abs(d-150) > 1e-6 {
			t.Errorf("%s: baselines are %g apart", c.stand, d)
		}
	}
	for align, x := range map[Align][2]float64{Start: {0, 0}, Centre: {0.5, 0.5}, End: {1, 1}} {
		v := set(fam, "One\nאחת", func(s *Spec) { s.W, s.Align = 600, align; s.Family = family(t, "figtree-latin", "rubik-hebrew") })
		for i, share := range x {
			if i == 1 && align != Centre { // what is read from right to left begins at the right
				share = 1 - share
			}
			l := v.Lines[i]
			if want := share * (600 - (l.Right - l.Left)); math.Abs(l.Left-want) > 1e-6 {
				t.Errorf("%s, line %d begins at %g, not %g", align, i, l.Left, want)
			}
		}
	}
	v := set(fam, "Odalys Fenn ties a kite to the pier", func(s *Spec) { s.W, s.Align, s.By = 700, Justified, []Means{ByWrapping} })
	if l := v.Lines[0]; len(v.Lines) != 3 || math.Abs(l.Right-700) > 1e-6 || v.Lines[2].Right > 690 {
		t.Errorf("justified: %+v", v.Lines)
	}
	if v := set(fam, "One\nTwo", func(s *Spec) { s.Paragraph = 30 }); math.Abs(v.Lines[1].Baseline-v.Lines[0].Baseline-150) > 1e-6 {
		t.Error("paragraphs stand no further apart")
	}
	if a, b := set(fam, "x", nil), set(fam, "x", func(s *Spec) { s.Rise = 12 }); a.Lines[0].Baseline-b.Lines[0].Baseline != 12 || a.Box != b.Box {
		t.Error("the baseline is not shifted, or the box is")
	}
}

// Even lines are as many as without, and the longest is as short as it can be.
func TestEvenLines(t *testing.T) {
	fam := family(t, "figtree-latin")
	const text = "The tide turns at noon and the kites come down again"
	plain := set(fam, text, func(s *Spec) { s.W, s.By = 1500, []Means{ByWrapping} })
	even := set(fam, text, func(s *Spec) { s.W, s.By, s.Even = 1500, []Means{ByWrapping}, true })
	if len(plain.Lines) != len(even.Lines) || even.Box.W >= plain.Box.W {
		t.Errorf("%q of %g, %q of %g", said(text, plain), plain.Box.W, said(text, even), even.Box.W)
	}
}

// Small capitals, capitals and figures of one width, in faces that have them and in others.
func TestCasesAndFigures(t *testing.T) {
	fam := family(t, "figtree-latin")
	if v := set(fam, "Straße", func(s *Spec) { s.Case = Capitals }); len(v.Letters) != 7 {
		t.Errorf("STRASSE has %d letters", len(v.Letters))
	}
	small := set(fam, "Aa", func(s *Spec) { s.Case = SmallCaps })
	big := set(fam, "AA", nil)
	if k := small.Letters[1].Advance / big.Letters[1].Advance; math.Abs(k-smallScale) > 0.02 {
		t.Errorf("a small capital is %g of a large one", k)
	}
	for _, f := range []string{"figtree-latin", "caveat-latin", "stardos-stencil-400", "dancing-script-latin"} {
		v := set(family(t, f), "0123456789", func(s *Spec) { s.Figures = Tabular })
		for _, m := range v.Letters {
			if math.Abs(m.Advance-v.Letters[0].Advance) > 1e-6 {
				t.Errorf("%s: digits of %g and %g", f, m.Advance, v.Letters[0].Advance)
			}
		}
	}
}

// Tracking sets letters apart, but for those that are joined, and leaves none after the last.
func TestTracking(t *testing.T) {
	fam := family(t, "figtree-latin", "rubik-arabic")
	plain, wide := set(fam, "kite", nil), set(fam, "kite", func(s *Spec) { s.Tracking = 0.1 })
	if d := wide.Box.W - plain.Box.W; math.Abs(d-30) > 1e-6 {
		t.Errorf("four letters are %g px wider", d)
	}
	if a, b := set(fam, "سماء", nil), set(fam, "سماء", func(s *Spec) { s.Tracking = 0.1 }); a.Box.W != b.Box.W {
		t.Error("joined letters are set apart")
	}
	joined := family(t, "rubik-latin")
	if a, b := set(joined, "office", nil), set(joined, "office", func(s *Spec) { s.Tracking = 0.001 }); len(a.Letters) == len(b.Letters) {
		t.Error("a ligature stays where letters are set apart")
	}
}

// What crept into a wording is taken out, and nothing else.
func TestTidy(t *testing.T) {
	for in, want := range map[string]string{"  Odalys  Fenn ": "Odalys Fenn", "a\tb": "a b", "a\r\nb\rc": "a\nb\nc", "\n\na\n\nb\n": "a\n\nb", "a\u00a0b": "a\u00a0b", "\ufeffa": "a", "a \n b": "a\nb", "": "", "👩‍👧": "👩‍👧"} {
		if got := Tidy(in); got != want || Tidy(got) != got {
			t.Errorf("%q: %q, not %q", in, got, want)
		}
	}
}

// Letters that no face has are told, and those that others stand in for.
func TestWhatIsMissingIsTold(t *testing.T) {
	fam := family(t, "figtree-latin")
	aids := []*Family{{ID: "rubik", Name: "Rubik", Fonts: []*Font{shipped(t, "rubik-hebrew")}}, nil}
	fam.StandIns = func(i int) *Family { return aids[min(i, 1)] }
	v := set(fam, "Tide שלום 潮\u200d", nil)
	if string(v.Missing) != "潮" || len(v.StandIns) != 1 || v.StandIns[0] != "Rubik" {
		t.Errorf("missing %q, stand-ins %v", string(v.Missing), v.StandIns)
	}
	if v := set(fam, "", nil); !v.Empty() || v.Box.W != 0 {
		t.Error("no words are something")
	}
	if v := set(fam, " \n ", nil); !v.Empty() {
		t.Error("blanks are words")
	}
}

// lines are outlines in straight pieces, 16 to a curve.
func lines(o *geom.Outlines) (out [][]geom.Point) {
	for _, q := range o.Paths {
		var l []geom.Point
		for i := range q.Nodes {
			for k := range 16 {
				l = append(l, q.At(i, float64(k)/16))
			}
		}
		out = append(out, l)
	}
	return out
}

// around counts how often lines go round a point.
func around(lines [][]geom.Point, p geom.Point) (n int) {
	for _, l := range lines {
		for i, a := range l {
			b := l[(i+1)%len(l)]
			if (a.Y <= p.Y) == (b.Y <= p.Y) || a.X+(b.X-a.X)*(p.Y-a.Y)/(b.Y-a.Y) <= p.X {
				continue
			}
			if n++; b.Y < a.Y {
				n -= 2
			}
		}
	}
	return n
}

// Strokes of variable faces overlap within their letters, and letters of connected hands and
// scripts with each other; their edge goes round all of it once. What is enclosed stays so.
func TestTheEdgeOfLetters(t *testing.T) {
	for _, c := range []struct {
		face, text string
		overlap    bool // as the file draws them
		contours   int  // that are left: those around what is joined, dots, and counters
	}{
		{"bitter-latin", "Reeds kept fast", true, 13 + 7},
		{"dancing-script-latin", "arbour", true, 1 + 3},
		{"cairo-arabic", "مرحبا", true, 2 + 1 + 1},
		{"stardos-stencil-700", "TIL", false, 6},
	} {
		o := set(family(t, c.face), c.text, func(s *Spec) { s.Size = 100 }).Whole()
		e := o.Edge()
		if len(e.Paths) != c.contours || e.Key == o.Key {
			t.Errorf("%s: %d contours became %d", c.text, len(o.Paths), len(e.Paths))
		}
		// From letter to letter, as they are read: so a stroke is drawn on.
		far := 0.0
		for _, p := range e.Paths {
			least := math.Inf(1)
			for _, n := range p.Nodes {
				least = math.Min(least, n.X)
			}
			if c.face != "cairo-arabic" {
				if least < far-60 {
					t.Errorf("%s: a contour at %.0f comes after one at %.0f", c.text, least, far)
				}
				far = math.Max(far, least)
			}
		}
		if o.Edge() != e {
			t.Errorf("%s: its edge is found twice", c.text)
		}
		rng := seeded(5)
		whole, edge := lines(o), lines(e)
		most, wrong := 0, 0
		for range 3000 {
			p := geom.Point{X: e.Box.X + rng.Float64()*e.Box.W, Y: e.Box.Y + rng.Float64()*e.Box.H}
			was, is := around(whole, p), around(edge, p)
			if (was != 0) != (is != 0) {
				wrong++ // beside a curve, whose pieces differ
			}
			most = max(most, was, -was)
			if is < -1 || is > 1 {
				t.Fatalf("%s: the edge goes round %v %d times", c.text, p, is)
			}
		}
		if wrong > 6 || c.overlap != (most > 1) {
			t.Errorf("%s: %d of 3000 points are elsewhere; at most %d times round one", c.text, wrong, most)
		}
	}
}
