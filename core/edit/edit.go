// Package edit is the room for changes: every change to a piece is a named,
// reversible operation. It computes; keeping what it computes is for others.
package edit

import (
	"encoding/json"
	"errors"
	"fmt"
	"reflect"
	"slices"
	"strings"

	"ivypocket/core/geom"
	"ivypocket/core/scheme"
	"ivypocket/core/sheet"
	"ivypocket/core/template"
	"ivypocket/core/timing"
)

// Piece is a release filled by an editor.
type Piece struct {
	Name string `json:"name"`
	// Release is the number of the release that it is of.
	Release int          `json:"-"`
	Values  sheet.Values `json:"values"`
	// Aside are values that the release does not take, from one before it.
	Aside *sheet.Values `json:"aside,omitempty"`
}

// Op is one change. Kind says which of the members it uses:
//
//	fill    Pocket, Media ("" puts the stand-in back), Name (what the file is
//	        called here, if not as in the store); how a clip runs stays,
//	        but other media begins at its first frame and lies as the pocket
//	        has it, unless the framing is to be kept or Value is true
//	frame   Pocket, Framing (null resets), Format ("" frames in all formats
//	        that have no framing of their own), Members
//	keep    Pocket, Value (true or false): whether the pocket's framing is kept
//	        when other media comes in
//	play    Pocket, Play (null resets), Members
//	entry   Entry, Value (null resets to the default)
//	frames  Frames, the length of the piece (0 resets to the template's)
//	measure Measure (null is as the template has it), Frames (0 is the template's), for a
//	        template that is put around a clip
//	name    Name
//	batch   Ops, applied in order as one change, Name (what it is called in the history)
//
// Members names those of a framing or of how a clip runs that are meant; the
// others stay as they are. None named is all.
type Op struct {
	Kind    string            `json:"kind" enum:"fill,frame,keep,play,entry,frames,measure,name,batch"`
	Pocket  string            `json:"pocket,omitempty"`
	Media   string            `json:"media,omitempty"`
	Format  string            `json:"format,omitempty"`
	Framing *geom.Framing     `json:"framing,omitempty"`
	Play    *timing.Play      `json:"play,omitempty"`
	Members []string          `json:"members,omitempty"`
	Entry   string            `json:"entry,omitempty"`
	Value   *scheme.Value     `json:"value,omitempty"`
	Frames  int64             `json:"frames,omitempty"`
	Measure *template.Measure `json:"measure,omitempty"`
	Name    string            `json:"name,omitempty"`
	Ops     []Op              `json:"ops,omitempty"`
}

// Change is what an operation did at one path: enough to undo and redo it.
// A null side means that the path held nothing. A thing that came out of a list, or
// went into one, says which and at which place; one that did both was moved.
type Change struct {
	Path   string          `json:"path"`
	Before json.RawMessage `json:"before"`
	After  json.RawMessage `json:"after"`
	In     string          `json:"in,omitempty"`
	At     int             `json:"at,omitempty"`
	To     string          `json:"to,omitempty"`
	ToAt   int             `json:"toAt,omitempty"`
}

// MaxName bounds the name of a piece, in bytes.
const MaxName = 200

// Apply carries out an operation on a copy of the piece and returns it with
// what changed. An operation that changes nothing returns no changes.
func Apply(d *template.Document, p Piece, op Op) (Piece, []Change, error) {
	next := Piece{Name: p.Name, Release: p.Release, Values: p.Values.Clone(), Aside: p.Aside}
	if err := apply(d, &next, op, 0); err != nil {
		return p, nil, err
	}
	if err := next.Values.Validate(d); err != nil {
		return p, nil, err
	}
	changes, err := diff(p, next)
	return next, changes, err
}

