package sheet_test

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"testing"

	"ivypocket/core/geom"
	"ivypocket/core/internal/sample"
	"ivypocket/core/scheme"
	"ivypocket/core/sheet"
	"ivypocket/core/template"
	"ivypocket/core/timing"
)

func TestEntriesGoAlongTheirTies(t *testing.T) {
	d := sample.Split(t)
	var v sheet.Values
	if err := json.Unmarshal([]byte(`{"entries": {"border": 30, "border-colour": "#112233"}}`), &v); err != nil {
		t.Fatal(err)
	}
	r, err := sheet.Resolve(d, v)
	if err != nil {
		t.Fatal(err)
	}
	if g := r.Doc.Layout("tides").Number(scheme.Gutter); g != 30 {
		t.Errorf("gutter %g, want 30", g)
	}
	if o := r.Doc.Layer("mark").Number(scheme.Opacity); o != 0.8 {
		t.Errorf("opacity %g; 30 of 0 to 60 maps to 0.8 of 1 to 0.6", o)
	}
	if c := r.Doc.Colours[0].Value; c != "#112233" {
		t.Errorf("colour %s", c)
	}
	if d.Layout("tides").Number(scheme.Gutter) != 12 || d.Colours[0].Value != "#e7d3a2" {
		t.Error("resolving changed the template")
	}
	base, err := sheet.Resolve(d, sheet.Values{})
	if err != nil || base.Doc.Layout("tides").Number(scheme.Gutter) != 12 {
		t.Errorf("without values the default holds: %v", err)
	}
}

func TestValuesThatDoNotFitAreRefusedByPlace(t *testing.T) {
	d := sample.Split(t)
	for want, in := range map[string]string{
		"entries.border:":              `{"entries": {"border": 61}}`,
		"entries.border-colour:":       `{"entries": {"border-colour": "red"}}`,
		"entries.flood-tide:":          `{"entries": {"flood-tide": 3}}`,
		"entries.boredom:":             `{"entries": {"boredom": 3}}`,
		"fills.cellar:":                `{"fills": {"cellar": {}}}`,
		"fills.flood.media:":           `{"fills": {"flood": {"media": "../../etc/passwd"}}}`,
		"fills.flood.framing:":         `{"fills": {"flood": {"framing": {"fit": "cover", "focus": [2, 0], "pan": [0, 0], "zoom": 1, "turn": 0}}}}`,
		"frames:":                      `{"frames": -1}`,
		"fills.flood.formats.portrait": `{"fills": {"flood": {"formats": {"portrait": {"fit": "cover", "focus": [0, 0], "pan": [0, 0], "zoom": 1, "turn": 0}}}}}`,
	} {
		var v sheet.Values
		if err := json.Unmarshal([]byte(in), &v); err != nil {
			t.Fatal(err)
		}
		if _, err := sheet.Resolve(d, v); err == nil || !strings.HasPrefix(err.Error(), want) {
			t.Errorf("%s: %v, want a fault at %s", in, err, want)
		}
	}
}

func TestFramingIsTheFormatsOwnElseTheFillsElseThePockets(t *testing.T) {
	d := sample.Split(t)
	shared, own := geom.DefaultFraming(geom.Stretch), geom.DefaultFraming(geom.Original)
	v := sheet.Values{Fills: map[string]sheet.Fill{"flood": {Framing: &shared, Formats: map[string]geom.Framing{"square": own}}}}
	r, err := sheet.Resolve(d, v)
	if err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct {
		pocket, format string
		want           geom.Fit
	}{{"flood", "square", geom.Original}, {"flood", "landscape", geom.Stretch}, {"ebb", "landscape", geom.Cover}, {"logo", "square", geom.Contain}} {
		if got := r.Framing(c.pocket, c.format).Fit; got != c.want {
			t.Errorf("%s in %s: %s, want %s", c.pocket, c.format, got, c.want)
		}
	}
	if f := r.Framing("ebb", "landscape").Focus; f != [2]float64{0.5, 0.3} {
		t.Errorf("the designer's focus is lost: %v", f)
	}
}

