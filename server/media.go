package server

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"net/http"
	"os"
	"slices"
	"sort"
	"strconv"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/go-chi/chi/v5"
	"github.com/google/uuid"

	"ivypocket/access"
	"ivypocket/core/edit"
	"ivypocket/core/raster"
	"ivypocket/core/scheme"
	"ivypocket/core/sheet"
	"ivypocket/core/template"
	"ivypocket/core/timing"
	"ivypocket/media/sequence"
	"ivypocket/media/turbo"
	"ivypocket/store"
)

type (
	// MediumView is media with how far its proxy has grown.
	MediumView struct {
		Hash    string     `json:"hash"`
		Name    string     `json:"name"`
		Type    string     `json:"type" doc:"Kind of file, as people write it"`
		Kind    string     `json:"kind" enum:"picture,footage,sound,font"`
		Width   int        `json:"width"`
		Height  int        `json:"height"`
		Bytes   int64      `json:"bytes"`
		Rate    string     `json:"rate"`
		Frames  int64      `json:"frames"`
		Seconds float64    `json:"seconds"`
		Alpha   bool       `json:"alpha"`
		Sound   bool       `json:"sound" doc:"A clip with a sound track, which is off"`
		Uneven  bool       `json:"uneven"`
		Counted bool       `json:"counted" doc:"Every frame has been found"`
		Notes   []string   `json:"notes" doc:"What was done to bring it in"`
		Seen    [4]float64 `json:"seen" doc:"Left, top, right and bottom of what is not clear, in shares"`
		Ground  string     `json:"ground" doc:"The one colour around a picture without transparency"`
		Packs   bool       `json:"packs" doc:"It may be handed on in a package; some fonts may not"`
		Peaks   []int      `json:"peaks" doc:"Lowest and highest sample of equal parts, by turns, -127 to 127"`
		// ProxyDone is how many frames of the proxy are there.
		ProxyDone int64  `json:"proxyDone" doc:"Frames of the proxy that are there; all of them once it is whole"`
		Created   string `json:"created"`
		Used      string `json:"used" doc:"When it was last put into a pocket"`
	}
	// UseView is a place where media is used.
	UseView struct {
		Piece    string `json:"piece" doc:"Empty for a template's stand-in"`
		Template string `json:"template"`
		Name     string `json:"name"`
		Pocket   string `json:"pocket"`
		StandIn  bool   `json:"standIn"`
	}
	// SequenceView is pictures whose names differ in their number alone.
	SequenceView struct {
		sequence.Group
		Clip bool   `json:"clip" doc:"They are more likely a clip than pictures"`
		Why  string `json:"why"`
	}
	// GroupedView tells which names are numbered and belong together.
	GroupedView struct {
		Groups []SequenceView `json:"groups"`
		Rest   []string       `json:"rest"`
	}
	// StoredView is a line of the media store.
	StoredView struct {
		MediumView
		Uses []UseView `json:"uses"`
		Kept bool      `json:"kept" doc:"Something still speaks of it: a piece, a release or a render to be made"`
	}
	// StrokeView is a change of many things that is undone as one.
	StrokeView struct {
		Stroke string   `json:"stroke"`
		Pieces int      `json:"pieces"`
		Hashes []string `json:"hashes"`
		Left   []string `json:"left" doc:"What was left as it was, and why"`
	}
)