func apply(d *template.Document, p *Piece, op Op, depth int) error {
	v := &p.Values
	switch op.Kind {
	case "fill", "frame", "keep", "play":
		if d.Pocket(op.Pocket) == nil {
			return fmt.Errorf("pocket: the template has no pocket named %q", op.Pocket)
		}
		if !d.Sheet.Asks(op.Pocket) {
			return fmt.Errorf("pocket: the sheet does not ask for what lies in %s; its designer can put it there", pocketName(d, op.Pocket))
		}
		return applyFill(d, v, op)
	case "entry":
		if d.Sheet.Entry(op.Entry) == nil {
			return fmt.Errorf("entry: the sheet has no entry named %q", op.Entry)
		}
		if op.Value == nil {
			delete(v.Entries, op.Entry)
		} else {
			v.Entries[op.Entry] = *op.Value
		}
	case "frames":
		if v.Frames = op.Frames; v.Frames == d.Measured(v.Measure).Own() {
			v.Frames = 0
		}
		if e := d.Sheet.Duration(); v.Frames != 0 && (e == nil || e.Fixed) {
			return errors.New("frames: the sheet does not ask for the duration; its designer can put it there")
		}
	case "measure":
		if op.Measure != nil {
			if err := op.Measure.Check(d); err != nil {
				return fmt.Errorf("measure: %w", err)
			}
		}
		v.Measure = op.Measure
		made := d.Measured(v.Measure)
		lo, hi := made.Lengths()
		if v.Frames = min(max(op.Frames, lo), hi); op.Frames == 0 || v.Frames == made.Own() {
			v.Frames = 0
		}
	case "name":
		name := strings.TrimSpace(op.Name)
		if strings.ContainsFunc(name, func(r rune) bool { return r < ' ' || template.Unseen(r) }) {
			return errors.New("name: has a line end or a character that can't be seen; take it out")
		}
		if name == "" || len(name) > MaxName {
			return fmt.Errorf("name: needs 1 to %d characters", MaxName)
		}
		p.Name = name
	case "batch":
		if depth > 0 || len(op.Ops) == 0 || len(op.Ops) > 500 {
			return errors.New("ops: a batch holds 1 to 500 operations, none of them a batch")
		}
		for i, o := range op.Ops {
			if err := apply(d, p, o, depth+1); err != nil {
				return fmt.Errorf("ops[%d].%w", i, err)
			}
		}
	default:
		return fmt.Errorf("kind: %q is not one of fill, frame, keep, play, entry, frames, measure, name, batch", op.Kind)
	}
	return nil
}

// applyFill carries out an operation on what lies in a pocket.
func applyFill(d *template.Document, v *sheet.Values, op Op) error {
	f := v.Fills[op.Pocket]
	r := sheet.Resolved{Doc: d, Values: *v}
	switch op.Kind {
	case "fill":
		was := r.Media(op.Pocket)
		f.Media, f.Name = op.Media, op.Name
		if op.Media == "" {
			f.Name = ""
		}
		v.Fills[op.Pocket] = f
		if op.Media == "" {
			f.Framing, f.Formats, f.Keep = nil, nil, false
		}
		if r.Media(op.Pocket) == was {
			break
		}
		if f.Play != nil {
			p := *f.Play
			p.In = 0
			if f.Play = &p; p == (timing.Play{}) {
				f.Play = nil
			}
		}
		if !f.Keep && (op.Value == nil || !op.Value.On()) {
			f.Framing, f.Formats = nil, nil
		}
	case "frame":
		fr := op.Framing
		if fr != nil && len(op.Members) > 0 {
			now := r.Framing(op.Pocket, op.Format)
			joined, err := join(now, *fr, op.Members, geom.FramingMembers)
			if err != nil {
				return err
			}
			fr = &joined
		}
		if fr != nil {
			if err := mayFrame(d, op.Pocket, r.Framing(op.Pocket, op.Format), *fr); err != nil {
				return err
			}
			held := r.Held(op.Pocket, *fr)
			held.Fit = fr.Fit // what is left open stays so
			fr = &held
		}
		switch {
		case op.Format == "":
			f.Framing = fr
		case fr == nil:
			delete(f.Formats, op.Format)
		default:
			if f.Formats == nil {
				f.Formats = map[string]geom.Framing{}
			}
			f.Formats[op.Format] = *fr
		}
		if f.Framing == nil && len(f.Formats) == 0 {
			f.Keep = false
		}
	case "keep":
		if op.Value == nil || !op.Value.Truth {
			return errors.New("value: is neither true nor false")
		}
		if f.Keep = op.Value.On(); f.Keep && f.Framing == nil && len(f.Formats) == 0 {
			return errors.New("pocket: has no framing of its own to keep; frame its media first")
		}
	case "play":
		if op.Play != nil && !d.Sheet.MayFrame(op.Pocket, "play") {
			return kept(d, op.Pocket, "how clips run")
		}
		f.Play = op.Play
		if op.Play != nil && len(op.Members) > 0 {
			joined, err := join(r.Play(op.Pocket), *op.Play, op.Members, timing.PlayMembers)
			if err != nil {
				return err
			}
			f.Play = &joined
		}
	}
	setFill(v, op.Pocket, f)
	return nil
}

