package craft

import (
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"strings"

	"ivypocket/core/edit"
	"ivypocket/core/recipe"
	"ivypocket/core/scheme"
	"ivypocket/core/template"
	"ivypocket/core/timing"
)

// Ready moves: plain keys that begin at the frame that is looked at, and depart from where layers stand and what they do.
func init() {
	register(
		row{"ready", "`layers`, `way` (a move that `GET /api/moves` tells), `numbers` (those it asks for)", "puts the keys of a ready move on layers, from the frame that is looked at", ready},
		row{"stagger", "`keys`, or `layers` (all of theirs); `numbers`: `frames` each, or `overlap` (hundredths of how long one takes), or `spread` (frames from the first to the last), `from` (the frame at which the first begins, else as it is), `seed`; `way`: `order`, `back`, `right`, `left`, `down`, `up`, `middle`, `edges`, `random`",
			"lets the keys of one layer begin after those of the other: in their order, by where they stand, or by chance", stagger},
	)
}

// Move is a ready move: a row of the table.
type Move struct {
	Kind    string          `json:"kind"`
	Label   string          `json:"label"`
	About   string          `json:"about"`
	Numbers []recipe.Number `json:"numbers"`

	fits  func(y *template.Layer) bool
	build func(m *mover) error
}

var (
	asksLength = recipe.Number{Name: "length", Label: "Length", Unit: "frames", About: "How long it takes", Least: 1, Most: 10000, Default: 20}
	asksWay    = recipe.Number{Name: "way", Label: "Way", About: "It comes to where it is, or leaves as it would have come", Words: []string{"in", "out"}}
	asksSoft   = recipe.Number{Name: "soft", Label: "Softness", Unit: "%", About: "0 is violent, 100 is hardly eased", Most: 100, Default: 35}
	asksTimes  = recipe.Number{Name: "times", Label: "Times", About: "How often", Least: 1, Most: 200, Default: 2}
	asksSide   = recipe.Number{Name: "side", Label: "From", About: "The side it comes from, or leaves to", Words: []string{"left", "right", "above", "below"}}
)

func amount(label, about string, least, most, usual float64) recipe.Number {
	return recipe.Number{Name: "amount", Label: label, Unit: "%", About: about, Least: least, Most: most, Default: usual}
}

func usual(n recipe.Number, v float64) recipe.Number {
	n.Default = v
	return n
}

func placed(y *template.Layer) bool { return y.Can(scheme.Moves) || y.Can(scheme.Box) }

// readyMoves are all, in the order in which they are told.
var readyMoves = []*Move{
	{Kind: "enter", Label: "Enter", About: "Comes from a side of the canvas", fits: placed, Numbers: []recipe.Number{asksWay, asksSide, asksLength, amount("Distance", "Hundredths of the canvas", 1, 400, 100), asksSoft}, build: enter},
	{Kind: "fade", Label: "Fade", About: "Comes out of nothing", fits: func(y *template.Layer) bool { return y.Can(scheme.Seen) }, Numbers: []recipe.Number{asksWay, asksLength, asksSoft}, build: fade},
	{Kind: "pop", Label: "Pop", About: "Grows from nothing, beyond its size and back", fits: placed, Numbers: []recipe.Number{asksWay, asksLength, amount("Overshoot", "How far it grows beyond", 0, 100, 30)}, build: pop},
	{Kind: "wipe", Label: "Wipe on", About: "Is uncovered from a side, by a mask", fits: func(y *template.Layer) bool { return y.Can(scheme.Seen) && y.Can(scheme.Box) }, Numbers: []recipe.Number{asksWay, asksSide, asksLength, asksSoft}, build: wipe},
	{Kind: "draw", Label: "Draw on", About: "Its line is drawn from its beginning", fits: func(y *template.Layer) bool { return y.Given(scheme.StrokeColour) }, Numbers: []recipe.Number{asksWay, asksLength, asksSoft}, build: drawOn},
	{Kind: "focus", Label: "Focus pull", About: "Comes into focus", fits: func(y *template.Layer) bool { return y.Can(scheme.Blends) }, Numbers: []recipe.Number{asksWay, asksLength, {Name: "blur", Label: "Blur", Unit: "px", About: "Out of focus", Least: 1, Most: 300, Default: 40}, asksSoft}, build: focus},
	{Kind: "settle", Label: "Settle", About: "Comes nearer and to rest, as a camera does", fits: placed, Numbers: []recipe.Number{usual(asksLength, 50), amount("Nearer", "How much larger it begins", 1, 200, 12), asksSoft}, build: settleDown},
	{Kind: "pulse", Label: "Pulse", About: "Grows a little and comes back", fits: placed, Numbers: []recipe.Number{usual(asksLength, 24), asksTimes, amount("Growth", "How much it grows", 1, 100, 8)}, build: pulse},
	{Kind: "drift", Label: "Drift", About: "Goes slowly on", fits: placed, Numbers: []recipe.Number{asksSide, usual(asksLength, 100), amount("Distance", "Hundredths of the canvas", 1, 100, 4)}, build: drift},
	{Kind: "sway", Label: "Sway", About: "Swings from side to side", fits: placed, Numbers: []recipe.Number{usual(asksLength, 60), asksTimes, {Name: "turn", Label: "Turn", Unit: "°", About: "To either side", Least: 0.1, Most: 180, Default: 6}}, build: sway},
	{Kind: "cuts", Label: "Hold cuts", About: "Jumps from place to place and is held there", fits: placed, Numbers: []recipe.Number{usual(asksLength, 24), usual(asksTimes, 6), amount("Distance", "Hundredths of the canvas", 0.1, 50, 2), {Name: "seed", Label: "Seed", About: "Another one jumps otherwise", Most: 9999, Default: 1}}, build: cuts},
}

