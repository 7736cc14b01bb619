// Package scene is the room where a resolved document, a format and an instant
// become a draw list, and a draw list becomes a picture. It asks for media
// through a Source and touches neither files nor processes.
package scene

import (
	"fmt"

	"ivypocket/core/geom"
	"ivypocket/core/sheet"
	"ivypocket/core/template"
	"ivypocket/core/timing"
)

// Info is what a scene must know of media to lay it out.
type Info struct {
	// Size is the upright size in pixels; for vector drawings their own size.
	Size geom.Size
	// Clip is set for footage.
	Clip *timing.Clip
}

// Library tells what media there is, by hash.
type Library interface {
	Info(media string) (Info, bool)
}

// MissingError says that a pocket's media is not in the library.
type MissingError struct{ Pocket, Media string }

func (e *MissingError) Error() string {
	return fmt.Sprintf("pocket %s: its media %s is not in the store; put it in again or choose other media", e.Pocket, e.Media)
}

// Scene is a document made ready for one format.
type Scene struct {
	doc    *template.Document
	canvas geom.Size
	time   timing.Map
	layers []layer
}

// layer is a document's layer with all that does not change in time settled.
type layer struct {
	*template.Layer
	box     geom.Box // at rest, from the canvas' top left corner
	radius  float64
	opacity float64
	fill    template.RGBA
	media   string
	info    Info
	place   geom.Placement // of the media in the box at rest
	framing geom.Framing
	play    timing.Play
	cell    *geom.Cell
}

// Compile settles a document for a format. Media that is missing from the
// library is an error of type *MissingError.
func Compile(r *sheet.Resolved, format string, lib Library) (*Scene, error) {
	f := r.Doc.Format(format)
	if f == nil {
		return nil, fmt.Errorf("the template has no format named %q", format)
	}
	doc, err := r.Doc.For(f)
	if err != nil {
		return nil, err
	}
	s := &Scene{doc: doc, canvas: f.Canvas(), time: doc.TimeMap()}
	cells := map[string][]geom.Cell{}
	for i := range doc.Layouts {
		if cells[doc.Layouts[i].ID], err = doc.Layouts[i].Split(s.canvas).Cells(); err != nil {
			return nil, fmt.Errorf("layout %s: %w", doc.Layouts[i].ID, err)
		}
	}
	for i := range doc.Layers {
		y := layer{Layer: &doc.Layers[i], opacity: 1}
		if y.Rest.Opacity != nil {
			y.opacity = *y.Rest.Opacity
		}
		y.radius = y.Rest.Radius
		if ref := y.Rest.Cell; ref != nil {
			c := cells[ref.Layout][ref.Row*len(doc.Layout(ref.Layout).Columns)+ref.Column]
			y.cell, y.box, y.radius = &c, c.Box(s.canvas), c.Radius
		} else {
			size, place := s.canvas, geom.Point{X: s.canvas.W / 2, Y: s.canvas.H / 2}
			if y.Rest.Size != nil {
				size = geom.Size{W: y.Rest.Size[0], H: y.Rest.Size[1]}
			}
			if y.Rest.Place != nil {
				place.X += y.Rest.Place[0]
				place.Y += y.Rest.Place[1]
			}
			y.box = geom.Centred(place, size)
		}
		switch y.Kind {
		case template.Shape:
			if y.fill, err = doc.Colour(y.Rest.Fill); err != nil {
				return nil, fmt.Errorf("layer %s: %w", y.ID, err)
			}
		case template.View:
			if y.media = r.Media(y.Pocket); y.media != "" {
				info, ok := lib.Info(y.media)
				if !ok {
					return nil, &MissingError{y.Pocket, y.media}
				}
				y.info = info
				y.framing = r.Framing(y.Pocket, format)
				y.play = r.Play(y.Pocket)
				y.place = y.framing.Place(info.Size, y.box.Size())
			}
		}
		s.layers = append(s.layers, y)
	}
	return s, nil
}

// Canvas is the size of the format.
func (s *Scene) Canvas() geom.Size { return s.canvas }

// Frames is the number of output frames.
func (s *Scene) Frames() int64 { return s.time.Frames }

// Time is the way from output frames to the clocks of template and clips.
func (s *Scene) Time() timing.Map { return s.time }

// motion is how a layer departs from rest at an instant.
func (s *Scene) motion(y *layer, t timing.TemplateTime) (box geom.Box, scale geom.Point, opacity float64) {
	box, scale, opacity = y.box, geom.Point{X: 1, Y: 1}, y.opacity
	m := y.Motion
	if m == nil {
		return
	}
	if m.Scale != nil {
		v := m.Scale.Keys.Value(t)
		scale = geom.Point{X: v[0], Y: v[1]}
		box = geom.Centred(box.Centre(), geom.Size{W: box.W * v[0], H: box.H * v[1]})
	}
	if m.Place != nil {
		v := m.Place.Keys.Value(t)
		unit := s.canvas
		if m.Place.Unit == "self" {
			unit = y.box.Size()
		}
		box.X += v[0] * unit.W
		box.Y += v[1] * unit.H
	}
	if m.Opacity != nil {
		opacity *= m.Opacity.Keys.Value(t)[0]
	}
	return
}

// Lining colours: the neutral card an empty pocket shows.
var (
	liningEdge = [4]uint8{0xb9, 0xb2, 0xa1, 255}
	liningCard = [4]uint8{0xdd, 0xd7, 0xc8, 255}
)

