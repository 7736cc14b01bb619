package craft

import (
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"

	"ivypocket/core/edit"
	"ivypocket/core/scheme"
	"ivypocket/core/template"
	"ivypocket/core/timing"
)

// What the template itself says, and plain changes.
func init() {
	register(
		row{"describe", "`path`: `name`, `category`, `family`, `about`, `purpose`; `name`", "says what the template is called, filed under and for", describe},
		row{"time", "`name` (a rate; empty leaves it), `at` (frames; 0 leaves them), `way`: `keep`, `stretch`", "changes rate and length; instants stay where they are in seconds, or stretch along", duration},
		row{"name", "`layers` (one), `name`", "renames a layer", name},
		row{"cue", "`id` (none is a new one), `name`", "adds a cue at the frame that is looked at, moves it there, or names it", cue},
		row{"cue-remove", "`id`", "removes a cue", removeCue},
		row{"colour", "`id` (none is a new one), `name`, `way` (`#rrggbb`)", "adds a named colour, changes it, or names it", colour},
		row{"colour-remove", "`id`", "removes a named colour; whoever uses it keeps the colour", removeColour},
		row{"batch", "`ops`", "does several as one, each on what the ones before it made", batch},
	)
	for _, p := range [][3]string{{"set", "`path`, `value`", "sets a value"}, {"keys", "`path` of a property, `move`", "sets its keys; no move takes them away"},
		{"put", "`path` of a member or a named part, `part`", "sets it whole; no part takes it away"}, {"add", "`into`, `at`, `part`, which has an id of its own", "adds a thing to a list"},
		{"remove", "`path`", "removes a thing"}, {"move", "`path`, `into`, `at`", "moves a thing to another list or place"}, {"rename", "`path`, `name`", "renames a thing"},
		{"tie", "`entry`, `ties`", "says what an entry drives"}} {
		register(row{p[0], p[1], p[2], plainly})
	}
}

// plainly is an operation of drafts as it is.
func plainly(b *bench, a Act) error {
	if seg := strings.SplitN(a.Path, "/", 3); len(seg) > 1 && seg[0] == "layers" && (a.Kind == "remove" || a.Kind == "move") { // of a motif, through whichever use
		_, seg[1] = cutUse(seg[1])
		a.Path = strings.Join(seg, "/")
	}
	op := edit.DraftOp{Kind: a.Kind, Path: a.Path, Value: a.Value, Move: a.Move, Part: a.Part, Into: a.Into, At: a.At, Name: a.Name,
		Entry: a.Entry, Ties: a.Ties}
	if a.Apart {
		op.Format = a.Format
	}
	b.add(op)
	return nil
}

// batch carries out several acts as one, each on what the ones before it made.
func batch(b *bench, a Act) error {
	if len(a.Ops) == 0 || len(a.Ops) > 500 {
		return errors.New("ops: a batch holds 1 to 500 acts, none of them a batch")
	}
	draft := edit.DraftFrom(b.doc)
	for i, in := range a.Ops {
		if in.Kind == "batch" {
			return fmt.Errorf("ops[%d]: is a batch itself", i)
		}
		if in.Format == "" {
			in.Format = a.Format
		}
		plan, err := planned(draft.Doc, b.lib, in, b.pinned)
		if err == nil && plan.Op.Kind != "" {
			draft, _, err = draft.Do(plan.Op)
		}
		if err != nil {
			return fmt.Errorf("ops[%d].%w", i, err)
		}
		if plan.Op.Kind == "batch" {
			b.ops = append(b.ops, plan.Op.Ops...)
		} else if plan.Op.Kind != "" {
			b.add(plan.Op)
		}
		if b.title = plan.Op.Title; plan.Chosen != nil {
			b.plan.Chosen = plan.Chosen
		}
	}
	if len(a.Ops) > 1 {
		b.title = fmt.Sprintf("%d changes", len(a.Ops))
	}
	return nil
}

// Said is a text for people, without blanks around it. The error says what can't be shown
// on one line.
func Said(text string, needed bool) (string, error) {
	text = strings.TrimSpace(text)
	switch {
	case needed && text == "":
		return "", errors.New("name: is missing")
	case len(text) > edit.MaxName:
		return "", fmt.Errorf("name: has %d bytes; %d are the most", len(text), edit.MaxName)
	case strings.ContainsFunc(text, func(r rune) bool { return r < ' ' || template.Unseen(r) }):
		return "", errors.New("name: has a line end or a character that can't be seen; take it out")
	}
	return text, nil
}

