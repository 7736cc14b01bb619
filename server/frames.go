package server

import (
	"bytes"
	"context"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"math"
	"mime/multipart"
	"net/http"
	"net/textproto"
	"strconv"
	"strings"
	"sync"

	"github.com/go-chi/chi/v5"

	"ivypocket/core/craft"
	"ivypocket/core/edit"
	"ivypocket/core/geom"
	"ivypocket/core/raster"
	"ivypocket/core/scene"
	"ivypocket/core/sheet"
	"ivypocket/core/template"
	"ivypocket/core/timing"
	"ivypocket/deliver"
	"ivypocket/media/turbo"
	"ivypocket/store"
)

type sceneKey struct {
	piece    string
	under    int64 // the revision of the draft that is tried out
	revision int64
	format   string
	alone    string // layers that alone are drawn, "" is all
	pin      string // the value of an entry at which a draft is held
}

// framed is what a frame's address stands for.
type framed struct {
	scene *scene.Scene
	frame int64
	size  scene.Size
}

// Qualities of pictures that are looked at while something moves.
const (
	playQuality  = 88
	thumbQuality = 85
)

// pool keeps surfaces and lists between requests.
var pool = sync.Pool{New: func() any { return &canvas{} }}

type canvas struct {
	list    scene.List
	ready   scene.Ready
	under   raster.Surface
	surface raster.Surface
	buf     []byte
}

// scene compiles a piece for a format, or finds it compiled.
func (s *Server) scene(p pieceState, format string) (*scene.Scene, error) {
	k := sceneKey{p.row.ID, p.under, p.row.Revision, format, p.alone, p.pinText()}
	if sc, ok := s.scenes.Get(k); ok {
		return sc, nil
	}
	sc, err := s.compile(p.shown(), p.piece.Values, format)
	if err == nil {
		s.scenes.Add(k, sc)
	}
	return sc, err
}

func (s *Server) compile(d *template.Document, v sheet.Values, format string) (*scene.Scene, error) {
	if d.Format(format) == nil {
		return nil, badRequest{fmt.Errorf("format: the template has no format named %q", format)}
	}
	r, err := sheet.Resolve(d, v)
	if err != nil {
		return nil, err
	}
	return scene.Compile(r, format, s.lib)
}

// paint paints an instant. Exact pictures read originals; others read proxies.
func (s *Server) paint(ctx context.Context, sc *scene.Scene, frame int64, size scene.Size, exact bool, c *canvas) error {
	sc.At(&c.list, sc.Time().At(timing.OutputFrame(frame)), size)
	return s.paintList(ctx, exact, c)
}

// gathering marks requests for frames that nobody waits for yet.
type gathering struct{}

// paintList makes the canvas' list ready, which may wait for decoders, and only
// then paints it under the gate.
func (s *Server) paintList(ctx context.Context, exact bool, c *canvas) error {
	return s.paintOf(ctx, exact, &c.list, c)
}

func (s *Server) paintOf(ctx context.Context, exact bool, l *scene.List, c *canvas) error {
	pictures := s.stage
	if exact && hasFootage(l, s.lib) {
		pictures = s.exact
	}
	if err := pictures.Ready(ctx, l, &c.ready); err != nil {
		return err
	}
	leave, err := s.gate.enter(ctx, ctx.Value(gathering{}) == nil)
	if err != nil {
		return err
	}
	defer leave()
	return s.painter.PaintReady(ctx, l, &c.ready, &c.surface)
}

func hasFootage(l *scene.List, lib scene.Library) bool {
	for i := range l.Items {
		if l.Items[i].Kind == scene.PictureItem {
			if info, ok := lib.Info(l.Items[i].Media); ok && info.Clip != nil {
				return true
			}
		}
	}
	return false
}

// seenSide is the longer side of the pictures by which it is told where layers are
// seen: a pointer is not surer than some pixels of a stage.
const seenSide = 320

