package server

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"mime"
	"net/http"
	"slices"
	"strings"

	"github.com/danielgtaylor/huma/v2"
	"github.com/go-chi/chi/v5"

	"ivypocket/core/craft"
	"ivypocket/core/edit"
	"ivypocket/core/geom"
	"ivypocket/core/recipe"
	"ivypocket/core/scene"
	"ivypocket/core/scheme"
	"ivypocket/core/sheet"
	"ivypocket/core/template"
	"ivypocket/store"
)

// draft is a draft as the stage is told of it: its own template, filled with nothing.
func (s *Server) draft(ctx context.Context, id string) (pieceState, error) {
	row, err := s.store.DraftOf(ctx, id)
	if err != nil {
		return pieceState{}, err
	}
	return s.draftState(row)
}

func (s *Server) draftState(row store.Document) (pieceState, error) {
	d, err := s.store.Read(row)
	if err != nil {
		return pieceState{}, err
	}
	return pieceState{row: row, piece: edit.Piece{Name: d.Doc.Name, Values: sheet.Values{}.Clone()}, doc: craft.Drawable(d.Doc, s.lib)}, nil
}

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
	// BenchCue is a named instant that can be moved.
	BenchCue struct {
		CueView
		ID string `json:"id"`
	}
	// MissingView is media that a draft speaks of and the store has not.
	MissingView struct {
		Media string   `json:"media"`
		Name  string   `json:"name"`
		Where []string `json:"where"`
	}
	// DraftView is all that the bench shows.
	DraftView struct {
		ID       string                   `json:"id"`
		Name     string                   `json:"name"`
		Revision int64                    `json:"revision"`
		Category string                   `json:"category"`
		Family   string                   `json:"family"`
		About    string                   `json:"about"`
		Purpose  string                   `json:"purpose" enum:"stand-alone,overlay,frame,transition"`
		Rate     string                   `json:"rate"`
		RateN    int64                    `json:"rateN"`
		RateD    int64                    `json:"rateD"`
		Drop     bool                     `json:"dropFrame"`
		Frames   int64                    `json:"frames"`
		Moves    bool                     `json:"moves" doc:"It has keys, trims or spans, which a new length may leave or stretch"`
		Formats  []BenchFormat            `json:"formats"`
		Cues     []BenchCue               `json:"cues"`
		Colours  []ColourView             `json:"colours"`
		Pockets  []PocketView             `json:"pockets"`
		Layers   []LayerLine              `json:"layers" doc:"The lowest first, groups before what is in them"`
		Layouts  []LayoutView             `json:"layouts"`
		Motifs   []MotifView              `json:"motifs"`
		Recipes  []RecipeView             `json:"recipes"`
		Media    map[string]MediumView    `json:"media"`
		Missing  []MissingView            `json:"missing"`
		Stands   map[string][]scene.Stand `json:"stands" doc:"By format"`
		Undo     string                   `json:"undo"`
		Redo     string                   `json:"redo"`
		// Faults say what keeps it from being drawn, Lacks what it needs to be released.
		Faults []string `json:"faults"`
		Lacks  []string `json:"lacks"`
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
		ID      string             `json:"id,omitempty"`
		Into    string             `json:"into,omitempty"`
		At      int                `json:"at,omitempty"`
		Name    string             `json:"name,omitempty"`
		Path    string             `json:"path,omitempty"`
		Way     string             `json:"way,omitempty"`
		Media   string             `json:"media,omitempty"`
		Kinds   []string           `json:"kinds,omitempty" maxItems:"8"`
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

func draftItem(row store.Document, d *template.Document) DraftItem {
	it := DraftItem{PieceLine: lineOfRow(row), Category: d.Category, Family: d.Family, Formats: formatViews(d), Pockets: len(d.Pockets), From: row.Template, Deleted: row.Deleted}
	d.Visit(func(string, *template.Layer) { it.Layers++ })
	return it
}

// draftItems lists all drafts that can be read, or those that were deleted.
func (s *Server) draftItems(ctx context.Context, deleted bool) ([]DraftItem, error) {
	list := s.store.Drafts
	if deleted {
		list = s.store.DeletedDrafts
	}
	rows, err := list(ctx)
	if err != nil {
		return nil, err
	}
	out := []DraftItem{}
	for _, row := range rows {
		at := fmt.Sprintf("%s@%d", row.ID, row.Revision)
		if it, ok := s.draftLists.Get(at); ok {
			it.Deleted = row.Deleted
			out = append(out, it)
			continue
		}
		full, err := s.store.AnyDraft(ctx, row.ID)
		if err != nil {
			if gone(err) {
				continue
			}
			return nil, err
		}
		d, err := s.store.Read(full)
		key := "draft " + row.ID
		if err != nil {
			s.log.Error("a draft can't be read", "draft", row.ID, "error", err)
			s.store.Note(key, store.Trouble{What: "The draft " + row.Name, Why: "What is kept of it can't be read.",
				Do: "It is left out. A snapshot may still have it; ivypocket restore lists them."})
			continue
		}
		s.store.Settle(key)
		it := draftItem(full, d.Doc)
		s.draftLists.Add(at, it)
		out = append(out, it)
	}
	return out, ctx.Err()
}

// bench tells all of a draft.
func (s *Server) bench(ctx context.Context, row store.Document, author string) (DraftView, error) {
	draft, err := s.store.Read(row)
	if err != nil {
		return DraftView{}, err
	}
	d := draft.Doc
	p := pieceState{row: row, piece: edit.Piece{Values: sheet.Values{}.Clone()}, doc: craft.Drawable(d, s.lib)}
	v := DraftView{ID: row.ID, Name: d.Name, Revision: row.Revision, Category: d.Category, Family: d.Family, About: d.About, Purpose: string(d.Purpose),
		Rate: d.Rate.Label(), RateN: d.Rate.N, RateD: d.Rate.D, Drop: d.Rate.DropFrame(), Frames: d.Frames, Formats: []BenchFormat{}, Cues: []BenchCue{}, Colours: []ColourView{},
		Pockets: []PocketView{}, Layers: layerLines(d, sheet.Values{}), Layouts: []LayoutView{}, Motifs: []MotifView{}, Recipes: []RecipeView{}, Media: map[string]MediumView{}, Missing: []MissingView{},
		Stands: map[string][]scene.Stand{}, Faults: []string{}, Lacks: []string{}}
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
		v.Moves = v.Moves || len(n.Motion) > 0 || n.Sort() == scheme.Layers && (n.Given(scheme.In) || n.Given(scheme.Out))
		n.Values(func(p *scheme.Property, val scheme.Value) {
			if id, named := scheme.ColourID(val.Text); named && p.Type == scheme.Colour {
				uses[id]++
			}
		})
	})
	for _, f := range formatViews(d) {
		bf := BenchFormat{FormatView: f, Own: []OwnView{}}
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
	for _, c := range d.Cues {
		v.Cues = append(v.Cues, BenchCue{CueView{c.Name, min(d.Frames-1, int64(c.At.Float()+0.5))}, c.ID})
	}
	slices.SortStableFunc(v.Cues, func(a, b BenchCue) int { return int(a.Frame - b.Frame) })
	for _, c := range d.Colours {
		v.Colours = append(v.Colours, ColourView{c.ID, c.Name, c.Value, uses[c.ID]})
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
	for i := range d.Formats {
		f := &d.Formats[i]
		sc, err := s.scene(p, f.ID)
		if err != nil {
			v.Faults = append(v.Faults, err.Error())
			continue
		}
		v.Stands[f.ID] = sc.Stands()
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
	})
	return m
}