func (b *bench) putText(path, text string) error {
	part, err := json.Marshal(text)
	if text == "" {
		part = nil
	}
	b.add(edit.DraftOp{Kind: "put", Path: path, Part: part})
	return err
}

func describe(b *bench, a Act) error {
	if !slices.Contains([]string{"name", "category", "family", "about", "purpose"}, a.Path) {
		return errors.New("path: is none of name, category, family, about, purpose")
	}
	text, err := Said(a.Name, a.Path == "name")
	if err != nil {
		return err
	}
	b.title = "Set the " + a.Path
	if a.Path == "name" {
		b.title = "Rename the template"
	}
	if a.Path == "purpose" {
		return b.purpose(template.Purpose(text))
	}
	if text == "" && a.Path == "category" {
		b.add(edit.DraftOp{Kind: "put", Path: a.Path, Part: json.RawMessage(`""`)})
		return nil
	}
	return b.putText(a.Path, text)
}

// purpose changes what the template is for. Pockets that have a part already keep it
// where the new purpose knows it; the first others take what is left.
func (b *bench) purpose(p template.Purpose) error {
	b.title = "Change what the template is for"
	roles := slices.Clone(template.Roles(p))
	var free []string
	for _, k := range b.doc.Pockets {
		if i := slices.Index(roles, k.Role); i >= 0 && k.Role != "" {
			roles = slices.Delete(roles, i, i+1)
			continue
		}
		if k.Role != "" {
			b.add(edit.DraftOp{Kind: "put", Path: "pockets/" + k.ID + "/role"})
		}
		if slices.Contains(k.Kinds, template.Footage) {
			free = append(free, k.ID)
		}
	}
	for i, r := range roles {
		if i < len(free) {
			if err := b.putText("pockets/"+free[i]+"/role", string(r)); err != nil {
				return err
			}
		}
	}
	if p == template.StandAlone {
		p = ""
	}
	return b.putText("purpose", string(p))
}

func name(b *bench, a Act) error {
	list, err := b.chosen()
	if err != nil {
		return err
	}
	text, err := Said(a.Name, true)
	if err != nil || text == list[0].Name {
		return err
	}
	b.title = "Rename " + list[0].Name
	return b.putText("layers/"+list[0].ID+"/name", text)
}

// duration changes the rate and the length. Frames are counted anew where the rate
// changes, so that what stands at a second still does; with stretch, all instants go
// along with the length.
func duration(b *bench, a Act) error {
	rate, frames := b.doc.Rate, b.doc.Frames
	if a.Name != "" {
		r, err := timing.ParseRate(a.Name)
		if err != nil {
			return fmt.Errorf("name: %w", err)
		}
		rate = r
	}
	by := rate.Rat.Div(b.doc.Rate.Rat)
	if frames = max(1, timing.Int(frames).Mul(by).Add(timing.NewRat(1, 2)).Floor()); a.At > 0 {
		frames = int64(a.At)
	}
	if frames > template.MaxFrames {
		return fmt.Errorf("at: %d frames are more than %d", frames, int64(template.MaxFrames))
	}
	b.title = "Change the length"
	if rate != b.doc.Rate {
		b.title = "Change the rate"
		part, err := json.Marshal(rate)
		if err != nil {
			return err
		}
		b.add(edit.DraftOp{Kind: "put", Path: "rate", Part: part})
	}
	switch a.Way {
	case "keep", "":
	case "stretch":
		by = timing.NewRat(frames, b.doc.Frames)
	default:
		return errors.New("way: is neither keep nor stretch")
	}
	part, err := json.Marshal(frames)
	if err != nil {
		return err
	}
	if frames != b.doc.Frames {
		b.add(edit.DraftOp{Kind: "put", Path: "frames", Part: part})
	}
	if err := b.instants(by, rate, frames); err != nil || len(b.ops) == 0 {
		return err
	}
	// A thousandth of a frame is the finest there is: keys may fall together.
	if _, _, err := edit.DraftFrom(b.doc).Do(edit.DraftOp{Kind: "batch", Ops: b.ops}); err != nil {
		return fmt.Errorf("made so short, what moves would fall together: %w", err)
	}
	return nil
}

