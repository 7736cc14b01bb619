// Package access is the rules of who may do what: roles, the rights they have, the
// codes that people show to get in, and how fast codes may be tried.
package access

import (
	"crypto/rand"
	"crypto/sha256"
	"crypto/subtle"
	"encoding/base32"
	"encoding/hex"
	"fmt"
	"slices"
	"strings"
)

// Role is what somebody's code makes of them. "" is nobody who is known.
type Role string

// The roles.
const (
	// Designer may do everything.
	Designer Role = "designer"
	// Editor has the shelf, the desk, media and renders of their own.
	Editor Role = "editor"
)

// Roles lists them, the one that may do most first.
var Roles = []Role{Designer, Editor}

// Right is what a route asks of who uses it.
type Right int

// The rights, each with all that those before it let one do.
const (
	Open  Right = iota + 1 // anybody's, known or not: the page itself, and the way in
	Fill                   // whoever fills templates, so editors and designers
	Own                    // Fill, and the render that is spoken of has to be of their own; designers have all
	Build                  // designers alone
)

// String names a right.
func (r Right) String() string { return [...]string{"none", "open", "fill", "own", "build"}[r] }

// Person is who uses the application. Without a code, at this machine, it is a designer
// without a name.
type Person struct {
	ID, Name string // of the code
	Role     Role
}

// May reports whether a person has a right; Own still asks whose it is.
func (p Person) May(r Right) bool {
	switch p.Role {
	case Designer:
		return r >= Open && r <= Build
	case Editor:
		return r >= Open && r <= Own
	}
	return r == Open
}

// Owns reports whether what somebody made, by the id of their code, is as good as a
// person's own. What was made before there were codes is the designers'.
func (p Person) Owns(by string) bool {
	return p.Role == Designer || p.Role != "" && p.ID == by
}

// MaxName bounds the name of a code, in characters.
const MaxName = 60

// CleanName is a name for a code, or an error that says what is wrong with it.
func CleanName(name string) (string, error) {
	name = strings.Join(strings.FieldsFunc(name, func(r rune) bool { return r <= ' ' || r == 0x7f }), " ")
	switch n := len([]rune(name)); {
	case n == 0:
		return "", fmt.Errorf("name: say who the code is for")
	case n > MaxName:
		return "", fmt.Errorf("name: has %d characters; %d are the most", n, MaxName)
	}
	return name, nil
}

// ParseRole reads a role.
func ParseRole(text string) (Role, error) {
	if r := Role(text); slices.Contains(Roles, r) {
		return r, nil
	}
	return "", fmt.Errorf("role: %q is none; designer and editor are", text)
}

// letters are digits and letters without those that are taken for others: I and L for 1,
// O for 0, and U for V. Who types one of these means the other.
const letters = "0123456789ABCDEFGHJKMNPQRSTVWXYZ"

var (
	coding  = base32.NewEncoding(letters).WithPadding(base32.NoPadding)
	meant   = strings.NewReplacer("O", "0", "I", "1", "L", "1", "U", "V", "-", "", " ", "", "\t", "")
	codeLen = coding.EncodedLen(codeBytes)
)

// codeBytes is how much of a code is chance: 120 bits, which nobody guesses, so that
// codes need no slow hash as words that people choose do.
const codeBytes = 15

// NewCode makes an access code, as people read it: six groups of four letters and digits.
func NewCode() string {
	b := make([]byte, codeBytes)
	_, _ = rand.Read(b) // it never fails
	text := coding.EncodeToString(b)
	var groups []string
	for g := range slices.Chunk([]byte(text), 4) {
		groups = append(groups, string(g))
	}
	return strings.Join(groups, "-")
}

// Hash is what is kept of a code: the SHA-256 of its letters, in hexadecimal; blanks,
// dashes and case don't matter. ok is false for what can't be a code.
func Hash(code string) (hash string, ok bool) {
	if len(code) > 4*codeLen {
		return "", false
	}
	code = meant.Replace(strings.ToUpper(code))
	if _, err := coding.DecodeString(code); err != nil || len(code) != codeLen {
		return "", false
	}
	sum := sha256.Sum256([]byte(code))
	return hex.EncodeToString(sum[:]), true
}

// Match finds the hash of a code among others, and takes as long wherever it stands and
// however much of one is alike; -1 is none.
func Match(hash string, among []string) int {
	at := -1
	for i, h := range among {
		if subtle.ConstantTimeCompare([]byte(h), []byte(hash)) == 1 {
			at = i
		}
	}
	return at
}
