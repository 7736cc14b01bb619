package store_test

import (
	"errors"
	"fmt"
	"slices"
	"testing"
	"time"

	"ivypocket/core/edit"
	"ivypocket/store"
)

// What is deleted is out of every list, can't be read or changed, and comes back as
// it was, until it is forgotten.
func TestDeletedPiecesComeBackUntilTheyAreForgotten(t *testing.T) {
	s := open(t, t.TempDir())
	_, p := withPiece(t, s)
	other, err := s.NewPiece(ctx, p.Template, p.Number, "Other")
	if err != nil {
		t.Fatal(err)
	}
	if _, err := s.Do(ctx, p.ID, store.Sent{ID: "operation-1", Author: "a", Op: border(10)}); err != nil {
		t.Fatal(err)
	}
	names := func(f func() ([]store.Piece, error)) (out []string) {
		t.Helper()
		rows, err := f()
		if err != nil {
			t.Fatal(err)
		}
		for _, r := range rows {
			out = append(out, r.Name)
		}
		slices.Sort(out)
		return out
	}
	live := func() ([]store.Piece, error) { return s.Pieces(ctx) }
	deleted := func() ([]store.Piece, error) { return s.DeletedPieces(ctx) }

	if got, err := s.Delete(ctx, store.PieceKind, []string{p.ID, "nothing"}, false); err != nil || !slices.Equal(got, []string{p.ID}) {
		t.Fatalf("%v, %v", got, err)
	}
	if a, b := names(live), names(deleted); !slices.Equal(a, []string{"Other"}) || !slices.Equal(b, []string{"Piece"}) {
		t.Errorf("there are %v, deleted %v", a, b)
	}
	if _, err := s.Piece(ctx, p.ID); !errors.Is(err, store.ErrDeleted) {
		t.Errorf("read: %v", err)
	}
	if _, err := s.Do(ctx, p.ID, store.Sent{ID: "operation-2", Author: "a", Base: 1, Op: border(12)}); !errors.Is(err, store.ErrDeleted) {
		t.Errorf("changed: %v", err)
	}
	if _, err := s.Undo(ctx, p.ID, "a", "undo-while-deleted"); !errors.Is(err, store.ErrDeleted) {
		t.Errorf("undone: %v", err)
	}
	if _, err := s.Duplicate(ctx, p.ID, "Copy", false); !errors.Is(err, store.ErrDeleted) {
		t.Errorf("duplicated: %v", err)
	}
	if got, err := s.Delete(ctx, store.PieceKind, []string{p.ID}, false); err != nil || len(got) != 0 {
		t.Errorf("deleted twice: %v, %v", got, err)
	}
	if n, err := s.Forget(ctx, time.Now().Add(-time.Hour)); err != nil || n != 0 {
		t.Errorf("one that was just deleted was forgotten: %d, %v", n, err)
	}
	if got, err := s.Delete(ctx, store.PieceKind, []string{p.ID, other.ID}, true); err != nil || !slices.Equal(got, []string{p.ID}) {
		t.Errorf("brought back: %v, %v", got, err)
	}
	back, err := s.Piece(ctx, p.ID)
	if err != nil || back.Revision != 1 || back.Deleted != "" {
		t.Errorf("%+v, %v", back, err)
	}
	if h, err := s.History(ctx, p.ID, "a"); err != nil || h.Undo == "" {
		t.Errorf("its history is gone: %+v, %v", h, err)
	}

	if _, err := s.Delete(ctx, store.PieceKind, []string{p.ID}, false); err != nil {
		t.Fatal(err)
	}
	if n, err := s.Forget(ctx, time.Now()); err != nil || n != 1 {
		t.Errorf("%d, %v", n, err)
	}
	if _, err := s.Piece(ctx, p.ID); !errors.Is(err, store.ErrNotFound) {
		t.Errorf("one that was forgotten: %v", err)
	}
	if _, err := s.Piece(ctx, other.ID); err != nil {
		t.Errorf("one that nobody deleted: %v", err)
	}
}

// Media of a piece that can be brought back is not cleared away.
func TestMediaOfDeletedPiecesIsKept(t *testing.T) {
	s := open(t, t.TempDir())
	d, p := withPiece(t, s)
	hash := "sha256:" + "00112233445566778899aabbccddeeff00112233445566778899aabbccddeeff"
	if _, err := s.Do(ctx, p.ID, store.Sent{ID: "operation-1", Author: "a", Op: edit.Op{Kind: "fill", Pocket: d.Pockets[0].ID, Media: hash}}); err != nil {
		t.Fatal(err)
	}
	kept := func() bool {
		t.Helper()
		got, err := s.Referred(ctx, true)
		if err != nil {
			t.Fatal(err)
		}
		return got[hash]
	}
	if _, err := s.Delete(ctx, store.PieceKind, []string{p.ID}, false); err != nil || !kept() {
		t.Errorf("kept: %v, %v", kept(), err)
	}
	if _, err := s.Forget(ctx, time.Now()); err != nil || kept() {
		t.Errorf("kept after it was forgotten: %v, %v", kept(), err)
	}
}

