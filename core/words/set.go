package words

import (
	"crypto/sha256"
	"encoding/binary"
	"fmt"
	"math"
	"slices"
	"strings"
	"sync"

	"github.com/go-text/typesetting/font"
	lru "github.com/hashicorp/golang-lru/v2"

	"ivypocket/core/geom"
)

// Setting is a wording that has been set: where each letter stands. It is not changed
// once it is made. Places are in px from the top left corner of its box, y downwards.
type Setting struct {
	// Size and Tracking are those that were found.
	Size, Tracking float64
	Lines          []Line
	// Letters are in the order in which they are read.
	Letters []Letter
	// Words is how many there are.
	Words int
	// Box holds all lines, from the top edge of the first to the bottom edge of the
	// last, as wide as the widest; it is empty where there are no words.
	Box geom.Box
	// Turning is how many of the last letters are of digits that turn: where they stand
	// above or below their line, that cuts them off.
	Turning int
	// Over says that they don't fit their box, Short that something was left out.
	Over, Short bool
	// Missing are the letters that no face has, StandIns the families that stand in.
	Missing  []rune
	StandIns []string

	once  sync.Once
	whole *geom.Outlines
}

// Line is one line: its letters from one index up to another, and its edges.
type Line struct {
	From, To                           int
	Baseline, Left, Right, Top, Bottom float64
	RTL                                bool
}

// Letter is a grapheme cluster, or several of them that are shown by one ligature.
type Letter struct {
	// From and To are the letters of the wording as it was typed that it shows,
	// counted in Unicode code points.
	From, To int
	// Line and Word are counted from 0; a blank belongs to the word before it.
	Line, Word int
	// X is its left side, Y its baseline.
	X, Y, Advance float64
	Blank, RTL    bool

	in     *instance
	scale  float64
	glyphs []glyph
}

// Empty reports whether there is nothing to be seen.
func (s *Setting) Empty() bool {
	return !slices.ContainsFunc(s.Letters, func(l Letter) bool { return !l.Blank })
}

// Whole is the outline of all letters. It is made once.
func (s *Setting) Whole() *geom.Outlines {
	s.once.Do(func() { s.whole = s.Outline(0, len(s.Letters)) })
	return s.whole
}

// Outline is what letters from one index up to another look like, in px of the box.
func (s *Setting) Outline(from, to int) *geom.Outlines {
	var out geom.Outlines
	var key []byte
	s.glyphs(from, to, func(in *instance, id font.GID, at geom.Affine) {
		out.Add(in.outline(id), at)
		key = append(append(append(key, in.of.sum[:]...), in.key...), 0)
		key = binary.BigEndian.AppendUint32(key, uint32(id))
		for _, v := range [3]float64{at.A, at.E, at.F} {
			key = binary.BigEndian.AppendUint64(key, math.Float64bits(v+0))
		}
	})
	sum := sha256.Sum256(key)
	out.Done([16]byte(sum[:16]))
	out.EdgeBy(func() *geom.Outlines { return s.edge(from, to, [16]byte(sum[16:])) })
	return &out
}

// edge is the edge of what letters from one index up to another enclose together: those that
// are joined overlap.
func (s *Setting) edge(from, to int, key [16]byte) *geom.Outlines {
	var each []geom.Outlines
	s.glyphs(from, to, func(in *instance, id font.GID, at geom.Affine) {
		var o geom.Outlines
		o.Add(in.edge(id), at)
		o.Done([16]byte{})
		each = append(each, o)
	})
	// Those whose boxes meet are looked at together, where the first of them is read: a
	// stroke that is drawn on goes from letter to letter.
	first := make([]int, len(each))
	for i := range each {
		first[i] = i
		for j := range i {
			if each[i].Box.Meets(each[j].Box) && first[i] != first[j] {
				from, to := max(first[i], first[j]), min(first[i], first[j])
				for k := range i + 1 {
					if first[k] == from {
						first[k] = to
					}
				}
			}
		}
	}
	var edge geom.Outlines
	for i := range each {
		if first[i] != i {
			continue
		}
		paths, alone := each[i].Paths, true
		for j := i + 1; j < len(each); j++ {
			if first[j] == i {
				paths, alone = append(paths, each[j].Paths...), false
			}
		}
		if !alone {
			paths = geom.Edge(paths, s.Size)
		}
		edge.Paths = append(edge.Paths, paths...)
	}
	edge.Done(key)
	return &edge
}

