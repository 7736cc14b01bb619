package geom

import (
	"cmp"
	"math"
	"slices"
)

const (
	edgeSteps     = 1 << 14 // of the grid to a unit
	edgeTolerance = 6       // how many of them straight pieces may lie beside their curve
	edgeRounds    = 16      // of cutting, each of which can make new crossings
	maxEdgePieces = 200_000
	maxEdgeWork   = 8_000_000 // comparisons
	maxSpot       = 1 << 27   // how far spots lie from the middle, so that products of ways fit
)

// Edge returns the edge of what closed paths enclose together by the non-zero rule:
// paths of the same curves that neither cross nor overlap, all with what they enclose on
// the same side. unit is a length in the paths' own measure, such as the size of letters:
// crossings are found to a sixteen-thousandth of it. Where nothing overlaps the paths come
// back as they are; so they do when there is too much of it, or when one is open.
//
// All is decided on a grid of whole numbers, where it is exact whether a point lies on a
// line or on which side of it (snap rounding, after Hobby 1999). What is kept is told as
// a part of the curve that it came from, so that it is as smooth as that was.
func Edge(paths []Path, unit float64) []Path {
	e := edger{paths: paths, step: unit / edgeSteps}
	if !(e.step > 0) || !e.read() || !e.cross() {
		return paths
	}
	changed := false
	var out []Path
	for _, group := range e.groups() {
		if len(group) == 1 && !e.cut[group[0]] {
			p := paths[group[0]]
			keep, port := true, true
			if l := e.pieces[group[0]]; len(l) > 0 {
				keep, port = e.bounds(l[0], 1)
			}
			switch {
			case !keep:
				changed = true
				continue
			case !port:
				p = p.reversed()
			}
			out = append(out, p)
			continue
		}
		loops, ok := e.settle(group)
		if !ok {
			return paths
		}
		changed = true
		out = append(out, loops...)
	}
	if !changed {
		return paths
	}
	return out
}

// Edge makes lines, all of which are taken for closed, those of the edge of what they
// enclose together.
func (c *Contours) Edge() {
	paths := make([]Path, c.Len())
	for i := range paths {
		paths[i].Closed = true
		for _, p := range c.Line(i) {
			paths[i].Nodes = append(paths[i].Nodes, Node{X: p.X, Y: p.Y})
		}
	}
	b := c.Bounds()
	edge := Edge(paths, math.Max(b.W, b.H))
	if len(edge) == len(paths) && (len(edge) == 0 || &edge[0] == &paths[0]) {
		return
	}
	c.Reset()
	for _, p := range edge {
		c.AddPath(p, 1)
	}
}

// reversed is a path that goes the other way.
func (p Path) reversed() Path {
	out := Path{slices.Clone(p.Nodes), p.Closed}
	slices.Reverse(out.Nodes)
	for i := range out.Nodes {
		n := &out.Nodes[i]
		n.InX, n.InY, n.OutX, n.OutY = n.OutX, n.OutY, n.InX, n.InY
	}
	return out
}

// spot is a point of the grid.
type spot struct{ x, y int64 }

// less puts spots in an order.
func (a spot) less(b spot) bool { return a.x < b.x || a.x == b.x && a.y < b.y }

// turn is above 0 where c lies on one side of the line from a to b, below 0 on the other.
func turn(a, b, c spot) int64 { return (b.x-a.x)*(c.y-a.y) - (b.y-a.y)*(c.x-a.x) }

// box holds spots: its least and greatest x and y.
type box struct{ x0, y0, x1, y1 int64 }

func (b box) meets(o box) bool { return b.x0 <= o.x1 && o.x0 <= b.x1 && b.y0 <= o.y1 && o.y0 <= b.y1 }

// with is the box that holds another, too.
func (b box) with(o box) box {
	return box{min(b.x0, o.x0), min(b.y0, o.y0), max(b.x1, o.x1), max(b.y1, o.y1)}
}

// segment is one curve of a path, from a node to the next.
type segment struct {
	path, at, of int // which path, where in it, of how many
	c            [4]Point
	straight     bool
	box          box
	busy         bool // something comes so near that it may cross it
}

// piece is a straight piece of a segment, from one parameter of it to another.
type piece struct {
	a, b   spot
	of     int // the segment it is of
	t0, t1 float64
}

func (p *piece) box() box {
	return box{min(p.a.x, p.b.x), min(p.a.y, p.b.y), max(p.a.x, p.b.x), max(p.a.y, p.b.y)}
}

