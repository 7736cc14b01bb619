package recipe

import (
	"fmt"
	"math"
	"reflect"
	"strings"
	"testing"

	"ivypocket/core/geom"
	"ivypocket/core/timing"
)

var canvases = [][]Canvas{
	{{"wide", geom.Size{W: 1920, H: 1080}}},
	{{"wide", geom.Size{W: 1920, H: 1080}}, {"tall", geom.Size{W: 1080, H: 1920}}},
	{{"square", geom.Size{W: 1080, H: 1080}}, {"wide", geom.Size{W: 1280, H: 720}}, {"tall", geom.Size{W: 1080, H: 1350}}},
}

func built(t *testing.T, kind string, formats []Canvas, frames int64, numbers map[string]float64) Parts {
	t.Helper()
	p, err := Find(kind).Build(Base{ID: "it", Formats: formats, Rate: timing.Rate{Rat: timing.Int(25)}, Frames: frames}, numbers)
	if err != nil {
		t.Fatalf("%s of %v: %v", kind, numbers, err)
	}
	return p
}

// Every id begins with the recipe's own, no two are alike, and equal numbers make equal
// parts.
func TestIDsAreOfTheRecipeAndPartsOfTheNumbers(t *testing.T) {
	for _, r := range All() {
		for _, formats := range canvases {
			for _, frames := range []int64{1, 2, 10, 250} {
				for end := range 3 {
					numbers := map[string]float64{}
					for _, n := range r.Numbers {
						numbers[n.Name] = [...]float64{n.Least, n.Default, n.Most}[end]
					}
					what := fmt.Sprintf("%s of %d frames, %v", r.Kind, frames, numbers)
					p := built(t, r.Kind, formats, frames, numbers)
					if !reflect.DeepEqual(p, built(t, r.Kind, formats, frames, numbers)) {
						t.Errorf("%s: two are not alike", what)
					}
					seen := map[string]bool{}
					var walk func(list []Object)
					walk = func(list []Object) {
						for _, y := range list {
							id := y["id"].(string)
							if !strings.HasPrefix(id, "it-") || seen[id] {
								t.Errorf("%s: the id %s", what, id)
							}
							seen[id] = true
							keysInOrder(t, what, y, frames)
							inner, _ := y["layers"].([]any)
							for _, in := range inner {
								walk([]Object{in.(Object)})
							}
						}
					}
					walk(p.Pockets)
					walk(p.Layouts)
					walk(p.Layers)
					for f, rest := range p.Rest {
						for at := range rest {
							if id := strings.Split(at, "/")[1]; !seen[id] {
								t.Errorf("%s: %s says something of %s", what, f, at)
							}
						}
					}
				}
			}
		}
	}
}

func keysInOrder(t *testing.T, what string, y Object, frames int64) {
	motion, _ := y["motion"].(Object)
	for name, m := range motion {
		last := -1.0
		for _, k := range m.(Object)["keys"].([]any) {
			at := k.(Object)["at"].(float64)
			if at <= last || at != math.Trunc(at) || at < 0 || at > float64(frames) {
				t.Errorf("%s: a key of %s of %v at %g after %g", what, name, y["id"], at, last)
			}
			last = at
		}
	}
}

// Numbers outside their limits, and ones that nobody asks for, are refused by name.
func TestNumbersOutsideTheirLimitsAreRefused(t *testing.T) {
	for _, r := range All() {
		for _, n := range r.Numbers {
			for _, v := range []float64{n.Least - 1, n.Most + 1, math.NaN(), math.Inf(1)} {
				if _, err := r.Whole(map[string]float64{n.Name: v}); err == nil || !strings.HasPrefix(err.Error(), n.Label) {
					t.Errorf("%s: %s of %g gives %v", r.Kind, n.Name, v, err)
				}
			}
		}
		if _, err := r.Whole(map[string]float64{"salt": 1}); err == nil || !strings.Contains(err.Error(), "salt") {
			t.Errorf("%s with salt gives %v", r.Kind, err)
		}
		all, err := r.Whole(nil)
		if err != nil || len(all) != len(r.Numbers) {
			t.Errorf("%s: what it is by itself gives %v, %v", r.Kind, all, err)
		}
	}
	if _, err := Find("split").Build(Base{ID: "it", Frames: 10}, nil); err == nil {
		t.Error("a recipe without a canvas is built")
	}
}

