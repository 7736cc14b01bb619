package scene

import (
	"crypto/sha256"
	"encoding/binary"
	"encoding/hex"
	"math"

	"ivypocket/core/geom"
)

// Size is a size in whole device pixels.
type Size struct{ W, H int }

// ItemKind is what an item of a draw list does.
type ItemKind uint8

const (
	FillItem ItemKind = iota
	PictureItem
)

// Item is one thing to draw, all of it plain numbers in device pixels.
type Item struct {
	Layer  string
	Pocket string
	Kind   ItemKind
	// Box is the rounded box the item is drawn within.
	Box     geom.Box
	Radius  float64
	Opacity float64
	Colour  [4]uint8 // FillItem, straight sRGB
	// Media and Frame name the picture; Map takes its pixels to the device's.
	Media     string
	Frame     int64
	MediaSize geom.Size
	Map       geom.Affine
	// Rest and RestBox are map and box where the layer stands when nothing
	// moves it: a still is made ready for this place, so that it is sharp there.
	Rest    geom.Affine
	RestBox geom.Box
	// Still says that the media is no clip.
	Still bool
	// Edges says that edges of the media may be seen inside the box.
	Edges bool
}

// List is everything that makes one picture, the lowest first.
type List struct {
	Size  Size
	Items []Item
	buf   []byte
}

// Behaviour is the version of how lists are painted. It is part of every
// address, so that a frame painted otherwise is another frame.
const Behaviour = 2

// Address is the hash of a draw list: equal pictures share one address.
type Address [16]byte

func (a Address) String() string { return hex.EncodeToString(a[:]) }

// Address hashes the list's canonical bytes. Layer ids are left out: they do
// not change the picture.
func (l *List) Address() Address {
	b := append(l.buf[:0], "ivypocket frame "...)
	b = append(b, Behaviour)
	b = binary.AppendVarint(b, int64(l.Size.W))
	b = binary.AppendVarint(b, int64(l.Size.H))
	num := func(vs ...float64) {
		for _, v := range vs {
			b = binary.BigEndian.AppendUint64(b, math.Float64bits(v+0)) // +0 makes -0 and 0 one
		}
	}
	for i := range l.Items {
		it := &l.Items[i]
		b = append(b, byte(it.Kind))
		num(it.Box.X, it.Box.Y, it.Box.W, it.Box.H, it.Radius, it.Opacity)
		switch it.Kind {
		case FillItem:
			b = append(b, it.Colour[:]...)
		case PictureItem:
			b = append(b, it.Media...)
			b = binary.AppendVarint(b, it.Frame)
			num(it.Map.A, it.Map.B, it.Map.C, it.Map.D, it.Map.E, it.Map.F, it.MediaSize.W, it.MediaSize.H)
			num(it.Rest.A, it.Rest.B, it.Rest.C, it.Rest.D, it.Rest.E, it.Rest.F, it.RestBox.X, it.RestBox.Y, it.RestBox.W, it.RestBox.H)
			flags := byte(0)
			if it.Edges {
				flags |= 1
			}
			if it.Still {
				flags |= 2
			}
			b = append(b, flags)
		}
	}
	l.buf = b
	sum := sha256.Sum256(b)
	return Address(sum[:16])
}
