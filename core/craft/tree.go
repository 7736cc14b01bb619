package craft

import (
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"reflect"
	"slices"
	"strings"

	"ivypocket/core/edit"
	"ivypocket/core/geom"
	"ivypocket/core/scene"
	"ivypocket/core/scheme"
	"ivypocket/core/template"
)

// What is done to layers in their tree.
func init() {
	register(
		row{"group", "`layers`, `name`", "groups them, with what stands behind words among them; refused where the picture would be another", group},
		row{"ungroup", "`layers`", "takes groups away and leaves what is in them where it is; refused where the picture would be another", ungroup},
		row{"nest", "`layers`, `into` (a list such as `layers` or `layers/band/layers`), `at`", "puts layers elsewhere in the tree, with what stands behind words among them; where they stand on the canvas stays", nest},
		row{"stack", "`layers`, `way`: `up`, `down`, `top`, `bottom`", "restacks", stack},
		row{"duplicate", "`layers`", "puts copies right above them", duplicate},
		row{"discard", "`layers`", "deletes layers, with all that speaks of them", discard},
		row{"mark", "`layers`, `path`: `hidden` or `locked`, `value`", "hides, shows, locks, unlocks", mark},
	)
}

// isBox reports whether a layer has edges of its own.
func isBox(y *template.Layer) bool { return y.Can(scheme.Box) }

// backings takes what stands behind words along to where those go, which is no place that
// either goes to alone.
func (b *bench) backings(into string) error {
	all := slices.Clone(b.act.Layers)
	var failed error
	b.doc.VisitAll(func(_ string, y *template.Layer) {
		of := b.doc.Layer(y.Text(scheme.BackOf))
		if of == nil {
			return
		}
		words, backing := slices.Contains(all, of.ID), slices.Contains(all, y.ID)
		if in, _ := b.parentOf(y.ID); in == into || words == backing {
			return
		}
		if backing {
			failed = fmt.Errorf("%s stands behind %s and goes where they go; take %s along", y.Name, of.Name, of.Name)
			return
		}
		b.act.Layers = append(slices.Clone(b.act.Layers), y.ID)
	})
	return failed
}

func group(b *bench, a Act) error {
	if err := b.backings(""); err != nil {
		return err
	}
	list, err := b.chosen()
	if err != nil {
		return err
	}
	into, top := b.parentOf(list[len(list)-1].ID)
	depth := strings.Count(into, "/")
	// The group goes where the topmost of those lies that are in the outermost list.
	for _, y := range list {
		if in, at := b.parentOf(y.ID); strings.Count(in, "/") <= depth {
			into, top, depth = in, at, strings.Count(in, "/")
		}
	}
	for _, y := range list {
		if in, _ := b.parentOf(y.ID); in != into {
			return fmt.Errorf("%s is in another group than %s; bring them together first", y.Name, list[len(list)-1].Name)
		}
	}
	name := strings.TrimSpace(a.Name)
	if name == "" {
		name = "Group"
	}
	id := b.freeID(name)
	with := object{"id": id, "name": name, "kind": scheme.Group.Name}
	if o, ok := b.middle(list); ok {
		with["origin"] = o
	}
	part, err := json.Marshal(with)
	if err != nil {
		return err
	}
	b.title = "Group " + b.called(a.Layers)
	b.add(edit.DraftOp{Kind: "add", Into: into, At: top + 1, Part: part})
	for i, y := range list {
		b.add(edit.DraftOp{Kind: "move", Path: "layers/" + y.ID, Into: "layers/" + id + "/layers", At: i})
	}
	b.plan.Chosen = []string{id}
	return b.unchanged(func(frame int64, format string) error {
		siblings, err := b.listAt(into)
		if err != nil {
			return err
		}
		first := slices.IndexFunc(siblings, func(y *template.Layer) bool { return y.ID == list[0].ID })
		for _, y := range siblings[first : top+1] {
			if !slices.Contains(list, y) {
				return fmt.Errorf("%s lies between them and would come to lie under or over them; move it first, or take it into the group", y.Name)
			}
		}
		for _, y := range list {
			if y.Kind == scheme.Camera {
				return fmt.Errorf("in a group, %s acts on what is in the group alone: the picture would change", y.Name)
			}
		}
		return fmt.Errorf("frame %d of the format %s would look otherwise", frame, format)
	})
}