// glyphs tells of the glyphs of letters from one index up to another, and what takes each
// from ems to its place.
func (s *Setting) glyphs(from, to int, each func(in *instance, id font.GID, at geom.Affine)) {
	for i := from; i < to; i++ {
		l := &s.Letters[i]
		k := s.Size * l.scale
		for _, g := range l.glyphs {
			each(l.in, g.id, geom.Affine{A: k, D: k, E: l.X + g.x*s.Size, F: l.Y + g.y*s.Size})
		}
	}
}

// Setter sets wordings and remembers what it has set. It is safe for use by many
// goroutines.
type Setter struct {
	texts    *lru.Cache[string, *text]
	settings *lru.Cache[string, *Setting]
}

// How many wordings a setter remembers: those of a large template, in several formats,
// while a few of their sizes move.
const (
	keptTexts    = 512
	keptSettings = 1024
)

// NewSetter returns one that remembers nothing yet.
func NewSetter() *Setter {
	s := &Setter{}
	s.texts, _ = lru.New[string, *text](keptTexts)
	s.settings, _ = lru.New[string, *Setting](keptSettings)
	return s
}

// key tells styles of a wording from others.
func (s *Style) key(wording string) string {
	return fmt.Sprintf("%s %g %t %v %s %s %t %t %t %s %s\x00%s", s.Family.sign(), s.Weight, s.Italic, s.Axes, s.Case, s.Figures, s.NoLigatures, s.apart, s.NoKerning, s.Direction, s.Language, wording)
}

// Set sets a wording. What lies outside the limits is drawn back to them.
func (s *Setter) Set(spec *Spec) *Setting {
	sp := *spec
	sp.bound()
	key := fmt.Sprintf("%g %g %g %g %g %s %s %s %g %g %d %v %s %g %g %g %t\x00", sp.Size, sp.Least, sp.Leading, sp.Tracking, sp.Closest, sp.Align, sp.Stand, sp.Edges, sp.Rise, sp.Paragraph,
		sp.Lines, sp.By, sp.Sign, sp.W, sp.H, sp.At, sp.Even) + sp.Style.key(sp.Text)
	if v, ok := s.settings.Get(key); ok {
		return v
	}
	f := fitting{Spec: &sp, setter: s}
	v := f.set()
	s.settings.Add(key, v)
	return v
}

// bound draws numbers back to what can be set.
func (s *Spec) bound() {
	in := func(v *float64, lo, hi float64) {
		if !(*v >= lo) { // NaN, too
			*v = lo
		}
		*v = math.Min(*v, hi)
	}
	in(&s.Size, 0, MaxSize)
	if s.At > 0 {
		s.Size, s.Least = math.Min(s.At, MaxSize), math.Min(s.At, MaxSize)
	}
	if !(s.Least > 0) || s.Least > s.Size {
		s.Least = s.Size
	}
	in(&s.Leading, 0, 20)
	in(&s.Tracking, -2, 10)
	in(&s.Closest, -2, s.Tracking)
	in(&s.W, 0, 1e6)
	in(&s.H, 0, 1e6)
	in(&s.Paragraph, 0, 1e6)
	in(&s.Rise, -1e6, 1e6)
	if s.Sign == "" {
		s.Sign = "…"
	}
}

func (s *Setter) shape(wording string, style Style) *text {
	key := style.key(wording)
	if t, ok := s.texts.Get(key); ok {
		return t
	}
	t := shape(wording, style)
	s.texts.Add(key, t)
	return t
}

