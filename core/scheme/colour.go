package scheme

import (
	"encoding/hex"
	"fmt"
	"strings"
)

// RGBA is an sRGB colour with straight (not premultiplied) alpha.
type RGBA struct{ R, G, B, A uint8 }

// ParseColour reads #rrggbb or #rrggbbaa (CSS Color Level 4 hex notation).
func ParseColour(s string) (RGBA, error) {
	bad := fmt.Errorf("%q is not a colour such as #1e7383", s)
	if len(s) != 7 && len(s) != 9 || s[0] != '#' {
		return RGBA{}, bad
	}
	b, err := hex.DecodeString(s[1:])
	if err != nil {
		return RGBA{}, bad
	}
	c := RGBA{b[0], b[1], b[2], 255}
	if len(b) == 4 {
		c.A = b[3]
	}
	return c, nil
}

// NamedColour is how a value refers to a named colour of the document.
const NamedColour = "colour:"

// ColourID is the id that a value names, if it names one.
func ColourID(fill string) (string, bool) { return strings.CutPrefix(fill, NamedColour) }

// String is the colour as ParseColour reads it.
func (c RGBA) String() string {
	if c.A == 255 {
		return fmt.Sprintf("#%02x%02x%02x", c.R, c.G, c.B)
	}
	return fmt.Sprintf("#%02x%02x%02x%02x", c.R, c.G, c.B, c.A)
}