// middle is the middle of some layers of one list as they stand in the format that is looked
// at, in shares of what they are in: about it their group will turn and grow, as somebody who
// sees them expects.
func (b *bench) middle(list []*template.Layer) (share []float64, ok bool) {
	if b.format == nil {
		return nil, false
	}
	all, err := b.stand()
	if err != nil {
		return nil, false
	}
	var corners []geom.Point
	var owner geom.Size
	var up geom.Projective
	for i := range all {
		s := &all[i]
		if slices.ContainsFunc(list, func(y *template.Layer) bool { return y.ID == s.Layer }) {
			box := s.Box()
			c := box.Corners()
			corners = append(corners, c[:]...)
			owner, up = s.Now.Owner, s.Up
		}
	}
	inv, flat := up.Invert()
	if len(corners) == 0 || !flat || owner.W <= 0 || owner.H <= 0 {
		return nil, false
	}
	p := inv.Apply(geom.Bounds(corners...).Centre())
	share = []float64{math.Round(p.X/owner.W*1e4) / 1e4, math.Round(p.Y/owner.H*1e4) / 1e4}
	for _, v := range share {
		if !(math.Abs(v) <= scheme.MaxShare) {
			return nil, false
		}
	}
	return share, share[0] != 0.5 || share[1] != 0.5
}

func ungroup(b *bench, a Act) error {
	list, err := b.chosen()
	if err != nil {
		return err
	}
	b.title = "Ungroup " + b.called(a.Layers)
	for _, g := range list {
		if g.Kind != scheme.Group {
			return fmt.Errorf("%s is no group", g.Name)
		}
		if why := kept(g); why != "" {
			return fmt.Errorf("%s has %s, which would be lost; take that off first", g.Name, why)
		}
		if by := b.readers(g.ID); by != "" {
			return fmt.Errorf("%s is spoken of by %s; change that first", g.Name, by)
		}
		into, at := b.parentOf(g.ID)
		for i, y := range g.Layers() {
			if err := b.out(g, y); err != nil {
				return err
			}
			b.add(edit.DraftOp{Kind: "move", Path: "layers/" + y.ID, Into: into, At: at + 1 + i})
			b.plan.Chosen = append(b.plan.Chosen, y.ID)
		}
		b.forget("layers/" + g.ID)
		b.add(edit.DraftOp{Kind: "remove", Path: "layers/" + g.ID})
	}
	return b.unchanged(func(frame int64, format string) error {
		for _, g := range list {
			for _, y := range g.Layers() {
				if len(y.Motion) > 0 || len(y.Formulas) > 0 {
					return fmt.Errorf("%s moves in %s, and would move otherwise without it (frame %d, %s)", y.Name, g.Name, frame, format)
				}
			}
		}
		return fmt.Errorf("frame %d of the format %s would look otherwise", frame, format)
	})
}

// kept names what a group has that its layers can't take over.
func kept(g *template.Layer) string {
	switch {
	case len(g.Motion) > 0:
		return "motion"
	case len(g.Formulas) > 0:
		return "a formula"
	case g.Number(scheme.Opacity) != 1:
		return "an opacity"
	case g.Text(scheme.Blend) != "normal":
		return "a blend"
	case g.Given(scheme.MatteLayer):
		return "a matte"
	case len(g.Masks()) > 0:
		return "masks"
	case len(g.Treatments()) > 0:
		return "treatments"
	case g.Given(scheme.CopiesCount):
		return "copies"
	case g.Given(scheme.BlurSamples):
		return "motion blur"
	case g.On(scheme.Clips):
		return "a clip at its box"
	case g.Given(scheme.Follow):
		return "somebody it follows"
	case g.On(scheme.Hidden):
		return "been hidden"
	case g.Given(scheme.In) || g.Given(scheme.Out) || g.Given(scheme.Shift):
		return "a time of its own"
	}
	return ""
}

// out gives a layer that leaves a group the place, scale and turn at which it stands
// where it did, in every format.
func (b *bench) out(g, y *template.Layer) error {
	if !y.Can(scheme.Moves) {
		return nil
	}
	plain := !g.Flows()
	for _, p := range []*scheme.Property{scheme.Place, scheme.Size, scheme.Scale, scheme.Turn, scheme.Skew, scheme.Corners,
		scheme.Anchor, scheme.CellLayout, scheme.Covers} {
		plain = plain && !g.Given(p)
	}
	for _, f := range b.doc.Formats {
		for path := range f.Rest {
			plain = plain && !strings.HasPrefix(path, "layers/"+g.ID+"/")
		}
	}
	if plain {
		return nil // it lies over its own group or canvas exactly
	}
	return b.refit([]string{y.ID}, func(s scene.Standing, of map[string]scene.Standing) (scene.Standing, bool) {
		up, ok := of[s.Parent]
		if !ok {
			return s, false
		}
		s.Up, s.Now.Owner, s.Rest.Owner = up.Up, up.Now.Owner, up.Rest.Owner
		return s, true
	})
}

