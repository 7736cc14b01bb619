package rules

import "fmt"

// Words that none of the means that they have make fit.
func init() {
	register(Rule{Kind: "words overflow", Find: func(w *Words) (*Finding, error) {
		all := w.Set.Box
		switch {
		case w.Set.Over:
			return &Finding{What: fmt.Sprintf("They need %.0f × %.0f px at %.0f px and don’t fit their box.", all.W, all.H, w.Set.Size),
				Advice: "Give the box more room, allow more lines or a smaller size, let them be shortened, or limit the letters on the sheet."}, nil
		case w.Set.Short:
			return &Finding{Hint: true, What: "Their end is left out.", Advice: "Limit the letters on the sheet, or give the box more room."}, nil
		}
		return nil, nil
	}})
}
