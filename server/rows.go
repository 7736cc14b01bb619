package server

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"github.com/danielgtaylor/huma/v2"
	"github.com/go-chi/chi/v5"
	"github.com/google/uuid"

	"ivypocket/access"
	"ivypocket/core/edit"
	"ivypocket/core/scheme"
	"ivypocket/core/template"
	"ivypocket/store"
)

// ListView is a list that is kept with a template, as the newest release reads it.
type ListView struct {
	Revision int64        `json:"revision"`
	Columns  []ColumnView `json:"columns"`
	Rows     []RowView    `json:"rows"`
	// More are the columns that there may be besides.
	More []ColumnView `json:"more"`
	// Media is what the cells speak of, by hash.
	Media map[string]MediumView `json:"media"`
}

// ColumnView is a column of a list.
type ColumnView struct {
	Data  string `json:"data" doc:"The entry's name for data"`
	Label string `json:"label" doc:"The entry's, or the name for data of one that is not there"`
	Kind  string `json:"kind" doc:"The entry's; empty is of one that is not there"`
	// Takes are the kinds of media that its pocket takes.
	Takes []string `json:"takes"`
	// Options are all that its cells may say; none is that they may say more.
	Options []string `json:"options"`
}

// RowView is a row of a list.
type RowView struct {
	ID    string    `json:"id"`
	Name  string    `json:"name"`
	Cells []RowCell `json:"cells"`
	// Leaves are the columns that an empty cell leaves as they are.
	Leaves []string `json:"leaves"`
}

// RowCell is a cell of a list.
type RowCell struct {
	Text  string `json:"text"`
	Media string `json:"media,omitempty" doc:"The hash of the media that it speaks of"`
	Why   string `json:"why,omitempty" doc:"Why it can't be used; empty is that it can"`
}

// RowChangeView is what a row does to an entry of a piece.
type RowChangeView struct {
	Label  string `json:"label"`
	Before string `json:"before" doc:"Empty is the template's own"`
	After  string `json:"after" doc:"Empty is the template's own again"`
}

// RowLook is what filling a piece from a row would do.
type RowLook struct {
	Changes []RowChangeView `json:"changes"`
}

// shelfOf finds media for cells, by hash or by name; of several of one name it is the one
// that was used last.
func (s *Server) shelfOf() edit.Shelf {
	all := s.store.All()
	slices.SortFunc(all, func(a, b store.Medium) int { return strings.Compare(b.Used+b.Created+b.Hash, a.Used+a.Created+a.Hash) })
	return func(text string) (edit.Given, bool) {
		if scheme.ValidHash(text) {
			g, err := s.given(text)
			return g, err == nil
		}
		for _, md := range all {
			if md.Cleared == "" && strings.EqualFold(md.Name, text) {
				g, err := s.given(md.Hash)
				return g, err == nil
			}
		}
		return edit.Given{}, false
	}
}

// called is what media is called in a file: by its name, if no other has it.
func (s *Server) called() func(hash string) string {
	names := map[string]int{}
	for _, md := range s.store.All() {
		names[strings.ToLower(md.Name)]++
	}
	return func(hash string) string {
		md, ok := s.store.Medium(hash)
		if !ok || names[strings.ToLower(md.Name)] > 1 {
			return hash
		}
		return md.Name
	}
}

func columnView(c edit.Column, d *template.Document) ColumnView {
	v := ColumnView{Data: c.Data, Label: c.Data, Takes: []string{}, Options: []string{}}
	if c.Entry != nil {
		v.Label, v.Kind = c.Entry.Label, string(c.Entry.Kind)
		if c.Entry.Discrete() {
			for _, o := range c.Entry.Ends() {
				v.Options = append(v.Options, c.Entry.Writes(o))
			}
		}
		if p := d.Pocket(c.Entry.Pocket); p != nil {
			for _, k := range p.Kinds {
				v.Takes = append(v.Takes, string(k))
			}
		}
	}
	return v
}

