package server

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"strconv"

	"github.com/danielgtaylor/huma/v2"
	"github.com/go-chi/chi/v5"
	"github.com/google/uuid"

	"ivypocket/access"
	"ivypocket/core/edit"
	"ivypocket/core/release"
	"ivypocket/core/sheet"
	"ivypocket/core/template"
	"ivypocket/core/timing"
	"ivypocket/deliver"
	"ivypocket/store"
)

// What is otherwise from one release of a template to another, and how pieces go from one
// to another.

type (
	// DifferenceView is one thing that is otherwise in a release.
	DifferenceView struct {
		Entry string   `json:"entry" doc:"Its id; empty is a part of the template besides its sheet"`
		What  string   `json:"what" doc:"What it is called"`
		How   string   `json:"how" enum:"added,lost,renamed,changed"`
		Says  []string `json:"says"`
	}
	// SideView is something that can be looked at in one release, in the other, or in both.
	SideView struct {
		ID     string `json:"id"`
		Name   string `json:"name"`
		Before bool   `json:"before"`
		After  bool   `json:"after"`
	}
	// LooksView is where two releases can be looked at beside each other.
	LooksView struct {
		Formats []SideView `json:"formats"`
		Cues    []SideView `json:"cues" doc:"An empty id is the poster, where a template has no cue"`
	}
	// CompareView is what is otherwise in one release than in another.
	CompareView struct {
		LooksView
		From     int              `json:"from"`
		To       int              `json:"to"`
		Sheet    []DifferenceView `json:"sheet"`
		Template []DifferenceView `json:"template"`
		Alike    bool             `json:"alike" doc:"Nothing at all is otherwise"`
	}
	// MoveLine is what becomes of one thing that a sheet asks for.
	MoveLine struct {
		Entry string `json:"entry"`
		Label string `json:"label"`
		Says  string `json:"says" doc:"Its value, or why it is not taken"`
	}
	// MoveView is what a move to another release means for a piece.
	MoveView struct {
		LooksView
		From int        `json:"from"`
		To   int        `json:"to"`
		Note string     `json:"note" doc:"What its designer says of the release"`
		Kept []MoveLine `json:"kept"`
		Lost []MoveLine `json:"lost" doc:"Put aside in the piece; they come back in a release that takes them"`
		Back []MoveLine `json:"back" doc:"Put aside by an earlier move, and taken again"`
		New  []MoveLine `json:"new" doc:"Asked for by this release and not by the one before"`
	}
)

var errTryout = badRequest{errors.New("a draft that is tried out is of no release")}

func differences(all []release.Difference) []DifferenceView {
	out := []DifferenceView{}
	for _, d := range all {
		out = append(out, DifferenceView{d.Entry, d.What, string(d.How), append([]string{}, d.Says...)})
	}
	return out
}

func moveLines(all []edit.Line) []MoveLine {
	out := []MoveLine{}
	for _, l := range all {
		out = append(out, MoveLine(l))
	}
	return out
}

// looksOf lists what can be seen of two releases, in the order of the newer one.
func looksOf(a, b *template.Document) LooksView {
	v := LooksView{Formats: []SideView{}, Cues: []SideView{}}
	for _, f := range b.Formats {
		v.Formats = append(v.Formats, SideView{f.ID, f.Name, a.Format(f.ID) != nil, true})
	}
	for _, f := range a.Formats {
		if b.Format(f.ID) == nil {
			v.Formats = append(v.Formats, SideView{f.ID, f.Name, true, false})
		}
	}
	for _, c := range b.Cues {
		v.Cues = append(v.Cues, SideView{c.ID, c.Name, cueOf(a, c.ID) != nil, true})
	}
	for _, c := range a.Cues {
		if cueOf(b, c.ID) == nil {
			v.Cues = append(v.Cues, SideView{c.ID, c.Name, true, false})
		}
	}
	if len(a.Cues) == 0 || len(b.Cues) == 0 {
		v.Cues = append(v.Cues, SideView{"", "Poster", true, true})
	}
	return v
}

func cueOf(d *template.Document, id string) *template.Cue {
	for i := range d.Cues {
		if d.Cues[i].ID == id {
			return &d.Cues[i]
		}
	}
	return nil
}

