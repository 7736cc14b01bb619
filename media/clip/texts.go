package clip

import (
	"encoding/binary"
	"io"

	"ivypocket/media/limits"
)

// textsFit reports whether the texts that an ISO base media file carries with
// it are short enough to be read: every box below a udta or meta box of moov,
// or of a track, pictures of covers aside (ISO/IEC 14496-12, 8.10).
func textsFit(r io.ReaderAt, size int64) bool {
	fits := true
	eachBox(r, 0, size, func(kind string, from, to int64) {
		if kind == "moov" {
			fits = fits && textsOf(r, from, to)
		}
	})
	return fits
}

// textsOf is textsFit for the boxes within moov or trak.
func textsOf(r io.ReaderAt, from, to int64) bool {
	fits := true
	eachBox(r, from, to, func(kind string, from, to int64) {
		switch kind {
		case "trak":
			fits = fits && textsOf(r, from, to)
		case "udta":
			eachBox(r, from, to, func(kind string, from, to int64) {
				fits = fits && (kind == "meta" || to-from <= limits.ClipNote) && (kind != "meta" || itemsFit(r, from, to))
			})
		case "meta":
			fits = fits && itemsFit(r, from, to)
		}
	})
	return fits
}

// itemsFit looks at the items of a meta box's list. As QuickTime has it, the box
// begins with boxes; as ISO has it, with four bytes of version and flags.
func itemsFit(r io.ReaderAt, from, to int64) bool {
	var h [8]byte
	if n, _ := r.ReadAt(h[:], from); n == 8 && string(h[4:]) != "hdlr" {
		from += 4
	}
	fits := true
	eachBox(r, from, to, func(kind string, from, to int64) {
		if kind != "ilst" {
			return
		}
		eachBox(r, from, to, func(kind string, from, to int64) {
			fits = fits && (kind == "covr" || to-from <= limits.ClipNote)
		})
	})
	return fits
}

// eachBox visits the boxes that lie side by side from one offset up to another;
// from and to of visit are those of what is in it. What makes no sense ends it.
func eachBox(r io.ReaderAt, at, end int64, visit func(kind string, from, to int64)) {
	var h [16]byte
	for n := 0; at+8 <= end && n < maxBoxes; n++ {
		if got, _ := r.ReadAt(h[:], at); got < 8 {
			return
		}
		head, box := int64(8), int64(binary.BigEndian.Uint32(h[:]))
		switch box {
		case 0:
			box = end - at
		case 1:
			v := binary.BigEndian.Uint64(h[8:])
			if v > 1<<62 {
				return
			}
			head, box = 16, int64(v)
		}
		if box < head || at+box > end {
			return
		}
		visit(string(h[4:8]), at+head, at+box)
		at += box
	}
}
