package raster

// Mark is what can be seen of a picture, as far as it matters for a logo.
type Mark struct {
	// Left, Top, Right and Bottom bound all that is not clear, in shares of
	// the picture from its top left corner; all 0 when all of it is clear.
	Left   float64 `json:"left"`
	Top    float64 `json:"top"`
	Right  float64 `json:"right"`
	Bottom float64 `json:"bottom"`
	// Solid is set when no pixel is transparent at all.
	Solid bool `json:"solid,omitempty"`
	// Ground is the one colour that lies all around a solid picture, as
	// #rrggbb; "" when there is none.
	Ground string `json:"ground,omitempty"`
}

// seenAlpha is the alpha from which a pixel counts as seen: less is a trace
// that compression or scaling left.
const seenAlpha = 8

// groundSpread is how far the colours of a flat ground may differ, out of
// 255: compression leaves that much.
const groundSpread = 6

// groundShare is the share of the edge that must be of one colour: a mark may
// touch it somewhere.
const groundShare = 0.96

// MeasureMark looks at what can be seen of a picture.
func (s *Surface) MeasureMark() Mark {
	x0, y0, x1, y1 := s.W, s.H, 0, 0
	solid := true
	for y := range s.H {
		row := s.row(y)
		for x := range s.W {
			a := row[x*4+3]
			if a != 255 {
				solid = false
			}
			if a >= seenAlpha {
				x0, x1, y0, y1 = min(x0, x), max(x1, x+1), min(y0, y), max(y1, y+1)
			}
		}
	}
	if x1 <= x0 {
		return Mark{}
	}
	m := Mark{Left: float64(x0) / float64(s.W), Top: float64(y0) / float64(s.H), Right: float64(x1) / float64(s.W), Bottom: float64(y1) / float64(s.H), Solid: solid}
	if solid {
		m.Ground = s.ground()
	}
	return m
}

// ground finds the colour that nearly all of the outermost pixels have.
func (s *Surface) ground() string {
	var edge [][3]int
	add := func(x, y int) {
		i := (y*s.W + x) * 4
		edge = append(edge, [3]int{int(s.Pix[i]), int(s.Pix[i+1]), int(s.Pix[i+2])})
	}
	for x := range s.W {
		add(x, 0)
		add(x, s.H-1)
	}
	for y := range s.H {
		add(0, y)
		add(s.W-1, y)
	}
	// The median of each channel is a colour of the ground if there is one.
	var mid [3]int
	for c := range 3 {
		var count [256]int
		for _, e := range edge {
			count[e[c]]++
		}
		sum := 0
		for v, n := range count {
			if sum += n; sum*2 >= len(edge) {
				mid[c] = v
				break
			}
		}
	}
	like := 0
	for _, e := range edge {
		near := true
		for c := range 3 {
			if d := e[c] - mid[c]; d > groundSpread || d < -groundSpread {
				near = false
			}
		}
		if near {
			like++
		}
	}
	if float64(like) < groundShare*float64(len(edge)) {
		return ""
	}
	const hex = "0123456789abcdef"
	out := []byte("#")
	for _, v := range mid {
		out = append(out, hex[v>>4], hex[v&15])
	}
	return string(out)
}
