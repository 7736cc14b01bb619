package rules

import "fmt"

// A last line of one short word: typographers call it an orphan or a widow. Common practice, no
// source.
func init() {
	register(Rule{Kind: "orphan", Find: func(w *Words) (*Finding, error) {
		n := len(w.Set.Lines)
		if n < 2 || w.Set.Words < 4 {
			return nil, nil
		}
		last, before := w.Set.Lines[n-1], w.Set.Lines[n-2]
		if last.From == last.To || before.From == before.To {
			return nil, nil
		}
		one := w.Set.Letters[last.From].Word == w.Set.Letters[last.To-1].Word
		if one && (last.Right-last.Left) < 0.25*(before.Right-before.Left) {
			return &Finding{Hint: true, What: fmt.Sprintf("The last of %d lines is one short word.", n), Advice: "Let lines be even, or join the last two words by a blank that does not break."}, nil
		}
		return nil, nil
	}})
}
