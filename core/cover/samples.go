package cover

import (
	"fmt"

	"ivypocket/core/scene"
	"ivypocket/core/sheet"
	"ivypocket/core/template"
)

// The two scenes over which a transition is seen: a warm one with an A that drifts to the right, and
// a cool one with a B that drifts to the left, as unlike as can be.
const (
	sampleFrames = 600
	letterA      = `[[0.5, 0], [1, 1], [0.78, 1], [0.68, 0.74], [0.32, 0.74], [0.22, 1], [0, 1]]`
	letterB      = `[[0, 0], [0.6, 0], [0.86, 0.1], [0.9, 0.28], [0.74, 0.48], [0.96, 0.64], [0.94, 0.86], [0.66, 1], [0, 1]]`
)

// Sample is one of the two scenes on a canvas: the first up to the cut, the second from there on.
func Sample(second bool, w, h int, lib scene.Library) (*scene.Scene, error) {
	sky, low, ink, letter, way := "#e9b872", "#a8502f", "#fdf1da", letterA, 0.12
	if second {
		sky, low, ink, letter, way = "#9cc7cf", "#1d4a5c", "#eaf6f4", letterB, -0.12
	}
	bars := ""
	for i := range 7 {
		bars += fmt.Sprintf(`{"id": "bar%d", "name": "Bar", "kind": "shape", "size": ["7vmin", "220vmin"], "turn": 24, "place": ["%dvmin", 0], "fill": %q, "opacity": 0.18,
			"motion": {"place": {"unit": "canvas", "keys": [{"at": 0, "value": [%g, 0]}, {"at": %d, "value": [%g, 0]}]}}},`, i, (i-3)*34, ink, -way*2, sampleFrames, way*2)
	}
	w, h = w+w%2, h+h%2
	d, err := template.Parse(fmt.Appendf(nil, `{"ivypocket": %d, "kind": "template", "id": "sample", "name": "Sample", "category": "Sample", "rate": "30", "frames": %d,
		"formats": [{"id": "f", "name": "F", "width": %d, "height": %d}], "layers": [
		{"id": "sky", "name": "Sky", "kind": "ground", "gradient": {"kind": "linear", "from": [0.5, 0], "to": [0.5, 1], "stops": [{"id": "a", "at": 0, "colour": %q}, {"id": "b", "at": 1, "colour": %q}]}}, %s
		{"id": "letter", "name": "Letter", "kind": "shape", "size": ["38vmin", "46vmin"], "fill": %q, "form": {"kind": "path", "path": %s},
		 "motion": {"place": {"unit": "canvas", "keys": [{"at": 0, "value": [%g, 0]}, {"at": %d, "value": [%g, 0]}]}}}]}`,
		template.Schema, sampleFrames, w, h, sky, low, bars, ink, letter, -way, sampleFrames, way))
	if err != nil {
		return nil, err
	}
	return scene.Compile(&sheet.Resolved{Doc: d, Values: sheet.Values{}}, "f", lib)
}

// SampleFrames is how many frames a sample scene has; it is seen over and over.
const SampleFrames = sampleFrames
