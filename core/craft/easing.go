package craft

import (
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"math"
	"slices"

	"ivypocket/core/edit"
	"ivypocket/core/template"
	"ivypocket/core/timing"
)

// A document's own easings: kept by name, and changed in one place for all keys that go by them.
func init() {
	register(
		row{"easing", "`id` of one, or none for a new one; `name`; `value`: four numbers, or `steps`; `keys` that go by it then", "keeps an easing by name, or changes one and all keys that go by it", keepEasing},
		row{"drop-easing", "`id`", "takes an easing out; keys that went by it go on as they do", dropEasing},
	)
}

func keepEasing(b *bench, a Act) error {
	e := template.NamedEasing{}
	if a.Id != "" {
		was := b.doc.Easing(a.Id)
		if was == nil {
			return fmt.Errorf("id: there is no easing %q any more", a.Id)
		}
		e = *was
	}
	if a.Name != "" {
		text, err := Said(a.Name, true)
		if err != nil {
			return err
		}
		e.Name = text
	}
	switch {
	case a.Value != nil && len(a.Value.Numbers) == 4:
		ease := timing.Easing(a.Value.Numbers)
		if err := ease.Validate(); err != nil {
			return fmt.Errorf("value%w", err)
		}
		for i := range ease {
			ease[i] = math.Round(ease[i]*1e4)/1e4 + 0
		}
		if ease[0] == ease[1] && ease[2] == ease[3] {
			return errors.New("value: this is the even way, which needs no name")
		}
		e.Ease, e.Steps = &ease, nil
	case a.Steps != nil:
		if err := a.Steps.Validate(); err != nil {
			return fmt.Errorf("steps%w", err)
		}
		n := *a.Steps
		e.Ease, e.Steps = nil, &n
	case a.Value != nil || a.Id == "":
		return errors.New("value: an easing has four numbers, or steps")
	}
	if e.ID == "" {
		if e.Name == "" {
			return errors.New("name: say what it is called")
		}
		if len(b.doc.Easings) >= template.MaxEasings {
			return fmt.Errorf("there are %d easings; no more are kept", len(b.doc.Easings))
		}
		e.ID = b.freeID(e.Name)
		part, err := json.Marshal(e)
		if err != nil {
			return err
		}
		b.title = "Keep the easing " + e.Name
		b.add(edit.DraftOp{Kind: "add", Into: "easings", At: -1, Part: part})
		return b.nameKeys(a, e)
	}
	was := b.doc.Easing(e.ID)
	b.title = "Change the easing " + was.Name
	if e.Name != was.Name {
		if err := b.putText("easings/"+e.ID+"/name", e.Name); err != nil {
			return err
		}
	}
	if was.Eases(&template.Key{Ease: e.Ease, Steps: e.Steps}) {
		return nil
	}
	put := func(member string, v any) error { return b.putPart("easings/"+e.ID+"/"+member, v) }
	var err error
	if e.Ease != nil {
		err = errors.Join(put("steps", nil), put("ease", e.Ease))
	} else {
		err = errors.Join(put("ease", nil), put("steps", e.Steps))
	}
	if err != nil {
		return err
	}
	b.everyMove(func(k *template.Key) bool {
		if k.Named != e.ID || !was.Eases(k) { // one that came from elsewhere may be called alike
			return false
		}
		k.Ease, k.Steps, k.Hold = e.Ease, e.Steps, false
		return true
	})
	return nil
}

// nameKeys lets picked keys that go as an easing does be named after it.
func (b *bench) nameKeys(a Act, e template.NamedEasing) error {
	if len(a.Keys) == 0 {
		return nil
	}
	list, err := b.picks(a)
	if err != nil {
		return err
	}
	b.doc = b.doc.Clone()
	b.doc.Easings = append(b.doc.Easings, e)
	for _, s := range list {
		s.move.Keys = slices.Clone(s.move.Keys)
		for i := range s.move.Keys {
			if k := &s.move.Keys[i]; s.picked(k.ID) && e.Eases(k) {
				k.Named = e.ID
			}
		}
		if err := b.keep(s); err != nil {
			return err
		}
	}
	return nil
}

func dropEasing(b *bench, a Act) error {
	e := b.doc.Easing(a.Id)
	if e == nil {
		return fmt.Errorf("id: there is no easing %q any more", a.Id)
	}
	b.title = "Take out the easing " + e.Name
	b.everyMove(func(k *template.Key) bool {
		named := k.Named == e.ID
		if named {
			k.Named = ""
		}
		return named
	})
	b.add(edit.DraftOp{Kind: "remove", Path: "easings/" + e.ID})
	return nil
}

// everyMove changes keys of the document, wherever they are; change says whether it changed one.
func (b *bench) everyMove(change func(k *template.Key) bool) {
	b.doc.VisitNodes(func(_, path string, n *template.Node) {
		for _, name := range slices.Sorted(maps.Keys(n.Motion)) {
			next := *n.Motion[name]
			next.Keys = slices.Clone(next.Keys)
			changed := false
			for i := range next.Keys {
				changed = change(&next.Keys[i]) || changed
			}
			if changed {
				b.add(edit.DraftOp{Kind: "keys", Path: path + "/" + name, Move: &next})
			}
		}
	})
}
