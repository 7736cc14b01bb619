package template

import (
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strings"
)

// upgrades[v] turns a document of schema v into one of v+1.
var upgrades = map[int]func(map[string]any) error{
	0: upgradeFrom0,
	1: upgradeFrom1,
	2: upgradeFrom2,
}

// upgradeFrom1 reads documents whose keys all had two numbers, an opacity's
// both the same.
func upgradeFrom1(root map[string]any) error {
	layers, _ := root["layers"].([]any)
	for _, l := range layers {
		layer, _ := l.(map[string]any)
		motion, _ := layer["motion"].(map[string]any)
		opacity, _ := motion["opacity"].(map[string]any)
		keys, _ := opacity["keys"].([]any)
		for _, k := range keys {
			if key, ok := k.(map[string]any); ok {
				if pair, ok := key["value"].([]any); ok && len(pair) == 2 {
					key["value"] = pair[0]
				}
			}
		}
	}
	return nil
}

// upgradeFrom0 reads drafts from before the first numbered schema, which gave
// a split its rows and columns as counts.
func upgradeFrom0(root map[string]any) error {
	layouts, _ := root["layouts"].([]any)
	for i, l := range layouts {
		m, ok := l.(map[string]any)
		if !ok {
			continue
		}
		for _, axis := range []string{"rows", "columns"} {
			n, ok := m[axis].(json.Number)
			if !ok {
				continue
			}
			count, err := n.Int64()
			if err != nil || count < 1 || count > 16 {
				return Faults{{fmt.Sprintf("layouts[%d].%s", i, axis), fmt.Sprintf("%s is outside 1 to 16", n)}}
			}
			weights := make([]any, count)
			for k := range weights {
				weights[k] = json.Number("1")
			}
			m[axis] = weights
		}
	}
	return nil
}

func upgrade(root map[string]any) error {
	raw, present := root["ivypocket"]
	n, ok := raw.(json.Number)
	v, err := n.Int64()
	if !present || !ok || err != nil || v < 0 {
		return Faults{{"ivypocket", "is missing: it says which version of the format this is, such as 1"}}
	}
	if v > Schema {
		return Faults{{"ivypocket", fmt.Sprintf("version %d is newer than this program reads (%d); update the program", v, Schema)}}
	}
	for ; v < Schema; v++ {
		if err := upgrades[int(v)](root); err != nil {
			return err
		}
	}
	root["ivypocket"] = json.Number(fmt.Sprint(Schema))
	return nil
}

// upgradeFrom2 reads documents in which the values of layers stood under "rest",
// what their masks did among the layer's own motion and formulas, and a format's
// own values by id and property.
func upgradeFrom2(root map[string]any) error {
	layouts := map[string]bool{}
	for _, l := range objects(root["layouts"]) {
		if id, ok := l["id"].(string); ok {
			layouts[id] = true
		}
	}
	if layers, ok := root["layers"].([]any); ok {
		for i, l := range layers {
			if layer, ok := l.(map[string]any); ok {
				if err := liftRest(layer, fmt.Sprintf("layers[%d]", i)); err != nil {
					return err
				}
			}
		}
	}
	for i, f := range objects(root["formats"]) {
		rest, ok := f["rest"].(map[string]any)
		if !ok {
			continue
		}
		flat := map[string]any{}
		for id, props := range rest {
			m, ok := props.(map[string]any)
			if !ok {
				return Faults{{fmt.Sprintf("formats[%d].rest.%s", i, id), "is " + kindOf(props) + ", not an object"}}
			}
			head := "layers/"
			if layouts[id] {
				head = "layouts/"
			}
			for name, v := range m {
				flat[head+id+"/"+pathFrom2(name)] = v
			}
		}
		f["rest"] = flat
	}
	sheet, _ := root["sheet"].(map[string]any)
	for _, g := range objects(sheet["groups"]) {
		for _, e := range objects(g["entries"]) {
			e["id"] = e["data"]
			for _, t := range objects(e["ties"]) {
				if to, ok := t["to"].(string); ok {
					if head, name, ok := cutLast(to); ok && strings.HasPrefix(to, "layers/") {
						t["to"] = head + "/" + pathFrom2(name)
					}
				}
			}
		}
	}
	return nil
}

