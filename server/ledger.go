package server

import (
	"context"
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"ivypocket/access"
	"ivypocket/core/scene"
	"ivypocket/core/scheme"
	"ivypocket/core/template"
	"ivypocket/core/timing"
	"ivypocket/store"
)

// LedgerRow is something that can be changed, of any layer, mask, treatment, stop, pocket or
// colour, however deep it lies.
type LedgerRow struct {
	Path  string `json:"path"`
	Label string `json:"label" doc:"What it is called, such as Opacity"`
	Of    string `json:"of" doc:"Whose it is, such as Ring, or Mask m1 of Ring"`
	Where string `json:"where" doc:"The groups that is in, the outermost first"`
	Layer string `json:"layer" doc:"The layer that is selected to see it; empty is none"`
	Kind  string `json:"kind" enum:"number,colour,choice,switch,path,time,reference"`
	Now   string `json:"now" doc:"Its value at the frame that was asked for, for people"`
	// By says what sets it besides its own rest: keys, a formula, an entry, a cell.
	By     []string `json:"by"`
	Given  bool     `json:"given" doc:"The document says something of it"`
	Moves  bool     `json:"moves"`
	Apart  []string `json:"apart" doc:"The names of formats that have a value of their own"`
	Offers bool     `json:"offers" doc:"It may be put on the sheet"`
	Entry  string   `json:"entry" doc:"The entry that drives it"`
	Sheet  string   `json:"sheet" doc:"What the entry is called"`
	Named  string   `json:"named" doc:"The named colour that it has"`
}

// ledger lists everything that can be changed in a draft, as it stands in a format at a frame.
func (s *Server) ledger(p pieceState, format string, frame int64) ([]LedgerRow, error) {
	sc, err := s.scene(p, format)
	if err != nil {
		return nil, err
	}
	if frame >= sc.Frames() {
		return nil, badRequest{fmt.Errorf("frame: %d is not one of the piece's %d frames", frame, sc.Frames())}
	}
	doc, err := p.doc.Expanded()
	if err != nil {
		return nil, err
	}
	where, name := map[string]string{}, map[string]string{}
	var tree func(list []*template.Layer, in string)
	tree = func(list []*template.Layer, in string) {
		for _, y := range list {
			where[y.ID], name[y.ID] = in, y.Name
			deeper := y.Name
			if in != "" {
				deeper = in + " › " + y.Name
			}
			tree(y.Layers(), deeper)
		}
	}
	tree(doc.Layers, "")
	out := []LedgerRow{}
	apart := func(path string) []string {
		names := []string{}
		for _, f := range p.doc.Formats {
			if sets(f.Rest, path) {
				names = append(names, f.Name)
			}
		}
		return names
	}
	sc.Looks(sc.Time().At(timing.OutputFrame(frame)), func(layer string, l scene.Look) {
		for _, k := range l.Properties {
			kind, shown := propertyKinds[k.Type]
			if !shown {
				continue
			}
			v := p.property(k, kind, format)
			row := LedgerRow{Path: k.Path, Label: k.Label, Of: name[layer], Where: where[layer], Layer: layer, Kind: kind, Now: says(p.doc, k), By: []string{}, Given: k.Given,
				Moves: v.Moves, Apart: apart(k.Path), Offers: v.Offers && kind != "path" && kind != "time", Entry: v.Entry, Sheet: v.EntryLabel}
			if i := slices.IndexFunc(p.doc.Colours, func(c template.Colour) bool { return c.ID == v.Named }); i >= 0 {
				row.Named = p.doc.Colours[i].Name
			}
			if k.Of.Sort() != scheme.Layers {
				row.Of = v.Section + " of " + row.Of
				if k.Of.Sort() == scheme.Masks || k.Of.Kind == nil {
					row.Of = strings.ToUpper(k.Of.Sort().Name[:1]) + k.Of.Sort().Name[1:] + " " + k.Of.ID + " of " + name[layer]
				}
				// A mask of a treatment is told from one of the layer.
				if seg := strings.Split(k.Path, "/"); len(seg) > 6 {
					if i := slices.IndexFunc(l.Properties, func(o scene.Shown) bool { return o.Path == strings.Join(seg[:4], "/")+"/off" }); i >= 0 {
						row.Of = "Mask " + k.Of.ID + " of the " + strings.ToLower(l.Properties[i].Of.Kind.Label) + " of " + name[layer]
					}
				}
			}
			if k.Of.Motion[k.Name] != nil || slices.ContainsFunc(k.Property.Parts, func(part string) bool { return k.Of.Motion[k.Name+"."+part] != nil }) {
				row.By = append(row.By, "keys")
			}
			if slices.ContainsFunc(v.Formulas, func(f string) bool { return f != "" }) {
				row.By = append(row.By, "a formula")
			}
			if v.Driver != "" && v.Entry == "" && v.Driver != "its keys" {
				row.By = append(row.By, v.Driver)
			}
			out = append(out, row)
		}
	})
	out = append(out, s.ledgerOfTemplate(p, apart)...)
	return out, nil
}

