package template

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"ivypocket/core/formula"
	"ivypocket/core/geom"
	"ivypocket/core/timing"
)

// Limits of layers.
const (
	MaxMasks   = 20
	MaxStops   = 64
	MaxDashes  = 16
	MaxCopies  = 200
	MaxSamples = 32
)

// Blends lists the modes in which a layer may lie on what is below it: those of
// W3C Compositing and Blending Level 1, section 10, and add, which is
// plus-lighter of Level 2.
var Blends = []string{"normal", "multiply", "screen", "overlay", "darken", "lighten", "color-dodge", "color-burn",
	"hard-light", "soft-light", "difference", "exclusion", "hue", "saturation", "color", "luminosity", "add"}

func oneOf(l *faultList, path, v string, words ...string) {
	if v != "" && !slices.Contains(words, v) {
		l.add(path, "%q is not one of %s", v, strings.Join(words, ", "))
	}
}

func (d *Document) validateLayers(l *faultList, unique func(path, id string)) {
	before := len(l.f)
	d.Visit(func(path string, y *Layer) {
		unique(path, y.ID)
		d.validateLayer(l, path, y)
	})
	d.validateFollows(l)
	d.validateMattes(l)
	d.validateCost(l)
	if len(l.f) == before {
		if _, err := d.Formulas(func(Name) int { return 0 }); err != nil {
			l.f = append(l.f, err.(Faults)...)
		}
	}
}

