package still

import (
	"bytes"
	"context"
	"encoding/binary"

	"github.com/rwcarlsen/goexif/exif"

	"ivypocket/core/raster"
	"ivypocket/media/icc"
	"ivypocket/media/turbo"
)

type jpegReader struct{}

// scanJPEG walks the segments before the first scan (ITU-T T.81, annex B) and
// collects the colour profile, which may be spread over several APP2 segments
// (ICC.1, annex B.4).
func scanJPEG(data []byte) (profile []byte) {
	var parts [256][]byte
	total := 0
	for at := 2; at+4 <= len(data); {
		if data[at] != 0xff {
			break
		}
		marker := data[at+1]
		switch {
		case marker == 0xff:
			at++
			continue
		case marker == 0x01 || marker >= 0xd0 && marker <= 0xd8:
			at += 2
			continue
		case marker == 0xda || marker == 0xd9:
			at = len(data)
			continue
		}
		n := int(binary.BigEndian.Uint16(data[at+2:]))
		if n < 2 || at+2+n > len(data) {
			break
		}
		if body := data[at+4 : at+2+n]; marker == 0xe2 && len(body) > 14 && string(body[:12]) == "ICC_PROFILE\x00" {
			if i := body[12]; parts[i] == nil && total+len(body) <= icc.MaxBytes {
				parts[i] = body[14:]
				total += len(body)
			}
		}
		at += 2 + n
	}
	for _, p := range parts {
		profile = append(profile, p...)
	}
	return profile
}

func (jpegReader) head(_ context.Context, _ string, data []byte) (Facts, error) {
	h, err := turbo.ReadHeader(data)
	if err != nil {
		return Facts{}, Refuse("The JPEG can't be read: %s.", err)
	}
	f := Facts{Width: h.W, Height: h.H, Orientation: orientation(data)}
	if err := checkSize(h.W, h.H); err != nil {
		return f, err
	}
	if !bytes.Contains(data[max(0, len(data)-4096):], []byte{0xff, 0xd9}) {
		return f, Refuse("The JPEG breaks off before its end; it may not have been copied whole.")
	}
	f.Space = spaceOf(profile(scanJPEG(data)))
	if h.CMYK {
		f.Space = string(icc.CMYK)
	}
	return f, nil
}

func (jpegReader) pixels(_ context.Context, _ string, data []byte, f Facts, w, h int) (*raster.Surface, error) {
	if f.Space == "" {
		return turbo.Decode(data, w, h)
	}
	t := profile(scanJPEG(data))
	if f.Space != string(icc.CMYK) {
		s, err := turbo.Decode(data, w, h)
		if err == nil {
			convert(s, t)
		}
		return s, err
	}
	s, err := turbo.DecodeCMYK(data, w, h)
	if err != nil {
		return nil, err
	}
	if t != nil && t.Space == icc.CMYK {
		t.Convert(s.Pix, s.Pix)
	} else {
		s.FromCMYK()
	}
	s.Opaque = true
	return s, nil
}

// orientation reads the EXIF orientation, 1 when there is none to be had.
func orientation(data []byte) (o int) {
	o = 1
	// The reader below was not written for hostile files.
	defer func() { _ = recover() }()
	x, err := exif.Decode(bytes.NewReader(data[:min(len(data), 256<<10)]))
	if x == nil || err != nil && exif.IsCriticalError(err) {
		return
	}
	tag, err := x.Get(exif.Orientation)
	if err != nil {
		return
	}
	if v, err := tag.Int(0); err == nil && v >= 1 && v <= 8 {
		o = v
	}
	return
}
