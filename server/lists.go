package server

import (
	"context"
	"fmt"

	"ivypocket/core/scheme"
	"ivypocket/core/sheet"
	"ivypocket/core/template"
	"ivypocket/store"
)

// What lists tell of pieces and releases is kept by revision and by number: a
// list then reads and parses nothing but what came since the one before.
const (
	listedPieces   = 8192
	listedReleases = 2048
)

// pieceLine is what lists tell of a piece.
type pieceLine struct {
	PieceLine
	row   store.Piece // without its content
	shows []shown
}

// shown is media in a pocket of a piece, or a font in which a layer's words are set.
type shown struct {
	pocket string // its name, or the layer's
	media  string
	given  bool // somebody put it there; else it is the stand-in
}

// releaseLine is what lists tell of a release.
type releaseLine struct {
	ShelfItem
	stands []shown
}

func lineOf(p pieceState) pieceLine {
	l := pieceLine{PieceLine: lineOfRow(p.row)}
	r := &sheet.Resolved{Doc: p.doc, Values: p.piece.Values}
	for _, k := range p.doc.Pockets {
		if m := r.Media(k.ID); m != "" {
			l.shows = append(l.shows, shown{k.Name, m, p.piece.Values.Fills[k.ID].Media != ""})
		}
	}
	return l
}

// pieceLines returns the lines of all pieces that can be read, the last changed
// first. One that can't is noted, and does not keep the others from being used.
func (s *Server) pieceLines(ctx context.Context) ([]pieceLine, error) {
	rows, err := s.store.Pieces(ctx)
	if err != nil {
		return nil, err
	}
	out := make([]pieceLine, 0, len(rows))
	for _, row := range rows {
		at := fmt.Sprintf("%s@%d", row.ID, row.Revision)
		if l, ok := s.pieceLists.Get(at); ok {
			l.row = row // what is noted at it changes without a new revision
			out = append(out, l)
			continue
		}
		p, err := s.piece(ctx, row.ID)
		key := "piece " + row.ID
		if gone(err) {
			continue
		}
		if err != nil {
			of := row.Template
			if d, derr := s.store.Document(ctx, row.Template, row.Number); derr == nil {
				of = d.Name
			}
			s.log.Error("a piece can't be read", "piece", row.ID, "error", err)
			s.store.Note(key, store.Trouble{What: "A piece of " + of, Why: "What is kept of it can't be read.",
				Do: "It is left out. A snapshot may still have it; ivypocket restore lists them."})
			continue
		}
		s.store.Settle(key)
		l := lineOf(p)
		s.pieceLists.Add(fmt.Sprintf("%s@%d", row.ID, p.row.Revision), l)
		l.row = p.row
		l.row.Content = ""
		out = append(out, l)
	}
	return out, ctx.Err()
}

// releaseLines returns the lines of the newest releases of all templates that
// can be read, in the bin or not, in the order of the shelf, as pieceLines does.
func (s *Server) releaseLines(ctx context.Context) ([]releaseLine, error) {
	list, err := s.store.Templates(ctx)
	if err != nil {
		return nil, err
	}
	out := make([]releaseLine, 0, len(list))
	for _, t := range list {
		at := fmt.Sprintf("%s@%d", t.ID, t.Number)
		if l, ok := s.releaseLists.Get(at); ok {
			out = append(out, l.shelved(t))
			continue
		}
		d, err := s.store.Document(ctx, t.ID, t.Number)
		key := "template " + t.ID
		if err != nil {
			s.store.Note(key, store.Trouble{What: t.Name, Why: fmt.Sprintf("Release %d of the template can't be read.", t.Number),
				Do: "It is left out. A snapshot may still have it; ivypocket restore lists them."})
			s.log.Error("a release can't be read", "template", t.ID, "release", t.Number, "error", err)
			continue
		}
		s.store.Settle(key)
		l := releaseLine{ShelfItem: shelfItem(d, t.Number)}
		for _, p := range d.Pockets {
			if p.StandIn != nil {
				l.stands = append(l.stands, shown{pocket: p.Name, media: p.StandIn.Media})
			}
			if m := p.Lined(); m != "" {
				l.stands = append(l.stands, shown{pocket: p.Name, media: m})
			}
		}
		d.VisitAll(func(_ string, y *template.Layer) {
			if f := y.Text(scheme.Wording.Face); y.Can(scheme.Lettered) && scheme.ValidHash(f) {
				l.stands = append(l.stands, shown{pocket: y.Name, media: f})
			}
		})
		s.releaseLists.Add(at, l)
		out = append(out, l.shelved(t))
	}
	return out, ctx.Err()
}

// shelved is a line as the shelf has it now: it may be called otherwise than its release.
func (l releaseLine) shelved(t store.Shelved) releaseLine {
	l.Name, l.Category, l.Family, l.Deleted = t.Name, t.Category, t.Family, t.Deleted
	return l
}
