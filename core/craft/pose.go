package craft

import (
	"errors"
	"fmt"
	"math"

	"ivypocket/core/geom"
	"ivypocket/core/scene"
	"ivypocket/core/scheme"
	"ivypocket/core/template"
)

// What is done to layers on the picture itself.
func init() {
	register(
		row{"place", "`layers`, `from`, `to`, `keep` (one axis), `copy`, `snap`", "moves layers", place},
		row{"grow", "`layers`, `handle`, `from`, `to`, `keep` (proportions), `middle`, `snap`", "makes layers larger or smaller by a point of the box around them", grow},
		row{"turn", "`layers`, `from`, `to`, `keep` (steps of 15°)", "turns one about its origin, several about their middle", turn},
		row{"lean", "`layers`, `handle` (the middle of an edge), `from`, `to`", "skews", lean},
		row{"pull", "`layers` (one), `handle` (a corner), `from`, `to`, `snap`", "moves one corner: perspective", pull},
		row{"pin", "`layers` (one), `from`, `to`, `snap`", "moves the origin and leaves the picture", pin},
	)
}

// moved is a chosen layer with how it stands.
type moved struct {
	*template.Layer
	scene.Standing
}

// movable are the chosen layers that have a place, with how they stand.
func (b *bench) movable() ([]moved, error) {
	list, err := b.chosen()
	if err != nil {
		return nil, err
	}
	all, err := b.stand()
	if err != nil {
		return nil, err
	}
	var out []moved
	for _, y := range list {
		for i := range all {
			if all[i].Layer == y.ID {
				out = append(out, moved{y, all[i]})
			}
		}
	}
	if len(out) == 0 {
		return nil, fmt.Errorf("%s has no place: it is a %s", list[0].Name, list[0].Kind.Label)
	}
	return out, nil
}

// around is the smallest upright box around several layers.
func around(list []moved) geom.Box {
	var points []geom.Point
	for i := range list {
		c := list[i].Box().Corners()
		points = append(points, c[:]...)
	}
	return geom.Bounds(points...)
}

func (a Act) by() geom.Point { return geom.Point{X: a.To[0] - a.From[0], Y: a.To[1] - a.From[1]} }

// along keeps the longer of two ways.
func along(v geom.Point) geom.Point {
	if math.Abs(v.X) > math.Abs(v.Y) {
		return geom.Point{X: v.X}
	}
	return geom.Point{Y: v.Y}
}

// origin is where a layer's origin stands in its own pixels.
func origin(p scene.Pose) geom.Point {
	return geom.Point{X: p.Origin[0] * p.Size.W, Y: p.Origin[1] * p.Size.H}
}

// shift moves a layer so that what stands at one point of the canvas stands at
// another.
func (b *bench) shift(m *moved, from, to geom.Point) error {
	if err := b.mayMove(m.Layer, scheme.Place); err != nil {
		return err
	}
	inv, ok := m.Up.Invert()
	if !ok {
		return fmt.Errorf("%s lies in a group that is seen from its edge", m.Name)
	}
	p, q := inv.Apply(from), inv.Apply(to)
	return b.set("layers/"+m.ID+"/place", m.Rest.Place[0]+q.X-p.X, m.Rest.Place[1]+q.Y-p.Y)
}

func place(b *bench, a Act) error {
	list, err := b.movable()
	if err != nil {
		return err
	}
	by := a.by()
	if a.Keep {
		by = along(by)
	}
	if a.Snap > 0 {
		by, b.plan.Guides = b.snapMove(list, by, a.Snap, a.Keep)
	}
	b.title = "Move " + b.called(a.Layers)
	if a.Copy {
		b.title = "Copy " + b.called(a.Layers)
		if err := b.copies(list); err != nil {
			return err
		}
	} else if by == (geom.Point{}) {
		return nil
	}
	for i := range list {
		m := &list[i]
		at := m.World.Apply(origin(m.Now))
		if err := b.shift(m, at, geom.Point{X: at.X + by.X, Y: at.Y + by.Y}); err != nil {
			return err
		}
	}
	return nil
}

