package template

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"ivypocket/core/recipe"
	"ivypocket/core/scheme"
	"ivypocket/core/timing"
)

// Limits of a document, set in one place.
const (
	MaxFrames  = timing.MaxFrames
	MaxPockets = 200
	MaxFormats = 16
	MaxRecipes = 100
	MaxEasings = 100
)

// faultList collects faults while a document is walked.
type faultList struct {
	f Faults
	// sound leaves out what a half-built document may lack.
	sound bool
}

// want is add for what a document must have before it is released: a half-built
// one is sound without.
func (l *faultList) want(path, format string, args ...any) {
	if !l.sound {
		l.add(path, format, args...)
	}
}

func (l *faultList) add(path, format string, args ...any) {
	l.f = append(l.f, Fault{path, fmt.Sprintf(format, args...)})
}

func (l *faultList) err(path string, err error) {
	if err != nil {
		l.f = append(l.f, placed(path, err))
	}
}

// Validate checks a document as a whole, as it must be to be released; its error is
// of type Faults.
func (d *Document) Validate() error { return d.validate(&faultList{}) }

// Sound checks what holds of a document at every moment while it is built: ids,
// references, values and their limits, formulas. What is missing yet, Validate
// tells. Its error is of type Faults.
func (d *Document) Sound() error { return d.validate(&faultList{sound: true}) }

