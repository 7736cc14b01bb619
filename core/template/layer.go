package template

import (
	"fmt"

	"ivypocket/core/geom"
	"ivypocket/core/timing"
)

// LayerKind is what a layer draws.
type LayerKind string

const (
	View    LayerKind = "view"    // shows a pocket
	Still   LayerKind = "picture" // shows a picture of the template's own
	Shape   LayerKind = "shape"   // a filled and stroked form
	Ground  LayerKind = "ground"  // a colour or gradient without edges
	Grouped LayerKind = "group"   // layers as one
	Grade   LayerKind = "grade"   // changes the colours of all below it
	Camera  LayerKind = "camera"  // moves all below it
)

// Layer is one thing that is drawn; later layers lie above earlier ones.
type Layer struct {
	ID     string    `json:"id"`
	Name   string    `json:"name"`
	Kind   LayerKind `json:"kind" enum:"view,picture,shape,ground,group,grade,camera"`
	Pocket string    `json:"pocket,omitempty" doc:"view: the pocket it shows"`
	Media  string    `json:"media,omitempty" doc:"picture: sha256:…"`
	Form   *Form     `json:"form,omitempty" doc:"shape: its outline; absent is a rectangle"`
	Layers []Layer   `json:"layers,omitempty" doc:"group: its layers"`
	// Isolated groups blend among themselves alone (W3C Compositing and
	// Blending Level 1, section 3.3).
	Isolated bool `json:"isolated,omitempty"`
	// Hidden layers are not drawn, but may be mattes and may be followed.
	Hidden bool      `json:"hidden,omitempty"`
	Rest   LayerRest `json:"rest"`
	Motion Motion    `json:"motion,omitempty"`
	// Formulas yield properties from other values.
	Formulas map[string]string `json:"formulas,omitempty"`
	Masks    []Mask            `json:"masks,omitempty"`
	Matte    *Matte            `json:"matte,omitempty"`
	Blend    string            `json:"blend,omitempty" doc:"A W3C blend mode, or add"`
	// In and Out trim the layer; absent is the template's beginning and end.
	In  *timing.Rat `json:"in,omitempty"`
	Out *timing.Rat `json:"out,omitempty"`
	// Follow names a layer whose departure from rest this one shares.
	Follow string  `json:"follow,omitempty"`
	Copies *Copies `json:"copies,omitempty"`
	// Blur blurs the layer along its motion.
	Blur *MotionBlur `json:"motionBlur,omitempty"`
}

// LayerRest is where a layer stands when nothing moves it.
type LayerRest struct {
	// Cell puts the layer into a cell of a layout; otherwise Place and Size do.
	Cell *CellRef `json:"cell,omitempty"`
	// Anchor is the point of the canvas, or of the group's box, that Place counts
	// from, and the point of the layer's own box that is put there, such as
	// "bottom right". Absent is the centre.
	Anchor string `json:"anchor,omitempty"`
	// Place is where the layer's anchor point stands, from the canvas' one.
	Place *[2]float64 `json:"place,omitempty"`
	// Size is in pixels; absent is the whole canvas, or the group's box.
	Size *[2]float64 `json:"size,omitempty"`
	// Covers enlarges the layer by the smallest factor with which it hides its
	// whole canvas or group at every instant, however it turns and moves.
	Covers bool `json:"covers,omitempty"`
	// Origin is the point it turns, skews and grows about, in shares of its box.
	Origin *[2]float64 `json:"origin,omitempty"`
	Scale  *[2]float64 `json:"scale,omitempty"`
	Turn   float64     `json:"turn,omitempty" doc:"Degrees, clockwise"`
	Skew   *[2]float64 `json:"skew,omitempty" doc:"Degrees along x and y"`
	// Corners moves the four corners of the box, clockwise from the top left,
	// and so draws it in perspective.
	Corners  *[4][2]float64 `json:"corners,omitempty"`
	Radius   *Radii         `json:"radius,omitempty" doc:"px; one number, or one for each corner clockwise from the top left"`
	Fill     string         `json:"fill,omitempty"`
	Gradient *Gradient      `json:"gradient,omitempty"`
	Stroke   *Stroke        `json:"stroke,omitempty"`
	Opacity  *float64       `json:"opacity,omitempty"`
	Content  *Content       `json:"content,omitempty"`
	Grade    *GradeValues   `json:"grade,omitempty"`
}

// Radii are the corner radii of a box, clockwise from the top left.
type Radii [4]float64

