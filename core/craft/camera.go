package craft

import (
	"fmt"
	"math"

	"ivypocket/core/geom"
	"ivypocket/core/scheme"
)

// Cameras, by handles on the picture that they move.
func init() {
	register(row{"film", "`layers` (one, a camera); `way`: `move`, `zoom`, `turn`; `from`, `to`", "moves a camera, which moves all that lies below as one sheet about the middle", film})
}

func film(b *bench, a Act) error {
	list, err := b.movable()
	if err != nil {
		return err
	}
	m := &list[0]
	if len(list) != 1 || m.Kind != scheme.Camera {
		return fmt.Errorf("layers: choose one camera")
	}
	from, to := geom.Point{X: a.From[0], Y: a.From[1]}, geom.Point{X: a.To[0], Y: a.To[1]}
	// What it turns and grows about: the middle, as far as it is moved.
	about := m.Up.Apply(geom.Point{X: m.Now.Owner.W/2 + m.Now.Place[0], Y: m.Now.Owner.H/2 + m.Now.Place[1]})
	switch a.Way {
	case "move":
		if a.Keep {
			by := along(a.by())
			to = geom.Point{X: from.X + by.X, Y: from.Y + by.Y}
		}
		b.title = "Move " + m.Name
		if from == to {
			return nil
		}
		return b.shift(m, from, to)
	case "zoom":
		b.title = "Zoom " + m.Name
		was := math.Hypot(from.X-about.X, from.Y-about.Y)
		if was < 1 {
			return fmt.Errorf("from: lies on the middle, about which it zooms")
		}
		k := math.Hypot(to.X-about.X, to.Y-about.Y) / was
		x, y := m.Rest.Scale[0]*k, m.Rest.Scale[1]*k
		if lo, hi := 0.01, float64(scheme.MaxScale); math.Abs(x) < lo || math.Abs(x) > hi {
			k = math.Copysign(math.Min(math.Max(math.Abs(x), lo), hi), x) / m.Rest.Scale[0]
			x, y = m.Rest.Scale[0]*k, m.Rest.Scale[1]*k
		}
		if k == 1 {
			return nil
		}
		if err := b.mayMove(m.Layer, scheme.Scale); err != nil {
			return err
		}
		return b.setFactors("layers/"+m.ID+"/scale", x, y)
	case "turn":
		b.title = "Turn " + m.Name
		angle := func(p geom.Point) float64 { return math.Atan2(p.Y-about.Y, p.X-about.X) * 180 / math.Pi }
		by := math.Round(math.Remainder(angle(to)-angle(from), 360)*10) / 10
		if a.Keep {
			by = math.Round((m.Rest.Turn+by)/15)*15 - m.Rest.Turn
		}
		if by == 0 {
			return nil
		}
		if err := b.mayMove(m.Layer, scheme.Turn); err != nil {
			return err
		}
		if m.Up.Det() < 0 {
			by = -by
		}
		return b.set("layers/"+m.ID+"/turn", m.Rest.Turn+by)
	}
	return fmt.Errorf("way: %q is not one of move, zoom, turn", a.Way)
}