// fitting is the search for a setting that fits.
type fitting struct {
	*Spec
	setter *Setter
}

// attempt is a wording at a size and a tracking, broken into lines.
type attempt struct {
	size, tracking float64
	text           *text
	lines          []row
	fits           bool
}

// row is a line of an attempt, in ems.
type row struct {
	para     *paragraph
	clusters []cluster // without blanks at its end
	words    []int     // of each cluster
	width    float64
	last     bool // of its paragraph
	hyphen   *cluster
}

// slack is how much too wide a line may be for the sake of rounding, in ems.
const slack = 1e-9

// try breaks a wording at a size into lines. Without wrap each paragraph is one.
func (f *fitting) try(wording string, size, tracking float64, wrap bool) attempt {
	style := f.Style
	if tracking != 0 {
		style.apart = true
	}
	a := attempt{size: size, tracking: tracking, text: f.setter.shape(wording, style)}
	limit := math.Inf(1)
	if f.W > 0 && size > 0 {
		limit = f.W / size
	}
	at := math.Inf(1)
	if wrap {
		at = limit
	}
	a.lines = a.text.lines(at, tracking)
	if n := len(a.lines); wrap && f.Even && n > 1 && !math.IsInf(limit, 1) {
		// The narrowest box in which it is as many lines.
		lo, hi := 0.0, limit
		for range 20 {
			if mid := (lo + hi) / 2; len(a.text.lines(mid, tracking)) <= n && widest(a.text.lines(mid, tracking)) <= mid+slack {
				hi = mid
			} else {
				lo = mid
			}
		}
		a.lines = a.text.lines(hi, tracking)
	}
	a.fits = (f.Lines == 0 || len(a.lines) <= f.Lines) && widest(a.lines) <= limit+slack
	if f.H > 0 && a.fits {
		top, bottom := f.heights(&a)
		a.fits = bottom-top <= f.H*(1+slack)
	}
	return a
}

func widest(rows []row) float64 {
	w := 0.0
	for i := range rows {
		w = math.Max(w, rows[i].width)
	}
	return w
}

// find looks for a setting that fits, by the means in their order.
func (f *fitting) find() (a attempt, short bool) {
	size, tracking, wrap := f.Size, f.Tracking, false
	a = f.try(f.Text, size, tracking, wrap)
	// largest finds the greatest value from lo to hi with which it fits; it does with lo.
	largest := func(lo, hi float64, try func(v float64) attempt) attempt {
		best := try(lo)
		for range 14 {
			mid := (lo + hi) / 2
			if b := try(mid); b.fits {
				best, lo = b, mid
			} else {
				hi = mid
			}
		}
		return best
	}
	for _, m := range f.By {
		if a.fits {
			break
		}
		bySize := func(v float64) attempt { return f.try(f.Text, v, tracking, wrap) }
		switch m {
		case ByWrapping:
			wrap = true
			if a = bySize(size); a.fits && size < f.Size {
				// Smaller rather than more lines: as large as so many lines can be.
				n := len(a.lines)
				a = largest(size, f.Size, func(v float64) attempt {
					b := bySize(v)
					b.fits = b.fits && len(b.lines) <= n
					return b
				})
			}
		case BySize:
			size = f.Least
			if a = bySize(size); a.fits {
				a = largest(size, f.Size, bySize)
			}
		case ByTracking:
			tracking = f.Closest
			if a = f.try(f.Text, size, tracking, wrap); a.fits && f.Tracking > f.Closest {
				a = largest(f.Closest, f.Tracking, func(v float64) attempt { return f.try(f.Text, size, v, wrap) })
			}
		case ByShortening:
			return f.shorten(size, tracking, wrap), true
		}
	}
	return a, false
}

