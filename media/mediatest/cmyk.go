package mediatest

/*
#cgo LDFLAGS: -lturbojpeg
#include <turbojpeg.h>
*/
import "C"

import (
	"testing"
	"unsafe"
)

// PrintJPEG encodes print colours, four bytes a pixel and inverted.
func PrintJPEG(t testing.TB, pix []byte, w, h int) []byte {
	t.Helper()
	tj := C.tjInitCompress()
	defer C.tjDestroy(tj)
	var buf *C.uchar
	var size C.ulong
	if C.tjCompress2(tj, (*C.uchar)(unsafe.Pointer(&pix[0])), C.int(w), 0, C.int(h), C.TJPF_CMYK, &buf, &size, C.TJSAMP_444, 97, C.TJFLAG_ACCURATEDCT) != 0 {
		t.Fatal(C.GoString(C.tjGetErrorStr2(tj)))
	}
	defer C.tjFree(buf)
	return C.GoBytes(unsafe.Pointer(buf), C.int(size))
}
