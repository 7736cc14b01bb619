package raster

import (
	"bytes"
	"math/rand/v2"
	"testing"
)

// scalar runs f without vector instructions.
func scalar(f func()) {
	was := vectors
	vectors = false
	defer func() { vectors = was }()
	f()
}

// Rows of every length and place in memory come out the same, bit by bit, with
// vector instructions and without.
func TestVectorAndScalarRowsHaveTheSameBits(t *testing.T) {
	if !vectors {
		t.Skip("this build or this machine has no vector instructions")
	}
	rng := rand.New(rand.NewPCG(4, 2))
	for n := range 70 {
		for range 20 {
			from := rng.IntN(5)
			dst, src := noise(80, 1, false, rng.Uint64()).Pix, noise(80, 1, false, rng.Uint64()).Pix
			cov := make([]uint8, n)
			for i := range cov {
				cov[i] = [...]uint8{0, 255, uint8(rng.Uint32())}[rng.IntN(3)]
			}
			for i := range n { // runs of clear and of opaque pixels too
				if rng.IntN(3) == 0 {
					store(src, (from+i)*4, 0)
				} else if rng.IntN(3) == 0 {
					src[(from+i)*4+3] = 255
				}
			}
			alpha := uint32(rng.IntN(256))
			px := load(src, from*4)
			for name, f := range map[string]func(d, s []uint8){
				"over":       func(d, s []uint8) { overRow(d, s) },
				"flat":       func(d, _ []uint8) { overFlatRow(d, px) },
				"fade":       func(d, _ []uint8) { fadeRow(d, alpha) },
				"cover":      func(d, _ []uint8) { coverRow(d, cov) },
				"soft light": func(d, s []uint8) { blendRow(d, s, SoftLight) },
				"multiply":   func(d, s []uint8) { blendRow(d, s, Multiply) },
				"screen":     func(d, s []uint8) { blendRow(d, s, Screen) },
			} {
				a, b := bytes.Clone(dst), bytes.Clone(dst)
				f(a[from*4:(from+n)*4], bytes.Clone(src[from*4:(from+n)*4]))
				scalar(func() { f(b[from*4:(from+n)*4], bytes.Clone(src[from*4:(from+n)*4])) })
				if !bytes.Equal(a, b) {
					t.Fatalf("%s of %d pixels from %d:\n%v\n%v", name, n, from, a, b)
				}
			}
		}
	}
}
