package server

import (
	"context"
	"encoding/json"
	"math"
	"net/http"
	"slices"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"ivypocket/access"
	"ivypocket/core/craft"
	"ivypocket/core/geom"
	"ivypocket/core/scene"
	"ivypocket/core/scheme"
	"ivypocket/core/template"
	"ivypocket/core/timing"
)

type (
	// TrackLine is what moves of a layer: a property, or a number of it, with its keys.
	TrackLine struct {
		Path  string    `json:"path" doc:"Of the property, such as layers/ring/place.x"`
		Whole string    `json:"whole" doc:"Of one of a property's numbers, that property; empty of all of them"`
		Label string    `json:"label"`
		By    string    `json:"by" doc:"The performance of a saved move that it is of; empty of keys of the layer's own"`
		Keys  []KeyLine `json:"keys"`
	}
	// PerformanceLine is what a layer does besides its own keys.
	PerformanceLine struct {
		ID    string  `json:"id"`
		Kind  string  `json:"kind" enum:"saved,plain"`
		Move  string  `json:"move" doc:"The saved move; empty of a plain one"`
		Label string  `json:"label"`
		From  float64 `json:"from" doc:"In frames of the template"`
		Until float64 `json:"until"`
		Back  bool    `json:"back"`
		Off   bool    `json:"off"`
	}
	// SavedMoveView is a move that layers perform by its name.
	SavedMoveView struct {
		NamedView
		Length float64 `json:"length" doc:"In frames, as it was saved"`
		Uses   int     `json:"uses" doc:"So often is it performed"`
		// What is a sentence about what it moves.
		What string `json:"what"`
		// Of is the template it is of, and Clip the move as it is brought from there; empty of the draft's own.
		Of   string          `json:"of"`
		Clip json.RawMessage `json:"clip,omitempty" required:"false"`
	}
	// KeyLine is a key, and how the way to the next goes.
	KeyLine struct {
		ID    string         `json:"id"`
		At    float64        `json:"at" doc:"In frames of the template"`
		Ease  *timing.Easing `json:"ease,omitempty" required:"false"`
		Steps *timing.Steps  `json:"steps,omitempty" required:"false"`
		Named string         `json:"named,omitempty" required:"false" doc:"The easing of the template that it goes by"`
		Hold  bool           `json:"hold,omitempty" required:"false"`
		// Crosses says that something changes from it on across a border of held time.
		Crosses bool `json:"crosses,omitempty" required:"false"`
	}
	// ClipsView is a clip as a layer shows it.
	ClipsView struct {
		Media  string  `json:"media" doc:"Empty where it shows no clip"`
		Frames []int64 `json:"frames" doc:"Of the clip, at each instant that was asked about; -1 where the layer is not there"`
	}
	// KeyView is a key of a curve.
	KeyView struct {
		ID    string       `json:"id"`
		At    float64      `json:"at"`
		Value []float64    `json:"value" doc:"What is seen there"`
		Text  string       `json:"text" doc:"What it is, where that is no number"`
		Speed [][2]float64 `json:"speed" doc:"Of each number in a second, before and after it"`
	}
	// CurveView is a motion over time.
	CurveView struct {
		Path  string   `json:"path"`
		Label string   `json:"label"`
		Layer string   `json:"layer"`
		Parts []string `json:"parts" doc:"The names of its numbers; one alone may have none"`
		// Counted says that it is of numbers, shown times Factor, with Sign behind them; else it is how far it has
		// come from key to key.
		Counted bool      `json:"counted"`
		Factor  float64   `json:"factor"`
		Sign    string    `json:"sign"`
		Alike   bool      `json:"alike" doc:"Its numbers may be set as one"`
		Way     bool      `json:"way" doc:"It is a place, of which the way is drawn on the stage"`
		Keys    []KeyView `json:"keys"`
		// Points are rows of an instant, in frames, the numbers then, and their speeds in a second.
		Points [][]float64 `json:"points"`
	}
)