// CellRef names a cell by its row and column, both from 0.
type CellRef struct {
	Layout string `json:"layout"`
	Row    int    `json:"row"`
	Column int    `json:"column"`
}

// Form is an outline.
type Form struct {
	Kind  geom.FormKind `json:"kind" enum:"rectangle,ellipse,polygon,star,arrow,path"`
	Sides int           `json:"sides,omitempty" doc:"Sides of a polygon, points of a star"`
	Inner *float64      `json:"inner,omitempty" doc:"star: how far its inner corners stand out, as a share of its points"`
	Head  *float64      `json:"head,omitempty" doc:"arrow: length of the head, as a share of the width"`
	Shaft *float64      `json:"shaft,omitempty" doc:"arrow: thickness of the shaft, as a share of the height"`
	Round float64       `json:"round,omitempty" doc:"px, radius of all corners"`
	Path  *Path         `json:"path,omitempty" doc:"path: its points"`
}

// Path is a drawn line: points in shares of the box, each [x, y] or [x, y, in x,
// in y, out x, out y], the handles as displacements from the point.
type Path struct {
	Points Rest `json:"points"`
	Open   bool `json:"open,omitempty"`
}

// Gradient is a change of colours over a layer's box, for grounds the canvas.
type Gradient struct {
	Kind string `json:"kind" enum:"linear,radial,conic"`
	// From and To are shares of the box. Linear runs from one to the other;
	// radial has its centre at From and its rim through To; conic goes round
	// From, clockwise, beginning in the direction of To.
	From  [2]float64 `json:"from"`
	To    [2]float64 `json:"to"`
	Stops []Stop     `json:"stops"`
	// Plain leaves out the dithering that keeps slow changes free of bands.
	Plain bool `json:"plain,omitempty"`
}

// Stop is a colour of a gradient at a share of its way.
type Stop struct {
	At     float64 `json:"at"`
	Colour string  `json:"colour"`
}

// Stroke is a line along a form's outline.
type Stroke struct {
	Colour string    `json:"colour"`
	Width  float64   `json:"width" doc:"px"`
	Align  string    `json:"align,omitempty" enum:"centre,inside,outside"`
	Cap    geom.Cap  `json:"cap,omitempty" enum:"butt,round,square"`
	Join   geom.Join `json:"join,omitempty" enum:"miter,round,bevel"`
	Miter  float64   `json:"miter,omitempty" doc:"Longest mitre, in widths; absent is 4"`
	Dash   []float64 `json:"dash,omitempty" doc:"px of line and gap in turn"`
	Shift  float64   `json:"shift,omitempty" doc:"px into the dashes at which they begin"`
	// From and To are the part of the outline that is drawn, as shares of its
	// length; absent is all of it.
	From float64  `json:"from,omitempty"`
	To   *float64 `json:"to,omitempty"`
}

// Content is how a view's media moves inside its pocket, on top of the framing.
type Content struct {
	Turn float64    `json:"turn,omitempty" doc:"Degrees, clockwise"`
	Pan  [2]float64 `json:"pan,omitempty" required:"false" doc:"Shares of the pocket"`
	Zoom float64    `json:"zoom,omitempty" doc:"A factor; absent is 1"`
}

// GradeValues are the ten numbers of the ASC Color Decision List 1.2: out =
// (in · slope + offset) ^ power for each channel, then saturation about
// BT.709 luma.
type GradeValues struct {
	Slope      *[3]float64 `json:"slope,omitempty"`
	Offset     *[3]float64 `json:"offset,omitempty"`
	Power      *[3]float64 `json:"power,omitempty"`
	Saturation *float64    `json:"saturation,omitempty"`
}

// Mask cuts a layer. Its places count from the centre of the layer's box.
type Mask struct {
	ID   string `json:"id"`
	Form *Form  `json:"form,omitempty" doc:"Absent is a rectangle"`
	// Of makes the outline from the media of a pocket instead: its visible box,
	// the hull of what is visible, or its traced outline.
	Of     string      `json:"of,omitempty" enum:"box,hull,outline"`
	Pocket string      `json:"pocket,omitempty" doc:"of: the pocket; absent is the view's own"`
	Mode   string      `json:"mode,omitempty" enum:"add,subtract,intersect"`
	Invert bool        `json:"invert,omitempty"`
	Place  *[2]float64 `json:"place,omitempty"`
	Size   *[2]float64 `json:"size,omitempty" doc:"px; absent is the layer's box"`
	Turn   float64     `json:"turn,omitempty"`
	Radius *Radii      `json:"radius,omitempty"`
	// Feather is the width of the soft edge in pixels, to the side or sides
	// that Soft names.
	Feather float64 `json:"feather,omitempty"`
	Soft    string  `json:"soft,omitempty" enum:"both,inwards,outwards"`
	// Falloff is the way from clear to full across the feather; absent is linear.
	Falloff *timing.Easing `json:"falloff,omitempty"`
	// Growth moves the outline outwards, or inwards below 0, in pixels.
	Growth  float64  `json:"growth,omitempty"`
	Opacity *float64 `json:"opacity,omitempty"`
}

