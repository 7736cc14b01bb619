package media

import (
	"context"
	"errors"
	"fmt"
	"io"
	"sync"
	"time"

	"github.com/hashicorp/golang-lru/v2/simplelru"

	"ivypocket/core/raster"
	"ivypocket/core/scene"
	"ivypocket/core/words"
	"ivypocket/fonts"
	"ivypocket/media/clip"
	"ivypocket/media/face"
	"ivypocket/media/helper"
	"ivypocket/media/sequence"
	"ivypocket/media/still"
)

// Files finds checked media by hash.
type Files interface {
	// Meta returns what is known of media, its times included.
	Meta(hash string) (Meta, bool)
	// Path is where the original lies, ProxyPath where its proxy does or would.
	Path(hash string) string
	ProxyPath(hash string) string
	// Faces lists the fonts that people are offered, by their hashes.
	Faces() []words.Named
	// Whole reports whether the original is there as long as it should be.
	Whole(hash string) bool
}

// Library gives the pixels of stored media. It is safe for use by many
// goroutines.
type Library struct {
	files Files

	mu      sync.Mutex
	stills  *simplelru.LRU[string, *raster.Surface] // decoded at full size
	bytes   int
	proxies map[string]*clip.Proxy
	growing map[string]*clip.Proxy
	firsts  map[string]*raster.Surface
	traces  *simplelru.LRU[string, *raster.Trace]

	letters *words.Setter
	faces   map[string]*words.Family // of font files that were read, by hash
}

// maxTraces bounds the outlines that are kept.
const maxTraces = 512

// stillBytes bounds the pictures kept decoded at full size.
const stillBytes = 256 << 20

// NewLibrary returns a library of the given files.
func NewLibrary(files Files) *Library {
	l := &Library{files: files, proxies: map[string]*clip.Proxy{}, growing: map[string]*clip.Proxy{}, firsts: map[string]*raster.Surface{}, letters: words.NewSetter(), faces: map[string]*words.Family{}}
	l.traces, _ = simplelru.NewLRU[string, *raster.Trace](maxTraces, nil)
	l.stills, _ = simplelru.NewLRU(1<<30, func(_ string, s *raster.Surface) { l.bytes -= s.Bytes() })
	return l
}

// Close lets go of open proxies.
func (l *Library) Close() {
	l.mu.Lock()
	defer l.mu.Unlock()
	for _, p := range l.proxies {
		p.Close()
	}
	clear(l.proxies)
}

// Forget lets go of all that is kept of media whose files are removed.
func (l *Library) Forget(media string) {
	l.mu.Lock()
	defer l.mu.Unlock()
	if p := l.proxies[media]; p != nil {
		p.Close()
		delete(l.proxies, media)
	}
	l.stills.Remove(media)
	delete(l.faces, media)
}

// Info describes media to a scene.
func (l *Library) Info(media string) (scene.Info, bool) {
	m, ok := l.files.Meta(media)
	return m.Info(), ok
}

// Face finds a face that ships by its id, or a font file of the store by its hash; nil is
// none.
func (l *Library) Face(id string) *words.Family {
	if f := fonts.Family(id); f != nil {
		return f
	}
	m, ok := l.files.Meta(id)
	if !ok || m.Face == nil {
		return nil
	}
	l.mu.Lock()
	f := l.faces[id]
	l.mu.Unlock()
	if f != nil {
		return f
	}
	if !l.files.Whole(id) {
		return nil
	}
	t, err := face.Read(context.Background(), m.Face.Form, l.files.Path(id))
	if err != nil {
		return nil
	}
	l.mu.Lock()
	defer l.mu.Unlock()
	if l.faces[id] == nil { // two that ask at once get the same
		l.faces[id] = fonts.Adopt(id, t)
	}
	return l.faces[id]
}

// Named lists the faces that people are offered: those of the store, then those that ship.
func (l *Library) Named() []words.Named { return append(l.files.Faces(), fonts.Shelf{}.Named()...) }

// Letters sets wordings, and remembers what it has set.
func (l *Library) Letters() *words.Setter { return l.letters }

// Vector reports whether media can be drawn at any size.
func (l *Library) Vector(media string) bool {
	m, ok := l.files.Meta(media)
	return ok && m.Type == still.SVG
}

func (l *Library) meta(media string) (Meta, error) {
	m, ok := l.files.Meta(media)
	if !ok {
		return m, fmt.Errorf("media %s is not in the store", media)
	}
	if m.Kind != "" && m.Width == 0 {
		return m, fmt.Errorf("media %s is not a picture", media)
	}
	return m, nil
}

// GoneError says that the store knows media whose file is not there, or not
// whole.
type GoneError struct{ Media string }

func (e *GoneError) Error() string {
	return "the file of " + e.Media[:min(len(e.Media), 19)] + "… is gone from the store or damaged; put the media in again"
}