// trackLines tells what moves of a layer that is so late.
func trackLines(d *template.Document, y *template.Layer, late timing.Rat) []TrackLine {
	out := []TrackLine{}
	borders := timing.Borders(d.Spans, d.Frames)
	list := []template.Performing{}
	for _, m := range y.Moving() {
		list = append(list, template.Performing{Moving: m})
	}
	for _, p := range append(list, d.Performing(y)...) {
		m := p.Moving
		crosses := m.Move.Crosses(late, borders)
		line := TrackLine{Path: m.Path, Label: movingLabel(m), Keys: make([]KeyLine, 0, len(m.Move.Keys))}
		if p.By != nil {
			line.By = p.By.ID
		}
		if m.Part >= 0 {
			line.Whole = strings.TrimSuffix(m.Path, "."+m.Prop.PartName(m.Part))
		}
		var passed []timing.Key // when those are that are passed on an even way
		for i, k := range m.Move.Keys {
			at := k.At
			if at.D == 0 {
				if passed == nil {
					canvas := geom.Size{W: 1920, H: 1080} // a draft may have none yet
					if len(d.Formats) > 0 {
						canvas = d.Formats[0].Canvas()
					}
					t, err := d.Track(m.Of, m.Prop, m.Part, m.Move, canvas)
					if err != nil {
						continue
					}
					passed = t.Keys()
				}
				at = passed[i].At
			}
			line.Keys = append(line.Keys, KeyLine{k.ID, at.Add(late).Float(), k.Ease, k.Steps, k.Named, k.Hold || m.Prop.Type == scheme.Choice || m.Prop.Type == scheme.Switch, slices.Contains(crosses, k.ID)})
		}
		out = append(out, line)
	}
	return out
}

// performanceLines tells what a layer that is so late performs.
func performanceLines(d *template.Document, y *template.Layer, late timing.Rat) []PerformanceLine {
	out := []PerformanceLine{}
	for _, u := range y.Performances() {
		line := PerformanceLine{ID: u.ID, Kind: u.Kind.Name, Move: u.Text(scheme.PerformedMove), Label: u.Kind.Label, Back: u.On(scheme.PerformedBack), Off: u.On(scheme.PerformedOff)}
		if m := d.Move(line.Move); m != nil {
			line.Label = m.Name
		}
		line.From = template.Begins(u).Add(late).Float()
		line.Until = line.From + u.Number(scheme.PerformedLong)
		out = append(out, line)
	}
	return out
}

// savedMoves tells the moves of a document.
func savedMoves(d *template.Document) []SavedMoveView {
	uses := map[string]int{}
	d.VisitAll(func(_ string, y *template.Layer) {
		for _, u := range y.Performances() {
			uses[u.Text(scheme.PerformedMove)]++
		}
	})
	out := []SavedMoveView{}
	for _, m := range d.Moves {
		var what []string
		for _, k := range m.Moving() {
			if label := movingLabel(k); !slices.Contains(what, label) {
				what = append(what, label)
			}
		}
		out = append(out, SavedMoveView{NamedView: NamedView{m.ID, m.Name}, Length: m.Number(scheme.MoveLong), Uses: uses[m.ID], What: strings.Join(what, ", ")})
	}
	return out
}

// movingLabel is what people call what moves: "Place", "Place x", "Feather of the mask".
func movingLabel(m template.Moving) string {
	label := m.Prop.Label
	if m.Part >= 0 {
		part := m.Prop.PartName(m.Part)
		if m.Part < len(m.Prop.Shown) && m.Prop.Shown[m.Part] != "" {
			part = m.Prop.Shown[m.Part]
		}
		label += " " + strings.ToLower(part)
	}
	switch s := m.Of.Sort(); {
	case s == scheme.Layers || s == scheme.SavedMoves:
		return label
	case m.Of.Kind != nil:
		return label + ", " + strings.ToLower(m.Of.Kind.Label)
	default:
		return label + ", " + s.Name + " " + m.Of.ID
	}
}

// most points of a curve are told, about.
const mostPoints = 6000

