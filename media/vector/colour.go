package vector

import (
	"fmt"
	"math"
	"regexp"
	"strconv"
	"strings"
)

// Colours that a drawing program does not know, as it does: CSS Color Module Level
// 4, whose sample code these numbers are of.

// modern finds colour functions that are newer than drawing programs.
var modern = regexp.MustCompile(`(?i)\b(oklch|oklab|lch|lab|hwb|color|light-dark|color-mix|device-cmyk)\(((?:[^()]|\([^()]*\))*)\)`)

// olderColours writes newer colours in a text of CSS as rgb(); what can't be
// written so is told.
func olderColours(s string, c *cleaner) string {
	if !strings.Contains(s, "(") {
		return s
	}
	return modern.ReplaceAllStringFunc(s, func(f string) string {
		m := modern.FindStringSubmatch(f)
		name := strings.ToLower(m[1])
		if name == "light-dark" {
			light, _, _ := cut(m[2])
			return olderColours(strings.TrimSpace(light), c)
		}
		if strings.Contains(m[2], "var(") {
			return f // a custom property, which has been put where it is used
		}
		rgb, alpha, ok := colourOf(name, m[2])
		if !ok {
			c.say("A colour written as %s can't be drawn, and is drawn black or not at all. Write it as rgb().", brief(f))
			return f
		}
		v := [3]int{}
		for i := range v {
			v[i] = int(math.Round(255 * math.Max(0, math.Min(1, rgb[i]))))
		}
		if alpha < 1 {
			return fmt.Sprintf("rgba(%d, %d, %d, %s)", v[0], v[1], v[2], number(alpha))
		}
		return fmt.Sprintf("#%02x%02x%02x", v[0], v[1], v[2])
	})
}

// cut divides at the first comma that is in no bracket.
func cut(s string) (before, after string, found bool) {
	deep := 0
	for i, r := range s {
		switch {
		case r == '(':
			deep++
		case r == ')':
			deep--
		case r == ',' && deep == 0:
			return s[:i], s[i+1:], true
		}
	}
	return s, "", false
}

type vec = [3]float64

func (m matrix) of(v vec) (out vec) {
	for i := range out {
		out[i] = m[i][0]*v[0] + m[i][1]*v[1] + m[i][2]*v[2]
	}
	return out
}

type matrix [3]vec

var (
	xyzToRGB = matrix{{12831. / 3959, -329. / 214, -1974. / 3959}, {-851781. / 878810, 1648619. / 878810, 36519. / 878810}, {705. / 12673, -2585. / 12673, 705. / 667}}
	d50ToD65 = matrix{{0.955473421488075, -0.02309845494876471, 0.06325924320057072}, {-0.0283697093338637, 1.0099953980813041, 0.021041441191917323},
		{0.012314014864481998, -0.020507649298898964, 1.330365926242124}}
	p3ToXYZ = matrix{{608311. / 1250200, 189793. / 714400, 198249. / 1000160}, {35783. / 156275, 247089. / 357200, 198249. / 2500400}, {0, 32229. / 714400, 5220557. / 5000800}}
)

func encoded(v vec) vec {
	for i, x := range v {
		if a := math.Abs(x); a > 0.0031308 {
			v[i] = math.Copysign(1.055*math.Pow(a, 1/2.4)-0.055, x)
		} else {
			v[i] = 12.92 * x
		}
	}
	return v
}

func linear(v vec) vec {
	for i, x := range v {
		if a := math.Abs(x); a > 0.04045 {
			v[i] = math.Copysign(math.Pow((a+0.055)/1.055, 2.4), x)
		} else {
			v[i] = x / 12.92
		}
	}
	return v
}

func oklab(v vec) vec {
	l, m, s := v[0]+0.3963377774*v[1]+0.2158037573*v[2], v[0]-0.1055613458*v[1]-0.0638541728*v[2], v[0]-0.0894841775*v[1]-1.2914855480*v[2]
	l, m, s = l*l*l, m*m*m, s*s*s
	return encoded(vec{4.0767416621*l - 3.3077115913*m + 0.2309699292*s, -1.2684380046*l + 2.6097574011*m - 0.3413193965*s, -0.0041960863*l - 0.7034186147*m + 1.7076147010*s})
}