// seen tells where layers are seen that mattes cut.
func (s *Server) seen(ctx context.Context, sc *scene.Scene, frame int64) ([]scene.Seen, error) {
	c := pool.Get().(*canvas)
	defer pool.Put(c)
	out, err := sc.Seen(sc.Time().At(timing.OutputFrame(frame)), fit(sc.Canvas(), seenSide, seenSide), func(l *scene.List) (*raster.Surface, error) {
		return &c.surface, s.paintOf(ctx, false, l, c)
	})
	if out == nil {
		out = []scene.Seen{}
	}
	return out, err
}

// under tells which layers are seen at a point of a frame, the topmost first.
func (s *Server) under(ctx context.Context, sc *scene.Scene, frame int64, at geom.Point, zoom float64) ([]string, error) {
	c := pool.Get().(*canvas)
	defer pool.Put(c)
	out, err := sc.Under(sc.Time().At(timing.OutputFrame(frame)), at, zoom, func(l *scene.List) (*raster.Surface, error) {
		return &c.surface, s.paintOf(ctx, false, l, c)
	})
	if out == nil {
		out = []string{}
	}
	return out, err
}

// best tells in how many pixels media for each pocket is sharp in all formats.
func (s *Server) best(p pieceState) (map[string]geom.Size, error) {
	out := map[string]geom.Size{}
	for _, f := range p.doc.Formats {
		sc, err := s.scene(p, f.ID)
		if err != nil {
			return nil, err
		}
		for id, b := range sc.Best() {
			out[id] = geom.Size{W: math.Max(out[id].W, b.W), H: math.Max(out[id].H, b.H)}
		}
	}
	return out, nil
}

// Frames that are looked at to tell whether a piece is clear somewhere, and how many
// pixels of one must be, in thousandths.
const (
	clearFrames = 25
	clearSide   = 96
	clearShare  = 5
)

// clear reports whether something can be seen through in a scene at some time, by
// frames spread over it.
func (s *Server) clear(ctx context.Context, sc *scene.Scene) (bool, error) {
	c := pool.Get().(*canvas)
	defer pool.Put(c)
	n := min(clearFrames, sc.Frames())
	for i := range n {
		frame := int64(0)
		if n > 1 {
			frame = i * (sc.Frames() - 1) / (n - 1)
		}
		if err := s.paint(ctx, sc, frame, fit(sc.Canvas(), clearSide, clearSide), false, c); err != nil {
			return false, err
		}
		through := 0
		for at := 3; at < len(c.surface.Pix); at += 4 {
			if c.surface.Pix[at] < 250 {
				through++
			}
		}
		if through*1000 > c.surface.W*c.surface.H*clearShare {
			return true, nil
		}
	}
	return false, nil
}

// fit is the largest size of a format within a width and height, its width
// and height whole and at least 1.
func fit(c geom.Size, w, h int) scene.Size {
	k := math.Min(1, math.Min(float64(w)/c.W, float64(h)/c.H))
	return scene.Size{W: max(1, int(math.Round(c.W*k))), H: max(1, int(math.Round(c.H*k)))}
}