// Matte cuts a layer by another one, wherever that stands.
type Matte struct {
	Layer  string `json:"layer"`
	Of     string `json:"of" enum:"alpha,luma"`
	Invert bool   `json:"invert,omitempty"`
}

// Copies scatters copies of a layer at random, the same every time.
type Copies struct {
	Count int   `json:"count" doc:"How many there are in all"`
	Seed  int64 `json:"seed"`
	// Spread is how far they are shifted at most, in shares of the canvas, Turn
	// how far they are turned, in degrees, Scale the least and the greatest
	// factor, Delay how late their motion is at most, in frames.
	Spread [2]float64 `json:"spread,omitempty" required:"false"`
	Turn   float64    `json:"turn,omitempty"`
	Scale  [2]float64 `json:"scale,omitempty" required:"false"`
	Delay  int64      `json:"delay,omitempty"`
}

// MotionBlur mixes several instants around each frame.
type MotionBlur struct {
	Samples int     `json:"samples" doc:"How many instants are mixed, 2 to 32"`
	Shutter float64 `json:"shutter" doc:"Degrees of a turn for which a frame is exposed, 360 being all of it"`
}

// Motion is how properties depart from rest, by their names, shared by all formats.
type Motion map[string]*Move

// Move is the motion of one property.
type Move struct {
	// Unit says what 1 is for a move that adds lengths: the width or height of
	// the canvas, or of the layer itself.
	Unit string `json:"unit,omitempty" enum:"canvas,self"`
	// Even keeps the speed along the way even.
	Even bool  `json:"even,omitempty"`
	Keys []Key `json:"keys"`
}

// Key is a value at an instant, and how the way to the next is eased.
type Key struct {
	At    timing.Rat `json:"at,omitzero" doc:"Frames of the template's rate; inner keys of an even way may leave it out"`
	Value Rest       `json:"value"`
	// Ease leads to the next key; absent is linear.
	Ease *timing.Easing `json:"ease,omitempty"`
	// Hold keeps the value until the next key.
	Hold bool `json:"hold,omitempty"`
	// Out and In bend the way of a place: handles as displacements from the key.
	Out *[2]float64 `json:"out,omitempty"`
	In  *[2]float64 `json:"in,omitempty"`
}

// Visit calls f for every layer, groups before what is in them, with its path
// in the document.
func (d *Document) Visit(f func(path string, y *Layer)) { visit(d.Layers, "layers", f) }

func visit(layers []Layer, path string, f func(string, *Layer)) {
	for i := range layers {
		at := fmt.Sprintf("%s[%d]", path, i)
		f(at, &layers[i])
		visit(layers[i].Layers, at+".layers", f)
	}
}

func find(layers []Layer, id string) *Layer {
	for i := range layers {
		if layers[i].ID == id {
			return &layers[i]
		}
		if y := find(layers[i].Layers, id); y != nil {
			return y
		}
	}
	return nil
}

// Mask returns the layer's mask of an id, or nil.
func (y *Layer) Mask(id string) *Mask {
	for i := range y.Masks {
		if y.Masks[i].ID == id {
			return &y.Masks[i]
		}
	}
	return nil
}

func copied[T any](p *T) *T {
	if p == nil {
		return nil
	}
	c := *p
	return &c
}

func (f *Form) clone() *Form {
	c := copied(f)
	if c != nil {
		c.Path = copied(c.Path)
	}
	return c
}

func cloneLayers(layers []Layer) []Layer {
	out := append([]Layer(nil), layers...)
	for i := range out {
		y := &out[i]
		y.Form = y.Form.clone()
		y.Rest.Gradient, y.Rest.Stroke = copied(y.Rest.Gradient), copied(y.Rest.Stroke)
		y.Rest.Content, y.Rest.Grade = copied(y.Rest.Content), copied(y.Rest.Grade)
		y.Masks = append([]Mask(nil), y.Masks...)
		for m := range y.Masks {
			y.Masks[m].Form = y.Masks[m].Form.clone()
		}
		y.Layers = cloneLayers(y.Layers)
	}
	return out
}
