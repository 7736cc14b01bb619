package server

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"sort"
	"strconv"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"ivypocket/access"
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

// pieceState is a piece with its release, or a draft, which is its own template and is
// filled with nothing.
type pieceState struct {
	row   store.Document
	piece edit.Piece
	doc   *template.Document
	under int64  // of a try-out, the revision of its draft
	alone string // layers that alone are drawn, with commas between; "" is all
	// pinned holds a draft at a value of an entry of its sheet.
	pinned *craft.Pin
}

// tried is the revision that a swap trial of it is about.
func (p *pieceState) tried() int64 {
	if p.row.Tryout() {
		return p.under
	}
	return p.row.Revision
}

// shown is the document as it is to be drawn.
func (p *pieceState) shown() *template.Document {
	if p.alone == "" {
		return p.doc
	}
	return craft.Alone(p.doc, strings.Split(p.alone, ","))
}

func (s *Server) piece(ctx context.Context, id string) (pieceState, error) {
	row, err := s.store.Piece(ctx, id)
	if err != nil {
		return pieceState{}, err
	}
	return s.state(ctx, row)
}

func (s *Server) state(ctx context.Context, row store.Piece) (pieceState, error) {
	p := pieceState{row: row}
	var err error
	if p.piece, err = row.Parsed(); err != nil {
		return p, err
	}
	if row.Tryout() {
		of, err := s.store.DraftOf(ctx, row.Template)
		if err != nil {
			return p, err
		}
		draft, err := s.draftState(of)
		if err != nil {
			return p, err
		}
		p.doc, p.under, p.piece = draft.doc, of.Revision, edit.Fit(draft.doc, p.piece)
		return p, nil
	}
	if p.doc, err = s.store.Document(ctx, row.Template, row.Number); err == nil && p.piece.Values.Measure != nil && p.piece.Values.Measure.Check(p.doc) == nil {
		p.doc = p.doc.Measured(p.piece.Values.Measure)
	}
	return p, err
}

// play is how the clip in a pocket runs.
func (p pieceState) play(pocket string) timing.Play {
	return (&sheet.Resolved{Doc: p.doc, Values: p.piece.Values}).Play(pocket)
}

