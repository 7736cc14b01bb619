package template

import (
	"encoding/json"
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"

	"ivypocket/core/geom"
)

// UnmarshalJSON reads a number, a list of numbers, text, or a path's list of
// points, each of two numbers or of six.
func (r *Rest) UnmarshalJSON(b []byte) error {
	var v any
	if err := json.Unmarshal(b, &v); err != nil {
		return err
	}
	*r = Rest{}
	switch v := v.(type) {
	case float64:
		*r = Rest{Numbers: []float64{v}, Single: true}
	case string:
		*r = Rest{Text: v}
	case []any:
		for i, n := range v {
			switch n := n.(type) {
			case float64:
				if r.Wide != 0 {
					return fmt.Errorf("[%d]: is a number among points", i)
				}
				r.Numbers = append(r.Numbers, n)
			case []any:
				if i > 0 && r.Wide == 0 {
					return fmt.Errorf("[%d]: is a point among numbers", i)
				}
				r.Wide = geom.NodeWidth
				node, err := point(n)
				if err != nil {
					return fmt.Errorf("[%d]: %w", i, err)
				}
				r.Numbers = append(r.Numbers, node[:]...)
			default:
				return fmt.Errorf("[%d]: is not a number", i)
			}
		}
	default:
		return fmt.Errorf("is neither a number, a list of numbers nor text")
	}
	return nil
}

func point(list []any) (node [geom.NodeWidth]float64, err error) {
	if len(list) != 2 && len(list) != geom.NodeWidth {
		return node, fmt.Errorf("has %d numbers; a point has 2, or 6 with its handles", len(list))
	}
	for i, n := range list {
		f, ok := n.(float64)
		if !ok {
			return node, fmt.Errorf("[%d]: is not a number", i)
		}
		node[i] = f
	}
	return node, nil
}

// MarshalJSON writes what UnmarshalJSON reads.
func (r Rest) MarshalJSON() ([]byte, error) {
	switch {
	case r.Wide != 0:
		points := [][]float64{}
		for i := 0; i+r.Wide <= len(r.Numbers); i += r.Wide {
			p := r.Numbers[i : i+r.Wide]
			if p[2] == 0 && p[3] == 0 && p[4] == 0 && p[5] == 0 {
				p = p[:2]
			}
			points = append(points, p)
		}
		return json.Marshal(points)
	case r.Single:
		return json.Marshal(r.Numbers[0])
	case r.Numbers != nil:
		return json.Marshal(r.Numbers)
	}
	return json.Marshal(r.Text)
}

// UnmarshalJSON reads one number, for all corners, or four.
func (r *Radii) UnmarshalJSON(b []byte) error {
	var v Rest
	if err := json.Unmarshal(b, &v); err != nil {
		return err
	}
	switch {
	case len(v.Numbers) == 1:
		n := v.Numbers[0]
		*r = Radii{n, n, n, n}
	case len(v.Numbers) == 4 && v.Wide == 0:
		copy(r[:], v.Numbers)
	default:
		return fmt.Errorf("is neither one number nor four")
	}
	return nil
}

// MarshalJSON writes what UnmarshalJSON reads.
func (r Radii) MarshalJSON() ([]byte, error) {
	if r[0] == r[1] && r[1] == r[2] && r[2] == r[3] {
		return json.Marshal(r[0])
	}
	return json.Marshal(r[:])
}

// UnmarshalJSON reads a number or a colour.
func (v *Value) UnmarshalJSON(b []byte) error {
	if len(b) > 0 && b[0] == '"' {
		*v = Value{}
		if err := json.Unmarshal(b, &v.Text); err != nil {
			return err
		}
		if v.Text == "" {
			return fmt.Errorf("is empty")
		}
		return nil
	}
	v.Text = ""
	return json.Unmarshal(b, &v.Amount)
}

// MarshalJSON writes what UnmarshalJSON reads.
func (v Value) MarshalJSON() ([]byte, error) {
	if v.Text != "" {
		return json.Marshal(v.Text)
	}
	return json.Marshal(v.Amount)
}

