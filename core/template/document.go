// Package template is the room for the document: the types of a template, how
// it is read, upgraded and validated. It draws nothing and reads no files.
package template

import (
	"fmt"
	"slices"

	"ivypocket/core/geom"
	"ivypocket/core/scheme"
	"ivypocket/core/timing"
)

// Schema is the version of the document format this package reads and writes.
// Older documents are upgraded when read; newer ones are refused.
const Schema = 3

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
	Purpose  Purpose     `json:"purpose,omitempty" enum:"stand-alone,overlay,frame,transition" doc:"What it is for; absent is stand-alone"`
	Rate     timing.Rate `json:"rate" doc:"Frames per second, an exact fraction"`
	Frames   int64       `json:"frames" doc:"Length in frames"`
	// Spans say which time is held when a piece is longer or shorter; without
	// any, all of it stretches.
	Spans   []timing.Span `json:"spans,omitempty"`
	Formats []Format      `json:"formats"`
	Colours []Colour      `json:"colours,omitempty"`
	// Gradients are chosen by name, by layers and at the desk.
	Gradients []*Node  `json:"gradients,omitempty"`
	Layouts   []*Node  `json:"layouts,omitempty"`
	Pockets   []Pocket `json:"pockets,omitempty"`
	// Motifs are groups that are built once and used by layers of the kind "use".
	Motifs []*Layer `json:"motifs,omitempty"`
	Layers []*Layer `json:"layers"`
	// Moves are motions that are saved by name; layers perform them.
	Moves []*Node `json:"moves,omitempty"`
	// Recipes are the numbers that some of the layers were built from.
	Recipes []Recipe `json:"recipes,omitempty"`
	// Easings are the document's own, by name.
	Easings []NamedEasing `json:"easings,omitempty"`
	Cues    []Cue         `json:"cues,omitempty"`
	Sheet   Sheet         `json:"sheet,omitzero"`
	Media   []Media       `json:"media,omitempty"`

	places map[string][]step // of layers by id; see place
	made   *Measure          // what it was made to measure by
	own    map[*Node]bool    // the nodes that no other document shares
}

// Purpose is what a template is for.
type Purpose string

const (
	// StandAlone is a piece of its own: an opener, a card, a slideshow.
	StandAlone Purpose = "stand-alone"
	// Overlay lies on something else: its ground is clear.
	Overlay Purpose = "overlay"
	// Frame is put around one clip, which fills the first pocket.
	Frame Purpose = "frame"
	// Transition leads from one clip to another: two pockets have these roles.
	Transition Purpose = "transition"
)

// Serves is the document's purpose; a document that says nothing stands alone.
func (d *Document) Serves() Purpose {
	if d.Purpose == "" {
		return StandAlone
	}
	return d.Purpose
}

// Purposes lists what templates may be for.
var Purposes = []Purpose{StandAlone, Overlay, Frame, Transition}

// Role is the part that a pocket has in a template's purpose.
type Role string

const (
	RoleFrom Role = "from" // of a transition: what it leads away from
	RoleTo   Role = "to"   // of a transition: what it leads to
	RoleClip Role = "clip" // of a frame: what it is put around
)

// Format is one canvas of a template. Rest overrides values on this canvas, by
// their paths.
type Format struct {
	ID     string                  `json:"id"`
	Name   string                  `json:"name"`
	Width  int                     `json:"width"`
	Height int                     `json:"height"`
	Rest   map[string]scheme.Value `json:"rest,omitempty"`

	// Px is how many px a picture has where that is not the canvas, and was the canvas as
	// it was designed: of documents that were made to measure.
	Px  [2]int    `json:"-"`
	was geom.Size `json:"-"`
}

// Canvas is the format's size in pixels.
func (f Format) Canvas() geom.Size { return geom.Size{W: float64(f.Width), H: float64(f.Height)} }

// Colour is a named colour, used by layers as "colour:id".
type Colour struct {
	ID       string            `json:"id"`
	Name     string            `json:"name"`
	Value    string            `json:"value" doc:"#rrggbb or #rrggbbaa"`
	Formulas map[string]string `json:"formulas,omitempty"`
}

// MediaKind says what media is, and what a pocket takes.
type MediaKind string

const (
	Picture MediaKind = "picture"
	Footage MediaKind = "footage"
	Sound   MediaKind = "sound"
	Logo    MediaKind = "logo"
	Font    MediaKind = "font" // goes into no pocket; words are set in it
)

