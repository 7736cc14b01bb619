package face_test

import (
	"context"
	"encoding/binary"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"ivypocket/core/words"
	"ivypocket/fonts"
	"ivypocket/media/face"
	"ivypocket/media/mediatest"
)

func shipped(t testing.TB, name string) []byte {
	t.Helper()
	b, err := fonts.File(name)
	if err != nil {
		t.Fatal(err)
	}
	return b
}

// packed makes WOFF2 with the reference tool (Debian's package woff2).
func packed(t testing.TB, ttf []byte) []byte {
	t.Helper()
	in := filepath.Join(t.TempDir(), "font.ttf")
	if err := os.WriteFile(in, ttf, 0o600); err != nil {
		t.Fatal(err)
	}
	if out, err := exec.Command("woff2_compress", in).CombinedOutput(); err != nil {
		t.Fatalf("%v: %s", err, out)
	}
	b, err := os.ReadFile(strings.TrimSuffix(in, "ttf") + "woff2")
	if err != nil {
		t.Fatal(err)
	}
	return b
}

func written(t testing.TB, data []byte) string {
	t.Helper()
	path := filepath.Join(t.TempDir(), "upload")
	if err := os.WriteFile(path, data, 0o600); err != nil {
		t.Fatal(err)
	}
	return path
}

// One face as TrueType, as WOFF and as WOFF2 sets the same words alike.
func TestAllFormsSetTheSameWords(t *testing.T) {
	woff := shipped(t, "fraunces-latin")
	ttf := mediatest.TrueType(t, woff)
	forms := map[face.Form][]byte{face.TTF: ttf, face.WOFF: woff, face.WOFF2: packed(t, ttf)}
	settled := map[face.Form]*words.Setting{}
	for form, data := range forms {
		if got := face.Sniff(data); got != form {
			t.Errorf("%s is taken for %q", form, got)
		}
		path := written(t, data)
		facts, err := face.Inspect(context.Background(), form, path)
		if err != nil {
			t.Fatalf("%s: %v", form, err)
		}
		if facts.Name != "Fraunces" || facts.Form != form || len(facts.Axes) != 4 || facts.Italic || facts.Rights != words.MayInstall {
			t.Errorf("%s: %+v", form, facts)
		}
		f, err := face.Read(context.Background(), form, path)
		if err != nil {
			t.Fatal(err)
		}
		settled[form] = words.NewSetter().Set(&words.Spec{Text: "Ties of office", Style: words.Style{Family: &words.Family{ID: "f", Fonts: []*words.Font{f}}, Weight: 700}, Size: 80, Leading: 1.2, W: 900})
	}
	for form, s := range settled {
		for i, l := range s.Letters {
			if want := settled[face.TTF].Letters[i]; l.X != want.X || l.Advance != want.Advance {
				t.Errorf("%s: letter %d stands at %g, %g wide; as TrueType at %g, %g wide", form, i, l.X, l.Advance, want.X, want.Advance)
			}
		}
		if got, want := s.Whole().Box, settled[face.TTF].Whole().Box; got != want {
			t.Errorf("%s is drawn in %v, as TrueType in %v", form, got, want)
		}
	}
}

// PostScript outlines are read: CFFTest.otf, which golang.org/x/image ships for its tests.
func TestPostScriptOutlines(t *testing.T) {
	dir, err := exec.Command("go", "list", "-m", "-f", "{{.Dir}}", "golang.org/x/image").Output()
	if err != nil {
		t.Fatal(err)
	}
	path := filepath.Join(strings.TrimSpace(string(dir)), "font", "testdata", "CFFTest.otf")
	data, err := os.ReadFile(path)
	if err != nil {
		t.Fatal(err)
	}
	if got := face.Sniff(data); got != face.OTF {
		t.Errorf("taken for %q", got)
	}
	facts, err := face.Inspect(context.Background(), face.OTF, path)
	if err != nil || facts.Name == "" {
		t.Fatalf("%+v, %v", facts, err)
	}
}

// WOFF2 that is cut off, damaged or a bomb is refused with a reason, whatever it says.
func TestHostilePackedFontsAreRefused(t *testing.T) {
	good := packed(t, mediatest.TrueType(t, shipped(t, "stardos-stencil-400")))
	garbled := append([]byte{}, good...)
	for i := 60; i < len(garbled); i++ {
		garbled[i] ^= 0x5a
	}
	collection := append([]byte{}, good...)
	copy(collection[4:], "ttcf")
	lies := append([]byte{}, good...)
	binary.BigEndian.PutUint32(lies[16:], 1<<31) // how large it is unpacked
	for what, c := range map[string]struct {
		data []byte
		want string
	}{
		"cut off": {good[:len(good)/2], "cut off"}, "its beginning": {good[:40], "cut off"}, "garbled": {garbled, "can't be unpacked"},
		"a collection": {collection, "collection of fonts"}, "too large": {make([]byte, words.MaxFontBytes+1), "is the most"},
	} {
		_, err := face.Inspect(context.Background(), face.WOFF2, written(t, c.data))
		if refused, ok := err.(*face.RefusedError); !ok || !strings.Contains(refused.Reason, c.want) {
			t.Errorf("%s: %v", what, err)
		}
	}
	// What it says of its size is not believed: it is read, or refused, within bounds.
	if _, err := face.Inspect(context.Background(), face.WOFF2, written(t, lies)); err != nil {
		if _, ok := err.(*face.RefusedError); !ok {
			t.Errorf("one that lies: %v", err)
		}
	}
}

// What a file says of its being embedded is heeded: bits 0 to 3 and 9 of fsType (OpenType
// specification, OS/2; the least restrictive of several holds).
func TestRightsAreHeeded(t *testing.T) {
	ttf := mediatest.TrueType(t, shipped(t, "stardos-stencil-400"))
	for bits, want := range map[uint16]struct {
		rights      words.Rights
		packs, show bool
		says        string
	}{
		0: {words.MayInstall, true, true, ""}, 8: {words.MayEdit, true, true, ""}, 4: {words.MayPrint, false, true, "only in what is looked at and printed"},
		2: {words.MayNotEmbed, false, false, "does not let it be embedded"}, 0xa: {words.MayEdit, true, true, ""}, 0x200: {words.MayNotEmbed, false, false, "does not let it"},
		0x100: {words.MayInstall, true, true, ""},
	} {
		facts, err := face.Inspect(context.Background(), face.TTF, written(t, mediatest.Rights(ttf, bits)))
		if err != nil {
			t.Fatal(err)
		}
		if facts.Rights != want.rights || facts.Rights.MayPack() != want.packs || facts.Rights.MayShow() != want.show {
			t.Errorf("fsType %#x: %d, packs %t, shown %t", bits, facts.Rights, facts.Rights.MayPack(), facts.Rights.MayShow())
		}
		if said := strings.Join(facts.Notes(), " "); !strings.Contains(said, want.says) || want.says == "" && strings.Contains(said, "maker") {
			t.Errorf("fsType %#x says %q", bits, said)
		}
	}
}