// Set gives a property a new rest value. The path is "colours/ID",
// "layouts/ID/PROPERTY" or "layers/ID/PROPERTY".
func (d *Document) Set(path string, v Rest) error {
	part := strings.Split(path, "/")
	if len(part) == 2 && part[0] == "colours" {
		for i := range d.Colours {
			if d.Colours[i].ID == part[1] {
				if _, err := ParseColour(v.Text); err != nil {
					return err
				}
				d.Colours[i].Value = v.Text
				return nil
			}
		}
		return fmt.Errorf("there is no colour named %q", part[1])
	}
	if len(part) == 3 {
		switch part[0] {
		case "layouts":
			if l := d.Layout(part[1]); l != nil {
				return l.set(part[2], v)
			}
			return fmt.Errorf("there is no layout named %q", part[1])
		case "layers":
			if l := d.Layer(part[1]); l != nil {
				return l.set(d, part[2], v)
			}
			return fmt.Errorf("there is no layer named %q", part[1])
		}
	}
	return fmt.Errorf("%q is not a property; write colours/ID, layouts/ID/PROPERTY or layers/ID/PROPERTY", path)
}

// Driver names what sets a layer's property in place of its own rest: the entry
// tied to it, the cell it stands in, or keys that take rest's place. "" is nothing.
func (d *Document) Driver(y *Layer, property string) string {
	for _, e := range d.Sheet.Entries() {
		for _, t := range e.Ties {
			if t.To == "layers/"+y.ID+"/"+property {
				return "the entry " + e.Label
			}
		}
	}
	if y.Rest.Cell != nil && (property == "place" || property == "size" || property == "anchor") {
		return "the cell of the layout " + y.Rest.Cell.Layout
	}
	if p, _, _, err := y.Property(property); err == nil && p.Join == Instead && y.Motion[property] != nil {
		return "its keys"
	}
	return ""
}

// setAny sets a property of a layout or a layer, whichever has the id.
func (d *Document) setAny(id, property string, v Rest) error {
	if d.Layout(id) != nil {
		return d.Set("layouts/"+id+"/"+property, v)
	}
	if d.Layer(id) != nil {
		return d.Set("layers/"+id+"/"+property, v)
	}
	return fmt.Errorf("there is no layer or layout named %q", id)
}

// For returns the document as it stands in a format: with the format's rest
// values in place.
func (d *Document) For(f *Format) (*Document, error) {
	if len(f.Rest) == 0 {
		return d, nil
	}
	c := d.Clone()
	// In the order of their names, so that of several faults the same is told.
	for _, id := range slices.Sorted(maps.Keys(f.Rest)) {
		props := f.Rest[id]
		for _, p := range slices.Sorted(maps.Keys(props)) {
			if err := c.setAny(id, p, props[p]); err != nil {
				return nil, fmt.Errorf("rest.%s.%s: %w", id, p, err)
			}
		}
	}
	return c, nil
}

func (l *Layout) set(p string, v Rest) error {
	switch p {
	case "rows", "columns":
		if err := weights(v.Numbers); err != nil {
			return err
		}
		if p == "rows" {
			l.Rows = v.Numbers
		} else {
			l.Columns = v.Numbers
		}
		return nil
	case "gutter":
		return setNumber(&l.Gutter, v, 0, maxLength)
	case "margin":
		return setNumber(&l.Margin, v, 0, maxLength)
	case "radius":
		return setNumber(&l.Radius, v, 0, maxLength)
	}
	return fmt.Errorf("a split has no property %q; it has rows, columns, gutter, margin and radius", p)
}

// set gives one of the layer's properties a new rest value.
func (y *Layer) set(d *Document, name string, v Rest) error {
	for _, f := range y.fields() {
		if f.Name != name {
			continue
		}
		if err := f.Check(d, v); err != nil {
			return err
		}
		f.put(v)
		return nil
	}
	return y.unknown(name)
}

// maxLength bounds lengths in pixels: four times the largest canvas.
const maxLength = 4 * MaxSide

func setNumber(to *float64, v Rest, lo, hi float64) error {
	if len(v.Numbers) != 1 {
		return fmt.Errorf("is not one number")
	}
	if err := within(v.Numbers[0], lo, hi); err != nil {
		return err
	}
	*to = v.Numbers[0]
	return nil
}

func within(n, lo, hi float64) error {
	if math.IsNaN(n) || n < lo || n > hi {
		return fmt.Errorf("%g is outside %g to %g", n, lo, hi)
	}
	return nil
}