// What the page is told. These types are the API's own: the core's documents
// may change without breaking a page.
type (
	// FormatView is a canvas.
	FormatView struct {
		ID     string `json:"id"`
		Name   string `json:"name"`
		Width  int    `json:"width"`
		Height int    `json:"height"`
		// Px is otherwise than the canvas in a piece that was made to the measure of a clip.
		Px [2]int `json:"px" doc:"How many px a picture has, if nothing else is wished"`
	}
	// PocketView is a pocket and what lies in it.
	PocketView struct {
		ID    string   `json:"id"`
		Name  string   `json:"name"`
		Kinds []string `json:"kinds"`
		// Offered says that it may be filled: at the desk those that the sheet asks for.
		Offered bool `json:"offered"`
		// Media is "" when the pocket is empty.
		Media     string `json:"media"`
		MediaName string `json:"mediaName" doc:"What it is called here"`
		StandIn   bool   `json:"standIn" doc:"The media is the template's stand-in"`
		// Framed lists the formats with a framing of their own; Framing says
		// whether there is one for all.
		Framed  []string `json:"framed"`
		Framing bool     `json:"framing"`
		Keep    bool     `json:"keep" doc:"The framing stays when other media comes in"`
		Play    PlayView `json:"play"`
		// Required says that a piece is not done while nothing of its own lies in it.
		Required bool   `json:"required"`
		Role     string `json:"role" enum:",from,to,clip"`
		Away     bool   `json:"away" doc:"Its stand-in was put away"`
		Lining   string `json:"lining" doc:"The picture that it shows while it is empty, or none"`
		// Limits are what the designer allows an editor, Range what framings may have
		// here: at the bench anything.
		Limits geom.Limits `json:"limits"`
		Range  geom.Range  `json:"range"`
		Layers []string    `json:"layers" doc:"Those that show it, the lowest first"`
	}
	// PlayView is how the clip in a pocket runs.
	PlayView struct {
		In    int64   `json:"in" doc:"First frame of the clip that is seen"`
		Speed float64 `json:"speed" doc:"A factor"`
		After string  `json:"after" enum:"hold,loop,bounce" doc:"What is seen when the clip is over"`
		Given bool    `json:"given,omitempty" required:"false" doc:"Somebody set it"`
	}
	// OptionView is something to choose; of a gradient with its stops.
	OptionView struct {
		NamedView
		Stops []ShadeView `json:"stops"`
	}
	// EntryView is a line of the sheet with its value: a number, a text, true or false, or
	// the two numbers of a place.
	EntryView struct {
		ID     string `json:"id"`
		Label  string `json:"label"`
		Kind   string `json:"kind" enum:"media,words,lines,typeface,choice,switch,duration,place,amount,angle,colour,gradient"`
		Thread string `json:"thread" doc:"The kind of value, by which people tell it"`
		Help   string `json:"help"`
		Pocket string `json:"pocket"`
		Value  any    `json:"value"`
		Given  bool   `json:"given" doc:"Differs from the default because somebody set it"`
		// Default is its value until somebody sets another, Resets the same for people.
		Default  any          `json:"default"`
		Resets   string       `json:"resets"`
		Min      float64      `json:"min"`
		Max      float64      `json:"max"`
		Step     float64      `json:"step"`
		Unit     string       `json:"unit"`
		Area     []float64    `json:"area" doc:"Of a place: left, top, right, bottom; empty is the whole canvas"`
		Options  []OptionView `json:"options"`
		Notches  []any        `json:"notches" doc:"Values at which its control stops"`
		Sample   string       `json:"sample" doc:"Of a typeface: what the words read that are set in it"`
		Shown    bool         `json:"shown" doc:"What it waits for is so"`
		Cue      string       `json:"cue" doc:"The id of the cue at which it is best seen"`
		Letters  int          `json:"letters" doc:"How many letters a wording may have"`
		Lines    int          `json:"lines" doc:"How many lines, as it is typed"`
		Required bool         `json:"required" doc:"A wording may not be empty"`
		Framing  []string     `json:"framing" doc:"Of media: what of its framing may be changed"`
		Bench    *BenchEntry  `json:"bench,omitempty" doc:"What only the designer is told"`
	}
	// BenchEntry is what the designer says of an entry besides.
	BenchEntry struct {
		Data   string    `json:"data"`
		Fixed  bool      `json:"fixed"`
		Timed  bool      `json:"timed" doc:"It is an amount of frames or seconds"`
		Within string    `json:"within" doc:"The held span that it reaches to the end of at most; empty is none"`
		When   any       `json:"when,omitempty" doc:"An entry and the values (is) at which this one is shown"`
		Ties   []TieView `json:"ties"`
		// Stops are the values at which it is set by example.
		Stops []StopView `json:"stops"`
	}
	// StopView is a value of an entry, and what people call it.
	StopView struct {
		At    any    `json:"at"`
		Label string `json:"label"`
	}
	// TieView is a tie with what people call what it drives.
	TieView struct {
		Tie    any    `json:"tie" doc:"As the document has it"`
		Called string `json:"called"`
		Layer  string `json:"layer" doc:"Of which layer, empty is of none"`
	}
	// GroupView is a part of the sheet.
	GroupView struct {
		ID      string      `json:"id"`
		Label   string      `json:"label"`
		Entries []EntryView `json:"entries"`
	}
	// PartView is a part of a template's time, held or elastic, and where it lies in what is seen.
	PartView struct {
		ID    string  `json:"id" doc:"Of a held span; elastic time has none"`
		Kind  string  `json:"kind" enum:"held,elastic"`
		From  int64   `json:"from" doc:"Frames of the template"`
		To    int64   `json:"to"`
		At    float64 `json:"at" doc:"Frames of what is seen"`
		Until float64 `json:"until"`
	}
	// CueView is a named instant.
	CueView struct {
		ID    string `json:"id"`
		Name  string `json:"name"`
		Frame int64  `json:"frame"`
	}
	// PieceView is all that the stage and its panels show.
	PieceView struct {
		ID       string                   `json:"id"`
		Name     string                   `json:"name"`
		Revision int64                    `json:"revision"`
		Template ShelfItem                `json:"template"`
		Newest   int                      `json:"newest" doc:"The newest release of its template; 0 is of one that is not on the shelf"`
		Purpose  string                   `json:"purpose" enum:"stand-alone,overlay,frame,transition"`
		Measured string                   `json:"measured" enum:",clip,other" doc:"Whose measure it was made to: that of the clip in it, or of one before; empty is the template's"`
		Made     string                   `json:"made" doc:"The format that was made to it; empty is none"`
		Tryout   string                   `json:"tryout,omitempty" doc:"The draft that it tries out; absent is of a release"`
		Under    int64                    `json:"under,omitempty" doc:"Of a try-out, the revision of its draft"`
		Aside    int                      `json:"aside" doc:"How many values wait for a release that takes them"`
		RateN    int64                    `json:"rateN"`
		RateD    int64                    `json:"rateD"`
		Drop     bool                     `json:"dropFrame"`
		Frames   int64                    `json:"frames" doc:"Length of the piece"`
		Own      int64                    `json:"own" doc:"Length of the template"`
		Shortest int64                    `json:"shortest" doc:"The least frames a piece may have: its held spans"`
		Time     []PartView               `json:"time" doc:"Its time, held and elastic"`
		Longest  int64                    `json:"longest"`
		Cues     []CueView                `json:"cues"`
		Pockets  []PocketView             `json:"pockets"`
		Layers   []LayerLine              `json:"layers" doc:"The lowest first, groups before what is in them"`
		Sheet    []GroupView              `json:"sheet"`
		Media    map[string]MediumView    `json:"media"`
		Stands   map[string][]scene.Stand `json:"stands" doc:"By format"`
		Undo     string                   `json:"undo"`
		Redo     string                   `json:"redo"`
		// FacesGone are fonts that words are set in and the store has not.
		FacesGone []string `json:"facesGone" doc:"Names of fonts that are missing; another face stands in"`
		// Faults say what keeps the piece from being drawn.
		Faults []string `json:"faults"`
	}
	// OpBody is one change.
	OpBody struct {
		Kind    string        `json:"kind" enum:"fill,frame,keep,play,entry,frames,name,batch"`
		Pocket  string        `json:"pocket,omitempty"`
		Media   string        `json:"media,omitempty"`
		Format  string        `json:"format,omitempty"`
		Framing *geom.Framing `json:"framing,omitempty"`
		Play    *PlayView     `json:"play,omitempty"`
		Members []string      `json:"members,omitempty" doc:"frame, play: the members that are meant; none is all"`
		Entry   string        `json:"entry,omitempty"`
		Value   any           `json:"value,omitempty" doc:"entry, keep, fill: a number, a list of numbers, text, true or false; absent resets"`
		Frames  int64         `json:"frames,omitempty" doc:"Length of the piece; 0 is the template's"`
		Name    string        `json:"name,omitempty"`
		Ops     []OpBody      `json:"ops,omitempty"`
	}
	// DoneView is what an operation led to.
	DoneView struct {
		Piece PieceView `json:"piece"`
		Title string    `json:"title"`
		// Joined tells of changes of the same thing that came between and stay.
		Joined string `json:"joined"`
	}
)

