package deliver

import (
	"context"
	"encoding/json"
	"errors"
	"io/fs"
	"os"
	"slices"

	"github.com/google/renameio/v2"

	"ivypocket/core/cover"
	"ivypocket/core/raster"
	"ivypocket/core/scene"
	"ivypocket/core/sheet"
	"ivypocket/core/template"
	"ivypocket/core/timing"
)

// Cut says where to cut beneath a film that hides it: what is written beside the film. Frames are
// those of the film.
type Cut struct {
	Frame        int64       `json:"frame"`
	Timecode     string      `json:"timecode"`
	Milliseconds int64       `json:"milliseconds"`
	Covered      []cover.Run `json:"covered" doc:"Frames of which nothing beneath is seen; from, and to, the first that is not"`
	// Holds says that a cut there is never seen.
	Holds bool `json:"holds"`
}

// CutPath is where the cut of a film is written.
func CutPath(film string) string { return film + ".cut.json" }

// ReadCut reads what is written beside a film; nil is nothing.
func ReadCut(film string) (*Cut, error) {
	b, err := os.ReadFile(CutPath(film))
	if errors.Is(err, fs.ErrNotExist) {
		return nil, nil
	}
	var c Cut
	if err == nil {
		err = json.Unmarshal(b, &c)
	}
	return &c, err
}

// cuts reports whether a film of the job is to say where to cut beneath it: a transition, and
// what else has a cue for that.
func (j Job) cuts() bool {
	return j.Kind.Film() && (j.Doc.Serves() == template.Transition || slices.ContainsFunc(j.Doc.Cues, func(c template.Cue) bool { return c.ID == cover.Cue }))
}

// cut finds where to cut beneath the job's film.
func (l *loop) cut(ctx context.Context, src Source) (*Cut, error) {
	r, err := sheet.Resolve(l.job.Doc, l.job.Values)
	if err != nil {
		return nil, err
	}
	s, err := cover.Scene(r, l.job.Format, src)
	if err != nil {
		return nil, err
	}
	var ready scene.Ready
	var surface raster.Surface
	found, err := cover.Frames(ctx, s, func(ctx context.Context, list *scene.List) (*raster.Surface, error) {
		if err := l.pictures.Ready(ctx, list, &ready); err != nil {
			return nil, err
		}
		leave, err := l.turn(ctx)
		if err != nil {
			return nil, err
		}
		defer leave()
		return &surface, l.painter.PaintReady(ctx, list, &ready, &surface)
	})
	if err != nil {
		return nil, err
	}
	at, ok := cover.Cut(found.Runs)
	if !ok {
		at = found.Nearest
	}
	for _, c := range l.job.Doc.Cues {
		if c.ID == cover.Cue {
			at = int64(s.Time().Frame(timing.TemplateTime{Rat: c.At}))
		}
	}
	out := &Cut{Covered: []cover.Run{}, Holds: cover.Holds(found.Runs, at)}
	for _, run := range found.Runs {
		run = cover.Run{From: max(run.From, l.job.From) - l.job.From, To: min(run.To, l.job.To) - l.job.From}
		if run.From < run.To {
			out.Covered = append(out.Covered, run)
		}
	}
	rate := s.Time().Rate
	out.Frame = at - l.job.From
	out.Timecode, out.Milliseconds = rate.Timecode(max(0, out.Frame)), cover.Milliseconds(out.Frame, rate)
	return out, nil
}

// writeCut writes where to cut beside a film.
func writeCut(film string, c *Cut) error {
	b, err := json.MarshalIndent(c, "", "  ")
	if err != nil {
		return err
	}
	return renameio.WriteFile(CutPath(film), append(b, '\n'), 0o644)
}
