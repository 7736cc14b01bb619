package scene

import (
	"math"
	"slices"
	"strings"

	"ivypocket/core/scheme"
	"ivypocket/core/template"
	"ivypocket/core/timing"
)

// Curve is the motion of a property, or of one of its numbers, over time, as it is seen in a format: where the
// property rests, and how its keys let it depart from there. What others add, formulas among them, is not in it.
type Curve struct {
	*scheme.Property
	// Path names the property, or its number; Part is that number, -1 all.
	Path string
	Part int
	// Keys are in the layer's own time, which is so much Late.
	Keys []timing.Key
	IDs  []string
	Late timing.Rat

	track *timing.Track
	join  scheme.Join
	rest  []float64
	by    []float64 // px that 1 is of each number
	rate  float64   // frames in a second
}

// Curves are the motions of a layer and of what is in it, but not of layers in it: of its first copy, if it has some.
func (s *Scene) Curves(id string) (out []Curve) {
	i := slices.IndexFunc(s.layers, func(l layer) bool { return l.ID == id && l.first })
	if i < 0 {
		return nil
	}
	l := &s.layers[i]
	path := "layers/" + l.ID
	of := func(t *thing, path string) {
		if by := t.Along(); by != "" { // it is of the move
			at := strings.Split(path, "/")
			for i := 3; i < len(at); i += 2 {
				at[i] = strings.TrimPrefix(at[i], by+":")
			}
			path = strings.Join(slices.Insert(at, 2, "moves", by), "/")
		}
		for _, p := range t.Properties() {
			list := []string{p.Name}
			for part := range p.Parts {
				list = append(list, p.Of(part))
			}
			for _, name := range list {
				if m := t.Motion[name]; m != nil && (p.Type == scheme.Numbers || name == p.Name) {
					if c, ok := s.curve(l, i, t, p, m, name, t.Along()); ok {
						c.Path = path + "/" + name
						out = append(out, c)
					}
				}
				for _, a := range t.Added() {
					if a.Name == name && (p.Type == scheme.Numbers || name == p.Name) {
						if c, ok := s.curve(l, i, t, p, a.Move, name, a.By); ok {
							c.Path = path + "/moves/" + a.By + "/" + name
							out = append(out, c)
						}
					}
				}
			}
		}
	}
	of(&l.thing, path)
	masked := func(path string, masks []mask) {
		for k := range masks {
			of(&masks[k].thing, path+"/masks/"+masks[k].ID)
		}
	}
	masked(path, l.masks)
	for k := range l.treats {
		at := path + "/treatments/" + l.treats[k].ID
		of(&l.treats[k].thing, at)
		masked(at, l.treats[k].masks)
	}
	for k := range l.stops {
		if !l.Given(scheme.GradientNamed) {
			of(&l.stops[k], path+"/stops/"+l.stops[k].ID)
		}
	}
	return out
}

func (s *Scene) curve(l *layer, i int, t *thing, p *scheme.Property, m *template.Move, name, by string) (Curve, bool) {
	slot, n := t.at(p)
	_, part, err := t.Target(name)
	if err != nil || slot < 0 {
		return Curve{}, false
	}
	if part >= 0 {
		slot, n = slot+part, 1
	}
	for k := range s.tracks {
		d := &s.tracks[k]
		if d.layer != i || d.slot != slot || d.by != by || d.track.Width() != n || len(d.track.Keys()) != len(m.Keys) {
			continue
		}
		c := Curve{Property: p, Part: part, Keys: d.track.Keys(), Late: l.delay, track: d.track, join: d.join, rest: s.rest[slot : slot+n], rate: s.time.Base().Float()}
		if c.rest = slices.Clone(c.rest); p == scheme.MaskSize && s.rest[slot] < 0 { // a share of its layer
			for k := range c.rest {
				c.rest[k] *= -s.rest[l.slot+sSize+max(0, part)+k]
			}
		}
		for k := range n {
			by := 1.0
			if d.unit > 0 {
				by = s.unit(d, s.rest, k)
			}
			c.by = append(c.by, by)
		}
		for _, k := range m.Keys {
			c.IDs = append(c.IDs, k.ID)
		}
		return c, true
	}
	return Curve{}, false
}

// Counted reports whether the curve is of numbers; that of a colour, a word or a path is of how far it has come from
// key to key.
func (c *Curve) Counted() bool { return c.Type == scheme.Numbers || c.Type == scheme.List }

// Width is how many numbers Value and Speed write.
func (c *Curve) Width() int {
	if c.Counted() {
		return c.track.Width()
	}
	return 1
}

// seen joins a key's numbers to rest.
func (c *Curve) seen(v []float64) {
	for k := range v {
		switch c.join {
		case scheme.Plus:
			v[k] = c.rest[k] + v[k]*c.by[k]
		case scheme.Times:
			v[k] *= c.rest[k]
		}
	}
}

// Key writes what is seen at the i-th key.
func (c *Curve) Key(i int, dst []float64) {
	if !c.Counted() {
		dst[0] = float64(i)
		return
	}
	copy(dst, c.Keys[i].Value)
	c.seen(dst[:c.Width()])
}

// Value writes what is seen at an instant of the template.
func (c *Curve) Value(at timing.Rat, dst []float64) {
	own := timing.TemplateTime{Rat: at.Sub(c.Late)}
	if !c.Counted() {
		dst[0] = c.track.Progress(own)
		return
	}
	c.track.Value(own, dst)
	c.seen(dst[:c.Width()])
}

// Speed writes how fast what is seen changes at an instant of the template, in a second: after it, or with before
// until then.
func (c *Curve) Speed(at timing.Rat, before bool, dst []float64) {
	own := timing.TemplateTime{Rat: at.Sub(c.Late)}
	if before {
		c.track.SpeedBefore(own, dst)
	} else {
		c.track.Speed(own, dst)
	}
	for k := range dst[:c.Width()] {
		switch c.join {
		case scheme.Plus:
			dst[k] *= c.by[k]
		case scheme.Times:
			dst[k] *= c.rest[k]
		}
		dst[k] = math.Max(-1e9, math.Min(1e9, dst[k]*c.rate))
	}
}

// Shows tells which frame of its clip a view, or a picture, shows at instants, -1 where it is not there; media is "" where
// it shows no clip.
func (s *Scene) Shows(id string, at []timing.OutputFrame) (media string, frames []int64) {
	i := slices.IndexFunc(s.layers, func(l layer) bool { return l.ID == id && l.first })
	if i < 0 || s.layers[i].info.Clip == nil {
		return "", nil
	}
	l := &s.layers[i]
	for _, f := range at {
		now := s.time.At(f)
		if now.Template.Cmp(l.in) < 0 || now.Template.Cmp(l.out) >= 0 {
			frames = append(frames, -1)
			continue
		}
		frames = append(frames, int64(s.time.Source(now, timing.TemplateTime{Rat: l.begins}, l.info.Clip, l.play)))
	}
	return l.media, frames
}