// mayFrame refuses to change what of a pocket's framing its entry doesn't leave to the
// editor. To set a focus is to take back the pan.
func mayFrame(d *template.Document, pocket string, now, next geom.Framing) error {
	may := func(part string) bool { return d.Sheet.MayFrame(pocket, part) }
	switch {
	case next.Fit != now.Fit && next.Fit != "" && !may("fit"):
		return kept(d, pocket, "the fit")
	case next.Focus != now.Focus && !may("focus"):
		return kept(d, pocket, "the focus")
	case next.Pan != now.Pan && !may("pan") && !(may("focus") && next.Pan == [2]float64{}):
		return kept(d, pocket, "the shift")
	case next.Zoom != now.Zoom && !may("zoom"):
		return kept(d, pocket, "the zoom")
	case next.Turn != now.Turn && !may("turn"):
		return kept(d, pocket, "the turn")
	case (next.FlipX != now.FlipX || next.FlipY != now.FlipY) && !may("flip"):
		return kept(d, pocket, "whether it is mirrored")
	}
	return nil
}

// kept says that a template leaves something to nobody.
func kept(d *template.Document, pocket, what string) error {
	return fmt.Errorf("pocket: the template keeps %s of %s as it is", what, pocketName(d, pocket))
}

// join is a framing or a clip's way to run with some of its members as another
// has them; known lists all there are.
func join[V any](now, other V, names, known []string) (V, error) {
	have, want := members(now), members(other)
	for _, n := range names {
		if !slices.Contains(known, n) {
			return now, fmt.Errorf("members: %q is not one of %s", n, strings.Join(known, ", "))
		}
		if delete(have, n); want[n] != nil {
			have[n] = want[n]
		}
	}
	return joined[V](have)
}

// members are what a framing or a clip's way to run says, by name. One that is
// not said has its default.
func members(v any) map[string]json.RawMessage {
	b, _ := json.Marshal(v) // numbers, words and switches: it can't fail
	out := map[string]json.RawMessage{}
	_ = json.Unmarshal(b, &out)
	return out
}

func joined[V any](m map[string]json.RawMessage) (v V, err error) {
	b, err := json.Marshal(m)
	if err == nil {
		err = json.Unmarshal(b, &v)
	}
	return v, err
}

func setFill(v *sheet.Values, pocket string, f sheet.Fill) {
	if f.Empty() {
		delete(v.Fills, pocket)
		return
	}
	v.Fills[pocket] = f
}

// framingTitles and playTitles are what members are called.
var (
	framingTitles = map[string]string{"fit": "Fit", "focus": "Focus", "pan": "Pan", "zoom": "Zoom", "turn": "Turn", "flipX": "Flip", "flipY": "Flip"}
	playTitles    = map[string]string{"in": "First frame", "speed": "Speed", "after": "End"}
)

func membersTitle(names []string, titles map[string]string, whole string) string {
	// To set a focus is to take back the pan.
	if slices.Contains(names, "focus") {
		names = slices.DeleteFunc(slices.Clone(names), func(n string) bool { return n == "pan" })
	}
	if len(names) == 1 && titles[names[0]] != "" {
		return titles[names[0]]
	}
	return whole
}