// edger finds an edge. It is used once.
type edger struct {
	paths    []Path
	step     float64
	segments []segment
	// pieces of each path in their order, and the box that holds them.
	pieces [][]piece
	boxes  []box
	// with are the paths that cross or touch one another, as trees whose roots name them;
	// cut are those that cross or touch any, be it themselves.
	with []int
	cut  []bool
	work int // how much of it was done
}

func (e *edger) snap(p Point) spot {
	return spot{int64(math.Round(p.X / e.step)), int64(math.Round(p.Y / e.step))}
}

// read takes the paths in pieces; it says no where they can't be.
func (e *edger) read() bool {
	n := 0
	for k, p := range e.paths {
		if !p.Closed || len(p.Nodes) < 2 {
			return false
		}
		for i := range p.Nodes {
			s := segment{path: k, at: i, of: len(p.Nodes), c: p.curve(i), straight: p.straight(i)}
			for j, q := range s.c {
				if !(math.Abs(q.X) < e.step*maxSpot && math.Abs(q.Y) < e.step*maxSpot) {
					return false
				}
				at := e.snap(q)
				if s.box = s.box.with(box{at.x, at.y, at.x, at.y}); j == 0 {
					s.box = box{at.x, at.y, at.x, at.y}
				}
			}
			s.busy = !s.straight && loops(s.c)
			e.segments = append(e.segments, s)
		}
	}
	if !e.near() {
		return false
	}
	e.pieces, e.boxes = make([][]piece, len(e.paths)), make([]box, len(e.paths))
	e.with, e.cut = make([]int, len(e.paths)), make([]bool, len(e.paths))
	for k := range e.paths {
		e.with[k] = k
	}
	var c Contours
	for i := range e.segments {
		s := &e.segments[i]
		if s.at == 0 {
			e.boxes[s.path] = s.box
		}
		e.boxes[s.path] = e.boxes[s.path].with(s.box)
		c.Reset()
		if s.straight {
			c.Points = append(c.Points, s.c[3])
		} else {
			c.curve(s.c[0], s.c[1], s.c[2], s.c[3], edgeTolerance*e.step)
		}
		a, t := e.snap(s.c[0]), 0.0
		for j, q := range c.Points {
			b := e.snap(q)
			u := float64(j+1) / float64(len(c.Points))
			if a != b {
				e.pieces[s.path] = append(e.pieces[s.path], piece{a, b, i, t, u})
				a, t = b, u
			}
		}
		if n += len(c.Points); n > maxEdgePieces {
			return false
		}
	}
	return true
}

// loops reports whether a curve may cross itself: only one that turns by more than half a
// circle, all the same way, does.
func loops(c [4]Point) bool {
	at := func(i int) (x, y float64) { return c[i+1].X - c[i].X, c[i+1].Y - c[i].Y }
	by := func(i int) float64 {
		ax, ay := at(i)
		bx, by := at(i + 1)
		return math.Atan2(ax*by-ay*bx, ax*bx+ay*by)
	}
	return math.Abs(by(0)+by(1)) > math.Pi
}

// near finds the segments that may cross another. Two that follow one another always touch
// where they meet, and are busy only where more of them lies together.
func (e *edger) near() bool {
	return e.pairs(len(e.segments), func(i int) box { return e.segments[i].box }, func(i, j int) {
		a, b := &e.segments[i], &e.segments[j]
		if a.busy && b.busy {
			return
		}
		if a.path == b.path && ((a.at+1)%a.of == b.at || (b.at+1)%b.of == a.at) {
			if o, q := a.box, b.box; !laps(o.x0, o.x1, q.x0, q.x1) || !laps(o.y0, o.y1, q.y0, q.y1) {
				return
			}
		}
		a.busy, b.busy = true, true
	})
}

// laps reports whether two ranges have more in common than where one ends and the other
// begins; one without length lies within another, or upon one like it.
func laps(a0, a1, b0, b1 int64) bool {
	lo, hi := max(a0, b0), min(a1, b1)
	if a0 == a1 && b0 == b1 {
		return a0 == b0
	}
	return lo < hi || lo == hi && (a0 == a1 && b0 < lo && lo < b1 || b0 == b1 && a0 < lo && lo < a1)
}

