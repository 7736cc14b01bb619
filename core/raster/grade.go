package raster

import "math"

// Grade is the ten numbers of the ASC Color Decision List 1.2.
type Grade struct {
	Slope, Offset, Power [3]float64
	Saturation           float64
}

// NoGrade changes nothing.
var NoGrade = Grade{Slope: [3]float64{1, 1, 1}, Power: [3]float64{1, 1, 1}, Saturation: 1}

// Grader is a grade made ready: for each channel and each of its values, in
// 65536ths, what it adds to red, green, blue and alpha.
type Grader struct {
	of   Grade
	set  bool
	sums [3][256][4]int32
}

// weights of ITU-R BT.709 luma.
var lumaWeights = [3]float64{0.2126, 0.7152, 0.0722}

// Set makes a grade ready: for each channel out = (in · slope + offset) ^ power
// with what is below 0 or above 1 cut off, then luma + saturation · (out −
// luma), as section "ASC CDL Transfer Functions" says.
func (g *Grader) Set(v *Grade) {
	if g.set && g.of == *v {
		return
	}
	g.of, g.set = *v, true
	for c := range g.sums {
		for i := range 256 {
			x := clamp01(float64(i)/255*v.Slope[c] + v.Offset[c])
			x = clamp01(math.Pow(x, v.Power[c])) * 255 * 65536
			own, luma := int32(math.Round(x*v.Saturation)), int32(math.Round(x*lumaWeights[c]*(1-v.Saturation)))
			to := &g.sums[c][i]
			*to = [4]int32{luma, luma, luma, 0}
			to[c] += own
			if c == 0 {
				to[3] = 255 << 16
			}
		}
	}
}

func byteOf(v int32) uint32 { return uint32(max(0, min(255<<16, v))+1<<15) >> 16 }

// apply grades one straight colour.
func (g *Grader) apply(r, gr, b uint8) uint32 {
	x, y, z := &g.sums[0][r], &g.sums[1][gr], &g.sums[2][b]
	return byteOf(x[0]+y[0]+z[0]) | byteOf(x[1]+y[1]+z[1])<<8 | byteOf(x[2]+y[2]+z[2])<<16 | 0xff000000
}

// row grades pixels, each by a share of 255.
func (g *Grader) row(px, cov []uint8) {
	for i := 0; i+3 < len(px); i += 4 {
		if cov == nil && vectors && px[i+3] == 255 {
			if i += g.rowVector(px[i:]); i+3 >= len(px) {
				break
			}
		}
		c, a := uint32(255), uint32(px[i+3])
		if cov != nil {
			c = uint32(cov[i/4])
		}
		if c == 0 || a == 0 {
			continue
		}
		r, gr, b := px[i], px[i+1], px[i+2]
		if a != 255 {
			r, gr, b = uint8(min(255, (uint32(r)*255+a/2)/a)), uint8(min(255, (uint32(gr)*255+a/2)/a)), uint8(min(255, (uint32(b)*255+a/2)/a))
		}
		graded := g.apply(r, gr, b)
		if a != 255 {
			graded = scale255(graded, a)
		}
		if c == 255 {
			store(px, i, graded)
			continue
		}
		for k := range 3 {
			t := graded>>(8*k)&255*c + uint32(px[i+k])*(255-c) + 128
			px[i+k] = uint8((t + t>>8) >> 8)
		}
	}
}