// Title names what an operation changes, for people, such as "Turn of North
// wind".
func Title(d *template.Document, op Op) string {
	switch op.Kind {
	case "fill":
		if op.Media == "" {
			return "Put the stand-in back in " + pocketName(d, op.Pocket)
		}
		return "Media of " + pocketName(d, op.Pocket)
	case "frame":
		if op.Framing == nil {
			return "Reset framing of " + pocketName(d, op.Pocket)
		}
		return membersTitle(op.Members, framingTitles, "Framing") + " of " + pocketName(d, op.Pocket)
	case "keep":
		if op.Value != nil && op.Value.On() {
			return "Keep the framing of " + pocketName(d, op.Pocket) + " for other media"
		}
		return "Let the framing of " + pocketName(d, op.Pocket) + " go with its media"
	case "play":
		if op.Play == nil {
			return "Reset how " + pocketName(d, op.Pocket) + " runs"
		}
		return membersTitle(op.Members, playTitles, "Run") + " of " + pocketName(d, op.Pocket)
	case "entry":
		if e := d.Sheet.Entry(op.Entry); e != nil {
			if op.Value == nil {
				return "Reset " + e.Label
			}
			return e.Label
		}
	case "measure":
		if op.Measure == nil {
			return "Make it as the template is"
		}
		return "Make it to the clip's measure"
	case "frames":
		if op.Frames == 0 || op.Frames == d.Frames {
			return "Reset the duration"
		}
		return "Duration"
	case "name":
		return "Rename"
	case "batch":
		if op.Name != "" {
			return op.Name
		}
		if len(op.Ops) == 1 {
			return Title(d, op.Ops[0])
		}
		return fmt.Sprintf("%d changes", len(op.Ops))
	}
	return op.Kind
}

func pocketName(d *template.Document, id string) string {
	if p := d.Pocket(id); p != nil {
		return p.Name
	}
	return id
}

// Reverse returns the changes that undo the given ones.
func Reverse(changes []Change) []Change {
	out := make([]Change, len(changes))
	for i, c := range changes {
		out[len(changes)-1-i] = Change{c.Path, c.After, c.Before, c.To, c.ToAt, c.In, c.At}
	}
	return out
}

// ConflictError says that what an operation changes is no longer as it was when
// the operation was thought of.
type ConflictError struct {
	Path string
	// Other is the change that came between, by its title, and Mine says that the
	// same person made it, in another window. They are empty where that is not known.
	Other string
	Mine  bool
	// Back is the title of the change that was to be undone or redone, if one was.
	Back, Verb string
}

// By says whose change it was that came between.
func By(mine bool) string {
	if mine {
		return "you in another window"
	}
	return "somebody else"
}

func (e *ConflictError) Error() string {
	by := By(e.Mine)
	switch {
	case e.Back != "" && e.Other != "":
		return fmt.Sprintf("“%s” can't be %s: “%s” was changed since by %s", e.Back, e.Verb, e.Other, by)
	case e.Back != "":
		return fmt.Sprintf("“%s” can't be %s: it is no longer as that change left it", e.Back, e.Verb)
	case e.Other != "":
		return fmt.Sprintf("“%s” was changed by %s meanwhile. It stays as it is there; if you still want yours, do it again", e.Other, by)
	}
	return e.Path + ": is no longer as it was; look at it as it is now and do it again"
}

// Replay carries out recorded changes on a copy of the piece, as undo and redo
// do. A path that does not hold what the change expects is a *ConflictError.
func Replay(of Releases, p Piece, changes []Change) (Piece, error) {
	flat, err := flatten(p)
	if err != nil {
		return p, err
	}
	for _, c := range changes {
		if !equalJSON(flat[c.Path], c.Before) {
			return p, &ConflictError{Path: c.Path}
		}
		if isNull(c.After) {
			delete(flat, c.Path)
		} else {
			flat[c.Path] = c.After
		}
	}
	next, err := unflatten(flat)
	if err != nil {
		return p, err
	}
	d, err := of(next.Release)
	if err != nil {
		return p, err
	}
	return next, next.Values.Validate(d)
}

// Overlap returns a path that both lists change, or "".
func Overlap(a, b []Change) string {
	for _, x := range a {
		for _, y := range b {
			if within(x.Path, y.Path) || within(y.Path, x.Path) {
				return x.Path
			}
		}
	}
	return ""
}

// Same reports whether two lists change members of one thing: of one pocket, one
// layer, one entry.
func Same(a, b []Change) bool {
	for _, x := range a {
		for _, y := range b {
			if thing(x.Path) == thing(y.Path) {
				return true
			}
		}
	}
	return false
}

