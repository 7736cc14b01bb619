package server

import (
	"context"
	"fmt"
	"net/http"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"ivypocket/access"
	"ivypocket/core/craft"
	"ivypocket/core/edit"
	"ivypocket/core/formula"
	"ivypocket/core/scheme"
	"ivypocket/core/template"
	"ivypocket/core/timing"
)

type (
	// FormulaView is what is known of a formula while it is written.
	FormulaView struct {
		Needs string `json:"needs" doc:"The unit of what it has to yield, or what else that is"`
		Fault string `json:"fault" doc:"What is wrong with it; empty is nothing"`
		From  int    `json:"from" doc:"Where: characters"`
		To    int    `json:"to"`
		// Mend is what should stand at a place instead.
		Mend *MendView `json:"mend,omitempty" required:"false"`
		// Ring are values that would read one another in a circle.
		Ring  []ValueName   `json:"ring"`
		Parts []FormulaPart `json:"parts" doc:"What it reads, in the order of its text"`
		// Yields is what it comes to at the frame that is looked at.
		Yields   string           `json:"yields"`
		Names    []CompletionView `json:"names" doc:"What may stand at the caret"`
		Examples []ExampleView    `json:"examples"`
		ReadBy   []ValueName      `json:"readBy" doc:"What reads this value"`
		Takes    []string         `json:"takes" doc:"In which ways a value may follow another"`
	}
	// MendView is what should stand at a place of a formula.
	MendView struct {
		From int    `json:"from"`
		To   int    `json:"to"`
		With string `json:"with"`
	}
	// ValueName is a value by its path, and what people call it.
	ValueName struct {
		Path   string `json:"path"`
		Called string `json:"called"`
		Layer  string `json:"layer" doc:"Of which layer; empty is of none"`
	}
	// FormulaPart is a name in a formula, and what it is at the frame that is looked at.
	FormulaPart struct {
		From  int    `json:"from"`
		To    int    `json:"to"`
		Text  string `json:"text"`
		Value string `json:"value" doc:"With its unit; empty while the formula can't be worked out"`
		ValueName
	}
	// CompletionView is a name that may stand in a formula.
	CompletionView struct {
		From  int    `json:"from"`
		To    int    `json:"to"`
		Text  string `json:"text"`
		Label string `json:"label"`
		About string `json:"about"`
	}
	// ExampleView is a formula to begin from.
	ExampleView struct {
		Name string `json:"name"`
		Text string `json:"text"`
	}
	// SourceView is a value that another one may be taken from.
	SourceView struct {
		Path  string `json:"path"`
		Label string `json:"label"`
		Group string `json:"group"`
		Now   string `json:"now"`
	}
)

// valueName is a value of a document by its path.
func valueName(d *template.Document, path string) ValueName {
	v := ValueName{Path: path, Called: d.Called(path)}
	if seg := strings.Split(path, "/"); seg[0] == "layers" && len(seg) > 2 {
		v.Layer = seg[1]
		if y := d.Layer(seg[1]); y != nil && strings.HasPrefix(seg[2], "box.") {
			v.Called = strings.TrimPrefix(seg[2], "box.") + " of the box of " + y.Name
		}
	} else if seg[0] == "entries" && len(seg) > 1 {
		if e := d.Sheet.Entry(seg[1]); e != nil {
			v.Called = e.Label
		}
	}
	if v.Called == "" {
		v.Called = path
	}
	return v
}

var nameForms = regexp.MustCompile(`^(\w+)\(['"]([^'"]*)['"]\)\.?(.*)$`)

// pathOfName is the path of what a formula names; "" is of what has none, such as the time.
func pathOfName(name string) string {
	m := nameForms.FindStringSubmatch(name)
	if m == nil {
		return ""
	}
	switch m[1] {
	case "layer":
		for _, part := range scheme.Layers.Parts {
			if rest, ok := strings.CutPrefix(m[3], part.Name+"."); ok {
				id, prop, _ := strings.Cut(rest, ".")
				return "layers/" + m[2] + "/" + part.Name + "/" + id + "/" + prop
			}
		}
		return "layers/" + m[2] + "/" + m[3]
	case "progress":
		return "layers/" + m[2] + "/" + scheme.Progress.Name
	case "layout":
		return "layouts/" + m[2] + "/" + m[3]
	case "entry":
		return "entries/" + m[2]
	case "colour":
		return "colours/" + m[2]
	case "value":
		return template.FullPath(m[2])
	}
	return ""
}

// said is a value for people, with its unit.
func said(v []float64, k formula.Kind, u formula.Unit, words []string) string {
	switch {
	case len(v) == 0:
		return ""
	case k == formula.ColourKind && len(v) > 3:
		return scheme.RGBA{R: uint8(v[0] + 0.5), G: uint8(v[1] + 0.5), B: uint8(v[2] + 0.5), A: uint8(v[3] + 0.5)}.String()
	case k == formula.TruthKind:
		return map[bool]string{true: "true", false: "false"}[v[0] != 0]
	case k == formula.WordKind && int(v[0]) < len(words) && v[0] >= 0:
		return words[int(v[0])]
	}
	text := strconv.FormatFloat(v[0], 'f', 2, 64)
	text = strings.TrimSuffix(strings.TrimRight(text, "0"), ".")
	if text == "-0" {
		text = "0"
	}
	for unit, sign := range map[formula.Unit]string{formula.Px: " px", formula.Degrees: "°", formula.Frames: " frames", formula.Seconds: " s"} {
		if u.Px == unit.Px && u.Deg == unit.Deg && u.Frames == unit.Frames && u.Seconds == unit.Seconds {
			return text + sign
		}
	}
	return text
}

