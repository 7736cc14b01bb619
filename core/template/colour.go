package template

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

// colourRef is how a layer refers to a named colour.
const colourRef = "colour:"

// Colour resolves a fill: a hex colour or "colour:id".
func (d *Document) Colour(fill string) (RGBA, error) {
	if id, ok := strings.CutPrefix(fill, colourRef); ok {
		for _, c := range d.Colours {
			if c.ID == id {
				return ParseColour(c.Value)
			}
		}
		return RGBA{}, fmt.Errorf("there is no colour named %q", id)
	}
	return ParseColour(fill)
}
