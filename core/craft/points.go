package craft

import (
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"

	"ivypocket/core/edit"
	"ivypocket/core/geom"
	"ivypocket/core/scene"
	"ivypocket/core/scheme"
	"ivypocket/core/template"
	"ivypocket/core/timing"
)

// Paths are changed on the picture by their points: those of shapes, of masks and of ways alike.
func init() {
	register(
		row{"points", "`path`: `layers/ID`, `layers/ID/masks/ID`, `layers/ID/treatments/ID/masks/ID`, or one of these and `/motion/place`, its way; `picks` (points, from 0); `way`: `move`, `in`, `out` (a handle; `middle`: it alone) with `from`, `to`, `keep`, `snap`; `add` (on the line, where `to` lies); `remove`, `corner`, `smooth`, `open` (a closed path opens at a point, an open one becomes two layers), `shut`, `join`",
			"changes a path; points are added and taken out in all of its keys and formats; those of a way are keys", changePoints},
	)
}

// points reads a path's value, and writes one.
func pathOf(v scheme.Value, closed bool) geom.Path {
	p := geom.Path{Closed: closed}
	n := v.Numbers
	for i := 0; i+geom.NodeWidth <= len(n); i += geom.NodeWidth {
		p.Nodes = append(p.Nodes, geom.Node{X: n[i], Y: n[i+1], InX: n[i+2], InY: n[i+3], OutX: n[i+4], OutY: n[i+5]})
	}
	return p
}

func valueOf(p geom.Path) scheme.Value {
	v := scheme.Value{Wide: geom.NodeWidth, Numbers: make([]float64, 0, len(p.Nodes)*geom.NodeWidth)}
	for _, n := range p.Nodes {
		for _, x := range []float64{n.X, n.Y, n.InX, n.InY, n.OutX, n.OutY} {
			v.Numbers = append(v.Numbers, math.Round(x*1e6)/1e6+0) // no -0
		}
	}
	return v
}

// outlined is a path that is worked on: whose it is, what it says, and how it lies.
type outlined struct {
	path  string // of the thing, as the document has it
	node  *template.Node
	drawn geom.Path       // as it is seen, in shares of its box
	lies  geom.Projective // shares to px of the canvas
}

// outline finds the drawn path of a thing as it lies at the frame that is looked at.
func (b *bench) outline(path string) (o outlined, err error) {
	at, err := b.spot(path)
	if err != nil {
		return o, err
	}
	y := at.layer
	if o.path, o.node = at.path, at.node; o.node.Sort() == scheme.Treatments {
		return o, fmt.Errorf("path: %q is neither a layer nor a mask", path)
	}
	form := o.form()
	if o.node.Text(form.Kind) != string(geom.Drawn) || !form.Kind.For(o.node.Kind) {
		return o, fmt.Errorf("%s is no drawn path", y.Name)
	}
	sc, err := b.scene()
	if err != nil {
		return o, err
	}
	now := sc.Time().At(timing.OutputFrame(min(max(b.act.Frame, 0), sc.Frames()-1)))
	list := sc.Forms(at.seen, now)
	i := slices.IndexFunc(list, func(f scene.Formed) bool { return f.Path == path })
	if i < 0 {
		return o, fmt.Errorf("%s is not there in this format", y.Name)
	}
	f := list[i]
	o.drawn = geom.Path{Nodes: slices.Clone(f.Form.Path.Nodes), Closed: f.Form.Path.Closed}
	o.lies = geom.Scale(f.Form.Size.W, f.Form.Size.H).Flat().Then(f.Map)
	return o, nil
}

func (o *outlined) form() scheme.Form {
	if o.node.Sort() == scheme.Masks {
		return scheme.MaskForm
	}
	return scheme.LayerForm
}

// eachPath puts another in the place of every path that is said of the thing: at rest, in keys, in
// formats, in uses of the motif it is in, and at stops of entries.
func (b *bench) eachPath(o *outlined, f func(geom.Path) geom.Path) {
	at := o.at()
	b.pathsAs(o, nil, f)
	b.retie(func(t template.Tie) []template.Tie {
		if inMotif(t.To) == at {
			t.Stops = o.stops(t.Stops, f)
		}
		return []template.Tie{t}
	})
}

