package rules

import (
	"fmt"
	"math"
)

// WCAG 2.2, success criterion 1.4.3: words need a contrast of 4.5:1 against what is behind
// them, large ones 3:1. Large are those of 24 px, or of 18.66 px and bold, where a canvas of
// 1080 px is as high as a screen of so many CSS px.
const (
	minRatio, minLarge  = 4.5, 3
	large, largeAndBold = 24.0 / 1080 * 100, 18.66 / 1080 * 100
)

// minStands is the share of letters that must reach it: edges of letters are mixed with what is
// behind. Common practice, no source.
const minStands = 0.9

func init() {
	register(Rule{Kind: "words too faint", Find: func(w *Words) (*Finding, error) {
		ratio := minRatio
		if h := w.share(w.Height); h >= large || h >= largeAndBold && w.Bold {
			ratio = minLarge
		}
		share, seen, err := w.Stands(ratio)
		if err != nil || seen == 0 || share >= minStands {
			return nil, err
		}
		few := "None"
		if share > 0 {
			few = fmt.Sprintf("Only %.0f %%", math.Ceil(share*100))
		}
		return &Finding{What: fmt.Sprintf("%s of their letters stand out by %.1f:1 from what is behind them.", few, ratio),
			Advice: "Put a backing or a shade behind them, or give them another colour."}, nil
	}})
}
