package rules

import (
	"fmt"
	"unicode"
)

// How many letters a second are read at ease, and at the most. Common practice, no source.
const (
	easily = 15.0
	atMost = 20.0
)

func init() {
	register(Rule{Kind: "shown too briefly", Find: func(w *Words) (*Finding, error) {
		n := 0
		for _, r := range w.Text {
			if !unicode.IsSpace(r) {
				n++
			}
		}
		if n < 4 || w.Seconds <= 0 {
			return nil, nil
		}
		speed := float64(n) / w.Seconds
		if speed <= easily {
			return nil, nil
		}
		return &Finding{Hint: speed <= atMost, What: fmt.Sprintf("%d letters are shown for %.1f s: %.0f a second; %.0f are read at ease.", n, w.Seconds, speed, easily),
			Advice: "Show them longer, or limit the letters on the sheet."}, nil
	}})
}
