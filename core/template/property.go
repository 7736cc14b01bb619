package template

import (
	"encoding/json"
	"fmt"
	"math"
	"strings"
)

// UnmarshalJSON reads a number, a list of numbers or text.
func (r *Rest) UnmarshalJSON(b []byte) error {
	var v any
	if err := json.Unmarshal(b, &v); err != nil {
		return err
	}
	switch v := v.(type) {
	case float64:
		*r = Rest{Numbers: []float64{v}, Single: true}
	case string:
		*r = Rest{Text: v}
	case []any:
		*r = Rest{}
		for i, n := range v {
			f, ok := n.(float64)
			if !ok {
				return fmt.Errorf("[%d]: is not a number", i)
			}
			r.Numbers = append(r.Numbers, f)
		}
	default:
		return fmt.Errorf("is neither a number, a list of numbers nor text")
	}
	return nil
}

// MarshalJSON writes what UnmarshalJSON reads.
func (r Rest) MarshalJSON() ([]byte, error) {
	switch {
	case r.Single:
		return json.Marshal(r.Numbers[0])
	case r.Numbers != nil:
		return json.Marshal(r.Numbers)
	}
	return json.Marshal(r.Text)
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
	for id, props := range f.Rest {
		for p, v := range props {
			if err := c.setAny(id, p, v); err != nil {
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

func (l *Layer) set(d *Document, p string, v Rest) error {
	switch p {
	case "place":
		return setPair(&l.Rest.Place, v, -maxLength, maxLength)
	case "size":
		return setPair(&l.Rest.Size, v, 0, maxLength)
	case "radius":
		return setNumber(&l.Rest.Radius, v, 0, maxLength)
	case "opacity":
		n := 0.0
		if err := setNumber(&n, v, 0, 1); err != nil {
			return err
		}
		l.Rest.Opacity = &n
		return nil
	case "fill":
		if _, err := d.Colour(v.Text); err != nil {
			return err
		}
		l.Rest.Fill = v.Text
		return nil
	}
	return fmt.Errorf("a layer has no property %q that rests; it has place, size, radius, opacity and fill", p)
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

func setPair(to **[2]float64, v Rest, lo, hi float64) error {
	if len(v.Numbers) != 2 {
		return fmt.Errorf("is not a pair of numbers")
	}
	for _, n := range v.Numbers {
		if err := within(n, lo, hi); err != nil {
			return err
		}
	}
	*to = &[2]float64{v.Numbers[0], v.Numbers[1]}
	return nil
}

func within(n, lo, hi float64) error {
	if math.IsNaN(n) || n < lo || n > hi {
		return fmt.Errorf("%g is outside %g to %g", n, lo, hi)
	}
	return nil
}