func (s *Server) mediumView(hash string) (MediumView, bool) {
	md, ok := s.store.Medium(hash)
	if !ok {
		return MediumView{}, false
	}
	m := md.Meta
	v := MediumView{Hash: md.Hash, Name: md.Name, Type: m.TypeName(), Kind: string(m.Kind), Width: m.Width, Height: m.Height, Bytes: md.Bytes,
		Alpha: m.Alpha(), Counted: counted(m), Notes: append([]string{}, m.Notes()...), Peaks: []int{}, Created: md.Created, Used: md.Used, Seen: [4]float64{0, 0, 1, 1}, Packs: m.Face == nil || m.Face.Rights.MayPack()}
	if m.Still != nil {
		v.Seen = [4]float64{m.Still.Mark.Left, m.Still.Mark.Top, m.Still.Mark.Right, m.Still.Mark.Bottom}
		v.Ground = m.Still.Mark.Ground
	}
	if m.Sequence != nil {
		seen := map[string]bool{}
		for _, p := range m.Sequence.Pictures {
			if pm, ok := s.store.Medium(p); ok && !seen[p] {
				seen[p] = true
				v.Bytes += pm.Bytes
			}
		}
	}
	if m.Sound != nil {
		v.Seconds = m.Sound.Seconds
		for _, p := range m.Sound.Peaks {
			v.Peaks = append(v.Peaks, int(p))
		}
	}
	if m.Clip != nil {
		v.Sound, v.Uneven = m.Clip.Sound, m.Clip.Uneven
	}
	if t := m.Times; t != nil {
		v.Rate, v.Frames, v.Seconds = t.Rate.Label(), t.Frames, t.Seconds().Float()
		v.ProxyDone = s.lib.Grown(hash)
		if !s.lib.HasProxy(hash) {
			v.ProxyDone = min(v.ProxyDone, v.Frames-1)
		}
	}
	return v, true
}

// upload takes one file as the body of the request; its name is in the query.
// Bodies are streamed to disk, so that a large clip takes no memory.
func (s *Server) upload(w http.ResponseWriter, r *http.Request) {
	rc := http.NewResponseController(w)
	_ = rc.SetReadDeadline(time.Time{})
	md, err := s.store.Put(r.Context(), r.URL.Query().Get("name"), r.Body)
	if err != nil {
		s.failed(w, r, err)
		return
	}
	s.TookIn(md)
	tell(r.Context(), md.Hash, "Put %s into the store", md.Name)
	v, _ := s.mediumView(md.Hash)
	w.Header().Set("Content-Type", "application/json")
	_ = writeJSON(w, v)
}

// Shelved is told when the shelf changed beside the server.
func (s *Server) Shelved() { s.hub.send(event{Type: "shelf"}) }

// Preparing says what is made ready before all is there; "" is nothing any more.
func (s *Server) Preparing(what string) {
	s.mu.Lock()
	s.preparing = what
	s.mu.Unlock()
	s.hub.send(event{Type: "trouble"})
}

// TookIn does what follows when media has come in, by the server or beside it.
func (s *Server) TookIn(md store.Medium) {
	s.lib.Offer(md.Hash, md.Meta.First)
	s.wantProxy(md)
	if md.Meta.Face != nil { // words that were set in another face for want of it are set anew
		s.scenes.Purge()
	}
	s.hub.send(event{Type: "media", ID: md.Hash, State: "new"})
}

// touch notes that media was put into pockets.
func (s *Server) touch(ctx context.Context, changes []edit.Change) {
	for _, c := range changes {
		var hash string
		if strings.HasSuffix(c.Path, "/media") && json.Unmarshal(c.After, &hash) == nil && hash != "" {
			if err := s.store.Touch(ctx, hash); err != nil {
				s.log.Error("media", "error", err)
			}
			if md, ok := s.store.Medium(hash); ok {
				s.wantProxy(md) // what somebody looks at grows first
			}
		}
	}
}

// mediaStrip answers with frames spread over a clip, side by side in one JPEG.
func (s *Server) mediaStrip(w http.ResponseWriter, r *http.Request) {
	hash := chi.URLParam(r, "hash")
	m, ok := s.store.Meta(hash)
	if !ok || m.Times == nil {
		problem(w, http.StatusNotFound, "There is no such clip in the store.")
		return
	}
	n, h := number(r, "count", 12, 1, 60), number(r, "side", 60, 16, 240)
	cell := cellOf(m.Width, m.Height, h)
	n = min(n, max(1, stripPixels/(cell.w*h)))
	pics, err := s.lib.Strip(r.Context(), hash, n, cell.pw, cell.ph)
	if err != nil {
		s.failed(w, r, err)
		return
	}
	strip := raster.NewSurface(cell.w*len(pics), h)
	for i, p := range pics {
		strip.Put(p, i*cell.w+(cell.w-cell.pw)/2, (h-cell.ph)/2)
	}
	strip.Checker(0, h, 6)
	b, err := turbo.Encode(nil, strip, thumbQuality, turbo.Half)
	if err != nil {
		s.failed(w, r, err)
		return
	}
	w.Header().Set("Cache-Control", "no-store")
	if s.lib.HasProxy(hash) {
		w.Header().Set("Cache-Control", "private, max-age=31536000, immutable")
	}
	w.Header().Set("Content-Type", "image/jpeg")
	w.Header().Set("Ivy-Strip", strconv.Itoa(len(pics)))
	_, _ = w.Write(b)
}

