package trial

import (
	"context"
	"fmt"
	"math"
	"slices"
	"strings"

	"ivypocket/core/geom"
	"ivypocket/core/raster"
	"ivypocket/core/scene"
	"ivypocket/core/scheme"
	"ivypocket/core/sheet"
	"ivypocket/core/template"
	"ivypocket/core/timing"
	"ivypocket/core/trial/rules"
)

// wording is a text that is tried in every wording of the sheet at once.
type wording struct {
	name string
	// of makes it for an entry with room for so many letters and lines.
	of func(letters, lines int) string
}

const filler = "The tide turns at noon and all the kites come down again one by one over the pier while nobody lets go until the wind has "

// wordings are those that are tried.
var wordings = []wording{
	{"short words", func(letters, _ int) string { return clipped("Ox", letters) }},
	{"long words", func(letters, lines int) string {
		n := min(letters, 60*lines)
		text := strings.Repeat(filler, n/len(filler)+1)[:n]
		return strings.TrimSpace(breakInto(text, lines))
	}},
	{"one word that is very long", func(letters, _ int) string { return clipped("Segelflugzeugwettbewerbsleitung", letters) }},
	{"all lines", func(letters, lines int) string {
		return clipped(strings.TrimSuffix(strings.Repeat("A line of words\n", lines), "\n"), letters)
	}},
	{"capitals", func(letters, _ int) string { return clipped("ALL KITES DOWN BY NINE TONIGHT", letters) }},
	{"accents above and below", func(letters, _ int) string { return clipped("ÅŘÉÑÇ Ộ Ệ Ǻ ĝŷçąř", letters) }},
	{"Arabic and Hebrew with Latin", func(letters, _ int) string { return clipped("Kite مهرجان 2027 עפיפון", letters) }},
	{"Chinese and Japanese", func(letters, _ int) string { return clipped("夕凪の凧まつり 风筝节", letters) }},
	{"emoji", func(letters, _ int) string { return clipped("🪁 Wind ☀️ 👩‍👧", letters) }},
	{"digits", func(letters, _ int) string { return clipped("1,234,567.89 %", letters) }},
	{"no words", func(_, _ int) string { return "" }},
}

// clipped is a text within so many letters, none of them parted from its marks.
func clipped(text string, letters int) string {
	r := []rune(text)
	if len(r) <= letters {
		return text
	}
	return strings.TrimSpace(string(r[:letters]))
}

// breakInto spreads a text over so many lines.
func breakInto(text string, lines int) string {
	words := strings.Fields(text)
	if lines < 2 || len(words) < lines {
		return text
	}
	var out []string
	for i := range lines {
		out = append(out, strings.Join(words[i*len(words)/lines:(i+1)*len(words)/lines], " "))
	}
	return strings.Join(out, "\n")
}

// wordings are the cases in which all wordings of the sheet are another.
func (t *runner) wordings() (out []oneCase) {
	var entries []*template.Entry
	for _, e := range t.in.Doc.Sheet.Entries() {
		if e.Worded() && !e.Fixed {
			entries = append(entries, e)
		}
	}
	if len(entries) == 0 {
		return nil
	}
	for _, w := range wordings {
		v := t.in.Values.Clone()
		any := false
		for _, e := range entries {
			val := scheme.Says(w.of(e.Limit()))
			if e.Check(val) != nil {
				continue // it may not be so
			}
			v.Entries[e.ID] = val
			any = true
		}
		if any {
			out = append(out, oneCase{name: w.name, values: v})
		}
	}
	return out
}

// wordFinding is a finding about words, and in which further cases it holds.
type wordFinding struct {
	at   int
	more []string
}

