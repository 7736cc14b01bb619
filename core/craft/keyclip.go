package craft

import (
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"

	"ivypocket/core/scheme"
	"ivypocket/core/template"
	"ivypocket/core/timing"
)

// KeyClip is keys on their way to other layers, or to another time.
type KeyClip struct {
	Ivy    string      `json:"ivypocket" enum:"keys"`
	Of     string      `json:"of" doc:"The template they are of"`
	Tracks []ClipTrack `json:"tracks"`
}

// ClipTrack is keys of one property.
type ClipTrack struct {
	Layer string `json:"layer"`
	// Path is that of the property in its layer: "place.x", "masks/iris/feather"; Kind is that of the part of the
	// layer that it is of, "" of the layer itself.
	Path string `json:"path"`
	Kind string `json:"kind,omitempty"`
	Unit string `json:"unit,omitempty"`
	Even bool   `json:"even,omitempty"`
	// Keys are so many frames after the first of all that were copied.
	Keys []template.Key `json:"keys"`
}

// CopiedKeys takes keys to be pasted, by their paths.
func CopiedKeys(d *template.Document, keys []string) (KeyClip, error) {
	c := KeyClip{Ivy: "keys", Of: d.ID}
	b := newBench(d, nil, Act{Kind: "copy"})
	list, err := b.picks(Act{Keys: keys})
	if err != nil {
		return c, err
	}
	var first timing.Rat
	for _, s := range list {
		for _, k := range s.move.Keys {
			if at := k.At.Add(s.late); s.picked(k.ID) && (first.D == 0 || at.Cmp(first) < 0) {
				first = at
			}
		}
	}
	order := map[string]int{}
	d.VisitAll(func(_ string, y *template.Layer) { order[y.ID] = len(order) })
	slices.SortStableFunc(list, func(a, b *strand) int { return order[a.layer.ID] - order[b.layer.ID] })
	for _, s := range list {
		t := ClipTrack{Layer: s.layer.ID, Path: s.inner(), Kind: kindOf(s.node), Unit: s.move.Unit, Even: s.move.Even}
		for _, k := range s.move.Keys {
			if !s.picked(k.ID) {
				continue
			}
			k.At = k.At.Add(s.late).Sub(first)
			if id, named := scheme.ColourID(k.Value.Text); named && s.prop.Type == scheme.Colour {
				if v, err := d.Colour(k.Value.Text); err == nil && id != "" {
					k.Value = scheme.Says(v.String())
				}
			}
			t.Keys = append(t.Keys, k)
		}
		c.Tracks = append(c.Tracks, t)
	}
	return c, nil
}

// kindOf is the kind of a part of a layer, by which another's is like it; "" of a layer.
func kindOf(n *template.Node) string {
	switch {
	case n.Sort() == scheme.Layers:
		return ""
	case n.Kind != nil:
		return n.Kind.Name
	}
	return n.Sort().Name
}

func pasteKeys(b *bench, a Act) error {
	var c KeyClip
	if len(a.Clip) == 0 || json.Unmarshal(a.Clip, &c) != nil || c.Ivy != "keys" || len(c.Tracks) == 0 {
		return errors.New("clip: holds no keys; copy some first")
	}
	var from []string
	for _, t := range c.Tracks {
		if !slices.Contains(from, t.Layer) {
			from = append(from, t.Layer)
		}
	}
	onto := map[string][]string{} // the layers that get what one had
	if len(a.Layers) == 0 {
		for _, id := range from {
			if b.doc.Layer(id) != nil {
				onto[id] = []string{id}
			}
		}
		if len(onto) == 0 {
			return errors.New("layers: select those that are to get the keys")
		}
	} else {
		list, err := b.chosen()
		if err != nil {
			return err
		}
		for i, y := range list {
			switch {
			case len(from) == 1:
				onto[from[0]] = append(onto[from[0]], y.ID)
			case i < len(from):
				onto[from[i]] = []string{y.ID}
			}
		}
	}
	n := 0
	var why error
	for _, t := range c.Tracks {
		for _, id := range onto[t.Layer] {
			path := b.like(b.doc.Layer(id), t)
			if path == "" {
				why = errors.Join(why, fmt.Errorf("%s has no %s", b.doc.Layer(id).Name, t.Path))
				continue
			}
			s, err := b.strand(path)
			if err == nil {
				err = b.laid(s, t)
			}
			if err == nil {
				err = b.keep(s)
			}
			if err != nil {
				return err
			}
			n += len(t.Keys)
		}
	}
	if n == 0 {
		return fmt.Errorf("no key fits: %w", why)
	}
	b.title = fmt.Sprintf("Paste %d keys", n)
	if n == 1 {
		b.title = "Paste a key"
	}
	return nil
}