// ledgerOfTemplate lists what belongs to no layer: named colours, stops of named gradients, and
// how media lies in pockets.
func (s *Server) ledgerOfTemplate(p pieceState, apart func(string) []string) (out []LedgerRow) {
	add := func(path, label, of, kind, now string, given bool) {
		row := LedgerRow{Path: path, Label: label, Of: of, Kind: kind, Now: now, By: []string{}, Given: given, Apart: apart(path), Offers: true}
		if e := p.doc.EntryOf(path); e != nil {
			row.Entry, row.Sheet = e.ID, e.Label
		}
		out = append(out, row)
	}
	for _, c := range p.doc.Colours {
		add("colours/"+c.ID+"/value", "Colour", c.Name, "colour", c.Value, true)
	}
	for _, g := range p.doc.Gradients {
		for i, st := range g.Stops() {
			at := fmt.Sprintf("gradients/%s/stops/%s/", g.ID, st.ID)
			of := fmt.Sprintf("Stop %d of %s", i+1, g.Name)
			add(at+"at", scheme.StopAt.Label, of, "number", numbers(scheme.StopAt, st.Get(scheme.StopAt).Numbers), true)
			add(at+"colour", scheme.StopColour.Label, of, "colour", st.Text(scheme.StopColour), true)
		}
	}
	for _, k := range p.doc.Pockets {
		for _, row := range scheme.Pockets.Properties() {
			kind, shown := propertyKinds[row.Type]
			if !shown || row.Plain || row.Type == scheme.Ref {
				continue
			}
			v, given, err := p.doc.Get("pockets/" + k.ID + "/" + row.Name)
			if err != nil {
				continue
			}
			now := v.Text
			if len(v.Numbers) > 0 && !v.Truth {
				now = numbers(row, v.Numbers)
			} else if v.Truth {
				now = yesNo(v.On())
			}
			add("pockets/"+k.ID+"/"+row.Name, row.Label, k.Name, kind, now, given)
		}
	}
	return out
}

// value is one property by its path.
func (s *Server) value(p pieceState, path, format string, frame int64) (PropertyView, error) {
	seg := strings.Split(path, "/")
	if seg[0] == "layers" && len(seg) > 2 {
		v, err := s.layer(p, seg[1], format, frame)
		if i := slices.IndexFunc(v.Properties, func(v PropertyView) bool { return v.Path == path }); err == nil && i >= 0 {
			return v.Properties[i], nil
		} else if err != nil {
			return PropertyView{}, err
		}
		return PropertyView{}, store.ErrNotFound
	}
	t, err := p.doc.Find(path)
	if err != nil || p.doc.Format(format) == nil {
		return PropertyView{}, store.ErrNotFound
	}
	kind, shown := propertyKinds[t.Property.Type]
	if !shown || t.Part >= 0 {
		return PropertyView{}, store.ErrNotFound
	}
	v, given, err := p.doc.Get(path)
	if err != nil {
		return PropertyView{}, err
	}
	k := scene.Shown{Property: t.Property, Path: path, Of: template.NewNode(t.Property.Sort(), nil, ""), Rest: t.Property.Full(v), Text: v.Text, Given: given}
	if c, err := p.doc.Colour(v.Text); err == nil && t.Property.Type == scheme.Colour {
		k.Text, k.Rest = c.String(), []float64{float64(c.R), float64(c.G), float64(c.B), float64(c.A)}
	}
	if k.Rest == nil {
		k.Rest = []float64{}
	}
	k.Now = k.Rest
	out := p.property(k, kind, format)
	out.Section = ""
	return out, nil
}

