package rules

import "fmt"

// Words that lie on other words, or on a mark, in part.
func init() {
	register(Rule{Kind: "words collide", Find: func(w *Words) (*Finding, error) {
		for _, o := range w.Others {
			in := w.Ink.Intersect(o.Box)
			least := 0.15 * w.Height
			if in.W > least && in.H > least {
				return &Finding{What: fmt.Sprintf("They lie on %s by %.0f × %.0f px.", o.Name, in.W, in.H), Advice: "Put both into a flow, give their boxes room of their own, or limit the letters on the sheet."}, nil
			}
		}
		return nil, nil
	}})
}
