package craft

import (
	"fmt"
	"maps"
	"math"
	"slices"

	"ivypocket/core/geom"
	"ivypocket/core/scene"
	"ivypocket/core/scheme"
	"ivypocket/core/template"
	"ivypocket/core/timing"
)

func sorted[V any](m map[string]V) []string { return slices.Sorted(maps.Keys(m)) }

// looked are the frames at which a change is looked at: both ends, those where keys
// stand, the poster, and some between.
func looked(d *template.Document, sc *scene.Scene) []timing.OutputFrame {
	const between = 24
	last := sc.Frames() - 1
	at := map[int64]bool{0: true, last: true, int64(sc.Poster()): true}
	for i := range int64(between) {
		at[i*last/between] = true
	}
	d.VisitNodes(func(_, _ string, n *template.Node) {
		for _, m := range n.Motion {
			for _, k := range m.Keys {
				if len(at) < 4*between && k.At.D != 0 {
					at[min(max(int64(math.Round(k.At.Float())), 0), last)] = true
				}
			}
		}
	})
	var out []timing.OutputFrame
	for _, n := range slices.Sorted(maps.Keys(at)) {
		out = append(out, timing.OutputFrame(n))
	}
	return out
}

// refit gives layers the place, scale, turn and skew at which they stay where they
// are on the canvas when they come to lie in something else, in every format. into
// tells how one stands there; false is that nothing is to be done.
func (b *bench) refit(ids []string, into func(s scene.Standing, of map[string]scene.Standing) (scene.Standing, bool)) error {
	first := true
	formats := slices.Clone(b.doc.Formats)
	// What holds for all is what the first format says; the others say what differs.
	for i := range formats {
		f := &formats[i]
		sc, err := b.sceneIn(f)
		if err != nil {
			return err
		}
		of := map[string]scene.Standing{}
		for _, s := range sc.Standings(sc.Time().At(timing.OutputFrame(min(max(b.act.Frame, 0), sc.Frames()-1)))) {
			of[s.Layer] = s
		}
		for _, id := range ids {
			s, ok := of[id]
			if !ok {
				continue
			}
			y := b.doc.Layer(id)
			next, ok := into(s, of)
			if !ok {
				continue
			}
			if s.InCell {
				return fmt.Errorf("%s stands in a cell of the canvas; take it out of the cell first", y.Name)
			}
			for _, p := range []*scheme.Property{scheme.Place, scheme.Scale, scheme.Turn} {
				if p == scheme.Place && s.Flows {
					continue // it goes from the flow, to where it stands there
				}
				if err := b.mayMove(y, p); err != nil {
					return err
				}
			}
			if err := b.fitted(y, s, next, f, first); err != nil {
				return err
			}
		}
		first = false
	}
	return nil
}

// fitted writes the pose of a layer in what it comes to lie in. A size that was that
// of its owner is written out.
func (b *bench) fitted(y *template.Layer, s, next scene.Standing, f *template.Format, first bool) error {
	inv, ok := next.Up.Invert()
	if !ok {
		return fmt.Errorf("%s would lie in what is seen from its edge", y.Name)
	}
	way := s.World.Then(inv)
	if !way.IsFlat() || s.Now.Corners != [8]float64{} {
		if s.Now.Corners == [8]float64{} || !next.Up.IsFlat() || !s.Up.IsFlat() {
			return fmt.Errorf("%s would have to lie in perspective to stay where it is; do without the moved corners first", y.Name)
		}
	}
	flat := s.Now
	flat.Corners = [8]float64{}
	own, _ := flat.Map()
	m := own.Then(s.Up).Then(inv).Affine
	p := decomposed(m)
	pose := s.Now
	pose.Owner, pose.Scale, pose.Turn, pose.Skew, pose.Place, pose.Corners = next.Now.Owner, p.scale, p.turn, p.skew, [2]float64{}, [8]float64{}
	at, _ := pose.Map()
	o := origin(pose)
	want, now := m.Apply(o), at.Apply(o)
	set := writer{b: b, y: y, f: f, first: first}
	// Motion goes on top of rest: what differs at this instant differs at rest.
	set.put(scheme.Place, s.Rest.Place[0]-s.Now.Place[0]+want.X-now.X, s.Rest.Place[1]-s.Now.Place[1]+want.Y-now.Y)
	kx, ky := ratio(s.Rest.Scale[0], s.Now.Scale[0]), ratio(s.Rest.Scale[1], s.Now.Scale[1])
	set.put(scheme.Scale, p.scale[0]*kx, p.scale[1]*ky)
	set.put(scheme.Turn, p.turn+s.Rest.Turn-s.Now.Turn)
	if y.Can(scheme.Box) {
		set.put(scheme.Skew, p.skew[0]+s.Rest.Skew[0]-s.Now.Skew[0], p.skew[1]+s.Rest.Skew[1]-s.Now.Skew[1])
		if y.Fills() && s.Now.Owner != next.Now.Owner {
			set.put(scheme.Size, s.Rest.Size.W, s.Rest.Size.H)
		}
	}
	return set.err
}

func ratio(a, b float64) float64 {
	if b == 0 {
		return 1
	}
	return a / b
}

// parted is an affine map without its shift, as scale, skew and turn in this order.
type parted struct {
	scale, skew [2]float64
	turn        float64
}

// decomposed takes a map apart: the first column tells the turn and the scale along x,
// the second, turned back, the scale along y and the skew along x. It is the QR
// decomposition that CSS Transforms Level 2, 12.1.1, does by Gram and Schmidt.
func decomposed(m geom.Affine) parted {
	p := parted{scale: [2]float64{math.Hypot(m.A, m.B), 0}, turn: math.Atan2(m.B, m.A) * 180 / math.Pi}
	s, c := geom.SinCos(p.turn)
	x, y := c*m.C+s*m.D, -s*m.C+c*m.D
	p.scale[1] = y
	if y != 0 {
		p.skew[0] = math.Atan2(x, y) * 180 / math.Pi
		if y < 0 {
			p.skew[0] = math.Atan(x/y) * 180 / math.Pi
		}
	}
	for _, v := range []*float64{&p.scale[0], &p.scale[1], &p.skew[0], &p.turn} {
		if *v = math.Round(*v*1e9) / 1e9; *v == 0 {
			*v = 0
		}
	}
	return p
}

// writer writes a layer's values: those of the first format for all, those that
// differ for the others.
type writer struct {
	b     *bench
	y     *template.Layer
	f     *template.Format
	first bool
	err   error
}

func (w *writer) put(p *scheme.Property, numbers ...float64) {
	if w.err != nil {
		return
	}
	path := "layers/" + w.y.ID + "/" + p.Name
	if p.Alike && len(numbers) == 2 && numbers[0] == numbers[1] {
		numbers = numbers[:1]
	}
	w.err = w.b.write(path, p, w.f, w.first, numbers)
}
