package server

import (
	"encoding/json"
	"fmt"
	"math"
	"net/http"
	"slices"
	"strings"

	"ivypocket/core/geom"
	"ivypocket/core/scene"
	"ivypocket/core/scheme"
	"ivypocket/core/sheet"
	"ivypocket/core/template"
	"ivypocket/core/timing"
	"ivypocket/store"
)

type (
	// LayerLine is a layer in the list of layers.
	LayerLine struct {
		ID     string `json:"id"`
		Name   string `json:"name"`
		Kind   string `json:"kind" doc:"A kind of layers, such as view or shape"`
		About  string `json:"about" doc:"What the kind is called"`
		Thread string `json:"thread" enum:",media,words,colour,amount,duration"`
		Depth  int    `json:"depth" doc:"How many groups it is in"`
		Pocket string `json:"pocket"`
		Hidden bool   `json:"hidden"`
		Locked bool   `json:"locked"`
		// Holds says that others may lie in it. Matte, Follows and Motif are the layers
		// and the motif it hangs on, by their ids; Form is that of a shape.
		Holds   bool   `json:"holds"`
		Matte   string `json:"matte"`
		Follows string `json:"follows"`
		Motif   string `json:"motif"`
		Without string `json:"without" doc:"The pocket that it is left out without"`
		LeftOut bool   `json:"leftOut" doc:"It is left out, as nothing lies in that pocket"`
		Form    string `json:"form"`
		// Reads are the layers that its formulas speak of.
		Reads  []string `json:"reads"`
		Layout string   `json:"layout" doc:"The layout in a cell of which it stands"`
		Motion bool     `json:"motion" doc:"It has keys or formulas of its own"`
		// From and Until are when it is there, in frames of the template; Tracks what moves on it.
		From   float64     `json:"from"`
		Until  float64     `json:"until"`
		Tracks []TrackLine `json:"tracks"`
		// Performs is what it does besides its own keys.
		Performs []PerformanceLine `json:"performs"`
	}
	// LayerView is a layer with its properties at rest and at a frame.
	LayerView struct {
		ID         string         `json:"id"`
		Name       string         `json:"name"`
		Kind       string         `json:"kind"`
		Blend      string         `json:"blend"`
		Matte      string         `json:"matte" doc:"What it is cut by, in words"`
		Follows    string         `json:"follows"`
		Copies     int            `json:"copies"`
		Properties []PropertyView `json:"properties"`
		// Stops are those of a gradient of its own.
		Stops []ShadeView `json:"stops"`
		// Pull takes a way on the canvas to one of the layer's place: [a, b, c, d],
		// x = a·dx + c·dy, y = b·dx + d·dy.
		Pull [4]float64 `json:"pull"`
		// Forms are its outline, where it is a shape, and those of its masks.
		Forms []FormedView `json:"forms"`
		// Ends are where its gradient begins and ends, px on the canvas; empty is none.
		Ends []geom.Point `json:"ends"`
		// Sheet are the corners of what a camera moves, clockwise from the top left, and then its
		// middle, px on the canvas; empty is no camera.
		Sheet []geom.Point `json:"sheet"`
	}
	// PropertyView is one property, with all that a panel needs to show it.
	PropertyView struct {
		Path    string `json:"path"`
		Name    string `json:"name"`
		Label   string `json:"label"`
		Section string `json:"section"`
		Kind    string `json:"kind" enum:"number,list,colour,choice,switch,path,time,reference,words,typeface"`
		// Parts names the numbers; one without a name is "". Alike says that they
		// may be set as one.
		Parts []string `json:"parts"`
		Alike bool     `json:"alike"`
		// Paths are those of its numbers.
		Paths []string `json:"paths"`
		// Numbers are shown times Factor, with Sign behind them.
		Factor float64   `json:"factor"`
		Sign   string    `json:"sign"`
		Step   float64   `json:"step" doc:"0: as it suits the limits"`
		Whole  bool      `json:"whole" doc:"Numbers are whole ones"`
		Rare   bool      `json:"rare"`
		About  string    `json:"about"`
		Min    float64   `json:"min"`
		Max    float64   `json:"max"`
		Most   int       `json:"most" doc:"How many numbers a list has at most"`
		Rest   []float64 `json:"rest"`
		Now    []float64 `json:"now" doc:"At the frame that was asked for"`
		Text   string    `json:"text" doc:"Of colours, #rrggbb or #rrggbbaa, of choices, times, wordings and faces"`
		Words  []string  `json:"words"`
		Moves  bool      `json:"moves"`
		Keys   bool      `json:"keys" doc:"It may have keys"`
		Keyed  bool      `json:"keyed" doc:"Keys take the place of where it rests"`
		// Formulas holds the formula of each number, or "".
		Formulas []string `json:"formulas"`
		Driver   string   `json:"driver" doc:"What sets it in place of its own rest"`
		Offers   bool     `json:"offers" doc:"It may be put on the sheet"`
		// Entry drives it, or the named colour that it has.
		Entry      string `json:"entry"`
		EntryLabel string `json:"entryLabel"`
		Own        bool   `json:"own" doc:"The format has a value of its own"`
		// Options are what a reference may name; Needed says that it names one always.
		Options []NamedView `json:"options"`
		Needed  bool        `json:"needed"`
		// Used says that the use of a motif through which it is looked at has a value of
		// its own.
		Used  bool   `json:"used"`
		Given bool   `json:"given" doc:"The document says something of it"`
		Named string `json:"named" doc:"The id of the named colour that it has; empty is none"`
		// In tells how a length is written; "" is no length, or not the designer's.
		In string `json:"in" enum:",px,share"`
	}
)

