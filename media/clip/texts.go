package clip

import (
	"encoding/binary"
	"io"

	"ivypocket/media/limits"
)

// textsFit reports whether the texts that an ISO base media file carries with
// it are short enough to be read: every box below a udta or meta box of moov,
// or of a track, pictures of covers aside (ISO/IEC 14496-12, 8.10). Of a file of
// endlessly many boxes it looks at the first.
func textsFit(r io.ReaderAt, size int64) bool {
	b := &boxes{r: r, left: maxBoxes}
	fits := true
	b.each(0, size, func(kind string, from, to int64) {
		if kind == "moov" {
			fits = fits && b.textsOf(from, to, true)
		}
	})
	return fits
}

// boxes walks the boxes of a file, up to a number of them.
type boxes struct {
	r    io.ReaderAt
	left int
}

// textsOf is textsFit for the boxes within moov, whose tracks have texts of their
// own, or within a track.
func (b *boxes) textsOf(from, to int64, tracks bool) bool {
	fits := true
	b.each(from, to, func(kind string, from, to int64) {
		switch kind {
		case "trak":
			fits = fits && (!tracks || b.textsOf(from, to, false))
		case "udta":
			b.each(from, to, func(kind string, from, to int64) {
				fits = fits && (kind == "meta" || to-from <= limits.ClipNote) && (kind != "meta" || b.itemsFit(from, to))
			})
		case "meta":
			fits = fits && b.itemsFit(from, to)
		}
	})
	return fits
}

// itemsFit looks at the items of a meta box's list. As QuickTime has it, the box
// begins with boxes; as ISO has it, with four bytes of version and flags.
func (b *boxes) itemsFit(from, to int64) bool {
	var h [8]byte
	if n, _ := b.r.ReadAt(h[:], from); n == 8 && string(h[4:]) != "hdlr" {
		from += 4
	}
	fits := true
	b.each(from, to, func(kind string, from, to int64) {
		if kind != "ilst" {
			return
		}
		b.each(from, to, func(kind string, from, to int64) {
			fits = fits && (kind == "covr" || to-from <= limits.ClipNote)
		})
	})
	return fits
}

// each visits the boxes that lie side by side from one offset up to another; from
// and to of visit are those of what is in it. What makes no sense ends it.
func (b *boxes) each(at, end int64, visit func(kind string, from, to int64)) {
	var h [16]byte
	for ; at+8 <= end && b.left > 0; b.left-- {
		if got, _ := b.r.ReadAt(h[:], at); got < 8 {
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
