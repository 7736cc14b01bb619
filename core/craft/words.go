package craft

import (
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"unicode/utf16"

	"ivypocket/core/edit"
	"ivypocket/core/scheme"
	"ivypocket/core/template"
	"ivypocket/core/words"
)

// What is done with words.
func init() {
	register(row{"back", "`layers` (words)", "puts a backing behind words, which grows with them", back})
	register(row{"highlight", "`layers` (words), `way` (a kind of highlighters), `picks` (the first of the UTF-16 units that are chosen, and the one after the last; none is all of them)",
		"highlights words, which it follows when the wording changes", highlight})
	register(row{"high-line", "`path`: layers/ID/highlights/ID", "lets a highlighter differ on one more of its lines", highLine})
	register(row{"axis", "`layers` (of letters), `way` (four letters, such as wdth)", "lets a variable face stand elsewhere on one of its axes", faceAxis})
	register(row{"tidy", "`layers` (words)", "takes stray blanks, tabs and line ends of other systems out of wordings", tidy})
}

// wordings are the words that are selected.
func (b *bench) wordings() ([]*template.Layer, error) {
	list, err := b.chosen()
	if err != nil {
		return nil, err
	}
	for _, y := range list {
		if y.Kind != scheme.Words {
			return nil, fmt.Errorf("%s is a %s; select words", y.Name, y.Kind.Label)
		}
	}
	return list, nil
}

// back puts a backing behind each of the words, below them.
func back(b *bench, a Act) error {
	list, err := b.wordings()
	if err != nil {
		return err
	}
	var chosen []string
	for _, y := range list {
		name := b.freeName("Backing of " + y.Name)
		id := b.freeID(name)
		size := y.Get(scheme.Wording.Size).Resolved(b.format.Canvas()).Number()
		box := y.Get(scheme.Size).Resolved(b.format.Canvas()).Numbers
		if len(box) != 2 {
			box = []float64{b.format.Canvas().W, b.format.Canvas().H}
		}
		o := object{"id": id, "name": name, "kind": "shape", "fill": b.nextFill(),
			// Where it stays when the words are taken away.
			"size":   b.lengths(box[0], box[1]),
			"behind": object{"of": y.ID, "padding": b.lengths(size*0.2, size*0.4, size*0.2, size*0.4)}}
		if y.Given(scheme.Place) {
			o["place"] = y.Get(scheme.Place)
		}
		if y.Given(scheme.Anchor) {
			o["anchor"] = y.Text(scheme.Anchor)
		}
		into, at := b.parentOf(y.ID)
		if err := b.put(o, into, at); err != nil {
			return err
		}
		chosen = append(chosen, id)
	}
	b.title = "Put a backing behind " + list[0].Name
	b.plan.Chosen = chosen
	return nil
}

// highlight marks words: those that are chosen, or all.
func highlight(b *bench, a Act) error {
	k := scheme.Highlights.Kind(a.Way)
	if k == nil {
		return fmt.Errorf("way: %q is not a kind of highlighters: %s", a.Way, strings.Join(scheme.Highlights.KindNames(), ", "))
	}
	list, err := b.wordings()
	if err != nil {
		return err
	}
	for _, y := range list {
		if len(y.Highlights()) >= scheme.MaxHighlights {
			return fmt.Errorf("%s has %d highlighters already", y.Name, len(y.Highlights()))
		}
		text := y.Text(scheme.Wording.Text)
		from, to := 0, len(utf16.Encode([]rune(text)))
		if len(a.Picks) == 2 {
			from, to = a.Picks[0], a.Picks[1]
		}
		word, count, phrase := words.Place(text, from, to)
		if count == 0 {
			return fmt.Errorf("%s has no words there", y.Name)
		}
		taken := map[string]bool{}
		for _, o := range y.Highlights() {
			taken[o.ID] = true
		}
		part, err := json.Marshal(object{"id": nextID("h", func(id string) bool { return taken[id] }), "kind": k.Name, "phrase": phrase, "word": word, "count": count, "colour": nextInk(y), "thickness": scheme.Suits[k]})
		if err != nil {
			return err
		}
		b.add(edit.DraftOp{Kind: "add", Into: "layers/" + y.ID + "/highlights", At: -1, Part: part})
	}
	b.title = k.Label + " on words of " + list[0].Name
	return nil
}

// inks are the colours of new highlighters, one after another.
var inks = []string{"#e7a13a", "#1e7383", "#b4492b", "#7b3f66"}

