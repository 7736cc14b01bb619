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
	"ivypocket/core/scheme"
	"ivypocket/core/template"
	"ivypocket/core/timing"
)

// Gradients of the document's own, which layers take by name.
func init() {
	register(
		row{"gradient", "`id` (none is a new one), `name`, `layers` (one, which gives the new one its stops, and takes it)", "adds a named gradient, or names it", gradient},
		row{"stops", "`path`: `gradients/ID` or `layers/ID`; `part`: its stops, each with `at` and `colour` and, if it is there already, its `id`", "says which stops a gradient has", setStops},
		row{"gradient-end", "`path`: `layers/ID`; `name`: `from`, `to`; `to` (where it comes to lie, px on the canvas), `snap`", "moves an end of a layer's gradient", moveEnd},
		row{"gradient-remove", "`id`", "removes a named gradient; layers that have it keep its stops as their own", removeGradient},
	)
}

// stop is a stop of a gradient as it is written.
type stop struct {
	ID     string       `json:"id"`
	At     scheme.Value `json:"at"`
	Colour string       `json:"colour"`
}

func stopsOf(n *template.Node) []stop {
	var out []stop
	for _, s := range n.Stops() {
		out = append(out, stop{s.ID, s.Get(scheme.StopAt), s.Text(scheme.StopColour)})
	}
	return out
}

func gradient(b *bench, a Act) error {
	name, err := Said(a.Name, true)
	if err != nil {
		return err
	}
	if a.Id == "" {
		return b.newGradient(a, name)
	}
	g := b.doc.Gradient(a.Id)
	if g == nil {
		return fmt.Errorf("id: there is no gradient %q any more", a.Id)
	}
	b.title = "Name the gradient " + g.Name + " " + name
	return b.putText("gradients/"+a.Id+"/name", name)
}

// setStops gives a gradient other stops. Those that are there already keep what else is said
// of them.
func setStops(b *bench, a Act) error {
	kind, id, _ := strings.Cut(a.Path, "/")
	var n *template.Node
	switch kind {
	case "gradients":
		n = b.doc.Gradient(id)
	case "layers":
		_, id = cutUse(id)
		n = b.doc.Layer(id)
	}
	if n == nil {
		return fmt.Errorf("path: there is no gradient at %q any more", a.Path)
	}
	if kind == "layers" && !n.Gradient() {
		return fmt.Errorf("%s has no gradient", n.Name)
	}
	b.title = "Change the gradient of " + n.Name
	if kind == "gradients" {
		b.title = "Change the gradient " + n.Name
	}
	next, err := readStops(a.Part)
	if err != nil {
		return err
	}
	return b.stops(kind+"/"+id+"/stops", n.Stops(), next)
}

// stops makes one list of stops of another.
func (b *bench) stops(list string, was []*template.Node, next []stop) error {
	var ids []string // as they stand by then
	for _, s := range was {
		if slices.ContainsFunc(next, func(n stop) bool { return n.ID == s.ID }) {
			ids = append(ids, s.ID)
			continue
		}
		b.forget(list + "/" + s.ID)
		b.add(edit.DraftOp{Kind: "remove", Path: list + "/" + s.ID})
	}
	for i, s := range next {
		at := slices.Index(ids, s.ID)
		if at < 0 {
			part, err := json.Marshal(s)
			if err != nil {
				return err
			}
			b.add(edit.DraftOp{Kind: "add", Into: list, At: i, Part: part})
			ids = slices.Insert(ids, i, s.ID)
			continue
		}
		old := was[slices.IndexFunc(was, func(n *template.Node) bool { return n.ID == s.ID })]
		if strings.HasPrefix(list, "layers/") && (b.act.Record || len(old.Motion) > 0) {
			if err := b.seenStop(list+"/"+s.ID, old, s); err != nil {
				return err
			}
			continue
		}
		if at != i {
			b.add(edit.DraftOp{Kind: "move", Path: list + "/" + s.ID, Into: list, At: i})
			ids = slices.Insert(slices.Delete(ids, at, at+1), i, s.ID)
		}
		if !old.Get(scheme.StopAt).Equal(s.At) {
			if err := b.putPart(list+"/"+s.ID+"/at", s.At); err != nil {
				return err
			}
		}
		if old.Text(scheme.StopColour) != s.Colour {
			if err := b.putPart(list+"/"+s.ID+"/colour", s.Colour); err != nil {
				return err
			}
		}
	}
	return nil
}

