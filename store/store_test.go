package store_test

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"

	"ivypocket/core/edit"
	"ivypocket/core/geom"
	"ivypocket/core/scheme"
	"ivypocket/core/template"
	"ivypocket/media"
	"ivypocket/media/mediatest"
	"ivypocket/store"
)

var ctx = context.Background()

func open(t *testing.T, dir string) *store.Store {
	t.Helper()
	s, err := store.Open(dir)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { s.Close() })
	return s
}

func withPiece(t *testing.T, s *store.Store) (*template.Document, store.Piece) {
	t.Helper()
	b, err := os.ReadFile("../docs/examples/split.json")
	if err != nil {
		t.Fatal(err)
	}
	d, err := template.Parse(b)
	if err != nil {
		t.Fatal(err)
	}
	n, err := s.Release(ctx, d)
	if err != nil {
		t.Fatal(err)
	}
	p, err := s.NewPiece(ctx, d.ID, n, "Piece")
	if err != nil {
		t.Fatal(err)
	}
	return d, p
}

func border(v float64) edit.Op {
	return edit.Op{Kind: "entry", Entry: "border", Value: &scheme.Value{Numbers: []float64{v}, Single: true}}
}

func frame(zoom float64) edit.Op {
	f := geom.DefaultFraming(geom.Cover)
	f.Zoom = zoom
	return edit.Op{Kind: "frame", Pocket: "ebb", Framing: &f}
}

func TestOperationsAreKeptOverARestart(t *testing.T) {
	dir := t.TempDir()
	s := open(t, dir)
	_, p := withPiece(t, s)
	for i, op := range []edit.Op{border(20), border(30), frame(2)} {
		if _, err := s.Do(ctx, p.ID, store.Sent{ID: strings.Repeat("i", i+8), Author: "ann", Base: int64(i), Op: op}); err != nil {
			t.Fatal(err)
		}
	}
	if err := s.Close(); err != nil {
		t.Fatal(err)
	}
	s = open(t, dir)
	for i, want := range []float64{30, 20, 12} {
		out, err := s.Undo(ctx, p.ID, "ann", "undo-"+strings.Repeat("u", i+8))
		if err != nil {
			t.Fatal(err)
		}
		e, err := out.Piece.Parsed()
		if err != nil {
			t.Fatal(err)
		}
		v, given := e.Values.Entries["border"]
		if !given {
			v = scheme.One(12)
		}
		if v.Number() != want || len(e.Values.Fills) != 0 {
			t.Errorf("after %d undos the border is %g, want %g", i+1, v.Number(), want)
		}
	}
	var nothing *store.NothingError
	if _, err := s.Undo(ctx, p.ID, "ann", "undo-more"); !errors.As(err, &nothing) {
		t.Errorf("undoing nothing: %v", err)
	}
	for i := range 3 {
		if _, err := s.Redo(ctx, p.ID, "ann", "redo-"+strings.Repeat("r", i+8)); err != nil {
			t.Fatal(err)
		}
	}
	h, err := s.History(ctx, p.ID, "ann")
	if err != nil || h.Undo != "Framing of Ebb" || h.Redo != "" {
		t.Errorf("%+v, %v", h, err)
	}
}

func TestANewOperationEndsRedo(t *testing.T) {
	s := open(t, t.TempDir())
	_, p := withPiece(t, s)
	do := func(id string, base int64, op edit.Op) {
		t.Helper()
		if _, err := s.Do(ctx, p.ID, store.Sent{ID: id, Author: "ann", Base: base, Op: op}); err != nil {
			t.Fatal(err)
		}
	}
	do("first---", 0, border(20))
	do("second--", 1, border(30))
	if _, err := s.Undo(ctx, p.ID, "ann", "undo----"); err != nil {
		t.Fatal(err)
	}
	do("third---", 3, frame(3))
	if _, err := s.Undo(ctx, p.ID, "ann", "undo---2"); err != nil {
		t.Fatal(err)
	}
	out, err := s.Redo(ctx, p.ID, "ann", "redo----")
	if err != nil || out.Title != "Framing of Ebb" {
		t.Errorf("redo carried out %q: %v", out.Title, err)
	}
}

