package rules

import (
	"fmt"

	"ivypocket/core/geom"
	"ivypocket/core/guides"
)

// EBU R 95: graphics stay 5 % from each edge of a 16:9 picture. On upright and square canvases
// the furniture of the ready feeds is hinted at: it is of no particular feed.
func init() {
	register(Rule{Kind: "outside the safe area", Find: func(w *Words) (*Finding, error) {
		c := w.Canvas
		if b := beyond(w.Ink, geom.Box{W: c.W, H: c.H}); b > 1 {
			return &Finding{What: fmt.Sprintf("They reach %.0f px beyond the canvas.", b), Advice: "Move them, or give their box less room."}, nil
		}
		if guides.ShapeOf(c) == guides.Wide || guides.ShapeOf(c) == "" {
			if b := beyond(w.Ink, geom.Box{X: 0.05 * c.W, Y: 0.05 * c.H, W: 0.9 * c.W, H: 0.9 * c.H}); b > 0.5 {
				return &Finding{What: fmt.Sprintf("They lie %.0f px outside the area for graphics, 5 %% from each edge.", b), Advice: "Move them inwards, or give their box less room."}, nil
			}
			return nil, nil
		}
		for _, s := range guides.ReadyMade() {
			if s.Shape == "" || !s.Fits(c) {
				continue
			}
			for _, m := range s.Marks {
				z := geom.Box{X: m.Box[0] * c.W, Y: m.Box[1] * c.H, W: (m.Box[2] - m.Box[0]) * c.W, H: (m.Box[3] - m.Box[1]) * c.H}
				if in := w.Ink.Intersect(z); m.Kind == guides.Covered && in.W > 0.02*c.W && in.H > 0.01*c.H {
					return &Finding{Hint: true, What: fmt.Sprintf("%s of the %s would lie on them.", m.Name, s.Name), Advice: "See where the piece is shown: lay its guides over it and move the words out from under what is covered."}, nil
				}
			}
		}
		return nil, nil
	}})
}