// draftWould is a draft as it would be after an act.
func (s *Server) draftWould(p pieceState, raw json.RawMessage, b previewBody) (pieceState, []craft.Guide, error) {
	var body ActBody
	if err := json.Unmarshal(raw, &body); err != nil {
		return p, nil, badRequest{fmt.Errorf("op: %w", err)}
	}
	a, err := body.act()
	if err != nil {
		return p, nil, err
	}
	draft, err := s.store.Read(p.row)
	if err != nil {
		return p, nil, err
	}
	plan, err := craft.Do(draft.Doc, s.lib, a)
	if err == nil && plan.Op.Kind != "" {
		draft, _, err = draft.Do(plan.Op)
	}
	if err != nil {
		return p, nil, badRequest{err}
	}
	p.doc = craft.Drawable(draft.Doc, s.lib)
	return p, plan.Guides, nil
}

// fitsDraft says whether media is known and of a kind that takes its place.
func (s *Server) fitsDraft(d *template.Document, a *craft.Act) error {
	for i := range a.Ops {
		if err := s.fitsDraft(d, &a.Ops[i]); err != nil {
			return err
		}
	}
	if a.Media == "" {
		return nil
	}
	md, ok := s.store.Medium(a.Media)
	if !ok {
		return badRequest{fmt.Errorf("media: %s is not in the store; upload it first", a.Media)}
	}
	if a.Name == "" {
		a.Name = md.Name
	}
	if a.Kind == "fill" {
		a.Kinds = []string{string(md.Meta.Kind)}
	}
	if p := d.Pocket(a.Pocket); a.Kind == "fill" && p != nil && !p.Takes(md.Meta.Kind) {
		return badRequest{fmt.Errorf("pocket %s takes no %s, and that is what %s is; say that it takes it, or choose other media", p.Name, mediaWords[md.Meta.Kind], md.Name)}
	}
	if a.Kind == "insert" && md.Meta.Kind != template.Picture {
		return badRequest{fmt.Errorf("%s is no picture; sew a pocket for it", md.Name)}
	}
	return nil
}