func TestADuplicateStandsAsItsOriginalWithoutHistory(t *testing.T) {
	s := open(t, t.TempDir())
	_, p := withPiece(t, s)
	if _, err := s.Do(ctx, p.ID, store.Sent{ID: "operation-1", Author: "a", Op: border(10)}); err != nil {
		t.Fatal(err)
	}
	c, err := s.Duplicate(ctx, p.ID, "Copy", false)
	if err != nil {
		t.Fatal(err)
	}
	e, err := c.Parsed()
	if err != nil || e.Name != "Copy" || c.Name != "Copy" || e.Values.Entries["border"].Number() != 10 || c.Revision != 0 || c.Template != p.Template {
		t.Errorf("%+v: %v", c, err)
	}
	if h, err := s.History(ctx, c.ID, "a"); err != nil || h.Undo != "" {
		t.Errorf("%+v, %v", h, err)
	}
	// They go their own ways from here.
	if _, err := s.Do(ctx, c.ID, store.Sent{ID: "operation-2", Author: "a", Op: border(20)}); err != nil {
		t.Fatal(err)
	}
	was, err := s.Piece(ctx, p.ID)
	if e, perr := was.Parsed(); err != nil || perr != nil || e.Name != "Piece" || e.Values.Entries["border"].Number() != 10 {
		t.Errorf("the original became %s: %v", was.Content, err)
	}
}

// A single picture is taken from a line of its own, renders that ended are cleared
// many at once, and the piece remembers when, and as what, it was rendered.
func TestTheQueueHasALineForPicturesAndPiecesRememberRenders(t *testing.T) {
	s := open(t, t.TempDir())
	_, p := withPiece(t, s)
	queue := func(revision int64, single bool) string {
		t.Helper()
		r, err := s.QueueRender(ctx, p.ID, revision, single, "", map[string]int{})
		if err != nil {
			t.Fatal(err)
		}
		return r.ID
	}
	film, film2, picture, film3, picture2 := queue(3, false), queue(4, false), queue(5, true), queue(5, false), queue(5, true)
	if r, err := s.NextRender(ctx, false); err != nil || r.ID != film {
		t.Errorf("%s, %v", r.ID, err)
	}
	// They change places with the one of their kind, not with what is between.
	for _, id := range []string{picture2, film3} {
		if err := s.MoveRender(ctx, id, "up"); err != nil {
			t.Fatal(err)
		}
		if r, err := s.NextRender(ctx, id == picture2); err != nil || r.ID != id {
			t.Errorf("%s, %v", r.ID, err)
		}
	}
	rendered := func() (at string, revision int64) {
		t.Helper()
		row, err := s.Piece(ctx, p.ID)
		if err != nil {
			t.Fatal(err)
		}
		return row.Rendered, row.RenderedRevision
	}
	end := func(id, state string) {
		t.Helper()
		if err := s.EndRender(ctx, id, state, "", 1, 7); err != nil {
			t.Fatal(err)
		}
	}
	if end(picture2, store.Cancelled); !unrendered(rendered) {
		t.Errorf("after a render that was cancelled: %s", rendering(rendered))
	}
	if end(picture, store.Done); !hasRevision(rendered, 5) {
		t.Errorf("after a picture: %s", rendering(rendered))
	}
	// A film that was queued earlier, and took longer, shows an older state.
	if end(film, store.Done); !hasRevision(rendered, 5) {
		t.Errorf("after the film: %s", rendering(rendered))
	}
	gone, err := s.ClearRenders(ctx, []string{film, film2, film3, picture, picture2, "none"})
	var ids []string
	for _, r := range gone {
		ids = append(ids, r.ID)
	}
	if err != nil || !slices.Equal(ids, []string{film, picture, picture2}) {
		t.Errorf("cleared %v, %v", ids, err)
	}
	if left, err := s.Renders(ctx); err != nil || len(left) != 2 {
		t.Errorf("%v, %v", left, err)
	}
	if !hasRevision(rendered, 5) {
		t.Errorf("after clearing: %s", rendering(rendered))
	}
}

func unrendered(f func() (string, int64)) bool { at, n := f(); return at == "" && n == 0 }

func hasRevision(f func() (string, int64), want int64) bool {
	at, n := f()
	return at != "" && n == want
}

func rendering(f func() (string, int64)) string { at, n := f(); return fmt.Sprintf("%q at %d", at, n) }