// still decodes a picture at w×h or more.
func (l *Library) still(ctx context.Context, media string, m Meta, w, h int) (*raster.Surface, error) {
	if m.Still == nil {
		return nil, fmt.Errorf("media %s is not a picture", media)
	}
	keeps := !m.Type.Shrinks()
	if keeps {
		l.mu.Lock()
		s, ok := l.stills.Get(media)
		l.mu.Unlock()
		if ok {
			return s, nil
		}
	}
	if !l.files.Whole(media) { // what is left of a file may still be decoded, to something else
		return nil, &GoneError{media}
	}
	s, err := still.Decode(ctx, m.Type, l.files.Path(media), *m.Still, w, h)
	if err != nil {
		return nil, fmt.Errorf("the picture can't be decoded: %w", err)
	}
	if keeps {
		l.mu.Lock()
		defer l.mu.Unlock()
		if s.Bytes() <= stillBytes/4 && !l.stills.Contains(media) {
			l.stills.Add(media, s)
			l.bytes += s.Bytes()
		}
		for l.bytes > stillBytes && l.stills.Len() > 1 {
			l.stills.RemoveOldest()
		}
	}
	return s, nil
}

// clip is checked footage as the room below takes it.
func (l *Library) clip(media string, m Meta) clip.Clip {
	return clip.Clip{Path: l.files.Path(media), Facts: *m.Clip, Times: *m.Times}
}

// numbered returns the picture of a sequence's frame, in the size that all of
// its frames have.
func (l *Library) numbered(ctx context.Context, list *sequence.List, frame int64, w, h int) (*raster.Surface, error) {
	if list == nil {
		return nil, errors.New("the list of the sequence is gone from the store; put the pictures in again")
	}
	hash := list.Pictures[max(0, min(frame, int64(len(list.Pictures)-1)))]
	m, err := l.meta(hash)
	if err != nil {
		return nil, err
	}
	s, err := l.still(ctx, hash, m, w, h)
	if err != nil {
		return nil, err
	}
	return s.Resize(w, h), nil
}

// frame decodes one frame of an original.
func (l *Library) frame(ctx context.Context, media string, m Meta, frame int64, w, h int) (*raster.Surface, error) {
	frame = max(0, min(frame, m.Times.Frames-1))
	if m.Clip == nil {
		return l.numbered(ctx, m.Sequence, frame, w, h)
	}
	if !l.files.Whole(media) {
		return nil, &GoneError{media}
	}
	return l.clip(media, m).Frame(ctx, frame, w, h)
}

// Stage returns a source for the stage: clips come from their proxy as far as
// it has grown, and frame by frame from the original beyond.
func (l *Library) Stage() scene.Source { return stage{l} }

type stage struct{ *Library }

// Fleeting is false: every frame is a picture of its own.
func (stage) Fleeting() bool { return false }

// Picture returns a picture or the proxy's frame of a clip.
func (s stage) Picture(ctx context.Context, media string, frame int64, w, h int) (*raster.Surface, error) {
	m, err := s.meta(media)
	if err != nil {
		return nil, err
	}
	if !m.Moves() {
		return s.still(ctx, media, m, w, h)
	}
	if p := s.proxy(media); p != nil {
		pic, err := p.Frame(frame, w, h)
		if !errors.Is(err, clip.ErrNotYet) {
			return pic, err
		}
	}
	if frame == 0 {
		if pic := s.first(media, w, h); pic != nil {
			return pic, nil
		}
	}
	return s.frame(ctx, media, m, frame, w, h)
}

// proxy returns a clip's proxy, whole or growing, or nil.
func (l *Library) proxy(media string) *clip.Proxy {
	l.mu.Lock()
	defer l.mu.Unlock()
	if p := l.proxies[media]; p != nil {
		return p
	}
	if p := l.growing[media]; p != nil {
		return p
	}
	p, err := clip.OpenProxy(l.files.ProxyPath(media))
	if err != nil {
		return nil
	}
	l.proxies[media] = p
	return p
}

// HasProxy reports whether a clip's proxy has grown to its end.
func (l *Library) HasProxy(media string) bool {
	p := l.proxy(media)
	if p == nil {
		return false
	}
	_, whole := p.Done()
	return whole
}

// Grown is how many frames of a clip's proxy are there.
func (l *Library) Grown(media string) int64 {
	p := l.proxy(media)
	if p == nil {
		return 0
	}
	n, _ := p.Done()
	return n
}