func yesNo(on bool) string {
	if on {
		return "yes"
	}
	return "no"
}

// numbers are a property's as people see them: "50 %, 0 %".
func numbers(p *scheme.Property, v []float64) string {
	if p.Alike && len(v) > 1 && !slices.ContainsFunc(v, func(n float64) bool { return n != v[0] }) {
		v = v[:1]
	}
	out := make([]string, len(v))
	for i, n := range v {
		out[i] = strconv.FormatFloat(float64(int64(n*p.Factor*100+0.5*sign(n)))/100, 'f', -1, 64)
	}
	text := strings.Join(out, ", ")
	if p.Sign != "" && text != "" {
		text += " " + p.Sign
	}
	return text
}

func sign(v float64) float64 {
	if v < 0 {
		return -1
	}
	return 1
}

// says is a value at the frame for people.
func says(d *template.Document, k scene.Shown) string {
	switch k.Type {
	case scheme.Switch:
		return yesNo(len(k.Now) > 0 && k.Now[0] != 0)
	case scheme.Choice:
		if len(k.Now) == 1 && k.Slot() >= 0 {
			if i := int(k.Now[0]); i >= 0 && i < len(k.Words) && (k.Given || k.Default.Text != "") {
				return k.Words[i]
			}
		}
		return k.Text
	case scheme.Points:
		return "drawn"
	case scheme.Colour:
		if len(k.Now) == 4 && k.Text != "" {
			return scheme.RGBA{R: uint8(k.Now[0] + 0.5), G: uint8(k.Now[1] + 0.5), B: uint8(k.Now[2] + 0.5), A: uint8(k.Now[3] + 0.5)}.String()
		}
	case scheme.Ref:
		for _, o := range []string{d.Called("layers/" + k.Text + "/opacity"), d.Called("pockets/" + k.Text + "/framing.zoom")} {
			if _, of, ok := strings.Cut(o, " of "); ok {
				return of
			}
		}
	case scheme.Numbers, scheme.List:
		return numbers(k.Property, k.Now)
	}
	return k.Text
}

func (s *Server) ledgerRoutes() {
	add(s, access.Build, huma.Operation{OperationID: "ledger", Method: http.MethodGet, Path: "/api/drafts/{id}/ledger", Summary: "Everything in a draft that can be changed, as one list"},
		func(ctx context.Context, in *struct {
			ID     string `path:"id"`
			Format string `query:"format" required:"true"`
			Frame  int64  `query:"frame" minimum:"0"`
		}) (*struct{ Body []LedgerRow }, error) {
			p, err := s.draft(ctx, in.ID)
			if err != nil {
				return nil, s.apiError(err)
			}
			rows, err := s.ledger(p, in.Format, in.Frame)
			return &struct{ Body []LedgerRow }{rows}, s.apiError(err)
		})
	add(s, access.Build, huma.Operation{OperationID: "draft-value", Method: http.MethodGet, Path: "/api/drafts/{id}/value", Summary: "One thing that can be changed, with all that a field needs to show it"},
		func(ctx context.Context, in *struct {
			ID     string `path:"id"`
			Path   string `query:"path" required:"true" maxLength:"400"`
			Format string `query:"format" required:"true"`
			Frame  int64  `query:"frame" minimum:"0"`
		}) (*struct{ Body PropertyView }, error) {
			p, err := s.draft(ctx, in.ID)
			if err != nil {
				return nil, s.apiError(err)
			}
			v, err := s.value(p, in.Path, in.Format, in.Frame)
			return &struct{ Body PropertyView }{v}, s.apiError(err)
		})
}