var mediaWords = map[template.MediaKind]string{template.Picture: "pictures", template.Footage: "clips", template.Sound: "sound"}

// alter carries something out on a draft and tells every window.
func (s *Server) alter(ctx context.Context, id string, w Who, f func() (store.Outcome, []string, error)) (*struct{ Body DraftDone }, error) {
	out, chosen, err := f()
	if err != nil {
		return nil, s.apiError(err)
	}
	done := DraftDone{Title: out.Title, Joined: joinedText(out.Joined), Chosen: chosen}
	if len(out.Changes) > 0 {
		s.touch(ctx, out.Changes)
		s.hub.send(event{Type: "draft", ID: id, Revision: out.Piece.Revision, Window: w.Window})
	}
	done.Draft, err = s.bench(ctx, out.Piece, w.Author)
	return &struct{ Body DraftDone }{done}, s.apiError(err)
}

type draftOut struct{ Body DraftView }

func (s *Server) draftRoutes(api huma.API) {
	huma.Register(api, huma.Operation{OperationID: "drafts", Method: http.MethodGet, Path: "/api/drafts", Summary: "All drafts, the last changed first"},
		func(ctx context.Context, in *struct {
			Deleted bool `query:"deleted" doc:"Those that were deleted and can be brought back"`
		}) (*struct{ Body []DraftItem }, error) {
			items, err := s.draftItems(ctx, in.Deleted)
			return &struct{ Body []DraftItem }{items}, s.apiError(err)
		})
	huma.Register(api, huma.Operation{OperationID: "start-draft", Method: http.MethodPost, Path: "/api/drafts", Summary: "Begin a draft: blank, or from a template on the shelf"},
		func(ctx context.Context, in *struct {
			Who
			Body struct {
				Start    *craft.Start `json:"start,omitempty"`
				Template string       `json:"template,omitempty" doc:"The template to begin from"`
				Draft    string       `json:"draft,omitempty" doc:"The draft to copy"`
			}
		}) (*draftOut, error) {
			row, err := s.startDraft(ctx, in.Body.Start, in.Body.Template, in.Body.Draft)
			if err != nil {
				return nil, s.apiError(err)
			}
			v, err := s.bench(ctx, row, in.Author)
			return &draftOut{v}, s.apiError(err)
		})
	huma.Register(api, huma.Operation{OperationID: "recipes", Method: http.MethodGet, Path: "/api/recipes", Summary: "What layers can be built from: recipes and the numbers they ask for"},
		func(context.Context, *struct{}) (*struct{ Body []*recipe.Recipe }, error) {
			return &struct{ Body []*recipe.Recipe }{recipe.All()}, nil
		})
	huma.Register(api, huma.Operation{OperationID: "get-draft", Method: http.MethodGet, Path: "/api/drafts/{id}", Summary: "A draft as it stands"},
		func(ctx context.Context, in *struct {
			Who
			ID string `path:"id"`
		}) (*draftOut, error) {
			row, err := s.store.DraftOf(ctx, in.ID)
			if err != nil {
				return nil, s.apiError(err)
			}
			v, err := s.bench(ctx, row, in.Author)
			return &draftOut{v}, s.apiError(err)
		})
	huma.Register(api, huma.Operation{OperationID: "alter-draft", Method: http.MethodPost, Path: "/api/drafts/{id}/operations",
		Summary: "Change a draft", Description: "Sending an operation's id again does nothing. 409 says that somebody changed the same thing since the base revision."},
		func(ctx context.Context, in *struct {
			Who
			ID   string `path:"id"`
			Body struct {
				ID   string  `json:"id" minLength:"8" maxLength:"64" doc:"Made by the client"`
				Base int64   `json:"base" minimum:"0" doc:"The revision the client had seen"`
				Op   ActBody `json:"op"`
			}
		}) (*struct{ Body DraftDone }, error) {
			return s.alter(ctx, in.ID, in.Who, func() (store.Outcome, []string, error) {
				a, err := in.Body.Op.act()
				if err != nil {
					return store.Outcome{}, nil, err
				}
				var chosen []string
				out, err := s.store.DoDraft(ctx, in.ID, store.Sent{ID: in.Body.ID, Author: in.Author, Window: in.Window, Base: in.Body.Base}, func(d edit.Draft) (edit.DraftOp, error) {
					a := a
					if err := s.fitsDraft(d.Doc, &a); err != nil {
						return edit.DraftOp{}, err
					}
					plan, err := craft.Do(d.Doc, s.lib, a)
					if err != nil {
						return edit.DraftOp{}, badRequest{err}
					}
					chosen = plan.Chosen
					if plan.Op.Kind != "" {
						if _, _, err := d.Do(plan.Op); err != nil {
							return edit.DraftOp{}, badRequest{err}
						}
					}
					return plan.Op, nil
				})
				return out, chosen, err
			})
		})
	for _, verb := range []string{"undo", "redo"} {
		step := s.store.UndoDraft
		if verb == "redo" {
			step = s.store.RedoDraft
		}
		huma.Register(api, huma.Operation{OperationID: verb + "-draft", Method: http.MethodPost, Path: "/api/drafts/{id}/" + verb, Summary: "Take the author's last change back, or carry it out again"},
			func(ctx context.Context, in *struct {
				Who
				ID   string `path:"id"`
				Body struct {
					ID string `json:"id" minLength:"8" maxLength:"64" doc:"Made by the client"`
				}
			}) (*struct{ Body DraftDone }, error) {
				return s.alter(ctx, in.ID, in.Who, func() (store.Outcome, []string, error) {
					out, err := step(ctx, in.ID, in.Author, in.Body.ID)
					return out, nil, err
				})
			})
	}
	huma.Register(api, huma.Operation{OperationID: "copy-layers", Method: http.MethodGet, Path: "/api/drafts/{id}/clip", Summary: "Layers to be pasted elsewhere, with all that they speak of"},
		func(ctx context.Context, in *struct {
			ID     string   `path:"id"`
			Layers []string `query:"layers" required:"true"`
		}) (*struct{ Body any }, error) {
			row, err := s.store.DraftOf(ctx, in.ID)
			if err != nil {
				return nil, s.apiError(err)
			}
			d, err := s.store.Read(row)
			if err != nil {
				return nil, s.apiError(err)
			}
			c, err := craft.Copied(d.Doc, in.Layers)
			if err != nil {
				return nil, s.apiError(badRequest{err})
			}
			return &struct{ Body any }{c}, nil
		})
	huma.Register(api, huma.Operation{OperationID: "history", Method: http.MethodGet, Path: "/api/drafts/{id}/history", Summary: "What was done to a draft, the last first"},
		func(ctx context.Context, in *struct {
			Who
			ID    string `path:"id"`
			Below int64  `query:"below" minimum:"0" doc:"Only steps below this revision; 0 is all"`
		}) (*struct{ Body []PastView }, error) {
			past, err := s.store.Past(ctx, in.ID, in.Below, 100)
			out := make([]PastView, 0, len(past))
			for _, p := range past {
				out = append(out, PastView{p.Revision, p.Title, p.Called, p.Author == in.Author, p.Created, p.State})
			}
			return &struct{ Body []PastView }{out}, s.apiError(err)
		})
	huma.Register(api, huma.Operation{OperationID: "back-to", Method: http.MethodPost, Path: "/api/drafts/{id}/back", Summary: "Take a draft back to how it stood at a revision",
		Description: "An operation like any other: it stands in the history and can be undone."},
		func(ctx context.Context, in *struct {
			Who
			ID   string `path:"id"`
			Body struct {
				ID       string `json:"id" minLength:"8" maxLength:"64" doc:"Made by the client"`
				Base     int64  `json:"base" minimum:"0" doc:"The draft's revision"`
				Revision int64  `json:"revision" minimum:"0" doc:"0 is how it began"`
			}
		}) (*struct{ Body DraftDone }, error) {
			return s.alter(ctx, in.ID, in.Who, func() (store.Outcome, []string, error) {
				out, err := s.store.BackTo(ctx, in.ID, in.Body.Revision, store.Sent{ID: in.Body.ID, Author: in.Author, Window: in.Window, Base: in.Body.Base})
				return out, nil, err
			})
		})
	huma.Register(api, huma.Operation{OperationID: "get-author", Method: http.MethodGet, Path: "/api/author", Summary: "What the author is called"},
		func(ctx context.Context, in *struct{ Who }) (*struct{ Body NameBody }, error) {
			name, err := s.store.Called(ctx, in.Author)
			return &struct{ Body NameBody }{NameBody{name}}, s.apiError(err)
		})
	huma.Register(api, huma.Operation{OperationID: "call-author", Method: http.MethodPut, Path: "/api/author", Summary: "Say what the author is called"},
		func(ctx context.Context, in *struct {
			Who
			Body NameBody
		}) (*struct{ Body NameBody }, error) {
			name := strings.Join(strings.FieldsFunc(in.Body.Name, func(r rune) bool { return r < ' ' || template.Unseen(r) || r == ' ' }), " ")
			err := s.store.Call(ctx, in.Author, name)
			return &struct{ Body NameBody }{NameBody{name}}, s.apiError(err)
		})
	type chosenDrafts struct {
		IDs  []string `json:"ids" minItems:"1" maxItems:"10000"`
		Back bool     `json:"back,omitempty" doc:"Bring them back"`
	}
	type changedDrafts struct {
		IDs []string `json:"ids" doc:"Those that this changed"`
	}
	huma.Register(api, huma.Operation{OperationID: "delete-drafts", Method: http.MethodPost, Path: "/api/drafts/delete", Summary: "Delete drafts, or bring them back",
		Description: "For seven days they can be brought back."},
		func(ctx context.Context, in *struct{ Body chosenDrafts }) (*struct{ Body changedDrafts }, error) {
			ids, err := s.deleteDrafts(ctx, in.Body.IDs, in.Body.Back)
			return &struct{ Body changedDrafts }{changedDrafts{ids}}, s.apiError(err)
		})
}

