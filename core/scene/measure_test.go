package scene_test

import (
	"testing"

	"ivypocket/core/geom"
	"ivypocket/core/internal/sample"
	"ivypocket/core/scene"
	"ivypocket/core/sheet"
	"ivypocket/core/template"
	"ivypocket/core/timing"
)

// Formulas and keys of a piece that was made to a clip's measure read the template's time,
// wherever the clock is: two seconds are two seconds at any rate.
func TestFormulasReadTheClockAtAnyRate(t *testing.T) {
	d := sample.Split(t, `"kind": "view", "pocket": "logo"`, `"kind": "view", "pocket": "logo", "formulas": {"place.x": "time.seconds * 10"}`)
	d.Purpose = template.Frame
	for _, rate := range []string{"25", "50", "29.97", "24"} {
		at, err := timing.ParseRate(rate)
		if err != nil {
			t.Fatal(err)
		}
		made := d.Measured(d.MeasureOf(geom.Size{W: 1280, H: 720}, at))
		s, err := scene.Compile(&sheet.Resolved{Doc: made}, d.Formats[0].ID, sample.Source{})
		if err != nil {
			t.Fatal(err)
		}
		for _, frame := range []int64{0, 24, 60} {
			want := at.Seconds(frame).Float() * 10
			for _, st := range s.Standings(s.Time().At(timing.OutputFrame(frame))) {
				if st.Layer == "mark" && (st.Now.Place[0] < want-1e-9 || st.Now.Place[0] > want+1e-9) {
					t.Errorf("at %s, frame %d: %g, want %g", rate, frame, st.Now.Place[0], want)
				}
			}
		}
	}
}
