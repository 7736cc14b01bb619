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

// What cuts a layer, and what is done to its picture.
func init() {
	register(
		row{"mask", "`path`: `layers/ID`, or `layers/ID/treatments/ID`, which is then done within it; `way`: a form (`rectangle`, `ellipse`, `triangle`, `polygon`, `star`, `arrow`), or `box`, `outline` (of what is in a pocket: `pocket`, none is the view's own; or of the letters of a layer: `id`); `from` and `to` (a box that was drawn; none is the layer's own), `snap`, `keep`, `middle`",
			"adds a mask", mask},
		row{"mask-pose", "`path`: `layers/ID/masks/ID` or `layers/ID/treatments/ID/masks/ID`; `way`: `move`, `size` (`handle`, `keep`, `middle`), `turn` (`keep`: steps of 15°), `feather`, `growth`; `from`, `to`, `snap`",
			"moves a mask on its layer, sizes and turns it, and sets its soft edge and its growth", poseMask},
		row{"treat", "`layers`, `way`: a kind of treatments", "adds a treatment to layers", treat},
	)
}

func mask(b *bench, a Act) error {
	if b.format == nil {
		return errors.New("format: say which format is looked at")
	}
	at, inv, own, err := b.masked(a.Path)
	if err != nil {
		return err
	}
	y, m := at.layer, object{}
	if a.Way == "box" || a.Way == "outline" {
		if m["of"] = a.Way; a.Id != "" {
			said := b.doc.Layer(a.Id)
			if said == nil || !said.Can(scheme.Lettered) {
				return fmt.Errorf("id: there are no words %q", a.Id)
			}
			if said == y {
				return fmt.Errorf("id: %s is what is to be masked; name other words", y.Name)
			}
			m[scheme.MaskWords.Name] = a.Id
			return b.addMask(at, m, geom.Box{}, own)
		}
		if a.Pocket != "" {
			m["pocket"] = a.Pocket
		}
		if a.Pocket == "" && y.Kind != scheme.View {
			return fmt.Errorf("pocket: %s shows none; name the one whose media is followed", y.Name)
		}
		return b.addMask(at, m, geom.Box{}, own)
	}
	form, ok := forms[a.Way]
	if !ok || a.Way == "rule" || a.Way == "border" {
		return fmt.Errorf("way: %q is no form of a mask", a.Way)
	}
	for key, v := range form.with {
		m[key] = v
	}
	drawn := b.drawn(a)
	if drawn.W < 1 || drawn.H < 1 {
		return b.addMask(at, m, geom.Box{}, own)
	}
	mid := inv.Apply(drawn.Centre())
	sx, sy := inv.Stretch(drawn)
	// On a layer that is turned it is turned back, and lies as it was drawn. Where it can't, as a
	// layer is skewed or in perspective, it lies upright on that: as large, about the same middle.
	if math.Abs(sx-sy) < 1e-3*sx && inv.IsFlat() {
		x := inv.Apply(geom.Point{X: drawn.Centre().X + 1, Y: drawn.Centre().Y})
		if turn := math.Atan2(x.Y-mid.Y, x.X-mid.X) * 180 / math.Pi; math.Abs(turn) > 0.005 {
			m["turn"] = math.Round(turn*100) / 100
		}
	}
	return b.addMask(at, m, geom.Centred(mid, geom.Size{W: drawn.W * sx, H: drawn.H * sy}), own)
}

// masked is a layer, or a treatment of one, that is to be masked, with the way from the canvas to
// the layer's own px.
func (b *bench) masked(path string) (s spot, inv geom.Projective, own geom.Size, err error) {
	if s, err = b.spot(path); err != nil {
		return s, inv, own, err
	}
	y := s.layer
	switch {
	case s.node.Sort() == scheme.Masks:
		return s, inv, own, fmt.Errorf("path: %q is a mask already; name its layer or its treatment", path)
	case !y.Can(scheme.Seen):
		return s, inv, own, fmt.Errorf("%s can't be masked: it is a %s", y.Name, strings.ToLower(y.Kind.Label))
	case len(s.node.Masks()) >= scheme.MaxMasks:
		return s, inv, own, fmt.Errorf("%s has %d masks already", b.calledSpot(s), len(s.node.Masks()))
	}
	own = b.format.Canvas()
	inv = geom.Identity.Flat()
	all, err := b.stand()
	if err != nil {
		return s, inv, own, err
	}
	at := y.ID
	if !y.Can(scheme.Moves) { // a ground lies over all of what it is in
		into, _ := b.parentOf(y.ID)
		at = b.holder(into)
	}
	for _, st := range all {
		if st.Layer != at {
			continue
		}
		var ok bool
		if inv, ok = st.World.Invert(); !ok {
			return s, inv, own, fmt.Errorf("%s is seen edge on; nothing can be drawn on it", y.Name)
		}
		own = st.Now.Size
	}
	return s, inv, own, nil
}