// shorten finds the longest beginning that fits with the sign after it.
func (f *fitting) shorten(size, tracking float64, wrap bool) attempt {
	// Where it may be cut: behind whole letters.
	var ends []int
	whole := f.setter.shape(f.Text, f.Style)
	for i := range whole.paras {
		for _, c := range whole.paras[i].clusters {
			ends = append(ends, whole.origin[c.to])
		}
	}
	typed := []rune(f.Text)
	cut := func(n int) attempt {
		part := ""
		if n > 0 {
			part = strings.TrimRight(string(typed[:min(len(typed), ends[n-1])]), " \t\n.,;:–-")
		}
		return f.try(part+f.Sign, size, tracking, wrap)
	}
	lo, hi := 0, len(ends)
	best := cut(0)
	for lo < hi {
		mid := (lo + hi + 1) / 2
		if a := cut(mid); a.fits {
			best, lo = a, mid
		} else {
			hi = mid - 1
		}
	}
	return best
}

// lines breaks a text into lines that are no wider than a limit, in ems, where they
// can be: where UAX #14 allows it, as late as possible. Behind a slash within a word, as in
// km/h, a line ends only where it fits in no other way.
func (t *text) lines(limit, tracking float64) (out []row) {
	for i := range t.paras {
		p := &t.paras[i]
		n := len(p.clusters)
		if n == 0 {
			out = append(out, row{para: p, last: true})
		}
		for a := 0; a < n; {
			end := t.end(p, a, limit, tracking, false)
			r := p.row(t, a, end, tracking)
			if r.width > limit+slack {
				end = t.end(p, a, limit, tracking, true)
				r = p.row(t, a, end, tracking)
			}
			r.last = end == n
			out = append(out, r)
			a = end
		}
	}
	return out
}

// end is the cluster before which a line ends that begins with another; slashes says
// whether it may end behind one.
func (t *text) end(p *paragraph, a int, limit, tracking float64, slashes bool) int {
	n := len(p.clusters)
	end := n
	width := 0.0
	fit := false
	for z := a; z < n; z++ {
		if c := &p.clusters[z]; z > a && c.breaks && (slashes || !c.slash) {
			r := p.row(t, a, z, tracking)
			if fit && r.width > limit+slack {
				return end
			}
			end, fit = z, true
			if r.width > limit+slack {
				return end
			}
		}
		width += p.clusters[z].advance
		if fit && width > limit+slack+2 && !p.clusters[z].blank { // far beyond it
			return end
		}
	}
	if r := p.row(t, a, n, tracking); !fit || r.width <= limit+slack {
		return n
	}
	return end
}

// row is a line of a paragraph's clusters from one index up to another.
func (p *paragraph) row(t *text, a, z int, tracking float64) row {
	r := row{para: p}
	full := z
	for z > a && p.clusters[z-1].blank {
		z--
	}
	r.clusters, r.words = p.clusters[a:z], p.words[a:z]
	// Where a line ends within what was shaped as one, its letters may look otherwise.
	if n := len(r.clusters); n > 0 && (a > 0 && p.clusters[a].unsafe || full < len(p.clusters) && z == full && p.clusters[z].unsafe) {
		r.clusters, r.words = t.again(p, a, z)
	}
	if n := len(r.clusters); n > 0 && r.clusters[n-1].shy && full < len(p.clusters) {
		r.hyphen = t.hyphen(r.clusters[n-1])
	}
	r.width = widthOf(r.clusters, r.hyphen, tracking)
	return r
}

func widthOf(clusters []cluster, hyphen *cluster, tracking float64) (w float64) {
	last := 0.0
	for i := range clusters {
		c := &clusters[i]
		w += c.advance
		if last = 0; c.tracked() {
			last = tracking
		}
		w += last
	}
	if hyphen != nil {
		return w + hyphen.advance
	}
	return w - last // none after the last letter
}

// tracked reports whether tracking is added after a cluster.
func (c *cluster) tracked() bool {
	return (!c.joins || c.blank) && !c.ignored && (c.advance != 0 || len(c.glyphs) > 0)
}