// Pocket is a place for media that an editor may swap.
type Pocket struct {
	ID    string      `json:"id"`
	Name  string      `json:"name"`
	Kinds []MediaKind `json:"kinds" doc:"What the pocket takes"`
	// Role is its part in the template's purpose, "" is none.
	Role Role `json:"role,omitempty"`
	// Framing is how media lies in the pocket unless an editor frames it.
	Framing *geom.Framing `json:"framing,omitempty"`
	// Required says that a piece is not done while it holds the stand-in, or nothing.
	Required bool `json:"required,omitempty"`
	// Limits say how far an editor may frame otherwise.
	Limits *geom.Limits `json:"limits,omitempty"`
	// Lining is what it shows while it is empty, in place of the neutral card.
	Lining *Lining `json:"lining,omitempty"`
	// Play is how clips run in the pocket unless an editor says otherwise; its
	// in-point is always the first frame.
	Play    *timing.Play `json:"play,omitempty"`
	StandIn *StandIn     `json:"standIn,omitempty"`
	// Formulas yield its properties from other values.
	Formulas map[string]string `json:"formulas,omitempty"`
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
	// Away says that it was put away for delivery: the pocket is empty.
	Away bool `json:"away,omitempty"`
}

// Lining is what an empty pocket shows.
type Lining struct {
	Media string `json:"media,omitempty" doc:"A picture: sha256:…"`
}

// Shown is the media of the stand-in, "" where there is none or it is put away.
func (p Pocket) Shown() string {
	if p.StandIn == nil || p.StandIn.Away {
		return ""
	}
	return p.StandIn.Media
}

// Lined is the picture that the pocket shows while it is empty, "" for the neutral card.
func (p Pocket) Lined() string {
	if p.Lining == nil {
		return ""
	}
	return p.Lining.Media
}

// Recipe says what some layers were built from. The ids of what it built begin with its
// own and a hyphen.
type Recipe struct {
	ID      string             `json:"id"`
	Kind    string             `json:"kind"`
	Numbers map[string]float64 `json:"numbers"`
	Frames  int64              `json:"frames" doc:"The length it was built for, in frames"`
}

// NamedEasing is an easing of the document's own: a curve, or steps.
type NamedEasing struct {
	ID    string         `json:"id"`
	Name  string         `json:"name"`
	Ease  *timing.Easing `json:"ease,omitempty"`
	Steps *timing.Steps  `json:"steps,omitempty"`
}

// Eases reports whether a key goes as the easing says.
func (e *NamedEasing) Eases(k *Key) bool {
	same := func() bool {
		if e.Steps != nil || k.Steps != nil {
			return e.Steps != nil && k.Steps != nil && *e.Steps == *k.Steps
		}
		return (e.Ease == nil) == (k.Ease == nil) && (e.Ease == nil || *e.Ease == *k.Ease)
	}
	return !k.Hold && same()
}

// Easing finds one of the document's easings.
func (d *Document) Easing(id string) *NamedEasing {
	for i := range d.Easings {
		if d.Easings[i].ID == id {
			return &d.Easings[i]
		}
	}
	return nil
}

// Cue is a named instant.
type Cue struct {
	ID   string     `json:"id"`
	Name string     `json:"name"`
	At   timing.Rat `json:"at" doc:"Frames"`
	// Formulas yield its instant from other values.
	Formulas map[string]string `json:"formulas,omitempty"`
}

// PosterCue is the id of the cue whose frame stands for the template.
const PosterCue = "poster"

