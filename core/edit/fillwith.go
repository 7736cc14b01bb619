package edit

import (
	"errors"
	"fmt"
	"slices"
	"strings"

	"ivypocket/core/geom"
	"ivypocket/core/template"
	"ivypocket/core/timing"
)

// Given is media that a piece is to be filled with.
type Given struct {
	Hash string
	Name string
	Kind template.MediaKind
	Size geom.Size
	// Clip is set for footage.
	Clip *timing.Clip
}

// Places are the pockets that media goes into, in its order, each into the first that is
// free and takes it: the clip of a frame, A and B of a transition, then what the sheet asks
// for, as it stands there. nil is that some of it has no place.
func Places(d *template.Document, media []Given) []*template.Pocket {
	var free []*template.Pocket
	for _, role := range template.Roles(d.Purpose) {
		for i := range d.Pockets {
			if d.Pockets[i].Role == role && d.Sheet.Asks(d.Pockets[i].ID) {
				free = append(free, &d.Pockets[i])
			}
		}
	}
	for _, e := range d.Sheet.Entries() {
		if p := d.Pocket(e.Pocket); p != nil && !e.Fixed && !slices.Contains(free, p) {
			free = append(free, p)
		}
	}
	var out []*template.Pocket
	for _, m := range media {
		i := slices.IndexFunc(free, func(p *template.Pocket) bool { return p.Takes(m.Kind) })
		if i < 0 {
			return nil
		}
		out = append(out, free[i])
		free = slices.Delete(free, i, i+1)
	}
	return out
}

// MeasureOf is the change by which a piece of a template that is put around a clip takes
// its canvas, rate and length from one; a picture gives its canvas alone.
func MeasureOf(d *template.Document, m Given) Op {
	op := Op{Kind: "measure", Measure: d.MeasureOf(m.Size, d.Rate)}
	if c := m.Clip; c != nil {
		r := c.Rate
		if c.Starts != nil || r.D > timing.MaxParts {
			r = r.Usual() // frames at uneven times have no rate of their own
		}
		op.Measure.Rate = r
		op.Frames = max(1, int64(c.Seconds().Float()*r.Float()+1e-6))
	}
	return op
}

// FillWith is the one change that fills a piece with media; a template that is put around a
// clip is made to its measure.
func FillWith(d *template.Document, media []Given) (Op, error) {
	places := Places(d, media)
	if len(media) == 0 || places == nil {
		return Op{}, fmt.Errorf("%s has no free pocket for all of it; choose less, or another template", d.Name)
	}
	var names []string
	op := Op{Kind: "batch"}
	for i, m := range media {
		op.Ops = append(op.Ops, Op{Kind: "fill", Pocket: places[i].ID, Media: m.Hash})
		names = append(names, m.Name)
		if d.Purpose == template.Frame && places[i].Role == template.RoleClip {
			made := MeasureOf(d, m)
			if err := made.Measure.Check(d); err != nil {
				return Op{}, errors.Join(fmt.Errorf("%s does not fit", m.Name), err)
			}
			op.Ops = append(op.Ops, made)
		}
	}
	op.Name = "Fill with " + strings.Join(names, ", ")
	if len(op.Name) > MaxName {
		op.Name = fmt.Sprintf("Fill with %d media", len(media))
	}
	return op, nil
}