func init() {
	for _, m := range readyMoves {
		recipe.Limit(m.Numbers)
	}
}

// Moves lists the ready moves.
func Moves() []*Move { return readyMoves }

// mover is a ready move on its way onto a layer.
type mover struct {
	b    *bench
	y    *template.Layer // nil while it is saved
	n    map[string]float64
	from timing.Rat // in the layer's own time
	save object     // what becomes a saved move; nil puts keys on the layer
}

func (m *mover) out() bool { return m.n["way"] == 1 }

// side is where it comes from, across and down.
func (m *mover) side() [2]float64 {
	return [][2]float64{{-1, 0}, {1, 0}, {0, -1}, {0, 1}}[int(m.n["side"])]
}

// rested is an easing into rest, as soft as it is to be.
func (m *mover) rested() *timing.Easing {
	s := m.n["soft"] / 100
	hundredth := func(v float64) float64 { return math.Round(v*100) / 100 }
	return &timing.Easing{hundredth(0.05 + 0.3*s), hundredth(0.9 - 0.55*s), hundredth(0.05 + 0.6*s), 1}
}

// swung is one out of rest and into it.
var swung = timing.Easing{0.37, 0, 0.63, 1}

// beat is a key of a move: after so many frames, so far from what is there without it.
type beat struct {
	at   int64
	v    []float64
	ease *timing.Easing
	hold bool
}

// beats writes keys of a move on a property: what was there in their time is departed from, or multiplied.
func (m *mover) beats(p *scheme.Property, list ...beat) error {
	if m.save != nil {
		motion := object{"keys": m.keys(list)}
		if p.Join == scheme.Plus && p.Length {
			motion["unit"] = template.CanvasUnit
		}
		m.save["motion"] = object{p.Name: motion}
		return nil
	}
	if m.out() {
		list = backwards(list)
	}
	s, err := m.b.strand("layers/" + m.y.ID + "/" + p.Name)
	if err != nil {
		return err
	}
	if err := m.b.mayKey(s); err != nil {
		return err
	}
	for _, name := range names(p) {
		if m.y.Motion[name] != nil {
			return fmt.Errorf("%s of %s has keys for each of its numbers; put them together first", strings.ToLower(p.Label), m.y.Name)
		}
	}
	had := s.track
	first, last := m.from.Add(timing.Int(list[0].at)), m.from.Add(timing.Int(list[len(list)-1].at))
	if had != nil {
		s.move.Keys = slices.DeleteFunc(s.move.Keys, func(k template.Key) bool {
			gone := k.At.Cmp(first) >= 0 && k.At.Cmp(last) <= 0
			if gone {
				s.gone = append(s.gone, k.ID)
			}
			return gone
		})
	}
	by, err := m.b.measure(s)
	if err != nil {
		return err
	}
	for _, bt := range list {
		at := m.from.Add(timing.Int(bt.at))
		v := slices.Clone(bt.v)
		if len(v) == 1 && m.b.width(s) == 2 {
			v = append(v, v[0])
		}
		if s.lengths() { // shares of the canvas
			c := m.b.canvas()
			for i := range v {
				v[i] = v[i] * []float64{c.W, c.H}[i%2] / by[i]
			}
		}
		if had != nil {
			was := make([]float64, had.Width())
			had.Value(timing.TemplateTime{Rat: at}, was)
			for i := range v {
				if s.joins() == scheme.Times {
					v[i] *= was[i]
				} else if s.joins() == scheme.Plus {
					v[i] += was[i]
				}
			}
		}
		k := template.Key{At: at, Value: s.value(v), Ease: bt.ease, Hold: bt.hold}
		k.ID = nextID("k", func(id string) bool { return s.find(id) >= 0 })
		s.move.Keys = append(s.move.Keys, k)
	}
	s.move.Even = s.move.Even && had != nil
	s.sorted()
	return m.b.keep(s)
}

