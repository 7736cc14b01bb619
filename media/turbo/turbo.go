// Package turbo reads and writes JPEG through libjpeg-turbo, which is several
// times faster than the standard library and can shrink while it decodes.
package turbo

/*
#cgo LDFLAGS: -lturbojpeg
#include <turbojpeg.h>
*/
import "C"

import (
	"errors"
	"fmt"
	"strings"
	"sync"
	"unsafe"

	"ivypocket/core/raster"
)

// Header is what a JPEG says of itself.
type Header struct {
	W, H int
	// CMYK is set for pictures in print colours.
	CMYK bool
}

// handles are kept, since making one costs more than a small picture. They
// belong to libjpeg-turbo and live as long as the program.
var (
	readers = sync.Pool{New: func() any { return C.tjInitDecompress() }}
	writers = sync.Pool{New: func() any { return C.tjInitCompress() }}
)

func failure(h C.tjhandle) error { return errors.New(C.GoString(C.tjGetErrorStr2(h))) }

func bytesPtr(b []byte) *C.uchar { return (*C.uchar)(unsafe.Pointer(unsafe.SliceData(b))) }

// ReadHeader reads size and colour space.
func ReadHeader(data []byte) (Header, error) {
	if len(data) == 0 {
		return Header{}, errors.New("the file is empty")
	}
	h := readers.Get().(C.tjhandle)
	defer readers.Put(h)
	var w, ht, sub, cs C.int
	if C.tjDecompressHeader3(h, bytesPtr(data), C.ulong(len(data)), &w, &ht, &sub, &cs) != 0 {
		return Header{}, failure(h)
	}
	if w < 1 || ht < 1 {
		return Header{}, errors.New("it has no picture")
	}
	return Header{int(w), int(ht), cs == C.TJCS_CMYK || cs == C.TJCS_YCCK}, nil
}

// Decode decodes at the smallest of full, half, quarter and eighth size that
// is at least w×h. A file that breaks off is an error.
func Decode(data []byte, w, h int) (*raster.Surface, error) {
	hd, err := ReadHeader(data)
	if err != nil {
		return nil, err
	}
	if hd.CMYK {
		return nil, errors.New("it is in print colours")
	}
	s, err := decode(data, hd, w, h, C.TJPF_RGBA)
	if err == nil {
		s.Opaque = true
	}
	return s, err
}

// DecodeCMYK is Decode for print colours: four bytes a pixel, as they are
// stored, which is inverted.
func DecodeCMYK(data []byte, w, h int) (*raster.Surface, error) {
	hd, err := ReadHeader(data)
	if err != nil {
		return nil, err
	}
	return decode(data, hd, w, h, C.TJPF_CMYK)
}

// Shrunk is the size at which a picture is decoded that is asked for at w×h or
// more: the smallest of its own, a half, a quarter and an eighth, rounded up.
func (hd Header) Shrunk(w, h int) (sw, sh int) {
	d := 8
	for d > 1 && ((hd.W+d-1)/d < min(w, hd.W) || (hd.H+d-1)/d < min(h, hd.H)) {
		d /= 2
	}
	return (hd.W + d - 1) / d, (hd.H + d - 1) / d
}

func decode(data []byte, hd Header, w, h int, format C.int) (*raster.Surface, error) {
	sw, sh := hd.Shrunk(w, h)
	s := raster.NewSurface(sw, sh)
	tj := readers.Get().(C.tjhandle)
	defer readers.Put(tj)
	if C.tjDecompress2(tj, bytesPtr(data), C.ulong(len(data)), bytesPtr(s.Pix), C.int(s.W), 0, C.int(s.H), format, C.TJFLAG_ACCURATEDCT) != 0 {
		// Most warnings leave a whole picture; data that breaks off does not.
		err := failure(tj)
		if C.tjGetErrorCode(tj) != C.TJERR_WARNING || strings.Contains(err.Error(), "remature end") {
			return nil, err
		}
	}
	return s, nil
}

