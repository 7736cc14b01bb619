package craft

import (
	"encoding/json"
	"errors"
	"fmt"
	"strings"

	"ivypocket/core/edit"
	"ivypocket/core/geom"
	"ivypocket/core/scheme"
)

// What cuts a layer, and what is done to its picture.
func init() {
	register(
		row{"mask", "`path`: `layers/ID`; `way`: a form (`rectangle`, `ellipse`, `triangle`, `polygon`, `star`, `arrow`), or `box`, `outline` (of what is in a pocket: `pocket`, none is the view's own); `from` and `to` (a box that was drawn; none is the layer's own), `snap`, `keep`, `middle`",
			"adds a mask", mask},
		row{"treat", "`layers`, `way`: a kind of treatments", "adds a treatment to layers", treat},
	)
}

func mask(b *bench, a Act) error {
	if b.format == nil {
		return errors.New("format: say which format is looked at")
	}
	y, inv, own, err := b.masked(a.Path)
	if err != nil {
		return err
	}
	m := object{}
	if a.Way == "box" || a.Way == "outline" {
		if m["of"] = a.Way; a.Pocket != "" {
			m["pocket"] = a.Pocket
		}
		if a.Pocket == "" && y.Kind != scheme.View {
			return fmt.Errorf("pocket: %s shows none; name the one whose media is followed", y.Name)
		}
		return b.addMask(y, m, geom.Box{}, own)
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
		return b.addMask(y, m, geom.Box{}, own)
	}
	// It lies upright on the layer, however that lies: as large as it was drawn, about the
	// same middle.
	mid := inv.Apply(drawn.Centre())
	sx, sy := inv.Stretch(drawn)
	return b.addMask(y, m, geom.Centred(mid, geom.Size{W: drawn.W * sx, H: drawn.H * sy}), own)
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
