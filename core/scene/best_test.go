package scene_test

import (
	"testing"

	"ivypocket/core/geom"
	"ivypocket/core/sheet"
)

// The best size of media is what the largest view has on the canvas at its largest, at
// the zoom of the pocket's framing and of the motion inside it.
func TestTheBestSizeOfMedia(t *testing.T) {
	s := made(t, 160, 90, `"pockets": [{"id": "p", "name": "P", "kinds": ["picture"]}, {"id": "q", "name": "Q", "kinds": ["picture"], "framing": {"zoom": 1.5}},
			{"id": "r", "name": "R", "kinds": ["picture"]}, {"id": "never", "name": "N", "kinds": ["picture"]}],`, `
		{"id": "small", "name": "S", "kind": "view", "pocket": "p", "size": [40, 30]},
		{"id": "grows", "name": "G", "kind": "group", "motion": {"scale": {"keys": [{"at": 0, "value": 1}, {"at": 50, "value": 2}, {"at": 99, "value": 1}]}}, "layers": [
			{"id": "large", "name": "L", "kind": "view", "pocket": "p", "size": [50, 20], "turn": 90}]},
		{"id": "framed", "name": "F", "kind": "view", "pocket": "q", "size": [33, 21]},
		{"id": "inside", "name": "I", "kind": "view", "pocket": "r", "size": [30, 20], "out": 60, "content": {"zoom": 1},
			"motion": {"content.zoom": {"keys": [{"at": 0, "value": 1}, {"at": 90, "value": 4}]}}}`, sheet.Values{})
	got := s.Best()
	for id, want := range map[string]geom.Size{"p": {W: 100, H: 40}, "q": {W: 50, H: 32}, "r": {W: 90, H: 60}} {
		// The view is gone at frame 60, just before it is three times as large.
		if b := got[id]; b.W < want.W-2 || b.W > want.W || b.H < want.H-2 || b.H > want.H {
			t.Errorf("%s is best at %v, not %v", id, b, want)
		}
	}
	if _, ok := got["never"]; ok || len(got) != 3 {
		t.Errorf("told of %v", got)
	}
}

// An empty pocket shows its lining, covered by it, and can be framed as if media of the
// canvas' proportions lay in it; what an editor does in it stops at its limits.
func TestEmptyPocketsAndLimits(t *testing.T) {
	lined := `"pockets": [{"id": "p", "name": "P", "kinds": ["picture"], "framing": {"fit": "contain", "zoom": 0.5}, "lining": {"media": "` + hash("a") + `"}},
		{"id": "q", "name": "Q", "kinds": ["picture"], "limits": {"pan": [0.1, 0], "turn": 0}}],`
	const layers = `{"id": "v", "name": "V", "kind": "view", "pocket": "p", "size": [80, 45]}, {"id": "w", "name": "W", "kind": "view", "pocket": "q", "place": [0, 30], "size": [20, 20]}`
	s := made(t, 160, 90, lined, layers, sheet.Values{})
	st := s.Stands()
	if !st[0].Empty || st[0].Media != (geom.Size{W: 160, H: 90}) || st[0].Framing.Fit != "contain" || st[0].Framing.Zoom != 0.5 || st[0].Map.A != 0.25 {
		t.Errorf("it stands as %+v", st[0])
	}
	card, _, _, _ := painted(t, made(t, 160, 90, `"pockets": [{"id": "p", "name": "P", "kinds": ["picture"]}, {"id": "q", "name": "Q", "kinds": ["picture"]}],`, layers, sheet.Values{}), 0, 160, 90).At(80, 45)
	if r, _, _, a := painted(t, s, 0, 160, 90).At(80, 45); a != 255 || r == card {
		t.Errorf("in its middle is %d, %d; the neutral card has %d", r, a, card)
	}
	f := geom.DefaultFraming(geom.Cover)
	f.Pan, f.Turn = [2]float64{0.5, 0.5}, 30
	v := sheet.Values{Fills: map[string]sheet.Fill{"q": {Media: hash("a"), Framing: &f}}}
	if got := made(t, 160, 90, lined, layers, v).Stands()[1].Framing; got.Pan != [2]float64{0.1, 0} || got.Turn != 0 {
		t.Errorf("it is framed by %+v", got)
	}
}