func (b *bench) drawMask(p geom.Path, a Act) error {
	at, inv, own, err := b.masked(a.Path)
	if err != nil {
		return err
	}
	box, path := boxed(p.Through(inv))
	m := object{"form": object{"kind": string(geom.Drawn), "path": valueOf(path).Tree()}}
	if !p.Closed {
		return errors.New("a mask is a closed path; press its first point to close it")
	}
	return b.addMask(at, m, box, own)
}

// addMask adds a mask whose box lies somewhere on a layer's own.
func (b *bench) addMask(to spot, m object, box geom.Box, own geom.Size) error {
	if box != (geom.Box{W: own.W, H: own.H}) && !box.Size().Empty() {
		mid := box.Centre()
		// On a layer that is seen very small, what is drawn is very large.
		if far := math.Max(math.Max(box.W, box.H), math.Max(math.Abs(mid.X-own.W/2), math.Abs(mid.Y-own.H/2))); far > scheme.MaxLength {
			return fmt.Errorf("on %s, which is seen so small here, the mask would be larger than a mask can be; draw a smaller one, or where it is seen larger", b.calledSpot(to))
		}
		m["size"] = b.lengths(box.W, box.H)
		if at := (geom.Point{X: mid.X - own.W/2, Y: mid.Y - own.H/2}); at != (geom.Point{}) {
			m["place"] = b.lengths(at.X, at.Y)
		}
	}
	m["id"] = nextID("m", func(id string) bool {
		return slices.ContainsFunc(to.node.Masks(), func(o *template.Node) bool { return o.ID == id })
	})
	part, err := json.Marshal(m)
	b.title = "Mask " + b.calledSpot(to)
	b.add(edit.DraftOp{Kind: "add", Into: to.path + "/masks", At: -1, Part: part})
	return err
}

// poseMask changes how a mask lies. Where the pointer is on the canvas is taken to the px of the
// layer, in which a mask has its numbers.
func poseMask(b *bench, a Act) error {
	if b.format == nil {
		return errors.New("format: say which format is looked at")
	}
	at, err := b.spot(a.Path)
	if err != nil {
		return err
	}
	if at.node.Sort() != scheme.Masks {
		return fmt.Errorf("path: %q is no mask", a.Path)
	}
	path, y := at.path, at.layer
	sc, err := b.scene()
	if err != nil {
		return err
	}
	now := sc.Time().At(timing.OutputFrame(min(max(b.act.Frame, 0), sc.Frames()-1)))
	forms := sc.Forms(at.seen, now)
	i := slices.IndexFunc(forms, func(f scene.Formed) bool { return f.Path == a.Path })
	if i < 0 {
		return fmt.Errorf("path: the mask %s of %s is no drawn one", at.node.ID, b.calledSpot(at))
	}
	f := forms[i]
	up, ok := f.Owner.Invert()
	inner, ok2 := f.Map.Invert()
	if !ok || !ok2 {
		return fmt.Errorf("%s is seen edge on; nothing can be drawn on it", y.Name)
	}
	from, to := geom.Point{X: a.From[0], Y: a.From[1]}, geom.Point{X: a.To[0], Y: a.To[1]}
	if a.Snap > 0 && a.Way != "turn" && a.Way != "feather" && a.Way != "growth" {
		by, guides := b.snapPoint(nil, from, geom.Point{X: to.X - from.X, Y: to.Y - from.Y}, a.Snap)
		to, b.plan.Guides = geom.Point{X: from.X + by.X, Y: from.Y + by.Y}, guides
	}
	if a.Keep && a.Way == "move" {
		by := along(geom.Point{X: to.X - from.X, Y: to.Y - from.Y})
		to = geom.Point{X: from.X + by.X, Y: from.Y + by.Y}
	}
	p, q := up.Apply(from), up.Apply(to)
	hundredth := func(v float64) float64 { return math.Round(v*100) / 100 }
	name := map[string]string{"move": "Move", "size": "Size", "turn": "Turn", "feather": "Soften", "growth": "Grow"}[a.Way]
	b.title = name + " the mask of " + b.calledSpot(at)
	switch a.Way {
	case "move":
		return b.set(path+"/place", f.Rest.Place[0]+q.X-p.X, f.Rest.Place[1]+q.Y-p.Y)
	case "turn":
		mid := up.Apply(f.Map.Apply(geom.Point{X: f.Form.Size.W / 2, Y: f.Form.Size.H / 2}))
		turn := f.Rest.Turn + (math.Atan2(q.Y-mid.Y, q.X-mid.X)-math.Atan2(p.Y-mid.Y, p.X-mid.X))*180/math.Pi
		if a.Keep {
			turn = math.Round(turn/15) * 15
		}
		return b.set(path+"/turn", hundredth(math.Remainder(turn, 360)))
	case "feather": // its knob lies beyond the right edge, by so much
		at := inner.Apply(to)
		return b.setSeen(path+"/feather", math.Max(0, hundredth(at.X-f.Form.Size.W)))
	case "growth": // and that of growth above the upper one
		return b.setSeen(path+"/growth", hundredth(-inner.Apply(to).Y))
	case "size":
		return b.sizeMask(path, f, inner.Apply(from), inner.Apply(to), a)
	}
	return fmt.Errorf("way: %q is not one of move, size, turn, feather and growth", a.Way)
}