// backwards lets beats leave as they would have come.
func backwards(list []beat) []beat {
	end := list[len(list)-1].at
	out := make([]beat, 0, len(list))
	for i := len(list) - 1; i >= 0; i-- {
		bt := beat{at: end - list[i].at, v: list[i].v}
		if i > 0 {
			bt.ease, bt.hold = list[i-1].ease.Back(), list[i-1].hold
		}
		out = append(out, bt)
	}
	return out
}

// part adds a mask or a treatment that moves.
func (m *mover) part(into string, o object, p string, unit string, list ...beat) error {
	if m.out() {
		list = backwards(list)
	}
	move := object{"keys": m.keys(list)}
	if unit != "" {
		move["unit"] = unit
	}
	o["motion"] = object{p: move}
	if m.save != nil {
		m.save[into] = []object{o}
		return nil
	}
	id, _ := o["id"].(string)
	k, _ := m.y.Sort().Part(into)
	taken := m.y.Part(k)
	for n := 2; slices.ContainsFunc(taken, func(t *template.Node) bool { return t.ID == o["id"] }); n++ {
		o["id"] = fmt.Sprintf("%s-%d", id, n)
	}
	raw, err := json.Marshal(o)
	if err != nil {
		return err
	}
	m.b.add(edit.DraftOp{Kind: "add", Into: "layers/" + m.y.ID + "/" + into, At: -1, Part: raw})
	return nil
}

// keys writes beats as they stand in a document.
func (m *mover) keys(list []beat) (keys []object) {
	for i, bt := range list {
		for j := range bt.v {
			bt.v[j] = short(bt.v[j])
		}
		k := object{"id": fmt.Sprintf("k%d", i+1), "at": m.from.Add(timing.Int(bt.at)), "value": bt.v}
		if len(bt.v) == 1 {
			k["value"] = bt.v[0]
		}
		if bt.ease != nil {
			k["ease"] = bt.ease
		}
		if bt.hold {
			k["hold"] = true
		}
		keys = append(keys, k)
	}
	return keys
}

func (m *mover) long() int64 { return int64(m.n["length"]) }

func enter(m *mover) error {
	s, d := m.side(), m.n["amount"]/100
	return m.beats(scheme.Place, beat{0, []float64{s[0] * d, s[1] * d}, m.rested(), false}, beat{m.long(), []float64{0, 0}, nil, false})
}

func fade(m *mover) error {
	return m.beats(scheme.Opacity, beat{0, []float64{0}, m.rested(), false}, beat{m.long(), []float64{1}, nil, false})
}

func pop(m *mover) error {
	e := &timing.Easing{0.2, math.Round((0.9+2.2*m.n["amount"]/100)*100) / 100, 0.35, 1}
	return m.beats(scheme.Scale, beat{0, []float64{0}, e, false}, beat{m.long(), []float64{1}, nil, false})
}

func wipe(m *mover) error {
	s := m.side()
	return m.part("masks", object{"id": "wipe"}, "place", template.SelfUnit, beat{0, []float64{s[0], s[1]}, m.rested(), false}, beat{m.long(), []float64{0, 0}, nil, false})
}

func drawOn(m *mover) error {
	return m.beats(scheme.StrokeTo, beat{0, []float64{0}, m.rested(), false}, beat{m.long(), []float64{1}, nil, false})
}

func focus(m *mover) error {
	return m.part("treatments", object{"id": "focus", "kind": scheme.Blur.Name, "radius": m.b.lengths(m.n["blur"])[0]}, "radius", "", beat{0, []float64{1}, m.rested(), false}, beat{m.long(), []float64{0}, nil, false})
}

func settleDown(m *mover) error {
	return m.beats(scheme.Scale, beat{0, []float64{1 + m.n["amount"]/100}, m.rested(), false}, beat{m.long(), []float64{1}, nil, false})
}