// takes is which media a pocket takes; of media that is not known any more, any.
func (s *Server) takes(hash string, p *template.Pocket) bool {
	md, ok := s.store.Medium(hash)
	return !ok || p.Takes(md.Meta.Kind)
}

// newestOf is the number of the newest release of a template; 0 is of one that is not on
// the shelf.
func (s *Server) newestOf(ctx context.Context, id string) int {
	t, err := s.shelved(ctx, id)
	if err != nil {
		return 0
	}
	return t.Number
}

// move works out what a move means; to 0 is to the newest release.
func (s *Server) move(ctx context.Context, p pieceState, to int) (edit.Piece, edit.Moved, *template.Document, error) {
	if p.row.Tryout() {
		return p.piece, edit.Moved{}, nil, errTryout
	}
	of := func(n int) (*template.Document, error) { return s.store.Document(ctx, p.row.Template, n) }
	if to == 0 {
		to = s.newestOf(ctx, p.row.Template)
	}
	next, _, moved, err := edit.Move(of, p.piece, to, s.takes)
	if err != nil {
		return next, moved, nil, err
	}
	d, err := of(next.Release)
	return next, moved, d, err
}

func (s *Server) moveRoutes() {
	type chosenRelease struct {
		ID string `path:"id"`
		To int    `query:"to" minimum:"0" maximum:"1000000" doc:"A release; 0 is the newest"`
	}
	add(s, access.Fill, huma.Operation{OperationID: "look-at-move", Method: http.MethodGet, Path: "/api/pieces/{id}/move", Summary: "What a move to another release means for a piece"},
		func(ctx context.Context, in *chosenRelease) (*struct{ Body MoveView }, error) {
			p, err := s.piece(ctx, in.ID)
			if err != nil {
				return nil, s.apiError(err)
			}
			next, m, d, err := s.move(ctx, p, in.To)
			if err != nil {
				return nil, s.apiError(err)
			}
			v := MoveView{LooksView: looksOf(p.doc, d), From: p.row.Number, To: next.Release, Kept: moveLines(m.Kept), Lost: moveLines(m.Lost), Back: moveLines(m.Back), New: moveLines(m.New)}
			list, err := s.store.Releases(ctx, p.row.Template)
			for _, r := range list {
				if r.Number == next.Release {
					v.Note = r.Note
				}
			}
			return &struct{ Body MoveView }{v}, s.apiError(err)
		})
	add(s, access.Fill, huma.Operation{OperationID: "move-piece", Method: http.MethodPost, Path: "/api/pieces/{id}/move", Summary: "Move a piece to another release of its template",
		Description: "One change, undone like any other. Values that the release does not take are put aside."},
		func(ctx context.Context, in *struct {
			Who
			ID   string `path:"id"`
			Body struct {
				ID   string `json:"id" minLength:"8" maxLength:"64" doc:"Made by the client"`
				Base int64  `json:"base" minimum:"0" doc:"The revision the client had seen"`
				To   int    `json:"to" minimum:"0" maximum:"1000000" doc:"A release; 0 is the newest"`
			}
		}) (*doneOut, error) {
			return s.change(ctx, in.ID, in.Who, func(p pieceState) (store.Outcome, error) {
				if p.row.Tryout() {
					return store.Outcome{}, errTryout
				}
				to := in.Body.To
				if to == 0 {
					to = s.newestOf(ctx, p.row.Template)
				}
				return s.store.Move(ctx, in.ID, store.Sent{ID: in.Body.ID, Author: in.Author, Window: in.Window, Base: in.Body.Base}, to, s.takes)
			})
		})
	add(s, access.Fill, huma.Operation{OperationID: "move-pieces", Method: http.MethodPost, Path: "/api/pieces/move", Summary: "Move pieces to the newest releases of their templates, as one change"},
		func(ctx context.Context, in *struct {
			Who
			Body struct {
				IDs []string `json:"ids" minItems:"1" maxItems:"10000"`
			}
		}) (*struct{ Body StrokeView }, error) {
			v, err := s.movePieces(ctx, in.Body.IDs, in.Author)
			tell(ctx, v.Stroke, "Moved %d pieces to the newest releases", len(in.Body.IDs))
			return &struct{ Body StrokeView }{v}, s.apiError(err)
		})
	add(s, access.Build, huma.Operation{OperationID: "compare-releases", Method: http.MethodGet, Path: "/api/templates/{id}/compare", Summary: "What is otherwise in one release than in another"},
		func(ctx context.Context, in *struct {
			ID   string `path:"id"`
			From int    `query:"from" minimum:"1" required:"true"`
			To   int    `query:"to" minimum:"1" required:"true"`
		}) (*struct{ Body CompareView }, error) {
			a, err := s.store.Document(ctx, in.ID, in.From)
			if err != nil {
				return nil, s.apiError(err)
			}
			b, err := s.store.Document(ctx, in.ID, in.To)
			if err != nil {
				return nil, s.apiError(err)
			}
			c := release.Compare(a, b)
			return &struct{ Body CompareView }{CompareView{looksOf(a, b), in.From, in.To, differences(c.Sheet), differences(c.Template), c.Alike}}, nil
		})
}