// pairs tells of all pairs of boxes that meet, going from left to right. It says no where
// that is too much work.
func (e *edger) pairs(n int, of func(i int) box, met func(i, j int)) bool {
	type entry struct {
		box
		i int
	}
	all := make([]entry, n)
	for i := range all {
		all[i] = entry{of(i), i}
	}
	slices.SortFunc(all, func(a, b entry) int { return cmp.Or(cmp.Compare(a.x0, b.x0), cmp.Compare(a.i, b.i)) })
	var active []entry
	for _, a := range all {
		if e.work += len(active); e.work > maxEdgeWork {
			return false
		}
		kept := active[:0]
		for _, b := range active {
			if b.x1 < a.x0 {
				continue
			}
			kept = append(kept, b)
			if a.meets(b.box) {
				met(min(a.i, b.i), max(a.i, b.i))
			}
		}
		active = append(kept, a)
	}
	return true
}

// cross cuts pieces where they cross or touch, until none do but at their ends. It says no
// where that comes to no end.
func (e *edger) cross() bool {
	type ref struct{ path, at int }
	for range edgeRounds {
		var busy []ref
		for k, l := range e.pieces {
			for i := range l {
				if e.segments[l[i].of].busy {
					busy = append(busy, ref{k, i})
				}
			}
		}
		if len(busy) > maxEdgePieces {
			return false
		}
		cuts := map[ref][]spot{}
		ok := e.pairs(len(busy), func(i int) box { return e.pieces[busy[i].path][busy[i].at].box() }, func(i, j int) {
			a, b := busy[i], busy[j]
			p, q := &e.pieces[a.path][a.at], &e.pieces[b.path][b.at]
			n := len(e.pieces[a.path])
			follow := a.path == b.path && ((a.at+1)%n == b.at || (b.at+1)%n == a.at)
			onP, onQ, touch := meet(p, q)
			if onP != nil {
				cuts[a] = append(cuts[a], onP...)
			}
			if onQ != nil {
				cuts[b] = append(cuts[b], onQ...)
			}
			if touch > 1 || touch == 1 && !follow || onP != nil || onQ != nil {
				e.cut[a.path], e.cut[b.path] = true, true
				e.with[e.root(a.path)] = e.root(b.path)
			}
		})
		if !ok || len(cuts) == 0 {
			return ok
		}
		for k, l := range e.pieces {
			var out []piece
			for i, p := range l {
				at, ok := cuts[ref{k, i}]
				switch {
				case ok && out == nil:
					out = append(make([]piece, 0, len(l)+len(at)), l[:i]...)
					fallthrough
				case ok:
					out = append(out, p.cutAt(at)...)
				case out != nil:
					out = append(out, p)
				}
			}
			if out != nil {
				e.pieces[k] = out
			}
		}
	}
	return false
}

// meet finds where two pieces are to be cut because of one another, and how many ends they
// share. Where they cross between points of the grid the nearest is taken.
func meet(p, q *piece) (onP, onQ []spot, ends int) {
	for _, s := range [2]spot{p.a, p.b} {
		if s == q.a || s == q.b {
			ends++
		}
	}
	a, b := turn(p.a, p.b, q.a), turn(p.a, p.b, q.b)
	c, d := turn(q.a, q.b, p.a), turn(q.a, q.b, p.b)
	// within says that a spot on a piece's line lies on the piece, between its ends.
	within := func(s spot, p *piece) bool {
		o := p.box()
		return s != p.a && s != p.b && s.x >= o.x0 && s.x <= o.x1 && s.y >= o.y0 && s.y <= o.y1
	}
	if a != 0 && b != 0 && (a < 0) != (b < 0) && c != 0 && d != 0 && (c < 0) != (d < 0) {
		k := float64(c) / (float64(c) - float64(d))
		s := spot{p.a.x + int64(math.Round(k*float64(p.b.x-p.a.x))), p.a.y + int64(math.Round(k*float64(p.b.y-p.a.y)))}
		if s != p.a && s != p.b {
			onP = append(onP, s)
		}
		if s != q.a && s != q.b {
			onQ = append(onQ, s)
		}
		return onP, onQ, ends
	}
	if a == 0 && within(q.a, p) {
		onP = append(onP, q.a)
	}
	if b == 0 && within(q.b, p) {
		onP = append(onP, q.b)
	}
	if c == 0 && within(p.a, q) {
		onQ = append(onQ, p.a)
	}
	if d == 0 && within(p.b, q) {
		onQ = append(onQ, p.b)
	}
	return onP, onQ, ends
}

