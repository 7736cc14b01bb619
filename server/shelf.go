package server

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"regexp"

	"github.com/danielgtaylor/huma/v2"

	"ivypocket/access"
	"ivypocket/core/template"
	"ivypocket/store"
)

// What lists of templates and pieces tell.
type (
	// ShelfItem is a template on the shelf, with its pieces.
	ShelfItem struct {
		ID       string       `json:"id"`
		Name     string       `json:"name"`
		Category string       `json:"category"`
		Family   string       `json:"family"`
		About    string       `json:"about"`
		Release  int          `json:"release"`
		Rate     string       `json:"rate"`
		Seconds  float64      `json:"seconds"`
		Pockets  int          `json:"pockets"`
		Entries  int          `json:"entries"`
		Formats  []FormatView `json:"formats"`
		Pieces   []PieceLine  `json:"pieces" doc:"The last changed first"`
		Deleted  string       `json:"deleted" doc:"When it was put in the bin; empty is not"`
	}
	// PieceLine is a piece in a list.
	PieceLine struct {
		ID       string `json:"id"`
		Name     string `json:"name"`
		Revision int64  `json:"revision"`
		Changed  string `json:"changed" format:"date-time"`
	}
	// PieceItem is a piece in the list of all pieces.
	PieceItem struct {
		PieceLine
		Template string `json:"template"`
		Of       string `json:"of" doc:"Name of the template"`
		Category string `json:"category"`
		Release  int    `json:"release"`
		Newest   int    `json:"newest" doc:"The newest release of its template; 0 is of one that is not on the shelf"`
		Created  string `json:"created" format:"date-time"`
		Rendered string `json:"rendered" doc:"When it was last rendered; empty is never"`
		Since    bool   `json:"since" doc:"It was changed since it was last rendered"`
		Deleted  string `json:"deleted" doc:"When it was deleted; empty is not"`
	}
)

func shelfItem(d *template.Document, number int) ShelfItem {
	return ShelfItem{ID: d.ID, Name: d.Name, Category: d.Category, Family: d.Family, About: d.About, Release: number,
		Rate: d.Seen().Label(), Seconds: d.Seen().Seconds(d.Own()).Float(), Pockets: len(d.Pockets), Entries: len(d.Sheet.Entries()),
		Formats: formatViews(d), Pieces: []PieceLine{}}
}

func (s *Server) shelfRoutes() {
	add(s, access.Fill, huma.Operation{OperationID: "shelf", Method: http.MethodGet, Path: "/api/shelf", Summary: "Templates on the shelf"},
		func(ctx context.Context, in *struct {
			Deleted bool `query:"deleted" doc:"Those in the bin"`
		}) (*struct{ Body []ShelfItem }, error) {
			items, err := s.shelf(ctx, in.Deleted)
			return &struct{ Body []ShelfItem }{items}, s.apiError(err)
		})
	s.templateRoutes()
	s.releaseRoutes()
	add(s, access.Fill, huma.Operation{OperationID: "open-template", Method: http.MethodPost, Path: "/api/templates/{id}/open",
		Summary: "Make a piece of a template, or reopen the one last changed"},
		func(ctx context.Context, in *struct {
			Who
			ID  string `path:"id"`
			New bool   `query:"new" doc:"Make a new piece in any case"`
		}) (*pieceOut, error) {
			p, err := s.openTemplate(ctx, in.ID, in.New)
			if err != nil {
				return nil, s.apiError(err)
			}
			v, err := s.view(ctx, p, in.Author)
			tell(ctx, p.row.ID, "%s: opened", v.Name)
			return &pieceOut{v}, s.apiError(err)
		})
	add(s, access.Fill, huma.Operation{OperationID: "pieces", Method: http.MethodGet, Path: "/api/pieces", Summary: "All pieces, the last changed first"},
		func(ctx context.Context, in *struct {
			Deleted bool `query:"deleted" doc:"Those that were deleted and can be brought back"`
		}) (*struct{ Body []PieceItem }, error) {
			items, err := s.pieceItems(ctx, in.Deleted)
			return &struct{ Body []PieceItem }{items}, s.apiError(err)
		})
	add(s, access.Fill, huma.Operation{OperationID: "duplicate-piece", Method: http.MethodPost, Path: "/api/pieces/{id}/duplicate", Summary: "Make a piece that stands as this one does"},
		func(ctx context.Context, in *struct {
			ID   string `path:"id"`
			Next bool   `query:"next" doc:"The next one like it, with nothing in its pockets yet"`
		}) (*struct{ Body PieceItem }, error) {
			it, err := s.duplicate(ctx, in.ID, in.Next)
			tell(ctx, it.ID, "%s: made like another", it.Name)
			return &struct{ Body PieceItem }{it}, s.apiError(err)
		})
	type chosenPieces struct {
		IDs  []string `json:"ids" minItems:"1" maxItems:"10000"`
		Back bool     `json:"back,omitempty" doc:"Bring them back"`
	}
	type changedPieces struct {
		IDs []string `json:"ids" doc:"Those that this changed"`
	}
	add(s, access.Fill, huma.Operation{OperationID: "delete-pieces", Method: http.MethodPost, Path: "/api/pieces/delete", Summary: "Delete pieces, or bring them back",
		Description: "For seven days they can be brought back."},
		func(ctx context.Context, in *struct{ Body chosenPieces }) (*struct{ Body changedPieces }, error) {
			ids, err := s.deletePieces(ctx, in.Body.IDs, in.Body.Back)
			tellMany(ctx, ids, in.Body.Back, "piece")
			return &struct{ Body changedPieces }{changedPieces{ids}}, s.apiError(err)
		})
}