func curveView(d *template.Document, layer string, c *scene.Curve) CurveView {
	v := CurveView{Path: c.Path, Layer: layer, Parts: []string{""}, Counted: c.Counted(), Factor: c.Factor, Sign: c.Sign, Alike: c.Alike && c.Part < 0, Way: c.Way && c.Part < 0, Points: [][]float64{}}
	if t, err := d.Find(c.Path); err == nil && t.Node != nil {
		v.Label = movingLabel(template.Moving{Of: t.Node, Prop: t.Property, Part: t.Part})
	}
	if !v.Counted {
		v.Factor, v.Sign = 1, ""
	} else if c.Part < 0 && c.Width() > 1 {
		if v.Parts = c.Parts; c.Shown != nil {
			v.Parts = c.Shown
		}
		v.Parts = v.Parts[:min(len(v.Parts), c.Width())]
	}
	n := c.Width()
	for i, k := range c.Keys {
		at := k.At.Add(c.Late)
		key := KeyView{ID: c.IDs[i], At: at.Float(), Value: make([]float64, n), Speed: make([][2]float64, n)}
		c.Key(i, key.Value)
		switch c.Type {
		case scheme.Colour:
			key.Text = scheme.RGBA{R: uint8(k.Value[0]), G: uint8(k.Value[1]), B: uint8(k.Value[2]), A: uint8(k.Value[3])}.String()
		case scheme.Choice:
			key.Text = c.Words[int(k.Value[0])]
		case scheme.Switch:
			key.Text = map[bool]string{true: "yes", false: "no"}[k.Value[0] != 0]
		}
		if v.Counted {
			before, after := make([]float64, n), make([]float64, n)
			c.Speed(at, true, before)
			c.Speed(at, false, after)
			for j := range n {
				key.Speed[j] = [2]float64{before[j], after[j]}
			}
		}
		v.Keys = append(v.Keys, key)
		row := func(at timing.Rat, before bool) {
			r := make([]float64, 1+2*n)
			r[0] = at.Float()
			c.Value(at, r[1:1+n])
			if v.Counted {
				c.Speed(at, before, r[1+n:])
			}
			for j := range r[1:] {
				r[1+j] = math.Round(r[1+j]*1e5) / 1e5
			}
			v.Points = append(v.Points, r)
		}
		row(at, false)
		if i+1 == len(c.Keys) {
			break
		}
		next := c.Keys[i+1].At.Add(c.Late)
		switch span := next.Sub(at); {
		case k.Hold:
			r := slices.Clone(v.Points[len(v.Points)-1])
			r[0] = next.Float()
			v.Points = append(v.Points, r)
		case k.Steps != nil:
			for j := 1; j < k.Steps.Count; j++ {
				step := at.Add(span.Mul(timing.NewRat(int64(j), int64(k.Steps.Count))))
				r := slices.Clone(v.Points[len(v.Points)-1])
				r[0] = step.Float()
				v.Points = append(v.Points, r)
				row(step, false)
			}
			r := slices.Clone(v.Points[len(v.Points)-1])
			r[0] = next.Float()
			v.Points = append(v.Points, r)
		default:
			steps := int64(min(64, max(2, mostPoints/len(c.Keys))))
			for j := int64(1); j < steps; j++ {
				row(at.Add(span.Mul(timing.NewRat(j, steps))), false)
			}
			row(next, true) // how fast it comes there
			if n := len(v.Points); k.Steps == nil {
				c.Value(next, v.Points[n-1][1:])
			}
		}
	}
	return v
}