// cutAt is a piece in parts, cut at spots near it.
func (p piece) cutAt(at []spot) (out []piece) {
	dx, dy := float64(p.b.x-p.a.x), float64(p.b.y-p.a.y)
	along := func(s spot) float64 {
		return max(0, min(1, (float64(s.x-p.a.x)*dx+float64(s.y-p.a.y)*dy)/(dx*dx+dy*dy)))
	}
	slices.SortFunc(at, func(a, b spot) int { return cmp.Compare(along(a), along(b)) })
	last := p
	for _, s := range at {
		if s == last.a {
			continue
		}
		t := p.t0 + (p.t1-p.t0)*along(s)
		out = append(out, piece{last.a, s, p.of, last.t0, t})
		last.a, last.t0 = s, t
	}
	if last.a != p.b {
		out = append(out, last)
	}
	return out
}

func (e *edger) root(k int) int {
	for e.with[k] != k {
		e.with[k] = e.with[e.with[k]]
		k = e.with[k]
	}
	return k
}

// groups are the paths that are to be looked at together, in the order of their first ones.
func (e *edger) groups() (out [][]int) {
	at := map[int]int{}
	for k := range e.paths {
		r := e.root(k)
		i, ok := at[r]
		if !ok {
			i = len(out)
			at[r] = i
			out = append(out, nil)
		}
		out[i] = append(out[i], k)
	}
	return out
}

// bounds reports whether what is enclosed ends at a piece, which so many more go along than
// back, and whether it is to its port: to the right of one that goes down the picture.
func (e *edger) bounds(p piece, more int) (keep, port bool) {
	// Lines are counted that a ray from its middle meets: to the right, or downwards from one
	// that lies flat. What lies beside the middle there has that winding number; beyond the
	// piece itself it differs by as many as go along it. The middle is told in half steps.
	flat := p.a.y == p.b.y
	turned := func(s spot) spot {
		if flat {
			return spot{s.y, -s.x}
		}
		return s
	}
	a, b := turned(p.a), turned(p.b)
	m := spot{a.x + b.x, a.y + b.y}
	in := spot{p.a.x + p.b.x, p.a.y + p.b.y}
	here, way := 0, 1
	if b.y < a.y {
		way = -1
	}
	for k, l := range e.pieces {
		if o := e.boxes[k]; in.x < 2*o.x0 || in.x > 2*o.x1 || in.y < 2*o.y0 || in.y > 2*o.y1 {
			continue // a closed line goes round nothing that lies beside its box
		}
		e.work += len(l)
		for i := range l {
			q := &l[i]
			if q.a == p.a && q.b == p.b || q.a == p.b && q.b == p.a {
				continue
			}
			c, d := turned(q.a), turned(q.b)
			c, d = spot{2 * c.x, 2 * c.y}, spot{2 * d.x, 2 * d.y}
			if (c.y <= m.y) == (d.y <= m.y) {
				continue
			}
			switch down := d.y > m.y; {
			case down && turn(c, d, m) > 0:
				here++
			case !down && turn(c, d, m) < 0:
				here--
			}
		}
	}
	beyond := here + way*more
	// To the right of a piece that goes down is its port.
	return (here != 0) != (beyond != 0), (here != 0) == (way > 0)
}

// way is a piece that is kept, gone along so that what is enclosed is to its port.
type way struct {
	piece
	used bool
}

// settle finds the edge of paths that cross or touch.
func (e *edger) settle(group []int) (out []Path, ok bool) {
	// Pieces that lie upon each other count as one.
	type ends [2]spot
	of := func(p *piece) (ends, int) {
		if p.b.less(p.a) {
			return ends{p.b, p.a}, -1
		}
		return ends{p.a, p.b}, 1
	}
	n := 0
	for _, k := range group {
		n += len(e.pieces[k])
	}
	more := make(map[ends]int, n)
	meets := make(map[spot]int, n) // how many meet at a spot
	exact := map[spot]Point{}      // where nodes lie between spots
	for _, k := range group {
		for i := range e.pieces[k] {
			p := &e.pieces[k][i]
			id, by := of(p)
			if _, ok := more[id]; !ok {
				meets[p.a]++
				meets[p.b]++
			}
			more[id] += by
			if c := e.segments[p.of].c; p.t0 == 0 && p.a == e.snap(c[0]) {
				exact[p.a] = c[0]
			}
		}
	}
	var ways []way
	from := make(map[spot][]int, n)
	seen := make(map[ends]bool, n)
	for _, k := range group {
		var keep, port, known bool
		for i := range e.pieces[k] {
			p := e.pieces[k][i]
			id, by := of(&p)
			// From one spot at which no others meet to the next nothing changes.
			if !known || meets[p.a] != 2 {
				if e.work > maxEdgeWork {
					return nil, false
				}
				keep, port = e.bounds(p, by*more[id])
				known = true
			}
			if !keep || seen[id] {
				continue
			}
			seen[id] = true
			if !port {
				p.a, p.b, p.t0, p.t1 = p.b, p.a, p.t1, p.t0
			}
			from[p.a] = append(from[p.a], len(ways))
			ways = append(ways, way{piece: p})
		}
	}
	for i := range ways {
		if ways[i].used {
			continue
		}
		loop, whole := follow(ways, from, i)
		if !whole {
			return nil, false
		}
		if p, some := e.path(loop, exact); some {
			out = append(out, p)
		}
	}
	return out, true
}

