package craft

import (
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"

	"ivypocket/core/edit"
	"ivypocket/core/geom"
	"ivypocket/core/scheme"
	"ivypocket/core/template"
	"ivypocket/core/timing"
)

// Ways of motion are paths whose points are keys of a place: each is passed at its instant.

// onWay ends the path of a way, after that of the layer or the mask that it leads.
const onWay = "/motion/place"

// wayed is a way that is worked on.
type wayed struct {
	outlined
	name  string
	move  template.Move
	track *timing.Track
	keys  []timing.Key // its keys with the instants at which they are passed
	was   map[string]geom.Node
}

// wayOf finds the way of a layer or a mask as it lies at the frame that is looked at; it may have
// no points yet.
func (b *bench) wayOf(of string) (w wayed, err error) {
	at, err := b.spot(of)
	if err != nil {
		return w, err
	}
	w.path, w.node, w.name = at.path, at.node, b.calledSpot(at)
	if at.node.Sort() == scheme.Masks {
		w.name = "the mask of " + w.name
	}
	sc, err := b.scene()
	if err != nil {
		return w, err
	}
	f, ok := sc.Way(of, sc.Time().At(timing.OutputFrame(min(max(b.act.Frame, 0), sc.Frames()-1))))
	if !ok {
		return w, fmt.Errorf("path: %s goes no way that can be drawn", w.name)
	}
	w.drawn = geom.Path{Nodes: slices.Clone(f.Form.Path.Nodes)}
	w.lies = geom.Scale(f.Form.Size.W, f.Form.Size.H).Flat().Then(f.Map)
	if m := w.node.Motion[w.place().Name]; m != nil {
		if w.track, err = b.doc.Track(w.node, w.place(), -1, m, b.format.Canvas()); err != nil {
			return w, err
		}
		w.move, w.keys = *m, w.track.Keys()
		w.move.Keys, w.was = slices.Clone(m.Keys), map[string]geom.Node{}
		for i, k := range m.Keys {
			w.was[k.ID] = w.drawn.Nodes[i]
		}
	}
	return w, nil
}

func (w *wayed) place() *scheme.Property {
	if w.node.Sort() == scheme.Masks {
		return scheme.MaskPlace
	}
	return scheme.Place
}

// kept writes the way with the points of a path, as many as it has keys.
func (b *bench) kept(w *wayed, p geom.Path) error {
	for i, n := range p.Nodes {
		k := &w.move.Keys[i]
		for _, v := range []float64{n.X, n.Y, n.InX, n.InY, n.OutX, n.OutY} {
			if math.Abs(v) > scheme.MaxShare {
				return fmt.Errorf("the way of %s would lead too far away", w.name)
			}
		}
		short := func(v float64) float64 { return math.Round(v*1e6)/1e6 + 0 }
		handle := func(x, y float64) *[2]float64 {
			if x, y = short(x), short(y); x == 0 && y == 0 {
				return nil
			}
			return &[2]float64{x, y}
		}
		if was, ok := w.was[k.ID]; !ok || was != n { // what stays keeps how it is written
			k.Value, k.In, k.Out = scheme.Many(short(n.X), short(n.Y)), handle(n.InX, n.InY), handle(n.OutX, n.OutY)
		}
	}
	// The ends have no neighbour by whose instants theirs could be told.
	for _, i := range []int{0, len(w.move.Keys) - 1} {
		if w.move.Keys[i].At.D == 0 {
			w.move.Keys[i].At = w.keys[i].At
		}
	}
	move := w.move
	b.add(edit.DraftOp{Kind: "keys", Path: w.path + "/" + w.place().Name, Move: &move})
	return nil
}

// changeWay changes a way by its points.
func (b *bench) changeWay(of string, a Act) error {
	if b.format == nil {
		return errors.New("format: say which format is looked at")
	}
	w, err := b.wayOf(of)
	if err != nil {
		return err
	}
	count := len(w.drawn.Nodes)
	if count == 0 {
		return fmt.Errorf("path: %s goes no way; draw one", w.name)
	}
	switch a.Way {
	case "move", "in", "out":
		b.title = "Move points of the way of " + w.name
		changed, err := b.pulled(&w.outlined, a)
		if err != nil {
			return err
		}
		return b.kept(&w, changed(w.drawn))
	case "corner", "smooth":
		list, err := a.picked(count, 1)
		if err != nil {
			return err
		}
		b.title = map[string]string{"corner": "Corners in ", "smooth": "Curves in "}[a.Way] + "the way of " + w.name
		if a.Way == "corner" {
			return b.kept(&w, w.drawn.Cornered(list))
		}
		return b.kept(&w, w.drawn.Smoothed(list))
	case "remove":
		list, err := a.picked(count, 1)
		if err != nil {
			return err
		}
		if count-len(list) < 2 {
			return fmt.Errorf("a way has 2 points or more; take the keys of the place of %s away instead", w.name)
		}
		b.title = "Take points out of the way of " + w.name
		left := w.drawn.Without(list)
		for i := count - 1; i >= 0; i-- {
			if slices.Contains(list, i) {
				w.move.Keys, w.keys = slices.Delete(w.move.Keys, i, i+1), slices.Delete(slices.Clone(w.keys), i, i+1)
			}
		}
		return b.kept(&w, left)
	case "add":
		b.title = "Add a point to the way of " + w.name
		return b.addToWay(&w, geom.Point{X: a.To[0], Y: a.To[1]})
	case "open", "shut", "join":
		return errors.New("a way leads from its first point to its last; its points are each passed at an instant of its own")
	}
	return fmt.Errorf("way: %q is not one of move, in, out, add, remove, corner and smooth", a.Way)
}

