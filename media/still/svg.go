package still

import (
	"bytes"
	"context"
	"errors"
	"image/png"
	"strconv"
	"sync"

	"ivypocket/core/raster"
	"ivypocket/media/helper"
	"ivypocket/media/vector"
)

// fontsOnly is the path of a font configuration that knows the shipped fonts alone.
var fontsOnly = sync.OnceValues(func() (string, error) {
	dir, err := helper.Scratch("fonts")
	if err != nil {
		return "", err
	}
	return vector.InstallFonts(dir)
})

type svgReader struct{}

func readVector(data []byte) (vector.Drawing, error) {
	d, err := vector.Read(data)
	var refused *vector.RefusedError
	if errors.As(err, &refused) {
		return d, &RefusedError{refused.Reason}
	}
	return d, err
}

func (svgReader) head(_ context.Context, _ string, data []byte) (Facts, error) {
	d, err := readVector(data)
	return Facts{Width: d.Width, Height: d.Height, Alpha: true, Notes: d.Notes}, err
}

// pixels draws a drawing at exactly w×h.
func (svgReader) pixels(ctx context.Context, _ string, data []byte, _ Facts, w, h int) (*raster.Surface, error) {
	d, err := readVector(data)
	if err != nil {
		return nil, err
	}
	conf, err := fontsOnly()
	if err != nil {
		return nil, err
	}
	// Read from a pipe the drawing has no place of its own, so that no
	// reference can reach a file.
	// A PNG that can't be packed is a little larger than its pixels.
	most := int64(w)*int64(h)*4 + int64(w)*int64(h)/64 + 1<<20
	out, err := helper.Run(ctx, helper.Spec{Name: "rsvg-convert", Limit: helperTime, Output: most, Env: []string{"FONTCONFIG_FILE=" + conf},
		Args: []string{"--width", strconv.Itoa(w), "--height", strconv.Itoa(h), "--format", "png"}}, bytes.NewReader(d.SVG))
	if err != nil {
		return nil, err
	}
	img, err := png.Decode(ending(ctx, out))
	if err != nil {
		return nil, err
	}
	s := raster.FromImage(img)
	if s.W != w || s.H != h {
		s = s.Resize(w, h)
	}
	return s, nil
}