// words tries the rules for words on every layer that says something.
func (t *runner) words(ctx context.Context, s *scene.Scene, r *sheet.Resolved, f template.Format, c oneCase) error {
	names, faint := map[string]string{}, map[string]bool{}
	r.Doc.VisitAll(func(_ string, y *template.Layer) {
		names[y.ID] = y.Name
		faint[y.ID] = y.Number(scheme.Wording.Weight) < 700 || !y.Can(scheme.Lettered)
	})
	name := func(id string) string {
		if n := names[id[strings.LastIndexByte(id, ':')+1:]]; n != "" {
			return n
		}
		return id
	}
	for _, layer := range saying(s) {
		w, ok := t.best(s, r, layer)
		if !ok {
			continue
		}
		w.Name, w.Bold = name(layer), !faint[layer]
		for k := range w.Others {
			w.Others[k].Name = name(w.Others[k].Name)
		}
		w.Stands = func(ratio float64) (float64, int, error) { return t.stands(ctx, s, layer, w.Frame, ratio) }
		w.Kept = func() (float64, error) { return t.kept(ctx, s, layer, w.Frame) }
		for _, rule := range rules.All() {
			key := strings.Join([]string{rule.Kind, f.ID, layer}, "/")
			found, err := rule.Find(&w)
			if err != nil {
				return err
			}
			if found == nil {
				continue
			}
			if was := t.worded[key]; was != nil {
				if fd := &t.report.Findings[was.at]; fd.Hint && !found.Hint { // the worse case is told
					was.more = append(was.more, fd.Case)
					fd.Hint, fd.Case, fd.What, fd.Advice, fd.Values, fd.Frame = false, c.name, found.What, found.Advice, c.values, w.Frame
					if fd.Picture, err = t.picture(ctx, s, w.Frame, PictureSide); err != nil {
						return err
					}
				} else {
					was.more = append(was.more, c.name)
				}
				continue
			}
			fd := Finding{Kind: Kind(rule.Kind), Hint: found.Hint, Format: f.ID, Frame: w.Frame, Case: c.name, Layer: layer, Where: w.Name, What: found.What, Advice: found.Advice, Values: c.values}
			if fd.Picture, err = t.picture(ctx, s, w.Frame, PictureSide); err != nil {
				return err
			}
			t.worded[key] = &wordFinding{at: len(t.report.Findings)}
			t.report.Findings = append(t.report.Findings, fd)
		}
	}
	return nil
}

// tellMore says of findings about words in which further cases they hold.
func (t *runner) tellMore() {
	for _, w := range t.worded {
		if n := len(w.more); n > 0 {
			slices.Sort(w.more)
			t.report.Findings[w.at].What += " Likewise with " + few(slices.Compact(w.more)) + "."
		}
	}
}

// few lists names, of many the first ones and how many more they are.
func few(names []string) string {
	const most = 4
	if n := len(names) - most; n > 1 {
		return fmt.Sprintf("%s and %d more cases", strings.Join(names[:most], ", "), n)
	}
	return strings.Join(names, ", ")
}

// saying are the layers that say something at any time.
func saying(s *scene.Scene) (out []string) {
	for _, v := range s.Said(s.Time().At(s.Poster())) {
		if !v.Set.Empty() {
			out = append(out, v.Layer)
		}
	}
	return out
}

// best finds where words are best seen: at the cue of their entry, at the poster if they are
// whole there, else in the middle of the time in which they are shown.
func (t *runner) best(s *scene.Scene, r *sheet.Resolved, layer string) (w rules.Words, ok bool) {
	step := max(1, s.Frames()/120)
	var shown []int64
	at := func(frame int64) (scene.Said, bool) {
		for _, v := range s.Said(s.Time().At(timing.OutputFrame(frame))) {
			if v.Layer == layer {
				return v, v.Shown && t.visible(s, layer, frame)
			}
		}
		return scene.Said{}, false
	}
	for f := int64(0); f < s.Frames(); f += step {
		if _, yes := at(f); yes {
			shown = append(shown, f)
		}
	}
	if len(shown) == 0 {
		return w, false
	}
	frame := shown[len(shown)/2]
	if p := int64(s.Poster()); slices.ContainsFunc(shown, func(f int64) bool { return f <= p && p < f+step }) {
		frame = p
	}
	if e := r.Doc.EntryOf("layers/" + layer + "/" + scheme.Wording.Text.Name); e != nil && e.Cue != "" {
		for _, c := range r.Doc.Cues {
			if c.ID == e.Cue {
				frame = min(s.Frames()-1, int64(s.Time().Frame(timing.TemplateTime{Rat: c.At})))
			}
		}
	}
	said, _ := at(frame)
	w = rules.Words{Said: said, Canvas: s.Canvas(), Frame: frame, Seconds: float64(int64(len(shown))*step) / s.Time().Base().Float()}
	lie := func(v scene.Said, b geom.Box) geom.Box {
		if quad, ok := v.Map.Quad(b); ok {
			return geom.Bounds(quad[:]...)
		}
		return geom.Box{}
	}
	w.Box = lie(said, said.Set.Box)
	w.Ink = lie(said, said.Set.Whole().Box)
	if b := said.Set.Box; b.H > 0 {
		_, sy := said.Map.Stretch(b)
		w.Height = said.Set.Size * sy
	}
	for _, o := range s.Said(s.Time().At(timing.OutputFrame(frame))) {
		if o.Layer != layer && o.Shown && !o.Set.Empty() && t.visible(s, o.Layer, frame) {
			w.Others = append(w.Others, rules.Other{Name: o.Layer, Box: lie(o, o.Set.Whole().Box)})
		}
	}
	for _, o := range s.Outlines(nil, s.Time().At(timing.OutputFrame(frame))) {
		if p := t.in.Doc.Pocket(o.Pocket); p != nil && p.IsLogo() && o.Opacity > 0.1 && !o.Cuts {
			if in := o.Box.Intersect(w.Ink); in != w.Ink { // words within a mark's box are meant to be there
				w.Others = append(w.Others, rules.Other{Name: o.Layer, Box: o.Box})
			}
		}
	}
	return w, true
}

