package sequence

import (
	"path"
	"regexp"
	"slices"
	"strings"
	"time"
)

// camera is a file name as cameras give it: four letters, digits or underscores of
// the maker's choice and four digits, a JPEG (DCF 2.0, JEITA CP-3461B, 3.2.2).
var camera = regexp.MustCompile(`^[A-Za-z0-9_]{4}[0-9]{4}$`)

// Spacing of pictures in time.
const (
	// even is how many of the pauses between pictures must be within a third and
	// three times of the usual one, in hundredths.
	even = 80
	// copied is a usual pause that tells nothing: files were copied or fetched.
	copied = 50 * time.Millisecond
	// lapse is the least usual pause of photographs that are meant to run as a
	// clip; less is a burst.
	lapse = time.Second
	// few is how many files with numbers may well be pictures.
	few = 8
)

// Likely says whether a group is more likely a clip than pictures, and why. changed
// tells when each file was written, where that is known; a zero time is not.
func (g Group) Likely(changed map[string]time.Time) (clip bool, why string) {
	photographs := true
	for _, f := range g.Files {
		ext := path.Ext(f)
		photographs = photographs && (strings.EqualFold(ext, ".jpg") || strings.EqualFold(ext, ".jpeg")) && camera.MatchString(strings.TrimSuffix(path.Base(f), ext))
	}
	var pauses []time.Duration
	for i := 1; i < len(g.Files); i++ {
		a, b := changed[g.Files[i-1]], changed[g.Files[i]]
		if !a.IsZero() && !b.IsZero() {
			pauses = append(pauses, b.Sub(a).Abs())
		}
	}
	known, spaced := false, false
	var usual time.Duration
	if len(pauses) > 0 && len(pauses) == len(g.Files)-1 {
		sorted := slices.Clone(pauses)
		slices.Sort(sorted)
		usual = sorted[len(sorted)/2]
		near := 0
		for _, p := range pauses {
			if p >= usual/3 && p <= usual*3 {
				near++
			}
		}
		known, spaced = sorted[len(sorted)-1] > copied, near*100 >= even*len(pauses)
	}
	jpeg := strings.HasSuffix(strings.ToLower(g.Name), ".jpg") || strings.HasSuffix(strings.ToLower(g.Name), ".jpeg")
	switch {
	case photographs && known && spaced && usual >= lapse:
		return true, "Their names are a camera’s, and they were taken at even times."
	case photographs:
		return false, "Their names are a camera’s."
	case known && !spaced && jpeg:
		return false, "They were made at uneven times."
	case known && spaced:
		return true, "They were made one after another at even times."
	case len(g.Files) < few:
		return false, "They are few."
	}
	return true, "Their names differ in their number alone."
}
