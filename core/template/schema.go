package template

import "ivypocket/core/scheme"

// JSONSchema describes a document (JSON Schema draft 2020-12): its members, their
// kinds and limits. What hangs together, such as ids and circles, Parse tells.
func JSONSchema() map[string]any {
	type o = scheme.Object
	words, frames := o{"type": "string"}, o{"type": "integer", "minimum": 0, "maximum": MaxFrames}
	list := func(s *scheme.Sort, most int) o {
		return o{"type": "array", "items": o{"$ref": "#/$defs/" + s.Name}, "maxItems": most}
	}
	object := func(required []string, props o) o {
		return o{"type": "object", "properties": props, "required": append([]string{}, required...), "additionalProperties": false}
	}
	pair := o{"type": "array", "items": o{"type": "number"}, "minItems": 2, "maxItems": 2}
	values := o{"type": "object", "additionalProperties": o{"$ref": "#/$defs/value"}}
	value, ease := o{"$ref": "#/$defs/value"}, o{"type": "array", "items": o{"type": "number"}, "minItems": 4, "maxItems": 4}
	tie := object([]string{"to"}, o{"to": o{"type": "string", "description": "The path of what is driven, such as layers/mark/place.x"}, "of": o{"enum": scheme.Place.Parts}, "from": pair, "into": pair, "ease": ease,
		"stops": o{"type": "array", "maxItems": MaxNotches, "items": object([]string{"at", "value"}, o{"at": value, "value": value, "ease": ease})}})
	key := scheme.Keys.Schema()
	describe(key, "value", o{"$ref": "#/$defs/value"})
	format := scheme.Formats.Schema()
	describe(format, "rest", values)
	entry := scheme.Entries.Schema()
	whole := map[string]o{
		"default": value, "ties": o{"type": "array", "items": tie, "maxItems": MaxTies},
		"framing": o{"type": "array", "items": o{"enum": scheme.FramingParts}, "uniqueItems": true},
		"options": o{"type": "array", "minItems": 2, "maxItems": MaxOptions, "items": object([]string{"id", "label"}, o{"id": words, "label": words})},
		"notches": o{"type": "array", "maxItems": MaxNotches, "items": o{"type": "number"}},
		"when":    object([]string{"entry", "is"}, o{"entry": words, "is": o{"type": "array", "minItems": 1, "items": value}}),
	}
	for _, kind := range entry["oneOf"].([]any) {
		of := kind.(o)
		for name, v := range whole {
			if _, has := of["properties"].(o)[name]; has {
				describe(of, name, v)
			}
		}
	}
	recipe := scheme.Recipes.Schema()
	describe(recipe, "numbers", o{"type": "object", "additionalProperties": o{"type": "number"}})
	defs := o{"value": scheme.ValueSchema(), scheme.Keys.Name: key, scheme.Recipes.Name: recipe, scheme.Formats.Name: format, scheme.Entries.Name: entry,
		"motion": object([]string{"keys"}, o{"unit": o{"enum": []string{CanvasUnit, SelfUnit, OwnUnit}}, "even": o{"type": "boolean"}, "keys": list(scheme.Keys, 10000)})}
	for _, s := range []*scheme.Sort{scheme.Layers, scheme.SavedMoves, scheme.Performances, scheme.Masks, scheme.Treatments, scheme.Highlights, scheme.HighLines, scheme.Axes, scheme.Stops, scheme.Gradients, scheme.Layouts, scheme.Colours, scheme.Pockets, scheme.Easings, scheme.Cues} {
		defs[s.Name] = s.Schema()
	}
	root := object([]string{"ivypocket", "kind", "id", "name", "category", "rate", "frames", "formats", "layers"}, o{
		"ivypocket": o{"const": Schema}, "kind": o{"const": "template"}, "id": words, "name": words, "category": words, "family": words, "about": words, "purpose": o{"enum": Purposes},
		"rate":   o{"anyOf": []any{words, o{"type": "number"}}, "description": "Frames per second, an exact fraction such as 30000/1001"},
		"frames": frames,
		"spans": o{"type": "array", "items": object([]string{"kind", "from", "to"},
			o{"id": words, "kind": o{"enum": []string{"held", "elastic"}}, "from": frames, "to": frames})},
		"formats": list(scheme.Formats, MaxFormats), "colours": list(scheme.Colours, 1000), "gradients": list(scheme.Gradients, scheme.MaxGradients), "layouts": list(scheme.Layouts, 100),
		"pockets": list(scheme.Pockets, MaxPockets), "moves": list(scheme.SavedMoves, scheme.MaxMoves), "motifs": list(scheme.Layers, scheme.MaxLayers), "layers": list(scheme.Layers, scheme.MaxLayers), "cues": list(scheme.Cues, 1000),
		"recipes": list(scheme.Recipes, MaxRecipes), "easings": list(scheme.Easings, MaxEasings),
		"sheet": object(nil, o{"groups": o{"type": "array", "items": object([]string{"id", "label", "entries"},
			o{"id": words, "label": words, "entries": list(scheme.Entries, 1000)})}}),
		"media": o{"type": "array", "items": object([]string{"hash", "name", "kind"},
			o{"hash": words, "name": words, "kind": words, "licence": words, "source": words})},
	})
	root["$schema"], root["title"], root["$defs"] = "https://json-schema.org/draft/2020-12/schema", "Ivy Pocket template", defs
	return root
}

// describe replaces the schema of a member.
func describe(s scheme.Object, name string, v scheme.Object) {
	s["properties"].(scheme.Object)[name] = v
}