func layerLines(d *template.Document) []LayerLine {
	out := []LayerLine{}
	whole, err := d.Expanded()
	if err != nil {
		whole = d // told by whoever draws it
	}
	reads := readsOf(whole)
	var list func(layers []*template.Layer, depth int, late timing.Rat)
	list = func(layers []*template.Layer, depth int, late timing.Rat) {
		for _, y := range layers {
			line := LayerLine{ID: y.ID, Name: y.Name, Kind: y.Kind.Name, About: y.Kind.Label, Thread: y.Kind.Thread, Depth: depth, Pocket: y.Text(scheme.Pocket), Hidden: y.On(scheme.Hidden)}
			line.Locked, line.Holds, line.Motion = y.On(scheme.Locked), y.Can(scheme.Holds), len(y.Motion) > 0 || len(y.Formulas) > 0 || len(y.Performances()) > 0
			if u := written(d, y.ID); u != nil && u.Kind == scheme.Use { // which stands in the list as the group that it shows
				line.Kind, line.About, line.Motif = u.Kind.Name, u.Kind.Label, u.Text(scheme.Motif)
			}
			line.Layout, line.Without = y.Text(scheme.CellLayout), y.Text(scheme.Without)
			if p := d.Pocket(line.Without); p != nil {
				line.LeftOut = p.Shown() == ""
			}
			line.Matte, line.Follows = y.Text(scheme.MatteLayer), y.Text(scheme.Follow)
			if line.Reads = reads[y.ID]; line.Reads == nil {
				line.Reads = []string{}
			}
			if y.Kind == scheme.Shape {
				line.Form = y.Text(scheme.LayerForm.Kind)
			}
			late := late.Add(y.Shift())
			from, until := y.Span(d, late)
			line.From, line.Until, line.Tracks = from.Float(), until.Float(), trackLines(whole, y, late)
			line.Performs = performanceLines(whole, y, late)
			out = append(out, line)
			list(y.Layers(), depth+1, late)
		}
	}
	list(whole.Layers, 0, timing.Int(0))
	return out
}

// readsOf are the layers that formulas of layers speak of, by theirs.
func readsOf(d *template.Document) map[string][]string {
	out := map[string][]string{}
	var all map[string]bool
	d.VisitNodes(func(_, path string, n *template.Node) {
		seg := strings.SplitN(path, "/", 3)
		if seg[0] != "layers" || len(n.Formulas) == 0 {
			return
		}
		if all == nil {
			all = map[string]bool{}
			d.Visit(func(_ string, y *template.Layer) { all[y.ID] = true })
		}
		for _, f := range n.Formulas {
			for _, id := range template.Names(f) {
				if all[id] && id != seg[1] && !slices.Contains(out[seg[1]], id) {
					out[seg[1]] = append(out[seg[1]], id)
				}
			}
		}
	})
	for _, ids := range out {
		slices.Sort(ids)
	}
	return out
}

// written is a layer as the document has it, also one that is looked at in a use of a
// motif, such as "gull-two:wing".
func written(d *template.Document, id string) *template.Layer {
	return d.Layer(id[strings.LastIndexByte(id, ':')+1:])
}