// frame answers /frames/{address}.jpg and .png. What an address stands for
// never changes, so browsers keep it for ever. JPEG is quick and reads
// proxies; PNG is without loss, reads originals and equals the final render.
func (s *Server) frame(w http.ResponseWriter, r *http.Request) {
	kind := chi.URLParam(r, "kind")
	raw, err := hex.DecodeString(chi.URLParam(r, "address"))
	if err != nil || len(raw) != len(scene.Address{}) || kind != "jpg" && kind != "png" {
		problem(w, http.StatusNotFound, "This is not the address of a frame.")
		return
	}
	tag := `"` + chi.URLParam(r, "address") + `"`
	if strings.Contains(r.Header.Get("If-None-Match"), tag) {
		w.WriteHeader(http.StatusNotModified)
		return
	}
	f, ok := s.frames.Get(scene.Address(raw))
	if !ok {
		problem(w, http.StatusGone, "The server has forgotten what this address stands for; ask for the piece's frames again.")
		return
	}
	ctx := r.Context()
	if r.Header.Get("Ivy-Wait") == "idle" {
		ctx = context.WithValue(ctx, gathering{}, true)
	}
	c := pool.Get().(*canvas)
	defer pool.Put(c)
	err = s.paint(ctx, f.scene, f.frame, f.size, kind == "png", c)
	if err == nil {
		// Frames that are equal have one address; what runs on beneath them says which is meant.
		f.frame = int64(number(r, "at", int(f.frame), 0, 1<<30))
		if err = s.judge(ctx, c, r.URL.Query().Get("ground"), f); kind == "jpg" {
			c.onTheStage()
		}
	}
	if err != nil {
		s.failed(w, r, err)
		return
	}
	w.Header().Set("Cache-Control", "private, max-age=31536000, immutable")
	if s.provisional(&c.list) {
		// Frames of a clip that are still being counted may turn out otherwise.
		w.Header().Set("Cache-Control", "no-store")
	}
	w.Header().Set("ETag", tag)
	s.send(w, r, c, kind)
}

// frameRank says how soon a frame is wanted.
func frameRank(r *http.Request) (turnRank, string) {
	switch {
	case chi.URLParam(r, "kind") == "png":
		return exactTurn, "stopped frame"
	case r.Header.Get("Ivy-Wait") == "idle":
		return idleTurn, ""
	}
	return quickTurn, ""
}

// provisional reports whether a list shows a clip whose frames are not all
// known yet.
func (s *Server) provisional(l *scene.List) bool {
	for i := range l.Items {
		if m, ok := s.store.Meta(l.Items[i].Media); ok && m.Clip != nil && !m.Clip.Exact {
			return true
		}
	}
	return false
}

// judge puts a ground beneath what is clear, or shows alpha or luminance alone: "checker",
// "black", "white", "grey", "alpha", "luma", "clip:HASH", "scenes:FRAME" or "" for nothing.
func (s *Server) judge(ctx context.Context, c *canvas, ground string, f framed) error {
	p := &c.surface
	kind, media, _ := strings.Cut(ground, ":")
	switch kind {
	case "":
	case "checker":
		p.Checker(0, p.H, max(4, p.W/60))
	case "black":
		p.Over(0, p.H, 0, 0, 0)
	case "white":
		p.Over(0, p.H, 255, 255, 255)
	case "grey":
		p.Over(0, p.H, 119, 119, 119)
	case "alpha":
		p.AlphaAlone(0, p.H)
	case "luma":
		p.LumaAlone(0, p.H)
	case "clip":
		info, ok := s.lib.Info(media)
		if !ok || info.Clip == nil {
			return badRequest{fmt.Errorf("ground: %q is no clip in the store", media)}
		}
		t := f.scene.Time()
		under := canvas{}
		n := t.Source(t.At(timing.OutputFrame(f.frame)), timing.TemplateTime{Rat: timing.Int(0)}, info.Clip, timing.Play{After: timing.Loop})
		box := geom.Size{W: float64(f.size.W), H: float64(f.size.H)}
		s.thumbList(&under.list, media, int64(n), geom.DefaultFraming(geom.Cover), box, f.size)
		under.surface = c.under
		if err := s.paintList(ctx, false, &under); err != nil {
			return err
		}
		c.under = under.surface
		p.Beneath(0, p.H, &c.under)
	case "scenes":
		if err := s.samples(ctx, c, media, f); err != nil {
			return err
		}
	default:
		return badRequest{fmt.Errorf("ground: %q is not one of checker, black, white, grey, alpha, luma, clip, scenes", ground)}
	}
	if kind != "" {
		p.Opaque = true
	}
	return nil
}

