package craft

import (
	"errors"
	"fmt"
	"math"
	"slices"
	"sort"
	"strings"

	"ivypocket/core/edit"
	"ivypocket/core/scheme"
	"ivypocket/core/template"
	"ivypocket/core/timing"
)

// strand is the motion of one property, or of one of its numbers, while it is worked on.
type strand struct {
	path  string         // of the property
	use   string         // of a motif, through which it is looked at; "" is none
	by    *template.Node // the performance of a saved move, through which that is looked at
	tempo template.Tempo // of the performance
	node  *template.Node
	prop  *scheme.Property
	part  int // -1 is all of its numbers
	layer *template.Layer
	late  timing.Rat // of the layer's own time, in which keys are
	move  template.Move
	track *timing.Track // as it was; nil where nothing moved
	free  map[string]bool
	on    []string // the ids of the keys that are picked
	gone  []string // the ids of those that were taken away
}

// keyPath is the property of a key, by its path, and the key's id.
func keyPath(path string) (property, id string, ok bool) {
	seg := strings.Split(path, "/")
	n := len(seg)
	if n < 5 || seg[n-3] != "motion" {
		return "", "", false
	}
	return strings.Join(append(seg[:n-3:n-3], seg[n-2]), "/"), seg[n-1], true
}

// strand finds the motion of a property, which may have no keys yet. Of a motif it is worked on for all uses,
// whichever it is seen through.
func (b *bench) strand(path string) (*strand, error) {
	seg := strings.SplitN(path, "/", 3)
	if len(seg) < 3 || seg[0] != "layers" {
		return nil, fmt.Errorf("path: %q is not of a layer", path)
	}
	through := b.use
	if use, inner := cutUse(seg[1]); use != "" {
		if through = use; b.motifOf(use) == nil {
			return nil, fmt.Errorf("path: there is no use %q any more", use)
		}
		seg[1] = inner
		path = strings.Join(seg, "/")
	} else if b.use != "" && !b.motifOf(b.use).Holds(seg[1]) {
		through = "" // it lies beside the motif that others are looked at in
	}
	layer := b.doc.Layer(seg[1])
	_, by, of, inner, performed := b.doc.Performs(path)
	if performed {
		path = inner
	}
	if s := b.strands[path]; s != nil {
		return s, nil
	}
	t, err := b.doc.Find(path)
	if err != nil {
		return nil, fmt.Errorf("path: %w", err)
	}
	s := &strand{path: path, use: through, by: by, node: t.Node, prop: t.Property, part: t.Part, layer: layer, free: map[string]bool{}}
	if performed {
		s.tempo = template.TempoOf(by, of)
	}
	if s.node == nil || s.layer == nil {
		return nil, fmt.Errorf("path: %q is no property of a layer", path)
	}
	if by := b.lockedBy(s.layer.ID); by != "" {
		return nil, fmt.Errorf("%s is locked; unlock it first", by)
	}
	if s.prop.Join == scheme.Fixed || !s.prop.Type.Live() {
		return nil, fmt.Errorf("%s does not move; it is settled once for the whole time", b.doc.Called(path))
	}
	if s.prop == scheme.Hidden || s.prop == scheme.Locked {
		return nil, fmt.Errorf("%s does not move", b.doc.Called(path))
	}
	s.late = b.lateIn(through, s.layer.ID)
	if m := s.node.Motion[s.name()]; m != nil {
		if s.by != nil {
			m = s.tempo.Timed(m)
		}
		if s.track, err = b.doc.Track(s.node, s.prop, s.part, m, b.canvas()); err != nil {
			return nil, err
		}
		s.move = *m
		s.move.Keys = slices.Clone(m.Keys)
		for i, k := range s.track.Keys() {
			s.free[m.Keys[i].ID] = m.Keys[i].At.D == 0
			s.move.Keys[i].At = k.At
		}
	} else if s.lengths() {
		s.move.Unit = template.CanvasUnit
	}
	b.strands[path] = s
	return s, nil
}

// inner is the path of its property in its layer, or in the saved move.
func (s *strand) inner() string { return strings.SplitN(s.path, "/", 3)[2] }