func (d *Document) validateLayer(l *faultList, path string, y *Layer) {
	r := &y.Rest
	has := func(is bool, member, advice string, kinds ...LayerKind) {
		if is && !slices.Contains(kinds, y.Kind) {
			l.add(path+"."+member, "a layer of the kind %q has none; %s", y.Kind, advice)
		}
	}
	switch y.Kind {
	case View:
		if d.Pocket(y.Pocket) == nil {
			l.add(path+".pocket", "there is no pocket named %q", y.Pocket)
		}
	case Still:
		if !ValidHash(y.Media) {
			l.add(path+".media", "%q is not sha256: and 64 hex digits", y.Media)
		}
	case Shape:
		if r.Fill == "" && r.Gradient == nil && r.Stroke == nil {
			l.add(path+".rest.fill", "is missing, and there is neither a gradient nor a stroke: nothing would be seen")
		}
	case Ground:
		if (r.Fill == "") == (r.Gradient == nil) {
			l.add(path+".rest", "a ground has either a fill or a gradient")
		}
	case Grouped:
	case Grade:
		if r.Grade == nil {
			l.add(path+".rest.grade", "is missing: say how colours change")
		}
	case Camera:
	case "words", "plate", "counter":
		l.add(path+".kind", "%q is part of the format, but this version does not draw it yet; leave the layer out", y.Kind)
		return
	default:
		l.add(path+".kind", "%q is not a kind of layer; there are view, picture, shape, ground, group, grade and camera", y.Kind)
		return
	}
	has(y.Pocket != "", "pocket", "its kind would be \"view\"", View)
	has(y.Media != "", "media", "its kind would be \"picture\"", Still)
	has(y.Form != nil, "form", "leave it out", Shape)
	has(y.Layers != nil, "layers", "its kind would be \"group\"", Grouped)
	has(y.Isolated, "isolated", "only groups are isolated", Grouped)
	has(r.Fill != "", "rest.fill", "put a shape below it", Shape, Ground)
	has(r.Gradient != nil, "rest.gradient", "put a shape below it", Shape, Ground)
	has(r.Stroke != nil, "rest.stroke", "put a shape above it", Shape)
	has(r.Radius != nil, "rest.radius", "leave it out", Shape, View, Still)
	has(r.Content != nil, "rest.content", "only a pocket's view has content", View)
	has(r.Grade != nil, "rest.grade", "its kind would be \"grade\"", Grade)
	boxed := []LayerKind{View, Still, Shape, Grouped}
	has(r.Cell != nil, "rest.cell", "leave it out", boxed...)
	has(r.Size != nil, "rest.size", "leave it out", boxed...)
	has(r.Corners != nil, "rest.corners", "leave it out", boxed...)
	has(r.Origin != nil, "rest.origin", "leave it out", boxed...)
	has(r.Skew != nil, "rest.skew", "leave it out", boxed...)
	has(r.Anchor != "", "rest.anchor", "leave it out", boxed...)
	has(r.Covers, "rest.covers", "leave it out", boxed...)
	has(y.Follow != "", "follow", "leave it out", boxed...)
	has(y.Blur != nil, "motionBlur", "leave it out", boxed...)
	has(y.Copies != nil, "copies", "leave it out", boxed...)
	if y.Kind == Camera {
		has(y.Matte != nil || len(y.Masks) > 0 || y.Blend != "" || r.Opacity != nil, "rest", "a camera only moves what is below", boxed...)
		has(y.Hidden, "hidden", "trim it with in and out instead", boxed...)
	}
	if y.Kind == Grade {
		has(y.Blend != "", "blend", "leave it out", boxed...)
	}
	if y.Form != nil {
		validateForm(l, path+".form", y.Form)
	}
	if r.Cell != nil && (r.Place != nil || r.Size != nil || r.Anchor != "") {
		l.add(path+".rest", "stands in a cell and has a place, a size or an anchor too; keep one of them")
	}
	oneOf(l, path+".blend", y.Blend, Blends...)
	d.validateTrim(l, path, y)
	for _, f := range y.fields() {
		if v, given := f.get(); given {
			l.err(path+"."+y.restPath(f.Name), f.Check(d, v))
		}
	}
	if g := r.Gradient; g != nil {
		d.validateGradient(l, path+".rest.gradient", g)
	}
	if s := r.Stroke; s != nil {
		validateStroke(l, path+".rest.stroke", s)
	}
	d.validateMasks(l, path, y)
	for name, m := range y.Motion {
		d.validateMove(l, path+".motion."+name, y, name, m)
	}
	if c := y.Copies; c != nil {
		if c.Count < 1 || c.Count > MaxCopies {
			l.add(path+".copies.count", "%d is outside 1 to %d", c.Count, MaxCopies)
		}
		if c.Scale != [2]float64{} && !(c.Scale[0] > 0 && c.Scale[1] >= c.Scale[0] && c.Scale[1] <= maxScale) {
			l.add(path+".copies.scale", "needs a least factor above 0 and a greatest one not below it")
		}
		for _, n := range c.Spread {
			l.err(path+".copies.spread", within(n, 0, maxShare))
		}
		l.err(path+".copies.turn", within(c.Turn, 0, maxTurn))
		l.err(path+".copies.delay", within(float64(c.Delay), 0, float64(d.Frames)))
	}
	if b := y.Blur; b != nil {
		if b.Samples < 2 || b.Samples > MaxSamples {
			l.add(path+".motionBlur.samples", "%d is outside 2 to %d", b.Samples, MaxSamples)
		}
		if !(b.Shutter > 0 && b.Shutter <= 720) {
			l.add(path+".motionBlur.shutter", "%g° is outside 0° to 720°", b.Shutter)
		}
	}
}

// restPath is where a property stands in a layer's document.
func (y *Layer) restPath(name string) string {
	if rest, ok := strings.CutPrefix(name, "masks."); ok {
		id, member, _ := strings.Cut(rest, ".")
		for i := range y.Masks {
			if y.Masks[i].ID == id {
				return fmt.Sprintf("masks[%d].%s", i, member)
			}
		}
	}
	if strings.HasPrefix(name, "form.") {
		return name
	}
	return "rest." + name
}

func (d *Document) validateTrim(l *faultList, path string, y *Layer) {
	from, to := timing.Int(0), timing.Int(d.Frames)
	for _, t := range []struct {
		name string
		v    *timing.Rat
		to   *timing.Rat
	}{{"in", y.In, &from}, {"out", y.Out, &to}} {
		if t.v == nil {
			continue
		}
		if t.v.D == 0 || t.v.N < 0 || t.v.Cmp(timing.Int(d.Frames)) > 0 {
			l.add(path+"."+t.name, "is not within the template's %d frames", d.Frames)
			return
		}
		*t.to = *t.v
	}
	if to.Cmp(from) <= 0 {
		l.add(path+".out", "frame %s is not after %s, where the layer begins", to, from)
	}
}

