package template

import (
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"

	"ivypocket/core/geom"
	"ivypocket/core/scheme"
	"ivypocket/core/timing"
)

// validateNodes checks gradients, layouts, layers and what is in them: each by the table,
// then what their kinds ask for besides, then how they hang together.
func (d *Document) validateNodes(l *faultList, unique func(path, id string)) {
	before := len(l.f)
	d.VisitNodes(func(at, _ string, n *Node) {
		if n.sort == scheme.Layers || n.sort == scheme.Layouts || n.sort == scheme.Gradients || n.sort == scheme.SavedMoves {
			unique(at, n.ID)
		}
		d.validateNode(l, at, n)
	})
	for i, m := range d.Motifs {
		if m.Kind != scheme.Group {
			l.add(fmt.Sprintf("motifs[%d].kind", i), "a motif is of the kind %q", scheme.Group.Name)
		}
	}
	e := d
	if len(d.Motifs) > 0 || d.performing() {
		if len(l.f) > before {
			return // uses of what is at fault say nothing new
		}
		var err error
		if e, err = d.Expanded(); err != nil {
			l.f = append(l.f, err.(Faults)...)
			return
		}
	}
	e.validateCost(l)
	e.validateRelations(l)
	if len(l.f) == before {
		if _, _, err := e.Formulas(func(Name) int { return 0 }); err != nil {
			l.f = append(l.f, err.(Faults)...)
		}
	}
}

// validateRelations checks whom layers follow and are cut by.
func (d *Document) validateRelations(l *faultList) {
	d.validateFollows(l)
	d.validateMattes(l)
	d.validateBacked(l)
}

// validateNode checks one thing by the table.
func (d *Document) validateNode(l *faultList, at string, n *Node) {
	n.Values(func(p *scheme.Property, v scheme.Value) {
		if !n.Has(p) {
			l.err(at+"."+p.Name, n.lacks(p))
			return
		}
		l.err(at+"."+p.Name, p.Check(d, v))
	})
	for _, p := range n.sort.Properties() {
		if p.Needed && !n.Given(p) && n.Has(p) {
			l.want(at+"."+p.Name, "is missing: %s", strings.ToLower(p.Doc[:1])+p.Doc[1:])
		}
	}
	for i, part := range n.sort.Parts {
		d.validatePart(l, at, n, i, part)
	}
	for _, name := range slices.Sorted(maps.Keys(n.Motion)) {
		d.validateMove(l, at+".motion."+name, n, name)
	}
	switch n.sort {
	case scheme.Layers:
		d.validateLayer(l, at, n)
	case scheme.Gradients:
		validateGradient(l, at, n)
	case scheme.SavedMoves:
		validateSaved(l, at, n)
	case scheme.Performances:
		d.validatePerformance(l, at, n)
	case scheme.Treatments:
		if v := n.Number(scheme.Behaviour); n.Kind != nil && v > float64(n.Kind.Behaviour) {
			l.add(at+".behaviour", "%g is newer than this program draws a %s by (%d); update the program", v, n.Kind.Name, n.Kind.Behaviour)
		}
	}
}

func (d *Document) validatePart(l *faultList, at string, n *Node, i int, part *scheme.Part) {
	list := n.Part(i)
	at += "." + part.At
	if len(list) > part.Most {
		l.add(at, "%d of them are more than %d", len(list), part.Most)
	}
	if len(list) > 0 && part.Without != "" && n.Given(n.sort.Property(part.Without)) {
		l.add(at, "are those of %s; leave them out", part.Without)
	}
	if len(list) > 0 && part.With != "" && !n.Given(n.sort.Property(part.With)) {
		l.add(at, "go with %s, which is missing", part.With)
	}
	if part.Of == scheme.Layers {
		return // their ids are unique in all of the document
	}
	seen := map[string]bool{}
	for k, m := range list {
		if !scheme.ValidID(m.ID) || seen[m.ID] {
			l.add(fmt.Sprintf("%s[%d].id", at, k), "%q is not an id of its own: small letters, digits and hyphens, a letter first", m.ID)
		}
		seen[m.ID] = true
	}
}