// formula tells of a formula for a property of a draft that is being written.
func (s *Server) formula(p pieceState, path, text, format string, caret int, frame int64) (FormulaView, error) {
	v := FormulaView{Ring: []ValueName{}, Parts: []FormulaPart{}, Names: []CompletionView{}, Examples: []ExampleView{}, ReadBy: []ValueName{}, Takes: craft.Takes()}
	d := p.doc
	if whole, err := d.Expanded(); err == nil {
		d = whole // what stands in uses of motifs is named there
	}
	c, err := d.CheckFormula(path, text)
	if err != nil {
		return v, badRequest{fmt.Errorf("path: %w", err)}
	}
	v.Needs, v.Fault, v.From, v.To = c.Needs, c.Fault, c.From, c.To
	if c.Mend != nil {
		v.Mend = &MendView{c.Mend.From, c.Mend.To, c.Mend.With}
	}
	for _, path := range c.Ring {
		v.Ring = append(v.Ring, valueName(d, path))
	}
	for _, x := range c.Examples {
		v.Examples = append(v.Examples, ExampleView{x.Name, x.Text})
	}
	if caret >= 0 {
		for _, n := range d.Complete(path, text, caret) {
			v.Names = append(v.Names, CompletionView{n.From, n.To, n.Text, n.Label, n.About})
		}
	}
	r := []rune(text)
	for _, n := range c.Names {
		name := string(r[n.From:min(n.To, len(r))])
		part := FormulaPart{From: n.From, To: n.To, Text: name}
		if at := pathOfName(name); at != "" {
			part.ValueName = valueName(d, at)
		} else if rest, ok := strings.CutPrefix(name, "self."); ok {
			part.ValueName = valueName(d, path[:strings.LastIndexByte(path, '/')+1]+rest)
		}
		v.Parts = append(v.Parts, part)
	}
	sc, err := s.scene(p, format)
	if err != nil {
		return v, err
	}
	for by, list := range sc.Reads() {
		if slices.ContainsFunc(list, func(x string) bool {
			return x == path || strings.HasPrefix(x, path+".") || strings.HasPrefix(path, x+".")
		}) {
			v.ReadBy = append(v.ReadBy, valueName(d, by))
		}
	}
	slices.SortFunc(v.ReadBy, func(a, b ValueName) int { return strings.Compare(a.Path, b.Path) })
	if c.Fault != "" || strings.TrimSpace(text) == "" {
		return v, nil
	}
	// What it comes to: in the draft as it is if it has it, else in one that would.
	kept := false
	if t, err := d.Find(path); err == nil {
		kept = t.Formula() == strings.TrimSpace(text)
	}
	if !kept {
		plan, err := craft.Do(p.doc, s.lib, craft.Act{Kind: "formula", Format: format, Path: path, Name: text})
		if err != nil || plan.Op.Kind == "" {
			return v, nil // said above, or when it is kept
		}
		next, _, err := edit.DraftFrom(p.doc).Do(plan.Op)
		if err != nil {
			return v, nil
		}
		if sc, err = s.compile(next.Doc, p.piece.Values, format); err != nil {
			v.Fault = err.Error()
			return v, nil
		}
	}
	now := sc.Time().At(timing.OutputFrame(min(frame, sc.Frames()-1)))
	if got, ok := sc.Reading(path, now); ok {
		for i, n := range got.Names {
			if i < len(v.Parts) {
				v.Parts[i].Value = said(n.Value, n.Kind, n.Unit, n.Words)
			}
		}
		t, err := d.Find(path)
		if err == nil {
			k, _ := t.Property.Formula()
			v.Yields = said(got.Yields, k, t.Property.Unit, t.Property.Words)
		}
	}
	return v, nil
}

