package clip

import (
	"encoding/binary"
	"io"
	"math/bits"
)

// Whole reports whether a file is as long as its outermost boxes say, so that
// one that was not copied whole is noticed before anything is decoded. A file
// whose boxes make no sense is left for ffprobe to judge.
func (c Container) Whole(r io.ReaderAt, size int64) bool {
	switch c {
	case MOV:
		return wholeBoxes(r, size)
	case Matroska:
		return wholeElements(r, size)
	}
	return true
}

// Texts reports whether the texts that a file carries with it, such as comments,
// are of a length that ffmpeg reads in no time.
func (c Container) Texts(r io.ReaderAt, size int64) bool { return c != MOV || textsFit(r, size) }

// maxBoxes bounds how many outermost boxes are looked at.
const maxBoxes = 100_000

// wholeBoxes walks the boxes of ISO/IEC 14496-12: a size of 4 bytes, 1 meaning
// that 8 more bytes have it and 0 that the box goes on to the end.
func wholeBoxes(r io.ReaderAt, size int64) bool {
	var h [16]byte
	for at, n := int64(0), 0; at < size && n < maxBoxes; n++ {
		if got, _ := r.ReadAt(h[:], at); got < 8 {
			return size-at < 8 // a few stray bytes at the end do no harm
		}
		box := int64(binary.BigEndian.Uint32(h[:]))
		switch box {
		case 0:
			return true
		case 1:
			v := binary.BigEndian.Uint64(h[8:])
			if v > 1<<62 {
				return false
			}
			box = int64(v)
		}
		if box < 8 {
			return true
		}
		if at+box > size {
			return false
		}
		at += box
	}
	return true
}

// wholeElements looks at the segment of an EBML file (RFC 8794, RFC 9559),
// whose size may be unknown.
func wholeElements(r io.ReaderAt, size int64) bool {
	var h [16]byte
	at := int64(0)
	for n := 0; n < 8 && at < size; n++ {
		got, _ := r.ReadAt(h[:], at)
		idLen := bits.LeadingZeros8(h[0]) + 1
		if got < idLen+1 || idLen > 4 {
			return true
		}
		sizeLen := bits.LeadingZeros8(h[idLen]) + 1
		if sizeLen > 8 || got < idLen+sizeLen {
			return true
		}
		v := int64(h[idLen]) & (1<<(8-sizeLen) - 1)
		ones := v == 1<<(8-sizeLen)-1
		for _, b := range h[idLen+1 : idLen+sizeLen] {
			v = v<<8 | int64(b)
			ones = ones && b == 0xff
		}
		if ones {
			return true // of unknown size, as a stream is
		}
		at += int64(idLen+sizeLen) + v
		if v < 0 || at > size {
			return false
		}
	}
	return true
}
