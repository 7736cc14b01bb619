package scene_test

import (
	"bytes"
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"ivypocket/core/raster"
	"ivypocket/core/scene"
)

// heap is layers that cover one another, most of them opaque.
func heap(rng *rand.Rand) string {
	var one func(id string, depth int) string
	one = func(id string, depth int) string {
		head := fmt.Sprintf(`"id": %q, "name": "N", "place": [%g, %g], "size": [%d, %d]`, id, rng.Float64()*160-80, rng.Float64()*90-45, 60+rng.IntN(200), 40+rng.IntN(150))
		if rng.IntN(3) == 0 {
			head += fmt.Sprintf(`, "turn": %d`, rng.IntN(90))
		}
		switch rng.IntN(12) {
		case 0:
			head += `, "opacity": 0.5`
		case 1:
			head += `, "blend": "multiply"`
		case 2:
			head += `, "matte": {"layer": "matte", "of": "alpha"}`
		case 3:
			head += `, "masks": [{"id": "m", "form": {"kind": "ellipse"}, "feather": 9}]`
		case 4:
			head += `, "treatments": [{"id": "s", "kind": "shadow", "radius": 3, "offset": [4, 4]}]`
		case 5:
			head += `, "motionBlur": {"samples": 3, "shutter": 180}, "motion": {"place": {"unit": "canvas", "keys": [{"at": 0, "value": [0, 0]}, {"at": 20, "value": [0.3, 0.1]}]}}`
		}
		switch rng.IntN(7) {
		case 0:
			return fmt.Sprintf(`{%s, "kind": "view", "pocket": "p", "radius": 12}`, head)
		case 1:
			return fmt.Sprintf(`{%s, "kind": "shape", "gradient": {"kind": "conic", "from": [0.5, 0.5], "to": [1, 0.5], "stops": [{"at": 0, "colour": "#ffcc00"}, {"at": 1, "colour": "#1e7383%02x"}]}}`, head, []int{255, 64}[rng.IntN(2)])
		case 2:
			if depth > 0 {
				return fmt.Sprintf(`{%s, "kind": "group", "isolated": %v, "layers": [%s, %s]}`, head, rng.IntN(3) == 0, one(id+"a", depth-1), one(id+"b", depth-1))
			}
		case 3:
			return fmt.Sprintf(`{%s, "kind": "shape", "form": {"kind": "ellipse"}, "fill": "#%06x%02x"}`, head, rng.Uint32()&0xffffff, []int{255, 255, 100}[rng.IntN(3)])
		case 4:
			return fmt.Sprintf(`{%s, "kind": "shape", "form": {"kind": "star", "sides": 6}, "fill": "#%06x", "stroke": {"colour": "#2e6b4e", "width": 5}}`, head, rng.Uint32()&0xffffff)
		}
		return fmt.Sprintf(`{%s, "kind": "shape", "fill": "#%06x"}`, head, rng.Uint32()&0xffffff)
	}
	out := []string{`{"id": "matte", "name": "M", "kind": "shape", "hidden": true, "size": [150, 150], "fill": "#000000", "form": {"kind": "ellipse"}}`}
	for i := range 3 + rng.IntN(7) {
		out = append(out, one(fmt.Sprintf("y%d", i), 2))
	}
	if rng.IntN(3) == 0 {
		out = append(out, `{"id": "matte-of-all", "name": "G", "kind": "group", "hidden": true, "layers": [`+one("z", 1)+`]}`, `{"id": "cut", "name": "C", "kind": "ground", "fill": "#445566", "matte": {"layer": "matte-of-all", "of": "luma"}}`)
	}
	return strings.Join(out, ",\n")
}

// What opaque items hide is left out, and the bits are those of painting all of it.
func TestLeavingOutWhatIsHiddenChangesNothing(t *testing.T) {
	const more = `"pockets": [{"id": "p", "name": "P", "kinds": ["picture"]}],`
	some, all := scene.NewPainter(scene.NewPictures(source, 64<<20)), scene.NewPainter(scene.NewPictures(source, 64<<20))
	defer some.Close()
	defer all.Close()
	all.PaintAll()
	for seed := range uint64(150) {
		s := made(t, 240, 150, more, heap(rand.New(rand.NewPCG(seed, 9))), fills("p", []string{"c", "a"}[seed%2]))
		var a, b raster.Surface
		for _, frame := range []int64{0, 1, 1, 1, 40} {
			l := at(s, frame, 240, 150)
			if err := some.Paint(t.Context(), l, &a); err != nil {
				t.Fatal(err)
			}
			if err := all.Paint(t.Context(), l, &b); err != nil {
				t.Fatal(err)
			}
			if !bytes.Equal(a.Pix, b.Pix) {
				t.Fatalf("seed %d, frame %d: what is hidden is to be seen", seed, frame)
			}
		}
	}
}
