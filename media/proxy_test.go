package media

import (
	"bytes"
	"context"
	"errors"
	"os"
	"path/filepath"
	"testing"

	"ivypocket/core/raster"
	"ivypocket/media/turbo"
)

func TestProxySizesKeepProportions(t *testing.T) {
	for _, c := range [][4]int{{1920, 1080, 960, 540}, {1080, 1920, 540, 960}, {320, 200, 320, 200}, {4000, 3, 960, 1}} {
		if w, h := proxySize(c[0], c[1]); w != c[2] || h != c[3] {
			t.Errorf("%d × %d: %d × %d, want %d × %d", c[0], c[1], w, h, c[2], c[3])
		}
	}
}

func readBytes(t *testing.T, data []byte) (*proxy, error) {
	t.Helper()
	path := filepath.Join(t.TempDir(), "p")
	if err := os.WriteFile(path, data, 0o644); err != nil {
		t.Fatal(err)
	}
	return openProxy(path)
}

// sound is a proxy of one picture of 8×8.
func sound(t testing.TB) []byte {
	t.Helper()
	s := raster.NewSurface(8, 8)
	b, err := turbo.Encode(nil, s, 80, turbo.Full)
	if err != nil {
		t.Fatal(err)
	}
	n := byte(len(b) & 255)
	b = append(b, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, byte(len(b)>>8), n)
	return append(append(b, 0, 0, 0, 0, 0, 0, 0, 1), proxyMagic...)
}

func TestDamagedProxiesAreNoProxies(t *testing.T) {
	good := sound(t)
	p, err := readBytes(t, good)
	if err != nil {
		t.Fatal(err)
	}
	if s, err := p.frame(99, 4, 4); err != nil || s.W != 4 {
		t.Errorf("a frame beyond the last: %v", err)
	}
	p.close()
	for name, data := range map[string][]byte{
		"empty": nil, "only the end": good[len(good)-10:], "cut": good[:len(good)-1],
		"no table": append(append([]byte{}, good[:20]...), good[len(good)-17:]...),
	} {
		if _, err := readBytes(t, data); err == nil {
			t.Errorf("%s was read", name)
		}
	}
	turned := append([]byte{}, good...)
	turned[len(turned)-18] = 0 // the offset after the picture is not after it
	turned[len(turned)-19] = 0
	if _, err := readBytes(t, turned); err == nil {
		t.Error("offsets out of order were read")
	}
}

func FuzzProxy(f *testing.F) {
	f.Add(sound(f))
	f.Fuzz(func(t *testing.T, data []byte) {
		p, err := readBytes(t, data)
		if err != nil {
			return
		}
		defer p.close()
		_, _ = p.frame(0, 4, 4)
	})
}

func TestHelpersEndWithTheirTimeAndTheirContext(t *testing.T) {
	if _, err := run(context.Background(), 1, nil, nil, "sleep", "30"); err == nil {
		t.Error("a helper outlived its time")
	}
	ctx, cancel := context.WithCancel(context.Background())
	cancel()
	if _, err := run(ctx, probeTime, nil, nil, "sleep", "30"); !errors.Is(err, context.Canceled) {
		t.Errorf("got %v", err)
	}
	out, err := run(context.Background(), probeTime, bytes.NewReader([]byte("through")), []string{"A=1"}, "sh", "-c", "cat; echo $A$IVYPOCKET_DATA$USER")
	if err != nil || string(out) != "through1\n" {
		t.Errorf("%q, %v: a helper sees its own variables alone", out, err)
	}
	if _, err := run(context.Background(), probeTime, nil, nil, "sh", "-c", "echo much ado >&2; exit 3"); err == nil || err.Error() != "sh: much ado" {
		t.Errorf("what a helper says is lost: %v", err)
	}
}

func TestFilesThatAreGoneAreSaid(t *testing.T) {
	l := NewLibrary(goneFiles{})
	var gone *GoneError
	for _, typ := range []Type{PNG, JPEG, SVG} {
		if _, err := l.Stage().Picture(context.Background(), "sha256:"+string(typ), 0, 4, 4); !errors.As(err, &gone) {
			t.Errorf("%s: %v", typ, err)
		}
	}
}

// goneFiles knows media whose files are not there.
type goneFiles struct{}

func (goneFiles) Meta(hash string) (Meta, bool) {
	return Meta{Type: Type(hash[7:]), Width: 4, Height: 4}, true
}
func (goneFiles) Path(string) string      { return "/nonexistent/media" }
func (goneFiles) ProxyPath(string) string { return "/nonexistent/proxy" }
