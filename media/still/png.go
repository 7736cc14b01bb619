package still

import (
	"bytes"
	"compress/zlib"
	"context"
	"encoding/binary"
	"image/png"
	"io"

	"ivypocket/core/raster"
	"ivypocket/media/icc"
)

type pngReader struct{}

// pngFacts is what the chunks of a PNG say (W3C PNG, 3rd edition).
type pngFacts struct {
	alpha, srgb, hdr bool
	packed           []byte // the colour profile as it lies in iCCP, deflated
	gamma            uint32 // ×100 000
	chroma           []byte // cHRM
	cicp             []byte
}

// scanPNG walks the chunks to the end, so that a file that breaks off is noticed
// without decoding it.
func scanPNG(data []byte) (f pngFacts, err error) {
	for at := 8; at+12 <= len(data); {
		n := int(binary.BigEndian.Uint32(data[at:]))
		kind := string(data[at+4 : at+8])
		if n < 0 || n > len(data)-at-12 {
			break
		}
		body := data[at+8 : at+8+n]
		switch kind {
		case "IHDR":
			f.alpha = n > 9 && body[9]&4 != 0
		case "tRNS":
			f.alpha = true
		case "sRGB":
			f.srgb = true
		case "gAMA":
			if n == 4 {
				f.gamma = binary.BigEndian.Uint32(body)
			}
		case "cHRM":
			if n == 32 {
				f.chroma = body
			}
		case "cICP":
			if n == 4 {
				f.cicp = body
				f.hdr = body[1] == 16 || body[1] == 18
			}
		case "iCCP":
			// There should be one; of several the first is meant.
			if i := bytes.IndexByte(body, 0); i > 0 && i+2 <= n && f.packed == nil {
				f.packed = body[i+2:]
			}
		case "IEND":
			return f, nil
		}
		at += 12 + n
	}
	return f, Refuse("The PNG breaks off before its end; it may not have been copied whole.")
}

// transform says how colours become sRGB, in the order of precedence of the
// PNG specification: cICP, iCCP, sRGB, then gAMA and cHRM.
func (f pngFacts) transform() *icc.Transform {
	switch {
	case f.cicp != nil:
		return cicp(int(f.cicp[0]), int(f.cicp[1]))
	case f.packed != nil:
		return profile(f.profile())
	case f.srgb || f.gamma == 0:
		return nil
	}
	p := icc.BT709
	p.Gamma = 100000 / float64(f.gamma)
	if p.Gamma < 0.2 || p.Gamma > 10 {
		return nil
	}
	if f.chroma != nil {
		v := func(i int) float64 { return float64(binary.BigEndian.Uint32(f.chroma[i*4:])) / 100000 }
		p.White, p.Red, p.Green, p.Blue = [2]float64{v(0), v(1)}, [2]float64{v(2), v(3)}, [2]float64{v(4), v(5)}, [2]float64{v(6), v(7)}
	}
	t, err := icc.FromPrimaries(p)
	if err != nil {
		return nil
	}
	return t
}

// profile unpacks the colour profile, no more of it than one may have.
func (f pngFacts) profile() []byte {
	z, err := zlib.NewReader(bytes.NewReader(f.packed))
	if err != nil {
		return nil
	}
	b, _ := io.ReadAll(io.LimitReader(z, icc.MaxBytes+1))
	return b
}

// cicp makes a transform of code points (ITU-T H.273); nil is sRGB.
func cicp(primaries, transfer int) *icc.Transform {
	var p icc.Primaries
	switch primaries {
	case 9:
		p = icc.BT2020
	case 12:
		p = icc.P3
	default:
		return nil
	}
	if transfer == 4 {
		p.Gamma = 2.2
	}
	t, err := icc.FromPrimaries(p)
	if err != nil {
		return nil
	}
	return t
}

func (pngReader) head(_ context.Context, _ string, data []byte) (Facts, error) {
	cfg, err := png.DecodeConfig(bytes.NewReader(data))
	if err != nil {
		return Facts{}, Refuse("The PNG can't be read: %s.", err)
	}
	f := Facts{Width: cfg.Width, Height: cfg.Height}
	if err := checkSize(f.Width, f.Height); err != nil {
		return f, err
	}
	scan, err := scanPNG(data)
	if err != nil {
		return f, err
	}
	if scan.hdr {
		return f, Refuse("The PNG holds brightness beyond white (HDR), which is not read. Save it as an sRGB picture.")
	}
	f.Alpha = scan.alpha
	f.spaced(scan.transform())
	return f, nil
}

func (pngReader) pixels(ctx context.Context, _ string, data []byte, f Facts, _, _ int) (*raster.Surface, error) {
	img, err := png.Decode(ending(ctx, data))
	if err != nil {
		return nil, err
	}
	var t *icc.Transform
	if f.Space != "" {
		scan, err := scanPNG(data)
		if err != nil {
			return nil, err
		}
		t = scan.transform()
	}
	return inSRGB(ctx, img, t)
}

// PNGMoves reports whether a PNG is animated: whether it says so before its
// first pixels, as it must (W3C PNG, 3rd edition, 11.3.6.1), and among its first
// thousand chunks.
func PNGMoves(r io.ReaderAt, size int64) bool {
	var h [12]byte
	for at, n := int64(8), 0; at+12 <= size && n < 1000; n++ {
		if n, _ := r.ReadAt(h[:], at); n < len(h) {
			return false
		}
		switch string(h[4:8]) {
		case "acTL":
			return binary.BigEndian.Uint32(h[8:]) > 1
		case "IDAT", "IEND":
			return false
		}
		at += 12 + int64(binary.BigEndian.Uint32(h[:]))
	}
	return false
}
