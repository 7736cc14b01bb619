package craft

import (
	"encoding/json"
	"errors"
	"fmt"
	"maps"
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

// What is done with formats.
func init() {
	register(
		row{"format-add", "`to` (width, height), `name`, `id` (the one it is like; none is the one looked at)", "adds a format, laid out like another", addFormat},
		row{"format-copy", "`id`", "adds a format that is as this one is", copyFormat},
		row{"format-lay", "`id` (the one that is laid out), `into` (the one it is laid out like)", "lays a format out anew, like another; what it has of its own goes", layFormat},
		row{"format-remove", "`id`", "removes a format", removeFormat},
		row{"format-size", "`id`, `to`, `name`", "gives a format another size, laid out anew, or another name", sizeFormat},
		row{"join", "`path` (none is all)", "takes back what the format that is looked at has of its own", join},
	)
}

// FormatName is what people call a canvas by its shape.
func FormatName(w, h int) string {
	switch {
	case w == h:
		return "Square"
	case w > h:
		return "Landscape"
	}
	return "Vertical"
}

func sides(to [2]float64) (w, h int, err error) {
	w, h = int(to[0]), int(to[1])
	for _, side := range []int{w, h} {
		if side < scheme.MinSide || side > scheme.MaxSide || side%2 != 0 {
			return 0, 0, fmt.Errorf("a canvas has even sides from %d to %d px; %d × %d has not", scheme.MinSide, scheme.MaxSide, w, h)
		}
	}
	return w, h, nil
}

func (b *bench) formatName(name string, w, h int, but string) string {
	if name = strings.TrimSpace(name); name != "" {
		return name
	}
	taken := func(n string) bool {
		return slices.ContainsFunc(b.doc.Formats, func(f template.Format) bool { return f.Name == n && f.ID != but })
	}
	if name = FormatName(w, h); taken(name) {
		name = fmt.Sprintf("%s %d × %d", name, w, h)
	}
	return name
}

func addFormat(b *bench, a Act) error {
	w, h, err := sides(a.To)
	if err != nil {
		return err
	}
	like := b.format
	if a.Id != "" {
		like = b.doc.Format(a.Id)
	}
	name := b.formatName(a.Name, w, h, "")
	f := template.Format{ID: b.freeID(name), Name: name, Width: w, Height: h}
	if like != nil {
		if f.Rest, err = b.laidOut(like, f); err != nil {
			return err
		}
	}
	part, err := json.Marshal(f)
	b.title = "Add the format " + name
	b.add(edit.DraftOp{Kind: "add", Into: "formats", At: -1, Part: part})
	return err
}

// layFormat lays a format out like another, as a new one is.
func layFormat(b *bench, a Act) error {
	f, like := b.doc.Format(a.Id), b.doc.Format(a.Into)
	if f == nil || like == nil {
		return fmt.Errorf("there is no format named %q, or none named %q", a.Id, a.Into)
	}
	if f == like {
		return fmt.Errorf("into: %s is laid out like itself already", f.Name)
	}
	rest, err := b.laidOut(like, *f)
	if err != nil {
		return err
	}
	b.title = "Lay " + f.Name + " out like " + like.Name
	if len(rest) == 0 {
		b.add(edit.DraftOp{Kind: "put", Path: "formats/" + f.ID + "/rest"})
		return nil
	}
	return b.putPart("formats/"+f.ID+"/rest", rest)
}

// Stray says which layers of a format lie mostly off its canvas at the instant that stands
// for the template, though they lie mostly on the canvas of another: nobody has laid it out
// for them. Like is the format that has most of them.
type Stray struct {
	Layers []string
	Like   string
}

// Astray finds the formats of a template, by their ids, that are not laid out yet.
func Astray(scenes map[string]*scene.Scene) map[string]Stray {
	lies := map[string]map[string]bool{} // whether a layer lies mostly on a format's canvas
	for id, sc := range scenes {
		c, on := sc.Canvas(), map[string]bool{}
		for _, s := range sc.Standings(sc.Time().At(sc.Poster())) {
			box := s.Box()
			if s.Shown && s.Parent == "" && box.W*box.H > 0 {
				seen := box.Intersect(geom.Box{W: c.W, H: c.H})
				on[s.Layer] = seen.W*seen.H*2 >= min(box.W*box.H, c.W*c.H)
			}
		}
		lies[id] = on
	}
	out := map[string]Stray{}
	for id, here := range lies {
		found, like, most := map[string]bool{}, "", 0
		for _, other := range slices.Sorted(maps.Keys(lies)) {
			n := 0
			for layer, well := range lies[other] {
				if on, there := here[layer]; there && !on && well {
					found[layer] = true
					n++
				}
			}
			if n > most {
				like, most = other, n
			}
		}
		if like != "" {
			out[id] = Stray{slices.Sorted(maps.Keys(found)), like}
		}
	}
	return out
}

func copyFormat(b *bench, a Act) error {
	f := b.doc.Format(a.Id)
	if f == nil {
		return fmt.Errorf("id: there is no format named %q", a.Id)
	}
	next := *f
	for n := 2; slices.ContainsFunc(b.doc.Formats, func(x template.Format) bool { return x.Name == next.Name }); n++ {
		next.Name = fmt.Sprintf("%s %d", f.Name, n)
	}
	next.ID = b.freeID(next.Name)
	part, err := json.Marshal(next)
	b.title = "Duplicate the format " + f.Name
	b.add(edit.DraftOp{Kind: "add", Into: "formats", At: 1 + slices.IndexFunc(b.doc.Formats, func(x template.Format) bool { return x.ID == f.ID }), Part: part})
	return err
}

func removeFormat(b *bench, a Act) error {
	f := b.doc.Format(a.Id)
	if f == nil {
		return fmt.Errorf("id: there is no format named %q", a.Id)
	}
	if len(b.doc.Formats) == 1 {
		return errors.New("id: a template keeps one format at least")
	}
	b.title = "Remove the format " + f.Name
	b.add(edit.DraftOp{Kind: "remove", Path: "formats/" + f.ID})
	return nil
}

// sizeFormat gives a format another name and size. What it has of its own stays, and
// the rest is laid out anew.
func sizeFormat(b *bench, a Act) error {
	f := b.doc.Format(a.Id)
	if f == nil {
		return fmt.Errorf("id: there is no format named %q", a.Id)
	}
	w, h, err := sides(a.To)
	if err != nil {
		return err
	}
	b.title = "Size the format " + f.Name
	next := *f
	next.Name, next.Width, next.Height = b.formatName(a.Name, w, h, f.ID), w, h
	if w == f.Width && h == f.Height {
		b.title = "Rename the format " + f.Name
	} else if len(b.doc.Formats) > 1 || f.Rest != nil {
		if next.Rest, err = b.laidOut(f, next); err != nil {
			return err
		}
	} else { // the only one: what it says is what all say
		rest, err := b.laidOut(f, next)
		if err != nil {
			return err
		}
		for _, path := range sorted(rest) {
			v := rest[path]
			b.add(edit.DraftOp{Kind: "set", Path: path, Value: &v})
		}
	}
	part, err := json.Marshal(next)
	b.add(edit.DraftOp{Kind: "put", Path: "formats/" + f.ID, Part: part})
	return err
}

// join takes back what the format that is looked at has of its own.
func join(b *bench, a Act) error {
	if b.format == nil {
		return errors.New("format: say which format is looked at")
	}
	b.title = "Join " + b.format.Name
	if a.Path != "" {
		b.title = "Join " + b.doc.Called(a.Path) + " in " + b.format.Name
	}
	for _, path := range sorted(b.format.Rest) {
		if a.Path == "" || path == a.Path || strings.HasPrefix(path, a.Path+".") || strings.HasPrefix(path, a.Path+"/") {
			b.add(edit.DraftOp{Kind: "set", Path: path, Format: b.format.ID})
		}
	}
	return nil
}

// laidOut lays a format's canvas out anew on another: what a new format says of its
// own. Layers keep to the shorter side in size and to their part of the canvas in
// place, and what filled a side fills it; cells that lie in a row lie one under another
// where a wide canvas becomes a tall one. No layer with a pocket leaves the canvas.
func (b *bench) laidOut(from *template.Format, to template.Format) (map[string]scheme.Value, error) {
	rest := map[string]scheme.Value{}
	for path, v := range from.Rest {
		rest[path] = v
	}
	was, is := from.Canvas(), to.Canvas()
	in, err := b.doc.For(from)
	if err != nil {
		return nil, err
	}
	sc, err := b.sceneIn(from)
	if err != nil {
		return nil, err
	}
	shown := map[string]scene.Standing{}
	for _, s := range sc.Standings(sc.Time().At(timing.OutputFrame(sc.Poster()))) {
		shown[s.Layer] = s
	}
	k := math.Min(is.W, is.H) / math.Min(was.W, was.H)
	l := layingOut{b: b, in: in, rest: rest, to: to, was: was, is: is, k: k}
	turned := (was.W > was.H) != (is.W > is.H) && was.W != was.H && is.W != is.H
	for _, lay := range in.Layouts {
		l.layout(lay, turned)
	}
	for _, y := range in.Layers {
		if s, ok := shown[y.ID]; ok && y.Can(scheme.Box) {
			l.layer(y, s)
		}
		l.lengths(y, false)
	}
	for _, m := range in.Motifs { // their uses are placed and scaled as groups are
		l.lengths(m, true)
	}
	if len(rest) == 0 {
		return nil, nil
	}
	return rest, nil
}

type layingOut struct {
	b       *bench
	in      *template.Document
	rest    map[string]scheme.Value
	to      template.Format
	was, is geom.Size
	k       float64 // shorter side to shorter side
}

// say writes numbers in px of the new canvas, unless the document says the same there.
func (l *layingOut) say(path string, p *scheme.Property, old scheme.Value, given bool, numbers ...float64) {
	if given && alike(p.Full(old.Resolved(l.is)), p.Full(scheme.Value{Numbers: numbers, Single: len(numbers) == 1})) {
		if _, own := l.rest[path]; !own {
			return
		}
	}
	for at := range l.rest {
		if strings.HasPrefix(at, path+".") {
			delete(l.rest, at)
		}
	}
	l.rest[path] = p.Bounded(l.b.written(p, old, given, &l.to, numbers))
}

// scaled brings a length over by the shorter sides; one in shares is as it is.
func (l *layingOut) scaled(n *template.Node, at string, p *scheme.Property) {
	v, given := n.Value(p)
	if !given || v.Shorter != 0 || l.k == 1 || p.Unit.Px != 1 {
		return
	}
	numbers := slices.Clone(v.Numbers)
	for i := range numbers {
		numbers[i] *= l.k
	}
	l.say(at+"/"+p.Name, p, v, true, numbers...)
}

func (l *layingOut) layout(lay *template.Node, turned bool) {
	at := "layouts/" + lay.ID
	for _, p := range []*scheme.Property{scheme.Gutter, scheme.Margin, scheme.CellRadius} {
		l.scaled(lay, at, p)
	}
	rows, columns := lay.Get(scheme.Rows), lay.Get(scheme.Columns)
	if !turned || len(rows.Numbers) == len(columns.Numbers) {
		return
	}
	l.rest[at+"/rows"], l.rest[at+"/columns"] = scheme.Value{Numbers: columns.Numbers}, scheme.Value{Numbers: rows.Numbers}
	l.in.VisitAll(func(_ string, y *template.Layer) {
		if y.Text(scheme.CellLayout) == lay.ID {
			row, column, down, across := y.Get(scheme.CellRow), y.Get(scheme.CellColumn), y.Get(scheme.CellDown), y.Get(scheme.CellAcross)
			l.rest["layers/"+y.ID+"/cell.row"], l.rest["layers/"+y.ID+"/cell.column"] = column, row
			if !down.Equal(across) {
				l.rest["layers/"+y.ID+"/cell.down"], l.rest["layers/"+y.ID+"/cell.across"] = across, down
			}
		}
	})
}

// lengths brings over the lengths of a layer that are no place and no size: strokes,
// radii, feathers, and all lengths of what is in a group.
func (l *layingOut) lengths(y *template.Node, inside bool) {
	var all func(n *template.Node, at string, inside bool)
	all = func(n *template.Node, at string, inside bool) {
		for _, p := range n.Properties() {
			if p.Unit.Px == 1 && !p.Plain && !p.Shared && (inside || p != scheme.Place && p != scheme.Size) {
				l.scaled(n, at, p)
			}
		}
		for i, part := range n.Sort().Parts {
			for _, m := range n.Part(i) {
				if part.Of == scheme.Layers {
					all(m, "layers/"+m.ID, true)
				} else {
					all(m, at+"/"+part.Name+"/"+m.ID, true)
				}
			}
		}
	}
	all(y, "layers/"+y.ID, inside)
}

// layer gives one on the canvas itself its place and size.
func (l *layingOut) layer(y *template.Layer, s scene.Standing) {
	if s.InCell || s.Flows || y.Fills() && !y.Given(scheme.Place) {
		return // its cell, or the whole canvas
	}
	at := "layers/" + y.ID
	size := s.Rest.Size
	full := [2]bool{math.Abs(size.W-l.was.W) < 0.5, math.Abs(size.H-l.was.H) < 0.5}
	w, h := size.W*l.k, size.H*l.k
	if full[0] {
		w = l.is.W * size.W / l.was.W
	}
	if full[1] {
		h = l.is.H * size.H / l.was.H
	}
	// What was on the canvas is so again: no wider than it, and within its edges.
	box := s.Box()
	inside := box.X >= -0.5 && box.Y >= -0.5 && box.X+box.W <= l.was.W+0.5 && box.Y+box.H <= l.was.H+0.5
	wide, tall := box.W*w/math.Max(size.W, 1), box.H*h/math.Max(size.H, 1)
	shows := y.Kind == scheme.View || holdsView(y)
	if by := math.Min(1, math.Min(l.is.W/wide, l.is.H/tall)); by < 1 && (inside || shows) {
		if !full[0] {
			w, wide = w*by, wide*by
		}
		if !full[1] {
			h, tall = h*by, tall*by
		}
	}
	if y.Can(scheme.Holds) {
		// A group keeps its inside: it is scaled as a whole.
		sx, sy := w/math.Max(size.W, 1)/l.k, h/math.Max(size.H, 1)/l.k
		if by := math.Min(sx, sy); math.Abs(by-1) > 1e-6 && y.Given(scheme.Size) {
			v, given := y.Value(scheme.Scale)
			l.say(at+"/scale", scheme.Scale, v, given, s.Rest.Scale[0]*by, s.Rest.Scale[1]*by)
		}
		w, h = size.W*l.k, size.H*l.k
	}
	if y.Given(scheme.Size) || y.Kind == scheme.Picture {
		v, given := y.Value(scheme.Size)
		l.say(at+"/size", scheme.Size, v, given, w, h)
	}
	// Its middle stands in the same part of the canvas, unless it counts from an edge.
	anchor := scheme.AnchorPoint(y.Text(scheme.Anchor))
	mid := box.Centre()
	to := geom.Point{X: mid.X / l.was.W * l.is.W, Y: mid.Y / l.was.H * l.is.H}
	if anchor[0] != 0.5 {
		to.X = anchor[0]*l.is.W + (mid.X-anchor[0]*l.was.W)*l.k
	}
	if anchor[1] != 0.5 {
		to.Y = anchor[1]*l.is.H + (mid.Y-anchor[1]*l.was.H)*l.k
	}
	if inside || shows {
		to.X = math.Max(wide/2, math.Min(l.is.W-wide/2, to.X))
		to.Y = math.Max(tall/2, math.Min(l.is.H-tall/2, to.Y))
	}
	pose := s.Rest
	pose.Owner, pose.Place = l.is, [2]float64{}
	if !y.Can(scheme.Holds) || y.Given(scheme.Size) {
		pose.Size = geom.Size{W: w, H: h}
	} else {
		pose.Size = l.is
	}
	way, ok := pose.Map()
	if !ok {
		return
	}
	q, ok := way.Quad(geom.Box{W: pose.Size.W, H: pose.Size.H})
	if !ok {
		return
	}
	now := geom.Bounds(q[:]...).Centre()
	v, given := y.Value(scheme.Place)
	if !given {
		v = scheme.Place.Default
	}
	l.say(at+"/place", scheme.Place, v, true, to.X-now.X, to.Y-now.Y)
}

func holdsView(y *template.Layer) bool {
	found := false
	within(y, func(in *template.Layer) { found = found || in.Kind == scheme.View })
	return found
}
