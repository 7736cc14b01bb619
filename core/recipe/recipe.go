// Package recipe is the room for layers that are built from a few numbers: splits,
// montages, cards, reveals, passing panels. A recipe knows canvases, a rate and a
// length, and yields parts of a document as they are written there. It reads no
// document; whoever puts the parts in sees to that. Every recipe is one row of a table
// and stands in a file of its own.
package recipe

import (
	"encoding/json"
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"

	"ivypocket/core/geom"
	"ivypocket/core/timing"
)

// Object is a thing as a document writes it.
type Object = map[string]any

// Number is one of the numbers that a recipe asks for.
type Number struct {
	Name  string `json:"name"`
	Label string `json:"label"`
	Unit  string `json:"unit" doc:"frames, %, or nothing"`
	About string `json:"about"`
	// A number with words is the place of one of them, from 0.
	Words   []string `json:"words"`
	Least   float64  `json:"least"`
	Most    float64  `json:"most"`
	Default float64  `json:"default"`
}

// Recipe is a row of the table.
type Recipe struct {
	Kind    string   `json:"kind"`
	Label   string   `json:"label"`
	About   string   `json:"about"`
	Numbers []Number `json:"numbers"`

	build func(k *Kitchen)
}

// Base is what parts are built for.
type Base struct {
	// ID is what all ids of parts begin with.
	ID      string
	Formats []Canvas
	Rate    timing.Rate
	Frames  int64
}

// Canvas is a format by its id.
type Canvas struct {
	ID   string
	Size geom.Size
}

// Parts are what a recipe yields, in the order in which they lie.
type Parts struct {
	Pockets, Layouts, Layers []Object
	// Rest are the values that formats have of their own, by their ids and by paths.
	Rest map[string]map[string]any
}

// table holds all recipes, by kind. Files put their rows in.
var table = map[string]*Recipe{}

func register(r Recipe) {
	Limit(r.Numbers)
	table[r.Kind] = &r
}

// Limit gives numbers that are words the limits that these have.
func Limit(asked []Number) {
	for i := range asked {
		if n := &asked[i]; n.Words != nil {
			n.Most = float64(len(n.Words) - 1)
		} else {
			n.Words = []string{}
		}
	}
}

// Kinds lists the kinds of recipes.
func Kinds() []string { return slices.Sorted(maps.Keys(table)) }

// All lists the recipes, by kind.
func All() []*Recipe {
	out := make([]*Recipe, 0, len(table))
	for _, kind := range Kinds() {
		out = append(out, table[kind])
	}
	return out
}

// Find is the recipe of a kind, or nil.
func Find(kind string) *Recipe { return table[kind] }

// Whole are all numbers of the recipe: those that are given, else its own. The error
// names one that it does not ask for, or that is outside its limits.
func (r *Recipe) Whole(given map[string]float64) (map[string]float64, error) {
	return Whole(r.Numbers, "the recipe "+r.Label, given)
}

// Whole are all numbers that something asks for: those that are given, else its own. The error names one that it does not
// ask for, or that is outside its limits.
func Whole(asked []Number, of string, given map[string]float64) (map[string]float64, error) {
	out := map[string]float64{}
	for _, n := range asked {
		v, ok := given[n.Name]
		if !ok {
			v = n.Default
		}
		if n.Unit != "%" && n.Unit != "°" {
			v = math.Round(v)
		}
		if !(v >= n.Least && v <= n.Most) {
			return nil, fmt.Errorf("%s: %g is outside %g to %g", n.Label, v, n.Least, n.Most)
		}
		out[n.Name] = v
	}
	for _, name := range slices.Sorted(maps.Keys(given)) {
		if _, ok := out[name]; !ok {
			return nil, fmt.Errorf("numbers: %s asks for no %q", of, name)
		}
	}
	return out, nil
}

// Build makes the parts. Equal numbers make equal parts.
func (r *Recipe) Build(base Base, given map[string]float64) (Parts, error) {
	numbers, err := r.Whole(given)
	if err != nil {
		return Parts{}, err
	}
	if len(base.Formats) == 0 || base.Frames < 1 {
		return Parts{}, fmt.Errorf("a recipe needs a canvas and a length")
	}
	k := &Kitchen{Base: base, numbers: numbers, Parts: Parts{Rest: map[string]map[string]any{}}}
	r.build(k)
	return k.Parts.written()
}

// written are the parts as JSON has them, so that equal ones compare as equal.
func (p Parts) written() (Parts, error) {
	var out Parts
	b, err := json.Marshal(p)
	if err == nil {
		err = json.Unmarshal(b, &out)
	}
	return out, err
}

// Kitchen is where a recipe is made.
type Kitchen struct {
	Base
	Parts
	numbers map[string]float64
}

func (k *Kitchen) n(name string) float64 { return k.numbers[name] }
func (k *Kitchen) i(name string) int     { return int(k.numbers[name]) }

// id is an id of the recipe's own, such as "montage-picture-2".
func (k *Kitchen) id(parts ...any) string {
	s := k.ID
	for _, p := range parts {
		s += "-" + fmt.Sprint(p)
	}
	return s
}

// share is a length as a share of the canvas' shorter side, from percent.
func share(percent float64) string { return fmt.Sprintf("%gvmin", round(percent)) }

func round(v float64) float64 { return math.Round(v*1000) / 1000 }

// pocket adds a pocket and returns its id.
func (k *Kitchen) pocket(name string, kinds ...string) string {
	id := k.id("pocket", strings.ToLower(strings.ReplaceAll(name, " ", "-")))
	if len(kinds) == 0 {
		kinds = []string{"picture", "footage"}
	}
	k.Pockets = append(k.Pockets, Object{"id": id, "name": name, "kinds": kinds})
	return id
}

// add puts a layer on top of the others.
func (k *Kitchen) add(y Object) { k.Layers = append(k.Layers, y) }

// each gives a value its own in each format where it differs from that of the first;
// that one is returned, to be written for all.
func (k *Kitchen) each(path string, of func(c Canvas) any) any {
	first := of(k.Formats[0])
	for _, c := range k.Formats[1:] {
		if v := of(c); fmt.Sprint(v) != fmt.Sprint(first) {
			if k.Rest[c.ID] == nil {
				k.Rest[c.ID] = map[string]any{}
			}
			k.Rest[c.ID][path] = v
		}
	}
	return first
}

// key is one key of a motion, at a frame.
func key(at float64, value any, ease ...float64) Object {
	o := Object{"at": math.Round(at), "value": value}
	if len(ease) == 4 {
		o["ease"] = ease
	}
	return o
}

// keys are a motion. A key that does not lie behind the one before it takes its place.
func keys(list ...Object) Object {
	var out []Object
	for _, o := range list {
		for len(out) > 0 && out[len(out)-1]["at"].(float64) >= o["at"].(float64) {
			out = out[:len(out)-1]
		}
		out = append(out, o)
	}
	return Object{"keys": out}
}

// Curves of CSS Easing Functions Level 2, from memory of common practice: out of a fast
// start, into a stop, and beyond the goal and back.
var (
	settle = []float64{0.16, 1, 0.3, 1}
	leave  = []float64{0.7, 0, 0.84, 0}
	beyond = []float64{0.34, 1.4, 0.64, 1}
)

// A tailor's cloth: colours that recipes use until somebody chooses others.
const (
	cloth  = "#c9b88c"
	dark   = "#22302a"
	accent = "#2e6b4e"
	light  = "#f5f2ea"
)