// Subsampling of the colour planes.
const (
	Full = C.TJSAMP_444
	Half = C.TJSAMP_420
)

// Encode appends a JPEG of the surface, whose alpha is ignored, to dst[:0] and
// returns it.
func Encode(dst []byte, s *raster.Surface, quality, subsampling int) ([]byte, error) {
	return encode(dst, s.W, s.H, subsampling, func(h C.tjhandle, buf **C.uchar, size *C.ulong) C.int {
		return C.tjCompress2(h, bytesPtr(s.Pix), C.int(s.W), 0, C.int(s.H), C.TJPF_RGBX, buf, size,
			C.int(subsampling), C.int(quality), C.TJFLAG_NOREALLOC|C.TJFLAG_FASTDCT)
	})
}

// EncodePlanes is Encode for Y′CbCr planes one after another, as JPEG's own
// colours (BT.601, full range), the latter two of half the width and height.
// w and h are even.
func EncodePlanes(dst, planes []byte, w, h, quality int) ([]byte, error) {
	if w%2 != 0 || h%2 != 0 || len(planes) < w*h*3/2 {
		return nil, fmt.Errorf("planes of %d × %d px can't be written", w, h)
	}
	return encode(dst, w, h, Half, func(t C.tjhandle, buf **C.uchar, size *C.ulong) C.int {
		return C.tjCompressFromYUV(t, bytesPtr(planes), C.int(w), 1, C.int(h), Half, buf, size, C.int(quality), C.TJFLAG_NOREALLOC|C.TJFLAG_FASTDCT)
	})
}

// EncodeGrey is Encode for one plane.
func EncodeGrey(dst, plane []byte, w, h, quality int) ([]byte, error) {
	if len(plane) < w*h {
		return nil, fmt.Errorf("a plane of %d × %d px can't be written", w, h)
	}
	return encode(dst, w, h, C.TJSAMP_GRAY, func(t C.tjhandle, buf **C.uchar, size *C.ulong) C.int {
		return C.tjCompress2(t, bytesPtr(plane), C.int(w), 0, C.int(h), C.TJPF_GRAY, buf, size,
			C.TJSAMP_GRAY, C.int(quality), C.TJFLAG_NOREALLOC|C.TJFLAG_FASTDCT)
	})
}

func encode(dst []byte, w, ht, subsampling int, compress func(h C.tjhandle, buf **C.uchar, size *C.ulong) C.int) ([]byte, error) {
	h := writers.Get().(C.tjhandle)
	defer writers.Put(h)
	limit := int(C.tjBufSize(C.int(w), C.int(ht), C.int(subsampling)))
	// The library writes through a pointer to a pointer, which must not point
	// into Go's memory; so it writes into its own buffer of the right size.
	buf := C.tjAlloc(C.int(limit))
	if buf == nil {
		return nil, fmt.Errorf("no memory for a JPEG of %d × %d px", w, ht)
	}
	defer C.tjFree(buf)
	size := C.ulong(limit)
	if compress(h, &buf, &size) != 0 {
		return nil, failure(h)
	}
	return append(dst[:0], unsafe.Slice((*byte)(buf), int(size))...), nil
}

// DecodeGrey decodes a JPEG as one plane of its full size.
func DecodeGrey(data []byte) (plane []byte, w, h int, err error) {
	hd, err := ReadHeader(data)
	if err != nil {
		return nil, 0, 0, err
	}
	plane = make([]byte, hd.W*hd.H)
	tj := readers.Get().(C.tjhandle)
	defer readers.Put(tj)
	if C.tjDecompress2(tj, bytesPtr(data), C.ulong(len(data)), bytesPtr(plane), C.int(hd.W), 0, C.int(hd.H), C.TJPF_GRAY, C.TJFLAG_ACCURATEDCT) != 0 &&
		C.tjGetErrorCode(tj) != C.TJERR_WARNING {
		return nil, 0, 0, failure(tj)
	}
	return plane, hd.W, hd.H, nil
}