func (s *Server) listView(d *template.Document, l store.KeptList) ListView {
	v := ListView{Revision: l.Revision, Columns: []ColumnView{}, Rows: []RowView{}, More: []ColumnView{}, Media: map[string]MediumView{}}
	all := edit.ColumnsOf(d)
	of := make([]*template.Entry, len(l.Columns))
	for i, data := range l.Columns {
		c := edit.Column{Data: data}
		if at := slices.IndexFunc(all, func(c edit.Column) bool { return c.Data == data }); at >= 0 {
			c = all[at]
		}
		of[i] = c.Entry
		v.Columns = append(v.Columns, columnView(c, d))
	}
	for _, c := range all {
		if !slices.Contains(l.Columns, c.Data) {
			v.More = append(v.More, columnView(c, d))
		}
	}
	shelf := s.shelfOf()
	for _, r := range l.Rows {
		row := RowView{ID: r.ID, Name: r.Name, Cells: []RowCell{}, Leaves: append([]string{}, r.Leaves...)}
		for i, text := range r.Cells {
			c := RowCell{Text: text}
			if of[i] != nil {
				_, g, err := edit.Cell(d, of[i], text, shelf)
				if g != nil {
					c.Media = g.Hash
					v.Media[g.Hash], _ = s.mediumView(g.Hash)
				}
				if err != nil {
					c.Why = err.Error()
				}
			}
			row.Cells = append(row.Cells, c)
		}
		v.Rows = append(v.Rows, row)
	}
	return v
}

// keptWith is a template's newest release and the list that is kept with it.
func (s *Server) keptWith(ctx context.Context, id string) (*template.Document, store.KeptList, error) {
	d, _, err := s.newest(ctx, id)
	if err != nil {
		return nil, store.KeptList{}, err
	}
	l, err := s.store.ListOf(ctx, id)
	return d, l, err
}

// keepList changes a list and tells every window.
func (s *Server) keepList(ctx context.Context, id string, base int64, said string, change func(d *template.Document, l *edit.List) error) (ListView, error) {
	d, _, err := s.newest(ctx, id)
	if err != nil {
		return ListView{}, err
	}
	l, err := s.store.KeepList(ctx, id, base, func(l *edit.List) error { return change(d, l) })
	if err != nil {
		return ListView{}, err
	}
	tell(ctx, id, "%s: %s", d.Name, said)
	s.hub.send(event{Type: "list", ID: id, Revision: l.Revision})
	return s.listView(d, l), nil
}

// listCSV answers with a list as CSV.
func (s *Server) listCSV(w http.ResponseWriter, r *http.Request) {
	d, l, err := s.keptWith(r.Context(), chi.URLParam(r, "id"))
	var b bytes.Buffer
	if err == nil {
		if len(l.Columns) == 0 { // one to begin with
			for _, c := range edit.ColumnsOf(d) {
				l.Columns = append(l.Columns, c.Data)
			}
		}
		err = l.WriteCSV(&b, s.called())
	}
	if err != nil {
		s.failed(w, r, err)
		return
	}
	w.Header().Set("Content-Type", "text/csv; charset=utf-8; header=present")
	w.Header().Set("Content-Disposition", disposition("attachment", store.CleanName(d.Name)+".csv"))
	_, _ = b.WriteTo(w)
}

// readList takes in a list as CSV: in the place of the one that is there, or after its rows.
func (s *Server) readList(w http.ResponseWriter, r *http.Request) {
	b, err := io.ReadAll(http.MaxBytesReader(w, r.Body, edit.MaxCSV+1))
	if errors.As(err, new(*http.MaxBytesError)) {
		err = badRequest{fmt.Errorf("the file has more than %d MB", edit.MaxCSV>>20)}
	}
	base, berr := strconv.ParseInt(r.URL.Query().Get("revision"), 10, 64)
	if err == nil && berr != nil {
		err = badRequest{errors.New("revision: say which one the list is at")}
	}
	var v ListView
	if err == nil {
		v, err = s.keepList(r.Context(), chi.URLParam(r, "id"), base, "read a list from CSV", func(d *template.Document, l *edit.List) error {
			read, err := edit.ReadCSV(d, b, uuid.NewString)
			if err != nil {
				return badRequest{err}
			}
			if r.URL.Query().Get("after") == "true" {
				l.Append(read)
				return nil
			}
			*l = *read
			return nil
		})
	}
	if err != nil {
		s.failed(w, r, err)
		return
	}
	w.Header().Set("Content-Type", "application/json")
	_ = writeJSON(w, v)
}

type listOut struct{ Body ListView }