func TestSendingAnOperationAgainDoesNothing(t *testing.T) {
	s := open(t, t.TempDir())
	_, p := withPiece(t, s)
	for range 3 {
		out, err := s.Do(ctx, p.ID, store.Sent{ID: "the-same", Author: "ann", Op: border(20)})
		if err != nil || out.Piece.Revision != 1 {
			t.Fatalf("revision %d, %v", out.Piece.Revision, err)
		}
	}
}

func TestDisjointChangesRebaseAndOthersConflict(t *testing.T) {
	s := open(t, t.TempDir())
	_, p := withPiece(t, s)
	if _, err := s.Do(ctx, p.ID, store.Sent{ID: "anns----", Author: "ann", Base: 0, Op: border(20)}); err != nil {
		t.Fatal(err)
	}
	if _, err := s.Do(ctx, p.ID, store.Sent{ID: "bobs----", Author: "bob", Base: 0, Op: frame(2)}); err != nil {
		t.Errorf("a change of another thing: %v", err)
	}
	var conflict *edit.ConflictError
	if _, err := s.Do(ctx, p.ID, store.Sent{ID: "bobs---2", Author: "bob", Base: 0, Op: border(40)}); !errors.As(err, &conflict) || conflict.Path != "entries/border" {
		t.Errorf("a change of the same thing: %v", err)
	}
	out, err := s.Undo(ctx, p.ID, "ann", "undo----")
	if err != nil {
		t.Fatal(err)
	}
	if e, _ := out.Piece.Parsed(); e.Values.Fills["ebb"].Framing == nil {
		t.Error("ann's undo took bob's change back")
	}
}

func TestReleasesAreFrozen(t *testing.T) {
	s := open(t, t.TempDir())
	d, p := withPiece(t, s)
	if n, err := s.Release(ctx, d); err != nil || n != 1 {
		t.Errorf("the same document again is release %d, %v", n, err)
	}
	changed := *d
	changed.Name = "Three Tides"
	if n, err := s.Release(ctx, &changed); err != nil || n != 2 {
		t.Errorf("a changed document is release %d, %v", n, err)
	}
	if old, err := s.Document(ctx, p.Template, p.Number); err != nil || old.Name != "Two Tides" {
		t.Errorf("the piece's release is now %v, %v", old, err)
	}
}

// A release that is not what was released is refused, and what was seeded once is not
// released again after a designer's own.
func TestReleasesAreWhatTheyWere(t *testing.T) {
	s := open(t, t.TempDir())
	d, p := withPiece(t, s)
	draft, err := s.NewDraft(ctx, edit.DraftFrom(d), d.ID, p.Number)
	if err != nil {
		t.Fatal(err)
	}
	var stale *store.StaleError
	if _, err := s.ReleaseDraft(ctx, draft.ID, "", false); !errors.As(err, &stale) {
		t.Errorf("released though nothing changed: %v", err)
	}
	if _, err := s.DoDraft(ctx, draft.ID, store.Sent{ID: "rename-it-1"}, func(edit.Draft) (edit.DraftOp, error) {
		return edit.DraftOp{Kind: "put", Path: "about", Part: []byte(`"New."`)}, nil
	}); err != nil {
		t.Fatal(err)
	}
	r, err := s.ReleaseDraft(ctx, draft.ID, "Words.", false)
	if err != nil || r.Template != d.ID || r.Number != 2 {
		t.Fatalf("released as %v, %v", r, err)
	}
	if n, err := s.Release(ctx, d); err != nil || n != 1 {
		t.Errorf("the first document again is release %d, %v", n, err)
	}
	if list, err := s.Releases(ctx, d.ID); err != nil || len(list) != 2 || list[0].Note != "Words." || list[1].Pieces != 1 {
		t.Errorf("releases are %v, %v", list, err)
	}
	if row, err := s.DraftOf(ctx, draft.ID); err != nil || row.Number != 2 {
		t.Errorf("the draft goes on from %d, %v", row.Number, err)
	}
	if err := store.Tamper(s, `UPDATE releases SET document = replace(document, 'Two Tides', 'Two Tidez') WHERE number = 1`); err != nil {
		t.Fatal(err)
	}
	if _, err := s.Document(ctx, d.ID, 1); err == nil || !strings.Contains(err.Error(), "release 1 of two-tides is damaged") {
		t.Errorf("a damaged release is read: %v", err)
	}
}