// send encodes the canvas and says which footage it shows.
func (s *Server) send(w http.ResponseWriter, r *http.Request, c *canvas, kind string) {
	used := "none"
	if hasFootage(&c.list, s.lib) {
		used = "proxy"
		if kind == "png" {
			used = "original"
		}
	}
	w.Header().Set("Ivy-Footage", used)
	var err error
	if kind == "png" {
		var b bytes.Buffer
		if err = deliver.WritePNG(&b, &c.surface); err == nil {
			w.Header().Set("Content-Type", "image/png")
			w.Header().Set("Content-Length", strconv.Itoa(b.Len()))
			_, _ = w.Write(b.Bytes())
		}
	} else if c.buf, err = turbo.Encode(c.buf, &c.surface, playQuality, turbo.Full); err == nil {
		w.Header().Set("Content-Type", "image/jpeg")
		w.Header().Set("Content-Length", strconv.Itoa(len(c.buf)))
		_, _ = w.Write(c.buf)
	}
	if err != nil {
		s.failed(w, r, err)
	}
}

// poster answers with the poster frame of a piece or a draft as JPEG.
func (s *Server) poster(of looks) http.HandlerFunc {
	return func(w http.ResponseWriter, r *http.Request) {
		p, err := of.open(r.Context(), chi.URLParam(r, "id"))
		if err != nil {
			s.failed(w, r, err)
			return
		}
		s.posterOf(w, r, p.doc, p.piece.Values)
	}
}

// templatePoster answers with the poster of a template's newest release.
func (s *Server) templatePoster(w http.ResponseWriter, r *http.Request) {
	d, _, err := s.newest(r.Context(), chi.URLParam(r, "id"))
	if err != nil {
		s.failed(w, r, err)
		return
	}
	s.posterOf(w, r, d, sheet.Values{})
}

func (s *Server) posterOf(w http.ResponseWriter, r *http.Request, d *template.Document, v sheet.Values) {
	format := r.URL.Query().Get("format")
	if format == "" {
		if len(d.Formats) == 0 {
			problem(w, http.StatusNotFound, "There is no canvas yet.")
			return
		}
		format = d.Formats[0].ID
	}
	s.still(w, r, d, v, format, deliver.Job{Doc: d, Values: v}.Poster())
}

// still answers with one frame as JPEG, its longer side as asked for.
func (s *Server) still(w http.ResponseWriter, r *http.Request, d *template.Document, v sheet.Values, format string, frame int64) {
	sc, err := s.compile(d, v, format)
	if err != nil {
		s.failed(w, r, err)
		return
	}
	side := number(r, "side", 480, 16, 1920)
	c := pool.Get().(*canvas)
	defer pool.Put(c)
	if err := s.paint(r.Context(), sc, frame, fit(sc.Canvas(), side, side), false, c); err != nil {
		s.failed(w, r, err)
		return
	}
	if !c.surface.Opaque { // clear parts are seen on neutral grey
		c.surface.Over(0, c.surface.H, 0x7a, 0x7d, 0x7a)
	}
	w.Header().Set("Cache-Control", "no-cache")
	s.send(w, r, c, "jpg")
}

// number reads a whole number of the query, kept within bounds.
func number(r *http.Request, name string, otherwise, lo, hi int) int {
	v, err := strconv.Atoi(r.URL.Query().Get(name))
	if err != nil {
		v = otherwise
	}
	return min(max(v, lo), hi)
}

// pocketThumb answers with what lies in a pocket, framed as it is, in the
// proportions it has in a format.
func (s *Server) pocketThumb(of looks) http.HandlerFunc {
	return func(w http.ResponseWriter, r *http.Request) {
		p, err := of.open(r.Context(), chi.URLParam(r, "id"))
		if err != nil {
			s.failed(w, r, err)
			return
		}
		s.thumbOf(w, r, p)
	}
}