// nest puts layers into another list. Where they stand on the canvas stays.
func nest(b *bench, a Act) error {
	into := a.Into
	if into == "" {
		into = "layers"
	}
	if err := b.backings(into); err != nil {
		return err
	}
	list, err := b.chosen()
	if err != nil {
		return err
	}
	target, err := b.listAt(into)
	if err != nil {
		return err
	}
	at := a.At
	if at < 0 || at > len(target) {
		at = len(target)
	}
	var before *template.Layer // what they are put below, if anything
	for _, y := range target[at:] {
		if !slices.Contains(list, y) {
			before = y
			break
		}
	}
	where := "to the top level"
	group := strings.TrimSuffix(strings.TrimPrefix(into, "layers/"), "/layers")
	if g := b.doc.Layer(group); g != nil {
		where = "into " + g.Name
		for _, y := range list {
			if y.ID == g.ID || y.Holds(g.ID) {
				return fmt.Errorf("%s can't go into itself", y.Name)
			}
		}
	}
	var gone []string
	for _, y := range list {
		// What uses say of a layer would be said of nothing.
		if from, to := b.motifAround(y.ID), b.motifAround(group); from != to {
			if from == nil {
				return fmt.Errorf("%s is not in the motif %s; cut it, and paste it there", y.Name, to.Name)
			}
			return fmt.Errorf("%s is in the motif %s; cut it there, and paste it where it is to go", y.Name, from.Name)
		}
		if in, _ := b.parentOf(y.ID); in != into {
			gone = append(gone, y.ID)
		}
	}
	if len(gone) == 0 {
		b.title = "Restack " + b.called(a.Layers)
	} else {
		b.title = "Move " + b.called(a.Layers) + " " + where
		if err := b.refit(gone, func(s scene.Standing, of map[string]scene.Standing) (scene.Standing, bool) {
			g, ok := of[group]
			if !ok { // to the canvas
				if s.Parent == "" {
					return s, false
				}
				root := of[s.Parent]
				for root.Parent != "" {
					root = of[root.Parent]
				}
				s.Up, s.Now.Owner, s.Rest.Owner = root.Up, root.Now.Owner, root.Rest.Owner
				return s, true
			}
			s.Up, s.Now.Owner, s.Rest.Owner = g.World, g.Now.Size, g.Rest.Size
			return s, true
		}); err != nil {
			return err
		}
	}
	// One after another below what they are put under, as they lie now.
	order := slices.Clone(target)
	for _, y := range list {
		from := slices.Index(order, y)
		if from >= 0 {
			order = slices.Delete(order, from, from+1)
		}
		to := len(order)
		if before != nil {
			to = slices.Index(order, before)
		}
		order = slices.Insert(order, to, y)
		if from != to {
			b.add(edit.DraftOp{Kind: "move", Path: "layers/" + y.ID, Into: into, At: to})
		}
	}
	return nil
}

// motifAround is the motif that a layer is in, or is, nil for none.
func (b *bench) motifAround(id string) *template.Layer {
	for _, m := range b.doc.Motifs {
		if m.ID == id || m.Holds(id) {
			return m
		}
	}
	return nil
}

// stack moves layers among those they lie with.
func stack(b *bench, a Act) error {
	list, err := b.chosen()
	if err != nil {
		return err
	}
	lists := map[string][]*template.Layer{}
	var intos []string
	for _, y := range list {
		into, _ := b.parentOf(y.ID)
		if lists[into] == nil {
			intos = append(intos, into)
		}
		lists[into] = append(lists[into], y)
	}
	verbs := map[string]string{"up": "Raise ", "down": "Lower ", "top": "Bring to the top ", "bottom": "Send to the bottom "}
	b.title = verbs[a.Way] + b.called(a.Layers)
	for _, into := range intos {
		all, err := b.listAt(into)
		if err != nil {
			return err
		}
		next, err := stacked(all, lists[into], a.Way)
		if err != nil {
			return err
		}
		order := slices.Clone(all)
		for at, y := range next {
			if from := slices.Index(order, y); from != at {
				order = slices.Insert(slices.Delete(order, from, from+1), at, y)
				b.add(edit.DraftOp{Kind: "move", Path: "layers/" + y.ID, Into: into, At: at})
			}
		}
	}
	return nil
}