// addToWay puts a key where the way passes a point, at the instant at which it does: what it leads
// goes on as it went.
func (b *bench) addToWay(w *wayed, to geom.Point) error {
	if len(w.keys) >= timing.MaxKeys {
		return fmt.Errorf("the way of %s has %d points already", w.name, len(w.keys))
	}
	i, u, far := w.drawn.Through(w.lies).Nearest(to)
	if math.IsInf(far, 1) {
		return fmt.Errorf("%s stays at one place; draw a way for it", w.name)
	}
	first, middle, last, ok := w.track.Divide(i, w.track.When(i, u))
	if !ok {
		return fmt.Errorf("%s is held there, and no point lies between", w.name)
	}
	p := geom.Path{Nodes: slices.Clone(w.drawn.Nodes)}
	p.Nodes[i].OutX, p.Nodes[i].OutY, p.Nodes[i+1].InX, p.Nodes[i+1].InY = first.Out[0], first.Out[1], last.In[0], last.In[1]
	p.Nodes = slices.Insert(p.Nodes, i+1, geom.Node{X: middle.Value[0], Y: middle.Value[1], InX: middle.In[0], InY: middle.In[1], OutX: middle.Out[0], OutY: middle.Out[1]})
	key := template.Key{Ease: middle.Ease, ID: nextID("k", func(id string) bool {
		return slices.ContainsFunc(w.move.Keys, func(k template.Key) bool { return k.ID == id })
	})}
	// On an even way without easing it is passed by itself at its instant.
	if w.move.Keys[i].Ease = first.Ease; !w.move.Even || first.Ease != nil {
		key.At = middle.At
	}
	w.move.Keys = slices.Insert(w.move.Keys, i+1, key)
	w.keys = slices.Insert(slices.Clone(w.keys), i+1, middle)
	return b.kept(w, p)
}

// drawWay leads a layer or a mask along a path that was drawn on the canvas, at even speed from the
// frame that is looked at to the end of the layer.
func (b *bench) drawWay(of string, p geom.Path, a Act) error {
	w, err := b.wayOf(of)
	if err != nil {
		return err
	}
	if p.Closed { // it comes back to where it began
		first := p.Nodes[0]
		p.Nodes = append(slices.Clone(p.Nodes), geom.Node{X: first.X, Y: first.Y, InX: first.InX, InY: first.InY})
		p.Closed = false
	}
	inv, ok := w.lies.Invert()
	if !ok {
		return fmt.Errorf("%s is seen edge on; nothing can be drawn on it", w.name)
	}
	y := b.doc.Layer(strings.Split(w.path, "/")[1])
	s := b.spanOf(y)
	last := clampRat(s.out, timing.Int(0), timing.Int(b.doc.Frames)).Sub(timing.Int(1))
	from := timing.Int(min(max(a.Frame, 0), b.doc.Frames-1))
	if from.Cmp(s.in) < 0 {
		from = s.in
	}
	if last.Cmp(from) <= 0 {
		return fmt.Errorf("%s has no frame left after this one; go to an earlier frame", y.Name)
	}
	b.title = "Draw a way for " + w.name
	was := w.move
	w.move = template.Move{Unit: template.CanvasUnit, Even: true}
	if was.Unit != "" {
		w.move.Unit = was.Unit
	}
	w.keys, w.was = nil, nil
	for i := range p.Nodes {
		key := template.Key{ID: fmt.Sprintf("k%d", i+1)}
		switch i {
		case 0:
			key.At = from.Sub(s.late) // keys are in the layer's own time
		case len(p.Nodes) - 1:
			key.At = last.Sub(s.late)
		}
		w.move.Keys, w.keys = append(w.move.Keys, key), append(w.keys, timing.Key{At: key.At})
	}
	return b.kept(&w, p.Through(inv))
}