// bySize reports whether a layer is made larger by its size; what holds others, and
// what has no size of its own, by its scale.
func bySize(m *moved) bool { return m.Can(scheme.Box) && !m.Can(scheme.Holds) }

// grow makes layers larger by a handle of the box around them.
func grow(b *bench, a Act) error {
	list, err := b.movable()
	if err != nil {
		return err
	}
	b.title = "Size " + b.called(a.Layers)
	if len(list) == 1 {
		return b.growOne(&list[0], a)
	}
	return b.growAll(list, a)
}

// growOne makes one layer larger in its own directions, whichever way it is turned:
// the opposite point stays.
func (b *bench) growOne(m *moved, a Act) error {
	inv, ok := m.World.Invert()
	if !ok {
		return fmt.Errorf("%s is seen from its edge", m.Name)
	}
	w, h := m.Now.Size.W, m.Now.Size.H
	fixed := geom.Point{X: 1 - a.Handle[0], Y: 1 - a.Handle[1]}
	if a.Middle {
		fixed = geom.Point{X: 0.5, Y: 0.5}
	}
	to := geom.Point{X: a.To[0], Y: a.To[1]}
	grip := m.World.Apply(geom.Point{X: a.Handle[0] * w, Y: a.Handle[1] * h})
	to = geom.Point{X: grip.X + to.X - a.From[0], Y: grip.Y + to.Y - a.From[1]}
	if a.Snap > 0 && upright(m.World) {
		var by geom.Point
		by, b.plan.Guides = b.snapEdges([]moved{*m}, grip, geom.Point{X: to.X - grip.X, Y: to.Y - grip.Y}, a)
		to = geom.Point{X: grip.X + by.X, Y: grip.Y + by.Y}
	}
	at := inv.Apply(to)
	kx, ky := factor(at.X, fixed.X*w, a.Handle[0], fixed.X, w), factor(at.Y, fixed.Y*h, a.Handle[1], fixed.Y, h)
	if a.Keep {
		kx, ky = same(kx, ky, a.Handle)
	}
	return b.stretch(m, kx, ky, m.World.Apply(geom.Point{X: fixed.X * w, Y: fixed.Y * h}), fixed)
}

// factor is by how much a side grows when a handle of it goes to a place; a handle in
// the middle of the side leaves it.
func factor(at, fixed, handle, still, side float64) float64 {
	if handle == 0.5 || side == 0 {
		return 1
	}
	k := (at - fixed) / ((handle - still) * side)
	if math.Abs(k) < 1e-4 {
		return math.Copysign(1e-4, k)
	}
	return k
}

// same is one factor for both sides: that of the side which is dragged, or at a corner
// the larger.
func same(kx, ky float64, handle [2]float64) (float64, float64) {
	switch {
	case handle[0] == 0.5:
		return math.Abs(ky), ky
	case handle[1] == 0.5:
		return kx, math.Abs(kx)
	}
	k := math.Max(math.Abs(kx), math.Abs(ky))
	return math.Copysign(k, kx), math.Copysign(k, ky)
}

// stretch makes a layer larger by a factor for each side; the point of it that is
// given in shares stays at a point of the canvas.
func (b *bench) stretch(m *moved, kx, ky float64, on geom.Point, share geom.Point) error {
	path := "layers/" + m.ID
	next := m.Now
	if bySize(m) {
		if err := b.mayMove(m.Layer, scheme.Size); err != nil {
			return err
		}
		kx, ky = math.Abs(kx), math.Abs(ky) // a side below nothing is none
		if err := b.set(path+"/size", m.Rest.Size.W*kx, m.Rest.Size.H*ky); err != nil {
			return err
		}
		next.Size = geom.Size{W: next.Size.W * kx, H: next.Size.H * ky}
	} else {
		if err := b.mayMove(m.Layer, scheme.Scale); err != nil {
			return err
		}
		sx, sy := m.Rest.Scale[0]*kx, m.Rest.Scale[1]*ky
		if err := b.setFactors(path+"/scale", sx, sy); err != nil {
			return err
		}
		next.Scale = [2]float64{next.Scale[0] * kx, next.Scale[1] * ky}
	}
	return b.settle(m, next, on, share)
}