// again shapes a part of a paragraph by itself.
func (t *text) again(p *paragraph, a, z int) ([]cluster, []int) {
	from, to := p.clusters[a].from, p.clusters[z-1].to
	var out []cluster
	var in []int
	for i := a; i < z; {
		j := i
		for j < z && p.clusters[j].level == p.clusters[i].level && p.clusters[j].in == p.clusters[i].in && p.clusters[j].scale == p.clusters[i].scale && t.script[p.clusters[j].from] == t.script[p.clusters[i].from] {
			j++
		}
		end := to
		if j < z {
			end = p.clusters[j].from
		}
		part := t.run(p.clusters[i].in, p.clusters[i].from, end, from, to)
		for k := range part {
			at := slices.IndexFunc(p.clusters[a:z], func(c cluster) bool { return part[k].from < c.to })
			in = append(in, p.words[a+max(0, at)])
			part[k].breaks = p.clusters[a+max(0, at)].breaks
		}
		out = append(out, part...)
		i = j
	}
	return out, in
}

// hyphen is what is seen of a soft hyphen at the end of a line.
func (t *text) hyphen(at cluster) *cluster {
	for _, r := range "\u2010-" {
		if !at.in.of.Has(r) {
			continue
		}
		at.in.mu.Lock()
		g, _ := at.in.face.NominalGlyph(r)
		at.advance = float64(at.in.face.HorizontalAdvance(g)) / at.in.of.upem
		at.in.mu.Unlock()
		at.glyphs, at.shy = []glyph{{id: g}}, false
		return &at
	}
	return nil
}

// edges are how far a line reaches above and below its baseline, in ems.
func (f *fitting) edges(a *attempt, r *row) (up, down float64) {
	in := a.text.choose.primary
	if f.Edges == CapitalEdges {
		return in.capitals, 0
	}
	up, down = in.ascent, in.descent
	for i := range r.clusters {
		up, down = math.Max(up, r.clusters[i].in.ascent), math.Max(down, r.clusters[i].in.descent)
	}
	return up, down
}

// heights are the top edge of the first line and the bottom edge of the last, in px
// from the first baseline.
func (f *fitting) heights(a *attempt) (top, bottom float64) {
	if len(a.lines) == 0 {
		return 0, 0
	}
	up, _ := f.edges(a, &a.lines[0])
	_, down := f.edges(a, &a.lines[len(a.lines)-1])
	return -up * a.size, f.baseline(a, len(a.lines)-1) + down*a.size
}

// baseline is how far below the first one a line's baseline is, in px.
func (f *fitting) baseline(a *attempt, line int) float64 {
	y := float64(line) * f.Leading * a.size
	for i := 1; i <= line; i++ {
		if a.lines[i].para != a.lines[i-1].para {
			y += f.Paragraph
		}
	}
	return y
}

// set finds a setting and lays its letters out.
func (f *fitting) set() *Setting {
	a, short := f.find()
	s := &Setting{Size: a.size, Tracking: a.tracking, Over: !a.fits, Short: short, Missing: a.text.missing}
	for _, fam := range a.text.stood {
		s.StandIns = append(s.StandIns, fam.Name)
	}
	width := f.W
	if width == 0 {
		width = widest(a.lines) * a.size
	}
	top, bottom := f.heights(&a)
	first := -top
	if f.H > 0 {
		switch f.Stand {
		case Middle:
			first += (f.H - (bottom - top)) / 2
		case Bottom:
			first += f.H - (bottom - top)
		}
	}
	words := 0
	for i := range a.lines {
		r := &a.lines[i]
		up, down := f.edges(&a, r)
		y := first + f.baseline(&a, i)
		l := Line{From: len(s.Letters), Baseline: y - f.Rise, Top: y - up*a.size, Bottom: y + down*a.size, RTL: r.para.rtl}
		if i > 0 && a.lines[i-1].para != r.para && len(s.Letters) > 0 {
			words = s.Letters[len(s.Letters)-1].Word + 1
		}
		f.lay(s, &a, r, &l, i, words, width)
		l.To = len(s.Letters)
		s.Lines = append(s.Lines, l)
	}
	s.finish()
	return s
}