func (d *Document) validate(l *faultList) error {
	if d.Kind != "template" {
		l.add("kind", "is %q, not \"template\"", d.Kind)
	}
	ids := map[string]string{}
	unique := func(path, id string) {
		switch prev, taken := ids[id]; {
		case !scheme.ValidID(id):
			l.add(path+".id", "%q is not an id: small letters, digits and hyphens, a letter first", id)
		case taken:
			l.add(path+".id", "%q is already the id of %s", id, prev)
		default:
			ids[id] = path
		}
	}
	if !scheme.ValidID(d.ID) {
		l.add("id", "%q is not an id: small letters, digits and hyphens, a letter first", d.ID)
	}
	for _, f := range []struct{ path, v string }{{"name", d.Name}, {"category", d.Category}} {
		if strings.TrimSpace(f.v) == "" {
			l.want(f.path, "is missing")
		}
	}
	if d.Purpose != "" && !slices.Contains(Purposes, d.Purpose) {
		l.add("purpose", "%q is not one of stand-alone, overlay, frame, transition", d.Purpose)
	}
	d.validateRoles(l)
	if d.Rate.D == 0 {
		l.add("rate", "is missing: write frames per second, such as 30000/1001")
	}
	if d.Frames < 1 || d.Frames > MaxFrames {
		l.add("frames", "%d is outside 1 to %d", d.Frames, MaxFrames)
	}
	count := func(path string, n, lo, hi int) {
		if n < lo || n > hi {
			l.add(path, "%d of them is outside %d to %d", n, lo, hi)
		}
	}
	if len(d.Formats) == 0 {
		l.want("formats", "there is none: a template needs a canvas")
	}
	count("formats", len(d.Formats), 0, MaxFormats)
	layers := 0
	d.Visit(func(string, *Layer) { layers++ })
	count("layers", layers, 0, scheme.MaxLayers)
	count("gradients", len(d.Gradients), 0, scheme.MaxGradients)
	count("pockets", len(d.Pockets), 0, MaxPockets)
	seen := map[string]bool{}
	for i, f := range d.Formats {
		path := fmt.Sprintf("formats[%d]", i)
		if !scheme.ValidID(f.ID) || seen[f.ID] {
			l.add(path+".id", "%q is not an id of its own", f.ID)
		}
		seen[f.ID] = true
		for _, s := range []struct {
			name string
			n    int
		}{{"width", f.Width}, {"height", f.Height}} {
			if s.n < scheme.MinSide || s.n > scheme.MaxSide || s.n%2 != 0 {
				l.add(path+"."+s.name, "%d px is not an even number from %d to %d", s.n, scheme.MinSide, scheme.MaxSide)
			}
		}
	}
	for i, c := range d.Colours {
		path := fmt.Sprintf("colours[%d]", i)
		unique(path, c.ID)
		_, err := scheme.ParseColour(c.Value)
		l.err(path+".value", err)
	}
	for i, p := range d.Pockets {
		d.validatePocket(l, fmt.Sprintf("pockets[%d]", i), p, unique)
	}
	if d.Frames >= 1 && d.Frames <= MaxFrames {
		l.err("spans", timing.ValidateSpans(d.Spans, d.Frames))
	}
	for i, s := range d.Spans {
		if s.ID != "" {
			unique(fmt.Sprintf("spans[%d]", i), s.ID)
		}
	}
	d.validateNodes(l, unique)
	whole := l.f == nil
	for i := range d.Formats {
		in, err := d.For(&d.Formats[i])
		if err != nil {
			for _, f := range err.(Faults) {
				l.add(fmt.Sprintf("formats[%d].%s", i, f.Path), "%s", f.What)
			}
			continue
		}
		where := fmt.Sprintf(" in format %s", d.Formats[i].ID)
		if whole {
			if in, err = in.Expanded(); err != nil {
				l.f = append(l.f, err.(Faults)...)
				continue
			}
		}
		in.validateCells(l, where)
		// What a layer's size depends on may be another thing in a format of its own.
		if whole && d.Formats[i].flowsOwn() {
			if _, _, err := in.Formulas(func(Name) int { return 0 }); err != nil {
				for _, f := range err.(Faults) {
					l.add(f.Path, "%s%s", f.What, where)
				}
				continue
			}
		}
		if whole && in != d {
			before := len(l.f)
			in.validateRelations(l)
			for k := before; k < len(l.f); k++ {
				l.f[k].What += where
			}
		}
	}
	for i, c := range d.Cues {
		path := fmt.Sprintf("cues[%d]", i)
		unique(path, c.ID)
		if c.At.D == 0 || c.At.Float() < 0 || c.At.Float() >= float64(d.Frames) {
			l.want(path+".at", "is not within the template's %d frames", d.Frames)
		}
	}
	if len(d.Recipes) > MaxRecipes {
		l.want("recipes", "are %d; %d are the most", len(d.Recipes), MaxRecipes)
	}
	for i, r := range d.Recipes {
		path := fmt.Sprintf("recipes[%d]", i)
		unique(path, r.ID)
		if r.Frames < 1 || r.Frames > MaxFrames {
			l.add(path+".frames", "%d is not within 1 to %d", r.Frames, MaxFrames)
		}
		kind := recipe.Find(r.Kind)
		if kind == nil {
			l.add(path+".kind", "%q is not a kind of recipes", r.Kind)
			continue
		}
		if _, err := kind.Whole(r.Numbers); err != nil {
			l.err(path+".numbers", err)
		}
	}
	if len(d.Easings) > MaxEasings {
		l.want("easings", "are %d; %d are the most", len(d.Easings), MaxEasings)
	}
	for i, e := range d.Easings {
		path := fmt.Sprintf("easings[%d]", i)
		unique(path, e.ID)
		switch {
		case strings.TrimSpace(e.Name) == "":
			l.want(path+".name", "is missing")
		case (e.Ease == nil) == (e.Steps == nil):
			l.add(path, "has an ease or steps, one of them")
		case e.Ease != nil:
			l.err(path+".ease", e.Ease.Validate())
		default:
			l.err(path+".steps", e.Steps.Validate())
		}
	}
	for i, m := range d.Media {
		if !scheme.ValidHash(m.Hash) {
			l.add(fmt.Sprintf("media[%d].hash", i), "%q is not sha256: and 64 hex digits", m.Hash)
		}
	}
	d.validateSheet(l)
	if l.f != nil {
		return l.f
	}
	return nil
}

// flowsOwn reports whether a format says of its own how layers flow, or how large they are.
func (f *Format) flowsOwn() bool {
	for path := range f.Rest {
		name := path[strings.LastIndexByte(path, '/')+1:]
		if strings.HasPrefix(name, "flow.") || strings.HasPrefix(name, "size") || strings.HasPrefix(name, "cell.") || name == scheme.Loose.Name {
			return true
		}
	}
	return false
}

// roles are the parts that pockets have in each purpose.
var roles = map[Purpose][]Role{Frame: {RoleClip}, Transition: {RoleFrom, RoleTo}}

// Roles are the parts that pockets have in a purpose.
func Roles(p Purpose) []Role { return roles[p] }

