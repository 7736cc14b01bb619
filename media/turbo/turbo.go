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
	// CMYK is set for pictures in print colours, which are not decoded here.
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
		return nil, errors.New("print colours (CMYK) are not read; save it as RGB")
	}
	// The size libjpeg-turbo gives for a factor 1/d is rounded up.
	d := 8
	for d > 1 && ((hd.W+d-1)/d < min(w, hd.W) || (hd.H+d-1)/d < min(h, hd.H)) {
		d /= 2
	}
	s := raster.NewSurface((hd.W+d-1)/d, (hd.H+d-1)/d)
	tj := readers.Get().(C.tjhandle)
	defer readers.Put(tj)
	if C.tjDecompress2(tj, bytesPtr(data), C.ulong(len(data)), bytesPtr(s.Pix), C.int(s.W), 0, C.int(s.H), C.TJPF_RGBA, C.TJFLAG_ACCURATEDCT) != 0 {
		// Most warnings leave a whole picture; data that breaks off does not.
		err := failure(tj)
		if C.tjGetErrorCode(tj) != C.TJERR_WARNING || strings.Contains(err.Error(), "remature end") {
			return nil, err
		}
	}
	s.Opaque = true
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
	h := writers.Get().(C.tjhandle)
	defer writers.Put(h)
	limit := int(C.tjBufSize(C.int(s.W), C.int(s.H), C.int(subsampling)))
	if cap(dst) < limit {
		dst = make([]byte, limit)
	}
	dst = dst[:limit]
	// The library writes through a pointer to a pointer, which must not point
	// into Go's memory; so it writes into its own buffer of the right size.
	buf := C.tjAlloc(C.int(limit))
	if buf == nil {
		return nil, fmt.Errorf("no memory for a JPEG of %d × %d px", s.W, s.H)
	}
	defer C.tjFree(buf)
	size := C.ulong(limit)
	if C.tjCompress2(h, bytesPtr(s.Pix), C.int(s.W), 0, C.int(s.H), C.TJPF_RGBX, &buf, &size,
		C.int(subsampling), C.int(quality), C.TJFLAG_NOREALLOC|C.TJFLAG_FASTDCT) != 0 {
		return nil, failure(h)
	}
	n := copy(dst, unsafe.Slice((*byte)(buf), int(size)))
	return dst[:n], nil
}
