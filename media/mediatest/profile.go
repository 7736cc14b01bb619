package mediatest

import (
	"bytes"
	"compress/zlib"
	"encoding/binary"
	"hash/crc32"
	"math"
	"testing"

	icclib "ivypocket/media/icc"
)

// chunk is a chunk of a PNG.
func chunk(kind string, data []byte) []byte {
	b := binary.BigEndian.AppendUint32(nil, uint32(len(data)))
	b = append(append(b, kind...), data...)
	return binary.BigEndian.AppendUint32(b, crc32.ChecksumIEEE(b[4:]))
}

// s15 is a number in ICC's signed 15.16 fixed point.
func s15(v float64) []byte {
	return binary.BigEndian.AppendUint32(nil, uint32(int32(math.Round(v*65536))))
}

// icc puts a profile together (ICC.1:2001-04, version 2).
func icc(class, space, pcs string, tags [][2]string) []byte {
	head := make([]byte, 128)
	copy(head[8:], "\x02\x40\x00\x00")
	copy(head[12:], class)
	copy(head[16:], space)
	copy(head[20:], pcs)
	copy(head[24:], "\x07\xea\x00\x01\x00\x01\x00\x00\x00\x00\x00\x00")
	copy(head[36:], "acsp")
	copy(head[68:], append(append(s15(0.9642), s15(1)...), s15(0.8249)...))
	table := binary.BigEndian.AppendUint32(nil, uint32(len(tags)))
	var body []byte
	at := 128 + 4 + 12*len(tags)
	for _, t := range tags {
		for (at+len(body))%4 != 0 {
			body = append(body, 0)
		}
		table = append(table, t[0]...)
		table = binary.BigEndian.AppendUint32(table, uint32(at+len(body)))
		table = binary.BigEndian.AppendUint32(table, uint32(len(t[1])))
		body = append(body, t[1]...)
	}
	out := append(append(head, table...), body...)
	binary.BigEndian.PutUint32(out, uint32(len(out)))
	return out
}

func xyz(x, y, z float64) string {
	return "XYZ \x00\x00\x00\x00" + string(s15(x)) + string(s15(y)) + string(s15(z))
}

func desc(s string) string {
	n := len(s) + 1
	return "desc\x00\x00\x00\x00" + string(binary.BigEndian.AppendUint32(nil, uint32(n))) + s + "\x00" + string(make([]byte, 78))
}

func gamma(g float64) string {
	return "curv\x00\x00\x00\x00\x00\x00\x00\x01" + string(binary.BigEndian.AppendUint16(nil, uint16(math.Round(g*256))))
}

// WideRGB is a profile with the primaries of Display P3, adapted to D50 (values
// from memory), and a gamma of 2.2.
func WideRGB() []byte {
	return icc("mntr", "RGB ", "XYZ ", [][2]string{
		{"desc", desc("Wide RGB for tests")}, {"cprt", "text\x00\x00\x00\x00none\x00"}, {"wtpt", xyz(0.9642, 1, 0.8249)},
		{"rXYZ", xyz(0.51512, 0.24120, -0.00105)}, {"gXYZ", xyz(0.29198, 0.69225, 0.04189)}, {"bXYZ", xyz(0.15710, 0.06657, 0.78407)},
		{"rTRC", gamma(2.2)}, {"gTRC", gamma(2.2)}, {"bTRC", gamma(2.2)},
	})
}

// DarkGrey is a profile for grey with a gamma of 1.8.
func DarkGrey() []byte {
	return icc("mntr", "GRAY", "XYZ ", [][2]string{
		{"desc", desc("Grey for tests")}, {"cprt", "text\x00\x00\x00\x00none\x00"}, {"wtpt", xyz(0.9642, 1, 0.8249)}, {"kTRC", gamma(1.8)},
	})
}