func validateForm(l *faultList, path string, f *Form) {
	if f.Kind == geom.Drawn && (f.Path == nil || f.Path.Points.Wide == 0) {
		l.add(path+".path", "is missing: a drawn form needs its points")
		return
	}
	if f.Kind != geom.Drawn && f.Path != nil {
		l.add(path+".path", "a form of the kind %q is not drawn; leave the path out", f.Kind)
	}
	g := f.Geometry()
	if err := g.Validate(); err != nil { // which begins with the member at fault
		member, what, _ := strings.Cut(err.Error(), ": ")
		l.add(path+"."+member, "%s", what)
	}
}

// Geometry is the form as an outline of no size yet; its numbers are at rest.
func (f *Form) Geometry() geom.Form {
	if f == nil {
		return geom.Form{Kind: geom.Rectangle}
	}
	g := geom.Form{Kind: f.Kind, Sides: f.Sides, Round: f.Round, Inner: 0.5, Head: 0.4, Shaft: 0.4}
	for _, n := range []struct {
		from *float64
		to   *float64
	}{{f.Inner, &g.Inner}, {f.Head, &g.Head}, {f.Shaft, &g.Shaft}} {
		if n.from != nil {
			*n.to = *n.from
		}
	}
	if f.Path != nil {
		g.Path.Closed = !f.Path.Open
		n := f.Path.Points.Numbers
		for i := 0; i+geom.NodeWidth <= len(n); i += geom.NodeWidth {
			g.Path.Nodes = append(g.Path.Nodes, geom.Node{X: n[i], Y: n[i+1], InX: n[i+2], InY: n[i+3], OutX: n[i+4], OutY: n[i+5]})
		}
	}
	return g
}

func (d *Document) validateGradient(l *faultList, path string, g *Gradient) {
	if g.Kind == "" {
		l.add(path+".kind", "is missing: linear, radial or conic")
	}
	oneOf(l, path+".kind", g.Kind, "linear", "radial", "conic")
	if len(g.Stops) < 2 || len(g.Stops) > MaxStops {
		l.add(path+".stops", "%d of them is outside 2 to %d", len(g.Stops), MaxStops)
	}
	last := math.Inf(-1)
	for i, s := range g.Stops {
		at := fmt.Sprintf("%s.stops[%d]", path, i)
		l.err(at+".at", within(s.At, 0, 1))
		if s.At < last {
			l.add(at+".at", "%g lies before the stop before it at %g", s.At, last)
		}
		last = s.At
		_, err := d.Colour(s.Colour)
		l.err(at+".colour", err)
	}
}

func validateStroke(l *faultList, path string, s *Stroke) {
	oneOf(l, path+".align", s.Align, "centre", "inside", "outside")
	oneOf(l, path+".cap", string(s.Cap), "butt", "round", "square")
	oneOf(l, path+".join", string(s.Join), "miter", "round", "bevel")
	if s.Miter != 0 {
		l.err(path+".miter", within(s.Miter, 1, 1000))
	}
	if len(s.Dash) > MaxDashes {
		l.add(path+".dash", "%d lengths are more than %d", len(s.Dash), MaxDashes)
	}
	for i, n := range s.Dash {
		l.err(fmt.Sprintf("%s.dash[%d]", path, i), within(n, 0, maxLength))
	}
}

