package server

import (
	"context"
	"fmt"
	"net/http"
	"slices"
	"strings"

	"github.com/danielgtaylor/huma/v2"
	"github.com/go-chi/chi/v5"

	"ivypocket/access"
	"ivypocket/core/geom"
	"ivypocket/core/scene"
	"ivypocket/core/scheme"
	"ivypocket/core/sheet"
	"ivypocket/core/template"
	"ivypocket/core/timing"
	"ivypocket/core/words"
	"ivypocket/fonts"
)

type (
	// WordsView is what a layer says at a frame, and where each letter stands: places are px
	// of the layer's box, from its top left corner.
	WordsView struct {
		Layer string `json:"layer"`
		Path  string `json:"path" doc:"The path of its wording, such as layers/ID/text"`
		Text  string `json:"text"`
		// Entry sets the wording; "" is none. Lines is how many lines may be typed there, Letters
		// how many letters.
		Entry   string `json:"entry"`
		Lines   int    `json:"lines"`
		Letters int    `json:"letters"`
		Shown   bool   `json:"shown"`
		// Map takes places to px of the canvas: x' = (a·x + c·y + e) ÷ (g·x + h·y + i), in the
		// order of the letters.
		Map [9]float64 `json:"map"`
		// Box is what the words fill: left, top, width, height.
		Box  [4]float64 `json:"box"`
		Size float64    `json:"size" doc:"px that fitting found"`
		// Rows are its lines: left, right, top, bottom and baseline of each.
		Rows [][5]float64 `json:"rows"`
		// Marks are its letters in the order in which they are read: the first and the last but
		// one of the UTF-16 units of the wording that each shows, its line, its left side and its
		// width; a negative width is a letter that is read from right to left.
		Marks [][5]float64 `json:"marks"`
		Over  bool         `json:"over" doc:"They don't fit their box"`
		Short bool         `json:"short" doc:"Their end is left out"`
		// Missing are letters that no face has, StandIns the faces that stand in for others.
		Missing  string   `json:"missing"`
		StandIns []string `json:"standIns"`
		Stray    bool     `json:"stray" doc:"There are stray blanks, tabs or line ends in it"`
		FaceGone bool     `json:"faceGone" doc:"Their face is not there, and another stands in"`
	}
	// FaceView is a face that people are offered.
	FaceView struct {
		ID   string `json:"id"`
		Name string `json:"name"`
		Sort string `json:"sort" doc:"What it looks like, in a word or two"`
		// Files are its font files, to be had at /api/fonts/NAME.
		Files  []FontFile `json:"files"`
		Least  float64    `json:"least" doc:"The lightest weight"`
		Most   float64    `json:"most" doc:"The heaviest"`
		Italic bool       `json:"italic"`
		Axes   []AxisView `json:"axes" doc:"What it can be changed along, besides its weight"`
	}
	// FontFile is a file of a face.
	FontFile struct {
		Name   string `json:"name"`
		Italic bool   `json:"italic"`
	}
	// AxisView is an axis of a variable face.
	AxisView struct {
		Tag   string  `json:"tag"`
		Name  string  `json:"name"`
		Least float64 `json:"least"`
		Rest  float64 `json:"rest"`
		Most  float64 `json:"most"`
	}
)