func (s *Server) thumbOf(w http.ResponseWriter, r *http.Request, p pieceState) {
	sc, err := s.scene(p, r.URL.Query().Get("format"))
	if err != nil {
		s.failed(w, r, err)
		return
	}
	pocket := chi.URLParam(r, "pocket")
	for _, st := range sc.Stands() {
		if st.Pocket != pocket {
			continue
		}
		media := (&sheet.Resolved{Doc: p.doc, Values: p.piece.Values}).Media(pocket)
		if media == "" || st.Size.Empty() {
			break
		}
		if info, ok := s.lib.Info(media); ok && info.Size.Empty() {
			problem(w, http.StatusUnprocessableEntity, noPicture)
			return
		}
		side := number(r, "side", 200, 16, 800)
		size := fit(geom.Size{W: st.Size.W * 100, H: st.Size.H * 100}, side, side)
		c := pool.Get().(*canvas)
		defer pool.Put(c)
		frame := int64(number(r, "frame", int(p.play(pocket).In), 0, 1<<30))
		s.thumbList(&c.list, media, frame, st.Framing, st.Size, size)
		if err := s.paintList(r.Context(), false, c); err != nil {
			s.failed(w, r, err)
			return
		}
		w.Header().Set("Cache-Control", "private, max-age=3600")
		s.sendThumb(w, r, c)
		return
	}
	problem(w, http.StatusNotFound, "The pocket is empty.")
}

// thumbList draws media alone, framed in a box.
func (s *Server) thumbList(l *scene.List, media string, frame int64, fr geom.Framing, box geom.Size, size scene.Size) {
	info, _ := s.lib.Info(media)
	pl := fr.Place(info.Size, box)
	if info.Clip != nil {
		frame = min(frame, info.Clip.Frames-1)
	}
	whole := geom.Box{W: float64(size.W), H: float64(size.H)}
	m := pl.Map.Then(geom.Scale(float64(size.W)/box.W, float64(size.H)/box.H))
	l.Reset(size)
	l.Items = append(l.Items, scene.Item{
		Kind: scene.PictureItem, Media: media, Frame: frame, MediaSize: info.Size, Opacity: 1, Edges: !pl.Covers,
		Form: geom.Form{Kind: geom.Rectangle, Size: whole.Size()}, Map: geom.Identity.Flat(), Content: m,
		Box: whole, RestBox: whole, Rest: m, Still: info.Clip == nil,
	})
	l.Main = 1
}

// sendThumb sends PNG when something is clear, else JPEG.
func (s *Server) sendThumb(w http.ResponseWriter, r *http.Request, c *canvas) {
	c.surface.MeasureOpaque()
	if !c.surface.Opaque {
		s.send(w, r, c, "png")
		return
	}
	var err error
	if c.buf, err = turbo.Encode(c.buf, &c.surface, thumbQuality, turbo.Half); err != nil {
		s.failed(w, r, err)
		return
	}
	w.Header().Set("Content-Type", "image/jpeg")
	_, _ = w.Write(c.buf)
}

// noPicture is said of sound where a picture was asked for.
const noPicture = "This is sound, which has no picture; listen to its file instead."

// mediaThumb answers with media as it is, within a square of a side.
func (s *Server) mediaThumb(w http.ResponseWriter, r *http.Request) {
	hash := chi.URLParam(r, "hash")
	info, ok := s.lib.Info(hash)
	if !ok {
		problem(w, http.StatusNotFound, "There is no such media in the store.")
		return
	}
	if face := s.lib.Face(hash); face != nil {
		s.faceThumb(w, r, face)
		return
	}
	if info.Size.Empty() {
		problem(w, http.StatusUnprocessableEntity, noPicture)
		return
	}
	side := number(r, "side", 200, 16, 1600)
	size := fit(geom.Size{W: info.Size.W * 100, H: info.Size.H * 100}, side, side)
	c := pool.Get().(*canvas)
	defer pool.Put(c)
	s.thumbList(&c.list, hash, int64(number(r, "frame", 0, 0, 1<<30)), geom.DefaultFraming(geom.Stretch), info.Size, size)
	if err := s.paintList(r.Context(), false, c); err != nil {
		s.failed(w, r, err)
		return
	}
	w.Header().Set("Cache-Control", "private, max-age=31536000, immutable")
	s.sendThumb(w, r, c)
}