func TestMediaIsKeptByItsContent(t *testing.T) {
	dir := t.TempDir()
	s := open(t, dir)
	data := mediatest.PNG(t, mediatest.Quarters(20, 10))
	var wg sync.WaitGroup
	hashes := make([]string, 6)
	for i := range hashes {
		wg.Go(func() {
			md, err := s.Put(ctx, "a.png", bytes.NewReader(data))
			if err != nil {
				t.Error(err)
			}
			hashes[i] = md.Hash
		})
	}
	wg.Wait()
	for _, h := range hashes {
		if h != hashes[0] || !scheme.ValidHash(h) {
			t.Errorf("the same file has the hashes %s and %s", h, hashes[0])
		}
	}
	kept, err := os.ReadFile(s.Path(hashes[0]))
	if err != nil || !bytes.Equal(kept, data) {
		t.Errorf("the file is not kept as it came: %v", err)
	}
	s.Close()
	if md, ok := open(t, dir).Medium(hashes[0]); !ok || md.Meta.Width != 20 || md.Name != "a.png" {
		t.Errorf("after a restart: %+v, %v", md, ok)
	}
}

func TestRefusedMediaLeavesNothing(t *testing.T) {
	dir := t.TempDir()
	s := open(t, dir)
	var refused *media.RefusedError
	if _, err := s.Put(ctx, "a.png", strings.NewReader("not a picture")); !errors.As(err, &refused) {
		t.Errorf("got %v", err)
	}
	for _, what := range []string{"tmp/*/in-*", "media/*"} {
		if left, _ := filepath.Glob(filepath.Join(dir, what)); len(left) > 0 {
			t.Errorf("%s was left", left[0])
		}
	}
}

func TestWhatAKilledProgramLeftIsCleared(t *testing.T) {
	dir := t.TempDir()
	s := open(t, dir)
	for name, stays := range map[string]bool{"tmp/in-7": false, "renders/.a.mp4123": false, "renders/a.mp4": true, "proxies/.b9": false, "proxies/b.ivyproxy": true} {
		if err := os.WriteFile(filepath.Join(dir, name), nil, 0o644); err != nil {
			t.Fatal(err)
		}
		open(t, dir).Close() // a second program beside it touches nothing
		if _, err := os.Stat(filepath.Join(dir, name)); err != nil {
			t.Error(err)
		}
		if err := s.Tidy(); err != nil {
			t.Fatal(err)
		}
		if _, err := os.Stat(filepath.Join(dir, name)); (err == nil) != stays {
			t.Errorf("%s: stays %v", name, err == nil)
		}
	}
}

func TestNamesOfFilesAreMadeHarmless(t *testing.T) {
	s := open(t, t.TempDir())
	for i, c := range []struct{ in, want string }{
		{"../../etc/passwd", "passwd"}, {`C:\pics\Dünen.png`, "Dünen.png"}, {"", "unnamed"}, {"..", "unnamed"}, {"a\x00b\u202egnp.exe", "abgnp.exe"},
		{strings.Repeat("é", 300), strings.Repeat("é", 100)}, {"\xff\xfe.png", ".png"},
	} {
		md, err := s.Put(ctx, c.in, bytes.NewReader(mediatest.PNG(t, mediatest.Quarters(4+i, 4))))
		if err != nil || md.Name != c.want {
			t.Errorf("%q became %q, %v", c.in, md.Name, err)
		}
	}
}