// seenStop lets a stop of a layer's gradient be seen at a place and in a colour, where one of them has keys or gets one: by a
// key, with all of its keys, or at rest. Its turn among the stops is that of where they rest.
func (b *bench) seenStop(path string, old *template.Node, s stop) error {
	for _, p := range []*scheme.Property{scheme.StopAt, scheme.StopColour} {
		at := path + "/" + p.Name
		want := s.At
		if p == scheme.StopColour {
			want = scheme.Says(s.Colour)
		}
		str, err := b.strand(at)
		if err != nil {
			return err
		}
		_, now, err := b.standing(str)
		if err != nil {
			return err
		}
		switch keyed := len(str.move.Keys) > 0; {
		case p == scheme.StopAt && math.Abs(want.Number()-now[0]) < 5e-4:
		case p == scheme.StopColour && keyed && s.Colour == hex(now), p == scheme.StopColour && !keyed && s.Colour == old.Text(p):
		case b.records(at):
			err = b.recordAs(at, want)
		case keyed:
			err = b.shifted(str, want)
		case !old.Get(p).Equal(want):
			err = b.putPart(at, want)
		}
		if err != nil {
			return err
		}
	}
	return nil
}

// readStops reads stops, in the order of their places, and gives ids to new ones.
func readStops(part json.RawMessage) ([]stop, error) {
	var list []stop
	if err := json.Unmarshal(part, &list); err != nil || len(list) < 2 || len(list) > scheme.MaxStops {
		return nil, fmt.Errorf("part: a gradient has 2 to %d stops", scheme.MaxStops)
	}
	slices.SortStableFunc(list, func(x, y stop) int {
		switch {
		case x.At.Number() < y.At.Number():
			return -1
		case x.At.Number() > y.At.Number():
			return 1
		}
		return 0
	})
	has := func(id string) bool { return slices.ContainsFunc(list, func(s stop) bool { return s.ID == id }) }
	for i := range list {
		if list[i].ID == "" {
			list[i].ID = nextID("s", has)
		}
	}
	return list, nil
}

// newGradient adds a gradient: with the stops that are given, with those of a layer, which
// takes it, or with two colours of the document's.
func (b *bench) newGradient(a Act, name string) error {
	id := b.freeID(name)
	b.title = "Add the gradient " + name
	var stops []stop
	switch {
	case len(a.Layers) > 1:
		return errors.New("layers: name one layer, whose stops it is to have")
	case len(a.Layers) == 1:
		_, inner := cutUse(a.Layers[0])
		y := b.doc.Layer(inner)
		switch {
		case y == nil:
			return fmt.Errorf("there is no layer %q any more", a.Layers[0])
		case y.Given(scheme.GradientNamed):
			return fmt.Errorf("%s has a named gradient already", y.Name)
		case !y.Gradient():
			return fmt.Errorf("%s has no gradient whose stops could have a name", y.Name)
		}
		for _, s := range y.Stops() {
			if s.Changes() {
				return fmt.Errorf("a stop of %s moves, which those of a named gradient can't", y.Name)
			}
		}
		stops = stopsOf(y)
		if err := b.giveStops(y, id); err != nil {
			return err
		}
	default:
		stops = []stop{{"s1", scheme.One(0), newFill}, {"s2", scheme.One(1), "#f3eadb"}}
		for i := range min(2, len(b.doc.Colours)) {
			stops[i].Colour = scheme.NamedColour + b.doc.Colours[i].ID
		}
	}
	part, err := json.Marshal(struct {
		ID    string `json:"id"`
		Name  string `json:"name"`
		Stops []stop `json:"stops"`
	}{id, name, stops})
	b.ops = slices.Insert(b.ops, 0, edit.DraftOp{Kind: "add", Into: "gradients", At: -1, Part: part})
	return err
}