// At writes the draw list of an instant at a size in device pixels into dst,
// reusing its memory. Nothing that is clear or off the canvas is listed.
func (s *Scene) At(dst *List, t timing.TemplateTime, size Size) {
	dst.Size = size
	dst.Items = dst.Items[:0]
	kx, ky := float64(size.W)/s.canvas.W, float64(size.H)/s.canvas.H
	frame := geom.Box{W: float64(size.W), H: float64(size.H)}
	for i := range s.layers {
		y := &s.layers[i]
		box, scale, opacity := s.motion(y, t)
		if !(opacity > 0) || !(box.W > 0 && box.H > 0) {
			continue
		}
		dev := geom.Box{X: box.X * kx, Y: box.Y * ky, W: box.W * kx, H: box.H * ky}
		if seen := dev.Intersect(frame); seen.Size().Empty() {
			continue
		}
		item := Item{Layer: y.ID, Kind: FillItem, Box: dev, Opacity: opacity,
			Radius: y.radius * min(kx*scale.X, ky*scale.Y)}
		switch {
		case y.Kind == template.Shape:
			item.Colour = [4]uint8{y.fill.R, y.fill.G, y.fill.B, y.fill.A}
			if item.Colour[3] == 0 {
				continue
			}
		case y.media == "":
			item.Colour = liningEdge
			dst.Items = append(dst.Items, item)
			in := 0.03 * min(dev.W, dev.H)
			item.Box = geom.Box{X: dev.X + in, Y: dev.Y + in, W: dev.W - 2*in, H: dev.H - 2*in}
			item.Radius = max(0, item.Radius-in)
			item.Colour = liningCard
		default:
			item.Kind = PictureItem
			item.Pocket = y.Pocket
			item.Media = y.media
			item.MediaSize = y.info.Size
			if y.info.Clip != nil {
				item.Frame = int64(s.time.Source(t, timing.TemplateTime{Rat: timing.Int(0)}, y.info.Clip, y.play))
			}
			item.Still = y.info.Clip == nil
			item.RestBox = geom.Box{X: y.box.X * kx, Y: y.box.Y * ky, W: y.box.W * kx, H: y.box.H * ky}
			sized := y.place.Map.Then(geom.Scale(kx, ky))
			item.Rest = sized.Then(geom.Translate(item.RestBox.X, item.RestBox.Y))
			item.Map = sized.Then(geom.Scale(scale.X, scale.Y)).Then(geom.Translate(dev.X, dev.Y))
			// At rest or moved, media and box go together, so what covers at
			// rest always covers.
			item.Edges = !y.place.Covers
		}
		dst.Items = append(dst.Items, item)
	}
}

// Outline is where a layer stands at an instant, in canvas pixels from the
// canvas' top left corner. Shapes have no pocket; they are told because they
// may hide parts of the pockets below.
type Outline struct {
	Layer   string   `json:"layer"`
	Pocket  string   `json:"pocket"`
	Box     geom.Box `json:"box"`
	Radius  float64  `json:"radius"`
	Opacity float64  `json:"opacity"`
}

// Outlines appends the outlines of all layers at an instant, the lowest first.
func (s *Scene) Outlines(dst []Outline, t timing.TemplateTime) []Outline {
	for i := range s.layers {
		y := &s.layers[i]
		box, scale, opacity := s.motion(y, t)
		dst = append(dst, Outline{y.ID, y.Pocket, box, y.radius * min(scale.X, scale.Y), opacity})
	}
	return dst
}

// Stand is how a pocket's view stands at rest, in numbers for people.
type Stand struct {
	Layer  string `json:"layer"`
	Pocket string `json:"pocket"`
	// Where is the name of the cell, such as "top left", or "".
	Where string `json:"where,omitempty" required:"false"`
	// Centre counts from the canvas centre, x to the right and y down.
	Centre geom.Point `json:"centre"`
	Size   geom.Size  `json:"size"`
	Radius float64    `json:"radius"`
	Media  geom.Size  `json:"media" doc:"Size of the media in the pocket, 0 when empty"`
	// Zoom is the zoom in use, Enlarged how many canvas pixels one media pixel
	// covers.
	Zoom     float64      `json:"zoom"`
	Enlarged float64      `json:"enlarged"`
	Covers   bool         `json:"covers" doc:"No edge of the media can be seen"`
	Framing  geom.Framing `json:"framing"`
	// Pan is the pan in use: in cover it stops where an edge would show.
	Pan [2]float64 `json:"pan"`
	// Map takes media pixels to the view's, both from their top left corner.
	Map geom.Affine `json:"map"`
}

// Stands lists all pocket views at rest, the lowest first.
func (s *Scene) Stands() []Stand {
	var out []Stand
	for i := range s.layers {
		y := &s.layers[i]
		if y.Kind != template.View {
			continue
		}
		c := y.box.Centre()
		st := Stand{Layer: y.ID, Pocket: y.Pocket, Centre: geom.Point{X: c.X - s.canvas.W/2, Y: c.Y - s.canvas.H/2},
			Size: y.box.Size(), Radius: y.radius, Framing: y.framing, Media: y.info.Size, Zoom: y.place.Zoom, Covers: y.place.Covers, Pan: y.place.Pan, Map: y.place.Map}
		if y.cell != nil {
			st.Where = y.cell.Name
			st.Centre = y.cell.Centre
		}
		if y.media != "" {
			sx, sy := y.place.Map.Stretch()
			st.Enlarged = max(sx, sy)
		}
		out = append(out, st)
	}
	return out
}
