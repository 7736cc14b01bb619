package main

import (
	"bytes"
	"context"
	"image"
	"image/png"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"ivypocket/core/template"
	"ivypocket/media/mediatest"
	"ivypocket/store"
)

// ivypocket runs a command as somebody would type it.
func ivypocket(t *testing.T, args ...string) (out string, err error) {
	t.Helper()
	c := root()
	var b bytes.Buffer
	c.SetOut(&b)
	c.SetErr(&b)
	c.SetArgs(args)
	err = c.ExecuteContext(context.Background())
	return b.String(), err
}

const split = "../../docs/examples/split.json"

func TestHelpNamesEveryCommand(t *testing.T) {
	out, err := ivypocket(t, "--help")
	for _, name := range []string{"serve", "demo", "render", "explain", "check", "--data"} {
		if err != nil || !strings.Contains(out, name) {
			t.Errorf("help does not name %s: %v", name, err)
		}
	}
	for _, name := range []string{"serve", "demo", "render", "explain", "check"} {
		if out, err := ivypocket(t, name, "--help"); err != nil || len(out) < 300 {
			t.Errorf("help of %s: %v\n%s", name, err, out)
		}
	}
}

func TestCheckPrintsEveryFaultWithItsPlace(t *testing.T) {
	if out, err := ivypocket(t, "check", split); err != nil || !strings.Contains(out, "sound. Two Tides, 2 formats, 150 frames") {
		t.Errorf("%v: %s", err, out)
	}
	out, err := ivypocket(t, "check", split, "../../docs/examples/reveal.json")
	if err == nil || !strings.Contains(err.Error(), "1 of 2") || !strings.Contains(out, "reveal.json: layers[1].look: ") {
		t.Errorf("%v: %s", err, out)
	}
	if _, err := ivypocket(t, "check", "nowhere.json"); err == nil {
		t.Error("a file that is not there was taken")
	}
}

func TestExplainPrintsWhatIsDrawn(t *testing.T) {
	dir := t.TempDir()
	say := func(args ...string) string {
		t.Helper()
		out, err := ivypocket(t, append([]string{"--data", dir, "explain", split}, args...)...)
		if err != nil {
			t.Fatal(err)
		}
		return out
	}
	out := say("--frame", "20")
	for _, want := range []string{"Two Tides", "frame 20 (00:00:00", "fill of layer ground", "pocket flood", " by matrix(1 0 0 1 "} {
		if !strings.Contains(out, want) {
			t.Errorf("%q is not said:\n%s", want, out)
		}
	}
	if say("--frame", "20") != out {
		t.Error("one frame is said in two ways")
	}
	if say("--frame", "20", "--size", "640x360") == out {
		t.Error("another size has the same address")
	}
	if _, err := ivypocket(t, "--data", dir, "explain", split, "--frame", "150"); err == nil || !strings.Contains(err.Error(), "150 frames") {
		t.Errorf("a frame after the last: %v", err)
	}
}

