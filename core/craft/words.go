package craft

import (
	"errors"
	"fmt"

	"ivypocket/core/edit"
	"ivypocket/core/scheme"
	"ivypocket/core/template"
	"ivypocket/core/words"
)

// What is done with words.
func init() {
	register(row{"back", "`layers` (words)", "puts a backing behind words, which grows with them", back})
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
