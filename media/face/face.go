// Package face is the room for font files from outside: TrueType and OpenType, plain, as
// WOFF or as WOFF2. What is in them is checked by the room core/words; here they are told
// apart and unpacked.
package face

import (
	"context"
	"encoding/binary"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"time"

	"ivypocket/core/words"
	"ivypocket/media/helper"
)

// Form is how a font file is written.
type Form string

const (
	TTF   Form = "ttf"   // TrueType outlines
	OTF   Form = "otf"   // PostScript outlines
	WOFF  Form = "woff"  // either, packed (W3C WOFF 1.0)
	WOFF2 Form = "woff2" // either, packed tighter (W3C WOFF 2.0)
)

// Name is the form as people write it.
func (f Form) Name() string {
	return map[Form]string{TTF: "TrueType font", OTF: "OpenType font", WOFF: "WOFF font", WOFF2: "WOFF2 font"}[f]
}

// MIME is its media type (RFC 8081).
func (f Form) MIME() string { return "font/" + string(f) }

// Sniff tells a font file by its first bytes, "" for none.
func Sniff(head []byte) Form {
	if len(head) < 4 {
		return ""
	}
	return map[string]Form{"\x00\x01\x00\x00": TTF, "true": TTF, "OTTO": OTF, "wOFF": WOFF, "wOF2": WOFF2}[string(head[:4])]
}

// Facts is what is kept of a font file.
type Facts struct {
	Form   Form         `json:"form"`
	Name   string       `json:"name"` // what people know it by, such as Harbour Bold
	Weight float64      `json:"weight"`
	Italic bool         `json:"italic"`
	Axes   []words.Axis `json:"axes,omitempty"`
	Rights words.Rights `json:"rights"`
	// Licence is what the file says of it; "" is nothing.
	Licence string `json:"licence,omitempty"`
}

// Notes says for people what they should know of the font.
func (f Facts) Notes() (out []string) {
	if len(f.Axes) > 0 {
		var names []string
		for _, a := range f.Axes {
			names = append(names, fmt.Sprintf("%s %g to %g", strings.ToLower(a.Name), a.Least, a.Most))
		}
		out = append(out, "It is variable: "+strings.Join(names, ", ")+".")
	}
	switch f.Rights {
	case words.MayPrint:
		out = append(out, "Its maker lets it be handed on only in what is looked at and printed: it does not go into packages.")
	case words.MayNotEmbed:
		out = append(out, "Its maker does not let it be embedded: it does not go into packages, nor to browsers that show it in lists. Pictures of words set in it may be made.")
	}
	if f.Licence != "" {
		out = append(out, "Licence: "+f.Licence)
	}
	return out
}

// RefusedError says why a font file may not come in, for people.
type RefusedError struct{ Reason string }

func (e *RefusedError) Error() string { return e.Reason }

// Inspect reads a font file whole and says what it is.
func Inspect(ctx context.Context, form Form, path string) (Facts, error) {
	f, err := Read(ctx, form, path)
	if err != nil {
		return Facts{}, err
	}
	return Facts{Form: form, Name: f.Name(), Weight: f.Weight, Italic: f.Italic, Axes: f.Axes, Rights: f.Rights, Licence: f.Licence}, nil
}

// Read reads a font file, unpacked if need be. What is not sound is a *RefusedError.
func Read(ctx context.Context, form Form, path string) (*words.Font, error) {
	st, err := os.Stat(path)
	if err != nil {
		return nil, err
	}
	if st.Size() > words.MaxFontBytes {
		return nil, refuse("The font file has %d MB, and %d is the most.", st.Size()>>20, words.MaxFontBytes>>20)
	}
	data, err := os.ReadFile(path)
	if err != nil {
		return nil, err
	}
	if form == WOFF2 {
		if data, err = unpack(ctx, data); err != nil {
			return nil, err
		}
	}
	f, err := words.Parse(data)
	if err != nil {
		return nil, &RefusedError{sentence(err.Error())}
	}
	return f, nil
}

func refuse(format string, args ...any) error { return &RefusedError{fmt.Sprintf(format, args...)} }

// sentence is what a room below says, as one.
func sentence(s string) string { return string(s[0]-'a'+'A') + s[1:] + "." }

const (
	unpackTime = 10 * time.Second
	// maxUnpacked bounds what a WOFF2 file unpacks to: what may come in unpacked.
	maxUnpacked = words.MaxFontBytes
	// headBytes is the length of a WOFF2 header (WOFF 2.0, 4.1), sizeAt where in it the
	// length of the whole file is told.
	headBytes, sizeAt, flavorAt = 48, 8, 4
)

// unpack unpacks WOFF2 with Debian's program for it, in a folder of its own.
func unpack(ctx context.Context, data []byte) ([]byte, error) {
	if len(data) < headBytes || int64(binary.BigEndian.Uint32(data[sizeAt:])) > int64(len(data)) {
		return nil, refuse("The font file is cut off.")
	}
	if string(data[flavorAt:flavorAt+4]) == "ttcf" {
		return nil, refuse("The file is a collection of fonts; use one of them as a file of its own.")
	}
	dir, err := helper.Scratch("font")
	if err != nil {
		return nil, err
	}
	defer os.RemoveAll(dir)
	in := filepath.Join(dir, "font.woff2")
	if err := os.WriteFile(in, data, 0o600); err != nil {
		return nil, err
	}
	// It talks of what it does; that is not looked at.
	if _, err := helper.Run(ctx, helper.Spec{Name: "woff2_decompress", Args: []string{in}, Limit: unpackTime, Output: 4096, File: maxUnpacked}, nil); err != nil {
		if ctx.Err() != nil {
			return nil, ctx.Err()
		}
		return nil, refuse("The font file can't be unpacked: it is damaged, or unpacks to more than %d MB.", maxUnpacked>>20)
	}
	return os.ReadFile(filepath.Join(dir, "font.ttf"))
}
