package server

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"

	"ivypocket/core/craft"
	"ivypocket/core/edit"
	"ivypocket/core/geom"
	"ivypocket/core/scene"
	"ivypocket/core/scheme"
	"ivypocket/core/sheet"
	"ivypocket/core/template"
	"ivypocket/core/timing"
	"ivypocket/store"
)

// What the bench is told. These types are the API's own.
type (
	// DraftItem is a draft in a list.
	DraftItem struct {
		PieceLine
		Category string       `json:"category"`
		Family   string       `json:"family"`
		Formats  []FormatView `json:"formats"`
		Layers   int          `json:"layers"`
		Pockets  int          `json:"pockets"`
		From     string       `json:"from" doc:"The template that it began from; empty is none"`
		Deleted  string       `json:"deleted"`
	}
	// OwnView is a value that a format has of its own.
	OwnView struct {
		Path   string `json:"path"`
		Called string `json:"called"`
		Layer  string `json:"layer" doc:"Of which layer, empty is of none"`
	}
	// BenchFormat is a canvas, with what it has of its own.
	BenchFormat struct {
		FormatView
		Own []OwnView `json:"own"`
		// Astray are layers that lie off this canvas and on that of the format it could be
		// laid out like.
		Astray  []string `json:"astray"`
		LayLike string   `json:"layLike"`
	}
	// LayoutView is a layout with its cells in each format.
	LayoutView struct {
		ID     string                `json:"id"`
		Cells  map[string][]CellView `json:"cells"`
		Splits map[string]SplitView  `json:"splits"`
	}
	// SplitView is what a layout says in a format; lengths are px.
	SplitView struct {
		Rows    []float64 `json:"rows" doc:"Weights"`
		Columns []float64 `json:"columns"`
		Gutter  float64   `json:"gutter"`
		Margin  float64   `json:"margin"`
		Radius  float64   `json:"radius"`
		By      string    `json:"by" enum:"shrink,outwards"`
		Own     bool      `json:"own" doc:"The format has some of it of its own"`
	}
	// CellView is one place of a layout, px from the canvas' top left corner.
	CellView struct {
		Row    int      `json:"row"`
		Column int      `json:"column"`
		Name   string   `json:"name"`
		Box    geom.Box `json:"box"`
		Free   bool     `json:"free" doc:"No layer stands in it"`
	}
	// ColourView is a named colour.
	ColourView struct {
		ID    string `json:"id"`
		Name  string `json:"name"`
		Value string `json:"value"`
		Uses  int    `json:"uses"`
	}
	// GradientView is a named gradient.
	GradientView struct {
		NamedView
		Stops []ShadeView `json:"stops"`
		Uses  int         `json:"uses"`
	}
	// EasingView is an easing by its name.
	EasingView struct {
		NamedView
		Ease  *timing.Easing `json:"ease,omitempty" required:"false"`
		Steps *timing.Steps  `json:"steps,omitempty" required:"false"`
		Uses  int            `json:"uses" doc:"Keys that go by it"`
		From  string         `json:"from" doc:"Of another template of the family, which; empty is this one's own"`
	}
	// ShadeView is a stop of a gradient.
	ShadeView struct {
		ID     string  `json:"id"`
		At     float64 `json:"at"`
		Colour string  `json:"colour" doc:"As it is written: #rrggbb, #rrggbbaa or colour:ID"`
		Shows  string  `json:"shows" doc:"The colour that it is then"`
	}
	// MissingView is media that a draft speaks of and the store has not.
	MissingView struct {
		Media string   `json:"media"`
		Name  string   `json:"name"`
		Where []string `json:"where"`
	}
	// DraftView is all that the bench shows.
	DraftView struct {
		ID         string                   `json:"id"`
		Name       string                   `json:"name"`
		Revision   int64                    `json:"revision"`
		Category   string                   `json:"category"`
		Family     string                   `json:"family"`
		About      string                   `json:"about"`
		Purpose    string                   `json:"purpose" enum:"stand-alone,overlay,frame,transition"`
		Rate       string                   `json:"rate"`
		RateN      int64                    `json:"rateN"`
		RateD      int64                    `json:"rateD"`
		Drop       bool                     `json:"dropFrame"`
		Frames     int64                    `json:"frames"`
		Tried      int64                    `json:"tried" doc:"The length in frames that it is tried at; 0 is its own"`
		Shortest   int64                    `json:"shortest"`
		Longest    int64                    `json:"longest"`
		Time       []PartView               `json:"time"`
		Moves      bool                     `json:"moves" doc:"It has keys, trims or spans, which a new length may leave or stretch"`
		Formats    []BenchFormat            `json:"formats"`
		Cues       []CueView                `json:"cues"`
		Colours    []ColourView             `json:"colours"`
		Gradients  []GradientView           `json:"gradients"`
		Easings    []EasingView             `json:"easings" doc:"Its own, by name"`
		Pockets    []PocketView             `json:"pockets"`
		Layers     []LayerLine              `json:"layers" doc:"The lowest first, groups before what is in them"`
		Layouts    []LayoutView             `json:"layouts"`
		Motifs     []MotifView              `json:"motifs"`
		SavedMoves []SavedMoveView          `json:"savedMoves" doc:"Its own, by name"`
		Recipes    []RecipeView             `json:"recipes"`
		Sheet      []GroupView              `json:"sheet"`
		Media      map[string]MediumView    `json:"media"`
		Missing    []MissingView            `json:"missing"`
		Stands     map[string][]scene.Stand `json:"stands" doc:"By format"`
		Undo       string                   `json:"undo"`
		Redo       string                   `json:"redo"`
		// From is the template on the shelf that it began from and whose next release it makes,
		// with its newest; no id is none.
		From ReleaseOf `json:"from"`
		// Faults say what keeps it from being drawn, Lacks what it needs to be released,
		// Remarks what its designer should know of its sheet.
		Faults  []string     `json:"faults"`
		Lacks   []string     `json:"lacks"`
		Remarks []RemarkView `json:"remarks"`
	}
	// RemarkView is something about a sheet that its designer should know.
	RemarkView struct {
		What  string `json:"what"`
		Entry string `json:"entry" doc:"Whose it is; empty is the sheet's"`
		Layer string `json:"layer" doc:"That it is about; empty is none"`
		Mend  string `json:"mend" doc:"What the button says that mends it; empty is none does"`
		Act   any    `json:"act" doc:"What mends it"`
	}
	// ReleaseOf is a release of a template.
	ReleaseOf struct {
		ID     string `json:"id"`
		Name   string `json:"name"`
		Number int    `json:"number"`
	}
	// MotifView is a group that is built once and used many times.
	MotifView struct {
		NamedView
		Uses int `json:"uses"`
	}
	// RecipeView is what some of the layers were built from; their ids begin with its
	// own and a hyphen.
	RecipeView struct {
		ID      string             `json:"id"`
		Kind    string             `json:"kind"`
		Numbers map[string]float64 `json:"numbers"`
		Frames  int64              `json:"frames" doc:"The length it was built for, in frames"`
	}
	// NamedView is a thing by its name.
	NamedView struct {
		ID   string `json:"id"`
		Name string `json:"name"`
	}
	// ActBody is one change of a draft: what a designer does, or an operation.
	ActBody struct {
		Kind    string             `json:"kind" doc:"What is done; the page on the API lists the kinds and their members"`
		Format  string             `json:"format,omitempty" doc:"The format that is looked at"`
		Frame   int64              `json:"frame,omitempty" doc:"The frame that is looked at"`
		Apart   bool               `json:"apart,omitempty" doc:"For this format alone"`
		Own     bool               `json:"own,omitempty" doc:"For the one use of a motif alone through which its layers are looked at"`
		Layers  []string           `json:"layers,omitempty" maxItems:"500"`
		From    []float64          `json:"from,omitempty" maxItems:"2" doc:"Where a drag began, px on the canvas"`
		To      []float64          `json:"to,omitempty" maxItems:"2"`
		Handle  []float64          `json:"handle,omitempty" maxItems:"2" doc:"The point of a box that is dragged, in shares of it"`
		Keep    bool               `json:"keep,omitempty" doc:"Keeps to one axis, to the proportions, to whole steps"`
		Middle  bool               `json:"middle,omitempty" doc:"From the middle"`
		Copy    bool               `json:"copy,omitempty"`
		Snap    float64            `json:"snap,omitempty" minimum:"0" doc:"How far something is drawn to a line, px on the canvas"`
		Picks   []int              `json:"picks,omitempty" maxItems:"2000" doc:"Points of a path, from 0"`
		Lines   []craft.SnapLine   `json:"lines,omitempty" maxItems:"300" doc:"More that it is drawn to: those of guides"`
		ID      string             `json:"id,omitempty"`
		Into    string             `json:"into,omitempty"`
		At      int                `json:"at,omitempty"`
		Name    string             `json:"name,omitempty"`
		Path    string             `json:"path,omitempty"`
		Paths   []string           `json:"paths,omitempty" maxItems:"500"`
		Way     string             `json:"way,omitempty"`
		By      string             `json:"by,omitempty"`
		Media   string             `json:"media,omitempty"`
		Kinds   []string           `json:"kinds,omitempty" maxItems:"8"`
		Record  bool               `json:"record,omitempty" doc:"What is set becomes a key at the frame that is looked at"`
		Keys    []string           `json:"keys,omitempty" maxItems:"10000" doc:"Keys by their paths, such as layers/ring/motion/place/k2"`
		Steps   *timing.Steps      `json:"steps,omitempty"`
		Value   any                `json:"value,omitempty"`
		Numbers map[string]float64 `json:"numbers,omitempty"`
		Pocket  string             `json:"pocket,omitempty"`
		Framing *geom.Framing      `json:"framing,omitempty"`
		Play    *PlayView          `json:"play,omitempty"`
		Members []string           `json:"members,omitempty" maxItems:"16"`
		Entry   string             `json:"entry,omitempty"`
		Group   string             `json:"group,omitempty"`
		Frames  int64              `json:"frames,omitempty"`
		Part    any                `json:"part,omitempty"`
		Move    any                `json:"move,omitempty"`
		Ties    any                `json:"ties,omitempty"`
		Clip    any                `json:"clip,omitempty"`
		Pin     any                `json:"pin,omitempty" doc:"An entry and the value (at) of it at which what is set holds"`
		Ops     []ActBody          `json:"ops,omitempty" maxItems:"500"`
	}
	// DraftDone is what an operation on a draft led to.
	DraftDone struct {
		Draft DraftView `json:"draft"`
		Title string    `json:"title"`
		// Joined tells of changes of the same thing that came between and stay.
		Joined string `json:"joined"`
		// Chosen are the layers that are selected now; absent leaves that as it is.
		Chosen []string `json:"chosen,omitempty" required:"false"`
	}
	// PastView is a step of a draft's history.
	PastView struct {
		Revision int64  `json:"revision"`
		Title    string `json:"title"`
		Who      string `json:"who" doc:"What the author is called; empty is not known"`
		Mine     bool   `json:"mine"`
		When     string `json:"when" format:"date-time"`
		State    string `json:"state" enum:"done,undone,gone,step"`
	}
)

