package server

import (
	"context"
	"fmt"
	"net/http"
	"slices"

	"github.com/danielgtaylor/huma/v2"
	"github.com/google/uuid"

	"ivypocket/access"
	"ivypocket/core/edit"
	"ivypocket/core/template"
	"ivypocket/store"
)

// FitView is a template that takes media, and where it goes.
type FitView struct {
	ID      string   `json:"id"`
	Name    string   `json:"name"`
	Purpose string   `json:"purpose" enum:"stand-alone,overlay,frame,transition"`
	Release int      `json:"release"`
	Pockets []string `json:"pockets" doc:"Those that the media goes into, in its order, by their names"`
	Left    int      `json:"left" doc:"Pockets that stay to be filled"`
	Measure string   `json:"measure,omitempty" doc:"What a piece takes from the clip, for people"`
	Why     string   `json:"why,omitempty" doc:"Why the clip can't be had; empty is that it can"`
}

// given is media of the store, as it fills a piece.
func (s *Server) given(hash string) (edit.Given, error) {
	md, ok := s.store.Medium(hash)
	info, known := s.lib.Info(hash)
	if !ok || md.Cleared != "" {
		return edit.Given{}, badRequest{fmt.Errorf("media: %s is not in the store; upload it first", hash)}
	}
	g := edit.Given{Hash: hash, Name: md.Name, Kind: md.Meta.Kind}
	if known {
		g.Size, g.Clip = info.Size, info.Clip
	}
	return g, nil
}

func (s *Server) allGiven(hashes []string) (out []edit.Given, err error) {
	for _, h := range hashes {
		g, err := s.given(h)
		if err != nil {
			return nil, err
		}
		out = append(out, g)
	}
	return out, nil
}

// takers lists the templates that media can be put into, those made for it first.
func (s *Server) takers(ctx context.Context, media []edit.Given) ([]FitView, error) {
	list, err := s.store.Templates(ctx)
	if err != nil {
		return nil, err
	}
	out := []FitView{}
	for _, t := range list {
		if t.Deleted != "" {
			continue
		}
		d, err := s.store.Document(ctx, t.ID, t.Number)
		if err != nil {
			continue // the shelf says so
		}
		places := edit.Places(d, media)
		if places == nil {
			continue
		}
		v := FitView{ID: t.ID, Name: t.Name, Purpose: string(d.Serves()), Release: t.Number, Pockets: []string{}}
		for _, p := range places {
			v.Pockets = append(v.Pockets, p.Name)
		}
		for i := range d.Pockets {
			if p := &d.Pockets[i]; d.Sheet.Asks(p.ID) && !slices.Contains(places, p) {
				v.Left++
			}
		}
		if d.Purpose == template.Frame {
			for i, p := range places {
				if p.Role == template.RoleClip {
					v.Measure, v.Why = measureText(d, media[i])
				}
			}
		}
		out = append(out, v)
	}
	// A frame is made for one clip, a transition for two.
	rank := func(v FitView) int {
		roles := len(template.Roles(template.Purpose(v.Purpose)))
		if roles > 0 && roles == len(media) {
			return 0
		}
		return 1
	}
	slices.SortStableFunc(out, func(a, b FitView) int { return rank(a) - rank(b) })
	return out, nil
}

// measureText says what a piece would take from a clip, or why it can't.
func measureText(d *template.Document, m edit.Given) (says, why string) {
	op := edit.MeasureOf(d, m)
	if err := op.Measure.Check(d); err != nil {
		return "", err.Error()
	}
	says = fmt.Sprintf("%d × %d", op.Measure.Width, op.Measure.Height)
	if op.Frames == 0 {
		return says, ""
	}
	made := d.Measured(op.Measure)
	lo, hi := made.Lengths()
	frames := min(max(op.Frames, lo), hi)
	says += fmt.Sprintf(" at %s, %d frames", op.Measure.Rate.Label(), frames)
	if frames > op.Frames {
		says += fmt.Sprintf(", as the template is no shorter; the clip has %d", op.Frames)
	}
	if frames < op.Frames {
		says += fmt.Sprintf(", as the template is no longer; the clip has %d", op.Frames)
	}
	return says, ""
}