// thing is the path of what a person would say was changed.
func thing(path string) string {
	part := strings.Split(path, "/")
	return strings.Join(part[:min(2, len(part))], "/")
}

// within reports whether a path names all or a part of what another does.
func within(path, of string) bool {
	rest, ok := strings.CutPrefix(path, of)
	return ok && (rest == "" || rest[0] == '/' || rest[0] == '.')
}

// there is the member by which a thing of several members is there at all, though
// all the others are as when nothing is said.
const there = "own"

// asideIn begins the paths of what was put aside.
const asideIn = "aside/"

// flatten turns a piece into the smallest things that are changed on their
// own: its name, each pocket's media, each member of a framing and of how a clip
// runs, each entry.
func flatten(p Piece) (map[string]json.RawMessage, error) {
	flat, err := flattenValues(p.Values)
	errs := []error{err}
	if p.Aside != nil {
		aside, err := flattenValues(*p.Aside)
		errs = append(errs, err)
		for path, b := range aside {
			flat[asideIn+path] = b
		}
	}
	for path, v := range map[string]any{"name": p.Name, "release": p.Release} {
		b, err := json.Marshal(v)
		flat[path], errs = b, append(errs, err)
	}
	return flat, errors.Join(errs...)
}

// flattenValues does so with values.
func flattenValues(v sheet.Values) (map[string]json.RawMessage, error) {
	flat := map[string]json.RawMessage{}
	put := func(path string, v any) error {
		b, err := json.Marshal(v)
		flat[path] = b
		return err
	}
	// A thing of several members stands for itself, and has those that differ from
	// what is so when nothing is said.
	parts := func(path string, v, unsaid any) error {
		err := put(path+"/"+there, true)
		nothing := members(unsaid)
		for name, b := range members(v) {
			if !equalJSON(b, nothing[name]) {
				flat[path+"/"+name] = b
			}
		}
		return err
	}
	var errs []error
	if v.Frames != 0 {
		errs = append(errs, put("frames", v.Frames))
	}
	if v.Measure != nil {
		errs = append(errs, put("measure", v.Measure))
	}
	for id, f := range v.Fills {
		if f.Media != "" {
			errs = append(errs, put("fills/"+id+"/media", f.Media))
		}
		if f.Name != "" {
			errs = append(errs, put("fills/"+id+"/name", f.Name))
		}
		if f.Keep {
			errs = append(errs, put("fills/"+id+"/keep", true))
		}
		if f.Framing != nil {
			errs = append(errs, parts("fills/"+id+"/framing", f.Framing, geom.DefaultFraming("")))
		}
		if f.Play != nil {
			errs = append(errs, parts("fills/"+id+"/play", f.Play, timing.Play{}))
		}
		for k, fr := range f.Formats {
			errs = append(errs, parts("fills/"+id+"/formats/"+k, fr, geom.DefaultFraming("")))
		}
	}
	for k, e := range v.Entries {
		errs = append(errs, put("entries/"+k, e))
	}
	return flat, errors.Join(errs...)
}

func unflatten(flat map[string]json.RawMessage) (Piece, error) {
	var p Piece
	now, aside := map[string]json.RawMessage{}, map[string]json.RawMessage{}
	var errs []error
	for path, b := range flat {
		switch out, ok := strings.CutPrefix(path, asideIn); {
		case path == "name":
			errs = append(errs, json.Unmarshal(b, &p.Name))
		case path == "release":
			errs = append(errs, json.Unmarshal(b, &p.Release))
		case ok:
			aside[out] = b
		default:
			now[path] = b
		}
	}
	var err error
	p.Values, err = unflattenValues(now)
	errs = append(errs, err)
	if len(aside) > 0 {
		v, err := unflattenValues(aside)
		p.Aside, errs = &v, append(errs, err)
	}
	return p, errors.Join(errs...)
}