func (o OpBody) op() (edit.Op, error) {
	op := edit.Op{Kind: o.Kind, Pocket: o.Pocket, Media: o.Media, Format: o.Format, Framing: o.Framing, Members: o.Members, Entry: o.Entry, Frames: o.Frames, Name: o.Name}
	if op.Kind == "fill" && op.Name != "" {
		op.Name = store.CleanName(op.Name)
	}
	if o.Value != nil {
		b, err := json.Marshal(o.Value)
		if err == nil {
			op.Value = new(scheme.Value)
			err = json.Unmarshal(b, op.Value)
		}
		if err != nil {
			return op, badRequest{fmt.Errorf("op.value: %w", err)}
		}
	}
	if o.Play != nil {
		speed, err := timing.ParseRat(strconv.FormatFloat(o.Play.Speed, 'f', 5, 64))
		if err != nil {
			return op, badRequest{fmt.Errorf("op.play.speed: %w", err)}
		}
		op.Play = &timing.Play{In: timing.SourceFrame(o.Play.In), Speed: speed, After: timing.After(o.Play.After)}
	}
	for i, inner := range o.Ops {
		sub, err := inner.op()
		if err != nil {
			return op, fmt.Errorf("ops[%d].%w", i, err)
		}
		op.Ops = append(op.Ops, sub)
	}
	return op, nil
}

