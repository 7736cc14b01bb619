package craft

import (
	"encoding/json"
	"errors"
	"fmt"
	"slices"

	"ivypocket/core/cover"
	"ivypocket/core/edit"
	"ivypocket/core/scheme"
	"ivypocket/core/template"
	"ivypocket/core/timing"
)

// Where to cut beneath a transition.
func init() {
	register(
		row{"cut-cue", "`at`: a frame", "keeps the frame at which to cut beneath as a cue", cutCue},
		row{"cut-clips", "`at`: a frame", "lets what shows clip A end, and what shows clip B begin, at a frame", cutClips},
	)
}

func cutCue(b *bench, a Act) error {
	frame := scheme.One(float64(min(max(int64(a.At), 0), b.doc.Frames-1)))
	if slices.ContainsFunc(b.doc.Cues, func(c template.Cue) bool { return c.ID == cover.Cue }) {
		b.title = "Move the cut frame"
		b.add(edit.DraftOp{Kind: "set", Path: "cues/" + cover.Cue + "/at", Value: &frame})
		return nil
	}
	if b.freeID(cover.Cue) != cover.Cue {
		return fmt.Errorf("something else has the id %q, which the cue needs", cover.Cue)
	}
	b.title = "Keep the cut frame"
	part, err := json.Marshal(object{"id": cover.Cue, "name": "Cut frame", "at": frame})
	b.add(edit.DraftOp{Kind: "add", Into: "cues", At: -1, Part: part})
	return err
}

func cutClips(b *bench, a Act) error {
	at := int64(a.At)
	if at <= 0 || at >= b.doc.Frames {
		return fmt.Errorf("at: frame %d has no frame of the template before and after it", at)
	}
	roles := map[string]template.Role{}
	for _, p := range b.doc.Pockets {
		roles[p.ID] = p.Role
	}
	var err error
	var from, to int
	b.doc.VisitAll(func(_ string, y *template.Layer) {
		if y.Kind != scheme.View || err != nil {
			return
		}
		own := timing.Int(at).Sub(b.doc.Late(y.ID))
		switch s := b.spanOf(y); roles[y.Text(scheme.Pocket)] {
		case template.RoleFrom:
			if from++; s.in.Cmp(timing.Int(at)) >= 0 {
				err = fmt.Errorf("%s begins after frame %d", y.Name, at)
				return
			}
			err = b.setTime(y, scheme.Out, &own)
		case template.RoleTo:
			if to++; s.out.Cmp(timing.Int(at)) <= 0 {
				err = fmt.Errorf("%s ends before frame %d", y.Name, at)
				return
			}
			err = b.setTime(y, scheme.In, &own)
		}
	})
	if err == nil && (from == 0 || to == 0) {
		err = errors.New("no layer shows clip A, or none clip B")
	}
	b.title = fmt.Sprintf("Cut from A to B at frame %d", at)
	return err
}