// seen is the id by which a scene has its layer.
func (s *strand) seen() string {
	if s.use == "" {
		return s.layer.ID
	}
	return s.use + inUse + s.layer.ID
}

// name is the motion's: that of the property, or of its number.
func (s *strand) name() string { return s.prop.Of(s.part) }

// lengths says that keys add shares of the canvas, or of the layer.
func (s *strand) lengths() bool { return s.prop.Join == scheme.Plus && s.prop.Length }

func (s *strand) joins() scheme.Join { return s.move.Joins(s.prop) }

// steady says that it goes from value to value at once.
func (s *strand) steady() bool {
	return s.prop.Type == scheme.Choice || s.prop.Type == scheme.Switch
}

// find is the place of a key by its id, -1 is none.
func (s *strand) find(id string) int {
	return slices.IndexFunc(s.move.Keys, func(k template.Key) bool { return k.ID == id })
}

// picked reports whether a key is one of those that were picked.
func (s *strand) picked(id string) bool { return slices.Contains(s.on, id) }

// picks are the keys that an act names, by the motion they are of, in the order in which motions were named.
func (b *bench) picks(a Act) ([]*strand, error) {
	if len(a.Keys) == 0 {
		return nil, errors.New("keys: none is selected")
	}
	var out []*strand
	for _, path := range a.Keys {
		at, id, ok := keyPath(path)
		if !ok {
			return nil, fmt.Errorf("keys: %q is not the path of a key, such as layers/ring/motion/place/k2", path)
		}
		s, err := b.strand(at)
		if err != nil {
			return nil, err
		}
		if s.find(id) < 0 {
			return nil, fmt.Errorf("keys: %s has no key %q any more", b.doc.Called(s.path), id)
		}
		if !slices.Contains(out, s) {
			out = append(out, s)
		}
		if !s.picked(id) {
			s.on = append(s.on, id)
		}
	}
	return out, nil
}

// countKeys names picked keys for titles.
func (b *bench) countKeys(list []*strand) string {
	n := 0
	for _, s := range list {
		n += len(s.on)
	}
	of := b.doc.Called(list[0].path)
	for _, s := range list {
		if s.layer != list[0].layer {
			of = "several layers"
			break
		}
		if s != list[0] {
			of = list[0].layer.Name
		}
	}
	if n == 1 {
		return "a key of " + of
	}
	return fmt.Sprintf("%d keys of %s", n, of)
}

// retimed gives picked keys other instants. One that comes to lie on a key that is not picked takes its place.
func (s *strand) retimed(to func(at timing.Rat) timing.Rat) error {
	stand := map[timing.Rat]string{}
	for i := range s.move.Keys {
		k := &s.move.Keys[i]
		if !s.picked(k.ID) {
			continue
		}
		next := to(k.At)
		if next.Cmp(k.At) != 0 {
			s.free[k.ID] = false
		}
		k.At = next
		if stand[next] != "" {
			return fmt.Errorf("two keys of %s would lie on one another at frame %s", s.layer.Name, next.Add(s.late))
		}
		stand[next] = k.ID
	}
	s.move.Keys = slices.DeleteFunc(s.move.Keys, func(k template.Key) bool {
		over := !s.picked(k.ID) && stand[k.At] != ""
		if over {
			s.gone = append(s.gone, k.ID)
		}
		return over
	})
	s.sorted()
	return nil
}

func (s *strand) sorted() {
	sort.SliceStable(s.move.Keys, func(i, j int) bool { return s.move.Keys[i].At.Cmp(s.move.Keys[j].At) < 0 })
}