func formatViews(d *template.Document) []FormatView {
	out := make([]FormatView, 0, len(d.Formats))
	for _, f := range d.Formats {
		w, h := f.Size()
		out = append(out, FormatView{f.ID, f.Name, f.Width, f.Height, [2]int{w, h}})
	}
	return out
}

func partViews(m timing.Map, d *template.Document) []PartView {
	out := []PartView{}
	for _, p := range m.Parts(d.Spans, d.Frames) {
		out = append(out, PartView{p.ID, string(p.Kind), p.From, p.To, p.At.Float(), p.Until.Float()})
	}
	return out
}

func (s *Server) view(ctx context.Context, p pieceState, author string) (PieceView, error) {
	d := p.doc
	v := PieceView{ID: p.row.ID, Name: p.piece.Name, Revision: p.row.Revision, Template: shelfItem(d, p.row.Number),
		RateN: d.Seen().N, RateD: d.Seen().D, Drop: d.Seen().DropFrame(), Frames: d.Own(), Own: d.Own(), Purpose: string(d.Serves()), Measured: s.measuredBy(p), Cues: []CueView{}, Pockets: []PocketView{}, Layers: layerLines(d),
		Sheet: []GroupView{}, Media: map[string]MediumView{}, Stands: map[string][]scene.Stand{}, Faults: []string{}, FacesGone: s.facesGone(d, p.piece.Values)}
	if p.row.Tryout() {
		v.Tryout, v.Under, v.Template.ID, v.Name = p.row.Template, p.under, "", d.Name
	} else if t, err := s.shelved(ctx, p.row.Template); err == nil || errors.Is(err, store.ErrDeleted) {
		v.Template.Name, v.Template.Category, v.Template.Family = t.Name, t.Category, t.Family
		if err == nil {
			v.Newest = t.Number
		}
	}
	if m := p.piece.Values.Measure; m != nil {
		v.Made = m.Format
	}
	if a := p.piece.Aside; a != nil {
		v.Aside = len(a.Fills) + len(a.Entries)
		if a.Frames != 0 {
			v.Aside++
		}
		if a.Measure != nil {
			v.Aside++
		}
	}
	h, err := s.store.History(ctx, p.row.ID, author)
	if err != nil {
		return v, err
	}
	v.Undo, v.Redo = h.Undo, h.Redo
	if p.piece.Values.Frames > 0 {
		v.Frames = p.piece.Values.Frames
	}
	v.Shortest, v.Longest = d.Lengths()
	time, err := d.TimeMap(p.piece.Values.Frames)
	if err != nil {
		v.Faults = append(v.Faults, err.Error())
	}
	v.Time = partViews(time, d)
	for _, c := range d.Cues {
		v.Cues = append(v.Cues, CueView{c.ID, c.Name, int64(time.Frame(timing.TemplateTime{Rat: c.At}))})
	}
	sort.Slice(v.Cues, func(i, j int) bool { return v.Cues[i].Frame < v.Cues[j].Frame })
	s.pocketViews(p, &v.Pockets, v.Media)
	v.Sheet = sheetViews(d, p.piece.Values, false)
	for _, f := range d.Formats {
		sc, err := s.scene(p, f.ID)
		if err != nil {
			v.Faults = append(v.Faults, err.Error())
			continue
		}
		v.Stands[f.ID] = sc.Stands()
	}
	return v, nil
}

