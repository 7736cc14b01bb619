// Package craft is the room for the designer's handiwork: it turns what somebody does
// at the bench – dragging a layer on the picture, grouping, aligning, sewing a pocket –
// into operations of a draft. It reads a document and where things stand in it, and
// changes nothing itself. Every kind of act is one row of a table and stands in the
// file of its like.
package craft

import (
	"encoding/json"
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"

	"ivypocket/core/edit"
	"ivypocket/core/geom"
	"ivypocket/core/scene"
	"ivypocket/core/scheme"
	"ivypocket/core/sheet"
	"ivypocket/core/template"
	"ivypocket/core/timing"
)

// Act is what a designer does. Kind says which of the members it uses, besides those
// that every act has: the format and the frame that are looked at, and whether it is
// meant for this format alone.
type Act struct {
	Kind   string `json:"kind"`
	Format string `json:"format,omitempty"`
	Frame  int64  `json:"frame,omitempty"`
	Apart  bool   `json:"apart,omitempty"`
	// Own says that it is meant for the one use of a motif through which its layers are
	// looked at; they are then named as in paths: "gull-two:wing".
	Own bool `json:"own,omitempty"`
	// Record makes of values that are set keys at the frame that is looked at.
	Record bool `json:"record,omitempty"`

	Layers []string `json:"layers,omitempty"`
	// From and To are where a drag began and where it is, px on the canvas from its
	// top left corner.
	From [2]float64 `json:"from,omitempty"`
	To   [2]float64 `json:"to,omitempty"`
	// Handle is the point of a box that is dragged, in shares of it.
	Handle [2]float64 `json:"handle,omitempty"`
	// Keep keeps to one axis, to the proportions or to whole steps; Middle works from
	// the middle; Copy works on copies.
	Keep   bool `json:"keep,omitempty"`
	Middle bool `json:"middle,omitempty"`
	Copy   bool `json:"copy,omitempty"`
	// Snap is how far something is drawn to a line, px on the canvas; 0 is not at all.
	Snap float64 `json:"snap,omitempty"`
	// Lines are some more that it is drawn to: those of guides that lie on the picture.
	Lines []SnapLine `json:"lines,omitempty"`

	// What is named depends on the kind.
	Id      string             `json:"id,omitempty"`
	Into    string             `json:"into,omitempty"`
	At      int                `json:"at,omitempty"`
	Frames  int64              `json:"frames,omitempty"`
	Name    string             `json:"name,omitempty"`
	Path    string             `json:"path,omitempty"`
	Paths   []string           `json:"paths,omitempty"`
	Way     string             `json:"way,omitempty"`
	By      string             `json:"by,omitempty"`
	Media   string             `json:"media,omitempty"`
	Kinds   []string           `json:"kinds,omitempty"`
	Keys    []string           `json:"keys,omitempty"`
	Steps   *timing.Steps      `json:"steps,omitempty"`
	Picks   []int              `json:"picks,omitempty"`
	Value   *scheme.Value      `json:"value,omitempty"`
	Numbers map[string]float64 `json:"numbers,omitempty"`
	Clip    json.RawMessage    `json:"clip,omitempty"`
	// Those of drafts' own operations.
	Move    *template.Move  `json:"move,omitempty"`
	Part    json.RawMessage `json:"part,omitempty"`
	Group   string          `json:"group,omitempty"`
	Entry   string          `json:"entry,omitempty"`
	Ties    []template.Tie  `json:"ties,omitempty"`
	Ops     []Act           `json:"ops,omitempty"`
	Pocket  string          `json:"pocket,omitempty"`
	Play    *timing.Play    `json:"play,omitempty"`
	Members []string        `json:"members,omitempty"`
	Framing *geom.Framing   `json:"framing,omitempty"`
	// Pin, if any, makes it an example: what is set holds at a value of an entry.
	Pin *Pin `json:"pin,omitempty"`
}

// SnapLine is a line of guides across the canvas.
type SnapLine struct {
	Axis string  `json:"axis" enum:"x,y" doc:"x: an upright line"`
	At   float64 `json:"at" doc:"px"`
	What string  `json:"what" maxLength:"300"`
}