func TestTheQueueSurvivesARestart(t *testing.T) {
	dir := t.TempDir()
	s := open(t, dir)
	var ids []string
	for range 3 {
		r, err := s.QueueRender(ctx, "piece", 1, false, "", map[string]int{"a": 1})
		if err != nil {
			t.Fatal(err)
		}
		ids = append(ids, r.ID)
	}
	if r, err := s.NextRender(ctx, false); err != nil || r.ID != ids[0] || r.State != store.Running {
		t.Fatalf("%+v, %v", r, err)
	}
	if ok, err := s.CancelQueued(ctx, ids[1]); !ok || err != nil {
		t.Error("a queued render could not be cancelled", err)
	}
	if ok, _ := s.CancelQueued(ctx, ids[0]); ok {
		t.Error("a running render was cancelled as if it were queued")
	}
	s.Close()
	s = open(t, dir)
	if err := s.RequeueRenders(ctx); err != nil {
		t.Fatal(err)
	}
	for _, want := range []string{ids[0], ids[2]} {
		if r, err := s.NextRender(ctx, false); err != nil || r.ID != want {
			t.Errorf("next is %s, %v; want %s", r.ID, err, want)
		}
	}
	if _, err := s.NextRender(ctx, false); !errors.Is(err, store.ErrNotFound) {
		t.Errorf("an empty queue: %v", err)
	}
}

// What two windows of one person do to one pocket is joined, or told by what each is
// called; what one window did itself is never in its way.
func TestTwoWindowsOfOnePerson(t *testing.T) {
	s := open(t, t.TempDir())
	_, p := withPiece(t, s)
	part := func(zoom, turn float64, member string) edit.Op {
		return edit.Op{Kind: "frame", Pocket: "ebb", Framing: &geom.Framing{Zoom: zoom, Turn: turn}, Members: []string{member}}
	}
	n := 0
	do := func(author, window string, base int64, op edit.Op) (store.Outcome, error) {
		n++
		return s.Do(ctx, p.ID, store.Sent{ID: fmt.Sprintf("operation-%d", n), Author: author, Window: window, Base: base, Op: op})
	}
	must := func(out store.Outcome, err error) store.Outcome {
		t.Helper()
		if err != nil {
			t.Fatal(err)
		}
		return out
	}
	must(do("ann", "left", 0, part(2, 0, "zoom")))
	// The left window goes on from a state it has not seen yet.
	must(do("ann", "left", 0, part(3, 0, "zoom")))
	if out := must(do("ann", "right", 0, part(0, 30, "turn"))); len(out.Joined) != 2 || out.Joined[1] != (store.Joined{Title: "Zoom of Ebb", Mine: true}) {
		t.Errorf("joined: %+v", out.Joined)
	}
	if out := must(do("bob", "his", 0, border(20))); len(out.Joined) != 0 {
		t.Errorf("another thing joins: %+v", out.Joined)
	}
	for _, c := range []struct{ author, window, want string }{
		{"ann", "right", "“Zoom of Ebb” was changed by you in another window meanwhile."},
		{"bob", "his", "“Zoom of Ebb” was changed by somebody else meanwhile."},
	} {
		var conflict *edit.ConflictError
		if _, err := do(c.author, c.window, 1, part(5, 0, "zoom")); !errors.As(err, &conflict) || !strings.HasPrefix(err.Error(), c.want) {
			t.Errorf("%s: %v", c.window, err)
		}
	}
	// Nor can what was overtaken be undone, and it says by what.
	must(do("bob", "his", 4, part(0, 50, "turn")))
	if _, err := s.Undo(ctx, p.ID, "ann", "undo----"); err == nil || err.Error() != "“Turn of Ebb” can't be undone: “Turn of Ebb” was changed since by somebody else" {
		t.Errorf("undo of what was overtaken: %v", err)
	}
}