func (d *Document) validateMasks(l *faultList, path string, y *Layer) {
	if len(y.Masks) > MaxMasks {
		l.add(path+".masks", "%d of them are more than %d", len(y.Masks), MaxMasks)
	}
	seen := map[string]bool{}
	for i := range y.Masks {
		m := &y.Masks[i]
		at := fmt.Sprintf("%s.masks[%d]", path, i)
		if !idForm.MatchString(m.ID) || seen[m.ID] {
			l.add(at+".id", "%q is not an id of its own: small letters, digits and hyphens, a letter first", m.ID)
		}
		seen[m.ID] = true
		if m.Form != nil {
			validateForm(l, at+".form", m.Form)
		}
		oneOf(l, at+".of", m.Of, "box", "hull", "outline")
		oneOf(l, at+".mode", m.Mode, "add", "subtract", "intersect")
		oneOf(l, at+".soft", m.Soft, "both", "inwards", "outwards")
		if m.Falloff != nil {
			l.err(at+".falloff", m.Falloff.Validate())
		}
		switch {
		case m.Of == "" && m.Pocket != "":
			l.add(at+".pocket", "goes with \"of\", which says what of the pocket's media is followed")
		case m.Of != "" && m.Form != nil:
			l.add(at+".form", "the mask follows a pocket's media; leave the form out")
		case m.Of != "" && m.Pocket == "" && y.Kind != View:
			l.add(at+".pocket", "is missing: name the pocket whose media is followed")
		case m.Of != "" && m.Pocket != "" && m.Pocket != y.Pocket && len(d.views(m.Pocket)) == 0:
			l.add(at+".pocket", "no layer shows a pocket named %q", m.Pocket)
		}
	}
}

// views lists the layers that show a pocket.
func (d *Document) views(pocket string) []*Layer {
	var out []*Layer
	d.Visit(func(_ string, y *Layer) {
		if y.Kind == View && y.Pocket == pocket {
			out = append(out, y)
		}
	})
	return out
}

func (d *Document) validateMove(l *faultList, path string, y *Layer, name string, m *Move) {
	p, _, _, err := y.Property(name)
	if err != nil {
		l.err(path, err)
		return
	}
	if m == nil {
		l.add(path, "is null; leave it out")
		return
	}
	needs := p.Join == Plus && p.Length
	switch {
	case needs && m.Unit != "canvas" && m.Unit != "self":
		l.add(path+".unit", "%q is not one of canvas, self", m.Unit)
	case !needs && m.Unit != "":
		l.add(path+".unit", "%s has no unit; leave it out", name)
	}
	if _, err := m.Track(d, p); err != nil {
		l.err(path+".keys", err)
	}
}

// Track makes a property's keys ready. The error begins with the place of the
// key at fault.
func (m *Move) Track(d *Document, p Property) (*timing.Track, error) {
	if p.Join == Fixed {
		return nil, fmt.Errorf(": %s does not move", p.Name)
	}
	lo, hi := p.Lo, p.Hi
	switch {
	case p.Join == Plus && p.Length:
		lo, hi = -maxShare, maxShare
	case p.Join == Times:
		lo, hi = math.Max(0, lo), math.Min(maxScale, hi)
		if p.Name == "scale" {
			lo = -maxScale
		}
		if p.Hi == 1 {
			hi = 1
		}
	}
	keys := make([]timing.Key, len(m.Keys))
	for i, k := range m.Keys {
		keys[i] = timing.Key{At: k.At, Ease: k.Ease, Hold: k.Hold}
		if k.Out != nil || k.In != nil {
			if p.Name != "place" && !strings.HasSuffix(p.Name, ".place") {
				return nil, fmt.Errorf("[%d]: handles out and in bend the way of a place; %s has no way", i, p.Name)
			}
			if k.Out != nil {
				keys[i].Out = *k.Out
			}
			if k.In != nil {
				keys[i].In = *k.In
			}
			for _, n := range append(keys[i].Out[:], keys[i].In[:]...) {
				if err := within(n, -maxShare, maxShare); err != nil {
					return nil, fmt.Errorf("[%d]: handle: %w", i, err)
				}
			}
		}
		if p.Kind == ColourText {
			c, err := d.Colour(k.Value.Text)
			if err != nil {
				return nil, fmt.Errorf("[%d].value: %w", i, err)
			}
			keys[i].Value = []float64{float64(c.R), float64(c.G), float64(c.B), float64(c.A)}
			continue
		}
		q := p
		q.Lo, q.Hi = lo, hi
		if err := q.Check(d, k.Value); err != nil {
			return nil, fmt.Errorf("[%d].value: %w", i, err)
		}
		keys[i].Value = k.Value.Numbers
		if p.Width == 4 && len(keys[i].Value) == 1 {
			v := keys[i].Value[0]
			keys[i].Value = []float64{v, v, v, v}
		}
	}
	blend := timing.Plain
	switch {
	case p.Kind == ColourText:
		blend = timing.Colours
	case m.Even && p.Width == 2 && p.Length:
		blend = timing.EvenPlaces
	case m.Even:
		return nil, fmt.Errorf(": even speed is for places; %s has none", p.Name)
	case p.Width == 2 && p.Length:
		blend = timing.Places
	}
	return timing.NewTrack(keys, p.Width, blend)
}