// previewBody asks how a frame would look after an operation that is not
// carried out, if there is one: what a drag shows until the pointer is released.
type previewBody struct {
	Op json.RawMessage `json:"op"` // of the document's kind
	// Look shows one frame of the clip in a pocket, framed as it is there and as
	// large as fits, in place of the document.
	Look *struct {
		Pocket string `json:"pocket"`
		Frame  int64  `json:"frame"`
	} `json:"look"`
	Format string `json:"format"`
	Frame  int64  `json:"frame"`
	Width  int    `json:"width"`
	Height int    `json:"height"`
	Ground string `json:"ground"` // as frames have it
	Alone  string `json:"alone"`  // layers that alone are drawn, with commas between
	Forms  string `json:"forms"`  // a layer whose outlines are to be told
	// Revision shows a draft as it stood then.
	Revision *int64 `json:"revision"`
}

// previewFacts travel beside the picture, as the other part of the answer.
type previewFacts struct {
	Stands   []scene.Stand   `json:"stands"`
	Outlines []scene.Outline `json:"outlines"`
	Guides   []craft.Guide   `json:"guides"` // lines that something was drawn to
	Forms    []FormedView    `json:"forms"`
	Words    []WordsView     `json:"words"` // of that layer
}

// would is a document as it would be after an operation, and the lines that something
// was drawn to.
type would func(ctx context.Context, p pieceState, op json.RawMessage, b previewBody) (pieceState, []craft.Guide, error)

func (s *Server) pieceWould(_ context.Context, p pieceState, raw json.RawMessage, _ previewBody) (pieceState, []craft.Guide, error) {
	var body OpBody
	if err := json.Unmarshal(raw, &body); err != nil {
		return p, nil, badRequest{fmt.Errorf("op: %w", err)}
	}
	op, err := body.op()
	if err == nil {
		err = s.fits(p.doc, op)
	}
	if err == nil {
		p.piece, _, err = edit.Apply(p.doc, p.piece, op)
	}
	if err != nil {
		return p, nil, badRequest{err}
	}
	return p, nil, nil
}

func (s *Server) preview(of looks, after would) http.HandlerFunc {
	return func(w http.ResponseWriter, r *http.Request) {
		var b previewBody
		if err := json.NewDecoder(http.MaxBytesReader(w, r.Body, 1<<20)).Decode(&b); err != nil {
			problem(w, http.StatusUnprocessableEntity, "body: "+err.Error())
			return
		}
		p, err := of.open(r.Context(), chi.URLParam(r, "id"))
		if err == nil && b.Revision != nil && of.kind == store.DraftKind {
			p, err = s.draftPast(r.Context(), p, *b.Revision)
		}
		var guides []craft.Guide
		if err == nil && len(b.Op) > 0 && string(b.Op) != "null" {
			p, guides, err = after(r.Context(), p, b.Op, b)
		}
		if err == nil {
			err = s.sendPreview(w, r, p, b, guides)
		}
		if err != nil {
			s.failed(w, r, err)
		}
	}
}