// swings goes there and back so often, each way in half of its time.
func (m *mover) swings(p *scheme.Property, rest, there, back float64) error {
	n := int64(m.n["times"])
	var list []beat
	e := swung
	at := func(k int64) int64 { return m.long() * k / (2 * n) }
	for k := int64(0); k <= 2*n; k++ {
		v := rest
		if k%2 == 1 {
			if v = there; k/2%2 == 1 {
				v = back
			}
		}
		bt := beat{at(k), []float64{v}, &e, false}
		if k == 2*n {
			bt.ease = nil
		}
		if k > 0 && at(k) <= at(k-1) {
			return fmt.Errorf("%d times do not fit into %d frames", n, m.long())
		}
		list = append(list, bt)
	}
	return m.beats(p, list...)
}

func pulse(m *mover) error {
	k := 1 + m.n["amount"]/100
	return m.swings(scheme.Scale, 1, k, k)
}

func sway(m *mover) error { return m.swings(scheme.Turn, 0, m.n["turn"], -m.n["turn"]) }

func drift(m *mover) error {
	s, d := m.side(), m.n["amount"]/100
	return m.beats(scheme.Place, beat{0, []float64{0, 0}, nil, false}, beat{m.long(), []float64{-s[0] * d, -s[1] * d}, nil, false})
}

func cuts(m *mover) error {
	n := int64(m.n["times"])
	if n >= m.long() {
		return fmt.Errorf("%d cuts do not fit into %d frames", n, m.long())
	}
	rng := rand.New(rand.NewPCG(uint64(m.n["seed"]), 7))
	var list []beat
	for k := int64(0); k <= n; k++ {
		v := []float64{0, 0}
		if k > 0 && k < n {
			for i := range v {
				v[i] = (rng.Float64()*2 - 1) * m.n["amount"] / 100
			}
		}
		list = append(list, beat{m.long() * k / n, v, nil, k < n})
	}
	return m.beats(scheme.Place, list...)
}

func readyKinds() (kinds []string) {
	for _, m := range readyMoves {
		kinds = append(kinds, m.Kind)
	}
	return kinds
}

func ready(b *bench, a Act) error {
	i := slices.IndexFunc(readyMoves, func(m *Move) bool { return m.Kind == a.Way })
	if i < 0 {
		return fmt.Errorf("way: %q is not one of %s", a.Way, strings.Join(readyKinds(), ", "))
	}
	list, err := b.chosen()
	if err != nil {
		return err
	}
	move := readyMoves[i]
	n, err := recipe.Whole(move.Numbers, move.Label, a.Numbers)
	if err != nil {
		return err
	}
	b.title = move.Label + " for " + b.called(a.Layers)
	done := 0
	for _, y := range list {
		if !move.fits(y) {
			continue
		}
		m := &mover{b: b, y: y, n: n, from: timing.Int(min(max(a.Frame, 0), b.doc.Frames-1)).Sub(b.spanOf(y).late)}
		if err := move.build(m); err != nil {
			return err
		}
		done++
	}
	if done == 0 {
		return fmt.Errorf("%s can't do that: %s", b.called(a.Layers), strings.ToLower(move.About[:1])+move.About[1:])
	}
	return nil
}

