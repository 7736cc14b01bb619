package sheet

import (
	"ivypocket/core/geom"
	"ivypocket/core/scheme"
	"ivypocket/core/template"
)

// Schema is the JSON Schema (draft 2020-12) of the values that a piece of a template may
// hold: what its sheet asks for, and nothing else.
func Schema(d *template.Document) scheme.Object {
	type o = scheme.Object
	object := func(props o) o { return o{"type": "object", "properties": props, "additionalProperties": false} }
	pair := func(lo, hi float64) o {
		return o{"type": "array", "items": o{"type": "number", "minimum": lo, "maximum": hi}, "minItems": 2, "maxItems": 2}
	}
	framing := object(o{"fit": o{"enum": []geom.Fit{"", geom.Cover, geom.Contain, geom.Stretch, geom.Original}}, "focus": pair(0, 1), "pan": pair(-geom.MaxPan, geom.MaxPan),
		"zoom": o{"type": "number", "minimum": geom.MinZoom, "maximum": geom.MaxZoom}, "turn": o{"type": "number", "minimum": -geom.MaxTurn, "maximum": geom.MaxTurn},
		"flipX": o{"type": "boolean"}, "flipY": o{"type": "boolean"}})
	formats := o{}
	for _, f := range d.Formats {
		formats[f.ID] = o{"$ref": "#/$defs/framing"}
	}
	fills, entries := o{}, o{}
	for _, e := range d.Sheet.Entries() {
		switch {
		case e.Fixed:
		case e.Kind == template.MediaEntry:
			fill := object(o{"media": o{"type": "string", "pattern": "^sha256:[0-9a-f]{64}$"}, "name": o{"type": "string", "maxLength": MaxName}, "framing": o{"$ref": "#/$defs/framing"},
				"formats": object(formats), "keep": o{"type": "boolean"},
				"play": object(o{"in": o{"type": "integer", "minimum": 0}, "speed": o{"type": []string{"number", "string"}}, "after": o{"enum": []string{"", "hold", "loop", "bounce"}}})})
			fill["title"] = e.Label
			fills[e.Pocket] = fill
		default:
			if s := e.Schema(); s != nil {
				entries[e.ID] = s
			}
		}
	}
	props := o{"fills": object(fills), "entries": object(entries)}
	if e := d.Sheet.Duration(); e != nil && !e.Fixed {
		lo, hi := e.Lengths(d)
		props["frames"] = o{"anyOf": []any{o{"const": 0}, o{"type": "integer", "minimum": lo, "maximum": hi}}, "title": e.Label}
	}
	if d.Purpose == template.Frame {
		var formats []string
		for _, f := range d.Formats {
			formats = append(formats, f.ID)
		}
		side := o{"type": "integer", "minimum": 2, "maximum": scheme.MaxSide, "multipleOf": 2}
		measure := object(o{"format": o{"enum": formats}, "width": side, "height": side, "rate": o{"type": []string{"number", "string"}}})
		measure["title"], measure["required"] = "The clip's measure", []string{"format", "width", "height", "rate"}
		props["measure"] = measure
	}
	all := object(props)
	if d.Purpose == template.Frame {
		own, asked := props["frames"]
		if !asked {
			own = o{"const": 0}
		}
		// With a measure the length is the clip's, in its own frames.
		props["frames"] = o{"type": "integer", "minimum": 0, "maximum": template.MaxFrames}
		all["if"] = o{"not": o{"required": []string{"measure"}}}
		all["then"] = o{"properties": o{"frames": own}}
	}
	all["$schema"], all["title"], all["$defs"] = "https://json-schema.org/draft/2020-12/schema", d.Name, o{"framing": framing}
	return all
}