func (s *Server) sendPreview(w http.ResponseWriter, r *http.Request, p pieceState, b previewBody, guides []craft.Guide) error {
	p.alone = b.Alone
	sc, err := s.compile(p.shown(), p.piece.Values, b.Format)
	if err != nil {
		return err
	}
	c := pool.Get().(*canvas)
	defer pool.Put(c)
	size := fit(sc.Canvas(), min(max(b.Width, 16), 1920), min(max(b.Height, 16), 1920))
	frame := min(max(b.Frame, 0), sc.Frames()-1)
	if b.Look != nil {
		err = s.lookAt(r.Context(), sc, &sheet.Resolved{Doc: p.doc, Values: p.piece.Values}, b.Look.Pocket, b.Look.Frame, size, c)
	} else if err = s.paint(r.Context(), sc, frame, size, false, c); err == nil {
		err = s.judge(r.Context(), c, b.Ground, framed{sc, frame, size})
		c.onTheStage()
	}
	if err != nil {
		return err
	}
	if guides == nil {
		guides = []craft.Guide{}
	}
	words := []WordsView{}
	if b.Forms != "" {
		words = wordsViews(p.doc, sc, frame, b.Forms)
	}
	return s.sendParts(w, c, previewFacts{Stands: sc.Stands(), Outlines: sc.Outlines(nil, sc.Time().At(timing.OutputFrame(frame))), Guides: guides, Forms: formedViews(sc, b.Forms, frame), Words: words})
}

// sendParts answers with a picture and what is to be known of it, as the parts
// "picture" and "facts" of a form (RFC 7578), which browsers take apart.
func (s *Server) sendParts(w http.ResponseWriter, c *canvas, facts any) error {
	var err error
	if c.buf, err = turbo.Encode(c.buf, &c.surface, playQuality, turbo.Full); err != nil {
		return err
	}
	var body bytes.Buffer
	form := multipart.NewWriter(&body)
	part := func(name, kind string) (io.Writer, error) {
		return form.CreatePart(textproto.MIMEHeader{
			"Content-Disposition": {fmt.Sprintf(`form-data; name=%q; filename=%q`, name, name)}, "Content-Type": {kind}})
	}
	p, err := part("facts", "application/json")
	if err == nil {
		err = json.NewEncoder(p).Encode(facts)
	}
	if err == nil {
		p, err = part("picture", "image/jpeg")
	}
	if err == nil {
		_, err = p.Write(c.buf)
	}
	if err = errors.Join(err, form.Close()); err != nil {
		return err
	}
	w.Header().Set("Cache-Control", "no-store")
	w.Header().Set("Content-Type", form.FormDataContentType())
	w.Header().Set("Content-Length", strconv.Itoa(body.Len()))
	_, _ = body.WriteTo(w)
	return nil
}

// surround is the grey around the picture on the stage.
var surround = [3]uint8{0x4a, 0x4d, 0x4b}

// onTheStage puts the stage's grey beneath what is clear, for pictures that can't be
// seen through.
func (c *canvas) onTheStage() {
	if c.surface.MeasureOpaque(); !c.surface.Opaque {
		c.surface.Over(0, c.surface.H, surround[0], surround[1], surround[2])
	}
}

// lookAt paints a frame of the clip in a pocket alone.
func (s *Server) lookAt(ctx context.Context, sc *scene.Scene, r *sheet.Resolved, pocket string, frame int64, size scene.Size, c *canvas) error {
	for _, st := range sc.Stands() {
		media := r.Media(pocket)
		if st.Pocket != pocket || media == "" || st.Size.Empty() {
			continue
		}
		k := math.Min(float64(size.W)/st.Size.W, float64(size.H)/st.Size.H)
		in := scene.Size{W: max(1, int(math.Round(st.Size.W*k))), H: max(1, int(math.Round(st.Size.H*k)))}
		s.thumbList(&c.list, media, frame, st.Framing, st.Size, in)
		it := &c.list.Items[0]
		move := geom.Translate(float64((size.W-in.W)/2), float64((size.H-in.H)/2))
		it.Map, it.Rest = it.Map.Then(move.Flat()), it.Rest.Then(move)
		it.Box.X, it.Box.Y = move.E, move.F
		it.RestBox = it.Box
		c.list.Size = size
		if err := s.paintList(ctx, false, c); err != nil {
			return err
		}
		c.surface.Over(0, size.H, surround[0], surround[1], surround[2])
		c.surface.Opaque = true
		return nil
	}
	return badRequest{fmt.Errorf("look: nothing lies in a pocket %q", pocket)}
}
