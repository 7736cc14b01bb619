package server

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"strings"

	"github.com/danielgtaylor/huma/v2"
	"github.com/go-chi/chi/v5"

	"ivypocket/access"
	"ivypocket/core/craft"
	"ivypocket/core/edit"
	"ivypocket/core/recipe"
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
	p, err := s.draftState(row)
	if err == nil {
		p.as(ctx, p.doc)
	}
	return p, err
}

func (s *Server) draftState(row store.Document) (pieceState, error) {
	d, err := s.store.Read(row)
	if err != nil {
		return pieceState{}, err
	}
	return pieceState{row: row, piece: edit.Piece{Name: d.Doc.Name, Values: sheet.Values{}.Clone()}, doc: craft.Drawable(d.Doc, s.lib)}, nil
}

// draftPast is a draft as it stood at a revision.
func (s *Server) draftPast(ctx context.Context, p pieceState, revision int64) (pieceState, error) {
	d, err := s.store.DraftAt(ctx, p.row.ID, revision)
	if err != nil {
		return p, err
	}
	p.row.Revision, p.doc = revision, craft.Drawable(d.Doc, s.lib)
	p.piece.Values.Frames, _ = lengthOf(ctx, d.Doc)
	return p, nil
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

// copied takes something of a draft to be pasted.
func copied[T any](ctx context.Context, s *Server, id string, take func(*template.Document) (T, error)) (c T, err error) {
	row, err := s.store.DraftOf(ctx, id)
	if err != nil {
		return c, s.apiError(err)
	}
	d, err := s.store.Read(row)
	if err != nil {
		return c, s.apiError(err)
	}
	if c, err = take(d.Doc); err != nil {
		err = s.apiError(badRequest{err})
	}
	return c, err
}

// inWords is why a draft can't be as somebody wants it, where that is a circle, by the names of
// what is in it.
func inWords(d *template.Document, err error) error {
	if text := d.Circled(err.Error()); text != err.Error() {
		return errors.New(text)
	}
	return err
}

// draftWould is a draft as it would be after an act.
func (s *Server) draftWould(ctx context.Context, p pieceState, raw json.RawMessage, b previewBody) (pieceState, []craft.Guide, error) {
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
	inOwnTime(ctx, draft.Doc, &a)
	plan, err := craft.Do(draft.Doc, s.lib, a)
	if err == nil && plan.Op.Kind != "" {
		if next, e := draft.Would(plan.Op); e != nil {
			err = inWords(draft.Doc, e)
		} else {
			draft = next
		}
	}
	if err != nil {
		return p, nil, badRequest{err}
	}
	p.doc = craft.Drawable(draft.Doc, s.lib)
	p.piece.Values.Frames, _ = lengthOf(ctx, draft.Doc)
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

var mediaWords = map[template.MediaKind]string{template.Picture: "pictures", template.Footage: "clips", template.Sound: "sound", template.Font: "fonts"}

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
	tell(ctx, id, "%s: %s", done.Draft.Name, out.Title)
	return &struct{ Body DraftDone }{done}, s.apiError(err)
}

type draftOut struct{ Body DraftView }

func (s *Server) draftRoutes() {
	add(s, access.Build, huma.Operation{OperationID: "drafts", Method: http.MethodGet, Path: "/api/drafts", Summary: "All drafts, the last changed first"},
		func(ctx context.Context, in *struct {
			Deleted bool `query:"deleted" doc:"Those that were deleted and can be brought back"`
		}) (*struct{ Body []DraftItem }, error) {
			items, err := s.draftItems(ctx, in.Deleted)
			return &struct{ Body []DraftItem }{items}, s.apiError(err)
		})
	add(s, access.Build, huma.Operation{OperationID: "start-draft", Method: http.MethodPost, Path: "/api/drafts", Summary: "Begin a draft: blank, or from a template on the shelf"},
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
			tell(ctx, row.ID, "%s: draft begun", row.Name)
			return &draftOut{v}, s.apiError(err)
		})
	add(s, access.Build, huma.Operation{OperationID: "recipes", Method: http.MethodGet, Path: "/api/recipes", Summary: "What layers can be built from: recipes and the numbers they ask for"},
		func(context.Context, *struct{}) (*struct{ Body []*recipe.Recipe }, error) {
			return &struct{ Body []*recipe.Recipe }{recipe.All()}, nil
		})
	add(s, access.Build, huma.Operation{OperationID: "get-draft", Method: http.MethodGet, Path: "/api/drafts/{id}", Summary: "A draft as it stands"},
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
	add(s, access.Build, huma.Operation{OperationID: "alter-draft", Method: http.MethodPost, Path: "/api/drafts/{id}/operations",
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
					inOwnTime(ctx, d.Doc, &a)
					plan, err := craft.Do(d.Doc, s.lib, a)
					if err != nil {
						return edit.DraftOp{}, badRequest{err}
					}
					chosen = plan.Chosen
					if plan.Op.Kind != "" {
						if _, _, err := d.Do(plan.Op); err != nil {
							return edit.DraftOp{}, badRequest{inWords(d.Doc, err)}
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
		add(s, access.Build, huma.Operation{OperationID: verb + "-draft", Method: http.MethodPost, Path: "/api/drafts/{id}/" + verb, Summary: "Take the author's last change back, or carry it out again"},
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
	add(s, access.Build, huma.Operation{OperationID: "draft-layer", Method: http.MethodGet, Path: "/api/drafts/{id}/layers/{layer}", Summary: "A layer's properties, at rest and at a frame"},
		func(ctx context.Context, in *struct {
			ID     string `path:"id"`
			Layer  string `path:"layer"`
			Format string `query:"format" required:"true"`
			Frame  int64  `query:"frame" minimum:"0"`
		}) (*struct{ Body LayerView }, error) {
			p, err := s.draft(ctx, in.ID)
			if err != nil {
				return nil, s.apiError(err)
			}
			v, err := s.layer(p, in.Layer, in.Format, in.Frame)
			return &struct{ Body LayerView }{v}, s.apiError(err)
		})
	add(s, access.Build, huma.Operation{OperationID: "try-draft", Metadata: asks, Method: http.MethodPost, Path: "/api/drafts/{id}/desk", Summary: "A draft as an editor would fill it",
		Description: "A piece of the draft as it stands, which is in no list and is not rendered. What is filled there changes nothing of the draft."},
		func(ctx context.Context, in *struct {
			Who
			ID string `path:"id"`
		}) (*pieceOut, error) {
			row, err := s.store.Tryout(ctx, in.ID)
			if err != nil {
				return nil, s.apiError(err)
			}
			p, err := s.state(ctx, row)
			if err != nil {
				return nil, s.apiError(err)
			}
			v, err := s.view(ctx, p, in.Author)
			return &pieceOut{v}, s.apiError(err)
		})
	add(s, access.Build, huma.Operation{OperationID: "copy-layers", Method: http.MethodGet, Path: "/api/drafts/{id}/clip", Summary: "Layers to be pasted elsewhere, with all that they speak of"},
		func(ctx context.Context, in *struct {
			ID     string   `path:"id"`
			Layers []string `query:"layers,explode" required:"true"`
		}) (*struct{ Body any }, error) {
			c, err := copied(ctx, s, in.ID, func(d *template.Document) (craft.Clip, error) { return craft.Copied(d, in.Layers) })
			return &struct{ Body any }{c}, err
		})
	add(s, access.Build, huma.Operation{OperationID: "history", Method: http.MethodGet, Path: "/api/drafts/{id}/history", Summary: "What was done to a draft, the last first"},
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
	add(s, access.Build, huma.Operation{OperationID: "back-to", Method: http.MethodPost, Path: "/api/drafts/{id}/back", Summary: "Take a draft back to how it stood at a revision",
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
	add(s, access.Fill, huma.Operation{OperationID: "get-author", Method: http.MethodGet, Path: "/api/author", Summary: "What the author is called"},
		func(ctx context.Context, in *struct{ Who }) (*struct{ Body NameBody }, error) {
			if p := personOf(ctx); p.ID != "" {
				return &struct{ Body NameBody }{NameBody{p.Name}}, nil
			}
			name, err := s.store.Called(ctx, in.Author)
			return &struct{ Body NameBody }{NameBody{name}}, s.apiError(err)
		})
	add(s, access.Fill, huma.Operation{OperationID: "call-author", Method: http.MethodPut, Path: "/api/author", Summary: "Say what the author is called"},
		func(ctx context.Context, in *struct {
			Who
			Body NameBody
		}) (*struct{ Body NameBody }, error) {
			if p := personOf(ctx); p.ID != "" {
				return nil, huma.Error409Conflict("Who shows a code is called as the code is; a designer names it.")
			}
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
	add(s, access.Build, huma.Operation{OperationID: "delete-drafts", Method: http.MethodPost, Path: "/api/drafts/delete", Summary: "Delete drafts, or bring them back",
		Description: "For seven days they can be brought back."},
		func(ctx context.Context, in *struct{ Body chosenDrafts }) (*struct{ Body changedDrafts }, error) {
			ids, err := s.deleteDrafts(ctx, in.Body.IDs, in.Body.Back)
			tellMany(ctx, ids, in.Body.Back, "draft")
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
	w.Header().Set("Content-Disposition", disposition("attachment", store.CleanName(d.Doc.Name)+".json"))
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
		tell(r.Context(), row.ID, "%s: draft begun from a document", row.Name)
	}
	if err != nil {
		s.failed(w, r, err)
		return
	}
	w.Header().Set("Content-Type", "application/json")
	w.WriteHeader(http.StatusCreated)
	_ = writeJSON(w, v)
}
