package scheme

import "strings"

// Object is a part of a JSON Schema (draft 2020-12).
type Object = map[string]any

const (
	idPattern       = `^[a-z][a-z0-9-]{0,62}$`
	colourPattern   = `^(#[0-9a-fA-F]{6}([0-9a-fA-F]{2})?|colour:[a-z][a-z0-9-]{0,62})$`
	mediaPattern    = `^sha256:[0-9a-f]{64}$`
	fractionPattern = `^-?[0-9]+(\.[0-9]+)?(/[0-9]+)?$`
	shorterPattern  = `^-?[0-9]+(\.[0-9]+)?vmin$`
)

// Schema describes the things of a sort: one object, or one for each kind.
func (s *Sort) Schema() Object {
	if s.Kinds == nil {
		return s.schemaOf(nil)
	}
	var kinds []any
	for _, k := range s.Kinds {
		if !k.Later {
			kinds = append(kinds, s.schemaOf(k))
		}
	}
	return Object{"oneOf": kinds}
}

func (s *Sort) schemaOf(k *Kind) Object {
	root := closed()
	root.put("id", Object{"type": "string", "pattern": idPattern})
	var needed []string
	if s.Named {
		root.put("name", Object{"type": "string"})
		needed = append(needed, "id", "name")
	}
	if k != nil {
		root.put("kind", Object{"const": k.Name, "description": k.Doc})
		needed = append(needed, "kind")
	}
	for _, p := range s.props {
		if !p.For(k) {
			continue
		}
		root.put(p.Name, p.Schema())
		if p.Needed && p.With == nil && p.Without == nil && !strings.Contains(p.Name, ".") {
			needed = append(needed, p.Name)
		}
	}
	for _, part := range s.Parts {
		if part.On == 0 || k != nil && k.Can&part.On != 0 && (part.Without == "" || k != Use) {
			root.put(part.At, Object{"type": "array", "maxItems": part.Most, "items": Object{"$ref": "#/$defs/" + part.Of.Name}, "description": part.Doc})
		}
	}
	if k == Use {
		root.put("values", Object{"type": "object", "additionalProperties": Object{"$ref": "#/$defs/value"}, "description": "Values in place of the motif's, by their paths in it"})
	}
	if s.Motion {
		root.put("motion", Object{"type": "object", "additionalProperties": Object{"$ref": "#/$defs/motion"}, "description": "Keys, by the names of properties"})
	}
	if s.Formulas {
		root.put("formulas", Object{"type": "object", "additionalProperties": Object{"type": "string"}, "description": "Expressions, by the names of properties"})
	}
	if needed != nil {
		root.Object["required"] = needed
	}
	return root.Object
}

// closedObject is an object's schema that allows nothing else.
type closedObject struct{ Object }

func closed() closedObject {
	return closedObject{Object{"type": "object", "properties": Object{}, "additionalProperties": false}}
}

func (o closedObject) put(name string, v Object) {
	props := o.Object["properties"].(Object)
	head, rest, deeper := strings.Cut(name, ".")
	if !deeper {
		props[name] = v
		return
	}
	inner, ok := props[head].(Object)
	if !ok {
		inner = closed().Object
		props[head] = inner
	}
	closedObject{inner}.put(rest, v)
}

// Schema describes a property's value.
func (p *Property) Schema() Object {
	o := p.schema()
	if p.Doc != "" {
		o["description"] = p.Doc
	}
	if p.Label != "" {
		o["title"] = p.Label
	}
	if p.Default.Numbers != nil || p.Default.Text != "" {
		o["default"] = p.Default.Tree()
	}
	return o
}

func (p *Property) schema() Object {
	number := Object{"type": "number"}
	if p.Integer {
		number["type"] = "integer"
	}
	if p.Lo != p.Hi {
		number["minimum"], number["maximum"] = p.Lo, p.Hi
	}
	if p.InShares() {
		number = Object{"anyOf": []any{number, Object{"type": "string", "pattern": shorterPattern}}}
	}
	switch p.Type {
	case Numbers:
		return p.numbers(number)
	case List:
		return Object{"type": "array", "items": number, "minItems": p.Least, "maxItems": p.Most}
	case Points:
		return Object{"type": "array", "items": pointSchema(), "minItems": p.Least, "maxItems": p.Most}
	case Colour:
		return Object{"type": "string", "pattern": colourPattern}
	case Choice:
		return Object{"enum": p.Words}
	case Choices:
		return Object{"type": "array", "items": Object{"enum": p.Words}, "minItems": 1}
	case Switch:
		return Object{"type": "boolean"}
	case Text:
		o := Object{"type": "string"}
		if p.Most > 0 {
			o["maxLength"] = p.Most
		}
		return o
	case Ref:
		return Object{"type": "string", "pattern": idPattern}
	case Media:
		return Object{"type": "string", "pattern": mediaPattern}
	case Typeface:
		return Object{"type": "string", "pattern": "(" + idPattern + ")|(" + mediaPattern + ")"}
	case Time, Exact:
		return Object{"anyOf": []any{Object{"type": "number"}, Object{"type": "string", "pattern": fractionPattern}}}
	case Curve:
		return Object{"type": "array", "items": Object{"type": "number"}, "minItems": 4, "maxItems": 4}
	}
	return Object{}
}

func (p *Property) numbers(number Object) Object {
	w := p.Width()
	if w == 1 {
		return number
	}
	forms := []any{Object{"type": "array", "items": number, "minItems": w, "maxItems": w}}
	if p.Alike {
		forms = append(forms, number)
	}
	if w > 4 {
		forms = append(forms, Object{"type": "array", "items": Object{"type": "array", "items": number, "minItems": 2, "maxItems": 2}, "minItems": w / 2, "maxItems": w / 2})
	}
	if len(forms) == 1 {
		return forms[0].(Object)
	}
	return Object{"anyOf": forms}
}

func pointSchema() Object {
	n := Object{"type": "number"}
	return Object{"anyOf": []any{Object{"type": "array", "items": n, "minItems": 2, "maxItems": 2}, Object{"type": "array", "items": n, "minItems": 6, "maxItems": 6}}}
}

// ValueSchema describes any value that a property may have.
func ValueSchema() Object {
	n := Object{"anyOf": []any{Object{"type": "number"}, Object{"type": "string"}}}
	return Object{"anyOf": []any{Object{"type": []string{"number", "string", "boolean"}}, Object{"type": "array", "items": n}, Object{"type": "array", "items": pointSchema()}}}
}