// giveStops lets a layer's stops be those of a gradient: the layer takes it, and what sets
// the stops goes along.
func (b *bench) giveStops(y *template.Layer, id string) error {
	was, now := "layers/"+y.ID+"/stops/", "gradients/"+id+"/stops/"
	v := scheme.Says(id)
	b.add(edit.DraftOp{Kind: "set", Path: "layers/" + y.ID + "/gradient.named", Value: &v})
	for _, f := range b.doc.Formats {
		for _, at := range sorted(f.Rest) {
			if rest, ok := strings.CutPrefix(at, was); ok {
				own := f.Rest[at]
				b.add(edit.DraftOp{Kind: "put", Path: "formats/" + f.ID + "/rest/" + at})
				b.add(edit.DraftOp{Kind: "set", Path: now + rest, Value: &own, Format: f.ID})
			}
		}
	}
	b.retie(func(t template.Tie) []template.Tie {
		if rest, ok := strings.CutPrefix(t.To, was); ok {
			t.To = now + rest
		}
		return []template.Tie{t}
	})
	return b.stops("layers/"+y.ID+"/stops", y.Stops(), nil) // and with it values that uses of a motif have
}

// removeGradient removes a named gradient, unless something else than a layer's own value
// names it, which is told.
func removeGradient(b *bench, a Act) error {
	g := b.doc.Gradient(a.Id)
	if g == nil {
		return fmt.Errorf("id: there is no gradient %q any more", a.Id)
	}
	b.title = "Remove the gradient " + g.Name
	for _, f := range b.doc.Formats {
		for _, at := range sorted(f.Rest) {
			if t, err := b.doc.Find(at); err == nil && t.Property == scheme.GradientNamed && f.Rest[at].Text == a.Id {
				return fmt.Errorf("%s has %s as its own value for %s; choose another there first", f.Name, g.Name, b.doc.Called(at))
			}
		}
	}
	var layers []*template.Layer
	var why error
	b.doc.VisitAll(func(_ string, y *template.Layer) {
		if y.Text(scheme.GradientNamed) == a.Id {
			layers = append(layers, y)
		}
		for _, at := range sorted(y.Own) {
			if strings.HasSuffix(at, "/"+scheme.GradientNamed.Name) && y.Own[at].Text == a.Id {
				why = fmt.Errorf("%s has %s as its own value of its motif; choose another there first", y.Name, g.Name)
			}
		}
	})
	if why != nil {
		return why
	}
	for _, e := range b.doc.Sheet.Entries() {
		if err := b.unoffer(e, g); err != nil {
			return err
		}
	}
	for _, y := range layers {
		b.add(edit.DraftOp{Kind: "set", Path: "layers/" + y.ID + "/gradient.named"})
		if err := b.stops("layers/"+y.ID+"/stops", y.Stops(), stopsOf(g)); err != nil {
			return err
		}
		b.takeRest(g, y)
	}
	b.retie(func(t template.Tie) []template.Tie { // what sets its stops sets those of each layer then
		rest, ok := strings.CutPrefix(t.To, "gradients/"+g.ID+"/")
		if !ok {
			return []template.Tie{t}
		}
		var out []template.Tie
		for _, y := range layers {
			own := t
			own.To = "layers/" + y.ID + "/" + rest
			out = append(out, own)
		}
		return out
	})
	b.forget("gradients/" + a.Id)
	b.add(edit.DraftOp{Kind: "remove", Path: "gradients/" + a.Id})
	return nil
}

