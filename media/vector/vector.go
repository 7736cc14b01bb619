// Package vector is the room for drawings from outside: it reads SVG as people and
// programs save it, leaves out what a mark does not need, says what it left out, and
// hands on a plain drawing that fetches nothing, runs nothing and asks no more of a
// drawing program than it can do. It draws nothing itself.
package vector

import (
	"fmt"
	"slices"
	"strings"
)

// Version is that of what Read makes of a drawing, and of the faces it is drawn
// with: a picture of a drawing that was read otherwise is another picture.
const Version = 2

// RefusedError says why a drawing may not come in, for people.
type RefusedError struct{ Reason string }

func (e *RefusedError) Error() string { return e.Reason }

func refuse(format string, args ...any) error { return &RefusedError{fmt.Sprintf(format, args...)} }

// Drawing is a drawing that may be drawn.
type Drawing struct {
	// Width and Height are its own size in CSS px, rounded.
	Width, Height int
	// SVG is the plain drawing, in UTF-8.
	SVG []byte
	// Notes says for people what was left out of it or is drawn otherwise.
	Notes []string
}

// Read reads a drawing: SVG in any usual encoding, packed by gzip or not. What
// would fetch or run something is a *RefusedError, and so is what can't be read.
func Read(data []byte) (Drawing, error) {
	text, err := plainText(data)
	if err != nil {
		return Drawing{}, err
	}
	root, err := tree(text)
	if err != nil {
		return Drawing{}, err
	}
	c := &cleaner{}
	if err := c.clean(root); err != nil {
		return Drawing{}, err
	}
	d := Drawing{}
	var assumed bool
	if d.Width, d.Height, assumed, err = size(root); err != nil {
		return d, err
	}
	if assumed {
		c.say("It says neither its size nor a viewBox; %d × %d px are taken, as browsers do.", d.Width, d.Height)
	}
	if err := resolveStyles(root, c); err != nil {
		return d, err
	}
	faces(root, c)
	d.SVG, d.Notes = write(root), c.notes()
	return d, nil
}

// cleaner takes what a mark does not need out of a tree, and keeps what it took.
type cleaner struct {
	left []string // things that were left out
	said []string
}

func (c *cleaner) leave(what string) {
	if !slices.Contains(c.left, what) {
		c.left = append(c.left, what)
	}
}

func (c *cleaner) say(format string, args ...any) {
	if text := fmt.Sprintf(format, args...); !slices.Contains(c.said, text) {
		c.said = append(c.said, text)
	}
}

func (c *cleaner) notes() []string {
	var out []string
	if len(c.left) > 0 {
		out = append(out, "Left out, as a mark does not need it: "+strings.Join(c.left, ", ")+".")
	}
	return append(out, c.said...)
}
