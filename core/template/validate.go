package template

import (
	"fmt"
	"math"
	"regexp"
	"strings"

	"ivypocket/core/geom"
	"ivypocket/core/timing"
)

// Limits of a document, set in one place.
const (
	MaxSide    = 8192
	MinSide    = 16
	MaxFrames  = timing.MaxFrames
	MaxLayers  = 500
	MaxPockets = 200
	MaxFormats = 16
)

var (
	idForm   = regexp.MustCompile(`^[a-z][a-z0-9-]{0,62}$`)
	hashForm = regexp.MustCompile(`^sha256:[0-9a-f]{64}$`)
)

// ValidHash reports whether text is a media hash such as sha256:….
func ValidHash(s string) bool { return hashForm.MatchString(s) }

// faultList collects faults while a document is walked.
type faultList struct{ f Faults }

func (l *faultList) add(path, format string, args ...any) {
	l.f = append(l.f, Fault{path, fmt.Sprintf(format, args...)})
}

func (l *faultList) err(path string, err error) {
	if err == nil {
		return
	}
	text := err.Error()
	// Errors that begin with [n] or .name go on with the path.
	if strings.HasPrefix(text, "[") || strings.HasPrefix(text, ".") {
		if head, rest, ok := strings.Cut(text, ": "); ok {
			path, text = path+head, rest
		}
	}
	l.f = append(l.f, Fault{path, strings.TrimPrefix(text, ": ")})
}

// Validate checks a document as a whole; its error is of type Faults.
func (d *Document) Validate() error {
	l := &faultList{}
	if d.Kind != "template" {
		l.add("kind", "is %q, not \"template\"", d.Kind)
	}
	ids := map[string]string{}
	unique := func(path, id string) {
		switch prev, taken := ids[id]; {
		case !idForm.MatchString(id):
			l.add(path+".id", "%q is not an id: small letters, digits and hyphens, a letter first", id)
		case taken:
			l.add(path+".id", "%q is already the id of %s", id, prev)
		default:
			ids[id] = path
		}
	}
	if !idForm.MatchString(d.ID) {
		l.add("id", "%q is not an id: small letters, digits and hyphens, a letter first", d.ID)
	}
	for _, f := range []struct{ path, v string }{{"name", d.Name}, {"category", d.Category}} {
		if strings.TrimSpace(f.v) == "" {
			l.add(f.path, "is missing")
		}
	}
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
	count("formats", len(d.Formats), 1, MaxFormats)
	layers := 0
	d.Visit(func(string, *Layer) { layers++ })
	count("layers", layers, 0, MaxLayers)
	count("pockets", len(d.Pockets), 0, MaxPockets)
	seen := map[string]bool{}
	for i, f := range d.Formats {
		path := fmt.Sprintf("formats[%d]", i)
		if !idForm.MatchString(f.ID) || seen[f.ID] {
			l.add(path+".id", "%q is not an id of its own", f.ID)
		}
		seen[f.ID] = true
		for _, s := range []struct {
			name string
			n    int
		}{{"width", f.Width}, {"height", f.Height}} {
			if s.n < MinSide || s.n > MaxSide || s.n%2 != 0 {
				l.add(path+"."+s.name, "%d px is not an even number from %d to %d", s.n, MinSide, MaxSide)
			}
		}
	}
	for i, c := range d.Colours {
		path := fmt.Sprintf("colours[%d]", i)
		unique(path, c.ID)
		_, err := ParseColour(c.Value)
		l.err(path+".value", err)
	}
	for i, p := range d.Pockets {
		d.validatePocket(l, fmt.Sprintf("pockets[%d]", i), p, unique)
	}
	for i := range d.Layouts {
		path := fmt.Sprintf("layouts[%d]", i)
		unique(path, d.Layouts[i].ID)
		d.validateLayout(l, path, &d.Layouts[i])
	}
	if d.Frames >= 1 && d.Frames <= MaxFrames {
		l.err("spans", timing.ValidateSpans(d.Spans, d.Frames))
	}
	d.validateLayers(l, unique)
	for i := range d.Formats {
		in, err := d.For(&d.Formats[i])
		if err != nil {
			head, what, _ := strings.Cut(err.Error(), ": ")
			l.add(fmt.Sprintf("formats[%d].%s", i, head), "%s", what)
			continue
		}
		in.validateCells(l, fmt.Sprintf(" in format %s", d.Formats[i].ID))
	}
	for i, c := range d.Cues {
		path := fmt.Sprintf("cues[%d]", i)
		unique(path, c.ID)
		if c.At.D == 0 || c.At.Float() < 0 || c.At.Float() >= float64(d.Frames) {
			l.add(path+".at", "is not within the template's %d frames", d.Frames)
		}
	}
	for i, m := range d.Media {
		if !ValidHash(m.Hash) {
			l.add(fmt.Sprintf("media[%d].hash", i), "%q is not sha256: and 64 hex digits", m.Hash)
		}
	}
	d.validateSheet(l)
	if l.f != nil {
		return l.f
	}
	return nil
}