// stacked is a list with some of it raised or lowered, the lowest first.
func stacked(all, some []*template.Layer, way string) ([]*template.Layer, error) {
	is := func(y *template.Layer) bool { return slices.Contains(some, y) }
	out := slices.Clone(all)
	switch way {
	case "top", "bottom":
		rest := slices.DeleteFunc(slices.Clone(all), is)
		mine := slices.DeleteFunc(slices.Clone(all), func(y *template.Layer) bool { return !is(y) })
		if way == "top" {
			return append(rest, mine...), nil
		}
		return append(mine, rest...), nil
	case "up":
		for i := len(out) - 2; i >= 0; i-- {
			if is(out[i]) && !is(out[i+1]) {
				out[i], out[i+1] = out[i+1], out[i]
			}
		}
		return out, nil
	case "down":
		for i := 1; i < len(out); i++ {
			if is(out[i]) && !is(out[i-1]) {
				out[i], out[i-1] = out[i-1], out[i]
			}
		}
		return out, nil
	}
	return nil, errors.New("way: is none of up, down, top, bottom")
}

// discard removes layers, and what others say of them.
func discard(b *bench, a Act) error {
	list, err := b.chosen()
	if err != nil {
		return err
	}
	b.title = "Delete " + b.called(a.Layers)
	b.plan.Chosen = []string{}
	if err := b.takeAway(list); err != nil {
		return err
	}
	b.letGo(list)
	return nil
}

// letGo forgets recipes of which no layer is left.
func (b *bench) letGo(gone []*template.Layer) {
	went := map[string]bool{}
	for _, y := range gone {
		within(y, func(in *template.Layer) { went[in.ID] = true })
	}
	for _, r := range b.doc.Recipes {
		had, left := false, false
		b.doc.VisitAll(func(_ string, y *template.Layer) {
			if strings.HasPrefix(y.ID, r.ID+"-") {
				had, left = true, left || !went[y.ID]
			}
		})
		if had && !left {
			b.add(edit.DraftOp{Kind: "remove", Path: "recipes/" + r.ID})
		}
	}
}

// takeAway removes layers and what others say of them. One that a formula of what stays
// reads is refused.
func (b *bench) takeAway(list []*template.Layer) error {
	gone := map[string]bool{}
	for _, y := range list {
		within(y, func(in *template.Layer) { gone[in.ID] = true })
	}
	for id := range gone {
		if by := b.reader(id, gone); by != "" {
			return fmt.Errorf("%s is read by the formula of %s; change that first", b.doc.Layer(id).Name, by)
		}
	}
	// What is cut by them, or follows them, does so no more.
	b.doc.VisitAll(func(_ string, y *template.Layer) {
		if gone[y.ID] {
			return
		}
		y.Named(scheme.Layers, func(path string, _ *template.Node, p *scheme.Property, id string) {
			all, _, _ := strings.Cut(p.Name, ".") // with what belongs to it
			switch {
			case !gone[id]:
			case path == "":
				b.add(edit.DraftOp{Kind: "put", Path: "layers/" + y.ID + "/" + all})
			default:
				b.add(edit.DraftOp{Kind: "remove", Path: "layers/" + y.ID + "/" + path})
			}
		})
	})
	for _, y := range list {
		within(y, func(in *template.Layer) { b.forget("layers/" + in.ID) })
		b.add(edit.DraftOp{Kind: "remove", Path: "layers/" + y.ID})
	}
	return nil
}

// within calls f for a layer and all that is in it.
func within(y *template.Layer, f func(*template.Layer)) {
	f(y)
	for _, in := range y.Layers() {
		within(in, f)
	}
}

// forget takes away what formats and ties say of a thing that goes.
func (b *bench) forget(path string) {
	layer, isLayer := strings.CutPrefix(path, "layers/")
	of := func(at string) bool {
		if isLayer { // in uses of the motif it is in, too, and what is in it as a use
			if seg := strings.SplitN(at, "/", 3); seg[0] == "layers" && len(seg) > 1 {
				ids := strings.Split(seg[1], inUse)
				if slices.Contains(ids[:len(ids)-1], layer) {
					return true
				}
				seg[1] = ids[len(ids)-1]
				at = strings.Join(seg, "/")
			}
		}
		return at == path || strings.HasPrefix(at, path+"/")
	}
	b.doc.VisitAll(func(_ string, y *template.Layer) {
		for _, at := range sorted(y.Own) {
			if y.ID != layer && of(at) {
				b.add(edit.DraftOp{Kind: "put", Path: "layers/" + y.ID + "/values/" + at})
			}
		}
	})
	for _, f := range b.doc.Formats {
		for _, at := range sorted(f.Rest) {
			if of(at) {
				b.add(edit.DraftOp{Kind: "put", Path: "formats/" + f.ID + "/rest/" + at})
			}
		}
	}
	b.retie(func(t template.Tie) []template.Tie {
		if of(t.To) {
			return nil
		}
		return []template.Tie{t}
	})
}