// stripPixels bounds a strip as a whole; a strip that would be larger has fewer
// frames.
const stripPixels = 8 << 20

// stripCell is the place of one frame on a strip, w wide, and the size of the
// picture in it.
type stripCell struct{ w, pw, ph int }

// widest is how many times as wide as high, and as high as wide, a cell is at
// most. Pictures beyond that are shown whole, with room around them.
const widest = 4

func cellOf(w, h, side int) stripCell {
	k := math.Min(float64(side)/float64(h), widest*float64(side)/float64(w))
	c := stripCell{pw: max(1, int(math.Round(float64(w)*k))), ph: max(1, int(math.Round(float64(h)*k)))}
	c.w = max(c.pw, side/widest)
	return c
}

// mediaFile hands an original out: sound to be listened to, everything else as
// a download; parts of it can be asked for (RFC 9110).
func (s *Server) mediaFile(w http.ResponseWriter, r *http.Request) {
	md, ok := s.store.Medium(chi.URLParam(r, "hash"))
	if !ok {
		problem(w, http.StatusNotFound, "There is no such media in the store.")
		return
	}
	if f := md.Meta.Face; f != nil && !f.Rights.MayShow() && !personOf(r.Context()).May(access.Build) {
		problem(w, http.StatusForbidden, "Its maker does not let "+md.Name+" be handed on.")
		return
	}
	f, err := os.Open(s.store.Path(md.Hash))
	if err != nil {
		problem(w, http.StatusConflict, "The file of "+md.Name+" is gone from the store; put the media in again.")
		return
	}
	defer f.Close()
	how, kind := "attachment", "application/octet-stream"
	if md.Meta.Sound != nil {
		how = "inline"
		kind = map[string]string{"wav": "audio/wav", "flac": "audio/flac", "mp3": "audio/mpeg", "ogg": "audio/ogg", "mov": "audio/mp4"}[string(md.Meta.Sound.Container)]
	}
	w.Header().Set("Content-Disposition", disposition(how, md.Name))
	w.Header().Set("Content-Type", kind)
	w.Header().Set("Content-Security-Policy", "sandbox; default-src 'none'")
	w.Header().Set("ETag", `"`+md.Hash[7:39]+`"`)
	w.Header().Set("Cache-Control", "private, max-age=31536000, immutable")
	http.ServeContent(w, r, "", time.Time{}, f)
}

