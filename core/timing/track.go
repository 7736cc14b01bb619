package timing

import "fmt"

// Key is a value at an instant, and how the way to the next key is eased.
type Key struct {
	At    Rat        `json:"at" doc:"Frames of the template's rate"`
	Value [2]float64 `json:"value"`
	// Ease leads to the next key; absent is linear.
	Ease *Easing `json:"ease,omitempty"`
	// Hold keeps the value until the next key.
	Hold bool `json:"hold,omitempty"`
}

// Track is a list of keys in the order of time.
type Track []Key

// MaxKeys bounds a track.
const MaxKeys = 10000

// Validate says which key is at fault.
func (tr Track) Validate() error {
	if len(tr) > MaxKeys {
		return fmt.Errorf(": %d keys are more than %d", len(tr), MaxKeys)
	}
	for i, k := range tr {
		if k.At.D == 0 {
			return fmt.Errorf("[%d].at: is missing", i)
		}
		if i > 0 && k.At.Cmp(tr[i-1].At) <= 0 {
			return fmt.Errorf("[%d].at: %s is not after the key before it at %s", i, k.At, tr[i-1].At)
		}
		if k.Ease != nil {
			if err := k.Ease.Validate(); err != nil {
				return fmt.Errorf("[%d].ease%w", i, err)
			}
		}
	}
	return nil
}

// Value returns the track's value at an instant; before the first key it is
// the first key's, after the last the last's. The track must not be empty.
func (tr Track) Value(t TemplateTime) [2]float64 {
	if t.Cmp(tr[0].At) <= 0 {
		return tr[0].Value
	}
	last := len(tr) - 1
	if t.Cmp(tr[last].At) >= 0 {
		return tr[last].Value
	}
	i := 0
	for t.Cmp(tr[i+1].At) >= 0 {
		i++
	}
	a, b := tr[i], tr[i+1]
	if a.Hold || t.Cmp(a.At) == 0 {
		return a.Value
	}
	p := t.Sub(a.At).Div(b.At.Sub(a.At)).Float()
	if a.Ease != nil {
		p = a.Ease.At(p)
	}
	return [2]float64{a.Value[0] + (b.Value[0]-a.Value[0])*p, a.Value[1] + (b.Value[1]-a.Value[1])*p}
}
