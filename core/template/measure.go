package template

import (
	"errors"
	"fmt"
	"math"

	"ivypocket/core/geom"
	"ivypocket/core/scheme"
	"ivypocket/core/timing"
)

// Measure is what a piece of a template that is put around a clip takes from the clip: a
// format is made as large as the clip, and all runs at its rate.
type Measure struct {
	Format string      `json:"format" doc:"The format that is as large as the clip"`
	Width  int         `json:"width" doc:"The clip's, px"`
	Height int         `json:"height"`
	Rate   timing.Rate `json:"rate" doc:"The clip's, frames per second"`
}

// maxStretch is how much longer a side of a canvas may become for its shape alone.
const maxStretch = 4

// Canvas is the canvas of a format with the measure's shape: that of the template, longer
// along one side, so that all that was designed stays on it. Its px are the template's; how
// many a picture has is said by the measure.
func (m *Measure) Canvas(f geom.Size) geom.Size {
	by := math.Min(float64(m.Width)/f.W, float64(m.Height)/f.H)
	return geom.Size{W: math.Round(float64(m.Width) / by), H: math.Round(float64(m.Height) / by)}
}

// MeasureOf is the measure that a document takes from a picture of a size and a rate: of
// the format whose shape is the nearest.
func (d *Document) MeasureOf(size geom.Size, rate timing.Rate) *Measure {
	even := func(v float64) int { return max(2, int(v)/2*2) }
	m := &Measure{Width: even(size.W), Height: even(size.H), Rate: rate}
	best := math.Inf(1)
	for _, f := range d.Formats {
		c := f.designed()
		if off := math.Abs(math.Log(size.W / size.H * c.H / c.W)); off < best {
			best, m.Format = off, f.ID
		}
	}
	return m
}

// Check says what is wrong with a measure for a document.
func (m *Measure) Check(d *Document) error {
	f := d.Format(m.Format)
	switch {
	case d.Purpose != Frame:
		return errors.New("only a template that is put around a clip is made to measure")
	case f == nil:
		return fmt.Errorf("the template has no format %q", m.Format)
	case m.Width < 2 || m.Height < 2 || m.Width > scheme.MaxSide || m.Height > scheme.MaxSide || m.Width%2 != 0 || m.Height%2 != 0:
		return fmt.Errorf("%d × %d px are not even sides of 2 to %d px", m.Width, m.Height, scheme.MaxSide)
	case m.Rate.D > timing.MaxParts:
		return fmt.Errorf("%s frames per second is a fraction of more than %d parts", m.Rate.Label(), timing.MaxParts)
	case m.Rate.N <= 0 || m.Rate.Cmp(timing.Int(1)) < 0 || m.Rate.Cmp(timing.Int(240)) > 0:
		return fmt.Errorf("%s frames per second are not 1 to 240", m.Rate.Label())
	}
	was := f.designed()
	if c := m.Canvas(was); c.W > maxStretch*was.W || c.H > maxStretch*was.H {
		return fmt.Errorf("%d × %d px are too far from the shape of %s, %d × %d", m.Width, m.Height, f.Name, int(was.W), int(was.H))
	}
	return nil
}

// Measured is a document made to a measure that was checked; nil is as it was designed. One
// that has the measure already is as it is.
func (d *Document) Measured(m *Measure) *Document {
	if m == nil && d.made == nil || m != nil && d.made != nil && *m == *d.made {
		return d
	}
	c := d.Clone()
	for i := range c.Formats {
		f := &c.Formats[i]
		if f.was != (geom.Size{}) {
			f.Width, f.Height, f.Px, f.was = int(f.was.W), int(f.was.H), [2]int{}, geom.Size{}
		}
		if m != nil && f.ID == m.Format {
			was := f.Canvas()
			to := m.Canvas(was)
			f.was, f.Px, f.Width, f.Height = was, [2]int{m.Width, m.Height}, int(to.W), int(to.H)
		}
	}
	if c.made = nil; m != nil {
		made := *m
		c.made = &made
	}
	return c
}

// designed is the canvas as the template has it.
func (f Format) designed() geom.Size {
	if f.was != (geom.Size{}) {
		return f.was
	}
	return f.Canvas()
}

// Size is how many px a picture of the format has, if nothing else is wished.
func (f Format) Size() (w, h int) {
	if f.Px != [2]int{} {
		return f.Px[0], f.Px[1]
	}
	return f.Width, f.Height
}

// Seen is the rate at which pieces run: the template's, or that of the clip to whose
// measure it was made.
func (d *Document) Seen() timing.Rate {
	if d.made != nil {
		return d.made.Rate
	}
	return d.Rate
}

// Own is how long pieces are if nothing else is said, in frames of the rate at which they
// run.
func (d *Document) Own() int64 { return d.Rate.Seen(d.Frames, d.Seen()) }
