package craft

import (
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"strings"

	"ivypocket/core/geom"
	"ivypocket/core/scheme"
)

// Paths are drawn on the picture.
func init() {
	register(
		row{"draw", "`part`: points on the canvas, px, `[x, y]` or `[x, y, in x, in y, out x, out y]`; `way`: `closed`, `open`; `into`, `at` of a new shape, or `path`: `layers/ID` or `layers/ID/treatments/ID`, which it masks, or a layer or a mask and `/motion/place`, whose way it is (`frame`: from when on); `id`: a layer whose stroke, fill and blend it takes; `name`",
			"draws a path: a shape, a mask or a way of motion", drawPath},
	)
}

// drawPath makes a shape of a path that was drawn on the canvas, or a mask of a layer.
func drawPath(b *bench, a Act) error {
	var raw scheme.Value
	if err := json.Unmarshal(a.Part, &raw); err != nil || raw.Wide == 0 {
		return errors.New("part: is no list of points")
	}
	p := pathOf(raw, a.Way != "open")
	if n := len(p.Nodes); n < 2 || n > geom.MaxNodes {
		return fmt.Errorf("part: a path has 2 to %d points", geom.MaxNodes)
	}
	for _, v := range raw.Numbers {
		if math.IsNaN(v) || math.Abs(v) > scheme.MaxLength {
			return fmt.Errorf("part: %g lies too far away", v)
		}
	}
	if b.format == nil {
		return errors.New("format: say which format is looked at")
	}
	if of, ok := strings.CutSuffix(a.Path, onWay); ok {
		return b.drawWay(of, p, a)
	}
	if a.Path != "" {
		return b.drawMask(p, a)
	}
	c := b.format.Canvas()
	owner := c
	if group := b.holder(a.Into); group != "" {
		all, err := b.stand()
		if err != nil {
			return err
		}
		for _, s := range all {
			if inv, ok := s.World.Invert(); s.Layer == group && ok {
				p, owner = p.Through(inv), s.Now.Size
			}
		}
	}
	box, path := boxed(p)
	mid := box.Centre()
	y := object{"kind": scheme.Shape.Name, "form": object{"kind": string(geom.Drawn), "path": valueOf(path).Tree()}, "size": b.lengths(box.W, box.H)}
	if at := (geom.Point{X: mid.X - owner.W/2, Y: mid.Y - owner.H/2}); at != (geom.Point{}) {
		y["place"] = b.lengths(at.X, at.Y)
	}
	name := "Path"
	if !p.Closed {
		y["form"].(object)["open"] = true
		name = "Line"
	}
	if err := b.clothe(y, a.Id, !p.Closed); err != nil {
		return err
	}
	if strings.TrimSpace(a.Name) != "" {
		name = strings.TrimSpace(a.Name)
	}
	name = b.freeName(name)
	id := b.freeID(name)
	y["id"], y["name"] = id, name
	b.title = "Draw " + name
	b.plan.Chosen = []string{id}
	return b.put(y, a.Into, a.At)
}

// clothe gives a path its looks: those of another layer, or such as new ones have.
func (b *bench) clothe(y object, like string, open bool) error {
	if like == "" {
		if open {
			y["stroke"] = object{"colour": b.nextFill(), "width": b.lengths(8)[0], "cap": "round", "join": "round"}
		} else {
			y["fill"] = b.nextFill()
		}
		return nil
	}
	_, like = cutUse(like)
	from := b.doc.Layer(like)
	if from == nil {
		return fmt.Errorf("id: there is no layer %q any more", like)
	}
	tree, err := writtenOut(from)
	if err != nil {
		return err
	}
	for _, p := range []*scheme.Property{scheme.Fill, scheme.Blend, scheme.Opacity, scheme.StrokeColour, scheme.StrokeWidth, scheme.StrokeAlign, scheme.StrokeCap, scheme.StrokeJoin, scheme.StrokeMiter, scheme.StrokeDash} {
		way := strings.Split(p.Name, ".")
		if v := reach(tree, way); v != nil && p.For(scheme.Shape) && p != scheme.StrokeAlign {
			plant(y, way, v)
		}
	}
	if g := tree["gradient"]; g != nil {
		y["gradient"] = g
	}
	stroke, _ := y["stroke"].(object)
	switch fill := y["fill"]; {
	case open && stroke == nil: // a line in the colour of what it is to belong to
		if fill == nil {
			fill = b.nextFill()
		}
		y["stroke"] = object{"colour": fill, "width": b.lengths(8)[0], "cap": "round", "join": "round"}
		delete(y, "fill")
		delete(y, "gradient")
	case open:
		delete(y, "fill")
		delete(y, "gradient")
	case stroke == nil && fill == nil && y["gradient"] == nil:
		y["fill"] = b.nextFill()
	}
	return nil
}

// boxed is the box around a path, and the path in shares of it. A line that lies level or
// upright has a box of 1 px.
func boxed(p geom.Path) (geom.Box, geom.Path) {
	box := p.Bounds()
	if box.W < 1 {
		box.X, box.W = box.X-(1-box.W)/2, 1
	}
	if box.H < 1 {
		box.Y, box.H = box.Y-(1-box.H)/2, 1
	}
	return box, p.Through(geom.Translate(-box.X, -box.Y).Then(geom.Scale(1/box.W, 1/box.H)).Flat())
}