func stagger(b *bench, a Act) error {
	var list []*strand
	var played []performed
	var err error
	if len(a.Keys) > 0 {
		if list, err = b.picks(a); err != nil {
			return err
		}
		for _, s := range list {
			if s.by != nil {
				return fmt.Errorf("keys: %s is of a saved move, the same for all who perform it; stagger the layers", b.doc.Called(s.path))
			}
		}
	} else {
		layers, err := b.chosen()
		if err != nil {
			return err
		}
		for _, y := range layers {
			for _, m := range y.Moving() {
				s, err := b.strand(m.Path)
				if err != nil {
					return err
				}
				for _, k := range s.move.Keys {
					s.on = append(s.on, k.ID)
				}
				list = append(list, s)
			}
			played = append(played, b.performedBy(y, b.use)...)
		}
	}
	// Of each layer, when its keys begin and end.
	type turn struct {
		y           *template.Layer
		seen        string
		first, last timing.Rat
		x, y2       float64
	}
	var turns []*turn
	of := map[string]*turn{}
	takes := func(y *template.Layer, seen string, at timing.Rat) {
		t := of[y.ID]
		if t == nil {
			t = &turn{y: y, seen: seen, first: at, last: at}
			of[y.ID] = t
			turns = append(turns, t)
		}
		if at.Cmp(t.first) < 0 {
			t.first = at
		}
		if at.Cmp(t.last) > 0 {
			t.last = at
		}
	}
	for _, s := range list {
		for _, k := range s.move.Keys {
			if s.picked(k.ID) {
				takes(s.layer, s.seen(), k.At.Add(s.late))
			}
		}
	}
	for _, p := range played {
		takes(p.layer, p.seen, p.from)
		takes(p.layer, p.seen, p.to)
	}
	if len(played) > 0 { // some may have keys, others perform
		order := map[string]int{}
		b.doc.VisitAll(func(_ string, y *template.Layer) { order[y.ID] = len(order) })
		slices.SortStableFunc(turns, func(a, b *turn) int { return order[a.y.ID] - order[b.y.ID] })
	}
	if len(turns) < 2 {
		return errors.New("layers: select two or more that move; what they do begins one after the other")
	}
	begin, long := turns[0].first, turns[0].last.Sub(turns[0].first)
	for _, t := range turns {
		if t.first.Cmp(begin) < 0 {
			begin = t.first
		}
		if l := t.last.Sub(t.first); l.Cmp(long) > 0 {
			long = l
		}
	}
	each, ok := a.Numbers["frames"]
	if overlap, by := a.Numbers["overlap"]; by {
		if overlap < 0 || overlap > 100 {
			return fmt.Errorf("overlap: %g is outside 0 to 100", overlap)
		}
		each, ok = long.Float()*(1-overlap/100), true
	}
	spread, whole := a.Numbers["spread"]
	if whole {
		each, ok = spread, true
	}
	if from, says := a.Numbers["from"]; says {
		if math.Abs(from) > 2*float64(b.doc.Frames) {
			return fmt.Errorf("from: frame %g lies far off the template's %d frames", from, b.doc.Frames)
		}
		begin = timing.Int(int64(math.Round(from)))
	}
	if !ok || math.Abs(each) > float64(b.doc.Frames) {
		return errors.New("numbers: say how many frames lie between one and the next, or how far they overlap")
	}
	stands, err := b.stand()
	if err != nil {
		return err
	}
	for _, t := range turns {
		for i := range stands {
			if stands[i].Layer == t.y.ID || stands[i].Layer == t.seen {
				c := stands[i].Box().Centre()
				t.x, t.y2 = c.X, c.Y
			}
		}
	}
	rank, err := ranks(a, len(turns), func(i int) (float64, float64) { return turns[i].x, turns[i].y2 }, b.canvas().W/2, b.canvas().H/2)
	if err != nil {
		return err
	}
	if last := slices.Max(rank); whole && last > 0 {
		each /= last
	}
	b.title = fmt.Sprintf("Stagger %d layers", len(turns))
	at := map[string]timing.Rat{}
	for i, t := range turns {
		at[t.y.ID] = begin.Add(timing.Int(int64(math.Round(each * rank[i])))).Sub(t.first)
	}
	for _, s := range list {
		by := at[s.layer.ID]
		if by.N == 0 {
			continue
		}
		if err := s.retimed(func(at timing.Rat) timing.Rat { return at.Add(by) }); err != nil {
			return err
		}
		if err := b.keep(s); err != nil {
			return err
		}
	}
	for _, p := range played {
		if by := at[p.layer.ID]; by.N != 0 {
			if err := b.playFrom(p, p.at.Add(by)); err != nil {
				return err
			}
		}
	}
	return nil
}

// ranks are whose turn is when, from 0: those that stand the same share theirs.
func ranks(a Act, n int, at func(i int) (x, y float64), midX, midY float64) ([]float64, error) {
	key := make([]float64, n)
	for i := range key {
		x, y := at(i)
		switch a.Way {
		case "", "order":
			key[i] = float64(i)
		case "back":
			key[i] = -float64(i)
		case "right":
			key[i] = math.Round(x)
		case "left":
			key[i] = -math.Round(x)
		case "down":
			key[i] = math.Round(y)
		case "up":
			key[i] = -math.Round(y)
		case "middle":
			key[i] = math.Round(math.Hypot(x-midX, y-midY))
		case "edges":
			key[i] = -math.Round(math.Hypot(x-midX, y-midY))
		case "random":
		default:
			return nil, fmt.Errorf("way: %q is not one of order, back, right, left, down, up, middle, edges, random", a.Way)
		}
	}
	if a.Way == "random" {
		for i, k := range rand.New(rand.NewPCG(uint64(a.Numbers["seed"]), 11)).Perm(n) {
			key[i] = float64(k)
		}
	}
	sorted := slices.Compact(slices.Sorted(slices.Values(key)))
	out := make([]float64, n)
	for i := range key {
		out[i] = float64(slices.Index(sorted, key[i]))
	}
	return out, nil
}