// follow goes along pieces until it is back where it began. Where several go on from a spot
// the one is taken that leaves what is enclosed whole on this side.
func follow(ways []way, from map[spot][]int, i int) (loop []piece, whole bool) {
	start := ways[i].a
	for {
		ways[i].used = true
		p := ways[i].piece
		loop = append(loop, p)
		if p.b == start {
			return loop, true
		}
		back := math.Atan2(float64(p.a.y-p.b.y), float64(p.a.x-p.b.x))
		next, least := -1, math.Inf(1)
		for _, j := range from[p.b] {
			q := ways[j].piece
			if ways[j].used {
				continue
			}
			by := math.Atan2(float64(q.b.y-q.a.y), float64(q.b.x-q.a.x)) - back
			if by <= 0 {
				by += 2 * math.Pi
			}
			if by < least {
				next, least = j, by
			}
		}
		if next < 0 {
			return nil, false
		}
		i = next
	}
}

// path makes a path of pieces: those of one curve that follow each other are one part of it.
// What is thinner than the grid is exact is nothing.
func (e *edger) path(loop []piece, exact map[spot]Point) (out Path, some bool) {
	area, round := 0.0, 0.0
	o := loop[0].a
	for _, p := range loop {
		area += float64((p.a.x-o.x)*(p.b.y-o.y) - (p.a.y-o.y)*(p.b.x-o.x))
		round += math.Hypot(float64(p.b.x-p.a.x), float64(p.b.y-p.a.y))
	}
	if math.Abs(area) < edgeTolerance/2*round {
		return out, false
	}
	same := func(a, b piece) bool { return a.of == b.of && a.t1 == b.t0 && (a.t1 > a.t0) == (b.t1 > b.t0) }
	// It is begun where a part begins.
	for i := range loop {
		if !same(loop[(i+len(loop)-1)%len(loop)], loop[i]) {
			loop = append(slices.Clone(loop[i:]), loop[:i]...)
			break
		}
	}
	out.Closed = true
	var last Point // the handle with which a part arrives at its end
	for i := 0; i < len(loop); {
		j := i + 1
		for j < len(loop) && same(loop[j-1], loop[j]) {
			j++
		}
		if j-i == len(loop) { // a path has two nodes at least
			j = (len(loop) + 1) / 2
		}
		at, ok := exact[loop[i].a]
		if !ok {
			at = Point{float64(loop[i].a.x) * e.step, float64(loop[i].a.y) * e.step}
		}
		n := Node{X: at.X, Y: at.Y, InX: last.X, InY: last.Y}
		last = Point{}
		if s := &e.segments[loop[i].of]; !s.straight {
			c := part(s.c, loop[i].t0, loop[j-1].t1)
			n.OutX, n.OutY = c[1].X-c[0].X, c[1].Y-c[0].Y
			last = Point{c[2].X - c[3].X, c[2].Y - c[3].Y}
		}
		out.Nodes = append(out.Nodes, n)
		i = j
	}
	out.Nodes[0].InX, out.Nodes[0].InY = last.X, last.Y
	return out, len(out.Nodes) > 1
}

// part is the curve from one parameter of another curve to a second (blossoming, after
// de Casteljau); it goes backwards where the second is less.
func part(c [4]Point, a, b float64) (out [4]Point) {
	for i, t := range [4][3]float64{{a, a, a}, {a, a, b}, {a, b, b}, {b, b, b}} {
		p := c
		for k, u := range t {
			for j := range 3 - k {
				p[j] = between(p[j], p[j+1], u)
			}
		}
		out[i] = p[0]
	}
	return out
}
