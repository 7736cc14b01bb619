package store_test

import (
	"errors"
	"testing"
	"time"

	"ivypocket/access"
	"ivypocket/store"
)

func TestSessionsEnd(t *testing.T) {
	s := open(t, t.TempDir())
	ctx := t.Context()
	k := s.Sessions()
	for token, ends := range map[string]time.Duration{"now": time.Hour, "over": -time.Second} {
		if err := k.Commit(token, []byte(token), time.Now().Add(ends)); err != nil {
			t.Fatal(err)
		}
	}
	if b, ok, err := k.Find("now"); err != nil || !ok || string(b) != "now" {
		t.Errorf("%q %v %v", b, ok, err)
	}
	for _, none := range []string{"over", "never", ""} {
		if _, ok, err := k.Find(none); err != nil || ok {
			t.Errorf("%q is found: %v", none, err)
		}
	}
	if err := s.TidyAccess(ctx, time.Now()); err != nil {
		t.Fatal(err)
	}
	if n, err := store.Count(s, "sessions"); err != nil || n != 1 {
		t.Errorf("%d are left: %v", n, err)
	}
	if err := k.Delete("now"); err != nil {
		t.Fatal(err)
	}
	if _, ok, _ := k.Find("now"); ok {
		t.Error("it is still there")
	}
}

func TestDeedsOfLongAgoGo(t *testing.T) {
	s := open(t, t.TempDir())
	ctx := t.Context()
	for _, said := range []string{"Named a sail", "Cut a sail"} {
		if err := s.Record(ctx, store.Deed{Code: "c", Name: "Ruan Teague", Role: access.Editor, Act: "do", Said: said}); err != nil {
			t.Fatal(err)
		}
	}
	if err := store.Tamper(s, `UPDATE audit SET at = ? WHERE said = 'Cut a sail'`, time.Now().Add(-367*24*time.Hour).UTC().Format(time.RFC3339Nano)); err != nil {
		t.Fatal(err)
	}
	if err := s.TidyAccess(ctx, time.Now()); err != nil {
		t.Fatal(err)
	}
	if d, err := s.Deeds(ctx, 0, "", "", 10); err != nil || len(d) != 1 || d[0].Said != "Named a sail" || d[0].Name != "Ruan Teague" {
		t.Errorf("%+v %v", d, err)
	}
}

func TestTheLastDesignersCodeStays(t *testing.T) {
	s := open(t, t.TempDir())
	ctx := t.Context()
	a, letters, err := s.NewCode(ctx, "Odalys Fenn", access.Designer)
	if err != nil {
		t.Fatal(err)
	}
	if err := s.Withdraw(ctx, a.ID, true); !errors.Is(err, store.ErrLastDesigner) {
		t.Errorf("%v", err)
	}
	if c, err := s.Shown(ctx, letters); err != nil || c.ID != a.ID {
		t.Errorf("%+v %v", c, err)
	}
	if err := s.Withdraw(ctx, a.ID, false); err != nil {
		t.Errorf("%v", err)
	}
	for what, err := range map[string]error{"shown": func() error { _, err := s.Shown(ctx, letters); return err }(), "read": func() error { _, err := s.CodeOf(ctx, a.ID); return err }(), "withdrawn again": s.Withdraw(ctx, a.ID, false), "named": s.NameCode(ctx, "none", "X")} {
		if !errors.Is(err, store.ErrNotFound) {
			t.Errorf("%s: %v", what, err)
		}
	}
}
