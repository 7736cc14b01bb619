package edit

import (
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"

	"ivypocket/core/geom"
	"ivypocket/core/scheme"
	"ivypocket/core/sheet"
	"ivypocket/core/template"
)

// Releases yields the releases of a piece's template, by their numbers.
type Releases func(number int) (*template.Document, error)

// Takes reports whether a pocket takes media, by its hash.
type Takes func(hash string, p *template.Pocket) bool

// Line is what becomes of one thing that a sheet asks for, when a piece goes from one
// release to another: the entry, what it is called in the release that has it (the new
// one, where both do), and what there is to say, for people.
type Line struct {
	Entry string
	Label string
	Says  string
}

// Moved tells what a move to another release means for the values of a piece.
type Moved struct {
	Kept []Line // hold on
	Lost []Line // are put aside, and come back in a release that asks for them
	Back []Line // had been put aside by an earlier move
	New  []Line // are asked for by this release and were not by the one before
}

// Move takes a piece to another release of its template. Values that the release does
// not take are put aside in the piece; those that were put aside before and that it
// takes are in their place again, so that there and back nothing is lost.
func Move(of Releases, p Piece, to int, takes Takes) (Piece, []Change, Moved, error) {
	var moved Moved
	if to == p.Release {
		return p, nil, moved, nil
	}
	from, err := of(p.Release)
	if err != nil {
		return p, nil, moved, err
	}
	doc, err := of(to)
	if err != nil {
		return p, nil, moved, err
	}
	m := fitted(from, doc, p, takes)
	m.next.Release = to
	for _, e := range doc.Sheet.Entries() {
		if from.Sheet.Entry(e.ID) == nil && !e.Fixed {
			m.moved.New = append(m.moved.New, Line{e.ID, e.Label, ""})
		}
	}
	if err := m.next.Values.Validate(doc); err != nil {
		return p, nil, moved, err
	}
	changes, err := diff(p, m.next)
	return m.next, changes, m.moved, err
}

// Fit is a piece of a document that changed under it, as a draft does: values that it does
// not take go aside, and those aside that it takes come back.
func Fit(d *template.Document, p Piece) Piece {
	return fitted(d, d, p, func(string, *template.Pocket) bool { return true }).next
}

// fitted places all values of a piece, in the document or aside.
func fitted(from, to *template.Document, p Piece, takes Takes) *mover {
	m := &mover{from: from, to: to, takes: takes, was: p, next: Piece{Name: p.Name, Release: p.Release, Values: sheet.Values{}.Clone()}, aside: sheet.Values{}.Clone()}
	m.fills()
	m.entries()
	m.measure()
	m.length()
	if !m.aside.Empty() {
		m.next.Aside = &m.aside
	}
	return m
}

type mover struct {
	from, to  *template.Document
	takes     Takes
	was, next Piece
	aside     sheet.Values
	moved     Moved
}

// tell notes what became of a value: back says that it had been put aside.
func (m *mover) tell(e *template.Entry, says string, back bool) {
	line := Line{e.ID, e.Label, says}
	if old := m.from.Sheet.Entry(e.ID); old != nil && old.Label != e.Label {
		line.Says = strings.TrimPrefix(says+", was called "+old.Label, ", ")
	}
	if back {
		m.moved.Back = append(m.moved.Back, line)
	} else {
		m.moved.Kept = append(m.moved.Kept, line)
	}
}

// lose notes what a release does not take; what was aside already is not told again.
func (m *mover) lose(id, label, why string, back bool) {
	if !back {
		m.moved.Lost = append(m.moved.Lost, Line{id, label, why})
	}
}

// before are the values to be placed: those that hold, and those put aside that nothing
// has taken the place of.
func before[V any](now, aside map[string]V) map[string]V {
	all := maps.Clone(aside)
	if all == nil {
		all = map[string]V{}
	}
	maps.Copy(all, now)
	return all
}

func (m *mover) put() sheet.Values {
	if m.was.Aside == nil {
		return sheet.Values{}
	}
	return *m.was.Aside
}