// MaxSnapLines is how many there may be.
const MaxSnapLines = 300

// Plan is what an act comes to.
type Plan struct {
	// Op changes the draft; one without a kind changes nothing.
	Op edit.DraftOp
	// Guides are the lines that something was drawn to.
	Guides []Guide
	// Chosen are the layers that are selected when it is done; nil leaves that as it is.
	Chosen []string
}

// Guide is a line on the canvas that something was drawn to, in px from its top left
// corner.
type Guide struct {
	// Axis is "x" for an upright line at x = At, "y" for a level one at y = At.
	Axis string  `json:"axis" enum:"x,y"`
	At   float64 `json:"at"`
	From float64 `json:"from"`
	To   float64 `json:"to"`
	// What the line is, for people, such as "centre of the canvas".
	What string `json:"what"`
	// Gap says that it is a gap, as wide as others.
	Gap bool `json:"gap,omitempty" required:"false"`
}

// row is one kind of act: its name, the members it uses besides those that every act
// has, what it does, and how.
type row struct {
	kind, members, doc string
	does               func(b *bench, a Act) error
}

// acts is the table of all kinds, by name. Files put their rows in.
var acts = map[string]row{}

func register(rows ...row) {
	for _, r := range rows {
		acts[r.kind] = r
	}
}

// Kinds lists the kinds of acts by name.
func Kinds() []string { return slices.Sorted(maps.Keys(acts)) }

// Reference is the table of acts, as Markdown.
func Reference() string {
	var b strings.Builder
	b.WriteString("| kind | members | does |\n| --- | --- | --- |\n")
	for _, kind := range Kinds() {
		r := acts[kind]
		fmt.Fprintf(&b, "| `%s` | %s | %s |\n", r.kind, r.members, r.doc)
	}
	return b.String()
}

// Do plans an act on a draft's document. lib tells what media there is.
func Do(doc *template.Document, lib scene.Library, a Act) (Plan, error) {
	if a.Pin != nil {
		return byExample(doc, lib, a)
	}
	return planned(doc, lib, a, false)
}

// planned is Do for acts without a pin. Under one the sheet doesn't follow what is set: what
// it says is what is being made.
func planned(doc *template.Document, lib scene.Library, a Act, pinned bool) (Plan, error) {
	r, ok := acts[a.Kind]
	if !ok {
		return Plan{}, fmt.Errorf("kind: %q is not one of %s", a.Kind, strings.Join(Kinds(), ", "))
	}
	b := newBench(doc, lib, a)
	b.pinned = pinned
	if a.Format != "" || len(doc.Formats) > 0 {
		if b.format = doc.Format(a.Format); b.format == nil && a.Format != "" {
			return Plan{}, fmt.Errorf("format: the template has no format named %q", a.Format)
		}
	}
	if err := b.through(&a); err != nil {
		return Plan{}, err
	}
	b.act = a
	if err := r.does(b, a); err != nil {
		return Plan{}, err
	}
	if a.Kind != "batch" { // each act of one did it
		b.faces()
	}
	if err := b.alike(); err != nil {
		return Plan{}, err
	}
	if a.Own && b.use != "" {
		if err := b.alone(); err != nil {
			return Plan{}, err
		}
	}
	if a.Kind != "default" && a.Kind != "batch" && !pinned { // those of a batch did it each
		if err := b.follow(); err != nil {
			return Plan{}, err
		}
	}
	// What is selected is still looked at through its use.
	for i, id := range b.plan.Chosen {
		if b.use != "" {
			b.plan.Chosen[i] = b.use + inUse + id
		}
	}
	switch len(b.ops) {
	case 0:
	case 1:
		b.plan.Op = b.ops[0]
	default:
		b.plan.Op = edit.DraftOp{Kind: "batch", Ops: b.ops}
	}
	b.plan.Op.Title = b.title
	return b.plan, nil
}