// visible reports whether more than a trace of a layer is drawn on a frame.
func (t *runner) visible(s *scene.Scene, layer string, frame int64) bool {
	s.At(&t.list, s.Time().At(timing.OutputFrame(frame)), sized(s, TileSide))
	for i := range t.list.Main {
		if it := &t.list.Items[i]; it.Layer == layer && it.Opacity > 0.3 && it.Box.Intersect(geom.Box{W: float64(t.list.Size.W), H: float64(t.list.Size.H)}).W > 0 {
			return true
		}
	}
	return false
}

// stands measures how much of a layer's letters stands out from what is behind them.
func (t *runner) stands(ctx context.Context, s *scene.Scene, layer string, frame int64, ratio float64) (float64, int, error) {
	var behind, mark raster.Surface
	at := t.first(s, layer, frame)
	if at < 0 {
		return 1, 0, nil
	}
	// What marks the words lies behind them; of letters that still arrive one by one all are meant.
	if it := &t.list.Items[at]; it.Form.Kind != geom.Lettered && (it.Span == 0 || t.list.Items[at+1].Form.Kind != geom.Lettered) {
		for i := at + 1; i < t.list.Main && t.list.Items[i].Layer == layer; i++ {
			if t.list.Items[i].Form.Kind == geom.Lettered {
				at = i
				break
			}
		}
	}
	below, alone := t.list.Below(at), t.list.Only(at)
	if err := t.paint(ctx, &below, &behind); err != nil {
		return 0, 0, err
	}
	if err := t.paint(ctx, &alone, &mark); err != nil {
		return 0, 0, err
	}
	share, seen := raster.Legible(&mark, &behind, ratio)
	return share, seen, nil
}

// first is the first item of a layer on a frame, which holds the others where there are several;
// -1 is none.
func (t *runner) first(s *scene.Scene, layer string, frame int64) int {
	s.At(&t.list, s.Time().At(timing.OutputFrame(frame)), sized(s, PictureSide))
	for i := range t.list.Main {
		if t.list.Items[i].Layer == layer {
			return i
		}
	}
	return -1
}

// kept measures how much of a layer's letters masks and mattes leave.
func (t *runner) kept(ctx context.Context, s *scene.Scene, layer string, frame int64) (float64, error) {
	at := t.first(s, layer, frame)
	if at < 0 {
		return 1, nil
	}
	cut := t.list.Only(at)
	free := t.list.Only(at)
	masked := false
	free.Items = slices.Clone(free.Items)
	for i := range free.Items {
		it := &free.Items[i]
		masked = masked || it.Masks[0] < it.Masks[1] || it.Matte > 0
		it.Masks, it.Matte = [2]int{}, 0
	}
	if !masked {
		return 1, nil
	}
	var with, without raster.Surface
	if err := t.paint(ctx, &cut, &with); err != nil {
		return 0, err
	}
	if err := t.paint(ctx, &free, &without); err != nil {
		return 0, err
	}
	sum := func(s *raster.Surface) (n float64) {
		for i := 3; i < len(s.Pix); i += 4 {
			n += float64(s.Pix[i])
		}
		return n
	}
	if all := sum(&without); all > 0 {
		return math.Min(1, sum(&with)/all), nil
	}
	return 1, nil
}