// validateRoles checks that each part of the purpose is one pocket's.
func (d *Document) validateRoles(l *faultList) {
	taken := map[Role]string{}
	for i, p := range d.Pockets {
		at := fmt.Sprintf("pockets[%d].role", i)
		switch {
		case p.Role == "":
		case p.Role != RoleFrom && p.Role != RoleTo && p.Role != RoleClip:
			l.add(at, "%q is not one of from, to, clip", p.Role)
		case taken[p.Role] != "":
			l.want(at, "%s is the part of %s already", p.Role, taken[p.Role])
		case !slices.Contains(roles[d.Purpose], p.Role):
			l.want(at, "%s is no part of what the template is for; leave it out", p.Role)
		}
		taken[p.Role] = p.ID
	}
	for _, r := range roles[d.Purpose] {
		if taken[r] == "" {
			l.want("pockets", "none has the role %q, which a %s needs", r, d.Purpose)
		}
	}
}

func (d *Document) validatePocket(l *faultList, path string, p Pocket, unique func(path, id string)) {
	unique(path, p.ID)
	if strings.TrimSpace(p.Name) == "" {
		l.want(path+".name", "is missing")
	}
	if len(p.Kinds) == 0 {
		l.want(path+".kinds", "is empty: say what the pocket takes, of picture, footage and logo")
	}
	for k, kind := range p.Kinds {
		switch kind {
		case Picture, Footage, Logo:
		case Sound:
			l.add(fmt.Sprintf("%s.kinds[%d]", path, k), "sound is part of the format, but this version does not play it yet; leave it out")
		default:
			l.add(fmt.Sprintf("%s.kinds[%d]", path, k), "%q is not one of picture, footage, logo", kind)
		}
	}
	if p.Framing != nil {
		l.err(path+".framing", p.Framing.Validate())
	}
	if p.Limits != nil {
		l.err(path+".limits", p.Limits.Validate())
	}
	if m := p.Lined(); m != "" && !scheme.ValidHash(m) {
		l.add(path+".lining.media", "%q is not sha256: and 64 hex digits", m)
	}
	if p.Play != nil {
		l.err(path+".play", p.Play.Validate())
		if p.Play.In != 0 {
			l.add(path+".play.in", "a pocket knows no clip beforehand; set standIn.inPoint instead")
		}
	}
	if p.StandIn != nil {
		if !scheme.ValidHash(p.StandIn.Media) {
			l.add(path+".standIn.media", "%q is not sha256: and 64 hex digits", p.StandIn.Media)
		}
		if p.StandIn.InPoint < 0 {
			l.add(path+".standIn.inPoint", "frame %d is below 0", p.StandIn.InPoint)
		}
	}
}

// MissingCells tells of layers that stand in cells which their layouts have not,
// in any format.
func (d *Document) MissingCells() Faults {
	l := &faultList{}
	for i := range d.Formats {
		if in, err := d.For(&d.Formats[i]); err == nil {
			in.validateCells(l, " in format "+d.Formats[i].ID)
		}
	}
	return l.f
}

// validateCells checks that every cell a layer stands in exists; formats may
// change the number of rows and columns.
func (d *Document) validateCells(l *faultList, where string) {
	d.Visit(func(path string, y *Layer) {
		if !inCell(y) {
			return
		}
		path += ".cell"
		row, column, down, across := y.Cell()
		lay := d.Layout(y.Text(scheme.CellLayout))
		if lay == nil {
			return // told where it is named
		}
		if rows, columns := len(lay.Get(scheme.Rows).Numbers), len(lay.Get(scheme.Columns).Numbers); row >= rows || column >= columns {
			l.want(path, "row %d, column %d is outside the %d rows and %d columns of %s%s", row, column, rows, columns, lay.ID, where)
		} else if row+down > rows || column+across > columns {
			l.want(path, "goes over %d rows and %d columns from row %d, column %d on, which the %d rows and %d columns of %s have not%s", down, across, row, column, rows, columns, lay.ID, where)
		}
	})
}

func within(n, lo, hi float64) error {
	if math.IsNaN(n) || n < lo || n > hi {
		return fmt.Errorf("%g is outside %g to %g", n, lo, hi)
	}
	return nil
}