func newBench(doc *template.Document, lib scene.Library, a Act) *bench {
	return &bench{doc: doc, lib: lib, act: a, taken: map[string]bool{}, named: map[string]bool{}, rests: map[string]scheme.Value{},
		strands: map[string]*strand{}, shown: map[string][]scene.Shown{}, ties: map[string][]template.Tie{}, dropped: map[string]bool{}}
}

// bench is a draft as it lies there while an act is planned.
type bench struct {
	doc    *template.Document
	lib    scene.Library
	act    Act
	format *template.Format

	ops     []edit.DraftOp
	title   string
	plan    Plan
	taken   map[string]bool           // ids that were given away
	named   map[string]bool           // and names
	rests   map[string]scheme.Value   // values at rest that were written for all formats
	strands map[string]*strand        // motions that are worked on, by the paths of their properties
	use     string                    // the use through which a motif is worked on, "" is none
	ties    map[string][]template.Tie // what entries drive by now, by their ids
	media   []template.Media          // what the document says of media by now, nil for what it said
	as      map[string]string         // the copies that are worked on, by what they are copies of
	// Of the sheet: groups that were made, each with where it goes and its place among
	// headings, and entries that were taken off.
	groups  [][2]int
	dropped map[string]bool
	pinned  bool // the sheet does not follow

	sc        *scene.Scene
	standings []scene.Standing
	shown     map[string][]scene.Shown
}

func (b *bench) add(op edit.DraftOp) { b.ops = append(b.ops, op) }

// called names layers for titles: one by its name, several by their number.
func (b *bench) called(ids []string) string {
	if len(ids) == 1 {
		if y := b.doc.Layer(ids[0]); y != nil {
			return y.Name
		}
	}
	return fmt.Sprintf("%d layers", len(ids))
}

// scene is the document in the format that is looked at.
func (b *bench) scene() (*scene.Scene, error) {
	if b.sc != nil {
		return b.sc, nil
	}
	sc, err := b.sceneIn(b.format)
	b.sc = sc
	return sc, err
}

func (b *bench) sceneIn(f *template.Format) (*scene.Scene, error) {
	if f == nil {
		return nil, fmt.Errorf("format: say which format is looked at")
	}
	return scene.Compile(&sheet.Resolved{Doc: Drawable(b.doc, b.lib), Values: sheet.Values{}}, f.ID, b.lib)
}

// stand tells how all layers stand in the format and at the frame that are looked at.
func (b *bench) stand() ([]scene.Standing, error) {
	if b.standings != nil {
		return b.standings, nil
	}
	sc, err := b.scene()
	if err != nil {
		return nil, err
	}
	frame := min(max(b.act.Frame, 0), sc.Frames()-1)
	b.standings = b.seen(sc.Standings(sc.Time().At(timing.OutputFrame(frame))))
	return b.standings, nil
}

// Drawable is a document that can be drawn though media is missing from the library:
// what would show it is empty.
func Drawable(d *template.Document, lib scene.Library) *template.Document {
	missing := Missing(d, lib)
	if len(missing) == 0 {
		return d
	}
	c := d.Clone()
	for i, p := range c.Pockets {
		if p.StandIn != nil && slices.Contains(missing, p.StandIn.Media) {
			c.Pockets[i].StandIn = nil
		}
		if slices.Contains(missing, p.Lined()) {
			c.Pockets[i].Lining = nil
		}
	}
	d.VisitAll(func(_ string, y *template.Layer) {
		if y.Kind == scheme.Picture && slices.Contains(missing, y.Text(scheme.OwnMedia)) {
			_ = c.Set("layers/"+y.ID+"/media", scheme.Says(""))
		}
	})
	return c
}

// Missing lists the media that a document shows and the library has not.
func Missing(d *template.Document, lib scene.Library) []string {
	var out []string
	want := func(hash string) {
		if _, ok := lib.Info(hash); hash != "" && !ok && !slices.Contains(out, hash) {
			out = append(out, hash)
		}
	}
	for _, p := range d.Pockets {
		if p.StandIn != nil {
			want(p.StandIn.Media)
		}
		want(p.Lined())
	}
	d.VisitAll(func(_ string, y *template.Layer) {
		if y.Kind == scheme.Picture {
			want(y.Text(scheme.OwnMedia))
		}
		if f := y.Text(scheme.Wording.Face); y.Can(scheme.Lettered) && scheme.ValidHash(f) {
			want(f)
		}
	})
	for _, e := range d.Sheet.Entries() {
		for _, o := range e.Options {
			if scheme.ValidHash(o.ID) {
				want(o.ID)
			}
		}
	}
	return out
}

