package craft

import (
	"encoding/json"
	"errors"
	"fmt"
	"strings"

	"ivypocket/core/edit"
	"ivypocket/core/scene"
	"ivypocket/core/scheme"
	"ivypocket/core/template"
	"ivypocket/core/timing"
)

// Start is what a template begins with.
type Start struct {
	Name     string           `json:"name" maxLength:"200"`
	Category string           `json:"category,omitempty" maxLength:"200"`
	Family   string           `json:"family,omitempty" maxLength:"200"`
	Purpose  template.Purpose `json:"purpose,omitempty" enum:"stand-alone,overlay,frame,transition"`
	Rate     string           `json:"rate" doc:"Frames per second: 25, 29.97, 30000/1001"`
	Frames   int64            `json:"frames" minimum:"1"`
	Canvases [][2]int         `json:"canvases" minItems:"1" maxItems:"16" doc:"Width and height of each format, px"`
	// Clip is what a frame is put around; the first canvas, the rate and the length
	// are then the clip's where Take says so.
	Clip string `json:"clip,omitempty"`
	Take bool   `json:"take,omitempty"`
	// Recipe is what it begins with, by its kind; "" is nothing.
	Recipe  string             `json:"recipe,omitempty"`
	Numbers map[string]float64 `json:"numbers,omitempty"`
}

// Blank is a new document. A transition has two pockets with these parts, a frame one
// for its clip, each as large as the canvas.
func Blank(lib scene.Library, s Start) (*template.Document, error) {
	name := strings.TrimSpace(s.Name)
	if name == "" {
		return nil, errors.New("name: is missing")
	}
	rate, err := timing.ParseRate(s.Rate)
	if err != nil {
		return nil, fmt.Errorf("rate: %w", err)
	}
	d := &template.Document{Schema: template.Schema, Kind: "template", ID: scheme.IDOf(name), Name: name,
		Category: strings.TrimSpace(s.Category), Family: strings.TrimSpace(s.Family), Purpose: s.Purpose, Rate: rate, Frames: s.Frames}
	if s.Purpose == template.StandAlone {
		d.Purpose = ""
	}
	canvases := s.Canvases
	info := scene.Info{}
	if s.Clip != "" {
		var ok bool
		if info, ok = lib.Info(s.Clip); !ok {
			return nil, errors.New("clip: it is not in the store; put it in first")
		}
		if s.Take && info.Clip != nil {
			d.Rate = info.Clip.Rate
			d.Frames = max(1, info.Clip.Seconds().Mul(info.Clip.Rate.Rat).Floor())
			even := func(v float64) int { return int(v) / 2 * 2 }
			canvases = append([][2]int{{even(info.Size.W), even(info.Size.H)}}, canvases[min(1, len(canvases)):]...)
		}
	}
	b := &bench{doc: d, lib: lib, taken: map[string]bool{}, named: map[string]bool{}}
	for _, c := range canvases {
		w, h, err := sides([2]float64{float64(c[0]), float64(c[1])})
		if err != nil {
			return nil, fmt.Errorf("canvases: %w", err)
		}
		name := b.formatName("", w, h, "")
		d.Formats = append(d.Formats, template.Format{ID: b.freeID(name), Name: name, Width: w, Height: h})
	}
	type sewn struct {
		id, name string
		role     template.Role
	}
	var pockets []sewn
	switch s.Purpose {
	case template.Transition:
		pockets = []sewn{{"from", "Clip A", template.RoleFrom}, {"to", "Clip B", template.RoleTo}}
	case template.Frame:
		pockets = []sewn{{"clip", "Clip", template.RoleClip}}
	}
	var layers []object
	for i, p := range pockets {
		k := template.Pocket{ID: p.id, Name: p.name, Kinds: []template.MediaKind{template.Footage, template.Picture}, Role: p.role}
		if i == 0 && s.Clip != "" {
			k.StandIn = &template.StandIn{Media: s.Clip}
		}
		d.Pockets = append(d.Pockets, k)
		layers = append([]object{{"id": p.id + "-view", "name": p.name, "kind": scheme.View.Name, "pocket": p.id}}, layers...)
	}
	d.Cues = []template.Cue{{ID: template.PosterCue, Name: "Poster", At: timing.Int(d.Frames / 2)}}
	// Layers are read as a document's are.
	raw, err := json.Marshal(d)
	if err != nil {
		return nil, err
	}
	var tree object
	if err := json.Unmarshal(raw, &tree); err != nil {
		return nil, err
	}
	if tree["layers"] = layers; layers == nil {
		tree["layers"] = []any{}
	}
	if raw, err = json.Marshal(tree); err != nil {
		return nil, err
	}
	next, err := template.Read(raw)
	if err == nil {
		err = next.Sound()
	}
	if err != nil || s.Recipe == "" {
		return next, err
	}
	plan, err := Do(next, lib, Act{Kind: "recipe", Way: s.Recipe, Numbers: s.Numbers})
	if err != nil {
		return nil, err
	}
	built, _, err := edit.DraftFrom(next).Do(plan.Op)
	return built.Doc, err
}