// GrowProxy builds the proxy of a clip unless it is there already. A clip whose
// frames turn out to be of another number is a *clip.CountError.
func (l *Library) GrowProxy(ctx context.Context, media string, progress func(done int64)) error {
	m, ok := l.files.Meta(media)
	if !ok || !m.Moves() || l.HasProxy(media) {
		return nil
	}
	to := l.files.ProxyPath(media)
	begin := func(p *clip.Proxy) {
		l.mu.Lock()
		l.growing[media] = p
		l.mu.Unlock()
	}
	var err error
	if m.Clip != nil {
		err = l.clip(media, m).BuildProxy(ctx, to, begin, progress)
	} else {
		err = clip.BuildPictureProxy(ctx, *m.Times, m.Width, m.Height, m.Alpha(), func(n int64) (*raster.Surface, error) {
			if n >= m.Times.Frames {
				return nil, io.EOF
			}
			return l.numbered(ctx, m.Sequence, n, m.Width, m.Height)
		}, to, begin, progress)
	}
	l.mu.Lock()
	defer l.mu.Unlock()
	p := l.growing[media]
	delete(l.growing, media)
	if err == nil && p != nil {
		l.proxies[media] = p
		delete(l.firsts, media)
	}
	return err
}

// Rescan finds the frames of a clip anew, by decoding when its packets were
// found to mislead.
func (l *Library) Rescan(ctx context.Context, media string, decode bool) (Meta, error) {
	m, err := l.meta(media)
	if err != nil || m.Clip == nil {
		return m, err
	}
	facts := *m.Clip
	scan := func() error {
		times, err := facts.Scan(ctx, l.files.Path(media), helper.Background)
		m.Times = &times
		return err
	}
	if decode {
		scan = func() error {
			times, err := facts.ScanDecoded(ctx, l.files.Path(media))
			m.Times = &times
			return err
		}
	}
	err = scan()
	m.Clip = &facts
	return m, err
}

// Originals is a source that decodes originals. It reads clips forwards, so
// it is at its best when frames are asked for in order; Close ends its
// decoders. It serves one list after another.
type Originals struct {
	*Library
	ctx     context.Context
	rank    helper.Rank
	mu      sync.Mutex
	readers []*reader
}

// reader is an open decoder of a clip at a size. Several may read one clip,
// each in another place.
type reader struct {
	media string
	w, h  int
	at    int64 // the frame it was last asked for
	used  time.Time

	mu     sync.Mutex
	frames *clip.Frames
}

// maxReaders bounds the decoders open at one time.
const maxReaders = 12

// Originals returns a source of originals whose decoders live until Close, at
// most as long as ctx.
func (l *Library) Originals(ctx context.Context, rank helper.Rank) *Originals {
	return &Originals{Library: l, ctx: ctx, rank: rank}
}

// Close ends all decoders.
func (o *Originals) Close() {
	o.mu.Lock()
	defer o.mu.Unlock()
	for _, r := range o.readers {
		r.mu.Lock()
		r.close()
		r.mu.Unlock()
	}
	o.readers = nil
}

func (r *reader) close() {
	if r.frames != nil {
		r.frames.Close()
		r.frames = nil
	}
}

// Fleeting is true: decoders lend out their pictures.
func (o *Originals) Fleeting() bool { return true }

// Picture returns a picture or a frame decoded from the original clip.
func (o *Originals) Picture(ctx context.Context, media string, frame int64, w, h int) (*raster.Surface, error) {
	m, err := o.meta(media)
	if err != nil {
		return nil, err
	}
	if !m.Moves() {
		return o.still(ctx, media, m, w, h)
	}
	frame = max(0, min(frame, m.Times.Frames-1))
	if m.Clip == nil {
		return o.numbered(ctx, m.Sequence, frame, w, h)
	}
	if !o.files.Whole(media) {
		return nil, &GoneError{media}
	}
	r := o.reader(media, frame, w, h)
	r.mu.Lock()
	defer r.mu.Unlock()
	for try := 0; ; try++ {
		if r.frames != nil && !r.frames.Reaches(frame) {
			r.close()
		}
		if r.frames == nil {
			if r.frames, err = o.clip(media, m).Open(o.ctx, o.rank, frame, w, h); err != nil {
				return nil, err
			}
		}
		last := r.frames.Last()
		s, err := r.frames.Frame(frame)
		switch {
		case err == nil:
			return s, nil
		case o.ctx.Err() != nil:
			return nil, o.ctx.Err()
		case err == io.EOF && last != nil && frame >= m.Times.Frames-2:
			return last, nil // the container promised a frame more than there is
		}
		r.close()
		if try == 1 {
			return nil, fmt.Errorf("frame %d of the clip can't be decoded", frame)
		}
	}
}

