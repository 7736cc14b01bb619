// Package template is the room for the document: the types of a template, how
// it is read, upgraded and validated. It draws nothing and reads no files.
package template

import (
	"ivypocket/core/geom"
	"ivypocket/core/timing"
)

// Schema is the version of the document format this package reads and writes.
// Older documents are upgraded when read; newer ones are refused.
const Schema = 2

// Document is a template. docs/format.md describes the whole intended shape;
// the types here hold what can be drawn, and Parse refuses the rest by name.
type Document struct {
	Schema   int         `json:"ivypocket" doc:"Version of the document format"`
	Kind     string      `json:"kind" enum:"template"`
	ID       string      `json:"id"`
	Name     string      `json:"name"`
	Category string      `json:"category"`
	Family   string      `json:"family,omitempty"`
	About    string      `json:"about,omitempty"`
	Rate     timing.Rate `json:"rate" doc:"Frames per second, an exact fraction"`
	Frames   int64       `json:"frames" doc:"Length in frames"`
	// Spans say which time is held when a piece is longer or shorter; without
	// any, all of it stretches.
	Spans   []timing.Span `json:"spans,omitempty"`
	Formats []Format      `json:"formats"`
	Colours []Colour      `json:"colours,omitempty"`
	Layouts []Layout      `json:"layouts,omitempty"`
	Pockets []Pocket      `json:"pockets,omitempty"`
	Layers  []Layer       `json:"layers"`
	Cues    []Cue         `json:"cues,omitempty"`
	Sheet   Sheet         `json:"sheet,omitempty"`
	Media   []Media       `json:"media,omitempty"`
}

// Format is one canvas of a template. Rest overrides how layers and layouts
// stand on this canvas, by id and property, each as one whole value.
type Format struct {
	ID     string                     `json:"id"`
	Name   string                     `json:"name"`
	Width  int                        `json:"width"`
	Height int                        `json:"height"`
	Rest   map[string]map[string]Rest `json:"rest,omitempty"`
}

// Canvas is the format's size in pixels.
func (f Format) Canvas() geom.Size { return geom.Size{W: float64(f.Width), H: float64(f.Height)} }

// Rest is the whole value of one property: a number, a list of numbers, text, or
// the points of a path.
type Rest struct {
	Numbers []float64
	Text    string
	Single  bool // one number, not a list of one
	// Wide is how many numbers each point has when Numbers are a path's.
	Wide int
}

// Colour is a named colour, used by layers as "colour:id".
type Colour struct {
	ID    string `json:"id"`
	Name  string `json:"name"`
	Value string `json:"value" doc:"#rrggbb or #rrggbbaa"`
}

// Layout computes places that layers refer to. Its kind is "split".
type Layout struct {
	ID       string        `json:"id"`
	Kind     string        `json:"kind" enum:"split"`
	Rows     []float64     `json:"rows" doc:"Weights of the rows"`
	Columns  []float64     `json:"columns" doc:"Weights of the columns"`
	Gutter   float64       `json:"gutter" doc:"px between neighbouring cells"`
	GutterBy geom.GutterBy `json:"gutterBy" enum:"shrink,outwards"`
	Margin   float64       `json:"margin,omitempty" required:"false" doc:"px between the outer cells and the canvas edge"`
	Radius   float64       `json:"radius,omitempty" required:"false" doc:"px"`
}

// Split returns the layout as geometry on a canvas.
func (l Layout) Split(canvas geom.Size) geom.Split {
	return geom.Split{Canvas: canvas, Rows: l.Rows, Columns: l.Columns, Gutter: l.Gutter, By: l.GutterBy, Margin: l.Margin, Radius: l.Radius}
}

// MediaKind says what a pocket takes.
type MediaKind string

const (
	Picture MediaKind = "picture"
	Footage MediaKind = "footage"
	Sound   MediaKind = "sound"
	Logo    MediaKind = "logo"
)

// Pocket is a place for media that an editor may swap.
type Pocket struct {
	ID    string      `json:"id"`
	Name  string      `json:"name"`
	Kinds []MediaKind `json:"kinds" doc:"What the pocket takes"`
	// Framing is how media lies in the pocket unless an editor frames it.
	Framing *geom.Framing `json:"framing,omitempty"`
	// Play is how clips run in the pocket unless an editor says otherwise; its
	// in-point is always the first frame.
	Play    *timing.Play `json:"play,omitempty"`
	StandIn *StandIn     `json:"standIn,omitempty"`
}

// Takes reports whether the pocket takes media of a kind. A logo is a picture
// or a vector drawing used for its outline, so a logo pocket takes pictures.
func (p Pocket) Takes(kind MediaKind) bool {
	for _, k := range p.Kinds {
		if k == kind || k == Logo && kind == Picture {
			return true
		}
	}
	return false
}

// IsLogo reports whether the pocket is meant for marks.
func (p Pocket) IsLogo() bool {
	for _, k := range p.Kinds {
		if k == Logo {
			return true
		}
	}
	return false
}

