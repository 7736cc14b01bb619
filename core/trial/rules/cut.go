package rules

import "fmt"

// minKept is the share of letters that masks and mattes must leave. Common practice, no source.
const minKept = 0.97

func init() {
	register(Rule{Kind: "words cut off", Find: func(w *Words) (*Finding, error) {
		share, err := w.Kept()
		if err != nil || share >= minKept {
			return nil, err
		}
		return &Finding{What: fmt.Sprintf("Masks or mattes cut off %.0f %% of their letters where they are best seen.", (1-share)*100), Advice: "Let the mask grow with the words, or give it more room above and below for accents and hanging letters."}, nil
	}})
}