func unflattenValues(flat map[string]json.RawMessage) (sheet.Values, error) {
	v := sheet.Values{}.Clone()
	var errs []error
	get := func(b json.RawMessage, to any) { errs = append(errs, json.Unmarshal(b, to)) }
	// Members of things that have several, by the thing's path.
	of := map[string]map[string]json.RawMessage{}
	member := func(thing string, unsaid any, name []string, b json.RawMessage) {
		if of[thing] == nil {
			of[thing] = members(unsaid)
		}
		if name[0] != there {
			of[thing][name[0]] = b
		}
	}
	for path, b := range flat {
		part := strings.Split(path, "/")
		switch part[0] {
		case "frames":
			get(b, &v.Frames)
		case "measure":
			get(b, &v.Measure)
		case "entries":
			var e scheme.Value
			get(b, &e)
			v.Entries[part[1]] = e
		case "fills":
			f := v.Fills[part[1]]
			switch part[2] {
			case "media":
				get(b, &f.Media)
			case "name":
				get(b, &f.Name)
			case "keep":
				get(b, &f.Keep)
			case "framing":
				member("fills/"+part[1]+"/framing", geom.DefaultFraming(""), part[3:], b)
			case "play":
				member("fills/"+part[1]+"/play", timing.Play{}, part[3:], b)
			case "formats":
				member("fills/"+part[1]+"/formats/"+part[3], geom.DefaultFraming(""), part[4:], b)
			}
			v.Fills[part[1]] = f
		}
	}
	for thing, m := range of {
		part := strings.Split(thing, "/")
		f := v.Fills[part[1]]
		if part[2] == "play" {
			play, err := joined[timing.Play](m)
			f.Play, errs = &play, append(errs, err)
		} else {
			fr, err := joined[geom.Framing](m)
			errs = append(errs, err)
			if part[2] == "framing" {
				f.Framing = &fr
			} else {
				if f.Formats == nil {
					f.Formats = map[string]geom.Framing{}
				}
				f.Formats[part[3]] = fr
			}
		}
		v.Fills[part[1]] = f
	}
	return v, errors.Join(errs...)
}

func diff(a, b Piece) ([]Change, error) {
	fa, err1 := flatten(a)
	fb, err2 := flatten(b)
	var out []Change
	for path, before := range fa {
		after, ok := fb[path]
		if !ok {
			out = append(out, Change{Path: path, Before: before, After: null})
		} else if !equalJSON(before, after) {
			out = append(out, Change{Path: path, Before: before, After: after})
		}
	}
	for path, after := range fb {
		if _, ok := fa[path]; !ok {
			out = append(out, Change{Path: path, Before: null, After: after})
		}
	}
	return out, errors.Join(err1, err2)
}

// UpgradeChange is a change of a framing, or of how a clip runs, as it was
// recorded while those were changed as a whole, as changes of their members.
func UpgradeChange(c Change) []Change {
	part := strings.Split(c.Path, "/")
	if part[0] != "fills" || !(len(part) == 3 && (part[2] == "framing" || part[2] == "play") || len(part) == 4 && part[2] == "formats") {
		return []Change{c}
	}
	whole := func(b json.RawMessage) (Piece, error) {
		var f sheet.Fill
		p := Piece{Values: sheet.Values{}.Clone()}
		if isNull(b) {
			return p, nil
		}
		var err error
		switch part[2] {
		case "framing":
			err = json.Unmarshal(b, &f.Framing)
		case "play":
			err = json.Unmarshal(b, &f.Play)
		default:
			f.Formats = map[string]geom.Framing{}
			var fr geom.Framing
			err = json.Unmarshal(b, &fr)
			f.Formats[part[3]] = fr
		}
		p.Values.Fills[part[1]] = f
		return p, err
	}
	before, err1 := whole(c.Before)
	after, err2 := whole(c.After)
	out, err3 := diff(before, after)
	if errors.Join(err1, err2, err3) != nil {
		return []Change{c} // it is as it was; whoever carries it out says so
	}
	return out
}

func isNull(b json.RawMessage) bool { return len(b) == 0 || string(b) == "null" }

func equalJSON(a, b json.RawMessage) bool {
	if isNull(a) || isNull(b) {
		return isNull(a) == isNull(b)
	}
	var x, y any
	return json.Unmarshal(a, &x) == nil && json.Unmarshal(b, &y) == nil && reflect.DeepEqual(x, y)
}
