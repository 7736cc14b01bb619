package raster

import (
	"bytes"
	"math/rand/v2"
	"testing"

	"ivypocket/core/geom"
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
	var grader Grader
	grader.Set(&Grade{Slope: [3]float64{1.2, 0.9, 1.1}, Offset: [3]float64{-0.05, 0.1, 0}, Power: [3]float64{0.8, 1.3, 1}, Saturation: 1.4})
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
			rows := map[string]func(d, s []uint8){
				"over":           func(d, s []uint8) { overRow(d, s) },
				"flat":           func(d, _ []uint8) { overFlatRow(d, px) },
				"fade":           func(d, _ []uint8) { fadeRow(d, alpha) },
				"mix":            func(d, s []uint8) { mixRow(d, s, cov) },
				"cover by cover": func(d, _ []uint8) { mulCover(d[:len(cov)], cov) },
				"grade":          func(d, _ []uint8) { grader.row(d, nil) },
				"covered grade":  func(d, _ []uint8) { grader.row(d, cov) },
				"cover":          func(d, _ []uint8) { coverRow(d, cov) },
			}
			for mode := Multiply; mode <= Add; mode++ {
				rows[mode.String()] = func(d, s []uint8) { blendRow(d, s, mode) }
			}
			for name, f := range rows {
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

// So do rows of pictures and gradients, wherever they lie, and mattes.
func TestVectorAndScalarSourcesHaveTheSameBits(t *testing.T) {
	if !vectors {
		t.Skip("this build or this machine has no vector instructions")
	}
	rng := rand.New(rand.NewPCG(8, 2))
	stops := []Stop{{0.1, [4]uint8{200, 30, 90, 255}}, {0.4, [4]uint8{10, 250, 90, 80}}, {0.9, [4]uint8{240, 240, 20, 255}}}
	way := func() geom.Projective {
		m := geom.Scale(0.4+2*rng.Float64(), 0.4+2*rng.Float64())
		if rng.IntN(3) > 0 {
			m = m.Then(geom.Rotate(float64(rng.IntN(360))))
		}
		if rng.IntN(3) == 0 {
			m = geom.Scale(1, 1)
		}
		way := m.Then(geom.Translate(rng.Float64()*90-30, rng.Float64()*60-30)).Flat()
		if rng.IntN(4) == 0 {
			way.G = 0.002
		}
		return way
	}
	same := func(what string, f func() []uint8) {
		t.Helper()
		a := bytes.Clone(f())
		var b []uint8
		scalar(func() { b = bytes.Clone(f()) })
		if !bytes.Equal(a, b) {
			t.Fatalf("%s:\n%v\n%v", what, a, b)
		}
	}
	row := make([]uint8, 4*150)
	for range 400 {
		x0 := rng.IntN(40)
		x1, y := x0+1+rng.IntN(100), rng.IntN(60)
		var pic Picture
		if !pic.Set(noise(5+rng.IntN(80), 5+rng.IntN(50), false, rng.Uint64()), way(), 150, 60) {
			t.Fatal("not laid")
		}
		whole := func(what string, src Source) {
			t.Helper()
			same(what, func() []uint8 { out, _ := src.Row(row, x0, x0, x1, y); return out })
			out, _ := src.Row(row, x0, x0, x1, y)
			out = bytes.Clone(out)
			from := x0 + rng.IntN(x1-x0)
			to := from + 1 + rng.IntN(x1-from)
			if part, _ := src.Row(row, x0, from, to, y); !bytes.Equal(part, out[(from-x0)*4:(to-x0)*4]) {
				t.Fatalf("%s: pixels %d to %d by themselves:\n%v\n%v", what, from, to, part, out[(from-x0)*4:(to-x0)*4])
			}
		}
		whole("picture", &pic)
		for _, kind := range []GradientKind{Linear, Radial, Conic} {
			shade, ok := NewGradient(kind, stops, rng.IntN(2) == 0).Lay(geom.Point{X: 20, Y: 10}, geom.Point{X: 20 + 40*rng.Float64(), Y: 30}, way())
			if !ok {
				t.Fatal("not laid")
			}
			whole(shade.g.String(), &shade)
		}
		s := noise(1+rng.IntN(60), 3, false, rng.Uint64())
		luma, invert := rng.IntN(2) == 0, rng.IntN(2) == 0
		same("matte", func() []uint8 { var c Coverage; s.Matte(&c, 0, s.H, luma, invert); return c.Pix })
	}
}

// Soft masks come out the same, bit by bit, with vector instructions and without.
func TestVectorAndScalarMasksHaveTheSameBits(t *testing.T) {
	if !vectors {
		t.Skip("this build or this machine has no vector instructions")
	}
	rng := rand.New(rand.NewPCG(6, 1))
	for range 60 {
		form := geom.Form{Kind: geom.Drawn, Size: geom.Size{W: 20 + rng.Float64()*200, H: 20 + rng.Float64()*150}, Round: rng.Float64() * 9}
		form.Path.Closed = true
		for range 3 + rng.IntN(9) {
			v := func() float64 { return rng.Float64()*1.4 - 0.2 }
			form.Path.Nodes = append(form.Path.Nodes, geom.Node{X: v(), Y: v(), OutX: rng.Float64() * 0.2, InY: rng.Float64() * 0.2})
		}
		m := geom.Rotate(rng.Float64() * 90).Then(geom.Translate(rng.Float64()*80, rng.Float64()*30)).Flat()
		s := Soft{In: rng.Float64() * 20, Out: rng.Float64() * 20, Growth: rng.Float64()*20 - 10}
		var a, b Coverage
		var one, two Filler
		box := geom.Box{W: 230, H: 170}
		one.Mask(&a, &form, m, s, box, 230, 170)
		scalar(func() { two.Mask(&b, &form, m, s, box, 230, 170) })
		if !bytes.Equal(a.Pix, b.Pix) || a.W != b.W {
			t.Fatalf("%+v is another mask", form)
		}
	}
}