// chosen are the layers an act is about, without those that are in others of them.
// What is locked, or is there no more, is refused.
func (b *bench) chosen() ([]*template.Layer, error) {
	if len(b.act.Layers) == 0 {
		return nil, fmt.Errorf("layers: none is selected")
	}
	want := map[string]bool{}
	for _, id := range b.act.Layers {
		if b.doc.Layer(id) == nil {
			return nil, fmt.Errorf("layers: there is no layer %q any more", id)
		}
		want[id] = true
	}
	var out []*template.Layer
	var err error
	var walk func(list []*template.Layer)
	walk = func(list []*template.Layer) {
		for _, y := range list {
			if !want[y.ID] {
				walk(y.Layers())
				continue
			}
			if by := b.lockedBy(y.ID); by != "" && err == nil && b.act.Kind != "mark" && b.act.Kind != "copy" {
				err = fmt.Errorf("%s is locked; unlock it first", by)
			}
			out = append(out, y)
		}
	}
	walk(b.doc.Layers)
	walk(b.doc.Motifs)
	return out, err
}

// lockedBy names the layer, or the group around it, by which a layer is locked; "" is none.
func (b *bench) lockedBy(id string) (name string) {
	var walk func(list []*template.Layer, by string) bool
	walk = func(list []*template.Layer, by string) bool {
		for _, y := range list {
			by := by
			if y.On(scheme.Locked) {
				by = y.Name
			}
			if y.ID == id {
				name = by
				return true
			}
			if walk(y.Layers(), by) {
				return true
			}
		}
		return false
	}
	_ = walk(b.doc.Layers, "") || walk(b.doc.Motifs, "")
	return name
}

// canvas is that of the format that is looked at; where none is, one by which evenness is told.
func (b *bench) canvas() geom.Size {
	if b.format == nil {
		return geom.Size{W: 1920, H: 1080}
	}
	return b.format.Canvas()
}

// looks are the properties of a layer, by the id that the scene has of it, as they stand in the format and at the frame that are looked at.
func (b *bench) looks(id string) ([]scene.Shown, error) {
	if list, ok := b.shown[id]; ok {
		return list, nil
	}
	sc, err := b.scene()
	if err != nil {
		return nil, err
	}
	list := sc.Look(id, sc.Time().At(timing.OutputFrame(min(max(b.act.Frame, 0), sc.Frames()-1)))).Properties
	b.shown[id] = list
	return list, nil
}

// parentOf is the list a layer stands in, by its path, and its place there.
func (b *bench) parentOf(id string) (into string, at int) {
	into, at = "", -1
	var walk func(list []*template.Layer, path string)
	walk = func(list []*template.Layer, path string) {
		for i, y := range list {
			if y.ID == id {
				into, at = path, i
				return
			}
			walk(y.Layers(), "layers/"+y.ID+"/layers")
		}
	}
	walk(b.doc.Layers, "layers")
	walk(b.doc.Motifs, "motifs")
	return into, at
}

// listAt are the layers of a list, by its path.
func (b *bench) listAt(into string) ([]*template.Layer, error) {
	switch {
	case into == "layers" || into == "":
		return b.doc.Layers, nil
	case into == "motifs":
		return b.doc.Motifs, nil
	}
	id := strings.TrimSuffix(strings.TrimPrefix(into, "layers/"), "/layers")
	if y := b.doc.Layer(id); y != nil && y.Can(scheme.Holds) {
		return y.Layers(), nil
	}
	return nil, fmt.Errorf("into: there is no group %q", id)
}

