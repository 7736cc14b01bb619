package craft

import (
	"errors"
	"fmt"
	"math"
	"slices"
	"sort"
	"strconv"
	"strings"

	"ivypocket/core/geom"
	"ivypocket/core/scene"
	"ivypocket/core/scheme"
)

// How layers stand to one another, and numbers of several at once.
func init() {
	register(
		row{"align", "`layers`, `way`: `left`, `centre`, `right`, `top`, `middle`, `bottom`; `middle`", "aligns them to one another; one alone, or with `middle`, to the canvas", align},
		row{"spread", "`layers`, `way`: `across`, `down`", "leaves equal gaps between the outer two", spread},
		row{"nudge", "`layers`, `to` (px on the canvas)", "moves layers by so much", nudge},
		row{"adjust", "`layers`, `path` (a property, such as `opacity` or `place.x`), `name`", "sets a number of several: to one value, or by what is done to each, such as `*1.2`, `/2`, `+40`, `-=10`", adjust},
	)
}

func align(b *bench, a Act) error {
	list, err := b.movable()
	if err != nil {
		return err
	}
	to := around(list)
	if len(list) == 1 || a.Middle {
		c := b.format.Canvas()
		to = geom.Box{W: c.W, H: c.H}
	}
	b.title = "Align " + b.called(a.Layers)
	for i := range list {
		m := &list[i]
		x := m.Box()
		by := geom.Point{}
		switch a.Way {
		case "left":
			by.X = to.X - x.X
		case "centre":
			by.X = to.Centre().X - x.Centre().X
		case "right":
			by.X = to.X + to.W - x.X - x.W
		case "top":
			by.Y = to.Y - x.Y
		case "middle":
			by.Y = to.Centre().Y - x.Centre().Y
		case "bottom":
			by.Y = to.Y + to.H - x.Y - x.H
		default:
			return errors.New("way: is none of left, centre, right, top, middle, bottom")
		}
		if err := b.slide(m, by); err != nil {
			return err
		}
	}
	return nil
}

// slide moves a layer by a way on the canvas.
func (b *bench) slide(m *moved, by geom.Point) error {
	if math.Abs(by.X) < 1e-9 && math.Abs(by.Y) < 1e-9 {
		return nil
	}
	at := m.World.Apply(origin(m.Now))
	return b.shift(m, at, geom.Point{X: at.X + by.X, Y: at.Y + by.Y})
}

// spread leaves equal gaps between layers, in the order in which they stand; the outer
// two stay.
func spread(b *bench, a Act) error {
	list, err := b.movable()
	if err != nil {
		return err
	}
	if len(list) < 3 {
		return errors.New("layers: three or more are spread")
	}
	down := a.Way == "down"
	if !down && a.Way != "across" {
		return errors.New("way: is neither across nor down")
	}
	span := func(m *moved) (from, side float64) {
		if x := m.Box(); down {
			return x.Y, x.H
		} else {
			return x.X, x.W
		}
	}
	sort.SliceStable(list, func(i, j int) bool {
		p, ps := span(&list[i])
		q, qs := span(&list[j])
		return p+ps/2 < q+qs/2
	})
	first, _ := span(&list[0])
	last, side := span(&list[len(list)-1])
	room := last + side - first
	for i := range list {
		_, s := span(&list[i])
		room -= s
	}
	gap := room / float64(len(list)-1)
	b.title = "Spread " + b.called(a.Layers)
	at := first
	for i := range list {
		from, s := span(&list[i])
		by := geom.Point{X: at - from}
		if down {
			by = geom.Point{Y: at - from}
		}
		if err := b.slide(&list[i], by); err != nil {
			return err
		}
		at += s + gap
	}
	return nil
}

func nudge(b *bench, a Act) error {
	list, err := b.movable()
	if err != nil {
		return err
	}
	b.title = "Move " + b.called(a.Layers)
	for i := range list {
		if err := b.slide(&list[i], geom.Point{X: a.To[0], Y: a.To[1]}); err != nil {
			return err
		}
	}
	return nil
}

// adjust sets a number of several layers at once: to one value, or by what is done to
// each.
func adjust(b *bench, a Act) error {
	list, err := b.chosen()
	if err != nil {
		return err
	}
	text := strings.TrimSpace(strings.ReplaceAll(a.Name, "−", "-"))
	if text == "" {
		return errors.New("name: a number, or what is done to each, such as *1.2 or +40")
	}
	by := byte(0)
	if strings.ContainsRune("*/+", rune(text[0])) || strings.HasPrefix(text, "-=") {
		by, text = text[0], strings.TrimPrefix(text[1:], "=")
	}
	n, err := strconv.ParseFloat(strings.ReplaceAll(strings.TrimSpace(text), ",", "."), 64)
	if err != nil || math.IsNaN(n) || math.IsInf(n, 0) || by == '/' && n == 0 {
		return fmt.Errorf("name: %q is not a number, nor one after *, /, + or -=", a.Name)
	}
	p, part, err := scheme.Layers.Target(a.Path)
	if err != nil {
		return err
	}
	if p.Type != scheme.Numbers {
		return fmt.Errorf("path: %s is no number", p.Name)
	}
	b.title = "Set " + strings.ToLower(p.Label) + " of " + b.called(a.Layers)
	all, err := b.stand()
	if err != nil {
		return err
	}
	set := 0
	for _, y := range list {
		if !y.Has(p) {
			continue
		}
		if err := b.mayMove(y, p); err != nil {
			return err
		}
		in, err := b.doc.For(b.format)
		if err != nil {
			return err
		}
		v, given, err := in.Get("layers/" + y.ID + "/" + p.Name)
		if err != nil {
			return err
		}
		now := slices.Clone(p.Full(v.Resolved(b.format.Canvas())))
		if i := slices.IndexFunc(all, func(s scene.Standing) bool { return s.Layer == y.ID }); p == scheme.Size && !given && i >= 0 {
			now = []float64{all[i].Rest.Size.W, all[i].Rest.Size.H} // as large as what it shows or is in
		}
		path := "layers/" + y.ID + "/" + p.Name
		if b.records(path) { // what is seen is what is worked on
			id := y.ID
			if b.use != "" {
				id = b.use + inUse + id
			}
			looks, err := b.looks(id)
			if err != nil {
				return err
			}
			if i := slices.IndexFunc(looks, func(s scene.Shown) bool { return s.Property == p && s.Of.ID == y.ID }); i >= 0 {
				now = slices.Clone(looks[i].Now)
			}
		}
		if len(now) != p.Width() {
			return fmt.Errorf("%s of %s is not written out; set it on that layer first", strings.ToLower(p.Label), y.Name)
		}
		for i := range now {
			if part >= 0 && i != part {
				continue
			}
			switch by {
			case '*':
				now[i] *= n
			case '/':
				now[i] /= n
			case '+':
				now[i] += n / p.Factor
			case '-':
				now[i] -= n / p.Factor
			default:
				now[i] = n / p.Factor
			}
		}
		if p.Alike && slices.Min(now) == slices.Max(now) {
			now = now[:1]
		}
		if b.records(path) {
			err = b.recordAs(path, scheme.Value{Numbers: now, Single: len(now) == 1})
		} else {
			err = b.set(path, now...)
		}
		if err != nil {
			return err
		}
		set++
	}
	if set == 0 {
		return fmt.Errorf("path: none of them has a %s", strings.ToLower(p.Label))
	}
	return nil
}