// wordsViews tell what layers say on a frame; one is a layer that alone is told, "" all.
func wordsViews(d *template.Document, sc *scene.Scene, frame int64, one string) []WordsView {
	out := []WordsView{}
	for _, said := range sc.Said(sc.Time().At(timing.OutputFrame(frame))) {
		if one != "" && said.Layer != one {
			continue
		}
		m, b := said.Map, said.Set.Box
		v := WordsView{Layer: said.Layer, Path: "layers/" + said.Layer + "/" + scheme.Wording.Text.Name, Text: said.Text, Shown: said.Shown, Lines: template.MaxLines, Letters: scheme.Wording.Text.Most,
			Map: [9]float64{m.A, m.B, m.C, m.D, m.E, m.F, m.G, m.H, m.I}, Box: [4]float64{b.X, b.Y, b.W, b.H}, Size: said.Set.Size, Rows: [][5]float64{}, Marks: [][5]float64{},
			Over: said.Set.Over, Short: said.Set.Short, Missing: string(said.Set.Missing), StandIns: said.Set.StandIns, FaceGone: said.Missing, Stray: words.Tidy(said.Text) != said.Text}
		if v.StandIns == nil {
			v.StandIns = []string{}
		}
		if e := d.EntryOf(v.Path); e != nil {
			v.Entry = e.ID
			v.Letters, v.Lines = e.Limit()
		}
		for _, l := range said.Set.Lines {
			v.Rows = append(v.Rows, [5]float64{l.Left, l.Right, l.Top, l.Bottom, l.Baseline})
		}
		units := unitsOf(said.Text)
		for _, l := range said.Set.Letters {
			w := l.Advance
			if l.RTL {
				w = -w
			}
			v.Marks = append(v.Marks, [5]float64{float64(units[min(l.From, len(units)-1)]), float64(units[min(l.To, len(units)-1)]), float64(l.Line), l.X, w})
		}
		out = append(out, v)
	}
	return out
}

// unitsOf tells for each letter of a text, and for its end, how many UTF-16 units come
// before it: browsers count in them.
func unitsOf(text string) []int {
	out := []int{0}
	for _, r := range text {
		n := 1
		if r > 0xffff {
			n = 2
		}
		out = append(out, out[len(out)-1]+n)
	}
	return out
}

// faceThumb shows a font by a few of its letters, or the first that it has.
func (s *Server) faceThumb(w http.ResponseWriter, r *http.Request, face *words.Family) {
	side := number(r, "side", 200, 16, 1600)
	size := scene.Size{W: side, H: side * 5 / 8}
	const room = 0.1 // at each side, as a share of the height
	spec := words.Spec{Text: face.Sample(), Style: words.Style{Family: face}, Size: float64(size.H) * 0.62, Least: 4, Leading: 1.2, Align: words.Centre, Stand: words.Middle,
		By: []words.Means{words.BySize}, Lines: 1, W: float64(size.W) * (1 - 2*room), H: float64(size.H) * (1 - 2*room)}
	set := s.lib.Letters().Set(&spec)
	c := pool.Get().(*canvas)
	defer pool.Put(c)
	c.list.Reset(size)
	whole := geom.Box{W: float64(size.W), H: float64(size.H)}
	c.list.Items = append(c.list.Items,
		scene.Item{Kind: scene.GroundItem, Opacity: 1, Colour: [4]uint8{0xfb, 0xf8, 0xf1, 0xff}, Map: geom.Identity.Flat(), Box: whole},
		scene.Item{Kind: scene.FillItem, Opacity: 1, Colour: [4]uint8{0x22, 0x30, 0x2a, 0xff}, Form: geom.Form{Kind: geom.Lettered, Size: whole.Size(), Letters: set.Whole()},
			Map: geom.Translate(whole.W*room, whole.H*room).Flat(), Box: whole})
	c.list.Main = 2
	if err := s.paintList(r.Context(), false, c); err != nil {
		s.failed(w, r, err)
		return
	}
	w.Header().Set("Cache-Control", "private, max-age=31536000, immutable")
	s.sendThumb(w, r, c)
}