func (s *Server) mediaRoutes() {
	add(s, access.Fill, huma.Operation{OperationID: "media", Method: http.MethodGet, Path: "/api/media", Summary: "The media store",
		Description: "What was put into a pocket last comes first, then what came in last."},
		func(ctx context.Context, in *struct {
			Search string `query:"search" maxLength:"200" doc:"Words that its name, kind or uses hold"`
			Kind   string `query:"kind" doc:"picture, footage, sound, font; several with commas"`
		}) (*struct{ Body []StoredView }, error) {
			list, err := s.stored(ctx, in.Search, in.Kind)
			return &struct{ Body []StoredView }{list}, s.apiError(err)
		})
	add(s, access.Fill, huma.Operation{OperationID: "get-medium", Method: http.MethodGet, Path: "/api/media/{hash}", Summary: "What is known of media"},
		func(_ context.Context, in *struct {
			Hash string `path:"hash"`
		}) (*struct{ Body MediumView }, error) {
			v, ok := s.mediumView(in.Hash)
			if !ok {
				return nil, s.apiError(store.ErrNotFound)
			}
			return &struct{ Body MediumView }{v}, nil
		})
	add(s, access.Fill, huma.Operation{OperationID: "rename-medium", Method: http.MethodPost, Path: "/api/media/{hash}/name", Summary: "Give media another name"},
		func(ctx context.Context, in *struct {
			Hash string `path:"hash"`
			Body struct {
				Name string `json:"name" minLength:"1" maxLength:"200"`
			}
		}) (*struct{ Body MediumView }, error) {
			tell(ctx, in.Hash, "Media renamed %s", in.Body.Name)
			if err := s.store.RenameMedium(ctx, in.Hash, in.Body.Name); err != nil {
				return nil, s.apiError(err)
			}
			s.hub.send(event{Type: "media", ID: in.Hash, State: "new"})
			v, _ := s.mediumView(in.Hash)
			return &struct{ Body MediumView }{v}, nil
		})
	add(s, access.Fill, huma.Operation{OperationID: "group-media", Metadata: asks, Method: http.MethodPost, Path: "/api/sequences/find", Summary: "Which names are numbered pictures that belong together"},
		func(_ context.Context, in *struct {
			Body struct {
				Names []string `json:"names" maxItems:"40000"`
				// Changed tells when each was written, in the order of the names.
				Changed []int64 `json:"changed,omitempty" maxItems:"40000" doc:"When each was written, in ms since 1970; 0 is not known"`
			}
		}) (*struct{ Body GroupedView }, error) {
			changed := map[string]time.Time{}
			for i, ms := range in.Body.Changed[:min(len(in.Body.Changed), len(in.Body.Names))] {
				if ms > 0 {
					changed[in.Body.Names[i]] = time.UnixMilli(ms)
				}
			}
			out := GroupedView{Groups: []SequenceView{}, Rest: []string{}}
			groups, rest := sequence.Find(in.Body.Names)
			for _, g := range groups {
				v := SequenceView{Group: g}
				v.Clip, v.Why = g.Likely(changed)
				out.Groups = append(out.Groups, v)
			}
			out.Rest = append(out.Rest, rest...)
			return &struct{ Body GroupedView }{out}, nil
		})
	add(s, access.Fill, huma.Operation{OperationID: "make-sequence", Method: http.MethodPost, Path: "/api/sequences", Summary: "Make a clip of numbered pictures in the store"},
		func(ctx context.Context, in *struct {
			Body struct {
				Name    string   `json:"name" maxLength:"200"`
				Rate    string   `json:"rate" doc:"Frames per second, such as 25 or 30000/1001"`
				Numbers []int64  `json:"numbers"`
				Hashes  []string `json:"hashes"`
				Apart   bool     `json:"apart,omitempty" doc:"The pictures are listed on their own, too"`
			}
		}) (*struct{ Body MediumView }, error) {
			rate, err := timing.ParseRate(in.Body.Rate)
			if err != nil {
				return nil, s.apiError(badRequest{fmt.Errorf("rate: %w", err)})
			}
			md, err := s.store.PutSequence(ctx, in.Body.Name, rate, in.Body.Numbers, in.Body.Hashes, in.Body.Apart)
			if err != nil {
				return nil, s.apiError(err)
			}
			s.TookIn(md)
			tell(ctx, md.Hash, "Made the clip %s of %d pictures", md.Name, len(in.Body.Hashes))
			v, _ := s.mediumView(md.Hash)
			return &struct{ Body MediumView }{v}, nil
		})
	add(s, access.Fill, huma.Operation{OperationID: "replace-media", Method: http.MethodPost, Path: "/api/media/{hash}/replace", Summary: "Put other media in its place in every piece, as one change"},
		func(ctx context.Context, in *struct {
			Who
			Hash string `path:"hash"`
			Body struct {
				With string `json:"with" doc:"Hash of the media that takes its place"`
			}
		}) (*struct{ Body StrokeView }, error) {
			v, err := s.replaceMedia(ctx, in.Hash, in.Body.With, in.Author)
			old, _ := s.store.Medium(in.Hash)
			with, _ := s.store.Medium(in.Body.With)
			tell(ctx, v.Stroke, "Replaced %s everywhere by %s", old.Name, with.Name)
			return &struct{ Body StrokeView }{v}, s.apiError(err)
		})
	add(s, access.Fill, huma.Operation{OperationID: "undo-stroke", Method: http.MethodPost, Path: "/api/strokes/{id}/undo", Summary: "Take back a change of several pieces"},
		func(ctx context.Context, in *struct {
			ID string `path:"id"`
		}) (*struct{ Body StrokeView }, error) {
			v, err := s.undoStroke(ctx, in.ID)
			return &struct{ Body StrokeView }{v}, s.apiError(err)
		})
	add(s, access.Fill, huma.Operation{OperationID: "clear-media", Method: http.MethodPost, Path: "/api/media/clear", Summary: "Clear media away that nothing uses, or bring it back",
		Description: "Files are kept for seven days, and as long as undo may need them."},
		func(ctx context.Context, in *struct {
			Body struct {
				Hashes []string `json:"hashes" doc:"Empty: all that nothing uses"`
				Back   bool     `json:"back,omitempty" doc:"Bring these back"`
			}
		}) (*struct{ Body StrokeView }, error) {
			v, err := s.clearMedia(ctx, in.Body.Hashes, in.Body.Back)
			return &struct{ Body StrokeView }{v}, s.apiError(err)
		})
}