// validateLayer checks what the kinds of layers ask for besides the table.
func (d *Document) validateLayer(l *faultList, at string, y *Layer) {
	gradient := y.Gradient()
	switch {
	case y.Kind == scheme.Shape && !y.Given(scheme.Fill) && !gradient && !y.Given(scheme.StrokeColour):
		l.want(at+".fill", "is missing, and there is neither a gradient nor a stroke: nothing would be seen")
	case y.Kind == scheme.Ground && !y.Given(scheme.Fill) && !gradient:
		l.want(at, "a ground has either a fill or a gradient")
	case y.Kind == scheme.Grade && !slices.ContainsFunc([]*scheme.Property{scheme.Slope, scheme.Offset, scheme.Power, scheme.Saturation},
		func(p *scheme.Property) bool { return y.Given(p) || y.Moves(p) }):
		l.want(at+".grade", "is missing: say how colours change")
	}
	if gradient && (!y.Given(scheme.GradientNamed) || len(y.Stops()) > 0) {
		validateStops(l, at+".gradient.stops", y.Stops())
	}
	if inCell(y) && (y.Given(scheme.Place) || y.Given(scheme.Size) || y.Given(scheme.Anchor)) {
		l.want(at, "stands in a cell and has a place, a size or an anchor too; keep one of them")
	}
	if v := y.Get(scheme.CopiesScale).Numbers; y.Given(scheme.CopiesScale) && len(v) == 2 && !(v[0] > 0 && v[1] >= v[0]) {
		l.add(at+".copies.scale", "needs a least factor above 0 and a greatest one not below it")
	}
	if n := y.Number(scheme.CopiesDelay); n > float64(d.Frames) {
		l.add(at+".copies.delay", "%g is more than the template's %d frames", n, d.Frames)
	}
	d.validateTrim(l, at, y)
	d.validateMasks(l, at, y, y.Masks())
	for i, t := range y.Treatments() {
		d.validateMasks(l, fmt.Sprintf("%s.treatments[%d]", at, i), y, t.Masks())
	}
}

func (d *Document) validateMasks(l *faultList, at string, y *Layer, masks []*Node) {
	for i, m := range masks {
		d.validateMask(l, fmt.Sprintf("%s.masks[%d]", at, i), y, m)
	}
}

// validateGradient checks a gradient that layers take by its name. The clock of its stops
// would be another in each.
func validateGradient(l *faultList, at string, g *Node) {
	if strings.TrimSpace(g.Name) == "" {
		l.want(at+".name", "is missing")
	}
	validateStops(l, at+".stops", g.Stops())
	for i, s := range g.Stops() {
		if s.Changes() {
			l.add(fmt.Sprintf("%s.stops[%d]", at, i), "moves, which the stops of a named gradient can't; let a layer with stops of its own move")
		}
	}
}

// validateSaved checks a saved move. What comes along with it is the same wherever it is performed.
func validateSaved(l *faultList, at string, m *Node) {
	if strings.TrimSpace(m.Name) == "" {
		l.want(at+".name", "is missing")
	}
	if len(m.Motion) == 0 && len(m.Masks()) == 0 && len(m.Treatments()) == 0 {
		l.want(at+".motion", "is missing: nothing would move")
	}
	parts := map[string][]*Node{"masks": m.Masks(), "treatments": m.Treatments()}
	for i, t := range m.Treatments() {
		parts[fmt.Sprintf("treatments[%d].masks", i)] = t.Masks()
	}
	for _, name := range slices.Sorted(maps.Keys(parts)) {
		for i, n := range parts[name] {
			here := fmt.Sprintf("%s.%s[%d]", at, name, i)
			if len(n.Formulas) > 0 {
				l.add(here+".formulas", "are not for what comes along with a move; leave them out")
			}
			if n.sort == scheme.Masks && n.Given(scheme.MaskOf) && !n.Given(scheme.MaskPocket) {
				l.add(here+".pocket", "is missing: name the pocket whose media is followed")
			}
			if n.sort == scheme.Masks && n.Given(scheme.MaskWords) {
				l.add(here+".words", "is not for what comes along with a move; leave it out")
			}
		}
	}
}

func (d *Document) validatePerformance(l *faultList, at string, n *Node) {
	if t := Begins(n); t.Cmp(timing.Int(-d.Frames)) < 0 || t.Cmp(timing.Int(2*d.Frames)) > 0 {
		l.want(at+".at", "lies farther off the template's %d frames than they are long", d.Frames)
	}
}

func validateStops(l *faultList, at string, stops []*Node) {
	if len(stops) < 2 {
		l.want(at, "%d of them is outside 2 to %d", len(stops), scheme.MaxStops)
	}
	last := math.Inf(-1)
	for i, s := range stops {
		n := s.Number(scheme.StopAt)
		if n < last {
			l.add(fmt.Sprintf("%s[%d].at", at, i), "%g lies before the stop before it at %g", n, last)
		}
		last = n
	}
}

func (d *Document) validateMask(l *faultList, at string, y *Layer, m *Node) {
	pocket, said := m.Text(scheme.MaskPocket), d.Layer(m.Text(scheme.MaskWords))
	switch {
	case !m.Given(scheme.MaskOf):
	case said != nil && pocket != "":
		l.add(at+".words", "and pocket name two; a mask follows one")
	case said != nil && !said.Can(scheme.Lettered):
		l.add(at+".words", "%s is a %s and has no letters", said.ID, said.Kind.Name)
	case said != nil && m.Text(scheme.MaskOf) == "hull":
		l.add(at+".of", "is hull; letters have a box and an outline")
	case m.Given(scheme.MaskWords):
	case pocket == "" && y.Kind != scheme.View:
		l.want(at+".pocket", "is missing: name the pocket whose media is followed")
	case pocket != "" && pocket != y.Text(scheme.Pocket) && d.Pocket(pocket) != nil && len(d.views(pocket)) == 0 && len(d.Motifs) == 0:
		l.add(at+".pocket", "no layer shows a pocket named %q", pocket)
	}
	if c := m.Get(scheme.Falloff).Numbers; len(c) == 4 {
		l.err(at+".falloff", timing.Easing(c).Validate())
	}
}