// NameBody is a name for people.
type NameBody struct {
	Name string `json:"name" maxLength:"80"`
}

// startDraft begins a draft.
func (s *Server) startDraft(ctx context.Context, start *craft.Start, from, draft string) (store.Document, error) {
	items, err := s.draftItems(ctx, false)
	if err != nil {
		return store.Document{}, err
	}
	names := map[string]bool{}
	for _, it := range items {
		names[it.Name] = true
	}
	var row store.Document
	switch {
	case draft != "":
		var was store.Document
		if was, err = s.store.DraftOf(ctx, draft); err == nil {
			row, err = s.store.CopyDraft(ctx, draft, freeNameOf(was.Name, names))
		}
	case from != "":
		var d *template.Document
		var number int
		if d, number, err = s.newest(ctx, from); err == nil {
			row, err = s.store.NewDraft(ctx, edit.DraftFrom(d), from, number)
		}
	case start != nil:
		var d *template.Document
		if d, err = craft.Blank(s.lib, *start); err != nil {
			return row, badRequest{err}
		}
		row, err = s.store.NewDraft(ctx, edit.DraftFrom(d), "", 0)
	default:
		return row, badRequest{errors.New("say what the draft begins with: start, template or draft")}
	}
	if err == nil {
		s.hub.send(event{Type: "shelf"})
	}
	return row, err
}