// reader finds the decoder that comes to a frame soonest, or makes room for
// another one.
func (o *Originals) reader(media string, frame int64, w, h int) *reader {
	o.mu.Lock()
	defer o.mu.Unlock()
	var best *reader
	for _, r := range o.readers {
		if r.media == media && r.w == w && r.h == h && r.at <= frame && frame <= r.at+clip.ReadAhead && (best == nil || r.at > best.at) {
			best = r
		}
	}
	if best == nil {
		if len(o.readers) >= maxReaders {
			oldest := 0
			for i, r := range o.readers {
				if r.used.Before(o.readers[oldest].used) {
					oldest = i
				}
			}
			r := o.readers[oldest]
			r.mu.Lock()
			r.close()
			r.mu.Unlock()
			o.readers = append(o.readers[:oldest], o.readers[oldest+1:]...)
		}
		best = &reader{media: media, w: w, h: h}
		o.readers = append(o.readers, best)
	}
	best.at, best.used = frame, time.Now()
	return best
}

// Single is a source like Originals that decodes each frame of a clip on its
// own, for frames looked at in any order.
func (l *Library) Single() scene.Source { return single{l} }

type single struct{ *Library }

// Fleeting is false: every frame is a picture of its own.
func (single) Fleeting() bool { return false }

// Picture returns a picture or a frame decoded from the original clip.
func (s single) Picture(ctx context.Context, media string, frame int64, w, h int) (*raster.Surface, error) {
	m, err := s.meta(media)
	if err != nil {
		return nil, err
	}
	if !m.Moves() {
		return s.still(ctx, media, m, w, h)
	}
	return s.frame(ctx, media, m, frame, w, h)
}

// Strip returns n frames spread evenly over a clip, at the middle of each part,
// small. It is quick also when there is no proxy yet: frames may then be the
// nearest that can be had without decoding much.
func (l *Library) Strip(ctx context.Context, media string, n, w, h int) ([]*raster.Surface, error) {
	m, err := l.meta(media)
	if err != nil || m.Times == nil {
		return nil, err
	}
	n = int(min(int64(n), m.Times.Frames))
	frames := make([]int64, n)
	for i := range frames {
		frames[i] = int64(m.Times.FrameAt(m.Times.End * int64(2*i+1) / int64(2*n)))
	}
	out := make([]*raster.Surface, n)
	p := l.proxy(media)
	var missing []int64 // what the proxy does not have yet, and where it goes
	var at []int
	for i, f := range frames {
		s, err := (*raster.Surface)(nil), error(clip.ErrNotYet)
		switch {
		case m.Clip == nil:
			s, err = l.numbered(ctx, m.Sequence, f, w, h)
		case p != nil:
			s, err = p.Frame(f, w, h)
		}
		switch {
		case errors.Is(err, clip.ErrNotYet):
			missing, at = append(missing, f), append(at, i)
		case err != nil:
			return nil, err
		default:
			out[i] = s.Resize(w, h)
		}
	}
	if len(missing) == 0 {
		return out, nil
	}
	return out, l.fillStrip(ctx, media, m, out, missing, at, w, h)
}

// fillStrip decodes what a strip still lacks: of several frames behind one key
// frame that key frame once, and the first frame not at all if it is kept.
func (l *Library) fillStrip(ctx context.Context, media string, m Meta, out []*raster.Surface, missing []int64, at []int, w, h int) error {
	var ask []int64
	of := make([]int, len(missing)) // which of those asked for; -1 is the first frame
	first := l.first(media, w, h)
	for i, f := range missing {
		key, known := m.Clip.Key(f)
		if known && m.Times.Frames > clip.ReadThrough {
			f = key
		}
		switch {
		case known && key == 0 && f == 0 && first != nil:
			of[i] = -1
		case len(ask) > 0 && ask[len(ask)-1] == f:
			of[i] = len(ask) - 1
		default:
			of[i] = len(ask)
			ask = append(ask, f)
		}
	}
	var got []*raster.Surface
	if len(ask) > 0 {
		var err error
		if got, err = l.clip(media, m).Strip(ctx, ask, w, h); err != nil {
			return err
		}
	}
	for i, k := range at {
		if of[i] < 0 {
			out[k] = first.Resize(w, h)
		} else {
			out[k] = got[min(of[i], len(got)-1)]
		}
	}
	return nil
}

// maxFirsts bounds the first frames that are kept of clips without a proxy.
const maxFirsts = 24

// Offer keeps a clip's first frame, as Inspect decoded it, until its proxy has
// grown: it is what people look at first.
func (l *Library) Offer(media string, s *raster.Surface) {
	if s == nil {
		return
	}
	l.mu.Lock()
	defer l.mu.Unlock()
	for k := range l.firsts {
		if len(l.firsts) < maxFirsts {
			break
		}
		delete(l.firsts, k)
	}
	l.firsts[media] = s
}

// first returns the first frame if it is kept and large enough.
func (l *Library) first(media string, w, h int) *raster.Surface {
	l.mu.Lock()
	defer l.mu.Unlock()
	s := l.firsts[media]
	if s == nil || s.W < w*9/10 || s.H < h*9/10 {
		return nil
	}
	return s
}
