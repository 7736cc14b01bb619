package trial

import (
	"context"
	"fmt"

	"ivypocket/core/cover"
	"ivypocket/core/raster"
	"ivypocket/core/scene"
	"ivypocket/core/template"
)

// covers tells of a transition that never hides the cut beneath it in a format.
func (t *runner) covers(ctx context.Context, f template.Format) error {
	if t.in.Doc.Serves() != template.Transition {
		return nil
	}
	r, err := t.resolve(t.in.Values)
	if err != nil {
		return err
	}
	var surface raster.Surface
	s, err := cover.Scene(r, f.ID, t.src)
	if err != nil {
		return err
	}
	found, err := cover.Frames(ctx, s, func(ctx context.Context, l *scene.List) (*raster.Surface, error) {
		return &surface, t.paint(ctx, l, &surface)
	})
	if err != nil || len(found.Runs) > 0 {
		return err
	}
	fd := Finding{Kind: NeverCovers, Format: f.ID, Frame: found.Nearest, Case: asItIs, Where: "The transition", Values: t.in.Values,
		What:   fmt.Sprintf("No frame hides all of what lies beneath; at most %.2f %% of it is hidden, at frame %d.", floor2(found.Share*100), found.Nearest),
		Advice: "Let what covers reach over all edges and corners, and over one another, so that a cut can be made there unseen."}
	if fd.Picture, err = t.picture(ctx, s, found.Nearest, PictureSide); err != nil {
		return err
	}
	t.report.Findings = append(t.report.Findings, fd)
	return nil
}

// floor2 rounds down to hundredths: what is not all of it is never said to be 100.
func floor2(v float64) float64 { return float64(int(v*100)) / 100 }