// motionRoutes serve what moves.
func (s *Server) motionRoutes() {
	add(s, access.Build, huma.Operation{OperationID: "curves", Metadata: asks, Method: http.MethodPost, Path: "/api/drafts/{id}/curves", Summary: "What moves of some layers, over time",
		Description: "With an operation, as it would move after it; nothing is changed."},
		func(ctx context.Context, in *struct {
			ID   string `path:"id"`
			Body struct {
				Format string   `json:"format"`
				Paths  []string `json:"paths" maxItems:"200" doc:"Of properties"`
				Op     *ActBody `json:"op,omitempty"`
			}
		}) (*struct{ Body []CurveView }, error) {
			p, err := s.draft(ctx, in.ID)
			if err != nil {
				return nil, s.apiError(err)
			}
			if in.Body.Op != nil {
				raw, err := json.Marshal(in.Body.Op)
				if err == nil {
					p, _, err = s.draftWould(ctx, p, raw, previewBody{})
				}
				if err != nil {
					return nil, s.apiError(err)
				}
			}
			of := s.scene
			if in.Body.Op != nil { // it is kept nowhere
				of = func(p pieceState, format string) (*scene.Scene, error) {
					return s.compile(p.shown(), p.piece.Values, format)
				}
			}
			sc, err := of(p, in.Body.Format)
			if err != nil {
				return nil, s.apiError(err)
			}
			doc, err := p.doc.Expanded()
			if err != nil {
				return nil, s.apiError(err)
			}
			out := []CurveView{}
			by := map[string][]scene.Curve{}
			for _, path := range in.Body.Paths {
				seg := strings.Split(path, "/")
				if len(seg) < 3 {
					continue
				}
				if by[seg[1]] == nil {
					by[seg[1]] = sc.Curves(seg[1])
				}
				for i := range by[seg[1]] {
					if c := &by[seg[1]][i]; c.Path == path {
						out = append(out, curveView(doc, seg[1], c))
					}
				}
			}
			return &struct{ Body []CurveView }{out}, nil
		})
	add(s, access.Build, huma.Operation{OperationID: "clips-in-time", Method: http.MethodGet, Path: "/api/drafts/{id}/clips", Summary: "Which frames of its clip a layer shows when"},
		func(ctx context.Context, in *struct {
			ID     string  `path:"id"`
			Format string  `query:"format" required:"true"`
			Layer  string  `query:"layer" required:"true"`
			At     []int64 `query:"at,explode" required:"true" maxItems:"200" doc:"Frames of the template"`
		}) (*struct{ Body ClipsView }, error) {
			p, err := s.draft(ctx, in.ID)
			if err != nil {
				return nil, s.apiError(err)
			}
			sc, err := s.scene(p, in.Format)
			if err != nil {
				return nil, s.apiError(err)
			}
			at := make([]timing.OutputFrame, len(in.At))
			for i, n := range in.At {
				at[i] = timing.OutputFrame(min(max(n, 0), sc.Frames()-1))
			}
			v := ClipsView{}
			if v.Media, v.Frames = sc.Shows(in.Layer, at); v.Frames == nil {
				v.Frames = []int64{}
			}
			return &struct{ Body ClipsView }{v}, nil
		})
	add(s, access.Build, huma.Operation{OperationID: "ready-moves", Method: http.MethodGet, Path: "/api/moves", Summary: "The ready moves and the numbers they ask for"},
		func(context.Context, *struct{}) (*struct{ Body []*craft.Move }, error) {
			return &struct{ Body []*craft.Move }{craft.Moves()}, nil
		})
	add(s, access.Build, huma.Operation{OperationID: "shelf-moves", Method: http.MethodGet, Path: "/api/drafts/{id}/moves", Summary: "Saved moves of the other templates and drafts on the shelf",
		Description: "Those that the draft has alike are left out; of several that are alike one is told."},
		func(ctx context.Context, in *struct {
			ID string `path:"id"`
		}) (*struct{ Body []SavedMoveView }, error) {
			p, err := s.draft(ctx, in.ID)
			if err != nil {
				return nil, s.apiError(err)
			}
			others, err := s.others(ctx, in.ID, func(string) bool { return true })
			if err != nil {
				return nil, s.apiError(err)
			}
			out, told := []SavedMoveView{}, map[string]bool{}
			alike := func(d *template.Document, m *template.Node) (json.RawMessage, string, error) {
				clip, err := craft.MoveClip(d, m)
				if err != nil {
					return nil, "", err
				}
				var bare map[string]any
				if err := json.Unmarshal(clip, &bare); err != nil {
					return nil, "", err
				}
				delete(bare, "id")
				text, err := json.Marshal(bare)
				return clip, string(text), err
			}
			for _, d := range append([]*template.Document{p.doc}, others...) {
				for i, v := range savedMoves(d) {
					clip, text, err := alike(d, d.Moves[i])
					if err != nil || told[text] {
						continue
					}
					if told[text] = true; d != p.doc {
						v.Of, v.Clip = d.Name, clip
						out = append(out, v)
					}
				}
			}
			return &struct{ Body []SavedMoveView }{out}, nil
		})
	add(s, access.Build, huma.Operation{OperationID: "copy-keys", Method: http.MethodGet, Path: "/api/drafts/{id}/keys", Summary: "Keys to be pasted elsewhere"},
		func(ctx context.Context, in *struct {
			ID   string   `path:"id"`
			Keys []string `query:"keys,explode" required:"true" maxItems:"10000" doc:"By their paths"`
		}) (*struct{ Body any }, error) {
			c, err := copied(ctx, s, in.ID, func(d *template.Document) (craft.KeyClip, error) { return craft.CopiedKeys(d, in.Keys) })
			return &struct{ Body any }{c}, err
		})
}