// act is what a body says, as the core knows it.
func (b ActBody) act() (craft.Act, error) {
	var a craft.Act
	play, ops := b.Play, b.Ops
	b.Play, b.Ops = nil, nil
	if b.Kind == "frames" { // as a piece has it: the length, instants as they are
		b.Kind, b.At = "time", int(b.Frames)
	}
	raw, err := json.Marshal(b)
	if err == nil {
		err = json.Unmarshal(raw, &a)
	}
	if err != nil {
		return a, badRequest{fmt.Errorf("op: %w", err)}
	}
	for i, inner := range ops {
		sub, err := inner.act()
		if err != nil {
			return a, fmt.Errorf("ops[%d].%w", i, err)
		}
		a.Ops = append(a.Ops, sub)
	}
	if play != nil {
		op, err := OpBody{Play: play}.op()
		if err != nil {
			return a, err
		}
		a.Play = op.Play
	}
	return a, nil
}

// bench tells all of a draft.
func (s *Server) bench(ctx context.Context, row store.Document, author string) (DraftView, error) {
	draft, err := s.store.Read(row)
	if err != nil {
		return DraftView{}, err
	}
	d := draft.Doc
	p := pieceState{row: row, piece: edit.Piece{Values: sheet.Values{}.Clone()}, doc: craft.Drawable(d, s.lib)}
	p.as(ctx, d)
	v := DraftView{ID: row.ID, Name: d.Name, Revision: row.Revision, Category: d.Category, Family: d.Family, About: d.About, Purpose: string(d.Purpose),
		Rate: d.Rate.Label(), RateN: d.Rate.N, RateD: d.Rate.D, Drop: d.Rate.DropFrame(), Frames: d.Frames, Formats: []BenchFormat{}, Cues: []CueView{}, Colours: []ColourView{}, Gradients: []GradientView{}, Easings: []EasingView{},
		Pockets: []PocketView{}, Layers: layerLines(d), Layouts: []LayoutView{}, Motifs: []MotifView{}, SavedMoves: savedMoves(d), Recipes: []RecipeView{}, Sheet: sheetViews(d, sheet.Values{}, true), Media: map[string]MediumView{}, Missing: []MissingView{},
		Stands: map[string][]scene.Stand{}, Faults: []string{}, Lacks: []string{}, Remarks: []RemarkView{}}
	if v.Purpose == "" {
		v.Purpose = string(template.StandAlone)
	}
	h, err := s.store.History(ctx, row.ID, author)
	if err != nil {
		return v, err
	}
	v.Undo, v.Redo = h.Undo, h.Redo
	v.Moves = len(d.Spans) > 0
	uses := map[string]int{}
	d.VisitNodes(func(_, _ string, n *template.Node) {
		v.Moves = v.Moves || len(n.Motion) > 0 || n.Sort() == scheme.Performances || n.Sort() == scheme.Layers && (n.Given(scheme.In) || n.Given(scheme.Out))
		n.Values(func(p *scheme.Property, val scheme.Value) {
			if id, named := scheme.ColourID(val.Text); named && p.Type == scheme.Colour {
				uses[id]++
			}
			if p == scheme.GradientNamed {
				uses[val.Text]++
			}
		})
		for _, m := range n.Motion {
			for _, k := range m.Keys {
				if id, named := scheme.ColourID(k.Value.Text); named {
					uses[id]++
				}
			}
		}
		for _, val := range n.Own {
			if id, named := scheme.ColourID(val.Text); named {
				uses[id]++
			}
		}
	})
	for _, f := range formatViews(d) {
		bf := BenchFormat{FormatView: f, Own: []OwnView{}, Astray: []string{}}
		rest := d.Format(f.ID).Rest
		for _, path := range sortedKeys(rest) {
			o := OwnView{Path: path, Called: d.Called(path)}
			if id, ok := strings.CutPrefix(path, "layers/"); ok {
				o.Layer, _, _ = strings.Cut(id, "/")
			}
			bf.Own = append(bf.Own, o)
		}
		v.Formats = append(v.Formats, bf)
	}
	v.Shortest, v.Longest = d.Lengths()
	tried, time := lengthOf(ctx, d)
	v.Tried, v.Time = tried, partViews(time, d)
	for i, held := 0, craft.Held(d); i < len(v.Time); i++ {
		if v.Time[i].Kind == string(timing.Held) {
			v.Time[i].ID, held = held[0].ID, held[1:]
		}
	}
	for _, c := range d.Cues {
		at := int64(time.Frame(timing.TemplateTime{Rat: c.At}))
		if tried == 0 {
			at = min(d.Frames-1, int64(c.At.Float()+0.5))
		}
		v.Cues = append(v.Cues, CueView{c.ID, c.Name, at})
	}
	slices.SortStableFunc(v.Cues, func(a, b CueView) int { return int(a.Frame - b.Frame) })
	for _, c := range d.Colours {
		v.Colours = append(v.Colours, ColourView{c.ID, c.Name, c.Value, uses[c.ID]})
	}
	for _, g := range d.Gradients {
		v.Gradients = append(v.Gradients, GradientView{NamedView{g.ID, g.Name}, shadesOf(d, g), uses[g.ID]})
	}
	named := map[string]int{}
	d.VisitNodes(func(_, _ string, n *template.Node) {
		for _, m := range n.Motion {
			for _, k := range m.Keys {
				named[k.Named]++
			}
		}
	})
	for _, e := range d.Easings {
		v.Easings = append(v.Easings, EasingView{NamedView{e.ID, e.Name}, e.Ease, e.Steps, named[e.ID], ""})
	}
	s.pocketViews(p, &v.Pockets, v.Media)
	shows := map[string]int{}
	d.VisitAll(func(_ string, y *template.Layer) { shows[y.Text(scheme.Motif)]++ })
	for _, m := range d.Motifs {
		v.Motifs = append(v.Motifs, MotifView{NamedView{m.ID, m.Name}, shows[m.ID]})
	}
	for _, r := range d.Recipes {
		v.Recipes = append(v.Recipes, RecipeView(r))
	}
	for _, hash := range craft.Missing(d, s.lib) {
		v.Missing = append(v.Missing, missing(d, hash))
	}
	for _, l := range d.Layouts {
		v.Layouts = append(v.Layouts, LayoutView{l.ID, map[string][]CellView{}, map[string]SplitView{}})
	}
	scenes := map[string]*scene.Scene{}
	for i := range d.Formats {
		f := &d.Formats[i]
		sc, err := s.scene(p, f.ID)
		if err != nil {
			v.Faults = append(v.Faults, err.Error())
			continue
		}
		v.Stands[f.ID], scenes[f.ID] = sc.Stands(), sc
		in, err := d.For(f)
		if err != nil {
			continue // told above
		}
		for k, l := range in.Layouts {
			v.Layouts[k].Cells[f.ID] = cellViews(in, l, f)
			split := l.Split(f.Canvas())
			own := slices.ContainsFunc(sortedKeys(f.Rest), func(path string) bool { return strings.HasPrefix(path, "layouts/"+l.ID+"/") })
			v.Layouts[k].Splits[f.ID] = SplitView{split.Rows, split.Columns, split.Gutter, split.Margin, split.Radius, string(split.By), own}
		}
	}
	stray := craft.Astray(scenes)
	for i := range v.Formats {
		if x, ok := stray[v.Formats[i].ID]; ok {
			v.Formats[i].Astray, v.Formats[i].LayLike = x.Layers, x.Like
		}
	}
	if t, err := s.shelved(ctx, row.Template); err == nil {
		v.From = ReleaseOf{t.ID, t.Name, t.Number}
	}
	for _, r := range craft.CheckSheet(d) {
		v.Remarks = append(v.Remarks, RemarkView{r.What, r.Entry, r.Layer, r.Mend, r.Act})
	}
	var faults template.Faults
	if err := d.Validate(); errors.As(err, &faults) {
		for _, f := range faults {
			v.Lacks = append(v.Lacks, f.Error())
		}
	}
	return v, nil
}