// fillNew makes a piece of a template that is filled with media.
func (s *Server) fillNew(ctx context.Context, id string, hashes []string, w Who) (*doneOut, error) {
	media, err := s.allGiven(hashes)
	if err != nil {
		return nil, s.apiError(err)
	}
	d, _, err := s.newest(ctx, id)
	if err != nil {
		return nil, s.apiError(err)
	}
	op, err := edit.FillWith(d, media)
	if err == nil {
		_, _, err = edit.Apply(d, edit.Piece{Name: d.Name}, op) // before there is a piece
	}
	if err != nil {
		return nil, s.apiError(badRequest{err})
	}
	p, err := s.openTemplate(ctx, id, true)
	if err != nil {
		return nil, s.apiError(err)
	}
	return s.change(ctx, p.row.ID, w, func(p pieceState) (store.Outcome, error) {
		return s.store.Do(ctx, p.row.ID, store.Sent{ID: uuid.NewString(), Author: w.Author, Window: w.Window, Op: op})
	})
}

// clipOf is the clip that a piece of a frame is put around.
func (s *Server) clipOf(p pieceState) (edit.Given, error) {
	for i := range p.doc.Pockets {
		k := &p.doc.Pockets[i]
		if k.Role != template.RoleClip {
			continue
		}
		hash := p.piece.Values.Fills[k.ID].Media
		if hash == "" {
			return edit.Given{}, badRequest{fmt.Errorf("%s is empty; fill it first", k.Name)}
		}
		return s.given(hash)
	}
	return edit.Given{}, badRequest{fmt.Errorf("%s is not put around a clip", p.doc.Name)}
}

// measuredBy tells whose measure a piece has.
func (s *Server) measuredBy(p pieceState) string {
	m := p.piece.Values.Measure
	if m == nil {
		return ""
	}
	if g, err := s.clipOf(p); err == nil && *edit.MeasureOf(p.doc.Measured(nil), g).Measure == *m {
		return "clip"
	}
	return "other"
}

func (s *Server) fillRoutes() {
	add(s, access.Fill, huma.Operation{OperationID: "fits", Method: http.MethodGet, Path: "/api/fits",
		Summary: "Which templates take media, and where it goes"},
		func(ctx context.Context, in *struct {
			Media []string `query:"media,explode" required:"true" minItems:"1" maxItems:"50" doc:"Hashes, in the order in which it is to be put in"`
		}) (*struct{ Body []FitView }, error) {
			media, err := s.allGiven(in.Media)
			if err != nil {
				return nil, s.apiError(err)
			}
			v, err := s.takers(ctx, media)
			return &struct{ Body []FitView }{v}, s.apiError(err)
		})
	add(s, access.Fill, huma.Operation{OperationID: "fill-template", Method: http.MethodPost, Path: "/api/templates/{id}/fill",
		Summary:     "Make a piece that is filled with media",
		Description: "Each goes into the first pocket that takes it: the clip of a frame, A and B of a transition first. A template that is put around a clip takes canvas, rate and length from it."},
		func(ctx context.Context, in *struct {
			Who
			ID   string `path:"id"`
			Body struct {
				Media []string `json:"media" minItems:"1" maxItems:"50"`
			}
		}) (*doneOut, error) {
			return s.fillNew(ctx, in.ID, in.Body.Media, in.Who)
		})
	add(s, access.Fill, huma.Operation{OperationID: "measure-piece", Method: http.MethodPost, Path: "/api/pieces/{id}/measure",
		Summary: "Make a piece to the measure of the clip in it, or as its template is"},
		func(ctx context.Context, in *struct {
			Who
			ID   string `path:"id"`
			Body struct {
				ID   string `json:"id" minLength:"8" maxLength:"64" doc:"Made by the client"`
				Base int64  `json:"base" minimum:"0" doc:"The revision the client had seen"`
				Back bool   `json:"back,omitempty" doc:"As the template is"`
			}
		}) (*doneOut, error) {
			return s.change(ctx, in.ID, in.Who, func(p pieceState) (store.Outcome, error) {
				op := edit.Op{Kind: "measure"}
				if !in.Body.Back {
					g, err := s.clipOf(p)
					if err != nil {
						return store.Outcome{}, err
					}
					op = edit.MeasureOf(p.doc.Measured(nil), g)
				}
				if _, _, err := edit.Apply(p.doc, p.piece, op); err != nil {
					return store.Outcome{}, badRequest{err}
				}
				return s.store.Do(ctx, in.ID, store.Sent{ID: in.Body.ID, Author: in.Author, Window: in.Window, Base: in.Body.Base, Op: op})
			})
		})
}