// keep writes a motion, if it is another; without keys it is gone.
func (b *bench) keep(s *strand) error {
	m := s.move
	m.Keys = slices.Clone(m.Keys)
	for i := range m.Keys {
		k := &m.Keys[i]
		k.At = k.At.Short()
		if away := k.At.Add(s.late); away.Cmp(timing.Int(2*b.doc.Frames)) > 0 || away.Cmp(timing.Int(-b.doc.Frames)) < 0 {
			return fmt.Errorf("a key of %s would lie at frame %s, farther off the template's %d frames than they are long", s.layer.Name, away, b.doc.Frames)
		}
		// One that goes otherwise than the easing that it is named after is no longer that.
		if e := b.doc.Easing(k.Named); k.Named != "" && (e == nil || !e.Eases(k)) {
			k.Named = ""
		}
		// What is passed by itself on an even way goes on being so, but at its ends.
		if s.free[k.ID] && m.Even && i > 0 && i < len(m.Keys)-1 {
			k.At = timing.Rat{}
		}
	}
	if s.by != nil {
		m = *s.tempo.Saved(&m)
	}
	was := s.node.Motion[s.name()]
	if was != nil && len(m.Keys) > 0 {
		if _, err := b.doc.Track(s.node, s.prop, s.part, &m, b.canvas()); err != nil {
			return fmt.Errorf("%s: keys%w", b.doc.Called(s.path), err)
		}
	}
	if was == nil && len(m.Keys) == 0 {
		return nil
	}
	for _, id := range s.gone {
		b.forget(strings.TrimSuffix(s.path, s.name()) + "motion/" + s.name() + "/" + id)
	}
	op := edit.DraftOp{Kind: "keys", Path: s.path}
	if len(m.Keys) > 0 {
		op.Move = &m
	}
	b.add(op)
	return nil
}

func (b *bench) keepAll(list []*strand) error {
	for _, s := range list {
		if err := b.keep(s); err != nil {
			return err
		}
	}
	return nil
}

// keyAt finds the key at an instant of the layer's own time, or puts one there, by which nothing goes otherwise.
func (b *bench) keyAt(s *strand, at timing.Rat) (int, error) {
	keys := s.move.Keys
	i := sort.Search(len(keys), func(i int) bool { return keys[i].At.Cmp(at) >= 0 })
	if i < len(keys) && keys[i].At.Cmp(at) == 0 {
		return i, nil
	}
	if len(keys) >= timing.MaxKeys {
		return 0, fmt.Errorf("%s has %d keys already", b.doc.Called(s.path), len(keys))
	}
	k := template.Key{At: at, ID: nextID("k", func(id string) bool { return s.find(id) >= 0 })}
	switch {
	case len(keys) == 0:
		v, err := b.still(s)
		if err != nil {
			return 0, err
		}
		k.Value = v
	case i == 0:
		k.Value = keys[0].Value
	case i == len(keys):
		k.Value = keys[i-1].Value
	default:
		if err := b.between(s, i-1, &k); err != nil {
			return 0, err
		}
	}
	s.move.Keys = slices.Insert(slices.Clone(s.move.Keys), i, k)
	return i, nil
}

// between makes a key on the way from one key to the next.
func (b *bench) between(s *strand, i int, k *template.Key) error {
	track, err := s.now(b)
	if err != nil {
		return err
	}
	s.move.Keys = slices.Clone(s.move.Keys)
	from, to := &s.move.Keys[i], &s.move.Keys[i+1]
	v := make([]float64, track.Width())
	track.Value(timing.TemplateTime{Rat: k.At}, v)
	k.Value = s.value(v)
	if from.Hold || s.steady() {
		k.Hold, k.Value = from.Hold, from.Value
		return nil
	}
	if n := from.Steps; n != nil {
		// Between two steps the way falls into two with fewer each.
		x := k.At.Sub(from.At).Div(to.At.Sub(from.At)).Mul(timing.Int(int64(n.Count)))
		if x.D != 1 || n.Jump != "" && n.Jump != "end" {
			return fmt.Errorf("%s goes in steps there; put the key where one is made", b.doc.Called(s.path))
		}
		k.Steps = &timing.Steps{Count: n.Count - int(x.N), Jump: n.Jump}
		from.Steps = &timing.Steps{Count: int(x.N), Jump: n.Jump}
		return nil
	}
	first, middle, last, ok := track.Divide(i, k.At)
	if !ok { // its easing swings to an end of the way: as near as easings come
		k.Ease = from.Ease
		return nil
	}
	from.Ease, k.Ease = first.Ease, middle.Ease
	if s.prop.Way && s.part < 0 {
		handle := func(v [2]float64) *[2]float64 {
			if v = [2]float64{short(v[0]), short(v[1])}; v == [2]float64{} {
				return nil
			}
			return &v
		}
		from.Out, k.In, k.Out, to.In = handle(first.Out), handle(middle.In), handle(middle.Out), handle(last.In)
	}
	return nil
}