// Media says what a hash in the document is.
type Media struct {
	Hash    string    `json:"hash" doc:"sha256:…"`
	Name    string    `json:"name"`
	Kind    MediaKind `json:"kind"`
	Licence string    `json:"licence,omitempty"`
	Source  string    `json:"source,omitempty"`
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
func (d *Document) Layer(id string) *Layer {
	n, _, _ := d.place(id)
	return n
}

// Layout returns the layout of an id, or nil.
func (d *Document) Layout(id string) *Node { return byID(d.Layouts, id) }

// Gradient returns the gradient of an id, or nil.
func (d *Document) Gradient(id string) *Node { return byID(d.Gradients, id) }

// Move returns the saved move of an id, or nil.
func (d *Document) Move(id string) *Node { return byID(d.Moves, id) }

func byID(list []*Node, id string) *Node {
	if i := slices.IndexFunc(list, func(n *Node) bool { return n.ID == id }); i >= 0 {
		return list[i]
	}
	return nil
}

// Colour is the colour that a value means: a hex colour or "colour:id".
func (d *Document) Colour(fill string) (scheme.RGBA, error) {
	id, named := scheme.ColourID(fill)
	if !named {
		return scheme.ParseColour(fill)
	}
	for _, c := range d.Colours {
		if c.ID == id {
			return scheme.ParseColour(c.Value)
		}
	}
	return scheme.RGBA{}, fmt.Errorf("there is no colour named %q", id)
}

// Has implements scheme.Names.
func (d *Document) Has(s *scheme.Sort, id string) bool {
	switch s {
	case scheme.Layers:
		return d.Layer(id) != nil
	case scheme.Layouts:
		return d.Layout(id) != nil
	case scheme.Gradients:
		return d.Gradient(id) != nil
	case scheme.Motifs:
		return byID(d.Motifs, id) != nil
	case scheme.SavedMoves:
		return d.Move(id) != nil
	case scheme.Pockets:
		return d.Pocket(id) != nil
	case scheme.Colours:
		return slices.ContainsFunc(d.Colours, func(c Colour) bool { return c.ID == id })
	}
	return false
}

// TimeMap is the way from the frames of a piece of a length to the document's
// clocks; a length of 0 is the template's own.
func (d *Document) TimeMap(length int64) (timing.Map, error) {
	if length == 0 {
		length = d.Own()
	}
	if d.made != nil {
		return timing.SeenMap(d.Rate, d.Frames, d.Spans, d.made.Rate, length)
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

// Clone returns a copy that shares nothing which Set changes. What is in it is
// copied when it is set.
func (d *Document) Clone() *Document {
	c := *d
	c.Colours = slices.Clone(d.Colours)
	c.Pockets = slices.Clone(d.Pockets)
	c.Cues = slices.Clone(d.Cues)
	c.Recipes = slices.Clone(d.Recipes)
	c.Easings = slices.Clone(d.Easings)
	c.Formats = slices.Clone(d.Formats)
	c.Gradients = slices.Clone(d.Gradients)
	c.Layouts = slices.Clone(d.Layouts)
	c.Motifs = slices.Clone(d.Motifs)
	c.Moves = slices.Clone(d.Moves)
	c.Layers = slices.Clone(d.Layers)
	c.own = nil
	return &c
}

// Visit calls f for every layer, groups before what is in them, with its place
// in the document.
func (d *Document) Visit(f func(at string, y *Layer)) { visit(d.Layers, "layers", f) }

// VisitAll is Visit for the layers of motifs too, and the motifs themselves.
func (d *Document) VisitAll(f func(at string, y *Layer)) {
	visit(d.Motifs, "motifs", f)
	d.Visit(f)
}

func visit(layers []*Layer, path string, f func(string, *Layer)) {
	for i, y := range layers {
		at := fmt.Sprintf("%s[%d]", path, i)
		if y.from != "" {
			at = y.from
		}
		f(at, y)
		visit(y.Layers(), at+".layers", f)
	}
}

// VisitNodes calls f for every thing whose properties stand in the table: gradients,
// layouts, saved moves, layers, and what is in those. At is its place in the document, path what ties
// and formulas call it.
func (d *Document) VisitNodes(f func(at, path string, n *Node)) {
	var all func(list []*Node, at, path string)
	all = func(list []*Node, at, path string) {
		for i, n := range list {
			here, name := fmt.Sprintf("%s[%d]", at, i), path+"/"+n.ID
			if n.from != "" {
				here = n.from
			}
			f(here, name, n)
			for k, part := range n.sort.Parts {
				if part.Of == scheme.Layers { // wherever a layer stands, its id is enough
					all(n.Part(k), here+"."+part.At, "layers")
				} else {
					all(n.Part(k), here+"."+part.At, name+"/"+part.Name)
				}
			}
		}
	}
	all(d.Gradients, "gradients", "gradients")
	all(d.Layouts, "layouts", "layouts")
	all(d.Moves, "moves", "moves")
	all(d.Motifs, "motifs", "layers")
	all(d.Layers, "layers", "layers")
}
