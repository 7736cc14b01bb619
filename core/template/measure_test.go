package template

import (
	"strings"
	"testing"

	"ivypocket/core/geom"
	"ivypocket/core/timing"
)

func around(t *testing.T, canvases ...[2]int) *Document {
	t.Helper()
	d := &Document{Purpose: Frame, Rate: timing.Rate{Rat: timing.Int(25)}, Frames: 100}
	for i, c := range canvases {
		d.Formats = append(d.Formats, Format{ID: string(rune('a' + i)), Name: "Format", Width: c[0], Height: c[1]})
	}
	return d
}

func TestAFrameIsMadeToTheMeasureOfItsClip(t *testing.T) {
	fifty := timing.Rate{Rat: timing.Int(50)}
	d := around(t, [2]int{1920, 1080}, [2]int{1080, 1920}, [2]int{1080, 1080})
	for _, c := range []struct {
		size   geom.Size
		format string
		px     [2]int
		canvas geom.Size
	}{
		{geom.Size{W: 1280, H: 720}, "a", [2]int{1280, 720}, geom.Size{W: 1920, H: 1080}},   // the same shape: the template's px
		{geom.Size{W: 3840, H: 2160}, "a", [2]int{3840, 2160}, geom.Size{W: 1920, H: 1080}}, // and more of the picture's
		{geom.Size{W: 1080, H: 1350}, "c", [2]int{1080, 1350}, geom.Size{W: 1080, H: 1350}}, // 4:5 lies nearer to 1:1 than to 9:16
		{geom.Size{W: 720, H: 1280}, "b", [2]int{720, 1280}, geom.Size{W: 1080, H: 1920}},   // upright
		{geom.Size{W: 1998, H: 1080}, "a", [2]int{1998, 1080}, geom.Size{W: 1998, H: 1080}}, // 1.85:1, longer along one side
		{geom.Size{W: 641, H: 481}, "c", [2]int{640, 480}, geom.Size{W: 1440, H: 1080}},     // odd sides, which films can't hold
		{geom.Size{W: 4096, H: 1716}, "a", [2]int{4096, 1716}, geom.Size{W: 2578, H: 1080}}, // 2.39:1
	} {
		m := d.MeasureOf(c.size, fifty)
		if m.Format != c.format || m.Width != c.px[0] || m.Height != c.px[1] || m.Check(d) != nil {
			t.Errorf("%v: %+v, %v", c.size, m, m.Check(d))
			continue
		}
		made := d.Measured(m)
		f := made.Format(c.format)
		if w, h := f.Size(); f.Canvas() != c.canvas || [2]int{w, h} != c.px || made.Seen() != fifty || made.Own() != 200 {
			t.Errorf("%v: canvas %v of %d × %d px", c.size, f.Canvas(), w, h)
		}
		// Made twice, or otherwise, it is as made from the template; and back it is that.
		if made.Measured(m) != made || d.Format(c.format).Canvas() == c.canvas && d.Format(c.format).Px != [2]int{} {
			t.Error("it was measured twice, or the template was changed")
		}
		other := d.MeasureOf(geom.Size{W: 500, H: 400}, d.Rate)
		if a, b := made.Measured(other), d.Measured(other); a.Formats[0].Canvas() != b.Formats[0].Canvas() || a.Formats[2].Canvas() != b.Formats[2].Canvas() || a.MeasureOf(c.size, fifty).Format != m.Format {
			t.Error("one measure stays in another")
		}
		back := made.Measured(nil)
		for i := range back.Formats {
			if w, h := back.Formats[i].Size(); back.Formats[i].Canvas() != d.Formats[i].Canvas() || w != d.Formats[i].Width || h != d.Formats[i].Height {
				t.Errorf("back it is %+v", back.Formats[i])
			}
		}
		if back.Seen() != d.Rate || back.Own() != 100 {
			t.Error("back it keeps the rate")
		}
	}
	for want, m := range map[string]Measure{
		"no format":    {"z", 100, 100, fifty},
		"even sides":   {"a", 101, 100, fifty},
		"8192":         {"a", 9000, 100, fifty},
		"1 to 240":     {"a", 100, 100, timing.Rate{Rat: timing.Int(1000)}},
		"per second":   {"a", 100, 100, timing.Rate{}},
		"1001 parts":   {"a", 100, 100, timing.Rate{Rat: timing.NewRat(1000003, 40009)}},
		"far from the": {"a", 8000, 100, fifty},
	} {
		if err := m.Check(d); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%+v: %v, want %q", m, err, want)
		}
	}
	alone := around(t, [2]int{1920, 1080})
	alone.Purpose = ""
	if err := d.MeasureOf(geom.Size{W: 1280, H: 720}, fifty).Check(alone); err == nil {
		t.Error("a template that stands alone is measured")
	}
}

// Lengths that a designer set, and held spans, are the template's frames; pieces count their
// own.
func TestLengthsOfAMeasuredPiece(t *testing.T) {
	d := around(t, [2]int{1920, 1080})
	d.Spans = []timing.Span{{Kind: timing.Held, From: 0, To: 25}}
	ntsc, _ := timing.ParseRate("29.97")
	made := d.Measured(d.MeasureOf(geom.Size{W: 1280, H: 720}, ntsc))
	// 25 frames at 25 are a second: 29.97 frames, so 30 are needed.
	if lo, hi := made.Lengths(); lo != 30 || hi != MaxFrames {
		t.Errorf("%d to %d", lo, hi)
	}
	if _, err := made.TimeMap(29); err == nil {
		t.Error("29 frames hold a second")
	}
	if m, err := made.TimeMap(30); err != nil || m.Frames != 30 || m.Rate != ntsc {
		t.Errorf("%+v %v", m, err)
	}
	min, max := 50.0, 100.0
	d.Sheet.Groups = []Group{{Entries: []Entry{{ID: "length", Kind: DurationEntry, Min: &min, Max: &max}}}}
	if lo, hi := d.Measured(d.MeasureOf(geom.Size{W: 1280, H: 720}, timing.Rate{Rat: timing.Int(50)})).Lengths(); lo != 100 || hi != 200 {
		t.Errorf("%d to %d", lo, hi)
	}
}