// setFactors sets a pair of factors, as one number while they are alike.
func (b *bench) setFactors(path string, x, y float64) error {
	round := func(v float64) float64 { return math.Round(v*1e6) / 1e6 }
	if x, y = round(x), round(y); x == y {
		return b.set(path, x)
	}
	return b.set(path, x, y)
}

// settle gives a layer that is to lie otherwise the place at which a point of it, in
// shares, stays on the canvas where it is.
func (b *bench) settle(m *moved, next scene.Pose, on geom.Point, share geom.Point) error {
	way, ok := next.Map()
	inv, ok2 := m.Up.Invert()
	if !ok || !ok2 {
		return fmt.Errorf("%s would be seen from its edge", m.Name)
	}
	now := way.Apply(geom.Point{X: share.X * next.Size.W, Y: share.Y * next.Size.H})
	want := inv.Apply(on)
	dx, dy := want.X-now.X, want.Y-now.Y
	if math.Abs(dx) < 1e-9 && math.Abs(dy) < 1e-9 {
		return nil
	}
	if err := b.mayMove(m.Layer, scheme.Place); err != nil {
		return err
	}
	return b.set("layers/"+m.ID+"/place", m.Rest.Place[0]+dx, m.Rest.Place[1]+dy)
}

// growAll makes several layers larger about one point of the canvas: by one factor,
// unless all lie upright.
func (b *bench) growAll(list []moved, a Act) error {
	box := around(list)
	level := true
	for i := range list {
		level = level && upright(list[i].World)
	}
	fixed := geom.Point{X: box.X + (1-a.Handle[0])*box.W, Y: box.Y + (1-a.Handle[1])*box.H}
	if a.Middle {
		fixed = box.Centre()
	}
	grip := geom.Point{X: box.X + a.Handle[0]*box.W, Y: box.Y + a.Handle[1]*box.H}
	by := a.by()
	if a.Snap > 0 {
		by, b.plan.Guides = b.snapEdges(list, grip, by, a)
	}
	kx := factor(grip.X+by.X, fixed.X, a.Handle[0], 1-a.Handle[0], box.W)
	ky := factor(grip.Y+by.Y, fixed.Y, a.Handle[1], 1-a.Handle[1], box.H)
	if a.Middle {
		kx, ky = factor(grip.X+by.X, fixed.X, a.Handle[0], 0.5, box.W), factor(grip.Y+by.Y, fixed.Y, a.Handle[1], 0.5, box.H)
	}
	if kx, ky = math.Abs(kx), math.Abs(ky); a.Keep || !level {
		kx, ky = same(kx, ky, a.Handle)
	}
	for i := range list {
		m := &list[i]
		mid := m.World.Apply(geom.Point{X: m.Now.Size.W / 2, Y: m.Now.Size.H / 2})
		to := geom.Point{X: fixed.X + (mid.X-fixed.X)*kx, Y: fixed.Y + (mid.Y-fixed.Y)*ky}
		lx, ly := kx, ky
		if m.World.A == 0 && m.World.D == 0 { // it lies on its side
			lx, ly = ky, kx
		}
		if err := b.stretch(m, lx, ly, to, geom.Point{X: 0.5, Y: 0.5}); err != nil {
			return err
		}
	}
	return nil
}

// upright reports whether a layer's sides are those of the canvas, also when it lies
// on its side.
func upright(m geom.Projective) bool {
	const slight = 1e-9
	return m.IsFlat() && (math.Abs(m.B) < slight && math.Abs(m.C) < slight || math.Abs(m.A) < slight && math.Abs(m.D) < slight)
}

