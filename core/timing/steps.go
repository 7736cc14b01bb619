package timing

import (
	"fmt"
	"math"
)

// Steps is a step timing function of CSS Easing Functions Level 1, section 2.3: the way is gone in so many equal steps.
type Steps struct {
	Count int `json:"count" minimum:"1" maximum:"1000"`
	// Jump says where one is: at the beginning, at the end, at neither or at both; "" is the end.
	Jump string `json:"jump,omitempty" enum:"start,end,none,both"`
}

// MaxSteps bounds how many there may be.
const MaxSteps = 1000

// Jumps are where steps may be.
var Jumps = []string{"start", "end", "none", "both"}

// Validate says what is wrong with steps.
func (s Steps) Validate() error {
	least := 1
	switch s.Jump {
	case "", "start", "end", "both":
	case "none":
		least = 2
	default:
		return fmt.Errorf(".jump: %q is not one of start, end, none, both", s.Jump)
	}
	if s.Count < least || s.Count > MaxSteps {
		return fmt.Errorf(".count: %d is outside %d to %d", s.Count, least, MaxSteps)
	}
	return nil
}

// At returns the progress after the steps that were made up to a progress from 0 to 1.
func (s Steps) At(x float64) float64 {
	done, jumps := math.Floor(x*float64(s.Count)+1e-9), float64(s.Count) // a step is made at its instant, whatever its rounding
	switch s.Jump {
	case "start":
		done++
	case "none":
		jumps--
	case "both":
		done++
		jumps++
	}
	return math.Min(done, jumps) / jumps
}

// Back is the steps of the same way gone backwards; of none it is none.
func (s *Steps) Back() *Steps {
	if s == nil {
		return nil
	}
	out := *s
	switch s.Jump {
	case "start":
		out.Jump = ""
	case "", "end":
		out.Jump = "start"
	}
	return &out
}