// pathsAs says what is said of a path, but for stops of entries, of the thing itself, or of a copy
// whose layer has another id.
func (b *bench) pathsAs(o *outlined, ids map[string]string, f func(geom.Path) geom.Path) {
	at := o.at()
	to := func(path string) string {
		if other, ok := repathed(path, ids); ok {
			return other
		}
		return path
	}
	v := o.changed(o.node.Get(o.form().Path), f)
	b.add(edit.DraftOp{Kind: "set", Path: to(at), Value: &v})
	b.keyed(o, to(at), f)
	for _, fm := range b.doc.Formats {
		for _, path := range sorted(fm.Rest) {
			if inMotif(path) == at {
				v := o.changed(fm.Rest[path], f)
				b.add(edit.DraftOp{Kind: "set", Path: to(path), Value: &v, Format: fm.ID})
			}
		}
	}
	b.doc.VisitAll(func(_ string, y *template.Layer) {
		for _, path := range sorted(y.Own) {
			if inMotif(path) == at {
				part, _ := json.Marshal(o.changed(y.Own[path], f))
				b.add(edit.DraftOp{Kind: "put", Path: "layers/" + y.ID + "/values/" + to(path), Part: part})
			}
		}
	})
}

// keyed puts others in the place of the paths of keys.
func (b *bench) keyed(o *outlined, to string, f func(geom.Path) geom.Path) {
	m := o.node.Motion[o.form().Path.Name]
	if m == nil {
		return
	}
	c := *m
	c.Keys = slices.Clone(m.Keys)
	for i := range c.Keys {
		c.Keys[i].Value = o.changed(c.Keys[i].Value, f)
	}
	b.add(edit.DraftOp{Kind: "keys", Path: to, Move: &c})
}

// at is where the document has its path.
func (o *outlined) at() string { return o.path + "/" + o.form().Path.Name }

func (o *outlined) changed(v scheme.Value, f func(geom.Path) geom.Path) scheme.Value {
	return valueOf(f(pathOf(v, o.drawn.Closed)))
}

func (o *outlined) stops(of []template.Stop, f func(geom.Path) geom.Path) []template.Stop {
	of = slices.Clone(of)
	for i := range of {
		of[i].Value = o.changed(of[i].Value, f)
	}
	return of
}

// picked are the points that an act names, in order, each once.
func (a Act) picked(of int, least int) ([]int, error) {
	list := slices.Clone(a.Picks)
	slices.Sort(list)
	list = slices.Compact(list)
	if len(list) < least {
		return nil, errors.New("picks: too few points are selected")
	}
	for _, i := range list {
		if i < 0 || i >= of {
			return nil, fmt.Errorf("picks: there is no point %d", i)
		}
	}
	return list, nil
}

func changePoints(b *bench, a Act) error {
	if of, ok := strings.CutSuffix(a.Path, onWay); ok {
		return b.changeWay(of, a)
	}
	o, err := b.outline(a.Path)
	if err != nil {
		return err
	}
	name := o.node.Name
	if name == "" {
		_, id := cutUse(strings.Split(a.Path, "/")[1])
		name = "the mask of " + b.doc.Layer(id).Name
	}
	count := len(o.drawn.Nodes)
	switch a.Way {
	case "move", "in", "out":
		b.title = "Move points of " + name
		return b.movePoints(&o, a)
	case "add":
		b.title = "Add a point to " + name
		if count >= geom.MaxNodes {
			return fmt.Errorf("%s has %d points already", name, count)
		}
		// The nearest place is looked for where distances are those that are seen.
		segment, t, _ := o.drawn.Through(o.lies).Nearest(geom.Point{X: a.To[0], Y: a.To[1]})
		b.eachPath(&o, func(p geom.Path) geom.Path { return p.Split(segment, t) })
		return nil
	case "remove":
		list, err := a.picked(count, 1)
		if err != nil {
			return err
		}
		if count-len(list) < 2 {
			return fmt.Errorf("a path has 2 points or more; delete %s instead", name)
		}
		b.title = "Take points out of " + name
		b.eachPath(&o, func(p geom.Path) geom.Path { return p.Without(list) })
		return nil
	case "corner", "smooth":
		list, err := a.picked(count, 1)
		if err != nil {
			return err
		}
		b.title = map[string]string{"corner": "Corners in ", "smooth": "Curves in "}[a.Way] + name
		b.eachPath(&o, func(p geom.Path) geom.Path {
			if a.Way == "corner" {
				return p.Cornered(list)
			}
			return p.Smoothed(list)
		})
		return nil
	case "open", "shut", "join":
		return b.endPoints(&o, a, name)
	}
	return fmt.Errorf("way: %q is not one of move, in, out, add, remove, corner, smooth, open, shut and join", a.Way)
}