// like is the property of a layer that is like one of a clip's: in the part of the same id, or in its only one of the
// same kind.
func (b *bench) like(y *template.Layer, t ClipTrack) string {
	seg := strings.Split(t.Path, "/")
	n := y
	for i := 0; i+1 < len(seg); i += 2 {
		k, part := n.Sort().Part(seg[i])
		if part == nil || part.Of == scheme.Layers {
			return ""
		}
		list := n.Part(k)
		at := slices.IndexFunc(list, func(m *template.Node) bool { return m.ID == seg[i+1] })
		if at < 0 {
			for j, m := range list {
				if kindOf(m) == t.Kind || i+3 < len(seg) {
					if at >= 0 {
						return ""
					}
					at = j
				}
			}
		}
		if at < 0 {
			return ""
		}
		n = list[at]
		seg[i+1] = n.ID
	}
	if p, _, err := n.Target(seg[len(seg)-1]); err != nil || p.Join == scheme.Fixed {
		return ""
	}
	return "layers/" + y.ID + "/" + strings.Join(seg, "/")
}

// laid puts the keys of a clip on a motion, measured as it is.
func (b *bench) laid(s *strand, t ClipTrack) error {
	if len(s.move.Keys) == 0 {
		s.move.Even = t.Even
		if s.lengths() && (t.Unit == template.CanvasUnit || t.Unit == template.SelfUnit) || t.Unit == template.OwnUnit && s.prop.Join == scheme.Times {
			s.move.Unit = t.Unit
		}
	}
	by := slices.Repeat([]float64{1}, b.width(s))
	if t.Unit != s.move.Unit {
		own := s.move.Unit
		is, err := b.measure(s)
		if err != nil {
			return err
		}
		s.move.Unit = t.Unit
		was, err := b.measure(s)
		if s.move.Unit = own; err != nil {
			return err
		}
		if !s.lengths() {
			return fmt.Errorf("%s has keys that are measured otherwise", b.doc.Called(s.path))
		}
		for i := range by {
			by[i] = was[i] / is[i]
		}
	}
	scaled := func(v *[2]float64) *[2]float64 {
		if v == nil || len(by) != 2 {
			return v
		}
		return &[2]float64{short(v[0] * by[0]), short(v[1] * by[1])}
	}
	here := b.here(s)
	s.move.Keys = slices.Clone(s.move.Keys)
	for _, k := range t.Keys {
		k.At = k.At.Add(here)
		if s.lengths() && len(k.Value.Numbers) == len(by) {
			v := slices.Clone(k.Value.Numbers)
			for i := range v {
				v[i] = short(v[i] * by[i])
			}
			k.Value.Numbers, k.In, k.Out = v, scaled(k.In), scaled(k.Out)
		}
		if i := slices.IndexFunc(s.move.Keys, func(o template.Key) bool { return o.At.Cmp(k.At) == 0 }); i >= 0 {
			k.ID = s.move.Keys[i].ID
			s.move.Keys[i] = k
			continue
		}
		k.ID = nextID("k", func(id string) bool { return s.find(id) >= 0 })
		s.move.Keys = append(s.move.Keys, k)
	}
	if len(s.move.Keys) > timing.MaxKeys {
		return fmt.Errorf("%s would have more than %d keys", b.doc.Called(s.path), timing.MaxKeys)
	}
	s.sorted()
	return nil
}