// turn turns layers by the angle between two points: one about its origin, several
// about the middle of the box around them.
func turn(b *bench, a Act) error {
	list, err := b.movable()
	if err != nil {
		return err
	}
	about := around(list).Centre()
	if len(list) == 1 {
		about = list[0].World.Apply(origin(list[0].Now))
	}
	angle := func(p [2]float64) float64 { return math.Atan2(p[1]-about.Y, p[0]-about.X) * 180 / math.Pi }
	by := math.Remainder(angle(a.To)-angle(a.From), 360)
	if a.Keep {
		now := list[0].Rest.Turn
		by = math.Round((now+by)/15)*15 - now
	} else {
		by = math.Round(by*10) / 10
	}
	b.title = "Turn " + b.called(a.Layers)
	if by == 0 {
		return nil
	}
	for i := range list {
		m := &list[i]
		if err := b.mayMove(m.Layer, scheme.Turn); err != nil {
			return err
		}
		own := by
		if m.Up.Det() < 0 { // its group is mirrored
			own = -by
		}
		if err := b.set("layers/"+m.ID+"/turn", m.Rest.Turn+own); err != nil {
			return err
		}
		if len(list) == 1 {
			continue
		}
		at := m.World.Apply(origin(m.Now))
		to := geom.Translate(-about.X, -about.Y).Then(geom.Rotate(by)).Then(geom.Translate(about.X, about.Y)).Apply(at)
		if err := b.shift(m, at, to); err != nil {
			return err
		}
	}
	return nil
}

// lean skews layers by the middle of an edge: that edge goes along itself.
func lean(b *bench, a Act) error {
	list, err := b.movable()
	if err != nil {
		return err
	}
	b.title = "Lean " + b.called(a.Layers)
	for i := range list {
		m := &list[i]
		if !m.Can(scheme.Box) {
			return fmt.Errorf("%s can't lean: it is a %s", m.Name, m.Kind.Label)
		}
		if err := b.mayMove(m.Layer, scheme.Skew); err != nil {
			return err
		}
		inv, ok := m.World.Invert()
		if !ok {
			return fmt.Errorf("%s is seen from its edge", m.Name)
		}
		p, q := inv.Apply(geom.Point{X: a.From[0], Y: a.From[1]}), inv.Apply(geom.Point{X: a.To[0], Y: a.To[1]})
		x, y := m.Rest.Skew[0], m.Rest.Skew[1]
		// Skew is done to what has been scaled, so by how far it goes there.
		k := [2]float64{m.Now.Scale[0], m.Now.Scale[1]}
		if a.Handle[0] == 0.5 {
			x = leant(m.Now.Skew[0], (q.X-p.X)*k[0], (a.Handle[1]-m.Now.Origin[1])*m.Now.Size.H*k[1], x)
		} else {
			y = leant(m.Now.Skew[1], (q.Y-p.Y)*k[1], (a.Handle[0]-m.Now.Origin[0])*m.Now.Size.W*k[0], y)
		}
		if err := b.set("layers/"+m.ID+"/skew", x, y); err != nil {
			return err
		}
	}
	return nil
}

// leant is an angle of skew at rest, after an edge that is so far from the origin went
// so far along itself.
func leant(now, by, far, rest float64) float64 {
	if far == 0 {
		return rest
	}
	next := math.Atan(math.Tan(now*math.Pi/180)+by/far) * 180 / math.Pi
	return math.Round(math.Max(-85, math.Min(85, rest+next-now))*100) / 100
}

