package rules

import (
	"fmt"
	"math"
)

// minHeight is the least height of an em that is read without effort, in hundredths of the
// canvas' height. Common practice, no source.
const minHeight = 2.2

func init() {
	register(Rule{Kind: "words too small", Find: func(w *Words) (*Finding, error) {
		if h := w.share(w.Height); h < minHeight {
			return &Finding{What: fmt.Sprintf("They are %.2f %% of the height of the canvas, less than %g %%.", math.Floor(h*100)/100, minHeight),
				Advice: "Raise the smallest size, allow more lines, or limit the letters on the sheet."}, nil
		}
		return nil, nil
	}})
}