// retie puts others in the place of what entries drive, each by what f says, on top of
// what this act has said of them before.
func (b *bench) retie(f func(template.Tie) []template.Tie) {
	for _, e := range b.doc.Sheet.Entries() {
		was, ok := b.ties[e.ID]
		if !ok {
			was = e.Ties
		}
		var now []template.Tie
		for _, t := range was {
			now = append(now, f(t)...)
		}
		if !slices.EqualFunc(now, was, func(x, y template.Tie) bool { return reflect.DeepEqual(x, y) }) {
			b.ties[e.ID] = now
			b.add(edit.DraftOp{Kind: "tie", Entry: e.ID, Ties: now})
		}
	}
}

// reader names a thing, other than those that go too, whose formula reads a layer.
func (b *bench) reader(id string, gone map[string]bool) string {
	name := ""
	b.doc.VisitNodes(func(_, path string, n *template.Node) {
		if part := strings.Split(path, "/"); part[0] == "layers" && gone[part[1]] {
			return
		}
		for _, f := range n.Formulas {
			if template.Reads(f, id) && name == "" {
				if name = n.Name; name == "" {
					name = path
				}
			}
		}
	})
	return name
}

// readers names whoever is cut by, follows or reads a layer.
func (b *bench) readers(id string) string {
	name := b.reader(id, map[string]bool{id: true})
	b.doc.VisitAll(func(_ string, y *template.Layer) {
		y.Named(scheme.Layers, func(_ string, _ *template.Node, _ *scheme.Property, to string) {
			if to == id {
				name = y.Name
			}
		})
	})
	for _, e := range b.doc.Sheet.Entries() {
		for _, t := range e.Ties {
			if strings.HasPrefix(t.To, "layers/"+id+"/") {
				name = "the entry " + e.Label
			}
		}
	}
	return name
}

// mark hides, shows, locks or unlocks layers.
func mark(b *bench, a Act) error {
	list, err := b.chosen()
	if err != nil {
		return err
	}
	p := scheme.Layers.Property(a.Path)
	if p != scheme.Hidden && p != scheme.Locked || a.Value == nil || !a.Value.Truth {
		return errors.New("path: is neither hidden nor locked, true or false")
	}
	verbs := map[string][2]string{"hidden": {"Show ", "Hide "}, "locked": {"Unlock ", "Lock "}}[a.Path]
	b.title = verbs[0] + b.called(a.Layers)
	if a.Value.On() {
		b.title = verbs[1] + b.called(a.Layers)
	}
	for _, y := range list {
		if p.For(y.Kind) && y.On(p) != a.Value.On() {
			b.add(edit.DraftOp{Kind: "set", Path: b.inThisUse("layers/" + y.ID + "/" + p.Name), Value: a.Value})
		}
	}
	return nil
}

// unchanged carries the operations out on a copy and refuses them, with a reason,
// where the picture would be another one in some format at some frame.
func (b *bench) unchanged(why func(frame int64, format string) error) error {
	before := edit.DraftFrom(b.doc)
	after, _, err := before.Do(edit.DraftOp{Kind: "batch", Ops: b.ops})
	if err != nil {
		return err
	}
	next := &bench{doc: after.Doc, lib: b.lib}
	var x, y scene.List
	for i := range b.doc.Formats {
		f := &b.doc.Formats[i]
		was, err1 := b.sceneIn(f)
		is, err2 := next.sceneIn(after.Doc.Format(f.ID))
		if err := errors.Join(err1, err2); err != nil {
			return err
		}
		for _, n := range looked(b.doc, was) {
			size := scene.Size{W: f.Width, H: f.Height}
			was.At(&x, was.Time().At(n), size)
			is.At(&y, is.Time().At(n), size)
			if !scene.Alike(&x, &y) {
				return why(int64(n), f.Name)
			}
		}
	}
	return nil
}