func cutLast(s string) (head, tail string, ok bool) {
	i := strings.LastIndexByte(s, '/')
	if i < 0 {
		return s, "", false
	}
	return s[:i], s[i+1:], true
}

// pathFrom2 is a property of schema 2 as paths have it: "masks.iris.feather" is
// "masks/iris/feather".
func pathFrom2(name string) string {
	part := strings.SplitN(name, ".", 3)
	if len(part) < 3 || part[0] != "masks" {
		return name
	}
	return "masks/" + part[1] + "/" + maskName(part[2])
}

// maskName is what a mask's property is called now: those of its outline stand
// under "form", as a shape's do.
func maskName(name string) string {
	head, part, _ := strings.Cut(name, ".")
	if slices.Contains([]string{"inner", "head", "shaft", "round", "path"}, head) {
		name = "form." + head
		if part != "" {
			name += "." + part
		}
	}
	return name
}

// liftRest turns a layer and what is in it.
func liftRest(layer map[string]any, at string) error {
	if rest, ok := layer["rest"].(map[string]any); ok {
		delete(layer, "rest")
		for _, k := range slices.Sorted(maps.Keys(rest)) {
			if _, taken := layer[k]; taken {
				return Faults{{at + ".rest." + k, "is there more than once; keep one"}}
			}
			layer[k] = rest[k]
		}
	} else if layer["rest"] == nil {
		delete(layer, "rest")
	}
	dropEmpty(layer)
	// A zoom of 0 stood for one that was left out.
	if c, ok := layer["content"].(map[string]any); ok {
		if z, ok := c["zoom"].(json.Number); ok && z == "0" {
			delete(c, "zoom")
		}
	}
	liftPath(layer)
	if s, ok := layer["stroke"].(map[string]any); ok {
		if m, ok := s["miter"].(json.Number); ok && m == "0" {
			delete(s, "miter")
		}
	}
	masks := map[string]map[string]any{}
	for _, m := range objects(layer["masks"]) {
		liftPath(m)
		if id, ok := m["id"].(string); ok {
			masks[id] = m
		}
	}
	for _, kind := range []string{"motion", "formulas"} {
		all, _ := layer[kind].(map[string]any)
		for _, name := range slices.Sorted(maps.Keys(all)) {
			part := strings.SplitN(name, ".", 3)
			if len(part) < 3 || part[0] != "masks" || masks[part[1]] == nil {
				continue
			}
			own, _ := masks[part[1]][kind].(map[string]any)
			if own == nil {
				own = map[string]any{}
				masks[part[1]][kind] = own
			}
			own[maskName(part[2])] = all[name]
			delete(all, name)
		}
		if all != nil && len(all) == 0 {
			delete(layer, kind)
		}
	}
	if layers, ok := layer["layers"].([]any); ok {
		for i, l := range layers {
			if inner, ok := l.(map[string]any); ok {
				if err := liftRest(inner, fmt.Sprintf("%s.layers[%d]", at, i)); err != nil {
					return err
				}
			}
		}
	}
	return nil
}

// dropEmpty takes out empty words, which stood for what was left out.
func dropEmpty(m map[string]any) {
	for k, v := range m {
		switch v := v.(type) {
		case string:
			if v == "" && k != "id" && k != "name" {
				delete(m, k)
			}
		case map[string]any:
			if k != "motion" && k != "formulas" {
				dropEmpty(v)
			}
		case []any:
			if k == "masks" {
				for _, o := range objects(v) {
					dropEmpty(o)
				}
			}
		}
	}
}

// liftPath turns a drawn form: its points and whether it is open stood in "path".
func liftPath(of map[string]any) {
	form, _ := of["form"].(map[string]any)
	if path, ok := form["path"].(map[string]any); ok {
		delete(form, "path")
		if p, ok := path["points"]; ok {
			form["path"] = p
		}
		if o, ok := path["open"]; ok {
			form["open"] = o
		}
	}
}

// objects are the objects in a list.
func objects(tree any) []map[string]any {
	list, _ := tree.([]any)
	var out []map[string]any
	for _, t := range list {
		if m, ok := t.(map[string]any); ok {
			out = append(out, m)
		}
	}
	return out
}