// takeRest lets a layer have what formats say of a gradient's stops.
func (b *bench) takeRest(g *template.Node, y *template.Layer) {
	for _, f := range b.doc.Formats {
		for _, at := range sorted(f.Rest) {
			if rest, ok := strings.CutPrefix(at, "gradients/"+g.ID+"/"); ok {
				v := f.Rest[at]
				b.add(edit.DraftOp{Kind: "set", Path: "layers/" + y.ID + "/" + rest, Value: &v, Format: f.ID})
			}
		}
	}
}

// unoffer takes a gradient off what an entry offers.
func (b *bench) unoffer(e *template.Entry, g *template.Node) error {
	for _, t := range e.Ties {
		to, err := b.doc.Find(t.To)
		if err == nil && to.Property == scheme.GradientNamed && slices.ContainsFunc(t.Stops, func(s template.Stop) bool { return s.Value.Text == g.ID }) {
			return fmt.Errorf("%s sets %s at one of its values; let it set another first", e.Label, g.Name)
		}
	}
	if e.Kind != template.GradientEntry {
		return nil
	}
	left := slices.DeleteFunc(slices.Clone(e.Options), func(o template.Option) bool { return o.ID == g.ID })
	switch {
	case len(left) == len(e.Options):
		return nil
	case len(left) < 2:
		return fmt.Errorf("%s would have nothing to choose between; take it off the sheet first", e.Label)
	case e.Default != nil && e.Default.Text == g.ID:
		return fmt.Errorf("%s is the default of %s; choose another first", g.Name, e.Label)
	}
	title := b.title
	err := b.options(e, left)
	b.title = title
	return err
}

// moveEnd moves one of the two points between which a layer's gradient runs.
func moveEnd(b *bench, a Act) error {
	seen, ok := strings.CutPrefix(a.Path, "layers/")
	p := map[string]*scheme.Property{"from": scheme.GradientFrom, "to": scheme.GradientTo}[a.Name]
	if !ok || p == nil {
		return errors.New("name: is neither from nor to, of path: layers/ID")
	}
	var id string
	b.use, id = cutUse(seen)
	y := b.doc.Layer(id)
	switch {
	case y == nil || b.use != "" && b.motifOf(b.use) == nil:
		return fmt.Errorf("path: there is no layer %q any more", seen)
	case b.lockedBy(id) != "":
		return fmt.Errorf("%s is pinned down", b.lockedBy(id))
	}
	sc, err := b.scene()
	if err != nil {
		return err
	}
	look := sc.Look(seen, sc.Time().At(timing.OutputFrame(min(max(b.act.Frame, 0), sc.Frames()-1))))
	if look.Ends == nil {
		return fmt.Errorf("%s has no gradient", y.Name)
	}
	inv, ok := look.Fill.Invert()
	if !ok {
		return fmt.Errorf("%s is seen edge on; nothing can be drawn on it", y.Name)
	}
	at := geom.Point{X: a.To[0], Y: a.To[1]}
	if a.Snap > 0 {
		by, guides := b.snapPoint(nil, at, geom.Point{}, a.Snap)
		at, b.plan.Guides = geom.Point{X: at.X + by.X, Y: at.Y + by.Y}, guides
	}
	q := inv.Apply(at)
	v := scheme.Many(math.Round(q.X*1e5)/1e5+0, math.Round(q.Y*1e5)/1e5+0)
	path := b.inThisUse("layers/" + id + "/" + p.Name)
	format := ""
	if b.format != nil && (a.Apart || b.format.Rest[path].Numbers != nil) {
		format = b.format.ID
	}
	b.title = "Move the gradient of " + y.Name
	if b.records(path) {
		return b.recordAs(path, v)
	}
	if s, err := b.instead(path, y, p); err != nil {
		return err
	} else if s != nil {
		return b.shifted(s, v)
	}
	b.add(edit.DraftOp{Kind: "set", Path: path, Value: &v, Format: format})
	return nil
}