func nextInk(y *template.Layer) string { return inks[len(y.Highlights())%len(inks)] }

// highLine adds a line on which a highlighter differs.
func highLine(b *bench, a Act) error {
	seg := strings.Split(a.Path, "/")
	if len(seg) != 4 || seg[0] != "layers" || seg[2] != scheme.Highlights.Plural {
		return fmt.Errorf("path: %q is not layers/ID/highlights/ID", a.Path)
	}
	y := b.doc.Layer(seg[1])
	if y == nil {
		return fmt.Errorf("path: there is no layer %q any more", seg[1])
	}
	at := slices.IndexFunc(y.Highlights(), func(h *template.Node) bool { return h.ID == seg[3] })
	switch {
	case at < 0:
		return fmt.Errorf("path: %s has no highlight %q any more", y.Name, seg[3])
	case b.lockedBy(y.ID) != "":
		return fmt.Errorf("%s is pinned down", b.lockedBy(y.ID))
	}
	h := y.Highlights()[at]
	lines := h.Part(0)
	if len(lines) >= scheme.MaxHighLines {
		return fmt.Errorf("it has %d lines already", len(lines))
	}
	colour := h.Text(scheme.HighColour)
	if len(lines) == 0 { // the first is as it was, so that the second can differ
		part, err := json.Marshal(object{"id": "l1", "colour": colour})
		if err != nil {
			return err
		}
		b.add(edit.DraftOp{Kind: "add", Into: a.Path + "/lines", At: -1, Part: part})
	}
	taken := map[string]bool{"l1": true}
	for _, l := range lines {
		taken[l.ID] = true
	}
	part, err := json.Marshal(object{"id": nextID("l", func(id string) bool { return taken[id] }), "colour": inks[(len(lines)+1)%len(inks)]})
	if err != nil {
		return err
	}
	b.title = fmt.Sprintf("Let line %d of a highlighter differ", max(2, len(lines)+1))
	b.add(edit.DraftOp{Kind: "add", Into: a.Path + "/lines", At: -1, Part: part})
	return nil
}

// faceAxis has letters stand on an axis of their face, where it rests to begin with.
func faceAxis(b *bench, a Act) error {
	list, err := b.chosen()
	if err != nil {
		return err
	}
	for _, y := range list {
		if !y.Can(scheme.Lettered) {
			return fmt.Errorf("%s is a %s; select words or counters", y.Name, y.Kind.Label)
		}
		var of *words.Axis
		if f := b.lib.Face(y.Text(scheme.Wording.Face)); f != nil {
			all := f.Axes()
			if i := slices.IndexFunc(all, func(x words.Axis) bool { return x.Tag == a.Way }); i >= 0 {
				of = &all[i]
			}
		}
		switch {
		case of == nil:
			return fmt.Errorf("way: the face of %s has no axis %q", y.Name, a.Way)
		case slices.ContainsFunc(y.Axes(), func(x *template.Node) bool { return x.Text(scheme.AxisTag) == a.Way }):
			return fmt.Errorf("way: %s stands on %s already", y.Name, of.Name)
		case len(y.Axes()) >= scheme.MaxAxes:
			return fmt.Errorf("%s stands on %d axes already", y.Name, len(y.Axes()))
		}
		taken := map[string]bool{}
		for _, x := range y.Axes() {
			taken[x.ID] = true
		}
		part, err := json.Marshal(object{"id": nextID("a", func(id string) bool { return taken[id] }), "tag": a.Way, "value": of.Rest})
		if err != nil {
			return err
		}
		b.add(edit.DraftOp{Kind: "add", Into: "layers/" + y.ID + "/" + scheme.Axes.Plural, At: -1, Part: part})
		b.title = of.Name + " of the face of " + y.Name
	}
	return nil
}

// tidy cleans wordings.
func tidy(b *bench, _ Act) error {
	list, err := b.wordings()
	if err != nil {
		return err
	}
	n := 0
	for _, y := range list {
		text := y.Text(scheme.Wording.Text)
		if clean := words.Tidy(text); clean != text {
			v := scheme.Says(clean)
			b.add(edit.DraftOp{Kind: "set", Path: "layers/" + y.ID + "/" + scheme.Wording.Text.Name, Value: &v})
			n++
		}
	}
	if n == 0 {
		return errors.New("there is nothing to clean: no stray blanks, tabs or line ends")
	}
	b.title = "Clean the wording of " + list[0].Name
	return nil
}