// movePieces moves pieces to the newest releases of their templates. What can't be moved
// is told and left as it is.
func (s *Server) movePieces(ctx context.Context, ids []string, author string) (StrokeView, error) {
	v := StrokeView{Stroke: uuid.NewString(), Hashes: []string{}, Left: []string{}}
	list, err := s.store.Templates(ctx)
	if err != nil {
		return v, err
	}
	newest := map[string]int{}
	for _, t := range list {
		if t.Deleted == "" {
			newest[t.ID] = t.Number
		}
	}
	for _, id := range ids {
		row, err := s.store.Piece(ctx, id)
		to := newest[row.Template]
		switch {
		case gone(err), err == nil && (row.Tryout() || to == row.Number):
			continue
		case err == nil && to == 0:
			err = errors.New("its template is not on the shelf")
		case err == nil:
			var out store.Outcome
			if out, err = s.store.Move(ctx, id, store.Sent{ID: uuid.NewString(), Author: author, Base: row.Revision, Stroke: v.Stroke}, to, s.takes); err == nil {
				v.Pieces++
				s.hub.send(event{Type: "piece", ID: id, Revision: out.Piece.Revision})
			}
		}
		if ctx.Err() != nil {
			return v, err
		}
		if err != nil {
			v.Left = append(v.Left, fmt.Sprintf("%s: %s", row.Name, err))
		}
	}
	return v, nil
}

// movedLook answers with a picture of a piece as it would be in a release, at a cue.
func (s *Server) movedLook(w http.ResponseWriter, r *http.Request) {
	p, err := s.piece(r.Context(), chi.URLParam(r, "id"))
	if err != nil {
		s.failed(w, r, err)
		return
	}
	next, _, d, err := s.move(r.Context(), p, number(r, "release", 0, 0, 1_000_000))
	if err != nil {
		s.failed(w, r, err)
		return
	}
	s.atCue(w, r, d, next.Values)
}

// releaseLook answers with a picture of a release, at a cue.
func (s *Server) releaseLook(w http.ResponseWriter, r *http.Request) {
	if d, ok := s.released(w, r); ok {
		s.atCue(w, r, d, sheet.Values{})
	}
}

// released is the release that an address names; one that is not there is answered.
func (s *Server) released(w http.ResponseWriter, r *http.Request) (*template.Document, bool) {
	n, err := strconv.Atoi(chi.URLParam(r, "number"))
	if err != nil {
		err = store.ErrNotFound
	}
	var d *template.Document
	if err == nil {
		d, err = s.store.Document(r.Context(), chi.URLParam(r, "id"), n)
	}
	if err != nil {
		s.failed(w, r, err)
	}
	return d, err == nil
}

// atCue answers with the frame at a cue, or with the poster.
func (s *Server) atCue(w http.ResponseWriter, r *http.Request, d *template.Document, v sheet.Values) {
	format := r.URL.Query().Get("format")
	if d.Format(format) == nil {
		s.failed(w, r, store.ErrNotFound)
		return
	}
	frame := deliver.Job{Doc: d, Values: v}.Poster()
	if id := r.URL.Query().Get("cue"); id != "" {
		c := cueOf(d, id)
		m, err := d.Measured(v.Measure).TimeMap(v.Frames)
		if c == nil || err != nil {
			s.failed(w, r, errors.Join(err, store.ErrNotFound))
			return
		}
		frame = int64(m.Frame(timing.TemplateTime{Rat: c.At}))
	}
	s.still(w, r, d, v, format, frame)
}
