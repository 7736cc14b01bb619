package server

import (
	"fmt"

	"ivypocket/core/sheet"
	"ivypocket/core/template"
	"ivypocket/core/timing"
	"ivypocket/store"
)

type (
	// LayerLine is a layer in the list of layers.
	LayerLine struct {
		ID     string `json:"id"`
		Name   string `json:"name"`
		Kind   string `json:"kind" enum:"view,picture,shape,ground,group,grade,camera"`
		Depth  int    `json:"depth" doc:"How many groups it is in"`
		Pocket string `json:"pocket"`
		Hidden bool   `json:"hidden"`
		// Changed says that somebody set one of its properties in this piece.
		Changed bool `json:"changed"`
		// Drags says that the layer may be dragged: its place is its own.
		Drags bool `json:"drags"`
	}
	// LayerView is a layer with its properties at rest and at a frame.
	LayerView struct {
		ID         string         `json:"id"`
		Name       string         `json:"name"`
		Kind       string         `json:"kind"`
		Blend      string         `json:"blend"`
		Matte      string         `json:"matte" doc:"What it is cut by, in words"`
		Follows    string         `json:"follows"`
		Copies     int            `json:"copies"`
		Properties []PropertyView `json:"properties"`
		// Pull takes a way on the canvas to one of the layer's place: [a, b, c, d],
		// x = a·dx + c·dy, y = b·dx + d·dy.
		Pull [4]float64 `json:"pull"`
	}
	// PropertyView is one property.
	PropertyView struct {
		Name  string    `json:"name"`
		Kind  string    `json:"kind" enum:"number,colour,words,path"`
		Unit  string    `json:"unit"`
		Min   float64   `json:"min"`
		Max   float64   `json:"max"`
		Rest  []float64 `json:"rest"`
		Now   []float64 `json:"now" doc:"At the frame that was asked for"`
		Text  string    `json:"text" doc:"Of colours, #rrggbb or #rrggbbaa, and of words"`
		Words []string  `json:"words"`
		Moves bool      `json:"moves"`
		// Formulas holds the formula of each number, or "".
		Formulas []string `json:"formulas"`
		Driver   string   `json:"driver" doc:"What sets it in place of its own rest"`
		// Changed says that it was set in this piece, Here that it was in this
		// format alone; Own that the template has a value for this format.
		Changed bool `json:"changed"`
		Here    bool `json:"here"`
		Own     bool `json:"own"`
	}
)

func layerLines(d *template.Document, v sheet.Values) []LayerLine {
	out := []LayerLine{}
	var list func(layers []template.Layer, depth int)
	list = func(layers []template.Layer, depth int) {
		for i := range layers {
			y := &layers[i]
			line := LayerLine{ID: y.ID, Name: y.Name, Kind: string(y.Kind), Depth: depth, Pocket: y.Pocket, Hidden: y.Hidden, Changed: len(v.Rest[y.ID]) > 0}
			for _, f := range v.Formats {
				line.Changed = line.Changed || len(f[y.ID]) > 0
			}
			_, _, _, err := y.Property("place")
			line.Drags = err == nil && y.Kind != template.Camera && d.Driver(y, "place") == "" && y.Formulas["place.x"] == "" && y.Formulas["place.y"] == ""
			out = append(out, line)
			list(y.Layers, depth+1)
		}
	}
	list(d.Layers, 0)
	return out
}

// layer tells a layer's properties in a format, at a frame.
func (s *Server) layer(p pieceState, id, format string, frame int64) (LayerView, error) {
	sc, err := s.scene(p, format)
	if err != nil {
		return LayerView{}, err
	}
	y := p.doc.Layer(id)
	if y == nil {
		return LayerView{}, store.ErrNotFound
	}
	if frame >= sc.Frames() {
		return LayerView{}, badRequest{fmt.Errorf("frame: %d is not one of the piece's %d frames", frame, sc.Frames())}
	}
	v := LayerView{ID: y.ID, Name: y.Name, Kind: string(y.Kind), Blend: y.Blend, Properties: []PropertyView{}}
	if v.Blend == "" {
		v.Blend = "normal"
	}
	if m := y.Matte; m != nil {
		v.Matte = m.Of + " of " + p.doc.Layer(m.Layer).Name
		if m.Invert {
			v.Matte = "inverted " + v.Matte
		}
	}
	if y.Follow != "" {
		v.Follows = p.doc.Layer(y.Follow).Name
	}
	if y.Copies != nil {
		v.Copies = y.Copies.Count
	}
	look := sc.Look(id, sc.Time().At(timing.OutputFrame(frame)))
	v.Pull = look.Pull
	for _, k := range look.Properties {
		pv := PropertyView{Name: k.Name, Kind: propertyKind(k.Property), Unit: propertyUnit(k.Property), Min: k.Lo, Max: k.Hi, Rest: k.Rest, Now: k.Now,
			Text: k.Text, Words: k.Words, Moves: y.Motion[k.Name] != nil, Formulas: []string{}, Driver: p.doc.Driver(y, k.Name)}
		if pv.Words == nil {
			pv.Words = []string{}
		}
		for _, c := range k.Components() {
			name := k.Name
			if c != "" {
				name += "." + c
			}
			pv.Formulas = append(pv.Formulas, y.Formulas[name])
		}
		_, pv.Changed = p.piece.Values.Rest[id][k.Name]
		_, pv.Here = p.piece.Values.Formats[format][id][k.Name]
		pv.Changed = pv.Changed || pv.Here
		_, pv.Own = p.doc.Format(format).Rest[id][k.Name]
		v.Properties = append(v.Properties, pv)
	}
	return v, nil
}

func propertyKind(p template.Property) string {
	switch p.Kind {
	case template.ColourText:
		return "colour"
	case template.Words:
		return "words"
	case template.Points:
		return "path"
	}
	return "number"
}

func propertyUnit(p template.Property) string {
	switch {
	case p.Unit.Px == 1:
		return "px"
	case p.Unit.Deg == 1:
		return "°"
	}
	return ""
}