// sizeMask makes a mask larger by a handle, by two points in its own box. What lies opposite
// stays where it is.
func (b *bench) sizeMask(path string, f scene.Formed, from, to geom.Point, a Act) error {
	was := f.Form.Size
	if was.Empty() {
		return errors.New("the mask has no size here; set it by its numbers")
	}
	factor := func(share, way, side float64) float64 {
		k := (share*2 - 1) * way
		if a.Middle {
			k *= 2
		}
		return math.Max(1, side+k) / side
	}
	kx, ky := factor(a.Handle[0], to.X-from.X, was.W), factor(a.Handle[1], to.Y-from.Y, was.H)
	if a.Keep && a.Handle[0] != 0.5 && a.Handle[1] != 0.5 {
		if math.Abs(kx-1) > math.Abs(ky-1) {
			ky = kx
		} else {
			kx = ky
		}
	}
	if !a.Middle { // its middle goes along with the edge that is drawn
		mid := geom.Point{X: (kx - 1) * was.W * (a.Handle[0] - 0.5), Y: (ky - 1) * was.H * (a.Handle[1] - 0.5)}
		s, c := geom.SinCos(f.Turn)
		if err := b.set(path+"/place", f.Rest.Place[0]+mid.X*c-mid.Y*s, f.Rest.Place[1]+mid.X*s+mid.Y*c); err != nil {
			return err
		}
	}
	return b.set(path+"/size", f.Rest.Size.W*kx, f.Rest.Size.H*ky)
}

// treated are the numbers that new treatments begin with, px.
var treated = map[*scheme.Kind]func(b *bench) object{
	scheme.Blur: func(b *bench) object { return object{"radius": b.lengths(12)[0]} },
	scheme.DropShadow: func(b *bench) object {
		return object{"radius": b.lengths(12)[0], "offset": b.lengths(0, 10), "colour": "#000000", "opacity": 0.45}
	},
}

func treat(b *bench, a Act) error {
	k := scheme.Treatments.Kind(a.Way)
	if k == nil || k.Later {
		return fmt.Errorf("way: %q is not a kind of treatments: %s", a.Way, strings.Join(scheme.Treatments.KindNames(), ", "))
	}
	list, err := b.chosen()
	if err != nil {
		return err
	}
	for _, y := range list {
		switch {
		case !y.Can(scheme.Blends):
			return fmt.Errorf("%s can't be treated: it is a %s", y.Name, strings.ToLower(y.Kind.Label))
		case len(y.Treatments()) >= scheme.MaxTreatments:
			return fmt.Errorf("%s has %d treatments already", y.Name, len(y.Treatments()))
		}
		t := object{"kind": k.Name}
		if with := treated[k]; with != nil {
			for key, v := range with(b) {
				t[key] = v
			}
		}
		taken := map[string]bool{}
		for _, o := range y.Treatments() {
			taken[o.ID] = true
		}
		id := k.Name
		for n := 2; taken[id]; n++ {
			id = fmt.Sprintf("%s-%d", k.Name, n)
		}
		t["id"] = id
		part, err := json.Marshal(t)
		if err != nil {
			return err
		}
		b.add(edit.DraftOp{Kind: "add", Into: "layers/" + y.ID + "/treatments", At: -1, Part: part})
	}
	b.title = k.Label + " on " + b.called(a.Layers)
	return nil
}