// short is a number of a key as it is written.
func short(v float64) float64 { return math.Round(v*1e6)/1e6 + 0 }

// now is its track as it stands by now.
func (s *strand) now(b *bench) (*timing.Track, error) {
	return b.doc.Track(s.node, s.prop, s.part, &s.move, b.canvas())
}

// value is what a key has of numbers.
func (s *strand) value(v []float64) scheme.Value {
	out := make([]float64, len(v))
	for i := range v {
		out[i] = short(v[i])
	}
	switch p := s.prop; {
	case p.Type == scheme.Colour:
		return scheme.Says(hex(v))
	case p.Type == scheme.Choice:
		return scheme.Says(p.Words[min(max(int(v[0]), 0), len(p.Words)-1)])
	case p.Type == scheme.Switch:
		return scheme.Is(v[0] != 0)
	case p.Type == scheme.Points:
		w := s.node.Get(p)
		w.Numbers = out
		return w
	case len(out) == 1 && p.Type == scheme.Numbers, p.Alike && p.Type == scheme.Numbers && slices.Max(out) == slices.Min(out):
		return scheme.One(out[0])
	}
	return scheme.Many(out...)
}

// hex is a colour as it is written, of red, green, blue and alpha, 0 to 255 each.
func hex(v []float64) string {
	c := [4]uint8{}
	for i := range c {
		c[i] = uint8(math.Round(math.Max(0, math.Min(255, v[i]))))
	}
	return scheme.RGBA{R: c[0], G: c[1], B: c[2], A: c[3]}.String()
}

// still is the value of a key by which nothing departs from rest.
func (b *bench) still(s *strand) (scheme.Value, error) {
	switch s.joins() {
	case scheme.Plus:
		return s.value(make([]float64, b.width(s))), nil
	case scheme.Times:
		v := make([]float64, b.width(s))
		for i := range v {
			v[i] = 1
		}
		return s.value(v), nil
	}
	if s.prop.Type == scheme.Points {
		if v := s.node.Get(s.prop); len(v.Numbers) > 0 {
			return v, nil
		}
		return scheme.Value{}, fmt.Errorf("%s is not drawn by points", b.doc.Called(s.path))
	}
	_, now, err := b.standing(s)
	return s.value(now), err
}

func (b *bench) width(s *strand) int {
	if s.part >= 0 {
		return 1
	}
	return s.prop.Width()
}

// standing is where a property rests in the format that is looked at, and what it is at the frame.
func (b *bench) standing(s *strand) (rest, now []float64, err error) {
	if s.by != nil && s.node.Sort() != scheme.SavedMoves { // it comes along with a move
		rest = s.prop.Full(s.node.Get(s.prop).Resolved(b.canvas()))
		if s.part >= 0 && s.part < len(rest) {
			rest = rest[s.part : s.part+1]
		}
		return rest, rest, nil
	}
	looks, err := b.looks(s.seen())
	if err != nil {
		return nil, nil, err
	}
	full := "layers/" + s.seen() + "/" + strings.TrimSuffix(s.inner(), "."+s.prop.PartName(s.part))
	for i := range looks {
		if p := &looks[i]; p.Path == full {
			if rest, now = p.Rest, p.Now; s.part >= 0 && s.part < len(rest) {
				rest, now = rest[s.part:s.part+1], now[s.part:s.part+1]
			}
			return rest, now, nil
		}
	}
	return nil, nil, fmt.Errorf("%s is not there in this format", b.doc.Called(s.path))
}

// measure is how many px 1 is of each of its numbers, where keys add lengths, and 1 otherwise.
func (b *bench) measure(s *strand) ([]float64, error) {
	out := make([]float64, b.width(s))
	for i := range out {
		out[i] = 1
	}
	if !s.lengths() {
		return out, nil
	}
	sc, err := b.scene()
	if err != nil {
		return nil, err
	}
	for i := range out {
		if out[i] = sc.Measure(s.seen(), s.prop, s.part, s.move.Unit, i); out[i] == 0 {
			return nil, fmt.Errorf("%s has no size by which its keys could be measured", s.layer.Name)
		}
	}
	return out, nil
}