// pocketViews tells the pockets of a document, and what lies in them.
func (s *Server) pocketViews(p pieceState, out *[]PocketView, media map[string]MediumView) {
	d := p.doc
	r := &sheet.Resolved{Doc: d, Values: p.piece.Values}
	shows := map[string][]string{}
	d.VisitAll(func(_ string, y *template.Layer) {
		if id := y.Text(scheme.Pocket); id != "" {
			shows[id] = append(shows[id], y.ID)
		}
	})
	for _, k := range d.Pockets {
		f := p.piece.Values.Fills[k.ID]
		limits := k.Limits
		if p.row.Kind == store.DraftKind {
			limits = nil
		}
		pv := PocketView{ID: k.ID, Name: k.Name, Offered: p.row.Kind == store.DraftKind || d.Sheet.Asks(k.ID), Kinds: []string{}, Required: k.Required, Role: string(k.Role), Lining: k.Lined(), Away: k.StandIn != nil && k.StandIn.Away,
			Range: limits.Range(k.DefaultFraming()), Layers: append([]string{}, shows[k.ID]...), Media: r.Media(k.ID), StandIn: f.Media == "", Framing: f.Framing != nil, Keep: f.Keep, Framed: []string{}}
		if k.Limits != nil {
			pv.Limits = *k.Limits
		}
		for _, kind := range k.Kinds {
			pv.Kinds = append(pv.Kinds, string(kind))
		}
		for _, fm := range d.Formats {
			if _, own := f.Formats[fm.ID]; own {
				pv.Framed = append(pv.Framed, fm.ID)
			}
		}
		play := r.Play(k.ID)
		pv.Play = PlayView{In: int64(play.In), Speed: play.Factor().Float(), After: string(play.After), Given: f.Play != nil}
		if play.After == "" {
			pv.Play.After = string(timing.Hold)
		}
		if pv.Media != "" {
			if mv, ok := s.mediumView(pv.Media); ok {
				media[pv.Media] = mv
				if pv.MediaName = f.Name; pv.MediaName == "" {
					pv.MediaName = mv.Name
				}
			}
		}
		*out = append(*out, pv)
	}
}

// sheetViews tells a sheet with the values of a piece; for the designer with all that an
// editor is not told.
func sheetViews(d *template.Document, values sheet.Values, designer bool) []GroupView {
	out := []GroupView{}
	r := &sheet.Resolved{Doc: d, Values: values}
	filled := d // with the colours and the words that the values give
	if slices.ContainsFunc(d.Sheet.Entries(), func(e *template.Entry) bool {
		return e.Kind == template.GradientEntry || e.Kind == template.TypefaceEntry
	}) {
		if with, err := sheet.Resolve(d, values); err == nil {
			filled = with.Doc
		}
	}
	for _, g := range d.Sheet.Groups {
		gv := GroupView{ID: g.ID, Label: g.Label, Entries: []EntryView{}}
		for i := range g.Entries {
			e := &g.Entries[i]
			if e.Fixed && !designer {
				continue
			}
			ev := entryView(d, e, values, filled)
			ev.Shown = e.When.Holds(r.Value)
			if designer {
				ev.Bench = benchEntry(d, e)
			}
			gv.Entries = append(gv.Entries, ev)
		}
		if len(gv.Entries) > 0 || designer {
			out = append(out, gv)
		}
	}
	return out
}