func TestHowAClipRunsComesFromTheEditorElseTheTemplate(t *testing.T) {
	d := sample.Split(t)
	p := d.Pocket("ebb")
	p.Play = &timing.Play{Speed: timing.Int(2), After: timing.Loop}
	p.StandIn = &template.StandIn{Media: "sha256:" + strings.Repeat("a", 64), InPoint: 12}
	other := "sha256:" + strings.Repeat("b", 64)
	for name, c := range map[string]struct {
		fill sheet.Fill
		want timing.Play
	}{
		"the stand-in":      {sheet.Fill{}, timing.Play{In: 12, Speed: timing.Int(2), After: timing.Loop}},
		"other media":       {sheet.Fill{Media: other}, timing.Play{Speed: timing.Int(2), After: timing.Loop}},
		"the editor's own":  {sheet.Fill{Media: other, Play: &timing.Play{In: 3}}, timing.Play{In: 3}},
		"set on a stand-in": {sheet.Fill{Play: &timing.Play{After: timing.Bounce}}, timing.Play{After: timing.Bounce}},
	} {
		r := &sheet.Resolved{Doc: d, Values: sheet.Values{Fills: map[string]sheet.Fill{"ebb": c.fill}}}
		if got := r.Play("ebb"); got != c.want {
			t.Errorf("%s: %+v, want %+v", name, got, c.want)
		}
	}
	v := sheet.Values{Fills: map[string]sheet.Fill{"ebb": {Play: &timing.Play{In: -4}}}}
	if err := v.Validate(d); err == nil || !strings.Contains(err.Error(), "fills.ebb.play: in") {
		t.Errorf("got %v", err)
	}
}

// How long a piece may be is what its duration entry says, within what the held spans allow.
func TestADurationHasItsLimits(t *testing.T) {
	lo, hi := 30.0, 500.0
	d := sample.Split(t)
	set := func(fixed bool) {
		d.Sheet.Groups = append(slices.Clone(d.Sheet.Groups), template.Group{ID: "time", Label: "Time", Entries: []template.Entry{
			{ID: "long", Label: "Length", Kind: template.DurationEntry, Min: &lo, Max: &hi, Fixed: fixed}}})
	}
	set(false)
	least, most := d.Sheet.Duration().Lengths(d)
	if most != 500 || least < 30 {
		t.Fatalf("%d to %d", least, most)
	}
	for n, ok := range map[int64]bool{0: true, d.Frames: true, least: true, most: true, least - 1: false, most + 1: false} {
		if err := (sheet.Values{Frames: n}).Validate(d); (err == nil) != ok {
			t.Errorf("%d frames: %v", n, err)
		}
	}
	d = sample.Split(t)
	set(true)
	if err := (sheet.Values{Frames: d.Frames + 10}).Validate(d); err == nil || !strings.Contains(err.Error(), "goes from "+fmt.Sprint(d.Frames)) {
		t.Errorf("a length that is fixed: %v", err)
	}
}

// The next piece like one has what was set, and nothing in its pockets but framings that
// are to be kept for other media.
func TestTheNextPieceLikeOne(t *testing.T) {
	f := geom.DefaultFraming(geom.Contain)
	v := sheet.Values{Entries: map[string]scheme.Value{"border": scheme.One(9)}, Frames: 200, Fills: map[string]sheet.Fill{
		"flood": {Media: "sha256:" + strings.Repeat("a", 64), Name: "A.png", Framing: &f, Keep: true, Play: &timing.Play{In: 4}},
		"ebb":   {Media: "sha256:" + strings.Repeat("b", 64), Framing: &f}}}
	got := v.Unfilled()
	if len(got.Fills) != 1 || got.Fills["flood"].Media != "" || got.Fills["flood"].Name != "" || got.Fills["flood"].Play != nil || got.Fills["flood"].Framing == nil || !got.Fills["flood"].Keep ||
		got.Frames != 200 || got.Entries["border"].Number() != 9 {
		t.Errorf("it is %+v", got)
	}
	if v.Fills["flood"].Media == "" || len(v.Fills) != 2 {
		t.Error("the piece itself was emptied")
	}
}