func (s *Server) shelf(ctx context.Context, deleted bool) ([]ShelfItem, error) {
	list, err := s.releaseLines(ctx)
	if err != nil {
		return nil, err
	}
	pieces, err := s.pieceLines(ctx)
	if err != nil {
		return nil, err
	}
	of := map[string][]PieceLine{}
	for _, p := range pieces {
		of[p.row.Template] = append(of[p.row.Template], p.PieceLine)
	}
	out := []ShelfItem{}
	for _, t := range list {
		it := t.ShelfItem
		if (it.Deleted != "") != deleted {
			continue
		}
		if mine := of[it.ID]; mine != nil {
			it.Pieces = mine
		}
		out = append(out, it)
	}
	return out, nil
}

// pieceItems lists all pieces that can be read, or those that were deleted.
func (s *Server) pieceItems(ctx context.Context, deleted bool) ([]PieceItem, error) {
	releases, err := s.releaseLines(ctx)
	if err != nil {
		return nil, err
	}
	of := map[string]ShelfItem{}
	for _, t := range releases {
		of[t.ID] = t.ShelfItem
	}
	var rows []store.Piece
	if deleted {
		rows, err = s.store.DeletedPieces(ctx)
	} else {
		var lines []pieceLine
		lines, err = s.pieceLines(ctx)
		for _, l := range lines {
			rows = append(rows, l.row)
		}
	}
	if err != nil {
		return nil, err
	}
	out := make([]PieceItem, 0, len(rows))
	for _, row := range rows {
		out = append(out, pieceItem(row, of[row.Template]))
	}
	return out, nil
}

func pieceItem(row store.Piece, t ShelfItem) PieceItem {
	if t.ID == "" {
		t.Name = row.Template // its release can't be read
	}
	newest := t.Release
	if t.Deleted != "" {
		newest = 0
	}
	return PieceItem{PieceLine: lineOfRow(row), Template: row.Template, Of: t.Name, Category: t.Category, Release: row.Number, Newest: newest,
		Created: row.Created, Rendered: row.Rendered, Since: row.Rendered != "" && row.Revision > row.RenderedRevision, Deleted: row.Deleted}
}

func lineOfRow(row store.Piece) PieceLine {
	return PieceLine{row.ID, row.Name, row.Revision, row.Changed}
}

func (s *Server) openTemplate(ctx context.Context, id string, fresh bool) (pieceState, error) {
	d, number, err := s.newest(ctx, id)
	if err != nil {
		return pieceState{}, err
	}
	pieces, err := s.pieceLines(ctx)
	if err != nil {
		return pieceState{}, err
	}
	for _, p := range pieces {
		if p.row.Template == id && !fresh {
			return s.piece(ctx, p.ID)
		}
	}
	row, err := s.store.NewPiece(ctx, id, number, freeName(d.Name, pieces))
	if err != nil {
		return pieceState{}, err
	}
	s.hub.send(event{Type: "shelf"})
	return s.state(ctx, row)
}

func (s *Server) duplicate(ctx context.Context, id string, next bool) (PieceItem, error) {
	p, err := s.piece(ctx, id)
	if err == nil && p.row.Tryout() {
		err = store.ErrNotFound // it is in no list
	}
	if err != nil {
		return PieceItem{}, err
	}
	pieces, err := s.pieceLines(ctx)
	if err != nil {
		return PieceItem{}, err
	}
	row, err := s.store.Duplicate(ctx, id, freeName(p.piece.Name, pieces), next)
	if err != nil {
		return PieceItem{}, err
	}
	s.hub.send(event{Type: "shelf"})
	item := pieceItem(row, shelfItem(p.doc, row.Number))
	item.Newest = s.newestOf(ctx, row.Template)
	return item, nil
}

var numberedName = regexp.MustCompile(`^(.*\S) \d{1,3}$`)

// freeName returns a name, or, when a piece has it, the first that is free of
// those with a number after it: "Gulls", "Gulls 2", "Gulls 3".
func freeName(name string, pieces []pieceLine) string {
	taken := map[string]bool{}
	for _, p := range pieces {
		taken[p.Name] = true
	}
	return freeNameOf(name, taken)
}

func freeNameOf(name string, taken map[string]bool) string {
	if !taken[name] {
		return name
	}
	if m := numberedName.FindStringSubmatch(name); m != nil {
		name = m[1]
	}
	for n := 2; ; n++ {
		if next := fmt.Sprintf("%s %d", name, n); !taken[next] {
			return next
		}
	}
}

// deletePieces deletes pieces, or brings them back, and tells every window.
func (s *Server) deletePieces(ctx context.Context, ids []string, back bool) ([]string, error) {
	changed, err := s.store.Delete(ctx, store.PieceKind, ids, back)
	if err != nil {
		return []string{}, err
	}
	state := "deleted"
	if back {
		state = "back"
	}
	for _, id := range changed {
		if !back {
			s.stopTrial(id)
			s.store.Settle("piece " + id)
		}
		s.hub.send(event{Type: "piece", ID: id, State: state})
	}
	if len(changed) == 0 {
		return []string{}, nil
	}
	s.hub.send(event{Type: "shelf"})
	return changed, nil
}

// gone says what of a list of pieces is no more, so that others go on without it.
func gone(err error) bool {
	return errors.Is(err, store.ErrDeleted) || errors.Is(err, store.ErrNotFound)
}