// A montage has a picture at every frame, shares the length out evenly, and each but the
// first fades in over the fade's frames (arithmetic).
func TestAMontageCoversEveryFrame(t *testing.T) {
	for _, c := range []struct {
		frames        int64
		pictures, fad float64
	}{{250, 5, 12}, {250, 5, 0}, {100, 7, 250}, {24, 24, 3}, {1800, 24, 25}} {
		p := built(t, "montage", canvases[0], c.frames, map[string]float64{"pictures": c.pictures, "fade": c.fad})
		if len(p.Layers) != int(c.pictures) || len(p.Pockets) != int(c.pictures) {
			t.Fatalf("%v: %d layers and %d pockets", c, len(p.Layers), len(p.Pockets))
		}
		span := func(y Object) (in, out float64) {
			out = float64(c.frames)
			if v, ok := y["in"].(float64); ok {
				in = v
			}
			if v, ok := y["out"].(float64); ok {
				out = v
			}
			return in, out
		}
		for f := range c.frames {
			// What is whole at this frame: seen, and not fading in.
			whole := false
			for _, y := range p.Layers {
				in, out := span(y)
				faded := in
				if m, ok := y["motion"].(Object)["opacity"]; ok {
					list := m.(Object)["keys"].([]any)
					faded = list[len(list)-1].(Object)["at"].(float64)
				}
				whole = whole || float64(f) >= math.Min(faded, float64(c.frames-1)) && float64(f) < out && float64(f) >= in
			}
			if !whole {
				t.Fatalf("%v: nothing is whole at frame %d", c, f)
			}
		}
		each := float64(c.frames) / c.pictures
		for i, y := range p.Layers {
			in, out := span(y)
			mid := (in + out) / 2
			if i > 0 && i < len(p.Layers)-1 && math.Abs(mid-(float64(i)+0.5)*each) > 1 {
				t.Errorf("%v: picture %d is seen around %g, which should be %g", c, i+1, mid, (float64(i)+0.5)*each)
			}
		}
	}
}

// All panels cover their cells while the last has come and the first has not gone, for
// as long as the number says.
func TestPassingPanelsCoverForAsLongAsTheyShould(t *testing.T) {
	for way := range 4 {
		p := built(t, "panels", canvases[0], 250, map[string]float64{"panels": 5, "way": float64(way), "begin": 10, "take": 14, "apart": 3, "stay": 6})
		there, gone := 0.0, math.Inf(1)
		for _, y := range p.Layers {
			list := y["motion"].(Object)["place"].(Object)["keys"].([]any)
			if len(list) != 4 {
				t.Fatalf("%v has %d keys", y["id"], len(list))
			}
			at := func(i int) float64 { return list[i].(Object)["at"].(float64) }
			there, gone = math.Max(there, at(1)), math.Min(gone, at(2))
			from, to := list[0].(Object)["value"].([]any), list[3].(Object)["value"].([]any)
			if from[0].(float64) != -to[0].(float64) || from[1].(float64) != -to[1].(float64) {
				t.Errorf("it comes from %v and goes to %v", from, to)
			}
		}
		if there != 10+4*3+14 || gone-there != 6 {
			t.Errorf("way %d: all cover from %g to %g", way, there, gone)
		}
	}
	// Where the length is short, it is squeezed into it.
	p := built(t, "panels", canvases[0], 20, map[string]float64{"panels": 3, "stay": 100})
	for _, y := range p.Layers {
		list := y["motion"].(Object)["place"].(Object)["keys"].([]any)
		if at := list[len(list)-1].(Object)["at"].(float64); at > 19 {
			t.Errorf("%v goes on until %g", y["id"], at)
		}
	}
}

// A portrait fits the part of the canvas it is given, whichever way that lies.
func TestACardsPortraitFitsItsPart(t *testing.T) {
	for _, formats := range canvases {
		for _, portrait := range []float64{20, 42, 70} {
			p := built(t, "card", formats, 100, map[string]float64{"portrait": portrait, "size": 100, "ring": 0})
			for i, c := range formats {
				size := p.Layers[1]["layers"].([]any)[0].(Object)["size"]
				if own, ok := p.Rest[c.ID]["layers/it-portrait/size"]; ok && i > 0 {
					size = own
				}
				var share float64
				if _, err := fmt.Sscanf(size.([]any)[0].(string), "%gvmin", &share); err != nil {
					t.Fatal(err)
				}
				side := share / 100 * math.Min(c.Size.W, c.Size.H)
				w, h := c.Size.W*portrait/100, c.Size.H
				if c.Size.H > c.Size.W {
					w, h = c.Size.W, c.Size.H*portrait/100
				}
				if math.Abs(side-math.Min(w, h)) > 0.02 {
					t.Errorf("on %gx%g the portrait of %g %% is %g px; it has %g by %g", c.Size.W, c.Size.H, portrait, side, w, h)
				}
			}
		}
	}
}