// pull moves one corner of a layer: perspective.
func pull(b *bench, a Act) error {
	list, err := b.movable()
	if err != nil {
		return err
	}
	m := &list[0]
	if len(list) > 1 || !m.Can(scheme.Box) {
		return errors.New("layers: one corner of one layer is pulled at a time")
	}
	if err := b.mayMove(m.Layer, scheme.Corners); err != nil {
		return err
	}
	corner := map[[2]float64]int{{0, 0}: 0, {1, 0}: 1, {1, 1}: 2, {0, 1}: 3}
	k, ok := corner[a.Handle]
	if !ok {
		return errors.New("handle: is no corner")
	}
	b.title = "Pull a corner of " + m.Name
	// Where the corner is to stand among the four, before it is scaled and turned.
	flat := m.Now
	flat.Corners = [8]float64{}
	way, _ := flat.Map()
	inv, ok := way.Then(m.Up).Invert()
	if !ok {
		return fmt.Errorf("%s is seen from its edge", m.Name)
	}
	w, h := m.Now.Size.W, m.Now.Size.H
	grip := m.World.Apply(geom.Point{X: a.Handle[0] * w, Y: a.Handle[1] * h})
	by := a.by()
	if a.Snap > 0 {
		by, b.plan.Guides = b.snapPoint(list, grip, by, a.Snap)
	}
	from, to := inv.Apply(grip), inv.Apply(geom.Point{X: grip.X + by.X, Y: grip.Y + by.Y})
	next := m.Rest.Corners
	next[2*k] += to.X - from.X
	next[2*k+1] += to.Y - from.Y
	after := m.Rest
	after.Corners = next
	if _, ok := after.Map(); !ok {
		return fmt.Errorf("%s would be folded over itself; a corner stays on its side of the others", m.Name)
	}
	return b.set("layers/"+m.ID+"/corners", next[:]...)
}

// pin moves a layer's origin, and leaves its picture where it is.
func pin(b *bench, a Act) error {
	list, err := b.movable()
	if err != nil {
		return err
	}
	m := &list[0]
	if len(list) > 1 || !m.Can(scheme.Box) {
		return errors.New("layers: one origin is moved at a time")
	}
	if err := b.mayMove(m.Layer, scheme.Origin); err != nil {
		return err
	}
	inv, ok := m.World.Invert()
	if !ok || m.Now.Size.Empty() {
		return fmt.Errorf("%s is seen from its edge", m.Name)
	}
	b.title = "Move the origin of " + m.Name
	was := origin(m.Now)
	grip := m.World.Apply(was)
	at := inv.Apply(geom.Point{X: grip.X + a.To[0] - a.From[0], Y: grip.Y + a.To[1] - a.From[1]})
	share := geom.Point{X: at.X / m.Now.Size.W, Y: at.Y / m.Now.Size.H}
	if a.Snap > 0 {
		share = pinned(share, m.Now.Size, a.Snap/math.Max(1e-9, math.Min(m.World.Stretch(geom.Box{W: m.Now.Size.W, H: m.Now.Size.H}))))
	}
	share.X, share.Y = math.Round(share.X*1e4)/1e4, math.Round(share.Y*1e4)/1e4
	next := m.Now
	next.Origin = [2]float64{share.X, share.Y}
	if err := b.set("layers/"+m.ID+"/origin", share.X+m.Rest.Origin[0]-m.Now.Origin[0], share.Y+m.Rest.Origin[1]-m.Now.Origin[1]); err != nil {
		return err
	}
	corner := geom.Point{X: share.X, Y: share.Y}
	return b.settle(m, next, m.World.Apply(geom.Point{X: share.X * next.Size.W, Y: share.Y * next.Size.H}), corner)
}

// pinned draws an origin to the corners, edges and middle of its box, within so many
// of its own pixels.
func pinned(p geom.Point, size geom.Size, near float64) geom.Point {
	one := func(v, side float64) float64 {
		for _, at := range []float64{0, 0.5, 1} {
			if math.Abs(v-at)*side <= near {
				return at
			}
		}
		return v
	}
	return geom.Point{X: one(p.X, size.W), Y: one(p.Y, size.H)}
}
