package server

import (
	"fmt"
	"math"
	"strings"

	"ivypocket/core/geom"
	"ivypocket/core/scene"
	"ivypocket/core/timing"
)

type (
	// FormedView is an outline on the canvas, in px from its top left corner: a shape's own, or
	// that of a mask that is drawn.
	FormedView struct {
		Path   string `json:"path" doc:"The thing that has it, such as layers/ID or layers/ID/masks/ID"`
		Mask   string `json:"mask"`
		Way    bool   `json:"way" doc:"It is the way of motion of what its path begins with; its points are keys"`
		Kind   string `json:"kind" doc:"A form, such as star or path"`
		Closed bool   `json:"closed"`
		Off    bool   `json:"off"`
		// Nodes of a drawn path: each point, and where its handles end: x, y, in x, in y, out x,
		// out y.
		Nodes [][6]float64 `json:"nodes"`
		// Dots of a way are where it is in even steps of time, px on the canvas, of Step frames each.
		Dots []geom.Point `json:"dots"`
		Step int64        `json:"step"`
		// Line is the outline as SVG paths have it, as it is drawn, with its round corners.
		Line string `json:"line"`
		// Corners are those of its box, clockwise from the top left.
		Corners [4]geom.Point `json:"corners"`
		// Feather and Growth of a mask in px of its layer; Unit is how many px of the canvas one
		// of them is.
		Feather float64 `json:"feather"`
		Growth  float64 `json:"growth"`
		Unit    float64 `json:"unit"`
	}
)

// formedViews are the outlines of a layer at a frame.
func formedViews(sc *scene.Scene, layer string, frame int64) []FormedView {
	out := []FormedView{}
	for _, f := range sc.Forms(layer, sc.Time().At(timing.OutputFrame(frame))) {
		box := geom.Box{W: f.Form.Size.W, H: f.Form.Size.H}
		quad, ok := f.Map.Quad(box)
		if !ok {
			continue
		}
		v := FormedView{Path: f.Path, Mask: f.Mask, Way: f.Way, Kind: string(f.Form.Kind), Closed: f.Form.Kind != geom.Drawn || f.Form.Path.Closed, Off: f.Off, Nodes: [][6]float64{},
			Dots: make([]geom.Point, 0, len(f.Dots)), Step: f.Step, Corners: quad, Feather: f.Feather, Growth: f.Growth}
		sx, sy := f.Map.Stretch(box)
		v.Unit = math.Sqrt(sx * sy)
		var lines, spare geom.Contours
		f.Form.Contours(&lines, &spare, 0.05/math.Max(v.Unit, 1e-6))
		lines.Map(f.Map)
		v.Line = svgPath(&lines)
		for _, p := range f.Dots {
			v.Dots = append(v.Dots, f.Map.Apply(geom.Point{X: p.X * box.W, Y: p.Y * box.H}))
		}
		if f.Form.Kind == geom.Drawn {
			on := f.Form.Path.Through(geom.Scale(box.W, box.H).Flat().Then(f.Map))
			for _, n := range on.Nodes {
				v.Nodes = append(v.Nodes, [6]float64{n.X, n.Y, n.X + n.InX, n.Y + n.InY, n.X + n.OutX, n.Y + n.OutY})
			}
		}
		out = append(out, v)
	}
	return out
}

// svgPath writes lines as the d of an SVG path, in hundredths.
func svgPath(c *geom.Contours) string {
	var b strings.Builder
	for i := range c.Len() {
		for k, p := range c.Line(i) {
			fmt.Fprintf(&b, "%c%.3f %.3f", "ML"[min(k, 1)], p.X, p.Y)
		}
		if c.Closed[i] {
			b.WriteByte('Z')
		}
	}
	return b.String()
}
