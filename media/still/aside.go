package still

import (
	"bytes"
	"context"
	"fmt"
	"io"
	"strconv"

	"ivypocket/core/raster"
	"ivypocket/media/helper"
	"ivypocket/media/turbo"
)

// aside is the command that decodes a JPEG from its input and writes the pixels
// to its output, as Aside does; nil is none.
var aside []string

// asideWork is the number of pixels, times the passes over them, from which on
// a JPEG is decoded by a program of its own: libjpeg-turbo can't be stopped on
// the way, a program can. A picture below takes less than about half a second.
const asideWork = 48 << 20

// DecodeAside names the command that decodes pictures that may take long; it is
// to call Aside with what follows. It is for the start of a program.
func DecodeAside(command ...string) { aside = command }

// decodeAside decodes in a program that ends with the context.
func decodeAside(ctx context.Context, data []byte, w, h int, cmyk bool) (*raster.Surface, error) {
	hd, err := turbo.ReadHeader(data)
	if err != nil {
		return nil, err
	}
	sw, sh := hd.Shrunk(w, h)
	args := append(aside[1:len(aside):len(aside)], strconv.Itoa(w), strconv.Itoa(h), strconv.FormatBool(cmyk))
	out, err := helper.Run(ctx, helper.Spec{Name: aside[0], Args: args, Limit: helperTime, Output: int64(sw)*int64(sh)*4 + pamHeader}, bytes.NewReader(data))
	if err != nil {
		return nil, err
	}
	s, err := parsePAM(out, sw, sh)
	if err == nil {
		s.Opaque = true
	}
	return s, err
}

// Aside is the work of that program: it decodes a JPEG from r, at w×h or more,
// and writes its pixels, four bytes each, to out as PAM.
func Aside(r io.Reader, out io.Writer, w, h int, cmyk bool) error {
	data, err := io.ReadAll(io.LimitReader(r, MaxBytes))
	if err != nil {
		return err
	}
	decode := turbo.Decode
	if cmyk {
		decode = turbo.DecodeCMYK
	}
	s, err := decode(data, w, h)
	if err != nil {
		return err
	}
	if _, err := fmt.Fprintf(out, "P7\nWIDTH %d\nHEIGHT %d\nDEPTH 4\nMAXVAL 255\nTUPLTYPE RGB_ALPHA\nENDHDR\n", s.W, s.H); err != nil {
		return err
	}
	_, err = out.Write(s.Pix)
	return err
}
