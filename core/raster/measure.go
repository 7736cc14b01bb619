package raster

import "math"

// linear is the sRGB transfer function undone (IEC 61966-2-1), for 8-bit values.
var linear = func() (t [256]float64) {
	for i := range t {
		v := float64(i) / 255
		if v <= 0.04045 {
			t[i] = v / 12.92
		} else {
			t[i] = math.Pow((v+0.055)/1.055, 2.4)
		}
	}
	return
}()

// Luminance is the relative luminance of an sRGB colour, 0 to 1 (WCAG 2.2).
func Luminance(r, g, b uint8) float64 {
	return 0.2126*linear[r] + 0.7152*linear[g] + 0.0722*linear[b]
}

// Contrast is the contrast ratio of two luminances, 1 to 21 (WCAG 2.2).
func Contrast(a, b float64) float64 {
	return (math.Max(a, b) + 0.05) / (math.Min(a, b) + 0.05)
}

// Legible says which share of a mark, drawn alone on a clear surface, stands
// out from what lies behind it by at least a contrast ratio. Pixels that are
// less than half opaque do not count; seen is how many do.
func Legible(mark, behind *Surface, ratio float64) (share float64, seen int) {
	good := 0
	for i := 0; i < len(mark.Pix); i += 4 {
		a := uint32(mark.Pix[i+3])
		if a < 128 {
			continue
		}
		seen++
		straight := func(c uint8) uint8 { return uint8(min(255, (uint32(c)*255+a/2)/a)) }
		m := Luminance(straight(mark.Pix[i]), straight(mark.Pix[i+1]), straight(mark.Pix[i+2]))
		b := Luminance(behind.Pix[i], behind.Pix[i+1], behind.Pix[i+2])
		if Contrast(m, b) >= ratio {
			good++
		}
	}
	if seen == 0 {
		return 1, 0
	}
	return float64(good) / float64(seen), seen
}

// Below is how many pixels have an alpha below a limit.
func (s *Surface) Below(limit uint8) (n int) {
	for y := range s.H {
		row := s.Pix[y*s.W*4 : (y+1)*s.W*4]
		for x := 3; x < len(row); x += 4 {
			if row[x] < limit {
				n++
			}
		}
	}
	return n
}