// validateFollows finds layers that follow nobody, or one another in a circle.
func (d *Document) validateFollows(l *faultList) {
	d.Visit(func(path string, y *Layer) {
		if y.Follow == "" {
			return
		}
		trail := []string{y.ID}
		for at := y; at.Follow != ""; {
			next := d.Layer(at.Follow)
			if next == nil {
				if at == y {
					l.add(path+".follow", "there is no layer named %q", y.Follow)
				}
				return
			}
			trail = append(trail, next.ID)
			if next == y {
				l.add(path+".follow", "goes in a circle: %s", strings.Join(trail, " follows "))
				return
			}
			if slices.Contains(trail[:len(trail)-1], next.ID) {
				return // somebody else's circle, told there
			}
			if next.Kind == Camera || next.Kind == Ground || next.Kind == Grade {
				l.add(path+".follow", "%s is a %s and has no place to follow", next.ID, next.Kind)
				return
			}
			at = next
		}
	})
}

// validateMattes finds mattes that are nobody, or that need the layer they cut
// before they can be drawn.
func (d *Document) validateMattes(l *faultList) {
	byID := map[string]*Layer{}
	d.Visit(func(_ string, y *Layer) { byID[y.ID] = y })
	depths := d.matteDepths(byID)
	d.Visit(func(path string, y *Layer) {
		if y.Matte == nil {
			return
		}
		if y.Matte.Of != "alpha" && y.Matte.Of != "luma" {
			l.add(path+".matte.of", "%q is not one of alpha, luma", y.Matte.Of)
		}
		m := byID[y.Matte.Layer]
		if m == nil {
			l.add(path+".matte.layer", "there is no layer named %q", y.Matte.Layer)
			return
		}
		if m.Kind == Camera || m.Kind == Grade {
			l.add(path+".matte.layer", "%s is a %s, which has no picture of its own", m.ID, m.Kind)
			return
		}
		// What a layer needs: its matte, and the layers in it.
		seen := map[*Layer]bool{}
		var needs func(at *Layer, trail []string) []string
		needs = func(at *Layer, trail []string) []string {
			trail = append(trail, at.ID)
			if at == y {
				return trail
			}
			if seen[at] {
				return nil
			}
			seen[at] = true
			for i := range at.Layers {
				if t := needs(&at.Layers[i], trail); t != nil {
					return t
				}
			}
			if at.Matte != nil {
				if next := byID[at.Matte.Layer]; next != nil {
					return needs(next, trail)
				}
			}
			return nil
		}
		if t := needs(m, []string{y.ID}); t != nil {
			l.add(path+".matte.layer", "goes in a circle: %s", strings.Join(t, " needs "))
		} else if n := depths[y]; n > MaxMattes {
			l.add(path+".matte.layer", "needs %d mattes one after another; the limit is %d. Cut a group once instead", n, MaxMattes)
		}
	})
}

// kindOf says what a property is to formulas.
func (p *Property) kindOf() formula.Kind {
	if p.Kind == ColourText {
		return formula.ColourKind
	}
	return formula.NumberKind
}