// freeID is an id that nothing has yet, made of a name.
func (b *bench) freeID(name string) string {
	base := scheme.IDOf(name)
	for _, r := range b.doc.Recipes { // a recipe's own begin like that
		if strings.HasPrefix(base, r.ID+"-") || base == r.ID {
			base = scheme.IDOf("own-" + base)
		}
	}
	has := func(id string) bool {
		if b.taken[id] || b.doc.Layer(id) != nil || b.doc.Layout(id) != nil || b.doc.Gradient(id) != nil || b.doc.Move(id) != nil || b.doc.Pocket(id) != nil || b.doc.Format(id) != nil {
			return true
		}
		for _, c := range b.doc.Colours {
			if c.ID == id {
				return true
			}
		}
		return slices.ContainsFunc(b.doc.Cues, func(c template.Cue) bool { return c.ID == id }) ||
			slices.ContainsFunc(b.doc.Spans, func(s timing.Span) bool { return s.ID == id }) || b.doc.Easing(id) != nil
	}
	id := base
	for n := 2; has(id); n++ {
		id = fmt.Sprintf("%s-%d", base, n)
	}
	b.taken[id] = true
	return id
}

// inShares reports whether new lengths are written in shares of the canvas' shorter
// side, so that they serve all formats.
func (b *bench) inShares() bool {
	side := 0
	for _, f := range b.doc.Formats {
		if n := min(f.Width, f.Height); side != 0 && n != side {
			return true
		} else {
			side = n
		}
	}
	return false
}

// set gives a property of a layer new numbers in px, where it is set now: in all
// formats, or in the one that is looked at where it has its own value there or is to
// have one. Its unit stays as it is written.
func (b *bench) set(path string, numbers ...float64) error {
	if b.records(path) {
		return b.recordBy(path, numbers)
	}
	if len(b.as) == 0 {
		if t, err := b.doc.Find(path); err == nil && t.Node != nil {
			if s, err := b.instead(path, t.Node, t.Property); err != nil {
				return err
			} else if s != nil {
				return b.shiftedBy(s, numbers)
			}
		}
	}
	path = b.inThisUse(path)
	t, err := b.doc.Find(path)
	if err != nil {
		return err
	}
	old, given, err := b.doc.Get(path)
	if err != nil {
		return err
	}
	to := b.copied(path)
	format := ""
	if b.format != nil {
		own, here := b.format.Rest[path]
		if here {
			old, given = own, true
		}
		parts := b.partsOf(path)
		if b.act.Apart || here || parts != nil {
			format = b.format.ID
		}
		for _, at := range parts {
			b.add(edit.DraftOp{Kind: "set", Path: b.copied(at), Format: format})
		}
	}
	v := b.written(t.Property, old, given, b.format, numbers)
	if err := b.fits(t.Property, path, v); err != nil {
		return err
	}
	b.add(edit.DraftOp{Kind: "set", Path: to, Value: &v, Format: format})
	return nil
}

// partsOf are the paths at which the format that is looked at has one number alone of
// a property.
func (b *bench) partsOf(path string) (out []string) {
	for _, at := range sorted(b.format.Rest) {
		if strings.HasPrefix(at, path+".") {
			if t, err := b.doc.Find(at); err == nil && t.Part >= 0 {
				out = append(out, at)
			}
		}
	}
	return out
}

// copied is a path of a layer as that of its copy, where that is worked on.
func (b *bench) copied(path string) string {
	seg := strings.SplitN(path, "/", 3)
	if id := b.as[seg[1]]; seg[0] == "layers" && id != "" {
		return "layers/" + id + "/" + seg[2]
	}
	return path
}

// fits says, in the numbers that people see, that a value is beyond what it may be.
func (b *bench) fits(p *scheme.Property, path string, v scheme.Value) error {
	err := p.Check(b.doc, v)
	if err == nil || p.Type != scheme.Numbers {
		return err
	}
	sign := p.Sign
	if sign != "" {
		sign = " " + sign
	}
	for _, n := range p.Full(v) {
		if n < p.Lo || n > p.Hi {
			return fmt.Errorf("%s would be %s%s; it goes from %s to %s%s",
				b.doc.Called(path), plain(n*p.Factor), sign, plain(p.Lo*p.Factor), plain(p.Hi*p.Factor), sign)
		}
	}
	return err
}

