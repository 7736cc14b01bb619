package still

import (
	"bytes"
	"context"
	"encoding/binary"

	"ivypocket/core/raster"
	"ivypocket/media/icc"
	"ivypocket/media/limits"
	"ivypocket/media/turbo"
)

type jpegReader struct{}

// jpegFacts is what the segments of a JPEG say.
type jpegFacts struct {
	orientation int    // EXIF 2.32; 1 when there is none to be had
	profile     []byte // of its colours
	scans       int    // passes over the picture
}

// scanJPEG walks the segments (ITU-T T.81, annex B) and the scans without decoding
// any, and passes over what decoders pass over: bytes before a marker that belong
// to nothing. What is known of the picture stands before its first scan; the
// colour profile may be spread over several APP2 segments (ICC.1, annex B.4).
func scanJPEG(data []byte) jpegFacts {
	f := jpegFacts{orientation: 1}
	var parts [256][]byte
	total := 0
	exif := false
	for at := 2; at+4 <= len(data); {
		if data[at] != 0xff {
			next := bytes.IndexByte(data[at:], 0xff)
			if next < 0 {
				break
			}
			at += next
			continue
		}
		marker := data[at+1]
		switch {
		case marker == 0xff:
			at++
			continue
		case marker <= 0x01 || marker >= 0xd0 && marker <= 0xd8:
			at += 2
			continue
		}
		n := int(binary.BigEndian.Uint16(data[at+2:]))
		if marker == 0xd9 || n < 2 || at+2+n > len(data) {
			break
		}
		switch body := data[at+4 : at+2+n]; {
		case marker == 0xda:
			f.scans++
			at += entropyCoded(data[at+2+n:])
		case f.scans > 0:
		case marker == 0xe1 && len(body) > 6 && string(body[:6]) == "Exif\x00\x00" && !exif:
			exif = true
			f.orientation, _ = firstIFD(body[6:])
		case marker == 0xe2 && len(body) > 14 && string(body[:12]) == "ICC_PROFILE\x00":
			if i := body[12]; parts[i] == nil && total+len(body) <= icc.MaxBytes {
				parts[i] = body[14:]
				total += len(body)
			}
		}
		at += 2 + n
	}
	for _, p := range parts {
		f.profile = append(f.profile, p...)
	}
	return f
}

// entropyCoded is the length of the coded data of a scan: up to the next
// marker that is no restart and no stuffed byte.
func entropyCoded(b []byte) int {
	for at := 0; ; {
		i := bytes.IndexByte(b[at:], 0xff)
		if i < 0 || at+i+1 >= len(b) {
			return len(b)
		}
		if at += i; b[at+1] != 0 && (b[at+1] < 0xd0 || b[at+1] > 0xd7) {
			return at
		}
		at += 2
	}
}

func (jpegReader) head(_ context.Context, _ string, data []byte) (Facts, error) {
	h, err := turbo.ReadHeader(data)
	if err != nil {
		return Facts{}, Refuse("The JPEG can't be read: %s.", err)
	}
	scan := scanJPEG(data)
	f := Facts{Width: h.W, Height: h.H, Orientation: scan.orientation}
	if err := checkSize(h.W, h.H); err != nil {
		return f, err
	}
	if !bytes.Contains(data[max(0, len(data)-4096):], []byte{0xff, 0xd9}) {
		return f, Refuse("The JPEG breaks off before its end; it may not have been copied whole.")
	}
	if scan.scans > limits.PictureScans {
		return f, Refuse("The JPEG comes in %d passes, each of which takes as long as a whole picture; the limit is %d. Save it anew.", scan.scans, limits.PictureScans)
	}
	f.spaced(profile(scan.profile))
	if h.CMYK {
		f.Space = string(icc.CMYK)
	}
	return f, nil
}

func (jpegReader) pixels(ctx context.Context, _ string, data []byte, f Facts, w, h int) (*raster.Surface, error) {
	scan := scanJPEG(data)
	decode := turbo.Decode
	if f.Space == string(icc.CMYK) {
		decode = turbo.DecodeCMYK
	}
	var s *raster.Surface
	var err error
	if scan.scans*f.Width*f.Height > asideWork && aside != nil {
		s, err = decodeAside(ctx, data, w, h, f.Space == string(icc.CMYK))
	} else {
		s, err = decode(data, w, h)
	}
	if err != nil || f.Space == "" {
		return s, err
	}
	t := profile(scan.profile)
	if f.Space != string(icc.CMYK) {
		return s, convert(ctx, s, t)
	}
	if t != nil && t.Space == icc.CMYK {
		err = inBands(ctx, s, func(band *raster.Surface) { t.Convert(band.Pix, band.Pix) })
	} else {
		s.FromCMYK()
	}
	s.Opaque = true
	return s, err
}
