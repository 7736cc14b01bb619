// Package sheet is the room for what an editor gives: values, and how they
// and a template's ties make a resolved document. It draws nothing.
package sheet

import (
	"fmt"
	"slices"
	"sort"

	"ivypocket/core/geom"
	"ivypocket/core/scheme"
	"ivypocket/core/template"
	"ivypocket/core/timing"
)

// Fill is the media an editor put in a pocket, and how it lies there.
type Fill struct {
	Media string `json:"media,omitempty" required:"false" doc:"sha256:…; absent keeps the stand-in"`
	// Name is what the file was called that was brought in here, where the store
	// knows the same file by another name.
	Name string `json:"name,omitempty" required:"false" doc:"What the file was called that was brought in here, if not as in the store"`
	// Framing holds in all formats; nil is the pocket's own.
	Framing *geom.Framing `json:"framing,omitempty"`
	// Formats holds framings that differ in one format, by its id.
	Formats map[string]geom.Framing `json:"formats,omitempty" required:"false"`
	// Keep says that the framing stays when other media comes in.
	Keep bool `json:"keep,omitempty" required:"false" doc:"The framing stays when other media comes in"`
	// Play is how a clip runs; nil is the pocket's own way.
	Play *timing.Play `json:"play,omitempty"`
}

// Empty reports whether the fill says nothing.
func (f Fill) Empty() bool {
	return f.Media == "" && f.Framing == nil && len(f.Formats) == 0 && f.Play == nil && !f.Keep
}

// MaxName bounds the name of media in a fill, in bytes.
const MaxName = 255

// Values is all that an editor gave: fills by pocket, entries by their ids.
type Values struct {
	Fills   map[string]Fill         `json:"fills,omitempty"`
	Entries map[string]scheme.Value `json:"entries,omitempty"`
	// Frames is the length of the piece; 0 is the template's own.
	Frames int64 `json:"frames,omitempty" doc:"Length of the piece, in frames of the rate at which it runs; absent is the template's"`
	// Measure is what a piece of a template that is put around a clip takes from the clip.
	Measure *template.Measure `json:"measure,omitempty"`
}

// Empty reports whether the values say nothing.
func (v Values) Empty() bool {
	return len(v.Fills) == 0 && len(v.Entries) == 0 && v.Frames == 0 && v.Measure == nil
}

// Unfilled are the values for the next piece like one: all that was set, with nothing in the
// pockets; framings that are to be kept for other media stay.
func (v Values) Unfilled() Values {
	c := v.Clone()
	for id, f := range c.Fills {
		if !f.Keep {
			delete(c.Fills, id)
			continue
		}
		f.Media, f.Name, f.Play = "", "", nil
		c.Fills[id] = f
	}
	if c.Measure != nil { // it was that of the clip, and so was the length
		c.Measure, c.Frames = nil, 0
	}
	return c
}

// Clone returns a copy that shares nothing with v.
func (v Values) Clone() Values {
	c := Values{Fills: make(map[string]Fill, len(v.Fills)), Entries: make(map[string]scheme.Value, len(v.Entries)), Frames: v.Frames}
	if v.Measure != nil {
		m := *v.Measure
		c.Measure = &m
	}
	for id, f := range v.Fills {
		if f.Framing != nil {
			fr := *f.Framing
			f.Framing = &fr
		}
		formats := make(map[string]geom.Framing, len(f.Formats))
		for k, fr := range f.Formats {
			formats[k] = fr
		}
		f.Formats = formats
		if f.Play != nil {
			p := *f.Play
			f.Play = &p
		}
		c.Fills[id] = f
	}
	for k, e := range v.Entries {
		c.Entries[k] = e
	}
	return c
}

// Validate says which value does not fit the template.
func (v Values) Validate(d *template.Document) error {
	var faults template.Faults
	add := func(path string, err error) {
		if err != nil {
			faults = append(faults, template.Fault{Path: path, What: err.Error()})
		}
	}
	if v.Measure != nil {
		if err := v.Measure.Check(d); err != nil {
			return template.Faults{{Path: "measure", What: err.Error()}}
		}
	}
	d = d.Measured(v.Measure)
	for _, id := range sorted(v.Fills) {
		f := v.Fills[id]
		path := "fills." + id
		if d.Pocket(id) == nil {
			add(path, fmt.Errorf("the template has no pocket of this name"))
			continue
		}
		if f.Media != "" && !scheme.ValidHash(f.Media) {
			add(path+".media", fmt.Errorf("%q is not sha256: and 64 hex digits", f.Media))
		}
		if len(f.Name) > MaxName || f.Name != "" && f.Media == "" {
			add(path+".name", fmt.Errorf("is the name of media and has at most %d bytes", MaxName))
		}
		if f.Framing != nil {
			add(path+".framing", f.Framing.Validate())
		}
		if f.Play != nil {
			add(path+".play", f.Play.Validate())
		}
		for _, k := range sorted(f.Formats) {
			if d.Format(k) == nil {
				add(path+".formats."+k, fmt.Errorf("the template has no format of this name"))
			}
			add(path+".formats."+k, f.Formats[k].Validate())
		}
	}
	for _, name := range sorted(v.Entries) {
		e := d.Sheet.Entry(name)
		if e == nil {
			add("entries."+name, fmt.Errorf("the sheet has no entry of this id"))
			continue
		}
		if e.Fixed {
			add("entries."+name, fmt.Errorf("%s is fixed for good; its default holds", e.Label))
			continue
		}
		add("entries."+name, e.Check(v.Entries[name]))
	}
	if v.Frames != 0 {
		_, err := d.TimeMap(v.Frames)
		add("frames", err)
		if e := d.Sheet.Duration(); e != nil && err == nil {
			if lo, hi := e.Lengths(d); v.Frames < lo || v.Frames > hi {
				add("frames", fmt.Errorf("%s goes from %d to %d frames, and %d lies outside", e.Label, lo, hi, v.Frames))
			}
		}
	}
	if faults != nil {
		return faults
	}
	return nil
}