// instants brings every instant of the document over by a factor, and what would lie
// beyond the end to it.
func (b *bench) instants(by timing.Rat, rate timing.Rate, frames int64) error {
	end := timing.Int(frames)
	at := func(t timing.Rat) timing.Rat {
		// To a thousandth of a frame, so that fractions stay small.
		if t = t.Mul(by); t.D > 1000 {
			t = timing.NewRat(t.Mul(timing.Int(1000)).Add(timing.NewRat(1, 2)).Floor(), 1000)
		}
		return t
	}
	one := timing.Int(1)
	set := func(path string, v scheme.Value) { b.add(edit.DraftOp{Kind: "set", Path: path, Value: &v}) }
	long := map[*scheme.Sort]*scheme.Property{scheme.SavedMoves: scheme.MoveLong, scheme.Performances: scheme.PerformedLong}
	b.doc.VisitNodes(func(_, path string, n *template.Node) {
		for _, p := range []*scheme.Property{scheme.In, scheme.Out, scheme.Shift} {
			if t, e := n.Get(p).Time(); n.Sort() == scheme.Layers && n.Given(p) && e == nil {
				to := at(t)
				if to.Cmp(end) > 0 {
					to = end
				}
				if p == scheme.In && to.Cmp(end) >= 0 {
					to = end.Sub(one)
				}
				if to.Cmp(t) != 0 {
					set(path+"/"+p.Name, scheme.Instant(to))
				}
			}
		}
		if n.Sort() == scheme.Performances && n.Given(scheme.PerformedAt) && by.Cmp(one) != 0 {
			set(path+"/"+scheme.PerformedAt.Name, scheme.One(at(template.Begins(n)).Float()))
		}
		if p := long[n.Sort()]; p != nil && n.Given(p) && by.Cmp(one) != 0 {
			set(path+"/"+p.Name, scheme.One(math.Max(1, math.Round(n.Number(p)*by.Float()*1000)/1000)))
		}
		for _, name := range slices.Sorted(maps.Keys(n.Motion)) {
			m := n.Motion[name]
			next := *m
			next.Keys = slices.Clone(m.Keys)
			for i := range next.Keys {
				if next.Keys[i].At.D != 0 {
					next.Keys[i].At = at(next.Keys[i].At)
				}
			}
			if by.Cmp(one) != 0 {
				b.add(edit.DraftOp{Kind: "keys", Path: path + "/" + name, Move: &next})
			}
		}
	})
	for _, c := range b.doc.Cues {
		to := at(c.At)
		if to.Cmp(end) >= 0 {
			to = end.Sub(one)
		}
		if to.Cmp(c.At) != 0 {
			set("cues/"+c.ID+"/at", scheme.Instant(to))
		}
	}
	spans, last := []timing.Span{}, int64(0)
	for _, s := range b.doc.Spans {
		from, to := max(last, at(timing.Int(s.From)).Floor()), min(frames, at(timing.Int(s.To)).Floor())
		if to > from {
			s.From, s.To = from, to
			spans, last = append(spans, s), to
		}
	}
	return b.putSpans(spans, nil, rate)
}

func cue(b *bench, a Act) error {
	frame := scheme.One(float64(min(max(a.Frame, 0), b.doc.Frames-1)))
	if a.Id == "" {
		text, err := Said(a.Name, false)
		if err != nil {
			return err
		}
		if text == "" {
			text = fmt.Sprintf("Cue %d", len(b.doc.Cues)+1)
		}
		part, err := json.Marshal(object{"id": b.freeID(text), "name": text, "at": frame})
		b.title = "Add the cue " + text
		b.add(edit.DraftOp{Kind: "add", Into: "cues", At: -1, Part: part})
		return err
	}
	i := slices.IndexFunc(b.doc.Cues, func(c template.Cue) bool { return c.ID == a.Id })
	if i < 0 {
		return fmt.Errorf("id: there is no cue %q any more", a.Id)
	}
	if a.Name != "" {
		text, err := Said(a.Name, true)
		if err != nil {
			return err
		}
		b.title = "Rename the cue " + b.doc.Cues[i].Name
		return b.putText("cues/"+a.Id+"/name", text)
	}
	b.title = "Move the cue " + b.doc.Cues[i].Name
	b.add(edit.DraftOp{Kind: "set", Path: "cues/" + a.Id + "/at", Value: &frame})
	return nil
}