func (m *mover) entries() {
	now, aside := m.was.Values.Entries, m.put().Entries
	all := before(now, aside)
	for _, id := range slices.Sorted(maps.Keys(all)) {
		_, held := now[id]
		if e, why := m.entry(id, all[id]); why == "" {
			m.next.Values.Entries[id] = all[id]
			m.tell(e, e.Says(all[id]), !held)
		} else {
			m.aside.Entries[id] = all[id]
			label := id
			if old := m.from.Sheet.Entry(id); old != nil {
				label = old.Label
			}
			m.lose(id, label, why, !held)
		}
	}
}

// entry is the entry that takes a value, or why there is none.
func (m *mover) entry(id string, v scheme.Value) (*template.Entry, string) {
	e := m.to.Sheet.Entry(id)
	switch {
	case e == nil:
		return nil, "the sheet no longer asks for it"
	case e.Fixed:
		return nil, "it is fixed for good now"
	}
	if err := e.Check(v); err != nil {
		return nil, err.Error()
	}
	return e, ""
}

func (m *mover) fills() {
	now, aside := m.was.Values.Fills, m.put().Fills
	all := before(now, aside)
	for _, id := range slices.Sorted(maps.Keys(all)) {
		f := all[id]
		_, held := now[id]
		if held {
			// Framings of formats that had gone come back to what lies there now.
			f.Formats = before(f.Formats, aside[id].Formats)
		}
		e, why := m.pocket(id, f)
		if why != "" {
			m.aside.Fills[id] = f
			m.lose(id, pocketName(m.from, id), why, !held)
			continue
		}
		gone := map[string]geom.Framing{}
		here := map[string]geom.Framing{}
		for format, fr := range f.Formats {
			if m.to.Format(format) == nil {
				gone[format] = fr
			} else {
				here[format] = fr
			}
		}
		if len(gone) > 0 {
			m.aside.Fills[id] = sheet.Fill{Formats: gone}
			for _, format := range slices.Sorted(maps.Keys(gone)) {
				if _, before := aside[id].Formats[format]; !before {
					name := format
					if old := m.from.Format(format); old != nil {
						name = old.Name
					}
					m.lose(e.ID, e.Label, "its framing in "+name+": there is no such format", false)
				}
			}
		}
		f.Formats = here
		if f.Empty() {
			continue
		}
		m.next.Values.Fills[id] = f
		m.tell(e, f.Name, !held)
	}
}

// pocket is the entry by which a fill is taken, or why it is not.
func (m *mover) pocket(id string, f sheet.Fill) (*template.Entry, string) {
	p := m.to.Pocket(id)
	switch {
	case p == nil:
		return nil, "there is no such pocket"
	case !m.to.Sheet.Asks(id):
		return nil, "the sheet no longer asks for it"
	case f.Media != "" && !m.takes(f.Media, p):
		return nil, "the pocket takes no media of this kind"
	}
	return m.to.Sheet.Fills(id), ""
}

// measure keeps what a piece has of its clip where the release is still put around one.
func (m *mover) measure() {
	of := m.was.Values.Measure
	if of == nil {
		of = m.put().Measure
	}
	if of == nil {
		return
	}
	if err := of.Check(m.to); err != nil {
		m.aside.Measure = of
		m.lose("", "The clip's measure", err.Error(), m.was.Values.Measure == nil)
		return
	}
	m.next.Values.Measure = of
	m.to = m.to.Measured(of)
}

func (m *mover) length() {
	n, held := m.was.Values.Frames, m.was.Values.Frames != 0
	if !held {
		n = m.put().Frames
	}
	if n == 0 {
		return
	}
	why := "the sheet no longer asks for it"
	e := m.to.Sheet.Duration()
	if m.next.Values.Measure != nil && (e == nil || e.Fixed) { // the length is the clip's, too
		if lo, hi := m.to.Lengths(); n >= lo && n <= hi {
			m.next.Values.Frames = n
			return
		}
	}
	if e != nil && !e.Fixed {
		err := sheet.Values{Frames: n}.Validate(m.to)
		if err == nil {
			m.next.Values.Frames = n
			m.tell(e, fmt.Sprintf("%d frames", n), !held)
			return
		}
		var faults template.Faults
		if why = err.Error(); errors.As(err, &faults) {
			why = faults[0].What
		}
	}
	m.aside.Frames = n
	label := "Duration"
	if old := m.from.Sheet.Duration(); old != nil {
		label = old.Label
	}
	m.lose("", label, why, !held)
}