// deleteDrafts deletes drafts, or brings them back, and tells every window.
func (s *Server) deleteDrafts(ctx context.Context, ids []string, back bool) ([]string, error) {
	changed, err := s.store.Delete(ctx, store.DraftKind, ids, back)
	if err != nil {
		return []string{}, err
	}
	state := "deleted"
	if back {
		state = "back"
	}
	for _, id := range changed {
		s.hub.send(event{Type: "draft", ID: id, State: state})
	}
	if len(changed) == 0 {
		return []string{}, nil
	}
	s.hub.send(event{Type: "shelf"})
	return changed, nil
}

// saveDocument answers with a draft as the one file that it is.
func (s *Server) saveDocument(w http.ResponseWriter, r *http.Request) {
	row, err := s.store.DraftOf(r.Context(), chi.URLParam(r, "id"))
	if err != nil {
		s.failed(w, r, err)
		return
	}
	d, err := s.store.Read(row)
	var b []byte
	if err == nil {
		b, err = json.MarshalIndent(d, "", "  ")
	}
	if err != nil {
		s.failed(w, r, err)
		return
	}
	w.Header().Set("Content-Type", "application/json")
	w.Header().Set("Content-Disposition", mime.FormatMediaType("attachment", map[string]string{"filename": store.CleanName(d.Doc.Name) + ".json"}))
	_, _ = w.Write(append(b, '\n'))
}

// dropDocument makes a draft of a document file. Its faults are told by their places;
// media that is missing is named when it is opened.
func (s *Server) dropDocument(w http.ResponseWriter, r *http.Request) {
	raw, err := io.ReadAll(http.MaxBytesReader(w, r.Body, template.MaxBytes))
	var large *http.MaxBytesError
	if errors.As(err, &large) {
		err = badRequest{fmt.Errorf("the file has more than %d MB; a document has fewer", template.MaxBytes>>20)}
	}
	var d edit.Draft
	if err == nil {
		if d, err = edit.NewDraft(raw); err != nil {
			err = badRequest{fmt.Errorf("this is not a sound document, and nothing was kept:\n%w", err)}
		}
	}
	var row store.Document
	if err == nil {
		row, err = s.store.NewDraft(r.Context(), d, "", 0)
	}
	var v DraftView
	if err == nil {
		s.hub.send(event{Type: "shelf"})
		v, err = s.bench(r.Context(), row, r.Header.Get("Ivy-Author"))
	}
	if err != nil {
		s.failed(w, r, err)
		return
	}
	w.Header().Set("Content-Type", "application/json")
	w.WriteHeader(http.StatusCreated)
	_ = writeJSON(w, v)
}