func entryView(d *template.Document, e *template.Entry, values sheet.Values, filled *template.Document) EntryView {
	ev := EntryView{ID: e.ID, Label: e.Label, Kind: string(e.Kind), Help: e.Help, Pocket: e.Pocket, Step: e.StepSize(), Unit: e.Unit, Area: []float64{},
		Options: []OptionView{}, Notches: []any{}, Cue: e.Cue, Framing: scheme.FramingParts}
	if k := e.Of(); k != nil {
		ev.Thread = k.Thread
	}
	if e.Framing != nil {
		ev.Framing = *e.Framing
	}
	if e.Worded() {
		ev.Letters, ev.Lines = e.Limit()
		ev.Required = e.Required
	}
	if e.Min != nil && e.Max != nil {
		ev.Min, ev.Max = *e.Min, *e.Max
	}
	if e.Area != nil {
		ev.Area = e.Area[:]
	}
	for _, o := range e.Options {
		ov := OptionView{NamedView{o.ID, o.Label}, []ShadeView{}}
		if g := filled.Gradient(o.ID); g != nil && e.Kind == template.GradientEntry {
			ov.Stops = shadesOf(filled, g)
		}
		ev.Options = append(ev.Options, ov)
	}
	if e.Kind == template.TypefaceEntry {
		ev.Sample = sampleOf(filled, e)
	}
	if e.OnLine() && len(e.Notches) > 0 {
		for _, v := range e.Stops() {
			ev.Notches = append(ev.Notches, v.Tree())
		}
	}
	if e.Kind == template.DurationEntry {
		lo, hi := e.Lengths(d)
		now := d.Own()
		if ev.Given = values.Frames != 0; ev.Given {
			now = values.Frames
		}
		ev.Min, ev.Max, ev.Step, ev.Value, ev.Default, ev.Resets = float64(lo), float64(hi), 1, now, d.Own(), fmt.Sprintf("%d frames", d.Own())
		return ev
	}
	val, given := values.Entries[e.ID]
	ev.Given = given
	if e.Default != nil {
		if !given {
			val = *e.Default
		}
		ev.Default, ev.Resets, ev.Value = e.Default.Tree(), e.Says(*e.Default), val.Tree()
	}
	return ev
}

// sampleOf is what the words read whose face an entry chooses, the first that are not empty.
func sampleOf(d *template.Document, e *template.Entry) string {
	for _, t := range e.Ties {
		id, _, _ := strings.Cut(strings.TrimPrefix(t.To, "layers/"), "/")
		if y := d.Layer(id); y != nil && y.Can(scheme.Lettered) {
			if s := strings.TrimSpace(scene.Reads(y)); s != "" {
				return s
			}
		}
	}
	return ""
}

// shadesOf are the stops of a gradient, its own or a named one.
func shadesOf(d *template.Document, n *template.Node) []ShadeView {
	out := []ShadeView{}
	for _, s := range n.Stops() {
		v := ShadeView{ID: s.ID, At: s.Number(scheme.StopAt), Colour: s.Text(scheme.StopColour)}
		if c, err := d.Colour(v.Colour); err == nil {
			v.Shows = c.String()
		}
		out = append(out, v)
	}
	return out
}

func benchEntry(d *template.Document, e *template.Entry) *BenchEntry {
	v := &BenchEntry{Data: e.DataName(), Fixed: e.Fixed, Timed: e.Timed(), Within: e.Within, Ties: []TieView{}, Stops: []StopView{}}
	for _, at := range e.Stops() {
		v.Stops = append(v.Stops, StopView{at.Tree(), e.Says(at)})
	}
	if e.When != nil {
		v.When = e.When
	}
	for _, t := range e.Ties {
		tv := TieView{Tie: t, Called: d.Called(t.To)}
		if id, ok := strings.CutPrefix(t.To, "layers/"); ok {
			tv.Layer, _, _ = strings.Cut(id, "/")
		}
		v.Ties = append(v.Ties, tv)
	}
	return v
}

// Author and window of a request: undo is per author, and a window leaves out
// the news of its own changes.
type Who struct {
	Author string `header:"Ivy-Author" maxLength:"64" doc:"Whose undo this is"`
	Window string `header:"Ivy-Window" maxLength:"64"`
}

type pieceOut struct{ Body PieceView }
type doneOut struct{ Body DoneView }