// sets makes a key another by what is to be seen of each of its numbers where rest is so much: to tells of
// each number what it is to be by what it is with the key as it is.
func (b *bench) sets(s *strand, i int, to func(k int, is float64) float64) error {
	rest, _, err := b.standing(s)
	if err != nil {
		return err
	}
	by, err := b.measure(s)
	if err != nil {
		return err
	}
	v, err := s.numbers(b, i)
	if err != nil {
		return err
	}
	for k := range v {
		far := 1.0 // how far the performance of a saved move goes
		if s.by != nil && s.joins() != scheme.Instead {
			if far = s.tempo.Amount(); far == 0 {
				return fmt.Errorf("%s performs the move over no distance, by which its keys can't be set", s.layer.Name)
			}
		}
		switch s.joins() {
		case scheme.Plus:
			v[k] = (to(k, rest[k]+v[k]*by[k]*far) - rest[k]) / by[k] / far
		case scheme.Times:
			want := to(k, rest[k]*(1+(v[k]-1)*far))
			if rest[k] == 0 {
				if want == 0 {
					continue
				}
				return fmt.Errorf("%s rests at 0, of which its keys are shares; stop recording and set it, then record", b.doc.Called(s.path))
			}
			v[k] = 1 + (want/rest[k]-1)/far
		default:
			v[k] = to(k, v[k])
		}
	}
	if s.joins() == scheme.Times && s.prop.Hi == 1 && s.by == nil {
		if err := b.raise(s, i, v); err != nil {
			return err
		}
	}
	val := s.value(v)
	if err := s.prop.CheckKey(b.doc, b.wide(s, val), s.move.Unit == template.OwnUnit); err != nil {
		return fmt.Errorf("%s: %w", b.doc.Called(s.path), err)
	}
	s.move.Keys = slices.Clone(s.move.Keys)
	s.move.Keys[i].Value = val
	return nil
}

// wide is a value of one of a property's numbers as one of all of them, to be checked.
func (b *bench) wide(s *strand, v scheme.Value) scheme.Value {
	if s.part < 0 {
		return v
	}
	return scheme.Many(slices.Repeat(v.Numbers[:1], max(1, s.prop.Width()))...)
}

// raise lets what can't be more than whole rest higher, where a key is to be more than it rests at: the
// other keys are smaller shares of it then.
func (b *bench) raise(s *strand, i int, v []float64) error {
	most := 1.0
	for _, n := range v {
		most = math.Max(most, n)
	}
	if most <= 1 {
		return nil
	}
	for _, f := range b.doc.Formats {
		if _, own := f.Rest[s.path]; own {
			return fmt.Errorf("%s rests at less in the format %s, of which its keys are shares; stop recording and raise it there", b.doc.Called(s.path), f.Name)
		}
	}
	if by := b.doc.Driver(s.path); by != "" {
		return fmt.Errorf("%s rests where %s sets it, of which its keys are shares", b.doc.Called(s.path), by)
	}
	rest, _, err := b.standing(s)
	if err != nil {
		return err
	}
	next := scheme.One(short(rest[0] * most))
	if err := b.fits(s.prop, s.path, next); err != nil {
		return err
	}
	b.add(edit.DraftOp{Kind: "set", Path: s.path, Value: &next})
	s.move.Keys = slices.Clone(s.move.Keys)
	for k := range s.move.Keys {
		if k != i && len(s.move.Keys[k].Value.Numbers) == 1 {
			s.move.Keys[k].Value = scheme.One(short(s.move.Keys[k].Value.Numbers[0] / most))
		}
	}
	for k := range v {
		v[k] /= most
	}
	return nil
}

// numbers are those of a key, resolved on the canvas.
func (s *strand) numbers(b *bench, i int) ([]float64, error) {
	t, err := s.now(b)
	if err != nil {
		return nil, err
	}
	return slices.Clone(t.Keys()[i].Value), nil
}
