package raster

import "math"

// Grade is the ten numbers of the ASC Color Decision List 1.2.
type Grade struct {
	Slope, Offset, Power [3]float64
	Saturation           float64
}

// NoGrade changes nothing.
var NoGrade = Grade{Slope: [3]float64{1, 1, 1}, Power: [3]float64{1, 1, 1}, Saturation: 1}

// Grader is a grade made ready.
type Grader struct {
	table [3][256]float32 // slope, offset and power of each channel
	sat   float32
}

// Set makes a grade ready: for each channel out = (in · slope + offset) ^ power
// with what is below 0 or above 1 cut off, as section "ASC CDL Transfer
// Functions" says.
func (g *Grader) Set(v *Grade) {
	for c := range g.table {
		for i := range g.table[c] {
			x := clamp01(float64(i)/255*v.Slope[c] + v.Offset[c])
			g.table[c][i] = float32(clamp01(math.Pow(x, v.Power[c])) * 255)
		}
	}
	g.sat = float32(v.Saturation)
}

// apply grades one straight colour; luma weighs by ITU-R BT.709.
func (g *Grader) apply(r, gr, b uint8) (x, y, z float32) {
	x, y, z = g.table[0][r], g.table[1][gr], g.table[2][b]
	if g.sat != 1 {
		l := 0.2126*x + 0.7152*y + 0.0722*z
		x, y, z = l+(x-l)*g.sat, l+(y-l)*g.sat, l+(z-l)*g.sat
	}
	return
}

func byteOf(v float32) uint8 { return uint8(max(0, min(255, v+0.5))) }

// row grades pixels, each by a share of 255.
func (g *Grader) row(px, cov []uint8) {
	var last, graded uint32
	have := false
	for i := 0; i+3 < len(px); i += 4 {
		c := uint32(255)
		if cov != nil {
			c = uint32(cov[i/4])
		}
		a := uint32(px[i+3])
		if c == 0 || a == 0 {
			continue
		}
		v := load(px, i)
		if !have || v != last { // neighbours are often alike
			r, gr, b := px[i], px[i+1], px[i+2]
			if a != 255 {
				r, gr, b = uint8(min(255, (uint32(r)*255+a/2)/a)), uint8(min(255, (uint32(gr)*255+a/2)/a)), uint8(min(255, (uint32(b)*255+a/2)/a))
			}
			x, y, z := g.apply(r, gr, b)
			graded = uint32(byteOf(x)) | uint32(byteOf(y))<<8 | uint32(byteOf(z))<<16 | 0xff000000
			graded = scale255(graded, a)
			last, have = v, true
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