func (s *Server) pieceRoutes() {
	add(s, access.Fill, huma.Operation{OperationID: "get-piece", Method: http.MethodGet, Path: "/api/pieces/{id}", Summary: "A piece as it stands"},
		func(ctx context.Context, in *struct {
			Who
			ID string `path:"id"`
		}) (*pieceOut, error) {
			p, err := s.piece(ctx, in.ID)
			if err != nil {
				return nil, s.apiError(err)
			}
			v, err := s.view(ctx, p, in.Author)
			return &pieceOut{v}, s.apiError(err)
		})
	add(s, access.Fill, huma.Operation{OperationID: "do", Method: http.MethodPost, Path: "/api/pieces/{id}/operations",
		Summary: "Change a piece", Description: "Sending an operation's id again does nothing. 409 says that somebody changed the same thing since the base revision."},
		func(ctx context.Context, in *struct {
			Who
			ID   string `path:"id"`
			Body struct {
				ID   string `json:"id" minLength:"8" maxLength:"64" doc:"Made by the client"`
				Base int64  `json:"base" minimum:"0" doc:"The revision the client had seen"`
				Op   OpBody `json:"op"`
			}
		}) (*doneOut, error) {
			return s.change(ctx, in.ID, in.Who, func(p pieceState) (store.Outcome, error) {
				op, err := in.Body.Op.op()
				if err != nil {
					return store.Outcome{}, err
				}
				if err := s.fits(p.doc, op); err != nil {
					return store.Outcome{}, err
				}
				if _, _, err := edit.Apply(p.doc, p.piece, op); err != nil {
					return store.Outcome{}, badRequest{err}
				}
				return s.store.Do(ctx, in.ID, store.Sent{ID: in.Body.ID, Author: in.Author, Window: in.Window, Base: in.Body.Base, Op: op})
			})
		})
	for _, verb := range []string{"undo", "redo"} {
		step := s.store.Undo
		if verb == "redo" {
			step = s.store.Redo
		}
		add(s, access.Fill, huma.Operation{OperationID: verb, Method: http.MethodPost, Path: "/api/pieces/{id}/" + verb, Summary: "Take the author's last change back, or carry it out again"},
			func(ctx context.Context, in *struct {
				Who
				ID   string `path:"id"`
				Body struct {
					ID string `json:"id" minLength:"8" maxLength:"64" doc:"Made by the client"`
				}
			}) (*doneOut, error) {
				return s.change(ctx, in.ID, in.Who, func(p pieceState) (store.Outcome, error) {
					return step(ctx, in.ID, in.Author, in.Body.ID)
				})
			})
	}
}

// fits says whether media is known and of a kind its pocket takes.
func (s *Server) fits(d *template.Document, op edit.Op) error {
	for _, o := range op.Ops {
		if err := s.fits(d, o); err != nil {
			return err
		}
	}
	if op.Kind != "fill" || op.Media == "" {
		return nil
	}
	md, ok := s.store.Medium(op.Media)
	if !ok {
		return badRequest{fmt.Errorf("media: %s is not in the store; upload it first", op.Media)}
	}
	if p := d.Pocket(op.Pocket); p != nil && !p.Takes(md.Meta.Kind) {
		return badRequest{fmt.Errorf("pocket %s takes no %s, and that is what %s is; choose other media or another pocket", p.Name, mediaWords[md.Meta.Kind], md.Name)}
	}
	return nil
}

// change carries something out and tells every window.
func (s *Server) change(ctx context.Context, id string, w Who, f func(pieceState) (store.Outcome, error)) (*doneOut, error) {
	before, err := s.piece(ctx, id)
	if err != nil {
		return nil, s.apiError(err)
	}
	out, err := f(before)
	if err != nil {
		return nil, s.apiError(err)
	}
	after, err := s.state(ctx, out.Piece)
	if err != nil {
		return nil, s.apiError(err)
	}
	done := DoneView{Title: out.Title, Joined: joinedText(out.Joined)}
	if len(out.Changes) > 0 {
		s.touch(ctx, out.Changes)
		s.hub.send(event{Type: "piece", ID: id, Revision: out.Piece.Revision, Window: w.Window})
	}
	done.Piece, err = s.view(ctx, after, w.Author)
	tell(ctx, id, "%s: %s", done.Piece.Name, out.Title)
	return &doneOut{done}, s.apiError(err)
}

// joinedText tells of the last change of the same thing that came between.
func joinedText(all []store.Joined) string {
	if len(all) == 0 {
		return ""
	}
	last := all[len(all)-1]
	return fmt.Sprintf("“%s” was changed by %s meanwhile; both are kept.", last.Title, edit.By(last.Mine))
}

// seconds since an instant written by the store.
func since(at string) time.Duration {
	t, err := time.Parse(time.RFC3339Nano, at)
	if err != nil {
		return 0
	}
	return time.Since(t)
}