func (d *Document) validatePocket(l *faultList, path string, p Pocket, unique func(path, id string)) {
	unique(path, p.ID)
	if strings.TrimSpace(p.Name) == "" {
		l.add(path+".name", "is missing")
	}
	if len(p.Kinds) == 0 {
		l.add(path+".kinds", "is empty: say what the pocket takes, of picture, footage and logo")
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
	if p.Play != nil {
		l.err(path+".play", p.Play.Validate())
		if p.Play.In != 0 {
			l.add(path+".play.in", "a pocket knows no clip beforehand; set standIn.inPoint instead")
		}
	}
	if p.StandIn != nil {
		if !ValidHash(p.StandIn.Media) {
			l.add(path+".standIn.media", "%q is not sha256: and 64 hex digits", p.StandIn.Media)
		}
		if p.StandIn.InPoint < 0 {
			l.add(path+".standIn.inPoint", "frame %d is below 0", p.StandIn.InPoint)
		}
	}
}

func (d *Document) validateLayout(l *faultList, path string, lay *Layout) {
	if lay.Kind != "split" {
		l.add(path+".kind", "%q is not a layout; this version computes \"split\"", lay.Kind)
	}
	if lay.GutterBy != geom.Shrink && lay.GutterBy != geom.Outwards {
		l.add(path+".gutterBy", "%q is not one of shrink, outwards", lay.GutterBy)
	}
	l.err(path+".rows", weights(lay.Rows))
	l.err(path+".columns", weights(lay.Columns))
	for _, n := range []struct {
		name string
		v    float64
	}{{"gutter", lay.Gutter}, {"margin", lay.Margin}, {"radius", lay.Radius}} {
		l.err(path+"."+n.name, within(n.v, 0, maxLength))
	}
}

func weights(w []float64) error {
	if len(w) < 1 || len(w) > geom.MaxCellsPerAxis {
		return fmt.Errorf("has %d weights, not 1 to %d", len(w), geom.MaxCellsPerAxis)
	}
	for i, v := range w {
		if !(v > 0) || math.IsInf(v, 0) || v > 1e6 {
			return fmt.Errorf("[%d]: weight %g is outside 0 to 1000000", i, v)
		}
	}
	return nil
}

// validateCells checks that every cell a layer stands in exists; formats may
// change the number of rows and columns.
func (d *Document) validateCells(l *faultList, where string) {
	d.Visit(func(path string, y *Layer) {
		c := y.Rest.Cell
		if c == nil {
			return
		}
		path += ".rest.cell"
		lay := d.Layout(c.Layout)
		if lay == nil {
			l.add(path+".layout", "there is no layout named %q", c.Layout)
		} else if c.Row < 0 || c.Row >= len(lay.Rows) || c.Column < 0 || c.Column >= len(lay.Columns) {
			l.add(path, "row %d, column %d is outside the %d rows and %d columns of %s%s",
				c.Row, c.Column, len(lay.Rows), len(lay.Columns), c.Layout, where)
		}
	})
}

func (d *Document) validateSheet(l *faultList) {
	data := map[string]string{}
	for g, group := range d.Sheet.Groups {
		for e, entry := range group.Entries {
			path := fmt.Sprintf("sheet.groups[%d].entries[%d]", g, e)
			if strings.TrimSpace(entry.Label) == "" {
				l.add(path+".label", "is missing")
			}
			if !idForm.MatchString(entry.Data) {
				l.add(path+".data", "%q is not a data name: small letters, digits and hyphens, a letter first", entry.Data)
			} else if prev, taken := data[entry.Data]; taken {
				l.add(path+".data", "%q is already the data name of %s", entry.Data, prev)
			}
			data[entry.Data] = path
			d.validateEntry(l, path, &entry)
		}
	}
}

func (d *Document) validateEntry(l *faultList, path string, e *Entry) {
	switch e.Kind {
	case MediaEntry:
		if d.Pocket(e.Pocket) == nil {
			l.add(path+".pocket", "there is no pocket named %q", e.Pocket)
		}
		return
	case AmountEntry:
		if e.Min == nil || e.Max == nil || !(*e.Min < *e.Max) {
			l.add(path+".max", "an amount needs min and max, min the smaller")
			return
		}
		if e.Default == nil || e.Default.Text != "" {
			l.add(path+".default", "is missing: an amount needs a number")
			return
		}
	case ColourEntry:
		if e.Default == nil || e.Default.Text == "" {
			l.add(path+".default", "is missing: a colour entry needs a colour such as #1e7383")
			return
		}
	default:
		l.add(path+".kind", "%q is not a kind of entry this version offers: media, amount, colour", e.Kind)
		return
	}
	l.err(path+".default", e.Check(*e.Default))
	for i, tie := range e.Ties {
		at := fmt.Sprintf("%s.ties[%d]", path, i)
		probes := []Rest{{Text: e.Default.Text}}
		if e.Kind == AmountEntry {
			if (tie.From == nil) != (tie.Into == nil) || tie.From != nil && tie.From[0] == tie.From[1] {
				l.add(at, "from and into go together, and from must span something")
				continue
			}
			probes = []Rest{tie.Rest(*e.Min), tie.Rest(*e.Max)}
		}
		for _, p := range probes {
			if err := d.Clone().Set(tie.To, p); err != nil {
				l.add(at+".to", "%s", err)
				break
			}
		}
	}
}

// Check says whether an editor's value is one the entry takes.
func (e *Entry) Check(v Value) error {
	switch e.Kind {
	case AmountEntry:
		if v.Text != "" {
			return fmt.Errorf("%q is not a number", v.Text)
		}
		return within(v.Amount, *e.Min, *e.Max)
	case ColourEntry:
		_, err := ParseColour(v.Text)
		return err
	}
	return fmt.Errorf("a %s entry takes no value of this kind", e.Kind)
}

// StepSize is by how much an amount goes up and down: what the designer said, else
// a power of ten, 1 at most, that gives a hundred steps or more.
func (e *Entry) StepSize() float64 {
	if e.Step > 0 || e.Min == nil || e.Max == nil {
		return e.Step
	}
	return math.Min(1, math.Pow(10, math.Floor(math.Log10((*e.Max-*e.Min)/100)+1e-9)))
}

// Rest maps an amount through the tie.
func (t Tie) Rest(amount float64) Rest {
	if t.From != nil {
		p := (amount - t.From[0]) / (t.From[1] - t.From[0])
		amount = t.Into[0] + (t.Into[1]-t.Into[0])*p
	}
	return One(amount)
}