// write gives a property numbers in px in one format: for all formats where it is the
// first that is written, else where they differ from what those make of it.
func (b *bench) write(path string, p *scheme.Property, f *template.Format, first bool, numbers []float64) error {
	in, err := b.doc.For(f)
	if err != nil {
		return err
	}
	now, given, err := in.Get(path)
	if err != nil {
		return err
	}
	base, baseGiven, err := b.doc.Get(path)
	if err != nil {
		return err
	}
	if v, ok := b.rests[path]; ok {
		base, baseGiven = v, true
	}
	own := false
	for at := range f.Rest {
		own = own || at == path || strings.HasPrefix(at, path+".")
	}
	if !own {
		now, given = base, baseGiven
	}
	if given || !p.Default.Equal(scheme.Value{}) {
		if alike(p.Full(now.Resolved(f.Canvas())), p.Full(scheme.Value{Numbers: numbers, Single: len(numbers) == 1})) {
			return nil
		}
	}
	v := b.written(p, now, given, f, numbers)
	if err := b.fits(p, path, v); err != nil {
		return err
	}
	if own || !first {
		for at := range f.Rest {
			if strings.HasPrefix(at, path+".") {
				b.add(edit.DraftOp{Kind: "set", Path: at, Format: f.ID})
			}
		}
		b.add(edit.DraftOp{Kind: "set", Path: path, Value: &v, Format: f.ID})
		return nil
	}
	b.rests[path] = v
	b.add(edit.DraftOp{Kind: "set", Path: path, Value: &v})
	return nil
}

// alike reports whether numbers are the same but for what nobody sees.
func alike(a, b []float64) bool {
	if len(a) != len(b) {
		return false
	}
	for i := range a {
		if math.Abs(a[i]-b[i]) > 1e-4 {
			return false
		}
	}
	return true
}

// written are numbers in px as a property's value, in the unit in which it stood.
func (b *bench) written(p *scheme.Property, old scheme.Value, given bool, f *template.Format, numbers []float64) scheme.Value {
	v := scheme.Value{Numbers: make([]float64, len(numbers)), Single: len(numbers) == 1}
	shorter := old.Shorter
	if old.Single && shorter != 0 {
		shorter = 1<<len(numbers) - 1
	}
	if !given && p.Unit.Px == 1 && b.inShares() {
		shorter = 1<<len(numbers) - 1
	}
	places := 1e3
	if p.Unit.Px == 0 {
		places = 1e6
	}
	for i, n := range numbers {
		k := places
		if shorter&(1<<i) != 0 && f != nil {
			// On a canvas that is very much longer than wide, px say more.
			if share := n / math.Min(f.Canvas().W, f.Canvas().H) * 100; math.Abs(share) <= scheme.MaxShares {
				n, k = share, 1e5
			} else {
				shorter &^= 1 << i
			}
		}
		v.Numbers[i] = math.Round(n*k)/k + 0
	}
	v.Shorter = shorter
	return v
}

// mayMove refuses to set a property that something else sets.
func (b *bench) mayMove(y *template.Layer, p *scheme.Property) error {
	path := "layers/" + y.ID + "/" + p.Name
	if by := b.doc.Driver(path); by != "" && b.doc.EntryOf(path) == nil && by != template.ByKeys && !b.records(path) { // an entry's default follows
		return fmt.Errorf("%s of %s is set by %s", strings.ToLower(p.Label), y.Name, by)
	}
	for _, name := range append([]string{p.Name}, names(p)...) {
		if f := y.Formulas[name]; f != "" {
			return fmt.Errorf("%s of %s is set by the formula %s", strings.ToLower(p.Label), y.Name, f)
		}
	}
	return nil
}

func names(p *scheme.Property) (out []string) {
	if p.Parted() && p.Type == scheme.Numbers {
		for i := range p.Parts {
			out = append(out, p.Of(i))
		}
	}
	return out
}
