package deliver_test

import (
	"context"
	"os"
	"path/filepath"
	"reflect"
	"testing"

	"ivypocket/core/cover"
	"ivypocket/core/template"
	"ivypocket/deliver"
	"ivypocket/media"
	"ivypocket/media/helper"
	"ivypocket/media/mediatest"
)

// Beside the film of a transition stands where to cut beneath it, in the film's own frames; beside that
// of others nothing does. With the film it goes.
func TestWhereToCutIsWrittenBesideTheFilm(t *testing.T) {
	const layers = `"formats": [{"id": "f", "name": "F", "width": 64, "height": 36}], "layers": [{"id": "p", "name": "P", "kind": "shape", "fill": "#102030", "size": [64, 36],
		"motion": {"place": {"unit": "canvas", "keys": [{"at": 5, "value": [-1, 0]}, {"at": 20, "value": [0, 0], "hold": true}, {"at": 40, "value": [0, 0]}, {"at": 55, "value": [1, 0]}]}}}]}`
	lib := media.NewLibrary(mediatest.NewFolder(t))
	defer lib.Close()
	src := lib.Originals(context.Background(), helper.Foreground)
	defer src.Close()
	made := func(head string, from, to int64) *deliver.Cut {
		t.Helper()
		d, err := template.Parse([]byte(`{"ivypocket": 3, "kind": "template", "id": "t", "name": "T", "category": "T", "rate": "30", "frames": 60, ` + head + layers))
		if err != nil {
			t.Fatal(err)
		}
		path := filepath.Join(t.TempDir(), "a.mp4")
		if err := deliver.Render(context.Background(), deliver.Job{Name: "T", Doc: d, Format: "f", Kind: deliver.MP4, From: from, To: to}, src, path, deliver.Hooks{}); err != nil {
			t.Fatal(err)
		}
		c, err := deliver.ReadCut(path)
		if err != nil {
			t.Fatal(err)
		}
		if err := deliver.Remove(path); err != nil {
			t.Fatal(err)
		}
		if _, err := os.Stat(deliver.CutPath(path)); err == nil {
			t.Error("the cut stays when the film goes")
		}
		return c
	}
	transition := `"purpose": "transition", "pockets": [{"id": "a", "name": "A", "kinds": ["picture"], "role": "from"}, {"id": "b", "name": "B", "kinds": ["picture"], "role": "to"}], `
	if c := made(transition, 0, 0); c == nil || c.Frame != 30 || c.Timecode != "00:00:01:00" || c.Milliseconds != 1000 || !c.Holds || !reflect.DeepEqual(c.Covered, []cover.Run{{From: 20, To: 41}}) {
		t.Errorf("of all of it: %+v", c)
	}
	if c := made(transition, 10, 30); c == nil || c.Frame != 20 || c.Milliseconds != 667 || !reflect.DeepEqual(c.Covered, []cover.Run{{From: 10, To: 20}}) {
		t.Errorf("of a part: %+v", c)
	}
	// A cue says where, also where a cut would be seen.
	if c := made(`"purpose": "overlay", "cues": [{"id": "cut", "name": "Cut frame", "at": 12}], `, 0, 0); c == nil || c.Frame != 12 || c.Holds {
		t.Errorf("at a cue: %+v", c)
	}
	if c := made(`"purpose": "overlay", `, 0, 0); c != nil {
		t.Errorf("of an overlay that hides nothing: %+v", c)
	}
}