// endPoints opens a path, shuts it, or makes one of points that follow one another.
func (b *bench) endPoints(o *outlined, a Act, name string) error {
	count := len(o.drawn.Nodes)
	open := o.path + "/" + o.form().Open.Name
	put := func(is bool) {
		v := scheme.Is(is)
		b.add(edit.DraftOp{Kind: "set", Path: open, Value: &v})
		for _, f := range b.doc.Formats {
			if _, ok := f.Rest[open]; ok {
				b.add(edit.DraftOp{Kind: "put", Path: "formats/" + f.ID + "/rest/" + open})
			}
		}
	}
	if a.Way != "join" && o.node.Moves(o.form().Open) {
		return fmt.Errorf("whether %s is open has keys or a formula", name)
	}
	switch a.Way {
	case "open":
		list, err := a.picked(count, 1)
		if err != nil || len(list) > 1 {
			return errors.New("select one point; the path breaks there")
		}
		if !o.drawn.Closed {
			return b.breakIn(o, list[0], name)
		}
		b.title = "Open " + name
		b.eachPath(o, func(p geom.Path) geom.Path { return p.Opened(list[0]) })
		put(true)
	case "shut":
		if o.drawn.Closed {
			return fmt.Errorf("%s is closed already", name)
		}
		b.title = "Close " + name
		// Ends become one where they lie on one another in all that is said of the path.
		near := !slices.ContainsFunc(b.said(o), func(p geom.Path) bool { return len(p.Shut(1e-4).Nodes) == len(p.Nodes) })
		b.eachPath(o, func(p geom.Path) geom.Path {
			if near {
				return p.Shut(1e-4)
			}
			return p.Shut(-1)
		})
		put(false)
	case "join":
		list, err := a.picked(count, 2)
		if err != nil {
			return err
		}
		if !o.drawn.Closed && len(list) == 2 && list[0] == 0 && list[1] == count-1 { // the ends
			a.Way = "shut"
			return b.endPoints(o, a, name)
		}
		first, last, ok := run(list, count, o.drawn.Closed)
		if !ok {
			return errors.New("select points that follow one another, or the two ends of an open path")
		}
		if count-len(list)+1 < 2 {
			return fmt.Errorf("a path has 2 points or more; delete %s instead", name)
		}
		b.title = "Join points of " + name
		b.eachPath(o, func(p geom.Path) geom.Path { return p.Merged(first, last) })
	}
	return nil
}

// breakIn makes two lines of an open one, in all that is said of it: what comes after a point is a
// copy of its layer right above, with the same looks and on the sheet wherever the layer is.
func (b *bench) breakIn(o *outlined, at int, name string) error {
	y, ok := b.doc.Layer(o.node.ID), o.node.Sort() == scheme.Layers
	switch {
	case !ok:
		return errors.New("a mask is one path; draw another beside it")
	case at == 0 || at == len(o.drawn.Nodes)-1:
		return fmt.Errorf("%s ends there already; select a point between its ends", name)
	}
	into, place := b.parentOf(y.ID)
	b.title = "Break " + name
	id, err := b.copyOf(y, into, place+1)
	if err != nil {
		return err
	}
	as := map[string]string{y.ID: id}
	before := func(p geom.Path) geom.Path { return p.Before(at) }
	after := func(p geom.Path) geom.Path { return p.After(at) }
	b.pathsAs(o, nil, before)
	b.pathsAs(o, as, after)
	b.alsoTied(as, func(t, copy *template.Tie) {
		if inMotif(t.To) == o.at() {
			t.Stops, copy.Stops = o.stops(t.Stops, before), o.stops(copy.Stops, after)
		}
	})
	return nil
}

// said are all paths that eachPath would change.
func (b *bench) said(o *outlined) (out []geom.Path) {
	dry := bench{doc: b.doc, ties: map[string][]template.Tie{}}
	dry.eachPath(o, func(p geom.Path) geom.Path {
		out = append(out, p)
		return p
	})
	return out
}

// run is the first and the last of points that follow one another; round the end of a closed
// path, too.
func run(list []int, count int, closed bool) (first, last int, ok bool) {
	gaps := 0
	first, last = list[0], list[len(list)-1]
	for i, at := range list {
		next := list[(i+1)%len(list)]
		if i == len(list)-1 {
			if !closed {
				break
			}
			next += count
		}
		if next != at+1 {
			gaps++
			first, last = next%count, at
		}
	}
	if !closed {
		return list[0], list[len(list)-1], gaps == 0
	}
	if len(list) == count {
		return 0, count - 1, true
	}
	return first, last, gaps == 1
}

// movePoints moves points, or one of their handles, by a way on the canvas. What keys say moves
// along, and each format keeps what it has of its own: the one that is looked at changes its.
func (b *bench) movePoints(o *outlined, a Act) error {
	changed, err := b.pulled(o, a)
	if err != nil {
		return err
	}
	if b.records(o.at()) {
		return b.recordAs(o.at(), valueOf(changed(o.drawn)))
	}
	at := b.inThisUse(o.at())
	old, format := o.node.Get(o.form().Path), ""
	if b.format != nil {
		own, has := b.format.Rest[at]
		if has {
			old = own
		}
		if has || a.Apart {
			format = b.format.ID
		}
	}
	if b.use != "" && strings.Contains(at, inUse) && format == "" {
		if v, given, err := b.doc.Get(at); err == nil && given {
			old = v
		}
	}
	v := o.changed(old, changed)
	b.add(edit.DraftOp{Kind: "set", Path: at, Value: &v, Format: format})
	if format == "" {
		b.keyed(o, o.at(), changed)
	}
	return nil
}