// layer tells a draft's layer with its properties in a format, at a frame.
func (s *Server) layer(p pieceState, id, format string, frame int64) (LayerView, error) {
	sc, err := s.scene(p, format)
	if err != nil {
		return LayerView{}, err
	}
	doc, err := p.doc.Expanded()
	if err != nil {
		return LayerView{}, err
	}
	y := doc.Layer(id)
	if y == nil {
		return LayerView{}, store.ErrNotFound
	}
	if frame >= sc.Frames() {
		return LayerView{}, badRequest{fmt.Errorf("frame: %d is not one of the piece's %d frames", frame, sc.Frames())}
	}
	v := LayerView{ID: y.ID, Name: y.Name, Kind: y.Kind.Name, Blend: y.Text(scheme.Blend), Properties: []PropertyView{}, Stops: []ShadeView{}}
	if m := doc.Layer(y.Text(scheme.MatteLayer)); m != nil {
		v.Matte = y.Text(scheme.MatteOf) + " of " + m.Name
		if y.On(scheme.MatteInvert) {
			v.Matte = "inverted " + v.Matte
		}
	}
	if f := doc.Layer(y.Text(scheme.Follow)); f != nil {
		v.Follows = f.Name
	}
	if y.Gradient() && !y.Given(scheme.GradientNamed) {
		v.Stops = shadesOf(p.doc, y)
	}
	if y.Given(scheme.CopiesCount) {
		v.Copies = int(y.Number(scheme.CopiesCount))
	}
	look := sc.Look(id, sc.Time().At(timing.OutputFrame(frame)))
	v.Pull, v.Forms, v.Ends = look.Pull, formedViews(sc, id, frame), []geom.Point{}
	v.Sheet = []geom.Point{}
	if look.Sheet != nil {
		v.Sheet = append(look.Sheet[:], look.Middle)
	}
	if look.Ends != nil {
		v.Ends = look.Ends[:]
	}
	for _, k := range look.Properties {
		if i := slices.IndexFunc(v.Stops, func(s ShadeView) bool { return k.Of.Sort() == scheme.Stops && s.ID == k.Of.ID }); i >= 0 && k.Of.Moves(k.Property) {
			if s := &v.Stops[i]; k.Property == scheme.StopAt { // they are told as they are seen then
				s.At = k.Now[0]
			} else {
				s.Colour = scheme.RGBA{R: channel(k.Now[0]), G: channel(k.Now[1]), B: channel(k.Now[2]), A: channel(k.Now[3])}.String()
				s.Shows = s.Colour
			}
		}
		kind, shown := propertyKinds[k.Type]
		if shown {
			pv := p.property(k, kind, format)
			pv.Options = optionsOf(p.doc, y, k.Property)
			pv.In = writtenIn(p.doc, k, format)
			v.Properties = append(v.Properties, pv)
		}
	}
	return v, nil
}

// channel is one number of a colour as it is written.
func channel(v float64) uint8 { return uint8(math.Round(math.Max(0, math.Min(255, v)))) }

// writtenIn tells how a length is written in a format.
func writtenIn(d *template.Document, k scene.Shown, format string) string {
	if !k.InShares() || k.Type != scheme.Numbers || k.Of.Sort() == scheme.Pockets {
		return ""
	}
	v, given, err := d.Get(k.Path)
	if own, ok := d.Format(format).Rest[k.Path]; ok {
		v, given = own, true
	}
	switch {
	case err != nil || !given:
		return ""
	case v.Shorter != 0:
		return "share"
	}
	return "px"
}

// optionsOf are the things that a reference of a layer may name.
func optionsOf(d *template.Document, y *template.Layer, p *scheme.Property) []NamedView {
	out := []NamedView{}
	if p.Type != scheme.Ref {
		return out
	}
	own := y.ID[strings.LastIndexByte(y.ID, ':')+1:]
	switch p.To {
	case scheme.Layers:
		can := scheme.Box
		switch p {
		case scheme.MatteLayer:
			can = scheme.Blends
		case scheme.BackOf:
			can = scheme.Lettered
		}
		all := d.Visit
		if use, _, in := strings.Cut(y.ID, ":"); in { // what is in a motif hangs on what is in it
			all = func(f func(string, *template.Layer)) {
				if u := d.Layer(use); u != nil {
					for _, m := range d.Motifs {
						if m.ID == u.Text(scheme.Motif) {
							(&template.Document{Layers: m.Layers()}).Visit(f)
						}
					}
				}
			}
		}
		all(func(_ string, o *template.Layer) {
			if o.Can(can) && o.ID != own && !o.Holds(own) && !y.Holds(o.ID) {
				out = append(out, NamedView{o.ID, o.Name})
			}
		})
	case scheme.Layouts:
		for _, l := range d.Layouts {
			out = append(out, NamedView{l.ID, l.ID})
		}
	case scheme.Gradients:
		for _, g := range d.Gradients {
			out = append(out, NamedView{g.ID, g.Name})
		}
	case scheme.Pockets:
		for _, k := range d.Pockets {
			out = append(out, NamedView{k.ID, k.Name})
		}
	case scheme.SavedMoves:
		for _, m := range d.Moves {
			out = append(out, NamedView{m.ID, m.Name})
		}
	case scheme.Motifs:
		for _, m := range d.Motifs {
			out = append(out, NamedView{m.ID, m.Name})
		}
	}
	return out
}