func lab(v vec) vec {
	const kappa, epsilon = 24389. / 27, 216. / 24389
	fy := (v[0] + 16) / 116
	fx, fz := v[1]/500+fy, fy-v[2]/200
	cube := func(f float64) float64 {
		if f*f*f > epsilon {
			return f * f * f
		}
		return (116*f - 16) / kappa
	}
	y := v[0] / kappa
	if v[0] > kappa*epsilon {
		y = fy * fy * fy
	}
	return encoded(xyzToRGB.of(d50ToD65.of(vec{cube(fx) * 0.3457 / 0.3585, y, cube(fz) * (1 - 0.3457 - 0.3585) / 0.3585})))
}

// polar turns lightness, chroma and hue into lightness and two axes.
func polar(v vec) vec {
	s, c := math.Sincos(v[2] * math.Pi / 180)
	return vec{v[0], v[1] * c, v[1] * s}
}

// colourOf reads the arguments of a colour function: encoded sRGB, not held within
// 0 to 1, and alpha.
func colourOf(name, args string) (rgb vec, alpha float64, ok bool) {
	body, a, _ := strings.Cut(args, "/")
	words := strings.Fields(strings.ReplaceAll(body, ",", " "))
	space := ""
	if name == "color" && len(words) == 4 {
		space, words = strings.ToLower(words[0]), words[1:]
	}
	if len(words) != 3 {
		return rgb, 0, false
	}
	// What 100 % is of each, by function.
	whole := map[string]vec{"oklab": {1, 0.4, 0.4}, "oklch": {1, 0.4, 360}, "lab": {100, 125, 125}, "lch": {100, 150, 360}, "hwb": {360, 1, 1}, "color": {1, 1, 1}}[name]
	alpha, ok = 1, true
	if a = strings.TrimSpace(a); a != "" {
		alpha, ok = amount(a, 1)
	}
	var v vec
	for i, w := range words {
		var good bool
		v[i], good = amount(w, whole[i])
		ok = ok && good
		if name == "hwb" && i > 0 && !strings.HasSuffix(w, "%") {
			v[i] /= 100
		}
	}
	if !ok {
		return rgb, 0, false
	}
	alpha = math.Max(0, math.Min(1, alpha))
	switch name {
	case "oklab":
		return oklab(v), alpha, true
	case "oklch":
		return oklab(polar(v)), alpha, true
	case "lab":
		return lab(v), alpha, true
	case "lch":
		return lab(polar(v)), alpha, true
	case "hwb":
		w, b := v[1], v[2]
		if w+b >= 1 {
			return vec{w / (w + b), w / (w + b), w / (w + b)}, alpha, true
		}
		for i, n := range [3]float64{0, 8, 4} {
			// A hue at full strength: the formula of hsl() at lightness a half.
			k := math.Mod(n+v[0]/30, 12)
			if k < 0 {
				k += 12
			}
			full := 0.5 - 0.5*math.Max(-1, math.Min(math.Min(k-3, 9-k), 1))
			rgb[i] = full*(1-w-b) + w
		}
		return rgb, alpha, true
	case "color":
		switch space {
		case "srgb":
			return v, alpha, true
		case "srgb-linear":
			return encoded(v), alpha, true
		case "display-p3":
			return encoded(xyzToRGB.of(p3ToXYZ.of(linear(v)))), alpha, true
		case "xyz", "xyz-d65":
			return encoded(xyzToRGB.of(v)), alpha, true
		case "xyz-d50":
			return encoded(xyzToRGB.of(d50ToD65.of(v))), alpha, true
		}
	}
	return rgb, 0, false
}

// amount reads a number, a percentage of a whole or an angle in degrees.
func amount(w string, whole float64) (float64, bool) {
	w = strings.ToLower(w)
	if w == "none" {
		return 0, true
	}
	k := 1.0
	for unit, by := range map[string]float64{"%": whole / 100, "deg": 1, "turn": 360, "grad": 0.9} {
		if strings.HasSuffix(w, unit) {
			w, k = strings.TrimSuffix(w, unit), by
		}
	}
	if strings.HasSuffix(w, "rad") {
		w, k = strings.TrimSuffix(w, "rad"), 180/math.Pi
	}
	n, err := strconv.ParseFloat(w, 64)
	return n * k, err == nil && !math.IsNaN(n) && !math.IsInf(n, 0)
}