func (s *Server) wordRoutes() {
	for _, of := range s.kinds() {
		add(s, of.right, huma.Operation{OperationID: of.op("words"), Method: http.MethodGet, Path: of.path + "/words", Summary: "What layers say on a frame, and where each letter stands"},
			func(ctx context.Context, in *struct {
				ID     string `path:"id"`
				Format string `query:"format" required:"true"`
				Frame  int64  `query:"frame" minimum:"0"`
				Layer  string `query:"layer" doc:"One of them alone"`
			}) (*struct{ Body []WordsView }, error) {
				p, sc, err := s.opened(ctx, of, in.ID, in.Format)
				if err != nil {
					return nil, s.apiError(err)
				}
				return &struct{ Body []WordsView }{wordsViews(p.doc, sc, min(in.Frame, sc.Frames()-1), in.Layer)}, nil
			})
	}
	add(s, access.Fill, huma.Operation{OperationID: "tidy-words", Method: http.MethodPost, Path: "/api/words/tidy", Summary: "What is pasted, without what does not belong in a wording",
		Description: "Tabs, doubled blanks, line ends of other systems and byte order marks are taken out; where there is room for one line, it is put on one."},
		func(_ context.Context, in *struct {
			Body struct {
				Text  string `json:"text" maxLength:"20000"`
				Lines int    `json:"lines" minimum:"1" maximum:"50"`
			}
		}) (*struct {
			Body struct {
				Text string `json:"text"`
			}
		}, error) {
			out := &struct {
				Body struct {
					Text string `json:"text"`
				}
			}{}
			out.Body.Text = words.Tidy(in.Body.Text)
			if in.Body.Lines == 1 {
				out.Body.Text = words.Tidy(strings.ReplaceAll(out.Body.Text, "\n", " "))
			}
			return out, nil
		})
	add(s, access.Fill, huma.Operation{OperationID: "faces", Method: http.MethodGet, Path: "/api/faces", Summary: "The faces that words may be set in"},
		func(context.Context, *struct{}) (*struct{ Body []FaceView }, error) {
			return &struct{ Body []FaceView }{s.faces()}, nil
		})
}

// facesGone names the fonts that a document's words are set in and the store has not.
func (s *Server) facesGone(d *template.Document, v sheet.Values) []string {
	out := []string{}
	if r, err := sheet.Resolve(d, v); err == nil {
		d = r.Doc
	}
	d.VisitAll(func(_ string, y *template.Layer) {
		id := y.Text(scheme.Wording.Face)
		if !y.Can(scheme.Lettered) || s.lib.Face(id) != nil {
			return
		}
		name := id
		for _, m := range d.Media {
			if m.Hash == id {
				name = m.Name
			}
		}
		if !slices.Contains(out, name) {
			out = append(out, name)
		}
	})
	return out
}

// faces lists those that people are offered.
func (s *Server) faces() []FaceView {
	out := []FaceView{}
	for _, f := range s.lib.Named() {
		fam := s.lib.Face(f.ID)
		if fam == nil {
			continue // its file is gone
		}
		v := FaceView{ID: f.ID, Name: f.Name, Sort: f.Sort, Files: []FontFile{}, Axes: []AxisView{}, Italic: fam.HasItalic()}
		v.Least, v.Most = fam.Weights()
		if m, own := s.store.Meta(f.ID); !own {
			for _, name := range fonts.FilesOf(f.ID) {
				v.Files = append(v.Files, FontFile{name, fonts.Italic(name)})
			}
		} else if m.Face.Rights.MayShow() {
			v.Files = append(v.Files, FontFile{f.ID, false}) // what it is alone in, it is upright in
		}
		for _, a := range fam.Axes() {
			v.Axes = append(v.Axes, AxisView{a.Tag, a.Name, a.Least, a.Rest, a.Most})
		}
		out = append(out, v)
	}
	return out
}

// font serves a font file that ships, or one of the store that browsers may be given. Its
// name says what it is: it never changes.
func (s *Server) font(w http.ResponseWriter, r *http.Request) {
	name := strings.TrimSuffix(chi.URLParam(r, "name"), ".woff")
	if m, ok := s.store.Meta(name); ok && m.Face != nil && m.Face.Rights.MayShow() {
		w.Header().Set("Content-Type", m.Face.Form.MIME())
		w.Header().Set("Cache-Control", "private, max-age=86400")
		http.ServeFile(w, r, s.store.Path(name))
		return
	}
	if !slices.ContainsFunc(fonts.Faces, func(f fonts.Face) bool { return slices.Contains(f.Files, name) }) {
		problem(w, http.StatusNotFound, fmt.Sprintf("there is no font file %q", name))
		return
	}
	b, err := fonts.File(name)
	if err != nil {
		s.failed(w, r, err)
		return
	}
	w.Header().Set("Content-Type", "font/woff")
	w.Header().Set("Cache-Control", "private, max-age=86400")
	_, _ = w.Write(b)
}
