package access

import (
	"strings"
	"testing"
	"time"
)

func TestCodesAreReadAsPeopleTypeThem(t *testing.T) {
	seen := map[string]bool{}
	for range 200 {
		code := NewCode()
		if seen[code] || len(code) != 29 || strings.ContainsAny(code, "ILOU") {
			t.Fatalf("%q", code)
		}
		seen[code] = true
		hash, ok := Hash(code)
		if !ok || len(hash) != 64 {
			t.Fatalf("%q: %q %v", code, hash, ok)
		}
		for _, typed := range []string{strings.ToLower(code), strings.ReplaceAll(code, "-", ""), " " + strings.ReplaceAll(code, "-", " ") + "\t",
			strings.NewReplacer("0", "o", "1", "l", "V", "u").Replace(code), strings.NewReplacer("0", "O", "1", "I").Replace(code)} {
			if h, ok := Hash(typed); !ok || h != hash {
				t.Errorf("%q typed as %q is another", code, typed)
			}
		}
		other := []byte(code)
		other[3] = letters[(strings.IndexByte(letters, other[3])+1)%32]
		if h, _ := Hash(string(other)); h == hash {
			t.Errorf("%q and %q are one", code, other)
		}
	}
	for _, none := range []string{"", "0000", "0000-0000-0000-0000-0000-000*", NewCode() + "0", strings.Repeat("0", 1000), NewCode()[:28]} {
		if _, ok := Hash(none); ok {
			t.Errorf("%q is a code", none)
		}
	}
}

// SHA-256 (FIPS 180-4), as coreutils' sha256sum prints it for the same letters.
func TestWhatIsKeptOfACode(t *testing.T) {
	// printf 000000000000000000000000 | sha256sum
	if h, _ := Hash("0000-0000-0000-0000-0000-0000"); h != "1aaa7999292f3795cc857ea24de1f4b299ba64b767338f5c8cbe6e93604cc5a5" {
		t.Errorf("%s", h)
	}
	if Match("b", []string{"a", "b", "c"}) != 1 || Match("bb", []string{"a", "b", ""}) != -1 || Match("b", nil) != -1 {
		t.Error("a hash is not found among others")
	}
}

func TestWhoMayDoWhat(t *testing.T) {
	for _, c := range []struct {
		role Role
		may  []Right
	}{{"", []Right{Open}}, {Editor, []Right{Open, Fill, Own}}, {Designer, []Right{Open, Fill, Own, Build}}, {"guest", []Right{Open}}} {
		for r := Right(-1); r <= Build+1; r++ {
			want := false
			for _, m := range c.may {
				want = want || m == r
			}
			if got := (Person{ID: "x", Role: c.role}).May(r); got != want {
				t.Errorf("%q may %d: %v", c.role, r, got)
			}
		}
	}
	ann, bea := Person{ID: "ann", Role: Editor}, Person{ID: "bea", Role: Designer}
	if !ann.Owns("ann") || ann.Owns("bea") || ann.Owns("") || !bea.Owns("ann") || !bea.Owns("") || (Person{}).Owns("") {
		t.Error("who has what")
	}
}

func TestNamesOfCodes(t *testing.T) {
	if n, err := CleanName("  Odalys \n Fenn "); err != nil || n != "Odalys Fenn" {
		t.Errorf("%q %v", n, err)
	}
	for _, bad := range []string{"", " \t", strings.Repeat("é", MaxName+1)} {
		if _, err := CleanName(bad); err == nil {
			t.Errorf("%q is a name", bad)
		}
	}
	if _, err := ParseRole("admin"); err == nil {
		t.Error("admin is a role")
	}
}

func TestAttemptsAreSlowed(t *testing.T) {
	s, at := NewSlow(), time.Date(2026, 8, 14, 9, 0, 0, 0, time.UTC)
	wrong := func() bool { return false }
	right := func() bool { return true }
	for i := range atOnce {
		if ok, wait := s.Try("192.0.2.7", at, wrong); ok || wait != 0 {
			t.Fatalf("%d: %v %v", i, ok, wait)
		}
	}
	// Even the right code waits now, and is not looked at.
	if ok, wait := s.Try("192.0.2.7", at, func() bool { t.Error("it was looked at"); return true }); ok || wait != again {
		t.Errorf("%v %v", ok, wait)
	}
	if ok, _ := s.Try("192.0.2.8", at, right); !ok {
		t.Error("another address waits, too")
	}
	if _, wait := s.Try("::ffff:192.0.2.7", at, right); wait == 0 {
		t.Error("an address written as one of version 6 is another")
	}
	at = at.Add(again)
	for range 3 { // right ones cost nothing
		if ok, wait := s.Try("192.0.2.7", at, right); !ok || wait != 0 {
			t.Errorf("%v %v", ok, wait)
		}
	}
	// A machine has its whole /64 of version 6.
	for range atOnce {
		s.Try("2001:db8:0:7::1", at, wrong)
	}
	if _, wait := s.Try("2001:db8:0:7:ffff::2%eth0", at, right); wait == 0 {
		t.Error("another address of the same /64 does not wait")
	}
	if ok, _ := s.Try("2001:db8:0:8::1", at, right); !ok {
		t.Error("another network waits")
	}
}
