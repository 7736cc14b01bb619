package mediatest

import (
	"bytes"
	"compress/zlib"
	"encoding/binary"
	"io"
	"slices"
	"testing"
)

// TrueType unpacks a WOFF file as its specification says (W3C WOFF 1.0, 4 and 5).
func TrueType(t testing.TB, data []byte) []byte {
	t.Helper()
	be := binary.BigEndian
	n := int(be.Uint16(data[12:]))
	out := append([]byte{}, data[4:8]...)
	out = be.AppendUint16(out, uint16(n))
	out = append(out, make([]byte, 6+16*n)...)
	for i := range n {
		r := data[44+20*i:]
		from, packed, whole := be.Uint32(r[4:]), be.Uint32(r[8:]), be.Uint32(r[12:])
		table := data[from : from+packed]
		if packed < whole {
			z, err := zlib.NewReader(bytes.NewReader(table))
			if err != nil {
				t.Fatal(err)
			}
			if table, err = io.ReadAll(z); err != nil {
				t.Fatal(err)
			}
		}
		row := out[12+16*i:]
		copy(row, r[:4])
		be.PutUint32(row[4:], be.Uint32(r[16:]))
		be.PutUint32(row[8:], uint32(len(out)))
		be.PutUint32(row[12:], whole)
		out = append(out, table...)
		for len(out)%4 != 0 {
			out = append(out, 0)
		}
	}
	return out
}

// Rights is a TrueType file that says otherwise of its being embedded: OS/2.fsType.
func Rights(ttf []byte, bits uint16) []byte {
	out := slices.Clone(ttf)
	for i := range int(binary.BigEndian.Uint16(out[4:])) {
		if row := out[12+16*i:]; string(row[:4]) == "OS/2" {
			binary.BigEndian.PutUint16(out[binary.BigEndian.Uint32(row[8:])+8:], bits)
		}
	}
	return out
}