// pulled is what becomes of a path as points of the one that is seen, or one of their handles,
// are moved by a way on the canvas.
func (b *bench) pulled(o *outlined, a Act) (func(geom.Path) geom.Path, error) {
	list, err := a.picked(len(o.drawn.Nodes), 1)
	if err != nil {
		return nil, err
	}
	inv, ok := o.lies.Invert()
	if !ok {
		return nil, errors.New("it is seen edge on; nothing can be drawn on it")
	}
	by := geom.Point{X: a.To[0] - a.From[0], Y: a.To[1] - a.From[1]}
	if a.Keep {
		if math.Abs(by.X) >= math.Abs(by.Y) {
			by.Y = 0
		} else {
			by.X = 0
		}
	}
	if a.Snap > 0 {
		by, b.plan.Guides = b.snapPoint(nil, geom.Point{X: a.From[0], Y: a.From[1]}, by, a.Snap)
	}
	// By how much each of the numbers changes, in shares.
	change := make([]geom.Node, len(o.drawn.Nodes))
	for _, i := range list {
		n := o.drawn.Nodes[i]
		at := geom.Point{X: n.X, Y: n.Y}
		to := func(p geom.Point) geom.Point {
			q := o.lies.Apply(p)
			return inv.Apply(geom.Point{X: q.X + by.X, Y: q.Y + by.Y})
		}
		d := &change[i]
		switch a.Way {
		case "move":
			q := to(at)
			d.X, d.Y = q.X-at.X, q.Y-at.Y
		case "in", "out":
			hx, hy := n.InX, n.InY
			if a.Way == "out" {
				hx, hy = n.OutX, n.OutY
			}
			q := to(geom.Point{X: at.X + hx, Y: at.Y + hy})
			nx, ny := q.X-at.X, q.Y-at.Y
			ox, oy := opposite(o.lies, n, geom.Point{X: nx, Y: ny}, a.Way == "out", a.Middle)
			if a.Way == "in" {
				d.InX, d.InY, d.OutX, d.OutY = nx-hx, ny-hy, ox-n.OutX, oy-n.OutY
			} else {
				d.OutX, d.OutY, d.InX, d.InY = nx-hx, ny-hy, ox-n.InX, oy-n.InY
			}
		}
	}
	return func(p geom.Path) geom.Path {
		out := geom.Path{Nodes: slices.Clone(p.Nodes), Closed: p.Closed}
		for i, d := range change[:min(len(change), len(out.Nodes))] {
			n := &out.Nodes[i]
			n.X, n.Y = n.X+d.X, n.Y+d.Y
			n.InX, n.InY, n.OutX, n.OutY = n.InX+d.InX, n.InY+d.InY, n.OutX+d.OutX, n.OutY+d.OutY
		}
		return out
	}, nil
}

// opposite is what a node's other handle becomes when one is moved: where both lay on one line
// it turns along, and keeps its length; on a node without any it becomes the same, mirrored.
// Alone says that it stays.
func opposite(lies geom.Projective, n geom.Node, to geom.Point, out, alone bool) (x, y float64) {
	hx, hy, ox, oy := n.InX, n.InY, n.OutX, n.OutY
	if out {
		hx, hy, ox, oy = ox, oy, hx, hy
	}
	switch {
	case alone:
		return ox, oy
	case hx == 0 && hy == 0 && ox == 0 && oy == 0:
		return -to.X, -to.Y
	case ox == 0 && oy == 0:
		return 0, 0
	}
	// On one line as they are seen.
	at := lies.Apply(geom.Point{X: n.X, Y: n.Y})
	seen := func(x, y float64) geom.Point {
		p := lies.Apply(geom.Point{X: n.X + x, Y: n.Y + y})
		return geom.Point{X: p.X - at.X, Y: p.Y - at.Y}
	}
	h, o, t := seen(hx, hy), seen(ox, oy), seen(to.X, to.Y)
	lh, lo, lt := math.Hypot(h.X, h.Y), math.Hypot(o.X, o.Y), math.Hypot(t.X, t.Y)
	if lh == 0 || lo == 0 || lt == 0 || (h.X*o.X+h.Y*o.Y)/(lh*lo) > -0.9995 {
		return ox, oy // a corner with two handles
	}
	inv, ok := lies.Invert()
	if !ok {
		return ox, oy
	}
	p := inv.Apply(geom.Point{X: at.X - t.X/lt*lo, Y: at.Y - t.Y/lt*lo})
	return p.X - n.X, p.Y - n.Y
}