func removeCue(b *bench, a Act) error {
	i := slices.IndexFunc(b.doc.Cues, func(c template.Cue) bool { return c.ID == a.Id })
	if i < 0 {
		return fmt.Errorf("id: there is no cue %q any more", a.Id)
	}
	b.title = "Remove the cue " + b.doc.Cues[i].Name
	b.forget("cues/" + a.Id)
	for _, e := range b.doc.Sheet.Entries() {
		if e.Cue == a.Id {
			b.add(edit.DraftOp{Kind: "put", Path: "entries/" + e.ID + "/cue"})
		}
	}
	b.add(edit.DraftOp{Kind: "remove", Path: "cues/" + a.Id})
	return nil
}

func colour(b *bench, a Act) error {
	if _, err := scheme.ParseColour(a.Way); a.Way != "" && err != nil {
		return fmt.Errorf("way: %w", err)
	}
	if a.Id == "" {
		text, err := Said(a.Name, true)
		if err != nil {
			return err
		}
		if a.Way == "" {
			return errors.New("way: a new colour needs a value such as #1e7383")
		}
		part, err := json.Marshal(object{"id": b.freeID(text), "name": text, "value": a.Way})
		b.title = "Add the colour " + text
		b.add(edit.DraftOp{Kind: "add", Into: "colours", At: -1, Part: part})
		return err
	}
	i := slices.IndexFunc(b.doc.Colours, func(c template.Colour) bool { return c.ID == a.Id })
	if i < 0 {
		return fmt.Errorf("id: there is no colour %q any more", a.Id)
	}
	b.title = "Change the colour " + b.doc.Colours[i].Name
	if a.Name != "" {
		text, err := Said(a.Name, true)
		if err != nil {
			return err
		}
		return b.putText("colours/"+a.Id+"/name", text)
	}
	v := scheme.Says(a.Way)
	b.add(edit.DraftOp{Kind: "set", Path: "colours/" + a.Id, Value: &v})
	return nil
}

// removeColour removes a named colour; whoever uses it has it as a colour of its own.
func removeColour(b *bench, a Act) error {
	i := slices.IndexFunc(b.doc.Colours, func(c template.Colour) bool { return c.ID == a.Id })
	if i < 0 {
		return fmt.Errorf("id: there is no colour %q any more", a.Id)
	}
	v := scheme.Says(b.doc.Colours[i].Value)
	b.title = "Remove the colour " + b.doc.Colours[i].Name
	b.doc.VisitNodes(func(_, path string, n *template.Node) {
		n.Values(func(p *scheme.Property, old scheme.Value) {
			if id, named := scheme.ColourID(old.Text); p.Type == scheme.Colour && named && id == a.Id {
				b.add(edit.DraftOp{Kind: "set", Path: path + "/" + p.Name, Value: &v})
			}
		})
	})
	goes := func(text string) bool {
		id, named := scheme.ColourID(text)
		return named && id == a.Id
	}
	b.everyMove(func(k *template.Key) bool {
		if !goes(k.Value.Text) {
			return false
		}
		k.Value = v
		return true
	})
	b.doc.VisitAll(func(_ string, y *template.Layer) {
		for _, path := range sorted(y.Own) {
			if goes(y.Own[path].Text) {
				b.add(edit.DraftOp{Kind: "set", Path: "layers/" + y.ID + inUse + strings.TrimPrefix(path, "layers/"), Value: &v})
			}
		}
	})
	for _, f := range b.doc.Formats {
		for _, path := range sorted(f.Rest) {
			if goes(f.Rest[path].Text) {
				b.add(edit.DraftOp{Kind: "set", Path: path, Value: &v, Format: f.ID})
			}
		}
	}
	b.forget("colours/" + a.Id)
	b.add(edit.DraftOp{Kind: "remove", Path: "colours/" + a.Id})
	return nil
}
