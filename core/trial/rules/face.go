package rules

import "fmt"

func init() {
	register(Rule{Kind: "face missing", Find: func(w *Words) (*Finding, error) {
		if w.Missing {
			return &Finding{What: fmt.Sprintf("Its face is not in the store; it is set in %s.", w.Face.Name), Advice: "Put the font file in under Media, or choose another face."}, nil
		}
		return nil, nil
	}})
}