// lay puts the letters of one line where they stand.
func (f *fitting) lay(s *Setting, a *attempt, r *row, l *Line, line, words int, width float64) {
	free := width - r.width*a.size
	stretch := 0.0
	left := 0.0
	align := f.Align
	if align == Justified {
		align = Start
		gaps := 0
		for i := range r.clusters {
			if r.clusters[i].parts {
				gaps++
			}
		}
		if !r.last && gaps > 0 && free > 0 {
			stretch, free = free/float64(gaps), 0
		}
	}
	switch {
	case align == Centre:
		left = free / 2
	case (align == End) != r.para.rtl:
		left = free
	}
	l.Left = left
	at := len(s.Letters)
	for i := range r.clusters {
		c := &r.clusters[i]
		to := a.text.origin[c.to]
		if o := a.text.origin[c.from]; to <= o { // several are shown for one
			to = o + 1
		}
		s.Letters = append(s.Letters, Letter{From: a.text.origin[c.from], To: to, Line: line, Word: words + r.words[i], Y: l.Baseline, Blank: c.blank,
			RTL: c.level%2 == 1, in: c.in, scale: c.scale, glyphs: c.glyphs})
	}
	x := left
	put := func(i int, c *cluster) {
		m := &s.Letters[at+i]
		m.X, m.Advance = x, c.advance*a.size
		if c.tracked() {
			m.Advance += a.tracking * a.size
		}
		if c.parts {
			m.Advance += stretch
		}
		x += m.Advance
	}
	hyphen := func() {
		if r.hyphen == nil {
			return
		}
		last := s.Letters[at+len(r.clusters)-1]
		s.Letters = append(s.Letters, Letter{From: last.To, To: last.To, Line: line, Word: last.Word, X: x, Y: l.Baseline, Advance: r.hyphen.advance * a.size,
			in: r.hyphen.in, scale: 1, glyphs: r.hyphen.glyphs})
		x += r.hyphen.advance * a.size
	}
	if r.para.rtl && r.hyphen != nil {
		hyphen()
	}
	for _, i := range visual(r.clusters) {
		put(i, &r.clusters[i])
	}
	if !r.para.rtl {
		hyphen()
	}
	l.Right = left + r.width*a.size
	if stretch > 0 {
		l.Right = width
	}
}

// visual is the order in which clusters of a line stand from left to right: rule L2 of
// UAX #9.
func visual(c []cluster) []int {
	order := make([]int, len(c))
	most, leastOdd := int8(0), int8(127)
	for i := range c {
		order[i] = i
		most = max(most, c[i].level)
		if c[i].level%2 == 1 {
			leastOdd = min(leastOdd, c[i].level)
		}
	}
	for level := most; level >= leastOdd && level > 0; level-- {
		for i := 0; i < len(c); {
			if c[order[i]].level < level {
				i++
				continue
			}
			j := i
			for j < len(c) && c[order[j]].level >= level {
				j++
			}
			slices.Reverse(order[i:j])
			i = j
		}
	}
	return order
}

// finish finds what follows from where the letters stand.
func (s *Setting) finish() {
	for i := range s.Letters {
		s.Words = max(s.Words, s.Letters[i].Word+1)
	}
	if s.Empty() {
		s.Words = 0
		return
	}
	first := true
	for _, l := range s.Lines {
		if l.From == l.To {
			continue
		}
		b := geom.Box{X: l.Left, Y: l.Top, W: l.Right - l.Left, H: l.Bottom - l.Top}
		if first {
			s.Box, first = b, false
			continue
		}
		x, y := math.Min(s.Box.X, b.X), math.Min(s.Box.Y, b.Y)
		s.Box = geom.Box{X: x, Y: y, W: math.Max(s.Box.X+s.Box.W, b.X+b.W) - x, H: math.Max(s.Box.Y+s.Box.H, b.Y+b.H) - y}
	}
}
