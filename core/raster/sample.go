package raster

// Vector instructions can't fetch what lies here and there in memory. Samples are
// therefore gathered one by one, some pixels of a row at a time, and then weighed
// together.

// atOnce is how many pixels are gathered at a time: few enough to stay close to
// the core, enough that what was gathered first has reached memory when it is read.
const atOnce = 64

// inPlace is where each of eight pixels is put, so that halves of 16 bytes come out
// in order when two registers of four pixels become one of eight.
var inPlace = [8]int{0, 1, 4, 5, 2, 3, 6, 7}

// gathered are samples around pixels of a row: two and two side by side, and shares
// of the right and lower ones in 256ths, once for each channel.
type gathered struct {
	top, bottom, fx, fy [atOnce]uint64
}

// gatherRun samples as many pixels of a row as have all four samples inside the
// picture and are a multiple of eight, and says how many bytes that was.
func (p *Picture) gatherRun(out []uint8, iu, iv, du, dv int64) int {
	src := p.Src
	maxU, maxV := int64(src.W-1)<<stepShift, int64(src.H-1)<<stepShift
	stride := src.W * 4
	inside := func(u, v int64) bool { return u >= 0 && v >= 0 && u < maxU && v < maxV }
	if !vectors || len(out) < 32 || !inside(iu, iv) || !inside(iu+7*du, iv+7*dv) {
		return 0
	}
	var g gathered
	const spread = 0x0001000100010001
	if dv == 0 {
		return p.gatherUpright(&g, out, iu, iv, du)
	}
	done := 0
	for done+32 <= len(out) {
		n := 0
		for n < atOnce && done+(n+8)*4 <= len(out) && inside(iu, iv) && inside(iu+7*du, iv+7*dv) {
			for _, at := range inPlace {
				k := int(iv>>stepShift)*stride + int(iu>>stepShift)*4
				g.top[n+at], g.bottom[n+at] = loadPair(src.Pix, k), loadPair(src.Pix, k+stride)
				g.fx[n+at], g.fy[n+at] = uint64(iu>>(stepShift-8)&255)*spread, uint64(iv>>(stepShift-8)&255)*spread
				iu += du
				iv += dv
			}
			n += 8
		}
		if n == 0 {
			break
		}
		g.weighVector(out[done : done+n*4])
		done += n * 4
	}
	return done
}

// gatherUpright does so for a picture that is not turned: all samples lie in two rows.
func (p *Picture) gatherUpright(g *gathered, out []uint8, iu, iv, du int64) int {
	const spread = 0x0001000100010001
	stride := p.Src.W * 4
	from := int(iv>>stepShift) * stride
	top, bottom := p.Src.Pix[from:from+stride], p.Src.Pix[from+stride:from+2*stride]
	for i := range g.fy {
		g.fy[i] = uint64(iv>>(stepShift-8)&255) * spread
	}
	maxU := int64(p.Src.W-1) << stepShift
	done := 0
	for done+32 <= len(out) {
		n := 0
		for ; n < atOnce && done+(n+8)*4 <= len(out) && iu >= 0 && iu < maxU && iu+7*du >= 0 && iu+7*du < maxU; n += 8 {
			t, b, fx := (*[8]uint64)(g.top[n:]), (*[8]uint64)(g.bottom[n:]), (*[8]uint64)(g.fx[n:])
			for _, at := range inPlace {
				k := int(iu>>stepShift) * 4
				t[at], b[at] = loadPair(top, k), loadPair(bottom, k)
				fx[at] = uint64(iu>>(stepShift-8)&255) * spread
				iu += du
			}
		}
		if n == 0 {
			break
		}
		g.weighVector(out[done : done+n*4])
		done += n * 4
	}
	return done
}

// toned are colours of a gradient's table for pixels of a row.
type toned [atOnce]uint64

// places are where pixels of a row lie in a gradient's table.
type places [atOnce]int32

// tone writes the colours that stand at places of the table, rounded by thresholds
// in 256ths that come again after eight pixels.
func (g *Gradient) tone(out []uint8, at []int32, half *[8]uint16) {
	n := 0
	if vectors {
		n = len(at) &^ 7
		var t toned
		for i := 0; i < n; i += 8 {
			to, from := t[i:i+8], at[i:i+8]
			for j, k := range inPlace {
				to[k] = g.table[from[j]]
			}
		}
		t.roundVector(out[:n*4], half)
	}
	for i := n; i < len(at); i++ {
		store(out, i*4, round8(g.table[at[i]], half[i&7]))
	}
}