// A new operation ends what its own author could redo, and nobody else's.
func TestANewOperationEndsOnlyItsAuthorsRedo(t *testing.T) {
	s := open(t, t.TempDir())
	_, p := withPiece(t, s)
	for i, o := range []store.Sent{{ID: "anns-----", Author: "ann", Op: border(20)}, {ID: "bobs-----", Author: "bob", Op: frame(2)}} {
		o.Base = int64(i)
		if _, err := s.Do(ctx, p.ID, o); err != nil {
			t.Fatal(err)
		}
	}
	for _, who := range []string{"ann", "bob"} {
		if _, err := s.Undo(ctx, p.ID, who, "undo-of-"+who); err != nil {
			t.Fatal(err)
		}
	}
	if _, err := s.Do(ctx, p.ID, store.Sent{ID: "bobs-more", Author: "bob", Base: 4, Op: edit.Op{Kind: "name", Name: "Other"}}); err != nil {
		t.Fatal(err)
	}
	ann, err1 := s.History(ctx, p.ID, "ann")
	bob, err2 := s.History(ctx, p.ID, "bob")
	if err1 != nil || err2 != nil || ann.Redo != "Border" || bob.Redo != "" {
		t.Errorf("ann could redo %q, bob %q, %v, %v", ann.Redo, bob.Redo, err1, err2)
	}
}

// Drafts are documents of the same log as pieces: changed, undone by their authors
// over reopening, in conflict where two overlap, and not to be had as pieces.
func TestDraftsStandInTheSameLog(t *testing.T) {
	dir := t.TempDir()
	s := open(t, dir)
	d, p := withPiece(t, s)
	raw, err := json.Marshal(d)
	if err != nil {
		t.Fatal(err)
	}
	draft, err := edit.NewDraft(raw)
	if err != nil {
		t.Fatal(err)
	}
	row, err := s.NewDraft(ctx, draft, d.ID, 1)
	if err != nil {
		t.Fatal(err)
	}
	is := func(op edit.DraftOp) store.Planned { return func(edit.Draft) (edit.DraftOp, error) { return op, nil } }
	place := func(x float64) store.Planned {
		v := scheme.Many(x, 2)
		return is(edit.DraftOp{Kind: "set", Path: "layers/mark/place", Value: &v})
	}
	out, err := s.DoDraft(ctx, row.ID, store.Sent{ID: "first-one", Author: "ann"}, place(7))
	if err != nil || out.Title != "Set place of Mark" || out.Piece.Revision != 1 {
		t.Fatalf("%+v, %v", out, err)
	}
	if again, err := s.DoDraft(ctx, row.ID, store.Sent{ID: "first-one", Author: "ann"}, place(7)); err != nil || again.Piece.Revision != 1 {
		t.Errorf("sent again: %+v, %v", again, err)
	}
	var conflict *edit.ConflictError
	one := scheme.One(3)
	if _, err := s.DoDraft(ctx, row.ID, store.Sent{ID: "other-one", Author: "bob"}, is(edit.DraftOp{Kind: "set", Path: "layers/mark/place.x", Value: &one})); !errors.As(err, &conflict) {
		t.Errorf("on a base that is old: %v", err)
	}
	if out, err = s.DoDraft(ctx, row.ID, store.Sent{ID: "other-two", Author: "bob"}, is(edit.DraftOp{Kind: "rename", Path: "layers/mark", Name: "Seal"})); err != nil || out.Piece.Revision != 2 {
		t.Errorf("beside it: %v", err)
	}
	s.Close()
	s = open(t, dir)
	if h, err := s.History(ctx, row.ID, "ann"); err != nil || h.Undo != "Set place of Mark" {
		t.Errorf("%+v, %v", h, err)
	}
	if out, err = s.UndoDraft(ctx, row.ID, "ann", "undo-one"); err != nil {
		t.Fatal(err)
	}
	back, err := out.Piece.Draft()
	if err != nil || back.Doc.Layer("mark").Name != "Seal" || back.Doc.Layer("mark").Get(scheme.Place).Numbers[0] != 320 {
		t.Errorf("undone: %v", err)
	}
	if out, err = s.RedoDraft(ctx, row.ID, "ann", "redo-one"); err != nil || !strings.Contains(out.Piece.Content, `"place":[7,2]`) {
		t.Errorf("redone: %v", err)
	}
	if list, err := s.Drafts(ctx); err != nil || len(list) != 1 || list[0].ID != row.ID || list[0].Name != d.Name {
		t.Errorf("%d drafts: %v", len(list), err)
	}
	if _, err := s.Piece(ctx, row.ID); !errors.Is(err, store.ErrNotFound) {
		t.Errorf("a draft was had as a piece: %v", err)
	}
	if _, err := s.DoDraft(ctx, p.ID, store.Sent{ID: "third-one", Author: "ann"}, place(1)); !errors.Is(err, store.ErrNotFound) {
		t.Errorf("a piece was had as a draft: %v", err)
	}
}

