package scene

import (
	"math"
	"slices"

	"ivypocket/core/geom"
	"ivypocket/core/scheme"
	"ivypocket/core/words"
)

// flow is a group whose layers stand in a row or a stack.
type flow struct {
	group int
	// members are the appearances that take part, in the order in which they stand, copies
	// of one layer together.
	members [][]int
	axis    int // of a line: 0 is x, of a row
	hugs    bool
	align   float64 // across a line, as shares of what is left over
	from    float64 // along it
}

// stands is where something lies in what it has more than enough room in.
var stands = map[string]float64{"start": 0, "centre": 0.5, "end": 1}

var (
	sGap, sWrap, sPad = scheme.FlowGap.Slot(), scheme.FlowWrap.Slot(), scheme.FlowPad.Slot()
)

// flowing finds what takes part in the flow of a group.
func (c *compiler) flowing(g int) *flow {
	s := c.s
	l := &s.layers[g]
	f := &flow{group: g, hugs: l.Hugs(), align: stands[l.Text(scheme.FlowAlign)], from: stands[l.Text(scheme.FlowFrom)]}
	if l.Text(scheme.FlowWay) == "stack" {
		f.axis = 1
	}
	for i := g + 1; i <= g+l.span; i += s.layers[i].span + 1 {
		y := &s.layers[i]
		if !y.Flowing() {
			continue
		}
		if n := len(f.members); n > 0 && s.layers[f.members[n-1][0]].ID == y.ID {
			f.members[n-1] = append(f.members[n-1], i)
			continue
		}
		f.members = append(f.members, []int{i})
	}
	slices.Reverse(f.members) // the topmost comes first
	if f.hugs {
		l.changes, l.sized = true, true
	}
	for _, m := range f.members {
		for _, i := range m {
			s.layers[i].flows = true
		}
	}
	return f
}

// flowed is what stands in a flow at an instant, and in which lines; it is kept from one to
// the next, so that none is made anew.
type flowed struct {
	all   []standing
	lines []line
}

type standing struct {
	of   []int // its appearances
	w, h float64
}

type line struct {
	from, to   int // of those that stand in it
	long, wide float64
}

// flow computes where the layers of a group stand at an instant; their own motion departs
// from there.
func (s *Scene) flow(slots []float64, f *flow, in *flowed, set []*words.Setting) {
	g := slots[s.layers[f.group].slot:]
	gap, wrap, pad := g[sGap], g[sWrap], g[sPad]
	if !f.hugs {
		pad = 0
	}
	if wrap <= 0 {
		wrap = math.Inf(1)
	}
	all, lines := in.all[:0], in.lines[:0]
	for _, m := range f.members {
		y := &s.layers[m[0]]
		n := slots[y.slot:]
		if n[sHidden] != 0 || y.words >= 0 && set[y.words].Empty() {
			continue
		}
		ext := s.extent(m[0], slots, set)
		k := standing{of: m, w: ext.W * math.Abs(s.rest[y.slot+sScale]), h: ext.H * math.Abs(s.rest[y.slot+sScale+1])}
		all = append(all, k)
		long, wide := k.w, k.h
		if f.axis == 1 {
			long, wide = k.h, k.w
		}
		last := len(lines) - 1
		// A length that adds up to the limit but for rounding still has room.
		if last < 0 || lines[last].long+gap+long > wrap+1e-6 {
			lines = append(lines, line{len(all) - 1, len(all), long, wide})
			continue
		}
		lines[last].to++
		lines[last].long += gap + long
		lines[last].wide = math.Max(lines[last].wide, wide)
	}
	in.all, in.lines = all, lines
	var long, wide float64
	for i, l := range lines {
		long = math.Max(long, l.long)
		if wide += l.wide; i > 0 {
			wide += gap
		}
	}
	box := [2]float64{g[sSize], g[sSize+1]}
	if f.hugs {
		box = [2]float64{}
		if len(all) > 0 {
			box[f.axis], box[1-f.axis] = long+2*pad, wide+2*pad
		}
		g[sSize], g[sSize+1] = box[0], box[1]
	}
	across := pad + f.align*(box[1-f.axis]-2*pad-wide)
	for _, l := range lines {
		along := pad + f.from*(box[f.axis]-2*pad-l.long)
		for _, k := range all[l.from:l.to] {
			size := [2]float64{k.w, k.h}
			var at [2]float64
			at[f.axis], at[1-f.axis] = along, across+f.align*(l.wide-size[1-f.axis])
			along += size[f.axis] + gap
			for _, i := range k.of {
				s.put(slots, i, at, geom.Size{W: box[0], H: box[1]}, s.extent(i, slots, set))
			}
		}
		across += l.wide + gap
	}
}

// put stands a layer, as it is scaled at rest, with the upper left corner of a part of its
// box at a point of its group's box. By how much it departs from its rest stays.
func (s *Scene) put(slots []float64, i int, at [2]float64, box geom.Size, part geom.Box) {
	l := &s.layers[i]
	n, rest := slots[l.slot:], s.rest[l.slot:]
	size, own := [2]float64{n[sSize], n[sSize+1]}, [2]float64{box.W, box.H}
	from, to := [2]float64{part.X, part.Y}, [2]float64{part.X + part.W, part.Y + part.H}
	for k := range 2 {
		o, z := rest[sOrigin+k]*size[k], rest[sScale+k]
		edge := math.Min(o+z*(from[k]-o), o+z*(to[k]-o))
		place := at[k] - edge - l.anchor[k]*(own[k]-size[k])
		n[sPlace+k] += place - rest[sPlace+k]
	}
}

// settleFlows puts everything where flows have it when nothing moves, so that keys and
// followers depart from there.
func (c *compiler) settleFlows() {
	s := c.s
	var in flowed
	set := make([]*words.Setting, len(s.wordings))
	for i := range s.steps {
		x := &s.steps[i]
		switch {
		case x.sets != nil:
			s.setAll(s.rest, x.sets, set)
		case x.flow != nil:
			slots := slices.Clone(s.rest)
			s.flow(slots, x.flow, &in, set)
			copy(s.rest, slots)
		case x.Target.Head == "fills":
			l := &s.layers[x.layer]
			own := s.owner(l, s.rest)
			s.rest[l.slot+sSize], s.rest[l.slot+sSize+1] = own.W, own.H
		}
	}
}