// Resolved is a template with an editor's values in place.
type Resolved struct {
	Doc    *template.Document
	Values Values
}

// Resolve puts values into a template: every entry's value, given or default,
// goes along its ties.
func Resolve(d *template.Document, v Values) (*Resolved, error) {
	if err := v.Validate(d); err != nil {
		return nil, err
	}
	d = d.Measured(v.Measure)
	doc := d.Clone()
	for _, e := range d.Sheet.Entries() {
		val, ok := value(e, v)
		if !ok {
			continue
		}
		for i := range e.Ties {
			t := &e.Ties[i]
			r, drives := t.Value(e, val)
			if !drives {
				continue
			}
			if err := doc.Drive(t.To, r); err != nil {
				return nil, template.Faults{{Path: fmt.Sprintf("entries.%s, tie %d to %s", e.ID, i+1, t.To), What: err.Error()}}
			}
		}
	}
	return &Resolved{Doc: doc, Values: v}, nil
}

// At is a document of which an entry has another default.
func At(d *template.Document, entry string, v scheme.Value) *template.Document {
	c := d.Clone()
	c.Sheet.Groups = slices.Clone(d.Sheet.Groups)
	for g := range c.Sheet.Groups {
		c.Sheet.Groups[g].Entries = slices.Clone(c.Sheet.Groups[g].Entries)
		for e := range c.Sheet.Groups[g].Entries {
			if entry == c.Sheet.Groups[g].Entries[e].ID {
				c.Sheet.Groups[g].Entries[e].Default = &v
			}
		}
	}
	return c
}

func value(e *template.Entry, v Values) (scheme.Value, bool) {
	if val, given := v.Entries[e.ID]; given {
		return val, true
	}
	if e.Default == nil {
		return scheme.Value{}, false
	}
	return *e.Default, true
}

// Value is the value of an entry, given or default; ok is false for an entry
// that has none, as media.
func (r *Resolved) Value(id string) (v scheme.Value, ok bool) {
	if e := r.Doc.Sheet.Entry(id); e != nil {
		return value(e, r.Values)
	}
	return v, false
}

// Media is the media a pocket shows: the editor's, else the stand-in, else "".
func (r *Resolved) Media(pocket string) string {
	if m := r.Values.Fills[pocket].Media; m != "" {
		return m
	}
	if p := r.Doc.Pocket(pocket); p != nil {
		return p.Shown()
	}
	return ""
}

// Framing is how a pocket's media lies in a format, within the pocket's limits.
func (r *Resolved) Framing(pocket, format string) geom.Framing {
	f := r.Values.Fills[pocket]
	if fr, ok := f.Formats[format]; ok {
		return r.Held(pocket, fr)
	}
	if f.Framing != nil {
		return r.Held(pocket, *f.Framing)
	}
	if p := r.Doc.Pocket(pocket); p != nil {
		return p.DefaultFraming()
	}
	return geom.DefaultFraming(geom.Cover)
}

// Held is an editor's framing within the pocket's limits, with what it leaves open as
// the pocket has it.
func (r *Resolved) Held(pocket string, f geom.Framing) geom.Framing {
	own := geom.DefaultFraming(geom.Cover)
	var limits *geom.Limits
	if p := r.Doc.Pocket(pocket); p != nil {
		own, limits = p.DefaultFraming(), p.Limits
	}
	return limits.Hold(f.Or(own), own)
}

// Play is how a clip runs in a pocket: as the editor set it, else as the
// template does. The stand-in's in-point is the stand-in's alone.
func (r *Resolved) Play(pocket string) timing.Play {
	f := r.Values.Fills[pocket]
	if f.Play != nil {
		return *f.Play
	}
	var play timing.Play
	if p := r.Doc.Pocket(pocket); p != nil {
		if p.Play != nil {
			play = *p.Play
		}
		if f.Media == "" && p.StandIn != nil {
			play.In = p.StandIn.InPoint
		}
	}
	return play
}

func sorted[V any](m map[string]V) []string {
	keys := make([]string, 0, len(m))
	for k := range m {
		keys = append(keys, k)
	}
	sort.Strings(keys)
	return keys
}
