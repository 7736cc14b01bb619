package rules

import "fmt"

func init() {
	register(Rule{Kind: "letters missing", Find: func(w *Words) (*Finding, error) {
		if len(w.Set.Missing) > 0 {
			return &Finding{What: fmt.Sprintf("No face has %s.", string(w.Set.Missing)), Advice: "Choose a face that has these letters, or bring one."}, nil
		}
		return nil, nil
	}})
}