// sources lists what a value of a draft may be taken from: what a layer has, or, of no layer, what
// else there is.
func (s *Server) sources(p pieceState, path, layer, format string, frame int64) ([]SourceView, error) {
	out := []SourceView{}
	d := p.doc
	t, err := d.Find(path)
	if err != nil {
		return nil, badRequest{fmt.Errorf("path: %w", err)}
	}
	want, ok := t.Property.Formula()
	if t.Property.Type == scheme.List {
		want, ok = formula.NumberKind, true
	}
	if !ok || t.Property.Plain {
		return out, nil
	}
	add := func(from, label, group, now string) {
		if craft.CanTake(d, path, from) == nil {
			out = append(out, SourceView{from, label, group, now})
		}
	}
	if layer == "" {
		for _, e := range d.Sheet.Entries() {
			if e.Kept() {
				now := ""
				if e.Default != nil {
					now = e.Says(*e.Default)
				}
				add("entries/"+e.ID, e.Label, "Entries of the sheet", now)
			}
		}
		d.Visit(func(_ string, y *template.Layer) {
			if y.Kind == scheme.Track {
				add("layers/"+y.ID+"/"+scheme.Progress.Name, y.Name, "Progress tracks", "")
			}
		})
		if want == formula.ColourKind {
			for _, c := range d.Colours {
				add("colours/"+c.ID, c.Name, "Named colours", c.Value)
			}
			return out, nil
		}
		for _, n := range []struct{ path, label string }{{"canvas.w", "Width of the canvas"}, {"canvas.h", "Height of the canvas"}, {"time.seconds", "Seconds gone"}, {"time.frames", "Frames gone"}, {"time.share", "Share of the time gone"}} {
			add(n.path, n.label, "Canvas and time", "")
		}
		return out, nil
	}
	v, err := s.layer(p, layer, format, frame)
	if err != nil {
		return nil, err
	}
	// What is used most comes first: where it stands and how it looks, its box, and the rest.
	own := func(rare bool) {
		for _, pv := range v.Properties {
			if pv.Rare == rare && (pv.Offers || pv.Kind == "list") {
				sourcesOf(d, pv, want, add)
			}
		}
	}
	own(false)
	if want == formula.NumberKind {
		for _, b := range []struct{ name, label string }{{"w", "Width as it is seen"}, {"h", "Height as it is seen"}, {"left", "Left edge"}, {"right", "Right edge"}, {"top", "Top edge"}, {"bottom", "Bottom edge"}} {
			add("layers/"+layer+"/box."+b.name, b.label, "Its box", "")
		}
	}
	own(true)
	return out, nil
}

// sourcesOf adds what of a property another value may be taken from.
func sourcesOf(d *template.Document, pv PropertyView, want formula.Kind, add func(path, label, group, now string)) {
	group := pv.Section
	if pv.Rare {
		group = "More of " + pv.Section
	}
	switch {
	case pv.Kind == "number" && want == formula.NumberKind:
		number := func(i int) string {
			if i >= len(pv.Now) {
				return ""
			}
			return strings.TrimSpace(strconv.FormatFloat(roundTo(pv.Now[i]*pv.Factor, 2), 'f', -1, 64) + " " + pv.Sign)
		}
		if pv.Alike || len(pv.Paths) < 2 {
			add(pv.Path, pv.Label, group, number(0))
			return
		}
		for i, path := range pv.Paths {
			add(path, strings.TrimSpace(pv.Label+" "+strings.ToLower(pv.Parts[i])), group, number(i))
		}
	case pv.Kind == "colour" && want == formula.ColourKind, pv.Kind == "choice" && want == formula.WordKind, pv.Kind == "switch" && want == formula.TruthKind:
		add(pv.Path, pv.Label, group, pv.Text)
	}
}

func roundTo(v float64, places int) float64 {
	f, err := strconv.ParseFloat(strconv.FormatFloat(v, 'f', places, 64), 64)
	if err != nil {
		return v
	}
	return f
}

func (s *Server) formulaRoutes() {
	add(s, access.Build, huma.Operation{OperationID: "check-formula", Metadata: asks, Method: http.MethodPost, Path: "/api/drafts/{id}/formula", Summary: "What is wrong with a formula, what it reads and comes to, and what may stand in it",
		Description: "Nothing is changed."},
		func(ctx context.Context, in *struct {
			ID   string `path:"id"`
			Body struct {
				Path   string `json:"path" maxLength:"300" doc:"Of the property, or one of its numbers, that it is for"`
				Text   string `json:"text" maxLength:"2000"`
				Caret  int    `json:"caret" minimum:"-1" doc:"Where names are to be told: characters; -1 is nowhere"`
				Format string `json:"format"`
				Frame  int64  `json:"frame" minimum:"0"`
			}
		}) (*struct{ Body FormulaView }, error) {
			p, err := s.draft(ctx, in.ID)
			if err != nil {
				return nil, s.apiError(err)
			}
			v, err := s.formula(p, in.Body.Path, in.Body.Text, in.Body.Format, in.Body.Caret, in.Body.Frame)
			return &struct{ Body FormulaView }{v}, s.apiError(err)
		})
	add(s, access.Build, huma.Operation{OperationID: "sources", Method: http.MethodGet, Path: "/api/drafts/{id}/sources", Summary: "What a value may be taken from"},
		func(ctx context.Context, in *struct {
			ID     string `path:"id"`
			Path   string `query:"path" required:"true" maxLength:"300"`
			Layer  string `query:"layer" maxLength:"200" doc:"Whose values; empty is of none"`
			Format string `query:"format" required:"true"`
			Frame  int64  `query:"frame" minimum:"0"`
		}) (*struct{ Body []SourceView }, error) {
			p, err := s.draft(ctx, in.ID)
			if err != nil {
				return nil, s.apiError(err)
			}
			v, err := s.sources(p, in.Path, in.Layer, in.Format, in.Frame)
			return &struct{ Body []SourceView }{v}, s.apiError(err)
		})
}