// DefaultFraming is the pocket's own framing: what the designer set, else
// contain for logos and cover for the rest.
func (p Pocket) DefaultFraming() geom.Framing {
	own := geom.DefaultFraming(geom.Cover)
	if p.IsLogo() {
		own = geom.DefaultFraming(geom.Contain)
	}
	if p.Framing != nil {
		return p.Framing.Or(own)
	}
	return own
}

// StandIn is the sample media a pocket holds while the template is built.
type StandIn struct {
	Media string `json:"media" doc:"sha256:…"`
	// InPoint is the first frame that is seen of a stand-in that is a clip.
	InPoint timing.SourceFrame `json:"inPoint,omitempty"`
}

// Cue is a named instant.
type Cue struct {
	ID   string     `json:"id"`
	Name string     `json:"name"`
	At   timing.Rat `json:"at" doc:"Frames"`
}

// PosterCue is the id of the cue whose frame stands for the template.
const PosterCue = "poster"

// Sheet is what the editor is given.
type Sheet struct {
	Groups []Group `json:"groups,omitempty"`
}

// Group is a part of the sheet under one heading.
type Group struct {
	ID      string  `json:"id"`
	Label   string  `json:"label"`
	Entries []Entry `json:"entries"`
}

// EntryKind is what an entry asks for.
type EntryKind string

const (
	MediaEntry  EntryKind = "media"
	AmountEntry EntryKind = "amount"
	ColourEntry EntryKind = "colour"
)

// Entry is one line of the sheet.
type Entry struct {
	Label   string    `json:"label"`
	Data    string    `json:"data" doc:"Name for data"`
	Kind    EntryKind `json:"kind" enum:"media,amount,colour"`
	Help    string    `json:"help,omitempty"`
	Pocket  string    `json:"pocket,omitempty" doc:"media: the pocket that is filled"`
	Default *Value    `json:"default,omitempty" doc:"amount: a number; colour: #rrggbb"`
	Min     *float64  `json:"min,omitempty"`
	Max     *float64  `json:"max,omitempty"`
	Step    float64   `json:"step,omitempty" required:"false"`
	Unit    string    `json:"unit,omitempty"`
	Ties    []Tie     `json:"ties,omitempty"`
}

// Value is an amount or a colour given by an editor.
type Value struct {
	Amount float64
	Text   string // a colour; empty means the value is the amount
}

// Tie binds an entry to a property. An amount is mapped from From to Into.
type Tie struct {
	To   string      `json:"to" doc:"colours/ID, layouts/ID/PROPERTY or layers/ID/PROPERTY"`
	From *[2]float64 `json:"from,omitempty"`
	Into *[2]float64 `json:"into,omitempty"`
}

// Media says what a hash in the document is.
type Media struct {
	Hash    string    `json:"hash" doc:"sha256:…"`
	Name    string    `json:"name"`
	Kind    MediaKind `json:"kind"`
	Licence string    `json:"licence,omitempty"`
	Source  string    `json:"source,omitempty"`
}

// Entries lists all entries of the sheet in order.
func (s Sheet) Entries() []*Entry {
	var out []*Entry
	for g := range s.Groups {
		for e := range s.Groups[g].Entries {
			out = append(out, &s.Groups[g].Entries[e])
		}
	}
	return out
}

// Pocket returns the pocket of an id, or nil.
func (d *Document) Pocket(id string) *Pocket {
	for i := range d.Pockets {
		if d.Pockets[i].ID == id {
			return &d.Pockets[i]
		}
	}
	return nil
}

// Format returns the format of an id, or nil.
func (d *Document) Format(id string) *Format {
	for i := range d.Formats {
		if d.Formats[i].ID == id {
			return &d.Formats[i]
		}
	}
	return nil
}

// Layer returns the layer of an id, wherever it stands, or nil.
func (d *Document) Layer(id string) *Layer { return find(d.Layers, id) }

// Layout returns the layout of an id, or nil.
func (d *Document) Layout(id string) *Layout {
	for i := range d.Layouts {
		if d.Layouts[i].ID == id {
			return &d.Layouts[i]
		}
	}
	return nil
}

// TimeMap is the way from the frames of a piece of a length to the document's
// clocks; a length of 0 is the template's own.
func (d *Document) TimeMap(length int64) (timing.Map, error) {
	if length == 0 {
		length = d.Frames
	}
	return timing.NewMap(d.Rate, d.Frames, d.Spans, length)
}

// Poster is the instant that stands for the template.
func (d *Document) Poster() timing.TemplateTime {
	for _, c := range d.Cues {
		if c.ID == PosterCue {
			return timing.TemplateTime{Rat: c.At}
		}
	}
	return timing.TemplateTime{Rat: timing.Int(d.Frames / 2)}
}

// Clone returns a copy that shares nothing which Set changes.
func (d *Document) Clone() *Document {
	c := *d
	c.Colours = append([]Colour(nil), d.Colours...)
	c.Layouts = append([]Layout(nil), d.Layouts...)
	c.Layers = cloneLayers(d.Layers)
	return &c
}