// Going back to a point of a draft's history is an operation of its own: it takes back
// what everybody did since, to the byte, stands in the history and can be undone.
func TestDraftsGoBackToAPoint(t *testing.T) {
	s := open(t, t.TempDir())
	d, _ := withPiece(t, s)
	row, err := s.NewDraft(ctx, edit.DraftFrom(d), d.ID, 1)
	if err != nil {
		t.Fatal(err)
	}
	at := []string{row.Content}
	do := func(id, author string, op edit.DraftOp) {
		t.Helper()
		out, err := s.DoDraft(ctx, row.ID, store.Sent{ID: id, Author: author, Base: int64(len(at) - 1)}, func(edit.Draft) (edit.DraftOp, error) { return op, nil })
		if err != nil {
			t.Fatal(err)
		}
		at = append(at, out.Piece.Content)
	}
	v := scheme.Many(5, 6)
	do("op-number-1", "ann", edit.DraftOp{Kind: "rename", Path: "layers/mark", Name: "Seal"})
	do("op-number-2", "bob", edit.DraftOp{Kind: "set", Path: "layers/mark/place", Value: &v})
	do("op-number-3", "ann", edit.DraftOp{Kind: "put", Path: "layers/mark/motion"})
	if err := s.Call(ctx, "ann", "Ann"); err != nil {
		t.Fatal(err)
	}
	out, err := s.BackTo(ctx, row.ID, 1, store.Sent{ID: "back-to-one", Author: "bob", Base: 3})
	if err != nil || out.Piece.Content != at[1] || out.Piece.Revision != 4 || out.Title != "Go back to “Rename Mark”" {
		t.Fatalf("back to the first: %v\n%s\nnot\n%s", err, out.Piece.Content, at[1])
	}
	if again, err := s.BackTo(ctx, row.ID, 1, store.Sent{ID: "back-to-one", Author: "bob", Base: 3}); err != nil || again.Piece.Revision != 4 {
		t.Errorf("sent again: %v", err)
	}
	past, err := s.Past(ctx, row.ID, 0, 10)
	if err != nil || len(past) != 4 || past[0].Title != out.Title || past[1].Called != "Ann" || past[2].Called != "" || past[3].Revision != 1 {
		t.Errorf("%v: %+v", err, past)
	}
	if past, err = s.Past(ctx, row.ID, 3, 1); err != nil || len(past) != 1 || past[0].Revision != 2 {
		t.Errorf("from the middle: %+v", past)
	}
	if out, err = s.UndoDraft(ctx, row.ID, "bob", "undo-of-it"); err != nil || out.Piece.Content != at[3] {
		t.Errorf("undone: %v", err)
	}
	if out, err = s.BackTo(ctx, row.ID, 0, store.Sent{ID: "to-the-first", Author: "bob", Base: 5}); err != nil || out.Piece.Content != at[0] {
		t.Errorf("to the beginning: %v", err)
	}
	for _, bad := range []store.Sent{{ID: "too-old-base", Base: 2}, {ID: "no-revision"}} {
		var stale *store.StaleError
		if _, err := s.BackTo(ctx, row.ID, 99, bad); !errors.As(err, &stale) {
			t.Errorf("%s: %v", bad.ID, err)
		}
	}
	c, err := s.CopyDraft(ctx, row.ID, "Another")
	if err != nil || c.Name != "Another" || !strings.Contains(c.Content, `"name":"Another"`) || c.ID == row.ID {
		t.Errorf("copied as %+v, %v", c, err)
	}
}