// PressColour is the colour that inks from 0 to 1 make by Press, as linear sRGB.
func PressColour(c, m, y, k float64) (r, g, b float64) {
	pass := func(ink, share float64) float64 { return (1 - ink*share) * (1 - 0.92*k) }
	return pass(c, 0.95) * 0.97, pass(m, 0.9) * (1 - 0.2*c), pass(y, 0.85) * (1 - 0.15*m)
}

// Press is a profile for print colours: inks that mix as filters do and are
// paler than pure ones, as a table of 15 steps for each.
func Press() []byte {
	const steps = 15
	b := []byte("mft1\x00\x00\x00\x00\x04\x03\x0f\x00")
	for i := range 9 {
		b = append(b, s15(map[bool]float64{true: 1, false: 0}[i%4 == 0])...)
	}
	for range 4 {
		for i := range 256 {
			b = append(b, byte(i))
		}
	}
	for i := range steps * steps * steps * steps {
		k, y, m, c := float64(i%steps)/(steps-1), float64(i/steps%steps)/(steps-1), float64(i/steps/steps%steps)/(steps-1), float64(i/steps/steps/steps)/(steps-1)
		l, a, bb := lab(PressColour(c, m, y, k))
		b = append(b, byte(math.Round(l*2.55)), byte(math.Round(a+128)), byte(math.Round(bb+128)))
	}
	for range 3 {
		for i := range 256 {
			b = append(b, byte(i))
		}
	}
	return icc("prtr", "CMYK", "Lab ", [][2]string{{"desc", desc("Press for tests")}, {"cprt", "text\x00\x00\x00\x00none\x00"}, {"wtpt", xyz(0.9642, 1, 0.8249)}, {"A2B0", string(b)}})
}

// lab is linear sRGB as CIE L*a*b* for D50 (Bradford-adapted matrix).
func lab(r, g, b float64) (l, a, bb float64) {
	x, y, z := 0.4360747*r+0.3850649*g+0.1430804*b, 0.2225045*r+0.7168786*g+0.0606169*b, 0.0139322*r+0.0971045*g+0.7141733*b
	f := func(t float64) float64 {
		if t > 216.0/24389 {
			return math.Cbrt(t)
		}
		return (24389.0/27*t + 16) / 116
	}
	fx, fy, fz := f(x/0.9642), f(y), f(z/0.8249)
	return 116*fy - 16, 500 * (fx - fy), 200 * (fy - fz)
}

// WithProfile puts a colour profile into a PNG or JPEG.
func WithProfile(file, profile []byte) []byte {
	if file[0] == 0x89 {
		var z bytes.Buffer
		w := zlib.NewWriter(&z)
		_, _ = w.Write(profile)
		w.Close()
		const head = 8 + 25 // signature and IHDR
		return append(append(append([]byte{}, file[:head]...), chunk("iCCP", append([]byte("p\x00\x00"), z.Bytes()...))...), file[head:]...)
	}
	out := append([]byte{}, file[:2]...)
	const most = 60000
	n := (len(profile) + most - 1) / most
	for i := range n {
		part := profile[i*most : min(len(profile), (i+1)*most)]
		out = append(out, 0xff, 0xe2)
		out = binary.BigEndian.AppendUint16(out, uint16(len(part)+16))
		out = append(append(out, "ICC_PROFILE\x00"...), byte(i+1), byte(n))
		out = append(out, part...)
	}
	return append(out, file[2:]...)
}

// PNGChunk puts a chunk after the header of a PNG.
func PNGChunk(file []byte, kind string, data []byte) []byte {
	const head = 8 + 25
	return append(append(append([]byte{}, file[:head]...), chunk(kind, data)...), file[head:]...)
}

// Converted brings colours to sRGB by a profile.
func Converted(t testing.TB, profile, pix []byte) []byte {
	t.Helper()
	tr, err := icclib.Parse(profile)
	if err != nil {
		t.Fatal(err)
	}
	out := make([]byte, len(pix))
	tr.Convert(out, pix)
	return out
}