// stored lists the media store.
func (s *Server) stored(ctx context.Context, search, kinds string) ([]StoredView, error) {
	uses, err := s.uses(ctx)
	if err != nil {
		return nil, err
	}
	kept, err := s.store.Referred(ctx, false)
	if err != nil {
		return nil, err
	}
	// Pictures of a sequence are seen through it, unless they are wanted apart.
	inside := map[string]bool{}
	for _, md := range s.store.All() {
		if md.Meta.Sequence != nil && !md.Meta.Sequence.Apart {
			for _, p := range md.Meta.Sequence.Pictures {
				inside[p] = true
			}
		}
	}
	words := strings.Fields(strings.ToLower(search))
	out := []StoredView{}
	for _, md := range s.store.All() {
		if md.Cleared != "" || inside[md.Hash] && len(uses[md.Hash]) == 0 || kinds != "" && !strings.Contains(","+kinds+",", ","+string(md.Meta.Kind)+",") {
			continue
		}
		v, _ := s.mediumView(md.Hash)
		if v.Peaks = v.Peaks[:min(len(v.Peaks), 2*1024)]; v.Kind != string(template.Sound) {
			v.Peaks = []int{}
		}
		st := StoredView{MediumView: v, Uses: uses[md.Hash], Kept: kept[md.Hash]}
		if st.Uses == nil {
			st.Uses = []UseView{}
		}
		text := strings.ToLower(v.Name + " " + v.Type + " " + v.Kind)
		for _, u := range st.Uses {
			text += " " + strings.ToLower(u.Name+" "+u.Pocket)
		}
		fits := true
		for _, w := range words {
			fits = fits && strings.Contains(text, w)
		}
		if fits {
			out = append(out, st)
		}
	}
	sort.Slice(out, func(a, b int) bool {
		x, y := out[a], out[b]
		if x.Used != y.Used {
			return x.Used > y.Used
		}
		if x.Created != y.Created {
			return x.Created > y.Created
		}
		return x.Hash < y.Hash
	})
	return out, nil
}

// uses finds where media is used: in pieces, and as stand-ins of templates.
func (s *Server) uses(ctx context.Context) (map[string][]UseView, error) {
	out := map[string][]UseView{}
	templates, err := s.releaseLines(ctx)
	if err != nil {
		return nil, err
	}
	for _, t := range templates {
		for _, k := range t.stands {
			out[k.media] = append(out[k.media], UseView{Template: t.ID, Name: t.Name, Pocket: k.pocket, StandIn: true})
		}
	}
	pieces, err := s.pieceLines(ctx)
	if err != nil {
		return nil, err
	}
	for _, p := range pieces {
		for _, k := range p.shows {
			if k.given {
				out[k.media] = append(out[k.media], UseView{Piece: p.ID, Template: p.row.Template, Name: p.Name, Pocket: k.pocket})
			}
		}
	}
	return out, nil
}