// propertyKinds are the types of properties that panels have a control for.
var propertyKinds = map[scheme.Type]string{scheme.Numbers: "number", scheme.Colour: "colour", scheme.Choice: "choice", scheme.Switch: "switch",
	scheme.Points: "path", scheme.List: "list", scheme.Time: "time", scheme.Ref: "reference", scheme.Text: "words", scheme.Typeface: "typeface"}

// property tells one property of a layer, or of what is in it.
func (p *pieceState) property(k scene.Shown, kind, format string) PropertyView {
	pv := PropertyView{Path: k.Path, Name: k.Name, Label: k.Label, Section: k.Section, Kind: kind, Alike: k.Alike, Factor: k.Factor, Sign: k.Sign,
		Step: k.Step, Whole: k.Integer, Rare: k.Rare, About: k.Doc, Min: k.Lo, Max: k.Hi, Most: k.Property.Most, Rest: k.Rest, Now: k.Now, Text: k.Text, Words: []string{}, Options: []NamedView{}, Needed: k.Needed,
		Moves: k.Of.Moves(k.Property), Keys: k.Join != scheme.Fixed && k.Type.Live() && k.Of.Sort() != scheme.Pockets, Formulas: []string{}, Paths: []string{}, Driver: p.doc.Driver(k.Path), Offers: !k.Property.Plain && k.Type != scheme.List && k.Type != scheme.Time}
	pv.Keyed = pv.Driver == template.ByKeys
	if v, _ := k.Of.Value(k.Property); k.Type == scheme.Colour {
		pv.Named, _ = scheme.ColourID(v.Text)
	}
	e := p.doc.EntryOf(k.Path)
	if e == nil && pv.Named != "" {
		e = p.doc.EntryOf("colours/" + pv.Named)
	}
	if e != nil {
		pv.Entry, pv.EntryLabel = e.ID, e.Label
	}
	if k.Words != nil {
		pv.Words = k.Words
	}
	if s := k.Of.Sort(); k.Of.Kind != nil && s != scheme.Layers {
		pv.Section = k.Of.Kind.Label
	} else if s != scheme.Layers {
		pv.Section = strings.ToUpper(s.Name[:1]) + s.Name[1:] + " " + k.Of.ID
	}
	for i := range max(1, len(k.Property.Parts)) {
		f := k.Of.Formulas[k.Name]
		if k.Property.Parts != nil && k.Of.Formulas[k.Property.Of(i)] != "" {
			f = k.Of.Formulas[k.Property.Of(i)]
		}
		pv.Formulas = append(pv.Formulas, f)
		if k.Property.Parts == nil {
			pv.Paths = append(pv.Paths, k.Path)
		} else {
			pv.Paths = append(pv.Paths, k.Path[:strings.LastIndexByte(k.Path, '/')+1]+k.Property.Of(i))
		}
	}
	if pv.Parts = k.Property.Parts; k.Shown != nil {
		pv.Parts = k.Shown
	} else if pv.Parts == nil {
		pv.Parts = []string{""}
	}
	pv.Own = sets(p.doc.Format(format).Rest, k.Path)
	pv.Given = k.Given
	if use, inner, ok := p.doc.InUse(k.Path); ok {
		pv.Used = sets(p.doc.Layer(use).Own, inner)
	}
	return pv
}

// sets reports whether values hold one for a path, or for one of its numbers.
func sets(rest map[string]scheme.Value, path string) bool {
	for at := range rest {
		if tail, ok := strings.CutPrefix(at, path); ok && (tail == "" || tail[0] == '.') {
			return true
		}
	}
	return false
}

// documentSchema serves the JSON Schema of template documents.
func documentSchema(w http.ResponseWriter, _ *http.Request) { sendSchema(w, template.JSONSchema()) }

// valuesSchema serves the JSON Schema of what pieces of a release may hold.
func (s *Server) valuesSchema(w http.ResponseWriter, r *http.Request) {
	if d, ok := s.released(w, r); ok {
		sendSchema(w, sheet.Schema(d))
	}
}

func sendSchema(w http.ResponseWriter, schema map[string]any) {
	b, err := json.Marshal(schema)
	if err != nil {
		http.Error(w, err.Error(), http.StatusInternalServerError)
		return
	}
	w.Header().Set("Content-Type", "application/schema+json")
	w.Header().Set("Cache-Control", "no-cache")
	_, _ = w.Write(b)
}