// views lists the layers that show a pocket.
func (d *Document) views(pocket string) []*Layer {
	var out []*Layer
	d.Visit(func(_ string, y *Layer) {
		if y.Kind == scheme.View && y.Text(scheme.Pocket) == pocket {
			out = append(out, y)
		}
	})
	return out
}

func (d *Document) validateTrim(l *faultList, at string, y *Layer) {
	if t := y.Shift(); t.Cmp(timing.Int(d.Frames)) > 0 || t.Cmp(timing.Int(-d.Frames)) < 0 {
		l.add(at+".shift", "%s is more than the template's %d frames", t, d.Frames)
	}
	in, out := y.Trim(d)
	for _, p := range []*scheme.Property{scheme.In, scheme.Out} {
		t, err := y.Get(p).Time()
		if y.Given(p) && err == nil && (t.Cmp(timing.Int(-d.Frames)) < 0 || t.Cmp(timing.Int(2*d.Frames)) > 0) { // a shift may take it there
			l.want(at+"."+p.Name, "lies farther off the template's %d frames than they are long", d.Frames)
			return
		}
	}
	if out.Cmp(in) <= 0 {
		l.want(at+".out", "frame %s is not after %s, where the layer begins", out, in)
	}
}

func (d *Document) validateMove(l *faultList, at string, n *Node, name string) {
	p, part, err := n.Target(name)
	if err != nil {
		l.err(at, err)
		return
	}
	m := n.Motion[name]
	if m == nil {
		l.add(at, "is null; leave it out")
		return
	}
	lengths := p.Join == scheme.Plus && p.Length
	own := p.Join == scheme.Times && p.Unit.Px == 1
	switch {
	case lengths && m.Unit != CanvasUnit && m.Unit != SelfUnit:
		l.add(at+".unit", "%q is not one of %s, %s", m.Unit, CanvasUnit, SelfUnit)
	case own && m.Unit != "" && m.Unit != OwnUnit:
		l.add(at+".unit", "%q is not %q; leave it out for factors", m.Unit, OwnUnit)
	case !lengths && !own && m.Unit != "":
		l.add(at+".unit", "%s has no unit; leave it out", name)
	}
	if _, err := d.Track(n, p, part, m, geom.Size{W: 100, H: 100}); err != nil {
		l.err(at+".keys", err)
	}
	seen := map[string]bool{}
	for i, k := range m.Keys {
		if !scheme.ValidID(k.ID) || seen[k.ID] {
			l.add(fmt.Sprintf("%s.keys[%d].id", at, i), "%q is not an id of its own: small letters, digits and hyphens, a letter first", k.ID)
		}
		seen[k.ID] = true
	}
}

// validateBacked finds shapes that are to stand behind what are no words, or behind words of
// another group.
func (d *Document) validateBacked(l *faultList) {
	in := map[string]string{} // the group that a layer stands in
	d.Visit(func(_ string, y *Layer) {
		for _, k := range y.Layers() {
			in[k.ID] = y.ID
		}
	})
	d.Visit(func(path string, y *Layer) {
		of := d.Layer(y.Text(scheme.BackOf))
		switch {
		case of == nil: // none, or told where it is named
		case !of.Can(scheme.Lettered):
			l.add(path+".behind.of", "%s is a %s; a backing stands behind words", of.ID, of.Kind.Name)
		case in[of.ID] != in[y.ID]:
			l.add(path+".behind.of", "%s stands in another group; bring them together", of.ID)
		}
	})
}

// validateFollows finds layers that follow nobody, or one another in a circle.
func (d *Document) validateFollows(l *faultList) {
	d.Visit(func(path string, y *Layer) {
		if !y.Given(scheme.Follow) {
			return
		}
		trail := []string{y.ID}
		for at := y; at.Given(scheme.Follow); {
			next := d.Layer(at.Text(scheme.Follow))
			if next == nil {
				return // told where it is named
			}
			trail = append(trail, next.ID)
			if next == y {
				l.add(path+".follow", "goes in a circle: %s", strings.Join(trail, " follows "))
				return
			}
			if slices.Contains(trail[:len(trail)-1], next.ID) {
				return // somebody else's circle, told there
			}
			if !next.Can(scheme.Box) {
				l.add(path+".follow", "%s is a %s and has no place to follow", next.ID, next.Kind.Name)
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
		m := byID[y.Text(scheme.MatteLayer)]
		if m == nil {
			return // none, or told where it is named
		}
		if !m.Can(scheme.Blends) {
			l.add(path+".matte.layer", "%s is a %s, which has no picture of its own", m.ID, m.Kind.Name)
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
			for _, in := range at.Layers() {
				if t := needs(in, trail); t != nil {
					return t
				}
			}
			if next := byID[at.Text(scheme.MatteLayer)]; next != nil {
				return needs(next, trail)
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