func TestRenderMakesAPictureFromValues(t *testing.T) {
	dir := t.TempDir()
	if err := os.Mkdir(filepath.Join(dir, "in"), 0o755); err != nil {
		t.Fatal(err)
	}
	red := image.NewNRGBA(image.Rect(0, 0, 40, 30))
	for i := 0; i < len(red.Pix); i += 4 {
		copy(red.Pix[i:], []byte{250, 10, 20, 255})
	}
	for name, data := range map[string][]byte{"in/red.png": mediatest.PNG(t, red), "in/notes.txt": []byte("not media")} {
		if err := os.WriteFile(filepath.Join(dir, name), data, 0o644); err != nil {
			t.Fatal(err)
		}
	}
	data := filepath.Join(dir, "data")
	out, err := ivypocket(t, "--data", data, "render", split, "--media", filepath.Join(dir, "in"), "--size", "480x270", "--frame", "60", "-o", filepath.Join(dir, "lining.png"))
	if err != nil || !strings.Contains(out, "notes.txt was left out") || !strings.Contains(out, "480 × 270 px") {
		t.Fatalf("%v: %s", err, out)
	}
	kept, err := filepath.Glob(filepath.Join(data, "media", "*", "*"))
	if err != nil || len(kept) != 1 {
		t.Fatalf("kept %v, %v", kept, err)
	}
	values := filepath.Join(dir, "values.json")
	text := `{"fills": {"flood": {"media": "sha256:` + filepath.Base(kept[0]) + `"}}, "entries": {"border-colour": "#00ff00", "border": 60}}`
	if err := os.WriteFile(values, []byte(text), 0o644); err != nil {
		t.Fatal(err)
	}
	path := filepath.Join(dir, "red.png")
	if out, err := ivypocket(t, "--data", data, "render", split, "--values", values, "--size", "480x270", "--frame", "60", "-o", path); err != nil {
		t.Fatalf("%v: %s", err, out)
	}
	f, err := os.Open(path)
	if err != nil {
		t.Fatal(err)
	}
	defer f.Close()
	img, err := png.Decode(f)
	if err != nil || img.Bounds().Dx() != 480 {
		t.Fatal(err)
	}
	// The left cell is 2/3 of 1920 − 60 px, a quarter of that size here; the
	// border is 15 px wide.
	for x, want := range map[int][3]uint32{100: {250, 10, 20}, 309: {250, 10, 20}, 317: {0, 255, 0}} {
		r, g, b, _ := img.At(x, 20).RGBA()
		if [3]uint32{r >> 8, g >> 8, b >> 8} != want {
			t.Errorf("at x %d: %d %d %d, want %v", x, r>>8, g>>8, b>>8, want)
		}
	}
}

func TestRenderSaysWhatItCannotDo(t *testing.T) {
	dir := t.TempDir()
	out := filepath.Join(dir, "a.png")
	for want, args := range map[string][]string{
		"must end in":            {split, "-o", "a.gif"},
		"required flag":          {split},
		"name a template":        {"-o", out},
		"no template \"tides\"":  {"tides", "-o", out},
		"--size":                 {split, "--size", "big", "-o", out},
		"other proportions":      {split, "--size", "500x500", "-o", out},
		"no format named":        {split, "--format", "round", "-o", out},
		"not one of the piece's": {split, "--frame", "150", "-o", out},
		"--frames":               {split, "--frames", "5", "-o", filepath.Join(dir, "a.mp4")},
		"not a range":            {split, "--frames", "9-9", "-o", filepath.Join(dir, "a.mp4")},
		"--values":               {split, "--values", "nowhere.json", "-o", out},
		"piece nobody":           {"--piece", "nobody", "-o", out},
		"goes without":           {split, "--piece", "nobody", "-o", out},
	} {
		if _, err := ivypocket(t, append([]string{"--data", dir, "render"}, args...)...); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%v: %v, want %q", args, err, want)
		}
	}
	if left, _ := filepath.Glob(filepath.Join(dir, "a.*")); left != nil {
		t.Errorf("%v was left", left)
	}
}

func TestServeStaysOnLoopback(t *testing.T) {
	for _, addr := range []string{"0.0.0.0:0", "192.0.2.1:80", ":8420", "nonsense"} {
		if _, err := ivypocket(t, "--data", t.TempDir(), "serve", "--addr", addr); err == nil {
			t.Errorf("%s was served", addr)
		}
	}
}

// shelve puts the written split on the shelf of a folder.
func shelve(t *testing.T, data string) {
	t.Helper()
	s, err := store.Open(data)
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	b, err := os.ReadFile(split)
	if err != nil {
		t.Fatal(err)
	}
	d, err := template.Parse(b)
	if err == nil {
		_, err = s.Release(context.Background(), d)
	}
	if err != nil {
		t.Fatal(err)
	}
}