func (s *Server) listRoutes() {
	add(s, access.Fill, huma.Operation{OperationID: "get-list", Method: http.MethodGet, Path: "/api/templates/{id}/list",
		Summary: "The list that is kept with a template, to fill pieces from"},
		func(ctx context.Context, in *struct {
			ID string `path:"id"`
		}) (*listOut, error) {
			d, l, err := s.keptWith(ctx, in.ID)
			if err != nil {
				return nil, s.apiError(err)
			}
			return &listOut{s.listView(d, l)}, nil
		})
	add(s, access.Fill, huma.Operation{OperationID: "keep-list", MaxBodyBytes: 3 * edit.MaxCSV, Method: http.MethodPut, Path: "/api/templates/{id}/list",
		Summary:     "Change the list that is kept with a template",
		Description: "As a whole. 409 says that somebody changed it since the revision."},
		func(ctx context.Context, in *struct {
			ID   string `path:"id"`
			Body struct {
				Revision int64      `json:"revision" minimum:"0"`
				Columns  []string   `json:"columns" maxItems:"100"`
				Rows     []edit.Row `json:"rows" maxItems:"2000"`
			}
		}) (*listOut, error) {
			v, err := s.keepList(ctx, in.ID, in.Body.Revision, "changed its list", func(_ *template.Document, l *edit.List) error {
				l.Columns, l.Rows = in.Body.Columns, in.Body.Rows
				return nil
			})
			return &listOut{v}, s.apiError(err)
		})
	add(s, access.Fill, huma.Operation{OperationID: "keep-row", Method: http.MethodPost, Path: "/api/pieces/{id}/keep",
		Summary: "Keep what a piece is filled with as a row of its template's list"},
		func(ctx context.Context, in *struct {
			ID   string `path:"id"`
			Body struct {
				Revision int64  `json:"revision" minimum:"0" doc:"The list's"`
				Name     string `json:"name" maxLength:"200"`
			}
		}) (*listOut, error) {
			p, err := s.piece(ctx, in.ID)
			if err == nil && p.row.Tryout() {
				err = errTryout
			}
			if err != nil {
				return nil, s.apiError(err)
			}
			v, err := s.keepList(ctx, p.row.Template, in.Body.Revision, "kept a row, "+in.Body.Name, func(d *template.Document, l *edit.List) error {
				l.Widen(d, p.piece)
				r := edit.RowOf(p.doc, l, p.piece, uuid.NewString())
				r.Name = in.Body.Name
				l.Rows = append(l.Rows, r)
				return nil
			})
			return &listOut{v}, s.apiError(err)
		})
	add(s, access.Fill, huma.Operation{OperationID: "look-at-row", Method: http.MethodGet, Path: "/api/pieces/{id}/row",
		Summary: "What filling a piece from a row would change, and what it would empty"},
		func(ctx context.Context, in *struct {
			ID  string `path:"id"`
			Row string `query:"row" required:"true" maxLength:"64"`
		}) (*struct{ Body RowLook }, error) {
			p, err := s.piece(ctx, in.ID)
			if err != nil {
				return nil, s.apiError(err)
			}
			l, err := s.store.ListOf(ctx, p.row.Template)
			if err != nil {
				return nil, s.apiError(err)
			}
			named := func(text string) string {
				if md, ok := s.store.Medium(text); ok {
					return md.Name
				}
				return text
			}
			v := RowLook{Changes: []RowChangeView{}}
			for _, c := range edit.RowChanges(p.doc, &l.List, in.Row, p.piece) {
				if before, after := named(c.Before), named(c.After); before != after {
					v.Changes = append(v.Changes, RowChangeView{c.Label, before, after})
				}
			}
			return &struct{ Body RowLook }{v}, nil
		})
	add(s, access.Fill, huma.Operation{OperationID: "fill-from-row", Method: http.MethodPost, Path: "/api/pieces/{id}/row",
		Summary:     "Fill a piece from a row of its template's list",
		Description: "One change. Each column is taken, an empty cell leaves its entry as the template has it, or, where the row came without the column, as it is; a cell that can't be used is told, and then nothing is filled."},
		func(ctx context.Context, in *struct {
			Who
			ID   string `path:"id"`
			Body struct {
				ID   string `json:"id" minLength:"8" maxLength:"64" doc:"Made by the client"`
				Base int64  `json:"base" minimum:"0" doc:"The revision the client had seen"`
				Row  string `json:"row"`
			}
		}) (*doneOut, error) {
			return s.change(ctx, in.ID, in.Who, func(p pieceState) (store.Outcome, error) {
				if p.row.Tryout() {
					return store.Outcome{}, errTryout
				}
				l, err := s.store.ListOf(ctx, p.row.Template)
				if err != nil {
					return store.Outcome{}, err
				}
				op, err := edit.FromRow(p.doc, &l.List, in.Body.Row, s.shelfOf())
				if err == nil {
					_, _, err = edit.Apply(p.doc, p.piece, op)
				}
				if err != nil {
					return store.Outcome{}, badRequest{err}
				}
				return s.store.Do(ctx, in.ID, store.Sent{ID: in.Body.ID, Author: in.Author, Window: in.Window, Base: in.Body.Base, Op: op})
			})
		})
}