func cellViews(d *template.Document, l *template.Node, f *template.Format) []CellView {
	out := []CellView{}
	taken := map[[2]int]bool{}
	d.VisitAll(func(_ string, y *template.Layer) {
		if y.Text(scheme.CellLayout) != l.ID {
			return
		}
		row, column, down, across := y.Cell()
		for r := range down {
			for c := range across {
				taken[[2]int{row + r, column + c}] = true
			}
		}
	})
	cells, err := l.Split(f.Canvas()).Cells()
	if err != nil {
		return out
	}
	for _, c := range cells {
		out = append(out, CellView{c.Row, c.Column, c.Name, c.Box(f.Canvas()), !taken[[2]int{c.Row, c.Column}]})
	}
	return out
}

func sortedKeys(m map[string]scheme.Value) []string {
	out := make([]string, 0, len(m))
	for k := range m {
		out = append(out, k)
	}
	slices.Sort(out)
	return out
}

// missing says where media is shown that is not there.
func missing(d *template.Document, hash string) MissingView {
	m := MissingView{Media: hash, Name: hash[:min(len(hash), 19)] + "…", Where: []string{}}
	for _, k := range d.Media {
		if k.Hash == hash {
			m.Name = k.Name
		}
	}
	for _, p := range d.Pockets {
		if p.StandIn != nil && p.StandIn.Media == hash {
			m.Where = append(m.Where, "pocket "+p.Name)
		}
		if p.Lined() == hash {
			m.Where = append(m.Where, "lining of "+p.Name)
		}
	}
	d.VisitAll(func(_ string, y *template.Layer) {
		if y.Text(scheme.OwnMedia) == hash {
			m.Where = append(m.Where, "layer "+y.Name)
		}
		if y.Can(scheme.Lettered) && y.Text(scheme.Wording.Face) == hash {
			m.Where = append(m.Where, "the face of "+y.Name)
		}
	})
	for _, e := range d.Sheet.Entries() {
		if slices.ContainsFunc(e.Options, func(o template.Option) bool { return o.ID == hash }) {
			m.Where = append(m.Where, "entry "+e.Label)
		}
	}
	return m
}
