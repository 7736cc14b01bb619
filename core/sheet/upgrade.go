package sheet

import (
	"encoding/json"
	"strings"

	"ivypocket/core/template"
)

// Upgrade turns values that were written for documents of schema 2, which had
// what stands otherwise by layer and property, into what Values reads; others are
// left as they are.
func Upgrade(b []byte) ([]byte, error) {
	var all map[string]json.RawMessage
	if err := json.Unmarshal(b, &all); err != nil {
		return b, nil // whoever reads it says what is wrong
	}
	var rest map[string]json.RawMessage
	var formats map[string]map[string]json.RawMessage
	if json.Unmarshal(all["rest"], &rest) == nil && rest != nil {
		raw, err := json.Marshal(byPath(rest))
		if err != nil {
			return nil, err
		}
		all["rest"] = raw
	}
	if json.Unmarshal(all["formats"], &formats) == nil && formats != nil {
		for k := range formats {
			formats[k] = byPath(formats[k])
		}
		raw, err := json.Marshal(formats)
		if err != nil {
			return nil, err
		}
		all["formats"] = raw
	}
	if rest == nil && formats == nil {
		return b, nil
	}
	return json.Marshal(all)
}

// byPath names by paths what was named by layer and property.
func byPath(rest map[string]json.RawMessage) map[string]json.RawMessage {
	out := map[string]json.RawMessage{}
	for id, raw := range rest {
		var props map[string]json.RawMessage
		if strings.Contains(id, "/") || json.Unmarshal(raw, &props) != nil {
			out[id] = raw
			continue
		}
		for name, v := range props {
			out[template.PathFrom2(id, name)] = v
		}
	}
	return out
}