// replaceMedia puts other media in the place of some in every piece that shows
// it, as fill or as stand-in.
func (s *Server) replaceMedia(ctx context.Context, hash, with, author string) (StrokeView, error) {
	v := StrokeView{Stroke: uuid.NewString(), Hashes: []string{with}, Left: []string{}}
	other, ok := s.store.Medium(with)
	if !ok {
		return v, badRequest{fmt.Errorf("with: %s is not in the store; put it in first", with)}
	}
	if with == hash {
		return v, badRequest{errors.New("with: is the media itself; choose another")}
	}
	pieces, err := s.pieceLines(ctx)
	if err != nil {
		return v, err
	}
	// Another version of the same picture lies as the one before did.
	var keep *scheme.Value
	if was, ok := s.store.Medium(hash); ok && was.Meta.Width == other.Meta.Width && was.Meta.Height == other.Meta.Height {
		on := scheme.Is(true)
		keep = &on
	}
	for _, line := range pieces {
		if !slices.ContainsFunc(line.shows, func(k shown) bool { return k.media == hash }) {
			continue
		}
		p, err := s.piece(ctx, line.ID)
		if err != nil {
			v.Left = append(v.Left, fmt.Sprintf("%s: %s", line.Name, err))
			continue
		}
		row := p.row
		r := &sheet.Resolved{Doc: p.doc, Values: p.piece.Values}
		op := edit.Op{Kind: "batch"}
		for _, k := range p.doc.Pockets {
			if r.Media(k.ID) != hash {
				continue
			}
			if !k.Takes(other.Meta.Kind) {
				v.Left = append(v.Left, fmt.Sprintf("%s, pocket %s: takes nothing of this kind.", p.piece.Name, k.Name))
				continue
			}
			op.Ops = append(op.Ops, edit.Op{Kind: "fill", Pocket: k.ID, Media: with, Value: keep})
		}
		if len(op.Ops) == 0 {
			continue
		}
		out, err := s.store.Do(ctx, row.ID, store.Sent{ID: uuid.NewString(), Author: author, Base: row.Revision, Op: op, Stroke: v.Stroke})
		if err != nil {
			v.Left = append(v.Left, fmt.Sprintf("%s: %s", p.piece.Name, err))
			continue
		}
		v.Pieces++
		s.touch(ctx, out.Changes)
		s.hub.send(event{Type: "piece", ID: row.ID, Revision: out.Piece.Revision})
	}
	s.hub.send(event{Type: "media", ID: hash, State: "new"})
	return v, nil
}

func (s *Server) undoStroke(ctx context.Context, id string) (StrokeView, error) {
	v := StrokeView{Stroke: id, Hashes: []string{}, Left: []string{}}
	list, err := s.store.Strokes(ctx, id)
	if err == nil && len(list) == 0 {
		err = &store.NothingError{Verb: "undo"}
	}
	if err != nil {
		return v, err
	}
	for _, st := range list {
		p, err := s.piece(ctx, st.Piece)
		if gone(err) {
			continue // as it was when it was deleted
		}
		if err != nil {
			return v, err
		}
		out, err := s.store.UndoOperation(ctx, st, uuid.NewString())
		if err != nil {
			v.Left = append(v.Left, fmt.Sprintf("%s: %s", p.piece.Name, err))
			continue
		}
		v.Pieces++
		s.hub.send(event{Type: "piece", ID: st.Piece, Revision: out.Piece.Revision})
	}
	s.hub.send(event{Type: "media", State: "new"})
	return v, nil
}

func (s *Server) clearMedia(ctx context.Context, hashes []string, back bool) (StrokeView, error) {
	v := StrokeView{Hashes: []string{}, Left: []string{}}
	kept, err := s.store.Referred(ctx, false)
	if err != nil {
		return v, err
	}
	chosen := map[string]bool{}
	for _, h := range hashes {
		chosen[h] = true
	}
	for _, md := range s.store.All() {
		switch {
		case len(hashes) > 0 && !chosen[md.Hash], back && len(hashes) == 0:
		case back:
			v.Hashes = append(v.Hashes, md.Hash)
		case md.Cleared != "":
		case kept[md.Hash]:
			if len(hashes) > 0 {
				v.Left = append(v.Left, md.Name+" is in use.")
			}
		default:
			v.Hashes = append(v.Hashes, md.Hash)
			s.growth.drop(md.Hash)
		}
	}
	if err := s.store.SetCleared(ctx, v.Hashes, !back); err != nil {
		return v, err
	}
	if back {
		for _, h := range v.Hashes {
			if md, ok := s.store.Medium(h); ok {
				s.wantProxy(md)
			}
		}
	}
	sort.Strings(v.Hashes)
	s.hub.send(event{Type: "media", State: "new"})
	return v, nil
}
